/* From a chip's cell back to the bus address. */
#include "rimeglass/place.h"

rmg_addr rmg_rule_address(const rmg_rule *rule, rmg_addr cell)
{
    rmg_addr feeds = 0, address = 0;

    for (uint8_t i = 0; i < rule->address_lines; i++) {
        const uint8_t feed = rule->address_bits[i];

        if (feed >= RMG_ADDR_BITS)
            continue;
        feeds |= (rmg_addr)((rmg_addr)1 << feed);
        if ((rmg_addr)(cell >> i) & 1u)
            address |= (rmg_addr)((rmg_addr)1 << feed);
    }
    feeds |= rule->where.mask;
    return (rmg_addr)((rule->where.first & (rmg_addr)~feeds) |
                      (rule->where.match & rule->where.mask) | address);
}
