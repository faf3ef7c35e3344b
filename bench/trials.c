/* Simulated repairs, followed to the end: a technician with a board that has one fault takes the
 * advice, or always the cheapest change at a socket that a cause is at, or always the cheapest of
 * those that the advice knows to tell something, until one cause is as good as sure, a repair
 * passes its test, or no change is left. Prints how many end right and what they cost.
 *
 *   bench-trials CASES SEED      the table
 *   bench-trials seldom CASES SEED   the same with faults that come and go
 *   bench-trials case SEED       one repair, step by step
 */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "diag.h"
#include "rimeglass/march.h"
#include "rimeglass/report.h"
#include "rimeglass/trial.h"

#define STEPS   14u /* changes of one repair, at most */
#define CLEANED 70u /* of a hundred contacts that are right after they were made anew */
#define SURE    0.995
#define TEST    1.0
#define PARTS   2u

/* What the fault belongs to in truth. */
typedef enum owner { OF_CHIP, OF_CONTACT, OF_PLACE, OF_LINE, OWNERS } owner;

static const char *const owner_names[] = {"chip", "contact", "place of a socket", "line or select"};

/* The board as it is in truth. */
typedef struct world {
    const diag_board *board;
    rmg_sim_fault fault;
    owner owner;
    bool there;      /* the fault is */
    uint16_t socket; /* where its chip is now, or where it is; RMG_NO_SOCKET: out of the board */
    bool empty;      /* its socket is, for a test */
    uint16_t pulled;
    uint32_t passes; /* of a test */
    diag_dice dice;
} world;

typedef struct outcome {
    bool right, sound_replaced, sure_and_wrong;
    double cost;
    unsigned changes;
} outcome;

typedef struct score {
    unsigned cases, right, sound_replaced, sure_and_wrong;
    double cost;
    unsigned changes[STEPS + 2u];
} score;

/* Who chooses the next change. */
enum { AS_ADVISED, CHEAPEST_FIRST, CHEAPEST_TELLING, POLICIES };

static const char *const policy_names[] = {"as advised", "  cheapest first", "  cheapest telling"};

static bool say, seldom;

/* One test of the world as it is; `found`: with suspects, replayed. */
static void test(world *w, diag_case *c, bool diagnose)
{
    memset(c, 0, sizeof *c);
    c->board = w->board;
    c->passes = w->passes;
    c->world = diag_roll(&w->dice, 1000000);
    if (w->there && (w->owner != OF_CHIP || w->socket != RMG_NO_SOCKET)) {
        rmg_sim_fault f = w->fault;

        if (w->owner == OF_CHIP && f.chip != w->socket) {
            f.chip = w->socket;
            memset(f.scope, 0, sizeof f.scope);
            rmg_fault_include(&f, w->socket);
        }
        c->faults[c->fault_count++] = f;
    }
    if (w->pulled != RMG_NO_SOCKET) {
        rmg_sim_fault f = {.kind = RMG_FAULT_MISSING, .chip = w->pulled};

        rmg_fault_include(&f, w->pulled);
        c->faults[c->fault_count++] = f;
    }
    diag_case_run(c, diagnose);
}

/* Contacts of a socket are made anew. */
static void touch(world *w, uint16_t socket)
{
    if (w->owner == OF_CONTACT && w->fault.chip == socket && diag_roll(&w->dice, 100) < CLEANED)
        w->there = false;
}

/* Does the change in truth; a chip that was only pulled is put back afterwards. */
static void apply(world *w, const rmg_change *c, outcome *o)
{
    switch (c->kind) {
    case RMG_CHANGE_SWAP:
        if (w->owner == OF_CHIP && (w->socket == c->socket || w->socket == c->other))
            w->socket = w->socket == c->socket ? c->other : c->socket;
        touch(w, c->socket);
        touch(w, c->other);
        break;
    case RMG_CHANGE_RESEAT:
        touch(w, c->socket);
        break;
    case RMG_CHANGE_PULL:
        w->pulled = c->socket;
        break;
    case RMG_CHANGE_FIT:
    case RMG_CHANGE_REPLACE:
        if (w->owner == OF_CHIP && w->socket == c->socket) {
            w->socket = RMG_NO_SOCKET;
            w->there = false;
        } else if (c->kind == RMG_CHANGE_REPLACE) {
            o->sound_replaced = true;
        }
        touch(w, c->socket);
        break;
    default: /* on top: gives what the chip beneath does not drive */
        break;
    }
}

static double price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES + TEST;
}

/* What is seen in truth: by a meter, or with the pin lifted. */
static rmg_measured measure(world *w, uint16_t socket, bool lifted)
{
    const bool here = w->there && w->fault.chip == socket && w->owner != OF_LINE;

    if (lifted)
        return w->there && w->owner == OF_CHIP && w->socket == socket ? RMG_MEASURED_CHIP_BAD
                                                                      : RMG_MEASURED_PAD_BAD;
    if (here && w->owner == OF_CONTACT)
        return diag_roll(&w->dice, 100) < (seldom ? 30 : 92) ? RMG_MEASURED_OPEN
                                                             : RMG_MEASURED_WHOLE;
    if (here && w->owner == OF_PLACE && seldom)
        return diag_roll(&w->dice, 100) < 30 ? RMG_MEASURED_OPEN : RMG_MEASURED_WHOLE;
    if (here && w->owner == OF_PLACE)
        return w->fault.kind == RMG_FAULT_OUTPUT || w->fault.kind == RMG_FAULT_DATA_LINE ||
                       w->fault.kind == RMG_FAULT_LINE_STUCK
                   ? RMG_MEASURED_SHORT
                   : RMG_MEASURED_OPEN;
    if (w->owner == OF_CHIP && w->socket == socket && w->fault.kind == RMG_FAULT_OUTPUT &&
        diag_roll(&w->dice, 100) < 25)
        return RMG_MEASURED_SHORT;
    return RMG_MEASURED_WHOLE;
}

/* Does a repair that was advised; what it is of is known by the advice. */
static void mend(world *w, const rmg_change *c, double share, outcome *o)
{
    const bool before = o->sound_replaced;

    if (c->kind == RMG_CHANGE_REPLACE) {
        apply(w, c, o);
        o->sure_and_wrong |= o->sound_replaced && !before && share > 0.95;
    } else if (c->socket != RMG_NO_SOCKET) { /* at one socket */
        if ((w->owner == OF_CONTACT || w->owner == OF_PLACE) && w->fault.chip == c->socket)
            w->there = false;
    } else if (w->owner == OF_LINE) {
        w->there = false;
    }
}

/* The causes after something was seen of them. */
typedef struct causes {
    rmg_hypothesis *list;
    size_t count;
} causes;

/* Was it done before? */
static bool is_done(const rmg_change *c, const rmg_change *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].kind == c->kind && list[i].socket == c->socket &&
            (!c->text || (list[i].text && strcmp(list[i].text, c->text) == 0)))
            return true;
    return false;
}

/* The advice to take next; NULL: none is left. */
static const rmg_advice *choose(const rmg_advice *list, size_t count, const rmg_change *made,
                                size_t made_count)
{
    for (size_t i = 0; i < count; i++)
        if (!is_done(&list[i].change, made, made_count))
            return &list[i];
    return NULL;
}

/* The cheapest of the changes that tell something, until a repair is advised before all others. */
static const rmg_advice *cheapest_telling(const rmg_advice *list, size_t count,
                                          const rmg_change *made, size_t made_count)
{
    const rmg_advice *best = choose(list, count, made, made_count);

    for (size_t i = 0; best && !best->settles && i < count; i++)
        if (!list[i].settles && !is_done(&list[i].change, made, made_count) &&
            price(&list[i].cost) < price(&best->cost))
            best = &list[i];
    return best;
}

/* A sound socket with the same part that a chip can be changed with; RMG_NO_SOCKET: none. */
static uint16_t partner(const rmg_board *board, const rmg_run *run, uint16_t socket)
{
    for (uint16_t s = 0; s < board->socket_count; s++) {
        bool fails = s == socket || board->sockets[s].part != board->sockets[socket].part ||
                     board->sockets[s].mount != RMG_MOUNT_SOCKET;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            fails |= board->placement.rules[r].socket == s &&
                     rmg_failset_bits(run->failures, &board->placement.rules[r].where,
                                      rmg_rule_bits(&board->placement.rules[r]));
        if (!fails)
            return s;
    }
    return RMG_NO_SOCKET;
}

/* The fixed order: what is cheapest at a socket that some cause is at, likelier sockets first; once
 * one thing is as good as sure, or all is done, the repairs in the same order. */
static const rmg_advice *cheapest_first(const diag_case *base, const rmg_advice *list, size_t count,
                                        const causes *c, const rmg_cost_table *costs,
                                        const rmg_change *made, size_t made_count, rmg_advice *own)
{
    static const rmg_change_kind kinds[] = {RMG_CHANGE_RESEAT, RMG_CHANGE_PULL, RMG_CHANGE_MEASURE,
                                            RMG_CHANGE_HOLD,   RMG_CHANGE_SWAP, RMG_CHANGE_LIFT};
    const rmg_board *board = base->board->board;
    const rmg_advice *best = NULL;
    double cheapest = 0;

    for (size_t i = 0; i < count; i++)
        if (list[i].settles && list[i].share >= SURE && !is_done(&list[i].change, made, made_count))
            return &list[i];
    for (size_t i = 0; i < c->count; i++)
        for (size_t k = 0; k < sizeof kinds / sizeof *kinds; k++) {
            const uint16_t s = c->list[i].socket;
            rmg_advice one = {.change = {.kind = kinds[k],
                                         .socket = s,
                                         .other = RMG_NO_SOCKET,
                                         .bank = RMG_NO_BANK,
                                         .value = INT64_MIN}};

            if (s == RMG_NO_SOCKET || c->list[i].after < 0.02 ||
                is_done(&one.change, made, made_count))
                continue;
            one.cost = costs->costs[kinds[k]][board->sockets[s].mount];
            if (kinds[k] == RMG_CHANGE_SWAP)
                one.change.other = partner(board, &base->run, s);
            if (one.cost.minutes < 0 ||
                (kinds[k] == RMG_CHANGE_SWAP && one.change.other == RMG_NO_SOCKET))
                continue;
            if (!best || price(&one.cost) < cheapest) {
                *own = one;
                cheapest = price(&one.cost);
                best = own;
            }
        }
    for (size_t i = 0; i < count && !best; i++)
        if (list[i].settles && !is_done(&list[i].change, made, made_count) &&
            (!best || price(&list[i].cost) < price(&best->cost)))
            best = &list[i];
    return best;
}

static void say_step(const rmg_board *board, const rmg_advice *a, const char *came,
                     const rmg_hypothesis *top)
{
    char *text = rmg_change_text(board, &a->change);

    if (say)
        printf("  %-40s %-36s then %s at %s: %.3f\n", text, came, rmg_belongs_name(top->belongs),
               top->socket == RMG_NO_SOCKET ? "-" : board->sockets[top->socket].name, top->after);
    rmg_text_free(text);
}

/* A test after a change, and what follows. */
static bool try_again(world *w, const diag_case *base, const diag_case *before, diag_case *now,
                      const rmg_changes *changes, size_t done, causes *c, const rmg_advice *a)
{
    rmg_trial t;
    rmg_error error;
    const rmg_trial_of of = {.base = &base->run,
                             .suspects = &base->suspects,
                             .before = &before->run,
                             .after = &now->run,
                             .changes = changes,
                             .done = done,
                             .prior = c->list,
                             .prior_count = c->count};

    test(w, now, false);
    if (rmg_trial_follow(&of, &t, &error) != RMG_OK) {
        fprintf(stderr, "trials: %s\n", error.what ? error.what : "no memory");
        exit(2);
    }
    free(c->list);
    c->list = malloc((t.count + 1u) * sizeof *c->list);
    c->count = t.count;
    memcpy(c->list, t.list, c->count * sizeof *c->list);
    say_step(w->board->board, a, rmg_outcome_name(t.outcome), &c->list[0]);
    rmg_trial_free(&t);
    return !rmg_run_failed(&now->run) && w->pulled == RMG_NO_SOCKET;
}

/* One repair to its end. */
static outcome repair(const diag_board *board, const rmg_sim_fault *fault, owner owns,
                      uint64_t seed, int policy)
{
    world w = {.board = board,
               .fault = *fault,
               .owner = owns,
               .there = true,
               .socket = fault->chip,
               .pulled = RMG_NO_SOCKET,
               .passes = seldom ? 10 : 2,
               .dice = diag_seed(seed, 5)};
    rmg_cost_table costs;
    rmg_change made[STEPS], lasting[STEPS]; /* all that was done; what changed the board for good */
    rmg_changes changes = {lasting, 0};
    outcome o = {.right = false};
    diag_case base, last = {.board = NULL};
    bool passes;
    size_t done = 0;
    causes c;

    rmg_costs_standard(&costs);
    test(&w, &base, true);
    passes = !rmg_run_failed(&base.run);
    {
        rmg_hypothesis *list = rmg_hypotheses(&base.run, &base.suspects, &c.count);

        c.list = malloc((c.count + 1u) * sizeof *c.list);
        memcpy(c.list, list, c.count * sizeof *c.list);
        rmg_hypotheses_free(list);
    }
    if (say) {
        rmg_suspects_word(&base.run, &base.suspects);
        for (size_t i = 0; i < c.count && i < 5; i++) {
            char *text = rmg_hypothesis_text(board->board, &base.suspects, NULL, &c.list[i]);

            printf("  %5.3f %s: %s\n", c.list[i].after, rmg_belongs_name(c.list[i].belongs), text);
            rmg_text_free(text);
        }
    }
    if (seldom && !passes) { /* as many as a clean test must have to say something */
        const rmg_rate rate = rmg_rate_of_passes(&base.run);
        const uint64_t needed = rate.events < rate.trials ? rmg_passes_to_exclude(rate.share) : 0;

        w.passes = (uint32_t)(needed < 10 ? 10 : needed > 60 ? 60 : needed);
    }
    while (!passes && o.changes < STEPS && c.count) {
        rmg_advice *advice = NULL;
        const rmg_advice *next;
        rmg_advice own;
        size_t advices = 0;
        diag_case now;

        rmg_advise(&base.run, &base.suspects, c.list, c.count, &changes, &costs, &advice, &advices);
        next = policy == CHEAPEST_FIRST
                   ? cheapest_first(&base, advice, advices, &c, &costs, made, o.changes, &own)
               : policy == CHEAPEST_TELLING ? cheapest_telling(advice, advices, made, o.changes)
                                            : choose(advice, advices, made, o.changes);
        if (!next) {
            rmg_advice_free(advice, advices);
            break;
        }
        made[o.changes] = next->change;
        made[o.changes].text = next->change.text ? strdup(next->change.text) : NULL;
        o.changes++;
        o.cost += price(&next->cost);
        if (next->change.kind == RMG_CHANGE_MEASURE || next->change.kind == RMG_CHANGE_LIFT) {
            const rmg_measured m =
                measure(&w, next->change.socket, next->change.kind == RMG_CHANGE_LIFT);

            if (next->change.kind == RMG_CHANGE_MEASURE)
                o.cost -= TEST;
            rmg_measured_weigh(&base.run, &base.suspects, next->change.socket, m, c.list, c.count);
            say_step(board->board, next, rmg_outcome_name((rmg_outcome)(RMG_OUTCOME_WHOLE + m)),
                     &c.list[0]);
            rmg_advice_free(advice, advices);
            continue;
        }
        if (next->settles)
            mend(&w, &next->change, next->share, &o);
        else
            apply(&w, &next->change, &o);
        lasting[changes.count] = made[o.changes - 1u];
        changes.count++;
        passes = try_again(&w, &base, last.board ? &last : &base, &now, &changes, done, &c, next);
        rmg_advice_free(advice, advices);
        if (w.pulled != RMG_NO_SOCKET) { /* put back: that is part of the change */
            changes.count--;
            touch(&w, w.pulled);
            w.pulled = RMG_NO_SOCKET;
            diag_case_end(&now);
            continue;
        }
        if (last.board)
            diag_case_end(&last);
        last = now;
        done = changes.count;
    }
    o.right = passes && !o.sound_replaced;
    if (say)
        printf("  %s, %.0f minutes%s\n", passes ? "passes" : "does not pass", o.cost,
               o.sound_replaced ? ", a sound chip was replaced" : "");
    for (size_t i = 0; i < o.changes; i++)
        free(made[i].text);
    free(c.list);
    if (last.board)
        diag_case_end(&last);
    diag_case_end(&base);
    return o;
}

/* Is only one of the lines concerned that share a pin? A contact or a track has both. */
static bool within_chip(const diag_board *board, const rmg_sim_fault *fault)
{
    const rmg_part *part = board->board->sockets[fault->chip].part;

    for (uint8_t i = 0; i < part->address_lines; i++)
        for (uint8_t n = 0; n < part->address_lines; n++)
            if ((fault->lines >> i & 1u) && !(fault->lines >> n & 1u) &&
                rmg_part_address_pin(part, i) == rmg_part_address_pin(part, n))
                return true;
    return false;
}

/* What a fault of one chip can belong to, and how often it does: the causes that show so. */
static owner draw_owner(const diag_board *board, const rmg_sim_fault *fault, const diag_kind *kind,
                        diag_dice *dice)
{
    static const struct {
        rmg_fault_kind fault;
        rmg_cause chip, contact, place;
    } rows[] = {
        {RMG_FAULT_DATA_OPEN, RMG_CAUSE_CHIP_OUTPUT, RMG_CAUSE_CONTACT_OUTPUT,
         RMG_CAUSE_TRACK_DATA},
        {RMG_FAULT_INPUT_OPEN, RMG_CAUSE_CHIP_INPUT, RMG_CAUSE_CONTACT_INPUT,
         RMG_CAUSE_TRACK_WRITE},
        {RMG_FAULT_ADDRESS_CHIP, RMG_CAUSE_CHIP_ADDRESS, RMG_CAUSE_CONTACT_ADDRESS,
         RMG_CAUSE_TRACK_ADDRESS},
        {RMG_FAULT_OUTPUT, RMG_CAUSE_CHIP_OUTPUT, RMG_CAUSES, RMG_CAUSE_SHORT_PIN},
    };
    rmg_cause_table table;
    const double *often;

    if (kind->truth != TRUTH_CHIP || kind->reach != REACH_CHIP)
        return OF_LINE;
    if (kind->fault == RMG_FAULT_ADDRESS_CHIP && within_chip(board, fault))
        return OF_CHIP;
    rmg_causes_standard(&table);
    often = board->board->sockets[fault->chip].mount == RMG_MOUNT_SOCKET ? table.socketed
                                                                         : table.soldered;
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++)
        if (rows[i].fault == kind->fault) {
            const double chip = often[rows[i].chip],
                         contact = rows[i].contact < RMG_CAUSES ? often[rows[i].contact] : 0,
                         place = often[rows[i].place];
            const double at = (double)diag_roll(dice, 1000000) / 1e6 * (chip + contact + place);

            return at < chip ? OF_CHIP : at < chip + contact ? OF_CONTACT : OF_PLACE;
        }
    return OF_CHIP;
}

/* One case: board, fault and what it belongs to, by the seed alone. */
static bool draw(uint64_t seed, diag_board *board, rmg_sim_fault *fault, owner *o,
                 const diag_kind **kind)
{
    diag_dice dice = diag_seed(seed, 1);

    diag_board_make(seed, (diag_family)diag_roll(&dice, DIAG_FAMILIES), board);
    for (unsigned tries = 0; tries < 200; tries++) {
        *kind = &diag_kinds[diag_roll(&dice, diag_kind_count)];
        if ((*kind)->when != WHEN_ALWAYS || (*kind)->time || (*kind)->truth == TRUTH_NOBODY ||
            !diag_fault_make(&dice, board, *kind, fault))
            continue;
        *o = draw_owner(board, fault, *kind, &dice);
        if (seldom) {
            static const uint32_t rates[] = {1000, 5000, 30000, 200000}; /* of 10^9 accesses */

            if ((*kind)->fault != RMG_FAULT_OUTPUT && (*kind)->fault != RMG_FAULT_DATA_OPEN &&
                (*kind)->fault != RMG_FAULT_INPUT_OPEN)
                continue;
            fault->when.rate_ppb = rates[diag_roll(&dice, 4)];
        }
        return true;
    }
    return false;
}

static void add(score *s, const outcome *o)
{
    s->cases++;
    s->right += o->right;
    s->sound_replaced += o->sound_replaced;
    s->sure_and_wrong += o->sure_and_wrong;
    s->cost += o->cost;
    s->changes[o->changes < STEPS ? o->changes : STEPS]++;
}

/* [owner][policy] */
typedef struct table {
    score scores[OWNERS][POLICIES];
    unsigned hidden, none;
} table;

/* Do failures lie in the cells of one socket alone? */
static bool only_socket(const rmg_run *run, uint16_t *socket)
{
    const rmg_placement *placement = &run->board->placement;
    uint16_t found = RMG_NO_SOCKET;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (!rmg_failset_bits(run->failures, &rule->where, rmg_rule_bits(rule)))
            continue;
        if (found != RMG_NO_SOCKET && found != rule->socket)
            return false;
        found = rule->socket;
    }
    if (found != RMG_NO_SOCKET)
        *socket = found;
    return found != RMG_NO_SOCKET;
}

static void one_case(uint64_t seed, table *t)
{
    diag_board board;
    rmg_sim_fault fault;
    const diag_kind *kind;
    owner o;

    if (!draw(seed, &board, &fault, &o, &kind)) {
        t->none++;
    } else {
        world w = {.board = &board,
                   .fault = fault,
                   .owner = o,
                   .there = true,
                   .socket = fault.chip,
                   .pulled = RMG_NO_SOCKET,
                   .passes = seldom ? 10 : 2,
                   .dice = diag_seed(seed, 3)};
        diag_case c;
        bool shows;

        test(&w, &c, false);
        shows = rmg_run_failed(&c.run);
        if (o == OF_LINE && kind->truth != TRUTH_TOUCH && only_socket(&c.run, &fault.chip))
            o = OF_PLACE; /* a line that ends at one chip is its place */
        diag_case_end(&c);
        if (!shows)
            t->hidden++;
        for (int policy = 0; shows && policy < POLICIES; policy++) {
            outcome result;

            if (say)
                printf("%s of the %s,%s\n", kind->name, owner_names[o], policy_names[policy]);
            result = repair(&board, &fault, o, seed, policy);
            add(&t->scores[o][policy], &result);
        }
    }
    rmg_board_free(board.board);
}

static unsigned median(const score *s)
{
    unsigned below = 0, n = 0;

    while (n < STEPS && (below += s->changes[n]) * 2u < s->cases)
        n++;
    return n;
}

static void merge(table *to, const table *from)
{
    to->hidden += from->hidden;
    to->none += from->none;
    for (unsigned o = 0; o < OWNERS; o++)
        for (unsigned p = 0; p < POLICIES; p++) {
            score *a = &to->scores[o][p];
            const score *b = &from->scores[o][p];

            a->cases += b->cases;
            a->right += b->right;
            a->sound_replaced += b->sound_replaced;
            a->sure_and_wrong += b->sure_and_wrong;
            a->cost += b->cost;
            for (unsigned n = 0; n < STEPS + 2u; n++)
                a->changes[n] += b->changes[n];
        }
}

static void print(const table *t)
{
    score all[POLICIES] = {{0}, {0}};

    printf("%u faults did not show, %u boards could not have one\n\n", t->hidden, t->none);
    printf("%-20s %6s %18s %16s %16s %14s %8s\n", "fault of the", "cases", "right, advised",
           "sound replaced", "... above 95 %", "minutes, mean", "changes");
    for (unsigned o = 0; o <= OWNERS; o++)
        for (unsigned p = 0; p < POLICIES; p++) {
            const score *s = o < OWNERS ? &t->scores[o][p] : &all[p];

            if (o < OWNERS) {
                table one = {.hidden = 0};
                table sum = {.hidden = 0};

                one.scores[0][p] = *s;
                sum.scores[0][p] = all[p];
                merge(&sum, &one);
                all[p] = sum.scores[0][p];
            }
            if (s->cases)
                printf("%-20s %6u %11u (%5.1f%%) %14u %16u %15.1f %8u\n",
                       p            ? policy_names[p]
                       : o < OWNERS ? owner_names[o]
                                    : "all",
                       s->cases, s->right, 100.0 * s->right / s->cases, s->sound_replaced,
                       s->sure_and_wrong, s->cost / s->cases, median(s));
        }
    printf("\n");
    for (unsigned p = 1; p < POLICIES; p++)
        if (all[p].cases)
            printf("mean cost, as advised over %s: %.3f\n", policy_names[p] + 2,
                   all[0].cost / all[p].cost);
}

int main(int argc, char **argv)
{
    table all = {.hidden = 0};
    int ends[PARTS];
    unsigned cases;
    uint64_t seed;

    if (argc > 3 && strcmp(argv[1], "seldom") == 0) {
        seldom = true;
        argv++;
        argc--;
    }
    if (argc == 3 && strcmp(argv[1], "case") == 0) {
        say = true;
        one_case(strtoull(argv[2], NULL, 10), &all);
        return 0;
    }
    if (argc != 3) {
        fprintf(stderr, "usage: bench-trials [seldom] CASES SEED, or [seldom] case SEED\n");
        return 2;
    }
    cases = (unsigned)strtoul(argv[1], NULL, 10);
    seed = strtoull(argv[2], NULL, 10);
    for (unsigned part = 0; part < PARTS; part++) {
        int pipe_ends[2];

        if (pipe(pipe_ends) != 0)
            return 2;
        ends[part] = pipe_ends[0];
        if (fork() == 0) {
            table own = {.hidden = 0};

            for (unsigned i = part; i < cases; i += PARTS)
                one_case(seed + i, &own);
            _exit(write(pipe_ends[1], &own, sizeof own) == sizeof own ? 0 : 2);
        }
        close(pipe_ends[1]);
    }
    for (unsigned part = 0; part < PARTS; part++) {
        table own;

        if (read(ends[part], &own, sizeof own) != sizeof own) {
            fprintf(stderr, "trials: a part ended early\n");
            return 2;
        }
        merge(&all, &own);
        wait(NULL);
    }
    print(&all);
    return 0;
}
