/* "sim:" and "sim:FAULTS.yaml": the simulated board, healthy or with the faults of a file; behind
 * either ",clock=HZ" and ",supply=MILLIVOLTS" at which it runs. */
#include <string.h>

#include "internal.h"

/* What stands behind the file's name; 0: by the file. */
typedef struct at {
    gchar *file;
    int32_t clock_hz, supply_mv;
} at;

static bool number_behind(gchar *text, const char *key, int32_t low, int32_t high, int32_t *value)
{
    gchar *from = strstr(text, key);
    gchar *end = NULL;
    gint64 number;

    if (!from)
        return true;
    number = g_ascii_strtoll(from + strlen(key), &end, 10);
    if (end == from + strlen(key) || (*end && *end != ',') || number < low || number > high)
        return false;
    *value = (int32_t)number;
    memmove(from, end, strlen(end) + 1);
    return true;
}

/* false: not in order. */
static bool split(const char *rest, at *found)
{
    *found = (at){g_strdup(rest), 0, 0};
    return number_behind(found->file, ",clock=", 1000, 1000000000, &found->clock_hz) &&
           number_behind(found->file, ",supply=", 1, 20000, &found->supply_mv);
}

static gchar *expected(const char *rest)
{
    at found;
    const bool good = split(rest, &found);

    g_free(found.file);
    return good
               ? NULL
               : g_strdup("sim:FAULTS.yaml,clock=HZ,supply=MILLIVOLTS, from 1000 to 1000000000 and "
                          "from 1 to 20000");
}

static rmg_status run_at(rmg_sim_board_run *run, const at *found, rmg_status status)
{
    if (status == RMG_OK && found->clock_hz)
        status = rmg_sim_set(&run->sim, RMG_CONDITION_CLOCK_HZ, found->clock_hz);
    if (status == RMG_OK && found->supply_mv)
        status = rmg_sim_set(&run->sim, RMG_CONDITION_SUPPLY_MV, found->supply_mv);
    return status;
}

static uint64_t clock_ns(void *self)
{
    const rmg_sim_board_run *run = self;

    return run->sim.now_ns;
}

static size_t state_bytes(void *self)
{
    const rmg_sim_board_run *run = self;

    return rmg_sim_state_bytes(&run->sim);
}

static void save(void *self, void *bytes)
{
    const rmg_sim_board_run *run = self;

    rmg_sim_save(&run->sim, bytes);
}

static rmg_status restore(void *self, const void *bytes, size_t count)
{
    rmg_sim_board_run *run = self;

    return bytes ? rmg_sim_restore(&run->sim, bytes, count) : RMG_ERR_ARGUMENT;
}

static void close_sim(void *self)
{
    rmg_sim_board_end(self);
    g_free(self);
}

/* Notes what went wrong, where the file's own errors do not say it. */
static rmg_status take(rmg_opened *opened, rmg_sim_board_run *run, rmg_status status,
                       rmg_errors *errors, const char *what, GArray *notes)
{
    for (size_t i = 0; i < errors->count; i++)
        rmg_note_error(notes, &errors->list[i]);
    if (!errors->count && status != RMG_OK)
        rmg_note(notes, status, what, "%s cannot be simulated: %s", what,
                 status == RMG_ERR_ROOM
                     ? "it is more than sixteen times as large as this machine's memory"
                     : rmg_status_text(status));
    rmg_errors_free(errors);
    opened->self = run;
    opened->close = close_sim;
    opened->target = run->target;
    opened->board = run->adapter;
    opened->clock_ns = clock_ns;
    opened->state_bytes = state_bytes;
    opened->save = save;
    opened->restore = restore;
    return status;
}

static rmg_status open_sim(const char *rest, const rmg_board *board, rmg_opened *opened,
                           GArray *notes)
{
    rmg_sim_board_run *run = g_new0(rmg_sim_board_run, 1);
    rmg_errors errors = {0};
    rmg_status status;
    at found;

    split(rest, &found);
    status = rmg_sim_board_begin(run, board, *found.file ? found.file : NULL, &errors);
    status = run_at(run, &found, status);
    g_free(found.file);
    return take(opened, run, status, &errors, board->file, notes);
}

static rmg_status open_bare(const char *rest, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, GArray *notes)
{
    rmg_sim_board_run *run = g_new0(rmg_sim_board_run, 1);
    const rmg_socket *s = &board->sockets[socket];
    rmg_errors errors = {0};
    rmg_status status;
    at found;

    split(rest, &found);
    status = rmg_sim_bare_begin(run, board, socket, *found.file ? found.file : NULL, &errors);
    status = run_at(run, &found, status);
    g_free(found.file);
    if (status == RMG_ERR_ARGUMENT && !errors.count) {
        rmg_note(notes, status, s->name, "%s cannot be read bare: %s", s->name,
                 s->part ? "a DRAM loses its contents when it is pulled"
                         : "the board file does not say what it holds");
        rmg_sim_board_end(run);
        g_free(run);
        return status;
    }
    return take(opened, run, status, &errors, s->name, notes);
}

const rmg_target_kind rmg_target_sim = {.prefix = "sim:",
                                        .forms = "sim:, sim:FAULTS.yaml",
                                        .expected = expected,
                                        .open = open_sim,
                                        .open_bare = open_bare};
