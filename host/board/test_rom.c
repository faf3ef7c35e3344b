/* How a test ROM is made for the board: processor, outputs, where the ROM sits. */
#include "build.h"

static const char *const rom_keys[] = {"processor", "clock",      "socket", "origin", "offset",
                                       "writes",    "serial",     "lamp",   "lines",  "march",
                                       "hold-ms",   "stop-after", "then",   "at",     "size",
                                       "header",    "disables",   "screen", "roms",   NULL};
static const char *const write_keys[] = {"port", "at", "value", NULL};
static const char *const serial_keys[] = {"port",     "at",   "bit",  "others",
                                          "inverted", "baud", "trim", NULL};
static const char *const lamp_keys[] = {"port", "at", "bit", "others", "inverted", "tone", NULL};
static const char *const no_yes[] = {"no", "yes", NULL};
static const char standard_march[] = "MATS+";

#define STANDARD_BAUD  9600u
#define STANDARD_LINES 8u
#define MOST_PASSES    (RMG_TESTROM_PASSES - 1u)
#define STANDARD_HOLD  100u

/* The highest address of the processor. */
static uint64_t highest(const rmg_board_rom *rom)
{
    return ((uint64_t)1 << (4u * rmg_testrom_rows[rom->processor].digits)) - 1u;
}

/* `port` or `at`, whichever is there. */
static uint32_t read_place(board_build *b, const ynode *map, const rmg_board_rom *rom, bool *port)
{
    const bool memory = rmg_yaml_get(b->file, map, "at") != NULL;

    *port = rmg_yaml_get(b->file, map, "port") != NULL;
    if (*port == memory) {
        rmg_yaml_wrong(b->file, map, NULL,
                       "expected \"port\", an I/O address, or \"at\", one of memory%s",
                       memory ? ", not both" : "");
        return 0;
    }
    if (*port && !rmg_testrom_rows[rom->processor].has_ports) {
        rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, map, "port"), "port",
                       "a %s has no I/O addresses; expected \"at\", an address of memory",
                       rmg_testrom_rows[rom->processor].name);
        return 0;
    }
    return (uint32_t)rmg_yaml_number(b->file, map, *port ? "port" : "at", 0,
                                     *port ? 0xFFu : highest(rom), -1);
}

static void read_output(board_build *b, const ynode *map, const rmg_board_rom *rom,
                        rmg_testrom_output *o)
{
    const uint32_t bits =
        b->board->word_bits > 8u && rom->processor == RMG_TESTROM_68000 ? 16u : 8u;

    o->fitted = true;
    o->at = read_place(b, map, rom, &o->port);
    o->bit = (uint16_t)(1u << rmg_yaml_number(b->file, map, "bit", 0, bits - 1u, -1));
    o->others = (uint16_t)(rmg_yaml_number(b->file, map, "others", 0, (1u << bits) - 1u, 0) &
                           ~(uint64_t)o->bit);
    o->inverted = rmg_yaml_choice(b->file, map, "inverted", no_yes, 0);
}

static void read_screen(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    static const char *const keys[] = {"at",    "columns", "rows", "digits", "letters",
                                       "blank", "dot",     "mark", NULL};
    rmg_testrom_screen *s = &rom->screen;

    if (!rmg_yaml_is_map(b->file, map, "the screen", keys))
        return;
    s->fitted = true;
    s->at = (uint32_t)rmg_yaml_number(b->file, map, "at", 0, highest(rom), -1);
    s->columns = (uint8_t)rmg_yaml_number(
        b->file, map, "columns", RMG_TESTROM_SCREEN_COLUMNS + (b->board->word_bits > 8u ? 16u : 8u),
        255, -1);
    s->rows = (uint8_t)rmg_yaml_number(b->file, map, "rows", 2, 100, -1);
    s->digits = (uint8_t)rmg_yaml_number(b->file, map, "digits", 0, 248, '0');
    s->letters = (uint8_t)rmg_yaml_number(b->file, map, "letters", 0, 232, 'A');
    s->blank = (uint8_t)rmg_yaml_number(b->file, map, "blank", 0, 255, ' ');
    s->dot = (uint8_t)rmg_yaml_number(b->file, map, "dot", 0, 255, '.');
    s->mark = (uint8_t)rmg_yaml_number(b->file, map, "mark", 0, 255, '!');
    if ((uint64_t)s->at + (uint64_t)s->columns * s->rows - 1u > highest(rom))
        rmg_yaml_wrong(b->file, map, "screen", "it ends behind the last address, 0x%X",
                       (unsigned)highest(rom));
}

static void read_outputs(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    const ynode *serial = rmg_yaml_get(b->file, map, "serial");
    const ynode *lamp = rmg_yaml_get(b->file, map, "lamp");

    if (serial && rmg_yaml_is_map(b->file, serial, "the serial output", serial_keys)) {
        read_output(b, serial, rom, &rom->serial);
        rom->baud = (uint32_t)rmg_yaml_number(b->file, serial, "baud", 300, 19200, STANDARD_BAUD);
        rom->trim_ppm = rmg_yaml_get(b->file, serial, "trim")
                            ? (int32_t)rmg_yaml_number(b->file, serial, "trim", 0, 100000, -1)
                            : 0;
    }
    if (lamp && rmg_yaml_is_map(b->file, lamp, "the lamp", lamp_keys)) {
        read_output(b, lamp, rom, &rom->lamp);
        rom->lamp.tone = (uint16_t)rmg_yaml_number(b->file, lamp, "tone", 100, 5000, 0);
    }
    if (rmg_yaml_get(b->file, map, "screen"))
        read_screen(b, rmg_yaml_get(b->file, map, "screen"), rom);
    else if (!serial && !lamp)
        rmg_yaml_wrong(b->file, map, "test-rom",
                       "the ROM has no way to tell what it finds; expected \"serial\", \"lamp\", "
                       "\"screen\", or several of them");
}

static void read_writes(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    const ynode *list = rmg_yaml_list(b->file, map, "writes", false);
    const uint64_t most = b->board->word_bits > 8u ? 0xFFFFu : 0xFFu;
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_testrom_write *w = &rom->writes[rom->write_count];

        if (rom->write_count == RMG_TESTROM_WRITES) {
            rmg_yaml_wrong(b->file, item, "writes", "more than %u of them", RMG_TESTROM_WRITES);
            break;
        }
        if (!rmg_yaml_is_map(b->file, item, "a write", write_keys))
            continue;
        w->at = read_place(b, item, rom, &w->port);
        w->value = (uint16_t)rmg_yaml_number(b->file, item, "value", 0, most, -1);
        rom->write_count++;
    }
}

static uint16_t socket_at(const board_build *b, const char *name)
{
    for (guint i = 0; i < b->sockets->len; i++)
        if (g_ascii_strcasecmp(g_array_index(b->sockets, rmg_socket, i).name, name) == 0)
            return (uint16_t)i;
    return RMG_NO_SOCKET;
}

/* The bank of a socket, or RMG_NO_BANK. */
static uint8_t bank_of(const board_build *b, uint16_t socket)
{
    for (guint i = 0; i < b->rules->len; i++)
        if (g_array_index(b->rules, rmg_rule, i).socket == socket)
            return g_array_index(b->rules, rmg_rule, i).bank;
    return RMG_NO_BANK;
}

static void read_sockets(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    const ynode *value = rmg_yaml_need(b->file, map, "socket");
    const bool several = value && value->type == YAML_SEQUENCE_NODE;
    uint8_t bank = RMG_NO_BANK;
    const ynode *item;

    for (size_t i = 0; value && (item = several ? rmg_yaml_item(b->file, value, i)
                                        : i     ? NULL
                                                : value) != NULL;
         i++) {
        const char *name = rmg_board_designator(b, item, rmg_yaml_text(item));
        const uint16_t socket = name ? socket_at(b, name) : RMG_NO_SOCKET;

        if (socket == RMG_NO_SOCKET || rom->socket_count == RMG_TESTROM_SOCKETS) {
            rmg_yaml_wrong(b->file, item, "socket",
                           "found \"%s\", expected a socket of this board, or one a byte of the "
                           "bus, up to %u",
                           rmg_yaml_text(item), RMG_TESTROM_SOCKETS);
            return;
        }
        bank = bank == RMG_NO_BANK ? bank_of(b, socket) : bank;
        rom->sockets[rom->socket_count++] = socket;
    }
    if (rmg_yaml_get(b->file, map, "origin"))
        rom->origin = (uint32_t)rmg_yaml_number(b->file, map, "origin", 0, highest(rom), -1);
    else if (bank != RMG_NO_BANK)
        rom->origin = (uint32_t)rmg_board_shown(
            b->board, g_array_index(b->bank_wheres, rmg_where, bank).first);
    else if (value)
        rmg_yaml_wrong(b->file, map, "origin",
                       "no bank says where this socket answers; expected the address at which the "
                       "processor sees its first byte");
}

/* A ROM in a slot: its size, what it begins with, and what keeps the board's own ROM off. */
static void read_slot(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    static const char *const not_there[] = {"socket", "offset"};
    const ynode *list = rmg_yaml_list(b->file, map, "header", false);
    const ynode *item;

    for (size_t i = 0; i < G_N_ELEMENTS(not_there); i++)
        if (rmg_yaml_get(b->file, map, not_there[i]))
            rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, map, not_there[i]), not_there[i],
                           "a slot has none; expected \"origin\" and \"size\"");
    rom->slot_size = (uint32_t)rmg_yaml_number(b->file, map, "size", 1024, 1u << 20, -1);
    rom->origin = (uint32_t)rmg_yaml_number(b->file, map, "origin", 0, highest(rom), -1);
    if ((uint64_t)rom->origin + rom->slot_size - 1u > highest(rom))
        rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, map, "size"), "size",
                       "%u bytes from 0x%X on end behind the last address, 0x%X", rom->slot_size,
                       rom->origin, (unsigned)highest(rom));
    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        uint64_t byte;

        if (i == RMG_TESTROM_HEADER || !rmg_number_parse(rmg_yaml_text(item), &byte) ||
            byte > 0xFF) {
            rmg_yaml_wrong(b->file, item, "header", "found \"%s\", expected up to %u bytes",
                           rmg_yaml_text(item), RMG_TESTROM_HEADER);
            return;
        }
        rom->header[rom->header_count++] = (uint8_t)byte;
    }
    /* where code may begin */
    while (rom->header_count % (rom->processor == RMG_TESTROM_8086    ? 16u
                                : rom->processor == RMG_TESTROM_68000 ? 2u
                                                                      : 1u))
        rom->header[rom->header_count++] = 0xFF;
    rom->offset = rom->header_count;
}

static void refuse_slot_keys(board_build *b, const ynode *map)
{
    static const char *const slot_keys[] = {"size", "header", "disables"};

    for (size_t i = 0; i < G_N_ELEMENTS(slot_keys); i++)
        if (rmg_yaml_get(b->file, map, slot_keys[i]))
            rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, map, slot_keys[i]), slot_keys[i],
                           "expected only where \"at: slot\" stands");
}

static void read_march(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    const ynode *node = rmg_yaml_get(b->file, map, "march");
    rmg_march_error where;

    rom->march_text = rmg_yaml_string(b->file, map, "march", standard_march);
    if (!rmg_testrom_march(rom->march_text, rom->march, &where))
        rmg_yaml_wrong(b->file, node, "march",
                       "\"%s\" is neither the name of a march nor one in notation: at character "
                       "%u expected %s",
                       rom->march_text, where.offset + 1u, where.expected);
    rom->hold_ms = (uint32_t)rmg_yaml_number(b->file, map, "hold-ms", 1, 60000, STANDARD_HOLD);
}

/* Names of regions of kind rom, or one of them. */
static void read_roms(board_build *b, const ynode *map, rmg_board_rom *rom)
{
    const ynode *value = rmg_yaml_get(b->file, map, "roms");
    const bool several = value && value->type == YAML_SEQUENCE_NODE;
    const ynode *item;

    for (size_t i = 0; value && (item = several ? rmg_yaml_item(b->file, value, i)
                                        : i     ? NULL
                                                : value) != NULL;
         i++) {
        const char *name = rmg_yaml_text(item);
        guint at = 0;

        while (at < b->regions->len &&
               (g_array_index(b->regions, rmg_region, at).kind != RMG_REGION_ROM ||
                g_ascii_strcasecmp(g_array_index(b->regions, rmg_region, at).name, name) != 0))
            at++;
        for (unsigned k = 0; at < b->regions->len && k < rom->rom_count; k++)
            if (rom->roms[k] == g_array_index(b->regions, rmg_region, at).range.first)
                at = b->regions->len;
        if (at == b->regions->len || rom->rom_count == RMG_TESTROM_ROMS) {
            rmg_yaml_wrong(b->file, item, "roms",
                           "found \"%s\", expected a region of kind rom, each once, up to %u", name,
                           RMG_TESTROM_ROMS);
            return;
        }
        rom->roms[rom->rom_count++] = g_array_index(b->regions, rmg_region, at).range.first;
    }
}

static void read_section(board_build *b, const ynode *map)
{
    rmg_board_rom *rom = &b->board->rom;
    static const char *const places[] = {"socket", "slot", NULL};
    const char *names[RMG_TESTROM_PROCESSORS + 1] = {NULL};

    for (size_t i = 0; i < RMG_TESTROM_PROCESSORS; i++)
        names[i] = rmg_testrom_rows[i].name;
    rom->known = true;
    rom->processor = (rmg_testrom_processor)rmg_yaml_choice(b->file, map, "processor", names, -1);
    rom->clock_hz = (uint32_t)rmg_yaml_number(b->file, map, "clock", 100000, 50000000, -1);
    rom->offset = (uint32_t)rmg_yaml_number(b->file, map, "offset", 0, 1u << 24, 0);
    rom->lines =
        (uint8_t)rmg_yaml_number(b->file, map, "lines", 1, RMG_TESTROM_TOLD, STANDARD_LINES);
    rom->stop_after = (uint32_t)rmg_yaml_number(b->file, map, "stop-after", 1, MOST_PASSES, 0);
    if (rom->stop_after)
        rom->then = (uint32_t)rmg_yaml_number(b->file, map, "then", 0, highest(rom), -1);
    if (rmg_yaml_choice(b->file, map, "at", places, 0)) {
        read_slot(b, map, rom);
    } else {
        refuse_slot_keys(b, map);
        read_sockets(b, map, rom);
    }
    rom->disables = rmg_yaml_string(b->file, map, "disables", "");
    read_writes(b, map, rom);
    read_outputs(b, map, rom);
    read_march(b, map, rom);
    read_roms(b, map, rom);
}

void rmg_board_read_rom(board_build *b, const ynode *root)
{
    const ynode *map = rmg_yaml_get(b->file, root, "test-rom");

    if (map && rmg_yaml_is_map(b->file, map, "the test ROM", rom_keys))
        read_section(b, map);
}

static void add_output(GString *out, const char *name, const rmg_testrom_output *o)
{
    unsigned bit = 0;

    while (!(o->bit >> bit & 1u))
        bit++;
    g_string_append_printf(out, "  %s: {%s: 0x%X, bit: %u, others: 0x%X, inverted: %s", name,
                           o->port ? "port" : "at", o->at, bit, o->others,
                           o->inverted ? "yes" : "no");
    if (o->tone)
        g_string_append_printf(out, ", tone: %u", o->tone);
}

void rmg_board_write_rom(GString *out, const rmg_board *board)
{
    const rmg_board_rom *rom = &board->rom;

    if (!rom->known)
        return;
    g_string_append_printf(out, "test-rom:\n  processor: \"%s\"\n  clock: %u\n  origin: 0x%X\n",
                           rmg_testrom_rows[rom->processor].name, rom->clock_hz, rom->origin);
    if (rom->slot_size) {
        g_string_append_printf(out, "  at: slot\n  size: %u\n  header: [", rom->slot_size);
        for (unsigned i = 0; i < rom->header_count; i++)
            g_string_append_printf(out, "%s0x%02X", i ? ", " : "", rom->header[i]);
        g_string_append(out, "]\n");
        if (*rom->disables) {
            g_string_append(out, "  disables: ");
            rmg_board_write_quoted(out, rom->disables);
            g_string_append_c(out, '\n');
        }
    } else {
        g_string_append(out, "  socket: [");
        for (unsigned i = 0; i < rom->socket_count; i++)
            g_string_append_printf(out, "%s%s", i ? ", " : "",
                                   board->sockets[rom->sockets[i]].name);
        g_string_append_printf(out, "]\n  offset: 0x%X\n", rom->offset);
    }
    g_string_append(out, rom->write_count ? "  writes:\n" : "");
    for (unsigned i = 0; i < rom->write_count; i++)
        g_string_append_printf(out, "    - {%s: 0x%X, value: 0x%X}\n",
                               rom->writes[i].port ? "port" : "at", rom->writes[i].at,
                               rom->writes[i].value);
    if (rom->serial.fitted) {
        add_output(out, "serial", &rom->serial);
        g_string_append_printf(out, ", baud: %u, trim: %d}\n", rom->baud, rom->trim_ppm);
    }
    if (rom->lamp.fitted) {
        add_output(out, "lamp", &rom->lamp);
        g_string_append(out, "}\n");
    }
    if (rom->screen.fitted)
        g_string_append_printf(out,
                               "  screen: {at: 0x%X, columns: %u, rows: %u, digits: 0x%X, letters: "
                               "0x%X, blank: 0x%X, dot: 0x%X, mark: 0x%X}\n",
                               rom->screen.at, rom->screen.columns, rom->screen.rows,
                               rom->screen.digits, rom->screen.letters, rom->screen.blank,
                               rom->screen.dot, rom->screen.mark);
    g_string_append_printf(out, "  lines: %u\n  march: \"%s\"\n  hold-ms: %u\n", rom->lines,
                           rom->march_text, rom->hold_ms);
    for (unsigned i = 0; i < rom->rom_count; i++) {
        g_string_append(out, i ? ", " : "  roms: [");
        rmg_board_write_quoted(out, rmg_board_region_at(board, rom->roms[i])->name);
    }
    g_string_append(out, rom->rom_count ? "]\n" : "");
    if (rom->stop_after)
        g_string_append_printf(out, "  stop-after: %u\n  then: 0x%X\n", rom->stop_after, rom->then);
}
