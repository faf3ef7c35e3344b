/* The table of fault kinds: what a fault needs to make sense on a board, and which chips it is for.
 */
#include "internal.h"

#define ROW(kind, word, keys, takes, level, stages, needs, place, marks, traits, proposed, does)   \
    [RMG_FAULT_##                                                                                  \
        kind] = {word, keys, does, stages, needs, takes, level, place, marks, traits, proposed},
#define WORD(kind, word, keys, takes, level, traits, does)
const rmg_fault_row rmg_fault_rows[] = {RMG_FAULT_TABLE(ROW, WORD)};
#undef ROW
#undef WORD
#define ROW(kind, word, keys, takes, level, stages, needs, place, marks, traits, proposed, does)   \
    _Static_assert((stages) != 0 && (stages) >> RMG_STAGES == 0 && sizeof(does) > 1,               \
                   #kind ": it acts somewhere, and its row says what it does");
#define WORD(kind, word, keys, takes, level, traits, does)                                         \
    _Static_assert(sizeof(word) > 1 && sizeof(keys) > 1 && sizeof(does) > 1, word);
RMG_FAULT_TABLE(ROW, WORD)
#undef ROW
#undef WORD
_Static_assert(sizeof rmg_fault_rows / sizeof *rmg_fault_rows == RMG_FAULT_KINDS,
               "each kind of fault has its row");

static size_t depth(const rmg_sim_chip *chip)
{
    return (size_t)1 << chip->address_lines;
}

/* Is the needed cell of an aggressor there? */
static bool has_aggressor(const rmg_sim_fault *f, const rmg_sim_chip *chip)
{
    return f->data_line2 < chip->width && f->cell2 < depth(chip) &&
           (f->cell2 != f->cell || f->data_line2 != f->data_line);
}

/* What a fault needs of its chip. */
static bool fits_chip(const rmg_sim_fault *f, const rmg_sim_chip *chip, uint32_t needs)
{
    const bool all = f->data_line == RMG_ALL_DATA_LINES;

    if (((needs & RMG_NEEDS_LINE) && f->data_line >= chip->width) ||
        ((needs & RMG_NEEDS_LINE_OR_ALL) && !all && f->data_line >= chip->width) ||
        ((needs & RMG_NEEDS_CELL) && f->cell >= depth(chip)) ||
        ((needs & RMG_NEEDS_ROW) && f->cell >> chip->row_lines != 0) ||
        ((needs & RMG_NEEDS_COLUMN) && f->cell >= depth(chip) >> chip->row_lines) ||
        ((needs & RMG_NEEDS_PINS) && f->lines >= depth(chip)) ||
        ((needs & RMG_NEEDS_ROWS) && (!chip->row_lines || f->by > 3)) ||
        ((needs & RMG_NEEDS_BESIDE) && (!chip->row_lines || f->row >> chip->row_lines != 0)))
        return false;
    if ((needs & RMG_NEEDS_REACHED) &&
        (f->cell2 >= depth(chip) || (f->reaches != RMG_REACHES_NONE && f->cell == f->cell2)))
        return false;
    return !((needs & RMG_NEEDS_AGGRESSOR) || ((needs & RMG_NEEDS_STATE) && f->coupled)) ||
           has_aggressor(f, chip);
}

bool rmg_fault_usable(const rmg_sim_board *board, const rmg_sim_fault *f)
{
    const uint32_t needs = f->kind < RMG_FAULT_KINDS ? rmg_fault_rows[f->kind].needs : 0;
    const rmg_sim_chip *chip = f->chip < board->chip_count ? &board->chips[f->chip] : NULL;

    if (f->kind >= RMG_FAULT_KINDS || f->level > 1 ||
        ((needs & RMG_NEEDS_CHIP) && (!chip || !fits_chip(f, chip, needs))))
        return false;
    return !(
        ((needs & RMG_NEEDS_BUS_BIT) && f->line >= board->word_bits) ||
        ((needs & RMG_NEEDS_BIT_OR_ALL) && f->line >= board->word_bits &&
         f->line != RMG_ALL_DATA_LINES) ||
        ((needs & RMG_NEEDS_TWO_BITS) &&
         (f->line >= board->word_bits || f->line2 >= board->word_bits || f->line == f->line2)) ||
        ((needs & RMG_NEEDS_BANK) && f->bank == RMG_NO_BANK) ||
        ((needs & RMG_NEEDS_TWO_BANKS) && f->bank == f->bank2) ||
        ((needs & RMG_NEEDS_TIME) && !f->after_us) || ((needs & RMG_NEEDS_COUNT) && !f->count) ||
        ((needs & RMG_NEEDS_STATE) && f->state > 1));
}

bool rmg_fault_concerns(const rmg_sim_fault *fault, const rmg_rule *rule)
{
    switch (rmg_fault_rows[fault->kind].place) {
    case RMG_FOR_CHIP:
        return rule->socket == fault->chip;
    case RMG_FOR_SCOPE:
        return rmg_fault_acts_for(fault, rule->socket);
    case RMG_FOR_BANK:
        return rule->bank == fault->bank;
    case RMG_FOR_BESIDE:
    case RMG_FOR_BUS:
        return false;
    }
    return false;
}
