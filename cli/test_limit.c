/* Which part of a board a test is limited to, as the command line says it. */
#include <string.h>

#include "test.h"

/* The range that holds everything of a bank or of a socket's banks. */
static bool limit_to(const rmg_board *board, uint8_t bank, uint16_t socket, rmg_plan *plan)
{
    bool any = false;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if ((bank != RMG_NO_BANK && rule->bank != bank) ||
            (socket != RMG_NO_SOCKET && rule->socket != socket))
            continue;
        plan->limit.first = any ? MIN(plan->limit.first, rule->where.first) : rule->where.first;
        plan->limit.last = any ? MAX(plan->limit.last, rule->where.last) : rule->where.last;
        any = true;
    }
    return any;
}

static bool find_region(const char *name, const rmg_board *board, rmg_plan *plan)
{
    for (size_t i = 0; i < board->region_count; i++)
        if (g_ascii_strcasecmp(board->regions[i].name, name) == 0) {
            plan->named = &board->regions[i];
            plan->limit = plan->named->range;
            return true;
        }
    return false;
}

static void unknown(const rmg_board *board, const char *option, const char *text, unsigned of)
{
    char *hint = rmg_board_name_hint(board, text, of);

    wrong_call("test", "--%s %s: the board has no such %s%s", option, text, option,
               *hint ? hint : "; rimeglass board show lists them");
    rmg_text_free(hint);
}

bool test_limit(const test_call *call, const rmg_board *board, rmg_plan *plan)
{
    const int ways = (call->range != NULL) + (call->bank != NULL) + (call->region != NULL) +
                     (call->socket != NULL) + (call->page != NOT_GIVEN);
    const rmg_pages *pages = &board->pages;

    plan->limited = ways > 0;
    if (ways > 1)
        wrong_call("test", "give one of --range, --bank, --region, --socket and --page");
    else if (call->range && !rmg_board_range_parse(board, call->range, &plan->limit))
        wrong_call("test", "--range %s: expected a range like 0x8000-0xBFFF%s", call->range,
                   rmg_number_hint(call->range));
    else if (call->bank &&
             (rmg_board_bank(board, call->bank) == RMG_NO_BANK ||
              !limit_to(board, rmg_board_bank(board, call->bank), RMG_NO_SOCKET, plan)))
        unknown(board, "bank", call->bank, RMG_NAMES_BANKS);
    else if (call->region && !find_region(call->region, board, plan))
        unknown(board, "region", call->region, RMG_NAMES_REGIONS);
    else if (call->region && plan->named->kind == RMG_REGION_ROM)
        wrong_call("test",
                   "--region %s: a ROM is tested by reading it: rimeglass verify BOARD \"%s\"",
                   call->region, call->region);
    else if (call->socket && rmg_board_socket(board, call->socket) == RMG_NO_SOCKET)
        unknown(board, "socket", call->socket, RMG_NAMES_SOCKETS);
    else if (call->socket &&
             !limit_to(board, RMG_NO_BANK, rmg_board_socket(board, call->socket), plan))
        wrong_call("test", "--socket %s: it holds no memory that the processor sees", call->socket);
    else if (call->page != NOT_GIVEN && !pages->count)
        wrong_call("test", "--page %d: the board has no pages", call->page);
    else if (call->page != NOT_GIVEN && (call->page < 0 || (rmg_word)call->page >= pages->count))
        wrong_call("test", "--page %d: expected a number from 0 to %u", call->page,
                   (unsigned)pages->count - 1u);
    else {
        if (call->page != NOT_GIVEN) {
            plan->limit.first = ((rmg_addr)call->page << board->address_bits) | pages->window.first;
            plan->limit.last = ((rmg_addr)call->page << board->address_bits) | pages->window.last;
        }
        return true;
    }
    return false;
}
