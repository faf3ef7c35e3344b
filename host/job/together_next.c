/* Why a chip and a place are not right together: causes weighed by the trials made, and the next
 * trial: that with which the fewest minutes are to be expected until the end, where a wrong
 * conclusion has its price. There are so few states that all are searched. The table is made by
 * hand; docs/jobs.md prints it. */
#include <math.h>
#include <string.h>

#include "internal.h"

#define STATES 729u /* three of each of six trials */

static const double priors[RMG_TOGETHER_CAUSES] = {
    [RMG_TOGETHER_CONTACT] = 0.30, [RMG_TOGETHER_SPEED] = 0.25,   [RMG_TOGETHER_MARKED] = 0.12,
    [RMG_TOGETHER_SUPPLY] = 0.13,  [RMG_TOGETHER_SIGNALS] = 0.20,
};

/* Chances that it passes: contact, speed, marking, supply, signals. */
static const double passes[RMG_TOGETHER_TRIALS][RMG_TOGETHER_CAUSES] = {
    [RMG_TOGETHER_LOOK] = {0.85, 0.08, 0.95, 0.85, 0.90},
    [RMG_TOGETHER_BACK] = {0.70, 0.03, 0.03, 0.03, 0.03},
    [RMG_TOGETHER_CLOCK] = {0.10, 0.95, 0.95, 0.30, 0.80},
    [RMG_TOGETHER_RAISED] = {0.10, 0.40, 0.40, 0.90, 0.30},
    [RMG_TOGETHER_LIKE] = {0.97, 0.10, 0.90, 0.50, 0.20},
    [RMG_TOGETHER_GRADE] = {0.97, 0.95, 0.08, 0.95, 0.95},
};

static const rmg_change_kind kinds[RMG_TOGETHER_TRIALS] = {
    [RMG_TOGETHER_LOOK] = RMG_CHANGE_NOTHING, [RMG_TOGETHER_BACK] = RMG_CHANGE_FIT,
    [RMG_TOGETHER_CLOCK] = RMG_CHANGE_CLOCK,  [RMG_TOGETHER_RAISED] = RMG_CHANGE_SUPPLY,
    [RMG_TOGETHER_LIKE] = RMG_CHANGE_FIT,     [RMG_TOGETHER_GRADE] = RMG_CHANGE_OTHER,
};

double rmg_together_chance(rmg_together_trial trial, rmg_together_cause cause)
{
    return passes[trial][cause];
}

double rmg_together_prior(rmg_together_cause cause)
{
    return priors[cause];
}

static double entropy_of(const double *shares, double all)
{
    double bits = 0;

    for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
        if (shares[c] > 0)
            bits -= shares[c] / all * log2(shares[c] / all);
    return bits;
}

static rmg_together_cause likeliest(const double *shares)
{
    int best = 0;

    for (int c = 1; c < RMG_TOGETHER_CAUSES; c++)
        best = shares[c] > shares[best] ? c : best;
    return (rmg_together_cause)best;
}

/* What the trial tells: its results into *t, as if it were the next one. */
static void foresee(rmg_together *t, rmg_together_trial trial)
{
    double after[2][RMG_TOGETHER_CAUSES], left = 0;

    t->next = trial;
    for (int fails = 0; fails < 2; fails++) {
        double all = 0;

        for (int c = 0; c < RMG_TOGETHER_CAUSES; c++) {
            after[fails][c] = t->shares[c] * (fails ? 1 - passes[trial][c] : passes[trial][c]);
            all += after[fails][c];
        }
        t->then[fails] = likeliest(after[fails]);
        t->then_share[fails] = after[fails][t->then[fails]] / all;
        left += all * entropy_of(after[fails], all);
        if (!fails)
            t->passes = all;
    }
    t->bits = entropy_of(t->shares, 1) - left;
}

static double price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES;
}

/* Of a trial and the test after it; negative: it cannot be made. What is tried with the chip in the
 * socket takes putting it back there, unless it was. */
static double price_of(rmg_together_trial trial, const uint8_t *seen, const rmg_cost_table *costs,
                       rmg_mount mount)
{
    const rmg_cost *own = &costs->costs[kinds[trial]][mount];
    const rmg_cost *fit = &costs->costs[RMG_CHANGE_FIT][mount];
    const bool back = (trial == RMG_TOGETHER_CLOCK || trial == RMG_TOGETHER_RAISED) &&
                      seen[RMG_TOGETHER_BACK] == RMG_TOGETHER_UNTRIED;

    const rmg_cost *other = &costs->costs[RMG_CHANGE_OTHER][mount];
    const bool like = trial == RMG_TOGETHER_LIKE; /* another one must be found */

    if (own->minutes < 0 || (back && fit->minutes < 0) || (like && other->minutes < 0))
        return -1;
    if (like)
        return price(own) + price(other) + 1;
    return price(own) + (back ? price(fit) : 0) + 1;
}

/* All that the search keeps. */
typedef struct searching {
    const rmg_cost_table *costs;
    rmg_mount mount;
    double least[STATES]; /* minutes from there on; negative: not searched yet */
    rmg_together_trial first[STATES];
} searching;

static unsigned state_of(const uint8_t *seen)
{
    unsigned state = 0;

    for (int trial = RMG_TOGETHER_TRIALS; trial-- > 0;)
        state = 3u * state + seen[trial];
    return state;
}

static void weigh_causes(const uint8_t *seen, rmg_together *t)
{
    double all = 0;

    for (int c = 0; c < RMG_TOGETHER_CAUSES; c++) {
        t->shares[c] = priors[c];
        for (int trial = 0; trial < RMG_TOGETHER_TRIALS; trial++)
            t->shares[c] *= seen[trial] == RMG_TOGETHER_PASSES  ? passes[trial][c]
                            : seen[trial] == RMG_TOGETHER_FAILS ? 1 - passes[trial][c]
                                                                : 1;
        all += t->shares[c];
    }
    for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
        t->shares[c] /= all;
    t->likeliest = likeliest(t->shares);
}

static double search(searching *s, uint8_t *seen)
{
    const unsigned state = state_of(seen);
    rmg_together t = {.bits = 0};

    if (s->least[state] >= 0)
        return s->least[state];
    weigh_causes(seen, &t);
    s->least[state] = (1 - t.shares[t.likeliest]) * RMG_TOGETHER_WRONG_MINUTES;
    s->first[state] = RMG_TOGETHER_TRIALS;
    for (int trial = 0; trial < RMG_TOGETHER_TRIALS; trial++) {
        double minutes = price_of((rmg_together_trial)trial, seen, s->costs, s->mount);

        if (seen[trial] != RMG_TOGETHER_UNTRIED || minutes < 0)
            continue;
        foresee(&t, (rmg_together_trial)trial);
        seen[trial] = RMG_TOGETHER_PASSES;
        minutes += t.passes * search(s, seen);
        seen[trial] = RMG_TOGETHER_FAILS;
        minutes += (1 - t.passes) * search(s, seen);
        seen[trial] = RMG_TOGETHER_UNTRIED;
        if (minutes < s->least[state]) {
            s->least[state] = minutes;
            s->first[state] = (rmg_together_trial)trial;
        }
    }
    return s->least[state];
}

void rmg_together_weigh(const uint8_t seen[RMG_TOGETHER_TRIALS], const rmg_cost_table *costs,
                        rmg_mount mount, rmg_together *t)
{
    searching s = {.costs = costs, .mount = mount};
    uint8_t so_far[RMG_TOGETHER_TRIALS];
    rmg_together_trial next;

    memset(t, 0, sizeof *t);
    memcpy(so_far, seen, sizeof so_far);
    for (unsigned n = 0; n < STATES; n++)
        s.least[n] = -1;
    search(&s, so_far);
    next = s.first[state_of(seen)];
    weigh_causes(seen, t);
    if (next < RMG_TOGETHER_TRIALS)
        foresee(t, next);
    t->next = next;
    t->minutes = s.least[state_of(seen)];
}
