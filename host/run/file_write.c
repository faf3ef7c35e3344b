/* A run's results as JSON values. Numbers of 64 bits stand as JSON integers of the same bits. */
#include <glib.h>
#include <stdlib.h>

#include "failset_pack.h"
#include "base/internal.h"
#include "file.h"
#include "runner.h"

static json_t *number(uint64_t value)
{
    return json_integer((json_int_t)value);
}

/* Numbers up to the last that is not 0. */
static json_t *numbers(const uint64_t *values, size_t count)
{
    json_t *array = json_array();

    while (count && !values[count - 1u])
        count--;
    for (size_t i = 0; i < count; i++)
        rmg_json_append(array, number(values[i]));
    return array;
}

static json_t *passes_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->stretch_count; i++) {
        const rmg_stretch *p = &run->stretches[i];

        rmg_json_append(array, json_pack("[I, I, I, I, I, f, f, i]", (json_int_t)p->passes,
                                         (json_int_t)p->failing_passes, (json_int_t)p->background,
                                         (json_int_t)p->failing_reads, (json_int_t)p->failing_words,
                                         p->seconds_wall, p->seconds_target, (int)p->heat_millic));
    }
    return array;
}

static json_t *bank_json(const rmg_run *run, size_t b)
{
    const rmg_wiring *w = &run->wirings[b];
    const rmg_where *where = &run->wired_where[b];
    const rmg_data_detail *d = &run->data_details[b];
    const rmg_address_detail *a = &run->address_details[b];
    json_t *pairs = json_array();

    for (uint8_t i = 0; i < a->pair_count; i++)
        rmg_json_append(pairs, json_pack("[i, i, b, I]", (int)a->pairs[i].a, (int)a->pairs[i].b,
                                         (int)a->pairs[i].high_wins, (json_int_t)a->pairs[i].bits));
    return json_pack(
        "{s:b, s:[I, I, I, I], s:[I, I, I, I, I, i], s:o, s:I, s:o, s:o, s:I, s:i, s:o, s:i}",
        "checked", (int)run->wired[b], "where", (json_int_t)where->first, (json_int_t)where->last,
        (json_int_t)where->mask, (json_int_t)where->match, "lines", (json_int_t)w->low,
        (json_int_t)w->high, (json_int_t)w->opposite, (json_int_t)w->unsteady, (json_int_t)w->lines,
        (int)w->accesses, "ignored", numbers(w->ignored, RMG_ADDR_BITS), "fixed",
        (json_int_t)d->fixed, "low_with", numbers(d->low_with, RMG_WORD_BITS), "high_with",
        numbers(d->high_with, RMG_WORD_BITS), "stale", (json_int_t)d->stale, "data_accesses",
        (int)d->accesses, "touching", pairs, "address_accesses", (int)a->accesses);
}

static json_t *wiring_json(const rmg_run *run)
{
    const size_t banks = run->board->bank_count;
    json_t *list = json_array(), *pairs = json_array();

    for (size_t b = 0; b < banks; b++)
        rmg_json_append(list, bank_json(run, b));
    for (size_t i = 0; i < banks * banks; i++) {
        const rmg_bank_pair *p = &run->bank_pairs[i];

        rmg_json_append(pairs, json_pack("[I, I, I, I, I, i, I]", (json_int_t)p->same,
                                         (json_int_t)p->a_answers, (json_int_t)p->b_answers,
                                         (json_int_t)p->a_dragged, (json_int_t)p->b_dragged,
                                         (int)p->accesses, (json_int_t)p->high_wins));
    }
    return json_pack("{s:b, s:I, s:o, s:o}", "done", (int)run->own->wiring_done, "accesses",
                     (json_int_t)run->wiring_accesses, "banks", list, "pairs", pairs);
}

static json_t *tally_json(const rmg_run *run)
{
    const rmg_tally *t = &run->tally;
    json_t *bits = json_array(), *lines = json_array(), *first = json_array();

    for (size_t b = 0; b < t->bank_count; b++)
        for (size_t i = 0; i < run->board->word_bits; i++)
            rmg_json_append(bits, json_pack("[I, I]", (json_int_t)t->bits[b][i].high,
                                            (json_int_t)t->bits[b][i].low));
    for (size_t k = 0; k < RMG_ADDR_BITS; k++)
        rmg_json_append(lines,
                        json_pack("[I, I, I, I]", (json_int_t)t->lines[k].up[0],
                                  (json_int_t)t->lines[k].up[1], (json_int_t)t->lines[k].down[0],
                                  (json_int_t)t->lines[k].down[1]));
    for (size_t i = 0; i < t->first_count; i++) {
        const rmg_failure *f = &t->first[i];

        rmg_json_append(first,
                        json_pack("[I, I, I, i, i, i, i, b]", (json_int_t)f->address,
                                  (json_int_t)f->expected, (json_int_t)f->actual, (int)f->pass,
                                  (int)f->step, (int)f->element, (int)f->operation, (int)f->down));
    }
    return json_pack("{s:I, s:I, s:i, s:i, s:I, s:I, s:o, s:o, s:o}", "failing",
                     (json_int_t)t->failing, "failing_pass", (json_int_t)t->failing_pass, "passes",
                     (int)t->passes, "passes_failing", (int)t->passes_failing, "address_and",
                     (json_int_t)t->address_and, "address_or", (json_int_t)t->address_or, "bits",
                     bits, "lines", lines, "first", first);
}

static json_t *reads_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->board->bank_count * run->board->word_bits; i++) {
        const rmg_bit_reads *r = &run->own->bit_reads[i];

        rmg_json_append(array, json_pack("[I, I, I, I]", (json_int_t)r->expected[0],
                                         (json_int_t)r->expected[1], (json_int_t)r->failed[0],
                                         (json_int_t)r->failed[1]));
    }
    return array;
}

/* The failure set, packed; null: no memory. */
static json_t *failures_json(const rmg_run *run)
{
    uint64_t left_out;
    uint8_t *bytes;
    size_t size;
    json_t *failures;

    if (!rmg_failset_pack(run->failures, RMG_RUN_FAILURE_BYTES, &bytes, &size, &left_out))
        return NULL;
    failures = json_pack("{s:I, s:o}", "not_kept",
                         (json_int_t)(rmg_failset_lost(run->failures) + left_out), "words",
                         rmg_packed_json(bytes, size));
    free(bytes);
    return failures;
}

static json_t *noisy_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->noisy_count; i++) {
        const rmg_noisy_line *n = &run->noisy[i];

        rmg_json_append(array,
                        json_pack("[I, I, I, I, I, I, I]", (json_int_t)n->bank,
                                  (json_int_t)n->address, (json_int_t)n->line, (json_int_t)n->ways,
                                  (json_int_t)n->by, (json_int_t)n->failed, (json_int_t)n->tries));
    }
    return array;
}

/* How it stood before the passes since a fault began, and the lines as they were after it. */
static json_t *since_json(const rmg_run *run)
{
    const rmg_since *s = run->own->since;
    struct rmg_run_own own = *run->own;
    rmg_run then = *run;

    then.own = &own;
    then.tally = s->tally;
    own.bit_reads = s->reads;
    own.wiring_done = s->checked;
    rmg_since_lend(s, &then);
    then.failures = s->failures;
    return json_pack("{s:o, s:o, s:o, s:o, s:b, s:o, s:o, s:o}", "failures", failures_json(&then),
                     "passes", number(s->passes), "after", number(s->after), "fingerprint",
                     number(s->fingerprint), "differs", (int)s->differs, "tally", tally_json(&then),
                     "bit_reads", reads_json(&then), "wiring", wiring_json(&then));
}

json_t *rmg_results_json(const rmg_run *run)
{
    json_t *results = json_object();

    rmg_json_set(results, "pass_count", number(run->pass_count));
    rmg_json_set(results, "stretch_passes", number(run->stretch_passes));
    rmg_json_set(results, "first_pass", number(run->own->fingerprint));
    rmg_json_set(results, "differs", json_boolean(run->own->differs));
    if (run->own->since || (run->own->clean && run->own->failed_passes)) {
        rmg_json_set(results, "clean_at_first", number(run->own->clean));
        rmg_json_set(results, "failed_after", number(run->own->failed_passes));
        rmg_json_set(results, "last_pass", number(run->own->last));
    }
    if (run->own->since)
        rmg_json_set(results, "since", since_json(run));
    rmg_json_set(results, "failures", failures_json(run));
    rmg_json_set(results, "passes", passes_json(run));
    rmg_json_set(results, "wiring", wiring_json(run));
    if (run->noisy_count)
        rmg_json_set(results, "noisy", noisy_json(run));
    rmg_json_set(results, "tally", tally_json(run));
    rmg_json_set(results, "bit_reads", reads_json(run));
    rmg_json_set(results, "reads", number(run->reads));
    rmg_json_set(results, "writes", number(run->writes));
    rmg_json_set(results, "copied_words", number(run->copied_words));
    rmg_json_set(results, "copied_wrong", number(run->copied_wrong));
    rmg_json_set(results, "refresh_kept", json_boolean(run->refresh_kept));
    rmg_json_set(results, "steps_skipped", json_boolean(run->steps_skipped));
    rmg_json_set(results, "seconds_wall", json_real(run->seconds_wall));
    rmg_json_set(results, "seconds_target", json_real(run->seconds_target));
    return results;
}
