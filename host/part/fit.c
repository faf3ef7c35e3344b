/* Can one part stand where another stood? Pin by pin: what the new part needs, and where the socket
 * has it. The socket is known by the part that it was made for. */
#include "table.h"

#include <string.h>

typedef struct pin_facts {
    rmg_pin_role role;
    uint8_t line;
    bool high;
    int millivolts;
} pin_facts;

typedef struct fit_work {
    const rmg_part *here, *there;
    pin_facts here_pins[RMG_FIT_MOST + 1], there_pins[RMG_FIT_MOST + 1]; /* from pin 1 */
    uint8_t here_count, there_count;
    rmg_fitting *out;
    int shift;      /* the socket's pin beneath pin p of the part is p + shift */
    uint64_t taken; /* selects of the socket that serve a pin already */
    bool selected;  /* one of the part's selects is served by the socket */
} fit_work;

static uint8_t look_up(const rmg_part *part, pin_facts *facts)
{
    const uint8_t count = rmg_part_pin_count(part);

    for (uint8_t pin = 1; pin <= count && pin <= RMG_FIT_MOST; pin++)
        facts[pin].role =
            rmg_part_role(part, pin, &facts[pin].line, &facts[pin].high, &facts[pin].millivolts);
    return count > RMG_FIT_MOST ? RMG_FIT_MOST : count;
}

/* What the socket has there; nothing where it has no such pin. */
static pin_facts facts_here(const fit_work *w, int pin)
{
    return pin >= 1 && pin <= w->here_count ? w->here_pins[pin]
                                            : (pin_facts){RMG_PIN_NONE, 0, false, 0};
}

static void say(fit_work *w, rmg_fit_why why, bool refuses, uint8_t pin, int there, int here)
{
    rmg_fitting *out = w->out;

    for (size_t i = 0; i < out->reason_count; i++)
        if (out->reasons[i].why == why && out->reasons[i].pin == pin &&
            out->reasons[i].here == here)
            return;
    if (out->reason_count < RMG_FIT_MOST)
        out->reasons[out->reason_count++] = (rmg_fit_reason){why, refuses, pin, there, here};
    if (refuses)
        out->fit = RMG_FITS_NOT;
}

static void wire(fit_work *w, uint8_t pin, rmg_wire_kind kind, uint8_t from)
{
    rmg_fitting *out = w->out;

    if (kind == RMG_WIRE_FROM && from == pin + w->shift)
        return; /* straight down */
    if (out->wire_count < RMG_FIT_MOST)
        out->wires[out->wire_count++] = (rmg_wire){pin, from, kind};
    if (out->fit == RMG_FITS)
        out->fit = RMG_FITS_ADAPTED;
}

/* The socket's pin of that role (and line, and voltage), the one beneath `pin` first; 0: none. */
static uint8_t find_here(const fit_work *w, uint8_t pin, pin_facts wanted)
{
    const int beneath = pin + w->shift;
    uint8_t found = 0;

    for (uint8_t p = 1; p <= w->here_count; p++) {
        const pin_facts f = facts_here(w, p);

        if (f.role == wanted.role && f.line == wanted.line && f.millivolts == wanted.millivolts &&
            (!found || p == beneath))
            found = p;
    }
    return found;
}

/* A level that stands still: is it there beneath the pin already? */
static void tie(fit_work *w, uint8_t pin, rmg_wire_kind level)
{
    const int beneath = pin + w->shift;
    const pin_facts f = facts_here(w, beneath);
    const bool plus = (f.role == RMG_PIN_SUPPLY && f.millivolts == 5000) ||
                      (f.role == RMG_PIN_PROGRAM && !rmg_part_pin(w->here, "VBB"));
    const bool zero = f.role == RMG_PIN_SUPPLY && f.millivolts == 0;

    if ((plus && level == RMG_WIRE_HIGH) || (zero && level == RMG_WIRE_LOW) ||
        (level == RMG_WIRE_ANY && (plus || zero))) {
        if (level == RMG_WIRE_ANY && plus && w->there->kind == RMG_PART_ROM)
            say(w, RMG_FIT_HELD, false, pin, 0, 0);
        return;
    }
    wire(w, pin, level, 0);
}

/* A select of the socket that is free, of that polarity: the one beneath the pin first, then one
 * that is a select rather than an output enable. */
static uint8_t free_select(const fit_work *w, uint8_t pin, bool high, rmg_pin_role first)
{
    const int beneath = pin + w->shift;
    uint8_t found = 0;
    unsigned best = 0;

    for (uint8_t p = 1; p <= w->here_count; p++) {
        const pin_facts f = facts_here(w, p);
        unsigned worth;

        if ((f.role != RMG_PIN_SELECT && f.role != RMG_PIN_OUTPUT) || w->taken >> p & 1u ||
            (f.high != high && !rmg_part_is_masked(w->here, p)))
            continue;
        worth = 1u + (p == beneath) + 2u * (f.role == first);
        if (worth > best) {
            best = worth;
            found = p;
        }
    }
    return found;
}

static void place_select(fit_work *w, uint8_t pin, pin_facts f)
{
    uint8_t from = free_select(w, pin, f.high, f.role);
    const bool masked = rmg_part_is_masked(w->there, pin);

    if (!from && masked)
        from = free_select(w, pin, !f.high, f.role);
    /* what is no output enable does not take the place of the only select */
    if (from) {
        w->taken |= (uint64_t)1 << from;
        w->selected = true;
        wire(w, pin, RMG_WIRE_FROM, from);
        if (w->here != w->there && (masked || rmg_part_is_masked(w->here, from)))
            say(w, RMG_FIT_MASKED, false, pin, f.high, from);
    } else if (w->selected) {
        tie(w, pin, f.high ? RMG_WIRE_HIGH : RMG_WIRE_LOW);
    } else {
        say(w, RMG_FIT_SIGNAL, true, pin, 0, 0);
    }
}

/* Data pins: line by line, in and out. */
static void place_data(fit_work *w)
{
    for (uint8_t i = 0; i < w->there->width; i++) {
        uint8_t in, out, in_here, out_here;

        rmg_part_data_pins(w->there, i, &in, &out);
        rmg_part_data_pins(w->here, i, &in_here, &out_here);
        if (!in || !out || !in_here || !out_here ||
            (w->there->kind != RMG_PART_ROM && (in == out) != (in_here == out_here))) {
            say(w, RMG_FIT_SIGNAL, true, in, 0, 0);
            continue;
        }
        wire(w, out, RMG_WIRE_FROM, out_here);
        if (in != out)
            wire(w, in, RMG_WIRE_FROM, in_here);
    }
}

static void place_program(fit_work *w, uint8_t pin)
{
    char name[RMG_PIN_NAME];

    rmg_part_pin_name(w->there, pin, name);
    if (w->here == w->there)
        return;
    /* with three supplies the programming pin rests at 0 V */
    tie(w, pin,
        strcmp(name, "PGM") == 0 && rmg_part_pin(w->there, "VBB") ? RMG_WIRE_LOW : RMG_WIRE_HIGH);
}

static void place_pin(fit_work *w, uint8_t pin)
{
    const pin_facts f = w->there_pins[pin];
    const uint8_t from = find_here(w, pin, f);

    switch (f.role) {
    case RMG_PIN_SUPPLY:
        if (from)
            wire(w, pin, RMG_WIRE_FROM, from);
        else
            say(w, RMG_FIT_SUPPLY, true, pin, f.millivolts, 0);
        break;
    case RMG_PIN_ADDRESS:
        if (from)
            wire(w, pin, RMG_WIRE_FROM, from);
        else
            tie(w, pin, RMG_WIRE_ANY);
        break;
    case RMG_PIN_WRITE:
        if (from) {
            wire(w, pin, RMG_WIRE_FROM, from);
        } else if (w->there->kind == RMG_PART_ROM) {
            tie(w, pin, RMG_WIRE_HIGH);
            say(w, RMG_FIT_WRITABLE, false, pin, 0, 0);
        } else {
            say(w, RMG_FIT_SIGNAL, true, pin, 0, 0);
        }
        break;
    case RMG_PIN_ROW:
    case RMG_PIN_COLUMN:
    case RMG_PIN_OTHER:
        if (from)
            wire(w, pin, RMG_WIRE_FROM, from);
        else
            say(w, RMG_FIT_SIGNAL, true, pin, 0, 0);
        break;
    case RMG_PIN_PROGRAM:
        place_program(w, pin);
        break;
    case RMG_PIN_NONE: /* needs nothing */
    case RMG_PIN_DATA: /* by lines */
    case RMG_PIN_SELECT:
    case RMG_PIN_OUTPUT: /* after the others */
        break;
    }
}

/* Selects first, then output enables: what is left over may be tied. Of several, those that find
 * their own polarity beneath them come first. */
static void place_selects(fit_work *w)
{
    static const rmg_pin_role order[] = {RMG_PIN_SELECT, RMG_PIN_OUTPUT};

    for (size_t i = 0; i < 2; i++)
        for (unsigned turn = 0; turn < 2; turn++)
            for (uint8_t pin = 1; pin <= w->there_count; pin++) {
                const pin_facts f = w->there_pins[pin], below = facts_here(w, pin + w->shift);

                if (f.role == order[i] && (below.role == f.role && below.high == f.high) == !turn)
                    place_select(w, pin, f);
            }
}

/* Selects and output enables of the socket that nothing listens to. */
static void check_unused(fit_work *w)
{
    for (uint8_t pin = 1; pin <= w->here_count; pin++) {
        const rmg_pin_role role = facts_here(w, pin).role;

        if ((role == RMG_PIN_SELECT || role == RMG_PIN_OUTPUT) && !(w->taken >> pin & 1u))
            say(w, RMG_FIT_UNUSED, false, 0, 0, pin);
    }
}

/* Column lines at pins that carry a row line only here. */
static void check_columns(fit_work *w)
{
    for (uint8_t line = w->there->row_lines; w->there->row_lines && line < w->there->address_lines;
         line++) {
        const uint8_t pin = rmg_part_address_pin(w->there, line);
        const pin_facts f = w->there_pins[pin];
        bool found = false;

        for (uint8_t i = w->here->row_lines; i < w->here->address_lines; i++)
            found |= facts_here(w, rmg_part_address_pin(w->here, i)).line == f.line;
        if (!found && find_here(w, pin, f) && !w->here->half_of)
            say(w, RMG_FIT_COLUMNS, false, pin, 0, 0);
    }
}

/* Rows: each of the first rows is walked once in the period; of a part with fewer rows than are
 * walked each comes several times. */
static void check_refresh(fit_work *w, const rmg_given *given)
{
    const rmg_part *there = w->there;
    const bool told = given->refresh_cycles && given->refresh_ms;
    const unsigned rows = told ? given->refresh_cycles : w->here->refresh_cycles;
    const unsigned ms = told ? given->refresh_ms : w->here->refresh_ms;
    const bool too_few = there->refresh_cycles > rows;
    /* microseconds a row: what it is given, and what it needs */
    const unsigned gives = rows ? ms * 1000u / rows : 0;
    const unsigned needs =
        there->refresh_cycles ? there->refresh_ms * 1000u / there->refresh_cycles : 0;

    if (there->kind != RMG_PART_DRAM || !there->refresh_cycles || !rows)
        return;
    if (!told && (too_few || gives > needs))
        say(w, RMG_FIT_REFRESH_UNKNOWN, false, 0, there->refresh_cycles, (int)rows);
    else if (too_few)
        say(w, RMG_FIT_ROWS, true, 0, there->refresh_cycles, (int)rows);
    else if (gives > needs)
        say(w, RMG_FIT_PERIOD, true, 0, (int)needs, (int)gives);
}

static void check_whole(fit_work *w, const rmg_given *given, const char *suffix)
{
    const rmg_part *here = w->here, *there = w->there;
    const unsigned ns = rmg_part_ns(there, suffix);

    if (here->kind != there->kind)
        say(w, RMG_FIT_KIND, true, 0, (int)there->kind, (int)here->kind);
    if (here->width != there->width)
        say(w, RMG_FIT_WIDTH, true, 0, there->width, here->width);
    if (there->address_lines < here->address_lines)
        say(w, RMG_FIT_DEPTH, true, 0, there->address_lines, here->address_lines);
    else if (there->address_lines > here->address_lines)
        say(w, RMG_FIT_LARGER, false, 0, there->address_lines - here->address_lines, 0);
    if (there->half_of)
        say(w, RMG_FIT_HALF, false, 0, 0, 0);
    check_refresh(w, given);
    if (given->within_ns && ns > given->within_ns)
        say(w, RMG_FIT_SLOW, true, 0, (int)ns, (int)given->within_ns);
    else if (!given->within_ns || !ns)
        say(w, RMG_FIT_SPEED_UNKNOWN, false, 0, (int)ns, (int)given->within_ns);
    if (there->open && !here->open)
        say(w, RMG_FIT_OPEN, false, 0, 0, 0);
    if (there->inverted != here->inverted)
        say(w, RMG_FIT_INVERTED, true, 0, there->inverted, here->inverted);
    if (here->package != there->package && here->package && there->package) {
        say(w, RMG_FIT_PACKAGE, false, 0, (int)there->package, (int)here->package);
        if (w->out->fit == RMG_FITS)
            w->out->fit = RMG_FITS_ADAPTED;
    }
    if (here != there && !rmg_part_checked(there))
        say(w, RMG_FIT_UNCHECKED, false, 0, 0, 0);
}

void rmg_part_fit(const rmg_part *here, const rmg_given *given, const rmg_part *there,
                  const char *suffix, rmg_fitting *fitting)
{
    fit_work w = {.here = here, .there = there, .out = fitting};

    memset(fitting, 0, sizeof *fitting);
    w.here_count = look_up(here, w.here_pins);
    w.there_count = look_up(there, w.there_pins);
    w.shift = (w.here_count - w.there_count) / 2;
    check_whole(&w, given, suffix);
    if (fitting->fit == RMG_FITS_NOT && (here->kind != there->kind || here->width != there->width))
        return; /* its pins need no comparison */
    if (here != there) {
        place_data(&w);
        for (uint8_t pin = 1; pin <= w.there_count; pin++)
            place_pin(&w, pin);
        place_selects(&w);
        check_unused(&w);
        check_columns(&w);
    }
}
