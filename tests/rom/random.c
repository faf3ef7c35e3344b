/* Random faults behind test ROMs: the ROM runs in an emulated processor, its serial pin or its lamp
 * is read, and what is heard is diagnosed.
 *
 * Call: test-rom-random PROCESSOR COUNT SEED [lines|blinks [IMAGE]]
 *
 * IMAGE, of 1 KiB: three cases in four read another ROM, too, which holds that, or by chance. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include <glib.h>

#include "machine.h"
#include "rimeglass/deadboard.h"
#include "rimeglass/heard.h"
#include "rimeglass/lines.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/target.h"
#include "rimeglass/verify.h"

#define MOST_SECONDS 60u /* of the machine */

/* A board for each: two banks of eight 1-bit DRAMs of 4 K, traced in two branches; or of four 4-bit
 * ones behind 16 bits. */
static const char eight_bits[] =
    "board: two banks\nword: 8\naddress-lines: %u\nundriven: %s\nregions:\n"
    "  - {name: RAM A, range: 0x0000-0x0FFF, kind: ram}\n"
    "  - {name: RAM B, range: 0x4000-0x4FFF, kind: ram}\n"
    "  - {name: ports, range: 0x8000-0x80FF, kind: reserved}\n"
    "  - {name: tables, range: 0xC000-0xC3FF, kind: rom}\n"
    "  - {name: ROM, range: 0x%X-0x%X, kind: rom}\nbanks:\n"
    "  - {name: A, range: 0x0000-0x0FFF, part: 4027, rows: A0-A5, columns: A6-A11, data: "
    "{U1: D0, U2: D1, U3: D2, U4: D3, U5: D4, U6: D5, U7: D6, U8: D7}}\n"
    "  - {name: B, range: 0x4000-0x4FFF, part: 4027, rows: A0-A5, columns: A6-A11, data: "
    "{U11: D0, U12: D1, U13: D2, U14: D3, U15: D4, U16: D5, U17: D6, U18: D7}}\n"
    "  - {name: tables, range: 0xC000-0xC3FF, part: 2758, lines: A0-A9, data: {U22: D0-D7}}\n"
    "  - {name: ROM, range: 0x%X-0x%X, part: %s, lines: A0-A%u, data: {U20: D0-D7}}\n"
    "sockets:\n  - {names: U1-U8, mount: socket}\n  - {names: U11-U18, mount: socket}\n"
    "  - {names: U20, mount: socket}\n  - {names: U22, mount: socket%s}\n"
    "lines:\n  - {name: A0/A6, path: [U30.5/6, U31.2/3>U31.4, [R1, U1..U8.5], [R2, U11..U18.5]]}\n"
    "  - {name: D0-D7, path: [U30.9-16, [U32.2-9>U32.18-11, U1-U8.14], "
    "[U33.2-9>U33.18-11, U11-U18.14]]}\n"
    "test-rom:\n  processor: \"%s\"\n  clock: %u\n  socket: U20\n"
    "  serial: {%s: %s, bit: 0, baud: 9600}\n  lamp: {%s: %s, bit: 1}\n  march: %s\n%s";

static const char sixteen_bits[] =
    "board: two banks\nword: 16\naddress-lines: %u\nundriven: %s\nbyte-order: %s\nregions:\n"
    "  - {name: RAM A, range: 0x10000-0x17FFF, kind: ram}\n"
    "  - {name: RAM B, range: 0x20000-0x27FFF, kind: ram}\n"
    "  - {name: ports, range: 0x30000-0x300FF, kind: reserved}\n"
    "  - {name: tables, range: 0x38000-0x387FF, kind: rom}\n"
    "  - {name: ROM, range: 0x%X-0x%X, kind: rom}\nbanks:\n"
    "  - {name: A, range: 0x10000-0x17FFF, part: 4416, rows: A1-A8, columns: A9-A14, data: "
    "{U1: D0-D3, U2: D4-D7, U3: D8-D11, U4: D12-D15}}\n"
    "  - {name: B, range: 0x20000-0x27FFF, part: 4416, rows: A1-A8, columns: A9-A14, data: "
    "{U11: D0-D3, U12: D4-D7, U13: D8-D11, U14: D12-D15}}\n"
    "  - {name: tables, range: 0x38000-0x387FF, part: 2758, lines: A1-A10, data: {U22: D0-D7, "
    "U23: D8-D15}}\n"
    "  - {name: ROM, range: 0x%X-0x%X, part: 2764, lines: A1-A13, data: {U20: D0-D7, U21: "
    "D8-D15}}\n"
    "sockets:\n  - {names: U1-U4, mount: socket}\n  - {names: U11-U14, mount: socket}\n"
    "  - {names: U20-U21, mount: socket}\n  - {names: U22-U23, mount: socket%s}\n"
    "lines:\n  - {name: A1/A9, path: [U30.5/6, U31.2/3>U31.4, [R1, U1..U4.14], [R2, "
    "U11..U14.14]]}\n"
    "test-rom:\n  processor: \"%s\"\n  clock: %u\n  socket: [%s]\n"
    "  serial: {%s: %s, bit: 0, baud: 9600}\n  lamp: {%s: %s, bit: 1}\n  march: %s\n%s";

/* `image` and `roms`: parts of the text, "" where there are none. */
static char *board_text(const char *processor, const char *undriven, const char *march,
                        const char *image, const char *roms)
{
    if (strcmp(processor, "8080") == 0 || strcmp(processor, "8085") == 0)
        return g_strdup_printf(eight_bits, 16, undriven, 0xE000, 0xFFFF, 0xE000, 0xFFFF, "2764", 12,
                               image, processor, 2000000, "port", "0x10", "port", "0x11", march,
                               roms);
    if (strcmp(processor, "Z80") == 0)
        return g_strdup_printf(eight_bits, 16, undriven, 0xE000, 0xFFFF, 0xE000, 0xFFFF, "2764", 12,
                               image, processor, 4000000, "port", "0x10", "port", "0x11", march,
                               roms);
    if (strcmp(processor, "6502") == 0 || strcmp(processor, "6809") == 0)
        return g_strdup_printf(eight_bits, 16, undriven, 0xE000, 0xFFFF, 0xE000, 0xFFFF, "2764", 12,
                               image, processor, 1000000, "at", "0x8000", "at", "0x8001", march,
                               roms);
    if (strcmp(processor, "8088") == 0)
        return g_strdup_printf(eight_bits, 20, undriven, 0xFE000, 0xFFFFF, 0xFE000, 0xFFFFF, "2764",
                               12, image, "8086", 5000000, "port", "0x10", "port", "0x11", march,
                               roms);
    if (strcmp(processor, "8086") == 0)
        return g_strdup_printf(sixteen_bits, 20, undriven, "low first", 0xFC000, 0xFFFFF, 0xFC000,
                               0xFFFFF, image, processor, 5000000, "U20, U21", "port", "0x10",
                               "port", "0x12", march, roms);
    return g_strdup_printf(sixteen_bits, 24, undriven, "high first", 0x0, 0x3FFF, 0x0, 0x3FFF,
                           image, processor, 8000000, "U21, U20", "at", "0x30000", "at", "0x30002",
                           march, roms);
}

/* What is to be named. */
typedef struct place {
    const char *what;
    uint16_t socket;
    rmg_word bits;
    rmg_addr lines;
    int bank, bank2;
    bool all; /* memory as a whole */
    bool rom; /* the ROM that is read: what was read of it says more */
} place;

typedef struct drawing {
    uint64_t seed, number;
} drawing;

static unsigned draw(drawing *d, unsigned most)
{
    return (unsigned)(rmg_hash(d->seed, d->number++) % most);
}

/* A rule of RAM, of all the same chance. */
static const rmg_rule *draw_chip(drawing *d, const rmg_board *board)
{
    for (;;) {
        const rmg_rule *rule = &board->placement.rules[draw(d, board->placement.rule_count)];

        if (board->banks[rule->bank].part->kind != RMG_PART_ROM)
            return rule;
    }
}

/* A fault of the ROM that is read. */
static rmg_sim_fault draw_rom_fault(drawing *d, const rmg_board *board, place *p)
{
    const uint16_t socket = rmg_board_socket(board, "U22");
    rmg_sim_fault f = {
        .chip = socket, .data_line = (uint8_t)draw(d, 8), .level = (uint8_t)draw(d, 2)};

    *p = (place){.what = "a ROM", .socket = RMG_NO_SOCKET, .bank = -1, .bank2 = -1, .rom = true};
    switch (draw(d, 4)) {
    case 0:
        f.kind = RMG_FAULT_OUTPUT;
        break;
    case 1:
        f.kind = RMG_FAULT_MISSING;
        break;
    case 2:
        f.kind = RMG_FAULT_ADDRESS_STUCK;
        f.lines = (rmg_addr)1 << (draw(d, 10) + board->byte_shift);
        rmg_fault_include(&f, socket);
        break;
    default:
        f.kind = RMG_FAULT_CELL;
        f.cell = draw(d, 1024);
        break;
    }
    if (board->word_bits == 8)
        p->socket = socket;
    else /* two chips: which of them is the comparison's to say */
        p->bank = rmg_dead_bank(board, 0x38000 >> board->byte_shift);
    return f;
}

static void of_bank(const rmg_board *board, unsigned bank, rmg_sim_fault *f)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank)
            rmg_fault_include(f, board->placement.rules[r].socket);
}

static void of_ram(const rmg_board *board, rmg_sim_fault *f)
{
    of_bank(board, 0, f);
    of_bank(board, 1, f);
}

/* A line that varies within a bank. */
static uint8_t draw_line(drawing *d, const rmg_rule *rule)
{
    return rule->address_bits[draw(d, rule->address_lines)];
}

static rmg_sim_fault draw_fault(drawing *d, const rmg_board *board, place *p)
{
    const rmg_rule *rule = draw_chip(d, board);
    const rmg_addr cells = (rmg_addr)1 << rule->address_lines;
    const unsigned kind = draw(d, 14), bit = draw(d, board->word_bits);
    rmg_sim_fault f = {.chip = rule->socket,
                       .data_line = (uint8_t)draw(d, rule->width),
                       .cell = draw(d, (unsigned)cells),
                       .level = (uint8_t)draw(d, 2)};

    *p = (place){.socket = RMG_NO_SOCKET, .bank = -1, .bank2 = -1};
    switch (kind) {
    case 0:
        f.kind = RMG_FAULT_CELL;
        *p = (place){"a cell stuck", rule->socket, 0, 0, -1, -1, false};
        break;
    case 1:
        f.kind = RMG_FAULT_TRANSITION;
        *p = (place){"a cell that does not change", rule->socket, 0, 0, -1, -1, false};
        break;
    case 2:
        f.kind = RMG_FAULT_COUPLING_HOLDS;
        f.cell2 = (f.cell + 1u + draw(d, (unsigned)cells - 1u)) % cells;
        f.data_line2 = f.data_line;
        f.state = (uint8_t)draw(d, 2);
        *p = (place){"a cell held by another", rule->socket, 0, 0, -1, -1, false};
        break;
    case 3:
        f.kind = RMG_FAULT_OUTPUT;
        *p = (place){"an output stuck", rule->socket, 0, 0, -1, -1, false};
        break;
    case 4:
        f.kind = RMG_FAULT_DATA_OPEN;
        f.level = 1;
        *p = (place){"a data pin open", rule->socket, 0, 0, -1, -1, false};
        break;
    case 5:
        f.kind = RMG_FAULT_MISSING;
        *p = (place){"a chip missing", rule->socket, 0, 0, -1, -1, false};
        break;
    case 6:
        f.kind = RMG_FAULT_LINE_STUCK;
        f.line = (uint8_t)bit;
        of_ram(board, &f);
        *p = (place){"a data line stuck", RMG_NO_SOCKET, (rmg_word)1 << bit, 0, -1, -1, false};
        break;
    case 7:
        f.kind = RMG_FAULT_LINE_OPEN;
        f.line = (uint8_t)bit;
        of_ram(board, &f);
        *p = (place){"a data line open", RMG_NO_SOCKET, (rmg_word)1 << bit, 0, -1, -1, false};
        break;
    case 8:
        f.kind = RMG_FAULT_DATA_SHORT;
        f.line = (uint8_t)bit;
        f.line2 = (uint8_t)((bit + 1u + draw(d, board->word_bits - 1u)) % board->word_bits);
        of_ram(board, &f);
        *p = (place){"data lines touching",
                     RMG_NO_SOCKET,
                     (rmg_word)1 << f.line | (rmg_word)1 << f.line2,
                     0,
                     -1,
                     -1,
                     false};
        break;
    case 9:
        f.kind = RMG_FAULT_ADDRESS_STUCK;
        f.lines = (rmg_addr)1 << draw_line(d, rule);
        of_ram(board, &f);
        *p = (place){"an address line stuck", RMG_NO_SOCKET, 0, f.lines, -1, -1, false};
        break;
    case 10:
        f.kind = RMG_FAULT_ADDRESS_SHORT;
        do
            f.lines = (rmg_addr)1 << draw_line(d, rule) | (rmg_addr)1 << draw_line(d, rule);
        while (!(f.lines & (f.lines - 1u)));
        of_ram(board, &f);
        *p = (place){"address lines touching", RMG_NO_SOCKET, 0, f.lines, -1, -1, false};
        break;
    case 11:
        f.kind = RMG_FAULT_DESELECTED;
        of_bank(board, rule->bank, &f);
        *p = (place){"a bank silent", RMG_NO_SOCKET, 0, 0, rule->bank, -1, false};
        break;
    case 12:
        f.kind = RMG_FAULT_ALSO_SELECTED;
        f.bank = rule->bank;
        f.bank2 = (uint8_t)!rule->bank;
        *p =
            (place){"a bank that answers for another", RMG_NO_SOCKET, 0, 0, f.bank, f.bank2, false};
        break;
    default:
        f.kind = RMG_FAULT_DESELECTED;
        of_ram(board, &f);
        *p = (place){"no memory at all", RMG_NO_SOCKET, 0, 0, -1, -1, true};
        break;
    }
    return f;
}

/* Does the suspect lie there? */
static bool lies_at(const rmg_run *run, const rmg_suspect *s, const place *p)
{
    const rmg_finding *f = &s->finding;
    bool *sockets = g_new0(bool, run->board->socket_count), here;

    if (p->socket != RMG_NO_SOCKET) {
        here = f->socket == p->socket;
        if (f->kind == RMG_FINDING_BRANCH || f->kind == RMG_FINDING_SHARED) {
            rmg_finding_sockets(run, f, sockets);
            here |= sockets[p->socket];
        }
    } else if (p->bits) {
        here = (f->bits & p->bits) == p->bits && f->socket == RMG_NO_SOCKET;
    } else if (p->lines) {
        here = (f->lines & p->lines) != 0 && f->socket == RMG_NO_SOCKET;
    } else if (p->all) {
        here = f->kind == RMG_FINDING_ALL_SILENT;
    } else {
        here = f->bank == p->bank || f->bank == p->bank2;
    }
    g_free(sockets);
    return here;
}

typedef struct score {
    unsigned cases, agreed, named, first, silent, sure, wrong, outside;
    double edge;
} score;

typedef struct texts {
    const rmg_testrom_plan *plan;
    rmg_sim *sim;
    GString *text;
} texts;

static bool add_line(void *context, const rmg_testrom_line *line)
{
    texts *t = context;
    char text[RMG_TESTROM_LINE];

    g_string_append_printf(t->text, "%s\r\n", rmg_testrom_line_text(t->plan, line, text));
    return true;
}

static void carry(void *context, rmg_word value)
{
    rmg_sim_carry(((texts *)context)->sim, value);
}

static bool power_on(rmg_sim_board_run *run, const rmg_board *board, const rmg_sim_fault *fault)
{
    rmg_errors errors = {0};

    if (rmg_sim_board_begin(run, board, NULL, &errors) != RMG_OK)
        return false;
    return rmg_sim_start(&run->sim, &run->model.board, fault, fault ? 1 : 0, 7, run->memory) ==
           RMG_OK;
}

/* What was read of the ROM is compared with its image, and shows something; blinks name its socket,
 * or its bank where it has several. */
static bool rom_accused(const rmg_run *run, const rmg_suspects *suspects, const place *p)
{
    rmg_suspects found = {0};
    rmg_verify verify = {0};
    rmg_told_rom rom;
    bool accused = rmg_told_rom_read(run, 0, &rom) == RMG_OK && rmg_told_rom_differs(&rom) &&
                   rmg_told_rom_judge(&rom, NULL, 0, &verify, &found) == RMG_OK && found.count;

    if (run->heard->told->blinks)
        accused = suspects->count && lies_at(run, &suspects->list[0], p);
    rmg_suspects_free(&found);
    rmg_verify_end(&verify);
    rmg_told_rom_free(&rom);
    return accused;
}

/* Diagnoses what was heard; adds to the score. */
static void diagnose(const rmg_board *board, const char *text, const place *p, score *s,
                     unsigned number)
{
    char *profile_text = rmg_dead_profile(board, &board->rom);
    rmg_profile *profile;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_suspects suspects;
    rmg_run run;
    rmg_listener *listener;
    bool named = false;

    if (rmg_profile_load_text("p", profile_text, board, &profile, &errors) != RMG_OK)
        exit(2);
    rmg_run_begin_heard(&run, board, "machine", "test ROM", NULL);
    listener = rmg_listen_begin(profile, &run);
    rmg_listen_bytes(listener, text, strlen(text));
    rmg_listen_end(listener, false, &error);
    rmg_listen_free(listener);
    rmg_suspects_find(&run, NULL, &suspects);
    rmg_replay(&run, &suspects, 0, NULL, NULL);
    if (!p) {
        s->wrong += suspects.count != 0;
    } else if (p->rom && !rmg_run_failed(&run)) {
        s->silent++; /* a cell that holds its level */
    } else if (p->rom) {
        named = rom_accused(&run, &suspects, p);
        s->named += named;
        s->first += named;
        if (!named)
            printf("  case %u, a ROM: not accused\n%s", number, text);
    } else if (!suspects.count) {
        s->silent++; /* the steps do not find it: not a matter of diagnosis */
    } else {
        for (size_t i = 0; i < suspects.count; i++)
            named |= lies_at(&run, &suspects.list[i], p);
        s->named += named;
        s->first += lies_at(&run, &suspects.list[0], p);
        s->sure += suspects.list[0].confidence > 0.5;
        s->wrong += suspects.list[0].confidence > 0.5 && !lies_at(&run, &suspects.list[0], p);
        if (!named) {
            rmg_suspects_word(&run, &suspects);
            printf("  case %u, %s: not named; first: %s (%.0f %%)\n%s", number, p->what,
                   suspects.list[0].headline, suspects.list[0].confidence * 100, text);
        }
    }
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_profile_free(profile);
    rmg_error_free(&error);
    rmg_text_free(profile_text);
}

/* What the lamp said, as lines. */
static char *blinked(const machine *m, const rmg_testrom_plan *plan)
{
    rmg_testrom_line start = {.says = RMG_TESTROM_SAYS_START}, end = {.says = RMG_TESTROM_SAYS_END};
    char a[RMG_TESTROM_LINE], b[RMG_TESTROM_LINE];

    end.code = (uint8_t)(m->flashes[0] << 5 | m->flashes[1]);
    if (m->flashes[0] == 1 && (double)m->lamp_on_clocks > 0.6 * plan->clock_hz)
        end.code = 0;
    return g_strdup_printf("%s\n%s\n", rmg_testrom_line_text(plan, &start, a),
                           rmg_testrom_line_text(plan, &end, b));
}

static bool as_z80; /* code of an 8080 runs in a Z80 */

static void run_case(const rmg_board *board, const rmg_testrom_plan *plan, const uint8_t *image,
                     const rmg_sim_fault *fault, const place *p, bool blinks, score *s,
                     unsigned number)
{
    static machine m;
    rmg_sim_board_run run;
    texts t = {plan, &run.sim, g_string_new(NULL)};
    const rmg_testrom_listener to = {.context = &t, .line = add_line, .carries = carry};

    if (!power_on(&run, board, fault))
        exit(2);
    machine_begin(&m, plan, image, &run.sim);
    m.wants_blinks = blinks;
    m.as_z80 = as_z80;
    if (!machine_run(&m, (uint64_t)plan->clock_hz * MOST_SECONDS))
        printf("  case %u: no end was heard:\n%s\n", number, m.text);
    s->outside += m.outside != 0;
    s->edge = MAX(s->edge, m.worst_edge);
    rmg_sim_board_end(&run);
    power_on(&run, board, fault);
    rmg_testrom_play(plan, &run.target, &to, 1);
    rmg_sim_board_end(&run);
    s->cases++;
    if (strncmp(t.text->str, m.text, t.text->len) == 0)
        s->agreed++;
    else
        printf("  case %u, %s: the machine told\n%splayed, the steps tell\n%s", number,
               p ? p->what : "healthy", m.text, t.text->str);
    if (blinks) {
        char *lines = blinked(&m, plan);

        diagnose(board, lines, p, s, number);
        g_free(lines);
    } else {
        diagnose(board, m.text, p, s, number);
    }
    g_string_free(t.text, TRUE);
}

int main(int argc, char **argv)
{
    const char *asked = argc > 1 ? argv[1] : "Z80";
    const char *processor = strcmp(asked, "8080-as-Z80") == 0 ? "8080" : asked;
    const unsigned count = argc > 2 ? (unsigned)atoi(argv[2]) : 20;
    const uint64_t seed = argc > 3 ? strtoull(argv[3], NULL, 10) : 1;
    const bool blinks = argc > 4 && strcmp(argv[4], "blinks") == 0;
    static const char *const levels[] = {"high", "low", "holds"};
    static const char *const marches[] = {"MATS+", "March C-", "March U"};
    score s = {0}, healthy = {0};
    const char *image_file = argc > 5 ? argv[5] : NULL;

    as_z80 = processor != asked;

    for (unsigned n = 0; n < count; n++) {
        drawing d = {seed, (uint64_t)n << 8};
        /* what the bus carries before a read is not known of those that fetch ahead */
        const char *level = levels[draw(&d, strstr("8088 8086 68000 6809", processor) ? 2 : 3)];
        const char *march = marches[draw(&d, 3)];
        const unsigned roms =
            image_file ? n % 4u : 0; /* 1: known, 2: not, 3: known, with a fault */
        gchar *of_chip = roms & 1u ? g_strdup_printf(", image: \"%s\"", image_file) : g_strdup("");
        char *text = board_text(processor, level, march, of_chip, roms ? "  roms: tables\n" : "");
        rmg_board *board;
        rmg_errors errors = {0};
        rmg_testrom_plan plan;
        rmg_dead_image image = {0};
        rmg_error error = {0};
        rmg_sim_fault fault;
        place p;

        if (rmg_board_load_text("two-banks.yaml", text, &board, &errors) != RMG_OK ||
            rmg_dead_plan(board, &board->rom, &plan, NULL, NULL, &error) != RMG_OK ||
            rmg_dead_make(&board->rom, &plan, &image, &error) != RMG_OK) {
            fprintf(stderr, "%s\n", errors.count ? errors.list[0].what : error.what);
            return 2;
        }
        fault = roms == 3 ? draw_rom_fault(&d, board, &p) : draw_fault(&d, board, &p);
        run_case(board, &plan, image.bytes, &fault, &p, blinks, &s, n);
        if (n % 20 == 0)
            run_case(board, &plan, image.bytes, NULL, NULL, blinks, &healthy, n);
        rmg_dead_image_free(&image);
        rmg_board_free(board);
        g_free(text);
        g_free(of_chip);
    }
    printf("%s, %s: %u faults, %u told as played, %u not found by the steps, the place named in %u "
           "of %u (first in %u), first above 50 %% in %u, of these wrong %u; %u healthy, %u "
           "accused; accesses outside in %u; edges within %.3f of a bit\n",
           asked, blinks ? "blinks" : "lines", s.cases, s.agreed, s.silent, s.named,
           s.cases - s.silent, s.first, s.sure, s.wrong, healthy.cases, healthy.wrong, s.outside,
           s.edge);
    /* blinks say too little to be never wrong; lines are not to be */
    return s.agreed == s.cases && !s.outside && !healthy.wrong &&
                   (blinks ? s.wrong * 20u <= s.sure : !s.wrong) &&
                   s.named * 100u >= (s.cases - s.silent) * 99u && s.edge <= 0.12
               ? 0
               : 1;
}
