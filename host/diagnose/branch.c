/* Findings against the lines as traced: several sockets that fail alike beyond one point of a line
 * are one finding; and every line finding gets its last good and first bad point. What the board
 * file does not trace is not accused. */
#include <string.h>

#include "share.h"

/* Does the finding blame this line at its socket? */
static bool blames(const rmg_board *board, const rmg_finding *f, const rmg_line *line)
{
    rmg_blames which = rmg_finding_row(f->kind)->blames;

    if (which == RMG_BLAMES_AS_OF)
        which = f->of == RMG_FINDING_BANK_SILENT ? RMG_BLAMES_STROBE
                : f->of == RMG_FINDING_DATA_LINE || f->of == RMG_FINDING_DATA_SHORT
                    ? RMG_BLAMES_DATA
                    : RMG_BLAMES_NONE; /* a branch had its say */
    switch (which) {
    case RMG_BLAMES_ADDRESS:
        return line->kind == RMG_LINE_ADDRESS && (f->lines >> line->bit & 1u);
    case RMG_BLAMES_DATA_OF_BANK:
        return line->kind == RMG_LINE_DATA && (f->bits >> line->bit & 1u) &&
               (!line->lane.mask || board->bank_wheres[f->bank].match == line->lane.match);
    case RMG_BLAMES_DATA:
        return line->kind == RMG_LINE_DATA && (f->bits >> line->bit & 1u);
    case RMG_BLAMES_WRITE:
        return line->writes;
    case RMG_BLAMES_STROBE:
        return line->kind == RMG_LINE_CONTROL && !line->writes;
    case RMG_BLAMES_AS_OF:
    case RMG_BLAMES_NONE:
        return false;
    }
    return false;
}

static bool has_point(const rmg_line *line, const char *name)
{
    for (size_t p = 0; p < line->point_count; p++)
        if (strcmp(line->points[p].name, name) == 0)
            return true;
    return false;
}

/* A finding about several address lines lies where all that are traced have come together. */
static bool on_all_lines(const rmg_board *board, const rmg_finding *f, const char *point_name)
{
    for (size_t n = 0; f->lines && n < board->line_count; n++) {
        const rmg_line *line = &board->lines[n];

        if (line->kind == RMG_LINE_ADDRESS && (f->lines >> line->bit & 1u) &&
            !has_point(line, point_name))
            return false;
    }
    return true;
}

/* The first point of the line beyond which lie exactly these sockets; RMG_NO_POINT: there is none.
 */
static uint16_t first_bad_point(const rmg_run *run, const rmg_line *line, const socket_set *set,
                                const rmg_finding *f)
{
    for (uint16_t p = 0; p < line->point_count; p++) {
        const socket_set here = rmg_sockets_beyond(run, line, p);

        if (rmg_sets_equal(&here, set) && on_all_lines(run->board, f, line->points[p].name))
            return p;
    }
    return RMG_NO_POINT;
}

/* Findings like the one at `i`, at other sockets: do they make up all beyond a point of a line? */
static void join_at(const rmg_run *run, GArray *list, guint i)
{
    rmg_finding *first = &g_array_index(list, rmg_finding, i);
    socket_set set;
    rmg_word bits = 0;
    unsigned found = 0;

    memset(&set, 0, sizeof set);
    for (guint j = i; j < list->len; j++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, j);

        if (rmg_findings_alike(f, first)) {
            const socket_set of = rmg_sockets_of(run, f);

            for (uint16_t s = 0; s < RMG_PLACE_RULES; s++)
                if (rmg_set_holds(&of, s))
                    rmg_set_include(&set, s);
            bits |= f->bits;
            found++;
        }
    }
    if (found < 2)
        return;
    for (size_t n = 0; n < run->board->line_count; n++) {
        const rmg_line *line = &run->board->lines[n];
        const uint16_t point = blames(run->board, first, line)
                                   ? first_bad_point(run, line, &set, first)
                                   : RMG_NO_POINT;

        if (point == RMG_NO_POINT || line->points[point].parent == RMG_NO_POINT)
            continue;
        for (guint k = list->len; k-- > i + 1;)
            if (rmg_findings_alike(&g_array_index(list, rmg_finding, k), first))
                g_array_remove_index(list, k);
        first = &g_array_index(list, rmg_finding, i);
        first->bank = rmg_one_bank(run, &set);
        first->of =
            first->kind == RMG_FINDING_BANK_NEVER_WRITTEN ? RMG_FINDING_NEVER_WRITTEN : first->kind;
        first->kind = RMG_FINDING_BRANCH;
        first->socket = RMG_NO_SOCKET;
        first->bits = bits;
        first->line = (uint16_t)n;
        first->point = point;
        return;
    }
}

void rmg_join_branches(const rmg_run *run, GArray *list)
{
    rmg_join_silent(run, list);
    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (rmg_findings_alike(f, f))
            join_at(run, list, i);
    }
    rmg_join_shared(run, list);
    rmg_join_own_ways(run, list);
    rmg_mark_followers(run, list);
    rmg_mark_hidden(run, list);
    for (guint i = 0; i < list->len; i++) {
        rmg_finding *f = &g_array_index(list, rmg_finding, i);
        const socket_set set = rmg_sockets_of(run, f);

        for (size_t n = 0; n < run->board->line_count && f->kind != RMG_FINDING_BRANCH; n++) {
            const rmg_line *line = &run->board->lines[n];
            const uint16_t point =
                blames(run->board, f, line) ? first_bad_point(run, line, &set, f) : RMG_NO_POINT;

            if (point == RMG_NO_POINT)
                continue;
            f->line = (uint16_t)n;
            f->point = point;
            break;
        }
    }
}
