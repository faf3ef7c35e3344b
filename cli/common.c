/* What all commands share: options, complaints, files, text on a terminal. */
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "cli.h"
#include "rimeglass/report.h"

#define COLUMNS 100u /* where nothing says how wide the paper is */

int wrong_call(const char *name, const char *format, ...)
{
    va_list args;

    fprintf(stderr, "rimeglass %s: ", name);
    va_start(args, format);
    vfprintf(stderr, format, args);
    va_end(args);
    fprintf(stderr, "\n(rimeglass %s --help explains the command.)\n", name);
    return EXIT_CALL;
}

/* The option that GLib did not know, and the nearest one there is. */
static void unknown_option(const char *name, const GOptionEntry *entries, const GError *error)
{
    GPtrArray *words = g_ptr_array_new();
    const char *at = strstr(error->message, "--");
    const char *near;

    for (const GOptionEntry *e = entries; e->long_name; e++)
        g_ptr_array_add(words, (gpointer)e->long_name);
    g_ptr_array_add(words, (gpointer) "help");
    g_ptr_array_add(words, NULL);
    near = at ? rmg_nearest(at + 2, (const char *const *)words->pdata) : NULL;
    if (g_error_matches(error, G_OPTION_ERROR, G_OPTION_ERROR_UNKNOWN_OPTION) && near)
        wrong_call(name, "%s; did you mean --%s?", error->message, near);
    else
        wrong_call(name, "%s", error->message);
    g_ptr_array_free(words, TRUE);
}

bool options_parse(const char *name, const char *usage, const char *description,
                   const GOptionEntry *entries, GPtrArray *args, int *status)
{
    return options_parse_with(name, usage, description, entries, NULL, args, status);
}

/* A help text as wide as the terminal: paragraphs flow, indented lines stay as they are. */
static void print_help(const char *text)
{
    gchar **lines = g_strsplit(text, "\n", -1);
    GString *flow = g_string_new(NULL);

    for (size_t i = 0; lines[i]; i++) {
        const bool stays = lines[i][0] == ' ' || !lines[i][0];

        if (flow->len && stays) {
            print_wrapped(stdout, "", 0, flow->str);
            g_string_set_size(flow, 0);
        }
        if (stays)
            puts(lines[i]);
        else
            g_string_append_printf(flow, "%s%s", flow->len ? " " : "", lines[i]);
    }
    if (flow->len)
        print_wrapped(stdout, "", 0, flow->str);
    g_string_free(flow, TRUE);
    g_strfreev(lines);
}

bool options_parse_with(const char *name, const char *usage, const char *description,
                        const GOptionEntry *entries, gpointer data, GPtrArray *args, int *status)
{
    GOptionGroup *group = g_option_group_new("main", "", "", data, NULL);
    GOptionContext *context = g_option_context_new(usage);
    gchar *program = g_strdup_printf("rimeglass %s", name);
    GError *error = NULL;
    gchar **words = g_new0(gchar *, args->len + 2);
    bool help = false, ok;

    words[0] = g_strdup(program);
    for (guint i = 0; i < args->len; i++) {
        words[i + 1] = g_strdup(g_ptr_array_index(args, i));
        help |= strcmp(words[i + 1], "--help") == 0 || strcmp(words[i + 1], "-h") == 0;
    }
    g_set_prgname(program);
    g_option_context_set_help_enabled(context, FALSE);
    g_option_group_add_entries(group, entries);
    g_option_group_add_entries(group, (const GOptionEntry[]){outputs_force, G_OPTION_ENTRY_NULL});
    g_option_context_set_main_group(context, group);
    *status = EXIT_PASS;
    if (help) {
        gchar *text = g_option_context_get_help(context, TRUE, NULL);

        fputs(text, stdout);
        g_free(text);
        print_help(description);
        ok = false;
    } else {
        ok = g_option_context_parse_strv(context, &words, &error);
        if (!ok) {
            unknown_option(name, entries, error);
            g_error_free(error);
        } else {
            ok = outputs_ok(name, entries);
        }
        if (!ok)
            *status = EXIT_CALL;
    }
    g_ptr_array_set_size(args, 0);
    for (size_t i = 1; words[0] && words[i]; i++)
        if (strcmp(words[i], "--") != 0)
            g_ptr_array_add(args, g_strdup(words[i]));
    g_strfreev(words);
    g_free(program);
    g_option_context_free(context);
    return ok;
}

void print_errors(rmg_errors *errors)
{
    for (size_t i = 0; i < errors->count; i++)
        fprintf(stderr, "%s\n", errors->list[i].what);
    rmg_errors_free(errors);
}

rmg_board *load_board(const char *file)
{
    rmg_errors errors = {0};
    rmg_board *board;

    if (rmg_board_load(file, &board, &errors) != RMG_OK)
        print_errors(&errors);
    return board;
}

bool write_result(const char *file, const char *text)
{
    rmg_error error = {0};

    fflush(stdout);
    if (!text) {
        fprintf(stderr,
                "rimeglass: %s cannot be written: no memory is left for the result, or a name "
                "in it is not UTF-8\n",
                file);
        return false;
    }
    if (rmg_file_write(file, text, strlen(text), &error) == RMG_OK)
        return true;
    fprintf(stderr, "rimeglass: %s\n", error.what);
    rmg_error_free(&error);
    return false;
}

bool on_screen(FILE *stream)
{
    const char *term = getenv("TERM");

    return isatty(fileno(stream)) && !(term && strcmp(term, "dumb") == 0);
}

bool colour_on(FILE *stream)
{
    const char *no = getenv("NO_COLOR");

    return !(no && *no) && on_screen(stream);
}

unsigned text_columns(FILE *to)
{
    const int fd = fileno(to) < 0 ? STDOUT_FILENO : fileno(to); /* gathered for standard output */
    struct winsize size;

    if (!isatty(fd) || ioctl(fd, TIOCGWINSZ, &size) != 0 || !size.ws_col)
        return COLUMNS;
    return CLAMP(size.ws_col, 80u, 120u);
}

void print_wrapped(FILE *to, const char *lead, unsigned indent, const char *text)
{
    gchar **words = g_strsplit(text, " ", -1);
    const size_t columns = text_columns(to);
    size_t column = (size_t)g_utf8_strlen(lead, -1);
    bool fresh = true;

    fputs(lead, to);
    for (size_t i = 0; words[i]; i++) {
        const size_t length = (size_t)g_utf8_strlen(words[i], -1);
        /* a number stays with its percent sign */
        const bool percent = words[i + 1] && words[i + 1][0] == '%';
        const size_t whole = length + (percent ? 1u + strlen(words[i + 1]) : 0);

        if (!fresh && column + 1 + whole > columns) {
            fprintf(to, "\n%*s", (int)indent, "");
            column = indent;
            fresh = true;
        }
        fprintf(to, "%s%s", fresh ? "" : " ", words[i]);
        column += length + (fresh ? 0 : 1);
        fresh = false;
    }
    fputc('\n', to);
    g_strfreev(words);
}

const char *bank_alone(const rmg_bank *bank)
{
    return bank->called + (g_str_has_prefix(bank->called, "the ") ? 4 : 0);
}

char *size_text(const rmg_board *board, uint64_t words, char *text, size_t room)
{
    const uint64_t bytes = board->counts_bytes ? words << board->byte_shift : words;
    const char *unit = board->counts_bytes ? "byte" : "word";

    if (board->counts_bytes && bytes >= 8u << 20 && bytes % (1u << 20) == 0)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT " MiB", bytes >> 20);
    else if (board->counts_bytes && bytes >= 1024 && bytes % 1024 == 0)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT " KiB", bytes / 1024);
    else
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT " %s%s", bytes, unit,
                   bytes == 1 ? "" : "s");
    return text;
}

bool read_time(const char *command_name, const char *option, const char *text, double *seconds)
{
    static const struct {
        char unit;
        double seconds;
    } units[] = {{'s', 1}, {'m', 60}, {'h', 3600}};
    char *end;

    *seconds = g_ascii_strtod(text, &end);
    for (size_t i = 0; end != text && i < G_N_ELEMENTS(units); i++)
        if (*end == units[i].unit && !end[1]) {
            *seconds *= units[i].seconds;
            if (*seconds > 0 && *seconds < 1e9)
                return true;
        }
    wrong_call(command_name, "--%s %s: expected a time like 90s, 30m or 8h", option, text);
    return false;
}

bool image_form(const char *command_name, const char *as, const char *file, rmg_image_form *form)
{
    GString *expected;

    *form = !as && file ? rmg_image_form_by_name(file) : RMG_IMAGE_RAW;
    if (!as || rmg_image_form_parse(as, form))
        return true;
    expected = g_string_new(NULL);
    for (unsigned i = 0; i < RMG_IMAGE_FORMS; i++)
        g_string_append_printf(expected, "%s%s",
                               i == 0                      ? ""
                               : i + 1u == RMG_IMAGE_FORMS ? " or "
                                                           : ", ",
                               rmg_image_form_word((rmg_image_form)i));
    wrong_call(command_name, "--as %s: expected %s", as, expected->str);
    g_string_free(expected, TRUE);
    return false;
}

FILE *report_begin(const char *json, const char *written)
{
    FILE *nowhere = NULL;

    if ((json && strcmp(json, "-") == 0) || (written && strcmp(written, "-") == 0))
        nowhere = fopen("/dev/null", "w");
    return nowhere ? nowhere : stdout;
}

void report_end(FILE *to)
{
    if (to && to != stdout)
        fclose(to);
}

FILE *kept_text(char **text, size_t *length)
{
    FILE *kept = open_memstream(text, length);

    if (!kept)
        g_error("no memory is left for a text");
    return kept;
}

/* The numbers of the table that are near to a word; the hint is to be freed. */
static gchar *near_number(const char *word)
{
    GPtrArray *numbers = g_ptr_array_new();
    const char *near;
    gchar *hint;

    for (size_t i = 0; i < rmg_part_count(); i++)
        g_ptr_array_add(numbers, (gpointer)(uintptr_t)rmg_part_at(i)->number);
    g_ptr_array_add(numbers, NULL);
    near = rmg_nearest(word, (const char *const *)numbers->pdata);
    hint = near ? g_strdup_printf("; did you mean %s?", near) : g_strdup("");
    g_ptr_array_free(numbers, TRUE);
    return hint;
}

const rmg_part *part_of_marking(const char *command_name, const char *marking, const char **suffix)
{
    const rmg_part *part = rmg_part_marked(marking, suffix);

    if (!part) {
        gchar *hint = near_number(marking);

        wrong_call(command_name, "\"%s\" is no part of the table (rimeglass part list shows it)%s",
                   marking, hint);
        g_free(hint);
    }
    return part;
}
