/* See core_8080.h. */
#include "core_8080.h"

#define ACC    7
#define CARRY  0x01u
#define PARITY 0x04u
#define AUX    0x10u
#define ZERO   0x40u
#define SIGN   0x80u

static uint8_t fetch(core_8080 *p)
{
    return p->read(p->context, p->pc++);
}

static uint16_t fetch_word(core_8080 *p)
{
    const uint8_t low = fetch(p);

    return (uint16_t)(low | fetch(p) << 8);
}

static uint16_t pair(const uint8_t *high)
{
    return (uint16_t)(high[0] << 8 | high[1]);
}

static void set_pair(uint8_t *high, uint16_t value)
{
    high[0] = (uint8_t)(value >> 8);
    high[1] = (uint8_t)value;
}

static uint16_t hl(core_8080 *p)
{
    return pair(&p->r[4]);
}

/* Operand 0-7: 6 is memory. */
static uint8_t get(core_8080 *p, unsigned which)
{
    return which == 6 ? p->read(p->context, hl(p)) : p->r[which];
}

static void put(core_8080 *p, unsigned which, uint8_t value)
{
    if (which == 6)
        p->write(p->context, hl(p), value);
    else
        p->r[which] = value;
}

static uint8_t flags_of(uint8_t value)
{
    return (uint8_t)((value & 0x80u ? SIGN : 0u) | (value ? 0u : ZERO) |
                     (__builtin_parity(value) ? 0u : PARITY) | 2u);
}

static void add(core_8080 *p, uint8_t value, unsigned carry)
{
    const unsigned sum = p->r[ACC] + value + carry;

    p->flags = (uint8_t)(flags_of((uint8_t)sum) | (sum > 0xFFu ? CARRY : 0u) |
                         ((p->r[ACC] & 15u) + (value & 15u) + carry > 15u ? AUX : 0u));
    p->r[ACC] = (uint8_t)sum;
}

static uint8_t subtract(core_8080 *p, uint8_t value, unsigned borrow)
{
    const unsigned result = p->r[ACC] - value - borrow;

    p->flags = (uint8_t)(flags_of((uint8_t)result) | (result > 0xFFu ? CARRY : 0u) |
                         ((p->r[ACC] & 15u) + (~value & 15u) + 1u - borrow > 15u ? AUX : 0u));
    return (uint8_t)result;
}

/* add, adc, sub, sbb, ana, xra, ora, cmp */
static void operate(core_8080 *p, unsigned operation, uint8_t value)
{
    const unsigned carry = p->flags & CARRY;

    switch (operation) {
    case 0:
    case 1:
        add(p, value, operation ? carry : 0u);
        return;
    case 2:
    case 3:
        p->r[ACC] = subtract(p, value, operation == 3 ? carry : 0u);
        return;
    case 4:
        p->flags = (uint8_t)(flags_of(p->r[ACC] & value) | ((p->r[ACC] | value) & 8u ? AUX : 0u));
        p->r[ACC] &= value;
        return;
    case 5:
        p->r[ACC] ^= value;
        break;
    case 6:
        p->r[ACC] |= value;
        break;
    default:
        subtract(p, value, 0);
        return;
    }
    p->flags = flags_of(p->r[ACC]);
}

static void decimal(core_8080 *p)
{
    const bool carry = p->flags & CARRY;
    uint8_t by = 0;
    bool high = carry;

    if ((p->r[ACC] & 15u) > 9 || (p->flags & AUX))
        by = 6;
    if ((p->r[ACC] >> 4) > 9 || carry || ((p->r[ACC] >> 4) == 9 && (p->r[ACC] & 15u) > 9)) {
        by |= 0x60;
        high = true;
    }
    add(p, by, 0);
    p->flags = (uint8_t)((p->flags & ~CARRY) | (high ? CARRY : 0u));
}

static bool condition(const core_8080 *p, unsigned which)
{
    static const uint8_t bits[] = {ZERO, CARRY, PARITY, SIGN};

    return ((p->flags & bits[which >> 1]) != 0) == (which & 1u);
}

static void push(core_8080 *p, uint16_t value)
{
    p->write(p->context, --p->sp, (uint8_t)(value >> 8));
    p->write(p->context, --p->sp, (uint8_t)value);
}

static uint16_t pop(core_8080 *p)
{
    const uint8_t low = p->read(p->context, p->sp++);

    return (uint16_t)(low | p->read(p->context, p->sp++) << 8);
}

static uint16_t get_pair(core_8080 *p, unsigned which)
{
    return which == 3 ? p->sp : pair(&p->r[2 * which]);
}

static void put_pair(core_8080 *p, unsigned which, uint16_t value)
{
    if (which == 3)
        p->sp = value;
    else
        set_pair(&p->r[2 * which], value);
}

static void rotate(core_8080 *p, unsigned which)
{
    const unsigned carry = p->flags & CARRY, a = p->r[ACC];
    const unsigned off = which & 1u ? a & 1u : a >> 7; /* what leaves */

    switch (which) {
    case 0:
        p->r[ACC] = (uint8_t)(a << 1 | off);
        break;
    case 1:
        p->r[ACC] = (uint8_t)(a >> 1 | off << 7);
        break;
    case 2:
        p->r[ACC] = (uint8_t)(a << 1 | carry);
        break;
    default:
        p->r[ACC] = (uint8_t)(a >> 1 | carry << 7);
    }
    p->flags = (uint8_t)((p->flags & ~CARRY) | off);
}

/* 00xxxxxx; false: it is none. Returns the clocks. */
static unsigned low_quarter(core_8080 *p, uint8_t code)
{
    const unsigned which = code >> 3 & 7u, two = code >> 4 & 3u;
    const unsigned step = p->of_8085 ? 4 : 5, two_step = p->of_8085 ? 6 : 5;
    uint16_t at;
    uint8_t value;

    switch (code & 15u) {
    case 0x1:
        put_pair(p, two, fetch_word(p));
        return 10;
    case 0x3:
        put_pair(p, two, (uint16_t)(get_pair(p, two) + 1u));
        return two_step;
    case 0xB:
        put_pair(p, two, (uint16_t)(get_pair(p, two) - 1u));
        return two_step;
    case 0x9: {
        const unsigned sum = hl(p) + get_pair(p, two);

        set_pair(&p->r[4], (uint16_t)sum);
        p->flags = (uint8_t)((p->flags & ~CARRY) | (sum >> 16 ? CARRY : 0u));
        return 10;
    }
    default:
        break;
    }
    switch (code & 7u) {
    case 0:
        return code ? 0 : 4; /* of the 8085 two more, which are not used */
    case 4:
    case 5: {
        const unsigned was = get(p, which);

        value = (uint8_t)(code & 1u ? was - 1u : was + 1u);
        p->flags = (uint8_t)(flags_of(value) | (p->flags & CARRY) |
                             (code & 1u            ? (was & 15u ? AUX : 0u)
                              : (was & 15u) == 15u ? AUX
                                                   : 0u));
        put(p, which, value);
        return which == 6 ? 10 : step;
    }
    case 6:
        value = fetch(p);
        put(p, which, value);
        return which == 6 ? 10 : 7;
    case 7:
        if (which < 4)
            rotate(p, which);
        else if (which == 4)
            decimal(p);
        else if (which == 5)
            p->r[ACC] = (uint8_t)~p->r[ACC];
        else
            p->flags = (uint8_t)(which == 6 ? p->flags | CARRY : p->flags ^ CARRY);
        return 4;
    default:
        break;
    }
    switch (code) { /* 2 and A in the low digit */
    case 0x02:
    case 0x12:
        p->write(p->context, get_pair(p, two), p->r[ACC]);
        return 7;
    case 0x0A:
    case 0x1A:
        p->r[ACC] = p->read(p->context, get_pair(p, two));
        return 7;
    case 0x22:
        at = fetch_word(p);
        p->write(p->context, at, p->r[5]);
        p->write(p->context, (uint16_t)(at + 1u), p->r[4]);
        return 16;
    case 0x2A:
        at = fetch_word(p);
        p->r[5] = p->read(p->context, at);
        p->r[4] = p->read(p->context, (uint16_t)(at + 1u));
        return 16;
    case 0x32:
        p->write(p->context, fetch_word(p), p->r[ACC]);
        return 13;
    default:
        p->r[ACC] = p->read(p->context, fetch_word(p));
        return 13;
    }
}

/* 11xxxxxx */
static unsigned high_quarter(core_8080 *p, uint8_t code)
{
    const unsigned which = code >> 3 & 7u, two = code >> 4 & 3u;
    uint16_t at;

    switch (code & 7u) {
    case 0:
        if (!condition(p, which))
            return p->of_8085 ? 6 : 5;
        p->pc = pop(p);
        return p->of_8085 ? 12 : 11;
    case 2:
        at = fetch_word(p);
        if (!condition(p, which))
            return p->of_8085 ? 7 : 10;
        p->pc = at;
        return 10;
    case 4:
        at = fetch_word(p);
        if (!condition(p, which))
            return p->of_8085 ? 9 : 11;
        push(p, p->pc);
        p->pc = at;
        return p->of_8085 ? 18 : 17;
    case 6:
        operate(p, which, fetch(p));
        return 7;
    case 5:
        if (code & 8u) {
            if (code != 0xCD)
                return 0;
            at = fetch_word(p);
            push(p, p->pc);
            p->pc = at;
            return p->of_8085 ? 18 : 17;
        }
        push(p, two == 3 ? (uint16_t)(p->r[ACC] << 8 | p->flags) : get_pair(p, two));
        return p->of_8085 ? 12 : 11;
    case 1:
        if (code & 8u)
            break;
        at = pop(p);
        if (two == 3) {
            p->r[ACC] = (uint8_t)(at >> 8);
            p->flags = (uint8_t)at;
        } else {
            put_pair(p, two, at);
        }
        return 10;
    default:
        break;
    }
    switch (code) {
    case 0xC3:
        p->pc = fetch_word(p);
        return 10;
    case 0xC9:
        p->pc = pop(p);
        return 10;
    case 0xD3:
        p->out(p->context, fetch(p), p->r[ACC]);
        return 10;
    case 0xEB:
        at = pair(&p->r[2]);
        set_pair(&p->r[2], hl(p));
        set_pair(&p->r[4], at);
        return 4;
    case 0xF3:
    case 0xFB:
        return 4;
    case 0xF9:
        p->sp = hl(p);
        return p->of_8085 ? 6 : 5;
    case 0xE9:
        p->pc = hl(p);
        return p->of_8085 ? 6 : 5;
    default:
        return 0; /* in, xthl and restarts are not used */
    }
}

bool core_8080_step(core_8080 *p)
{
    const uint8_t code = fetch(p);
    unsigned clocks;

    switch (code >> 6) {
    case 0:
        clocks = low_quarter(p, code);
        break;
    case 1:
        p->halted |= code == 0x76;
        clocks = p->of_8085 ? 4 : 5;
        if ((code & 7u) == 6 || (code >> 3 & 7u) == 6)
            clocks = 7;
        put(p, code >> 3 & 7u, get(p, code & 7u));
        break;
    case 2:
        operate(p, code >> 3 & 7u, get(p, code & 7u));
        clocks = (code & 7u) == 6 ? 7 : 4;
        break;
    default:
        clocks = high_quarter(p, code);
    }
    p->clocks += clocks;
    return clocks != 0;
}
