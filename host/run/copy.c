/* Copying memory onto itself, as programs do. It finds what only the traffic of a copy shows; but
 * damage is carried along, so that the addresses at which it comes out say nothing. */
#include <glib.h>

#include "runner.h"

#define BLOCK_WORDS 64u

/* The first block is drawn from the seed, each word is copied one block further, to the range's
 * end; the last block should then be the first. */
static rmg_status copy_range(runner *c, const rmg_target *to, const rmg_range *range, uint64_t seed)
{
    const rmg_addr words = range->last - range->first + 1u;
    const rmg_addr block = MIN(words / 2u, BLOCK_WORDS);
    rmg_status status = RMG_OK;
    rmg_word value;

    for (rmg_addr i = 0; i < block && status == RMG_OK; i++)
        status = to->bus->write(to->context, range->first + i, rmg_hash(seed, i) & to->mask);
    for (rmg_addr i = 0; i + block < words && status == RMG_OK; i++) {
        status = to->bus->read(to->context, range->first + i, &value);
        if (status == RMG_OK)
            status = to->bus->write(to->context, range->first + i + block, value & to->mask);
        if (status == RMG_OK && !(i & 0xFFu) && !rmg_run_report(c))
            status = RMG_ERR_CANCELLED;
    }
    for (rmg_addr i = words - block; i < words && status == RMG_OK; i++) {
        status = to->bus->read(to->context, range->first + i, &value);
        if (status == RMG_OK && ((value ^ rmg_hash(seed, i % block)) & to->mask))
            c->run->copied_wrong++;
    }
    if (status == RMG_OK)
        c->run->copied_words += words;
    return status;
}

rmg_status rmg_run_copy(runner *c, const rmg_target *to, uint64_t pass)
{
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < c->run->tested_count && status == RMG_OK; i++)
        if (c->run->tested[i].last > c->run->tested[i].first)
            status = copy_range(c, to, &c->run->tested[i],
                                rmg_hash(c->run->plan.seed, (uint64_t)2 << 32 | pass));
    return status;
}
