/* Selecting pages: the write that the board file gives, before an access to another page. */
#include "paging.h"

/* Selects the page of `address`, and gives the address on the bus. */
static rmg_status select_page(paging *p, rmg_addr *address)
{
    const rmg_pages *pages = &p->board->pages;
    const rmg_word page = *address >> p->board->address_bits;
    rmg_status status;

    *address &= ((rmg_addr)1 << p->board->address_bits) - 1u;
    if (*address < pages->window.first || *address > pages->window.last || page == p->page)
        return RMG_OK;
    status = p->to->bus->write(p->to->context, pages->select, page & p->to->mask);
    if (status == RMG_OK)
        p->page = page;
    return status;
}

static rmg_status paged_read(void *context, rmg_addr address, rmg_word *value)
{
    paging *p = context;
    const rmg_status status = select_page(p, &address);

    return status == RMG_OK ? p->to->bus->read(p->to->context, address, value) : status;
}

static rmg_status paged_write(void *context, rmg_addr address, rmg_word value)
{
    paging *p = context;
    const rmg_status status = select_page(p, &address);

    return status == RMG_OK ? p->to->bus->write(p->to->context, address, value) : status;
}

static rmg_status paged_wait(void *context, uint32_t hold_us)
{
    paging *p = context;

    return p->to->bus->wait(p->to->context, hold_us);
}

static rmg_status paged_get(void *context, rmg_condition which, int32_t *value)
{
    const paging *p = context;

    return p->to->bus->get_condition(p->to->context, which, value);
}

static rmg_status paged_set(void *context, rmg_condition which, int32_t value)
{
    const paging *p = context;

    return p->to->bus->set_condition(p->to->context, which, value);
}

void rmg_paging_begin(paging *p, const rmg_board *board, const rmg_target *to)
{
    p->to = to;
    p->board = board;
    p->page = board->pages.count;
    p->target = *to;
    if (board->pages.count) {
        p->bus = (rmg_bus){.version = RMG_BUS_VERSION,
                           .read = paged_read,
                           .write = paged_write,
                           .wait = to->bus->wait ? paged_wait : NULL,
                           .get_condition = to->bus->get_condition ? paged_get : NULL,
                           .set_condition = to->bus->set_condition ? paged_set : NULL};
        p->target.bus = &p->bus;
        p->target.context = p;
    }
}
