/* Looking at images: what the commands that show glyphs and maps share. */
#ifndef RMG_CLI_VIEW_H
#define RMG_CLI_VIEW_H

#include "cli.h"
#include "rimeglass/image.h"

/* How to show an image. */
typedef struct view_call {
    gchar *glyphs, *bit_order, *row_order, *map_by, *against, *picture;
    gboolean map, hex;
    rmg_glyph_form form; /* worked out */
    rmg_map_by by;
} view_call;

/* The options, for a command's list; `v` is a view_call. */
#define VIEW_OPTIONS(v)                                                                            \
    {"glyphs",    0,                                                                               \
     0,           G_OPTION_ARG_STRING,                                                             \
     &(v).glyphs, "show it as glyphs, 8x8 or 8x10/16 (each takes 16 bytes)",                       \
     "FORM"},                                                                                      \
        {"bit-order",                                                                              \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_STRING,                                                                      \
         &(v).bit_order,                                                                           \
         "of glyphs: which data bit is leftmost, D7 (default) or D0",                              \
         "D7|D0"},                                                                                 \
        {"row-order",                                                                              \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_STRING,                                                                      \
         &(v).row_order,                                                                           \
         "of glyphs: top first (default) or bottom first",                                         \
         "top|bottom"},                                                                            \
        {"map", 0, 0, G_OPTION_ARG_NONE, &(v).map, "show it as a map by address", NULL},           \
        {"map-by",    0,                                                                           \
         0,           G_OPTION_ARG_STRING,                                                         \
         &(v).map_by, "of the map: ones (default), bits or difference",                            \
         "WHAT"},                                                                                  \
        {"hex", 0, 0, G_OPTION_ARG_NONE, &(v).hex, "list it in hex by address", NULL},             \
        {"against",                                                                                \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_FILENAME,                                                                    \
         &(v).against,                                                                             \
         "mark what differs from this image, in all of these",                                     \
         "FILE"},                                                                                  \
    {                                                                                              \
        "picture", 0, 0, G_OPTION_ARG_FILENAME, &(v).picture,                                      \
            "draw the glyphs or the map, .png, .svg or .pdf", "FILE"                               \
    }

/* Are the options in order? Says what is not. */
bool view_ok(const char *command_name, view_call *call);
bool view_wanted(const view_call *call);
void view_free(view_call *call);

/* view_bytes.c: maps and hex listings as text. */
void print_map(FILE *to, const rmg_rom_view *view, rmg_map_by by);
void print_hex(FILE *to, const rmg_rom_view *view);

/* Shows what was asked for. `view.good` is loaded here where --against names it. false after saying
 * what went wrong. */
bool view_show(const char *command_name, const view_call *call, rmg_rom_view view,
               const char *title, FILE *to);

#endif
