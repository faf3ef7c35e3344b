/* What looks the same from here, and the steps that tell it apart: cheapest first, and only those
 * this board allows. */
#include <string.h>

#include "internal.h"

/* A cause that looks the same from here; left out where what is known speaks against it. */
static void rival(wording *w, rmg_cause cause, gchar *name)
{
    const uint16_t socket = w->s->finding.socket;
    const bool soldered = socket != RMG_NO_SOCKET && w->board->sockets[socket].soldered;
    const rmg_cause_table *table = &w->facts->causes;
    const rmg_rival one = {name, soldered ? table->soldered[cause] : table->socketed[cause], cause};

    g_array_append_val(w->rivals, one);
}

void rmg_add_settling_step(wording *w, gchar *step)
{
    const char *end = strstr(step, ": ");

    g_free(w->s->settle);
    w->s->settle = end ? g_strndup(step, (gsize)(end - step)) : g_strdup(step);
    w->s->settle[0] = g_ascii_tolower(w->s->settle[0]);
    add_text(w->next, step);
}

static const rmg_socket *socket_of(const wording *w)
{
    return &w->board->sockets[w->s->finding.socket];
}

/* Would an empty socket, or an output that does not reach the bus, read like this? */
static bool reads_undriven(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    switch (w->board->undriven) {
    case RMG_UNDRIVEN_HIGH:
        return f->high == f->bits;
    case RMG_UNDRIVEN_LOW:
        return f->low == f->bits;
    default:
        return f->opposite == f->bits;
    }
}

/* "the track to pin 14", or where the line is traced the very stretch of it. */
static gchar *track_to(const wording *w, const gchar *pins)
{
    gchar *span = rmg_trace_span(w->run, &w->s->finding);

    return span ? span : g_strdup_printf("the track to %s", pins);
}

static void step_supplies(wording *w)
{
    const char *supplies = socket_of(w)->part->supplies;

    if (supplies[strspn(supplies, " ")])
        add_text(w->next, g_strdup_printf("Measure the supplies at %s's own pins: %s.",
                                          socket_of(w)->name, supplies));
}

static void step_contact(wording *w, const gchar *pins)
{
    const rmg_socket *s = socket_of(w);

    if (s->soldered)
        add_text(w->next, g_strdup_printf("Power off: look at the joints of %s %s with a glass, "
                                          "solder them again if in doubt, and test again.",
                                          s->name, pins));
    else
        add_text(w->next,
                 g_strdup_printf("Power off: take %s out, look at its legs and the socket's "
                                 "contacts at %s, put it back firmly, and test again. If it "
                                 "passes, it was the contact.",
                                 s->name, pins));
}

/* The step that tells chip from place: a swap where both are in sockets, else another way. */
static void step_settle(wording *w, const gchar *bits)
{
    const rmg_socket *s = socket_of(w);
    const uint16_t other = rmg_neighbour_of(w);

    if (rmg_facts_chip_good(w->facts, w->s->finding.socket))
        rmg_add_settling_step(
            w, g_strdup_printf("Power off, measure from the legs of %s along the tracks of %s: an "
                               "open circuit is the contact or the track; a few ohms to a supply "
                               "are a short.",
                               s->name, bits));
    else if (!s->soldered && other != RMG_NO_SOCKET)
        rmg_add_settling_step(
            w, g_strdup_printf("Swap %s with %s and test again: if the failure goes with the "
                               "chip to %s, the chip is bad; if it stays at %s (%s), it is the "
                               "socket or the track.",
                               s->name, w->board->sockets[other].name,
                               w->board->sockets[other].name, s->name, bits));
    else if (!s->soldered)
        rmg_add_settling_step(w,
                              g_strdup_printf("Put a known good %s into %s and test again: if the "
                                              "failure stays, it is the socket or the track.",
                                              s->part->number, s->name));
    else
        rmg_add_settling_step(
            w, g_strdup_printf("Hold a known good %s on top of %s (soldered, so no swap), pin on "
                               "pin, and test again: if the failure goes or shrinks, %s is bad or "
                               "not connected; if not, it proves nothing.",
                               s->part->number, s->name, s->name));
}

/* A bit that reads as it would with nothing behind the pin. Where a resistor pulls the line, a
 * short to that level looks the same. */
static void undriven_rivals(wording *w, const gchar *pins)
{
    const rmg_socket *s = socket_of(w);
    const bool pulled = w->board->undriven != RMG_UNDRIVEN_HOLDS;

    rival(w, RMG_CAUSE_CHIP_OUTPUT,
          g_strdup_printf("the chip in %s: dead, or its output is", s->name));
    if (s->soldered) {
        rival(w, RMG_CAUSE_CONTACT_OUTPUT, g_strdup_printf("a joint at %s", pins));
        rival(w, RMG_CAUSE_TRACK_DATA, track_to(w, pins));
        rival(w, RMG_CAUSE_PART_MISSING, g_strdup("the chip is missing, or is the wrong part"));
    } else {
        rival(w, RMG_CAUSE_CONTACT_OUTPUT, g_strdup_printf("a contact of the socket at %s", pins));
        rival(w, RMG_CAUSE_PART_MISSING, g_strdup("the chip is missing, or is the wrong part"));
        rival(w, RMG_CAUSE_TRACK_DATA, track_to(w, pins));
    }
    if (pulled)
        rival(w, RMG_CAUSE_SHORT_PIN,
              g_strdup_printf("a short of %s to the level it is pulled to", pins));
    add_text(w->next, g_strdup_printf("Look: is a %s fitted in %s, the right way round?",
                                      s->part->number, s->name));
}

/* A bit that something holds at a level. An open output would read otherwise; an open input of a
 * part that has one may not. */
static void driven_rivals(wording *w, const gchar *out_pins)
{
    const rmg_socket *s = socket_of(w);
    const bool apart = s->part->width == 1;

    rival(w, RMG_CAUSE_CHIP_OUTPUT,
          g_strdup_printf("the chip in %s: its output is stuck", s->name));
    if (apart) {
        gchar *pins = rmg_name_data_pins(w->board, &w->s->finding, true, false);

        rival(w, RMG_CAUSE_CONTACT_INPUT,
              g_strdup_printf("%s at %s: what is to be written does not reach the chip",
                              s->soldered ? "a joint or the track"
                                          : "a contact of the socket or the track",
                              pins));
        g_free(pins);
    }
    rival(w, RMG_CAUSE_SHORT_PIN, g_strdup_printf("a short at %s", out_pins));
}

static void data_at_socket(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    gchar *bits = rmg_name_bits(f->bits);
    gchar *out = rmg_name_data_pins(w->board, f, false, true);
    gchar *any = rmg_name_data_pins(w->board, f, true, true);

    if (reads_undriven(w))
        undriven_rivals(w, w->board->undriven == RMG_UNDRIVEN_HOLDS ? out : any);
    else
        driven_rivals(w, out);
    step_supplies(w);
    step_contact(w, any);
    step_settle(w, bits);
    g_free(bits);
    g_free(out);
    g_free(any);
}

static void address_at_socket(wording *w)
{
    const rmg_socket *s = socket_of(w);
    gchar *pins = rmg_name_address_pins(w->board, &w->s->finding);
    gchar *bits = rmg_name_bits(w->s->finding.bits);

    rival(w, RMG_CAUSE_CONTACT_ADDRESS,
          g_strdup_printf("%s at %s", s->soldered ? "a joint" : "a contact of the socket", pins));
    rival(w, RMG_CAUSE_CHIP_ADDRESS,
          g_strdup_printf("the chip in %s: its address input or decoder", s->name));
    rival(w, RMG_CAUSE_TRACK_ADDRESS, track_to(w, pins));
    rival(w, RMG_CAUSE_PART_SMALLER, g_strdup("a smaller part than marked, or the wrong one"));
    step_contact(w, pins);
    step_settle(w, bits);
    g_free(bits);
    g_free(pins);
}

static void cells(wording *w)
{
    const rmg_socket *s = socket_of(w);
    gchar *bits = rmg_name_bits(w->s->finding.bits);
    /* what does not repeat may be anything, however few cells it hit */
    const bool comes_and_goes = w->run->pass_count > 1 && !rmg_run_repeats(w->run);
    const bool few = !comes_and_goes && w->cells.shape != SHAPE_SCATTERED;

    rival(w, few ? RMG_CAUSE_CHIP_CELLS : RMG_CAUSE_CHIP_SCATTERED,
          g_strdup_printf("the chip in %s", s->name));
    if (!few) {
        rival(w, RMG_CAUSE_SUPPLY,
              g_strdup("a supply, refresh or timing that is not right at this chip"));
        rival(w, RMG_CAUSE_CONTACT_ANY,
              g_strdup_printf("%s of %s", s->soldered ? "a joint" : "a contact of the socket",
                              s->name));
    } else {
        rival(w, RMG_CAUSE_SUPPLY,
              g_strdup_printf("a supply%s that is not right at this chip",
                              s->part->kind == RMG_PART_DRAM ? " or refresh" : ""));
    }
    if (!rmg_run_repeats(w->run) && w->run->pass_count < 4)
        add_text(w->next, g_strdup("Run the same test again with --passes 4 or more: is it the "
                                   "same each time?"));
    else if (!rmg_run_repeats(w->run))
        add_text(w->next, g_strdup_printf("Warm %s gently, then cool it, while the test runs on: "
                                          "does it fail more, then less?",
                                          s->name));
    step_supplies(w);
    step_settle(w, bits);
    g_free(bits);
}

/* What could make a whole data line read like this. */
static void data_line_rivals(wording *w)
{
    const bool undriven = reads_undriven(w);
    const bool pulled = w->board->undriven != RMG_UNDRIVEN_HOLDS;

    if (undriven && !pulled) { /* nobody drives it: nothing drags it either */
        rival(w, RMG_CAUSE_LINE_DRIVER,
              g_strdup("the buffer or processor pin: it does not pass this line"));
        rival(w, RMG_CAUSE_LINE_TRACK, g_strdup("the track: cut before the first chip"));
        return;
    }
    rival(w, RMG_CAUSE_CHIP_DRAGS, g_strdup("a chip on it that drags the line"));
    rival(w, RMG_CAUSE_LINE_DRIVER, g_strdup("the buffer or processor pin that drives it"));
    rival(w, RMG_CAUSE_LINE_TRACK,
          g_strdup(undriven ? "the track: cut before the first chip, or shorted"
                            : "the track: shorted"));
}

/* Does the rule's chip hang on the finding's data line, not on that of another half of the bus? */
static bool on_lane(const wording *w, const rmg_rule *rule)
{
    const uint8_t lane = w->s->finding.lane;

    return lane == RMG_NO_BANK || !rule->where.mask ||
           rule->where.match == w->board->bank_wheres[lane].match;
}

static void data_line(wording *w)
{
    gchar *bits = rmg_name_bits(w->s->finding.bits);
    GString *pull = g_string_new(NULL);

    data_line_rivals(w);
    for (size_t s = 0; s < w->board->socket_count; s++)
        for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
            if (w->board->placement.rules[r].socket == s && !w->board->sockets[s].soldered &&
                on_lane(w, &w->board->placement.rules[r]) &&
                rmg_rule_bits(&w->board->placement.rules[r]) & w->s->finding.bits) {
                g_string_append_printf(pull, "%s%s", pull->len ? ", then " : "",
                                       w->board->sockets[s].name);
                break;
            }
    if (w->s->finding.opposite == w->s->finding.bits)
        rmg_add_settling_step(
            w, g_strdup_printf("Power off, measure %s from the processor's pin to the first "
                               "chip: an open circuit is the fault.",
                               bits));
    else if (pull->len)
        rmg_add_settling_step(
            w, g_strdup_printf("Pull the socketed chips on %s one by one (%s) and test "
                               "after each: if %s comes alive, the one just pulled "
                               "dragged it.",
                               bits, pull->str, bits));
    else
        rmg_add_settling_step(w,
                              g_strdup_printf("Lift %s off one chip after another and test after "
                                              "each: if %s comes alive, the chip just lifted "
                                              "dragged it.",
                                              bits, bits));
    add_text(w->next, g_strdup_printf("Power off: measure %s against 0 V and +5 V, and against "
                                      "the data lines beside it. A few ohms are a short.",
                                      bits));
    g_string_free(pull, TRUE);
    g_free(bits);
}

static void address_line(wording *w)
{
    gchar *pins = rmg_name_address_pins(w->board, &w->s->finding);
    const bool bank = w->s->finding.kind == RMG_FINDING_ADDRESS_OF_BANK;

    rival(w, bank ? RMG_CAUSE_LINE_PART : RMG_CAUSE_LINE_DRIVER,
          g_strdup(bank ? "the multiplexer or buffer that feeds this bank"
                        : "the buffer or processor pin that drives the line"));
    rival(w, RMG_CAUSE_LINE_TRACK, track_to(w, "the chips: cut or shorted"));
    rival(w, RMG_CAUSE_CHIP_DRAGS_FAR, g_strdup("one chip that drags the line"));
    rmg_add_settling_step(w, g_strdup_printf("Put a probe on %s of the chips while the test runs: "
                                             "does the level move?",
                                             bank ? pins : "these lines at the pins"));
    add_text(w->next, g_strdup("Power off: check the line from there back to its driver for a "
                               "break, and against 0 V and +5 V for a short."));
    g_free(pins);
}

static void silent(wording *w)
{
    rival(w, w->s->finding.kind == RMG_FINDING_ALL_SILENT ? RMG_CAUSE_LINK : RMG_CAUSE_STROBE,
          g_strdup(w->s->finding.kind == RMG_FINDING_ALL_SILENT
                       ? "the link, the port or the bus buffer"
                       : "the bank's select or strobe (RAS, CAS, WE, CE)"));
    rival(w, RMG_CAUSE_SUPPLY_BANK, g_strdup("a supply that does not reach the chips"));
    rival(w, RMG_CAUSE_CHIPS_MISSING, g_strdup("chips that are all missing"));
    add_text(w->next, g_strdup("Measure the supplies at the pins of one of the chips."));
    rmg_add_settling_step(w, g_strdup("Put a probe on the select and strobe pins of one chip while "
                                      "the test runs: do they move?"));
}

static void spread(wording *w)
{
    rival(w, RMG_CAUSE_NOISE, g_strdup("a supply that is noisy, low or missing at the chips"));
    rival(w, RMG_CAUSE_REFRESH, g_strdup("refresh or timing that is not right"));
    rival(w, RMG_CAUSE_LINK_NOISE, g_strdup("a link or bus that drops bits now and then"));
    add_text(w->next, g_strdup("Measure the supplies at the pins of several chips, with a scope if "
                               "there is one."));
    rmg_add_settling_step(
        w, g_strdup("Run the same test again, cold and warm: do the same words fail?"));
}

/* Several sockets beyond one point of a traced line. */
static void branch(wording *w)
{
    const rmg_line *line = &w->board->lines[w->s->finding.line];
    const rmg_point *bad = &line->points[w->s->finding.point];
    const bool part = strchr(bad->name, '>') || !strchr(bad->name, '.');

    if (part) { /* it also parts a chip that drags the line from the sound ones */
        rival(w, RMG_CAUSE_LINE_PART,
              g_strdup_printf("%s on the way: dead, open or not soldered", bad->name));
        rival(w, RMG_CAUSE_LINE_TRACK,
              g_strdup_printf("the track between %s and %s: cut, or a joint",
                              line->points[bad->parent].name, bad->name));
        rival(w, RMG_CAUSE_CHIP_DRAGS_FAR, g_strdup("a chip beyond it that drags the line"));
    } else {
        rival(w, RMG_CAUSE_LINE_TRACK,
              g_strdup_printf("the track between %s and %s: cut", line->points[bad->parent].name,
                              bad->name));
        rival(w, RMG_CAUSE_LINE_JOINT,
              g_strdup_printf("a joint at %s or %s, where the line goes on",
                              line->points[bad->parent].name, bad->name));
    }
    if (rmg_facts_sound(w->facts, w->s->finding.line, w->s->finding.point, false))
        rmg_add_settling_step(
            w, g_strdup_printf("Measure once more, at the legs of the chips themselves, from %s to "
                               "%s: the chips say that it does not get there.",
                               line->points[bad->parent].name, bad->name));
    else
        rmg_add_settling_step(
            w, g_strdup_printf("Power off, measure from %s to %s: an open circuit is the "
                               "fault.",
                               line->points[bad->parent].name, bad->name));
    add_text(w->next,
             g_strdup_printf("Put a probe on %s and then on %s while the test runs: where does "
                             "the level stop moving?",
                             line->points[bad->parent].name, bad->name));
}

/* Two lines that touch. */
static void touching(wording *w)
{
    rival(w, RMG_CAUSE_LINE_BRIDGE,
          g_strdup("a solder bridge, a hair of wire or dirt between the two"));
    rival(w, RMG_CAUSE_CHIP_BRIDGE, g_strdup("a chip on them that is shorted inside"));
    rival(w, RMG_CAUSE_LINE_DRIVER, g_strdup("the buffer or multiplexer that drives them"));
    rmg_add_settling_step(w, g_strdup("Power off, measure between the two lines: a few ohms are a "
                                      "bridge. Look along both, with a glass, at neighbouring pins "
                                      "and joints first."));
}

static void never_written(wording *w)
{
    const rmg_socket *s = socket_of(w);
    const bool whole = s->part->width > 1 || w->s->finding.bits == 0;
    const unsigned we = rmg_part_pin(s->part, "WE");
    gchar *in = rmg_name_data_pins(w->board, &w->s->finding, true, false);

    rival(w, RMG_CAUSE_CONTACT_WRITE,
          g_strdup_printf("%s at pin %u (WE)", s->soldered ? "a joint" : "a contact of the socket",
                          we));
    rival(w, RMG_CAUSE_CHIP_WRITE, g_strdup_printf("the chip in %s", s->name));
    rival(w, RMG_CAUSE_TRACK_WRITE,
          whole ? g_strdup("the track to its write pin")
                : g_strdup_printf("a joint, contact or track at %s", in));
    step_contact(w, in);
    step_settle(w, in);
    g_free(in);
}

static void bank_never_written(wording *w)
{
    gchar *span = rmg_trace_span(w->run, &w->s->finding);

    rival(w, RMG_CAUSE_LINE_TRACK,
          span ? span : g_strdup("the write line: cut, or its buffer or gate dead"));
    rival(w, RMG_CAUSE_NOT_RAM,
          g_strdup("a ROM, or memory that is write-protected, where RAM was said to be"));
    rival(w, RMG_CAUSE_DATA_BUFFER, g_strdup("the data buffer does not turn round for a write"));
    rmg_add_settling_step(w,
                          g_strdup("Put a probe on the write pin (WE) of one chip while the test "
                                   "runs: does it ever go low?"));
}

static void selects(wording *w)
{
    rival(w, RMG_CAUSE_SELECT_DECODER, g_strdup("the decoder or gate that makes the select"));
    rival(w, RMG_CAUSE_SELECT_ADDRESS, g_strdup("an address line that does not reach the decoder"));
    rival(w, RMG_CAUSE_SELECT_TRACK, g_strdup("the track of the select, shorted or cut"));
    rmg_add_settling_step(w, g_strdup("Put a probe on the select pins of both banks while the test "
                                      "runs: do they take turns?"));
}

static void dragged(wording *w)
{
    const rmg_socket *s = socket_of(w);

    rival(w, RMG_CAUSE_CHIP_ALWAYS_ON, g_strdup_printf("the chip in %s is always on", s->name));
    rival(w, RMG_CAUSE_CONTACT_SELECT,
          g_strdup_printf("its select or enable pin: %s, track or driver",
                          s->soldered ? "joint" : "contact"));
    if (s->soldered)
        rmg_add_settling_step(w,
                              g_strdup_printf("Measure the select and enable pins of %s while the "
                                              "other bank is tested: if they rest, the chip is "
                                              "bad.",
                                              s->name));
    else
        rmg_add_settling_step(w,
                              g_strdup_printf("Pull %s and test the other bank: if it passes, the "
                                              "chip or its select was to blame.",
                                              s->name));
}

void rmg_list_rivals_and_steps(wording *w)
{
    switch (w->s->finding.kind) {
    case RMG_FINDING_DATA_AT_SOCKET:
        data_at_socket(w);
        break;
    case RMG_FINDING_ADDRESS_AT_SOCKET:
        address_at_socket(w);
        break;
    case RMG_FINDING_CELLS:
        cells(w);
        break;
    case RMG_FINDING_DATA_LINE:
        data_line(w);
        break;
    case RMG_FINDING_ADDRESS_LINES:
    case RMG_FINDING_ADDRESS_OF_BANK:
        address_line(w);
        break;
    case RMG_FINDING_BRANCH:
        branch(w);
        break;
    case RMG_FINDING_DATA_SHORT:
    case RMG_FINDING_ADDRESS_SHORT:
        touching(w);
        break;
    case RMG_FINDING_NEVER_WRITTEN:
        never_written(w);
        break;
    case RMG_FINDING_BANK_NEVER_WRITTEN:
        bank_never_written(w);
        break;
    case RMG_FINDING_BANKS_SAME:
    case RMG_FINDING_BANKS_BOTH:
        selects(w);
        break;
    case RMG_FINDING_DRAGGED:
        dragged(w);
        break;
    case RMG_FINDING_SPREAD:
        spread(w);
        break;
    case RMG_FINDING_ALL_SILENT:
    case RMG_FINDING_BANK_SILENT:
        silent(w);
        break;
    }
}
