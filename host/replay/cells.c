/* What failing cells of a chip can be, as faults of the simulated board: the cells themselves, a
 * row or a column, one cell that depends on another, wrong addresses inside the chip, time. */
#include "internal.h"

#define CAUSE(name) RMG_CAUSE_BIT(RMG_CAUSE_##name)
#define CELLS       (CAUSE(CHIP_CELLS) | CAUSE(CHIP_SCATTERED))
#define CELLS_MOST  4096u /* of one chip that are looked at one by one */
#define AGGRESSORS  16u
#define THRESHOLDS  6u
#define FEW_ROWS    8u   /* of so many rows that are not refreshed one at least fails */
#define MANY_CELLS  256u /* a sixteenth of a small chip: then the whole chip is considered too */

typedef struct seen_cell {
    rmg_addr cell;
    uint8_t line; /* of the chip */
    bool high, low;
    uint64_t first; /* step at which it first failed */
} seen_cell;

/* The failing cells of the finding's socket. */
typedef struct looking {
    proposer *w;
    const rmg_rule *rule;
    const rmg_part *part;
    GArray *cells; /* of seen_cell, the first CELLS_MOST */
    uint64_t count;
    bool high, low;
    uint64_t first; /* step at which one of them first failed */
    bool *rows;     /* [of the chip]: does a cell of it fail? */
    rmg_addr row_count, least_row;
} looking;

static void see_row(looking *l, rmg_addr row)
{
    l->row_count += !l->rows[row];
    l->rows[row] = true;
    l->least_row = MIN(l->least_row, row);
}

static void see_word(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                     size_t part_count)
{
    looking *l = context;
    const rmg_rule *rule = l->rule;
    rmg_word high = 0, low = 0;

    (void)record;
    if (!rmg_where_holds(&rule->where, address))
        return;
    for (size_t i = 0; i < part_count; i++) {
        high |= parts[i].high;
        low |= parts[i].low;
        if ((parts[i].high | parts[i].low) & l->w->f->bits)
            l->first = MIN(l->first, parts[i].first);
    }
    if (!((high | low) & l->w->f->bits))
        return;
    for (uint8_t line = 0; line < rule->width; line++) {
        const rmg_word bit = (rmg_word)1 << rule->data_bits[line];
        seen_cell cell = {rmg_rule_cell(rule, address), line, (high & bit) != 0, (low & bit) != 0,
                          UINT64_MAX};

        if (!((high | low) & l->w->f->bits & bit))
            continue;
        for (size_t i = 0; i < part_count; i++)
            if ((parts[i].high | parts[i].low) & bit)
                cell.first = MIN(cell.first, parts[i].first);
        l->count++;
        see_row(l, cell.cell & (((rmg_addr)1 << l->part->row_lines) - 1u));
        l->high |= cell.high;
        l->low |= cell.low;
        if (l->cells->len < CELLS_MOST)
            g_array_append_val(l->cells, cell);
    }
}

static const seen_cell *cell_at(const looking *l, guint i)
{
    return &g_array_index(l->cells, seen_cell, i);
}

static proposal *add(const looking *l, uint64_t causes, rmg_said said)
{
    return rmg_propose_add(l->w, causes, said);
}

/* The same of a cell that does something at one value. */
static proposal *add_value(const looking *l, rmg_said said, rmg_fault_kind kind)
{
    proposal *p = add(l, CELLS, said);

    p->is.n = kind;
    return p;
}

/* The cells as they are seen: each stuck, or each not to be changed. */
static void as_seen(const looking *l)
{
    proposal *stuck = l->count <= PROPOSAL_FAULTS ? add(l, CELLS, RMG_SAY_FAULT_CELLS) : NULL;
    proposal *kept = l->count <= PROPOSAL_FAULTS && l->count > 1
                         ? add(l, CELLS, RMG_SAY_FAULT_CELLS_KEPT)
                         : NULL;

    for (guint i = 0; i < l->cells->len && l->count <= PROPOSAL_FAULTS; i++) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_CELL,
                               .chip = l->rule->socket,
                               .data_line = cell_at(l, i)->line,
                               .cell = cell_at(l, i)->cell,
                               .level = cell_at(l, i)->high};

        rmg_propose_put(stuck, fault);
        fault.kind = RMG_FAULT_TRANSITION;
        fault.level = !cell_at(l, i)->high;
        if (kept)
            rmg_propose_put(kept, fault);
    }
    if (kept)
        kept->vague = true; /* when each of them fails first depends on what it came up with */
}

/* Kinds of a cell that does something at one value, in the order in which they are tried. */
static size_t find_of_a_value(rmg_fault_kind *kinds)
{
    size_t count = 0;

    for (unsigned rank = 1; rank <= RMG_FAULT_KINDS; rank++)
        for (unsigned kind = 0; kind < RMG_FAULT_KINDS; kind++)
            if (rmg_fault_rows[kind].proposed == rank)
                kinds[count++] = (rmg_fault_kind)kind;
    return count;
}

/* Can the cell read as was seen, where such a fault makes it read this level wrongly? */
static bool reads(const seen_cell *victim, uint8_t level)
{
    return level ? victim->high : victim->low;
}

static void alone(const looking *l, const seen_cell *victim)
{
    rmg_fault_kind kinds[RMG_FAULT_KINDS];
    const size_t count = find_of_a_value(kinds);

    for (size_t k = 0; k < count; k++)
        for (uint8_t level = 0; level < 2; level++)
            if (reads(victim, !level))
                rmg_propose_put(add_value(l, RMG_SAY_FAULT_ONE_VALUE, kinds[k]),
                                (rmg_sim_fault){.kind = kinds[k],
                                                .chip = l->rule->socket,
                                                .data_line = victim->line,
                                                .cell = victim->cell,
                                                .level = level});
}

/* Cells that may act on the victim: neighbours before and after it, along rows and along columns,
 * one far away, one in the first memory, which is tested before all else, and other lines of the
 * word. Which one it is a test rarely shows: those before, and those after, act alike. */
static size_t find_aggressors(const looking *l, const seen_cell *victim, seen_cell *list)
{
    const rmg_addr depth = (rmg_addr)1 << l->part->address_lines;
    const rmg_addr row = (rmg_addr)1 << l->part->row_lines;
    const rmg_addr steps[] = {1, row > 1 ? row : 2, row > 1 ? row + 1 : 3};
    const uint8_t width = l->rule->width;
    const rmg_addr first = l->w->board->first_memory.first;
    size_t count = 0;

    for (size_t i = 0; i < G_N_ELEMENTS(steps); i++) {
        if (victim->cell + steps[i] < depth)
            list[count++] = (seen_cell){victim->cell + steps[i], victim->line, false, false};
        if (victim->cell >= steps[i])
            list[count++] = (seen_cell){victim->cell - steps[i], victim->line, false, false};
    }
    list[count++] = (seen_cell){victim->cell ^ depth >> 1, victim->line, false, false};
    if (rmg_where_holds(&l->rule->where, first) && rmg_rule_cell(l->rule, first) != victim->cell)
        list[count++] = (seen_cell){rmg_rule_cell(l->rule, first), victim->line, false, false};
    for (uint8_t n = 1; n < width && n <= 2; n++) {
        const uint8_t line = (uint8_t)((victim->line + n) % width);

        list[count++] = (seen_cell){victim->cell, line, false, false};
        if (victim->cell + 1u < depth)
            list[count++] = (seen_cell){victim->cell + 1u, line, false, false};
        if (victim->cell)
            list[count++] = (seen_cell){victim->cell - 1u, line, false, false};
    }
    return count;
}

/* All that one cell can do to the victim. */
static void coupled_to(const looking *l, const seen_cell *victim, const seen_cell *aggressor)
{
    rmg_fault_kind kinds[RMG_FAULT_KINDS];
    const size_t count = find_of_a_value(kinds);
    rmg_sim_fault f = {.chip = l->rule->socket,
                       .data_line = victim->line,
                       .cell = victim->cell,
                       .data_line2 = aggressor->line,
                       .cell2 = aggressor->cell};

    for (uint8_t n = 0; n < 4; n++) {
        f.state = n & 1u;
        f.level = n >> 1;
        f.coupled = false;
        f.kind = RMG_FAULT_COUPLING_INVERTS;
        if (!f.level)
            rmg_propose_put(add(l, CELLS, RMG_SAY_FAULT_INVERTS), f);
        f.kind = RMG_FAULT_COUPLING_SETS;
        if (reads(victim, f.level))
            rmg_propose_put(add(l, CELLS, RMG_SAY_FAULT_SETS), f);
        f.kind = RMG_FAULT_COUPLING_HOLDS;
        if (reads(victim, f.level))
            rmg_propose_put(add(l, CELLS, RMG_SAY_FAULT_HOLDS), f);
    }
    f.coupled = true;
    for (uint8_t n = 0; n < 4; n++) {
        f.state = n & 1u;
        f.level = n >> 1;
        for (size_t k = 0; k < count && reads(victim, !f.level); k++) {
            f.kind = kinds[k];
            rmg_propose_put(add_value(l, RMG_SAY_FAULT_COUPLED, kinds[k]), f);
        }
    }
    f.coupled = false;
    f.kind = RMG_FAULT_COUPLING_FLIPS;
    for (unsigned done = RMG_OPERATION_0W0; done <= RMG_OPERATION_1R1; done++)
        for (f.level = 0; f.level < 2; f.level++) {
            f.operation = (rmg_sim_operation)done;
            if (reads(victim, !f.level)) /* it is what is flipped */
                rmg_propose_put(add(l, CELLS, RMG_SAY_FAULT_FLIPS), f);
        }
}

/* An address inside the chip that reaches the wrong cells. */
static void wrong_cells(const looking *l, rmg_addr cell, rmg_addr other)
{
    static const rmg_said said[] = {[RMG_REACHES_NONE] = RMG_SAY_FAULT_REACHES_NONE,
                                    [RMG_REACHES_NONE_TWO] = RMG_SAY_FAULT_REACHES_NONE_TWO,
                                    [RMG_REACHES_OTHER] = RMG_SAY_FAULT_REACHES_OTHER,
                                    [RMG_REACHES_BOTH] = RMG_SAY_FAULT_REACHES_BOTH};
    rmg_sim_fault f = {
        .kind = RMG_FAULT_ADDRESS_CELLS, .chip = l->rule->socket, .cell = cell, .cell2 = other};

    for (int reaches = RMG_REACHES_NONE; reaches <= RMG_REACHES_BOTH; reaches++)
        for (int reads = RMG_READS_AND; reads <= RMG_READS_LAST; reads++) {
            f.reaches = (rmg_sim_reaches)reaches;
            f.reads = (rmg_sim_reads)reads;
            if ((cell == other) == (reaches == RMG_REACHES_NONE) &&
                (reaches != RMG_REACHES_OTHER || reads == RMG_READS_AND))
                rmg_propose_put(add(l, CELLS | CAUSE(CHIP_ADDRESS), said[reaches]), f);
        }
}

/* The plan's step at which the first of them failed, or NULL. */
static const rmg_step *first_step(const looking *l)
{
    const rmg_steps *steps = &l->w->run->steps;
    const size_t n = (size_t)(l->first >> 16 & 0xFFu);

    return n < steps->count ? &steps->list[n] : NULL;
}

static void let_go_late(const looking *l, rmg_addr cell, rmg_addr lines)
{
    if (lines)
        rmg_propose_put(add(l, CELLS | CAUSE(CHIP_ADDRESS), RMG_SAY_FAULT_SLOW_DECODER),
                        (rmg_sim_fault){.kind = RMG_FAULT_SLOW_DECODER,
                                        .chip = l->rule->socket,
                                        .cell = cell,
                                        .cell2 = cell ^ lines,
                                        .reaches = RMG_REACHES_OTHER});
}

/* One cell that failed first where it was accessed directly after one whose address differs in some
 * lines: which, a galloping test tells; an order by opposite addresses, too; that by powers of two
 * leaves one of the lines. Or two, of which one is accessed directly after the other. */
static void after_another(const looking *l, rmg_addr first, rmg_addr last)
{
    const rmg_step *step = first_step(l);
    const uint64_t began = cell_at(l, 0)->first;
    const uint8_t address_lines = l->part->address_lines;
    const uint8_t row_lines =
        l->part->row_lines ? l->part->row_lines : (uint8_t)(address_lines / 2u);
    rmg_addr rows, columns;

    if (first != last) {
        let_go_late(l, first, first ^ last);
        let_go_late(l, last, first ^ last);
        return;
    }
    if (step && step->kind == RMG_STEP_MOVING &&
        rmg_moving_partner(step->moving, (rmg_addr)1 << row_lines,
                           (rmg_addr)1 << (address_lines - row_lines),
                           (uint32_t)(began >> 9 & 0x7Fu), &rows, &columns))
        let_go_late(l, first, rows | columns << row_lines);
    if (step && step->way == RMG_WAY_COMPLEMENT)
        let_go_late(l, first, ((rmg_addr)1 << address_lines) - 1u);
    for (uint8_t i = 0; step && step->way == RMG_WAY_POWERS && i < address_lines; i++)
        let_go_late(l, first, (rmg_addr)1 << i);
}

/* One failing cell, or two addresses of a chip at which cells fail. */
static void one_or_two(const looking *l)
{
    const seen_cell *first = cell_at(l, 0), *last = cell_at(l, l->cells->len - 1u);
    seen_cell aggressors[AGGRESSORS];
    const size_t count = l->count == 1 ? find_aggressors(l, first, aggressors) : 0;

    if (l->count == 1)
        alone(l, first);
    if (first->cell == last->cell)
        wrong_cells(l, first->cell, first->cell);
    for (size_t i = 0; i < count; i++) {
        coupled_to(l, first, &aggressors[i]);
        if (aggressors[i].cell != first->cell) {
            wrong_cells(l, first->cell, aggressors[i].cell);
            wrong_cells(l, aggressors[i].cell, first->cell);
        }
    }
    if (first->cell != last->cell) {
        wrong_cells(l, first->cell, last->cell);
        wrong_cells(l, last->cell, first->cell);
    }
    after_another(l, first->cell, last->cell);
}

static void rows_and_columns(const looking *l)
{
    const rmg_addr row_mask = ((rmg_addr)1 << l->part->row_lines) - 1u;
    const seen_cell *first = cell_at(l, 0);
    uint8_t line = first->line;

    for (guint i = 1; i < l->cells->len; i++)
        if (cell_at(l, i)->line != first->line)
            line = RMG_ALL_DATA_LINES;
    for (uint8_t level = 0; level < 2; level++) {
        rmg_sim_fault f = {
            .kind = RMG_FAULT_ROW,
            .chip = l->rule->socket,
            .data_line = line,
            .cell = first->cell & row_mask,
            .level = level,
        };

        rmg_propose_put(rmg_propose_at(l->w, CELLS, RMG_SAY_FAULT_ROW, level), f);
        f.kind = RMG_FAULT_COLUMN;
        f.cell = first->cell >> l->part->row_lines;
        rmg_propose_put(rmg_propose_at(l->w, CELLS, RMG_SAY_FAULT_COLUMN, level), f);
        if (line == RMG_ALL_DATA_LINES || !(level ? l->high : l->low))
            continue;
        f.kind = RMG_FAULT_LATE_PRECHARGE;
        rmg_propose_put(rmg_propose_at(l->w, CELLS, RMG_SAY_FAULT_LATE_PRECHARGE, level), f);
        f.kind = RMG_FAULT_WRITE_RECOVERY;
        rmg_propose_put(rmg_propose_at(l->w, CELLS, RMG_SAY_FAULT_WRITE_RECOVERY, level), f);
    }
}

/* Is memory left alone in the step? */
static bool holds(const rmg_step *step)
{
    const uint8_t *head = step->code;

    for (; step->kind == RMG_STEP_MARCH && head && *head; head += (*head & ~RMG_ORDER_MASK) + 1u)
        if (!(*head & ~RMG_ORDER_MASK))
            return true;
    return step->kind != RMG_STEP_MARCH && step->hold_us;
}

/* Times that separate what the plan's steps can distinguish: below each hold, and below the refresh
 * period. */
static size_t thresholds(const looking *l, uint32_t *list)
{
    const rmg_run *run = l->w->run;
    size_t count = 0;

    if (l->part->refresh_ms)
        list[count++] = l->part->refresh_ms * 500u;
    for (size_t i = 0; i < run->steps.count && count < THRESHOLDS; i++) {
        const uint32_t hold = run->steps.list[i].hold_us;
        bool known = l->part->row_lines && !holds(&run->steps.list[i]);

        for (size_t n = 0; n < count; n++)
            known |= list[n] == hold / 2u;
        if (!known && hold > 1)
            list[count++] = hold / 2u;
    }
    return count;
}

/* The cells are disturbed by so many accesses to the row on that side. */
static void disturbed(const looking *l, int side, uint32_t accesses)
{
    const rmg_addr row_mask = ((rmg_addr)1 << l->part->row_lines) - 1u;
    proposal *p = add(l, CELLS, RMG_SAY_FAULT_DISTURBED);

    for (guint i = 0; i < l->cells->len; i++)
        rmg_propose_put(
            p,
            (rmg_sim_fault){.kind = RMG_FAULT_DISTURB,
                            .chip = l->rule->socket,
                            .data_line = cell_at(l, i)->line,
                            .cell = cell_at(l, i)->cell,
                            .row = ((cell_at(l, i)->cell & row_mask) + (rmg_addr)side) & row_mask,
                            .count = accesses,
                            .level = cell_at(l, i)->high});
}

/* Cells that lose what they hold with time, or when rows beside them are accessed: none of them
 * fails before a step in which that can happen. */
static void with_time(const looking *l)
{
    const rmg_step *step = first_step(l);
    uint32_t times[THRESHOLDS], accesses = 0;
    const size_t count = step && step->hold_us ? thresholds(l, times) : 0;

    for (size_t t = 0; t < count; t++) {
        proposal *p = add(l, CELLS, RMG_SAY_FAULT_WITH_TIME);

        for (guint i = 0; i < l->cells->len; i++)
            rmg_propose_put(p, (rmg_sim_fault){.kind = RMG_FAULT_RETENTION,
                                               .chip = l->rule->socket,
                                               .data_line = cell_at(l, i)->line,
                                               .cell = cell_at(l, i)->cell,
                                               .after_us = times[t],
                                               .level = cell_at(l, i)->high});
    }
    if (step && step->kind == RMG_STEP_ROWS)
        accesses = step->accesses;
    for (unsigned n = 1; n <= 5u && accesses && l->part->row_lines; n++)
        for (int side = -1; side <= 1; side += 2)
            disturbed(l, side, MAX(accesses / 4u * n, 1u));
}

/* Cells that failed first in a test of neighbours, by what was around each of them then: any of the
 * four may matter or not. */
static void among_neighbours(const looking *l)
{
    static const struct {
        rmg_fault_kind kind;
        rmg_said said;
    } ways[] = {{RMG_FAULT_PATTERN_HOLDS, RMG_SAY_FAULT_PATTERN_HOLDS},
                {RMG_FAULT_PATTERN_KEEPS, RMG_SAY_FAULT_PATTERN_KEEPS},
                {RMG_FAULT_PATTERN_SETS, RMG_SAY_FAULT_PATTERN_SETS}};
    const rmg_step *step = first_step(l);
    const rmg_addr row_mask = ((rmg_addr)1 << l->part->row_lines) - 1u;

    if (!step || step->kind != RMG_STEP_NEIGHBOURS)
        return;
    for (size_t way = 0; way < G_N_ELEMENTS(ways); way++)
        for (unsigned mask = 16; mask-- > 0;) {
            proposal *p = rmg_propose_add(l->w, CELLS, ways[way].said);

            for (guint i = 0; i < l->cells->len; i++) {
                const seen_cell *cell = cell_at(l, i);
                const rmg_surroundings at =
                    rmg_neighbours_at(step->neighbours, (unsigned)(cell->first >> 8 & 0xFFu),
                                      cell->cell & row_mask, cell->cell >> l->part->row_lines);
                const uint8_t others = (uint8_t)(mask & ~(at.by < 4 ? 1u << at.by : 0));

                rmg_propose_put(
                    p,
                    (rmg_sim_fault){
                        .kind = ways[way].kind,
                        .chip = l->rule->socket,
                        .data_line = cell->line,
                        .cell = cell->cell,
                        .level = ways[way].kind == RMG_FAULT_PATTERN_KEEPS ? at.level : !at.level,
                        .around = at.around,
                        .around_mask =
                            ways[way].kind == RMG_FAULT_PATTERN_SETS ? others : (uint8_t)mask,
                        .by = at.by < 4 ? at.by : 0,
                        .state = (uint8_t)(at.by < 4 ? (unsigned)at.around >> at.by & 1u : 0)});
            }
        }
}

/* Rows beyond some number are not refreshed, as with a part that needs more refresh cycles than the
 * board gives; or none is, often enough. They all lose what they hold within the same time. */
static void refresh(const looking *l)
{
    const rmg_addr rows = (rmg_addr)1 << l->part->row_lines;
    rmg_sim_fault f = {.kind = RMG_FAULT_REFRESH,
                       .chip = l->rule->socket,
                       .after_us = MAX(l->part->refresh_ms * 1000u, 1u)};

    if (l->row_count < (rows - l->least_row) / FEW_ROWS)
        return;
    rmg_fault_include(&f, l->rule->socket);
    for (unsigned none = 0; none < 2; none++) {
        proposal *p = add(l, CAUSE(PART_SMALLER) | CAUSE(CHIP_SCATTERED),
                          none ? RMG_SAY_FAULT_NOT_REFRESHED : RMG_SAY_FAULT_ROWS_NOT_REFRESHED);

        f.cell = none ? 0 : l->least_row;
        p->by_rows = true;
        rmg_propose_put(p, f);
    }
}

/* Nearly all of the chip fails, and no wiring check said why. */
static void whole_chip(const looking *l)
{
    const rmg_finding *f = l->w->f;
    rmg_finding all = *f;

    all.high = l->high && !l->low ? f->bits : 0;
    l->w->f = &all;
    rmg_propose_data_at_socket(l->w);
    for (uint8_t k = 0; k < l->rule->address_lines; k++) {
        all.lines =
            l->rule->address_bits[k] < RMG_ADDR_BITS ? (rmg_addr)1 << l->rule->address_bits[k] : 0;
        if (all.lines)
            rmg_propose_address_at_socket(l->w);
    }
    l->w->f = f;
}

void rmg_propose_cells(proposer *w)
{
    looking l = {.w = w, .rule = rmg_propose_rule(w), .first = UINT64_MAX};

    if (!l.rule)
        return;
    l.part = w->board->sockets[w->f->socket].part;
    l.cells = g_array_new(FALSE, FALSE, sizeof(seen_cell));
    l.rows = g_new0(bool, (size_t)1 << l.part->row_lines);
    l.least_row = ((rmg_addr)1 << l.part->row_lines) - 1u;
    rmg_failset_each_record(w->run->failures, see_word, &l);
    if (l.count) {
        as_seen(&l);
        if (l.part->row_lines && l.count > 1)
            rows_and_columns(&l);
        if (l.count <= PROPOSAL_FAULTS) {
            among_neighbours(&l);
            with_time(&l);
        }
        if (cell_at(&l, 0)->cell == cell_at(&l, l.cells->len - 1u)->cell || l.count == 2 ||
            (l.count <= 2u * l.rule->width))
            one_or_two(&l);
        if (l.part->row_lines && l.count > PROPOSAL_FAULTS)
            refresh(&l);
        if (l.count > MANY_CELLS)
            whole_chip(&l);
    }
    g_array_free(l.cells, TRUE);
    g_free(l.rows);
}
