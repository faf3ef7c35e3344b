/* For how long lines hold what was last on them: where it is known by replay that they do, the
 * number of reads that failed tells. */
#include "internal.h"

#define LARGE (1u << 17) /* words; above it the search would take as long as the run many times */

/* A play of the suspect's fault with lines that hold for so many accesses and then read `then`;
 * more than any: 0. */
static bool play(rmg_stage *s, const rmg_replayed *r, uint64_t accesses, rmg_undriven then,
                 rmg_run *again)
{
    s->model.board.undriven = RMG_UNDRIVEN_HOLDS;
    s->model.board.hold_ns = accesses * s->run->board->access_ns;
    s->model.board.after = then;
    return rmg_stage_play(s, r->faults, (uint16_t)r->fault_count, true, 0, again);
}

static uint64_t failed_reads(const rmg_run *run)
{
    uint64_t reads = 0;

    for (uint8_t b = 0; b < run->tally.bank_count; b++)
        for (unsigned i = 0; i < RMG_WORD_BITS; i++)
            reads += run->tally.bits[b][i].high + run->tally.bits[b][i].low;
    return reads;
}

/* The fewest accesses with which no more reads fail than were measured: the longer they hold, the
 * fewer fail. 0: none is found, or not with the work that is left. */
static uint64_t search(rmg_stage *s, const rmg_replayed *r, rmg_undriven then,
                       const rmg_replay_budget *budget)
{
    const uint64_t measured = failed_reads(s->run);
    uint64_t low = 1, high = s->run->tested_words;
    bool found = false;

    while (low < high) {
        const uint64_t middle = low + (high - low) / 2u;
        rmg_run again;
        bool more;

        if (!rmg_replay_more(budget, 1))
            return 0;
        if (!play(s, r, middle, then, &again)) {
            rmg_run_end(&again);
            return 0;
        }
        more = failed_reads(&again) > measured;
        rmg_run_end(&again);
        if (more) {
            low = middle + 1u;
        } else {
            high = middle;
            found = true;
        }
    }
    return found ? low : 0;
}

/* Does it give all that was measured, read for read? */
static bool gives_all(rmg_stage *s, const rmg_replayed *r, uint64_t accesses, rmg_undriven then)
{
    const proposal p = {.causes = 0};
    rmg_run again;
    bool all = play(s, r, accesses, then, &again);

    if (all) {
        const comparison c = rmg_replay_compare(s->run, &again, &p, NULL);

        all = !c.left && !c.unseen && rmg_replay_as_often(s->run, &again, NULL, false, NULL);
    }
    rmg_run_end(&again);
    return all;
}

void rmg_replay_hold(rmg_stage *s, rmg_suspect *suspect, const rmg_replay_budget *budget)
{
    const rmg_board *board = s->run->board;
    const rmg_replayed *r = suspect->replay_count ? &suspect->replays[0] : NULL;
    bool longer;
    const bool holds = r && (r->floats == RMG_FLOATS_HOLDS ||
                             (r->floats == RMG_FLOATS_AS_FILE && board->undriven_known &&
                              board->undriven == RMG_UNDRIVEN_HOLDS && !board->hold_ns));

    if (!holds || !r->same || r->fault_count != 1 || s->run->heard || !s->run->complete ||
        s->run->pass_count > RMG_REPLAY_PASSES || s->run->tested_words > LARGE ||
        !board->access_ns || !rmg_stage_undriven(r->faults, r->fault_count))
        return;
    if (!rmg_replay_more(budget, 1)) {
        suspect->untried++;
        return;
    }
    longer = gives_all(s, r, 0, RMG_UNDRIVEN_HIGH); /* than the test can tell */
    for (int then = RMG_UNDRIVEN_HIGH; !longer && then <= RMG_UNDRIVEN_LOW; then++) {
        const uint64_t accesses = search(s, r, (rmg_undriven)then, budget);
        rmg_saying hold = rmg_say_of(&suspect->finding, RMG_SAY_HOLDS_FOR);

        if (!rmg_replay_more(budget, 1)) {
            suspect->untried++;
            break;
        }
        if (!accesses || !gives_all(s, r, accesses, (rmg_undriven)then))
            continue;
        hold.n = accesses;
        hold.m = accesses * board->access_ns;
        hold.level = then == RMG_UNDRIVEN_HIGH;
        rmg_suspect_add_reason(suspect, hold);
        break;
    }
    s->model.board.after = board->after_hold;
    rmg_stage_float(s, RMG_FLOATS_AS_FILE);
}
