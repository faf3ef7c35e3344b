/* The failure set: pages of record numbers, made where something failed. */
#include "rimeglass/failset.h"
#include "base/internal.h"

#include <stdlib.h>
#include <string.h>

#include "failset_page.h"

static void free_page(gpointer one)
{
    page *p = one;

    free(p->records);
    free(p);
}

rmg_failset *rmg_failset_new(void)
{
    rmg_failset *set = g_new(rmg_failset, 1);

    set->pages = g_hash_table_new_full(g_int64_hash, g_int64_equal, NULL, free_page);
    set->order = g_new0(page_order, 1);
    set->order->pages = g_ptr_array_new();
    set->order->sorted = true;
    set->order->runs = g_array_new(FALSE, FALSE, sizeof(page_run));
    rmg_fail_records_begin(&set->records);
    set->lost = 0;
    return set;
}

void rmg_failset_free(rmg_failset *set)
{
    if (!set)
        return;
    g_hash_table_destroy(set->pages);
    g_ptr_array_free(set->order->pages, TRUE);
    g_array_free(set->order->runs, TRUE);
    g_free(set->order);
    rmg_fail_records_end(&set->records);
    g_free(set);
}

/* Pages are no longer in the runs that they were parted into. */
static void changed(const rmg_failset *set)
{
    set->order->parted = false;
}

void rmg_failset_empty(rmg_failset *set)
{
    if (!g_hash_table_size(set->pages) && !rmg_fail_records_any(&set->records) && !set->lost)
        return;
    g_hash_table_remove_all(set->pages);
    changed(set);
    g_ptr_array_set_size(set->order->pages, 0);
    set->order->sorted = true;
    rmg_fail_records_end(&set->records);
    rmg_fail_records_begin(&set->records);
    set->order->recent = NULL;
    set->lost = 0;
}

/* Does a number come behind that of a page? */
static bool is_behind(const page_order *order, guint at, guint64 number)
{
    return ((const page *)order->pages->pdata[at])->number < number;
}

/* The page of an address; NULL: there is room for no more. */
static page *page_of(rmg_failset *set, rmg_addr address)
{
    const guint64 number = address >> PAGE_BITS;
    page *p = rmg_failset_page(set, number);

    if (p || g_hash_table_size(set->pages) >= RMG_FAILSET_PAGES)
        return p;
    p = calloc(1, sizeof *p);
    set->records.starved |= !p;
    if (!p)
        return NULL;
    changed(set);
    p->number = number;
    p->at = set->order->pages->len;
    g_hash_table_insert(set->pages, &p->number, p);
    g_ptr_array_add(set->order->pages, p);
    set->order->sorted &= !p->at || is_behind(set->order, p->at - 1u, number);
    set->order->recent = p;
    return p;
}

/* Of a page whose words have records of their own. */
static void put_record(page *p, size_t at, guint32 record)
{
    p->records[at] = record;
    if (record) {
        p->first = (guint16)MIN(p->first, at);
        p->after = (guint16)MAX(p->after, at + 1u);
    }
}

/* Gives each word of the page a record of its own; false: there is no memory for it. */
static bool own_records(rmg_failset *set, page *p)
{
    if (!p->records) {
        p->records = calloc(PAGE_WORDS, sizeof *p->records);
        set->records.starved |= !p->records;
        p->first = PAGE_WORDS;
        p->after = 0;
        for (size_t k = 0; p->records && k < 16u; k++)
            for (size_t i = k; p->alike[k] && i < PAGE_WORDS; i += 16u)
                put_record(p, i, p->alike[k]);
    }
    return p->records != NULL;
}

static bool set_record(rmg_failset *set, page *p, size_t at, guint32 record)
{
    if (record_of(p, at) == record)
        return true;
    if (own_records(set, p))
        put_record(p, at, record);
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

/* Are these bits in the record already? */
static bool holds(const rmg_failset *set, guint32 number, rmg_word high, rmg_word low)
{
    const rmg_fail_record *r = rmg_fail_record_at(&set->records, number);

    return !(high & ~r->high) && !(low & ~r->low);
}

static void add(rmg_failset *set, page *p, size_t at, rmg_word high, rmg_word low, uint64_t first)
{
    const guint32 number = record_of(p, at);
    guint32 next;

    if (holds(set, number, high, low))
        return;
    changed(set);
    next = rmg_fail_record_add(&set->records, number, high, low, first);
    if (next && set_record(set, p, at, next))
        tidy(set);
    else
        set->lost++;
}

/* How the page before went: most of a run go the same way. Records have the numbers of `times`, and
 * others as soon as some were removed. */
typedef struct page_way {
    bool known;
    guint times;
    guint32 from[16], to[16];
} page_way;

static bool goes_so(const rmg_failset *set, const page *p, const page_way *way)
{
    return way->known && way->times == set->records.times &&
           memcmp(p->alike, way->from, sizeof p->alike) == 0;
}

/* The same for the words of a page without records of their own that are in `which`. */
static void add_to_all(rmg_failset *set, page *p, uint16_t which, const rmg_fail_part *part,
                       page_way *way)
{
    if (goes_so(set, p, way)) {
        if (memcmp(way->from, way->to, sizeof way->to) != 0)
            changed(set);
        memcpy(p->alike, way->to, sizeof p->alike);
        return;
    }
    way->known = true;
    way->times = set->records.times;
    memcpy(way->from, p->alike, sizeof way->from);
    for (size_t i = 0; i < 16; i++) {
        const guint32 number = p->alike[i];
        guint32 to = number;

        if (((unsigned)which >> i & 1u) && !holds(set, number, part->high, part->low))
            to = rmg_fail_record_add(&set->records, number, part->high, part->low, part->first);
        if (to != number)
            changed(set);
        if (to) {
            p->alike[i] = to;
        } else if ((unsigned)which >> i & 1u) {
            set->lost += PAGE_WORDS / 16u;
            way->known = false;
        }
    }
    memcpy(way->to, p->alike, sizeof way->to);
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
    const rmg_fail_part part = {.first = first, .high = high, .low = low};
    page_way way = {.known = false};

    for (uint64_t done = 0; done < run->words;) {
        const rmg_addr at = (rmg_addr)(run->first + done);
        const size_t here = in_page(at, run->words - done);
        page *p = page_of(set, at);

        if (p && here == PAGE_WORDS && !p->records)
            add_to_all(set, p, run->which, &part, &way);
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

    changed(set);
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

/* The same for all words of a page of which neither set has records of their own. */
static void count_alike(rmg_failset *set, page *p, const rmg_failset *pass, const page *failed,
                        page_way *way, guint32 *way_failed)
{
    const uint64_t lost = set->lost;

    if (goes_so(set, p, way) && memcmp(failed->alike, way_failed, sizeof failed->alike) == 0) {
        memcpy(p->alike, way->to, sizeof p->alike);
        return;
    }
    way->times = set->records.times;
    memcpy(way->from, p->alike, sizeof way->from);
    memcpy(way_failed, failed->alike, sizeof failed->alike);
    for (size_t i = 0; i < 16; i++)
        count_word(set, p, i, rmg_fail_record_at(&pass->records, failed->alike[i]));
    memcpy(way->to, p->alike, sizeof way->to);
    way->known = set->lost == lost;
}

void rmg_failset_count_pass(rmg_failset *set, const rmg_failset *pass)
{
    guint32 way_failed[16];
    page_way way = {.known = false};

    changed(set);
    for (guint n = 0; n < pass->order->pages->len; n++) {
        const page *failed = pass->order->pages->pdata[n];
        page *p = rmg_failset_page(set, failed->number);

        if (!p)
            continue;
        if (failed->records && !own_records(set, p))
            return;
        if (!p->records) {
            count_alike(set, p, pass, failed, &way, way_failed);
        } else {
            const bool own = failed->records != NULL;

            for (size_t i = own ? failed->first : 0; i < (own ? failed->after : PAGE_WORDS); i++)
                count_word(set, p, i, rmg_fail_record_at(&pass->records, record_of(failed, i)));
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
