/* rimeglass explain --shortest: a march for what is asked, searched for. */
#include "shortest.h"

#include <stdlib.h>
#include <string.h>

/* "20N" or "20"; 0: it is no such text. */
static unsigned read_within(const char *text)
{
    char *end;
    const guint64 most = g_ascii_strtoull(text, &end, 10);

    if (end == text || (strcmp(end, "") != 0 && g_ascii_strcasecmp(end, "n") != 0) || !most ||
        most > RMG_SHORTEST_MOST)
        return 0;
    return (unsigned)most;
}

static bool read_call(const shortest_call *call, rmg_shortest_job *job)
{
    char *word = NULL;

    if (!rmg_fault_classes_parse(call->classes, job->classes, &word)) {
        wrong_call("explain",
                   "--shortest %s: \"%s\" is no class of faults; expected AF, static, or names as "
                   "\"rimeglass explain MATS\" lists them, separated by commas",
                   call->classes, word ? word : "");
        rmg_text_free(word);
        return false;
    }
    if (call->within && !(job->most = read_within(call->within))) {
        wrong_call("explain", "--within %s: expected 1N to %uN", call->within, RMG_SHORTEST_MOST);
        return false;
    }
    if (call->width != -1 && (call->width < 1 || call->width > 100000)) {
        wrong_call("explain", "--width %d: expected 1 to 100000", call->width);
        return false;
    }
    job->seed = (uint64_t)call->seed;
    job->width = call->width > 0 ? (unsigned)call->width : 0;
    return true;
}

static bool go_on(void *context, unsigned length, double share, unsigned best)
{
    char text[80];

    (void)context;
    if (best)
        g_snprintf(text, sizeof text, "beginnings of %u operations (found: %uN)", length, best);
    else
        g_snprintf(text, sizeof text, "beginnings of %u operations", length);
    return progress_share(text, share);
}

/* As a plan of one step, with the classes as its name. */
static bool write_plan(const shortest_call *call, const char *notation)
{
    gchar *classes = g_strescape(call->classes, "");
    gchar *text = g_strdup_printf("plan: shortest for %s\nsteps:\n"
                                  "  - {march: \"%s\", name: \"shortest for %s\"}\n",
                                  classes, notation, classes);
    const bool ok = write_new("explain", "write", call->write, text);

    g_free(text);
    g_free(classes);
    return ok;
}

static void print_found(FILE *to, const rmg_shortest *found, const char *notation, bool complete)
{
    const unsigned operations = rmg_march_operations(found->code);
    const unsigned holds = found->operations - operations;

    if (holds)
        fprintf(to, "%uN and %u hold%s: %s\n", operations, holds, holds == 1 ? "" : "s", notation);
    else
        fprintf(to, "%uN: %s\n", operations, notation);
    if (found->exact + 1u >= found->operations)
        print_wrapped(to, "", 2, "No shorter march does: all were tried.");
    else
        fprintf(to,
                "None does of up to %u operations%s: all were tried. Of the longer ones, the most "
                "promising\n  beginnings of each length.\n",
                found->exact, holds ? " and holds" : "");
    if (!complete)
        fprintf(to, "NOT COMPLETE: stopped; this is the best so far.\n");
}

int find_shortest(const shortest_call *call, FILE *to, uint8_t code[RMG_MARCH_BYTES])
{
    rmg_shortest_job job = {.go_on = go_on};
    rmg_shortest found;
    rmg_status status;
    char *notation;
    int result;

    code[0] = 0;
    if (!read_call(call, &job))
        return EXIT_CALL;
    progress_start();
    status = rmg_march_shortest(&job, &found);
    progress_end();
    if (status != RMG_OK && status != RMG_ERR_CANCELLED)
        return wrong_call("explain", "--shortest %s: %s", call->classes, rmg_status_text(status));
    result = status == RMG_OK ? EXIT_PASS : EXIT_INCOMPLETE;
    if (!found.operations) {
        fprintf(to, "No march of up to %uN was found that finds all of %s.\n",
                job.most ? job.most : RMG_SHORTEST_MOST, call->classes);
        return result == EXIT_PASS ? EXIT_FAULTS : result;
    }
    notation = rmg_march_notation(found.code);
    print_found(to, &found, notation, status == RMG_OK);
    if (call->write && !write_plan(call, notation))
        result = EXIT_CALL;
    memcpy(code, found.code, RMG_MARCH_BYTES);
    rmg_text_free(notation);
    return result;
}
