/* One row accessed many times, its neighbours read: cells that leak into the next row. Rows are the
 * row address at the pins; which rows lie side by side inside a chip is its maker's secret, so the
 * ones of neighbouring addresses are read. */
#include <glib.h>

#include "runner.h"

typedef struct row_test {
    runner *c;
    const rmg_target *to;
    const rmg_rule *rule; /* of one chip of the bank, for all of them */
    uint8_t row_lines;
    uint8_t step;
    uint16_t pass;
    rmg_word value;
    uint64_t judged; /* words that were read and held against `value` */
} row_test;

/* The bus address of (row, column); false: it is not tested. */
static bool address_of(const row_test *t, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    const rmg_run *run = t->c->run;
    const rmg_addr cell = column << t->row_lines | row;
    rmg_addr a = t->rule->where.first;

    for (uint8_t i = 0; i < t->rule->address_lines; i++) {
        const uint8_t bit = t->rule->address_bits[i];

        if (bit >= RMG_ADDR_BITS)
            continue;
        a = (a & ~((rmg_addr)1 << bit)) | (cell >> i & 1u) << bit;
    }
    *address = a;
    if (!rmg_where_holds(&t->rule->where, a))
        return false;
    for (size_t i = 0; i < run->tested_count; i++)
        if (a >= run->tested[i].first && a <= run->tested[i].last)
            return true;
    return false;
}

static rmg_addr columns(const row_test *t)
{
    return (rmg_addr)1 << (t->rule->address_lines - t->row_lines);
}

/* Writes the row, or reads it and notes what is wrong. */
static rmg_status whole_row(row_test *t, rmg_addr row, bool write)
{
    rmg_status status = RMG_OK;
    rmg_addr address;

    for (rmg_addr column = 0; column < columns(t) && status == RMG_OK; column++) {
        rmg_failure f = {.expected = t->value, .pass = t->pass, .step = t->step};

        if (!address_of(t, row, column, &address))
            continue;
        if (write) {
            status = t->to->bus->write(t->to->context, address, t->value);
            continue;
        }
        status = t->to->bus->read(t->to->context, address, &f.actual);
        f.actual &= t->to->mask;
        f.address = address;
        f.element = t->value ? 1 : 0;
        t->judged += status == RMG_OK;
        if (status == RMG_OK && f.actual != f.expected) {
            rmg_tally_add(&t->c->run->tally, &f);
            rmg_run_note(t->c, &f);
        }
    }
    return status;
}

/* Accesses the first and the last column that is tested of the row, in turn. */
static rmg_status access_row(const row_test *t, rmg_addr row, uint32_t accesses)
{
    rmg_addr address[2] = {0, 0}, low = 0, high = columns(t);
    rmg_status status = RMG_OK;
    rmg_word value;

    while (low < columns(t) && !address_of(t, row, low, &address[0]))
        low++;
    if (low == columns(t))
        return RMG_OK;
    while (!address_of(t, row, --high, &address[1]))
        ;
    for (uint32_t i = 0; i < accesses && status == RMG_OK; i++) {
        status = t->to->bus->read(t->to->context, address[i & 1u], &value);
        if (status == RMG_OK && !(i & 0xFFFu) && !rmg_run_report(t->c))
            status = RMG_ERR_CANCELLED;
    }
    return status;
}

/* Every judged read is a trial of each bit, as those of marches are. */
static void count_trials(const row_test *t)
{
    const uint8_t bits = t->c->run->board->word_bits;

    for (uint8_t i = 0; i < bits; i++)
        t->c->run->own->bit_reads[t->rule->bank * bits + i].expected[t->value != 0] += t->judged;
}

static rmg_status test_bank(row_test *t, uint32_t accesses)
{
    const rmg_addr rows = (rmg_addr)1 << t->row_lines;
    rmg_status status = RMG_OK;

    for (rmg_addr row = 0; row < rows && status == RMG_OK; row++)
        status = whole_row(t, row, true);
    for (rmg_addr row = 0; row < rows && status == RMG_OK; row++) {
        status = access_row(t, row, accesses);
        if (row && status == RMG_OK)
            status = whole_row(t, row - 1u, false);
        if (row + 1u < rows && status == RMG_OK)
            status = whole_row(t, row + 1u, false);
        if (status == RMG_OK && row) /* what was disturbed is not to be found again and again */
            status = whole_row(t, row - 1u, true);
        if (status == RMG_OK && row + 1u < rows)
            status = whole_row(t, row + 1u, true);
    }
    if (status == RMG_OK)
        count_trials(t);
    return status;
}

rmg_status rmg_run_rows(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass)
{
    const rmg_board *board = c->run->board;
    rmg_status status = RMG_OK;

    for (uint8_t b = 0; b < board->bank_count; b++)
        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *rule = &board->placement.rules[r];
            const rmg_part *part = board->sockets[rule->socket].part;
            row_test t = {.c = c,
                          .to = to,
                          .rule = rule,
                          .row_lines = part ? part->row_lines : 0,
                          .step = c->step_number,
                          .pass = (uint16_t)MIN(pass, UINT16_MAX)};

            if (rule->bank != b || !t.row_lines)
                continue;
            status = test_bank(&t, step->accesses);
            t.value = to->mask;
            t.judged = 0;
            if (status == RMG_OK)
                status = test_bank(&t, step->accesses);
            if (status != RMG_OK)
                return status;
            break; /* one chip's rows are those of the bank */
        }
    return status;
}
