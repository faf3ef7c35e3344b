/* What is known by other means: chips that are good, stretches that were measured, and how often
 * each cause is the culprit. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"

/* A run with one fault, and its suspects with these facts. */
static void examine(const rmg_board *board, const rmg_sim_fault *fault, const rmg_facts *facts,
                    rmg_run *run, rmg_suspects *s)
{
    const rmg_plan plan = bench_plan(false, 2);

    bench_examine(board, fault, 1, &plan, 9, run, s);
    rmg_suspects_free(s);
    rmg_suspects_find(run, facts, s);
    rmg_suspects_word(run, s);
}

static const rmg_rival *rival(const rmg_suspect *s, rmg_cause cause)
{
    for (size_t i = 0; i < s->rival_count; i++)
        if (s->rivals[i].cause == cause)
            return &s->rivals[i];
    return NULL;
}

static bool says(const rmg_suspect *s, const char *words)
{
    for (size_t i = 0; s->because[i]; i++)
        if (strstr(s->because[i], words))
            return true;
    return false;
}

/* A chip known to be good is out; the contact and the track divide what is left, in their old
 * ratio; and that the fault is there at all is less sure by just as much. */
static void known_good(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault fault = {
        .kind = RMG_FAULT_ADDRESS_CHIP, .chip = rmg_board_socket(board, "U22"), .lines = 8};
    rmg_facts facts;
    rmg_suspects s;
    rmg_run run;
    rmg_error error = {0};
    double before, contact, track, sure, gone;

    rmg_facts_begin(&facts);
    examine(board, &fault, &facts, &run, &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "U22") == 0, "U22");
    sure = s.list[0].confidence;
    before = rival(&s.list[0], RMG_CAUSE_CONTACT_ADDRESS)->share /
             rival(&s.list[0], RMG_CAUSE_TRACK_ADDRESS)->share;
    gone = rival(&s.list[0], RMG_CAUSE_CHIP_ADDRESS)->share +
           rival(&s.list[0], RMG_CAUSE_PART_SMALLER)->share;
    rmg_suspects_free(&s);
    CHECK(rmg_facts_known_good(&facts, board, "u22", &error) == RMG_OK, "capitals or not");
    CHECK(rmg_facts_known_good(&facts, board, "U99", &error) == RMG_ERR_RANGE &&
              strstr(error.what, "no socket U99") && strstr(error.what, "U22"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_suspects_find(&run, &facts, &s);
    rmg_suspects_word(&run, &s);
    CHECK(!rival(&s.list[0], RMG_CAUSE_CHIP_ADDRESS) && !rival(&s.list[0], RMG_CAUSE_PART_SMALLER),
          "the chip is out");
    contact = rival(&s.list[0], RMG_CAUSE_CONTACT_ADDRESS)->share;
    track = rival(&s.list[0], RMG_CAUSE_TRACK_ADDRESS)->share;
    CHECK(contact / track - before < 1e-9 && contact + track > 0.999, "%.3f %.3f", contact, track);
    CHECK(says(&s.list[0], "What you reported rules out: the chip in U22"), "and it says so");
    CHECK(s.list[0].confidence > 0 &&
              (s.list[0].confidence - sure * (1 - gone) / (1 - gone * sure)) < 1e-9,
          "%.3f to %.3f", sure, s.list[0].confidence);
    rmg_replay(&run, &s, 0, NULL, NULL);
    rmg_suspects_word(&run, &s);
    CHECK(s.list[0].replay_count && (s.list[0].excluded & RMG_CAUSE_BIT(RMG_CAUSE_CHIP_ADDRESS)),
          "the contact is replayed");
    for (size_t i = 0; i < s.list[0].replay_count; i++)
        CHECK(s.list[0].replays[i].causes & ~s.list[0].excluded, "%s: only the chip could do it",
              s.list[0].replays[i].fault);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_facts_end(&facts);
    rmg_board_free(board);
}

/* Cells of a chip that is good: little is left, and it is said how little. */
static void good_cells(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault fault = {
        .kind = RMG_FAULT_CELL, .chip = rmg_board_socket(board, "U19"), .cell = 300};
    rmg_facts facts;
    rmg_suspects s;
    rmg_run run;
    rmg_error error = {0};

    rmg_facts_begin(&facts);
    CHECK(rmg_facts_known_good(&facts, board, "U19", &error) == RMG_OK, "known");
    examine(board, &fault, &facts, &run, &s);
    CHECK(s.list[0].confidence < 0.5 && s.list[0].rival_count == 1 &&
              s.list[0].rivals[0].cause == RMG_CAUSE_SUPPLY,
          "%.2f", s.list[0].confidence);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_facts_end(&facts);
    rmg_board_free(board);
}

/* A is U1.35, then U5.5; U32.5>U32.7, R6, U11.10 ... U18.10; U34.5>U34.7, R16, U19.10 ... U26.10.
 */
static void which_stretches(void)
{
    static const struct {
        const char *points;
        const char *sound; /* "point" the way to it, "point*" the part there */
    } rows[] = {
        {"U1.35-U5.5", "U5.5"},
        {"R16-U21.10", "U19.10 U19.10* U20.10 U20.10* U21.10"},
        {"u21.10-r16", "U19.10 U19.10* U20.10 U20.10* U21.10"},
        {"U34.7-U19.10", "R16 R16* U19.10"},
        {"U34.5-U19.10", "U34.5>U34.7* R16 R16* U19.10"},
        {"U1.35-U34.5", "U34.5>U34.7"},
        {"U1.35-U34.7", "U34.5>U34.7 U34.5>U34.7*"},
        {"U5.5-R6", "U5.5 U32.5>U32.7 U32.5>U32.7* R6"},
    };
    rmg_board *board = bench_load(HALVORN);
    uint16_t n = 0;

    while (strcmp(board->lines[n].name, "A5") != 0)
        n++;
    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_line *line = &board->lines[n];
        GString *got = g_string_new(NULL);
        rmg_error error = {0};
        rmg_facts facts;

        rmg_facts_begin(&facts);
        CHECK(rmg_facts_continuous(&facts, board, rows[i].points, &error) == RMG_OK, "%s: %s",
              rows[i].points, error.what ? error.what : "");
        for (uint16_t p = 0; p < line->point_count; p++)
            for (int part = 0; part < 2; part++)
                if (rmg_facts_sound(&facts, n, p, part))
                    g_string_append_printf(got, "%s%s%s", got->len ? " " : "", line->points[p].name,
                                           part ? "*" : "");
        CHECK(strcmp(got->str, rows[i].sound) == 0, "%s: %s", rows[i].points, got->str);
        g_string_free(got, TRUE);
        rmg_facts_end(&facts);
    }
    rmg_board_free(board);
}

static void wrong_stretches(void)
{
    static const struct {
        const char *points, *words;
    } rows[] = {
        {"R16", "expected two different points"},
        {"R16-R99", "has both R16 and R99"},
        {"R6-U5.6", "has both"}, /* of different lines */
    };
    rmg_board *board = bench_load(HALVORN);
    rmg_facts facts;

    rmg_facts_begin(&facts);
    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_error error = {0};

        CHECK(rmg_facts_continuous(&facts, board, rows[i].points, &error) == RMG_ERR_RANGE &&
                  error.what && strstr(error.what, rows[i].words),
              "%s: %s", rows[i].points, error.what ? error.what : "");
        rmg_error_free(&error);
    }
    CHECK(!facts.sound_count, "nothing is noted");
    rmg_facts_end(&facts);
    rmg_board_free(board);
}

/* The very stretch that a suspect lies on was measured: its track is out, the joint too. */
static void measured(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_sim_fault fault = {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = (rmg_addr)1 << 5};
    rmg_facts facts;
    rmg_suspects s;
    rmg_run run;
    rmg_error error = {0};

    for (unsigned n = 22; n <= 26; n++) {
        gchar *name = g_strdup_printf("U%u", n);

        rmg_fault_include(&fault, rmg_board_socket(board, name));
        g_free(name);
    }
    rmg_facts_begin(&facts);
    examine(board, &fault, &facts, &run, &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "line A5 between U21.10 and U22.10") == 0 &&
              rival(&s.list[0], RMG_CAUSE_LINE_TRACK),
          "%s", s.count ? s.list[0].site : "");
    rmg_suspects_free(&s);
    CHECK(rmg_facts_continuous(&facts, board, "U1.35-U26.10", &error) == RMG_OK, "measured");
    rmg_suspects_find(&run, &facts, &s);
    rmg_suspects_word(&run, &s);
    CHECK(s.count == 1 && !rival(&s.list[0], RMG_CAUSE_LINE_TRACK) &&
              !rival(&s.list[0], RMG_CAUSE_LINE_JOINT) && s.list[0].rival_count &&
              says(&s.list[0], "What you reported rules out: the track between U21.10 and U22.10"),
          "the stretch is sound");
    rmg_replay(&run, &s, 0, NULL, NULL);
    rmg_suspects_word(&run, &s);
    CHECK(s.list[0].confidence < 0.5, "nor does replay make it sure again: %.2f",
          s.list[0].confidence);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_facts_end(&facts);
    rmg_board_free(board);
}

/* The table of causes as a file: what it writes it reads; what it is given is taken. */
static void table_of_causes(void)
{
    rmg_errors errors = {0};
    rmg_cause_table standard, table;
    char *text;

    rmg_causes_standard(&standard);
    text = rmg_causes_text(&standard);
    CHECK(rmg_causes_load_text("own", text, &table, &errors) == RMG_OK &&
              memcmp(&table, &standard, sizeof table) == 0,
          "written and read");
    rmg_text_free(text);
    for (unsigned i = 0; i < RMG_CAUSES; i++)
        CHECK(standard.socketed[i] > 0 && *rmg_cause_name((rmg_cause)i) &&
                  *rmg_cause_words((rmg_cause)i),
              "cause %u has a weight, a name and words", i);
    CHECK(rmg_causes_load_text("own", "contact-address: 200\nchip-address: [1, 2.5]\n", &table,
                               &errors) == RMG_OK &&
              table.socketed[RMG_CAUSE_CONTACT_ADDRESS] == 200 &&
              table.soldered[RMG_CAUSE_CHIP_ADDRESS] == 2.5 &&
              table.socketed[RMG_CAUSE_CHIP_CELLS] == standard.socketed[RMG_CAUSE_CHIP_CELLS],
          "one number, two, none");
    rmg_errors_free(&errors);
}

static void wrong_tables(void)
{
    static const struct {
        const char *text, *words;
    } rows[] = {
        {"contact-adress: 5\n", "own:1: "},
        {"chip-output: 55\ncontact-output: often\n", "own:2: contact-output: found \"often\""},
        {"chip-output: -1\n", "0 to 1000"},
        {"chip-output: 1001\n", "0 to 1000"},
        {"chip-output: [1]\n", "a number, or two"},
        {"chip-output: [1, 2, 3]\n", "a number, or two"},
        {"chip-output: {a: 1}\n", "a number, or two"},
        {"- chip-output\n", "a table of causes"},
        {"chip-output: [1\n", "own:"},
    };
    rmg_cause_table standard, table;

    rmg_causes_standard(&standard);
    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_errors errors = {0};

        CHECK(rmg_causes_load_text("own", rows[i].text, &table, &errors) == RMG_ERR_CONTENT &&
                  errors.count && strstr(errors.list[0].what, rows[i].words) &&
                  memcmp(&table, &standard, sizeof table) == 0,
              "%s: %s", rows[i].text, errors.count ? errors.list[0].what : "");
        rmg_errors_free(&errors);
    }
}

/* A table of one's own changes the order of what looks the same, and nothing else. */
static void own_table(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault fault = {
        .kind = RMG_FAULT_ADDRESS_CHIP, .chip = rmg_board_socket(board, "U22"), .lines = 8};
    rmg_errors errors = {0};
    rmg_facts facts;
    rmg_suspects s;
    rmg_run run;
    double sum = 0;

    rmg_facts_begin(&facts);
    CHECK(rmg_causes_load(temporary_file("causes.yaml", "track-address: 500\n"), &facts.causes,
                          &errors) == RMG_OK,
          "loaded");
    examine(board, &fault, &facts, &run, &s);
    for (size_t i = 0; i < s.list[0].rival_count; i++)
        sum += s.list[0].rivals[i].share;
    CHECK(s.list[0].rivals[0].cause == RMG_CAUSE_TRACK_ADDRESS && s.list[0].rivals[0].share > 0.8 &&
              sum > 0.999 && sum < 1.001,
          "%s", s.list[0].rivals[0].name);
    CHECK(rmg_causes_load("no-such-file.yaml", &facts.causes, &errors) == RMG_ERR_FILE &&
              errors.count == 1,
          "no file");
    rmg_errors_free(&errors);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_facts_end(&facts);
    rmg_board_free(board);
}

CU_TestInfo fact_tests[] = {
    {"a chip known to be good", known_good},
    {"cells of a good chip", good_cells},
    {"which stretches were measured", which_stretches},
    {"wrong stretches", wrong_stretches},
    {"the suspect's stretch was measured", measured},
    {"the table of causes", table_of_causes},
    {"wrong tables", wrong_tables},
    {"a table of one's own", own_table},
    CU_TEST_INFO_NULL,
};
