/* ROMs in a job: each later reading is a trial of what was changed; what was looked at and measured
 * counts too; and what follows is worded. */
#include <glib.h>
#include <jansson.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "bench_job.h"
#include "rimeglass/job.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

/* Results of verifications as the tool writes them, as far as a trial reads them. */
#define RESULT(what, bare, suspects)                                                               \
    "{\"rimeglass_rom\": 2, \"action\": \"verify\", \"what\": \"" what                             \
    "\", \"complete\": true, \"reading\": {\"bare\": " bare "}, \"suspects\": [" suspects "]}"
#define RIVAL(said, cause, share)                                                                  \
    "{\"name\": \"" said "\", \"cause\": \"" cause "\", \"share\": " share                         \
    ", \"is\": {\"said\": \"" said "\", \"socket\": \"U5\"}}"
#define SUSPECT(site, said, rivals)                                                                \
    "{\"site\": \"" site "\", \"kind\": \"wrong\", \"advice\": \"U5 is wrong.\", \"confidence\": " \
    "0.97, \"explained\": 1, \"is\": {\"said\": \"" said                                           \
    "\", \"socket\": \"U5\"}, \"rivals\": [" rivals "]}"
#define PIN_RIVALS                                                                                 \
    RIVAL("chip_output_at", "chip-output", "0.5")                                                  \
    ", " RIVAL("contact_at", "contact-output",                                                     \
               "0.25") ", " RIVAL("track_to_pin", "track-data",                                    \
                                  "0.15") ", " RIVAL("another_chip_holds", "chip-drags", "0.1")
#define D3    SUSPECT("data line D3 (U5 pin 15)", "rom_data_line", PIN_RIVALS)
#define D4    SUSPECT("data line D4 (U5 pin 16)", "rom_data_line", PIN_RIVALS)
#define CELLS SUSPECT("U5", "rom_fading", RIVAL("cells_fade", "chip-cells", "1"))
#define WRONG RESULT("U5 (27128)", "false", D3)
#define RIGHT RESULT("U5 (27128)", "false", "")
#define BARE_WRONG                                                                                 \
    RESULT("U5 (27128)", "true",                                                                   \
           SUSPECT("data line D3 (U5 pin 15)", "rom_data_line",                                    \
                   RIVAL("chip_itself_at", "", "0.9") ", " RIVAL("adapter_contact", "", "0.1")))
#define BARE_RIGHT RESULT("U5 (27128)", "true", "")

static void verify(rmg_job *job, const char *result)
{
    rmg_error error;

    CHECK(rmg_job_add_run(job, "verify", "verified", NULL, result, &error) == RMG_OK, "%s",
          error.what);
}

/* A step of a story: 'v' verified, 'c' changed, 'm' measured, 's' saw. */
typedef struct story_step {
    char kind;
    const char *text;
} story_step;

static void tell(rmg_job *job, const story_step *steps)
{
    for (; steps->kind; steps++)
        if (steps->kind == 'v')
            verify(job, steps->text);
        else
            bench_job_tell(job,
                           steps->kind == 'c'   ? RMG_ENTRY_CHANGE
                           : steps->kind == 'm' ? RMG_ENTRY_MEASURED
                                                : RMG_ENTRY_SAW,
                           steps->text);
}

static rmg_job_state think(rmg_job *job)
{
    rmg_job_state state;
    rmg_error error;

    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
    return state;
}

/* The share of the causes at a socket that belong to that, of the first ROM. */
static double share(const rmg_job_state *state, const rmg_board *board, rmg_belongs belongs,
                    const char *socket)
{
    const uint16_t at = rmg_board_socket(board, socket);
    double sum = 0;

    for (size_t i = 0; state->rom_count && i < state->roms[0].count; i++)
        if (state->roms[0].list[i].belongs == belongs && state->roms[0].list[i].socket == at)
            sum += state->roms[0].list[i].after;
    return sum;
}

/* Short repairs: what is likeliest after them, how likely at least, what the last reading showed.
 */
static void stories(void)
{
    static const struct {
        const char *title;
        rmg_belongs belongs;
        const char *socket;
        double least, most;
        rmg_outcome outcome;
        bool right;
        story_step steps[8];
    } rows[] = {
        {"right once reseated",
         RMG_BELONGS_CONTACT,
         "U5",
         0.9,
         1,
         RMG_OUTCOME_GONE,
         true,
         {{'v', WRONG}, {'c', "reseat U5"}, {'v', RIGHT}}},
        {"wrong though reseated",
         RMG_BELONGS_CONTACT,
         "U5",
         0,
         0.12,
         RMG_OUTCOME_UNCHANGED,
         false,
         {{'v', WRONG}, {'c', "reseat U5"}, {'v', WRONG}}},
        {"right on its own pins",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.05,
         RMG_OUTCOME_GONE,
         false,
         {{'v', WRONG}, {'v', BARE_RIGHT}}},
        {"wrong on its own pins",
         RMG_BELONGS_CHIP,
         "U5",
         0.93,
         1,
         RMG_OUTCOME_UNCHANGED,
         false,
         {{'v', WRONG}, {'v', BARE_WRONG}}},
        {"read on its own pins first",
         RMG_BELONGS_CHIP,
         "U5",
         0.93,
         1,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', BARE_WRONG}, {'v', WRONG}}},
        {"another chip in it, and right",
         RMG_BELONGS_CHIP,
         "U5",
         0.7,
         0.9,
         RMG_OUTCOME_GONE,
         true,
         {{'v', WRONG}, {'c', "fit U5 with lot 2"}, {'v', RIGHT}}},
        {"another chip in it, wrong as before",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.03,
         RMG_OUTCOME_STAYED,
         false,
         {{'v', WRONG}, {'c', "fit U5 with lot 2"}, {'v', WRONG}}},
        {"another one pulled, and right",
         RMG_BELONGS_CHIP,
         "U23",
         0.7,
         1,
         RMG_OUTCOME_GONE,
         true,
         {{'v', WRONG}, {'c', "pull U23"}, {'v', RIGHT}}},
        {"one pulled that is not on that line",
         RMG_BELONGS_CHIP,
         "U22",
         0,
         0,
         RMG_OUTCOME_GONE,
         true,
         {{'v', WRONG}, {'c', "pull U22"}, {'v', RIGHT}}},
        {"repaired, and right",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.03,
         RMG_OUTCOME_GONE,
         true,
         {{'v', WRONG}, {'c', "repair U5"}, {'v', RIGHT}}},
        {"measured open",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.02,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', WRONG}, {'m', "U5 open"}}},
        {"measured whole",
         RMG_BELONGS_CHIP,
         "U5",
         0.75,
         1,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', WRONG}, {'m', "U5 whole"}}},
        {"known to be good",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.03,
         RMG_OUTCOME_PASSED,
         false,
         {{'m', "U5 good"}, {'v', WRONG}}},
        {"right in another board",
         RMG_BELONGS_CHIP,
         "U5",
         0,
         0.15,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', WRONG}, {'s', "U5 passes in console 4"}}},
        {"wrong in another board",
         RMG_BELONGS_CHIP,
         "U5",
         0.85,
         1,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', WRONG}, {'s', "U5 fails in console 4"}}},
        {"the change made it wrong",
         RMG_BELONGS_CHIP,
         "U5",
         0.6,
         1,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', RIGHT}, {'c', "fit U5 with lot 2"}, {'v', WRONG}}},
        {"it was reseated, and is wrong since",
         RMG_BELONGS_CONTACT,
         "U5",
         0.65,
         1,
         RMG_OUTCOME_PASSED,
         false,
         {{'v', RIGHT}, {'c', "reseat U5"}, {'v', WRONG}}},
        {"cells are the chip's",
         RMG_BELONGS_CHIP,
         "U5",
         0.95,
         1,
         RMG_OUTCOME_UNCHANGED,
         false,
         {{'v', RESULT("U5 (27128)", "false", CELLS)},
          {'c', "reseat U5"},
          {'v', RESULT("U5 (27128)", "false", CELLS)}}},
        {"where nothing answers no line is seen",
         RMG_BELONGS_CHIP,
         "U5",
         0.45,
         0.55,
         RMG_OUTCOME_OTHERWISE,
         false,
         {{'v', WRONG},
          {'v', RESULT("U5 (27128)", "true",
                       SUSPECT("U5", "rom_nothing", RIVAL("dead", "chip-output", "1")))}}},
        {"something else came with it",
         RMG_BELONGS_CONTACT,
         "U5",
         0,
         0.12,
         RMG_OUTCOME_WORSE,
         false,
         {{'v', WRONG}, {'c', "reseat U5"}, {'v', RESULT("U5 (27128)", "false", D3 ", " D4)}}},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("rom.job", board);
        rmg_job_state state;
        const rmg_job_rom *rom;
        double is;

        tell(job, rows[i].steps);
        state = think(job);
        rom = state.roms;
        is = share(&state, board, rows[i].belongs, rows[i].socket);
        CHECK(state.rom_count == 1 && is >= rows[i].least && is <= rows[i].most, "%s: %.3f",
              rows[i].title, is);
        CHECK(rom && rom->right == rows[i].right && rom->right == !rom->advice_count,
              "%s: right, or there is something to do", rows[i].title);
        CHECK(rom && rom->readings[rom->reading_count - 1u].outcome == rows[i].outcome,
              "%s: what became of it: %s", rows[i].title,
              rom ? rmg_outcome_name(rom->readings[rom->reading_count - 1u].outcome) : "");
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    rmg_board_free(board);
}

/* Two findings are two faults: one is mended, the other stays. */
static void two_at_once(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_job *job = bench_job_made("rom.job", board);
    const story_step steps[] = {{'v', RESULT("U5 (27128)", "false", D3 ", " CELLS)},
                                {'c', "reseat U5"},
                                {'v', RESULT("U5 (27128)", "false", CELLS)},
                                {0, NULL}};
    rmg_job_state state;

    tell(job, steps);
    state = think(job);
    CHECK(state.rom_count == 1 && state.roms[0].readings[1].outcome == RMG_OUTCOME_LESS,
          "less of it is wrong");
    CHECK(rmg_faults_at_once(state.roms[0].list, state.roms[0].count) == 2 &&
              rmg_fault_gone(state.roms[0].list, state.roms[0].count, 0) > 0.85 &&
              rmg_fault_gone(state.roms[0].list, state.roms[0].count, 1) < 0.1,
          "the contact is mended, the cells are not");
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* Chips of a region, verified together and by themselves; a chip that is moved takes its fault
 * along. */
static void chips_of_a_region(void)
{
    static const char *const region = RESULT(
        "region program ROM (U2, U3)", "false",
        "{\"site\": \"data line D11 (U3 pin 15)\", \"kind\": \"stuck\", \"advice\": \"U3.\", "
        "\"confidence\": 0.97, \"is\": {\"said\": \"rom_data_line\"}, \"rivals\": [{\"name\": "
        "\"the chip\", \"cause\": \"chip-output\", \"share\": 0.6, \"is\": {\"said\": "
        "\"chip_output_at\"}}, {\"name\": \"its contact\", \"cause\": \"contact-output\", "
        "\"share\": 0.4, \"is\": {\"said\": \"contact_at\"}}]}");
    static const char *const moved =
        RESULT("U2 (27128)", "false",
               "{\"site\": \"data line D3 (U2 pin 15)\", \"kind\": \"stuck\", \"advice\": \"U2.\", "
               "\"confidence\": 0.97, \"is\": {\"said\": \"rom_data_line\", \"socket\": \"U2\"}, "
               "\"rivals\": []}");
    rmg_board *board = bench_load(OSTREL);
    rmg_job *job = bench_job_made("rom.job", board);
    rmg_job_state state;

    verify(job, region);
    verify(job, RESULT("U2 (27128)", "true", "")); /* says nothing of U3 */
    state = think(job);
    CHECK(state.rom_count == 1 && share(&state, board, RMG_BELONGS_CHIP, "U3") > 0.5 &&
              share(&state, board, RMG_BELONGS_CHIP, "U3") < 0.62,
          "what is read of U2 alone says nothing of U3");
    CHECK(state.rom_count == 1 && state.roms[0].readings[1].outcome == RMG_OUTCOME_PASSED,
          "nor is what was wrong gone");
    rmg_job_state_free(&state);
    verify(job, RESULT("U2 (27128)", "false", ""));
    state = think(job);
    CHECK(state.rom_count == 1 && !state.roms[0].right && state.roms[0].advice_count,
          "U2 is right in the board; the region is not, and there is something to do");
    rmg_job_state_free(&state);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "swap U2 U3");
    verify(job, moved);
    state = think(job);
    CHECK(state.rom_count == 1 && state.roms[0].reading_count == 4 &&
              state.roms[0].readings[3].outcome == RMG_OUTCOME_WENT &&
              share(&state, board, RMG_BELONGS_CHIP, "U3") > 0.95,
          "it went with the chip from U3 to U2");
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* What can be done next, and what was done already. */
static void advised(void)
{
    static const char *const both =
        "{\"action\": \"verify\", \"what\": \"U5 (27128)\", \"complete\": true, \"reading\": "
        "{\"bare\": false}, \"bare\": {\"bare\": true}, \"suspects\": [" D3 "]}";
    const struct {
        const char *title;
        rmg_change_kind kind;
        const char *socket;
        bool advised;
        story_step steps[6];
    } rows[] = {
        {"on its own pins", RMG_CHANGE_READ, "U5", true, {{'v', WRONG}}},
        {"read both ways", RMG_CHANGE_READ, "U5", false, {{'v', both}}},
        {"read there already",
         RMG_CHANGE_READ,
         "U5",
         false,
         {{'v', WRONG}, {'v', BARE_RIGHT}, {'c', "reseat U5"}, {'v', WRONG}}},
        {"measured already", RMG_CHANGE_MEASURE, "U5", false, {{'v', WRONG}, {'m', "U5 whole"}}},
        {"measured, and reseated",
         RMG_CHANGE_MEASURE,
         "U5",
         true,
         {{'v', WRONG}, {'m', "U5 whole"}, {'c', "reseat U5"}, {'v', WRONG}}},
        {"reseated already",
         RMG_CHANGE_RESEAT,
         "U5",
         false,
         {{'v', WRONG}, {'c', "reseat U5"}, {'v', WRONG}}},
        {"another chip in a socket",
         RMG_CHANGE_PULL,
         "U23",
         true,
         {{'v', WRONG}, {'v', BARE_RIGHT}, {'m', "U5 whole"}}},
        {"another chip, soldered",
         RMG_CHANGE_PULL,
         "U15",
         false,
         {{'v', WRONG}, {'v', BARE_RIGHT}, {'m', "U5 whole"}}},
        {"the repair", RMG_CHANGE_REPLACE, "U5", true, {{'v', WRONG}, {'v', BARE_WRONG}}},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("rom.job", board);
        const uint16_t socket = rmg_board_socket(board, rows[i].socket);
        rmg_job_state state;
        bool found = false;

        tell(job, rows[i].steps);
        state = think(job);
        for (size_t n = 0; state.rom_count && n < state.roms[0].advice_count; n++) {
            const rmg_advice *a = &state.roms[0].advice[n];
            double chances = 0;

            found |= a->change.kind == rows[i].kind && a->change.socket == socket;
            for (size_t r = 0; r < a->result_count; r++)
                chances += a->results[r].chance;
            CHECK(a->settles || (chances > 0.97 && chances < 1.001), "%s: chances of %.3f",
                  rows[i].title, chances);
        }
        CHECK(found == rows[i].advised, "%s", rows[i].title);
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    rmg_board_free(board);
}

/* Chips in each other's socket are exchanged; what is done elsewhere needs no new reading. */
static void exchanged(void)
{
    static const char *const swapped = RESULT(
        "region program ROM (U2, U3)", "false",
        "{\"site\": \"the image in program ROM\", \"kind\": \"even and odd\", \"advice\": \"x\", "
        "\"confidence\": 0.97, \"is\": {\"said\": \"rom_image\"}, \"rivals\": [{\"name\": "
        "\"exchanged\", \"share\": 0.7, \"is\": {\"said\": \"exchanged_sockets\"}}, {\"name\": "
        "\"split\", \"share\": 0.3, \"is\": {\"said\": \"split_exchanged\"}}]}");
    rmg_board *board = bench_load(OSTREL);
    rmg_job *job = bench_job_made("rom.job", board);
    rmg_job_state state;

    verify(job, swapped);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "reseat U33");
    state = think(job);
    CHECK(state.rom_count == 1 && !state.roms[0].untested && state.roms[0].advice_count == 1 &&
              state.roms[0].advice[0].settles &&
              state.roms[0].advice[0].change.kind == RMG_CHANGE_SWAP,
          "swap U2 U3; U33 has nothing to do with it");
    rmg_job_state_free(&state);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "swap U2 U3");
    state = think(job);
    CHECK(state.rom_count == 1 && state.roms[0].untested == 1, "to be read again");
    rmg_job_state_free(&state);
    verify(job, RESULT("region program ROM (U2, U3)", "false", ""));
    state = think(job);
    CHECK(state.rom_count == 1 && state.roms[0].right &&
              state.roms[0].readings[1].outcome == RMG_OUTCOME_GONE &&
              state.roms[0].list[0].after > 0.9 && state.roms[0].list[0].rival == 0,
          "it was that");
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* The sentences, and the JSON. */
static void worded(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_job *job = bench_job_made("rom.job", board);
    const story_step steps[] = {{'v', WRONG}, {'v', BARE_RIGHT}, {'c', "pull U23"}, {0, NULL}};
    rmg_job_state state;
    rmg_entry *entries;
    rmg_error error;
    size_t count;
    char **lines, *text;
    json_t *root;

    tell(job, steps);
    state = think(job);
    lines = rmg_job_lines(job, &state);
    CHECK(strcmp(lines[0], "U5: On its own pins it reads right.") == 0 &&
              strcmp(lines[2], "Next: verify U5 again; since the last reading: pull U23.") == 0,
          "%s %s", lines[0], lines[2]);
    rmg_texts_free(lines);
    rmg_job_state_free(&state);
    verify(job, RIGHT);
    state = think(job);
    lines = rmg_job_lines(job, &state);
    CHECK(strcmp(lines[0], "U5: It reads right now (pull U23).") == 0 &&
              strstr(lines[1], "another_chip_holds: U23; that chip is out of the board now") &&
              strcmp(lines[2], "Next: fit U23 with another chip, and verify U5 again.") == 0,
          "%s %s %s", lines[0], lines[1], lines[2]);
    rmg_texts_free(lines);
    CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK, "entries");
    text = rmg_job_json(job, &state, entries, count);
    root = text ? json_loads(text, 0, NULL) : NULL;
    CHECK(json_is_true(json_object_get(json_array_get(json_object_get(root, "roms"), 0), "right")),
          "as JSON");
    json_decref(root);
    rmg_text_free(text);
    text = rmg_job_html(job, &state, entries, count);
    CHECK(text && strstr(text, "The chip U5 (27128) reads right.") &&
              strstr(text, "What it can be: U5 (27128)"),
          "on the sheet");
    rmg_text_free(text);
    rmg_entries_free(entries, count);
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* What is no verification is refused, and what a result leaves out is not made up. */
static void results_that_are_none(void)
{
    static const char *const wrong[] = {
        "", "[]", "{\"action\": \"dump\", \"what\": \"U5\", \"suspects\": []}",
        "{\"action\": \"verify\", \"suspects\": []}", "{\"action\": \"verify\", \"what\": \"U5\"}"};
    rmg_board *board = bench_load(HALVORN);
    rmg_rom_verdict verdict;
    rmg_error error;

    for (size_t i = 0; i < COUNT(wrong); i++) {
        CHECK(rmg_rom_verdict_read(board, wrong[i], &verdict, &error) == RMG_ERR_CONTENT &&
                  strstr(error.what, "expected the JSON result of a verification"),
              "row %zu", i);
        rmg_error_free(&error);
        rmg_rom_verdict_free(&verdict);
    }
    CHECK(rmg_rom_verdict_read(board, RESULT("U77 (27128)", "false", "{}"), &verdict, &error) ==
                  RMG_OK &&
              verdict.suspects.count == 1 && !verdict.suspects.list[0].rival_count,
          "a chip and a suspect of which nothing is known");
    rmg_rom_verdict_free(&verdict);
    rmg_board_free(board);
}

CU_TestInfo job_rom_tests[] = {
    {"short repairs of a ROM", stories},
    {"two faults at once", two_at_once},
    {"chips of a region", chips_of_a_region},
    {"what to do next", advised},
    {"in each other's socket", exchanged},
    {"sentences and JSON", worded},
    {"results that are none", results_that_are_none},
    CU_TEST_INFO_NULL,
};
