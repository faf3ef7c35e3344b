/* Finding a march by the name the literature gives it. */
#include "rimeglass/march.h"

const rmg_march_name rmg_march_names[] = {
    {"MATS", rmg_march_mats},
    {"MATS+", rmg_march_mats_plus},
    {"MATS++", rmg_march_mats_plus_plus},
    {"March X", rmg_march_x},
    {"March Y", rmg_march_y},
    {"March A", rmg_march_a},
    {"March B", rmg_march_b},
    {"March C", rmg_march_c},
    {"March C-", rmg_march_c_minus},
    {"March U", rmg_march_u},
    {"March LR", rmg_march_lr},
    {"March LA", rmg_march_la},
    {"March SR", rmg_march_sr},
    {"March RAW", rmg_march_raw},
    {"March SS", rmg_march_ss},
    {"PMOVI", rmg_march_pmovi},
    {"March G", rmg_march_g},
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
