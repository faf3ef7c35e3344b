/* A test run at work: watched, recorded in its run file, and told when it is over. */
#include <string.h>

#include "test.h"

/* Who watches the run: the terminal, and the run file. */
typedef struct watcher {
    rmg_run *run;
    bench_target *target;
    rmg_run_keeper keeper; /* without a file: none is written */
    rmg_status recorded;   /* how the last writing of the run file ended */
} watcher;

static uint64_t sim_clock(void *context)
{
    const watcher *w = context;

    return w->target->sim.sim.now_ns;
}

static bool on_progress(void *context, const rmg_run_progress *progress)
{
    (void)context;
    return progress_show(progress);
}

static void on_failure(void *context, const rmg_failure *failure)
{
    const watcher *w = context;

    progress_failure(w->run->board, failure);
}

typedef rmg_status (*keeper_call)(rmg_run_keeper *keeper, const rmg_run *run, const void *state,
                                  size_t state_bytes, char **message);

/* The run and the simulated board as they stand; real memory keeps its own state. What cannot be
 * written is said once: the file holds the boundary before, and the next one is tried again. */
static rmg_status record(watcher *w, keeper_call write)
{
    const bool simulated = w->target->simulated;
    const size_t bytes = simulated ? rmg_sim_state_bytes(&w->target->sim.sim) : 0;
    const rmg_status before = w->recorded;
    char *message = NULL;
    void *state;

    if (!w->keeper.file)
        return RMG_OK;
    state = simulated ? g_try_malloc(bytes) : NULL;
    if (simulated && state)
        rmg_sim_save(&w->target->sim.sim, state);
    w->recorded =
        simulated && !state ? RMG_ERR_MEMORY : write(&w->keeper, w->run, state, bytes, &message);
    if (w->recorded != RMG_OK && before == RMG_OK)
        fprintf(stderr, "rimeglass: %s\n",
                message ? message : "the run file: no memory is left to write it");
    rmg_text_free(message);
    g_free(state);
    return w->recorded;
}

static void on_pass(void *context)
{
    watcher *w = context;

    if (rmg_run_keeper_due(&w->keeper))
        record(w, rmg_run_keeper_write);
}

/* Where in the machine a failing word lies, and on which module of the board file. */
static gchar *place_text(const rmg_ram *ram, const rmg_board *modules, const rmg_failure *f)
{
    rmg_word wrong = f->expected ^ f->actual;
    uint64_t physical = 0;
    rmg_place place;
    uint8_t bit = 0;

    switch (rmg_ram_physical(ram, f->address, &physical)) {
    case RMG_RAM_HIDDEN:
        return g_strdup("physical address not shown to this user");
    case RMG_RAM_MOVED:
        return g_strdup("its page has moved since: no physical address");
    default:
        break;
    }
    if (!modules)
        return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X", (guint64)physical);
    for (; !(wrong & 1u); wrong >>= 1)
        bit++;
    if (!rmg_board_place_byte(modules, physical + bit / 8u, bit % 8u, &place))
        return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X: not in the board file",
                               (guint64)physical);
    return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X: %s", (guint64)physical,
                           modules->sockets[place.socket].name);
}

static void find_places(rmg_run *run, const rmg_ram *ram, const rmg_board *modules)
{
    g_strfreev(run->places);
    run->places = g_new0(char *, run->tally.first_count + 1u);
    for (size_t i = 0; i < run->tally.first_count; i++)
        run->places[i] = place_text(ram, modules, &run->tally.first[i]);
}

/* What the report is to say of this machine's memory; false: there is no memory to say it. */
static bool describe_ram(rmg_run *run, const bench_target *target)
{
    char *caveat = rmg_ram_caveat(target->ram);

    if (!caveat) {
        fprintf(stderr, "rimeglass test: %s.\n", rmg_status_text(RMG_ERR_MEMORY));
        return false;
    }
    g_free(run->caveat);
    g_free(run->remark);
    run->caveat = g_strdup(caveat);
    run->remark = *target->remark ? g_strdup(target->remark) : NULL;
    rmg_text_free(caveat);
    return true;
}

int test_carry_out(const test_call *call, rmg_run *run, bench_target *target,
                   const rmg_board *modules)
{
    const char *file = call->resume ? call->resume : call->record;
    watcher w = {.run = run, .target = target};
    const rmg_watch watch = {&w, on_progress, target->simulated ? sim_clock : NULL, on_failure,
                             on_pass};
    int status;

    if (target->ram && !describe_ram(run, target))
        return EXIT_INCOMPLETE;
    if (file)
        rmg_run_keeper_begin(&w.keeper, file);
    /* the boundary a resumed run begins at is kept should it stop before the next */
    if (!run->pass_count || record(&w, rmg_run_keeper_write) == RMG_OK) {
        progress_start();
        rmg_run_carry_out(run, &target->target, &watch);
        progress_end();
        record(&w, rmg_run_keeper_close);
    } else {
        run->complete = false;
        run->status = w.recorded;
    }
    if (target->ram)
        find_places(run, target->ram, modules);
    status = run_conclude(&(run_output){.verb = "test",
                                        .run_file = file,
                                        .json = call->json,
                                        .picture = call->picture,
                                        .facts = &call->facts},
                          run);
    rmg_run_keeper_end(&w.keeper);
    if (w.recorded == RMG_ERR_MEMORY)
        return EXIT_INCOMPLETE;
    return w.recorded == RMG_OK ? status : EXIT_CALL;
}
