/* Which rule a line is for, and where its parts lie. */
#include <string.h>

#include "internal.h"

static bool holds(const char *text, size_t length, const char *what)
{
    return !*what || g_strstr_len(text, (gssize)length, what);
}

static void trim(line_part *part)
{
    while (part->length && part->text[0] == ' ') {
        part->text++;
        part->length--;
    }
    while (part->length && part->text[part->length - 1u] == ' ')
        part->length--;
}

/* Columns: a line that has all of them, none empty. */
static bool match_columns(const line_rule *rule, const char *text, size_t length,
                          line_part parts[FIELD_KINDS])
{
    for (unsigned f = 0; f < FIELD_KINDS; f++) {
        if (!rule->from[f])
            continue;
        if (length < rule->from[f])
            return false;
        parts[f].text = text + rule->from[f] - 1u;
        parts[f].length = MIN(rule->to[f], length) - rule->from[f] + 1u;
        trim(&parts[f]);
        if (!parts[f].length)
            return false;
    }
    return true;
}

/* `gave_up`: it reached the limit of steps before it was known whether it matches. */
static bool match_regex(const line_rule *rule, const char *text, size_t length,
                        line_part parts[FIELD_KINDS], bool *gave_up)
{
    GMatchInfo *info = NULL;
    GError *limit = NULL;
    const bool matches = g_regex_match_full(rule->regex, text, (gssize)length, 0,
                                            (GRegexMatchFlags)0, &info, &limit);

    *gave_up = limit != NULL;
    g_clear_error(&limit);

    for (unsigned f = 0; matches && f < FIELD_KINDS; f++) {
        gint from, to;

        if (rule->group[f] >= 0 && g_match_info_fetch_pos(info, rule->group[f], &from, &to) &&
            from >= 0 && to > from)
            parts[f] = (line_part){text + from, (size_t)(to - from)};
    }
    g_match_info_free(info);
    return matches;
}

const line_rule *rmg_line_match(const rmg_profile *p, const char *text, size_t length,
                                line_part parts[FIELD_KINDS], bool *gave_up)
{
    *gave_up = false;
    for (size_t i = 0; i < p->rule_count; i++) {
        const line_rule *rule = &p->rules[i];
        const size_t prefix = strlen(rule->prefix), starts = strlen(rule->starts);

        if (length < prefix || memcmp(text, rule->prefix, prefix) != 0 || length < starts ||
            memcmp(text, rule->starts, starts) != 0 || !holds(text, length, rule->contains))
            continue;
        memset(parts, 0, FIELD_KINDS * sizeof *parts);
        if (rule->regex ? match_regex(rule, text, length, parts, gave_up)
                        : match_columns(rule, text, length, parts))
            return rule;
        if (*gave_up)
            return rule;
    }
    return NULL;
}
