/* See rom_world.h. */
#include "rom_world.h"

#include <stdlib.h>
#include <string.h>

const char *const flaw_names[FLAWS] = {"healthy",
                                       "data line stuck",
                                       "data line open",
                                       "data lines touch",
                                       "data exchanged",
                                       "data permuted",
                                       "data now and then",
                                       "address line stuck",
                                       "address touch",
                                       "address exchanged",
                                       "address permuted",
                                       "address now and then",
                                       "rotated",
                                       "too high",
                                       "too low",
                                       "words inserted",
                                       "words missing",
                                       "a part repeated",
                                       "stopped early",
                                       "a block blank",
                                       "fading",
                                       "bits to 0",
                                       "weak cells",
                                       "patched",
                                       "another answers",
                                       "a known one answers",
                                       "other image",
                                       "unknown image",
                                       "nothing answers",
                                       "one chip of two"};
const char *const image_names[IMAGE_SORTS] = {"random", "code", "text", "sparse", "repeats"};

uint64_t world_dice(uint64_t *state) /* xorshift64*: Vigna, "An experimental exploration" (2016) */
{
    *state ^= *state >> 12;
    *state ^= *state << 25;
    *state ^= *state >> 27;
    return *state * UINT64_C(0x2545F4914F6CDD1D);
}

static uint64_t below(world *w, uint64_t n)
{
    return n ? (world_dice(&w->random) >> 11) % n : 0;
}

static double chance(world *w)
{
    return (double)(world_dice(&w->random) >> 11) / 9007199254740992.0;
}

static uint16_t mask_of(const world *w)
{
    return (uint16_t)(w->bits == 16 ? 0xFFFF : 0xFF);
}

static const uint8_t often_used[] = {0x00, 0xFF, 0x21, 0xCD, 0xC9, 0x3E, 0x20, 0x18,
                                     0x7E, 0x23, 0x10, 0xFE, 0x01, 0xE5, 0xE1, 0xAF};

static uint8_t byte_of(world *w, image_sort sort)
{
    static const char letters[] = "etaoinshrdlu ETAOINS 0123456789,.\r\n";

    switch (sort) {
    case IMAGE_CODE:
        return chance(w) < 0.6 ? often_used[below(w, sizeof often_used)] : (uint8_t)below(w, 256);
    case IMAGE_TEXT:
        return (uint8_t)letters[below(w, sizeof letters - 1u)];
    default:
        return (uint8_t)below(w, 256);
    }
}

static void fill(world *w, uint16_t *words, image_sort sort)
{
    const uint16_t ground = chance(w) < 0.7 ? 0xFFFF : 0;
    const uint64_t tile = (uint64_t)16 << below(w, 4);

    for (uint64_t i = 0; i < w->count; i++) {
        const uint16_t drawn =
            (uint16_t)(byte_of(w, sort) | (w->bits == 16 ? byte_of(w, sort) << 8 : 0));

        if (sort == IMAGE_SPARSE)
            words[i] = (chance(w) < 0.01 ? drawn : ground) & mask_of(w);
        else if (sort == IMAGE_REPEATS && i >= tile && chance(w) < 0.97)
            words[i] = words[i - tile];
        else
            words[i] = drawn;
    }
}

/* A few words, in runs of 1 to 8, in a chip that holds one value everywhere else. */
static void fill_few(world *w, uint16_t *words)
{
    const uint16_t ground = (uint16_t)(chance(w) < 0.8 ? 0xFFFF : 0) & mask_of(w);
    unsigned left = 1 + (unsigned)below(w, 24);

    for (uint64_t i = 0; i < w->count; i++)
        words[i] = ground;
    while (left) {
        const unsigned run = 1 + (unsigned)below(w, left < 8 ? left : 8);
        const uint64_t at = below(w, w->count - run);

        for (uint64_t i = at; i < at + run; i++)
            words[i] =
                (uint16_t)(byte_of(w, w->sort) | (w->bits == 16 ? byte_of(w, w->sort) << 8 : 0));
        left -= run;
    }
}

/* Two different lines. */
static void two(world *w, unsigned of)
{
    w->a = (unsigned)below(w, of);
    do
        w->b = (unsigned)below(w, of);
    while (w->b == w->a);
}

static void shuffle(world *w, unsigned of)
{
    for (unsigned i = 0; i < of; i++)
        w->order[i] = i;
    for (unsigned i = of; i-- > 1;) {
        const unsigned k = (unsigned)below(w, i + 1u), t = w->order[i];

        w->order[i] = w->order[k];
        w->order[k] = t;
    }
    w->invert = chance(w) < 0.5 ? below(w, (uint64_t)1 << of) : 0;
}

static uint64_t lines_as_seen(const world *w, uint64_t i)
{
    const uint64_t a = i >> w->a & 1u, b = i >> w->b & 1u, both = w->level ? a | b : a & b;
    const uint64_t rest = i & ~((uint64_t)1 << w->a | (uint64_t)1 << w->b);
    uint64_t seen = 0;

    switch (w->what) {
    case FLAW_LINE_STUCK:
    case FLAW_LINE_SELDOM:
    case FLAW_ONE_OF_TWO:
        return (i & ~((uint64_t)1 << w->a)) | (uint64_t)w->level << w->a;
    case FLAW_LINE_TOUCH:
        return rest | both << w->a | both << w->b;
    case FLAW_LINE_EXCHANGED:
        return rest | a << w->b | b << w->a;
    case FLAW_LINE_ORDER:
        for (unsigned k = 0; k < w->lines; k++)
            seen |= ((i ^ w->invert) >> k & 1u) << w->order[k];
        return seen;
    default:
        return i;
    }
}

static uint16_t data_as_seen(const world *w, uint16_t from)
{
    const unsigned word = from, a = word >> w->a & 1u, b = word >> w->b & 1u;
    const unsigned both = w->level ? a | b : a & b;
    const unsigned rest = word & ~(1u << w->a | 1u << w->b);
    unsigned seen = 0;

    switch (w->what) {
    case FLAW_DATA_STUCK:
    case FLAW_DATA_SELDOM:
        return (uint16_t)((word & ~(1u << w->a)) | w->level << w->a);
    case FLAW_DATA_TOUCH:
        return (uint16_t)(rest | both << w->a | both << w->b);
    case FLAW_DATA_EXCHANGED:
        return (uint16_t)(rest | a << w->b | b << w->a);
    case FLAW_DATA_ORDER:
        for (unsigned k = 0; k < w->bits; k++)
            seen |= (word >> w->order[k] & 1u) << k;
        return (uint16_t)((seen ^ w->invert) & mask_of(w));
    default:
        return from;
    }
}

static void single_bits(world *w, double share, unsigned how)
{
    for (uint64_t i = 0; i < w->count; i++)
        for (unsigned bit = 0; bit < w->bits; bit++)
            if (chance(w) < share && (how == 2 || ((unsigned)w->held[i] >> bit & 1u) != how))
                w->held[i] ^= (uint16_t)(1u << bit);
}

static void patch(world *w)
{
    const unsigned places = 1 + (unsigned)below(w, 6);

    for (unsigned p = 0; p < places; p++) {
        const uint64_t at = below(w, w->count - 16), length = 2 + below(w, 10);

        for (uint64_t i = at; i < at + length; i++)
            w->held[i] = (uint16_t)((byte_of(w, w->sort) | byte_of(w, w->sort) << 8) & mask_of(w));
    }
}

/* What is in the wrong place, or is not there. */
static uint16_t displaced(world *w, uint64_t i)
{
    const uint16_t blank = mask_of(w);

    switch (w->what) {
    case FLAW_ROTATED:
        return w->good[(i + w->first) % w->count];
    case FLAW_TOO_HIGH:
        return i < w->first ? blank : w->good[i - w->first];
    case FLAW_TOO_LOW:
        return i + w->first < w->count ? w->good[i + w->first] : blank;
    case FLAW_INSERTED:
        return i < w->first               ? w->good[i]
               : i < w->first + w->length ? (uint16_t)(below(w, 65536) & blank)
                                          : w->good[i - w->length];
    case FLAW_MISSING:
        return i < w->first               ? w->good[i]
               : i + w->length < w->count ? w->good[i + w->length]
                                          : blank;
    case FLAW_PART_REPEATED:
        return w->good[w->first * w->length + i % w->length];
    case FLAW_STOPPED_EARLY:
        return i < w->first ? w->good[i] : blank;
    case FLAW_BLOCK_BLANK:
        return i - w->first < w->length ? blank : w->good[i];
    default:
        return w->good[lines_as_seen(w, i)];
    }
}

static void draw_place(world *w)
{
    const uint64_t n = w->count;

    w->first = 1 + below(w, n / 2);
    w->length = 1 + below(w, 64);
    switch (w->what) {
    case FLAW_ROTATED: /* by few words, either way, as often as by any number */
        w->first = 1 + below(w, chance(w) < 0.5 ? 64 : n - 1u);
        w->first = chance(w) < 0.5 ? n - w->first : w->first;
        break;
    case FLAW_TOO_HIGH:
    case FLAW_TOO_LOW:
        w->first = 1 + below(w, chance(w) < 0.5 ? 64 : n / 4);
        break;
    case FLAW_PART_REPEATED:
        w->length = n >> (1 + below(w, 3));
        w->first = below(w, n / w->length);
        break;
    case FLAW_STOPPED_EARLY:
        w->first = n / 8 + below(w, n * 3 / 4);
        break;
    case FLAW_BLOCK_BLANK:
        w->length = 16 + below(w, n / 8);
        w->first = below(w, n - w->length);
        break;
    default:
        break;
    }
}

static void make_flaw(world *w)
{
    const bool data = w->what == FLAW_DATA_TOUCH || w->what == FLAW_DATA_EXCHANGED;

    w->often = 0.02 + 0.5 * chance(w);
    w->level = (unsigned)below(w, 2);
    two(w, data || w->what == FLAW_DATA_STUCK || w->what == FLAW_DATA_OPEN ||
                   w->what == FLAW_DATA_SELDOM
               ? w->bits
               : w->lines);
    if (w->what == FLAW_DATA_ORDER || w->what == FLAW_LINE_ORDER)
        shuffle(w, w->what == FLAW_DATA_ORDER ? w->bits : w->lines);
    draw_place(w);
    for (uint64_t i = 0; i < w->count; i++)
        w->held[i] = w->what == FLAW_LINE_SELDOM ? w->good[i]
                     : w->what == FLAW_ONE_OF_TWO
                         ? (uint16_t)((w->good[i] & 0xFF) | (w->good[lines_as_seen(w, i)] & 0xFF00))
                         : displaced(w, i);
    switch (w->what) {
    case FLAW_FADING:
        single_bits(w, 0.0005 + 0.05 * chance(w) * chance(w), 1);
        break;
    case FLAW_TO_ZERO:
        single_bits(w, 0.0003 + 0.004 * chance(w), 0);
        break;
    case FLAW_PATCHED:
        patch(w);
        break;
    case FLAW_ANOTHER: /* a chip that is not known */
        w->sort = w->sort == IMAGE_SPARSE ? IMAGE_CODE : w->sort;
        for (uint64_t i = 0; i < w->count; i++)
            w->held[i] &= (uint16_t)(byte_of(w, IMAGE_CODE) | byte_of(w, IMAGE_CODE) << 8);
        break;
    case FLAW_ANOTHER_KNOWN:
        for (uint64_t i = 0; i < w->count; i++)
            w->held[i] = w->level ? w->good[i] | w->others[1][i] : w->good[i] & w->others[1][i];
        break;
    case FLAW_OTHER_IMAGE:
        memcpy(w->held, w->others[2], w->count * sizeof *w->held);
        break;
    case FLAW_UNKNOWN_IMAGE:
        fill(w, w->held, w->sort == IMAGE_SPARSE ? IMAGE_CODE : w->sort);
        break;
    default:
        break;
    }
}

void world_make(world *w, uint64_t seed, world_form form)
{
    memset(w, 0, sizeof *w);
    w->random = seed * UINT64_C(0x9E3779B97F4A7C15) + 1u;
    for (unsigned i = 0; i < 8; i++)
        world_dice(&w->random);
    w->what = (flaw)(seed % FLAWS);
    w->sort = (image_sort)(seed / FLAWS % IMAGE_SORTS);
    w->pair = w->what == FLAW_ONE_OF_TWO;
    w->bits = w->pair || chance(w) < 0.3 ? 16 : 8;
    w->lines = 11 + (unsigned)below(w, chance(w) < 0.05 ? 10 : 5);
    if (w->bits == 16) /* the parts that there are */
        w->lines = w->pair ? 13 + (unsigned)below(w, 3) : 16 + (unsigned)below(w, 2);
    if (form && !w->pair) {
        w->bits = 8;
        w->lines = 11 + (unsigned)below(w, 2);
    }
    if (form && w->sort == IMAGE_RANDOM)
        w->sort = IMAGE_SPARSE;
    w->count = (uint64_t)1 << w->lines;
    w->undriven = (unsigned)below(w, 3);
    w->good = malloc(w->count * sizeof *w->good);
    w->held = malloc(w->count * sizeof *w->held);
    if (form == WORLD_FEW)
        fill_few(w, w->good);
    else
        fill(w, w->good, w->sort);
    for (unsigned i = 0; i < WORLD_OTHERS; i++) {
        w->others[i] = malloc(w->count * sizeof *w->good);
        fill(w, w->others[i], i ? IMAGE_CODE : IMAGE_TEXT);
    }
    make_flaw(w);
}

void world_end(world *w)
{
    for (unsigned i = 0; i < WORLD_OTHERS; i++)
        free(w->others[i]);
    free(w->good);
    free(w->held);
}

bool world_shows(const world *w)
{
    for (uint64_t i = 0; i < w->count; i++) {
        const uint64_t at = w->what == FLAW_LINE_SELDOM ? lines_as_seen(w, i) : i;

        if (w->held[at] != w->good[i] || data_as_seen(w, w->good[i]) != w->good[i])
            return true;
    }
    return w->what == FLAW_WEAK || w->what == FLAW_NO_ANSWER || w->what == FLAW_DATA_OPEN;
}

static uint16_t floating(const world *w)
{
    return w->undriven == 2 ? w->bus : w->undriven ? 0 : mask_of(w);
}

/* Weak cells are zeros that read 1 now and then: one in 512 words has one. */
static uint16_t weak(world *w, uint64_t i, uint16_t word)
{
    const uint64_t h = (i * UINT64_C(0x9E3779B97F4A7C15)) >> 32;

    if (h % 512u == 7u && chance(w) < 0.4)
        word |= (uint16_t)(1u << h / 512u % w->bits);
    return word;
}

static rmg_status world_read(void *context, rmg_addr address, rmg_word *value)
{
    world *w = context;
    uint64_t i = address;
    uint16_t word;

    if (w->what == FLAW_NO_ANSWER) {
        *value = w->bus = floating(w);
        return RMG_OK;
    }
    if (w->what == FLAW_LINE_SELDOM && chance(w) < w->often)
        i = lines_as_seen(w, i);
    word = w->held[i];
    if (w->what != FLAW_DATA_SELDOM || chance(w) < w->often)
        word = data_as_seen(w, word);
    if (w->what == FLAW_WEAK)
        word = weak(w, i, word);
    if (w->what == FLAW_DATA_OPEN)
        word = (uint16_t)((word & ~(1u << w->a)) | (floating(w) & 1u << w->a));
    *value = w->bus = word;
    return RMG_OK;
}

static rmg_status world_write(void *context, rmg_addr address, rmg_word value)
{
    (void)address;
    ((world *)context)->bus = (uint16_t)value;
    return RMG_OK;
}

const rmg_bus world_bus = {.version = RMG_BUS_VERSION, .read = world_read, .write = world_write};
