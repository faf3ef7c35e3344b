/* No access outside the permitted words, whatever the memory does: runs and spot checks of seeded
 * boards with seeded faults through a port that records. What is permitted is worked out here from
 * the regions that were drawn, not by the library. RMG_TEST_REACH: so many runs (40). */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../../bench/diag.h"
#include "../check.h"
#include "bench_board.h"
#include "rimeglass/probe.h"
#include "suites.h"

/* The port under everything: holds each access against the permitted words. */
typedef struct recorder {
    rmg_sim *sim;
    const rmg_board *board;
    const rmg_range *permitted;
    size_t count;
    rmg_word page; /* as it was selected last */
    unsigned long accesses, outside;
    rmg_addr first_outside;
} recorder;

static bool inside(const recorder *r, rmg_addr first, rmg_addr last)
{
    for (size_t i = 0; i < r->count; i++)
        if (first >= r->permitted[i].first && last <= r->permitted[i].last)
            return true;
    return false;
}

/* A bus address as the board file numbers it: with the page that the window shows. */
static rmg_addr numbered(const recorder *r, rmg_addr address)
{
    const rmg_pages *pages = &r->board->pages;

    if (!pages->count || address < pages->window.first || address > pages->window.last)
        return address;
    return r->page << r->board->address_bits | address;
}

static void note(recorder *r, rmg_addr first, rmg_addr last)
{
    r->accesses++;
    if (inside(r, numbered(r, first), numbered(r, last)))
        return;
    if (!r->outside++)
        r->first_outside = first;
}

static rmg_status recorded_read(void *context, rmg_addr address, rmg_word *value)
{
    recorder *r = context;

    note(r, address, address);
    return rmg_sim_bus.read(r->sim, address, value);
}

static rmg_status recorded_write(void *context, rmg_addr address, rmg_word value)
{
    recorder *r = context;

    if (r->board->pages.count && address == r->board->pages.select)
        r->page = value;
    else
        note(r, address, address);
    return rmg_sim_bus.write(r->sim, address, value);
}

static rmg_status recorded_element(void *context, rmg_element_call *call)
{
    recorder *r = context;

    note(r, call->range.first, call->range.last);
    note(r, call->address, call->address);
    return rmg_sim_bus.run_element(r->sim, call);
}

static rmg_status recorded_wait(void *context, uint32_t hold_us)
{
    const recorder *r = context;

    return rmg_sim_bus.wait(r->sim, hold_us);
}

static rmg_status recorded_set(void *context, rmg_condition which, int32_t value)
{
    const recorder *r = context;

    return rmg_sim_bus.set_condition(r->sim, which, value);
}

static const rmg_bus by_word = {.version = RMG_BUS_VERSION,
                                .read = recorded_read,
                                .write = recorded_write,
                                .wait = recorded_wait,
                                .set_condition = recorded_set};
static const rmg_bus by_element = {.version = RMG_BUS_VERSION,
                                   .read = recorded_read,
                                   .write = recorded_write,
                                   .run_element = recorded_element,
                                   .wait = recorded_wait};

/* Boards that the benchmark does not draw. */
static const char *const shapes[] = {
    "board: lanes\nword: 8\naddresses: words\naddress-lines: 12\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x7FF}]\n"
    "banks:\n"
    "  - {name: even, range: 0x000-0x7FF, where: [A0=0], part: 2114, lines: A1-A10,\n"
    "     data: {U1: D0-D3, U2: D4-D7}}\n"
    "  - {name: odd, range: 0x000-0x7FF, where: [A0=1], part: 2114, lines: A1-A10,\n"
    "     data: {U3: D0-D3, U4: D4-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n",
    "board: pages\nword: 8\naddresses: words\naddress-lines: 14\nundriven: low\n"
    "pages: {window: 0x1000-0x1FFF, select: 0x3000, count: 4}\n"
    "regions:\n"
    "  - {name: fixed, range: 0x0000-0x0FFF, kind: ram}\n"
    "  - {name: page 0, range: 0x1000-0x1FFF, kind: ram}\n"
    "  - {name: select, range: 0x3000-0x3000, kind: reserved}\n"
    "  - {name: page 1, range: 0x5000-0x5FFF, kind: ram}\n"
    "  - {name: page 2, range: 0x9000-0x9FFF, kind: kept}\n"
    "  - {name: page 3, range: 0xD000-0xDFFF, kind: ram}\n"
    "banks:\n"
    "  - {name: low, range: 0x0000-0x1FFF, part: 6264, lines: A0-A12, data: {M1: D0-D7}}\n"
    "  - {name: one, range: 0x5000-0x5FFF, part: 6264, lines: [A0-A11, low], data: {M2: D0-D7}}\n"
    "  - {name: two, range: 0x9000-0x9FFF, part: 6264, lines: [A0-A11, high], data: {M2: D0-D7}}\n"
    "  - {name: three, range: 0xD000-0xDFFF, part: 6264, lines: [A0-A11, low],\n"
    "     data: {M3: D0-D7}}\n"
    "sockets: [{names: M1-M3, mount: socket}]\n",
    "board: mirrors\nword: 8\naddresses: words\naddress-lines: 14\nundriven: holds\n"
    "regions:\n"
    "  - {name: ports, range: 0x0000-0x00FF, kind: reserved}\n"
    "  - {name: ram, range: 0x0100-0x0BFF, kind: ram}\n"
    "  - {name: screen, range: 0x0C00-0x0FFF, kind: shadow}\n"
    "  - {name: again, range: 0x1000-0x17FF, kind: mirror, of: 0x0000-0x07FF}\n"
    "  - {name: clock, range: 0x1800-0x1FFF, kind: kept}\n"
    "banks:\n"
    "  - {name: low, range: 0x0000-0x07FF, part: 6116, lines: A0-A10, data: {U1: D0-D7}}\n"
    "  - {name: high, range: 0x0800-0x0FFF, part: 6116, lines: A0-A10, data: {U2: D0-D7}}\n"
    "  - {name: battery, range: 0x1800-0x1FFF, part: 6116, lines: A0-A10, data: {U3: D0-D7}}\n"
    "sockets: [{names: U1-U3, mount: socket}]\n",
};

static rmg_board *draw_board(uint64_t seed, diag_dice *dice)
{
    rmg_errors errors = {0};
    rmg_board *board;
    diag_board made;

    if (diag_roll(dice, 3)) {
        diag_board_make(seed, (diag_family)diag_roll(dice, DIAG_FAMILIES), &made);
        return made.board;
    }
    if (rmg_board_load_text("shape", shapes[diag_roll(dice, COUNT(shapes))], &board, &errors) !=
        RMG_OK) {
        CHECK(false, "%s", errors.list[0].what);
        exit(2);
    }
    return board;
}

/* In half of the boards RAM begins and ends anywhere, with a word beside it that was not named. */
static void fray(rmg_board *board, diag_dice *dice)
{
    if (diag_roll(dice, 2))
        return;
    for (size_t i = 0; i < board->region_count; i++) {
        rmg_range *r = &board->regions[i].range;

        if (board->regions[i].kind != RMG_REGION_RAM || r->last - r->first < 64)
            continue;
        r->first += 1 + diag_roll(dice, (r->last - r->first) / 4);
        r->last -= 1 + diag_roll(dice, (r->last - r->first) / 4);
    }
}

/* What may be touched: RAM, and the region that is named, within the limit. */
static size_t permit(const rmg_board *board, const rmg_plan *plan, rmg_range *permitted)
{
    size_t count = 0;

    for (size_t i = 0; i < board->region_count; i++) {
        rmg_range r = board->regions[i].range;

        if (board->regions[i].kind != RMG_REGION_RAM && &board->regions[i] != plan->named)
            continue;
        if (plan->limited) {
            r.first = MAX(r.first, plan->limit.first);
            r.last = MIN(r.last, plan->limit.last);
        }
        if (r.first <= r.last)
            permitted[count++] = r;
    }
    return count;
}

static const char *const plans[] = {
    "plan: a\nsteps:\n  - wiring\n  - first memory\n  - march: March C-\n",
    "plan: b\nsteps:\n  - wiring\n  - {march: MATS++, background: random, order: complement}\n",
    "plan: c\nsteps:\n  - {march: March X, order: rows first, background: rows}\n  - copy\n",
    "plan: d\nsteps:\n  - wiring\n  - {row-accesses: 20}\n  - {hold-ms: 5, refresh: stopped}\n",
    "plan: e\nsteps:\n  - {march: March LR, background: walking}\n  - wiring\n",
    "plan: f\nsteps:\n  - {march: March Y, order: columns first}\n  - copy\n  - wiring\n",
};

static void draw_plan(diag_dice *dice, const rmg_board *board, rmg_steps *steps, rmg_plan *plan)
{
    rmg_errors errors = {0};

    memset(plan, 0, sizeof *plan);
    if (diag_roll(dice, 4) == 0) { /* the ones that everyone uses */
        static const char *const names[] = {"quick", "full", "deep"};

        CHECK(rmg_steps_load(names[diag_roll(dice, 3)], steps, &errors) == RMG_OK, "named plan");
    } else {
        CHECK(rmg_steps_parse("own", plans[diag_roll(dice, COUNT(plans))], steps, &errors) ==
                  RMG_OK,
              "plan: %s", errors.count ? errors.list[0].what : "");
    }
    plan->steps = steps;
    plan->passes = 1 + (uint32_t)diag_roll(dice, 2);
    plan->seed = diag_roll(dice, 1000);
    plan->keep = diag_roll(dice, 4) == 0;
    if (diag_roll(dice, 8)) { /* mostly short, so that many runs can be made */
        plan->limited = true;
        const rmg_range *r = &board->regions[diag_roll(dice, board->region_count)].range;

        plan->limit.first = diag_roll(dice, 4) ? r->first + diag_roll(dice, r->last - r->first + 1)
                                               : diag_roll(dice, board->last_address + 1);
        plan->limit.last =
            plan->limit.first + diag_roll(dice, (uint64_t)1 << (1 + diag_roll(dice, 12)));
        plan->limit.last = MIN(plan->limit.last, board->last_address);
    }
    if (diag_roll(dice, 8) == 0) {
        plan->named = &board->regions[diag_roll(dice, board->region_count)];
        if (plan->named->kind == RMG_REGION_ROM || plan->named->kind == RMG_REGION_MIRROR)
            plan->named = NULL;
    }
}

static uint16_t draw_faults(diag_dice *dice, const rmg_board *board, rmg_sim_fault *faults)
{
    const uint16_t wanted = (uint16_t)diag_roll(dice, 4);
    const diag_board of = {.board = (rmg_board *)board};
    uint16_t count = 0;

    /* half of the boards have a fault of address lines first: those lead astray */
    for (unsigned tries = (unsigned)diag_roll(dice, 2) * 200; tries < 200 && !count; tries++) {
        const diag_kind *kind = &diag_kinds[diag_roll(dice, diag_kind_count)];

        if (kind->truth == TRUTH_LINES)
            count = diag_fault_make(dice, &of, kind, &faults[0]);
    }

    for (uint16_t i = 0; i < wanted; i++)
        count = (uint16_t)(count + diag_fault_make(dice, &of,
                                                   &diag_kinds[diag_roll(dice, diag_kind_count)],
                                                   &faults[count]));
    return count;
}

/* A spot check at any address: touches it and one other word of its region, or nothing. */
static void probe_somewhere(diag_dice *dice, recorder *r, const rmg_target *target)
{
    const rmg_addr address = diag_roll(dice, r->board->last_address + 1);
    const rmg_region *region = rmg_board_region_at(r->board, address);
    rmg_range permitted = {1, 0};
    rmg_probe probe;
    rmg_status status;
    rmg_error error = {0};

    if (region && region->kind == RMG_REGION_RAM)
        permitted = region->range;
    r->permitted = &permitted;
    r->count = 1;
    status = rmg_probe_target(&probe, r->board, target, &address, 1, NULL, 0, &error);
    CHECK((status == RMG_OK) == (permitted.first < permitted.last), "probe: %s",
          error.what ? error.what : rmg_status_text(status));
    rmg_error_free(&error);
    rmg_probe_end(&probe);
}

static void one_run(uint64_t seed, unsigned long *outside, unsigned long *accesses)
{
    diag_dice dice = diag_seed(seed, 77);
    rmg_board *board = draw_board(seed, &dice);
    rmg_range permitted[64];
    rmg_sim_fault faults[5];
    const bool words = diag_roll(&dice, 2);
    rmg_steps steps = {0};
    rmg_sim_board_run bench;
    recorder r = {.board = board, .permitted = permitted};
    rmg_plan plan;
    rmg_run run;
    rmg_error error = {0};

    fray(board, &dice);
    draw_plan(&dice, board, &steps, &plan);
    r.count = permit(board, &plan, permitted);
    bench_start(&bench, board, faults, draw_faults(&dice, board, faults), seed);
    r.sim = &bench.sim;
    if (rmg_run_begin(&run, board, &plan, "recorder", &error) == RMG_OK) {
        const rmg_target target = {words || board->pages.count ? &by_word : &by_element, &r,
                                   bench.target.mask};
        const rmg_status status = rmg_run_carry_out(&run, &target, NULL);

        CHECK(status == RMG_OK, "run %" G_GUINT64_FORMAT ": %s", seed, rmg_status_text(status));
        probe_somewhere(&dice, &r, &target);
    } else {
        CHECK(!r.count || plan.named, "run %" G_GUINT64_FORMAT ": %s", seed, error.what);
    }
    CHECK(!r.outside, "run %" G_GUINT64_FORMAT ": %lu accesses outside, the first at 0x%llx", seed,
          r.outside, (unsigned long long)r.first_outside);
    *outside += r.outside > 0;
    *accesses += r.accesses;
    rmg_error_free(&error);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

static void nothing_outside(void)
{
    const char *asked = getenv("RMG_TEST_REACH");
    const unsigned long runs = asked ? strtoul(asked, NULL, 10) : 40;
    unsigned long outside = 0, accesses = 0;

    for (uint64_t seed = 1; seed <= runs; seed++)
        one_run(seed, &outside, &accesses);
    CHECK(accesses > runs * 100, "%lu accesses were seen", accesses);
    printf("  accesses outside the permitted words: in %lu of %lu runs (%lu calls of the port) ",
           outside, runs, accesses);
}

/* The recorder itself: an access that it should note is noted. */
static void recorder_notes(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_range permitted = {0x8001, 0x80FF};
    rmg_sim_board_run bench;
    recorder r = {.board = board, .permitted = &permitted, .count = 1};

    bench_start(&bench, board, NULL, 0, 1);
    r.sim = &bench.sim;
    for (rmg_addr a = 0x8000; a <= 0x8100; a++)
        recorded_write(&r, a, 0);
    CHECK(r.outside == 2 && r.accesses == 0x101 && r.first_outside == 0x8000, "both words beside");
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

CU_TestInfo reach_tests[] = {
    {"the recorder notes", recorder_notes},
    {"nothing outside the permitted words", nothing_outside},
    CU_TEST_INFO_NULL,
};
