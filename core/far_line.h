/* Inside the far half of the link: the line that came, and the one that goes. */
#ifndef RMG_CORE_FAR_LINE_H
#define RMG_CORE_FAR_LINE_H

#include "rimeglass/far_end.h"

/* Holds every number of a line: address, word, microseconds, condition. */
#if RMG_ADDR_BITS == 64 || RMG_WORD_BITS == 64
typedef uint64_t far_number;
#else
typedef uint32_t far_number;
#endif

/* Writes: text, one character, a number of so many digits (0: as few as it takes). What does not
 * fit is left out; whoever may write much asks far_space first. */
void rmg_far_char(rmg_far_end *far, char c);
void rmg_far_text(rmg_far_end *far, const char *text);
void rmg_far_hex(rmg_far_end *far, far_number value, uint8_t digits);

/* Ends the line: check, where they are in use, and LF. */
const char *rmg_far_end_line(rmg_far_end *far);

/* Reads the next word of the request, if it is this one. */
bool rmg_far_word(rmg_far_end *far, const char *word);
/* Reads a number of exactly so many digits (0: of 1 or more), at most `most`, and the blanks after
 * it; rmg_far_digits: what follows it may be anything. */
bool rmg_far_digits(rmg_far_end *far, uint8_t digits, far_number most, far_number *value);
bool rmg_far_number(rmg_far_end *far, uint8_t digits, far_number most, far_number *value);
bool rmg_far_at_end(const rmg_far_end *far);

/* The march element that the request asks for, and its answer. false: an argument is wrong. */
bool rmg_far_element(rmg_far_end *far);

#endif
