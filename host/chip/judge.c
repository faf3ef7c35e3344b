/* What a run says of a chip on its own pins: a dead line, a half, a smaller part, rows, columns,
 * cells. */
#include <string.h>

#include "internal.h"

typedef struct failures {
    const rmg_part *part;
    rmg_chip *chip;
    uint64_t by_line[RMG_ADDR_BITS][2]; /* failing cells by the level of each address line */
    uint32_t *by_row, *by_column;
    uint64_t beside;
    const uint8_t *whole_row, *whole_column;
} failures;

static void count_one(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    failures *f = context;

    if (!f->chip->failing)
        f->chip->first = address;
    f->chip->failing++;
    f->chip->high += high != 0;
    f->chip->low += low != 0;
    for (uint8_t line = 0; line < f->part->address_lines; line++)
        f->by_line[line][address >> line & 1u]++;
    if (!f->part->row_lines)
        return;
    f->by_row[address & (((rmg_addr)1 << f->part->row_lines) - 1u)]++;
    f->by_column[address >> f->part->row_lines]++;
}

static void count_beside(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    failures *f = context;

    (void)high;
    (void)low;
    f->beside += !f->whole_row[address & (((rmg_addr)1 << f->part->row_lines) - 1u)] &&
                 !f->whole_column[address >> f->part->row_lines];
}

/* Rows and columns of which a quarter and more fails, where few of the others do. */
static void count_whole(failures *f, const rmg_failset *set)
{
    const unsigned rows = 1u << f->part->row_lines;
    const unsigned columns = 1u << (f->part->address_lines - f->part->row_lines);
    uint8_t *whole_row = g_new0(uint8_t, rows), *whole_column = g_new0(uint8_t, columns);

    for (unsigned r = 0; r < rows; r++)
        if (f->by_row[r] > columns / 4u)
            f->chip->rows += whole_row[r] = 1;
    for (unsigned c = 0; c < columns; c++)
        if (f->by_column[c] > rows / 4u)
            f->chip->columns += whole_column[c] = 1;
    f->whole_row = whole_row;
    f->whole_column = whole_column;
    rmg_failset_each(set, count_beside, f);
    f->chip->cells = f->beside;
    g_free(whole_row);
    g_free(whole_column);
}

/* Lines that change nothing. Those of the highest pin, of a DRAM at row and at column time, of
 * others one or several from the top: a smaller part answers so. */
static bool dead_line(const rmg_run *run, rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    const rmg_wiring *w = &run->wirings[0];
    const uint8_t lines = part->address_lines, rows = part->row_lines;
    uint8_t ignored = 0, top = 0;

    for (uint8_t line = 0; line < lines; line++)
        if (w->ignored[line] && !ignored++)
            chip->pin = rmg_part_address_pin(part, line);
    if (!ignored)
        return false;
    while (top < lines && w->ignored[lines - 1u - top])
        top++;
    chip->smaller_lines = (uint8_t)(lines - ignored);
    chip->state = (rows ? ignored == 2 && lines == 2u * rows && w->ignored[rows - 1u] && top == 1
                        : ignored == top)
                      ? RMG_CHIP_SMALLER
                      : RMG_CHIP_FAILS;
    return true;
}

/* Does only the lower half of its data lines answer, or the lowest, and do all others float? A part
 * of 4 bits, or of 1, answers so. */
static bool narrower(const rmg_run *run, rmg_chip *chip)
{
    static const uint8_t widths[] = {4, 1};
    const rmg_wiring *w = &run->wirings[0];
    const rmg_word all = (rmg_word)(((rmg_word)1 << chip->part->width) - 1u);

    for (size_t i = 0; i < sizeof widths; i++) {
        const rmg_word floating = all & ~(rmg_word)(((rmg_word)1 << widths[i]) - 1u);

        if (widths[i] >= chip->part->width || w->low || w->high != floating)
            continue;
        chip->smaller_width = widths[i];
        chip->smaller_lines = chip->part->address_lines;
        for (uint8_t line = 0; line < chip->part->address_lines; line++)
            chip->smaller_lines = (uint8_t)(chip->smaller_lines - (w->ignored[line] != 0));
        chip->state = RMG_CHIP_SMALLER;
        return true;
    }
    return false;
}

/* Everything that fails lies at one level of a line, and of that half much does. */
static bool one_half(failures *f)
{
    const uint64_t half = (uint64_t)1 << (f->part->address_lines - 1u);

    for (uint8_t line = 0; line < f->part->address_lines; line++)
        for (unsigned level = 0; level < 2; level++)
            if (!f->by_line[line][!level] && f->by_line[line][level] > half / 8u) {
                f->chip->state = RMG_CHIP_HALF;
                f->chip->line = line;
                f->chip->bad_level = level != 0;
                return true;
            }
    return false;
}

void rmg_chip_judge(const rmg_run *run, rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    failures f = {.part = part, .chip = chip};
    const rmg_wiring *w = &run->wirings[0];
    uint8_t in, out, line = 0;

    chip->passes = run->pass_count;
    chip->words = run->tested_words;
    if (!rmg_run_failed(run)) {
        chip->state = RMG_CHIP_GOOD;
        return;
    }
    chip->state = RMG_CHIP_FAILS;
    if (part->row_lines) {
        f.by_row = g_new0(uint32_t, (gsize)1 << part->row_lines);
        f.by_column = g_new0(uint32_t, (gsize)1 << (part->address_lines - part->row_lines));
    }
    rmg_failset_each(run->failures, count_one, &f);
    if (run->wired[0] && narrower(run, chip)) {
        /* said */
    } else if (run->wired[0] && (w->low || w->high)) {
        while (!((w->low | w->high) >> line & 1u))
            line++;
        rmg_part_data_pins(part, line, &in, &out);
        chip->pin = out;
        chip->data = true;
        chip->output_high = w->high >> line & 1u;
        chip->dead_low = w->low;
        chip->dead_high = w->high;
    } else if (!(run->wired[0] && dead_line(run, chip)) && !one_half(&f)) {
        if (part->row_lines)
            count_whole(&f, run->failures);
        else
            chip->cells = chip->failing;
    }
    g_free(f.by_row);
    g_free(f.by_column);
}
