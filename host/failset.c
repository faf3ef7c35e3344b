/* The failure set: pages of two masks a word, made where something failed. */
#include "rimeglass/failset.h"

#include <glib.h>

#define PAGE_BITS  8u
#define PAGE_WORDS (1u << PAGE_BITS)

typedef struct page {
    guint64 number; /* address >> PAGE_BITS; key of the table */
    rmg_word high[PAGE_WORDS];
    rmg_word low[PAGE_WORDS];
} page;

struct rmg_failset {
    GHashTable *pages;
    page *recent;
    guint64 lost;
};

rmg_failset *rmg_failset_new(void)
{
    rmg_failset *set = g_new0(rmg_failset, 1);

    set->pages = g_hash_table_new_full(g_int64_hash, g_int64_equal, NULL, g_free);
    return set;
}

void rmg_failset_free(rmg_failset *set)
{
    if (!set)
        return;
    g_hash_table_destroy(set->pages);
    g_free(set);
}

void rmg_failset_empty(rmg_failset *set)
{
    g_hash_table_remove_all(set->pages);
    set->recent = NULL;
    set->lost = 0;
}

/* The page of an address; NULL: there is room for no more. */
static page *page_of(rmg_failset *set, rmg_addr address)
{
    const guint64 number = address >> PAGE_BITS;

    if (set->recent && set->recent->number == number)
        return set->recent;
    set->recent = g_hash_table_lookup(set->pages, &number);
    if (!set->recent && g_hash_table_size(set->pages) < RMG_FAILSET_PAGES) {
        set->recent = g_new0(page, 1);
        set->recent->number = number;
        g_hash_table_insert(set->pages, &set->recent->number, set->recent);
    }
    return set->recent;
}

void rmg_failset_add(rmg_failset *set, rmg_addr address, rmg_word high, rmg_word low)
{
    page *p = page_of(set, address);
    const size_t at = (size_t)(address & (PAGE_WORDS - 1u));

    if (p) {
        p->high[at] |= high;
        p->low[at] |= low;
    } else {
        set->lost++;
    }
}

void rmg_failset_add_block(rmg_failset *set, const rmg_mismatch_block *block)
{
    page *p = page_of(set, block->first);
    const size_t at = (size_t)(block->first & (PAGE_WORDS - 1u));

    for (size_t i = 0; i < 64; i++) {
        if (!(block->failing >> i & 1u))
            continue;
        if (p) {
            p->high[at + i] |= block->actual[i] & ~block->expected;
            p->low[at + i] |= block->expected & ~block->actual[i];
        } else {
            set->lost++;
        }
    }
}

uint64_t rmg_failset_lost(const rmg_failset *set)
{
    return set->lost;
}

void rmg_failset_at(const rmg_failset *set, rmg_addr address, rmg_word *high, rmg_word *low)
{
    const guint64 number = address >> PAGE_BITS;
    const page *p = g_hash_table_lookup(set->pages, &number);
    const size_t at = (size_t)(address & (PAGE_WORDS - 1u));

    *high = p ? p->high[at] : 0;
    *low = p ? p->low[at] : 0;
}

static gint by_number(gconstpointer a, gconstpointer b)
{
    const page *x = a, *y = b;

    return (x->number > y->number) - (x->number < y->number);
}

void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context)
{
    GList *pages = g_list_sort(g_hash_table_get_values(set->pages), by_number);

    for (GList *p = pages; p; p = p->next) {
        const page *one = p->data;

        for (size_t i = 0; i < PAGE_WORDS; i++)
            if (one->high[i] | one->low[i])
                visit(context, (rmg_addr)(one->number << PAGE_BITS | i), one->high[i], one->low[i]);
    }
    g_list_free(pages);
}

typedef struct counter {
    const rmg_where *where;
    rmg_word bits;
    uint64_t words;
    uint64_t pairs;
} counter;

static void count(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    counter *c = context;
    rmg_word failed = (high | low) & c->bits;

    if (!failed || (c->where && !rmg_where_holds(c->where, address)))
        return;
    c->words++;
    for (; failed; failed &= failed - 1u)
        c->pairs++;
}

uint64_t rmg_failset_words(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {where, bits, 0, 0};

    rmg_failset_each(set, count, &c);
    return c.words;
}

uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {where, bits, 0, 0};

    rmg_failset_each(set, count, &c);
    return c.pairs;
}

static uint64_t mix(uint64_t x)
{
    x = (x ^ x >> 32) * UINT64_C(0xD6E8FEB86659FD93);
    x = (x ^ x >> 32) * UINT64_C(0xD6E8FEB86659FD93);
    return x ^ x >> 32;
}

static void add_to_print(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    uint64_t *sum = context;

    *sum += mix(mix(address + 1u) ^ (high | low));
}

uint64_t rmg_failset_fingerprint(const rmg_failset *set)
{
    uint64_t sum = 0;

    rmg_failset_each(set, add_to_print, &sum);
    return sum;
}
