/* Parts in words: what they are, what a pin does, why one fits and another does not. */
#include <glib.h>
#include <string.h>

#include "rimeglass/report.h"

char *rmg_part_text(const rmg_part *part)
{
    static const char *const kinds[] = {"DRAM", "SRAM", "ROM"};
    const uint64_t words = (uint64_t)1 << part->address_lines;
    const bool many = words >= 1024;

    return g_strdup_printf("%s, %" G_GUINT64_FORMAT "%s x %u",
                           part->kind == RMG_PART_ROM ? rmg_rom_sort_text(part->sort)
                                                      : kinds[part->kind],
                           words >= 1048576 ? words / 1048576
                           : many           ? words / 1024
                                            : words,
                           words >= 1048576 ? "M"
                           : many           ? "K"
                                            : "",
                           part->width);
}

char *rmg_pin_text(const rmg_part *part, uint8_t pin)
{
    uint8_t line;
    bool high;
    int millivolts;
    const rmg_pin_role role = rmg_part_role(part, pin, &line, &high, &millivolts);
    const char *level = high ? "active high" : "active low";

    switch (role) {
    case RMG_PIN_NONE:
        return g_strdup("not connected");
    case RMG_PIN_SUPPLY:
        return g_strdup_printf("%s%d V", millivolts > 0 ? "+" : "", millivolts / 1000);
    case RMG_PIN_ADDRESS:
        return g_strdup("address");
    case RMG_PIN_DATA: {
        char name[RMG_PIN_NAME];

        rmg_part_pin_name(part, pin, name);
        return g_strdup(part->kind == RMG_PART_ROM || name[0] == 'Q'          ? "data out"
                        : rmg_part_pin(part, "Q") || rmg_part_pin(part, "Q1") ? "data in"
                                                                              : "data");
    }
    case RMG_PIN_WRITE:
        return g_strdup("write, active low");
    case RMG_PIN_OUTPUT:
        return g_strdup_printf("output enable, %s",
                               rmg_part_is_masked(part, pin) ? "level by the maker" : level);
    case RMG_PIN_SELECT:
        return g_strdup_printf("select, %s",
                               rmg_part_is_masked(part, pin) ? "level by the maker" : level);
    case RMG_PIN_ROW:
        return g_strdup("row strobe, active low");
    case RMG_PIN_COLUMN:
        return g_strdup("column strobe, active low");
    case RMG_PIN_PROGRAM:
        return g_strdup(rmg_part_pin(part, "VBB") ? "0 V when read" : "+5 V when read");
    case RMG_PIN_OTHER:
        break;
    }
    return g_strdup("");
}

/* "pin 18 (CE)" */
static gchar *pin_named(const rmg_part *part, uint8_t pin)
{
    char name[RMG_PIN_NAME];

    rmg_part_pin_name(part, pin, name);
    return g_strdup_printf("pin %u (%s)", pin, name);
}

static gchar *share_text(int lines)
{
    return lines == 1   ? g_strdup("one half")
           : lines == 2 ? g_strdup("a quarter")
                        : g_strdup_printf("one part in %u", 1u << MIN(lines, 30));
}

char *rmg_fit_reason_text(const rmg_part *here, const rmg_part *there, const rmg_fit_reason *r)
{
    gchar *pin = pin_named(there, r->pin);
    gchar *is = rmg_part_text(there), *was = rmg_part_text(here);
    gchar *text = NULL, *share;

    switch (r->why) {
    case RMG_FIT_KIND:
        text = g_strdup_printf("it is another kind of memory: %s, where the socket is for %s", is,
                               was);
        break;
    case RMG_FIT_WIDTH:
        text = g_strdup_printf("it has %d data line%s, the socket has %d", r->there,
                               r->there == 1 ? "" : "s", r->here);
        break;
    case RMG_FIT_DEPTH:
        text = g_strdup_printf("it has too few words: %s, where the socket is for %s", is, was);
        break;
    case RMG_FIT_HALF:
        text = g_strdup_printf("it is a %s of which one half is good, chosen by %s; the board's "
                               "setting and all chips of the bank have to agree",
                               there->half_of, there->tied);
        break;
    case RMG_FIT_SUPPLY:
        text =
            g_strdup_printf("%s needs %+d V, which the socket does not have", pin, r->there / 1000);
        break;
    case RMG_FIT_SIGNAL:
        text = g_strdup_printf("%s needs a signal that the socket does not have", pin);
        break;
    case RMG_FIT_MASKED:
        if (rmg_part_is_masked(there, r->pin))
            text = g_strdup_printf("the level that selects it at %s was set by its maker: only one "
                                   "made for this socket answers",
                                   pin);
        else
            text =
                g_strdup_printf("%s is active %s; the level at the socket's pin %d was chosen by "
                                "the maker of its ROM: measure it while the board reads it",
                                pin, r->there ? "high" : "low", r->here);
        break;
    case RMG_FIT_ROWS:
        text = g_strdup_printf("it needs %d rows refreshed, the board walks %d: the other rows "
                               "lose their contents",
                               r->there, r->here);
        break;
    case RMG_FIT_PERIOD:
        text = g_strdup_printf("it needs a row refreshed every %d us, the board refreshes one "
                               "every %d us",
                               r->there, r->here);
        break;
    case RMG_FIT_SLOW:
        text =
            g_strdup_printf("its access time is %d ns, the board allows %d ns", r->there, r->here);
        break;
    case RMG_FIT_REFRESH_UNKNOWN:
        text =
            g_strdup_printf("it needs %d rows in %u ms; of the board it is only known that it "
                            "serves a %s (%d rows in %u ms). Where it does no more, this part "
                            "forgets: refresh-cycles and refresh-ms in the board file settle it",
                            r->there, there->refresh_ms, here->number, r->here, here->refresh_ms);
        break;
    case RMG_FIT_SPEED_UNKNOWN:
        if (r->there)
            text = g_strdup_printf("its access time is up to %d ns; what the board allows is not "
                                   "in its file (within-ns of the socket)",
                                   r->there);
        else
            text = g_strdup_printf("its access time is not known%s",
                                   r->here ? "; the board's is" : "");
        break;
    case RMG_FIT_LARGER:
        share = share_text(r->there);
        text = g_strdup_printf("only %s of it is used", share);
        g_free(share);
        break;
    case RMG_FIT_HELD:
        text = g_strdup_printf("the socket has +5 V at %s: only addresses where that line is 1 are "
                               "read, and the image belongs there",
                               pin);
        break;
    case RMG_FIT_COLUMNS:
        text = g_strdup_printf("at column time the board may put anything on %s: it has to be the "
                               "same at each access",
                               pin);
        break;
    case RMG_FIT_WRITABLE:
        text = g_strdup_printf("it can be written: %s has to stay high", pin);
        break;
    case RMG_FIT_UNUSED:
        g_free(pin);
        pin = pin_named(here, (uint8_t)r->here);
        text = g_strdup_printf("the socket's %s has no pin to go to: if the board uses it, this "
                               "part answers where another one should",
                               pin);
        break;
    case RMG_FIT_OPEN:
        text = g_strdup("its outputs are open collectors: the board needs resistors to +5 V there");
        break;
    case RMG_FIT_INVERTED:
        text = g_strdup_printf("what is read from it is %sthe complement of what was written",
                               r->there ? "" : "not ");
        break;
    case RMG_FIT_PACKAGE:
        text = g_strdup_printf("its package is another one: %s, where the socket is %s",
                               rmg_package_text(there->package), rmg_package_text(here->package));
        break;
    case RMG_FIT_UNCHECKED:
        text = g_strdup("its pinout was held against nothing but the rules of pinouts: compare it "
                        "with the data sheet");
        break;
    }
    g_free(pin);
    g_free(is);
    g_free(was);
    return text;
}

/* What the socket has beneath a pin that is wired elsewhere, where that is a supply: it must be cut
 * off. */
static gchar *cut_off(const rmg_part *here, const rmg_part *there, uint8_t pin)
{
    const int beneath = pin + (rmg_part_pin_count(here) - rmg_part_pin_count(there)) / 2;
    int millivolts;
    gchar *text, *named;

    if (beneath < 1 || beneath > rmg_part_pin_count(here) ||
        rmg_part_role(here, (uint8_t)beneath, NULL, NULL, &millivolts) != RMG_PIN_SUPPLY)
        return g_strdup("");
    named = pin_named(here, (uint8_t)beneath);
    text = g_strdup_printf(", and off the socket's %s, which has %+d V", named, millivolts / 1000);
    g_free(named);
    return text;
}

char *rmg_wire_text(const rmg_part *here, const rmg_part *there, const rmg_wire *wire)
{
    gchar *pin = pin_named(there, wire->pin), *from = pin_named(here, wire->from);
    gchar *off = cut_off(here, there, wire->pin), *text = NULL;

    switch (wire->kind) {
    case RMG_WIRE_FROM:
        text = g_strdup_printf("%s to the socket's %s%s", pin, from, off);
        break;
    case RMG_WIRE_LOW:
        text = g_strdup_printf("%s to 0 V%s", pin, off);
        break;
    case RMG_WIRE_HIGH:
        text = g_strdup_printf("%s to +5 V%s", pin, off);
        break;
    case RMG_WIRE_ANY:
        text = g_strdup_printf("%s to 0 V or +5 V: it chooses the half%s", pin, off);
        break;
    }
    g_free(pin);
    g_free(from);
    g_free(off);
    return text;
}
