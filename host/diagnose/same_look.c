/* The words in which the cells of several sockets fail: which, how they lie, whether they were left
 * alone before. */
#include "rimeglass/march.h"
#include "share.h"

#define DENSE 4u  /* one in so many words of a stretch fails */
#define WHOLE 0.9 /* of the words of the banks: no stretch of them, where several chips fail */

/* Was the memory left alone before this step of a pass, with refresh as the board gives it? */
bool rmg_after_hold(const rmg_run *run, uint64_t at)
{
    const size_t n = (size_t)(at >> 16 & 0xFFu);
    const rmg_step *step = n < run->steps.count ? &run->steps.list[n] : NULL;
    const uint8_t *element = step && step->kind == RMG_STEP_MARCH ? step->code : NULL;

    if (step && step->kind == RMG_STEP_HOLD)
        return !step->stops_refresh;
    for (unsigned i = (unsigned)(at >> 8 & 0xFFu); element && *element && i > 0; i--) {
        const uint8_t count = *element & (uint8_t)~RMG_ORDER_MASK;

        if (!count)
            return true;
        element += count + 1u;
    }
    return false;
}

/* The words of a finding. */
typedef struct looker {
    const rmg_run *run;
    const rmg_finding *finding;
    rmg_same_words *report;
} looker;

static void look(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                 size_t count)
{
    const looker *l = context;
    const rmg_placement *placement = &l->run->board->placement;
    rmg_same_words *report = l->report;
    socket_set set;
    rmg_word bits = 0;

    (void)record;
    memcpy(set.bits, l->finding->among, sizeof set.bits);
    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (rmg_set_holds(&set, placement->rules[r].socket) &&
            rmg_where_holds(&placement->rules[r].where, address))
            bits |= rmg_rule_bits(&placement->rules[r]);
    for (size_t n = 0; n < count; n++)
        if ((parts[n].high | parts[n].low) & bits) {
            report->in_holds &= rmg_after_hold(l->run, parts[n].first);
            if (!report->words)
                report->first = address;
            report->words += !report->words || report->last != address;
            report->last = address;
        }
}

/* Do several chips fail in hardly fewer than all words of their banks? */
static bool in_all_words(const rmg_run *run, const rmg_finding *f, const rmg_same_words *report)
{
    const rmg_placement *placement = &run->board->placement;
    double words = 0;
    unsigned sockets = 0;
    socket_set set;

    memcpy(set.bits, f->among, sizeof set.bits);
    for (uint16_t s = 0; s < run->board->socket_count; s++)
        sockets += rmg_set_holds(&set, s);
    for (size_t b = 0; b < run->board->bank_count; b++) {
        bool has = false;

        for (uint16_t r = 0; r < placement->rule_count && !has; r++)
            has = placement->rules[r].bank == b && rmg_set_holds(&set, placement->rules[r].socket);
        words += has ? (double)run->bank_words[b] : 0;
    }
    return sockets > 1 && (double)report->words >= WHOLE * words;
}

void rmg_same_words_look(const rmg_run *run, const rmg_finding *f, rmg_same_words *report)
{
    looker l = {run, f, report};

    *report = (rmg_same_words){.in_holds = true};
    rmg_failset_each_record(run->failures, look, &l);
    report->in_holds &= report->words != 0;
    report->stretch = report->words && (report->last - report->first) / DENSE < report->words &&
                      !in_all_words(run, f, report);
}

/* Chips of a bank, or with RMG_NO_BANK of all, that were tested. */
unsigned rmg_chips_of_bank(const rmg_run *run, uint8_t bank)
{
    unsigned chips = 0;

    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const uint8_t of = run->board->placement.rules[r].bank;

        chips += of < run->board->bank_count && run->bank_words[of] &&
                 (bank == RMG_NO_BANK || bank == of);
    }
    return chips;
}

rmg_saying rmg_say_of_words(const wording *w, rmg_said said)
{
    rmg_saying s = rmg_say_of(&w->s->finding, said);

    s.address = w->same->first;
    s.k = w->same->last;
    s.n = w->same->words;
    if (said == RMG_SAY_WEAK_TOGETHER) {
        const socket_set set = rmg_sockets_of(w->run, &w->s->finding);

        s.n = 0;
        for (uint16_t i = 0; i < w->board->socket_count; i++)
            s.n += rmg_set_holds(&set, i);
        s.m = rmg_chips_of_bank(w->run, s.bank);
    }
    return s;
}

bool rmg_are_drams(const wording *w)
{
    const socket_set set = rmg_sockets_of(w->run, &w->s->finding);
    bool all = true;

    for (uint16_t s = 0; s < w->board->socket_count; s++)
        all &= !rmg_set_holds(&set, s) || w->board->sockets[s].part->kind == RMG_PART_DRAM;
    return all;
}

bool rmg_lost_together(const wording *w)
{
    return w->same && w->same->in_holds && rmg_are_drams(w);
}
