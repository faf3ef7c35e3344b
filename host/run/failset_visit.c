/* The failure set gone through: by words, by runs of words that failed alike, and counted. */
#include "base/internal.h"

#include <string.h>

#include "failset_page.h"

static guint32 record_at(const rmg_failset *set, rmg_addr address)
{
    const page *p = rmg_failset_page(set, address >> PAGE_BITS);

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
    const page *p = rmg_failset_page(set, address >> PAGE_BITS);
    const size_t at = (size_t)(address & (PAGE_WORDS - 1u));
    const rmg_fail_record *r = rmg_fail_record_at(&set->records, p ? record_of(p, at) : 0);
    size_t end = p && !is_uniform(p) ? at + 1u : PAGE_WORDS;

    while (end < PAGE_WORDS && record_of(p, end) == record_of(p, at))
        end++;
    *words = end - at;
    *count = r->count;
    return r->parts;
}

bool rmg_failset_alternates(const rmg_failset *set, rmg_addr address)
{
    const page *p = rmg_failset_page(set, address >> PAGE_BITS);

    return !p || !p->records;
}

/* The runs of a page whose words have records of their own. */
static void each_own(const rmg_failset *set, const page *p, rmg_run_visit *visit, void *context)
{
    for (size_t i = p->first, end; i < p->after; i = end) {
        const guint32 number = p->records[i];
        const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);

        for (end = i + 1u; end < p->after && p->records[end] == number;)
            end++;
        if (number)
            visit(context, (rmg_addr)(p->number << PAGE_BITS | i), end - i, RMG_EVERY_WORD, number,
                  r->parts, r->count);
    }
}

/* The same of the others: one for each record that they have. */
static void each_alike(const rmg_failset *set, const page *p, rmg_run_visit *visit, void *context)
{
    uint16_t done = is_uniform(p) ? 0xFFFEu : 0;

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

static void each_run_of(const rmg_failset *set, const page *p, rmg_run_visit *visit, void *context)
{
    if (p->records)
        each_own(set, p, visit, context);
    else
        each_alike(set, p, visit, context);
}

void rmg_failset_each_run(const rmg_failset *set, rmg_run_visit *visit, void *context)
{
    const GPtrArray *pages = rmg_failset_sorted(set);

    for (guint n = 0; n < pages->len; n++)
        each_run_of(set, pages->pdata[n], visit, context);
}

bool rmg_failset_next(const rmg_failset *set, const rmg_failset *other, rmg_addr address,
                      rmg_addr *first, rmg_addr *many)
{
    const page_run *run = rmg_run_from(set, address >> PAGE_BITS), *beside;
    guint64 from, to;

    if (!run)
        return false;
    from = MAX(rmg_run_first(set, run), address >> PAGE_BITS);
    to = rmg_run_last(set, run);
    beside = rmg_run_from(other, from);
    if (beside && rmg_run_first(other, beside) > from)
        to = MIN(to, rmg_run_first(other, beside) - 1u);
    else if (beside)
        to = MIN(to, rmg_run_last(other, beside));
    *first = (rmg_addr)(from << PAGE_BITS);
    *many = (rmg_addr)(to - from + 1u);
    return true;
}

void rmg_failset_stretch(const rmg_failset *set, rmg_addr first, rmg_run_visit *visit,
                         void *context)
{
    const page *p = rmg_failset_page(set, first >> PAGE_BITS);

    if (p)
        each_run_of(set, p, visit, context);
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
    const GPtrArray *pages = rmg_failset_sorted(set);

    for (guint n = 0; n < pages->len; n++) {
        const page *p = pages->pdata[n];

        for (size_t i = p->records ? p->first : 0; i < (p->records ? p->after : PAGE_WORDS); i++) {
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
    guint pages; /* that are like the one that is visited, with it */
    uint64_t words;
    uint64_t *by_bit; /* [RMG_WORD_BITS] words at which each failed, or NULL */
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
    const uint64_t here =
        failed ? (uint64_t)count_where(c->where, first, words, which) * c->pages : 0;

    (void)parts;
    (void)part_count;
    c->words += here;
    for (rmg_word left = c->by_bit && here ? failed : 0; left; left &= left - 1u)
        c->by_bit[__builtin_ctzll(left)] += here;
}

/* Does the place hold the same words of every page from first to last, or none of any? */
static bool is_of_all_alike(const rmg_where *where, rmg_addr first, rmg_addr last)
{
    rmg_addr varies = first ^ last;

    if (!where)
        return true;
    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        varies |= varies >> shift;
    return where->first <= first && last <= where->last &&
           !(where->mask & varies & ~(rmg_addr)(PAGE_WORDS - 1u));
}

static void count_all(counter *c)
{
    const GPtrArray *pages = rmg_failset_sorted(c->set);
    const GArray *runs = rmg_failset_runs(c->set);

    for (guint n = 0; n < runs->len; n++) {
        const page_run *run = &g_array_index(runs, page_run, n);
        const page *low = pages->pdata[run->first],
                   *high = pages->pdata[run->first + run->count - 1u];
        const rmg_addr first = (rmg_addr)(low->number << PAGE_BITS);
        const rmg_addr last = (rmg_addr)(high->number << PAGE_BITS | (PAGE_WORDS - 1u));

        if (c->where && (last < c->where->first || first > c->where->last))
            continue;
        c->pages = is_of_all_alike(c->where, first, last) ? run->count : 1u;
        for (guint i = 0; i < run->count; i += c->pages)
            each_run_of(c->set, pages->pdata[run->first + i], count, c);
    }
}

uint64_t rmg_failset_words(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    counter c = {.set = set, .where = where, .bits = bits};

    count_all(&c);
    return c.words;
}

void rmg_failset_by_bit(const rmg_failset *set, const rmg_where *where,
                        uint64_t words[RMG_WORD_BITS])
{
    counter c = {.set = set, .where = where, .bits = (rmg_word) ~(rmg_word)0, .by_bit = words};

    memset(words, 0, RMG_WORD_BITS * sizeof *words);
    count_all(&c);
}

uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits)
{
    uint64_t by_bit[RMG_WORD_BITS] = {0}, pairs = 0;
    counter c = {.set = set, .where = where, .bits = bits, .by_bit = by_bit};

    count_all(&c);
    for (size_t i = 0; i < RMG_WORD_BITS; i++)
        pairs += by_bit[i];
    return pairs;
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
