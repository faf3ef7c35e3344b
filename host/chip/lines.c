/* A chip on lines that a far end sets and reads one by one, by the intents "pins" and "volts": the
 * core's drivers, an access a request or two. */
#include "lines.h"

#include <stdlib.h>
#include <string.h>

#include "internal.h"

#define STEP      4u   /* characters: a blank, a letter, two digits */
#define NOT_KNOWN (-3) /* level of a line */
#define STEPS     14u  /* of a request: short enough for every far end (79 characters) */

/* What was asked for so far is done, in order. */
static void flush(pod_lines *l)
{
    gchar *intent;
    char answer[80];

    if (!*l->steps || l->status != RMG_OK)
        return;
    intent = g_strconcat("pins", l->steps, NULL);
    l->status = rmg_link_tell(l->link, intent, 0, answer, sizeof answer);
    g_free(intent);
    l->steps[0] = '\0';
    if (l->status != RMG_OK)
        return;
    for (const char *at = answer; *at; at++)
        if ((*at == '0' || *at == '1') && l->answer_count < sizeof l->answers)
            l->answers[l->answer_count++] = *at;
}

static void step(pod_lines *l, char what, unsigned number)
{
    const size_t used = strlen(l->steps);

    g_snprintf(l->steps + used, (gulong)(sizeof l->steps - used), " %c%02X", what, number & 0xFFu);
    if (used + STEP >= STEPS * STEP)
        flush(l);
}

/* Levels as in `level`; what stands so already costs nothing. */
static void set(pod_lines *l, int line, signed char level)
{
    static const char letters[] = {'u', 'z', 'l', 'h'};

    if (line < 0 || l->level[line] == level)
        return;
    l->level[line] = level;
    step(l, letters[level + 2], (unsigned)line);
}

static void put_address(void *context, rmg_addr levels)
{
    pod_lines *l = context;

    for (unsigned i = 0; i < MAP_ADDRESS; i++)
        set(l, l->map->address[i], (signed char)(levels >> i & 1u));
}

static const int *inputs(const pod_lines *l)
{
    return l->apart ? l->map->inputs : l->map->data;
}

static void drive(void *context, rmg_word levels)
{
    pod_lines *l = context;

    for (unsigned i = 0; i < MAP_DATA && (l->chip.mask >> i & 1u); i++)
        set(l, inputs(l)[i], (signed char)(levels >> i & 1u));
}

static void let_go(void *context)
{
    pod_lines *l = context;

    for (unsigned i = 0; i < MAP_DATA; i++)
        set(l, l->map->data[i], -2);
}

static rmg_word sample(void *context)
{
    pod_lines *l = context;
    rmg_word word = 0;
    unsigned count = 0;

    flush(l); /* whose answers are none */
    l->answer_count = 0;
    for (unsigned i = 0; i < MAP_DATA && (l->chip.mask >> i & 1u); i++, count++)
        step(l, 'r', (unsigned)l->map->data[i]);
    flush(l);
    if (l->status == RMG_OK && l->answer_count != count)
        l->status = RMG_ERR_PORT_CANNOT;
    for (unsigned i = 0; i < count && l->status == RMG_OK; i++)
        word |= (rmg_word)(l->answers[i] == '1') << i;
    return word;
}

static void strobe(void *context, uint8_t active)
{
    static const struct {
        uint8_t bit, line;
    } strobes[] = {{RMG_STROBE_SELECT, MAP_SELECT},
                   {RMG_STROBE_WRITE, MAP_WRITE},
                   {RMG_STROBE_OUTPUT, MAP_OUTPUT}};
    pod_lines *l = context;

    /* what ends, ends first, and in the opposite order */
    for (unsigned i = 3; i-- > 0;)
        if (!(active & strobes[i].bit))
            set(l, l->map->strobes[strobes[i].line], 1);
    for (unsigned i = 0; i < 3; i++)
        if (active & strobes[i].bit)
            set(l, l->map->strobes[strobes[i].line], 0);
}

/* Steps follow each other no faster than this. */
static void wait_ns(void *context, uint16_t ns)
{
    if (ns > 1000u)
        step(context, 'w', (ns + 999u) / 1000u);
}

static const rmg_pins pins = {.version = RMG_PINS_VERSION,
                              .address = put_address,
                              .drive = drive,
                              .let_go = let_go,
                              .sample = sample,
                              .strobe = strobe,
                              .wait_ns = wait_ns};

void rmg_pod_lines_begin(pod_lines *l, rmg_link *link, const pod_map *map)
{
    memset(l, 0, sizeof *l);
    l->link = link;
    l->map = map;
    memset(l->level, NOT_KNOWN, sizeof l->level);
}

void rmg_pod_lines_fit(pod_lines *l, const rmg_part *part, bool apart, uint16_t access_ns)
{
    l->apart = apart;
    l->inverted = part->inverted;
    l->chip = (rmg_chip_pins){.pins = &pins,
                              .context = l,
                              .kind = part->kind == RMG_PART_ROM ? RMG_PINS_ROM : RMG_PINS_SRAM,
                              .mask = (rmg_word)(((rmg_word)1 << part->width) - 1u),
                              .times = {.access_ns = access_ns, .pulse_ns = access_ns}};
}

static rmg_status done(pod_lines *l)
{
    const rmg_status status = (flush(l), l->status);

    l->status = RMG_OK;
    if (status != RMG_OK) { /* which steps were made is not known: all are made again */
        l->steps[0] = '\0';
        memset(l->level, NOT_KNOWN, sizeof l->level);
    }
    return status;
}

static void set_all(pod_lines *l, signed char level, signed char data)
{
    for (unsigned i = 0; i < MAP_STROBES; i++)
        set(l, l->map->strobes[i], level);
    for (unsigned i = 0; i < MAP_ADDRESS; i++)
        set(l, l->map->address[i], level);
    for (unsigned i = 0; i < MAP_DATA; i++) {
        set(l, l->map->inputs[i], level);
        set(l, l->map->data[i], data);
    }
}

rmg_status rmg_pod_lines_low(pod_lines *l)
{
    set_all(l, 0, -1);
    return done(l);
}

rmg_status rmg_pod_lines_pulled(pod_lines *l)
{
    set_all(l, -2, -2);
    return done(l);
}

rmg_status rmg_pod_lines_wake(pod_lines *l)
{
    if (rmg_chip_begin(&l->chip) != RMG_OK)
        return RMG_ERR_PORT_CANNOT;
    put_address(l, 0);
    return done(l);
}

rmg_status rmg_pod_line_set(pod_lines *l, int line, bool high)
{
    set(l, line, high);
    return done(l);
}

rmg_status rmg_pod_lines_volts(pod_lines *l, int converter, unsigned *mv)
{
    char intent[16], answer[40];
    rmg_status status;

    g_snprintf(intent, sizeof intent, "volts %02X", (unsigned)converter & 0xFFu);
    status = rmg_link_tell(l->link, intent, 0, answer, sizeof answer);
    *mv = status == RMG_OK ? (unsigned)strtoul(answer, NULL, 16) : 0;
    return status;
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    pod_lines *l = context;
    rmg_status status = rmg_chip_bus.read(&l->chip, address, value);
    const rmg_status sent = done(l);

    if (l->inverted)
        *value ^= l->chip.mask;
    status = status == RMG_OK ? sent : status;
    return status == RMG_ERR_PORT ? RMG_ERR_PORT_LOST : status;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    pod_lines *l = context;
    rmg_status status = rmg_chip_bus.write(&l->chip, address, value);
    const rmg_status sent = done(l);

    status = status == RMG_OK ? sent : status;
    return status == RMG_ERR_PORT ? RMG_ERR_PORT_LOST : status;
}

const rmg_bus rmg_pod_lines_bus = {
    .version = RMG_BUS_VERSION, .read = read_word, .write = write_word};
