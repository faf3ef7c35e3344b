/* The board as a picture. The same drawing code makes PNG and SVG; what fails is shown by form and
 * label, colour only helps. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "draw_chip.h"
#include "draw_line.h"
#include "pen.h"
#include "rimeglass/report.h"
#include "sheet.h"

#define WIDTH  RMG_PEN_WIDTH
#define HEIGHT RMG_PEN_HEIGHT
#define TOP    140.0 /* room above the board */
#define BOTTOM 74.0  /* room below it */
#define CHAIN  190.0 /* room for the chain of a line */
#define MARGIN 32.0

typedef struct canvas {
    cairo_t *cr;
    const rmg_run *run;
    const rmg_board *board;
    const rmg_suspects *suspects;
    double scale, left, top; /* millimetres to the picture */
} canvas;

/* What is known of a socket after the run. */
typedef struct socket_state {
    bool tested;
    bool line; /* no suspect itself, but on a line that is one */
    uint64_t failing_words;
    size_t rank; /* of the suspect that names it, from 1; 0: none */
    gchar *bits; /* "D5", "D0-D3" or "" */
} socket_state;

/* Text broken at spaces to fit `width`, at most `lines` lines; returns the lines used. */
static int say_wrapped(cairo_t *cr, double x, double y, double size, bool bold, double width,
                       int lines, const char *text)
{
    gchar **words = g_strsplit(text, " ", -1);
    GString *line = g_string_new(NULL);
    int used = 0;

    rmg_pen_say(cr, -5000, -5000, size, bold, 0, ""); /* selects the font */
    for (size_t i = 0; words[i] && used < lines; i++) {
        cairo_text_extents_t extents;
        gchar *longer = g_strconcat(line->str, line->len ? " " : "", words[i], NULL);

        cairo_text_extents(cr, longer, &extents);
        if (extents.x_advance > width && line->len) {
            rmg_pen_say(cr, x, y + used++ * size * 1.35, size, bold, 0, line->str);
            g_string_assign(line, words[i]);
        } else {
            g_string_assign(line, longer);
        }
        g_free(longer);
    }
    if (line->len && used < lines)
        rmg_pen_say(cr, x, y + used++ * size * 1.35, size, bold, 0, line->str);
    g_string_free(line, TRUE);
    g_strfreev(words);
    return used;
}

static bool rule_tested(const rmg_run *run, const rmg_rule *rule)
{
    for (size_t i = 0; i < run->tested_count; i++)
        if (run->tested[i].first <= rule->where.last && rule->where.first <= run->tested[i].last)
            return true;
    return false;
}

static void look_up(const canvas *c, uint16_t socket, socket_state *state)
{
    memset(state, 0, sizeof *state);
    for (uint16_t r = 0; r < c->board->placement.rule_count; r++) {
        const rmg_rule *rule = &c->board->placement.rules[r];

        if (rule->socket != socket)
            continue;
        state->tested |= rule_tested(c->run, rule);
        state->failing_words +=
            rmg_failset_words(c->run->failures, &rule->where, rmg_rule_bits(rule));
        if (!state->bits)
            state->bits = rmg_draw_bits(rule);
    }
    state->line = rmg_suspects_share(c->run, c->suspects, socket);
    for (size_t i = 0; i < c->suspects->count && !state->rank; i++)
        if (c->suspects->list[i].finding.socket == socket)
            state->rank = i + 1;
}

/* The inks of a chip: its body, and what is written and drawn on it. */
static unsigned body_ink(const socket_state *state)
{
    return state->line            ? 0xFFF3CC
           : state->failing_words ? 0xFCE9DC
           : state->tested        ? 0xFFFFFF
                                  : 0xE7E9EC;
}

static unsigned text_ink(const socket_state *state)
{
    return state->line            ? 0x6B5200
           : state->failing_words ? 0x8C2F00
           : state->tested        ? 0x1D232C
                                  : 0x5A616B;
}

/* Slanted lines over the chip: failing, also without colour. */
static void hatch(cairo_t *cr, double x, double y, double w, double h)
{
    cairo_save(cr);
    rmg_draw_chip_path(cr, x, y, w, h);
    cairo_clip(cr);
    rmg_pen_ink(cr, 0xE39A6B);
    cairo_set_line_width(cr, 2);
    for (double d = -h; d < w; d += 8) {
        cairo_move_to(cr, x + d, y + h);
        cairo_line_to(cr, x + d + h, y);
    }
    cairo_stroke(cr);
    cairo_restore(cr);
}

static void chip_body(cairo_t *cr, const socket_state *state, double x, double y, double w,
                      double h)
{
    const double dots[] = {3, 3}, dashes[] = {9, 4};

    rmg_draw_chip_path(cr, x, y, w, h);
    rmg_pen_ink(cr, body_ink(state));
    cairo_fill(cr);
    if (state->failing_words && !state->line)
        hatch(cr, x, y, w, h);
    rmg_draw_chip_path(cr, x, y, w, h);
    rmg_pen_ink(cr, text_ink(state));
    cairo_set_line_width(cr, state->line ? 2.4 : state->failing_words ? 4 : 1.6);
    if (!state->tested)
        cairo_set_dash(cr, dots, 2, 0);
    else if (state->line)
        cairo_set_dash(cr, dashes, 2, 0);
    cairo_stroke(cr);
    cairo_set_dash(cr, NULL, 0, 0);
}

static void plate(cairo_t *cr, double x, double y, double w, double h, unsigned rgb)
{
    cairo_rectangle(cr, x - w / 2, y - h / 2, w, h);
    rmg_pen_ink(cr, rgb);
    cairo_fill(cr);
}

static void chip_labels(const canvas *c, const rmg_socket *socket, const socket_state *state,
                        double x, double y, double h)
{
    cairo_t *cr = c->cr;
    const bool bad = state->failing_words > 0;
    gchar *text;

    plate(cr, x, y - 9, RMG_CHIP_MM * c->scale - 8, 20, body_ink(state));
    rmg_pen_ink(cr, text_ink(state));
    rmg_pen_say(cr, x, y - 4, 15, true, 0.5, socket->name);
    if (state->bits) {
        plate(cr, x, y + 12, RMG_CHIP_MM * c->scale - 8, 16, body_ink(state));
        rmg_pen_ink(cr, text_ink(state));
        rmg_pen_say(cr, x, y + 16, strlen(state->bits) > 6 ? 11 : 12, false, 0.5, state->bits);
    }
    text = bad             ? g_strdup_printf("%" G_GUINT64_FORMAT, state->failing_words)
           : state->line   ? g_strdup("line")
           : state->tested ? g_strdup("ok")
                           : g_strdup("not tested");
    rmg_pen_say(cr, x, y + h / 2 + 20, bad ? 14 : 12, bad, 0.5, text);
    g_free(text);
}

#define FLAG 30.0 /* height of a flag, and what is between */

/* The flag on a suspect: its rank and the word, above the chip. */
static void flag(cairo_t *cr, double x, double y, size_t rank)
{
    gchar *text = g_strdup_printf("%zu LOOK HERE", rank);

    cairo_new_path(cr);
    cairo_move_to(cr, x, y - 2);
    cairo_line_to(cr, x - 8, y - 14);
    cairo_line_to(cr, x - 48, y - 14);
    cairo_line_to(cr, x - 48, y - 34);
    cairo_line_to(cr, x + 48, y - 34);
    cairo_line_to(cr, x + 48, y - 14);
    cairo_line_to(cr, x + 8, y - 14);
    cairo_close_path(cr);
    rmg_pen_ink(cr, 0x8C2F00);
    cairo_fill(cr);
    rmg_pen_ink(cr, 0xFFFFFF);
    rmg_pen_say(cr, x, y - 19, 11.5, true, 0.5, text);
    g_free(text);
}

static void draw_socket(const canvas *c, uint16_t number)
{
    const rmg_socket *socket = &c->board->sockets[number];
    double w, h;
    const unsigned pins = rmg_draw_chip_size(socket, &w, &h);
    const double x = c->left + socket->x_mm * c->scale;
    const double y = c->top + socket->y_mm * c->scale;
    socket_state state;

    w *= c->scale;
    h *= c->scale;
    look_up(c, number, &state);
    rmg_draw_legs(c->cr, x - w / 2, y - h / 2, w, h, pins);
    chip_body(c->cr, &state, x - w / 2, y - h / 2, w, h);
    chip_labels(c, socket, &state, x, y, h);
    if (socket->mount == RMG_MOUNT_SOCKET) { /* a socket's frame around the chip */
        cairo_rectangle(c->cr, x - w / 2 - 7, y - h / 2 - 5, w + 14, h + 10);
        rmg_pen_ink(c->cr, 0x8A8F98);
        cairo_set_line_width(c->cr, 1);
        cairo_stroke(c->cr);
    }
    if (state.rank)
        flag(c->cr, x, y - h / 2 - 4, state.rank);
    g_free(state.bits);
}

/* The bank's name, left of its leftmost socket. */
static void rmg_name_bank(const canvas *c, size_t bank)
{
    const rmg_socket *left = NULL;
    double x, y, align = 1;
    socket_state state;

    for (uint16_t r = 0; r < c->board->placement.rule_count; r++) {
        const rmg_rule *rule = &c->board->placement.rules[r];
        const rmg_socket *socket = &c->board->sockets[rule->socket];

        if (rule->bank == bank && socket->drawn && (!left || socket->x_mm < left->x_mm))
            left = socket;
    }
    if (!left)
        return;
    x = c->left + (left->x_mm - RMG_CHIP_MM) * c->scale;
    y = c->top + left->y_mm * c->scale;
    if (rmg_part_pin_count(left->part) >= 24) { /* a wide chip: above it instead */
        x = c->left + left->x_mm * c->scale;
        align = 0.5;
        y -= rmg_part_pin_count(left->part) / 4.0 * RMG_PIN_MM * c->scale + 14;
        look_up(c, (uint16_t)(left - c->board->sockets), &state);
        if (state.rank) /* above its flag */
            y -= FLAG;
        g_free(state.bits);
    }
    rmg_pen_ink(c->cr, 0x39414D);
    rmg_pen_say(c->cr, x, y, 13, false, align, c->board->banks[bank].name);
}

/* "March C-, 2 of 2 passes"; where no number was asked for, so many as there are. */
static gchar *passes_text(const rmg_run *run)
{
    const char *what = run->heard ? "reported" : run->steps.name,
               *end = run->complete ? "" : ", NOT COMPLETE";

    if (run->plan.passes)
        return g_strdup_printf("%s, %" G_GUINT64_FORMAT " of %u passes%s", what, run->pass_count,
                               run->plan.passes, end);
    return g_strdup_printf("%s, %" G_GUINT64_FORMAT " pass%s%s", what, run->pass_count,
                           run->pass_count == 1 ? "" : "es", end);
}

static void draw_head(const canvas *c)
{
    const rmg_suspect *first;
    cairo_t *cr = c->cr;
    gchar *text = g_strdup_printf("%s%s%s", c->board->name,
                                  *c->board->revision ? ", revision " : "", c->board->revision);
    const double width = WIDTH - 2 * MARGIN;
    int used;

    rmg_pen_ink(cr, 0x5A616B);
    rmg_pen_say(cr, MARGIN, 34, 15, false, 0, text);
    g_free(text);
    text = passes_text(c->run);
    rmg_pen_say(cr, WIDTH - MARGIN, 34, 15, false, 1, text);
    g_free(text);
    if (!c->suspects->count) {
        rmg_pen_ink(cr, 0x1D232C);
        rmg_pen_say(cr, MARGIN, 68, 22, true, 0,
                    rmg_run_failed(c->run) ? "Something failed, but it points to no place."
                    : c->run->pass_count   ? "No fault found in what was tested."
                                           : "Not one pass was completed.");
        return;
    }
    first = &c->suspects->list[0];
    rmg_pen_ink(cr, 0x8C2F00);
    used = say_wrapped(cr, MARGIN, 64, 18, true, width, 2, first->headline);
    text = g_strdup_printf(first->finding.kind == RMG_FINDING_SPREAD && first->confidence < 0.5
                               ? "Chance is not ruled out (%.0f %%)"
                               : "How sure: %.0f %%",
                           first->confidence * 100);
    rmg_pen_ink(cr, 0x1D232C);
    rmg_pen_say(cr, MARGIN, 64 + used * 24.3, 15, false, 0, text);
    g_free(text);
    if (c->suspects->count < 2)
        return;
    text = g_strdup_printf("2: %s (%.0f %%)%s", c->suspects->list[1].headline,
                           c->suspects->list[1].confidence * 100,
                           c->suspects->count > 2 ? "; and more" : "");
    say_wrapped(cr, MARGIN + 130, 64 + used * 24.3, 13, false, width - 130, 2, text);
    g_free(text);
}

/* What the sockets that are marked without a suspect of their own have to do with one: a line they
 * are on, or what else they share: words, refresh, supply. */
static const char *sharing(const rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++)
        if (suspects->list[i].finding.kind == RMG_FINDING_SAME_WORDS &&
            suspects->list[i].finding.of != RMG_FINDING_DATA_LINE)
            return "shares what to look at";
    return "on a line to look at";
}

static void draw_key(const canvas *c)
{
    const struct {
        socket_state state;
        const char *text;
    } rows[] = {
        {{.tested = true}, "passed"},
        {{.tested = true, .failing_words = 1}, "failed; failing words below it"},
        {{.tested = true, .line = true}, sharing(c->suspects)},
        {{.tested = false}, "not tested"},
    };
    double x = MARGIN;
    const double y = HEIGHT - 44;

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        cairo_text_extents_t extents;

        chip_body(c->cr, &rows[i].state, x, y, 20, 28);
        rmg_pen_ink(c->cr, 0x1D232C);
        rmg_pen_say(c->cr, x + 30, y + 19, 13, false, 0, rows[i].text);
        cairo_text_extents(c->cr, rows[i].text, &extents);
        x += 30 + extents.x_advance + 34;
    }
    cairo_rectangle(c->cr, x, y, 20, 28);
    rmg_pen_ink(c->cr, 0x8A8F98);
    cairo_set_line_width(c->cr, 1);
    cairo_stroke(c->cr);
    rmg_pen_ink(c->cr, 0x1D232C);
    rmg_pen_say(c->cr, x + 30, y + 19, 13, false, 0, "thin frame: the chip is in a socket");
}

static void draw_all(cairo_t *cr, void *context)
{
    canvas *c = context;

    c->cr = cr;
    const bool chain = rmg_draw_line_wanted(c->suspects);
    const double room_x = WIDTH - 2 * MARGIN;
    const double room_y = HEIGHT - TOP - BOTTOM - (chain ? CHAIN : 0);

    c->scale = MIN(room_x / c->board->width_mm, room_y / c->board->height_mm);
    c->left = (WIDTH - c->board->width_mm * c->scale) / 2;
    c->top = TOP + (room_y - c->board->height_mm * c->scale) / 2;
    rmg_pen_ink(c->cr, 0xFBFAF7);
    cairo_paint(c->cr);
    cairo_rectangle(c->cr, c->left, c->top, c->board->width_mm * c->scale,
                    c->board->height_mm * c->scale);
    rmg_pen_ink(c->cr, 0xEEF1F2);
    cairo_fill_preserve(c->cr);
    rmg_pen_ink(c->cr, 0x39414D);
    cairo_set_line_width(c->cr, 2);
    cairo_stroke(c->cr);
    draw_head(c);
    for (uint16_t s = 0; s < c->board->socket_count; s++)
        if (c->board->sockets[s].drawn)
            draw_socket(c, s);
    for (size_t b = 0; b < c->board->bank_count; b++)
        rmg_name_bank(c, b);
    if (chain)
        rmg_draw_line(cr, c->board, &c->suspects->list[0].finding, MARGIN,
                      HEIGHT - BOTTOM - CHAIN + 22, room_x, CHAIN - 22);
    draw_key(c);
}

void rmg_draw_run_on(cairo_t *cr, const rmg_run *run, const rmg_suspects *suspects)
{
    canvas c = {.run = run, .board = run->board, .suspects = suspects};

    draw_all(cr, &c);
}

rmg_status rmg_draw_check(const rmg_board *board, rmg_error *error)
{
    const bool placed = board->width_mm > 0;

    rmg_error_none(error);
    for (size_t s = 0; s < board->socket_count; s++)
        if (placed && board->sockets[s].drawn)
            return RMG_OK;
    return rmg_fail(error, RMG_ERR_ARGUMENT, board->file,
                    "%s does not say where the sockets are: it needs \"drawing\" and, "
                    "for sockets, \"at\"",
                    board->file);
}

rmg_status rmg_draw_run(const rmg_run *run, const rmg_suspects *suspects, const char *file,
                        rmg_error *error)
{
    canvas c = {.run = run, .board = run->board, .suspects = suspects};

    if (rmg_draw_check(run->board, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    return rmg_pen_picture(file, draw_all, &c, error);
}
