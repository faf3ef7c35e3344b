/* A few cells in rows and columns, and a fault that depends on a cell's four neighbours: tests
 * through the engine. Shares nothing with the simulated board, so that the two check each other.
 * Definitions: docs/coverage.md. */
#include <string.h>

#include "rimeglass/coverage.h"

#define SIDES 4u
#define NONE  0xFFu
#define MOST  (RMG_NEIGHBOURHOOD_SIDE * RMG_NEIGHBOURHOOD_SIDE)

/* One instance, and the cells, as they lie in the chip: cell row * columns + column. */
typedef struct cells {
    const rmg_neighbourhood *at;
    rmg_pattern_class kind;
    uint8_t victim, around[SIDES]; /* above, below, left, right; NONE: the edge is there */
    uint8_t pattern;               /* bit i: what around[i] is to hold */
    uint8_t by;                    /* of the active class: which neighbour changes, */
    uint8_t to, level;             /* to what; what the victim is made, or cannot be made */
    uint8_t held[MOST];
} cells;

static uint8_t inside(const cells *c, uint8_t row, uint8_t column)
{
    return (uint8_t)(row * c->at->columns + column);
}

/* The cell that the pins' address reaches. */
static uint8_t reached(const cells *c, rmg_addr address)
{
    const uint8_t row = (uint8_t)(address / RMG_NEIGHBOURHOOD_SIDE);
    const uint8_t column = (uint8_t)(address % RMG_NEIGHBOURHOOD_SIDE);

    return inside(c, c->at->row_order ? c->at->row_order[row] : row,
                  c->at->column_order ? c->at->column_order[column] : column);
}

static uint8_t level_in(unsigned pattern, uint8_t side)
{
    return (uint8_t)(pattern >> side & 1u);
}

/* Do the neighbours hold the pattern, all but `except`? */
static bool awake(const cells *c, uint8_t except)
{
    for (uint8_t i = 0; i < SIDES; i++)
        if (i != except && c->around[i] != NONE && c->held[c->around[i]] != level_in(c->pattern, i))
            return false;
    return true;
}

static void settle(cells *c)
{
    if (c->kind == RMG_PATTERN_STATIC && awake(c, NONE))
        c->held[c->victim] = c->level;
}

static rmg_status cells_write(void *context, rmg_addr address, rmg_word value)
{
    cells *c = context;
    const uint8_t cell = reached(c, address), before = c->held[cell], given = value & 1u;

    if (cell == c->victim && c->kind == RMG_PATTERN_PASSIVE && before != given &&
        given == c->level && awake(c, NONE))
        return RMG_OK;
    c->held[cell] = given;
    if (c->kind == RMG_PATTERN_ACTIVE && cell == c->around[c->by] && before != given &&
        given == c->to && awake(c, c->by))
        c->held[c->victim] = c->level;
    settle(c);
    return RMG_OK;
}

static rmg_status cells_read(void *context, rmg_addr address, rmg_word *value)
{
    const cells *c = context;

    *value = c->held[reached(c, address)];
    return RMG_OK;
}

static rmg_status cells_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us; /* nothing here fades */
    return RMG_OK;
}

static const rmg_bus cells_bus = {
    .version = RMG_BUS_VERSION, .read = cells_read, .write = cells_write, .wait = cells_wait};

/* Is it found, whatever the cells held before? */
static bool finds(rmg_neighbour_test test, void *context, const cells *instance)
{
    static const uint8_t contents[RMG_NEIGHBOUR_CONTENTS] = {
        0x0, 0xF, 0x5, 0xA, 0x9, 0x3}; /* by two rows and columns */
    bool found = true;

    for (size_t n = 0; n < sizeof contents && found; n++) {
        cells c = *instance;
        const rmg_target target = {&cells_bus, &c, 1};

        for (uint8_t row = 0; row < c.at->rows; row++)
            for (uint8_t column = 0; column < c.at->columns; column++)
                c.held[inside(&c, row, column)] =
                    contents[n] >> ((row & 1u) << 1 | (column & 1u)) & 1u;
        settle(&c);
        found = test(context, &target, c.at);
    }
    return found;
}

static void count(rmg_neighbour_test test, void *context, const cells *c, rmg_coverage *coverage)
{
    coverage->instances++;
    coverage->found += finds(test, context, c);
}

/* All that a class can do to one victim: the patterns of the neighbours that it has. */
static void victim(rmg_neighbour_test test, void *context, cells *c, rmg_coverage *coverage)
{
    for (c->pattern = 0; c->pattern < 1u << SIDES; c->pattern++)
        for (c->level = 0; c->level < 2; c->level++)
            for (c->by = 0; c->by < (c->kind == RMG_PATTERN_ACTIVE ? SIDES : 1u); c->by++)
                for (c->to = 0; c->to < (c->kind == RMG_PATTERN_ACTIVE ? 2u : 1u); c->to++) {
                    bool named = c->kind == RMG_PATTERN_ACTIVE &&
                                 (level_in(c->pattern, c->by) || c->around[c->by] == NONE);

                    for (uint8_t i = 0; i < SIDES; i++) /* an edge has one level only */
                        named |= c->around[i] == NONE && level_in(c->pattern, i);
                    if (!named)
                        count(test, context, c, coverage);
                }
}

static void put_victim(cells *c, uint8_t row, uint8_t column)
{
    c->victim = inside(c, row, column);
    c->around[0] = row ? inside(c, (uint8_t)(row - 1u), column) : NONE;
    c->around[1] = row + 1u < c->at->rows ? inside(c, (uint8_t)(row + 1u), column) : NONE;
    c->around[2] = column ? inside(c, row, (uint8_t)(column - 1u)) : NONE;
    c->around[3] = column + 1u < c->at->columns ? inside(c, row, (uint8_t)(column + 1u)) : NONE;
}

rmg_status rmg_neighbour_coverage(const rmg_neighbourhood *at, rmg_pattern_class kind,
                                  rmg_neighbour_test test, void *context, rmg_coverage *coverage)
{
    cells c = {.at = at, .kind = kind};

    memset(coverage, 0, sizeof *coverage);
    if (at->rows < 2 || at->columns < 2 || at->rows > RMG_NEIGHBOURHOOD_SIDE ||
        at->columns > RMG_NEIGHBOURHOOD_SIDE || kind >= RMG_PATTERN_CLASSES)
        return RMG_ERR_ARGUMENT;
    for (uint8_t row = 0; row < at->rows; row++)
        for (uint8_t column = 0; column < at->columns; column++) {
            if (at->one_victim && (row != at->victim_row || column != at->victim_column))
                continue;
            put_victim(&c, row, column);
            victim(test, context, &c, coverage);
        }
    return RMG_OK;
}
