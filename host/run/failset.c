/* The failure set: pages of record numbers, made where something failed. */
#include "rimeglass/failset.h"
#include "base/internal.h"

#include <stdlib.h>
#include <string.h>

#include "fail_record.h"

#define PAGE_BITS  8u
#define PAGE_WORDS (1u << PAGE_BITS)

typedef struct page {
    guint64 number; /* address >> PAGE_BITS; key of the table */
    guint32 records[PAGE_WORDS];
} page;

struct rmg_failset {
    GHashTable *pages;
    page *recent;
    rmg_fail_records records;
    guint64 lost;
};

rmg_failset *rmg_failset_new(void)
{
    rmg_failset *set = g_new0(rmg_failset, 1);

    set->pages = g_hash_table_new_full(g_int64_hash, g_int64_equal, NULL, free);
    rmg_fail_records_begin(&set->records);
    return set;
}

void rmg_failset_free(rmg_failset *set)
{
    if (!set)
        return;
    g_hash_table_destroy(set->pages);
    rmg_fail_records_end(&set->records);
    g_free(set);
}

void rmg_failset_empty(rmg_failset *set)
{
    g_hash_table_remove_all(set->pages);
    rmg_fail_records_end(&set->records);
    rmg_fail_records_begin(&set->records);
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
        set->recent = calloc(1, sizeof *set->recent);
        set->records.starved |= !set->recent;
        if (!set->recent)
            return NULL;
        set->recent->number = number;
        g_hash_table_insert(set->pages, &set->recent->number, set->recent);
    }
    return set->recent;
}

/* Records that no word uses any more are removed once there are many. */
static void tidy(rmg_failset *set)
{
    GHashTableIter each;
    gpointer value;
    guint32 *moved;

    if (!rmg_fail_records_full(&set->records))
        return;
    moved = calloc(set->records.list->len, sizeof *moved);
    set->records.starved |= !moved;
    if (!moved)
        return;
    g_hash_table_iter_init(&each, set->pages);
    while (g_hash_table_iter_next(&each, NULL, &value))
        for (size_t i = 0; i < PAGE_WORDS; i++)
            moved[((page *)value)->records[i]] = 1;
    rmg_fail_records_keep(&set->records, moved);
    g_hash_table_iter_init(&each, set->pages);
    while (g_hash_table_iter_next(&each, NULL, &value))
        for (size_t i = 0; i < PAGE_WORDS; i++) {
            guint32 *record = &((page *)value)->records[i];

            *record = moved[*record];
        }
    free(moved);
}

static void add(rmg_failset *set, page *p, size_t at, rmg_word high, rmg_word low, uint64_t first)
{
    const rmg_fail_record *now = rmg_fail_record_at(&set->records, p->records[at]);
    guint32 next;

    if (!(high & ~now->high) && !(low & ~now->low))
        return;
    next = rmg_fail_record_add(&set->records, p->records[at], high, low, first);
    if (next) {
        p->records[at] = next;
        tidy(set);
    } else {
        set->lost++;
    }
}

void rmg_failset_add(rmg_failset *set, rmg_addr address, rmg_word high, rmg_word low,
                     uint64_t first)
{
    page *p = page_of(set, address);

    if (p)
        add(set, p, (size_t)(address & (PAGE_WORDS - 1u)), high, low, first);
    else
        set->lost++;
}

void rmg_failset_add_block(rmg_failset *set, const rmg_mismatch_block *block, uint64_t first)
{
    page *p = page_of(set, block->first);
    const size_t at = (size_t)(block->first & (PAGE_WORDS - 1u));

    for (size_t i = 0; i < 64; i++) {
        if (!(block->failing >> i & 1u))
            continue;
        if (p)
            add(set, p, at + i, block->actual[i] & ~block->expected,
                block->expected & ~block->actual[i], first);
        else
            set->lost++;
    }
}

void rmg_failset_put(rmg_failset *set, rmg_addr first, uint64_t words, const rmg_fail_part *parts,
                     size_t count)
{
    const guint32 record = rmg_fail_record_of(&set->records, parts, count);

    for (uint64_t n = 0; n < words; n++) {
        page *p = record ? page_of(set, first + n) : NULL;

        if (!p) { /* for the others there is no room either, or hardly any */
            set->lost += words - n;
            break;
        }
        p->records[(first + n) & (PAGE_WORDS - 1u)] = record;
    }
    tidy(set);
}

void rmg_failset_count_pass(rmg_failset *set, const rmg_failset *pass)
{
    GHashTableIter each;
    gpointer value;

    g_hash_table_iter_init(&each, pass->pages);
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        const page *failed = value;
        page *p = g_hash_table_lookup(set->pages, &failed->number);

        for (size_t i = 0; p && i < PAGE_WORDS; i++) {
            const rmg_fail_record *now = rmg_fail_record_at(&pass->records, failed->records[i]);
            guint32 next;

            if (!failed->records[i] || !p->records[i])
                continue;
            next = rmg_fail_record_count(&set->records, p->records[i], now->high, now->low);
            if (next)
                p->records[i] = next;
            else
                set->lost++;
        }
        tidy(set);
    }
}

bool rmg_failset_starved(const rmg_failset *set)
{
    return set->records.starved;
}

void rmg_failset_lose(rmg_failset *set, uint64_t additions)
{
    set->lost += additions;
}

uint64_t rmg_failset_lost(const rmg_failset *set)
{
    return set->lost;
}

static guint32 record_at(const rmg_failset *set, rmg_addr address)
{
    const guint64 number = address >> PAGE_BITS;
    const page *p = g_hash_table_lookup(set->pages, &number);

    return p ? p->records[address & (PAGE_WORDS - 1u)] : 0;
}

void rmg_failset_at(const rmg_failset *set, rmg_addr address, rmg_word *high, rmg_word *low)
{
    const rmg_fail_record *r = rmg_fail_record_at(&set->records, record_at(set, address));

    *high = r->high;
    *low = r->low;
}

const rmg_fail_part *rmg_failset_parts(const rmg_failset *set, rmg_addr address, size_t *count)
{
    const rmg_fail_record *r = rmg_fail_record_at(&set->records, record_at(set, address));

    *count = r->count;
    return r->parts;
}

static gint by_number(gconstpointer a, gconstpointer b)
{
    const page *x = a, *y = b;

    return rmg_by_number(x->number, y->number);
}

/* Each failing word in rising order of addresses, with its record. */
static void each_word(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, guint32 number,
                                    const rmg_fail_record *record),
                      void *context)
{
    GList *pages = g_list_sort(g_hash_table_get_values(set->pages), by_number);

    for (GList *p = pages; p; p = p->next) {
        const page *one = p->data;

        for (size_t i = 0; i < PAGE_WORDS; i++)
            if (one->records[i])
                visit(context, (rmg_addr)(one->number << PAGE_BITS | i), one->records[i],
                      rmg_fail_record_at(&set->records, one->records[i]));
    }
    g_list_free(pages);
}

/* A visit as the caller wants it. */
typedef struct visiting {
    void (*masks)(void *context, rmg_addr address, rmg_word high, rmg_word low);
    void (*parts)(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                  size_t count);
    void *context;
} visiting;

static void visit_word(void *context, rmg_addr address, guint32 number, const rmg_fail_record *r)
{
    const visiting *v = context;

    if (v->masks)
        v->masks(v->context, address, r->high, r->low);
    else
        v->parts(v->context, address, number, r->parts, r->count);
}

void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context)
{
    visiting v = {.masks = visit, .context = context};

    each_word(set, visit_word, &v);
}

void rmg_failset_each_record(const rmg_failset *set,
                             void (*visit)(void *context, rmg_addr address, uint32_t record,
                                           const rmg_fail_part *parts, size_t count),
                             void *context)
{
    visiting v = {.parts = visit, .context = context};

    each_word(set, visit_word, &v);
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
    const rmg_word failed = (high | low) & c->bits;

    if (!failed || (c->where && !rmg_where_holds(c->where, address)))
        return;
    c->words++;
    c->pairs += (uint64_t)__builtin_popcountll(failed);
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
