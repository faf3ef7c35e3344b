/* The far half of the link: requests other than march elements. */
#include "bus_call.h"
#include "far_line.h"

static const char damaged[] = "-- no check\n";

static uint8_t digits_of(far_number value)
{
    uint8_t digits = 1;

    while (value >>= 4)
        digits++;
    return digits;
}

/* Most findings that one answer has room for: "SPACE first + count . operation . word . word". */
static uint16_t findings_room(const rmg_far_end *far)
{
    const uint16_t digits = (uint16_t)(far->address_digits + far->word_digits);
    const uint16_t one = (uint16_t)(7u + digits + digits);
    uint16_t left = (uint16_t)(far->room.answer_bytes - RMG_LINK_SPACE - 16u - far->address_digits);
    uint16_t most = 0;

    while (most < far->room.found_count && left >= one) {
        left = (uint16_t)(left - one);
        most++;
    }
    return most;
}

rmg_status rmg_far_begin(rmg_far_end *far, const rmg_target *target, rmg_addr last,
                         const char *name, const rmg_far_room *room)
{
    if (!bus_usable(target) || !name)
        return RMG_ERR_ARGUMENT;
    if (room->request_bytes < 80 || room->answer_bytes < 100)
        return RMG_ERR_ROOM;
    far->room = *room;
    far->name = name;
    far->got = 0;
    far->too_long = far->greeted = far->stops = false;
    far->check = 0;
    far->can = NULL;
    far->intent = NULL;
    room->answer[0] = '\0';
    return rmg_far_refit(far, target, last);
}

rmg_status rmg_far_refit(rmg_far_end *far, const rmg_target *target, rmg_addr last)
{
    if (!bus_usable(target))
        return RMG_ERR_ARGUMENT;
    far->target = target;
    far->last = last;
    far->address_digits = digits_of(last);
    far->word_digits = digits_of(target->mask);
    far->most = findings_room(far);
    return far->most ? RMG_OK : RMG_ERR_ROOM;
}

void rmg_far_extend(rmg_far_end *far, const char *can,
                    rmg_far_outcome (*intent)(void *context, rmg_far_end *far), void *context)
{
    far->can = can;
    far->intent = intent;
    far->intent_context = context;
}

void rmg_far_port_stops(rmg_far_end *far)
{
    far->stops = true;
}

static void say_status(rmg_far_end *far, rmg_status status)
{
    rmg_far_text(far, status == RMG_OK                ? " ok"
                      : status == RMG_ERR_PORT_LOST   ? " no lost"
                      : status == RMG_ERR_PORT_CANNOT ? " no cannot"
                                                      : " no port");
}

static void hello(rmg_far_end *far)
{
    const rmg_bus *bus = far->target->bus;

    far->greeted = true;
    rmg_far_text(far, " ok link=1 word=");
    rmg_far_hex(far, far->target->mask, 0);
    rmg_far_text(far, " last=");
    rmg_far_hex(far, far->last, 0);
    rmg_far_text(far, " line=");
    rmg_far_hex(
        far,
        (far_number)((far->room.request_bytes < far->room.answer_bytes ? far->room.request_bytes
                                                                       : far->room.answer_bytes) -
                     1u),
        0);
    rmg_far_text(far, " can=block,element,crc32");
    if (bus->wait)
        rmg_far_text(far, ",wait");
    if (bus->read_byte && bus->write_byte)
        rmg_far_text(far, ",byte");
    if (bus->get_condition)
        rmg_far_text(far, ",get");
    if (bus->set_condition)
        rmg_far_text(far, ",set");
    if (far->can) {
        rmg_far_char(far, ',');
        rmg_far_text(far, far->can);
    }
    rmg_far_text(far, " name=");
    rmg_far_text(far, far->name);
}

static bool take_address(rmg_far_end *far, rmg_addr *address)
{
    far_number value;
    const bool ok = rmg_far_number(far, far->address_digits, far->last, &value);

    *address = (rmg_addr)value;
    return ok;
}

/* "ADDRESS", "ADDRESS COUNT" */
static bool read_words(rmg_far_end *far)
{
    const rmg_target *t = far->target;
    const uint16_t start = far->size, digits = far->word_digits;
    far_number count = 1;
    uint16_t needs = 0;
    rmg_addr address;
    rmg_word value = 0;
    rmg_status status = RMG_OK;

    if (!take_address(far, &address))
        return false;
    if (!rmg_far_at_end(far) &&
        (!rmg_far_number(far, 0, far->room.answer_bytes, &count) || !rmg_far_at_end(far)))
        return false;
    for (uint16_t i = 0; i < (uint16_t)count; i++)
        needs = (uint16_t)(needs + digits > 0xFF00u ? 0xFF00u : needs + digits);
    if (!count || needs + 6u + RMG_LINK_SPACE > far->room.answer_bytes ||
        count - 1u > (far_number)(rmg_addr)(far->last - address))
        return false;
    rmg_far_text(far, " ok ");
    for (uint16_t n = (uint16_t)count; n && status == RMG_OK; n--, address++) {
        status = bus_read(t, address, &value);
        if (status == RMG_OK)
            rmg_far_hex(far, value, far->word_digits);
    }
    if (status != RMG_OK) {
        far->size = start;
        say_status(far, status);
    }
    return true;
}

/* "ADDRESS WORDS": one word or more, one behind the other. They are looked at before any is
 * written. */
static bool write_words(rmg_far_end *far)
{
    const rmg_target *t = far->target;
    rmg_status status = RMG_OK;
    far_number value;
    rmg_addr address, to;
    char *words;

    if (!take_address(far, &address) || rmg_far_at_end(far))
        return false;
    words = far->at;
    for (to = address;; to++) {
        if (!rmg_far_digits(far, far->word_digits, t->mask, &value))
            return false;
        if (rmg_far_at_end(far))
            break;
        if (to == far->last)
            return false;
    }
    far->at = words;
    for (; status == RMG_OK && !rmg_far_at_end(far); address++) {
        rmg_far_digits(far, far->word_digits, t->mask, &value);
        status = bus_write(t, address, (rmg_word)value);
    }
    say_status(far, status);
    return true;
}

/* "ADDRESS LANE", and for writes " BYTE" */
static bool one_byte(rmg_far_end *far, bool write)
{
    const rmg_target *t = far->target;
    rmg_status status = RMG_ERR_PORT_CANNOT;
    far_number lane, value = 0;
    uint8_t byte = 0;
    rmg_addr address;

    if (!take_address(far, &address) || !rmg_far_number(far, 0, (RMG_WORD_BITS >> 3) - 1u, &lane) ||
        (write && !rmg_far_number(far, 2, 255, &value)) || !rmg_far_at_end(far))
        return false;
    byte = (uint8_t)value;
    if (write && t->bus->write_byte)
        status = t->bus->write_byte(t->context, address, (uint8_t)lane, byte);
    if (!write && t->bus->read_byte)
        status = t->bus->read_byte(t->context, address, (uint8_t)lane, &byte);
    say_status(far, status);
    if (!write && status == RMG_OK) {
        rmg_far_char(far, ' ');
        rmg_far_hex(far, byte, 2);
    }
    return true;
}

/* "MICROSECONDS" */
static bool wait(rmg_far_end *far)
{
    far_number us;

    if (!rmg_far_number(far, 0, 0xFFFFFFFFu, &us) || !rmg_far_at_end(far))
        return false;
    say_status(far, bus_wait(far->target, (uint32_t)us));
    return true;
}

/* "clock", "supply", "heat" or "refresh", and for set " VALUE": 32 bits, two's complement */
static bool condition(rmg_far_end *far, bool set)
{
    static const char *const names[] = {"clock", "supply", "heat", "refresh"};
    const rmg_target *t = far->target;
    rmg_status status = RMG_ERR_PORT_CANNOT;
    far_number number = 0;
    int32_t value = 0;
    uint8_t which = 0;

    while (which < 4 && !rmg_far_word(far, names[which]))
        which++;
    if (which == 4 || (set && !rmg_far_number(far, 0, 0xFFFFFFFFu, &number)) ||
        !rmg_far_at_end(far))
        return false;
    if (set && t->bus->set_condition)
        status = t->bus->set_condition(t->context, (rmg_condition)which, (int32_t)number);
    if (!set && t->bus->get_condition)
        status = t->bus->get_condition(t->context, (rmg_condition)which, &value);
    say_status(far, status);
    if (!set && status == RMG_OK) {
        rmg_far_char(far, ' ');
        rmg_far_hex(far, (uint32_t)value, 0);
    }
    return true;
}

/* Carries out what stands behind the number of the request. */
static void carry_out(rmg_far_end *far)
{
    const uint16_t start = far->size;
    bool ok;

    if (rmg_far_word(far, "read"))
        ok = read_words(far);
    else if (rmg_far_word(far, "write"))
        ok = write_words(far);
    else if (rmg_far_word(far, "element"))
        ok = rmg_far_element(far);
    else if (rmg_far_word(far, "wait"))
        ok = wait(far);
    else if (rmg_far_word(far, "get"))
        ok = condition(far, false);
    else if (rmg_far_word(far, "set"))
        ok = condition(far, true);
    else if (rmg_far_word(far, "read-byte"))
        ok = one_byte(far, false);
    else if (rmg_far_word(far, "write-byte"))
        ok = one_byte(far, true);
    else {
        const rmg_far_outcome outcome =
            far->intent ? far->intent(far->intent_context, far) : RMG_FAR_UNKNOWN;

        if (outcome == RMG_FAR_UNKNOWN)
            rmg_far_text(far, " no intent");
        ok = outcome != RMG_FAR_WRONG;
    }
    if (!ok) {
        far->size = start;
        rmg_far_text(far, " no argument");
    }
}

/* A whole request, without its LF. */
static const char *request(rmg_far_end *far)
{
    char *line = far->room.request;
    char *answer = far->room.answer;
    const uint8_t digits = far->got > 9 && line[far->got - 9u] == '*'   ? 8
                           : far->got > 5 && line[far->got - 5u] == '*' ? 4
                                                                        : 0;
    far_number check;

    if (digits) {
        far->got = (uint16_t)(far->got - digits - 1u);
        far->at = line + far->got + 1u;
        if (!rmg_far_number(far, digits, 0xFFFFFFFFu, &check) || !rmg_far_at_end(far) ||
            check != rmg_far_check(line, far->got, digits))
            return damaged;
    }
    line[far->got] = '\0';
    far->at = line;
    if (far->got < 4 || line[2] != ' ' || !rmg_far_number(far, 2, 0xFF, &check))
        return damaged;
    if (rmg_far_word(far, "hello")) {
        far->check = digits;
        far->size = 2;
        answer[0] = line[0];
        answer[1] = line[1];
        hello(far);
        return rmg_far_end_line(far);
    }
    if (far->check && far->check != digits)
        return damaged;
    if (far->greeted && answer[0] == line[0] && answer[1] == line[1])
        return answer; /* asked for again */
    answer[0] = line[0];
    answer[1] = line[1];
    far->size = 2;
    if (far->greeted)
        carry_out(far);
    else {
        far->check = digits;
        rmg_far_text(far, " no hello");
    }
    return rmg_far_end_line(far);
}

const char *rmg_far_take(rmg_far_end *far, char byte)
{
    const char *answer = NULL;

    if (byte == '\r')
        return NULL;
    if (byte != '\n') {
        if (far->got + 1u < far->room.request_bytes)
            far->room.request[far->got++] = byte;
        else
            far->too_long = true;
        return NULL;
    }
    if (far->too_long)
        answer = "-- no line\n";
    else if (far->got) {
        far->room.request[far->got] = '\0';
        answer = request(far);
    }
    far->got = 0;
    far->too_long = false;
    return answer;
}
