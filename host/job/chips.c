/* Chips on their way through a job: where each was at each test, and whether it failed there. */
#include <string.h>

#include "internal.h"
#include "trial/internal.h"

/* The chip in each socket: its number in the list; and the list. */
typedef struct carrying {
    const rmg_job_state *state;
    const rmg_board *board;
    GArray *chips; /* of rmg_job_chip */
    guint *at;     /* [socket_count]; G_MAXUINT: none */
} carrying;

static guint add_chip(carrying *c, gchar *name)
{
    const size_t steps = c->state->step_count;
    const rmg_job_chip chip = {name, g_new0(char *, steps + 1u), g_new0(bool, steps + 1u)};

    g_array_append_val(c->chips, chip);
    return c->chips->len - 1u;
}

/* A chip from outside, by its label; one that was there before comes back. */
static guint labelled(carrying *c, const rmg_change *change)
{
    gchar *name = change->text
                      ? g_strdup(change->text)
                      : g_strdup_printf("fitted in %s", c->board->sockets[change->socket].name);

    for (guint i = 0; i < c->chips->len; i++)
        if (strcmp(g_array_index(c->chips, rmg_job_chip, i).name, name) == 0) {
            g_free(name);
            return i;
        }
    return add_chip(c, name);
}

static void apply(carrying *c, const rmg_change *change)
{
    guint chip;

    switch (change->kind) {
    case RMG_CHANGE_SWAP:
        chip = c->at[change->socket];
        c->at[change->socket] = c->at[change->other];
        c->at[change->other] = chip;
        break;
    case RMG_CHANGE_MOVE:
        c->at[change->other] = c->at[change->socket];
        c->at[change->socket] = G_MAXUINT;
        break;
    case RMG_CHANGE_PULL:
        for (uint16_t s = 0; s < c->board->socket_count; s++)
            if (change->bank != RMG_NO_BANK ? rmg_board_bits(c->board, change->bank, s) != 0
                                            : s == change->socket)
                c->at[s] = G_MAXUINT;
        break;
    case RMG_CHANGE_FIT:
    case RMG_CHANGE_REPLACE:
        c->at[change->socket] = labelled(c, change);
        break;
    default:
        break;
    }
}

static bool was_moved(const rmg_job_chip *chip, size_t steps)
{
    bool moved = false;

    for (size_t i = 0; i < steps; i++)
        moved |= chip->failed[i] || g_strcmp0(chip->places[i], chip->places[0]) != 0;
    return moved;
}

static void free_chip(rmg_job_chip *chip)
{
    g_free(chip->name);
    g_free(chip->places); /* the names in it are the board's */
    g_free(chip->failed);
}

void rmg_job_chips_of(const rmg_job_state *state, rmg_job_chips *chips)
{
    const rmg_board *board = state->step_count ? state->steps[0].file.board : NULL;
    carrying c = {.state = state,
                  .board = board,
                  .chips = g_array_new(FALSE, TRUE, sizeof(rmg_job_chip)),
                  .at = board ? g_new(guint, board->socket_count + 1u) : NULL};
    guint kept = 0;

    for (size_t s = 0; board && s < board->socket_count; s++)
        c.at[s] = add_chip(&c, g_strdup_printf("first in %s", board->sockets[s].name));
    for (size_t i = 0; i < state->step_count; i++) {
        const rmg_job_step *step = &state->steps[i];

        /* what was changed before the first test is how the board is */
        for (size_t n = step->done; n < step->changes.count && i; n++)
            apply(&c, &step->changes.list[n]);
        for (uint16_t s = 0; s < board->socket_count; s++)
            if (c.at[s] != G_MAXUINT) {
                rmg_job_chip *chip = &g_array_index(c.chips, rmg_job_chip, c.at[s]);

                chip->places[i] = board->sockets[s].name;
                chip->failed[i] = rmg_failing_at(&step->file.run, s) > 0;
            }
    }
    for (guint i = 0; i < c.chips->len; i++) {
        rmg_job_chip chip = g_array_index(c.chips, rmg_job_chip, i);

        if (was_moved(&chip, state->step_count))
            g_array_index(c.chips, rmg_job_chip, kept++) = chip;
        else
            free_chip(&chip);
    }
    g_array_set_size(c.chips, kept);
    chips->count = kept;
    chips->step_count = state->step_count;
    chips->list = rmg_array_take(c.chips);
    g_free(c.at);
}

void rmg_job_chips_free(rmg_job_chips *chips)
{
    for (size_t i = 0; i < chips->count; i++)
        free_chip(&chips->list[i]);
    g_free(chips->list);
    *chips = (rmg_job_chips){NULL, 0, 0};
}
