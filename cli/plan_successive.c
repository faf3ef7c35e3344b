/* What a plan finds in a chip that is slow from one access to the next: its marches, holds and
 * steps that go by rows and columns, as they run, on a board of one chip with 4 x 4 cells. */
#include <string.h>

#include "cli.h"
#include "plan_shares.h"

#define ROW_LINES 2u
#define LINES     (2u * ROW_LINES)
#define SIDE      ((rmg_addr)1 << ROW_LINES)

const char *const successive_names[RMG_SUCCESSIVE_CLASSES] = {"one line",  "two lines", "all lines",
                                                              "slow line", "precharge", "recovery"};
static const struct {
    const char *key, *text;
} classes[RMG_SUCCESSIVE_CLASSES] = {
    {"one_line", "an address is let go of too late for one that differs in one line"},
    {"two_lines", "... in two lines"},
    {"all_lines", "... in all lines"},
    {"line", "a line of the address is slow to rise, or to fall"},
    {"precharge", "a bit line still has the level of the row accessed before"},
    {"recovery", "the same, after a write only"}};

typedef struct small_board {
    rmg_board board;
    rmg_part part;
    rmg_socket socket;
    rmg_rule rule;
    uint8_t feeds[LINES];
    const rmg_steps *steps;
    bool columns_low, found;
} small_board;

/* Does the board count columns before rows? One that names no chips is taken to. */
static bool has_columns_low(const rmg_board *board)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        const rmg_part *part = board->sockets[rule->socket].part;

        if (part && part->row_lines)
            return rule->address_bits[0] > rule->address_bits[part->row_lines];
    }
    return true;
}

static void make_small(small_board *s, const rmg_steps *steps, bool columns_low)
{
    static const uint8_t data[] = {0};

    memset(s, 0, sizeof *s);
    s->steps = steps;
    s->columns_low = columns_low;
    for (uint8_t i = 0; i < LINES; i++)
        s->feeds[i] = (uint8_t)((i + (columns_low ? ROW_LINES : 0)) % LINES);
    s->part = (rmg_part){.number = "", .width = 1, .address_lines = LINES, .row_lines = ROW_LINES};
    s->socket.part = &s->part;
    s->rule = (rmg_rule){.where = {0, RMG_SUCCESSIVE_CELLS - 1u, 0, 0},
                         .data_bits = data,
                         .address_bits = s->feeds,
                         .width = 1,
                         .address_lines = LINES};
    s->board = (rmg_board){.word_bits = 1,
                           .address_bits = LINES,
                           .last_address = RMG_SUCCESSIVE_CELLS - 1u,
                           .sockets = &s->socket,
                           .socket_count = 1,
                           .placement = {&s->rule, 1}};
}

static void on_read(void *context, unsigned what, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    small_board *s = context;

    (void)what;
    (void)address;
    s->found |= expected != actual;
}

static bool on_step(void *context, unsigned what)
{
    (void)what;
    return !((const small_board *)context)->found;
}

static bool cell_address(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    *address = ((const small_board *)context)->columns_low ? row << ROW_LINES | column
                                                           : column << ROW_LINES | row;
    return true;
}

static void march(small_board *s, const rmg_step *step, const rmg_target *target)
{
    static const rmg_range all = {0, RMG_SUCCESSIVE_CELLS - 1u};
    rmg_background_term terms[RMG_TERMS_MOST];
    rmg_march_job job = {.code = step->code, .ranges = &all, .range_count = 1};
    rmg_background background;
    rmg_order order;
    rmg_tally tally;

    for (unsigned v = 0; v < rmg_step_variants(step, &s->board) && !s->found; v++) {
        const bool ordered =
            rmg_step_pattern(step, v, &s->board, &all, 1, 1, 0, &background, terms, &order);

        rmg_tally_clear(&tally, NULL, 0);
        s->found = rmg_march_run_patterned(target, &job, &background, ordered ? &order : NULL,
                                           &tally) == RMG_OK &&
                   tally.failing;
    }
}

static bool plan_finds(void *context, const rmg_target *target)
{
    small_board *s = context;
    const rmg_grid grid = {SIDE, SIDE, NULL, cell_address, s};
    const rmg_grid_watch watch = {on_read, on_step, s};

    s->found = false;
    for (size_t i = 0; i < s->steps->count && !s->found; i++) {
        const rmg_step *step = &s->steps->list[i];

        if (step->kind == RMG_STEP_MARCH || step->kind == RMG_STEP_HOLD)
            march(s, step, target);
        else if (step->kind == RMG_STEP_NEIGHBOURS)
            rmg_neighbours_run(target, &grid, step->neighbours, &watch);
        else if (step->kind == RMG_STEP_MOVING)
            rmg_moving_run(target, &grid, step->moving, step->partners, &watch);
    }
    return s->found;
}

void look_successive(const rmg_steps *steps, const rmg_board *board, bool rows,
                     double share[RMG_SUCCESSIVE_CLASSES])
{
    small_board s;

    make_small(&s, steps, has_columns_low(board));
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++) {
        rmg_coverage c;

        share[k] = -1;
        if ((rows || k < RMG_SUCCESSIVE_PRECHARGE) &&
            rmg_successive_coverage((rmg_successive_class)k, s.columns_low, plan_finds, &s, &c) ==
                RMG_OK)
            share[k] = (double)c.found / (double)c.instances;
    }
}

/* A plan, and what it finds of one instance after the other. */
typedef struct noting {
    small_board small;
    bool *found;
    size_t count;
    unsigned contents; /* of the instance that is tried, found so far */
} noting;

static bool note_found(void *context, const rmg_target *target)
{
    noting *n = context;
    const bool found = plan_finds(&n->small, target);

    n->contents = found ? n->contents + 1u : 0;
    if ((!found || n->contents == RMG_SUCCESSIVE_CONTENTS) && n->count < PLAN_INSTANCES) {
        n->found[n->count++] = found;
        n->contents = 0;
    }
    return found;
}

size_t plan_found_successive(const rmg_steps *steps, const rmg_board *board, rmg_successive_class k,
                             bool *found)
{
    noting n = {.found = found};
    rmg_coverage c;

    if (k >= RMG_SUCCESSIVE_PRECHARGE && !board_has_rows(board))
        return 0;
    make_small(&n.small, steps, has_columns_low(board));
    rmg_successive_coverage(k, n.small.columns_low, note_found, &n, &c);
    return n.count;
}

void print_successive(const double share[RMG_SUCCESSIVE_CLASSES])
{
    printf("\nFound in a pass where an access follows another too soon, in a chip of 4 x 4\n");
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++)
        if (share[k] >= 0)
            printf("  %-9s %5.1f %%  %s\n", successive_names[k], 100 * share[k], classes[k].text);
}

void add_successive(GString *text, const double share[RMG_SUCCESSIVE_CLASSES])
{
    const char *before = "";

    g_string_append(text, ", \"successive\": {");
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++) {
        gchar number[G_ASCII_DTOSTR_BUF_SIZE];

        if (share[k] < 0)
            continue;
        g_string_append_printf(text, "%s\"%s\": %s", before, classes[k].key,
                               g_ascii_formatd(number, sizeof number, "%.6f", share[k]));
        before = ", ";
    }
    g_string_append(text, "}");
}
