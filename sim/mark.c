/* Which pages of the simulated board go chip by chip: where the board needs it, or a fault acts.
 *
 * Invariant: in a page that is not marked, each bit of a word is held by exactly one RAM cell that
 * no other address reaches and no fault acts on, so that the flat word is the truth; or what it
 * reads is forced (force.c). Marking too
 * much costs time only; marking too little would be wrong. Hence: in doubt, the whole range. */
#include "internal.h"

#include <string.h>

/* Must an address go chip by chip, because a bit has no chip, two chips answer, or a ROM does? Of
 * `rules` those answer whose condition holds for the bits of the address. */
static bool board_slow(const rmg_sim *sim, const uint16_t *rules, uint16_t count, rmg_addr address)
{
    rmg_word held = 0;

    for (uint16_t i = 0; i < count; i++) {
        const rmg_rule *rule = &sim->board->placement->rules[rules[i]];
        const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
        const rmg_word bits = sim->ways[rules[i]].bits;

        if ((rmg_addr)(address & rule->where.mask) != rule->where.match)
            continue;
        if ((held & bits) || chip->rom || rmg_chip_leaks(chip))
            return true;
        held |= bits;
    }
    return held != sim->mask; /* an undriven bit does not read what was written */
}

static void mark_pages(rmg_sim *sim, const rmg_sim_window *w, rmg_addr first, rmg_addr last)
{
    const size_t from = (w->offset + (size_t)(first - w->first)) >> RMG_SIM_PAGE_BITS;
    const size_t to = (w->offset + (size_t)(last - w->first)) >> RMG_SIM_PAGE_BITS;

    memset(&sim->slow[from], RMG_SLOW_BOARD, to - from + 1u);
}

/* A stretch that lies within the range of the same rules throughout. Only the address bits of their
 * conditions matter: where all values of these agree, they speak for the whole stretch. */
static void mark_stretch(rmg_sim *sim, const rmg_sim_window *w, rmg_addr first, rmg_addr last)
{
    const rmg_placement *placement = sim->board->placement;
    uint16_t rules[RMG_PLACE_RULES], count = 0;
    rmg_addr varies = 0, within = first ^ last, value = 0;
    unsigned values = 0, slow = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (placement->rules[r].where.first <= first && placement->rules[r].where.last >= last) {
            rules[count++] = r;
            varies |= placement->rules[r].where.mask;
        }
    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        within |= within >> shift;
    varies &= within;
    do {
        values++;
        slow += board_slow(sim, rules, count, (first & ~varies) | value);
        value = (value - varies) & varies;
    } while (value && values < 256u);
    if (!value && (!slow || slow == values)) {
        if (slow)
            mark_pages(sim, w, first, last);
        return;
    }
    for (rmg_addr a = first;; a++) {
        if (board_slow(sim, rules, count, a))
            mark_pages(sim, w, a, a);
        if (a == last)
            break;
    }
}

/* The last address up to which the rules that reach `from` stay the same. */
static rmg_addr stretch_end(const rmg_sim *sim, const rmg_sim_window *w, rmg_addr from)
{
    rmg_addr end = w->last;

    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_where *where = &sim->board->placement->rules[r].where;

        if (where->first > from && where->first - 1u < end)
            end = where->first - 1u;
        if (where->last >= from && where->last < end)
            end = where->last;
    }
    return end;
}

/* A chip that more than one rule reaches may answer at two addresses: its pages are slow. */
static bool shared(const rmg_placement *placement, const rmg_rule *rule)
{
    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (&placement->rules[r] != rule && placement->rules[r].socket == rule->socket)
            return true;
    return false;
}

/* Address bits within the rule's range that reach neither the chip nor the rule's condition make
 * the same cell answer twice. */
static bool repeats(const rmg_rule *rule)
{
    rmg_addr used = rule->where.mask;
    rmg_addr varies = rule->where.first ^ rule->where.last;

    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        varies |= varies >> shift;
    for (uint8_t i = 0; i < rule->address_lines; i++)
        if (rule->address_bits[i] < RMG_ADDR_BITS)
            used |= (rmg_addr)1 << rule->address_bits[i];
    return varies & ~used;
}

void rmg_sim_mark_board(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;

    memset(sim->slow, RMG_SLOW_NEW, sim->slow_bytes);
    sim->marked_count = 0;
    for (uint16_t i = 0; i < sim->window_count; i++) {
        const rmg_sim_window *w = &sim->windows[i];

        for (rmg_addr from = w->first;;) {
            const rmg_addr end = stretch_end(sim, w, from);

            mark_stretch(sim, w, from, end);
            if (end == w->last)
                break;
            from = end + 1u;
        }
    }
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

        if (shared(placement, rule) || repeats(rule))
            mark_pages(sim, w, rule->where.first, rule->where.last);
    }
}

/* Marks of pages: of each AND the one, OR the other. */
static void change_marks(rmg_sim *sim, size_t first, size_t last, uint8_t and, uint8_t or)
{
    const uint64_t all = UINT64_C(0x0101010101010101);
    size_t page = first;

    for (; last - page >= sizeof all && page <= last; page += sizeof all) {
        uint64_t eight;

        memcpy(&eight, &sim->slow[page], sizeof eight);
        eight = (eight & all * and) | all * or ;
        memcpy(&sim->slow[page], &eight, sizeof eight);
    }
    for (; page <= last; page++)
        sim->slow[page] = (uint8_t)((sim->slow[page] & and) | or);
}

/* Marks pages, and remembers which: the next start takes the marks away again. */
static void mark_for_fault(rmg_sim *sim, size_t first, size_t last)
{
    change_marks(sim, first, last, UINT8_MAX, RMG_SLOW_FAULT);
    if (sim->marked_count < RMG_SIM_MARKED)
        sim->marked[sim->marked_count] = (rmg_sim_pages_marked){first, last};
    sim->marked_count =
        sim->marked_count < RMG_SIM_MARKED ? sim->marked_count + 1u : RMG_SIM_MARKED + 1u;
}

static void mark_range(rmg_sim *sim, const rmg_rule *rule)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    mark_for_fault(sim, (w->offset + (size_t)(rule->where.first - w->first)) >> RMG_SIM_PAGE_BITS,
                   (w->offset + (size_t)(rule->where.last - w->first)) >> RMG_SIM_PAGE_BITS);
}

/* The page of a cell's address; the whole range where the address does not come back from it. */
static void mark_cell(rmg_sim *sim, const rmg_rule *rule, rmg_addr cell)
{
    const rmg_addr address = rmg_rule_address(rule, cell);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);

    if (w && rmg_where_holds(&rule->where, address) && rmg_rule_cell(rule, address) == cell) {
        const size_t page = (w->offset + (size_t)(address - w->first)) >> RMG_SIM_PAGE_BITS;

        if (!(sim->slow[page] & RMG_SLOW_FAULT))
            mark_for_fault(sim, page, page);
    } else {
        mark_range(sim, rule);
    }
}

bool rmg_fault_meets(const rmg_sim_fault *f, const rmg_rule *rule)
{
    switch (rmg_fault_rows[f->kind].marks) {
    case RMG_MARKS_ALL:
        return true;
    case RMG_MARKS_BANKS:
        return rule->bank == f->bank || rule->bank == f->bank2;
    default:
        return rmg_fault_concerns(f, rule);
    }
}

/* Does what a cell reads depend on the last read anywhere in the chip? */
static bool reads_any(const rmg_sim_fault *f)
{
    return f->kind == RMG_FAULT_ADDRESS_CELLS && f->reads == RMG_READS_LAST &&
           f->reaches <= RMG_REACHES_NONE_TWO;
}

/* The row of a cell; of memory without rows the cell. */
static void mark_row_of(rmg_sim *sim, const rmg_rule *rule, const rmg_sim_chip *chip, rmg_addr of)
{
    const rmg_addr depth = (rmg_addr)1 << chip->address_lines;
    const rmg_addr rows = (rmg_addr)1 << chip->row_lines;

    for (rmg_addr cell = chip->row_lines ? of & (rows - 1u) : of; cell < depth;
         cell += chip->row_lines ? rows : depth)
        mark_cell(sim, rule, cell);
}

static void mark_column(rmg_sim *sim, const rmg_rule *rule, const rmg_sim_chip *chip,
                        rmg_addr column)
{
    for (rmg_addr row = 0; row >> chip->row_lines == 0; row++)
        mark_cell(sim, rule, column << chip->row_lines | row);
}

#define RARE 32u /* one cell in so many, or fewer: most pages have none */

static void mark_drawn(rmg_sim *sim, const rmg_sim_fault *f, const rmg_rule *rule,
                       const rmg_sim_chip *chip)
{
    const bool all = f->data_line == RMG_ALL_DATA_LINES;
    const uint8_t first = all ? 0 : f->data_line;
    const uint8_t last = all ? (uint8_t)(chip->width - 1u) : f->data_line;

    if (f->count < RARE) {
        mark_range(sim, rule);
        return;
    }
    for (rmg_addr cell = 0; cell >> chip->address_lines == 0; cell++)
        for (uint8_t line = first; line <= last; line++)
            if (rmg_drawn(sim, f, line, cell))
                mark_cell(sim, rule, cell);
}

static void mark_fault(rmg_sim *sim, const rmg_sim_fault *f, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const rmg_addr depth = (rmg_addr)1 << chip->address_lines;
    const rmg_addr rows = (rmg_addr)1 << chip->row_lines;
    const rmg_fault_row *kind = &rmg_fault_rows[f->kind];
    /* do its address lines lead elsewhere by another fault? Then cells are not where they were */
    const bool moved = sim->ways[r].acts & (RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS));
    const bool watched = rmg_watched(sim, r);

    if (!rmg_fault_meets(f, rule) || (rmg_fault_concerns(f, rule) && sim->is_forced[r]) ||
        (kind->place == RMG_FOR_BUS && sim->bus_forced) || sim->stray.count)
        return;
    switch (moved || reads_any(f) ? RMG_MARKS_RANGE : kind->marks) {
    case RMG_MARKS_TIMED:
        if (!watched)
            mark_range(sim, rule);
        break;
    case RMG_MARKS_TIMED_ROW:
        if (!watched || !chip->row_lines)
            mark_row_of(sim, rule, chip, f->cell);
        break;
    case RMG_MARKS_AFTER:
        if (!watched) {
            mark_range(sim, rule);
            break;
        }
        mark_cell(sim, rule, f->cell);
        mark_cell(sim, rule, f->cell2);
        break;
    case RMG_MARKS_COLUMN_AFTER:
        if (!watched)
            mark_range(sim, rule);
        else
            mark_column(sim, rule, chip, f->cell);
        break;
    case RMG_MARKS_ROW:
        for (rmg_addr cell = f->cell; cell < depth; cell += rows)
            mark_cell(sim, rule, cell);
        break;
    case RMG_MARKS_ROW_OF:
        mark_row_of(sim, rule, chip, f->cell);
        for (rmg_addr cell = f->row; f->kind == RMG_FAULT_DISTURB && cell < depth; cell += rows)
            mark_cell(sim, rule, cell);
        break;
    case RMG_MARKS_COLUMN:
        mark_column(sim, rule, chip, f->cell);
        break;
    case RMG_MARKS_CELL:
    case RMG_MARKS_VICTIM:
        mark_cell(sim, rule, f->cell);
        if (kind->marks == RMG_MARKS_VICTIM && rmg_fault_has_second(f))
            mark_cell(sim, rule, f->cell2);
        break;
    case RMG_MARKS_AROUND:
        mark_cell(sim, rule, f->cell);
        for (unsigned side = 0; side < 4; side++) {
            const rmg_addr cell = rmg_cell_beside(chip, f->cell, side);

            if (cell != RMG_NO_CELL)
                mark_cell(sim, rule, cell);
        }
        break;
    case RMG_MARKS_DRAWN:
        mark_drawn(sim, f, rule, chip);
        break;
    case RMG_MARKS_RANGE:
    case RMG_MARKS_BANKS:
    case RMG_MARKS_ALL:
        mark_range(sim, rule);
        break;
    }
}

void rmg_sim_mark_faults(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;

    /* what the board needs stays; faults of the simulation before this one go */
    if (sim->marked_count > RMG_SIM_MARKED) {
        sim->marked[0] = (rmg_sim_pages_marked){0, sim->slow_bytes - 1u};
        sim->marked_count = 1;
    }
    for (uint16_t i = 0; i < sim->marked_count; i++)
        change_marks(sim, sim->marked[i].first, sim->marked[i].last, RMG_SLOW_BOARD | RMG_SLOW_NEW,
                     0);
    sim->marked_count = 0;
    for (uint16_t i = 0; i < sim->fault_count; i++)
        for (uint16_t r = 0; r < placement->rule_count; r++)
            mark_fault(sim, &sim->faults[i], r);
}

void rmg_sim_mark_rule(rmg_sim *sim, uint16_t rule)
{
    for (uint16_t i = 0; i < sim->fault_count; i++)
        mark_fault(sim, &sim->faults[i], rule);
}
