/* From the number that a board shows of its memory to the banks that are not in it. */
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"
#include "internal.h"

#define MOST_BANKS 12u /* of which all selections are tried */

/* Bytes of a bank's cells, in what the board counts in; cells beneath other memory are counted too,
 * as most boards that count do. */
static uint64_t worth(const rmg_reckoning *r, size_t bank)
{
    const rmg_where *w = &r->board->bank_wheres[bank];
    uint64_t words = (uint64_t)(w->last - w->first) + 1u;

    for (rmg_addr mask = w->mask; mask; mask &= mask - 1u)
        words /= 2u;
    words = words * r->board->word_bits / 8u;
    return r->kilo ? words / 1024u : words;
}

static uint64_t worth_of(const rmg_reckoning *r, uint64_t banks)
{
    uint64_t sum = 0;

    for (size_t b = 0; b < r->board->bank_count; b++)
        if (banks >> b & 1u)
            sum += worth(r, b);
    return sum;
}

static void add_cause(rmg_reckoning *r, rmg_reckon cause)
{
    for (size_t i = 0; i < r->count; i++)
        if (r->list[i].kind == cause.kind && r->list[i].banks == cause.banks)
            return;
    r->list = g_renew(rmg_reckon, r->list, r->count + 1u);
    r->list[r->count++] = cause;
}

static void add_try(rmg_reckoning *r, rmg_addr address)
{
    const rmg_region *region = rmg_board_region_at(r->board, address);

    for (size_t i = 0; i < r->board->region_count && (!region || region->kind != RMG_REGION_RAM);
         i++) /* the next word of RAM */
        if (r->board->regions[i].kind == RMG_REGION_RAM &&
            r->board->regions[i].range.first > address) {
            region = &r->board->regions[i];
            address = region->range.first;
        }
    for (size_t i = 0; i < r->try_count; i++)
        if (r->tries[i] == address)
            return;
    if (region && region->kind == RMG_REGION_RAM && r->try_count < RMG_RECKON_TRIES)
        r->tries[r->try_count++] = address;
}

/* The bank's first word in the given share of it: 0 the first of all, 1/2 the middle. */
static rmg_addr word_at(const rmg_board *board, size_t bank, unsigned numerator,
                        unsigned denominator)
{
    const rmg_where *w = &board->bank_wheres[bank];
    const rmg_addr words = w->last - w->first;
    rmg_addr found = w->first;

    rmg_next_match(w->first + (words / denominator + 1u) * numerator, w->mask, w->match, &found);
    return found <= w->last ? found : w->first;
}

/* Banks that together are what is missing: fewer of them first. */
static void find_silent(rmg_reckoning *r, uint64_t ram, uint64_t missing)
{
    const size_t banks = r->board->bank_count;

    for (size_t i = 1; i < r->board->report_count; i++)
        if (r->board->reports[i].number == r->number)
            add_cause(r, (rmg_reckon){.kind = RMG_RECKON_SILENT,
                                      .banks = ram & ~r->board->reports[i].present,
                                      .told = true});
    for (int size = 1; size <= (int)MIN(banks, MOST_BANKS); size++)
        for (uint64_t set = 1; set < (uint64_t)1 << MIN(banks, MOST_BANKS); set++)
            if ((set & ~ram) == 0 && __builtin_popcountll(set) == size &&
                worth_of(r, set) == missing)
                add_cause(r, (rmg_reckon){.kind = RMG_RECKON_SILENT, .banks = set});
}

/* Parts taken for smaller ones: in all banks, or in one. */
static void find_sized(rmg_reckoning *r, uint64_t ram, uint64_t missing)
{
    for (unsigned part = 2; part <= 4; part += 2) {
        const uint64_t left = part - 1u;

        if (worth_of(r, ram) / part * left == missing)
            add_cause(r, (rmg_reckon){.kind = RMG_RECKON_SIZED, .banks = ram, .part = part});
        for (size_t b = 0; b < r->board->bank_count; b++)
            if (ram >> b & 1u && worth(r, b) / part * left == missing)
                add_cause(r, (rmg_reckon){.kind = RMG_RECKON_SIZED,
                                          .banks = (uint64_t)1 << b,
                                          .part = part});
    }
}

/* Where a count of that much, from the lowest bank on, ends. */
static void find_end(rmg_reckoning *r, uint64_t ram, uint64_t counted)
{
    uint64_t done = 0;

    while (done != ram) {
        size_t next = r->board->bank_count;

        for (size_t b = 0; b < r->board->bank_count; b++)
            if ((ram & ~done) >> b & 1u &&
                (next == r->board->bank_count ||
                 r->board->bank_wheres[b].first < r->board->bank_wheres[next].first))
                next = b;
        if (counted < worth(r, next)) {
            const rmg_where *w = &r->board->bank_wheres[next];
            const uint64_t words = (uint64_t)(w->last - w->first) + 1u;
            const rmg_addr at =
                w->first + (rmg_addr)((double)counted / (double)worth(r, next) * (double)words);

            add_cause(r, (rmg_reckon){
                             .kind = RMG_RECKON_STOPPED, .banks = (uint64_t)1 << next, .at = at});
            return;
        }
        counted -= worth(r, next);
        done |= (uint64_t)1 << next;
    }
}

/* Where the board file tells which banks are missing at this number, others need not be guessed;
 * and without its first memory a board counts nothing. */
static void drop_unlikely(rmg_reckoning *r)
{
    const rmg_range *first = &r->board->first_memory;
    size_t kept = 0;

    for (size_t i = 0; i < r->count; i++) {
        bool likely =
            r->list[i].kind != RMG_RECKON_SILENT || r->list[i].told || !r->list[0].told || i == 0;

        for (size_t b = 0;
             likely && first->first <= first->last && r->count > 1 && !r->list[i].told &&
             r->list[i].kind == RMG_RECKON_SILENT && b < r->board->bank_count;
             b++)
            likely = !(r->list[i].banks >> b & 1u) ||
                     !rmg_where_holds(&r->board->bank_wheres[b], first->first);
        if (likely)
            r->list[kept++] = r->list[i];
    }
    if (kept)
        r->count = kept;
}

static void choose_tries(rmg_reckoning *r)
{
    for (size_t i = 0; i < r->count; i++)
        for (size_t b = 0; b < r->board->bank_count; b++) {
            if (!(r->list[i].banks >> b & 1u))
                continue;
            if (r->list[i].kind == RMG_RECKON_STOPPED) {
                add_try(r, r->list[i].at);
                if (r->list[i].at > r->board->bank_wheres[b].first)
                    add_try(r, r->list[i].at - 1u);
                continue;
            }
            if (r->list[i].kind == RMG_RECKON_SIZED)
                add_try(r, word_at(r->board, b, 1, r->list[i].part));
            add_try(r, word_at(r->board, b, 0, 1));
            add_try(r, word_at(r->board, b, 1, 2));
        }
}

void rmg_reckon_number(rmg_reckoning *r, const rmg_board *board, uint64_t number)
{
    const uint64_t ram = rmg_board_ram_banks(board);
    uint64_t total, missing;

    *r = (rmg_reckoning){.board = board, .number = number};
    total = worth_of(r, ram);
    r->healthy_told = board->report_count > 0;
    /* a number below the bytes by far counts something larger */
    r->kilo = r->healthy_told ? board->reports[0].number < total / 16u : number < total / 256u;
    total = worth_of(r, ram);
    r->healthy = r->healthy_told ? board->reports[0].number : total;
    missing = r->healthy > number ? r->healthy - number : 0;
    r->half = missing && (missing == total / 2u || number * 2u == r->healthy);
    if (!missing || !ram)
        return;
    find_silent(r, ram, missing);
    find_sized(r, ram, missing);
    if (!r->count && missing <= total)
        find_end(r, ram, total - missing);
    drop_unlikely(r);
    choose_tries(r);
}

void rmg_reckoning_end(rmg_reckoning *reckoning)
{
    g_free(reckoning->list);
    reckoning->list = NULL;
    reckoning->count = 0;
}

size_t rmg_symptom_next(const rmg_board *board, const char *words, size_t from)
{
    gchar *wanted = g_utf8_casefold(words, -1);
    gchar **each = g_strsplit(wanted, " ", -1);
    size_t found = board->symptom_count;

    for (size_t i = from; i < board->symptom_count && found == board->symptom_count; i++) {
        gchar *seen = g_utf8_casefold(board->symptoms[i].seen, -1);
        bool all = true;

        for (size_t n = 0; each[n]; n++)
            all &= strstr(seen, each[n]) != NULL;
        if (all)
            found = i;
        g_free(seen);
    }
    g_strfreev(each);
    g_free(wanted);
    return found;
}
