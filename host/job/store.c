/* The file of a job: SQLite, one transaction an entry. Nothing is ever taken out of it. */
#include <stdio.h>
#include <string.h>

#include "internal.h"

#define APPLICATION 0x524A6F62 /* "RJob", by which the file is known */
#define WAITS_MS    10000      /* while another process writes */

#define TABLES                                                                                     \
    "CREATE TABLE fact (name TEXT PRIMARY KEY, value TEXT NOT NULL);"                              \
    "CREATE TABLE entry (number INTEGER PRIMARY KEY AUTOINCREMENT, at TEXT NOT NULL,"              \
    " kind TEXT NOT NULL, verb TEXT NOT NULL, text TEXT NOT NULL, run BLOB, result TEXT,"          \
    " undone INTEGER NOT NULL DEFAULT 0);"

static const char *const kinds[] = {"run", "changed", "saw", "measured", "note"};

const char *rmg_entry_name(rmg_entry_kind kind)
{
    return kinds[kind];
}

static rmg_status failed(const rmg_job *job, const char *file, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_FILE, file, "%s: %s", file,
                    job->db ? sqlite3_errmsg(job->db) : "there was no memory");
}

static gchar *now(void)
{
    GDateTime *time = g_date_time_new_now_utc();
    gchar *text = g_date_time_format(time, "%Y-%m-%dT%H:%M:%SZ");

    g_date_time_unref(time);
    return text;
}

static bool run(rmg_job *job, const char *sql)
{
    return sqlite3_exec(job->db, sql, NULL, NULL, NULL) == SQLITE_OK;
}

static bool put_fact(rmg_job *job, const char *name, const char *value)
{
    sqlite3_stmt *s = NULL;
    const bool ok =
        sqlite3_prepare_v2(job->db, "INSERT INTO fact VALUES (?, ?)", -1, &s, NULL) == SQLITE_OK &&
        sqlite3_bind_text(s, 1, name, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        sqlite3_bind_text(s, 2, value, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        sqlite3_step(s) == SQLITE_DONE;

    sqlite3_finalize(s);
    return ok;
}

static gchar *get_fact(rmg_job *job, const char *name)
{
    sqlite3_stmt *s = NULL;
    gchar *value = NULL;

    if (sqlite3_prepare_v2(job->db, "SELECT value FROM fact WHERE name = ?", -1, &s, NULL) ==
            SQLITE_OK &&
        sqlite3_bind_text(s, 1, name, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        sqlite3_step(s) == SQLITE_ROW)
        value = g_strdup((const char *)sqlite3_column_text(s, 0));
    sqlite3_finalize(s);
    return value;
}

/* One that is shown: a job may come from anybody. */
static gchar *shown_fact(rmg_job *job, const char *name)
{
    gchar *value = get_fact(job, name), *shown = value ? rmg_text_harmless(value) : NULL;

    g_free(value);
    return shown;
}

static bool open_db(rmg_job *job, const char *file, int flags)
{
    const bool ok =
        sqlite3_open_v2(file, &job->db, flags | SQLITE_OPEN_FULLMUTEX, NULL) == SQLITE_OK;

    if (job->db) {
        sqlite3_busy_timeout(job->db, WAITS_MS);
        /* what is told is on the disk: a power failure takes nothing back */
        run(job,
            "PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON; PRAGMA trusted_schema = OFF");
    }
    return ok;
}

rmg_status rmg_job_new(const char *file, const rmg_board *board, const char *owner,
                       const char *symptom, rmg_error *error)
{
    rmg_job job = {0};
    unsigned char *bytes = NULL;
    sqlite3_int64 size = 0;
    rmg_staged staged;
    gchar *at, *form;
    rmg_status status;

    rmg_error_none(error);
    if (g_file_test(file, G_FILE_TEST_EXISTS))
        return rmg_fail(error, RMG_ERR_ARGUMENT, file,
                        "%s exists; expected the name of a file that is to be made", file);
    /* made in memory and written whole: a job is there or not, and not over a file that came to
     * be meanwhile */
    at = now();
    form = g_strdup_printf("PRAGMA application_id = %d; PRAGMA user_version = %d", APPLICATION,
                           RMG_JOB_FORM);
    if (open_db(&job, ":memory:", SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE) &&
        run(&job, "BEGIN") && run(&job, TABLES) && run(&job, form) &&
        put_fact(&job, "board", board->text) && put_fact(&job, "board file", board->file) &&
        put_fact(&job, "board hash", board->hash) && put_fact(&job, "owner", owner) &&
        put_fact(&job, "symptom", symptom) && put_fact(&job, "begun", at) && run(&job, "COMMIT"))
        bytes = sqlite3_serialize(job.db, "main", &size, 0);
    status = bytes ? rmg_file_stage(file, bytes, (size_t)size, &staged, error)
                   : failed(&job, file, error);
    if (status == RMG_OK)
        status = rmg_file_commit_new(&staged, error);
    sqlite3_free(bytes);
    sqlite3_close(job.db);
    g_free(form);
    g_free(at);
    return status;
}

static int64_t pragma(rmg_job *job, const char *sql)
{
    sqlite3_stmt *s = NULL;
    int64_t value = -1;

    if (sqlite3_prepare_v2(job->db, sql, -1, &s, NULL) == SQLITE_OK &&
        sqlite3_step(s) == SQLITE_ROW)
        value = sqlite3_column_int64(s, 0);
    sqlite3_finalize(s);
    return value;
}

/* Is it a job of a form that is known? */
static rmg_status check_form(rmg_job *job, const char *file, rmg_error *error)
{
    const int64_t application = pragma(job, "PRAGMA application_id");
    const int64_t form = pragma(job, "PRAGMA user_version");

    if (application != APPLICATION)
        return rmg_fail(error, RMG_ERR_CONTENT, file,
                        "%s is not a job; rimeglass job new makes one", file);
    if (form > RMG_JOB_FORM)
        return rmg_fail(
            error, RMG_ERR_CONTENT, file,
            "%s is a job of form %d; this version knows forms up to %d: use the version "
            "that made it, or a later one",
            file, (int)form, RMG_JOB_FORM);
    if (form < 1)
        return rmg_fail(error, RMG_ERR_CONTENT, file,
                        "%s is a job of form %d, which was never used", file, (int)form);
    return RMG_OK;
}

static rmg_status load_board(rmg_job *job, rmg_error *error)
{
    gchar *text = get_fact(job, "board"), *name = get_fact(job, "board file");
    rmg_errors errors = {0};
    rmg_status status = RMG_OK;

    if (!text || !name || rmg_board_load_text(name, text, &job->board, &errors) != RMG_OK)
        status = rmg_fail(error, RMG_ERR_CONTENT, job->file, "%s: its board: %s", job->file,
                          errors.count ? errors.list[0].what : "is missing");
    rmg_errors_free(&errors);
    g_free(text);
    g_free(name);
    return status;
}

rmg_status rmg_job_open(const char *file, rmg_job **result, rmg_error *error)
{
    rmg_job *job = g_new0(rmg_job, 1);
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    *result = NULL;
    job->file = g_strdup(file);
    if (!g_file_test(file, G_FILE_TEST_EXISTS))
        status = rmg_fail(error, RMG_ERR_FILE, file,
                          "%s: there is no such file; rimeglass job new makes one", file);
    else if (!open_db(job, file, SQLITE_OPEN_READWRITE))
        status = failed(job, file, error);
    if (status == RMG_OK)
        status = check_form(job, file, error);
    if (status == RMG_OK)
        status = load_board(job, error);
    if (status != RMG_OK) {
        rmg_job_close(job);
        return status;
    }
    job->owner = shown_fact(job, "owner");
    job->symptom = shown_fact(job, "symptom");
    job->begun = shown_fact(job, "begun");
    *result = job;
    return RMG_OK;
}

void rmg_job_close(rmg_job *job)
{
    if (!job)
        return;
    sqlite3_close(job->db);
    rmg_board_free(job->board);
    g_free(job->owner);
    g_free(job->symptom);
    g_free(job->begun);
    g_free(job->file);
    g_free(job);
}

const char *rmg_job_file(const rmg_job *job)
{
    return job->file;
}

const rmg_board *rmg_job_board(const rmg_job *job)
{
    return job->board;
}

const char *rmg_job_owner(const rmg_job *job)
{
    return job->owner ? job->owner : "";
}

const char *rmg_job_symptom(const rmg_job *job)
{
    return job->symptom ? job->symptom : "";
}

const char *rmg_job_begun(const rmg_job *job)
{
    return job->begun ? job->begun : "";
}

static gchar *column(sqlite3_stmt *s, int n)
{
    const char *text = (const char *)sqlite3_column_text(s, n);

    return rmg_text_harmless(text ? text : "");
}

static void free_entry(rmg_entry *e)
{
    g_free(e->at);
    g_free(e->verb);
    g_free(e->text);
}

rmg_status rmg_job_entries(rmg_job *job, rmg_entry **list, size_t *count, rmg_error *error)
{
    GArray *found = g_array_new(FALSE, TRUE, sizeof(rmg_entry));
    sqlite3_stmt *s = NULL;
    int step = SQLITE_ERROR;

    rmg_error_none(error);
    if (sqlite3_prepare_v2(
            job->db,
            "SELECT number, at, kind, verb, text, run IS NOT NULL, undone FROM entry "
            "ORDER BY number",
            -1, &s, NULL) == SQLITE_OK)
        while ((step = sqlite3_step(s)) == SQLITE_ROW) {
            const char *kind = (const char *)sqlite3_column_text(s, 2);
            rmg_entry e = {.number = sqlite3_column_int64(s, 0),
                           .at = column(s, 1),
                           .kind = RMG_ENTRY_NOTE,
                           .verb = column(s, 3),
                           .text = column(s, 4),
                           .has_run = sqlite3_column_int(s, 5) != 0,
                           .undone = sqlite3_column_int(s, 6) != 0};

            for (size_t k = 0; k < G_N_ELEMENTS(kinds); k++)
                if (kind && strcmp(kinds[k], kind) == 0)
                    e.kind = (rmg_entry_kind)k;
            g_array_append_val(found, e);
        }
    sqlite3_finalize(s);
    *count = found->len;
    *list = rmg_array_take(found);
    if (step == SQLITE_DONE)
        return RMG_OK;
    rmg_entries_free(*list, *count);
    *list = NULL;
    *count = 0;
    return failed(job, job->file, error);
}

void rmg_entries_free(rmg_entry *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        free_entry(&list[i]);
    g_free(list);
}

static rmg_status add(rmg_job *job, rmg_entry_kind kind, const char *verb, const char *text,
                      const void *run_bytes, size_t size, const char *result, rmg_error *error)
{
    sqlite3_stmt *s = NULL;
    gchar *at = now();
    const bool ok =
        sqlite3_prepare_v2(job->db,
                           "INSERT INTO entry (at, kind, verb, text, run, result) VALUES (?, ?, ?, "
                           "?, ?, ?)",
                           -1, &s, NULL) == SQLITE_OK &&
        sqlite3_bind_text(s, 1, at, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        sqlite3_bind_text(s, 2, kinds[kind], -1, SQLITE_STATIC) == SQLITE_OK &&
        sqlite3_bind_text(s, 3, verb, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        sqlite3_bind_text(s, 4, text, -1, SQLITE_TRANSIENT) == SQLITE_OK &&
        (!run_bytes || sqlite3_bind_blob64(s, 5, run_bytes, size, SQLITE_STATIC) == SQLITE_OK) &&
        (!result || sqlite3_bind_text(s, 6, result, -1, SQLITE_TRANSIENT) == SQLITE_OK) &&
        sqlite3_step(s) == SQLITE_DONE;

    sqlite3_finalize(s);
    g_free(at);
    return ok ? RMG_OK : failed(job, job->file, error);
}

/* Is the text one that this kind of entry can have? */
static rmg_status check_text(rmg_job *job, rmg_entry_kind kind, const char *text, rmg_error *error)
{
    rmg_changes changes;
    rmg_facts facts;
    rmg_status status = RMG_OK;

    if (!text[strspn(text, " \t\n")])
        return rmg_fail(error, RMG_ERR_CONTENT, NULL, "expected words: what was %s",
                        kind == RMG_ENTRY_SAW ? "seen" : kinds[kind]);
    if (!g_utf8_validate(text, -1, NULL))
        return rmg_fail(error, RMG_ERR_CONTENT, NULL, "the words are not UTF-8 text");
    if (rmg_text_controls(text, strlen(text)))
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "the words hold a control character; expected what can be printed");
    if (kind == RMG_ENTRY_CHANGE) {
        status = rmg_changes_parse(job->board, text, &changes, error);
        rmg_changes_free(&changes);
    } else if (kind == RMG_ENTRY_MEASURED) {
        rmg_facts_begin(&facts);
        status = rmg_job_measured(job->board, text, &facts, error);
        rmg_facts_end(&facts);
    } else if (kind == RMG_ENTRY_SAW) {
        rmg_entry *entries;
        size_t count;

        status = rmg_job_entries(job, &entries, &count, error);
        if (status == RMG_OK)
            status = rmg_job_check_elsewhere(job->board, entries, count, text, error);
        rmg_entries_free(entries, count);
    }
    return status;
}

rmg_status rmg_job_tell(rmg_job *job, rmg_entry_kind kind, const char *text, rmg_error *error)
{
    rmg_status status;

    rmg_error_none(error);
    status = check_text(job, kind, text, error);
    return status == RMG_OK ? add(job, kind, "", text, NULL, 0, NULL, error) : status;
}

rmg_status rmg_job_add_run(rmg_job *job, const char *verb, const char *line, const char *run_file,
                           const char *result, rmg_error *error)
{
    rmg_run_file file = {0};
    gchar *bytes = NULL;
    gsize size = 0;
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    if (run_file) {
        status = rmg_run_file_read(run_file, false, &file, error);
        if (status == RMG_OK && strcmp(file.board->hash, job->board->hash) != 0)
            status = rmg_fail(error, RMG_ERR_ARGUMENT, run_file,
                              "%s is a run of %s%s%s, not of this job's board, or its file was "
                              "changed since the job began",
                              run_file, file.board->name,
                              *file.board->revision ? ", revision " : "", file.board->revision);
        if (status == RMG_OK && !g_file_get_contents(run_file, &bytes, &size, NULL))
            status = rmg_fail(error, RMG_ERR_FILE, run_file, "%s: cannot be read", run_file);
        rmg_run_file_free(&file);
    }
    if (status == RMG_OK)
        status = add(job, RMG_ENTRY_RUN, verb, line, bytes, size, result, error);
    g_free(bytes);
    return status;
}

/* One statement with a number; how many rows it changed, negative: it failed. */
static int change_rows(rmg_job *job, const char *sql, int64_t number, const char *text)
{
    sqlite3_stmt *s = NULL;
    int rows = -1;

    if (sqlite3_prepare_v2(job->db, sql, -1, &s, NULL) == SQLITE_OK &&
        sqlite3_bind_int64(s, 1, number) == SQLITE_OK &&
        (!text || sqlite3_bind_text(s, 2, text, -1, SQLITE_TRANSIENT) == SQLITE_OK) &&
        sqlite3_step(s) == SQLITE_DONE)
        rows = sqlite3_changes(job->db);
    sqlite3_finalize(s);
    return rows;
}

rmg_status rmg_job_undo(rmg_job *job, char **what, rmg_error *error)
{
    rmg_entry *list, *last = NULL;
    size_t count;
    rmg_status status = rmg_job_entries(job, &list, &count, error);

    if (what)
        *what = NULL;
    for (size_t i = 0; i < count; i++)
        if (!list[i].undone)
            last = &list[i];
    if (status == RMG_OK && !last)
        status =
            rmg_fail(error, RMG_ERR_RANGE, job->file, "%s has no entry to take back", job->file);
    if (status == RMG_OK &&
        change_rows(job, "UPDATE entry SET undone = 1 WHERE number = ?1", last->number, NULL) < 0)
        status = failed(job, job->file, error);
    if (status == RMG_OK && what)
        *what = g_strdup_printf("%s%s%s: %s", kinds[last->kind], *last->verb ? " " : "", last->verb,
                                last->text);
    rmg_entries_free(list, count);
    return status;
}

rmg_status rmg_job_correct(rmg_job *job, int64_t number, const char *text, rmg_error *error)
{
    rmg_entry *list;
    size_t count;
    rmg_status status = rmg_job_entries(job, &list, &count, error);
    const rmg_entry *e = NULL;

    for (size_t i = 0; i < count; i++)
        if (list[i].number == number)
            e = &list[i];
    if (status == RMG_OK && (!e || e->kind == RMG_ENTRY_RUN))
        status = rmg_fail(error, RMG_ERR_RANGE, job->file,
                          e ? "entry %d is a run: runs are not corrected, job undo takes the last "
                              "entry back"
                            : "there is no entry %d; rimeglass job show lists them",
                          (int)number);
    if (status == RMG_OK)
        status = check_text(job, e->kind, text, error);
    if (status == RMG_OK &&
        change_rows(job, "UPDATE entry SET text = ?2 WHERE number = ?1", number, text) < 0)
        status = failed(job, job->file, error);
    rmg_entries_free(list, count);
    return status;
}

rmg_status rmg_job_run(rmg_job *job, int64_t number, rmg_run_file *file, rmg_error *error)
{
    sqlite3_stmt *s = NULL;
    gchar *name = NULL;
    GError *why = NULL;
    rmg_status status = RMG_OK;
    gint fd;

    rmg_error_none(error);
    memset(file, 0, sizeof *file);
    if (sqlite3_prepare_v2(job->db, "SELECT run FROM entry WHERE number = ?", -1, &s, NULL) !=
            SQLITE_OK ||
        sqlite3_bind_int64(s, 1, number) != SQLITE_OK || sqlite3_step(s) != SQLITE_ROW ||
        !sqlite3_column_blob(s, 0)) {
        sqlite3_finalize(s);
        return rmg_fail(error, RMG_ERR_CONTENT, job->file, "%s: entry %d has no run", job->file,
                        (int)number);
    }
    fd = g_file_open_tmp("rimeglass-XXXXXX.run", &name, &why); /* runs are read from files */
    if (fd < 0 || write(fd, sqlite3_column_blob(s, 0), (size_t)sqlite3_column_bytes(s, 0)) !=
                      sqlite3_column_bytes(s, 0))
        status = rmg_fail(error, RMG_ERR_FILE, name, "a run could not be laid out: %s",
                          why ? why->message : "the disk is full");
    if (status == RMG_OK)
        status = rmg_run_file_read(name, false, file, error);
    if (fd >= 0) {
        close(fd);
        unlink(name);
    }
    g_clear_error(&why);
    g_free(name);
    sqlite3_finalize(s);
    return status;
}

char *rmg_job_result(rmg_job *job, int64_t number)
{
    sqlite3_stmt *s = NULL;
    char *result = NULL;

    if (sqlite3_prepare_v2(job->db, "SELECT result FROM entry WHERE number = ?", -1, &s, NULL) ==
            SQLITE_OK &&
        sqlite3_bind_int64(s, 1, number) == SQLITE_OK && sqlite3_step(s) == SQLITE_ROW)
        result = g_strdup((const char *)sqlite3_column_text(s, 0));
    sqlite3_finalize(s);
    return result;
}
