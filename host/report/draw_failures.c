/* Pictures of a run's failures by row and column: of one chip, large, or of each chip of a bank.
 * Bars beside a large map show rows and columns without colour. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "draw_first.h"
#include "pen.h"
#include "rimeglass/report.h"

#define LEFT 96.0
#define TOP  112.0
#define SIDE 560.0 /* room of a large map */
#define BARS 110.0 /* of the bars beside it */

#define MOST_SIDE   512u                /* cells of a picture in either direction */
#define MOST_MARKED ((uint64_t)1 << 22) /* more words than these all count as tested */
#define MOST_NAMED  6u                  /* rows or columns that are numbered */

/* What a place of the picture shows. */
enum {
    LOW = 1,   /* some cell read 0 for 1 */
    HIGH = 2,  /* some cell read 1 for 0 */
    TESTED = 4 /* some cell was tested */
};

/* What of it is in the picture, and so stands in its key: bits by number of the key's line. */
enum { KEY_LOW = 1, KEY_HIGH = 2, KEY_BOTH = 4, KEY_GAP = 8 };

/* Failing bits of one chip by row and column address. Several rows or columns may share a place of
 * the picture. */
typedef struct failure_map {
    const rmg_run *run;
    uint16_t socket;
    const rmg_part *part;
    uint8_t row_lines;
    uint8_t row_shift, column_shift; /* of an address to its place */
    uint32_t rows, columns;          /* places */
    uint8_t *places;                 /* [rows * columns]: marks as above */
    uint64_t *by_row, *by_column;    /* failing bits */
    uint64_t low, high;
    rmg_word bits;  /* data bits that the chip holds */
    unsigned shown; /* KEY_...: what its places show */
} failure_map;

typedef struct failure_sheet {
    const rmg_run *run;
    uint8_t bank; /* of which each chip has a map */
    failure_map *maps;
    size_t count;
} failure_sheet;

static uint8_t *place_of(const failure_map *m, const rmg_rule *rule, rmg_addr address,
                         uint32_t *row, uint32_t *column)
{
    const rmg_addr cell = rmg_rule_cell(rule, address);

    *row = (uint32_t)((cell & (((rmg_addr)1 << m->row_lines) - 1u)) >> m->row_shift);
    *column = (uint32_t)(cell >> m->row_lines >> m->column_shift);
    return &m->places[(size_t)*row * m->columns + *column];
}

static void add_failure(failure_map *m, const rmg_rule *rule, rmg_addr address, rmg_word high,
                        rmg_word low)
{
    const rmg_word bits = rmg_rule_bits(rule);
    const uint64_t count = (uint64_t)__builtin_popcountll((high & bits) | (low & bits));
    uint32_t row, column;
    uint8_t *place;

    if (!count)
        return;
    place = place_of(m, rule, address, &row, &column);
    *place |= (uint8_t)(((low & bits) ? LOW : 0) | ((high & bits) ? HIGH : 0));
    m->by_row[row] += count;
    m->by_column[column] += count;
    m->low += (uint64_t)__builtin_popcountll(low & bits);
    m->high += (uint64_t)__builtin_popcountll(high & bits);
}

static void see_failure(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    failure_map *m = context;
    const rmg_placement *placement = &m->run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (placement->rules[r].socket == m->socket &&
            rmg_where_holds(&placement->rules[r].where, address))
            add_failure(m, &placement->rules[r], address, high, low);
}

/* Marks the places that hold a tested cell: a half that the board does not use, or a range that
 * was left out, must not look as if it were good. */
static void mark_tested(failure_map *m)
{
    const rmg_run *run = m->run;
    const rmg_placement *placement = &run->board->placement;
    uint32_t row, column;

    for (size_t i = 0; run->tested_words > MOST_MARKED && i < (size_t)m->rows * m->columns; i++)
        m->places[i] |= TESTED;
    for (uint16_t r = 0; run->tested_words <= MOST_MARKED && r < placement->rule_count; r++)
        for (size_t i = 0; placement->rules[r].socket == m->socket && i < run->tested_count; i++)
            for (rmg_addr a = run->tested[i].first;; a++) {
                if (rmg_where_holds(&placement->rules[r].where, a))
                    *place_of(m, &placement->rules[r], a, &row, &column) |= TESTED;
                if (a == run->tested[i].last)
                    break;
            }
    for (size_t i = 0; i < (size_t)m->rows * m->columns; i++)
        m->shown |= (m->places[i] & 3u) == LOW    ? KEY_LOW
                    : (m->places[i] & 3u) == HIGH ? KEY_HIGH
                    : m->places[i] & 3u           ? KEY_BOTH
                    : !m->places[i]               ? KEY_GAP
                                                  : 0u;
}

/* The part gives rows and columns; where it has none, the lower half of its lines counts as rows.
 */
static void make_map(failure_map *m, const rmg_run *run, uint16_t socket, const rmg_part *part)
{
    uint8_t column_lines;

    *m = (failure_map){.run = run, .socket = socket, .part = part};
    m->row_lines = part->row_lines ? part->row_lines : part->address_lines / 2u;
    column_lines = (uint8_t)(part->address_lines - m->row_lines);
    while (1u << (m->row_lines - m->row_shift) > MOST_SIDE)
        m->row_shift++;
    while (1u << (column_lines - m->column_shift) > MOST_SIDE)
        m->column_shift++;
    m->rows = 1u << (m->row_lines - m->row_shift);
    m->columns = 1u << (column_lines - m->column_shift);
    m->places = g_new0(uint8_t, (size_t)m->rows * m->columns);
    m->by_row = g_new0(uint64_t, m->rows);
    m->by_column = g_new0(uint64_t, m->columns);
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++)
        if (run->board->placement.rules[r].socket == socket)
            m->bits |= rmg_rule_bits(&run->board->placement.rules[r]);
    rmg_failset_each(run->failures, see_failure, m);
    mark_tested(m);
}

static void free_sheet(failure_sheet *s)
{
    for (size_t i = 0; i < s->count; i++) {
        g_free(s->maps[i].places);
        g_free(s->maps[i].by_row);
        g_free(s->maps[i].by_column);
    }
    g_free(s->maps);
}

static uint64_t highest(const uint64_t *counts, uint32_t count)
{
    uint64_t most = 1;

    for (uint32_t i = 0; i < count; i++)
        most = MAX(most, counts[i]);
    return most;
}

static uint32_t failing(const uint64_t *counts, uint32_t count)
{
    uint32_t some = 0;

    for (uint32_t i = 0; i < count; i++)
        some += counts[i] > 0;
    return some;
}

static void draw_axes(cairo_t *cr, const failure_map *m, double w, double h)
{
    const bool real = m->part->row_lines != 0;

    for (unsigned i = 0; i <= 4; i++) {
        const uint64_t rows = (uint64_t)m->rows << m->row_shift;
        const uint64_t columns = (uint64_t)m->columns << m->column_shift;

        rmg_pen_number(cr, LEFT - 10, TOP + h * i / 4 + 4, 1, i == 4 ? rows - 1 : rows * i / 4);
        rmg_pen_number(cr, LEFT + w * i / 4, TOP - 10, 0.5, i == 4 ? columns - 1 : columns * i / 4);
    }
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, LEFT + w / 2, TOP - 28, 14, true, 0.5,
                real ? "column address" : "upper address lines");
    cairo_save(cr);
    cairo_translate(cr, 30, TOP + h / 2);
    cairo_rotate(cr, -1.5707963);
    rmg_pen_say(cr, 0, 0, 14, true, 0.5, real ? "row address" : "lower address lines");
    cairo_restore(cr);
}

static void draw_places(cairo_t *cr, const failure_map *m, double left, double top, double side)
{
    const double cw = side / m->columns, ch = side / m->rows;

    rmg_pen_hatch(cr, left, top, side, side);
    cairo_set_antialias(cr, CAIRO_ANTIALIAS_NONE); /* neighbours are to touch */
    for (uint32_t row = 0; row < m->rows; row++)
        for (uint32_t column = 0; column < m->columns; column++) {
            const uint8_t place = m->places[(size_t)row * m->columns + column];
            const double x = left + column * cw, y = top + row * ch;

            if (place == TESTED)
                rmg_pen_box(cr, x, y, cw, ch, RMG_INK_FIELD);
        }
    for (uint32_t row = 0; row < m->rows; row++)
        for (uint32_t column = 0; column < m->columns; column++) {
            const uint8_t place = m->places[(size_t)row * m->columns + column] & (LOW | HIGH);
            const double x = left + column * cw, y = top + row * ch;

            if (!place)
                continue;
            rmg_pen_box(cr, x, y, MAX(cw, 2), MAX(ch, 2),
                        place == LOW    ? RMG_INK_LOW
                        : place == HIGH ? RMG_INK_HIGH
                                        : RMG_INK_DARK);
            if (place == HIGH && cw >= 4) /* an empty frame: it reads 1 */
                rmg_pen_box(cr, x + 1, y + 1, cw - 2, ch - 2, RMG_INK_PAPER);
        }
    cairo_set_antialias(cr, CAIRO_ANTIALIAS_DEFAULT);
}

/* Failing bits of each row to the right, of each column below; where few fail, their numbers. */
static void draw_bars(cairo_t *cr, const failure_map *m, double w, double h)
{
    const uint64_t most_row = highest(m->by_row, m->rows);
    const uint64_t most_column = highest(m->by_column, m->columns);
    const double cw = w / m->columns, ch = h / m->rows;
    const bool named_rows = failing(m->by_row, m->rows) <= MOST_NAMED;
    const bool named_columns = failing(m->by_column, m->columns) <= MOST_NAMED;
    double last = 0;

    cairo_set_antialias(cr, CAIRO_ANTIALIAS_NONE); /* neighbours are to touch */
    for (uint32_t i = 0; i < m->rows; i++) {
        const double bar = MAX(BARS * (double)m->by_row[i] / (double)most_row, 1.5);

        if (!m->by_row[i])
            continue;
        rmg_pen_box(cr, LEFT + w + 10, TOP + i * ch, bar, MAX(ch, 1.5), RMG_INK_SOFT);
        if (named_rows && TOP + (i + 0.5) * ch - last > 14) {
            last = TOP + (i + 0.5) * ch;
            rmg_pen_number(cr, LEFT + w + 16 + bar, last + 4, 0, (uint64_t)i << m->row_shift);
        }
    }
    last = 0;
    for (uint32_t i = 0; i < m->columns; i++) {
        const double bar = MAX(60.0 * (double)m->by_column[i] / (double)most_column, 1.5);

        if (!m->by_column[i])
            continue;
        rmg_pen_box(cr, LEFT + i * cw, TOP + h + 10, MAX(cw, 1.5), bar, RMG_INK_SOFT);
        if (named_columns && LEFT + (i + 0.5) * cw - last > 30) {
            last = LEFT + (i + 0.5) * cw;
            rmg_pen_number(cr, last, TOP + h + 24 + bar, 0.5, (uint64_t)i << m->column_shift);
        }
    }
    cairo_set_antialias(cr, CAIRO_ANTIALIAS_DEFAULT);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, LEFT + w + 24, TOP - 10, 12, false, 0, "failing bits by row");
    rmg_pen_say(cr, LEFT + w + 10, TOP + h + 24, 12, false, 0, "failing bits by column");
    if (!named_rows)
        rmg_pen_number(cr, LEFT + w + 10 + BARS + 6, TOP + 10, 0, most_row);
}

/* "in 1 of 128 rows: 37". */
static gchar *listed(const char *lead, const uint64_t *counts, uint32_t count, uint8_t shift,
                     const char *what)
{
    const uint32_t some = failing(counts, count);
    GString *text = g_string_new(NULL);

    g_string_printf(text, "%s %u of %u %s", lead, some, count, what);
    for (uint32_t i = 0, said = 0; some && some <= MOST_NAMED && i < count; i++)
        if (counts[i])
            g_string_append_printf(text, "%s%" G_GUINT64_FORMAT, said++ ? ", " : ": ",
                                   (guint64)i << shift);
    return g_string_free(text, FALSE);
}

static void draw_key(cairo_t *cr, double x, double y, double down, double right, unsigned shown)
{
    static const struct {
        unsigned ink;
        const char *words;
        double width;
    } keys[] = {
        {RMG_INK_LOW, "reads 0 for 1 (full)", 200},
        {RMG_INK_HIGH, "reads 1 for 0 (frame, where there is room)", 350},
        {RMG_INK_DARK, "both ways", 120},
        {0, "not tested, or not used here", 220},
    };

    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        if (!(shown >> i & 1u))
            continue;
        if (keys[i].ink)
            rmg_pen_box(cr, x, y - 12, 14, 14, keys[i].ink);
        else
            rmg_pen_hatch(cr, x, y - 12, 14, 14);
        if (keys[i].ink == RMG_INK_HIGH)
            rmg_pen_box(cr, x + 3, y - 9, 8, 8, RMG_INK_PAPER);
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x + 22, y, 14, false, 0, keys[i].words);
        y += down;
        x += right > 0 ? keys[i].width : 0;
    }
}

/* What the eye is to find, in words. */
static void draw_words(cairo_t *cr, const failure_map *m, const rmg_first_failed *first, double x)
{
    double y = TOP + 20;
    gchar *lines[5];

    lines[0] = g_strdup_printf("bits that read 0 for 1: %" G_GUINT64_FORMAT, m->low);
    lines[1] = g_strdup_printf("bits that read 1 for 0: %" G_GUINT64_FORMAT, m->high);
    lines[2] = listed("in", m->by_row, m->rows, m->row_shift, "rows");
    lines[3] = listed("and", m->by_column, m->columns, m->column_shift, "columns");
    lines[4] =
        g_strdup_printf("%" G_GUINT64_FORMAT " passes, %s", m->run->pass_count, m->run->steps.name);
    for (size_t i = 0; i < 5; i++, y += 26) {
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x, y, 15, false, 0, lines[i]);
        g_free(lines[i]);
    }
    draw_key(cr, x, y + 20, 28, 0, m->shown);
    rmg_draw_first_failed(cr, first, x, y + 160);
}

static void draw_title(cairo_t *cr, const rmg_board *board, gchar *title)
{
    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 40, 22, true, 0, title);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 64, 14, false, 0, board->name);
    g_free(title);
}

static void large_sheet(cairo_t *cr, void *context)
{
    const failure_map *m = ((const failure_sheet *)context)->maps;
    const rmg_board *board = m->run->board;
    const rmg_first_failed first = rmg_first_failed_of(m->run, m->socket, m->row_lines);

    draw_title(cr, board,
               g_strdup_printf("%s, %s: failures by row and column", board->sockets[m->socket].name,
                               m->part->number));
    draw_axes(cr, m, SIDE, SIDE);
    draw_places(cr, m, LEFT, TOP, SIDE);
    draw_bars(cr, m, SIDE, SIDE);
    if (first.partner) {
        cairo_set_line_width(cr, 2);
        rmg_pen_ink(cr, RMG_INK_DARK);
        cairo_new_path(cr);
        cairo_arc(cr,
                  LEFT +
                      ((double)(first.partner_column >> m->column_shift) + 0.5) * SIDE / m->columns,
                  TOP + ((double)(first.partner_row >> m->row_shift) + 0.5) * SIDE / m->rows, 8, 0,
                  2 * G_PI);
        cairo_stroke(cr);
    }
    draw_words(cr, m, &first, LEFT + SIDE + BARS + 90);
}

/* "U19, D7", "U4, D0-D3". */
static gchar *chip_title(const failure_map *m)
{
    const unsigned first = (unsigned)__builtin_ctzll(m->bits); /* a chip holds a bit at least */
    const unsigned last = 63u - (unsigned)__builtin_clzll(m->bits);
    const char *name = m->run->board->sockets[m->socket].name;

    if (last - first + 1u != (unsigned)__builtin_popcountll(m->bits))
        return g_strdup(name);
    return first == last ? g_strdup_printf("%s, D%u", name, first)
                         : g_strdup_printf("%s, D%u-D%u", name, first, last);
}

/* A map for each chip of the bank, side by side: laid over each other they would show which cells
 * fail, but not of which chip. */
static void bank_sheet(cairo_t *cr, void *context)
{
    const failure_sheet *s = context;
    const rmg_board *board = s->run->board;
    const size_t across = (size_t)ceil(sqrt(2.0 * (double)s->count));
    const size_t down = (s->count + across - 1) / across;
    const double room_w = (RMG_PEN_WIDTH - 48) / (double)across;
    const double room_h = (RMG_PEN_HEIGHT - 96 - 60) / (double)down;
    const double side = MAX(MIN(room_w - 20, room_h - 56), 8);
    unsigned shown = 0;

    draw_title(cr, board,
               g_strdup_printf("Failures of %s, chip by chip", board->banks[s->bank].called));
    rmg_pen_say(cr, RMG_PEN_WIDTH - 24, 64, 14, false, 1,
                board->banks[s->bank].part->row_lines ? "rows downwards, columns to the right"
                                                      : "lower address lines downwards");
    for (size_t i = 0; i < s->count; i++) {
        const failure_map *m = &s->maps[i];
        const double x = 24 + (double)(i % across) * room_w;
        const double y = 96 + (double)(i / across) * room_h;
        gchar *title = chip_title(m);
        gchar *count = m->low + m->high
                           ? g_strdup_printf("%" G_GUINT64_FORMAT " failing", m->low + m->high)
                           : g_strdup("none");

        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x, y + 16, 14, true, 0, title);
        rmg_pen_ink(cr, RMG_INK_SOFT);
        rmg_pen_say(cr, x, y + 34, 13, false, 0, count);
        draw_places(cr, m, x, y + 42, side);
        shown |= m->shown;
        g_free(title);
        g_free(count);
    }
    draw_key(cr, 24, RMG_PEN_HEIGHT - 24, 0, 1, shown);
}

rmg_status rmg_draw_failures_check(const rmg_board *board, const char *what, rmg_error *error)
{
    const uint16_t socket = rmg_board_socket(board, what);
    const uint8_t bank = rmg_board_bank(board, what);
    bool any = false;
    char *hint;

    rmg_error_none(error);
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        any |= board->placement.rules[r].bank != RMG_NO_BANK &&
               (socket != RMG_NO_SOCKET ? board->placement.rules[r].socket == socket
                                        : board->placement.rules[r].bank == bank);
    if (any)
        return RMG_OK;
    hint = rmg_board_name_hint(board, what, RMG_NAMES_BANKS | RMG_NAMES_SOCKETS);
    rmg_fail(error, RMG_ERR_ARGUMENT, what,
             "the board %s has no bank and no socket with memory \"%s\"%s", board->name, what,
             hint);
    rmg_text_free(hint);
    return RMG_ERR_ARGUMENT;
}

rmg_status rmg_draw_failures(const rmg_run *run, const char *what, const char *file,
                             rmg_error *error)
{
    const rmg_board *board = run->board;
    const uint16_t socket = rmg_board_socket(board, what);
    const uint8_t bank = rmg_board_bank(board, what);
    failure_sheet s = {.run = run, .bank = bank, .maps = g_new0(failure_map, board->socket_count)};
    rmg_status status = rmg_draw_failures_check(board, what, error);

    for (uint16_t i = 0; i < board->socket_count; i++)
        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *rule = &board->placement.rules[r];

            if (rule->socket == i && rule->bank != RMG_NO_BANK &&
                (socket != RMG_NO_SOCKET ? i == socket : rule->bank == bank)) {
                make_map(&s.maps[s.count++], run, i, board->banks[rule->bank].part);
                break;
            }
        }
    if (status == RMG_OK)
        status =
            rmg_pen_picture(file, socket != RMG_NO_SOCKET ? large_sheet : bank_sheet, &s, error);
    free_sheet(&s);
    return status;
}
