/* The ports to a far end against the bare bytes. */
#ifndef RMG_BENCH_LINK_PORTS_H
#define RMG_BENCH_LINK_PORTS_H

#include <stdbool.h>

/* Prints the table; false: an aim is not met, or something went wrong. `self`: this program, which
 * with "far-end" calls bench_far_end: a far end over standard input and output. */
bool bench_link_ports(const char *self);
void bench_far_end(void);

#endif
