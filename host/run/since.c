/* A fault that begins while a run goes on, and is there for good then: what grows warm. The passes
 * since are kept as a run of their own, with the lines checked again; those before say that it was
 * not there. */
#include <glib.h>
#include <string.h>

#include "runner.h"

static void clear(rmg_since *s)
{
    g_free(s->reads);
    rmg_failset_free(s->failures);
    g_free(s->wired);
    g_free(s->wired_where);
    g_free(s->wirings);
    g_free(s->data_details);
    g_free(s->address_details);
    g_free(s->bank_pairs);
}

void rmg_since_free(rmg_since *since)
{
    if (since)
        clear(since);
    g_free(since);
}

rmg_since *rmg_since_new(const rmg_run *run)
{
    const size_t banks = MAX(run->board->bank_count, 1);
    rmg_since *s = g_new0(rmg_since, 1);

    s->after = run->pass_count;
    s->tally = run->tally;
    s->reads =
        g_memdup2(run->own->bit_reads, banks * run->board->word_bits * sizeof *run->own->bit_reads);
    s->failures = rmg_failset_new();
    s->wired = g_new0(bool, banks);
    s->wired_where = g_new0(rmg_where, banks);
    s->wirings = g_new0(rmg_wiring, banks);
    s->data_details = g_new0(rmg_data_detail, banks);
    s->address_details = g_new0(rmg_address_detail, banks);
    s->bank_pairs = g_new0(rmg_bank_pair, banks * banks);
    return s;
}

void rmg_since_lend(const rmg_since *s, rmg_run *run)
{
    run->wired = s->wired;
    run->wired_where = s->wired_where;
    run->wirings = s->wirings;
    run->data_details = s->data_details;
    run->address_details = s->address_details;
    run->bank_pairs = s->bank_pairs;
}

rmg_status rmg_since_check_wiring(runner *c, const rmg_target *target)
{
    rmg_run *run = c->run;
    const rmg_run before = *run;
    rmg_status status;

    rmg_since_lend(run->own->since, run);
    status = rmg_run_check_wiring(c, target);
    run->own->since->checked = status == RMG_OK;
    run->wired = before.wired;
    run->wired_where = before.wired_where;
    run->wirings = before.wirings;
    run->data_details = before.data_details;
    run->address_details = before.address_details;
    run->bank_pairs = before.bank_pairs;
    run->wiring_accesses += before.wiring_accesses;
    return status;
}

static bool is_found(const rmg_wiring *w)
{
    rmg_word ignored = 0;

    for (size_t k = 0; k < RMG_ADDR_BITS; k++)
        ignored |= w->ignored[k];
    return w->low | w->high | w->opposite | w->unsteady | ignored;
}

/* Did the check of the lines, the bank against others too, find anything about the bank? */
static bool is_bank_found(const rmg_run *run, size_t bank)
{
    const size_t banks = run->board->bank_count;
    rmg_word pairs = 0;

    for (size_t other = 0; other < banks; other++) {
        const rmg_bank_pair *p = &run->bank_pairs[MIN(bank, other) * banks + MAX(bank, other)];

        if (other != bank)
            pairs |= p->same | p->a_answers | p->b_answers | p->a_dragged | p->b_dragged;
    }
    return pairs || run->address_details[bank].pair_count || is_found(&run->wirings[bank]);
}

/* Did so many words of a bank fail at a bit in the first pass, although its lines were sound when
 * they were checked just before, that something must have happened in between? */
static bool began_in_first(const rmg_run *run)
{
    uint64_t words[RMG_WORD_BITS];

    for (size_t b = 0; b < run->board->bank_count; b++) {
        if (!run->wired[b] || is_bank_found(run, b))
            continue;
        rmg_failset_by_bit(run->own->pass_failures, &run->board->bank_wheres[b], words);
        for (unsigned i = 0; i < run->board->word_bits; i++)
            if (2u * words[i] > run->bank_words[b])
                return true;
    }
    return false;
}

/* Does a bank fail of which the lines were sound when the run began? */
static bool is_a_sound_bank_failing(const rmg_run *run)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0;

    for (size_t b = 0; b < run->board->bank_count; b++)
        if (run->wired[b] && !is_bank_found(run, b) &&
            rmg_failset_words(run->own->pass_failures, &run->board->bank_wheres[b], all))
            return true;
    return false;
}

void rmg_since_pass(rmg_run *run, uint64_t fingerprint, bool failed)
{
    struct rmg_run_own *own = run->own;

    if (own->since && !own->since->passes++ && !own->clean)
        own->since->fingerprint = fingerprint; /* the first whole one */
    if (own->since) {
        own->since->differs |= fingerprint != own->since->fingerprint;
        rmg_failset_count_pass(own->since->failures, own->pass_failures);
        return;
    }
    if (failed)
        own->failed_passes++;
    else if (own->failed_passes)
        own->failed_passes = RMG_MANY; /* it was gone again */
    else
        own->clean++;
    if (failed && run->pass_count == 1 && began_in_first(run))
        own->since = rmg_since_new(run);
    /* or it began so late in the first that little failed yet */
    if (!own->since && !own->clean && own->failed_passes == 3 && own->last == fingerprint &&
        own->has_first && own->fingerprint != fingerprint && is_a_sound_bank_failing(run))
        own->since = rmg_since_new(run);
    if (own->clean && own->failed_passes == 3 && own->last == fingerprint) {
        own->since = rmg_since_new(run);
        own->since->fingerprint = fingerprint;
    }
    own->last = fingerprint;
}

static void take_away(rmg_count *from, rmg_count before)
{
    *from = *from == RMG_COUNT_MAX ? *from : *from - MIN(*from, before);
}

static void tally_since(rmg_tally *t, const rmg_tally *before)
{
    take_away(&t->failing, before->failing);
    t->passes = (uint16_t)(t->passes - before->passes);
    t->passes_failing = (uint16_t)(t->passes_failing - before->passes_failing);
    for (size_t b = 0; b < RMG_TALLY_BANKS; b++)
        for (size_t i = 0; i < RMG_WORD_BITS; i++) {
            take_away(&t->bits[b][i].high, before->bits[b][i].high);
            take_away(&t->bits[b][i].low, before->bits[b][i].low);
        }
#if RMG_TALLY_LINES
    for (size_t k = 0; k < RMG_ADDR_BITS; k++)
        for (size_t level = 0; level < 2; level++) {
            take_away(&t->lines[k].up[level], before->lines[k].up[level]);
            take_away(&t->lines[k].down[level], before->lines[k].down[level]);
        }
#endif
}

/* Do the lines that were checked again say more than before? */
static bool says_more(const rmg_run *run, const rmg_since *s)
{
    bool more = false;

    for (size_t b = 0; b < run->board->bank_count; b++)
        more |= s->wired[b] && is_found(&s->wirings[b]);
    return more;
}

bool rmg_run_since(const rmg_run *run, rmg_run *view)
{
    const rmg_since *s = run->own ? run->own->since : NULL;
    const size_t reads = MAX(run->board->bank_count, 1) * run->board->word_bits;

    if (!s || !s->checked || s->differs || run->pass_count <= s->after ||
        (!run->own->clean && !says_more(run, s)) || rmg_failset_starved(s->failures) ||
        rmg_failset_fingerprint(s->failures) != s->fingerprint)
        return false;
    *view = *run;
    view->own = g_memdup2(run->own, sizeof *run->own);
    view->own->since = NULL;
    view->own->differs = false;
    view->own->fingerprint = s->fingerprint;
    view->own->bit_reads = g_memdup2(run->own->bit_reads, reads * sizeof *run->own->bit_reads);
    for (size_t i = 0; i < reads; i++)
        for (size_t level = 0; level < 2; level++) {
            rmg_bit_reads *bit = &view->own->bit_reads[i];

            bit->expected[level] -= MIN(bit->expected[level], s->reads[i].expected[level]);
            bit->failed[level] -= MIN(bit->failed[level], s->reads[i].failed[level]);
        }
    rmg_since_lend(s, view);
    view->failures = s->failures;
    tally_since(&view->tally, &s->tally);
    view->pass_count -= s->after;
    view->plan.first_pass += s->after;
    if (run->stretch_passes == 1 && s->after <= run->stretch_count) {
        view->stretches += s->after;
        view->stretch_count -= s->after;
    }
    return true;
}

void rmg_run_since_end(rmg_run *view)
{
    g_free(view->own->bit_reads);
    g_free(view->own);
}

uint64_t rmg_run_began(const rmg_run *run)
{
    rmg_run view;

    if (!rmg_run_since(run, &view))
        return 0;
    rmg_run_since_end(&view);
    return run->own->clean + 1u;
}
