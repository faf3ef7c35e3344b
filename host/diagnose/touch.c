/* Two data lines that touch at times: a read fails only where they are to have different levels. */
#include <math.h>
#include <string.h>

#include "reads.h"

#define SAMPLES 64u /* words of each bank */

/* The levels that the background gives two lines in a word: do they differ? */
static bool they_differ(const site *s, const variant *v, rmg_addr address)
{
    const rmg_word word = rmg_background_word(&v->ground, address) & s->pair;

    return word && word != s->pair;
}

/* Words, each as often as a step goes through them, and those in which the lines differ. */
typedef struct differing {
    double all, differ;
} differing;

static void count_step(const weigher *w, const site *s, const rmg_step *step, uint64_t pass,
                       differing *count)
{
    variant v;

    for (unsigned n = 0; rmg_begin_variant(w, step, n, pass, &v); n++)
        for (size_t b = 0; b < w->board->bank_count; b++) {
            const rmg_where *where = &w->board->bank_wheres[b];
            const rmg_addr apart = (where->last - where->first) / SAMPLES + 1u;

            for (unsigned i = 0; rmg_has_bank(&s->banks, (uint8_t)b) && i < SAMPLES; i++) {
                const rmg_addr near = where->first + i * apart + i; /* odd and even ones */
                const rmg_addr address = (near & ~where->mask) | where->match;

                if (!rmg_where_holds(where, address) || !rmg_is_tested(w->run, address))
                    continue;
                count->all++;
                count->differ += they_differ(s, &v, address);
            }
        }
}

static bool judge(const weigher *w, const site *s, const failed_read *reads, guint count,
                  spoils *each)
{
    const rmg_step *step = rmg_step_of_reads(w, reads);
    bool known = false;
    variant v;

    memset(each, 0, count * sizeof *each);
    for (unsigned n = 0; step && rmg_begin_variant(w, step, n, reads->step >> 24, &v); n++) {
        known = true;
        for (guint i = 0; i < count; i++)
            if (each[i] != IT_MAY)
                each[i] = they_differ(s, &v, reads[i].address) ? IT_MAY : IT_CANNOT;
    }
    return known;
}

/* The reads of the place that failed. */
typedef struct looking {
    const weigher *w;
    const site *s;
    GArray *reads; /* of failed_read */
    uint64_t seen;
} looking;

static void look_at_parts(void *context, rmg_addr address, uint32_t record,
                          const rmg_fail_part *parts, size_t count)
{
    looking *l = context;
    failed_read read = {.bank = RMG_NO_BANK, .address = address, .place = address};

    (void)record;
    for (size_t b = 0; b < l->w->board->bank_count && read.bank == RMG_NO_BANK; b++)
        if (rmg_has_bank(&l->s->banks, (uint8_t)b) &&
            rmg_where_holds(&l->w->board->bank_wheres[b], address))
            read.bank = (uint8_t)b;
    for (size_t n = 0; n < count && read.bank != RMG_NO_BANK; n++) {
        read.bits = (parts[n].high | parts[n].low) & l->s->pair;
        read.step = parts[n].first;
        if (read.bits && l->seen++ % l->w->stride == 0)
            g_array_append_val(l->reads, read);
    }
}

double rmg_which_words(const weigher *w, const site *s)
{
    looking l = {w, s, g_array_new(FALSE, FALSE, sizeof(failed_read)), 0};
    differing count = {0, 0};
    double chance = 0;

    for (uint64_t pass = 0; pass < MIN(w->run->pass_count, PASSES_LOOKED); pass++)
        for (size_t i = 0; i < w->run->steps.count; i++)
            count_step(w, s, &w->run->steps.list[i], pass, &count);
    rmg_failset_each_record(w->run->failures, look_at_parts, &l);
    if (count.differ > 0)
        chance = rmg_weigh_reads(w, s, l.reads, count.all / count.differ, judge);
    g_array_free(l.reads, TRUE);
    return chance;
}
