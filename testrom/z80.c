/* The Z80. No RAM: the stack pointer walks a script in ROM. RET takes the next routine, POP the
 * next operand; a line of text is a script of its own, and the place in the outer one waits in IY.
 *
 *   HL  address          B'  bits of a character left     A'  value of the line
 *   B   what was written C'  character                    I   first finding of the pass
 *   C   bits looked at   D'  digit of the pass            IX  letter of a read, and the way back
 *   DE  end, or line     E'  bits that failed in the step IY  the script's place
 *                        H'  check of the line
 *                        L'  lines that may still be told */
#include "z80.h"

static void out(rom_code *c, bool port, uint32_t at)
{
    if (port) {
        ROM(c, 0xD3, (uint8_t)at);
    } else {
        rom_byte(c, 0x32);
        rom_word(c, at);
    }
}

/* Other bits that an output shares its address with stay as they are while nothing happens. */
static uint8_t quiet(const rmg_testrom_plan *plan, const rmg_testrom_output *of_this)
{
    const rmg_testrom_output *o[2] = {&plan->serial, &plan->lamp};
    unsigned value = of_this->others;

    for (unsigned i = 0; i < 2; i++)
        if (o[i]->fitted && o[i] != of_this && o[i]->at == of_this->at &&
            o[i]->port == of_this->port) {
            const bool idle = i == 0 ? !o[i]->inverted : o[i]->inverted; /* mark; dark */

            value = (value & ~(unsigned)o[i]->bit) | (idle ? o[i]->bit : 0u);
        }
    return (uint8_t)(value & ~(unsigned)of_this->bit);
}

static void lamp(rom_code *c, bool on)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    ROM(c, 0x3E, (uint8_t)(quiet(c->plan, o) | (on != o->inverted ? o->bit : 0u)));
    out(c, o->port, o->at);
}

/* Can so many clocks be made up of 4, 7 and 12? */
static bool of_pads(uint32_t clocks)
{
    return clocks >= 14u || (0x1991u >> clocks & 1u); /* 0, 4, 7, 8, 11, 12 */
}

/* So many clocks, or up to 3 fewer where they cannot be made up; only A and the flags change.
 * Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    static const struct {
        uint8_t clocks, bytes[3], count;
    } pads[] = {{4, {0x00}, 1}, {7, {0x3E, 0}, 2}, {12, {0x18, 0}, 2}};
    uint32_t rest = clocks, lost = 0;

    for (; rest >= 4098u + 18u; rest -= 4098u)
        ROM(c, 0x3E, 0, 0x3D, 0x20, 0xFD);
    if (rest >= 2u + 16u + 18u) {
        const uint32_t loops = (rest - 2u - 18u) / 16u;

        ROM(c, 0x3E, (uint8_t)loops, 0x3D, 0x20, 0xFD);
        rest -= 2u + 16u * loops;
    }
    while (!of_pads(rest)) {
        rest--;
        lost++;
    }
    while (rest) /* the most first, as long as the rest can be made up */
        for (unsigned i = 3; i-- > 0;)
            if (pads[i].clocks <= rest && of_pads(rest - pads[i].clocks)) {
                rmg_testrom_put(c, pads[i].bytes, pads[i].count);
                rest -= pads[i].clocks;
                break;
            }
    return clocks - lost;
}

/* Sends A; then the next of the script. Every bit takes the same time whatever it is. */
static void write_serial(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_output *o = &c->plan->serial;
    const uint32_t own = 4u + 7u + 7u + (o->port ? 11u : 13u) + 4u + 8u + 13u;
    const uint32_t bit_clocks = rmg_testrom_bit_clocks(c->plan);
    unsigned bit;

    rom_set(c, w->r.hi);
    ROM(c, 0x0F, 0x0F, 0x0F, 0x0F); /* the high digit */
    rom_set(c, w->r.hi + 1u);
    ROM(c, 0xE6, 15, 0xC6, 0x90, 0x27, 0xCE, 0x40, 0x27); /* the low one, as text */
    rom_set(c, w->r.tx);
    ROM(c, 0xD9, 0x4F, 0x7C, 0x07, 0xA9, 0x67); /* exx; the check: rotated, xor */
    if (!o->fitted) {
        ROM(c, 0xD9, 0xC9);
        return;
    }
    ROM(c, 0x06, 10, 0xB7); /* ten bits; carry clear: the start bit */
    bit = rom_mark(c);
    ROM(c, 0x9F, 0xE6, (uint8_t)o->bit, 0xEE,
        (uint8_t)(quiet(c->plan, o) | (o->inverted ? o->bit : 0u)));
    out(c, o->port, o->at);
    if (bit_clocks < own)
        c->why = "the clock is too slow for this rate: choose a lower one";
    else
        c->baud = rmg_testrom_rate(c->plan, own + spend(c, bit_clocks - own));
    ROM(c, 0x37, 0xCB, 0x19); /* scf; rr c: the next bit, stop bits behind it */
    branch_to(c, DJNZ, bit);
    ROM(c, 0xD9, 0xC9);
}

/* Characters of a line, each a routine of its script. */
static void write_characters(writer *w)
{
    rom_code *c = w->c;
    routines *r = &w->r;

    rom_set(c, r->put);
    ROM(c, 0xD1, 0x7B); /* pop de; ld a,e */
    branch_to(c, JR, r->tx);
    rom_set(c, r->pass);
    ROM(c, 0xD9, 0x7A, 0xD9);
    branch_to(c, JR, r->tx);
    rom_set(c, r->step);
    ROM(c, 0xFD, 0x7E, 0xFE); /* ld a,(iy-2) */
    branch_to(c, JR, r->tx);
    rom_set(c, r->bank);
    ROM(c, 0xFD, 0x7E, 0xFF);
    branch_to(c, JR, r->tx);
    rom_set(c, r->letter);
    ROM(c, 0xDD, 0x7E, 0x00);
    branch_to(c, JR, r->tx);
    rom_set(c, r->space);
    ROM(c, 0x3E, ' ');
    branch_to(c, JR, r->tx);
    rom_set(c, r->cr);
    ROM(c, 0x3E, '\r');
    branch_to(c, JR, r->tx);
    rom_set(c, r->lf);
    ROM(c, 0x3E, '\n');
    branch_to(c, JR, r->tx);
    for (unsigned i = 0; i < 4; i++) { /* of H, of L */
        rom_set(c, r->address[i]);
        rom_byte(c, i < 2 ? 0x7C : 0x7D);
        jump_to(c, JP, i & 1u ? r->hi + 1u : r->hi);
    }
    for (unsigned i = 0; i < 2; i++) {
        rom_set(c, r->wrote[i]);
        rom_byte(c, 0x78);
        jump_to(c, JP, r->hi + i);
    }
    for (unsigned i = 0; i < 2; i++) { /* of A', which stays */
        rom_set(c, r->value[i]);
        ROM(c, 0x08, 0xD9, 0x4F, 0x08, 0x79, 0xD9);
        jump_to(c, JP, r->hi + i);
    }
    rom_set(c, r->check); /* the check becomes the value */
    ROM(c, 0xD9, 0x7C, 0xD9, 0x08, 0xC9);
    rom_set(c, r->no_check);
    ROM(c, 0xD9, 0x26, 0, 0xD9, 0xC9);
    rom_set(c, r->jump);
    ROM(c, 0xE1, 0xF9, 0xC9); /* pop hl; ld sp,hl; ret */
}

/* ... with its value before that. */
static void tail(writer *w)
{
    const unsigned all[] = {w->r.space, w->r.value[0], w->r.value[1]};

    all_of(w->c, all, 3);
    check_and_end(w);
}

/* A read was wrong: A has the bits, B what was written, IX the letter, with the way back behind. */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    routines *r = &w->r;
    const unsigned line = rom_label(c), short_line = rom_label(c), silent = rom_label(c),
                   more = rom_label(c), ends = rom_label(c), ends_more = rom_label(c);
    unsigned again, found;

    rom_set(c, r->report);
    ROM(c, 0xD9, 0x4F, 0xB3, 0x5F, 0x7D, 0xB7); /* exx; ld c,a; or e; ld e,a; ld a,l; or a */
    branch_to(c, JR_Z, silent);
    ROM(c, 0x2D, 0x79, 0xD9, 0xA8);             /* dec l; ld a,c; exx; xor b: as it was read */
    ROM(c, 0x08, 0xFD, 0x21, 0, 0, 0xFD, 0x39); /* ex af,af'; ld iy,0; add iy,sp */
    jump_to(c, LD_SP, line);
    rom_byte(c, 0xC9);
    rom_set(c, silent);
    rom_byte(c, 0xD9);
    rom_set(c, r->resume);
    ROM(c, 0xDD, 0x23, 0xDD, 0xE9); /* inc ix; jp (ix) */
    rom_set(c, r->leave);
    ROM(c, 0xFD, 0xF9); /* ld sp,iy */
    branch_to(c, JR, r->resume);

    rom_set(c, r->done);                                    /* pop iy: the letters */
    ROM(c, 0xFD, 0xE1, 0xD9, 0x7B, 0x08, 0x7D, 0xB7, 0xD9); /* A' = bits; any lines left? */
    rom_byte(c, 0xDD);
    jump_to(c, LD_HL, ends); /* ld ix */
    branch_to(c, JR_NZ, more);
    rom_byte(c, 0xDD);
    jump_to(c, LD_HL, ends_more);
    rom_set(c, more);
    ROM(c, 0xFD, 0x21, 0, 0, 0xFD, 0x39);
    jump_to(c, LD_SP, short_line);
    rom_byte(c, 0xC9);
    rom_set(c, ends);
    ROM(c, '.', 0xC9);
    rom_set(c, ends_more);
    ROM(c, '+', 0xC9);

    rom_set(c, r->first); /* the first finding of the pass */
    again = rom_label(c);
    found = rom_label(c);
    ROM(c, 0xED, 0x57, 0xB7, 0xC0, 0xD9, 0x06, 9, 0xFD, 0x7E, 0xFE, 0xFE, 'A');
    branch_to(c, JR_Z, found);
    ROM(c, 0x04, 0xFE, 'X');
    branch_to(c, JR_Z, found);
    ROM(c, 0x08, 0x4F, 0x08, 0x79, 0xD9, 0xA8, 0xD9, 0x06, 0);
    rom_set(c, again);
    ROM(c, 0x04, 0x0F);
    branch_to(c, JR_NC, again);
    rom_set(c, found);
    ROM(c, 0xFD, 0x7E, 0xFF, 0x0F, 0x0F, 0x0F, 0xE6, 0xE0, 0xB0, 0xED, 0x47, 0xD9, 0xC9);

    rom_set(c, line);
    of(c, r->first);
    rom_set(c, r->told);
    {
        const unsigned all[] = {r->no_check,   r->pass,       r->step,       r->bank,
                                r->letter,     r->space,      r->address[0], r->address[1],
                                r->address[2], r->address[3], r->space,      r->wrote[0],
                                r->wrote[1]};

        for (unsigned i = 0; i < sizeof all / sizeof *all; i++)
            of(c, all[i]);
    }
    tail(w);
    of(c, r->leave);
    rom_set(c, short_line);
    {
        const unsigned all[] = {r->no_check, r->pass, r->step, r->bank, r->letter};

        for (unsigned i = 0; i < sizeof all / sizeof *all; i++)
            of(c, all[i]);
    }
    tail(w);
    of(c, r->leave);
}

/* How an element goes through its words. */
typedef enum way { UP, DOWN, BY_LINES } way; /* by lines with no line: one word */

typedef struct stub {
    unsigned from, back;
    uint8_t letter;
    bool one, plain; /* expects ones; the value was not complemented */
} stub;

/* A routine for an element; returns its label. Operands: first (or last) address; the page to stop
 * at, or the highest line; the letters. */
static unsigned write_element(writer *w, const uint8_t *e, uint8_t read, way how, bool masked)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    stub stubs[RMG_MARCH_OPS];
    unsigned stub_count = 0, loop;
    uint32_t clocks = how == UP ? 14u : 22u;

    rom_byte(c, 0xE1);
    rom_byte(c, 0xD1);
    ROM(c, 0xFD, 0xE1);
    loop = rom_mark(c);
    if (how == BY_LINES)
        rom_byte(c, 0x19);
    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const bool one = e[i] & RMG_OP_ONE;
        stub *s = &stubs[stub_count];

        if (e[i] & RMG_OP_WRITE) {
            ROM(c, 0x36, one ? 0xFF : 0x00);
            clocks += 10;
            continue;
        }
        rom_byte(c, 0x7E);
        if (masked) {
            if (one)
                rom_byte(c, 0x2F);
            rom_byte(c, 0xA1);
            clocks += one ? 8u : 4u;
        } else {
            rom_byte(c, one ? 0x3C : 0xB7);
            clocks += 4;
        }
        clocks += 7u + 10u;
        s->from = rom_label(c);
        s->back = rom_label(c);
        s->letter = read++;
        s->one = one;
        s->plain = !masked;
        stub_count++;
        jump_to(c, JP_NZ, s->from);
        rom_set(c, s->back);
    }
    switch (how) {
    case UP:
        rom_byte(c, 0x2C);
        jump_to(c, JP_NZ, loop);
        ROM(c, 0x24, 0x7C, 0xBA);
        jump_to(c, JP_NZ, loop);
        rom_byte(c, 0xC9);
        break;
    case DOWN:
        ROM(c, 0x7D, 0x2D, 0xB7);
        jump_to(c, JP_NZ, loop);
        ROM(c, 0x7C, 0x25, 0xBA);
        jump_to(c, JP_NZ, loop);
        rom_byte(c, 0xC9);
        break;
    case BY_LINES:
        ROM(c, 0xB7, 0xED, 0x52, 0xCB, 0x3A, 0xCB, 0x1B, 0x7A, 0xB3, 0xC8);
        branch_to(c, JR, loop);
        break;
    }
    for (unsigned i = 0; i < stub_count; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, stubs[i].from);
        if (stubs[i].one && stubs[i].plain)
            ROM(c, 0x3D, 0x2F); /* dec a; cpl: the bits that are wrong */
        ROM(c, 0x06, stubs[i].one ? 0xFF : 0x00, 0xDD);
        jump_to(c, LD_HL, letter);
        jump_to(c, JP, w->r.report);
        rom_set(c, letter);
        rom_byte(c, (uint8_t)rmg_testrom_read_letter(stubs[i].letter));
        jump_to(c, JP, stubs[i].back);
    }
    if (how == UP || how == DOWN)
        c->march_clocks += clocks;
    return label;
}

/* A one and a zero through the word at HL. Operands: address; 1 and the bits; the letters. */
static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    unsigned loop, from[2], back[2];

    for (unsigned i = 0; i < 2; i++) {
        from[i] = rom_label(c);
        back[i] = rom_label(c);
    }
    ROM(c, 0xE1, 0xC1, 0xFD, 0xE1);
    loop = rom_mark(c);
    for (unsigned i = 0; i < 2; i++) {
        ROM(c, 0x70, 0x7E, 0xA8, 0xA1); /* ld (hl),b; ld a,(hl); xor b; and c */
        jump_to(c, JP_NZ, from[i]);
        rom_set(c, back[i]);
        ROM(c, 0x78, 0x2F); /* ld a,b; cpl */
        if (i)
            rom_byte(c, 0x07); /* rlca */
        rom_byte(c, 0x47);
    }
    branch_to(c, JR_NC, loop);
    rom_byte(c, 0xC9);
    for (unsigned i = 0; i < 2; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, from[i]);
        ROM(c, 0x57, 0x2F, 0xA1, 0x4F, 0x7A, 0xDD); /* these bits are not looked at again */
        jump_to(c, LD_HL, letter);
        jump_to(c, JP, w->r.report);
        rom_set(c, letter);
        rom_byte(c, i ? 'b' : 'a');
        jump_to(c, JP, back[i]);
    }
    return label;
}

/* The clock ticks on for so long. */
static void write_pause(rom_code *c, uint32_t ms)
{
    const uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 26u;
    uint64_t left = loops ? loops : 1u;

    while (left) {
        const uint32_t now = left > 65535u ? 65535u : (uint32_t)left;
        unsigned loop;

        rom_byte(c, LD_HL);
        rom_word(c, now);
        loop = rom_mark(c);
        ROM(c, 0x2B, 0x7C, 0xB5);
        branch_to(c, JR_NZ, loop);
        left -= now;
    }
}

/* The lamp lights, or the loudspeaker sounds, for so long. */
static void write_lit(rom_code *c, uint32_t ms)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone) {
        const uint64_t half = (uint64_t)c->plan->clock_hz / o->tone / 2u / 16u;
        const uint8_t loops = (uint8_t)(half > 255u ? 255u : half ? half : 1u);
        const uint64_t times = (uint64_t)o->tone * ms / 1000u;
        unsigned loop;

        rom_byte(c, LD_HL);
        rom_word(c, times > 65535u ? 65535u : times ? (uint32_t)times : 1u);
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            lamp(c, on != 0);
            ROM(c, 0x1E, loops, 0x1D, 0x20, 0xFD); /* ld e,n; dec e; jr nz */
        }
        ROM(c, 0x2B, 0x7C, 0xB5);
        branch_to(c, JR_NZ, loop);
    } else {
        lamp(c, true);
        write_pause(c, ms);
    }
    lamp(c, false);
}

#define FLASH_MS 200u

typedef struct blinker {
    unsigned bank, bit, good, gap;
} blinker;

static blinker write_blinks(rom_code *c)
{
    blinker b = {rom_label(c), rom_label(c), rom_label(c), rom_label(c)};
    const unsigned group = rom_label(c);
    unsigned loop;

    rom_set(c, b.bank);
    ROM(c, 0xED, 0x57, 0x07, 0x07, 0x07, 0xE6, 7);
    branch_to(c, JR, group);
    rom_set(c, b.bit);
    ROM(c, 0xED, 0x57, 0xE6, 31);
    rom_set(c, group);
    ROM(c, 0xC8, 0x47); /* ret z; ld b,a */
    loop = rom_mark(c);
    write_lit(c, FLASH_MS);
    write_pause(c, FLASH_MS);
    branch_to(c, DJNZ, loop);
    rom_byte(c, 0xC9);
    rom_set(c, b.good);
    ROM(c, 0xED, 0x57, 0xB7, 0xC0);
    write_lit(c, 5u * FLASH_MS);
    rom_set(c, b.gap);
    write_pause(c, 3u * FLASH_MS);
    rom_byte(c, 0xC9);
    return b;
}

typedef struct bodies {
    unsigned data, lines[3], march[RMG_MARCH_BYTES], hold, mask, row, bits, beat, mood, pages, sums;
    unsigned march_count;
} bodies;

/* What the screen shows. Operands of a row: its address; two letters. C, the mask, stays. */
static void write_rows(rom_code *c, bodies *b)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint32_t last = rom_screen_row(c->plan, s->rows - 1u);

    b->row = rom_mark(c);
    ROM(c, 0xE1, 0xD1, 0x73, 0x23, 0x72, 0x23, 0xD9, 0x7D, 0xD9, 0xFE, c->plan->lines, 0x3E, s->dot,
        JR_Z, 2, 0x3E, s->mark, 0x77, 0xC9);
    b->bits = rom_mark(c); /* those that failed, behind it */
    ROM(c, 0x23, 0x36, s->blank, 0xD9, 0x7B, 0xD9, 0x57, 0x06, 8);
    ROM(c, 0x23, 0x3E, s->digits, 0xCB, 0x02, 0xCE, 0, 0x77, DJNZ, 0xF6, 0xC9);
    b->beat = rom_mark(c); /* the digit of the pass */
    ROM(c, 0xD9, 0x7A, 0xD9, 0xC6, (uint8_t)(s->digits - '0'), 0x32);
    rom_word(c, last);
    rom_byte(c, 0xC9);
    b->mood = rom_mark(c); /* was anything found? */
    ROM(c, 0xED, 0x57, 0xB7, 0x3E, s->dot, JR_Z, 2, 0x3E, s->mark, 0x32);
    rom_word(c, last + 1u);
    rom_byte(c, 0xC9);
}

/* Bars, which stay where they are not read back; else blanks. */
static void write_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const unsigned out = rom_label(c);

    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        unsigned loop;

        rom_byte(c, LD_HL);
        rom_word(c, s->at);
        rom_byte(c, 0x01);
        rom_word(c, (uint32_t)s->columns * s->rows);
        loop = rom_mark(c);
        if (turn < 2) /* by the lowest bit of the address */
            ROM(c, 0x7D, 0x1F, 0x3E, s->blank, 0x30, 2, 0x3E, s->mark);
        if (turn == 1) {
            ROM(c, 0xED, 0xA1); /* cpi */
            branch_to(c, JR_NZ, out);
            jump_to(c, JP_PE, loop);
            continue;
        }
        if (turn == 0)
            rom_byte(c, 0x77);
        else
            ROM(c, 0x36, s->blank);
        ROM(c, 0x23, 0x0B, 0x78, 0xB1);
        branch_to(c, JR_NZ, loop);
    }
    rom_set(c, out);
}

static void script_row(rom_code *c, const bodies *b, unsigned row, const rmg_testrom_step *s)
{
    of(c, b->row);
    operand(c, rom_screen_row(c->plan, row));
    operand(c, (uint32_t)rom_screen_letter(c->plan, rmg_testrom_kind_letter(s->kind)) |
                   (uint32_t)rom_screen_letter(c->plan, rom_bank_shown(c->plan, s)) << 8);
    if (rom_gathers(s->kind))
        of(c, b->bits);
}

static void write_bodies(writer *w, bodies *b)
{
    rom_code *c = w->c;
    const bool masked = rmg_testrom_masked(c->plan);
    uint8_t read = 0;
    unsigned n = 0;

    b->data = write_data(w);
    for (const uint8_t *e = rmg_testrom_short_march; *e; e = rom_next_element(e), n++) {
        b->lines[n] = write_element(w, e, read, BY_LINES, true);
        for (unsigned i = 1; i <= rom_ops(e); i++)
            read = (uint8_t)(read + !(e[i] & RMG_OP_WRITE));
    }
    read = 0;
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        if (!rom_ops(e)) {
            b->march[b->march_count] = rom_mark(c);
            write_pause(c, c->plan->hold_ms);
            rom_byte(c, 0xC9);
        } else {
            b->march[b->march_count] = write_element(
                w, e, read, (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN ? DOWN : UP, masked);
        }
        for (unsigned i = 1; i <= rom_ops(e); i++)
            read = (uint8_t)(read + !(e[i] & RMG_OP_WRITE));
        b->march_count++;
    }
    rom_set(c, w->r.fresh);
    ROM(c, 0xD9, 0x2E, c->plan->lines, 0x1E, 0, 0xD9, 0xC9);
    b->mask = rom_mark(c);
    ROM(c, 0xC1, 0xC9);
    if (c->plan->screen.fitted)
        write_rows(c, b);
    if (c->plan->rom_count)
        b->pages = rmg_testrom_z80_pages(w);
}

static void script_march(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    unsigned n = 0;

    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e), n++) {
        const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;

        of(c, b->march[n]);
        if (!rom_ops(e))
            continue;
        operand(c, (uint32_t)(down ? s->range.last : s->range.first));
        operand(c, down ? (uint32_t)s->range.first & 0xFF00u
                        : (uint32_t)(s->range.last + 1u) & 0xFF00u);
        operand(c, letters(s->kind, s->bank));
    }
    of(c, w->r.done);
    operand(c, letters(s->kind, s->bank));
}

static void script_step(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;

    of(c, w->r.fresh);
    switch (s->kind) {
    case RMG_TESTROM_DATA:
        of(c, b->data);
        operand(c, (uint32_t)s->range.first);
        operand(c, 0x100u | (uint32_t)plan->banks[s->bank].bits);
        operand(c, letters(s->kind, s->bank));
        break;
    case RMG_TESTROM_LINES:
        for (unsigned n = 0; n < 6; n++) { /* the first word alone, then the lines */
            of(c, b->lines[n / 2]);
            operand(c, (uint32_t)s->range.first);
            operand(c, n & 1u ? rmg_testrom_highest_line(&s->range) : 0);
            operand(c, letters(s->kind, s->bank));
        }
        break;
    case RMG_TESTROM_ACROSS:
        for (unsigned n = 0; n < 3; n++)
            for (uint8_t i = 0; i < plan->bank_count; i++) {
                if (rmg_testrom_masked(plan) || (!n && !i)) {
                    of(c, b->mask);
                    operand(c, (uint32_t)plan->banks[i].bits);
                }
                of(c, b->lines[n]);
                operand(c, (uint32_t)plan->banks[i].range.first);
                operand(c, 0);
                operand(c, letters(s->kind, i));
            }
        break;
    case RMG_TESTROM_ROM:
        rmg_testrom_z80_rom(w, b->pages, s, b->sums + s->bank);
        break;
    default:
        if (rmg_testrom_masked(plan)) {
            of(c, b->mask);
            operand(c, (uint32_t)plan->banks[s->bank].bits);
        }
        script_march(w, b, s);
    }
}

static void script_text(writer *w, const char *text)
{
    of(w->c, w->r.no_check);
    of(w->c, w->r.pass);
    for (; *text; text++) {
        of(w->c, w->r.put);
        operand(w->c, (uint8_t)*text);
    }
}

void rmg_testrom_write_z80(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c};
    routines *r = &w.r;
    bodies b = {0};
    blinker blink = {0};
    const unsigned script = rom_label(c), top = rom_label(c), fine = rom_label(c),
                   end = rom_label(c), start = rom_label(c), keep = rom_label(c);
    unsigned sum, wrong, first_value, again, loop;
    char id[8] = "S 0000";

    r->tx = rom_label(c);
    r->hi = rom_label(c);
    rom_label(c); /* hi + 1: the low digit */
    r->put = rom_label(c);
    r->pass = rom_label(c);
    r->step = rom_label(c);
    r->bank = rom_label(c);
    r->letter = rom_label(c);
    r->space = rom_label(c);
    for (unsigned i = 0; i < 4; i++)
        r->address[i] = rom_label(c);
    for (unsigned i = 0; i < 2; i++) {
        r->wrote[i] = rom_label(c);
        r->value[i] = rom_label(c);
    }
    r->check = rom_label(c);
    r->no_check = rom_label(c);
    r->cr = rom_label(c);
    r->lf = rom_label(c);
    r->leave = rom_label(c);
    r->jump = rom_label(c);
    r->first = rom_label(c);
    r->report = rom_label(c);
    r->resume = rom_label(c);
    r->done = rom_label(c);
    r->fresh = rom_label(c);
    r->told = rom_label(c);

    b.sums = rmg_testrom_sum_labels(c);
    jump_to(c, JP, start); /* where the ROM also answers at 0 until then, this ends it */
    rom_set(c, start);
    ROM(c, 0xF3, 0xAF, 0xED, 0x47); /* di; nothing was found yet */
    for (unsigned i = 0; i < plan->write_count; i++) {
        ROM(c, 0x3E, (uint8_t)plan->writes[i].value);
        out(c, plan->writes[i].port, plan->writes[i].at);
    }
    if (plan->lamp.fitted)
        lamp(c, false);
    if (plan->serial.fitted) { /* the line idles at mark for more than a character */
        ROM(c, 0x3E,
            (uint8_t)(quiet(plan, &plan->serial) |
                      (plan->serial.inverted ? 0u : plan->serial.bit)));
        out(c, plan->serial.port, plan->serial.at);
        write_pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        write_bars(c);
    ROM(c, 0xD9, 0x16, '0', 0xD9);
    jump_to(c, LD_SP, script);
    rom_byte(c, 0xC9);

    write_serial(&w);
    write_characters(&w);
    write_report(&w);
    write_bodies(&w, &b);
    if (plan->lamp.fitted)
        blink = write_blinks(c);

    sum = rom_mark(c); /* operand: where it goes on if the sum is right */
    rom_byte(c, LD_HL);
    rom_word(c, c->org);
    rom_byte(c, 0x01);
    rom_word(c, rom_of(c, end) - c->org);
    rom_byte(c, 0xAF);
    loop = rom_mark(c);
    ROM(c, 0x86, 0xED, 0xA1); /* add a,(hl); cpi */
    jump_to(c, JP_PE, loop);
    ROM(c, 0xB7, 0xE1, 0xC0, 0xF9, 0xC9); /* or a; pop hl; ret nz; ld sp,hl; ret */
    wrong = rom_mark(c);
    ROM(c, 0x3E, RMG_TESTROM_CODE_SUM);
    branch_to(c, JR, keep);
    first_value = rom_mark(c);
    ROM(c, 0xED, 0x57, 0x08, 0xC9); /* ld a,i; ex af,af' */
    again = rom_mark(c);
    ROM(c, 0xD9, 0x7A, 0x3C);
    if (plan->stop_after) {
        ROM(c, 0xFE, (uint8_t)('0' + plan->stop_after));
        rom_byte(c, JP_Z);
        rom_word(c, plan->then);
    }
    ROM(c, 0xE6, 0xF7, 0x57, 0xD9); /* and 0F7h: from 8 to 0 */
    jump_to(c, LD_SP, top);
    rom_byte(c, 0xAF);
    rom_set(c, keep);
    ROM(c, 0xED, 0x47, 0xC9); /* ld i,a */

    rom_set(c, script);
    rom_set(c, top);
    for (unsigned i = 0; i < 4; i++)
        id[2 + i] = "0123456789ABCDEF"[plan->id >> (12u - 4u * i) & 15u];
    script_text(&w, id);
    check_and_end(&w);
    of(c, sum);
    of(c, fine);
    of(c, wrong);
    script_text(&w, "R");
    check_and_end(&w);
    rom_set(c, fine);
    if (plan->screen.fitted)
        of(c, b.beat);
    for (unsigned s = 0; s < plan->step_count; s++) {
        script_step(&w, &b, &plan->steps[s]);
        if (plan->screen.fitted)
            script_row(c, &b, s, &plan->steps[s]);
    }
    if (plan->screen.fitted)
        of(c, b.mood);
    script_text(&w, "E");
    of(c, first_value);
    tail(&w);
    if (plan->lamp.fitted)
        for (unsigned i = 0; i < 2; i++) {
            of(c, blink.bank);
            of(c, blink.gap);
            of(c, blink.bit);
            of(c, blink.good);
            of(c, blink.gap);
        }
    of(c, again);
    rmg_testrom_write_sums(c, b.sums);
    rom_byte(c, 0); /* makes the sum 0 */
    rom_set(c, end);
}
