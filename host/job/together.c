/* Chips seen outside this board; and chips that are right by themselves and not together with a
 * place: too slow, or too weak, for it. */
#include <string.h>

#include "internal.h"

/* "lot 7 passes in console 4", "one like lot 7 fails in U19", "lot 7 is marked slower": its parts,
 * `chip` and `place` to be freed. */
static bool split(const char *text, rmg_job_elsewhere *e)
{
    static const char *const words[] = {" passes in ",       " fails in ",    " is marked as fast",
                                        " is marked slower", " is as marked", " is not as marked"};
    static const char *const like = "one like ";

    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++) {
        const char *at = strstr(text, words[i]);
        const bool marking = i > 1;

        if (!at || at == text || !at[strlen(words[i])] != marking)
            continue;
        *e = (rmg_job_elsewhere){.failed = i & 1u,
                                 .about = i > 3     ? RMG_ABOUT_MARKING
                                          : marking ? RMG_ABOUT_MARKED
                                                    : RMG_ABOUT_PLACE};
        if (!marking && g_str_has_prefix(text, like) && at > text + strlen(like)) {
            e->about = RMG_ABOUT_ONE_LIKE;
            text += strlen(like);
        }
        e->chip = g_strstrip(g_strndup(text, (gsize)(at - text)));
        e->place = g_strstrip(g_strdup(at + strlen(words[i])));
        return true;
    }
    return false;
}

/* The chips that a job knows: by the sockets they were first in, and by the labels that came with
 * changes. */
static GPtrArray *known_chips(const rmg_board *board, const rmg_entry *entries, size_t count)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);

    for (size_t s = 0; s < board->socket_count; s++)
        g_ptr_array_add(names, g_strdup_printf("first in %s", board->sockets[s].name));
    for (size_t i = 0; i < count; i++) {
        rmg_changes changes = {0};
        rmg_error error = {0};

        if (entries[i].kind == RMG_ENTRY_CHANGE && !entries[i].undone)
            (void)rmg_changes_parse(board, entries[i].text, &changes, &error);
        for (size_t n = 0; n < changes.count; n++)
            if (changes.list[n].text && (changes.list[n].kind == RMG_CHANGE_FIT ||
                                         changes.list[n].kind == RMG_CHANGE_REPLACE))
                g_ptr_array_add(names, g_strdup(changes.list[n].text));
        rmg_changes_free(&changes);
        rmg_error_free(&error);
    }
    g_ptr_array_add(names, NULL);
    return names;
}

/* The name by which the job knows the chip; a socket's stands for the chip that was first in it. */
static gchar *known_as(const GPtrArray *names, const char *chip)
{
    gchar *first = g_strdup_printf("first in %s", chip);
    const char *found = NULL;

    for (guint i = 0; names->pdata[i] && !found; i++)
        if (g_ascii_strcasecmp(names->pdata[i], chip) == 0 ||
            g_ascii_strcasecmp(names->pdata[i], first) == 0)
            found = names->pdata[i];
    g_free(first);
    return g_strdup(found);
}

rmg_status rmg_job_check_elsewhere(const rmg_board *board, const rmg_entry *entries, size_t count,
                                   const char *text, rmg_error *error)
{
    gchar *known;
    const char *near;
    rmg_job_elsewhere e;
    GPtrArray *names;
    rmg_status status = RMG_OK;

    if (!split(text, &e))
        return RMG_OK;
    names = known_chips(board, entries, count);
    known = known_as(names, e.chip);
    near = known ? NULL : rmg_nearest(e.chip, (const char *const *)names->pdata);
    if (near)
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "this job knows no chip \"%s\"; did you mean %s?", e.chip, near);
    g_ptr_array_free(names, TRUE);
    g_free(e.chip);
    g_free(e.place);
    g_free(known);
    return status;
}

void rmg_job_take_elsewhere(rmg_job_state *state, const rmg_board *board, const rmg_entry *entries,
                            size_t count)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_job_elsewhere));
    GPtrArray *names = known_chips(board, entries, count);

    for (size_t i = 0; i < count; i++) {
        rmg_job_elsewhere e = {NULL};
        gchar *chip;

        if (entries[i].kind != RMG_ENTRY_SAW || entries[i].undone || !split(entries[i].text, &e))
            continue;
        chip = e.chip;
        e.chip = known_as(names, chip);
        g_free(chip);
        if (e.chip)
            g_array_append_val(list, e);
        else
            g_free(e.place); /* only words */
    }
    g_ptr_array_free(names, TRUE);
    state->elsewhere_count = list->len;
    state->elsewhere = rmg_array_take(list);
}

void rmg_job_weigh_elsewhere(const rmg_job_state *state, const rmg_board *board,
                             rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < state->elsewhere_count; i++)
        for (uint16_t s = 0; s < board->socket_count; s++) {
            gchar *first = g_strdup_printf("first in %s", board->sockets[s].name);

            if (state->elsewhere[i].about == RMG_ABOUT_PLACE &&
                strcmp(first, state->elsewhere[i].chip) == 0)
                rmg_elsewhere_weigh(s, state->elsewhere[i].failed, list, count);
            g_free(first);
        }
}

/* The value that such a change set last, before this test; 0: as the board has it. */
static int64_t in_force(const rmg_job_step *step, rmg_change_kind kind)
{
    int64_t value = 0;

    for (size_t i = 0; i < step->changes.count; i++)
        if (step->changes.list[i].kind == kind)
            value = step->changes.list[i].value;
    return value;
}

/* The first test from `from` on in which the chip was in that socket and failed, or passed. */
static size_t test_of(const rmg_job_chips *chips, const rmg_job_chip *chip, const char *socket,
                      bool failed, size_t from)
{
    size_t i = from;

    while (i < chips->step_count &&
           (g_strcmp0(chip->places[i], socket) != 0 || chip->failed[i] != failed))
        i++;
    return i;
}

/* Where else is the chip right? NULL: nowhere, or it fails elsewhere. */
static const char *right_elsewhere(const rmg_job_state *state, const rmg_job_chips *chips,
                                   const rmg_job_chip *chip, const char *socket, bool *outside)
{
    const char *found = NULL;

    *outside = false;
    for (size_t i = 0; i < state->elsewhere_count; i++)
        if (state->elsewhere[i].about == RMG_ABOUT_PLACE &&
            strcmp(state->elsewhere[i].chip, chip->name) == 0) {
            if (state->elsewhere[i].failed)
                return NULL;
            found = state->elsewhere[i].place;
            *outside = true;
        }
    for (size_t i = 0; i < chips->step_count; i++)
        if (chip->places[i] && strcmp(chip->places[i], socket) != 0) {
            if (chip->failed[i])
                return NULL;
            found = found ? found : chip->places[i];
        }
    return found;
}

/* One trial passed: that counts, whatever others of its kind did. */
static void note(rmg_job_combination *c, rmg_together_trial trial, bool failed)
{
    if (c->seen[trial] != RMG_TOGETHER_PASSES)
        c->seen[trial] = failed ? RMG_TOGETHER_FAILS : RMG_TOGETHER_PASSES;
}

/* Does the chip pass there at another clock or supply than it failed at? */
static void conditions(const rmg_job_state *state, const rmg_job_chips *chips,
                       const rmg_job_chip *chip, rmg_job_combination *c, const char *socket)
{
    const rmg_job_step *failed = &state->steps[test_of(chips, chip, socket, true, 0)];

    for (size_t i = 0; (i = test_of(chips, chip, socket, false, i)) < chips->step_count; i++) {
        const rmg_job_step *passed = &state->steps[i];
        const int64_t clock = in_force(passed, RMG_CHANGE_CLOCK),
                      before = in_force(failed, RMG_CHANGE_CLOCK);

        c->slower |= clock && (!before || clock < before);
        c->supply |= in_force(passed, RMG_CHANGE_SUPPLY) != in_force(failed, RMG_CHANGE_SUPPLY);
    }
}

/* What the trials that were made say of it. */
static void trials_of(const rmg_job_state *state, const rmg_job_chips *chips,
                      const rmg_job_chip *chip, rmg_job_combination *c, const char *socket)
{
    const size_t failed = test_of(chips, chip, socket, true, 0);
    const rmg_job_step *first = &state->steps[failed];
    const int64_t clock = in_force(first, RMG_CHANGE_CLOCK),
                  supply = in_force(first, RMG_CHANGE_SUPPLY);
    bool away = false; /* since then it was elsewhere */

    if (c->again)
        note(c, RMG_TOGETHER_BACK, true);
    if (c->slower)
        note(c, RMG_TOGETHER_CLOCK, false);
    if (c->supply)
        note(c, RMG_TOGETHER_RAISED, false);
    for (size_t i = failed + 1u; i < chips->step_count; i++) {
        const bool there = g_strcmp0(chip->places[i], socket) == 0;

        away |= !there;
        if (away && there && !chip->failed[i] &&
            in_force(&state->steps[i], RMG_CHANGE_CLOCK) == clock &&
            in_force(&state->steps[i], RMG_CHANGE_SUPPLY) == supply)
            note(c, RMG_TOGETHER_BACK, false);
    }
    for (size_t i = 0; (i = test_of(chips, chip, socket, true, i)) < chips->step_count; i++) {
        const int64_t now = in_force(&state->steps[i], RMG_CHANGE_CLOCK),
                      fed = in_force(&state->steps[i], RMG_CHANGE_SUPPLY);

        if (now && (!clock || now < clock))
            note(c, RMG_TOGETHER_CLOCK, true);
        if (fed > supply)
            note(c, RMG_TOGETHER_RAISED, true);
    }
    for (size_t i = 0; i < state->elsewhere_count; i++) {
        const rmg_job_elsewhere *e = &state->elsewhere[i];

        if (strcmp(e->chip, chip->name) != 0)
            continue;
        if (e->about == RMG_ABOUT_MARKED)
            note(c, RMG_TOGETHER_LOOK, e->failed);
        if (e->about == RMG_ABOUT_MARKING)
            note(c, RMG_TOGETHER_GRADE, e->failed);
        if (e->about == RMG_ABOUT_ONE_LIKE && g_ascii_strcasecmp(e->place, socket) == 0)
            note(c, RMG_TOGETHER_LIKE, e->failed);
    }
}

/* The chip failed in the socket; is it right elsewhere, and another one right there? */
static bool combines(const rmg_job_state *state, const rmg_job_chips *chips, size_t n,
                     const char *socket, rmg_job_combination *c)
{
    const rmg_job_chip *chip = &chips->list[n];
    const size_t first = test_of(chips, chip, socket, true, 0);
    size_t passed = chips->step_count;
    bool outside;

    *c = (rmg_job_combination){.chip = chip->name};
    if (first == chips->step_count) /* most chips; the rest looks at all others */
        return false;
    for (size_t d = 0; d < chips->count && passed == chips->step_count; d++)
        if (d != n) {
            passed = test_of(chips, &chips->list[d], socket, false, 0);
            c->other = chips->list[d].name;
        }
    c->place = right_elsewhere(state, chips, chip, socket, &outside);
    if (passed == chips->step_count || !c->place)
        return false;
    c->again = first < passed && test_of(chips, chip, socket, true, passed) < chips->step_count;
    conditions(state, chips, chip, c, socket);
    trials_of(state, chips, chip, c, socket);
    return outside || c->again || passed < first;
}

bool rmg_job_combination_sure(const rmg_job_combination *c)
{
    return c->again || c->slower || c->supply;
}

void rmg_job_combinations_of(const rmg_job_state *state, rmg_job_combination **list, size_t *count)
{
    const rmg_board *board = state->step_count ? state->steps[0].file.board : NULL;
    GArray *found = g_array_new(FALSE, TRUE, sizeof(rmg_job_combination));
    rmg_job_chips chips;
    rmg_job_combination c;

    rmg_job_chips_of(state, &chips);
    for (size_t n = 0; n < chips.count; n++)
        for (uint16_t s = 0; s < board->socket_count; s++)
            if (combines(state, &chips, n, board->sockets[s].name, &c)) {
                c.socket = s;
                rmg_together_weigh(c.seen, &state->costs, board->sockets[s].mount, &c.together);
                c.chip = g_strdup(c.chip);
                c.other = g_strdup(c.other);
                c.place = g_strdup(c.place);
                g_array_append_val(found, c);
            }
    rmg_job_chips_free(&chips);
    *count = found->len;
    *list = rmg_array_take(found);
}

void rmg_job_combinations_free(rmg_job_combination *list, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        g_free((gchar *)list[i].chip);
        g_free((gchar *)list[i].other);
        g_free((gchar *)list[i].place);
    }
    g_free(list);
}
