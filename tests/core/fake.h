/* A memory in an array behind a port that records, counts, aliases and fails as a test wants. */
#ifndef RMG_TESTS_FAKE_H
#define RMG_TESTS_FAKE_H

#include "rimeglass/rimeglass.h"

#define FAKE_WORDS 65536u
#define FAKE_LOG   4096u

typedef struct fake_access {
    rmg_addr address;
    rmg_word value;
    bool write;
} fake_access;

typedef struct fake {
    rmg_addr base; /* address of the first word */
    rmg_word words[FAKE_WORDS];
    /* what is wrong with it */
    rmg_word read_0, read_1; /* data bits stuck at 0 and 1 when read */
    rmg_word undriven;       /* data bits that read what was last on the bus */
    rmg_addr dead_line;      /* address line that changes nothing ... */
    rmg_word dead_line_bits; /* ... for these data bits */
    rmg_word touching;       /* two data bits that touch: a low wins, or, with ... */
    bool touch_high;         /* ... this, a high; for address lines too */
    rmg_addr touching_lines; /* two address lines that touch */
    rmg_word never_written;  /* data bits that no write changes */
    rmg_addr bad_address;    /* one cell that reads ... */
    rmg_word bad_0, bad_1;   /* ... these bits at 0 or 1 */
    /* what the port does */
    unsigned long fail_at; /* number of the access that fails, from 1; 0: none */
    bool fail_on;          /* it fails from then on */
    rmg_status fail_with;
    rmg_word last;
    unsigned long reads, writes, waits, outside;
    uint32_t waited_us;
    rmg_addr first, end; /* accesses outside first..end are counted in `outside` */
    fake_access log[FAKE_LOG];
    unsigned logged;
} fake;

extern const rmg_bus fake_bus;

/* A sound fake for addresses base..base+FAKE_WORDS-1; there is one, given anew. */
fake *fake_new(rmg_addr base);
rmg_target fake_target(fake *f, rmg_word mask);

#endif
