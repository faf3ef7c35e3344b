/* Inside the room that makes JSON and pictures of results. */
#ifndef RMG_HOST_REPORT_INTERNAL_H
#define RMG_HOST_REPORT_INTERNAL_H

#include "base/internal.h"
#include "rimeglass/report.h"

/* trial_words.c: a share in words that claim no certainty: "75 %", "more than 99 %". To be freed
 * with g_free. */
char *rmg_percent(double share);

/* suspect_json.c */
json_t *rmg_suspect_json(const rmg_board *board, const rmg_suspect *s);

/* testrom_words.c: sockets that hold a bit somewhere in a range: "U19", "U31 or U35". To be freed
 * with g_free. */
char *rmg_testrom_sockets(const rmg_board *board, const rmg_range *range, uint8_t bit);

#endif
