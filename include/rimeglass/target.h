/* What is tested, opened by its name: "sim:FAULTS.yaml", "ram:64M". How a target of one's own is
 * added: docs/architecture.md. */
#ifndef RIMEGLASS_TARGET_H
#define RIMEGLASS_TARGET_H

#include "fault.h"
#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A target that was opened. All in it belongs to it; functions may be NULL where it cannot do that,
 * and take `self` first. It must not be moved while it is in use. */
typedef struct rmg_opened {
    rmg_target target; /* the port, its context, and the bits of a word */
    rmg_board *board; /* a board of its own: the memory that was got, or the adapter of a bare chip;
                         NULL: the board that it was opened with */
    char *remark;     /* what of it asked for could not be had; "" nothing */
    bool less;        /* ... so a run on it is not complete: less was not allowed in its name */
    char *caveat; /* what of the order and coverage of a run does not hold on it; NULL: nothing */
    void *self;   /* first argument of its functions */
    struct rmg_stream *stream; /* of one whose accesses are slow: what a stop is to end; or NULL */
    const rmg_bus *blocks;     /* its port with march elements by blocks; NULL: it has none */
    /* Makes ready for march elements that run in the target (rmg_target_load): the port and the
     * context of *target, and the memory that they need. NULL: it has none. */
    rmg_status (*load)(void *self, const rmg_range *within, rmg_target *target, rmg_range *memory);
    uint64_t load_accesses; /* that this takes, about */
    bool slices; /* it goes over many words at a time, in slices of its own (rmg_run.by_slices) */
    double accesses_a_second;         /* where they are so slow that it matters; 0: they are not */
    uint64_t (*clock_ns)(void *self); /* its own time */
    /* What went wrong last, as its far end said it; "" nothing. Its own text; or NULL: it has none.
     */
    const char *(*why)(void *self);
    /* What there is to say of the way there once it was used, as a sentence: a new text, to be
     * freed with rmg_text_free; NULL: nothing. */
    char *(*afterwards)(void *self);
    /* What it needs to go on later from where it stands, as so many bytes. RMG_ERR_ARGUMENT: these
     * bytes are not of this target. */
    size_t (*state_bytes)(void *self);
    void (*save)(void *self, void *bytes);
    rmg_status (*restore)(void *self, const void *bytes, size_t count);
    /* Where a failing word lies, in words: a new text, to be freed with rmg_text_free. `modules`
     * tells which part of the memory is where; or NULL. */
    char *(*place)(void *self, const rmg_board *modules, const rmg_failure *failure);
    void (*close)(void *self);
} rmg_opened;

/* Is it the name of a target? RMG_ERR_ARGUMENT: *error, to be freed with rmg_error_free, says what
 * was expected. */
rmg_status rmg_target_check(const char *name, rmg_error *error);

/* Has the target of this name a board of its own, so that none need be given to open it? */
bool rmg_target_brings_board(const char *name);

/* Opens it; close it with rmg_target_close in any case. `board` is the one under test, and must
 * outlive the target; not read where the target brings its own. RMG_ERR_ARGUMENT, RMG_ERR_FILE,
 * RMG_ERR_CONTENT, RMG_ERR_ROOM, RMG_ERR_MEMORY: *errors say what is wrong. */
rmg_status rmg_target_open(const char *name, const rmg_board *board, rmg_opened *opened,
                           rmg_errors *errors);

/* The same for one chip of the board on its own pins: opened->board is then the adapter it is read
 * in (rmg_sim_bare_begin). RMG_ERR_PORT_CANNOT: the target has no such adapter. */
rmg_status rmg_target_open_bare(const char *name, const rmg_board *board, uint16_t socket,
                                rmg_opened *opened, rmg_errors *errors);
void rmg_target_close(rmg_opened *opened);

/* Makes march elements go by blocks from now on: faster by far, but in another order (bus.h), which
 * the caveat then says. RMG_ERR_PORT_CANNOT: it has no such port. */
rmg_status rmg_target_use_blocks(rmg_opened *opened);

/* Makes march elements run in the target itself from now on, by a routine in its own memory, which
 * the caveat then says. `within`: all that the run may write, or NULL: all RAM. *memory: what must
 * not be tested with it (rmg_plan.spared). RMG_ERR_PORT_CANNOT: it cannot be, *error says why; or
 * what an access gave. */
rmg_status rmg_target_load(rmg_opened *opened, const rmg_board *board, const rmg_range *within,
                           rmg_range *memory, rmg_error *error);

/* `stops` is asked while an access of a slow target waits; true: it is not waited for. */
void rmg_target_stop_when(rmg_opened *opened, bool (*stops)(void *context), void *context);

/* Tells a run what of it does not hold on the target; and, once it is over, where its first
 * failures lie, and what the target's far end said last. */
void rmg_target_describe(const rmg_opened *opened, rmg_run *run);
void rmg_target_find_places(const rmg_opened *opened, rmg_run *run, const rmg_board *modules);

/* A board under simulation, ready to be tested through `target`. */
typedef struct rmg_sim_board_run {
    rmg_sim_model model; /* the board, as the simulator has it */
    rmg_board *adapter;  /* of a bare chip: the ideal adapter it is read in */
    void **images;       /* [image_count]: what the sockets' chips hold, or NULL */
    size_t image_count;  /* of `images` */
    rmg_faults faults;   /* of the fault file */
    rmg_sim sim;         /* the simulation */
    rmg_target target;   /* to be tested */
    void *memory;        /* of the simulation */
} rmg_sim_board_run;

/* Starts a simulation of `board` with the faults of `file` (NULL: a healthy board, world seed 1).
 * Chips hold the images that the board file names, or the fault file instead of them.
 * A board may be larger than this machine's memory: what accesses touch of it may take three
 * quarters of that, then they answer RMG_ERR_MEMORY. RMG_ERR_ROOM: it is more than sixteen times as
 * large. `run` must not be moved while it is in use; end it with rmg_sim_board_end in any case. */
rmg_status rmg_sim_board_begin(rmg_sim_board_run *run, const rmg_board *board, const char *file,
                               rmg_errors *errors);

/* What rmg_sim_board_begin does last: power on, with run->model and run->faults as they stand there
 * (g_free frees the list). `warms`: the temperature moves as the faults say. Errors as above, and
 * RMG_ERR_ARGUMENT: a fault names what the board does not have. */
rmg_status rmg_sim_board_power_on(rmg_sim_board_run *run, const rmg_board *board, bool warms);

/* Begins with one chip of the board, pulled and put into an ideal adapter: slow, every line
 * driven, each data line keeping its last value where the chip does not drive it. Faults in the
 * chip come with it, faults of board and socket do not. run->adapter is then the board: its only
 * socket, 0, has the chip's name, its region "chip" the chip's addresses, and its region "free"
 * answers to nothing. RMG_ERR_ARGUMENT: the board file does not say what the socket holds, or it is
 * a DRAM, which loses its contents. */
rmg_status rmg_sim_bare_begin(rmg_sim_board_run *run, const rmg_board *board, uint16_t socket,
                              const char *file, rmg_errors *errors);
void rmg_sim_board_end(rmg_sim_board_run *run);

#ifdef __cplusplus
}
#endif
#endif
