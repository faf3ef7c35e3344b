/* Failures of a march element that are gathered by operation, to be reported as runs of words. */
#include "walk.h"

#include <string.h>

void rmg_walk_begin(rmg_walk *w, rmg_sim *sim, rmg_element_call *call, rmg_alike *alike)
{
    w->sim = sim;
    w->call = call;
    w->values[0] = call->background & call->mask;
    w->values[1] = ~call->background & call->mask;
    for (size_t i = 0; i < 2u * call->op_count && i < RUNS_MOST; i++)
        w->runs[i].words = 0;
    w->gathered = 0;
    w->told = 0;
    w->by_contents = w->by_pages = w->any_kept = false;
    w->words = w->kept = 0;
    w->page.operations = w->block.operations = 0;
    w->block.on = false;
    w->alike = alike;
    w->writes = false;
    for (uint8_t i = 0; i < call->op_count; i++)
        w->writes |= (call->ops[i] & OP_WRITE) != 0;
}

bool rmg_wrong_add(rmg_wrong *wrong, uint16_t which, rmg_word actual)
{
    unsigned n = 0;

    while (n < wrong->count && wrong->actual[n] != actual)
        n++;
    if (n == 2)
        return false;
    wrong->actual[n] = actual;
    wrong->which[n] = (uint16_t)(n < wrong->count ? wrong->which[n] | which : which);
    wrong->count = n == wrong->count ? n + 1u : wrong->count;
    return true;
}

void rmg_walk_fill(rmg_sim *sim, size_t lowest, rmg_addr count, const rmg_word *words, bool alike)
{
    uint8_t *const to = (uint8_t *)sim->words + (lowest << sim->word_log2);
    const size_t bytes = (size_t)count << sim->word_log2;
    const size_t given = alike ? 1u : 16u;

    for (size_t i = 0; i < given; i++)
        rmg_flat_store(sim, lowest + i, words[i]);
    for (size_t done = given << sim->word_log2; done < bytes; done *= 2)
        memcpy(to + done, to, done < bytes - done ? done : bytes - done);
}

/* The words of the page go to the runs; `whole`: as a page, which those of other pages can join. */
static void page_over(rmg_walk *w, bool whole)
{
    rmg_page_fails *p = &w->page;
    const uint32_t operations = p->operations;

    p->operations = 0; /* first: what follows comes here again */
    for (uint8_t i = 0; operations >> i; i++)
        for (unsigned n = 0; (operations >> i & 1u) && n < p->wrong[i].count; n++) {
            const uint16_t which = p->wrong[i].which[n];
            const unsigned from = whole ? 0 : (unsigned)__builtin_ctz(which);
            const unsigned to = whole ? 15u : 31u - (unsigned)__builtin_clz(which);

            rmg_walk_add(w, p->first + from, to - from + 1u, which, i, n, p->expected[i],
                         p->wrong[i].actual[n]);
        }
}

#define BLOCK       ((rmg_addr)64)
#define BLOCK_WORDS 8u /* that failed: the next block is gathered like this one */

/* Words of the next blocks are gathered in the same way while many of them fail. */
static void leave_block(rmg_walk *w, rmg_addr address)
{
    rmg_block_fails *b = &w->block;
    unsigned most = 0;

    for (uint8_t i = 0; b->operations >> i; i++)
        if (b->operations >> i & 1u) {
            const unsigned words = (unsigned)__builtin_popcountll(b->blocks[i].failing);

            most = words > most ? words : most;
        }
    b->on = most >= BLOCK_WORDS;
    rmg_walk_hand_over(w);
    b->first = address & ~(BLOCK - 1u);
}

static void add_to_block(rmg_walk *w, rmg_addr address, uint8_t operation, rmg_word expected,
                         rmg_word actual)
{
    rmg_block_fails *b = &w->block;
    rmg_mismatch_block *block = &b->blocks[operation];

    if (!(b->operations >> operation & 1u)) {
        block->first = b->first;
        block->operation = operation;
        block->expected = expected;
        block->failing = 0;
    }
    b->operations |= (uint32_t)1 << operation;
    block->failing |= (uint64_t)1 << (address - b->first);
    block->actual[address - b->first] = actual;
}

void rmg_walk_add_word(rmg_walk *w, rmg_addr address, uint8_t operation, rmg_word expected,
                       rmg_word actual)
{
    const rmg_addr low = (1u << RMG_SIM_PAGE_BITS) - 1u;
    const uint16_t which = (uint16_t)(1u << (address & low));
    rmg_page_fails *p = &w->page;

    if (w->block.on && (address & ~(BLOCK - 1u)) != w->block.first)
        leave_block(w, address);
    if (w->block.on) {
        add_to_block(w, address, operation, expected, actual);
        return;
    }
    if (p->operations && p->first != (address & ~low))
        page_over(w, true);
    p->first = address & ~low;
    if (!(p->operations >> operation & 1u))
        p->wrong[operation].count = 0;
    p->expected[operation] = expected;
    if (rmg_wrong_add(&p->wrong[operation], which, actual)) {
        p->operations |= (uint32_t)1 << operation;
        return;
    }
    page_over(w, false); /* more than two values */
    w->block.on = w->call->mismatch_block != NULL;
    if (w->block.on) {
        w->block.first = address & ~(BLOCK - 1u);
        add_to_block(w, address, operation, expected, actual);
        return;
    }
    p->first = address & ~low;
    p->wrong[operation].count = 0;
    rmg_wrong_add(&p->wrong[operation], which, actual);
    p->operations = (uint32_t)1 << operation;
}

/* What a word read wrongly first is handed over first: runs, which it may have begun in, come
 * before blocks. */
void rmg_walk_hand_over(rmg_walk *w)
{
    uint32_t blocks;

    if (w->page.operations)
        page_over(w, true);
    for (size_t i = 0; i < 2u * w->call->op_count && i < RUNS_MOST; i++) {
        if (w->runs[i].words)
            w->call->mismatch_run(w->call->sink_context, &w->runs[i]);
        w->runs[i].words = 0;
    }
    blocks = w->block.operations;
    w->block.operations = 0;
    for (uint8_t i = 0; blocks >> i; i++)
        if (blocks >> i & 1u)
            w->call->mismatch_block(w->call->sink_context, &w->block.blocks[i]);
}

void rmg_walk_add(rmg_walk *w, rmg_addr first, rmg_addr count, uint16_t which, uint8_t operation,
                  bool second, rmg_word expected, rmg_word actual)
{
    rmg_mismatch_run *run = &w->runs[2u * operation + second];
    const bool next =
        w->call->down ? first + count == run->first : run->first + run->words == first;

    if (run->words &&
        (!next || run->which != which || run->expected != expected || run->actual != actual))
        rmg_walk_hand_over(w);
    if (!run->words)
        *run = (rmg_mismatch_run){.first = first,
                                  .which = which,
                                  .operation = operation,
                                  .expected = expected,
                                  .actual = actual};
    run->first = w->call->down ? first : run->first;
    run->words += count;
}
