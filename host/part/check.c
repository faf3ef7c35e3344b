/* Rules that every pinout keeps. */
#include "table.h"

#include <stdarg.h>
#include <stdio.h>
#include <string.h>

static bool wrong(char *why, const char *format, ...)
{
    va_list args;

    va_start(args, format);
    vsnprintf(why, RMG_PART_WHY, format, args);
    va_end(args);
    return false;
}

/* May a name stand at two pins? Unconnected pins and supplies may. */
static bool repeats(rmg_pin_role role)
{
    return role == RMG_PIN_NONE || role == RMG_PIN_SUPPLY;
}

/* By what its name says, the voltage of a supply pin: VCC +5, VSS 0, VBB -5, VDD +12. */
static bool voltage_of(const char *name, int *millivolts)
{
    static const struct {
        const char *name;
        int millivolts;
    } rows[] = {{"VCC", 5000}, {"VSS", 0}, {"VBB", -5000}, {"VDD", 12000}};

    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++)
        if (strcmp(rows[i].name, name) == 0) {
            *millivolts = rows[i].millivolts;
            return true;
        }
    return false;
}

static bool check_pin(const rmg_part *part, uint8_t pin, char *why)
{
    char name[RMG_PIN_NAME];
    int given, meant;
    const rmg_pin_role role = rmg_part_role(part, pin, NULL, NULL, &given);

    rmg_part_pin_name(part, pin, name);
    if (voltage_of(name, &meant) != (role == RMG_PIN_SUPPLY) ||
        (role == RMG_PIN_SUPPLY && given != meant))
        return wrong(why, "pin %u is %s; its supplies say: %s", pin, name, part->supplies);
    if (role == RMG_PIN_OTHER)
        return wrong(why, "nobody knows what pin %u, %s, does", pin, name);
    if (!repeats(role) && rmg_part_pin(part, name) != pin)
        return wrong(why, "pins %u and %u are both %s", rmg_part_pin(part, name), pin, name);
    return true;
}

static unsigned count_role(const rmg_part *part, rmg_pin_role role)
{
    unsigned count = 0;

    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++)
        count += rmg_part_role(part, pin, NULL, NULL, NULL) == role;
    return count;
}

/* Each line has its pin, and no address or data pin is left over. */
static bool check_lines(const rmg_part *part, char *why)
{
    uint64_t addresses = 0, data = 0;
    unsigned distinct = 0;

    for (uint8_t i = 0; i < part->address_lines; i++) {
        const uint8_t pin = rmg_part_address_pin(part, i);

        if (!pin)
            return wrong(why, "address line %u has no pin", i);
        distinct += !(addresses >> pin & 1u);
        addresses |= (uint64_t)1 << pin;
    }
    for (uint8_t i = 0; i < part->width; i++) {
        uint8_t in, out;

        rmg_part_data_pins(part, i, &in, &out);
        if (!in || !out)
            return wrong(why, "data line %u has no pin", i);
        if ((data >> in & 1u) || (data >> out & 1u))
            return wrong(why, "two data lines share a pin");
        data |= (uint64_t)1 << in | (uint64_t)1 << out;
    }
    /* of a chip with one good half a pin more is there: it chooses the half */
    if (!part->half_of && count_role(part, RMG_PIN_ADDRESS) != distinct)
        return wrong(why, "%u address pins for %u lines", count_role(part, RMG_PIN_ADDRESS),
                     part->address_lines);
    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++)
        if (rmg_part_role(part, pin, NULL, NULL, NULL) == RMG_PIN_DATA && !(data >> pin & 1u))
            return wrong(why, "pin %u is a data line too many", pin);
    return true;
}

bool rmg_part_check(const rmg_part *part, char why[RMG_PART_WHY])
{
    const unsigned pins = rmg_part_pin_count(part);
    bool plus = false, zero = false;

    if (pins % 2 || pins < 14)
        return wrong(why, "%u pins", pins);
    for (uint8_t pin = 1; pin <= pins; pin++) {
        int millivolts;

        if (!check_pin(part, pin, why))
            return false;
        if (rmg_part_role(part, pin, NULL, NULL, &millivolts) == RMG_PIN_SUPPLY) {
            plus |= millivolts == 5000;
            zero |= millivolts == 0;
        }
    }
    if (!plus || !zero)
        return wrong(why, "no pin for %s", plus ? "0 V" : "+5 V");
    if (part->kind != RMG_PART_ROM && count_role(part, RMG_PIN_WRITE) != 1)
        return wrong(why, "no write pin");
    if (part->kind == RMG_PART_DRAM) {
        if (count_role(part, RMG_PIN_ROW) != 1 || count_role(part, RMG_PIN_COLUMN) != 1)
            return wrong(why, "RAS and CAS were expected");
        if (!part->refresh_cycles || !part->refresh_ms || !part->row_lines)
            return wrong(why, "rows and refresh of a DRAM were expected");
    } else if (count_role(part, RMG_PIN_SELECT) == 0) {
        return wrong(why, "no select");
    }
    return check_lines(part, why);
}

/* Drawing libraries that have the part: tests/whole/pinouts.py holds the table to them. */
static const char *const checked[][2] = {
#define CHECKED(number, symbol) {number, symbol},
#include "checked.h"
#undef CHECKED
};

const char *rmg_part_checked(const rmg_part *part)
{
    for (size_t i = 0; i < sizeof checked / sizeof *checked; i++)
        if (strcmp(checked[i][0], part->number) == 0)
            return checked[i][1];
    return NULL;
}
