/* Runs that another program made: its reports added up. */
#include "rimeglass/heard.h"

#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/march.h"
#include "runner.h"

rmg_status rmg_run_begin_heard(rmg_run *run, const rmg_board *board, const char *source,
                               const char *profile, const rmg_steps *steps)
{
    static const rmg_steps none = {(char *)"not known", (char *)"", NULL, 0};
    const rmg_plan plan = {.steps = steps ? steps : &none, .endless = true, .seed = 1};
    rmg_error error = {0};
    rmg_status status;

    status = rmg_run_begin(run, board, &plan, source, &error);
    rmg_error_free(&error);
    if (status != RMG_OK && status != RMG_ERR_RANGE)
        return status;
    /* nothing counts as tested, or left out, before that is reported */
    for (size_t i = 0; i < run->left_out_count; i++) {
        g_free(run->left_out[i].name);
        g_free(run->left_out[i].reason);
    }
    run->left_out_count = run->tested_count = run->first_memory_count = 0;
    run->tested_words = 0;
    memset(run->bank_words, 0, MAX(board->bank_count, 1) * sizeof *run->bank_words);
    run->heard = g_new0(rmg_heard, 1);
    run->own->pass_bits = g_new0(rmg_word, board->bank_count + 1);
    run->heard->profile = g_strdup(profile);
    run->heard->steps_known = steps != NULL;
    run->heard->directions = run->heard->addresses = true;
    run->heard->bits = g_new0(uint64_t, (board->bank_count + 1) * board->word_bits);
    run->heard->sockets = g_new0(uint64_t, MAX(board->socket_count, 1));
    run->heard->banks = g_new0(uint64_t, MAX(board->bank_count, 1));
    return run->status = RMG_OK;
}

static uint64_t sum(uint64_t a, uint64_t b)
{
    return a > UINT64_MAX - b ? UINT64_MAX : a + b;
}

/* The only bank in which a chip has these bits; RMG_NO_BANK: none, or several. */
static uint8_t only_bank(const rmg_board *board, rmg_word bits, uint16_t socket)
{
    uint8_t found = RMG_NO_BANK;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->bank == RMG_NO_BANK || rule->bank == found ||
            (socket != RMG_NO_SOCKET && rule->socket != socket) ||
            (bits && !(rmg_rule_bits(rule) & bits)))
            continue;
        if (found != RMG_NO_BANK)
            return RMG_NO_BANK;
        found = rule->bank;
    }
    return found;
}

static uint8_t bank_at(const rmg_board *board, rmg_addr address)
{
    for (size_t b = 0; b < board->bank_count; b++)
        if (rmg_where_holds(&board->bank_wheres[b], address))
            return (uint8_t)b;
    return RMG_NO_BANK;
}

/* The failure as the tally counts it: by bit where its direction is known. */
static void count(rmg_run *run, const rmg_report *report, uint8_t bank, rmg_word bits)
{
    rmg_tally *t = &run->tally;

    t->failing = sum(t->failing, report->count);
    t->failing_pass = sum(t->failing_pass, report->count);
    if (report->at) {
        t->address_and &= report->address;
        t->address_or |= report->address;
    }
    for (uint8_t i = 0; report->both && bank < t->bank_count && i < run->board->word_bits; i++) {
        rmg_bit_tally *bit = &t->bits[bank][i];

        if (!(bits >> i & 1u))
            continue;
        if (report->read >> i & 1u)
            bit->high = sum(bit->high, report->count);
        else
            bit->low = sum(bit->low, report->count);
    }
}

/* Into the failure sets: the word, or, where its address is not known, nothing. */
static rmg_status note(rmg_run *run, const rmg_report *report, rmg_word bits)
{
    const rmg_word high = report->both ? bits & report->read : bits;
    const rmg_word low = report->both ? bits & ~report->read : bits;

    if (report->at && bits) {
        rmg_failset_add(run->failures, report->address, high, low, 0);
        rmg_failset_add(run->own->pass_failures, report->address, high, low, 0);
    }
    return rmg_failset_starved(run->failures) || rmg_failset_starved(run->own->pass_failures)
               ? RMG_ERR_MEMORY
               : RMG_OK;
}

rmg_status rmg_run_hear(rmg_run *run, const rmg_report *report, const char *words)
{
    const rmg_board *board = run->board;
    rmg_heard *heard = run->heard;
    rmg_word bits = report->bits;
    uint8_t bank = report->bank;

    if (words && heard->first_count < RMG_HEARD_FIRST)
        heard->first[heard->first_count++] = g_strdup(words);
    if (report->at)
        bank = bank_at(board, report->address);
    if (bank == RMG_NO_BANK && (bits || report->socket != RMG_NO_SOCKET))
        bank = only_bank(board, bits, report->socket);
    if (report->socket != RMG_NO_SOCKET) {
        const rmg_word its = rmg_board_bits(board, bank, report->socket);

        bits = bits ? bits & its : its & (its - 1u) ? 0 : its;
    } else if (bank != RMG_NO_BANK) {
        bits &= rmg_board_bits(board, bank, RMG_NO_SOCKET);
    }
    heard->failures = sum(heard->failures, report->count);
    heard->directions &= report->both || report->of_rom;
    heard->addresses &= report->at || report->of_rom;
    count(run, report, bank, bits);
    for (uint8_t i = 0; i < board->word_bits; i++)
        if (bits >> i & 1u) {
            uint64_t *n = &heard->bits[(bank == RMG_NO_BANK ? board->bank_count : bank) *
                                           (size_t)board->word_bits +
                                       i];

            *n = sum(*n, report->count);
        }
    run->own->pass_bits[bank == RMG_NO_BANK ? board->bank_count : bank] |= bits;
    if (!bits && report->socket != RMG_NO_SOCKET)
        heard->sockets[report->socket] = sum(heard->sockets[report->socket], report->count);
    else if (!bits && bank != RMG_NO_BANK && !report->bits)
        heard->banks[bank] = sum(heard->banks[bank], report->count);
    else if (!bits)
        heard->unplaced = sum(heard->unplaced, report->count);
    return note(run, report, bits);
}

static gint by_first(gconstpointer a, gconstpointer b)
{
    return rmg_by_number(((const rmg_range *)a)->first, ((const rmg_range *)b)->first);
}

void rmg_run_hear_tested(rmg_run *run, rmg_range range)
{
    GArray *ranges = g_array_new(FALSE, FALSE, sizeof range);
    guint kept = 0;

    g_array_append_vals(ranges, run->tested, (guint)run->tested_count);
    g_array_append_val(ranges, range);
    g_array_sort(ranges, by_first);
    for (guint i = 1; i < ranges->len; i++) {
        rmg_range *last = &g_array_index(ranges, rmg_range, kept);
        const rmg_range next = g_array_index(ranges, rmg_range, i);

        if (next.first <= last->last || next.first == last->last + 1u)
            last->last = MAX(last->last, next.last);
        else
            g_array_index(ranges, rmg_range, ++kept) = next;
    }
    g_array_set_size(ranges, kept + 1u);
    run->heard->tested = true;
    run->tested_words = 0;
    g_free(run->tested);
    run->tested_count = ranges->len;
    run->tested = rmg_array_take(ranges);
    for (size_t i = 0; i < run->tested_count; i++)
        run->tested_words += run->tested[i].last - run->tested[i].first + 1u;
    for (size_t b = 0; b < run->board->bank_count; b++)
        run->bank_words[b] = rmg_run_bank_words(run, b);
}

rmg_status rmg_run_hear_pass(rmg_run *run, double seconds_wall)
{
    const rmg_stretch pass = {
        .passes = 1,
        .failing_passes = run->tally.failing_pass > 0,
        .failing_reads = run->tally.failing_pass,
        .failing_words = rmg_failset_words(run->own->pass_failures, NULL, (rmg_word) ~(rmg_word)0),
        .seconds_wall = seconds_wall,
        .seconds_target = -1,
        .heat_millic = RMG_NOT_KNOWN};
    uint64_t print = rmg_failset_fingerprint(run->own->pass_failures);
    rmg_status status;

    /* the bits too: reports without an address are in no failure set */
    for (size_t b = 0; b <= run->board->bank_count; b++)
        print = rmg_hash(print, run->own->pass_bits[b]);
    status = rmg_run_add_pass(run, &pass, print);
    if (status != RMG_OK)
        return status;
    rmg_tally_pass_end(&run->tally);
    rmg_failset_count_pass(run->failures, run->own->pass_failures);
    rmg_failset_empty(run->own->pass_failures);
    memset(run->own->pass_bits, 0, (run->board->bank_count + 1) * sizeof *run->own->pass_bits);
    run->seconds_wall = seconds_wall;
    return RMG_OK;
}

bool rmg_heard_replayable(const rmg_run *run)
{
    const rmg_heard *h = run->heard;

    return h->steps_known && h->addresses && !h->at_least && !h->unplaced && h->failures &&
           run->tested_count == 1 && run->complete;
}

uint64_t rmg_heard_count(const rmg_run *run, size_t bank, rmg_word bits)
{
    uint64_t count = 0;

    for (uint8_t i = 0; i < run->board->word_bits; i++)
        if (bits >> i & 1u)
            count = sum(count, run->heard->bits[bank * run->board->word_bits + i]);
    return count;
}

uint64_t rmg_heard_of_socket(const rmg_run *run, uint8_t bank, uint16_t socket)
{
    const rmg_board *board = run->board;

    return sum(rmg_heard_count(run, bank, rmg_board_bits(board, bank, socket)),
               rmg_board_bits(board, bank, socket) ? run->heard->sockets[socket] : 0);
}
