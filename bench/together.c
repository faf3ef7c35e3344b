/* Chips and places that are each right with others and not together: trials by the advice of the
 * library, by the cheapest first until one cause has 90 %, and by the best choice that a search of
 * this program's own finds. A wrong conclusion counts RMG_TOGETHER_WRONG_MINUTES. Causes and
 * results are drawn with the chances that the library supposes, or with others: each cause as
 * often, results a third of the way to even odds.
 *
 *   bench-together CASES SEED [otherwise] */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/job.h"
#include "rimeglass/march.h"

#define STATES  729u /* three of each of six trials */
#define SETTLED 0.9
enum { BY_ADVICE, CHEAPEST_FIRST, SEARCHED, POLICIES };
static const char *const names[POLICIES] = {"as advised", "cheapest trial first", "searched"};

static rmg_cost_table costs;
static bool otherwise;

static double price(rmg_change_kind kind)
{
    const rmg_cost *c = &costs.costs[kind][RMG_MOUNT_SOCKET];

    return c->minutes + c->damage * RMG_DAMAGE_MINUTES;
}

/* By what a technician does for it, apart from the library's own reckoning. */
static double trial_minutes(const uint8_t *seen, int trial)
{
    switch (trial) {
    case RMG_TOGETHER_LOOK:
        return 1;
    case RMG_TOGETHER_BACK:
        return price(RMG_CHANGE_FIT) + 1;
    case RMG_TOGETHER_CLOCK:
    case RMG_TOGETHER_RAISED:
        return price(trial == RMG_TOGETHER_CLOCK ? RMG_CHANGE_CLOCK : RMG_CHANGE_SUPPLY) + 1 +
               (seen[RMG_TOGETHER_BACK] ? 0 : price(RMG_CHANGE_FIT));
    case RMG_TOGETHER_LIKE:
        return price(RMG_CHANGE_FIT) + price(RMG_CHANGE_OTHER) + 1;
    default:
        return price(RMG_CHANGE_OTHER) + 1;
    }
}

static void spell(unsigned state, uint8_t *seen)
{
    for (unsigned t = 0; t < RMG_TOGETHER_TRIALS; t++, state /= 3)
        seen[t] = (uint8_t)(state % 3);
}

static unsigned state_of(const uint8_t *seen)
{
    unsigned state = 0;

    for (unsigned t = RMG_TOGETHER_TRIALS; t-- > 0;)
        state = 3 * state + seen[t];
    return state;
}

/* The least minutes from a state on, and the trial that begins them. */
static double search(unsigned state, int *choice, double *known)
{
    uint8_t seen[RMG_TOGETHER_TRIALS];
    rmg_together now;
    double least;

    if (known[state] >= 0)
        return known[state];
    spell(state, seen);
    rmg_together_weigh(seen, &costs, RMG_MOUNT_SOCKET, &now);
    choice[state] = RMG_TOGETHER_TRIALS;
    least = RMG_TOGETHER_WRONG_MINUTES * (1 - now.shares[now.likeliest]);
    for (int t = 0; t < RMG_TOGETHER_TRIALS; t++) {
        double minutes = trial_minutes(seen, t), passes = 0;

        if (seen[t])
            continue;
        for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
            passes +=
                now.shares[c] * rmg_together_chance((rmg_together_trial)t, (rmg_together_cause)c);
        seen[t] = RMG_TOGETHER_PASSES;
        minutes += passes * search(state_of(seen), choice, known);
        seen[t] = RMG_TOGETHER_FAILS;
        minutes += (1 - passes) * search(state_of(seen), choice, known);
        seen[t] = RMG_TOGETHER_UNTRIED;
        if (minutes < least) {
            least = minutes;
            choice[state] = t;
        }
    }
    known[state] = least;
    return least;
}

static int choose(int policy, const uint8_t *seen, const rmg_together *t, const int *choice)
{
    int cheapest = RMG_TOGETHER_TRIALS;

    switch (policy) {
    case BY_ADVICE:
        return (int)t->next;
    case SEARCHED:
        return choice[state_of(seen)];
    default:
        for (int n = 0; n < RMG_TOGETHER_TRIALS && t->shares[t->likeliest] < SETTLED; n++)
            if (!seen[n] && (cheapest == RMG_TOGETHER_TRIALS ||
                             trial_minutes(seen, n) < trial_minutes(seen, cheapest)))
                cheapest = n;
        return cheapest;
    }
}

static double draw(uint64_t seed, uint64_t what)
{
    return (double)(rmg_hash(seed, what) >> 11) / 9007199254740992.0;
}

static int draw_cause(uint64_t seed)
{
    double at = draw(seed, 1);
    int cause = 0;

    for (; cause < RMG_TOGETHER_CAUSES - 1; cause++) {
        const double share =
            otherwise ? 1.0 / RMG_TOGETHER_CAUSES : rmg_together_prior((rmg_together_cause)cause);

        if (at < share)
            break;
        at -= share;
    }
    return cause;
}

int main(int count, char **words)
{
    static double known[STATES];
    static int choice[STATES];
    const unsigned cases = count > 2 ? (unsigned)strtoul(words[1], NULL, 10) : 0;
    const uint64_t seed = count > 2 ? strtoull(words[2], NULL, 10) : 0;
    double first = 0;

    otherwise = count > 3 && strcmp(words[3], "otherwise") == 0;
    if (!cases) {
        fprintf(stderr, "usage: bench-together CASES SEED [otherwise]\n");
        return 2;
    }
    rmg_costs_standard(&costs);
    for (unsigned i = 0; i < STATES; i++)
        known[i] = -1;
    search(0, choice, known);
    printf("%-22s %18s %8s %8s\n", "", "cause right", "minutes", "trials");
    for (int policy = 0; policy < POLICIES; policy++) {
        double minutes = 0, wrong = 0;
        unsigned right = 0, trials = 0;
        double all;

        for (unsigned i = 0; i < cases; i++) {
            const int cause = draw_cause(seed + i);
            uint8_t seen[RMG_TOGETHER_TRIALS] = {0};
            rmg_together t;

            for (int next;; trials++) {
                double passes;

                rmg_together_weigh(seen, &costs, RMG_MOUNT_SOCKET, &t);
                next = choose(policy, seen, &t, choice);
                if (next == RMG_TOGETHER_TRIALS)
                    break;
                minutes += trial_minutes(seen, next);
                passes = rmg_together_chance((rmg_together_trial)next, (rmg_together_cause)cause);
                passes += otherwise ? (0.5 - passes) / 3 : 0;
                /* the same trial of the same case shows the same, whoever makes it */
                seen[next] = draw(seed + i, 10u + (unsigned)next) < passes ? RMG_TOGETHER_PASSES
                                                                           : RMG_TOGETHER_FAILS;
            }
            right += (int)t.likeliest == cause;
            wrong += (int)t.likeliest == cause ? 0 : RMG_TOGETHER_WRONG_MINUTES;
        }
        all = minutes + wrong;
        printf("%-22s %9u %7.1f %% %8.2f %8.2f", names[policy], right, 100.0 * right / cases,
               minutes / cases, (double)trials / cases);
        first = policy == BY_ADVICE ? all : first;
        printf("   with wrong ones %6.2f; as advised %.3f of it\n", all / cases, first / all);
    }
    return 0;
}
