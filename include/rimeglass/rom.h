/* What is read when a chip or a region is dumped or verified: its words in order, and for each data
 * bit and address line of them the line of the board and the pin it comes by. */
#ifndef RIMEGLASS_ROM_H
#define RIMEGLASS_ROM_H

#include "board.h"
#include "bus.h"
#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A chip as its board shows it, or a region. Word i of it, its address i, is what is compared and
 * written: of a chip its data lines from D0 up; of a region all bits of the bus that some chip
 * holds. The board must outlive it. */
typedef struct rmg_rom {
    const rmg_board *board;   /* that shows it; NULL: there is none */
    const rmg_region *region; /* NULL: a chip */
    uint16_t socket;          /* of a chip; else RMG_NO_SOCKET */
    uint8_t bits;             /* of a word: 1..64 */
    uint8_t bytes;            /* of a word, as an image holds it: 1, 2, 4 or 8 */
    uint8_t lines;            /* address lines distinguished: bit k of i is line k */
    uint64_t words;           /* how many it has */
    rmg_addr base;            /* bus address of word 0 */
    rmg_addr fixed;           /* of a chip: its address bits that the board ties high */
    uint8_t bus_bit[64];      /* [bits]: bus data bit */
    uint8_t bus_line[64];     /* [lines]: bus address bit */
    uint8_t cell_bit[64];     /* [lines], of a chip: its own address line */
    bool bare;                /* the board is an adapter with one chip in it */
    const void *known; /* [rmg_rom_bytes], the caller's: ones at what is compared; NULL: all */
} rmg_rom;

/* Finds socket or region `name`, capitals or not. RMG_ERR_ARGUMENT: there is none, the processor
 * cannot see it, or no chip answers in the region; *error, to be freed with rmg_error_free, says
 * what and which names there are. */
rmg_status rmg_rom_find(const rmg_board *board, const char *name, rmg_rom *rom, rmg_error *error);

/* The chip in an adapter that rmg_sim_bare_begin made. */
void rmg_rom_of_adapter(const rmg_board *adapter, rmg_rom *rom);

/* Bytes with no board around them, for comparing: lines D0-D7, A0 and up. `board` is NULL then. */
void rmg_rom_plain(rmg_rom *rom, uint64_t bytes);

/* Bus address of word i. */
rmg_addr rmg_rom_address(const rmg_rom *rom, uint64_t i);

/* Word i out of a word of the bus. */
rmg_word rmg_rom_word(const rmg_rom *rom, rmg_word bus);

/* Word i of an image of it, and putting it there. A region's bytes stand in the board's order, a
 * chip's lowest first. */
rmg_word rmg_rom_get(const rmg_rom *rom, const void *bytes, uint64_t i);
void rmg_rom_put(const rmg_rom *rom, void *bytes, uint64_t i, rmg_word word);

/* Words out of image bytes of it, to be looked at: a region by its addresses on the board's bus, a
 * chip by its own. names[64] becomes the view's. The caller adds what else the view shows. */
void rmg_rom_view_of(const rmg_rom *rom, const uint8_t *bytes, uint8_t *names, rmg_rom_view *view);

/* Ones at the bits of word i that are compared. */
rmg_word rmg_rom_known(const rmg_rom *rom, uint64_t i);

/* How many bytes an image of it has: words times bytes. */
uint64_t rmg_rom_bytes(const rmg_rom *rom);

/* Writes a name into text[0..room-1] and returns it. Of a data bit: "D3 (U5 pin 15)"; of an
 * address line: "A13 (U5 pin 26)"; of word i the address its image has it at: "0x1F40". */
char *rmg_rom_bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room);
char *rmg_rom_line_text(const rmg_rom *rom, uint8_t line, char *text, size_t room);
char *rmg_rom_address_text(const rmg_rom *rom, uint64_t i, char *text, size_t room);

/* An address line of a region as the chip in this socket has it: "A13 (U5 pin 26)". */
char *rmg_rom_line_text_at(const rmg_rom *rom, uint16_t socket, uint8_t line, char *text,
                           size_t room);

/* The socket and pin that carry a data bit; RMG_NO_SOCKET, pin 0 where not known. And of an address
 * line; of a region the socket is RMG_NO_SOCKET where several chips share the line. */
void rmg_rom_bit_pin(const rmg_rom *rom, uint8_t bit, uint16_t *socket, uint8_t *pin);
void rmg_rom_line_pin(const rmg_rom *rom, uint8_t line, uint16_t *socket, uint8_t *pin);

/* "U5 (27128)", or "region program ROM (U2, U3)". */
char *rmg_rom_name(const rmg_rom *rom, char *text, size_t room);

/* The chips that a region has: how many, and of chip `part` (1 and up) the bits and words that are
 * its own, and its socket. A chip, and a region of one, has none. */
size_t rmg_rom_parts(const rmg_rom *rom);
bool rmg_rom_part(const rmg_rom *rom, size_t part, rmg_word *bits, uint64_t *first,
                  uint64_t *count);
uint16_t rmg_rom_part_socket(const rmg_rom *rom, size_t part);

/* What a ROM should read as, out of an image file. */
typedef struct rmg_rom_good {
    char *bytes;  /* [rmg_rom_bytes] */
    char *known;  /* [rmg_rom_bytes]: ones where the image says something; NULL: everywhere */
    char *remark; /* what the one who looks at a result should know of it; NULL: nothing */
} rmg_rom_good;

/* Reads an image file for it. A whole chip's image gives the part of it that the board shows. An
 * image whose one piece begins at 0 and is shorter than the chip, and whose size divides the
 * chip's, is expected repeated. Otherwise what the file leaves out is not known. Addresses count
 * from `base`; NULL: from the chip's or region's start, or, where they lie there, from its address
 * on the board's bus. Free with rmg_rom_good_free, in any case. RMG_ERR_FILE, RMG_ERR_CONTENT:
 * *error, to be freed with rmg_error_free, says what is wrong: an image larger than the chip, or
 * one that could lie at either place, above all. */
rmg_status rmg_rom_good_load(const rmg_rom *rom, const char *file, const uint64_t *base,
                             rmg_rom_good *good, rmg_error *error);
void rmg_rom_good_free(rmg_rom_good *good);

/* Puts what a socket's chip holds (the whole chip's bytes) into an image of a region, bits[...] of
 * each word that it carries. Returns how many bits were put. */
uint64_t rmg_rom_place_image(const rmg_rom *rom, uint16_t socket, const void *chip, void *bytes);

/* Reading a chip several times over, and whether the readings can be trusted. Three alike readings
 * of an undriven line prove nothing, so each reading goes through the addresses in another
 * order, and another value is put on the data lines before each word. */

#define RMG_READINGS_MOST 1000u               /* readings of a chip */
#define RMG_READING_WORDS ((uint64_t)1 << 26) /* most words of a reading */

/* How a value is put on the data lines before a word is read. */
typedef enum rmg_drive {
    RMG_DRIVE_WRITE, /* written to an address of a region of kind empty, where it does nothing */
    RMG_DRIVE_READ, /* read from elsewhere on the bus: what was found there with most zeros, ones */
    RMG_DRIVE_NONE  /* in no way: the board file names neither */
} rmg_drive;

/* Readings so far. Begin with rmg_reading_begin, or rmg_reading_load to go on with one. */
typedef struct rmg_reading {
    rmg_rom rom;        /* what is read */
    uint32_t wanted;    /* readings, 1..RMG_READINGS_MOST */
    uint32_t done;      /* whole ones */
    uint64_t position;  /* words of the reading at work */
    uint16_t *ones;     /* [words * bits]: how often the bit read 1 */
    uint16_t *same;     /* [words * bits]: how often it read what was on the line before */
    rmg_word low, high; /* bits that were driven low, and high, before each word of some reading */
    uint8_t *latest;    /* [rmg_rom_bytes]: what the reading at work, or the last one, gave */
    const void *expected;      /* the caller's, as an image; or NULL. Where it is given: */
    uint32_t first_wrong;      /* the first reading, from 1, that differed from it; 0: none */
    uint64_t first_wrong_word; /* the first such word of it */
    rmg_drive drive;           /* how values are put on the lines */
    bool by_blocks; /* a bare chip behind a port that gives blocks, with nothing to drive from: its
                     * words are read 64 at once, the blocks in the order of the reading */
    bool given;     /* it was made by another instrument */
    rmg_addr drive_at[4]; /* where from: for zeros, ones, and two alternating patterns */
} rmg_reading;

/* RMG_ERR_ROOM: more than RMG_READING_WORDS words; RMG_ERR_MEMORY. End in any case. `target` finds
 * where values can be driven from; nothing is written to it. */
rmg_status rmg_reading_begin(rmg_reading *reading, const rmg_rom *rom, uint32_t readings,
                             const rmg_target *target);
void rmg_reading_end(rmg_reading *reading);

/* Reads on until all readings are done. `go_on` (NULL: always) is asked now and then with the share
 * done, 0..1; false: RMG_ERR_CANCELLED. The port's errors otherwise. What was read stays, and the
 * call can be made again. */
rmg_status rmg_reading_run(rmg_reading *reading, const rmg_target *target,
                           bool (*go_on)(void *context, double share), void *context);

/* Readings that are there already, as images of the ROM: images[count], in the order in which they
 * were made; count 1..RMG_READINGS_MOST. Errors as of rmg_reading_begin. End in any case. */
rmg_status rmg_reading_of_images(rmg_reading *reading, const rmg_rom *rom,
                                 const void *const *images, uint32_t count);

/* What reading r puts on the data lines before each word, where it can choose. */
rmg_word rmg_reading_pattern(uint32_t r);

/* One more reading than were wanted; the results then take it in. */
void rmg_reading_more(rmg_reading *reading);

/* A bit that was not the same in all readings. */
typedef struct rmg_unsteady {
    uint64_t word; /* its number */
    uint8_t bit;   /* data bit of the ROM */
    double share;  /* of ones */
} rmg_unsteady;

/* What readings are like, taken together. */
typedef enum rmg_reading_state {
    RMG_READ_STEADY,   /* all readings alike */
    RMG_READ_UNSTEADY, /* some bits differ */
    RMG_READ_NOTHING,  /* every bit follows what was on the line before: nothing drives it */
    RMG_READ_ONES,     /* nothing but ones */
    RMG_READ_ZEROS,    /* nothing but zeros */
    RMG_READ_NONE      /* not one whole reading, or one is still at work */
} rmg_reading_state;

#define RMG_UNSTEADY_FIRST 16u /* unsteady bits that are reported one by one */
#define RMG_ROW_WORDS      16u /* words in a row of a listing */

/* How far readings can be trusted. */
typedef struct rmg_quality {
    rmg_reading_state state; /* in a word */
    uint32_t readings;       /* whole ones */
    bool driven;       /* each bit was driven both low and high: a floating line would have shown */
    rmg_word follows;  /* bits that follow the line at every word, where `driven` */
    rmg_word constant; /* bits that never change, over all words and readings */
    rmg_word constant_level; /* what they read */
    rmg_word silent;    /* of a region: bits of chips that do not answer; their bits all float, or
                           all never change and are alike, while other chips' do */
    rmg_word equal[64]; /* [bit]: higher bits that are the same at every word, where both vary */
    uint64_t unsteady_bits, unsteady_words; /* bits that follow are left out */
    uint64_t by_bit[64];                    /* unsteady, by data bit */
    uint64_t by_line[64][2];                /* unsteady words where the line is 0, and 1 */
    uint64_t rows, worst_row, worst_count;  /* rows that have some, and the row with most */
    uint64_t ties;                          /* bits read 1 as often as 0 */
    uint64_t same_lines; /* address lines of the ROM that make no difference anywhere */
    rmg_unsteady first[RMG_UNSTEADY_FIRST]; /* the first unsteady bits */
    size_t first_count;
} rmg_quality;

/* Judges the whole readings. */
void rmg_reading_judge(const rmg_reading *reading, rmg_quality *quality);

/* The image: each bit by the majority of the readings (1 where there are as many).
 * bytes[rmg_rom_bytes]. And a mask of the bits that were not steady, in the same form. */
void rmg_reading_image(const rmg_reading *reading, void *bytes);
void rmg_reading_unsteady(const rmg_reading *reading, void *bytes);

/* An unfinished reading kept in a file, and read again for the same ROM. RMG_ERR_FILE,
 * RMG_ERR_CONTENT: *error, to be freed with rmg_error_free, says what is wrong. */
rmg_status rmg_reading_save(const rmg_reading *reading, const char *file, rmg_error *error);
rmg_status rmg_reading_load(const char *file, const rmg_rom *rom, const rmg_target *target,
                            rmg_reading *reading, rmg_error *error);

#ifdef __cplusplus
}
#endif
#endif
