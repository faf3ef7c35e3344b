/* A data line that is wrong in every bank, though not alike in each: what is on it is suspected
 * once, and no chip of it. So a line shows that touches a select, a write line or an address line,
 * which no simulated fault does. */
#include "moments.h"

#define LINES_MOST  2u  /* more are wrong where whole banks are */
#define CHIPS_LEAST 3u  /* of a line, where not all of them are wrong */
#define MOST_WORDS  0.5 /* of a bank: more fail */
#define NEARLY_ALL  0.9

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

    rmg_set_join(set, &of);
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

/* The share of its bank's words in which the finding's bits fail, without some of them. */
static double share_of(const rmg_run *run, const rmg_finding *f, size_t bank, rmg_word without)
{
    return run->bank_words[bank]
               ? (double)rmg_failset_words(run->failures, &run->board->bank_wheres[bank],
                                           f->bits & ~without) /
                     (double)run->bank_words[bank]
               : 0;
}

/* Does something that several chips share spoil most words of a bank, at bits of others? */
static bool spoils_a_bank(const rmg_run *run, const rmg_finding *other, rmg_word bits)
{
    if (other->kind != RMG_FINDING_SAME_WORDS && other->kind != RMG_FINDING_SPREAD &&
        (other->kind != RMG_FINDING_NOW_AND_THEN ||
         (other->of != RMG_FINDING_BANK_SILENT && !other->lines)))
        return false;
    for (size_t b = 0; b < run->board->bank_count; b++)
        if ((other->bank == RMG_NO_BANK || other->bank == b) &&
            share_of(run, other, b, bits) > MOST_WORDS)
            return true;
    return false;
}

/* Does something spoil just the bits of another bank at which these cells fail: a chip that drives
 * them, or what may be one? */
static bool spoils_the_same_bits(const rmg_run *run, const rmg_finding *other, const rmg_finding *f)
{
    const rmg_word bits =
        f->kind == RMG_FINDING_CELLS ? rmg_failing_bits(run, f->bank, f->bits) : 0;

    if (!bits || other->bank == f->bank ||
        (other->weighed && f->weighed && other->cause == f->cause)) /* one or the other */
        return false;
    if (other->kind == RMG_FINDING_DRAGGED)
        return !(bits & ~other->bits) && (other->high_wins ? !f->failed_low : !f->failed_high);
    return other->kind == RMG_FINDING_SAME_WORDS && bits == other->bits;
}

/* May what the finding says be no more than what the other does? `cells`: the share of words that
 * fail, of either where it is about cells. */
static bool spoils(const rmg_run *run, const rmg_finding *other, const rmg_finding *f,
                   double other_cells, double cells)
{
    if (other->kind == RMG_FINDING_BANKS_BOTH || other->kind == RMG_FINDING_BANKS_SAME)
        return other->bank == f->bank || other->bank2 == f->bank || cells > MOST_WORDS;
    if (other->kind == RMG_FINDING_CELLS && other->bank == f->bank)
        return other->socket != f->socket && other_cells >= NEARLY_ALL;
    if (other->kind == RMG_FINDING_CELLS && other->bank < run->board->bank_count)
        return f->lines && !(f->lines & (f->lines - 1u)) &&
               fails_at_one_level(run, other, f->lines);
    return spoils_a_bank(run, other, f->bits) || spoils_the_same_bits(run, other, f);
}

/* Bits that hold what no write changes, or lag, or follow each other: where a chip that was not
 * tested drives them too, dead ones look so. */
static bool looks_driven(const rmg_finding *driver, const rmg_finding *f)
{
    return driver->untested && driver->kind != RMG_FINDING_CELLS && (f->bits & driver->bits) &&
           (f->kind == RMG_FINDING_NEVER_WRITTEN || f->kind == RMG_FINDING_BANK_NEVER_WRITTEN ||
            f->kind == RMG_FINDING_STALE || f->kind == RMG_FINDING_DATA_SHORT);
}

void rmg_mark_followers(const rmg_run *run, GArray *list)
{
    double *cells = g_new0(double, list->len + 1u);

    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (f->kind == RMG_FINDING_CELLS && f->bank < run->board->bank_count)
            cells[i] = share_of(run, f, f->bank, 0);
    }
    for (guint i = 0; i < list->len && !run->heard; i++) {
        rmg_finding *f = &g_array_index(list, rmg_finding, i);

        for (guint n = 0; n < list->len; n++)
            f->may_follow |= looks_driven(&g_array_index(list, rmg_finding, n), f);
        if (f->socket == RMG_NO_SOCKET)
            continue;
        for (guint n = 0; n < list->len && !f->may_follow; n++) {
            const rmg_finding *other = &g_array_index(list, rmg_finding, n);

            f->may_follow = f->kind == RMG_FINDING_CELLS && cells[i] <= MOST_WORDS
                                ? spoils_the_same_bits(run, other, f)
                                : spoils(run, other, f, cells[n], cells[i]);
        }
    }
    g_free(cells);
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
