/* Lines that other programs print, put to places: a profile says what the lines mean, a listener
 * reads them into a run (heard.h). Profiles are described in docs/lines.md. */
#ifndef RIMEGLASS_LINES_H
#define RIMEGLASS_LINES_H

#include "heard.h"

#ifdef __cplusplus
extern "C" {
#endif

/* How lines of another program are to be understood on one board. */
typedef struct rmg_profile rmg_profile;

/* Reads a profile for this board, which must outlive it. RMG_OK and a profile, to be freed with
 * rmg_profile_free; or RMG_ERR_FILE, RMG_ERR_CONTENT with every error in *errors. */
rmg_status rmg_profile_load(const char *file, const rmg_board *board, rmg_profile **profile,
                            rmg_errors *errors);
rmg_status rmg_profile_load_text(const char *name, const char *text, const rmg_board *board,
                                 rmg_profile **profile, rmg_errors *errors);
void rmg_profile_free(rmg_profile *profile);

/* As the profile names itself; its own. */
const char *rmg_profile_name(const rmg_profile *profile);

/* The steps that the lines come from, for rmg_run_begin_heard, or NULL: the profile does not say.
 */
const rmg_steps *rmg_profile_steps(const rmg_profile *profile);

/* Where the lines come from the board's test ROM, how it was made, for rmg_run_hear_rom; or NULL.
 */
const rmg_board_rom *rmg_profile_rom(const rmg_profile *profile);

/* What a line is. */
typedef enum rmg_line_is {
    RMG_LINE_UNKNOWN, /* no rule matches, or what it matches cannot be read */
    RMG_LINE_SKIPPED, /* before the start, or after the end */
    RMG_LINE_EMPTY,
    RMG_LINE_FAILURE, /* a word, bits or a chip failed */
    RMG_LINE_STATUS,  /* a code that says what failed */
    RMG_LINE_COUNT,   /* so many failures of a bit or chip */
    RMG_LINE_HEADING, /* holds for the lines below it */
    RMG_LINE_TESTED,  /* what was tested */
    RMG_LINE_PASS,    /* a pass ended */
    RMG_LINE_START,
    RMG_LINE_SUMMARY,
    RMG_LINE_END,
    RMG_LINE_IGNORED,
    RMG_LINE_IS
} rmg_line_is;

/* The word of a profile for it ("failure"). */
const char *rmg_line_is_name(rmg_line_is is);

/* What was made of a line. Pointers are valid during the call it is handed to. */
typedef struct rmg_understood {
    uint64_t number;           /* of the line, from 1 */
    const char *text;          /* without its end, cut at RMG_LINE_BYTES */
    rmg_line_is is;            /* what it was understood as */
    unsigned rule;             /* of the profile, from 1; 0: none */
    const char *why;           /* of RMG_LINE_UNKNOWN: what could not be read; or NULL */
    const rmg_report *reports; /* [report_count] */
    size_t report_count;
} rmg_understood;

#define RMG_LINE_BYTES 2000u /* of a line that are looked at */

/* "0x9123, wrote 0x5A, read 0x5E: D2 (U21)". To be freed with rmg_text_free. */
char *rmg_report_text(const rmg_board *board, const rmg_report *report);

/* Reads lines as they come, and keeps what they say in a run. */
typedef struct rmg_listener rmg_listener;

/* Reads lines into `run`, which began with rmg_run_begin_heard on the profile's board; both must
 * outlive it. */
rmg_listener *rmg_listen_begin(const rmg_profile *profile, rmg_run *run);

/* `line` is called for every line. */
void rmg_listen_watch(rmg_listener *listener,
                      void (*line)(void *context, const rmg_understood *understood), void *context);

/* Takes bytes as they come. Lines end with CR, LF, or both in any order; zeros, and what a terminal
 * takes for the movements of its cursor, are left out. RMG_ERR_MEMORY: the run is without some of
 * it. */
rmg_status rmg_listen_bytes(rmg_listener *listener, const char *bytes, size_t count);

/* The last line, if it has no end; then the judgement. `stopped`: the source did not end by itself.
 * RMG_ERR_CONTENT: the lines do not fit the profile; *error, to be freed with rmg_error_free, says
 * so with three of them. Sets run->complete and run->status otherwise. */
rmg_status rmg_listen_end(rmg_listener *listener, bool stopped, rmg_error *error);
void rmg_listen_free(rmg_listener *listener);

/* Was a line heard that ends all? */
bool rmg_listen_ended(const rmg_listener *listener);

#ifdef __cplusplus
}
#endif
#endif
