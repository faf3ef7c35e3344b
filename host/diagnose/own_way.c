/* A data line that is wrong in every bank, though not alike in each: what is on it is suspected
 * once, and no chip of it. So a line shows that touches a select, a write line or an address line,
 * which no simulated fault does. */
#include "share.h"

#define LINES_MOST  2u /* more are wrong where whole banks are */
#define CHIPS_LEAST 3u /* of a line, where not all of them are wrong */

/* Is it about this data line alone, where it does not read back what was written? */
static bool of_the_line(const rmg_finding *f, rmg_word bit)
{
    return f->bits == bit && !f->lines &&
           (f->kind == RMG_FINDING_DATA_AT_SOCKET || f->kind == RMG_FINDING_NEVER_WRITTEN ||
            (f->kind == RMG_FINDING_SHARED && f->of != RMG_FINDING_BANK_SILENT) ||
            (f->kind == RMG_FINDING_BRANCH && f->of == RMG_FINDING_DATA_AT_SOCKET));
}

static void include(const rmg_run *run, const rmg_finding *f, socket_set *set)
{
    const socket_set of = f->kind == RMG_FINDING_BRANCH
                              ? rmg_sockets_beyond(run, &run->board->lines[f->line], f->point)
                              : rmg_sockets_of(run, f);

    for (size_t n = 0; n < G_N_ELEMENTS(set->bits); n++)
        set->bits[n] |= of.bits[n];
}

/* All sockets of the line, on the half of the bus that the set is on. */
static socket_set all_on_line(const rmg_run *run, rmg_word bit, const socket_set *set)
{
    const rmg_placement *placement = &run->board->placement;
    rmg_finding line = {.kind = RMG_FINDING_DATA_LINE,
                        .socket = RMG_NO_SOCKET,
                        .bank = RMG_NO_BANK,
                        .lane = RMG_NO_BANK,
                        .bits = bit};

    for (uint16_t r = 0; r < placement->rule_count && rmg_board_lanes(run->board); r++)
        if (rmg_set_holds(set, placement->rules[r].socket))
            line.lane = placement->rules[r].bank;
    return rmg_sockets_of(run, &line);
}

static unsigned size_of(const socket_set *set)
{
    unsigned size = 0;

    for (size_t n = 0; n < G_N_ELEMENTS(set->bits); n++)
        size += (unsigned)__builtin_popcountll(set->bits[n]);
    return size;
}

/* The finding about the line where all its sockets, or three, are found wrong, not all alike;
 * false: they are not. */
static bool line_of(const rmg_run *run, const GArray *list, rmg_word bit, rmg_finding *line)
{
    socket_set set, all;
    unsigned count = 0;
    bool write = false;

    *line = (rmg_finding){.kind = RMG_FINDING_SHARED,
                          .of = RMG_FINDING_DATA_LINE,
                          .socket = RMG_NO_SOCKET,
                          .bank2 = RMG_NO_BANK,
                          .lane = RMG_NO_BANK,
                          .point = RMG_NO_POINT,
                          .bits = bit};
    memset(&set, 0, sizeof set);
    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (!of_the_line(f, bit))
            continue;
        include(run, f, &set);
        line->failed_high += f->failed_high;
        line->failed_low += f->failed_low;
        count++;
        /* a write line that fails at one bit of each bank does nothing else */
        write |=
            list->len > 1 && f->kind == RMG_FINDING_SHARED && f->of == RMG_FINDING_NEVER_WRITTEN;
    }
    all = all_on_line(run, bit, &set);
    line->bank = rmg_one_bank(run, &set);
    memcpy(line->among, set.bits, sizeof line->among);
    return (count > 1 || write) &&
           (rmg_sets_equal(&set, &all) || (count > 1 && size_of(&set) >= CHIPS_LEAST));
}

/* Do the words of a bank fail at one level of the address lines, nearly all, and at none of the
 * other? */
static bool fails_at_one_level(const rmg_run *run, const rmg_finding *cells, rmg_addr lines)
{
    rmg_where where = run->board->bank_wheres[cells->bank];
    const uint64_t half = run->bank_words[cells->bank] / 2u;
    uint64_t words[2];

    for (unsigned level = 0; level < 2; level++) {
        where.mask |= lines;
        where.match = level ? where.match | lines : where.match & ~lines;
        words[level] = rmg_failset_words(run->failures, &where, cells->bits);
    }
    return half && MIN(words[0], words[1]) == 0 && 10 * MAX(words[0], words[1]) >= 9 * half;
}

static bool most_cells_fail(const rmg_run *run, const rmg_finding *f)
{
    return f->kind == RMG_FINDING_CELLS && f->bank < run->board->bank_count &&
           2 * rmg_failset_words(run->failures, &run->board->bank_wheres[f->bank], f->bits) >
               run->bank_words[f->bank];
}

/* Is something at fault that spoils whole banks, or their selects: may what the finding says be no
 * more than what that does? */
static bool spoils(const rmg_run *run, const rmg_finding *other, const rmg_finding *f)
{
    const rmg_board *board = run->board;
    const bool shared =
        (other->kind == RMG_FINDING_NOW_AND_THEN && other->of == RMG_FINDING_BANK_SILENT) ||
        other->kind == RMG_FINDING_SAME_WORDS || other->kind == RMG_FINDING_SPREAD;
    const bool cells = other->kind == RMG_FINDING_CELLS && other->bank == f->bank;
    bool most = false;

    if (f->lines && !(f->lines & (f->lines - 1u)) && other->kind == RMG_FINDING_CELLS &&
        other->bank != f->bank && fails_at_one_level(run, other, f->lines))
        return true;
    if (other->kind == RMG_FINDING_BANKS_BOTH || other->kind == RMG_FINDING_BANKS_SAME)
        return other->bank == f->bank || other->bank2 == f->bank || most_cells_fail(run, f);
    for (size_t b = 0; b < board->bank_count; b++) {
        const uint64_t words =
            rmg_failset_words(run->failures, &board->bank_wheres[b], other->bits & ~f->bits);

        if (run->bank_words[b] && (other->bank == RMG_NO_BANK || other->bank == b))
            most |= shared ? 2 * words > run->bank_words[b]
                           : cells && other->socket != f->socket &&
                                 10 * words >= 9 * run->bank_words[b];
    }
    return most;
}

void rmg_mark_followers(const rmg_run *run, GArray *list)
{
    for (guint i = 0; i < list->len && !run->heard; i++) {
        rmg_finding *f = &g_array_index(list, rmg_finding, i);

        for (guint n = 0; n < list->len; n++)
            f->may_follow |= f->socket != RMG_NO_SOCKET &&
                             (f->kind != RMG_FINDING_CELLS || most_cells_fail(run, f)) &&
                             spoils(run, &g_array_index(list, rmg_finding, n), f);
    }
}

void rmg_join_own_ways(const rmg_run *run, GArray *list)
{
    GArray *lines = g_array_new(FALSE, FALSE, sizeof(rmg_finding));
    rmg_finding line;

    for (unsigned i = 0; i < run->board->word_bits && !run->heard; i++)
        if (line_of(run, list, (rmg_word)1 << i, &line))
            g_array_append_val(lines, line);
    for (guint i = list->len; i-- > 0 && lines->len && lines->len <= LINES_MOST;) {
        rmg_finding *f = &g_array_index(list, rmg_finding, i);
        bool gone = false;

        f->may_follow = true;
        for (guint n = 0; n < lines->len; n++)
            gone |= of_the_line(f, g_array_index(lines, rmg_finding, n).bits);
        if (gone)
            g_array_remove_index(list, i);
    }
    if (lines->len <= LINES_MOST)
        g_array_prepend_vals(list, lines->data, lines->len);
    g_array_free(lines, TRUE);
}
