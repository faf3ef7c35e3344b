/* The near half of the link: hello, and single requests. */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "internal.h"

#define PINGS 8u

/* A number of exactly so many digits. */
static bool take_number(const char *text, unsigned digits, uint64_t *value)
{
    *value = 0;
    for (unsigned i = 0; i < digits; i++) {
        const int digit = link_digit(text[i]);

        if (digit < 0)
            return false;
        *value = *value << 4 | (uint64_t)digit;
    }
    return digits > 0;
}

/* An answer that is not what it should be. */
static rmg_status strange(rmg_link *l, const char *request, const char *expected)
{
    for (char *c = l->answer; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    snprintf(l->why, sizeof l->why, "the far end answers \"%.40s\" to \"%.60s\": expected %s",
             l->answer, request, expected);
    return RMG_ERR_PORT;
}

static rmg_status beyond(rmg_link *l, rmg_addr address)
{
    snprintf(l->why, sizeof l->why,
             "address 0x%" PRIX64 " is beyond the last one of the far end, 0x%" PRIX64,
             (uint64_t)address, l->last);
    return RMG_ERR_PORT;
}

static rmg_status read_some(rmg_link *l, rmg_addr first, unsigned count, rmg_word *values)
{
    char request[64], expected[64];
    rmg_status status;

    if ((uint64_t)first > l->last || count - 1u > l->last - first)
        return beyond(l, (rmg_addr)(first + count - 1u));
    if (count == 1)
        snprintf(request, sizeof request, "read %0*" PRIX64, (int)l->address_digits,
                 (uint64_t)first);
    else
        snprintf(request, sizeof request, "read %0*" PRIX64 " %X", (int)l->address_digits,
                 (uint64_t)first, count);
    status = rmg_link_ask(l, request, 0, true);
    if (status != RMG_OK)
        return status;
    snprintf(expected, sizeof expected, "%u digit%s, for its words are %" PRIX64 " at most",
             count * l->word_digits, count * l->word_digits == 1 ? "" : "s", (uint64_t)l->word);
    if (strlen(l->answer) != (size_t)count * l->word_digits)
        return strange(l, request, expected);
    for (unsigned i = 0; i < count; i++) {
        uint64_t value;

        if (!take_number(l->answer + (size_t)i * l->word_digits, l->word_digits, &value) ||
            value > l->word)
            return strange(l, request, expected);
        values[i] = (rmg_word)value;
    }
    return RMG_OK;
}

static rmg_status write_some(rmg_link *l, rmg_addr first, unsigned count, const rmg_word *values)
{
    char request[LINK_ASK];
    size_t size;
    rmg_status status;

    if ((uint64_t)first > l->last || count - 1u > l->last - first)
        return beyond(l, (rmg_addr)(first + count - 1u));
    size = (size_t)snprintf(request, sizeof request, "write %0*" PRIX64 " ", (int)l->address_digits,
                            (uint64_t)first);
    for (unsigned i = 0; i < count; i++)
        size += (size_t)snprintf(request + size, sizeof request - size, "%0*" PRIX64,
                                 (int)l->word_digits, (uint64_t)(values[i] & l->word));
    status = rmg_link_ask(l, request, 0, true);
    return status == RMG_OK && *l->answer ? strange(l, request, "no more than ok") : status;
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    return read_some(context, address, 1, value);
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    return write_some(context, address, 1, &value);
}

/* Words that a line holds beside so many other characters. */
static unsigned words_a_line(const rmg_link *l, size_t other)
{
    const size_t length = rmg_link_length(l), room = length < l->line ? length : l->line;

    return room < other + l->word_digits ? 1u : (unsigned)((room - other) / l->word_digits);
}

static rmg_status read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    rmg_link *l = context;
    rmg_status status = RMG_OK;

    for (rmg_addr done = 0; done < count && status == RMG_OK;) {
        const unsigned most = words_a_line(l, 6u + RMG_LINK_SPACE);
        const unsigned words = count - done < most ? (unsigned)(count - done) : most;

        status = read_some(l, (rmg_addr)(first + done), words, values + done);
        done = (rmg_addr)(done + words);
    }
    return status;
}

static rmg_status write_block(void *context, rmg_addr first, rmg_addr count, const rmg_word *values)
{
    rmg_link *l = context;
    rmg_status status = RMG_OK;

    for (rmg_addr done = 0; done < count && status == RMG_OK;) {
        const unsigned most = words_a_line(l, 10u + l->address_digits + RMG_LINK_SPACE);
        const unsigned words = count - done < most ? (unsigned)(count - done) : most;

        status = write_some(l, (rmg_addr)(first + done), words, values + done);
        done = (rmg_addr)(done + words);
    }
    return status;
}

static rmg_status one_byte(rmg_link *l, rmg_addr address, uint8_t lane, int write, uint8_t *byte)
{
    char request[64];
    uint64_t value;
    rmg_status status;

    if ((uint64_t)address > l->last)
        return beyond(l, address);
    if (write < 0)
        snprintf(request, sizeof request, "read-byte %0*" PRIX64 " %X", (int)l->address_digits,
                 (uint64_t)address, lane);
    else
        snprintf(request, sizeof request, "write-byte %0*" PRIX64 " %X %02X",
                 (int)l->address_digits, (uint64_t)address, lane, (unsigned)write);
    status = rmg_link_ask(l, request, 0, true);
    if (status != RMG_OK || write >= 0)
        return status;
    if (strlen(l->answer) != 2 || !take_number(l->answer, 2, &value))
        return strange(l, request, "2 digits");
    *byte = (uint8_t)value;
    return RMG_OK;
}

static rmg_status read_byte(void *context, rmg_addr address, uint8_t lane, uint8_t *value)
{
    return one_byte(context, address, lane, -1, value);
}

static rmg_status write_byte(void *context, rmg_addr address, uint8_t lane, uint8_t value)
{
    return one_byte(context, address, lane, value, NULL);
}

static rmg_status wait(void *context, uint32_t hold_us)
{
    char request[32];

    snprintf(request, sizeof request, "wait %" PRIX32, hold_us);
    return rmg_link_ask(context, request, hold_us / 1e6, true);
}

static const char *const conditions[] = {"clock", "supply", "heat", "refresh"};

static rmg_status get_condition(void *context, rmg_condition which, int32_t *value)
{
    rmg_link *l = context;
    char request[32];
    uint64_t number;
    rmg_status status;

    if ((unsigned)which >= sizeof conditions / sizeof *conditions)
        return RMG_ERR_PORT_CANNOT;
    snprintf(request, sizeof request, "get %s", conditions[which]);
    status = rmg_link_ask(l, request, 0, true);
    if (status != RMG_OK)
        return status;
    if (strlen(l->answer) > 8 || !take_number(l->answer, (unsigned)strlen(l->answer), &number))
        return strange(l, request, "a number of up to 8 digits");
    *value = (int32_t)(uint32_t)number;
    return RMG_OK;
}

static rmg_status set_condition(void *context, rmg_condition which, int32_t value)
{
    char request[32];

    if ((unsigned)which >= sizeof conditions / sizeof *conditions)
        return RMG_ERR_PORT_CANNOT;
    snprintf(request, sizeof request, "set %s %" PRIX32, conditions[which], (uint32_t)value);
    return rmg_link_ask(context, request, 0, true);
}

static rmg_status by_blocks(void *context, rmg_element_call *call)
{
    const rmg_link *l = context;

    return rmg_element_by_blocks(&l->bus, context, call);
}

/* "key=VALUE" of the answer to hello: a number without needless zeros, and its digits. */
static bool hello_number(const char *answer, const char *key, uint64_t *value, unsigned *digits)
{
    const char *at = strstr(answer, key);
    size_t count;

    if (!at)
        return false;
    at += strlen(key);
    count = strspn(at, "0123456789ABCDEFabcdef");
    if (!count || count > 16 || (at[count] && at[count] != ' '))
        return false;
    *digits = (unsigned)count;
    return take_number(at, (unsigned)count, value);
}

/* Is it one of the words behind "can="? */
static bool can(const char *answer, const char *word)
{
    const char *at = strstr(answer, " can=");
    const size_t size = strlen(word);

    for (at = at ? at + 5 : NULL; at && *at && *at != ' ';) {
        const size_t length = strcspn(at, ", ");

        if (length == size && strncmp(at, word, size) == 0)
            return true;
        at += length + (at[length] == ',');
    }
    return false;
}

/* What the far end says of itself. */
static rmg_status hear_hello(rmg_link *l, rmg_word mask)
{
    uint64_t version = 0, word = 0, line = 0;
    unsigned digits, line_digits;
    const char *name = strstr(l->answer, " name=");

    if (!hello_number(l->answer, "link=", &version, &digits) ||
        !hello_number(l->answer, " word=", &word, &l->word_digits) ||
        !hello_number(l->answer, " last=", &l->last, &l->address_digits) || !(word & 1u) ||
        (word & (word + 1u)))
        return strange(l, "hello", "link=1 word=FF last=FFFF or the like");
    if (!hello_number(l->answer, " line=", &line, &line_digits) || line < 40)
        line = 79;
    l->word = (rmg_word)word;
    l->line = line > LINK_ASK ? LINK_ASK : (size_t)line;
    snprintf(l->name, sizeof l->name, "%s", name ? name + 6 : "");
    for (char *c = l->name; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    if (version < RMG_LINK_VERSION) {
        snprintf(l->why, sizeof l->why, "the far end speaks version %" PRIX64 " of the link",
                 version);
        return RMG_ERR_PORT_CANNOT;
    }
    if (mask & ~(rmg_word)word) {
        snprintf(l->why, sizeof l->why,
                 "the far end's words are %" PRIX64 " at most, those of the board file %" PRIX64,
                 word, (uint64_t)mask);
        return RMG_ERR_PORT_CANNOT;
    }
    snprintf(l->abilities, sizeof l->abilities, "%s",
             strstr(l->answer, " can=") ? strstr(l->answer, " can=") : "");
    l->element = can(l->answer, "element");
    l->bus = (rmg_bus){.version = RMG_BUS_VERSION,
                       .read = read_word,
                       .write = write_word,
                       .run_element = l->element ? rmg_link_element : NULL,
                       .read_block = can(l->answer, "block") ? read_block : NULL,
                       .write_block = can(l->answer, "block") ? write_block : NULL,
                       .read_byte = can(l->answer, "byte") ? read_byte : NULL,
                       .write_byte = can(l->answer, "byte") ? write_byte : NULL,
                       .wait = can(l->answer, "wait") ? wait : NULL,
                       .get_condition = can(l->answer, "get") ? get_condition : NULL,
                       .set_condition = can(l->answer, "set") ? set_condition : NULL};
    l->blocks = l->bus;
    l->blocks.run_element = by_blocks;
    return RMG_OK;
}

/* Hello with a check; a far end that knows none answers without. */
static rmg_status greet(rmg_link *l, rmg_word mask)
{
    rmg_status status;
    size_t sent;
    double start;

    rmg_stream_write(l->stream, "\n", 1, 1000, &sent); /* ends what somebody else began */
    l->greeting = true;
    l->check = 4;
    status = rmg_link_ask(l, "hello", 0, true);
    l->greeting = false;
    l->waking = l->again;
    if (status != RMG_OK)
        return status;
    status = hear_hello(l, mask);
    if (status == RMG_OK && l->check && can(l->answer, "crc32"))
        l->check = 8; /* from the next hello on */
    start = rmg_link_now();
    for (unsigned i = 0; i < PINGS && status == RMG_OK; i++)
        status = rmg_link_ask(l, "hello", 0, true);
    l->speed = PINGS / (rmg_link_now() - start + 1e-6);
    l->slowest = 0;
    return status;
}

rmg_status rmg_link_open(rmg_stream *stream, rmg_word mask, rmg_link **link, char *why)
{
    rmg_link *l = calloc(1, sizeof *l);
    rmg_status status = RMG_ERR_MEMORY;

    *link = NULL;
    *why = '\0';
    if (l) {
        l->stream = stream;
        /* not what another call began with: an answer of its time is not ours */
        l->number = (unsigned)(rmg_link_now() * 1000) & 0xFFu;
        l->words = 16;
        status = greet(l, mask);
    }
    if (status == RMG_OK) {
        *link = l;
        return RMG_OK;
    }
    if (l)
        snprintf(why, RMG_STREAM_WHY, "%s", l->why);
    free(l);
    rmg_stream_close(stream);
    return status;
}

rmg_status rmg_link_greet(rmg_link *l, rmg_word mask)
{
    return greet(l, mask);
}

bool rmg_link_can(const rmg_link *l, const char *ability)
{
    return can(l->abilities, ability);
}

rmg_status rmg_link_tell(rmg_link *l, const char *intent, double takes_s, char *answer, size_t room)
{
    const rmg_status status = rmg_link_ask(l, intent, takes_s, true);

    snprintf(answer, room, "%s", status == RMG_OK ? l->answer : "");
    for (char *c = answer; *c; c++) /* it may be shown */
        if (*c < ' ' || *c > '~')
            *c = '?';
    return status;
}

const char *rmg_link_refused(const rmg_link *l)
{
    return l->refused;
}

void rmg_link_close(rmg_link *l)
{
    if (!l)
        return;
    rmg_stream_close(l->stream);
    free(l);
}

const rmg_bus *rmg_link_bus(const rmg_link *l)
{
    return &l->bus;
}

const rmg_bus *rmg_link_blocks_bus(const rmg_link *l)
{
    return l->bus.read_block && !l->element ? &l->blocks : NULL;
}

const char *rmg_link_name(const rmg_link *l)
{
    return l->name;
}

bool rmg_link_has_elements(const rmg_link *l)
{
    return l->element;
}

bool rmg_link_is_checked(const rmg_link *l)
{
    return l->check > 0;
}

double rmg_link_speed(const rmg_link *l)
{
    return l->speed;
}

void rmg_link_counts(const rmg_link *l, uint64_t *again, uint64_t *lines)
{
    *again = l->again - l->waking;
    *lines = l->lines;
}

const char *rmg_link_why(const rmg_link *l)
{
    return l->why;
}
