/* A run as JSON; the form is described in docs/result.schema.json. */
#include <glib.h>
#include <jansson.h>
#include <stdlib.h>

#include "internal.h"
#include "rimeglass/heard.h"
#include "rimeglass/report.h"

static json_t *address(const rmg_board *board, rmg_addr value)
{
    char text[40];

    return json_string(rmg_board_address_text(board, value, text, sizeof text));
}

static json_t *range(const rmg_board *board, const rmg_range *value)
{
    char text[40];

    return json_string(rmg_board_range_text(board, value, text, sizeof text));
}

static json_t *word(rmg_word value)
{
    char text[24];

    g_snprintf(text, sizeof text, "0x%" G_GINT64_MODIFIER "X", (guint64)value);
    return json_string(text);
}

static json_t *tested_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->tested_count; i++)
        rmg_json_append(
            array, json_pack("{s:o, s:o}", "range", range(run->board, &run->tested[i]), "words",
                             rmg_json_number(run->tested[i].last - run->tested[i].first + 1u)));
    return array;
}

static json_t *left_out_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->left_out_count; i++)
        rmg_json_append(array, json_pack("{s:o, s:s, s:s}", "range",
                                         range(run->board, &run->left_out[i].range), "region",
                                         run->left_out[i].name, "reason", run->left_out[i].reason));
    return array;
}

/* Sockets the processor cannot see, and address lines that could not vary. */
static json_t *not_reached_json(const rmg_run *run)
{
    const rmg_board *board = run->board;
    json_t *array = json_array();
    char text[8];

    for (size_t s = 0; s < board->socket_count; s++)
        if (*board->sockets[s].unseen)
            rmg_json_append(array, json_pack("{s:s, s:s}", "what", board->sockets[s].name, "reason",
                                             board->sockets[s].unseen));
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_addr lines = rmg_run_unchecked_lines(run, b);

        if (rmg_run_lines_skipped(run, b)) {
            gchar *what = g_strdup_printf("lines of %s", board->banks[b].called);

            rmg_json_append(array, json_pack("{s:s, s:s}", "what", what, "reason",
                                             run->complete ? "too few of its words are tested"
                                                           : "the run ended before"));
            g_free(what);
        }

        for (uint8_t k = 0; k < board->address_bits; k++)
            if (run->wired[b] && (lines >> k) & 1u) {
                gchar *what =
                    g_strdup_printf("%s of %s", rmg_board_line_text(board, k, text, sizeof text),
                                    board->banks[b].called);

                rmg_json_append(array, json_pack("{s:s, s:s}", "what", what, "reason",
                                                 "cannot vary within what was tested"));
                g_free(what);
            }
    }
    if (run->remark)
        rmg_json_append(array, json_pack("{s:s, s:s}", "what", "all of the memory asked for",
                                         "reason", run->remark));
    if (run->caveat)
        rmg_json_append(array, json_pack("{s:s, s:s}", "what",
                                         "the order of accesses that explain assumes", "reason",
                                         run->caveat));
    if (rmg_failset_lost(run->failures))
        rmg_json_append(array, json_pack("{s:s, s:s}", "what", "some of the failing words",
                                         "reason", "more failed than are kept; they were counted"));
    if (run->refresh_kept)
        rmg_json_append(array,
                        json_pack("{s:s, s:s}", "what", "holds without refresh", "reason",
                                  "the port cannot stop refresh; they were done with refresh on"));
    if (run->steps_skipped)
        rmg_json_append(array, json_pack("{s:s, s:s}", "what",
                                         "rows disturbed, neighbours, moving addresses, copies",
                                         "reason", "left out to keep the contents"));
    if (run->plan.keep)
        rmg_json_append(array, json_pack("{s:s, s:s}", "what", "faults between blocks", "reason",
                                         rmg_keep_misses()));
    return array;
}

static json_t *by_bit_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t b = 0; b < run->board->bank_count && b < RMG_TALLY_BANKS; b++)
        for (unsigned i = 0; i < run->board->word_bits; i++) {
            const rmg_bit_tally *bit = &run->tally.bits[b][i];

            if (bit->high || bit->low)
                rmg_json_append(
                    array,
                    json_pack("{s:s, s:i, s:o, s:o, s:o}", "bank", run->board->banks[b].name, "bit",
                              (int)i, "reads_high", rmg_json_number(bit->high), "reads_low",
                              rmg_json_number(bit->low), "words",
                              rmg_json_number(rmg_failset_words(
                                  run->failures, &run->board->bank_wheres[b], (rmg_word)1 << i))));
        }
    return array;
}

static json_t *first_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->tally.first_count; i++) {
        const rmg_failure *f = &run->tally.first[i];

        rmg_json_append(array, json_pack("{s:o, s:o, s:o, s:i, s:i, s:i, s:i}", "address",
                                         address(run->board, f->address), "expected",
                                         word(f->expected), "actual", word(f->actual), "pass",
                                         f->pass + 1, "step", f->step + 1, "element",
                                         f->element + 1, "operation", f->operation + 1));
        if (run->places)
            rmg_json_set(json_array_get(array, i), "place", json_string(run->places[i]));
    }
    return array;
}

static json_t *failures_json(const rmg_run *run)
{
    return json_pack("{s:o, s:o, s:o, s:o, s:o}", "reads", rmg_json_number(run->tally.failing),
                     "words", rmg_json_number(rmg_failset_words(run->failures, NULL, ~(rmg_word)0)),
                     "bits", rmg_json_number(rmg_failset_bits(run->failures, NULL, ~(rmg_word)0)),
                     "by_bit", by_bit_json(run), "first", first_json(run));
}

static json_t *rate_json(const rmg_rate *rate)
{
    return json_pack("{s:o, s:o, s:f, s:f, s:f}", "events", rmg_json_number(rate->events), "trials",
                     rmg_json_number(rate->trials), "share", rate->share, "low", rate->low, "high",
                     rate->high);
}

static json_t *pass_json(const rmg_stretch *pass)
{
    json_t *one =
        json_pack("{s:o, s:o, s:o, s:f}", "background", word(pass->background), "failing_reads",
                  rmg_json_number(pass->failing_reads), "failing_words",
                  rmg_json_number(pass->failing_words), "ended_seconds_wall", pass->seconds_wall);

    if (pass->passes > 1) {
        rmg_json_set(one, "passes", rmg_json_number(pass->passes));
        rmg_json_set(one, "passes_failing", rmg_json_number(pass->failing_passes));
    }
    if (pass->seconds_target >= 0)
        rmg_json_set(one, "ended_seconds_target", json_real(pass->seconds_target));
    if (pass->heat_millic != RMG_NOT_KNOWN)
        rmg_json_set(one, "temperature_c", json_real(pass->heat_millic / 1000.0));
    return one;
}

static json_t *course_json(const rmg_run *run)
{
    static const char *const words[] = {"unknown", "steady", "rising", "falling"};
    json_t *parts = json_array();
    rmg_course course;

    rmg_course_of(run, &course);
    for (size_t i = 0; i < course.parts; i++)
        rmg_json_append(parts,
                        json_pack("{s:I, s:o}", "passes", (json_int_t)course.passes[i],
                                  "failing_reads", rmg_json_number(course.failing_reads[i])));
    return json_pack("{s:s, s:o}", "trend", words[course.movement], "parts", parts);
}

static json_t *passes_json(const rmg_run *run)
{
    const rmg_rate failing = rmg_rate_of_passes(run);
    json_t *array = json_array(), *passes;
    rmg_run since;

    for (size_t i = 0; i < run->stretch_count; i++)
        rmg_json_append(array, pass_json(&run->stretches[i]));
    passes = json_pack("{s:o, s:o, s:o, s:f, s:o, s:o, s:o}", "planned",
                       run->plan.passes ? rmg_json_number(run->plan.passes) : json_null(), "done",
                       rmg_json_number(run->pass_count), "each", array, "excludes_share_above",
                       rmg_excluded_share(run->pass_count), "repeatable",
                       run->pass_count > 1 ? json_boolean(rmg_run_repeats(run)) : json_null(),
                       "failing", rate_json(&failing), "course", course_json(run));
    if (rmg_run_since(run, &since)) {
        rmg_json_set(passes, "began_in", rmg_json_number(rmg_run_began(run)));
        rmg_run_since_end(&since);
    }
    return passes;
}

static json_t *plan_json(const rmg_run *run)
{
    json_t *steps = json_array();
    uint64_t sum = 0;

    for (size_t i = 0; i < run->steps.count; i++) {
        const uint32_t ops = rmg_step_operations(&run->steps.list[i], run->board);

        sum += ops;
        rmg_json_append(steps, json_pack("{s:s, s:I}", "name", run->steps.list[i].name,
                                         "operations_per_word", (json_int_t)ops));
    }
    return json_pack("{s:s, s:o, s:o, s:o}", "name", run->steps.name, "steps", steps,
                     "operations_per_word", rmg_json_number(sum), "seed",
                     rmg_json_number(run->plan.seed));
}

/* Conditions as the port reported them at the start. */
static json_t *conditions_json(const rmg_run *run)
{
    static const char *const names[] = {"clock_hz", "supply_mv", "temperature_millic", "refresh"};
    json_t *object = json_object();

    for (size_t i = 0; i < G_N_ELEMENTS(names); i++)
        if (run->conditions[i] != RMG_NOT_KNOWN)
            rmg_json_set(object, names[i], json_integer(run->conditions[i]));
    return object;
}

/* A line of the address or of the data; and those with ones in `lines`. */
static void line_text(const rmg_board *board, uint8_t line, bool address, char *text, size_t room)
{
    if (address)
        rmg_board_line_text(board, line, text, room);
    else
        g_snprintf(text, room, "D%u", line);
}

static json_t *line_names(const rmg_board *board, uint64_t lines, bool address)
{
    json_t *array = json_array();
    char text[24];

    for (uint8_t i = 0; i < 64; i++)
        if (lines >> i & 1u) {
            line_text(board, i, address, text, sizeof text);
            rmg_json_append(array, json_string(text));
        }
    return array;
}

static json_t *noisy_json(const rmg_run *run)
{
    static const char *const ways[] = {"still_at_0", "still_at_1", "rising", "falling"};
    json_t *array = json_array();

    for (size_t i = 0; i < run->noisy_count; i++) {
        const rmg_noisy_line *n = &run->noisy[i];
        json_t *how = json_array();
        char text[24];

        for (unsigned k = 0; k < G_N_ELEMENTS(ways); k++)
            if ((unsigned)n->ways >> k & 1u)
                rmg_json_append(how, json_string(ways[k]));
        line_text(run->board, n->line, n->address, text, sizeof text);
        rmg_json_append(array,
                        json_pack("{s:s, s:s, s:o, s:o, s:I, s:I}", "bank",
                                  run->board->banks[n->bank].name, "line", text, "by",
                                  line_names(run->board, n->by, n->address), "while", how, "failed",
                                  (json_int_t)n->failed, "tries", (json_int_t)n->tries));
    }
    return array;
}

static json_t *wiring_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t b = 0; b < run->board->bank_count; b++) {
        const rmg_wiring *w = &run->wirings[b];
        const rmg_range checked = {run->wired_where[b].first, run->wired_where[b].last};
        json_t *ignored = json_array();
        char text[8];

        if (!run->wired[b]) {
            json_decref(ignored);
            continue;
        }
        for (uint8_t k = 0; k < run->board->address_bits; k++)
            if (w->ignored[k])
                rmg_json_append(ignored,
                                json_pack("{s:s, s:o}", "line",
                                          rmg_board_line_text(run->board, k, text, sizeof text),
                                          "bits", word(w->ignored[k])));
        rmg_json_append(array,
                        json_pack("{s:s, s:o, s:o, s:o, s:o, s:o, s:o, s:i}", "bank",
                                  run->board->banks[b].name, "range", range(run->board, &checked),
                                  "always_0", word(w->low), "always_1", word(w->high), "undriven",
                                  word(w->opposite), "unsteady", word(w->unsteady),
                                  "ignored_address_lines", ignored, "accesses", (int)w->accesses));
    }
    return array;
}

static json_t *suspect_json(const rmg_run *run, const rmg_suspect *s)
{
    json_t *json = rmg_suspect_json(run->board, s);
    uint64_t failed, could;
    rmg_rate rate;

    rmg_run_bit_rate(run, s->finding.bank, s->finding.bits, &failed, &could);
    rate = rmg_rate_of(failed, could);
    rmg_json_set(json, "read_rate", rate_json(&rate));
    return json;
}

static json_t *suspects_json(const rmg_run *run, const rmg_suspects *suspects)
{
    json_t *array = json_array();

    for (size_t i = 0; i < suspects->count; i++)
        rmg_json_append(array, suspect_json(run, &suspects->list[i]));
    return array;
}

/* Words that were to be kept and could not be written back. */
static json_t *not_put_back_json(const rmg_run *run)
{
    json_t *array = json_array();

    for (size_t i = 0; i < run->not_put_back_count; i++)
        rmg_json_append(array, json_pack("{s:o, s:o}", "address",
                                         address(run->board, run->not_restored[i].address), "value",
                                         word(run->not_restored[i].value)));
    return array;
}

/* Failures reported by bank and bit; the bank null where it is not known. */
static json_t *reported_json(const rmg_run *run)
{
    const rmg_board *board = run->board;
    json_t *array = json_array();

    for (size_t b = 0; b <= board->bank_count; b++)
        for (uint8_t i = 0; i < board->word_bits; i++) {
            const uint64_t count = rmg_heard_count(run, b, (rmg_word)1 << i);

            if (count)
                rmg_json_append(array,
                                json_pack("{s:o, s:i, s:o}", "bank",
                                          b < board->bank_count ? json_string(board->banks[b].name)
                                                                : json_null(),
                                          "bit", (int)i, "failures", rmg_json_number(count)));
        }
    return array;
}

/* Chips and banks that were named without a bit. */
static json_t *reported_whole_json(const rmg_run *run)
{
    const rmg_board *board = run->board;
    json_t *array = json_array();

    for (size_t s = 0; s < board->socket_count; s++)
        if (run->heard->sockets[s])
            rmg_json_append(array, json_pack("{s:s, s:o}", "socket", board->sockets[s].name,
                                             "failures", rmg_json_number(run->heard->sockets[s])));
    for (size_t b = 0; b < board->bank_count; b++)
        if (run->heard->banks[b])
            rmg_json_append(array, json_pack("{s:s, s:o}", "bank", board->banks[b].name, "failures",
                                             rmg_json_number(run->heard->banks[b])));
    return array;
}

/* ROMs that a test ROM has read. */
static json_t *read_roms_json(const rmg_run *run)
{
    json_t *list = json_array();

    for (uint8_t n = 0; n < run->heard->told->plan.rom_count; n++) {
        json_t *suspects = json_array(), *one;
        rmg_rom_case rom_case = {.board = run->board};
        rmg_suspects found = {0};
        rmg_verify verify = {0};
        rmg_told_rom rom;

        if (rmg_told_rom_read(run, n, &rom) == RMG_OK && rmg_told_rom_differs(&rom) &&
            rmg_told_rom_judge(&rom, NULL, 0, &verify, &found) == RMG_OK) {
            rom_case.rom = &rom.rom;
            rom_case.quality = &verify.quality;
            rom_case.comparison = verify.compared ? &verify.comparison : NULL;
            rmg_rom_suspects_word(&rom_case, &found);
        }
        for (size_t i = 0; i < found.count; i++)
            rmg_json_append(suspects,
                            json_pack("{s:s, s:f, s:s}", "headline", found.list[i].headline,
                                      "confidence", found.list[i].confidence, "most_likely",
                                      found.list[i].rivals[0].name));
        one =
            json_pack("{s:s, s:b, s:i, s:o, s:o, s:o, s:o, s:o}", "region",
                      rom.rom.region ? rom.rom.region->name : "", "known", rom.good != NULL,
                      "passes", (int)rom.readings, "pages", rmg_json_number(rom.pages),
                      "pages_wrong", rmg_json_number(rom.wrong), "pages_unsteady",
                      rmg_json_number(rom.unsteady), "wrong_bits",
                      verify.compared ? rmg_json_number(verify.comparison.wrong_bits) : json_null(),
                      "suspects", suspects);
        rmg_json_append(list, one);
        rmg_suspects_free(&found);
        rmg_verify_end(&verify);
        rmg_told_rom_free(&rom);
    }
    return list;
}

/* What another program reported, and what of it is not known. */
static json_t *heard_json(const rmg_run *run)
{
    const rmg_heard *h = run->heard;
    json_t *first = json_array();

    for (unsigned i = 0; i < h->first_count; i++)
        rmg_json_append(first, json_string(h->first[i]));
    json_t *json = json_pack(
        "{s:s, s:o, s:o, s:o, s:b, s:o, s:b, s:b, s:b, s:b, s:o, s:o, s:o}", "profile", h->profile,
        "lines", rmg_json_number(h->lines), "unknown_lines", rmg_json_number(h->unknown),
        "failures", rmg_json_number(h->failures), "lower_bound", (int)h->at_least, "without_place",
        rmg_json_number(h->unplaced), "addresses_known", (int)h->addresses, "directions_known",
        (int)h->directions, "steps_known", (int)h->steps_known, "tested_known", (int)h->tested,
        "by_bit", reported_json(run), "whole", reported_whole_json(run), "first", first);
    if (h->told && h->told->plan.rom_count)
        rmg_json_set(json, "roms", read_roms_json(run));
    return json;
}

static bool roms_accused(const json_t *heard)
{
    const json_t *roms = json_object_get(heard, "roms"), *rom;
    size_t i;

    json_array_foreach(roms, i,
                       rom) if (json_array_size(json_object_get(rom, "suspects"))) return true;
    return false;
}

char *rmg_run_json(const rmg_run *run, const rmg_suspects *suspects)
{
    const rmg_board *board = run->board;
    json_t *heard = run->heard ? heard_json(run) : NULL;
    gchar *file = g_filename_display_name(board->file);
    gchar *target = g_filename_display_name(run->target);
    json_t *root =
        json_pack("{s:i, s:s, s:{s:s, s:s, s:s, s:s}, s:s, s:o, s:b, s:s, s:s}", "rimeglass_result",
                  2, "version", RMG_VERSION, "board", "name", board->name, "revision",
                  board->revision, "file", file, "sha256", board->hash, "target", target, "plan",
                  plan_json(run), "complete", run->complete && !run->less, "status",
                  rmg_status_text(run->status), "verdict", rmg_run_failed(run) ? "fail" : "pass");

    g_free(file);
    g_free(target);
    if (roms_accused(heard))
        rmg_json_set(root, "verdict", json_string("fail"));
    if (run->port_said)
        rmg_json_set(root, "port_said", json_string(run->port_said));
    rmg_json_set(root, "passes", passes_json(run));
    rmg_json_set(root, "tested", tested_json(run));
    rmg_json_set(root, "not_tested", left_out_json(run));
    rmg_json_set(root, "not_reached", not_reached_json(run));
    rmg_json_set(root, "wiring", wiring_json(run));
    if (run->noisy_count)
        rmg_json_set(root, "noisy_lines", noisy_json(run));
    rmg_json_set(root, "conditions", conditions_json(run));
    rmg_json_set(root, "copied",
                 json_pack("{s:o, s:o}", "words", rmg_json_number(run->copied_words), "wrong",
                           rmg_json_number(run->copied_wrong)));
    rmg_json_set(root, "wiring_accesses", rmg_json_number(run->wiring_accesses));
    rmg_json_set(root, "failures", failures_json(run));
    if (run->heard)
        rmg_json_set(root, "heard", heard);
    rmg_json_set(root, "suspects", suspects_json(run, suspects));
    rmg_json_set(root, "operations", rmg_json_number(run->reads + run->writes));
    rmg_json_set(root, "not_restored", not_put_back_json(run));
    rmg_json_set(root, "seconds_wall", json_real(run->seconds_wall));
    rmg_json_set(root, "seconds_target",
                 run->seconds_target < 0 ? json_null() : json_real(run->seconds_target));
    return rmg_json_text(root);
}
