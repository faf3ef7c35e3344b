/* The best order of changes, searched: every change that tells something, and what follows from
 * each of its results, three changes deep; then the repairs, by share over price. */
#include <stdlib.h>
#include <string.h>

#include "trial_policy.h"

#define DEEP      3u
#define CHANGES   24u
#define MENDED_AT 0.9   /* share from which on a repair is made: as the advice does */
#define UNLIKELY  0.002 /* results that are not followed */

/* A change: for each result how likely each cause gives it. */
typedef struct telling {
    const rmg_advice *advice;
    double price;
    size_t count;
    double gives[16][TRIAL_FEW];
    bool ends[16]; /* the board passes then */
} telling;

/* A repair, and the causes that it mends. */
typedef struct mending {
    const rmg_advice *advice;
    double price;
    bool mends[TRIAL_FEW];
} mending;

typedef struct searched {
    size_t causes, tellings, mendings;
    telling telling[CHANGES];
    mending mending[CHANGES];
} searched;

static double share_of(const mending *m, const double *shares, size_t count)
{
    double share = 0;

    for (size_t i = 0; i < count; i++)
        share += m->mends[i] ? shares[i] : 0;
    return share;
}

/* What the repairs cost, the one with the largest share for its price first, until it is mended. */
static double mend(const searched *s, const double *shares)
{
    bool done[CHANGES] = {false};
    double left = 1, cost = 0;

    for (size_t n = 0; n < s->mendings; n++) {
        size_t best = CHANGES;
        double most = 0;

        for (size_t m = 0; m < s->mendings; m++) {
            const double worth = share_of(&s->mending[m], shares, s->causes) / s->mending[m].price;

            if (!done[m] && worth > most) {
                most = worth;
                best = m;
            }
        }
        if (best == CHANGES)
            break;
        done[best] = true;
        cost += left * s->mending[best].price;
        left -= share_of(&s->mending[best], shares, s->causes);
        left = left < 0 ? 0 : left;
    }
    return cost;
}

static double likeliest(const searched *s, const double *shares)
{
    double most = 0;

    for (size_t m = 0; m < s->mendings; m++) {
        const double share = share_of(&s->mending[m], shares, s->causes);

        most = share > most ? share : most;
    }
    return most;
}

/* Minutes until it is mended, from these shares on; *which: the change to begin with, CHANGES: the
 * repairs. */
static double best_from(const searched *s, const double *shares, const bool *made, unsigned deep,
                        size_t *which)
{
    double best = -1;
    size_t chosen = CHANGES;

    if (deep && likeliest(s, shares) < MENDED_AT)
        for (size_t t = 0; t < s->tellings; t++) {
            const telling *c = &s->telling[t];
            double cost = c->price;
            bool now[CHANGES];
            size_t results = 0;

            if (made[t])
                continue;
            memcpy(now, made, sizeof now);
            now[t] = true;
            for (size_t r = 0; r < c->count; r++) {
                double then[TRIAL_FEW], chance = 0;
                size_t next;

                for (size_t i = 0; i < s->causes; i++)
                    chance += then[i] = shares[i] * c->gives[r][i];
                if (chance < UNLIKELY)
                    continue;
                results++;
                for (size_t i = 0; i < s->causes; i++)
                    then[i] /= chance;
                if (!c->ends[r])
                    cost += chance * best_from(s, then, now, deep - 1, &next);
            }
            if (results > 1 && (best < 0 || cost < best)) { /* else it tells nothing by now */
                best = cost;
                chosen = t;
            }
        }
    *which = chosen;
    return chosen == CHANGES ? mend(s, shares) : best;
}

/* Which causes the repair mends: those of its socket, or of its kind. */
static void list_mended(const rmg_advice *a, const choice *c, mending *m)
{
    for (size_t i = 0; i < c->causes->count; i++) {
        const rmg_hypothesis *h = &c->causes->list[i];
        const uint16_t now = h->socket == RMG_NO_SOCKET
                                 ? RMG_NO_SOCKET
                                 : rmg_chip_now(c->changes->list, c->changes->count, h->socket);
        const bool joint = h->belongs == RMG_BELONGS_CONTACT || h->belongs == RMG_BELONGS_PLACE;

        m->mends[i] =
            h->rival != SIZE_MAX &&
            (a->change.kind == RMG_CHANGE_REPLACE
                 ? h->belongs == RMG_BELONGS_CHIP && now == a->change.socket
             : a->change.socket != RMG_NO_SOCKET ? joint && h->socket == a->change.socket
                                                 : h->belongs != RMG_BELONGS_CHIP && !joint);
    }
}

static void look_at(const choice *c, const rmg_advice *a, searched *s)
{
    telling *t = &s->telling[s->tellings];
    rmg_foreseen *results;
    size_t count;

    *t = (telling){.advice = a, .price = trial_price(&a->cost)};
    if (a->change.kind == RMG_CHANGE_MEASURE)
        t->price -= TRIAL_TEST;
    rmg_foresee(&c->base->run, &c->base->suspects, c->causes->list, c->causes->count, c->changes,
                &a->change, &results, &count);
    t->count = count < 16 ? count : 16;
    for (size_t r = 0; r < t->count; r++) {
        t->ends[r] = results[r].outcome == RMG_OUTCOME_GONE &&
                     (a->change.kind == RMG_CHANGE_RESEAT || a->change.kind == RMG_CHANGE_SWAP ||
                      a->change.kind == RMG_CHANGE_FIT);
        for (size_t i = 0; i < s->causes; i++)
            t->gives[r][i] =
                c->causes->list[i].after > 0 ? results[r].shares[i] / c->causes->list[i].after : 0;
    }
    rmg_foreseen_free(results, count);
    s->tellings++;
}

const rmg_advice *trial_searched(choice *c)
{
    searched *s = calloc(1, sizeof *s);
    double shares[TRIAL_FEW];
    bool made[CHANGES] = {false};
    const rmg_advice *found = NULL;
    size_t which = CHANGES;

    if (!s || c->causes->count > TRIAL_FEW) {
        free(s);
        return NULL;
    }
    s->causes = c->causes->count;
    for (size_t i = 0; i < s->causes; i++)
        shares[i] = c->causes->list[i].after;
    for (size_t i = 0; i < c->count; i++) {
        const rmg_advice *a = &c->list[i];

        if (trial_is_done(&a->change, c->made, c->made_count))
            continue;
        if (!a->settles && s->tellings < CHANGES) {
            look_at(c, a, s);
        } else if (a->settles && s->mendings < CHANGES) {
            s->mending[s->mendings] = (mending){.advice = a, .price = trial_price(&a->cost)};
            list_mended(a, c, &s->mending[s->mendings++]);
        }
    }
    best_from(s, shares, made, DEEP, &which);
    if (which < CHANGES) {
        found = s->telling[which].advice;
    } else { /* as mend() has it */
        double most = 0;

        for (size_t m = 0; m < s->mendings; m++) {
            const double worth = share_of(&s->mending[m], shares, s->causes) / s->mending[m].price;

            if (worth > most) {
                most = worth;
                found = s->mending[m].advice;
            }
        }
    }
    free(s);
    return found;
}
