/* Targets by name: what --on can be. */
#include <string.h>

#include "cli.h"

bool target_name_ok(const char *command_name, const char *on)
{
    if (!on)
        wrong_call(command_name, "say on what: --on sim:FAULTS.yaml, or --on sim: for a healthy "
                                 "simulated board");
    else if (!g_str_has_prefix(on, "sim:"))
        wrong_call(command_name, "--on %s: expected sim: or sim:FAULTS.yaml", on);
    else
        return true;
    return false;
}

bool target_open(const char *command_name, const char *on, const rmg_board *board,
                 rmg_sim_board_run *sim)
{
    const char *faults = on + strlen("sim:");
    rmg_mistakes mistakes = {0};
    const rmg_status status = rmg_sim_board_begin(sim, board, *faults ? faults : NULL, &mistakes);

    if (mistakes.count)
        print_mistakes(&mistakes);
    else if (status != RMG_OK)
        wrong_call(command_name, "%s cannot be simulated: %s", board->file,
                   rmg_status_text(status));
    return status == RMG_OK;
}
