/* What is read when a chip or a region is dumped or verified: its words in order, and for each data
 * bit and address line of them the line of the board and the pin it comes by. */
#ifndef RIMEGLASS_ROM_H
#define RIMEGLASS_ROM_H

#include "board.h"
#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A chip as its board shows it, or a region. Word i of it, its address i, is what is compared and
 * written: of a chip its data lines from D0 up; of a region all bits of the bus that some chip
 * holds. The board must outlive it. */
typedef struct rmg_rom {
    const rmg_board *board;
    const rmg_region *region; /* NULL: a chip */
    uint16_t socket;          /* of a chip; else RMG_NO_SOCKET */
    uint8_t bits;             /* of a word: 1..64 */
    uint8_t bytes;            /* of a word, as an image holds it: 1, 2, 4 or 8 */
    uint8_t lines;            /* address lines told apart: bit k of i is line k */
    uint64_t words;
    rmg_addr base;        /* bus address of word 0 */
    rmg_addr fixed;       /* of a chip: its address bits that the board ties high */
    uint8_t bus_bit[64];  /* [bits]: bus data bit */
    uint8_t bus_line[64]; /* [lines]: bus address bit */
    uint8_t cell_bit[64]; /* [lines], of a chip: its own address line */
    bool bare;            /* the board is an adapter with one chip in it */
} rmg_rom;

/* Finds socket or region `name`, capitals or not. RMG_ERR_ARGUMENT: there is none, the processor
 * cannot see it, or no chip answers in the region; *message, to be freed with rmg_text_free, says
 * what and which names there are. */
rmg_status rmg_rom_find(const rmg_board *board, const char *name, rmg_rom *rom, char **message);

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

/* How many bytes an image of it has: words times bytes. */
uint64_t rmg_rom_bytes(const rmg_rom *rom);

/* Writes a name into text[0..room-1] and returns it. Of a data bit: "D3 (U5 pin 15)"; of an
 * address line: "A13 (U5 pin 26)"; of word i the address its image has it at: "0x1F40". */
char *rmg_rom_bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room);
char *rmg_rom_line_text(const rmg_rom *rom, uint8_t line, char *text, size_t room);
char *rmg_rom_address_text(const rmg_rom *rom, uint64_t i, char *text, size_t room);

/* The socket and pin that carry a data bit; RMG_NO_SOCKET, pin 0 where not known. And of an address
 * line; of a region the socket is RMG_NO_SOCKET where several chips share the line. */
void rmg_rom_bit_pin(const rmg_rom *rom, uint8_t bit, uint16_t *socket, uint8_t *pin);
void rmg_rom_line_pin(const rmg_rom *rom, uint8_t line, uint16_t *socket, uint8_t *pin);

/* "U5 (27128)", or "region program ROM (U2, U3)". */
char *rmg_rom_name(const rmg_rom *rom, char *text, size_t room);

/* An image file as the bytes it should read as: *bytes, to be freed with rmg_text_free,
 * rmg_rom_bytes long. A whole chip's image gives the part of it that the board shows; a shorter
 * image stands at its start, repeated where its size divides the chip's; *remark, to be freed
 * likewise, says so, else it is NULL. Addresses of hex files count from the chip's or region's
 * start. RMG_ERR_FILE, RMG_ERR_CONTENT: *message, to be freed likewise, says what is wrong: an
 * image larger than the chip, above all. */
rmg_status rmg_rom_image(const rmg_rom *rom, const char *file, char **bytes, char **remark,
                         char **message);

/* Puts what a socket's chip holds (the whole chip's bytes) into an image of a region, bits[...] of
 * each word that it carries. Returns how many bits were put. */
uint64_t rmg_rom_place_image(const rmg_rom *rom, uint16_t socket, const void *chip, void *bytes);

/* What a chip of this part holds by an image file: *bytes, to be freed with rmg_text_free, *size
 * long, gaps and what is missing at the end 0xFF. Errors as above. */
rmg_status rmg_part_image(const rmg_part *part, const char *file, char **bytes, size_t *size,
                          char **message);

#ifdef __cplusplus
}
#endif
#endif
