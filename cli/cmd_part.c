/* rimeglass part: what a part is, and what can stand where it stood. */
#include <string.h>

#include "cli.h"
#include "part.h"
#include "rimeglass/report.h"

static const char description[] =
    "list shows the parts that are known (--kind dram, sram, rom); show one part: pins, supplies,\n"
    "refresh, times. fits says whether a part can stand in a board's socket, pin by pin; find, "
    "which\n"
    "parts of the table can. The socket is known by the part that the board file puts there; what\n"
    "the board gives stands in its file too: refresh-cycles and refresh-ms in its head, within-ns "
    "in\n"
    "the entry of the socket. A part is named as it is marked: 4116, 4164-20, 27C256-15.\n"
    "More: docs/parts.md.\n\n"
    "Examples\n"
    "  rimeglass part list --kind dram\n"
    "  rimeglass part show 4116\n"
    "  rimeglass part show 4116 --pod\n"
    "  rimeglass part fits demo/boards/halvorn64.yaml U18 4164-20\n"
    "  rimeglass part find demo/boards/halvorn64.yaml U5";

static const char *const kind_words[] = {"dram", "sram", "rom", NULL};

static void free_call(part_call *call)
{
    g_free(call->json);
    g_free(call->picture);
    g_free(call->kind);
}

int part_json(const part_call *call, char *text)
{
    const int status = write_result(call->json, text) ? EXIT_PASS : EXIT_CALL;

    rmg_text_free(text);
    return status;
}

static void print_row(FILE *to, const rmg_part *part)
{
    gchar *what = rmg_part_text(part);
    gchar *refresh = part->refresh_cycles ? g_strdup_printf("%u rows in %u ms",
                                                            part->refresh_cycles, part->refresh_ms)
                                          : g_strdup("");

    fprintf(to, "  %-9s %-23s %2u pins %-9s %-18s %s\n", part->number, what,
            rmg_part_pin_count(part), rmg_package_text(part->package),
            part->half_of ? "half of a whole" : refresh,
            rmg_part_checked(part) ? "a drawing library" : "rules only");
    g_free(what);
    g_free(refresh);
}

static int list(const part_call *call, int kind)
{
    GPtrArray *parts = g_ptr_array_new();
    FILE *to = report_begin(call->json, NULL);
    int status = EXIT_PASS;

    for (size_t i = 0; i < rmg_part_count(); i++)
        if (kind < 0 || (int)rmg_part_at(i)->kind == kind)
            g_ptr_array_add(parts, (gpointer)(uintptr_t)rmg_part_at(i));
    fprintf(to, "  Number    What                    Package           Refresh            Pinout "
                "held against\n");
    for (guint i = 0; i < parts->len; i++)
        print_row(to, parts->pdata[i]);
    fprintf(to,
            "\n%u parts. \"rules only\": no drawing library has the part; compare its pinout with "
            "the data sheet.\n",
            parts->len);
    if (call->json)
        status = part_json(call, rmg_parts_json((const rmg_part *const *)parts->pdata, parts->len));
    report_end(to);
    g_ptr_array_free(parts, TRUE);
    return status;
}

/* The part seen from above, the notch on top. */
static void print_pins(FILE *to, const rmg_part *part, bool pod)
{
    const unsigned pins = rmg_part_pin_count(part);
    const bool module = part->package == RMG_PACKAGE_MODULE;

    fprintf(to, "%30s+------%s-------+\n", "", module ? "--" : "\\/");
    for (unsigned i = 0; i < pins / 2; i++) {
        const uint8_t left = (uint8_t)(i + 1),
                      right = (uint8_t)(module ? pins / 2 + i + 1 : pins - i);
        char a[RMG_PIN_NAME], b[RMG_PIN_NAME];
        gchar *does = pod ? rmg_pod_pin_text(part, left) : rmg_pin_text(part, left);
        gchar *right_does = pod ? rmg_pod_pin_text(part, right) : rmg_pin_text(part, right);

        rmg_part_pin_name(part, left, a);
        rmg_part_pin_name(part, right, b);
        fprintf(to, "%29s |%2u %-4s %4s %2u| %s\n", does, left, a, b, right, right_does);
        g_free(does);
        g_free(right_does);
    }
    fprintf(to, "%30s+---------------+\n\n", "");
}

static void print_fact(FILE *to, const char *name, const char *text)
{
    gchar *lead = g_strdup_printf("%-11s", name);

    print_wrapped(to, lead, 11, text);
    g_free(lead);
}

static void print_part(FILE *to, const rmg_part *part, bool pod)
{
    gchar *what = rmg_part_text(part), *text;

    fprintf(to, "%s: %s, %u pins%s%s\n\n", part->number, what, rmg_part_pin_count(part),
            part->package ? ", " : "", rmg_package_text(part->package));
    print_pins(to, part, pod);
    if (pod)
        print_fact(to, "Pod", rmg_pod_for(part));
    print_fact(to, "Supplies", part->supplies);
    if (part->row_lines) {
        text = g_strdup_printf("%u row lines, then %u column lines, on the same pins",
                               part->row_lines, part->address_lines - part->row_lines);
        print_fact(to, "Address", text);
        g_free(text);
    }
    if (part->refresh_cycles) {
        text = g_strdup_printf("%u rows in %u ms", part->refresh_cycles, part->refresh_ms);
        print_fact(to, "Refresh", text);
        g_free(text);
    }
    if (part->times) {
        text = g_strdup_printf("%s ns, typical: makers' suffixes differ", part->times);
        print_fact(to, "Access", text);
        g_free(text);
    }
    if (part->half_of) {
        text = g_strdup_printf("of a %s one half is good, chosen by %s", part->half_of, part->tied);
        print_fact(to, "Half", text);
        g_free(text);
    }
    if (part->about)
        print_fact(to, "Note", part->about);
    if (part->open)
        print_fact(to, "Outputs", "open collectors: they need resistors to +5 V");
    if (part->inverted)
        print_fact(to, "Data", "what is read is the complement of what was written");
    text = rmg_part_checked(part)
               ? g_strdup_printf("held against a drawing library's symbol (%s)",
                                 rmg_part_checked(part))
               : g_strdup("held against the rules of pinouts only: compare it with the data sheet");
    print_fact(to, "Pinout", text);
    g_free(text);
    g_free(what);
}

typedef struct part_picture {
    const rmg_part *part;
    bool pod;
    const char *file;
} part_picture;

static rmg_status draw(const void *context, rmg_error *error)
{
    const part_picture *p = context;

    return rmg_draw_part(p->part, p->pod, p->file, error);
}

static int show(const part_call *call, const char *marking)
{
    const char *suffix;
    const rmg_part *part = part_of_marking("part", marking, &suffix);
    const part_picture picture = {part, call->pod, call->picture};
    int status = EXIT_PASS;

    if (!part)
        return EXIT_CALL;
    if (call->pod && !rmg_pod_for(part))
        return wrong_call("part", "no pod of docs/pod.md holds a %s", part->number);
    if (call->json)
        status = part_json(call, rmg_parts_json(&part, 1));
    if (call->picture && !draw_apart(draw, &picture, call->picture))
        return EXIT_CALL;
    if (!call->picture) {
        FILE *to = report_begin(call->json, NULL);

        print_part(to, part, call->pod);
        report_end(to);
    }
    return status;
}

static int run_call(const part_call *call, const GPtrArray *args)
{
    static const struct {
        const char *word;
        guint args;
        const char *expected;
    } rows[] = {{"list", 1, "nothing more"},
                {"show", 2, "one part"},
                {"fits", 4, "a board file, a socket and a part"},
                {"find", 3, "a board file and a socket"}};
    static const char *const words[] = {"list", "show", "fits", "find", NULL};
    const char *word = args->len ? g_ptr_array_index(args, 0) : "";
    const char *near = rmg_nearest(word, words);
    int kind = -1;
    size_t row = 0;

    while (row < G_N_ELEMENTS(rows) && strcmp(rows[row].word, word) != 0)
        row++;
    if (row == G_N_ELEMENTS(rows))
        return wrong_call("part", "found \"%s\", expected list, show, fits or find%s%s%s", word,
                          near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    if (args->len != rows[row].args)
        return wrong_call("part", "expected %s after \"%s\", found %u word%s", rows[row].expected,
                          word, args->len - 1, args->len == 2 ? "" : "s");
    if (call->kind) {
        for (kind = 0; kind_words[kind] && strcmp(kind_words[kind], call->kind) != 0;)
            kind++;
        if (!kind_words[kind])
            return wrong_call("part", "--kind: found \"%s\", expected dram, sram or rom",
                              call->kind);
        if (row != 0)
            return wrong_call("part", "--kind goes with list");
    }
    if ((call->picture || call->pod) && row != 1)
        return wrong_call("part", "%s goes with show", call->pod ? "--pod" : "--picture");
    if (row == 0)
        return list(call, kind);
    if (row == 1)
        return show(call, g_ptr_array_index(args, 1));
    return part_in_socket(call, g_ptr_array_index(args, 1), g_ptr_array_index(args, 2),
                          row == 2 ? g_ptr_array_index(args, 3) : NULL);
}

int command_part(GPtrArray *args)
{
    part_call call = {0};
    const GOptionEntry entries[] = {
        {"kind", 0, 0, G_OPTION_ARG_STRING, &call.kind, "list: only dram, sram or rom", "KIND"},
        {"pod", 0, 0, G_OPTION_ARG_NONE, &call.pod, "show: which line of a pod goes to each pin",
         NULL},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "show: draw the pinout, .png, .svg or .pdf", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the answer as JSON; - is stdout",
         "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("part", "list | show PART | fits BOARD SOCKET PART | find BOARD SOCKET",
                      description, entries, args, &status))
        status = run_call(&call, args);
    free_call(&call);
    return status;
}
