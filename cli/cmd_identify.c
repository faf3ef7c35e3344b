/* rimeglass identify: which image it is, by the user's own catalogue. */
#include <string.h>

#include "rimeglass/catalogue.h"
#include "rimeglass/report.h"
#include "rom.h"

static const char description[] =
    "Prints the checksums of an image file, or of a chip that is read (BOARD SOCKET --on\n"
    "TARGET): of the whole, of its halves, of what remains without repeats or padding, of\n"
    "its even and odd bytes; and which entries of a catalogue they match. Where none\n"
    "matches, the nearest ones whose images the catalogue names, with the bits that differ.\n"
    "--add appends a new entry to the catalogue (docs/identify.md). No catalogue of real\n"
    "machines comes with the tool; the demo has one of its own.\n\n"
    "Examples\n"
    "  rimeglass identify demo/images/halvorn64-system-2.0.bin --catalogue demo/catalogue.yaml\n"
    "  rimeglass identify demo/boards/halvorn64.yaml U5 --on sim: --catalogue demo/catalogue.yaml\n"
    "  rimeglass identify build/u5.bin --add --catalogue build/mine.yaml --name \"my console\"\n"
    "      --version 2.1";

typedef struct identify_call {
    gchar *on, *catalogue, *json, *name, *board, *version, *socket;
    gboolean add, bare;
    FILE *to;
} identify_call;

static void free_call(identify_call *call)
{
    g_free(call->on);
    g_free(call->catalogue);
    g_free(call->json);
    g_free(call->name);
    g_free(call->board);
    g_free(call->version);
    g_free(call->socket);
}

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("reading", share);
}

/* A chip read three times; NULL after saying what is wrong with the call, or with the reading. */
static char *read_chip(const identify_call *call, const GPtrArray *args, size_t *size, int *status)
{
    rom_bench bench;
    rmg_verify v = {0};
    char *bytes = NULL;

    *status = EXIT_CALL;
    if (rom_open("identify", g_ptr_array_index(args, 0), g_ptr_array_index(args, 1), call->on,
                 call->bare, &bench)) {
        progress_start();
        *status = rmg_verify_run(&v, &bench.rom, &bench.target.target, 3, NULL, NULL, 0, go_on,
                                 NULL) == RMG_OK
                      ? EXIT_PASS
                      : EXIT_INCOMPLETE;
        progress_end();
        if (*status == EXIT_INCOMPLETE)
            fprintf(stderr, "rimeglass identify: the reading is not complete.\n");
    }
    if (*status == EXIT_PASS && v.quality.state == RMG_READ_NOTHING) {
        fprintf(stderr, "rimeglass identify: nothing answers there; rimeglass dump shows more.\n");
        *status = EXIT_FAULTS;
    } else if (*status == EXIT_PASS) {
        if (v.quality.unsteady_bits || v.quality.follows) {
            fprintf(call->to, "The readings differ, or a line floats: what follows is the majority "
                              "of the readings (rimeglass dump shows more).\n");
            *status = EXIT_FAULTS;
        }
        *size = (size_t)rmg_rom_bytes(&bench.rom);
        bytes = (char *)v.image;
        v.image = NULL;
    }
    rmg_verify_end(&v);
    rom_close(&bench);
    return bytes;
}

static char *read_file(const char *file, size_t *size, int *status)
{
    rmg_image image;
    char *bytes = NULL;
    rmg_error error = {0};

    *status = EXIT_CALL;
    if (rmg_image_load(file, &image, &error) != RMG_OK) {
        wrong_call("identify", "%s", error.what);
        rmg_error_free(&error);
    } else if (rmg_image_form_as(&image, RMG_IMAGE_RAW, 0xFF, &bytes, size, &error) != RMG_OK) {
        wrong_call("identify", "%s: %s", file, error.what);
        rmg_error_free(&error);
    } else {
        *status = EXIT_PASS;
    }
    rmg_image_free(&image);
    return bytes;
}

static void print_entry(FILE *to, const rmg_known *e)
{
    fprintf(to, "%s%s%s%s%s%s%s%s", e->name, *e->version ? ", version " : "", e->version,
            *e->board ? " (" : "", e->board, *e->socket ? ", " : "", e->socket,
            *e->board ? ")" : "");
}

static void print_near(FILE *to, const rmg_identity *id, const rmg_match *m)
{
    const rmg_form *form = &id->forms[m->form];

    fprintf(to,
            "    %" G_GUINT64_FORMAT " of %zu bits away (%.2g %%): %" G_GUINT64_FORMAT
            " read 1 where it has 0, %" G_GUINT64_FORMAT " read 0 where it has 1\n    the first:",
            m->bits_away, form->size * 8, 100.0 * (double)m->bits_away / ((double)form->size * 8.0),
            m->to_one, m->bits_away - m->to_one);
    for (size_t i = 0; i < MIN(m->bits_away, 6u); i++)
        fprintf(to, "%s 0x%04" G_GINT64_MODIFIER "X D%u", i ? "," : "", (guint64)(m->first[i] / 8u),
                (unsigned)(m->first[i] % 8u));
    fprintf(to, "%s\n", m->bits_away > 6 ? ", ..." : "");
}

static bool print_matches(FILE *to, const rmg_identity *id, const rmg_catalogue *catalogue)
{
    bool equal = false;
    char part[64];

    for (size_t i = 0; i < id->match_count; i++) {
        const rmg_match *m = &id->matches[i];

        if (m->bits_away && (equal || (i && !id->matches[i - 1].bits_away)))
            break; /* what is known needs no neighbours */
        fprintf(to, "%s %s: ", m->bits_away ? "Near," : "Known,",
                rmg_image_part_name(id->forms[m->form].part));
        if (m->in != RMG_ENTRY_WHOLE)
            fprintf(to, "%s of ", rmg_match_part(m, part, sizeof part));
        print_entry(to, &catalogue->list[m->entry]);
        fprintf(to, "%s\n", m->sums_only ? "; by byte sums alone, which may be chance" : "");
        if (m->bits_away)
            print_near(to, id, m);
        else
            equal = true;
    }
    if (!id->match_count)
        fprintf(to, "Not known: none of the %zu entries of %s is equal or near.\n",
                catalogue->count, catalogue->file);
    if (id->unreadable)
        fprintf(to, "%zu image files of the catalogue could not be read.\n", id->unreadable);
    return equal;
}

static void print_forms(FILE *to, const rmg_identity *id)
{
    for (size_t i = 0; i < id->form_count; i++) {
        fprintf(to, "\n%s, %zu bytes\n", rmg_image_part_name(id->forms[i].part), id->forms[i].size);
        print_sums(to, id->forms[i].bytes, id->forms[i].size);
    }
}

static int add_entry(const identify_call *call, const char *file, const char *bytes, size_t size)
{
    const rmg_known entry = {.name = call->name,
                             .board = call->board ? call->board : (char[]){""},
                             .version = call->version ? call->version : (char[]){""},
                             .socket = call->socket ? call->socket : (char[]){""},
                             .image = (char *)(uintptr_t)file};
    rmg_error error = {0};

    if (rmg_catalogue_add(call->catalogue, &entry, bytes, size, &error) == RMG_OK) {
        fprintf(call->to, "Added to %s: %s\n", call->catalogue, call->name);
        return EXIT_PASS;
    }
    wrong_call("identify", "%s", error.what);
    rmg_error_free(&error);
    return EXIT_CALL;
}

static int look_up(const identify_call *call, const char *what, const char *bytes, size_t size)
{
    rmg_catalogue catalogue = {0};
    rmg_errors errors = {0};
    rmg_identity id;
    int status = EXIT_PASS;

    if (call->catalogue && rmg_catalogue_load(call->catalogue, &catalogue, &errors) != RMG_OK) {
        print_errors(&errors);
        return EXIT_CALL;
    }
    rmg_identify(bytes, size, call->catalogue ? &catalogue : NULL, &id);
    if (call->catalogue && !print_matches(call->to, &id, &catalogue))
        status = EXIT_FAULTS;
    print_forms(call->to, &id);
    if (call->json) {
        char *text = rmg_identity_json(&id, call->catalogue ? &catalogue : NULL, what);

        if (!write_result(call->json, text))
            status = EXIT_CALL;
        rmg_text_free(text);
    }
    rmg_identity_free(&id);
    rmg_catalogue_free(&catalogue);
    return status;
}

static bool check_call(const identify_call *call, const GPtrArray *args)
{
    if (args->len != 1 && args->len != 2)
        wrong_call("identify",
                   "expected an image file, or a board file and a socket; found %u "
                   "words",
                   args->len);
    else if (args->len == 1 && (call->on || call->bare))
        wrong_call("identify", "--on and --bare go with a board file and a socket");
    else if (call->add && (args->len != 1 || !call->catalogue || !call->name))
        wrong_call("identify", "--add needs an image file, --catalogue FILE and --name NAME");
    else if (!call->add && (call->name || call->board || call->version || call->socket))
        wrong_call("identify", "--name, --board, --version and --socket go with --add");
    else
        return true;
    return false;
}

int command_identify(GPtrArray *args)
{
    identify_call call = {0};
    const GOptionEntry entries[] = {
        {"catalogue", 0, 0, G_OPTION_ARG_FILENAME, &call.catalogue, "where to look it up", "FILE"},
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "what to read the chip on", "TARGET"},
        {"bare", 0, 0, G_OPTION_ARG_NONE, &call.bare, "the chip on its own pins", NULL},
        {"add", 0, 0, G_OPTION_ARG_NONE, &call.add, "append it to the catalogue", NULL},
        {"name", 0, 0, G_OPTION_ARG_STRING, &call.name, "of the new entry: what it is", "TEXT"},
        {"board", 0, 0, G_OPTION_ARG_STRING, &call.board, "its board", "TEXT"},
        {"version", 0, 0, G_OPTION_ARG_STRING, &call.version, "its version", "TEXT"},
        {"socket", 0, 0, G_OPTION_ARG_STRING, &call.socket, "its socket", "U5"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    char *bytes = NULL;
    size_t size = 0;
    int status, looked;

    if (!options_parse("identify", "FILE | BOARD SOCKET", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    rom_take_part(args, call.bare, call.on);
    call.to = report_begin(call.json, NULL);
    status = EXIT_CALL;
    if (check_call(&call, args))
        bytes = args->len == 1 ? read_file(g_ptr_array_index(args, 0), &size, &status)
                               : read_chip(&call, args, &size, &status);
    if (bytes) {
        looked = call.add ? add_entry(&call, g_ptr_array_index(args, 0), bytes, size)
                          : look_up(&call, g_ptr_array_index(args, args->len - 1), bytes, size);
        status = MAX(status, looked);
    }
    rmg_text_free(bytes);
    report_end(call.to);
    free_call(&call);
    return status;
}
