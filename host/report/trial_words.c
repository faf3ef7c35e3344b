/* What a trial says, in sentences, and as JSON. */
#include <glib.h>
#include <jansson.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/report.h"

#define GONE 0.9 /* that a fault is gone by what was changed, from which on it is said */

char *rmg_percent(double share)
{
    return share > 0.995 && share < 1 ? g_strdup("more than 99 %")
           : share < 0.005            ? g_strdup("less than 1 %")
                                      : g_strdup_printf("%.0f %%", share * 100);
}

char *rmg_hypothesis_text(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_changes *changes, const rmg_hypothesis *h)
{
    const char *name;
    uint16_t now = h->socket;

    if (h->rival == SIZE_MAX || h->suspect >= suspects->count)
        return g_strdup("something that none of these is");
    name = suspects->list[h->suspect].rivals[h->rival].name;
    if (h->belongs == RMG_BELONGS_CHIP && changes &&
        suspects->list[h->suspect].rivals[h->rival].cause != RMG_CAUSE_PART_MISSING)
        now = rmg_chip_now(changes->list, changes->count, h->socket);
    if (now == h->socket)
        return g_strdup(name);
    return now == RMG_NO_SOCKET
               ? g_strdup_printf("%s; that chip is out of the board now", name)
               : g_strdup_printf("%s; that chip is now in %s", name, board->sockets[now].name);
}

char *rmg_fault_text(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                     unsigned fault)
{
    const rmg_suspect *first = NULL;
    bool changed = false;

    if (rmg_faults_at_once(list, count) < 2)
        return NULL;
    for (size_t i = 0; i < count; i++) {
        const rmg_suspect *s = list[i].fault == fault && list[i].suspect < suspects->count
                                   ? &suspects->list[list[i].suspect]
                                   : NULL;

        if (s && (!first || s->confidence > first->confidence))
            first = s;
        changed |= list[i].gone > 0;
    }
    return g_strdup_printf("%s%s", first && first->site ? first->site : "fault",
                           changed && rmg_fault_gone(list, count, fault) >= GONE ? ": gone" : "");
}

char *rmg_cause_text(const rmg_board *board, const rmg_suspects *suspects,
                     const rmg_changes *changes, const rmg_hypothesis *list, size_t count, size_t i)
{
    char *cause = rmg_hypothesis_text(board, suspects, changes, &list[i]);
    const char *site =
        list[i].suspect < suspects->count ? suspects->list[list[i].suspect].site : NULL;
    char *text = NULL;

    if (site && rmg_faults_at_once(list, count) > 1 && !strstr(cause, site))
        text = g_strdup_printf("%s, %s", site, cause);
    if (!text)
        return cause;
    rmg_text_free(cause);
    return text;
}

size_t rmg_cause_to_say(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                        size_t i)
{
    const rmg_finding *next = i + 1u < count && list[i + 1u].suspect < suspects->count
                                  ? &suspects->list[list[i + 1u].suspect].finding
                                  : NULL;

    return list[i].rival == SIZE_MAX && next && list[i + 1u].fault == list[i].fault &&
                   (next->may_follow || next->or_each)
               ? i + 1u
               : i;
}

void rmg_say_other_faults(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_changes *changes, const rmg_hypothesis *list, size_t count,
                          GPtrArray *lines)
{
    GString *text = g_string_new(NULL);

    for (size_t i = 1; i < count; i++) {
        const size_t say = rmg_cause_to_say(suspects, list, count, i);
        char *name, *share;

        if (list[i].fault == list[i - 1].fault ||
            rmg_fault_gone(list, count, list[i].fault) >= GONE)
            continue;
        name = rmg_cause_text(board, suspects, changes, list, count, say);
        share = rmg_percent(list[say].after);
        g_string_append_printf(text, "%s%s (%s)", text->len ? "; " : "", name, share);
        rmg_text_free(name);
        g_free(share);
    }
    if (text->len)
        g_ptr_array_add(lines, g_strdup_printf("Besides, a fault of its own: %s.", text->str));
    g_string_free(text, TRUE);
}

static gchar *changes_text(const rmg_trial *t)
{
    GString *text = g_string_new(NULL);

    for (size_t i = t->of.done; i < t->of.changes->count; i++) {
        char *one = rmg_change_text(t->of.after->board, &t->of.changes->list[i]);

        g_string_append_printf(text, "%s%s", i > t->of.done ? "; " : "", one);
        rmg_text_free(one);
    }
    if (!text->len)
        g_string_append(text, "what was changed was not stated");
    return g_string_free(text, FALSE);
}

/* "it went with the chip", with the places. */
static gchar *outcome_text(const rmg_trial *t)
{
    const rmg_change *c =
        t->of.changes->count > t->of.done ? &t->of.changes->list[t->of.done] : NULL;
    const rmg_board *board = t->of.after->board;
    GString *text = g_string_new(rmg_outcome_name(t->outcome));

    if (t->outcome == RMG_OUTCOME_WENT && c && c->other != RMG_NO_SOCKET) {
        uint16_t from = c->socket, to = c->other;

        for (size_t i = 0; i < t->socket_count; i++)
            if (t->sockets[i].socket == c->other && t->sockets[i].before) {
                from = c->other;
                to = c->socket;
            }
        g_string_append_printf(text, ", from %s to %s", board->sockets[from].name,
                               board->sockets[to].name);
    } else if (t->outcome == RMG_OUTCOME_UNCHANGED && c && c->kind == RMG_CHANGE_PULL &&
               c->bank != RMG_NO_BANK) {
        g_string_append_printf(text, ": %s did not contribute, empty or full",
                               board->banks[c->bank].called);
    } else if (t->outcome == RMG_OUTCOME_SHOWN) {
        const char *lead = " at ";

        for (size_t i = 0; i < t->socket_count; i++)
            if (t->sockets[i].after > t->sockets[i].before &&
                (t->shown_as == RMG_NO_SOCKET || !t->sockets[i].before)) {
                g_string_append_printf(text, "%s%s", lead,
                                       board->sockets[t->sockets[i].socket].name);
                lead = ", ";
            }
        if (t->shown != t->shown_as)
            g_string_append_printf(text,
                                   ", but %s was cut off: what is reported as %s is %s; correct "
                                   "the list that names them",
                                   board->sockets[t->shown].name, board->sockets[t->shown_as].name,
                                   board->sockets[t->shown].name);
    } else if (t->outcome == RMG_OUTCOME_WORSE) {
        g_string_append(text,
                        ": the change may have broken something (a bent leg, a chip the wrong "
                        "way round)");
    } else if (t->outcome == RMG_OUTCOME_HALF) {
        g_string_append(text, ": is it a select, or did the board size itself anew?");
    }
    *text->str = g_ascii_toupper(*text->str);
    return g_string_free(text, FALSE);
}

/* How much the second run can say, where it failed less or not. */
static gchar *rates_text(const rmg_trial *t)
{
    const rmg_rate *b = &t->rate_before, *a = &t->rate_after;
    GString *text = g_string_new(NULL);

    g_string_printf(text,
                    "It failed in %" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                    " passes before (%.0f to %.0f %% with 95 %% confidence), in %" G_GUINT64_FORMAT
                    " of %" G_GUINT64_FORMAT " after (%.0f to %.0f %%)",
                    b->events, b->trials, b->low * 100, b->high * 100, a->events, a->trials,
                    a->low * 100, a->high * 100);
    if (!a->events && a->trials && b->events && b->events < b->trials) {
        const double chance = rmg_clean_chance(b->events, b->trials, a->trials);

        g_string_append_printf(text,
                               ": so many clean passes are chance in %.0f %% of cases, had nothing "
                               "changed",
                               chance * 100);
        if (chance > 0.05)
            g_string_append_printf(text, "; %" G_GUINT64_FORMAT " clean ones would exclude it",
                                   rmg_passes_to_tell(b->events, b->trials));
    }
    g_string_append_c(text, '.');
    return g_string_free(text, FALSE);
}

/* How far both failed alike, and how far they would by chance: that is "the same addresses each
 * time", with how sure. */
static gchar *sets_text(const rmg_trial *t)
{
    const double all = (double)t->of.after->tested_words * t->of.after->board->word_bits,
                 before = (double)(t->both + t->gone), after = (double)(t->both + t->come),
                 by_chance = all > 0 ? before * after / all : 0;
    GString *text = g_string_new(NULL);

    g_string_printf(text,
                    "Failing bits of memory: %" G_GUINT64_FORMAT " in both runs, %" G_GUINT64_FORMAT
                    " only before, %" G_GUINT64_FORMAT " only after",
                    t->both, t->gone, t->come);
    if (t->both && before > 0 && after > 0)
        g_string_append_printf(text,
                               "; had they nothing to do with each other, about %.*f would be in "
                               "both",
                               by_chance < 0.95 ? 2 : 0, by_chance);
    g_string_append(text, t->same_set ? ". The same addresses failed each time." : ".");
    return g_string_free(text, FALSE);
}

static void say(GPtrArray *lines, gchar *text)
{
    g_ptr_array_add(lines, text);
}

char **rmg_trial_lines(const rmg_trial *t, const rmg_suspects *suspects)
{
    GPtrArray *lines = g_ptr_array_new();
    gchar *outcome = outcome_text(t), *changes = changes_text(t);

    say(lines, g_strdup_printf("%s (%s).", outcome, changes));
    if (t->shown != t->shown_as) {
        say(lines, g_strdup("Nothing is said of causes: the names are wrong."));
    } else if (t->count) {
        const rmg_hypothesis *h = &t->list[0];
        char *name =
            rmg_cause_text(t->of.after->board, suspects, t->of.changes, t->list, t->count, 0);
        gchar *now = rmg_percent(h->after), *then = rmg_percent(h->before);

        say(lines, g_strdup_printf("Most likely: %s (%s; before it %s).", name, now, then));
        g_free(now);
        g_free(then);
        rmg_text_free(name);
    } else {
        say(lines, g_strdup("Nothing failed before: there is nothing to explain."));
    }
    say(lines, rates_text(t));
    rmg_say_other_faults(t->of.after->board, suspects, t->of.changes, t->list, t->count, lines);
    if (t->of.changes->count - t->of.done > 1)
        say(lines, g_strdup_printf("%zu things were changed at once: what follows holds for them "
                                   "together, and is weaker for it.",
                                   t->of.changes->count - t->of.done));
    if (t->both || t->gone || t->come)
        say(lines, sets_text(t));
    g_free(outcome);
    g_free(changes);
    g_ptr_array_add(lines, NULL);
    return (char **)g_ptr_array_free(lines, FALSE);
}

/* "if it went with the chip: the chip (98 %)" */
static void add_forecast(GString *text, const rmg_forecast *f, const char *lead)
{
    const char *outcome =
        f->outcome == RMG_OUTCOME_PASSED ? "nothing fails" : rmg_outcome_name(f->outcome);

    g_string_append_printf(text, "%s%s (%.0f %%): %s (%.0f %%)", lead, outcome, f->chance * 100,
                           rmg_belongs_name(f->belongs), f->share * 100);
}

char *rmg_advice_text(const rmg_board *board, const rmg_advice *advice)
{
    char *change =
        advice->change.kind == RMG_CHANGE_MEASURE
            ? g_strdup_printf("measure, power off, from the line to the leg of %s at the pin "
                              "that fails",
                              board->sockets[advice->change.socket].name)
            : rmg_change_text(board, &advice->change);
    GString *text = g_string_new(change);

    *text->str = g_ascii_toupper(*text->str);
    g_string_append_printf(text, " (%.0f minutes)", advice->cost.minutes);
    if (advice->settles)
        g_string_append_printf(text, ": %.0f %% that this is it; then test again as before",
                               MIN(advice->share, 0.99) * 100);
    for (size_t i = 0; i < advice->result_count && !advice->settles; i++)
        add_forecast(text, &advice->results[i], i ? "; if " : ". If ");
    g_string_append_c(text, '.');
    rmg_text_free(change);
    return g_string_free(text, FALSE);
}

static json_t *rate_json(const rmg_rate *r)
{
    return json_pack("{s:I, s:I, s:f, s:f, s:f}", "failing", (json_int_t)r->events, "passes",
                     (json_int_t)r->trials, "share", r->share, "low", r->low, "high", r->high);
}

char *rmg_trial_json(const rmg_trial *t, const rmg_suspects *suspects, const rmg_advice *advice,
                     size_t advice_count)
{
    const rmg_board *board = t->of.after->board;
    json_t *changes = json_array(), *sockets = json_array(), *causes = json_array(),
           *next = json_array();
    gchar *outcome = outcome_text(t);
    json_t *root;

    for (size_t i = t->of.done; i < t->of.changes->count; i++) {
        char *text = rmg_change_text(board, &t->of.changes->list[i]);

        rmg_json_append(changes, json_string(text));
        rmg_text_free(text);
    }
    for (size_t i = 0; i < t->socket_count; i++)
        rmg_json_append(sockets, json_pack("{s:s, s:I, s:I}", "socket",
                                           board->sockets[t->sockets[i].socket].name, "before",
                                           (json_int_t)t->sockets[i].before, "after",
                                           (json_int_t)t->sockets[i].after));
    for (size_t i = 0; i < t->count; i++) {
        const rmg_hypothesis *h = &t->list[i];
        char *name = rmg_hypothesis_text(t->of.after->board, suspects, t->of.changes, h);

        rmg_json_append(
            causes, json_pack("{s:s, s:s, s:s?, s:f, s:f, s:f, s:i, s:f}", "cause", name,
                              "belongs_to", rmg_belongs_name(h->belongs), "socket",
                              h->socket == RMG_NO_SOCKET ? NULL : board->sockets[h->socket].name,
                              "before", h->before, "after", h->after, "fits", h->fits, "fault",
                              (int)h->fault + 1, "gone", h->gone));
        rmg_text_free(name);
    }
    for (size_t i = 0; i < advice_count; i++) {
        char *text = rmg_advice_text(board, &advice[i]);

        rmg_json_append(next, json_pack("{s:s, s:f, s:f, s:f}", "advice", text, "minutes",
                                        advice[i].cost.minutes, "damage", advice[i].cost.damage,
                                        "bits", advice[i].bits));
        rmg_text_free(text);
    }
    root =
        json_pack("{s:i, s:s, s:o, s:s, s:s, s:b, s:I, s:I, s:I, s:o, s:o, s:o, s:o, s:o}",
                  "rimeglass_trial", 1, "board", board->name, "changes", changes, "outcome",
                  rmg_outcome_name(t->outcome), "says", outcome, "same_failures", (int)t->same_set,
                  "in_both", (json_int_t)t->both, "only_before", (json_int_t)t->gone, "only_after",
                  (json_int_t)t->come, "rate_before", rate_json(&t->rate_before), "rate_after",
                  rate_json(&t->rate_after), "sockets", sockets, "causes", causes, "next", next);
    g_free(outcome);
    return rmg_json_text(root);
}
