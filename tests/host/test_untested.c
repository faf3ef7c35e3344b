/* Chips whose own words were not tested and that drive their lines at every read: ROMs, banks that
 * were not asked for; and what looks a little like them and is not. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "suites.h"

/* A run of this board with these faults, of all RAM or up to an address. */
static void examine(rmg_board *board, const rmg_sim_fault *faults, size_t count, rmg_addr last,
                    uint32_t passes, rmg_run *run, rmg_suspects *suspects)
{
    rmg_plan plan = bench_plan(false, passes);

    plan.limited = last != 0;
    plan.limit.last = last;
    bench_examine(board, faults, count, &plan, 3, run, suspects);
}

/* `count` sockets from one on, by name, drive always. */
static size_t always_on(const rmg_board *board, const char *name, size_t count, uint8_t level,
                        rmg_sim_fault *faults)
{
    for (uint16_t s = 0; s < board->socket_count; s++)
        if (strcmp(board->sockets[s].name, name) == 0)
            for (size_t i = 0; i < count; i++) {
                faults[i] = (rmg_sim_fault){.kind = RMG_FAULT_ALWAYS_ON, .level = level};
                faults[i].chip = (uint16_t)(s + i);
                rmg_fault_include(&faults[i], (uint16_t)(s + i));
            }
    return count;
}

static void roms(void)
{
    static const struct {
        const char *board, *socket, *site;
        size_t chips;
        uint8_t level;
        uint32_t passes;
    } rows[] = {
        {"demo/boards/selvane.yaml", "U8", "U8", 1, 0, 2},
        {"demo/boards/selvane.yaml", "U7", "U7", 1, 1, 1},
        {"demo/boards/merrow.yaml", "U9", "U9", 1, 0, 3},
        {"demo/boards/quarle.yaml", "U7", "U7", 1, 1, 2},
        {"demo/boards/ostrel16.yaml", "U3", "U3", 1, 0, 2},
        {"demo/boards/ostrel16.yaml", "U41", "U41", 1, 1, 2}, /* RAM that nobody asks for */
        {"demo/boards/ostrel16.yaml", "U2", "the select of the program bank", 2, 0, 1},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        rmg_sim_fault faults[2];
        rmg_suspects s;
        rmg_run run;

        examine(board, faults,
                always_on(board, rows[i].socket, rows[i].chips, rows[i].level, faults), 0,
                rows[i].passes, &run, &s);
        CHECK(s.count == 1 && strcmp(s.list[0].site, rows[i].site) == 0 &&
                  s.list[0].confidence > 0.9 && s.list[0].finding.high_wins == rows[i].level,
              "%s, %s: %zu, %s", rows[i].board, rows[i].socket, s.count,
              s.count ? s.list[0].headline : "nobody");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Beside a fault of the RAM: the chip that drives first, what it may only look like after it. */
static void beside_others(void)
{
    static const rmg_sim_fault rows[] = {
        {.kind = RMG_FAULT_OUTPUT, .chip = 1, .level = 1},
        {.kind = RMG_FAULT_NO_WRITE, .scope = {2}},
        {.kind = RMG_FAULT_DESELECTED, .scope = {0xFF}},
    };
    rmg_board *board = bench_load("demo/boards/selvane.yaml");

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault faults[2];
        rmg_suspects s;
        rmg_run run;

        always_on(board, "U8", 1, 0, faults);
        faults[1] = rows[i];
        examine(board, faults, 2, 0, 2, &run, &s);
        CHECK(s.count == 2, "row %zu: %zu", i, s.count);
        for (size_t n = 0; n < s.count; n++)
            CHECK(strcmp(s.list[n].site, "U8") == 0
                      ? s.list[n].confidence > 0.9
                      : s.list[n].confidence < 0.5 && s.list[n].finding.bank == 0,
                  "row %zu: %s, %.2f", i, s.list[n].headline, s.list[n].confidence);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* A ROM whose select also comes where RAM is: it keeps what it holds, whatever is written there. */
static void answers_elsewhere(void)
{
    rmg_board *board = bench_load("demo/boards/selvane.yaml");
    const rmg_sim_fault also = {.kind = RMG_FAULT_ALSO_SELECTED, .bank = 2, .bank2 = 0};
    rmg_suspects s;
    rmg_run run;

    examine(board, &also, 1, 0, 2, &run, &s);
    CHECK(s.count == 1 && s.list[0].finding.kind == RMG_FINDING_SAME_WORDS &&
              rmg_failset_words(run.failures, NULL, run.mask) > 2000,
          "%zu", s.count);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* Of a bank that was not asked for: nobody is sure, the chip that is read included. */
static void banks_not_asked_for(void)
{
    for (uint32_t passes = 1; passes < 3; passes++) {
        rmg_board *board = bench_load("demo/boards/merrow.yaml");
        rmg_sim_fault fault;
        rmg_suspects s;
        rmg_run run;
        double sum = 0;

        always_on(board, "U13", 1, passes & 1u, &fault);
        examine(board, &fault, 1, passes == 1 ? 0x3FFF : 0xFF, passes, &run, &s);
        for (size_t i = 0; i < s.count; i++) {
            const bool cells = s.list[i].finding.kind == RMG_FINDING_CELLS;

            CHECK(s.list[i].confidence < (cells ? 0.51 : 0.26) &&
                      s.list[i].settles.said == RMG_SAY_TEST_ITS_BANK,
                  "%s", s.list[i].headline);
            sum += s.list[i].confidence;
        }
        CHECK(s.count == 3 && sum > 0.9 && sum <= 1, "%zu, %.2f", s.count, sum);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        examine(board, &fault, 1, 0x7FFF, passes, &run, &s); /* its own bank as well */
        CHECK(s.count == 1 && strcmp(s.list[0].site, "U13") == 0 && !s.list[0].finding.untested &&
                  s.list[0].confidence > 0.8,
              "%s", s.count ? s.list[0].headline : "nobody");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* A ROM as deep as the bank that was tested: it explains all bits, two chips of the other bank only
 * some each. */
static void one_before_several(void)
{
    static const char text[] =
        "board: wide\nword: 16\naddress-lines: 16\n"
        "regions: [{name: ram, kind: ram, range: 0x0000-0x1FFF}, {name: rom, kind: rom, range: "
        "0x8000-0x8FFF}]\nbanks:\n"
        "  - {name: low, range: 0x0000-0x0FFF, part: W4, lines: A1-A11, data: {U1: D0-D3, U2: "
        "D4-D7, U3: D8-D11, U4: D12-D15}}\n"
        "  - {name: high, range: 0x1000-0x1FFF, part: W4, lines: A1-A11, data: {U5: D0-D3, U6: "
        "D4-D7, U7: D8-D11, U8: D12-D15}}\n"
        "  - {name: rom, range: 0x8000-0x8FFF, part: 2716, lines: A1-A11, data: {U9: D0-D7, U10: "
        "D8-D15}}\n"
        "sockets: [{names: U1-U10, mount: socket}]\n"
        "parts: [{number: W4, kind: sram, address-lines: 11, width: 4}]\n";
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    rmg_sim_fault fault;
    rmg_suspects s;
    rmg_run run;

    CHECK(rmg_board_load_text("made", text, &board, &errors) == RMG_OK, "loads");
    always_on(board, "U9", 1, 0, &fault);
    examine(board, &fault, 1, 0xFFF, 2, &run, &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "U9") == 0, "%zu: %s", s.count,
          s.count ? s.list[0].headline : "nobody");
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* Faults of the RAM alone, also in a run over a part of it: no chip of another bank is named. */
static void none_named(void)
{
    static const rmg_sim_fault rows[] = {
        {.kind = RMG_FAULT_DESELECTED, .bank = 0, .scope = {3}},
        {.kind = RMG_FAULT_DESELECTED, .scope = {1}},
        {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 0x40, .scope = {3}},
        {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 0x40, .scope = {1}},
        {.kind = RMG_FAULT_OUTPUT, .line = 2},
        {.kind = RMG_FAULT_NO_WRITE, .scope = {1}},
        {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when = {.rate_ppb = 400000000}},
    };
    rmg_board *board = bench_load("demo/boards/merrow.yaml");
    unsigned failed = 0;

    for (size_t i = 0; i < 2 * COUNT(rows); i++) {
        rmg_suspects s;
        rmg_run run;

        examine(board, &rows[i / 2], 1, i & 1u ? 0x1FF : 0, 2, &run, &s);
        failed += rmg_run_failed(&run);
        for (size_t n = 0; n < s.count; n++)
            CHECK(!s.list[n].finding.untested, "row %zu: %s", i, s.list[n].headline);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    CHECK(failed == 2 * COUNT(rows), "%u failed", failed);
    rmg_board_free(board);
}

/* A line that touches one which stays at one level where was tested has no effect there. */
static void lines_not_moved(void)
{
    static const struct {
        rmg_addr last;
        bool said;
    } rows[] = {{0x3FF, true}, {0x3FFF, false}, {0, false}};
    rmg_board *board = bench_load("demo/boards/merrow.yaml");
    const rmg_sim_fault touch = {.kind = RMG_FAULT_ADDRESS_SHORT, .lines = 0x1008, .scope = {3}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_suspect *first;
        rmg_suspects s;
        rmg_run run;
        bool said = false;

        examine(board, &touch, 1, rows[i].last, 2, &run, &s);
        CHECK(s.count == 1, "row %zu: %zu", i, s.count);
        first = &s.list[0];
        for (size_t r = 0; s.count && r < first->rival_count; r++)
            said |= first->rivals[r].is.said == RMG_SAY_TOUCHES_STILL &&
                    (first->rivals[r].is.lines & 0x1000);
        CHECK(said == rows[i].said &&
                  first->finding.lines == (rmg_addr)(rows[i].said ? 0x8 : 0x1008),
              "row %zu: %s", i, first->headline);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* A bit that is dead in the only bank that was tested may be the line's: the other bank tells. */
static void line_of_one_bank(void)
{
    rmg_board *board = bench_load("demo/boards/merrow.yaml");
    const rmg_sim_fault dead[] = {{.kind = RMG_FAULT_DATA_LINE, .line = 3, .level = 1},
                                  {.kind = RMG_FAULT_OUTPUT, .line = 3, .level = 1}};

    for (size_t i = 0; i < 4; i++) {
        const bool part = i & 1u;
        rmg_suspects s;
        rmg_run run;
        bool said = false;

        examine(board, &dead[i / 2], 1, part ? 0x3FFF : 0, 2, &run, &s);
        CHECK(s.count == 1, "row %zu: %zu", i, s.count);
        for (size_t r = 0; s.count && r < s.list[0].rival_count; r++)
            said |= s.list[0].rivals[r].is.said == RMG_SAY_LINE_NOT_TESTED &&
                    s.list[0].rivals[r].share > 0.2;
        CHECK(said == part && (s.list[0].settles.said == RMG_SAY_TEST_ON_LINES) == part,
              "row %zu: %s", i, s.list[0].headline);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* In few words some bit of a chip that is never written may be the same everywhere: it is no other
 * fault for that. */
static void never_written_in_few_words(void)
{
    rmg_board *board = bench_load("demo/boards/merrow.yaml");
    const rmg_sim_fault kept = {.kind = RMG_FAULT_NO_WRITE, .scope = {2}};
    rmg_plan plan = bench_plan(false, 1);

    plan.limited = true;
    plan.limit.last = 0x7;
    for (uint64_t seed = 0; seed < 60; seed++) {
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &kept, 1, &plan, seed, &run, &s);
        CHECK(s.count == 1 && s.list[0].finding.kind == RMG_FINDING_NEVER_WRITTEN &&
                  s.list[0].finding.socket == 1 && s.list[0].finding.bits == 0xF0,
              "seed %u: %s", (unsigned)seed, s.count ? s.list[0].headline : "nobody");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

CU_TestInfo untested_tests[] = {
    {"ROMs", roms},
    {"beside other faults", beside_others},
    {"ROMs that answer elsewhere", answers_elsewhere},
    {"banks not asked for", banks_not_asked_for},
    {"one before several", one_before_several},
    {"none named", none_named},
    {"lines that were not moved", lines_not_moved},
    {"a line of the only bank tested", line_of_one_bank},
    {"never written, in few words", never_written_in_few_words},
    CU_TEST_INFO_NULL,
};
