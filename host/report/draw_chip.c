/* The outline of a chip in pictures of a board. */
#include "draw_chip.h"

#include <glib.h>

#include "pen.h"

unsigned rmg_draw_chip_size(const rmg_socket *socket, double *w, double *h)
{
    const unsigned pins = socket->part ? MAX(rmg_part_pin_count(socket->part), 8u) : 16u;

    *h = pins / 2.0 * RMG_PIN_MM;
    *w = (pins >= 24 ? 1.5 : 1.0) * RMG_CHIP_MM;
    return pins;
}

void rmg_draw_chip_path(cairo_t *cr, double x, double y, double w, double h)
{
    const double notch = w * 0.13;

    cairo_new_path(cr);
    cairo_move_to(cr, x, y);
    cairo_line_to(cr, x + w / 2 - notch, y);
    cairo_arc_negative(cr, x + w / 2, y, notch, G_PI, 0);
    cairo_line_to(cr, x + w, y);
    cairo_line_to(cr, x + w, y + h);
    cairo_line_to(cr, x, y + h);
    cairo_close_path(cr);
}

void rmg_draw_legs(cairo_t *cr, double x, double y, double w, double h, unsigned pins)
{
    const double pitch = h / (pins / 2.0);

    rmg_pen_ink(cr, 0x8A8F98);
    for (unsigned i = 0; i < pins / 2; i++) {
        const double at = y + pitch * (i + 0.5);

        cairo_rectangle(cr, x - 4, at - 1.5, 4, 3);
        cairo_rectangle(cr, x + w, at - 1.5, 4, 3);
    }
    cairo_fill(cr);
}

char *rmg_draw_bits(const rmg_rule *rule)
{
    uint8_t low = rule->data_bits[0], high = low;

    for (uint8_t i = 1; i < rule->width; i++) {
        low = MIN(low, rule->data_bits[i]);
        high = MAX(high, rule->data_bits[i]);
    }
    return low == high ? g_strdup_printf("D%u", low) : g_strdup_printf("D%u-D%u", low, high);
}
