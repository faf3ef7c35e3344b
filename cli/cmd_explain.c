/* rimeglass explain: what a march test can and cannot find, computed. */
#include <stdlib.h>
#include <string.h>

#include "cli.h"
#include "rimeglass/coverage.h"
#include "rimeglass/result.h"

static const char description[] =
    "Runs the march through the very engine that tests a board, on eight cells of one bit, with "
    "every\n"
    "instance of every class of fault. An instance counts only if it is found whatever the cells "
    "held\n"
    "before and whichever way each either-order element runs. The classes: docs/coverage.md.\n\n"
    "Examples\n"
    "  rimeglass explain \"March C-\"\n"
    "  rimeglass explain \"any(w0); up(r0,w1); down(r1,w0)\"\n"
    "  rimeglass explain --all";

typedef struct explain_call {
    gchar *json;
    gboolean all;
    uint8_t code[RMG_MARCH_BYTES];
} explain_call;

static double share(const uint8_t *code, rmg_fault_class k)
{
    rmg_coverage c;

    if (rmg_march_coverage(code, k, &c) != RMG_OK || !c.instances)
        return -1;
    return (double)c.found / (double)c.instances;
}

static void print_one(const char *name, const uint8_t *code)
{
    printf("%s: %u operations a word\n\n", name, rmg_march_operations(code));
    for (int k = 0; k < RMG_CLASS_COUNT; k++) {
        const double s = share(code, (rmg_fault_class)k);

        printf("  %-9s %5.1f %%  %-8s %s\n", rmg_fault_class_name((rmg_fault_class)k), s * 100,
               s >= 1  ? "all"
               : s > 0 ? "some"
                       : "none",
               rmg_fault_class_text((rmg_fault_class)k));
    }
}

static int width(int k)
{
    return MAX((int)strlen(rmg_fault_class_name((rmg_fault_class)k)), 3);
}

static bool is_address_fault(int k)
{
    return k >= RMG_CLASS_AF_A_AND && k <= RMG_CLASS_AF_D_OR;
}

/* The address faults, or all others, for every march known by name. */
static void print_table(bool address_faults)
{
    printf("%-9s ops", "");
    for (int k = 0; k < RMG_CLASS_COUNT; k++)
        if (is_address_fault(k) == address_faults)
            printf(" %*s", width(k), rmg_fault_class_name((rmg_fault_class)k));
    printf("\n");
    for (uint8_t i = 0; i < rmg_march_name_count; i++) {
        const uint8_t *code = rmg_march_names[i].code;

        printf("%-9s %3u", rmg_march_names[i].name, rmg_march_operations(code));
        for (int k = 0; k < RMG_CLASS_COUNT; k++)
            if (is_address_fault(k) == address_faults)
                printf(" %*.0f", width(k), share(code, (rmg_fault_class)k) * 100);
        printf("\n");
    }
}

static void print_all(void)
{
    printf("Share of each class that is found, in percent (docs/coverage.md)\n\n");
    print_table(false);
    printf("\n");
    print_table(true);
}

static void add_json(GString *text, const char *name, const uint8_t *code)
{
    gchar *quoted = g_strescape(name, "");

    g_string_append_printf(text, "%s\n  \"%s\": {\"ops_per_word\": %u, \"coverage\": {",
                           text->len > 1 ? "," : "", quoted, rmg_march_operations(code));
    for (int k = 0; k < RMG_CLASS_COUNT; k++) {
        gchar number[G_ASCII_DTOSTR_BUF_SIZE];

        g_string_append_printf(
            text, "%s\"%s\": %s", k ? ", " : "", rmg_fault_class_name((rmg_fault_class)k),
            g_ascii_formatd(number, sizeof number, "%.6f", share(code, (rmg_fault_class)k)));
    }
    g_string_append(text, "}}");
    g_free(quoted);
}

static int explain(explain_call *call, const char *name, const uint8_t *code)
{
    GString *text = g_string_new("{");
    bool written = true;

    if (call->json) {
        for (uint8_t i = 0; call->all && i < rmg_march_name_count; i++)
            add_json(text, rmg_march_names[i].name, rmg_march_names[i].code);
        if (!call->all)
            add_json(text, name, code);
        g_string_append(text, "\n}\n");
        written = write_result(call->json, text->str);
    }
    if (!call->json || strcmp(call->json, "-") != 0) {
        if (call->all)
            print_all();
        else
            print_one(name, code);
    }
    g_string_free(text, TRUE);
    return written ? EXIT_PASS : EXIT_CALL;
}

int command_explain(GPtrArray *args)
{
    explain_call call = {NULL, FALSE, {0}};
    const GOptionEntry entries[] = {
        {"all", 0, 0, G_OPTION_ARG_NONE, &call.all, "every march known by name, as a table", NULL},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the shares; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    const uint8_t *code = NULL;
    const char *name = "";
    int status;

    if (options_parse("explain", "MARCH", description, entries, args, &status)) {
        status = EXIT_CALL;
        if (args->len != (call.all ? 0u : 1u))
            wrong_call("explain", "expected one march, by name or as notation, or --all");
        else if (call.all ||
                 (code = find_march("explain", g_ptr_array_index(args, 0), call.code, &name)))
            status = explain(&call, name, code);
    }
    g_free(call.json);
    return status;
}
