/* Elements on this machine's memory: one loop for each kind and direction, eight words a turn,
 * every access volatile and in its order. What was read is kept until it is checked; nothing is
 * read a second time. */
#include <string.h>

#include "internal.h"
#include "rimeglass/march.h"

#define AHEAD       512u /* words to fetch ahead */
#define FLUSH_WORDS 512u

#if defined __GNUC__
#define PREFETCH(p) __builtin_prefetch((const void *)(p))
#define RARE(x)     __builtin_expect(!!(x), 0)
#define COLD        __attribute__((noinline, cold))
#else
#define PREFETCH(p) ((void)0)
#define RARE(x)     (x)
#define COLD
#endif

#if defined __x86_64__
#include <cpuid.h>
#include <emmintrin.h>

bool rmg_ram_can_flush(void)
{
    unsigned a, b, c, d;

    return __get_cpuid_count(7, 0, &a, &b, &c, &d) && (b & bit_CLFLUSHOPT);
}

static void flush_line(volatile uint64_t *p)
{
    __asm__ volatile("clflushopt %0" : "+m"(*(volatile char *)p));
}

static void flush_done(void)
{
    _mm_sfence();
}
/* The processor's own instruction that stores one word after the other. */
static bool store_rising(volatile uint64_t *q, uint64_t count, uint64_t w)
{
    __asm__ volatile("rep stosq" : "+D"(q), "+c"(count) : "a"(w) : "memory");
    return true;
}
/* a store past the caches, in order with others like it into the same line */
#define STORE_PAST(p, v) _mm_stream_si64((long long *)(uintptr_t)(p), (long long)(v))
#else
bool rmg_ram_can_flush(void)
{
    return false;
}

static void flush_line(volatile uint64_t *p)
{
    (void)p;
}

static void flush_done(void)
{
}

static bool store_rising(volatile uint64_t *q, uint64_t count, uint64_t w)
{
    (void)q;
    (void)count;
    (void)w;
    return false;
}
#define STORE_PAST(p, v) (*(p) = (v))
#endif

static void hand_over(ram_part *part)
{
    rmg_mismatch_block *block = &part->block;
    rmg_element_call *call = part->call;

    if (!block->failing)
        return;
    pthread_mutex_lock(&part->ram->sink_lock);
    if (call->mismatch_block) {
        call->mismatch_block(call->sink_context, block);
    } else {
        for (unsigned i = 0; i < 64; i++)
            if (block->failing >> i & 1u)
                call->mismatch(call->sink_context, block->first + i, block->operation,
                               block->expected, block->actual[i]);
    }
    pthread_mutex_unlock(&part->ram->sink_lock);
    block->failing = 0;
}

/* One wrong word, gathered with its neighbours. */
static void note(ram_part *part, uint64_t word, uint8_t operation, uint64_t expected,
                 uint64_t actual)
{
    rmg_mismatch_block *block = &part->block;

    if (!block->failing || block->first != (word & ~(uint64_t)63) ||
        block->operation != operation) {
        hand_over(part);
        block->first = word & ~(uint64_t)63;
        block->operation = operation;
        block->expected = expected;
    }
    block->actual[word & 63u] = actual;
    block->failing |= (uint64_t)1 << (word & 63u);
}

/* Some of eight neighbouring words were wrong. */
COLD static void note_eight(ram_part *part, uint64_t word, uint64_t expected, const uint64_t *v)
{
    for (unsigned i = 0; i < 8; i++)
        if (v[i] != expected)
            note(part, word + i, 0, expected, v[i]);
}

static void flush_words(volatile uint64_t *from, uint64_t count)
{
    for (uint64_t i = 0; i < count; i += 8)
        flush_line(from + i);
}

/* Eight words: each read and written before the next, in the order given; then all are checked.
 * What was read stays in registers until then. */
#define TAKE(i)     (v##i = q[i], q[i] = w)
#define LOOK(i)     (v##i = q[i])
#define UP8(what)   (what(0), what(1), what(2), what(3), what(4), what(5), what(6), what(7))
#define DOWN8(what) (what(7), what(6), what(5), what(4), what(3), what(2), what(1), what(0))
#define CHECK8(at)                                                                                 \
    if (RARE(((v0 ^ e) | (v1 ^ e) | (v2 ^ e) | (v3 ^ e) | (v4 ^ e) | (v5 ^ e) | (v6 ^ e) |         \
              (v7 ^ e)))) {                                                                        \
        const uint64_t v[8] = {v0, v1, v2, v3, v4, v5, v6, v7};                                    \
                                                                                                   \
        note_eight(part, at, e, v);                                                                \
    }

static void up_read_write(ram_part *part, uint64_t first, uint64_t count, uint64_t e, uint64_t w)
{
    volatile uint64_t *q = part->ram->words + first;
    uint64_t v0, v1, v2, v3, v4, v5, v6, v7;

    for (uint64_t i = 0; i < count; i += 8, q += 8) {
        PREFETCH(q + AHEAD);
        UP8(TAKE);
        CHECK8(first + i)
    }
}

static void down_read_write(ram_part *part, uint64_t first, uint64_t count, uint64_t e, uint64_t w)
{
    volatile uint64_t *q = part->ram->words + first + count;
    uint64_t v0, v1, v2, v3, v4, v5, v6, v7;

    for (uint64_t i = count; i;) {
        i -= 8;
        q -= 8;
        PREFETCH(q - AHEAD);
        DOWN8(TAKE);
        CHECK8(first + i)
    }
}

static void up_read(ram_part *part, uint64_t first, uint64_t count, uint64_t e)
{
    volatile uint64_t *q = part->ram->words + first;
    uint64_t v0, v1, v2, v3, v4, v5, v6, v7;

    for (uint64_t i = 0; i < count; i += 8, q += 8) {
        PREFETCH(q + AHEAD);
        UP8(LOOK);
        CHECK8(first + i)
    }
}

static void down_read(ram_part *part, uint64_t first, uint64_t count, uint64_t e)
{
    volatile uint64_t *q = part->ram->words + first + count;
    uint64_t v0, v1, v2, v3, v4, v5, v6, v7;

    for (uint64_t i = count; i;) {
        i -= 8;
        q -= 8;
        PREFETCH(q - AHEAD);
        DOWN8(LOOK);
        CHECK8(first + i)
    }
}

#define STORE(i) STORE_PAST(q + (i), w)

static void up_write(ram_part *part, uint64_t first, uint64_t count, uint64_t w)
{
    volatile uint64_t *q = part->ram->words + first;

    if (store_rising(q, count, w))
        return;
    for (uint64_t i = 0; i < count; i += 8, q += 8)
        UP8(STORE);
    flush_done();
}

static void down_write(ram_part *part, uint64_t first, uint64_t count, uint64_t w)
{
    volatile uint64_t *q = part->ram->words + first + count;

    for (uint64_t i = 0; i < count; i += 8) {
        q -= 8;
        DOWN8(STORE);
    }
    flush_done();
}

/* Any operations, word by word; and what is left of a stretch that is not a multiple of eight. */
static void any_words(ram_part *part, uint64_t first, uint64_t count)
{
    const rmg_element_call *call = part->call;
    const uint64_t values[2] = {call->background & call->mask, ~call->background & call->mask};
    const bool down = call->down;

    for (uint64_t n = 0; n < count; n++) {
        const uint64_t word = down ? first + count - 1u - n : first + n;
        volatile uint64_t *q = part->ram->words + word;

        for (uint8_t i = 0; i < call->op_count; i++) {
            const uint64_t value = values[call->ops[i] & RMG_OP_ONE];

            if (call->ops[i] & RMG_OP_WRITE) {
                *q = value;
            } else {
                const uint64_t actual = *q & call->mask;

                if (RARE(actual != value))
                    note(part, word, i, value, actual);
            }
        }
    }
}

/* A stretch of whole eights, by the loop for its kind. */
static void eights(ram_part *part, uint64_t first, uint64_t count)
{
    const rmg_element_call *call = part->call;
    const uint8_t *ops = call->ops;
    const uint64_t values[2] = {call->background, ~call->background};
    const bool reads = !(ops[0] & RMG_OP_WRITE), pair = call->op_count == 2;
    const uint64_t e = values[ops[0] & RMG_OP_ONE];

    if (call->mask != UINT64_MAX || call->op_count > 2 ||
        (pair && (!reads || !(ops[1] & RMG_OP_WRITE))))
        any_words(part, first, count);
    else if (pair)
        (call->down ? down_read_write : up_read_write)(part, first, count, e,
                                                       values[ops[1] & RMG_OP_ONE]);
    else if (reads)
        (call->down ? down_read : up_read)(part, first, count, e);
    else
        (call->down ? down_write : up_write)(part, first, count, e);
}

/* In blocks, each flushed from the cache when it is done. */
static void blocks(ram_part *part, uint64_t first, uint64_t count)
{
    const bool down = part->call->down;

    if (!part->ram->flushes) {
        eights(part, first, count);
        return;
    }
    for (uint64_t done = 0; done < count;) {
        const uint64_t size = count - done < FLUSH_WORDS ? count - done : FLUSH_WORDS;
        const uint64_t at = down ? first + count - done - size : first + done;

        eights(part, at, size);
        flush_words(part->ram->words + at, size);
        done += size;
    }
    flush_done();
}

void rmg_ram_run_part(ram_part *part)
{
    const uint64_t first = part->first, end = first + part->count;
    uint64_t low = (first + 7u) & ~(uint64_t)7, high = end & ~(uint64_t)7;

    memset(&part->block, 0, offsetof(rmg_mismatch_block, actual));
    if (low > high)
        low = high = first;
    if (part->call->down) {
        any_words(part, high, end - high);
        blocks(part, low, high - low);
        any_words(part, first, low - first);
    } else {
        any_words(part, first, low - first);
        blocks(part, low, high - low);
        any_words(part, high, end - high);
    }
    hand_over(part);
}
