/* Grades in words: steps, limits, margins; and as JSON. */
#include <glib.h>
#include <math.h>

#include "internal.h"

char *rmg_grade_supply_text(int32_t mv)
{
    return mv == RMG_NOT_KNOWN ? g_strdup("not stated")
                               : g_strdup_printf("%d.%02d V", mv / 1000, mv % 1000 / 10);
}

char *rmg_grade_step_text(rmg_grade_axis axis, int32_t at)
{
    if (at == RMG_NOT_KNOWN)
        return g_strdup("not stated");
    if (axis == RMG_GRADE_TIME)
        return g_strdup_printf("%d ns", at);
    return at < 100000 ? g_strdup_printf("%.4g kHz", at / 1e3)
                       : g_strdup_printf("%.4g MHz", at / 1e6);
}

static gchar *share_text(uint64_t clean)
{
    return g_strdup_printf("fails in fewer than %.0f %% of passes",
                           ceil(100 * (1 - pow(0.05, 1.0 / (double)MAX(clean, 1u)))));
}

char *rmg_grade_limit_text(const rmg_grade_chart *chart, int32_t supply_mv)
{
    const rmg_grade_point *clean, *failing;
    GString *text = g_string_new(NULL);
    char *step;

    rmg_grade_limit(chart, supply_mv, &clean, &failing);
    if (clean) {
        gchar *share = share_text(clean->tests);

        step = rmg_grade_step_text(chart->axis, clean->at);
        g_string_append_printf(text, "clean %s %s in %" G_GUINT64_FORMAT " pass%s (%s)",
                               chart->axis == RMG_GRADE_CLOCK ? "up to" : "down to", step,
                               clean->tests, clean->tests == 1 ? "" : "es", share);
        g_free(share);
        rmg_text_free(step);
    }
    if (failing) {
        step = rmg_grade_step_text(chart->axis, failing->at);
        g_string_append_printf(text, "%sfails at %s", clean ? ", " : "", step);
        rmg_text_free(step);
    }
    return g_string_free(text, FALSE);
}

char *rmg_grade_margin_text(const rmg_grade_chart *chart, int32_t supply_mv, int32_t own)
{
    const rmg_grade_point *clean, *failing;
    char *runs, *text;

    rmg_grade_limit(chart, supply_mv, &clean, &failing);
    if (own == RMG_NOT_KNOWN || chart->axis != RMG_GRADE_CLOCK)
        return NULL;
    runs = rmg_grade_step_text(chart->axis, own);
    text = failing && failing->at <= own
               ? g_strdup_printf("the board runs at %s: it fails there", runs)
           : clean && clean->at > own ? g_strdup_printf("the board runs at %s: a margin of %.0f %%",
                                                        runs, 100.0 * (clean->at - own) / own)
           : clean && clean->at == own
               ? g_strdup_printf("the board runs at %s: no margin was seen", runs)
               : g_strdup_printf("the board runs at %s, where it was not tried", runs);
    rmg_text_free(runs);
    return text;
}

static json_t *number_or_null(int32_t value)
{
    return value == RMG_NOT_KNOWN ? json_null() : json_integer(value);
}

static json_t *points(const rmg_grade_chart *chart)
{
    json_t *list = json_array();

    for (size_t i = 0; i < chart->count; i++)
        rmg_json_append(list, json_pack("{s:o, s:o, s:o, s:o}", "supply_mv",
                                        number_or_null(chart->points[i].supply_mv),
                                        chart->axis == RMG_GRADE_CLOCK ? "clock_hz" : "time_ns",
                                        number_or_null(chart->points[i].at), "tests",
                                        rmg_json_number(chart->points[i].tests), "failed",
                                        rmg_json_number(chart->points[i].failed)));
    return list;
}

char *rmg_grades_json(const rmg_grades *grades)
{
    json_t *chips = json_array();

    for (size_t i = 0; i < grades->chip_count; i++)
        rmg_json_append(chips, json_pack("{s:s, s:o}", "socket",
                                         grades->board->sockets[grades->chips[i].socket].name,
                                         "steps", points(&grades->chips[i].chart)));
    return rmg_json_text(json_pack("{s:i, s:s, s:o, s:o, s:o, s:o}", "rimeglass_grades", 1, "board",
                                   grades->board->name, "own_clock_hz",
                                   number_or_null(grades->own_clock), "steps", points(&grades->all),
                                   "chips", chips, "sound_chips", rmg_json_number(grades->sound)));
}
