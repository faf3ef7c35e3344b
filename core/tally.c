/* Counting failures in fixed memory and bounded time. Knows nothing of chips. */
#include "rimeglass/tally.h"

#include <string.h>

static void count_up(rmg_count *count)
{
    if (*count != RMG_COUNT_MAX)
        ++*count;
}

static void count_add(rmg_count *count, rmg_count more)
{
    const rmg_count left = (rmg_count)(RMG_COUNT_MAX - *count);

    *count = more > left ? RMG_COUNT_MAX : (rmg_count)(*count + more);
}

void rmg_tally_clear(rmg_tally *tally, const rmg_where *banks, uint8_t bank_count)
{
    memset(tally, 0, sizeof *tally);
    tally->banks = banks;
    tally->bank_count = bank_count < RMG_TALLY_BANKS ? bank_count : RMG_TALLY_BANKS;
    tally->address_and = (rmg_addr) ~(rmg_addr)0;
}

static void count_bits(rmg_bit_tally *bit, const rmg_failure *failure)
{
    rmg_word wrong = (rmg_word)(failure->expected ^ failure->actual);
    rmg_word actual = failure->actual;

    for (; wrong; wrong >>= 1, actual >>= 1, bit++)
        if (wrong & 1u)
            count_up((actual & 1u) ? &bit->high : &bit->low);
}

#if RMG_TALLY_LINES
static void count_lines(rmg_line_tally *line, const rmg_failure *failure)
{
    rmg_addr address = failure->address;

    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++, line++, address >>= 1) {
        const uint8_t level = (uint8_t)(address & 1u);
        count_up(failure->down ? &line->down[level] : &line->up[level]);
    }
}
#endif

void rmg_tally_add(rmg_tally *tally, const rmg_failure *failure)
{
    const rmg_where *bank = tally->banks;

    count_up(&tally->failing);
    count_up(&tally->failing_pass);
    tally->address_and &= failure->address;
    tally->address_or |= failure->address;
    for (uint8_t b = 0; b < tally->bank_count; b++, bank++)
        if (rmg_where_holds(bank, failure->address)) {
            count_bits(tally->bits[b], failure);
            break;
        }
#if RMG_TALLY_LINES
    count_lines(tally->lines, failure);
#endif
    if (tally->first_count < RMG_TALLY_FIRST)
        tally->first[tally->first_count++] = *failure;
}

void rmg_tally_pass_end(rmg_tally *tally)
{
    if (tally->passes < UINT16_MAX)
        tally->passes++;
    if (tally->failing_pass && tally->passes_failing < UINT16_MAX)
        tally->passes_failing++;
    tally->failing_pass = 0;
}

void rmg_tally_merge(rmg_tally *tally, const rmg_tally *part)
{
    count_add(&tally->failing, part->failing);
    count_add(&tally->failing_pass, part->failing_pass);
    tally->address_and &= part->address_and;
    tally->address_or |= part->address_or;
    for (uint8_t b = 0; b < tally->bank_count; b++)
        for (uint8_t i = 0; i < RMG_WORD_BITS; i++) {
            count_add(&tally->bits[b][i].high, part->bits[b][i].high);
            count_add(&tally->bits[b][i].low, part->bits[b][i].low);
        }
#if RMG_TALLY_LINES
    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++)
        for (uint8_t level = 0; level < 2; level++) {
            count_add(&tally->lines[k].up[level], part->lines[k].up[level]);
            count_add(&tally->lines[k].down[level], part->lines[k].down[level]);
        }
#endif
    for (uint8_t i = 0; i < part->first_count && tally->first_count < RMG_TALLY_FIRST; i++)
        tally->first[tally->first_count++] = part->first[i];
}
