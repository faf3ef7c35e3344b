/* What test ROMs cost: bytes of the image and clocks a word, all steps and texts included, on
 * boards of two banks of 16 KiB, and of three for the 6502. */
#include <stdio.h>
#include <string.h>

#include <glib.h>

#include "rimeglass/deadboard.h"

/* What is said of a processor in docs/test-rom.md: at most so many bytes and clocks. */
typedef struct row {
    const char *name, *processor;
    bool lamp;
    unsigned banks, bits, first, step, digits, rom;
    uint32_t clock;
    const char *serial, *lamp_at;
} row;

static const row rows[] = {
    {"Z80", "Z80", true, 2, 8, 0, 0x4000, 4, 0xC000, 4000000, "port: 0x10", "port: 0x11"},
    {"Z80, lines alone", "Z80", false, 2, 8, 0, 0x4000, 4, 0xC000, 4000000, "port: 0x10", ""},
    {"8080", "8080", true, 2, 8, 0, 0x4000, 4, 0xC000, 2000000, "port: 0x10", "port: 0x11"},
    {"8085", "8085", true, 2, 8, 0, 0x4000, 4, 0xC000, 3000000, "port: 0x10", "port: 0x11"},
    {"6502, three banks", "6502", true, 3, 8, 0, 0x4000, 4, 0xE000, 1000000, "at: 0xD000",
     "at: 0xD001"},
    {"6809", "6809", true, 2, 8, 0, 0x4000, 4, 0xE000, 1000000, "at: 0xD000", "at: 0xD001"},
    {"6809, lines alone", "6809", false, 2, 8, 0, 0x4000, 4, 0xE000, 1000000, "at: 0xD000", ""},
    {"8088", "8086", true, 2, 8, 0, 0x4000, 5, 0xFE000, 5000000, "port: 0x10", "port: 0x11"},
    {"8088, lines alone", "8086", false, 2, 8, 0, 0x4000, 5, 0xFE000, 5000000, "port: 0x10", ""},
    {"8086", "8086", true, 2, 16, 0, 0x4000, 5, 0xFC000, 5000000, "port: 0x10", "port: 0x11"},
    {"68000", "68000", true, 2, 16, 0x10000, 0x4000, 6, 0, 8000000, "at: 0x30000", "at: 0x30002"},
    {"68000, lines alone", "68000", false, 2, 16, 0x10000, 0x4000, 6, 0, 8000000, "at: 0x30000",
     ""},
};

static gchar *board_of(const row *r, const char *march)
{
    GString *text = g_string_new(NULL);
    const bool wide = r->bits == 16;

    g_string_printf(text, "board: cost\nword: %u\naddress-lines: %u\nregions:\n", r->bits,
                    4 * r->digits);
    for (unsigned b = 0; b < r->banks; b++)
        g_string_append_printf(text, "  - {name: R%u, range: 0x%X-0x%X, kind: ram}\n", b,
                               r->first + b * r->step, r->first + (b + 1) * r->step - 1);
    g_string_append_printf(text, "  - {name: ROM, range: 0x%X-0x%X, kind: rom}\nbanks:\n", r->rom,
                           r->rom + (wide ? 0x3FFF : 0x1FFF));
    for (unsigned b = 0; b < r->banks; b++)
        g_string_append_printf(text,
                               "  - {name: B%u, range: 0x%X-0x%X, part: \"%s\", lines: A%u-A%u, "
                               "data: {U%u: D0-D7%s}}\n",
                               b, r->first + b * r->step, r->first + (b + 1) * r->step - 1,
                               wide ? "6264" : "16K8", wide, 13, 1 + 2 * b,
                               wide ? b ? ", U4: D8-D15" : ", U2: D8-D15" : "");
    g_string_append_printf(
        text, "  - {name: P, range: 0x%X-0x%X, part: 2764, lines: A%u-A%u, data: {U20: D0-D7%s}}\n",
        r->rom, r->rom + (wide ? 0x3FFF : 0x1FFF), wide, wide ? 13 : 12,
        wide ? ", U21: D8-D15" : "");
    g_string_append_printf(text,
                           "sockets:\n  - {names: U20-U21, mount: socket}\n"
                           "  - {names: U1-U6, mount: socket}\n"
                           "parts:\n  - {number: 16K8, kind: sram, width: 8, address-lines: "
                           "14}\n"
                           "test-rom:\n  processor: \"%s\"\n  clock: %u\n  socket: [%s]\n"
                           "  serial: {%s, bit: 0, baud: 9600}\n",
                           r->processor, r->clock, wide ? "U20, U21" : "U20", r->serial);
    if (r->lamp)
        g_string_append_printf(text, "  lamp: {%s, bit: 0}\n", r->lamp_at);
    g_string_append_printf(text, "  march: %s\n", march);
    return g_string_free(text, FALSE);
}

#define ROM_PAGES 32u

/* Adds a ROM whose contents are known: at the test ROM's own place, which costs as much. */
static void add_rom(const row *r, rmg_testrom_plan *plan)
{
    const rmg_addr first = (rmg_addr)r->rom >> plan->byte_shift;

    plan->roms[plan->rom_count++] =
        (rmg_testrom_rom){.range = {first, first + ROM_PAGES * 256u - 1u}, .known = true};
    plan->steps[plan->step_count++] = (rmg_testrom_step){RMG_TESTROM_ROM, 0, plan->roms[0].range};
}

static bool cost(const row *r, const char *march, bool rom, size_t *bytes, unsigned *clocks)
{
    gchar *text = board_of(r, march);
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_testrom_plan plan;
    rmg_dead_image image = {0};
    bool good = rmg_board_load_text("cost.yaml", text, &board, &errors) == RMG_OK &&
                rmg_dead_plan(board, &board->rom, &plan, NULL, NULL, &error) == RMG_OK;

    if (good && rom)
        add_rom(r, &plan);
    good = good && rmg_dead_make(&board->rom, &plan, &image, &error) == RMG_OK;

    if (!good)
        fprintf(stderr, "%s: %s\n", r->name, errors.count ? errors.list[0].what : error.what);
    *bytes = image.used + (good ? rmg_testrom_rows[plan.processor].vectors : 0);
    *clocks = image.march_clocks;
    rmg_dead_image_free(&image);
    rmg_errors_free(&errors);
    rmg_error_free(&error);
    rmg_board_free(board);
    g_free(text);
    return good;
}

int main(void)
{
    static const char *const marches[] = {"MATS+", "March C-", "March U"};
    bool good = true;

    printf("%-20s  %-18s  %-18s  %-18s  %s\n", "", "MATS+", "March C-", "March U",
           "another ROM of 32 pages");
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++) {
        size_t without = 0, with = 0;
        unsigned unused;

        printf("%-20s", rows[i].name);
        for (unsigned m = 0; m < 3; m++) {
            unsigned clocks = 0;
            size_t bytes = 0;

            good &= cost(&rows[i], marches[m], false, &bytes, &clocks);
            printf("  %4zu B, %3u clocks", bytes, clocks);
            without = bytes;
        }
        good &= cost(&rows[i], marches[2], true, &with, &unused);
        printf("  +%zu B\n", with - without);
    }
    return good ? 0 : 1;
}
