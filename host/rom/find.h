/* Inside the room: a finding of a ROM while it is put together. */
#ifndef RMG_HOST_ROMFIND_INTERNAL_H
#define RMG_HOST_ROMFIND_INTERNAL_H

#include "base/internal.h"
#include "diagnose/internal.h"
#include "rimeglass/verify.h"

/* A finding while it is put together. */
typedef struct rmg_rom_finding {
    const rmg_rom_case *rc;
    const rmg_facts *facts;
    rmg_suspect s;
    GArray *reasons;    /* of rmg_saying */
    GArray *steps;      /* of rmg_saying */
    GArray *rivals;     /* of rmg_rival; shares need not add up yet */
    uint64_t reference; /* rmg_romfind_reference of the explanation it is about */
    uint16_t socket;    /* or RMG_NO_SOCKET: a region */
    uint8_t bit; /* one of the chip's data bits, where it is about a chip of a region; or 255 */
    bool soldered;
} rmg_rom_finding;

/* How a finding is put together. rmg_romfind_step: an rmg_explained; _left: the comparison's rest;
 * _nothing, _unsteady: the quality. */
void rmg_romfind_step(rmg_rom_finding *w, const void *explained);
void rmg_romfind_left(rmg_rom_finding *w, const void *comparison);
void rmg_romfind_nothing(rmg_rom_finding *w, const void *quality);
void rmg_romfind_unsteady(rmg_rom_finding *w, const void *quality);

/* Without an image to compare with: what the statistics of a plausible image speak against. */
typedef void (*rmg_romfind_add)(const rmg_rom_case *rc,
                                void (*how)(rmg_rom_finding *w, const void *what), const void *what,
                                GArray *list);
void rmg_romfind_plausible(const rmg_rom_case *rc, rmg_romfind_add add, GArray *list);

/* A saying about the chip or region; the same with three numbers; as a reason, step or rival. */
static inline rmg_saying romfind_say(const rmg_rom_finding *w, rmg_said said)
{
    return rmg_say_of(&w->s.finding, said);
}

static inline void romfind_numbers(rmg_rom_finding *w, rmg_said said, uint64_t n, uint64_t m,
                                   uint64_t k)
{
    rmg_saying s = romfind_say(w, said);

    s.n = n;
    s.m = m;
    s.k = k;
    g_array_append_val(w->reasons, s);
}

static inline void romfind_reason(rmg_rom_finding *w, rmg_said said)
{
    romfind_numbers(w, said, 0, 0, 0);
}

static inline void romfind_step(rmg_rom_finding *w, rmg_said said)
{
    const rmg_saying s = romfind_say(w, said);

    g_array_append_val(w->steps, s);
}

static inline void romfind_rival_of(rmg_rom_finding *w, double share, rmg_saying is)
{
    const rmg_rival rival = {.is = is, .share = share, .cause = RMG_CAUSES};

    g_array_append_val(w->rivals, rival);
}

/* One of the table of causes: as often as that says, `times` as often here. */
static inline void romfind_cause(rmg_rom_finding *w, double times, rmg_cause cause, rmg_saying is)
{
    const rmg_cause_table *table = &w->facts->causes;
    const rmg_rival rival = {.is = is,
                             .share =
                                 times * (w->soldered ? table->soldered : table->socketed)[cause],
                             .cause = cause};

    g_array_append_val(w->rivals, rival);
}

/* One of causes that stand in no table, but that facts about a chip may rule out. */
static inline void romfind_rival_by(rmg_rom_finding *w, double share, rmg_cause cause,
                                    rmg_said said)
{
    const rmg_rival rival = {.is = romfind_say(w, said), .share = share, .cause = cause};

    g_array_append_val(w->rivals, rival);
}

static inline void romfind_rival(rmg_rom_finding *w, double share, rmg_said said)
{
    romfind_rival_of(w, share, romfind_say(w, said));
}

/* What a saying about an explanation has as its k: 0 is none, and the saying's own fields count.
 * `step` is one of the comparison's; `which`: 0 itself, 1 and up what explains as well. */
uint64_t rmg_romfind_reference(const rmg_comparison *c, const rmg_explained *step, size_t which);

/* The finding is about this one chip of a region; RMG_NO_SOCKET: about the region still. */
void rmg_romfind_at(rmg_rom_finding *w, uint16_t socket);

/* How sure a step is, 0..1, and as reasons what explains the readings as well. */
double rmg_romfind_share(const rmg_explained *step);
void rmg_romfind_rivals(rmg_rom_finding *w, const rmg_explained *step);

/* The steps that every finding of a chip in its board can end with: reseat, read it bare, test what
 * else is on the line. `line`: of the board's list, or RMG_NO_POINT. */
void rmg_romfind_steps(rmg_rom_finding *w, bool data_line, uint16_t line);

#endif
