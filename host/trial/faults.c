/* Several faults at once: which suspects are about the same one, and the shares of its causes. */
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "diagnose/internal.h"
#include "internal.h"

#define UNTHOUGHT 0.02 /* share of what none of the causes is */
#define DONE      0.5  /* that a fault is gone, from which on it is told after the others */

/* Do both look at the same failures, or exclude each other? */
static bool of_one_fault(const rmg_run *run, const rmg_finding *a, const rmg_finding *b)
{
    const rmg_where *at = rmg_finding_where(run, a), *there = rmg_finding_where(run, b);
    const rmg_word bits = a->bits & b->bits;

    if (run->heard)
        return true;
    if (a->or_each && b->or_each) /* each may be there without the others */
        return a == b;
    if (a->weighed && b->weighed)
        return a->cause == b->cause && !a->together;
    return bits && (!at || !there || at == there) &&
           rmg_failset_bits(run->failures, at ? at : there, bits) > 0;
}

/* The number of each suspect's fault, [suspects->count]; how many there are. */
static unsigned number_faults(const rmg_run *run, const rmg_suspects *suspects, unsigned *of)
{
    unsigned count = 0;

    for (size_t i = 0; i < suspects->count; i++) {
        of[i] = (unsigned)i;
        for (size_t n = 0; n < i; n++) {
            const unsigned from = of[i], to = of[n];

            if (from == to ||
                !of_one_fault(run, &suspects->list[n].finding, &suspects->list[i].finding))
                continue;
            for (size_t m = 0; m <= i; m++)
                of[m] = of[m] == MAX(from, to) ? MIN(from, to) : of[m];
        }
    }
    for (unsigned f = 0; f < suspects->count; f++) { /* without gaps */
        bool any = false;

        for (size_t i = 0; i < suspects->count; i++)
            if (of[i] == f) {
                of[i] = count;
                any = true;
            }
        count += any;
    }
    return count;
}

/* What none of its causes is: of one that need not be there, what it lacks of being sure. */
static double unthought(const rmg_suspects *suspects, const unsigned *of, unsigned fault)
{
    bool may_be_none = true;
    double sure = 0;

    for (size_t i = 0; i < suspects->count; i++)
        if (of[i] == fault) {
            may_be_none &=
                suspects->list[i].finding.may_follow || suspects->list[i].finding.or_each;
            sure += suspects->list[i].confidence;
        }
    return may_be_none ? MAX(UNTHOUGHT, 1 - sure) : UNTHOUGHT;
}

static void add_unthought(GArray *list, const rmg_suspects *suspects, const unsigned *of,
                          unsigned fault)
{
    rmg_hypothesis none = {.suspect = suspects->count,
                           .rival = SIZE_MAX,
                           .fault = fault,
                           .socket = RMG_NO_SOCKET,
                           .belongs = RMG_BELONGS_UNKNOWN};
    const double share = unthought(suspects, of, fault);
    double all = 0;

    for (guint i = 0; i < list->len; i++)
        if (g_array_index(list, rmg_hypothesis, i).fault == fault)
            all += g_array_index(list, rmg_hypothesis, i).after;
    if (all <= 0)
        return;
    none.after = all * share / (1 - share);
    g_array_append_val(list, none);
}

/* A fault of its own at each of several is taken for their chips'. */
static rmg_belongs belongs_of(const rmg_rival *r)
{
    return r->is.said == RMG_SAY_EACH_OF_THESE ? RMG_BELONGS_CHIP : rmg_cause_belongs(r->cause);
}

rmg_hypothesis *rmg_hypotheses(const rmg_run *run, const rmg_suspects *suspects, size_t *count)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_hypothesis));
    unsigned *of = g_new0(unsigned, suspects->count + 1u);
    const unsigned faults = number_faults(run, suspects, of);
    rmg_hypothesis *all;

    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_suspect *s = &suspects->list[i];

        for (size_t r = 0; r < s->rival_count; r++) {
            const rmg_hypothesis h = {.suspect = i,
                                      .rival = r,
                                      .fault = of[i],
                                      .socket = s->finding.socket != RMG_NO_SOCKET
                                                    ? s->finding.socket
                                                    : s->rivals[r].is.socket,
                                      .belongs = belongs_of(&s->rivals[r]),
                                      .after = s->confidence * s->rivals[r].share};

            if (h.after > 0)
                g_array_append_val(list, h);
        }
    }
    for (unsigned f = 0; f < faults; f++)
        add_unthought(list, suspects, of, f);
    g_free(of);
    *count = list->len;
    all = rmg_array_take(list);
    rmg_hypotheses_settle(all, *count);
    for (size_t i = 0; i < *count; i++)
        all[i].before = all[i].after;
    return all;
}

void rmg_hypotheses_free(rmg_hypothesis *list)
{
    g_free(list);
}

unsigned rmg_faults_at_once(const rmg_hypothesis *list, size_t count)
{
    unsigned faults = 0;

    for (size_t i = 0; i < count; i++)
        faults = MAX(faults, list[i].fault + 1u);
    return faults;
}

double rmg_fault_gone(const rmg_hypothesis *list, size_t count, unsigned fault)
{
    double gone = 0;

    for (size_t i = 0; i < count; i++)
        gone += list[i].fault == fault ? list[i].after * list[i].gone : 0;
    return gone;
}

/* Of a fault: is it gone; the share of its likeliest cause. */
typedef struct standing {
    bool gone;
    double likeliest;
} standing;

/* Fault by fault: those that are still there before those that are gone, the surest first. */
static gint by_share(gconstpointer a, gconstpointer b, gpointer standings)
{
    const rmg_hypothesis *x = a, *y = b;
    const standing *of_x = (const standing *)standings + x->fault,
                   *of_y = (const standing *)standings + y->fault;

    if (x->fault == y->fault)
        return rmg_by_real(y->after, x->after);
    if (of_x->gone != of_y->gone)
        return of_x->gone - of_y->gone;
    if (rmg_by_real(of_y->likeliest, of_x->likeliest))
        return rmg_by_real(of_y->likeliest, of_x->likeliest);
    return x->fault < y->fault ? -1 : 1;
}

void rmg_hypotheses_settle(rmg_hypothesis *list, size_t count)
{
    const unsigned faults = rmg_faults_at_once(list, count);
    standing *of = g_new0(standing, faults + 1u);

    for (unsigned f = 0; f < faults; f++) {
        double all = 0;

        for (size_t i = 0; i < count; i++)
            all += list[i].fault == f ? list[i].after : 0;
        for (size_t i = 0; i < count && all > 0; i++)
            list[i].after /= list[i].fault == f ? all : 1;
        for (size_t i = 0; i < count; i++)
            if (list[i].fault == f && list[i].rival != SIZE_MAX)
                of[f].likeliest = MAX(of[f].likeliest, list[i].after);
        of[f].gone = rmg_fault_gone(list, count, f) >= DONE;
    }
    if (count)
        g_qsort_with_data(list, (gint)count, sizeof *list, by_share, of);
    g_free(of);
}

bool rmg_fault_at_socket(const rmg_hypothesis *list, size_t count, unsigned fault, uint16_t socket)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].fault == fault && list[i].socket == socket)
            return true;
    return false;
}
