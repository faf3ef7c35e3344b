/* The failure set: pages of record numbers, made where something failed. */
#include "rimeglass/failset.h"
#include "base/internal.h"

#include <stdlib.h>
#include <string.h>

#include "fail_record.h"

#define PAGE_BITS  8u
#define PAGE_WORDS (1u << PAGE_BITS)

/* Words that all failed alike need no record each: a chip that is dead fails in millions. */
typedef struct page {
    guint64 number;   /* address >> PAGE_BITS; key of the table */
    guint32 *records; /* [PAGE_WORDS], or NULL: */
    guint32 all;      /* the record of each of its words */
} page;

/* The pages by number; sorted when they are gone through. */
typedef struct page_order {
    GPtrArray *pages;
    bool sorted;
} page_order;

struct rmg_failset {
    GHashTable *pages;
    page_order *order;
    page *recent;
    rmg_fail_records records;
    guint64 lost;
};

static void free_page(gpointer one)
{
    page *p = one;

    free(p->records);
    free(p);
}

rmg_failset *rmg_failset_new(void)
{
    rmg_failset *set = g_new0(rmg_failset, 1);

    set->pages = g_hash_table_new_full(g_int64_hash, g_int64_equal, NULL, free_page);
    set->order = g_new0(page_order, 1);
    set->order->pages = g_ptr_array_new();
    rmg_fail_records_begin(&set->records);
    return set;
}

void rmg_failset_free(rmg_failset *set)
{
    if (!set)
        return;
    g_hash_table_destroy(set->pages);
    g_ptr_array_free(set->order->pages, TRUE);
    g_free(set->order);
    rmg_fail_records_end(&set->records);
    g_free(set);
}

void rmg_failset_empty(rmg_failset *set)
{
    g_hash_table_remove_all(set->pages);
    g_ptr_array_set_size(set->order->pages, 0);
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
        g_ptr_array_add(set->order->pages, set->recent);
        set->order->sorted = false;
    }
    return set->recent;
}

static guint32 record_of(const page *p, size_t at)
{
    return p->records ? p->records[at] : p->all;
}

/* Gives a word its record; false: there is no memory for it. */
static bool set_record(rmg_failset *set, page *p, size_t at, guint32 record)
{
    if (record_of(p, at) == record)
        return true;
    if (!p->records) {
        p->records = malloc(PAGE_WORDS * sizeof *p->records);
        set->records.starved |= !p->records;
        for (size_t i = 0; p->records && i < PAGE_WORDS; i++)
            p->records[i] = p->all;
    }
    if (p->records)
        p->records[at] = record;
    return p->records != NULL;
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
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        const page *p = value;

        moved[p->all] = !p->records || moved[p->all];
        for (size_t i = 0; p->records && i < PAGE_WORDS; i++)
            moved[p->records[i]] = 1;
    }
    rmg_fail_records_keep(&set->records, moved);
    g_hash_table_iter_init(&each, set->pages);
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        page *p = value;

        p->all = p->records ? 0 : moved[p->all];
        for (size_t i = 0; p->records && i < PAGE_WORDS; i++)
            p->records[i] = moved[p->records[i]];
    }
    free(moved);
}

static void add(rmg_failset *set, page *p, size_t at, rmg_word high, rmg_word low, uint64_t first)
{
    const guint32 number = record_of(p, at);
    const rmg_fail_record *now = rmg_fail_record_at(&set->records, number);
    guint32 next;

    if (!(high & ~now->high) && !(low & ~now->low))
        return;
    next = rmg_fail_record_add(&set->records, number, high, low, first);
    if (next && set_record(set, p, at, next))
        tidy(set);
    else
        set->lost++;
}

/* The same for all words of a page that has one record. */
static void add_to_all(rmg_failset *set, page *p, rmg_word high, rmg_word low, uint64_t first)
{
    const rmg_fail_record *now = rmg_fail_record_at(&set->records, p->all);
    guint32 next;

    if (!(high & ~now->high) && !(low & ~now->low))
        return;
    next = rmg_fail_record_add(&set->records, p->all, high, low, first);
    if (next) {
        p->all = next;
        tidy(set);
    } else {
        set->lost += PAGE_WORDS;
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

/* The words from `at` on that lie in its page, of so many. */
static size_t in_page(rmg_addr at, uint64_t words)
{
    const size_t rest = PAGE_WORDS - (size_t)(at & (PAGE_WORDS - 1u));

    return words < rest ? (size_t)words : rest;
}

void rmg_failset_add_run(rmg_failset *set, const rmg_mismatch_run *run, uint64_t first)
{
    const rmg_word high = run->actual & ~run->expected, low = run->expected & ~run->actual;

    for (uint64_t done = 0; done < run->words;) {
        const rmg_addr at = (rmg_addr)(run->first + done);
        const size_t here = in_page(at, run->words - done);
        page *p = page_of(set, at);

        if (p && here == PAGE_WORDS && !p->records)
            add_to_all(set, p, high, low, first);
        else if (p)
            for (size_t i = 0; i < here; i++)
                add(set, p, (size_t)(at & (PAGE_WORDS - 1u)) + i, high, low, first);
        else
            set->lost += here;
        done += here;
    }
}

void rmg_failset_put(rmg_failset *set, rmg_addr first, uint64_t words, const rmg_fail_part *parts,
                     size_t count)
{
    const guint32 record = rmg_fail_record_of(&set->records, parts, count);

    for (uint64_t done = 0; done < words;) {
        const rmg_addr at = (rmg_addr)(first + done);
        const size_t here = in_page(at, words - done);
        page *p = record ? page_of(set, at) : NULL;
        bool put = p != NULL;

        if (p && here == PAGE_WORDS) {
            free(p->records);
            p->records = NULL;
            p->all = record;
        }
        for (size_t i = 0; put && here < PAGE_WORDS && i < here; i++)
            put = set_record(set, p, (size_t)(at & (PAGE_WORDS - 1u)) + i, record);
        if (!put) { /* for the others there is no room either, or hardly any */
            set->lost += words - done;
            break;
        }
        done += here;
    }
    tidy(set);
}

/* A pass more for a word of a page, or for all of them. */
static void count_word(rmg_failset *set, page *p, size_t at, const rmg_fail_record *failed,
                       bool all)
{
    const guint32 number = record_of(p, at);
    guint32 next;

    if (!(failed->high | failed->low) || !number)
        return;
    next = rmg_fail_record_count(&set->records, number, failed->high, failed->low);
    if (next && all)
        p->all = next;
    else if (!next || !set_record(set, p, at, next))
        set->lost += all ? PAGE_WORDS : 1u;
}

void rmg_failset_count_pass(rmg_failset *set, const rmg_failset *pass)
{
    GHashTableIter each;
    gpointer value;

    g_hash_table_iter_init(&each, pass->pages);
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        const page *failed = value;
        page *p = g_hash_table_lookup(set->pages, &failed->number);
        const bool all = p && !failed->records && !p->records;

        for (size_t i = 0; p && i < (all ? 1u : PAGE_WORDS); i++)
            count_word(set, p, i, rmg_fail_record_at(&pass->records, record_of(failed, i)), all);
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

    return p ? record_of(p, (size_t)(address & (PAGE_WORDS - 1u))) : 0;
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

const rmg_fail_part *rmg_failset_run_at(const rmg_failset *set, rmg_addr address, size_t *words,
                                        size_t *count)
{
    const guint64 number = address >> PAGE_BITS;
    const page *p = set->recent && set->recent->number == number
                        ? set->recent
                        : g_hash_table_lookup(set->pages, &number);
    const size_t at = (size_t)(address & (PAGE_WORDS - 1u));
    const rmg_fail_record *r = rmg_fail_record_at(&set->records, p ? record_of(p, at) : 0);
    size_t end = p && p->records ? at + 1u : PAGE_WORDS;

    while (end < PAGE_WORDS && p->records[end] == p->records[at])
        end++;
    *words = end - at;
    *count = r->count;
    return r->parts;
}

static gint by_number(gconstpointer a, gconstpointer b)
{
    const page *x = *(page *const *)a, *y = *(page *const *)b;

    return rmg_by_number(x->number, y->number);
}

/* The pages, rising. */
static const GPtrArray *sorted(const rmg_failset *set)
{
    page_order *order = set->order;

    if (!order->sorted)
        g_ptr_array_sort(order->pages, by_number);
    order->sorted = true;
    return order->pages;
}

void rmg_failset_each_run(const rmg_failset *set,
                          void (*visit)(void *context, rmg_addr first, size_t words,
                                        uint32_t record, const rmg_fail_part *parts, size_t count),
                          void *context)
{
    const GPtrArray *pages = sorted(set);

    for (guint n = 0; n < pages->len; n++) {
        const page *p = pages->pdata[n];

        for (size_t i = 0, end; i < PAGE_WORDS; i = end) {
            const guint32 number = record_of(p, i);
            const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);

            end = p->records ? i + 1u : PAGE_WORDS;
            while (end < PAGE_WORDS && p->records[end] == number)
                end++;
            if (number)
                visit(context, (rmg_addr)(p->number << PAGE_BITS | i), end - i, number, r->parts,
                      r->count);
        }
    }
}

/* A visit as the caller wants it. */
typedef struct visiting {
    void (*masks)(void *context, rmg_addr address, rmg_word high, rmg_word low);
    void (*parts)(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                  size_t count);
    const rmg_failset *set;
    void *context;
} visiting;

static void visit_words(void *context, rmg_addr first, size_t words, uint32_t record,
                        const rmg_fail_part *parts, size_t count)
{
    const visiting *v = context;
    const rmg_fail_record *r = rmg_fail_record_at(&v->set->records, record);

    for (size_t i = 0; i < words; i++)
        if (v->masks)
            v->masks(v->context, (rmg_addr)(first + i), r->high, r->low);
        else
            v->parts(v->context, (rmg_addr)(first + i), record, parts, count);
}

void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context)
{
    visiting v = {.masks = visit, .set = set, .context = context};

    rmg_failset_each_run(set, visit_words, &v);
}

void rmg_failset_each_record(const rmg_failset *set,
                             void (*visit)(void *context, rmg_addr address, uint32_t record,
                                           const rmg_fail_part *parts, size_t count),
                             void *context)
{
    visiting v = {.parts = visit, .set = set, .context = context};

    rmg_failset_each_run(set, visit_words, &v);
}

typedef struct counter {
    const rmg_failset *set;
    const rmg_where *where;
    rmg_word bits;
    uint64_t words;
    uint64_t pairs;
} counter;

/* How many of these words, all of one page, are at addresses of `where`. */
static size_t count_where(const rmg_where *where, rmg_addr first, size_t words)
{
    size_t count = 0;

    if (!where)
        return words;
    if (!(where->mask & (PAGE_WORDS - 1u)) && where->first <= first &&
        first + (words - 1u) <= where->last)
        return rmg_where_holds(where, first) ? words : 0;
    for (size_t i = 0; i < words; i++)
        count += rmg_where_holds(where, (rmg_addr)(first + i));
    return count;
}

static void count(void *context, rmg_addr first, size_t words, uint32_t record,
                  const rmg_fail_part *parts, size_t part_count)
{
    counter *c = context;
    const rmg_fail_record *r = rmg_fail_record_at(&c->set->records, record);
    const rmg_word failed = (r->high | r->low) & c->bits;
    const size_t here = failed ? count_where(c->where, first, words) : 0;

    (void)parts;
    (void)part_count;
    c->words += here;
    c->pairs += here * (uint64_t)__builtin_popcountll(failed);
}

uint64_t rmg_failset_words(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {set, where, bits, 0, 0};

    rmg_failset_each_run(set, count, &c);
    return c.words;
}

uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {set, where, bits, 0, 0};

    rmg_failset_each_run(set, count, &c);
    return c.pairs;
}

static uint64_t mix(uint64_t x)
{
    x = (x ^ x >> 32) * UINT64_C(0xD6E8FEB86659FD93);
    x = (x ^ x >> 32) * UINT64_C(0xD6E8FEB86659FD93);
    return x ^ x >> 32;
}

/* What a word counts for within its page: an odd number, at random. */
static uint64_t weight_of(size_t at)
{
    return mix(at + UINT64_C(0x52696D65)) | 1u;
}

typedef struct print {
    const rmg_failset *set;
    uint64_t sum, page_weight; /* of all words of a page */
} print;

static void add_to_print(void *context, rmg_addr first, size_t words, uint32_t record,
                         const rmg_fail_part *parts, size_t count)
{
    print *p = context;
    const rmg_fail_record *r = rmg_fail_record_at(&p->set->records, record);
    const uint64_t here = mix(mix((first >> PAGE_BITS) + 1u) ^ (r->high | r->low));
    uint64_t weight = words == PAGE_WORDS ? p->page_weight : 0;

    (void)parts;
    (void)count;
    for (size_t i = 0; words < PAGE_WORDS && i < words; i++)
        weight += weight_of((size_t)(first & (PAGE_WORDS - 1u)) + i);
    p->sum += here * weight;
}

uint64_t rmg_failset_fingerprint(const rmg_failset *set)
{
    print p = {.set = set};

    for (size_t i = 0; i < PAGE_WORDS; i++)
        p.page_weight += weight_of(i);
    rmg_failset_each_run(set, add_to_print, &p);
    return p.sum;
}
