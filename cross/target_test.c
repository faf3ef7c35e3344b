/* A memory test on the target itself: lines, then March C-, then the socket, reported on one port.
 * What scripts/sizes measures. The memory is reached directly; a real program moves pins instead.
 */
#include "memory_port.h"
#include "rimeglass/rimeglass.h"

/* Two four-bit chips of 1 Ki words. */
static const uint8_t low_half[] = {0, 1, 2, 3}, high_half[] = {4, 5, 6, 7};
static const uint8_t lines[] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9};
static const rmg_rule rules[] = {
    {.where = {0x400, 0x7FF, 0, 0},
     .data_bits = low_half,
     .address_bits = lines,
     .socket = 1,
     .width = 4,
     .address_lines = 10},
    {.where = {0x400, 0x7FF, 0, 0},
     .data_bits = high_half,
     .address_bits = lines,
     .socket = 2,
     .width = 4,
     .address_lines = 10},
};
static const rmg_placement placement = {rules, 2};
static const rmg_where bank = {0x400, 0x7FF, 0, 0};

static rmg_tally tally;
static rmg_wiring wiring;
static volatile uint8_t lamp; /* number of the socket to look at; 0: none */

int main(void)
{
    static const rmg_range range = {0x400, 0x7FF};
    static const rmg_target target = {&memory_bus, NULL, 0xFF};
    static const rmg_march_job job = {
        .code = rmg_march_c_minus, .ranges = &range, .range_count = 1};
    rmg_place place;

    if (rmg_wiring_check(&target, &bank, &wiring) != RMG_OK)
        return 1;
    rmg_tally_clear(&tally, &bank, 1);
    if (rmg_march_run(&target, &job, &tally) != RMG_OK)
        return 1;
    for (uint8_t bit = 0; bit < RMG_WORD_BITS; bit++)
        if ((tally.bits[0][bit].high || tally.bits[0][bit].low) &&
            rmg_place_find(&placement, tally.first[0].address, bit, &place))
            lamp = (uint8_t)place.socket;
    return 0;
}
