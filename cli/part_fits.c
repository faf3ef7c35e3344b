/* Parts and a board's socket: does one fit, which do? */
#include <string.h>

#include "cli.h"
#include "part.h"
#include "rimeglass/report.h"

/* A part of the board's own list, or of the table; says what is wrong. */
static const rmg_part *part_for(const rmg_board *board, const char *marking, const char **suffix)
{
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_part *own = board->sockets[i].part;

        if (own && strcmp(own->number, marking) == 0) {
            *suffix = "";
            return own;
        }
    }
    return part_of_marking("part", marking, suffix);
}

/* A reason as a sentence of its own: "It needs ...". */
static gchar *sentence(const rmg_part *here, const rmg_part *there, const rmg_fit_reason *reason)
{
    char *text = rmg_fit_reason_text(here, there, reason);

    text[0] = g_ascii_toupper(text[0]);
    return text;
}

static void print_reasons(FILE *to, const rmg_part *here, const rmg_part *there,
                          const rmg_fitting *f, bool refusing, const char *head)
{
    bool any = false;

    for (size_t i = 0; i < f->reason_count; i++) {
        gchar *text;

        if (f->reasons[i].refuses != refusing)
            continue;
        if (!any)
            fprintf(to, "%s\n", head);
        any = true;
        text = sentence(here, there, &f->reasons[i]);
        print_wrapped(to, "  - ", 4, text);
        rmg_text_free(text);
    }
}

static void print_wires(FILE *to, const rmg_part *here, const rmg_part *there, const rmg_fitting *f)
{
    if (f->wire_count)
        fprintf(to, "Wires between socket and part; all other pins go straight down:\n");
    for (size_t i = 0; i < f->wire_count; i++) {
        char *text = rmg_wire_text(here, there, &f->wires[i]);

        print_wrapped(to, "  - ", 4, text);
        rmg_text_free(text);
    }
}

static const char *const fit_words[] = {"fits", "fits with wires", "does not fit"};

static int fits_one(const part_call *call, const rmg_socket *socket, const rmg_given *given,
                    const rmg_part *part, const char *suffix)
{
    FILE *to = report_begin(call->json, NULL);
    rmg_fitting f;
    int status = EXIT_PASS;

    rmg_part_fit(socket->part, given, part, suffix, &f);
    fprintf(to, "%s%s in %s, where a %s belongs: %s.\n", part->number, suffix, socket->name,
            socket->part->number, fit_words[f.fit]);
    print_reasons(to, socket->part, part, &f, true, "Why not:");
    if (f.fit != RMG_FITS_NOT)
        print_wires(to, socket->part, part, &f);
    print_reasons(to, socket->part, part, &f, false,
                  f.fit == RMG_FITS_NOT ? "Beside that:" : "To be looked at:");
    if (call->json)
        status = part_json(call, rmg_fittings_json(socket->name, socket->part, &part, &f, 1));
    report_end(to);
    return status == EXIT_PASS && f.fit == RMG_FITS_NOT ? EXIT_FAULTS : status;
}

/* Is something against the part that only who knows the board can settle? */
static bool is_open(const rmg_fitting *f)
{
    for (size_t i = 0; i < f->reason_count; i++)
        switch (f->reasons[i].why) {
        case RMG_FIT_HALF:
        case RMG_FIT_MASKED:
        case RMG_FIT_REFRESH_UNKNOWN:
        case RMG_FIT_COLUMNS:
        case RMG_FIT_UNUSED:
        case RMG_FIT_OPEN:
            return true;
        default:
            break;
        }
    return false;
}

static void print_found(FILE *to, const GPtrArray *parts, const rmg_fitting *fits, rmg_fit fit,
                        bool open, const char *head)
{
    GString *list = g_string_new(NULL);

    for (guint i = 0; i < parts->len; i++)
        if (fits[i].fit == fit && is_open(&fits[i]) == open)
            g_string_append_printf(list, "%s%s", list->len ? ", " : "",
                                   ((const rmg_part *)parts->pdata[i])->number);
    if (list->len)
        print_wrapped(to, head, (unsigned)strlen(head), list->str);
    g_string_free(list, TRUE);
}

static int find(const part_call *call, const rmg_socket *socket, const rmg_given *given,
                const char *board)
{
    FILE *to = report_begin(call->json, NULL);
    GPtrArray *parts = g_ptr_array_new();
    GArray *fits = g_array_new(FALSE, FALSE, sizeof(rmg_fitting));
    const rmg_fitting *list;
    int status = EXIT_PASS;

    for (size_t i = 0; i < rmg_part_count(); i++) {
        rmg_fitting f;

        /* whatever its speed: that depends on the marking, which "fits" is asked for */
        rmg_part_fit(socket->part, given, rmg_part_at(i), "", &f);
        for (size_t r = 0; r < f.reason_count && f.fit == RMG_FITS_NOT; r++)
            if (f.reasons[r].why == RMG_FIT_SLOW) {
                rmg_part_fit(socket->part,
                             &(rmg_given){given->refresh_cycles, given->refresh_ms, 0},
                             rmg_part_at(i), "", &f);
                break;
            }
        if (f.fit == RMG_FITS_NOT)
            continue;
        g_ptr_array_add(parts, (gpointer)(uintptr_t)rmg_part_at(i));
        g_array_append_val(fits, f);
    }
    list = (const rmg_fitting *)(const void *)fits->data;
    fprintf(to, "%s, where a %s belongs\n", socket->name, socket->part->number);
    print_found(to, parts, list, RMG_FITS, false, "  Fits as it is:        ");
    print_found(to, parts, list, RMG_FITS, true, "  Fits, with a question: ");
    print_found(to, parts, list, RMG_FITS_ADAPTED, false, "  Fits with wires:      ");
    print_found(to, parts, list, RMG_FITS_ADAPTED, true, "  With wires, and a question: ");
    if (!parts->len)
        fprintf(to, "  Nothing in the table fits.\n");
    else
        fprintf(to, "Wires, questions and speed of one: rimeglass part fits %s %s PART\n", board,
                socket->name);
    if (call->json)
        status = part_json(call, rmg_fittings_json(socket->name, socket->part,
                                                   (const rmg_part *const *)parts->pdata, list,
                                                   parts->len));
    report_end(to);
    g_ptr_array_free(parts, TRUE);
    g_array_free(fits, TRUE);
    return status;
}

static int in_socket(const part_call *call, const rmg_board *board, const char *name,
                     const char *marking)
{
    const uint16_t number = rmg_board_socket(board, name);
    const rmg_socket *socket = &board->sockets[number == RMG_NO_SOCKET ? 0 : number];
    const rmg_given given = {board->refresh_cycles, board->refresh_ms, socket->within_ns};
    const rmg_part *part;
    const char *suffix;

    if (number == RMG_NO_SOCKET) {
        char *hint = rmg_board_name_hint(board, name, RMG_NAMES_SOCKETS);

        wrong_call("part", "%s has no socket %s%s", board->file, name, hint);
        rmg_text_free(hint);
        return EXIT_CALL;
    }
    if (!socket->part)
        return wrong_call("part", "%s: nothing is known of what belongs into %s; give it a part",
                          socket->stands, socket->name);
    if (!marking)
        return find(call, socket, &given, board->file);
    part = part_for(board, marking, &suffix);
    return part ? fits_one(call, socket, &given, part, suffix) : EXIT_CALL;
}

int part_in_socket(const part_call *call, const char *board_file, const char *socket,
                   const char *marking)
{
    rmg_board *board = load_board(board_file);
    int status = EXIT_CALL;

    if (board)
        status = in_socket(call, board, socket, marking);
    rmg_board_free(board);
    return status;
}
