/* The slow path of the simulated board: each chip on its own, with every fault it can have. */
#include "internal.h"

#include <string.h>

static rmg_addr force(rmg_addr lines, uint8_t level, rmg_addr value)
{
    return level ? value | lines : value & ~lines;
}

/* Two lines that touch: both take the level that wins. */
static rmg_addr join(rmg_addr lines, uint8_t high_wins, rmg_addr value)
{
    const rmg_addr both = value & lines;

    return force(lines, high_wins ? both != 0 : both == lines, value);
}

/* Two lines that changed places. */
static rmg_addr exchange(rmg_addr lines, rmg_addr value)
{
    const rmg_addr both = value & lines;

    return both == 0 || both == lines ? value : value ^ lines;
}

rmg_addr rmg_chips_bank_address(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_LINES);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        switch (f->kind) {
        case RMG_FAULT_ADDRESS_SHORT:
            address = join(f->lines, f->level, address);
            break;
        case RMG_FAULT_ADDRESS_SWAP:
            address = exchange(f->lines, address);
            break;
        case RMG_FAULT_ADDRESS_CROSSTALK:
            if (rmg_disturbs(f, f->lines, (uint64_t)1 << f->line, sim->last_address, address))
                address ^= (rmg_addr)1 << f->line;
            break;
        default:
            address = force(f->lines, f->level, address);
        }
    return address;
}

/* An address of the chip's own, as its pins have it. */
static rmg_addr at_pins(const rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_PINS);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        cell = force(f->lines, f->level, cell);
    return cell;
}

static rmg_addr moved_cell(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    return at_pins(sim, r, rmg_chips_fed_cell(sim, r, rmg_chips_bank_address(sim, r, address)));
}

static inline rmg_addr cell_of(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    const rmg_sim_way *way = &sim->ways[r];

    if (way->live & (RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS)))
        return moved_cell(sim, r, address);
    return (rmg_chips_fed_cell(sim, r, (address & way->lines_and) | way->lines_or) &
            way->pins_and) |
           way->pins_or;
}

rmg_addr rmg_chips_cell(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    return cell_of(sim, r, address);
}

rmg_word rmg_chips_bus(const rmg_sim *sim, rmg_addr address, rmg_word value)
{
    rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_BUS);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        if ((address & f->cell) == f->lines)
            value = (rmg_word)force((rmg_addr)1 << f->line, f->level, value);
    return value;
}

static bool any(const rmg_sim *sim, uint16_t r, rmg_sim_stage stage)
{
    rmg_acting acting = rmg_acting_at(sim, r, stage);

    return rmg_acting_next(sim, &acting) != NULL;
}

bool rmg_chips_same_lane(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];

    return !((address ^ rule->where.match) & rule->where.mask & sim->board->lanes);
}

/* The address in the middle of another bank that reaches the rule's chips too, by a fault; false if
 * there is none. */
static bool also_selected(const rmg_sim *sim, uint16_t rule_number, rmg_addr address,
                          rmg_addr *inside)
{
    const rmg_placement *placement = sim->board->placement;
    const rmg_rule *rule = &placement->rules[rule_number];
    rmg_acting acting = rmg_acting_at(sim, rule_number, RMG_STAGE_OTHERS);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        for (uint16_t r = 0; r < placement->rule_count; r++) {
            const rmg_where *there = &placement->rules[r].where;

            if (placement->rules[r].bank != f->bank2 || !rmg_where_holds(there, address) ||
                !rmg_chips_same_lane(sim, rule_number, address))
                continue;
            /* the same place in the bank: banks may be chosen by low lines */
            *inside = address - there->first + rule->where.first;
            *inside = (*inside & ~rule->where.mask) | rule->where.match;
            return rmg_where_holds(&rule->where, *inside);
        }
    return false;
}

/* The same where faults have a say: of its selection, or by which it answers elsewhere. */
static bool answers_by_fault(const rmg_sim *sim, uint16_t r, rmg_addr address, bool reading,
                             bool own, rmg_addr *inside)
{
    const uint32_t acts = sim->ways[r].live;

    if (sim->ways[r].gone || ((acts & RMG_STAGE_BIT(SELECT)) && any(sim, r, RMG_STAGE_SELECT)))
        return false;
    if (own || ((acts & RMG_STAGE_BIT(OTHERS)) && also_selected(sim, r, address, inside)))
        return true;
    return reading && (acts & RMG_STAGE_BIT(ENABLE)) && any(sim, r, RMG_STAGE_ENABLE) &&
           rmg_chips_same_lane(sim, r, address);
}

/* Does the rule's chip answer a read at this address, and at which address of its own? */
static inline bool answers(const rmg_sim *sim, uint16_t r, rmg_addr address, bool reading,
                           rmg_addr *inside)
{
    const rmg_sim_way *way = &sim->ways[r];
    const bool own = rmg_where_holds(&way->where, address);

    *inside = address;
    if (own && !way->gone && !(way->live & RMG_STAGE_BIT(SELECT)))
        return true;
    return (own || sim->strays) && answers_by_fault(sim, r, address, reading, own, inside);
}

bool rmg_drawn(const rmg_sim *sim, const rmg_sim_fault *f, uint8_t data_line, rmg_addr cell)
{
    return rmg_sim_dice(sim, 0x30000u + (uint64_t)(f - sim->faults),
                        (uint64_t)cell << 6 | data_line) %
               f->count ==
           0;
}

/* Does a fault of the cell array speak for this cell? */
static bool in_array(const rmg_sim *sim, const rmg_sim_fault *f, const rmg_sim_chip *chip,
                     uint8_t data_line, rmg_addr cell)
{
    switch (f->kind) {
    case RMG_FAULT_CELL:
        return cell == f->cell;
    case RMG_FAULT_ROW:
        return (cell & (((rmg_addr)1 << chip->row_lines) - 1u)) == f->cell;
    case RMG_FAULT_COLUMN:
        return cell >> chip->row_lines == f->cell;
    default: /* RMG_FAULT_WEAK */
        return rmg_drawn(sim, f, data_line, cell);
    }
}

/* What the faults of its cell array make of a word of the chip: it AND *held, OR *high. */
static void array_masks(const rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t *held,
                        uint32_t *high)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_ARRAY);
    const rmg_sim_fault *f;

    *held = UINT32_MAX;
    *high = 0;
    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        const bool all = f->data_line == RMG_ALL_DATA_LINES;
        const uint8_t first = all ? 0 : f->data_line;
        const uint8_t last = all ? (uint8_t)(chip->width - 1u) : f->data_line;

        for (uint8_t line = first; line <= last; line++)
            if (in_array(sim, f, chip, line, cell)) {
                *held &= ~((uint32_t)1 << line);
                *high = (uint32_t)force((rmg_addr)1 << line, f->level, *high);
            }
    }
}

/* The chip's data line that carries a bit of the bus, as a mask; 0: none. */
static uint32_t lines_of_bit(const rmg_rule *rule, uint8_t bit)
{
    uint32_t lines = 0;

    for (uint8_t line = 0; line < rule->width; line++)
        lines |= (uint32_t)(rule->data_bits[line] == bit) << line;
    return lines;
}

/* What the chip's data lines put out of a word; *drives loses those that put out nothing. */
static uint32_t output_word(const rmg_sim *sim, uint16_t r, uint32_t word, uint32_t *drives)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_OUTPUT);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        switch (f->kind) {
        case RMG_FAULT_DATA_OPEN:
            *drives &= ~((uint32_t)1 << f->data_line);
            break;
        case RMG_FAULT_LATE:
            *drives = 0;
            break;
        case RMG_FAULT_STALE: {
            uint32_t *latch = &sim->memories[f - sim->faults].latch;
            const uint32_t now = word;

            word = *latch;
            *latch = now;
            break;
        }
        case RMG_FAULT_LINE_OPEN:
            *drives &= ~lines_of_bit(rule, f->line);
            break;
        case RMG_FAULT_LINE_STUCK:
            word = (uint32_t)force(lines_of_bit(rule, f->line), f->level, word);
            break;
        default: /* RMG_FAULT_OUTPUT */
            word = (uint32_t)force((rmg_addr)1 << f->data_line, f->level, word);
        }
    return word;
}

/* A value as data lines that changed places near the chip bring it. */
static rmg_word swapped(const rmg_sim *sim, uint16_t r, rmg_word value)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_ORDER);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        value = (rmg_word)exchange((rmg_addr)1 << f->line | (rmg_addr)1 << f->line2, value);
    return value;
}

/* Puts one data line of a chip on the bus. Where two chips drive one line, one level wins. */
static inline void drive(const rmg_sim *sim, rmg_word bit, bool high, rmg_word *driven,
                         rmg_word *value)
{
    if (!(*driven & bit) || high == sim->high_wins)
        *value = high ? *value | bit : *value & ~bit;
    *driven |= bit;
}

/* May its cells be read and written without a look at what was done before? */
static inline bool quiet(const rmg_sim *sim, const rmg_sim_way *way)
{
    return !sim->lively || (way->plain && sim->refreshed) || (way->still && sim->calm);
}

static inline void chip_read(rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word *driven,
                             rmg_word *value)
{
    const rmg_sim_way *way = &sim->ways[r];
    const rmg_addr cell = cell_of(sim, r, address);
    const uint32_t live = way->live;
    uint32_t drives = way->drives;
    uint32_t word = quiet(sim, way) ? rmg_cell_get(sim, r, cell) : rmg_cells_read(sim, r, cell);

    if (live & RMG_STAGE_BIT(ARRAY)) {
        uint32_t held, high;

        array_masks(sim, r, cell, &held, &high);
        word = (word & held) | high;
    }
    word = (word & way->out_and) | way->out_or;
    if (live & RMG_STAGE_BIT(OUTPUT))
        word = output_word(sim, r, word, &drives);
    if (way->width == 1 && !(live & RMG_STAGE_BIT(ORDER))) {
        if (drives & 1u)
            drive(sim, way->bits, word & 1u, driven, value);
        return;
    }
    for (uint8_t line = 0; line < way->width; line++) {
        rmg_word bit = (rmg_word)1 << sim->board->placement->rules[r].data_bits[line];

        if (live & RMG_STAGE_BIT(ORDER))
            bit = swapped(sim, r, bit);
        if (drives >> line & 1u)
            drive(sim, bit, word >> line & 1u, driven, value);
    }
}

/* Data lines that touch behind these chips' branch, as far as one of them answers. */
static void short_lines(const rmg_sim *sim, rmg_addr address, rmg_word *driven, rmg_word *value)
{
    const rmg_placement *placement = sim->board->placement;
    rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_SHORT);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        const rmg_word lines = (rmg_word)1 << f->line | (rmg_word)1 << f->line2;
        bool here = false;
        rmg_addr inside;

        if (!(*driven & lines))
            continue;
        for (uint16_t r = 0; r < placement->rule_count && !here; r++)
            here = rmg_fault_acts_for(f, placement->rules[r].socket) &&
                   answers(sim, r, address, true, &inside);
        if (!here)
            continue;
        if ((*driven & lines) == lines) /* else the one that is driven moves both */
            *value = join(lines, f->level, *value);
        else
            *value = force(lines, (*value & *driven & lines) != 0, *value);
        *driven |= lines;
    }
}

rmg_word rmg_chips_read_apart(rmg_sim *sim, rmg_addr address, rmg_word flat, rmg_word *driven)
{
    rmg_word value;

    *driven = sim->mask;
    rmg_forced(sim, address, &flat);
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        if (rmg_where_holds(&sim->ways[sim->apart[i]].where, address))
            *driven &= ~sim->ways[sim->apart[i]].bits;
    }
    value = flat & *driven;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        rmg_addr inside;

        if (answers(sim, sim->apart[i], address, true, &inside))
            chip_read(sim, sim->apart[i], inside, driven, &value);
    }
    if (sim->bus_acts & RMG_STAGE_BIT(SHORT))
        short_lines(sim, address, driven, &value);
    return value;
}

/* The data lines of a rule's chip. */
static uint32_t all_lines(const rmg_sim_way *way)
{
    return (uint32_t)(((uint64_t)1 << way->width) - 1u);
}

static void gather_begin(rmg_gathered *g)
{
    *g = (rmg_gathered){.held = UINT64_MAX};
}

/* The i-th chip that is apart joins, its word from `bit` on; false: it does not answer. A cell may
 * be stored in more bits than its chip has lines; these say nothing. */
static inline bool gather_chip(rmg_sim *sim, uint16_t i, rmg_addr address, unsigned bit,
                               rmg_gathered *g, rmg_addr *cell)
{
    const uint16_t r = sim->apart[i];
    rmg_addr inside;

    g->own |= (uint64_t)rmg_where_holds(&sim->ways[r].where, address) << i; /* silent or not */
    if (!answers(sim, r, address, true, &inside))
        return false;
    *cell = cell_of(sim, r, inside);
    g->which |= (uint64_t)1 << i;
    g->cells |= (uint64_t)(rmg_cell_get(sim, r, *cell) & all_lines(&sim->ways[r])) << bit;
    return true;
}

void rmg_chips_gather(rmg_sim *sim, rmg_addr address, rmg_gathered *g, rmg_addr *at)
{
    unsigned bit = 0;

    gather_begin(g);
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];

        if (!gather_chip(sim, i, address, bit, g, &at[i]))
            continue;
        if (way->live & RMG_STAGE_BIT(ARRAY)) {
            uint32_t held, high;

            array_masks(sim, sim->apart[i], at[i], &held, &high);
            g->held &= ~((uint64_t)~held << bit);
            g->high |= (uint64_t)high << bit;
        }
        bit += way->width;
    }
}

void rmg_chips_scatter(rmg_sim *sim, uint64_t which, uint64_t cells, const rmg_addr *at)
{
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const uint16_t r = sim->apart[i];

        if (!(which >> i & 1u))
            continue;
        rmg_cell_store(&sim->ways[r], at[i], (uint32_t)cells & all_lines(&sim->ways[r]));
        cells >>= sim->ways[r].width;
    }
}

/* A cell's word so often that it fills 8 bytes. */
static uint64_t repeated(const rmg_sim_way *way, uint32_t word)
{
    uint64_t all = word;

    for (unsigned bits = 1u << way->cell_log2; bits < 64; bits *= 2)
        all |= all << bits;
    return all;
}

#define PAGE_WORDS (1u << RMG_SIM_PAGE_BITS)

/* The cells of a page, which lie together. */
static uint8_t *page_cells(const rmg_sim_way *way, rmg_addr cell, size_t *bytes)
{
    *bytes = (size_t)PAGE_WORDS << way->cell_log2 >> 3;
    return (uint8_t *)way->cells + ((size_t)cell << way->cell_log2 >> 3);
}

bool rmg_chips_gather_page(rmg_sim *sim, rmg_addr first, rmg_gathered *g, rmg_addr *at)
{
    unsigned bit = 0;

    gather_begin(g);
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];
        const uint8_t *cells;
        uint64_t all;
        size_t bytes;

        if (!gather_chip(sim, i, first, bit, g, &at[i]))
            continue;
        all = repeated(way, rmg_cell_load(way, at[i]));
        cells = page_cells(way, at[i], &bytes);
        for (size_t n = 0; n < bytes; n += bytes < sizeof all ? bytes : sizeof all)
            if (memcmp(cells + n, &all, bytes < sizeof all ? bytes : sizeof all) != 0)
                return false;
        bit += way->width;
    }
    return true;
}

void rmg_chips_scatter_page(rmg_sim *sim, uint64_t which, uint64_t cells, const rmg_addr *at)
{
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];
        const uint64_t all = repeated(way, (uint32_t)cells & all_lines(way));
        size_t bytes;
        uint8_t *to;

        if (!(which >> i & 1u))
            continue;
        to = page_cells(way, at[i], &bytes);
        for (size_t n = 0; n < bytes; n += bytes < sizeof all ? bytes : sizeof all)
            memcpy(to + n, &all, bytes < sizeof all ? bytes : sizeof all);
        cells >>= way->width;
    }
}

rmg_word rmg_chips_read(rmg_sim *sim, rmg_addr address, rmg_word *driven)
{
    rmg_word value = 0;

    *driven = 0;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        rmg_addr inside;

        if (answers(sim, r, address, true, &inside))
            chip_read(sim, r, inside, driven, &value);
    }
    if (sim->bus_acts & RMG_STAGE_BIT(SHORT))
        short_lines(sim, address, driven, &value);
    return value;
}

rmg_word rmg_chips_noise(const rmg_sim *sim, rmg_word value)
{
    rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_NOISE);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
        uint64_t bit = f->line;

        if (f->line == RMG_ALL_DATA_LINES)
            bit = rmg_sim_dice(sim, 0x20000u + (uint64_t)(f - sim->faults), sim->reads) %
                  sim->board->word_bits;
        value ^= (rmg_word)1 << bit;
    }
    return value;
}

/* What a chip finds on its data lines of what was put on the bus; false: it takes nothing. */
static bool value_at_chip(const rmg_sim *sim, uint16_t r, rmg_word *value)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_INPUT);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        switch (f->kind) {
        case RMG_FAULT_NO_WRITE:
            return false;
        case RMG_FAULT_DATA_SHORT:
            *value = join((rmg_word)1 << f->line | (rmg_word)1 << f->line2, f->level, *value);
            break;
        default: /* RMG_FAULT_LINE_STUCK */
            *value = force((rmg_word)1 << f->line, f->level, *value);
        }
    return true;
}

/* What arrives of a word at the chip's data lines; *taken loses those at which nothing does. */
static uint32_t taken_word(const rmg_sim *sim, uint16_t r, uint32_t word, uint32_t *taken)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TAKING);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        switch (f->kind) {
        case RMG_FAULT_LINE_OPEN:
            *taken &= ~lines_of_bit(rule, f->line);
            break;
        case RMG_FAULT_DATA_OPEN:
            *taken &= ~((uint32_t)1 << f->data_line);
            break;
        default: /* RMG_FAULT_INPUT_OPEN */
            word = (uint32_t)force((rmg_addr)1 << f->data_line, f->level, word);
        }
    return word;
}

static inline void chip_write(rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word value,
                              rmg_word strobed)
{
    const rmg_sim_way *way = &sim->ways[r];
    const uint32_t live = way->live;
    uint32_t word = 0, taken = 0;
    rmg_addr cell;

    if (way->deaf)
        return;
    cell = cell_of(sim, r, address);
    value = (value & way->input_and) | way->input_or;
    if ((live & RMG_STAGE_BIT(INPUT)) && !value_at_chip(sim, r, &value))
        return;
    if (live & RMG_STAGE_BIT(ORDER))
        value = swapped(sim, r, value);
    if (way->width == 1) {
        word = (value & way->bits) != 0;
        taken = (strobed & way->bits) != 0;
    }
    for (uint8_t line = 0; way->width > 1 && line < way->width; line++) {
        const uint8_t bit = sim->board->placement->rules[r].data_bits[line];

        word |= (uint32_t)(value >> bit & 1u) << line;
        taken |= (uint32_t)(strobed >> bit & 1u) << line;
    }
    word = (word & way->take_and) | way->take_or;
    taken &= way->taken;
    if (live & RMG_STAGE_BIT(TAKING))
        word = taken_word(sim, r, word, &taken);
    if (quiet(sim, way))
        rmg_cell_set(sim, r, cell, (rmg_cell_get(sim, r, cell) & ~taken) | (word & taken));
    else
        rmg_cells_write(sim, r, cell, word, taken);
}

/* May what acts at the stage be given once and for all, by masks? */
static bool foldable(const rmg_sim *sim, uint16_t r, rmg_sim_stage stage)
{
    rmg_acting acting = rmg_acting_at(sim, r, stage);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];

        if (!rmg_fault_is(f->kind, RMG_TRAIT_BITWISE) || !rmg_fault_always(f))
            return false;
    }
    return true;
}

/* The masks are found by what becomes of all ones and of all zeros. */
void rmg_chips_fold(rmg_sim *sim, uint16_t r)
{
    static const rmg_sim_stage stages[] = {RMG_STAGE_LINES, RMG_STAGE_PINS,   RMG_STAGE_SELECT,
                                           RMG_STAGE_INPUT, RMG_STAGE_TAKING, RMG_STAGE_OUTPUT};
    rmg_sim_way *way = &sim->ways[r];
    rmg_word ones = ~(rmg_word)0, zeros = 0;
    uint32_t folded = 0;

    way->live = way->acts;
    way->lines_and = way->pins_and = ~(rmg_addr)0;
    way->lines_or = way->pins_or = 0;
    way->input_and = ones;
    way->input_or = 0;
    way->taken = way->take_and = way->drives = way->out_and = UINT32_MAX;
    way->take_or = way->out_or = 0;
    way->gone = way->deaf = false;
    for (size_t i = 0; way->acts && i < sizeof stages / sizeof *stages; i++)
        if ((way->acts >> stages[i] & 1u) && foldable(sim, r, stages[i]))
            folded |= (uint32_t)1 << stages[i];
    way->live &= ~folded;
    if (folded & RMG_STAGE_BIT(LINES)) {
        way->lines_and = rmg_chips_bank_address(sim, r, ~(rmg_addr)0);
        way->lines_or = rmg_chips_bank_address(sim, r, 0);
    }
    if (folded & RMG_STAGE_BIT(PINS)) {
        way->pins_and = at_pins(sim, r, ~(rmg_addr)0);
        way->pins_or = at_pins(sim, r, 0);
    }
    if (folded & RMG_STAGE_BIT(SELECT))
        way->gone = true;
    if (folded & RMG_STAGE_BIT(INPUT)) {
        way->deaf = !value_at_chip(sim, r, &ones) || !value_at_chip(sim, r, &zeros);
        way->input_and = ones;
        way->input_or = zeros;
    }
    if (folded & RMG_STAGE_BIT(TAKING)) {
        way->take_and = taken_word(sim, r, UINT32_MAX, &way->taken);
        way->take_or = taken_word(sim, r, 0, &way->taken);
    }
    if (folded & RMG_STAGE_BIT(OUTPUT)) {
        way->out_and = output_word(sim, r, UINT32_MAX, &way->drives);
        way->out_or = output_word(sim, r, 0, &way->drives);
    }
}

void rmg_chips_write(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed)
{
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const uint16_t socket = sim->board->placement->rules[r].socket;
        rmg_addr inside;

        if (!sim->board->chips[socket].rom && answers(sim, r, address, false, &inside))
            chip_write(sim, r, inside, value, strobed);
    }
}

void rmg_chips_write_apart(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed)
{
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const uint16_t socket = sim->board->placement->rules[sim->apart[i]].socket;
        rmg_addr inside;

        if (!sim->board->chips[socket].rom && answers(sim, sim->apart[i], address, false, &inside))
            chip_write(sim, sim->apart[i], inside, value, strobed);
    }
}
