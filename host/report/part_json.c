/* Parts as JSON; its form: docs/part.schema.json. */
#include "internal.h"

static const char *const roles[] = {
    [RMG_PIN_NONE] = "not connected",   [RMG_PIN_SUPPLY] = "supply",
    [RMG_PIN_ADDRESS] = "address",      [RMG_PIN_DATA] = "data",
    [RMG_PIN_WRITE] = "write",          [RMG_PIN_OUTPUT] = "output enable",
    [RMG_PIN_SELECT] = "select",        [RMG_PIN_ROW] = "row strobe",
    [RMG_PIN_COLUMN] = "column strobe", [RMG_PIN_PROGRAM] = "program",
    [RMG_PIN_OTHER] = "other"};
static const char *const kinds[] = {"dram", "sram", "rom"};
static const char *const fits[] = {"fits", "fits with wires", "does not fit"};
static const char *const wires[] = {"socket", "low", "high", "either"};
static const char *const whys[] = {[RMG_FIT_KIND] = "kind",
                                   [RMG_FIT_WIDTH] = "width",
                                   [RMG_FIT_DEPTH] = "depth",
                                   [RMG_FIT_HALF] = "half",
                                   [RMG_FIT_SUPPLY] = "supply",
                                   [RMG_FIT_SIGNAL] = "signal",
                                   [RMG_FIT_MASKED] = "masked",
                                   [RMG_FIT_ROWS] = "rows",
                                   [RMG_FIT_PERIOD] = "period",
                                   [RMG_FIT_SLOW] = "slow",
                                   [RMG_FIT_REFRESH_UNKNOWN] = "refresh not known",
                                   [RMG_FIT_SPEED_UNKNOWN] = "speed not known",
                                   [RMG_FIT_LARGER] = "larger",
                                   [RMG_FIT_HELD] = "held",
                                   [RMG_FIT_COLUMNS] = "columns",
                                   [RMG_FIT_WRITABLE] = "writable",
                                   [RMG_FIT_UNUSED] = "unused",
                                   [RMG_FIT_OPEN] = "open collectors",
                                   [RMG_FIT_INVERTED] = "inverted",
                                   [RMG_FIT_PACKAGE] = "package",
                                   [RMG_FIT_UNCHECKED] = "unchecked"};

static json_t *pins_json(const rmg_part *part)
{
    json_t *list = json_array();

    for (uint8_t pin = 1; pin <= rmg_part_pin_count(part); pin++) {
        char name[RMG_PIN_NAME];
        bool high;
        int millivolts;
        const rmg_pin_role role = rmg_part_role(part, pin, NULL, &high, &millivolts);
        json_t *item;

        rmg_part_pin_name(part, pin, name);
        item = json_pack("{s:i, s:s, s:s}", "pin", (int)pin, "name", name, "role", roles[role]);
        if (role == RMG_PIN_SUPPLY)
            rmg_json_set(item, "millivolts", json_integer(millivolts));
        if (role == RMG_PIN_SELECT || role == RMG_PIN_OUTPUT)
            rmg_json_set(item, "active",
                         json_string(rmg_part_is_masked(part, pin) ? "by the maker"
                                     : high                        ? "high"
                                                                   : "low"));
        rmg_json_append(list, item);
    }
    return list;
}

static json_t *part_json(const rmg_part *part)
{
    return json_pack(
        "{s:s, s:s, s:s, s:o, s:i, s:i, s:i, s:i, s:s, s:s, s:s, s:s, s:s, s:b, s:b, s:s?, s:o}",
        "number", part->number, "kind", kinds[part->kind], "sort",
        part->kind == RMG_PART_ROM ? rmg_rom_sort_text(part->sort) : "", "words",
        rmg_json_number((uint64_t)1 << part->address_lines), "bits", (int)part->width, "rows",
        part->row_lines ? 1 << part->row_lines : 0, "refresh_cycles", (int)part->refresh_cycles,
        "refresh_ms", (int)part->refresh_ms, "times_ns", part->times ? part->times : "", "package",
        rmg_package_text(part->package), "half_of", part->half_of ? part->half_of : "", "chosen_by",
        part->tied ? part->tied : "", "about", part->about ? part->about : "", "open_collectors",
        part->open, "inverted", part->inverted, "checked_against", rmg_part_checked(part), "pins",
        pins_json(part));
}

char *rmg_parts_json(const rmg_part *const *parts, size_t count)
{
    json_t *list = json_array();

    for (size_t i = 0; i < count; i++)
        rmg_json_append(list, part_json(parts[i]));
    return rmg_json_text(json_pack("{s:i, s:o}", "rimeglass_parts", 1, "parts", list));
}

char *rmg_fittings_json(const char *socket, const rmg_part *here, const rmg_part *const *parts,
                        const rmg_fitting *fittings, size_t count)
{
    json_t *list = json_array();

    for (size_t i = 0; i < count; i++) {
        const rmg_fitting *f = &fittings[i];
        json_t *reasons = json_array(), *links = json_array();

        for (size_t r = 0; r < f->reason_count; r++)
            rmg_json_append(
                reasons, json_pack("{s:s, s:b, s:i, s:i, s:i}", "why", whys[f->reasons[r].why],
                                   "refuses", f->reasons[r].refuses, "pin", (int)f->reasons[r].pin,
                                   "there", f->reasons[r].there, "here", f->reasons[r].here));
        for (size_t n = 0; n < f->wire_count; n++)
            rmg_json_append(links, json_pack("{s:i, s:s, s:i}", "pin", (int)f->wires[n].pin, "to",
                                             wires[f->wires[n].kind], "socket_pin",
                                             (int)f->wires[n].from));
        rmg_json_append(list, json_pack("{s:s, s:s, s:o, s:o}", "number", parts[i]->number, "fit",
                                        fits[f->fit], "wires", links, "reasons", reasons));
    }
    return rmg_json_text(json_pack("{s:i, s:s, s:s, s:o}", "rimeglass_fits", 1, "socket", socket,
                                   "made_for", here->number, "parts", list));
}
