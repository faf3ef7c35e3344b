/* A board under simulation, with the faults of a file and the images of its chips; and one chip of
 * it in an adapter of its own. */
#include <glib.h>
#include <string.h>

#include "rimeglass/image.h"
#include "rimeglass/target.h"
#include "base/internal.h"

/* Of this machine's memory, three quarters are for what a simulation touches. What it could touch
 * may be larger by far, but its marks are a fraction of that. */
#define MOST_TOUCHED (rmg_machine_bytes() / 4u * 3u)
#define MOST_TIMES   16u
#define ADAPTER_NS   10000u /* an access in an adapter: slow enough for any chip */

/* Loads what the sockets' chips hold, and hands it to the simulation. */
static rmg_status load_images(rmg_sim_board_run *run, const rmg_board *board, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    rmg_status status = RMG_OK;

    run->image_count = board->socket_count;
    run->images = g_new0(void *, MAX(run->image_count, 1));
    for (size_t i = 0; i < board->socket_count; i++) {
        const char *other = run->faults.images ? run->faults.images[i] : NULL;
        const char *file = other ? other : board->sockets[i].image;
        rmg_sim_chip *chip = &run->model.chips[i];
        rmg_error error;
        char *bytes;

        if (!*file || !board->sockets[i].part)
            continue;
        if (rmg_part_image(board->sockets[i].part, file, &bytes, &chip->image_bytes, &error) !=
            RMG_OK) {
            rmg_note(notes, error.status, board->sockets[i].name, "%s, %s: %s", board->file,
                     board->sockets[i].name, error.what);
            rmg_error_free(&error);
            status = RMG_ERR_CONTENT;
        }
        run->images[i] = bytes;
        chip->image = (const uint8_t *)bytes;
    }
    rmg_errors_take(notes, errors);
    return status;
}

rmg_status rmg_sim_board_power_on(rmg_sim_board_run *run, const rmg_board *board, bool warms)
{
    const size_t bytes = rmg_sim_bytes(&run->model.board, (uint16_t)run->faults.count);
    rmg_status status;

    if (bytes / MOST_TIMES > MOST_TOUCHED)
        return RMG_ERR_ROOM;
    run->memory = rmg_pages_new(bytes);
    if (!run->memory)
        return RMG_ERR_MEMORY;
    status = rmg_sim_start(&run->sim, &run->model.board, run->faults.list,
                           (uint16_t)run->faults.count, run->faults.world_seed, run->memory);
    rmg_sim_limit(&run->sim, MOST_TOUCHED);
    if (status == RMG_OK && warms)
        rmg_sim_warm(&run->sim, run->faults.from_c * 1000, run->faults.to_c * 1000,
                     (uint64_t)run->faults.warm_minutes * UINT64_C(60000000000));
    if (status == RMG_OK && warms && run->faults.clock_hz)
        rmg_sim_set(&run->sim, RMG_CONDITION_CLOCK_HZ, run->faults.clock_hz);
    if (status == RMG_OK && warms && run->faults.supply_mv)
        rmg_sim_set(&run->sim, RMG_CONDITION_SUPPLY_MV, run->faults.supply_mv);
    run->target.bus = &rmg_sim_bus;
    run->target.context = &run->sim;
    run->target.mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    return status;
}

rmg_status rmg_sim_board_begin(rmg_sim_board_run *run, const rmg_board *board, const char *file,
                               rmg_errors *errors)
{
    rmg_status status = RMG_OK;

    memset(run, 0, sizeof *run);
    run->faults.world_seed = 1;
    if (file)
        status = rmg_faults_load(file, board, &run->faults, errors);
    if (status != RMG_OK)
        return status;
    rmg_board_to_sim(board, &run->model);
    status = load_images(run, board, errors);
    return status == RMG_OK ? rmg_sim_board_power_on(run, board, file != NULL) : status;
}

void rmg_sim_board_end(rmg_sim_board_run *run)
{
    rmg_faults_free(&run->faults);
    rmg_sim_model_free(&run->model);
    for (size_t i = 0; i < run->image_count; i++)
        g_free(run->images[i]);
    g_free(run->images);
    rmg_board_free(run->adapter);
    rmg_pages_free(run->memory);
    memset(run, 0, sizeof *run);
}

static uint8_t adapter_word(const rmg_part *part)
{
    return part->width < 8 ? 8 : part->width;
}

/* The board file of an adapter: the chip from address 0 on, and as much again that is free. */
static char *adapter_text(const rmg_socket *socket)
{
    const rmg_part *part = socket->part;
    const unsigned lines = part->address_lines;
    const guint64 words = (guint64)1 << lines;

    return g_strdup_printf(
        "board: %s in a reading adapter\n"
        "word: %u\naddresses: words\naddress-lines: %u\nundriven: holds\naccess-ns: %u\n"
        "regions:\n"
        "  - {name: chip, range: 0x0-0x%" G_GINT64_MODIFIER "X, kind: rom}\n"
        "  - {name: free, range: 0x%" G_GINT64_MODIFIER "X-0x%" G_GINT64_MODIFIER
        "X, kind: empty}\n"
        "parts: [{number: \"%s\", kind: %s, width: %u, address-lines: %u, pins: \"%s\"}]\n"
        "banks: [{name: chip, range: 0x0-0x%" G_GINT64_MODIFIER "X, part: \"%s\", lines: A0-A%u, "
        "data: {%s: D0-D%u}}]\n"
        "sockets: [{names: %s, mount: socket}]\n",
        socket->name, adapter_word(part), lines + 1u, ADAPTER_NS, words - 1u, words,
        2u * words - 1u, part->number, part->kind == RMG_PART_ROM ? "rom" : "sram", part->width,
        lines, part->pins, words - 1u, part->number, lines - 1u, socket->name, part->width - 1u,
        socket->name);
}

/* Faults that come with the chip, and what it holds. */
static void pull_chip(const rmg_sim_board_run *from, uint16_t socket, rmg_sim_board_run *to)
{
    const rmg_sim_chip *chip = &from->model.chips[socket];
    const size_t words = (size_t)1 << chip->address_lines, width = (chip->width + 7u) / 8u;
    uint8_t *bytes = g_malloc(words * width);

    to->faults = from->faults;
    to->faults.images = NULL;
    to->faults.image_count = 0;
    to->faults.list = g_new0(rmg_sim_fault, MAX(from->faults.count, 1));
    to->faults.in_chip = g_new0(bool, MAX(from->faults.count, 1));
    to->faults.count = 0;
    for (size_t i = 0; i < from->faults.count; i++) {
        if (!from->faults.in_chip[i] || from->faults.list[i].chip != socket)
            continue;
        to->faults.in_chip[to->faults.count] = true;
        to->faults.list[to->faults.count] = from->faults.list[i];
        to->faults.list[to->faults.count++].chip = 0;
    }
    for (size_t i = 0; i < words; i++) {
        const uint32_t word = rmg_sim_word(&from->sim, socket, (rmg_addr)i);

        for (size_t b = 0; b < width; b++)
            bytes[i * width + b] = (uint8_t)(word >> 8 * b);
    }
    to->image_count = 1;
    to->images = g_new0(void *, 1);
    to->images[0] = bytes;
}

rmg_status rmg_sim_bare_begin(rmg_sim_board_run *run, const rmg_board *board, uint16_t socket,
                              const char *file, rmg_errors *errors)
{
    const rmg_part *part = board->sockets[socket].part;
    rmg_sim_board_run whole;
    rmg_status status;
    char *text;

    memset(run, 0, sizeof *run);
    if (!part || part->kind == RMG_PART_DRAM)
        return RMG_ERR_ARGUMENT;
    status = rmg_sim_board_begin(&whole, board, file, errors);
    if (status == RMG_OK) {
        text = adapter_text(&board->sockets[socket]);
        status = rmg_board_load_text("adapter", text, &run->adapter, errors);
        g_free(text);
    }
    if (status == RMG_OK) {
        pull_chip(&whole, socket, run);
        rmg_board_to_sim(run->adapter, &run->model);
        run->model.chips[0].image = run->images[0];
        run->model.chips[0].image_bytes =
            ((size_t)1 << part->address_lines) * ((part->width + 7u) / 8u);
        status = rmg_sim_board_power_on(run, run->adapter, file != NULL);
    }
    rmg_sim_board_end(&whole);
    return status;
}
