/* Which line of a pod goes to which pin of a part (docs/pod.md). */
#include <glib.h>

#include "rimeglass/report.h"

const char *rmg_pod_for(const rmg_part *part)
{
    bool plus5_alone = true;

    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++) {
        int mv;

        if (rmg_part_role(part, pin, NULL, NULL, &mv) == RMG_PIN_SUPPLY && mv != 0 && mv != 5000)
            plus5_alone = false;
    }
    if (part->kind == RMG_PART_DRAM)
        return part->width == 1 && part->row_lines <= 9 &&
                       part->address_lines - part->row_lines <= 9
                   ? "ATmega328P"
                   : NULL;
    return part->width <= 8 && part->address_lines <= 19 && plus5_alone &&
                   !(part->kind == RMG_PART_SRAM && (part->width == 1 || rmg_part_pin(part, "Q1")))
               ? "ATmega2560"
               : NULL;
}

/* Lines of the pod for DRAMs. */
static gchar *dram_pin(const rmg_part *part, uint8_t pin, rmg_pin_role role, uint8_t line)
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

/* Lines of the pod for SRAMs and ROMs; the first select of a polarity is the pod's, the others are
 * tied active. */
static gchar *fixed_pin(const rmg_part *part, uint8_t pin, rmg_pin_role role, uint8_t line,
                        bool high)
{
    uint8_t in, out, first = 0;

    switch (role) {
    case RMG_PIN_ADDRESS:
        return line < 8    ? g_strdup_printf("PA%u", line)
               : line < 16 ? g_strdup_printf("PC%u", line - 8u)
                           : g_strdup_printf("PL%u", line - 16u);
    case RMG_PIN_DATA:
        for (uint8_t i = 0; i < part->width; i++) {
            rmg_part_data_pins(part, i, &in, &out);
            if (out == pin || in == pin)
                return g_strdup_printf("PK%u", i);
        }
        return g_strdup("open");
    case RMG_PIN_WRITE:
        return g_strdup(part->kind == RMG_PART_ROM ? "+5 V rail" : "PB6");
    case RMG_PIN_OUTPUT:
        return g_strdup("PB5");
    case RMG_PIN_SELECT:
        for (uint8_t p = 1; p <= rmg_part_pin_count(part) && !first; p++) {
            bool its_high;

            if (rmg_part_role(part, p, NULL, &its_high, NULL) == RMG_PIN_SELECT && !its_high)
                first = p;
        }
        return g_strdup_printf("%s%s",
                               pin == first ? "PB4"
                               : high       ? "+5 V rail"
                                            : "0 V",
                               rmg_part_is_masked(part, pin) ? ", if active low" : "");
    case RMG_PIN_PROGRAM:
        return g_strdup("+5 V rail");
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

    if (role == RMG_PIN_SUPPLY)
        return mv ? g_strdup_printf("%+d V rail, 100 nF", mv / 1000) : g_strdup("0 V");
    return part->kind == RMG_PART_DRAM ? dram_pin(part, pin, role, line)
                                       : fixed_pin(part, pin, role, line, high);
}
