/* Memory that the system gives as it is touched: a large block of which little is used costs only
 * that. */
#ifndef RMG_HOST_PAGES_H
#define RMG_HOST_PAGES_H

#include <stddef.h>

/* `bytes` of zeros, aligned for any type; NULL: there is not so much room for addresses. Given back
 * with rmg_pages_free. */
void *rmg_pages_new(size_t bytes);
void rmg_pages_free(void *pages);

/* A block that is about to be filled: where it is large, the system may give it in large pages. Not
 * for one that will grow: it would have to be copied then. */
void rmg_pages_filled_soon(void *block, size_t bytes);

/* The memory of this machine, in bytes; 1 GiB where it is not known. */
size_t rmg_machine_bytes(void);

#endif
