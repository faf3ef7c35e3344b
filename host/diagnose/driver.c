/* A chip of another bank that drives its data lines at times when it is not addressed: which reads
 * it spoils depends on what it holds just then, by the order in which the marches go through the
 * banks. docs/diagnosis.md, "What comes and goes". */
#include <math.h>

#include "moments.h"

#define ODD      (-12.0)  /* log of the chance of a failure where the chip holds what is read */
#define BURSTS   0.55     /* elements are not independent: as of where failures fell; ... */
#define SPREAD   32       /* ... but where as many bits failed all over the bank, it was no burst */
#define UNTOLD   4096u    /* words of a bank that are looked at */
#define SAMPLES  16u      /* words of each bank; */
#define BANKS    16u      /* of more they are not looked at */
#define PASSES   8u       /* of each run are counted: backgrounds change with them */
#define ANY      UINT_MAX /* element */
#define NOT_TOLD 2u       /* what is held, before anything was written */

/* Reads that expect the level which the chip spoils; and those of them during which it holds the
 * other one. */
typedef struct spoilt_reads {
    double all, spoilt;
} spoilt_reads;

static bool is_tested(const rmg_run *run, rmg_addr address)
{
    for (size_t i = 0; i < run->tested_count; i++)
        if (address >= run->tested[i].first && address <= run->tested[i].last)
            return true;
    return false;
}

/* What the words hold, of background and complement, when the element has been through. */
static unsigned left_by(const uint8_t *element, unsigned before)
{
    for (uint8_t i = 1; i <= (*element & ~RMG_ORDER_MASK); i++)
        if (element[i] & RMG_OP_WRITE)
            before = element[i] & RMG_OP_ONE;
    return before;
}

/* The background at some words of the site's banks, and where its chip has the same place. */
typedef struct sampled {
    rmg_addr address, place;
    rmg_word here, there;
} sampled;

/* Counts the reads of these bits of one word in an element. `held`: what the driver's cells hold
 * meanwhile. */
static void count_reads_of(const uint8_t *element, const sampled *word, rmg_word bits,
                           unsigned held, bool level, spoilt_reads *reads)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0, like = level ? all : 0;

    for (uint8_t i = 1; i <= (*element & ~RMG_ORDER_MASK); i++) {
        const rmg_word expected = word->here ^ (element[i] & RMG_OP_ONE ? all : 0);
        const rmg_word may = (expected ^ like) & bits, holds = word->there ^ (held ? all : 0);

        if (element[i] & RMG_OP_WRITE)
            continue;
        reads->all += rmg_ones_of(may);
        reads->spoilt += held == NOT_TOLD ? 0 : rmg_ones_of(may & ~(holds ^ like));
    }
}

static unsigned sample(const weigher *w, const site *s, const rmg_background *ground, sampled *list)
{
    const rmg_rule *driver = &w->board->placement.rules[s->rule];
    unsigned count = 0;

    for (size_t b = 0; b < w->board->bank_count && count + SAMPLES <= SAMPLES * BANKS; b++) {
        const rmg_where *where = &w->board->bank_wheres[b];
        const rmg_addr step = (where->last - where->first) / SAMPLES + 1u;

        for (unsigned n = 0; rmg_has_bank(&s->banks, (uint8_t)b) && n < SAMPLES; n++) {
            const rmg_addr near = where->first + n * step + n; /* odd and even ones */
            const rmg_addr address = (near & ~where->mask) | where->match;
            const rmg_addr place = rmg_rule_address(driver, rmg_rule_cell(driver, address));
            const sampled one = {address, place, rmg_background_word(ground, address),
                                 rmg_background_word(ground, place)};

            if (rmg_where_holds(where, address) && is_tested(w->run, address) &&
                rmg_where_holds(&driver->where, one.place) && is_tested(w->run, one.place))
                list[count++] = one;
        }
    }
    return count;
}

/* The reads of these bits in one element of a step (ANY: of all of them) in a pass; false: the
 * step is none of which that is known. */
static bool count_element(const weigher *w, const site *s, const rmg_step *step, uint64_t pass,
                          unsigned element, rmg_word bits, spoilt_reads *reads)
{
    rmg_background_term terms[RMG_TERMS_MOST];
    sampled list[SAMPLES * BANKS];
    rmg_background ground;
    rmg_order order;

    if (step->kind != RMG_STEP_MARCH && step->kind != RMG_STEP_HOLD)
        return false;
    for (unsigned v = 0; v < rmg_step_variants(step, w->board); v++) {
        unsigned held = NOT_TOLD, number = 0, count;

        if (rmg_step_pattern(step, v, w->board, w->run->tested, (uint8_t)w->run->tested_count,
                             w->run->plan.seed, pass, &ground, terms, &order))
            return false; /* in another order of addresses */
        count = sample(w, s, &ground, list);
        for (const uint8_t *code = step->code; *code;
             code += (*code & ~RMG_ORDER_MASK) + 1u, number++) {
            const bool down = (*code & RMG_ORDER_MASK) == RMG_ORDER_DOWN;
            const unsigned after = left_by(code, held);

            for (unsigned i = 0; i < count && (element == ANY || element == number); i++)
                count_reads_of(code, &list[i], bits,
                               (list[i].place < list[i].address) != down ? after : held,
                               s->high_wins, reads);
            held = after;
        }
    }
    return true;
}

/* Is it known what the driver's cell holds while the address is read? */
static bool is_told(const weigher *w, const site *s, rmg_addr address)
{
    const rmg_rule *driver = &w->board->placement.rules[s->rule];

    return is_tested(w->run, rmg_rule_address(driver, rmg_rule_cell(driver, address)));
}

/* How much an element counts: what failed all over the bank was no burst. */
static double worth(const weigher *w, const moment *m)
{
    const rmg_where *where = &w->board->bank_wheres[m->bank];
    const double span = (double)(m->address - m->begin);

    return m->failed >= SPREAD && span > 0.5 * (double)(where->last - where->first) ? 1 : BURSTS;
}

double rmg_which_elements(const weigher *w, const site *s)
{
    spoilt_reads all = {0, 0};
    double chance = 0;
    uint64_t before = UINT64_MAX;

    for (uint64_t pass = 0; pass < MIN(w->run->pass_count, PASSES); pass++)
        for (size_t i = 0; i < w->run->steps.count; i++)
            count_element(w, s, &w->run->steps.list[i], pass, ANY, s->pair, &all);
    if (all.spoilt <= 0)
        return -INFINITY;
    for (guint i = 0; i < w->moments->len; i++) {
        const moment *m = &g_array_index(w->moments, moment, i);
        const unsigned step = m->element >> 8 & 0xFFu;
        spoilt_reads here = {0, 0};

        if (m->element == before || !rmg_fits_site(s, m) || !is_told(w, s, m->address))
            continue;
        before = m->element;
        if (step < w->run->steps.count &&
            count_element(w, s, &w->run->steps.list[step], m->element >> 16, m->element & 0xFFu,
                          m->bits, &here) &&
            here.all > 0)
            chance += here.spoilt > 0
                          ? worth(w, m) * log(here.spoilt / here.all / (all.spoilt / all.all))
                          : ODD;
    }
    return chance;
}

/* What of the failure set is counted. */
typedef struct counting {
    const weigher *w;
    const site *s;
    untold_cells sum;
} counting;

static void count_untold(void *context, rmg_addr address, uint32_t record,
                         const rmg_fail_part *parts, size_t count)
{
    counting *c = context;

    (void)record;
    if (is_told(c->w, c->s, address))
        return;
    for (size_t b = 0; b < c->w->board->bank_count; b++)
        for (size_t n = 0; n < count && rmg_has_bank(&c->s->banks, (uint8_t)b) &&
                           rmg_where_holds(&c->w->board->bank_wheres[b], address);
             n++) {
            const unsigned bits = rmg_ones_of((parts[n].high | parts[n].low) & c->s->pair);

            c->sum.cells += bits;
            c->sum.times += bits * (double)MAX(parts[n].passes, 1u);
        }
}

untold_cells rmg_untold_cells(const weigher *w, const site *s)
{
    counting c = {w, s, {0, 0, 0}};

    for (size_t b = 0; b < w->board->bank_count; b++) {
        const rmg_where *where = &w->board->bank_wheres[b];
        const rmg_addr step = (where->last - where->first) / UNTOLD + 1u;
        double tested = 0, untold = 0;

        if (!rmg_has_bank(&s->banks, (uint8_t)b))
            continue;
        for (rmg_addr a = where->first; a <= where->last - (step - 1u); a += step) {
            const rmg_addr address = (a & ~where->mask) | where->match;

            if (!is_tested(w->run, address) || !rmg_where_holds(where, address))
                continue;
            tested++;
            untold += !is_told(w, s, address);
        }
        if (untold > 0)
            c.sum.of += untold / tested * (double)w->run->bank_words[b] * rmg_ones_of(s->pair);
    }
    if (c.sum.of > 0)
        rmg_failset_each_record(w->run->failures, count_untold, &c);
    return c.sum;
}
