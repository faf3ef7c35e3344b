/* Backgrounds and orders of a plan's steps, from the board's placement: rows and columns are those
 * at the chips' pins. */
#include <glib.h>
#include <string.h>

#include "rimeglass/plan.h"

/* The address bits that feed the lowest row and the lowest column line of the rule's chip. A chip
 * without rows has its lines' lower half taken for columns, the upper for rows. */
static rmg_addr lowest_lines(const rmg_board *board, const rmg_rule *rule, bool row, bool column)
{
    const rmg_part *part = board->sockets[rule->socket].part;
    const uint8_t row_lines = part ? part->row_lines : 0;
    const uint8_t first_row = row_lines ? 0 : rule->address_lines / 2u;
    const uint8_t first_column = row_lines;
    rmg_addr lines = 0;

    if (row && first_row < rule->address_lines && rule->address_bits[first_row] < RMG_ADDR_BITS)
        lines |= (rmg_addr)1 << rule->address_bits[first_row];
    if (column && first_column < rule->address_lines &&
        rule->address_bits[first_column] < RMG_ADDR_BITS)
        lines |= (rmg_addr)1 << rule->address_bits[first_column];
    return lines;
}

static void add_term(rmg_background *b, rmg_background_term *terms, const rmg_where *where,
                     rmg_addr lines, rmg_word bits)
{
    for (uint8_t i = 0; i < b->term_count; i++)
        if (terms[i].lines == lines && memcmp(&terms[i].where, where, sizeof *where) == 0) {
            terms[i].bits |= bits;
            return;
        }
    if (b->term_count == RMG_TERMS_MOST)
        return;
    terms[b->term_count++] = (rmg_background_term){*where, lines, bits};
}

/* A board whose file names no sockets has rows of 1024 words. */
static void stripes(const rmg_board *board, bool row, bool column, rmg_background *b,
                    rmg_background_term *terms)
{
    static const rmg_where everywhere = {0, (rmg_addr) ~(rmg_addr)0, 0, 0};

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        add_term(b, terms, &rule->where, lowest_lines(board, rule, row, column),
                 rmg_rule_bits(rule));
    }
    if (!b->term_count)
        add_term(b, terms, &everywhere, (row ? (rmg_addr)1 << 10 : 0) | (column ? 1u : 0),
                 (rmg_word) ~(rmg_word)0);
}

static unsigned address_lines(const rmg_board *board)
{
    unsigned lines = 0;

    while (board->last_address >> lines)
        lines++;
    return lines;
}

/* Bit i of the word is address line i + variant * word width, counted round. */
static void address_as_data(const rmg_board *board, unsigned variant, rmg_background *b,
                            rmg_background_term *terms)
{
    static const rmg_where everywhere = {0, (rmg_addr) ~(rmg_addr)0, 0, 0};
    const unsigned lines = address_lines(board);

    for (unsigned i = 0; i < board->word_bits; i++)
        add_term(b, terms, &everywhere, (rmg_addr)1 << (i + variant * board->word_bits) % lines,
                 (rmg_word)1 << i);
}

/* The word in which bit i is bit `variant` - 1 of i; variant 0: all zeros. */
static rmg_word word_of_set(unsigned variant, unsigned bits)
{
    rmg_word word = 0;

    for (unsigned i = 0; variant && i < bits; i++)
        word |= (rmg_word)(i >> (variant - 1u) & 1u) << i;
    return word;
}

static unsigned grounds(const rmg_step *step, const rmg_board *board)
{
    const rmg_word *list;
    unsigned words = 1;

    switch (step->ground) {
    case RMG_GROUND_WALKING:
        return board->word_bits;
    case RMG_GROUND_ADDRESS:
        return (address_lines(board) + board->word_bits - 1u) / board->word_bits;
    case RMG_GROUND_WITHIN:
        return rmg_within_words(board->word_bits, &list);
    case RMG_GROUND_WORD:
        for (unsigned bits = board->word_bits; bits > 1; bits >>= 1)
            words++;
        return words;
    default:
        return 1;
    }
}

unsigned rmg_step_variants(const rmg_step *step, const rmg_board *board)
{
    const bool runs = step->kind == RMG_STEP_MARCH || step->kind == RMG_STEP_HOLD;

    if (!runs)
        return 0;
    return grounds(step, board) * (step->way == RMG_WAY_POWERS ? address_lines(board) : 1u);
}

uint32_t rmg_step_operations(const rmg_step *step, const rmg_board *board)
{
    return rmg_step_variants(step, board) * rmg_march_operations(step->code);
}

/* Accesses of a row step in one bank: two polarities, each row written, accessed, and its
 * neighbours read and written again. */
static uint64_t row_accesses(const rmg_step *step, unsigned row_lines, unsigned address_lines)
{
    const uint64_t rows = (uint64_t)1 << row_lines;
    const uint64_t columns = (uint64_t)1 << (address_lines - row_lines);

    return 2u * (rows * columns + rows * step->accesses + 4u * (rows - 1u) * columns);
}

/* Accesses in one bank of a step that goes by rows and columns; `row_lines` 0: there are none. */
static uint64_t bank_accesses(const rmg_step *step, unsigned row_lines, unsigned address_lines)
{
    const uint64_t words = (uint64_t)1 << address_lines;
    unsigned rows = row_lines;

    if (step->kind == RMG_STEP_MOVING) { /* without rows half of the lines count as theirs */
        rows = row_lines ? row_lines : address_lines / 2u;
        return rows ? rmg_moving_accesses(step->moving, (rmg_addr)1 << rows,
                                          (rmg_addr)1 << (address_lines - rows), step->partners)
                    : 0;
    }
    if (!row_lines)
        return 0;
    return step->kind == RMG_STEP_ROWS ? row_accesses(step, row_lines, address_lines)
                                       : words * rmg_neighbours_fifths(step->neighbours) / 5u;
}

uint64_t rmg_step_accesses(const rmg_step *step, const rmg_board *board, uint64_t words)
{
    uint64_t sum = 0;

    switch (step->kind) {
    case RMG_STEP_COPY:
        return 2u * words;
    case RMG_STEP_ROWS:
    case RMG_STEP_NEIGHBOURS:
    case RMG_STEP_MOVING:
        break;
    default:
        return words * rmg_step_operations(step, board);
    }
    if (!board->placement.rule_count)
        return step->kind == RMG_STEP_NEIGHBOURS
                   ? words * rmg_neighbours_fifths(step->neighbours) / 5u
                   : bank_accesses(step, 8, 16);
    for (uint8_t b = 0; b < board->bank_count; b++)
        if (board->banks[b].part->kind != RMG_PART_ROM)
            sum += bank_accesses(step, board->banks[b].part->row_lines,
                                 board->banks[b].part->address_lines);
    return sum;
}

double rmg_step_hold_seconds(const rmg_step *step, const rmg_board *board)
{
    unsigned holds = 0;

    for (const uint8_t *code = step->code; *code; code += (*code & ~RMG_ORDER_MASK) + 1u)
        holds += *code == RMG_ORDER_EITHER;
    return rmg_step_variants(step, board) * holds * (double)step->hold_us / 1e6;
}

/* Puts the lines of `first` lowest in the order, then those of `then`, then the rest. */
static void sort_lines(rmg_order *order, rmg_addr first, rmg_addr then)
{
    uint8_t sorted[RMG_ADDR_BITS], count = 0;
    const rmg_addr turns[] = {first, then & ~first, ~(first | then)};

    for (unsigned t = 0; t < 3; t++)
        for (uint8_t i = 0; i < order->lines; i++)
            if (turns[t] >> order->line_of[i] & 1u)
                sorted[count++] = order->line_of[i];
    memcpy(order->line_of, sorted, order->lines);
}

/* The address bits that feed row lines, or column lines, of the board's first chip that has any. */
static rmg_addr fed_lines(const rmg_board *board, bool rows)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        const rmg_part *part = board->sockets[rule->socket].part;
        rmg_addr lines = 0;

        if (!part || !part->row_lines)
            continue;
        for (uint8_t i = rows ? 0 : part->row_lines;
             i < (rows ? part->row_lines : rule->address_lines); i++)
            if (rule->address_bits[i] < RMG_ADDR_BITS)
                lines |= (rmg_addr)1 << rule->address_bits[i];
        return lines;
    }
    return rows ? ~(rmg_addr)0x3FF : 0x3FF;
}

static bool make_order(const rmg_step *step, unsigned turn, const rmg_board *board,
                       const rmg_range *ranges, rmg_range_count range_count, rmg_order *order)
{
    rmg_order_linear(order, ranges, range_count);
    if (!order->lines || order->lines >= RMG_ADDR_BITS)
        return false;
    switch (step->way) {
    case RMG_WAY_LINEAR:
        return false;
    case RMG_WAY_COLUMNS_FIRST:
        sort_lines(order, fed_lines(board, false), fed_lines(board, true));
        return true;
    case RMG_WAY_ROWS_FIRST:
        sort_lines(order, fed_lines(board, true), fed_lines(board, false));
        return true;
    case RMG_WAY_COMPLEMENT:
        order->complement = true;
        return true;
    case RMG_WAY_POWERS:
        sort_lines(order, (rmg_addr)1 << turn % order->lines, 0);
        return turn % order->lines;
    }
    return false;
}

bool rmg_step_pattern(const rmg_step *step, unsigned variant, const rmg_board *board,
                      const rmg_range *ranges, rmg_range_count range_count, uint64_t seed,
                      uint64_t pass, rmg_background *background, rmg_background_term *terms,
                      rmg_order *order)
{
    const unsigned ground = variant % grounds(step, board);
    const rmg_word *list;
    const unsigned turn = variant / grounds(step, board);
    const rmg_word all = (rmg_word) ~(rmg_word)0;

    memset(background, 0, sizeof *background);
    background->terms = terms;
    switch (step->ground) {
    case RMG_GROUND_SOLID:
        background->start = pass ? (rmg_word)rmg_hash(seed, pass - 1u) : 0;
        return make_order(step, turn, board, ranges, range_count, order);
    case RMG_GROUND_CHECKERBOARD:
        stripes(board, true, true, background, terms);
        break;
    case RMG_GROUND_ROWS:
        stripes(board, true, false, background, terms);
        break;
    case RMG_GROUND_COLUMNS:
        stripes(board, false, true, background, terms);
        break;
    case RMG_GROUND_WALKING:
        background->start = (rmg_word)1 << ground;
        break;
    case RMG_GROUND_ADDRESS:
        address_as_data(board, ground, background, terms);
        break;
    case RMG_GROUND_WORD:
        background->start = word_of_set(ground, board->word_bits);
        break;
    case RMG_GROUND_WITHIN:
        rmg_within_words(board->word_bits, &list);
        background->start = list[ground];
        break;
    case RMG_GROUND_RANDOM:
        background->random = true;
        background->seed = rmg_hash(seed, (uint64_t)1 << 32 | pass);
        break;
    }
    if (pass & 1u)
        background->start ^= all;
    return make_order(step, turn, board, ranges, range_count, order);
}

void rmg_steps_word_runs(const rmg_steps *steps, const rmg_board *board, rmg_word_run **runs,
                         size_t *count)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(rmg_word_run));

    for (size_t i = 0; i < steps->count; i++) {
        const rmg_step *step = &steps->list[i];
        const bool by_address =
            step->ground == RMG_GROUND_ADDRESS || step->ground == RMG_GROUND_RANDOM;

        for (unsigned n = 0; n < rmg_step_variants(step, board) && !by_address; n++) {
            const rmg_range range = {0, board->last_address};
            rmg_background_term terms[RMG_TERMS_MOST];
            rmg_background background;
            rmg_order order;
            rmg_word_run run = {.code = step->code};

            rmg_step_pattern(step, n, board, &range, 1, 0, 0, &background, terms, &order);
            run.background = background.start; /* stripes invert whole words, or leave them */
            g_array_append_val(list, run);
        }
    }
    *count = list->len;
    *runs = (rmg_word_run *)(void *)g_array_free(list, FALSE);
}
