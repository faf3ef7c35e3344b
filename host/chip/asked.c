/* What a part asks of a pod, and what a pod's answers say. */
#include <stdlib.h>
#include <string.h>

#include "internal.h"

/* Rails fed through 10 k: what they have with nothing in, and where something draws. */
#define EMPTY_MV    4700u
#define SHORTED_MV  300u
#define REVERSED_MV 1200u
#define RISES_MV    1500u /* more than this between lines low and lines pulled up: they lead there */

bool rmg_pod_number(const char *answer, const char *key, bool second, unsigned *value)
{
    const size_t length = strlen(key);

    for (const char *at = answer; (at = strstr(at, key)) != NULL; at += length) {
        char *end;

        if ((at != answer && at[-1] != ' ') || at[length] != '=')
            continue;
        *value = (unsigned)strtoul(at + length + 1, &end, 16);
        if (second && *end == ',')
            *value = (unsigned)strtoul(end + 1, &end, 16);
        else if (second)
            return false;
        return end > at + length + 1;
    }
    return false;
}

unsigned rmg_pod_rails_of(const rmg_part *part, bool *other)
{
    unsigned rails = 0;

    *other = false;
    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++) {
        int mv;

        if (rmg_part_role(part, pin, NULL, NULL, &mv) != RMG_PIN_SUPPLY || mv == 0)
            continue;
        rails |= mv == 5000 ? POD_PLUS5 : mv == 12000 ? POD_PLUS12 : mv == -5000 ? POD_MINUS5 : 0u;
        *other |= mv != 5000 && mv != 12000 && mv != -5000;
    }
    return rails;
}

bool rmg_pod_apart(const rmg_part *part)
{
    uint8_t in, out;

    rmg_part_data_pins(part, 0, &in, &out);
    return part->kind != RMG_PART_ROM && in != out;
}

void rmg_chip_stopped(rmg_pod *pod, rmg_chip *chip, rmg_status status)
{
    const char *why = rmg_link_why(pod->link);

    chip->state = RMG_CHIP_STOPPED;
    g_strlcpy(chip->why,
              status == RMG_ERR_CANCELLED ? "stopped"
              : *why                      ? why
                                          : rmg_status_text(status),
              sizeof chip->why);
}

bool rmg_pod_felt(rmg_chip *chip, const unsigned *low, const unsigned *pulled, unsigned count)
{
    chip->state = RMG_CHIP_NOTHING;
    for (unsigned i = 0; i < count; i++) {
        chip->rail_mv = low[i];
        if (low[i] < REVERSED_MV && pulled[i] > low[i] + RISES_MV) {
            chip->state = RMG_CHIP_REVERSED;
            return false;
        }
        if (low[i] < SHORTED_MV) {
            chip->state = RMG_CHIP_SHORTED;
            return false;
        }
        if (low[i] < EMPTY_MV)
            chip->state = RMG_CHIP_GOOD; /* something is in */
    }
    return chip->state == RMG_CHIP_GOOD;
}
