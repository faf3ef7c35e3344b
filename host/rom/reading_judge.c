/* Whether readings can be trusted: what is not steady and where, what follows the bus, what
 * repeats.
 */
#include <glib.h>
#include <string.h>

#include "rimeglass/rom.h"

#define FOLLOW_LEAST 2 /* bits driven both ways that speak for the others too */

static rmg_word all_bits(const rmg_rom *rom)
{
    return (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - rom->bits);
}

/* The words of a reading at work are counted once more than the others; those are not looked at
 * before the reading is whole. */
static rmg_word majority(const rmg_reading *reading, uint64_t i)
{
    const uint16_t *ones = &reading->ones[i * reading->rom.bits];
    rmg_word word = 0;

    for (uint8_t bit = 0; bit < reading->rom.bits; bit++)
        word |= (rmg_word)(2u * ones[bit] >= reading->done) << bit;
    return word;
}

void rmg_reading_image(const rmg_reading *reading, void *bytes)
{
    for (uint64_t i = 0; i < reading->rom.words; i++)
        rmg_rom_put(&reading->rom, bytes, i, majority(reading, i));
}

static rmg_word unsteady(const rmg_reading *reading, uint64_t i)
{
    const uint16_t *ones = &reading->ones[i * reading->rom.bits];
    rmg_word word = 0;

    for (uint8_t bit = 0; bit < reading->rom.bits; bit++)
        word |= (rmg_word)(ones[bit] && ones[bit] < reading->done) << bit;
    return word;
}

void rmg_reading_unsteady(const rmg_reading *reading, void *bytes)
{
    for (uint64_t i = 0; i < reading->rom.words; i++)
        rmg_rom_put(&reading->rom, bytes, i, unsteady(reading, i));
}

/* Bits that read at every word what was on the line before. */
static rmg_word agreeing(const rmg_reading *reading)
{
    const rmg_rom *rom = &reading->rom;
    rmg_word agrees = all_bits(rom);

    for (uint64_t i = 0; i < rom->words && agrees; i++)
        for (uint8_t bit = 0; bit < rom->bits; bit++)
            if (reading->same[i * rom->bits + bit] < reading->done)
                agrees &= ~((rmg_word)1 << bit);
    return agrees;
}

/* Of these, bits that were driven both ways follow. Where all agree and some were, all do: what was
 * found to drive them with had the others at one level only. */
static rmg_word following(const rmg_reading *reading)
{
    const rmg_word all = all_bits(&reading->rom), agrees = agreeing(reading);
    const rmg_word both = reading->low & reading->high & all;

    return agrees == all && __builtin_popcountll(both) >= FOLLOW_LEAST ? all : agrees & both;
}

static void note(const rmg_reading *reading, uint64_t i, rmg_word word, rmg_quality *q)
{
    const rmg_rom *rom = &reading->rom;

    q->unsteady_words++;
    for (uint8_t k = 0; k < rom->lines; k++)
        q->by_line[k][i >> k & 1u]++;
    for (uint8_t bit = 0; bit < rom->bits; bit++) {
        const uint16_t ones = reading->ones[i * rom->bits + bit];

        if (!(word >> bit & 1u))
            continue;
        q->unsteady_bits++;
        q->by_bit[bit]++;
        q->ties += 2u * ones == reading->done;
        if (q->first_count < RMG_UNSTEADY_FIRST)
            q->first[q->first_count++] = (rmg_unsteady){i, bit, (double)ones / reading->done};
    }
}

static void count_unsteady(const rmg_reading *reading, rmg_quality *q)
{
    uint64_t in_row = 0;

    for (uint64_t i = 0; i < reading->rom.words; i++) {
        const rmg_word word = unsteady(reading, i) & ~q->follows;

        if (i % RMG_ROW_WORDS == 0)
            in_row = 0;
        if (!word)
            continue;
        note(reading, i, word, q);
        q->rows += in_row == 0;
        in_row += (uint64_t)__builtin_popcountll(word);
        if (in_row > q->worst_count) {
            q->worst_count = in_row;
            q->worst_row = i / RMG_ROW_WORDS;
        }
    }
}

/* Address lines that make no difference at any word, and bits that never change. */
static void find_sameness(const rmg_reading *reading, rmg_quality *q)
{
    const rmg_rom *rom = &reading->rom;
    rmg_word ones = 0, zeros = 0, equal[64];

    memset(equal, 0xFF, sizeof equal);
    q->same_lines = rom->lines >= 64 ? UINT64_MAX : ((uint64_t)1 << rom->lines) - 1u;
    for (uint64_t i = 0; i < rom->words; i++) {
        const rmg_word word = majority(reading, i) & ~q->follows;

        ones |= word;
        zeros |= ~word;
        for (uint8_t bit = 0; bit < rom->bits; bit++)
            equal[bit] &= word >> bit & 1u ? word : ~word;
        for (uint8_t k = 0; k < rom->lines; k++) {
            const uint64_t other = i ^ (uint64_t)1 << k;

            if ((q->same_lines >> k & 1u) && other > i && other < rom->words &&
                (majority(reading, other) & ~q->follows) != word)
                q->same_lines &= ~((uint64_t)1 << k);
        }
    }
    q->constant = ~(ones & zeros) & all_bits(rom) & ~q->follows;
    for (uint64_t i = 0; i < rom->words; i++)
        q->constant &= ~unsteady(reading, i);
    q->constant_level = ones & q->constant;
    for (uint8_t bit = 0; bit < rom->bits; bit++)
        if (!((q->constant | q->follows) >> bit & 1u))
            q->equal[bit] =
                equal[bit] & all_bits(rom) & ~q->constant & ~q->follows & (~(rmg_word)1 << bit);
    if (q->constant == all_bits(rom))
        q->state = !(zeros & all_bits(rom))  ? RMG_READ_ONES
                   : !(ones & all_bits(rom)) ? RMG_READ_ZEROS
                                             : RMG_READ_STEADY;
}

/* Chips of a region whose every bit floats, or never changes and is alike, while others answer. */
static void find_silent(const rmg_rom *rom, rmg_quality *q)
{
    const rmg_word all = all_bits(rom);

    for (uint8_t bit = 0; bit < rom->bits; bit++) {
        rmg_word chip = 0;
        uint16_t socket, other;
        uint8_t pin;

        rmg_rom_bit_pin(rom, bit, &socket, &pin);
        for (uint8_t i = 0; i < rom->bits; i++) {
            rmg_rom_bit_pin(rom, i, &other, &pin);
            if (other == socket)
                chip |= (rmg_word)1 << i;
        }
        if (socket != RMG_NO_SOCKET && chip != all &&
            ((q->follows & chip) == chip ||
             ((q->constant & chip) == chip &&
              ((q->constant_level & chip) == chip || (q->constant_level & chip) == 0))))
            q->silent |= chip;
    }
}

void rmg_reading_judge(const rmg_reading *reading, rmg_quality *q)
{
    const rmg_word all = all_bits(&reading->rom);

    memset(q, 0, sizeof *q);
    q->readings = reading->done;
    q->state = RMG_READ_NONE;
    if (!reading->done || reading->position)
        return;
    q->driven = (reading->low & reading->high & all) == all;
    q->follows = following(reading);
    count_unsteady(reading, q);
    q->state = q->unsteady_bits ? RMG_READ_UNSTEADY : RMG_READ_STEADY;
    if (q->follows == all) {
        q->state = RMG_READ_NOTHING;
        return;
    }
    find_sameness(reading, q);
    find_silent(&reading->rom, q);
}
