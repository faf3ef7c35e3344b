/* Data lines that touch, by the only fault there is: the words stay flat. What both lines have is
 * laid over what is read where one of the chips behind them answers, and over what these take. */
#include "walk.h"

void rmg_touching_begin(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;
    const rmg_sim_fault *f = sim->faults;
    bool fits = sim->fault_count == 1 && f->kind == RMG_FAULT_DATA_SHORT && !sim->conditional;

    sim->touching = false;
    if (!fits)
        return;
    for (uint16_t r = 0; fits && r < placement->rule_count; r++) {
        const rmg_where *where = &placement->rules[r].where;

        fits = !sim->ways[r].acts || (rmg_lies_flat(sim, r) && rmg_force_nothing(sim, where));
        sim->touching |= sim->ways[r].acts != 0;
    }
    sim->touching &= fits;
    if (!sim->touching)
        sim->force_count = 0;
    for (uint16_t r = 0; sim->touching && r < placement->rule_count; r++)
        if (sim->ways[r].acts) {
            sim->is_forced[r] = true;
            sim->is_apart[r] = false;
        }
    if (sim->touching)
        sim->apart_count = 0;
}

void rmg_touching_run(const rmg_sim *sim, rmg_laid *f, rmg_addr from, bool down, rmg_addr *most)
{
    const uint16_t rules = sim->touching ? sim->board->placement->rule_count : 0;
    const rmg_word lines =
        rules ? (rmg_word)1 << sim->faults->line | (rmg_word)1 << sim->faults->line2 : 0;

    f->join = f->join_taken = 0;
    for (uint16_t r = 0; r < rules; r++) {
        if (!sim->ways[r].acts)
            continue;
        *most = rmg_same_run(&sim->ways[r].where, from, down, *most);
        if (rmg_where_holds(&sim->ways[r].where, from)) {
            f->join = lines;
            f->join_taken |= sim->ways[r].bits & lines;
        }
    }
    f->join_high = rules && sim->faults->level;
    f->takes |= f->join_taken != 0;
}

rmg_word rmg_touching_read(const rmg_sim *sim, rmg_addr address, rmg_word word)
{
    rmg_addr one = 1;
    rmg_laid f;

    f.takes = false;
    rmg_touching_run(sim, &f, address, false, &one);
    return f.join ? rmg_laid_joined(&f, word) : word;
}

rmg_word rmg_touching_taken(const rmg_sim *sim, rmg_addr address, rmg_word value)
{
    rmg_addr one = 1;
    rmg_laid f;

    f.takes = false;
    rmg_touching_run(sim, &f, address, false, &one);
    return (value & ~f.join_taken) | (rmg_laid_joined(&f, value) & f.join_taken);
}
