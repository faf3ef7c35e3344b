/* Typed-in facts, checked against the board. */
#include "facts.h"

/* Each text of an option. */
static bool read_each(const char *verb, const char *option, gchar **texts, const rmg_board *board,
                      rmg_status (*take)(rmg_facts *facts, const rmg_board *board, const char *text,
                                         rmg_error *error),
                      rmg_facts *facts)
{
    rmg_error error = {0};

    for (size_t i = 0; texts && texts[i]; i++)
        if (take(facts, board, texts[i], &error) != RMG_OK) {
            wrong_call(verb, "%s: %s", option, error.what);
            rmg_error_free(&error);
            return false;
        }
    return true;
}

bool facts_read(const char *verb, const fact_call *call, const rmg_board *board, rmg_facts *facts)
{
    rmg_errors errors = {0};

    rmg_facts_begin(facts);
    if (call->culprits && rmg_causes_load(call->culprits, &facts->causes, &errors) != RMG_OK) {
        print_errors(&errors);
        return false;
    }
    return read_each(verb, "--known-good", call->known_good, board, rmg_facts_known_good, facts) &&
           read_each(verb, "--continuous", call->continuous, board, rmg_facts_continuous, facts) &&
           read_each(verb, "--open", call->open, board, rmg_facts_not_continuous, facts) &&
           read_each(verb, "--activity", call->activity, board, rmg_facts_activity, facts);
}

bool facts_ok(const char *verb, const fact_call *call, const rmg_board *board)
{
    rmg_facts facts;
    const bool ok = facts_read(verb, call, board, &facts);

    rmg_facts_end(&facts);
    return ok;
}

void facts_free(fact_call *call)
{
    g_strfreev(call->known_good);
    g_strfreev(call->continuous);
    g_strfreev(call->open);
    g_strfreev(call->activity);
    g_free(call->culprits);
}
