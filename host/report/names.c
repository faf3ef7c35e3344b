/* Pins, levels and traced lines of a suspect, by the names a technician uses. */
#include <stdio.h>
#include <string.h>

#include "words.h"

#define RUN_OF_NAMES 4u /* sockets with rising numbers that are named by the first and the last */

/* One data line's pins: "pin 3 (D6)", or for a part with apart input and output what is asked. */
static gchar *data_pin(const rmg_rule *rule, uint8_t line, bool in, bool out)
{
    const unsigned in_pin = rule->in_pins[line], out_pin = rule->out_pins[line];

    if (in_pin == out_pin)
        return g_strdup_printf("pin %u (D%u)", out_pin, rule->data_bits[line]);
    if (in && out)
        return g_strdup_printf("pin %u (data in) or pin %u (data out)", in_pin, out_pin);
    return g_strdup_printf("pin %u (data %s)", in ? in_pin : out_pin, in ? "in" : "out");
}

gchar *rmg_name_data_pins(const rmg_board *board, const rmg_saying *f, bool in, bool out)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->socket != f->socket || rule->bank != f->bank)
            continue;
        for (uint8_t i = 0; i < rule->width; i++)
            if ((f->bits >> rule->data_bits[i]) & 1u && rule->out_pins[i])
                g_ptr_array_add(list, data_pin(rule, i, in, out));
    }
    if (!list->len)
        g_ptr_array_add(list, g_strdup("its data pin"));
    return rmg_join(list);
}

/* The pins at which the finding's bus address lines reach the chips: of its socket, or of the
 * first socket of its bank. */
gchar *rmg_name_address_pins(const rmg_board *board, const rmg_saying *f)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);
    const rmg_rule *rule = NULL;
    char name[8];

    for (uint16_t r = 0; r < board->placement.rule_count && !rule; r++)
        if (board->placement.rules[r].bank == f->bank &&
            (f->socket == RMG_NO_SOCKET || board->placement.rules[r].socket == f->socket))
            rule = &board->placement.rules[r];
    for (uint8_t pin = 1; rule && pin; pin++) {
        GPtrArray *lines = g_ptr_array_new_with_free_func(g_free);

        for (uint8_t i = 0; i < rule->address_lines; i++) {
            const uint8_t bit = rule->address_bits[i];

            if (rule->address_pins[i] == pin && bit < RMG_ADDR_BITS && (f->lines >> bit) & 1u)
                g_ptr_array_add(lines,
                                g_strdup(rmg_board_line_text(board, bit, name, sizeof name)));
        }
        if (lines->len) {
            gchar *text = rmg_join(lines);

            g_ptr_array_add(list, g_strdup_printf("pin %u (%s)", pin, text));
            g_free(text);
        } else {
            g_ptr_array_free(lines, TRUE);
        }
    }
    if (!list->len)
        g_ptr_array_add(list, g_strdup("its address pins"));
    return rmg_join(list);
}

/* Does the designator b have the number after that of a, and the same letters? */
static bool follows(const char *a, const char *b)
{
    const size_t letters = strcspn(a, "0123456789");
    unsigned x, y;
    char rest;

    return strncmp(a, b, letters) == 0 && sscanf(a + letters, "%5u%c", &x, &rest) == 1 &&
           sscanf(b + letters, "%5u%c", &y, &rest) == 1 && y == x + 1u;
}

gchar *rmg_name_sockets(const rmg_board *board, const bool *sockets)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);
    GPtrArray *names = g_ptr_array_new();

    for (size_t i = 0; i < board->socket_count; i++)
        if (sockets[i])
            g_ptr_array_add(names, (gpointer)board->sockets[i].name);
    for (guint i = 0, n = 1; i < names->len; i += n, n = 1) {
        while (i + n < names->len && follows(names->pdata[i + n - 1u], names->pdata[i + n]))
            n++;
        if (n >= RUN_OF_NAMES)
            g_ptr_array_add(list, g_strdup_printf("%s-%s", (const char *)names->pdata[i],
                                                  (const char *)names->pdata[i + n - 1u]));
        for (guint k = i; n < RUN_OF_NAMES && k < i + n; k++)
            g_ptr_array_add(list, g_strdup(names->pdata[k]));
    }
    g_ptr_array_free(names, TRUE);
    return rmg_join(list);
}

gchar *rmg_name_lane(const rmg_board *board, const rmg_finding *f)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);
    bool plain = true; /* "the low and high banks"; else "bank 0 and bank 1" */
    gchar *names, *text;

    for (size_t b = 0; f->lane != RMG_NO_BANK && b < board->bank_count; b++)
        plain &= strlen(board->banks[b].called) == strlen(board->banks[b].name) + 9u;
    for (size_t b = 0; f->lane != RMG_NO_BANK && b < board->bank_count; b++)
        if (board->bank_wheres[f->lane].mask &&
            board->bank_wheres[b].mask == board->bank_wheres[f->lane].mask &&
            board->bank_wheres[b].match == board->bank_wheres[f->lane].match)
            g_ptr_array_add(list, g_strdup(plain ? board->banks[b].name : board->banks[b].called));
    names = rmg_join(list);
    text = *names ? g_strdup_printf(plain ? " of the %s banks" : " of %s", names) : g_strdup("");
    g_free(names);
    return text;
}

const char *rmg_name_level(const rmg_finding *f)
{
    const bool several = f->bits & (f->bits - 1u);

    if (f->low == f->bits)
        return several ? "always read 0" : "always reads 0";
    if (f->high == f->bits)
        return several ? "always read 1" : "always reads 1";
    if (f->opposite == f->bits)
        return several ? "read what was last on the bus: nothing drives them"
                       : "reads what was last on the bus: nothing drives it";
    return several ? "do not read back what was written" : "does not read back what was written";
}

gchar *rmg_name_chain(const rmg_run *run, const rmg_saying *s)
{
    const rmg_line *line = &run->board->lines[s->line];
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);

    for (uint16_t p = s->point; p < line->point_count; p++)
        if (rmg_line_serves_alike(run, line, s->point, p))
            g_ptr_array_add(list, g_strdup(line->points[p].name));
    return rmg_join(list);
}

gchar *rmg_name_span(const rmg_run *run, const rmg_saying *s, bool branch)
{
    const rmg_line *line = &run->board->lines[s->line];
    const rmg_point *bad = &line->points[s->point];
    gchar *chain, *text;

    if (bad->parent == RMG_NO_POINT)
        return g_strdup_printf("line %s at %s, its driver", line->name, bad->name);
    if (branch)
        return g_strdup_printf("line %s between %s and %s", line->name,
                               line->points[bad->parent].name, bad->name);
    chain = rmg_name_chain(run, s);
    text =
        g_strdup_printf("line %s after %s: %s", line->name, line->points[bad->parent].name, chain);
    g_free(chain);
    return text;
}
