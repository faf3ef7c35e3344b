/* What board files do not tell and no fault file has: something else that answers among the RAM, a
 * stretch that takes no writes, refresh that does not reach a bank. Each fails in many chips at
 * once, in the same words; no chip is to be named. The memory here is the test's own. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"

#define WORDS 0x10000u

/* A plain memory, of which some words are not what they seem. */
typedef struct odd_memory {
    uint8_t words[WORDS];
    rmg_addr first, last; /* the odd ones */
    rmg_addr mask, match; /* ... of these */
    enum {
        A_PORT,
        PROTECTED,
        DRIVEN,
        DRIVEN_LOW,
        WEAK,
        TWO_CHIPS,
        OTHER_WRITER,
        WRITES_LOST,
        WEAK_LINE
    } how;
    uint8_t bits; /* at fault */
    uint64_t dice, accesses;
    rmg_word bus; /* what was on it last */
} odd_memory;

static bool odd(const odd_memory *m, rmg_addr address)
{
    return address >= m->first && address <= m->last && (address & m->mask) == m->match;
}

/* Something else writes to one of its words, once in some ten thousand accesses. */
static void pass_time(odd_memory *m)
{
    if (m->how == OTHER_WRITER && m->accesses++ % 9973u == 0)
        m->words[m->first + bench_dice(&m->dice, m->last - m->first + 1u)] =
            (uint8_t)bench_dice(&m->dice, 256);
}

static rmg_status odd_read(void *context, rmg_addr address, rmg_word *value)
{
    odd_memory *m = context;
    const uint8_t other = (uint8_t)(address * 2654435761u >> 13); /* what answers holds */

    pass_time(m);
    *value = m->words[address];
    if (m->how == WEAK_LINE && !((m->bus & (m->bus - 1u)) & ~(rmg_word)m->bits) &&
        bench_dice(&m->dice, 10))
        *value &= ~(rmg_word)m->bits; /* it follows what the others do */
    m->bus = *value;
    if (!odd(m, address))
        return RMG_OK;
    if (m->how == A_PORT)
        *value = 0x5Au;
    else if (m->how == DRIVEN) /* a 0 wins */
        *value &= (rmg_word)(other | (uint8_t)~m->bits);
    else if (m->how == WEAK) /* a cell in some 500 of each chip */
        for (unsigned bit = 0; bit < 8; bit++)
            *value &= ~(
                (((address << 3 | bit) * 2654435761u) >> 7 & 0x1FFu) == 3 ? (rmg_word)1 << bit : 0);
    else if (m->how == DRIVEN_LOW)
        *value &= ~(rmg_word)m->bits;
    else if (m->how == TWO_CHIPS) /* a row of D1's chip, and the next but one of D6's */
        *value &= ~((address & 0x7Fu) == 5 ? 0x02u : (address & 0x7Fu) == 7 ? 0x40u : 0u);
    return RMG_OK;
}

static rmg_status odd_write(void *context, rmg_addr address, rmg_word value)
{
    odd_memory *m = context;

    pass_time(m);
    m->bus = value;
    if (m->how == WRITES_LOST && odd(m, address) && bench_dice(&m->dice, 12) == 0)
        return RMG_OK;
    if (!odd(m, address) || m->how != PROTECTED)
        m->words[address] = (uint8_t)value;
    return RMG_OK;
}

static const rmg_bus odd_bus = {.version = RMG_BUS_VERSION, .read = odd_read, .write = odd_write};

static void test_memory(const rmg_board *board, odd_memory *m, rmg_run *run, rmg_suspects *s)
{
    const rmg_target target = {.bus = &odd_bus, .context = m, .mask = 0xFF};
    const rmg_plan plan = bench_plan(false, m->how > TWO_CHIPS ? 4 : 2);
    rmg_error error = {0};
    uint64_t dice = 5;

    for (size_t i = 0; i < WORDS; i++)
        m->words[i] = (uint8_t)bench_dice(&dice, 256);
    CHECK(rmg_run_begin(run, board, &plan, "odd", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(run, &target, NULL) == RMG_OK, "runs");
    rmg_suspects_find(run, NULL, s);
    CHECK(rmg_replay(run, s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
    rmg_suspects_word(run, s);
}

static double surest_socket(const rmg_suspects *s)
{
    double most = 0;

    for (size_t i = 0; i < s->count; i++)
        if (s->list[i].finding.socket != RMG_NO_SOCKET)
            most = MAX(most, s->list[i].confidence);
    return most;
}

static void something_else_answers(void)
{
    static const struct {
        const char *title, *board; /* NULL: a demo board */
        odd_memory memory;
        const char *sockets, *says;
    } rows[] = {
        {"a port of 16 words, two chips a bank",
         "demo/boards/merrow.yaml",
         {.first = 0x1710, .last = 0x171F, .how = A_PORT},
         "U11 U12",
         "at U11 and U12 the same words fail, 0x1710-0x171F"},
        {"a port of one word",
         "demo/boards/merrow.yaml",
         {.first = 0x7C88, .last = 0x7C88, .how = A_PORT},
         "U13 U14",
         "at U13 and U14 one word fails, 0x7C88"},
        {"a port in a bank of one chip",
         NULL,
         {.first = 0x0A40, .last = 0x0A47, .how = A_PORT},
         "U2",
         "at U2 the same words fail, 0x0A40-0x0A47"},
        {"half a bank that takes no writes",
         "demo/boards/merrow.yaml",
         {.first = 0x4000, .last = 0x5FFF, .how = PROTECTED},
         "U13 U14",
         "0x4000-0x5FFF"},
        {"one of eight-bit columns that takes none",
         "demo/boards/halvorn64.yaml",
         {.first = 0x9F80, .last = 0x9FFF, .how = PROTECTED},
         "U19 U20 U21 U22 U23 U24 U25 U26",
         "0x9F80-0x9FFF"},
        {"a ROM that drives five bits with a stretch",
         "demo/boards/halvorn64.yaml",
         {.first = 0xA400, .last = 0xA7FF, .how = DRIVEN, .bits = 0xB6},
         "U19 U21 U22 U24 U25",
         "0xA4"},
        {"weak cells in all chips of a bank",
         "demo/boards/halvorn64.yaml",
         {.first = 0x8000, .last = 0xBFFF, .how = WEAK},
         "U19 U20 U21 U22 U23 U24 U25 U26",
         "8 of 8 chips of the upper bank have bad cells, each its own"},
        {"a data line that touches an address line",
         "demo/boards/selvane.yaml",
         {.last = 0x7FFF, .mask = 0x0400, .how = DRIVEN_LOW, .bits = 0x04},
         "U23 U33",
         "at U23 and U33 D2 fails at one level of A10 only"},
        {"the same, where the wiring check takes a bit for dead",
         "demo/boards/halvorn64.yaml",
         {.last = 0xBFFF, .mask = 0x0400, .how = DRIVEN_LOW, .bits = 0x40},
         "U12 U20",
         "at U12 and U20 D6 fails at one level of A10 only"},
        {"the same row of both chips, in pieces",
         "demo/boards/merrow.yaml",
         {.first = 0x8000, .last = 0xBFFF, .mask = 0xF0, .match = 0x30, .how = PROTECTED},
         "U15 U16",
         "U15 and U16 fail in the same words, 1024 of them, the first at 0x8030"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        odd_memory *m = g_memdup2(&rows[i].memory, sizeof *m);
        rmg_errors errors = {0};
        rmg_board *board = NULL;
        rmg_suspects s;
        rmg_run run;
        gchar *sockets;

        if (rows[i].board)
            board = bench_load(rows[i].board);
        else
            CHECK(rmg_board_load_text("made", made_wide, &board, &errors) == RMG_OK, "loads");
        test_memory(board, m, &run, &s);
        CHECK(s.count == 1, "%s: %zu suspects", rows[i].title, s.count);
        sockets = bench_sockets_of(&run, &s.list[0].finding);
        CHECK(s.list[0].finding.kind == RMG_FINDING_SAME_WORDS &&
                  strcmp(sockets, rows[i].sockets) == 0 &&
                  strstr(s.list[0].headline, rows[i].says) && s.list[0].confidence > 0.8,
              "%s: %s; %s", rows[i].title, sockets, s.list[0].headline);
        CHECK(surest_socket(&s) == 0, "%s: no chip is named", rows[i].title);
        g_free(sockets);
        g_free(m);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* The same with what differs from pass to pass. */
static void now_and_then(void)
{
    static const struct {
        const char *title, *board;
        odd_memory memory;
        rmg_finding_kind kind;
        const char *sockets, *says;
    } rows[] = {
        {"DMA, two chips a bank",
         "demo/boards/merrow.yaml",
         {.first = 0x5248, .last = 0x524B, .how = OTHER_WRITER},
         RMG_FINDING_SAME_WORDS,
         "U13 U14",
         "the same words fail, 0x5248-0x524B"},
        {"DMA, eight chips a bank",
         "demo/boards/halvorn64.yaml",
         {.first = 0x14F0, .last = 0x14F3, .how = OTHER_WRITER},
         RMG_FINDING_SAME_WORDS,
         "U11 U12 U13 U14 U15 U16 U17 U18",
         "0x14F0-0x14F3"},
        {"a bank that loses one write in twelve",
         "demo/boards/merrow.yaml",
         {.first = 0x4000, .last = 0x7FFF, .how = WRITES_LOST},
         RMG_FINDING_NOW_AND_THEN,
         "U13 U14",
         "several chips of the middle bank fail in the same word"},
        {"a data line that others drag",
         "demo/boards/halvorn64.yaml",
         {.first = 1, .last = 0, .how = WEAK_LINE, .bits = 0x80},
         RMG_FINDING_NOW_AND_THEN,
         "U11 U19",
         "is all on data line D7"},
    };

    for (size_t i = 0; i < COUNT(rows); i++)
        for (uint64_t seed = 1; seed <= 3; seed++) {
            odd_memory *m = g_memdup2(&rows[i].memory, sizeof *m);
            rmg_board *board = bench_load(rows[i].board);
            rmg_suspects s;
            rmg_run run;
            gchar *sockets;

            m->dice = seed;
            test_memory(board, m, &run, &s);
            CHECK(!rmg_run_repeats(&run), "%s: it differs", rows[i].title);
            CHECK(s.count == 1, "%s: %zu suspects", rows[i].title, s.count);
            sockets = bench_sockets_of(&run, &s.list[0].finding);
            CHECK(s.list[0].finding.kind == rows[i].kind && strcmp(sockets, rows[i].sockets) == 0 &&
                      strstr(s.list[0].headline, rows[i].says) && s.list[0].confidence > 0.8,
                  "%s: %s; %s", rows[i].title, sockets, s.list[0].headline);
            g_free(sockets);
            g_free(m);
            rmg_suspects_free(&s);
            rmg_run_end(&run);
            rmg_board_free(board);
        }
}

/* Bad chips whose words have nothing in common are named as before. */
static void chips_of_their_own(void)
{
    odd_memory *m = g_new0(odd_memory, 1);
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_suspects s;
    rmg_run run;

    m->first = 0x8000;
    m->last = 0xBFFF;
    m->how = TWO_CHIPS;
    test_memory(board, m, &run, &s);
    CHECK(s.count == 2, "%zu suspects", s.count);
    for (size_t i = 0; i < s.count; i++) {
        const char *name = board->sockets[s.list[i].finding.socket].name;

        CHECK((strcmp(name, "U25") == 0 || strcmp(name, "U20") == 0) && s.list[i].confidence > 0.8,
              "%s, %g", name, s.list[i].confidence);
    }
    g_free(m);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* A bank whose refresh leaves rows out, or does not come: its chips all lose what they hold. */
static void refresh_of_a_bank(void)
{
    static const struct {
        rmg_addr rows; /* that are refreshed */
        uint32_t every_us;
        uint8_t banks; /* ones */
        const char *sockets;
    } rows[] = {
        {64, 2000, 2, "U19 U20 U21 U22 U23 U24 U25 U26"},
        {0, 2000, 2, "U19 U20 U21 U22 U23 U24 U25 U26"},
        {0, 2000, 3, "U11 U12 U13 U14 U15 U16 U17 U18 U19 U20 U21 U22 U23 U24 U25 U26"},
        {32, 2000, 3, "U11 U12 U13 U14 U15 U16 U17 U18 U19 U20 U21 U22 U23 U24 U25 U26"},
    };
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_errors errors = {0};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault fault = {
            .kind = RMG_FAULT_REFRESH, .cell = rows[i].rows, .after_us = rows[i].every_us};
        rmg_plan plan = bench_plan(false, 2);
        rmg_steps steps = {0};
        rmg_suspects s;
        rmg_run run;
        gchar *sockets;

        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *rule = &board->placement.rules[r];

            if (rule->bank < 2 && rows[i].banks >> rule->bank & 1u) {
                fault.chip = rule->socket;
                fault.scope[rule->socket >> 6] |= (uint64_t)1 << (rule->socket & 63u);
            }
        }
        CHECK(rmg_steps_parse("plan",
                              "plan: holds\nsteps: [wiring, first memory, march: March C-, "
                              "{hold-ms: 2000}]",
                              &steps, &errors) == RMG_OK,
              "plan");
        plan.steps = &steps;
        plan.limited = rows[i].banks == 2; /* to eight columns */
        plan.limit = (rmg_range){0x8000, 0x83FF};
        bench_examine(board, &fault, 1, &plan, 9, &run, &s);
        CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "%zu: replayed", i);
        rmg_suspects_word(&run, &s);
        CHECK(s.count == 1, "%zu: %zu suspects", i, s.count);
        sockets = bench_sockets_of(&run, &s.list[0].finding);
        CHECK(strcmp(sockets, rows[i].sockets) == 0 &&
                  strstr(s.list[0].headline, "Look at their refresh.") &&
                  s.list[0].confidence > 0.9 && s.list[0].replay_count && s.list[0].replays[0].same,
              "%zu: %s; %s", i, sockets, s.list[0].headline);
        CHECK(s.list[0].rivals[0].cause == RMG_CAUSE_REFRESH, "%zu: refresh", i);
        CHECK((s.list[0].rivals[1].is.said == RMG_SAY_REFRESHED_BY_ACCESSES) == (rows[i].rows == 0),
              "%zu: who refreshes", i);
        g_free(sockets);
        rmg_steps_free(&steps);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* One word that reads all 0, of the only chip of a bank: the chip reaches no cell there. */
static void a_word_of_nothing(void)
{
    odd_memory *m = g_new0(odd_memory, 1);
    rmg_errors errors = {0};
    rmg_board *board = NULL;
    rmg_suspects s;
    rmg_run run;

    *m = (odd_memory){.first = 0x0A40, .last = 0x0A40, .how = DRIVEN_LOW, .bits = 0xFF};
    CHECK(rmg_board_load_text("made", made_wide, &board, &errors) == RMG_OK, "loads");
    test_memory(board, m, &run, &s);
    CHECK(s.count == 1 && s.list[0].finding.socket == rmg_board_socket(board, "U2") &&
              s.list[0].confidence > 0.9,
          "%zu: %s", s.count, s.list[0].headline);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
    g_free(m);
}

CU_TestInfo same_words_tests[] = {
    {"a word of nothing", a_word_of_nothing}, {"something else answers", something_else_answers},
    {"now and then", now_and_then},           {"chips of their own", chips_of_their_own},
    {"refresh of a bank", refresh_of_a_bank}, CU_TEST_INFO_NULL,
};
