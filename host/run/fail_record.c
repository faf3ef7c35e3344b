/* Records of the failure set: found by what they hold, made once. */
#include "fail_record.h"
#include "base/internal.h"

#include <stdlib.h>
#include <string.h>

#define LEAST_RECORDS 4096u /* below these none are removed */

static guint hash_of(gconstpointer key)
{
    const rmg_fail_record *r = key;
    uint64_t sum = r->count;

    for (guint i = 0; i < r->count; i++) {
        const rmg_fail_part *p = &r->parts[i];

        sum = (sum ^ p->first) * UINT64_C(0xD6E8FEB86659FD93);
        sum = (sum ^ p->passes ^ p->high) * UINT64_C(0xD6E8FEB86659FD93);
        sum = (sum ^ sum >> 32 ^ p->low) * UINT64_C(0xD6E8FEB86659FD93);
    }
    return (guint)(sum >> 32);
}

static bool same_part(const rmg_fail_part *a, const rmg_fail_part *b)
{
    return a->first == b->first && a->passes == b->passes && a->high == b->high && a->low == b->low;
}

static gboolean equal(gconstpointer a, gconstpointer b)
{
    const rmg_fail_record *x = a, *y = b;
    bool same = x->count == y->count;

    for (guint i = 0; same && i < x->count; i++)
        same = same_part(&x->parts[i], &y->parts[i]);
    return same;
}

void rmg_fail_records_begin(rmg_fail_records *records)
{
    memset(records, 0, sizeof *records);
    records->list = g_ptr_array_new_with_free_func(free);
    records->known = g_hash_table_new(hash_of, equal);
    g_ptr_array_add(records->list, g_memdup2(&(rmg_fail_record){0}, sizeof(rmg_fail_record)));
}

void rmg_fail_records_end(rmg_fail_records *records)
{
    g_hash_table_destroy(records->known);
    g_ptr_array_free(records->list, TRUE);
    free(records->marks);
}

static guint64 *mark_of(const rmg_fail_records *records, const rmg_fail_record *r, guint64 *bit)
{
    const guint at = hash_of(r) & (RMG_FAIL_MARKS - 1u);

    *bit = (guint64)1 << (at & 63u);
    return &records->marks[at / 64u];
}

/* From now on no record is made: those there are get their marks. */
static void mark_all(rmg_fail_records *records)
{
    free(records->marks);
    records->marks = calloc(RMG_FAIL_MARKS / 64u, sizeof *records->marks);
    for (guint i = 1; records->marks && i < records->list->len; i++) {
        guint64 bit, *mark = mark_of(records, records->list->pdata[i], &bit);

        *mark |= bit;
    }
}

/* The number of a record that holds the same; 0: there is none. */
static guint32 number_of(const rmg_fail_records *records, const rmg_fail_record *r)
{
    if (records->crowded && records->marks) {
        guint64 bit, *mark = mark_of(records, r, &bit);

        if (!(*mark & bit))
            return 0;
    }
    return GPOINTER_TO_UINT(g_hash_table_lookup(records->known, r));
}

bool rmg_fail_records_any(const rmg_fail_records *records)
{
    return records->list->len > 1 || records->starved;
}

bool rmg_fail_records_full(const rmg_fail_records *records)
{
    if (records->crowded)
        return false;
    return records->parts > RMG_FAILSET_PARTS ||
           (records->list->len > LEAST_RECORDS && records->list->len / 4u > records->kept);
}

void rmg_fail_records_keep(rmg_fail_records *records, guint32 *used)
{
    guint kept = 1;

    records->parts = 0;
    g_hash_table_remove_all(records->known);
    for (guint i = 1; i < records->list->len; i++) {
        rmg_fail_record *r = records->list->pdata[i];

        if (used[i]) {
            records->list->pdata[kept] = r;
            g_hash_table_insert(records->known, r, GUINT_TO_POINTER(kept));
            used[i] = kept++;
            records->parts += r->count;
        } else {
            free(r);
        }
    }
    used[0] = 0;
    g_ptr_array_set_free_func(records->list, NULL); /* what is cut off was freed or moved */
    g_ptr_array_set_size(records->list, (gint)kept);
    g_ptr_array_set_free_func(records->list, free);
    records->kept = kept;
    records->times++;
    records->crowded = records->parts > RMG_FAILSET_PARTS / 4u * 3u;
    if (records->crowded)
        mark_all(records);
    memset(records->ways, 0, sizeof records->ways);
}

static bool is_before(const rmg_fail_part *a, const rmg_fail_part *b)
{
    return a->first != b->first ? a->first < b->first : a->passes < b->passes;
}

/* Puts a part where it belongs among those of the record, which has room for it. */
static void take_part(rmg_fail_record *r, const rmg_fail_part *part)
{
    guint at = r->count;

    if (!(part->high | part->low))
        return;
    r->high |= part->high;
    r->low |= part->low;
    while (at && is_before(part, &r->parts[at - 1u]))
        at--;
    if (at && !is_before(&r->parts[at - 1u], part)) {
        r->parts[at - 1u].high |= part->high;
        r->parts[at - 1u].low |= part->low;
        return;
    }
    memmove(&r->parts[at + 1u], &r->parts[at], (r->count - at) * sizeof *r->parts);
    r->parts[at] = *part;
    r->count++;
}

#define FEW_PARTS 8u

/* The number of a record; one is made where there is none. */
static guint32 found_or_made(rmg_fail_records *records, const rmg_fail_record *r)
{
    const size_t bytes = sizeof *r + r->count * sizeof *r->parts;
    guint32 number = number_of(records, r);
    rmg_fail_record *own;

    if (number || !r->count || records->crowded)
        return number;
    own = malloc(bytes);
    records->starved |= !own;
    if (!own)
        return 0;
    memcpy(own, r, bytes);
    number = records->list->len;
    records->parts += r->count;
    g_ptr_array_add(records->list, own);
    g_hash_table_insert(records->known, own, GUINT_TO_POINTER(number));
    return number;
}

guint32 rmg_fail_record_of(rmg_fail_records *records, const rmg_fail_part *parts, size_t count)
{
    union {
        rmg_fail_record record;
        char room[sizeof(rmg_fail_record) + FEW_PARTS * sizeof *parts];
    } few;
    rmg_fail_record *r =
        count <= FEW_PARTS ? &few.record : malloc(sizeof *r + count * sizeof *parts);
    guint32 number = 0;

    records->starved |= !r;
    if (r)
        memset(r, 0, sizeof *r);
    for (size_t i = 0; r && i < count; i++)
        take_part(r, &parts[i]);
    if (r)
        number = found_or_made(records, r);
    if (count > FEW_PARTS)
        free(r);
    return number;
}

#define COUNTED UINT64_MAX /* as `first` of a way: a pass was counted */

static rmg_fail_way *way_of(rmg_fail_records *records, guint32 from, rmg_word high, rmg_word low,
                            uint64_t first)
{
    const uint64_t sum =
        (from ^ high << 8 ^ low << 24 ^ first << 40) * UINT64_C(0x9E3779B97F4A7C15);
    rmg_fail_way *way = &records->ways[sum >> 56 & (RMG_FAIL_WAYS - 1u)];

    if (way->from != from || way->high != high || way->low != low || way->first != first)
        *way = (rmg_fail_way){from, 0, high, low, first};
    return way;
}

guint32 rmg_fail_record_add(rmg_fail_records *records, guint32 from, rmg_word high, rmg_word low,
                            uint64_t first)
{
    rmg_fail_way *way = way_of(records, from, high, low, first);

    if (!way->to) {
        const rmg_fail_record *r = rmg_fail_record_at(records, from);
        rmg_fail_part *parts = malloc((r->count + 1u) * sizeof *parts);

        records->starved |= !parts;
        if (!parts)
            return 0;
        memcpy(parts, r->parts, r->count * sizeof *parts);
        parts[r->count] = (rmg_fail_part){first, 0, high & ~r->high, low & ~r->low};
        way->to = rmg_fail_record_of(records, parts, r->count + 1u);
        free(parts);
    }
    return way->to;
}

guint32 rmg_fail_record_count(rmg_fail_records *records, guint32 from, rmg_word high, rmg_word low)
{
    rmg_fail_way *way = way_of(records, from, high, low, COUNTED);

    if (!way->to) {
        const rmg_fail_record *r = rmg_fail_record_at(records, from);
        rmg_fail_part *parts = malloc((r->count * 2u + 1u) * sizeof *parts);
        guint count = 0;

        records->starved |= !parts;
        if (!parts)
            return 0;
        for (guint i = 0; i < r->count; i++) {
            const rmg_fail_part *p = &r->parts[i];

            parts[count++] = (rmg_fail_part){p->first, p->passes, p->high & ~high, p->low & ~low};
            parts[count++] =
                (rmg_fail_part){p->first, p->passes + 1u, p->high & high, p->low & low};
        }
        way->to = rmg_fail_record_of(records, parts, count);
        free(parts);
    }
    return way->to;
}
