/* Inside the host library: a finding of a ROM while it is being worded. */
#ifndef RMG_HOST_ROMFIND_INTERNAL_H
#define RMG_HOST_ROMFIND_INTERNAL_H

#include <glib.h>

#include "rimeglass/verify.h"

typedef struct rmg_rom_words_in {
    const rmg_rom_case *rc;
    rmg_suspect s;
    GPtrArray *because;
    GPtrArray *next;
    GArray *rivals; /* of rmg_rival; shares need not add up yet */
    uint16_t socket;
    const char *name; /* of the socket, or of the region */
    bool soldered;
} rmg_rom_words_in;

/* How a finding is worded. rmg_romfind_step: an rmg_explained; _left: the comparison's rest;
 * _nothing, _unsteady: the quality. */
void rmg_romfind_step(rmg_rom_words_in *w, const void *explained);
void rmg_romfind_left(rmg_rom_words_in *w, const void *comparison);
void rmg_romfind_nothing(rmg_rom_words_in *w, const void *quality);
void rmg_romfind_unsteady(rmg_rom_words_in *w, const void *quality);

/* Without an image to compare with: what the statistics of a plausible image speak against. */
typedef void (*rmg_romfind_add)(const rmg_rom_case *rc,
                                void (*how)(rmg_rom_words_in *w, const void *what),
                                const void *what, GArray *list);
void rmg_romfind_plausible(const rmg_rom_case *rc, rmg_romfind_add add, GArray *list);

static inline void romfind_rival(rmg_rom_words_in *w, double share, gchar *name)
{
    const rmg_rival rival = {name, share, RMG_CAUSES};

    g_array_append_val(w->rivals, rival);
}

/* The steps that every finding of a chip in its board can end with: reseat, read it bare, test what
 * else is on the line. */
void rmg_romfind_steps(rmg_rom_words_in *w, bool data_line, const rmg_line *line);

#endif
