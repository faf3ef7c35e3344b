/* See grid.h. */
#include <glib.h>

#include "grid.h"

/* How many lines have so many values. */
static unsigned lines_of(rmg_addr values)
{
    return (unsigned)__builtin_ctzll(values);
}

/* The address bits that feed lines `first` and up of the chip, for each value of these; and whether
 * the chip can be given that value: lines may be tied to a level. */
static rmg_addr *feeding(const rmg_rule *rule, uint8_t first, rmg_addr values, bool **there)
{
    rmg_addr *list = g_new0(rmg_addr, values);

    *there = g_new(bool, values);
    for (rmg_addr value = 0; value < values; value++) {
        (*there)[value] = true;
        for (uint8_t i = first; i < rule->address_lines; i++) {
            const rmg_addr bit = value >> (i - first) & 1u;

            if (rule->address_bits[i] < RMG_ADDR_BITS)
                list[value] |= bit << rule->address_bits[i];
            else if (i < first + lines_of(values))
                (*there)[value] &= (bit != 0) == (rule->address_bits[i] == RMG_FEED_1);
        }
    }
    return list;
}

/* All address bits that feed the chip are 0 in the rule's base. */
static rmg_addr base_of(const rmg_rule *rule)
{
    rmg_addr fed = 0;

    for (uint8_t i = 0; i < rule->address_lines; i++)
        if (rule->address_bits[i] < RMG_ADDR_BITS)
            fed |= (rmg_addr)1 << rule->address_bits[i];
    return rule->where.first & ~fed;
}

bank_grid rmg_grid_of_bank(const rmg_run *run, uint8_t bank, bool any)
{
    const rmg_board *board = run->board;
    bank_grid g = {.run = run, .ranges = run->tested, .range_count = run->tested_count};

    for (uint16_t r = 0; r < board->placement.rule_count && !g.row_lines; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        const rmg_part *part = board->sockets[rule->socket].part;

        g.rule = rule;
        if (rule->bank == bank && part)
            g.row_lines =
                any && !part->row_lines ? (uint8_t)(rule->address_lines / 2u) : part->row_lines;
    }
    if (g.row_lines) {
        g.base = base_of(g.rule);
        g.row_bits = feeding(g.rule, 0, grid_rows(&g), &g.row_there);
        g.column_bits = feeding(g.rule, g.row_lines, grid_columns(&g), &g.column_there);
    }
    return g;
}

void rmg_grid_end(bank_grid *g)
{
    g_free(g->row_bits);
    g_free(g->column_bits);
    g_free(g->row_there);
    g_free(g->column_there);
}

bool rmg_grid_address(const bank_grid *g, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    const rmg_addr a = g->base | g->row_bits[row] | g->column_bits[column];

    *address = a;
    if (!g->row_there[row] || !g->column_there[column] || !rmg_where_holds(&g->rule->where, a))
        return false;
    for (size_t i = 0; i < g->range_count; i++)
        if (a >= g->ranges[i].first && a <= g->ranges[i].last)
            return true;
    return false;
}

void rmg_grid_wrong(runner *c, uint64_t pass, uint8_t element, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    const rmg_failure f = {.address = address,
                           .expected = expected,
                           .actual = actual,
                           .element = element,
                           .pass = (uint16_t)MIN(pass, UINT16_MAX),
                           .step = c->step_number};

    rmg_tally_add(&c->run->tally, &f);
    rmg_run_note(c, &f);
}

void rmg_grid_trials(const bank_grid *g, const uint64_t reads[2])
{
    const uint8_t bits = g->run->board->word_bits;

    for (uint8_t i = 0; i < bits; i++)
        for (unsigned level = 0; level < 2; level++)
            g->run->own->bit_reads[g->rule->bank * bits + i].expected[level] += reads[level];
}
