/* What an access does to the next one. Of the same chip: an address, or a line of it, that is let
 * go of too late; bit lines that still have the level of the access before. On the bus: lines that
 * switch beside one that does not. Definitions: docs/coverage.md; shares no code with the model
 * that computes them. */
#include "internal.h"

rmg_addr rmg_following_cell(const rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_FOLLOWING);
    const rmg_sim_fault *f;
    rmg_addr reached = cell;

    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        const rmg_sim_memory *m = &sim->memories[f - sim->faults];
        const rmg_addr now = f->state ? cell : ~cell;

        if (!m->any_before)
            continue;
        if (f->kind == RMG_FAULT_SLOW_DECODER && cell == f->cell && m->before == f->cell2)
            reached = f->cell2;
        if (f->kind == RMG_FAULT_SLOW_LINE)
            reached ^= (cell ^ m->before) & f->lines & now;
    }
    return reached;
}

uint32_t rmg_following_word(const rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word)
{
    const uint8_t row_lines = sim->board->chips[sim->board->placement->rules[r].socket].row_lines;
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_FOLLOWING);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        const rmg_sim_memory *m = &sim->memories[f - sim->faults];
        const uint32_t bit = (uint32_t)1 << f->data_line;

        if ((f->kind != RMG_FAULT_LATE_PRECHARGE &&
             (f->kind != RMG_FAULT_WRITE_RECOVERY || !m->wrote)) ||
            !m->any_before || m->before == cell || cell >> row_lines != f->cell ||
            m->before >> row_lines != f->cell || (m->latch >> f->data_line & 1u) != f->level)
            continue;
        word = f->level ? word | bit : word & ~bit;
    }
    return word;
}

void rmg_following_note(rmg_sim *sim, uint16_t r, rmg_addr cell, rmg_addr reached, bool wrote)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_FOLLOWING);

    for (; acting.at != acting.end; acting.at++) {
        rmg_sim_memory *m = &sim->memories[*acting.at];

        m->before = cell;
        m->any_before = true;
        m->wrote = wrote;
        m->latch = rmg_cell_get(sim, r, reached);
    }
}

bool rmg_disturbs(const rmg_sim_fault *f, uint64_t lines, uint64_t own, uint64_t before,
                  uint64_t now)
{
    const uint64_t from = f->state ? 0 : lines, to = lines ^ from;
    const bool turns = ((before ^ now) & own) != 0;

    return lines && (before & lines) == from && (now & lines) == to &&
           ((now & own) != 0) != (f->state != 0) && (!f->by || turns == (f->by == 2));
}

rmg_word rmg_chips_nearby(const rmg_sim *sim, rmg_word value)
{
    rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_NEARBY);
    const rmg_sim_fault *f;
    rmg_word taken = value;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        if (rmg_disturbs(f, f->with, (uint64_t)1 << f->line, sim->last_bus, value))
            taken ^= (rmg_word)1 << f->line;
    return taken;
}
