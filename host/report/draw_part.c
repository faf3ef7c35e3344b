/* A part's pinout as a picture, seen from above. */
#include <glib.h>

#include "pen.h"
#include "rimeglass/report.h"

#define BODY_W 260.0
#define TOP    150.0
#define BOTTOM (RMG_PEN_HEIGHT - 60.0)

static unsigned ink_of(rmg_pin_role role)
{
    switch (role) {
    case RMG_PIN_SUPPLY:
        return RMG_INK_LOW;
    case RMG_PIN_DATA:
        return RMG_INK_HIGH;
    case RMG_PIN_NONE:
        return RMG_INK_SOFT;
    default:
        return RMG_INK_DARK;
    }
}

/* A pin: its leg, number, name within the body and what it does beside it. */
static void draw_pin(cairo_t *cr, const rmg_part *part, bool pod, uint8_t pin, bool left, double y,
                     double pitch)
{
    const double x0 = (RMG_PEN_WIDTH - BODY_W) / 2, x1 = x0 + BODY_W;
    const double size = MIN(18.0, pitch * 0.62);
    char name[RMG_PIN_NAME], number[8];
    const rmg_pin_role role = rmg_part_role(part, pin, NULL, NULL, NULL);
    gchar *text = pod ? rmg_pod_pin_text(part, pin) : rmg_pin_text(part, pin);

    rmg_part_pin_name(part, pin, name);
    g_snprintf(number, sizeof number, "%u", pin);
    rmg_pen_box(cr, left ? x0 - 34 : x1, y - MIN(9, pitch * 0.3), 34, MIN(18, pitch * 0.6),
                0xC9CCD2);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, left ? x0 - 17 : x1 + 17, y + size * 0.32, size * 0.8, false, 0.5, number);
    rmg_pen_ink(cr, ink_of(role));
    rmg_pen_say(cr, left ? x0 + 12 : x1 - 12, y + size * 0.36, size, true, left ? 0 : 1, name);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, left ? x0 - 48 : x1 + 48, y + size * 0.34, size * 0.86, false, left ? 1 : 0,
                text);
    g_free(text);
}

typedef struct drawing {
    const rmg_part *part;
    bool pod;
} drawing;

static void draw(cairo_t *cr, void *context)
{
    const drawing *d = context;
    const rmg_part *part = d->part;
    const unsigned pins = rmg_part_pin_count(part);
    const bool module = part->package == RMG_PACKAGE_MODULE;
    const unsigned rows = pins / 2;
    const double pitch = MIN(44.0, (BOTTOM - TOP) / rows);
    const double h = pitch * rows + 8, x = (RMG_PEN_WIDTH - BODY_W) / 2;
    gchar *what = rmg_part_text(part);
    gchar *title =
        g_strdup_printf("%s: %s%s%s", part->number, what, d->pod ? ", in the pod with an " : "",
                        d->pod ? rmg_pod_for(part) : "");
    gchar *under =
        g_strdup_printf("%u pins%s%s, seen from above. %s. %s%s", pins, part->package ? ", " : "",
                        rmg_package_text(part->package), part->supplies,
                        rmg_part_checked(part) ? "Pinout held against a drawing library: "
                                               : "Pinout held against the rules of pinouts only",
                        rmg_part_checked(part) ? rmg_part_checked(part) : "");

    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 44, 26, true, 0, title);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 74, 15, false, 0, under);
    rmg_pen_say(cr, 24, 98, 15, false, 0, part->tied ? part->tied : part->about ? part->about : "");
    rmg_pen_box(cr, x, TOP - 4, BODY_W, h, RMG_INK_FIELD);
    if (!module) {
        rmg_pen_ink(cr, RMG_INK_PAPER);
        cairo_arc(cr, RMG_PEN_WIDTH / 2, TOP - 4, 16, 0, G_PI);
        cairo_fill(cr);
    }
    for (unsigned i = 0; i < rows; i++) {
        const double y = TOP + pitch * (i + 0.5);

        draw_pin(cr, part, d->pod, (uint8_t)(i + 1), true, y, pitch);
        draw_pin(cr, part, d->pod, (uint8_t)(module ? rows + i + 1 : pins - i), false, y, pitch);
    }
    g_free(what);
    g_free(title);
    g_free(under);
}

rmg_status rmg_draw_part(const rmg_part *part, bool pod, const char *file, rmg_error *error)
{
    drawing d = {part, pod};

    return rmg_pen_picture(file, draw, &d, error);
}
