/* Simulated repairs, followed to the end: a technician with a board that has one fault takes the
 * advice, or always the cheapest change at a socket that a cause is at, or always the cheapest of
 * those that the advice knows to tell something, until one cause is as good as sure, a repair
 * passes its test, or no change is left. Prints how many end right and what they cost.
 *
 *   bench-trials CASES SEED      the table
 *   bench-trials seldom CASES SEED   the same with faults that come and go
 *   bench-trials otherwise CASES SEED   ... with chances that the advice does not suppose
 *   bench-trials case SEED       one repair, step by step
 *   bench-trials changes CASES SEED   random changes, one and two at once: is what became of the
 *                                     failure named as it is in truth?
 */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "rimeglass/march.h"
#include "rimeglass/report.h"
#include "trial_changes.h"
#include "trial_score.h"

#define PARTS 2u

static bool say, seldom;
static bool of_changes;
static change_score changes_named;
static const world_odds *odds = &world_supposed;

static void say_step(const rmg_board *board, const rmg_advice *a, const char *came,
                     const rmg_hypothesis *top)
{
    char *text = rmg_change_text(board, &a->change);

    if (say)
        printf("  %-40s %-36s then %s at %s: %.3f\n", text, came, rmg_belongs_name(top->belongs),
               top->socket == RMG_NO_SOCKET ? "-" : board->sockets[top->socket].name, top->after);
    rmg_text_free(text);
}

/* The cause that a repair at no single socket is of; NULL: none. */
static const rmg_hypothesis *cause_of(const diag_case *base, const causes *c,
                                      const rmg_change *repair)
{
    const rmg_board *board = base->board->board;

    for (size_t i = 0; i < c->count && repair->text; i++) {
        const rmg_hypothesis *h = &c->list[i];
        const rmg_finding *f = h->rival != SIZE_MAX && h->suspect < base->suspects.count
                                   ? &base->suspects.list[h->suspect].finding
                                   : NULL;
        char at[128] = "";

        if (f && h->belongs == RMG_BELONGS_LINE && f->line < board->line_count &&
            f->point != RMG_NO_POINT)
            snprintf(at, sizeof at, "%s at %s", board->lines[f->line].name,
                     board->lines[f->line].points[f->point].name);
        if (f && strcmp(repair->text, *at ? at : rmg_belongs_name(h->belongs)) == 0)
            return h;
    }
    return NULL;
}

/* One repair on its way. */
typedef struct repairing {
    world world;
    outcome outcome;
    diag_case base, last; /* the first test, and the last one that stands for the board as it is */
    causes causes;
    rmg_change made[TRIAL_STEPS],
        lasting[TRIAL_STEPS]; /* all that was done; what changed the board for good */
    rmg_changes changes;      /* lasting */
    size_t done;              /* of these, before the last test */
    bool passes;
} repairing;

static void keep_causes(causes *c, const rmg_hypothesis *list, size_t count)
{
    c->list = malloc((count + 1u) * sizeof *c->list);
    c->count = count;
    memcpy(c->list, list, count * sizeof *c->list);
}

/* A test after a change, and what follows. */
static bool try_again(repairing *r, diag_case *now, const rmg_advice *a)
{
    const diag_case *before = r->last.board ? &r->last : &r->base;
    rmg_hypothesis *old = r->causes.list;
    rmg_trial t;
    rmg_error error;
    const rmg_trial_of of = {.base = &r->base.run,
                             .suspects = &r->base.suspects,
                             .before = &before->run,
                             .after = &now->run,
                             .changes = &r->changes,
                             .done = r->done,
                             .prior = r->causes.list,
                             .prior_count = r->causes.count};

    world_test(&r->world, now, false);
    if (rmg_trial_follow(&of, &t, &error) != RMG_OK) {
        fprintf(stderr, "trials: %s\n", error.what ? error.what : "no memory");
        exit(2);
    }
    keep_causes(&r->causes, t.list, t.count);
    free(old);
    say_step(r->world.board->board, a, rmg_outcome_name(t.outcome), &r->causes.list[0]);
    rmg_trial_free(&t);
    return !rmg_run_failed(&now->run) && r->world.pulled == RMG_NO_SOCKET;
}

/* Looks at a pin. */
static void look(repairing *r, const rmg_advice *a)
{
    const bool lift = a->change.kind == RMG_CHANGE_LIFT;
    const rmg_measured m = world_measure(&r->world, a->change.socket, lift);

    if (!lift)
        r->outcome.cost -= TRIAL_TEST;
    rmg_measured_weigh(&r->base.run, &r->base.suspects, a->change.socket, m, r->causes.list,
                       r->causes.count);
    say_step(r->world.board->board, a, rmg_outcome_name((rmg_outcome)(RMG_OUTCOME_WHOLE + m)),
             &r->causes.list[0]);
}

/* Changes something, and tests. */
static void change(repairing *r, const rmg_advice *a)
{
    diag_case now;

    if (a->settles)
        world_mend(&r->world, &r->base, &a->change, cause_of(&r->base, &r->causes, &a->change),
                   a->share, &r->outcome);
    else
        world_apply(&r->world, &a->change, &r->outcome);
    r->lasting[r->changes.count++] = r->made[r->outcome.changes - 1u];
    r->passes = try_again(r, &now, a);
    if (r->world.pulled != RMG_NO_SOCKET) { /* put back: that is part of the change */
        r->changes.count--;
        world_touch(&r->world, r->world.pulled);
        r->world.pulled = RMG_NO_SOCKET;
        diag_case_end(&now);
        return;
    }
    if (r->last.board)
        diag_case_end(&r->last);
    r->last = now;
    r->done = r->changes.count;
}

/* The next step; false: none is left. */
static bool step(repairing *r, const rmg_cost_table *costs, int policy)
{
    rmg_advice *list = NULL;
    const rmg_advice *next;
    choice c = {.base = &r->base,
                .causes = &r->causes,
                .costs = costs,
                .made = r->made,
                .changes = &r->changes,
                .made_count = r->outcome.changes};

    rmg_advise(&r->base.run, &r->base.suspects, r->causes.list, r->causes.count, &r->changes, costs,
               &list, &c.count);
    c.list = list;
    next = trial_choose(&c, policy);
    if (next) {
        r->made[r->outcome.changes] = next->change;
        r->made[r->outcome.changes].text = next->change.text ? strdup(next->change.text) : NULL;
        r->outcome.changes++;
        r->outcome.cost += trial_price(&next->cost);
        if (next->change.kind == RMG_CHANGE_MEASURE || next->change.kind == RMG_CHANGE_LIFT)
            look(r, next);
        else
            change(r, next);
    }
    rmg_advice_free(list, c.count);
    return next != NULL;
}

/* The first test, and what it can be. */
static void begin(repairing *r)
{
    rmg_hypothesis *list;
    size_t count = 0;

    world_test(&r->world, &r->base, true);
    r->passes = r->outcome.hidden = !rmg_run_failed(&r->base.run);
    list = rmg_hypotheses(&r->base.run, &r->base.suspects, &count);
    keep_causes(&r->causes, list, count);
    rmg_hypotheses_free(list);
    r->outcome.few = count <= TRIAL_FEW;
    if (say)
        rmg_suspects_word(&r->base.run, &r->base.suspects);
    for (size_t i = 0; say && i < count && i < 5; i++) {
        const rmg_hypothesis *h = &r->causes.list[i];
        char *text = rmg_hypothesis_text(r->world.board->board, &r->base.suspects, NULL, h);

        printf("  %5.3f %s: %s\n", h->after, rmg_belongs_name(h->belongs), text);
        rmg_text_free(text);
    }
    if (seldom && !r->passes) { /* as many as a clean test must have to say something */
        const rmg_rate rate = rmg_rate_of_passes(&r->base.run);
        const uint64_t needed =
            rate.events < rate.trials ? rmg_passes_to_tell(rate.events, rate.trials) : 0;

        r->world.passes = (uint32_t)(needed < 10 ? 10 : needed > 500 ? 500 : needed);
    }
}

/* One repair to its end: right where the fault is gone, the test passes, and nothing sound was
 * replaced. */
static outcome repair(const world *w, uint64_t seed, int policy)
{
    repairing r = {.world = *w};
    rmg_cost_table costs;

    r.world.dice = diag_seed(seed, 5);
    r.changes.list = r.lasting;
    rmg_costs_standard(&costs);
    begin(&r);
    while (!r.passes && r.outcome.changes < TRIAL_STEPS && r.causes.count &&
           step(&r, &costs, policy))
        ;
    r.outcome.right = r.passes && !r.world.there && !r.outcome.sound_replaced;
    if (say)
        printf("  %s, %.0f minutes%s\n",
               !r.passes       ? "does not pass"
               : r.world.there ? "passes by chance"
                               : "passes",
               r.outcome.cost, r.outcome.sound_replaced ? ", a sound chip was replaced" : "");
    for (size_t i = 0; i < r.outcome.changes; i++)
        free(r.made[i].text);
    free(r.causes.list);
    if (r.last.board)
        diag_case_end(&r.last);
    diag_case_end(&r.base);
    return r.outcome;
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
    rmg_cause_table often_so;
    const double *often;

    if (kind->truth != TRUTH_CHIP || kind->reach != REACH_CHIP)
        return OF_LINE;
    if (kind->fault == RMG_FAULT_ADDRESS_CHIP && within_chip(board, fault))
        return OF_CHIP;
    rmg_causes_standard(&often_so);
    often = board->board->sockets[fault->chip].mount == RMG_MOUNT_SOCKET ? often_so.socketed
                                                                         : often_so.soldered;
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++)
        if (rows[i].fault == kind->fault) {
            const double chip = odds->alike ? 1 : often[rows[i].chip],
                         contact = rows[i].contact == RMG_CAUSES ? 0
                                   : odds->alike                 ? 1
                                                                 : often[rows[i].contact],
                         place = odds->alike ? 1 : often[rows[i].place];
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
                   .seldom = seldom,
                   .kind = kind,
                   .odds = odds,
                   .dice = diag_seed(seed, 3)};
        diag_case c;
        bool shows;

        world_test(&w, &c, false);
        shows = rmg_run_failed(&c.run);
        if (o == OF_LINE && kind->truth != TRUTH_TOUCH && only_socket(&c.run, &fault.chip))
            o = OF_PLACE; /* a line that ends at one chip is its place */
        diag_case_end(&c);
        w.fault = fault;
        w.socket = fault.chip;
        w.owner = o;
        if (!shows)
            t->hidden++;
        if (shows && of_changes)
            for (unsigned two = 0; two < 2; two++)
                change_case(&w, seed, two, true, &changes_named);
        for (int policy = 0, few = 1; shows && !of_changes && policy < ADVISED_THERE + few - 1;
             policy++) {
            outcome result;

            if (say)
                printf("%s of the %s,%s\n", kind->name, trial_owners[o], trial_policies[policy]);
            result = repair(&w, seed, policy);
            if (result.hidden) { /* what comes and goes did not come in this one */
                t->hidden++;
                break;
            }
            trial_add(&t->scores[o][policy], &result);
            few = result.few;
            if (few && policy == AS_ADVISED)
                trial_add(&t->scores[o][ADVISED_THERE], &result);
        }
    }
    rmg_board_free(board.board);
}

int main(int argc, char **argv)
{
    table all = {.hidden = 0};
    int ends[PARTS];
    unsigned cases;
    uint64_t seed;

    if (argc > 3 && (strcmp(argv[1], "seldom") == 0 || strcmp(argv[1], "otherwise") == 0)) {
        seldom = argv[1][0] == 's';
        odds = seldom ? &world_supposed : &world_otherwise;
        argv++;
        argc--;
    }
    if (argc == 4 && strcmp(argv[1], "changes") == 0) {
        of_changes = true;
        for (unsigned i = 0; i < strtoul(argv[2], NULL, 10); i++)
            one_case(strtoull(argv[3], NULL, 10) + i, &all);
        change_print(&changes_named);
        return 0;
    }
    if (argc == 3 && strcmp(argv[1], "case") == 0) {
        say = true;
        one_case(strtoull(argv[2], NULL, 10), &all);
        return 0;
    }
    if (argc != 3) {
        fprintf(stderr,
                "usage: bench-trials [seldom | otherwise | changes] CASES SEED, or ... case "
                "SEED\n");
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
        trial_merge(&all, &own);
        wait(NULL);
    }
    trial_print(&all);
    return 0;
}
