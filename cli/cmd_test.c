/* rimeglass test: test a board's memory, name what to look at, write result and picture. */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "rimeglass/fault.h"
#include "test.h"

static const char description[] =
    "Checks the wiring of each bank, then tests all RAM that the board file names: with one\n"
    "march (default: March C-), or step by step with a plan: quick, full, deep, or a plan\n"
    "file (docs/plans.md; rimeglass explain full shows what it does and finds). A march or\n"
    "plan says what is written and read, and in which order; a pass is one run through all\n"
    "of it. The first pass writes zeros and ones, each later pass a word drawn from the\n"
    "seed and its complement; two runs with the same seed use the same words. THIS\n"
    "OVERWRITES that RAM, unless --keep is given. Reserved, shadowed and kept memory is not\n"
    "touched unless --region names it. Targets: sim: is a simulated healthy board,\n"
    "sim:FAULTS.yaml one with faults (docs/fault-file.md); ram:SIZE[,threads=N] is this\n"
    "machine's own memory, without a BOARD, or with one that says where its physical\n"
    "addresses lie (docs/own-memory.md). Marches: by name, like MATS+ or March C-\n"
    "(docs/marches.md), or in notation like \"any(w0); up(r0,w1); down(r1,w0)\". Times: 90s,\n"
    "30m, 8h, by the target's own clock where it has one (a simulated board); the pass that\n"
    "is running then is completed.\n\n"
    "Examples\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim: --range 0x8000-0xBFFF --passes 10\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim: --for 60s --record build/night.run\n"
    "  rimeglass test --resume build/night.run --passes 500";

static void free_call(test_call *call)
{
    g_free(call->on);
    g_free(call->range);
    g_free(call->bank);
    g_free(call->region);
    g_free(call->socket);
    g_free(call->march);
    g_free(call->plan);
    g_free(call->time);
    g_free(call->json);
    g_free(call->picture);
    g_free(call->record);
    g_free(call->job);
    g_free(call->resume);
    g_free(call->told);
    facts_free(&call->facts);
}

/* When the run is to end. */
static bool choose_end(const test_call *call, rmg_plan *plan)
{
    double seconds = 0;

    if (call->passes != NOT_GIVEN &&
        (call->passes < 1 || (uint32_t)call->passes > RMG_PASSES_MOST)) {
        wrong_call("test", "--passes %d: expected a number from 1 to %u", call->passes,
                   RMG_PASSES_MOST);
        return false;
    }
    if (call->seed < 0) {
        wrong_call("test",
                   "--seed %" G_GINT64_FORMAT ": expected a number from 0 to %" G_GINT64_FORMAT,
                   (gint64)call->seed, G_MAXINT64);
        return false;
    }
    if (call->endless && (call->passes != NOT_GIVEN || call->time)) {
        wrong_call("test", "--until-stopped cannot be combined with --passes or --for");
        return false;
    }
    if (call->time && !read_time("test", "for", call->time, &seconds))
        return false;
    if (call->passes != NOT_GIVEN || call->endless ||
        call->time) { /* what is asked now, and that alone */
        plan->passes = call->passes != NOT_GIVEN ? (uint32_t)call->passes : 0;
        plan->seconds = seconds;
        plan->endless = call->endless;
    }
    return true;
}

/* The steps: a plan by name or file, or one march. */
static bool choose_steps(test_call *call, rmg_plan *plan, rmg_steps *steps)
{
    rmg_errors errors = {0};

    if (call->plan && call->march) {
        wrong_call("test", "give --plan or --march, not both");
        return false;
    }
    if (call->march && g_ascii_strcasecmp(call->march, "checkerboard") == 0) {
        call->plan = call->march; /* a march in a background of its own */
        call->march = NULL;
    }
    if (!call->plan) {
        plan->march = find_march("test", call->march ? call->march : "March C-", call->code,
                                 &plan->march_name);
        return plan->march != NULL;
    }
    if (rmg_steps_load(call->plan, steps, &errors) != RMG_OK) {
        print_errors(&errors);
        if (!strchr(call->plan, '.') && !strchr(call->plan, '/'))
            wrong_call("test", "--plan %s: expected quick, full, deep or a plan file", call->plan);
        return false;
    }
    plan->steps = steps;
    return true;
}

static bool make_plan(test_call *call, const rmg_board *board, rmg_plan *plan, rmg_steps *steps)
{
    plan->passes = 2;
    plan->seed = (uint64_t)call->seed;
    plan->keep = call->keep;
    return choose_end(call, plan) && test_limit(call, board, plan) &&
           choose_steps(call, plan, steps);
}

static int run_plan(const test_call *call, const rmg_board *board, const rmg_plan *plan,
                    rmg_opened *target, const rmg_board *modules)
{
    rmg_run run;
    rmg_error error = {0};
    int status;

    if (rmg_run_begin(&run, board, plan, call->on, &error) != RMG_OK) {
        status = wrong_call("test", "%s", error.what);
        rmg_error_free(&error);
    } else if (call->blocks && !use_blocks(&run.steps, target)) {
        status = EXIT_CALL;
    } else {
        status = test_carry_out(call, &run, target, modules);
    }
    rmg_run_end(&run);
    return status;
}

/* The routine that --load asks for. */
static bool load_routine(const test_call *call, const rmg_board *board, rmg_opened *target,
                         rmg_plan *plan)
{
    rmg_range memory;
    rmg_error error = {0};

    if (!call->load)
        return true;
    if (target->accesses_a_second > 0 &&
        (double)target->load_accesses > 10 * target->accesses_a_second)
        fprintf(stderr,
                "rimeglass test: first the memory for the routine is proven, one access at a time: "
                "about %.0f s.\n",
                (double)target->load_accesses / target->accesses_a_second);
    if (rmg_target_load(target, board, plan->limited ? &plan->limit : NULL, &memory, &error) !=
        RMG_OK) {
        wrong_call("test", "--load: %s", error.what);
        rmg_error_free(&error);
        return false;
    }
    if (plan->spares && (plan->spared.first != memory.first || plan->spared.last != memory.last)) {
        wrong_call("test", "--load: the run left out other memory for the routine than its profile "
                           "names now");
        return false;
    }
    plan->spares = true;
    plan->spared = memory;
    return true;
}

static int test_board(test_call *call, const rmg_board *board)
{
    rmg_opened target;
    rmg_plan plan = {0};
    rmg_steps steps = {0};
    int status = EXIT_CALL;

    if (picture_ok("test", board, call->picture) && make_plan(call, board, &plan, &steps)) {
        if (target_open("test", call->on, board, &target) &&
            load_routine(call, board, &target, &plan))
            status = run_plan(call, board, &plan, &target, NULL);
        target_close("test", &target);
    }
    rmg_steps_free(&steps);
    return status;
}

/* A target with a board of its own; `modules` says which part of it is where, or is NULL. */
static int test_own_board(test_call *call, const rmg_board *modules)
{
    rmg_opened target;
    rmg_plan plan = {0};
    rmg_steps steps = {0};
    int status = EXIT_CALL;

    if (target_open("test", call->on, NULL, &target) &&
        picture_ok("test", target.board, call->picture) &&
        make_plan(call, target.board, &plan, &steps))
        status = run_plan(call, target.board, &plan, &target, modules);
    rmg_steps_free(&steps);
    target_close("test", &target);
    return status;
}

/* The target of a run file, as it was left; says what does not fit. */
static bool target_back(const test_call *call, const rmg_run_file *file, rmg_opened *target)
{
    const rmg_range *last = &file->run.tested[file->run.tested_count - 1u];

    if (!target_open("test", file->run.target, file->board, target))
        return false;
    if (target->board && !rmg_board_region_at(target->board, last->last)) {
        wrong_call("test", "%s: less memory is available now than when the run began",
                   call->resume);
        return false;
    }
    if (file->run.pass_count && target->restore &&
        target->restore(target->self, file->state, file->state_bytes) != RMG_OK) {
        wrong_call("test",
                   "%s does not match %s: was the fault file changed since, or was it recorded by "
                   "another version?",
                   call->resume, file->run.target);
        return false;
    }
    return true;
}

/* Is there anything left to do of it? Says why not. */
static bool goes_on(const test_call *call, const rmg_run *run)
{
    const rmg_plan *plan = &run->plan;

    if (plan->passes && run->pass_count >= plan->passes)
        wrong_call("test",
                   "%s has %" G_GUINT64_FORMAT
                   " passes already: --passes N, counting all passes, continues it",
                   call->resume, run->pass_count);
    else if (plan->seconds > 0 &&
             (run->seconds_target < 0 ? run->seconds_wall : run->seconds_target) >= plan->seconds)
        wrong_call("test",
                   "%s has run for its time already: --for TIME, counting all passes, "
                   "continues it",
                   call->resume);
    else
        return true;
    return false;
}

/* A run that began with a routine goes on with it, and no other does. */
static bool load_again(const test_call *call, rmg_run_file *file, rmg_opened *target)
{
    if (!call->load || file->run.plan.spares)
        return load_routine(call, file->board, target, &file->run.plan);
    wrong_call("test", "%s was begun without --load, and tests the memory that it needs",
               call->resume);
    return false;
}

/* Goes on with a run. The board, the plan and the target are the run file's. */
static int resume(const test_call *call)
{
    rmg_run_file file;
    rmg_opened target = {0};
    rmg_error error = {0};
    int status = EXIT_CALL;

    if (rmg_run_file_read(call->resume, true, &file, &error) != RMG_OK) {
        wrong_call("test", "%s", error.what);
        rmg_error_free(&error);
    } else if (picture_ok("test", file.board, call->picture) &&
               facts_ok("test", &call->facts, file.board) && choose_end(call, &file.run.plan) &&
               goes_on(call, &file.run) && target_name_ok("test", file.run.target)) {
        if (target_back(call, &file, &target) &&
            (!call->blocks || use_blocks(&file.run.steps, &target)) &&
            load_again(call, &file, &target))
            status = test_carry_out(call, &file.run, &target, NULL);
        target_close("test", &target);
    }
    rmg_run_file_free(&file);
    return status;
}

/* Is the call itself in order? Says what is not. */
static bool check_call(const test_call *call, const GPtrArray *args)
{
    if (call->resume &&
        (args->len || call->on || call->range || call->bank || call->region || call->socket ||
         call->page != NOT_GIVEN || call->march || call->plan || call->keep || call->record)) {
        wrong_call("test", "--resume goes with --passes, --for, --until-stopped, --json, --picture "
                           "and what is known; board, plan and target are in the run file");
        return false;
    }
    if (!call->resume && args->len != 1 &&
        !((call->on && rmg_target_brings_board(call->on)) && !args->len)) {
        wrong_call("test", "expected one board file, found %u", args->len);
        return false;
    }
    if (!call->resume && !target_name_ok("test", call->on))
        return false;
    if (call->live && !live_possible("test"))
        return false;
    if (call->load && call->blocks) {
        wrong_call("test", "give --load or --blocks, not both");
        return false;
    }
    if (call->record && strcmp(call->record, "-") == 0) {
        wrong_call("test", "--record -: a run file cannot go to standard output");
        return false;
    }
    return true;
}

int command_test(GPtrArray *args)
{
    test_call call = {.passes = NOT_GIVEN, .seed = 1, .page = NOT_GIVEN};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "what to test (needed)", "TARGET"},
        {"range", 0, 0, G_OPTION_ARG_STRING, &call.range, "only RAM within these addresses",
         "FIRST-LAST"},
        {"bank", 0, 0, G_OPTION_ARG_STRING, &call.bank, "only this bank's addresses", "NAME"},
        {"socket", 0, 0, G_OPTION_ARG_STRING, &call.socket, "only this socket's addresses", "U19"},
        {"region", 0, 0, G_OPTION_ARG_STRING, &call.region,
         "only this region, whatever its kind: it IS overwritten", "NAME"},
        {"page", 0, 0, G_OPTION_ARG_INT, &call.page, "only this page", "N"},
        {"keep", 0, 0, G_OPTION_ARG_NONE, &call.keep, "restore what the memory held", NULL},
        {"march", 0, 0, G_OPTION_ARG_STRING, &call.march, "march test (March C-)", "NAME|TEXT"},
        {"plan", 0, 0, G_OPTION_ARG_FILENAME, &call.plan, "quick, full, deep, or a plan file",
         "NAME|FILE"},
        {"passes", 0, 0, G_OPTION_ARG_INT, &call.passes, "how many passes (2)", "N"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &call.time, "start new passes until this time is up",
         "TIME"},
        {"until-stopped", 0, 0, G_OPTION_ARG_NONE, &call.endless, "until Ctrl-C", NULL},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &call.seed,
         "plan seed: data of the passes after the first (1)", "N"},
        {"told", 0, 0, G_OPTION_ARG_STRING, &call.told,
         "conditions set by hand: clock=HZ,supply=MV,temperature=C", "WHAT"},
        {"blocks", 0, 0, G_OPTION_ARG_NONE, &call.blocks,
         "elements by blocks, where the target has them: faster, finds less", NULL},
        {"load", 0, 0, G_OPTION_ARG_NONE, &call.load,
         "elements by a routine in the target's own memory: prompt, gdb", NULL},
        {"live", 0, 0, G_OPTION_ARG_NONE, &call.live, "show the run on the whole screen, with keys",
         NULL},
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the run to this job", "FILE"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &call.record, "record the run in a run file",
         "FILE"},
        {"resume", 0, 0, G_OPTION_ARG_FILENAME, &call.resume,
         "continue a run that stopped; without BOARD", "RUN"},
        FACT_OPTIONS(&call.facts),
        REPLAY_OPTION(&call.facts),
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "draw the board, .png, .svg or .pdf", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_board *board = NULL;
    int status;

    if (!options_parse("test", "[BOARD]", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    if (!check_call(&call, args) || !told_read("test", call.told, call.conditions)) {
        status = EXIT_CALL;
    } else if (call.resume) {
        status = resume(&call);
    } else if (args->len && !(board = load_board(g_ptr_array_index(args, 0)))) {
        status = EXIT_CALL;
    } else if (board && !facts_ok("test", &call.facts, board)) {
        rmg_board_free(board);
        status = EXIT_CALL;
    } else {
        status = rmg_target_brings_board(call.on) ? test_own_board(&call, board)
                                                  : test_board(&call, board);
        rmg_board_free(board);
    }
    free_call(&call);
    return status;
}
