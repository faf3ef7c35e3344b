/* A demo board under simulation. */
#include "rimeglass/report.h"
#include "bench_board.h"

#include <glib.h>
#include <string.h>

#include "../check.h"
#include "temporary.h"

rmg_board *bench_load(const char *below_project)
{
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load(project_path(below_project), &board, &found) == RMG_OK, "%s: %s",
          below_project, found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    return board;
}

void bench_start(rmg_sim_board_run *bench, const rmg_board *board, const rmg_sim_fault *faults,
                 size_t count, uint64_t world_seed)
{
    memset(bench, 0, sizeof *bench);
    bench->faults.list = g_memdup2(faults, count * sizeof *faults);
    bench->faults.count = count;
    rmg_board_to_sim(board, &bench->model);
    bench->faults.world_seed = world_seed;
    CHECK(rmg_sim_board_power_on(bench, board, false) == RMG_OK, "the simulation starts");
}

rmg_plan bench_plan(bool quick, uint32_t passes)
{
    rmg_plan plan = {.march_name = quick ? "MATS+" : "March C-",
                     .march = quick ? rmg_march_mats_plus : rmg_march_c_minus,
                     .passes = passes,
                     .seed = 1};
    return plan;
}

void bench_examine(const rmg_board *board, const rmg_sim_fault *faults, size_t count,
                   const rmg_plan *plan, uint64_t world_seed, rmg_run *run, rmg_suspects *suspects)
{
    rmg_sim_board_run bench;
    rmg_error error = {0};

    bench_start(&bench, board, faults, count, world_seed);
    CHECK(rmg_run_begin(run, board, plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(run, &bench.target, NULL) == RMG_OK, "runs");
    rmg_suspects_find(run, NULL, suspects);
    rmg_suspects_word(run, suspects);
    rmg_sim_board_end(&bench);
}

uint64_t bench_dice(uint64_t *state, uint64_t below)
{
    *state = *state * UINT64_C(6364136223846793005) + UINT64_C(1442695040888963407);
    return (*state >> 33) % below;
}

bool bench_same_tally(const rmg_tally *a, const rmg_tally *b)
{
    bool same = a->bank_count == b->bank_count && a->first_count == b->first_count &&
                a->failing == b->failing && a->failing_pass == b->failing_pass &&
                a->passes == b->passes && a->passes_failing == b->passes_failing &&
                a->address_and == b->address_and && a->address_or == b->address_or &&
                memcmp(a->bits, b->bits, sizeof a->bits) == 0 &&
                memcmp(a->lines, b->lines, sizeof a->lines) == 0;

    for (uint8_t i = 0; same && i < a->first_count; i++) {
        const rmg_failure *x = &a->first[i], *y = &b->first[i];

        same = x->address == y->address && x->expected == y->expected && x->actual == y->actual &&
               x->pass == y->pass && x->step == y->step && x->element == y->element &&
               x->operation == y->operation && x->down == y->down;
    }
    return same;
}

/* Four banks of one byte-wide chip each, U1 to U4; and one bank of eight one-bit chips, U11 at D0.
 */
const char made_wide[] =
    "board: One chip a bank\nword: 8\naddress-lines: 13\nundriven: holds\n"
    "regions: [{name: ram, kind: ram, range: 0x0000-0x1FFF}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0000-0x07FF, part: 6116, lines: A0-A10, data: {U1: D0-D7}}\n"
    "  - {name: b1, range: 0x0800-0x0FFF, part: 6116, lines: A0-A10, data: {U2: D0-D7}}\n"
    "  - {name: b2, range: 0x1000-0x17FF, part: 6116, lines: A0-A10, data: {U3: D0-D7}}\n"
    "  - {name: b3, range: 0x1800-0x1FFF, part: 6116, lines: A0-A10, data: {U4: D0-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n";
const char made_bits[] =
    "board: One bit a chip\nword: 8\naddress-lines: 12\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0xFFF}]\n"
    "parts: [{number: bit, kind: sram, width: 1, address-lines: 12, pins: 'A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 A11 D Q WE CE'}]\n"
    "banks: [{name: only, range: 0-0xFFF, part: bit, lines: A0-A11, data: {U11: D0, U12: D1, U13: "
    "D2, U14: D3, U15: D4, U16: D5, U17: D6, U18: D7}}]\n"
    "sockets: [{names: U11-U18, mount: socket}]\n";

/* Banks that low address lines choose, on one bus. */
const char made_lanes[] =
    "board: Two lanes on one bus\nword: 8\naddress-lines: 12\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x7FF}]\n"
    "banks:\n"
    "  - {name: even, range: 0x000-0x7FF, where: [A0=0], part: 2114, lines: A1-A10, data: {U1: "
    "D0-D3, U2: D4-D7}}\n"
    "  - {name: odd, range: 0x000-0x7FF, where: [A0=1], part: 2114, lines: A1-A10, data: {U3: "
    "D0-D3, U4: D4-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n";

/* "U2 U3 U4": the sockets that a finding is about. */
gchar *bench_sockets_of(const rmg_run *run, const rmg_finding *f)
{
    bool *sockets = g_new0(bool, run->board->socket_count);
    GString *text = g_string_new(NULL);

    rmg_finding_sockets(run, f, sockets);
    for (size_t i = 0; i < run->board->socket_count; i++)
        if (sockets[i])
            g_string_append_printf(text, "%s%s", text->len ? " " : "", run->board->sockets[i].name);
    g_free(sockets);
    return g_string_free(text, FALSE);
}
