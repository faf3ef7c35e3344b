/* Suspects: what the findings of a run mean for the one who holds the tool. Which site, how sure,
 * why, what looks the same from here, and the step that distinguishes the rivals: as records;
 * report.h makes words of them. How the figures come about: docs/diagnosis.md. */
#ifndef RIMEGLASS_SUSPECT_H
#define RIMEGLASS_SUSPECT_H

#include "finding.h"
#include "run.h"
#include "sayings.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Causes: what can be the culprit behind a finding, and how often it is. The table is the bench's
 * experience in numbers, not measured; a file of one's own replaces what it names. See
 * docs/diagnosis.md. */
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
    RMG_CAUSE_OTHER_DEVICE,  /* a port, ROM or card that answers where RAM does */
    RMG_CAUSES
} rmg_cause;

/* A set of them: bit `cause` of the number. */
#define RMG_CAUSE_BIT(cause) ((uint64_t)1 << (cause))

/* How often each is the culprit; only the ratio counts. */
typedef struct rmg_cause_table {
    double socketed[RMG_CAUSES]; /* where the chip is in a socket, and where that does not matter */
    double soldered[RMG_CAUSES]; /* where the chip is soldered */
} rmg_cause_table;

/* Fills in the built-in table. */
void rmg_causes_standard(rmg_cause_table *table);

/* The key of a cause in a file ("contact-output"), and what it is, in a few words. */
const char *rmg_cause_name(rmg_cause cause);
const char *rmg_cause_words(rmg_cause cause);

/* Reads a table: YAML, one key a cause, a number or [in a socket, soldered], 0 to 1000; what it
 * does not name stays as in rmg_causes_standard. RMG_ERR_FILE, RMG_ERR_CONTENT: every error is in
 * *errors, and *table is the standard one. */
rmg_status rmg_causes_load(const char *file, rmg_cause_table *table, rmg_errors *errors);
rmg_status rmg_causes_load_text(const char *name, const char *text, rmg_cause_table *table,
                                rmg_errors *errors);

/* The table as such a file. To be freed with rmg_text_free. */
char *rmg_causes_text(const rmg_cause_table *table);

/* Facts that the technician found out by other means, and that the diagnosis takes as true. */

/* A stretch of a traced line that was measured: from the point before `point` to it, or, with
 * `part`, the part itself that the line passes at `point`. */
typedef struct rmg_sound {
    uint16_t line;  /* of the board's list */
    uint16_t point; /* of that line */
    bool part;      /* the part there, not the stretch before it */
} rmg_sound;

/* Two sides of points of a traced line between which no connection was measured. A side is twice
 * the point's number, and one more for its far side, away from the driver; between the two lies the
 * part at that point, if there is one. */
typedef struct rmg_measured_open {
    uint16_t line;     /* of the board's list */
    uint32_t from, to; /* the two sides */
} rmg_measured_open;

/* What a probe saw. */
typedef enum rmg_activity {
    RMG_ACTIVITY_STILL, /* nothing moves; at which level was not said */
    RMG_ACTIVITY_PULSING,
    RMG_ACTIVITY_HIGH, /* nothing moves, at 1 */
    RMG_ACTIVITY_LOW   /* ... at 0 */
} rmg_activity;

/* Where a probe was held, and what it saw. */
typedef struct rmg_seen_activity {
    uint16_t line;         /* of the board's list */
    uint32_t side;         /* as above */
    rmg_activity activity; /* what was seen */
} rmg_seen_activity;

/* All that is known by other means. */
typedef struct rmg_facts {
    rmg_cause_table causes; /* how often each is the culprit */
    uint16_t *good;         /* [good_count]: sockets whose chip is known to be good */
    size_t good_count;
    uint16_t *apart; /* [apart_count]: sockets where what fails has a cause of its own: it is not
                        joined to what fails alike at others */
    size_t apart_count;
    rmg_sound *sound; /* [sound_count] */
    size_t sound_count;
    rmg_measured_open *open; /* [open_count] */
    size_t open_count;
    rmg_seen_activity *seen; /* [seen_count] */
    size_t seen_count;
} rmg_facts;

/* No facts, and the built-in table. To be freed with rmg_facts_end. */
void rmg_facts_begin(rmg_facts *facts);
void rmg_facts_end(rmg_facts *facts);

/* The chip in this socket is good: it was tested elsewhere, or is a known good one. RMG_ERR_RANGE:
 * the board has no such socket; *error, to be freed with rmg_error_free, says what it has. */
rmg_status rmg_facts_known_good(rmg_facts *facts, const rmg_board *board, const char *socket,
                                rmg_error *error);

/* What fails at this socket, below the board's socket_count, has a cause of its own; as a trial
 * showed. */
void rmg_facts_apart(rmg_facts *facts, uint16_t socket);

/* Two points of a traced line, "U1.30-R1", are connected as they should be: measured. The parts
 * between them count as sound, those at the ends only as far as their legs are named.
 * RMG_ERR_RANGE: no line of the board has both; *error says what was expected. */
rmg_status rmg_facts_continuous(rmg_facts *facts, const rmg_board *board, const char *points,
                                rmg_error *error);

/* Two points of a traced line are not connected: measured. Same form, same errors. */
rmg_status rmg_facts_not_continuous(rmg_facts *facts, const rmg_board *board, const char *points,
                                    rmg_error *error);

/* What a probe saw at a point of a traced line while the board ran: "U5.15=still", or pulsing,
 * high, low. RMG_ERR_RANGE: no line has the point, or it is another word; *error says what was
 * expected. */
rmg_status rmg_facts_activity(rmg_facts *facts, const rmg_board *board, const char *seen,
                              rmg_error *error);

/* Is it known that the chip is good? That this stretch, or part, of a line is sound? */
bool rmg_facts_chip_good(const rmg_facts *facts, uint16_t socket);
bool rmg_facts_sound(const rmg_facts *facts, uint16_t line, uint16_t point, bool part);

/* What can be said of a suspect: RMG_SAY_ and the names of sayings.h. */
typedef enum rmg_said {
    RMG_SAY_NOTHING, /* nothing is said */
#define RMG_ENUM_SAY(name) RMG_SAY_##name,
    RMG_SAYINGS(RMG_ENUM_SAY) RMG_SAID
#undef RMG_ENUM_SAY
} rmg_said;

/* Which pins of its socket a saying is about. */
typedef enum rmg_pins {
    RMG_PINS_DATA, /* those of its data bits */
    RMG_PINS_IN,   /* ... that take data in */
    RMG_PINS_ADDRESS
} rmg_pins;

/* Something that is said of a suspect, and what it is about. Fields that a saying has no use for
 * are 0, or what stands for none. */
typedef struct rmg_saying {
    rmg_said said;        /* what is said; which fields count */
    uint16_t socket;      /* or RMG_NO_SOCKET */
    uint16_t other;       /* another socket, or RMG_NO_SOCKET */
    uint16_t line, point; /* a traced line and a point of it, or RMG_NO_POINT */
    uint8_t bank, bank2;  /* or RMG_NO_BANK */
    uint8_t level;        /* 0 or 1 */
    uint8_t bit, bit2;    /* of a chip that is read: data bits, or address lines */
    uint8_t difference;   /* of a chip that is read: which rmg_difference (verify.h) */
    rmg_pins pins;        /* of `socket` */
    rmg_word bits;        /* bus data bits */
    rmg_addr lines;       /* bus address lines */
    rmg_addr address;     /* the first failing one */
    uint64_t by;          /* of a noisy line: ones at those that disturb it, of its own sort */
    uint64_t n, m, k;     /* numbers, as its words say */
} rmg_saying;

/* How a rival came to be ruled out. */
typedef enum rmg_ruled {
    RMG_RULED_NOT,    /* it is not */
    RMG_RULED_TOLD,   /* by what is known by other means */
    RMG_RULED_REFUTED /* in the simulated board it would have failed otherwise */
} rmg_ruled;

/* One of several causes that look alike from where the tool stands. */
typedef struct rmg_rival {
    rmg_saying is;   /* what it is */
    double share;    /* how often it is this one, of all at this site that are not ruled out */
    rmg_cause cause; /* RMG_CAUSES: none of the table, as with ROMs */
    rmg_ruled ruled; /* out, and how */
    char *name;      /* in words; NULL before they are made */
} rmg_rival;

/* What undriven lines do, in a replay. */
typedef enum rmg_floats {
    RMG_FLOATS_AS_FILE, /* as the board file says */
    RMG_FLOATS_HIGH,
    RMG_FLOATS_LOW,
    RMG_FLOATS_HOLDS,
    RMG_FLOATS
} rmg_floats;

/* A fault that the suspect can be, put into the simulated board (replay.h), and what it gave. */
typedef struct rmg_replayed {
    rmg_saying is;   /* what it is */
    char *fault;     /* in words: "the output of U19 stuck"; NULL before they are made */
    uint64_t causes; /* that would show like this: RMG_CAUSE_BIT of each */
    struct rmg_sim_fault *faults; /* [fault_count], the simulated ones (sim.h) */
    size_t fault_count;           /* of `faults` */
    uint64_t explained;           /* failing (address, bit) that were measured and predicted */
    uint64_t left;                /* measured, not predicted */
    uint64_t unseen;              /* predicted, not measured */
    bool as_often;                /* each bit failed in as many reads, where that can be compared */
    bool same;         /* nothing left, nothing unseen, as often, the same seen of the lines */
    rmg_floats floats; /* undriven lines, as it fits best */
    rmg_floats first_floats; /* of the first replay of its kind: its words say that */
    bool whole;              /* the whole board was played, not only the words it has to do with */
} rmg_replayed;

/* The words (`char *` fields, here and above) are made by rmg_suspects_word or
 * rmg_rom_suspects_word (report.h), and are NULL before. */
typedef struct rmg_suspect {
    rmg_finding finding; /* that it follows from */
    rmg_saying is;       /* what it is: where, what it does, where to look */
    double confidence;   /* that the fault is at this site: 0..1 */
    double explained;    /* share of all failing (address, bit) that lies here: 0..1 */
    rmg_rival
        *rivals; /* [rival_count], the likeliest first, then [ruled_count] that are ruled out */
    size_t rival_count, ruled_count;
    uint64_t excluded;   /* causes that are known not to be: RMG_CAUSE_BIT of each */
    rmg_saying *reasons; /* [reason_count] */
    size_t reason_count;
    rmg_saying *steps; /* [step_count], cheapest first */
    size_t step_count;
    rmg_saying settles;    /* the step that distinguishes the rivals; RMG_SAY_NOTHING: none */
    rmg_replayed *replays; /* [replay_count], the best first; none before rmg_replay */
    size_t replay_count;
    size_t untried; /* proposals for which there was no time */
    char *site;     /* "U21", "data line D3", "address line A9 of the upper bank" */
    char *kind;     /* what it does, in a few words */
    char *headline; /* where to look and why, in one sentence */
    char *settle;   /* the step that distinguishes the rivals, short; "" if there is none */
    char **because; /* [reason_count], NULL at the end */
    char **next;    /* [step_count], NULL at the end */
} rmg_suspect;

/* All suspects of a run, or of a chip that was read. */
typedef struct rmg_suspects {
    rmg_suspect *list; /* [count], lines before cells, then the surest first */
    size_t count;
    const rmg_facts *facts; /* the caller's, that they were found with; or NULL */
} rmg_suspects;

/* Finds the suspects of a run. *suspects is empty where nothing failed. `facts`: known by other
 * means; NULL: nothing, and the built-in table of causes; they must outlive *suspects. Words are
 * not made yet: see report.h. Free with rmg_suspects_free. */
void rmg_suspects_find(const rmg_run *run, const rmg_facts *facts, rmg_suspects *suspects);
void rmg_suspects_free(rmg_suspects *suspects);

/* The suspects that follow from facts alone: lines of which something was measured that says they
 * are broken, each with what is left of it and the next point to measure. `run`: of the board,
 * begun; it need not have been carried out. Free with rmg_suspects_free. */
void rmg_suspects_told(const rmg_facts *facts, const rmg_run *run, rmg_suspects *suspects);

/* The sockets that a finding is about and that were looked at: true in
 * sockets[board->socket_count]. Of a line those whose chips it serves, or, where it is broken,
 * those beyond. */
void rmg_finding_sockets(const rmg_run *run, const rmg_finding *finding, bool *sockets);

/* Is this socket one that no suspect names, but on a line, select or supply that one of them is? */
bool rmg_suspects_share(const rmg_run *run, const rmg_suspects *suspects, uint16_t socket);

/* Forgets the words of a suspect. */
void rmg_suspect_unword(rmg_suspect *suspect);

#ifdef __cplusplus
}
#endif
#endif
