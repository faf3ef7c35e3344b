/* The smallest port: a few bytes of memory with one bit stuck, tested by the core library alone.
 *
 * What a port needs: a function that reads one word and one that writes one, each with the context
 * pointer first, both answering a status (bus.h, "Rules for a port").
 * What this one leaves out: bytes of a word, blocks, whole march elements, waiting and conditions.
 * Those stay NULL, and every test still runs.
 *
 * On a microcontroller, `array_read` and `array_write` would move the address and data pins. */
#include <inttypes.h>
#include <stdio.h>

#include "rimeglass/rimeglass.h"

#define WORDS 256u

struct array {
    uint8_t cell[WORDS];
};

/* Bit 5 of word 0x42 is stuck at 1. */
static rmg_status array_read(void *context, rmg_addr address, rmg_word *value)
{
    const struct array *array = context;

    *value = array->cell[address];
    if (address == 0x42)
        *value |= 0x20;
    return RMG_OK;
}

static rmg_status array_write(void *context, rmg_addr address, rmg_word value)
{
    struct array *array = context;

    array->cell[address] = (uint8_t)value;
    return RMG_OK;
}

static const rmg_bus array_bus = {
    .version = RMG_BUS_VERSION,
    .read = array_read,
    .write = array_write,
};

int main(void)
{
    static struct array array;
    static rmg_tally tally;
    const rmg_target target = {.bus = &array_bus, .context = &array, .mask = 0xFF};
    const rmg_range all = {.first = 0, .last = WORDS - 1};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &all, .range_count = 1};
    rmg_status status;

    rmg_tally_clear(&tally, NULL, 0);
    status = rmg_march_run(&target, &job, &tally);
    if (status != RMG_OK) {
        printf("The test did not finish: %s.\n", rmg_status_text(status));
        return 3;
    }
    printf("March C-: %" PRIu64 " failing reads", (uint64_t)tally.failing);
    if (tally.failing)
        printf(", first at 0x%02" PRIX64 ": wrote 0x%02" PRIX64 ", read 0x%02" PRIX64,
               (uint64_t)tally.first[0].address, (uint64_t)tally.first[0].expected,
               (uint64_t)tally.first[0].actual);
    printf(".\n");
    return tally.failing ? 1 : 0;
}
