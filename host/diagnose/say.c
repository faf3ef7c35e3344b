/* Sayings about a finding, and lists of them. */
#include "internal.h"

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
                        .lines = f->lines};
}

void rmg_add_reason(wording *w, rmg_saying saying)
{
    g_array_append_val(w->reasons, saying);
}

void rmg_add_step(wording *w, rmg_saying saying)
{
    g_array_append_val(w->steps, saying);
}

void rmg_add_settling_step(wording *w, rmg_saying step)
{
    w->s->settles = step;
    rmg_add_step(w, step);
}

void rmg_suspect_add_reason(rmg_suspect *s, rmg_saying saying)
{
    s->reasons = g_renew(rmg_saying, s->reasons, s->reason_count + 1u);
    s->reasons[s->reason_count++] = saying;
}
