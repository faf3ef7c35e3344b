/* Words that distinguish what the bits of a word do to each other: a walk in which, for any two of
 * its bits, the one changes in either direction while the other stays at either level. Found anew
 * for each width, by going on to the word that shows most that is not shown yet. */
#include <glib.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/plan.h"

#define WIDEST  64u
#define TRIES   24u /* walks, of which the shortest is taken; of wide words a quarter of them, */
#define WIDE    16u /* which take longer */
#define DRAWN   24u /* words that are tried for the next step, each improved bit by bit */
#define LONGEST 250u

typedef struct walk {
    uint8_t bits;
    rmg_word all;
    uint64_t drawn;               /* of numbers */
    uint64_t shown[2][WIDEST][2]; /* that bit i rose (1), fell (0) while these were 0, 1 */
    uint64_t left;                /* of all that is to be shown */
    rmg_word words[LONGEST];
    unsigned count;
} walk;

static rmg_word draw(walk *w)
{
    return (rmg_word)(rmg_hash(0x57A1C, w->drawn++) & w->all);
}

/* How much the step from one word to another shows; `note`: that is shown then. */
static unsigned step(walk *w, rmg_word from, rmg_word to, bool note)
{
    const rmg_word moved = from ^ to;
    const uint64_t stay[2] = {~(uint64_t)(from | moved) & w->all,
                              (uint64_t)from & ~(uint64_t)moved & w->all};
    unsigned sum = 0;

    for (uint8_t i = 0; i < w->bits; i++) {
        uint64_t(*shown)[2] = &w->shown[to >> i & 1u][i];

        for (unsigned level = 0; (moved >> i & 1u) && level < 2; level++) {
            sum += (unsigned)__builtin_popcountll(stay[level] & ~(*shown)[level]);
            if (note)
                (*shown)[level] |= stay[level];
        }
    }
    return sum;
}

/* The word made better as long as one bit more or less does. */
static unsigned improve(walk *w, rmg_word from, rmg_word *to)
{
    unsigned best = step(w, from, *to, false);
    bool better = true;

    while (better) {
        better = false;
        for (uint8_t i = 0; i < w->bits; i++) {
            const rmg_word other = *to ^ (rmg_word)((rmg_word)1 << i);
            const unsigned here = step(w, from, other, false);

            if (here > best) {
                best = here;
                *to = other;
                better = true;
            }
        }
    }
    return best;
}

/* Somewhere from where something can be shown that is not shown yet. */
static rmg_word way_out(walk *w)
{
    for (unsigned to = 0; to < 2; to++)
        for (uint8_t i = 0; i < w->bits; i++)
            for (unsigned level = 0; level < 2; level++) {
                const uint64_t open = ~w->shown[to][i][level] & w->all & ~((uint64_t)1 << i);
                rmg_word word = draw(w);

                if (!open)
                    continue;
                word &= (rmg_word) ~((rmg_word)1 << i | (rmg_word)open);
                return word | (rmg_word)((rmg_word)!to << i) | (level ? (rmg_word)open : 0);
            }
    return 0;
}

static void next_word(walk *w)
{
    const rmg_word from = w->words[w->count - 1];
    rmg_word best = from;
    unsigned most = 0;

    for (unsigned n = 0; n < DRAWN; n++) {
        rmg_word to = draw(w);
        const unsigned here = improve(w, from, &to);

        if (here > most) {
            most = here;
            best = to;
        }
    }
    if (!most)
        best = way_out(w);
    w->left -= step(w, from, best, true);
    w->words[w->count++] = best;
}

static void make(walk *w, uint8_t bits, unsigned try)
{
    memset(w, 0, sizeof *w);
    w->bits = bits;
    w->all = (rmg_word)((((rmg_word)1 << (bits - 1u)) - 1u) << 1 | 1u);
    w->drawn = (uint64_t)bits << 32 | (uint64_t)try << 20;
    w->left = 4u * (uint64_t)bits * (bits - 1u);
    w->count = 1; /* the word 0 */
    while (w->left && w->count < LONGEST)
        next_word(w);
}

unsigned rmg_within_words(uint8_t bits, const rmg_word **words)
{
    static walk *made[WIDEST + 1];
    static GMutex lock;

    g_mutex_lock(&lock);
    for (unsigned try = 0; try < (bits > WIDE ? TRIES / 4 : TRIES); try++) {
        walk *w;

        if (made[bits] && try == 0)
            break; /* as it was found before */
        w = g_new(walk, 1);
        make(w, bits, try);
        if (!made[bits] || w->count < made[bits]->count) {
            g_free(made[bits]);
            made[bits] = w;
        } else {
            g_free(w);
        }
    }
    g_mutex_unlock(&lock);
    *words = made[bits]->words;
    return made[bits]->count;
}
