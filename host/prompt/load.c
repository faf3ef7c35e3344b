/* A routine in the memory behind a prompt. */
#include "board/internal.h"
#include "internal.h"

static rmg_status start(void *context, uint32_t at, uint32_t end, uint32_t stack)
{
    rmg_prompt *p = context;
    const load_and_run *how = &p->profile->load;
    const unsigned shift = p->board->counts_bytes || p->board->word_bits == 8 ? 0 : 1;

    (void)end; /* the monitor's stack is used, and its own breakpoint */
    (void)stack;
    return rmg_prompt_start(p, &how->run, at >> shift, how->answer_ms);
}

static rmg_status fail(void *context, rmg_status status, const char *what)
{
    return rmg_prompt_fail(context, status, "%s", what);
}

/* The place, as the board has it. */
static rmg_loader_place place_of(const rmg_prompt *p)
{
    const load_and_run *how = &p->profile->load;
    const uint64_t more = ((uint64_t)1 << p->board->byte_shift) - 1u;
    rmg_loader_place place = how->place;

    place.memory = (rmg_range){rmg_board_word(p->board, how->first + more),
                               rmg_board_word(p->board, how->last - more)};
    place.told_in = "load-and-run";
    return place;
}

uint64_t rmg_prompt_load_accesses(const rmg_prompt *p)
{
    const rmg_loader_place place = place_of(p);

    return p->profile->load.known ? rmg_loader_accesses(p->board, &place) : 0;
}

rmg_status rmg_prompt_load(rmg_prompt *p, const rmg_range *within, rmg_range *memory)
{
    const rmg_loader_way way = {
        .bus = &p->bus, .context = p, .board = p->board, .start = start, .fail = fail};
    const rmg_loader_place place = place_of(p);

    if (!p->profile->load.known)
        return rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT, "its profile has no load-and-run");
    g_clear_pointer(&p->loader, rmg_loader_free);
    return rmg_loader_begin(&way, &place, within, &p->loader, memory);
}

rmg_loader *rmg_prompt_loader(const rmg_prompt *p)
{
    return p->loader;
}
