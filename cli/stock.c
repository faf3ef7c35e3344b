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

static void print_need(const rmg_stock_row *r, const socket_need *need)
{
    bool serves;
    gchar *text = need_text(need, (unsigned)MAX(r->cas_ns, 0), r->holds_ms, &serves);
    gchar *sentence = g_strdup_printf("%s %s: %s", serves ? "For" : "Not for", need->name, text);

    print_wrapped(stdout, "           ", 11, sentence);
    g_free(text);
    g_free(sentence);
}

/* `need`: NULL, or what good ones are held against. */
static void print_rows(const rmg_stock *stock, const socket_need *need)
{
    for (size_t i = 0; i < stock->count; i++) {
        const rmg_stock_row *r = &stock->rows[i];
        gchar *lead =
            g_strdup_printf("  %-8s %-7s %-8s %-9s ", r->label, r->part, r->lot, r->state);
        gchar *holds = r->holds_ms < 0 && r->cas_ns
                           ? g_strdup_printf("; data %d ns after its select", r->cas_ns)
                       : r->holds_ms < 0 ? g_strdup("")
                       : r->cas_ns       ? g_strdup_printf("; data %d ns after CAS, holds %d ms",
                                                           r->cas_ns, r->holds_ms)
                                         : g_strdup_printf("; holds %d ms", r->holds_ms);
        gchar *text = g_strconcat(r->text, holds, NULL);

        print_wrapped(stdout, lead, (unsigned)g_utf8_strlen(lead, -1), text);
        if (need && r->good)
            print_need(r, need);
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

/* The best of those that serve where they are needed (NULL: anywhere). */
static int print_best(const rmg_stock *stock, unsigned best, const socket_need *need)
{
    GPtrArray *good = g_ptr_array_new();
    unsigned chosen;

    for (size_t i = 0; i < stock->count; i++) {
        const rmg_stock_row *r = &stock->rows[i];
        bool serves = r->good && r->holds_ms;

        if (serves && need)
            g_free(need_text(need, (unsigned)MAX(r->cas_ns, 0), r->holds_ms, &serves));
        if (serves)
            g_ptr_array_add(good, (gpointer)(uintptr_t)r);
    }
    if (good->len)
        qsort(good->pdata, good->len, sizeof *good->pdata, by_grade);
    chosen = MIN(best, good->len);
    printf("%u good of %u asked for%s%s", chosen, best, need ? ", for " : "",
           need ? need->name : "");
    for (unsigned i = 0; i < chosen; i++) {
        const rmg_stock_row *r = good->pdata[i];

        printf("%s%s", i ? ", " : ": ", r->label);
        if (r->holds_ms > 0 && r->cas_ns)
            printf(" (%d ns, holds %d ms)", r->cas_ns, r->holds_ms);
        else if (r->holds_ms > 0)
            printf(" (holds %d ms)", r->holds_ms);
        else if (r->cas_ns)
            printf(" (%d ns)", r->cas_ns);
    }
    printf("\n");
    g_ptr_array_free(good, TRUE);
    return chosen < best ? EXIT_FAULTS : EXIT_PASS;
}

static int show(const rmg_stock *stock, const char *file, const chip_call *call,
                const socket_need *need)
{
    const char *part = call->part;
    const int best = call->best;
    rmg_stock chosen;
    const bool one = choose_part(stock, part, &chosen);
    int status = EXIT_PASS;

    if (!chosen.count)
        printf("%s: no chip%s%s yet\n", file, part ? " of part " : "", part ? part : "");
    else if (best == NOT_GIVEN) {
        print_rows(&chosen, need);
        print_counts(&chosen);
    } else if (one)
        status = print_best(&chosen, (unsigned)best, need);
    else
        status = wrong_call("chip", "%s holds several parts: say which with --part", file);
    g_free(chosen.rows);
    return status;
}

int stock_show(const chip_call *call, const char *file)
{
    rmg_stock stock;
    rmg_error error = {0};
    socket_need need = {0};
    int status;

    if (call->best != NOT_GIVEN && call->best < 1)
        return wrong_call("chip", "--best: found %d, expected a number from 1", call->best);
    if (call->need && !need_read(call->need, &need))
        return EXIT_CALL;
    if (rmg_stock_load(file, &stock, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass chip: %s\n", error.what);
        rmg_error_free(&error);
        status = EXIT_CALL;
    } else {
        status = show(&stock, file, call, call->need ? &need : NULL);
        rmg_stock_free(&stock);
    }
    g_free(need.name);
    return status;
}
