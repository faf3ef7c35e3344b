/* A board as it is fitted, for the bench wall: from the component side and, turned over left to
 * right, from the solder side. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "draw_chip.h"
#include "pen.h"
#include "rimeglass/report.h"

#define TOP    92.0
#define MARGIN 32.0
#define ROW    20.0 /* of the list of banks */

typedef struct plan_view {
    const rmg_board *board;
    bool solder_side; /* of the first page */
    cairo_t *cr;
    bool turned;             /* this page shows the solder side */
    double scale, left, top; /* millimetres to the picture */
} plan_view;

static double across(const plan_view *v, double x_mm)
{
    return v->left + (v->turned ? v->board->width_mm - x_mm : x_mm) * v->scale;
}

/* Data bits that the socket holds in its first bank, or "". */
static gchar *bits_of(const rmg_board *board, size_t socket)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == socket)
            return rmg_draw_bits(&board->placement.rules[r]);
    return g_strdup("");
}

/* Pin 1 is the first on the left from above, the first on the right from below. */
static void draw_pin_one(const plan_view *v, double x, double y, double w, double h, unsigned pins)
{
    const double pitch = h / (pins / 2.0);

    cairo_arc(v->cr, v->turned ? x + w + 2 : x - 2, y + pitch / 2, 3.6, 0, 2 * G_PI);
    rmg_pen_ink(v->cr, 0x8C2F00);
    cairo_fill(v->cr);
}

static void draw_socket(const plan_view *v, size_t number)
{
    const rmg_socket *s = &v->board->sockets[number];
    const double dashes[] = {2, 3};
    gchar *bits = bits_of(v->board, number);
    double w, h, x, y;
    const unsigned pins = rmg_draw_chip_size(s, &w, &h);
    double size;

    w *= v->scale;
    h *= v->scale;
    x = across(v, s->x_mm) - w / 2;
    y = v->top + s->y_mm * v->scale - h / 2;
    size = CLAMP(w / 4.2, 8, 15);
    rmg_draw_legs(v->cr, x, y, w, h, pins);
    rmg_draw_chip_path(v->cr, x, y, w, h);
    rmg_pen_ink(v->cr, v->turned ? 0xF3F5F6 : 0xFFFFFF);
    cairo_fill(v->cr);
    rmg_draw_chip_path(v->cr, x, y, w, h);
    rmg_pen_ink(v->cr, RMG_INK_DARK);
    cairo_set_line_width(v->cr, 1.6);
    if (v->turned)
        cairo_set_dash(v->cr, dashes, 2, 0);
    cairo_stroke(v->cr);
    cairo_set_dash(v->cr, NULL, 0, 0);
    draw_pin_one(v, x, y, w, h, pins);
    rmg_pen_ink(v->cr, RMG_INK_DARK);
    rmg_pen_say(v->cr, x + w / 2, y + h / 2 - size * 0.9, size, true, 0.5, s->name);
    rmg_pen_say(v->cr, x + w / 2, y + h / 2 + size * 0.35, size * 0.9, false, 0.5, bits);
    rmg_pen_ink(v->cr, RMG_INK_SOFT);
    if (s->part)
        rmg_pen_say(v->cr, x + w / 2, y + h / 2 + size * 1.6, size * 0.8, false, 0.5,
                    s->part->number);
    if (s->mount == RMG_MOUNT_SOCKET) {
        cairo_rectangle(v->cr, x - 7, y - 5, w + 14, h + 10);
        rmg_pen_ink(v->cr, 0x8A8F98);
        cairo_set_line_width(v->cr, 1);
        cairo_stroke(v->cr);
    }
    g_free(bits);
}

static void draw_bank_row(const plan_view *v, size_t bank, double y)
{
    const rmg_board *board = v->board;
    const rmg_range range = {board->bank_wheres[bank].first, board->bank_wheres[bank].last};
    GString *where = g_string_new(NULL);
    char text[40];
    gchar *row;

    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++)
        if (board->bank_wheres[bank].mask >> k & 1u)
            g_string_append_printf(where, ", %s = %u",
                                   rmg_board_line_text(board, k, text, sizeof text),
                                   (unsigned)(board->bank_wheres[bank].match >> k & 1u));
    rmg_pen_ink(v->cr, RMG_INK_DARK);
    rmg_pen_say(v->cr, MARGIN, y, 13, true, 0, board->banks[bank].name);
    row =
        g_strdup_printf("%s%s", rmg_board_range_text(board, &range, text, sizeof text), where->str);
    rmg_pen_say(v->cr, MARGIN + 170, y, 13, false, 0, row);
    g_free(row);
    rmg_pen_say(v->cr, MARGIN + 470, y, 13, false, 0, board->banks[bank].part->number);
    rmg_pen_ink(v->cr, RMG_INK_SOFT);
    rmg_pen_say(v->cr, MARGIN + 560, y, 13, false, 0, board->banks[bank].part->supplies);
    g_string_free(where, TRUE);
}

static void draw_head(const plan_view *v)
{
    gchar *name = g_strdup_printf("%s%s%s", v->board->name,
                                  *v->board->revision ? ", revision " : "", v->board->revision);

    rmg_pen_ink(v->cr, RMG_INK_DARK);
    rmg_pen_say(v->cr, MARGIN, 44, 22, true, 0, name);
    rmg_pen_say(v->cr, MARGIN, 70, 15, false, 0,
                v->turned ? "Solder side: turned over left to right, chips seen through the board"
                          : "Component side");
    rmg_pen_ink(v->cr, 0x8C2F00);
    cairo_arc(v->cr, RMG_PEN_WIDTH - 282, 39, 4, 0, 2 * G_PI);
    cairo_fill(v->cr);
    rmg_pen_ink(v->cr, RMG_INK_SOFT);
    rmg_pen_say(v->cr, RMG_PEN_WIDTH - 270, 44, 13, false, 0, "pin 1;   thin frame: in a socket");
    g_free(name);
}

static void draw_side(cairo_t *cr, void *context, unsigned page)
{
    plan_view *v = context;
    const rmg_board *board = v->board;
    const double list = 30 + ROW * (double)MIN(board->bank_count, 12u);
    const double room_x = RMG_PEN_WIDTH - 2 * MARGIN;
    const double room_y = RMG_PEN_HEIGHT - TOP - list - 12;

    v->cr = cr;
    v->turned = v->solder_side != (page == 1);
    v->scale = MIN(room_x / board->width_mm, room_y / board->height_mm);
    v->left = (RMG_PEN_WIDTH - board->width_mm * v->scale) / 2;
    v->top = TOP + (room_y - board->height_mm * v->scale) / 2;
    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    cairo_rectangle(cr, v->left, v->top, board->width_mm * v->scale, board->height_mm * v->scale);
    rmg_pen_ink(cr, v->turned ? 0xE4EBE4 : 0xEEF1F2);
    cairo_fill_preserve(cr);
    rmg_pen_ink(cr, 0x39414D);
    cairo_set_line_width(cr, 2);
    cairo_stroke(cr);
    draw_head(v);
    for (size_t s = 0; s < board->socket_count; s++)
        if (board->sockets[s].drawn)
            draw_socket(v, s);
    for (size_t b = 0; b < MIN(board->bank_count, 12u); b++)
        draw_bank_row(v, b, RMG_PEN_HEIGHT - list + 12 + ROW * (double)b);
}

rmg_status rmg_draw_board(const rmg_board *board, bool solder_side, const char *file,
                          rmg_error *error)
{
    plan_view v = {.board = board, .solder_side = solder_side};

    if (rmg_draw_check(board, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    return rmg_pen_pages(file, draw_side, 2, &v, error);
}
