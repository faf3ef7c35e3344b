/* The pod at the other end of a link: what it has, and whether a part goes in. */
#include <stdlib.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/stream.h"

#define CONNECT_MS 3000u

static const char *const rail_names[] = {"plus5", "plus12", "minus5"};
static const char *const kind_names[] = {"dram", "sram", "rom"}; /* by rmg_part_kind */

/* Which of three names stand in a list like "rails=plus5,plus12": name i is bit i. */
static unsigned named(const char *answer, const char *key, const char *const names[3])
{
    const char *at = strstr(answer, key);
    const size_t length = at ? strcspn(at, " ") : 0;
    unsigned rails = 0;

    for (unsigned i = 0; i < 3; i++) {
        const char *found = at ? strstr(at, names[i]) : NULL;

        while (found && found < at + length) {
            const char after = found[strlen(names[i])];

            if ((found[-1] == '=' || found[-1] == ',') && (after == ',' || after == ' ' || !after))
                rails |= 1u << i;
            found = strstr(found + 1, names[i]);
        }
    }
    return rails;
}

/* What a pod says of itself; `why`: what is wrong with that. */
static rmg_status ask(rmg_pod *p, char *why, size_t room)
{
    char answer[200];
    rmg_status status;

    if (!rmg_link_can(p->link, "pod")) {
        g_snprintf(why, (gulong)room, "the far end \"%s\" is no pod: it holds no chip of its own",
                   rmg_link_name(p->link));
        return RMG_ERR_PORT_CANNOT;
    }
    status = rmg_link_tell(p->link, "pod", 0, answer, sizeof answer);
    g_strlcpy(why, rmg_link_why(p->link), room);
    if (status == RMG_OK && (!rmg_pod_number(answer, "lines", false, &p->lines) ||
                             !rmg_pod_number(answer, "data", false, &p->data) ||
                             !(p->rails = named(answer, "rails=", rail_names)) ||
                             !(p->kinds = named(answer, "kind=", kind_names)))) {
        g_snprintf(why, (gulong)room,
                   "the pod says \"%.100s\": expected kind=, data=, lines= and rails=", answer);
        return RMG_ERR_PORT_CANNOT;
    }
    if (status == RMG_OK)
        p->wide = rmg_pod_number(answer, "apart", false, &p->apart);
    return status;
}

/* The same from its file. */
static rmg_status by_map(rmg_pod *p, char *why, size_t room)
{
    if (!rmg_link_can(p->link, "pins")) {
        g_snprintf(why, (gulong)room,
                   "the far end \"%s\" sets no lines one by one (the ability pins)",
                   rmg_link_name(p->link));
        return RMG_ERR_PORT_CANNOT;
    }
    p->each = g_new(pod_lines, 1);
    rmg_pod_lines_begin(p->each, p->link, p->map);
    p->lines = rmg_pod_map_count(p->map->address, MAP_ADDRESS);
    p->data = rmg_pod_map_count(p->map->data, MAP_DATA);
    p->apart = rmg_pod_map_count(p->map->inputs, MAP_DATA);
    p->wide = true;
    p->kinds = 1u << RMG_PART_ROM | (p->map->strobes[MAP_WRITE] >= 0 ? 1u << RMG_PART_SRAM : 0u);
    for (unsigned i = 0; i < 3; i++)
        p->rails |= (p->map->rails[i].power >= 0 ? 1u : 0u) << i;
    rmg_mapped_off(p); /* a call that was killed may have left them on */
    return RMG_OK;
}

static void free_pod(rmg_pod *pod)
{
    rmg_link_close(pod->link);
    rmg_pod_map_free(pod->map);
    g_free(pod->each);
    g_free(pod);
}

rmg_status rmg_pod_open(const char *name, const char *map, rmg_pod **pod, rmg_error *error)
{
    char why[RMG_STREAM_WHY] = "";
    rmg_stream *stream = NULL;
    rmg_pod *p = g_new0(rmg_pod, 1);
    rmg_status status;

    *pod = NULL;
    rmg_error_none(error);
    if (map && (status = rmg_pod_map_read(map, &p->map, error)) != RMG_OK) {
        free_pod(p);
        return status;
    }
    status = rmg_stream_open(name, CONNECT_MS, &stream, why);
    if (status == RMG_OK)
        status = rmg_link_open(stream, 1, &p->link, why);
    if (status == RMG_OK)
        status = map ? by_map(p, why, sizeof why) : ask(p, why, sizeof why);
    if (status == RMG_OK) {
        *pod = p;
        return RMG_OK;
    }
    if (g_str_has_prefix(why, name))
        rmg_fail(error, status, name, "%s", why);
    else
        rmg_fail(error, status, name, "%s: %s", name, *why ? why : rmg_status_text(status));
    free_pod(p);
    return status;
}

void rmg_pod_close(rmg_pod *pod)
{
    char answer[100];

    if (!pod)
        return;
    if (pod->map)
        rmg_mapped_off(pod);
    else
        rmg_link_tell(pod->link, "power off", 0.1, answer, sizeof answer);
    free_pod(pod);
}

const char *rmg_pod_why(const rmg_pod *pod)
{
    return rmg_link_why(pod->link);
}

const char *rmg_pod_name(const rmg_pod *pod)
{
    return pod->map ? pod->map->name : rmg_link_name(pod->link);
}

/* Address pins: of a DRAM rows and columns share them. */
static unsigned address_pins(const rmg_part *part)
{
    const unsigned columns = (unsigned)part->address_lines - part->row_lines;

    return part->kind == RMG_PART_DRAM ? MAX(columns, part->row_lines) : part->address_lines;
}

char *rmg_pod_refuses(const rmg_pod *pod, const rmg_part *part)
{
    static const char *const kinds[] = {"DRAM", "SRAM", "ROM"};
    const unsigned pins = address_pins(part);
    bool other;
    const unsigned rails = rmg_pod_rails_of(part, &other);

    if (pod->map && part->kind == RMG_PART_DRAM)
        return g_strdup_printf("%s is a DRAM: a pod whose lines are set one by one is too slow to "
                               "refresh it",
                               part->number);
    if (pod->map && pod->map->strobes[MAP_OUTPUT] < 0 && part->kind == RMG_PART_ROM &&
        rmg_part_pin(part, "OE"))
        return g_strdup_printf("%s has an output enable, and this pod's file names no OE",
                               part->number);
    if (!(pod->kinds >> part->kind & 1u))
        return g_strdup_printf("%s is %s %s, and this pod's socket is for others", part->number,
                               part->kind == RMG_PART_SRAM ? "an" : "a", kinds[part->kind]);
    if (part->width > pod->data)
        return g_strdup_printf("%s has %u data lines, this pod %u", part->number, part->width,
                               pod->data);
    if (pins > pod->lines)
        return g_strdup_printf("%s has %u address pins, this pod %u", part->number, pins,
                               pod->lines);
    if (!rails)
        return g_strdup_printf("which supplies %s needs is not known, so no pod may power it",
                               part->number);
    if (other || rails & ~pod->rails)
        return g_strdup_printf("%s needs %s; this pod has no such rails", part->number,
                               part->supplies);
    if (rmg_pod_apart(part) && part->width > (pod->wide ? pod->apart : 1u))
        return g_strdup_printf("%s has %u inputs apart from its outputs, this pod lines for %u",
                               part->number, part->width, pod->wide ? pod->apart : 1u);
    if (part->inverted && !pod->wide)
        return g_strdup_printf("%s reads the complement of what was written, which this pod does "
                               "not know",
                               part->number);
    return NULL;
}

void rmg_pod_lamp(rmg_pod *pod, bool good, bool bad)
{
    char answer[40];

    if (pod->map) {
        rmg_pod_line_set(pod->each, pod->map->good, good);
        rmg_pod_line_set(pod->each, pod->map->bad, bad);
        return;
    }
    rmg_link_tell(pod->link,
                  good  ? "lamp good"
                  : bad ? "lamp bad"
                        : "lamp off",
                  0, answer, sizeof answer);
}
