/* The fault file to a list of faults for the simulator. */
#include <string.h>

#include "internal.h"

/* A kind of fault as the file names it: by fault_kinds.h, words of kinds and other words for them.
 */
typedef struct fault_form {
    const char *word, *keys;
    rmg_fault_kind kind;
    rmg_fault_takes takes;
    rmg_fault_level level;
    bool in_chip;
} fault_form;

#define KIND(kind, word, keys, takes, level, stages, needs, place, marks, traits, proposed, does)  \
    {word, keys, RMG_FAULT_##kind, takes, level, ((traits)&RMG_TRAIT_IN_CHIP) != 0},
#define WORD(kind, word, keys, takes, level, traits, does)                                         \
    {word, keys, RMG_FAULT_##kind, takes, level, ((traits)&RMG_TRAIT_IN_CHIP) != 0},
static const fault_form forms[] = {RMG_FAULT_TABLE(KIND, WORD)};
#undef KIND
#undef WORD

/* How the keys of a kind are read. */
static void (*const readers[])(fault_reader *r, const ynode *map, rmg_sim_fault *fault) = {
    [RMG_TAKES_CELL] = rmg_fault_read_cell,
    [RMG_TAKES_ROW] = rmg_fault_read_row,
    [RMG_TAKES_COLUMN] = rmg_fault_read_column,
    [RMG_TAKES_OUTPUT] = rmg_fault_read_output,
    [RMG_TAKES_INPUT] = rmg_fault_read_input,
    [RMG_TAKES_CHIP] = rmg_fault_read_chip,
    [RMG_TAKES_DATA_LINE] = rmg_fault_read_data_line,
    [RMG_TAKES_ADDRESS_PIN] = rmg_fault_read_address_pin,
    [RMG_TAKES_BANK_LINE] = rmg_fault_read_bank_line,
    [RMG_TAKES_LINE] = rmg_fault_read_line,
    [RMG_TAKES_TWO_LINES] = rmg_fault_read_touch,
    [RMG_TAKES_NEARBY] = rmg_fault_read_nearby,
    [RMG_TAKES_CHIPS] = rmg_fault_read_chips,
    [RMG_TAKES_TWO_BANKS] = rmg_fault_read_also_selected,
    [RMG_TAKES_SMALLER] = rmg_fault_read_smaller,
    [RMG_TAKES_VALUE] = rmg_fault_read_value,
    [RMG_TAKES_CHANGE] = rmg_fault_read_change,
    [RMG_TAKES_STATE] = rmg_fault_read_state,
    [RMG_TAKES_PATTERN] = rmg_fault_read_pattern,
    [RMG_TAKES_TURN] = rmg_fault_read_turn,
    [RMG_TAKES_OPERATION] = rmg_fault_read_operation,
    [RMG_TAKES_REACHES] = rmg_fault_read_wrong_cells,
    [RMG_TAKES_AFTER] = rmg_fault_read_after,
    [RMG_TAKES_OWN_LINE] = rmg_fault_read_own_line,
    [RMG_TAKES_BIT_LINE] = rmg_fault_read_bit_line,
    [RMG_TAKES_CELL_TIME] = rmg_fault_read_retention,
    [RMG_TAKES_REFRESH] = rmg_fault_read_refresh,
    [RMG_TAKES_BESIDE] = rmg_fault_read_disturb,
    [RMG_TAKES_LATE] = rmg_fault_read_late,
    [RMG_TAKES_NOISE] = rmg_fault_read_noise,
    [RMG_TAKES_DRAWN] = rmg_fault_read_weak,
    [RMG_TAKES_IMAGE] = rmg_fault_read_image,
};
_Static_assert(G_N_ELEMENTS(readers) == RMG_TAKES, "each way of taking keys has its reader");

#define MOST_FAULTS 4096u

static void read_level(fault_reader *r, const ynode *map, rmg_fault_level level,
                       rmg_sim_fault *fault)
{
    if (level == RMG_LEVEL_TOLD)
        fault->level = (uint8_t)rmg_yaml_number(r->file, map, "level", 0, 1, -1);
    else if (level == RMG_LEVEL_FLOATS)
        fault->level = (uint8_t)rmg_yaml_number(r->file, map, "floats", 0, 1, 1);
    else if (level == RMG_LEVEL_WINS)
        fault->level = (uint8_t)rmg_yaml_number(r->file, map, "wins", 0, 1, 0);
}

static const char *const root_keys[] = {"faults", "world-seed", "warms-up",
                                        "clock",  "supply-mv",  NULL};
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
    gchar **own = g_strsplit(form->keys, " ", -1);
    GPtrArray *keys = g_ptr_array_new();
    bool right;

    g_ptr_array_add(keys, (gpointer) "kind");
    for (size_t i = 0; own[i]; i++)
        g_ptr_array_add(keys, own[i]);
    for (size_t i = 0; i < G_N_ELEMENTS(when_keys); i++)
        g_ptr_array_add(keys, (gpointer)when_keys[i]);
    g_ptr_array_add(keys, NULL);
    right = rmg_yaml_is_map(r->file, map, form->word, (const char *const *)keys->pdata);
    g_ptr_array_free(keys, TRUE);
    g_strfreev(own);
    return right;
}

/* The form of that word; NULL where it is none. Notes that. */
static const fault_form *form_of(fault_reader *r, const ynode *item)
{
    const char *words[G_N_ELEMENTS(forms) + 1] = {NULL};
    const fault_form *named[G_N_ELEMENTS(forms)];
    size_t count = 0;
    unsigned choice;

    for (size_t i = 0; i < G_N_ELEMENTS(forms); i++)
        if (forms[i].word) {
            words[count] = forms[i].word;
            named[count++] = &forms[i];
        }
    choice = rmg_yaml_choice(r->file, item, "kind", words, -1);
    if (strcmp(words[choice], rmg_yaml_text(rmg_yaml_get(r->file, item, "kind"))) != 0)
        return NULL;
    return named[choice];
}

static void read_fault(fault_reader *r, const ynode *item, GArray *list, GArray *in_chips)
{
    const fault_form *form;
    rmg_sim_fault fault;

    memset(&fault, 0, sizeof fault);
    if (item->type != YAML_MAPPING_NODE) {
        rmg_yaml_wrong(r->file, item, NULL,
                       "expected a fault with keys and values (\"kind: ...\")");
        return;
    }
    form = form_of(r, item);
    if (!form || !has_keys_of(r, item, form))
        return;
    fault.kind = form->kind;
    read_level(r, item, form->level, &fault);
    r->image = false;
    read_when(r, item, &fault.when);
    readers[form->takes](r, item, &fault);
    if (r->image)
        return;
    g_array_append_val(list, fault);
    g_array_append_val(in_chips, form->in_chip);
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
                           rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
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
        faults->clock_hz = (int32_t)rmg_yaml_number(&file, root, "clock", 1000, 1000000000, 0);
        faults->supply_mv = (int32_t)rmg_yaml_number(&file, root, "supply-mv", 1, 20000, 0);
    }
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    if (status == RMG_OK) {
        faults->count = list->len;
        faults->list = rmg_array_take(list);
        faults->in_chip = rmg_array_take(in_chips);
    } else {
        g_array_free(list, TRUE);
        g_array_free(in_chips, TRUE);
        rmg_faults_free(faults);
    }
    rmg_yaml_close(&file);
    rmg_errors_take(notes, errors);
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
