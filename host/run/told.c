/* What a test ROM told, pass by pass. */
#include <glib.h>
#include <string.h>

#include "rimeglass/heard.h"
#include "runner.h"

rmg_status rmg_run_hear_rom(rmg_run *run, const rmg_board_rom *how, rmg_error *error)
{
    rmg_told *told = g_new0(rmg_told, 1);
    const rmg_status status = rmg_dead_plan(run->board, how, &told->plan, NULL, NULL, error);

    if (status != RMG_OK) {
        g_free(told);
        return status;
    }
    told->march = g_strdup(how->march_text);
    run->heard->told = told;
    run->heard->limit = how->lines;
    return RMG_OK;
}

void rmg_told_free(rmg_told *told)
{
    if (!told)
        return;
    g_free(told->march);
    g_free(told->lines);
    g_free(told->rom_lines);
    g_free(told);
}

bool rmg_told_of_rom(const rmg_testrom_line *line)
{
    return line->kind == RMG_TESTROM_ROM &&
           (line->says == RMG_TESTROM_SAYS_PAGE || line->says == RMG_TESTROM_SAYS_CONTENTS ||
            line->says == RMG_TESTROM_SAYS_DONE || line->says == RMG_TESTROM_SAYS_MORE);
}

void rmg_told_add_rom(rmg_told *told, const rmg_testrom_line *lines, size_t count)
{
    told->rom_lines = g_renew(rmg_testrom_line, told->rom_lines, told->rom_line_count + count);
    memcpy(told->rom_lines + told->rom_line_count, lines, count * sizeof *lines);
    told->rom_line_count += count;
}

/* Takes those of ROMs out of a pass, and keeps them: of each ROM up to the end of its step, for
 * what a damaged log repeats is no second reading. */
static void sort_out(rmg_told *told, GArray *pass)
{
    guint left = 0;
    unsigned over = 0; /* ROMs whose step is, a bit each */

    for (guint i = 0; i < pass->len; i++) {
        const rmg_testrom_line line = g_array_index(pass, rmg_testrom_line, i);

        if (!rmg_told_of_rom(&line))
            g_array_index(pass, rmg_testrom_line, left++) = line;
        else if (told->passes < RMG_TOLD_READINGS && !(over >> line.bank & 1u)) {
            rmg_told_add_rom(told, &line, 1);
            over |=
                (unsigned)(line.says == RMG_TESTROM_SAYS_DONE || line.says == RMG_TESTROM_SAYS_MORE)
                << line.bank;
        }
    }
    g_array_set_size(pass, left);
}

bool rmg_testrom_lines_alike(const rmg_testrom_line *a, const rmg_testrom_line *b)
{
    return a->says == b->says && a->kind == b->kind && a->bank == b->bank && a->read == b->read &&
           a->at == b->at && a->address == b->address && a->wrote == b->wrote &&
           a->read_as == b->read_as && a->bits == b->bits &&
           (a->says != RMG_TESTROM_SAYS_END || a->code == b->code);
}

static bool alike(const rmg_told *told, const GArray *pass)
{
    if (told->count != pass->len)
        return false;
    for (guint i = 0; i < pass->len; i++)
        if (!rmg_testrom_lines_alike(&told->lines[i], &g_array_index(pass, rmg_testrom_line, i)))
            return false;
    return true;
}

static void end_pass(rmg_told *told, GArray *pass)
{
    told->passes++;
    if (told->passes == 2 && !alike(told, pass)) {
        /* the first may have shown what the memory came up with: the second counts */
        g_clear_pointer(&told->lines, g_free);
    }
    if (told->lines) {
        told->unlike += !alike(told, pass);
        g_array_free(pass, TRUE);
        return;
    }
    told->count = pass->len;
    told->lines = (rmg_testrom_line *)(void *)g_array_free(pass, FALSE);
}

void rmg_run_hear_rom_line(rmg_run *run, const rmg_testrom_line *line)
{
    GArray **pass = &run->own->told;

    if (!line || line->says == RMG_TESTROM_SAYS_START) {
        g_clear_pointer(pass, g_array_unref);
        if (!line)
            return;
        *pass = g_array_new(FALSE, TRUE, sizeof *line);
    }
    if (!*pass)
        return;
    g_array_append_vals(*pass, line, 1);
    if (line->says != RMG_TESTROM_SAYS_END)
        return;
    sort_out(run->heard->told, *pass);
    /* a code without a line that tells it: somebody has counted blinks */
    run->heard->told->blinks |= (*pass)->len == 2 && line->code;
    end_pass(run->heard->told, *pass);
    *pass = NULL;
}
