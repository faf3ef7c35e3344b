/* A 6809 of our own, by the data sheet's tables of instructions, indexed modes and clocks. It has
 * no interrupts: SWI, SYNC and CWAI stop it. */
#include "core_6809.h"

enum { C = 1, V = 2, Z = 4, N = 8, H = 32 };
enum { IMMEDIATE, DIRECT, INDEXED, EXTENDED };

static uint8_t read8(core_6809 *c, uint16_t address)
{
    return c->read(c->context, address);
}

static uint16_t read16(core_6809 *c, uint16_t address)
{
    const uint8_t high = read8(c, address);

    return (uint16_t)(high << 8 | read8(c, (uint16_t)(address + 1)));
}

static void write16(core_6809 *c, uint16_t address, uint16_t value)
{
    c->write(c->context, address, (uint8_t)(value >> 8));
    c->write(c->context, (uint16_t)(address + 1), (uint8_t)value);
}

static uint8_t next8(core_6809 *c)
{
    c->taken++;
    return read8(c, c->pc++);
}

static uint16_t next16(core_6809 *c)
{
    const uint16_t value = read16(c, c->pc);

    c->pc = (uint16_t)(c->pc + 2);
    c->taken = (uint8_t)(c->taken + 2);
    return value;
}

static uint16_t d_of(const core_6809 *c)
{
    return (uint16_t)(c->a << 8 | c->b);
}

static void set_d(core_6809 *c, uint16_t value)
{
    c->a = (uint8_t)(value >> 8);
    c->b = (uint8_t)value;
}

static void flag(core_6809 *c, uint8_t which, bool on)
{
    c->cc = (uint8_t)((c->cc & ~which) | (on ? which : 0));
}

static void sign8(core_6809 *c, uint8_t value)
{
    flag(c, N, value & 0x80);
    flag(c, Z, !value);
}

static void sign16(core_6809 *c, uint16_t value)
{
    flag(c, N, value & 0x8000);
    flag(c, Z, !value);
}

static uint8_t add8(core_6809 *c, uint8_t a, uint8_t b, unsigned carry)
{
    const unsigned sum = a + b + carry;

    flag(c, H, ((a & 15u) + (b & 15u) + carry) > 15u);
    flag(c, C, sum > 0xFF);
    flag(c, V, ~(a ^ b) & (a ^ sum) & 0x80);
    sign8(c, (uint8_t)sum);
    return (uint8_t)sum;
}

static uint8_t sub8(core_6809 *c, uint8_t a, uint8_t b, unsigned borrow)
{
    const unsigned rest = a - b - borrow;

    flag(c, C, rest > 0xFF);
    flag(c, V, (a ^ b) & (a ^ rest) & 0x80);
    sign8(c, (uint8_t)rest);
    return (uint8_t)rest;
}

static uint16_t add16(core_6809 *c, uint16_t a, uint16_t b)
{
    const uint32_t sum = (uint32_t)a + b;

    flag(c, C, sum > 0xFFFF);
    flag(c, V, ~(a ^ b) & (a ^ sum) & 0x8000);
    sign16(c, (uint16_t)sum);
    return (uint16_t)sum;
}

static uint16_t sub16(core_6809 *c, uint16_t a, uint16_t b)
{
    const uint32_t rest = (uint32_t)a - b;

    flag(c, C, rest > 0xFFFF);
    flag(c, V, (a ^ b) & (a ^ rest) & 0x8000);
    sign16(c, (uint16_t)rest);
    return (uint16_t)rest;
}

static uint8_t logic(core_6809 *c, uint8_t value)
{
    sign8(c, value);
    flag(c, V, false);
    return value;
}

/* The address of an indexed operand; its clocks are added to *clocks. */
static uint16_t indexed(core_6809 *c, unsigned *clocks)
{
    const uint8_t post = next8(c);
    uint16_t *const pointers[] = {&c->x, &c->y, &c->u, &c->s};
    uint16_t *r = pointers[post >> 5 & 3];
    uint16_t at = *r;

    if (!(post & 0x80)) {
        *clocks += 1;
        return (uint16_t)(at + (post & 15) - (post & 16));
    }
    switch (post & 15) {
    case 0:
        *clocks += 2;
        *r = (uint16_t)(at + 1);
        break;
    case 1:
        *clocks += 3;
        *r = (uint16_t)(at + 2);
        break;
    case 2:
        *clocks += 2;
        at = *r = (uint16_t)(at - 1);
        break;
    case 3:
        *clocks += 3;
        at = *r = (uint16_t)(at - 2);
        break;
    case 4:
        break;
    case 5:
        *clocks += 1;
        at = (uint16_t)(at + (int8_t)c->b);
        break;
    case 6:
        *clocks += 1;
        at = (uint16_t)(at + (int8_t)c->a);
        break;
    case 8:
        *clocks += 1;
        at = (uint16_t)(at + (int8_t)next8(c));
        break;
    case 9:
        *clocks += 4;
        at = (uint16_t)(at + next16(c));
        break;
    case 11:
        *clocks += 4;
        at = (uint16_t)(at + d_of(c));
        break;
    case 12: {
        const int8_t offset = (int8_t)next8(c);

        *clocks += 1;
        at = (uint16_t)(c->pc + offset);
        break;
    }
    case 13: {
        const uint16_t offset = next16(c);

        *clocks += 5;
        at = (uint16_t)(c->pc + offset);
        break;
    }
    case 15:
        *clocks += 2;
        at = next16(c);
        break;
    default:
        c->stopped = true;
    }
    if (post & 0x10) {
        *clocks += 3;
        at = read16(c, at);
    }
    return at;
}

/* Where an operand lies; `bytes` of it where it is immediate. */
static uint16_t operand(core_6809 *c, unsigned mode, unsigned bytes, unsigned *clocks)
{
    uint16_t at = c->pc;

    switch (mode) {
    case IMMEDIATE:
        c->pc = (uint16_t)(c->pc + bytes);
        c->taken = (uint8_t)(c->taken + bytes);
        return at;
    case DIRECT:
        *clocks += 2;
        return (uint16_t)(c->dp << 8 | next8(c));
    case INDEXED:
        *clocks += 2;
        return indexed(c, clocks);
    default:
        *clocks += 3;
        return next16(c);
    }
}

/* One byte changed in its place. */
static uint8_t change(core_6809 *c, unsigned what, uint8_t v)
{
    const unsigned carry = c->cc & C;

    switch (what) {
    case 0x0: /* NEG */
        return sub8(c, 0, v, 0);
    case 0x3: /* COM */
        v = logic(c, (uint8_t)~v);
        flag(c, C, true);
        return v;
    case 0x4: /* LSR */
        flag(c, C, v & 1);
        v = (uint8_t)(v >> 1);
        sign8(c, v);
        return v;
    case 0x6: /* ROR */
        flag(c, C, v & 1);
        v = (uint8_t)(v >> 1 | carry << 7);
        sign8(c, v);
        return v;
    case 0x7: /* ASR */
        flag(c, C, v & 1);
        v = (uint8_t)(v >> 1 | (v & 0x80));
        sign8(c, v);
        return v;
    case 0x8: /* ASL */
    case 0x9: /* ROL */
        flag(c, C, v & 0x80);
        flag(c, V, (v ^ v << 1) & 0x80);
        v = (uint8_t)((unsigned)v << 1 | (what == 0x9 ? carry : 0u));
        sign8(c, v);
        return v;
    case 0xA: /* DEC */
        flag(c, V, v == 0x80);
        v--;
        sign8(c, v);
        return v;
    case 0xC: /* INC */
        flag(c, V, v == 0x7F);
        v++;
        sign8(c, v);
        return v;
    case 0xD: /* TST */
        return logic(c, v);
    case 0xF: /* CLR */
        flag(c, C, false);
        return logic(c, 0);
    default:
        c->stopped = true;
        return v;
    }
}

static unsigned change_memory(core_6809 *c, unsigned what, unsigned mode)
{
    unsigned clocks = 4;
    const uint16_t at = operand(c, mode, 0, &clocks);

    if (what == 0xE) { /* JMP */
        c->pc = at;
        return clocks - 3;
    }
    {
        const uint8_t value = change(c, what, read8(c, at));

        if (what != 0xD)
            c->write(c->context, at, value);
    }
    return clocks;
}

/* An operation of A or B with a byte. */
static void accumulate(core_6809 *c, unsigned what, uint8_t *r, uint8_t v)
{
    switch (what) {
    case 0x0:
        *r = sub8(c, *r, v, 0);
        break;
    case 0x1:
        sub8(c, *r, v, 0);
        break;
    case 0x2:
        *r = sub8(c, *r, v, c->cc & C);
        break;
    case 0x4:
        *r = logic(c, *r & v);
        break;
    case 0x5:
        logic(c, *r & v);
        break;
    case 0x6:
        *r = logic(c, v);
        break;
    case 0x8:
        *r = logic(c, *r ^ v);
        break;
    case 0x9:
        *r = add8(c, *r, v, c->cc & C);
        break;
    case 0xA:
        *r = logic(c, *r | v);
        break;
    case 0xB:
        *r = add8(c, *r, v, 0);
        break;
    default:
        c->stopped = true;
    }
}

static void load16(core_6809 *c, uint16_t *r, uint16_t value)
{
    *r = value;
    sign16(c, value);
    flag(c, V, false);
}

static void store16(core_6809 *c, uint16_t at, uint16_t value)
{
    write16(c, at, value);
    sign16(c, value);
    flag(c, V, false);
}

/* 80 to FF, behind no prefix (page 0), 10 (1) or 11 (2). */
static unsigned with_operand(core_6809 *c, unsigned page, uint8_t op)
{
    const unsigned what = op & 15u, mode = op >> 4 & 3u;
    const bool second = op & 0x40;
    unsigned clocks = 2 + (page != 0);
    uint16_t at, d = d_of(c);
    const bool wide = what == 0x3 || what == 0xC || what == 0xE;

    if (!page && op == 0x8D) { /* BSR */
        const int8_t distance = (int8_t)next8(c);

        c->s = (uint16_t)(c->s - 2);
        write16(c, c->s, c->pc);
        c->pc = (uint16_t)(c->pc + distance);
        return 7;
    }
    if ((what == 0x7 || what == 0xF || (what == 0xD && second)) && mode == IMMEDIATE) {
        c->stopped = true;
        return 1;
    }
    at = operand(c, mode, wide ? 2 : 1, &clocks);
    if (what == 0x3 || (what == 0xC && (!second || page))) { /* arithmetic of 16 bits */
        const uint16_t v = read16(c, at);

        clocks += 2;
        if (what == 0x3 && page == 0)
            set_d(c, second ? add16(c, d, v) : sub16(c, d, v));
        else if (second)
            c->stopped = true;
        else if (what == 0x3)
            sub16(c, page == 1 ? d : c->u, v);
        else
            sub16(c, page == 0 ? c->x : page == 1 ? c->y : c->s, v);
        return clocks;
    }
    if (page == 2 || (page == 1 && what != 0xE && what != 0xF)) {
        c->stopped = true;
        return clocks;
    }
    switch (what) {
    case 0x7:
        c->write(c->context, at, logic(c, second ? c->b : c->a));
        return clocks;
    case 0xC: /* LDD */
        load16(c, &d, read16(c, at));
        set_d(c, d);
        return clocks + 1;
    case 0xD:
        if (second) { /* STD */
            store16(c, at, d);
            return clocks + 1;
        }
        c->s = (uint16_t)(c->s - 2); /* JSR */
        write16(c, c->s, c->pc);
        c->pc = at;
        return clocks + 3;
    case 0xE:
        load16(c, page ? (second ? &c->s : &c->y) : (second ? &c->u : &c->x), read16(c, at));
        return clocks + 1;
    case 0xF:
        store16(c, at, page ? (second ? c->s : c->y) : (second ? c->u : c->x));
        return clocks + 1;
    default:
        accumulate(c, what, second ? &c->b : &c->a, read8(c, at));
        return clocks;
    }
}

static bool condition(const core_6809 *c, unsigned which)
{
    const bool n = c->cc & N, z = c->cc & Z, v = c->cc & V, carry = c->cc & C;
    bool is = true;

    switch (which >> 1) {
    case 1:
        is = !(carry || z);
        break;
    case 2:
        is = !carry;
        break;
    case 3:
        is = !z;
        break;
    case 4:
        is = !v;
        break;
    case 5:
        is = !n;
        break;
    case 6:
        is = n == v;
        break;
    case 7:
        is = !z && n == v;
        break;
    default:
        break;
    }
    return is != (which & 1u);
}

static uint16_t *wide_register(core_6809 *c, unsigned which)
{
    uint16_t *const all[] = {0, &c->x, &c->y, &c->u, &c->s, &c->pc};

    return all[which];
}

static uint8_t *narrow_register(core_6809 *c, unsigned which)
{
    uint8_t *const all[] = {&c->a, &c->b, &c->cc, &c->dp};

    return all[which & 3u];
}

/* TFR, EXG: both of 8 bits, or both of 16. */
static void between(core_6809 *c, bool both_ways)
{
    const uint8_t post = next8(c);
    const unsigned from = post >> 4, to = post & 15u;

    if (from >= 8 && from <= 11 && to >= 8 && to <= 11) {
        uint8_t *a = narrow_register(c, from), *b = narrow_register(c, to);
        const uint8_t was = *b;

        *b = *a;
        if (both_ways)
            *a = was;
    } else if (from <= 5 && to <= 5) {
        const uint16_t a = from ? *wide_register(c, from) : d_of(c);
        const uint16_t b = to ? *wide_register(c, to) : d_of(c);

        if (to)
            *wide_register(c, to) = a;
        else
            set_d(c, a);
        if (both_ways && from)
            *wide_register(c, from) = b;
        else if (both_ways)
            set_d(c, b);
    } else {
        c->stopped = true;
    }
}

static void push8(core_6809 *c, uint16_t *stack, uint8_t value)
{
    *stack = (uint16_t)(*stack - 1);
    c->write(c->context, *stack, value);
}

/* PSHS, PULS, PSHU, PULU: 34 to 37. */
static unsigned stacked(core_6809 *c, uint8_t op)
{
    const uint8_t list = next8(c);
    uint16_t *stack = op & 2 ? &c->u : &c->s;
    uint16_t *const wide[] = {&c->x, &c->y, op & 2 ? &c->s : &c->u, &c->pc};
    uint8_t *const narrow[] = {&c->cc, &c->a, &c->b, &c->dp};
    unsigned clocks = 5;

    for (unsigned i = 0; i < 8; i++)
        clocks += (list >> i & 1u) * (i < 4 ? 1u : 2u);
    if (op & 1) { /* pulled: the lowest first */
        for (unsigned i = 0; i < 4; i++)
            if (list >> i & 1u)
                *narrow[i] = read8(c, (*stack)++);
        for (unsigned i = 0; i < 4; i++)
            if (list >> (4 + i) & 1u) {
                *wide[i] = read16(c, *stack);
                *stack = (uint16_t)(*stack + 2);
            }
    } else {
        for (unsigned i = 4; i-- > 0;)
            if (list >> (4 + i) & 1u) {
                const uint16_t value = *wide[i];

                push8(c, stack, (uint8_t)value);
                push8(c, stack, (uint8_t)(value >> 8));
            }
        for (unsigned i = 4; i-- > 0;)
            if (list >> i & 1u)
                push8(c, stack, *narrow[i]);
    }
    return clocks;
}

static void decimal_adjust(core_6809 *c)
{
    const uint8_t low = c->a & 15, high = c->a >> 4;
    uint8_t add = 0;
    unsigned sum;

    if ((c->cc & H) || low > 9)
        add |= 0x06;
    if ((c->cc & C) || high > 9 || (high > 8 && low > 9))
        add |= 0x60;
    sum = (unsigned)c->a + add;
    flag(c, C, (c->cc & C) || sum > 0xFF);
    c->a = (uint8_t)sum;
    sign8(c, c->a);
}

static unsigned branch(core_6809 *c, uint8_t op)
{
    const int8_t distance = (int8_t)next8(c);

    if (condition(c, op & 15u))
        c->pc = (uint16_t)(c->pc + distance);
    return 3;
}

/* 10 to 3F. */
static unsigned others(core_6809 *c, uint8_t op)
{
    unsigned clocks = 4;

    if (op >= 0x20 && op <= 0x2F)
        return branch(c, op);
    switch (op) {
    case 0x12:
        return 2;
    case 0x16: {
        const uint16_t distance = next16(c);

        c->pc = (uint16_t)(c->pc + distance);
        return 5;
    }
    case 0x17: {
        const uint16_t distance = next16(c);

        c->s = (uint16_t)(c->s - 2);
        write16(c, c->s, c->pc);
        c->pc = (uint16_t)(c->pc + distance);
        return 9;
    }
    case 0x19:
        decimal_adjust(c);
        return 2;
    case 0x1A:
        c->cc |= next8(c);
        return 3;
    case 0x1C:
        c->cc &= next8(c);
        return 3;
    case 0x1D:
        c->a = c->b & 0x80 ? 0xFF : 0;
        sign16(c, d_of(c));
        return 2;
    case 0x1E:
        between(c, true);
        return 8;
    case 0x1F:
        between(c, false);
        return 6;
    case 0x30:
    case 0x31:
    case 0x32:
    case 0x33: {
        const uint16_t at = indexed(c, &clocks);

        *wide_register(c, op == 0x30 ? 1 : op == 0x31 ? 2 : op == 0x33 ? 3 : 4) = at;
        if (op < 0x32)
            flag(c, Z, !at);
        return clocks;
    }
    case 0x34:
    case 0x35:
    case 0x36:
    case 0x37:
        return stacked(c, op);
    case 0x39:
        c->pc = read16(c, c->s);
        c->s = (uint16_t)(c->s + 2);
        return 5;
    case 0x3A:
        c->x = (uint16_t)(c->x + c->b);
        return 3;
    case 0x3D:
        set_d(c, (uint16_t)(c->a * c->b));
        flag(c, Z, !d_of(c));
        flag(c, C, c->b & 0x80);
        return 11;
    default:
        c->stopped = true;
        return 1;
    }
}

/* Behind 10 or 11. */
static unsigned prefixed(core_6809 *c, uint8_t prefix)
{
    const uint8_t op = next8(c);

    if (prefix == 0x10 && op >= 0x21 && op <= 0x2F) {
        const uint16_t distance = next16(c);

        if (!condition(c, op & 15u))
            return 5;
        c->pc = (uint16_t)(c->pc + distance);
        return 6;
    }
    if (op >= 0x80)
        return with_operand(c, prefix == 0x10 ? 1 : 2, op);
    c->stopped = true;
    return 1;
}

void core_6809_reset(core_6809 *c)
{
    c->cc = 0x50;
    c->dp = 0;
    c->stopped = false;
    c->pc = read16(c, 0xFFFE);
}

unsigned core_6809_step(core_6809 *c)
{
    const uint8_t op = next8(c);

    if (op == 0x10 || op == 0x11)
        return prefixed(c, op);
    if (op >= 0x80)
        return with_operand(c, 0, op);
    if (op < 0x10)
        return change_memory(c, op & 15u, DIRECT);
    if (op >= 0x60)
        return change_memory(c, op & 15u, op < 0x70 ? INDEXED : EXTENDED);
    if (op >= 0x40) {
        uint8_t *r = op < 0x50 ? &c->a : &c->b;

        if ((op & 15u) == 0xE)
            c->stopped = true;
        else
            *r = change(c, op & 15u, *r);
        return 2;
    }
    return others(c, op);
}
