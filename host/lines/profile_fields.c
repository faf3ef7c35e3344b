/* How the numbers of a profile's lines are written. */
#include <string.h>

#include "internal.h"

uint8_t rmg_profile_bank(yaml_file *file, const ynode *map, const rmg_board *board)
{
    const ynode *node = rmg_yaml_get(file, map, "bank");
    const uint8_t bank = node ? rmg_board_bank(board, rmg_yaml_text(node)) : RMG_NO_BANK;

    if (node && bank == RMG_NO_BANK) {
        char *hint = rmg_board_name_hint(board, rmg_yaml_text(node), RMG_NAMES_BANKS);

        rmg_yaml_wrong(file, node, "bank", "the board has no bank \"%s\"%s", rmg_yaml_text(node),
                       hint);
        rmg_text_free(hint);
    }
    return bank;
}

uint16_t rmg_profile_socket(yaml_file *file, const ynode *node, const rmg_board *board)
{
    const uint16_t socket = node ? rmg_board_socket(board, rmg_yaml_text(node)) : RMG_NO_SOCKET;

    if (node && socket == RMG_NO_SOCKET) {
        char *hint = rmg_board_name_hint(board, rmg_yaml_text(node), RMG_NAMES_SOCKETS);

        rmg_yaml_wrong(file, node, "socket", "the board has no \"%s\"%s", rmg_yaml_text(node),
                       hint);
        rmg_text_free(hint);
    }
    return socket;
}

/* "hex" and the like, or the digits themselves, the one for 0 first. */
static void read_digits(yaml_file *file, const ynode *map, field_form *form)
{
    static const char *const names[] = {"hex", "decimal", "octal", "binary"};
    static const char *const digits[] = {"0123456789ABCDEF", "0123456789", "01234567", "01"};
    gchar *text = rmg_yaml_string(file, map, "digits", "");
    bool good = strlen(text) >= 2 && strlen(text) <= 64;

    for (size_t i = 0; i < G_N_ELEMENTS(names); i++)
        if (strcmp(text, names[i]) == 0) {
            rmg_form_digits(form, digits[i]);
            g_free(text);
            return;
        }
    for (const char *c = text; *c; c++)
        good &= g_ascii_isgraph(*c) && !strchr(c + 1, *c);
    if (*text && good)
        rmg_form_digits(form, text);
    else if (*text)
        rmg_yaml_wrong(file, rmg_yaml_get(file, map, "digits"), "digits",
                       "found \"%s\", expected hex, decimal, octal, binary, or 2 to 64 different "
                       "characters, the digit for 0 first",
                       text);
    g_free(text);
}

/* Bits by number, or one character a bit. */
static void read_bits(yaml_file *file, const ynode *map, field_form *form)
{
    static const char *const yes_no[] = {"no", "yes", "false", "true", NULL};
    gchar *mark = rmg_yaml_string(file, map, "marks", "");

    form->bits_from = (unsigned)rmg_yaml_number(file, map, "from", 0, 1, 0);
    form->highest_first = rmg_yaml_choice(file, map, "highest-first", yes_no, 0) & 1u;
    if (strlen(mark) > 1)
        rmg_yaml_wrong(file, rmg_yaml_get(file, map, "marks"), "marks",
                       "found \"%s\", expected the one character that marks a bad bit", mark);
    form->mark = mark[0];
    g_free(mark);
}

static void read_form(yaml_file *file, const ynode *map, field_kind field, const rmg_board *board,
                      field_form *form)
{
    static const char *const keys[] = {"digits", "times", "add", "size", "within", NULL};
    static const char *const bits_keys[] = {"from", "highest-first", "marks", NULL};
    static const char *const name_keys[] = {NULL};
    const ynode *within;

    if (field == FIELD_BANK || field == FIELD_GROUP || field == FIELD_CHIP) {
        rmg_yaml_is_map(file, map, "a name", name_keys);
        return;
    }
    if (!rmg_yaml_is_map(file, map, field == FIELD_BITS ? "bits" : "a number",
                         field == FIELD_BITS ? bits_keys : keys))
        return;
    form->set = true;
    if (field == FIELD_BITS) {
        read_bits(file, map, form);
        return;
    }
    read_digits(file, map, form);
    form->times = rmg_yaml_number(file, map, "times", 1, UINT64_C(1) << 40, 1);
    form->add = rmg_yaml_number(file, map, "add", 0, UINT64_C(1) << 48, 0);
    form->size = rmg_yaml_number(file, map, "size", 1, UINT64_C(1) << 48, 0);
    within = rmg_yaml_get(file, map, "within");
    if (within) {
        form->bank = rmg_board_bank(board, rmg_yaml_text(within));
        if (form->bank == RMG_NO_BANK) {
            char *hint = rmg_board_name_hint(board, rmg_yaml_text(within), RMG_NAMES_BANKS);

            rmg_yaml_wrong(file, within, "within", "the board has no bank \"%s\"%s",
                           rmg_yaml_text(within), hint);
            rmg_text_free(hint);
        }
    }
}

void rmg_forms_read(yaml_file *file, const ynode *map, const rmg_board *board, field_form *forms)
{
    for (unsigned f = 0; f < FIELD_KINDS; f++) {
        const ynode *node = rmg_yaml_get(file, map, rmg_field_names[f]);

        /* of a rule, "bank: upper" names the bank itself */
        if (node && (node->type == YAML_MAPPING_NODE ||
                     (f != FIELD_BANK && f != FIELD_GROUP && f != FIELD_CHIP)))
            read_form(file, node, (field_kind)f, board, &forms[f]);
    }
}
