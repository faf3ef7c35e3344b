/* See core_6502.h. */
#include "core_6502.h"

enum { C = 1, Z = 2, I = 4, D = 8, B = 16, ONE = 32, V = 64, N = 128 };

/* How an instruction finds its byte. */
typedef enum mode { IMP, ACC, IMM, ZP, ZPX, ZPY, ABS, ABX, ABY, IZX, IZY, REL, IND, BAD } mode;

/* Operations, by letter groups of the data sheet. */
typedef enum op {
    XXX,
    ADC,
    AND,
    ASL,
    BCC,
    BCS,
    BEQ,
    BIT,
    BMI,
    BNE,
    BPL,
    BRK,
    BVC,
    BVS,
    CLC,
    CLD,
    CLI,
    CLV,
    CMP,
    CPX,
    CPY,
    DEC,
    DEX,
    DEY,
    EOR,
    INC,
    INX,
    INY,
    JMP,
    JSR,
    LDA,
    LDX,
    LDY,
    LSR,
    NOP,
    ORA,
    PHA,
    PHP,
    PLA,
    PLP,
    ROL,
    ROR,
    RTI,
    RTS,
    SBC,
    SEC,
    SED,
    SEI,
    STA,
    STX,
    STY,
    TAX,
    TAY,
    TSX,
    TXA,
    TXS,
    TYA
} op;

typedef struct row {
    uint8_t op, mode, clocks;
} row;

#define ARITHMETIC(o, base)                                                                        \
    [base + 0x01] = {o, IZX, 6}, [base + 0x05] = {o, ZP, 3}, [base + 0x09] = {o, IMM, 2},          \
            [base + 0x0D] = {o, ABS, 4}, [base + 0x11] = {o, IZY, 5}, [base + 0x15] = {o, ZPX, 4}, \
            [base + 0x19] = {o, ABY, 4}, [base + 0x1D] = {o, ABX, 4}
#define SHIFT(o, base)                                                                             \
    [base + 0x06] = {o, ZP, 5}, [base + 0x0A] = {o, ACC, 2}, [base + 0x0E] = {o, ABS, 6},          \
            [base + 0x16] = {o, ZPX, 6}, [base + 0x1E] = {o, ABX, 7}

static const row rows[256] = {
    ARITHMETIC(ORA, 0x00),  ARITHMETIC(AND, 0x20),  ARITHMETIC(EOR, 0x40),  ARITHMETIC(ADC, 0x60),
    ARITHMETIC(LDA, 0xA0),  ARITHMETIC(CMP, 0xC0),  ARITHMETIC(SBC, 0xE0),  SHIFT(ASL, 0x00),
    SHIFT(ROL, 0x20),       SHIFT(LSR, 0x40),       SHIFT(ROR, 0x60),       [0x81] = {STA, IZX, 6},
    [0x85] = {STA, ZP, 3},  [0x8D] = {STA, ABS, 4}, [0x91] = {STA, IZY, 6}, [0x95] = {STA, ZPX, 4},
    [0x99] = {STA, ABY, 5}, [0x9D] = {STA, ABX, 5}, [0x86] = {STX, ZP, 3},  [0x8E] = {STX, ABS, 4},
    [0x96] = {STX, ZPY, 4}, [0x84] = {STY, ZP, 3},  [0x8C] = {STY, ABS, 4}, [0x94] = {STY, ZPX, 4},
    [0xA2] = {LDX, IMM, 2}, [0xA6] = {LDX, ZP, 3},  [0xAE] = {LDX, ABS, 4}, [0xB6] = {LDX, ZPY, 4},
    [0xBE] = {LDX, ABY, 4}, [0xA0] = {LDY, IMM, 2}, [0xA4] = {LDY, ZP, 3},  [0xAC] = {LDY, ABS, 4},
    [0xB4] = {LDY, ZPX, 4}, [0xBC] = {LDY, ABX, 4}, [0xC6] = {DEC, ZP, 5},  [0xCE] = {DEC, ABS, 6},
    [0xD6] = {DEC, ZPX, 6}, [0xDE] = {DEC, ABX, 7}, [0xE6] = {INC, ZP, 5},  [0xEE] = {INC, ABS, 6},
    [0xF6] = {INC, ZPX, 6}, [0xFE] = {INC, ABX, 7}, [0xE0] = {CPX, IMM, 2}, [0xE4] = {CPX, ZP, 3},
    [0xEC] = {CPX, ABS, 4}, [0xC0] = {CPY, IMM, 2}, [0xC4] = {CPY, ZP, 3},  [0xCC] = {CPY, ABS, 4},
    [0x24] = {BIT, ZP, 3},  [0x2C] = {BIT, ABS, 4}, [0x10] = {BPL, REL, 2}, [0x30] = {BMI, REL, 2},
    [0x50] = {BVC, REL, 2}, [0x70] = {BVS, REL, 2}, [0x90] = {BCC, REL, 2}, [0xB0] = {BCS, REL, 2},
    [0xD0] = {BNE, REL, 2}, [0xF0] = {BEQ, REL, 2}, [0x4C] = {JMP, ABS, 3}, [0x6C] = {JMP, IND, 5},
    [0x20] = {JSR, ABS, 6}, [0x60] = {RTS, IMP, 6}, [0x40] = {RTI, IMP, 6}, [0x00] = {BRK, IMP, 7},
    [0x18] = {CLC, IMP, 2}, [0xD8] = {CLD, IMP, 2}, [0x58] = {CLI, IMP, 2}, [0xB8] = {CLV, IMP, 2},
    [0x38] = {SEC, IMP, 2}, [0xF8] = {SED, IMP, 2}, [0x78] = {SEI, IMP, 2}, [0xCA] = {DEX, IMP, 2},
    [0x88] = {DEY, IMP, 2}, [0xE8] = {INX, IMP, 2}, [0xC8] = {INY, IMP, 2}, [0xEA] = {NOP, IMP, 2},
    [0x48] = {PHA, IMP, 3}, [0x08] = {PHP, IMP, 3}, [0x68] = {PLA, IMP, 4}, [0x28] = {PLP, IMP, 4},
    [0xAA] = {TAX, IMP, 2}, [0xA8] = {TAY, IMP, 2}, [0xBA] = {TSX, IMP, 2}, [0x8A] = {TXA, IMP, 2},
    [0x9A] = {TXS, IMP, 2}, [0x98] = {TYA, IMP, 2},
};

static uint8_t get(core_6502 *c, uint16_t at)
{
    return c->read(c->context, at);
}

static uint8_t fetch(core_6502 *c)
{
    return get(c, c->pc++);
}

static uint16_t fetch_word(core_6502 *c)
{
    const uint8_t low = fetch(c);

    return (uint16_t)(low | fetch(c) << 8);
}

static uint16_t zero_word(core_6502 *c, uint8_t at)
{
    const uint8_t low = get(c, at);

    return (uint16_t)(low | get(c, (uint8_t)(at + 1u)) << 8);
}

static void flags(core_6502 *c, uint8_t value)
{
    c->p = (uint8_t)((c->p & ~(Z | N)) | (value ? 0 : Z) | (value & N));
}

static void set(core_6502 *c, uint8_t flag, bool on)
{
    c->p = (uint8_t)(on ? c->p | flag : c->p & ~flag);
}

static void push(core_6502 *c, uint8_t value)
{
    c->write(c->context, (uint16_t)(0x100u | c->s--), value);
}

static uint8_t pull(core_6502 *c)
{
    return get(c, (uint16_t)(0x100u | ++c->s));
}

void core_6502_reset(core_6502 *c)
{
    const uint8_t low = get(c, 0xFFFC);

    c->a = c->x = c->y = 0;
    c->s = 0xFD;
    c->p = I | ONE;
    c->stopped = false;
    c->pc = (uint16_t)(low | get(c, 0xFFFD) << 8);
}

/* An indexed address. Where the page changes, a wrong address is read first, and it takes a clock
 * more; stores and changes always take it. */
static uint16_t indexed(core_6502 *c, uint16_t base, uint8_t index, bool store, unsigned *clocks)
{
    const uint16_t at = (uint16_t)(base + index);

    if ((at ^ base) & 0xFF00u || store)
        get(c, (uint16_t)((base & 0xFF00u) | (at & 0xFFu)));
    *clocks += ((at ^ base) & 0xFF00u) != 0 && !store;
    return at;
}

static uint16_t address_of(core_6502 *c, const row *r, unsigned *clocks)
{
    const bool store = r->op == STA || r->clocks > 5 + (r->mode == IZY);
    uint8_t z;

    switch (r->mode) {
    case IMM:
        return c->pc++;
    case ZP:
        return fetch(c);
    case ZPX:
    case ZPY:
        z = fetch(c);
        get(c, z);
        return (uint8_t)(z + (r->mode == ZPX ? c->x : c->y));
    case ABS:
        return fetch_word(c);
    case ABX:
        return indexed(c, fetch_word(c), c->x, store, clocks);
    case ABY:
        return indexed(c, fetch_word(c), c->y, store, clocks);
    case IZX:
        z = fetch(c);
        get(c, z);
        return zero_word(c, (uint8_t)(z + c->x));
    case IZY:
        return indexed(c, zero_word(c, fetch(c)), c->y, store, clocks);
    case IND: {
        const uint16_t at = fetch_word(c);
        const uint8_t low = get(c, at);

        return (uint16_t)(low | get(c, (uint16_t)((at & 0xFF00u) | (uint8_t)(at + 1u))) << 8);
    }
    default:
        return 0;
    }
}

static void add(core_6502 *c, uint8_t value)
{
    const unsigned sum = (unsigned)c->a + value + (c->p & C);

    set(c, V, (~(c->a ^ value) & (c->a ^ sum) & 0x80u) != 0);
    if (c->p & D) {
        unsigned low = (c->a & 15u) + (value & 15u) + (c->p & C);
        unsigned all;

        low = low > 9u ? ((low + 6u) & 15u) + 16u : low;
        all = (c->a & 0xF0u) + (value & 0xF0u) + low;
        all = all > 0x9Fu ? all + 0x60u : all;
        set(c, C, all > 0xFFu);
        set(c, Z, !(sum & 0xFFu));
        c->a = (uint8_t)all;
        return;
    }
    set(c, C, sum > 0xFFu);
    c->a = (uint8_t)sum;
    flags(c, c->a);
}

static void subtract(core_6502 *c, uint8_t value)
{
    const uint8_t a = c->a, borrow = (uint8_t) !(c->p & C);
    const bool decimal = c->p & D;

    c->p &= (uint8_t)~D;
    add(c, (uint8_t)~value);
    if (decimal) {
        int low = (a & 15) - (value & 15) - borrow;
        int high = (a >> 4) - (value >> 4);

        if (low < 0) {
            low += 10;
            high--;
        }
        if (high < 0)
            high += 10;
        c->a = (uint8_t)(high << 4 | low);
        c->p |= D;
    }
}

static void compare(core_6502 *c, uint8_t with, uint8_t value)
{
    set(c, C, with >= value);
    flags(c, (uint8_t)(with - value));
}

static uint8_t shifted(core_6502 *c, uint8_t o, uint8_t value)
{
    const uint8_t carry = c->p & C;
    uint8_t result;

    if (o == ASL || o == ROL) {
        set(c, C, value & 0x80u);
        result = (uint8_t)(value << 1 | (o == ROL ? carry : 0));
    } else {
        set(c, C, value & 1u);
        result = (uint8_t)(value >> 1 | (o == ROR ? carry << 7 : 0));
    }
    flags(c, result);
    return result;
}

static unsigned branch(core_6502 *c, bool taken)
{
    const int8_t distance = (int8_t)fetch(c);
    const uint16_t from = c->pc;

    if (!taken)
        return 0;
    c->pc = (uint16_t)(c->pc + distance);
    return ((c->pc ^ from) & 0xFF00u) ? 2 : 1;
}

static void load(core_6502 *c, uint8_t *to, uint8_t value)
{
    *to = value;
    flags(c, value);
}

unsigned core_6502_step(core_6502 *c)
{
    const row *r = &rows[fetch(c)];
    unsigned clocks = r->clocks;
    uint16_t at;

    if (!clocks) {
        c->stopped = true;
        return 2;
    }
    if (r->mode == IMP || r->mode == ACC)
        get(c, c->pc);
    switch (r->op) { /* branches find their own way */
    case BPL:
        return clocks + branch(c, !(c->p & N));
    case BMI:
        return clocks + branch(c, c->p & N);
    case BVC:
        return clocks + branch(c, !(c->p & V));
    case BVS:
        return clocks + branch(c, c->p & V);
    case BCC:
        return clocks + branch(c, !(c->p & C));
    case BCS:
        return clocks + branch(c, c->p & C);
    case BNE:
        return clocks + branch(c, !(c->p & Z));
    case BEQ:
        return clocks + branch(c, c->p & Z);
    default:
        break;
    }
    if (r->op == JSR) {
        const uint8_t low = fetch(c);

        push(c, (uint8_t)(c->pc >> 8));
        push(c, (uint8_t)c->pc);
        c->pc = (uint16_t)(low | get(c, c->pc) << 8);
        return clocks;
    }
    at = address_of(c, r, &clocks);
    switch (r->op) {
    case ADC:
        add(c, get(c, at));
        break;
    case SBC:
        subtract(c, get(c, at));
        break;
    case AND:
        load(c, &c->a, c->a & get(c, at));
        break;
    case ORA:
        load(c, &c->a, c->a | get(c, at));
        break;
    case EOR:
        load(c, &c->a, c->a ^ get(c, at));
        break;
    case LDA:
        load(c, &c->a, get(c, at));
        break;
    case LDX:
        load(c, &c->x, get(c, at));
        break;
    case LDY:
        load(c, &c->y, get(c, at));
        break;
    case CMP:
        compare(c, c->a, get(c, at));
        break;
    case CPX:
        compare(c, c->x, get(c, at));
        break;
    case CPY:
        compare(c, c->y, get(c, at));
        break;
    case STA:
        c->write(c->context, at, c->a);
        break;
    case STX:
        c->write(c->context, at, c->x);
        break;
    case STY:
        c->write(c->context, at, c->y);
        break;
    case ASL:
    case LSR:
    case ROL:
    case ROR:
        if (r->mode == ACC) {
            c->a = shifted(c, r->op, c->a);
        } else {
            const uint8_t value = get(c, at);

            c->write(c->context, at, value);
            c->write(c->context, at, shifted(c, r->op, value));
        }
        break;
    case INC:
    case DEC: {
        const uint8_t value = get(c, at);
        uint8_t result = (uint8_t)(r->op == INC ? value + 1 : value - 1);

        c->write(c->context, at, value);
        c->write(c->context, at, result);
        flags(c, result);
        break;
    }
    case BIT: {
        const uint8_t value = get(c, at);

        set(c, Z, !(value & c->a));
        c->p = (uint8_t)((c->p & ~(N | V)) | (value & (N | V)));
        break;
    }
    case INX:
        load(c, &c->x, (uint8_t)(c->x + 1));
        break;
    case INY:
        load(c, &c->y, (uint8_t)(c->y + 1));
        break;
    case DEX:
        load(c, &c->x, (uint8_t)(c->x - 1));
        break;
    case DEY:
        load(c, &c->y, (uint8_t)(c->y - 1));
        break;
    case TAX:
        load(c, &c->x, c->a);
        break;
    case TAY:
        load(c, &c->y, c->a);
        break;
    case TSX:
        load(c, &c->x, c->s);
        break;
    case TXA:
        load(c, &c->a, c->x);
        break;
    case TYA:
        load(c, &c->a, c->y);
        break;
    case TXS:
        c->s = c->x;
        break;
    case CLC:
        set(c, C, false);
        break;
    case SEC:
        set(c, C, true);
        break;
    case CLI:
        set(c, I, false);
        break;
    case SEI:
        set(c, I, true);
        break;
    case CLD:
        set(c, D, false);
        break;
    case SED:
        set(c, D, true);
        break;
    case CLV:
        set(c, V, false);
        break;
    case PHA:
        push(c, c->a);
        break;
    case PHP:
        push(c, c->p | B | ONE);
        break;
    case PLA:
        load(c, &c->a, pull(c));
        break;
    case PLP:
        c->p = (uint8_t)((pull(c) & ~B) | ONE);
        break;
    case JMP:
        c->pc = at;
        break;
    case RTS:
        at = pull(c);
        c->pc = (uint16_t)((at | pull(c) << 8) + 1);
        break;
    case RTI:
        c->p = (uint8_t)((pull(c) & ~B) | ONE);
        at = pull(c);
        c->pc = (uint16_t)(at | pull(c) << 8);
        break;
    case BRK:
        push(c, (uint8_t)((c->pc + 1) >> 8));
        push(c, (uint8_t)(c->pc + 1));
        push(c, c->p | B | ONE);
        c->p |= I;
        at = get(c, 0xFFFE);
        c->pc = (uint16_t)(at | get(c, 0xFFFF) << 8);
        break;
    default:
        break;
    }
    return clocks;
}
