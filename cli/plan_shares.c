/* See plan_shares.h. */
#include "plan_shares.h"

#include <stdio.h>
#include <string.h>

#include "cli.h"

#define SIDE   5u /* cells of the neighbourhoods that are tried in full */
#define WIDER  8u /* where rows and columns are in another order */
#define ORDERS 24u
#define ROW    RMG_NEIGHBOURHOOD_SIDE /* between the addresses of two rows */

const char *const pattern_names[RMG_PATTERN_CLASSES] = {"static", "passive", "active"};
static const char *const pattern_texts[RMG_PATTERN_CLASSES] = {
    "a cell that takes a level while its neighbours hold a pattern",
    "a cell that cannot be changed while they do",
    "a cell that takes a level when one of them changes while the others hold a pattern"};

size_t plan_marches(const rmg_steps *steps, rmg_covered *marches)
{
    size_t count = 0;

    for (size_t i = 0; i < steps->count; i++) {
        const rmg_step *step = &steps->list[i];
        const uint8_t lines = step->ground == RMG_GROUND_CHECKERBOARD ? 5
                              : step->ground == RMG_GROUND_ROWS       ? 1
                              : step->ground == RMG_GROUND_COLUMNS    ? 4
                                                                      : 0;
        bool seen = !step->code[0];

        for (size_t n = 0; n < count; n++)
            seen |= marches[n].lines == lines &&
                    memcmp(marches[n].code, step->code, RMG_MARCH_BYTES) == 0;
        if (!seen && count < RMG_COVERAGE_MARCHES)
            marches[count++] = (rmg_covered){step->code, lines};
    }
    return count;
}

static void look_within(const rmg_steps *steps, const rmg_board *board, within_shares *w)
{
    rmg_word_run *runs;
    rmg_within *list;
    size_t count;

    memset(w, 0, sizeof *w);
    rmg_steps_word_runs(steps, board, &runs, &count);
    list = g_new(rmg_within, MAX(count, 1));
    for (size_t i = 0; i < count; i++)
        list[i] = (rmg_within){runs[i].code, runs[i].background};
    w->bits = board->word_bits > 1 && count ? board->word_bits : 0;
    for (int k = RMG_CLASS_CFIN; w->bits && k <= RMG_CLASS_CFIR; k++)
        for (int reading = 0; reading < 2; reading++) {
            rmg_coverage c;

            if (rmg_within_coverage(list, count, w->bits, (rmg_fault_class)k,
                                    (rmg_within_reading)reading, &c) == RMG_OK &&
                c.instances)
                w->share[k - RMG_CLASS_CFIN][reading] = (double)c.found / (double)c.instances;
        }
    g_free(list);
    rmg_text_free((char *)runs);
}

static void print_within(const within_shares *w)
{
    if (!w->bits)
        return;
    printf("\nFound in a pass between two bits of a word of %u: where a coupling acts after the "
           "word is\nstored; and where only on a bit that the write does not change\n",
           w->bits);
    for (int k = RMG_CLASS_CFIN; k <= RMG_CLASS_CFIR; k++)
        printf("  %-9s %5.1f %%  %5.1f %%\n", rmg_fault_class_name((rmg_fault_class)k),
               100 * w->share[k - RMG_CLASS_CFIN][0], 100 * w->share[k - RMG_CLASS_CFIN][1]);
}

static void add_within(GString *text, const within_shares *w)
{
    static const char *const names[] = {"after", "unchanged_only"};

    g_string_append_printf(text, ", \"within_word\": {\"bits\": %u", w->bits);
    for (int reading = 0; w->bits && reading < 2; reading++) {
        g_string_append_printf(text, ", \"%s\": {", names[reading]);
        for (int k = RMG_CLASS_CFIN; k <= RMG_CLASS_CFIR; k++) {
            gchar number[G_ASCII_DTOSTR_BUF_SIZE];

            g_string_append_printf(text, "%s\"%s\": %s", k > RMG_CLASS_CFIN ? ", " : "",
                                   rmg_fault_class_name((rmg_fault_class)k),
                                   g_ascii_formatd(number, sizeof number, "%.6f",
                                                   w->share[k - RMG_CLASS_CFIN][reading]));
        }
        g_string_append(text, "}");
    }
    g_string_append(text, "}");
}

/* A plan among neighbours. Its marches count in the backgrounds that go by rows and columns, and in
 * linear order. */
typedef struct among {
    const rmg_steps *steps;
    bool steps_only; /* those for neighbours, no marches */
} among;

typedef struct finder {
    bool found;
} finder;

static void on_read(void *context, unsigned changes, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    finder *f = context;

    (void)changes;
    (void)address;
    f->found |= expected != actual;
}

static bool on_step(void *context, unsigned changes)
{
    (void)changes;
    return !((const finder *)context)->found;
}

static bool cell_address(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    (void)context;
    *address = ROW * row + column;
    return true;
}

static bool neighbours_find(const rmg_step *step, const rmg_target *target,
                            const rmg_neighbourhood *at)
{
    const rmg_grid grid = {at->rows, at->columns, NULL, cell_address, NULL};
    finder f = {false};

    rmg_neighbours_run(target, &grid, step->neighbours, &(rmg_grid_watch){on_read, on_step, &f});
    return f.found;
}

/* Elements that may run either way run upwards here, or all of them downwards. */
static bool march_finds_so(const uint8_t *code, bool down, rmg_addr lines, rmg_word start,
                           const rmg_target *target, const rmg_neighbourhood *at)
{
    static const rmg_where everywhere = {0, (rmg_addr) ~(rmg_addr)0, 0, 0};
    const rmg_background_term term = {everywhere, lines, 1};
    const rmg_background background = {.start = start, .terms = &term, .term_count = lines != 0};
    uint8_t turned[RMG_MARCH_BYTES];
    rmg_range rows[RMG_NEIGHBOURHOOD_SIDE];
    rmg_march_job job = {.code = turned, .ranges = rows, .range_count = at->rows};
    rmg_tally tally;

    memcpy(turned, code, sizeof turned);
    for (uint8_t *element = turned; *element; element += (*element & ~RMG_ORDER_MASK) + 1u)
        if (down && (*element & RMG_ORDER_MASK) == RMG_ORDER_EITHER &&
            (*element & ~RMG_ORDER_MASK) != 0)
            *element = (uint8_t)((*element & ~RMG_ORDER_MASK) | RMG_ORDER_DOWN);
    for (uint8_t row = 0; row < at->rows; row++)
        rows[row] = (rmg_range){ROW * row, ROW * row + at->columns - 1u};
    rmg_tally_clear(&tally, NULL, 0);
    return rmg_march_run_patterned(target, &job, &background, NULL, &tally) == RMG_OK &&
           tally.failing != 0;
}

static bool march_finds(const rmg_step *step, const rmg_target *target, const rmg_neighbourhood *at)
{
    const rmg_addr lines = step->ground == RMG_GROUND_CHECKERBOARD ? ROW | 1u
                           : step->ground == RMG_GROUND_ROWS       ? ROW
                           : step->ground == RMG_GROUND_COLUMNS    ? 1u
                                                                   : 0;

    return march_finds_so(step->code, false, lines, 0, target, at) &&
           march_finds_so(step->code, true, lines, 0, target, at);
}

static bool plan_finds(void *context, const rmg_target *target, const rmg_neighbourhood *at)
{
    const among *plan = context;
    bool found = false;

    for (size_t i = 0; i < plan->steps->count && !found; i++) {
        const rmg_step *step = &plan->steps->list[i];

        if (step->kind == RMG_STEP_NEIGHBOURS)
            found = neighbours_find(step, target, at);
        else if (!plan->steps_only && (step->kind == RMG_STEP_MARCH || step->kind == RMG_STEP_HOLD))
            found = march_finds(step, target, at);
    }
    return found;
}

static double share_of(const rmg_neighbourhood *at, int kind, among *plan)
{
    rmg_coverage c;

    if (rmg_neighbour_coverage(at, (rmg_pattern_class)kind, plan_finds, plan, &c) != RMG_OK ||
        !c.instances)
        return 0;
    return (double)c.found / (double)c.instances;
}

/* An order of rows or columns, drawn: Fisher and Yates. */
static void draw_order(uint8_t *order, uint64_t number)
{
    for (uint8_t i = 0; i < WIDER; i++)
        order[i] = i;
    for (uint8_t i = WIDER; i-- > 1u;) {
        const uint8_t other = (uint8_t)(rmg_hash(number, i) % (i + 1u)), was = order[i];

        order[i] = order[other];
        order[other] = was;
    }
}

static void look_among(const rmg_steps *steps, neighbour_shares *n)
{
    const rmg_neighbourhood plain = {.rows = SIDE, .columns = SIDE};
    among plan = {steps, false};

    for (size_t i = 0; i < steps->count; i++)
        n->orders = steps->list[i].kind == RMG_STEP_NEIGHBOURS ? ORDERS : n->orders;
    for (int k = 0; k < RMG_PATTERN_CLASSES; k++)
        n->share[k] = share_of(&plain, k, &plan);
    plan.steps_only = true;
    for (unsigned turn = 0; turn < n->orders; turn++) {
        uint8_t rows[WIDER], columns[WIDER];
        const rmg_neighbourhood mixed = {WIDER, WIDER, rows, columns, true, WIDER / 2, WIDER / 2};

        draw_order(rows, 2u * turn);
        draw_order(columns, 2u * turn + 1u);
        for (int k = 0; k < RMG_PATTERN_CLASSES; k++)
            n->scrambled[k] += share_of(&mixed, k, &plan) / n->orders;
    }
}

static void print_among(const neighbour_shares *n)
{
    if (!n->rows) {
        printf("\nNo memory of this board has rows and columns at its pins: of faults among the "
               "cells around\na cell nothing is said, and the steps for them do nothing.\n");
        return;
    }
    printf("\nFound in a pass among the cells above, below, left and right, of 5 x 5\n");
    for (int k = 0; k < RMG_PATTERN_CLASSES; k++) {
        char lead[64];

        g_snprintf(lead, sizeof lead, "  %-9s %5.1f %%  ", pattern_names[k], 100 * n->share[k]);
        print_wrapped(stdout, lead, 21, pattern_texts[k]);
    }
    if (n->orders)
        printf("Where a chip has its rows and columns in an order of its own, the steps for them "
               "find\nof static %.0f %%, of passive %.0f %%, of active %.0f %%: the mean of %u "
               "orders drawn.\n",
               100 * n->scrambled[0], 100 * n->scrambled[1], 100 * n->scrambled[2], n->orders);
}

static void add_among(GString *text, const neighbour_shares *n)
{
    for (unsigned mixed = 0; n->rows && mixed < (n->orders ? 2u : 1u); mixed++) {
        g_string_append_printf(text, ", \"%s\": {", mixed ? "neighbours_scrambled" : "neighbours");
        for (int k = 0; k < RMG_PATTERN_CLASSES; k++) {
            gchar number[G_ASCII_DTOSTR_BUF_SIZE];

            g_string_append_printf(text, "%s\"%s\": %s", k ? ", " : "", pattern_names[k],
                                   g_ascii_formatd(number, sizeof number, "%.6f",
                                                   mixed ? n->scrambled[k] : n->share[k]));
        }
        g_string_append(text, "}");
    }
}

bool board_has_rows(const rmg_board *board)
{
    for (size_t b = 0; b < board->bank_count; b++)
        if (board->banks[b].part && board->banks[b].part->row_lines)
            return true;
    return !board->placement.rule_count;
}

void look_at_plan(const rmg_steps *steps, const rmg_board *board, plan_shares *shares)
{
    look_within(steps, board, &shares->within);
    memset(&shares->neighbours, 0, sizeof shares->neighbours);
    shares->neighbours.rows = board_has_rows(board);
    if (shares->neighbours.rows)
        look_among(steps, &shares->neighbours);
    look_successive(steps, board, shares->neighbours.rows, shares->successive);
}

void print_plan_shares(const plan_shares *shares)
{
    print_within(&shares->within);
    print_among(&shares->neighbours);
    print_successive(shares->successive);
}

void add_plan_shares(GString *text, const plan_shares *shares)
{
    add_within(text, &shares->within);
    add_among(text, &shares->neighbours);
    add_successive(text, shares->successive);
}

size_t plan_found_of_class(const rmg_steps *steps, rmg_fault_class k, bool *found)
{
    rmg_covered marches[RMG_COVERAGE_MARCHES];
    const size_t count = plan_marches(steps, marches);
    rmg_coverage c;

    if (!count || rmg_marches_found(marches, count, k, &c, found, RMG_COVERAGE_INSTANCES) != RMG_OK)
        return 0;
    return c.instances;
}

double plan_share_within(const rmg_steps *steps, const rmg_board *board)
{
    within_shares w;
    double sum = 0;

    if (board->word_bits < 2)
        return 1;
    if (!steps->count)
        return 0;
    look_within(steps, board, &w);
    for (int k = 0; k <= RMG_CLASS_CFIR - RMG_CLASS_CFIN; k++)
        sum += (w.share[k][0] + w.share[k][1]) / 2;
    return sum / (RMG_CLASS_CFIR - RMG_CLASS_CFIN + 1);
}

/* A plan, and what it finds of one instance after the other. */
typedef struct noting {
    among plan;
    bool *found;
    size_t count;
    unsigned contents; /* of the instance that is tried, found so far */
} noting;

static bool note_found(void *context, const rmg_target *target, const rmg_neighbourhood *at)
{
    noting *n = context;
    const bool found = plan_finds(&n->plan, target, at);

    n->contents = found ? n->contents + 1u : 0;
    if ((!found || n->contents == RMG_NEIGHBOUR_CONTENTS) && n->count < PLAN_INSTANCES) {
        n->found[n->count++] = found;
        n->contents = 0;
    }
    return found;
}

size_t plan_found_among(const rmg_steps *steps, rmg_pattern_class k, bool *found)
{
    const rmg_neighbourhood plain = {.rows = SIDE, .columns = SIDE};
    noting n = {.plan = {steps, false}, .found = found};
    rmg_coverage c;

    rmg_neighbour_coverage(&plain, k, note_found, &n, &c);
    return n.count;
}
