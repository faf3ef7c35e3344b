/* Images as glyphs and as maps, on a terminal and as pictures. */
#include "view.h"

#include <string.h>

#include "rimeglass/report.h"

#define COLUMNS 98u

void view_free(view_call *call)
{
    g_free(call->glyphs);
    g_free(call->bit_order);
    g_free(call->row_order);
    g_free(call->map_by);
    g_free(call->against);
    g_free(call->picture);
}

bool view_wanted(const view_call *call)
{
    return call->glyphs || call->map || call->hex;
}

static bool choice(const char *command_name, const char *option, const char *text,
                   const char *standard, const char *other, bool *is_other)
{
    *is_other = text && strcmp(text, other) == 0;
    if (!text || *is_other || strcmp(text, standard) == 0)
        return true;
    wrong_call(command_name, "--%s %s: expected %s or %s", option, text, standard, other);
    return false;
}

static bool map_kind(const char *word, rmg_map_by *by)
{
    static const char *const words[] = {"ones", "bits", "difference"};

    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (strcmp(words[i], word) == 0) {
            *by = (rmg_map_by)i;
            return true;
        }
    return false;
}

bool view_ok(const char *command_name, view_call *call)
{
    if (call->glyphs && !rmg_glyph_form_parse(call->glyphs, &call->form)) {
        wrong_call(command_name,
                   "--glyphs %s: expected width and height like 8x8, at most 32x64, or 8x10/16 "
                   "where each takes 16 bytes",
                   call->glyphs);
        return false;
    }
    if (call->picture && !call->glyphs == !call->map && view_wanted(call)) {
        wrong_call(command_name, "--picture draws the glyphs or the map: give one of them");
        return false;
    }
    if (call->map_by && !call->map) {
        wrong_call(command_name, "--map-by goes with --map");
        return false;
    }
    if (call->map_by && !map_kind(call->map_by, &call->by)) {
        wrong_call(command_name, "--map-by %s: expected ones, bits or difference", call->map_by);
        return false;
    }
    if (!view_wanted(call) &&
        (call->bit_order || call->row_order || call->against || call->picture)) {
        wrong_call(command_name, "--bit-order, --row-order, --against and --picture go with "
                                 "--glyphs, --map or --hex");
        return false;
    }
    return choice(command_name, "bit-order", call->bit_order, "D7", "D0", &call->form.low_left) &&
           choice(command_name, "row-order", call->row_order, "top", "bottom",
                  &call->form.bottom_first);
}

/* A pixel in one character. */
static const char *pixel_text(bool lit, rmg_pixel_mark mark)
{
    switch (mark) {
    case RMG_PIXEL_MISSING:
        return "-";
    case RMG_PIXEL_EXTRA:
        return "+";
    case RMG_PIXEL_UNSTEADY:
        return lit ? "?" : "\u00BF";
    default:
        return lit ? "\u2588" : "\u00B7";
    }
}

static void print_glyph_row(FILE *to, const rmg_rom_view *view, const rmg_glyph_form *form,
                            const size_t *numbers, size_t count)
{
    rmg_pixel_mark mark;

    fprintf(to, "  ");
    for (size_t i = 0; i < count; i++)
        fprintf(to, "%-*zX", form->width + 2, numbers[i]);
    fputc('\n', to);
    for (uint8_t y = 0; y < form->height; y++) {
        fprintf(to, "  ");
        for (size_t i = 0; i < count; i++) {
            for (uint8_t x = 0; x < form->width; x++) {
                const bool lit = rmg_glyph_pixel(view, form, numbers[i], x, y, &mark);

                fputs(pixel_text(lit, mark), to);
            }
            fputs(i + 1 < count ? "  " : "\n", to);
        }
    }
}

/* All glyphs; where some carry marks, those alone. */
static void print_glyphs(FILE *to, const rmg_rom_view *view, const rmg_glyph_form *form)
{
    const size_t all = rmg_glyph_count(view, form), a_row = MAX(COLUMNS / (form->width + 2u), 1u);
    size_t *numbers = g_new(size_t, all + 1), count = 0, marked = 0;

    for (size_t i = 0; i < all; i++)
        marked += rmg_glyph_marked(view, form, i);
    for (size_t i = 0; i < all; i++)
        if (!marked || rmg_glyph_marked(view, form, i))
            numbers[count++] = i;
    if (marked)
        fprintf(to, "%zu of %zu glyphs carry marks:%s%s\n", marked, all,
                view->good ? " + lit, should be dark; - dark, should be lit" : "",
                !view->unsteady ? ""
                : view->good    ? "; ? lit, \u00BF dark, but not always"
                                : " ? lit, \u00BF dark, but not always");
    else
        fprintf(to, "%zu glyphs%s\n", all,
                view->good || view->unsteady ? ", none with a mark" : "");
    for (size_t i = 0; i < count; i += a_row)
        print_glyph_row(to, view, form, &numbers[i], MIN(a_row, count - i));
    g_free(numbers);
}

/* The good image as bytes, as long as the view. */
static char *load_good(const char *command_name, const char *file, const rmg_rom_view *view)
{
    rmg_image image;
    char *bytes = NULL;
    rmg_error error = {0};
    size_t size = 0;

    if (rmg_image_load(file, &image, &error) != RMG_OK ||
        rmg_image_form_as(&image, RMG_IMAGE_RAW, 0xFF, &bytes, &size, &error) != RMG_OK) {
        wrong_call(command_name, "--against %s", error.what);
        rmg_error_free(&error);
    } else if (size != view->size) {
        wrong_call(command_name, "--against %s: it has %zu bytes, expected %zu", file, size,
                   view->size);
        rmg_text_free(bytes);
        bytes = NULL;
    }
    rmg_image_free(&image);
    return bytes;
}

/* What is drawn. */
typedef struct drawn_view {
    const view_call *call;
    const rmg_rom_view *view;
    const char *title;
} drawn_view;

static rmg_status draw_view(const void *context, rmg_error *error)
{
    const drawn_view *d = context;

    return d->call->glyphs
               ? rmg_draw_glyphs(d->view, &d->call->form, d->title, d->call->picture, error)
               : rmg_draw_map(d->view, d->call->by, d->title, d->call->picture, error);
}

bool view_show(const char *command_name, const view_call *call, rmg_rom_view view,
               const char *title, FILE *to)
{
    char *good = NULL;
    bool ok = true;

    if (call->against) {
        good = load_good(command_name, call->against, &view);
        if (!good)
            return false;
        view.good = (const uint8_t *)good;
    }
    if (call->glyphs)
        print_glyphs(to, &view, &call->form);
    if (call->map)
        print_map(to, &view, call->by);
    if (call->hex)
        print_hex(to, &view);
    if (ok && call->picture)
        ok = draw_apart(draw_view, &(drawn_view){call, &view, title}, call->picture);
    rmg_text_free(good);
    return ok;
}
