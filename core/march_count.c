/* Counting a compiled march's operations and elements. */
#include "rimeglass/march.h"

uint16_t rmg_march_operations(const uint8_t *code)
{
    uint16_t sum = 0;

    while (*code) {
        const uint8_t count = (uint8_t)(*code & ~RMG_ORDER_MASK);

        sum = (uint16_t)(sum + count);
        code += count + 1u;
    }
    return sum;
}

uint8_t rmg_march_elements(const uint8_t *code)
{
    uint8_t sum = 0;

    for (; *code; sum++)
        code += (*code & ~RMG_ORDER_MASK) + 1u;
    return sum;
}
