/* Verifying chips: what differences prove, lines one by one and together, bare against in the
 * board, and what can be said without an image. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "rom_case.h"
#include "suites.h"
#include "temporary.h"

static bool is(const rmg_explanation *e, rmg_difference kind, int a, int b, int level)
{
    return e->kind == kind && (a < 0 || e->a == a) && (b < 0 || e->b == b) &&
           (level < 0 || e->level == level);
}

/* Is one of the steps this, or something said to read the same? */
static bool explained(const rmg_comparison *c, rmg_difference kind, int a, int b, int level)
{
    for (size_t i = 0; i < c->step_count; i++) {
        if (is(&c->steps[i].is, kind, a, b, level))
            return true;
        for (size_t n = 0; n < c->steps[i].alike_count; n++)
            if (is(&c->steps[i].alike[n], kind, a, b, level))
                return true;
    }
    return false;
}

static const struct {
    const char *board, *what, *faults;
    rmg_difference kind;
    int a, b, level;
} proofs[] = {
    {HALVORN, "U5", "{kind: data pin open, socket: U5, bit: D3}", RMG_DIFF_DATA_FLOATS, 3, -1, -1},
    {OSTREL, "U2", "{kind: data pin open, socket: U2, bit: D3}", RMG_DIFF_DATA_STUCK, 3, -1, 1},
    {OSTREL, "U3", "{kind: line open, line: D8, beyond: U3.11}", RMG_DIFF_DATA_STUCK, 0, -1, 1},
    {HALVORN, "U5", "{kind: output stuck, socket: U5, bit: D6, level: 0}", RMG_DIFF_DATA_STUCK, 6,
     -1, 0},
    {HALVORN, "U5", "{kind: lines touch, line: D1, with: D7, socket: U5, wins: 1}",
     RMG_DIFF_DATA_SHORTED, 1, 7, 1},
    {HALVORN, "U5", "{kind: lines swapped, line: D1, with: D7, socket: U5}", RMG_DIFF_DATA_SWAPPED,
     1, 7, -1},
    {HALVORN, "U5",
     "{kind: lines swapped, line: D0, with: D1, socket: U5}, {kind: lines swapped, line: D1, with: "
     "D2, socket: U5}",
     RMG_DIFF_DATA_PERMUTED, -1, -1, -1},
    {HALVORN, "U5", "{kind: address pin open, socket: U5, pin: A13, floats: 0}",
     RMG_DIFF_LINE_STUCK, 13, -1, 0},
    {HALVORN, "U5", "{kind: line open, line: A4, beyond: U5.6}", RMG_DIFF_LINE_STUCK, 4, -1, 1},
    {HALVORN, "U5", "{kind: lines touch, line: A2, with: A9, socket: U5}", RMG_DIFF_LINE_SHORTED, 2,
     9, 0},
    {HALVORN, "U5", "{kind: lines swapped, line: A2, with: A9, socket: U5}", RMG_DIFF_LINE_SWAPPED,
     2, 9, -1},
    {HALVORN, "U5", "{kind: wrong half, socket: U5, pin: A13, level: 1}", RMG_DIFF_LINE_STUCK, 13,
     -1, 1},
    {OSTREL, "program ROM",
     "{kind: wrong image, socket: U2, image: IMAGES/ostrel16-program-1.4-odd.bin}, {kind: wrong "
     "image, socket: U3, image: IMAGES/ostrel16-program-1.4-even.bin}",
     RMG_DIFF_BYTES_SWAPPED, -1, -1, -1},
};

static const char *with_images(const char *faults)
{
    static gchar *text;
    gchar **parts = g_strsplit(faults, "IMAGES", -1);

    g_free(text);
    text = g_strjoinv(project_path("demo/images"), parts);
    g_strfreev(parts);
    return text;
}

/* The image of a region out of the images of its chips. */
static void good_of_region(chip_case *c, const rmg_board *board)
{
    static const char *const sockets[] = {"U2", "U3"};

    c->good = g_malloc0((gsize)rmg_rom_bytes(&c->rom));
    for (size_t i = 0; i < 2; i++) {
        const uint16_t s = rmg_board_socket(board, sockets[i]);
        char *bytes;
        rmg_error error = {0};
        size_t size;

        CHECK(rmg_part_image(board->sockets[s].part, board->sockets[s].image, &bytes, &size,
                             &error) == RMG_OK,
              "%s", sockets[i]);
        CHECK(rmg_rom_place_image(&c->rom, s, bytes, c->good) == 16384 * 8, "all of it is placed");
        rmg_text_free(bytes);
    }
}

static void what_a_difference_proves(void)
{
    for (size_t i = 0; i < COUNT(proofs); i++) {
        rmg_board *board = bench_load(proofs[i].board);
        chip_case c;

        open_case(&c, board, proofs[i].what, false, with_images(proofs[i].faults));
        if (!c.good)
            good_of_region(&c, board);
        CHECK(rmg_verify_run(&c.v, &c.rom, &c.bench.target, 3, c.good, NULL, 0, NULL, NULL) ==
                  RMG_OK,
              "read");
        find_suspects(&c, board, RMG_BARE_UNKNOWN);
        CHECK(
            explained(&c.v.comparison, proofs[i].kind, proofs[i].a, proofs[i].b, proofs[i].level) &&
                c.v.comparison.step_count == 1 && !c.v.comparison.left,
            "%s: %zu steps, %u left", proofs[i].faults, c.v.comparison.step_count,
            (unsigned)c.v.comparison.left);
        CHECK(c.suspects.count == 1 && c.suspects.list[0].confidence > 0.9 &&
                  c.suspects.list[0].because[0] && c.suspects.list[0].next[0],
              "%s: one suspect with reasons and steps", proofs[i].faults);
        CHECK(c.v.reading.first_wrong == 1, "%s: wrong from the first reading", proofs[i].faults);
        end_case(&c);
        rmg_board_free(board);
    }
}

/* One row of the enumeration: the fault alone is found, and nothing is left over. */
static void found_alone(const rmg_board *board, const char *what, const char *faults,
                        rmg_difference kind, int a, int b, int level)
{
    chip_case c;

    verify_case(&c, board, what, false, 3, faults);
    CHECK(explained(&c.v.comparison, kind, a, b, level) && c.v.comparison.step_count == 1 &&
              !c.v.comparison.left,
          "%s: %zu steps, %u left, the first of kind %s", faults, c.v.comparison.step_count,
          (unsigned)c.v.comparison.left, rmg_difference_name(c.v.comparison.steps[0].is.kind));
    end_case(&c);
}

/* Every data and address line of U5 stuck, pairs of them exchanged and touching: one in thirty, or
 * all with RMG_TEST_ALL. */
static void every_line(void)
{
    rmg_board *board = bench_load(HALVORN);
    const bool all = getenv("RMG_TEST_ALL") != NULL;
    const int each = getenv("RMG_TEST_PLACES") ? 5 : 1; /* builds that run slowly take fewer */
    uint64_t dice = 11;

    for (unsigned letter = 0; letter < 2; letter++) {
        const char name = letter ? 'A' : 'D';
        const int count = letter ? 14 : 8;

        for (int a = 0; a < count; a += each) {
            for (int level = 0; level < 2; level++) {
                gchar *f = g_strdup_printf("{kind: line stuck, line: %c%d, level: %d, socket: U5}",
                                           name, a, level);

                found_alone(board, "U5", f, letter ? RMG_DIFF_LINE_STUCK : RMG_DIFF_DATA_STUCK, a,
                            -1, level);
                g_free(f);
            }
            for (int b = a + 1; b < count; b++) {
                gchar *f;

                if (!all && bench_dice(&dice, 30) != 0)
                    continue;
                f = g_strdup_printf("{kind: lines swapped, line: %c%d, with: %c%d, socket: U5}",
                                    name, a, name, b);
                found_alone(board, "U5", f, letter ? RMG_DIFF_LINE_SWAPPED : RMG_DIFF_DATA_SWAPPED,
                            a, b, -1);
                g_free(f);
                for (int wins = 0; wins < 2; wins++) {
                    f = g_strdup_printf(
                        "{kind: lines touch, line: %c%d, with: %c%d, wins: %d, socket: U5}", name,
                        a, name, b, wins);
                    found_alone(board, "U5", f,
                                letter ? RMG_DIFF_LINE_SHORTED : RMG_DIFF_DATA_SHORTED, a, b, wins);
                    g_free(f);
                }
            }
        }
    }
    rmg_board_free(board);
}

/* Two faults at once: a data line and an address line, and fading bits on top, all reported. */
static void two_at_once(void)
{
    rmg_board *board = bench_load(HALVORN);
    const unsigned rows = getenv("RMG_TEST_ALL") ? 100 : 6;
    uint64_t dice = 5;

    for (unsigned i = 0; i < rows; i++) {
        const int d = (int)bench_dice(&dice, 8), level = (int)bench_dice(&dice, 2);
        const int a = (int)bench_dice(&dice, 13),
                  b = a + 1 + (int)bench_dice(&dice, 13u - (unsigned)a);
        gchar *f = g_strdup_printf("{kind: line stuck, line: D%d, level: %d, socket: U5}, {kind: "
                                   "lines swapped, line: A%d, with: A%d, socket: U5}, {kind: "
                                   "fading bits, socket: U5, one-cell-in: 6000}",
                                   d, level, a, b);
        chip_case c;

        verify_case(&c, board, "U5", false, 3, f);
        CHECK(explained(&c.v.comparison, RMG_DIFF_DATA_STUCK, d, -1, level) &&
                  explained(&c.v.comparison, RMG_DIFF_LINE_SWAPPED, a, b, -1) &&
                  c.v.comparison.step_count == 2,
              "%s: %zu steps", f, c.v.comparison.step_count);
        CHECK(c.v.comparison.left && c.v.comparison.left < 40 && !c.v.comparison.left_to_zero,
              "%s: fading is left: %u", f, (unsigned)c.v.comparison.left);
        end_case(&c);
        g_free(f);
    }
    rmg_board_free(board);
}

/* One chip of a pair that does not answer is one finding at its socket, not eight lines. */
static void one_of_a_pair(void)
{
    static const struct {
        const char *faults, *site, *kind;
    } rows[] = {
        {"{kind: chip missing, socket: U3}", "U3", "reads ones everywhere"},
        {"{kind: fading bits, socket: U2, one-cell-in: 1, level: 0}", "U2",
         "reads zeros everywhere"},
        {"{kind: output stuck, socket: U3, bit: D9, level: 0}", "data line D9 (U3 pin 12)",
         "D9 (U3 pin 12) always reads 0"},
    };
    rmg_board *board = bench_load(OSTREL);

    for (size_t i = 0; i < COUNT(rows); i++)
        for (int with_image = 0; with_image < 2; with_image++) {
            chip_case c;

            open_case(&c, board, "program ROM", false, rows[i].faults);
            if (with_image)
                good_of_region(&c, board);
            CHECK(rmg_verify_run(&c.v, &c.rom, &c.bench.target, 3, c.good, NULL, 0, NULL, NULL) ==
                      RMG_OK,
                  "read");
            find_suspects(&c, board, RMG_BARE_UNKNOWN);
            CHECK(c.suspects.count == 1 && strcmp(c.suspects.list[0].site, rows[i].site) == 0 &&
                      strcmp(c.suspects.list[0].kind, rows[i].kind) == 0,
                  "%s: %zu, %s: %s", rows[i].faults, c.suspects.count,
                  c.suspects.count ? c.suspects.list[0].site : "",
                  c.suspects.count ? c.suspects.list[0].kind : "");
            if (with_image && i == 0)
                CHECK(c.v.comparison.proved_bits == 0xFF && !c.v.comparison.left &&
                          !c.v.comparison.step_count,
                      "the other chip's lines are proved");
            end_case(&c);
        }
    rmg_board_free(board);
}

static void bare_and_in_the_board(void)
{
    static const struct {
        const char *faults;
        bool board_good, bare_good;
    } rows[] = {
        {"{kind: data pin open, socket: U5, bit: D3}", false, true},
        {"{kind: address pin open, socket: U5, pin: A7}", false, true},
        {"{kind: line stuck, line: D4, level: 0, socket: U5}", false, true},
        {"{kind: always on, socket: U19}", false, true},
        {"{kind: late output, socket: U5, access-ns: 700}", false, true},
        {"{kind: late output, socket: U5, access-ns: 400}", true, true},
        {"{kind: output stuck, socket: U5, bit: D3, level: 0}", false, false},
        {"{kind: address pin stuck, socket: U5, pin: A7, level: 1}", false, false},
        {"{kind: fading bits, socket: U5, one-cell-in: 3000}", false, false},
        {"{kind: chip missing, socket: U5}", false, false},
        {"{kind: wrong image, socket: U5, image: IMAGES/halvorn64-system-2.0.bin}", false, false},
        {"{kind: output stuck, socket: U19, bit: D7, level: 0}", true, true},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        chip_case in, out;
        bool names_chip = false;

        verify_case(&in, board, "U5", false, 3, with_images(rows[i].faults));
        verify_case(&out, board, "U5", true, 3, with_images(rows[i].faults));
        CHECK(rmg_verify_good(&in.v) == rows[i].board_good &&
                  rmg_verify_good(&out.v) == rows[i].bare_good,
              "%s: board %d, bare %d", rows[i].faults, rmg_verify_good(&in.v),
              rmg_verify_good(&out.v));
        rmg_suspects_free(&in.suspects);
        find_suspects(&in, board, rows[i].bare_good ? RMG_BARE_GOOD : RMG_BARE_BAD);
        for (size_t s = 0; s < in.suspects.count; s++)
            for (size_t r = 0; r < in.suspects.list[s].rival_count; r++)
                names_chip |=
                    strstr(in.suspects.list[s].rivals[r].name, "the chip: its ") != NULL ||
                    strstr(in.suspects.list[s].rivals[r].name, "the chip is dead") != NULL;
        if (rows[i].bare_good)
            CHECK(!names_chip, "%s: a chip that is good bare is not accused", rows[i].faults);
        end_case(&in);
        end_case(&out);
    }
    rmg_board_free(board);
}

/* Without an image: what a plausible one speaks against. */
static void without_an_image(void)
{
    static const struct {
        const char *faults, *site;
    } rows[] = {
        {"", NULL},
        {"{kind: data pin open, socket: U5, bit: D3}", "data line D3 (U5 pin 15)"},
        {"{kind: output stuck, socket: U5, bit: D6, level: 0}", "data line D6 (U5 pin 18)"},
        {"{kind: lines touch, line: D1, with: D4, socket: U5}",
         "data lines D1 (U5 pin 12) and D4 (U5 pin 16)"},
        {"{kind: address pin open, socket: U5, pin: A13}", "address line A13 (U5 pin 26)"},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        chip_case c;

        open_case(&c, board, "U5", false, rows[i].faults);
        CHECK(rmg_verify_run(&c.v, &c.rom, &c.bench.target, 3, NULL, NULL, 0, NULL, NULL) == RMG_OK,
              "read");
        find_suspects(&c, board, RMG_BARE_UNKNOWN);
        CHECK(c.suspects.count == (rows[i].site != NULL) &&
                  (!rows[i].site || strcmp(c.suspects.list[0].site, rows[i].site) == 0),
              "%s: %zu, %s", rows[i].faults, c.suspects.count,
              c.suspects.count ? c.suspects.list[0].site : "");
        end_case(&c);
    }
    rmg_board_free(board);
}

/* What comes late, and now and then, is told from lines and cells that come and go; what is said of
 * it is no chip's cells. */
static void come_and_go(void)
{
    static const struct {
        const char *faults;
        rmg_difference kind;
        int a;
        const char *first;
    } rows[] = {
        {"{kind: late output, socket: U5, access-ns: 900, one-in: 9}", RMG_DIFF_LATE, -1,
         "the chip is too slow"},
        {"{kind: never selected, socket: U5, one-in: 30}", RMG_DIFF_LATE, -1,
         "the chip is too slow"},
        {"{kind: output stuck, socket: U5, bit: D6, level: 0, one-in: 20}", RMG_DIFF_DATA_STUCK, 6,
         "the contact at D6"},
        {"{kind: address pin stuck, socket: U5, pin: A9, level: 1, one-in: 20}",
         RMG_DIFF_LINE_STUCK, 9, "the contact at A9"},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        chip_case c;
        const rmg_explained *step;

        verify_case(&c, board, "U5", false, 3, rows[i].faults);
        step = &c.v.comparison.steps[0];
        CHECK(c.v.comparison.step_count == 1 && step->is.kind == rows[i].kind &&
                  (rows[i].a < 0 || step->is.a == rows[i].a) && step->is.sometimes,
              "%s: %s", rows[i].faults, rmg_difference_name(step->is.kind));
        CHECK(!c.v.comparison.left_touched && c.suspects.count == 1 &&
                  g_str_has_prefix(c.suspects.list[0].rivals[0].name, rows[i].first),
              "%s: %s", rows[i].faults, c.suspects.list[0].rivals[0].name);
        if (rows[i].a >= 0)
            CHECK(!((rows[i].kind == RMG_DIFF_DATA_STUCK ? c.v.comparison.proved_bits
                                                         : c.v.comparison.proved_lines) >>
                        rows[i].a &
                    1u),
                  "%s: it is not proved", rows[i].faults);
        end_case(&c);
    }
    rmg_board_free(board);
}

/* What is known by other means: what it rules out is at the end, the rest shares what is left. */
static void facts_count(void)
{
    static const struct {
        const char *good, *sound, *open, *culprits;
        const char *first; /* of the rivals */
        size_t rivals, ruled;
        rmg_said never; /* a step that is not given any more */
    } rows[] = {
        {NULL, NULL, NULL, NULL, "the chip: its output at D3", 3, 0, RMG_SAY_NOTHING},
        {"U5", NULL, NULL, NULL, "the contact at D3", 2, 1, RMG_SAY_PULL_AND_VERIFY},
        {NULL, "U1.12-U5.15", NULL, NULL, "the chip: its output at D3", 2, 1,
         RMG_SAY_MEASURE_FROM_PIN},
        {"U5", "U1.12-U5.15", NULL, NULL, "the contact at D3", 1, 2, RMG_SAY_PULL_AND_VERIFY},
        {NULL, NULL, "U1.12-U5.15", NULL, "the contact at D3", 2, 1, RMG_SAY_MEASURE_FROM_PIN},
        {NULL, NULL, NULL, "track-data: 900\n", "the track between U1.12 and U5 pin 15", 3, 0,
         RMG_SAY_NOTHING},
        {"U18", NULL, NULL, NULL, "the chip: its output at D3", 3, 0, RMG_SAY_NOTHING},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_error error = {0};
        rmg_errors errors = {0};
        const rmg_suspect *first;
        double sum = 0;
        rmg_facts facts;
        rmg_rom_case rc;
        chip_case c;

        rmg_facts_begin(&facts);
        CHECK((!rows[i].good ||
               rmg_facts_known_good(&facts, board, rows[i].good, &error) == RMG_OK) &&
                  (!rows[i].sound ||
                   rmg_facts_continuous(&facts, board, rows[i].sound, &error) == RMG_OK) &&
                  (!rows[i].open ||
                   rmg_facts_not_continuous(&facts, board, rows[i].open, &error) == RMG_OK) &&
                  (!rows[i].culprits || rmg_causes_load_text("c.yaml", rows[i].culprits,
                                                             &facts.causes, &errors) == RMG_OK),
              "row %zu: %s", i, error.what ? error.what : "");
        verify_case(&c, board, "U5", false, 3, "{kind: data pin open, socket: U5, bit: D3}");
        rc = (rmg_rom_case){.rom = &c.rom,
                            .board = board,
                            .quality = &c.v.quality,
                            .comparison = &c.v.comparison,
                            .facts = &facts};
        rmg_suspects_free(&c.suspects);
        rmg_rom_suspects(&rc, &c.suspects);
        rmg_rom_suspects_word(&rc, &c.suspects);
        first = &c.suspects.list[0];
        CHECK(c.suspects.count == 1 && first->rival_count == rows[i].rivals &&
                  first->ruled_count == rows[i].ruled &&
                  g_str_has_prefix(first->rivals[0].name, rows[i].first),
              "row %zu: %zu rivals, %zu ruled out, first %s", i, first->rival_count,
              first->ruled_count, first->rivals[0].name);
        for (size_t n = 0; n < first->rival_count; n++) {
            sum += first->rivals[n].share;
            CHECK(first->rivals[n].cause < RMG_CAUSES && !first->rivals[n].ruled, "row %zu", i);
        }
        for (size_t n = 0; n < first->step_count; n++)
            CHECK(!rows[i].never || first->steps[n].said != rows[i].never, "row %zu: %s", i,
                  "what is known is not asked for");
        CHECK(sum > 0.999 && sum < 1.001 && first->confidence > 0.8 && first->confidence <= 1,
              "row %zu: shares %.3f, confidence %.2f", i, sum, first->confidence);
        end_case(&c);
        rmg_facts_end(&facts);
    }
    rmg_board_free(board);
}

/* Regions by the board's addresses and bits, chips by their own. */
static void views(void)
{
    static const struct {
        const char *board, *what;
        uint64_t address;
        uint32_t step;
        uint8_t unit;
        uint8_t names[2]; /* of the lowest bit of the first and the second byte */
    } rows[] = {{HALVORN, "U5", 0, 1, 1, {0, 0}},
                {HALVORN, "system ROM", 0xC000, 1, 1, {0, 0}},
                {OSTREL, "U3", 0, 1, 1, {8, 0}},
                {OSTREL, "program ROM", 0, 2, 2, {0, 8}}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        uint8_t bytes[4] = {0}, names[64];
        rmg_error error = {0};
        rmg_rom_view view;
        rmg_rom rom;

        CHECK(rmg_rom_find(board, rows[i].what, &rom, &error) == RMG_OK, "%s", rows[i].what);
        rmg_rom_view_of(&rom, bytes, names, &view);
        CHECK(view.address == rows[i].address && view.unit == rows[i].unit &&
                  view.unit_step == rows[i].step && view.size == rmg_rom_bytes(&rom) &&
                  view.bytes == bytes && view.names == names,
              "%s: 0x%X, %u", rows[i].what, (unsigned)view.address, view.unit_step);
        CHECK(names[0] == rows[i].names[0] && (view.unit < 2 || names[8] == rows[i].names[1]),
              "%s: D%u", rows[i].what, names[0]);
        rmg_board_free(board);
    }
}

/* A chip that reads blank where half of its image is: an address line may show that half. */
static void blank_or_a_line(void)
{
    rmg_board *board = bench_load(HALVORN);
    chip_case c;
    uint8_t *image, *blank;
    const void *readings[2];
    bool by_line = false;
    double sure;

    open_case(&c, board, "U5", false, "");
    image = (uint8_t *)c.good;
    memset(image + 8192, 0xFF, 8192);
    blank = g_malloc(16384);
    memset(blank, 0xFF, 16384);
    readings[0] = readings[1] = blank;
    CHECK(rmg_verify_images(&c.v, &c.rom, readings, 2, image, NULL, 0) == RMG_OK &&
              c.v.reading.given && c.v.reading.done == 2,
          "two readings");
    find_suspects(&c, board, RMG_BARE_UNKNOWN);
    for (size_t i = 0; i < c.suspects.list[0].rival_count; i++)
        by_line |=
            strstr(c.suspects.list[0].rivals[i].name, "A13 (U5 pin 26) is seen as 1") != NULL;
    sure = c.suspects.list[0].confidence;
    CHECK(by_line && c.v.comparison.hidden > 0.02 && c.v.comparison.hidden < 0.5,
          "the line is a rival: %.3f times as likely", c.v.comparison.hidden);
    rmg_suspects_free(&c.suspects);
    rmg_verify_end(&c.v);
    image[16000] = 0x12; /* then the line would show it */
    CHECK(rmg_verify_images(&c.v, &c.rom, readings, 2, image, NULL, 0) == RMG_OK, "again");
    find_suspects(&c, board, RMG_BARE_UNKNOWN);
    for (size_t i = 0; i < c.suspects.list[0].rival_count; i++)
        CHECK(!strstr(c.suspects.list[0].rivals[i].name, "A13 (U5 pin 26) is seen as 1: "
                                                         "the words where it is 1 appear twice") ||
                  c.v.comparison.left_touched,
              "%s", c.suspects.list[0].rivals[i].name);
    CHECK(c.suspects.list[0].confidence > sure && c.v.comparison.hidden < 0.01,
          "%.2f is surer than %.2f", c.suspects.list[0].confidence, sure);
    g_free(blank);
    end_case(&c);
    rmg_board_free(board);
}

CU_TestInfo verify_tests[] = {
    {"come and go", come_and_go},
    {"facts count", facts_count},
    {"views", views},
    {"blank, or a line", blank_or_a_line},
    {"what a difference proves", what_a_difference_proves},
    {"every line", every_line},
    {"two at once", two_at_once},
    {"one of a pair", one_of_a_pair},
    {"bare and in the board", bare_and_in_the_board},
    {"without an image", without_an_image},
    CU_TEST_INFO_NULL,
};
