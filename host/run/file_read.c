/* A run's results back from JSON values. Nothing is taken on trust: every value is of the right
 * kind and within what the run can hold. */
#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "failset_pack.h"
#include "base/internal.h"
#include "file.h"
#include "runner.h"

/* Takes a list of numbers into values[0..count-1]; the rest are 0. */
static bool take_numbers(const json_t *array, uint64_t *values, size_t count)
{
    if (!json_is_array(array) || json_array_size(array) > count)
        return false;
    memset(values, 0, count * sizeof *values);
    for (size_t i = 0; i < json_array_size(array); i++) {
        if (!json_is_integer(json_array_get(array, i)))
            return false;
        values[i] = (uint64_t)json_integer_value(json_array_get(array, i));
    }
    return true;
}

/* The same, of exactly so many. */
static bool take_row(const json_t *array, uint64_t *values, size_t count)
{
    return json_array_size(array) == count && take_numbers(array, values, count);
}

static bool take_number(const json_t *object, const char *key, uint64_t *value)
{
    const json_t *number = json_object_get(object, key);

    *value = (uint64_t)json_integer_value(number);
    return json_is_integer(number);
}

static bool take_real(const json_t *object, const char *key, double *value)
{
    const json_t *number = json_object_get(object, key);

    *value = json_number_value(number);
    return json_is_number(number);
}

static bool take_small(const json_t *object, const char *key, uint16_t *value)
{
    uint64_t number;
    const bool is = take_number(object, key, &number) && number <= UINT16_MAX;

    *value = (uint16_t)number;
    return is;
}

static bool take_stretch(rmg_stretch *s, const json_t *row)
{
    json_int_t n[5];
    int heat;

    if (json_unpack((json_t *)row, "[I, I, I, I, I, F, F, i!]", &n[0], &n[1], &n[2], &n[3], &n[4],
                    &s->seconds_wall, &s->seconds_target, &heat) != 0)
        return false;
    s->passes = (uint64_t)n[0];
    s->failing_passes = (uint64_t)n[1];
    s->background = (rmg_word)n[2];
    s->failing_reads = (rmg_count)n[3];
    s->failing_words = (uint64_t)n[4];
    s->heat_millic = heat;
    return s->passes && s->failing_passes <= s->passes && isfinite(s->seconds_wall) &&
           isfinite(s->seconds_target);
}

/* The stretches are whole but for the last, and make up the passes. */
static bool take_passes(rmg_run *run, const json_t *results)
{
    const json_t *array = json_object_get(results, "passes");
    const size_t count = json_array_size(array);
    uint64_t passes = 0;

    if (!json_is_array(array) || count > RMG_STRETCHES_MOST ||
        !take_number(results, "pass_count", &run->pass_count) ||
        !take_number(results, "stretch_passes", &run->stretch_passes) ||
        (!(run->own->has_first = take_number(results, "first_pass", &run->own->fingerprint)) &&
         !json_is_integer(json_object_get(results, "fingerprint"))) ||
        !json_is_boolean(json_object_get(results, "differs")) ||
        run->pass_count > (uint64_t)INT64_MAX || !run->stretch_passes ||
        (run->stretch_passes & (run->stretch_passes - 1u)))
        return false;
    run->own->differs = json_is_true(json_object_get(results, "differs"));
    free(run->stretches);
    run->stretches = calloc(MAX(count, 1), sizeof *run->stretches);
    run->own->stretch_room = run->stretches ? MAX(count, 1) : 0;
    run->stretch_count = 0;
    for (size_t i = 0; i < count && run->stretches; i++) {
        rmg_stretch *s = &run->stretches[i];

        if (!take_stretch(s, json_array_get(array, i)) || s->passes > run->stretch_passes ||
            (i + 1u < count && s->passes != run->stretch_passes))
            return false;
        passes += s->passes;
    }
    run->stretch_count = run->stretches ? count : 0;
    return passes == run->pass_count;
}

static bool take_touching(rmg_address_detail *detail, const json_t *array)
{
    const size_t count = json_array_size(array);

    if (!json_is_array(array) || count > RMG_LINE_PAIRS)
        return false;
    for (size_t i = 0; i < count; i++) {
        int a, b, high;
        json_int_t bits;

        if (json_unpack(json_array_get(array, i), "[i, i, b, I!]", &a, &b, &high, &bits) != 0 ||
            a < 0 || b <= a || b >= RMG_ADDR_BITS)
            return false;
        detail->pairs[i] = (rmg_line_pair){(uint8_t)a, (uint8_t)b, high, (rmg_word)bits};
    }
    detail->pair_count = (uint8_t)count;
    return true;
}

static bool take_bank(rmg_run *run, size_t b, const json_t *bank)
{
    rmg_wiring *w = &run->wirings[b];
    rmg_where *where = &run->wired_where[b];
    uint64_t v[4], l[6];

    if (!json_is_boolean(json_object_get(bank, "checked")) ||
        !take_row(json_object_get(bank, "where"), v, 4) ||
        !take_row(json_object_get(bank, "lines"), l, 6) ||
        !take_numbers(json_object_get(bank, "ignored"), w->ignored, RMG_ADDR_BITS) ||
        !take_number(bank, "fixed", &run->data_details[b].fixed) ||
        !take_numbers(json_object_get(bank, "low_with"), run->data_details[b].low_with,
                      RMG_WORD_BITS) ||
        !take_numbers(json_object_get(bank, "high_with"), run->data_details[b].high_with,
                      RMG_WORD_BITS) ||
        (json_object_get(bank, "stale") && /* which older files do not have */
         !take_number(bank, "stale", &run->data_details[b].stale)) ||
        !take_small(bank, "data_accesses", &run->data_details[b].accesses) ||
        !take_touching(&run->address_details[b], json_object_get(bank, "touching")) ||
        !take_small(bank, "address_accesses", &run->address_details[b].accesses) ||
        l[5] > UINT16_MAX || v[0] > v[1] || v[1] > run->board->last_address)
        return false;
    run->wired[b] = json_is_true(json_object_get(bank, "checked"));
    *where = (rmg_where){v[0], v[1], v[2], v[3]};
    w->low = l[0];
    w->high = l[1];
    w->opposite = l[2];
    w->unsteady = l[3];
    w->lines = l[4];
    w->accesses = (uint16_t)l[5];
    return true;
}

static bool take_wiring(rmg_run *run, const json_t *wiring)
{
    const size_t banks = run->board->bank_count;
    const json_t *list = json_object_get(wiring, "banks"),
                 *pairs = json_object_get(wiring, "pairs");

    if (json_array_size(list) != banks || json_array_size(pairs) != banks * banks ||
        !json_is_boolean(json_object_get(wiring, "done")) ||
        !take_number(wiring, "accesses", &run->wiring_accesses))
        return false;
    run->own->wiring_done = json_is_true(json_object_get(wiring, "done"));
    for (size_t b = 0; b < banks; b++)
        if (!take_bank(run, b, json_array_get(list, b)))
            return false;
    for (size_t i = 0; i < banks * banks; i++) {
        const json_t *pair = json_array_get(pairs, i);
        uint64_t v[7] = {0}; /* older files have no seventh: which level wins */

        if (!take_row(pair, v, json_array_size(pair) == 7 ? 7 : 6))
            return false;
        run->bank_pairs[i] = (rmg_bank_pair){v[0], v[1], v[2], v[3], v[4], v[6], (uint16_t)v[5]};
    }
    return true;
}

static bool take_first(rmg_tally *t, const json_t *array, rmg_addr last)
{
    const size_t count = json_array_size(array);

    if (!json_is_array(array) || count > RMG_TALLY_FIRST)
        return false;
    for (size_t i = 0; i < count; i++) {
        rmg_failure *f = &t->first[i];
        json_int_t n[3];
        int v[4], down;

        if (json_unpack(json_array_get(array, i), "[I, I, I, i, i, i, i, b!]", &n[0], &n[1], &n[2],
                        &v[0], &v[1], &v[2], &v[3], &down) != 0)
            return false;
        if (v[0] < 0 || v[0] > UINT16_MAX || v[1] < 0 || v[1] > UINT8_MAX || v[2] < 0 ||
            v[2] > UINT8_MAX || v[3] < 0 || v[3] > UINT8_MAX || (uint64_t)n[0] > last)
            return false;
        *f = (rmg_failure){(rmg_addr)n[0], (rmg_word)n[1], (rmg_word)n[2], (uint16_t)v[0],
                           (uint8_t)v[1],  (uint8_t)v[2],  (uint8_t)v[3],  down};
    }
    t->first_count = (uint8_t)count;
    return true;
}

static bool take_tally(rmg_run *run, const json_t *tally)
{
    rmg_tally *t = &run->tally;
    const json_t *bits = json_object_get(tally, "bits"), *lines = json_object_get(tally, "lines");
    const size_t width = run->board->word_bits;

    if (json_array_size(bits) != t->bank_count * width || json_array_size(lines) != RMG_ADDR_BITS ||
        !take_number(tally, "failing", &t->failing) ||
        !take_number(tally, "failing_pass", &t->failing_pass) ||
        !take_small(tally, "passes", &t->passes) ||
        !take_small(tally, "passes_failing", &t->passes_failing) ||
        !take_number(tally, "address_and", &t->address_and) ||
        !take_number(tally, "address_or", &t->address_or) ||
        !take_first(t, json_object_get(tally, "first"), run->board->last_address))
        return false;
    for (size_t i = 0; i < t->bank_count * width; i++) {
        uint64_t v[2];

        if (!take_row(json_array_get(bits, i), v, 2))
            return false;
        t->bits[i / width][i % width] = (rmg_bit_tally){v[0], v[1]};
    }
    for (size_t k = 0; k < RMG_ADDR_BITS; k++) {
        uint64_t v[4];

        if (!take_row(json_array_get(lines, k), v, 4))
            return false;
        t->lines[k] = (rmg_line_tally){{v[0], v[1]}, {v[2], v[3]}};
    }
    return true;
}

static bool take_reads(rmg_run *run, const json_t *array)
{
    const size_t count = run->board->bank_count * run->board->word_bits;

    if (json_array_size(array) != count)
        return false;
    for (size_t i = 0; i < count; i++) {
        uint64_t v[4];

        if (!take_row(json_array_get(array, i), v, 4))
            return false;
        run->own->bit_reads[i] = (rmg_bit_reads){{v[0], v[1]}, {v[2], v[3]}};
    }
    return true;
}

/* Failing words lie among the addresses of the board. */
static bool take_failures(rmg_run *run, const json_t *failures)
{
    const json_t *words = json_object_get(failures, "words");
    const json_int_t size = rmg_packed_size(words);
    uint8_t *bytes;
    uint64_t lost;
    bool good;

    if (size <= 0 || size > 2 * (json_int_t)RMG_RUN_FAILURE_BYTES ||
        !take_number(failures, "not_kept", &lost) || !(bytes = malloc((size_t)size)))
        return false;
    good = rmg_packed_read(words, bytes, (size_t)size) &&
           rmg_failset_unpack(run->failures, bytes, (size_t)size, run->board->last_address) &&
           !rmg_failset_starved(run->failures);
    rmg_failset_lose(run->failures, lost);
    free(bytes);
    return good;
}

/* What older files do not have: how it stood before the passes since a fault began. */
static bool take_since(rmg_run *run, const json_t *results)
{
    const json_t *since = json_object_get(results, "since");
    struct rmg_run_own own = *run->own;
    rmg_run then = *run;
    rmg_since *s;

    if (!json_object_get(results, "clean_at_first")) {
        run->own->clean = rmg_run_failed(run) ? 0 : run->pass_count;
        if (rmg_run_failed(run)) /* two more are needed to compare */
            run->own->failed_passes = run->tally.passes_failing == run->pass_count ? 1 : RMG_MANY;
        return true;
    }
    if (!take_number(results, "clean_at_first", &run->own->clean) ||
        !take_number(results, "failed_after", &run->own->failed_passes) ||
        !take_number(results, "last_pass", &run->own->last))
        return false;
    if (!since)
        return true;
    rmg_since_free(run->own->since);
    run->own->since = s = rmg_since_new(run);
    then.own = &own;
    own.bit_reads = s->reads;
    then.failures = s->failures;
    rmg_since_lend(s, &then);
    if (!take_number(since, "after", &s->after) || s->after > run->pass_count ||
        !take_number(since, "passes", &s->passes) ||
        !take_number(since, "fingerprint", &s->fingerprint) ||
        !json_is_boolean(json_object_get(since, "differs")) ||
        !take_tally(&then, json_object_get(since, "tally")) ||
        !take_reads(&then, json_object_get(since, "bit_reads")) ||
        !take_failures(&then, json_object_get(since, "failures")) ||
        !take_wiring(&then, json_object_get(since, "wiring")))
        return false;
    s->differs = json_is_true(json_object_get(since, "differs"));
    s->tally = then.tally;
    s->checked = own.wiring_done;
    return true;
}

/* Files of runs that found none have no list. */
static bool take_noisy(rmg_run *run, const json_t *array)
{
    const size_t count = json_array_size(array);

    if (!array)
        return true;
    if (!json_is_array(array) || count > run->board->bank_count * (RMG_ADDR_BITS + RMG_WORD_BITS))
        return false;
    run->noisy = g_new0(rmg_noisy_line, MAX(count, 1));
    for (size_t i = 0; i < count; i++) {
        uint64_t v[7];

        if (!take_row(json_array_get(array, i), v, 7) || v[0] >= run->board->bank_count ||
            v[1] > 1 || v[2] >= (v[1] ? RMG_ADDR_BITS : run->board->word_bits) || v[3] > 15 ||
            v[5] > UINT32_MAX || v[6] > UINT32_MAX)
            return false;
        run->noisy[run->noisy_count++] =
            (rmg_noisy_line){(uint8_t)v[0], v[1] != 0,      (uint8_t)v[2], (uint8_t)v[3],
                             v[4],          (uint32_t)v[5], (uint32_t)v[6]};
    }
    return true;
}

const char *rmg_results_take(rmg_run *run, const json_t *results)
{
    if (!json_is_object(results))
        return "results";
    if (!take_passes(run, results))
        return "passes";
    if (!take_wiring(run, json_object_get(results, "wiring")))
        return "wiring";
    if (!take_noisy(run, json_object_get(results, "noisy")))
        return "noisy";
    if (!take_tally(run, json_object_get(results, "tally")))
        return "tally";
    if (!take_reads(run, json_object_get(results, "bit_reads")))
        return "bit_reads";
    if (!take_failures(run, json_object_get(results, "failures")))
        return "failures";
    if (!take_since(run, results))
        return "since";
    if (!take_number(results, "reads", &run->reads) ||
        !take_number(results, "writes", &run->writes) ||
        !take_number(results, "copied_words", &run->copied_words) ||
        !take_number(results, "copied_wrong", &run->copied_wrong))
        return "reads, writes or copied words";
    run->refresh_kept = json_is_true(json_object_get(results, "refresh_kept"));
    run->steps_skipped = json_is_true(json_object_get(results, "steps_skipped"));
    if (!take_real(results, "seconds_wall", &run->seconds_wall) ||
        !take_real(results, "seconds_target", &run->seconds_target))
        return "seconds_wall or seconds_target";
    return NULL;
}
