/* The verdict on a chip out of its board, in words and as a line of JSON. */
#include "internal.h"

static bool usable(const rmg_chip *chip)
{
    return chip->state == RMG_CHIP_GOOD;
}

const char *rmg_chip_verdict(const rmg_chip *chip)
{
    static const char *const words[] = {
        [RMG_CHIP_GOOD] = "GOOD",         [RMG_CHIP_FAILS] = "BAD",
        [RMG_CHIP_HALF] = "HALF GOOD",    [RMG_CHIP_SMALLER] = "NOT AS MARKED",
        [RMG_CHIP_NOTHING] = "EMPTY",     [RMG_CHIP_REVERSED] = "WRONG WAY ROUND",
        [RMG_CHIP_SHORTED] = "SHORTED",   [RMG_CHIP_DRAWS] = "BAD",
        [RMG_CHIP_STOPPED] = "NOT TESTED"};

    return words[chip->state];
}

/* "A7 at row time" */
static gchar *line_text(const rmg_part *part, uint8_t line)
{
    const bool column = part->row_lines && line >= part->row_lines;

    if (!part->row_lines)
        return g_strdup_printf("A%u", line);
    return g_strdup_printf("A%u at %s time",
                           column ? line - part->row_lines + part->column_from : line,
                           column ? "column" : "row");
}

static gchar *volts(unsigned mv)
{
    return g_strdup_printf("%u.%02u V", mv / 1000, mv % 1000 / 10);
}

static gchar *words_of(uint64_t words)
{
    return words % 1024 ? g_strdup_printf("%" G_GUINT64_FORMAT, words)
                        : g_strdup_printf("%" G_GUINT64_FORMAT "K", words / 1024);
}

static void add_some(GString *out, uint64_t count, const char *one)
{
    if (count)
        g_string_append_printf(out, "%s%" G_GUINT64_FORMAT " %s%s", out->len ? ", " : "", count,
                               one, count == 1 ? "" : "s");
}

/* Rows, columns and cells, and where the first one is. */
static gchar *cells_text(const rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    const char *read = chip->high && chip->low ? ""
                       : chip->high            ? "; all read 1 for 0"
                                               : "; all read 0 for 1";
    GString *out = g_string_new(NULL);
    const rmg_addr row = chip->first & (((rmg_addr)1 << part->row_lines) - 1u);

    if (!part->row_lines) {
        g_string_append_printf(
            out, "%" G_GUINT64_FORMAT " word%s; the first at address 0x%" G_GINT64_MODIFIER "X%s",
            chip->cells, chip->cells == 1 ? " fails" : "s fail", (guint64)chip->first, read);
        return g_string_free(out, FALSE);
    }
    add_some(out, chip->rows, "whole row");
    add_some(out, chip->columns, "whole column");
    add_some(out, chip->cells, chip->rows || chip->columns ? "cell beside" : "cell");
    g_string_append_printf(
        out, " fail%s; the first at row %" G_GUINT64_FORMAT ", column %" G_GUINT64_FORMAT,
        chip->rows + chip->columns + chip->cells == 1 ? "s" : "", (uint64_t)row,
        (uint64_t)(chip->first >> part->row_lines));
    g_string_append(out, read);
    return g_string_free(out, FALSE);
}

static gchar *fails_text(const rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    const rmg_word all = (rmg_word)(((rmg_word)1 << part->width) - 1u);
    char name[RMG_PIN_NAME];

    if (chip->graded)
        return g_strdup_printf(
            "all cells are right while it is refreshed, but it does not hold its "
            "%u ms without",
            part->refresh_ms);
    if (!chip->pin)
        return cells_text(chip);
    rmg_part_pin_name(chip->part, chip->pin, name);
    if (chip->data && part->width > 1 && (chip->dead_low | chip->dead_high) == all)
        return g_strdup_printf("no data output answers: all %u always read the same", part->width);
    if (chip->data)
        return g_strdup_printf("the data output (pin %u, %s) always reads %u: dead, or it has no "
                               "contact in the socket",
                               chip->pin, name, chip->output_high);
    return g_strdup_printf("address pin %s (pin %u) does nothing: broken inside, or no contact in "
                           "the socket",
                           name, chip->pin);
}

char *rmg_chip_text(const rmg_chip *chip)
{
    gchar *words = words_of(chip->words), *rail = volts(chip->rail_mv), *part, *text = NULL;

    switch (chip->state) {
    case RMG_CHIP_GOOD:
        text = g_strdup_printf("all %s %s right in %" G_GUINT64_FORMAT " pass%s", words,
                               chip->part->width > 1 ? "words" : "cells", chip->passes,
                               chip->passes == 1 ? "" : "es");
        break;
    case RMG_CHIP_FAILS:
        text = fails_text(chip);
        break;
    case RMG_CHIP_HALF:
        part = line_text(chip->part, chip->line);
        text = g_strdup_printf("every cell that fails has %s %s; the other half is right", part,
                               chip->bad_level ? "high" : "low");
        g_free(part);
        break;
    case RMG_CHIP_SMALLER:
        part = words_of((uint64_t)1 << chip->smaller_lines);
        if (chip->smaller_width) {
            text = g_strdup_printf("it answers like a part of %s x %u: all other data lines float",
                                   part, chip->smaller_width);
            g_free(part);
            break;
        }
        text = g_strdup_printf("it answers like a part of %s x %u: its highest address pin (pin "
                               "%u) does nothing",
                               part, chip->part->width, chip->pin);
        g_free(part);
        break;
    case RMG_CHIP_NOTHING:
        text = g_strdup_printf("nothing is in the socket: a rail fed weakly has %s; no supply was "
                               "given",
                               rail);
        break;
    case RMG_CHIP_REVERSED:
        text = g_strdup_printf("it conducts from the supply pin to its lines (%s): it is the wrong "
                               "way round; no supply was given",
                               rail);
        break;
    case RMG_CHIP_SHORTED:
        text = g_strdup_printf("its supply pin is shorted to 0 V (%s when fed weakly); no supply "
                               "was given",
                               rail);
        break;
    case RMG_CHIP_DRAWS:
    case RMG_CHIP_STOPPED:
        text = g_strdup(chip->why);
        break;
    }
    g_free(words);
    g_free(rail);
    return text;
}

/* A part of the table that is such a half. */
static const rmg_part *half_part(const rmg_chip *chip)
{
    const bool column = chip->line >= chip->part->row_lines;

    for (size_t i = 0; i < rmg_part_count(); i++) {
        const rmg_part *p = rmg_part_at(i);

        if (p->half_of && strcmp(p->half_of, chip->part->number) == 0 &&
            (p->row_lines == chip->part->row_lines) == column)
            return p;
    }
    return NULL;
}

char *rmg_chip_grade_text(const rmg_chip *chip)
{
    const bool dram = chip->part->kind == RMG_PART_DRAM;
    GString *text;

    if (!chip->graded || (dram && !chip->holds_ms))
        return NULL;
    text = g_string_new(NULL);
    if (dram) {
        g_string_printf(text, "holds %u ms without refresh, three times over; ", chip->holds_ms);
        if (chip->gives_way_ms)
            g_string_append_printf(text, "it gives way at %u ms", chip->gives_way_ms);
        else
            g_string_append(text, "longer was not tried");
        g_string_append_printf(text, ". Its data sheet asks for %u ms", chip->part->refresh_ms);
    }
    if (chip->cas_ns) {
        g_string_append_printf(text, "%s %u ns after %s",
                               dram ? ". Data are there" : "data are there", chip->cas_ns,
                               dram ? "CAS" : "its select, three times over");
        if (chip->not_cas_ns)
            g_string_append_printf(text, ", not yet after %u ns", chip->not_cas_ns);
    } else if (!dram) {
        g_string_append_printf(text, "data are not there %u ns after its select", chip->not_cas_ns);
    }
    return g_string_free(text, FALSE);
}

char *rmg_chip_advice(const rmg_chip *chip)
{
    const uint8_t top_row = (uint8_t)(chip->part->row_lines - 1u);
    const rmg_part *half;

    switch (chip->state) {
    case RMG_CHIP_GOOD:
        return g_strdup(chip->graded
                            ? "Good tray."
                            : "Good tray. Speed and refresh at their limits were not tested.");
    case RMG_CHIP_HALF:
        half = chip->line == top_row || chip->line + 1 == chip->part->address_lines
                   ? half_part(chip)
                   : NULL;
        return half
                   ? g_strdup_printf("Bad tray for a %s; as a %s it may serve, with that line held "
                                     "%s.",
                                     chip->part->number, half->number,
                                     chip->bad_level ? "low" : "high")
                   : g_strdup_printf("Bad tray for a %s.", chip->part->number);
    case RMG_CHIP_FAILS:
        return g_strdup(chip->pin ? "Clean its pins and the socket and test it again, once; then "
                                    "the bad tray."
                                  : "Bad tray.");
    case RMG_CHIP_SMALLER:
        return g_strdup(chip->smaller_width
                            ? "Another part with this number on it: look at what it is."
                            : "Remarked, or the pin has no contact: clean and test again, once; "
                              "then test it as the smaller part.");
    case RMG_CHIP_NOTHING:
        return g_strdup("Put one in, or press it down: without contact at its supply pins it looks "
                        "like this too.");
    case RMG_CHIP_REVERSED:
        return g_strdup("Turn it round: pin 1 is at the notch.");
    case RMG_CHIP_SHORTED:
        return g_strdup("Bad tray, unless something lies in the socket.");
    case RMG_CHIP_DRAWS:
        return g_strdup("Test a chip that is known to be good: if it fares the same, it is the "
                        "pod's supply; else the bad tray.");
    case RMG_CHIP_STOPPED:
        break;
    }
    return g_strdup("Nothing follows for the chip.");
}

char *rmg_chip_line(const rmg_chip *chip, const char *label, const char *lot, const char *when)
{
    static const char *const states[] = {
        [RMG_CHIP_GOOD] = "good",       [RMG_CHIP_FAILS] = "fails",
        [RMG_CHIP_HALF] = "half",       [RMG_CHIP_SMALLER] = "smaller",
        [RMG_CHIP_NOTHING] = "nothing", [RMG_CHIP_REVERSED] = "reversed",
        [RMG_CHIP_SHORTED] = "shorted", [RMG_CHIP_DRAWS] = "draws",
        [RMG_CHIP_STOPPED] = "stopped"};
    char *text = rmg_chip_text(chip);
    char *line = rmg_json_line(json_pack(
        "{s:i, s:s, s:s, s:s, s:s, s:s, s:b, s:s, s:o, s:o, s:o, s:o, s:i, s:i, s:i, s:i, s:i}",
        "rimeglass_chip", 1, "part", chip->part->number, "label", label, "lot", lot, "when", when,
        "state", states[chip->state], "good", usable(chip), "text", text, "cells",
        rmg_json_number(chip->words), "failing", rmg_json_number(chip->failing), "passes",
        rmg_json_number(chip->passes), "read_1_for_0", rmg_json_number(chip->high), "pin",
        (int)chip->pin, "supply_mv", (int)chip->supply_mv, "holds_ms",
        chip->graded && chip->part->refresh_ms ? (int)chip->holds_ms : -1, "gives_way_ms",
        (int)chip->gives_way_ms, "cas_ns", (int)chip->cas_ns));

    g_free(text);
    return line;
}
