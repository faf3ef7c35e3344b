/* Faults at random, of every kind that the model has. */
#include <stdlib.h>
#include <string.h>

#include "diag.h"

const diag_kind diag_kinds[] = {
    {"cell stuck", RMG_FAULT_CELL, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"row stuck", RMG_FAULT_ROW, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"column stuck", RMG_FAULT_COLUMN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"weak cells", RMG_FAULT_WEAK, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"output stuck", RMG_FAULT_OUTPUT, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"data pin open", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"data input open", RMG_FAULT_INPUT_OPEN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip missing", RMG_FAULT_MISSING, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"outputs too late", RMG_FAULT_LATE, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"stale output", RMG_FAULT_STALE, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip never written", RMG_FAULT_NO_WRITE, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip always on", RMG_FAULT_ALWAYS_ON, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"address pin", RMG_FAULT_ADDRESS_CHIP, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"wrong cells", RMG_FAULT_ADDRESS_CELLS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"transition", RMG_FAULT_TRANSITION, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"write flips", RMG_FAULT_WRITE_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read flips", RMG_FAULT_READ_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read flips after", RMG_FAULT_READ_FLIPS_AFTER, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read wrong", RMG_FAULT_READ_WRONG, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"transition, coupled", RMG_FAULT_TRANSITION, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"read flips, coupled", RMG_FAULT_READ_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"read wrong, coupled", RMG_FAULT_READ_WRONG, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"coupling inverts", RMG_FAULT_COUPLING_INVERTS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling sets", RMG_FAULT_COUPLING_SETS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling holds", RMG_FAULT_COUPLING_HOLDS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling flips", RMG_FAULT_COUPLING_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"retention", RMG_FAULT_RETENTION, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"row disturb", RMG_FAULT_DISTURB, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"rows not refreshed", RMG_FAULT_REFRESH, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"data line stuck", RMG_FAULT_DATA_LINE, TRUTH_DATA, REACH_ALL, 0, 0, 0},
    {"data line, a bank", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_BANK, 0, 0, 0},
    {"data line, a branch", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_BRANCH, 0, 0, 0},
    {"data open, a bank", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_BANK, 0, 0, 0},
    {"data open, a branch", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_BRANCH, 0, 0, 0},
    {"data line, some chips", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_SOME, 0, 0, 0},
    {"data open, some chips", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_SOME, 0, 0, 0},
    {"data lines touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_BANK, 0, 0, 0},
    {"data lines exchanged", RMG_FAULT_DATA_SWAP, TRUTH_TOUCH, REACH_BANK, 0, 0, 0},
    {"address line, a bank", RMG_FAULT_ADDRESS_BANK, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"address line, all", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_ALL, 0, 0, 0},
    {"address, a branch", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_BRANCH, 0, 0, 0},
    {"address, some chips", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_SOME, 0, 0, 0},
    {"address lines touch", RMG_FAULT_ADDRESS_SHORT, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"address exchanged", RMG_FAULT_ADDRESS_SWAP, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"bank never selected", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_BANK, 0, 0, 0},
    {"bank never written", RMG_FAULT_NO_WRITE, TRUTH_WRITE, REACH_BANK, 0, 0, 0},
    {"some never selected", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_SOME, 0, 0, 0},
    {"some never written", RMG_FAULT_NO_WRITE, TRUTH_WRITE, REACH_SOME, 0, 0, 0},
    {"bank answers twice", RMG_FAULT_ALSO_SELECTED, TRUTH_SELECT, REACH_BANK, 0, 0, 0},
};
const size_t diag_kind_count = sizeof diag_kinds / sizeof *diag_kinds;

static bool tested(const rmg_board *board, const rmg_rule *rule)
{
    const rmg_region *region = rmg_board_region_at(board, rule->where.first);

    return region && region->kind == RMG_REGION_RAM &&
           board->sockets[rule->socket].part->kind != RMG_PART_ROM;
}

/* Chips at and beyond a point of a line into the fault's scope; how many of them are tested RAM. */
static unsigned include_beyond(const rmg_board *board, const rmg_line *line, uint16_t point,
                               rmg_sim_fault *f)
{
    unsigned count = 0;

    for (uint16_t p = point; p < line->point_count; p++) {
        const uint16_t socket = line->points[p].socket;
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != point)
            up = line->points[up].parent;
        for (uint16_t r = 0; up == point && r < board->placement.rule_count; r++)
            if (board->placement.rules[r].socket == socket &&
                tested(board, &board->placement.rules[r]) && !rmg_fault_acts_for(f, socket)) {
                rmg_fault_include(f, socket);
                count++;
            }
    }
    return count;
}

/* A point of a traced line beyond which some chips hang, but not all. */
static bool choose_branch(diag_dice *dice, const rmg_board *board, rmg_line_kind kind,
                          rmg_sim_fault *f)
{
    for (unsigned tries = 0; board->line_count && tries < 200; tries++) {
        const rmg_line *line = &board->lines[diag_roll(dice, board->line_count)];
        const uint16_t point = (uint16_t)diag_roll(dice, line->point_count);
        rmg_sim_fault all = *f;

        if (line->kind != kind || !point)
            continue;
        memset(f->scope, 0, sizeof f->scope);
        if (include_beyond(board, line, point, f) > 1 && include_beyond(board, line, 0, &all) &&
            memcmp(all.scope, f->scope, sizeof all.scope)) {
            f->line = line->bit;
            f->lines = (rmg_addr)1 << line->bit;
            return true;
        }
    }
    return false;
}

/* Are both on the same data lines? Not where lines are traced to serve one half of a wider bus. */
static bool same_lane(const rmg_board *board, const rmg_rule *a, const rmg_rule *b)
{
    rmg_addr lanes = 0;

    for (size_t n = 0; n < board->line_count; n++)
        lanes |= board->lines[n].lane.mask;
    return !((a->where.match ^ b->where.match) & lanes);
}

/* May one line of the kind, cut anywhere, serve the other too? */
static bool shares(const rmg_board *board, const diag_kind *k, const rmg_rule *rule,
                   const rmg_rule *other, const rmg_sim_fault *f)
{
    const rmg_word bit = (rmg_word)1 << f->line;

    if (!tested(board, other))
        return false;
    if (k->truth == TRUTH_DATA)
        return same_lane(board, rule, other) && (rmg_rule_bits(other) & bit);
    return board->sockets[other->socket].part == board->sockets[rule->socket].part;
}

/* Are lines of the kind traced to the chips? */
static bool is_traced(const rmg_board *board, const diag_kind *k)
{
    for (size_t n = 0; n < board->line_count; n++) {
        const rmg_line *line = &board->lines[n];
        bool chips = false;

        for (uint16_t p = 0; p < line->point_count; p++)
            chips |= line->points[p].socket != RMG_NO_SOCKET &&
                     line->points[p].socket < board->socket_count;
        if (chips && (k->truth == TRUTH_DATA    ? line->kind == RMG_LINE_DATA
                      : k->truth == TRUTH_LINES ? line->kind == RMG_LINE_ADDRESS
                                                : line->kind == RMG_LINE_CONTROL))
            return true;
    }
    return false;
}

/* Two or more chips of those that such a line serves. */
static bool choose_some(diag_dice *dice, const rmg_board *board, const diag_kind *k,
                        const rmg_rule *rule, rmg_sim_fault *f)
{
    unsigned can = 0, count = 0;

    if (is_traced(board, k))
        return false; /* which chips share a stretch of it is told */
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        can += shares(board, k, rule, &board->placement.rules[r], f);
    for (unsigned tries = 0; can > 1 && count < 2 && tries < 100; tries++) {
        const unsigned odds = 2u + (unsigned)diag_roll(dice, 3);

        memset(f->scope, 0, sizeof f->scope);
        count = 0;
        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *other = &board->placement.rules[r];

            if (!shares(board, k, rule, other, f) || rmg_fault_acts_for(f, other->socket) ||
                (other->socket != rule->socket && diag_roll(dice, odds)))
                continue;
            rmg_fault_include(f, other->socket);
            count++;
        }
    }
    return count > 1;
}

static bool include_reach(diag_dice *dice, const rmg_board *board, const diag_kind *k,
                          const rmg_rule *rule, rmg_sim_fault *f)
{
    if (k->reach == REACH_BRANCH)
        return choose_branch(dice, board, k->truth == TRUTH_DATA ? RMG_LINE_DATA : RMG_LINE_ADDRESS,
                             f);
    if (k->reach == REACH_SOME)
        return choose_some(dice, board, k, rule, f);
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *other = &board->placement.rules[r];
        const bool everywhere =
            k->reach == REACH_ALL && (k->truth != TRUTH_DATA || same_lane(board, rule, other));

        if (k->reach == REACH_CHIP ? other->socket == rule->socket
                                   : everywhere || other->bank == rule->bank)
            rmg_fault_include(f, other->socket);
    }
    return true;
}

static void choose_cells(diag_dice *dice, const rmg_part *part, const diag_kind *k,
                         rmg_sim_fault *f)
{
    const uint64_t depth = (uint64_t)1 << part->address_lines;
    const uint64_t rows = (uint64_t)1 << part->row_lines;

    f->cell = diag_roll(dice, depth);
    f->cell2 = (f->cell + 1 + diag_roll(dice, depth - 1)) % depth;
    f->reaches = (rmg_sim_reaches)diag_roll(dice, 4);
    f->reads = (rmg_sim_reads)diag_roll(dice, 3);
    f->operation = (rmg_sim_operation)diag_roll(dice, 6);
    f->count = (uint32_t)(50 + diag_roll(dice, 200));
    f->after_us = (uint32_t)(5000 + diag_roll(dice, 40000));
    f->row = ((f->cell & (rows - 1)) ^ 1u) & (rows - 1);
    if (k->fault == RMG_FAULT_ADDRESS_CELLS && f->reaches == RMG_REACHES_NONE)
        f->cell2 = f->cell;
    if (k->fault == RMG_FAULT_WEAK)
        f->count = (uint32_t)(depth / (2 + diag_roll(dice, 30)));
    if (k->fault == RMG_FAULT_ROW || k->fault == RMG_FAULT_REFRESH)
        f->cell = diag_roll(dice, rows);
    if (k->fault == RMG_FAULT_COLUMN)
        f->cell = diag_roll(dice, depth / rows);
    if (k->fault == RMG_FAULT_REFRESH) {
        f->cell = rows / 2; /* a part that needs twice the cycles that the board gives */
        f->after_us = part->refresh_ms * 1000u;
    }
    if (k->fault == RMG_FAULT_ADDRESS_CHIP)
        f->lines = (rmg_addr)1 << diag_roll(dice, part->address_lines);
}

/* an address line of the bus that feeds a line of the rule's chip; the others are tied */
static rmg_addr fed_line(diag_dice *dice, const rmg_rule *rule)
{
    uint8_t bit;

    do
        bit = rule->address_bits[diag_roll(dice, rule->address_lines)];
    while (bit == RMG_FEED_0 || bit == RMG_FEED_1);
    return (rmg_addr)1 << bit;
}

/* A bank beside which the rule's may answer: on the same lines, as deep. */
static bool choose_other_bank(diag_dice *dice, const rmg_board *board, const rmg_rule *rule,
                              rmg_sim_fault *f)
{
    for (unsigned tries = 0; tries < 100; tries++) {
        const rmg_rule *other =
            &board->placement.rules[diag_roll(dice, board->placement.rule_count)];

        if (tested(board, other) && other->bank != rule->bank && same_lane(board, rule, other) &&
            board->sockets[other->socket].part == board->sockets[rule->socket].part) {
            f->bank2 = other->bank;
            return true;
        }
    }
    return false;
}

bool diag_fault_make(diag_dice *dice, const diag_board *of, const diag_kind *k, rmg_sim_fault *f)
{
    const rmg_board *board = of->board;
    const rmg_rule *rule;
    const rmg_part *part;
    unsigned tries = 0;

    do
        rule = &board->placement.rules[diag_roll(dice, board->placement.rule_count)];
    while (!tested(board, rule) && tries++ < 1000);
    part = board->sockets[rule->socket].part;
    if (!tested(board, rule) || (!part->row_lines && (k->time || k->fault == RMG_FAULT_ROW ||
                                                      k->fault == RMG_FAULT_COLUMN)))
        return false;
    memset(f, 0, sizeof *f);
    f->kind = k->fault;
    f->chip = rule->socket;
    f->bank = f->bank2 = rule->bank;
    f->level = (uint8_t)diag_roll(dice, 2);
    f->state = (uint8_t)diag_roll(dice, 2);
    f->coupled = k->coupled;
    f->data_line = f->data_line2 = (uint8_t)diag_roll(dice, rule->width);
    f->line = f->line2 = rule->data_bits[f->data_line];
    choose_cells(dice, part, k, f);
    if (k->fault == RMG_FAULT_DATA_LINE)
        f->cell = f->lines = 0;
    if (k->truth == TRUTH_TOUCH)
        while (f->line2 == f->line)
            f->line2 = (uint8_t)diag_roll(dice, board->word_bits);
    if (k->truth == TRUTH_LINES)
        f->lines = fed_line(dice, rule);
    while ((k->fault == RMG_FAULT_ADDRESS_SHORT || k->fault == RMG_FAULT_ADDRESS_SWAP) &&
           !(f->lines & (f->lines - 1u)))
        f->lines |= fed_line(dice, rule);
    if (k->truth == TRUTH_SELECT && !choose_other_bank(dice, board, rule, f))
        return false;
    if (rmg_fault_is(k->fault, RMG_TRAIT_STRAYS))
        f->level = of->high_wins;
    if (k->fault == RMG_FAULT_DATA_LINE)
        for (size_t n = 0; n < board->line_count; n++)
            if (board->lines[n].lane.mask) { /* the line of one half of the bus */
                f->cell = board->lines[n].lane.mask;
                f->lines = rule->where.match & f->cell;
            }
    return include_reach(dice, board, k, rule, f);
}

bool diag_fault_beside(diag_case *c, diag_dice *dice, unsigned n, bool chips,
                       const diag_kind **kind)
{
    for (unsigned tries = 0; tries < 1000; tries++) {
        bool own = true;

        *kind = &diag_kinds[diag_roll(dice, diag_kind_count)];
        if ((*kind)->time || (chips && (*kind)->truth != TRUTH_CHIP) ||
            !diag_fault_make(dice, c->board, *kind, &c->faults[n]))
            continue;
        for (unsigned i = 0; i < n; i++)
            own &= c->faults[i].chip != c->faults[n].chip;
        if (own)
            return true;
    }
    return false;
}
