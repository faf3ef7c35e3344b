/* Saving words before they are first written, and putting them back. */
#include "keep.h"

typedef struct saved_word {
    gint64 address; /* key of the table too */
    rmg_word value;
} saved_word;

static rmg_status keep_read(void *context, rmg_addr address, rmg_word *value)
{
    const keeper *k = context;

    return k->to->bus->read(k->to->context, address, value);
}

static rmg_status keep_write(void *context, rmg_addr address, rmg_word value)
{
    keeper *k = context;
    const gint64 key = (gint64)address;

    if (!g_hash_table_contains(k->seen, &key)) {
        saved_word *word = g_new(saved_word, 1);
        const rmg_status status = k->to->bus->read(k->to->context, address, &word->value);

        if (status != RMG_OK) {
            g_free(word);
            return status;
        }
        word->address = key;
        g_hash_table_add(k->seen, &word->address);
        g_array_append_val(k->saved, *word);
    }
    return k->to->bus->write(k->to->context, address, value);
}

static rmg_status keep_wait(void *context, uint32_t hold_us)
{
    const keeper *k = context;

    return k->to->bus->wait ? k->to->bus->wait(k->to->context, hold_us) : RMG_ERR_PORT_CANNOT;
}

static const rmg_bus keep_bus = {
    .version = RMG_BUS_VERSION, .read = keep_read, .write = keep_write, .wait = keep_wait};

void rmg_keep_begin(keeper *k, const rmg_target *to)
{
    k->to = to;
    k->seen = g_hash_table_new_full(g_int64_hash, g_int64_equal, g_free, NULL);
    k->saved = g_array_new(FALSE, FALSE, sizeof(saved_word));
    k->target.bus = &keep_bus;
    k->target.context = k;
    k->target.mask = to->mask;
}

rmg_status rmg_keep_restore(keeper *k)
{
    rmg_status first = RMG_OK;

    for (guint i = k->saved->len; i-- > 0;) {
        const saved_word *word = &g_array_index(k->saved, saved_word, i);
        const rmg_status status =
            k->to->bus->write(k->to->context, (rmg_addr)word->address, word->value & k->to->mask);

        if (first == RMG_OK)
            first = status;
    }
    g_array_set_size(k->saved, 0);
    g_hash_table_remove_all(k->seen);
    return first;
}

void rmg_keep_end(keeper *k)
{
    g_hash_table_destroy(k->seen);
    g_array_free(k->saved, TRUE);
}
