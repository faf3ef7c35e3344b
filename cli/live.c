/* The live view of a test or of lines. */
#include <string.h>
#include <unistd.h>

#include "rimeglass/heard.h"
#include "test.h"

bool live_possible(const char *verb)
{
    if (on_screen(stdout) && isatty(STDIN_FILENO))
        return true;
    wrong_call(verb, "--live needs a terminal that can move its cursor, on standard input and "
                     "output; without it a status line shows where the run stands");
    return false;
}

bool live_begin(const char *verb, gboolean wanted, const rmg_board *board, const char *target,
                live_view *view)
{
    gchar *title;

    memset(view, 0, sizeof *view);
    if (!wanted)
        return true;
    if (!live_possible(verb))
        return false;
    title = g_strdup_printf("%s   %s   %s", board->name, verb, target);
    view->live = rmg_live_begin(board, title);
    g_free(title);
    if (!view->live)
        wrong_call(verb, "--live: this terminal (TERM=%s) is not known here",
                   g_getenv("TERM") ? g_getenv("TERM") : "");
    return view->live != NULL;
}

void live_end(live_view *view)
{
    rmg_live_end(view->live);
    view->live = NULL;
}

/* What failed of a rule's chip up to now. */
static uint64_t of_rule(void *context, const rmg_rule *rule)
{
    const rmg_run *run = context;
    const rmg_word bits = rmg_rule_bits(rule);
    uint64_t count = 0;

    if (run->heard) {
        count = rmg_heard_of_socket(run, rule->bank, rule->socket);
        return count ? count : UINT64_MAX;
    }
    for (uint8_t i = 0; rule->bank < run->tally.bank_count && i < run->board->word_bits; i++)
        if (bits >> i & 1u)
            count += run->tally.bits[rule->bank][i].high + run->tally.bits[rule->bank][i].low;
    return count || run->bank_words[rule->bank] ? count : UINT64_MAX;
}

bool live_show_run(live_view *view, rmg_run *run, const rmg_run_progress *progress)
{
    const rmg_live_state state = {
        .what = progress->step,
        .pass = progress->pass,
        .passes = progress->passes,
        .share = progress->share,
        .pass_share = progress->pass_share,
        .failures = progress->failing_reads,
        .heat_millic = run->stretch_count ? run->stretches[run->stretch_count - 1u].heat_millic
                                          : run->conditions[RMG_CONDITION_HEAT_MILLIC],
        .of_rule = of_rule,
        .context = run};

    return rmg_live_show(view->live, &state, progress_stopped) && !progress_stopped();
}

bool live_show_lines(live_view *view, rmg_run *run)
{
    gchar *what = g_strdup_printf("%" G_GUINT64_FORMAT " lines, %" G_GUINT64_FORMAT " not known",
                                  run->heard->lines, run->heard->unknown);
    const rmg_live_state state = {.what = what,
                                  .pass = run->pass_count + 1u,
                                  .share = -1,
                                  .pass_share = -1,
                                  .failures = run->heard->failures,
                                  .heat_millic = run->conditions[RMG_CONDITION_HEAT_MILLIC],
                                  .of_rule = of_rule,
                                  .context = run};
    bool on;

    for (; view->pinned < run->heard->first_count; view->pinned++)
        rmg_live_pin(view->live, run->heard->first[view->pinned]);
    on = rmg_live_show(view->live, &state, progress_stopped) && !progress_stopped();
    g_free(what);
    return on;
}
