/* The rules of a profile: which lines they are for, and what those mean. */
#include <string.h>

#include "internal.h"

#define MOST_RULES 200u

/* What every match begins with: the plain characters after "^". */
static char *prefix_of(const char *pattern)
{
    size_t length = 0;

    if (pattern[0] != '^' || strchr(pattern, '|'))
        return g_strdup("");
    pattern++;
    while (pattern[length] && !strchr("\\.[](){}*+?^$", pattern[length]))
        length++;
    if (length && pattern[length] && strchr("*?{", pattern[length]))
        length--; /* it may be missing */
    return g_strndup(pattern, length);
}

static void read_regex(yaml_file *file, const ynode *map, line_rule *rule)
{
    const ynode *node = rmg_yaml_get(file, map, "match");
    GError *problem = NULL;

    if (!node)
        return;
    rule->regex = g_regex_new(rmg_yaml_text(node), G_REGEX_OPTIMIZE | G_REGEX_RAW,
                              (GRegexMatchFlags)0, &problem);
    if (!rule->regex) {
        rmg_yaml_wrong(file, node, "match", "no regular expression: %s", problem->message);
        g_error_free(problem);
        return;
    }
    g_free(rule->prefix);
    rule->prefix = prefix_of(rmg_yaml_text(node));
    for (unsigned f = 0; f < FIELD_KINDS; f++)
        rule->group[f] = g_regex_get_string_number(rule->regex, rmg_field_names[f]);
}

static void read_columns(yaml_file *file, const ynode *map, line_rule *rule)
{
    const ynode *columns = rmg_yaml_get(file, map, "columns");
    ynode *key, *value;

    if (!columns || !rmg_yaml_is_map(file, columns, "columns", rmg_field_names))
        return;
    for (size_t i = 0; rmg_yaml_pair(file, columns, i, &key, &value); i++)
        for (unsigned f = 0; f < FIELD_KINDS; f++) {
            uint64_t from, to;

            if (strcmp(rmg_field_names[f], rmg_yaml_text(key)) != 0)
                continue;
            if (!rmg_range_parse(rmg_yaml_text(value), &from, &to) || !from || to < from ||
                to > RMG_LINE_BYTES)
                rmg_yaml_wrong(file, value, rmg_yaml_text(key),
                               "found \"%s\", expected columns from 1 to %u, like 8-9",
                               rmg_yaml_text(value), RMG_LINE_BYTES);
            else {
                rule->from[f] = (unsigned)from;
                rule->to[f] = (unsigned)to;
            }
        }
}

/* "bit 2" or a value. */
static bool code_key(const char *text, code_row *row)
{
    if (g_str_has_prefix(text, "bit ")) {
        row->whole = false;
        return rmg_number_parse(text + 4, &row->value) && row->value < 64;
    }
    row->whole = true;
    return rmg_number_parse(text, &row->value);
}

static void read_code(yaml_file *file, const ynode *key, const ynode *value, const rmg_board *board,
                      GArray *codes)
{
    static const char *const keys[] = {"bank", "socket", "chip", "bits", NULL};
    code_row row = {.bank = RMG_NO_BANK, .socket = RMG_NO_SOCKET};
    uint64_t from, to;

    if (!code_key(rmg_yaml_text(key), &row))
        rmg_yaml_wrong(file, key, "codes",
                       "found \"%s\", expected \"bit 0\" to \"bit 63\", or a "
                       "number",
                       rmg_yaml_text(key));
    if (strcmp(rmg_yaml_text(value), "good") == 0) {
        row.nothing = true;
    } else if (rmg_yaml_is_map(file, value, "what a code says", keys)) {
        const ynode *bits = rmg_yaml_get(file, value, "bits");

        row.bank = rmg_profile_bank(file, value, board);
        row.socket = rmg_profile_socket(file, rmg_yaml_get(file, value, "socket"), board);
        if (bits &&
            (!rmg_range_parse(rmg_yaml_text(bits) + (*rmg_yaml_text(bits) == 'D'), &from, &to) ||
             to < from || to >= board->word_bits))
            rmg_yaml_wrong(file, bits, "bits", "found \"%s\", expected data bits like D3 or 8-15",
                           rmg_yaml_text(bits));
        else if (bits)
            for (uint64_t b = from; b <= to; b++)
                row.bits |= (rmg_word)1 << b;
        row.has_chip = rmg_yaml_get(file, value, "chip") != NULL;
        row.chip = (unsigned)rmg_yaml_number(file, value, "chip", 0, 1000, 0);
        if (row.bank == RMG_NO_BANK && row.socket == RMG_NO_SOCKET && !row.bits && !row.has_chip)
            rmg_yaml_wrong(file, value, "codes",
                           "expected bank, socket, chip or bits, or \"good\"");
    }
    g_array_append_val(codes, row);
}

static void read_codes(yaml_file *file, const ynode *map, const rmg_board *board, line_rule *rule)
{
    const ynode *codes = rmg_yaml_get(file, map, "codes");
    GArray *list = g_array_new(FALSE, FALSE, sizeof(code_row));
    ynode *key, *value;

    if (codes && codes->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(file, codes, "codes", "expected a map like {bit 0: {bank: left}}");
    for (size_t i = 0; codes && rmg_yaml_pair(file, codes, i, &key, &value); i++)
        read_code(file, key, value, board, list);
    rule->code_count = list->len;
    rule->codes = rmg_array_take(list);
}

static bool has(const line_rule *rule, field_kind field)
{
    return rule->from[field] || rule->group[field] >= 0;
}

/* Does the rule have what a line of its kind must say? */
static void check_rule(yaml_file *file, const ynode *map, const line_rule *rule)
{
    const bool chip = has(rule, FIELD_CHIP) || rule->socket != RMG_NO_SOCKET;
    const bool bits = has(rule, FIELD_BITS) || has(rule, FIELD_DIFFERS) ||
                      (has(rule, FIELD_WROTE) && has(rule, FIELD_READ));
    const char *lacks = NULL;

    if (has(rule, FIELD_WROTE) != has(rule, FIELD_READ))
        lacks = "wrote and read, both or none";
    else if (rule->is == RMG_LINE_FAILURE && !chip && !bits)
        lacks = "wrote and read, differs, bits or chip";
    else if (rule->is == RMG_LINE_STATUS && (!has(rule, FIELD_CODE) || !rule->code_count))
        lacks = "a code, and codes: with what it means";
    else if (rule->is == RMG_LINE_COUNT && (!has(rule, FIELD_COUNT) || (!chip && !bits)))
        lacks = "count, and chip or bits";
    else if (rule->is == RMG_LINE_TESTED && !has(rule, FIELD_LAST) && !has(rule, FIELD_SIZE))
        lacks = "first and last, or size";
    else if (rule->is == RMG_LINE_HEADING && !has(rule, FIELD_GROUP) && !has(rule, FIELD_BANK) &&
             !has(rule, FIELD_ADDRESS) && !has(rule, FIELD_PAGE) && !has(rule, FIELD_RANK) &&
             rule->bank == RMG_NO_BANK)
        lacks = "a group, a bank or an address";
    if (lacks)
        rmg_yaml_wrong(file, map, "is",
                       "a line of this kind needs %s (named groups like "
                       "(?<address>...), or columns)",
                       lacks);
}

static void read_rule(yaml_file *file, const ynode *map, rmg_profile *p, line_rule *rule)
{
    static const char *const kinds[] = {"failure", "status",  "count", "heading", "tested", "pass",
                                        "start",   "summary", "end",   "ignore",  NULL};
    static const rmg_line_is is[] = {
        RMG_LINE_FAILURE, RMG_LINE_STATUS, RMG_LINE_COUNT,   RMG_LINE_HEADING, RMG_LINE_TESTED,
        RMG_LINE_PASS,    RMG_LINE_START,  RMG_LINE_SUMMARY, RMG_LINE_END,     RMG_LINE_IGNORED};
    static const char *const yes_no[] = {"no", "yes", "false", "true", NULL};
    static const char *const keys[] = {
        "match",   "columns", "starts", "contains", "is",    "trusted", "codes", "bank",
        "socket",  "address", "page",   "rank",     "lane",  "offset",  "wrote", "read",
        "differs", "bits",    "code",   "count",    "first", "last",    "size",  NULL};
    const ynode *bank;

    memset(rule, 0, sizeof *rule);
    memset(rule->group, -1, sizeof rule->group);
    rule->prefix = g_strdup("");
    rule->starts = g_strdup("");
    rule->contains = g_strdup("");
    rule->bank = RMG_NO_BANK;
    rule->socket = RMG_NO_SOCKET;
    for (unsigned f = 0; f < FIELD_KINDS; f++)
        rule->forms[f] = p->forms[f];
    if (!rmg_yaml_is_map(file, map, "a rule", keys))
        return;
    g_free(rule->starts);
    g_free(rule->contains);
    rule->starts = rmg_yaml_string(file, map, "starts", "");
    rule->contains = rmg_yaml_string(file, map, "contains", "");
    rule->is = is[rmg_yaml_choice(file, map, "is", kinds, -1)];
    rule->trusted = rmg_yaml_choice(file, map, "trusted", yes_no, 1) & 1u;
    read_regex(file, map, rule);
    read_columns(file, map, rule);
    if (!rmg_yaml_get(file, map, "match") && !rmg_yaml_get(file, map, "columns") &&
        !*rule->starts && !*rule->contains)
        rmg_yaml_wrong(file, map, NULL, "a rule needs match, columns, starts or contains");
    if (rmg_yaml_get(file, map, "match") && rmg_yaml_get(file, map, "columns"))
        rmg_yaml_wrong(file, map, "columns", "give match or columns, not both");
    for (unsigned f = 0; f < FIELD_KINDS; f++)
        rule->forms[f].set = false;
    rmg_forms_read(file, map, p->board, rule->forms);
    bank = rmg_yaml_get(file, map, "bank");
    if (bank && bank->type == YAML_SCALAR_NODE)
        rule->bank = rmg_profile_bank(file, map, p->board);
    rule->socket = rmg_profile_socket(file, rmg_yaml_get(file, map, "socket"), p->board);
    read_codes(file, map, p->board, rule);
    if (rule->regex || rmg_yaml_get(file, map, "columns") || *rule->starts || *rule->contains)
        check_rule(file, map, rule);
    p->has_start |= rule->is == RMG_LINE_START;
    p->has_pass |= rule->is == RMG_LINE_PASS;
    p->has_end |= rule->is == RMG_LINE_END || rule->is == RMG_LINE_SUMMARY;
}

void rmg_rules_read(yaml_file *file, const ynode *root, rmg_profile *p)
{
    const ynode *list = rmg_yaml_list(file, root, "lines", true);
    size_t count = 0;

    while (list && rmg_yaml_item(file, list, count))
        count++;
    if (list && !count)
        rmg_yaml_wrong(file, list, "lines", "expected at least one rule");
    if (count > MOST_RULES) {
        rmg_yaml_wrong(file, list, "lines", "found %zu rules, expected at most %u", count,
                       MOST_RULES);
        return;
    }
    p->rules = g_new0(line_rule, MAX(count, 1));
    p->rule_count = count;
    for (size_t i = 0; i < count; i++)
        read_rule(file, rmg_yaml_item(file, list, i), p, &p->rules[i]);
}

void rmg_rule_clear(line_rule *rule)
{
    if (rule->regex)
        g_regex_unref(rule->regex);
    g_free(rule->prefix);
    g_free(rule->starts);
    g_free(rule->contains);
    g_free(rule->codes);
}
