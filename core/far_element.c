/* The far half of the link: march elements, a slice of one for each request. */
#include "bus_call.h"
#include "far_line.h"
#include "rimeglass/march.h"

/* The request's arguments, as far as they are no fields of the call. */
typedef struct slice {
    rmg_element_call call;
    rmg_addr end;  /* last word of the range in its direction */
    rmg_addr left; /* words that may still be begun */
    rmg_status status;
    bool done;
} slice;

/* "r0,w1,r1": decoded where it stands, for the request is ours. */
static bool take_operations(rmg_far_end *far, rmg_element_call *call)
{
    uint8_t *const ops = (uint8_t *)far->at;
    uint8_t count = 0;
    char *at = far->at;

    for (;; at++) {
        const char kind = at[0], value = kind ? at[1] : '\0';

        if ((kind != 'r' && kind != 'w') || (value != '0' && value != '1') ||
            count == RMG_MARCH_OPS)
            return false;
        ops[count++] =
            (uint8_t)((kind == 'w' ? RMG_OP_WRITE : 0u) | (value == '1' ? RMG_OP_ONE : 0u));
        at += 2;
        if (*at != ',')
            break;
    }
    if (*at != ' ')
        return false;
    while (*at == ' ')
        at++;
    far->at = at;
    call->ops = ops;
    call->op_count = count;
    return true;
}

/* Range, and the word where it begins or goes on. */
static bool take_addresses(rmg_far_end *far, rmg_element_call *call)
{
    far_number first, last, address;

    if (!rmg_far_number(far, far->address_digits, far->last, &first) ||
        !rmg_far_number(far, far->address_digits, far->last, &last) ||
        !rmg_far_number(far, far->address_digits, far->last, &address))
        return false;
    call->range = (rmg_range){(rmg_addr)first, (rmg_addr)last};
    call->address = (rmg_addr)address;
    return first <= address && address <= last;
}

/* FIRST LAST ADDRESS OPERATION up|down OPERATIONS BACKGROUND MASK WORDS TELL */
static bool take(rmg_far_end *far, slice *s)
{
    rmg_element_call *call = &s->call;
    const rmg_word mask = far->target->mask;
    far_number operation, background, bits, words, tell;

    if (!take_addresses(far, call) || !rmg_far_number(far, 0, 0xFF, &operation))
        return false;
    call->down = rmg_far_word(far, "down");
    if ((!call->down && !rmg_far_word(far, "up")) || !take_operations(far, call) ||
        operation >= call->op_count || !rmg_far_number(far, far->word_digits, mask, &background) ||
        !rmg_far_number(far, far->word_digits, mask, &bits) ||
        !rmg_far_number(far, 0, (rmg_addr) ~(rmg_addr)0, &words) ||
        !rmg_far_number(far, 0, 0xFFFF, &tell) || !rmg_far_at_end(far) ||
        (bits & ~(far_number)mask) || !words || !tell)
        return false;
    call->operation = (uint8_t)operation;
    call->background = (rmg_word)(background & bits);
    call->mask = (rmg_word)bits;
    s->end = call->down ? call->range.first : call->range.last;
    s->left = (rmg_addr)words;
    far->found = 0;
    far->tell = tell < far->most ? (uint16_t)tell : far->most;
    far->down = call->down;
    return true;
}

/* A wrong read: joins those before it that are like it, where it is their neighbour. */
static void found(void *context, rmg_addr address, uint8_t operation, rmg_word expected,
                  rmg_word actual)
{
    rmg_far_end *far = context;
    uint16_t back = far->found < 4 ? far->found : 4;
    rmg_far_found *f = far->room.found + far->found;

    while (back--) {
        f--;
        if (f->operation == operation && f->actual == actual && f->expected == expected &&
            address == (rmg_addr)(far->down ? f->first - f->words : f->first + f->words)) {
            f->words++;
            return;
        }
    }
    if (far->found < far->room.found_count)
        far->room.found[far->found++] = (rmg_far_found){.first = address,
                                                        .words = 1,
                                                        .operation = operation,
                                                        .expected = expected,
                                                        .actual = actual};
}

/* A word is done: on to the next one, unless it was the last. */
static void next_word(slice *s)
{
    rmg_element_call *call = &s->call;

    call->operation = 0;
    s->left--;
    s->done = call->address == s->end;
    if (!s->done)
        call->address = (rmg_addr)(call->down ? call->address - 1u : call->address + 1u);
}

#if RMG_MARCH_LOOPS
/* Whole words of "read, write", from where the call stands: until a read is wrong, which is to be
 * made known by its value in *actual, the words are done, or an access could not be made. */
static bool read_write_words(const rmg_target *t, slice *s, rmg_word *actual)
{
    rmg_element_call *call = &s->call;
    rmg_status (*const read)(void *, rmg_addr, rmg_word *) = t->bus->read;
    rmg_status (*const write)(void *, rmg_addr, rmg_word) = t->bus->write;
    void *const context = t->context;
    const rmg_word mask = call->mask,
                   value[2] = {call->background, (rmg_word)(call->background ^ mask)};
    const rmg_word expected = value[call->ops[0] & RMG_OP_ONE];
    const rmg_word written = value[call->ops[1] & RMG_OP_ONE];
    const rmg_addr step = call->down ? (rmg_addr) ~(rmg_addr)0 : 1u;
    rmg_addr address = call->address;
    rmg_addr more = call->down ? address - s->end : s->end - address;
    rmg_status status;
    rmg_word got = 0;
    bool wrong = false;

    if (more >= s->left)
        more = (rmg_addr)(s->left - 1u);
    s->left = (rmg_addr)(s->left - more);
    for (;; address = (rmg_addr)(address + step), more--) {
        status = read(context, address, &got);
        wrong = (rmg_word)(got & mask) != expected;
        if (status != RMG_OK || wrong)
            break;
        status = write(context, address, written);
        if (status != RMG_OK) {
            call->operation = 1;
            break;
        }
        if (!more)
            break;
    }
    s->left = (rmg_addr)(s->left + more);
    call->address = address;
    s->status = status;
    *actual = (rmg_word)(got & mask);
    if (status == RMG_OK && !wrong)
        next_word(s);
    return status == RMG_OK && wrong;
}
#endif

/* Single accesses from where the call stands, until a read is wrong, the words are done or an
 * access could not be made. true: the read where the call stands was wrong, and gave *actual. What
 * does not change is kept at hand. */
static bool to_next_wrong(const rmg_target *t, slice *s, rmg_word *actual)
{
    rmg_element_call *call = &s->call;
    rmg_status (*const read)(void *, rmg_addr, rmg_word *) = t->bus->read;
    rmg_status (*const write)(void *, rmg_addr, rmg_word) = t->bus->write;
    void *const context = t->context;
    const rmg_word mask = call->mask, zero = call->background, one = (rmg_word)(zero ^ mask);
    const uint8_t *const ops = call->ops;
    const uint8_t count = call->op_count;
    const rmg_addr step = call->down ? (rmg_addr) ~(rmg_addr)0 : 1u, end = s->end;
    rmg_addr address = call->address, left = s->left;
    rmg_status status = RMG_OK;
    rmg_word got = 0;
    bool wrong = false, done = false;
    uint8_t i = call->operation;

#if RMG_MARCH_LOOPS
    if (count == 2 && !i && !(ops[0] & RMG_OP_WRITE) && (ops[1] & RMG_OP_WRITE))
        return read_write_words(t, s, actual);
#endif
    while (left && !done) {
        for (; i < count; i++) {
            const rmg_word value = ops[i] & RMG_OP_ONE ? one : zero;

            if (ops[i] & RMG_OP_WRITE) {
                status = write(context, address, value);
            } else {
                status = read(context, address, &got);
                wrong = (rmg_word)(got & mask) != value;
            }
            if (status != RMG_OK || wrong)
                break;
        }
        if (i < count)
            break;
        i = 0;
        left--;
        done = address == end;
        if (!done)
            address = (rmg_addr)(address + step);
    }
    call->address = address;
    call->operation = i;
    s->left = left;
    s->status = status;
    s->done = done;
    *actual = (rmg_word)(got & mask);
    return wrong && status == RMG_OK;
}

/* Single accesses, until the words are done or another wrong read would have no room. */
static void by_accesses(rmg_far_end *far, slice *s)
{
    rmg_element_call *call = &s->call;
    rmg_word actual;

    while (to_next_wrong(far->target, s, &actual)) {
        const uint8_t op = call->ops[call->operation];

        found(far, call->address, call->operation,
              (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background),
              actual);
        if (++call->operation == call->op_count)
            next_word(s);
        if (far->found >= far->tell || s->done)
            return;
    }
}

/* The port's own loop, as many words at once as have room if all their reads are wrong. false: it
 * has none, or not one word has room. */
static bool by_port(rmg_far_end *far, slice *s)
{
    rmg_element_call *call = &s->call;
    uint16_t room = (uint16_t)(far->tell - far->found);
    uint8_t reads = 0;
    rmg_addr before = call->address, did;

    for (uint8_t i = 0; i < call->op_count; i++)
        reads = (uint8_t)(reads + !(call->ops[i] & RMG_OP_WRITE));
    call->words_a_call = s->left;
    if (reads && !(far->stops && room >= reads)) {
        rmg_addr words = 0;

        for (; room >= reads && words < s->left; room = (uint16_t)(room - reads))
            words++;
        call->words_a_call = words;
    }
    if (!far->target->bus->run_element || !call->words_a_call)
        return false;
    s->status = far->target->bus->run_element(far->target->context, call);
    if (s->status == RMG_ERR_PORT_CANNOT)
        return false;
    s->done = s->status == RMG_OK;
    did = (rmg_addr)(call->down ? before - call->address : call->address - before);
    if (s->status == RMG_ERR_CANCELLED)
        s->status = did || call->operation ? RMG_OK : RMG_ERR_PORT;
    s->left = did < s->left ? (rmg_addr)(s->left - did) : 0;
    return true;
}

/* " ok more ADDRESS OPERATION" or " ok done", or how it ended; then what was read wrong. */
static void tell(rmg_far_end *far, const slice *s)
{
    rmg_far_text(far, s->status == RMG_ERR_PORT_LOST ? " ok lost "
                      : s->status != RMG_OK          ? " ok port "
                      : s->done                      ? " ok done"
                                                     : " ok more ");
    if (s->status != RMG_OK || !s->done) {
        rmg_far_hex(far, s->call.address, far->address_digits);
        rmg_far_char(far, ' ');
        rmg_far_hex(far, s->call.operation, 0);
    }
    for (uint16_t i = 0; i < far->found; i++) {
        const rmg_far_found *f = far->room.found + i;

        rmg_far_char(far, ' ');
        rmg_far_hex(far, f->first, far->address_digits);
        if (f->words > 1) {
            rmg_far_char(far, '+');
            rmg_far_hex(far, f->words, 0);
        }
        rmg_far_char(far, '.');
        rmg_far_hex(far, f->operation, 0);
        rmg_far_char(far, '.');
        rmg_far_hex(far, f->expected, far->word_digits);
        rmg_far_char(far, '.');
        rmg_far_hex(far, f->actual, far->word_digits);
    }
}

bool rmg_far_element(rmg_far_end *far)
{
    slice s = {.call = {.sink_context = far, .mismatch = found}, .status = RMG_OK};

    if (!take(far, &s))
        return false;
    while (!s.done && s.left && s.status == RMG_OK) {
        if (by_port(far, &s))
            continue;
        if (s.status != RMG_OK && s.status != RMG_ERR_PORT_CANNOT)
            break;
        s.status = RMG_OK;
        if (far->found) /* what has room is told first */
            break;
        by_accesses(far, &s);
        if (far->found >= far->tell)
            break;
    }
    tell(far, &s);
    return true;
}
