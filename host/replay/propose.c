/* What a suspect can be, as faults of the simulated board: lines, banks and selects here, chips and
 * cells apart. */
#include <string.h>

#include "internal.h"

#define CAUSE(name) RMG_CAUSE_BIT(RMG_CAUSE_##name)

/* A chip that is always on. */
static void dragged(proposer *w)
{
    rmg_sim_fault fault = {.kind = RMG_FAULT_ALWAYS_ON, .level = w->f->high_wins};
    proposal *p;

    if (w->f->weighed) /* at times: no plan gives the same again */
        return;
    p = rmg_propose_add(w, CAUSE(CHIP_ALWAYS_ON) | CAUSE(CONTACT_SELECT), RMG_SAY_FAULT_ALWAYS_ON);

    rmg_fault_include(&fault, w->f->socket);
    p->shows = rmg_propose_rule(w);
    rmg_propose_put(p, fault);
}

/* The chips a finding of a line or bank is about: those of its bank, or beyond its point, or all.
 */
static void scope(const proposer *w, rmg_sim_fault *fault)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (w->f->kind == RMG_FINDING_SHARED || w->f->kind == RMG_FINDING_SAME_WORDS) {
            if (w->f->among[rule->socket >> 6] >> (rule->socket & 63u) & 1u)
                rmg_fault_include(fault, rule->socket);
        } else if (!rmg_finding_on_lane(w->board, w->f, rule)) {
            continue;
        } else if (w->f->socket != RMG_NO_SOCKET
                       ? rule->socket == w->f->socket
                       : w->f->bank == RMG_NO_BANK || rule->bank == w->f->bank)
            rmg_fault_include(fault, rule->socket);
    }
}

static void beyond(const proposer *w, rmg_sim_fault *fault)
{
    const rmg_line *line = &w->board->lines[w->f->line];

    for (uint16_t p = w->f->point; p < line->point_count; p++) {
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != w->f->point)
            up = line->points[up].parent;
        if (up == w->f->point && line->points[p].socket != RMG_NO_SOCKET)
            rmg_fault_include(fault, line->points[p].socket);
    }
}

static void of_scope(proposer *w, uint64_t causes, rmg_said said, unsigned level,
                     rmg_sim_fault fault)
{
    scope(w, &fault);
    rmg_propose_put(rmg_propose_at(w, causes, said, level), fault);
}

static uint8_t lowest(rmg_word bits)
{
    uint8_t bit = 0;

    while (bits > 1u) {
        bits >>= 1;
        bit++;
    }
    return bit;
}

static void data_line(proposer *w)
{
    const rmg_where *lane = w->f->lane == RMG_NO_BANK ? NULL : &w->board->bank_wheres[w->f->lane];

    for (unsigned level = 0; level < 2; level++)
        rmg_propose_put(rmg_propose_at(w,
                                       CAUSE(LINE_TRACK) | CAUSE(LINE_DRIVER) | CAUSE(CHIP_DRAGS),
                                       RMG_SAY_FAULT_DATA_LINE, level),
                        (rmg_sim_fault){.kind = RMG_FAULT_DATA_LINE,
                                        .line = lowest(w->f->bits),
                                        .cell = lane ? lane->mask : 0,
                                        .lines = lane ? lane->match : 0,
                                        .level = (uint8_t)level});
    for (unsigned level = 0; level < 2; level++)
        of_scope(w, CAUSE(LINE_TRACK) | CAUSE(LINE_DRIVER) | CAUSE(CHIP_DRAGS),
                 RMG_SAY_FAULT_DATA_LINE_BEHIND, level,
                 (rmg_sim_fault){.kind = RMG_FAULT_LINE_STUCK,
                                 .line = lowest(w->f->bits),
                                 .level = (uint8_t)level});
    of_scope(w, CAUSE(LINE_TRACK) | CAUSE(LINE_DRIVER), RMG_SAY_FAULT_DATA_LINE_OPEN, 0,
             (rmg_sim_fault){.kind = RMG_FAULT_LINE_OPEN, .line = lowest(w->f->bits)});
}

static void address_lines(proposer *w)
{
    for (unsigned level = 0; level < 2; level++)
        of_scope(w,
                 CAUSE(LINE_TRACK) | CAUSE(LINE_DRIVER) | CAUSE(LINE_PART) | CAUSE(LINE_JOINT) |
                     CAUSE(CHIP_DRAGS_FAR),
                 RMG_SAY_FAULT_ADDRESS_LINE, level,
                 (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_STUCK,
                                 .lines = w->f->lines,
                                 .level = (uint8_t)level});
}

static void touching(proposer *w)
{
    const bool data = w->f->kind == RMG_FINDING_DATA_SHORT;
    rmg_sim_fault fault = {.kind = data ? RMG_FAULT_DATA_SHORT : RMG_FAULT_ADDRESS_SHORT,
                           .lines = w->f->lines,
                           .level = w->f->high_wins};

    fault.line2 = lowest(w->f->bits);
    fault.line = lowest(w->f->bits & ~((rmg_word)1 << fault.line2));
    of_scope(w, CAUSE(LINE_BRIDGE) | CAUSE(CHIP_BRIDGE) | CAUSE(LINE_DRIVER), RMG_SAY_FAULT_TOUCH,
             w->f->high_wins, fault);
}

#define BRANCH (CAUSE(LINE_TRACK) | CAUSE(LINE_PART) | CAUSE(LINE_JOINT))

static void branch(proposer *w)
{
    const rmg_line *line = &w->board->lines[w->f->line];

    if (w->f->of == RMG_FINDING_NEVER_WRITTEN) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_NO_WRITE};

        beyond(w, &fault);
        rmg_propose_put(rmg_propose_add(w, BRANCH, RMG_SAY_FAULT_WRITE_OPEN), fault);
        return;
    }
    for (unsigned level = 0; level < 2; level++) {
        rmg_sim_fault fault = {.kind = line->kind == RMG_LINE_DATA ? RMG_FAULT_LINE_STUCK
                                                                   : RMG_FAULT_ADDRESS_STUCK,
                               .line = line->bit,
                               .lines = (rmg_addr)1 << line->bit,
                               .level = (uint8_t)level};

        beyond(w, &fault);
        rmg_propose_put(
            rmg_propose_at(w, BRANCH | CAUSE(CHIP_DRAGS_FAR), RMG_SAY_FAULT_BRANCH, level), fault);
    }
    if (line->kind == RMG_LINE_DATA) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_LINE_OPEN, .line = line->bit};

        beyond(w, &fault);
        rmg_propose_put(rmg_propose_add(w, BRANCH, RMG_SAY_FAULT_BRANCH_OPEN), fault);
    }
}

/* Several sockets, beyond a point that is not known. */
static void shared(proposer *w)
{
    const uint64_t causes = CAUSE(LINE_TRACK) | CAUSE(LINE_PART);
    const uint8_t bit = lowest(w->f->bits);

    if (w->f->of == RMG_FINDING_DATA_LINE)
        return; /* of each bank in its own way: no fault of one line gives that */
    if (w->f->of == RMG_FINDING_NEVER_WRITTEN) {
        of_scope(w, causes, RMG_SAY_FAULT_SHARED_WRITE, 0,
                 (rmg_sim_fault){.kind = RMG_FAULT_NO_WRITE});
        return;
    }
    if (w->f->of == RMG_FINDING_BANK_SILENT) {
        of_scope(w, CAUSE(STROBE) | CAUSE(SUPPLY_BANK), RMG_SAY_FAULT_NEVER_SELECTED, 0,
                 (rmg_sim_fault){.kind = RMG_FAULT_DESELECTED});
        return;
    }
    for (unsigned level = 0; level < 2; level++)
        of_scope(
            w, causes, RMG_SAY_FAULT_SHARED, level,
            (rmg_sim_fault){.kind = w->f->lines ? RMG_FAULT_ADDRESS_STUCK : RMG_FAULT_LINE_STUCK,
                            .line = bit,
                            .lines = w->f->lines,
                            .level = (uint8_t)level});
    if (!w->f->lines)
        of_scope(w, causes, RMG_SAY_FAULT_SHARED_OPEN, 0,
                 (rmg_sim_fault){.kind = RMG_FAULT_LINE_OPEN, .line = bit});
}

/* The lowest row of these chips in which a word fails that was left alone; false: one failed else.
 */
static bool least_row_lost(const proposer *w, const rmg_sim_fault *these, rmg_addr *least)
{
    rmg_same_words words;

    *least = (rmg_addr) ~(rmg_addr)0;
    rmg_same_words_look(w->run, w->f, &words);
    for (uint16_t r = 0; words.in_holds && r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];
        const rmg_part *part = w->board->sockets[rule->socket].part;
        rmg_finding one = *w->f;
        rmg_addr row;

        if (!rmg_fault_acts_for(these, rule->socket))
            continue;
        one.socket = rule->socket;
        one.bank = rule->bank;
        one.bits &= rmg_rule_bits(rule);
        if (part->kind != RMG_PART_DRAM || !rmg_cells_least_row(w->run, &one, &row))
            return false;
        *least = MIN(*least, row);
    }
    return words.in_holds;
}

/* Cells of several sockets that fail in the same words: DRAMs that the board does not refresh, from
 * some row on, or not often enough. */
static void same_words(proposer *w)
{
    rmg_sim_fault f = {.kind = RMG_FAULT_REFRESH};
    rmg_addr least;

    scope(w, &f);
    if (!least_row_lost(w, &f, &least))
        return;
    for (uint16_t s = 0; s < w->board->socket_count; s++)
        if (rmg_fault_acts_for(&f, s)) {
            f.chip = s;
            f.after_us = MAX(w->board->sockets[s].part->refresh_ms * 1000u, 1u);
        }
    for (unsigned none = 0; none < 2; none++) {
        proposal *p = rmg_propose_add(
            w, CAUSE(REFRESH), none ? RMG_SAY_FAULT_THESE_NOT_REFRESHED : RMG_SAY_FAULT_THESE_ROWS);

        f.cell = none ? 0 : least;
        p->by_rows = true;
        rmg_propose_put(p, f);
    }
}

/* All chips of the bank drive their lines at every read. */
static void bank_drags(proposer *w)
{
    of_scope(w, CAUSE(SELECT_DECODER) | CAUSE(SELECT_TRACK), RMG_SAY_FAULT_BANK_DRIVES, 0,
             (rmg_sim_fault){.kind = RMG_FAULT_ALWAYS_ON, .level = w->f->high_wins});
}

static void selects(proposer *w)
{
    const uint8_t banks[2] = {w->f->bank, w->f->bank2};

    if (w->f->untested) /* what it holds is not known */
        return;
    if (w->f->of == RMG_FINDING_DRAGGED) {
        bank_drags(w);
        return;
    }

    for (size_t i = 0; i < (w->f->kind == RMG_FINDING_BANKS_SAME ? 2u : 1u); i++) {
        proposal *p =
            rmg_propose_add(w, CAUSE(SELECT_DECODER) | CAUSE(SELECT_ADDRESS) | CAUSE(SELECT_TRACK),
                            RMG_SAY_FAULT_ANSWERS);
        rmg_sim_fault dead = {.kind = RMG_FAULT_DESELECTED};

        p->is.bank = banks[i];
        p->is.bank2 = banks[1 - i];
        rmg_propose_put(p, (rmg_sim_fault){.kind = RMG_FAULT_ALSO_SELECTED,
                                           .bank = banks[i],
                                           .bank2 = banks[1 - i],
                                           .level = w->f->high_wins});
        if (w->f->kind == RMG_FINDING_BANKS_BOTH)
            continue;
        for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
            if (w->board->placement.rules[r].bank == banks[1 - i])
                rmg_fault_include(&dead, w->board->placement.rules[r].socket);
        rmg_propose_put(p, dead);
    }
}

static void never_written(proposer *w)
{
    const bool socket = w->f->socket != RMG_NO_SOCKET;

    of_scope(w,
             socket ? CAUSE(CONTACT_WRITE) | CAUSE(CHIP_WRITE) | CAUSE(TRACK_WRITE)
                    : CAUSE(LINE_TRACK) | CAUSE(NOT_RAM) | CAUSE(DATA_BUFFER),
             RMG_SAY_FAULT_NEVER_WRITTEN, 0, (rmg_sim_fault){.kind = RMG_FAULT_NO_WRITE});
}

static void stale(proposer *w)
{
    rmg_sim_fault fault = {.kind = RMG_FAULT_STALE, .chip = w->f->socket};

    rmg_fault_include(&fault, w->f->socket);
    rmg_propose_put(
        rmg_propose_add(w, CAUSE(CHIP_OUTPUT) | CAUSE(CONTACT_SELECT), RMG_SAY_FAULT_STALE), fault);
}

static void silent(proposer *w)
{
    of_scope(w, CAUSE(STROBE) | CAUSE(LINK) | CAUSE(SUPPLY_BANK) | CAUSE(CHIPS_MISSING),
             RMG_SAY_FAULT_NEVER_SELECTED, 0, (rmg_sim_fault){.kind = RMG_FAULT_DESELECTED});
}

/* What is proposed for a finding; nothing for what comes and goes. */
static void (*const proposers[])(proposer *w) = {
    [RMG_PROPOSES_NOTHING] = NULL,
    [RMG_PROPOSES_SILENT] = silent,
    [RMG_PROPOSES_DATA_LINE] = data_line,
    [RMG_PROPOSES_DATA_AT_SOCKET] = rmg_propose_data_at_socket,
    [RMG_PROPOSES_ADDRESS_LINES] = address_lines,
    [RMG_PROPOSES_ADDRESS_AT_SOCKET] = rmg_propose_address_at_socket,
    [RMG_PROPOSES_CELLS] = rmg_propose_cells,
    [RMG_PROPOSES_NEVER_WRITTEN] = never_written,
    [RMG_PROPOSES_STALE] = stale,
    [RMG_PROPOSES_TOUCHING] = touching,
    [RMG_PROPOSES_SELECTS] = selects,
    [RMG_PROPOSES_DRAGGED] = dragged,
    [RMG_PROPOSES_BRANCH] = branch,
    [RMG_PROPOSES_SHARED] = shared,
    [RMG_PROPOSES_SAME_WORDS] = same_words,
};
_Static_assert(G_N_ELEMENTS(proposers) == RMG_PROPOSES, "each way of proposing has its function");

GPtrArray *rmg_propose(const rmg_run *run, const rmg_suspect *suspect)
{
    proposer w = {run, run->board, &suspect->finding,
                  g_ptr_array_new_with_free_func(rmg_proposal_free)};

    const rmg_proposes proposes = rmg_finding_row(w.f->kind)->proposes;

    if (proposers[proposes])
        proposers[proposes](&w);
    return w.list;
}
