/* Charts of grades as text; and grades of a board's chips from runs at stepped clock and supply. */
#include <stdlib.h>
#include <string.h>

#include "chip.h"
#include "cli.h"
#include "rimeglass/report.h"

static int rising(const void *a, const void *b)
{
    const int32_t x = *(const int32_t *)a, y = *(const int32_t *)b;

    return (x > y) - (x < y);
}

/* The steps of a chart, rising; to be freed with g_free. */
static int32_t *steps_of(const rmg_grade_chart *chart, size_t *count)
{
    int32_t *steps = g_new(int32_t, MAX(chart->count, 1u));

    *count = 0;
    for (size_t i = 0; i < chart->count; i++)
        steps[i] = chart->points[i].at;
    qsort(steps, chart->count, sizeof *steps, rising);
    for (size_t i = 0; i < chart->count; i++)
        if (!*count || steps[*count - 1] != steps[i])
            steps[(*count)++] = steps[i];
    return steps;
}

static char mark_of(const rmg_grade_chart *chart, int32_t supply_mv, int32_t at)
{
    for (size_t i = 0; i < chart->count; i++)
        if (chart->points[i].supply_mv == supply_mv && chart->points[i].at == at)
            return chart->points[i].failed ? 'x' : '+';
    return '.';
}

void print_grade_chart(FILE *to, const rmg_grade_chart *chart)
{
    size_t supplies, count;
    int32_t *supply = rmg_grade_supplies(chart, &supplies), *steps = steps_of(chart, &count);

    fprintf(to, "\n  %-10s", "supply");
    for (size_t n = 0; n < count; n++) {
        char *text = rmg_grade_step_text(chart->axis, steps[n]);

        fprintf(to, " %8s", text);
        rmg_text_free(text);
    }
    for (size_t i = supply ? supplies : 0; i-- > 0;) {
        char *text = rmg_grade_supply_text(supply[i]);

        fprintf(to, "\n  %-10s", text);
        rmg_text_free(text);
        for (size_t n = 0; n < count; n++)
            fprintf(to, " %8c", mark_of(chart, supply[i], steps[n]));
    }
    fprintf(to, "\n  +: clean, x: fails, .: not tried\n");
    free(supply);
    g_free(steps);
}

/* A line for each supply: the limit, and how far from there the board runs. */
static void print_limits(FILE *to, const char *name, const rmg_grade_chart *chart, int32_t own)
{
    size_t count;
    int32_t *supply = rmg_grade_supplies(chart, &count);

    for (size_t i = 0; supply && i < count; i++) {
        char *limit = rmg_grade_limit_text(chart, supply[i]);
        char *margin = rmg_grade_margin_text(chart, supply[i], own);
        char *volts = rmg_grade_supply_text(supply[i]);
        gchar *lead = g_strdup_printf("  %-10s ", i ? "" : name);
        gchar *text = g_strdup_printf("%s%s%s%s%s.", supply[i] == RMG_NOT_KNOWN ? "" : volts,
                                      supply[i] == RMG_NOT_KNOWN ? "" : ": ", limit,
                                      margin ? "; " : "", margin ? margin : "");

        print_wrapped(to, lead, (unsigned)strlen(lead), text);
        g_free(lead);
        g_free(text);
        rmg_text_free(limit);
        rmg_text_free(margin);
        rmg_text_free(volts);
    }
    free(supply);
}

static const rmg_grade_chart *chart_of(const rmg_grades *grades, const char *socket)
{
    for (size_t i = 0; socket && i < grades->chip_count; i++)
        if (strcmp(grades->board->sockets[grades->chips[i].socket].name, socket) == 0)
            return &grades->chips[i].chart;
    return socket ? NULL : &grades->all;
}

static void print_grades(FILE *to, const rmg_grades *grades, size_t runs)
{
    const int32_t own = grades->own_clock;

    fprintf(to, "%s, %zu run%s\n", grades->board->name, runs, runs == 1 ? "" : "s");
    print_grade_chart(to, &grades->all);
    fprintf(to, "\nChips that fail at some step\n");
    for (size_t i = 0; i < grades->chip_count; i++)
        print_limits(to, grades->board->sockets[grades->chips[i].socket].name,
                     &grades->chips[i].chart, own);
    if (!grades->chip_count)
        fprintf(to, "  none\n");
    fprintf(to, "\n%zu chip%s never failed.\n", grades->sound, grades->sound == 1 ? "" : "s");
    if (own == RMG_NOT_KNOWN)
        print_wrapped(to, "", 0,
                      "How far from its limit the board runs is not known: its file does not name "
                      "its clock.");
}

/* What is drawn, in the process that draws. */
typedef struct grade_picture {
    const rmg_grades *grades;
    const chip_call *call;
} grade_picture;

static rmg_status draw_grades(const void *context, rmg_error *error)
{
    const grade_picture *p = context;
    const char *of = p->call->of;
    gchar *title = g_strdup_printf("%s%s%s", p->grades->board->name, of ? ": " : "", of ? of : "");
    const rmg_status status =
        rmg_draw_grades(chart_of(p->grades, of), title, "at which clock and supply it fails",
                        p->grades->own_clock, p->call->picture, error);

    g_free(title);
    return status;
}

static int tell(const chip_call *call, const rmg_grades *grades, size_t runs)
{
    const grade_picture picture = {grades, call};
    char *json;
    FILE *to;
    int status = grades->chip_count ? EXIT_FAULTS : EXIT_PASS;

    if (!chart_of(grades, call->of))
        return wrong_call("chip", "--of %s: no chip of that name fails at any step", call->of);
    to = report_begin(call->json, call->picture);
    print_grades(to, grades, runs);
    report_end(to);
    json = rmg_grades_json(grades);
    if ((call->json && !write_result(call->json, json)) ||
        (call->picture && !draw_apart(draw_grades, &picture, call->picture)))
        status = EXIT_CALL;
    rmg_text_free(json);
    return status;
}

int grades_show(const chip_call *call, char *const *files, size_t count)
{
    rmg_run_file *runs = g_new0(rmg_run_file, count);
    const rmg_run **list = g_new(const rmg_run *, count);
    rmg_error error = {0};
    rmg_status status = RMG_OK;
    rmg_grades grades;
    size_t read = 0;
    int answer = EXIT_CALL;

    while (read < count && status == RMG_OK) {
        status = rmg_run_file_read(files[read], false, &runs[read], &error);
        list[read] = &runs[read].run;
        read += status == RMG_OK;
    }
    if (status == RMG_OK)
        status = rmg_grades_of_runs(list, (const char *const *)files, count, &grades, &error);
    if (status == RMG_OK) {
        answer = tell(call, &grades, count);
        rmg_grades_free(&grades);
    } else {
        wrong_call("chip", "%s", error.what);
    }
    rmg_error_free(&error);
    for (size_t i = 0; i < read; i++)
        rmg_run_file_free(&runs[i]);
    g_free(runs);
    g_free(list);
    return answer;
}
