/* Inside the model: one access, chip by chip, with all faults. */
#ifndef RMG_MODEL_CHIPS_H
#define RMG_MODEL_CHIPS_H

#include "rimeglass/sim.h"

/* What the chips put on the data lines at `address`: *driven has ones at the bits that some chip
 * drives, the result their values. */
rmg_word rmg_chips_read(rmg_sim *sim, rmg_addr address, rmg_word *driven);

/* Lets every chip at `address` take the bits of `strobed` in `value` from the data lines. */
void rmg_chips_write(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed);

/* The same in a page that is slow by faults alone: `flat` is its flat word, and only the chips that
 * are kept apart are gone through. */
rmg_word rmg_chips_read_apart(rmg_sim *sim, rmg_addr address, rmg_word flat, rmg_word *driven);
void rmg_chips_write_apart(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed);

/* What the chips that are apart hold at an address, as far as they answer a read there: ones at
 * them in `which`, as numbers into sim->apart, and in `own`, if the address is theirs; their words
 * one after another, from bit 0 on; what faults of their arrays make of these (AND `held`, OR
 * `high`); and the flat word. */
typedef struct rmg_gathered {
    uint64_t which, own, cells, held, high;
    rmg_word flat;
} rmg_gathered;

/* Of at most 64 chips with 64 data lines in all; `at` gets their cells. */
void rmg_chips_gather(rmg_sim *sim, rmg_addr address, rmg_gathered *gathered, rmg_addr *at);
void rmg_chips_scatter(rmg_sim *sim, uint64_t which, uint64_t cells, const rmg_addr *at);

/* The same of a whole page of words, where its addresses lead to cells that follow each other;
 * false: they do not all hold the same. `at` gets the cells of the page's first word. */
bool rmg_chips_gather_page(rmg_sim *sim, rmg_addr first, rmg_gathered *gathered, rmg_addr *at);
void rmg_chips_scatter_page(rmg_sim *sim, uint64_t which, uint64_t cells, const rmg_addr *at);

/* What a read gives when noise is on the bus. */
rmg_word rmg_chips_noise(const rmg_sim *sim, rmg_word value);

/* Where lines that switch disturb one beside them: do those in `lines` all change to `state`, from
 * `before` to `now`, and is the line of `own` to have the other level? */
bool rmg_disturbs(const rmg_sim_fault *fault, uint64_t lines, uint64_t own, uint64_t before,
                  uint64_t now);

/* What is taken for a value on the bus, after the one that was there before. */
rmg_word rmg_chips_nearby(const rmg_sim *sim, rmg_word value);

/* What the bus data lines make of a value: lines stuck by a fault force their level. */
rmg_word rmg_chips_bus(const rmg_sim *sim, rmg_addr address, rmg_word value);

/* The bus address as the chips of that rule's bank get it. */
rmg_addr rmg_chips_bank_address(const rmg_sim *sim, uint16_t rule, rmg_addr address);

/* The cell of the rule's chip that an address reaches, faults in its address lines included. */
rmg_addr rmg_chips_cell(const rmg_sim *sim, uint16_t rule, rmg_addr address);

/* What faults that are always there do to a rule's chip, as masks of its way. */
void rmg_chips_fold(rmg_sim *sim, uint16_t rule);

/* Is the cell one of those that RMG_FAULT_WEAK draws? */
bool rmg_drawn(const rmg_sim *sim, const rmg_sim_fault *fault, uint8_t data_line, rmg_addr cell);

/* Do the fault's conditions hold, and did the dice fall for it at this access? */
bool rmg_fault_conditions_hold(const rmg_sim *sim, const rmg_sim_fault *fault);

/* Is the fault always there? And is it there at this access? */
static inline bool rmg_fault_always(const rmg_sim_fault *fault)
{
    const rmg_sim_when *when = &fault->when;

    return !when->rate_ppb && !when->warm && !when->below_mv && !when->from_mv && !when->from_hz;
}

static inline bool rmg_fault_awake(const rmg_sim *sim, const rmg_sim_fault *fault)
{
    return !sim->conditional || rmg_fault_always(fault) || rmg_fault_conditions_hold(sim, fault);
}

/* A number that depends on the world seed and on these two alone. */
uint64_t rmg_sim_dice(const rmg_sim *sim, uint64_t source, uint64_t number);

/* The cell above (side 0), below, left or right (3) of one, by row and column at the chip's pins,
 * row lines lowest; RMG_NO_CELL: the edge is there. */
#define RMG_NO_CELL ((rmg_addr) ~(rmg_addr)0)
static inline rmg_addr rmg_cell_beside(const rmg_sim_chip *chip, rmg_addr cell, unsigned side)
{
    const rmg_addr one = side < 2 ? 1u : (rmg_addr)1 << chip->row_lines;
    const rmg_addr all = side < 2 ? ((rmg_addr)1 << chip->row_lines) - 1u
                                  : (((rmg_addr)1 << chip->address_lines) - 1u) ^
                                        (((rmg_addr)1 << chip->row_lines) - 1u);

    if ((cell & all) == (side & 1u ? all : 0))
        return RMG_NO_CELL;
    return side & 1u ? cell + one : cell - one;
}

/* Reading and writing the word at a cell address of the rule's chip, with all that depends on what
 * was done before; only the lines with ones in `taken` are written. */
uint32_t rmg_cells_read(rmg_sim *sim, uint16_t rule, rmg_addr cell);
void rmg_cells_write(rmg_sim *sim, uint16_t rule, rmg_addr cell, uint32_t word, uint32_t taken);

/* following.c: the cell that an access reaches which may follow another too soon; what is then read
 * of its word; and the access kept for the next one. */
rmg_addr rmg_following_cell(const rmg_sim *sim, uint16_t rule, rmg_addr cell);
uint32_t rmg_following_word(const rmg_sim *sim, uint16_t rule, rmg_addr cell, uint32_t word);
void rmg_following_note(rmg_sim *sim, uint16_t rule, rmg_addr cell, rmg_addr reached, bool wrote);

/* Lets the cells of every chip settle at the start. */
void rmg_cells_settle(rmg_sim *sim);

/* Lets time act on every row of every chip; afterwards all count as refreshed just now. */
void rmg_rows_pass(rmg_sim *sim);

/* The row of a cell is accessed: what the time since then did to it, and what this does to its
 * neighbours. */
void rmg_rows_access(rmg_sim *sim, uint16_t rule, rmg_addr cell, bool writing);

/* The shortest time that a fault lets a cell of the rule's chip hold, at 25 degrees Celsius
 * (UINT32_MAX: there is none); and how long a row of it may rest now, whichever it is. */
uint32_t rmg_rows_least_us(const rmg_sim *sim, uint16_t rule);
uint64_t rmg_rows_weakest_ns(const rmg_sim *sim, uint16_t rule);

/* Does this cell fade, or some cell of the row that a fault names, where it was not refreshed for
 * `gap`? */
bool rmg_rows_fades(const rmg_sim *sim, uint16_t rule, const rmg_sim_fault *fault, rmg_addr row,
                    uint64_t gap);
bool rmg_rows_fade(const rmg_sim *sim, uint16_t rule, rmg_addr row, uint64_t gap);

/* The longest time without refresh between `from`, when the row was last accessed, and `now`. */
uint64_t rmg_rows_gap(const rmg_sim *sim, uint16_t rule, rmg_addr row, uint64_t from, uint64_t now);

/* A holding time given for 25 degrees Celsius, at the temperature now. */
uint64_t rmg_sim_holding_ns(const rmg_sim *sim, uint64_t ns);

#define RMG_SIM_PAGE_BITS  4u /* words in a page: 16 */
#define RMG_SIM_BLOCK_BITS 8u /* cells of a chip that are brought together: 256 */

/* Why the accesses to a page go chip by chip. */
#define RMG_SLOW_BOARD   1u /* the board wants it so */
#define RMG_SLOW_FOR_NOW 2u /* refresh is stopped */
#define RMG_SLOW_FAULT   4u /* a fault acts; chips that are not apart are flat all the same */
#define RMG_SLOW_NEW     8u /* not touched yet: there are no flat words, the cells are the truth */

/* The window of an address, or NULL. */
rmg_sim_window *rmg_sim_window_of(rmg_sim *sim, rmg_addr address);

/* layout.c: the parts of a simulation's memory; windows hold one more than there may be, 0 is too
 * many. rmg_sim_lay_out gives `sim` its parts of `memory`, cleared where that matters, and returns
 * the bytes of all; with NULL and NULL it only counts. 0: a board outside the limits. */
uint16_t rmg_sim_find_windows(const rmg_placement *placement, rmg_sim_window *windows);
size_t rmg_sim_lay_out(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_count,
                       void *memory);

/* lists.c */
#define RMG_STAGES_OF_A_KIND 2u /* most at which one kind acts for one chip */
#define RMG_BUS_STAGES                                                                             \
    (RMG_STAGE_BIT(BUS) | RMG_STAGE_BIT(SHORT) | RMG_STAGE_BIT(NOISE) | RMG_STAGE_BIT(NEARBY))
#define RMG_HISTORY_STAGES                                                                         \
    (RMG_STAGE_BIT(REACH) | RMG_STAGE_BIT(READING) | RMG_STAGE_BIT(WRITING) |                      \
     RMG_STAGE_BIT(ACCESSED) | RMG_STAGE_BIT(CHANGED) | RMG_STAGE_BIT(STATE) |                     \
     RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(ROWS) | RMG_STAGE_BIT(REFRESH) |                          \
     RMG_STAGE_BIT(FOLLOWING))
size_t rmg_sim_list_starts(const rmg_sim_board *board); /* numbers in list_start */
size_t rmg_sim_lists_bytes(const rmg_sim_board *board, uint16_t fault_count);
void rmg_sim_list_faults(rmg_sim *sim);

/* Numbers of the faults that act for a rule's chip at a stage, rising: at..end. */
typedef struct rmg_acting {
    const uint16_t *at, *end;
} rmg_acting;

static inline rmg_acting rmg_acting_at(const rmg_sim *sim, uint16_t rule, rmg_sim_stage stage)
{
    const uint32_t *start = &sim->list_start[(size_t)rule * RMG_STAGES + stage];
    const rmg_acting acting = {sim->list + start[0], sim->list + start[1]};

    return acting;
}

/* The same of the whole bus. */
static inline rmg_acting rmg_acting_on_bus(const rmg_sim *sim, rmg_sim_stage stage)
{
    return rmg_acting_at(sim, sim->board->placement->rule_count, stage);
}

/* The next of them that is there at this access; NULL: none is left. */
static inline const rmg_sim_fault *rmg_acting_next(const rmg_sim *sim, rmg_acting *acting)
{
    while (acting->at != acting->end) {
        const rmg_sim_fault *f = &sim->faults[*acting->at++];

        if (rmg_fault_awake(sim, f))
            return f;
    }
    return NULL;
}

/* force.c: the faults of a rule's chip as levels that are forced; false: they are more than that.
 * Begin first, and add those of the bus at the end. What is read of `value` at an address; false:
 * nothing is forced there. */
void rmg_forces_begin(rmg_sim *sim);
void rmg_forces_of_bus(rmg_sim *sim);
bool rmg_force_nothing(rmg_sim *sim, const rmg_where *where); /* but that words are such */
bool rmg_force_rule(rmg_sim *sim, uint16_t rule);
bool rmg_forced(const rmg_sim *sim, rmg_addr address, rmg_word *value);

/* What the flat word of an address holds, of `held`, once `value` was written to it. */
rmg_word rmg_force_taken(const rmg_sim *sim, rmg_addr address, rmg_word held, rmg_word value);

/* Does a write leave bits as they are of some of the sixteen words around an address? */
bool rmg_force_keeps(const rmg_sim *sim, rmg_addr address);

/* moved.c: a forced rule's chip whose address lines are stuck, which is seen at these bits; false:
 * it must go chip by chip. */
bool rmg_moved_rule(rmg_sim *sim, uint16_t rule, rmg_word bits);

/* Of the word at an address, `at` among the flat words and `word` there: with the bits that stand
 * elsewhere. And what is written of these; returns those of `strobed` that are left to write. */
rmg_word rmg_moved_load(rmg_sim *sim, rmg_addr address, size_t at, rmg_word word);
rmg_word rmg_moved_store(rmg_sim *sim, rmg_addr address, size_t at, rmg_word value,
                         rmg_word strobed);

/* Where some bits of words stand: in others, `away` further on (it may wrap); among each sixteen,
 * at those whose lines of `low` have this level. */
typedef struct rmg_moved_here {
    rmg_word bits; /* 0: all are where they belong */
    rmg_addr away;
    unsigned low, level;
    bool several; /* other bits stand otherwise */
} rmg_moved_here;

/* The same from an address on. Returns for how many words, of `most`. */
rmg_addr rmg_moved_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr most,
                       rmg_moved_here *here);

/* Does a place hold, with each address, the one that has other levels on these lines? And where
 * among the flat words is the word at another address of it, of one at `at`? It is brought. */
bool rmg_place_closed(const rmg_where *where, rmg_addr lines);
size_t rmg_flat_place(rmg_sim *sim, rmg_addr address, size_t at, rmg_addr other);

/* late.c: a rule's chip of which an address line is slow; false: it must go chip by chip. */
bool rmg_late_rule(rmg_sim *sim, uint16_t rule);

/* The bits that the next access to an address meets in another word, and which that is; the same
 * from an address on, and for how many words of *most none does, or one; and the access kept as
 * the last. */
rmg_word rmg_late_bits(const rmg_sim *sim, rmg_addr address, rmg_addr *other);
rmg_word rmg_late_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr *most,
                      rmg_addr *other);
void rmg_late_note(rmg_sim *sim, rmg_addr address);

/* stray.c: are chips that drive at every read all there is? Once the rules are known. And what is
 * read of a flat word with them. */
void rmg_stray_begin(rmg_sim *sim);
rmg_word rmg_stray_load(rmg_sim *sim, rmg_addr address, rmg_word word);

/* stale.c: is a chip that gives what it gave before all there is? Once the rules are known. And
 * what is read where the flat words give `word`: it is kept for the next read. */
void rmg_stale_begin(rmg_sim *sim);
rmg_word rmg_stale_read(rmg_sim *sim, rmg_addr address, rmg_word word);

/* touching.c: are data lines that touch all there is? Once the rules are known. What is read of a
 * flat word then, and what is taken of a value. */
void rmg_touching_begin(rmg_sim *sim);
rmg_word rmg_touching_read(const rmg_sim *sim, rmg_addr address, rmg_word word);
rmg_word rmg_touching_taken(const rmg_sim *sim, rmg_addr address, rmg_word value);

/* chips.c: has the rule's chip the data lines on which this address is read and written? */
bool rmg_chips_same_lane(const rmg_sim *sim, uint16_t rule, rmg_addr address);

/* memory.c: does the board itself want no page of the place chip by chip? And are two places one?
 */
bool rmg_flat_by_board(rmg_sim *sim, const rmg_where *where);

/* Is the rule's chip a RAM that keeps, in such pages, and chosen by no low line? */
bool rmg_lies_flat(rmg_sim *sim, uint16_t rule);

/* Are two places one? */
static inline bool rmg_same_place(const rmg_where *a, const rmg_where *b)
{
    return a->first == b->first && a->last == b->last && a->mask == b->mask && a->match == b->match;
}

#define RMG_COOL_MILLIC 85000 /* below it a refreshed DRAM's cells hold, see power_on */

/* The cell of the rule's chip that an address reaches where no fault has a say. */
static inline rmg_addr rmg_chips_fed_cell(const rmg_sim *sim, uint16_t rule, rmg_addr address)
{
    const rmg_sim_way *way = &sim->ways[rule];

    return way->from < RMG_ADDR_BITS ? address >> way->from & way->cell_mask
                                     : rmg_rule_cell(&sim->board->placement->rules[rule], address);
}

/* splitmix64's finisher (Steele, Lea, Flood, Fast Splittable Pseudorandom Number Generators, 2014).
 */
static inline uint64_t rmg_sim_mix(uint64_t x)
{
    x ^= x >> 30;
    x *= UINT64_C(0xBF58476D1CE4E5B9);
    x ^= x >> 27;
    x *= UINT64_C(0x94D049BB133111EB);
    return x ^ x >> 31;
}

/* What rmg_sim_dice makes of a source: with a number, its dice are rmg_sim_mix(this ^
 * rmg_sim_mix(number)). */
static inline uint64_t rmg_sim_source(const rmg_sim *sim, uint64_t source)
{
    return rmg_sim_mix(sim->world_seed + UINT64_C(0x9E3779B97F4A7C15) * (source + 2u));
}

/* memory.c: a page's flat words out of the cells; a block of cells as the chip came up with it. */
void rmg_page_bring(rmg_sim *sim, const rmg_sim_window *window, size_t page);
void rmg_cells_bring(rmg_sim *sim, uint16_t rule, rmg_addr cell);

/* A bit of a cell of a chip whose words are flat, but in pages that faults mark. */
void rmg_flat_set_bit(rmg_sim *sim, uint16_t rule, rmg_addr cell, uint8_t line, uint8_t level);

/* All flat words back to the cells: the pages are new again. And those of one rule, whose pages
 * stay as they are. */
void rmg_sim_spill(rmg_sim *sim);
void rmg_rule_spill(rmg_sim *sim, uint16_t rule);

/* watch.c: rules whose chips are flat although a fault may act on them later. Begin once the faults
 * are listed; the others go chip by chip where their faults act. */
void rmg_watch_begin(rmg_sim *sim);
void rmg_watch_over(rmg_sim *sim); /* from here on they do, too */

static inline bool rmg_watched(const rmg_sim *sim, uint16_t rule)
{
    for (uint16_t i = 0; i < sim->watch_count; i++)
        if (sim->watches[i] == rule)
            return true;
    return false;
}

/* Around an access by itself, at the time of its end: before it, when the watch may be over; and
 * after that of a flat word. */
void rmg_watch_look(rmg_sim *sim, rmg_addr address);
void rmg_watch_note(rmg_sim *sim, rmg_addr address);

/* Around flat words of an element, `count` of them from the call's address on: how many of them may
 * stay flat (0: the watch is over), and after them, when the call stands at the last. */
rmg_addr rmg_watch_run(rmg_sim *sim, const rmg_element_call *call, rmg_addr count);
void rmg_watch_ran(rmg_sim *sim, const rmg_element_call *call, rmg_addr count);

/* pairs.c: is there a fault by which one bank answers where another does, and nothing beside it?
 * Sets `pairs`; before what it asks for: lists of faults, marks of the board, conditions. */
void rmg_pairs_begin(rmg_sim *sim);

/* Is a page that faults mark flat all the same, because pairs are all there is in it? */
static inline bool rmg_pairs_flat(const rmg_sim *sim, const rmg_sim_window *window, size_t page)
{
    const rmg_addr first = window->first + (rmg_addr)((page << RMG_SIM_PAGE_BITS) - window->offset);
    const rmg_addr last = first + ((1u << RMG_SIM_PAGE_BITS) - 1u);
    const rmg_sim_pairs *p = &sim->pairs;

    return p->act && (sim->slow[page] & (uint8_t)~RMG_SLOW_NEW) == RMG_SLOW_FAULT &&
           ((first <= p->own.last && last >= p->own.first) ||
            (first <= p->where.last && last >= p->where.first));
}

/* Does a second word stand with the one at an address? Then *at, the place of that one among the
 * flat words, becomes the place of the second, which is brought. */
bool rmg_pairs_second(rmg_sim *sim, rmg_addr address, size_t *at);

/* What is read where both answer; and of the flat word at a place, with the second if there is one.
 */
static inline rmg_word rmg_pairs_read(const rmg_sim *sim, rmg_word one, rmg_word other)
{
    return sim->high_wins ? one | other : one & other;
}

rmg_word rmg_pairs_load(rmg_sim *sim, rmg_addr address, size_t at);

/* Flat words, packed to 1, 2, 4 or 8 bytes; `at` counts words. */
static inline rmg_word rmg_flat_load(const rmg_sim *sim, size_t at)
{
    switch (sim->word_log2) {
    case 0:
        return ((const uint8_t *)sim->words)[at];
    case 1:
        return (rmg_word)((const uint16_t *)sim->words)[at];
    case 2:
        return (rmg_word)((const uint32_t *)sim->words)[at];
    default:
        return (rmg_word)((const uint64_t *)sim->words)[at];
    }
}

static inline void rmg_flat_store(rmg_sim *sim, size_t at, rmg_word word)
{
    switch (sim->word_log2) {
    case 0:
        ((uint8_t *)sim->words)[at] = (uint8_t)word;
        break;
    case 1:
        ((uint16_t *)sim->words)[at] = (uint16_t)word;
        break;
    case 2:
        ((uint32_t *)sim->words)[at] = (uint32_t)word;
        break;
    default:
        ((uint64_t *)sim->words)[at] = word;
    }
}

static inline void rmg_page_is_known(rmg_sim *sim, size_t page)
{
    sim->slow[page] &= (uint8_t)~RMG_SLOW_NEW;
    sim->touched += (size_t)1 << (RMG_SIM_PAGE_BITS + sim->word_log2);
}

/* Bytes of a block of cells. */
static inline size_t rmg_block_bytes(const rmg_sim_way *way)
{
    return ((size_t)1 << RMG_SIM_BLOCK_BITS << way->cell_log2) >> 3;
}

/* Cells, packed to 1, 2, 4, 8, 16 or 32 bits. Load and store are of known blocks only. */
static inline bool rmg_cell_known(const rmg_sim_way *way, rmg_addr cell)
{
    const unsigned marks = way->known[cell >> (RMG_SIM_BLOCK_BITS + 3u)];

    return marks >> (unsigned)(cell >> RMG_SIM_BLOCK_BITS & 7u) & 1u;
}

static inline uint32_t rmg_cell_load(const rmg_sim_way *way, rmg_addr cell)
{
    const uint8_t log2 = way->cell_log2;

    if (log2 == 3)
        return ((const uint8_t *)way->cells)[cell];
    if (log2 == 4)
        return ((const uint16_t *)way->cells)[cell];
    if (log2 == 5)
        return ((const uint32_t *)way->cells)[cell];
    return (uint32_t)((const uint8_t *)way->cells)[cell >> (3u - log2)] >>
               (unsigned)(cell << log2 & 7u) &
           ((1u << (1u << log2)) - 1u);
}

static inline void rmg_cell_store(rmg_sim_way *way, rmg_addr cell, uint32_t word)
{
    const uint8_t log2 = way->cell_log2;

    if (log2 == 3) {
        ((uint8_t *)way->cells)[cell] = (uint8_t)word;
    } else if (log2 == 4) {
        ((uint16_t *)way->cells)[cell] = (uint16_t)word;
    } else if (log2 == 5) {
        ((uint32_t *)way->cells)[cell] = word;
    } else {
        uint8_t *byte = &((uint8_t *)way->cells)[cell >> (3u - log2)];
        const unsigned shift = (unsigned)(cell << log2 & 7u);
        const unsigned ones = (1u << (1u << log2)) - 1u;

        *byte = (uint8_t)((*byte & ~(ones << shift)) | (word & ones) << shift);
    }
}

static inline uint32_t rmg_cell_get(rmg_sim *sim, uint16_t rule, rmg_addr cell)
{
    if (!rmg_cell_known(&sim->ways[rule], cell))
        rmg_cells_bring(sim, rule, cell);
    return rmg_cell_load(&sim->ways[rule], cell);
}

static inline void rmg_cell_set(rmg_sim *sim, uint16_t rule, rmg_addr cell, uint32_t word)
{
    if (!rmg_cell_known(&sim->ways[rule], cell))
        rmg_cells_bring(sim, rule, cell);
    rmg_cell_store(&sim->ways[rule], cell, word);
}

/* Marks the pages that go chip by chip on every such board; and, after that, where the faults act.
 */
void rmg_sim_mark_board(rmg_sim *sim);
void rmg_sim_mark_faults(rmg_sim *sim);
void rmg_sim_mark_rule(rmg_sim *sim, uint16_t rule); /* more of them, of one rule */

/* Is the chip kept alive by accesses alone? */
static inline bool rmg_chip_leaks(const rmg_sim_chip *chip)
{
    return chip->row_lines && chip->keep_us && !chip->refresh_us;
}

/* Does the fault make sense on this board? */
bool rmg_fault_usable(const rmg_sim_board *board, const rmg_sim_fault *fault);

/* Does the fault change what the rule's chip does when it answers? */
bool rmg_fault_concerns(const rmg_sim_fault *fault, const rmg_rule *rule);

/* Has the fault to do with the rule's chip, or does it lie beside it? */
bool rmg_fault_meets(const rmg_sim_fault *fault, const rmg_rule *rule);

/* A rule of that chip; RMG_PLACE_RULES if it has none. */
uint16_t rmg_rule_of_chip(const rmg_sim *sim, uint16_t chip);

#endif
