/* ROMs on boards of other kinds: behind jumpers, in pages, wide, with nothing to drive the bus
 * from; and the faults that happen to ROMs, as the simulation has them. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/verify.h"
#include "suites.h"
#include "temporary.h"
#include "rimeglass/report.h"

/* Bytes that do not repeat, as a file; `first` is where in them it begins. */
static const char *image_file(const char *name, size_t first, size_t size, size_t step)
{
    gchar *bytes = g_malloc(size);
    const char *path = temporary_path(name);

    for (size_t i = 0; i < size; i++) {
        uint32_t x = (uint32_t)(first + i * step) * 2654435761u;

        bytes[i] = (char)(x >> 24 ^ x >> 11);
    }
    CHECK(g_file_set_contents(path, bytes, (gssize)size, NULL), "%s", path);
    g_free(bytes);
    return path;
}

static uint8_t wanted(size_t at)
{
    const uint32_t x = (uint32_t)at * 2654435761u;

    return (uint8_t)(x >> 24 ^ x >> 11);
}

static rmg_board *board_of(const char *text)
{
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load_text(temporary_path("board.yaml"), text, &board, &found) == RMG_OK, "%s",
          found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    return board;
}

typedef struct reading_case {
    rmg_sim_board_run bench;
    rmg_rom rom;
    rmg_verify v;
    rmg_rom_good good;
} reading_case;

/* Reads `what`, and compares it with `image` if that is a file. */
static void read_case(reading_case *c, const rmg_board *board, const char *what, bool bare,
                      const char *faults, const char *image)
{
    gchar *text = g_strdup_printf("faults: [%s]\n", faults);
    const char *file = temporary_file("faults.yaml", text);
    rmg_errors found = {0};
    rmg_error error = {0};

    memset(c, 0, sizeof *c);
    CHECK((bare ? rmg_sim_bare_begin(&c->bench, board, rmg_board_socket(board, what), file, &found)
                : rmg_sim_board_begin(&c->bench, board, file, &found)) == RMG_OK,
          "%s: %s", faults, found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    if (bare)
        rmg_rom_of_adapter(c->bench.adapter, &c->rom);
    else
        CHECK(rmg_rom_find(board, what, &c->rom, &error) == RMG_OK, "%s",
              error.what ? error.what : "");
    if (image)
        CHECK(rmg_rom_good_load(&c->rom, image, NULL, &c->good, &error) == RMG_OK, "%s",
              error.what ? error.what : "");
    CHECK(rmg_verify_run(&c->v, &c->rom, &c->bench.target, 3, c->good.bytes, NULL, 0, NULL, NULL) ==
              RMG_OK,
          "read");
    g_free(text);
}

static void end_case(reading_case *c)
{
    rmg_verify_end(&c->v);
    rmg_rom_good_free(&c->good);
    rmg_sim_board_end(&c->bench);
}

/* 16 KiB of a 32 KiB EPROM: its A14 is tied by a jumper. */
static void behind_jumpers(void)
{
    static const char *const form =
        "board: jumper\nword: 8\naddress-lines: 16\nundriven: holds\nregions:\n"
        "  - {name: program, range: 0xC000-0xFFFF, kind: rom}\n"
        "  - {name: free, range: 0x8000-0x8FFF, kind: empty}\n"
        "banks: [{name: program, range: 0xC000-0xFFFF, part: 27256, lines: [A0-A13, %s], "
        "data: {U1: D0-D7}}]\n"
        "sockets: [{names: U1, mount: soldered, image: whole.bin}]\n";
    const char *whole = image_file("whole.bin", 0, 32768, 1);

    for (int high = 0; high < 2; high++) {
        gchar *text = g_strdup_printf(form, high ? "high" : "low");
        rmg_board *board = board_of(text);
        reading_case c;
        rmg_rom_case rc;
        rmg_suspects s;

        read_case(&c, board, "U1", false, "", whole);
        CHECK(c.rom.words == 16384 && c.rom.lines == 14 && rmg_verify_good(&c.v) && c.good.remark &&
                  strstr(c.good.remark, "only a part") &&
                  c.v.image[5] == wanted(16384u * (unsigned)high + 5),
              "the half that the jumper chooses: %s", c.good.remark ? c.good.remark : "");
        end_case(&c);
        read_case(&c, board, "U1", true, "", whole);
        CHECK(c.rom.words == 32768 && rmg_verify_good(&c.v), "bare, all of it");
        end_case(&c);
        read_case(&c, board, "U1", false,
                  high ? "{kind: wrong half, socket: U1, pin: A14, level: 0}"
                       : "{kind: wrong half, socket: U1, pin: 27, level: 1}",
                  whole);
        CHECK(!rmg_verify_good(&c.v) && c.v.comparison.wrong_bits > 30000 &&
                  c.v.image[5] == wanted(16384u * (unsigned)!high + 5),
              "the wrong half");
        rc = (rmg_rom_case){
            .rom = &c.rom, .board = board, .quality = &c.v.quality, .comparison = &c.v.comparison};
        rmg_rom_suspects(&rc, &s);
        rmg_rom_suspects_word(&rc, &s);
        CHECK(s.count && s.list[0].confidence < 0.5,
              "with nothing to compare the other half with, no chip is named with confidence: "
              "%.2f, %s",
              s.count ? s.list[0].confidence : 0, s.count ? s.list[0].headline : "");
        for (size_t i = 0; s.count && s.list[0].next[i]; i++)
            CHECK(!strstr(s.list[0].next[i], "Pull") && !strstr(s.list[0].next[i], "Reseat"),
                  "a soldered chip is not pulled: %s", s.list[0].next[i]);
        rmg_suspects_free(&s);
        end_case(&c);
        rmg_board_free(board);
        g_free(text);
    }
}

/* Four pages of 4 KiB in one window. */
static void in_pages(void)
{
    rmg_board *board = board_of(
        "board: pages\nword: 8\naddress-lines: 14\nundriven: high\n"
        "pages: {window: 0x1000-0x1FFF, select: 0x3000, count: 4}\nregions:\n"
        "  - {name: page 2, range: 0x9000-0x9FFF, kind: rom}\n"
        "  - {name: page 3, range: 0xD000-0xDFFF, kind: rom}\n"
        "  - {name: free, range: 0x2000-0x2FFF, kind: empty}\n"
        "banks:\n"
        "  - {name: two, range: 0x9000-0x9FFF, part: 2732, lines: A0-A11, data: {U2: D0-D7}}\n"
        "  - {name: three, range: 0xD000-0xDFFF, part: 2732, lines: A0-A11, data: {U3: D0-D7}}\n"
        "sockets: [{names: U2, mount: socket, image: two.bin}, {names: U3, mount: socket, image: "
        "three.bin}]\n");
    const char *two = image_file("two.bin", 100, 4096, 1),
               *three = image_file("three.bin", 9000, 4096, 1);
    reading_case c;

    read_case(&c, board, "U2", false, "", two);
    CHECK(rmg_verify_good(&c.v) && c.v.image[0] == wanted(100), "the page is chosen");
    end_case(&c);
    read_case(&c, board, "page 3", false, "", three);
    CHECK(rmg_verify_good(&c.v), "also by its region");
    end_case(&c);
    rmg_board_free(board);
}

/* Wide ones, and the order of their bytes. */
static void wide(void)
{
    static const char *const form =
        "board: wide\nword: %d\naddress-lines: 15\nbyte-order: %s first\nundriven: low\n"
        "parts: [{number: R16, kind: rom, width: 16, address-lines: 10, pins: \"%s\"}]\n"
        "regions: [{name: code, range: 0x0000-0x%X, kind: rom}, {name: free, range: 0x4000-0x4FFF, "
        "kind: empty}]\n"
        "banks: [{name: code, range: 0x0000-0x%X, part: %s, lines: A%d-A%d, data: {%s}}]\n"
        "sockets: [{names: U1-U8, mount: socket}]\n";
    static const char *const pins16 =
        "D0 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 D14 D15 A0 A1 A2 "
        "A3 A4 A5 A6 A7 A8 A9 CE OE VCC VSS";
    static const struct {
        int word, bytes;
        const char *order, *part;
        int low, high;
        const char *data;
    } rows[] = {
        {16, 2048, "low", "R16", 1, 10, "U1: D0-D15"},
        {16, 4096, "high", "2716", 1, 11, "U1: D8-D15, U2: D0-D7"},
        {32, 8192, "low", "2716", 2, 12, "U1: D0-D7, U2: D8-D15, U3: D16-D23, U4: D24-D31"},
        {64, 16384, "low", "2716", 3, 13,
         "U1: D0-D7, U2: D8-D15, U3: D16-D23, U4: D24-D31, U5: D32-D39, U6: D40-D47, U7: D48-D55, "
         "U8: D56-D63"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf(form, rows[i].word, rows[i].order, pins16, rows[i].bytes - 1,
                                      rows[i].bytes - 1, rows[i].part, rows[i].low, rows[i].high,
                                      rows[i].data);
        rmg_board *board = board_of(text);
        reading_case c;

        read_case(&c, board, "code", false, "", NULL);
        CHECK(c.rom.bits == rows[i].word && rmg_rom_bytes(&c.rom) == (uint64_t)rows[i].bytes &&
                  c.v.quality.state == RMG_READ_STEADY && c.v.quality.driven,
              "%d bits: read", rows[i].word);
        for (uint8_t s = 0; s < 2 && strcmp(rows[i].part, "2716") == 0; s++) {
            const uint64_t cell = 77;
            const uint8_t byte = (uint8_t)rmg_sim_word(&c.bench.sim, s, cell);
            /* in both orders U1 holds the first byte */
            CHECK(c.v.image[cell * (unsigned)rows[i].word / 8 + s] == byte,
                  "%d bits, %s first: chip %u's byte", rows[i].word, rows[i].order, s + 1u);
        }
        end_case(&c);
        rmg_board_free(board);
        g_free(text);
    }
}

/* Where the board names no empty region: other memory is read to put values on the lines; where
 * there is none, it is said that floating is not known. */
static void what_drives(void)
{
    static const char *const form =
        "board: drive\nword: 8\naddress-lines: 14\nundriven: holds\nregions:\n"
        "  - {name: code, range: 0x0000-0x07FF, kind: rom}\n%s"
        "banks:\n  - {name: code, range: 0x0000-0x07FF, part: 2716, lines: A0-A10, data: {U1: "
        "D0-D7}}\n%s"
        "sockets: [{names: U1-U2, mount: socket}]\n";
    static const struct {
        const char *region, *bank;
        rmg_drive drive;
    } rows[] = {
        {"  - {name: free, range: 0x1000-0x1FFF, kind: empty}\n", "", RMG_DRIVE_WRITE},
        {"  - {name: work, range: 0x1000-0x17FF, kind: ram}\n",
         "  - {name: work, range: 0x1000-0x17FF, part: 6116, lines: A0-A10, data: {U2: D0-D7}}\n",
         RMG_DRIVE_READ},
        {"  - {name: more, range: 0x1000-0x17FF, kind: rom}\n",
         "  - {name: more, range: 0x1000-0x17FF, part: 2716, lines: A0-A10, data: {U2: D0-D7}}\n",
         RMG_DRIVE_READ},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf(form, rows[i].region, rows[i].bank);
        rmg_board *board = board_of(text);
        uint64_t writes;
        reading_case c;

        read_case(&c, board, "code", false, "{kind: chip missing, socket: U1}", NULL);
        writes = c.bench.sim.writes;
        CHECK(c.v.reading.drive == rows[i].drive && c.v.quality.state == RMG_READ_NOTHING,
              "row %zu: driven in way %d, state %d", i, c.v.reading.drive, c.v.quality.state);
        CHECK((writes != 0) == (rows[i].drive == RMG_DRIVE_WRITE), "row %zu: %u writes", i,
              (unsigned)writes);
        end_case(&c);
        read_case(&c, board, "code", false, "{kind: data pin open, socket: U1, bit: D6}", NULL);
        CHECK(c.v.quality.follows == 0x40, "row %zu: one line floats: %x", i,
              (unsigned)c.v.quality.follows);
        end_case(&c);
        rmg_board_free(board);
        g_free(text);
    }
}

/* The faults that ROMs have, cell by cell, against what they were made of. */
static void faults_of_roms(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const char *image = board->sockets[rmg_board_socket(board, "U5")].image;
    reading_case c;
    uint64_t faded = 0;

    read_case(&c, board, "U5", false, "{kind: fading bits, socket: U5, one-cell-in: 100}", image);
    for (size_t i = 0; i < 16384; i++) {
        CHECK(!(~c.v.image[i] & (uint8_t)c.good.bytes[i]), "a one never fades");
        faded += (uint64_t)__builtin_popcount((uint8_t)(c.v.image[i] & ~(uint8_t)c.good.bytes[i]));
    }
    CHECK(faded > 400 && faded < 800, "one cell in 100 of those that hold 0: %u", (unsigned)faded);
    CHECK(c.v.comparison.left == faded && c.v.comparison.left_to_one == faded, "all reported");
    end_case(&c);
    read_case(&c, board, "U5", false, "{kind: fading bits, socket: U5, bit: D5, one-cell-in: 50}",
              image);
    CHECK(c.v.comparison.by_bit[5][1] == c.v.comparison.wrong_bits &&
              c.v.comparison.wrong_bits > 60,
          "in one data bit only");
    end_case(&c);
    read_case(&c, board, "U5", false,
              "{kind: fading bits, socket: U5, bit: D5, one-cell-in: 1, from-mv: 5001}", image);
    CHECK(rmg_verify_good(&c.v), "not at 5000 mV");
    rmg_sim_set(&c.bench.sim, RMG_CONDITION_SUPPLY_MV, 5001);
    rmg_verify_end(&c.v);
    CHECK(rmg_verify_run(&c.v, &c.rom, &c.bench.target, 2, c.good.bytes, NULL, 0, NULL, NULL) ==
                  RMG_OK &&
              c.v.comparison.steps[0].is.kind == RMG_DIFF_DATA_STUCK,
          "at 5001 mV");
    end_case(&c);
    read_case(&c, board, "U5", false, "{kind: lines swapped, line: D0, with: D7}", image);
    for (size_t i = 0; i < 16384; i += 91)
        CHECK((c.v.image[i] & 0x7E) == (c.good.bytes[i] & 0x7E) &&
                  (c.v.image[i] & 1) == ((uint8_t)c.good.bytes[i] >> 7) &&
                  c.v.image[i] >> 7 == (c.good.bytes[i] & 1),
              "D0 and D7 exchanged at %zu", i);
    end_case(&c);
    read_case(&c, board, "U5", false, "{kind: lines swapped, line: A0, with: A13, bank: ROM}",
              image);
    CHECK(c.v.image[1] == (uint8_t)c.good.bytes[0x2000] &&
              c.v.image[0x2001] == (uint8_t)c.good.bytes[0x2001],
          "A0 and A13 exchanged");
    end_case(&c);
    rmg_board_free(board);
}

/* RAM on exchanged data lines works: what is written comes back. */
static void exchanged_lines_of_ram(void)
{
    static rmg_sim_fault fault = {.kind = RMG_FAULT_DATA_SWAP, .line = 2, .line2 = 5};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_sim_board_run bench;

    for (uint16_t s = 0; s < 16; s++)
        rmg_fault_include(&fault, s);
    bench_start(&bench, board, &fault, 1, 1);
    rmg_sim_write(&bench.sim, 0x8123, 0x04);
    rmg_sim_write(&bench.sim, 0x0000, 0x00);
    CHECK(rmg_sim_read(&bench.sim, 0x8123) == 0x04, "back as written");
    CHECK((rmg_sim_word(&bench.sim, rmg_board_socket(board, "U21"), 0x0123) & 1) == 1 &&
              (rmg_sim_word(&bench.sim, rmg_board_socket(board, "U24"), 0x0123) & 1) == 0,
          "though it stands in D5's chip");
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

CU_TestInfo rom_board_tests[] = {
    {"behind jumpers", behind_jumpers},
    {"in pages", in_pages},
    {"wide", wide},
    {"what drives", what_drives},
    {"faults of ROMs", faults_of_roms},
    {"exchanged lines of RAM", exchanged_lines_of_ram},
    CU_TEST_INFO_NULL,
};
