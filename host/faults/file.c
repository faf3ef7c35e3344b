/* The fault file to a list of faults for the simulator. */
#include <string.h>

#include "internal.h"

/* A kind of fault as the file names it, and the keys it takes. */
typedef struct fault_form {
    const char *word;
    rmg_fault_kind kind;
    const char *keys[10];
    bool open; /* the level is the one it floats at */
    void (*read)(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
} fault_form;

uint16_t rmg_fault_socket(fault_reader *r, const ynode *map)
{
    const ynode *node = rmg_yaml_need(r->file, map, "socket");
    const char **names = g_new0(const char *, r->board->socket_count + 1);
    uint16_t found = 0;
    const char *near;

    if (node) {
        found = rmg_board_socket(r->board, rmg_yaml_text(node));
        for (size_t i = 0; i < r->board->socket_count; i++)
            names[i] = r->board->sockets[i].name;
        near = rmg_nearest(rmg_yaml_text(node), names);
        if (found == RMG_NO_SOCKET)
            rmg_yaml_wrong(r->file, node, "socket", "the board %s has no \"%s\"%s%s%s",
                           r->board->name, rmg_yaml_text(node), near ? "; did you mean " : "",
                           near ? near : "", near ? "?" : "");
        else if (!r->board->sockets[found].part)
            rmg_yaml_wrong(r->file, node, "socket", "the board file does not say what %s holds",
                           rmg_yaml_text(node));
        if (found == RMG_NO_SOCKET || !r->board->sockets[found].part)
            found = 0;
    }
    g_free(names);
    return found;
}

const rmg_part *rmg_fault_part(const fault_reader *r, uint16_t socket)
{
    return r->board->sockets[socket].part ? r->board->sockets[socket].part : rmg_part_find("4116");
}

/* "D5": a bus data bit. */
uint8_t rmg_fault_bit(fault_reader *r, const ynode *map, const char *key)
{
    const ynode *node = rmg_yaml_need(r->file, map, key);
    char stem[4];
    uint64_t n = 0;

    if (!node)
        return 0;
    if (!rmg_designator_parse(rmg_yaml_text(node), stem, sizeof stem, &n) ||
        strcmp(stem, "D") != 0 || n >= r->board->word_bits) {
        rmg_yaml_wrong(r->file, node, key, "found \"%s\", expected a data bit from D0 to D%u",
                       rmg_yaml_text(node), r->board->word_bits - 1u);
        return 0;
    }
    return (uint8_t)n;
}

/* Which data line of the fault's chip carries the bus bit under `key`; needed only where it has
 * several. */
uint8_t rmg_fault_data_line(fault_reader *r, const ynode *map, const char *key, uint16_t socket,
                            bool all_allowed)
{
    const ynode *node = rmg_yaml_get(r->file, map, key);
    uint8_t bit;

    if (!node && rmg_fault_part(r, socket)->width == 1)
        return 0;
    if (!node && all_allowed)
        return RMG_ALL_DATA_LINES;
    bit = rmg_fault_bit(r, map, key);
    if (!node)
        return 0;
    for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
        const rmg_rule *rule = &r->board->placement.rules[i];

        for (uint8_t line = 0; rule->socket == socket && line < rule->width; line++)
            if (rule->data_bits[line] == bit)
                return line;
    }
    rmg_yaml_wrong(r->file, node, key, "%s does not hold D%u", r->board->sockets[socket].name, bit);
    return 0;
}

#define MOST_FAULTS 4096u

static void read_level(fault_reader *r, const ynode *map, bool open, rmg_sim_fault *fault)
{
    fault->level = open ? (uint8_t)rmg_yaml_number(r->file, map, "floats", 0, 1, 1)
                        : (uint8_t)rmg_yaml_number(r->file, map, "level", 0, 1, -1);
}

void rmg_fault_read_cell(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_get(r->file, map, "address");
    uint64_t address;
    rmg_place place;

    if (!node) {
        const rmg_part *part;

        fault->chip = rmg_fault_socket(r, map);
        fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, false);
        part = rmg_fault_part(r, fault->chip);
        fault->cell =
            rmg_yaml_number(r->file, map, "cell", 0, ((uint64_t)1 << part->address_lines) - 1u, -1);
        return;
    }
    if (!rmg_number_parse(rmg_yaml_text(node), &address))
        rmg_yaml_wrong(r->file, node, "address", "found \"%s\", expected an address like 0x9C40",
                       rmg_yaml_text(node));
    else if (!rmg_place_find(&r->board->placement, rmg_board_word(r->board, address),
                             rmg_fault_bit(r, map, "bit"), &place))
        rmg_yaml_wrong(r->file, node, "address", "no socket of the board holds that bit at %s",
                       rmg_yaml_text(node));
    else {
        fault->chip = place.socket;
        fault->data_line = place.data_line;
        fault->cell = place.cell;
    }
}

static void read_row(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const bool row = fault->kind == RMG_FAULT_ROW;
    const char *key = row ? "row" : "column";
    const rmg_part *part;
    uint64_t most;

    fault->chip = rmg_fault_socket(r, map);
    fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, true);
    part = rmg_fault_part(r, fault->chip);
    if (!part->row_lines) {
        rmg_yaml_wrong(r->file, map, key, "a %s has no rows and columns at its pins", part->number);
        return;
    }
    most = (uint64_t)1 << (row ? part->row_lines : part->address_lines - part->row_lines);
    fault->cell = rmg_yaml_number(r->file, map, key, 0, most - 1u, -1);
}

static void read_output(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, false);
}

static void read_input(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    read_output(r, map, fault);
    if (rmg_fault_part(r, fault->chip)->width != 1)
        rmg_yaml_wrong(r->file, map, "socket",
                       "a %s takes and gives data at the same pin; expected kind \"data pin open\"",
                       rmg_fault_part(r, fault->chip)->number);
}

static void read_chip(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
}

static void read_bus_bit(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *lane = rmg_yaml_get(r->file, map, "lane-of");
    uint8_t bank;

    fault->line = rmg_fault_bit(r, map, "line");
    if (!lane)
        return;
    bank = rmg_board_bank(r->board, rmg_yaml_text(lane));
    if (bank == RMG_NO_BANK) {
        rmg_yaml_wrong(r->file, lane, "lane-of", "the board %s has no bank \"%s\"", r->board->name,
                       rmg_yaml_text(lane));
        return;
    }
    fault->cell = r->board->bank_wheres[bank].mask;
    fault->lines = r->board->bank_wheres[bank].match;
}

/* A pin by number or by name ("A3"): every address line of the part at that pin. */
static rmg_addr lines_at_pin(fault_reader *r, const ynode *map, const rmg_part *part)
{
    const ynode *node = rmg_yaml_need(r->file, map, "pin");
    rmg_addr lines = 0;
    uint64_t pin = 0;

    if (!node)
        return 0;
    if (!rmg_number_parse(rmg_yaml_text(node), &pin))
        pin = rmg_part_pin(part, rmg_yaml_text(node));
    for (uint8_t i = 0; pin && i < part->address_lines; i++)
        if (rmg_part_address_pin(part, i) == pin)
            lines |= (rmg_addr)1 << i;
    if (!lines)
        rmg_yaml_wrong(r->file, node, "pin", "found \"%s\", expected an address pin of a %s",
                       rmg_yaml_text(node), part->number);
    return lines;
}

static void read_address_pin(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->lines = lines_at_pin(r, map, rmg_fault_part(r, fault->chip));
}

/* One bus line of a bank; or the multiplexed line that leads to one address pin of its chips. */
static void read_bank_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_need(r->file, map, "bank");
    const ynode *line = rmg_yaml_get(r->file, map, "line");
    char stem[4];
    uint64_t n;

    if (!node)
        return;
    fault->bank = rmg_board_bank(r->board, rmg_yaml_text(node));
    if (fault->bank == RMG_NO_BANK) {
        rmg_yaml_wrong(r->file, node, "bank", "the board %s has no bank \"%s\"", r->board->name,
                       rmg_yaml_text(node));
        fault->bank = 0;
    } else if (!line) {
        const rmg_addr cell_lines = lines_at_pin(r, map, r->board->banks[fault->bank].part);

        for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
            const rmg_rule *rule = &r->board->placement.rules[i];

            for (uint8_t k = 0; rule->bank == fault->bank && k < rule->address_lines; k++)
                if ((cell_lines >> k) & 1u && rule->address_bits[k] < RMG_ADDR_BITS)
                    fault->lines |= (rmg_addr)1 << rule->address_bits[k];
        }
    } else if (!rmg_designator_parse(rmg_yaml_text(line), stem, sizeof stem, &n) ||
               strcmp(stem, "A") != 0 || n < r->board->byte_shift ||
               n >= (uint64_t)r->board->address_bits + r->board->byte_shift) {
        rmg_yaml_wrong(r->file, line, "line",
                       "found \"%s\", expected an address line from A%u to A%u",
                       rmg_yaml_text(line), r->board->byte_shift,
                       r->board->address_bits + r->board->byte_shift - 1u);
    } else {
        fault->lines = (rmg_addr)1 << (n - r->board->byte_shift);
    }
}

static const fault_form forms[] = {
    {"cell stuck",
     RMG_FAULT_CELL,
     {"kind", "socket", "bit", "cell", "address", "level"},
     false,
     rmg_fault_read_cell},
    {"row stuck", RMG_FAULT_ROW, {"kind", "socket", "bit", "row", "level"}, false, read_row},
    {"column stuck",
     RMG_FAULT_COLUMN,
     {"kind", "socket", "bit", "column", "level"},
     false,
     read_row},
    {"output stuck", RMG_FAULT_OUTPUT, {"kind", "socket", "bit", "level"}, false, read_output},
    {"data pin open", RMG_FAULT_DATA_OPEN, {"kind", "socket", "bit"}, true, read_output},
    {"data input open", RMG_FAULT_INPUT_OPEN, {"kind", "socket", "floats"}, true, read_input},
    {"chip missing", RMG_FAULT_MISSING, {"kind", "socket"}, true, read_chip},
    {"data line stuck",
     RMG_FAULT_DATA_LINE,
     {"kind", "line", "lane-of", "level"},
     false,
     read_bus_bit},
    {"address pin stuck",
     RMG_FAULT_ADDRESS_CHIP,
     {"kind", "socket", "pin", "level"},
     false,
     read_address_pin},
    {RMG_ADDRESS_PIN_OPEN,
     RMG_FAULT_ADDRESS_CHIP,
     {"kind", "socket", "pin", "floats"},
     true,
     read_address_pin},
    {"address line stuck",
     RMG_FAULT_ADDRESS_BANK,
     {"kind", "bank", "line", "pin", "level"},
     false,
     read_bank_line},
    {"address line open",
     RMG_FAULT_ADDRESS_BANK,
     {"kind", "bank", "line", "pin", "floats"},
     true,
     read_bank_line},
    {"line stuck",
     RMG_FAULT_LINE_STUCK,
     {"kind", "line", "socket", "bank", "beyond", "level"},
     false,
     rmg_fault_read_line},
    {"line open",
     RMG_FAULT_LINE_OPEN,
     {"kind", "line", "socket", "bank", "beyond", "floats"},
     true,
     rmg_fault_read_line},
    {"lines touch",
     RMG_FAULT_DATA_SHORT,
     {"kind", "line", "with", "socket", "bank", "beyond", "wins"},
     true,
     rmg_fault_read_touch},
    {"never written", RMG_FAULT_NO_WRITE, {"kind", "socket", "bank"}, true, rmg_fault_read_chips},
    {"never selected",
     RMG_FAULT_DESELECTED,
     {"kind", "socket", "bank"},
     true,
     rmg_fault_read_chips},
    {"also selected",
     RMG_FAULT_ALSO_SELECTED,
     {"kind", "bank", "where"},
     true,
     rmg_fault_read_also_selected},
    {"always on", RMG_FAULT_ALWAYS_ON, {"kind", "socket"}, true, rmg_fault_read_chips},
    {"smaller part",
     RMG_FAULT_ADDRESS_CHIP,
     {"kind", "socket", "address-lines", "floats"},
     true,
     rmg_fault_read_smaller},
#define VICTIM  "kind", "socket", "bit", "cell", "address", "level"
#define COUPLED VICTIM, "by-cell", "by-bit"
    {"transition", RMG_FAULT_TRANSITION, {COUPLED, "while"}, false, rmg_fault_read_coupled},
    {"write destructive", RMG_FAULT_WRITE_FLIPS, {COUPLED, "while"}, false, rmg_fault_read_coupled},
    {"read destructive", RMG_FAULT_READ_FLIPS, {COUPLED, "while"}, false, rmg_fault_read_coupled},
    {"deceptive read destructive",
     RMG_FAULT_READ_FLIPS_AFTER,
     {COUPLED, "while"},
     false,
     rmg_fault_read_coupled},
    {"incorrect read", RMG_FAULT_READ_WRONG, {COUPLED, "while"}, false, rmg_fault_read_coupled},
    {"inversion coupling",
     RMG_FAULT_COUPLING_INVERTS,
     {"kind", "socket", "bit", "cell", "address", "by-cell", "by-bit", "change-to"},
     true,
     rmg_fault_read_coupled},
    {"idempotent coupling",
     RMG_FAULT_COUPLING_SETS,
     {COUPLED, "change-to"},
     false,
     rmg_fault_read_coupled},
    {"state coupling", RMG_FAULT_COUPLING_HOLDS, {COUPLED, "while"}, false, rmg_fault_read_coupled},
    {"disturb coupling",
     RMG_FAULT_COUPLING_FLIPS,
     {COUPLED, "operation"},
     false,
     rmg_fault_read_coupled},
    {"wrong cells",
     RMG_FAULT_ADDRESS_CELLS,
     {"kind", "socket", "cell", "other", "reaches", "reads"},
     true,
     rmg_fault_read_wrong_cells},
    {"retention", RMG_FAULT_RETENTION, {VICTIM, "after-us"}, false, rmg_fault_read_retention},
    {"refresh",
     RMG_FAULT_REFRESH,
     {"kind", "socket", "bank", "rows", "every-us"},
     true,
     rmg_fault_read_refresh},
    {"row disturb", RMG_FAULT_DISTURB, {VICTIM, "row", "accesses"}, false, rmg_fault_read_disturb},
    {"late output", RMG_FAULT_LATE, {"kind", "socket", "access-ns"}, true, rmg_fault_read_late},
    {"noise", RMG_FAULT_NOISE, {"kind", "line"}, true, rmg_fault_read_noise},
    {"fading bits",
     RMG_FAULT_WEAK,
     {"kind", "socket", "bit", "one-cell-in", "level"},
     true,
     rmg_fault_read_weak},
    {"lines swapped",
     RMG_FAULT_DATA_SWAP,
     {"kind", "line", "with", "socket", "bank", "beyond"},
     true,
     rmg_fault_read_touch},
    {RMG_WRONG_HALF,
     RMG_FAULT_ADDRESS_CHIP,
     {"kind", "socket", "pin", "level"},
     false,
     read_address_pin},
    {"wrong image", RMG_FAULT_MISSING, {"kind", "socket", "image"}, true, rmg_fault_read_image},
};
static const char *const root_keys[] = {"faults", "world-seed", "warms-up", NULL};
static const char *const when_keys[] = {"one-in", "from-c", "below-mv", "from-mv", "from-hz"};

/* When the fault is there at all: keys that every kind takes. */
static void read_when(fault_reader *r, const ynode *map, rmg_sim_when *when)
{
    const uint64_t one_in = rmg_yaml_number(r->file, map, "one-in", 1, 1000000000, 1);

    if (one_in > 1)
        when->rate_ppb = (uint32_t)((1000000000u + one_in / 2u) / one_in);
    when->warm = rmg_yaml_get(r->file, map, "from-c") != NULL;
    when->from_millic = 1000 * (int32_t)rmg_yaml_number(r->file, map, "from-c", 0, 150, 0);
    when->below_mv = (int32_t)rmg_yaml_number(r->file, map, "below-mv", 1, 20000, 0);
    when->from_mv = (int32_t)rmg_yaml_number(r->file, map, "from-mv", 1, 20000, 0);
    when->from_hz = (int32_t)rmg_yaml_number(r->file, map, "from-hz", 1, 1000000000, 0);
}

/* The kind's own keys and those of every kind. */
static bool has_keys_of(fault_reader *r, const ynode *map, const fault_form *form)
{
    const char *keys[G_N_ELEMENTS(form->keys) + G_N_ELEMENTS(when_keys) + 1] = {NULL};
    size_t count = 0;

    while (count < G_N_ELEMENTS(form->keys) && form->keys[count]) {
        keys[count] = form->keys[count];
        count++;
    }
    memcpy(&keys[count], when_keys, sizeof when_keys);
    return rmg_yaml_is_map(r->file, map, form->word, keys);
}

static void read_fault(fault_reader *r, const ynode *item, GArray *list, GArray *in_chips)
{
    bool in_chip;
    const char *words[G_N_ELEMENTS(forms) + 1] = {NULL};
    const fault_form *form = NULL;
    rmg_sim_fault fault;
    unsigned choice;

    memset(&fault, 0, sizeof fault);
    for (size_t i = 0; i < G_N_ELEMENTS(forms); i++)
        words[i] = forms[i].word;
    if (item->type != YAML_MAPPING_NODE) {
        rmg_yaml_wrong(r->file, item, NULL,
                       "expected a fault with keys and values (\"kind: ...\")");
        return;
    }
    choice = rmg_yaml_choice(r->file, item, "kind", words, -1);
    form = &forms[choice];
    if (strcmp(form->word, rmg_yaml_text(rmg_yaml_get(r->file, item, "kind"))) != 0 ||
        !has_keys_of(r, item, form))
        return;
    fault.kind = form->kind;
    read_level(r, item, form->open, &fault);
    r->image = false;
    read_when(r, item, &fault.when);
    form->read(r, item, &fault);
    if (r->image)
        return;
    in_chip = rmg_fault_in_chip(&fault, form->word);
    g_array_append_val(list, fault);
    g_array_append_val(in_chips, in_chip);
}

static void read_warming(fault_reader *r, const ynode *root, rmg_faults *faults)
{
    static const char *const keys[] = {"from-c", "to-c", "minutes", NULL};
    const ynode *map = rmg_yaml_get(r->file, root, "warms-up");

    faults->from_c = faults->to_c = 25;
    if (!map || !rmg_yaml_is_map(r->file, map, "warms-up", keys))
        return;
    faults->from_c = (int)rmg_yaml_number(r->file, map, "from-c", 0, 150, -1);
    faults->to_c = (int)rmg_yaml_number(r->file, map, "to-c", 0, 150, -1);
    faults->warm_minutes = (unsigned)rmg_yaml_number(r->file, map, "minutes", 0, 1440, -1);
}

rmg_status rmg_faults_load(const char *name, const rmg_board *board, rmg_faults *faults,
                           rmg_mistakes *mistakes)
{
    GPtrArray *notes = g_ptr_array_new_with_free_func(g_free);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_sim_fault));
    GArray *in_chips = g_array_new(FALSE, TRUE, sizeof(bool));
    yaml_file file;
    rmg_status status = rmg_yaml_open(&file, name, notes);

    memset(faults, 0, sizeof *faults);
    faults->images = g_new0(char *, board->socket_count + 1);
    faults->image_count = board->socket_count;
    if (status == RMG_OK &&
        rmg_yaml_is_map(&file, rmg_yaml_root(&file), "a fault file", root_keys)) {
        fault_reader r = {.board = board, .file = &file, .images = faults->images};
        ynode *root = rmg_yaml_root(&file);
        ynode *items = rmg_yaml_list(&file, root, "faults", true);
        ynode *item;

        faults->world_seed = rmg_yaml_number(&file, root, "world-seed", 0, UINT64_MAX, 1);
        for (size_t i = 0; (item = rmg_yaml_item(&file, items, i)) != NULL; i++) {
            if (i == MOST_FAULTS) {
                rmg_yaml_wrong(&file, item, "faults", "more than %u faults", MOST_FAULTS);
                break;
            }
            read_fault(&r, item, list, in_chips);
        }
        read_warming(&r, root, faults);
    }
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    if (status == RMG_OK) {
        faults->count = list->len;
        faults->list = (rmg_sim_fault *)(void *)g_array_free(list, FALSE);
        faults->in_chip = (bool *)(void *)g_array_free(in_chips, FALSE);
    } else {
        g_array_free(list, TRUE);
        g_array_free(in_chips, TRUE);
        rmg_faults_free(faults);
    }
    rmg_yaml_close(&file);
    rmg_mistakes_take(notes, mistakes);
    return status;
}

void rmg_faults_free(rmg_faults *faults)
{
    for (size_t i = 0; i < faults->image_count; i++)
        g_free(faults->images[i]);
    g_free(faults->images);
    g_free(faults->list);
    g_free(faults->in_chip);
    memset(faults, 0, sizeof *faults);
}
