/* What a job says of the ROMs that were verified in it: in sentences, and as JSON. */
#include <glib.h>
#include <string.h>

#include "internal.h"

/* "U5" of "U5 (27128)"; a region as it is. To be freed. */
static gchar *short_name(const rmg_job_rom *rom)
{
    const char *what = rom->readings[rom->base].verdict.what;

    return g_str_has_prefix(what, "region ") ? g_strdup(what) : g_strndup(what, strcspn(what, " "));
}

/* The changes before a reading; "" where there were none but reading it on its own pins. */
static gchar *changes_text(const rmg_board *board, const rmg_changes *changes, size_t from)
{
    GString *text = g_string_new(NULL);
    bool pulled = false;

    for (size_t i = from; i < changes->count; i++) {
        char *one = rmg_change_text(board, &changes->list[i]);

        pulled |= changes->list[i].kind == RMG_CHANGE_READ;
        if (changes->list[i].kind != RMG_CHANGE_READ && changes->list[i].kind != RMG_CHANGE_MEASURE)
            g_string_append_printf(text, "%s%s", text->len ? "; " : "", one);
        rmg_text_free(one);
    }
    if (!text->len && pulled)
        g_string_append(text, "it was pulled for that, and put back");
    return g_string_free(text, FALSE);
}

static const char *outcome_words(const rmg_job_reading *r)
{
    const bool bare = r->verdict.bare;

    switch (r->outcome) {
    case RMG_OUTCOME_PASSED:
        return "What was read this time is right; the chip that was wrong was not read";
    case RMG_OUTCOME_GONE:
        return bare ? "On its own pins it reads right" : "It reads right now";
    case RMG_OUTCOME_UNCHANGED:
        return bare ? "On its own pins it is wrong in the same way" : "It is wrong as before";
    case RMG_OUTCOME_LESS:
        return bare ? "On its own pins less of it is wrong" : "Less of it is wrong than before";
    case RMG_OUTCOME_WORSE:
        return bare ? "On its own pins more of it is wrong"
                    : "More of it is wrong than before: the change may have broken something (a "
                      "bent leg, a chip the wrong way round)";
    case RMG_OUTCOME_WENT:
        return "It went with the chip";
    case RMG_OUTCOME_STAYED:
        return "It stayed at the socket";
    default:
        return bare ? "On its own pins it is wrong in another way" : "It is wrong in another way";
    }
}

char *rmg_job_reading_text(const rmg_board *board, const rmg_job_rom *rom, size_t n)
{
    const rmg_job_reading *r = &rom->readings[n];
    gchar *name = short_name(rom);
    GString *text = g_string_new(NULL);

    if (r->followed) {
        gchar *changes = changes_text(board, &r->changes, r->done);

        g_string_append_printf(
            text, "%s: %s%s%s%s.", name, outcome_words(r), *changes && !r->verdict.bare ? " (" : "",
            *changes && !r->verdict.bare ? changes : "", *changes && !r->verdict.bare ? ")" : "");
        g_free(changes);
    }
    if (r->count && r->followed && n != rom->base) {
        const rmg_suspects *suspects = &rom->readings[rom->base].verdict.suspects;
        char *cause = rmg_cause_text(board, suspects, &r->changes, r->list, r->count, 0);
        gchar *share = rmg_percent(r->list[0].after);

        gchar *before = rmg_percent(r->list[0].before);

        if (n > rom->base)
            g_string_append_printf(text, " Most likely: %s (%s; before it %s).", cause, share,
                                   before);
        g_free(before);
        g_free(share);
        rmg_text_free(cause);
    }
    if (n == rom->base && r->followed)
        g_string_append(text, " None of the causes found before explains that: it is diagnosed by "
                              "itself.");
    g_free(name);
    return g_string_free(text, FALSE);
}

/* "if it reads right there (40 %): its contact (70 %)" */
static void add_forecast(GString *text, const rmg_advice *a, size_t i)
{
    const rmg_forecast *f = &a->results[i];
    const bool bare = a->change.kind == RMG_CHANGE_READ;
    const char *outcome =
        f->outcome == RMG_OUTCOME_GONE ? bare ? "it reads right there" : "it reads right then"
        : f->outcome == RMG_OUTCOME_UNCHANGED ? bare ? "it is wrong there too" : "nothing changes"
                                              : rmg_outcome_name(f->outcome);

    g_string_append_printf(text, "%s%s (%.0f %%): %s (%.0f %%)", i ? "; if " : ". If ", outcome,
                           f->chance * 100, rmg_belongs_name(f->belongs), f->share * 100);
}

char *rmg_job_rom_advice_text(const rmg_board *board, const rmg_advice *a)
{
    const char *socket =
        a->change.socket == RMG_NO_SOCKET ? "" : board->sockets[a->change.socket].name;
    char *change =
        a->change.kind == RMG_CHANGE_READ
            ? g_strdup_printf("verify %s on its own pins (--bare)", socket)
        : a->change.kind == RMG_CHANGE_MEASURE
            ? g_strdup_printf("measure, power off, from the line to the leg of %s at the pin that "
                              "is wrong",
                              socket)
        : a->change.kind == RMG_CHANGE_CLOCK ? g_strdup("verify it at a slower clock")
        : a->change.kind == RMG_CHANGE_FIT
            ? g_strdup_printf("fit %s with another one that holds the same", socket)
            : rmg_change_text(board, &a->change);
    GString *text = g_string_new(change);

    *text->str = g_ascii_toupper(*text->str);
    g_string_append_printf(text, " (%.0f minutes)", a->cost.minutes);
    if (a->settles)
        g_string_append_printf(text, ": %.0f %% that this is it; then verify it again",
                               MIN(a->share, 0.99) * 100);
    for (size_t i = 0; i < a->result_count && !a->settles; i++)
        add_forecast(text, a, i);
    g_string_append_c(text, '.');
    rmg_text_free(change);
    return g_string_free(text, FALSE);
}

/* A chip that was pulled for good; RMG_NO_SOCKET: none. */
static uint16_t still_out(const rmg_job_rom *rom)
{
    for (size_t i = rom->changes.count; i-- > 0;) {
        const rmg_change *c = &rom->changes.list[i];
        bool back = c->kind != RMG_CHANGE_PULL || c->socket == RMG_NO_SOCKET;

        for (size_t n = i + 1u; n < rom->changes.count; n++)
            back |=
                rom->changes.list[n].socket == c->socket || rom->changes.list[n].other == c->socket;
        if (!back)
            return c->socket;
    }
    return RMG_NO_SOCKET;
}

static void say_next(const rmg_board *board, const rmg_job_rom *rom, const char *name,
                     GPtrArray *lines)
{
    const size_t from = rom->readings[rom->reading_count - 1u].changes.count;
    gchar *changes = changes_text(board, &rom->changes, MIN(from, rom->changes.count));
    const uint16_t out = rom->right ? still_out(rom) : RMG_NO_SOCKET;

    if (rom->untested) {
        g_ptr_array_add(lines, g_strdup_printf("Next: verify %s again; since the last reading: %s.",
                                               name, changes));
    } else if (!rom->right) {
        char *advice = rom->advice_count
                           ? rmg_job_rom_advice_text(board, &rom->advice[0])
                           : g_strdup("no change that this board allows would tell more; mend what "
                                      "is likeliest.");

        g_ptr_array_add(lines, g_strdup_printf("Next: %s", advice));
        rmg_text_free(advice);
    }
    if (out != RMG_NO_SOCKET && !rom->untested)
        g_ptr_array_add(lines,
                        g_strdup_printf("Next: fit %s with another chip, and verify %s again.",
                                        board->sockets[out].name, name));
    g_free(changes);
}

/* How much was wrong when its causes were found, and how much now. */
static void say_counts(const rmg_rom_verdict *before, const rmg_rom_verdict *now, GPtrArray *lines)
{
    if (!before->compared || !now->compared || !rmg_rom_verdict_covers(now, before))
        return; /* other chips were read */
    g_ptr_array_add(
        lines, g_strdup_printf("Wrong bits: %" G_GUINT64_FORMAT " then, %" G_GUINT64_FORMAT
                               " in the last reading%s; not steady: %" G_GUINT64_FORMAT
                               " then, %" G_GUINT64_FORMAT " in the last (of %" G_GUINT64_FORMAT
                               " and %" G_GUINT64_FORMAT " readings).",
                               before->wrong_bits, now->wrong_bits,
                               now->bare && !before->bare ? ", on its own pins" : "",
                               before->unsteady_bits, now->unsteady_bits, before->readings,
                               now->readings));
}

char **rmg_job_rom_lines(const rmg_board *board, const rmg_job_rom *rom)
{
    const rmg_suspects *suspects = &rom->readings[rom->base].verdict.suspects;
    const size_t last = rom->reading_count - 1u;
    GPtrArray *lines = g_ptr_array_new();
    gchar *name = short_name(rom);

    if (rom->readings[last].followed && last != rom->base) {
        const rmg_job_reading *r = &rom->readings[last];
        gchar *changes = changes_text(board, &r->changes, r->done);

        g_ptr_array_add(lines, g_strdup_printf("%s: %s%s%s%s.", name, outcome_words(r),
                                               *changes && !r->verdict.bare ? " (" : "",
                                               *changes && !r->verdict.bare ? changes : "",
                                               *changes && !r->verdict.bare ? ")" : ""));
        g_free(changes);
    } else {
        g_ptr_array_add(lines, g_strdup(suspects->list[0].headline));
    }
    if (rom->count) {
        char *cause = rmg_cause_text(board, suspects, &rom->changes, rom->list, rom->count, 0);
        gchar *share = rmg_percent(rom->list[0].after);

        g_ptr_array_add(lines, g_strdup_printf("How sure: %s: %s.", share, cause));
        g_free(share);
        rmg_text_free(cause);
        rmg_say_other_faults(board, suspects, &rom->changes, rom->list, rom->count, lines);
    }
    if (rom->passed_before)
        g_ptr_array_add(lines, g_strdup_printf("Entry %" G_GINT64_FORMAT
                                               " read right; what was changed since then counts "
                                               "for more than what was not touched.",
                                               rom->passed_before));
    say_next(board, rom, name, lines);
    if (last > rom->base)
        say_counts(&rom->readings[rom->base].verdict, &rom->readings[last].verdict, lines);
    g_free(name);
    g_ptr_array_add(lines, NULL);
    return (char **)g_ptr_array_free(lines, FALSE);
}

static json_t *texts_json(char **texts)
{
    json_t *list = json_array();

    for (size_t i = 0; texts[i]; i++)
        rmg_json_append(list, json_string(texts[i]));
    return list;
}

static json_t *readings_json(const rmg_board *board, const rmg_job_rom *rom)
{
    json_t *list = json_array();

    for (size_t i = 0; i < rom->reading_count; i++) {
        const rmg_job_reading *r = &rom->readings[i];
        json_t *one = json_pack("{s:I, s:b, s:b}", "entry", (json_int_t)r->entry, "bare",
                                (int)r->verdict.bare, "right", (int)!r->verdict.suspects.count);

        if (r->followed) {
            char *text = rmg_job_reading_text(board, rom, i);

            rmg_json_set(one, "outcome", json_string(rmg_outcome_name(r->outcome)));
            rmg_json_set(one, "says", json_string(text));
            rmg_text_free(text);
        }
        rmg_json_append(list, one);
    }
    return list;
}

json_t *rmg_job_roms_json(const rmg_board *board, const rmg_job_state *state)
{
    json_t *list = json_array();

    for (size_t i = 0; i < state->rom_count; i++) {
        const rmg_job_rom *rom = &state->roms[i];
        const rmg_suspects *suspects = &rom->readings[rom->base].verdict.suspects;
        char **lines = rmg_job_rom_lines(board, rom);
        json_t *causes = rmg_causes_json(board, suspects, &rom->changes, rom->list, rom->count);
        json_t *next =
            rmg_advice_json(board, rom->advice, rom->advice_count, rmg_job_rom_advice_text);

        rmg_json_append(list, json_pack("{s:s, s:b, s:o, s:o, s:o, s:o}", "what",
                                        rom->readings[rom->base].verdict.what, "right",
                                        (int)rom->right, "says", texts_json(lines), "readings",
                                        readings_json(board, rom), "causes", causes, "next", next));
        rmg_texts_free(lines);
    }
    return list;
}
