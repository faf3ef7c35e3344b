/* A ROM that a test ROM has read: what it held, out of the lines that were heard. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/heard.h"
#include "rimeglass/image.h"
#include "rimeglass/verify.h"

#define PAGE 256u /* words */

char *rmg_rom_region_image(const rmg_rom *rom)
{
    char *all = g_malloc0((gsize)rmg_rom_bytes(rom));
    uint64_t placed = 0;

    for (uint16_t s = 0; s < rom->board->socket_count; s++) {
        const rmg_socket *socket = &rom->board->sockets[s];
        char *bytes;
        rmg_error error = {0};
        size_t size;

        if (!*socket->image || !socket->part)
            continue;
        if (rmg_part_image(socket->part, socket->image, &bytes, &size, &error) != RMG_OK) {
            rmg_error_free(&error);
            continue;
        }
        placed += rmg_rom_place_image(rom, s, bytes, all);
        rmg_text_free(bytes);
    }
    if (placed < rom->words * rom->bits) {
        g_free(all);
        return NULL;
    }
    return all;
}

/* A reading while its lines are gone through. */
typedef struct assembly {
    const rmg_testrom_plan *plan;
    rmg_told_rom *told;
    char *bytes;     /* as an image */
    uint16_t *heard; /* [pages]: words told */
    uint8_t *sums;   /* [pages]: readings in which they were wrong */
    uint8_t *ever;   /* [pages], of all passes: 1: now and then, 2: always */
} assembly;

static void begin(assembly *a)
{
    memset(a->heard, 0, a->told->pages * sizeof *a->heard);
    memset(a->sums, 0, a->told->pages);
    if (a->told->good)
        memcpy(a->bytes, a->told->good, (size_t)rmg_rom_bytes(&a->told->rom));
}

static void take_contents(assembly *a, const rmg_testrom_line *line)
{
    const unsigned bytes = a->plan->word_bits / 8u;

    for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES / bytes; i++) {
        const uint64_t at = line->address + i - a->told->rom.base;
        const rmg_word word =
            bytes == 2 ? (rmg_word)line->data[2 * i] << 8 | line->data[2 * i + 1u] : line->data[i];

        if (line->address < a->told->rom.base || at / PAGE >= a->told->pages)
            return;
        a->heard[at / PAGE]++;
        rmg_rom_put(&a->told->rom, a->bytes, at, rmg_rom_word(&a->told->rom, word));
    }
}

/* Every page was told whole, or did not need to be; else the reading is dropped. A run file may
 * tell of more than were ever kept. */
static void end(assembly *a)
{
    rmg_told_rom *t = a->told;
    bool whole = true;

    for (uint64_t p = 0; p < t->pages; p++)
        whole &= a->heard[p] == PAGE || (t->good && !a->heard[p] && !a->sums[p]);
    if (!whole || t->readings == RMG_TOLD_READINGS)
        return;
    for (uint64_t p = 0; p < t->pages; p++)
        if (a->sums[p])
            a->ever[p] |= a->sums[p] < RMG_TESTROM_READINGS ? 1 : 2;
    t->images = g_renew(char *, t->images, t->readings + 1u);
    t->images[t->readings++] = g_memdup2(a->bytes, (gsize)rmg_rom_bytes(&t->rom));
}

static void take(assembly *a, const rmg_testrom_line *line)
{
    const uint64_t page = (line->address - a->told->rom.base) / PAGE;

    if (line->says == RMG_TESTROM_SAYS_CONTENTS)
        take_contents(a, line);
    else if (line->says != RMG_TESTROM_SAYS_PAGE)
        end(a);
    else if (line->address >= a->told->rom.base && page < a->told->pages)
        a->sums[page]++;
    if (line->says != RMG_TESTROM_SAYS_CONTENTS && line->says != RMG_TESTROM_SAYS_PAGE)
        begin(a);
}

rmg_status rmg_told_rom_read(const rmg_run *run, uint8_t rom, rmg_told_rom *told)
{
    const rmg_told *all = run->heard ? run->heard->told : NULL;
    const rmg_region *region =
        all && rom < all->plan.rom_count
            ? rmg_board_region_at(run->board, all->plan.roms[rom].range.first)
            : NULL;
    rmg_error error = {0};
    assembly a = {0};

    memset(told, 0, sizeof *told);
    if (!region || rmg_rom_find(run->board, region->name, &told->rom, &error) != RMG_OK) {
        rmg_error_free(&error);
        return RMG_ERR_ARGUMENT;
    }
    told->pages = told->rom.words / PAGE;
    if (all->plan.roms[rom].known)
        told->good = rmg_rom_region_image(&told->rom);
    a = (assembly){&all->plan,
                   told,
                   g_malloc0((gsize)rmg_rom_bytes(&told->rom)),
                   g_new0(uint16_t, MAX(told->pages, 1u)),
                   g_new0(uint8_t, MAX(told->pages, 1u)),
                   g_new0(uint8_t, MAX(told->pages, 1u))};
    begin(&a);
    for (size_t i = 0; i < all->rom_line_count; i++)
        if (all->rom_lines[i].bank == rom)
            take(&a, &all->rom_lines[i]);
    for (uint64_t p = 0; p < told->pages; p++) {
        told->wrong += a.ever[p] == 2;
        told->unsteady += a.ever[p] & 1u;
    }
    g_free(a.bytes);
    g_free(a.heard);
    g_free(a.sums);
    g_free(a.ever);
    return RMG_OK;
}

void rmg_told_rom_free(rmg_told_rom *told)
{
    for (uint32_t i = 0; i < told->readings; i++)
        g_free(told->images[i]);
    g_free(told->images);
    g_free(told->good);
    memset(told, 0, sizeof *told);
}

bool rmg_told_rom_differs(const rmg_told_rom *told)
{
    return told->readings && (!told->good || told->wrong || told->unsteady);
}

rmg_status rmg_told_rom_judge(const rmg_told_rom *told, const rmg_words *others, size_t other_count,
                              rmg_verify *verify, rmg_suspects *suspects)
{
    const rmg_status status =
        rmg_verify_images(verify, &told->rom, (const void *const *)told->images, told->readings,
                          told->good, others, other_count);
    const rmg_rom_case rom_case = {.rom = &told->rom,
                                   .board = told->rom.board,
                                   .quality = &verify->quality,
                                   .comparison = verify->compared ? &verify->comparison : NULL};

    memset(suspects, 0, sizeof *suspects);
    if (status == RMG_OK)
        rmg_rom_suspects(&rom_case, suspects);
    return status;
}
