/* What the processors' files share: bytes, short branches, rates, letters. */
#include "code.h"

void rmg_testrom_put(rom_code *c, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        rom_byte(c, bytes[i]);
}

void rmg_testrom_near(rom_code *c, unsigned label)
{
    const int32_t distance = (int32_t)(rom_of(c, label) - (rom_here(c) + 1u));

    c->odd |= c->second && (distance < -128 || distance > 127);
    rom_byte(c, (unsigned)distance & 0xFFu);
}

/* The clock as it really is. */
static double clock_of(const rmg_testrom_plan *plan)
{
    return plan->clock_hz * (1.0 + plan->trim_ppm / 1e6);
}

uint32_t rmg_testrom_bit_clocks(const rmg_testrom_plan *plan)
{
    return plan->baud ? (uint32_t)(clock_of(plan) / plan->baud + 0.5) : 0;
}

double rmg_testrom_rate(const rmg_testrom_plan *plan, double clocks)
{
    return clock_of(plan) / clocks;
}

char rmg_testrom_kind_letter(rmg_testrom_kind kind)
{
    static const char letters[] = {'D', 'A', 'X', 'F', 'M', 'C'};

    _Static_assert(sizeof letters == RMG_TESTROM_KINDS, "each kind of step has its letter");
    return letters[kind];
}

char rmg_testrom_bank_letter(uint8_t bank)
{
    return (char)('A' + bank);
}

char rmg_testrom_read_letter(uint8_t read)
{
    return (char)(read < 26 ? 'a' + read : '0' + (read - 26) % 10);
}

bool rmg_testrom_masked(const rmg_testrom_plan *plan)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - plan->word_bits);

    for (unsigned i = 0; i < plan->bank_count; i++)
        if (plan->banks[i].bits != all)
            return true;
    return false;
}

uint16_t rmg_testrom_level(const rmg_testrom_plan *plan, const rmg_testrom_output *o, bool on)
{
    const rmg_testrom_output *other = o == &plan->serial ? &plan->lamp : &plan->serial;
    unsigned value = o->others;

    if (other->fitted && other->at == o->at && other->port == o->port) { /* mark; dark */
        const bool idle = other == &plan->serial ? !other->inverted : other->inverted;

        value = (value & ~(unsigned)other->bit) | (idle ? other->bit : 0u);
    }
    return (uint16_t)((value & ~(unsigned)o->bit) | (on != o->inverted ? o->bit : 0u));
}

uint8_t rmg_testrom_reads(const uint8_t *element)
{
    uint8_t reads = 0;

    for (unsigned i = 1; i <= rom_ops(element); i++)
        reads = (uint8_t)(reads + !(element[i] & RMG_OP_WRITE));
    return reads;
}

unsigned rmg_testrom_sum_labels(rom_code *c)
{
    const unsigned first = c->next + 1u;

    for (unsigned i = 0; i < c->plan->rom_count; i++)
        rom_label(c);
    return first;
}

void rmg_testrom_write_sums(rom_code *c, unsigned labels)
{
    const rmg_testrom_plan *plan = c->plan;

    for (unsigned i = 0; i < plan->rom_count; i++) {
        const rmg_testrom_rom *rom = &plan->roms[i];
        const unsigned pages = (unsigned)((rom->range.last - rom->range.first + 1u) >> 8);

        rom_set(c, labels + i);
        for (unsigned n = 0; rom->known && n < pages; n++) {
            const rmg_testrom_sums *sums = &plan->sums[rom->first_page + n];

            if (plan->word_bits == 16) {
                rom_word(c, sums->words);
                rom_word(c, sums->sums);
            } else {
                rom_byte(c, sums->words);
                rom_byte(c, sums->sums);
            }
        }
    }
}

uint32_t rmg_testrom_highest_line(const rmg_range *range)
{
    uint32_t top = 1;

    while (top <= (range->last - range->first) / 2u && !((range->first >> 1) & top))
        top <<= 1;
    return top;
}
