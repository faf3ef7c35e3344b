/* Pictures of a run's failures: by row and column of a chip or bank, and over the passes. Bars
 * beside the map tell rows and columns without colour. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "pen.h"
#include "rimeglass/report.h"

#define LEFT 96.0
#define TOP  112.0
#define SIDE 560.0 /* room of the map */
#define BARS 110.0 /* of the bars beside it */

#define INK_DARK  0x1D232C
#define INK_SOFT  0x5A616B
#define INK_PAPER 0xFBFAF7
#define INK_FIELD 0xECEAE3
#define INK_LOW   0xB03A00 /* reads 0 for 1 */
#define INK_HIGH  0x1F5FA8 /* reads 1 for 0 */

#define MOST_SIDE 512u /* cells of the picture in either direction */

/* Failing bits by row and column address. Several rows or columns may share a place of the picture.
 */
typedef struct failure_map {
    const rmg_run *run;
    uint16_t socket; /* or RMG_NO_SOCKET: */
    uint8_t bank;    /* a whole bank */
    uint8_t row_lines, column_lines;
    uint8_t row_shift, column_shift; /* of an address to its place */
    uint32_t rows, columns;          /* places */
    uint8_t *places;                 /* [rows * columns]: 1 low, 2 high */
    uint64_t *by_row, *by_column;    /* failing bits */
    uint64_t low, high;
} failure_map;

static void box(cairo_t *cr, double x, double y, double w, double h, unsigned rgb)
{
    rmg_pen_ink(cr, rgb);
    cairo_rectangle(cr, x, y, w, h);
    cairo_fill(cr);
}

static void add_failure(failure_map *m, const rmg_rule *rule, rmg_addr address, rmg_word high,
                        rmg_word low)
{
    const rmg_addr cell = rmg_rule_cell(rule, address);
    const rmg_word bits = rmg_rule_bits(rule);
    const uint32_t row = (uint32_t)((cell & (((rmg_addr)1 << m->row_lines) - 1u)) >> m->row_shift);
    const uint32_t column = (uint32_t)(cell >> m->row_lines >> m->column_shift);
    const uint64_t count = (uint64_t)__builtin_popcountll((high & bits) | (low & bits));

    if (!count)
        return;
    m->places[(size_t)row * m->columns + column] |=
        (uint8_t)(((low & bits) != 0) | ((high & bits) != 0) << 1);
    m->by_row[row] += count;
    m->by_column[column] += count;
    m->low += (uint64_t)__builtin_popcountll(low & bits);
    m->high += (uint64_t)__builtin_popcountll(high & bits);
}

static void see_failure(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    failure_map *m = context;
    const rmg_placement *placement = &m->run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if ((m->socket != RMG_NO_SOCKET ? rule->socket == m->socket : rule->bank == m->bank) &&
            rmg_where_holds(&rule->where, address))
            add_failure(m, rule, address, high, low);
    }
}

/* The part tells rows and columns; where it has none, the lower half of its lines counts as rows.
 */
static void make_map(failure_map *m, const rmg_part *part)
{
    m->row_lines = part->row_lines ? part->row_lines : part->address_lines / 2u;
    m->column_lines = (uint8_t)(part->address_lines - m->row_lines);
    while (1u << (m->row_lines - m->row_shift) > MOST_SIDE)
        m->row_shift++;
    while (1u << (m->column_lines - m->column_shift) > MOST_SIDE)
        m->column_shift++;
    m->rows = 1u << (m->row_lines - m->row_shift);
    m->columns = 1u << (m->column_lines - m->column_shift);
    m->places = g_new0(uint8_t, (size_t)m->rows * m->columns);
    m->by_row = g_new0(uint64_t, m->rows);
    m->by_column = g_new0(uint64_t, m->columns);
    rmg_failset_each(m->run->failures, see_failure, m);
}

static void free_map(failure_map *m)
{
    g_free(m->places);
    g_free(m->by_row);
    g_free(m->by_column);
}

static uint64_t highest(const uint64_t *counts, uint32_t count)
{
    uint64_t most = 1;

    for (uint32_t i = 0; i < count; i++)
        most = MAX(most, counts[i]);
    return most;
}

static void say_number(cairo_t *cr, double x, double y, double align, uint64_t number)
{
    gchar *text = g_strdup_printf("%" G_GUINT64_FORMAT, number);

    rmg_pen_ink(cr, INK_SOFT);
    rmg_pen_say(cr, x, y, 12, false, align, text);
    g_free(text);
}

static void draw_axes(cairo_t *cr, const failure_map *m, double w, double h)
{
    const bool real = m->run->board->banks[m->bank].part->row_lines != 0;

    for (unsigned i = 0; i <= 4; i++) {
        const uint64_t rows = (uint64_t)m->rows << m->row_shift;
        const uint64_t columns = (uint64_t)m->columns << m->column_shift;

        say_number(cr, LEFT - 10, TOP + h * i / 4 + 4, 1, i == 4 ? rows - 1 : rows * i / 4);
        say_number(cr, LEFT + w * i / 4, TOP - 10, 0.5, i == 4 ? columns - 1 : columns * i / 4);
    }
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, LEFT + w / 2, TOP - 28, 14, true, 0.5,
                real ? "column address" : "upper address lines");
    cairo_save(cr);
    cairo_translate(cr, 30, TOP + h / 2);
    cairo_rotate(cr, -1.5707963);
    rmg_pen_say(cr, 0, 0, 14, true, 0.5, real ? "row address" : "lower address lines");
    cairo_restore(cr);
}

static void draw_places(cairo_t *cr, const failure_map *m, double w, double h)
{
    const double cw = w / m->columns, ch = h / m->rows;

    box(cr, LEFT, TOP, w, h, INK_FIELD);
    cairo_set_antialias(cr, CAIRO_ANTIALIAS_NONE); /* neighbours are to touch */
    for (uint32_t row = 0; row < m->rows; row++)
        for (uint32_t column = 0; column < m->columns; column++) {
            const uint8_t place = m->places[(size_t)row * m->columns + column];
            const double x = LEFT + column * cw, y = TOP + row * ch;

            if (!place)
                continue;
            box(cr, x, y, MAX(cw, 2), MAX(ch, 2),
                place == 1   ? INK_LOW
                : place == 2 ? INK_HIGH
                             : INK_DARK);
            if (place == 2 && cw >= 4) /* an empty frame: it reads 1 */
                box(cr, x + 1, y + 1, cw - 2, ch - 2, INK_PAPER);
        }
}

/* Failing bits of each row to the right, of each column below. */
static void draw_bars(cairo_t *cr, const failure_map *m, double w, double h)
{
    const uint64_t most_row = highest(m->by_row, m->rows);
    const uint64_t most_column = highest(m->by_column, m->columns);
    const double cw = w / m->columns, ch = h / m->rows;

    for (uint32_t i = 0; i < m->rows; i++)
        if (m->by_row[i])
            box(cr, LEFT + w + 10, TOP + i * ch,
                MAX(BARS * (double)m->by_row[i] / (double)most_row, 1.5), MAX(ch, 1.5), INK_SOFT);
    for (uint32_t i = 0; i < m->columns; i++)
        if (m->by_column[i])
            box(cr, LEFT + i * cw, TOP + h + 10, MAX(cw, 1.5),
                MAX(60.0 * (double)m->by_column[i] / (double)most_column, 1.5), INK_SOFT);
    cairo_set_antialias(cr, CAIRO_ANTIALIAS_DEFAULT);
    rmg_pen_ink(cr, INK_SOFT);
    rmg_pen_say(cr, LEFT + w + 24, TOP - 10, 12, false, 0, "failing bits by row");
    rmg_pen_say(cr, LEFT + w + 10, TOP + h + 24, 12, false, 0, "failing bits by column");
    say_number(cr, LEFT + w + 10 + BARS + 6, TOP + 10, 0, most_row);
}

/* What the eye is to find, in words. */
static void draw_words(cairo_t *cr, const failure_map *m, double x)
{
    uint32_t rows = 0, columns = 0;
    double y = TOP + 20;
    gchar *lines[5];

    for (uint32_t i = 0; i < m->rows; i++)
        rows += m->by_row[i] > 0;
    for (uint32_t i = 0; i < m->columns; i++)
        columns += m->by_column[i] > 0;
    lines[0] = g_strdup_printf("%" G_GUINT64_FORMAT " failing bits read 0 for 1", m->low);
    lines[1] = g_strdup_printf("%" G_GUINT64_FORMAT " failing bits read 1 for 0", m->high);
    lines[2] = g_strdup_printf("in %u of %u rows", rows, m->rows);
    lines[3] = g_strdup_printf("and %u of %u columns", columns, m->columns);
    lines[4] =
        g_strdup_printf("%" G_GUINT64_FORMAT " passes, %s", m->run->pass_count, m->run->steps.name);
    for (size_t i = 0; i < 5; i++, y += 26) {
        rmg_pen_ink(cr, INK_DARK);
        rmg_pen_say(cr, x, y, 15, false, 0, lines[i]);
        g_free(lines[i]);
    }
    y += 20;
    box(cr, x, y - 12, 14, 14, INK_LOW);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, x + 22, y, 14, false, 0, "reads 0 for 1 (full)");
    y += 28;
    box(cr, x, y - 12, 14, 14, INK_HIGH);
    box(cr, x + 3, y - 9, 8, 8, INK_PAPER);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, x + 22, y, 14, false, 0, "reads 1 for 0 (frame, where there is room)");
    y += 28;
    box(cr, x, y - 12, 14, 14, INK_DARK);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, x + 22, y, 14, false, 0, "both ways");
}

static void map_sheet(cairo_t *cr, void *context)
{
    const failure_map *m = context;
    const rmg_board *board = m->run->board;
    const double w = SIDE, h = SIDE;
    gchar *title =
        m->socket != RMG_NO_SOCKET
            ? g_strdup_printf("%s, %s: failures by row and column", board->sockets[m->socket].name,
                              board->sockets[m->socket].part->number)
            : g_strdup_printf("Failures of %s by row and column", board->banks[m->bank].called);

    rmg_pen_ink(cr, INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, 24, 40, 22, true, 0, title);
    rmg_pen_ink(cr, INK_SOFT);
    rmg_pen_say(cr, 24, 64, 14, false, 0, board->name);
    g_free(title);
    draw_axes(cr, m, w, h);
    draw_places(cr, m, w, h);
    draw_bars(cr, m, w, h);
    draw_words(cr, m, LEFT + w + BARS + 90);
}

rmg_status rmg_draw_failures(const rmg_run *run, const char *what, const char *file,
                             rmg_error *error)
{
    const rmg_board *board = run->board;
    failure_map m = {
        .run = run, .socket = rmg_board_socket(board, what), .bank = rmg_board_bank(board, what)};
    rmg_status status;

    for (uint16_t r = 0; m.socket != RMG_NO_SOCKET && r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == m.socket)
            m.bank = board->placement.rules[r].bank;
    if (m.bank == RMG_NO_BANK) {
        rmg_fail(error, RMG_ERR_ARGUMENT, what,
                 "the board %s has no bank and no socket with memory \"%s\"", board->name, what);
        return RMG_ERR_ARGUMENT;
    }
    make_map(&m, board->banks[m.bank].part);
    status = rmg_pen_picture(file, map_sheet, &m, error);
    free_map(&m);
    return status;
}

/* Failing reads of each pass, and the temperature where the port told it. */
static void course_sheet(cairo_t *cr, void *context)
{
    const rmg_run *run = context;
    const double w = RMG_PEN_WIDTH - LEFT - 120, h = RMG_PEN_HEIGHT - TOP - 90;
    const size_t n = run->stretch_count;
    double most = 1, coldest = 1e9, hottest = -1e9;
    bool heat = true;
    gchar *text;

    rmg_pen_ink(cr, INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, 24, 40, 22, true, 0,
                run->stretch_passes > 1 ? "Failing reads over the run"
                                        : "Failing reads, pass by pass");
    rmg_pen_ink(cr, INK_SOFT);
    rmg_pen_say(cr, 24, 64, 14, false, 0, run->board->name);
    for (size_t i = 0; i < n; i++) {
        most = MAX(most, (double)run->stretches[i].failing_reads);
        heat &= run->stretches[i].heat_millic != RMG_NOT_KNOWN;
        coldest = MIN(coldest, run->stretches[i].heat_millic / 1000.0);
        hottest = MAX(hottest, run->stretches[i].heat_millic / 1000.0);
    }
    box(cr, LEFT, TOP, w, h, INK_FIELD);
    for (size_t i = 0; i < n; i++) {
        const double bar = h * (double)run->stretches[i].failing_reads / most;

        if (run->stretches[i].failing_reads)
            box(cr, LEFT + w * (double)i / (double)n, TOP + h - bar,
                MAX(w / (double)n - (w / (double)n > 4 ? 1 : 0), 1.5), bar, INK_LOW);
    }
    say_number(cr, LEFT - 10, TOP + 10, 1, (uint64_t)most);
    say_number(cr, LEFT - 10, TOP + h, 1, 0);
    say_number(cr, LEFT, TOP + h + 20, 0, 1);
    say_number(cr, LEFT + w, TOP + h + 20, 1, run->pass_count);
    rmg_pen_ink(cr, INK_DARK);
    rmg_pen_say(cr, LEFT + w / 2, TOP + h + 24, 14, true, 0.5, "pass");
    text = run->stretch_passes > 1
               ? g_strdup_printf("failing reads in each %" G_GUINT64_FORMAT " passes (bars)",
                                 run->stretch_passes)
               : g_strdup("failing reads in the pass (bars)");
    rmg_pen_say(cr, LEFT, TOP - 12, 14, true, 0, text);
    g_free(text);
    if (!heat || hottest - coldest < 0.1)
        return;
    rmg_pen_ink(cr, INK_HIGH);
    cairo_set_line_width(cr, 2.5);
    cairo_new_path(cr);
    for (size_t i = 0; i < n; i++)
        cairo_line_to(
            cr, LEFT + w * ((double)i + 0.5) / (double)n,
            TOP + h - h * (run->stretches[i].heat_millic / 1000.0 - coldest) / (hottest - coldest));
    cairo_stroke(cr);
    text = g_strdup_printf("%.0f C", hottest);
    rmg_pen_say(cr, LEFT + w + 10, TOP + 10, 14, true, 0, text);
    g_free(text);
    text = g_strdup_printf("%.0f C", coldest);
    rmg_pen_say(cr, LEFT + w + 10, TOP + h, 14, true, 0, text);
    g_free(text);
    rmg_pen_say(cr, LEFT + w, TOP - 12, 14, true, 1, "temperature at its end (line)");
}

rmg_status rmg_draw_course(const rmg_run *run, const char *file, rmg_error *error)
{
    if (!run->pass_count) {
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the run has not one whole pass to draw");
    }
    return rmg_pen_picture(file, course_sheet, (void *)(uintptr_t)run, error);
}
