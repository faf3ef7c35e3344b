/* rimeglass log: lines that another program printed, put to sockets. */
#include <string.h>
#include <unistd.h>

#include "rimeglass/catalogue.h"
#include "rimeglass/lines.h"
#include "rimeglass/stream.h"
#include "blinks.h"
#include "job_entry.h"
#include "test.h"

#define WAIT_MS     100u
#define CONNECT_MS  5000u
#define QUIET_MS    5000
#define TRY_MS      1200u /* to find a speed */
#define JUDGE_BYTES 96u   /* so many before it is said that they are no text */

static const char description[] =
    "Reads lines that another program printed about this board's memory: a test, a monitor,\n"
    "a test ROM on a serial pin. A profile (docs/lines.md) says what the lines mean; the\n"
    "report, run file, JSON and picture are those of test, and say no more than the lines\n"
    "do. SOURCE is a file, - for lines that are typed or piped in, a serial device\n"
    "(/dev/ttyUSB0,baud=9600,frame=8N1,flow=none; baud=find tries the usual speeds),\n"
    "HOST:PORT, or run:COMMAND. A device is read until Ctrl-C, or a line that the profile\n"
    "calls the end. With --check each line is shown with what was understood, and nothing\n"
    "is diagnosed.\n\n"
    "Examples\n"
    "  rimeglass log demo/boards/vessary.yaml --profile demo/profiles/frame-status.yaml\n"
    "      demo/logs/frame-status.txt\n"
    "  rimeglass log demo/boards/halvorn64.yaml --profile demo/profiles/columns.yaml --check\n"
    "      demo/logs/columns.txt";

typedef struct log_call {
    gchar *profile, *told, *time, *json, *picture, *record, *job, *blinks, *roms, *catalogue;
    gboolean check, live;
    fact_call facts;
    int32_t conditions[4];
    double seconds;
} log_call;

/* A source while it is read. */
typedef struct reader {
    const log_call *call;
    const rmg_board *board;
    const char *source;
    rmg_stream *stream;
    rmg_listener *listener;
    rmg_run *run;
    unsigned char first[JUDGE_BYTES];
    size_t first_count;
    bool judged;
    live_view view;
} reader;

/* What was made of a line. */
static void show_line(void *context, const rmg_understood *u)
{
    const reader *r = context;
    GString *text = g_string_new(NULL);
    gchar *rule = u->rule ? g_strdup_printf("rule %u", u->rule) : g_strdup("");
    gchar *lead = g_strdup_printf("%6" G_GUINT64_FORMAT "  %-7s %-8s ", u->number, rule,
                                  rmg_line_is_name(u->is));

    for (const char *c = u->text; *c && c - u->text < 80; c++)
        g_string_append_c(text, g_ascii_isprint(*c) ? *c : '.');
    printf("%s%s\n", lead, text->str);
    for (size_t i = 0; i < u->report_count; i++) {
        char *what = rmg_report_text(r->board, &u->reports[i]);

        printf("%25s%s\n", "= ", what);
        rmg_text_free(what);
    }
    if (u->why)
        printf("%25s%s\n", "? ", u->why);
    g_free(rule);
    g_free(lead);
    g_string_free(text, TRUE);
}

static bool trying(void *context, uint32_t baud)
{
    gchar *text = g_strdup_printf("trying %u baud", baud);
    const bool on = progress_share(text, 0);

    (void)context;
    g_free(text);
    return on;
}

static gchar *line_text(const rmg_stream *stream)
{
    rmg_frame frame;
    uint32_t baud;

    if (rmg_stream_get_line(stream, &baud, &frame) != RMG_OK)
        return g_strdup("");
    return g_strdup_printf("%u baud, frame %u%c%u", baud, frame.data_bits, frame.parity,
                           frame.stop_bits);
}

/* Nothing arrives: says so, with the usual reasons. */
static void say_quiet(const reader *r)
{
    if (rmg_stream_kind_is(r->stream) == RMG_STREAM_SERIAL)
        fprintf(stderr,
                "rimeglass log: nothing has arrived from %s for %d s. Usual reasons: another "
                "device, TX and RX crossed or not, no common ground, another speed (baud=find "
                "tries the usual ones), or the board is silent.\n",
                r->source, QUIET_MS / 1000);
    else
        fprintf(stderr, "rimeglass log: nothing has arrived from %s for %d s; Ctrl-C ends it.\n",
                r->source, QUIET_MS / 1000);
}

/* Looks for the speed; false after saying that there is none. */
static bool find_speed(const reader *r, bool asked)
{
    uint64_t heard;
    const rmg_status status = rmg_stream_find_speed(r->stream, TRY_MS, trying, NULL, &heard);
    gchar *line = line_text(r->stream);

    progress_end();
    if (status == RMG_OK)
        fprintf(stderr, "rimeglass log: %s looks like text at %s%s.\n", r->source, line,
                asked ? "" : ": name that speed");
    else if (status == RMG_ERR_RANGE && heard)
        fprintf(stderr, "rimeglass log: %s: what arrives is text at none of the usual speeds.\n",
                r->source);
    else if (status == RMG_ERR_RANGE)
        fprintf(stderr, "rimeglass log: %s: nothing arrived while the usual speeds were tried.\n",
                r->source);
    else if (status == RMG_ERR_PORT_LOST)
        fprintf(stderr, "rimeglass log: %s: %s.\n", r->source, rmg_stream_why(r->stream));
    g_free(line);
    return status == RMG_OK;
}

/* Is it text? Of a serial line, once enough has arrived; false after saying that it is not. */
static bool is_text(reader *r, const char *bytes, size_t count)
{
    const size_t more = MIN(count, JUDGE_BYTES - r->first_count);
    double share;
    gchar *line;

    if (r->judged || rmg_stream_kind_is(r->stream) != RMG_STREAM_SERIAL)
        return true;
    memcpy(r->first + r->first_count, bytes, more);
    r->first_count += more;
    if (r->first_count < JUDGE_BYTES)
        return true;
    r->judged = true;
    share = rmg_text_share(r->first, r->first_count);
    if (share >= 0.8)
        return true;
    line = line_text(r->stream);
    live_end(&r->view);
    progress_end();
    fprintf(stderr,
            "rimeglass log: what arrives from %s at %s is no text: of %zu bytes %.0f %% are "
            "printable.\n",
            r->source, line, r->first_count, share * 100);
    g_free(line);
    find_speed(r, false);
    return false;
}

/* Reads to the end; RMG_ERR_CONTENT after saying that it is no text. */
static rmg_status read_all(reader *r, bool *stopped)
{
    const gint64 began = g_get_monotonic_time();
    gint64 last = began;
    bool said_quiet = false;
    rmg_status status = RMG_OK;
    char *bytes = g_malloc(65536);

    while (status == RMG_OK && !rmg_stream_ended(r->stream) && !rmg_listen_ended(r->listener)) {
        const gint64 now = g_get_monotonic_time();
        size_t got;

        if (!(r->view.live ? live_show_lines(&r->view, r->run)
                           : progress_lines(r->run->heard->lines, r->run->heard->failures)) ||
            (r->call->seconds > 0 && (double)(now - began) / 1e6 >= r->call->seconds)) {
            *stopped = !(r->call->seconds > 0 && (double)(now - began) / 1e6 >= r->call->seconds);
            break;
        }
        status = rmg_stream_read(r->stream, bytes, 65536, WAIT_MS, &got);
        if (got) {
            last = now;
            status = is_text(r, bytes, got) ? rmg_listen_bytes(r->listener, bytes, got)
                                            : RMG_ERR_CONTENT;
        } else if (!said_quiet && (now - last) / 1000 > QUIET_MS &&
                   !(rmg_stream_kind_is(r->stream) == RMG_STREAM_STANDARD &&
                     isatty(STDIN_FILENO))) {
            live_end(&r->view); /* what is said must be seen */
            progress_end();
            say_quiet(r);
            said_quiet = true;
        }
    }
    g_free(bytes);
    progress_end();
    return status;
}

/* The run file, and the report. */
static bool write_run(const char *file, const rmg_run *run)
{
    rmg_run_writer *writer = rmg_run_writer_new(file);
    rmg_error error = {0};
    const bool written = rmg_run_writer_close(writer, run, NULL, 0, &error) == RMG_OK;

    if (!written)
        fprintf(stderr, "rimeglass log: %s\n", error.what);
    rmg_error_free(&error);
    rmg_run_writer_free(writer);
    return written;
}

static bool add_to_job(const log_call *call, const rmg_run *run)
{
    gchar *name = call->record ? g_strdup(call->record) : job_run_name(call->job);
    gchar *line = g_strdup_printf("%" G_GUINT64_FORMAT " passes reported, %s", run->pass_count,
                                  rmg_run_failed(run) ? "failures among them" : "no failure");
    const bool added =
        (call->record || write_run(name, run)) && job_add("log", call->job, line, name, NULL);

    if (added && !call->record)
        unlink(name);
    g_free(line);
    g_free(name);
    return added;
}

static int conclude(const reader *r)
{
    const log_call *call = r->call;
    int status;

    if (call->check)
        return r->run->heard->unknown ? EXIT_INCOMPLETE : EXIT_PASS;
    if (call->record && !write_run(call->record, r->run))
        return EXIT_CALL;
    if (call->roms && !write_told_roms("log", r->run, call->roms))
        return EXIT_CALL;
    status = run_conclude(&(run_output){.verb = "log",
                                        .json = call->json,
                                        .picture = call->picture,
                                        .facts = &call->facts,
                                        .catalogue = call->catalogue},
                          r->run);
    return call->job && !add_to_job(call, r->run) ? EXIT_CALL : status;
}

static int hear(reader *r)
{
    bool stopped = false;
    const bool typed = rmg_stream_kind_is(r->stream) == RMG_STREAM_STANDARD && isatty(STDIN_FILENO);
    rmg_error error = {0};
    rmg_status status = RMG_OK;

    if (r->call->check || typed)
        rmg_listen_watch(r->listener, show_line, r);
    if (typed)
        fprintf(stderr, "Type the lines; Ctrl-D ends them.\n");
    progress_start();
    if (rmg_stream_wants_speed(r->stream) && !find_speed(r, true))
        return EXIT_CALL;
    if (!live_begin("log", r->call->live, r->board, r->source, &r->view))
        return EXIT_CALL;
    status = read_all(r, &stopped);
    live_end(&r->view);
    if (status == RMG_ERR_CONTENT)
        return EXIT_CALL;
    if (*rmg_stream_why(r->stream))
        fprintf(stderr, "rimeglass log: %s: %s.\n", r->source, rmg_stream_why(r->stream));
    if (status == RMG_ERR_MEMORY) {
        fprintf(stderr, "rimeglass log: %s.\n", rmg_status_text(status));
        return EXIT_INCOMPLETE;
    }
    if (rmg_listen_end(r->listener, stopped, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass log: %s: %s\n", r->source, error.what);
        rmg_error_free(&error);
        return EXIT_CALL;
    }
    if (status == RMG_ERR_PORT_LOST) {
        r->run->complete = false;
        r->run->status = status;
    }
    return conclude(r);
}

static int log_source(const log_call *call, const rmg_board *board, const rmg_profile *profile,
                      const char *source)
{
    reader r = {.call = call, .board = board, .source = source};
    char why[RMG_STREAM_WHY];
    rmg_run run;
    int status = EXIT_CALL;

    if (rmg_stream_open(source, CONNECT_MS, &r.stream, why) != RMG_OK)
        return wrong_call("log", "%s", why);
    if (rmg_run_begin_heard(&run, board, source, rmg_profile_name(profile),
                            rmg_profile_steps(profile)) != RMG_OK) {
        wrong_call("log", "%s: %s", source, rmg_status_text(run.status));
    } else {
        r.run = &run;
        told_into(call->conditions, run.conditions);
        r.listener = rmg_listen_begin(profile, &run);
        status = hear(&r);
        rmg_listen_free(r.listener);
    }
    rmg_run_end(&run);
    rmg_stream_close(r.stream);
    return status;
}

/* Blinks that were counted, as the lines of a pass that tells no more than they do. */
static int log_blinks(const log_call *call, const rmg_board *board, const rmg_profile *profile)
{
    reader r = {.call = call, .board = board, .source = "blinks"};
    gchar *lines = blinks_as_lines(board, rmg_profile_rom(profile), call->blinks);
    rmg_error error = {0};
    rmg_run run;
    int status = EXIT_CALL;

    if (!lines)
        return EXIT_CALL;
    if (rmg_run_begin_heard(&run, board, "blinks", rmg_profile_name(profile), NULL) == RMG_OK) {
        r.run = &run;
        told_into(call->conditions, run.conditions);
        r.listener = rmg_listen_begin(profile, &run);
        if (rmg_listen_bytes(r.listener, lines, strlen(lines)) == RMG_OK &&
            rmg_listen_end(r.listener, false, &error) == RMG_OK)
            status = conclude(&r);
        rmg_listen_free(r.listener);
    }
    rmg_error_free(&error);
    rmg_run_end(&run);
    g_free(lines);
    return status;
}

static void free_call(log_call *call)
{
    g_free(call->profile);
    g_free(call->told);
    g_free(call->time);
    g_free(call->json);
    g_free(call->picture);
    g_free(call->record);
    g_free(call->job);
    g_free(call->blinks);
    g_free(call->roms);
    g_free(call->catalogue);
    facts_free(&call->facts);
}

/* For blinks the board's own section suffices. */
static bool load_profile(const log_call *call, const rmg_board *board, rmg_profile **profile,
                         rmg_errors *errors)
{
    char *text;
    rmg_status status;

    if (!call->profile && !board->rom.known) {
        wrong_call("log", "--blinks: %s has no section test-rom", board->file);
        return false;
    }
    if (call->profile) {
        status = rmg_profile_load(call->profile, board, profile, errors);
    } else {
        text = rmg_dead_profile(board, &board->rom);
        status = rmg_profile_load_text("test-rom", text, board, profile, errors);
        rmg_text_free(text);
    }
    if (status == RMG_OK && call->blinks && !rmg_profile_rom(*profile)) {
        wrong_call("log", "--blinks: the profile %s is not one of a test ROM", call->profile);
        return false;
    }
    return status == RMG_OK || (print_errors(errors), false);
}

static bool catalogue_ok(const log_call *call)
{
    rmg_catalogue catalogue = {0};
    rmg_errors errors = {0};
    const bool good =
        !call->catalogue || rmg_catalogue_load(call->catalogue, &catalogue, &errors) == RMG_OK;

    if (!good)
        print_errors(&errors);
    rmg_catalogue_free(&catalogue);
    return good;
}

/* Everything that can be refused before the source is touched. */
static bool call_ok(log_call *call, const GPtrArray *args)
{
    char why[RMG_STREAM_WHY];
    rmg_stream_kind kind;

    if (call->blinks)
        return args->len == 1 && !call->check && !call->live
                   ? told_read("log", call->told, call->conditions)
                   : !wrong_call("log", "--blinks: expected a board file, no source, and neither "
                                        "--check nor --live");
    if (args->len != 2) {
        wrong_call("log", "expected a board file and a source, found %u word%s", args->len,
                   args->len == 1 ? "" : "s");
        return false;
    }
    if (!call->profile) {
        wrong_call("log", "say what the lines mean: --profile PROFILE (docs/lines.md)");
        return false;
    }
    if (call->live && call->check) {
        wrong_call("log", "give --live or --check, not both");
        return false;
    }
    if (call->live && !live_possible("log"))
        return false;
    if (call->roms && !g_file_test(call->roms, G_FILE_TEST_IS_DIR)) {
        wrong_call("log", "--roms %s: expected a folder that is there", call->roms);
        return false;
    }
    if (call->record && strcmp(call->record, "-") == 0) {
        wrong_call("log", "--record -: a run file cannot go to standard output");
        return false;
    }
    if (!rmg_stream_kind_of(args->pdata[1], &kind, why)) {
        wrong_call("log", "%s: %s", (const char *)args->pdata[1], why);
        return false;
    }
    if (call->live && kind == RMG_STREAM_STANDARD) {
        wrong_call("log", "--live takes keys from the terminal, so the lines cannot come from "
                          "there: name a file, a device or run:COMMAND");
        return false;
    }
    return told_read("log", call->told, call->conditions) &&
           (!call->time || read_time("log", "for", call->time, &call->seconds));
}

int command_log(GPtrArray *args)
{
    log_call call = {0};
    const GOptionEntry entries[] = {
        {"profile", 0, 0, G_OPTION_ARG_FILENAME, &call.profile, "what the lines mean (needed)",
         "FILE"},
        {"check", 0, 0, G_OPTION_ARG_NONE, &call.check, "show what was made of each line", NULL},
        {"live", 0, 0, G_OPTION_ARG_NONE, &call.live, "show it on the whole screen, with keys",
         NULL},
        {"blinks", 0, 0, G_OPTION_ARG_STRING, &call.blinks,
         "of a test ROM, as counted: \"3 1\", or good; instead of SOURCE", "COUNTS"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &call.time, "listen for so long", "TIME"},
        {"told", 0, 0, G_OPTION_ARG_STRING, &call.told,
         "conditions set by hand: clock=HZ,supply=MV,temperature=C", "WHAT"},
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the run to this job", "FILE"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &call.record, "record the run in a run file",
         "FILE"},
        {"roms", 0, 0, G_OPTION_ARG_FILENAME, &call.roms,
         "keep what a test ROM read of others, a file a reading", "FOLDER"},
        {"catalogue", 0, 0, G_OPTION_ARG_FILENAME, &call.catalogue,
         "images that these might be instead", "FILE"},
        FACT_OPTIONS(&call.facts),
        REPLAY_OPTION(&call.facts),
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "draw the board, .png, .svg or .pdf", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_board *board = NULL;
    rmg_profile *profile = NULL;
    rmg_errors errors = {0};
    int status;

    if (!options_parse("log", "BOARD SOURCE", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    status = EXIT_CALL;
    if (call_ok(&call, args) && catalogue_ok(&call) && (board = load_board(args->pdata[0])) &&
        picture_ok("log", board, call.picture) && job_takes("log", call.job, board) &&
        facts_ok("log", &call.facts, board)) {
        if (load_profile(&call, board, &profile, &errors))
            status = call.blinks ? log_blinks(&call, board, profile)
                                 : log_source(&call, board, profile, args->pdata[1]);
    }
    rmg_profile_free(profile);
    rmg_board_free(board);
    free_call(&call);
    return status;
}
