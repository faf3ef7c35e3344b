/* Two runs and what was changed between them: what follows, and what to change next. */
#include <string.h>

#include "rimeglass/report.h"
#include "rimeglass/replay.h"
#include "test.h"

#define ADVICE_SHOWN 3u

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("simulating possible faults", share);
}

static void print_sockets(const rmg_trial *t)
{
    const size_t most = 24;

    if (!t->socket_count)
        return;
    printf("\nFailing bits of memory by socket\n  %-8s %12s %12s\n", "", "before", "after");
    for (size_t i = 0; i < t->socket_count && i < most; i++)
        printf("  %-8s %12" G_GUINT64_FORMAT " %12" G_GUINT64_FORMAT "%s\n",
               t->of.after->board->sockets[t->sockets[i].socket].name, t->sockets[i].before,
               t->sockets[i].after,
               t->sockets[i].before && !t->sockets[i].after   ? "   gone"
               : !t->sockets[i].before && t->sockets[i].after ? "   new"
                                                              : "");
    if (t->socket_count > most)
        printf("  and %zu more\n", t->socket_count - most);
}

void print_fault(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                 unsigned fault)
{
    char *name = rmg_fault_text(suspects, list, count, fault);

    if (name)
        printf("  %s\n", name);
    rmg_text_free(name);
}

static void print_causes(const rmg_trial *t, const rmg_suspects *suspects)
{
    size_t left = 0;

    if (!t->count)
        return;
    printf("\nWhat it can be               before     now\n");
    for (size_t i = 0, shown = 0; i < t->count; i++) {
        const rmg_hypothesis *h = &t->list[i];

        shown = i && h->fault == h[-1].fault ? shown + 1u : 0;
        if (shown >= CAUSES_SHOWN) {
            left++;
            continue;
        }
        if (!shown)
            print_fault(suspects, t->list, t->count, h->fault);
        char *name = rmg_hypothesis_text(t->of.after->board, suspects, t->of.changes, h);
        gchar *lead = g_strdup_printf("  %-27s %5.1f %% %5.1f %%   ", rmg_belongs_name(h->belongs),
                                      h->before * 100, h->after * 100);

        print_wrapped(stdout, lead, (unsigned)strlen(lead), name);
        g_free(lead);
        rmg_text_free(name);
    }
    if (left)
        printf("  and %zu more, less likely\n", left);
}

static void print_trial(const rmg_trial *t, const rmg_suspects *suspects, const rmg_advice *advice,
                        size_t count)
{
    char **lines = rmg_trial_lines(t, suspects);
    size_t n = 0;

    for (; lines[n] && n < 2; n++)
        print_wrapped(stdout, "", 2, lines[n]);
    if (count) {
        char *text = rmg_advice_text(t->of.after->board, &advice[0]);

        print_wrapped(stdout, "Next: ", 6, text);
        rmg_text_free(text);
    } else if (t->count && rmg_run_failed(t->of.after)) {
        printf("Next: %s.\n",
               t->list[0].rival == SIZE_MAX && t->list[0].after >= 0.5
                   ? "diagnose the second run by itself; none of these causes explains it"
                   : "no change that this board allows would tell more; mend what is likeliest");
    }
    printf("\n");
    for (; lines[n]; n++)
        print_wrapped(stdout, "", 2, lines[n]);
    rmg_texts_free(lines);
    print_sockets(t);
    print_causes(t, suspects);
    for (size_t i = 1; i < count && i < ADVICE_SHOWN; i++) {
        char *text = rmg_advice_text(t->of.after->board, &advice[i]);

        if (i == 1)
            printf("\nOr\n");
        print_wrapped(stdout, "  - ", 4, text);
        rmg_text_free(text);
    }
}

/* Suspects of the run before, replayed; false: it could not be. */
static bool suspects_of(const trial_call *call, const rmg_run *before, rmg_suspects *suspects)
{
    rmg_facts facts;
    rmg_status status = RMG_OK;

    *suspects = (rmg_suspects){NULL, 0};
    if (!facts_read("diagnose", call->facts, before->board, &facts)) {
        rmg_facts_end(&facts);
        return false;
    }
    rmg_suspects_find(before, &facts, suspects);
    progress_start();
    status = rmg_replay(before, suspects, RMG_REPLAY_WORK, go_on, NULL);
    progress_end();
    rmg_facts_end(&facts);
    if (status != RMG_OK)
        fprintf(stderr, "rimeglass diagnose: the failures cannot be explained here: %s.\n",
                rmg_status_text(status));
    rmg_suspects_word(before, suspects);
    return status == RMG_OK;
}

typedef struct picture_call {
    const rmg_trial *trial;
    const rmg_suspects *before, *after;
    const char *file;
} picture_call;

static rmg_status draw(const void *context, rmg_error *error)
{
    const picture_call *p = context;

    return rmg_draw_trial(p->trial, p->before, p->after, p->file, error);
}

/* Both runs side by side. */
static bool draw_picture(const trial_call *call, const rmg_trial *t, const rmg_suspects *before)
{
    rmg_suspects after;
    const picture_call p = {t, before, &after, call->picture};
    bool drawn;

    if (!call->picture)
        return true;
    rmg_suspects_find(t->of.after, NULL, &after);
    rmg_suspects_word(t->of.after, &after);
    drawn = draw_apart(draw, &p, call->picture);
    rmg_suspects_free(&after);
    return drawn;
}

static int follow(const trial_call *call, const rmg_run *before, const rmg_run *after,
                  const rmg_changes *changes, const rmg_cost_table *costs)
{
    rmg_suspects suspects;
    rmg_advice *advice = NULL;
    size_t advice_count = 0;
    rmg_error error = {0};
    rmg_trial t = {0};
    int status = EXIT_CALL;

    if (suspects_of(call, before, &suspects)) {
        const rmg_trial_of of = {.base = before,
                                 .suspects = &suspects,
                                 .before = before,
                                 .after = after,
                                 .changes = changes};

        if (rmg_trial_follow(&of, &t, &error) != RMG_OK) {
            wrong_call("diagnose", "%s", error.what ? error.what : "there was no memory");
        } else {
            if (rmg_run_failed(after))
                rmg_advise(before, &suspects, t.list, t.count, changes, costs, &advice,
                           &advice_count);
            status = rmg_run_failed(after) ? EXIT_FAULTS : EXIT_PASS;
            if (call->json) {
                char *text = rmg_trial_json(&t, &suspects, advice, advice_count);

                if (!write_result(call->json, text))
                    status = EXIT_CALL;
                rmg_text_free(text);
            }
            if (!draw_picture(call, &t, &suspects))
                status = EXIT_CALL;
            if (!call->json || strcmp(call->json, "-") != 0)
                print_trial(&t, &suspects, advice, advice_count);
        }
    }
    rmg_error_free(&error);
    rmg_advice_free(advice, advice_count);
    rmg_trial_free(&t);
    rmg_suspects_free(&suspects);
    return status;
}

int trial_conclude(const trial_call *call, const rmg_run *after)
{
    rmg_cost_table costs;
    rmg_run_file before = {0};
    rmg_changes changes = {0};
    rmg_errors errors = {0};
    rmg_error error = {0};
    int status = EXIT_CALL;

    rmg_costs_standard(&costs);
    if (rmg_run_file_read(call->before, false, &before, &error) != RMG_OK)
        wrong_call("diagnose", "--before: %s", error.what);
    else if (call->costs && rmg_costs_load(call->costs, &costs, &errors) != RMG_OK)
        print_errors(&errors);
    else if (call->changed &&
             rmg_changes_parse(after->board, call->changed, &changes, &error) != RMG_OK)
        wrong_call("diagnose", "--changed: %s", error.what);
    else {
        for (size_t i = 0; i < changes.count; i++) {
            char *doubt = rmg_change_doubt(after->board, &changes.list[i]);

            if (doubt)
                fprintf(stderr, "rimeglass diagnose: %s\n", doubt);
            rmg_text_free(doubt);
        }
        status = follow(call, &before.run, after, &changes, &costs);
    }
    rmg_error_free(&error);
    rmg_changes_free(&changes);
    rmg_run_file_free(&before);
    return status;
}
