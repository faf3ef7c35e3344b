/* What march elements by blocks no longer find: computed, as explain does. */
#include <string.h>

#include "rimeglass/coverage.h"
#include "test.h"

/* The march as the words of one block see it: each operation an element of its own. 0: too long. */
static size_t split(const uint8_t *code, uint8_t *to, size_t room)
{
    size_t size = 0;

    for (const uint8_t *at = code; *at;) {
        const uint8_t count = (uint8_t)(*at & ~RMG_ORDER_MASK), order = *at & RMG_ORDER_MASK;
        const uint8_t part = count > 1 && order == RMG_ORDER_EITHER ? RMG_ORDER_UP : order;

        if (size + 2u * count + 2u > room)
            return 0;
        if (!count)
            to[size++] = *at;
        for (uint8_t i = 1; i <= count; i++) {
            to[size++] = (uint8_t)(part | 1u);
            to[size++] = at[i];
        }
        at += count + 1u;
    }
    to[size++] = 0;
    return size;
}

/* "CFid 100 to 50 %" for each class of which less is found between two words of a block. */
static GString *lost(const uint8_t *code)
{
    uint8_t parts[2 * RMG_MARCH_BYTES];
    GString *text = g_string_new(NULL);

    if (!split(code, parts, sizeof parts))
        return text;
    for (unsigned c = 0; c < RMG_CLASS_COUNT; c++) {
        rmg_coverage whole, part;

        if (rmg_march_coverage(code, (rmg_fault_class)c, &whole) == RMG_OK &&
            rmg_march_coverage(parts, (rmg_fault_class)c, &part) == RMG_OK && whole.instances &&
            part.found < whole.found)
            g_string_append_printf(text, "%s%s %.0f to %.0f %%", text->len ? ", " : "",
                                   rmg_fault_class_name((rmg_fault_class)c),
                                   100.0 * whole.found / whole.instances,
                                   100.0 * part.found / part.instances);
    }
    return text;
}

bool use_blocks(const rmg_steps *steps, rmg_opened *target)
{
    if (rmg_target_use_blocks(target) != RMG_OK) {
        wrong_call("test",
                   "--blocks: this target has no blocks, or keeps the order of accesses without");
        return false;
    }
    for (size_t i = 0; i < steps->count; i++) {
        GString *text;
        gchar *before = target->caveat;

        if (!steps->list[i].code[0])
            continue;
        text = lost(steps->list[i].code);
        if (text->len) {
            target->caveat = g_strdup_printf("%s %s, between two words of a block: %s.", before,
                                             steps->list[i].name, text->str);
            g_free(before);
        }
        g_string_free(text, TRUE);
    }
    return true;
}
