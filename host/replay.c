/* Proposals put into the simulated board, and their failures against the measured ones. */
#include <string.h>

#include "replay_internal.h"

#define WORLD UINT64_C(0x52696D65) /* what the memory comes up with: anything, it is not known */

/* A board under simulation, for one proposal after another. */
typedef struct stage {
    const rmg_run *run;
    rmg_sim_plan plan;
    void *memory;
    size_t bytes;
} stage;

static bool carry_out(const stage *s, const rmg_sim_fault *faults, uint16_t count, rmg_run *again)
{
    rmg_plan plan = s->run->plan;
    rmg_target target = {.bus = &rmg_sim_bus,
                         .mask =
                             (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - s->run->board->word_bits)};
    rmg_sim sim;
    char *message;
    bool done;

    plan.steps = &s->run->steps;
    plan.march = NULL;
    plan.march_name = NULL;
    plan.seconds = 0;
    plan.endless = false;
    plan.passes = (uint32_t)MIN(MAX(s->run->pass_count, 1u), RMG_REPLAY_PASSES);
    done = rmg_sim_start(&sim, &s->plan.board, faults, count, WORLD, s->memory) == RMG_OK;
    target.context = &sim;
    if (!done)
        return false;
    done = rmg_run_begin(again, s->run->board, &plan, "replay", &message) == RMG_OK;
    rmg_text_free(message);
    if (done)
        rmg_run_carry_out(again, &target, NULL);
    return done;
}

/* Did the wiring checks see the same in all banks? */
static bool same_wiring(const rmg_run *a, const rmg_run *b)
{
    for (size_t i = 0; i < a->board->bank_count; i++) {
        const rmg_wiring *x = &a->wirings[i], *y = &b->wirings[i];

        if (!a->wired[i] || !b->wired[i])
            continue;
        if (x->low != y->low || x->high != y->high || x->opposite != y->opposite ||
            x->unsteady != y->unsteady || memcmp(x->ignored, y->ignored, sizeof x->ignored) != 0)
            return false;
    }
    return true;
}

/* Where a suspect lies: failures elsewhere are another one's. */
typedef struct region {
    const rmg_where *where; /* NULL: everywhere */
    rmg_word bits;
} region;

static region region_of(const rmg_board *board, const rmg_finding *f)
{
    region r = {NULL, (rmg_word) ~(rmg_word)0};

    if (f->bank != RMG_NO_BANK)
        r.where = &board->bank_wheres[f->bank];
    for (uint16_t n = 0; f->socket != RMG_NO_SOCKET && n < board->placement.rule_count; n++) {
        const rmg_rule *rule = &board->placement.rules[n];

        if (rule->socket == f->socket && (f->bank == RMG_NO_BANK || rule->bank == f->bank)) {
            r.where = &rule->where;
            r.bits = rmg_rule_bits(rule);
        }
    }
    if (f->kind == RMG_FINDING_BANKS_SAME || f->kind == RMG_FINDING_BANKS_BOTH ||
        f->kind == RMG_FINDING_DRAGGED)
        r = (region){NULL, (rmg_word) ~(rmg_word)0};
    return r;
}

/* Counts what one set has and the other has too, or has not. */
typedef struct counting {
    const rmg_failset *other;
    const region *within; /* NULL: count all */
    bool either_way;      /* the direction does not count */
    uint64_t both, alone;
} counting;

static void count_word(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    counting *c = context;
    rmg_word other_high, other_low;

    rmg_failset_at(c->other, address, &other_high, &other_low);
    if (c->within && c->within->where && !rmg_where_holds(c->within->where, address))
        return;
    if (c->within) {
        high &= c->within->bits;
        low &= c->within->bits;
    }
    if (c->either_way) {
        high |= low;
        other_high |= other_low;
        low = other_low = 0;
    }
    c->both += (uint64_t)__builtin_popcountll(high & other_high) +
               (uint64_t)__builtin_popcountll(low & other_low);
    c->alone += (uint64_t)__builtin_popcountll(high & ~other_high) +
                (uint64_t)__builtin_popcountll(low & ~other_low);
}

/* What such a fault reads may be what the memory came up with, which nobody knows. */
static bool by_chance(const proposal *p)
{
    for (uint16_t i = 0; i < p->count; i++)
        if (p->faults[i].kind == RMG_FAULT_NO_WRITE)
            return true;
    return false;
}

static rmg_replayed compare(const rmg_run *measured, const rmg_run *again, const proposal *p,
                            const region *within, bool alone)
{
    const bool either_way = by_chance(p);
    counting here = {.other = measured->failures, .either_way = either_way};
    counting there = {.other = again->failures, .either_way = either_way, .within = within};
    rmg_replayed r = {.fault = g_strdup(p->name)};

    rmg_failset_each(again->failures, count_word, &here);
    rmg_failset_each(measured->failures, count_word, &there);
    r.explained = here.both;
    r.unseen = here.alone;
    r.left = there.alone;
    r.same = !r.left && !r.unseen &&
             (alone && !either_way ? same_wiring(measured, again) : r.explained != 0);
    return r;
}

static gint better(gconstpointer a, gconstpointer b)
{
    const rmg_replayed *x = a, *y = b;
    const uint64_t wrong_x = x->left + x->unseen, wrong_y = y->left + y->unseen;

    return (wrong_x > wrong_y) - (wrong_x < wrong_y);
}

static void add_reason(rmg_suspect *s, char *text)
{
    size_t count = 0;

    while (s->because[count])
        count++;
    s->because = g_renew(char *, s->because, count + 2);
    s->because[count] = text;
    s->because[count + 1] = NULL;
}

/* What the replays say of the suspect as a whole. `alone`: it is the only one. */
static void take_in(rmg_suspect *s, bool alone)
{
    const rmg_replayed *best = s->replay_count ? &s->replays[0] : NULL;

    if (!best)
        return;
    if (best->same) {
        add_reason(s,
                   g_strdup_printf("Put into the simulated board, this fault gives the very same "
                                   "failures: %s.",
                                   best->fault));
        s->confidence = 1 - (1 - s->confidence) * 0.3;
    } else if (alone && best->left + best->unseen > best->explained / 2u) {
        add_reason(s, g_strdup("No simulated fault at this place gives these failures; that speaks "
                               "against it."));
        s->confidence *= 0.95;
    }
}

/* How the work goes on. */
typedef struct budget {
    gint64 start;
    double seconds;
    bool (*go_on)(void *context, double share);
    void *context;
} budget;

static bool more(const budget *b, double share)
{
    return (b->seconds <= 0 || (double)(g_get_monotonic_time() - b->start) / 1e6 < b->seconds) &&
           (!b->go_on || b->go_on(b->context, share));
}

/* All proposals of suspect i. */
static void replay_one(const stage *s, rmg_suspects *suspects, size_t i, const budget *b)
{
    rmg_suspect *suspect = &suspects->list[i];
    const bool comes_and_goes = suspect->finding.kind == RMG_FINDING_CELLS &&
                                s->run->pass_count > 1 && !rmg_run_repeats(s->run);
    GPtrArray *proposals = comes_and_goes ? g_ptr_array_new() : rmg_propose(s->run, suspect);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_replayed));
    const region within = region_of(s->run->board, &suspect->finding);

    for (guint n = 0; n < proposals->len; n++) {
        const proposal *p = proposals->pdata[n];
        rmg_run again = {0};

        if (!more(b, ((double)i + (double)n / proposals->len) / (double)suspects->count)) {
            suspect->untried = proposals->len - n;
            break;
        }
        if (p->count && carry_out(s, p->faults, p->count, &again)) {
            const rmg_replayed r = compare(s->run, &again, p, &within, suspects->count == 1);

            g_array_append_val(list, r);
        }
        if (again.board)
            rmg_run_end(&again);
    }
    g_array_sort(list, better);
    suspect->replay_count = list->len;
    suspect->replays = (rmg_replayed *)(void *)g_array_free(list, FALSE);
    take_in(suspect, suspects->count == 1);
    g_ptr_array_free(proposals, TRUE);
}

void rmg_replay(const rmg_run *run, rmg_suspects *suspects, double seconds,
                bool (*go_on)(void *context, double share), void *context)
{
    const budget b = {g_get_monotonic_time(), seconds, go_on, context};
    stage s = {.run = run};

    if (!run->board->placement.rule_count || !suspects->count)
        return;
    rmg_board_to_sim(run->board, &s.plan);
    s.bytes = rmg_sim_bytes(&s.plan.board, PROPOSAL_FAULTS);
    s.memory = s.bytes ? g_try_malloc(s.bytes) : NULL;
    for (size_t i = 0; i < suspects->count && s.memory; i++)
        replay_one(&s, suspects, i, &b);
    g_free(s.memory);
    rmg_sim_plan_free(&s.plan);
}
