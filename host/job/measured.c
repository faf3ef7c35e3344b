/* What was measured, as it is told: facts about lines and chips, and evidence about the pins of
 * one. */
#include <string.h>

#include "internal.h"

bool rmg_job_at_socket(const rmg_board *board, const char *text, uint16_t *socket,
                       rmg_measured *measured)
{
    static const char *const states[] = {"whole", "open", "short", "leg bad", "pad bad", NULL};
    gchar **words = g_strsplit(text, " ", 2);
    bool found = false;

    *socket = words[0] ? rmg_board_socket(board, words[0]) : RMG_NO_SOCKET;
    for (unsigned i = 0; states[i] && words[0] && words[1]; i++)
        if (*socket != RMG_NO_SOCKET && strcmp(states[i], g_strstrip(words[1])) == 0) {
            *measured = (rmg_measured)i;
            found = true;
        }
    g_strfreev(words);
    return found;
}

rmg_status rmg_job_measured(const rmg_board *board, const char *text, rmg_facts *facts,
                            rmg_error *error)
{
    gchar **words = g_strsplit(text, " ", 2);
    const char *state = words[0] && words[1] ? g_strstrip(words[1]) : "";
    rmg_measured measured;
    uint16_t socket;
    rmg_status status;

    if (rmg_job_at_socket(board, text, &socket, &measured))
        status = RMG_OK; /* it is weighed, not taken as a fact */
    else if (strchr(text, '='))
        status = rmg_facts_activity(facts, board, text, error);
    else if (strcmp(state, "whole") == 0)
        status = rmg_facts_continuous(facts, board, words[0], error);
    else if (strcmp(state, "open") == 0)
        status = rmg_facts_not_continuous(facts, board, words[0], error);
    else if (strcmp(state, "good") == 0)
        status = rmg_facts_known_good(facts, board, words[0], error);
    else
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected a socket and whole, open, short, leg bad or pad bad "
                     "(U19 open), two points and whole or open (U1.9-U18.14 open), a point and "
                     "what a probe saw (U5.15=still), or a chip tested elsewhere (U19 good)",
                     text);
    if (status != RMG_OK)
        status = RMG_ERR_CONTENT;
    g_strfreev(words);
    return status;
}

rmg_status rmg_job_facts(const rmg_board *board, const rmg_entry *entries, size_t count,
                         rmg_facts *facts, rmg_error *error)
{
    rmg_status status = RMG_OK;

    rmg_facts_begin(facts);
    for (size_t i = 0; i < count && status == RMG_OK; i++)
        if (entries[i].kind == RMG_ENTRY_MEASURED && !entries[i].undone)
            status = rmg_job_measured(board, entries[i].text, facts, error);
    return status;
}
