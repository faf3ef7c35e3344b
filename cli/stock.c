/* A stock file as a list, with a count of each kind of verdict. */
#include <stdlib.h>
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
        gchar *holds = r->holds_ms < 0 ? g_strdup("")
                       : r->cas_ns     ? g_strdup_printf("; data %d ns after CAS, holds %d ms",
                                                         r->cas_ns, r->holds_ms)
                                       : g_strdup_printf("; holds %d ms", r->holds_ms);
        gchar *text = g_strconcat(r->text, holds, NULL);

        print_wrapped(stdout, lead, (unsigned)g_utf8_strlen(lead, -1), text);
        g_free(holds);
        g_free(text);
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

/* The rows of one part (NULL: all), which stay the stock's; true: they are all of one part. */
static bool choose_part(const rmg_stock *stock, const char *part, rmg_stock *chosen)
{
    bool one = true;

    chosen->rows = g_new(rmg_stock_row, stock->count + 1);
    chosen->count = 0;
    for (size_t i = 0; i < stock->count; i++)
        if (!part || strcmp(stock->rows[i].part, part) == 0)
            chosen->rows[chosen->count++] = stock->rows[i];
    for (size_t i = 1; i < chosen->count; i++)
        one = one && strcmp(chosen->rows[0].part, chosen->rows[i].part) == 0;
    return one;
}

/* The good ones: those whose data come soonest first, of these those that hold longest; those that
 * were not graded last; then as they came. */
static int by_grade(const void *a, const void *b)
{
    const rmg_stock_row *const x = *(const rmg_stock_row *const *)a,
                               *const y = *(const rmg_stock_row *const *)b;
    const int soon_x = x->cas_ns ? x->cas_ns : G_MAXINT, soon_y = y->cas_ns ? y->cas_ns : G_MAXINT;

    return soon_x != soon_y             ? (soon_x > soon_y) - (soon_x < soon_y)
           : x->holds_ms != y->holds_ms ? (x->holds_ms < y->holds_ms) - (x->holds_ms > y->holds_ms)
                                        : (x > y) - (x < y);
}

static int print_best(const rmg_stock *stock, unsigned best)
{
    GPtrArray *good = g_ptr_array_new();
    unsigned chosen;

    for (size_t i = 0; i < stock->count; i++)
        if (stock->rows[i].good && stock->rows[i].holds_ms)
            g_ptr_array_add(good, &stock->rows[i]);
    if (good->len)
        qsort(good->pdata, good->len, sizeof *good->pdata, by_grade);
    chosen = MIN(best, good->len);
    printf("%u good of %u asked for", chosen, best);
    for (unsigned i = 0; i < chosen; i++) {
        const rmg_stock_row *r = good->pdata[i];

        printf("%s%s", i ? ", " : ": ", r->label);
        if (r->holds_ms > 0 && r->cas_ns)
            printf(" (%d ns, holds %d ms)", r->cas_ns, r->holds_ms);
        else if (r->holds_ms > 0)
            printf(" (holds %d ms)", r->holds_ms);
    }
    printf("\n");
    g_ptr_array_free(good, TRUE);
    return chosen < best ? EXIT_FAULTS : EXIT_PASS;
}

static int show(const rmg_stock *stock, const char *file, const char *part, int best)
{
    rmg_stock chosen;
    const bool one = choose_part(stock, part, &chosen);
    int status = EXIT_PASS;

    if (!chosen.count)
        printf("%s: no chip%s%s yet\n", file, part ? " of part " : "", part ? part : "");
    else if (best == NOT_GIVEN) {
        print_rows(&chosen);
        print_counts(&chosen);
    } else if (one)
        status = print_best(&chosen, (unsigned)best);
    else
        status = wrong_call("chip", "%s holds several parts: say which with --part", file);
    g_free(chosen.rows);
    return status;
}

int stock_show(const char *file, const char *part, int best)
{
    rmg_stock stock;
    rmg_error error = {0};
    int status;

    if (best != NOT_GIVEN && best < 1)
        return wrong_call("chip", "--best: found %d, expected a number from 1", best);
    if (rmg_stock_load(file, &stock, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass chip: %s\n", error.what);
        rmg_error_free(&error);
        return EXIT_CALL;
    }
    status = show(&stock, file, part, best);
    rmg_stock_free(&stock);
    return status;
}
