/* Results of reading ROMs as JSON; their form: docs/rom.schema.json. */
#ifndef RIMEGLASS_ROMRESULT_H
#define RIMEGLASS_ROMRESULT_H

#include "romfind.h"
#include "verify.h"
#include "watch.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A series at steps of one condition, for the result. */
typedef struct rmg_series {
    rmg_condition which;
    const rmg_verify_step *steps; /* [count] */
    size_t count;
} rmg_series;

/* All that is told of one reading. What is NULL or 0 was not done. */
typedef struct rmg_rom_result {
    const rmg_board *board; /* the chip's own */
    const char *target;
    const char *action; /* "dump", "verify" or "watch" */
    const char *image;  /* file that was compared with */
    bool complete;
    const rmg_rom *rom;
    const rmg_verify *verify;
    const rmg_verify *bare; /* the same chip on its own pins */
    const rmg_rom_watch *watch;
    const rmg_series *series; /* [series_count] */
    size_t series_count;
    const char *const *other_names;
    const rmg_suspects *suspects;
} rmg_rom_result;

/* To be freed with rmg_text_free. */
char *rmg_rom_json(const rmg_rom_result *result);

#ifdef __cplusplus
}
#endif
#endif
