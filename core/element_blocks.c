/* A march element by blocks: the order of operations is kept for each word, not between the words
 * of a block. */
#include "rimeglass/bus.h"
#include "rimeglass/march.h"

/* One operation on the words of a block. */
static rmg_status on_block(const rmg_bus *bus, void *context, const rmg_element_call *call,
                           uint8_t operation, rmg_addr first, rmg_addr count, rmg_word *values)
{
    const uint8_t op = call->ops[operation];
    const rmg_word value =
        (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
    rmg_status status = RMG_OK;

    if (op & RMG_OP_WRITE) {
        for (rmg_addr i = 0; i < count; i++)
            values[i] = value;
        if (bus->write_block)
            return bus->write_block(context, first, count, values);
        for (rmg_addr i = 0; i < count && status == RMG_OK; i++)
            status = bus->write(
                context, (rmg_addr)(call->down ? first + (count - 1u - i) : first + i), value);
        return status;
    }
    status = bus->read_block(context, first, count, values);
    for (rmg_addr n = 0; n < count && status == RMG_OK; n++) {
        const rmg_addr i = call->down ? (rmg_addr)(count - 1u - n) : n;
        const rmg_word actual = (rmg_word)(values[i] & call->mask);

        if (actual != value)
            call->mismatch(call->sink_context, (rmg_addr)(first + i), operation, value, actual);
    }
    return status;
}

rmg_status rmg_element_by_blocks(const rmg_bus *bus, void *context, rmg_element_call *call)
{
    rmg_word values[RMG_ELEMENT_BLOCK];
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    rmg_addr left = call->words_a_call;

    for (;;) {
        const rmg_addr more = (rmg_addr)(call->down ? call->address - end : end - call->address);
        rmg_addr count = more < RMG_ELEMENT_BLOCK ? (rmg_addr)(more + 1u) : RMG_ELEMENT_BLOCK;

        if (count > left)
            count = left;
        for (; call->operation < call->op_count; call->operation++) {
            const rmg_status status =
                on_block(bus, context, call, call->operation,
                         (rmg_addr)(call->down ? call->address - (count - 1u) : call->address),
                         count, values);

            if (status != RMG_OK)
                return status;
        }
        call->operation = 0;
        if (count - 1u == more) {
            call->address = end;
            return RMG_OK;
        }
        call->address = (rmg_addr)(call->down ? call->address - count : call->address + count);
        left = (rmg_addr)(left - count);
        if (!left)
            return RMG_ERR_CANCELLED;
    }
}
