/* The table of targets, and what is the same for all of them. */
#include <string.h>

#include "internal.h"
#include "rimeglass/stream.h"

#define ROW(name) &rmg_target_##name,
static const rmg_target_kind *const kinds[] = {RMG_TARGETS(ROW)};
#undef ROW

static const rmg_target_kind *kind_of(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++)
        if (g_str_has_prefix(name, kinds[i]->prefix))
            return kinds[i];
    return NULL;
}

/* "sim:, sim:FAULTS.yaml or ram:SIZE" */
static gchar *all_forms(void)
{
    GString *text = g_string_new(NULL);

    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++)
        g_string_append_printf(text, "%s%s",
                               i == 0                          ? ""
                               : i + 1u == G_N_ELEMENTS(kinds) ? " or "
                                                               : ", ",
                               kinds[i]->forms);
    return g_string_free(text, FALSE);
}

rmg_status rmg_target_check(const char *name, rmg_error *error)
{
    const rmg_target_kind *kind = kind_of(name);
    gchar *expected = !kind            ? all_forms()
                      : kind->expected ? kind->expected(name + strlen(kind->prefix))
                                       : NULL;

    rmg_error_none(error);
    if (!expected)
        return RMG_OK;
    rmg_fail(error, RMG_ERR_ARGUMENT, name, "%s: expected %s", name, expected);
    g_free(expected);
    return RMG_ERR_ARGUMENT;
}

bool rmg_target_brings_board(const char *name)
{
    const rmg_target_kind *kind = kind_of(name);

    return kind && kind->brings_board;
}

/* Opens it in its board (RMG_NO_SOCKET), or one chip of it bare. */
static rmg_status open_kind(const char *name, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, rmg_errors *errors)
{
    const rmg_target_kind *kind = kind_of(name);
    GArray *notes = rmg_notes_new();
    rmg_error error;
    rmg_status status;

    memset(opened, 0, sizeof *opened);
    status = rmg_target_check(name, &error);
    if (status != RMG_OK)
        rmg_note_error(notes, &error);
    else if (socket == RMG_NO_SOCKET)
        status = kind->open(name + strlen(kind->prefix), board, opened, notes);
    else if (kind->open_bare)
        status = kind->open_bare(name + strlen(kind->prefix), board, socket, opened, notes);
    else
        status = RMG_ERR_PORT_CANNOT;
    if (!opened->remark)
        opened->remark = g_strdup("");
    rmg_errors_take(notes, errors);
    return status;
}

rmg_status rmg_target_open(const char *name, const rmg_board *board, rmg_opened *opened,
                           rmg_errors *errors)
{
    return open_kind(name, board, RMG_NO_SOCKET, opened, errors);
}

rmg_status rmg_target_open_bare(const char *name, const rmg_board *board, uint16_t socket,
                                rmg_opened *opened, rmg_errors *errors)
{
    return open_kind(name, board, socket, opened, errors);
}

void rmg_target_close(rmg_opened *opened)
{
    if (opened->close)
        opened->close(opened->self);
    g_free(opened->remark);
    g_free(opened->caveat);
    memset(opened, 0, sizeof *opened);
}

void rmg_target_stop_when(rmg_opened *opened, bool (*stops)(void *context), void *context)
{
    if (opened->stream)
        rmg_stream_stop_when(opened->stream, stops, context);
}

rmg_status rmg_target_use_blocks(rmg_opened *opened)
{
    gchar *before = opened->caveat;

    if (!opened->blocks)
        return RMG_ERR_PORT_CANNOT;
    opened->target.bus = opened->blocks;
    opened->accesses_a_second = 0; /* not known */
    opened->caveat = g_strdup_printf(
        "%s March elements go by blocks of up to %u words: of neighbours all are read, then all "
        "written, "
        "so what a march finds between two words of a block is less than explain says.",
        before ? before : "", RMG_ELEMENT_BLOCK);
    g_free(before);
    return RMG_OK;
}

rmg_status rmg_target_load(rmg_opened *opened, const rmg_board *board, const rmg_range *within,
                           rmg_range *memory, rmg_error *error)
{
    gchar *before = opened->caveat;
    char text[40];
    rmg_status status;

    if (!opened->load)
        return rmg_fail(error, RMG_ERR_PORT_CANNOT, NULL,
                        "no routine can be loaded into this target's memory");
    status = opened->load(opened->self, within, &opened->target, memory);
    if (status != RMG_OK)
        return rmg_fail(error, status, NULL, "%s", opened->why ? opened->why(opened->self) : "");
    opened->slices = true;
    opened->accesses_a_second = 0; /* not known */
    opened->caveat = g_strdup_printf(
        "%s%sMarch elements run in the board's own processor, by a routine at %s, which March C- "
        "passed before, one access at a time; instructions are read between the accesses.",
        before ? before : "", before ? " " : "",
        rmg_board_range_text(board, memory, text, sizeof text));
    g_free(before);
    return RMG_OK;
}

void rmg_target_describe(const rmg_opened *opened, rmg_run *run)
{
    g_free(run->caveat);
    g_free(run->remark);
    run->caveat = g_strdup(opened->caveat);
    run->remark = *opened->remark ? g_strdup(opened->remark) : NULL;
    run->less = opened->less;
    run->by_slices = opened->slices;
}

void rmg_target_find_places(const rmg_opened *opened, rmg_run *run, const rmg_board *modules)
{
    const char *why = opened->why ? opened->why(opened->self) : "";

    g_free(run->port_said);
    run->port_said = *why ? g_strdup(why) : NULL;
    if (!opened->place)
        return;
    g_strfreev(run->places);
    run->places = g_new0(char *, run->tally.first_count + 1u);
    for (size_t i = 0; i < run->tally.first_count; i++)
        run->places[i] = opened->place(opened->self, modules, &run->tally.first[i]);
}
