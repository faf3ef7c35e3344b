/* --told: conditions that the technician set by hand. */
#include <math.h>
#include <string.h>

#include "test.h"

/* What can be told, in the unit that is typed and the one that a run keeps. */
static const struct {
    const char *name;
    rmg_condition which;
    double times, low, high;
    const char *unit;
} conditions[] = {
    {"clock", RMG_CONDITION_CLOCK_HZ, 1, 1, 2e9, "Hz"},
    {"supply", RMG_CONDITION_SUPPLY_MV, 1, 0, 1e5, "mV"},
    {"temperature", RMG_CONDITION_HEAT_MILLIC, 1000, -273, 1000, "degrees Celsius"},
};

static bool take_one(const char *verb, const char *told, const char *item, int32_t *values)
{
    const char *equals = strchr(item, '=');
    char *end = NULL;

    for (size_t i = 0; equals && i < G_N_ELEMENTS(conditions); i++) {
        const double value = g_ascii_strtod(equals + 1, &end);

        if (strlen(conditions[i].name) != (size_t)(equals - item) ||
            strncmp(conditions[i].name, item, (size_t)(equals - item)) != 0)
            continue;
        if (end == equals + 1 || *end || !(value >= conditions[i].low) ||
            !(value <= conditions[i].high)) {
            wrong_call(verb, "--told %s: found \"%s\", expected %s=N in %s, from %.0f to %.0f",
                       told, item, conditions[i].name, conditions[i].unit, conditions[i].low,
                       conditions[i].high);
            return false;
        }
        values[conditions[i].which] = (int32_t)lround(value * conditions[i].times);
        return true;
    }
    wrong_call(verb,
               "--told %s: found \"%s\", expected clock=HZ, supply=MILLIVOLTS or "
               "temperature=CELSIUS, with commas between them",
               told, item);
    return false;
}

bool told_read(const char *verb, const char *told, int32_t *values)
{
    gchar **items = g_strsplit(told ? told : "", ",", 0);
    bool good = true;

    for (size_t i = 0; i < 4; i++)
        values[i] = RMG_NOT_KNOWN;
    for (size_t i = 0; good && items[i] && (told && *told); i++)
        good = take_one(verb, told, items[i], values);
    if (told && !*told) {
        wrong_call(verb, "--told: expected clock=HZ, supply=MILLIVOLTS or temperature=CELSIUS");
        good = false;
    }
    g_strfreev(items);
    return good;
}

void told_into(const int32_t *values, int32_t *conditions_of_run)
{
    for (size_t i = 0; i < 4; i++)
        if (values[i] != RMG_NOT_KNOWN)
            conditions_of_run[i] = values[i];
}
