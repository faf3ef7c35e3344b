/* Saving words before they are first written, and putting them back. Its memory is asked for before
 * a word is touched: a word that cannot be saved is not written. */
#include "keep.h"

#include <stdlib.h>
#include <string.h>

#define TRIES      3u
#define LOST_MOST  8u /* words in a row that a port that is gone is asked to take */
#define ROOM_FIRST RMG_KEEP_WORDS

static size_t slot_of(const rmg_keeper *k, rmg_addr address)
{
    size_t at = (size_t)((uint64_t)address * UINT64_C(0x9E3779B97F4A7C15) >> 32);

    for (at &= k->slot_count - 1u; k->slots[at]; at = (at + 1u) & (k->slot_count - 1u))
        if (k->saved[k->slots[at] - 1u].address == address)
            break;
    return at;
}

static void fill_slots(rmg_keeper *k)
{
    memset(k->slots, 0, k->slot_count * sizeof *k->slots);
    for (size_t i = 0; i < k->count; i++)
        k->slots[slot_of(k, k->saved[i].address)] = (uint32_t)i + 1u;
}

/* Room for one more word; what is saved stays whole where there is none. */
static bool make_room(rmg_keeper *k)
{
    const size_t room = k->room ? 2u * k->room : ROOM_FIRST;
    rmg_saved_word *saved;
    uint32_t *slots;

    if (k->count < k->room)
        return true;
    if (room > UINT32_MAX / 8u)
        return false;
    slots = malloc(4u * room * sizeof *slots);
    saved = slots ? realloc(k->saved, room * sizeof *saved) : NULL;
    if (!saved) {
        free(slots);
        return false;
    }
    free(k->slots);
    k->saved = saved;
    k->room = room;
    k->slots = slots;
    k->slot_count = 4u * room;
    fill_slots(k);
    return true;
}

static rmg_status keep_read(void *context, rmg_addr address, rmg_word *value)
{
    const rmg_keeper *k = context;

    return k->to->bus->read(k->to->context, address, value);
}

static rmg_status keep_write(void *context, rmg_addr address, rmg_word value)
{
    rmg_keeper *k = context;
    rmg_word before = 0;
    rmg_status status;

    if (!k->slots[slot_of(k, address)]) {
        if (!make_room(k))
            return RMG_ERR_MEMORY;
        status = k->to->bus->read(k->to->context, address, &before);
        if (status != RMG_OK)
            return status;
        k->slots[slot_of(k, address)] = (uint32_t)k->count + 1u;
        k->saved[k->count++] = (rmg_saved_word){address, before & k->to->mask};
    }
    return k->to->bus->write(k->to->context, address, value);
}

static rmg_status keep_wait(void *context, uint32_t hold_us)
{
    const rmg_keeper *k = context;

    return k->to->bus->wait(k->to->context, hold_us);
}

rmg_status rmg_keep_begin(rmg_keeper *k, const rmg_target *to)
{
    memset(k, 0, sizeof *k);
    k->to = to;
    k->bus.version = RMG_BUS_VERSION;
    k->bus.read = keep_read;
    k->bus.write = keep_write;
    k->bus.wait = to->bus->wait ? keep_wait : NULL;
    k->target.bus = &k->bus;
    k->target.context = k;
    k->target.mask = to->mask;
    return make_room(k) ? RMG_OK : RMG_ERR_MEMORY;
}

/* Once more where it fails. *lost: words in a row at which the port was gone: then each costs a
 * time-out, and the rest is not waited for. */
static rmg_status put_back(const rmg_keeper *k, const rmg_saved_word *word, unsigned *lost)
{
    rmg_status status = RMG_ERR_PORT_LOST;

    for (unsigned i = 0; i < TRIES && status != RMG_OK && *lost < LOST_MOST; i++)
        status = k->to->bus->write(k->to->context, word->address, word->value);
    *lost = status == RMG_ERR_PORT_LOST ? *lost + 1u : 0;
    return status;
}

rmg_status rmg_keep_restore(rmg_keeper *k)
{
    rmg_status first = RMG_OK;
    unsigned lost = 0;
    size_t left = 0;

    for (size_t i = k->count; i-- > 0;) {
        const rmg_saved_word word = k->saved[i];
        const rmg_status status = put_back(k, &word, &lost);

        if (status == RMG_OK)
            continue;
        if (first == RMG_OK)
            first = status;
        left++; /* kept at the end of the list, in its order */
        k->saved[k->count - left] = word;
    }
    if (k->count)
        memmove(k->saved, &k->saved[k->count - left], left * sizeof *k->saved);
    k->count = left;
    if (k->slots)
        fill_slots(k);
    return first;
}

void rmg_keep_end(rmg_keeper *k)
{
    free(k->saved);
    free(k->slots);
    memset(k, 0, sizeof *k);
}
