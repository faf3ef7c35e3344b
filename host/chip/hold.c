/* A chip that gets its supplies: fitted, felt, powered; and given up again. */
#include <stdlib.h>
#include <string.h>

#include "internal.h"

/* The word of the part: ones at its data lines. */
static rmg_word word_of(const rmg_part *part)
{
    return (rmg_word)(((rmg_word)1 << part->width) - 1u);
}

/* Is something in, and the right way round? true: it may be powered. */
bool rmg_pod_feel(rmg_pod *pod, rmg_chip *chip)
{
    bool other;
    const unsigned rails = rmg_pod_rails_of(chip->part, &other);
    char answer[120];
    unsigned low[2] = {0, 0}, pulled[2] = {0, 0};
    rmg_status status;

    if (pod->map)
        return rmg_mapped_feel(pod, chip);
    status = rmg_link_tell(pod->link, "feel", 0.2, answer, sizeof answer);
    if (status == RMG_OK &&
        (!rmg_pod_number(answer, "plus5", false, &low[0]) ||
         !rmg_pod_number(answer, "plus5", true, &pulled[0]) ||
         (rails & POD_PLUS12 && (!rmg_pod_number(answer, "plus12", false, &low[1]) ||
                                 !rmg_pod_number(answer, "plus12", true, &pulled[1]))))) {
        g_snprintf(chip->why, sizeof chip->why,
                   "the pod says \"%.80s\" to \"feel\": expected the rails in millivolts", answer);
        chip->state = RMG_CHIP_STOPPED;
        return false;
    }
    if (status != RMG_OK) {
        rmg_chip_stopped(pod, chip, status);
        return false;
    }
    return rmg_pod_felt(chip, low, pulled, rails & POD_PLUS12 ? 2u : 1u);
}

static bool fit(rmg_pod *pod, rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    bool other;
    const unsigned rails = rmg_pod_rails_of(part, &other);
    char answer[60];
    GString *intent;
    rmg_status status;

    if (pod->map) {
        rmg_pod_lines_fit(pod->each, part, rmg_pod_apart(part), (uint16_t)rmg_part_ns(part, ""));
        return true;
    }
    intent = g_string_new("fit ");
    if (part->kind == RMG_PART_DRAM)
        g_string_append_printf(intent, "dram %X %X %X %X", part->address_lines, part->row_lines,
                               pod->wide ? part->refresh_cycles : MIN(part->refresh_cycles, 256u),
                               rails);
    else
        g_string_append_printf(intent, "%s %X %X %X %X",
                               part->kind == RMG_PART_ROM ? "rom" : "sram", part->address_lines,
                               (unsigned)word_of(part), rmg_part_ns(part, ""), rails);
    if (part->kind == RMG_PART_DRAM && pod->wide)
        g_string_append_printf(intent, " %X %X", (unsigned)word_of(part), part->column_from);
    if (pod->wide && rmg_pod_apart(part))
        g_string_append(intent, " apart");
    if (part->inverted)
        g_string_append(intent, " inverted");
    status = rmg_link_tell(pod->link, intent->str, 0.1, answer, sizeof answer);
    g_string_free(intent, TRUE);
    if (status != RMG_OK)
        rmg_chip_stopped(pod, chip, status);
    return status == RMG_OK;
}

/* Puts the supplies on, and greets the pod anew: its memory is another one now. */
static bool power(rmg_pod *pod, rmg_chip *chip)
{
    char answer[120];
    rmg_status status;
    const char *refused;

    if (pod->map)
        return rmg_mapped_power(pod, chip);
    status = rmg_link_tell(pod->link, "power on", 0.5, answer, sizeof answer);
    refused = rmg_link_refused(pod->link);
    if (status == RMG_ERR_PORT && g_str_has_prefix(refused, "rail ")) {
        chip->state = RMG_CHIP_DRAWS;
        g_snprintf(chip->why, sizeof chip->why, "the %s rail does not come up with it: %s",
                   strcmp(refused, "rail plus12") == 0   ? "+12 V"
                   : strcmp(refused, "rail minus5") == 0 ? "-5 V"
                                                         : "+5 V",
                   "all supplies are off again");
        return false;
    }
    if (status == RMG_OK) {
        rmg_pod_number(answer, "plus5", false, &chip->supply_mv);
        status = rmg_link_greet(pod->link, word_of(chip->part));
    }
    if (status != RMG_OK)
        rmg_chip_stopped(pod, chip, status);
    return status == RMG_OK;
}

bool rmg_pod_hold(rmg_pod *pod, const rmg_part *part, rmg_chip *chip)
{
    memset(chip, 0, sizeof *chip);
    chip->part = part;
    return fit(pod, chip) && rmg_pod_feel(pod, chip) && power(pod, chip);
}

char *rmg_chip_refused(const rmg_chip *chip)
{
    switch (chip->state) {
    case RMG_CHIP_NOTHING:
        return g_strdup("nothing is in the socket; no supply was given");
    case RMG_CHIP_REVERSED:
        return g_strdup("the chip is the wrong way round; no supply was given");
    case RMG_CHIP_SHORTED:
        return g_strdup("the chip's supply pin is shorted; no supply was given");
    default:
        return g_strdup(chip->why);
    }
}

void rmg_pod_release(rmg_pod *pod)
{
    char answer[60];

    if (pod->map)
        rmg_mapped_off(pod);
    else
        rmg_link_tell(pod->link, "power off", 0.1, answer, sizeof answer);
}

rmg_target rmg_pod_target(const rmg_pod *pod, const rmg_part *part)
{
    if (pod->map)
        return (rmg_target){&rmg_pod_lines_bus, pod->each, word_of(part)};
    return (rmg_target){rmg_link_bus(pod->link), pod->link, word_of(part)};
}
