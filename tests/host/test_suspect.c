/* Which chip: every fault of the simulator, at seeded places of two boards, is put to its socket or
 * line; a healthy board names no chip. */
#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/report.h"
#include "../check.h"
#include "bench_board.h"
#include "suites.h"

static uint64_t dice_state;

/* A number below `below`, from the test's own seed. */
static uint64_t dice(uint64_t below)
{
    return bench_dice(&dice_state, below);
}

/* A fault drawn for a board, and what must be named. */
typedef struct drawn {
    rmg_sim_fault fault;
    gchar *site;
    rmg_finding_kind kind;
} drawn;

static const struct {
    const char *title;
    rmg_fault_kind fault;
} kinds[] = {
    {"cell stuck", RMG_FAULT_CELL},
    {"row stuck", RMG_FAULT_ROW},
    {"column stuck", RMG_FAULT_COLUMN},
    {"output stuck", RMG_FAULT_OUTPUT},
    {"data pin open", RMG_FAULT_DATA_OPEN},
    {"data input open", RMG_FAULT_INPUT_OPEN},
    {"chip missing", RMG_FAULT_MISSING},
    {"data line stuck", RMG_FAULT_DATA_LINE},
    {"address pin stuck or open", RMG_FAULT_ADDRESS_CHIP},
    {"address line of a bank stuck or open", RMG_FAULT_ADDRESS_BANK},
};

/* The bus address bits that reach one pin of the bank's chips. */
static rmg_addr bus_lines_at(const rmg_board *board, uint8_t bank, uint8_t pin)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        rmg_addr lines = 0;

        if (rule->bank != bank)
            continue;
        for (uint8_t i = 0; i < rule->address_lines; i++)
            if (rule->address_pins[i] == pin)
                lines |= (rmg_addr)1 << rule->address_bits[i];
        return lines;
    }
    return 0;
}

static gchar *line_names(const rmg_board *board, rmg_addr lines)
{
    GString *text = g_string_new(NULL);
    char name[8];

    for (uint8_t k = 0; k < 64; k++)
        if ((lines >> k) & 1u)
            g_string_append_printf(text, "%s%s", text->len ? " and " : "",
                                   rmg_board_line_text(board, k, name, sizeof name));
    return g_string_free(text, FALSE);
}

/* A place among the RAM chips of the board for this kind of fault. A cell lies where it is tested:
 * in the demo boards that is all but the last words of the lower bank of the Halvorn. */
static drawn draw(const rmg_board *board, rmg_fault_kind kind)
{
    const uint16_t chip = (uint16_t)dice(board->word_bits == 16 ? 8 : 16);
    const rmg_part *part = board->sockets[chip].part;
    const uint8_t bank = (uint8_t)(chip / (board->word_bits == 8 ? 8 : 4));
    drawn d = {.site = g_strdup(board->sockets[chip].name), .kind = RMG_FINDING_CELLS};
    const uint8_t pin = rmg_part_address_pin(part, (uint8_t)dice(part->address_lines));

    d.fault.kind = kind;
    d.fault.chip = chip;
    d.fault.bank = bank;
    d.fault.level = (uint8_t)dice(2);
    d.fault.data_line = (uint8_t)dice(part->width);
    if (kind == RMG_FAULT_CELL)
        d.fault.cell = dice(0x3C00);
    else if (kind == RMG_FAULT_ROW)
        d.fault.cell = dice((uint64_t)1 << part->row_lines);
    else if (kind == RMG_FAULT_COLUMN)
        d.fault.cell = dice(((uint64_t)1 << (part->address_lines - part->row_lines)) - 8u);
    else if (kind == RMG_FAULT_ADDRESS_CHIP) {
        d.kind = RMG_FINDING_ADDRESS_AT_SOCKET;
        for (uint8_t i = 0; i < part->address_lines; i++)
            if (rmg_part_address_pin(part, i) == pin)
                d.fault.lines |= (rmg_addr)1 << i;
    } else if (kind == RMG_FAULT_ADDRESS_BANK) {
        const rmg_addr both = bus_lines_at(board, bank, pin);
        gchar *names;

        /* before the multiplexer one line, behind it all that reach the pin */
        d.fault.lines = dice(2) ? both : both & ~(both - 1u);
        names = line_names(board, d.fault.lines);
        g_free(d.site);
        d.site = g_strdup_printf("address line%s %s of the %s bank",
                                 strstr(names, " and ") ? "s" : "", names, board->banks[bank].name);
        d.kind = RMG_FINDING_ADDRESS_OF_BANK;
        g_free(names);
    } else if (kind == RMG_FAULT_DATA_LINE) {
        d.fault.line = (uint8_t)dice(board->word_bits);
        g_free(d.site);
        d.site = g_strdup_printf("data line D%u", d.fault.line);
        if (board->word_bits == 32 && dice(2)) { /* the halves of this bus are lines of their own */
            g_free(d.site);
            d.site = g_strdup_printf("data line D%u of the rank 0 low and rank 1 low banks",
                                     d.fault.line);
            d.fault.cell = board->bank_wheres[0].mask;
            d.fault.lines = board->bank_wheres[0].match;
        }
        d.kind = RMG_FINDING_DATA_LINE;
    } else {
        d.kind = RMG_FINDING_DATA_AT_SOCKET;
    }
    return d;
}

/* Runs MATS+ once on the board with these faults and finds the suspects. */
static void examine(const rmg_board *board, const rmg_sim_fault *faults, size_t count,
                    uint32_t passes, rmg_run *run, rmg_suspects *suspects)
{
    const rmg_plan plan = bench_plan(true, passes);

    bench_examine(board, faults, count, &plan, dice(1000), run, suspects);
}

static void check_suspect(const rmg_suspect *s, const char *title)
{
    double shares = 0;

    CHECK(*s->headline && s->because[0] && s->next[0] && *s->settle, "%s: worded", title);
    CHECK(s->confidence > 0 && s->confidence < 1, "%s: never certain", title);
    for (size_t i = 0; i < s->rival_count; i++)
        shares += s->rivals[i].share;
    CHECK(s->rival_count >= 2 && shares > 0.999 && shares < 1.001, "%s: rivals share all", title);
}

static void each_fault_on(const char *file, unsigned places)
{
    rmg_board *board = bench_load(file);

    for (size_t k = 0; k < COUNT(kinds); k++)
        for (unsigned place = 0; place < places; place++) {
            drawn d = draw(board, kinds[k].fault);
            rmg_run run;
            rmg_suspects suspects;

            if ((kinds[k].fault == RMG_FAULT_INPUT_OPEN && board->word_bits > 8) ||
                ((kinds[k].fault == RMG_FAULT_ROW || kinds[k].fault == RMG_FAULT_COLUMN) &&
                 board->word_bits == 32)) {
                g_free(d.site); /* chips without an input of its own, without rows */
                continue;
            }
            examine(board, &d.fault, 1, 2, &run, &suspects);
            CHECK(suspects.count == 1 && strcmp(suspects.list[0].site, d.site) == 0 &&
                      suspects.list[0].finding.kind == d.kind,
                  "%s, %s at %s: %zu suspects, the first %s", board->name, kinds[k].title, d.site,
                  suspects.count, suspects.count ? suspects.list[0].headline : "none");
            if (suspects.count)
                check_suspect(&suspects.list[0], kinds[k].title);
            rmg_suspects_free(&suspects);
            rmg_run_end(&run);
            g_free(d.site);
        }
    rmg_board_free(board);
}

static void each_fault(void)
{
    const char *fewer = getenv("RMG_TEST_PLACES"); /* for builds that run slowly */
    const unsigned places = fewer ? (unsigned)atoi(fewer) : 20;

    dice_state = 2026;
    CHECK(places > 0, "places");
    each_fault_on("demo/boards/halvorn64.yaml", places);
    each_fault_on("demo/boards/ostrel16.yaml", places);
    each_fault_on("demo/boards/tarnbeck.yaml", (places + 3) / 4);
}

static void healthy(void)
{
    static const char *const files[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml",
                                        "demo/boards/tarnbeck.yaml"};

    for (size_t i = 0; i < COUNT(files); i++) {
        rmg_board *board = bench_load(files[i]);

        for (unsigned n = 0; n < 3; n++) {
            rmg_run run;
            rmg_suspects suspects;

            examine(board, NULL, 0, 1, &run, &suspects);
            CHECK(!suspects.count && !rmg_run_failed(&run), "%s names no chip", board->name);
            rmg_suspects_free(&suspects);
            rmg_run_end(&run);
        }
        rmg_board_free(board);
    }
}

/* One failing cell in one pass is less than the same in three; what is soldered is not swapped. */
static void no_more_certainty_than_given(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault soldered = {.kind = RMG_FAULT_CELL, .chip = 3, .cell = 77, .level = 1};
    const rmg_sim_fault socketed = {.kind = RMG_FAULT_CELL, .chip = 11, .cell = 77, .level = 1};
    rmg_run once, thrice;
    rmg_suspects a, b;
    bool again = false;

    examine(board, &soldered, 1, 1, &once, &a);
    examine(board, &socketed, 1, 3, &thrice, &b);
    CHECK(a.count == 1 && b.count == 1 && a.list[0].confidence <= 0.5 &&
              b.list[0].confidence > a.list[0].confidence,
          "one pass is less than three");
    CHECK(!rmg_run_repeats(&once) && rmg_run_repeats(&thrice), "one pass is no repetition");
    for (size_t i = 0; a.list[0].next[i]; i++) {
        CHECK(!strstr(a.list[0].next[i], "wap U"), "soldered: %s", a.list[0].next[i]);
        again |= strstr(a.list[0].next[i], "again with --passes") != NULL;
    }
    CHECK(again, "run it again");
    CHECK(strstr(b.list[0].settle, "swap U22 with U21"), "socketed: %s", b.list[0].settle);
    rmg_suspects_free(&a);
    rmg_suspects_free(&b);
    rmg_run_end(&once);
    rmg_run_end(&thrice);
    rmg_board_free(board);
}

/* Two faults at different sites are both reported; a dead bank names no chip. */
static void several_at_once(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault two[] = {{.kind = RMG_FAULT_OUTPUT, .chip = 2, .level = 1},
                                 {.kind = RMG_FAULT_ROW, .chip = 13, .cell = 5, .level = 1}};
    rmg_sim_fault all[8];
    rmg_run run;
    rmg_suspects s;

    examine(board, two, 2, 1, &run, &s);
    CHECK(s.count == 2 && strcmp(s.list[0].site, "U13") == 0 && strcmp(s.list[1].site, "U24") == 0,
          "both sites");
    CHECK(strstr(s.list[1].kind, "row 5"), "the row: %s", s.list[1].kind);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    memset(all, 0, sizeof all);
    for (uint16_t i = 0; i < 8; i++) {
        all[i].kind = RMG_FAULT_MISSING;
        all[i].chip = (uint16_t)(8 + i);
    }
    examine(board, all, 8, 1, &run, &s);
    CHECK(s.count == 1 && s.list[0].finding.kind == RMG_FINDING_BANK_SILENT &&
              s.list[0].finding.socket == RMG_NO_SOCKET &&
              strstr(s.list[0].headline, "Do not change"),
          "a silent bank: %s", s.count ? s.list[0].headline : "");
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* A missing chip in one bank and a never written one on the same bits in the other: two sockets,
 * never a data line, whatever the second held at power-on. */
static void no_line_out_of_two_chips(void)
{
    static const rmg_sim_fault two[] = {{.kind = RMG_FAULT_MISSING, .chip = 2},
                                        {.kind = RMG_FAULT_NO_WRITE, .scope = {1u << 6}}};
    rmg_board *board = bench_load("demo/boards/ostrel16.yaml");

    for (unsigned n = 0; n < 12; n++) {
        rmg_suspects s;
        rmg_run run;

        examine(board, two, 2, 1, &run, &s);
        CHECK(s.count == 2 && strcmp(s.list[0].site, "U33") == 0 &&
                  strcmp(s.list[1].site, "U37") == 0 &&
                  s.list[1].finding.kind == RMG_FINDING_NEVER_WRITTEN,
              "%zu found, the first: %s", s.count, s.count ? s.list[0].headline : "none");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* A port that flips one of these data bits in one read of `one_in`, by its own dice. */
typedef struct flaky {
    rmg_sim *sim;
    rmg_word bits;
    unsigned one_in;
} flaky;

static rmg_status flaky_read(void *context, rmg_addr address, rmg_word *value)
{
    flaky *f = context;
    const rmg_status status = rmg_sim_bus.read(f->sim, address, value);

    if (dice(f->one_in) == 0)
        *value ^= (rmg_word)1 << dice(8) & f->bits;
    return status;
}

static rmg_status flaky_write(void *context, rmg_addr address, rmg_word value)
{
    return rmg_sim_bus.write(((flaky *)context)->sim, address, value);
}

/* Noise names no chip: over all bits, nor on one, which is that of two sockets. */
static void failures_that_do_not_repeat(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = flaky_read, .write = flaky_write};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_plan plan = bench_plan(true, 3);

    for (unsigned n = 0; n < 10; n++) {
        flaky f = {NULL, n & 1u ? 0x08 : 0xFF, 2000};
        const rmg_target target = {&bus, &f, 0xFF};
        rmg_sim_board_run bench;
        rmg_run run;
        rmg_suspects s;
        rmg_error error = {0};

        bench_start(&bench, board, NULL, 0, n);
        f.sim = &bench.sim;
        CHECK(rmg_run_begin(&run, board, &plan, "flaky", &error) == RMG_OK &&
                  rmg_run_carry_out(&run, &target, NULL) == RMG_OK,
              "runs");
        rmg_suspects_find(&run, NULL, &s);
        rmg_suspects_word(&run, &s);
        CHECK(s.count > 0, "something failed");
        for (size_t i = 0; i < s.count; i++)
            CHECK(s.list[i].finding.socket == RMG_NO_SOCKET &&
                      strstr(s.list[i].headline, "Do not change chips"),
                  "%u: %s, %.2f", n, s.list[i].headline, s.list[i].confidence);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* Causes that one answer holds together give the same failing words. Each row is one group at one
 * socket. */
static void rivals_predict_the_same(void)
{
    static const struct {
        const char *title, *board;
        rmg_undriven undriven;
        rmg_sim_fault causes[4];
        size_t count;
    } groups[] = {
        {"nothing comes from D4's socket",
         "demo/boards/halvorn64.yaml",
         RMG_UNDRIVEN_HOLDS,
         {{.kind = RMG_FAULT_MISSING, .chip = 11},
          {.kind = RMG_FAULT_DATA_OPEN, .chip = 11},
          {.kind = RMG_FAULT_LINE_OPEN, .line = 4, .scope = {1u << 11}},
          {.kind = RMG_FAULT_DESELECTED, .scope = {1u << 11}}},
         4},
        {"the same where lines are pulled up: a short to that level too",
         "demo/boards/halvorn64.yaml",
         RMG_UNDRIVEN_HIGH,
         {{.kind = RMG_FAULT_MISSING, .chip = 11},
          {.kind = RMG_FAULT_DATA_OPEN, .chip = 11},
          {.kind = RMG_FAULT_OUTPUT, .chip = 11, .level = 1},
          {.kind = RMG_FAULT_LINE_STUCK, .line = 4, .level = 1, .scope = {1u << 11}}},
         4},
        {"D4 always 0: output, input or short",
         "demo/boards/halvorn64.yaml",
         RMG_UNDRIVEN_HOLDS,
         {{.kind = RMG_FAULT_OUTPUT, .chip = 11, .level = 0},
          {.kind = RMG_FAULT_INPUT_OPEN, .chip = 11, .level = 0},
          {.kind = RMG_FAULT_LINE_STUCK, .line = 4, .level = 0, .scope = {1u << 11}}},
         3},
        {"an address pin: contact, track, or a smaller part",
         "demo/boards/halvorn64.yaml",
         RMG_UNDRIVEN_HOLDS,
         {{.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 11, .lines = 1u << 13, .level = 1},
          {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 13, .level = 1, .scope = {1u << 11}},
          {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 11, .lines = 1u << 13, .level = 0}},
         3},
    };
    for (size_t g = 0; g < COUNT(groups); g++) {
        rmg_board *board = bench_load(groups[g].board);
        uint64_t print = 0;

        board->undriven = groups[g].undriven;
        for (size_t i = 0; i < groups[g].count; i++) {
            rmg_suspects s;
            rmg_run run;

            examine(board, &groups[g].causes[i], 1, 1, &run, &s);
            if (!i)
                print = rmg_failset_fingerprint(run.failures);
            CHECK(s.count == 1 && strcmp(s.list[0].site, "U22") == 0 &&
                      rmg_failset_fingerprint(run.failures) == print,
                  "%s, cause %zu", groups[g].title, i);
            rmg_suspects_free(&s);
            rmg_run_end(&run);
        }
        rmg_board_free(board);
    }
}

CU_TestInfo suspect_tests[] = {
    {"each fault at seeded places", each_fault},
    {"healthy boards", healthy},
    {"no more certainty than given", no_more_certainty_than_given},
    {"several at once", several_at_once},
    {"no line out of two chips", no_line_out_of_two_chips},
    {"rivals predict the same words", rivals_predict_the_same},
    {"failures that do not repeat", failures_that_do_not_repeat},
    CU_TEST_INFO_NULL,
};
