/* Suspects on a terminal: what to do first, then each with its reasons, rivals and next steps. */
#include <string.h>

#include "cli.h"

/* Does all that failed lie in one chip, or on one data line? */
static bool in_one_place(const rmg_suspect *s)
{
    return s->rivals[0].is.said == RMG_SAY_ALL_IN_SOCKET ||
           s->rivals[0].is.said == RMG_SAY_ALL_ON_LINE;
}

void print_heads(FILE *to, const rmg_suspects *suspects)
{
    const rmg_suspect *s = &suspects->list[0];
    gchar *text;

    print_wrapped(to, "", 2, s->headline);
    text = s->finding.kind == RMG_FINDING_SPREAD && s->confidence < 0.5
               ? g_strdup_printf("chance is not ruled out (%.0f %%)%s%s.", s->confidence * 100,
                                 in_one_place(s) ? "; most likely: "
                                                 : ", and no one place has all of it",
                                 in_one_place(s) ? s->rivals[0].name : "")
               : g_strdup_printf("%.0f %% that the fault is there; most likely: %s.",
                                 s->confidence * 100, s->rivals[0].name);
    print_wrapped(to, "How sure: ", 10, text);
    g_free(text);
    if (*s->settle) {
        text = g_strdup_printf("%s.", s->settle);
        print_wrapped(to, "To settle it: ", 14, text);
        g_free(text);
    }
    for (size_t i = 1; i < suspects->count; i++) {
        text = g_strdup_printf("%s (%.0f %%)", suspects->list[i].headline,
                               suspects->list[i].confidence * 100);
        print_wrapped(to, i == 1 ? "Also: " : "      ", 6, text);
        g_free(text);
        if (i == 5 && suspects->count > 6) {
            fprintf(to, "      and %zu more, in the JSON result.\n", suspects->count - 6);
            break;
        }
    }
}

static void print_list(FILE *to, const char *title, char **items, bool numbered)
{
    char lead[16];

    fprintf(to, "\n%s\n", title);
    for (size_t i = 0; items[i]; i++) {
        g_snprintf(lead, sizeof lead, numbered ? "  %zu. " : "  - ", i + 1);
        print_wrapped(to, lead, (unsigned)strlen(lead), items[i]);
    }
}

#define REPLAYS_SHOWN 6u

static gchar *replay_words(const rmg_replayed *r)
{
    if (r->unseen)
        return g_strdup_printf("%s; and %" G_GUINT64_FORMAT " failing bit%s not seen", r->fault,
                               r->unseen, r->unseen == 1 ? " that was" : "s that were");
    if (!r->left && !r->as_often)
        return g_strdup_printf("%s: the same bits, but not in as many reads", r->fault);
    return g_strdup(r->fault);
}

/* What the simulated board gave with each fault that it can be: those that gave the same, or else
 * the nearest. */
static void print_replays(FILE *to, const rmg_suspect *s)
{
    size_t same = 0, shown;

    if (!s->replay_count && !s->untried)
        return;
    fprintf(to, "\nSimulated, the same test gives\n");
    while (same < s->replay_count && s->replays[same].same)
        same++;
    shown = MIN(same ? same : s->replay_count, REPLAYS_SHOWN);
    for (size_t i = 0; i < shown; i++) {
        const rmg_replayed *r = &s->replays[i];
        const double all = (double)MAX(r->explained + r->left, 1u);
        gchar *text = replay_words(r);
        char lead[40];

        if (r->same)
            g_snprintf(lead, sizeof lead, "  the same  ");
        else
            g_snprintf(lead, sizeof lead, "  %5.1f %%   ", 100.0 * (double)r->explained / all);
        print_wrapped(to, lead, 12, text);
        g_free(text);
    }
    if (same > shown)
        fprintf(to, "  %zu more give the same, %zu something else; all are in the JSON result.\n",
                same - shown, s->replay_count - same);
    else if (s->replay_count > shown)
        fprintf(to, "  %zu more give something else.\n", s->replay_count - shown);
    if (s->untried)
        fprintf(to, "  %zu more %s not tried.\n", s->untried, s->untried == 1 ? "was" : "were");
}

void print_suspect(FILE *to, const rmg_suspect *s, bool several)
{
    if (several && s->finding.kind == RMG_FINDING_MEASURED)
        fprintf(to, "\n%s (%.0f %%)\n", s->site, s->confidence * 100);
    else if (several)
        fprintf(to, "\n%s (%.0f %%; %s%.0f %% of the failing bits lie here)\n", s->site,
                s->confidence * 100, s->explained > 0 && s->explained < 0.01 ? "less than " : "",
                MAX(s->explained, s->explained > 0 ? 0.01 : 0) * 100);
    print_list(to, "Why", s->because, false);
    fprintf(to, "\nThese look the same from here\n");
    for (size_t i = 0; i < s->rival_count; i++) {
        char lead[16];

        g_snprintf(lead, sizeof lead, "  %3.0f %%  ", s->rivals[i].share * 100);
        print_wrapped(to, lead, 9, s->rivals[i].name);
    }
    print_replays(to, s);
    print_list(to, "What to do, cheapest first", s->next, true);
}
