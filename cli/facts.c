/* Typed-in facts, checked against the board. */
#include "facts.h"

bool facts_read(const char *verb, const fact_call *call, const rmg_board *board, rmg_facts *facts)
{
    rmg_errors errors = {0};
    rmg_error error = {0};

    rmg_facts_begin(facts);
    if (call->culprits && rmg_causes_load(call->culprits, &facts->causes, &errors) != RMG_OK) {
        print_errors(&errors);
        return false;
    }
    for (size_t i = 0; call->known_good && call->known_good[i]; i++)
        if (rmg_facts_known_good(facts, board, call->known_good[i], &error) != RMG_OK) {
            wrong_call(verb, "--known-good: %s", error.what);
            rmg_error_free(&error);
            return false;
        }
    for (size_t i = 0; call->continuous && call->continuous[i]; i++)
        if (rmg_facts_continuous(facts, board, call->continuous[i], &error) != RMG_OK) {
            wrong_call(verb, "--continuous: %s", error.what);
            rmg_error_free(&error);
            return false;
        }
    return true;
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
    g_free(call->culprits);
}
