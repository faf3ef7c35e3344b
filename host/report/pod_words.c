/* Which line of a pod goes to which pin of a part (docs/pod.md). */
#include <glib.h>
#include <string.h>

#include "rimeglass/report.h"

static bool has_apart(const rmg_part *part)
{
    uint8_t in, out;

    rmg_part_data_pins(part, 0, &in, &out);
    return part->kind != RMG_PART_ROM && in != out;
}

const char *rmg_pod_for(const rmg_part *part)
{
    const unsigned columns = (unsigned)part->address_lines - part->row_lines;

    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++) {
        int mv;

        if (rmg_part_role(part, pin, NULL, NULL, &mv) == RMG_PIN_SUPPLY && mv != 0 && mv != 5000 &&
            mv != 12000 && mv != -5000)
            return NULL;
    }
    if (part->kind == RMG_PART_DRAM && part->width == 1 && part->row_lines <= 9 && columns <= 9)
        return "ATmega328P";
    if (part->kind == RMG_PART_DRAM)
        return part->width <= 8 && part->row_lines <= 11 && columns + part->column_from <= 11
                   ? "ATmega2560"
                   : NULL;
    return part->width <= (part->kind == RMG_PART_ROM ? 16u : 8u) && part->address_lines <= 19 &&
                   (!has_apart(part) || part->width <= 4)
               ? "ATmega2560"
               : NULL;
}

/* Lines of the pod for DRAMs of one bit. */
static gchar *narrow_pin(const rmg_part *part, uint8_t pin, rmg_pin_role role, uint8_t line)
{
    char name[RMG_PIN_NAME];

    rmg_part_pin_name(part, pin, name);
    switch (role) {
    case RMG_PIN_ADDRESS:
        return line < 6 ? g_strdup_printf("PC%u", line) : g_strdup_printf("PB%u", line - 6u);
    case RMG_PIN_ROW:
        return g_strdup("PB3");
    case RMG_PIN_COLUMN:
        return g_strdup("PB4");
    case RMG_PIN_WRITE:
        return g_strdup("PB5");
    case RMG_PIN_DATA:
        return g_strdup(name[0] == 'D' ? "PD5" : "PD6, 10 k to +5 V");
    case RMG_PIN_SELECT:
        return g_strdup("0 V");
    default:
        return g_strdup("open");
    }
}

/* A data line of the other pod: inputs that stand beside outputs have lines of their own. */
static gchar *data_pin(const rmg_part *part, uint8_t pin)
{
    uint8_t in, out;

    for (uint8_t i = 0; i < part->width; i++) {
        rmg_part_data_pins(part, i, &in, &out);
        if (out == pin)
            return i < 8    ? g_strdup_printf("PK%u", i)
                   : i < 14 ? g_strdup_printf("PF%u", i - 6u)
                            : g_strdup_printf("PJ%u", i - 14u);
        if (in == pin)
            return g_strdup_printf("PK%u", i + 4u);
    }
    return g_strdup("open");
}

/* The first select of a polarity is the pod's, the others are tied active. */
static const char *select_pin(const rmg_part *part, uint8_t pin, bool high)
{
    uint8_t first = 0;

    for (uint8_t p = 1; p <= rmg_part_pin_count(part) && !first; p++) {
        bool its_high;

        if (rmg_part_role(part, p, NULL, &its_high, NULL) == RMG_PIN_SELECT && !its_high)
            first = p;
    }
    return pin == first && part->kind != RMG_PART_DRAM ? "PB4" : high ? "+5 V rail" : "0 V";
}

/* Lines of the pod for everything else. */
static gchar *wide_pin(const rmg_part *part, uint8_t pin, rmg_pin_role role, uint8_t line,
                       bool high)
{
    switch (role) {
    case RMG_PIN_ADDRESS:
        return line < 8    ? g_strdup_printf("PA%u", line)
               : line < 16 ? g_strdup_printf("PC%u", line - 8u)
                           : g_strdup_printf("PL%u", line - 16u);
    case RMG_PIN_DATA:
        return data_pin(part, pin);
    case RMG_PIN_ROW:
        return g_strdup("PB0");
    case RMG_PIN_COLUMN:
        return g_strdup("PB1");
    case RMG_PIN_WRITE:
        return g_strdup(part->kind == RMG_PART_ROM ? "+5 V rail" : "PB6");
    case RMG_PIN_OUTPUT:
        return g_strdup("PB5");
    case RMG_PIN_SELECT:
        return g_strdup_printf("%s%s", select_pin(part, pin, high),
                               rmg_part_is_masked(part, pin) ? ", if active low" : "");
    case RMG_PIN_PROGRAM: /* of parts with +12 V it burns where it is high */
        return g_strdup(rmg_part_pin(part, "VDD") ? "0 V" : "+5 V rail");
    default:
        return g_strdup("open");
    }
}

char *rmg_pod_pin_text(const rmg_part *part, uint8_t pin)
{
    uint8_t line;
    bool high;
    int mv;
    const rmg_pin_role role = rmg_part_role(part, pin, &line, &high, &mv);
    const char *pod = rmg_pod_for(part);

    if (role == RMG_PIN_SUPPLY)
        return mv ? g_strdup_printf("%+d V rail, 100 nF", mv / 1000) : g_strdup("0 V");
    return pod && strcmp(pod, "ATmega328P") == 0 ? narrow_pin(part, pin, role, line)
                                                 : wide_pin(part, pin, role, line, high);
}
