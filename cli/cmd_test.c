/* rimeglass test: test a board's memory, name what to look at, write result and picture. */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"
#include "rimeglass/draw.h"
#include "rimeglass/fault.h"
#include "rimeglass/result.h"

static const char description[] =
    "Checks the wiring of each bank, then runs a march test over all RAM the board file names.\n"
    "THIS OVERWRITES that RAM, unless --keep is given. Reserved, shadowed and kept memory is not\n"
    "touched unless it is named by --region.\n"
    "Targets: sim: is a simulated healthy board, sim:FAULTS.yaml one with faults\n"
    "(docs/fault-file.md). Marches: by name, as MATS+ or March C- (docs/marches.md), or notation "
    "like\n"
    "\"any(w0); up(r0,w1); down(r1,w0)\".\n\n"
    "Examples\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim: --range 0x8000-0xBFFF --passes 10";

typedef struct test_call {
    gchar *on, *range, *bank, *region, *socket, *march, *json, *picture;
    gboolean keep;
    gint page;
    gint passes;
    gint64 seed;
    uint8_t code[RMG_MARCH_BYTES];
} test_call;

static void free_call(test_call *call)
{
    g_free(call->on);
    g_free(call->range);
    g_free(call->bank);
    g_free(call->region);
    g_free(call->socket);
    g_free(call->march);
    g_free(call->json);
    g_free(call->picture);
}

/* Could this file be written? Asked before a long run, not after it. */
static bool writable(const char *option, const char *file)
{
    gchar *folder = g_path_get_dirname(file);
    bool ok = true;

    if (strcmp(file, "-") != 0 && g_file_test(file, G_FILE_TEST_IS_DIR)) {
        wrong_call("test", "--%s %s: that is a folder, expected a file", option, file);
        ok = false;
    } else if (strcmp(file, "-") != 0 && access(folder, W_OK | X_OK) != 0 &&
               access(file, W_OK) != 0) {
        wrong_call("test", "--%s %s: cannot be written: %s", option, file, g_strerror(errno));
        ok = false;
    }
    g_free(folder);
    return ok;
}

static bool choose_march(test_call *call, rmg_plan *plan)
{
    plan->march =
        find_march("test", call->march ? call->march : "March C-", call->code, &plan->march_name);
    return plan->march != NULL;
}

/* The range that holds everything of a bank or of a socket's banks. */
static bool limit_to(const rmg_board *board, uint8_t bank, uint16_t socket, rmg_plan *plan)
{
    bool any = false;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if ((bank != RMG_NO_BANK && rule->bank != bank) ||
            (socket != RMG_NO_SOCKET && rule->socket != socket))
            continue;
        plan->limit.first = any ? MIN(plan->limit.first, rule->where.first) : rule->where.first;
        plan->limit.last = any ? MAX(plan->limit.last, rule->where.last) : rule->where.last;
        any = true;
    }
    return any;
}

static bool find_region(const char *name, const rmg_board *board, rmg_plan *plan)
{
    for (size_t i = 0; i < board->region_count; i++)
        if (g_ascii_strcasecmp(board->regions[i].name, name) == 0) {
            plan->named = &board->regions[i];
            plan->limit = plan->named->range;
            return true;
        }
    return false;
}

static bool choose_limit(const test_call *call, const rmg_board *board, rmg_plan *plan)
{
    const int ways = (call->range != NULL) + (call->bank != NULL) + (call->region != NULL) +
                     (call->socket != NULL) + (call->page >= 0);
    const rmg_pages *pages = &board->pages;

    plan->limited = ways > 0;
    if (ways > 1)
        wrong_call("test", "give one of --range, --bank, --region, --socket and --page");
    else if (call->range && !rmg_board_range_parse(board, call->range, &plan->limit))
        wrong_call("test", "--range %s: expected a range like 0x8000-0xBFFF", call->range);
    else if (call->bank &&
             (rmg_board_bank(board, call->bank) == RMG_NO_BANK ||
              !limit_to(board, rmg_board_bank(board, call->bank), RMG_NO_SOCKET, plan)))
        wrong_call("test", "--bank %s: the board has no such bank; rimeglass board show lists them",
                   call->bank);
    else if (call->region && !find_region(call->region, board, plan))
        wrong_call("test",
                   "--region %s: the board has no such region; rimeglass board show lists them",
                   call->region);
    else if (call->socket &&
             (rmg_board_socket(board, call->socket) == RMG_NO_SOCKET ||
              !limit_to(board, RMG_NO_BANK, rmg_board_socket(board, call->socket), plan)))
        wrong_call("test",
                   "--socket %s: the board has no such socket, or it holds no memory that the "
                   "processor sees",
                   call->socket);
    else if (call->page >= 0 && (rmg_word)call->page >= pages->count)
        wrong_call("test", "--page %d: the board has %u pages", call->page, (unsigned)pages->count);
    else {
        if (call->page >= 0) {
            plan->limit.first = ((rmg_addr)call->page << board->address_bits) | pages->window.first;
            plan->limit.last = ((rmg_addr)call->page << board->address_bits) | pages->window.last;
        }
        return true;
    }
    return false;
}

static bool make_plan(test_call *call, const rmg_board *board, rmg_plan *plan)
{
    if (call->passes < 1 || call->passes > UINT16_MAX) {
        wrong_call("test", "--passes %d: expected a number from 1 to 65535", call->passes);
        return false;
    }
    plan->passes = (uint32_t)call->passes;
    plan->seed = (uint64_t)call->seed;
    plan->keep = call->keep;
    return choose_limit(call, board, plan) && choose_march(call, plan);
}

static uint64_t sim_clock(void *context)
{
    const rmg_sim_board_run *sim = context;

    return sim->sim.now_ns;
}

/* Writes what was asked for; false if a file could not be written. */
static bool write_files(const test_call *call, const rmg_run *run, const rmg_suspects *suspects)
{
    bool ok = true;
    char *message;

    if (call->json) {
        char *text = rmg_run_json(run, suspects);

        ok = write_result(call->json, text);
        rmg_text_free(text);
    }
    if (call->picture && rmg_draw_run(run, suspects, call->picture, &message) != RMG_OK) {
        fprintf(stderr, "rimeglass: %s\n", message);
        rmg_text_free(message);
        ok = false;
    }
    return ok;
}

static int conclude(const test_call *call, const rmg_run *run)
{
    rmg_suspects suspects;
    bool written;

    rmg_suspects_find(run, &suspects);
    if (!call->json || strcmp(call->json, "-") != 0)
        print_report(stdout, run, &suspects);
    if (!run->complete)
        fprintf(stderr, "rimeglass test: the run is not complete: %s.\n",
                rmg_status_text(run->status));
    written = write_files(call, run, &suspects);
    rmg_suspects_free(&suspects);
    if (!written)
        return EXIT_CALL;
    if (!run->complete)
        return EXIT_INCOMPLETE;
    return rmg_run_failed(run) ? EXIT_FAULTS : EXIT_PASS;
}

static int run_plan(const test_call *call, const rmg_board *board, const rmg_plan *plan,
                    rmg_sim_board_run *sim)
{
    const rmg_watch watch = {.context = sim, .progress = progress_show, .clock_ns = sim_clock};
    rmg_run run;
    char *message;
    int status;

    if (rmg_run_begin(&run, board, plan, call->on, &message) != RMG_OK) {
        status = wrong_call("test", "%s", message);
        rmg_text_free(message);
    } else {
        progress_start();
        rmg_run_carry_out(&run, &sim->target, &watch);
        progress_end();
        status = conclude(call, &run);
    }
    rmg_run_end(&run);
    return status;
}

static int test_board(test_call *call, const rmg_board *board)
{
    rmg_sim_board_run sim;
    rmg_plan plan = {0};
    int status = EXIT_CALL;

    if (!make_plan(call, board, &plan))
        return EXIT_CALL;
    if (target_open("test", call->on, board, &sim))
        status = run_plan(call, board, &plan, &sim);
    rmg_sim_board_end(&sim);
    return status;
}

/* Is the call itself in order? Says what is not. */
static bool check_call(const test_call *call, const GPtrArray *args)
{
    if (args->len != 1) {
        wrong_call("test", "expected one board file, found %u", args->len);
        return false;
    }
    if (!target_name_ok("test", call->on))
        return false;
    if (call->picture && !g_str_has_suffix(call->picture, ".png") &&
        !g_str_has_suffix(call->picture, ".svg")) {
        wrong_call("test", "--picture %s: expected a name that ends in .png or .svg",
                   call->picture);
        return false;
    }
    return (!call->json || writable("json", call->json)) &&
           (!call->picture || writable("picture", call->picture));
}

int command_test(GPtrArray *args)
{
    test_call call = {.passes = 2, .seed = 1, .page = -1};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "what to test (needed)", "TARGET"},
        {"range", 0, 0, G_OPTION_ARG_STRING, &call.range, "only RAM within these addresses",
         "FIRST-LAST"},
        {"bank", 0, 0, G_OPTION_ARG_STRING, &call.bank, "only this bank's addresses", "NAME"},
        {"socket", 0, 0, G_OPTION_ARG_STRING, &call.socket, "only this socket's addresses", "U19"},
        {"region", 0, 0, G_OPTION_ARG_STRING, &call.region,
         "only this region, of whatever kind: it IS overwritten", "NAME"},
        {"page", 0, 0, G_OPTION_ARG_INT, &call.page, "only this page", "N"},
        {"keep", 0, 0, G_OPTION_ARG_NONE, &call.keep, "put back what the memory held", NULL},
        {"march", 0, 0, G_OPTION_ARG_STRING, &call.march, "march test (March C-)", "NAME|TEXT"},
        {"passes", 0, 0, G_OPTION_ARG_INT, &call.passes, "how many passes (2)", "N"},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &call.seed,
         "plan seed: data of the passes after the first (1)", "N"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture, "draw the board, .png or .svg",
         "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_board *board;
    int status;

    if (!options_parse("test", "BOARD", description, entries, args, &status)) {
        free_call(&call);
        return status;
    }
    if (!check_call(&call, args)) {
        status = EXIT_CALL;
    } else if (!(board = load_board(g_ptr_array_index(args, 0)))) {
        status = EXIT_CALL;
    } else {
        status = test_board(&call, board);
        rmg_board_free(board);
    }
    free_call(&call);
    return status;
}
