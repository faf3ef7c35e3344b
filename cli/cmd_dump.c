/* rimeglass dump: reads a chip or region several times over and writes it, with what the readings
 * are worth. */
#include <string.h>

#include "rimeglass/report.h"
#include "job_entry.h"
#include "rom.h"
#include "view.h"

static const char description[] =
    "Reads a chip by its socket, or a region by its name, several times: each time in a\n"
    "different order, with other values on the data lines before each word, so that an\n"
    "undriven line shows. Writes nothing to the board, except to a region of kind empty.\n"
    "Reports whether all readings agree, which bits do not, and whether anything answers at\n"
    "all. --bare reads the chip on its own pins, pulled from the board (of a simulated\n"
    "board: in an ideal adapter). A dump that is stopped keeps what it has in\n"
    "FILE.unfinished; --resume continues it. --watch reads again and again while the chip\n"
    "warms up or cools down (docs/rom.md).\n\n"
    "Examples\n"
    "  rimeglass dump demo/boards/halvorn64.yaml U5 --on sim: --write build/u5.bin\n"
    "  rimeglass dump demo/boards/halvorn64.yaml U52 --bare --on "
    "sim:demo/faults/halvorn64-warm.yaml\n"
    "  rimeglass dump demo/boards/halvorn64.yaml U52 --bare --watch --every 60s --for 2h\n"
    "      --until-change --on sim:demo/faults/halvorn64-warm.yaml";

typedef struct dump_call {
    gchar *on, *write, *as, *json, *job, *every, *time;
    gint readings, passes;
    gboolean bare, majority, resume, watch, until_change, type_heat, live;
    FILE *to; /* readable text */
    view_call view;
} dump_call;

static void free_call(dump_call *call)
{
    g_free(call->on);
    g_free(call->write);
    g_free(call->as);
    g_free(call->json);
    g_free(call->job);
    g_free(call->every);
    g_free(call->time);
    view_free(&call->view);
}

#define SAVE_SECONDS 2.0

/* A reading at work, which is saved every few seconds, so that whatever ends us ends only it. */
typedef struct working {
    const rmg_reading *reading;
    const char *unfinished; /* file it is saved in; NULL: none */
    double saved;           /* when, and how long that took: seconds of a clock of its own */
    double took;
    bool wrong; /* it could not be saved: said once */
} working;

static double now(void)
{
    return (double)g_get_monotonic_time() / 1e6;
}

/* What was read so far, under a name that says so; false after saying why not. */
static bool save(const rmg_reading *reading, const char *file)
{
    rmg_error error = {0};

    if (rmg_reading_save(reading, file, &error) == RMG_OK)
        return true;
    fprintf(stderr, "rimeglass dump: %s\n", error.what);
    rmg_error_free(&error);
    return false;
}

static bool go_on(void *context, double share)
{
    working *w = context;
    const double begin = now();

    if (w->unfinished && !w->wrong && begin - w->saved >= MAX(SAVE_SECONDS, 10 * w->took)) {
        w->wrong = !save(w->reading, w->unfinished);
        w->saved = now();
        w->took = w->saved - begin;
    }
    return progress_share("reading", share);
}

static rmg_status read_all(const dump_call *call, rom_bench *b, const char *unfinished,
                           rmg_verify *v)
{
    working w = {.reading = &v->reading, .unfinished = unfinished, .saved = now()};
    rmg_error error = {0};
    rmg_status status;

    memset(v, 0, sizeof *v);
    if (call->resume) {
        status = rmg_reading_load(unfinished, &b->rom, &b->target.target, &v->reading, &error);
        if (status != RMG_OK) {
            wrong_call("dump", "%s", error.what);
            rmg_error_free(&error);
            return RMG_ERR_CONTENT;
        }
    } else {
        status =
            rmg_reading_begin(&v->reading, &b->rom, (uint32_t)call->readings, &b->target.target);
    }
    if (status == RMG_OK) {
        progress_start();
        status = rmg_reading_run(&v->reading, &b->target.target, go_on, &w);
        progress_end();
    }
    return status;
}

/* The image as a file; hex files begin at the chip's own address 0, or at the region's. */
static int write_image(const dump_call *call, const rom_bench *b, const rmg_verify *v,
                       rmg_image_form form)
{
    const uint64_t at = b->rom.region ? rmg_board_shown(b->board, b->rom.base) : 0;
    rmg_image image = {0};
    char *bytes = NULL;
    rmg_error error = {0};
    size_t size;
    int status = EXIT_PASS;

    rmg_image_add(&image, at, v->image, (size_t)rmg_rom_bytes(&b->rom));
    if (rmg_image_form_as(&image, form, 0xFF, &bytes, &size, &error) != RMG_OK ||
        rmg_file_write(call->write, bytes, size, &error) != RMG_OK) {
        status = wrong_call("dump", "--write %s: %s", call->write, error.what);
        rmg_error_free(&error);
    } else if (strcmp(call->write, "-") != 0) {
        fprintf(call->to, "Written: %s%s\n", call->write,
                v->quality.unsteady_bits
                    ? ", each bit by the majority of the readings: NOT A SURE IMAGE"
                    : "");
    }
    rmg_text_free(bytes);
    rmg_image_free(&image);
    return status;
}

static bool sure(const rmg_verify *v)
{
    return v->quality.state != RMG_READ_NOTHING && !v->quality.unsteady_bits && !v->quality.follows;
}

static bool may_write(const dump_call *call, const rmg_verify *v)
{
    return sure(v) || call->majority;
}

static int write_json(const dump_call *call, const rom_bench *b, const rmg_verify *v,
                      const rmg_suspects *suspects)
{
    const rmg_rom_result result = {.board = b->board,
                                   .target = call->on,
                                   .action = "dump",
                                   .complete = v->quality.state != RMG_READ_NONE,
                                   .rom = &b->rom,
                                   .verify = v,
                                   .suspects = suspects};
    char *text = rmg_rom_json(&result);
    const bool written =
        (!call->json || write_result(call->json, text)) &&
        (!call->job ||
         job_add("dump", call->job, suspects->count ? suspects->list[0].headline : "read steadily",
                 NULL, text));

    rmg_text_free(text);
    return written ? EXIT_PASS : EXIT_CALL;
}

/* As glyphs or a map, with what was not steady. */
static bool show(const dump_call *call, const rom_bench *b, const rmg_verify *v)
{
    rmg_rom_view view;
    uint8_t names[64];
    char name[160];

    rmg_rom_view_of(&b->rom, v->image, names, &view);
    view.unsteady = v->unsteady;
    return view_show("dump", &call->view, view, rmg_rom_name(&b->rom, name, sizeof name), call->to);
}

static int conclude(const dump_call *call, rom_bench *b, rmg_verify *v, rmg_image_form form)
{
    const rmg_rom_case rc = {
        .rom = &b->rom, .board = b->board, .quality = &v->quality, .bare = RMG_BARE_UNKNOWN};
    FILE *to = call->to;
    rmg_suspects suspects;
    int status = EXIT_PASS;

    v->image = g_malloc0((gsize)rmg_rom_bytes(&b->rom));
    v->unsteady = g_malloc0((gsize)rmg_rom_bytes(&b->rom));
    rmg_verify_judge(v, NULL, NULL, 0);
    rmg_rom_suspects(&rc, &suspects);
    rmg_rom_suspects_word(&rc, &suspects);
    if (suspects.count) {
        print_heads(to, &suspects);
        fputc('\n', to);
    }
    print_rom_head(to, b, &v->reading);
    print_quality(to, v);
    if (v->quality.state != RMG_READ_NOTHING) {
        fprintf(to, "Checksums%s\n", sure(v) ? "" : " of what most readings say");
        print_sums(to, v->image, (size_t)rmg_rom_bytes(&b->rom));
    }
    print_rom_suspects(to, &suspects);
    if (view_wanted(&call->view) && !show(call, b, v))
        status = EXIT_CALL;
    if (call->write && may_write(call, v))
        status = write_image(call, b, v, form);
    else if (call->write)
        fprintf(to, "Not written: the readings differ, or a line floats.\n");
    if (status == EXIT_PASS && (call->json || call->job))
        status = write_json(call, b, v, &suspects);
    if (status == EXIT_PASS && suspects.count)
        status = EXIT_FAULTS;
    rmg_suspects_free(&suspects);
    return status;
}

/* All readings were made: the image takes the place of what was kept, or that stays. What took a
 * moment only is read again as easily. */
static void settle_unfinished(const dump_call *call, const rmg_verify *v, const char *unfinished,
                              int result)
{
    rmg_error error = {0};

    if (may_write(call, v) && result < EXIT_CALL) {
        if (rmg_file_remove(unfinished, &error) != RMG_OK)
            fprintf(stderr, "rimeglass dump: %s\n", error.what);
        rmg_error_free(&error);
    } else if (g_file_test(unfinished, G_FILE_TEST_EXISTS) && save(&v->reading, unfinished))
        fprintf(
            call->to,
            "All readings are kept in %s; the same call with --resume%s, without reading again.\n",
            unfinished,
            may_write(call, v) ? " writes the image" : " --majority writes what most of them say");
}

static int dump(const dump_call *call, rom_bench *b, rmg_image_form form)
{
    const bool keeps = call->write && strcmp(call->write, "-") != 0;
    gchar *unfinished = keeps ? g_strconcat(call->write, ".unfinished", NULL) : NULL;
    rmg_verify v;
    rmg_status status = read_all(call, b, unfinished, &v);
    int result;

    if (status == RMG_OK) {
        result = conclude(call, b, &v, form);
        if (keeps)
            settle_unfinished(call, &v, unfinished, result);
    } else if (status == RMG_ERR_CONTENT) {
        result = EXIT_CALL;
    } else if (status == RMG_ERR_ROOM) {
        result = wrong_call("dump", "the region is too large to be read in one go");
    } else if (status == RMG_ERR_MEMORY) {
        fprintf(stderr, "rimeglass dump: not complete: %s.\n", rmg_status_text(status));
        result = EXIT_INCOMPLETE;
    } else {
        fprintf(call->to,
                "NOT COMPLETE: %s; %u of %u readings were made, and %" G_GUINT64_FORMAT
                " words of the next.\n",
                rmg_status_text(status), v.reading.done, v.reading.wanted, v.reading.position);
        if (keeps && save(&v.reading, unfinished))
            fprintf(call->to, "What was read is kept in %s; the same call with --resume goes on.\n",
                    unfinished);
        result = EXIT_INCOMPLETE;
    }
    rmg_verify_end(&v);
    g_free(unfinished);
    return result;
}

/* What an earlier dump has kept under this name is not to be written over. */
static bool nothing_unfinished(const dump_call *call)
{
    gchar *unfinished = g_strconcat(call->write, ".unfinished", NULL);
    const bool there = g_file_test(unfinished, G_FILE_TEST_EXISTS);

    if (there)
        wrong_call("dump",
                   "%s holds what an earlier dump read: --resume continues it; to begin "
                   "anew, remove it",
                   unfinished);
    g_free(unfinished);
    return !there;
}

static bool check_call(dump_call *call, const GPtrArray *args, rmg_image_form *form)
{
    if (args->len != 2) {
        wrong_call("dump", "expected a board file and a socket or region, found %u word%s",
                   args->len, args->len == 1 ? "" : "s");
        return false;
    }
    if (call->live && (!call->watch || call->type_heat)) {
        wrong_call("dump", "--live goes with --watch, without --type-heat: t types a temperature");
        return false;
    }
    if (call->live && !live_possible("dump"))
        return false;
    if (!call->watch && (call->until_change || call->type_heat || call->every || call->time ||
                         call->passes != NOT_GIVEN)) {
        wrong_call("dump", "--until-change, --type-heat, --every, --for and --passes go with "
                           "--watch");
        return false;
    }
    if (call->watch && (call->write || call->majority || call->resume)) {
        wrong_call("dump",
                   "--watch writes no image: it goes without --write, --majority, --resume");
        return false;
    }
    if (call->resume && (!call->write || strcmp(call->write, "-") == 0)) {
        wrong_call("dump", "--resume needs the --write FILE of the dump that was stopped");
        return false;
    }
    if (call->passes != NOT_GIVEN &&
        (call->passes < 1 || call->passes > (int)RMG_ROM_PASSES_MOST)) {
        wrong_call("dump", "--passes %d: expected a number from 1 to %u", call->passes,
                   RMG_ROM_PASSES_MOST);
        return false;
    }
    return readings_ok("dump", call->readings) && view_ok("dump", &call->view) &&
           image_form("dump", call->as, call->write, form) &&
           (!call->write || call->resume || nothing_unfinished(call));
}

static bool times(const dump_call *call, watch_call *watch)
{
    *watch = (watch_call){.to = call->to,
                          .json = call->json,
                          .passes = call->passes == NOT_GIVEN ? 0 : call->passes,
                          .until_change = call->until_change,
                          .view = &call->view,
                          .type_heat = call->type_heat,
                          .live = call->live};
    return (!call->time || read_time("dump", "for", call->time, &watch->seconds)) &&
           (!call->every || read_time("dump", "every", call->every, &watch->pause));
}

int command_dump(GPtrArray *args)
{
    dump_call call = {.readings = 3, .passes = NOT_GIVEN};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "what to read (needed)", "TARGET"},
        {"bare", 0, 0, G_OPTION_ARG_NONE, &call.bare, "the chip on its own pins", NULL},
        {"readings", 0, 0, G_OPTION_ARG_INT, &call.readings, "how many (3)", "N"},
        {"write", 0, 0, G_OPTION_ARG_FILENAME, &call.write, "write the image; - is stdout", "FILE"},
        {"as", 0, 0, G_OPTION_ARG_STRING, &call.as,
         "raw, intel or motorola (by the name of the file: .hex, .s19; else raw)", "FORM"},
        {"majority", 0, 0, G_OPTION_ARG_NONE, &call.majority,
         "write it even if readings differ: each bit by majority", NULL},
        {"resume", 0, 0, G_OPTION_ARG_NONE, &call.resume, "continue FILE.unfinished", NULL},
        {"watch", 0, 0, G_OPTION_ARG_NONE, &call.watch, "read pass after pass, until Ctrl-C", NULL},
        {"until-change", 0, 0, G_OPTION_ARG_NONE, &call.until_change,
         "end the watch with the first pass that differs", NULL},
        {"passes", 0, 0, G_OPTION_ARG_INT, &call.passes, "end the watch after this many", "N"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &call.time, "end the watch after 90s, 30m, 8h", "TIME"},
        {"every", 0, 0, G_OPTION_ARG_STRING, &call.every, "wait this long between passes", "TIME"},
        {"live", 0, 0, G_OPTION_ARG_NONE, &call.live,
         "with --watch: show it on the whole screen, with keys", NULL},
        {"type-heat", 0, 0, G_OPTION_ARG_NONE, &call.type_heat,
         "temperatures (degrees Celsius) are typed in, one per line", NULL},
        VIEW_OPTIONS(call.view),
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the result to this job", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_image_form form;
    watch_call watch;
    rom_bench bench = {0};
    int status;

    if (!options_parse("dump", "BOARD SOCKET|REGION", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    status = EXIT_CALL;
    rom_take_part(args, call.bare, call.on);
    call.to = report_begin(call.json, call.write);
    if (check_call(&call, args, &form) && times(&call, &watch) &&
        rom_open("dump", g_ptr_array_index(args, 0), g_ptr_array_index(args, 1), call.on, call.bare,
                 &bench) &&
        job_takes("dump", call.job, bench.board))
        status = call.watch ? watch_rom(&watch, &bench, call.on) : dump(&call, &bench, form);
    rom_close(&bench);
    report_end(call.to);
    free_call(&call);
    return status;
}
