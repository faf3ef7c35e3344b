/* The 8086 and 8088. No RAM: SS:SP walks a script in ROM. RET takes the next routine, POP the next
 * operand; BP keeps the script's place while a line is told by a script of its own.
 *
 *   DS:SI address, in a line DS its value      CL  bits of a character left
 *   BX    what was written                     CH  check of the line
 *   DX    end, or line; in a report the letter and the way back
 *   DI    bits that failed in a march; elsewhere those that are looked at
 *   ES    lines left (bits 0-4), pass (5-7), first finding of the pass (8-15) */
#include "i8086.h"

static void put_level(rom_code *c, const rmg_testrom_output *o, bool on)
{
    ROM(c, 0xB0, (uint8_t)rmg_testrom_level(c->plan, o, on), 0xE6, (uint8_t)o->at);
}

/* So many clocks by the data sheet, with AL; what cannot be made up is left. Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    uint32_t rest = clocks;

    while (rest >= 40u) { /* mov al,n; dec al; jnz: 4 + 19 n - 12 */
        uint32_t loops = (rest + 8u) / 19u;

        if (loops > 256u)
            loops = 256u;
        ROM(c, 0xB0, (uint8_t)loops, 0xFE, 0xC8, 0x75, 0xFC);
        rest -= 19u * loops - 8u;
    }
    for (; rest >= 3u; rest -= 3u)
        rom_byte(c, 0x90);
    return clocks - rest;
}

static void write_serial(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_output *o = &c->plan->serial;
    const uint32_t own = 3u + 4u + 4u + 10u + 2u + 2u + 3u + 16u;
    const uint32_t clocks = rmg_testrom_bit_clocks(c->plan);
    unsigned bit;

    rom_set(c, w->digit); /* the low digit of AL */
    ROM(c, 0x24, 15, 0x3C, 10, 0x72, 2, 0x04, 7, 0x04, '0');
    rom_set(c, w->tx);
    ROM(c, 0xD0, 0xC5, 0x30, 0xC5); /* rol ch,1; xor ch,al */
    if (!o->fitted) {
        rom_byte(c, 0xC3);
        return;
    }
    ROM(c, 0x88, 0xC4, 0xB1, 10, 0xF8); /* mov ah,al; ten bits; clc */
    bit = rom_mark(c);
    ROM(c, 0x18, 0xC0, 0x24, (uint8_t)o->bit, 0x34, (uint8_t)rmg_testrom_level(c->plan, o, false),
        0xE6, (uint8_t)o->at);
    if (clocks < own)
        c->why = "the clock is too slow for this rate: choose a lower one";
    else
        c->baud = rmg_testrom_rate(c->plan, own + spend(c, clocks - own));
    ROM(c, 0xF9, 0xD0, 0xDC, 0xFE, 0xC9); /* stc; rcr ah,1; dec cl */
    branch(c, JNZ, bit);
    rom_byte(c, 0xC3);
}

/* AX shifted right by so many digits, its lowest digit told. */
static void digit_of_ax(writer *w, unsigned shift)
{
    if (shift >= 2)
        ROM(w->c, 0x88, 0xE0); /* mov al,ah */
    jump(w->c, shift & 1u ? w->high_digit : w->digit);
}

static void write_characters(writer *w)
{
    rom_code *c = w->c;
    const unsigned digits = w->wide ? 4 : 2;

    rom_set(c, w->put);
    rom_byte(c, 0x58);
    branch(c, JMP, w->tx);
    rom_set(c, w->pass);
    ROM(c, 0x8C, 0xC0, 0xB1, 5, 0xD2, 0xE8, 0x0C, '0');
    branch(c, JMP, w->tx);
    rom_set(c, w->step);
    ROM(c, 0x8A, 0x46, AT_STEP);
    branch(c, JMP, w->tx);
    rom_set(c, w->bank);
    ROM(c, 0x8A, 0x46, AT_BANK);
    branch(c, JMP, w->tx);
    rom_set(c, w->letter);
    ROM(c, 0x87, 0xD3, 0x2E, 0x8A, 0x07, 0x87, 0xD3);
    branch(c, JMP, w->tx);
    rom_set(c, w->space);
    ROM(c, 0xB0, ' ');
    branch(c, JMP, w->tx);
    rom_set(c, w->cr);
    ROM(c, 0xB0, '\r');
    branch(c, JMP, w->tx);
    rom_set(c, w->lf);
    ROM(c, 0xB0, '\n');
    branch(c, JMP, w->tx);
    rom_set(c, w->address[0]); /* of the segment */
    ROM(c, 0x8A, 0x46, AT_SEG + 1u);
    rom_set(c, w->high_digit); /* of AL */
    ROM(c, 0xD0, 0xE8, 0xD0, 0xE8, 0xD0, 0xE8, 0xD0, 0xE8);
    jump(c, w->digit);
    for (unsigned i = 0; i < 4; i++) {
        rom_set(c, w->address[i + 1]);
        ROM(c, 0x89, 0xF0);
        digit_of_ax(w, 3u - i);
    }
    for (unsigned i = 0; i < digits; i++) {
        rom_set(c, w->wrote[i]);
        ROM(c, 0x89, 0xD8);
        digit_of_ax(w, digits - 1u - i);
    }
    for (unsigned i = 0; i < digits; i++) {
        rom_set(c, w->value[i]);
        ROM(c, 0x8C, 0xD8);
        digit_of_ax(w, digits - 1u - i);
    }
    rom_set(c, w->check);
    ROM(c, 0x88, 0xE8, 0xB4, 0, 0x8E, 0xD8, 0xC3); /* mov al,ch; mov ds,ax */
    rom_set(c, w->no_check);
    ROM(c, 0x30, 0xED, 0xC3);
    rom_set(c, w->jump);
    ROM(c, 0x5C, 0xC3); /* pop sp: the script goes on there */
}

/* AX has the bits that are wrong, BX what was written, DX the letter with the way back behind. */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    const unsigned line = rom_label(c), short_line = rom_label(c), more = rom_label(c),
                   ends = rom_label(c), ends_more = rom_label(c), found = rom_label(c),
                   known = rom_label(c);
    unsigned again;

    rom_set(c, w->report_march); /* or di,ax: the bits that failed */
    if (!w->wide)
        ROM(c, 0xB4, 0);
    ROM(c, 0x09, 0xC7);
    rom_set(c, w->report);
    if (!w->wide)
        ROM(c, 0xB4, 0);
    ROM(c, 0x31, 0xD8, 0x8E, 0xD8, 0x8C, 0xC0, 0xA8, 0x1F);
    branch(c, JZ, w->leave);
    ROM(c, 0x48, 0x8E, 0xC0); /* dec ax; mov es,ax */
    absolute(c, 0xBC, rom_of(c, line));
    rom_byte(c, 0xC3);
    rom_set(c, w->leave);
    ROM(c, 0x8E, 0x5E, AT_SEG, 0x89, 0xEC, 0x89, 0xD0, 0x40, 0x8B, 0x56, AT_END, 0xFF, 0xE0);

    rom_set(c, w->done);
    ROM(c, 0x58, 0x89, 0xE5, 0x8E, 0xDF); /* letters; mov ds,di */
    absolute(c, 0xBA, rom_of(c, ends));
    ROM(c, 0x8C, 0xC0, 0xA8, 0x1F);
    branch(c, JNZ, more);
    absolute(c, 0xBA, rom_of(c, ends_more));
    rom_set(c, more);
    absolute(c, 0xBC, rom_of(c, short_line));
    rom_byte(c, 0xC3);
    rom_set(c, ends);
    ROM(c, '.', 0xC3);
    rom_set(c, ends_more);
    ROM(c, '+', 0xC3);

    rom_set(c, w->first);
    ROM(c, 0x8C, 0xC0, 0x08, 0xE4);
    branch(c, JNZ, known);
    ROM(c, 0x8A, 0x46, AT_STEP, 0xB1, (uint8_t)(c->plan->word_bits + 1u), 0x3C, 'A');
    branch(c, JZ, found);
    ROM(c, 0xFE, 0xC1, 0x3C, 'X');
    branch(c, JZ, found);
    ROM(c, 0x8C, 0xD8, 0x31, 0xD8, 0xB1, 0);
    again = rom_mark(c);
    ROM(c, 0xFE, 0xC1, 0xD1, 0xE8);
    branch(c, JNC, again);
    rom_set(c, found);
    ROM(c, 0x8A, 0x46, AT_BANK, 0xD0, 0xC8, 0xD0, 0xC8, 0xD0, 0xC8, 0x24, 0xE0, 0x08, 0xC1, 0x8C,
        0xC0, 0x88, 0xCC, 0x8E, 0xC0);
    rom_set(c, known);
    rom_byte(c, 0xC3);

    rom_set(c, line);
    of(c, w->first);
    rom_set(c, w->told);
    head(w);
    for (unsigned i = 0; i < 5; i++)
        of(c, w->address[i]);
    of(c, w->space);
    for (unsigned i = 0; i < (w->wide ? 4u : 2u); i++)
        of(c, w->wrote[i]);
    of(c, w->space);
    whole_value(w);
    check_and_end(w);
    of(c, w->leave);
    rom_set(c, short_line);
    head(w);
    whole_value(w);
    check_and_end(w);
    of(c, w->leave);
}

#define NEAR_OPS 6u /* of an element whose branches all are short */

/* How an element goes through its words. By lines with no line: one word. */
typedef enum way { UP, DOWN, BY_LINES } way;

typedef struct stub {
    unsigned from, back;
    uint8_t letter;
    bool one;
} stub;

static void read_word(writer *w)
{
    ROM(w->c, w->wide ? 0x8B : 0x8A, 0x04);
}

static void write_word(writer *w, bool one)
{
    ROM(w->c, w->wide ? 0xC7 : 0xC6, 0x04, one ? 0xFF : 0x00);
    if (w->wide)
        rom_byte(w->c, one ? 0xFF : 0x00);
}

/* Operands off the stack, the letters last. */
static void take_operands(rom_code *c)
{
    ROM(c, 0x1F, 0x5E, 0x5A, 0x58, 0x58, 0x89, 0xE5); /* ds; si; dx; mask; letters; mov bp,sp */
}

static unsigned write_element(writer *w, const uint8_t *e, uint8_t read, way how)
{
    rom_code *c = w->c;
    const bool march = how != BY_LINES, masked = march && rmg_testrom_masked(c->plan);
    const bool near_by = rom_ops(e) <= NEAR_OPS;
    const unsigned label = rom_mark(c), out = rom_label(c);
    stub stubs[RMG_MARCH_OPS];
    unsigned count = 0, loop;
    uint32_t clocks = w->wide ? 2u + 2u + 3u + 16u : 2u + 3u + 16u;

    take_operands(c);
    loop = rom_mark(c);
    if (how == BY_LINES)
        ROM(c, 0x8B, 0x76, AT_FIRST, 0x01, 0xD6); /* mov si,[first]; add si,dx */
    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const bool one = e[i] & RMG_OP_ONE;

        if (e[i] & RMG_OP_WRITE) {
            write_word(w, one);
            clocks += 15;
            continue;
        }
        read_word(w);
        clocks += 13;
        if (masked || !march) { /* not ax; and ax, what is looked at */
            if (one)
                ROM(c, 0xF7, 0xD0);
            if (march)
                ROM(c, 0x23, 0x46, AT_MASK);
            else
                ROM(c, 0x21, 0xF8);
        } else if (w->wide) {
            if (one)
                rom_byte(c, 0x40);
            else
                ROM(c, 0x09, 0xC0);
        } else {
            ROM(c, one ? 0xFE : 0x08, 0xC0);
        }
        if (!w->wide && (masked || !march))
            ROM(c, 0x08, 0xC0); /* of AL alone */
        clocks += 3u + (near_by ? 4u : 16u);
        stubs[count] = (stub){rom_label(c), rom_label(c), read++, one};
        if (near_by) {
            branch(c, JNZ, stubs[count].from);
        } else {
            ROM(c, JZ, 3);
            jump(c, stubs[count].from);
        }
        rom_set(c, stubs[count].back);
        count++;
    }
    switch (how) {
    case UP:
    case DOWN:
        for (unsigned i = 0; i < (w->wide ? 2u : 1u); i++)
            rom_byte(c, how == UP ? 0x46 : 0x4E);
        ROM(c, 0x39, 0xD6);
        if (near_by) {
            branch(c, JNZ, loop);
        } else {
            ROM(c, JZ, 3);
            jump(c, loop);
        }
        rom_byte(c, 0xC3);
        break;
    case BY_LINES: /* the line that this was: of the address */
        ROM(c, 0x89, 0xF2, 0x2B, 0x56, AT_FIRST, 0xD1, 0xEA);
        if (w->wide) /* 1 is no line there */
            ROM(c, 0x83, 0xFA, 2, JC, 3);
        else
            ROM(c, 0x09, 0xD2, JZ, 3);
        jump(c, loop);
        rom_set(c, out);
        rom_byte(c, 0xC3);
        break;
    }
    for (unsigned i = 0; i < count; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, stubs[i].from);
        if (march && !masked && stubs[i].one) { /* dec; not: the bits that are wrong */
            if (w->wide)
                ROM(c, 0x48, 0xF7, 0xD0);
            else
                ROM(c, 0xFE, 0xC8, 0xF6, 0xD0);
        }
        if (w->wide)
            absolute(c, 0xBB, stubs[i].one ? 0xFFFFu : 0u);
        else
            ROM(c, 0xB3, stubs[i].one ? 0xFF : 0); /* BH is 0 */
        absolute(c, 0xBA, rom_of(c, letter));
        jump(c, march ? w->report_march : w->report);
        rom_set(c, letter);
        rom_byte(c, (uint8_t)rmg_testrom_read_letter(stubs[i].letter));
        if (near_by)
            branch(c, JMP, stubs[i].back);
        else
            jump(c, stubs[i].back);
    }
    if (march)
        c->march_clocks += clocks;
    return label;
}

/* Between write and read the queue is emptied: else nothing but the word itself may have been on
 * the bus. */
static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), out = rom_label(c);
    unsigned loop, from[2], back[2];

    for (unsigned i = 0; i < 2; i++) {
        from[i] = rom_label(c);
        back[i] = rom_label(c);
    }
    take_operands(c);
    ROM(c, 0x8B, 0x7E, AT_MASK);
    absolute(c, 0xBB, 1);
    loop = rom_mark(c);
    for (unsigned i = 0; i < 2; i++) {
        ROM(c, w->wide ? 0x89 : 0x88, 0x1C, JMP, 0);
        read_word(w);
        ROM(c, 0x31, 0xD8, 0x21, 0xF8);
        if (!w->wide)
            ROM(c, 0x08, 0xC0);
        ROM(c, JZ, 3);
        jump(c, from[i]);
        rom_set(c, back[i]);
        if (w->wide)
            ROM(c, 0xF7, 0xD3);
        else
            ROM(c, 0xF6, 0xD3);
    }
    ROM(c, w->wide ? 0xD1 : 0xD0, 0xC3); /* rol */
    branch(c, JC, out);
    jump(c, loop);
    rom_set(c, out);
    rom_byte(c, 0xC3);
    for (unsigned i = 0; i < 2; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, from[i]);
        if (!w->wide)
            ROM(c, 0xB4, 0);
        ROM(c, 0x89, 0xC2, 0xF7, 0xD2, 0x21, 0xD7); /* mov dx,ax; not dx; and di,dx */
        absolute(c, 0xBA, rom_of(c, letter));
        jump(c, w->report);
        rom_set(c, letter);
        rom_byte(c, i ? 'b' : 'a');
        jump(c, back[i]);
    }
    return label;
}

static void pause(rom_code *c, uint32_t ms)
{
    const uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 17u;

    for (uint64_t left = loops ? loops : 1; left;) {
        const uint32_t now = left > 65535u ? 65535u : (uint32_t)left;

        absolute(c, 0xB9, now);
        ROM(c, 0xE2, 0xFE);
        left -= now;
    }
}

#define FLASH_MS 200u

static void light(rom_code *c, uint32_t ms)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone) {
        const uint32_t half = c->plan->clock_hz / o->tone / 2u / 17u;
        unsigned loop;

        absolute(c, 0xBE, o->tone * ms / 1000u);
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            put_level(c, o, on != 0);
            absolute(c, 0xB9, half ? half : 1u);
            ROM(c, 0xE2, 0xFE);
        }
        rom_byte(c, 0x4E);
        branch(c, JNZ, loop);
    } else {
        put_level(c, o, true);
        pause(c, ms);
    }
    put_level(c, o, false);
}

typedef struct blinker {
    unsigned bank, bit, good, gap;
} blinker;

static blinker write_blinks(rom_code *c)
{
    const blinker b = {rom_label(c), rom_label(c), rom_label(c), rom_label(c)};
    const unsigned group = rom_label(c), out = rom_label(c), lit = rom_label(c);
    unsigned loop;

    rom_set(c, b.bank);
    ROM(c, 0x8C, 0xC3, 0x88, 0xFB, 0xB7, 0, 0xB1, 5, 0xD3, 0xEB); /* mov bx,es; bl=bh; bh=0; shr */
    jump(c, group);
    rom_set(c, b.bit);
    ROM(c, 0x8C, 0xC3, 0x88, 0xFB, 0x81, 0xE3, 31, 0);
    rom_set(c, group);
    ROM(c, 0x09, 0xDB, JNZ, 1, 0xC3);
    loop = rom_mark(c);
    light(c, FLASH_MS);
    pause(c, FLASH_MS);
    ROM(c, 0x4B, JZ, 3);
    jump(c, loop);
    rom_set(c, out);
    rom_byte(c, 0xC3);
    rom_set(c, b.good);
    ROM(c, 0x8C, 0xC0, 0x08, 0xE4, JZ, 1, 0xC3);
    rom_set(c, lit);
    light(c, 5u * FLASH_MS);
    rom_set(c, b.gap);
    pause(c, 3u * FLASH_MS);
    rom_byte(c, 0xC3);
    return b;
}

typedef struct bodies {
    unsigned data, lines[3], march[RMG_MARCH_BYTES], pages, sums;
} bodies;

static void write_bodies(writer *w, bodies *b)
{
    rom_code *c = w->c;
    uint8_t read = 0;
    unsigned n = 0;

    b->data = write_data(w);
    for (const uint8_t *e = rmg_testrom_short_march; *e; e = rom_next_element(e), n++) {
        b->lines[n] = write_element(w, e, read, BY_LINES);
        read = (uint8_t)(read + rmg_testrom_reads(e));
    }
    read = 0;
    n = 0;
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e), n++) {
        if (rom_ops(e)) {
            b->march[n] =
                write_element(w, e, read, (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN ? DOWN : UP);
        } else {
            b->march[n] = rom_mark(c);
            pause(c, c->plan->hold_ms);
            rom_byte(c, 0xC3);
        }
        read = (uint8_t)(read + rmg_testrom_reads(e));
    }
    rom_set(c, w->fresh);
    ROM(c, 0x8C, 0xC0, 0x24, 0xE0, 0x0C, c->plan->lines, 0x8E, 0xC0, 0xC3);
    rom_set(c, w->clear); /* operand: what DI is to hold */
    ROM(c, 0x5F, 0xC3);
    if (c->plan->screen.fitted)
        rmg_testrom_8086_rows(w);
    if (c->plan->rom_count)
        b->pages = rmg_testrom_8086_pages(w);
}

/* A step's entry: a routine and its operands. `at` counts bytes. */
static void entry(writer *w, unsigned label, uint32_t at, uint32_t end, uint8_t bank,
                  rmg_testrom_kind kind)
{
    rom_code *c = w->c;

    of(c, label);
    rom_word(c, at >> 16 << 12);
    rom_word(c, at & 0xFFFFu);
    rom_word(c, end & 0xFFFFu);
    rom_word(c, (uint32_t)c->plan->banks[bank].bits & 0xFFFFu);
    rom_byte(c, (uint8_t)rmg_testrom_kind_letter(kind));
    rom_byte(c, (uint8_t)rmg_testrom_bank_letter(bank));
}

static void script_march(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    const unsigned shift = c->plan->byte_shift, step = 1u << shift;
    const uint32_t first = (uint32_t)s->range.first << shift,
                   last = (uint32_t)s->range.last << shift;
    unsigned n = 0;

    of(c, w->clear);
    rom_word(c, 0);
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e), n++) {
        const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;

        if (!rom_ops(e)) {
            of(c, b->march[n]);
            continue;
        }
        for (uint32_t segment = 0; segment <= (last >> 16) - (first >> 16); segment++) {
            const uint32_t of_64k = down ? (last >> 16) - segment : (first >> 16) + segment;
            const uint32_t from = of_64k == first >> 16 ? first : of_64k << 16;
            const uint32_t to = of_64k == last >> 16 ? last : (of_64k << 16) + 0x10000u - step;

            entry(w, b->march[n], down ? to : from, down ? from - step : to + step, s->bank,
                  s->kind);
        }
    }
    of(c, w->done);
    rom_byte(c, (uint8_t)rmg_testrom_kind_letter(s->kind));
    rom_byte(c, (uint8_t)rmg_testrom_bank_letter(s->bank));
}

static void script_lines(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    const unsigned shift = w->c->plan->byte_shift;
    const uint32_t first = (uint32_t)s->range.first << shift;
    rmg_addr top = 1;

    while (top <= (s->range.last - s->range.first) / 2u && !((s->range.first >> 1) & top))
        top <<= 1;
    for (unsigned n = 0; n < 3; n++) {
        uint32_t line = (uint32_t)top << shift;

        entry(w, b->lines[n], first, 0, s->bank, s->kind);
        for (; line > 0x8000u; line >>= 1) /* of the segment: no register has them */
            entry(w, b->lines[n], first + line, 0, s->bank, s->kind);
        entry(w, b->lines[n], first, line, s->bank, s->kind);
    }
}

static void script_step(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;

    of(c, w->fresh);
    switch (s->kind) {
    case RMG_TESTROM_DATA:
        entry(w, b->data, (uint32_t)s->range.first << plan->byte_shift, 0, s->bank, s->kind);
        break;
    case RMG_TESTROM_LINES:
        script_lines(w, b, s);
        break;
    case RMG_TESTROM_ACROSS:
        for (unsigned n = 0; n < 3; n++)
            for (uint8_t i = 0; i < plan->bank_count; i++) {
                of(c, w->clear);
                rom_word(c, (uint32_t)plan->banks[i].bits & 0xFFFFu);
                entry(w, b->lines[n], (uint32_t)plan->banks[i].range.first << plan->byte_shift, 0,
                      i, s->kind);
            }
        break;
    case RMG_TESTROM_ROM:
        rmg_testrom_8086_rom(w, b->pages, s, b->sums + s->bank);
        break;
    default:
        script_march(w, b, s);
    }
}

static void script_text(writer *w, const char *text)
{
    of(w->c, w->no_check);
    of(w->c, w->pass);
    for (; *text; text++) {
        of(w->c, w->put);
        rom_word(w->c, (uint8_t)*text);
    }
}

static bool can(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    bool memory =
        (plan->serial.fitted && !plan->serial.port) || (plan->lamp.fitted && !plan->lamp.port);

    for (unsigned i = 0; i < plan->write_count; i++)
        memory |= !plan->writes[i].port;
    if (memory)
        c->why = "its outputs are reached as I/O ports only (port: ...), for no segment is free";
    if (plan->origin & 15u)
        c->why = "the ROM must begin at a multiple of 16";
    return !memory && !(plan->origin & 15u);
}

void rmg_testrom_write_8086(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c, .wide = plan->word_bits == 16};
    const unsigned script = rom_label(c), top = rom_label(c), fine = rom_label(c),
                   end = rom_label(c), start = rom_label(c), sum = rom_label(c),
                   wrong = rom_label(c), told = rom_label(c), again = rom_label(c);
    unsigned *const labels[] = {
        &w.tx,     &w.digit,  &w.put,          &w.pass,        &w.step,      &w.bank,
        &w.letter, &w.space,  &w.check,        &w.no_check,    &w.cr,        &w.lf,
        &w.leave,  &w.report, &w.report_march, &w.first,       &w.done,      &w.jump,
        &w.fresh,  &w.clear,  &w.told,         &w.pages_begin, &w.pages_end, &w.high_digit};
    bodies b = {0};
    blinker blink = {0};
    unsigned loop;
    char id[8] = "S 0000";

    if (!can(c))
        return;
    for (unsigned i = 0; i < sizeof labels / sizeof *labels; i++)
        *labels[i] = rom_label(c);
    for (unsigned i = 0; i < 5; i++)
        w.address[i] = rom_label(c);
    for (unsigned i = 0; i < 4; i++) {
        w.wrote[i] = rom_label(c);
        w.value[i] = rom_label(c);
    }
    b.sums = rmg_testrom_sum_labels(c);
    jump(c, start);
    write_serial(&w);
    write_characters(&w);
    rom_set(c, start);
    ROM(c, 0xFA, 0xFC, 0x8C, 0xC8, 0x8E, 0xD0); /* cli; cld; ss = cs */
    for (unsigned i = 0; i < plan->write_count; i++)
        ROM(c, 0xB0, (uint8_t)plan->writes[i].value, 0xE6, (uint8_t)plan->writes[i].at);
    if (plan->lamp.fitted)
        put_level(c, &plan->lamp, false);
    if (plan->serial.fitted) {
        put_level(c, &plan->serial, true);
        pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        rmg_testrom_8086_bars(c);
    ROM(c, 0x31, 0xC0, 0x8E, 0xC0, 0x31, 0xDB); /* es = 0; bh = 0 */
    absolute(c, 0xBC, rom_of(c, script));
    rom_byte(c, 0xC3);
    write_report(&w);
    write_bodies(&w, &b);
    if (plan->lamp.fitted)
        blink = write_blinks(c);

    rom_set(c, sum); /* operand: where it goes on if the sum is right */
    ROM(c, 0x31, 0xF6);
    absolute(c, 0xB9, rom_of(c, end));
    ROM(c, 0xB4, 0);
    loop = rom_mark(c);
    ROM(c, 0x2E, 0xAC, 0x00, 0xC4);
    branch(c, 0xE2, loop);
    ROM(c, 0x5E, 0x08, 0xE4, JZ, 1, 0xC3, 0x89, 0xF4, 0xC3);
    rom_set(c, wrong);
    ROM(c, 0x8C, 0xC0, 0xB4, RMG_TESTROM_CODE_SUM, 0x8E, 0xC0, 0xC3);
    rom_set(c, told);
    ROM(c, 0x8C, 0xC0, 0x88, 0xE0, 0xB4, 0, 0x8E, 0xD8, 0xC3);
    rom_set(c, again);
    ROM(c, 0x8C, 0xC0, 0x04, 0x20, 0xB4, 0, 0x24, 0xE0, 0x8E, 0xC0);
    if (plan->stop_after) {
        ROM(c, 0x3C, (uint8_t)(plan->stop_after << 5), JNZ, 5, 0xEA);
        rom_word(c, plan->then & 15u);
        rom_word(c, plan->then >> 4);
    }
    absolute(c, 0xBC, rom_of(c, top));
    rom_byte(c, 0xC3);

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
        of(c, w.beat);
    for (unsigned s = 0; s < plan->step_count; s++) {
        script_step(&w, &b, &plan->steps[s]);
        if (plan->screen.fitted)
            rmg_testrom_8086_show_row(&w, s, &plan->steps[s]);
    }
    if (plan->screen.fitted)
        of(c, w.mood);
    script_text(&w, "E");
    of(c, told);
    of(c, w.space);
    low_value(&w);
    check_and_end(&w);
    for (unsigned i = 0; plan->lamp.fitted && i < 2; i++) {
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
