/* Sayings about a finding, and lists of them. */
#include "internal.h"

static const char *const said_names[RMG_SAID] = {"",
#define NAME(name) #name,
                                                 RMG_SAYINGS(NAME)
#undef NAME
};

const char *rmg_said_name(rmg_said said)
{
    return said_names[said];
}

rmg_said rmg_said_named(const char *name)
{
    for (unsigned i = 0; i < RMG_SAID; i++)
        if (g_ascii_strcasecmp(said_names[i], name) == 0)
            return (rmg_said)i;
    return RMG_SAY_NOTHING;
}

rmg_saying rmg_say_of(const rmg_finding *f, rmg_said said)
{
    return (rmg_saying){.said = said,
                        .socket = f->socket,
                        .other = RMG_NO_SOCKET,
                        .bank = f->bank,
                        .bank2 = f->bank2,
                        .line = f->point == RMG_NO_POINT ? RMG_NO_POINT : f->line,
                        .point = f->point,
                        .level = f->high_wins,
                        .bits = f->bits,
                        .lines = f->lines,
                        .by = f->by};
}

void rmg_add_reason(wording *w, rmg_saying saying)
{
    g_array_append_val(w->reasons, saying);
}

/* What is done in the place of a step where the chip sits on solder balls: nothing of it can be
 * pulled, lifted or probed at its own pins. */
static rmg_saying step_that_can_be_taken(const wording *w, rmg_saying step)
{
    static const struct {
        rmg_said step, instead;
    } rows[] = {
        {RMG_SAY_MEASURE_SUPPLIES, RMG_SAY_SUPPLIES_NEARBY},
        {RMG_SAY_SOLDER_JOINTS, RMG_SAY_PRESS_ON_BALLS},
        {RMG_SAY_PIGGYBACK, RMG_SAY_BALLS_LAST},
        {RMG_SAY_MEASURE_FROM_LEGS, RMG_SAY_BALLS_LAST},
        {RMG_SAY_MEASURE_SELECT, RMG_SAY_PROBE_SELECT_NEARBY},
        {RMG_SAY_PROBE_SELECT_OF, RMG_SAY_PROBE_SELECT_NEARBY},
    };
    const uint16_t socket = w->s->finding.socket;

    if (socket == RMG_NO_SOCKET || w->board->sockets[socket].mount != RMG_MOUNT_BALL)
        return step;
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++)
        if (rows[i].step == step.said)
            step.said = rows[i].instead;
    return step;
}

void rmg_add_step(wording *w, rmg_saying saying)
{
    saying = step_that_can_be_taken(w, saying);
    g_array_append_val(w->steps, saying);
}

void rmg_add_settling_step(wording *w, rmg_saying step)
{
    w->s->settles = step_that_can_be_taken(w, step);
    rmg_add_step(w, step);
}

void rmg_suspect_add_reason(rmg_suspect *s, rmg_saying saying)
{
    s->reasons = g_renew(rmg_saying, s->reasons, s->reason_count + 1u);
    s->reasons[s->reason_count++] = saying;
}
