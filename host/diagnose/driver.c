/* A chip of another bank that drives its data lines at times when it is not addressed: which reads
 * it spoils depends on what it holds just then, by the order in which the marches go through the
 * banks. docs/diagnosis.md, "What comes and goes". */
#include <math.h>

#include "reads.h"

#define UNTOLD   4096u /* words of a bank that are looked at */
#define SAMPLES  16u   /* words of each bank; */
#define BANKS    16u   /* of more they are not looked at */
#define NOT_TOLD 2u    /* what is held, before anything was written */

/* Reads that expect the level which the chip spoils; and those of them during which it holds the
 * other one. */
typedef struct spoilt_reads {
    double all, spoilt;
} spoilt_reads;

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

            if (rmg_where_holds(where, address) && rmg_is_tested(w->run, address) &&
                rmg_where_holds(&driver->where, one.place) && rmg_is_tested(w->run, one.place))
                list[count++] = one;
        }
    }
    return count;
}

/* Does the other place come before the address in an element? */
static bool is_before(const uint8_t *element, rmg_addr place, rmg_addr address)
{
    return (place < address) != ((*element & RMG_ORDER_MASK) == RMG_ORDER_DOWN);
}

/* Counts the reads of these bits in a step of a pass. */
static void count_step(const weigher *w, const site *s, const rmg_step *step, uint64_t pass,
                       rmg_word bits, spoilt_reads *reads)
{
    sampled list[SAMPLES * BANKS];
    variant v;

    for (unsigned n = 0; rmg_begin_variant(w, step, n, pass, &v); n++) {
        const unsigned count = sample(w, s, &v.ground, list);
        unsigned held = NOT_TOLD;

        for (const uint8_t *code = step->code; *code; code += (*code & ~RMG_ORDER_MASK) + 1u) {
            const unsigned after = left_by(code, held);

            for (unsigned i = 0; i < count; i++)
                count_reads_of(code, &list[i], bits,
                               is_before(code, list[i].place, list[i].address) ? after : held,
                               s->high_wins, reads);
            held = after;
        }
    }
}

/* Where the driver's cell is while the address is read; false: it is not known what it holds. */
static bool find_place(const weigher *w, const site *s, rmg_addr address, rmg_addr *place)
{
    const rmg_rule *driver = &w->board->placement.rules[s->rule];

    *place = rmg_rule_address(driver, rmg_rule_cell(driver, address));
    return rmg_is_tested(w->run, *place);
}

/* Cells of its banks of which it is not known what the site's chip holds at their place. */
static double cells_untold(const weigher *w, const site *s)
{
    double cells = 0;

    for (size_t b = 0; b < w->board->bank_count; b++) {
        const rmg_where *where = &w->board->bank_wheres[b];
        const rmg_addr step = (where->last - where->first) / UNTOLD + 1u;
        double tested = 0, untold = 0;

        if (!rmg_has_bank(&s->banks, (uint8_t)b))
            continue;
        for (rmg_addr n = 0; n <= (where->last - where->first) / step; n++) {
            const rmg_addr address = ((where->first + n * step) & ~where->mask) | where->match;
            rmg_addr place;

            if (!rmg_is_tested(w->run, address) || !rmg_where_holds(where, address))
                continue;
            tested++;
            untold += !find_place(w, s, address, &place);
        }
        if (untold > 0)
            cells += untold / tested * (double)w->run->bank_words[b] * rmg_ones_of(s->pair);
    }
    return cells;
}

/* What of the failure set is looked at. */
typedef struct looking {
    const weigher *w;
    const site *s;
    GArray *reads; /* of failed_read: where it is known what the driver holds */
    uint64_t seen;
    untold_cells untold;
} looking;

static void look_at_parts(void *context, rmg_addr address, uint32_t record,
                          const rmg_fail_part *parts, size_t count)
{
    looking *l = context;
    failed_read read = {.bank = RMG_NO_BANK, .address = address};
    bool told;

    (void)record;
    for (size_t b = 0; b < l->w->board->bank_count && read.bank == RMG_NO_BANK; b++)
        if (rmg_has_bank(&l->s->banks, (uint8_t)b) &&
            rmg_where_holds(&l->w->board->bank_wheres[b], address))
            read.bank = (uint8_t)b;
    if (read.bank == RMG_NO_BANK)
        return;
    told = find_place(l->w, l->s, address, &read.place);
    for (size_t n = 0; n < count; n++) {
        read.bits = (parts[n].high | parts[n].low) & l->s->pair;
        read.step = parts[n].first;
        if (!told) {
            l->untold.cells += rmg_ones_of(read.bits);
            l->untold.times += rmg_ones_of(read.bits) * (double)MAX(parts[n].passes, 1u);
        } else if (read.bits && l->seen++ % l->w->stride == 0) {
            g_array_append_val(l->reads, read);
        }
    }
}

static spoils driver_spoils(const site *s, const uint8_t *element, const variant *v, unsigned held,
                            const failed_read *read)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0, like = s->high_wins ? all : 0;
    const unsigned operation = read->step & 0xFFu, after = left_by(element, held);
    const unsigned holds = is_before(element, read->place, read->address) ? after : held;
    rmg_word expected = rmg_background_word(&v->ground, read->address);
    rmg_word there = rmg_background_word(&v->ground, read->place);

    if (operation >= (*element & ~RMG_ORDER_MASK) || (element[1u + operation] & RMG_OP_WRITE))
        return CANNOT_TELL;
    expected ^= element[1u + operation] & RMG_OP_ONE ? all : 0;
    there ^= holds == 1 ? all : 0;
    if (~(expected ^ like) & read->bits)
        return CANNOT_TELL; /* another variant of the step */
    return holds != NOT_TOLD && !((there ^ like) & read->bits) ? IT_MAY : IT_CANNOT;
}

/* The element of that number; what the words hold when it begins. */
static const uint8_t *find_element(const rmg_step *step, unsigned number, unsigned *held)
{
    const uint8_t *code = step->code;

    for (*held = NOT_TOLD; *code && number; code += (*code & ~RMG_ORDER_MASK) + 1u, number--)
        *held = left_by(code, *held);
    return *code ? code : NULL;
}

/* Which of these reads, of one element of a pass, the driver can have spoilt. */
static bool judge(const weigher *w, const site *s, const failed_read *reads, guint count,
                  spoils *each)
{
    const rmg_step *step = rmg_step_of_reads(w, reads);
    unsigned held;
    const uint8_t *element = step ? find_element(step, reads->step >> 8 & 0xFFu, &held) : NULL;
    bool known = false;
    variant v;

    memset(each, 0, count * sizeof *each);
    for (unsigned n = 0; element && rmg_begin_variant(w, step, n, reads->step >> 24, &v); n++)
        for (guint i = 0; i < count; i++) {
            const spoils now = driver_spoils(s, element, &v, held, &reads[i]);

            each[i] = now == IT_MAY || each[i] == CANNOT_TELL ? now : each[i];
        }
    for (guint i = 0; i < count; i++)
        known |= each[i] != CANNOT_TELL;
    return known;
}

/* The reads that could fail over those of them that the driver can spoil; 0: none. */
static double ratio_of(const weigher *w, const site *s, const GArray *list)
{
    spoilt_reads all = {0, 0};
    rmg_word bits = 0;

    for (guint i = 0; i < list->len; i++)
        bits |= g_array_index(list, failed_read, i).bits;
    for (uint64_t pass = 0; pass < MIN(w->run->pass_count, PASSES_LOOKED); pass++)
        for (size_t i = 0; i < w->run->steps.count; i++)
            count_step(w, s, &w->run->steps.list[i], pass, bits, &all);
    return all.spoilt > 0 ? all.all / all.spoilt : 0;
}

double rmg_which_reads(const weigher *w, const site *s, untold_cells *untold)
{
    looking l = {w, s, g_array_new(FALSE, FALSE, sizeof(failed_read)), 0, {0, 0, 0}};
    double ratio, chance;

    rmg_failset_each_record(w->run->failures, look_at_parts, &l);
    ratio = ratio_of(w, s, l.reads);
    chance = ratio > 0 ? rmg_weigh_reads(w, s, l.reads, ratio, judge) : -INFINITY;
    g_array_free(l.reads, TRUE);
    *untold = l.untold;
    untold->of = cells_untold(w, s);
    return chance;
}
