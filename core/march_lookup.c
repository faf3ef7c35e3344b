/* Finding a march by the name the literature gives it. */
#include "rimeglass/march.h"

const rmg_march_name rmg_march_names[] = {
    {"MATS+", rmg_march_mats_plus},
    {"March C-", rmg_march_c_minus},
};
const uint8_t rmg_march_name_count = (uint8_t)(sizeof rmg_march_names / sizeof *rmg_march_names);

static char lower(char c)
{
    return c >= 'A' && c <= 'Z' ? (char)(c + ('a' - 'A')) : c;
}

static bool same_name(const char *a, const char *b)
{
    while (*a && lower(*a) == lower(*b))
        a++, b++;
    return !*a && !*b;
}

const uint8_t *rmg_march_by_name(const char *name)
{
    for (uint8_t i = 0; name && i < rmg_march_name_count; i++)
        if (same_name(rmg_march_names[i].name, name))
            return rmg_march_names[i].code;
    return NULL;
}
