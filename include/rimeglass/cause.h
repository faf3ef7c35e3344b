/* Causes: what can be the culprit behind a finding, and how often it is. The table is the bench's
 * experience in numbers, not measured; a file of one's own replaces what it names. See
 * docs/diagnosis.md. */
#ifndef RIMEGLASS_CAUSE_H
#define RIMEGLASS_CAUSE_H

#include "board.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum rmg_cause {
    RMG_CAUSE_CHIP_OUTPUT,     /* a data output of the chip, stuck or dead */
    RMG_CAUSE_CHIP_INPUT,      /* a data input of the chip */
    RMG_CAUSE_CHIP_ADDRESS,    /* its address inputs and decoders */
    RMG_CAUSE_CHIP_WRITE,      /* it takes no writes */
    RMG_CAUSE_CHIP_ALWAYS_ON,  /* it drives its outputs when it is not selected */
    RMG_CAUSE_CHIP_CELLS,      /* a few cells, a row, a column */
    RMG_CAUSE_CHIP_SCATTERED,  /* many cells in no order, or such as come and go */
    RMG_CAUSE_CHIP_SLOW,       /* later than it is marked */
    RMG_CAUSE_CHIP_DRAGS,      /* any one chip on a data line, shorted inside */
    RMG_CAUSE_CHIP_DRAGS_FAR,  /* the same on an address line, or on a branch of a line */
    RMG_CAUSE_CHIP_BRIDGE,     /* any one chip, two of its pins shorted inside */
    RMG_CAUSE_PART_MISSING,    /* an empty socket, or the wrong part in it */
    RMG_CAUSE_PART_SMALLER,    /* fewer cells than marked */
    RMG_CAUSE_CONTACT_OUTPUT,  /* of a socket, or a joint: at a data output */
    RMG_CAUSE_CONTACT_INPUT,   /* ... at a data input */
    RMG_CAUSE_CONTACT_ADDRESS, /* ... at an address pin */
    RMG_CAUSE_CONTACT_WRITE,   /* ... at the write pin */
    RMG_CAUSE_CONTACT_SELECT,  /* ... at a select or enable pin */
    RMG_CAUSE_CONTACT_ANY,     /* ... at any pin: it comes and goes */
    RMG_CAUSE_TRACK_DATA,      /* the track to one data pin */
    RMG_CAUSE_TRACK_ADDRESS,   /* ... to one address pin */
    RMG_CAUSE_TRACK_WRITE,     /* ... to one write or data input pin */
    RMG_CAUSE_SHORT_PIN,       /* a pin shorted to a supply */
    RMG_CAUSE_LINE_TRACK,      /* a line that serves several chips: cut or shorted */
    RMG_CAUSE_LINE_DRIVER,     /* the buffer, multiplexer or processor pin that drives it */
    RMG_CAUSE_LINE_PART,       /* a part that it passes on its way */
    RMG_CAUSE_LINE_JOINT,      /* a joint on its way */
    RMG_CAUSE_LINE_BRIDGE,     /* two lines that touch */
    RMG_CAUSE_SELECT_DECODER,
    RMG_CAUSE_SELECT_ADDRESS, /* an address line that does not reach the decoder */
    RMG_CAUSE_SELECT_TRACK,
    RMG_CAUSE_STROBE,        /* select or strobes of a whole bank */
    RMG_CAUSE_LINK,          /* between us and the board, dead */
    RMG_CAUSE_LINK_NOISE,    /* the same, dropping bits now and then */
    RMG_CAUSE_CHIPS_MISSING, /* all of a bank */
    RMG_CAUSE_NOT_RAM,       /* ROM, or protected, where RAM was said to be */
    RMG_CAUSE_DATA_BUFFER,   /* it does not turn round for a write */
    RMG_CAUSE_SUPPLY,        /* of one chip, or refresh, or timing */
    RMG_CAUSE_SUPPLY_BANK,   /* of a whole bank */
    RMG_CAUSE_NOISE,         /* supply that is noisy, low or missing at several chips */
    RMG_CAUSE_REFRESH,       /* refresh or timing not right for several chips */
    RMG_CAUSES
} rmg_cause;

/* A set of them: bit `cause` of the number. */
#define RMG_CAUSE_BIT(cause) ((uint64_t)1 << (cause))

/* How often each is the culprit; only the ratio counts. */
typedef struct rmg_cause_table {
    double socketed[RMG_CAUSES]; /* where the chip is in a socket, and where that does not matter */
    double soldered[RMG_CAUSES];
} rmg_cause_table;

/* Fills in the built-in table. */
void rmg_causes_standard(rmg_cause_table *table);

/* The key of a cause in a file ("contact-output"), and what it is, in a few words. */
const char *rmg_cause_name(rmg_cause cause);
const char *rmg_cause_words(rmg_cause cause);

/* Reads a table: YAML, one key a cause, a number or [in a socket, soldered], 0 to 1000; what it
 * does not name stays as in rmg_causes_standard. RMG_ERR_FILE, RMG_ERR_CONTENT: every mistake is in
 * *mistakes, and *table is the standard one. */
rmg_status rmg_causes_load(const char *file, rmg_cause_table *table, rmg_mistakes *mistakes);
rmg_status rmg_causes_load_text(const char *name, const char *text, rmg_cause_table *table,
                                rmg_mistakes *mistakes);

/* The table as such a file. To be freed with rmg_text_free. */
char *rmg_causes_text(const rmg_cause_table *table);

#ifdef __cplusplus
}
#endif
#endif
