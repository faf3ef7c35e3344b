/* Simulated repairs, followed to the end: a technician with a board that has one fault takes the
 * advice, or always the cheapest change at a socket that a cause is at, or always the cheapest of
 * those that the advice knows to tell something, until one cause is as good as sure, a repair
 * passes its test, or no change is left. Prints how many end right and what they cost.
 *
 *   bench-trials CASES SEED      the table
 *   bench-trials seldom CASES SEED   the same with faults that come and go
 *   bench-trials misread CASES SEED     ... with 2 of 100 measurements read as another one
 *   bench-trials otherwise CASES SEED   ... with chances that the advice does not suppose
 *   bench-trials warm | supply | both | two CASES SEED   ... of that sort alone
 *   bench-trials case SEED       one repair, step by step; also: seldom case SEED, ...
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

static bool say;
static world_sort sort = SORT_MIXED;
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
    return !rmg_run_failed(&now->run) && r->world.pulled == RMG_NO_SOCKET && !r->world.held_count;
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

/* Is it most likely something that none of the causes is? */
static bool is_something_else(const causes *c)
{
    for (size_t i = 0; i < c->count; i++)
        if (c->list[i].rival == SIZE_MAX && c->list[i].after >= 0.5 && c->list[i].gone < 0.5)
            return true;
    return false;
}

static void take_causes(repairing *r)
{
    size_t count = 0;
    rmg_hypothesis *list = rmg_hypotheses(&r->base.run, &r->base.suspects, &count);

    keep_causes(&r->causes, list, count);
    r->outcome.few = count <= TRIAL_FEW && rmg_faults_at_once(list, count) < 2;
    rmg_hypotheses_free(list);
}

/* The last test is diagnosed by itself, as a job does it. */
static void begin_again(repairing *r, const diag_case *now)
{
    free(r->causes.list);
    if (r->last.board)
        diag_case_end(&r->last);
    diag_case_end(&r->base);
    r->base = *now;
    r->last.board = NULL;
    r->changes.count = r->done = 0;
    rmg_replay(&r->base.run, &r->base.suspects, 0, NULL, NULL);
    take_causes(r);
    if (say)
        printf("  diagnosed anew\n");
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
    if (r->world.pulled != RMG_NO_SOCKET ||
        r->world.held_count) { /* put back, taken off: that is */
        r->changes.count--;    /* part of the change */
        if (r->world.pulled != RMG_NO_SOCKET)
            world_touch(&r->world, r->world.pulled);
        r->world.pulled = RMG_NO_SOCKET;
        r->world.held_count = 0;
        diag_case_end(&now);
        return;
    }
    if (!r->passes && is_something_else(&r->causes)) {
        begin_again(r, &now);
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

/* What the first test is diagnosed as, with its reasons. */
static void say_suspects(diag_case *c)
{
    rmg_suspects_word(&c->run, &c->suspects);
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];

        printf("  %3.0f %% %s: %s\n", s->confidence * 100, s->site, s->headline);
        for (size_t n = 0; n < s->reason_count; n++)
            printf("        %s\n", s->because[n]);
    }
}

/* The first test, and what it can be. */
static void begin(repairing *r)
{
    world_test(&r->world, &r->base, true);
    r->passes = r->outcome.hidden = !rmg_run_failed(&r->base.run);
    take_causes(r);
    if (say)
        say_suspects(&r->base);
    for (size_t i = 0; say && i < r->causes.count && i < 5; i++) {
        const rmg_hypothesis *h = &r->causes.list[i];
        char *text = rmg_hypothesis_text(r->world.board->board, &r->base.suspects, NULL, h);

        printf("  %5.3f %s: %s\n", h->after, rmg_belongs_name(h->belongs), text);
        rmg_text_free(text);
    }
    /* as many as a clean test must have to say something */
    if (!r->passes && (r->world.seldom || !rmg_run_repeats(&r->base.run))) {
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
    r.outcome.right = r.passes && !world_is_bad(&r.world) && !r.outcome.sound_replaced;
    if (say)
        printf("  %s, %.0f minutes%s\n",
               !r.passes                ? "does not pass"
               : world_is_bad(&r.world) ? "passes by chance"
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

static void one_case(uint64_t seed, table *t)
{
    diag_board board;
    world w = {.odds = odds, .board = &board};

    if (!world_draw(seed, of_changes ? SORT_SIMPLE : sort, &board, &w)) {
        t->none++;
    } else {
        diag_case c;
        bool shows;

        world_test(&w, &c, false);
        shows = rmg_run_failed(&c.run) && (w.count < 2 || world_shows(&w));
        world_settle(&w, &c.run);
        diag_case_end(&c);
        if (!shows)
            t->hidden++;
        if (shows && of_changes)
            for (unsigned two = 0; two < 2; two++)
                change_case(&w, seed, two, true, &changes_named);
        for (int policy = 0, few = 1; shows && !of_changes && policy < ADVISED_THERE + few - 1;
             policy++) {
            const unsigned row = w.when == WHEN_WARM ? ROW_WARM
                                 : w.count > 1       ? ROW_TWO
                                                     : (unsigned)w.of[0].owner;
            outcome result;

            if (say)
                for (unsigned i = 0; i < w.count; i++)
                    printf("%s of the %s at %s; %s", w.of[i].kind->name, trial_rows[w.of[i].owner],
                           board.board->sockets[w.of[i].socket].name,
                           i + 1 == w.count ? trial_policies[policy] : "");
            if (say)
                printf("\n");
            result = repair(&w, seed, policy);
            if (result.hidden) { /* what comes and goes did not come in this one */
                t->hidden++;
                break;
            }
            if (!result.right && policy == AS_ADVISED)
                fprintf(stderr, "seed %llu: %s of the %s is not mended\n", (unsigned long long)seed,
                        w.of[0].kind->name, trial_rows[row]);
            trial_add(&t->scores[row][policy], &result);
            few = result.few;
            if (few && policy == AS_ADVISED)
                trial_add(&t->scores[row][ADVISED_THERE], &result);
        }
    }
    rmg_board_free(board.board);
}

int main(int argc, char **argv)
{
    static const struct {
        const char *name;
        world_sort sort;
        const world_odds *odds;
    } modes[] = {
        {"otherwise", SORT_MIXED, &world_otherwise}, {"misread", SORT_MIXED, &world_misread},
        {"seldom", SORT_SELDOM, &world_supposed},    {"warm", SORT_WARM, &world_supposed},
        {"supply", SORT_SUPPLY, &world_supposed},    {"both", SORT_BOTH, &world_supposed},
        {"two", SORT_TWO, &world_supposed}};
    table all = {.hidden = 0};
    int ends[PARTS];
    unsigned cases;
    uint64_t seed;

    for (size_t i = 0; argc > 3 && i < sizeof modes / sizeof *modes; i++)
        if (strcmp(argv[1], modes[i].name) == 0) {
            sort = modes[i].sort;
            odds = modes[i].odds;
            argv++;
            argc--;
            break;
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
        fprintf(stderr, "usage: bench-trials [seldom | warm | supply | both | two | otherwise | "
                        "misread | changes] "
                        "CASES SEED, or ... case "
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
