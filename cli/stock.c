/* A stock file as a list, with a count of each kind of verdict. */
#include <string.h>

#include "chip.h"
#include "cli.h"
#include "rimeglass/chip.h"

bool stock_add(const char *file, const char *line)
{
    rmg_error error = {0};
    const bool added = rmg_stock_add(file, line, &error) == RMG_OK;

    if (!added)
        fprintf(stderr, "rimeglass chip: %s\n", error.what);
    rmg_error_free(&error);
    return added;
}

static void print_rows(const rmg_stock *stock)
{
    for (size_t i = 0; i < stock->count; i++) {
        const rmg_stock_row *r = &stock->rows[i];
        gchar *lead =
            g_strdup_printf("  %-8s %-7s %-8s %-9s ", r->label, r->part, r->lot, r->state);

        print_wrapped(stdout, lead, (unsigned)g_utf8_strlen(lead, -1), r->text);
        g_free(lead);
    }
}

/* How many there are of each kind, in the order in which they first came. */
static void print_counts(const rmg_stock *stock)
{
    printf("\n");
    for (size_t i = 0; i < stock->count; i++) {
        const char *state = stock->rows[i].state;
        size_t count = 0, width;
        bool before = false;

        for (size_t n = 0; n < stock->count; n++) {
            const bool same = strcmp(stock->rows[n].state, state) == 0;

            count += same;
            before |= same && n < i;
        }
        if (before)
            continue;
        width = (count * 50u + stock->count - 1u) / stock->count;
        printf("  %-9s %4zu ", state, count);
        while (width--)
            putchar('#');
        putchar('\n');
    }
}

static int print_best(const rmg_stock *stock, unsigned best)
{
    GString *set = g_string_new(NULL);
    unsigned chosen = 0;

    for (size_t i = 0; i < stock->count && chosen < best; i++)
        if (stock->rows[i].good)
            g_string_append_printf(set, "%s%s", chosen++ ? ", " : ": ", stock->rows[i].label);
    printf("%u good of %u asked for%s\n", chosen, best, set->str);
    g_string_free(set, TRUE);
    return chosen < best ? EXIT_FAULTS : EXIT_PASS;
}

int stock_show(const char *file, int best)
{
    rmg_stock stock;
    rmg_error error = {0};
    int status = EXIT_PASS;

    if (best != NOT_GIVEN && best < 1)
        return wrong_call("chip", "--best: found %d, expected a number from 1", best);
    if (rmg_stock_load(file, &stock, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass chip: %s\n", error.what);
        rmg_error_free(&error);
        return EXIT_CALL;
    }
    if (best != NOT_GIVEN)
        status = print_best(&stock, (unsigned)best);
    else if (!stock.count)
        printf("%s: no chip yet\n", file);
    else {
        print_rows(&stock);
        print_counts(&stock);
    }
    rmg_stock_free(&stock);
    return status;
}
