/* A test ROM for a board that does not start: planned from its board file. docs/test-rom.md. */
#ifndef RIMEGLASS_DEADBOARD_H
#define RIMEGLASS_DEADBOARD_H

#include "board.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Memory that the ROM does not test, and why: constant text. */
typedef struct rmg_testrom_left {
    rmg_range range; /* the words */
    const char *why; /* a sentence part */
} rmg_testrom_left;

#define RMG_TESTROM_LEFT 16u /* stretches that are reported, at most */

/* The steps for a board: `how` is its section, or a copy in which something is different; `how`->
 * known must be true. `left` has RMG_TESTROM_LEFT entries, of which *left_count are filled; both
 * may be NULL. RMG_ERR_ARGUMENT: it cannot be done on this board; *error, to be freed with
 * rmg_error_free, says why and what could be. */
rmg_status rmg_dead_plan(const rmg_board *board, const rmg_board_rom *how, rmg_testrom_plan *plan,
                         rmg_testrom_left *left, unsigned *left_count, rmg_error *error);

/* The image for the sockets: what the chips hold together, from their first byte on. Bytes before
 * `how`->offset are 0xFF. */
typedef struct rmg_dead_image {
    uint8_t *bytes;        /* [size] */
    size_t size;           /* bytes */
    size_t used;           /* of it by the test ROM */
    double baud;           /* as it comes out */
    double error;          /* of that, as a share: 0.004 is 0.4 % */
    uint32_t march_clocks; /* of a word in the march */
} rmg_dead_image;

/* RMG_ERR_ARGUMENT: it does not fit, or the rate cannot be had: *error says what does. Free with
 * rmg_dead_image_free in any case. */
rmg_status rmg_dead_make(const rmg_board_rom *how, const rmg_testrom_plan *plan,
                         rmg_dead_image *image, rmg_error *error);
void rmg_dead_image_free(rmg_dead_image *image);

/* Makes of the section one for a program that is loaded into the board's RAM at an address of the
 * processor, a multiple of 256, and started there: the memory that it lies in is not tested, all
 * else is as of the ROM. RMG_ERR_ARGUMENT: it cannot be, *error says why. */
rmg_status rmg_dead_load(const rmg_board *board, rmg_board_rom *how, uint32_t at, rmg_error *error);

/* The profile with which the lines are read: YAML, to be freed with rmg_text_free. */
char *rmg_dead_profile(const rmg_board *board, const rmg_board_rom *how);

/* The bank of the board at a bank of the plan, at an address of it. RMG_NO_BANK: none. */
uint8_t rmg_dead_bank(const rmg_board *board, rmg_addr address);

/* Clocks of one pass without failures, lines included. */
double rmg_dead_pass_clocks(const rmg_testrom_plan *plan, const rmg_dead_image *image);

#ifdef __cplusplus
}
#endif
#endif
