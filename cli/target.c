/* Targets by name: what --on can be, and what is wrong with it. */
#include "cli.h"

bool target_name_ok(const char *command_name, const char *on)
{
    rmg_error error = {0};

    if (!on)
        wrong_call(command_name, "say on what: --on sim:FAULTS.yaml, or --on sim: for a healthy "
                                 "simulated board");
    else if (rmg_target_check(on, &error) != RMG_OK)
        wrong_call(command_name, "--on %s", error.what);
    else
        return true;
    rmg_error_free(&error);
    return false;
}

/* Files have their errors line by line; anything else is an error of the call. */
static bool opened_well(const char *command_name, const char *on, rmg_status status,
                        const rmg_opened *target, rmg_errors *errors)
{
    if (status == RMG_ERR_FILE || status == RMG_ERR_CONTENT) {
        print_errors(errors);
    } else if (status != RMG_OK) {
        const char *what = errors->count ? errors->list[0].what : rmg_status_text(status);

        wrong_call(command_name, g_str_has_prefix(what, on) ? "--on %s" : "%s", what);
        rmg_errors_free(errors);
    } else if (*target->remark) {
        fprintf(stderr, "rimeglass %s: %s\n", command_name, target->remark);
    }
    return status == RMG_OK;
}

static bool stops(void *context)
{
    (void)context;
    return progress_stopped();
}

bool target_open(const char *command_name, const char *on, const rmg_board *board,
                 rmg_opened *target)
{
    rmg_errors errors = {0};
    const rmg_status status = rmg_target_open(on, board, target, &errors);

    rmg_target_stop_when(target, stops, NULL);
    return opened_well(command_name, on, status, target, &errors);
}

void target_close(const char *command_name, rmg_opened *target)
{
    const char *why = target->why ? target->why(target->self) : "";
    char *more = target->afterwards ? target->afterwards(target->self) : NULL;

    if (*why)
        fprintf(stderr, "rimeglass %s: the last error of the link: %s.\n", command_name, why);
    if (more)
        fprintf(stderr, "rimeglass %s: %s\n", command_name, more);
    rmg_text_free(more);
    rmg_target_close(target);
}

bool target_open_bare(const char *command_name, const char *on, const rmg_board *board,
                      uint16_t socket, rmg_opened *target)
{
    rmg_errors errors = {0};
    const rmg_status status = rmg_target_open_bare(on, board, socket, target, &errors);

    return opened_well(command_name, on, status, target, &errors);
}
