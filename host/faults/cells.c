/* Faults of a fault file that depend on what was done before, or on time. */
#include <string.h>

#include "internal.h"

static uint64_t cells_of(const fault_reader *r, uint16_t socket)
{
    return (uint64_t)1 << rmg_fault_part(r, socket)->address_lines;
}

/* The aggressor of a cell: another one of the same chip. */
static void read_aggressor(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->cell2 = rmg_yaml_number(r->file, map, "by-cell", 0, cells_of(r, fault->chip) - 1u, -1);
    fault->data_line2 = rmg_yaml_get(r->file, map, "by-bit")
                            ? rmg_fault_data_line(r, map, "by-bit", fault->chip, false)
                            : fault->data_line;
    if (fault->cell2 == fault->cell && fault->data_line2 == fault->data_line)
        rmg_yaml_wrong(r->file, map, "by-cell", "expected another cell than the victim, %u",
                       (unsigned)fault->cell);
}

static void read_state(fault_reader *r, const ynode *map, const char *key, rmg_sim_fault *fault)
{
    fault->state = (uint8_t)rmg_yaml_number(r->file, map, key, 0, 1, -1);
}

/* What a coupling does to a victim that the same write changes, where both are in one word. */
static void read_within(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const answers[] = {"no", "yes", NULL};

    fault->unchanged_only = rmg_yaml_choice(r->file, map, "unchanged-only", answers, 0) == 1;
}

void rmg_fault_read_value(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_cell(r, map, fault);
    fault->coupled = rmg_yaml_get(r->file, map, "by-cell");
    if (!fault->coupled)
        return;
    read_aggressor(r, map, fault);
    read_state(r, map, "while", fault);
}

void rmg_fault_read_change(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_cell(r, map, fault);
    read_aggressor(r, map, fault);
    read_state(r, map, "change-to", fault);
    read_within(r, map, fault);
}

void rmg_fault_read_state(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_cell(r, map, fault);
    read_aggressor(r, map, fault);
    read_state(r, map, "while", fault);
}

/* "01-1": what the cells above, below, left and right are to hold; "-" is any level. */
void rmg_fault_read_pattern(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_need(r->file, map, "neighbours");
    const char *text = node ? rmg_yaml_text(node) : "----";
    const rmg_part *part;

    rmg_fault_read_cell(r, map, fault);
    part = rmg_fault_part(r, fault->chip);
    if (!part->row_lines)
        rmg_yaml_wrong(r->file, map, "neighbours", "a %s has no rows and columns at its pins",
                       part->number);
    if (strlen(text) != 4 || strspn(text, "01-") != 4) {
        rmg_yaml_wrong(r->file, node, "neighbours",
                       "found \"%s\", expected four of 0, 1 and - (any level), for the cells "
                       "above, below, left and right",
                       text);
        return;
    }
    for (unsigned side = 0; side < 4; side++) {
        fault->around |= (uint8_t)((text[side] == '1') << side);
        fault->around_mask |= (uint8_t)((text[side] != '-') << side);
    }
}

void rmg_fault_read_turn(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const sides[] = {"above", "below", "left", "right", NULL};

    guint wrong;

    rmg_fault_read_pattern(r, map, fault);
    wrong = r->file->errors->len;
    fault->by = (uint8_t)rmg_yaml_choice(r->file, map, "by", sides, -1);
    read_state(r, map, "change-to", fault);
    if (r->file->errors->len == wrong && ((unsigned)fault->around_mask >> fault->by & 1u))
        rmg_yaml_wrong(r->file, map, "neighbours",
                       "expected - for the cell that changes, the one %s", sides[fault->by]);
}

void rmg_fault_read_operation(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const operations[] = {"0w0", "0w1", "1w0", "1w1", "0r0", "1r1", NULL};

    rmg_fault_read_cell(r, map, fault);
    read_aggressor(r, map, fault);
    fault->operation =
        (rmg_sim_operation)rmg_yaml_choice(r->file, map, "operation", operations, -1);
    read_within(r, map, fault);
}

void rmg_fault_read_wrong_cells(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const reaches[] = {"none", "none and two", "other", "both", NULL};
    static const char *const reads[] = {"and", "or", "last", NULL};
    uint64_t most;

    fault->chip = rmg_fault_socket(r, map);
    most = cells_of(r, fault->chip) - 1u;
    fault->cell = rmg_yaml_number(r->file, map, "cell", 0, most, -1);
    fault->reaches = (rmg_sim_reaches)rmg_yaml_choice(r->file, map, "reaches", reaches, -1);
    fault->reads = (rmg_sim_reads)rmg_yaml_choice(r->file, map, "reads", reads, 0);
    if (fault->reaches == RMG_REACHES_NONE)
        return;
    fault->cell2 = rmg_yaml_number(r->file, map, "other", 0, most, -1);
    if (fault->cell2 == fault->cell)
        rmg_yaml_wrong(r->file, map, "other", "expected another address than %u",
                       (unsigned)fault->cell);
}

void rmg_fault_read_after(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    uint64_t most;

    fault->chip = rmg_fault_socket(r, map);
    most = cells_of(r, fault->chip) - 1u;
    fault->cell = rmg_yaml_number(r->file, map, "cell", 0, most, -1);
    fault->cell2 = rmg_yaml_number(r->file, map, "after", 0, most, -1);
    fault->reaches = RMG_REACHES_OTHER;
    if (fault->cell2 == fault->cell)
        rmg_yaml_wrong(r->file, map, "after", "expected another address than %u",
                       (unsigned)fault->cell);
}

void rmg_fault_read_own_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->lines =
        (rmg_addr)1 << rmg_yaml_number(r->file, map, "address-line", 0,
                                       rmg_fault_part(r, fault->chip)->address_lines - 1, -1);
    read_state(r, map, "change-to", fault);
}

void rmg_fault_read_bit_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_column(r, map, fault);
    if (fault->data_line == RMG_ALL_DATA_LINES)
        fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, false);
}

void rmg_fault_read_retention(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_cell(r, map, fault);
    fault->after_us = (uint32_t)rmg_yaml_number(r->file, map, "after-us", 1, UINT32_MAX, -1);
}

void rmg_fault_read_refresh(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_scope(r, map, "", fault);
    fault->cell = rmg_yaml_number(r->file, map, "rows", 0, 65536, 65536);
    fault->after_us = (uint32_t)rmg_yaml_number(r->file, map, "every-us", 1, UINT32_MAX, 2000);
}

void rmg_fault_read_disturb(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const rmg_part *part;

    rmg_fault_read_cell(r, map, fault);
    part = rmg_fault_part(r, fault->chip);
    if (!part->row_lines) {
        rmg_yaml_wrong(r->file, map, "row", "a %s has no rows and columns at its pins",
                       part->number);
        return;
    }
    fault->row = rmg_yaml_number(r->file, map, "row", 0, ((uint64_t)1 << part->row_lines) - 1u, -1);
    fault->count = (uint32_t)rmg_yaml_number(r->file, map, "accesses", 1, UINT32_MAX, -1);
    if (fault->row == (fault->cell & (((rmg_addr)1 << part->row_lines) - 1u)))
        rmg_yaml_wrong(r->file, map, "row", "expected another row than the cell's own, %u",
                       (unsigned)fault->row);
}

void rmg_fault_read_noise(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->line = RMG_ALL_DATA_LINES;
    if (rmg_yaml_get(r->file, map, "line"))
        fault->line = rmg_fault_bit(r, map, "line");
    rmg_yaml_need(r->file, map, "one-in");
}
