/* A whole march element on the simulated board: the same accesses as one by one, without a call for
 * each. */
#include "internal.h"
#include "walk.h"

#include <string.h>

#define CHUNK 1024u /* words that are looked at together, */
#define MANY  8192u /* where they hold the same or stand in pairs */

/* Words of flat pages: `count` of type T, compiled for each size that words are packed to;
 * one after another, from *word on. */
#define WALK_WORDS(T)                                                                              \
    static void walk_##T(rmg_walk *w, const rmg_laid *f, T *word, rmg_addr count)                  \
    {                                                                                              \
        rmg_element_call *call = w->call;                                                          \
        const uint8_t ops = call->op_count;                                                        \
        const bool down = call->down;                                                              \
                                                                                                   \
        for (rmg_addr n = 0; n < count; n++) {                                                     \
            const unsigned low = (unsigned)(down ? call->address - n : call->address + n) & 15u;   \
            rmg_word held = (rmg_word)*word;                                                       \
            bool failed = false;                                                                   \
                                                                                                   \
            for (uint8_t i = 0; i < ops; i++) {                                                    \
                const uint8_t op = call->ops[i];                                                   \
                const rmg_word value = w->values[op & OP_ONE];                                     \
                const rmg_word seen = rmg_laid_seen(f, low, held) & call->mask;                    \
                                                                                                   \
                if (op & OP_WRITE) {                                                               \
                    held = rmg_laid_taken(f, low, held, value) & w->sim->mask;                     \
                } else if (seen != value) {                                                        \
                    rmg_walk_wrong(w, down ? call->address - n : (rmg_addr)(call->address + n), i, \
                                   value, seen);                                                   \
                    failed = true;                                                                 \
                }                                                                                  \
            }                                                                                      \
            *word = (T)held;                                                                       \
            w->told += failed && rmg_walk_in_order(w);                                             \
            word += down ? -1 : 1;                                                                 \
        }                                                                                          \
    }
WALK_WORDS(uint8_t)
WALK_WORDS(uint16_t)
WALK_WORDS(uint32_t)
WALK_WORDS(uint64_t)

static void walk_words(rmg_walk *w, const rmg_laid *f, size_t at, rmg_addr count)
{
    void *words = w->sim->words;

    switch (w->sim->word_log2) {
    case 0:
        walk_uint8_t(w, f, (uint8_t *)words + at, count);
        break;
    case 1:
        walk_uint16_t(w, f, (uint16_t *)words + at, count);
        break;
    case 2:
        walk_uint32_t(w, f, (uint32_t *)words + at, count);
        break;
    default:
        walk_uint64_t(w, f, (uint64_t *)words + at, count);
    }
}

/* Words that hold the same: every operation does the same to each of them. */
static void words_alike(rmg_walk *w, rmg_laid *f, rmg_addr first, size_t lowest, rmg_addr count)
{
    const rmg_word held = rmg_laid_alike(w, f, first, count, rmg_flat_load(w->sim, lowest));

    if (w->writes)
        rmg_walk_fill(w->sim, lowest, count, &held, true);
}

/* Does it not matter what the words hold, or do `count` of them from the lowest on hold the same?
 */
static bool all_alike(const rmg_walk *w, const rmg_laid *f, size_t lowest, rmg_addr count)
{
    const rmg_element_call *call = w->call;
    const bool keeps = w->sim->keeps && (f->takes || w->sim->pairs.act || w->sim->moved_count);
    rmg_word seen = 0;

    if ((call->ops[0] & OP_WRITE) && !keeps)
        return true;
    for (unsigned i = 0; i < 16; i++)
        seen |= f->and[i];
    return rmg_flat_alike(w->sim, lowest, count, call->mask & seen);
}

/* `count` words from the call's address on. */
static void chunk(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count)
{
    rmg_element_call *call = w->call;
    const size_t lowest = call->down ? at - (size_t)(count - 1u) : at;
    uint32_t operations = 0;
    unsigned runs = 0;
    bool together;

    together = call->mismatch_run && call->op_count <= OPS_MOST && (f->alike || !f->takes) &&
               all_alike(w, f, lowest, count) &&
               rmg_laid_runs(w, f, rmg_flat_load(w->sim, lowest), &runs, &operations);
    if (operations && operations != w->gathered)
        rmg_walk_hand_over(w);
    w->gathered = operations ? operations : w->gathered;
    if (!together || (runs > 1 && w->told < TOLD_FIRST)) {
        /* the first failures are given in the order of accesses, which runs would change */
        const rmg_addr begin = together ? MIN_OF(count, TOLD_FIRST - w->told) : count;

        if (rmg_walk_in_order(w))
            rmg_walk_hand_over(w);
        walk_words(w, f, at, begin);
        if (begin < count) {
            const rmg_addr left = count - begin;

            words_alike(w, f, call->down ? call->address - (count - 1u) : call->address + begin,
                        call->down ? lowest : at + (size_t)begin, left);
        }
        return;
    }
    words_alike(w, f, call->down ? call->address - (count - 1u) : call->address, lowest, count);
}

/* One word access by access, from operation call->operation on; *failed gets ones at operations
 * that did, `read` what they gave. */
static void play_word(rmg_walk *w, uint32_t *failed, rmg_word *read)
{
    rmg_element_call *call = w->call;

    *failed = 0;
    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    for (; call->operation < call->op_count; call->operation++) {
        const uint8_t op = call->ops[call->operation];
        const rmg_word value = w->values[op & OP_ONE];
        rmg_word actual;

        if (op & OP_WRITE) {
            rmg_sim_write(w->sim, call->address, value);
            continue;
        }
        actual = rmg_sim_read(w->sim, call->address) & call->mask;
        if (actual == value)
            continue;
        *failed |= (uint32_t)1 << (call->operation & (OPS_MOST - 1u));
        read[call->operation & (OPS_MOST - 1u)] = actual;
        rmg_walk_wrong(w, call->address, call->operation, value, actual);
    }
    w->told += *failed && rmg_walk_in_order(w);
    call->operation = 0;
}

#define KEPT_MOST                                                                                  \
    (2u * ALIKE_KEPT) /* words that are kept, beside a quarter of all: else few are alike */

/* Words of a page that hold what others held, from the call's on, at most `most`; the call is left
 * at the last of them. Returns how many; behind them *key is what the next one holds. */
static rmg_addr alike_words(rmg_walk *w, size_t at, rmg_addr most, rmg_gathered *key)
{
    rmg_element_call *call = w->call;
    const size_t in_page = at & ((1u << RMG_SIM_PAGE_BITS) - 1u);
    const rmg_addr left = call->down ? in_page + 1u : (1u << RMG_SIM_PAGE_BITS) - in_page;
    const rmg_addr first = call->address;
    rmg_addr n = 0;

    for (most = MIN_OF(most, left); n < most; n++) {
        call->address = call->down ? first - n : first + n;
        if (!rmg_alike_word(w, call->down ? at - (size_t)n : at + (size_t)n, key))
            break;
    }
    if (n)
        call->address = call->down ? first - (n - 1u) : first + (n - 1u);
    return n;
}

/* Words that are not flat, at `at` among the flat words of their window if they have one, at most
 * `most`; the call is left at the last. Returns how many. */
static rmg_addr slow_words(rmg_walk *w, const rmg_sim_window *window, size_t at, rmg_addr most)
{
    const rmg_element_call *call = w->call;
    const rmg_addr page = 1u << RMG_SIM_PAGE_BITS;
    const bool by_contents = w->by_contents && window && !call->operation &&
                             w->sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT;
    rmg_word read[OPS_MOST] = {0};
    rmg_gathered key;
    rmg_addr count = 0;
    uint32_t failed;

    if (w->timed && window && !call->operation &&
        w->sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT) {
        rmg_walk_timed(w, at);
        return 1;
    }
    if (by_contents && !w->any_kept) {
        for (unsigned i = 0; i < ALIKE_KEPT; i++)
            w->alike[i].key.which = 0;
        w->any_kept = true;
    }
    if (by_contents && w->by_pages && most >= page &&
        !((call->down ? ~call->address : call->address) & (page - 1u)) && rmg_alike_page(w, at))
        return page;
    if (by_contents)
        count = alike_words(w, at, most, &key);
    if (count)
        return count;
    play_word(w, &failed, read);
    if (by_contents) {
        rmg_alike_keep(w, at, &key, failed, read);
        w->by_contents = ++w->kept < KEPT_MOST + w->words / 4u;
    }
    return 1;
}

/* Words that stand in pairs from the call's address on, as ones by their lowest four address bits,
 * and for how many words, of *most. */
static uint16_t paired_run(const rmg_walk *w, rmg_addr *most)
{
    const rmg_where *where = &w->sim->pairs.where;
    uint16_t which = 0;

    *most = rmg_same_run(where, w->call->address, w->call->down, *most);
    for (unsigned n = 0; n < 16 && rmg_reaches(where, w->call->address); n++)
        which = (uint16_t)(which | (unsigned)!((n ^ where->match) & where->mask & 15u) << n);
    return which;
}

/* What stands beside or instead of words that are looked at together. */
typedef struct around {
    uint16_t paired; /* ones at those that stand in pairs, by their lowest four address bits */
    rmg_moved_here moved;
    rmg_word late;      /* bits that the first operation on the word meets elsewhere, */
    rmg_addr elsewhere; /* at this address */
    bool stale, stray;  /* a chip gives what it gave before; one drives at every read */
} around;

/* What it is from the call's address on. Returns for how many words, of `most`. */
static rmg_addr look_around(const rmg_walk *w, rmg_laid *f, rmg_addr most, around *a)
{
    const rmg_sim *sim = w->sim;
    const rmg_addr from = w->call->address;
    const bool down = w->call->down;

    a->paired = sim->pairs.act ? paired_run(w, &most) : 0;
    most = rmg_moved_run(sim, from, down, most, &a->moved);
    a->late = rmg_late_run(sim, from, down, &most, &a->elsewhere);
    rmg_touching_run(sim, f, from, down, &most);
    a->stale = rmg_stale_run(sim, from, down, &most);
    a->stray = sim->stray.count != 0;
    return rmg_stray_run(sim, from, down, most);
}

/* How many words from the call's address on, of `most`, are looked at together. */
static rmg_addr looked_at(const rmg_walk *w, const rmg_laid *f, const around *a, size_t at,
                          rmg_addr most)
{
    const rmg_addr many = MIN_OF(most, MANY);
    const bool plain = !a->late && !a->stale && !a->moved.bits && !a->stray;

    if (a->paired || (many > CHUNK && plain &&
                      all_alike(w, f, w->call->down ? at - (size_t)(many - 1u) : at, many)))
        return many;
    return MIN_OF(most, CHUNK);
}

/* `count` words from the call's address on, the first at `at`. */
static void walk_around(rmg_walk *w, rmg_laid *f, const around *a, size_t at, rmg_addr count)
{
    if (a->paired)
        rmg_walk_pairs(w, at, count, a->paired);
    else if (a->late)
        rmg_walk_late(w, f, at, a->late, a->elsewhere);
    else if (a->stale)
        rmg_walk_stale(w, f, at, count);
    else if (a->moved.bits)
        rmg_walk_moved(w, f, at, count, &a->moved);
    else if (a->stray && !rmg_stray_lay(w, f, count))
        rmg_walk_stray(w, at, count);
    else
        chunk(w, f, at, count);
}

/* What is on the bus after the call's word, at `at`. */
static rmg_word bus_after(const rmg_walk *w, const rmg_laid *f, const around *a, size_t at)
{
    const rmg_element_call *call = w->call;
    const uint8_t last = call->ops[call->op_count - 1u];
    rmg_sim *sim = w->sim;
    rmg_word word;

    if (last & OP_WRITE)
        return rmg_chips_bus(sim, call->address, w->values[last & OP_ONE] & sim->mask) & sim->mask;
    if (a->stale)
        return f->last;
    word = rmg_moved_load(sim, call->address, at, rmg_pairs_load(sim, call->address, at));
    if (a->stray)
        return rmg_stray_load(sim, call->address, word);
    if (a->late && call->op_count == 1)
        word = (word & ~a->late) |
               (rmg_flat_load(sim, rmg_flat_place(sim, call->address, at, a->elsewhere)) & a->late);
    return rmg_laid_seen(f, (unsigned)call->address & 15u, word);
}

/* `count` words in flat pages, beginning at the call's address; it is left at the last of them. */
static void flat_words(rmg_walk *w, size_t at, rmg_addr count)
{
    rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;
    const uint8_t ops = call->op_count;
    const bool down = call->down;
    uint64_t writes = 0, after = 0; /* operations after the last write */
    rmg_addr laid = 0;              /* words for which it stays as forced as it is */
    rmg_laid f;

    for (uint8_t i = 0; i < ops; i++) {
        writes += (call->ops[i] & OP_WRITE) != 0;
        after = call->ops[i] & OP_WRITE ? 0 : after + 1u;
    }
    sim->now_ns += count * ops * sim->access_ns;
    sim->reads += count * (ops - writes);
    sim->writes += count * writes;
    for (rmg_addr done = 0; done < count;) {
        const size_t here = down ? at - (size_t)done : at + (size_t)done;
        rmg_addr run;
        around a;

        if (!laid)
            laid = rmg_laid_over(w, &f, count - done);
        run = look_around(w, &f, laid, &a);
        run = looked_at(w, &f, &a, here, run);
        walk_around(w, &f, &a, here, run);
        laid = sim->pairs.act || a.stray || a.stale ? 0 : laid - run;
        done += run;
        call->address =
            down ? (rmg_addr)(call->address - (run - 1u)) : (rmg_addr)(call->address + (run - 1u));
        rmg_late_note(sim, call->address);
        if (done < count) {
            call->address += down ? (rmg_addr) ~(rmg_addr)0 : 1u;
            continue;
        }
        sim->last_bus =
            bus_after(w, &f, &a, down ? here - (size_t)(run - 1u) : here + (size_t)(run - 1u));
        for (unsigned back = 0; back < 16u && back < run; back++) {
            /* as access by access: what is forced may drive nothing */
            const rmg_addr word = down ? call->address + back : call->address - back;
            const uint64_t since = (uint64_t)back * ops * sim->access_ns;

            if (writes || !f.some[word & 15u]) {
                sim->driven_ns =
                    sim->now_ns - since - (f.some[word & 15u] ? after * sim->access_ns : 0);
                break;
            }
        }
    }
}

/* Is the page flat? One that is new becomes so: by itself where all its words are written before
 * they are read, else it is brought. */
static bool flat_page(const rmg_walk *w, const rmg_sim_window *window, size_t page,
                      bool all_written)
{
    rmg_sim *sim = w->sim;

    if ((sim->slow[page] & (uint8_t)~RMG_SLOW_NEW) && !rmg_pairs_flat(sim, window, page))
        return false;
    if (sim->slow[page] & RMG_SLOW_NEW) {
        if (all_written)
            rmg_page_is_known(sim, page);
        else
            rmg_page_bring(sim, window, page);
    }
    return true;
}

/* Marks of eight pages that are flat all the same, because pairs are all there is in them. */
static uint64_t paired_marks(const rmg_sim *sim, rmg_addr first, rmg_addr last)
{
    const rmg_sim_pairs *p = &sim->pairs;

    return p->act && ((p->own.first <= first && last <= p->own.last) ||
                      (p->where.first <= first && last <= p->where.last))
               ? UINT64_C(0x0101010101010101) * RMG_SLOW_FAULT
               : 0;
}

/* How many words from the call's address on lie in pages that nothing is to be done for, eight by
 * eight, at most `most`. */
static rmg_addr flat_pages(const rmg_sim *sim, const rmg_element_call *call, size_t at,
                           rmg_addr most)
{
    const rmg_addr words = 8u << RMG_SIM_PAGE_BITS;
    const size_t in_page = at & ((1u << RMG_SIM_PAGE_BITS) - 1u);
    size_t page = at >> RMG_SIM_PAGE_BITS;
    rmg_addr count = 0;

    if (in_page != (call->down ? (1u << RMG_SIM_PAGE_BITS) - 1u : 0))
        return 0;
    for (; most - count >= words; count += words, page = call->down ? page - 8u : page + 8u) {
        const rmg_addr first =
            call->down ? call->address - count - (words - 1u) : call->address + count;
        uint64_t marks;

        memcpy(&marks, &sim->slow[call->down ? page - 7u : page], sizeof marks);
        if (marks & ~paired_marks(sim, first, first + (words - 1u)))
            break;
    }
    return count;
}

/* How many words from the call's address on lie in flat pages of one window, at most `most`. */
static rmg_addr flat_run(rmg_walk *w, const rmg_sim_window *window, size_t at, rmg_addr most)
{
    const rmg_element_call *call = w->call;
    const bool writes = (call->ops[0] & OP_WRITE) && !w->sim->late.act;
    const rmg_addr room = call->down ? call->address - window->first : window->last - call->address;
    rmg_addr count = 0;

    if (most > room)
        most = room + 1u;
    count = flat_pages(w->sim, call, at, most);
    while (count < most) {
        const size_t here = call->down ? at - (size_t)count : at + (size_t)count;
        const size_t in_page = here & ((1u << RMG_SIM_PAGE_BITS) - 1u);
        const rmg_addr rest = call->down ? in_page + 1u : (1u << RMG_SIM_PAGE_BITS) - in_page;
        const bool whole = rest == 1u << RMG_SIM_PAGE_BITS && most - count >= rest;
        const rmg_addr from = call->down ? call->address - count : call->address + count;

        if (!flat_page(w, window, here >> RMG_SIM_PAGE_BITS,
                       whole && writes && !rmg_force_keeps(w->sim, from)))
            break;
        count += rest;
    }
    return count < most ? count : most;
}

rmg_status rmg_sim_element(rmg_sim *sim, rmg_element_call *call)
{
    rmg_alike alike[ALIKE_KEPT];
    rmg_walk w;
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const bool plain = !sim->board->mirror_count && !sim->board->pages.mask;

    rmg_walk_begin(&w, sim, call, alike);
    w.by_contents = call->op_count <= OPS_MOST && rmg_by_contents(sim);
    w.by_pages = w.by_contents && rmg_by_pages(sim);
    w.timed = rmg_timed_words(sim);
    for (rmg_addr done = 0;;) {
        const rmg_addr left = call->down ? call->address - end : end - call->address;
        const rmg_addr budget = call->words_a_call - done;
        const rmg_sim_window *window =
            plain && !call->operation ? rmg_sim_window_of(sim, call->address) : NULL;
        const size_t at = window ? window->offset + (size_t)(call->address - window->first) : 0;
        rmg_addr run = 0;

        if (window)
            run = flat_run(&w, window, at, left < budget ? left + 1u : budget);
        if (run)
            run = rmg_watch_run(sim, call, run);
        if (run) {
            flat_words(&w, at, run);
            rmg_watch_ran(sim, call, run);
        } else {
            run = slow_words(&w, window, at, left < budget ? left + 1u : budget);
        }
        done += run;
        w.words = done;
        if (call->address == end) {
            rmg_walk_hand_over(&w);
            return RMG_OK;
        }
        call->address =
            call->down ? (rmg_addr)(call->address - 1u) : (rmg_addr)(call->address + 1u);
        if (done >= call->words_a_call) {
            rmg_walk_hand_over(&w);
            return RMG_ERR_CANCELLED;
        }
    }
}
