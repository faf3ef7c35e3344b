/* rimeglass explain: what a march test or a plan can and cannot find, computed. */
#include <stdlib.h>
#include <string.h>

#include "cli.h"
#include "plan_for.h"
#include "plan_shares.h"
#include "shortest.h"
#include "rimeglass/suspect.h"
#include "rimeglass/coverage.h"
#include "rimeglass/plan.h"
#include "rimeglass/report.h"

static const char description[] =
    "Runs the march through the same engine that tests a board, on eight cells of one bit,\n"
    "with every instance of every class of fault. An instance counts only if it is found\n"
    "whatever the cells held before and whichever way each either-order element runs. The\n"
    "classes: docs/coverage.md. With --culprits it prints the table of causes that the\n"
    "diagnosis uses, as a file to change. For a plan (quick, full, deep, or a plan file) it\n"
    "shows the steps, what they cost, and what its marches and holds find together.\n\n"
    "--shortest searches for the shortest march that finds every fault of the classes named,\n"
    "and proves what it found in the same way: names as the tables have them, separated by\n"
    "commas; AF, the address faults but those that give the value read before; static, all\n"
    "faults of one and two cells that need one operation. Ctrl-C keeps the best so far.\n\n"
    "--plan-for chooses the steps that add most a second to what is found, as long as there\n"
    "is time for one pass of them, and says what stays unfound. --without leaves out what a\n"
    "port cannot do, or a board cannot bear: noisy-lines, stopped-refresh, long-holds,\n"
    "rows, random, addresses.\n\n"
    "Examples\n"
    "  rimeglass explain full --board demo/boards/halvorn64.yaml\n"
    "  rimeglass explain \"March C-\"\n"
    "  rimeglass explain \"any(w0); up(r0,w1); down(r1,w0)\"\n"
    "  rimeglass explain --all\n"
    "  rimeglass explain --plan-for 20s --board demo/boards/halvorn64.yaml\n"
    "  rimeglass explain --shortest SAF,TF,AF,CFin,CFid,CFst --write build/mine.yaml";

typedef struct explain_call {
    gchar *json, *board;
    gboolean all;
    uint8_t code[RMG_MARCH_BYTES];
} explain_call;

static double share_of(const rmg_covered *marches, size_t count, rmg_fault_class k)
{
    rmg_coverage c;

    if (rmg_marches_coverage(marches, count, k, &c) != RMG_OK || !c.instances)
        return -1;
    return (double)c.found / (double)c.instances;
}

static void print_shares(const rmg_covered *marches, size_t count)
{
    for (int k = 0; k < RMG_CLASS_COUNT; k++) {
        const double s = share_of(marches, count, (rmg_fault_class)k);
        char lead[48];

        g_snprintf(lead, sizeof lead, "  %-9s %5.1f %%  %-8s ",
                   rmg_fault_class_name((rmg_fault_class)k), s * 100,
                   s >= 1  ? "all"
                   : s > 0 ? "some"
                           : "none");
        print_wrapped(stdout, lead, 30, rmg_fault_class_text((rmg_fault_class)k));
    }
}

static void print_one(const char *name, const uint8_t *code)
{
    printf("%s: %u operations a word\n\n", name, rmg_march_operations(code));
    print_shares(&(rmg_covered){code, 0}, 1);
}

static int width(int k)
{
    return MAX((int)strlen(rmg_fault_class_name((rmg_fault_class)k)), 3);
}

static bool is_address_fault(int k)
{
    return k >= RMG_CLASS_AF_A_AND && k <= RMG_CLASS_AF_D_OR;
}

/* The checkerboard test, which needs a background of its own, stands after those known by name. */
static const char checkerboard_name[] = "Checkerboard";

static rmg_covered known_march(uint8_t i, uint8_t *room)
{
    if (i < rmg_march_name_count)
        return (rmg_covered){rmg_march_names[i].code, 0};
    rmg_march_parse("any(w0); hold; any(r0); any(w1); hold; any(r1)", room, RMG_MARCH_BYTES, NULL);
    return (rmg_covered){room, 5};
}

static const char *known_name(uint8_t i)
{
    return i < rmg_march_name_count ? rmg_march_names[i].name : checkerboard_name;
}

/* A table for every test known by name of the address faults, or of all others, from class `from`
 * on: as many as there is room for. Returns the first that had none. */
static int print_table(bool address_faults, int from)
{
    const int columns = (int)text_columns(stdout);
    uint8_t room[RMG_MARCH_BYTES];
    int used = 16, end;

    printf("%-12s ops", "");
    for (end = from; end < RMG_CLASS_COUNT; end++) {
        if (is_address_fault(end) != address_faults)
            continue;
        used += width(end) + 1;
        if (used > columns)
            break;
        printf(" %*s", width(end), rmg_fault_class_name((rmg_fault_class)end));
    }
    printf("\n");
    for (uint8_t i = 0; i <= rmg_march_name_count; i++) {
        const rmg_covered march = known_march(i, room);

        printf("%-12s %3u", known_name(i), rmg_march_operations(march.code));
        for (int k = from; k < end; k++)
            if (is_address_fault(k) == address_faults)
                printf(" %*.0f", width(k), share_of(&march, 1, (rmg_fault_class)k) * 100);
        printf("\n");
    }
    return end;
}

static void print_all(void)
{
    printf("Share of each class that is found, in percent (docs/coverage.md)\n");
    for (unsigned address = 0; address < 2; address++)
        for (int k = 0; k < RMG_CLASS_COUNT;) {
            printf("\n");
            k = print_table(address, k);
        }
}

static void add_coverage(GString *text, const rmg_covered *marches, size_t count)
{
    g_string_append(text, "\"coverage\": {");
    for (int k = 0; count && k < RMG_CLASS_COUNT; k++) {
        gchar number[G_ASCII_DTOSTR_BUF_SIZE];

        g_string_append_printf(text, "%s\"%s\": %s", k ? ", " : "",
                               rmg_fault_class_name((rmg_fault_class)k),
                               g_ascii_formatd(number, sizeof number, "%.6f",
                                               share_of(marches, count, (rmg_fault_class)k)));
    }
    g_string_append(text, "}");
}

static void add_json(GString *text, const char *name, const rmg_covered *march)
{
    gchar *quoted = g_strescape(name, "");

    g_string_append_printf(text, "%s\n  \"%s\": {\"ops_per_word\": %u, ", text->len > 1 ? "," : "",
                           quoted, rmg_march_operations(march->code));
    add_coverage(text, march, 1);
    g_string_append(text, "}");
    g_free(quoted);
}

static int explain(explain_call *call, const char *name, const uint8_t *code)
{
    GString *text = g_string_new("{");
    bool written = true;

    if (call->json) {
        for (uint8_t i = 0; call->all && i <= rmg_march_name_count; i++) {
            const rmg_covered march = known_march(i, call->code);

            add_json(text, known_name(i), &march);
        }
        if (!call->all)
            add_json(text, name, &(rmg_covered){code, 0});
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

/* What a plan costs on a board. */
typedef struct cost {
    const rmg_board *board;
    uint64_t words;
    uint64_t accesses;
    double seconds; /* at one access a microsecond, holds included */
} cost;

static uint64_t ram_words(const rmg_board *board)
{
    uint64_t words = 0;

    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_RAM)
            words += board->regions[i].range.last - board->regions[i].range.first + 1u;
    return words;
}

static double step_seconds(const rmg_step *step, const cost *c)
{
    return (double)rmg_step_accesses(step, c->board, c->words) / 1e6 +
           rmg_step_hold_seconds(step, c->board);
}

/* "0.31 s", "12 s", "4.5 min", "7.3 h". */
static const char *duration(double seconds, char *text, size_t room)
{
    if (seconds < 9.95)
        g_snprintf(text, (gulong)room, "%.2f s", seconds);
    else if (seconds < 99.5)
        g_snprintf(text, (gulong)room, "%.0f s", seconds);
    else if (seconds < 5970)
        g_snprintf(text, (gulong)room, "%.1f min", seconds / 60);
    else
        g_snprintf(text, (gulong)room, "%.1f h", seconds / 3600);
    return text;
}

static void print_plan(const rmg_steps *steps, const cost *c, const plan_shares *shares)
{
    rmg_covered marches[RMG_COVERAGE_MARCHES];
    const size_t count = plan_marches(steps, marches);
    const int name = text_columns(stdout) < 90 ? 36 : 46;
    char size[40], time[32];

    printf("%s, on %s: %s of RAM, words of %u bits\n\n", steps->name, c->board->name,
           size_text(c->board, c->words, size, sizeof size), c->board->word_bits);
    printf("  %-*s times  ops a word     time at 1 MHz\n", name + 3, "step");
    for (size_t i = 0; i < steps->count; i++) {
        const rmg_step *step = &steps->list[i];
        const uint32_t ops = rmg_step_operations(step, c->board);

        printf("  %2zu  %-*.*s", i + 1, name, name, step->name);
        if (ops)
            printf("%5u %11u %17s\n", rmg_step_variants(step, c->board), ops,
                   duration(step_seconds(step, c), time, sizeof time));
        else if (step->kind >= RMG_STEP_MARCH)
            printf("%5s %11s %17s\n", "", "", duration(step_seconds(step, c), time, sizeof time));
        else if (step->kind == RMG_STEP_NOISE)
            printf(
                "   first pass only %18s\n",
                duration((double)rmg_step_first_accesses(step, c->board) / 1e6, time, sizeof time));
        else
            printf("   first pass only\n");
    }
    printf("  %-*s%5s %11.1f %17s\n\n", name + 4, "a pass", "",
           (double)c->accesses / (double)c->words, duration(c->seconds, time, sizeof time));
    if (count) {
        printf("Found by one of its marches and holds alone, whatever the cells held before\n");
        print_shares(marches, count);
    }
    print_plan_shares(shares);
    print_wrapped(
        stdout, "\n", 0,
        "Not counted: rows that many accesses disturb and lines that disturb each other, for which "
        "the steps of rows and of noisy lines are there. Retention is found where a cell holds "
        "less "
        "long than the hold.");
}

static int explain_plan(const explain_call *call, const rmg_steps *steps, const rmg_board *board)
{
    cost c = {board, ram_words(board), 0, 0};
    plan_shares shares;
    bool written = true;

    look_at_plan(steps, board, &shares);
    for (size_t i = 0; i < steps->count; i++) {
        c.accesses += rmg_step_accesses(&steps->list[i], board, c.words);
        c.seconds += step_seconds(&steps->list[i], &c);
    }
    if (call->json) {
        rmg_covered marches[RMG_COVERAGE_MARCHES];
        const size_t count = plan_marches(steps, marches);
        gchar *quoted = g_strescape(steps->name, "");
        gchar ops[G_ASCII_DTOSTR_BUF_SIZE], minutes[G_ASCII_DTOSTR_BUF_SIZE];
        GString *text = g_string_new(NULL);

        g_string_append_printf(
            text, "{\n  \"%s\": {\"ops_per_word\": %s, \"minutes_at_1_mhz\": %s, \"steps\": [",
            quoted, g_ascii_formatd(ops, sizeof ops, "%.3f", (double)c.accesses / (double)c.words),
            g_ascii_formatd(minutes, sizeof minutes, "%.6f", c.seconds / 60));
        for (size_t i = 0; i < steps->count; i++) {
            gchar *step = g_strescape(steps->list[i].name, "");

            g_string_append_printf(text, "%s\"%s\"", i ? ", " : "", step);
            g_free(step);
        }
        g_string_append(text, "], ");
        add_coverage(text, marches, count);
        add_plan_shares(text, &shares);
        g_string_append(text, "}\n}\n");
        written = write_result(call->json, text->str);
        g_string_free(text, TRUE);
        g_free(quoted);
    }
    if (!call->json || strcmp(call->json, "-") != 0)
        print_plan(steps, &c, &shares);
    return written ? EXIT_PASS : EXIT_CALL;
}

/* A board of 64 KiB in words of 8 bits, where none is given. */
static int explain_steps(const explain_call *call, const rmg_steps *steps)
{
    rmg_region ram = {.range = {0, 0xFFFF}, .kind = RMG_REGION_RAM};
    rmg_board any = {.name = (char *)"any board",
                     .word_bits = 8,
                     .last_address = 0xFFFF,
                     .counts_bytes = true,
                     .regions = &ram,
                     .region_count = 1};
    rmg_board *board;
    int status;

    if (!call->board)
        return explain_plan(call, steps, &any);
    board = load_board(call->board);
    if (!board)
        return EXIT_CALL;
    status = ram_words(board) ? explain_plan(call, steps, board)
                              : wrong_call("explain", "--board %s: it names no RAM", call->board);
    rmg_board_free(board);
    return status;
}

/* Is it a plan: built in, or a file? */
static bool is_plan(const char *name)
{
    for (size_t i = 0; rmg_plan_names[i]; i++)
        if (g_ascii_strcasecmp(rmg_plan_names[i], name) == 0)
            return true;
    return g_str_has_suffix(name, ".yaml") || g_file_test(name, G_FILE_TEST_IS_REGULAR);
}

static int explain_named(explain_call *call, const char *what)
{
    const uint8_t *code = NULL;
    const char *name = "";
    rmg_errors errors = {0};
    rmg_steps steps;
    int status;

    if (!is_plan(what)) {
        if (call->board)
            return wrong_call("explain", "--board goes with a plan");
        code = find_march("explain", what, call->code, &name);
        return code ? explain(call, name, code) : EXIT_CALL;
    }
    if (rmg_steps_load(what, &steps, &errors) != RMG_OK) {
        print_errors(&errors);
        return EXIT_CALL;
    }
    status = explain_steps(call, &steps);
    rmg_steps_free(&steps);
    return status;
}

/* The built-in table of causes, as a file. */
static int explain_culprits(void)
{
    rmg_cause_table table;
    char *text;

    rmg_causes_standard(&table);
    text = rmg_causes_text(&table);
    fputs(text, stdout);
    rmg_text_free(text);
    return EXIT_PASS;
}

/* "1%", "0.5 %" */
static int explain_passes(const char *text)
{
    char *end;
    const double percent = g_ascii_strtod(text, &end);
    guint64 passes;

    while (*end == ' ')
        end++;
    if (end == text || strcmp(end, "%") != 0 || !(percent >= 0.0001 && percent < 100))
        return wrong_call("explain",
                          "--passes-for %s: expected a share of passes from 0.0001%% to below "
                          "100%%, like 1%%",
                          text);
    passes = rmg_passes_to_exclude(percent / 100);
    printf("%" G_GUINT64_FORMAT " clean pass%s, with 95 %% confidence, faults that show in %g "
           "%% of passes or more.\n",
           passes, passes == 1 ? " excludes" : "es exclude", percent);
    return EXIT_PASS;
}

/* What was found, and its shares. */
static int explain_shortest(explain_call *call, const shortest_call *wanted)
{
    FILE *to = report_begin(call->json, NULL);
    const int status = find_shortest(wanted, to, call->code);
    char *notation;
    int shown;

    if (call->code[0])
        fprintf(to, "\n");
    report_end(to);
    if (!call->code[0])
        return status;
    notation = rmg_march_notation(call->code);
    shown = explain(call, notation, call->code);
    rmg_text_free(notation);
    return shown == EXIT_PASS ? status : shown;
}

static int explain_plan_for(const explain_call *call, plan_for_call *plan, gchar *write)
{
    rmg_board *board = load_board(call->board);
    int status;

    if (!board)
        return EXIT_CALL;
    plan->write = write;
    status = find_plan(plan, board);
    rmg_board_free(board);
    return status;
}

int command_explain(GPtrArray *args)
{
    gboolean culprits = FALSE;
    gchar *passes = NULL;
    plan_for_call plan = {0};
    explain_call call = {NULL, NULL, FALSE, {0}};
    shortest_call shortest = {.seed = 1, .width = -1};
    const GOptionEntry entries[] = {
        {"all", 0, 0, G_OPTION_ARG_NONE, &call.all, "every march known by name, as a table", NULL},
        {"passes-for", 0, 0, G_OPTION_ARG_STRING, &passes,
         "how many clean passes exclude faults that show in so many", "1%"},
        {"shortest", 0, 0, G_OPTION_ARG_STRING, &shortest.classes,
         "search for the shortest march that finds all of these", "CLASSES"},
        {"within", 0, 0, G_OPTION_ARG_STRING, &shortest.within, "of at most so many operations",
         "20N"},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &shortest.seed, "for what looks alike to it (1)", "N"},
        {"width", 0, 0, G_OPTION_ARG_INT, &shortest.width,
         "how many beginnings of each length it goes on with (300)", "N"},
        {"plan-for", 0, 0, G_OPTION_ARG_STRING, &plan.time,
         "choose the steps that find most in this time, on --board", "5m"},
        {"suspect", 0, 0, G_OPTION_ARG_STRING, &plan.suspect,
         "what counts more then: noise, heat, row, column, decoder, word, neighbours", "WHAT"},
        {"without", 0, 0, G_OPTION_ARG_STRING, &plan.without,
         "choose no steps for these (see below), separated by commas", "LIST"},
        {"access-us", 0, 0, G_OPTION_ARG_DOUBLE, &plan.access_us,
         "how long an access takes then (as the board file says)", "US"},
        {"write", 0, 0, G_OPTION_ARG_FILENAME, &shortest.write, "write it as a plan", "FILE"},
        {"culprits", 0, 0, G_OPTION_ARG_NONE, &culprits, "the table of causes, as YAML", NULL},
        {"board", 0, 0, G_OPTION_ARG_FILENAME, &call.board, "what a plan costs on this board",
         "BOARD"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the shares; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("explain", "MARCH|PLAN", description, entries, args, &status)) {
        if (!shortest.classes && (shortest.within || shortest.width >= 0))
            status = wrong_call("explain", "--within and --width go with --shortest");
        else if (!shortest.classes && !plan.time && shortest.write)
            status = wrong_call("explain", "--write goes with --shortest or --plan-for");
        else if (!plan.time && (plan.suspect || plan.without || plan.access_us != 0))
            status =
                wrong_call("explain", "--suspect, --without and --access-us go with --plan-for");
        else if (plan.time && (shortest.classes || !call.board))
            status = wrong_call("explain", "--plan-for needs --board, and does without --shortest");
        else if (args->len !=
                 (call.all || culprits || passes || shortest.classes || plan.time ? 0u : 1u))
            status = wrong_call("explain",
                                "expected one march, by name or as notation, or a plan, --all, "
                                "--culprits, --passes-for, --shortest or --plan-for");
        else if (plan.time)
            status = explain_plan_for(&call, &plan, shortest.write);
        else if (culprits)
            status = explain_culprits();
        else if (shortest.classes)
            status = explain_shortest(&call, &shortest);
        else if (passes)
            status = explain_passes(passes);
        else if (call.all)
            status = explain(&call, "", NULL);
        else
            status = explain_named(&call, g_ptr_array_index(args, 0));
    }
    g_free(call.json);
    g_free(call.board);
    g_free(passes);
    g_free(plan.time);
    g_free(plan.suspect);
    g_free(plan.without);
    g_free(shortest.classes);
    g_free(shortest.within);
    g_free(shortest.write);
    return status;
}
