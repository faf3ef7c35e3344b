/* A failure set as bytes. Numbers are seven bits a byte, the lowest first, the eighth bit set where
 * more follow, so that the order of bytes of no machine counts:
 *   ways, and for each: parts, and for each: first step, passes, bits read 1 for 0, bits read 0 for
 *   1; then runs of neighbours that failed alike, and for each: words left out since the last one,
 *   words, number of the way. */
#include "failset_pack.h"

#include <stdlib.h>
#include <string.h>

#include "fail_record.h"

#define NUMBER_BYTES 10u /* of a number of 64 bits */

typedef struct packer {
    uint8_t *bytes;
    size_t size, room, most;
    bool failed;    /* no memory */
    uint32_t *ways; /* by record: of its way, from 1; of record numbers up to `records` */
    size_t records;
    uint32_t way_count;
    uint64_t run_count, left_out;
    rmg_addr first, next, end; /* the run at hand; the end of the last one */
    uint32_t record;
} packer;

static void put(packer *p, uint64_t value)
{
    if (p->failed)
        return;
    if (p->room - p->size < NUMBER_BYTES) {
        const size_t room = p->room ? 2u * p->room : 4096u;
        uint8_t *more = realloc(p->bytes, room);

        p->failed = !more;
        if (!more)
            return;
        p->bytes = more;
        p->room = room;
    }
    for (; value > 0x7F; value >>= 7)
        p->bytes[p->size++] = (uint8_t)(value | 0x80u);
    p->bytes[p->size++] = (uint8_t)value;
}

/* A way is numbered when it is met first. */
static void note_way(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                     size_t count)
{
    packer *p = context;

    (void)address;
    if (p->failed || record >= p->records || p->ways[record])
        return;
    p->ways[record] = ++p->way_count;
    put(p, count);
    for (size_t i = 0; i < count; i++) {
        put(p, parts[i].first);
        put(p, parts[i].passes);
        put(p, parts[i].high);
        put(p, parts[i].low);
    }
}

static void end_run(packer *p)
{
    const uint64_t words = p->next - p->first;

    if (!words)
        return;
    if (p->size >= p->most) {
        p->left_out += words;
        return;
    }
    put(p, p->first - p->end);
    put(p, words);
    put(p, p->ways[p->record] - 1u);
    p->end = p->next;
    p->run_count++;
}

static void note_word(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                      size_t count)
{
    packer *p = context;

    (void)parts;
    (void)count;
    if (p->failed || record >= p->records)
        return;
    if (p->next == p->first || address != p->next || record != p->record) {
        end_run(p);
        p->first = address;
        p->record = record;
    }
    p->next = address + 1u;
}

/* Both parts behind one another, each with its count before it. */
static bool join(packer *head, const packer *ways, const packer *runs)
{
    uint8_t *all;

    put(head, ways->way_count);
    if (head->failed || ways->failed || runs->failed)
        return false;
    head->room = head->size + ways->size + runs->size + 2u * NUMBER_BYTES;
    all = realloc(head->bytes, head->room);
    if (!all)
        return false;
    head->bytes = all;
    if (ways->size)
        memcpy(&head->bytes[head->size], ways->bytes, ways->size);
    head->size += ways->size;
    put(head, runs->run_count);
    if (runs->size)
        memcpy(&head->bytes[head->size], runs->bytes, runs->size);
    head->size += runs->size;
    return !head->failed;
}

bool rmg_failset_pack(const rmg_failset *set, size_t most, uint8_t **bytes, size_t *size,
                      uint64_t *left_out)
{
    const size_t records = 2u * RMG_FAILSET_PARTS + 2u;
    packer head = {.most = most}, ways = {.records = records}, runs;
    bool packed;

    ways.ways = calloc(records, sizeof *ways.ways);
    ways.failed = !ways.ways;
    rmg_failset_each_record(set, note_way, &ways);
    runs = (packer){.most = most, .records = records, .ways = ways.ways, .failed = ways.failed};
    rmg_failset_each_record(set, note_word, &runs);
    if (!runs.failed)
        end_run(&runs);
    packed = join(&head, &ways, &runs);
    *left_out = runs.left_out;
    *bytes = packed ? head.bytes : NULL;
    *size = packed ? head.size : 0;
    if (!packed)
        free(head.bytes);
    free(ways.ways);
    free(ways.bytes);
    free(runs.bytes);
    return packed;
}

typedef struct unpacker {
    const uint8_t *bytes;
    size_t size;
    bool failed; /* the bytes end, or a number has more than 64 bits */
} unpacker;

static uint64_t take(unpacker *u)
{
    uint64_t value = 0;

    for (unsigned shift = 0; !u->failed; shift += 7) {
        const uint8_t byte = u->size ? *u->bytes : 0;

        if (!u->size || (shift == 63 && byte > 1)) {
            u->failed = true;
            break;
        }
        u->bytes++;
        u->size--;
        value |= (uint64_t)(byte & 0x7Fu) << shift;
        if (!(byte & 0x80u))
            return value;
        u->failed = shift == 63;
    }
    return 0;
}

/* The parts of one way, in `parts`, which is emptied before. */
static bool take_way(unpacker *u, GArray *parts)
{
    const uint64_t count = take(u);

    g_array_set_size(parts, 0);
    if (!count || count > u->size)
        return false;
    for (uint64_t i = 0; i < count; i++) {
        rmg_fail_part part = {.first = take(u)};
        const uint64_t passes = take(u);

        part.passes = (uint32_t)passes;
        part.high = (rmg_word)take(u);
        part.low = (rmg_word)take(u);
        if (u->failed || passes > UINT32_MAX || !(part.high | part.low))
            return false;
        g_array_append_val(parts, part);
    }
    return true;
}

/* Where each way begins among the bytes; they are read again where a run names it. */
static bool find_ways(unpacker *u, GArray *starts, GArray *parts)
{
    const uint64_t count = take(u);

    for (uint64_t i = 0; i < count && !u->failed; i++) {
        const unpacker start = *u;

        g_array_append_val(starts, start);
        if (!take_way(u, parts))
            return false;
    }
    return !u->failed;
}

static bool take_runs(unpacker *u, rmg_failset *set, rmg_addr last, const GArray *starts,
                      GArray *parts)
{
    const uint64_t count = take(u);
    rmg_addr next = 0;
    bool room = true; /* for another word */

    for (uint64_t i = 0; i < count; i++) {
        const uint64_t gap = take(u), words = take(u), way = take(u);
        unpacker start;

        if (u->failed || !room || !words || way >= starts->len || gap > last - next ||
            words - 1u > last - next - gap)
            return false;
        start = g_array_index(starts, unpacker, way);
        if (!take_way(&start, parts))
            return false;
        next += gap;
        rmg_failset_put(set, next, words, (const rmg_fail_part *)(const void *)parts->data,
                        parts->len);
        room = words - 1u < last - next;
        next += words;
    }
    return !u->failed;
}

bool rmg_failset_unpack(rmg_failset *set, const uint8_t *bytes, size_t size, rmg_addr last)
{
    GArray *starts = g_array_new(FALSE, FALSE, sizeof(unpacker));
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_fail_part));
    unpacker u = {bytes, size, false};
    const bool good =
        find_ways(&u, starts, parts) && take_runs(&u, set, last, starts, parts) && !u.size;

    g_array_free(starts, TRUE);
    g_array_free(parts, TRUE);
    return good;
}
