/* The board: what its file says of memory, banks, sockets and places. The file's keys are
 * described in docs/board-file.md. */
#ifndef RIMEGLASS_BOARD_H
#define RIMEGLASS_BOARD_H

#include "part.h"
#include "place.h"
#include "testrom.h"
#include "text.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a region of the board's addresses is. */
typedef enum rmg_region_kind {
    RMG_REGION_RAM,      /* tested */
    RMG_REGION_ROM,      /* not tested by writing */
    RMG_REGION_RESERVED, /* ports and the like: never touched */
    RMG_REGION_SHADOW,   /* other memory answers here: never touched */
    RMG_REGION_KEPT,     /* contents matter: never touched unless asked for by name */
    RMG_REGION_EMPTY,    /* nothing is fitted */
    RMG_REGION_MIRROR    /* the cells of another region at a second address: tested there */
} rmg_region_kind;

/* The word the board file uses for it, and one sentence part for why it is not tested ("" for
 * RAM). */
const char *rmg_region_kind_name(rmg_region_kind kind);
const char *rmg_region_kind_reason(rmg_region_kind kind);

/* A region: a stretch of addresses and what is there. */
typedef struct rmg_region {
    char *name;           /* "low RAM", "screen" */
    char *note;           /* "" if none */
    rmg_range range;      /* its addresses */
    rmg_region_kind kind; /* what is there */
    rmg_addr mirror_of;   /* of a mirror: the first address whose cells it shows */
} rmg_region;

/* A bank: chips that are selected together, and hold the bits of the same words. */
typedef struct rmg_bank {
    char *name;           /* as in the file: "lower", "B" */
    char *called;         /* within a sentence: "the upper bank"; "bank B" where that is its name */
    const rmg_part *part; /* that its chips are; NULL: the file does not say */
} rmg_bank;

/* How a chip is fitted. */
typedef enum rmg_mount {
    RMG_MOUNT_SOCKET,   /* in a socket: it can be pulled and swapped */
    RMG_MOUNT_SOLDERED, /* its legs are soldered: they can be probed */
    RMG_MOUNT_BALL      /* on solder balls beneath it: it can be neither pulled nor probed */
} rmg_mount;

/* The word the board file uses for it ("ball"), and how it is said ("on solder balls"). */
const char *rmg_mount_name(rmg_mount mount);
const char *rmg_mount_text(rmg_mount mount);

/* A place for a chip, whether the chip is in a socket or soldered. */
typedef struct rmg_socket {
    char *name;           /* designator, for example "U19" */
    char *note;           /* "" if none */
    char *unseen;         /* why the processor cannot reach it; "" if it can */
    char *image;          /* file of what its chip is to hold; "" if none is given */
    const rmg_part *part; /* NULL: nothing known of it */
    rmg_mount mount;      /* how its chip is fitted */
    char *image_named;    /* that file as the board file names it, from its own folder */
    char *stands;         /* file and line of its entry: "board.yaml:12" */
    bool drawn;           /* the file says where it is */
    double x_mm, y_mm;    /* middle of the chip, from the left and the top of the drawing */
    uint32_t within_ns;   /* access time that the board allows its chip; 0: the file does not say */
} rmg_socket;

/* What a traced line carries. */
typedef enum rmg_line_kind {
    RMG_LINE_DATA,    /* carries bus data bit `bit` */
    RMG_LINE_ADDRESS, /* carries bus address bit `bit` */
    RMG_LINE_CONTROL  /* a strobe, select or enable */
} rmg_line_kind;

/* A place on a line where a probe can be set: a pin, or a two-legged part the line passes. */
typedef struct rmg_point {
    char *name;      /* "U22.9", "R4"; through a buffer or multiplexer "U22.9>U22.12" */
    uint16_t parent; /* the point before it, from the driver; RMG_NO_POINT for the driver */
    uint16_t socket; /* of the board's list, or RMG_NO_SOCKET */
    uint8_t pin;     /* of that socket; 0: none */
} rmg_point;

/* A line of the board as traced: a tree of points from its driver. */
typedef struct rmg_line {
    char *name;         /* as in the file: "D3", "A9", "WE" */
    rmg_line_kind kind; /* what it carries */
    bool writes; /* a control line that ends at write pins (WE) of chips; where the trace does not
                  * reach a pin that the parts table names: one whose name begins with W */
    uint8_t bit; /* data or address bit; of a control line 0 */
    rmg_where lane;    /* of a data line: the addresses it serves; mask 0 for all */
    rmg_point *points; /* [point_count], each after its parent */
    size_t point_count;
} rmg_line;

/* Memory in pages: a value written at `select` chooses what the window shows. The words of page p
 * have the addresses (p << address lines) | window address, in the board file and everywhere. */
typedef struct rmg_pages {
    rmg_range window; /* addresses that show one page at a time */
    rmg_addr select;  /* where a written value chooses the page */
    rmg_word count;   /* pages 0..count-1; 0: the board has none */
} rmg_pages;

/* What the board's own start-up reports while these banks answer. */
typedef struct rmg_report_row {
    char *name;       /* as in the file: "healthy", "lower only" */
    uint64_t present; /* bank b: bit b */
    uint64_t number;  /* in whatever the board counts in */
} rmg_report_row;

/* What was once seen of the board, and where it came from. */
typedef struct rmg_symptom {
    char *seen; /* in the words of whoever saw it */
    char *
        look_at; /* names of banks, regions, sockets and lines, the likeliest first: "lower, U40" */
    bool has_first; /* `first` is the address to try first */
    rmg_addr first; /* where to look first */
    char *note;     /* "" if none */
} rmg_symptom;

#define RMG_TESTROM_SOCKETS 4u  /* sockets of a ROM, at most: one a byte of the bus */
#define RMG_TESTROM_HEADER  64u /* bytes that a slot's ROM begins with, at most */

/* How a test ROM is made for the board: its section `test-rom`, described in docs/test-rom.md.
 * Addresses are those of the processor, which counts bytes. */
typedef struct rmg_board_rom {
    bool known;                            /* the file has the section */
    rmg_testrom_processor processor;       /* that runs it */
    uint32_t clock_hz;                     /* of the processor */
    uint16_t sockets[RMG_TESTROM_SOCKETS]; /* the one that the ROM goes into; of a wider bus one a
                                          byte, that of the lowest address first */
    uint8_t socket_count;                  /* 1..RMG_TESTROM_SOCKETS; 0: it goes into a slot */
    uint32_t slot_size;                    /* bytes of the slot's ROM; 0: it goes into sockets */
    uint8_t header[RMG_TESTROM_HEADER];    /* [header_count]: a slot's first bytes */
    uint8_t header_count;                  /* 0..RMG_TESTROM_HEADER */
    uint32_t load_at, load_size; /* no ROM: a program to load there, of so many bytes; 0, 0 */
    char *disables;              /* what keeps the board's own ROM off; "" nothing is said of it */
    uint32_t origin;             /* where the processor sees its first byte */
    uint32_t offset; /* of the image in the chip: bytes before it are left as they are, 0xFF */
    rmg_testrom_write writes[RMG_TESTROM_WRITES]; /* made first, in this order */
    uint8_t write_count;
    rmg_testrom_output serial, lamp; /* where lines go, and what blinks or beeps */
    rmg_testrom_screen screen;       /* where a row a step is shown */
    uint32_t baud;                   /* of the lines */
    int32_t trim_ppm; /* the clock runs so much faster than clock_hz says; negative: slower */
    uint8_t lines;    /* failures reported a step, at most */
    uint32_t stop_after, then;       /* passes; 0: it goes on */
    uint8_t march[RMG_MARCH_BYTES];  /* compiled */
    char *march_text;                /* as in the file, or the standard one */
    uint32_t hold_ms;                /* of the march's holds */
    rmg_addr roms[RMG_TESTROM_ROMS]; /* [rom_count]: regions of kind rom that are read, too, by
                                        their first words */
    uint8_t rom_count;               /* 0..RMG_TESTROM_ROMS */
} rmg_board_rom;

/* A board. Made by rmg_board_load; everything in it belongs to it. */
typedef struct rmg_board {
    char *file; /* its name, as it was asked for */
    char *text; /* the file's; of a board based on another one the whole board, as rmg_board_text */
    char *hash; /* SHA-256 of that text, in hex */
    char *based_on;       /* the board file that this one changes, as it names it; "" if none */
    char *name;           /* "Halvorn 64 operator console" */
    char *revision;       /* "" if none is given */
    uint8_t word_bits;    /* data bits of a word: 1..64 */
    uint8_t address_bits; /* address lines of the port: bits of a word address, pages left out */
    uint8_t byte_shift;   /* addresses are shown shifted left by this: 0, or log2 of bytes a word */
    bool counts_bytes;    /* its addresses are written in bytes */
    bool high_first;      /* the byte with the highest data bits has the lowest byte address */
    rmg_undriven undriven;      /* RMG_UNDRIVEN_HIGH where the file does not say */
    bool undriven_known;        /* it says */
    uint64_t hold_ns;           /* of RMG_UNDRIVEN_HOLDS: for how long; 0: for good */
    rmg_undriven after_hold;    /* what is read then */
    uint32_t access_ns;         /* time of one access */
    uint32_t clock_hz;          /* of its processor, as it runs; 0: not told */
    uint16_t refresh_cycles;    /* rows that it walks in refresh_ms; 0: the file does not say */
    uint16_t refresh_ms;        /* the time of that walk */
    bool refreshes;             /* the board refreshes its DRAMs; false: accesses alone do */
    bool refresh_known;         /* the file says which */
    double width_mm, height_mm; /* of the drawing */
    rmg_range first_memory;     /* first > last: none named */
    rmg_pages pages;            /* count 0: it has none */
    rmg_addr last_address;      /* pages included */
    rmg_region *regions;        /* [region_count], rising */
    size_t region_count;
    rmg_bank *banks;        /* [bank_count] */
    rmg_where *bank_wheres; /* [bank_count] */
    size_t bank_count;
    rmg_socket *sockets; /* [socket_count] */
    size_t socket_count;
    rmg_line *lines; /* what was traced; nothing is said of what was not */
    size_t line_count;
    rmg_placement placement; /* which chip holds which bit of which word */
    rmg_report_row *reports; /* [report_count]; the first is "healthy" */
    size_t report_count;
    rmg_symptom *symptoms; /* [symptom_count] */
    size_t symptom_count;
    rmg_board_rom rom; /* how a test ROM is made for it */
    void *store;       /* memory of the lists above */
} rmg_board;

/* Reads and checks a board file. RMG_OK and a board in *board, to be freed with rmg_board_free; or
 * RMG_ERR_FILE, RMG_ERR_CONTENT with every error found in *errors and *board NULL. */
rmg_status rmg_board_load(const char *file, rmg_board **board, rmg_errors *errors);
/* The same from a text; `name` stands in messages and in the board. */
rmg_status rmg_board_load_text(const char *name, const char *text, rmg_board **board,
                               rmg_errors *errors);
void rmg_board_free(rmg_board *board);

/* The whole board as the text of one board file, without remarks. Loaded under the same name it
 * gives the same board. To be freed with rmg_text_free. */
char *rmg_board_text(const rmg_board *board);

/* Whether all is as it looks: what is allowed in a board file, but more often than not a mistake in
 * it. One sentence each, with file and line where that helps; NULL at the end. To be freed with
 * rmg_texts_free. */
char **rmg_board_hints(const rmg_board *board);

/* Banks of RAM, kept memory included: bank b is bit b. */
uint64_t rmg_board_ram_banks(const rmg_board *board);

/* What differs between two boards. */
typedef enum rmg_board_difference_kind {
    RMG_DIFFERS_HEAD,   /* width, levels, times ... */
    RMG_DIFFERS_NUMBER, /* designators of sockets that hold the same: all else is stated by those of
                         * the first board */
    RMG_DIFFERS_REGION, /* by name */
    RMG_DIFFERS_BANK,   /* by name: range, part, what feeds its chips */
    RMG_DIFFERS_PLACE,  /* which socket holds a data bit of a bank that both have */
    RMG_DIFFERS_SOCKET, /* part and mount, by designator */
    RMG_DIFFERS_LINE    /* its path, by name */
} rmg_board_difference_kind;

/* One thing that differs. */
typedef struct rmg_board_difference {
    rmg_board_difference_kind kind; /* what it is about */
    char *name;                     /* "word", "low RAM", "D3 of lower", "U18" ... */
    char *here;  /* in the first board, as a board file says it; NULL: not there */
    char *there; /* in the second; NULL: not there */
} rmg_board_difference;

/* All that differ. */
typedef struct rmg_board_differences {
    rmg_board_difference *list; /* by kind */
    size_t count;
} rmg_board_differences;

/* Free with rmg_board_differences_free. */
void rmg_boards_compare(const rmg_board *here, const rmg_board *there,
                        rmg_board_differences *found);
void rmg_board_differences_free(rmg_board_differences *found);
const char *rmg_board_difference_word(rmg_board_difference_kind kind); /* "region" */

/* The first line of that name, capitals or not, or NULL. */
const rmg_line *rmg_board_line(const rmg_board *board, const char *name);

/* The region at an address, or NULL. */
const rmg_region *rmg_board_region_at(const rmg_board *board, rmg_addr address);

/* Number of the socket or bank of that name, capitals or not; RMG_NO_SOCKET or RMG_NO_BANK. */
uint16_t rmg_board_socket(const rmg_board *board, const char *name);
uint8_t rmg_board_bank(const rmg_board *board, const char *name);

/* Bits of the bus that a bank's chips hold: of one socket, or with RMG_NO_SOCKET of all. */
rmg_word rmg_board_bits(const rmg_board *board, uint8_t bank, uint16_t socket);

/* What a mistyped name could have been: "; did you mean U19?", by the board's sockets, banks,
 * regions and lines (the bits of `of`), or "" where none is near. To be freed with rmg_text_free.
 */
enum { RMG_NAMES_SOCKETS = 1, RMG_NAMES_BANKS = 2, RMG_NAMES_REGIONS = 4, RMG_NAMES_LINES = 8 };
char *rmg_board_name_hint(const rmg_board *board, const char *name, unsigned of);

/* An address as it is written on that board, and back. A byte address in the middle of a
 * word gives the word's. */
uint64_t rmg_board_shown(const rmg_board *board, rmg_addr address);
rmg_addr rmg_board_word(const rmg_board *board, uint64_t shown);

/* The place of one bit of memory given by the byte it is in: bit 0..7 of byte `byte` of all the
 * board's memory, whatever its words are. false: the board file places nothing there. */
bool rmg_board_place_byte(const rmg_board *board, uint64_t byte, uint8_t bit, rmg_place *place);

/* Writes an address, or a range as shown addresses of its first and last byte or word, into
 * text[0..room-1]. Returns text. 40 bytes suffice. */
char *rmg_board_address_text(const rmg_board *board, rmg_addr address, char *text, size_t room);
char *rmg_board_range_text(const rmg_board *board, const rmg_range *range, char *text, size_t room);

/* Writes the name of bus address line `bit` (of the word address): "A9". */
char *rmg_board_line_text(const rmg_board *board, uint8_t bit, char *text, size_t room);

/* Reads "0x8000-0xBFFF", "0x8000..0xBFFF" or a single address, in the board's way of writing,
 * into *range. false: not such a text, or its end lies below its start. */
bool rmg_board_range_parse(const rmg_board *board, const char *text, rmg_range *range);

#ifdef __cplusplus
}
#endif
#endif
