/* What was seen of a board without a run, as evidence for one cause or another. */
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

void rmg_sight_weigh(const rmg_run *base, const rmg_suspects *suspects, const rmg_sight *sight,
                     rmg_hypothesis *list, size_t count)
{
    const uint64_t first = first_bank(base->board);
    const uint64_t missing =
        sight->kind == RMG_SIGHT_REPORTS ? missing_banks(base->board, sight->number) : 0;
    double all = 0;

    if (sight->kind == RMG_SIGHT_OTHER)
        return;
    for (size_t i = 0; i < count; i++) {
        const uint64_t banks = banks_of(base, suspects, &list[i]);
        double fits = 0.5;

        if (list[i].rival != SIZE_MAX && sight->kind == RMG_SIGHT_REPORTS && missing)
            fits = banks & missing ? EXPECTED : UNEXPECTED;
        else if (list[i].rival != SIZE_MAX && sight->kind != RMG_SIGHT_REPORTS)
            fits = ((banks & first) != 0) == (sight->kind == RMG_SIGHT_DOES_NOT_START) ? EXPECTED
                                                                                       : UNEXPECTED;
        list[i].after *= fits;
        all += list[i].after;
    }
    for (size_t i = 0; i < count && all > 0; i++)
        list[i].after /= all;
}
