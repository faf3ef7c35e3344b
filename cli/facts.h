/* What the technician knows by other means, as typed in; and whether to replay. */
#ifndef RMG_CLI_FACTS_H
#define RMG_CLI_FACTS_H

#include "cli.h"
#include "rimeglass/suspect.h"

typedef struct fact_call {
    gchar **known_good, **continuous, **open, **activity;
    gchar *culprits;
    gboolean no_replay;
} fact_call;

/* Entries of a GOptionEntry list. */
#define FACT_OPTIONS(call)                                                                         \
    {"known-good",                                                                                 \
     0,                                                                                            \
     0,                                                                                            \
     G_OPTION_ARG_STRING_ARRAY,                                                                    \
     &(call)->known_good,                                                                          \
     "the chip in this socket is known to be good (repeatable)",                                   \
     "U5"},                                                                                        \
        {"continuous",                                                                             \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_STRING_ARRAY,                                                                \
         &(call)->continuous,                                                                      \
         "measured: these points of a traced line are connected (repeatable)",                     \
         "U1.30-R1"},                                                                              \
        {"open",                                                                                   \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_STRING_ARRAY,                                                                \
         &(call)->open,                                                                            \
         "measured: no connection between these points of a line (repeatable)",                    \
         "U1.30-R1"},                                                                              \
        {"activity",                                                                               \
         0,                                                                                        \
         0,                                                                                        \
         G_OPTION_ARG_STRING_ARRAY,                                                                \
         &(call)->activity,                                                                        \
         "seen with a probe: still, pulsing, high or low (repeatable)",                            \
         "U5.15=still"},                                                                           \
    {                                                                                              \
        "culprits", 0, 0, G_OPTION_ARG_FILENAME, &(call)->culprits,                                \
            "how often each cause is the culprit (explain --culprits)", "FILE"                     \
    }

/* Of commands that replay. */
#define REPLAY_OPTION(call)                                                                        \
    {                                                                                              \
        "no-replay", 0, 0, G_OPTION_ARG_NONE, &(call)->no_replay,                                  \
            "do not simulate the faults that could explain the failures", NULL                     \
    }

/* The facts, to be ended with rmg_facts_end in any case; false after saying what is wrong. */
bool facts_read(const char *verb, const fact_call *call, const rmg_board *board, rmg_facts *facts);
/* Only that: are they in order? */
bool facts_ok(const char *verb, const fact_call *call, const rmg_board *board);
void facts_free(fact_call *call);

#endif
