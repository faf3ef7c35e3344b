/* Legs that were lifted: what they cut off. */
#include <string.h>

#include "internal.h"

/* Do the words name this point, or the part that it is a leg of? Through a part a point has two
 * legs: "RN1.1>RN1.16". */
bool rmg_text_names_point(const char *text, const rmg_point *point)
{
    gchar **words = g_strsplit_set(text, " -,", -1), **legs = g_strsplit(point->name, ">", -1);
    bool named = false;

    for (gchar **w = words; *w; w++)
        for (gchar **leg = legs; *leg; leg++) {
            const size_t size = strlen(*w);

            named |= size && g_ascii_strncasecmp(*leg, *w, size) == 0 &&
                     ((*leg)[size] == '\0' || ((*leg)[size] == '.' && !strchr(*w, '.')));
        }
    g_strfreev(words);
    g_strfreev(legs);
    return named;
}

bool rmg_board_has_point(const rmg_board *board, const char *text)
{
    for (size_t n = 0; n < board->line_count; n++)
        for (size_t p = 0; p < board->lines[n].point_count; p++)
            if (rmg_text_names_point(text, &board->lines[n].points[p]))
                return true;
    return false;
}

/* Is it the point that was lifted? */
static bool is_lifted(const rmg_change *c, const rmg_point *point)
{
    return c->text ? rmg_text_names_point(c->text, point)
                   : point->socket == c->socket && point->pin == c->pin;
}

bool rmg_lift_cuts(const rmg_change *c, const rmg_line *line, uint16_t socket)
{
    bool cut = false;

    for (uint16_t p = 0; p < line->point_count && !cut; p++)
        for (uint16_t up = p; line->points[p].socket == socket && up != RMG_NO_POINT && !cut;
             up = line->points[up].parent)
            /* a chip's own leg cuts off that chip alone */
            cut = is_lifted(c, &line->points[up]) && (c->text || up == p);
    return cut;
}

/* Was it put back by a later change? */
static bool is_back(const rmg_change *changes, size_t count, size_t lift)
{
    const rmg_change *was = &changes[lift];

    for (size_t i = lift + 1u; i < count; i++) {
        const rmg_change *c = &changes[i];
        gchar *part = was->text ? g_strndup(was->text, strcspn(was->text, ".")) : NULL;
        const bool mends = c->kind == RMG_CHANGE_REPAIR || c->kind == RMG_CHANGE_BRIDGE;
        const bool same = was->text ? c->text && (strstr(c->text, was->text) != NULL ||
                                                  g_ascii_strcasecmp(c->text, part) == 0)
                                    : c->socket == was->socket;

        g_free(part);
        if (mends && same)
            return true;
    }
    return false;
}

bool rmg_lifted(const rmg_board *board, const rmg_change *changes, size_t count, size_t from,
                bool *cut, rmg_sim_fault *faults, size_t room, size_t *fault_count)
{
    bool all_known = true;
    size_t n = 0;

    for (size_t i = from; i < count; i++) {
        if (changes[i].kind != RMG_CHANGE_LIFT || is_back(changes, count, i))
            continue;
        for (size_t l = 0; l < board->line_count; l++) {
            const rmg_line *line = &board->lines[l];
            rmg_sim_fault open = {.kind = RMG_FAULT_LINE_OPEN, .line = line->bit};
            bool any = false;

            for (uint16_t s = 0; s < board->socket_count; s++)
                if (rmg_lift_cuts(&changes[i], line, s)) {
                    rmg_fault_include(&open, s);
                    cut[s] = any = true;
                }
            if (any && (line->kind != RMG_LINE_DATA || n == room))
                all_known = false;
            else if (any)
                faults[n++] = open;
        }
    }
    *fault_count = n;
    return all_known;
}
