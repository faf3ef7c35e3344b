/* The failure set gone through: by words, by runs of words that failed alike, and counted. */
#include "base/internal.h"

#include "failset_page.h"

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

/* Those in stretches that have words from first to last. */
static void each_run_from(const rmg_failset *set, rmg_addr first, rmg_addr last,
                          rmg_run_visit *visit, void *context)
{
    const GPtrArray *pages = sorted(set);

    for (guint n = 0; n < pages->len; n++) {
        const page *p = pages->pdata[n];

        if (p->number < first >> PAGE_BITS || p->number > last >> PAGE_BITS)
            continue;
        if (p->records)
            each_own(set, p, visit, context);
        else
            each_alike(set, p, visit, context);
    }
}

void rmg_failset_each_run(const rmg_failset *set, rmg_run_visit *visit, void *context)
{
    each_run_from(set, 0, (rmg_addr) ~(rmg_addr)0, visit, context);
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

    each_run_from(set, where ? where->first : 0, where ? where->last : (rmg_addr) ~(rmg_addr)0,
                  count, &c);
    return c.words;
}

uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {set, where, bits, 0, 0};

    each_run_from(set, where ? where->first : 0, where ? where->last : (rmg_addr) ~(rmg_addr)0,
                  count, &c);
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
