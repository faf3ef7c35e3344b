/* rimeglass testrom: a ROM for a board that does not start. */
#include <string.h>

#include "cli.h"
#include "rimeglass/catalogue.h"
#include "rimeglass/deadboard.h"
#include "rimeglass/file.h"
#include "rimeglass/report.h"

static const char description[] =
    "Makes a ROM that tests a board's memory without using it, for a board that does not start. "
    "The\n"
    "section test-rom of the board file says processor, clock, the socket, and an output for "
    "serial\n"
    "lines, for a lamp or a loudspeaker, or a screen. --profile is written with it: log reads the "
    "lines with "
    "it,\n"
    "and names sockets. --legend says what the blinks mean. For a wider bus one file is written a\n"
    "socket. What no output at all means, how to connect, and every key: docs/test-rom.md.\n\n"
    "Examples\n"
    "  rimeglass testrom demo/boards/halvorn64.yaml --write build/u5.bin\n"
    "      --profile build/u5-profile.yaml\n"
    "  rimeglass testrom demo/boards/halvorn64.yaml --march \"March C-\"\n"
    "  rimeglass testrom demo/boards/halvorn64.yaml --legend";

typedef struct testrom_call {
    gchar *write, *profile, *march, *json, *picture, *catalogue, *load_at;
    gint lines, baud, trim, stop_after;
    gboolean legend;
} testrom_call;

static void free_call(testrom_call *call)
{
    g_free(call->write);
    g_free(call->profile);
    g_free(call->march);
    g_free(call->json);
    g_free(call->picture);
    g_free(call->catalogue);
    g_free(call->load_at);
}

/* A program in the place of a ROM. */
static bool load_at(const testrom_call *call, const rmg_board *board, rmg_board_rom *how)
{
    rmg_error error = {0};
    uint64_t at;

    if (!rmg_number_parse(call->load_at, &at) || at > UINT32_MAX) {
        wrong_call("testrom", "--load-at %s: expected an address", call->load_at);
        return false;
    }
    if (rmg_dead_load(board, how, (uint32_t)at, &error) != RMG_OK) {
        wrong_call("testrom", "--load-at %s: %s", call->load_at, error.what);
        rmg_error_free(&error);
        return false;
    }
    return true;
}

/* The board's section with what the call asks for. */
static bool ask(const testrom_call *call, const rmg_board *board, rmg_board_rom *how)
{
    rmg_march_error where;

    *how = board->rom;
    if (!how->known) {
        wrong_call("testrom",
                   "%s has no section test-rom, which says processor, clock, socket and outputs "
                   "(docs/test-rom.md)",
                   board->file);
        return false;
    }
    if (call->march && !rmg_testrom_march(call->march, how->march, &where)) {
        wrong_call("testrom",
                   "--march \"%s\": neither the name of a march nor one in notation: at character "
                   "%u expected %s",
                   call->march, where.offset + 1u, where.expected);
        return false;
    }
    if (call->march)
        how->march_text = call->march;
    if (call->lines < 0 || call->lines > (int)RMG_TESTROM_TOLD) {
        wrong_call("testrom", "--lines %d: expected 1 to %u", call->lines, RMG_TESTROM_TOLD);
        return false;
    }
    if (call->baud && (call->baud < 300 || call->baud > 19200)) {
        wrong_call("testrom", "--baud %d: expected 300 to 19200", call->baud);
        return false;
    }
    if (call->trim < -100000 || call->trim > 100000) {
        wrong_call("testrom", "--trim %d: expected -100000 to 100000 millionths", call->trim);
        return false;
    }
    if (call->stop_after < 0 || call->stop_after > 7 || (call->stop_after && !how->then)) {
        wrong_call("testrom",
                   "--stop-after %d: expected 1 to 7 passes, and \"then\" in the section test-rom: "
                   "the address that is started after them",
                   call->stop_after);
        return false;
    }
    how->lines = call->lines ? (uint8_t)call->lines : how->lines;
    how->baud = call->baud ? (uint32_t)call->baud : how->baud;
    how->trim_ppm = call->trim ? call->trim : how->trim_ppm;
    how->stop_after = call->stop_after ? (uint32_t)call->stop_after : how->stop_after;
    return !call->load_at || load_at(call, board, how);
}

/* Files: one a socket, or one for a slot. */
static unsigned files_of(const rmg_board_rom *how)
{
    return how->socket_count ? how->socket_count : 1u;
}

static const char *socket_of(const rmg_board *board, const rmg_board_rom *how, unsigned which)
{
    return how->socket_count ? board->sockets[how->sockets[which]].name : "slot";
}

/* The name of one socket's file: "rom.bin" becomes "rom-U2.bin". */
static gchar *file_of(const char *name, const char *socket)
{
    const char *dot = strrchr(name, '.'), *slash = strrchr(name, '/');

    if (!dot || (slash && dot < slash))
        return g_strdup_printf("%s-%s", name, socket);
    return g_strdup_printf("%.*s-%s%s", (int)(dot - name), name, socket, dot);
}

/* What one socket's chip holds: the caller's to free. */
static uint8_t *bytes_of(const rmg_dead_image *image, unsigned sockets, unsigned which)
{
    const size_t size = image->size / sockets;
    uint8_t *bytes = g_malloc(size);

    for (size_t n = 0; n < size; n++)
        bytes[n] = image->bytes[n * sockets + which];
    return bytes;
}

static gchar *name_of(const testrom_call *call, const rmg_board *board, const rmg_board_rom *how,
                      unsigned which)
{
    if (!call->write)
        return g_strdup("");
    return how->socket_count > 1 ? file_of(call->write, board->sockets[how->sockets[which]].name)
                                 : g_strdup(call->write);
}

/* Image and profile, all together or none of them. */
static bool write_files(const testrom_call *call, const rmg_board *board, const rmg_board_rom *how,
                        const rmg_dead_image *image, FILE *to)
{
    rmg_files *files = rmg_files_new();
    rmg_error error = {0};
    const size_t size = image->size / files_of(how);
    bool good = true;

    for (unsigned i = 0; good && call->write && i < files_of(how); i++) {
        gchar *name = name_of(call, board, how, i);
        uint8_t *bytes = bytes_of(image, files_of(how), i);

        good = may_replace("testrom", "write", name, bytes, size) &&
               rmg_files_add(files, name, bytes, size, &error) == RMG_OK;
        if (good)
            fprintf(to, "Written: %s, for %s\n", name,
                    how->socket_count ? socket_of(board, how, i)
                    : how->load_size  ? "the board's RAM"
                                      : "the slot");
        g_free(bytes);
        g_free(name);
    }
    if (good && call->profile) {
        char *text = rmg_dead_profile(board, how);

        good = may_replace("testrom", "profile", call->profile, text, strlen(text)) &&
               rmg_files_add(files, call->profile, text, strlen(text), &error) == RMG_OK;
        if (good)
            fprintf(to, "Written: %s, to read the lines with\n", call->profile);
        rmg_text_free(text);
    }
    good = good && rmg_files_write(files, &error) == RMG_OK;
    if (error.what)
        fprintf(stderr, "rimeglass testrom: %s\n", error.what);
    rmg_error_free(&error);
    rmg_files_free(files);
    return good;
}

/* The chips into the catalogue: whoever reads one later is told what it is. */
static bool add_to_catalogue(const testrom_call *call, const rmg_board *board,
                             const rmg_board_rom *how, const rmg_testrom_plan *plan,
                             const rmg_dead_image *image, FILE *to)
{
    const size_t size = image->size / files_of(how);
    bool good = true;

    for (unsigned i = 0; good && call->catalogue && i < files_of(how); i++) {
        const char *socket = socket_of(board, how, i);
        gchar *file = name_of(call, board, how, i);
        gchar *name = g_strdup_printf("test ROM of %s, %s", board->name, socket);
        gchar *version = g_strdup_printf("%04X, %s", plan->id, how->march_text);
        rmg_known entry = {.name = name,
                           .board = board->name,
                           .version = version,
                           .socket = (char *)socket,
                           .image = file,
                           .size = size};
        uint8_t *bytes = bytes_of(image, files_of(how), i);
        rmg_error error;

        good = rmg_catalogue_add(call->catalogue, &entry, bytes, size, &error) == RMG_OK;
        if (good)
            fprintf(to, "Added to %s: %s\n", call->catalogue, name);
        else
            fprintf(stderr, "rimeglass testrom: %s\n", error.what);
        rmg_error_free(&error);
        g_free(bytes);
        g_free(version);
        g_free(name);
        g_free(file);
    }
    return good;
}

typedef struct legend {
    const rmg_board *board;
    const rmg_testrom_plan *plan;
    const char *file;
} legend;

static rmg_status draw_legend(const void *context, rmg_error *error)
{
    const legend *l = context;

    return rmg_draw_testrom(l->board, l->plan, l->file, error);
}

static bool write_json(const char *file, char *text)
{
    const bool written = write_result(file, text);

    rmg_text_free(text);
    return written;
}

static int make(const testrom_call *call, const rmg_board *board)
{
    rmg_board_rom how;
    rmg_testrom_plan plan;
    rmg_testrom_left left[RMG_TESTROM_LEFT];
    rmg_dead_image image = {0};
    rmg_error error = {0};
    unsigned left_count;
    int status = EXIT_CALL;
    FILE *to;

    if (!ask(call, board, &how))
        return EXIT_CALL;
    if (rmg_dead_plan(board, &how, &plan, left, &left_count, &error) != RMG_OK ||
        rmg_dead_make(&how, &plan, &image, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass testrom: %s: %s\n", board->file, error.what);
        rmg_error_free(&error);
        rmg_dead_image_free(&image);
        return EXIT_CALL;
    }
    to = report_begin(call->json, NULL);
    if (!call->legend) {
        char *text = rmg_testrom_text(board, &how, &plan, left, left_count, &image);

        fputs(text, to);
        rmg_text_free(text);
    }
    if (call->legend || !call->write) {
        char *text = rmg_testrom_legend(board, &plan);

        fputs(text, to);
        rmg_text_free(text);
    }
    if (write_files(call, board, &how, &image, to) &&
        add_to_catalogue(call, board, &how, &plan, &image, to) &&
        (!call->picture ||
         draw_apart(draw_legend, &(legend){board, &plan, call->picture}, call->picture)) &&
        (!call->json ||
         write_json(call->json, rmg_testrom_json(board, &how, &plan, left, left_count, &image))))
        status = EXIT_PASS;
    report_end(to);
    rmg_dead_image_free(&image);
    return status;
}

int command_testrom(GPtrArray *args)
{
    testrom_call call = {0};
    const GOptionEntry entries[] = {
        {"write", 0, 0, G_OPTION_ARG_FILENAME, &call.write, "the image, as raw bytes", "FILE"},
        {"profile", 0, 0, G_OPTION_ARG_FILENAME, &call.profile, "the profile for log", "FILE"},
        {"legend", 0, 0, G_OPTION_ARG_NONE, &call.legend, "only what blinks and lines mean", NULL},
        {"march", 0, 0, G_OPTION_ARG_STRING, &call.march, "by name or in notation", "MARCH"},
        {"lines", 0, 0, G_OPTION_ARG_INT, &call.lines, "failures reported a step, at most", "N"},
        {"baud", 0, 0, G_OPTION_ARG_INT, &call.baud, "300 to 19200", "RATE"},
        {"trim", 0, 0, G_OPTION_ARG_INT, &call.trim, "the clock is faster by so many millionths",
         "N"},
        {"stop-after", 0, 0, G_OPTION_ARG_INT, &call.stop_after,
         "passes; then the board's own start", "N"},
        {"load-at", 0, 0, G_OPTION_ARG_STRING, &call.load_at,
         "a program to load into RAM there, from disk or tape, no ROM", "ADDRESS"},
        {"catalogue", 0, 0, G_OPTION_ARG_FILENAME, &call.catalogue,
         "add the image to this catalogue", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "draw what the blinks mean, .png, .svg or .pdf", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_board *board = NULL;
    int status;

    if (!options_parse("testrom", "BOARD", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    status = EXIT_CALL;
    if (args->len != 1)
        wrong_call("testrom", "expected a board file, found %u words", args->len);
    else if ((board = load_board(args->pdata[0])))
        status = make(&call, board);
    rmg_board_free(board);
    free_call(&call);
    return status;
}
