/* Inside the host library: the failure set as it is kept, page by page. */
#ifndef RMG_HOST_FAILSET_PAGE_H
#define RMG_HOST_FAILSET_PAGE_H

#include "fail_record.h"

#define PAGE_BITS  8u
#define PAGE_WORDS RMG_FAILSET_STRETCH
_Static_assert(PAGE_WORDS == 1u << PAGE_BITS, "a page is a stretch");

/* Words that failed alike need no record each: a chip that is dead fails in millions; of banks that
 * low address lines choose, in every other word, or fourth. */
typedef struct page {
    guint64 number;       /* address >> PAGE_BITS; key of the table */
    guint at;             /* its place among all pages */
    guint16 first, after; /* none but these, after - first, of the records below are other than 0 */
    guint32 *records;     /* [PAGE_WORDS], or NULL: */
    guint32 alike[16];    /* the records of its words, by their lowest four address bits */
} page;

/* Pages that follow each other and whose words have the same records; or one page. */
typedef struct page_run {
    guint first, count;
} page_run;

/* The pages by number; sorted when they are gone through, and parted into runs when words are
 * counted. */
typedef struct page_order {
    GPtrArray *pages;
    GArray *runs; /* of page_run */
    bool sorted, parted;
    page *recent; /* that was asked for last, or NULL */
} page_order;

struct rmg_failset {
    GHashTable *pages;
    page_order *order;
    rmg_fail_records records;
    guint64 lost;
};

/* The page with a number; NULL: there is none. */
page *rmg_failset_page(const rmg_failset *set, guint64 number);

/* The pages, rising; and parted into runs. */
const GPtrArray *rmg_failset_sorted(const rmg_failset *set);
const GArray *rmg_failset_runs(const rmg_failset *set);

/* The numbers of the pages of a run. */
guint64 rmg_run_first(const rmg_failset *set, const page_run *run);
guint64 rmg_run_last(const rmg_failset *set, const page_run *run);

/* The first run that ends at a number or behind it; NULL: there is none. */
const page_run *rmg_run_from(const rmg_failset *set, guint64 number);

static inline guint32 record_of(const page *p, size_t at)
{
    return p->records ? p->records[at] : p->alike[at & 15u];
}

/* Has every word of the page the same record? */
static inline bool is_uniform(const page *p)
{
    bool same = !p->records;

    for (size_t i = 1; i < 16; i++)
        same &= p->alike[i] == p->alike[0];
    return same;
}

#endif
