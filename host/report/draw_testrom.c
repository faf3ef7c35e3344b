/* What the blinks of a test ROM mean on this board: a sheet to hang beside the bench. */
#include <glib.h>

#include "internal.h"
#include "pen.h"
#include "rimeglass/report.h"

#define LEFT   60.0
#define TOP    190.0
#define BOTTOM (RMG_PEN_HEIGHT - 70.0)
#define COUNTS 200.0 /* wide: the column of counts */

typedef struct sheet {
    const rmg_board *board;
    const rmg_testrom_plan *plan;
} sheet;

/* So many flashes, as dots. */
static void draw_dots(cairo_t *cr, double x, double y, unsigned count)
{
    rmg_pen_ink(cr, RMG_INK_LOW);
    for (unsigned i = 0; i < count; i++) {
        cairo_arc(cr, x + 9.0 * i + (i / 5) * 6.0, y - 5, 3.4, 0, 2 * G_PI);
        cairo_fill(cr);
    }
}

static void draw_cell(cairo_t *cr, double x, double y, double width, const char *text)
{
    rmg_pen_box(cr, x, y - 19, width - 8, 26, RMG_INK_FIELD);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, x + 10, y, 17, true, 0, text);
}

static void draw_row(cairo_t *cr, const sheet *s, unsigned bit, double y, double width)
{
    static const char *const beside[] = {"an address line", "answers with another",
                                         "several bits at once", "all bits: nothing works"};
    gchar *name = bit < s->plan->word_bits ? g_strdup_printf("D%u", bit) : g_strdup("");

    draw_dots(cr, LEFT, y, bit + 1u);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, LEFT + COUNTS + 30, y, 16, false, 1, name);
    g_free(name);
    for (unsigned b = 0; b < s->plan->bank_count; b++) {
        gchar *text;

        if (bit >= rmg_testrom_code_last(s->plan, (uint8_t)b))
            continue;
        text = bit < s->plan->word_bits
                   ? rmg_testrom_sockets(s->board, &s->plan->banks[b].range, (uint8_t)bit)
                   : g_strdup(beside[bit - s->plan->word_bits]);

        draw_cell(cr, LEFT + COUNTS + 50 + width * b, y, width, text);
        g_free(text);
    }
}

static void draw(cairo_t *cr, void *context)
{
    const sheet *s = context;
    const unsigned rows = rmg_testrom_code_last(s->plan, s->plan->home_bank);
    const double pitch = MIN(44.0, (BOTTOM - TOP) / rows);
    const double width = (RMG_PEN_WIDTH - LEFT * 2 - COUNTS - 50) / s->plan->bank_count;
    gchar *title = g_strdup_printf("%s: what the test ROM %s", s->board->name,
                                   s->plan->lamp.tone ? "beeps" : "blinks");
    GString *others;

    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 44, 26, true, 0, title);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 74, 16, false, 0,
                "At the end of each pass, twice over: so many for the bank (columns), a pause, so "
                "many for what is wrong there (rows).");
    others = g_string_new("One long one: nothing was found. Seven, then one: the ROM itself");
    for (uint8_t rom = 0; rom < s->plan->rom_count; rom++) {
        const rmg_region *region = rmg_board_region_at(s->board, s->plan->roms[rom].range.first);

        if (s->plan->roms[rom].known && region)
            g_string_append_printf(others, "; then %u: ROM %s", rom + 2u, region->name);
    }
    if (rmg_testrom_code_shared(s->plan))
        g_string_append_printf(others, "; %u, then a row: wrong in more than one bank",
                               rmg_testrom_code_shared(s->plan));
    g_string_append_c(others, '.');
    rmg_pen_say(cr, 24, 98, 16, false, 0, others->str);
    g_string_free(others, TRUE);
    for (unsigned b = 0; b < s->plan->bank_count; b++) {
        const double x = LEFT + COUNTS + 60 + width * b;
        const uint8_t of = rmg_dead_bank(s->board, s->plan->banks[b].range.first);

        draw_dots(cr, x, TOP - 52, b + 1u);
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x, TOP - 26, 18, true, 0,
                    of == RMG_NO_BANK ? "memory" : s->board->banks[of].name);
    }
    for (unsigned i = 0; i < rows; i++)
        draw_row(cr, s, i, TOP + pitch * (i + 0.5), width);
    g_free(title);
}

rmg_status rmg_draw_testrom(const rmg_board *board, const rmg_testrom_plan *plan, const char *file,
                            rmg_error *error)
{
    sheet s = {board, plan};

    return rmg_pen_picture(file, draw, &s, error);
}
