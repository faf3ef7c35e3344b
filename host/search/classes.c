/* Classes of faults by their names, and marches in notation. */
#include <glib.h>
#include <string.h>

#include "rimeglass/search.h"

/* Names for several at once. */
static bool add_several(const char *word, bool set[RMG_CLASS_COUNT])
{
    static const rmg_fault_class addresses[] = {
        RMG_CLASS_AF_A_AND, RMG_CLASS_AF_A_OR,  RMG_CLASS_AF_B_AND, RMG_CLASS_AF_B_OR,
        RMG_CLASS_AF_C,     RMG_CLASS_AF_D_AND, RMG_CLASS_AF_D_OR};
    const bool one_and_two = g_ascii_strcasecmp(word, "static") == 0;

    if (g_ascii_strcasecmp(word, "AF") == 0) {
        for (size_t i = 0; i < G_N_ELEMENTS(addresses); i++)
            set[addresses[i]] = true;
        return true;
    }
    if (!one_and_two)
        return false;
    set[RMG_CLASS_SAF] = set[RMG_CLASS_TF] = true;
    for (int kind = RMG_CLASS_CFST; kind <= RMG_CLASS_IRF; kind++)
        set[kind] = true;
    return true;
}

static bool add_one(const char *word, bool set[RMG_CLASS_COUNT])
{
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++)
        if (g_ascii_strcasecmp(rmg_fault_class_name((rmg_fault_class)kind), word) == 0)
            return set[kind] = true;
    return false;
}

bool rmg_fault_classes_parse(const char *text, bool set[RMG_CLASS_COUNT], char **word)
{
    gchar **words = g_strsplit(text, ",", -1);
    bool ok = *words != NULL;

    *word = NULL;
    for (size_t i = 0; ok && words[i]; i++) {
        const char *one = g_strstrip(words[i]);

        ok = add_several(one, set) || add_one(one, set);
        if (!ok)
            *word = g_strdup(one);
    }
    g_strfreev(words);
    return ok;
}

char *rmg_march_notation(const uint8_t *code)
{
    static const char *const operations[] = {"r0", "r1", "w0", "w1"};
    GString *text = g_string_new(NULL);

    while (*code) {
        const uint8_t count = *code & (uint8_t)~RMG_ORDER_MASK;
        const uint8_t order = *code & RMG_ORDER_MASK;

        if (text->len)
            g_string_append(text, "; ");
        g_string_append(text, !count                    ? "hold"
                              : order == RMG_ORDER_UP   ? "up("
                              : order == RMG_ORDER_DOWN ? "down("
                                                        : "any(");
        for (uint8_t i = 0; i < count; i++)
            g_string_append_printf(text, "%s%s", i ? "," : "", operations[code[1 + i] & 3u]);
        g_string_append(text, count ? ")" : "");
        code += count + 1u;
    }
    return g_string_free(text, FALSE);
}
