/* Words in pages that faults mark: where what becomes of a word follows from what its chips hold,
 * the element is played on the first word that holds something, and the next ones get the same. */
#include "walk.h"

#include <string.h>

/* Stages at which a fault makes the same of the same word, wherever it is; where its address leads
 * is found for each word. */
#define BY_CONTENTS                                                                                \
    (RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS) | RMG_STAGE_BIT(SELECT) | RMG_STAGE_BIT(OTHERS) |  \
     RMG_STAGE_BIT(ENABLE) | RMG_STAGE_BIT(ARRAY) | RMG_STAGE_BIT(OUTPUT) | RMG_STAGE_BIT(ORDER) | \
     RMG_STAGE_BIT(INPUT) | RMG_STAGE_BIT(TAKING) | RMG_STAGE_BIT(SHORT))

/* Cells that fade, and those that keep what they came up with, would be by contents, too; but few
 * words are alike then. */
static bool fault_by_contents(const rmg_sim_fault *f)
{
    return f->kind != RMG_FAULT_WEAK && f->kind != RMG_FAULT_NO_WRITE &&
           !(rmg_fault_rows[f->kind].stages & ~BY_CONTENTS) &&
           !rmg_fault_is(f->kind, RMG_TRAIT_HISTORY) && f->kind != RMG_FAULT_STALE;
}

/* Does the rule's chip always drive all its lines? */
static bool drives_all(const rmg_sim_way *way)
{
    const uint32_t all = (uint32_t)(((uint64_t)1 << way->width) - 1u);

    return !way->gone && (way->drives & all) == all &&
           !(way->live & (RMG_STAGE_BIT(SELECT) | RMG_STAGE_BIT(OUTPUT) | RMG_STAGE_BIT(ORDER)));
}

bool rmg_by_contents(const rmg_sim *sim)
{
    unsigned lines = 0;

    if (sim->conditional || sim->force_count || sim->watch_count || sim->pairs.act ||
        (sim->bus_acts & ~RMG_STAGE_BIT(SHORT)) || !sim->apart_count || sim->apart_count > 64u)
        return false;
    for (uint16_t i = 0; i < sim->fault_count; i++)
        if (!fault_by_contents(&sim->faults[i]))
            return false;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];

        lines += way->width;
        if (lines > 64u || (sim->lively && !(way->still && sim->calm)) ||
            (sim->board->undriven == RMG_UNDRIVEN_HOLDS && !drives_all(way)))
            return false;
    }
    return true;
}

/* Do a page's addresses lead to cells that follow each other, in every chip that is apart? */
bool rmg_by_pages(const rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;
    const rmg_addr low = (1u << RMG_SIM_PAGE_BITS) - 1u;
    rmg_addr moved = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_where *where = &placement->rules[r].where;

        moved |= where->mask | where->first | ~where->last;
    }
    for (uint16_t i = 0; i < sim->fault_count; i++)
        if (rmg_fault_rows[sim->faults[i].kind].stages &
            (RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS)))
            moved |= sim->faults[i].lines;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];

        if (way->from || way->cell_mask < low || (way->acts & RMG_STAGE_BIT(ARRAY)))
            return false;
    }
    return !(moved & low);
}

static rmg_alike *place_of(const rmg_walk *w, const rmg_gathered *key)
{
    const uint64_t mixed =
        (key->flat ^ key->high << 5 ^ ~key->held << 9 ^ key->own << 3 ^ key->cells >> 8) *
        UINT64_C(0x9E3779B97F4A7C15);

    return &w->alike[mixed >> 56 ^ (key->cells & 0xFFu)];
}
_Static_assert(ALIKE_KEPT == 256, "places are eight bits of a number");

static bool same(const rmg_gathered *a, const rmg_gathered *b)
{
    return a->which == b->which && a->own == b->own && a->cells == b->cells && a->flat == b->flat &&
           a->held == b->held && a->high == b->high;
}

/* Accesses that were not made one by one: `words` of them with all operations. */
static void count_accesses(rmg_walk *w, rmg_addr words)
{
    const rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;
    uint64_t writes = 0, last_write = 0;

    for (uint8_t i = 0; i < call->op_count; i++)
        if (call->ops[i] & OP_WRITE) {
            writes++;
            last_write = i + 1u;
        }
    if (writes)
        sim->driven_ns =
            sim->now_ns + ((words - 1u) * call->op_count + last_write) * sim->access_ns;
    sim->now_ns += words * call->op_count * sim->access_ns;
    sim->reads += words * (call->op_count - writes);
    sim->writes += words * writes;
    sim->chipwise += words * call->op_count;
}

/* Do the flat words of a page, from `lowest` on, hold the same? */
static bool flat_alike(const rmg_sim *sim, size_t lowest)
{
    const uint8_t *words = (const uint8_t *)sim->words + (lowest << sim->word_log2);
    const size_t word = (size_t)1 << sim->word_log2;

    return memcmp(words, words + word, (word << RMG_SIM_PAGE_BITS) - word) == 0;
}

bool rmg_alike_page(rmg_walk *w, size_t at)
{
    rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;
    const rmg_addr more = (1u << RMG_SIM_PAGE_BITS) - 1u;
    const rmg_addr first = call->down ? call->address - more : call->address;
    const size_t lowest = call->down ? at - (size_t)more : at;
    const rmg_alike *known;
    rmg_gathered key;
    rmg_addr cells[64];

    if (!flat_alike(sim, lowest) || !rmg_chips_gather_page(sim, first, &key, cells))
        return false;
    key.flat = rmg_flat_load(sim, lowest);
    known = place_of(w, &key);
    if (!key.which || !same(&known->key, &key) ||
        (known->failed && (!call->mismatch_run || w->told < TOLD_FIRST)))
        return false;
    for (uint8_t i = 0; known->failed >> i; i++)
        if (known->failed >> i & 1u)
            rmg_walk_add(w, first, more + 1u, RMG_EVERY_WORD, i, false,
                         w->values[call->ops[i] & OP_ONE], known->actual[i]);
    if (known->cells != key.cells)
        rmg_chips_scatter_page(sim, key.which, known->cells, cells);
    if (known->flat != key.flat)
        rmg_walk_fill(sim, lowest, more + 1u, &known->flat, true);
    count_accesses(w, more + 1u);
    call->address = call->down ? first : first + more;
    sim->last_bus = known->last_bus;
    sim->last_address = call->address;
    return true;
}

bool rmg_alike_word(rmg_walk *w, size_t at, rmg_gathered *key)
{
    rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;
    const bool in_order = !call->mismatch_run || w->told < TOLD_FIRST;
    rmg_addr cells[64];
    const rmg_alike *known;

    rmg_chips_gather(sim, call->address, key, cells);
    key->flat = rmg_flat_load(sim, at);
    known = place_of(w, key);
    if (!key->which || !same(&known->key, key))
        return false;
    if (known->failed && in_order)
        rmg_walk_hand_over(w);
    for (uint8_t i = 0; known->failed >> i; i++) {
        const rmg_word value = w->values[call->ops[i] & OP_ONE];

        if (!(known->failed >> i & 1u))
            continue;
        if (in_order)
            call->mismatch(call->sink_context, call->address, i, value, known->actual[i]);
        else
            rmg_walk_add_word(w, call->address, i, value, known->actual[i]);
    }
    w->told += known->failed && in_order;
    if (known->cells != key->cells)
        rmg_chips_scatter(sim, key->which, known->cells, cells);
    if (known->flat != key->flat)
        rmg_flat_store(sim, at, known->flat);
    count_accesses(w, 1);
    sim->last_bus = known->last_bus;
    sim->last_address = call->address;
    return true;
}

void rmg_alike_keep(rmg_walk *w, size_t at, const rmg_gathered *key, uint32_t failed,
                    const rmg_word *actual)
{
    rmg_alike *kept = place_of(w, key);
    rmg_gathered after;
    rmg_addr cells[64];

    if (!key->which)
        return;
    rmg_chips_gather(w->sim, w->call->address, &after, cells);
    kept->key = *key;
    kept->cells = after.cells;
    kept->flat = rmg_flat_load(w->sim, at);
    kept->last_bus = w->sim->last_bus;
    kept->failed = failed;
    memcpy(kept->actual, actual, sizeof kept->actual);
}
