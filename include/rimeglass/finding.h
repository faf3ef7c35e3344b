/* First findings: what the wiring checks and the tally say, put to places. Small enough to run on
 * the target itself; the host library words them and adds what it knows. */
#ifndef RIMEGLASS_FINDING_H
#define RIMEGLASS_FINDING_H

#include "place.h"
#include "tally.h"
#include "wiring.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a test shows, before anybody asks why. */
typedef enum rmg_finding_kind {
    RMG_FINDING_ALL_SILENT,        /* every bit of every bank is dead: no chip is named */
    RMG_FINDING_BANK_SILENT,       /* every bit of one bank is dead: no chip is named */
    RMG_FINDING_DATA_LINE,         /* one data bit, dead the same way in every bank */
    RMG_FINDING_DATA_AT_SOCKET,    /* data bits of one socket dead in one bank */
    RMG_FINDING_ADDRESS_LINES,     /* address lines ignored in every bank, all bits */
    RMG_FINDING_ADDRESS_OF_BANK,   /* address lines ignored in one bank, all bits */
    RMG_FINDING_ADDRESS_AT_SOCKET, /* address lines ignored by one socket's bits */
    RMG_FINDING_CELLS,             /* lines sound, but cells of one socket fail */
    /* the rest is made by the host library, from closer looks and from the passes */
    RMG_FINDING_NEVER_WRITTEN,      /* bits of a socket hold something, but no write arrives */
    RMG_FINDING_BANK_NEVER_WRITTEN, /* the same for all bits of a bank, or of all banks */
    RMG_FINDING_STALE,              /* bits of a socket read what the read before should have */
    RMG_FINDING_DATA_SHORT,         /* two data bits touch, in one bank or in all */
    RMG_FINDING_ADDRESS_SHORT,      /* two address lines touch, for a socket, a bank or all */
    RMG_FINDING_BANKS_SAME,         /* `bank` and `bank2` reach the same cells */
    RMG_FINDING_BANKS_BOTH,         /* `bank` answers too where `bank2` is addressed */
    RMG_FINDING_DRAGGED,            /* `socket`, of `bank`, drives its bits for bank2 as well */
    RMG_FINDING_BRANCH,             /* several sockets fail alike beyond one point of a line */
    RMG_FINDING_SPREAD, /* cells of several sockets fail, not the same in each pass; made by the
                           host library, which knows the passes */
    RMG_FINDING_SHARED, /* several sockets fail alike, and no traced line says where they part from
                           the others: `of` says how, `among` which they are; made by the host.
                           Of DATA_LINE: one bit in every bank, in each in its own way */
    RMG_FINDING_SAME_WORDS,    /* cells of several sockets, `among`, fail together; by the host.
                                  `of` says how: CELLS in the same words, DATA_LINE that at one bit
                                  of several banks, BANK_SILENT most chips, words of their own */
    RMG_FINDING_NOW_AND_THEN,  /* what fails now and then fits what several sockets share: the data
                                  line of `bits`, or the selects and lines of `bank`, or of all
                                  banks; `of` says which, `among` at which sockets; by the host */
    RMG_FINDING_MEASURED,      /* a traced line that is open or still, by meter or probe */
    RMG_FINDING_DATA_NOISY,    /* the data line of `bits` follows others, `by`, that switch */
    RMG_FINDING_ADDRESS_NOISY, /* the address line of `lines` does; by the host */
    /* of a run that another program reported (heard.h) */
    RMG_FINDING_REPORTED,      /* bits of a socket, or with bits 0 the chip as a whole */
    RMG_FINDING_REPORTED_LINE, /* a bit in every bank that has it */
    RMG_FINDING_REPORTED_BIT,  /* a bit in a bank that is not known */
    RMG_FINDING_REPORTED_BANK, /* every bit of a bank, or with bits 0 the bank as a whole */
    RMG_FINDING_KINDS
} rmg_finding_kind;

/* A finding: what fails together, at which place. */
typedef struct rmg_finding {
    rmg_finding_kind kind; /* which fields count */
    uint16_t socket;       /* or RMG_NO_SOCKET */
    uint8_t bank;          /* or RMG_NO_BANK: all banks */
    uint8_t lane;          /* of a data line: first of the banks it serves; else RMG_NO_BANK */
    uint8_t bank2;         /* a second bank, or RMG_NO_BANK */
    bool high_wins;        /* of lines that touch: a 1 wins over a 0 */
    rmg_finding_kind of;   /* of a branch, and of what is shared: what its sockets do */
    uint64_t among[(RMG_PLACE_RULES + 63u) / 64u]; /* of what is shared: ones at its sockets */
    uint16_t line;         /* the traced line, and its first bad point; RMG_NO_POINT in `point` */
    uint16_t point;        /* where the board file traces none */
    rmg_word bits;         /* bus data bits it is about */
    rmg_word low;          /* of these, the ones that always read 0 */
    rmg_word high;         /* ... always read 1 */
    rmg_word opposite;     /* ... read what was driven last elsewhere */
    rmg_addr lines;        /* bus address lines it is about */
    uint64_t by;           /* of a noisy line: ones at the lines that disturb it, of its own sort */
    rmg_count failed_high; /* failing reads of these bits in the tally */
    rmg_count failed_low;  /* ... that read 0 for 1 */
    bool may_follow;       /* it may be no more than what another finding does to the rest */
    bool or_its_line; /* it is at one socket, and as likely at what the others share with it, which
                         fail themselves and do not tell */
    bool some;        /* of what comes and goes in a bank, or in all: at some of their chips only */
    bool untested;    /* of a chip that drives its bits when others are read: its own words were not
                         tested, and what it holds is not known; of cells: or it is such a chip, of
                         bank2 */
    bool together;    /* ... it, and the others that are weighed, each with a fault of its own */
    uint8_t
        cause; /* ... of several causes at once the number of its own, from 1; 0: there is one */
    uint16_t or_each; /* of two silent chips of different banks, and of what both share: how likely
                         it is that each has a fault of its own, in thousandths; else 0 */
    uint16_t weighed; /* of what comes and goes: how likely it is this place and none of the others
                         that fit, in thousandths, of all it can be; 0: not weighed */
} rmg_finding;

/* What is known after a test. All pointers are the caller's; nothing is kept. */
typedef struct rmg_evidence {
    const rmg_placement *placement; /* of the board */
    const rmg_where *banks;         /* [bank_count] */
    const rmg_wiring *wirings;      /* [bank_count], one a bank */
    const bool *wired;              /* [bank_count]: false: that bank's lines were not checked */
    const rmg_tally *tally;         /* of the same banks */
    rmg_word mask;                  /* data bits of the board */
    uint8_t bank_count;             /* 0..RMG_TALLY_BANKS */
} rmg_evidence;

#define rmg_findings_list RMG_ABI(rmg_findings_list)

/* Lists what the evidence shows, lines before cells, in findings[0..room-1]. Bits explained by a
 * line are not reported again as cells. Returns how many there are, which may be more than `room`;
 * 0 means that nothing failed. */
uint16_t rmg_findings_list(const rmg_evidence *evidence, rmg_finding *findings, uint16_t room);

#ifdef __cplusplus
}
#endif
#endif
