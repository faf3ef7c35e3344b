/* What a job says: in sentences, and as JSON. */
#include <glib.h>
#include <jansson.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/report.h"

static const rmg_job_step *last_step(const rmg_job_state *state)
{
    return state->step_count ? &state->steps[state->step_count - 1u] : NULL;
}

/* "swap U19 U20; reseat U5": changes from number `from` on. */
static gchar *changes_text(const rmg_board *board, const rmg_changes *changes, size_t from)
{
    GString *text = g_string_new(NULL);

    for (size_t i = from; i < changes->count; i++) {
        char *one = rmg_change_text(board, &changes->list[i]);

        g_string_append_printf(text, "%s%s", text->len ? "; " : "", one);
        rmg_text_free(one);
    }
    return g_string_free(text, FALSE);
}

/* What so many clean passes exclude. */
static gchar *passed_text(const rmg_run *run)
{
    return g_strdup_printf("The last test passed %" G_GUINT64_FORMAT
                           " time%s: faults that show in more than %.0f %% of passes are excluded "
                           "with 95 %% confidence.",
                           run->pass_count, run->pass_count == 1 ? "" : "s",
                           rmg_excluded_share(run->pass_count) * 100);
}

void rmg_job_word(rmg_job_state *state)
{
    if (state->base < state->step_count)
        rmg_suspects_word(&state->steps[state->base].file.run, &state->suspects);
    for (size_t i = 0; i < state->past_count; i++)
        rmg_suspects_word(&state->steps[state->past[i].base].file.run, &state->past[i].suspects);
}

static void say_cause(const rmg_board *board, const rmg_job_state *state, GPtrArray *lines)
{
    char *name, *share;
    size_t say;

    if (!state->count)
        return;
    say = rmg_cause_to_say(&state->suspects, state->list, state->count, 0);
    name = rmg_cause_text(board, &state->suspects, &state->changes, state->list, state->count, say);
    share = rmg_percent(state->list[say].after);
    g_ptr_array_add(lines, g_strdup_printf("How sure: %s: %s.", share, name));
    g_free(share);
    rmg_text_free(name);
    rmg_say_other_faults(board, &state->suspects, &state->changes, state->list, state->count,
                         lines);
    if (state->passed_before && state->step_count == state->base + 1u) {
        const rmg_job_step *base = &state->steps[state->base];
        gchar *text = changes_text(board, &base->changes, base->done);

        g_ptr_array_add(lines, g_strdup_printf("Test %" G_GINT64_FORMAT
                                               " passed; since then: %s. What that did not touch "
                                               "was right then.",
                                               state->passed_before, text));
        g_free(text);
    }
}

/* Where the likeliest cause is at no single socket, and no change tells more: what its suspect
 * itself says would settle it, as the test said; else NULL. */
static const char *settling_step(const rmg_job_state *state)
{
    const rmg_hypothesis *h = state->count ? &state->list[0] : NULL;
    const char *step;

    if (!h || h->socket != RMG_NO_SOCKET || h->suspect >= state->suspects.count ||
        (state->advice_count && !state->advice[0].settles))
        return NULL;
    step = state->suspects.list[h->suspect].settle;
    return step && *step ? step : NULL;
}

/* Is a repair that likely that it follows what settles it? Only at first: later it comes at once.
 */
static bool repair_is_due(const rmg_job_state *state)
{
    return state->advice_count && state->advice[0].settles && state->advice[0].share > 0.9;
}

/* What would settle it, then the repair; or one of them. */
static gchar *next_step(const rmg_board *board, const rmg_job_state *state)
{
    const bool begins = state->step_count == state->base + 1u && !state->changes.count;
    const char *settle = settling_step(state);
    char *advice = state->advice_count ? rmg_advice_text(board, &state->advice[0]) : NULL;
    gchar *text;

    if (settle && repair_is_due(state) && begins)
        text = g_strdup_printf("Next: %s. Then: %s", settle, advice);
    else if (settle && !repair_is_due(state))
        text = g_strdup_printf("Next: %s.", settle);
    else
        text = g_strdup_printf("Next: %s",
                               advice ? advice
                                      : "no change that this board allows would tell more; "
                                        "mend what is likeliest.");
    rmg_text_free(advice);
    return text;
}

/* Passes without which a clean test says little: of what comes and goes; 0: any number will do. */
static uint64_t passes_needed(const rmg_job_state *state)
{
    rmg_rate rate;

    if (state->base >= state->step_count)
        return 0;
    rate = rmg_rate_of_passes(&state->steps[state->base].file.run);
    return rate.events && rate.events < rate.trials ? rmg_passes_to_tell(rate.events, rate.trials)
                                                    : 0;
}

static void say_next(const rmg_job *job, const rmg_job_state *state, GPtrArray *lines)
{
    const rmg_board *board = rmg_job_board(job);

    if (state->untested) {
        gchar *text = changes_text(board, &state->changes, state->changes.count - state->untested);

        if (passes_needed(state))
            g_ptr_array_add(lines,
                            g_strdup_printf("Next: test again, with --passes %" G_GUINT64_FORMAT
                                            " or more, for it comes and goes; since the last "
                                            "test: %s.",
                                            passes_needed(state), text));
        else
            g_ptr_array_add(lines,
                            g_strdup_printf("Next: test again; since the last test: %s.", text));
        g_free(text);
    } else if (state->passes && last_step(state)->file.run.pass_count < passes_needed(state)) {
        g_ptr_array_add(lines, g_strdup_printf("Next: test again, with --passes %" G_GUINT64_FORMAT
                                               " or more: it came and went, and %" G_GUINT64_FORMAT
                                               " clean passes may be chance.",
                                               passes_needed(state),
                                               last_step(state)->file.run.pass_count));
    } else if (state->passes) {
        g_ptr_array_add(lines, passed_text(&last_step(state)->file.run));
    } else {
        g_ptr_array_add(lines, next_step(board, state));
    }
}

/* Where a chip and a place are known not to be right together, no one cause explains it: that is
 * said in its place. false: none is. */
static bool say_together(const rmg_board *board, const rmg_job_state *state, GPtrArray *lines)
{
    rmg_job_combination *list;
    size_t count;
    bool said = false;

    rmg_job_combinations_of(state, &list, &count);
    for (size_t i = 0; i < count && !said && !state->untested; i++) {
        const rmg_job_combination *c = &list[i];

        if (!rmg_job_combination_sure(c))
            continue;
        said = true;
        g_ptr_array_add(lines, g_strdup_printf("The chip %s and the socket %s are not right "
                                               "together%s; with others each of them is.",
                                               c->chip, board->sockets[c->socket].name,
                                               c->slower   ? ": at a slower clock it passes"
                                               : c->supply ? ": the supply decides"
                                                           : ""));
        if (state->passes) {
            g_ptr_array_add(lines, passed_text(&last_step(state)->file.run));
        } else {
            char *next = rmg_job_combination_next(board, c);

            g_ptr_array_add(lines, g_strdup_printf("Next: %s", next));
            rmg_text_free(next);
        }
    }
    rmg_job_combinations_free(list, count);
    return said;
}

/* Names that are wrong: of no chip can be said that it is bad. */
static void say_misnamed(const rmg_board *board, const rmg_job_state *state, GPtrArray *lines)
{
    GString *next = g_string_new("Next: write ");
    const char *lead = "";

    for (size_t i = 0; i < state->step_count; i++) {
        const rmg_trial *t = &state->steps[i].trial;

        if (!state->steps[i].followed || t->shown == t->shown_as)
            continue;
        g_string_append_printf(next, "%s%s where the list has %s", lead,
                               board->sockets[t->shown].name, board->sockets[t->shown_as].name);
        lead = ", ";
    }
    g_string_append(next, "; find the others in the same way, and begin a job with the list as it "
                          "then is.");
    g_ptr_array_add(lines,
                    g_strdup("How sure: of no chip, for the names by which they are reported are "
                             "wrong."));
    g_ptr_array_add(lines, g_string_free(next, FALSE));
}

const char *rmg_job_begins_again(const rmg_job_state *state, size_t step)
{
    for (size_t i = 0; i < state->past_count; i++) {
        const size_t base = i + 1u < state->past_count ? state->past[i + 1u].base : state->base;

        if (base == step)
            return state->past[i].apart
                       ? "From here each of them is diagnosed by itself."
                       : "None of the causes found before explains that: it is diagnosed by "
                         "itself.";
    }
    return NULL;
}

/* What follows for the ROMs, one after the other. */
static void say_roms(const rmg_job *job, const rmg_job_state *state, GPtrArray *lines)
{
    for (size_t i = 0; i < state->rom_count; i++) {
        char **rom = rmg_job_rom_lines(rmg_job_board(job), &state->roms[i]);

        for (size_t n = 0; rom[n]; n++)
            g_ptr_array_add(lines, rom[n]);
        g_free(rom);
    }
}

char **rmg_job_lines(const rmg_job *job, const rmg_job_state *state)
{
    GPtrArray *lines = g_ptr_array_new();
    const rmg_job_step *last = NULL;

    for (size_t i = 0; i < state->step_count; i++)
        if (state->steps[i].followed)
            last = &state->steps[i];
    if (!state->step_count && state->rom_count) {
        ; /* the ROMs, below */
    } else if (!state->step_count && state->right_roms) {
        g_ptr_array_add(lines, g_strdup("Nothing was wrong so far with what was verified."));
    } else if (!state->step_count) {
        g_ptr_array_add(lines,
                        g_strdup_printf("No test yet. Next: rimeglass test BOARD --on TARGET "
                                        "--job %s.",
                                        rmg_job_file(job)));
    } else if (state->base >= state->step_count) {
        g_ptr_array_add(lines, g_strdup("Nothing failed so far."));
        g_ptr_array_add(lines, passed_text(&last_step(state)->file.run));
    } else {
        if (last) {
            const size_t at = (size_t)(last - state->steps);
            char **trial = rmg_trial_lines(&last->trial, rmg_job_suspects_at(state, at));

            g_ptr_array_add(lines, g_strdup(trial[0]));
            rmg_texts_free(trial);
            if (state->base == at && rmg_job_begins_again(state, at))
                g_ptr_array_add(lines, g_strdup(rmg_job_begins_again(state, at)));
        } else {
            g_ptr_array_add(lines, g_strdup(state->suspects.count
                                                ? state->suspects.list[0].headline
                                                : "Something failed, but it points to no place."));
        }
        if (state->misnamed) {
            say_misnamed(rmg_job_board(job), state, lines);
        } else if (!say_together(rmg_job_board(job), state, lines)) {
            say_cause(rmg_job_board(job), state, lines);
            say_next(job, state, lines);
        }
    }
    say_roms(job, state, lines);
    g_ptr_array_add(lines, NULL);
    return (char **)g_ptr_array_free(lines, FALSE);
}

char *rmg_job_combination_text(const rmg_board *board, const rmg_job_combination *c)
{
    const char *socket = board->sockets[c->socket].name;

    return g_strdup_printf(
        "The chip %s fails in %s and passes in %s, while the chip %s passes in %s: each may be "
        "sound, "
        "and too slow or too weak for the other.%s%s%s",
        c->chip, socket, c->place, c->other, socket,
        c->again ? " It failed there again, so it is no contact that was made anew."
                 : " Or the contact was made anew when the chips were changed.",
        c->slower ? " It passes there at the slower clock: its speed, or that of the signals there."
                  : "",
        c->supply ? " It passes there at another supply: what it needs, or what it gets there."
                  : "");
}

/* What it is, were it that; what mends it; the trial that tells. */
static const char *const together_causes[RMG_TOGETHER_CAUSES] = {
    [RMG_TOGETHER_CONTACT] = "a contact that was made anew",
    [RMG_TOGETHER_SPEED] = "its speed, of a kind that is too slow there",
    [RMG_TOGETHER_MARKED] = "its speed, which is not what its marking says",
    [RMG_TOGETHER_SUPPLY] = "the supply it gets there",
    [RMG_TOGETHER_SIGNALS] = "the signals it gets there, late or weak",
};
static const char *const together_mends[RMG_TOGETHER_CAUSES] = {
    [RMG_TOGETHER_CONTACT] = "Clean the contacts of the socket, or replace it",
    [RMG_TOGETHER_SPEED] = "Fit a faster chip",
    [RMG_TOGETHER_MARKED] = "Fit a chip whose speed is known; the rest of its lot may be as slow",
    [RMG_TOGETHER_SUPPLY] =
        "Measure the supply at the socket while the test runs, and look at its capacitor; or fit a "
        "chip that asks for less",
    [RMG_TOGETHER_SIGNALS] = "Look for what delays or weakens its signals there, like a buffer or "
                             "pull-ups that other boards of the kind have; or fit a faster chip",
};

static gchar *trial_text(const rmg_board *board, const rmg_job_combination *c)
{
    const char *socket = board->sockets[c->socket].name;

    switch (c->together.next) {
    case RMG_TOGETHER_LOOK:
        return g_strdup_printf("Compare its marking with that of %s (job saw FILE %s is marked as "
                               "fast; or is marked slower)",
                               c->other, c->chip);
    case RMG_TOGETHER_BACK:
        return g_strdup("Put it back and test again");
    case RMG_TOGETHER_CLOCK:
        return g_strdup("Test it there at a slower clock (job changed FILE clock HERTZ)");
    case RMG_TOGETHER_RAISED:
        return g_strdup("Test it there at 5250 mV (job changed FILE supply 5250)");
    case RMG_TOGETHER_LIKE:
        return g_strdup_printf("Test another one with its marking there (job saw FILE one like %s "
                               "passes in %s; or fails)",
                               c->chip, socket);
    default:
        return g_strdup_printf("Compare its print with that of a known one, for markings are wiped "
                               "and printed anew, and its speed in a pod (job saw FILE %s is as "
                               "marked; or is not as marked)",
                               c->chip);
    }
}

char *rmg_job_combination_next(const rmg_board *board, const rmg_job_combination *c)
{
    const rmg_together *t = &c->together;
    gchar *trial, *text;

    if (t->next == RMG_TOGETHER_TRIALS)
        return g_strdup_printf("%s: with %.0f %% it is %s.", together_mends[t->likeliest],
                               100 * t->shares[t->likeliest], together_causes[t->likeliest]);
    trial = trial_text(board, c);
    text = g_strdup_printf("%s. If it %s (%.0f %%), most likely it is %s (%.0f %%); if not, %s "
                           "(%.0f %%).",
                           trial,
                           t->next == RMG_TOGETHER_GRADE  ? "is as marked"
                           : t->next == RMG_TOGETHER_LOOK ? "is marked as fast"
                                                          : "passes",
                           100 * t->passes, together_causes[t->then[0]], 100 * t->then_share[0],
                           together_causes[t->then[1]], 100 * t->then_share[1]);
    g_free(trial);
    return text;
}

char *rmg_job_elsewhere_text(const rmg_job_elsewhere *e)
{
    if (e->about == RMG_ABOUT_MARKED)
        return g_strdup_printf("%s is marked %s", e->chip, e->failed ? "slower" : "as fast");
    if (e->about == RMG_ABOUT_MARKING)
        return g_strdup_printf("%s is %sas marked", e->chip, e->failed ? "not " : "");
    return g_strdup_printf("%s%s %s in %s", e->about == RMG_ABOUT_ONE_LIKE ? "one like " : "",
                           e->chip, e->failed ? "fails" : "passes", e->place);
}

static json_t *elsewhere_json(const rmg_job_state *state)
{
    static const char *const about[] = {"place", "one like it", "marked", "marking"};
    json_t *list = json_array();

    for (size_t i = 0; i < state->elsewhere_count; i++) {
        const rmg_job_elsewhere *e = &state->elsewhere[i];

        rmg_json_append(list, json_pack("{s:s, s:s, s:b, s:s}", "chip", e->chip, "place", e->place,
                                        "failed", (int)e->failed, "about", about[e->about]));
    }
    return list;
}

static json_t *combinations_json(const rmg_board *board, const rmg_job_state *state)
{
    json_t *list = json_array();
    rmg_job_combination *found;
    size_t count;

    rmg_job_combinations_of(state, &found, &count);
    for (size_t i = 0; i < count; i++) {
        const rmg_job_combination *c = &found[i];

        json_t *causes = json_array();

        for (int n = 0; n < RMG_TOGETHER_CAUSES; n++)
            rmg_json_append(causes, json_pack("{s:s, s:f}", "is", together_causes[n], "share",
                                              c->together.shares[n]));
        rmg_json_append(list, json_pack("{s:s, s:s, s:s, s:s, s:b, s:b, s:b, s:o}", "chip", c->chip,
                                        "socket", board->sockets[c->socket].name, "passes_in",
                                        c->place, "other", c->other, "again", (int)c->again,
                                        "slower_clock", (int)c->slower, "other_supply",
                                        (int)c->supply, "causes", causes));
    }
    rmg_job_combinations_free(found, count);
    return list;
}

static json_t *entry_json(const rmg_job_state *state, const rmg_entry *e)
{
    json_t *object = json_pack("{s:I, s:s, s:s, s:s, s:s, s:b}", "number", (json_int_t)e->number,
                               "at", e->at, "kind", rmg_entry_name(e->kind), "verb", e->verb,
                               "text", e->text, "undone", (int)e->undone);

    for (size_t i = 0; i < state->step_count; i++) {
        const rmg_job_step *step = &state->steps[i];

        if (step->entry != e->number)
            continue;
        rmg_json_set(object, "failed", json_boolean(rmg_run_failed(&step->file.run)));
        if (step->followed) {
            char *text = rmg_trial_json(&step->trial, rmg_job_suspects_at(state, i), NULL, 0);

            rmg_json_set(object, "trial", json_loads(text ? text : "null", JSON_DECODE_ANY, NULL));
            rmg_text_free(text);
        } else if (step->why_not) {
            rmg_json_set(object, "not_compared", json_string(step->why_not));
        }
    }
    return object;
}

char *rmg_job_json(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                   size_t count)
{
    const rmg_board *board = rmg_job_board(job);
    json_t *list = json_array(), *says = json_array(), *causes, *next;
    char **lines = rmg_job_lines(job, state);
    json_t *root;

    for (size_t i = 0; i < count; i++)
        rmg_json_append(list, entry_json(state, &entries[i]));
    for (size_t i = 0; lines[i]; i++)
        rmg_json_append(says, json_string(lines[i]));
    causes = rmg_causes_json(board, &state->suspects, &state->changes, state->list, state->count);
    next = rmg_advice_json(board, state->advice, state->advice_count, rmg_advice_text);
    rmg_texts_free(lines);
    root = json_pack("{s:i, s:s, s:s, s:s, s:s, s:s, s:o, s:b, s:o, s:o, s:o, s:o, s:o}",
                     "rimeglass_job", 1, "board", board->name, "revision", board->revision, "begun",
                     rmg_job_begun(job), "owner", rmg_job_owner(job), "symptom",
                     rmg_job_symptom(job), "says", says, "passes", (int)state->passes, "entries",
                     list, "causes", causes, "next", next, "elsewhere", elsewhere_json(state),
                     "combinations", combinations_json(board, state));
    if (state->rom_count)
        rmg_json_set(root, "roms", rmg_job_roms_json(board, state));
    if (state->passed_before)
        rmg_json_set(root, "passed_before", json_integer((json_int_t)state->passed_before));
    return rmg_json_text(root);
}
