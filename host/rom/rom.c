/* A chip or a region as words to be read, with the lines and pins each bit comes by. */
#include "rimeglass/rom.h"

#include <glib.h>
#include <string.h>

#include "base/internal.h"
static uint8_t image_bytes(uint8_t bits)
{
    uint8_t bytes = 1;

    while (bytes * 8u < bits)
        bytes = (uint8_t)(bytes * 2u);
    return bytes;
}

static const rmg_rule *rule_of(const rmg_board *board, uint16_t socket)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == socket)
            return &board->placement.rules[r];
    return NULL;
}

/* Each address line of the chip is fed by a line of the bus, and counts, or is tied. */
static void chip_of(rmg_rom *rom, const rmg_rule *rule)
{
    rmg_addr fed = 0;

    rom->bits = rule->width;
    memcpy(rom->bus_bit, rule->data_bits, rule->width);
    for (uint8_t k = 0; k < rule->address_lines; k++) {
        const uint8_t from = rule->address_bits[k];

        if (from == RMG_FEED_1)
            rom->fixed |= (rmg_addr)1 << k;
        if (from >= RMG_ADDR_BITS)
            continue;
        rom->bus_line[rom->lines] = from;
        rom->cell_bit[rom->lines++] = k;
        fed |= (rmg_addr)1 << from;
    }
    rom->words = (uint64_t)1 << rom->lines;
    rom->base = (rule->where.first & ~fed & ~rule->where.mask) | rule->where.match;
}

/* Every bus bit that a chip holds at its start. Lines count as far as the region begins evenly. */
static void region_of(rmg_rom *rom)
{
    const rmg_range *range = &rom->region->range;
    rmg_place place;

    rom->base = range->first;
    rom->words = range->last - range->first + 1u;
    for (uint8_t bit = 0; bit < rom->board->word_bits; bit++)
        if (rmg_place_find(&rom->board->placement, rom->base, bit, &place))
            rom->bus_bit[rom->bits++] = bit;
    while (rom->lines < rom->board->address_bits && rom->words >> rom->lines > 1u &&
           !(rom->base >> rom->lines & 1u)) {
        rom->bus_line[rom->lines] = rom->lines;
        rom->cell_bit[rom->lines] = rom->lines;
        rom->lines++;
    }
}

/* All names there are, for a message. */
static char *names_text(const rmg_board *board)
{
    GString *text = g_string_new(NULL);

    for (size_t i = 0; i < board->socket_count; i++)
        if (board->sockets[i].part && board->sockets[i].part->kind == RMG_PART_ROM)
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", board->sockets[i].name);
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_ROM)
            g_string_append_printf(text, "%s\"%s\"", text->len ? ", " : "", board->regions[i].name);
    return g_string_free(text, FALSE);
}

static rmg_status find_chip(rmg_rom *rom, uint16_t number, rmg_error *error)
{
    const rmg_socket *socket = &rom->board->sockets[number];
    const rmg_rule *rule = rule_of(rom->board, number);

    if (*socket->unseen || !rule)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "%s cannot be read in the board: %s; pull the chip and read "
                        "it with --bare",
                        socket->name,
                        *socket->unseen ? socket->unseen : "no bank of the board file uses it");
    rom->socket = number;
    chip_of(rom, rule);
    return RMG_OK;
}

rmg_status rmg_rom_find(const rmg_board *board, const char *name, rmg_rom *rom, rmg_error *error)
{
    const uint16_t socket = rmg_board_socket(board, name);
    rmg_status status = RMG_OK;
    char *names, *hint;

    rmg_error_none(error);
    memset(rom, 0, sizeof *rom);
    rom->board = board;
    rom->socket = RMG_NO_SOCKET;
    for (size_t i = 0; i < board->region_count; i++)
        if (g_ascii_strcasecmp(board->regions[i].name, name) == 0)
            rom->region = &board->regions[i];
    if (socket != RMG_NO_SOCKET) {
        rom->region = NULL;
        status = find_chip(rom, socket, error);
    } else if (!rom->region) {
        names = names_text(board);
        hint = rmg_board_name_hint(board, name, RMG_NAMES_REGIONS);
        status = rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                          "the board %s has no socket and no region \"%s\"; its ROMs are %s%s",
                          board->name, name, *names ? names : "not given", hint);
        rmg_text_free(hint);
        g_free(names);
    } else {
        region_of(rom);
        if (!rom->bits)
            status = rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                              "no chip of the board file answers in region "
                              "\"%s\"",
                              rom->region->name);
    }
    rom->bytes = image_bytes(rom->bits);
    return status;
}

void rmg_rom_of_adapter(const rmg_board *adapter, rmg_rom *rom)
{
    memset(rom, 0, sizeof *rom);
    rom->board = adapter;
    rom->bare = true;
    chip_of(rom, rule_of(adapter, 0));
    rom->bytes = image_bytes(rom->bits);
}

void rmg_rom_plain(rmg_rom *rom, uint64_t bytes)
{
    memset(rom, 0, sizeof *rom);
    rom->socket = RMG_NO_SOCKET;
    rom->bits = 8;
    rom->bytes = 1;
    rom->words = bytes;
    for (uint8_t i = 0; i < 64; i++)
        rom->bus_bit[i] = rom->bus_line[i] = rom->cell_bit[i] = i;
    while (rom->lines < 63 && (bytes - 1u) >> rom->lines)
        rom->lines++;
}

rmg_addr rmg_rom_address(const rmg_rom *rom, uint64_t i)
{
    rmg_addr address = rom->base;

    if (rom->region)
        return rom->base + (rmg_addr)i;
    for (uint8_t k = 0; k < rom->lines; k++)
        address |= (rmg_addr)(i >> k & 1u) << rom->bus_line[k];
    return address;
}

rmg_word rmg_rom_word(const rmg_rom *rom, rmg_word bus)
{
    rmg_word word = 0;

    for (uint8_t i = 0; i < rom->bits; i++)
        word |= (bus >> rom->bus_bit[i] & 1u) << i;
    return word;
}

/* How far byte b of a word is shifted within it. */
static unsigned shift_of(const rmg_rom *rom, unsigned b)
{
    return 8u * (rom->region && rom->board->high_first ? rom->bytes - 1u - b : b);
}

rmg_word rmg_rom_get(const rmg_rom *rom, const void *bytes, uint64_t i)
{
    const uint8_t *at = (const uint8_t *)bytes + i * rom->bytes;
    rmg_word word = 0;

    if (rom->bytes == 1)
        return at[0];
    for (unsigned b = 0; b < rom->bytes; b++)
        word |= (rmg_word)at[b] << shift_of(rom, b);
    return word;
}

void rmg_rom_put(const rmg_rom *rom, void *bytes, uint64_t i, rmg_word word)
{
    uint8_t *at = (uint8_t *)bytes + i * rom->bytes;

    for (unsigned b = 0; b < rom->bytes; b++)
        at[b] = (uint8_t)(word >> shift_of(rom, b));
}

rmg_word rmg_rom_known(const rmg_rom *rom, uint64_t i)
{
    return rom->known ? rmg_rom_get(rom, rom->known, i) : ~(rmg_word)0;
}

uint64_t rmg_rom_bytes(const rmg_rom *rom)
{
    return rom->words * rom->bytes;
}

void rmg_rom_bit_pin(const rmg_rom *rom, uint8_t bit, uint16_t *socket, uint8_t *pin)
{
    rmg_place place;

    *socket = RMG_NO_SOCKET;
    *pin = 0;
    if (rom->board &&
        rmg_place_find(&rom->board->placement, rom->base, rom->bus_bit[bit], &place)) {
        *socket = place.socket;
        *pin = place.out_pin;
    }
}

void rmg_rom_line_pin(const rmg_rom *rom, uint8_t line, uint16_t *socket, uint8_t *pin)
{
    const rmg_rule *rule =
        rom->region || !rom->board ? NULL : rule_of(rom->board, rom->bare ? 0 : rom->socket);

    *socket = RMG_NO_SOCKET;
    *pin = 0;
    if (rule) {
        *socket = rule->socket;
        *pin = rule->address_pins ? rule->address_pins[rom->cell_bit[line]] : 0;
    }
}

static char *with_pin(const rmg_rom *rom, gchar *lead, uint16_t socket, uint8_t pin, char *text,
                      size_t room)
{
    if (socket == RMG_NO_SOCKET)
        g_strlcpy(text, lead, room);
    else if (!pin)
        g_snprintf(text, (gulong)room, "%s (%s)", lead, rom->board->sockets[socket].name);
    else
        g_snprintf(text, (gulong)room, "%s (%s pin %u)", lead, rom->board->sockets[socket].name,
                   pin);
    g_free(lead);
    return text;
}

char *rmg_rom_bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room)
{
    uint16_t socket;
    uint8_t pin;

    rmg_rom_bit_pin(rom, bit, &socket, &pin);
    return with_pin(rom, g_strdup_printf("D%u", rom->bus_bit[bit]), socket, pin, text, room);
}

char *rmg_rom_line_text(const rmg_rom *rom, uint8_t line, char *text, size_t room)
{
    const unsigned shift = rom->board ? rom->board->byte_shift : 0;
    uint16_t socket;
    uint8_t pin;

    rmg_rom_line_pin(rom, line, &socket, &pin);
    return with_pin(rom, g_strdup_printf("A%u", rom->bus_line[line] + shift), socket, pin, text,
                    room);
}

char *rmg_rom_line_text_at(const rmg_rom *rom, uint16_t socket, uint8_t line, char *text,
                           size_t room)
{
    const rmg_rule *rule =
        rom->board && socket != RMG_NO_SOCKET ? rule_of(rom->board, socket) : NULL;

    for (uint8_t k = 0; rom->region && rule && k < rule->address_lines; k++)
        if (rule->address_bits[k] == rom->bus_line[line])
            return with_pin(rom,
                            g_strdup_printf("A%u", rom->bus_line[line] + rom->board->byte_shift),
                            socket, rule->address_pins ? rule->address_pins[k] : 0, text, room);
    return rmg_rom_line_text(rom, line, text, room);
}

char *rmg_rom_address_text(const rmg_rom *rom, uint64_t i, char *text, size_t room)
{
    const uint64_t last = rmg_rom_bytes(rom) - 1u;

    if (rom->region)
        return rmg_board_address_text(rom->board, rom->base + (rmg_addr)i, text, room);
    g_snprintf(text, (gulong)room, "0x%0*" G_GINT64_MODIFIER "X", last >> 16 ? 6 : 4,
               (guint64)i * rom->bytes);
    return text;
}

void rmg_rom_view_of(const rmg_rom *rom, const uint8_t *bytes, uint8_t *names, rmg_rom_view *view)
{
    *view = (rmg_rom_view){.bytes = bytes,
                           .size = (size_t)rmg_rom_bytes(rom),
                           .unit = rom->bytes,
                           .unit_step = rom->bytes,
                           .names = names};
    if (rom->region) {
        view->address = rmg_board_shown(rom->board, rom->base);
        view->unit_step = (uint32_t)(rmg_board_shown(rom->board, rom->base + 1u) - view->address);
    }
    memset(names, 0, 64);
    for (uint8_t bit = 0; bit < rom->bits; bit++) { /* where an image has it */
        uint8_t word[8] = {0};

        rmg_rom_put(rom, word, 0, (rmg_word)1 << bit);
        for (unsigned i = 0; i < 8u * rom->bytes; i++)
            if ((unsigned)word[i / 8] >> i % 8 & 1u)
                names[i] = rom->bus_bit[bit];
    }
}

char *rmg_rom_name(const rmg_rom *rom, char *text, size_t room)
{
    const rmg_board *board = rom->board;
    GString *name = g_string_new(NULL);
    uint16_t before = RMG_NO_SOCKET, socket;
    uint8_t pin;

    if (rom->region) {
        g_string_printf(name, "region %s (", rom->region->name);
        for (uint8_t bit = 0; bit < rom->bits; bit++) {
            rmg_rom_bit_pin(rom, bit, &socket, &pin);
            if (socket != before && socket != RMG_NO_SOCKET)
                g_string_append_printf(name, "%s%s", before == RMG_NO_SOCKET ? "" : ", ",
                                       board->sockets[socket].name);
            before = socket;
        }
        g_string_append_c(name, ')');
    } else {
        const rmg_socket *s = &board->sockets[rom->bare ? 0 : rom->socket];

        g_string_printf(name, "%s (%s)", s->name, s->part->number);
    }
    g_strlcpy(text, name->str, room);
    g_string_free(name, TRUE);
    return text;
}
