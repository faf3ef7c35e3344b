/* rimeglass board: show or check a board file. */
#include <string.h>

#include "cli.h"
#include "rimeglass/report.h"

static const char description[] =
    "show prints the memory map and the chart of sockets; check reports errors: in the file, and "
    "in\nthe images that it names.\n"
    "How a board file is written: docs/board-file.md.\n\n"
    "Examples\n"
    "  rimeglass board show demo/boards/halvorn64.yaml\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --at 0x9C40 --bit D6\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --socket U19\n"
    "  rimeglass board show demo/boards/halvorn64.yaml --line D3\n"
    "  rimeglass board check demo/boards/ostrel16.yaml";

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

    printf("%s%s%s\n%u-bit words, %u address lines, addresses in %s\n\n", board->name,
           *board->revision ? ", revision " : "", board->revision, board->word_bits,
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
    printf("%s: no error found. %zu region%s, %zu bank%s, %zu socket%s; every bit of RAM and ROM "
           "has one place.\n",
           board->file, board->region_count, board->region_count == 1 ? "" : "s", board->bank_count,
           board->bank_count == 1 ? "" : "s", board->socket_count,
           board->socket_count == 1 ? "" : "s");
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
    gchar *json, *at, *bit, *socket, *line;
} board_call;

static int answer(const board_call *call, const char *word, const rmg_board *board)
{
    int status = EXIT_PASS;

    if (strcmp(word, "check") == 0 && !images_fit(board))
        return EXIT_CALL;
    if (call->json) {
        char *text = rmg_board_json(board);

        status = write_result(call->json, text) ? EXIT_PASS : EXIT_CALL;
        rmg_text_free(text);
        if (strcmp(call->json, "-") == 0)
            return status;
    }
    if (strcmp(word, "check") == 0)
        checked(board);
    else if (call->at)
        return ask_address(board, call->at, call->bit);
    else if (call->socket)
        return ask_socket(board, call->socket);
    else if (call->line)
        return ask_line(board, call->line);
    else
        show(board);
    return status;
}

static int run_call(const board_call *call, const GPtrArray *args)
{
    static const char *const words[] = {"show", "check", NULL};
    const char *word = args->len ? g_ptr_array_index(args, 0) : "";
    const char *near = rmg_nearest(word, words);
    rmg_board *board;
    int status;

    if (!g_strv_contains(words, word))
        return wrong_call("board", "found \"%s\", expected show or check%s%s%s", word,
                          near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    if (args->len != 2)
        return wrong_call("board", "expected one board file after \"%s\", found %u", word,
                          args->len - 1);
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
    board_call call = {NULL, NULL, NULL, NULL, NULL};
    const GOptionEntry entries[] = {
        {"at", 0, 0, G_OPTION_ARG_STRING, &call.at, "what holds this address?", "ADDRESS"},
        {"bit", 0, 0, G_OPTION_ARG_STRING, &call.bit, "with --at: only this data bit", "D6"},
        {"socket", 0, 0, G_OPTION_ARG_STRING, &call.socket, "what does it hold, on which pins?",
         "U19"},
        {"line", 0, 0, G_OPTION_ARG_STRING, &call.line, "where does it run, point by point?", "D3"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the board as JSON; - is stdout",
         "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("board", "show|check BOARD", description, entries, args, &status))
        status = run_call(&call, args);
    g_free(call.json);
    g_free(call.at);
    g_free(call.bit);
    g_free(call.socket);
    g_free(call.line);
    return status;
}
