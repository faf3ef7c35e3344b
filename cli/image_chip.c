/* The image for another chip than the socket was made for: it fills that chip, and each pin that
 * means something else is listed with what it needs. */
#include <string.h>

#include "image_call.h"
#include "rimeglass/part.h"
#include "rimeglass/report.h"

typedef struct replacement {
    const rmg_part *chip, *socket; /* the new one; what the socket was made for */
    rmg_fitting fit;
    bool repeated; /* the image stands in every part of the chip */
} replacement;

static uint64_t bytes_of(const rmg_part *part)
{
    return ((uint64_t)1 << part->address_lines) * ((part->width + 7u) / 8u);
}

/* The socket's pin beneath a pin of the chip; 0: there is none. */
static uint8_t beneath(const replacement *r, uint8_t pin)
{
    const int there = pin + (rmg_part_pin_count(r->socket) - rmg_part_pin_count(r->chip)) / 2;

    return there >= 1 && there <= rmg_part_pin_count(r->socket) ? (uint8_t)there : 0;
}

static bool is_held(const replacement *r, uint8_t pin)
{
    for (size_t i = 0; i < r->fit.reason_count; i++)
        if (r->fit.reasons[i].why == RMG_FIT_HELD && r->fit.reasons[i].pin == pin)
            return true;
    return false;
}

static const rmg_wire *wire_of(const replacement *r, uint8_t pin)
{
    for (size_t i = 0; i < r->fit.wire_count; i++)
        if (r->fit.wires[i].pin == pin)
            return &r->fit.wires[i];
    return NULL;
}

/* What a pin needs; a new text. */
static gchar *need(const replacement *r, uint8_t pin)
{
    const rmg_wire *wire = wire_of(r, pin);
    const uint8_t under = beneath(r, pin);
    const char *off = "";
    char name[RMG_PIN_NAME];

    if (wire && under) {
        rmg_part_pin_name(r->socket, under, name);
        off = strcmp(name, "-") == 0 ? "" : "off the socket's pin, to ";
    }
    rmg_part_pin_name(r->chip, pin, name);
    if (!wire && is_held(r, pin))
        return g_strdup(r->repeated ? "nothing: +5 V is there, and the image is in both halves"
                                    : "+5 V is there, it reads as 1; off the socket's pin and to a "
                                      "jumper to choose");
    if (!wire)
        return g_strdup(strcmp(name, "-") == 0 ? "nothing: it is not connected in the chip"
                                               : "nothing: what is there serves it");
    switch (wire->kind) {
    case RMG_WIRE_FROM:
        rmg_part_pin_name(r->socket, wire->from, name);
        return g_strdup_printf("%sthe socket's pin %u (%s)", off, wire->from, name);
    case RMG_WIRE_LOW:
        return g_strdup_printf("%s0 V", off);
    case RMG_WIRE_HIGH:
        return g_strdup_printf("%s+5 V", off);
    case RMG_WIRE_ANY:
        break;
    }
    return g_strdup_printf("%s0 V or +5 V: %s", off,
                           r->repeated ? "the image is in both halves" : "it chooses the half");
}

/* The pins that have another name than what is beneath them, or need something. */
static void print_pins(FILE *to, const replacement *r)
{
    fprintf(to, "  pin  %-8s socket         needs\n", r->chip->number);
    for (uint8_t pin = 1; pin <= rmg_part_pin_count(r->chip); pin++) {
        const uint8_t under = beneath(r, pin);
        char name[RMG_PIN_NAME], below[RMG_PIN_NAME] = "";
        gchar *there, *lead, *text;

        rmg_part_pin_name(r->chip, pin, name);
        if (under)
            rmg_part_pin_name(r->socket, under, below);
        if (!wire_of(r, pin) && strcmp(name, below) == 0)
            continue;
        there = under ? g_strdup_printf("%u (%s)", under, below) : g_strdup("no pin");
        lead = g_strdup_printf("  %3u  %-8s %-14s ", pin, name, there);
        text = need(r, pin);
        print_wrapped(to, lead, (unsigned)strlen(lead), text);
        g_free(text);
        g_free(lead);
        g_free(there);
    }
}

/* What else there is to know of it, or why it does not fit. */
static void print_reasons(FILE *to, const replacement *r, bool refusing)
{
    for (size_t i = 0; i < r->fit.reason_count; i++) {
        const rmg_fit_reason *reason = &r->fit.reasons[i];
        char *text;

        if (reason->refuses != refusing || reason->why == RMG_FIT_HELD)
            continue;
        text = rmg_fit_reason_text(r->socket, r->chip, reason);
        text[0] = g_ascii_toupper(text[0]);
        print_wrapped(to, "  - ", 4, text);
        rmg_text_free(text);
    }
}

static void print_chip(const image_call *call, const replacement *r)
{
    const bool fits = r->fit.fit != RMG_FITS_NOT;

    fprintf(call->to, "A %s in the socket of a %s: %s\n", r->chip->number, r->socket->number,
            r->fit.fit == RMG_FITS           ? "it fits."
            : r->fit.fit == RMG_FITS_ADAPTED ? "it fits with wires."
                                             : "it does not fit.");
    if (fits && r->chip != r->socket)
        print_pins(call->to, r);
    print_reasons(call->to, r, !fits);
}

/* The parts named: "CHIP,SOCKET". */
static bool read_parts(const image_step *step, replacement *r)
{
    gchar **names = g_strsplit(step->value, ",", -1);
    const char *suffix;
    bool ok = g_strv_length(names) == 2 && *names[0] && *names[1];

    if (!ok)
        wrong_call("image",
                   "--%s %s: expected two parts, like 27512,27128: the chip, and what its socket "
                   "was made for",
                   step->name, step->value);
    ok = ok && (r->chip = part_of_marking("image", names[0], &suffix)) != NULL &&
         (r->socket = part_of_marking("image", names[1], &suffix)) != NULL;
    if (ok)
        rmg_part_fit(r->socket, &(rmg_given){0}, r->chip, "", &r->fit);
    g_strfreev(names);
    return ok;
}

/* Neither as long as what the socket was made for, nor as the chip. */
static void wrong_size(const image_step *step, const replacement *r, uint64_t size)
{
    const uint64_t chip = bytes_of(r->chip), socket = bytes_of(r->socket);
    gchar *full = chip == socket ? g_strdup("")
                                 : g_strdup_printf(", or %" G_GUINT64_FORMAT
                                                   ", which fill the %s (--join makes such)",
                                                   (guint64)chip, r->chip->number);

    wrong_call("image",
               "--%s %s: the image has %" G_GUINT64_FORMAT " bytes; expected %" G_GUINT64_FORMAT
               ", as the %s holds (--pad or --repeat first)%s",
               step->name, step->value, (guint64)size, (guint64)socket, r->socket->number, full);
    g_free(full);
}

bool image_for_chip(const image_call *call, const image_step *step, rmg_image *image)
{
    const rmg_piece *end = &image->pieces[image->count - 1];
    const uint64_t size = end->address + end->size - image->pieces[0].address;
    replacement r = {0};
    rmg_error error = {0};
    uint64_t chip, socket;

    if (!read_parts(step, &r))
        return false;
    chip = bytes_of(r.chip);
    socket = bytes_of(r.socket);
    if (r.fit.fit == RMG_FITS_NOT) {
        print_chip(call, &r);
        wrong_call("image", "--%s %s: a %s does not fit there", step->name, step->value,
                   r.chip->number);
        return false;
    }
    if (size != socket && size != chip) {
        wrong_size(step, &r, size);
        return false;
    }
    r.repeated = size != chip;
    if (rmg_image_repeat(image, chip, call->fill, &error) != RMG_OK) {
        wrong_call("image", "--%s %s: %s", step->name, step->value, error.what);
        rmg_error_free(&error);
        return false;
    }
    print_chip(call, &r);
    return true;
}
