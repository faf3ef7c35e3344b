/* Run files written, and read again. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/run.h"
#include "file.h"

#define FORM       3 /* of the file */
#define MOST_STATE ((json_int_t)1 << 31)
#define MOST_FILE  ((size_t)3 << 30)

static double now(void)
{
    return (double)g_get_monotonic_time() / 1e6;
}

struct rmg_run_writer {
    char *file;
    json_t *boundary; /* results at the last boundary between passes that was written */
    json_t *state;    /* of the target there */
    double written;   /* when, in seconds of now() */
};

rmg_run_writer *rmg_run_writer_new(const char *file)
{
    rmg_run_writer *writer = g_new0(rmg_run_writer, 1);

    writer->file = g_strdup(file);
    writer->written = now();
    return writer;
}

void rmg_run_writer_free(rmg_run_writer *writer)
{
    if (!writer)
        return;
    json_decref(writer->boundary);
    json_decref(writer->state);
    g_free(writer->file);
    g_free(writer);
}

bool rmg_run_writer_due(const rmg_run_writer *writer)
{
    return !writer->boundary || now() - writer->written >= RMG_RUN_KEEP_SECONDS;
}

static json_t *plan_json(const rmg_run *run)
{
    const rmg_plan *p = &run->plan;
    GString *code = g_string_new(NULL);
    const uint8_t *march = run->steps.count ? run->steps.list[run->steps.count - 1u].code : NULL;
    json_t *plan;

    /* without a text the plan is one march: its compiled form */
    for (size_t i = 0; march && !*run->steps.text && march[i];) {
        const size_t size = (march[i] & ~RMG_ORDER_MASK) + 1u;

        for (size_t n = 0; n < size; n++)
            g_string_append_printf(code, "%02x", march[i + n]);
        i += size;
    }
    plan = json_pack("{s:s, s:s, s:s, s:I, s:b, s:f, s:I, s:b, s:[I, I], s:s, s:b}", "name",
                     run->steps.name, "text", run->steps.text, "march", code->str, "passes",
                     (json_int_t)p->passes, "endless", (int)p->endless, "seconds", p->seconds,
                     "seed", (json_int_t)p->seed, "limited", (int)p->limited, "limit",
                     (json_int_t)p->limit.first, (json_int_t)p->limit.last, "region",
                     p->named ? p->named->name : "", "keep", (int)p->keep);
    if (p->spares)
        rmg_json_set(plan, "spared",
                     json_pack("[I, I]", (json_int_t)p->spared.first, (json_int_t)p->spared.last));
    g_string_free(code, TRUE);
    return plan;
}

/* Of the bytes in a simulated board's state; all else stands as numbers. */
static const char *byte_order(void)
{
    return G_BYTE_ORDER == G_LITTLE_ENDIAN ? "little" : "big";
}

static rmg_status write_file(rmg_run_writer *writer, const rmg_run *run, json_t *latest,
                             rmg_error *error)
{
    const rmg_board *board = run->board;
    json_t *conditions = json_array();
    json_t *root;
    char *text;
    rmg_status status;

    for (size_t i = 0; i < G_N_ELEMENTS(run->conditions); i++)
        rmg_json_append(conditions, run->conditions[i] == RMG_NOT_KNOWN
                                        ? json_null()
                                        : json_integer(run->conditions[i]));
    root = json_pack("{s:i, s:s, s:s, s:{s:s, s:s, s:s}, s:s, s:o, s:o, s:b, s:i, s:O, s:O}",
                     "rimeglass_run", FORM, "version", RMG_VERSION, "byte_order", byte_order(),
                     "board", "file", board->file, "sha256", board->hash, "text", board->text,
                     "target", run->target, "plan", plan_json(run), "conditions", conditions,
                     "complete", (int)run->complete, "status", (int)run->status, "boundary",
                     writer->boundary, "state", writer->state);
    if (latest)
        rmg_json_set(root, "latest", json_incref(latest));
    if (run->heard)
        rmg_json_set(root, "heard", rmg_heard_json(run));
    text = rmg_json_line(root);
    if (!text) {
        return rmg_fail(error, RMG_ERR_MEMORY, writer->file,
                        "%s: the run cannot be written: no memory is left, or a name in "
                        "it is not UTF-8",
                        writer->file);
    }
    status = rmg_file_write(writer->file, text, strlen(text), error);
    rmg_text_free(text);
    return status;
}

rmg_status rmg_run_writer_write(rmg_run_writer *writer, const rmg_run *run, const void *state,
                                size_t state_bytes, rmg_error *error)
{
    json_t *boundary = rmg_results_json(run), *packed = rmg_packed_json(state, state_bytes);
    json_t *before = writer->boundary, *state_before = writer->state;
    rmg_status status;

    writer->boundary = boundary;
    writer->state = packed;
    status = write_file(writer, run, NULL, error);
    writer->written = now();
    if (status != RMG_OK && before) { /* the file still holds the boundary before */
        writer->boundary = before;
        writer->state = state_before;
        before = boundary;
        state_before = packed;
    }
    json_decref(before);
    json_decref(state_before);
    return status;
}

rmg_status rmg_run_writer_close(rmg_run_writer *writer, const rmg_run *run, const void *state,
                                size_t state_bytes, rmg_error *error)
{
    json_t *latest;
    rmg_status status;

    if (run->complete)
        return rmg_run_writer_write(writer, run, state, state_bytes, error);
    if (!writer->boundary) { /* stopped before the first boundary: nothing to go on from */
        writer->boundary = json_null();
        writer->state = json_null();
    }
    latest = rmg_results_json(run);
    status = write_file(writer, run, latest, error);
    json_decref(latest);
    return status;
}

/* A file that is being read: what is wrong with it is said once. */
typedef struct reading {
    const char *file;
    json_t *root;
    rmg_error *error;
} reading;

static rmg_status wrong(const reading *r, const char *what)
{
    return rmg_fail(r->error, RMG_ERR_CONTENT, r->file, "%s: not a run file that can be read: %s",
                    r->file, what);
}

static bool read_march(const char *hex, uint8_t *code)
{
    const size_t bytes = strlen(hex) / 2u;
    size_t head = 0;

    memset(code, 0, RMG_MARCH_BYTES);
    if (!bytes || bytes >= RMG_MARCH_BYTES || strlen(hex) % 2u)
        return false;
    for (size_t i = 0; i < bytes; i++) {
        const int high = g_ascii_xdigit_value(hex[2 * i]),
                  low = g_ascii_xdigit_value(hex[2 * i + 1]);

        if (high < 0 || low < 0)
            return false;
        code[i] = (uint8_t)(high << 4 | low);
    }
    while (head < bytes) { /* heads with an order, operations that exist */
        const size_t count = code[head] & (uint8_t)~RMG_ORDER_MASK;

        if (!(code[head] & RMG_ORDER_MASK) || head + count >= bytes)
            return false;
        for (size_t i = 1; i <= count; i++)
            if (code[head + i] > RMG_OP_W1)
                return false;
        head += count + 1u;
    }
    return true;
}

static rmg_status read_plan(const reading *r, const rmg_board *board, rmg_plan *plan,
                            rmg_steps *steps)
{
    const char *name, *text, *march, *region;
    int endless, limited, keep;
    json_int_t passes, seed, first, last;
    uint8_t code[RMG_MARCH_BYTES];
    rmg_errors errors = {0};

    if (json_unpack(json_object_get(r->root, "plan"),
                    "{s:s, s:s, s:s, s:I, s:b, s:F, s:I, s:b, s:[I, I], s:s, s:b}", "name", &name,
                    "text", &text, "march", &march, "passes", &passes, "endless", &endless,
                    "seconds", &plan->seconds, "seed", &seed, "limited", &limited, "limit", &first,
                    &last, "region", &region, "keep", &keep) != 0 ||
        passes < 0 || passes > RMG_PASSES_MOST || !isfinite(plan->seconds) ||
        (rmg_addr)last < (rmg_addr)first)
        return wrong(r, "its plan");
    plan->passes = (uint32_t)passes;
    plan->endless = endless;
    plan->seed = (uint64_t)seed;
    plan->limited = limited;
    plan->limit = (rmg_range){(rmg_addr)first, (rmg_addr)last};
    plan->keep = keep;
    if (json_object_get(json_object_get(r->root, "plan"), "spared")) {
        if (json_unpack(json_object_get(r->root, "plan"), "{s:[I, I]}", "spared", &first, &last) !=
                0 ||
            (rmg_addr)last < (rmg_addr)first)
            return wrong(r, "its plan");
        plan->spares = true;
        plan->spared = (rmg_range){(rmg_addr)first, (rmg_addr)last};
    }
    for (size_t i = 0; *region && i < board->region_count; i++)
        if (strcmp(board->regions[i].name, region) == 0)
            plan->named = &board->regions[i];
    if (*text) {
        const rmg_status status = rmg_steps_parse(r->file, text, steps, &errors);

        rmg_errors_free(&errors);
        return status == RMG_OK ? status : wrong(r, "the steps of its plan");
    }
    if (!read_march(march, code))
        return wrong(r, "the march of its plan");
    return rmg_steps_of_march(name, code, steps);
}

static rmg_status read_state(const reading *r, bool resume, rmg_run_file *result)
{
    const json_t *state = json_object_get(r->root, "state");
    const json_int_t bytes = rmg_packed_size(state);
    const char *order;

    if (json_is_null(state))
        return RMG_OK;
    if (json_unpack(r->root, "{s:s}", "byte_order", &order) != 0)
        return wrong(r, "its byte order");
    if (strcmp(order, byte_order()) != 0) /* diagnose needs no state */
        return resume ? wrong(r, "its state comes from a machine with another byte order, so "
                                 "it cannot be continued here; diagnose reads it")
                      : RMG_OK;
    if (bytes <= 0 || bytes > MOST_STATE)
        return wrong(r, "the target's state");
    result->state = g_try_malloc((gsize)bytes);
    result->state_bytes = (size_t)bytes;
    return result->state && rmg_packed_read(state, result->state, (size_t)bytes)
               ? RMG_OK
               : wrong(r, "the target's state");
}

/* The conditions and how the run ended; false: not such values. */
static bool take_end(const reading *r, rmg_run *run)
{
    const json_t *conditions = json_object_get(r->root, "conditions");
    int complete, ended;

    if (json_unpack(r->root, "{s:b, s:i}", "complete", &complete, "status", &ended) != 0 ||
        ended < RMG_OK || ended > RMG_ERR_MEMORY)
        return false;
    for (size_t i = 0; i < G_N_ELEMENTS(run->conditions); i++)
        if (json_is_integer(json_array_get(conditions, i)))
            run->conditions[i] = (int32_t)json_integer_value(json_array_get(conditions, i));
    run->complete = complete && !json_object_get(r->root, "latest");
    run->status = (rmg_status)ended;
    return true;
}

/* A run that another program made. */
static rmg_status read_heard(const reading *r, const json_t *heard, const json_t *results,
                             rmg_run_file *result)
{
    const char *target = json_string_value(json_object_get(r->root, "target"));
    const char *profile = json_string_value(json_object_get(heard, "profile"));
    const bool known = json_is_true(json_object_get(heard, "steps_known"));
    rmg_plan plan = {0};
    rmg_steps steps = {0};
    const char *what;
    rmg_status status = RMG_OK;

    if (!target || !profile)
        return wrong(r, "its target or profile");
    if (known)
        status = read_plan(r, result->board, &plan, &steps);
    if (status == RMG_OK)
        status = rmg_run_begin_heard(&result->run, result->board, target, profile,
                                     known ? &steps : NULL);
    rmg_steps_free(&steps);
    if (status != RMG_OK)
        return wrong(r, "its plan");
    what = rmg_results_take(&result->run, results);
    if (!what && !rmg_heard_take(&result->run, heard))
        what = "what was heard";
    if (!what && !take_end(r, &result->run))
        what = "complete or status";
    return what ? wrong(r, what) : RMG_OK;
}

static rmg_status read_run(const reading *r, bool resume, rmg_run_file *result)
{
    const json_t *latest = json_object_get(r->root, "latest");
    const json_t *boundary = json_object_get(r->root, "boundary");
    const json_t *heard = json_object_get(r->root, "heard");
    const char *target, *what;
    rmg_plan plan = {0};
    rmg_steps steps = {0};
    rmg_status status;
    rmg_error error;

    if (json_unpack(r->root, "{s:s}", "target", &target) != 0)
        return wrong(r, "target, complete or status");
    if (resume && heard)
        return wrong(r, "what another program reported cannot be continued");
    if (heard)
        return read_heard(r, heard, latest ? latest : boundary, result);
    status = read_plan(r, result->board, &plan, &steps);
    if (status != RMG_OK)
        return status;
    plan.steps = &steps;
    status = rmg_run_begin(&result->run, result->board, &plan, target, &error);
    rmg_steps_free(&steps);
    if (status != RMG_OK) {
        wrong(r, error.what);
        rmg_error_free(&error);
        return RMG_ERR_CONTENT;
    }
    if (resume && json_is_null(boundary)) /* it stopped in the first pass: from its beginning */
        return json_is_true(json_object_get(r->root, "complete")) ? wrong(r, "its last boundary")
                                                                  : RMG_OK;
    what = rmg_results_take(&result->run, latest && !resume ? latest : boundary);
    if (what)
        return wrong(r, what);
    if (!take_end(r, &result->run))
        return wrong(r, "target, complete or status");
    return read_state(r, resume, result);
}

rmg_status rmg_run_file_read(const char *file, bool resume, rmg_run_file *result, rmg_error *error)
{
    reading r = {file, NULL, error};
    rmg_errors errors = {0};
    const char *name, *hash, *text;
    json_error_t problem;
    rmg_status status;
    gchar *content;
    gsize size;
    int form = 0;

    memset(result, 0, sizeof *result);
    rmg_error_none(error);
    status = rmg_file_read(file, MOST_FILE, &content, &size, error);
    if (status != RMG_OK)
        return status;
    r.root = json_loadb(content, size, JSON_REJECT_DUPLICATES, &problem);
    g_free(content);
    if (!r.root) {
        return rmg_fail(error, RMG_ERR_CONTENT, file, "%s:%d: not a run file: %s", file,
                        problem.line, problem.text);
    }
    if (json_unpack(r.root, "{s:i}", "rimeglass_run", &form) != 0 || form != FORM)
        status =
            wrong(&r, form > 0 && form < FORM ? "it was written by an older version of this tool"
                                              : "it has no \"rimeglass_run\": 3");
    else if (json_unpack(r.root, "{s:{s:s, s:s, s:s}}", "board", "file", &name, "sha256", &hash,
                         "text", &text) != 0)
        status = wrong(&r, "its board");
    else if (rmg_board_load_text(name, text, &result->board, &errors) != RMG_OK ||
             strcmp(result->board->hash, hash) != 0)
        status =
            wrong(&r, errors.count ? errors.list[0].what : "its board is not the one it names");
    else
        status = read_run(&r, resume, result);
    rmg_errors_free(&errors);
    json_decref(r.root);
    return status;
}

void rmg_run_file_free(rmg_run_file *file)
{
    if (file->run.board)
        rmg_run_end(&file->run);
    rmg_board_free(file->board);
    g_free(file->state);
    memset(file, 0, sizeof *file);
}
