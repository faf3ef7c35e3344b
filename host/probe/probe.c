/* Judging written and read values, bit by bit; and making them on a target. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "run/internal.h"
#include "internal.h"
#include "rimeglass/bus.h"

/* Levels that were read for a 0 and for a 1 written: bit 0 set for 0, bit 1 for 1. */
static rmg_bit_verdict judge(unsigned for_0, unsigned for_1, bool opposite_driven)
{
    const bool wrong_0 = for_0 & 2u, wrong_1 = for_1 & 1u;

    if (!wrong_0 && !wrong_1)
        return for_0 && for_1 ? RMG_BIT_SOUND : RMG_BIT_RIGHT;
    if (opposite_driven && for_0 == 2u && for_1 == 1u)
        return RMG_BIT_FOLLOWS_BUS;
    if (wrong_0 && !(for_0 & 1u) && !wrong_1)
        return for_1 ? RMG_BIT_STUCK_HIGH : RMG_BIT_WRONG_HIGH;
    if (wrong_1 && !(for_1 & 2u) && !wrong_0)
        return for_0 ? RMG_BIT_STUCK_LOW : RMG_BIT_WRONG_LOW;
    return RMG_BIT_NOT_STUCK;
}

static void judge_bit(const rmg_probe *probe, rmg_probe_bit *bit, bool opposite_driven)
{
    unsigned seen[2] = {0, 0};

    for (size_t i = 0; i < probe->pair_count; i++) {
        const rmg_pair *p = &probe->pairs[i];

        if (p->address == bit->address)
            seen[p->wrote >> bit->bit & 1u] |= p->read >> bit->bit & 1u ? 2u : 1u;
    }
    bit->verdict = judge(seen[0], seen[1], opposite_driven);
    bit->placed = rmg_place_find(&probe->board->placement, bit->address, bit->bit, &bit->place);
}

static void judge_all(rmg_probe *probe, bool opposite_driven)
{
    GArray *bits = g_array_new(FALSE, TRUE, sizeof(rmg_probe_bit));

    for (size_t i = 0; i < probe->pair_count; i++) {
        bool known = false;

        for (size_t j = 0; j < i; j++)
            known |= probe->pairs[j].address == probe->pairs[i].address;
        for (uint8_t b = 0; !known && b < probe->board->word_bits; b++) {
            rmg_probe_bit bit = {.address = probe->pairs[i].address, .bit = b};

            judge_bit(probe, &bit, opposite_driven);
            probe->wrong += rmg_bit_is_wrong(bit.verdict);
            g_array_append_val(bits, bit);
        }
    }
    probe->bit_count = bits->len;
    probe->bits = rmg_array_take(bits);
}

rmg_status rmg_probe_judge(rmg_probe *probe, const rmg_board *board, const rmg_pair *pairs,
                           size_t pair_count)
{
    const rmg_word mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);

    memset(probe, 0, sizeof *probe);
    probe->board = board;
    for (size_t i = 0; i < pair_count; i++)
        if ((pairs[i].wrote | pairs[i].read) & ~mask || pairs[i].address > board->last_address)
            return RMG_ERR_ARGUMENT;
    probe->pairs = g_memdup2(pairs, pair_count * sizeof *pairs);
    probe->pair_count = pair_count;
    judge_all(probe, false);
    return RMG_OK;
}

/* The default values: zeros, ones, alternating, each single bit. */
static GArray *standard_values(rmg_word mask)
{
    GArray *values = g_array_new(FALSE, TRUE, sizeof(rmg_word));
    const rmg_word fives = (rmg_word) ~(rmg_word)0 / 3u;
    const rmg_word some[] = {0, mask, fives & mask, (rmg_word)~fives & mask};

    g_array_append_vals(values, some, G_N_ELEMENTS(some));
    for (rmg_word bit = 1; bit & mask; bit <<= 1)
        g_array_append_val(values, bit);
    return values;
}

/* Writes, drives the complement elsewhere, reads; one pair a value. */
static rmg_status make_pairs(const rmg_target *target, rmg_addr at, rmg_addr other,
                             const rmg_word *values, size_t count, GArray *pairs)
{
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < count && status == RMG_OK; i++) {
        rmg_pair pair = {at, values[i] & target->mask, 0};

        status = target->bus->write(target->context, at, pair.wrote);
        if (status == RMG_OK)
            status = target->bus->write(target->context, other, ~pair.wrote & target->mask);
        if (status == RMG_OK)
            status = target->bus->read(target->context, at, &pair.read);
        pair.read &= target->mask;
        if (status == RMG_OK)
            g_array_append_val(pairs, pair);
    }
    return status;
}

/* The same on no more than these two words of a target, which then hold what they held before; what
 * could not be put back is added to the probe. */
static rmg_status make_kept_pairs(rmg_probe *probe, const rmg_target *target, rmg_addr at,
                                  rmg_addr other, const rmg_word *values, size_t count,
                                  GArray *pairs)
{
    const rmg_permit permits[] = {{{at, at}, RMG_MAY_READ | RMG_MAY_WRITE},
                                  {{other, other}, RMG_MAY_READ | RMG_MAY_WRITE}};
    rmg_guard guard;
    rmg_target guarded;
    rmg_keeper keep;
    rmg_status status, back;

    rmg_guard_begin(&guard, target, permits, G_N_ELEMENTS(permits), &guarded);
    status = rmg_keep_begin(&keep, &guarded);
    if (status == RMG_OK)
        status = make_pairs(&keep.target, at, other, values, count, pairs);
    back = rmg_keep_restore(&keep);
    probe->not_restored =
        g_renew(rmg_saved_word, probe->not_restored, probe->not_put_back_count + keep.count + 1u);
    for (size_t i = 0; i < keep.count; i++)
        probe->not_restored[probe->not_put_back_count++] = keep.saved[i];
    rmg_keep_end(&keep);
    return status == RMG_OK ? back : status;
}

static rmg_status not_ram(const rmg_board *board, rmg_addr address, rmg_error *error)
{
    const rmg_region *region = rmg_board_region_at(board, address);
    char text[40];

    rmg_board_address_text(board, address, text, sizeof text);
    if (!region)
        return rmg_fail(error, RMG_ERR_RANGE, text,
                        "%s: the board file does not describe this; expected an address in RAM",
                        text);
    return rmg_fail(error, RMG_ERR_RANGE, text,
                    "%s is in \"%s\" (%s: %s); expected an address in RAM", text, region->name,
                    rmg_region_kind_name(region->kind), rmg_region_kind_reason(region->kind));
}

rmg_status rmg_probe_target(rmg_probe *probe, const rmg_board *board, const rmg_target *target,
                            const rmg_addr *addresses, size_t address_count, const rmg_word *values,
                            size_t value_count, rmg_error *error)
{
    GArray *standard = standard_values(target->mask);
    GArray *pairs = g_array_new(FALSE, TRUE, sizeof(rmg_pair));
    rmg_status status = RMG_OK;
    paging paged;

    rmg_paging_begin(&paged, board, target);
    memset(probe, 0, sizeof *probe);
    probe->board = board;
    rmg_error_none(error);
    for (size_t i = 0; i < address_count && status == RMG_OK; i++) {
        const rmg_region *region = rmg_board_region_at(board, addresses[i]);

        if (!region || region->kind != RMG_REGION_RAM || region->range.first == region->range.last)
            status = not_ram(board, addresses[i], error);
    }
    for (size_t i = 0; i < address_count && status == RMG_OK; i++) {
        const rmg_range *r = &rmg_board_region_at(board, addresses[i])->range;
        const rmg_addr middle = r->first + (r->last - r->first) / 2u;

        status = make_kept_pairs(probe, &paged.target, addresses[i],
                                 addresses[i] > middle ? r->first : r->last,
                                 values ? values : (const rmg_word *)(const void *)standard->data,
                                 values ? value_count : standard->len, pairs);
    }
    probe->pair_count = pairs->len;
    probe->pairs = rmg_array_take(pairs);
    g_array_free(standard, TRUE);
    probe->status = status;
    judge_all(probe, true);
    return status;
}

void rmg_probe_end(rmg_probe *probe)
{
    g_free(probe->pairs);
    g_free(probe->bits);
    g_free(probe->not_restored);
    memset(probe, 0, sizeof *probe);
}
