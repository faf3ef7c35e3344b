/* Inside the room: the open file. */
#ifndef RMG_HOST_JOB_INTERNAL_H
#define RMG_HOST_JOB_INTERNAL_H

#include <glib.h>
#include <sqlite3.h>

#include "base/internal.h"
#include "rimeglass/job.h"

struct rmg_job {
    gchar *file;
    sqlite3 *db;
    rmg_board *board;
    gchar *owner, *symptom, *begun;
};

/* measured.c: is it "SOCKET whole", "open" or "short"? Then *socket and *measured say so. */
bool rmg_job_at_socket(const rmg_board *board, const char *text, uint16_t *socket,
                       rmg_measured *measured);

/* Is it that, "A-B whole", "A-B open" or "POINT=still"? Takes it into the facts; RMG_ERR_CONTENT:
 * *error says what was expected. */
rmg_status rmg_job_measured(const rmg_board *board, const char *text, rmg_facts *facts,
                            rmg_error *error);

/* ... of all entries, whenever it was measured. To be freed with rmg_facts_end in any case. */
rmg_status rmg_job_facts(const rmg_board *board, const rmg_entry *entries, size_t count,
                         rmg_facts *facts, rmg_error *error);

/* together.c: is it "CHIP passes in PLACE" of a chip that the job knows, or mere words? Of a chip
 * with nearly such a name RMG_ERR_CONTENT. What all entries tell of chips outside this board; and
 * what that says of the causes. */
rmg_status rmg_job_check_elsewhere(const rmg_board *board, const rmg_entry *entries, size_t count,
                                   const char *text, rmg_error *error);
void rmg_job_take_elsewhere(rmg_job_state *state, const rmg_board *board, const rmg_entry *entries,
                            size_t count);
void rmg_job_weigh_elsewhere(const rmg_job_state *state, const rmg_board *board,
                             rmg_hypothesis *list, size_t count);

/* changes.c: changes told so far (of rmg_change, their texts its own): to be freed with
 * g_array_free; in memory of their own; more of them, as told. */
GArray *rmg_job_changes_new(void);
rmg_changes rmg_job_changes_copy(const GArray *changes);
rmg_status rmg_job_changes_add(const rmg_board *board, const char *text, GArray *to,
                               rmg_error *error);
/* Does what failed agree with none of the causes of a fault that is still there? */
bool rmg_job_something_else(const rmg_hypothesis *list, size_t count);

/* roms.c: what follows from the verifications of a job, state->elsewhere known. */
rmg_status rmg_job_think_roms(rmg_job *job, const rmg_entry *entries, size_t count,
                              rmg_job_state *state, rmg_error *error);
void rmg_job_roms_free(rmg_job_state *state);

/* store.c: the result of an entry as JSON, to be freed; NULL: it has none. */
char *rmg_job_result(rmg_job *job, int64_t number);

#endif
