/* Texts, numbers and what was wrong with them: the same for all of the host library. */
#ifndef RIMEGLASS_TEXT_H
#define RIMEGLASS_TEXT_H

#include <stdint.h>

#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What went wrong: the status of the call; what, in words that name the place too ("board.yaml:12:
 * ..."); the place alone: a file and perhaps its line, a socket, a target, NULL: the call itself.
 * {RMG_OK, NULL, NULL}: nothing. Functions that take one set it in any case, and set `what` with
 * every status but RMG_OK that is not handed on from a port. Free with rmg_error_free. */
typedef struct rmg_error {
    rmg_status status; /* of the call */
    char *what;        /* in words */
    char *where;       /* the place alone */
} rmg_error;

/* Frees its texts, and makes it {RMG_OK, NULL, NULL}. */
void rmg_error_free(rmg_error *error);

/* All that was wrong with a file or a call, in its order. Start with {0}. */
typedef struct rmg_errors {
    rmg_error *list; /* [count] */
    size_t count;
} rmg_errors;

/* Frees the list, and makes it {0}. */
void rmg_errors_free(rmg_errors *errors);

/* Reads a whole number as technicians write them: decimal, hex as 0x8000, $8000, &8000 or 8000h,
 * binary as 0b1010. false: the text is none, too large, or a decimal that begins with 0. */
bool rmg_number_parse(const char *text, uint64_t *value);

/* For the end of a message about a text that is no such number: why, where that is not plain; or
 * "". Constant text. */
const char *rmg_number_hint(const char *text);

/* Frees a text that a function of the host library made; NULL is allowed. */
void rmg_text_free(char *text);
void rmg_texts_free(char **texts); /* of a list, NULL at its end */

/* The spelling in `words` (NULL at the end) nearest to `word`, or NULL when none is near. */
const char *rmg_nearest(const char *word, const char *const *words);

#ifdef __cplusplus
}
#endif
#endif
