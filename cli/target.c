/* Targets by name: what --on can be. */
#include <string.h>

#include "cli.h"

/* "64M" in bytes. */
static bool read_size(const char *text, uint64_t *bytes)
{
    static const struct {
        char unit;
        unsigned shift;
    } units[] = {{'K', 10}, {'M', 20}, {'G', 30}};
    char *end;
    const guint64 number = g_ascii_strtoull(text, &end, 10);

    for (size_t i = 0; end != text && i < G_N_ELEMENTS(units); i++)
        if (*end == units[i].unit && !end[1] && number && number < (guint64)1 << 20) {
            *bytes = number << units[i].shift;
            return true;
        }
    return false;
}

/* "ram:SIZE[,threads=N][,unflushed]" */
static bool read_ram(const char *on, rmg_ram_want *want)
{
    gchar **words = g_strsplit(on + strlen("ram:"), ",", -1);
    bool ok = words[0] && read_size(words[0], &want->bytes);

    want->threads = 1;
    for (size_t i = 1; ok && words[i]; i++) {
        uint64_t number = 0;

        if (strcmp(words[i], "unflushed") == 0)
            want->unflushed = true;
        else if (g_str_has_prefix(words[i], "threads=") &&
                 rmg_number_parse(words[i] + strlen("threads="), &number) && number &&
                 number <= RMG_RAM_THREADS)
            want->threads = (unsigned)number;
        else
            ok = false;
    }
    g_strfreev(words);
    return ok;
}

bool target_is_ram(const char *on)
{
    return on && g_str_has_prefix(on, "ram:");
}

bool target_name_ok(const char *command_name, const char *on)
{
    rmg_ram_want want = {0};

    if (!on)
        wrong_call(command_name, "say on what: --on sim:FAULTS.yaml, or --on sim: for a healthy "
                                 "simulated board");
    else if (target_is_ram(on) && !read_ram(on, &want))
        wrong_call(command_name,
                   "--on %s: expected ram:SIZE like ram:64M or ram:2G, perhaps with ,threads=N "
                   "(1 to %u) and ,unflushed",
                   on, RMG_RAM_THREADS);
    else if (!target_is_ram(on) && !g_str_has_prefix(on, "sim:"))
        wrong_call(command_name, "--on %s: expected sim:, sim:FAULTS.yaml or ram:SIZE", on);
    else
        return true;
    return false;
}

static bool open_ram(const char *command_name, const char *on, bench_target *target)
{
    rmg_ram_want want = {0};
    rmg_status status;

    read_ram(on, &want);
    status = rmg_ram_open(&want, &target->ram, &target->remark);
    if (status != RMG_OK) {
        wrong_call(command_name, "--on %s: %s", on,
                   target->remark ? target->remark : rmg_status_text(status));
        rmg_text_free(target->remark);
        target->remark = NULL;
        return false;
    }
    target->target = rmg_ram_target(target->ram);
    if (*target->remark)
        fprintf(stderr, "rimeglass %s: %s\n", command_name, target->remark);
    return true;
}

bool target_open(const char *command_name, const char *on, const rmg_board *board,
                 bench_target *target)
{
    const char *faults = on + strlen("sim:");
    rmg_mistakes mistakes = {0};
    rmg_status status;

    memset(target, 0, sizeof *target);
    if (target_is_ram(on))
        return open_ram(command_name, on, target);
    target->simulated = true;
    status = rmg_sim_board_begin(&target->sim, board, *faults ? faults : NULL, &mistakes);
    if (mistakes.count)
        print_mistakes(&mistakes);
    else if (status != RMG_OK)
        wrong_call(command_name, "%s cannot be simulated: %s", board->file,
                   rmg_status_text(status));
    target->target = target->sim.target;
    return status == RMG_OK;
}

void target_close(bench_target *target)
{
    if (target->simulated)
        rmg_sim_board_end(&target->sim);
    rmg_ram_close(target->ram);
    memset(target, 0, sizeof *target);
}

rmg_board *target_ram_board(const bench_target *target)
{
    const uint64_t bytes = rmg_ram_bytes(target->ram);
    rmg_mistakes mistakes = {0};
    rmg_board *board;
    unsigned lines = 5;
    gchar *text;

    while ((bytes - 1u) >> lines)
        lines++;
    text = g_strdup_printf("board: this machine's memory\nword: 64\naddress-lines: %u\n"
                           "regions: [{name: locked memory, range: 0x0-0x%" G_GINT64_MODIFIER
                           "X, kind: ram}]\nbanks: []\nsockets: []\n",
                           lines, (guint64)bytes - 1u);
    if (rmg_board_load_text("ram", text, &board, &mistakes) != RMG_OK)
        print_mistakes(&mistakes);
    g_free(text);
    return board;
}
