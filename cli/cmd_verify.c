/* rimeglass verify: a chip against a good image, in its board and bare, once or at steps of supply
 * and clock. */
#include <string.h>

#include "rimeglass/report.h"
#include "facts.h"
#include "job_entry.h"
#include "rom.h"

static const char description[] =
    "Reads a chip or region as dump does and compares it with an image: the file given, or\n"
    "the one the board file names for that socket. Reports what the difference proves:\n"
    "lines stuck, open, touching or swapped, bits that fade, halves, offsets, another\n"
    "version from the catalogue; and which lines the reading proves sound. Without an image\n"
    "it reports what the statistics of the reading speak against. --both also reads the\n"
    "chip bare, as --bare does alone: good there and bad in the board is a different\n"
    "finding from bad in both. --bare-was reports what another instrument found;\n"
    "--ram-good, that the RAM on the same data lines passed: then only the stretch to this chip\n"
    "remains. --read judges files that another instrument read, each as one reading: in\n"
    "the board, or with --bare on the chip's own pins. Of an image that says nothing about\n"
    "some bytes, those are not compared. --known-good and the options after it report what\n"
    "was found by other means, as for test.\n\n"
    "Examples\n"
    "  rimeglass verify demo/boards/halvorn64.yaml U5 --on sim:\n"
    "  rimeglass verify demo/boards/halvorn64.yaml U5 --both --on "
    "sim:demo/faults/halvorn64-u5.yaml\n"
    "  rimeglass verify demo/boards/ostrel16.yaml \"program ROM\"\n"
    "      --on sim:demo/faults/ostrel16-swapped.yaml\n"
    "  rimeglass verify demo/boards/halvorn64.yaml U5 --clock-hz 1000000-4000000/500000 --on sim:";

#define STEPS_MOST 64u

typedef struct verify_call {
    gchar *on, *json, *job, *catalogue, *supply, *clock, *bare_was, *base;
    gchar **read;
    gint readings;
    gboolean bare, both, ram_good;
    fact_call facts;
    /* worked out */
    rmg_bare_result told; /* by --bare-was */
    uint64_t base_at;     /* by --base */
    FILE *to;             /* readable text */
    int32_t low[2], high[2], step[2];
} verify_call;

/* One reading of the chip and all that goes with it. */
typedef struct verified {
    rom_bench bench;
    rmg_rom_good good; /* its bytes NULL: there is no image */
    const char *from;  /* what was read: the target, or the first file */
    rom_others others;
    rmg_verify verify;
    rmg_status status;
} verified;

static const struct {
    const char *option, *what, *unit;
    rmg_condition which;
    int32_t most;
} conditions[2] = {{"supply-mv", "supply", "mV", RMG_CONDITION_SUPPLY_MV, 20000},
                   {"clock-hz", "clock", "Hz", RMG_CONDITION_CLOCK_HZ, 1000000000}};

static void free_call(verify_call *call)
{
    g_free(call->on);
    g_free(call->json);
    g_free(call->job);
    g_free(call->catalogue);
    g_free(call->supply);
    g_free(call->clock);
    g_free(call->bare_was);
    g_free(call->base);
    g_strfreev(call->read);
    facts_free(&call->facts);
}

static bool go_on(void *context, double share)
{
    return progress_share(context, share);
}

/* "4500-5500/250" */
static bool read_steps(const char *text, size_t c, verify_call *call)
{
    gchar **parts = g_strsplit(text, "/", 2);
    gchar **ends = g_strsplit(parts[0] ? parts[0] : "", "-", 2);
    uint64_t low = 0, high = 0, step = 0;
    const bool ok = parts[0] && parts[1] && ends[0] && ends[1] && rmg_number_parse(ends[0], &low) &&
                    rmg_number_parse(ends[1], &high) && rmg_number_parse(parts[1], &step) &&
                    low <= high && high <= (uint64_t)conditions[c].most && step &&
                    (high - low) / step < STEPS_MOST;

    g_strfreev(parts);
    g_strfreev(ends);
    call->low[c] = (int32_t)low;
    call->high[c] = (int32_t)high;
    call->step[c] = (int32_t)step;
    if (!ok)
        wrong_call("verify", "--%s %s: expected LOW-HIGH/STEP like %s, at most %u steps",
                   conditions[c].option, text, c ? "1000000-4000000/500000" : "4500-5500/250",
                   STEPS_MOST);
    return ok;
}

/* The image to compare with: the one given, or the board file's. */
static const char *image_of(const GPtrArray *args, const rom_bench *b)
{
    if (args->len == 3)
        return g_ptr_array_index(args, 2);
    if (b->rom.region)
        return "";
    return b->board->sockets[rmg_board_socket(b->board, g_ptr_array_index(args, 1))].image;
}

static bool load_good(const verify_call *call, const GPtrArray *args, verified *v)
{
    const char *file = image_of(args, &v->bench);
    rmg_error error = {0};

    if (!*file) {
        if (v->bench.rom.region)
            v->good.bytes = rmg_rom_region_image(&v->bench.rom);
        return true;
    }
    if (rmg_rom_good_load(&v->bench.rom, file, call->base ? &call->base_at : NULL, &v->good,
                          &error) != RMG_OK) {
        wrong_call("verify", "%s", error.what);
        rmg_error_free(&error);
        return false;
    }
    if (v->good.remark) {
        gchar *note = g_strdup_printf("%s.", v->good.remark);

        print_wrapped(call->to, "Note: ", 2, note);
        g_free(note);
    }
    v->bench.rom.known = v->good.known;
    return true;
}

/* What another instrument read: each file is a reading. Files shorter than the chip are refused:
 * what they leave out was not read. */
static bool judge_files(const verify_call *call, verified *v)
{
    const guint count = g_strv_length(call->read);
    rmg_rom_good *read = g_new0(rmg_rom_good, count);
    const void **images = g_new0(const void *, count);
    bool ok = true;

    for (guint i = 0; i < count && ok; i++) {
        rmg_error error = {0};

        ok = rmg_rom_good_load(&v->bench.rom, call->read[i], call->base ? &call->base_at : NULL,
                               &read[i], &error) == RMG_OK;
        if (!ok)
            wrong_call("verify", "--read: %s", error.what);
        else if (read[i].known || read[i].remark) {
            wrong_call("verify",
                       "--read %s: expected all %" G_GUINT64_FORMAT " bytes of the chip, as they "
                       "were read; %s",
                       call->read[i], (guint64)rmg_rom_bytes(&v->bench.rom), read[i].remark);
            ok = false;
        }
        rmg_error_free(&error);
        images[i] = read[i].bytes;
    }
    if (ok)
        v->status = rmg_verify_images(&v->verify, &v->bench.rom, images, count, v->good.bytes,
                                      v->others.words, v->others.count);
    for (guint i = 0; i < count; i++)
        rmg_rom_good_free(&read[i]);
    g_free(read);
    g_free(images);
    return ok;
}

/* Opens and reads. false: the call is wrong, and that was said. */
static bool verify_one(const verify_call *call, const GPtrArray *args, bool bare, verified *v)
{
    memset(v, 0, sizeof *v);
    v->from = call->read ? call->read[0] : call->on;
    if (!rom_open("verify", g_ptr_array_index(args, 0), g_ptr_array_index(args, 1),
                  call->read ? rom_elsewhere : call->on, bare, &v->bench) ||
        !facts_ok("verify", &call->facts, v->bench.board) ||
        !job_takes("verify", call->job, v->bench.board) || !load_good(call, args, v) ||
        !rom_others_load(call->catalogue, &v->bench.rom, &v->others))
        return false;
    if (call->read)
        return judge_files(call, v);
    progress_start();
    v->status =
        rmg_verify_run(&v->verify, &v->bench.rom, &v->bench.target.target, (uint32_t)call->readings,
                       v->good.bytes, v->others.words, v->others.count, go_on,
                       (void *)(uintptr_t)(bare ? "reading it bare" : "reading"));
    progress_end();
    return true;
}

static void end_one(verified *v)
{
    rmg_verify_end(&v->verify);
    rom_others_free(&v->others);
    rmg_rom_good_free(&v->good);
    rom_close(&v->bench);
}

/* A series as a table; false: it could not be made. */
static rmg_status run_series(const verify_call *call, verified *v, size_t c, rmg_series *series,
                             rmg_verify_step *steps)
{
    size_t count;
    rmg_status status;

    progress_start();
    status = rmg_verify_series(&v->bench.rom, &v->bench.target.target, (uint32_t)call->readings,
                               v->good.bytes, conditions[c].which, call->low[c], call->high[c],
                               call->step[c], steps, STEPS_MOST, &count, go_on,
                               (void *)(uintptr_t)conditions[c].what);
    progress_end();
    *series = (rmg_series){conditions[c].which, steps, count};
    return status;
}

static bool step_failed(const rmg_verify_step *s)
{
    return s->set && (s->wrong_bits || s->unsteady_bits || s->first_wrong);
}

/* At which values it fails, by the steps that the port could set. */
static void print_limits(FILE *to, const rmg_series *series, const char *unit)
{
    const rmg_verify_step *before = NULL, *low = NULL, *high = NULL;
    size_t failing = 0, right = 0, changes = 0;

    for (size_t i = 0; i < series->count; i++) {
        const rmg_verify_step *s = &series->steps[i];

        if (!s->set)
            continue;
        failing += step_failed(s);
        right += !step_failed(s);
        if (before && step_failed(before) != step_failed(s)) {
            changes++;
            low = before;
            high = s;
        }
        before = s;
    }
    if (!failing)
        return;
    if (!changes)
        fprintf(to, "  It fails at every step.\n");
    else if (changes > 1)
        fprintf(to, "  It fails at %zu of %zu steps, in no order.\n", failing, failing + right);
    else if (step_failed(before))
        fprintf(to, "  Right up to %d %s; it fails from %d %s on.\n", low->value, unit, high->value,
                unit);
    else
        fprintf(to, "  It fails up to %d %s; right from %d %s on.\n", low->value, unit, high->value,
                unit);
}

static void print_series(FILE *to, const rmg_series *series, size_t c, bool good)
{
    fprintf(to, "\nBy %s, %s\n", conditions[c].what,
            good ? "against the image" : "against the first step");
    for (size_t i = 0; i < series->count; i++) {
        const rmg_verify_step *s = &series->steps[i];

        if (!s->set)
            fprintf(to, "  %10d %s  the port cannot set it\n", s->value, conditions[c].unit);
        else if (!step_failed(s))
            fprintf(to, "  %10d %s  right\n", s->value, conditions[c].unit);
        else
            fprintf(to,
                    "  %10d %s  %" G_GUINT64_FORMAT " wrong bits, %" G_GUINT64_FORMAT
                    " not steady; first wrong in reading %u\n",
                    s->value, conditions[c].unit, s->wrong_bits, s->unsteady_bits, s->first_wrong);
    }
    print_limits(to, series, conditions[c].unit);
}

static bool series_failed(const rmg_series *series)
{
    for (size_t i = 0; i < series->count; i++)
        if (step_failed(&series->steps[i]))
            return true;
    return false;
}

static int write_json(const verify_call *call, const GPtrArray *args, const verified *v,
                      const verified *bare, const rmg_series *series, size_t series_count,
                      const rmg_suspects *suspects)
{
    const char *image = image_of(args, &v->bench);
    const rmg_rom_result result = {.board = v->bench.board,
                                   .target = v->from,
                                   .action = "verify",
                                   .image = *image ? image : NULL,
                                   .complete = v->status == RMG_OK,
                                   .rom = &v->bench.rom,
                                   .verify = &v->verify,
                                   .bare = bare ? &bare->verify : NULL,
                                   .series = series,
                                   .series_count = series_count,
                                   .other_names = (const char *const *)v->others.names,
                                   .suspects = suspects};
    char *text = rmg_rom_json(&result), what[160];
    gchar *line =
        suspects->count
            ? g_strdup_printf("%s%s", v->bench.rom.bare ? "on its own pins: " : "",
                              suspects->list[0].headline)
            : g_strdup_printf("%s%s: %s", rmg_rom_name(&v->bench.rom, what, sizeof what),
                              v->bench.rom.bare ? " on its own pins" : "",
                              v->good.bytes ? "equal to its image" : "nothing speaks against it");
    const bool written = (!call->json || write_result(call->json, text)) &&
                         (!call->job || job_add("verify", call->job, line, NULL, text));

    g_free(line);
    rmg_text_free(text);
    return written ? EXIT_PASS : EXIT_CALL;
}

static void print_bare(FILE *to, const verified *bare)
{
    const rmg_verify *v = &bare->verify;

    if (rmg_verify_good(v))
        fprintf(to, "Bare, the same chip reads right in all %u readings.\n", v->reading.done);
    else if (v->quality.state == RMG_READ_NOTHING)
        fprintf(to, "Bare, nothing answers either.\n");
    else if (v->compared)
        fprintf(to,
                "Bare, the same chip has %" G_GUINT64_FORMAT " wrong bits, %" G_GUINT64_FORMAT
                " not steady.\n",
                v->comparison.wrong_bits, v->quality.unsteady_bits);
    else
        fprintf(to, "Bare, the same chip could not be judged.\n");
}

static void print_verdict(FILE *to, const verified *v, const rmg_suspects *suspects,
                          const char *image)
{
    if (suspects->count) {
        print_heads(to, suspects);
        fputc('\n', to);
    }
    print_rom_head(to, &v->bench, &v->verify.reading);
    print_quality(to, &v->verify);
    if (!v->good.bytes)
        print_wrapped(to, "", 2,
                      suspects->count
                          ? "There is no image to compare with; this is only what a plausible "
                            "image would not show."
                          : "There is no image to compare with. Every data line changes, no two "
                            "are always the same, every address line makes a difference: nothing "
                            "speaks against the lines, but nothing is proved about the contents.");
    print_comparison(to, &v->verify, *image ? image : "the board file's images",
                     (const char *const *)v->others.names);
}

/* What is found, printed and written. */
static int conclude(const verify_call *call, const GPtrArray *args, verified *v,
                    const verified *bare)
{
    const rmg_bare_result was = !bare                            ? call->told
                                : rmg_verify_good(&bare->verify) ? RMG_BARE_GOOD
                                                                 : RMG_BARE_BAD;
    rmg_rom_case rc = {.rom = &v->bench.rom,
                       .board = v->bench.board,
                       .quality = &v->verify.quality,
                       .comparison = v->verify.compared ? &v->verify.comparison : NULL,
                       .other_names = (const char *const *)v->others.names,
                       .bare = was,
                       .ram_good = call->ram_good};
    rmg_verify_step steps[2][STEPS_MOST];
    const gchar *wanted[2] = {call->supply, call->clock};
    rmg_status status = v->status;
    rmg_suspects suspects;
    rmg_series series[2];
    size_t series_count = 0;
    rmg_facts facts;
    bool failed;
    int result;

    if (!facts_read("verify", &call->facts, v->bench.board, &facts)) {
        rmg_facts_end(&facts); /* the board was changed since it was checked */
        return EXIT_CALL;
    }
    rc.facts = &facts;
    rmg_rom_suspects(&rc, &suspects);
    rmg_rom_suspects_word(&rc, &suspects);
    failed = suspects.count != 0;
    print_verdict(call->to, v, &suspects, image_of(args, &v->bench));
    if (bare)
        print_bare(call->to, bare);
    for (size_t c = 0; c < 2; c++) {
        if (!wanted[c] || status != RMG_OK)
            continue;
        status = run_series(call, v, c, &series[series_count], steps[series_count]);
        if (status == RMG_ERR_PORT_CANNOT) {
            fprintf(call->to, "By %s: the port cannot set it.\n", conditions[c].what);
            status = RMG_OK;
            continue;
        }
        print_series(call->to, &series[series_count], c, v->good.bytes != NULL);
        failed |= series_failed(&series[series_count++]);
    }
    print_rom_suspects(call->to, &suspects);
    if (status != RMG_OK)
        fprintf(call->to, "NOT COMPLETE: %s.\n", rmg_status_text(status));
    result = status != RMG_OK ? EXIT_INCOMPLETE : failed ? EXIT_FAULTS : EXIT_PASS;
    if ((call->json || call->job) &&
        write_json(call, args, v, bare, series, series_count, &suspects) != EXIT_PASS)
        result = EXIT_CALL;
    rmg_suspects_free(&suspects);
    rmg_facts_end(&facts);
    return result;
}

static int verify(const verify_call *call, const GPtrArray *args)
{
    verified v = {0}, bare = {0};
    int result = EXIT_CALL;

    if (!verify_one(call, args, call->bare, &v) ||
        (call->both && !verify_one(call, args, true, &bare)))
        result = EXIT_CALL;
    else if (v.status == RMG_ERR_MEMORY || bare.status == RMG_ERR_MEMORY)
        result = EXIT_INCOMPLETE; /* that is said below */
    else
        result = conclude(call, args, &v, call->both ? &bare : NULL);
    if (v.status != RMG_OK || bare.status != RMG_OK)
        fprintf(stderr, "rimeglass verify: not complete: %s.\n",
                rmg_status_text(v.status != RMG_OK ? v.status : bare.status));
    end_one(&v);
    end_one(&bare);
    return result;
}

static bool check_call(verify_call *call, const GPtrArray *args)
{
    if (args->len != 2 && args->len != 3) {
        wrong_call("verify",
                   "expected a board file, a socket or region, and optionally an image file; found "
                   "%u word%s",
                   args->len, args->len == 1 ? "" : "s");
        return false;
    }
    if (call->both && (call->bare || call->bare_was)) {
        wrong_call("verify", "--both cannot be combined with --bare or --bare-was");
        return false;
    }
    if (call->read && (call->on || call->both || call->supply || call->clock)) {
        wrong_call("verify", "--read judges files that another instrument made: it cannot be "
                             "combined with --on, --both, --supply-mv or --clock-hz");
        return false;
    }
    if (call->base && !rmg_number_parse(call->base, &call->base_at)) {
        wrong_call("verify", "--base %s: expected an address, as 0x10000", call->base);
        return false;
    }
    if (call->bare_was && strcmp(call->bare_was, "good") == 0) {
        call->told = RMG_BARE_GOOD;
    } else if (call->bare_was && strcmp(call->bare_was, "bad") == 0) {
        call->told = RMG_BARE_BAD;
    } else if (call->bare_was) {
        wrong_call("verify", "--bare-was %s: expected good or bad", call->bare_was);
        return false;
    }
    call->to = report_begin(call->json, NULL);
    return readings_ok("verify", call->readings) &&
           (!call->supply || read_steps(call->supply, 0, call)) &&
           (!call->clock || read_steps(call->clock, 1, call));
}

int command_verify(GPtrArray *args)
{
    verify_call call = {.readings = 3};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "what to read (needed, or --read)", "TARGET"},
        {"read", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &call.read,
         "in place of --on: what another instrument read; repeatable", "FILE"},
        {"base", 0, 0, G_OPTION_ARG_STRING, &call.base,
         "the address in the image file that is the first byte here", "ADDRESS"},
        {"readings", 0, 0, G_OPTION_ARG_INT, &call.readings, "how many (3)", "N"},
        {"bare", 0, 0, G_OPTION_ARG_NONE, &call.bare, "the chip on its own pins only", NULL},
        {"both", 0, 0, G_OPTION_ARG_NONE, &call.both, "in its board, and bare", NULL},
        {"bare-was", 0, 0, G_OPTION_ARG_STRING, &call.bare_was,
         "how the chip verified in another instrument", "good|bad"},
        {"ram-good", 0, 0, G_OPTION_ARG_NONE, &call.ram_good,
         "the RAM on the same data lines passed its test", NULL},
        FACT_OPTIONS(&call.facts),
        {"catalogue", 0, 0, G_OPTION_ARG_FILENAME, &call.catalogue, "images it might be instead",
         "FILE"},
        {"supply-mv", 0, 0, G_OPTION_ARG_STRING, &call.supply,
         "verify again at steps of the supply, if the port can set it", "LOW-HIGH/STEP"},
        {"clock-hz", 0, 0, G_OPTION_ARG_STRING, &call.clock, "verify again at steps of the clock",
         "LOW-HIGH/STEP"},
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the result to this job", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("verify", "BOARD SOCKET|REGION [IMAGE]", description, entries, args,
                      &status)) {
        rom_take_part(args, call.bare, call.on);
        status = check_call(&call, args) ? verify(&call, args) : EXIT_CALL;
    }
    report_end(call.to);
    free_call(&call);
    return status;
}
