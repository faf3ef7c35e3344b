/* Inside the room that makes JSON and pictures of results. */
#ifndef RMG_HOST_REPORT_INTERNAL_H
#define RMG_HOST_REPORT_INTERNAL_H

#include "base/internal.h"
#include "rimeglass/report.h"

/* trial_words.c: a share in words that claim no certainty: "75 %", "more than 99 %". To be freed
 * with g_free. */
char *rmg_percent(double share);
/* trial_words.c: the cause of that number; with where it is, if there are several faults at once.
 * To be freed with rmg_text_free. */
char *rmg_cause_text(const rmg_board *board, const rmg_suspects *suspects,
                     const rmg_changes *changes, const rmg_hypothesis *list, size_t count,
                     size_t i);
/* trial_words.c: the number of the likeliest cause of the fault whose hypotheses begin at `i`: of
 * one that need not be there, the likeliest that it can be. */
size_t rmg_cause_to_say(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                        size_t i);

/* trial_words.c: adds a line with the likeliest cause of each fault but the first one, if there are
 * several at once; of those that are gone, none. */
void rmg_say_other_faults(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_changes *changes, const rmg_hypothesis *list, size_t count,
                          GPtrArray *lines);

/* causes_json.c: causes, and what to do next. */
json_t *rmg_causes_json(const rmg_board *board, const rmg_suspects *suspects,
                        const rmg_changes *changes, const rmg_hypothesis *list, size_t count);
json_t *rmg_advice_json(const rmg_board *board, const rmg_advice *advice, size_t count,
                        char *(*words)(const rmg_board *, const rmg_advice *));

/* job_rom_words.c */
json_t *rmg_job_roms_json(const rmg_board *board, const rmg_job_state *state);

/* suspect_json.c */
json_t *rmg_suspect_json(const rmg_board *board, const rmg_suspect *s);

/* testrom_words.c: sockets that hold a bit somewhere in a range: "U19", "U31 or U35". To be freed
 * with g_free. */
char *rmg_testrom_sockets(const rmg_board *board, const rmg_range *range, uint8_t bit);

#endif
