/* The board file to a board: head and regions. Banks, parts, sockets and checks have files of their
 * own. */
#include "build.h"
#include "base/internal.h"

#include <string.h>

#define MOST_REGIONS 1024u

static const char *const root_keys[] = {
    "board",      "revision",       "word",         "address-lines", "addresses", "undriven",
    "parts",      "access-ns",      "clock",        "refresh",       "regions",   "banks",
    "sockets",    "drawing",        "first-memory", "pages",         "lines",     "holds-ns",
    "holds-then", "byte-order",     "based-on",     "designators",   "without",   "reports",
    "symptoms",   "refresh-cycles", "refresh-ms",   "test-rom",      NULL};
static const char *const region_keys[] = {"name", "range", "kind", "note", "of", NULL};
static const char *const drawing_keys[] = {"width", "height", NULL};
static const char *const pages_keys[] = {"window", "select", "count", NULL};
static const char *const unit_words[] = {"bytes", "words", NULL};
static const char *const order_words[] = {"low first", "high first", NULL};
static const char *const after_words[] = {"high", "low", NULL};
static const char *const refresh_words[] = {"board", "accesses", NULL};
static const char *const undriven_words[] = {"high", "low", "holds", NULL};

static uint8_t log2_of(uint64_t value)
{
    uint8_t bits = 0;

    while (value >> (bits + 1u))
        bits++;
    return bits;
}

static void read_pages(board_build *b, const ynode *map)
{
    rmg_board *board = b->board;
    const uint64_t most = (uint64_t)1 << MIN(16u, board->word_bits);

    if (!map || !rmg_yaml_is_map(b->file, map, "pages", pages_keys))
        return;
    board->pages.window = rmg_board_range(b, map, "window");
    board->pages.select =
        rmg_board_word(board, rmg_yaml_number(b->file, map, "select", 0,
                                              board->last_address << board->byte_shift, -1));
    board->pages.count = (rmg_word)rmg_yaml_number(b->file, map, "count", 2, most, -1);
    board->last_address = ((rmg_addr)board->pages.count << board->address_bits) - 1u;
}

static void read_head(board_build *b, ynode *root)
{
    rmg_board *board = b->board;
    yaml_file *file = b->file;
    uint64_t lines;
    bool in_bytes;
    ynode *drawing = rmg_yaml_get(file, root, "drawing");

    board->name = rmg_yaml_string(file, root, "board", NULL);
    board->revision = rmg_yaml_string(file, root, "revision", "");
    board->word_bits = (uint8_t)rmg_yaml_number(file, root, "word", 1, 64, -1);
    in_bytes = board->word_bits >= 8 && !(board->word_bits & (board->word_bits - 1u));
    board->counts_bytes =
        rmg_yaml_choice(file, root, "addresses", unit_words, in_bytes ? 0 : 1) == 0;
    if (board->counts_bytes && !in_bytes) {
        rmg_yaml_wrong(file, rmg_yaml_get(file, root, "addresses"), "addresses",
                       "words of %u bits have no byte addresses; expected \"words\"",
                       board->word_bits);
        board->counts_bytes = false;
    }
    board->byte_shift = board->counts_bytes ? log2_of(board->word_bits / 8u) : 0;
    board->high_first = rmg_yaml_choice(file, root, "byte-order", order_words, 0) == 1;
    lines = rmg_yaml_number(file, root, "address-lines", board->byte_shift + 2u, 48, -1);
    board->address_bits = (uint8_t)(lines - board->byte_shift);
    board->last_address = ((rmg_addr)1 << board->address_bits) - 1u;
    read_pages(b, rmg_yaml_get(file, root, "pages"));
    board->undriven_known = rmg_yaml_get(file, root, "undriven") != NULL;
    board->undriven = (rmg_undriven)rmg_yaml_choice(file, root, "undriven", undriven_words, 0);
    board->hold_ns = rmg_yaml_number(file, root, "holds-ns", 0, 1000000000000, 0);
    board->after_hold = (rmg_undriven)rmg_yaml_choice(file, root, "holds-then", after_words, 0);
    board->access_ns = (uint32_t)rmg_yaml_number(file, root, "access-ns", 1, 1000000000, 1000);
    board->clock_hz = (uint32_t)rmg_yaml_number(file, root, "clock", 1000, 1000000000, 0);
    board->refresh_known = rmg_yaml_get(file, root, "refresh") != NULL;
    board->refreshes = rmg_yaml_choice(file, root, "refresh", refresh_words, 0) == 0;
    board->refresh_cycles = (uint16_t)rmg_yaml_number(file, root, "refresh-cycles", 1, 65535, 0);
    board->refresh_ms = (uint16_t)rmg_yaml_number(file, root, "refresh-ms", 1, 65535, 0);
    if (!board->refresh_cycles != !board->refresh_ms) {
        const char *key = board->refresh_ms ? "refresh-ms" : "refresh-cycles";

        rmg_yaml_wrong(file, rmg_yaml_get(file, root, key), key,
                       "goes with %s; expected both or neither",
                       board->refresh_ms ? "refresh-cycles" : "refresh-ms");
    }
    board->first_memory.first = 1;
    if (rmg_yaml_get(file, root, "first-memory"))
        board->first_memory = rmg_board_range(b, root, "first-memory");
    if (drawing && rmg_yaml_is_map(file, drawing, "the drawing", drawing_keys)) {
        board->width_mm = (double)rmg_yaml_number(file, drawing, "width", 10, 2000, -1);
        board->height_mm = (double)rmg_yaml_number(file, drawing, "height", 10, 2000, -1);
    }
}

static void read_regions(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "regions", true);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_region region = {0};

        if (i == MOST_REGIONS) {
            rmg_yaml_wrong(b->file, item, "regions", "more than %u regions", MOST_REGIONS);
            break;
        }
        if (!rmg_yaml_is_map(b->file, item, "a region", region_keys))
            continue;
        region.name = rmg_yaml_string(b->file, item, "name", NULL);
        region.note = rmg_yaml_string(b->file, item, "note", "");
        region.kind =
            (rmg_region_kind)rmg_yaml_choice(b->file, item, "kind", rmg_region_kind_names, -1);
        region.range = rmg_board_range(b, item, "range");
        if (region.kind == RMG_REGION_MIRROR)
            region.mirror_of = rmg_board_range(b, item, "of").first;
        else if (rmg_yaml_get(b->file, item, "of"))
            rmg_yaml_wrong(b->file, item, "of", "only a region of kind mirror has it");
        g_array_append_val(b->regions, region);
        g_ptr_array_add(b->region_nodes, item);
    }
}

/* Moves the lists that were built into the board. */
static void settle(board_build *b)
{
    rmg_board *board = b->board;

    board->region_count = b->regions->len;
    board->regions = rmg_array_take(b->regions);
    board->bank_count = b->banks->len;
    board->banks = rmg_array_take(b->banks);
    board->bank_wheres = rmg_array_take(b->bank_wheres);
    board->socket_count = b->sockets->len;
    board->sockets = rmg_array_take(b->sockets);
    board->line_count = b->lines->len;
    board->lines = rmg_array_take(b->lines);
    board->placement.rule_count = (uint16_t)b->rules->len;
    board->placement.rules = rmg_array_take(b->rules);
    g_ptr_array_free(b->rule_nodes, TRUE);
    g_ptr_array_free(b->changes, TRUE);
    g_ptr_array_free(b->region_nodes, TRUE);
    g_ptr_array_free(b->bank_nodes, TRUE);
    g_ptr_array_free(b->socket_nodes, TRUE);
    g_ptr_array_free(b->line_nodes, TRUE);
    g_ptr_array_free(b->parts, TRUE);
}

static void read_board(board_build *b)
{
    const guint before = b->file->errors->len;
    ynode *root;

    rmg_board_put_together(b);
    rmg_yaml_refuse_controls(b->file);
    root = rmg_yaml_root(b->file);
    if (b->file->errors->len != before ||
        !rmg_yaml_is_map(b->file, root, "a board file", root_keys))
        return;
    read_head(b, root);
    read_regions(b, root);
    rmg_board_read_parts(b, root);
    rmg_board_read_sockets(b, root);
    rmg_board_read_banks(b, root);
    rmg_board_read_lines(b, root);
    rmg_board_read_symptoms(b, root);
    rmg_board_read_rom(b, root);
    rmg_board_check_changes(b);
    if (b->file->errors->len == before)
        rmg_board_check(b);
}

static int by_first_address(const void *a, const void *b)
{
    const rmg_region *x = a, *y = b;

    return rmg_by_number(x->range.first, y->range.first);
}

static rmg_status load(const char *name, const char *text, rmg_board **result, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    rmg_status status =
        text ? rmg_yaml_open_text(&file, name, text, notes) : rmg_yaml_open(&file, name, notes);

    *result = NULL;
    if (status == RMG_OK) {
        board_build b = {
            .board = g_new0(rmg_board, 1),
            .file = &file,
            .regions = g_array_new(FALSE, TRUE, sizeof(rmg_region)),
            .banks = g_array_new(FALSE, TRUE, sizeof(rmg_bank)),
            .bank_wheres = g_array_new(FALSE, TRUE, sizeof(rmg_where)),
            .sockets = g_array_new(FALSE, TRUE, sizeof(rmg_socket)),
            .lines = g_array_new(FALSE, TRUE, sizeof(rmg_line)),
            .rules = g_array_new(FALSE, TRUE, sizeof(rmg_rule)),
            .rule_nodes = g_ptr_array_new(),
            .region_nodes = g_ptr_array_new(),
            .bank_nodes = g_ptr_array_new(),
            .socket_nodes = g_ptr_array_new(),
            .line_nodes = g_ptr_array_new(),
            .parts = g_ptr_array_new(),
        };

        b.board->file = g_strdup(name);
        b.board->store = g_ptr_array_new_with_free_func(g_free);
        read_board(&b);
        settle(&b);
        if (b.board->region_count)
            qsort(b.board->regions, b.board->region_count, sizeof *b.board->regions,
                  by_first_address);
        if (!notes->len)
            b.board->text =
                *b.board->based_on ? rmg_board_text(b.board) : g_strndup(file.text, file.size);
        if (!notes->len)
            b.board->hash = g_compute_checksum_for_string(G_CHECKSUM_SHA256, b.board->text, -1);
        *result = b.board;
        if (notes->len) {
            rmg_board_free(b.board);
            *result = NULL;
            status = RMG_ERR_CONTENT;
        }
    }
    rmg_yaml_close(&file);
    rmg_errors_take(notes, errors);
    return status;
}

rmg_status rmg_board_load(const char *file, rmg_board **board, rmg_errors *errors)
{
    return load(file, NULL, board, errors);
}

rmg_status rmg_board_load_text(const char *name, const char *text, rmg_board **board,
                               rmg_errors *errors)
{
    return load(name, text, board, errors);
}

void rmg_board_free(rmg_board *board)
{
    if (!board)
        return;
    for (size_t i = 0; i < board->region_count; i++) {
        g_free(board->regions[i].name);
        g_free(board->regions[i].note);
    }
    for (size_t i = 0; i < board->bank_count; i++) {
        g_free(board->banks[i].name);
        g_free(board->banks[i].called);
    }
    for (size_t i = 0; i < board->socket_count; i++) {
        g_free(board->sockets[i].name);
        g_free(board->sockets[i].note);
        g_free(board->sockets[i].unseen);
        g_free(board->sockets[i].image);
        g_free(board->sockets[i].image_named);
        g_free(board->sockets[i].stands);
    }
    for (size_t i = 0; i < board->line_count; i++) {
        for (size_t p = 0; p < board->lines[i].point_count; p++)
            g_free(board->lines[i].points[p].name);
        g_free(board->lines[i].points);
        g_free(board->lines[i].name);
    }
    g_free(board->lines);
    for (size_t i = 0; i < board->report_count; i++)
        g_free(board->reports[i].name);
    g_free(board->reports);
    for (size_t i = 0; i < board->symptom_count; i++) {
        g_free(board->symptoms[i].seen);
        g_free(board->symptoms[i].look_at);
        g_free(board->symptoms[i].note);
    }
    g_free(board->symptoms);
    g_free(board->rom.march_text);
    g_free(board->rom.disables);
    g_free(board->regions);
    g_free(board->banks);
    g_free(board->bank_wheres);
    g_free(board->sockets);
    g_free((void *)board->placement.rules);
    g_ptr_array_free(board->store, TRUE);
    g_free(board->file);
    g_free(board->text);
    g_free(board->hash);
    g_free(board->based_on);
    g_free(board->name);
    g_free(board->revision);
    g_free(board);
}
