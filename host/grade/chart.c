/* Points of a chart of grades, and the limit among them. */
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/grade.h"

static bool before(const rmg_grade_point *p, int32_t supply_mv, int32_t at)
{
    return p->supply_mv != supply_mv ? p->supply_mv < supply_mv : p->at < at;
}

void rmg_grade_add(rmg_grade_chart *chart, int32_t supply_mv, int32_t at, uint64_t tests,
                   uint64_t failed)
{
    size_t i = 0;

    while (i < chart->count && before(&chart->points[i], supply_mv, at))
        i++;
    if (i == chart->count || chart->points[i].supply_mv != supply_mv || chart->points[i].at != at) {
        chart->points = g_renew(rmg_grade_point, chart->points, chart->count + 1);
        memmove(&chart->points[i + 1], &chart->points[i],
                (chart->count - i) * sizeof *chart->points);
        chart->points[i] = (rmg_grade_point){supply_mv, at, 0, 0};
        chart->count++;
    }
    chart->points[i].tests += tests;
    chart->points[i].failed += failed;
}

void rmg_grade_free(rmg_grade_chart *chart)
{
    g_free(chart->points);
    chart->points = NULL;
    chart->count = 0;
}

void rmg_grade_limit(const rmg_grade_chart *chart, int32_t supply_mv, const rmg_grade_point **clean,
                     const rmg_grade_point **failing)
{
    *clean = *failing = NULL;
    for (size_t n = 0; n < chart->count && !*failing; n++) {
        /* from the mildest step to the hardest */
        const size_t i = chart->axis == RMG_GRADE_CLOCK ? n : chart->count - 1 - n;
        const rmg_grade_point *p = &chart->points[i];

        if (p->supply_mv != supply_mv)
            continue;
        *(p->failed ? failing : clean) = p;
    }
}

int32_t *rmg_grade_supplies(const rmg_grade_chart *chart, size_t *count)
{
    int32_t *list = malloc(MAX(chart->count, 1u) * sizeof *list);

    *count = 0;
    for (size_t i = 0; list && i < chart->count; i++)
        if (!*count || list[*count - 1] != chart->points[i].supply_mv)
            list[(*count)++] = chart->points[i].supply_mv;
    return list;
}
