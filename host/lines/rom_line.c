/* Lines of the board's own test ROM. */
#include <string.h>

#include "listen.h"

static void add(rmg_listener *l, rmg_understood *u, const rmg_report *report)
{
    l->reports[0] = *report;
    u->report_count = 1;
}

/* A failure: in the steps of address lines the word is not the one that its address names. */
static void failed(rmg_listener *l, const rmg_testrom_line *line, rmg_understood *u)
{
    const rmg_testrom_plan *plan = &l->run->heard->told->plan;
    const bool lines = line->kind == RMG_TESTROM_LINES || line->kind == RMG_TESTROM_ACROSS;
    const rmg_addr address = line->at ? line->address : plan->banks[line->bank].range.first;

    u->is = RMG_LINE_FAILURE;
    add(l, u,
        &(rmg_report){.at = line->at && !lines,
                      .address = address,
                      .bank = rmg_dead_bank(l->run->board, address),
                      .socket = RMG_NO_SOCKET,
                      .bits = line->wrote ^ line->read_as,
                      .both = true,
                      .wrote = line->wrote,
                      .read = line->read_as,
                      .count = 1});
}

/* A ROM that does not hold what it should: of one chip that, of several their bank. */
static rmg_report report_of_rom(const rmg_listener *l, uint8_t rom)
{
    const rmg_board *board = l->run->board;
    const rmg_range *range = &l->run->heard->told->plan.roms[rom].range;
    rmg_report report = {.bank = rmg_dead_bank(board, range->first),
                         .socket = RMG_NO_SOCKET,
                         .count = 1,
                         .of_rom = true};
    unsigned chips = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->where.last < range->first || rule->where.first > range->last)
            continue;
        chips += report.socket != rule->socket;
        report.socket = rule->socket;
    }
    if (chips == 1)
        report.bank = RMG_NO_BANK;
    else
        report.socket = RMG_NO_SOCKET;
    return report;
}

/* The end of a pass. Where nothing was told before it, its code was counted from blinks: it is the
 * first finding, and all that is known. */
static void ended(rmg_listener *l, const rmg_testrom_line *line, rmg_understood *u)
{
    const rmg_board *board = l->run->board;
    const rmg_testrom_plan *plan = &l->run->heard->told->plan;
    const unsigned bit = RMG_TESTROM_CODE_BIT(line->code);
    unsigned bank = RMG_TESTROM_CODE_BANK(line->code);
    rmg_report report = {.bank = RMG_NO_BANK, .socket = RMG_NO_SOCKET, .count = 1};

    u->is = RMG_LINE_PASS;
    for (unsigned i = 0; !line->code && i < plan->step_count; i++)
        if (plan->steps[i].kind == RMG_TESTROM_MARCH && l->run->tested_count < UINT8_MAX)
            rmg_run_hear_tested(l->run, plan->steps[i].range);
    if (!line->code || l->since_pass)
        return;
    if (line->code == RMG_TESTROM_CODE_SUM) {
        if (board->rom.socket_count)
            report.socket = board->rom.sockets[0];
        add(l, u, &report);
        return;
    }
    for (uint8_t rom = 0; rom < plan->rom_count; rom++)
        if (line->code == RMG_TESTROM_CODE_ROM(rom)) {
            report = report_of_rom(l, rom);
            add(l, u, &report);
        }
    if (bank && bank == rmg_testrom_code_shared(plan))
        bank = plan->home_bank + 1u;
    if (!bank || !bit || bank > plan->bank_count)
        return;
    report.bank = rmg_dead_bank(board, plan->banks[bank - 1].range.first);
    if (bit <= board->word_bits)
        report.bits = (rmg_word)1 << (bit - 1u);
    add(l, u, &report);
}

void rmg_listen_to_rom(rmg_listener *l, const char *text, rmg_understood *u)
{
    const rmg_testrom_plan *plan = &l->run->heard->told->plan;
    char *copy = g_strstrip(g_strdup(text));
    rmg_testrom_line line;

    if (!rmg_testrom_line_read(plan, copy, &line, &u->why) ||
        (l->foreign && line.says != RMG_TESTROM_SAYS_START)) {
        l->foreign |= strlen(copy) > 2 && copy[1] == 'S' && copy[2] == ' ';
        u->why = u->why ? u->why : "it comes from another test ROM";
        rmg_run_hear_rom_line(l->run, NULL);
        g_free(copy);
        return;
    }
    g_free(copy);
    switch (line.says) {
    case RMG_TESTROM_SAYS_START:
        l->foreign = false;
        u->is = RMG_LINE_START;
        break;
    case RMG_TESTROM_SAYS_SUM: /* of the chip that the ROM is in */
        u->is = RMG_LINE_STATUS;
        add(l, u,
            &(rmg_report){.bank = RMG_NO_BANK,
                          .socket = l->run->board->rom.socket_count ? l->run->board->rom.sockets[0]
                                                                    : RMG_NO_SOCKET,
                          .count = 1});
        break;
    case RMG_TESTROM_SAYS_FAILED:
        failed(l, &line, u);
        break;
    case RMG_TESTROM_SAYS_PAGE: {
        const rmg_report report = report_of_rom(l, line.bank);

        u->is = RMG_LINE_STATUS;
        add(l, u, &report);
        break;
    }
    case RMG_TESTROM_SAYS_CONTENTS:
        u->is = RMG_LINE_IGNORED;
        break;
    case RMG_TESTROM_SAYS_MORE:
        l->run->heard->at_least |= line.kind != RMG_TESTROM_ROM;
        /* fall through */
    case RMG_TESTROM_SAYS_DONE:
        u->is = line.kind == RMG_TESTROM_ROM ? RMG_LINE_IGNORED : RMG_LINE_TESTED;
        if (line.kind == RMG_TESTROM_ROM)
            break;
        l->tested = plan->banks[line.bank].range;
        for (unsigned i = 0; i < plan->step_count; i++)
            if (plan->steps[i].kind == line.kind && plan->steps[i].bank == line.bank)
                l->tested = plan->steps[i].range;
        break;
    case RMG_TESTROM_SAYS_SKIPPED:
        u->is = RMG_LINE_IGNORED;
        break;
    case RMG_TESTROM_SAYS_END:
        ended(l, &line, u);
        break;
    }
    rmg_run_hear_rom_line(l->run, &line);
}
