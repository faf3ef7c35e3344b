/* The wiring of every bank, and the banks against each other. */
#include <glib.h>

#include "board/internal.h"
#include "runner.h"

#define TURNS 3u /* checks that must agree */

/* The word of a bank at this offset from its first, lines that choose banks left out; false: it is
 * not tested. */
static bool bank_word(const rmg_run *run, size_t bank, rmg_addr offset, rmg_addr *address)
{
    const rmg_where *where = &run->board->bank_wheres[bank];

    *address = ((where->first + offset) & ~where->mask) | where->match;
    return rmg_where_holds(&run->wired_where[bank], *address);
}

/* Address lines that choose one of the two. */
static rmg_addr choosing(const rmg_board *board, size_t a, size_t b)
{
    return board->bank_wheres[a].mask | board->bank_wheres[b].mask;
}

static bool any_pair(const rmg_bank_pair *p)
{
    return p->same | p->a_answers | p->b_answers | p->a_dragged | p->b_dragged;
}

static void keep_of_pair(rmg_bank_pair *pair, const rmg_bank_pair *again)
{
    pair->same &= again->same;
    pair->a_answers &= again->a_answers;
    pair->b_answers &= again->b_answers;
    pair->a_dragged &= again->a_dragged;
    pair->b_dragged &= again->b_dragged;
    pair->high_wins &= again->high_wins;
}

/* Two banks against each other, at two offsets, three times if there is anything: what shows each
 * time counts. */
static rmg_status check_bank_pair(runner *c, const rmg_target *target, size_t a, size_t b)
{
    rmg_run *run = c->run;
    rmg_bank_pair *pair = &run->bank_pairs[a * run->board->bank_count + b];
    const rmg_addr start = MAX(run->wired_where[a].first - run->board->bank_wheres[a].first,
                               run->wired_where[b].first - run->board->bank_wheres[b].first);
    const rmg_addr end = MIN(run->wired_where[a].last - run->board->bank_wheres[a].first,
                             run->wired_where[b].last - run->board->bank_wheres[b].first);
    const rmg_word sound =
        ~(run->wirings[a].opposite | run->wirings[a].unsteady | run->wirings[b].opposite |
          run->wirings[b].unsteady); /* what stays at a level may be what the other bank holds */

    for (unsigned i = 0; i < 2u * TURNS && (i < 2 || any_pair(pair)); i++) {
        const rmg_addr offset = (i % 2u && end > start ? start + (end - start) / 2u : start) &
                                ~choosing(run->board, a, b);
        rmg_bank_pair one;
        rmg_addr at, other;
        rmg_status status;

        if (!bank_word(run, a, offset, &at) || !bank_word(run, b, offset, &other))
            return RMG_OK;
        status = rmg_wiring_bank_pair(target, at, other, sound & target->mask, &one);
        if (status != RMG_OK)
            return status;
        if (i)
            keep_of_pair(pair, &one);
        else
            *pair = one;
    }
    return RMG_OK;
}

static rmg_word dead(const rmg_wiring *w)
{
    return w->low | w->high | w->opposite | w->unsteady;
}

static bool any_finding(const rmg_wiring *w)
{
    rmg_word ignored = 0;

    for (size_t k = 0; k < RMG_ADDR_BITS; k++)
        ignored |= w->ignored[k];
    return dead(w) || ignored;
}

/* What one check found, as far as another found it too. A bit that was dead both times, but not in
 * the same way, is unsteady. */
static void keep_what_repeats(rmg_wiring *w, const rmg_wiring *again)
{
    const rmg_word both = dead(w) & dead(again);

    w->low &= again->low;
    w->high &= again->high;
    w->opposite &= again->opposite;
    w->unsteady = both & ~(w->low | w->high | w->opposite);
    for (size_t k = 0; k < RMG_ADDR_BITS; k++)
        w->ignored[k] &= again->ignored[k];
    w->accesses = (uint16_t)MIN(w->accesses + again->accesses, UINT16_MAX);
}

/* The lines of a bank. A finding is believed only if it is made three times: noise in the moment of
 * the check is no broken line. */
static rmg_status check_lines(const rmg_target *target, const rmg_where *where, rmg_wiring *wiring)
{
    rmg_status status = rmg_wiring_check(target, where, wiring);

    for (unsigned turn = 1; turn < TURNS && status == RMG_OK && any_finding(wiring); turn++) {
        rmg_wiring again;

        status = rmg_wiring_check(target, where, &again);
        if (status == RMG_OK)
            keep_what_repeats(wiring, &again);
    }
    return status;
}

static rmg_status check_bank(runner *c, const rmg_target *target, size_t b)
{
    rmg_run *run = c->run;
    const rmg_where *where = &run->wired_where[b];
    rmg_status status = check_lines(target, where, &run->wirings[b]);

    if (status == RMG_OK)
        status = rmg_wiring_data_detail(target, where, &run->wirings[b], &run->data_details[b]);
    if (status == RMG_OK)
        status =
            rmg_wiring_address_detail(target, where, &run->wirings[b], &run->address_details[b]);
    run->wired[b] = status == RMG_OK;
    return status;
}

rmg_status rmg_run_check_wiring(runner *c, const rmg_target *target)
{
    rmg_run *run = c->run;
    const size_t banks = run->board->bank_count;
    const uint64_t before = run->reads + run->writes;
    rmg_status status = RMG_OK;

    for (size_t b = 0; b < banks && status == RMG_OK; b++)
        if (rmg_run_wiring_where(run, b, &run->wired_where[b]))
            status = rmg_run_report(c) ? check_bank(c, target, b) : RMG_ERR_CANCELLED;
    for (size_t a = 0; a < banks && status == RMG_OK; a++)
        for (size_t b = a + 1; b < banks && status == RMG_OK; b++)
            if (run->wired[a] && run->wired[b])
                status = check_bank_pair(c, target, a, b);
    run->wiring_accesses = run->reads + run->writes - before;
    return status;
}
