/* The simulated board on which one proposal after another is played. Knows nothing of suspects. */
#include <string.h>

#include "internal.h"
#include "base/internal.h"
#include "rimeglass/heard.h"
#include "run/internal.h"

#define WORLD        UINT64_C(0x52696D65) /* what the memory comes up with: anything, it is not known */
#define PART_WORDS   1u    /* words on either side of a cell that are played with it */
#define SAMPLE_WORDS 16u   /* of a block that stands for others */
#define PARTS_MOST   200u  /* more of them: all words are played */
#define RANGES_MOST  8192u /* of a march; */
#define RANGE_WORTH  64u   /* words that take as long as to begin one */
#define LAST_ADDRESS ((rmg_addr) ~(rmg_addr)0)

bool rmg_stage_begin(rmg_stage *s, const rmg_run *run)
{
    size_t bytes;

    memset(s, 0, sizeof *s);
    s->run = run;
    rmg_board_to_sim(run->board, &s->model);
    bytes = rmg_sim_bytes(&s->model.board, PROPOSAL_FAULTS);
    s->memory = bytes ? rmg_pages_new(bytes) : NULL;
    s->starved = bytes && !s->memory;
    s->room = rmg_machine_bytes() / 4u;
    s->tally = g_new(rmg_tally, 1);
    rmg_tally_clear(s->tally, NULL, 0);
    s->known = g_array_new(FALSE, TRUE, sizeof(rmg_known_play));
    return s->memory != NULL;
}

void rmg_stage_end(rmg_stage *s)
{
    g_free(s->tally);
    g_array_free(s->known, TRUE);
    if (s->touched)
        g_hash_table_destroy(s->touched);
    rmg_pages_free(s->memory);
    rmg_sim_model_free(&s->model);
}

static void add_cell(const rmg_stage *s, uint16_t chip, rmg_addr cell, GArray *parts)
{
    const rmg_placement *placement = &s->run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        rmg_range part;
        rmg_addr at;

        if (placement->rules[r].socket != chip)
            continue;
        at = rmg_rule_address(&placement->rules[r], cell);
        part.first = at > PART_WORDS ? at - PART_WORDS : 0;
        part.last = at < LAST_ADDRESS - PART_WORDS ? at + PART_WORDS : LAST_ADDRESS;
        g_array_append_val(parts, part);
    }
}

/* The cells above, below, left and right, by row and column at the chip's pins. */
static void add_around(const rmg_stage *s, uint16_t chip, rmg_addr cell, GArray *parts)
{
    const rmg_part *part = s->run->board->sockets[chip].part;
    const rmg_addr depth = (rmg_addr)1 << part->address_lines, row = (rmg_addr)1 << part->row_lines;
    const rmg_addr steps[] = {1, row};

    for (unsigned i = 0; part->row_lines && i < 2; i++) {
        if (cell + steps[i] < depth)
            add_cell(s, chip, cell + steps[i], parts);
        if (cell >= steps[i])
            add_cell(s, chip, cell - steps[i], parts);
    }
}

static gint by_first(gconstpointer a, gconstpointer b)
{
    const rmg_range *x = a, *y = b;

    return rmg_by_number(x->first, y->first);
}

/* Makes them rise, apart from one another. */
static void join_parts(GArray *parts)
{
    guint kept = 0;

    g_array_sort(parts, by_first);
    for (guint i = 1; i < parts->len; i++) {
        rmg_range *last = &g_array_index(parts, rmg_range, kept);
        const rmg_range next = g_array_index(parts, rmg_range, i);

        if (next.first <= last->last || next.first == last->last + 1u)
            last->last = MAX(last->last, next.last);
        else
            g_array_index(parts, rmg_range, ++kept) = next;
    }
    if (parts->len)
        g_array_set_size(parts, kept + 1u);
}

/* Does a step look at the cells around a cell? */
static bool looks_around(const rmg_stage *s)
{
    bool around = false;

    for (size_t i = 0; i < s->run->steps.count; i++)
        around |= s->run->steps.list[i].kind == RMG_STEP_NEIGHBOURS;
    return around;
}

bool rmg_stage_find_parts(const rmg_stage *s, const rmg_sim_fault *faults, size_t count,
                          GArray *parts)
{
    const bool around = looks_around(s);

    for (size_t i = 0; i < count; i++) {
        if (!rmg_fault_is(faults[i].kind, RMG_TRAIT_CELLS) || parts->len > 2u * PARTS_MOST)
            return false;
        add_cell(s, faults[i].chip, faults[i].cell, parts);
        if (around || rmg_fault_rows[faults[i].kind].marks == RMG_MARKS_AROUND)
            add_around(s, faults[i].chip, faults[i].cell, parts);
        if (rmg_fault_has_second(&faults[i]))
            add_cell(s, faults[i].chip, faults[i].cell2, parts);
    }
    join_parts(parts);
    return parts->len && parts->len <= PARTS_MOST;
}

/* Bus address lines that faults make lead elsewhere. */
static rmg_addr moved_lines(const rmg_stage *s, const rmg_sim_fault *faults, size_t count)
{
    const rmg_placement *placement = &s->run->board->placement;
    rmg_addr lines = 0;

    for (size_t i = 0; i < count; i++) {
        const rmg_sim_fault *f = &faults[i];

        if (rmg_fault_rows[f->kind].stages & RMG_STAGE_BIT(LINES))
            lines |= f->lines;
        for (uint16_t r = 0;
             (rmg_fault_rows[f->kind].stages & RMG_STAGE_BIT(PINS)) && r < placement->rule_count;
             r++)
            for (uint8_t k = 0;
                 placement->rules[r].socket == f->chip && k < placement->rules[r].address_lines;
                 k++)
                if ((f->lines >> k & 1u) && placement->rules[r].address_bits[k] < RMG_ADDR_BITS)
                    lines |= (rmg_addr)1 << placement->rules[r].address_bits[k];
    }
    return lines;
}

/* Has every one of them this trait? And some of them? */
static bool all_are(const rmg_sim_fault *faults, size_t count, unsigned trait)
{
    size_t are = 0;

    for (size_t i = 0; i < count; i++)
        are += rmg_fault_is(faults[i].kind, trait);
    return count && are == count;
}

static bool some_are(const rmg_sim_fault *faults, size_t count, unsigned trait)
{
    for (size_t i = 0; i < count; i++)
        if (rmg_fault_is(faults[i].kind, trait))
            return true;
    return false;
}

#define ROW_CELLS 16u /* of a row or column that stand for all of it */

/* Cells of the rows and columns that these faults are, at most `most` of each, the first and the
 * last among them, with the words beside them. */
static bool find_rows(const rmg_stage *s, const rmg_sim_fault *faults, size_t count, rmg_addr most,
                      GArray *parts)
{
    for (size_t i = 0; i < count; i++) {
        const rmg_part *part = s->run->board->sockets[faults[i].chip].part;
        const rmg_addr cells = (rmg_addr)1 << part->address_lines,
                       rows = (rmg_addr)1 << part->row_lines;
        const bool row = faults[i].kind == RMG_FAULT_ROW;
        const rmg_addr step = row ? rows : 1u, of = row ? cells / rows : rows;
        const rmg_addr first = row ? faults[i].cell : faults[i].cell << part->row_lines;

        if (!row && faults[i].kind != RMG_FAULT_COLUMN)
            return false;
        for (rmg_addr n = 0; n < most && n < of; n++)
            add_cell(s, faults[i].chip, first + (n ? of / MIN(of, most) * (n + 1u) - 1u : 0) * step,
                     parts);
    }
    join_parts(parts);
    return parts->len != 0;
}

/* All cells of these rows and columns, where that is a small part of what is tested. */
static bool find_whole_rows(const rmg_stage *s, const rmg_sim_fault *faults, size_t count,
                            GArray *parts)
{
    g_array_set_size(parts, 0);
    return !looks_around(s) && find_rows(s, faults, count, LAST_ADDRESS, parts) &&
           parts->len <= RANGES_MOST && parts->len * RANGE_WORTH < s->run->tested_words;
}

/* Blocks at the start and in the middle of each bank, with all that the lines let share a cell. A
 * fault that acts alike in its whole chip shows in any block; what it makes share a cell must be
 * played too, or the one write that spoils the other would be missing. Two halves, because a part
 * with one address line less differs in the upper one. */
static bool find_sample(const rmg_stage *s, const rmg_sim_fault *faults, size_t count,
                        GArray *parts)
{
    const rmg_board *board = s->run->board;
    const rmg_addr lines = moved_lines(s, faults, count);

    if (!all_are(faults, count, RMG_TRAIT_EVERYWHERE) || __builtin_popcountll(lines) > 4)
        return false;
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_where *where = &board->bank_wheres[b];

        for (unsigned half = 0; s->run->bank_words[b] && half < 2; half++) {
            const rmg_addr base = (where->first + (half ? (where->last - where->first) / 2u : 0)) &
                                  ~(rmg_addr)(SAMPLE_WORDS - 1u);
            rmg_addr other = 0;

            do { /* every subset of the lines */
                const rmg_addr first = (base ^ other) & ~(rmg_addr)(SAMPLE_WORDS - 1u);
                const rmg_range part = {first, first + SAMPLE_WORDS - 1u};

                g_array_append_val(parts, part);
                other = (other - lines) & lines;
            } while (other);
        }
    }
    join_parts(parts);
    return parts->len <= PARTS_MOST;
}

/* The same in an empty list. */
static bool find_rows_of(const rmg_stage *s, const rmg_sim_fault *faults, size_t count,
                         GArray *parts)
{
    g_array_set_size(parts, 0);
    return find_rows(s, faults, count, ROW_CELLS, parts) && parts->len <= PARTS_MOST;
}

/* Gives the words of the parts what they come up with. */
static void fill(rmg_stage *s, const rmg_sim_fault *faults, size_t count, const GArray *parts,
                 unsigned contents)
{
    const rmg_placement *placement = &s->run->board->placement;
    const rmg_word values[2] = {contents & 1u ? ~(rmg_word)0 : 0,
                                (contents ^ contents >> 1) & 1u ? ~(rmg_word)0 : 0};

    for (guint i = 0; i < parts->len; i++) {
        const rmg_range *part = &g_array_index(parts, rmg_range, i);

        for (rmg_addr a = part->first; a <= part->last; a++)
            rmg_sim_put_word(&s->sim, a, values[0]);
    }
    for (size_t i = 0; parts->len && i < count; i++)
        for (uint16_t r = 0; rmg_fault_has_second(&faults[i]) && r < placement->rule_count; r++)
            if (placement->rules[r].socket == faults[i].chip)
                rmg_sim_put_word(&s->sim, rmg_rule_address(&placement->rules[r], faults[i].cell2),
                                 values[1]);
}

bool rmg_stage_switch_on(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count,
                         const GArray *parts, bool whole, unsigned contents)
{
    /* Invariant: between plays the board is healthy and holds what the play before left there. That
     * is as good as anything else, for a test writes before it reads, except to faults that show
     * what the memory came up with: they play on a board that was just switched on, or on words
     * that are all given what they come up with. */
    if (!s->on || ((whole || !parts || !parts->len) && some_are(faults, count, RMG_TRAIT_POWER_ON)))
        s->on = rmg_sim_start_healthy(&s->sim, &s->model.board, PROPOSAL_FAULTS, WORLD,
                                      s->memory) == RMG_OK;
    rmg_sim_limit(&s->sim, s->room);
    if (s->on && parts)
        fill(s, faults, count, parts, contents);
    return s->on && rmg_sim_start_again(&s->sim, faults, count) == RMG_OK;
}

bool rmg_stage_in_part(const rmg_stage *s, const rmg_sim_fault *faults, uint16_t count)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    bool in_part = rmg_stage_find_parts(s, faults, count, parts);

    g_array_set_size(parts, 0);
    in_part =
        in_part || find_sample(s, faults, count, parts) || find_rows_of(s, faults, count, parts);
    g_array_free(parts, TRUE);
    return in_part;
}

bool rmg_stage_undriven(const rmg_sim_fault *faults, size_t count)
{
    return some_are(faults, count, RMG_TRAIT_UNDRIVEN);
}

bool rmg_stage_float(rmg_stage *s, rmg_floats floats)
{
    const rmg_undriven of_file = s->run->board->undriven;
    const rmg_undriven now = floats == RMG_FLOATS_HIGH    ? RMG_UNDRIVEN_HIGH
                             : floats == RMG_FLOATS_LOW   ? RMG_UNDRIVEN_LOW
                             : floats == RMG_FLOATS_HOLDS ? RMG_UNDRIVEN_HOLDS
                                                          : of_file;

    s->model.board.undriven = now;
    s->model.board.hold_ns = floats == RMG_FLOATS_HOLDS ? 0 : s->run->board->hold_ns;
    return floats == RMG_FLOATS_AS_FILE || floats == RMG_FLOATS_HOLDS || now != of_file;
}

/* Does one chip hold the bit at an address and at both of its neighbours? */
static bool has_neighbours(const rmg_stage *s, uint16_t chip, rmg_addr cell)
{
    const rmg_placement *placement = &s->run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_where *where = &placement->rules[r].where;
        const rmg_addr at = rmg_rule_address(&placement->rules[r], cell);

        if (placement->rules[r].socket == chip &&
            (at <= where->first || at >= where->last || !rmg_where_holds(where, at - 1u) ||
             !rmg_where_holds(where, at + 1u)))
            return false;
    }
    return true;
}

/* Is a march over the words of these faults alone the same as over all? Not where time passes for
 * the cells meanwhile, where accesses elsewhere count, nor where the order of words is a pattern of
 * all of them. Where it counts what was read last, that was the word before or after. */
static bool as_in_part(const rmg_stage *s, const rmg_sim_fault *faults, size_t count)
{
    const uint32_t elsewhere = RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(ROWS) | RMG_STAGE_BIT(REFRESH);

    for (size_t i = 0; i < count; i++)
        if ((rmg_fault_rows[faults[i].kind].stages & elsewhere) ||
            (faults[i].kind == RMG_FAULT_ADDRESS_CELLS &&
             !(has_neighbours(s, faults[i].chip, faults[i].cell) &&
               has_neighbours(s, faults[i].chip, faults[i].cell2))))
            return false;
    for (size_t i = 0; i < s->run->steps.count; i++)
        if (s->run->steps.list[i].way != RMG_WAY_LINEAR)
            return false;
    return true;
}

static void narrow_marches(rmg_run *again, const GArray *parts)
{
    rmg_run_narrow_marches(again, (const rmg_range *)(const void *)parts->data, parts->len);
}

bool rmg_stage_marches_in_part(const rmg_stage *s, const rmg_sim_fault *faults, uint16_t count)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    const bool in_part =
        rmg_stage_find_parts(s, faults, count, parts) && as_in_part(s, faults, count);

    g_array_free(parts, TRUE);
    return in_part;
}

rmg_word rmg_stage_mask(const rmg_stage *s)
{
    return (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - s->run->board->word_bits);
}

rmg_plan rmg_stage_plan(const rmg_stage *s)
{
    rmg_plan plan = s->run->plan;

    plan.steps = &s->run->steps;
    plan.march = NULL;
    plan.march_name = NULL;
    /* passes, not time: the number of failures is compared, and time differs from board to board */
    plan.seconds = 0;
    plan.endless = false;
    plan.passes = (uint32_t)MIN(MAX(s->run->pass_count, 1u), RMG_REPLAY_PASSES);
    if (s->run->heard) { /* what the other program tested */
        plan.limited = true;
        plan.limit = s->run->tested[0];
    }
    return plan;
}

bool rmg_stage_play(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count, bool whole,
                    unsigned contents, rmg_run *again)
{
    const rmg_plan plan = rmg_stage_plan(s);
    rmg_target target = {.bus = &rmg_sim_bus, .context = &s->sim, .mask = rmg_stage_mask(s)};
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    GArray *sample = g_array_new(FALSE, FALSE, sizeof(rmg_range)); /* or rows, as a whole */
    const bool in_parts = rmg_stage_find_parts(s, faults, count, parts);
    bool narrows;
    rmg_error error = {0};
    bool done;

    /* Words that no fault touches pass, and a plan does the same to every word: leaving them out
     * changes no failure. `whole` is the proof of it, for the proposals that look right. */
    if (!in_parts)
        g_array_set_size(parts, 0);
    narrows = whole && as_in_part(s, faults, count) &&
              (in_parts || find_whole_rows(s, faults, count, sample));
    s->sampled = !whole && !in_parts &&
                 (find_sample(s, faults, count, sample) || find_rows_of(s, faults, count, sample));
    done =
        count <= PROPOSAL_FAULTS && rmg_stage_switch_on(s, faults, count, parts, whole, contents);
    if (done)
        done = rmg_run_begin(again, s->run->board, &plan, "replay", &error) == RMG_OK;
    else
        memset(again, 0, sizeof *again);
    if (done) {
        if (!whole && in_parts)
            rmg_run_narrow(again, (const rmg_range *)(const void *)parts->data, parts->len);
        else if (s->sampled)
            rmg_run_narrow(again, (const rmg_range *)(const void *)sample->data, sample->len);
        else if (narrows)
            narrow_marches(again, in_parts ? parts : sample);
        s->plays++;
        s->starved |= rmg_run_carry_out(again, &target, NULL) == RMG_ERR_MEMORY;
        s->work += s->sim.reads + s->sim.writes + (RMG_REPLAY_CHIPWISE - 1u) * s->sim.chipwise;
        done = again->status == RMG_OK;
    }
    rmg_error_free(&error);
    g_array_free(parts, TRUE);
    g_array_free(sample, TRUE);
    return done;
}

/* A play of a test ROM's steps. */
typedef struct telling {
    rmg_stage *stage;
    bool (*line)(void *context, const rmg_testrom_line *line);
    void *context;
} telling;

static bool tell_line(void *context, const rmg_testrom_line *line)
{
    const telling *t = context;

    return t->line(t->context, line);
}

static void carry(void *context, rmg_word value)
{
    rmg_sim_carry(&((telling *)context)->stage->sim, value);
}

static bool is_sound(void *context, rmg_addr address)
{
    return rmg_sim_sound(&((telling *)context)->stage->sim, address);
}

bool rmg_stage_tell(rmg_stage *s, const rmg_testrom_plan *plan, const rmg_sim_fault *faults,
                    uint16_t count, unsigned contents, unsigned passes,
                    bool (*line)(void *context, const rmg_testrom_line *line), void *context)
{
    const rmg_target target = {.bus = &rmg_sim_bus, .context = &s->sim, .mask = rmg_stage_mask(s)};
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    telling t = {s, line, context};
    const rmg_testrom_listener to = {&t, tell_line, carry, is_sound};
    bool done;

    if (!rmg_stage_find_parts(s, faults, count, parts))
        g_array_set_size(parts, 0);
    done = count <= PROPOSAL_FAULTS && rmg_stage_switch_on(s, faults, count, parts, false,
                                                           contents); /* of which there is room */
    if (done) {
        s->plays++;
        done = rmg_testrom_play(plan, &target, &to, passes) != RMG_ERR_MEMORY;
        s->starved |= !done;
        s->work += s->sim.reads + s->sim.writes + (RMG_REPLAY_CHIPWISE - 1u) * s->sim.chipwise;
    }
    g_array_free(parts, TRUE);
    return done;
}

bool rmg_replay_more(const rmg_replay_budget *b, double share)
{
    return !b->stage->starved && (!b->work || b->stage->work < b->work) &&
           (!b->go_on || b->go_on(b->context, share));
}
