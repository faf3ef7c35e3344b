/* What a fault needs to make sense on a board, and which cells it has to do with. */
#include "internal.h"

static size_t depth(const rmg_sim_chip *chip)
{
    return (size_t)1 << chip->address_lines;
}

bool rmg_fault_usable(const rmg_sim_board *board, const rmg_sim_fault *f)
{
    const rmg_sim_chip *chip = f->chip < board->chip_count ? &board->chips[f->chip] : NULL;
    const bool all = f->data_line == RMG_ALL_DATA_LINES;

    if (f->level > 1)
        return false;
    switch (f->kind) {
    case RMG_FAULT_CELL:
        return chip && f->data_line < chip->width && f->cell < depth(chip);
    case RMG_FAULT_ROW:
        return chip && (all || f->data_line < chip->width) && f->cell >> chip->row_lines == 0;
    case RMG_FAULT_COLUMN:
        return chip && (all || f->data_line < chip->width) &&
               f->cell < depth(chip) >> chip->row_lines;
    case RMG_FAULT_OUTPUT:
    case RMG_FAULT_DATA_OPEN:
    case RMG_FAULT_INPUT_OPEN:
        return chip && f->data_line < chip->width;
    case RMG_FAULT_MISSING:
        return chip;
    case RMG_FAULT_DATA_LINE:
        return f->line < board->word_bits;
    case RMG_FAULT_ADDRESS_CHIP:
        return chip && f->lines < depth(chip);
    case RMG_FAULT_ADDRESS_BANK:
        return f->bank != RMG_NO_BANK;
    case RMG_FAULT_DATA_SHORT:
    case RMG_FAULT_DATA_SWAP:
        return f->line < board->word_bits && f->line2 < board->word_bits && f->line != f->line2;
    case RMG_FAULT_LINE_STUCK:
    case RMG_FAULT_LINE_OPEN:
        return f->line < board->word_bits;
    case RMG_FAULT_ALSO_SELECTED:
        return f->bank != f->bank2;
    case RMG_FAULT_ADDRESS_STUCK:
    case RMG_FAULT_ADDRESS_SHORT:
    case RMG_FAULT_ADDRESS_SWAP:
    case RMG_FAULT_NO_WRITE:
    case RMG_FAULT_DESELECTED:
    case RMG_FAULT_ALWAYS_ON:
        return true;
    case RMG_FAULT_NOISE:
        return f->line < board->word_bits || f->line == RMG_ALL_DATA_LINES;
    case RMG_FAULT_WEAK:
        return chip && (all || f->data_line < chip->width) && f->count;
    case RMG_FAULT_LATE:
        return chip;
    case RMG_FAULT_REFRESH:
        return f->after_us;
    case RMG_FAULT_RETENTION:
        return chip && f->data_line < chip->width && f->cell < depth(chip) && f->after_us;
    case RMG_FAULT_DISTURB:
        return chip && f->data_line < chip->width && f->cell < depth(chip) && f->count &&
               chip->row_lines && f->row >> chip->row_lines == 0;
    case RMG_FAULT_ADDRESS_CELLS:
        return chip && f->cell < depth(chip) && f->cell2 < depth(chip) &&
               (f->reaches == RMG_REACHES_NONE || f->cell != f->cell2);
    default: /* cells that depend on what was done before */
        return chip && f->data_line < chip->width && f->cell < depth(chip) && f->state <= 1 &&
               ((!f->coupled && f->kind <= RMG_FAULT_READ_WRONG) ||
                (f->data_line2 < chip->width && f->cell2 < depth(chip) &&
                 (f->cell2 != f->cell || f->data_line2 != f->data_line)));
    }
}

bool rmg_fault_lively(const rmg_sim_fault *fault)
{
    switch (fault->kind) {
    case RMG_FAULT_TRANSITION:
    case RMG_FAULT_WRITE_FLIPS:
    case RMG_FAULT_READ_FLIPS:
    case RMG_FAULT_READ_FLIPS_AFTER:
    case RMG_FAULT_READ_WRONG:
    case RMG_FAULT_COUPLING_INVERTS:
    case RMG_FAULT_COUPLING_SETS:
    case RMG_FAULT_COUPLING_HOLDS:
    case RMG_FAULT_COUPLING_FLIPS:
    case RMG_FAULT_ADDRESS_CELLS:
    case RMG_FAULT_RETENTION:
    case RMG_FAULT_REFRESH:
    case RMG_FAULT_DISTURB:
        return true;
    default:
        return false;
    }
}

bool rmg_fault_concerns(const rmg_sim_fault *fault, const rmg_rule *rule)
{
    switch (fault->kind) {
    case RMG_FAULT_DATA_LINE:
    case RMG_FAULT_NOISE:
    case RMG_FAULT_ALSO_SELECTED:
        return false;
    case RMG_FAULT_ADDRESS_BANK:
        return rule->bank == fault->bank;
    case RMG_FAULT_LINE_STUCK:
    case RMG_FAULT_LINE_OPEN:
    case RMG_FAULT_DATA_SHORT:
    case RMG_FAULT_DATA_SWAP:
    case RMG_FAULT_ADDRESS_STUCK:
    case RMG_FAULT_ADDRESS_SHORT:
    case RMG_FAULT_ADDRESS_SWAP:
    case RMG_FAULT_NO_WRITE:
    case RMG_FAULT_DESELECTED:
    case RMG_FAULT_ALWAYS_ON:
    case RMG_FAULT_REFRESH:
        return rmg_fault_acts_for(fault, rule->socket);
    default:
        return rule->socket == fault->chip;
    }
}

bool rmg_fault_of_data_lines(const rmg_sim_fault *fault)
{
    switch (fault->kind) {
    case RMG_FAULT_CELL:
    case RMG_FAULT_ROW:
    case RMG_FAULT_COLUMN:
    case RMG_FAULT_WEAK:
    case RMG_FAULT_OUTPUT:
    case RMG_FAULT_DATA_OPEN:
    case RMG_FAULT_INPUT_OPEN:
    case RMG_FAULT_LATE:
    case RMG_FAULT_LINE_STUCK:
    case RMG_FAULT_LINE_OPEN:
    case RMG_FAULT_DATA_SHORT:
    case RMG_FAULT_DATA_SWAP:
    case RMG_FAULT_NO_WRITE:
        return true;
    default:
        return false;
    }
}
