/* Wiring faults: every kind at every place it can have, on the demo boards. scripts/test runs a
 * seeded sample, scripts/test-long all (RMG_TEST_ALL=1). Only the wiring checks speak here: the
 * march reads nothing. */
#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "temporary.h"
#include "suites.h"

static const uint8_t no_march[] = {0};

/* A case: what is wrong, and what must be reported. */
typedef struct wiring_case {
    gchar *title;
    rmg_sim_fault faults[2];
    size_t count;
    rmg_finding_kind kind;
    uint16_t socket; /* or RMG_NO_SOCKET */
    uint8_t bank;    /* or RMG_NO_BANK */
    rmg_word bits;   /* 0: not looked at */
    rmg_addr lines;
} wiring_case;

typedef struct maker {
    const rmg_board *board;
    GArray *cases; /* of wiring_case */
} maker;

static uint64_t dice_state;

static uint64_t dice(uint64_t below)
{
    return bench_dice(&dice_state, below);
}

static bool is_ram(const rmg_board *board, const rmg_rule *rule)
{
    const rmg_region *region = rmg_board_region_at(board, rule->where.first);

    return region && region->kind == RMG_REGION_RAM;
}

/* Puts the chips of one bank (RMG_NO_BANK: of all) into the fault's scope. */
static void scope_bank(const rmg_board *board, rmg_sim_fault *f, uint8_t bank)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (bank == RMG_NO_BANK || board->placement.rules[r].bank == bank)
            rmg_fault_include(f, board->placement.rules[r].socket);
}

static void add(maker *m, wiring_case c, const char *title, unsigned a, unsigned b)
{
    c.title = g_strdup_printf("%s: %s (%u, %u)", m->board->name, title, a, b);
    c.count = c.count ? c.count : 1;
    g_array_append_val(m->cases, c);
}

/* Data lines at each chip. */
static void data_at_chip(maker *m, const rmg_rule *rule)
{
    for (uint8_t i = 0; i < rule->width; i++) {
        const uint8_t bit = rule->data_bits[i];
        wiring_case c = {.kind = RMG_FINDING_DATA_AT_SOCKET,
                         .socket = rule->socket,
                         .bank = rule->bank,
                         .bits = (rmg_word)1 << bit};

        c.faults[0].line = bit;
        rmg_fault_include(&c.faults[0], rule->socket);
        for (uint8_t level = 0; level < 2; level++) {
            c.faults[0].kind = RMG_FAULT_LINE_STUCK;
            c.faults[0].level = level;
            add(m, c, "data line stuck at a chip", rule->socket, bit);
        }
        c.faults[0].kind = RMG_FAULT_LINE_OPEN;
        add(m, c, "data line open at a chip", rule->socket, bit);
        for (uint8_t j = 0; j < i; j++)
            for (uint8_t level = 0; level < 2; level++) {
                c.kind = RMG_FINDING_DATA_SHORT;
                c.socket = RMG_NO_SOCKET;
                c.faults[0].kind = RMG_FAULT_DATA_SHORT;
                c.faults[0].line2 = rule->data_bits[j];
                c.faults[0].level = level;
                c.bits = (rmg_word)1 << bit | (rmg_word)1 << rule->data_bits[j];
                add(m, c, "data lines touch at a chip", bit, rule->data_bits[j]);
            }
    }
}

/* Data lines for all banks at once. */
static void data_everywhere(maker *m)
{
    for (uint8_t bit = 0; bit < m->board->word_bits; bit++) {
        wiring_case c = {.kind = RMG_FINDING_DATA_LINE,
                         .socket = RMG_NO_SOCKET,
                         .bank = RMG_NO_BANK,
                         .bits = (rmg_word)1 << bit};

        c.faults[0].line = bit;
        scope_bank(m->board, &c.faults[0], RMG_NO_BANK);
        for (uint8_t level = 0; level < 2; level++) {
            c.faults[0].kind = RMG_FAULT_LINE_STUCK;
            c.faults[0].level = level;
            add(m, c, "data line stuck everywhere", bit, level);
        }
        c.faults[0].kind = RMG_FAULT_LINE_OPEN;
        add(m, c, "data line open everywhere", bit, 0);
        for (uint8_t level = 0; bit && level < 2; level++) {
            c.kind = RMG_FINDING_DATA_SHORT;
            c.faults[0].kind = RMG_FAULT_DATA_SHORT;
            c.faults[0].line2 = (uint8_t)(bit - 1u);
            c.faults[0].level = level;
            c.bits = (rmg_word)3 << (bit - 1u);
            add(m, c, "data lines touch everywhere", bit, level);
        }
    }
}

/* One address line, or two that touch or share a pin, for the chips in the case's scope. */
static void address_for(maker *m, wiring_case c, const rmg_rule *rule, rmg_finding_kind stuck)
{
    for (uint8_t i = 0; i < rule->address_lines; i++) {
        const rmg_addr line = (rmg_addr)1 << rule->address_bits[i];
        const rmg_addr other = (rmg_addr)1 << rule->address_bits[(i + 1u) % rule->address_lines];

        for (uint8_t level = 0; level < 2; level++) {
            c.kind = stuck;
            c.faults[0].level = level;
            c.faults[0].kind = RMG_FAULT_ADDRESS_STUCK;
            c.faults[0].lines = c.lines = line;
            add(m, c, "address line", rule->address_bits[i], level);
            if (i < rule->address_lines / 2u) { /* as behind a multiplexer: two at once */
                c.faults[0].lines = c.lines =
                    line | (rmg_addr)1 << rule->address_bits[i + rule->address_lines / 2u];
                add(m, c, "two address lines", rule->address_bits[i], level);
            }
            c.kind = RMG_FINDING_ADDRESS_SHORT;
            c.faults[0].kind = RMG_FAULT_ADDRESS_SHORT;
            c.faults[0].lines = c.lines = line | other;
            add(m, c, "address lines touch", rule->address_bits[i], level);
        }
    }
}

static void chip_cases(maker *m, const rmg_rule *rule)
{
    wiring_case c = {.socket = rule->socket, .bank = rule->bank};

    data_at_chip(m, rule);
    rmg_fault_include(&c.faults[0], rule->socket);
    address_for(m, c, rule, RMG_FINDING_ADDRESS_AT_SOCKET);
    c.bits = rmg_rule_bits(rule);
    c.kind = RMG_FINDING_NEVER_WRITTEN;
    c.faults[0].kind = RMG_FAULT_NO_WRITE;
    add(m, c, "never written", rule->socket, 0);
    c.kind = RMG_FINDING_DATA_AT_SOCKET;
    c.faults[0].kind = RMG_FAULT_DESELECTED;
    add(m, c, "never selected", rule->socket, 0);
    if (!rule->where.mask) { /* halves of a wider bus have data lines of their own */
        c.kind = RMG_FINDING_DRAGGED;
        c.faults[0].kind = RMG_FAULT_ALWAYS_ON;
        add(m, c, "always on", rule->socket, 0);
    }
}

static void bank_cases(maker *m, const rmg_rule *rule)
{
    wiring_case c = {.socket = RMG_NO_SOCKET, .bank = rule->bank};

    scope_bank(m->board, &c.faults[0], rule->bank);
    address_for(m, c, rule, RMG_FINDING_ADDRESS_OF_BANK);
    c.lines = 0;
    c.kind = RMG_FINDING_BANK_NEVER_WRITTEN;
    c.faults[0].kind = RMG_FAULT_NO_WRITE;
    add(m, c, "bank never written", rule->bank, 0);
    c.kind = RMG_FINDING_BANK_SILENT;
    c.faults[0].kind = RMG_FAULT_DESELECTED;
    add(m, c, "bank never selected", rule->bank, 0);
}

static void bank_pair_cases(maker *m, uint8_t a, uint8_t b)
{
    wiring_case c = {.kind = RMG_FINDING_BANKS_BOTH, .socket = RMG_NO_SOCKET, .bank = a};

    c.faults[0].kind = RMG_FAULT_ALSO_SELECTED;
    c.faults[0].bank = a;
    c.faults[0].bank2 = b;
    add(m, c, "also selected", a, b);
    c.kind = RMG_FINDING_BANKS_SAME;
    c.bank = a < b ? a : b;
    c.count = 2;
    c.faults[1].kind = RMG_FAULT_DESELECTED;
    scope_bank(m->board, &c.faults[1], b);
    add(m, c, "the same cells", a, b);
}

static void all_cases(maker *m)
{
    const rmg_rule *rules = m->board->placement.rules, *first = NULL;
    wiring_case c = {.socket = RMG_NO_SOCKET, .bank = RMG_NO_BANK};
    uint8_t told = RMG_NO_BANK;

    for (uint16_t r = 0; r < m->board->placement.rule_count; r++) {
        if (!is_ram(m->board, &rules[r]))
            continue;
        first = first ? first : &rules[r];
        chip_cases(m, &rules[r]);
        if (rules[r].bank == told)
            continue;
        told = rules[r].bank;
        bank_cases(m, &rules[r]);
        for (uint16_t q = 0; q < r; q++)
            if (rules[q].bank != told && rules[q].where.match == rules[r].where.match &&
                is_ram(m->board, &rules[q]) && (!q || rules[q - 1].bank != rules[q].bank)) {
                bank_pair_cases(m, told, rules[q].bank);
                bank_pair_cases(m, rules[q].bank, told);
            }
    }
    data_everywhere(m);
    scope_bank(m->board, &c.faults[0], RMG_NO_BANK);
    address_for(m, c, first, RMG_FINDING_ADDRESS_LINES);
    c.lines = 0;
    c.kind = RMG_FINDING_BANK_NEVER_WRITTEN;
    c.faults[0].kind = RMG_FAULT_NO_WRITE;
    add(m, c, "nothing is ever written", 0, 0);
    c.kind = RMG_FINDING_ALL_SILENT;
    c.faults[0].kind = RMG_FAULT_DESELECTED;
    add(m, c, "nothing there at all", 0, 0);
}

static void examine(const rmg_board *board, const rmg_sim_fault *faults, size_t count, rmg_run *run,
                    rmg_suspects *suspects)
{
    const rmg_plan plan = {.march_name = "none", .march = no_march, .passes = 1, .seed = 1};

    bench_examine(board, faults, count, &plan, dice(100000), run, suspects);
}

static bool matches(const wiring_case *c, const rmg_finding *f)
{
    return f->kind == c->kind && f->socket == c->socket && f->bank == c->bank &&
           (!c->bits || f->bits == c->bits) && (!c->lines || f->lines == c->lines);
}

/* Accesses of all wiring checks, whatever one fault there is: not by the size of the memory. */
static unsigned long most_accesses(const rmg_board *board)
{
    return 100ul * (board->address_bits + board->word_bits) * board->bank_count;
}

static void check_case(const rmg_board *board, const wiring_case *c)
{
    rmg_suspects s;
    rmg_run run;

    examine(board, c->faults, c->count, &run, &s);
    CHECK(s.count == 1 && matches(c, &s.list[0].finding), "%s: %zu found, the first: %s", c->title,
          s.count, s.count ? s.list[0].headline : "none");
    CHECK(run.wiring_accesses <= most_accesses(board), "%s: %lu accesses", c->title,
          (unsigned long)run.wiring_accesses);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
}

static const char *const boards[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml",
                                     "demo/boards/tarnbeck.yaml"};

static void every_fault_at_every_place(void)
{
    const bool all = getenv("RMG_TEST_ALL") != NULL;
    const unsigned sample = getenv("RMG_TEST_PLACES") ? 15 : 60;

    dice_state = 64;
    for (size_t i = 0; i < COUNT(boards); i++) {
        rmg_board *board = bench_load(boards[i]);
        maker m = {board, g_array_new(FALSE, TRUE, sizeof(wiring_case))};

        all_cases(&m);
        CHECK(m.cases->len > 300, "%s: %u cases", board->name, m.cases->len);
        if (all)
            printf("\n  %s: %u cases ", board->name, m.cases->len);
        for (guint n = 0; n < m.cases->len; n++) {
            const wiring_case *c = &g_array_index(m.cases, wiring_case, n);

            if (all || dice(m.cases->len) < sample)
                check_case(board, c);
            g_free(c->title);
        }
        g_array_free(m.cases, TRUE);
        rmg_board_free(board);
    }
}

/* Ones at the sockets of the first 64 that lie at or beyond a point of the line and are RAM. */
static uint64_t beyond(const rmg_board *board, const rmg_line *line, uint16_t point)
{
    uint64_t set = 0;

    for (uint16_t q = point; q < line->point_count; q++) {
        uint16_t up = q;

        while (up != RMG_NO_POINT && up != point)
            up = line->points[up].parent;
        for (uint16_t r = 0; up == point && r < board->placement.rule_count; r++)
            if (board->placement.rules[r].socket == line->points[q].socket &&
                is_ram(board, &board->placement.rules[r]))
                set |= (uint64_t)1 << line->points[q].socket;
    }
    return set;
}

/* A line open beyond each point that the Halvorn's file traces: whatever is reported, the traced
 * point is that one, or the first before it beyond which lie the same chips. */
static void every_traced_point(void)
{
    rmg_board *board = bench_load(boards[0]);
    const bool all = getenv("RMG_TEST_ALL") != NULL;

    for (size_t n = 0; n < board->line_count; n++) {
        const rmg_line *line = &board->lines[n];

        for (uint16_t p = 0; p < line->point_count; p++) {
            rmg_sim_fault f = {.kind = RMG_FAULT_ADDRESS_STUCK, .line = line->bit, .level = 1};
            rmg_suspects s;
            rmg_run run;

            if (line->kind == RMG_LINE_CONTROL || (!all && dice(100) > 25) ||
                !beyond(board, line, p)) /* only a ROM lies there */
                continue;
            if (line->kind == RMG_LINE_DATA)
                f.kind = RMG_FAULT_LINE_OPEN;
            f.lines = (rmg_addr)1 << line->bit;
            for (uint16_t q = p; q < line->point_count; q++) {
                uint16_t up = q;

                while (up != RMG_NO_POINT && up != p)
                    up = line->points[up].parent;
                if (up == p && line->points[q].socket != RMG_NO_SOCKET)
                    rmg_fault_include(&f, line->points[q].socket);
            }
            examine(board, &f, 1, &run, &s);
            CHECK(s.count == 1 && s.list[0].finding.point != RMG_NO_POINT &&
                      s.list[0].finding.point <= p &&
                      beyond(board, line, s.list[0].finding.point) == beyond(board, line, p) &&
                      strcmp(board->lines[s.list[0].finding.line].name, line->name) == 0,
                  "%s open beyond %s: %zu found, the first: %s", line->name, line->points[p].name,
                  s.count, s.count ? s.list[0].headline : "none");
            rmg_suspects_free(&s);
            rmg_run_end(&run);
        }
    }
    rmg_board_free(board);
}

/* A write line is known by the pins it ends at, whatever the board calls it: told with its place.
 */
static void write_line_of_any_name(void)
{
    static const char *const names[] = {"WE", "MWR", "STROBE"};
    gchar *text = NULL;

    CHECK(g_file_get_contents(project_path(boards[0]), &text, NULL, NULL), "read");
    for (size_t i = 0; i < COUNT(names); i++) {
        gchar **parts = g_strsplit(text, "name: WE,", 2);
        gchar *named = g_strdup_printf("%sname: %s,%s", parts[0], names[i], parts[1]);
        rmg_sim_fault f = {.kind = RMG_FAULT_NO_WRITE};
        rmg_errors none = {0};
        rmg_suspects s;
        rmg_run run;
        rmg_board *board;

        CHECK(rmg_board_load_text("named.yaml", named, &board, &none) == RMG_OK, "%s", names[i]);
        for (uint16_t c = 0; c < board->socket_count; c++)
            if (board->sockets[c].part && board->sockets[c].part->kind == RMG_PART_DRAM)
                rmg_fault_include(&f, c);
        examine(board, &f, 1, &run, &s);
        CHECK(s.count && s.list[0].finding.point != RMG_NO_POINT &&
                  strcmp(board->lines[s.list[0].finding.line].name, names[i]) == 0,
              "%s: %s", names[i], s.count ? s.list[0].headline : "nothing found");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
        g_free(named);
        g_strfreev(parts);
    }
    g_free(text);
}

static void healthy_boards(void)
{
    for (size_t i = 0; i < COUNT(boards); i++) {
        rmg_board *board = bench_load(boards[i]);
        rmg_suspects s;
        rmg_run run;

        examine(board, NULL, 0, &run, &s);
        CHECK(!s.count && !rmg_run_failed(&run), "%s: healthy", board->name);
        CHECK(run.wiring_accesses <= most_accesses(board) / 2, "%s: %lu accesses", board->name,
              (unsigned long)run.wiring_accesses);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Does a finding tell this fault? By its socket; by its bits in its bank; or, where both faults do
 * the same to one bit in every bank, by the line, which predicts the same accesses. */
static bool tells(const rmg_finding *f, const wiring_case *c)
{
    if (f->socket == c->socket && f->socket != RMG_NO_SOCKET)
        return true;
    return c->bits && f->bits == c->bits && (f->bank == c->bank || f->bank == RMG_NO_BANK);
}

/* Two faults on different lines: both are told. */
static void pairs_on(const char *file, unsigned wanted)
{
    rmg_board *board = bench_load(file);
    maker m = {board, g_array_new(FALSE, TRUE, sizeof(wiring_case))};
    unsigned both = 0, tried = 0;

    dice_state = 500;
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (is_ram(board, &board->placement.rules[r]))
            chip_cases(&m, &board->placement.rules[r]);
    while (tried < wanted) {
        const wiring_case *a = &g_array_index(m.cases, wiring_case, dice(m.cases->len));
        const wiring_case *b = &g_array_index(m.cases, wiring_case, dice(m.cases->len));
        const rmg_sim_fault two[] = {a->faults[0], b->faults[0]};
        bool told_a = false, told_b = false;
        rmg_suspects s;
        rmg_run run;

        if (a->socket == b->socket || a->kind == RMG_FINDING_DRAGGED ||
            b->kind == RMG_FINDING_DRAGGED)
            continue;
        tried++;
        examine(board, two, 2, &run, &s);
        for (size_t i = 0; i < s.count; i++) {
            told_a |= tells(&s.list[i].finding, a);
            told_b |= tells(&s.list[i].finding, b);
        }
        both += told_a && told_b;
        if (!(told_a && told_b))
            printf("\n  not both reported: %s; %s; %zu found, the first: %s\n", a->title, b->title,
                   s.count, s.count ? s.list[0].headline : "none");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    printf("\n  %s: both reported in %u of %u pairs ", board->name, both, wanted);
    CHECK(both * 100 >= wanted * 95, "both reported in %u of %u", both, wanted);
    for (guint n = 0; n < m.cases->len; n++)
        g_free(g_array_index(m.cases, wiring_case, n).title);
    g_array_free(m.cases, TRUE);
    rmg_board_free(board);
}

static void pairs_of_faults(void)
{
    const unsigned wanted = getenv("RMG_TEST_ALL") ? 250 : 20;

    pairs_on(boards[0], wanted);
    pairs_on(boards[1], wanted);
}

CU_TestInfo line_tests[] = {
    {"every wiring fault at every place", every_fault_at_every_place},
    {"every traced point", every_traced_point},
    {"a write line of any name", write_line_of_any_name},
    {"nothing on healthy boards", healthy_boards},
    {"pairs of faults", pairs_of_faults},
    CU_TEST_INFO_NULL,
};
