/* "sim:" and "sim:FAULTS.yaml": the simulated board, healthy or with the faults of a file. */
#include "internal.h"

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
    const rmg_status status = rmg_sim_board_begin(run, board, *rest ? rest : NULL, &errors);

    return take(opened, run, status, &errors, board->file, notes);
}

static rmg_status open_bare(const char *rest, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, GArray *notes)
{
    rmg_sim_board_run *run = g_new0(rmg_sim_board_run, 1);
    const rmg_socket *s = &board->sockets[socket];
    rmg_errors errors = {0};
    const rmg_status status = rmg_sim_bare_begin(run, board, socket, *rest ? rest : NULL, &errors);

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

const rmg_target_kind rmg_target_sim = {
    .prefix = "sim:", .forms = "sim:, sim:FAULTS.yaml", .open = open_sim, .open_bare = open_bare};
