/* The 68000. It has registers enough; A4 walks a script in ROM, the stack pointer is one more
 * register. Routines end with a jump through A5, which takes the next of the script.
 *
 *   A0 address    A3 script's place while a line is told   D0 scratch     D4 lines left, pass above
 *   A1 end, base  A4 script                                D1 written     D5 check
 *   A2 letter     A5 its dispatcher                        D2 looked at   D6 of the bits of a line
 *                 A6 first byte of the ROM                 D3 failed,     D7 value
 *                 A7 first finding of the pass                or line */
#include "m68000.h"

static bool is_word(const rmg_testrom_output *o)
{
    return (o->bit | o->others) > 0xFFu;
}

static void put_level(rom_code *c, const rmg_testrom_output *o, bool on)
{
    W(c, is_word(o) ? 0x33FC : 0x13FC, rmg_testrom_level(c->plan, o, on));
    rom_long(c, o->at);
}

/* So many clocks, with D6; up to 3 are left. Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    uint32_t rest = clocks;

    while (rest >= 40u) { /* move.w #n,d6; dbra: 8 + 10 n + 14 */
        uint32_t loops = (rest - 22u) / 10u;

        if (loops > 60000u)
            loops = 60000u;
        W(c, 0x3C3C, (uint16_t)loops, 0x51CE, 0xFFFE);
        rest -= 22u + 10u * loops;
    }
    for (; rest >= 4u && rest != 6u; rest -= 4u)
        rom_word(c, 0x4E71);
    if (rest == 6u) {
        rom_word(c, 0xCD46); /* exg d6,d6 */
        rest = 0;
    }
    return clocks - rest;
}

static void write_serial(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_output *o = &c->plan->serial;
    const bool wide = is_word(o);
    const uint32_t own = 8u + 4u + 8u + 8u + 16u + 8u + 10u,
                   clocks = rmg_testrom_bit_clocks(c->plan);
    unsigned bit;

    rom_set(c, w->digit);
    W(c, 0x0240, 15, 0x0C00, 10, 0x6502, 0x5E00, 0x0600, '0'); /* bcs over addq.b #7 */
    rom_set(c, w->tx);
    W(c, 0xE31D, 0xB105);
    if (!o->fitted) {
        rom_word(c, NEXT);
        return;
    }
    W(c, 0x0240, 0x00FF, 0x0040, 0x0300, 0xD040); /* start bit 0, stop bit, and one to end at */
    bit = rom_mark(c);
    W(c, 0xE248, wide ? 0x9D46 : 0x9D06, wide ? 0x0246 : 0x0206, o->bit, wide ? 0x0A46 : 0x0A06,
      rmg_testrom_level(c->plan, o, false), wide ? 0x33C6 : 0x13C6);
    rom_long(c, o->at);
    if (clocks < own + 22u)
        c->why = "the clock is too slow for this rate: choose a lower one";
    else
        c->baud = rmg_testrom_rate(c->plan, own + spend(c, clocks - own));
    W(c, 0x0C40, 1);
    near_to(c, BNE_S, bit);
    rom_word(c, NEXT);
}

static void character(writer *w, unsigned label, const uint16_t *code, size_t count)
{
    rom_set(w->c, label);
    words(w->c, code, count);
    far_to(w->c, BRA, w->tx);
}
#define CHARACTER(w, label, ...)                                                                   \
    character(w, label, (const uint16_t[]){__VA_ARGS__},                                           \
              sizeof((const uint16_t[]){__VA_ARGS__}) / 2u)

/* A digit of D0's low word: 3 is the highest. */
static void digit_of(writer *w, unsigned which)
{
    if (which >= 2)
        rom_word(w->c, 0xE048);
    if (which & 1u)
        rom_word(w->c, 0xE808);
    far_to(w->c, BRA, w->digit);
}

static void write_characters(writer *w)
{
    rom_code *c = w->c;

    CHARACTER(w, w->put, 0x301C);
    CHARACTER(w, w->pass, 0x3004, 0xE048);
    CHARACTER(w, w->step, 0x102B, 0xFFFE);
    CHARACTER(w, w->bank, 0x102B, 0xFFFF);
    CHARACTER(w, w->letter, 0x1012);
    CHARACTER(w, w->space, 0x7000 | ' ');
    CHARACTER(w, w->cr, 0x7000 | '\r');
    CHARACTER(w, w->lf, 0x7000 | '\n');
    for (unsigned i = 0; i < 6; i++) {
        rom_set(c, w->address[i]);
        if (i < 2)
            W(c, 0x2008, 0x4840); /* move.l a0,d0; swap */
        else
            rom_word(c, 0x3008);
        digit_of(w, i < 2 ? 1u - i : 5u - i);
    }
    for (unsigned i = 0; i < 4; i++) {
        rom_set(c, w->wrote[i]);
        rom_word(c, 0x3001);
        digit_of(w, 3u - i);
    }
    for (unsigned i = 0; i < 4; i++) {
        rom_set(c, w->value[i]);
        rom_word(c, 0x3007);
        digit_of(w, 3u - i);
    }
    rom_set(c, w->check);
    W(c, 0x7E00, 0x1E05, NEXT);
    rom_set(c, w->no_check);
    W(c, 0x7A00, NEXT);
}

/* D0 has the bits that are wrong, D1 what was written, A2 the letter with the way back behind. */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    const unsigned line = rom_label(c), short_line = rom_label(c), quiet = rom_label(c),
                   more = rom_label(c), ends = rom_label(c), ends_more = rom_label(c),
                   found = rom_label(c), known = rom_label(c);
    unsigned again;

    rom_set(c, w->report);
    W(c, 0x3E00, 0xB347, 0x4A04);
    near_to(c, BEQ_S, quiet);
    W(c, 0x5304, 0x264C);
    far_to(c, LEA_A4, line);
    rom_word(c, NEXT);
    rom_set(c, w->leave);
    rom_word(c, 0x284B);
    rom_set(c, quiet);
    W(c, 0x4EEA, 2);

    rom_set(c, w->done);
    W(c, 0x301C, 0x3E03);
    far_to(c, LEA_A2, ends);
    rom_word(c, 0x4A04);
    near_to(c, BNE_S, more);
    far_to(c, LEA_A2, ends_more);
    rom_set(c, more);
    rom_word(c, 0x264C);
    far_to(c, LEA_A4, short_line);
    rom_word(c, NEXT);
    rom_set(c, ends);
    W(c, '.' << 8, NEXT);
    rom_set(c, ends_more);
    W(c, '+' << 8, NEXT);

    rom_set(c, w->first);
    rom_word(c, 0x300F);
    near_to(c, BNE_S, known);
    W(c, 0x102B, 0xFFFE, 0x7C00 | (c->plan->word_bits + 1u), 0x0C00, 'A');
    near_to(c, BEQ_S, found);
    W(c, 0x5206, 0x0C00, 'X');
    near_to(c, BEQ_S, found);
    W(c, 0x3007, 0xB340, 0x7C00);
    again = rom_mark(c);
    W(c, 0x5206, 0xE248);
    near_to(c, BCC_S, again);
    rom_set(c, found);
    W(c, 0x102B, 0xFFFF, 0x0240, 7, 0xEB48, 0x8006, 0x3E40);
    rom_set(c, known);
    rom_word(c, NEXT);

    rom_set(c, line);
    of(c, w->first);
    rom_set(c, w->told);
    head(w);
    all_of(w, w->address, 6);
    of(c, w->space);
    all_of(w, w->wrote, 4);
    of(c, w->space);
    all_of(w, w->value, 4);
    check_and_end(w);
    of(c, w->leave);
    rom_set(c, short_line);
    head(w);
    all_of(w, w->value, 4);
    check_and_end(w);
    of(c, w->leave);
}

/* How an element goes through its words. By lines with no line: one word. */
typedef enum way { UP, DOWN, BY_LINES } way;

typedef struct stub {
    unsigned from, back;
    uint8_t letter;
    bool one;
} stub;

static unsigned write_element(writer *w, const uint8_t *e, uint8_t read, way how)
{
    rom_code *c = w->c;
    const bool march = how != BY_LINES, masked = !march || rmg_testrom_masked(c->plan);
    const unsigned label = rom_mark(c), out = rom_label(c);
    stub stubs[RMG_MARCH_OPS];
    unsigned count = 0, loop;
    uint32_t clocks = (how == UP && (e[rom_ops(e)] & RMG_OP_WRITE) ? 0u : 8u) + 6u + 10u;

    if (how == BY_LINES)
        W(c, 0x225C, 0x261C, 0x588C); /* base, line; the bits of the step before */
    else
        W(c, 0x205C, 0x225C, 0x341C, 0x548C);
    loop = rom_mark(c);
    if (how == BY_LINES)
        W(c, 0x41F1, 0x3800);
    if (how == DOWN)
        rom_word(c, 0x5588);
    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const bool one = e[i] & RMG_OP_ONE;

        if (e[i] & RMG_OP_WRITE) {
            W(c, how == UP && i == rom_ops(e) ? 0x30FC : 0x30BC, one ? 0xFFFF : 0x0000);
            clocks += 12;
            continue;
        }
        rom_word(c, 0x3010);
        clocks += 8u + 12u;
        if (masked) {
            if (one)
                rom_word(c, 0x4640);
            rom_word(c, 0xC042);
            clocks += one ? 8u : 4u;
        } else if (one) {
            rom_word(c, 0x5240);
            clocks += 4;
        }
        stubs[count] = (stub){rom_label(c), rom_label(c), read++, one};
        far_to(c, BNE, stubs[count].from);
        rom_set(c, stubs[count].back);
        count++;
    }
    switch (how) {
    case UP:
        if (!(e[rom_ops(e)] & RMG_OP_WRITE)) /* which went on by itself */
            rom_word(c, 0x5488);
        /* fall through */
    case DOWN:
        rom_word(c, 0xB1C9);
        far_to(c, BNE, loop);
        break;
    case BY_LINES:
        W(c, 0xE28B, 0x7002, 0xB680); /* lsr.l #1,d3; is it less than 2? */
        near_to(c, BCS_S, out);
        far_to(c, BRA, loop);
        rom_set(c, out);
        break;
    }
    rom_word(c, NEXT);
    for (unsigned i = 0; i < count; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, stubs[i].from);
        if (!masked && stubs[i].one)
            W(c, 0x5340, 0x4640);
        if (march)
            rom_word(c, 0x8640);
        W(c, 0x323C, stubs[i].one ? 0xFFFF : 0);
        far_to(c, LEA_A2, letter);
        far_to(c, BRA, w->report);
        rom_set(c, letter);
        rom_word(c, (uint32_t)(uint8_t)rmg_testrom_read_letter(stubs[i].letter) << 8);
        far_to(c, BRA, stubs[i].back);
    }
    if (march)
        c->march_clocks += clocks;
    return label;
}

static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    unsigned loop, from[2], back[2];

    for (unsigned i = 0; i < 2; i++) {
        from[i] = rom_label(c);
        back[i] = rom_label(c);
    }
    W(c, 0x205C, 0x225C, 0x341C, 0x548C, 0x7201);
    loop = rom_mark(c);
    for (unsigned i = 0; i < 2; i++) {
        W(c, 0x3081, 0x3010, 0xB340, 0xC042); /* move.w d1,(a0); (a0),d0; eor; and */
        far_to(c, BNE, from[i]);
        rom_set(c, back[i]);
        rom_word(c, 0x4641);
    }
    rom_word(c, 0xD241); /* add.w d1,d1 */
    near_to(c, BCC_S, loop);
    rom_word(c, NEXT);
    for (unsigned i = 0; i < 2; i++) {
        const unsigned letter = rom_label(c);

        rom_set(c, from[i]);
        W(c, 0x4640, 0xC440, 0x4640); /* not d0; and.w d0,d2; not d0 */
        if (c->plan->screen.fitted)
            rom_word(c, 0x8640); /* or.w d0,d3 */
        far_to(c, LEA_A2, letter);
        far_to(c, BRA, w->report);
        rom_set(c, letter);
        rom_word(c, i ? 'b' << 8 : 'a' << 8);
        far_to(c, BRA, back[i]);
    }
    return label;
}

static void pause(rom_code *c, uint32_t ms)
{
    const uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 18u;

    rom_word(c, 0x203C);
    rom_long(c, (uint32_t)(loops ? loops : 1));
    W(c, 0x5380, 0x66FC);
}

#define FLASH_MS 200u

static void light(rom_code *c, uint32_t ms)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone) {
        unsigned loop;

        W(c, 0x343C, (uint16_t)(o->tone * ms / 1000u)); /* d2 */
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            put_level(c, o, on != 0);
            spend(c, c->plan->clock_hz / o->tone / 2u);
        }
        rom_word(c, 0x5342);
        far_to(c, BNE, loop);
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
    const unsigned group = rom_label(c), some = rom_label(c), lit = rom_label(c);
    unsigned loop;

    rom_set(c, b.bank);
    W(c, 0x320F, 0xEA49); /* move.w a7,d1; lsr.w #5,d1 */
    far_to(c, BRA, group);
    rom_set(c, b.bit);
    W(c, 0x320F, 0x0241, 31);
    rom_set(c, group);
    rom_word(c, 0x4A41);
    near_to(c, BNE_S, some);
    rom_word(c, NEXT);
    rom_set(c, some);
    loop = some;
    light(c, FLASH_MS);
    pause(c, FLASH_MS);
    rom_word(c, 0x5341);
    far_to(c, BNE, loop);
    rom_word(c, NEXT);
    rom_set(c, b.good);
    rom_word(c, 0x300F);
    near_to(c, BEQ_S, lit);
    rom_word(c, NEXT);
    rom_set(c, lit);
    light(c, 5u * FLASH_MS);
    rom_set(c, b.gap);
    pause(c, 3u * FLASH_MS);
    rom_word(c, NEXT);
    return b;
}

typedef struct bodies {
    unsigned data, lines[3], march[RMG_MARCH_BYTES], pages, sums, row, bits, beat, mood;
} bodies;

/* What the screen shows. Operands of a row: where it begins, and its two letters. */
static void write_rows(rom_code *c, bodies *b)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint32_t last = rom_screen_row(c->plan, s->rows - 1u);
    const uint16_t mark = 0x103C, dot = mark; /* move.b #,d0 */
    unsigned loop;

    b->row = rom_mark(c);
    W(c, 0x205C, 0x10DC, 0x10DC); /* movea.l (a4)+,a0; move.b (a4)+,(a0)+ twice */
    W(c, dot, s->dot, 0x0C04, c->plan->lines, 0x6704, mark, s->mark, 0x10C0, NEXT);
    b->bits = rom_mark(c); /* those that failed, behind it */
    W(c, 0x10FC, s->blank, 0x3003, (uint16_t)(0x7200u | (c->plan->word_bits - 1u)), 0x7E00);
    loop = rom_mark(c);
    W(c, 0xD040, 0x1C3C, s->digits, 0xDD07, 0x10C6); /* add.w d0,d0; addx.b d7,d6 */
    far_to(c, 0x51C9, loop);
    rom_word(c, NEXT);
    b->beat = rom_mark(c); /* the digit of the pass */
    W(c, 0x3004, 0xE048, 0x0600, (uint8_t)(s->digits - '0'), 0x13C0);
    rom_long(c, last);
    rom_word(c, NEXT);
    b->mood = rom_mark(c);                                    /* was anything found? */
    W(c, dot, s->dot, 0x320F, 0x6704, mark, s->mark, 0x13C0); /* move.w a7,d1; beq */
    rom_long(c, last + 1u);
    rom_word(c, NEXT);
}

static void script_row(rom_code *c, const bodies *b, unsigned row, const rmg_testrom_step *s)
{
    of(c, b->row);
    rom_long(c, rom_screen_row(c->plan, row));
    rom_byte(c, rom_screen_letter(c->plan, rmg_testrom_kind_letter(s->kind)));
    rom_byte(c, rom_screen_letter(c->plan, rom_bank_shown(c->plan, s)));
    if (rom_gathers(s->kind))
        of(c, b->bits);
}

/* Bars, which stay where they are not read back; else blanks. */
static void write_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint32_t bytes = (uint32_t)s->columns * s->rows;
    const unsigned out = rom_label(c);

    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        unsigned loop;

        rom_word(c, 0x207C); /* movea.l #,a0 */
        rom_long(c, s->at);
        W(c, 0x323C, (uint16_t)(bytes - 1u)); /* move.w #,d1 */
        loop = rom_mark(c);
        if (turn < 2)
            W(c, 0x103C, s->blank, 0x3408, 0xE24A, 0x6404, 0x103C, s->mark); /* by the lowest bit */
        if (turn == 1) {
            rom_word(c, 0xB018); /* cmp.b (a0)+,d0 */
            far_to(c, BNE, out);
        } else if (turn == 0) {
            rom_word(c, 0x10C0);
        } else {
            W(c, 0x10FC, s->blank);
        }
        far_to(c, 0x51C9, loop);
    }
    rom_set(c, out);
}

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
            rom_word(c, NEXT);
        }
        read = (uint8_t)(read + rmg_testrom_reads(e));
    }
    rom_set(c, w->fresh);
    W(c, 0x183C, c->plan->lines, 0x7600, NEXT);
    rom_set(c, w->mask); /* operand: what is looked at */
    W(c, 0x341C, NEXT);
    if (c->plan->screen.fitted)
        write_rows(c, b);
    if (c->plan->rom_count)
        b->pages = rmg_testrom_68000_pages(w);
}

static void entry(writer *w, unsigned label, uint32_t first, uint32_t end, uint8_t bank,
                  rmg_testrom_kind kind)
{
    rom_code *c = w->c;

    of(c, label);
    rom_long(c, first);
    rom_long(c, end);
    rom_word(c, (uint32_t)c->plan->banks[bank].bits & 0xFFFFu);
    letters(w, kind, bank);
}

static void script_step(writer *w, const bodies *b, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;
    const uint32_t first = (uint32_t)s->range.first << 1, behind = (uint32_t)(s->range.last + 1)
                                                                   << 1;
    rmg_addr top = 1;
    unsigned n = 0;

    of(c, w->fresh);
    switch (s->kind) {
    case RMG_TESTROM_DATA:
        entry(w, b->data, first, 0, s->bank, s->kind);
        break;
    case RMG_TESTROM_LINES:
        while (top <= (s->range.last - s->range.first) / 2u && !((s->range.first >> 1) & top))
            top <<= 1;
        for (n = 0; n < 6; n++) /* the first word alone, then the lines */
            entry(w, b->lines[n / 2], first, n & 1u ? (uint32_t)top << 1 : 0, s->bank, s->kind);
        break;
    case RMG_TESTROM_ACROSS:
        for (n = 0; n < 3; n++)
            for (uint8_t i = 0; i < plan->bank_count; i++) {
                of(c, w->mask);
                rom_word(c, (uint32_t)plan->banks[i].bits & 0xFFFFu);
                entry(w, b->lines[n], (uint32_t)plan->banks[i].range.first << 1, 0, i, s->kind);
            }
        break;
    case RMG_TESTROM_ROM:
        rmg_testrom_68000_rom(w, b->pages, s, b->sums + s->bank);
        break;
    default:
        for (const uint8_t *e = plan->march; *e; e = rom_next_element(e), n++) {
            const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;

            if (rom_ops(e))
                entry(w, b->march[n], down ? behind : first, down ? first : behind, s->bank,
                      s->kind);
            else
                of(c, b->march[n]);
        }
        of(c, w->done);
        letters(w, s->kind, s->bank);
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

void rmg_testrom_write_68000(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c};
    const unsigned base = rom_label(c), script = rom_label(c), top = rom_label(c),
                   fine = rom_label(c), end = rom_label(c), start = rom_label(c),
                   sum = rom_label(c), right = rom_label(c), wrong = rom_label(c),
                   told = rom_label(c), again = rom_label(c);
    unsigned *const labels[] = {&w.dispatch, &w.tx,   &w.digit,  &w.put,   &w.pass,
                                &w.step,     &w.bank, &w.letter, &w.space, &w.check,
                                &w.no_check, &w.cr,   &w.lf,     &w.leave, &w.report,
                                &w.first,    &w.done, &w.mask,   &w.fresh, &w.told};
    bodies b = {0};
    blinker blink = {0};
    unsigned loop;
    char id[8] = "S 0000";

    c->big = true;
    for (unsigned i = 0; i < sizeof labels / sizeof *labels; i++)
        *labels[i] = rom_label(c);
    for (unsigned i = 0; i < 6; i++)
        w.address[i] = rom_label(c);
    for (unsigned i = 0; i < 4; i++) {
        w.wrote[i] = rom_label(c);
        w.value[i] = rom_label(c);
    }
    b.sums = rmg_testrom_sum_labels(c);
    rom_set(c, base);
    rom_long(c, 0); /* its stack pointer: never a stack */
    rom_long(c, rom_of(c, start));
    rom_set(c, w.dispatch);
    W(c, 0x301C, 0x4EF6, 0);
    write_serial(&w);
    write_characters(&w);
    rom_set(c, start);
    W(c, 0x46FC, 0x2700);
    for (unsigned i = 0; i < plan->write_count; i++) {
        W(c, plan->writes[i].value > 0xFF ? 0x33FC : 0x13FC, plan->writes[i].value);
        rom_long(c, plan->writes[i].at);
    }
    if (plan->lamp.fitted)
        put_level(c, &plan->lamp, false);
    if (plan->serial.fitted) {
        put_level(c, &plan->serial, true);
        pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        write_bars(c);
    W(c, 0x383C, '0' << 8, 0x9FCF);
    far_to(c, LEA_A5, w.dispatch);
    far_to(c, LEA_A6, base);
    far_to(c, LEA_A4, script);
    rom_word(c, NEXT);
    write_report(&w);
    write_bodies(&w, &b);
    if (plan->lamp.fitted)
        blink = write_blinks(c);

    rom_set(c, sum); /* operand: where it goes on if the sum is right */
    W(c, 0x204E, 0x303C, (uint16_t)(rom_of(c, end) - c->org - 1u), 0x7200);
    loop = rom_mark(c);
    W(c, 0xD218, 0x51C8);
    rom_word(c, (rom_of(c, loop) - rom_here(c)) & 0xFFFFu);
    W(c, 0x301C, 0x4A01);
    near_to(c, BEQ_S, right);
    rom_word(c, NEXT);
    rom_set(c, right);
    W(c, 0x49F6, 0, NEXT); /* lea 0(a6,d0.w),a4 */
    rom_set(c, wrong);
    W(c, 0x303C, RMG_TESTROM_CODE_SUM, 0x3E40, NEXT);
    rom_set(c, told);
    W(c, 0x3E0F, NEXT);
    rom_set(c, again);
    W(c, 0x9FCF, 0x0644, 0x0100);
    if (plan->stop_after) {
        W(c, 0x3004, 0xE048, 0x0C00, (uint16_t)('0' + plan->stop_after), 0x6606, 0x4EF9);
        rom_long(c, plan->then);
    }
    W(c, 0x0244, 0xF7FF);
    far_to(c, LEA_A4, top);
    rom_word(c, NEXT);

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
    rom_word(c, 0); /* its last byte makes the sum 0 */
    rom_set(c, end);
}
