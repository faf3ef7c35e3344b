/* Grades of a board's chips: which of them failed in runs at stepped clock and supply. */
#include <string.h>

#include "base/internal.h"
#include "rimeglass/grade.h"

typedef struct seeing {
    const rmg_placement *placement;
    bool *failed; /* by socket */
} seeing;

static void see(void *context, rmg_addr first, size_t words, uint16_t which, uint32_t record,
                const rmg_fail_part *parts, size_t count)
{
    const seeing *s = context;
    rmg_word bits = 0;

    (void)record;
    for (size_t i = 0; i < count; i++)
        bits |= parts[i].high | parts[i].low;
    for (uint16_t r = 0; r < s->placement->rule_count; r++) {
        const rmg_rule *rule = &s->placement->rules[r];

        if (s->failed[rule->socket] || !(bits & rmg_rule_bits(rule)))
            continue;
        for (size_t i = 0; i < words && !s->failed[rule->socket]; i++)
            s->failed[rule->socket] = ((unsigned)which >> ((first + i) & 15u) & 1u) &&
                                      rmg_where_holds(&rule->where, (rmg_addr)(first + i));
    }
}

/* Sockets of which the run tested words. */
static void mark_tested(const rmg_run *run, bool *tested)
{
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const rmg_rule *rule = &run->board->placement.rules[r];

        if (rule->bank < run->board->bank_count && run->bank_words[rule->bank])
            tested[rule->socket] = true;
    }
}

static rmg_status refuse(const rmg_run *const *runs, const char *const *names, size_t count,
                         rmg_error *error)
{
    for (size_t i = 0; i < count; i++) {
        if (g_strcmp0(runs[i]->board->hash, runs[0]->board->hash) != 0)
            return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                            "%s is a run of another board file than %s: %s and %s", names[i],
                            names[0], runs[i]->board->name, runs[0]->board->name);
        if (runs[i]->conditions[RMG_CONDITION_CLOCK_HZ] == RMG_NOT_KNOWN &&
            runs[i]->conditions[RMG_CONDITION_SUPPLY_MV] == RMG_NOT_KNOWN)
            return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                            "%s knows neither clock nor supply: test with --told clock=HZ or "
                            "--told supply=MILLIVOLTS",
                            names[i]);
        if (!runs[i]->pass_count)
            return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "%s has not one whole pass", names[i]);
    }
    return RMG_OK;
}

static bool all_simulated(const rmg_run *const *runs, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (!runs[i]->target || !g_str_has_prefix(runs[i]->target, "sim:"))
            return false;
    return true;
}

static void add_run(rmg_grades *grades, rmg_grade_chart *charts, const rmg_run *run, bool *tested)
{
    const int32_t mv = run->conditions[RMG_CONDITION_SUPPLY_MV];
    const int32_t hz = run->conditions[RMG_CONDITION_CLOCK_HZ];
    seeing s = {&run->board->placement, g_new0(bool, MAX(run->board->socket_count, 1u))};
    bool *here = g_new0(bool, MAX(run->board->socket_count, 1u));

    mark_tested(run, here);
    rmg_failset_each_run(run->failures, see, &s);
    rmg_grade_add(&grades->all, mv, hz, run->pass_count, rmg_run_failed(run));
    for (uint16_t socket = 0; socket < run->board->socket_count; socket++) {
        tested[socket] &= here[socket];
        if (here[socket])
            rmg_grade_add(&charts[socket], mv, hz, run->pass_count, s.failed[socket]);
    }
    g_free(s.failed);
    g_free(here);
}

rmg_status rmg_grades_of_runs(const rmg_run *const *runs, const char *const *names, size_t count,
                              rmg_grades *grades, rmg_error *error)
{
    rmg_grade_chart *charts;
    rmg_status status = refuse(runs, names, count, error);
    uint16_t sockets;
    bool *tested;

    memset(grades, 0, sizeof *grades);
    if (status != RMG_OK)
        return status;
    rmg_error_none(error);
    grades->board = runs[0]->board;
    sockets = (uint16_t)grades->board->socket_count;
    charts = g_new0(rmg_grade_chart, MAX(sockets, 1u));
    tested = g_new(bool, MAX(sockets, 1u));
    memset(tested, true, MAX(sockets, 1u) * sizeof *tested);
    grades->own_clock = rmg_grade_own_clock(grades->board, all_simulated(runs, count));
    for (size_t i = 0; i < count; i++)
        add_run(grades, charts, runs[i], tested);
    grades->chips = g_new0(rmg_grade_chip, MAX(sockets, 1u));
    for (uint16_t socket = 0; socket < sockets; socket++) {
        bool failed = false;

        for (size_t i = 0; i < charts[socket].count; i++)
            failed |= charts[socket].points[i].failed != 0;
        if (failed) {
            grades->chips[grades->chip_count++] = (rmg_grade_chip){socket, charts[socket]};
        } else {
            grades->sound += tested[socket];
            rmg_grade_free(&charts[socket]);
        }
    }
    g_free(charts);
    g_free(tested);
    return RMG_OK;
}

void rmg_grades_free(rmg_grades *grades)
{
    for (size_t i = 0; i < grades->chip_count; i++)
        rmg_grade_free(&grades->chips[i].chart);
    g_free(grades->chips);
    rmg_grade_free(&grades->all);
    memset(grades, 0, sizeof *grades);
}

int32_t rmg_grade_own_clock(const rmg_board *board, bool simulated)
{
    if (simulated)
        return (int32_t)(1000000000u / MAX(board->access_ns, 1u));
    return board->clock_hz    ? (int32_t)board->clock_hz
           : board->rom.known ? (int32_t)board->rom.clock_hz
                              : RMG_NOT_KNOWN;
}
