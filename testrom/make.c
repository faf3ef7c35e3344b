/* The image of a test ROM. */
#include "code.h"

#include <string.h>

static void (*const writers[RMG_TESTROM_PROCESSORS])(rom_code *) = {
    [RMG_TESTROM_Z80] = rmg_testrom_write_z80,   [RMG_TESTROM_6502] = rmg_testrom_write_6502,
    [RMG_TESTROM_6809] = rmg_testrom_write_6809, [RMG_TESTROM_68000] = rmg_testrom_write_68000,
    [RMG_TESTROM_8086] = rmg_testrom_write_8086, [RMG_TESTROM_8080] = rmg_testrom_write_8080,
    [RMG_TESTROM_8085] = rmg_testrom_write_8080,
};

/* What the processor wants at the end of the image, which must end where it looks for it. */
static bool put_vectors(const rom_code *c, const rmg_testrom_row *row)
{
    const rmg_testrom_plan *plan = c->plan;
    uint8_t *end = c->bytes + plan->size;
    const bool at_the_end =
        plan->origin + plan->size == (plan->processor == RMG_TESTROM_8086 ? 0x100000u : 0x10000u);

    if (!row->vectors || (plan->called && !at_the_end))
        return true;
    if (!at_the_end)
        return false;
    end -= row->vectors;
    for (uint32_t i = 0; i < row->vectors && plan->processor != RMG_TESTROM_8086; i += 2) {
        end[i] = (uint8_t)(c->big ? plan->origin >> 8 : plan->origin);
        end[i + 1] = (uint8_t)(c->big ? plan->origin : plan->origin >> 8);
    }
    if (plan->processor == RMG_TESTROM_8086) {
        const uint32_t segment = plan->origin >> 4;

        end[0] = 0xEA;
        end[1] = end[2] = 0;
        end[3] = (uint8_t)segment;
        end[4] = (uint8_t)(segment >> 8);
    }
    return true;
}

rmg_status rmg_testrom_make(const rmg_testrom_plan *plan, rmg_testrom_image *image)
{
    const rmg_testrom_row *row = &rmg_testrom_rows[plan->processor];
    rom_code c = {.plan = plan,
                  .bytes = image->bytes,
                  .room = image->room < plan->size ? image->room : plan->size,
                  .org =
                      plan->processor == RMG_TESTROM_8086 ? 0 : plan->origin}; /* in its segment */
    uint8_t sum = 0;

    image->why = NULL;
    if (!writers[plan->processor]) {
        image->why = "no code is made for this processor yet";
        return RMG_ERR_RANGE;
    }
    for (unsigned again = 0; again < 2; again++) {
        c.at = 0;
        c.next = 0;
        c.march_clocks = 0;
        c.why = NULL;
        c.second = again;
        writers[plan->processor](&c);
    }
    image->used = c.at;
    image->baud = c.baud;
    image->march_clocks = c.march_clocks;
    image->why = c.why;
    if (c.why)
        return RMG_ERR_RANGE;
    if (c.at + row->vectors > plan->size || image->room < plan->size)
        return RMG_ERR_ROOM;
    if (c.odd) {
        image->why = "a branch of its code does not reach";
        return RMG_ERR_RANGE;
    }
    for (size_t i = 0; i + 1u < c.at; i++)
        sum = (uint8_t)(sum + c.bytes[i]);
    c.bytes[c.at - 1u] = (uint8_t)(0u - sum);
    memset(c.bytes + c.at, 0xFF, plan->size - c.at);
    if (!put_vectors(&c, row)) {
        image->why = "the image must end where the processor looks for its first address";
        return RMG_ERR_RANGE;
    }
    return RMG_OK;
}
