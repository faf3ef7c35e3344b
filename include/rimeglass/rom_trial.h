/* Trials of ROMs: what was changed between two readings of a chip, and what follows from it. A ROM
 * is read, not tested: what is wrong with a reading stands for the run, and is found again in
 * another reading by its place: the pin, or else what it does to the whole chip. The chances are
 * explained in docs/trials.md. */
#ifndef RIMEGLASS_ROM_TRIAL_H
#define RIMEGLASS_ROM_TRIAL_H

#include "trial.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a verification found. */
typedef struct rmg_rom_verdict {
    char *what;             /* "U5 (27128)", or "region program ROM (U2, U3)" */
    bool *sockets;          /* [the board's socket_count]: whose chips were read */
    uint16_t socket_count;  /* of the board */
    bool bare;              /* on the chip's own pins */
    bool both;              /* in the board, and bare too: the causes take that into account */
    bool complete;          /* all readings were made */
    bool compared;          /* with an image: the counts below mean something */
    uint64_t readings;      /* that were made */
    uint64_t wrong_bits;    /* by the majority of the readings, */
    uint64_t unsteady_bits; /* ... and such as were not alike in all of them */
    rmg_suspects suspects;  /* what is wrong, with its words; none: it is right */
} rmg_rom_verdict;

/* Reads it from the JSON result of a verification (docs/rom.schema.json) of this board.
 * RMG_ERR_CONTENT: it is none; *error, to be freed with rmg_error_free, says what was expected.
 * Free with rmg_rom_verdict_free in any case. */
rmg_status rmg_rom_verdict_read(const rmg_board *board, const char *json, rmg_rom_verdict *verdict,
                                rmg_error *error);
void rmg_rom_verdict_free(rmg_rom_verdict *verdict);

/* Does the reading say something of chips that the other one was about, where they are after the
 * changes? */
bool rmg_rom_verdict_concerns(const rmg_rom_verdict *verdict, const rmg_rom_verdict *base,
                              const rmg_changes *changes);

/* Was all that was wrong in the base read again, in the same sockets? */
bool rmg_rom_verdict_covers(const rmg_rom_verdict *verdict, const rmg_rom_verdict *base);

/* Its causes with their shares, before any trial: each finding is a fault of its own. [*count], to
 * be freed with rmg_hypotheses_free. */
rmg_hypothesis *rmg_rom_hypotheses(const rmg_rom_verdict *base, size_t *count);

/* A reading after some changes. All stays the caller's. */
typedef struct rmg_rom_trial {
    const rmg_board *board;              /* of both */
    const rmg_rom_verdict *base, *after; /* where the causes were found; the later reading */
    const rmg_changes *changes;          /* all between the two */
    size_t done;                         /* of these, before the reading before `after` */
} rmg_rom_trial;

/* Weighs the causes by it: changes `after`, `before`, `fits` and `gone` of each, and puts the
 * likeliest first. What became of what was found: gone, unchanged, less, otherwise, worse; with the
 * chip, where it was moved, or at the socket; passed: what was read is right, and what was wrong
 * was not read. */
rmg_outcome rmg_rom_weigh(const rmg_rom_trial *trial, rmg_hypothesis *list, size_t count);

/* Weighs the causes by what was measured at a socket; and by facts about lines and chips. */
void rmg_rom_measured_weigh(const rmg_board *board, const rmg_rom_verdict *base, uint16_t socket,
                            rmg_measured measured, rmg_hypothesis *list, size_t count);
void rmg_rom_facts_weigh(const rmg_rom_verdict *base, const rmg_facts *facts, rmg_hypothesis *list,
                         size_t count);

/* Weighs the causes by an earlier reading that was right, since which these changes were made: what
 * they did not touch was right then. Changes `after`. false: nothing follows. */
bool rmg_rom_passed_weigh(const rmg_board *board, const rmg_rom_verdict *base,
                          const rmg_change *changes, size_t change_count, rmg_hypothesis *list,
                          size_t count);

/* May the change have anything to do with it? */
bool rmg_rom_change_concerns(const rmg_board *board, const rmg_rom_verdict *base,
                             const rmg_hypothesis *list, size_t count, const rmg_change *change);

/* What to do next, the best first, as of rmg_advise; reading a chip on its own pins is
 * RMG_CHANGE_READ. `done`: the changes since the base. *advice is [*advice_count], to be freed with
 * rmg_advice_free. */
void rmg_rom_advise(const rmg_board *board, const rmg_rom_verdict *base, const rmg_hypothesis *list,
                    size_t count, const rmg_changes *done, const rmg_cost_table *costs,
                    rmg_advice **advice, size_t *advice_count);

#ifdef __cplusplus
}
#endif
#endif
