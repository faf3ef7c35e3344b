/* The failure set: pages of record numbers, made where something failed. */
#include "rimeglass/failset.h"
#include "base/internal.h"

#include <stdlib.h>
#include <string.h>

#include "fail_record.h"

#define PAGE_BITS  8u
#define PAGE_WORDS (1u << PAGE_BITS)

/* Words that failed alike need no record each: a chip that is dead fails in millions; of banks that
 * low address lines choose, in every other word, or fourth. */
typedef struct page {
    guint64 number;    /* address >> PAGE_BITS; key of the table */
    guint32 *records;  /* [PAGE_WORDS], or NULL: */
    guint32 alike[16]; /* the records of its words, by their lowest four address bits */
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
    return p->records ? p->records[at] : p->alike[at & 15u];
}

/* Gives each word of the page a record of its own; false: there is no memory for it. */
static bool own_records(rmg_failset *set, page *p)
{
    if (!p->records) {
        p->records = malloc(PAGE_WORDS * sizeof *p->records);
        set->records.starved |= !p->records;
        for (size_t i = 0; p->records && i < PAGE_WORDS; i++)
            p->records[i] = p->alike[i & 15u];
    }
    return p->records != NULL;
}

static bool set_record(rmg_failset *set, page *p, size_t at, guint32 record)
{
    if (record_of(p, at) == record)
        return true;
    if (own_records(set, p))
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

        for (size_t i = 0; i < (p->records ? PAGE_WORDS : 16u); i++)
            moved[record_of(p, i)] = 1;
    }
    rmg_fail_records_keep(&set->records, moved);
    g_hash_table_iter_init(&each, set->pages);
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        page *p = value;

        for (size_t i = 0; !p->records && i < 16u; i++)
            p->alike[i] = moved[p->alike[i]];
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

/* The same for the words of a page without records of their own that are in `which`. */
static void add_to_all(rmg_failset *set, page *p, uint16_t which, rmg_word high, rmg_word low,
                       uint64_t first)
{
    guint32 from = 0, to = 0; /* how the last one went: most go the same way */
    bool known = false;

    for (size_t i = 0; i < 16; i++) {
        const guint32 number = p->alike[i];
        const rmg_fail_record *now = rmg_fail_record_at(&set->records, number);

        if (!((unsigned)which >> i & 1u) || (!(high & ~now->high) && !(low & ~now->low)))
            continue;
        if (!known || from != number)
            to = rmg_fail_record_add(&set->records, number, high, low, first);
        known = true;
        from = number;
        if (to)
            p->alike[i] = to;
        else
            set->lost += PAGE_WORDS / 16u;
    }
    tidy(set);
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
            add_to_all(set, p, run->which, high, low, first);
        else
            for (size_t i = 0; i < here; i++) {
                if (!rmg_in_run(run, (rmg_addr)(at + i)))
                    continue;
                if (p)
                    add(set, p, (size_t)(at & (PAGE_WORDS - 1u)) + i, high, low, first);
                else
                    set->lost++;
            }
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
            for (size_t i = 0; i < 16; i++)
                p->alike[i] = record;
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

/* Has every word of the page the same record? */
static bool is_uniform(const page *p)
{
    bool same = !p->records;

    for (size_t i = 1; i < 16; i++)
        same &= p->alike[i] == p->alike[0];
    return same;
}

/* A pass more for a word of a page; where the page has no records of its own, for all like it. */
static void count_word(rmg_failset *set, page *p, size_t at, const rmg_fail_record *failed)
{
    const guint32 number = record_of(p, at);
    const bool alike = !p->records;
    guint32 next;

    if (!(failed->high | failed->low) || !number)
        return;
    next = rmg_fail_record_count(&set->records, number, failed->high, failed->low);
    if (next && alike)
        p->alike[at & 15u] = next;
    else if (!next || !set_record(set, p, at, next))
        set->lost += alike ? PAGE_WORDS / 16u : 1u;
}

void rmg_failset_count_pass(rmg_failset *set, const rmg_failset *pass)
{
    GHashTableIter each;
    gpointer value;

    g_hash_table_iter_init(&each, pass->pages);
    while (g_hash_table_iter_next(&each, NULL, &value)) {
        const page *failed = value;
        page *p = g_hash_table_lookup(set->pages, &failed->number);
        size_t count = 16;

        if (p && failed->records && !own_records(set, p))
            return;
        if (p && p->records)
            count = PAGE_WORDS;
        if (p && count == 16 && is_uniform(p) && is_uniform(failed)) {
            const uint64_t lost = set->lost;

            count_word(set, p, 0, rmg_fail_record_at(&pass->records, failed->alike[0]));
            set->lost += 15u * (set->lost - lost); /* it stands for all of them */
            for (size_t i = 1; i < 16; i++)
                p->alike[i] = p->alike[0];
            count = 0;
        }
        for (size_t i = 0; p && i < count; i++)
            count_word(set, p, i, rmg_fail_record_at(&pass->records, record_of(failed, i)));
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
    size_t end = p && !is_uniform(p) ? at + 1u : PAGE_WORDS;

    while (end < PAGE_WORDS && record_of(p, end) == record_of(p, at))
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

bool rmg_failset_alternates(const rmg_failset *set, rmg_addr address)
{
    const guint64 number = address >> PAGE_BITS;
    const page *p = g_hash_table_lookup(set->pages, &number);

    return !p || !p->records;
}

/* The runs of a page whose words have records of their own. */
static void each_own(const rmg_failset *set, const page *p, rmg_run_visit *visit, void *context)
{
    for (size_t i = 0, end; i < PAGE_WORDS; i = end) {
        const guint32 number = p->records[i];
        const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);

        for (end = i + 1u; end < PAGE_WORDS && p->records[end] == number;)
            end++;
        if (number)
            visit(context, (rmg_addr)(p->number << PAGE_BITS | i), end - i, RMG_EVERY_WORD, number,
                  r->parts, r->count);
    }
}

/* The same of the others: one for each record that they have. */
static void each_alike(const rmg_failset *set, const page *p, rmg_run_visit *visit, void *context)
{
    uint16_t done = 0;

    for (size_t i = 0; i < 16; i++) {
        const guint32 number = p->alike[i];
        const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);
        uint16_t which = 0;

        if (!number || ((unsigned)done >> i & 1u))
            continue;
        for (size_t n = i; n < 16; n++)
            which |= (uint16_t)((p->alike[n] == number) << n);
        done |= which;
        visit(context, (rmg_addr)(p->number << PAGE_BITS), PAGE_WORDS, which, number, r->parts,
              r->count);
    }
}

void rmg_failset_each_run(const rmg_failset *set, rmg_run_visit *visit, void *context)
{
    const GPtrArray *pages = sorted(set);

    for (guint n = 0; n < pages->len; n++) {
        const page *p = pages->pdata[n];

        if (p->records)
            each_own(set, p, visit, context);
        else
            each_alike(set, p, visit, context);
    }
}

/* A visit as the caller wants it. */
typedef struct visiting {
    void (*masks)(void *context, rmg_addr address, rmg_word high, rmg_word low);
    void (*parts)(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                  size_t count);
    void *context;
} visiting;

/* Each failing word in rising order of addresses. */
static void each_word(const rmg_failset *set, const visiting *v)
{
    const GPtrArray *pages = sorted(set);

    for (guint n = 0; n < pages->len; n++) {
        const page *p = pages->pdata[n];

        for (size_t i = 0; i < PAGE_WORDS; i++) {
            const guint32 number = record_of(p, i);
            const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);
            const rmg_addr address = (rmg_addr)(p->number << PAGE_BITS | i);

            if (number && v->masks)
                v->masks(v->context, address, r->high, r->low);
            else if (number)
                v->parts(v->context, address, number, r->parts, r->count);
        }
    }
}

void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context)
{
    each_word(set, &(visiting){.masks = visit, .context = context});
}

void rmg_failset_each_record(const rmg_failset *set,
                             void (*visit)(void *context, rmg_addr address, uint32_t record,
                                           const rmg_fail_part *parts, size_t count),
                             void *context)
{
    each_word(set, &(visiting){.parts = visit, .context = context});
}

typedef struct counter {
    const rmg_failset *set;
    const rmg_where *where;
    rmg_word bits;
    uint64_t words;
    uint64_t pairs;
} counter;

/* How many of these words, all of one page, are at addresses of `where`. */
static size_t count_where(const rmg_where *where, rmg_addr first, size_t words, uint16_t which)
{
    const size_t step = words == PAGE_WORDS ? 16u : 1u; /* of one, so many are alike */
    const bool within = !where || (where->first <= first && first + (words - 1u) <= where->last);
    const bool alike = within && step > 1 && (!where || !(where->mask & (PAGE_WORDS - 16u)));
    size_t count = 0;

    for (size_t i = 0; i < (alike ? 16u : words); i++)
        count += ((unsigned)which >> ((first + i) & 15u) & 1u) &&
                 (!where || rmg_where_holds(where, (rmg_addr)(first + i)));
    return alike ? count * step : count;
}

static void count(void *context, rmg_addr first, size_t words, uint16_t which, uint32_t record,
                  const rmg_fail_part *parts, size_t part_count)
{
    counter *c = context;
    const rmg_fail_record *r = rmg_fail_record_at(&c->set->records, record);
    const rmg_word failed = (r->high | r->low) & c->bits;
    const size_t here = failed ? count_where(c->where, first, words, which) : 0;

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
    uint64_t sum;
    uint64_t weights[16]; /* of all words of a page with these lowest address bits */
} print;

static void add_to_print(void *context, rmg_addr first, size_t words, uint16_t which,
                         uint32_t record, const rmg_fail_part *parts, size_t count)
{
    print *p = context;
    const rmg_fail_record *r = rmg_fail_record_at(&p->set->records, record);
    const uint64_t here = mix(mix((first >> PAGE_BITS) + 1u) ^ (r->high | r->low));
    uint64_t weight = 0;

    (void)parts;
    (void)count;
    for (size_t i = 0; words == PAGE_WORDS && i < 16; i++)
        weight += (unsigned)which >> i & 1u ? p->weights[i] : 0;
    for (size_t i = 0; words < PAGE_WORDS && i < words; i++)
        weight += weight_of((size_t)(first & (PAGE_WORDS - 1u)) + i);
    p->sum += here * weight;
}

uint64_t rmg_failset_fingerprint(const rmg_failset *set)
{
    print p = {.set = set};

    for (size_t i = 0; i < PAGE_WORDS; i++)
        p.weights[i & 15u] += weight_of(i);
    rmg_failset_each_run(set, add_to_print, &p);
    return p.sum;
}
