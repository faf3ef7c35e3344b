/* Sixteen cells in rows and columns, and a chip that is slow from one access to the next: tests
 * through the engine. Shares nothing with the simulated board, so that the two check each other.
 * Definitions: docs/coverage.md. */
#include <string.h>

#include "rimeglass/coverage.h"

#define CELLS RMG_SUCCESSIVE_CELLS
#define LINES 4u
#define NONE  0xFFu

/* One instance, and the cells by the chip's own address: row lines lowest. */
typedef struct chip {
    rmg_successive_class kind;
    bool columns_low;  /* at the pins of the board */
    uint8_t at, after; /* of pairs: the address, and the one before it */
    uint8_t line, level;
    uint8_t column;
    uint8_t held[CELLS];
    uint8_t last, last_level; /* address of the access before, NONE: there was none; what it met */
    bool wrote;
} chip;

static uint8_t own_address(const chip *c, rmg_addr address)
{
    const unsigned a = (unsigned)address % CELLS;

    return (uint8_t)(c->columns_low ? (a >> 2 | a << 2) % CELLS : a);
}

static uint8_t reached(const chip *c, uint8_t own)
{
    const uint8_t line = (uint8_t)(1u << c->line);

    if (c->last == NONE)
        return own;
    if (c->kind <= RMG_SUCCESSIVE_ALL_LINES)
        return own == c->at && c->last == c->after ? c->after : own;
    if (c->kind == RMG_SUCCESSIVE_LINE && ((own ^ c->last) & line) &&
        (own & line) == (c->level ? line : 0))
        return (uint8_t)(own ^ line);
    return own;
}

static rmg_status chip_write(void *context, rmg_addr address, rmg_word value)
{
    chip *c = context;
    const uint8_t own = own_address(c, address), cell = reached(c, own);

    c->held[cell] = value & 1u;
    c->last = own;
    c->last_level = c->held[cell];
    c->wrote = true;
    return RMG_OK;
}

static rmg_status chip_read(void *context, rmg_addr address, rmg_word *value)
{
    chip *c = context;
    const uint8_t own = own_address(c, address), cell = reached(c, own);
    const bool precharge = c->kind == RMG_SUCCESSIVE_PRECHARGE,
               recovery = c->kind == RMG_SUCCESSIVE_RECOVERY && c->wrote;

    *value = c->held[cell];
    if ((precharge || recovery) && c->last != NONE && c->last != own && c->last >> 2 == c->column &&
        own >> 2 == c->column && c->last_level == c->level)
        *value = c->level;
    c->last = own;
    c->last_level = c->held[cell];
    c->wrote = false;
    return RMG_OK;
}

static rmg_status chip_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us; /* nothing here fades */
    return RMG_OK;
}

static const rmg_bus chip_bus = {
    .version = RMG_BUS_VERSION, .read = chip_read, .write = chip_write, .wait = chip_wait};

static bool finds(rmg_successive_test test, void *context, const chip *instance)
{
    static const uint16_t contents[RMG_SUCCESSIVE_CONTENTS] = {0x0000, 0xFFFF, 0x5A5A,
                                                               0xA5A5, 0x3C96, 0xC369};
    bool found = true;

    for (size_t n = 0; n < RMG_SUCCESSIVE_CONTENTS && found; n++) {
        chip c = *instance;
        const rmg_target target = {&chip_bus, &c, 1};

        c.last = NONE;
        for (unsigned cell = 0; cell < CELLS; cell++)
            c.held[cell] = contents[n] >> cell & 1u;
        found = test(context, &target);
    }
    return found;
}

/* Pairs of addresses that differ in so many lines, in either order. */
static void pairs(rmg_successive_test test, void *context, chip *c, unsigned lines,
                  rmg_coverage *coverage)
{
    for (unsigned at = 0; at < CELLS; at++)
        for (unsigned after = 0; after < CELLS; after++)
            if ((unsigned)__builtin_popcount(at ^ after) == lines) {
                c->at = (uint8_t)at;
                c->after = (uint8_t)after;
                coverage->instances++;
                coverage->found += finds(test, context, c);
            }
}

rmg_status rmg_successive_coverage(rmg_successive_class kind, bool columns_low,
                                   rmg_successive_test test, void *context, rmg_coverage *coverage)
{
    static const unsigned lines[] = {1, 2, LINES};
    chip c = {.kind = kind, .columns_low = columns_low};

    memset(coverage, 0, sizeof *coverage);
    if (kind >= RMG_SUCCESSIVE_CLASSES)
        return RMG_ERR_ARGUMENT;
    if (kind <= RMG_SUCCESSIVE_ALL_LINES) {
        pairs(test, context, &c, lines[kind], coverage);
        return RMG_OK;
    }
    for (unsigned n = 0; n < 2u * LINES; n++) { /* four lines, or four columns */
        c.line = c.column = (uint8_t)(n / 2u);
        c.level = (uint8_t)(n % 2u);
        coverage->instances++;
        coverage->found += finds(test, context, &c);
    }
    return RMG_OK;
}
