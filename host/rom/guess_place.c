/* Images that are in the wrong place, in pieces, or not there: offsets, shifts, repeats, blanks. */
#include <glib.h>
#include <string.h>

#include "guess.h"

#define WINDOW  12u /* words that must match where an offset is guessed */
#define OFFSETS 12u
#define PARTS   4u /* halvings: down to a sixteenth */
#define RUNS    4u
#define VOTERS  64u
#define PLACES  64u
#define VOTES   8192u
#define FEW     64u /* words that tell a place: what one of them alone says is tried too */

static bool telling(const rmg_word *window)
{
    unsigned changes = 0;

    for (unsigned i = 1; i < WINDOW; i++)
        changes += window[i] != window[i - 1];
    return changes > WINDOW / 2;
}

static uint64_t first_touched(const compare *c)
{
    for (uint64_t i = 0; i < c->count; i++)
        if (touched_at(c, i))
            return i;
    return c->count;
}

/* By how many words the shift may begin before the first that is wrong, and read the same. */
static uint64_t earlier(const compare *c, uint64_t by, bool up, uint64_t first)
{
    uint64_t count = 0;

    for (; count < first; count++) {
        const uint64_t to = first - count - 1u + (up ? by : 0);
        const uint64_t from = first - count - 1u + (up ? 0 : by);

        if (to >= c->count || from >= c->count || c->read[to] != c->predicted[from])
            break;
    }
    return count;
}

/* What is read at `from` stands in the image `by` words further on (up: before it). */
static void displaced(const compare *c, uint64_t by, bool up, try_function try, void *context)
{
    const uint64_t first = first_touched(c);

    if (!by || by >= c->count)
        return;
    try(context, &(rmg_explanation){.kind = RMG_DIFF_OFFSET, .offset = up ? c->count - by : by});
    if (by <= c->count / 2u) /* else hardly anything would be left of the image */
        try(context, &(rmg_explanation){.kind = RMG_DIFF_MOVED, .offset = by, .level = up});
    if (first && by <= c->count / 8u) {
        rmg_explanation e = {.kind = RMG_DIFF_SHIFTED,
                             .offset = by,
                             .first = first,
                             .count = earlier(c, by, up, first),
                             .level = up};

        try(context, &e);
        e.b = 1;
        if (!up)
            try(context, &e);
    }
}

/* Where some characteristic stretches of what was read wrong are in the image. */
static void offsets(const compare *c, try_function try, void *context)
{
    const uint64_t apart = MAX(c->count / 64u, 1u);
    uint64_t tried[OFFSETS];
    unsigned count = 0, looked = 0;

    for (uint64_t from = 0; looked < OFFSETS && from + WINDOW < c->count; from++) {
        bool before = false;

        if (!touched_at(c, from) || !telling(&c->read[from]))
            continue;
        looked++;
        for (uint64_t i = 0; i + WINDOW < c->count; i++) {
            if (i == from || c->predicted[i] != c->read[from] ||
                memcmp(&c->predicted[i], &c->read[from], WINDOW * sizeof *c->read) != 0)
                continue;
            for (unsigned n = 0; n < count; n++)
                before |= tried[n] == i - from;
            if (!before) {
                tried[count++] = i - from;
                displaced(c, i > from ? i - from : from - i, from > i, try, context);
            }
            break;
        }
        from += apart;
    }
}

/* A displacement, and how many words speak for it. */
typedef struct vote {
    uint64_t by;
    unsigned count;
} vote;

static void add_vote(vote *votes, uint64_t by)
{
    for (uint64_t n = by * UINT64_C(0x9E3779B97F4A7C15) >> 32;; n++) {
        vote *v = &votes[n % VOTES];

        if (v->count && v->by != by)
            continue;
        v->by = by;
        v->count++;
        return;
    }
}

/* Words that are not the ground, spread over what was read wrong, and where in the image the same
 * values stand: what most of them agree on is tried. For images that are nearly all one value. */
static void vote_places(const compare *c, rmg_word ground, try_function try, void *context)
{
    vote *votes = g_new0(vote, VOTES);
    const bool few = c->held <= FEW;
    uint64_t all = 0, turn = 0;
    unsigned cast = 0;

    for (uint64_t i = 0; i < c->count; i++)
        all += (c->read[i] & c->mask) != ground && touched_at(c, i);
    for (uint64_t i = 0; i < c->count && cast < VOTES / 2u; i++) {
        unsigned here = 0;

        if ((c->read[i] & c->mask) == ground || !touched_at(c, i) || turn++ % (all / VOTERS + 1u))
            continue;
        for (uint64_t k = 0; k < c->count && here < PLACES; k++)
            if (c->predicted[k] == c->read[i] && k != i) {
                add_vote(votes, (k + c->count - i) % c->count);
                here++;
                cast++;
            }
    }
    for (unsigned n = 0; n < (few ? 16u : 4u); n++) {
        vote *best = votes;

        for (unsigned v = 1; v < VOTES; v++)
            if (votes[v].count > best->count)
                best = &votes[v];
        if (best->count < (few ? 1u : 2u))
            break;
        displaced(c, best->by, false, try, context);
        displaced(c, c->count - best->by, true, try, context);
        best->count = 0;
    }
    g_free(votes);
}

/* A reading of one value throughout repeats nothing: it is blank. */
static bool one_value(const compare *c)
{
    for (uint64_t i = 1; i < c->count; i++)
        if ((c->read[i] ^ c->read[0]) & c->mask)
            return false;
    return true;
}

static void repeats(const compare *c, try_function try, void *context)
{
    if (one_value(c))
        return;
    for (uint8_t kept = (uint8_t)MAX(c->lines - (int)PARTS, 1); kept + 1u < c->lines; kept++)
        for (uint64_t part = 0; part << kept < c->count; part++)
            try(context, &(rmg_explanation){.kind = RMG_DIFF_REPEATED, .a = kept, .offset = part});
}

/* A stretch that reads nothing but ones, or zeros, and of it the touched words. */
typedef struct run {
    uint64_t first, count, touched;
} run;

static void keep_run(run *runs, run found)
{
    size_t least = 0;

    for (size_t i = 1; i < RUNS; i++)
        if (runs[i].touched < runs[least].touched)
            least = i;
    if (found.touched > runs[least].touched)
        runs[least] = found;
}

static void blanks(const compare *c, uint8_t level, try_function try, void *context)
{
    const rmg_word blank = level ? c->mask : 0;
    run runs[RUNS] = {{0, 0, 0}}, now = {0, 0, 0};

    for (uint64_t i = 0; i <= c->count; i++) {
        if (i < c->count && (c->read[i] & c->mask) == blank) {
            const bool touched = touched_at(c, i) != 0;

            if (touched && !now.touched)
                now.first = i;
            now.touched += touched;
            if (touched)
                now.count = i + 1u - now.first;
        } else {
            keep_run(runs, now);
            now = (run){0, 0, 0};
        }
    }
    for (size_t r = 0; r < RUNS; r++) {
        rmg_explanation e = {
            .kind = RMG_DIFF_BLANK, .first = runs[r].first, .count = runs[r].count, .level = level};
        uint64_t end = runs[r].first + runs[r].count;

        if (!runs[r].touched)
            continue;
        while (end < c->count && (c->read[end] & c->mask) == blank)
            end++;
        if (end == c->count) /* the image is blank there too: both ends read the same */
            e.count = end - e.first;
        try(context, &e);
        if (level && !e.first) /* all may stand higher, or lower, by as much */
            displaced(c, e.count, true, try, context);
        if (level && e.first && end == c->count)
            displaced(c, e.count, false, try, context);
    }
}

void rmg_each_place(const compare *c, try_function try, void *context)
{
    offsets(c, try, context);
    vote_places(c, c->mask, try, context);
    vote_places(c, 0, try, context);
    repeats(c, try, context);
    for (uint8_t half = 0; half < 2; half++)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_HALF_BLANK, .a = half});
    for (uint8_t level = 0; level < 2; level++)
        blanks(c, level, try, context);
}
