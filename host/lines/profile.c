/* Profiles: what another program's lines mean, read from YAML. */
#include <string.h>

#include "internal.h"
#include "rimeglass/march.h"

static void standard_forms(field_form *forms)
{
    for (unsigned f = 0; f < FIELD_KINDS; f++) {
        const bool hex = f == FIELD_ADDRESS || f == FIELD_WROTE || f == FIELD_READ ||
                         f == FIELD_DIFFERS || f == FIELD_CODE || f == FIELD_FIRST ||
                         f == FIELD_LAST;

        memset(&forms[f], 0, sizeof forms[f]);
        rmg_form_digits(&forms[f], hex ? "0123456789ABCDEF" : "0123456789");
        forms[f].times = 1;
        forms[f].bank = RMG_NO_BANK;
    }
}

/* "5 %" */
static double read_share(yaml_file *file, const ynode *root)
{
    const ynode *node = rmg_yaml_get(file, root, "unknown-lines");
    gchar *end = NULL;
    double share;

    if (!node)
        return 0.05;
    share = g_ascii_strtod(rmg_yaml_text(node), &end);
    end += strspn(end, " ");
    if (end == rmg_yaml_text(node) || strcmp(end, "%") != 0 || !(share >= 0 && share <= 100))
        rmg_yaml_wrong(file, node, "unknown-lines", "found \"%s\", expected a share like 5 %%",
                       rmg_yaml_text(node));
    return share / 100;
}

static void read_data(yaml_file *file, const ynode *root, rmg_profile *p)
{
    static const char *const keys[] = {"bits", "bytes", NULL};
    static const char *const orders[] = {"as-written", "swapped", NULL};
    const ynode *data = rmg_yaml_get(file, root, "data");

    p->data_bits = p->board->word_bits;
    if (!data || !rmg_yaml_is_map(file, data, "data", keys))
        return;
    p->data_bits =
        (uint8_t)rmg_yaml_number(file, data, "bits", 1, p->board->word_bits, p->board->word_bits);
    p->bytes_swapped = rmg_yaml_choice(file, data, "bytes", orders, 0) == 1;
    if (p->board->word_bits % p->data_bits)
        rmg_yaml_wrong(file, data, "bits", "found %u, expected a part of the board's %u",
                       p->data_bits, p->board->word_bits);
    if (p->bytes_swapped && p->data_bits % 8u)
        rmg_yaml_wrong(file, data, "bytes", "a word of %u bits has no whole bytes", p->data_bits);
}

static void read_limit(yaml_file *file, const ynode *root, rmg_profile *p)
{
    static const char *const keys[] = {"reports", "per", NULL};
    static const char *const per[] = {"run", "heading", "pass", NULL};
    const ynode *limit = rmg_yaml_get(file, root, "limit");

    if (!limit || !rmg_yaml_is_map(file, limit, "a limit", keys))
        return;
    p->limit = rmg_yaml_number(file, limit, "reports", 1, 1000000000, -1);
    p->limit_per = rmg_yaml_choice(file, limit, "per", per, 0);
}

/* Sockets of a list, in order. */
static GPtrArray *read_chips(yaml_file *file, const ynode *list, const rmg_board *board)
{
    GPtrArray *chips = g_ptr_array_new();
    const ynode *item;

    if (list->type != YAML_SEQUENCE_NODE)
        rmg_yaml_wrong(file, list, "chips", "expected a list of sockets like [U1, U2]");
    for (size_t i = 0; (item = rmg_yaml_item(file, list, i)) != NULL; i++)
        g_ptr_array_add(chips, GUINT_TO_POINTER(rmg_profile_socket(file, item, board)));
    return chips;
}

static void add_alias(GArray *list, const char *name, uint8_t bank, uint16_t socket)
{
    const alias a = {.name = g_strdup(name), .bank = bank, .socket = socket};

    g_array_append_val(list, a);
}

/* {A: upper, B: lower} */
static void read_banks(yaml_file *file, const ynode *root, rmg_profile *p)
{
    const ynode *banks = rmg_yaml_get(file, root, "banks");
    ynode *key, *value;

    if (banks && banks->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(file, banks, "banks", "expected a map like {A: upper, B: lower}");
    for (size_t i = 0; banks && rmg_yaml_pair(file, banks, i, &key, &value); i++) {
        const uint8_t bank = rmg_board_bank(p->board, rmg_yaml_text(value));

        if (bank == RMG_NO_BANK) {
            char *hint = rmg_board_name_hint(p->board, rmg_yaml_text(value), RMG_NAMES_BANKS);

            rmg_yaml_wrong(file, value, "banks", "the board has no bank \"%s\"%s",
                           rmg_yaml_text(value), hint);
            rmg_text_free(hint);
        }
        add_alias(p->banks, rmg_yaml_text(key), bank, RMG_NO_SOCKET);
    }
}

/* [U8, U7] counted from chips-from, or {A: U8} */
static void read_chip_names(yaml_file *file, const ynode *root, rmg_profile *p)
{
    const ynode *chips = rmg_yaml_get(file, root, "chips");
    const unsigned from = (unsigned)rmg_yaml_number(file, root, "chips-from", 0, 1000, 1);
    ynode *key, *value;

    if (chips && chips->type == YAML_SEQUENCE_NODE) {
        GPtrArray *list = read_chips(file, chips, p->board);

        for (guint i = 0; i < list->len; i++) {
            gchar *name = g_strdup_printf("%u", from + i);

            add_alias(p->chips, name, RMG_NO_BANK, (uint16_t)GPOINTER_TO_UINT(list->pdata[i]));
            g_free(name);
        }
        g_ptr_array_free(list, TRUE);
    }
    for (size_t i = 0;
         chips && chips->type == YAML_MAPPING_NODE && rmg_yaml_pair(file, chips, i, &key, &value);
         i++)
        add_alias(p->chips, rmg_yaml_text(key), RMG_NO_BANK,
                  rmg_profile_socket(file, value, p->board));
}

static void read_groups(yaml_file *file, const ynode *root, rmg_profile *p)
{
    static const char *const keys[] = {"bank", "chips",  "chips-from", "address", "page",    "rank",
                                       "lane", "offset", "wrote",      "read",    "differs", "bits",
                                       "code", "count",  "first",      "last",    "size",    NULL};
    const ynode *groups = rmg_yaml_get(file, root, "groups");
    ynode *key, *value;

    if (groups && groups->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(file, groups, "groups", "expected a map like {A: {bank: upper}}");
    for (size_t i = 0; groups && rmg_yaml_pair(file, groups, i, &key, &value); i++) {
        alias a = {
            .name = g_strdup(rmg_yaml_text(key)), .bank = RMG_NO_BANK, .socket = RMG_NO_SOCKET};

        memcpy(a.forms, p->forms, sizeof a.forms);
        for (unsigned f = 0; f < FIELD_KINDS; f++)
            a.forms[f].set = false;
        if (rmg_yaml_is_map(file, value, "a group", keys)) {
            const ynode *chips = rmg_yaml_get(file, value, "chips");

            a.bank = rmg_profile_bank(file, value, p->board);
            a.chips = chips ? read_chips(file, chips, p->board) : NULL;
            a.chips_from = (unsigned)rmg_yaml_number(file, value, "chips-from", 0, 1000, 1);
            rmg_forms_read(file, value, p->board, a.forms);
        }
        g_array_append_val(p->groups, a);
    }
}

/* The test that the lines come from. */
static void read_test(yaml_file *file, const ynode *root, rmg_profile *p)
{
    const ynode *test = rmg_yaml_get(file, root, "test");
    uint8_t code[RMG_MARCH_BYTES];
    const uint8_t *march = NULL;
    const char *text = test ? rmg_yaml_text(test) : "";

    if (!test)
        return;
    march = rmg_march_by_name(text);
    for (uint8_t i = 0; march && i < rmg_march_name_count; i++)
        if (rmg_march_names[i].code == march)
            text = rmg_march_names[i].name;
    if (!march && rmg_march_parse(text, code, sizeof code, NULL) == RMG_OK)
        march = code;
    if (!march || rmg_steps_of_march(text, march, &p->steps) != RMG_OK)
        rmg_yaml_wrong(file, test, "test", "found \"%s\", expected a march by name or in notation",
                       text);
    else
        p->steps_known = true;
}

/* The board's own test ROM: what its lines mean is known. */
static void read_rom(yaml_file *file, const ynode *root, rmg_profile *p)
{
    static const char *const keys[] = {"march", "lines", "load-at", NULL};
    const ynode *rom = rmg_yaml_get(file, root, "test-rom");
    rmg_march_error where;
    rmg_testrom_plan plan;
    rmg_error error;

    if (rmg_yaml_get(file, root, "lines") || rmg_yaml_get(file, root, "test"))
        rmg_yaml_wrong(file, rom, "test-rom",
                       "its lines are known; expected no \"lines\" and no \"test\" beside it");
    if (!p->board->rom.known) {
        rmg_yaml_wrong(file, rom, "test-rom", "%s has no section test-rom", p->board->file);
        return;
    }
    if (!rmg_yaml_is_map(file, rom, "a test ROM", keys))
        return;
    p->how = p->board->rom;
    p->how.lines =
        (uint8_t)rmg_yaml_number(file, rom, "lines", 1, RMG_TESTROM_TOLD, p->board->rom.lines);
    p->how.march_text = rmg_yaml_string(file, rom, "march", p->board->rom.march_text);
    if (!rmg_testrom_march(p->how.march_text, p->how.march, &where))
        rmg_yaml_wrong(file, rmg_yaml_get(file, rom, "march"), "march",
                       "found \"%s\", expected a march by name or in notation", p->how.march_text);
    p->has_pass = p->rom = true;
    p->unknown_most = 0.5; /* what is lost on the way is known by its check */
    rmg_error_none(&error);
    if (rmg_yaml_get(file, rom, "load-at"))
        rmg_dead_load(p->board, &p->how,
                      (uint32_t)rmg_yaml_number(file, rom, "load-at", 0, UINT32_MAX, -1), &error);
    if (!error.what)
        rmg_dead_plan(p->board, &p->how, &plan, NULL, NULL, &error);
    if (error.what)
        rmg_yaml_wrong(file, rom, "test-rom", "%s", error.what);
    rmg_error_free(&error);
}

static void read_profile(yaml_file *file, const ynode *root, rmg_profile *p)
{
    static const char *const keys[] = {
        "profile", "about",      "test",  "data",          "fields", "banks",    "groups",
        "chips",   "chips-from", "limit", "unknown-lines", "lines",  "test-rom", NULL};
    const ynode *fields;

    if (!root || !rmg_yaml_is_map(file, root, "a profile", keys))
        return;
    p->name = rmg_yaml_string(file, root, "profile", NULL);
    fields = rmg_yaml_get(file, root, "fields");
    if (fields && rmg_yaml_is_map(file, fields, "fields", rmg_field_names))
        rmg_forms_read(file, fields, p->board, p->forms);
    p->unknown_most = read_share(file, root);
    if (rmg_yaml_get(file, root, "test-rom")) {
        read_rom(file, root, p);
        return;
    }
    read_data(file, root, p);
    read_limit(file, root, p);
    read_banks(file, root, p);
    read_chip_names(file, root, p);
    read_groups(file, root, p);
    read_test(file, root, p);
    rmg_rules_read(file, root, p);
}

static rmg_status load(yaml_file *file, rmg_status status, GArray *notes, const rmg_board *board,
                       rmg_profile **profile, rmg_errors *errors)
{
    rmg_profile *p = g_new0(rmg_profile, 1);

    p->board = board;
    p->banks = g_array_new(FALSE, FALSE, sizeof(alias));
    p->groups = g_array_new(FALSE, FALSE, sizeof(alias));
    p->chips = g_array_new(FALSE, FALSE, sizeof(alias));
    standard_forms(p->forms);
    if (status == RMG_OK)
        read_profile(file, rmg_yaml_root(file), p);
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    rmg_yaml_close(file);
    rmg_errors_take(notes, errors);
    *profile = p;
    if (status != RMG_OK) {
        rmg_profile_free(p);
        *profile = NULL;
    }
    return status;
}

rmg_status rmg_profile_load(const char *name, const rmg_board *board, rmg_profile **profile,
                            rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    const rmg_status status = rmg_yaml_open(&file, name, notes);

    return load(&file, status, notes, board, profile, errors);
}

rmg_status rmg_profile_load_text(const char *name, const char *text, const rmg_board *board,
                                 rmg_profile **profile, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    const rmg_status status = rmg_yaml_open_text(&file, name, text, notes);

    return load(&file, status, notes, board, profile, errors);
}

static void free_aliases(GArray *list)
{
    for (guint i = 0; i < list->len; i++) {
        g_free(g_array_index(list, alias, i).name);
        if (g_array_index(list, alias, i).chips)
            g_ptr_array_free(g_array_index(list, alias, i).chips, TRUE);
    }
    g_array_free(list, TRUE);
}

void rmg_profile_free(rmg_profile *p)
{
    if (!p)
        return;
    for (size_t i = 0; i < p->rule_count; i++)
        rmg_rule_clear(&p->rules[i]);
    g_free(p->rules);
    free_aliases(p->banks);
    free_aliases(p->groups);
    free_aliases(p->chips);
    rmg_steps_free(&p->steps);
    if (p->rom)
        g_free(p->how.march_text);
    g_free(p->name);
    g_free(p);
}

const char *rmg_profile_name(const rmg_profile *p)
{
    return p->name;
}

const rmg_board_rom *rmg_profile_rom(const rmg_profile *p)
{
    return p->rom ? &p->how : NULL;
}

const rmg_steps *rmg_profile_steps(const rmg_profile *p)
{
    return p->steps_known ? &p->steps : NULL;
}
