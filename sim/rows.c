/* Rows of dynamic memories: refresh, leaking cells, and rows that disturb their neighbours. */
#include "internal.h"

static void set_bit(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, uint8_t level)
{
    const uint32_t others = rmg_cell_get(sim, r, cell) & ~((uint32_t)1 << line);

    rmg_cell_set(sim, r, cell, others | (uint32_t)level << line);
}

/* How the board refreshes the chip: every row so often, and only the first so many rows. */
static void refresh_of(const rmg_sim *sim, uint16_t r, uint64_t *period_ns, rmg_addr *rows)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_REFRESH);
    const rmg_sim_fault *f;

    *period_ns = (uint64_t)chip->refresh_us * 1000u;
    *rows = (rmg_addr)1 << chip->row_lines;
    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        *period_ns = (uint64_t)f->after_us * 1000u;
        *rows = f->cell < *rows ? f->cell : *rows;
    }
}

static rmg_addr row_count(const rmg_sim *sim, uint16_t r)
{
    return (rmg_addr)1 << sim->board->chips[sim->board->placement->rules[r].socket].row_lines;
}

uint64_t rmg_rows_gap(const rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t from, uint64_t now)
{
    const rmg_addr all = row_count(sim, r);
    uint64_t period, base, first, last, gap;
    rmg_addr rows;

    refresh_of(sim, r, &period, &rows);
    if (!sim->refreshed || !period || row >= rows)
        return now - from;
    base = sim->refresh_ns + period / all * row;
    first = from < base ? base : base + ((from - base) / period + 1u) * period;
    if (first > now)
        return now - from;
    last = base + (now - base) / period * period;
    gap = first - from > now - last ? first - from : now - last;
    return last > first && period > gap ? period : gap;
}

/* The cells of a row that held less long than `gap`: half of the rows leak to 0, half to 1. */
static void leak(rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t gap)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const uint64_t least = rmg_sim_holding_ns(sim, (uint64_t)chip->keep_us * 1000u);
    const rmg_addr columns = (rmg_addr)1 << (chip->address_lines - chip->row_lines);
    const uint8_t level = (uint8_t)(row >> (chip->row_lines - 1u) & 1u);

    if (!chip->keep_us || gap <= least)
        return;
    for (rmg_addr column = 0; column < columns; column++) {
        const rmg_addr cell = column << chip->row_lines | row;

        for (uint8_t line = 0; line < chip->width; line++) {
            const uint64_t more =
                rmg_sim_dice(sim, 0x10000u + rule->socket, (uint64_t)cell * 32u + line) & 0xFFu;

            if (gap > least + least / 256u * 3u * more)
                set_bit(sim, r, cell, line, level);
        }
    }
}

bool rmg_rows_fades(const rmg_sim *sim, uint16_t r, const rmg_sim_fault *f, rmg_addr row,
                    uint64_t gap)
{
    return (f->cell & sim->ways[r].row_mask) == row && rmg_fault_awake(sim, f) &&
           gap > rmg_sim_holding_ns(sim, (uint64_t)f->after_us * 1000u);
}

bool rmg_rows_fade(const rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t gap)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TIME);

    for (; acting.at != acting.end; acting.at++)
        if (rmg_rows_fades(sim, r, &sim->faults[*acting.at], row, gap))
            return true;
    return false;
}

/* Weak cells of the row that did not hold as long as `gap`. */
static void leak_weak(rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t gap)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TIME);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];

        if (rmg_rows_fades(sim, r, f, row, gap))
            set_bit(sim, r, f->cell, f->data_line, f->level);
    }
}

/* Counts accesses that disturb, and lets them. */
static void disturb(rmg_sim *sim, uint16_t r, rmg_addr row)
{
    const rmg_addr row_mask = row_count(sim, r) - 1u;
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_ROWS);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];
        rmg_sim_memory *m = &sim->memories[*acting.at];
        uint64_t period;
        rmg_addr rows;

        refresh_of(sim, r, &period, &rows);
        if ((f->cell & row_mask) == row ||
            (sim->refreshed && period && (f->cell & row_mask) < rows &&
             sim->now_ns - m->restored_ns >= period)) {
            m->count = 0;
            m->restored_ns = sim->now_ns;
        }
        if (f->row == row && rmg_fault_awake(sim, f) && ++m->count >= f->count)
            set_bit(sim, r, f->cell, f->data_line, f->level);
    }
}

uint32_t rmg_rows_least_us(const rmg_sim *sim, uint16_t r)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TIME);
    uint32_t least = UINT32_MAX;

    for (; acting.at != acting.end; acting.at++)
        if (sim->faults[*acting.at].after_us < least)
            least = sim->faults[*acting.at].after_us;
    return least;
}

uint64_t rmg_rows_weakest_ns(const rmg_sim *sim, uint16_t r)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];
    const uint32_t least = sim->ways[r].least_us;
    const uint64_t keep =
        chip->keep_us ? rmg_sim_holding_ns(sim, (uint64_t)chip->keep_us * 1000u) : UINT64_MAX;
    const uint64_t weak =
        least < UINT32_MAX ? rmg_sim_holding_ns(sim, (uint64_t)least * 1000u) : UINT64_MAX;

    return keep < weak ? keep : weak;
}

static void pass(rmg_sim *sim, uint16_t r, rmg_addr row)
{
    uint64_t *restored = &sim->ways[r].row_ns[row];

    const uint64_t gap = rmg_rows_gap(sim, r, row, *restored, sim->now_ns);

    sim->ways[r].row_used = true;
    if (sim->ways[r].least_us < UINT32_MAX &&
        gap > rmg_sim_holding_ns(sim, (uint64_t)sim->ways[r].least_us * 1000u))
        leak_weak(sim, r, row, gap);
    leak(sim, r, row, gap);
    *restored = sim->now_ns;
}

/* A static memory's weak cells lose what was written, read or not. */
static void leak_static(rmg_sim *sim, uint16_t r, rmg_addr cell, bool writing)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TIME);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];
        rmg_sim_memory *m = &sim->memories[*acting.at];

        if (f->cell != cell)
            continue;
        if (sim->now_ns - m->restored_ns > rmg_sim_holding_ns(sim, (uint64_t)f->after_us * 1000u) &&
            rmg_fault_awake(sim, f))
            set_bit(sim, r, cell, f->data_line, f->level);
        if (writing)
            m->restored_ns = sim->now_ns;
    }
}

void rmg_rows_access(rmg_sim *sim, uint16_t rule, rmg_addr cell, bool writing)
{
    const rmg_sim_way *way = &sim->ways[rule];
    const rmg_addr row = cell & way->row_mask;

    if (!way->row_mask) {
        leak_static(sim, rule, cell, writing);
        return;
    }
    if (!way->held || !sim->calm)
        pass(sim, rule, row);
    else
        way->row_ns[row] = sim->now_ns;
    if (way->acts & RMG_STAGE_BIT(ROWS))
        disturb(sim, rule, row);
}

void rmg_rows_pass(rmg_sim *sim)
{
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const uint16_t socket = sim->board->placement->rules[r].socket;
        const uint8_t row_lines = sim->board->chips[socket].row_lines;

        for (rmg_addr row = 0;
             row_lines && rmg_rule_of_chip(sim, socket) == r && row >> row_lines == 0; row++)
            pass(sim, r, row);
    }
}
