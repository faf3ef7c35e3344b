/* Inside the far half of the link: the line that came, and the one that goes. */
#ifndef RMG_CORE_FAR_LINE_H
#define RMG_CORE_FAR_LINE_H

#include "rimeglass/far_end.h"

typedef rmg_far_value far_number;

/* Writes one character, if it fits. */
void rmg_far_char(rmg_far_end *far, char c);

/* The check of so many digits, 4 or 8. */
uint32_t rmg_far_check(const char *bytes, size_t count, uint8_t digits);

/* Ends the line: check, where they are in use, and LF. */
const char *rmg_far_end_line(rmg_far_end *far);

/* As rmg_far_number, but what follows the number may be anything. */
bool rmg_far_digits(rmg_far_end *far, uint8_t digits, far_number most, far_number *value);

/* The march element that the request asks for, and its answer. false: an argument is wrong. */
bool rmg_far_element(rmg_far_end *far);

#endif
