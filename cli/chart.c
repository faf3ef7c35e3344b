/* The chart: one block a bank, the highest bit on the left, each cell a socket's designator. */
#include <stdlib.h>
#include <string.h>

#include "cli.h"

#define CELLS_A_ROW 8u
#define LABEL_WIDTH 14

static gint by_bit(gconstpointer a, gconstpointer b)
{
    const unsigned x = rmg_rule_high_bit(*(const rmg_rule *const *)a);
    const unsigned y = rmg_rule_high_bit(*(const rmg_rule *const *)b);

    return (x < y) - (x > y);
}

static void print_cell(FILE *to, const char *text, bool strong, bool colour)
{
    const int width = (int)MIN((text_columns(to) - LABEL_WIDTH) / CELLS_A_ROW, 10u);
    const int pad = width - (int)strlen(text);

    fprintf(to, "%*s%s%s%s", MAX(pad, 1), "", strong && colour ? "\033[1;31m" : "", text,
            strong && colour ? "\033[0m" : "");
}

static void bits_text(const rmg_rule *rule, char *text, size_t room)
{
    unsigned high = rmg_rule_high_bit(rule), low = high;

    for (uint8_t i = 0; i < rule->width; i++)
        low = MIN(low, rule->data_bits[i]);
    if (low == high)
        g_snprintf(text, (gulong)room, "D%u", high);
    else
        g_snprintf(text, (gulong)room, "D%u-D%u", high, low);
}

/* One line of cells: what `cell` writes for each rule, and whether it stands out. */
static void print_line(FILE *to, const char *label, const rmg_rule *const *rules, size_t count,
                       chart_state cell, const void *context)
{
    const bool colour = colour_on(to);
    char text[64];

    fprintf(to, "  %-*.*s", LABEL_WIDTH - 2, LABEL_WIDTH - 2, label);
    for (size_t i = 0; i < count; i++) {
        const bool strong = cell(context, rules[i], text, sizeof text);

        print_cell(to, text, strong, colour);
    }
    fputc('\n', to);
}

/* What the cells of a row are made from. */
typedef struct row {
    const rmg_board *board;
    chart_state state;
    const void *context;
} row;

static bool bits_cell(const void *context, const rmg_rule *rule, char *text, size_t room)
{
    (void)context;
    bits_text(rule, text, room);
    return false;
}

static bool name_cell(const void *context, const rmg_rule *rule, char *text, size_t room)
{
    const row *r = context;
    const bool strong = r->state && r->state(r->context, rule, text, room);

    g_snprintf(text, (gulong)room, strong ? ">%s<" : "%s ", r->board->sockets[rule->socket].name);
    return strong;
}

static bool state_cell(const void *context, const rmg_rule *rule, char *text, size_t room)
{
    const row *r = context;
    const bool strong = r->state(r->context, rule, text, room - 1);

    strcat(text, " ");
    return strong;
}

/* Do both lists hold the same bits in the same order? Then one heading serves them. */
static bool same_bits(const GPtrArray *a, const GPtrArray *b)
{
    char x[16], y[16];

    if (a->len != b->len)
        return false;
    for (guint i = 0; i < a->len; i++) {
        bits_text(a->pdata[i], x, sizeof x);
        bits_text(b->pdata[i], y, sizeof y);
        if (strcmp(x, y) != 0)
            return false;
    }
    return true;
}

static GPtrArray *rules_of(const rmg_board *board, size_t bank)
{
    GPtrArray *rules = g_ptr_array_new();

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank)
            g_ptr_array_add(rules, (gpointer)&board->placement.rules[r]);
    g_ptr_array_sort(rules, by_bit);
    return rules;
}

void print_chart(FILE *to, const rmg_board *board, chart_state state, const void *context)
{
    const row r = {board, state, context};
    GPtrArray *before = g_ptr_array_new();

    for (size_t b = 0; b < board->bank_count; b++) {
        GPtrArray *rules = rules_of(board, b);
        const bool headed = rules->len <= CELLS_A_ROW && same_bits(before, rules);

        for (guint i = 0; i < rules->len; i += CELLS_A_ROW) {
            const rmg_rule *const *cells = (const rmg_rule *const *)&rules->pdata[i];
            const size_t count = MIN(CELLS_A_ROW, rules->len - i);

            if (!headed)
                print_line(to, "", cells, count, bits_cell, &r);
            print_line(to, i ? "" : board->banks[b].name, cells, count, name_cell, &r);
            if (state)
                print_line(to, "", cells, count, state_cell, &r);
        }
        g_ptr_array_free(before, TRUE);
        before = rules;
    }
    g_ptr_array_free(before, TRUE);
}
