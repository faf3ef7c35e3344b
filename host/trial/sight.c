/* What was seen of a board without a run, as evidence for one cause or another. */
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"

#define EXPECTED   0.9 /* that a board shows what a cause makes likely */
#define UNEXPECTED 0.1

rmg_sight rmg_sight_parse(const char *text)
{
    gchar *low = g_ascii_strdown(text, -1);
    rmg_sight sight = {RMG_SIGHT_OTHER, 0};

    g_strstrip(low);
    if (strcmp(low, "starts") == 0)
        sight.kind = RMG_SIGHT_STARTS;
    else if (strcmp(low, "does not start") == 0)
        sight.kind = RMG_SIGHT_DOES_NOT_START;
    else if (g_str_has_prefix(low, "reports ") &&
             rmg_number_parse(low + strlen("reports "), &sight.number))
        sight.kind = RMG_SIGHT_REPORTS;
    g_free(low);
    return sight;
}

/* Banks in which something failed that this cause explains. */
static uint64_t banks_of(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h)
{
    const rmg_board *board = run->board;
    bool *sockets = g_new0(bool, board->socket_count + 1u);
    uint64_t banks = 0;

    if (h->suspect < suspects->count)
        rmg_finding_sockets(run, &suspects->list[h->suspect].finding, sockets);
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (sockets[board->placement.rules[r].socket] &&
            rmg_failing_at(run, board->placement.rules[r].socket))
            banks |= (uint64_t)1 << board->placement.rules[r].bank;
    g_free(sockets);
    return banks;
}

/* The bank without which nothing runs: of the first memory, or the lowest of RAM. */
static uint64_t first_bank(const rmg_board *board)
{
    const bool named = board->first_memory.first <= board->first_memory.last;
    rmg_addr lowest = (rmg_addr) ~(rmg_addr)0;
    uint64_t bank = 0;

    for (size_t b = 0; b < board->bank_count; b++) {
        if (!(rmg_board_ram_banks(board) >> b & 1u))
            continue;
        if (named && rmg_where_holds(&board->bank_wheres[b], board->first_memory.first))
            return (uint64_t)1 << b;
        if (!named && board->bank_wheres[b].first < lowest) {
            lowest = board->bank_wheres[b].first;
            bank = (uint64_t)1 << b;
        }
    }
    return bank;
}

/* Banks that a shown number leaves out, by the board file and the banks' sizes. */
static uint64_t missing_banks(const rmg_board *board, uint64_t number)
{
    uint64_t total = 0, missing = 0, banks = 0, ram = rmg_board_ram_banks(board);

    for (size_t i = 0; i < board->report_count; i++)
        if (board->reports[i].number == number)
            return ram & ~board->reports[i].present;
    for (size_t b = 0; b < board->bank_count; b++)
        if (ram >> b & 1u)
            total += (uint64_t)(board->bank_wheres[b].last - board->bank_wheres[b].first) + 1u;
    missing = board->report_count ? board->reports[0].number - number : total - number;
    for (size_t b = 0; b < board->bank_count; b++)
        if (ram >> b & 1u &&
            (uint64_t)(board->bank_wheres[b].last - board->bank_wheres[b].first) + 1u == missing)
            banks |= (uint64_t)1 << b;
    return banks;
}

/* Does what most likely is another fault at once make the board show that? Then it says nothing of
 * this one. */
static bool others_show(const rmg_hypothesis *list, size_t count, unsigned fault,
                        const double *fits)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].fault != fault && list[i].after > 0.5 && list[i].gone < 0.5 &&
            fits[i] == EXPECTED)
            return true;
    return false;
}

static void weigh_by(rmg_hypothesis *list, size_t count, const double *fits)
{
    const unsigned faults = rmg_faults_at_once(list, count);
    bool *shown = g_new0(bool, faults + 1u);

    for (unsigned f = 0; f < faults; f++)
        shown[f] = others_show(list, count, f, fits);
    for (size_t i = 0; i < count; i++)
        list[i].after *= shown[list[i].fault] ? 1 : fits[i];
    rmg_hypotheses_settle(list, count);
    g_free(shown);
}

void rmg_sight_weigh(const rmg_run *base, const rmg_suspects *suspects, const rmg_sight *sight,
                     rmg_hypothesis *list, size_t count)
{
    const uint64_t first = first_bank(base->board);
    const uint64_t missing =
        sight->kind == RMG_SIGHT_REPORTS ? missing_banks(base->board, sight->number) : 0;
    double *fits;

    if (sight->kind == RMG_SIGHT_OTHER)
        return;
    fits = g_new(double, count + 1u);
    for (size_t i = 0; i < count; i++) {
        const uint64_t banks = banks_of(base, suspects, &list[i]);

        fits[i] = 0.5;
        if (list[i].rival != SIZE_MAX && sight->kind == RMG_SIGHT_REPORTS && missing)
            fits[i] = banks & missing ? EXPECTED : UNEXPECTED;
        else if (list[i].rival != SIZE_MAX && sight->kind != RMG_SIGHT_REPORTS)
            fits[i] = ((banks & first) != 0) == (sight->kind == RMG_SIGHT_DOES_NOT_START)
                          ? EXPECTED
                          : UNEXPECTED;
    }
    weigh_by(list, count, fits);
    g_free(fits);
}

/* Of several faults at once: does a socket say something of that one? */
static bool tells_of(const rmg_hypothesis *list, size_t count, unsigned fault, uint16_t socket)
{
    return rmg_faults_at_once(list, count) < 2 || rmg_fault_at_socket(list, count, fault, socket);
}

void rmg_elsewhere_weigh(uint16_t socket, bool failed, rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        const bool its = list[i].belongs == RMG_BELONGS_CHIP && list[i].socket == socket;

        if (!tells_of(list, count, list[i].fault, socket))
            continue;
        if (list[i].rival != SIZE_MAX)
            list[i].after *= its == failed ? EXPECTED : UNEXPECTED;
        else
            list[i].after *= 0.5;
    }
    rmg_hypotheses_settle(list, count);
}

/* Is it there at times only, or only since the board grew warm? Then a meter, with the power off,
 * seldom sees it. */
static bool seldom_there(const rmg_run *base)
{
    return base->pass_count > 1 && (!rmg_run_repeats(base) || rmg_run_began(base));
}

/* By what the cause belongs to: whole, open, short; bad at the leg, at the pad. A dead input or
 * output measures as nothing; one that is held at a level may be a short inside the chip. */
double rmg_measured_fits(const rmg_run *base, const rmg_suspects *suspects, const rmg_hypothesis *h,
                         uint16_t socket, rmg_measured measured)
{
    static const double chip[] = {0.945, 0.005, 0.05, 0.97, 0.03},
                        held[] = {0.745, 0.005, 0.25, 0.97, 0.03},
                        open[] = {0.06, 0.92, 0.02, 0.03, 0.97},
                        seldom[] = {0.68, 0.3, 0.02, 0.1, 0.9},
                        shorted[] = {0.03, 0.02, 0.95, 0.03, 0.97},
                        seldom_short[] = {0.68, 0.02, 0.3, 0.1, 0.9},
                        others[] = {0.9, 0.05, 0.05, 0.1, 0.9},
                        line[] = {0.5, 0.35, 0.15, 0.05, 0.95},
                        part[] = {0.85, 0.1, 0.05, 0.05, 0.95}; /* the track after it is whole */
    const rmg_replayed *r = rmg_trial_replay(suspects, h);
    const rmg_cause cause = h->rival != SIZE_MAX && h->suspect < suspects->count
                                ? suspects->list[h->suspect].rivals[h->rival].cause
                                : RMG_CAUSES;

    if (h->rival == SIZE_MAX)
        return measured <= RMG_MEASURED_SHORT ? 1.0 / 3 : 0.5;
    if (cause == RMG_CAUSE_LINE_PART)
        return part[measured];
    if (h->socket != socket)
        return h->belongs == RMG_BELONGS_LINE ? line[measured] : others[measured];
    if (cause == RMG_CAUSE_SHORT_PIN)
        return seldom_there(base) ? seldom_short[measured] : shorted[measured];
    if (h->belongs == RMG_BELONGS_CONTACT || h->belongs == RMG_BELONGS_PLACE)
        return seldom_there(base) ? seldom[measured] : open[measured];
    if (h->belongs == RMG_BELONGS_LINE)
        return line[measured];
    return r && r->fault_count && !rmg_stage_undriven(r->faults, r->fault_count) &&
                   r->faults[0].kind == RMG_FAULT_OUTPUT
               ? held[measured]
               : chip[measured];
}

void rmg_measured_weigh(const rmg_run *base, const rmg_suspects *suspects, uint16_t socket,
                        rmg_measured measured, rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (tells_of(list, count, list[i].fault, socket))
            list[i].after *= rmg_measured_fits(base, suspects, &list[i], socket, measured);
    rmg_hypotheses_settle(list, count);
}
