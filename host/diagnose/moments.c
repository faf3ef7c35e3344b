/* Failures of a run joined to moments: what failed together counts as one. */
#include "moments.h"

#define MOMENTS_MOST 20000u
#define LOOK_BACK    32u /* moments of the same element that a word may belong to */
#define NEAR         16u /* ... within that part of the bank */

static uint8_t bank_at(const weigher *w, rmg_addr address)
{
    for (size_t b = 0; b < w->board->bank_count; b++)
        if (w->run->bank_words[b] && rmg_where_holds(&w->board->bank_wheres[b], address))
            return (uint8_t)b;
    return RMG_NO_BANK;
}

/* The bits of the bank that belong to findings of cells. */
static rmg_word bits_of_cells(const weigher *w, uint8_t bank)
{
    rmg_word bits = 0;

    for (guint i = 0; i < w->failed->len; i++)
        if (g_array_index(w->failed, socket_failed, i).bank == bank)
            bits |= g_array_index(w->failed, socket_failed, i).bits;
    return bits;
}

static void count_part(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                       size_t count)
{
    weigher *w = context;
    const uint8_t bank = bank_at(w, address);
    const rmg_word cells = bank == RMG_NO_BANK ? 0 : bits_of_cells(w, bank);

    (void)record;
    for (guint i = 0; i < w->failed->len; i++) {
        socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        for (size_t n = 0; f->bank == bank && n < count; n++) {
            const unsigned bits = rmg_ones_of((parts[n].high | parts[n].low) & f->bits);

            f->cells += bits;
            f->again += parts[n].passes > 1 ? bits * (double)(parts[n].passes - 1u) : 0;
        }
    }
    for (size_t n = 0; n < count; n++)
        w->seen += ((parts[n].high | parts[n].low) & cells) != 0;
}

/* Joins the word to a moment of the same element that is near, or makes one of it. */
static void take_part(weigher *w, uint64_t element, uint8_t bank, rmg_addr address, rmg_word bits)
{
    const rmg_addr near = (rmg_addr)w->run->bank_words[bank] / NEAR;
    const moment new = {element, bank, address, bits, rmg_ones_of(bits), rmg_ones_of(bits) > 1};

    for (guint i = w->moments->len, n = 0; i-- > 0 && n < LOOK_BACK; n++) {
        moment *m = &g_array_index(w->moments, moment, i);

        if (m->element != element || m->bank != bank)
            break;
        if (!(m->bits & bits) || address - m->address > near)
            continue;
        m->bits |= bits;
        m->failed += new.failed;
        m->address = address;
        m->at_once |= new.at_once;
        return;
    }
    g_array_append_val(w->moments, new);
}

static void see_part(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                     size_t count)
{
    weigher *w = context;
    const uint8_t bank = bank_at(w, address);
    const rmg_word cells = bank == RMG_NO_BANK ? 0 : bits_of_cells(w, bank);

    (void)record;
    for (size_t n = 0; n < count; n++) {
        const moment m = {
            parts[n].first >> 8, bank, address, (parts[n].high | parts[n].low) & cells, 0, false};

        if (m.bits && w->seen++ % w->stride == 0)
            g_array_append_val(w->moments, m);
    }
}

static gint by_element(gconstpointer a, gconstpointer b)
{
    const moment *x = a, *y = b;
    const int order = rmg_by_number(x->element, y->element);

    if (order || (x->bank == y->bank && x->address == y->address))
        return order;
    return x->bank != y->bank ? (int)x->bank - (int)y->bank : rmg_by_number(x->address, y->address);
}

void rmg_moments_collect(weigher *w)
{
    GArray *words;

    w->seen = 0;
    rmg_failset_each_record(w->run->failures, count_part, w);
    w->stride = w->seen / MOMENTS_MOST + 1u;
    w->seen = 0;
    rmg_failset_each_record(w->run->failures, see_part, w);
    g_array_sort(w->moments, by_element);
    words = w->moments;
    w->moments = g_array_new(FALSE, FALSE, sizeof(moment));
    for (guint i = 0; i < words->len; i++) {
        const moment *m = &g_array_index(words, moment, i);

        take_part(w, m->element, m->bank, m->address, m->bits);
    }
    g_array_free(words, TRUE);
}
