/* Failures of neighbouring words added together: bit counts by carrying sums of whole words, line
 * counts by counting ones. Small builds leave this file out. */
#include "rimeglass/tally.h"

#if RMG_MARCH_LOOPS

#define PLANES 7u /* counts up to 64 */
#define FEW    4u /* failing words of a run: so many are added sooner one by one */

static uint8_t ones(uint64_t bits)
{
    bits -= bits >> 1 & UINT64_C(0x5555555555555555);
    bits = (bits & UINT64_C(0x3333333333333333)) + (bits >> 2 & UINT64_C(0x3333333333333333));
    bits = (bits + (bits >> 4)) & UINT64_C(0x0F0F0F0F0F0F0F0F);
    bits += bits >> 8;
    bits += bits >> 16;
    bits += bits >> 32;
    return (uint8_t)(bits & 0x7Fu);
}

static void add(rmg_count *count, rmg_count more)
{
    const rmg_count left = (rmg_count)(RMG_COUNT_MAX - *count);

    *count = more > left ? RMG_COUNT_MAX : (rmg_count)(*count + more);
}

/* Bit i of the planes together counts the ones in bit i of all words added. */
static void add_word(rmg_word *planes, rmg_word word)
{
    for (uint8_t p = 0; word && p < PLANES; p++) {
        const rmg_word carry = planes[p] & word;

        planes[p] ^= word;
        word = carry;
    }
}

static void count_bits(rmg_bit_tally *bits, const rmg_word *planes, bool high)
{
    rmg_word any = 0;

    for (uint8_t p = 0; p < PLANES; p++)
        any |= planes[p];
    for (uint8_t i = 0; any; i++, any = (rmg_word)(any >> 1)) {
        rmg_count sum = 0;

        if (!(any & 1u))
            continue;
        for (uint8_t p = 0; p < PLANES; p++)
            sum = (rmg_count)(sum | (rmg_count)(planes[p] >> i & 1u) << p);
        add(high ? &bits[i].high : &bits[i].low, sum);
    }
}

/* The words of the block that lie in a bank. */
static void add_bank(rmg_bit_tally *bits, const rmg_mismatch_block *block, uint64_t words)
{
    rmg_word high[PLANES] = {0}, low[PLANES] = {0};

    for (uint8_t i = 0; words; i++, words >>= 1)
        if (words & 1u) {
            add_word(high, (rmg_word)(block->actual[i] & ~block->expected));
            add_word(low, (rmg_word)(block->expected & ~block->actual[i]));
        }
    count_bits(bits, high, true);
    count_bits(bits, low, false);
}

#if RMG_TALLY_LINES
static void add_lines(rmg_tally *tally, const rmg_mismatch_block *block, bool down)
{
    static const uint64_t within[6] = {UINT64_C(0xAAAAAAAAAAAAAAAA), UINT64_C(0xCCCCCCCCCCCCCCCC),
                                       UINT64_C(0xF0F0F0F0F0F0F0F0), UINT64_C(0xFF00FF00FF00FF00),
                                       UINT64_C(0xFFFF0000FFFF0000), UINT64_C(0xFFFFFFFF00000000)};
    const uint8_t all = ones(block->failing);

    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++) {
        rmg_count *counts = down ? tally->lines[k].down : tally->lines[k].up;
        const uint8_t at_1 = k < 6                    ? ones(block->failing & within[k])
                             : block->first >> k & 1u ? all
                                                      : 0;

        add(&counts[1], at_1);
        add(&counts[0], (rmg_count)(all - at_1));
    }
}
#endif

static void add_first(rmg_tally *tally, const rmg_mismatch_block *block, const rmg_failure *like)
{
    for (uint8_t i = 0; tally->first_count < RMG_TALLY_FIRST && i < 64; i++)
        if (block->failing >> i & 1u) {
            rmg_failure *f = &tally->first[tally->first_count++];

            *f = *like;
            f->address = (rmg_addr)(block->first + i);
            f->expected = block->expected;
            f->actual = block->actual[i];
        }
}

void rmg_tally_add_block(rmg_tally *tally, const rmg_mismatch_block *block, const rmg_failure *like)
{
    const uint8_t all = ones(block->failing);
    uint64_t left = block->failing;

    add(&tally->failing, all);
    add(&tally->failing_pass, all);
    for (uint8_t i = 0; i < 64; i++)
        if (block->failing >> i & 1u) {
            tally->address_and &= (rmg_addr)(block->first + i);
            tally->address_or |= (rmg_addr)(block->first + i);
        }
    for (uint8_t b = 0; b < tally->bank_count && left; b++) {
        uint64_t here = 0;

        for (uint8_t i = 0; i < 64; i++)
            if ((left >> i & 1u) && rmg_where_holds(&tally->banks[b], (rmg_addr)(block->first + i)))
                here |= (uint64_t)1 << i;
        if (here)
            add_bank(tally->bits[b], block, here);
        left &= ~here;
    }
#if RMG_TALLY_LINES
    add_lines(tally, block, like->down);
#endif
    add_first(tally, block, like);
}

/* Addresses below `end` whose bits of `mask` are as in `match`. */
static uint64_t matching_below(uint64_t end, uint64_t mask, uint64_t match)
{
    uint64_t count = 0;

    for (uint8_t k = 64; k-- > 0;) {
        const uint64_t bit = (uint64_t)1 << k;

        if (!(end & bit)) {
            if (mask & match & bit)
                return count;
            continue;
        }
        if (!(mask & match & bit)) /* with a 0 here all that is below is free */
            count += (uint64_t)1 << (k - ones(mask & (bit - 1u)));
        if (mask & ~match & bit)
            return count;
    }
    return count;
}

/* Addresses below `end` that have a one at this bit. */
static uint64_t ones_below(uint64_t end, uint64_t bit)
{
    const uint64_t within = end & (bit | (bit - 1u));

    return ((end - within) >> 1) + (within > bit ? within - bit : 0);
}

/* Addresses from first to last whose bits of `mask` are as in `match`. */
static rmg_count matching(uint64_t first, uint64_t last, uint64_t mask, uint64_t match)
{
    if (!mask)
        return (rmg_count)(last - first + 1u);
    if (mask == match && !(mask & (mask - 1u)))
        return (rmg_count)(ones_below(last, mask) + ((last & mask) != 0) - ones_below(first, mask));
    return (rmg_count)(matching_below(last, mask, match) + ((last & mask) == match) -
                       matching_below(first, mask, match));
}

/* The words of the run that failed and whose other address bits are as in `match`. */
static rmg_count failed_matching(const rmg_mismatch_run *run, rmg_addr first, rmg_addr last,
                                 rmg_addr mask, rmg_addr match)
{
    rmg_count count = 0;

    if (run->which == RMG_EVERY_WORD)
        return matching(first, last, mask, match);
    if (!(first & 15u) && (last & 15u) == 15u) { /* whole sixteens, which are alike */
        const rmg_count sixteens = matching(first >> 4, last >> 4, mask >> 4, match >> 4);

        for (uint8_t i = 0; i < 16; i++)
            if (((unsigned)run->which >> i & 1u) && !((match ^ i) & mask & 15u))
                count = (rmg_count)(count + sixteens);
        return count;
    }
    for (uint8_t i = 0; i < 16; i++)
        if (((unsigned)run->which >> i & 1u) && !((match ^ i) & mask & 15u))
            count = (rmg_count)(count + matching(first, last, mask | 15u,
                                                 (match | (rmg_addr)15u) ^ (rmg_addr)(i ^ 15u)));
    return count;
}

static rmg_count words_in_bank(const rmg_where *bank, const rmg_mismatch_run *run)
{
    const rmg_addr end = (rmg_addr)(run->first + (run->words - 1u));
    const rmg_addr first = bank->first > run->first ? bank->first : run->first;
    const rmg_addr last = bank->last < end ? bank->last : end;

    return first > last ? 0 : failed_matching(run, first, last, bank->mask, bank->match);
}

/* May an address be in both? */
static bool overlap(const rmg_where *a, const rmg_where *b)
{
    return a->first <= b->last && b->first <= a->last &&
           !(a->mask & b->mask & (a->match ^ b->match));
}

static bool banks_overlap(const rmg_tally *tally)
{
    for (uint8_t b = 1; b < tally->bank_count; b++)
        for (uint8_t a = 0; a < b; a++)
            if (overlap(&tally->banks[a], &tally->banks[b]))
                return true;
    return false;
}

static void one_by_one(rmg_tally *tally, const rmg_mismatch_run *run, const rmg_failure *like)
{
    rmg_failure failure = *like;

    for (rmg_addr i = 0; i < run->words; i++) {
        failure.address = (rmg_addr)(run->first + (like->down ? run->words - 1u - i : i));
        if (rmg_in_run(run, failure.address))
            rmg_tally_add(tally, &failure);
    }
}

static void add_wrong(rmg_bit_tally *bits, const rmg_mismatch_run *run, rmg_count count)
{
    rmg_word wrong = (rmg_word)(run->expected ^ run->actual);

    for (uint8_t i = 0; wrong; i++, wrong = (rmg_word)(wrong >> 1))
        if (wrong & 1u)
            add(run->actual >> i & 1u ? &bits[i].high : &bits[i].low, count);
}

/* The run's words among the sixteen in which it lies, as ones. */
static uint16_t within_page(const rmg_mismatch_run *run)
{
    const unsigned first = (unsigned)run->first & 15u, words = (unsigned)run->words;

    return (uint16_t)(run->which & (words < 16u ? ((1u << words) - 1u) << first : 0xFFFFu));
}

/* Failing words at whose addresses line k and all above it are as at one of them. */
static void add_still_lines(rmg_tally *tally, uint8_t k, rmg_addr address, rmg_count words,
                            bool down)
{
    const rmg_addr below = (rmg_addr)(((rmg_addr)1 << k) - 1u);

    tally->address_or = (rmg_addr)(tally->address_or | (address & (rmg_addr)~below));
    tally->address_and = (rmg_addr)(tally->address_and & (address | below));
#if RMG_TALLY_LINES
    for (; k < RMG_ADDR_BITS; k++) {
        rmg_line_tally *line = &tally->lines[k];
        const unsigned level = (unsigned)(address >> k & 1u);

        add(down ? &line->down[level] : &line->up[level], words);
    }
#else
    (void)words;
    (void)down;
#endif
}

/* Failing words, of which so many have a one in line k. */
static void add_line(rmg_tally *tally, uint8_t k, rmg_count all, rmg_count at_1, bool down)
{
    const rmg_addr line = (rmg_addr)((rmg_addr)1 << k);

    if (at_1)
        tally->address_or = (rmg_addr)(tally->address_or | line);
    if (at_1 != all)
        tally->address_and = (rmg_addr)(tally->address_and & (rmg_addr)~line);
#if RMG_TALLY_LINES
    add(down ? &tally->lines[k].down[1] : &tally->lines[k].up[1], at_1);
    add(down ? &tally->lines[k].down[0] : &tally->lines[k].up[0], (rmg_count)(all - at_1));
#else
    (void)down;
#endif
}

/* A run that lies within sixteen words of a multiple of sixteen; ones in `which` at those of it. */
static void add_page(rmg_tally *tally, const rmg_mismatch_run *run, uint16_t which, bool down)
{
    static const uint16_t at_one[4] = {0xAAAA, 0xCCCC, 0xF0F0, 0xFF00};
    const rmg_addr page = run->first & (rmg_addr) ~(rmg_addr)15u;
    const uint8_t all = ones(which);

    add(&tally->failing, all);
    add(&tally->failing_pass, all);
    for (uint8_t b = 0; b < tally->bank_count; b++) {
        uint16_t here = 0;

        if (tally->banks[b].first > (page | 15u) || tally->banks[b].last < page)
            continue;
        for (uint8_t i = 0; i < 16; i++)
            if ((which >> i & 1u) && rmg_where_holds(&tally->banks[b], page | i))
                here = (uint16_t)(here | 1u << i);
        add_wrong(tally->bits[b], run, ones(here));
    }
    for (uint8_t k = 0; k < 4; k++)
        add_line(tally, k, all, ones(which & at_one[k]), down);
    if (all)
        add_still_lines(tally, 4, page, all, down);
}

static void add_first_of_run(rmg_tally *tally, const rmg_mismatch_run *run, const rmg_failure *like)
{
    for (rmg_addr i = 0; tally->first_count < RMG_TALLY_FIRST && i < run->words; i++) {
        const rmg_addr address = (rmg_addr)(run->first + (like->down ? run->words - 1u - i : i));
        rmg_failure *f = &tally->first[tally->first_count];

        if (!rmg_in_run(run, address))
            continue;
        *f = *like;
        f->address = address;
        tally->first_count++;
    }
}

void rmg_tally_add_run(rmg_tally *tally, const rmg_mismatch_run *run, const rmg_failure *like)
{
    const rmg_addr last = (rmg_addr)(run->first + (run->words - 1u));
    const bool in_page = !((run->first ^ last) >> 4);
    rmg_count all;
    uint8_t k;

    if (banks_overlap(tally) || (in_page && ones(within_page(run)) < FEW)) {
        one_by_one(tally, run, like);
        return;
    }
    if (in_page) {
        add_page(tally, run, within_page(run), like->down);
        add_first_of_run(tally, run, like);
        return;
    }
    all = failed_matching(run, run->first, last, 0, 0);
    add(&tally->failing, all);
    add(&tally->failing_pass, all);
    for (uint8_t b = 0; b < tally->bank_count; b++) {
        const rmg_count here = words_in_bank(&tally->banks[b], run);

        if (here)
            add_wrong(tally->bits[b], run, here);
    }
    for (k = 0; k < RMG_ADDR_BITS && (run->first ^ last) >> k;
         k++) { /* the line, or one above it */
        const rmg_addr line = (rmg_addr)((rmg_addr)1 << k);

        add_line(tally, k, all, failed_matching(run, run->first, last, line, line), like->down);
    }
    if (all && k < RMG_ADDR_BITS)
        add_still_lines(tally, k, run->first, all, like->down);
    add_first_of_run(tally, run, like);
}

#endif
