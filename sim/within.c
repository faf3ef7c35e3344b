/* One word, and a fault between two of its bits: marches through the engine. Shares nothing with
 * the simulated board, so that the two check each other. Definitions: docs/coverage.md. */
#include <string.h>

#include "rimeglass/coverage.h"

/* One instance, and the word. */
typedef struct one_word {
    rmg_fault_class kind;
    rmg_within_reading reading;
    uint8_t a, v; /* bits: aggressor, victim */
    uint8_t x, s; /* as in docs/coverage.md; of CFds s is the operation */
    rmg_word word;
    bool found; /* a read was wrong: no access is answered any more, which ends the march */
} one_word;

/* Operations of CFds. */
enum { DID_0W0, DID_0W1, DID_1W0, DID_1W1, DID_0R0, DID_1R1, DIDS };

static uint8_t bit_of(rmg_word word, uint8_t bit)
{
    return (uint8_t)(word >> bit & 1u);
}

static void set_victim(one_word *w, uint8_t level)
{
    const rmg_word bit = (rmg_word)((rmg_word)1 << w->v);

    w->word = (rmg_word)(level ? w->word | bit : w->word & (rmg_word)~bit);
}

static void settle(one_word *w)
{
    if (w->kind == RMG_CLASS_CFST && bit_of(w->word, w->a) == w->s)
        set_victim(w, w->x);
}

/* What the aggressor's part of the write does. */
static void couple(one_word *w, rmg_word before, rmg_word now)
{
    const uint8_t from = bit_of(before, w->a), to = bit_of(now, w->a);
    const bool changes = bit_of(before, w->v) != bit_of(now, w->v);

    if (changes && w->reading == RMG_WITHIN_UNCHANGED)
        return;
    if (w->kind == RMG_CLASS_CFIN && from != to && to == w->s)
        set_victim(w, !bit_of(w->word, w->v));
    else if (w->kind == RMG_CLASS_CFID && from != to && to == w->s)
        set_victim(w, w->x);
    else if (w->kind == RMG_CLASS_CFDS && w->s == DID_0W0 + 2 * from + to &&
             bit_of(w->word, w->v) == w->x)
        set_victim(w, !w->x);
}

static rmg_status word_write(void *context, rmg_addr address, rmg_word value)
{
    one_word *w = context;
    const rmg_word before = w->word;
    const uint8_t was = bit_of(before, w->v), given = bit_of(value, w->v);
    const bool awake = bit_of(value, w->a) == w->s && given == w->x;

    (void)address;
    if (w->found)
        return RMG_ERR_CANCELLED;
    w->word = value;
    if (w->kind == RMG_CLASS_CFTR && awake && was != given)
        set_victim(w, was);
    if (w->kind == RMG_CLASS_CFWD && awake && was == given)
        set_victim(w, !given);
    couple(w, before, value);
    settle(w);
    return RMG_OK;
}

static rmg_status word_read(void *context, rmg_addr address, rmg_word *value)
{
    one_word *w = context;
    const rmg_word bit = (rmg_word)((rmg_word)1 << w->v);
    const uint8_t state = bit_of(w->word, w->v), aggressor = bit_of(w->word, w->a);
    const bool awake = aggressor == w->s && state == w->x;

    (void)address;
    if (w->found)
        return RMG_ERR_CANCELLED;
    *value = w->word;
    if (awake && (w->kind == RMG_CLASS_CFRD || w->kind == RMG_CLASS_CFIR))
        *value ^= bit;
    if (awake && (w->kind == RMG_CLASS_CFRD || w->kind == RMG_CLASS_CFDRD))
        set_victim(w, !state);
    if (w->kind == RMG_CLASS_CFDS && w->s == (aggressor ? DID_1R1 : DID_0R0) && state == w->x)
        set_victim(w, !state);
    return RMG_OK;
}

static rmg_status word_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us; /* nothing here fades */
    return RMG_OK;
}

static void note(void *context, const rmg_failure *failure)
{
    one_word *w = context;

    (void)failure;
    w->found = true;
}

static const rmg_bus word_bus = {
    .version = RMG_BUS_VERSION, .read = word_read, .write = word_write, .wait = word_wait};

static bool finds(const rmg_within *runs, size_t count, rmg_word all, const one_word *instance,
                  rmg_word contents, rmg_tally *tally)
{
    static const rmg_range only = {0, 0};
    one_word w = *instance;
    const rmg_target target = {&word_bus, &w, all};
    const rmg_observer watch = {.context = &w, .failure = note};

    w.word = contents & all;
    settle(&w);
    tally->first_count = 0; /* nothing is asked of it */
    for (size_t i = 0; i < count && !w.found; i++) {
        const rmg_march_job job = {.code = runs[i].code,
                                   .ranges = &only,
                                   .range_count = 1,
                                   .background = runs[i].background & all,
                                   .observer = &watch};

        if (rmg_march_run(&target, &job, tally) != RMG_OK && !w.found)
            return false;
    }
    return w.found;
}

/* What was found out already of one kind of fault: bits that are alike in the background of every
 * run are alike in all, and of the contents only what the two bits held counts. */
typedef struct known {
    uint8_t like[8 * sizeof(rmg_word)]; /* the first bit that a bit is like */
    /* [aggressor][victim]: of the four contents of both, a bit each */
    uint8_t tried[8 * sizeof(rmg_word)][8 * sizeof(rmg_word)];
    uint8_t found[8 * sizeof(rmg_word)][8 * sizeof(rmg_word)];
} known;

static void liken(const rmg_within *runs, size_t count, uint8_t bits, known *k)
{
    for (uint8_t bit = 0; bit < bits; bit++) {
        bool alike = false;

        for (uint8_t other = 0; other <= bit && !alike; other++) {
            alike = true;
            for (size_t i = 0; i < count && alike; i++)
                alike = bit_of(runs[i].background, bit) == bit_of(runs[i].background, other);
            k->like[bit] = other;
        }
    }
}

static bool finds_from(const rmg_within *runs, size_t count, rmg_word all, const one_word *w,
                       rmg_word contents, known *k, rmg_tally *tally)
{
    const uint8_t a = bit_of(contents, w->a), v = bit_of(contents, w->v);
    const uint8_t one = (uint8_t)(1u << (2u * a + v));
    uint8_t *tried = &k->tried[k->like[w->a]][k->like[w->v]];
    uint8_t *found = &k->found[k->like[w->a]][k->like[w->v]];

    if (!(*tried & one) && finds(runs, count, all, w, contents, tally))
        *found |= one;
    *tried |= one;
    return *found & one;
}

rmg_status rmg_within_coverage(const rmg_within *runs, size_t count, uint8_t bits,
                               rmg_fault_class kind, rmg_within_reading reading,
                               rmg_coverage *coverage)
{
    static const uint32_t contents[] = {0,           UINT32_MAX,  0x55555555u,
                                        0xAAAAAAAAu, 0x33333333u, 0xF0F0F0F0u};
    const uint8_t xs = kind == RMG_CLASS_CFIN ? 1 : 2, states = kind == RMG_CLASS_CFDS ? DIDS : 2;
    const unsigned pairs = (unsigned)bits * bits;
    rmg_word all;
    rmg_tally tally;
    known k;

    memset(coverage, 0, sizeof *coverage);
    if (!count || bits < 2 || bits > 8 * sizeof(rmg_word) || kind < RMG_CLASS_CFIN ||
        kind > RMG_CLASS_CFIR)
        return RMG_ERR_ARGUMENT;
    all = (rmg_word)((((rmg_word)1 << (bits - 1u)) - 1u) << 1 | 1u);
    rmg_tally_clear(&tally, NULL, 0);
    liken(runs, count, bits, &k);
    for (unsigned n = 0; n < pairs * xs * states; n++) {
        const one_word w = {.kind = kind,
                            .reading = reading,
                            .v = (uint8_t)(n % bits),
                            .a = (uint8_t)(n / bits % bits),
                            .x = (uint8_t)(n / pairs % xs),
                            .s = (uint8_t)(n / pairs / xs)};
        bool found = w.a != w.v;

        if (n % pairs == 0) {
            memset(k.tried, 0, sizeof k.tried);
            memset(k.found, 0, sizeof k.found);
        }
        if (!found)
            continue;
        for (size_t c = 0; found && c < sizeof contents / sizeof *contents; c++)
            found = finds_from(runs, count, all, &w,
                               (rmg_word)((uint64_t)contents[c] << 32 | contents[c]), &k, &tally);
        coverage->instances++;
        coverage->found += found;
    }
    return RMG_OK;
}
