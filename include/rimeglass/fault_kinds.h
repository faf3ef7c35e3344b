/* The table of fault kinds: one row a kind. The simulator, the fault file, replay and the tables of
 * docs/fault-file.md are made of it; docs/architecture.md says how a kind is added.
 *
 * KIND(kind, word, keys, takes, level, stages, needs, place, marks, traits, proposed, does)
 *
 *  kind      RMG_FAULT_kind, in sim.h
 *  word      its name in a fault file; NULL: made of another word, never named itself
 *  keys      what a fault file says of it, besides its conditions, separated by spaces
 *  takes     how these keys are read (rmg_fault_takes)
 *  level     where its level comes from (rmg_fault_level)
 *  stages    where on the way of an access it acts (rmg_sim_stage), a bit each
 *  needs     fields that must make sense on the board (rmg_fault_need), a bit each
 *  place     which chips it acts for (rmg_fault_place)
 *  marks     which words go chip by chip for it (rmg_fault_mark)
 *  traits    what else is known of it (rmg_fault_trait), a bit each
 *  proposed  RMG_PROPOSED(rank, alone, coupled) where replay proposes it as a cell that does
 * something at one value: in which order among these (1 and up), and how it is described, by itself
 * and while another cell holds a value; else RMG_PROPOSED_NOT does      what it does, for the
 * document
 *
 * WORD(kind, word, keys, takes, level, traits, does): another word for a kind with a row; traits
 * stand instead of the row's. The order of rows means nothing but the order in lists. */
#ifndef RIMEGLASS_FAULT_KINDS_H
#define RIMEGLASS_FAULT_KINDS_H

/* Where a fault acts, in the order of an access. */
typedef enum rmg_sim_stage {
    RMG_STAGE_LINES,     /* the bus address on its way to the chips */
    RMG_STAGE_PINS,      /* the address at the chip's own pins */
    RMG_STAGE_SELECT,    /* whether the chip is there and selected */
    RMG_STAGE_OTHERS,    /* whether it answers where another bank is addressed */
    RMG_STAGE_ENABLE,    /* whether it drives the data lines unasked */
    RMG_STAGE_ARRAY,     /* what its cells read as */
    RMG_STAGE_OUTPUT,    /* what its data lines put out, if they do */
    RMG_STAGE_ORDER,     /* which of its data lines is which */
    RMG_STAGE_INPUT,     /* what it finds on the bus when it is written */
    RMG_STAGE_TAKING,    /* what a data line takes of that */
    RMG_STAGE_REACH,     /* which cells an address reaches */
    RMG_STAGE_READING,   /* what reading does to a cell */
    RMG_STAGE_WRITING,   /* what writing does to a cell */
    RMG_STAGE_ACCESSED,  /* what an access to a cell does to others */
    RMG_STAGE_CHANGED,   /* what a cell's change does to others */
    RMG_STAGE_STATE,     /* what a cell's state does to others */
    RMG_STAGE_TIME,      /* what time does to a cell */
    RMG_STAGE_ROWS,      /* what accesses to rows do to others */
    RMG_STAGE_REFRESH,   /* how its rows are refreshed */
    RMG_STAGE_FOLLOWING, /* what an access does to the next one */
    /* of the whole bus */
    RMG_STAGE_BUS,    /* the data lines of the bus */
    RMG_STAGE_SHORT,  /* data lines of some chips that touch, while one answers */
    RMG_STAGE_NOISE,  /* what the reader gets */
    RMG_STAGE_NEARBY, /* what lines that switch do to one beside them */
    RMG_STAGES
} rmg_sim_stage;
/* A stage as one bit of a set. */
#define RMG_STAGE_BIT(stage) ((uint32_t)1 << RMG_STAGE_##stage)

/* For which chips a fault acts. */
typedef enum rmg_fault_place {
    RMG_FOR_CHIP,   /* `chip` */
    RMG_FOR_SCOPE,  /* every chip in `scope` */
    RMG_FOR_BANK,   /* every chip of `bank` */
    RMG_FOR_BESIDE, /* chips of `bank`, where their own bank is not addressed */
    RMG_FOR_BUS     /* none in particular */
} rmg_fault_place;

/* At which words the simulator must look closer for the sake of a fault. */
typedef enum rmg_fault_mark {
    RMG_MARKS_RANGE,  /* all of the chips it acts for */
    RMG_MARKS_CELL,   /* its cell */
    RMG_MARKS_VICTIM, /* its cell, and that of the aggressor where there is one */
    RMG_MARKS_AROUND, /* its cell, and the four around it */
    RMG_MARKS_ROW,    /* the row `cell` */
    RMG_MARKS_ROW_OF, /* the row of its cell, and where the kind has one the row `row`; of memory
                         without rows the cell */
    RMG_MARKS_COLUMN, /* the column `cell` */
    /* where the chip is watched (see sim/watch.c); else all of it */
    RMG_MARKS_TIMED,        /* none, as long as no row rests too long */
    RMG_MARKS_TIMED_ROW,    /* the same; else the row of its cell */
    RMG_MARKS_AFTER,        /* its cell, and the one before it */
    RMG_MARKS_COLUMN_AFTER, /* the column `cell` */
    RMG_MARKS_BANKS,        /* `bank` and `bank2` */
    RMG_MARKS_DRAWN,        /* the cells that are drawn */
    RMG_MARKS_ALL           /* every chip of the board */
} rmg_fault_mark;

/* Fields that must make sense. */
enum rmg_fault_need {
    RMG_NEEDS_CHIP = 1,           /* a chip of the board */
    RMG_NEEDS_LINE = 2,           /* a data line of it */
    RMG_NEEDS_LINE_OR_ALL = 4,    /* ... or RMG_ALL_DATA_LINES */
    RMG_NEEDS_CELL = 8,           /* a cell of it */
    RMG_NEEDS_ROW = 16,           /* `cell` is one of its rows */
    RMG_NEEDS_COLUMN = 32,        /* `cell` is one of its columns */
    RMG_NEEDS_PINS = 64,          /* `lines` are lines of the chip */
    RMG_NEEDS_BUS_BIT = 128,      /* `line` is a bit of the bus */
    RMG_NEEDS_BIT_OR_ALL = 256,   /* ... or RMG_ALL_DATA_LINES */
    RMG_NEEDS_TWO_BITS = 512,     /* `line` and `line2` are two of them */
    RMG_NEEDS_BANK = 1024,        /* a bank */
    RMG_NEEDS_TWO_BANKS = 2048,   /* `bank` and `bank2` are two */
    RMG_NEEDS_TIME = 4096,        /* `after_us` is not 0 */
    RMG_NEEDS_COUNT = 8192,       /* `count` is not 0 */
    RMG_NEEDS_BESIDE = 16384,     /* the chip has rows, `row` is one */
    RMG_NEEDS_REACHED = 32768,    /* `cell2` is a cell, another one where two are named */
    RMG_NEEDS_STATE = 65536,      /* `state` is 0 or 1 */
    RMG_NEEDS_AGGRESSOR = 131072, /* `cell2` and `data_line2` are another cell's */
    RMG_NEEDS_ROWS = 262144       /* the chip has rows and columns */
};

/* What is to be known of a kind beside what it does; sets of them are sums. */
enum rmg_fault_trait {
    RMG_TRAIT_IN_CHIP = 1, /* goes with the chip when it is pulled */
    RMG_TRAIT_BITWISE =
        2, /* what it does at its stages holds or leaves alone each bit for itself */
    RMG_TRAIT_HISTORY = 4,     /* depends on what was done before */
    RMG_TRAIT_EVERYWHERE = 8,  /* acts alike everywhere in its chips: a sample suffices */
    RMG_TRAIT_UNDRIVEN = 16,   /* leaves data lines undriven */
    RMG_TRAIT_POWER_ON = 32,   /* shows what the memory came up with */
    RMG_TRAIT_CHANCE = 64,     /* it is chance how or when it fails */
    RMG_TRAIT_CELLS = 128,     /* does nothing outside a few cells, whenever they are accessed */
    RMG_TRAIT_TWO_CELLS = 256, /* ... which are always two */
    RMG_TRAIT_STRAYS = 512,    /* chips answer outside their own addresses */
    RMG_TRAIT_SHOWS = 1024     /* ... and show what they hold there */
};

/* How a fault file's keys are read. */
typedef enum rmg_fault_takes {
    RMG_TAKES_NOTHING,
    RMG_TAKES_CELL,        /* socket, bit, cell; or address, bit */
    RMG_TAKES_ROW,         /* socket, row, perhaps bit */
    RMG_TAKES_COLUMN,      /* socket, column, perhaps bit */
    RMG_TAKES_OUTPUT,      /* socket, bit */
    RMG_TAKES_INPUT,       /* socket; of a part whose input is a pin of its own */
    RMG_TAKES_CHIP,        /* socket */
    RMG_TAKES_DATA_LINE,   /* line, perhaps lane-of */
    RMG_TAKES_ADDRESS_PIN, /* socket, pin */
    RMG_TAKES_BANK_LINE,   /* bank, line or pin */
    RMG_TAKES_LINE,        /* line, for whom */
    RMG_TAKES_TWO_LINES,   /* line, with, for whom */
    RMG_TAKES_NEARBY,      /* line, with, change-to, of */
    RMG_TAKES_CHIPS,       /* for whom */
    RMG_TAKES_TWO_BANKS,   /* bank, where */
    RMG_TAKES_SMALLER,     /* socket, address-lines */
    RMG_TAKES_VALUE,       /* a cell, perhaps by-cell, by-bit, while */
    RMG_TAKES_CHANGE,      /* a cell, by-cell, by-bit, change-to */
    RMG_TAKES_STATE,       /* a cell, by-cell, by-bit, while */
    RMG_TAKES_OPERATION,   /* a cell, by-cell, by-bit, operation */
    RMG_TAKES_PATTERN,     /* a cell, neighbours */
    RMG_TAKES_TURN,        /* a cell, neighbours, by, change-to */
    RMG_TAKES_REACHES,     /* socket, cell, other, reaches, reads */
    RMG_TAKES_AFTER,       /* socket, cell, after */
    RMG_TAKES_OWN_LINE,    /* socket, address-line, change-to */
    RMG_TAKES_BIT_LINE,    /* socket, bit, column, level */
    RMG_TAKES_CELL_TIME,   /* a cell, after-us */
    RMG_TAKES_REFRESH,     /* for whom, rows, every-us */
    RMG_TAKES_BESIDE,      /* a cell, row, accesses */
    RMG_TAKES_LATE,        /* socket, perhaps access-ns */
    RMG_TAKES_NOISE,       /* perhaps line; one-in */
    RMG_TAKES_DRAWN,       /* socket, one-cell-in, perhaps bit, level */
    RMG_TAKES_IMAGE,       /* socket, image */
    RMG_TAKES
} rmg_fault_takes;

/* Which key of a fault file says its level. */
typedef enum rmg_fault_level {
    RMG_LEVEL_TOLD,   /* key level */
    RMG_LEVEL_FLOATS, /* key floats, 1 where it is not given */
    RMG_LEVEL_WINS    /* key wins, 0 where it is not given */
} rmg_fault_level;

/* Keys that name one cell, and a level; and another cell that acts on it. */
#define RMG_VICTIM_KEYS  "socket bit cell address level"
#define RMG_COUPLED_KEYS RMG_VICTIM_KEYS " by-cell by-bit while"

/* The last columns of a row that replay proposes for cells, and of one that it does not. */
#define RMG_PROPOSED(rank, alone, coupled) rank, alone, coupled
#define RMG_PROPOSED_NOT                   0, NULL, NULL

/* clang-format off */
#define RMG_NEEDS_VICTIM (RMG_NEEDS_CHIP | RMG_NEEDS_LINE | RMG_NEEDS_CELL)
#define RMG_TRAIT_VICTIM (RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY | RMG_TRAIT_CELLS)

/* The table: a KIND a row, or a WORD that is a fault file's only. */
#define RMG_FAULT_TABLE(KIND, WORD)                                                                \
/* stuck, within the chip */                                                                       \
KIND(CELL, "cell stuck", "socket bit cell address level",                                          \
    RMG_TAKES_CELL, RMG_LEVEL_TOLD, RMG_STAGE_BIT(ARRAY),                                          \
    RMG_NEEDS_VICTIM, RMG_FOR_CHIP, RMG_MARKS_CELL,                                                \
    RMG_TRAIT_IN_CHIP | RMG_TRAIT_CELLS, RMG_PROPOSED_NOT,                                         \
    "one cell always reads the level. `cell` is the address inside the chip, row lines lowest; "   \
    "`address` and `bit` name it by the board's addresses instead")                                \
KIND(ROW, "row stuck", "socket bit row level",                                                     \
    RMG_TAKES_ROW, RMG_LEVEL_TOLD, RMG_STAGE_BIT(ARRAY),                                           \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE_OR_ALL | RMG_NEEDS_ROW, RMG_FOR_CHIP, RMG_MARKS_ROW,           \
    RMG_TRAIT_IN_CHIP, RMG_PROPOSED_NOT,                                                           \
    "all cells of the row read the level; without `bit` in every data line of the chip")           \
KIND(COLUMN, "column stuck", "socket bit column level",                                            \
    RMG_TAKES_COLUMN, RMG_LEVEL_TOLD, RMG_STAGE_BIT(ARRAY),                                        \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE_OR_ALL | RMG_NEEDS_COLUMN, RMG_FOR_CHIP, RMG_MARKS_COLUMN,     \
    RMG_TRAIT_IN_CHIP, RMG_PROPOSED_NOT,                                                           \
    "the same for a column")                                                                       \
KIND(OUTPUT, "output stuck", "socket bit level",                                                   \
    RMG_TAKES_OUTPUT, RMG_LEVEL_TOLD, RMG_STAGE_BIT(OUTPUT),                                       \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                \
    RMG_TRAIT_BITWISE | RMG_TRAIT_IN_CHIP | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                \
    "the output always gives the level")                                                           \
KIND(DATA_OPEN, "data pin open", "socket bit",                                                     \
    RMG_TAKES_OUTPUT, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(OUTPUT) | RMG_STAGE_BIT(TAKING),             \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE | RMG_TRAIT_UNDRIVEN, RMG_PROPOSED_NOT,               \
    "nothing passes: writes do not arrive, reads give what the undriven line holds")               \
KIND(INPUT_OPEN, "data input open", "socket floats",                                               \
    RMG_TAKES_INPUT, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(TAKING),                                      \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                    \
    "one-bit chips, whose input is a pin of its own: they take the floating level")                \
KIND(MISSING, "chip missing", "socket",                                                            \
    RMG_TAKES_CHIP, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(SELECT),                                       \
    RMG_NEEDS_CHIP, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                                 \
    RMG_TRAIT_BITWISE | RMG_TRAIT_IN_CHIP | RMG_TRAIT_EVERYWHERE | RMG_TRAIT_UNDRIVEN,             \
    RMG_PROPOSED_NOT,                                                                              \
    "the socket is empty")                                                                         \
/* lines of the bus */                                                                             \
KIND(DATA_LINE, "data line stuck", "line lane-of level",                                           \
    RMG_TAKES_DATA_LINE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(BUS),                                       \
    RMG_NEEDS_BUS_BIT, RMG_FOR_BUS, RMG_MARKS_ALL,                                                 \
    RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                                        \
    "the bus line, for everything on it; with `lane-of` a bank only on that bank's half of a "     \
    "wider bus")                                                                                   \
KIND(ADDRESS_CHIP, "address pin stuck", "socket pin level",                                        \
    RMG_TAKES_ADDRESS_PIN, RMG_LEVEL_TOLD, RMG_STAGE_BIT(PINS),                                    \
    RMG_NEEDS_CHIP | RMG_NEEDS_PINS, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                \
    RMG_TRAIT_BITWISE | RMG_TRAIT_IN_CHIP | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                \
    "the chip sees that level at the pin (number, or name like `A3`); on a DRAM that is a row "    \
    "and a column bit")                                                                            \
WORD(ADDRESS_CHIP, "address pin open", "socket pin floats",                                        \
    RMG_TAKES_ADDRESS_PIN, RMG_LEVEL_FLOATS, RMG_TRAIT_EVERYWHERE,                                 \
    "the same with a floating pin")                                                                \
KIND(ADDRESS_BANK, "address line stuck", "bank line pin level",                                    \
    RMG_TAKES_BANK_LINE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(LINES),                                     \
    RMG_NEEDS_BANK, RMG_FOR_BANK, RMG_MARKS_RANGE,                                                 \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                    \
    "for all chips of the bank: one `line` (`A9`) before the multiplexer, or all that reach the "  \
    "`pin` behind it")                                                                             \
WORD(ADDRESS_BANK, "address line open", "bank line pin floats",                                    \
    RMG_TAKES_BANK_LINE, RMG_LEVEL_FLOATS, RMG_TRAIT_EVERYWHERE,                                   \
    "the same with a floating line")                                                               \
KIND(LINE_STUCK, "line stuck", "line socket bank beyond level",                                    \
    RMG_TAKES_LINE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(OUTPUT) | RMG_STAGE_BIT(INPUT),                  \
    RMG_NEEDS_BUS_BIT, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                             \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                    \
    "those chips see the level on a data or address line, and give it")                            \
KIND(LINE_OPEN, "line open", "line socket bank beyond floats",                                     \
    RMG_TAKES_LINE, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(OUTPUT) | RMG_STAGE_BIT(TAKING),               \
    RMG_NEEDS_BUS_BIT, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                             \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE | RMG_TRAIT_UNDRIVEN, RMG_PROPOSED_NOT,               \
    "nothing passes to or from those chips. A line whose name begins with W is a write line: "     \
    "they never take what is written. Another control line: they never answer")                    \
KIND(DATA_SHORT, "lines touch", "line with socket bank beyond wins",                               \
    RMG_TAKES_TWO_LINES, RMG_LEVEL_WINS, RMG_STAGE_BIT(INPUT) | RMG_STAGE_BIT(SHORT),              \
    RMG_NEEDS_TWO_BITS, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                            \
    RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                                        \
    "two data or two address lines touch; the level that `wins` (0 or 1, default 0) is on both")  \
KIND(ADDRESS_STUCK, NULL, "",                                                                      \
    RMG_TAKES_NOTHING, RMG_LEVEL_TOLD, RMG_STAGE_BIT(LINES),                                       \
    0, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                                             \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                    \
    "line stuck, of an address line")                                                              \
KIND(ADDRESS_SHORT, NULL, "",                                                                      \
    RMG_TAKES_NOTHING, RMG_LEVEL_WINS, RMG_STAGE_BIT(LINES),                                       \
    0, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                                             \
    RMG_TRAIT_EVERYWHERE, RMG_PROPOSED_NOT,                                                        \
    "lines touch, of address lines")                                                               \
KIND(CROSSTALK, "crosstalk", "line with change-to of",                                             \
    RMG_TAKES_NEARBY, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(NEARBY),                                     \
    RMG_NEEDS_BUS_BIT | RMG_NEEDS_STATE, RMG_FOR_BUS, RMG_MARKS_ALL,                               \
    RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                                           \
    "where all lines of the list `with` (without it all others that reach chips) change to a level at " \
    "once, a data or address line that is to have the other level is taken for theirs; `of`: "     \
    "`still`, only if it had it before; `turning`, only if it changes to it; else in both cases")  \
KIND(ADDRESS_CROSSTALK, NULL, "",                                                                  \
    RMG_TAKES_NOTHING, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(LINES),                                     \
    RMG_NEEDS_STATE, RMG_FOR_SCOPE, RMG_MARKS_ALL,                                                 \
    RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                                           \
    "crosstalk, of address lines")                                                                 \
KIND(NO_WRITE, "never written", "socket bank",                                                     \
    RMG_TAKES_CHIPS, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(INPUT),                                       \
    0, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                                             \
    RMG_TRAIT_BITWISE | RMG_TRAIT_POWER_ON | RMG_TRAIT_CHANCE, RMG_PROPOSED_NOT,                   \
    "what is written does not arrive (write line dead, or write-protected)")                       \
KIND(DESELECTED, "never selected", "socket bank",                                                  \
    RMG_TAKES_CHIPS, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(SELECT),                                      \
    0, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                                             \
    RMG_TRAIT_BITWISE | RMG_TRAIT_EVERYWHERE | RMG_TRAIT_UNDRIVEN | RMG_TRAIT_POWER_ON,            \
    RMG_PROPOSED_NOT,                                                                              \
    "those chips never answer")                                                                    \
KIND(ALSO_SELECTED, "also selected", "bank where wins",                                            \
    RMG_TAKES_TWO_BANKS, RMG_LEVEL_WINS, RMG_STAGE_BIT(OTHERS),                                  \
    RMG_NEEDS_TWO_BANKS, RMG_FOR_BESIDE, RMG_MARKS_BANKS,                                          \
    RMG_TRAIT_STRAYS, RMG_PROPOSED_NOT,                                                            \
    "the chips of a bank also answer where the bank `where` is addressed; the level that `wins` "  \
    "(0 or 1, default 0) is on lines that two chips drive")                                        \
KIND(ALWAYS_ON, "always on", "socket wins",                                                        \
    RMG_TAKES_CHIPS, RMG_LEVEL_WINS, RMG_STAGE_BIT(ENABLE),                                      \
    0, RMG_FOR_SCOPE, RMG_MARKS_ALL,                                                               \
    RMG_TRAIT_POWER_ON | RMG_TRAIT_CHANCE | RMG_TRAIT_STRAYS | RMG_TRAIT_SHOWS, RMG_PROPOSED_NOT,  \
    "the chip drives the data lines at every read; `wins` as above")                                                \
WORD(ADDRESS_CHIP, "smaller part", "socket address-lines floats",                                  \
    RMG_TAKES_SMALLER, RMG_LEVEL_FLOATS, RMG_TRAIT_IN_CHIP | RMG_TRAIT_EVERYWHERE,                 \
    "a part with fewer address lines was fitted")                                                  \
/* cells that depend on what was done before */                                                    \
KIND(TRANSITION, "transition", RMG_COUPLED_KEYS,                                                   \
    RMG_TAKES_VALUE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(WRITING),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_VICTIM, RMG_TRAIT_VICTIM,          \
    RMG_PROPOSED(1, "a cell of {socket} that cannot be changed to one value",                      \
                 "a cell of {socket} that cannot be changed while another cell holds a value"),    \
    "the cell cannot be changed to the level")                                                     \
KIND(WRITE_FLIPS, "write destructive", RMG_COUPLED_KEYS,                                           \
    RMG_TAKES_VALUE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(WRITING),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_VICTIM, RMG_TRAIT_VICTIM,          \
    RMG_PROPOSED(5, "a cell of {socket} that writing the same value again flips",                  \
                 "a cell of {socket} that writing again flips while another cell holds a value"),  \
    "writing the level to a cell that holds it flips it")                                          \
KIND(READ_FLIPS, "read destructive", RMG_COUPLED_KEYS,                                             \
    RMG_TAKES_VALUE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(READING),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_VICTIM, RMG_TRAIT_VICTIM,          \
    RMG_PROPOSED(3, "a cell of {socket} that a read flips and shows flipped",                      \
                 "a cell of {socket} that a read flips while another cell holds a value"),         \
    "reading a cell that holds the level flips it, and shows that")                                \
KIND(READ_FLIPS_AFTER, "deceptive read destructive", RMG_COUPLED_KEYS,                             \
    RMG_TAKES_VALUE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(READING),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_VICTIM, RMG_TRAIT_VICTIM,          \
    RMG_PROPOSED(4, "a cell of {socket} that a read flips unseen",                                 \
                 "a cell of {socket} that a read flips unseen while another cell holds a value"),  \
    "the same, but the read still shows the level")                                                \
KIND(READ_WRONG, "incorrect read", RMG_COUPLED_KEYS,                                               \
    RMG_TAKES_VALUE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(READING),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_VICTIM, RMG_TRAIT_VICTIM,          \
    RMG_PROPOSED(2, "a cell of {socket} that reads wrong when it holds one value",                 \
                 "a cell of {socket} that reads wrong while another cell holds a value"),          \
    "reading a cell that holds the level shows the other value and changes nothing")               \
KIND(COUPLING_INVERTS, "inversion coupling", "socket bit cell address by-cell by-bit change-to "    \
    "unchanged-only",                                                                              \
    RMG_TAKES_CHANGE, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(CHANGED),                                    \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE | RMG_NEEDS_AGGRESSOR, RMG_FOR_CHIP, RMG_MARKS_VICTIM,      \
    RMG_TRAIT_VICTIM | RMG_TRAIT_TWO_CELLS, RMG_PROPOSED_NOT,                                      \
    "the aggressor changing to that value inverts the victim")                                     \
KIND(COUPLING_SETS, "idempotent coupling", RMG_VICTIM_KEYS " by-cell by-bit change-to "             \
    "unchanged-only",                                                                              \
    RMG_TAKES_CHANGE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(CHANGED),                                      \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE | RMG_NEEDS_AGGRESSOR, RMG_FOR_CHIP, RMG_MARKS_VICTIM,      \
    RMG_TRAIT_VICTIM | RMG_TRAIT_TWO_CELLS, RMG_PROPOSED_NOT,                                      \
    "the aggressor changing to that value sets the victim to the level")                           \
KIND(COUPLING_HOLDS, "state coupling", RMG_COUPLED_KEYS,                                           \
    RMG_TAKES_STATE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(STATE),                                         \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE | RMG_NEEDS_AGGRESSOR, RMG_FOR_CHIP, RMG_MARKS_VICTIM,      \
    RMG_TRAIT_VICTIM | RMG_TRAIT_TWO_CELLS, RMG_PROPOSED_NOT,                                      \
    "while the aggressor holds `while` the victim is the level")                                   \
KIND(COUPLING_FLIPS, "disturb coupling", RMG_VICTIM_KEYS " by-cell by-bit operation "              \
    "unchanged-only",                                                                              \
    RMG_TAKES_OPERATION, RMG_LEVEL_TOLD, RMG_STAGE_BIT(ACCESSED),                                  \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE | RMG_NEEDS_AGGRESSOR, RMG_FOR_CHIP, RMG_MARKS_VICTIM,      \
    RMG_TRAIT_VICTIM | RMG_TRAIT_TWO_CELLS, RMG_PROPOSED_NOT,                                      \
    "the operation on the aggressor (`0w1`: it held 0, 1 is written; `1r1`: it is read) flips a "  \
    "victim that holds the level")                                                                 \
KIND(PATTERN_HOLDS, "pattern holds", RMG_VICTIM_KEYS " neighbours",                                \
    RMG_TAKES_PATTERN, RMG_LEVEL_TOLD, RMG_STAGE_BIT(STATE),                                       \
    RMG_NEEDS_VICTIM | RMG_NEEDS_ROWS, RMG_FOR_CHIP, RMG_MARKS_AROUND, RMG_TRAIT_VICTIM,           \
    RMG_PROPOSED_NOT,                                                                              \
    "while the cells above, below, left and right hold `neighbours` (`01-1`: `-` is any level), "  \
    "the cell is the level; rows and columns are those at the pins")                               \
KIND(PATTERN_KEEPS, "pattern keeps", RMG_VICTIM_KEYS " neighbours",                                \
    RMG_TAKES_PATTERN, RMG_LEVEL_TOLD, RMG_STAGE_BIT(WRITING),                                     \
    RMG_NEEDS_VICTIM | RMG_NEEDS_ROWS, RMG_FOR_CHIP, RMG_MARKS_AROUND, RMG_TRAIT_VICTIM,           \
    RMG_PROPOSED_NOT,                                                                              \
    "while they hold it, the cell cannot be changed to the level")                                 \
KIND(PATTERN_SETS, "pattern sets", RMG_VICTIM_KEYS " neighbours by change-to",                     \
    RMG_TAKES_TURN, RMG_LEVEL_TOLD, RMG_STAGE_BIT(CHANGED),                                        \
    RMG_NEEDS_VICTIM | RMG_NEEDS_STATE | RMG_NEEDS_ROWS, RMG_FOR_CHIP, RMG_MARKS_AROUND,           \
    RMG_TRAIT_VICTIM, RMG_PROPOSED_NOT,                                                            \
    "while the others hold it, the neighbour `by` (above, below, left, right) changing to that "   \
    "value sets the cell to the level")                                                            \
KIND(ADDRESS_CELLS, "wrong cells", "socket cell other reaches reads",                              \
    RMG_TAKES_REACHES, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(REACH),                                     \
    RMG_NEEDS_CHIP | RMG_NEEDS_CELL | RMG_NEEDS_REACHED, RMG_FOR_CHIP, RMG_MARKS_VICTIM,           \
    RMG_TRAIT_VICTIM | RMG_TRAIT_TWO_CELLS, RMG_PROPOSED_NOT,                                      \
    "chip address `cell` reaches `none`, `none and two` (and `other` reaches both), `other`, or "  \
    "`both`; what is read of none or two: `and`, `or`, `last`")                                    \
/* accesses that follow each other */                                                              \
KIND(SLOW_DECODER, "slow decoder", "socket cell after",                                            \
    RMG_TAKES_AFTER, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(FOLLOWING),                                   \
    RMG_NEEDS_CHIP | RMG_NEEDS_CELL | RMG_NEEDS_REACHED, RMG_FOR_CHIP, RMG_MARKS_AFTER,            \
    RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                       \
    "an access to chip address `cell` that directly follows one of this chip to `after` still "    \
    "reaches that one")                                                                            \
KIND(SLOW_LINE, "slow address line", "socket address-line change-to",                              \
    RMG_TAKES_OWN_LINE, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(FOLLOWING),                                \
    RMG_NEEDS_CHIP | RMG_NEEDS_PINS | RMG_NEEDS_STATE, RMG_FOR_CHIP, RMG_MARKS_RANGE,              \
    RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                       \
    "a line of the chip's own address, row lines lowest, is slow: the access with which it "       \
    "changes to that value still has the old one")                                                 \
KIND(LATE_PRECHARGE, "late precharge", "socket bit column level",                                  \
    RMG_TAKES_BIT_LINE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(FOLLOWING),                                  \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE | RMG_NEEDS_COLUMN | RMG_NEEDS_ROWS, RMG_FOR_CHIP,             \
    RMG_MARKS_COLUMN_AFTER, RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                      \
    "a read of the column that directly follows an access to another row of it shows the level, "  \
    "if the cell there holds it")                                                                  \
KIND(WRITE_RECOVERY, "slow write recovery", "socket bit column level",                             \
    RMG_TAKES_BIT_LINE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(FOLLOWING),                                  \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE | RMG_NEEDS_COLUMN | RMG_NEEDS_ROWS, RMG_FOR_CHIP,             \
    RMG_MARKS_COLUMN_AFTER, RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                      \
    "the same, but only after a write")                                                            \
/* time, clock and traffic */                                                                      \
KIND(RETENTION, "retention", RMG_VICTIM_KEYS " after-us",                                          \
    RMG_TAKES_CELL_TIME, RMG_LEVEL_TOLD, RMG_STAGE_BIT(TIME),                                      \
    RMG_NEEDS_VICTIM | RMG_NEEDS_TIME, RMG_FOR_CHIP, RMG_MARKS_TIMED_ROW,                             \
    RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                       \
    "takes the level after that time unrefreshed (DRAM) or unwritten (static " \
    "memory); at 25 C, half as long for every 10 C more")                                                      \
KIND(REFRESH, "refresh", "socket bank rows every-us",                                              \
    RMG_TAKES_REFRESH, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(REFRESH),                                   \
    RMG_NEEDS_TIME, RMG_FOR_SCOPE, RMG_MARKS_TIMED,                                                \
    RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                                           \
    "the board refreshes only so many rows, or too rarely")                                        \
KIND(DISTURB, "row disturb", RMG_VICTIM_KEYS " row accesses",                                      \
    RMG_TAKES_BESIDE, RMG_LEVEL_TOLD, RMG_STAGE_BIT(ROWS),                                         \
    RMG_NEEDS_VICTIM | RMG_NEEDS_COUNT | RMG_NEEDS_BESIDE, RMG_FOR_CHIP, RMG_MARKS_ROW_OF,         \
    RMG_TRAIT_IN_CHIP | RMG_TRAIT_HISTORY, RMG_PROPOSED_NOT,                                       \
    "so many accesses to that row, without an access to or refresh of the victim's own, set the victim")       \
KIND(LATE, "late output", "socket access-ns",                                                      \
    RMG_TAKES_LATE, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(OUTPUT),                                       \
    RMG_NEEDS_CHIP, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                                 \
    RMG_TRAIT_BITWISE | RMG_TRAIT_IN_CHIP | RMG_TRAIT_EVERYWHERE | RMG_TRAIT_UNDRIVEN,             \
    RMG_PROPOSED_NOT,                                                                              \
    "its outputs come too late to be read; with `access-ns`, where the board allows " \
    "less time than that; with `from-hz`, from that clock on")                                                \
KIND(STALE, "stale output", "socket",                                                              \
    RMG_TAKES_CHIP, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(OUTPUT),                                       \
    RMG_NEEDS_CHIP, RMG_FOR_CHIP, RMG_MARKS_RANGE,                                                 \
    RMG_TRAIT_IN_CHIP, RMG_PROPOSED_NOT,                                                           \
    "each read gives what the read before gave: its output latch lags")                            \
KIND(NOISE, "noise", "line",                                                                       \
    RMG_TAKES_NOISE, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(NOISE),                                       \
    RMG_NEEDS_BIT_OR_ALL, RMG_FOR_BUS, RMG_MARKS_ALL,                                              \
    0, RMG_PROPOSED_NOT,                                                                           \
    "a read has one wrong bit; `one-in` is needed")                                                \
/* what happens to ROMs above all */                                                               \
KIND(WEAK, "fading bits", "socket bit one-cell-in level",                                          \
    RMG_TAKES_DRAWN, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(ARRAY),                                       \
    RMG_NEEDS_CHIP | RMG_NEEDS_LINE_OR_ALL | RMG_NEEDS_COUNT, RMG_FOR_CHIP, RMG_MARKS_DRAWN,       \
    RMG_TRAIT_IN_CHIP, RMG_PROPOSED_NOT,                                                           \
    "one cell in so many, chosen by the seed, reads the level (default 1: back to " \
    "erased); with `one-in`, `from-c` and the like, intermittently or when warm")                                      \
KIND(DATA_SWAP, "lines swapped", "line with socket bank beyond",                                   \
    RMG_TAKES_TWO_LINES, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(ORDER),                                   \
    RMG_NEEDS_TWO_BITS, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                            \
    0, RMG_PROPOSED_NOT,                                                                           \
    "two data or two address lines are swapped")                                           \
KIND(ADDRESS_SWAP, NULL, "",                                                                       \
    RMG_TAKES_NOTHING, RMG_LEVEL_FLOATS, RMG_STAGE_BIT(LINES),                                     \
    0, RMG_FOR_SCOPE, RMG_MARKS_RANGE,                                                             \
    0, RMG_PROPOSED_NOT,                                                                           \
    "lines swapped, of address lines")                                                             \
WORD(ADDRESS_CHIP, "wrong half", "socket pin level",                                               \
    RMG_TAKES_ADDRESS_PIN, RMG_LEVEL_TOLD, RMG_TRAIT_EVERYWHERE,                                   \
    "a jumper or select holds that address pin of the chip at the level")                          \
WORD(MISSING, "wrong image", "socket image",                                                       \
    RMG_TAKES_IMAGE, RMG_LEVEL_FLOATS, RMG_TRAIT_IN_CHIP,                                          \
    "the chip holds that file, relative to the fault file")
/* clang-format on */

#endif
