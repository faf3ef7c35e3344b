/* rimeglass board: show or check a board file. */
#include <string.h>

#include "cli.h"
#include "rimeglass/report.h"

static const char description[] =
    "show prints the memory map and the chart of sockets; check reports errors: in the file, and "
    "in\nthe images that it names, and hints at what is seldom meant.\n"
    "new asks for a board and writes its file: back takes back, ? explains, list shows the "
    "answers, "
    "correct N\nchanges one, leave ends it for now. Answers are kept beside the file until it is "
    "written.\n"
    "How a board file is written: docs/board-file.md.\n\n"
    "Examples\n"
    "  rimeglass board show demo/boards/halvorn64.yaml\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --at 0x9C40 --bit D6\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --socket U19\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --line D3\n"
    "  rimeglass board show demo/boards/halvorn64-d.yaml --differs demo/boards/halvorn64.yaml\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --places\n"
    "  rimeglass board check demo/boards/ostrel16.yaml\n"
    "  rimeglass board new mine.yaml --answers demo/answers/tidegauge.yaml";

static const char *bank_of(const rmg_board *board, const rmg_range *range)
{
    const char *name = "";

    for (size_t b = 0; b < board->bank_count; b++)
        if (board->bank_wheres[b].first <= range->last &&
            range->first <= board->bank_wheres[b].last)
            name = *name ? "several banks" : bank_alone(&board->banks[b]);
    return name;
}

static void print_region(const rmg_board *board, const rmg_region *r)
{
    char range[40], size[40];
    const char *bank = bank_of(board, &r->range);
    gchar *lead = g_strdup_printf(
        "  %s %11s  %-9s %-14s ", rmg_board_range_text(board, &r->range, range, sizeof range),
        size_text(board, r->range.last - r->range.first + 1u, size, sizeof size),
        rmg_region_kind_name(r->kind), r->name);
    gchar *more = g_strdup_printf("%s%s%s", bank, *bank && *r->note ? "; " : "", r->note);

    print_wrapped(stdout, lead, (unsigned)strlen(lead), more);
    g_free(lead);
    g_free(more);
}

static void print_sockets(const rmg_board *board)
{
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_part *part = board->banks[b].part;
        const rmg_range range = {board->bank_wheres[b].first, board->bank_wheres[b].last};
        char text[40];
        size_t mounts[] = {0, 0, 0}, count = 0;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            if (board->placement.rules[r].bank == b) {
                mounts[board->sockets[board->placement.rules[r].socket].mount]++;
                count++;
            }
        printf("  %-12s %-19s %zu x %s, %s\n", board->banks[b].name,
               rmg_board_range_text(board, &range, text, sizeof text), count, part->number,
               mounts[RMG_MOUNT_SOCKET] == count     ? "in sockets"
               : mounts[RMG_MOUNT_SOLDERED] == count ? "soldered"
               : mounts[RMG_MOUNT_BALL] == count     ? "on solder balls"
                                                     : "some soldered");
    }
}

static void show(const rmg_board *board)
{
    char text[40];

    printf("%s%s%s%s%s\n%u-bit words, %u address lines, addresses in %s\n\n", board->name,
           *board->revision ? ", revision " : "", board->revision,
           *board->based_on ? ", based on " : "", board->based_on, board->word_bits,
           board->address_bits + board->byte_shift, board->counts_bytes ? "bytes" : "words");
    printf("Memory\n");
    for (size_t i = 0; i < board->region_count; i++)
        print_region(board, &board->regions[i]);
    if (board->first_memory.first <= board->first_memory.last)
        printf("  First memory, tested first and alone: %s\n",
               rmg_board_range_text(board, &board->first_memory, text, sizeof text));
    printf("\nBanks\n");
    print_sockets(board);
    printf("\nSockets by data bit\n");
    print_chart(stdout, board, NULL, NULL);
}

static void checked(const rmg_board *board)
{
    char **hints = rmg_board_hints(board);

    printf("%s: no error found. %zu region%s, %zu bank%s, %zu socket%s; every bit of RAM and ROM "
           "has one place.\n",
           board->file, board->region_count, board->region_count == 1 ? "" : "s", board->bank_count,
           board->bank_count == 1 ? "" : "s", board->socket_count,
           board->socket_count == 1 ? "" : "s");
    if (hints[0])
        printf("Hints, where a file is seldom meant so:\n");
    for (size_t i = 0; hints[i]; i++)
        print_wrapped(stdout, "  - ", 4, hints[i]);
    rmg_texts_free(hints);
}

/* Every image that a socket names can be read and fits the chip; of each that cannot, a line. */
static bool images_fit(const rmg_board *board)
{
    bool fit = true;

    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];
        rmg_error error = {0};
        char *bytes;
        size_t size;

        if (!*s->image || !s->part)
            continue;
        if (rmg_part_image(s->part, s->image, &bytes, &size, &error) != RMG_OK) {
            fprintf(stderr, "%s: image of %s: %s\n", s->stands, s->name, error.what);
            fit = false;
        }
        rmg_error_free(&error);
        rmg_text_free(bytes);
    }
    return fit;
}

typedef struct board_call {
    gchar *json, *at, *bit, *socket, *line, *differs, *picture;
    gboolean places, solder_side;
    board_answers given; /* of new */
} board_call;

static void free_call(board_call *call)
{
    g_free(call->json);
    g_free(call->at);
    g_free(call->bit);
    g_free(call->socket);
    g_free(call->line);
    g_free(call->differs);
    g_free(call->picture);
    g_free(call->given.file);
    g_strfreev(call->given.list);
}

/* Writes the JSON, if it is asked for; *only: there is nothing else to print. */
static int write_json(const board_call *call, char *text, bool *only)
{
    int status = EXIT_PASS;

    if (call->json)
        status = write_result(call->json, text) ? EXIT_PASS : EXIT_CALL;
    *only = call->json && strcmp(call->json, "-") == 0;
    rmg_text_free(text);
    return status;
}

static int compare(const board_call *call, const rmg_board *board)
{
    rmg_board *other = load_board(call->differs);
    rmg_board_differences found;
    int status;
    bool only;

    if (!other)
        return EXIT_CALL;
    rmg_boards_compare(board, other, &found);
    status = write_json(call, call->json ? rmg_board_differences_json(board, other, &found) : NULL,
                        &only);
    if (!only)
        print_differences(board, other, &found);
    rmg_board_differences_free(&found);
    rmg_board_free(other);
    return status;
}

typedef struct picture_call {
    const board_call *call;
    const rmg_board *board;
} picture_call;

static rmg_status draw(const void *context, rmg_error *error)
{
    const picture_call *p = context;

    return rmg_draw_board(p->board, p->call->solder_side, p->call->picture, error);
}

static int answer(const board_call *call, const char *word, const rmg_board *board)
{
    const picture_call picture = {call, board};
    int status;
    bool only;

    if (strcmp(word, "check") == 0 && !images_fit(board))
        return EXIT_CALL;
    if (call->differs)
        return compare(call, board);
    status = write_json(call, call->json ? rmg_board_json(board) : NULL, &only);
    if (call->picture && !draw_apart(draw, &picture, call->picture))
        return EXIT_CALL;
    if (only)
        return status;
    if (strcmp(word, "check") == 0)
        checked(board);
    else if (call->at)
        return ask_address(board, call->at, call->bit);
    else if (call->socket)
        return ask_socket(board, call->socket);
    else if (call->line)
        return ask_line(board, call->line);
    else if (call->places || (call->solder_side && !call->picture))
        return print_places(board, call->solder_side);
    else if (!call->picture)
        show(board);
    return status;
}

static int run_call(const board_call *call, const GPtrArray *args)
{
    static const char *const words[] = {"show", "check", "new", NULL};
    const char *word = args->len ? g_ptr_array_index(args, 0) : "";
    const char *near = rmg_nearest(word, words);
    rmg_board *board;
    int status;

    if (!g_strv_contains(words, word))
        return wrong_call("board", "found \"%s\", expected show, check or new%s%s%s", word,
                          near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    if (args->len != 2)
        return wrong_call("board", "expected one board file after \"%s\", found %u", word,
                          args->len - 1);
    if (strcmp(word, "new") == 0)
        return board_new(g_ptr_array_index(args, 1), &call->given);
    if (call->given.file || call->given.list || call->given.standard)
        return wrong_call("board", "--answers, --answer and --defaults go with new");
    if (call->bit && !call->at)
        return wrong_call("board", "--bit goes with --at");
    board = load_board(g_ptr_array_index(args, 1));
    if (!board)
        return EXIT_CALL;
    status = answer(call, word, board);
    rmg_board_free(board);
    return status;
}

int command_board(GPtrArray *args)
{
    board_call call = {0};
    const GOptionEntry entries[] = {
        {"at", 0, 0, G_OPTION_ARG_STRING, &call.at, "what holds this address?", "ADDRESS"},
        {"bit", 0, 0, G_OPTION_ARG_STRING, &call.bit, "with --at: only this data bit", "D6"},
        {"socket", 0, 0, G_OPTION_ARG_STRING, &call.socket, "what does it hold, on which pins?",
         "U19"},
        {"line", 0, 0, G_OPTION_ARG_STRING, &call.line, "where does it run, point by point?", "D3"},
        {"places", 0, 0, G_OPTION_ARG_NONE, &call.places, "the sockets as they lie on the board",
         NULL},
        {"solder-side", 0, 0, G_OPTION_ARG_NONE, &call.solder_side,
         "the same from the other side, turned over left to right", NULL},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "draw them, .png, .svg or .pdf (both sides)", "FILE"},
        {"differs", 0, 0, G_OPTION_ARG_FILENAME, &call.differs,
         "what differs from this other board or revision", "OTHER"},
        {"answers", 0, 0, G_OPTION_ARG_FILENAME, &call.given.file,
         "new: a file of answers, \"- word: 8\" line by line", "FILE"},
        {"answer", 0, 0, G_OPTION_ARG_STRING_ARRAY, &call.given.list,
         "new: one answer; as often as needed, in their order", "KEY=TEXT"},
        {"defaults", 0, 0, G_OPTION_ARG_NONE, &call.given.standard,
         "new: what is not answered is as proposed; ask nothing", NULL},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json,
         "write the board, or what differs, as JSON; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("board", "show|check|new BOARD", description, entries, args, &status))
        status = run_call(&call, args);
    free_call(&call);
    return status;
}
