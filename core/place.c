/* (address, bit) to socket and pin, by the placement's rules. */
#include "rimeglass/place.h"

rmg_addr rmg_rule_cell(const rmg_rule *rule, rmg_addr address)
{
    rmg_addr cell = 0;
    rmg_addr line = 1;

    for (uint8_t i = 0; i < rule->address_lines; i++, line = (rmg_addr)(line << 1)) {
        const uint8_t feed = rule->address_bits[i];
        const bool one =
            feed == RMG_FEED_1 || (feed < RMG_ADDR_BITS && ((rmg_addr)(address >> feed) & 1u));

        if (one)
            cell |= line;
    }
    return cell;
}

rmg_word rmg_rule_bits(const rmg_rule *rule)
{
    rmg_word bits = 0;

    for (uint8_t i = 0; i < rule->width; i++)
        bits = (rmg_word)(bits | (rmg_word)((rmg_word)1u << rule->data_bits[i]));
    return bits;
}

unsigned rmg_rule_high_bit(const rmg_rule *rule)
{
    unsigned high = 0;

    for (uint8_t i = 0; i < rule->width; i++)
        if (rule->data_bits[i] > high)
            high = rule->data_bits[i];
    return high;
}

bool rmg_place_find(const rmg_placement *placement, rmg_addr address, uint8_t bit, rmg_place *place)
{
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (!rmg_where_holds(&rule->where, address))
            continue;
        for (uint8_t i = 0; i < rule->width; i++)
            if (rule->data_bits[i] == bit) {
                place->cell = rmg_rule_cell(rule, address);
                place->rule = r;
                place->socket = rule->socket;
                place->bank = rule->bank;
                place->data_line = i;
                place->in_pin = rule->in_pins ? rule->in_pins[i] : 0;
                place->out_pin = rule->out_pins ? rule->out_pins[i] : 0;
                return true;
            }
    }
    return false;
}
