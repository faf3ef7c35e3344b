/* A board as one would wire it: chips with cells, nets from bit to bit, what each fault does to
 * them. Slow and plain. */
#include "other_board.h"

#include <stdlib.h>
#include <string.h>

typedef struct chip {
    const rmg_rule *rule;
    uint8_t *cells; /* [width << lines], one a byte */
    uint32_t latch; /* what it should have given at the read before */
} chip;

struct other_board {
    const diag_board *of;
    const rmg_board *board;
    chip *chips; /* by rule */
    unsigned chip_count;
    rmg_sim_fault faults[DIAG_FAULTS];
    bool on[DIAG_FAULTS]; /* now */
    unsigned fault_count, burst;
    rmg_undriven undriven;
    uint64_t hold, accesses; /* accesses for which undriven lines keep their level; 0: for good */
    uint64_t *driven_at;     /* [word_bits] */
    rmg_addr lanes;
    rmg_word bus, mask;
    diag_dice dice;
};

static const rmg_fault_kind kinds[] = {
    RMG_FAULT_CELL,          RMG_FAULT_ROW,           RMG_FAULT_COLUMN,
    RMG_FAULT_OUTPUT,        RMG_FAULT_DATA_OPEN,     RMG_FAULT_MISSING,
    RMG_FAULT_NO_WRITE,      RMG_FAULT_ALWAYS_ON,     RMG_FAULT_ADDRESS_CHIP,
    RMG_FAULT_STALE,         RMG_FAULT_TRANSITION,    RMG_FAULT_READ_FLIPS,
    RMG_FAULT_COUPLING_SETS, RMG_FAULT_DATA_LINE,     RMG_FAULT_LINE_STUCK,
    RMG_FAULT_LINE_OPEN,     RMG_FAULT_DATA_SHORT,    RMG_FAULT_ADDRESS_BANK,
    RMG_FAULT_ADDRESS_STUCK, RMG_FAULT_ADDRESS_SHORT, RMG_FAULT_DESELECTED,
    RMG_FAULT_ALSO_SELECTED, RMG_FAULT_NOISE};

bool other_board_has(rmg_fault_kind kind)
{
    for (size_t i = 0; i < sizeof kinds / sizeof *kinds; i++)
        if (kinds[i] == kind)
            return true;
    return false;
}

other_board *other_board_new(const diag_case *c, unsigned burst)
{
    other_board *b = calloc(1, sizeof *b);
    const rmg_board *board = c->board->board;

    if (!b)
        exit(2);
    b->of = c->board;
    b->board = board;
    b->dice = diag_seed(c->world, 77);
    b->burst = burst;
    b->undriven = c->board->made_up ? c->board->undriven : board->undriven;
    b->hold = c->board->made_up && board->access_ns ? c->board->hold_ns / board->access_ns : 0;
    b->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    for (size_t n = 0; n < board->line_count; n++)
        if (board->lines[n].kind == RMG_LINE_DATA)
            b->lanes |= board->lines[n].lane.mask;
    b->chip_count = board->placement.rule_count;
    b->chips = calloc(b->chip_count, sizeof *b->chips);
    b->driven_at = calloc(board->word_bits, sizeof *b->driven_at);
    for (unsigned i = 0; i < b->chip_count; i++) {
        const rmg_rule *rule = &board->placement.rules[i];
        const size_t cells = (size_t)rule->width << rule->address_lines;

        b->chips[i].rule = rule;
        b->chips[i].cells = malloc(cells);
        for (size_t k = 0; k < cells; k++)
            b->chips[i].cells[k] = diag_roll(&b->dice, 2) != 0;
    }
    for (unsigned i = 0; i < c->fault_count; i++)
        b->faults[i] = c->faults[i];
    b->fault_count = c->fault_count;
    return b;
}

void other_board_free(other_board *b)
{
    for (unsigned i = 0; i < b->chip_count; i++)
        free(b->chips[i].cells);
    free(b->chips);
    free(b->driven_at);
    free(b);
}

/* Time goes on by one access: faults come and go. */
static void tick(other_board *b)
{
    b->accesses++;
    for (unsigned i = 0; i < b->fault_count; i++) {
        const uint32_t rate = b->faults[i].when.rate_ppb;

        if (!rate)
            b->on[i] = true;
        else if (b->on[i] && b->burst > 1)
            b->on[i] = diag_roll(&b->dice, b->burst) != 0;
        else
            b->on[i] = diag_roll(&b->dice, 1000000000u) < (uint64_t)rate / b->burst + 1u;
    }
}

static bool concerns(const rmg_sim_fault *f, uint16_t socket)
{
    return f->scope[socket >> 6] >> (socket & 63u) & 1u;
}

/* The fault of this kind that is there and is about the chip; NULL: none. `from`: where to go on.
 */
static const rmg_sim_fault *fault_at(const other_board *b, rmg_fault_kind kind, const chip *c,
                                     unsigned *from)
{
    for (; *from < b->fault_count; (*from)++) {
        const rmg_sim_fault *f = &b->faults[*from];

        if (b->on[*from] && f->kind == kind &&
            (f->chip == c->rule->socket || concerns(f, c->rule->socket))) {
            (*from)++;
            return f;
        }
    }
    return NULL;
}

#define EACH(f, kind, c)                                                                           \
    unsigned at_##kind = 0;                                                                        \
    const rmg_sim_fault *f;                                                                        \
    while ((f = fault_at(b, RMG_FAULT_##kind, c, &at_##kind)) != NULL)

static bool has_fault(const other_board *b, rmg_fault_kind kind, const chip *c)
{
    unsigned from = 0;
    const rmg_sim_fault *f;

    while ((f = fault_at(b, kind, c, &from)) != NULL)
        if (concerns(f, c->rule->socket))
            return true;
    return false;
}

static rmg_addr level_at(rmg_addr address, rmg_addr lines, unsigned level)
{
    return level ? address | lines : address & ~lines;
}

/* The address that arrives at the pins of a chip, as lines of the bus. */
static rmg_addr bus_address_at(const other_board *b, const chip *c, rmg_addr address)
{
    {
        EACH(f, ADDRESS_STUCK, c)
        if (concerns(f, c->rule->socket))
            address = level_at(address, f->lines, f->level);
    }
    {
        EACH(f, ADDRESS_BANK, c)
        if (concerns(f, c->rule->socket))
            address = level_at(address, f->lines, f->level);
    }
    {
        EACH(f, ADDRESS_SHORT, c)
        if (concerns(f, c->rule->socket)) {
            const rmg_addr both = address & f->lines;
            const bool high = f->level ? both != 0 : both == f->lines;

            address = level_at(address, f->lines, high);
        }
    }
    return address;
}

/* Its own address. */
static rmg_addr cell_address(const other_board *b, const chip *c, rmg_addr address)
{
    rmg_addr cell = 0;

    address = bus_address_at(b, c, address);
    for (uint8_t k = 0; k < c->rule->address_lines; k++) {
        const uint8_t feed = c->rule->address_bits[k];
        const unsigned level =
            feed < RMG_ADDR_BITS ? (unsigned)(address >> feed & 1u) : feed == RMG_FEED_1;

        cell |= (rmg_addr)level << k;
    }
    {
        EACH(f, ADDRESS_CHIP, c)
        if (f->chip == c->rule->socket)
            cell = level_at(cell, f->lines, f->level);
    }
    return cell;
}

/* Is the chip selected at this address, and at which address does it look? */
static bool selected(const other_board *b, const chip *c, rmg_addr address, bool reading,
                     rmg_addr *seen)
{
    const rmg_where *where = &c->rule->where;
    bool yes = address >= where->first && address <= where->last &&
               (address & where->mask) == where->match;

    *seen = address;
    for (unsigned i = 0; i < b->fault_count && !yes; i++) {
        const rmg_sim_fault *f = &b->faults[i];
        const rmg_where *there = &b->board->bank_wheres[f->bank2];

        if (!b->on[i] || f->kind != RMG_FAULT_ALSO_SELECTED || f->bank != c->rule->bank ||
            address < there->first || address > there->last ||
            (address & there->mask) != there->match)
            continue;
        *seen = (address - there->first + where->first);
        *seen = (*seen & ~where->mask) | where->match;
        yes = *seen >= where->first && *seen <= where->last;
    }
    if (!yes && reading && has_fault(b, RMG_FAULT_ALWAYS_ON, c))
        yes = !((address ^ where->match) & where->mask & b->lanes);
    return yes && !has_fault(b, RMG_FAULT_DESELECTED, c) && !has_fault(b, RMG_FAULT_MISSING, c);
}

static uint8_t *cell_of(const chip *c, rmg_addr cell, uint8_t line)
{
    return &c->cells[(size_t)cell * c->rule->width + line];
}

/* What one cell gives when it is read. */
static unsigned read_cell(const other_board *b, const chip *c, rmg_addr cell, uint8_t line)
{
    const rmg_addr rows = (rmg_addr)1 << b->board->sockets[c->rule->socket].part->row_lines;
    uint8_t *bit = cell_of(c, cell, line);

    {
        EACH(f, READ_FLIPS, c)
        if (f->chip == c->rule->socket && f->cell == cell && f->data_line == line &&
            *bit == f->level)
            *bit = !*bit;
    }
    {
        EACH(f, CELL, c)
        if (f->chip == c->rule->socket && f->cell == cell && f->data_line == line)
            return f->level;
    }
    {
        EACH(f, ROW, c)
        if (f->chip == c->rule->socket && f->cell == (cell & (rows - 1)) && f->data_line == line)
            return f->level;
    }
    {
        EACH(f, COLUMN, c)
        if (f->chip == c->rule->socket && f->cell == cell / rows && f->data_line == line)
            return f->level;
    }
    return *bit;
}

static void write_cell(const other_board *b, const chip *c, rmg_addr cell, uint8_t line,
                       unsigned level)
{
    uint8_t *bit = cell_of(c, cell, line);
    const unsigned before = *bit;

    {
        EACH(f, TRANSITION, c)
        if (f->chip == c->rule->socket && f->cell == cell && f->data_line == line &&
            level == f->level && (!f->coupled || *cell_of(c, f->cell2, f->data_line2) == f->state))
            return;
    }
    *bit = (uint8_t)level;
    {
        EACH(f, COUPLING_SETS, c)
        if (f->chip == c->rule->socket && f->cell2 == cell && f->data_line2 == line &&
            before != level && level == f->state)
            *cell_of(c, f->cell, f->data_line) = f->level;
    }
}

/* The level that a chip puts on one bit of the bus; -1: none. */
static int drives(other_board *b, chip *c, rmg_addr cell, uint8_t line)
{
    const uint8_t bus_bit = c->rule->data_bits[line];
    int level = (int)read_cell(b, c, cell, line);

    if (has_fault(b, RMG_FAULT_STALE, c)) {
        const int now = level;

        level = (int)(c->latch >> line & 1u);
        c->latch = (c->latch & ~(1u << line)) | (uint32_t)now << line;
    }
    {
        EACH(f, OUTPUT, c)
        if (f->chip == c->rule->socket && f->data_line == line)
            level = f->level;
    }
    {
        EACH(f, DATA_OPEN, c)
        if (f->chip == c->rule->socket && f->data_line == line)
            return -1;
    }
    {
        EACH(f, LINE_OPEN, c)
        if (concerns(f, c->rule->socket) && f->line == bus_bit)
            return -1;
    }
    {
        EACH(f, LINE_STUCK, c)
        if (concerns(f, c->rule->socket) && f->line == bus_bit)
            level = f->level;
    }
    return level;
}

/* Bits that touch, as far as a chip of the fault is selected: -1 follows the other. */
static void touch(const other_board *b, int *levels, const bool *active)
{
    for (unsigned i = 0; i < b->fault_count; i++) {
        const rmg_sim_fault *f = &b->faults[i];
        bool here = false;

        if (!b->on[i] || f->kind != RMG_FAULT_DATA_SHORT)
            continue;
        for (unsigned k = 0; k < b->chip_count; k++)
            here |= active[k] && concerns(f, b->chips[k].rule->socket);
        if (!here)
            continue;
        if (levels[f->line] < 0)
            levels[f->line] = levels[f->line2];
        else if (levels[f->line2] < 0)
            levels[f->line2] = levels[f->line];
        else if (levels[f->line] != levels[f->line2])
            levels[f->line] = levels[f->line2] = f->level;
    }
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    other_board *b = context;
    int levels[RMG_WORD_BITS];
    bool *active = calloc(b->chip_count, sizeof *active);

    tick(b);
    for (unsigned i = 0; i < b->board->word_bits; i++)
        levels[i] = -1;
    for (unsigned k = 0; k < b->chip_count; k++) {
        chip *c = &b->chips[k];
        rmg_addr seen, cell;

        active[k] = selected(b, c, address, true, &seen);
        cell = active[k] ? cell_address(b, c, seen) : 0;
        for (uint8_t line = 0; active[k] && line < c->rule->width; line++) {
            const int level = drives(b, c, cell, line);
            int *bus = &levels[c->rule->data_bits[line]];

            if (level >= 0 && (*bus < 0 || *bus == !b->of->high_wins))
                *bus = level;
        }
    }
    touch(b, levels, active);
    *value = 0;
    for (unsigned i = 0; i < b->board->word_bits; i++) {
        const bool faded = b->hold && b->accesses - b->driven_at[i] > b->hold;

        if (levels[i] >= 0)
            b->driven_at[i] = b->accesses;
        else
            levels[i] = b->undriven == RMG_UNDRIVEN_HIGH  ? 1
                        : b->undriven == RMG_UNDRIVEN_LOW ? 0
                        : faded                           ? 1
                                                          : (int)(b->bus >> i & 1u);
        for (unsigned n = 0; n < b->fault_count; n++)
            if (b->on[n] && b->faults[n].kind == RMG_FAULT_DATA_LINE && b->faults[n].line == i &&
                (address & b->faults[n].cell) == b->faults[n].lines)
                levels[i] = b->faults[n].level;
        *value |= (rmg_word)levels[i] << i;
    }
    for (unsigned n = 0; n < b->fault_count; n++)
        if (b->on[n] && b->faults[n].kind == RMG_FAULT_NOISE)
            *value ^= (rmg_word)1 << diag_roll(&b->dice, b->board->word_bits);
    b->bus = *value;
    free(active);
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    other_board *b = context;

    tick(b);
    b->bus = value;
    for (unsigned i = 0; i < b->board->word_bits; i++)
        b->driven_at[i] = b->accesses;
    for (unsigned n = 0; n < b->fault_count; n++)
        if (b->on[n] && b->faults[n].kind == RMG_FAULT_DATA_LINE &&
            (address & b->faults[n].cell) == b->faults[n].lines)
            value = (rmg_word)level_at(value, (rmg_word)1 << b->faults[n].line, b->faults[n].level);
    for (unsigned k = 0; k < b->chip_count; k++) {
        chip *c = &b->chips[k];
        rmg_word here = value;
        rmg_addr seen, cell;

        if (!selected(b, c, address, false, &seen) || has_fault(b, RMG_FAULT_NO_WRITE, c))
            continue;
        cell = cell_address(b, c, seen);
        {
            EACH(f, DATA_SHORT, c)
            if (concerns(f, c->rule->socket)) {
                const rmg_word both = (rmg_word)1 << f->line | (rmg_word)1 << f->line2;
                const bool high = f->level ? (here & both) != 0 : (here & both) == both;

                here = (rmg_word)level_at(here, both, high);
            }
        }
        for (uint8_t line = 0; line < c->rule->width; line++) {
            const uint8_t bus_bit = c->rule->data_bits[line];
            unsigned level = here >> bus_bit & 1u;
            bool open = false;

            {
                EACH(f, LINE_STUCK, c)
                if (concerns(f, c->rule->socket) && f->line == bus_bit)
                    level = f->level;
            }
            {
                EACH(f, LINE_OPEN, c)
                open |= concerns(f, c->rule->socket) && f->line == bus_bit;
            }
            if (b->board->sockets[c->rule->socket].part->width > 1) { /* one pin, in and out */
                EACH(f, DATA_OPEN, c)
                open |= f->chip == c->rule->socket && f->data_line == line;
            }
            write_cell(b, c, cell, line, open ? 1 : level);
        }
    }
    return RMG_OK;
}

const rmg_bus other_board_bus = {
    .version = RMG_BUS_VERSION, .read = read_word, .write = write_word};
