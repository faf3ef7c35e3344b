/* Which addresses a run may touch, which it leaves alone, and why. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"
#include "runner.h"

static void leave_out(GArray *left_out, rmg_addr first, rmg_addr last, const char *name,
                      const char *reason)
{
    rmg_left_out entry = {{first, last}, g_strdup(name), g_strdup(reason)};

    g_array_append_val(left_out, entry);
}

/* RAM of the region within the limit goes to `tested`; its ends outside the limit are left out. */
static void take_ram(const rmg_plan *plan, const rmg_region *region, GArray *tested,
                     GArray *left_out)
{
    rmg_range r = region->range;

    if (plan->limited) {
        if (plan->limit.first > r.last || plan->limit.last < r.first) {
            leave_out(left_out, r.first, r.last, region->name, "not asked for");
            return;
        }
        if (plan->limit.first > r.first) {
            leave_out(left_out, r.first, plan->limit.first - 1u, region->name, "not asked for");
            r.first = plan->limit.first;
        }
        if (plan->limit.last < r.last) {
            leave_out(left_out, plan->limit.last + 1u, r.last, region->name, "not asked for");
            r.last = plan->limit.last;
        }
    }
    if (plan->spares && plan->spared.first <= r.last && plan->spared.last >= r.first) {
        const rmg_range part = {MAX(r.first, plan->spared.first), MIN(r.last, plan->spared.last)};
        const rmg_range before = {r.first, part.first - 1u};

        leave_out(left_out, part.first, part.last, region->name,
                  "the routine that runs the elements lies there");
        if (part.first > r.first)
            g_array_append_val(tested, before);
        if (part.last == r.last)
            return;
        r.first = part.last + 1u;
    }
    g_array_append_val(tested, r);
}

static rmg_status check_limit(const rmg_run *run, rmg_error *error)
{
    const rmg_board *board = run->board;
    const rmg_addr top = board->last_address;
    char text[40], end[40];

    if (!run->plan.limited || run->plan.limit.last <= top)
        return RMG_OK;
    return rmg_fail(error, RMG_ERR_RANGE, NULL,
                    "the range %s goes past the end of the board: its last address is %s",
                    rmg_board_range_text(board, &run->plan.limit, text, sizeof text),
                    rmg_board_address_text(board, top, end, sizeof end));
}

/* Addresses that no region names. Regions are rising and apart. */
static void leave_out_gaps(const rmg_board *board, GArray *left_out)
{
    const rmg_addr top = board->last_address;
    const char *reason = "the board file does not describe this";
    rmg_addr next = 0;

    for (size_t i = 0; i < board->region_count; i++) {
        const rmg_range *r = &board->regions[i].range;

        if (r->first > next)
            leave_out(left_out, next, r->first - 1u, "", reason);
        if (r->last == top)
            return;
        next = r->last + 1u;
    }
    leave_out(left_out, next, top, "", reason);
}

static gint by_first(gconstpointer a, gconstpointer b)
{
    const rmg_left_out *x = a, *y = b;

    return rmg_by_number(x->range.first, y->range.first);
}

/* Data bits that some socket holds in the range. */
static rmg_word held_bits(const rmg_board *board, const rmg_range *range)
{
    rmg_word bits = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->where.first <= range->last && range->first <= rule->where.last)
            bits |= rmg_rule_bits(rule);
    }
    return bits;
}

rmg_status rmg_run_choose_ranges(rmg_run *run, rmg_error *error)
{
    const rmg_board *board = run->board;
    GArray *tested = g_array_new(FALSE, TRUE, sizeof(rmg_range));
    GArray *left_out = g_array_new(FALSE, TRUE, sizeof(rmg_left_out));
    rmg_status status = check_limit(run, error);
    char text[40];

    for (size_t i = 0; i < board->region_count; i++) {
        const rmg_region *region = &board->regions[i];

        if (region->kind == RMG_REGION_RAM || region == run->plan.named)
            take_ram(&run->plan, region, tested, left_out);
        else
            leave_out(left_out, region->range.first, region->range.last, region->name,
                      rmg_region_kind_reason(region->kind));
    }
    leave_out_gaps(board, left_out);
    g_array_sort(left_out, by_first);
    run->tested_count = tested->len;
    run->tested = rmg_array_take(tested);
    run->left_out_count = left_out->len;
    run->left_out = rmg_array_take(left_out);
    for (size_t i = 0; i < run->tested_count; i++)
        run->tested_words += run->tested[i].last - run->tested[i].first + 1u;
    run->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    if (run->plan.named) /* what is only tested when named may be narrower than a word */
        run->mask = held_bits(board, &run->plan.named->range);
    if (status == RMG_OK && !run->mask) {
        status =
            rmg_fail(error, RMG_ERR_RANGE, run->plan.named->name,
                     "no socket of the board file holds anything in \"%s\"", run->plan.named->name);
    }
    if (status == RMG_OK && run->tested_count > UINT8_MAX)
        status = rmg_fail(error, RMG_ERR_RANGE, board->file,
                          "the RAM lies in %zu separate stretches, more than %u: test it in parts "
                          "(--range, --bank, --region)",
                          run->tested_count, UINT8_MAX);
    if (status == RMG_OK && !run->tested_count) {
        status =
            run->plan.limited
                ? rmg_fail(error, RMG_ERR_RANGE, NULL, "the range %s holds no RAM of this board",
                           rmg_board_range_text(board, &run->plan.limit, text, sizeof text))
                : rmg_fail(error, RMG_ERR_RANGE, board->file, "the board file names no RAM region");
    }
    return status;
}

rmg_permit *rmg_run_permits(const rmg_run *run)
{
    rmg_permit *permits = g_new(rmg_permit, MAX(run->tested_count, 1));

    for (size_t i = 0; i < run->tested_count; i++)
        permits[i] = (rmg_permit){run->tested[i], RMG_MAY_READ | RMG_MAY_WRITE};
    return permits;
}

/* The largest stretch of the bank that is tested, for its wiring check. */
bool rmg_run_wiring_where(const rmg_run *run, size_t bank, rmg_where *best)
{
    const rmg_where *where = &run->board->bank_wheres[bank];
    bool any = false;

    if (run->board->banks[bank].part->kind == RMG_PART_ROM)
        return false;
    for (size_t i = 0; i < run->tested_count; i++) {
        rmg_where part;

        if (!rmg_where_within(where, &run->tested[i], &part) || part.last - part.first < 3u)
            continue;
        if (!any || part.last - part.first > best->last - best->first)
            *best = part;
        any = true;
    }
    return any;
}

rmg_addr rmg_run_unchecked_lines(const rmg_run *run, size_t bank)
{
    const rmg_placement *placement = &run->board->placement;
    rmg_addr lines = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        for (uint8_t i = 0;
             placement->rules[r].bank == bank && i < placement->rules[r].address_lines; i++)
            if (placement->rules[r].address_bits[i] < RMG_ADDR_BITS)
                lines |= (rmg_addr)1 << placement->rules[r].address_bits[i];
    return run->wired[bank] ? lines & ~run->wirings[bank].lines : lines;
}

bool rmg_run_lines_skipped(const rmg_run *run, size_t bank)
{
    rmg_where part;

    for (size_t i = 0; i < run->tested_count && !run->wired[bank]; i++)
        if (rmg_where_within(&run->board->bank_wheres[bank], &run->tested[i], &part))
            return true;
    return false;
}

/* The board's first memory, if it is whole among what is tested. */
void rmg_run_choose_first_memory(rmg_run *run)
{
    const rmg_range *first = &run->board->first_memory;

    for (size_t i = 0; first->first <= first->last && i < run->tested_count; i++)
        if (run->tested[i].first <= first->first && first->last <= run->tested[i].last) {
            run->first_memory = g_memdup2(first, sizeof *first);
            run->first_memory_count = 1;
            return;
        }
}

/* What the two lists have in common; a new list. Both rise. */
static rmg_range *common(const rmg_range *a, size_t a_count, const rmg_range *b, size_t b_count,
                         size_t *count)
{
    rmg_range *list = g_new(rmg_range, MAX(a_count + b_count, 1u));

    *count = 0;
    for (size_t i = 0, j = 0; i < a_count && j < b_count;) {
        const rmg_range part = {MAX(a[i].first, b[j].first), MIN(a[i].last, b[j].last)};

        if (part.first <= part.last)
            list[(*count)++] = part;
        if (a[i].last < b[j].last)
            i++;
        else
            j++;
    }
    return list;
}

void rmg_run_narrow(rmg_run *run, const rmg_range *ranges, size_t count)
{
    rmg_range *tested = common(run->tested, run->tested_count, ranges, count, &run->tested_count);
    rmg_range *first = common(run->first_memory, run->first_memory_count, tested, run->tested_count,
                              &run->first_memory_count);

    g_free(run->tested);
    g_free(run->first_memory);
    run->tested = tested;
    run->first_memory = first;
    run->tested_words = 0;
    for (size_t i = 0; i < run->tested_count; i++)
        run->tested_words += tested[i].last - tested[i].first + 1u;
    for (size_t b = 0; b < run->board->bank_count; b++)
        run->bank_words[b] = rmg_run_bank_words(run, b);
    run->own->wiring_done = true;
    run->wiring_narrowed = true;
}

void rmg_run_narrow_marches(rmg_run *run, const rmg_range *ranges, size_t count)
{
    run->own->march_ranges =
        common(run->tested, run->tested_count, ranges, count, &run->own->march_range_count);
    if (run->own->march_range_count > (rmg_range_count)-1) /* too many: all is marched over */
        g_clear_pointer(&run->own->march_ranges, g_free);
}

/* Addresses below `end` that hold the condition. */
static uint64_t below(rmg_addr end, rmg_addr mask, rmg_addr match)
{
    uint64_t count = 0;

    for (unsigned i = 0; i < RMG_ADDR_BITS; i++) {
        const rmg_addr one = (rmg_addr)1 << i, lower = one - 1u;

        /* those that agree with `end` above line i, and have a 0 in it where `end` has a 1 */
        if ((end & one) && !((end ^ match) & mask & ~(one | lower)) && !(match & mask & one))
            count += (uint64_t)1 << (i - (unsigned)__builtin_popcountll(mask & lower));
    }
    return count;
}

uint64_t rmg_run_bank_words(const rmg_run *run, size_t bank)
{
    const rmg_where *where = &run->board->bank_wheres[bank];
    uint64_t words = 0;

    for (size_t i = 0; i < run->tested_count; i++) {
        const rmg_addr first = MAX(where->first, run->tested[i].first);
        const rmg_addr last = MIN(where->last, run->tested[i].last);

        if (first <= last)
            words += below(last, where->mask, where->match) + rmg_where_holds(where, last) -
                     below(first, where->mask, where->match);
    }
    return words;
}
