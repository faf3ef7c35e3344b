/* Inside the host library: what the failure set knows of a word, kept once for all words that
 * failed alike. A record is never changed; what is added to a word gives it another one. */
#ifndef RMG_HOST_FAIL_RECORD_H
#define RMG_HOST_FAIL_RECORD_H

#include <glib.h>

#include "rimeglass/failset.h"

typedef struct rmg_fail_record {
    rmg_word high, low; /* of all parts */
    guint count;
    rmg_fail_part parts[]; /* by step, then passes; no two with both the same */
} rmg_fail_record;

/* How the last step from one record to another went: most words go the same way. */
typedef struct rmg_fail_way {
    guint32 from, to; /* to 0: nothing is kept here */
    rmg_word high, low;
    uint64_t first;
} rmg_fail_way;

#define RMG_FAIL_WAYS  64u
#define RMG_FAIL_MARKS (1u << 21)

typedef struct rmg_fail_records {
    GPtrArray *list;   /* by number; 0 is the empty record */
    GHashTable *known; /* record to number */
    guint kept;        /* when records were last removed, */
    guint times;       /* so often that was: the others got other numbers */
    guint parts;       /* of all records in the list */
    bool crowded;      /* what is kept is nearly all that may be: no new records are made */
    bool starved;      /* there was no memory for a record */
    guint64 *marks;    /* [RMG_FAIL_MARKS / 64], where it is crowded: ones at the hashes of all
                          records, so that most that are not there are not looked for; or NULL */
    rmg_fail_way ways[RMG_FAIL_WAYS];
} rmg_fail_records;

void rmg_fail_records_begin(rmg_fail_records *records);
void rmg_fail_records_end(rmg_fail_records *records);
bool rmg_fail_records_any(const rmg_fail_records *records); /* were some made? */

/* Are there many more than were kept the last time? Then all with a 1 in `used` are kept (and the
 * empty one); `used` becomes the new numbers. */
bool rmg_fail_records_full(const rmg_fail_records *records);
void rmg_fail_records_keep(rmg_fail_records *records, guint32 *used);

static inline const rmg_fail_record *rmg_fail_record_at(const rmg_fail_records *records,
                                                        guint32 number)
{
    return records->list->pdata[number];
}

/* The number of the record with these parts (made where there is none); 0: there are too many, or
 * no memory, or there is no part. */
guint32 rmg_fail_record_of(rmg_fail_records *records, const rmg_fail_part *parts, size_t count);

/* The same of record `from` with these bits added; bits that it has are left as they are. */
guint32 rmg_fail_record_add(rmg_fail_records *records, guint32 from, rmg_word high, rmg_word low,
                            uint64_t first);

/* The same of record `from` with one more pass for these bits. */
guint32 rmg_fail_record_count(rmg_fail_records *records, guint32 from, rmg_word high, rmg_word low);

#endif
