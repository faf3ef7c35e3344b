/* The simulation's state kept and brought back: what changes, rows and marks, and of words and
 * cells as much as was touched. */
#include "internal.h"

#include <string.h>

/* What changes in a running simulation, apart from its memory block. */
typedef struct changing {
    uint8_t form; /* comes first, whatever follows */
    uint64_t now_ns, reads, writes, driven_ns, refresh_ns, heat_over_ns;
    rmg_word last_bus, page;
    rmg_addr last_address;
    uint32_t access_ns;
    int32_t supply_mv, heat_millic, heat_to_millic;
    uint8_t lively, was_lively, refreshed, watched;
} changing;

/* Which chips are flat by which faults: it decides whether words or cells are the truth. */
#define STATE_FORM 2u

/* Of the marks only which pages are known is kept: the others follow from the board and faults. */
static size_t marks_bytes(const rmg_sim *sim)
{
    return (sim->slow_bytes + 7u) / 8u;
}

static bool page_known(const rmg_sim *sim, size_t page)
{
    return !(sim->slow[page] & (RMG_SLOW_BOARD | RMG_SLOW_NEW));
}

/* Bytes between the simulation and a state, one way or the other. */
typedef struct stream {
    uint8_t *to;         /* saving; else NULL */
    const uint8_t *from; /* restoring */
} stream;

static void pass(stream *s, void *own, size_t bytes)
{
    if (s->to) {
        memcpy(s->to, own, bytes);
        s->to += bytes;
    } else {
        memcpy(own, s->from, bytes);
        s->from += bytes;
    }
}

static void pass_words(const rmg_sim *sim, stream *s)
{
    const size_t bytes = (size_t)1 << (RMG_SIM_PAGE_BITS + sim->word_log2);

    for (size_t page = 0; page < sim->slow_bytes; page++)
        if (page_known(sim, page))
            pass(s, (uint8_t *)sim->words + page * bytes, bytes);
}

/* Every block of cells that is known by the marks in `rows`, and how many bytes they are; `s` NULL:
 * only counted. */
static size_t pass_cells(const rmg_sim *sim, const uint8_t *rows, stream *s)
{
    size_t total = 0;

    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_sim_way *way = &sim->ways[r];
        const uint8_t *known = rows + (way->known - sim->rows);
        const size_t bytes = rmg_block_bytes(way);
        const size_t all = (((size_t)way->cell_mask + 1u) << way->cell_log2 >> 3) + 1u;

        if (rmg_rule_of_chip(sim, sim->board->placement->rules[r].socket) != r)
            continue;
        for (size_t b = 0; b <= (size_t)way->cell_mask >> RMG_SIM_BLOCK_BITS; b++) {
            const size_t here = all - b * bytes < bytes ? all - b * bytes : bytes;

            if (!((unsigned)known[b >> 3] >> (b & 7u) & 1u))
                continue;
            if (s)
                pass(s, (uint8_t *)way->cells + b * bytes, here);
            total += here;
        }
    }
    return total;
}

static size_t words_bytes(const rmg_sim *sim)
{
    size_t pages = 0;

    for (size_t page = 0; page < sim->slow_bytes; page++)
        pages += page_known(sim, page);
    return pages << (RMG_SIM_PAGE_BITS + sim->word_log2);
}

/* What stands before words and cells; its length does not change. */
static size_t head_bytes(const rmg_sim *sim)
{
    return sizeof(changing) + sim->fault_count * sizeof(rmg_sim_memory) + sim->rows_bytes +
           marks_bytes(sim);
}

size_t rmg_sim_state_bytes(const rmg_sim *sim)
{
    return head_bytes(sim) + words_bytes(sim) + pass_cells(sim, sim->rows, NULL);
}

void rmg_sim_save(const rmg_sim *sim, void *bytes)
{
    stream s = {bytes, NULL};
    changing c;

    memset(&c, 0, sizeof c);
    c.form = STATE_FORM;
    c.now_ns = sim->now_ns;
    c.reads = sim->reads;
    c.writes = sim->writes;
    c.driven_ns = sim->driven_ns;
    c.refresh_ns = sim->refresh_ns;
    c.heat_over_ns = sim->heat_over_ns;
    c.last_bus = sim->last_bus;
    c.last_address = sim->last_address;
    c.page = sim->page;
    c.access_ns = sim->access_ns;
    c.supply_mv = sim->supply_mv;
    c.heat_millic = sim->heat_millic;
    c.heat_to_millic = sim->heat_to_millic;
    c.lively = sim->lively;
    c.was_lively = sim->was_lively;
    c.refreshed = sim->refreshed;
    c.watched = sim->watch_count != 0;
    pass(&s, &c, sizeof c);
    pass(&s, sim->memories, sim->fault_count * sizeof *sim->memories);
    pass(&s, sim->rows, sim->rows_bytes);
    memset(s.to, 0, marks_bytes(sim));
    for (size_t page = 0; page < sim->slow_bytes; page++)
        s.to[page / 8u] |= (uint8_t)(page_known(sim, page) << page % 8u);
    s.to += marks_bytes(sim);
    pass_words(sim, &s);
    pass_cells(sim, sim->rows, &s);
}

/* Is a state as long as its marks say, and for pages that can be known? */
static bool state_fits(const rmg_sim *sim, const uint8_t *bytes, size_t count)
{
    const size_t memories = sim->fault_count * sizeof(rmg_sim_memory);
    const uint8_t *rows = bytes + sizeof(changing) + memories;
    size_t pages = 0;

    if (count < head_bytes(sim))
        return false;
    for (size_t page = 0; page < sim->slow_bytes; page++) {
        const bool known = (unsigned)rows[sim->rows_bytes + page / 8u] >> page % 8u & 1u;

        if (known && (sim->slow[page] & RMG_SLOW_BOARD))
            return false;
        pages += known;
    }
    return count == head_bytes(sim) + (pages << (RMG_SIM_PAGE_BITS + sim->word_log2)) +
                        pass_cells(sim, rows, NULL);
}

static void take_marks(rmg_sim *sim, const uint8_t *known, bool refreshed)
{
    for (size_t page = 0; page < sim->slow_bytes; page++) {
        uint8_t *slow = &sim->slow[page];

        *slow &= RMG_SLOW_BOARD | RMG_SLOW_FAULT;
        if (!(*slow & RMG_SLOW_BOARD) && !((unsigned)known[page / 8u] >> page % 8u & 1u))
            *slow |= RMG_SLOW_NEW;
        if (!refreshed)
            *slow |= RMG_SLOW_FOR_NOW;
    }
}

rmg_status rmg_sim_restore(rmg_sim *sim, const void *bytes, size_t count)
{
    stream s = {NULL, bytes};
    changing c;

    if (!state_fits(sim, bytes, count))
        return RMG_ERR_ARGUMENT;
    memcpy(&c, bytes, sizeof c);
    if (c.form != STATE_FORM || !c.access_ns || (c.heat_over_ns && c.heat_over_ns < 1000u) ||
        c.refreshed > 1)
        return RMG_ERR_ARGUMENT;
    if (!c.watched) {
        rmg_watch_over(sim);
    } else if (!sim->watch_count) {
        rmg_watch_begin(sim);
        rmg_sim_mark_faults(sim);
    }
    sim->now_ns = c.now_ns;
    sim->reads = c.reads;
    sim->writes = c.writes;
    sim->driven_ns = c.driven_ns;
    sim->refresh_ns = c.refresh_ns;
    sim->heat_over_ns = c.heat_over_ns;
    sim->last_bus = c.last_bus;
    sim->last_address = c.last_address;
    sim->page = c.page & sim->board->pages.mask;
    sim->access_ns = c.access_ns;
    sim->supply_mv = c.supply_mv;
    sim->heat_millic = c.heat_millic;
    sim->heat_to_millic = c.heat_to_millic;
    sim->lively = c.lively != 0;
    sim->was_lively = c.was_lively != 0;
    sim->refreshed = c.refreshed != 0;
    pass(&s, &c, sizeof c);
    pass(&s, sim->memories, sim->fault_count * sizeof *sim->memories);
    pass(&s, sim->rows, sim->rows_bytes);
    take_marks(sim, s.from, sim->refreshed);
    s.from += marks_bytes(sim);
    pass_words(sim, &s);
    sim->touched = words_bytes(sim) + pass_cells(sim, sim->rows, &s);
    sim->hot = sim->heat_millic > RMG_COOL_MILLIC || sim->heat_to_millic > RMG_COOL_MILLIC;
    sim->calm = sim->refreshed && !sim->hot;
    return RMG_OK;
}
