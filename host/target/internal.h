/* Inside the room: a kind of target, by the list of kinds.h. */
#ifndef RMG_HOST_TARGET_INTERNAL_H
#define RMG_HOST_TARGET_INTERNAL_H

#include "base/internal.h"
#include "kinds.h"
#include "rimeglass/target.h"

/* A kind of target. Functions get what follows the prefix in a name. */
typedef struct rmg_target_kind {
    const char *prefix; /* "sim:" */
    const char *forms;  /* how its names look, for messages: "sim:, sim:FAULTS.yaml" */
    bool brings_board;
    /* NULL where the rest of the name is in order, else what was expected, as a new text */
    gchar *(*expected)(const char *rest);
    /* Fills what it has of `opened`, which is empty. Errors: one note of each. */
    rmg_status (*open)(const char *rest, const rmg_board *board, rmg_opened *opened, GArray *notes);
    /* The same of one chip in an adapter; NULL: it has none. */
    rmg_status (*open_bare)(const char *rest, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, GArray *notes);
} rmg_target_kind;

/* pod.c: one chip in the socket of a pod, whose name began with `prefix`; `map`: its file, or NULL.
 */
rmg_status rmg_open_pod(const char *prefix, const char *stream, const char *map,
                        const rmg_board *board, uint16_t socket, rmg_opened *opened, GArray *notes);

/* For kinds behind a stream: the time that one has to come about. */
#define RMG_CONNECT_MS 3000u

#define RMG_TARGET_ROW(name) extern const rmg_target_kind rmg_target_##name;
RMG_TARGETS(RMG_TARGET_ROW)
#undef RMG_TARGET_ROW

#endif
