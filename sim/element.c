/* A whole march element on the simulated board: the same accesses as one by one, without a call for
 * each. */
#include "internal.h"

#define OP_ONE   0x01u
#define OP_WRITE 0x02u

typedef struct walk {
    rmg_sim *sim;
    rmg_element_call *call;
    rmg_word values[2]; /* "0" and "1" */
} walk;

/* One word access by access, from operation call->operation on. */
static void slow_word(const walk *w)
{
    rmg_element_call *call = w->call;

    for (; call->operation < call->op_count; call->operation++) {
        const uint8_t op = call->ops[call->operation];
        const rmg_word value = w->values[op & OP_ONE];

        if (op & OP_WRITE) {
            rmg_sim_write(w->sim, call->address, value);
        } else {
            const rmg_word actual = rmg_sim_read(w->sim, call->address) & call->mask;

            if (actual != value)
                call->mismatch(call->sink_context, call->address, call->operation, value, actual);
        }
    }
    call->operation = 0;
}

/* The words of a run of flat pages, one after another: `count` of type T from *word on. Compiled
 * for each size that words are packed to. */
#define WALK_WORDS(T)                                                                              \
    static void walk_##T(const walk *w, T *word, rmg_addr count)                                   \
    {                                                                                              \
        rmg_element_call *call = w->call;                                                          \
        const uint8_t ops = call->op_count;                                                        \
        const bool down = call->down;                                                              \
                                                                                                   \
        for (rmg_addr n = 0; n < count; n++) {                                                     \
            rmg_word held = (rmg_word)*word;                                                       \
                                                                                                   \
            for (uint8_t i = 0; i < ops; i++) {                                                    \
                const uint8_t op = call->ops[i];                                                   \
                const rmg_word value = w->values[op & OP_ONE];                                     \
                                                                                                   \
                if (op & OP_WRITE) {                                                               \
                    held = value & w->sim->mask;                                                   \
                } else if ((held & call->mask) != value) {                                         \
                    call->mismatch(call->sink_context,                                             \
                                   down ? call->address - n : (rmg_addr)(call->address + n), i,    \
                                   value, held & call->mask);                                      \
                }                                                                                  \
            }                                                                                      \
            *word = (T)held;                                                                       \
            word += down ? -1 : 1;                                                                 \
        }                                                                                          \
    }
WALK_WORDS(uint8_t)
WALK_WORDS(uint16_t)
WALK_WORDS(uint32_t)
WALK_WORDS(uint64_t)

/* `count` words in flat pages, beginning at the call's address. */
static void flat_words(const walk *w, size_t at, rmg_addr count)
{
    rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;
    const uint8_t ops = call->op_count;
    const bool down = call->down;
    const uint8_t last = call->ops[ops - 1u];
    const size_t last_at = down ? at - (size_t)(count - 1u) : at + (size_t)(count - 1u);
    uint64_t writes = 0;

    for (uint8_t i = 0; i < ops; i++)
        writes += (call->ops[i] & OP_WRITE) != 0;
    switch (sim->word_log2) {
    case 0:
        walk_uint8_t(w, (uint8_t *)sim->words + at, count);
        break;
    case 1:
        walk_uint16_t(w, (uint16_t *)sim->words + at, count);
        break;
    case 2:
        walk_uint32_t(w, (uint32_t *)sim->words + at, count);
        break;
    default:
        walk_uint64_t(w, (uint64_t *)sim->words + at, count);
    }
    sim->now_ns += count * ops * sim->access_ns;
    sim->reads += count * (ops - writes);
    sim->writes += count * writes;
    sim->driven_ns = sim->now_ns;
    sim->last_bus =
        last & OP_WRITE ? w->values[last & OP_ONE] & sim->mask : rmg_flat_load(sim, last_at);
    call->address =
        down ? (rmg_addr)(call->address - (count - 1u)) : (rmg_addr)(call->address + (count - 1u));
}

/* Is the page flat? One that is new becomes so: by itself where all its words are written before
 * they are read, else it is brought. */
static bool flat_page(const walk *w, const rmg_sim_window *window, size_t page, bool all_written)
{
    rmg_sim *sim = w->sim;

    if (sim->slow[page] == RMG_SLOW_NEW) {
        if (all_written)
            rmg_page_is_known(sim, page);
        else
            rmg_page_bring(sim, window, page);
    }
    return !sim->slow[page];
}

/* How many words from the call's address on lie in flat pages of one window, at most `most`. */
static rmg_addr flat_run(const walk *w, const rmg_sim_window *window, size_t at, rmg_addr most)
{
    const rmg_element_call *call = w->call;
    const bool writes = call->ops[0] & OP_WRITE;
    const rmg_addr room = call->down ? call->address - window->first : window->last - call->address;
    rmg_addr count = 0;

    if (most > room)
        most = room + 1u;
    while (count < most) {
        const size_t here = call->down ? at - (size_t)count : at + (size_t)count;
        const size_t in_page = here & ((1u << RMG_SIM_PAGE_BITS) - 1u);
        const rmg_addr rest = call->down ? in_page + 1u : (1u << RMG_SIM_PAGE_BITS) - in_page;
        const bool whole = rest == 1u << RMG_SIM_PAGE_BITS && most - count >= rest;

        if (!flat_page(w, window, here >> RMG_SIM_PAGE_BITS, whole && writes))
            break;
        count += rest;
    }
    return count < most ? count : most;
}

rmg_status rmg_sim_element(rmg_sim *sim, rmg_element_call *call)
{
    const walk w = {sim, call, {call->background & call->mask, ~call->background & call->mask}};
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const bool plain = !sim->board->mirror_count && !sim->board->pages.mask;

    for (rmg_addr done = 0;;) {
        const rmg_addr left = call->down ? call->address - end : end - call->address;
        const rmg_addr budget = call->words_a_call - done;
        const rmg_sim_window *window =
            plain && !call->operation ? rmg_sim_window_of(sim, call->address) : NULL;
        const size_t at = window ? window->offset + (size_t)(call->address - window->first) : 0;
        rmg_addr flat = 0;

        if (window)
            flat = flat_run(&w, window, at, left < budget ? left + 1u : budget);
        if (flat)
            flat_words(&w, at, flat);
        else
            slow_word(&w);
        done += flat ? flat : 1u;
        if (call->address == end)
            return RMG_OK;
        call->address =
            call->down ? (rmg_addr)(call->address - 1u) : (rmg_addr)(call->address + 1u);
        if (done >= call->words_a_call)
            return RMG_ERR_CANCELLED;
    }
}
