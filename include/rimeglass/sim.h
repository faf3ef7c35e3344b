/* The simulated board: chips on a bus, with faults, and a clock that moves by itself only with
 * each access. It allocates nothing and computes the same from the same inputs.
 *
 * What a chip is and where it hangs comes as plain structures; the placement is the core's own
 * (place.h), so that simulator and diagnosis speak of the same cells. */
#ifndef RIMEGLASS_SIM_H
#define RIMEGLASS_SIM_H

#include "bus.h"
#include "fault_kinds.h"
#include "place.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_SIM_WINDOWS 16u /* most separate stretches of placed addresses */

/* A chip; its number is the socket number of the placement's rules. */
typedef struct rmg_sim_chip {
    uint8_t width;         /* data lines: 1..32 */
    uint8_t address_lines; /* 0..RMG_PLACE_LINES; depth is 2 to this power */
    uint8_t row_lines;     /* the first so many of them are row lines; 0 if it has no rows */
    bool rom;              /* writes do nothing */
    uint32_t refresh_us;   /* the board refreshes every row this often; 0: accesses alone do */
    uint32_t keep_us;      /* for how long a sound cell keeps its value unrefreshed, at 25 degrees
                              Celsius; most cells up to four times as long; 0: for ever */
    const uint8_t *image;  /* what the chip holds at power-on, (width + 7) / 8 bytes a word, lowest
                              first; words past its end hold ones. NULL: power-on contents */
    size_t image_bytes;    /* of `image` */
} rmg_sim_chip;

/* A stretch that reaches the cells of another: first..last is `to` and what follows it. */
typedef struct rmg_sim_mirror {
    rmg_addr first; /* the stretch, */
    rmg_addr last;  /* both ends included */
    rmg_addr to;    /* where its cells are */
} rmg_sim_mirror;

/* Paged memory: the last value written at `select` chooses the page that window first..last shows.
 * The words of page p have the addresses (p << shift) | window address. */
typedef struct rmg_sim_pages {
    rmg_addr first;  /* the window, */
    rmg_addr last;   /* both ends included */
    rmg_addr select; /* where a write chooses the page */
    rmg_word mask;   /* bits of the value that count; 0: there are no pages */
    uint8_t shift;   /* address lines of the port */
} rmg_sim_pages;

/* A board, as the simulator needs it. All lists are the caller's. */
typedef struct rmg_sim_board {
    const rmg_placement *placement; /* which chip holds which bit */
    const rmg_sim_chip *chips;      /* [chip_count] */
    uint16_t chip_count;            /* of `chips` */
    uint8_t word_bits;              /* 1..RMG_WORD_BITS */
    rmg_undriven undriven;          /* what lines read that nothing drives */
    uint64_t hold_ns;               /* RMG_UNDRIVEN_HOLDS: for how long; 0: for good */
    rmg_undriven after;             /* what is read then: RMG_UNDRIVEN_HIGH or _LOW */
    uint32_t access_ns;             /* one read or write */
    const rmg_sim_mirror *mirrors;  /* [mirror_count] */
    uint16_t mirror_count;          /* of `mirrors` */
    rmg_sim_pages pages;            /* mask 0: none */
    rmg_addr lanes; /* address lines that choose a half (or less) of a wider bus, with data lines of
                       its own: chips of two lanes never drive one line; 0: one bus */
} rmg_sim_board;

/* The kinds of fault: RMG_FAULT_CELL and so on, by the table of fault_kinds.h. What each reads:
 * cell, row, column: `chip`, `data_line`, `cell` (a row's or column's number) are at `level`.
 * Lines of the bus: `line`, `line2` are bus data bits, `lines` ones at bus address bits (of
 * RMG_FAULT_ADDRESS_CHIP: at the chip's own address lines), for `bank`, or for every chip in
 * `scope`. RMG_FAULT_DATA_LINE acts at addresses with (address & cell) == lines; 0 and 0 are all.
 * What depends on what was done before: the victim is cell `cell` in line `data_line` of `chip`;
 * with `coupled` it acts only while the aggressor, cell `cell2` in line `data_line2` of the same
 * chip, holds `state`; a coupling acts when the aggressor changes to `state`, holds it, or has
 * `operation` done to it. RMG_FAULT_RETENTION: the victim takes `level` when not refreshed for
 * `after_us` at 25 C; RMG_FAULT_REFRESH: only the first `cell` rows are refreshed, each once in
 * `after_us`; RMG_FAULT_DISTURB: the victim takes `level` after `count` accesses to row `row` with
 * no access to or refresh of its own row between them. RMG_FAULT_NOISE: `line`, or any with
 * RMG_ALL_DATA_LINES. RMG_FAULT_WEAK: one cell in `count`, drawn. */
typedef enum rmg_fault_kind {
#define RMG_ENUM_ROW(kind, word, keys, takes, level, stages, needs, place, marks, traits,          \
                     proposed, does)                                                               \
    RMG_FAULT_##kind,
#define RMG_ENUM_WORD(kind, word, keys, takes, level, traits, does)
    RMG_FAULT_TABLE(RMG_ENUM_ROW, RMG_ENUM_WORD) RMG_FAULT_KINDS
#undef RMG_ENUM_ROW
#undef RMG_ENUM_WORD
} rmg_fault_kind;

/* A row of that table. */
typedef struct rmg_fault_row {
    const char *word;      /* in a fault file; NULL: none of its own */
    const char *keys;      /* separated by spaces */
    const char *does;      /* what it does, in sentences */
    uint32_t stages;       /* RMG_STAGE_BIT of each */
    uint32_t needs;        /* RMG_NEEDS_... */
    rmg_fault_takes takes; /* how its keys are read */
    rmg_fault_level level; /* which key says its level */
    rmg_fault_place place; /* for which chips it acts */
    rmg_fault_mark marks;  /* where the simulator looks closer */
    uint16_t traits;       /* RMG_TRAIT_... */
    uint8_t proposed;      /* rank among cells that do something at one value; 0: none of these */
    const char *alone, *coupled; /* how such a cell is described ({socket}: which), of itself and
                                    while another holds a value; NULL */
} rmg_fault_row;

extern const rmg_fault_row rmg_fault_rows[]; /* [RMG_FAULT_KINDS] */

/* Has the kind one of these traits? */
static inline bool rmg_fault_is(rmg_fault_kind kind, unsigned traits)
{
    return (rmg_fault_rows[kind].traits & traits) != 0;
}

/* What RMG_FAULT_ADDRESS_CELLS makes of chip address v = `cell`; a = `cell2`. */
typedef enum rmg_sim_reaches {
    RMG_REACHES_NONE,     /* v reaches no cell */
    RMG_REACHES_NONE_TWO, /* v reaches no cell, a reaches cells a and v */
    RMG_REACHES_OTHER,    /* v reaches cell a */
    RMG_REACHES_BOTH      /* v reaches cells v and a */
} rmg_sim_reaches;

/* What is read where no cell is reached, or two are. */
typedef enum rmg_sim_reads {
    RMG_READS_AND, /* 1 of none, the AND of two */
    RMG_READS_OR,  /* 0 of none, the OR of two */
    RMG_READS_LAST /* of none what was read before from this chip; the AND of two */
} rmg_sim_reads;

/* An operation on an aggressor: what was in it, and what is done. */
typedef enum rmg_sim_operation {
    RMG_OPERATION_0W0,
    RMG_OPERATION_0W1,
    RMG_OPERATION_1W0,
    RMG_OPERATION_1W1,
    RMG_OPERATION_0R0,
    RMG_OPERATION_1R1
} rmg_sim_operation;

/* When a fault is there at all. All zero: always. Several conditions must all be met. */
typedef struct rmg_sim_when {
    uint32_t rate_ppb;   /* chance at each access, in 1/1,000,000,000; 0: at every access */
    int32_t from_millic; /* at this temperature and above; counts if `warm` */
    int32_t below_mv;    /* below this supply; 0: at any */
    int32_t from_mv;     /* at this supply and above; 0: at any */
    int32_t from_hz;     /* at this clock and above; 0: at any */
    bool warm;           /* `from_millic` counts */
} rmg_sim_when;

#define RMG_ALL_DATA_LINES 0xFFu /* a fault in every data line of the chip */

/* One fault. Fields its kind does not name are not read. An open address line is one that floats
 * at `level`. */
typedef struct rmg_sim_fault {
    rmg_fault_kind kind; /* which fields count */
    uint16_t chip;       /* socket number */
    uint8_t bank;        /* bank number */
    uint8_t data_line;   /* of the chip, from 0; row and column: or RMG_ALL_DATA_LINES */
    uint8_t line;        /* bus data bit */
    uint8_t line2;       /* a second one */
    uint8_t bank2;       /* a second bank */
    uint8_t level;       /* 0 or 1 */
    rmg_addr cell;       /* cell address; for a row or column its number */
    rmg_addr lines;      /* ones at the address lines: of the chip, or of the bus */
    rmg_word with;       /* of crosstalk: ones at the data bits that switch */
    uint64_t scope[(RMG_PLACE_RULES + 63u) / 64u]; /* ones at the chips it acts for */
    rmg_addr cell2;                                /* of the aggressor, or the other address */
    rmg_addr row;                                  /* of the accesses that disturb */
    uint32_t after_us;                             /* 1 or more */
    uint32_t count;                                /* 1 or more */
    uint8_t data_line2;                            /* of the aggressor */
    uint8_t state;                                 /* of the aggressor: 0 or 1 */
    bool coupled;                                  /* acts only while the aggressor holds `state` */
    bool unchanged_only; /* of a coupling within a word: not on a victim that the write changes */
    uint8_t around, around_mask; /* bits 0..3: cells above, below, left, right: their levels; ones
                                    where it matters */
    uint8_t by; /* which of them changes, 0..3; of crosstalk: the line is still (1),
                   turns (2), either (0) */
    rmg_sim_operation operation; /* on the aggressor */
    rmg_sim_reaches reaches;     /* of RMG_FAULT_ADDRESS_CELLS */
    rmg_sim_reads reads;         /* of it too */
    rmg_sim_when when;           /* it is there */
} rmg_sim_fault;

/* Is the chip in the fault's scope? And puts it there. */
static inline bool rmg_fault_acts_for(const rmg_sim_fault *fault, uint16_t chip)
{
    return chip < RMG_PLACE_RULES && (fault->scope[chip >> 6] >> (chip & 63u) & 1u);
}

static inline void rmg_fault_include(rmg_sim_fault *fault, uint16_t chip)
{
    fault->scope[chip >> 6] |= (uint64_t)1 << (chip & 63u);
}

/* Is a second cell named, which acts on the first or is reached with it? */
static inline bool rmg_fault_has_second(const rmg_sim_fault *fault)
{
    return fault->coupled || rmg_fault_is(fault->kind, RMG_TRAIT_TWO_CELLS);
}

/* A stretch of addresses that chips answer to, and where its words start in `words`. */
typedef struct rmg_sim_window {
    rmg_addr first; /* the stretch, */
    rmg_addr last;  /* both ends included */
    size_t offset;  /* in words */
} rmg_sim_window;

/* What one fault remembers: of itself, or of the chip it is in. */
typedef struct rmg_sim_memory {
    uint64_t restored_ns;   /* when its cell was last written or refreshed */
    uint32_t latch;         /* what was last read */
    uint32_t count;         /* accesses that disturb since then */
    rmg_addr before;        /* cell of its chip that was addressed last, where `any_before` */
    bool any_before, wrote; /* there was one; and it was a write */
} rmg_sim_memory;

/* What an access needs of a rule, close together. */
typedef struct rmg_sim_way {
    rmg_where where;    /* addresses of the rule */
    rmg_word bits;      /* of the bus that its chip carries */
    void *cells;        /* of its chip, each in 2 to the power of `cell_log2` bits */
    uint8_t *known;     /* a bit for every 256 of them: they were touched */
    uint64_t *row_ns;   /* per row of its chip: when it was last accessed; zeros unless ... */
    bool row_used;      /* ... this is true */
    rmg_addr cell_mask; /* ones at the chip's address lines */
    rmg_addr row_mask;  /* ones at its row lines */
    uint32_t acts;      /* stages at which a fault acts */
    uint32_t live; /* of these, the ones that are gone through at every access; what the others do
                      stands in the masks: a value is what comes in AND the one, OR the other */
    rmg_addr lines_and, lines_or; /* of the bus address */
    rmg_addr pins_and, pins_or;   /* of the address at the chip's pins */
    rmg_word input_and, input_or; /* of the bus as the chip finds it */
    uint32_t taken;               /* data lines at which something arrives */
    uint32_t take_and, take_or;   /* of what arrives there */
    uint32_t drives;              /* data lines that put something out */
    uint32_t out_and, out_or;     /* of what they put out */
    bool gone;                    /* it is never selected */
    bool deaf;                    /* it takes nothing */
    uint8_t from; /* the bus bit of the lowest chip line, where the others follow in order; else
                     255 */
    uint32_t least_us; /* its weakest cell that a fault makes fade holds so long at 25 degrees
                          Celsius; UINT32_MAX: there is none */
    uint8_t width;     /* data lines of its chip */
    uint8_t cell_log2; /* see `cells` */
    bool sound;        /* what follows is as without any fault, and the chip is flat */
    bool plain;        /* no fault concerns the chip, and the board refreshes it */
    bool held;  /* a DRAM that its refresh keeps, as long as it goes on and the board is not hot */
    bool still; /* nothing of the chip depends on what was done before, as long as the same holds */
} rmg_sim_way;

/* Bits that read a level, or take one, at all addresses of a place: a value is what the memory
 * holds, or what is written, AND the one, OR the other. */
typedef struct rmg_sim_force {
    rmg_where where;   /* the place */
    rmg_word and, or ; /* zeros at bits that read 0; ones at bits that read 1 */
    rmg_word keeps;    /* ones at bits that a write leaves as they are */
    rmg_word take_and; /* the others: zeros at bits that take 0 */
    rmg_word take_or;  /* ones at bits that take 1 */
} rmg_sim_force;

#define RMG_SIM_FORCES 32u /* that are laid over flat words, at most */

/* Bits of chips that get other levels on address lines than the bus has, for good: what such a chip
 * holds for an address is in the word at that with `lines` at `level`. */
typedef struct rmg_sim_moved {
    rmg_where where; /* their place */
    rmg_word bits;   /* of the bus */
    rmg_addr lines;  /* of the bus: ones at those that have another level */
    rmg_addr level;  /* which */
} rmg_sim_moved;

#define RMG_SIM_MOVED 8u /* different such lines, at most */

/* A chip of which an address line is slow, and nothing else is wrong. */
typedef struct rmg_sim_late {
    bool act;       /* there is one */
    uint16_t rule;  /* its */
    uint16_t fault; /* number of */
    rmg_addr lines; /* of the bus */
} rmg_sim_late;

/* A chip of which each read gives what the read before gave, where that is the only fault. */
typedef struct rmg_sim_stale {
    bool act;      /* there is one */
    uint16_t rule; /* its */
} rmg_sim_stale;

#define RMG_SIM_STRAYS 16u /* chips that drive at every read, at most */

/* Chips that do, where that is the only fault. */
typedef struct rmg_sim_stray {
    uint16_t count;                 /* of the others; 0: there are none */
    uint16_t rules[RMG_SIM_STRAYS]; /* theirs */
    rmg_addr fed[RMG_SIM_STRAYS];   /* bus lines that feed each */
} rmg_sim_stray;

/* Words of one bank at which a whole second bank answers too, by a fault that is always there: both
 * are flat, and the second stands a fixed distance away. */
typedef struct rmg_sim_pairs {
    bool act;          /* there is such a fault, and nothing else in either bank */
    rmg_where own;     /* where the second bank answers by right */
    rmg_where where;   /* where it answers too */
    rmg_addr distance; /* from an address of `where` to that of the same word in `own` */
    size_t flat;       /* the same distance among the flat words; both may wrap around */
} rmg_sim_pairs;

/* Pages in which some fault acts, from one to another. */
typedef struct rmg_sim_pages_marked {
    size_t first, last; /* numbers of pages */
} rmg_sim_pages_marked;

#define RMG_SIM_WATCHES 64u /* rules that are watched at most */
#define RMG_SIM_MARKED  64u /* stretches of pages that are noted, at most */

/* The running simulation. Its fields are its own; `now_ns`, `reads` and `writes` may be read.
 * Words in pages that no fault touches are kept flat; in the others each access goes one by one to
 * the chips that faults concern. */
typedef struct rmg_sim {
    const rmg_sim_board *board;  /* the caller's */
    const rmg_sim_fault *faults; /* the caller's */
    uint16_t fault_count;        /* of `faults` */
    uint16_t window_count;       /* of `windows` */
    uint64_t world_seed;         /* of contents at power-on, and of chance */
    uint64_t now_ns;             /* since power-on */
    uint64_t reads;              /* made so far */
    uint64_t writes;             /* made so far */
    uint64_t chipwise;           /* of these, accesses that went chip by chip; may be read */
    rmg_word mask;               /* data bits of the board */
    rmg_word last_bus;           /* value last on the data lines */
    rmg_addr last_address;       /* where faults depend on it */
    uint64_t driven_ns;          /* when all of them were last driven */
    void *words;       /* flat words by window, each in 2 to the power of `word_log2` bytes */
    uint8_t word_log2; /* see `words` */
    uint8_t *slow;     /* per page of words: not 0 when its accesses go chip by chip, or the page
                          was not touched yet */
    size_t touched;    /* bytes of words and cells that hold something; may be read */
    size_t room;       /* most of them, see rmg_sim_limit */
    rmg_sim_window windows[RMG_SIM_WINDOWS]; /* addresses that chips answer to */
    uint16_t recent;                         /* window of the last access */
    bool strays;                     /* some fault makes chips answer outside their own addresses */
    bool high_wins;                  /* on lines that two chips drive */
    rmg_word page;                   /* chosen */
    rmg_sim_memory *memories;        /* [fault_count] */
    uint8_t *rows;                   /* per chip: when each row was last accessed, and `known` */
    size_t rows_bytes;               /* of `rows` */
    uint16_t apart[RMG_PLACE_RULES]; /* rules whose chips are not flat where a fault acts */
    uint16_t apart_count;            /* of `apart` */
    bool is_apart[RMG_PLACE_RULES];  /* by rule */
    rmg_sim_force forces[RMG_SIM_FORCES]; /* of faults that do no more than that, beside `apart` */
    uint16_t force_count;                 /* of `forces` */
    bool bus_forced;                      /* all faults of the whole bus are among them */
    bool keeps;                           /* some bits are never written, by one of them */
    bool is_forced[RMG_PLACE_RULES];      /* by rule */
    rmg_sim_moved moved[RMG_SIM_MOVED];   /* chips among these that get other addresses */
    uint16_t moved_count;                 /* of `moved` */
    rmg_sim_late late;                    /* the one of them whose line is slow */
    rmg_sim_stray stray;                  /* those of them that drive at every read */
    bool touching;                        /* they are behind data lines that touch */
    rmg_sim_stale stale;                  /* the one of them that gives what it gave before */
    rmg_sim_pairs pairs;                  /* words at which two banks answer */
    rmg_sim_pages_marked marked[RMG_SIM_MARKED]; /* pages that faults touch */
    uint16_t marked_count;                       /* above RMG_SIM_MARKED: any page may be marked */
    uint16_t watches[RMG_SIM_WATCHES]; /* rules whose chips are flat until a fault may show */
    uint16_t watch_count;              /* of `watches` */
    rmg_sim_way ways[RMG_PLACE_RULES]; /* by rule */
    uint32_t bus_acts;                 /* stages of the whole bus at which a fault acts */
    bool conditional;                  /* some fault is not always there */
    uint32_t *list_start;              /* [(rules + 1) * RMG_STAGES + 1]: into ... */
    uint16_t list_room;                /* faults that it was started for */
    uint16_t *list;                    /* ... numbers of faults, by rule and stage */
    bool calm;                         /* refresh goes on, and it is not hot */
    bool hot;                          /* it is, or will be, above 85 degrees Celsius */
    size_t slow_bytes;                 /* pages */
    bool was_lively;                   /* before refresh was stopped */
    bool lively;            /* some fault depends on what was done before, or refresh is stopped */
    bool refreshed;         /* refresh goes on; it began or ended at ... */
    uint64_t refresh_ns;    /* ... this time */
    uint32_t access_ns;     /* one access, at the clock as it is */
    int32_t supply_mv;      /* at the chips */
    int32_t heat_millic;    /* at the start; moves to `heat_to_millic` within `heat_over_ns` */
    int32_t heat_to_millic; /* where it moves to */
    uint64_t heat_over_ns;  /* 0: it does not move */
} rmg_sim;

/* Bytes of memory the simulation of this board with so many faults needs; 0 if the board is outside
 * the limits above, has a rule for a chip that does not exist, or a rule whose width or address
 * lines are not its chip's. */
size_t rmg_sim_bytes(const rmg_sim_board *board, uint16_t fault_count);

/* Starts the simulation: power on, with contents that are a hash of `world_seed`, chip, data line
 * and cell. `memory` has rmg_sim_bytes(board, fault_count) bytes, aligned for uint64_t, and like
 * `board` and `faults` stays the caller's and must outlive the simulation. Of it only marks (a
 * sixteenth of the words) and what accesses reach are touched: where the system gives memory as it
 * is touched, a large board costs what is tested of it. RMG_ERR_ARGUMENT: the board is outside the
 * limits, or a fault names what does not exist. */
rmg_status rmg_sim_start(rmg_sim *sim, const rmg_sim_board *board, const rmg_sim_fault *faults,
                         uint16_t fault_count, uint64_t world_seed, void *memory);

/* The same without faults, in memory for `fault_room` of them: to be started again with these. */
rmg_status rmg_sim_start_healthy(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_room,
                                 uint64_t world_seed, void *memory);

/* Starts a simulation again with other faults, as many as it was started for or fewer. Only the
 * memory keeps what it has, so this takes a small part of the time that a start takes. Errors as
 * above; the simulation is then as it was. */
rmg_status rmg_sim_start_again(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count);

/* Lets words and cells take at most so many bytes; at the start there is no limit. Beyond it the
 * bus port's accesses and elements answer RMG_ERR_MEMORY. */
void rmg_sim_limit(rmg_sim *sim, size_t bytes);

/* Something else drives the data bus, a processor that fetches for example: lines that hold their
 * last value hold this one from now on. */
void rmg_sim_carry(rmg_sim *sim, rmg_word value);

/* Is it sure that no fault acts on the 16 words around this address (a multiple of 16 and those
 * that follow), nor anything else than their own writes? Then they read what was written there
 * last. */
bool rmg_sim_sound(rmg_sim *sim, rmg_addr address);

/* One access, as the bus port makes it. An address that no chip answers to reads the undriven
 * lines and ignores a write. */
rmg_word rmg_sim_read(rmg_sim *sim, rmg_addr address);
void rmg_sim_write(rmg_sim *sim, rmg_addr address, rmg_word value);

/* One byte of a word, as boards with byte strobes do it: lane 0 is D0-D7. A write leaves the other
 * lanes' chips alone. */
uint8_t rmg_sim_read_byte(rmg_sim *sim, rmg_addr address, uint8_t lane);
void rmg_sim_write_byte(rmg_sim *sim, rmg_addr address, uint8_t lane, uint8_t value);

/* One march element, as rmg_element_call says: the same accesses, made faster. */
rmg_status rmg_sim_element(rmg_sim *sim, rmg_element_call *call);

/* Lets time pass without an access. */
void rmg_sim_wait(rmg_sim *sim, uint64_t wait_ns);

/* The conditions, as a port reads and sets them. At the start: the board's own clock, 5000 mV,
 * 25 degrees Celsius, refresh on. Clock 1 kHz..1 GHz, supply 0..20 V, temperature -55..150 degrees
 * Celsius; RMG_ERR_PORT_CANNOT outside these. Holding times halve for every 10 degrees. */
rmg_status rmg_sim_get(const rmg_sim *sim, rmg_condition which, int32_t *value);
rmg_status rmg_sim_set(rmg_sim *sim, rmg_condition which, int32_t value);

/* The board warms up (or cools down) evenly, from the simulation's start on. */
void rmg_sim_warm(rmg_sim *sim, int32_t from_millic, int32_t to_millic, uint64_t over_ns);

/* What a chip's word holds, whatever its outputs make of it. Exact for ROMs; for other chips the
 * word at power-on or after the last access through a faulty page. Of lines that the chip does not
 * have nothing is said. 0 outside the chip. */
uint32_t rmg_sim_word(const rmg_sim *sim, uint16_t chip, rmg_addr cell);

/* Puts a value into a chip's word as if it had come up with it; for tests. */
void rmg_sim_put(rmg_sim *sim, uint16_t chip, rmg_addr cell, uint32_t value);

/* The same for a word of the bus: what its RAM chips hold there before a start again. Nothing is
 * done where no chip is. */
void rmg_sim_put_word(rmg_sim *sim, rmg_addr address, rmg_word value);

/* Everything that changes in a running simulation, as bytes, so that a board left alone can be
 * found again as it was: rmg_sim_state_bytes() of them. rmg_sim_restore takes them back into a
 * simulation started with the same board, faults and seed; RMG_ERR_ARGUMENT: they are not that. */
size_t rmg_sim_state_bytes(const rmg_sim *sim);
void rmg_sim_save(const rmg_sim *sim, void *bytes);
rmg_status rmg_sim_restore(rmg_sim *sim, const void *bytes, size_t count);

/* The bus port to a simulation: its context is the rmg_sim. It has read, write, read_byte,
 * write_byte, run_element, wait and the conditions. */
extern const rmg_bus rmg_sim_bus;

#ifdef __cplusplus
}
#endif
#endif
