/* Opening a chip or region on a target, in its board or bare. */
#include "rom.h"

#include <string.h>

#include "rimeglass/catalogue.h"
#include "rimeglass/chip.h"

bool readings_ok(const char *verb, int readings)
{
    if (readings >= 1 && readings <= (int)RMG_READINGS_MOST)
        return true;
    wrong_call(verb, "--readings %d: expected a number from 1 to %u", readings, RMG_READINGS_MOST);
    return false;
}

#define POD_SOCKET "X1" /* of a chip that comes from no board file */

/* The part that a word means, where it is no file. */
static const rmg_part *part_alone(const char *word)
{
    const char *suffix;

    return g_file_test(word, G_FILE_TEST_EXISTS) ? NULL : rmg_part_marked(word, &suffix);
}

void rom_take_part(GPtrArray *args, bool bare, const char *on)
{
    if (bare && on && (g_str_has_prefix(on, "link:") || g_str_has_prefix(on, "pod:")) &&
        args->len && part_alone(args->pdata[0]))
        g_ptr_array_insert(args, 1, g_strdup(POD_SOCKET));
}

const char rom_elsewhere[] = "";

/* The chip in an adapter that is not there: of one that another instrument read. */
static bool adapter_of(const char *verb, const rmg_socket *socket, rom_bench *b)
{
    if (!socket->part || socket->part->kind == RMG_PART_DRAM) {
        wrong_call(verb, "%s: %s", socket->name,
                   socket->part ? "a DRAM loses its contents when it is pulled"
                                : "the board file says no part for it");
        return false;
    }
    b->adapter = rmg_chip_board(socket->part, socket->name);
    rmg_rom_of_adapter(b->adapter, &b->rom);
    return true;
}

static bool open_bare(const char *verb, const char *what, const char *on, rom_bench *b)
{
    const uint16_t socket = rmg_board_socket(b->board, what);

    if (socket == RMG_NO_SOCKET) {
        wrong_call(verb, "--bare reads one chip: the board %s has no socket \"%s\"", b->board->name,
                   what);
        return false;
    }
    if (on == rom_elsewhere)
        return adapter_of(verb, &b->board->sockets[socket], b);
    if (!target_open_bare(verb, on, b->board, socket, &b->target))
        return false;
    rmg_rom_of_adapter(b->target.board, &b->rom);
    return true;
}

bool rom_open(const char *verb, const char *board_file, const char *what, const char *on, bool bare,
              rom_bench *b)
{
    rmg_error error = {0};

    memset(b, 0, sizeof *b);
    b->verb = verb;
    b->started = g_get_monotonic_time();
    if (on != rom_elsewhere && !target_name_ok(verb, on))
        return false;
    if (on != rom_elsewhere && rmg_target_brings_board(on)) {
        wrong_call(verb, "--on %s: that is this machine's memory; expected a board", on);
        return false;
    }
    if (bare && strcmp(what, POD_SOCKET) == 0 && part_alone(board_file))
        b->board = rmg_chip_board(part_alone(board_file), POD_SOCKET);
    else
        b->board = load_board(board_file);
    if (!b->board)
        return false;
    if (bare)
        return open_bare(verb, what, on, b);
    if (rmg_rom_find(b->board, what, &b->rom, &error) != RMG_OK) {
        wrong_call(verb, "%s", error.what);
        rmg_error_free(&error);
        return false;
    }
    return on == rom_elsewhere || target_open(verb, on, b->board, &b->target);
}

void rom_close(rom_bench *b)
{
    target_close(b->verb, &b->target);
    rmg_board_free(b->adapter);
    rmg_board_free(b->board);
    memset(b, 0, sizeof *b);
}

static void add_other(const rmg_rom *rom, const rmg_known *entry, rom_others *others)
{
    rmg_rom_good good;
    rmg_error error = {0};

    if (!*entry->image || entry->size != rmg_rom_bytes(rom) ||
        (g_file_test(entry->image, G_FILE_TEST_EXISTS) &&
         !g_file_test(entry->image, G_FILE_TEST_IS_REGULAR)))
        return; /* a pipe or device that a file names may have no end */
    if (rmg_rom_good_load(rom, entry->image, NULL, &good, &error) != RMG_OK) {
        fprintf(stderr, "rimeglass: \"%s\" of the catalogue is left out: %s\n", entry->name,
                error.what);
        rmg_error_free(&error);
        return;
    }
    others->words = g_renew(rmg_words, others->words, others->count + 1);
    others->names = g_renew(char *, others->names, others->count + 1);
    others->words[others->count] = rmg_rom_words(rom, good.bytes);
    good.bytes = NULL; /* the list's now */
    rmg_rom_good_free(&good);
    others->names[others->count++] =
        g_strdup_printf("%s%s%s%s%s", entry->name, *entry->version ? " " : "", entry->version,
                        *entry->socket ? ", " : "", entry->socket);
}

bool rom_others_load(const char *file, const rmg_rom *rom, rom_others *others)
{
    rmg_catalogue catalogue;
    rmg_errors errors = {0};

    memset(others, 0, sizeof *others);
    if (!file)
        return true;
    if (rmg_catalogue_load(file, &catalogue, &errors) != RMG_OK) {
        print_errors(&errors);
        return false;
    }
    for (size_t i = 0; i < catalogue.count; i++)
        add_other(rom, &catalogue.list[i], others);
    rmg_catalogue_free(&catalogue);
    return true;
}

void rom_others_free(rom_others *others)
{
    for (size_t i = 0; i < others->count; i++) {
        rmg_text_free((char *)(uintptr_t)others->words[i].at);
        g_free(others->names[i]);
    }
    g_free(others->words);
    g_free(others->names);
    memset(others, 0, sizeof *others);
}

double rom_seconds(void *context)
{
    const rom_bench *b = context;

    if (b->target.clock_ns)
        return (double)b->target.clock_ns(b->target.self) / 1e9;
    return (double)(g_get_monotonic_time() - b->started) / 1e6;
}
