/* Inside the host library: paged memory as one stretch of addresses. */
#ifndef RMG_HOST_PAGING_H
#define RMG_HOST_PAGING_H

#include "rimeglass/board.h"
#include "rimeglass/bus.h"

/* A port around another that selects the page an address needs. */
typedef struct paging {
    const rmg_target *to;
    const rmg_board *board;
    rmg_word page; /* selected; count of pages while none is known */
    rmg_bus bus;
    rmg_target target;
} paging;

/* Makes p->target reach the board's words, pages included, through `to`. `p` must not move. */
void rmg_paging_begin(paging *p, const rmg_board *board, const rmg_target *to);

#endif
