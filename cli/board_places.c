/* The sockets of a board as they lie on it, in text; and what differs between two boards. */
#include <math.h>
#include <string.h>

#include "cli.h"
#include "rimeglass/report.h"

#define ROW_MM 6.0 /* sockets that lie no further apart than this stand in one row */

static gint by_place(gconstpointer a, gconstpointer b)
{
    const rmg_socket *x = *(const rmg_socket *const *)a, *y = *(const rmg_socket *const *)b;

    if (fabs(x->y_mm - y->y_mm) > ROW_MM)
        return x->y_mm < y->y_mm ? -1 : 1;
    return (x->x_mm > y->x_mm) - (x->x_mm < y->x_mm);
}

/* Data bits that a socket holds in its first bank, or what it is. */
static void below(const rmg_board *board, const rmg_socket *s, char *text, size_t room)
{
    g_snprintf(text, (gulong)room, "%s", s->part ? s->part->number : "");
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (&board->sockets[rule->socket] == s) {
            const unsigned high = rmg_rule_high_bit(rule);
            unsigned low = high;

            for (uint8_t i = 0; i < rule->width; i++)
                low = MIN(low, rule->data_bits[i]);
            g_snprintf(text, (gulong)room, high == low ? "D%u" : "D%u-%u", high, low);
            return;
        }
    }
}

/* One row, with what stands beneath each; `turned`: from the solder side. */
static void print_row(const rmg_board *board, const rmg_socket *const *row, size_t count,
                      double left, double wide, bool turned)
{
    const unsigned columns = text_columns(stdout) - 12u;

    for (int line = 0; line < 2; line++) {
        unsigned at = 0;

        printf("  ");
        for (size_t i = 0; i < count; i++) {
            const rmg_socket *s = row[turned ? count - 1u - i : i];
            const double share = (s->x_mm - left) / wide;
            const unsigned to = (unsigned)((turned ? 1 - share : share) * columns);
            char text[24];

            if (line)
                below(board, s, text, sizeof text);
            else
                g_snprintf(text, sizeof text, "%s", s->name);
            if (to > at) {
                printf("%*s", (int)(to - at), "");
                at = to;
            } else if (i) {
                printf(" ");
                at++;
            }
            printf("%-6s", text);
            at += (unsigned)MAX(strlen(text), 6u);
        }
        printf("\n");
    }
}

int print_places(const rmg_board *board, bool solder_side)
{
    GPtrArray *drawn = g_ptr_array_new();
    double left = 1e9, right = -1e9;

    for (size_t i = 0; i < board->socket_count; i++)
        if (board->sockets[i].drawn) {
            g_ptr_array_add(drawn, &board->sockets[i]);
            left = MIN(left, board->sockets[i].x_mm);
            right = MAX(right, board->sockets[i].x_mm);
        }
    if (!drawn->len) {
        g_ptr_array_free(drawn, TRUE);
        return wrong_call("board", "%s does not say where its sockets are: for sockets, \"at\"",
                          board->file);
    }
    g_ptr_array_sort(drawn, by_place);
    printf("%s\n\n", solder_side ? "Solder side: turned over left to right" : "Component side");
    for (guint i = 0, end; i < drawn->len; i = end) {
        const rmg_socket *const *row = (const rmg_socket *const *)&drawn->pdata[i];

        for (end = i + 1u; end < drawn->len; end++)
            if (fabs(((const rmg_socket *)drawn->pdata[end])->y_mm - row[0]->y_mm) > ROW_MM)
                break;
        print_row(board, row, end - i, left, MAX(right - left, 1), solder_side);
        printf("\n");
    }
    if (!solder_side)
        printf("From the other side: --solder-side\n");
    g_ptr_array_free(drawn, TRUE);
    return EXIT_PASS;
}

void print_differences(const rmg_board *board, const rmg_board *other,
                       const rmg_board_differences *found)
{
    static const char *const heads[] = {
        "Head", "Designators, for the same places", "Regions", "Banks", "Data bits in", "Sockets",
        "Lines"};
    int before = -1;

    printf("%s%s%s, against %s%s%s\n", board->name, *board->revision ? ", revision " : "",
           board->revision, other->name, *other->revision ? ", revision " : "", other->revision);
    if (!found->count)
        printf("  No difference in what a board file says of memory, chips and lines.\n");
    for (size_t i = 0; i < found->count; i++) {
        const rmg_board_difference *d = &found->list[i];
        gchar *lead = g_strdup_printf("  %-18s ", d->name);
        gchar *text = !d->there  ? g_strdup_printf("only here: %s", d->here)
                      : !d->here ? g_strdup_printf("only there: %s", d->there)
                                 : g_strdup_printf("%s, there %s", d->here, d->there);

        if ((int)d->kind != before)
            printf("\n%s\n", heads[d->kind]);
        before = (int)d->kind;
        print_wrapped(stdout, lead, 21, text);
        g_free(text);
        g_free(lead);
    }
}
