/* What was changed between two runs, and what follows: the words of changes, named outcomes of
 * changes carried out in the simulator, causes weighed, advice, observations. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/trial.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"

/* Each way to tell a change comes back in the same words. */
static const char *const told[] = {
    "swap U19 U20",
    "move U19 to U21",
    "reseat U19",
    "pull U19",
    "pull upper",
    "fit U19 with spare 3",
    "replace U19",
    "replace U19 with lot B 7",
    "hold good 1 on U11",
    "warm U19 to 45",
    "warm board",
    "cool board to 5",
    "disturb U19 pin 14 with U19 pin 16",
    "disturb U19 pin 14 with U20 pin 16",
    "lift U19 pin 2",
    "lift R4",
    "bridge U1.9-U18.14",
    "repair R4",
    "supply 4750",
    "clock 2000000",
    "jumper J3 to the left",
    "nothing",
    "other cleaned the edge connector",
};

static void changes_in_words(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_changes changes;
    rmg_error error;

    for (size_t i = 0; i < COUNT(told); i++) {
        CHECK(rmg_changes_parse(board, told[i], &changes, &error) == RMG_OK && changes.count == 1,
              "%s: %s", told[i], error.what);
        if (changes.count) {
            char *text = rmg_change_text(board, &changes.list[0]);

            CHECK(strcmp(text, told[i]) == 0, "%s comes back as %s", told[i], text);
            rmg_text_free(text);
        }
        rmg_error_free(&error);
        rmg_changes_free(&changes);
    }
    CHECK(rmg_changes_parse(board, " swap u19 U20 ;  RESEAT U5;", &changes, &error) == RMG_OK &&
              changes.count == 2 && changes.list[1].kind == RMG_CHANGE_RESEAT,
          "two at once, in any letters");
    rmg_changes_free(&changes);
    CHECK(rmg_changes_parse(board, "disturb U19 pin RAS with pin CAS", &changes, &error) ==
                  RMG_OK &&
              changes.list[0].pin == 4 && changes.list[0].other_pin == 15,
          "pins by name");
    rmg_changes_free(&changes);
    rmg_board_free(board);
}

static const struct {
    const char *text, *says;
} wrong[] = {
    {"", "expected a change"},
    {"swp U19 U20", "did you mean swap?"},
    {"swap U19", "expected a socket of the board"},
    {"swap U19 U19", "two different sockets"},
    {"swap U19 U99", "found \"U99\""},
    {"swap U19 U20 U21", "nothing more"},
    {"move U19 U20", "the word to"},
    {"reseat U91", "did you mean U11?"},
    {"pull middle", "expected a socket of the board"},
    {"lift U19", "the word pin"},
    {"lift U19 pin 17", "that the part has"},
    {"hold U19", "what is held, on, and the socket"},
    {"supply low", "expected a number"},
    {"jumper", "expected words"},
    {"swap U19 U20; frob", "found \"frob\""},
    {"lift R99", "expected a socket of the board"},
    {"lift R4 up", "expected nothing more"},
};

static void wrong_changes(void)
{
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(wrong); i++) {
        rmg_changes changes;
        rmg_error error;

        CHECK(rmg_changes_parse(board, wrong[i].text, &changes, &error) == RMG_ERR_CONTENT &&
                  !changes.count && strstr(error.what, wrong[i].says),
              "\"%s\": %s", wrong[i].text, error.what ? error.what : "is taken");
        rmg_error_free(&error);
    }
    rmg_board_free(board);
}

static const struct {
    const char *board, *change, *says; /* NULL: no doubt */
} doubts[] = {
    {HALVORN, "swap U19 U20", NULL},
    {HALVORN, "pull U11", "U11 is soldered"},
    {HALVORN, "swap U19 U11", "U11 is soldered"},
    {HALVORN, "replace U11", NULL},
    {HALVORN, "hold good on U11", NULL},
    {HALVORN, "swap U19 U5", "they do not fit"},
    {"demo/shapes/lanes.yaml", "pull U41", "solder balls"},
    {"demo/shapes/lanes.yaml", "lift U41 pin 3", "solder balls"},
    {"demo/shapes/lanes.yaml", "replace U41", NULL},
};

static void changes_to_wonder_at(void)
{
    for (size_t i = 0; i < COUNT(doubts); i++) {
        rmg_board *board = bench_load(doubts[i].board);
        rmg_changes changes;
        rmg_error error;
        char *doubt;

        CHECK(rmg_changes_parse(board, doubts[i].change, &changes, &error) == RMG_OK, "%s",
              doubts[i].change);
        doubt = changes.count ? rmg_change_doubt(board, &changes.list[0]) : NULL;
        CHECK(doubts[i].says ? doubt && strstr(doubt, doubts[i].says) != NULL : !doubt, "%s: %s",
              doubts[i].change, doubt ? doubt : "no doubt");
        rmg_text_free(doubt);
        rmg_error_free(&error);
        rmg_changes_free(&changes);
        rmg_board_free(board);
    }
}

/* Two runs on one board: with the first fault, and with the second after a change; and the trial.
 */
typedef struct two_runs {
    rmg_run before, after;
    rmg_suspects suspects;
    rmg_changes changes;
    rmg_trial trial;
    rmg_status status;
} two_runs;

static void try_it(two_runs *t, const rmg_board *board, const rmg_sim_fault *before, size_t count,
                   const rmg_sim_fault *after, size_t after_count, const char *changes)
{
    const rmg_plan plan = bench_plan(false, 2);
    rmg_suspects none;
    rmg_error error;
    rmg_trial_of of;

    bench_examine(board, before, count, &plan, 11, &t->before, &t->suspects);
    bench_examine(board, after, after_count, &plan, 12, &t->after, &none);
    rmg_suspects_free(&none);
    rmg_replay(&t->before, &t->suspects, 0, NULL, NULL);
    rmg_suspects_word(&t->before, &t->suspects);
    CHECK(rmg_changes_parse(board, changes, &t->changes, &error) == RMG_OK, "%s", changes);
    rmg_error_free(&error);
    of = (rmg_trial_of){.base = &t->before,
                        .suspects = &t->suspects,
                        .before = &t->before,
                        .after = &t->after,
                        .changes = &t->changes};
    t->status = rmg_trial_follow(&of, &t->trial, &error);
    CHECK(t->status == RMG_OK, "%s: %s", changes, error.what);
    rmg_error_free(&error);
}

static void end(two_runs *t)
{
    rmg_trial_free(&t->trial);
    rmg_changes_free(&t->changes);
    rmg_suspects_free(&t->suspects);
    rmg_run_end(&t->before);
    rmg_run_end(&t->after);
}

/* Sockets of the Halvorn by number: U11 is 0, U19 is 8, U20 is 9. */
#define OUTPUT(chip_)                                                                              \
    {                                                                                              \
        .kind = RMG_FAULT_OUTPUT, .chip = (chip_), .level = 0                                      \
    }
#define MISSING(chip_)                                                                             \
    {                                                                                              \
        .kind = RMG_FAULT_MISSING, .chip = (chip_)                                                 \
    }

#define OPEN(chip_, bit_)                                                                          \
    {                                                                                              \
        .kind = RMG_FAULT_DATA_OPEN, .chip = (chip_), .data_line = 0, .line = (uint8_t)(bit_)      \
    }

static const struct {
    const char *title, *changes;
    rmg_sim_fault before, after[2];
    size_t count, after_count;
    rmg_outcome outcome;
    rmg_belongs belongs; /* of the likeliest cause, where one fault was before */
} outcomes[] = {
    {"goes with the chip",
     "swap U19 U20",
     OUTPUT(8),
     {OUTPUT(9)},
     1,
     1,
     RMG_OUTCOME_WENT,
     RMG_BELONGS_CHIP},
    {"stays at the socket",
     "swap U19 U20",
     OUTPUT(8),
     {OUTPUT(8)},
     1,
     1,
     RMG_OUTCOME_STAYED,
     RMG_BELONGS_PLACE},
    {"gone after reseating",
     "reseat U19",
     OUTPUT(8),
     {{0}},
     1,
     0,
     RMG_OUTCOME_GONE,
     RMG_BELONGS_CONTACT},
    {"gone with a new chip",
     "replace U19 with A",
     OUTPUT(8),
     {{0}},
     1,
     0,
     RMG_OUTCOME_GONE,
     RMG_BELONGS_CHIP},
    {"stays after a new chip",
     "replace U19 with A",
     OUTPUT(8),
     {OUTPUT(8)},
     1,
     1,
     RMG_OUTCOME_STAYED,
     RMG_BELONGS_PLACE},
    {"just again",
     "nothing",
     OUTPUT(8),
     {OUTPUT(8)},
     1,
     1,
     RMG_OUTCOME_UNCHANGED,
     RMG_BELONGS_CHIP},
    {"elsewhere",
     "nothing",
     OUTPUT(8),
     {OUTPUT(11)},
     1,
     1,
     RMG_OUTCOME_ELSEWHERE,
     RMG_BELONGS_UNKNOWN},
    {"worse",
     "reseat U19",
     OUTPUT(8),
     {OUTPUT(8), OUTPUT(10)},
     1,
     2,
     RMG_OUTCOME_WORSE,
     RMG_BELONGS_UNKNOWN},
    {"went, and another leg bent",
     "swap U19 U20",
     OUTPUT(8),
     {OUTPUT(9), OUTPUT(12)},
     1,
     2,
     RMG_OUTCOME_WORSE,
     RMG_BELONGS_UNKNOWN},
    {"pulled, and as bad as before",
     "pull U19; other looked at it",
     OUTPUT(8),
     {MISSING(8)},
     1,
     1,
     RMG_OUTCOME_UNCHANGED,
     RMG_BELONGS_UNKNOWN},
    {"another chip is pulled, and nothing changes",
     "pull U22",
     OUTPUT(8),
     {OUTPUT(8), MISSING(11)},
     1,
     2,
     RMG_OUTCOME_UNCHANGED,
     RMG_BELONGS_UNKNOWN},
    {"into the socket that was pulled before",
     "pull U22; swap U19 U22",
     OUTPUT(8),
     {OUTPUT(11), MISSING(8)},
     1,
     2,
     RMG_OUTCOME_WENT,
     RMG_BELONGS_CHIP},
    {"a pin disturbed on purpose",
     "disturb U21 pin 14 with pin 16",
     {0},
     {OUTPUT(10)},
     0,
     1,
     RMG_OUTCOME_SHOWN,
     RMG_BELONGS_UNKNOWN},
    {"disturbed beside what fails",
     "disturb U21 pin 14 with pin 16",
     OUTPUT(8),
     {OUTPUT(8), OUTPUT(10)},
     1,
     2,
     RMG_OUTCOME_SHOWN,
     RMG_BELONGS_UNKNOWN},
    {"a leg lifted beside what fails",
     "lift U21 pin 14",
     OUTPUT(8),
     {OUTPUT(8), OPEN(10, 5)},
     1,
     2,
     RMG_OUTCOME_SHOWN,
     RMG_BELONGS_CHIP},
    {"lifted, and down again",
     "lift U21 pin 14; repair U21",
     OUTPUT(8),
     {OUTPUT(8)},
     1,
     1,
     RMG_OUTCOME_UNCHANGED,
     RMG_BELONGS_CHIP},
    {"lifted, and two more fail",
     "lift U21 pin 14",
     OUTPUT(8),
     {OUTPUT(10), OUTPUT(12)},
     1,
     2,
     RMG_OUTCOME_ELSEWHERE,
     RMG_BELONGS_UNKNOWN},
    {"healthy twice", "swap U19 U20", {0}, {{0}}, 0, 0, RMG_OUTCOME_PASSED, RMG_BELONGS_UNKNOWN},
    {"a bank pulled and not missed",
     "pull upper",
     {0},
     {{0}},
     0,
     0,
     RMG_OUTCOME_UNCHANGED,
     RMG_BELONGS_UNKNOWN},
};

static void named_outcomes(void)
{
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(outcomes); i++) {
        two_runs t;

        try_it(&t, board, &outcomes[i].before, outcomes[i].count, outcomes[i].after,
               outcomes[i].after_count, outcomes[i].changes);
        CHECK(t.trial.outcome == outcomes[i].outcome, "%s: %s", outcomes[i].title,
              rmg_outcome_name(t.trial.outcome));
        if (outcomes[i].belongs != RMG_BELONGS_UNKNOWN)
            CHECK(t.trial.count && t.trial.list[0].belongs == outcomes[i].belongs, "%s: %s, %.3f",
                  outcomes[i].title,
                  t.trial.count ? rmg_belongs_name(t.trial.list[0].belongs) : "no cause",
                  t.trial.count ? t.trial.list[0].after : 0);
        end(&t);
    }
    rmg_board_free(board);
}

/* Half of the memory is silent after a change. */
static void half_of_the_memory(void)
{
    rmg_board *board = bench_load("demo/shapes/one-bit-chips.yaml");
    const rmg_sim_fault one = {.kind = RMG_FAULT_CELL, .chip = 3, .cell = 77, .level = 1};
    const rmg_sim_fault silent = {.kind = RMG_FAULT_DESELECTED, .scope = {0xFF00}};
    two_runs t;

    try_it(&t, board, &one, 1, &silent, 1, "reseat U4");
    CHECK(t.trial.outcome == RMG_OUTCOME_HALF, "%s", rmg_outcome_name(t.trial.outcome));
    end(&t);
    rmg_board_free(board);
}

/* 300 random changes carried out in the simulator: what became of it is named as it is. */
static void random_changes(void)
{
    rmg_board *board = bench_load("demo/shapes/one-bit-chips.yaml");
    uint64_t dice = 1909;
    unsigned right = 0, all = 0;

    for (unsigned i = 0; i < 60; i += ONE_IN) {
        const uint16_t a = (uint16_t)bench_dice(&dice, 16),
                       b = (uint16_t)((a + 1u + bench_dice(&dice, 15)) % 16u);
        const bool of_chip = bench_dice(&dice, 2) != 0, swap = bench_dice(&dice, 3) != 0;
        rmg_sim_fault fault = {.kind = bench_dice(&dice, 2) ? RMG_FAULT_OUTPUT : RMG_FAULT_CELL,
                               .chip = a,
                               .cell = (rmg_addr)bench_dice(&dice, 4096),
                               .level = (uint8_t)bench_dice(&dice, 2)};
        rmg_sim_fault moved = fault;
        gchar *text =
            swap ? g_strdup_printf("swap %s %s", board->sockets[a].name, board->sockets[b].name)
                 : g_strdup_printf("replace %s", board->sockets[a].name);
        const rmg_outcome expected =
            of_chip ? swap ? RMG_OUTCOME_WENT : RMG_OUTCOME_GONE : RMG_OUTCOME_STAYED;
        double of_chips = 0;
        two_runs t;

        moved.chip = of_chip ? b : a;
        try_it(&t, board, &fault, 1, &moved, of_chip && !swap ? 0 : 1, text);
        all++;
        right += t.trial.outcome == expected;
        CHECK(t.trial.outcome == expected, "%s, of the chip %d: %s", text, (int)of_chip,
              rmg_outcome_name(t.trial.outcome));
        /* what a cell does belongs to its chip, whatever is tried */
        for (size_t n = 0; n < t.trial.count; n++)
            of_chips += t.trial.list[n].belongs == RMG_BELONGS_CHIP ? t.trial.list[n].after : 0;
        if (of_chip)
            CHECK(of_chips > (swap ? 0.98 : 0.75), "%s: %.3f", text, of_chips);
        else if (swap) /* cells that stay at the socket are explained by nothing */
            CHECK(of_chips < 0.3, "%s stayed: %.3f", text, of_chips);
        end(&t);
        g_free(text);
    }
    CHECK(right == all, "%u of %u named", right, all);
    rmg_board_free(board);
}

/* What is foreseen of a change: every cause has its share in some result, and no more. */
static void is_foreseen(const rmg_run *run, const rmg_suspects *suspects,
                        const rmg_hypothesis *list, size_t count, const rmg_advice *advice)
{
    rmg_foreseen *results;
    size_t results_count;
    double bits = 0;

    rmg_foresee(run, suspects, list, count, NULL, &advice->change, &results, &results_count);
    CHECK(results_count >= advice->result_count, "%zu results", results_count);
    for (size_t i = 0; i < count; i++) {
        double share = 0;

        for (size_t n = 0; n < results_count; n++)
            share += results[n].shares[i];
        CHECK(fabs(share - list[i].after) < 1e-6, "cause %zu: %g of %g", i, share, list[i].after);
        bits -= list[i].after > 0 ? list[i].after * log2(list[i].after) : 0;
    }
    for (size_t n = 0; n < results_count; n++) {
        double sum = 0;

        for (size_t i = 0; i < count; i++) {
            const double share = results[n].shares[i];

            sum += share;
            bits += share > 0 ? share * log2(share / results[n].chance) : 0;
        }
        CHECK(fabs(sum - results[n].chance) < 1e-6 &&
                  (!n || results[n].chance <= results[n - 1].chance),
              "result %zu: %g", n, results[n].chance);
    }
    CHECK(fabs(bits - advice->bits) < 1e-6, "%g bits, advised for %g", bits, advice->bits);
    rmg_foreseen_free(results, results_count);
}

/* The first advice parts chip and contact, costs little, and says what it will tell; what is
 * soldered is not swapped. */
static void advice(void)
{
    static const struct {
        const char *board;
        uint16_t chip;
        rmg_change_kind never;
    } rows[] = {{HALVORN, 8, RMG_CHANGE_JUMPER},
                {HALVORN, 3, RMG_CHANGE_SWAP},
                {"demo/shapes/lanes.yaml", 1, RMG_CHANGE_PULL}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        const rmg_sim_fault fault = OUTPUT(rows[i].chip);
        const rmg_plan plan = bench_plan(false, 2);
        rmg_cost_table costs;
        rmg_run run;
        rmg_suspects suspects;
        rmg_hypothesis *list;
        rmg_advice *found;
        size_t count, advices;
        double sum = 0;

        rmg_costs_standard(&costs);
        bench_examine(board, &fault, 1, &plan, 5, &run, &suspects);
        rmg_replay(&run, &suspects, 0, NULL, NULL);
        rmg_suspects_word(&run, &suspects);
        list = rmg_hypotheses(&run, &suspects, &count);
        for (size_t n = 0; n < count; n++)
            sum += list[n].before;
        CHECK(count && sum > 0.999 && sum < 1.001, "shares of all causes: %.4f", sum);
        rmg_advise(&run, &suspects, list, count, NULL, &costs, &found, &advices);
        for (size_t n = 0; n < advices; n++) {
            const rmg_mount mount = board->sockets[found[n].change.socket].mount;
            char *text = rmg_advice_text(board, &found[n]);
            double chance = 0;

            CHECK(costs.costs[found[n].change.kind][mount].minutes >= 0 &&
                      found[n].change.kind != rows[i].never,
                  "%s", text);
            if (!found[n].settles)
                is_foreseen(&run, &suspects, list, count, &found[n]);
            for (size_t k = 0; k < found[n].result_count; k++)
                chance += found[n].results[k].chance;
            CHECK(found[n].settles || (chance > 0.9 && chance < 1.001 && found[n].result_count > 1),
                  "%s: results of %.3f", text, chance);
            rmg_text_free(text);
        }
        CHECK(advices || board->sockets[rows[i].chip].mount != RMG_MOUNT_SOCKET,
              "something is advised");
        rmg_advice_free(found, advices);
        rmg_hypotheses_free(list);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

static const struct {
    const char *title, *text, *says;
} tables[] = {
    {"another kind", "solder: {socket: no}\n", "no such key"},
    {"no mount", "swap: {chip: [1, 0]}\n", "no such key"},
    {"no numbers", "swap: {socket: cheap}\n", "expected no, or minutes"},
    {"too sure", "swap: {socket: [3, 2]}\n", "expected no, or minutes"},
};

static void tables_of_costs(void)
{
    rmg_cost_table table;
    rmg_errors errors = {0};

    CHECK(rmg_costs_load(temporary_file("costs.yaml",
                                        "swap: {socket: [9, 0.1], soldered: [50, 0.5]}\n"
                                        "reseat: {socket: no}\n"),
                         &table, &errors) == RMG_OK &&
              table.costs[RMG_CHANGE_SWAP][RMG_MOUNT_SOCKET].minutes == 9 &&
              table.costs[RMG_CHANGE_SWAP][RMG_MOUNT_SOLDERED].damage == 0.5 &&
              table.costs[RMG_CHANGE_RESEAT][RMG_MOUNT_SOCKET].minutes < 0 &&
              table.costs[RMG_CHANGE_PULL][RMG_MOUNT_SOCKET].minutes == 2,
          "what it names");
    rmg_errors_free(&errors);
    for (size_t i = 0; i < COUNT(tables); i++) {
        errors = (rmg_errors){0};
        CHECK(rmg_costs_load(temporary_file("costs.yaml", tables[i].text), &table, &errors) ==
                      RMG_ERR_CONTENT &&
                  errors.count && strstr(errors.list[0].what, tables[i].says),
              "%s: %s", tables[i].title, errors.count ? errors.list[0].what : "taken");
        rmg_errors_free(&errors);
    }
}

/* What is seen without a run: a board whose low bank fails does not start. */
static void seen_without_a_run(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault both[] = {OUTPUT(2), OUTPUT(11)};
    const rmg_plan plan = bench_plan(false, 2);
    const rmg_sight starts = rmg_sight_parse(" Starts "), dark = rmg_sight_parse("does not start"),
                    number = rmg_sight_parse("reports 24576"), words = rmg_sight_parse("hums");
    rmg_run run;
    rmg_suspects suspects;
    rmg_hypothesis *list;
    size_t count;

    CHECK(starts.kind == RMG_SIGHT_STARTS && dark.kind == RMG_SIGHT_DOES_NOT_START &&
              number.kind == RMG_SIGHT_REPORTS && number.number == 24576 &&
              words.kind == RMG_SIGHT_OTHER,
          "its words");
    bench_examine(board, both, 2, &plan, 5, &run, &suspects);
    list = rmg_hypotheses(&run, &suspects, &count);
    for (int way = 0; way < 3; way++) {
        double low = 0, high = 0;

        for (size_t i = 0; i < count; i++) { /* were it one fault */
            list[i].after = list[i].before;
            list[i].fault = 0;
        }
        rmg_sight_weigh(&run, &suspects,
                        way == 0   ? &dark
                        : way == 1 ? &starts
                                   : &number,
                        list, count);
        for (size_t i = 0; i < count; i++) {
            low += list[i].socket == 2 ? list[i].after : 0;
            high += list[i].socket == 11 ? list[i].after : 0;
        }
        CHECK(way == 0 ? low > 2 * high : high > 2 * low, "way %d: low %.3f, high %.3f", way, low,
              high);
    }
    rmg_hypotheses_free(list);
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* A part on a line is lifted: the chip behind it is cut off. By the right names that shows there;
 * by a wrong list it shows at another, and which that is, is all that is said. */
static void lifted_parts(void)
{
    static const struct {
        const char *lift;
        uint16_t fails, shown, shown_as; /* U31 is 0 */
    } rows[] = {{"lift RN1.16", 0, 0, 0},
                {"lift RN1 pin 16", 4, 0, 4},
                {"lift RN1.2", 5, 1, 5},
                {"lift RN1.3; repair RN1.3; lift RN1.9", 7, 7, 7}};
    rmg_board *board = bench_load("demo/boards/shutter.yaml");
    const rmg_sim_fault before = OUTPUT(2);

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_sim_fault after[2] = {OUTPUT(2), OPEN(rows[i].fails, rows[i].fails)};
        two_runs t;

        try_it(&t, board, &before, 1, after, 2, rows[i].lift);
        CHECK(t.trial.outcome == RMG_OUTCOME_SHOWN && t.trial.shown == rows[i].shown &&
                  t.trial.shown_as == rows[i].shown_as,
              "%s: %s, %u as %u", rows[i].lift, rmg_outcome_name(t.trial.outcome), t.trial.shown,
              t.trial.shown_as);
        if (rows[i].shown == rows[i].shown_as)
            CHECK(t.trial.count && t.trial.list[0].belongs == RMG_BELONGS_CHIP &&
                      t.trial.list[0].after > 0.5,
                  "%s: the cause stays", rows[i].lift);
        else
            CHECK(!t.trial.count, "%s: of causes nothing is said", rows[i].lift);
        end(&t);
    }
    rmg_board_free(board);
}

CU_TestInfo trial_tests[] = {
    {"changes in words", changes_in_words},
    {"wrong changes", wrong_changes},
    {"changes to wonder at", changes_to_wonder_at},
    {"named outcomes", named_outcomes},
    {"lifted parts", lifted_parts},
    {"half of the memory", half_of_the_memory},
    {"random changes", random_changes},
    {"advice", advice},
    {"tables of costs", tables_of_costs},
    {"seen without a run", seen_without_a_run},
    CU_TEST_INFO_NULL,
};
