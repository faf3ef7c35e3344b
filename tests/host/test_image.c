/* Images: pieces, forms read and written, every error with its line, binutils' objcopy as judge.
 */
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/file.h"
#include "rimeglass/image.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

static void pieces_join(void)
{
    uint8_t bytes[64], byte;
    rmg_image image = {0};

    for (unsigned i = 0; i < 64; i++)
        bytes[i] = (uint8_t)(i * 7);
    CHECK(rmg_image_add(&image, 0x100, bytes, 16) && rmg_image_add(&image, 0x120, bytes + 32, 16) &&
              image.count == 2,
          "two apart");
    CHECK(!rmg_image_add(&image, 0x10F, bytes, 2) && !rmg_image_add(&image, 0xFF, bytes, 2),
          "overlaps are refused");
    CHECK(rmg_image_add(&image, 0x0, bytes, 64), "before the others");
    CHECK(rmg_image_add(&image, 0x110, bytes + 16, 16), "the gap between");
    CHECK(image.count == 2 && image.pieces[1].address == 0x100 && image.pieces[1].size == 48,
          "joined: %zu", image.count);
    for (unsigned i = 0; i < 48; i++)
        CHECK(rmg_image_at(&image, 0x100 + i, &byte) && byte == bytes[i], "byte %u", i);
    CHECK(!rmg_image_at(&image, 0x130, &byte) && !rmg_image_at(&image, 0xFF, &byte), "gaps");
    CHECK(rmg_image_bytes(&image) == 112, "112 bytes");
    rmg_image_free(&image);
}

static const struct {
    rmg_image_form form;
    const char *text, *says;
} bad[] = {
    {RMG_IMAGE_INTEL, "", "the file is empty"},
    {RMG_IMAGE_INTEL, ":00000001FF\n", "x:2: the file holds no data"},
    {RMG_IMAGE_INTEL, ":0100000041BE\n", "x:2: the file is cut off"},
    {RMG_IMAGE_INTEL, ":0100000041BF\n", "x:1: the checksum is 0xBF, expected 0xBE"},
    {RMG_IMAGE_INTEL, ":0200000041BE\n", "x:1: the record says 2 bytes of data and has 1"},
    {RMG_IMAGE_INTEL, ":01000000\n", "x:1: the record says 1 bytes"},
    {RMG_IMAGE_INTEL, ":0100000041B\n", "cut off in the middle of a byte"},
    {RMG_IMAGE_INTEL, ":0100000041B", "cut off in the middle of a byte"},
    {RMG_IMAGE_INTEL, ":01000000G1BE\n", "found \"G1\", expected two hex digits"},
    {RMG_IMAGE_INTEL, ":0100000741B7\n", "there is no record type 7"},
    {RMG_IMAGE_INTEL, ":0100000041BE\n:0100000042BD\n", "x:2: the data at 0x0 overlaps"},
    {RMG_IMAGE_INTEL, ":0100000041BE\n:00000001FF\n:0100010042BC\n", "x:3: there is more after"},
    {RMG_IMAGE_INTEL, ":02000004FFFFFC\n:02FFFF0041427D\n", "past the last address of 32 bits"},
    {RMG_IMAGE_INTEL, ":0100000041BE\n:0100000141BD\n", "x:2: the end record has data"},
    {RMG_IMAGE_INTEL, ":0100000241BC\n", "x:1: expected two bytes of segment address"},
    {RMG_IMAGE_INTEL, ":0100000441BA\n", "x:1: expected two bytes of upper address"},
    {RMG_IMAGE_INTEL, ":0100000041BE\nS9030000FC\n", "x:2: expected a record that begins with :"},
    {RMG_IMAGE_MOTOROLA, "S104000041BA\n", "x:2: the file is cut off"},
    {RMG_IMAGE_MOTOROLA, "S104000041BB\n", "x:1: the checksum is 0xBB, expected 0xBA"},
    {RMG_IMAGE_MOTOROLA, "S105000041BA\n", "x:1: the record says 5 bytes and has 4"},
    {RMG_IMAGE_MOTOROLA, "S404000041BA\n", "there is no record type S4"},
    {RMG_IMAGE_MOTOROLA, "Sx04000041BA\n", "there is no record type Sx"},
    {RMG_IMAGE_MOTOROLA, "S9030000FC\n", "holds no data"},
};

static void every_error(void)
{
    GString *long_line = g_string_new(":");
    rmg_image image;
    rmg_error error = {0};

    for (size_t i = 0; i < COUNT(bad); i++) {
        CHECK(rmg_image_read("x", bad[i].form, bad[i].text, strlen(bad[i].text), &image, &error) ==
                      RMG_ERR_CONTENT &&
                  error.what && strstr(error.what, bad[i].says) && !image.count,
              "row %zu: %s", i, error.what ? error.what : "accepted");
        rmg_error_free(&error);
    }
    for (unsigned i = 0; i < 300; i++)
        g_string_append(long_line, "00");
    CHECK(rmg_image_read("x", RMG_IMAGE_INTEL, long_line->str, long_line->len, &image, &error) ==
                  RMG_ERR_CONTENT &&
              strstr(error.what, "longer than a record"),
          "%s", error.what);
    rmg_error_free(&error);
    g_string_free(long_line, TRUE);
}

/* Texts as other people write them: line ends of three kinds, small letters, segments, spaces. */
static void forms_read(void)
{
    static const struct {
        rmg_image_form form;
        const char *text;
        uint64_t address;
        uint8_t byte;
    } rows[] = {
        {RMG_IMAGE_INTEL, "  :0100000041BE\r\n\r\n:00000001ff\r\n", 0, 0x41},
        {RMG_IMAGE_INTEL, ":020000021000EC\r:0100000041BE\r:00000001FF", 0x10000, 0x41},
        {RMG_IMAGE_INTEL, ":020000021000EC\n:02FFFF004142 7D\n:00000001FF", 0, 0},
        {RMG_IMAGE_INTEL, ":020000021000EC\n:02FFFF0041427D\n:00000001FF", 0x10000, 0x42},
        {RMG_IMAGE_INTEL, ":020000040800F2\n:0100100041AE\n:0400000508000010DF\n:00000001FF",
         0x8000010, 0x41},
        {RMG_IMAGE_MOTOROLA, "S0030000FC\nS205012345419 0\nS9030000FC", 0, 0},
        {RMG_IMAGE_MOTOROLA, "S0030000FC\nS2050123454150\nS5030001FB\nS804000000FB", 0x12345, 0x41},
        {RMG_IMAGE_MOTOROLA, "s", 0, 0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_image image;
        rmg_error error = {0};
        uint8_t byte = 0;
        const rmg_status status =
            rmg_image_read("x", rows[i].form, rows[i].text, strlen(rows[i].text), &image, &error);

        CHECK((status == RMG_OK) == (rows[i].byte != 0), "row %zu: %s", i,
              error.what ? error.what : "accepted");
        CHECK(!rows[i].byte ||
                  (rmg_image_at(&image, rows[i].address, &byte) && byte == rows[i].byte),
              "row %zu: %02x", i, byte);
        rmg_error_free(&error);
        rmg_image_free(&image);
    }
}

/* An image of pieces drawn at random below `top`. */
static void draw_image(rmg_image *image, uint64_t top, uint64_t *dice)
{
    uint8_t bytes[700];

    for (unsigned i = 0; i < 12; i++) {
        const size_t size = 1 + (size_t)bench_dice(dice, sizeof bytes);

        for (size_t n = 0; n < size; n++)
            bytes[n] = (uint8_t)bench_dice(dice, 256);
        rmg_image_add(image, bench_dice(dice, top - size + 1), bytes, size);
    }
}

static bool same(const rmg_image *a, const rmg_image *b)
{
    if (a->count != b->count)
        return false;
    for (size_t i = 0; i < a->count; i++)
        if (a->pieces[i].address != b->pieces[i].address ||
            a->pieces[i].size != b->pieces[i].size ||
            memcmp(a->pieces[i].bytes, b->pieces[i].bytes, a->pieces[i].size) != 0)
            return false;
    return true;
}

static size_t longest_line(const char *text, size_t size)
{
    size_t longest = 0, line = 0;

    for (size_t i = 0; i < size; i++) {
        line = text[i] == '\n' ? 0 : line + 1;
        longest = MAX(longest, line);
    }
    return longest;
}

/* What is written reads back the same; and what objcopy makes of it, and it of ours. */
static void round_trips(void)
{
    static const uint64_t tops[] = {0x10000, 0x100000, 0x1000000, (uint64_t)1 << 32};
    static const struct {
        rmg_image_form form;
        const char *ours, *other; /* as objcopy names it, and another form */
    } judged_forms[] = {{RMG_IMAGE_INTEL, "ihex", "srec"}, {RMG_IMAGE_MOTOROLA, "srec", "ihex"}};
    uint64_t dice = 42;
    size_t longest = 0;
    unsigned segments = 0;

    for (unsigned turn = 0; turn < 12; turn++)
        for (size_t f = 0; f < COUNT(judged_forms); f++) {
            const rmg_image_form form = judged_forms[f].form;
            rmg_image_style style = {.record = (uint8_t)(turn * 23 % 251)};
            rmg_image image = {0}, back, judged;
            char *bytes;
            rmg_error error = {0};
            size_t size;
            const char *ours, *theirs, *doubt;
            gchar *command;
            int status = -1;

            draw_image(&image, tops[turn % 4], &dice);
            image.has_start = true;
            image.start = 0x1234 + (turn % 4 ? 0x30000 : 0);
            style.segmented = form == RMG_IMAGE_INTEL && turn % 4 == 1;
            style.header = form == RMG_IMAGE_MOTOROLA && turn & 1 ? "Halvorn" : NULL;
            CHECK(rmg_image_form_styled(&image, form, &style, &bytes, &size, &error) == RMG_OK,
                  "written");
            longest = MAX(longest, longest_line(bytes, size));
            segments += g_strstr_len(bytes, (gssize)size, ":02000002") != NULL;
            CHECK(rmg_image_form_of(bytes, size, &doubt) == form && !doubt, "its form shows");
            CHECK(rmg_image_read("back", form, bytes, size, &back, &error) == RMG_OK &&
                      same(&image, &back) && back.start == image.start,
                  "turn %u: %s", turn, error.what ? error.what : "another image");
            ours = temporary_path("ours.hex");
            theirs = temporary_path("theirs.hex");
            CHECK(g_file_set_contents(ours, bytes, (gssize)size, NULL), "kept");
            command = g_strdup_printf("objcopy -I %s -O %s %s %s", judged_forms[f].ours,
                                      judged_forms[f].other, ours, theirs);
            CHECK(g_spawn_command_line_sync(command, NULL, NULL, &status, NULL) && status == 0,
                  "objcopy reads it");
            CHECK(rmg_image_load(theirs, &judged, &error) == RMG_OK && same(&image, &judged),
                  "turn %u, %s: objcopy's: %s", turn, judged_forms[f].ours,
                  error.what ? error.what : "another image");
            g_free(command);
            rmg_text_free(bytes);
            rmg_image_free(&judged);
            rmg_image_free(&back);
            rmg_image_free(&image);
        }
    CHECK(longest == 2 + 2 * (5 + 230) && segments == 3, "%zu characters, %u", longest, segments);
}

static void raw_bytes(void)
{
    rmg_image image = {0}, none = {0};
    char *bytes;
    rmg_error error = {0};
    size_t size;

    rmg_image_add(&image, 0x10, "ab", 2);
    rmg_image_add(&image, 0x14, "c", 1);
    CHECK(rmg_image_form_as(&image, RMG_IMAGE_RAW, 0xEE, &bytes, &size, &error) == RMG_OK &&
              size == 5 &&
              memcmp(bytes,
                     "ab\xEE\xEE"
                     "c",
                     5) == 0,
          "gaps filled");
    rmg_text_free(bytes);
    rmg_image_add(&image, (uint64_t)1 << 31, "d", 1);
    CHECK(rmg_image_form_as(&image, RMG_IMAGE_RAW, 0, &bytes, &size, &error) == RMG_ERR_ROOM &&
              strstr(error.what, "1 GiB") && !bytes,
          "too large");
    rmg_error_free(&error);
    rmg_image_add(&image, (uint64_t)1 << 33, "e", 1);
    CHECK(rmg_image_form_as(&image, RMG_IMAGE_INTEL, 0, &bytes, &size, &error) == RMG_ERR_RANGE &&
              strstr(error.what, "32 bits"),
          "too far");
    rmg_error_free(&error);
    CHECK(rmg_image_form_as(&none, RMG_IMAGE_RAW, 0, &bytes, &size, &error) == RMG_ERR_RANGE,
          "nothing");
    rmg_error_free(&error);
    rmg_image_free(&image);
}

/* The check values that the standards give, and the sum of more bytes than a block. */
static void checksums(void)
{
    static const struct {
        const char *text;
        uint32_t sum, crc;
        const char *md5, *sha1, *sha256;
    } rows[] = {
        {"", 0, 0, "d41d8cd98f00b204e9800998ecf8427e", "da39a3ee5e6b4b0d3255bfef95601890afd80709",
         "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"},
        {"abc", 0x126, 0x352441C2, "900150983cd24fb0d6963f7d28e17f72",
         "a9993e364706816aba3e25717850c26c9cd0d89d",
         "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"},
        {"123456789", 0x1DD, 0xCBF43926, "25f9e794323b453885f5181f1b624d0b",
         "f7c3bc1d808e04732adf679965ccc34ca7ae3441",
         "15e2b0d3c33891ebb0f1ef609ec419420c20e320ce94c65fbc8c3312448eb225"},
    };
    uint8_t *many = g_malloc(100000);
    rmg_checksums sums;

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_checksums_of(rows[i].text, strlen(rows[i].text), &sums);
        CHECK(sums.sum16 == rows[i].sum && sums.sum32 == rows[i].sum && sums.crc32 == rows[i].crc,
              "row %zu: %x, %08x", i, sums.sum32, sums.crc32);
        CHECK(strcmp(sums.md5, rows[i].md5) == 0 && strcmp(sums.sha1, rows[i].sha1) == 0 &&
                  strcmp(sums.sha256, rows[i].sha256) == 0,
              "row %zu: %s, %s, %s", i, sums.md5, sums.sha1, sums.sha256);
    }
    memset(many, 0xFF, 100000);
    rmg_checksums_of(many, 100000, &sums);
    CHECK(sums.sum32 == 25500000 && sums.sum16 == (25500000 & 0xFFFF), "%u", sums.sum32);
    g_free(many);
}

/* A way to write a record file that is not the plain one. */
typedef struct disguise {
    const char *title;
    void (*put)(GString *to, const char *records);
    bool refused; /* rather than read */
} disguise;

static void with(GString *to, const char *records, const char *before, gssize size,
                 const char *line_end, const char *after)
{
    gchar **lines = g_strsplit(records, "\n", -1);

    g_string_append_len(to, before, size);
    for (size_t i = 0; lines[i] && *lines[i]; i++)
        g_string_append_printf(to, "%s%s", lines[i], line_end);
    g_string_append(to, after);
    g_strfreev(lines);
}

#define FORM(name, before, line_end, after)                                                        \
    static void name(GString *to, const char *records)                                             \
    {                                                                                              \
        with(to, records, before, sizeof(before) - 1, line_end, after);                            \
    }

FORM(as_is, "", "\n", "")
FORM(carriage_returns, "", "\r", "")
FORM(both_ends, "", "\r\n", "")
FORM(turned_ends, "", "\n\r", "")
FORM(form_feeds, "", "\f", "")
FORM(separators, "", "\x1e", "")
FORM(no_ends, "", "", "")
FORM(end_of_text, "", "\n", "\x1a\x1a\x1a")
FORM(byte_order_mark, "\xef\xbb\xbf", "\n", "")
FORM(leader_of_zeros, "\0\0\0\0\0\0\0\0\0\0", "\n", "")
FORM(leader_of_ones, "\xff\xff\xff\x7f\x7f", "\r\n", "")
FORM(blanks, "  \t\n\n   ", "  \n  ", "\n\n")
FORM(remark, "; the lamp driver of room 4\n", "\n", "; end\n")
FORM(remark_of_others, "# k\xc3\xb6rnung, gr\xfcn\n", "\n", "")
FORM(heading, "LAMP DRIVER\n", "\n", "")
FORM(remark_with_record, "; :0100000041BE\n", "\n", "")
FORM(more_after, "", "\n", "bye\n")

static void parity(GString *to, const char *records)
{
    for (const char *p = records; *p; p++)
        g_string_append_c(to, (gchar)(*p | (__builtin_parity((unsigned)*p) ? 0x80 : 0)));
}

static void two_bytes(GString *to, const char *records, bool high_first)
{
    g_string_append_len(to, high_first ? "\xfe\xff" : "\xff\xfe", 2);
    for (const char *p = records; *p; p++) {
        const char pair[2] = {high_first ? '\0' : *p, high_first ? *p : '\0'};

        g_string_append_len(to, pair, 2);
    }
}

static void two_bytes_low(GString *to, const char *records)
{
    two_bytes(to, records, false);
}

static void two_bytes_high(GString *to, const char *records)
{
    two_bytes(to, records, true);
}

static void wrong_sums(GString *to, const char *records)
{
    for (const char *p = records; *p; p++)
        g_string_append_c(to, p[1] == '\n' ? (*p == '0' ? '1' : '0') : *p);
}

static void first_damaged(GString *to, const char *records)
{
    g_string_append_printf(to, "%c%c", records[0], '?');
    g_string_append(to, records + 2);
}

static const disguise disguises[] = {
    {"as it is", as_is, false},
    {"carriage returns", carriage_returns, false},
    {"carriage returns and line feeds", both_ends, false},
    {"line feeds and carriage returns", turned_ends, false},
    {"form feeds", form_feeds, false},
    {"separators", separators, false},
    {"no line ends at all", no_ends, false},
    {"an end of text", end_of_text, false},
    {"a byte-order mark", byte_order_mark, false},
    {"a leader of zeros", leader_of_zeros, false},
    {"a leader of ones", leader_of_ones, false},
    {"blanks", blanks, false},
    {"remarks", remark, false},
    {"a remark that is no ASCII", remark_of_others, false},
    {"a heading", heading, true},
    {"a remark that could be a record", remark_with_record, true},
    {"more after the end", more_after, true},
    {"parity bits", parity, true},
    {"two bytes a character", two_bytes_low, true},
    {"two bytes a character, the other way", two_bytes_high, true},
    {"all sums wrong", wrong_sums, true},
    {"the first record damaged", first_damaged, true},
};

/* However a record file is written: it is read as records, or refused; never taken for raw bytes,
 * which would be burnt into a chip. */
static void disguised_records(void)
{
    rmg_image image = {0}, read;
    uint8_t content[300];

    for (unsigned i = 0; i < sizeof content; i++)
        content[i] = (uint8_t)(i * 29 + i / 7);
    rmg_image_add(&image, 0x1000, content, sizeof content);
    for (int form = RMG_IMAGE_INTEL; form <= RMG_IMAGE_MOTOROLA; form++) {
        char *text;
        rmg_error error = {0};
        size_t size;

        CHECK(rmg_image_form_as(&image, (rmg_image_form)form, 0, &text, &size, &error) == RMG_OK,
              "records");
        for (size_t d = 0; d < COUNT(disguises); d++) {
            const char *file = temporary_path("disguised");
            gchar *records = g_strndup(text, size);
            GString *bytes = g_string_new(NULL);
            rmg_status status;

            disguises[d].put(bytes, records);
            CHECK(g_file_set_contents(file, bytes->str, (gssize)bytes->len, NULL), "written");
            status = rmg_image_load(file, &read, &error);
            if (disguises[d].refused)
                CHECK(status == RMG_ERR_CONTENT && error.what, "form %d, %s: refused", form,
                      disguises[d].title);
            else
                CHECK(status == RMG_OK && read.count == 1 && read.pieces[0].address == 0x1000 &&
                          read.pieces[0].size == sizeof content &&
                          memcmp(read.pieces[0].bytes, content, sizeof content) == 0,
                      "form %d, %s: %s", form, disguises[d].title,
                      error.what ? error.what : "other bytes");
            rmg_error_free(&error);
            rmg_image_free(&read);
            CHECK(rmg_image_load_as(file, RMG_IMAGE_RAW, &read, &error) == RMG_OK &&
                      read.pieces[0].size == bytes->len,
                  "insisted on");
            rmg_image_free(&read);
            g_string_free(bytes, TRUE);
            g_free(records);
        }
        rmg_text_free(text);
    }
    rmg_image_free(&image);
}

/* One whole record, the shortest there is, at the very end of other bytes makes a record file; a
 * digit less, or a sum that is wrong, does not. */
static void one_whole_record(void)
{
    static const struct {
        const char *bytes;
        rmg_image_form form;
    } rows[] = {
        {"xyzS9030000FC", RMG_IMAGE_MOTOROLA}, {"xyzS9030000F", RMG_IMAGE_RAW},
        {"xyzS9030000FD", RMG_IMAGE_RAW},      {"xyzS0030000FC", RMG_IMAGE_MOTOROLA},
        {"xyzS902FD", RMG_IMAGE_RAW},          {"xyz:00000001FF", RMG_IMAGE_INTEL},
        {"xyz:00000001F", RMG_IMAGE_RAW},      {"xyz:00000001FE", RMG_IMAGE_RAW},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        const char *doubt;

        CHECK(rmg_image_form_of((const uint8_t *)rows[i].bytes, strlen(rows[i].bytes), &doubt) ==
                  rows[i].form,
              "row %zu", i);
    }
}

/* Chip contents are raw, also where they hold colons, an S and digits. */
static void raw_is_raw(void)
{
    uint64_t state = 9;

    for (unsigned turn = 0; turn < 60; turn++) {
        uint8_t bytes[4096];
        const char *doubt;

        for (size_t i = 0; i < sizeof bytes; i++)
            bytes[i] = (uint8_t)bench_dice(&state, 256);
        if (turn & 1u)
            memcpy(&bytes[100], "READY.\r\nTIME:12:30 S9 0123456789ABCDEF\n", 40);
        if (turn & 2u)
            memset(bytes, turn & 4u ? 0xFF : ':', 2000);
        CHECK(rmg_image_form_of(bytes, sizeof bytes, &doubt) == RMG_IMAGE_RAW && !doubt,
              "turn %u: %s", turn, doubt ? doubt : "records");
    }
}

/* The count of an S5 or S6 record is held against the records that came before it. */
static void records_counted(void)
{
    static const struct {
        const char *text;
        bool good;
    } rows[] = {{"S104000041BA\nS5030001FB\nS9030000FC\n", true},
                {"S104000041BA\nS5030002FA\nS9030000FC\n", false},
                {"S104000041BA\nS604000001FA\nS9030000FC\n", true},
                {"S104000041BA\nS604000000FB\nS9030000FC\n", false},
                /* none of them ends the file */
                {"S104000041BA\nS5030001FB\nS104000142B8\nS5030002FA\nS9030000FC\n", true},
                {"S104000041BA\nS604000001FA\nS104000142B8\nS9030000FC\n", true},
                {"S104000041BA\nS604000001FA\nS104000142B8\nS5030003F9\nS9030000FC\n", false}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_image image;
        rmg_error error = {0};
        const rmg_status status = rmg_image_read("x", RMG_IMAGE_MOTOROLA, rows[i].text,
                                                 strlen(rows[i].text), &image, &error);

        CHECK((status == RMG_OK) == rows[i].good &&
                  (rows[i].good || strstr(error.what, "data records came before it")),
              "row %zu: %s", i, error.what ? error.what : "read");
        rmg_error_free(&error);
        rmg_image_free(&image);
    }
}

/* A start address above the data keeps all its digits. */
static void start_above_data(void)
{
    static const uint64_t starts[] = {0x1234, 0xFFFF, 0x10000, 0xFFFFFF, 0x1000000, 0xFFFFFFFF};

    for (size_t i = 0; i < COUNT(starts); i++) {
        rmg_image image = {0}, back;
        rmg_error error;
        char *text;
        size_t size;

        rmg_image_add(&image, 0x100, "x", 1);
        image.has_start = true;
        image.start = starts[i];
        CHECK(rmg_image_form_as(&image, RMG_IMAGE_MOTOROLA, 0, &text, &size, &error) == RMG_OK &&
                  rmg_image_read("x", RMG_IMAGE_MOTOROLA, text, size, &back, &error) == RMG_OK &&
                  back.has_start && back.start == starts[i] && back.pieces[0].address == 0x100,
              "0x%lX", (unsigned long)starts[i]);
        rmg_image_free(&back);
        rmg_image_free(&image);
        rmg_text_free(text);
    }
}

/* Byte by byte at the addresses that both hold, gaps as gaps. */
static void differences(void)
{
    rmg_image a = {0}, b = {0};
    rmg_image_difference d;

    rmg_image_add(&a, 0x100, "abcdef", 6);
    rmg_image_add(&a, 0x40000000, "x", 1);
    rmg_image_add(&b, 0x102, "cdEf", 4);
    rmg_image_add(&b, 0x10A, "k", 1);
    rmg_image_difference_of(&a, &b, &d);
    CHECK(d.both == 4 && d.different == 1 && d.first == 0x104 && d.only_a == 3 && d.only_b == 1,
          "%d %d 0x%X %d %d", (int)d.both, (int)d.different, (int)d.first, (int)d.only_a,
          (int)d.only_b);
    rmg_image_difference_of(&b, &b, &d);
    CHECK(d.both == 5 && !d.different && !d.only_a && !d.only_b, "itself");
    rmg_image_free(&a);
    rmg_image_free(&b);
}

CU_TestInfo image_tests[] = {
    {"one whole record", one_whole_record},
    {"a start above the data", start_above_data},
    {"checksums", checksums},
    {"pieces that join", pieces_join},
    {"every error, with its line", every_error},
    {"forms as others write them", forms_read},
    {"round trips, and objcopy as judge", round_trips},
    {"differences", differences},
    {"raw bytes", raw_bytes},
    {"records in disguise", disguised_records},
    {"raw is raw", raw_is_raw},
    {"records counted", records_counted},
    CU_TEST_INFO_NULL,
};
