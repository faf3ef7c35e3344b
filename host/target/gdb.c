/* "gdb:HOST:PORT", or another stream: a board behind a debug link. Before it may stand
 * "memory=FIRST-LAST,", where a routine may lie, "processor=NAME,", for which one, and "wait=MS,",
 * how long it may take. */
#include <string.h>

#include "board/internal.h"
#include "internal.h"
#include "rimeglass/gdb.h"
#include "rimeglass/loader.h"

#define WAIT_MS       60000u /* for a routine: 4096 words take a second or so */
#define WAIT_LEAST_MS 100u
#define WAIT_MOST_MS  3600000u

/* What is open of it. */
typedef struct at_gdb {
    rmg_gdb *gdb;
    const rmg_board *board;
    gchar *memory; /* as it was named; NULL: it was not */
    rmg_testrom_processor processor;
    uint32_t wait_ms;
    rmg_loader *loader; /* NULL: none */
} at_gdb;

/* Registers as GDB numbers them: offsets in bytes among all of them. */
typedef struct registers {
    rmg_testrom_processor processor;
    const char *name;
    uint16_t bytes; /* that are told at least */
    bool high_first;
    uint8_t size; /* of pc and stack */
    uint16_t pc, stack, flags;
    uint32_t set, keeps;  /* of the flags: interrupts are off */
    uint16_t segments[4]; /* set to 0; 0: no more */
    unsigned breakpoint;  /* bytes of one */
} registers;

static const registers all_registers[] = {
    {RMG_TESTROM_68000, "68000", 72, true, 4, 68, 60, 64, 0x0700, 0xFFFFF8FFu, {0}, 2},
    {RMG_TESTROM_8086, "8086", 64, false, 4, 32, 16, 36, 0, 0xFFFFFCFFu, {40, 44, 48, 52}, 1},
    {RMG_TESTROM_Z80, "Z80", 12, false, 2, 10, 8, 0, 0, 0xFFFFFFFFu, {0}, 1},
};

static const registers *registers_of(rmg_testrom_processor processor)
{
    for (size_t i = 0; i < G_N_ELEMENTS(all_registers); i++)
        if (all_registers[i].processor == processor)
            return &all_registers[i];
    return NULL;
}

/* Takes "NAME=VALUE," from the front of *rest; NULL: it does not stand there. */
static gchar *take(const char **rest, const char *name)
{
    const size_t size = strlen(name);
    const char *comma = strchr(*rest, ',');
    gchar *value;

    if (strncmp(*rest, name, size) != 0 || (*rest)[size] != '=' || !comma)
        return NULL;
    value = g_strndup(*rest + size + 1u, (gsize)(comma - *rest - (ptrdiff_t)size - 1));
    *rest = comma + 1;
    return value;
}

/* What stands before the stream, in any order; NULL: it does not. */
typedef struct options {
    gchar *memory, *processor, *wait;
} options;

/* Takes them from the front of `rest`; what is left. */
static const char *take_options(const char *rest, options *o)
{
    const struct option {
        const char *name;
        gchar **value;
    } known[] = {{"memory", &o->memory}, {"processor", &o->processor}, {"wait", &o->wait}};
    bool taken = true;

    memset(o, 0, sizeof *o);
    while (taken) {
        taken = false;
        for (size_t i = 0; i < G_N_ELEMENTS(known); i++)
            if (!*known[i].value) {
                *known[i].value = take(&rest, known[i].name);
                taken |= *known[i].value != NULL;
            }
    }
    return rest;
}

static void free_options(options *o)
{
    g_free(o->memory);
    g_free(o->processor);
    g_free(o->wait);
}

/* NULL: of none. */
static const registers *registers_by_name(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(all_registers); i++)
        if (strcmp(all_registers[i].name, name) == 0)
            return &all_registers[i];
    return NULL;
}

static bool wait_of(const gchar *text, uint32_t *wait_ms)
{
    guint64 ms;
    const bool good = g_ascii_string_to_unsigned(text, 10, WAIT_LEAST_MS, WAIT_MOST_MS, &ms, NULL);

    if (good)
        *wait_ms = (uint32_t)ms;
    return good;
}

static gchar *expected(const char *rest)
{
    gchar *wrong = NULL;
    uint64_t first, last;
    uint32_t wait_ms;
    options o;

    rest = take_options(rest, &o);
    if (o.memory && !rmg_range_parse(o.memory, &first, &last))
        wrong = g_strdup("gdb:memory=FIRST-LAST,... like gdb:memory=0x1000-0x13FF,127.0.0.1:2331");
    else if (o.processor && !registers_by_name(o.processor))
        wrong = g_strdup("gdb:processor=NAME,... with Z80, 68000 or 8086");
    else if (o.wait && !wait_of(o.wait, &wait_ms))
        wrong = g_strdup("gdb:wait=MS,... with 100 to 3600000 milliseconds");
    else if (!rmg_stream_is_two_way(rest))
        wrong = g_strdup("gdb:HOST:PORT like gdb:127.0.0.1:2331, a serial device like "
                         "gdb:/dev/ttyUSB0,baud=115200, or gdb:run:COMMAND");
    free_options(&o);
    return wrong;
}

static const char *why_gdb(void *self)
{
    const at_gdb *at = self;

    return at->gdb ? rmg_gdb_why(at->gdb) : "";
}

static void close_gdb(void *self)
{
    at_gdb *at = self;

    rmg_loader_free(at->loader);
    rmg_gdb_close(at->gdb);
    g_free(at->memory);
    g_free(at);
}

static rmg_status start(void *context, uint32_t from, uint32_t end, uint32_t stack)
{
    const at_gdb *at = context;
    const registers *r = registers_of(at->processor);
    rmg_gdb_register set[3 + G_N_ELEMENTS(r->segments)] = {
        {.offset = r->pc, .bytes = r->size, .value = from},
        {.offset = r->stack, .bytes = r->size, .value = stack}};
    rmg_gdb_run run = {.registers = set,
                       .count = 2,
                       .register_bytes = r->bytes,
                       .high_first = r->high_first,
                       .end = end,
                       .end_bytes = r->breakpoint,
                       .wait_ms = at->wait_ms};

    if (r->flags)
        set[run.count++] =
            (rmg_gdb_register){.offset = r->flags, .bytes = 4, .value = r->set, .keeps = r->keeps};
    for (size_t i = 0; i < G_N_ELEMENTS(r->segments) && r->segments[i]; i++)
        set[run.count++] = (rmg_gdb_register){.offset = r->segments[i], .bytes = 4};
    return rmg_gdb_run_to(at->gdb, &run);
}

static rmg_status fail(void *context, rmg_status status, const char *what)
{
    const at_gdb *at = context;

    return rmg_gdb_fail(at->gdb, status, what);
}

static rmg_status port_read(void *context, rmg_addr address, rmg_word *value)
{
    const at_gdb *at = context;

    return rmg_gdb_bus.read(at->gdb, address, value);
}

static rmg_status port_write(void *context, rmg_addr address, rmg_word value)
{
    const at_gdb *at = context;

    return rmg_gdb_bus.write(at->gdb, address, value);
}

static rmg_status port_read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    const at_gdb *at = context;

    return rmg_gdb_bus.read_block(at->gdb, first, count, values);
}

/* The port, by what is open: the loader's way has one context. */
static const rmg_bus way_bus = {.version = RMG_BUS_VERSION,
                                .read = port_read,
                                .write = port_write,
                                .read_block = port_read_block};

static bool place_of(const at_gdb *at, rmg_loader_place *place)
{
    *place = (rmg_loader_place){.processor = at->processor,
                                .ends = RMG_UPLOAD_BREAKS,
                                .words = RMG_LOADER_WORDS,
                                .told_in = "memory="};
    return rmg_board_range_parse(at->board, at->memory, &place->memory);
}

static rmg_status load(void *self, const rmg_range *within, rmg_target *target, rmg_range *memory)
{
    at_gdb *at = self;
    const rmg_loader_way way = {
        .bus = &way_bus, .context = at, .board = at->board, .start = start, .fail = fail};
    rmg_loader_place place;
    rmg_status status;

    if (!at->memory)
        return rmg_gdb_fail(at->gdb, RMG_ERR_PORT_CANNOT,
                            "name memory for it: gdb:memory=FIRST-LAST,HOST:PORT");
    if (!registers_of(at->processor))
        return rmg_gdb_fail(at->gdb, RMG_ERR_PORT_CANNOT,
                            "name the processor: gdb:memory=FIRST-LAST,processor=NAME,HOST:PORT "
                            "with Z80, 68000 or 8086; others have no registers that debuggers "
                            "agree on");
    if (!place_of(at, &place))
        return rmg_gdb_fail(at->gdb, RMG_ERR_PORT_CANNOT,
                            "what memory= names does not lie on the board");
    if (at->board->word_bits > 8 &&
        at->board->high_first != registers_of(at->processor)->high_first)
        return rmg_gdb_fail(at->gdb, RMG_ERR_PORT_CANNOT,
                            at->board->high_first
                                ? "the board file says byte-order: high first, but this processor "
                                  "has the low byte first"
                                : "the board file must say byte-order: high first, as this "
                                  "processor has it");
    g_clear_pointer(&at->loader, rmg_loader_free);
    status = rmg_loader_begin(&way, &place, within, &at->loader, memory);
    if (status == RMG_OK) {
        target->bus = rmg_loader_bus(at->loader);
        target->context = at->loader;
    }
    return status;
}

/* For which processor, the board file may tell, too. */
static const char *set_options(at_gdb *at, const char *rest)
{
    const rmg_board_rom *rom = &at->board->rom;
    const registers *named;
    options o;

    rest = take_options(rest, &o);
    named = o.processor ? registers_by_name(o.processor) : NULL;
    at->processor = named ? named->processor : rom->known ? rom->processor : RMG_TESTROM_PROCESSORS;
    at->wait_ms = WAIT_MS;
    if (o.wait)
        wait_of(o.wait, &at->wait_ms);
    at->memory = g_steal_pointer(&o.memory);
    free_options(&o);
    return rest;
}

static rmg_status open_gdb(const char *rest, const rmg_board *board, rmg_opened *opened,
                           GArray *notes)
{
    const rmg_gdb_words words = {.bits = board->word_bits,
                                 .byte_shift = board->counts_bytes
                                                   ? board->byte_shift
                                                   : (uint8_t)(board->word_bits > 32   ? 3
                                                               : board->word_bits > 16 ? 2
                                                               : board->word_bits > 8  ? 1
                                                                                       : 0),
                                 .high_first = board->high_first};
    char why[RMG_STREAM_WHY];
    at_gdb *at = g_new0(at_gdb, 1);
    rmg_stream *stream = NULL;
    rmg_loader_place place;
    rmg_gdb *gdb = NULL;
    rmg_status status;

    at->board = board;
    opened->self = at;
    opened->close = close_gdb;
    rest = set_options(at, rest);
    status = rmg_stream_open(rest, RMG_CONNECT_MS, &stream, why);
    if (status == RMG_OK)
        status = rmg_gdb_open(stream, &words, &gdb, why);
    if (status != RMG_OK) {
        rmg_note(notes, status, rest, "gdb:%s: %s", rest, *why ? why : rmg_status_text(status));
        return status;
    }
    at->gdb = gdb;
    opened->load = load;
    if (at->memory && place_of(at, &place))
        opened->load_accesses = rmg_loader_accesses(board, &place);
    opened->why = why_gdb;
    opened->stream = stream;
    opened->blocks = &rmg_gdb_blocks_bus;
    opened->accesses_a_second = rmg_gdb_speed(gdb);
    opened->target =
        (rmg_target){.bus = &rmg_gdb_bus,
                     .context = gdb,
                     .mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    opened->remark = g_strdup("");
    opened->caveat = g_strdup_printf(
        "Through a debug link (about %.0f accesses a second) each access is made when the far end "
        "makes it, maybe through a cache or in another width. Not found: DRF of DRAM, for refresh "
        "goes "
        "on in holds; faults that need accesses in close succession.",
        rmg_gdb_speed(gdb));
    return RMG_OK;
}

const rmg_target_kind rmg_target_gdb = {
    .prefix = "gdb:", .forms = "gdb:HOST:PORT", .expected = expected, .open = open_gdb};
