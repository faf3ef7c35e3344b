/* Fuzzes jobs: a file whose entries hold anything, or whose bytes were changed anywhere. It is
 * refused with a text, or all of it bears being shown and thought about; and it stays as it is.
 *
 * Input: lines, each a kind by its first letter and the text of an entry:
 *   r changed runs TEXT    a run, its file with the byte at each "@PLACE=VALUE" of the text changed
 *   v RESULT               a verification, its result that text
 *   c, s, m, n TEXT        changed, saw, measured, a note
 *   u TEXT                 a note that was undone;  k TEXT: an entry whose kind is the text
 * or "!" and then pairs of lines, PLACE=VALUE: bytes of the job file that are changed. */
#include <glib.h>
#include <glib/gstdio.h>
#include <sqlite3.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "rimeglass/report.h"
#include "rimeglass/target.h"

#define ENTRIES 12u

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static char *template_bytes, *run_bytes;
static gsize template_size, run_size;
static gchar *file, *run_file;

static void must(bool ok, const char *what)
{
    if (ok)
        return;
    fprintf(stderr, "fuzz-job: %s\n", what);
    abort();
}

/* A job of a board of two RAMs, and the run file of a test in which one of them fails. */
static void begin(void)
{
    static const char text[] =
        "board: small\nword: 4\naddresses: words\naddress-lines: 5\nundriven: high\n"
        "parts: [{number: RAM16, kind: sram, width: 4, address-lines: 4, pins: \"A0 A1 A2 A3 DQ1 "
        "DQ2 DQ3 DQ4 WE\"}]\n"
        "regions: [{name: ram, range: 0x00-0x1F, kind: ram}]\n"
        "banks:\n"
        "  - {name: low, range: 0x00-0x0F, part: RAM16, lines: A0-A3, data: {U1: D0-D3}}\n"
        "  - {name: high, range: 0x10-0x1F, part: RAM16, lines: A0-A3, data: {U2: D0-D3}}\n"
        "sockets: [{names: U1-U2, mount: socket}]\n";
    const rmg_plan plan = {
        .march_name = "MATS+", .march = rmg_march_by_name("MATS+"), .passes = 2, .seed = 1};
    rmg_sim_board_run bench;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_board *board = NULL;
    rmg_run_writer *writer;
    rmg_run run;
    gchar *faults;

    file = g_strdup_printf("/dev/shm/fuzz-%d.job", (int)getpid());
    run_file = g_strdup_printf("/dev/shm/fuzz-%d.run", (int)getpid());
    faults = g_strdup_printf("/dev/shm/fuzz-%d.yaml", (int)getpid());
    must(rmg_board_load_text("small", text, &board, &errors) == RMG_OK, "board");
    must(g_file_set_contents(
             faults, "faults: [{kind: output stuck, socket: U2, bit: D1, level: 0}]\n", -1, NULL),
         faults);
    must(rmg_sim_board_begin(&bench, board, faults, &errors) == RMG_OK, "simulation");
    must(rmg_run_begin(&run, board, &plan, "sim:", &error) == RMG_OK, "run");
    rmg_run_carry_out(&run, &bench.target, NULL);
    writer = rmg_run_writer_new(run_file);
    must(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "run file");
    must(g_file_get_contents(run_file, &run_bytes, &run_size, NULL), run_file);
    must(rmg_job_new(file, board, "an owner", "a symptom", &error) == RMG_OK, "job");
    must(g_file_get_contents(file, &template_bytes, &template_size, NULL), file);
    rmg_run_writer_free(writer);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
    g_unlink(faults);
    g_unlink(run_file);
    g_free(faults);
}

/* "PLACE=VALUE": changes that byte. */
static void change(char *bytes, gsize count, const char *text)
{
    char *end;
    const guint64 place = g_ascii_strtoull(text, &end, 10);

    if (*end == '=' && count)
        bytes[place % count] = (char)g_ascii_strtoull(end + 1, NULL, 10);
}

/* The entry's columns may be of any type: SQLite does not mind. */
static void put_entry(sqlite3 *db, char kind, const char *text)
{
    static const char *const kinds[] = {"run", "changed", "saw", "measured", "note"};
    static const char places[] = "rcsmn";
    const char *at = kind ? strchr(places, kind) : NULL;
    char *run = NULL;
    sqlite3_stmt *s = NULL;

    must(sqlite3_prepare_v2(db,
                            "INSERT INTO entry (at, kind, verb, text, run, result, undone) VALUES "
                            "('2026-01-02T03:04:05Z', ?, ?, ?, ?, ?, ?)",
                            -1, &s, NULL) == SQLITE_OK,
         "insert");
    sqlite3_bind_text(s, 1,
                      kind == 'v'   ? "run"
                      : at          ? kinds[at - places]
                      : kind == 'u' ? "note"
                                    : text,
                      -1, SQLITE_TRANSIENT);
    sqlite3_bind_text(s, 2, kind == 'v' ? "verify" : "test", -1, SQLITE_STATIC);
    sqlite3_bind_text(s, 3, text, -1, SQLITE_TRANSIENT);
    if (kind == 'v')
        sqlite3_bind_text(s, 5, text, -1, SQLITE_TRANSIENT);
    if (kind == 'r') {
        run = g_memdup2(run_bytes, run_size);
        for (const char *c = strchr(text, '@'); c; c = strchr(c + 1, '@'))
            change(run, run_size, c + 1);
        sqlite3_bind_blob64(s, 4, run, run_size, SQLITE_STATIC);
    }
    sqlite3_bind_int(s, 6, kind == 'u');
    must(sqlite3_step(s) == SQLITE_DONE, "step");
    sqlite3_finalize(s);
    g_free(run);
}

static void make(const gchar *text)
{
    gchar **lines = g_strsplit(text, "\n", -1);
    const bool bytes = *lines && **lines == '!';
    char *changed = g_memdup2(template_bytes, template_size);
    sqlite3 *db = NULL;

    for (unsigned i = 1; bytes && lines[i]; i++)
        change(changed, template_size, lines[i]);
    must(g_file_set_contents(file, changed, (gssize)template_size, NULL), file);
    if (!bytes) {
        must(sqlite3_open(file, &db) == SQLITE_OK, "open");
        sqlite3_exec(db, "PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF", NULL, NULL, NULL);
        for (unsigned i = 0; lines[i] && i < ENTRIES; i++)
            if (*lines[i])
                put_entry(db, *lines[i], lines[i] + 1);
        sqlite3_close(db);
    }
    g_free(changed);
    g_strfreev(lines);
}

static void show(rmg_job *job)
{
    rmg_entry *entries = NULL;
    size_t count = 0;
    rmg_job_state state;
    rmg_error error = {0};
    rmg_status status = rmg_job_entries(job, &entries, &count, &error);

    must((status == RMG_OK) == (error.what == NULL), "entries: a text and a status");
    rmg_error_free(&error);
    status = rmg_job_think(job, NULL, NULL, NULL, &state, &error);
    must((status == RMG_OK) == (error.what == NULL), "think: a text and a status");
    if (status == RMG_OK && entries) {
        rmg_job_chips chips;
        char **said, *json;

        if (state.base < state.step_count)
            rmg_suspects_word(&state.steps[state.base].file.run, &state.suspects);
        said = rmg_job_lines(job, &state);
        json = rmg_job_json(job, &state, entries, count);
        rmg_job_chips_of(&state, &chips);
        rmg_job_chips_free(&chips);
        rmg_texts_free(said);
        rmg_text_free(json);
    }
    rmg_job_state_free(&state);
    rmg_error_free(&error);
    rmg_entries_free(entries, count);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    gchar *text = g_strndup((const gchar *)data, size), *before, *after;
    gsize before_size, after_size;
    rmg_job *job = NULL;
    rmg_error error = {0};
    rmg_status status;

    if (!file)
        begin();
    make(text);
    must(g_file_get_contents(file, &before, &before_size, NULL), file);
    status = rmg_job_open(file, &job, &error);
    must((status == RMG_OK) == (job != NULL) && (status == RMG_OK) == (error.what == NULL),
         "open: a job or a text");
    if (job)
        show(job);
    rmg_job_close(job);
    rmg_error_free(&error);
    must(g_file_get_contents(file, &after, &after_size, NULL), file);
    must(before_size == after_size && memcmp(before, after, after_size) == 0,
         "looking changes nothing");
    g_free(before);
    g_free(after);
    g_free(text);
    return 0;
}
