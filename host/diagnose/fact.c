/* Facts by other means: chips known to be good, stretches of lines that were measured. */
#include "rimeglass/suspect.h"

#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"

void rmg_facts_begin(rmg_facts *facts)
{
    memset(facts, 0, sizeof *facts);
    rmg_causes_standard(&facts->causes);
}

void rmg_facts_end(rmg_facts *facts)
{
    g_free(facts->good);
    g_free(facts->apart);
    g_free(facts->sound);
    g_free(facts->open);
    g_free(facts->seen);
    memset(facts, 0, sizeof *facts);
}

bool rmg_facts_chip_good(const rmg_facts *facts, uint16_t socket)
{
    for (size_t i = 0; i < facts->good_count; i++)
        if (facts->good[i] == socket)
            return true;
    return false;
}

bool rmg_facts_sound(const rmg_facts *facts, uint16_t line, uint16_t point, bool part)
{
    for (size_t i = 0; i < facts->sound_count; i++)
        if (facts->sound[i].line == line && facts->sound[i].point == point &&
            facts->sound[i].part == part)
            return true;
    return false;
}

void rmg_facts_apart(rmg_facts *facts, uint16_t socket)
{
    facts->apart = g_renew(uint16_t, facts->apart, facts->apart_count + 1u);
    facts->apart[facts->apart_count++] = socket;
}

rmg_status rmg_facts_known_good(rmg_facts *facts, const rmg_board *board, const char *socket,
                                rmg_error *error)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    gchar *list;
    char *hint;

    for (size_t i = 0; i < board->socket_count; i++) {
        if (g_ascii_strcasecmp(board->sockets[i].name, socket) == 0) {
            g_ptr_array_free(names, TRUE);
            facts->good = g_renew(uint16_t, facts->good, facts->good_count + 1u);
            facts->good[facts->good_count++] = (uint16_t)i;
            return RMG_OK;
        }
        g_ptr_array_add(names, g_strdup(board->sockets[i].name));
    }
    list = rmg_join(names);
    hint = rmg_board_name_hint(board, socket, RMG_NAMES_SOCKETS);
    rmg_fail(error, RMG_ERR_RANGE, socket, "%s has no socket %s; it has %s%s", board->name, socket,
             list, hint);
    g_free(list);
    rmg_text_free(hint);
    return RMG_ERR_RANGE;
}

/* A point and the leg of the part there: "U8.5" is the near one of "U8.5>U8.15". */
typedef struct place {
    uint16_t point;
    bool near, far; /* neither: the part as a whole, "R12" */
} place;

static bool find_place(const rmg_line *line, const char *name, place *found)
{
    for (uint16_t p = 0; p < line->point_count; p++) {
        const char *text = line->points[p].name, *through = strchr(text, '>');
        gchar *first = through ? g_strndup(text, (gsize)(through - text)) : g_strdup(text);
        const bool near = g_ascii_strcasecmp(first, name) == 0;
        const bool far = through && g_ascii_strcasecmp(through + 1, name) == 0;

        g_free(first);
        if (near || far) {
            *found = (place){p, through && near, far};
            return true;
        }
    }
    return false;
}

static bool is_above(const rmg_line *line, uint16_t upper, uint16_t lower)
{
    while (lower != RMG_NO_POINT && lower != upper)
        lower = line->points[lower].parent;
    return lower == upper;
}

static void note(rmg_facts *facts, uint16_t line, uint16_t point, bool part)
{
    facts->sound = g_renew(rmg_sound, facts->sound, facts->sound_count + 1u);
    facts->sound[facts->sound_count++] = (rmg_sound){line, point, part};
}

/* From a point down to one beyond it. */
static void note_path(rmg_facts *facts, uint16_t n, const rmg_line *line, uint16_t from, place to)
{
    if (to.far)
        note(facts, n, to.point, true);
    for (uint16_t p = to.point; p != from; p = line->points[p].parent) {
        note(facts, n, p, false);
        if (line->points[p].parent != from)
            note(facts, n, line->points[p].parent, true);
    }
}

static void note_between(rmg_facts *facts, uint16_t n, const rmg_line *line, place a, place b)
{
    if (is_above(line, b.point, a.point)) {
        const place other = a;

        a = b;
        b = other;
    }
    if (is_above(line, a.point, b.point)) {
        note_path(facts, n, line, a.point, b);
        if (a.near)
            note(facts, n, a.point, true);
    } else {
        uint16_t up = a.point;

        while (!is_above(line, up, b.point))
            up = line->points[up].parent;
        note_path(facts, n, line, up, a);
        note_path(facts, n, line, up, b);
    }
}

/* Of points "U1.30-R1" the two names; false, and *error, if there are not two. */
static bool two_names(const char *points, gchar **first, const char **second, rmg_error *error)
{
    const char *dash = strchr(points, '-');

    *first = g_strndup(points, dash ? (gsize)(dash - points) : strlen(points));
    *second = dash ? dash + 1 : "";
    if (!dash || g_ascii_strcasecmp(*first, *second) == 0) {
        rmg_fail(error, RMG_ERR_RANGE, points,
                 "%s: expected two different points of a line, such as U1.30-R1", points);
        return false;
    }
    return true;
}

static rmg_status no_such_points(const rmg_board *board, const char *points, const char *first,
                                 const char *second, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_RANGE, points,
                    "no traced line of %s has both %s and %s; see rimeglass board "
                    "show %s --line",
                    board->name, first, second, board->file);
}

rmg_status rmg_facts_continuous(rmg_facts *facts, const rmg_board *board, const char *points,
                                rmg_error *error)
{
    const char *second;
    gchar *first;
    bool any = false, two = two_names(points, &first, &second, error);

    for (size_t n = 0; two && n < board->line_count; n++) {
        place a, b;

        if (find_place(&board->lines[n], first, &a) && find_place(&board->lines[n], second, &b)) {
            note_between(facts, (uint16_t)n, &board->lines[n], a, b);
            any = true;
        }
    }
    if (two && !any)
        no_such_points(board, points, first, second, error);
    g_free(first);
    return any ? RMG_OK : RMG_ERR_RANGE;
}

/* The side of a point that a name means; of a part as a whole the one away from the other end. */
static uint32_t side_of(const rmg_line *line, place at, place other)
{
    const bool below = other.point != at.point && is_above(line, at.point, other.point);

    return 2u * at.point + (at.near ? 0 : at.far || !below);
}

rmg_status rmg_facts_not_continuous(rmg_facts *facts, const rmg_board *board, const char *points,
                                    rmg_error *error)
{
    const char *second;
    gchar *first;
    bool any = false, two = two_names(points, &first, &second, error);

    for (size_t n = 0; two && n < board->line_count; n++) {
        const rmg_line *line = &board->lines[n];
        place a, b;

        if (!find_place(line, first, &a) || !find_place(line, second, &b) ||
            side_of(line, a, b) == side_of(line, b, a))
            continue;
        facts->open = g_renew(rmg_measured_open, facts->open, facts->open_count + 1u);
        facts->open[facts->open_count++] =
            (rmg_measured_open){(uint16_t)n, side_of(line, a, b), side_of(line, b, a)};
        any = true;
    }
    if (two && !any)
        no_such_points(board, points, first, second, error);
    g_free(first);
    return any ? RMG_OK : RMG_ERR_RANGE;
}

rmg_status rmg_facts_activity(rmg_facts *facts, const rmg_board *board, const char *seen,
                              rmg_error *error)
{
    static const char *const words[] = {[RMG_ACTIVITY_STILL] = "still",
                                        [RMG_ACTIVITY_PULSING] = "pulsing",
                                        [RMG_ACTIVITY_HIGH] = "high",
                                        [RMG_ACTIVITY_LOW] = "low"};
    const char *equals = strchr(seen, '=');
    gchar *point = g_strndup(seen, equals ? (gsize)(equals - seen) : strlen(seen));
    unsigned word = 0;
    bool any = false;

    while (equals && word < G_N_ELEMENTS(words) && strcmp(words[word], equals + 1) != 0)
        word++;
    if (!equals || word == G_N_ELEMENTS(words))
        rmg_fail(error, RMG_ERR_RANGE, seen,
                 "%s: expected a point of a line and what was seen there, still, pulsing, high or "
                 "low, such as U5.15=still",
                 seen);
    for (size_t n = 0; equals && word < G_N_ELEMENTS(words) && n < board->line_count; n++) {
        place at;

        if (!find_place(&board->lines[n], point, &at))
            continue;
        facts->seen = g_renew(rmg_seen_activity, facts->seen, facts->seen_count + 1u);
        facts->seen[facts->seen_count++] =
            (rmg_seen_activity){(uint16_t)n, 2u * at.point + !at.near, (rmg_activity)word};
        any = true;
    }
    if (equals && word < G_N_ELEMENTS(words) && !any)
        rmg_fail(error, RMG_ERR_RANGE, seen,
                 "no traced line of %s has %s; see rimeglass board show %s --line", board->name,
                 point, board->file);
    g_free(point);
    return any ? RMG_OK : RMG_ERR_RANGE;
}
