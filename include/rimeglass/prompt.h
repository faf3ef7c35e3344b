/* A memory behind a prompt: a monitor or BASIC at a serial line, as a bus port. A profile
 * (docs/prompt.md) says what to type to read and to write a word, and how answers look. */
#ifndef RIMEGLASS_PROMPT_H
#define RIMEGLASS_PROMPT_H

#include "board.h"
#include "bus.h"
#include "loader.h"
#include "stream.h"

#ifdef __cplusplus
extern "C" {
#endif

/* How a monitor prompt is spoken to: what is typed, and what it answers. */
typedef struct rmg_prompt_profile rmg_prompt_profile;
/* A prompt that was reached. */
typedef struct rmg_prompt rmg_prompt;

/* Reads a profile. RMG_OK and a profile, to be freed with rmg_prompt_profile_free; or RMG_ERR_FILE,
 * RMG_ERR_CONTENT with every error in *errors. */
rmg_status rmg_prompt_profile_load(const char *file, rmg_prompt_profile **profile,
                                   rmg_errors *errors);
void rmg_prompt_profile_free(rmg_prompt_profile *profile); /* NULL is allowed */
const char *rmg_prompt_profile_name(const rmg_prompt_profile *profile);

/* Wakes the prompt on a stream that is open. Profile and board must outlive it; the stream is taken
 * over, also where it fails. RMG_ERR_PORT_LOST: no prompt came; why[RMG_STREAM_WHY] says what did.
 * Close with rmg_prompt_close. */
rmg_status rmg_prompt_open(rmg_stream *stream, const rmg_prompt_profile *profile,
                           const rmg_board *board, rmg_prompt **prompt, char *why);
void rmg_prompt_close(rmg_prompt *prompt); /* NULL is allowed */

/* The port; its context is the rmg_prompt. What is typed is sent on its way only once its echo was
 * right; an answer must be of the address asked for. What is spoilt is typed again, five times. An
 * error that the prompt answers twice is RMG_ERR_PORT; silence, and what cannot be read,
 * RMG_ERR_PORT_LOST or RMG_ERR_PORT; a signal while it waits RMG_ERR_CANCELLED. */
const rmg_bus *rmg_prompt_bus(const rmg_prompt *prompt);
/* The same with march elements by blocks (rmg_element_by_blocks); NULL: the profile has none. */
const rmg_bus *rmg_prompt_blocks_bus(const rmg_prompt *prompt);

/* Makes ready for march elements that run in the target: memory that the profile names is proven by
 * March C-, one access at a time, and must not be reached through other addresses of RAM. For that
 * single words are written and put back: only within `within`, all that the run may write, or NULL:
 * all RAM. *memory: what the routine has from then on, which must not be tested with it.
 * RMG_ERR_PORT_CANNOT: it cannot be, rmg_prompt_why says why; or what an access gave. */
rmg_status rmg_prompt_load(rmg_prompt *prompt, const rmg_range *within, rmg_range *memory);
/* Accesses that rmg_prompt_load makes, about; 0: it cannot be. */
uint64_t rmg_prompt_load_accesses(const rmg_prompt *prompt);
/* After rmg_prompt_load: what runs march elements by the routine. Other accesses are typed as
 * before, as are elements that are too long for the routine. The prompt's; NULL: nothing is loaded.
 */
rmg_loader *rmg_prompt_loader(const rmg_prompt *prompt);

/* Is what was typed compared with its echo? */
bool rmg_prompt_is_checked(const rmg_prompt *prompt);
/* Accesses a second, measured by reading the first RAM word of the board as it was opened. */
double rmg_prompt_speed(const rmg_prompt *prompt);
/* Accesses that were typed again, of how many. */
void rmg_prompt_counts(const rmg_prompt *prompt, uint64_t *again, uint64_t *accesses);
/* What went wrong last, as a sentence part; "" nothing. */
const char *rmg_prompt_why(const rmg_prompt *prompt);

#ifdef __cplusplus
}
#endif
#endif
