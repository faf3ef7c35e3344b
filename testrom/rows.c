/* The processors: what each has of its own, and which codes its ROMs tell. */
#include "rimeglass/testrom.h"

const rmg_testrom_row rmg_testrom_rows[RMG_TESTROM_PROCESSORS] = {
    [RMG_TESTROM_Z80] = {.name = "Z80",
                         .word_bits = 8,
                         .digits = 4,
                         .has_ports = true,
                         .residue = {0x7E, 0x7E},
                         .refreshes = true},
    [RMG_TESTROM_6502] = {.name = "6502",
                          .word_bits = 8,
                          .digits = 4,
                          .home_words = 0x200,
                          .residue = {RMG_TESTROM_HIGH_BYTE, RMG_TESTROM_HIGH_BYTE},
                          .vectors = 6,
                          .reset = 0xFFFC},
    [RMG_TESTROM_68000] = {.name = "68000",
                           .word_bits = 16,
                           .digits = 6,
                           .front = 8,
                           .residue = {RMG_TESTROM_NO_RESIDUE, RMG_TESTROM_NO_RESIDUE}},
    [RMG_TESTROM_8086] = {.name = "8086",
                          .digits = 5,
                          .residue = {RMG_TESTROM_NO_RESIDUE, RMG_TESTROM_NO_RESIDUE},
                          .has_ports = true,
                          .vectors = 16,
                          .reset = 0xFFFF0},
    [RMG_TESTROM_6809] = {.name = "6809",
                          .word_bits = 8,
                          .digits = 4,
                          .residue = {RMG_TESTROM_NO_RESIDUE, RMG_TESTROM_NO_RESIDUE},
                          .vectors = 16,
                          .reset = 0xFFFE},
    [RMG_TESTROM_8080] = {.name = "8080",
                          .word_bits = 8,
                          .digits = 4,
                          .home_words = 0x100,
                          .home_anywhere = true,
                          .has_ports = true,
                          .residue = {0x7E, 0x7E}},
    [RMG_TESTROM_8085] = {.name = "8085",
                          .word_bits = 8,
                          .digits = 4,
                          .home_words = 0x100,
                          .home_anywhere = true,
                          .has_ports = true,
                          .residue = {0x7E, 0x7E}},
};

unsigned rmg_testrom_code_shared(const rmg_testrom_plan *plan)
{
    const bool keeps = rmg_testrom_rows[plan->processor].home_words != 0;

    return keeps && plan->bank_count > 1 && plan->bank_count < RMG_TESTROM_BANKS
               ? plan->bank_count + 1u
               : 0;
}

rmg_addr rmg_testrom_other_word(const rmg_testrom_plan *plan)
{
    return plan->banks[plan->home_bank == 0].range.first;
}

unsigned rmg_testrom_code_last(const rmg_testrom_plan *plan, uint8_t bank)
{
    return rmg_testrom_rows[plan->processor].home_words && bank == plan->home_bank
               ? RMG_TESTROM_CODE_ALL(plan->word_bits)
               : plan->word_bits + 2u;
}
