/* What the processors' files share: bytes, short branches, rates, letters. */
#include "code.h"

#include <string.h>

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
    static const char letters[] = {'D', 'A', 'X', 'F', 'M'};

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
