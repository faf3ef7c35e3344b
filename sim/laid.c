/* Levels that are laid over the words of an element, and what comes of words that hold the same. */
#include "walk.h"

#include <string.h>

/* Flat words of type T, for each size that they are packed to: are they alike in these bits? */
#define ALIKE_WORDS(T)                                                                             \
    static bool alike_##T(const T *lowest, rmg_addr count, T bits)                                 \
    {                                                                                              \
        T differ = 0;                                                                              \
                                                                                                   \
        if (memcmp(lowest, lowest + 1, (size_t)(count - 1u) * sizeof(T)) == 0)                     \
            return true;                                                                           \
        for (rmg_addr n = 0; n < count; n++)                                                       \
            differ |= (T)(lowest[n] ^ lowest[0]);                                                  \
        return !(differ & bits);                                                                   \
    }
ALIKE_WORDS(uint8_t)
ALIKE_WORDS(uint16_t)
ALIKE_WORDS(uint32_t)
ALIKE_WORDS(uint64_t)

bool rmg_flat_alike(const rmg_sim *sim, size_t lowest, rmg_addr count, rmg_word bits)
{
    switch (sim->word_log2) {
    case 0:
        return alike_uint8_t((const uint8_t *)sim->words + lowest, count, (uint8_t)bits);
    case 1:
        return alike_uint16_t((const uint16_t *)sim->words + lowest, count, (uint16_t)bits);
    case 2:
        return alike_uint32_t((const uint32_t *)sim->words + lowest, count, (uint32_t)bits);
    default:
        return alike_uint64_t((const uint64_t *)sim->words + lowest, count, bits);
    }
}

/* What is read where the word holds this, before levels are laid over it. */
static inline rmg_word give(const rmg_laid *f, rmg_word held, rmg_word *before)
{
    const rmg_word given = (held & ~f->stale) | (*before & f->stale);

    *before = held;
    return given;
}

/* What the last read of a word gives, of words that hold the same. */
static rmg_word read_last(const rmg_walk *w, const rmg_laid *f, rmg_word held)
{
    rmg_word last = f->before;

    for (uint8_t i = 0; f->stale && i < w->call->op_count; i++) {
        if (w->call->ops[i] & OP_WRITE)
            held = rmg_laid_taken(f, 0, held, w->values[w->call->ops[i] & OP_ONE]);
        else
            last = held;
    }
    return last;
}

/* The words that read another value than the element expects; false: more than two values. */
static bool find_wrong(const rmg_walk *w, const rmg_laid *f, rmg_word held, rmg_word value,
                       rmg_wrong *found)
{
    *found = (rmg_wrong){.count = 0};
    for (unsigned i = 0; i < (f->alike ? 1u : 16u); i++) {
        const rmg_word seen = rmg_laid_seen(f, i, held) & w->call->mask;

        if (seen != value &&
            !rmg_wrong_add(found, (uint16_t)(f->alike ? RMG_EVERY_WORD : 1u << i), seen))
            return false;
    }
    return true;
}

/* How many runs the element leaves of words that hold this, by which operations (as ones); false:
 * more than can be gathered. */
bool rmg_laid_runs(const rmg_walk *w, const rmg_laid *f, rmg_word held, unsigned *runs,
                   uint32_t *operations)
{
    rmg_word before = read_last(w, f, held);

    *runs = 0;
    *operations = 0;
    for (uint8_t i = 0; i < w->call->op_count; i++) {
        const uint8_t op = w->call->ops[i];
        const rmg_word value = w->values[op & OP_ONE];
        rmg_wrong found;

        if (op & OP_WRITE) {
            held = rmg_laid_taken(f, 0, held, value);
            continue;
        }
        if (!find_wrong(w, f, give(f, held, &before), value, &found))
            return false;
        *runs += found.count;
        *operations |= (uint32_t)(found.count != 0) << i;
    }
    return true;
}

rmg_word rmg_laid_alike(rmg_walk *w, rmg_laid *f, rmg_addr first, rmg_addr count, rmg_word held)
{
    rmg_word before = read_last(w, f, held);

    for (uint8_t i = 0; i < w->call->op_count; i++) {
        const uint8_t op = w->call->ops[i];
        const rmg_word value = w->values[op & OP_ONE];
        rmg_wrong found;

        if (op & OP_WRITE) {
            held = rmg_laid_taken(f, 0, held, value) & w->sim->mask;
            continue;
        }
        f->last = give(f, held, &before);
        find_wrong(w, f, f->last, value, &found);
        for (unsigned n = 0; n < found.count; n++)
            rmg_walk_add(w, first, count, found.which[n], i, n, value, found.actual[n]);
    }
    f->before = before;
    return held;
}

rmg_word rmg_laid_word(rmg_walk *w, rmg_laid *f, rmg_addr address, rmg_word held, rmg_word bits,
                       rmg_word *other)
{
    const unsigned low = (unsigned)address & 15u;
    bool failed = false;

    for (uint8_t i = 0; i < w->call->op_count; i++, bits = 0) {
        const uint8_t op = w->call->ops[i];
        const rmg_word value = w->values[op & OP_ONE];
        const rmg_word met = bits ? (held & ~bits) | (*other & bits) : held;
        rmg_word seen;

        if (op & OP_WRITE) {
            const rmg_word now = rmg_laid_taken(f, low, met, value) & w->sim->mask;

            held = (now & ~bits) | (held & bits);
            if (bits)
                *other = (*other & ~bits) | (now & bits);
            continue;
        }
        f->last = give(f, met, &f->before);
        seen = rmg_laid_seen(f, low, f->last) & w->call->mask;
        if (seen != value) {
            rmg_walk_wrong(w, address, i, value, seen);
            failed = true;
        }
    }
    w->told += failed && rmg_walk_in_order(w);
    return held;
}

/* Does the place, but for its lowest four address lines, hold an address? */
bool rmg_reaches(const rmg_where *where, rmg_addr address)
{
    return address >= where->first && address <= where->last &&
           !((address ^ where->match) & where->mask & ~(rmg_addr)15u);
}

/* The first address from one on that has these levels on these lines. 0: there is none. */
static rmg_addr next_with(rmg_addr from, rmg_addr lines, rmg_addr levels)
{
    rmg_addr wrong = (from ^ levels) & lines, below, next;

    if (!wrong)
        return from;
    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        wrong |= wrong >> shift; /* the highest line that is wrong, and all below it */
    below = wrong >> 1;
    if (levels & (wrong ^ below)) /* it rises with that line */
        return (from & ~below & ~lines) | levels;
    next = (from | lines | wrong) + 1u; /* with one above that is free */
    return next ? (next & ~wrong & ~lines) | levels : 0;
}

/* For how many words from an address on, of `most`, that stays the same. */
rmg_addr rmg_same_run(const rmg_where *where, rmg_addr from, bool down, rmg_addr most)
{
    const rmg_addr high = where->mask & ~(rmg_addr)15u, match = where->match & high;
    const rmg_addr step = high & (~high + 1u); /* the lowest of the other lines that matters */

    if (!((from ^ match) & high)) {
        if (step)
            most = MIN_OF(most, down ? (from & (step - 1u)) + 1u : step - (from & (step - 1u)));
    } else if (down) {
        /* the same, upside down */
        const rmg_addr next = ~next_with(~from, high, ~match & high);

        most = next < from ? MIN_OF(most, from - next) : most;
    } else {
        const rmg_addr next = next_with(from, high, match);

        most = next > from ? MIN_OF(most, next - from) : most;
    }
    if (!down && from < where->first)
        most = MIN_OF(most, where->first - from);
    if (!down && from <= where->last && where->last - from < most)
        most = where->last - from + 1u;
    if (down && from > where->last)
        most = MIN_OF(most, from - where->last);
    if (down && from >= where->first && from - where->first < most)
        most = from - where->first + 1u;
    return most;
}

/* What is forced from the call's address on, and for how many words, of `most`, that goes by their
 * lowest four address bits alone. */
rmg_addr rmg_laid_over(const rmg_walk *w, rmg_laid *f, rmg_addr most)
{
    const rmg_sim *sim = w->sim;
    const bool down = w->call->down;
    const rmg_addr from = w->call->address;

    for (unsigned n = 0; n < 16; n++) {
        f->and[n] = ~(rmg_word)0;
        f->or [n] = 0;
        f->keeps[n] = f->take_or[n] = 0;
        f->take_and[n] = ~(rmg_word)0;
        f->some[n] = false;
    }
    f->alike = true;
    f->takes = false;
    f->stale = f->before = f->last = 0;
    f->join = f->join_taken = 0;
    for (uint16_t i = 0; i < sim->force_count; i++) {
        const rmg_where *where = &sim->forces[i].where;
        const bool here = rmg_reaches(where, from);

        for (unsigned n = 0; here && n < 16; n++)
            if (!((n ^ where->match) & where->mask & 15u)) {
                f->and[n] &= sim->forces[i].and;
                f->or [n] = (f->or [n] & sim -> forces[i].and) | sim->forces[i].or ;
                f->keeps[n] |= sim->forces[i].keeps;
                f->take_and[n] &= sim->forces[i].take_and;
                f->take_or[n] = (f->take_or[n] & sim->forces[i].take_and) | sim->forces[i].take_or;
                f->some[n] = true;
            }
        f->alike &= !here || !(where->mask & 15u);
        f->takes |=
            here && (sim->forces[i].keeps || sim->forces[i].take_or || ~sim->forces[i].take_and);
        most = rmg_same_run(where, from, down, most);
    }
    return most;
}
