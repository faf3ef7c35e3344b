/* Several faults at once under repair: the causes of each have shares of their own, what one change
 * mends is told apart from what is left, and a failure that nothing before explains begins anew. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "bench_job.h"
#include "rimeglass/job.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/trial.h"
#include "suites.h"

#define HALVORN "demo/boards/halvorn64.yaml"

/* Sockets of the Halvorn by number: U11 is 0, U19 is 8, U20 is 9. */
#define OUTPUT(chip_)                                                                              \
    {                                                                                              \
        .kind = RMG_FAULT_OUTPUT, .chip = (chip_), .level = 0                                      \
    }
#define CELL(chip_)                                                                                \
    {                                                                                              \
        .kind = RMG_FAULT_CELL, .chip = (chip_), .cell = 77, .level = 1                            \
    }
#define ROW(chip_)                                                                                 \
    {                                                                                              \
        .kind = RMG_FAULT_ROW, .chip = (chip_), .cell = 5, .level = 1                              \
    }
#define OPEN(chip_, bit_)                                                                          \
    {                                                                                              \
        .kind = RMG_FAULT_DATA_OPEN, .chip = (chip_), .line = (uint8_t)(bit_)                      \
    }

/* One fault at a socket as it is seen after a change. */
typedef struct stands {
    uint16_t socket;
    bool gone;
    rmg_belongs belongs; /* of its likeliest cause */
} stands;

static const struct {
    const char *title, *changes;
    rmg_sim_fault before[3], after[3];
    size_t count, after_count;
    rmg_outcome outcome;
    stands faults[3];
} rows[] = {
    {"one of two replaced",
     "replace U19",
     {OUTPUT(8), CELL(2)},
     {CELL(2)},
     2,
     1,
     RMG_OUTCOME_LESS,
     {{8, true, RMG_BELONGS_CHIP}, {2, false, RMG_BELONGS_CHIP}}},
    {"one of two goes with its chip",
     "swap U19 U20",
     {OUTPUT(8), CELL(2)},
     {OUTPUT(9), CELL(2)},
     2,
     2,
     RMG_OUTCOME_WENT,
     {{8, false, RMG_BELONGS_CHIP}, {2, false, RMG_BELONGS_CHIP}}},
    {"one of two stays at its socket",
     "swap U19 U20",
     {OUTPUT(8), CELL(2)},
     {OUTPUT(8), CELL(2)},
     2,
     2,
     RMG_OUTCOME_STAYED,
     {{8, false, RMG_BELONGS_PLACE}, {2, false, RMG_BELONGS_CHIP}}},
    {"a contact beside a chip",
     "reseat U19",
     {OPEN(8, 5), CELL(2)},
     {CELL(2)},
     2,
     1,
     RMG_OUTCOME_LESS,
     {{8, true, RMG_BELONGS_CONTACT}, {2, false, RMG_BELONGS_CHIP}}},
    {"the same bit of two banks",
     "replace U11",
     {OUTPUT(0), CELL(8)},
     {CELL(8)},
     2,
     1,
     RMG_OUTCOME_LESS,
     {{0, true, RMG_BELONGS_CHIP}, {8, false, RMG_BELONGS_CHIP}}},
    {"both replaced",
     "replace U19; replace U13",
     {OUTPUT(8), CELL(2)},
     {{0}},
     2,
     0,
     RMG_OUTCOME_GONE,
     {{8, true, RMG_BELONGS_CHIP}, {2, true, RMG_BELONGS_CHIP}}},
    {"one of three replaced",
     "replace U13",
     {OUTPUT(8), CELL(2), ROW(12)},
     {OUTPUT(8), ROW(12)},
     3,
     2,
     RMG_OUTCOME_LESS,
     {{2, true, RMG_BELONGS_CHIP}, {8, false, RMG_BELONGS_CHIP}, {12, false, RMG_BELONGS_CHIP}}},
};

/* A base run, and one after a change, of the same plan. */
typedef struct repair {
    rmg_run before, after;
    rmg_suspects suspects;
    rmg_hypothesis *list;
    size_t count;
    rmg_changes changes;
    rmg_trial trial;
} repair;

static void begin(repair *r, const rmg_board *board, const rmg_sim_fault *faults, size_t count)
{
    const rmg_plan plan = bench_plan(false, 2);

    bench_examine(board, faults, count, &plan, 11, &r->before, &r->suspects);
    rmg_replay(&r->before, &r->suspects, 0, NULL, NULL);
    rmg_suspects_word(&r->before, &r->suspects);
    r->list = rmg_hypotheses(&r->before, &r->suspects, &r->count);
}

static void follow(repair *r, const rmg_board *board, const char *changes,
                   const rmg_sim_fault *faults, size_t count)
{
    const rmg_plan plan = bench_plan(false, 2);
    rmg_suspects none;
    rmg_error error;
    rmg_trial_of of;

    bench_examine(board, faults, count, &plan, 12, &r->after, &none);
    rmg_suspects_free(&none);
    CHECK(rmg_changes_parse(board, changes, &r->changes, &error) == RMG_OK, "%s", changes);
    rmg_error_free(&error);
    of = (rmg_trial_of){.base = &r->before,
                        .suspects = &r->suspects,
                        .before = &r->before,
                        .after = &r->after,
                        .changes = &r->changes,
                        .prior = r->list,
                        .prior_count = r->count};
    CHECK(rmg_trial_follow(&of, &r->trial, &error) == RMG_OK, "%s: %s", changes, error.what);
    rmg_error_free(&error);
}

static void end(repair *r)
{
    rmg_trial_free(&r->trial);
    rmg_changes_free(&r->changes);
    rmg_hypotheses_free(r->list);
    rmg_suspects_free(&r->suspects);
    rmg_run_end(&r->before);
    rmg_run_end(&r->after);
}

/* The likeliest cause of the fault at a socket. */
static const rmg_hypothesis *cause_at(const rmg_hypothesis *list, size_t count, uint16_t socket)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].socket == socket && (!i || list[i - 1].fault != list[i].fault))
            return &list[i];
    return NULL;
}

static double sum_of(const rmg_hypothesis *list, size_t count, unsigned fault)
{
    double sum = 0;

    for (size_t i = 0; i < count; i++)
        sum += list[i].fault == fault ? list[i].after : 0;
    return sum;
}

/* Nothing is advised at a socket whose fault is gone, and something at each other one. */
static void advised(const repair *r, const stands *faults, size_t count, const char *title)
{
    rmg_cost_table costs;
    rmg_advice *advice;
    size_t advices;

    rmg_costs_standard(&costs);
    rmg_advise(&r->before, &r->suspects, r->trial.list, r->trial.count, &r->changes, &costs,
               &advice, &advices);
    for (size_t f = 0; f < count; f++) {
        const uint16_t now = rmg_chip_now(r->changes.list, r->changes.count, faults[f].socket);
        bool any = false;

        for (size_t i = 0; i < advices; i++)
            any |= advice[i].change.socket == faults[f].socket ||
                   (now != RMG_NO_SOCKET && advice[i].change.socket == now);
        CHECK(any == !faults[f].gone, "%s: socket %u, advised: %d", title, faults[f].socket,
              (int)any);
    }
    rmg_advice_free(advice, advices);
}

static void one_is_changed(void)
{
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        repair r;

        begin(&r, board, rows[i].before, rows[i].count);
        CHECK(rmg_faults_at_once(r.list, r.count) == rows[i].count, "%s: %u faults", rows[i].title,
              rmg_faults_at_once(r.list, r.count));
        follow(&r, board, rows[i].changes, rows[i].after, rows[i].after_count);
        CHECK(r.trial.outcome == rows[i].outcome, "%s: %s", rows[i].title,
              rmg_outcome_name(r.trial.outcome));
        for (size_t f = 0; f < rows[i].count; f++) {
            const stands *s = &rows[i].faults[f];
            const rmg_hypothesis *h = cause_at(r.trial.list, r.trial.count, s->socket),
                                 *then = cause_at(r.list, r.count, s->socket);
            double gone;

            CHECK(h && then, "%s: a fault at socket %u", rows[i].title, s->socket);
            if (!h || !then)
                continue;
            gone = rmg_fault_gone(r.trial.list, r.trial.count, h->fault);
            CHECK(h->belongs == s->belongs && (s->gone ? gone > 0.9 : gone < 0.1),
                  "%s: socket %u belongs to %s, gone %.3f", rows[i].title, s->socket,
                  rmg_belongs_name(h->belongs), gone);
            CHECK(fabs(sum_of(r.trial.list, r.trial.count, h->fault) - 1) < 1e-9,
                  "%s: shares of one fault", rows[i].title);
            if (!s->gone && s->socket != 8) /* nothing was done there */
                CHECK(fabs(h->after - then->after) < 0.03, "%s: %.3f, before it %.3f",
                      rows[i].title, h->after, then->after);
        }
        CHECK(r.trial.list[0].socket == rows[i].faults[rows[i].count - 1].socket ||
                  !rows[i].faults[0].gone || rows[i].count > 2,
              "%s: what is left comes first", rows[i].title);
        if (rows[i].after_count)
            advised(&r, rows[i].faults, rows[i].count, rows[i].title);
        end(&r);
    }
    rmg_board_free(board);
}

/* While another fault is there, no single change makes everything pass; the forecast says so. */
static void forecasts_with_another(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault both[] = {OUTPUT(8), OUTPUT(2)};
    rmg_cost_table costs;
    rmg_advice *advice;
    size_t advices, results = 0;
    repair r;

    rmg_costs_standard(&costs);
    begin(&r, board, both, 2);
    rmg_advise(&r.before, &r.suspects, r.list, r.count, NULL, &costs, &advice, &advices);
    for (size_t i = 0; i < advices; i++)
        for (size_t n = 0; n < advice[i].result_count; n++, results++)
            CHECK(advice[i].results[n].outcome != RMG_OUTCOME_GONE &&
                      advice[i].results[n].outcome != RMG_OUTCOME_PASSED,
                  "advice %zu: %s", i, rmg_outcome_name(advice[i].results[n].outcome));
    CHECK(results > 4, "%zu results", results);
    rmg_advice_free(advice, advices);
    follow(&r, board, "nothing", both, 2);
    end(&r);
    rmg_board_free(board);
}

/* A meter at one socket, or a start that one fault explains, says nothing of the other. */
static void seen_of_one(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault both[] = {OUTPUT(2), OUTPUT(8)};
    const rmg_sight dark = rmg_sight_parse("does not start");
    const rmg_hypothesis *low, *high;
    double low_before, high_before;
    repair r;

    begin(&r, board, both, 2);
    low = cause_at(r.list, r.count, 2);
    high = cause_at(r.list, r.count, 8);
    CU_ASSERT_FATAL(low && high);
    low_before = low->after;
    high_before = high->after;
    rmg_sight_weigh(&r.before, &r.suspects, &dark, r.list, r.count);
    low = cause_at(r.list, r.count, 2);
    high = cause_at(r.list, r.count, 8);
    CHECK(low->after > low_before && fabs(high->after - high_before) < 1e-9,
          "does not start: %.3f from %.3f; %.3f from %.3f", low->after, low_before, high->after,
          high_before);
    low_before = low->after;
    rmg_measured_weigh(&r.before, &r.suspects, 8, RMG_MEASURED_OPEN, r.list, r.count);
    rmg_elsewhere_weigh(8, false, r.list, r.count);
    low = cause_at(r.list, r.count, 2);
    high = cause_at(r.list, r.count, 8);
    CHECK(fabs(low->after - low_before) < 1e-9 && high->belongs == RMG_BELONGS_CONTACT,
          "%.3f from %.3f; %s", low->after, low_before, rmg_belongs_name(high->belongs));
    follow(&r, board, "nothing", both, 2);
    end(&r);
    rmg_board_free(board);
}

/* What may be no more than what another fault does: once that is mended, it is seen whether. */
static void what_need_not_be(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault both[] = {OUTPUT(8), CELL(2)};

    for (size_t left = 0; left < 2; left++) {
        double nobody = 0;
        repair r;

        begin(&r, board, both, 2);
        rmg_hypotheses_free(r.list);
        for (size_t i = 0; i < r.suspects.count; i++)
            if (r.suspects.list[i].finding.socket == 2) {
                r.suspects.list[i].finding.may_follow = true;
                r.suspects.list[i].confidence = 0.45;
            }
        r.list = rmg_hypotheses(&r.before, &r.suspects, &r.count);
        follow(&r, board, "replace U19", &both[1], left);
        for (size_t i = 0; i < r.trial.count; i++)
            if (r.trial.list[i].rival == SIZE_MAX && r.trial.list[i].before > 0.5)
                nobody = r.trial.list[i].after;
        CHECK(left ? nobody < 0.1 : nobody > 0.9, "%zu left: nobody's %.3f", left, nobody);
        end(&r);
    }
    rmg_board_free(board);
}

/* A job whose second test fails in another place, as after a fault that hid another. */
static void begins_again(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault first = OUTPUT(8), then = OUTPUT(3);
    rmg_job *job = bench_job_made("again.job", board);
    rmg_job_state state;
    rmg_error error;
    char **lines;

    bench_job_test(job, board, &first, 1);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U19 with lot 7");
    bench_job_test(job, board, &then, 1);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "swap U14 U15");
    bench_job_test(job, board, &then, 1);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_job_word(&state);
    CHECK(state.base == 1 && state.past_count == 1 && state.past[0].base == 0 &&
              state.steps[1].followed && state.steps[2].followed && state.changes.count == 1,
          "base %zu, %zu before it", state.base, state.past_count);
    CHECK(rmg_job_suspects_at(&state, 1) == &state.past[0].suspects &&
              rmg_job_suspects_at(&state, 2) == &state.suspects,
          "each trial has its own causes");
    CHECK(state.count && state.list[0].socket == 3 && state.list[0].belongs == RMG_BELONGS_PLACE &&
              state.advice_count,
          "what stays at U14: %s", state.count ? rmg_belongs_name(state.list[0].belongs) : "");
    lines = rmg_trial_lines(&state.steps[1].trial, rmg_job_suspects_at(&state, 1));
    CHECK(strstr(lines[0], "It fails elsewhere now") && strstr(lines[1], "none of these"), "%s %s",
          lines[0], lines[1]);
    rmg_texts_free(lines);
    lines = rmg_job_lines(job, &state);
    CHECK(strstr(lines[0], "It stayed at the socket") && !strstr(lines[1], "by itself"), "%s",
          lines[1]);
    rmg_texts_free(lines);
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* Two chips that fail alike are taken for what they share, until one of them takes its failure
 * along: then each is diagnosed by itself, the place that the first came to ruled out. */
static void each_by_itself(void)
{
    static const struct {
        rmg_fault_kind kind;
        uint16_t at, other, to; /* the first chip, the second; the socket that the first goes to */
        const char *change;
    } pairs[] = {{RMG_FAULT_MISSING, 1, 2, 3, "swap U12 U14"},
                 {RMG_FAULT_DESELECTED, 1, 2, 4, "swap U12 U15"},
                 {RMG_FAULT_NO_WRITE, 9, 12, 0, "swap U20 U11"},
                 {RMG_FAULT_OUTPUT, 3, 11, 4, "swap U14 U15"}}; /* one bit of both banks */
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(pairs); i++) {
        rmg_sim_fault faults[2] = {{.kind = pairs[i].kind, .chip = pairs[i].at},
                                   {.kind = pairs[i].kind, .chip = pairs[i].other}};
        rmg_job *job = bench_job_made("each.job", board);
        rmg_job_state state;
        rmg_error error;

        for (size_t n = 0; n < 2; n++) {
            rmg_fault_include(&faults[n], faults[n].chip);
        }
        bench_job_test(job, board, faults, 2);
        bench_job_tell(job, RMG_ENTRY_CHANGE, pairs[i].change);
        memset(faults[0].scope, 0, sizeof faults[0].scope);
        faults[0].chip = pairs[i].to;
        rmg_fault_include(&faults[0], faults[0].chip);
        bench_job_test(job, board, faults, 2);
        CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
        CHECK(state.base == 1 && state.past_count == 1 && state.past[0].apart &&
                  state.past[0].suspects.count == 1 &&
                  state.past[0].suspects.list[0].finding.socket == RMG_NO_SOCKET,
              "%s: from %zu, %zu before it", pairs[i].change, state.base, state.past_count);
        CHECK(rmg_faults_at_once(state.list, state.count) == 2 &&
                  state.list[0].socket == pairs[i].to &&
                  state.list[0].belongs == RMG_BELONGS_CHIP && state.list[0].after > 0.6,
              "%s: %u faults, the first %s", pairs[i].change,
              rmg_faults_at_once(state.list, state.count),
              state.count ? rmg_belongs_name(state.list[0].belongs) : "none");
        CHECK(strstr(rmg_job_begins_again(&state, 1), "each of them") &&
                  !rmg_job_begins_again(&state, 0),
              "%s: said", pairs[i].change);
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    rmg_board_free(board);
}

/* The words of a job with two faults: which is left, and where. */
static void two_in_words(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault both[] = {OUTPUT(8), CELL(2)};
    rmg_job *job = bench_job_made("two.job", board);
    rmg_job_state state;
    rmg_error error;
    rmg_entry *entries;
    size_t count;
    char **lines, *name, *sheet;

    bench_job_test(job, board, both, 2);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_job_word(&state);
    lines = rmg_job_lines(job, &state);
    CHECK(strstr(lines[1], "U13") &&
              strstr(lines[2], "Besides, a fault of its own: the chip in U19"),
          "%s %s", lines[1], lines[2]);
    rmg_texts_free(lines);
    CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK, "%s", error.what);
    sheet = rmg_job_html(job, &state, entries, count);
    CHECK(sheet && strstr(sheet, "There is another fault besides"), "the owner's page");
    rmg_text_free(sheet);
    rmg_entries_free(entries, count);
    rmg_job_state_free(&state);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U13");
    bench_job_test(job, board, both, 1);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_job_word(&state);
    lines = rmg_job_lines(job, &state);
    CHECK(strstr(lines[0], "Less fails than before") && strstr(lines[1], "U19") &&
              strstr(lines[2], "Next: "),
          "%s %s", lines[1], lines[2]);
    rmg_texts_free(lines);
    name =
        rmg_fault_text(&state.suspects, state.list, state.count, state.list[state.count - 1].fault);
    CHECK(name && strcmp(name, "U13: gone") == 0, "%s", name);
    rmg_text_free(name);
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* Two silent chips of different banks: what both share comes first, and is not told as certain; the
 * one that takes its failure along is named, and the select is gone. */
static void silent_in_words(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_sim_fault both[2] = {{.kind = RMG_FAULT_DESELECTED, .chip = 1},
                             {.kind = RMG_FAULT_DESELECTED, .chip = 10}};
    rmg_job *job = bench_job_made("silent.job", board);
    rmg_job_state state;
    rmg_error error;
    rmg_entry *entries;
    size_t count;
    char **lines, *sheet;

    for (unsigned i = 0; i < 2; i++)
        rmg_fault_include(&both[i], both[i].chip);
    bench_job_test(job, board, both, 2);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_job_word(&state);
    lines = rmg_job_lines(job, &state);
    CHECK(strstr(lines[1], "the select of U12 and U21") && strstr(lines[2], "the chip in U12") &&
              strstr(lines[2], "the chip in U21"),
          "%s %s", lines[1], lines[2]);
    rmg_texts_free(lines);
    CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK, "%s", error.what);
    sheet = rmg_job_html(job, &state, entries, count);
    CHECK(sheet && strstr(sheet, "There may be another fault besides: most likely, a memory chip"),
          "the owner's page");
    rmg_text_free(sheet);
    rmg_entries_free(entries, count);
    rmg_job_state_free(&state);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "swap U21 U20");
    memset(both[1].scope, 0, sizeof both[1].scope);
    both[1].chip = 9;
    rmg_fault_include(&both[1], 9);
    bench_job_test(job, board, both, 2);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    CHECK(state.count && state.list[0].socket == 10 && state.list[0].after > 0.5 &&
              state.list[0].belongs == RMG_BELONGS_CHIP,
          "%s, %g", state.count ? rmg_belongs_name(state.list[0].belongs) : "none",
          state.count ? state.list[0].after : 0);
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

CU_TestInfo at_once_tests[] = {
    {"one is changed", one_is_changed},
    {"forecasts with another", forecasts_with_another},
    {"seen of one", seen_of_one},
    {"what need not be", what_need_not_be},
    {"begins again", begins_again},
    {"each by itself", each_by_itself},
    {"two in words", two_in_words},
    {"silent in words", silent_in_words},
    CU_TEST_INFO_NULL,
};
