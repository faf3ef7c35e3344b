/* Look-ups in a part: its pins by name, what each does, how fast it is. */
#include "table.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

const rmg_part *rmg_part_at(size_t index)
{
    return &rmg_parts[index];
}

size_t rmg_part_count(void)
{
    return rmg_parts_count;
}

const rmg_part *rmg_part_find(const char *number)
{
    for (size_t i = 0; i < rmg_parts_count; i++)
        if (strcmp(rmg_parts[i].number, number) == 0)
            return &rmg_parts[i];
    return NULL;
}

/* How much of the marking the number is: with a C, LS, S and the like between its second and third
 * figure, as makers have it ("27C256", "62LV256", "28F010"). 0: it is not. */
static size_t is_marked(const char *marking, const char *number)
{
    const char *m = marking;
    size_t at = 0;

    while (*number && *m) {
        if (*m == *number) {
            m++;
            number++;
            at++;
        } else if (at == 2 && ((*m >= 'A' && *m <= 'Z') || (*m >= 'a' && *m <= 'z'))) {
            m++;
        } else {
            return 0;
        }
    }
    /* what follows is no further figure: 2716 is not 271 */
    return *number || (*m >= '0' && *m <= '9') ? 0 : (size_t)(m - marking);
}

/* Other numbers of the same part: pins, organisation and supplies are alike. */
static const char *const others[][2] = {
    {"2117", "4116"},     {"3764", "4164"},     {"6665", "4164"},     {"37256", "41256"},
    {"81256", "41256"},   {"41464", "4464"},    {"421000", "511000"}, {"44256", "514256"},
    {"424256", "514256"}, {"414256", "514256"}, {"4364", "6264"},     {"5565", "6264"},
    {"43256", "62256"},   {"55257", "62256"},   {"431000", "628128"}, {"4016", "6116"},
    {"9128", "6116"},     {"271001", "27010"},  {"272001", "27020"},  {"274001", "27040"},
    {"278001", "27080"},  {"68766", "68764"},   {"74188", "82S23"},   {"74288", "82S123"},
    {"74387", "82S126"},  {"74287", "82S129"},  {"74570", "82S130"},  {"74571", "82S131"},
    {"74573", "82S137"},  {"74471", "82S135"},  {"74472", "82S147"},  {"74474", "82S141"},
};

const rmg_part *rmg_part_marked(const char *marking, const char **suffix)
{
    const rmg_part *best = NULL;
    size_t length = 0;

    for (size_t i = 0; i < sizeof others / sizeof *others; i++) {
        const size_t of = is_marked(marking, others[i][0]);

        if (of > length) {
            length = of;
            best = rmg_part_find(others[i][1]);
        }
    }

    for (size_t i = 0; i < rmg_parts_count; i++) {
        const size_t of = is_marked(marking, rmg_parts[i].number);

        if (of > length) {
            length = of;
            best = &rmg_parts[i];
        }
    }
    *suffix = marking + length;
    return best;
}

uint8_t rmg_part_pin_count(const rmg_part *part)
{
    uint8_t count = 0;

    for (const char *p = part->pins; *p; p += strspn(p, " "), count++)
        p += strcspn(p, " ");
    return count;
}

/* The place of a word in a list of words, from 1, or 0. */
static uint8_t word_at(const char *list, const char *word)
{
    const size_t length = strlen(word);
    uint8_t at = 1;

    for (const char *p = list; p && *p; at++) {
        const size_t size = strcspn(p, " ");

        if (size == length && memcmp(p, word, size) == 0)
            return at;
        p += size;
        p += strspn(p, " ");
    }
    return 0;
}

uint8_t rmg_part_pin(const rmg_part *part, const char *name)
{
    return word_at(part->pins, name);
}

void rmg_part_pin_name(const rmg_part *part, uint8_t pin, char name[RMG_PIN_NAME])
{
    const char *p = part->pins;

    for (uint8_t i = 1; i < pin && *p; i++) {
        p += strcspn(p, " ");
        p += strspn(p, " ");
    }
    snprintf(name, RMG_PIN_NAME, "%.*s", *p ? (int)strcspn(p, " ") : 1, pin && *p ? p : "-");
}

void rmg_part_data_pins(const rmg_part *part, uint8_t line, uint8_t *in, uint8_t *out)
{
    char name[RMG_PIN_NAME];

    if (part->width == 1) {
        *in = rmg_part_pin(part, "D");
        *out = rmg_part_pin(part, "Q");
        return;
    }
    snprintf(name, sizeof name, "DQ%u", line + 1u);
    *in = *out = rmg_part_pin(part, name);
    if (*in)
        return;
    if (part->width == 4) {
        snprintf(name, sizeof name, "Q%u", line + 1u);
        *out = rmg_part_pin(part, name);
        snprintf(name, sizeof name, "D%u", line + 1u);
        *in = rmg_part_pin(part, name);
        if (!*in && part->kind == RMG_PART_ROM)
            *in = *out;
        return;
    }
    snprintf(name, sizeof name, "D%u", line);
    *in = *out = rmg_part_pin(part, name);
}

uint8_t rmg_part_address_pin(const rmg_part *part, uint8_t line)
{
    char name[RMG_PIN_NAME];
    const bool column = part->row_lines && line >= part->row_lines;

    snprintf(name, sizeof name, "A%u",
             column ? (unsigned)(line - part->row_lines + part->column_from) : (unsigned)line);
    return rmg_part_pin(part, name);
}

/* Is pin `pin` in a text like "-5 V pin 1, +5 V pins 1 and 14", and at how many millivolts? */
static bool supplied(const char *supplies, uint8_t pin, int *millivolts)
{
    for (const char *p = supplies; *p;) {
        const size_t length = strcspn(p, ",");
        const char *end = p + length;
        const int volts = (int)strtol(p, NULL, 10);
        const char *digits = memchr(p, 'p', length);

        while (digits && digits < end) {
            if (*digits >= '0' && *digits <= '9') {
                char *after;

                if (strtoul(digits, &after, 10) == pin) {
                    *millivolts = volts * 1000;
                    return true;
                }
                digits = after;
            } else {
                digits++;
            }
        }
        p = end + strspn(end, ", ");
    }
    return false;
}

static bool begins(const char *name, const char *with)
{
    return strncmp(name, with, strlen(with)) == 0;
}

/* The number in a name like "A7", "DQ1", and true; false: the name is another one. */
static bool numbered(const char *name, const char *before, uint8_t *number)
{
    const char *digits = name + strlen(before);
    char *end;

    if (!begins(name, before) || *digits < '0' || *digits > '9')
        return false;
    *number = (uint8_t)strtoul(digits, &end, 10);
    return !*end;
}

rmg_pin_role rmg_part_role(const rmg_part *part, uint8_t pin, uint8_t *line, bool *high,
                           int *millivolts)
{
    char name[RMG_PIN_NAME];
    uint8_t number = 0;
    int supply = 0;
    rmg_pin_role role = RMG_PIN_OTHER;

    rmg_part_pin_name(part, pin, name);
    if (strcmp(name, "-") == 0)
        role = RMG_PIN_NONE;
    else if (supplied(part->supplies, pin, &supply))
        role = RMG_PIN_SUPPLY;
    else if (numbered(name, "A", &number))
        role = RMG_PIN_ADDRESS;
    else if (numbered(name, "DQ", &number) || numbered(name, "D", &number) ||
             numbered(name, "Q", &number) || strcmp(name, "D") == 0 || strcmp(name, "Q") == 0)
        role = RMG_PIN_DATA;
    else if (begins(name, "WE"))
        role = RMG_PIN_WRITE;
    else if (begins(name, "OE"))
        role = RMG_PIN_OUTPUT;
    else if (begins(name, "CAS"))
        role = RMG_PIN_COLUMN;
    else if (begins(name, "RAS"))
        role = RMG_PIN_ROW;
    else if (begins(name, "CE") || begins(name, "CS"))
        role = RMG_PIN_SELECT;
    else if (strcmp(name, "VPP") == 0 || strcmp(name, "PGM") == 0 || strcmp(name, "BYTE") == 0)
        role = RMG_PIN_PROGRAM;
    if (line)
        *line = number;
    if (high)
        *high = word_at(part->high, name) != 0;
    if (millivolts)
        *millivolts = supply;
    return role;
}

bool rmg_part_is_masked(const rmg_part *part, uint8_t pin)
{
    char name[RMG_PIN_NAME];

    rmg_part_pin_name(part, pin, name);
    return word_at(part->masked, name) != 0;
}

unsigned rmg_part_ns(const rmg_part *part, const char *suffix)
{
    unsigned slowest = 0;

    for (const char *p = part->times; p && *p;) {
        const size_t length = strcspn(p, ",");
        const size_t mark = (*p >= '0' && *p <= '9') ? 0 : strcspn(p, " ");
        const unsigned ns = (unsigned)strtoul(p + mark, NULL, 10);

        if (*suffix && mark == strlen(suffix) && memcmp(p, suffix, mark) == 0)
            return ns;
        if (ns > slowest)
            slowest = ns;
        p += length;
        p += strspn(p, ", ");
    }
    return *suffix ? 0 : slowest;
}

const char *rmg_package_text(rmg_package package)
{
    static const char *const texts[] = {
        [RMG_PACKAGE_UNKNOWN] = "",         [RMG_PACKAGE_DIP_300] = "0.3 inch",
        [RMG_PACKAGE_DIP_400] = "0.4 inch", [RMG_PACKAGE_DIP_600] = "0.6 inch",
        [RMG_PACKAGE_SOJ_400] = "SOJ",      [RMG_PACKAGE_MODULE] = "module"};

    return (size_t)package < sizeof texts / sizeof *texts ? texts[package] : "";
}

const char *rmg_rom_sort_text(rmg_rom_sort sort)
{
    static const char *const texts[] = {
        [RMG_ROM_ANY] = "ROM",     [RMG_ROM_MASK] = "mask ROM", [RMG_ROM_FUSED] = "bipolar PROM",
        [RMG_ROM_EPROM] = "EPROM", [RMG_ROM_EEPROM] = "EEPROM", [RMG_ROM_FLASH] = "flash"};

    return (size_t)sort < sizeof texts / sizeof *texts ? texts[sort] : "ROM";
}
