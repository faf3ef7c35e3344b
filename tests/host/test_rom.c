/* Reading chips: what answers at all, unsteady bits, watching, conditions, and readings cut off and
 * continued. */
#include <glib.h>
#include <glib/gstdio.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "rom_case.h"
#include "suites.h"
#include "temporary.h"

static void healthy(void)
{
    static const struct {
        const char *board, *what;
        bool bare;
        uint64_t words;
        uint8_t bits;
    } rows[] = {
        {HALVORN, "U5", false, 16384, 8},         {HALVORN, "U5", true, 16384, 8},
        {HALVORN, "system ROM", false, 16384, 8}, {HALVORN, "U52", true, 2048, 8},
        {OSTREL, "u3", false, 16384, 8},          {OSTREL, "program ROM", false, 16384, 16},
        {OSTREL, "U41", false, 8192, 8},          {OSTREL, "motion tables", false, 8192, 8}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        chip_case c;

        verify_case(&c, board, rows[i].what, rows[i].bare, 3, "");
        CHECK(c.rom.words == rows[i].words && c.rom.bits == rows[i].bits, "%s: %u words of %u bits",
              rows[i].what, (unsigned)c.rom.words, c.rom.bits);
        CHECK(c.v.quality.state == RMG_READ_STEADY && c.v.quality.driven && !c.v.quality.follows &&
                  !c.suspects.count && rmg_verify_good(&c.v),
              "%s: nothing is wrong: %s", rows[i].what,
              c.suspects.count ? c.suspects.list[0].headline : "");
        if (c.good)
            CHECK(memcmp(c.v.image, c.good, (size_t)rmg_rom_bytes(&c.rom)) == 0 &&
                      c.v.comparison.proved_bits == 0xFF &&
                      c.v.comparison.proved_lines == c.rom.words - 1u,
                  "%s: every line proved", rows[i].what);
        end_case(&c);
        rmg_board_free(board);
    }
}

/* What is not there, or cannot be distinguished from what is there. */
static void empty_blank_not_enabled(void)
{
    static const struct {
        const char *board, *what, *faults;
        bool bare;
        rmg_reading_state state;
        const char *first; /* of the likeliest rival */
        size_t rivals;
    } rows[] = {
        {HALVORN, "U5", "{kind: chip missing, socket: U5}", false, RMG_READ_NOTHING,
         "the chip is not enabled", 4},
        {HALVORN, "U5", "{kind: never selected, socket: U5}", false, RMG_READ_NOTHING,
         "the chip is not enabled", 4},
        {HALVORN, "U5", "{kind: chip missing, socket: U5}", true, RMG_READ_NOTHING,
         "the adapter is empty", 2},
        {HALVORN, "U5", "{kind: fading bits, socket: U5, one-cell-in: 1}", false, RMG_READ_ONES,
         "the chip is erased", 1},
        {HALVORN, "U5", "{kind: fading bits, socket: U5, one-cell-in: 1, level: 0}", false,
         RMG_READ_ZEROS, "the chip holds zeros", 1},
        {OSTREL, "U2", "{kind: chip missing, socket: U2}", false, RMG_READ_ONES,
         "the chip is not enabled", 5},
        {OSTREL, "U2", "{kind: fading bits, socket: U2, one-cell-in: 1}", false, RMG_READ_ONES,
         "the chip is not enabled", 5},
        {OSTREL, "U2", "{kind: fading bits, socket: U2, one-cell-in: 1}", true, RMG_READ_ONES,
         "the chip is erased", 1},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        chip_case c;

        verify_case(&c, board, rows[i].what, rows[i].bare, 3, rows[i].faults);
        CHECK(c.v.quality.state == rows[i].state, "%s: state %d", rows[i].faults,
              c.v.quality.state);
        CHECK(c.suspects.count == 1 && c.suspects.list[0].rival_count == rows[i].rivals &&
                  strstr(c.suspects.list[0].rivals[0].name, rows[i].first),
              "%s%s: %zu rivals, first %s", rows[i].faults, rows[i].bare ? ", bare" : "",
              c.suspects.list[0].rival_count, c.suspects.list[0].rivals[0].name);
        end_case(&c);
        rmg_board_free(board);
    }
}

/* Readings that are driven by no one would be alike three times over; this must not pass. */
static void three_alike_prove_nothing(void)
{
    rmg_board *board = bench_load(HALVORN);
    chip_case c;

    open_case(&c, board, "U5", false, "{kind: chip missing, socket: U5}");
    rmg_reading_begin(&c.v.reading, &c.rom, 3, &c.bench.target);
    CHECK(c.v.reading.drive == RMG_DRIVE_WRITE, "the expansion region is empty");
    c.v.reading.drive = RMG_DRIVE_NONE; /* as on a board that names nothing */
    CHECK(rmg_reading_run(&c.v.reading, &c.bench.target, NULL, NULL) == RMG_OK, "read");
    rmg_reading_judge(&c.v.reading, &c.v.quality);
    CHECK(c.v.quality.state != RMG_READ_NOTHING && !c.v.quality.driven && !c.v.quality.follows,
          "without driving, it cannot be known, and the report says so");
    end_case(&c);
    rmg_board_free(board);
}

static void refused(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_sim_board_run bench;
    rmg_errors found = {0};
    char *bytes;
    rmg_rom_good good;
    rmg_error error = {0};
    rmg_rom rom;

    CHECK(rmg_rom_find(board, "U52", &rom, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "video counter's bus") && strstr(error.what, "--bare"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_rom_find(board, "U99", &rom, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "U5, U52, \"system ROM\""),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_rom_find(board, "expansion", &rom, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "no chip"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_rom_find(board, "U5", &rom, &error) == RMG_OK, "U5");
    CHECK(rmg_rom_good_load(&rom, temporary_file("large.bin", "x"), NULL, &good, &error) ==
                  RMG_OK &&
              strstr(good.remark, "repeated 16384 times") && !good.known,
          "a byte is repeated: %s", good.remark ? good.remark : "");
    rmg_rom_good_free(&good);
    CHECK(rmg_rom_good_load(&rom, temporary_file("three.bin", "xyz"), NULL, &good, &error) ==
                  RMG_OK &&
              strstr(good.remark, "16381 of 16384 bytes: they are not compared") && good.known[2] &&
              !good.known[3],
          "three bytes are not");
    rmg_rom_good_free(&good);
    CHECK(rmg_rom_good_load(&rom, project_path("demo/glyphs.txt"), NULL, &good, &error) == RMG_OK,
          "any file is an image");
    rmg_rom_good_free(&good);
    CHECK(rmg_part_image(rmg_part_find("2716"),
                         project_path("demo/images/halvorn64-system-2.1.bin"), &bytes,
                         (size_t[]){0}, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "16384 bytes") && strstr(error.what, "2048") && !bytes,
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_sim_bare_begin(&bench, board, rmg_board_socket(board, "U19"), NULL, &found) ==
              RMG_ERR_ARGUMENT,
          "a DRAM forgets");
    rmg_sim_board_end(&bench);
    CHECK(rmg_sim_board_begin(&bench, board,
                              fault_file("{kind: wrong image, socket: U5, image: /none.bin}"),
                              &found) == RMG_ERR_CONTENT &&
              found.count == 1 && strstr(found.list[0].what, "U5: /none.bin"),
          "%s", found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* The share of each unsteady bit, where they lie, and that a majority mends them. */
static void unsteady_bits(void)
{
    rmg_board *board = bench_load(HALVORN);
    chip_case c;
    uint64_t bits = 0;

    verify_case(&c, board, "U5", false, 9,
                "{kind: fading bits, socket: U5, one-cell-in: 2000, one-in: 4}");
    CHECK(c.v.quality.state == RMG_READ_UNSTEADY && c.v.quality.unsteady_bits > 10, "%u bits",
          (unsigned)c.v.quality.unsteady_bits);
    for (uint8_t i = 0; i < 8; i++)
        bits += c.v.quality.by_bit[i];
    CHECK(bits == c.v.quality.unsteady_bits &&
              c.v.quality.by_line[3][0] + c.v.quality.by_line[3][1] == c.v.quality.unsteady_words,
          "counted by bit and by line");
    for (size_t i = 0; i < c.v.quality.first_count; i++) {
        const rmg_unsteady *u = &c.v.quality.first[i];
        const uint16_t ones = c.v.reading.ones[u->word * 8 + u->bit];

        CHECK(ones > 0 && ones < 9 && fabs(u->share - ones / 9.0) < 1e-12 &&
                  (c.v.unsteady[u->word] >> u->bit & 1),
              "its share is counted");
    }
    CHECK(c.v.comparison.wrong_bits < bits / 2, "most readings are right: %u wrong",
          (unsigned)c.v.comparison.wrong_bits);
    CHECK(c.suspects.count >= 1 &&
              strstr(c.suspects.list[c.suspects.count - 1].kind, "not the same in all readings") &&
              c.v.reading.first_wrong,
          "reported, with the reading that first differed");
    end_case(&c);

    verify_case(&c, board, "U5", false, 9, "{kind: data pin open, socket: U5, bit: D2, one-in: 3}");
    CHECK(c.v.quality.unsteady_bits == c.v.quality.by_bit[2] && c.suspects.count == 1 &&
              strstr(c.suspects.list[0].site, "D2 (U5 pin 13)"),
          "a contact that comes and goes is put to its line: %s",
          c.suspects.count ? c.suspects.list[0].site : "");
    end_case(&c);
    rmg_board_free(board);
}

static void conditions(void)
{
    static const struct {
        const char *faults;
        rmg_condition which;
        int32_t low, high, step;
        int32_t first; /* the first that fails; 0: none */
    } rows[] = {
        {"{kind: late output, socket: U5, access-ns: 300}", RMG_CONDITION_CLOCK_HZ, 1000000,
         5000000, 500000, 3500000},
        {"{kind: fading bits, socket: U5, one-cell-in: 500, from-mv: 5250}",
         RMG_CONDITION_SUPPLY_MV, 4500, 5500, 250, 5250},
        {"{kind: data pin open, socket: U5, bit: D0, below-mv: 4700}", RMG_CONDITION_SUPPLY_MV,
         4500, 5500, 250, 4500},
        {"", RMG_CONDITION_CLOCK_HZ, 1000000, 5000000, 1000000, 0},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_verify_step steps[16];
        size_t count;
        int32_t first = 0, before = 0, after = 0;
        chip_case c;

        open_case(&c, board, "U5", false, rows[i].faults);
        c.bench.target.bus->get_condition(c.bench.target.context, rows[i].which, &before);
        CHECK(rmg_verify_series(&c.rom, &c.bench.target, 2, i % 2 ? c.good : NULL, rows[i].which,
                                rows[i].low, rows[i].high, rows[i].step, steps, 16, &count, NULL,
                                NULL) == RMG_OK &&
                  count == (size_t)((rows[i].high - rows[i].low) / rows[i].step) + 1u,
              "all steps");
        for (size_t s = 0; s < count; s++)
            if (!first && (steps[s].wrong_bits || steps[s].first_wrong))
                first = steps[s].value;
        c.bench.target.bus->get_condition(c.bench.target.context, rows[i].which, &after);
        if (i != 2)
            CHECK(first == rows[i].first, "%s: first at %d", rows[i].faults, first);
        else /* against the first step, which is itself wrong, the later ones differ */
            CHECK(first == 4750, "%s: first at %d", rows[i].faults, first);
        CHECK(after == before, "put back: %d to %d", before, after);
        CHECK(rmg_verify_series(&c.rom, &c.bench.target, 2, c.good, rows[i].which, 1, 1000, 1,
                                steps, 16, &count, NULL, NULL) == RMG_ERR_ARGUMENT,
              "too many steps");
        end_case(&c);
    }
    rmg_board_free(board);
}

static double sim_seconds(void *context)
{
    const chip_case *c = context;

    return (double)c->bench.sim.now_ns / 1e9;
}

static void watching(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_rom_passes w;
    chip_case c;

    open_case(&c, board, "U52", true,
              "{kind: fading bits, socket: U52, one-cell-in: 300, from-c: 40}");
    CHECK(rmg_rom_passes_begin(&w, &c.rom, &c.bench.target) == RMG_OK, "begins");
    for (int heat = 25; heat <= 45; heat += 5) {
        rmg_sim_set(&c.bench.sim, RMG_CONDITION_HEAT_MILLIC, heat * 1000);
        CHECK(rmg_rom_passes_read(&w, &c.bench.target, sim_seconds, NULL, &c) == RMG_OK, "a pass");
    }
    CHECK(w.count == 5 && w.first_change == 4, "first differed in pass %u", w.first_change);
    CHECK(w.passes[3].heat_millic == 40000 && !w.passes[3].heat_typed &&
              w.passes[2].crc32 == w.passes[0].crc32 && w.passes[3].crc32 != w.passes[0].crc32 &&
              w.passes[4].crc32 == w.passes[3].crc32,
          "its checksums and temperature");
    CHECK(w.passes[3].to_one == w.moved_in_all && !w.passes[3].to_zero && w.moved[0].now == 1 &&
              w.moved[0].pass == 4 && w.passes[4].seconds > w.passes[3].seconds,
          "which bits moved, which way, when");
    w.typed_millic = 21000;
    CHECK(rmg_rom_passes_read(&w, &c.bench.target, sim_seconds, NULL, &c) == RMG_OK &&
              w.passes[5].heat_typed && w.passes[5].heat_millic == 21000,
          "what is typed in goes before what the port reports");
    rmg_rom_passes_end(&w);
    end_case(&c);
    rmg_board_free(board);
}

/* One bit moves, in the first word of the chip and in the last: each is seen, in its pass. */
static void watched_at_both_ends(void)
{
    static const uint64_t words[] = {0, 16383};

    for (size_t i = 0; i < COUNT(words); i++) {
        rmg_board *board = bench_load(HALVORN);
        gchar *fault;
        rmg_rom_passes w;
        chip_case c;
        uint8_t level;

        open_case(&c, board, "U5", true, "");
        level = !(rmg_sim_word(&c.bench.sim, 0, words[i]) >> 5 & 1u);
        end_case(&c);
        fault = g_strdup_printf("{kind: cell stuck, socket: U5, bit: D5, cell: %u, level: %u, "
                                "from-c: 40}",
                                (unsigned)words[i], level);
        open_case(&c, board, "U5", true, fault);
        CHECK(rmg_rom_passes_begin(&w, &c.rom, &c.bench.target) == RMG_OK, "begins");
        for (int heat = 30; heat <= 40; heat += 10) {
            rmg_sim_set(&c.bench.sim, RMG_CONDITION_HEAT_MILLIC, heat * 1000);
            CHECK(rmg_rom_passes_read(&w, &c.bench.target, sim_seconds, NULL, &c) == RMG_OK,
                  "a pass");
        }
        CHECK(w.first_change == 2 && w.moved_in_all == 1 && w.moved_count == 1 &&
                  w.moved[0].word == words[i] && w.moved[0].bit == 5 && w.moved[0].now == level &&
                  w.moved[0].pass == 2,
              "word %u: %u moved", (unsigned)words[i], (unsigned)w.moved_in_all);
        rmg_rom_passes_end(&w);
        end_case(&c);
        g_free(fault);
        rmg_board_free(board);
    }
}

static bool stop_at(void *context, double share)
{
    return share < *(double *)context;
}

/* A reading that is stopped anywhere, kept in a file and continued is the same as one that is
 * not. */
static void cut_off(void)
{
    static const char *const faults =
        "{kind: fading bits, socket: U5, one-cell-in: 300}, {kind: noise, one-in: 900}";
    rmg_board *board = bench_load(HALVORN);
    const char *file = temporary_path("u5.unfinished");
    const size_t counts = 16384 * 8 * sizeof(uint16_t);
    chip_case whole, cut;
    char *text, *broken;
    rmg_error error = {0};

    open_case(&whole, board, "U5", false, faults);
    CHECK(rmg_reading_begin(&whole.v.reading, &whole.rom, 3, &whole.bench.target) == RMG_OK &&
              rmg_reading_run(&whole.v.reading, &whole.bench.target, NULL, NULL) == RMG_OK,
          "whole");
    for (double share = 0; share < 1; share += 0.21) {
        rmg_quality q;

        open_case(&cut, board, "U5", false, faults);
        CHECK(rmg_reading_begin(&cut.v.reading, &cut.rom, 3, &cut.bench.target) == RMG_OK, "begin");
        CHECK(rmg_reading_run(&cut.v.reading, &cut.bench.target, stop_at, &share) ==
                  RMG_ERR_CANCELLED,
              "stopped at %.2f", share);
        rmg_reading_judge(&cut.v.reading, &q);
        CHECK((q.state == RMG_READ_NONE) == (cut.v.reading.position || !cut.v.reading.done),
              "a reading at work is not judged");
        CHECK(rmg_reading_save(&cut.v.reading, file, &error) == RMG_OK, "kept");
        rmg_reading_end(&cut.v.reading);
        CHECK(rmg_reading_load(file, &cut.rom, &cut.bench.target, &cut.v.reading, &error) == RMG_OK,
              "%s", error.what ? error.what : "");
        CHECK(rmg_reading_run(&cut.v.reading, &cut.bench.target, NULL, NULL) == RMG_OK &&
                  memcmp(cut.v.reading.ones, whole.v.reading.ones, counts) == 0 &&
                  memcmp(cut.v.reading.same, whole.v.reading.same, counts) == 0 &&
                  cut.v.reading.low == whole.v.reading.low,
              "stopped at %.2f: the same counts", share);
        end_case(&cut);
    }
    /* not ours to go on with */
    text = file_text(file);
    open_case(&cut, board, "system ROM", false, "");
    CHECK(rmg_reading_load(file, &cut.rom, &cut.bench.target, &cut.v.reading, &error) ==
                  RMG_ERR_CONTENT &&
              strstr(error.what, "of another chip"),
          "%s", error.what);
    rmg_error_free(&error);
    end_case(&cut);
    open_case(&cut, board, "U5", false, "");
    broken = replaced(text, "\"wanted\": 3", "\"wanted\": 0");
    CHECK(rmg_reading_load(temporary_file("b.unfinished", broken), &cut.rom, &cut.bench.target,
                           &cut.v.reading, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "contradict each other"),
          "%s", error.what);
    rmg_error_free(&error);
    g_free(broken);
    broken = replaced(text, "\"zlib_base64\": \"", "\"zlib_base64\": \"AAAA");
    CHECK(rmg_reading_load(temporary_file("b.unfinished", broken), &cut.rom, &cut.bench.target,
                           &cut.v.reading, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "unpacked"),
          "%s", error.what);
    rmg_error_free(&error);
    g_free(broken);
    CHECK(rmg_reading_load(temporary_file("b.unfinished", "{\n\"a\": }"), &cut.rom,
                           &cut.bench.target, &cut.v.reading, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "b.unfinished:2"),
          "%s", error.what);
    rmg_error_free(&error);
    end_case(&cut);
    g_free(text);
    end_case(&whole);
    rmg_board_free(board);
}

/* A port that fails its Nth call: the exact error, and what was read stays. */
typedef struct failing {
    const rmg_target *to;
    uint64_t left;
} failing;

static rmg_status failing_read(void *context, rmg_addr address, rmg_word *value)
{
    failing *f = context;

    if (!f->left)
        return RMG_ERR_PORT_LOST;
    f->left--;
    return f->to->bus->read(f->to->context, address, value);
}

static rmg_status failing_write(void *context, rmg_addr address, rmg_word value)
{
    failing *f = context;

    if (!f->left)
        return RMG_ERR_PORT;
    f->left--;
    return f->to->bus->write(f->to->context, address, value);
}

static void port_fails(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = failing_read, .write = failing_write};
    rmg_board *board = bench_load(HALVORN);

    for (uint64_t n = 0; n < 110000; n += n < 4 ? 1 : 9999) {
        const uint64_t all = 2u * 3u * 16384u;
        failing f;
        rmg_target target = {&bus, &f, 0xFF};
        rmg_status status;
        chip_case c;

        open_case(&c, board, "U5", false, "");
        f = (failing){&c.bench.target, n};
        status = rmg_verify_run(&c.v, &c.rom, &target, 3, c.good, NULL, 0, NULL, NULL);
        CHECK(status == (n >= all ? RMG_OK
                         : n % 2  ? RMG_ERR_PORT_LOST
                                  : RMG_ERR_PORT),
              "call %u: %s", (unsigned)n, rmg_status_text(status));
        CHECK(c.v.reading.done == MIN(n / (2u * 16384u), 3u), "call %u: %u whole readings",
              (unsigned)n, c.v.reading.done);
        CHECK(rmg_verify_series(&c.rom, &target, 1, c.good, RMG_CONDITION_CLOCK_HZ, 1000, 2000,
                                1000, (rmg_verify_step[2]){{0}}, 2, (size_t[]){0}, NULL,
                                NULL) == RMG_ERR_PORT_CANNOT,
              "a port without conditions says so");
        end_case(&c);
    }
    rmg_board_free(board);
}

CU_TestInfo rom_tests[] = {
    {"healthy chips", healthy},
    {"empty, blank, not enabled", empty_blank_not_enabled},
    {"three alike prove nothing", three_alike_prove_nothing},
    {"refused", refused},
    {"unsteady bits", unsteady_bits},
    {"conditions", conditions},
    {"watching", watching},
    {"cut off", cut_off},
    {"port fails", port_fails},
    {"watched at both ends", watched_at_both_ends},
    CU_TEST_INFO_NULL,
};
