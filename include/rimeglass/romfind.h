/* What readings of a ROM and their comparison mean for the one who holds the tool: which pin, line
 * or chip, how sure, what looks the same from here and what tells it apart. */
#ifndef RIMEGLASS_ROMFIND_H
#define RIMEGLASS_ROMFIND_H

#include "compare.h"
#include "reading.h"
#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* How the same chip did on its own pins. */
typedef enum rmg_bare_result { RMG_BARE_UNKNOWN, RMG_BARE_GOOD, RMG_BARE_BAD } rmg_bare_result;

typedef struct rmg_rom_case {
    const rmg_rom *rom;
    const rmg_board *board; /* the chip's own, also where it was read bare */
    const rmg_quality *quality;
    const rmg_comparison *comparison; /* NULL: there was no image to compare with */
    const char *const *other_names;   /* of rmg_compare_hints.others */
    rmg_bare_result bare;
    bool ram_good; /* the RAM on the same data lines passed its test */
} rmg_rom_case;

/* Finds what to look at. *suspects is empty where nothing is wrong. Free with rmg_suspects_free. */
void rmg_rom_suspects(const rmg_rom_case *rom_case, rmg_suspects *suspects);

/* One explanation in a few words: "A13 (U5 pin 26) is seen as 0". To be freed with rmg_text_free.
 */
char *rmg_explanation_text(const rmg_rom *rom, const rmg_explanation *e,
                           const char *const *other_names);

/* A word for the kind of an explanation, as the JSON result has it: "line_stuck". */
const char *rmg_difference_name(rmg_difference kind);

#ifdef __cplusplus
}
#endif
#endif
