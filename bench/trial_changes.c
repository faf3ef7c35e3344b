#include "trial_changes.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/report.h"

/* Which sockets failed: by the failing words in the cells of each. */
static void failing(const rmg_run *run, bool *at)
{
    const rmg_placement *placement = &run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        at[placement->rules[r].socket] |=
            rmg_failset_bits(run->failures, &placement->rules[r].where,
                             rmg_rule_bits(&placement->rules[r])) > 0;
}

/* A socket that holds RAM; half of the time one that fails. */
static uint16_t draw_socket(diag_dice *dice, const rmg_board *board, const bool *fails)
{
    const bool failing_one = diag_roll(dice, 100) < 60;

    for (unsigned tries = 0; tries < 500; tries++) {
        const rmg_rule *rule =
            &board->placement.rules[diag_roll(dice, (uint32_t)board->placement.rule_count)];

        if (fails[rule->socket] == failing_one || tries > 400)
            return rule->socket;
    }
    return board->placement.rules[0].socket;
}

static bool in_socket(const rmg_board *board, uint16_t s)
{
    return board->sockets[s].mount == RMG_MOUNT_SOCKET;
}

/* A change that can be made there. */
static rmg_change draw_change(diag_dice *dice, const rmg_board *board, const bool *fails)
{
    static const rmg_change_kind kinds[] = {RMG_CHANGE_SWAP,    RMG_CHANGE_SWAP, RMG_CHANGE_RESEAT,
                                            RMG_CHANGE_PULL,    RMG_CHANGE_FIT,  RMG_CHANGE_REPLACE,
                                            RMG_CHANGE_NOTHING, RMG_CHANGE_HOLD};
    rmg_change c = {
        .socket = RMG_NO_SOCKET, .other = RMG_NO_SOCKET, .bank = RMG_NO_BANK, .value = INT64_MIN};

    for (unsigned tries = 0; tries < 100; tries++) {
        c.kind = kinds[diag_roll(dice, sizeof kinds / sizeof *kinds)];
        c.socket = c.other = RMG_NO_SOCKET;
        if (c.kind == RMG_CHANGE_NOTHING)
            return c;
        c.socket = draw_socket(dice, board, fails);
        if (c.kind == RMG_CHANGE_SWAP)
            c.other = draw_socket(dice, board, fails);
        if ((in_socket(board, c.socket) || c.kind == RMG_CHANGE_REPLACE ||
             c.kind == RMG_CHANGE_HOLD) &&
            (c.kind != RMG_CHANGE_SWAP ||
             (c.other != c.socket && in_socket(board, c.other) &&
              board->sockets[c.other].part == board->sockets[c.socket].part)))
            return c;
    }
    c.kind = RMG_CHANGE_NOTHING;
    c.socket = c.other = RMG_NO_SOCKET;
    return c;
}

/* What became of it in truth: where the fault was, is, and what was touched. */
static rmg_outcome in_truth(const world *before, const world *after, const rmg_changes *changes,
                            const bool *fails)
{
    bool touched = false;

    if (!after->of[0].there || world_covers(after, &after->of[0]))
        return RMG_OUTCOME_GONE;
    if (after->pulled != RMG_NO_SOCKET && after->of[0].owner == OF_CHIP &&
        after->of[0].socket == after->pulled)
        return RMG_OUTCOME_GONE;
    if (before->of[0].owner == OF_CHIP && after->of[0].socket != before->of[0].socket)
        return RMG_OUTCOME_WENT;
    for (size_t i = 0; i < changes->count; i++) {
        const rmg_change *c = &changes->list[i];

        if (c->kind == RMG_CHANGE_SWAP || c->kind == RMG_CHANGE_RESEAT ||
            c->kind == RMG_CHANGE_FIT || c->kind == RMG_CHANGE_REPLACE)
            touched |= fails[c->socket] || (c->other != RMG_NO_SOCKET && fails[c->other]);
    }
    return touched ? RMG_OUTCOME_STAYED : RMG_OUTCOME_UNCHANGED;
}

/* An empty socket that fails as its chip did says nothing of the chip; where nothing else fails,
 * nothing of the rest; and a chip that is pulled and not missed is what is named first. */
static bool alike(rmg_outcome truth, rmg_outcome named, const world *after, const bool *fails)
{
    bool others = false;

    if (truth == named)
        return true;
    for (uint16_t s = 0; s < after->board->board->socket_count; s++)
        others |= fails[s] && s != after->pulled;
    return after->pulled != RMG_NO_SOCKET &&
           (named == RMG_OUTCOME_UNCHANGED ||
            (named == RMG_OUTCOME_GONE && truth == RMG_OUTCOME_UNCHANGED && !others));
}

void change_case(const world *w, uint64_t seed, bool two, bool say, change_score *score)
{
    const rmg_board *board = w->board->board;
    world now = *w;
    outcome unused = {.cost = 0};
    rmg_change list[2];
    rmg_changes changes = {list, 0};
    bool *fails = calloc(board->socket_count + 1u, sizeof *fails);
    diag_case before, after;
    rmg_trial t;
    rmg_error error;
    rmg_outcome truth;

    if (w->of[0].fault.kind ==
        RMG_FAULT_WEAK) { /* which cells those are, each test draws anew here */
        free(fails);
        return;
    }
    now.dice = diag_seed(seed, 7);
    world_test(&now, &before, true);
    if (!rmg_run_failed(&before.run)) { /* it does not show with these contents */
        diag_case_end(&before);
        free(fails);
        return;
    }
    failing(&before.run, fails);
    while (changes.count < (two ? 2u : 1u)) {
        list[changes.count] = draw_change(&now.dice, board, fails);
        if (changes.count && (list[1].socket == list[0].socket ||
                              (list[1].kind == RMG_CHANGE_PULL && list[0].kind == RMG_CHANGE_PULL)))
            continue; /* only one socket is empty at a time */
        changes.count++;
    }
    for (size_t i = 0; i < changes.count; i++)
        world_apply(&now, &list[i], &unused);
    truth = in_truth(w, &now, &changes, fails);
    world_test(&now, &after, false);
    if (rmg_trial_follow(&(rmg_trial_of){.base = &before.run,
                                         .suspects = &before.suspects,
                                         .before = &before.run,
                                         .after = &after.run,
                                         .changes = &changes},
                         &t, &error) != RMG_OK) {
        fprintf(stderr, "trials: %s\n", error.what ? error.what : "no memory");
        exit(2);
    }
    score->cases[two]++;
    score->right[two] += alike(truth, t.outcome, &now, fails);
    score->named[truth][t.outcome]++;
    if (say && !alike(truth, t.outcome, &now, fails)) {
        printf("  seed %llu, %s:", (unsigned long long)seed, w->of[0].kind->name);
        for (size_t i = 0; i < changes.count; i++) {
            char *text = rmg_change_text(board, &list[i]);

            printf(" %s;", text);
            rmg_text_free(text);
        }
        printf(" %s, named: %s\n", rmg_outcome_name(truth), rmg_outcome_name(t.outcome));
        fflush(stdout);
    }
    rmg_trial_free(&t);
    diag_case_end(&after);
    diag_case_end(&before);
    free(fails);
}

void change_merge(change_score *to, const change_score *from)
{
    for (unsigned i = 0; i < 2; i++) {
        to->cases[i] += from->cases[i];
        to->right[i] += from->right[i];
    }
    for (unsigned t = 0; t < OUTCOMES; t++)
        for (unsigned n = 0; n < OUTCOMES; n++)
            to->named[t][n] += from->named[t][n];
}

void change_print(const change_score *s)
{
    printf("named as in truth: of one change %u of %u, of two at once %u of %u\n", s->right[0],
           s->cases[0], s->right[1], s->cases[1]);
    for (unsigned t = 0; t < OUTCOMES; t++)
        for (unsigned n = 0; n < OUTCOMES; n++)
            if (s->named[t][n])
                printf("  %-28s named: %-40s %u\n", rmg_outcome_name((rmg_outcome)t),
                       rmg_outcome_name((rmg_outcome)n), s->named[t][n]);
}
