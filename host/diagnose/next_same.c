/* What looks the same as cells that fail in the same words, or together, and steps. */
#include "kinds.h"
#include "share.h"

#define ONE_LOT 0.4 /* as likely as a supply, that all are bad: of one lot */
#define NEARLY  0.9 /* all words of the DRAMs */

/* Do all DRAMs that were tested lose nearly everything, and the board file does not say who
 * refreshes them? Then it may be made so. */
static bool all_drams_lose_all(const wording *w)
{
    const socket_set set = rmg_sockets_of(w->run, &w->s->finding);
    const rmg_placement *placement = &w->board->placement;
    uint64_t words = 0;
    bool all = !w->board->refresh_known;

    for (size_t b = 0; b < w->board->bank_count; b++) {
        bool dram = false;

        for (uint16_t r = 0; r < placement->rule_count; r++)
            if (placement->rules[r].bank == b && w->run->bank_words[b] &&
                w->board->sockets[placement->rules[r].socket].part->kind == RMG_PART_DRAM) {
                dram = true;
                all &= rmg_set_holds(&set, placement->rules[r].socket);
            }
        words += dram ? w->run->bank_words[b] : 0;
    }
    return all && (double)w->same->words >= NEARLY * (double)words;
}

/* Where there is but one chip, it is a rival by itself. */
static void add_only_chip(wording *w)
{
    const socket_set set = rmg_sockets_of(w->run, &w->s->finding);
    uint16_t only = RMG_NO_SOCKET;
    unsigned count = 0;

    for (uint16_t s = 0; s < w->board->socket_count; s++)
        if (rmg_set_holds(&set, s)) {
            only = s;
            count++;
        }
    if (count != 1 || rmg_facts_chip_good(w->facts, only))
        return;
    rmg_next_rival(w, RMG_CAUSE_CHIP_ADDRESS, RMG_SAY_CHIP_ADDRESS);
    g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).is.socket = only;
}

/* A data line in several banks: what it touches, or what else drives it. */
static void next_same_bit(wording *w)
{
    const bool touches = w->s->finding.lines != 0;

    if (touches) {
        rmg_next_rival(w, RMG_CAUSE_LINE_BRIDGE, RMG_SAY_BRIDGE);
        rmg_next_rival(w, RMG_CAUSE_CHIP_BRIDGE, RMG_SAY_CHIP_SHORTED);
    } else {
        rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DRIVES);
    }
    rmg_next_rival(w, RMG_CAUSE_OTHER_DEVICE, RMG_SAY_OTHER_ANSWERS);
    rmg_next_each_of_these(w);
    if (touches)
        rmg_next_settle(w, RMG_SAY_MEASURE_BRIDGE);
    else
        rmg_next_pull_or_lift(w);
}

/* Many chips with bad cells: of one lot, they may as well be bad. */
static void next_weak(wording *w)
{
    const guint before = w->rivals->len;

    rmg_next_rival(w, RMG_CAUSE_SUPPLY_BANK, RMG_SAY_SUPPLY_WRONG);
    rmg_next_rival(w, RMG_CAUSE_REFRESH,
                   rmg_are_drams(w) ? RMG_SAY_REFRESH_TIMING : RMG_SAY_TIMING_WRONG);
    rmg_next_each_of_these(w);
    g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).share =
        ONE_LOT * g_array_index(w->rivals, rmg_rival, before).share;
    rmg_next_settle(w, RMG_SAY_MEASURE_SUPPLY_OF_THESE);
    rmg_step_to_take(w, RMG_SAY_COLD_AND_WARM);
}

void rmg_next_same_words(wording *w)
{
    if (w->s->finding.of == RMG_FINDING_DATA_LINE) {
        next_same_bit(w);
        return;
    }
    if (w->s->finding.of == RMG_FINDING_BANK_SILENT) {
        next_weak(w);
        return;
    }
    if (rmg_lost_together(w)) {
        const bool all = all_drams_lose_all(w);

        rmg_next_rival(w, RMG_CAUSE_REFRESH, RMG_SAY_REFRESH_OF_THESE);
        if (all)
            rmg_next_rival(w, RMG_CAUSE_NOT_RAM, RMG_SAY_REFRESHED_BY_ACCESSES);
        rmg_next_each_of_these(w);
        if (all)
            rmg_step_to_take(w, RMG_SAY_SAY_WHO_REFRESHES);
        rmg_step_to_take(w, RMG_SAY_MEASURE_SUPPLY_OF_THESE);
        rmg_next_settle(w, RMG_SAY_PROBE_REFRESH_OF_THESE);
        return;
    }
    rmg_next_rival(w, RMG_CAUSE_OTHER_DEVICE, RMG_SAY_OTHER_ANSWERS);
    rmg_next_rival(w, RMG_CAUSE_NOT_RAM, RMG_SAY_NO_RAM_THERE);
    if (w->same->stretch) {
        add_only_chip(w);
        rmg_next_each_of_these(w);
        rmg_add_settling_step(w, rmg_say_of_words(w, RMG_SAY_TAKE_OUT_OTHERS));
        rmg_step_to_take(w, RMG_SAY_REGION_OF_ITS_OWN);
        return;
    }
    rmg_next_rival(w, RMG_CAUSE_LINE_PART, RMG_SAY_ADDRESS_TO_THESE);
    rmg_next_rival(w, RMG_CAUSE_SUPPLY_BANK, RMG_SAY_SUPPLY_TO_THESE);
    rmg_next_each_of_these(w);
    rmg_step_to_take(w, RMG_SAY_MEASURE_SUPPLY_OF_THESE);
    rmg_next_settle(w, RMG_SAY_PROBE_ADDRESS_OF_THESE);
}
