/* The 6809. No RAM: while words are tested the stack pointer stands at the row of the step, whose
 * range and mask the code reads from there; while a line is told it holds where the line stands.
 *
 *   X   address                           U   first finding of the pass; lines that may still be
 *   A   what was read, wrong bits             told, times 8, and the digit of the pass
 *   B   what is written                   DP  bits that failed in the step
 *   Y   entry of the read that was wrong  S   row of the step
 *
 * In a line: S is its phase (5 bits), entry (6) and row (5); Y the bits that failed in the step and
 * a value; DP the check. An entry belongs to a read: where it goes on, what was written, its
 * letter.
 */
#include "m6809.h"

static void store_a(rom_code *c, uint32_t at)
{
    rom_byte(c, 0xB7);
    rom_word(c, at);
}

static void store_b(rom_code *c, uint32_t at)
{
    rom_byte(c, 0xF7);
    rom_word(c, at);
}

static void lamp(rom_code *c, bool on)
{
    ROM(c, LDB, (uint8_t)rmg_testrom_level(c->plan, &c->plan->lamp, on));
    store_b(c, c->plan->lamp.at);
}

/* So many clocks, exactly but for 1; only B and flags change. Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    uint32_t rest = clocks;

    while (rest >= 2u + 5u + 4u) { /* ldb; decb, bne */
        const uint32_t most = (rest - 4u) / 5u, loops = most > 255u ? 255u : most;

        ROM(c, LDB, (uint8_t)loops, 0x5A, BNE, 0xFD);
        rest -= 2u + 5u * loops;
    }
    for (; rest >= 2u; rest -= rest == 3u ? 3u : 2u)
        if (rest == 3u)
            ROM(c, 0x21, 0); /* brn */
        else
            rom_byte(c, 0x12);
    return clocks - rest;
}

/* Sends A; then the next phase. Every bit takes the same time whatever it is. */
static void write_serial(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;
    const rmg_testrom_output *o = &plan->serial;
    const uint8_t space = (uint8_t)rmg_testrom_level(plan, o, false);
    const uint32_t own = 18, bits = rmg_testrom_bit_clocks(plan);
    const uint32_t rest = bits > own ? bits - own : 0;
    unsigned loop;

    rom_set(c, w->high);
    ROM(c, 0x44, 0x44, 0x44, 0x44);
    rom_set(c, w->low); /* as text */
    ROM(c, 0x84, 15, 0x8B, 0x90, 0x19, 0x89, 0x40, 0x19);
    rom_set(c, w->tx);
    if (!o->fitted)
        return;
    exchange(c, B_DP);
    ROM(c, 0x58, 0xC9, 0); /* the check: rotated, xor */
    for (unsigned bit = 1; bit < 0x80u; bit <<= 1)
        ROM(c, 0x85, (uint8_t)bit, BEQ, 2, 0xC8, (uint8_t)bit);
    exchange(c, B_DP);
    ROM(c, LDB, space);
    store_b(c, o->at);
    if (bits < own)
        c->why = "the clock is too slow for this rate: choose a lower one";
    else
        c->baud = rmg_testrom_rate(plan, own + spend(c, rest));
    ROM(c, 0x1A, 1, 0x46); /* rora: a one behind the character ends it */
    loop = rom_mark(c);
    ROM(c, LDB, 0, 0xC2, 0, 0xC4, (uint8_t)o->bit, 0xC8, space); /* sbcb: carry in all bits */
    store_b(c, o->at);
    spend(c, rest);
    rom_byte(c, 0x44);
    branch(c, BNE, loop);
    ROM(c, 0x12, 0x12, 0x12, LDB, (uint8_t)rmg_testrom_level(plan, o, true));
    store_b(c, o->at);
    spend(c, rest + own);
}

static void write_next(writer *w)
{
    rom_code *c = w->c;

    rom_set(c, w->next);
    step_s(c, at_phase(1));
    branch(c, BRA, w->start_line + 1u);
    rom_set(c, w->start_line); /* no check yet */
    rom_byte(c, 0x4F);
    transfer(c, A_DP);
    rom_set(c, w->start_line + 1u);
    transfer(c, S_D);
    ROM(c, 0x44, 0x44, 0x84, 0x3E);
    transfer(c, A_B);
    rom_byte(c, 0x4F);
    absolute(c, ADDD, w->phases);
    fetch(c);
    transfer(c, 0x05); /* d,pc */
}

static unsigned says(writer *w, char letter)
{
    const unsigned label = rom_mark(w->c);

    ROM(w->c, 0x86, (uint8_t)letter);
    absolute(w->c, JMP, w->tx);
    return label;
}

/* ... and goes on behind another phase. */
static unsigned says_on(writer *w, char letter, unsigned now, unsigned then)
{
    const unsigned label = rom_mark(w->c);

    ROM(w->c, 0x86, (uint8_t)letter);
    step_s(w->c, at_phase(then) - at_phase(now + 1u));
    absolute(w->c, JMP, w->tx);
    return label;
}

/* A digit of a register that is moved to D, and its low byte to A. */
static unsigned digit(writer *w, unsigned pair, bool of_b, bool high)
{
    const unsigned label = rom_mark(w->c);

    transfer(w->c, pair);
    if (of_b)
        transfer(w->c, B_A);
    absolute(w->c, JMP, high ? w->high : w->low);
    return label;
}

/* Letter, or what was written: both are the entry's. */
static unsigned write_of_entry(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), wrote = rom_label(c), letter = rom_label(c);

    entry_of_s(w, 2);
    fetch(c);
    compare_s(c, at_phase(BLANK));
    branch(c, BHS, wrote);
    transfer(c, B_A);
    ROM(c, 0x81, '0');
    branch(c, BHS, letter);
    step_s(c, at_phase(BLANK_3) - at_phase(BLANK)); /* the end of a step: no address */
    rom_set(c, letter);
    absolute(c, JMP, w->tx);
    rom_set(c, wrote);
    compare_s(c, at_phase(WROTE + 1u));
    far_branch(c, BLO, w->high);
    absolute(c, JMP, w->low);
    return label;
}

/* Entries of ROMs, behind all others: the first sum, of Y; or a byte that is read, digit by digit,
 * eight of them in a line. */
static unsigned write_of_rom(writer *w, unsigned of_entry)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), contents = rom_label(c), over = rom_label(c),
                   low = rom_label(c);

    transfer(c, S_D);
    ROM(c, 0x84, 7, 0xC4, 0xE0);                 /* anda; andb: the entry */
    immediate(c, 0x10, SUBD, at_entry(w->page)); /* cmpd */
    far_branch(c, BLO, of_entry);
    immediate(c, 0x10, SUBD, at_entry(w->contents));
    branch(c, BEQ, contents);
    transfer(c, Y_D);
    compare_s(c, at_phase(WROTE + 1u));
    far_branch(c, BLO, w->high);
    absolute(c, JMP, w->low);
    rom_set(c, contents);
    ROM(c, 0xA6, 0x84); /* lda ,x */
    compare_s(c, at_phase(WROTE + 1u));
    far_branch(c, BLO, w->high);
    ROM(c, 0x30, 1); /* leax 1,x */
    transfer(c, X_D);
    ROM(c, 0xC4, RMG_TESTROM_DATA_BYTES - 1u);
    branch(c, BEQ, over);
    step_s(c, at_phase(WROTE) - at_phase(WROTE + 2u));
    branch(c, BRA, low);
    rom_set(c, over);
    step_s(c, at_phase(BLANK_4) - at_phase(BLANK_3));
    rom_set(c, low);
    ROM(c, 0xA6, 0x1F); /* lda -1,x */
    absolute(c, JMP, w->low);
    return label;
}

static unsigned write_letters(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), kind = rom_label(c);

    letters_of_s(w);
    compare_s(c, at_phase(BANK));
    branch(c, BLO, kind);
    transfer(c, B_A);
    rom_set(c, kind);
    absolute(c, JMP, w->tx);
    return label;
}

/* Back to where the read that was wrong goes on. */
static void write_back(writer *w)
{
    rom_code *c = w->c;

    w->phase[BACK] = rom_mark(c);
    transfer(c, Y_D);
    transfer(c, A_DP);
    rom_set(c, w->quiet);
    entry_of_s(w, 0);
    transfer(c, D_Y);
    transfer(c, S_D);
    ROM(c, 0xC4, 31, 0x86, ROW_BYTES, 0x3D); /* mul */
    absolute(c, ADDD, w->rows);
    transfer(c, D_S);
    ROM(c, 0x6E, 0xB4); /* jmp [,y] */
}

static void write_phases(writer *w)
{
    rom_code *c = w->c;
    unsigned *p = w->phase;

    p[PASS] = rom_mark(c);
    transfer(c, U_D);
    transfer(c, B_A);
    ROM(c, 0x84, 7);
    absolute(c, JMP, w->low);
    p[END_LINE] = p[WRONG_SUM] = p[START_LINE] = p[PASS];
    p[KIND] = p[BANK] = write_letters(w);
    p[LETTER] = p[WROTE] = p[WROTE + 1] = write_of_entry(w);
    if (c->plan->rom_count)
        p[WROTE] = p[WROTE + 1] = write_of_rom(w, p[LETTER]);
    p[BLANK] = says(w, ' ');
    p[BLANK_2] = p[BLANK_3] = p[BLANK_4] = p[START_LINE + 2] = p[BLANK];
    for (unsigned i = 0; i < 4; i++)
        p[ADDRESS + i] = digit(w, X_D, i >= 2, !(i & 1u));
    p[CHECK] = rom_mark(c); /* it becomes the value */
    transfer(c, Y_D);
    transfer(c, DP_B);
    transfer(c, D_Y);
    for (unsigned i = 0; i < 2; i++)
        p[VALUE + i] = digit(w, Y_D, true, i == 0);
    p[CHECK + 1] = p[VALUE + 1];
    p[RETURN] = says(w, '\r');
    p[NEW_LINE] = says(w, '\n');
    p[END_LINE + 1] = says_on(w, 'E', END_LINE + 1u, BLANK_3);
    p[WRONG_SUM + 1] = says_on(w, 'R', WRONG_SUM + 1u, BLANK_4);
    p[START_LINE + 1] = says(w, 'S');
    for (unsigned i = 0; i < 4; i++) {
        const char letter = "0123456789ABCDEF"[c->plan->id >> (12u - 4u * i) & 15u];

        p[START_LINE + 3 + i] = i < 3 ? says(w, letter) : says_on(w, letter, PHASES - 1u, BLANK_4);
    }
    rom_set(c, w->phases);
    for (unsigned i = 0; i < PHASES; i++)
        rom_word(c, rom_of(c, p[i]));
}

/* B and the bits of A: with `bit_op` where `test` finds a bit of the table of patterns. */
static void each_bit(writer *w, unsigned test, unsigned bit_op, unsigned offset)
{
    rom_code *c = w->c;
    unsigned loop;

    exchange(c, B_DP);
    immediate(c, 0x10, LDX, rom_of(c, w->table)); /* ldy */
    loop = rom_mark(c);
    ROM(c, (uint8_t)test, 0x22, BEQ, 2, (uint8_t)bit_op, (uint8_t)(0x20u | offset), 0x31, 0x28);
    immediate(c, 0x10, 0x8C, rom_of(c, w->table) + DATA_READS * ENTRY_BYTES); /* cmpy */
    branch(c, BNE, loop);
    exchange(c, B_DP);
}

/* The first finding of the pass: bank, and lowest bit or kind of step. */
static void write_first(writer *w)
{
    rom_code *c = w->c;
    const unsigned known = rom_label(c), base = rom_label(c), cross = rom_label(c),
                   bit = rom_label(c);
    unsigned loop;

    immediate(c, 0x11, 0x83, 0x100); /* cmpu */
    branch(c, BHS, known);
    letters_of_s(w);
    ROM(c, 0x81, 'A');
    branch(c, BNE, cross);
    ROM(c, 0x33, 0xC9, 9, 0);
    branch(c, BRA, base);
    rom_set(c, cross);
    ROM(c, 0x81, 'X');
    branch(c, BNE, bit);
    ROM(c, 0x33, 0xC9, 10, 0);
    branch(c, BRA, base);
    rom_set(c, bit);
    exchange(c, D_Y);
    loop = rom_mark(c);
    ROM(c, 0x33, 0xC9, 1, 0, 0x44); /* lsra */
    branch(c, BHS, loop);           /* carry clear */
    exchange(c, D_Y);
    rom_set(c, base);
    ROM(c, 0x86, 32, 0x3D); /* the letter's low bits */
    transfer(c, B_A);
    ROM(c, 0x5F, 0x33, 0xCB); /* clrb; leau d,u */
    rom_set(c, known);
}

/* A read was wrong: A has the bits, Y the entry. */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    const unsigned unfiltered = rom_label(c), gather = rom_label(c), gathered = rom_label(c);

    rom_set(c, w->report);
    exchange(c, D_S); /* row and entry into S */
    absolute(c, SUBD, w->rows);
    ROM(c, 0x54, 0x54, 0x54);
    exchange(c, D_Y);
    absolute(c, SUBD, w->table);
    shift_left(c);
    ROM(c, 0x31, 0xAB); /* leay d,y */
    exchange(c, 0x24);  /* y,s */
    transfer(c, Y_D);
    compare_s(c, at_entry(CROSS_READS)); /* bits that failed before are not looked at again */
    branch(c, BHS, unfiltered);
    each_bit(w, 0xE5, 0xA4, ENTRY_BYTES + 2u); /* bitb; anda with the bit's zero */
    rom_byte(c, 0x4D);
    far_branch(c, BEQ, w->quiet);
    rom_set(c, unfiltered);
    transfer(c, D_Y); /* A = bits, B = as it was read, both in Y */
    entry_of_s(w, 0);
    exchange(c, D_Y);
    transfer(c, A_B);
    ROM(c, 0xE8, 0x22);
    transfer(c, D_Y);
    compare_s(c, at_entry(MARCH_READS)); /* address steps gather none */
    branch(c, BHS, gather);
    compare_s(c, at_entry(LINES_READS));
    branch(c, BHS, gathered);
    rom_set(c, gather);
    each_bit(w, 0xA5, 0xEA, 2); /* bita; orb */
    transfer(c, D_Y);
    rom_set(c, gathered);
    write_first(w);
    if (c->plan->serial.fitted) {
        transfer(c, U_D);
        ROM(c, 0xC5, 0xF8); /* may another line be told? */
        far_branch(c, BEQ, w->quiet);
        ROM(c, 0x33, 0x58);
        transfer(c, Y_D);
        transfer(c, DP_A);
        transfer(c, D_Y);
        absolute(c, JMP, w->start_line);
    } else { /* a row of the screen says that there was something */
        transfer(c, U_D);
        ROM(c, 0xC5, 0xF8);
        far_branch(c, BEQ, w->quiet);
        ROM(c, 0x33, 0x58);
        absolute(c, JMP, w->quiet);
    }
}

/* Bars, which stay where they are not read back; else blanks. */
static void write_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const unsigned out = rom_label(c);

    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        unsigned loop;

        rom_byte(c, LDX);
        rom_word(c, s->at);
        loop = rom_mark(c);
        if (turn < 2) /* tfr x,d; lsrb: by the lowest bit of the address */
            ROM(c, 0x1F, 0x10, 0x54, 0x86, s->blank, 0x24, 2, 0x86, s->mark);
        else
            ROM(c, 0x86, s->blank);
        ROM(c, turn == 1 ? 0xA1 : 0xA7, 0x80);
        if (turn == 1)
            branch(c, BNE, out);
        rom_byte(c, 0x8C); /* cmpx */
        rom_word(c, rom_screen_row(c->plan, s->rows) & 0xFFFFu);
        branch(c, BNE, loop);
    }
    rom_set(c, out);
}

/* The row of a step on the screen, at its end; then the pass's own last one is up to others. */
static void write_screen_row(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_screen *s = &c->plan->screen;
    const unsigned fine = rom_label(c), over = rom_label(c);
    unsigned loop;

    transfer(c, S_D);
    absolute(c, SUBD, w->rows);
    ROM(c, 0x54, 0x54, 0x54, 0x86, s->columns, 0x3D, ADDD); /* mul */
    rom_word(c, s->at);
    transfer(c, D_X);
    transfer(c, S_D);
    absolute(c, SUBD, w->rows);
    ROM(c, 0x54, 0x54);
    absolute(c, ADDD, w->letters);
    transfer(c, D_Y);
    ROM(c, 0xEC, 0xA4, 0x8B, (uint8_t)(s->letters - 'A'), 0xCB, (uint8_t)(s->letters - 'A'), 0xED,
        0x81);
    transfer(c, U_D);
    ROM(c, 0x86, s->dot, 0xC4, 0xF8, 0xC1, (uint8_t)(c->plan->lines << 3));
    branch(c, BEQ, fine);
    ROM(c, 0x86, s->mark);
    rom_set(c, fine);
    ROM(c, 0xA7, 0x80, 0xA6, 0xA4, 0x81, 'A');
    branch(c, BEQ, over);
    ROM(c, 0x81, 'X');
    branch(c, BEQ, over);
    if (c->plan->rom_count) {
        ROM(c, 0x81, (uint8_t)rmg_testrom_kind_letter(RMG_TESTROM_ROM));
        branch(c, BEQ, over);
    }
    ROM(c, 0x86, s->blank, 0xA7, 0x80);
    transfer(c, DP_B);
    immediate(c, 0x10, LDX, 8); /* ldy */
    loop = rom_mark(c);
    ROM(c, 0x86, s->digits, 0x58, 0x89, 0, 0xA7, 0x80, 0x31, 0x3F); /* aslb; adca */
    branch(c, BNE, loop);
    rom_set(c, over);
}

/* The last row: the digit of the pass. */
static void write_beat(rom_code *c)
{
    transfer(c, U_D);
    ROM(c, 0xC4, 7, 0xCB, c->plan->screen.digits);
    store_b(c, rom_screen_row(c->plan, c->plan->screen.rows - 1u));
}

/* ... and behind it, was anything found? */
static void write_mood(rom_code *c)
{
    transfer(c, U_D);
    ROM(c, LDB, c->plan->screen.dot, 0x4D, BEQ, 2, LDB, c->plan->screen.mark);
    store_b(c, rom_screen_row(c->plan, c->plan->screen.rows - 1u) + 1u);
}

/* The end of a march: the bits that failed, and whether all was told. */
static void write_done(writer *w)
{
    rom_code *c = w->c;

    rom_set(c, w->done);
    if (c->plan->serial.fitted) {
        transfer(c, S_D);
        absolute(c, SUBD, w->rows);
        ROM(c, 0x54, 0x54, 0x54, ADDD);
        rom_word(c, at_entry(w->dot));
        transfer(c, D_S);
        transfer(c, U_D);
        ROM(c, 0xC5, 0xF8, BNE, 3, 0x32, 0xE8, 1u << 5);
        transfer(c, DP_A);
        transfer(c, A_B);
        transfer(c, D_Y);
        absolute(c, JMP, w->start_line);
    }
    rom_set(c, w->next_step);
    if (c->plan->screen.fitted)
        write_screen_row(w);
    ROM(c, 0x32, 0x60 | ROW_BYTES, 0x6E, 0xF4); /* leas 8,s; jmp [,s] */
}

/* A one and a zero through the first word. */
static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    unsigned loop, back;

    fresh(c, true);
    ROM(c, 0xAE, 0x62);
    immediate(c, 0x10, LDX, rom_of(c, w->table)); /* ldy */
    loop = rom_mark(c);
    ROM(c, 0xE6, 0x22, 0xE7, 0x84, 0xA6, 0x84, 0xA8, 0x22, 0xA4, 0x66);
    far_branch(c, BNE, w->report);
    back = rom_mark(c);
    ROM(c, 0x31, 0x24);
    immediate(c, 0x10, 0x8C, rom_of(c, w->table) + DATA_READS * ENTRY_BYTES);
    branch(c, BNE, loop);
    absolute(c, JMP, w->next_step);
    for (unsigned i = 0; i < DATA_READS; i++)
        w->entries[i] = (entry){back, (uint8_t)(i & 1u ? ~(1u << i / 2u) : 1u << i / 2u),
                                (char)(i & 1u ? 'b' : 'a')};
    return label;
}

/* How the operations of an element reach its words. */
typedef enum way { UP, DOWN, THERE } way;

typedef struct stub {
    unsigned from, back;
    uint8_t n; /* entry */
    bool negate, stepped;
} stub;

typedef struct visit {
    way how;
    bool masked;
    int loaded;  /* B has it all the time, or -1 */
    bool is_far; /* stubs lie beyond short branches */
    stub stubs[RMG_MARCH_OPS];
    unsigned stub_count;
    uint32_t clocks;
} visit;

/* What an element writes, if that is always the same; else -1. */
static int only_value(const uint8_t *e)
{
    int value = -1;

    for (unsigned i = 1; i <= rom_ops(e); i++)
        if (e[i] & RMG_OP_WRITE) {
            const int this_one = e[i] & RMG_OP_ONE ? 0xFF : 0;

            if (value >= 0 && value != this_one)
                return -1;
            value = this_one;
        }
    return value;
}

/* The operations on one word. */
static void write_visit(writer *w, const uint8_t *e, uint8_t first_entry, visit *v)
{
    rom_code *c = w->c;

    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const bool one = e[i] & RMG_OP_ONE;
        const bool before = v->how == DOWN && i == 1, after = v->how == UP && i == rom_ops(e);
        const uint8_t post = before ? 0x82 : after ? 0x80 : 0x84; /* ,-x; ,x+; ,x */

        v->clocks += 4u + (before || after ? 2u : 0u);
        if (e[i] & RMG_OP_WRITE) {
            if (v->loaded < 0) {
                ROM(c, LDB, one ? 0xFF : 0);
                v->clocks += 2;
            }
            ROM(c, 0xE7, post);
            continue;
        }
        ROM(c, 0xA6, post);
        if (v->masked && one)
            rom_byte(c, 0x43); /* coma */
        else if (one)
            rom_byte(c, 0x4C); /* inca */
        if (v->masked)
            ROM(c, 0xA4, 0x66);
        v->clocks += (one ? 2u : 0u) + (v->masked ? 5u : 0u) + (v->is_far ? 5u : 3u);
        {
            stub *s = &v->stubs[v->stub_count];

            s->from = rom_label(c);
            s->n = (uint8_t)(first_entry + v->stub_count);
            s->negate = one && !v->masked;
            s->stepped = after;
            if (v->is_far)
                far_branch(c, BNE, s->from);
            else
                branch(c, BNE, s->from);
            s->back = rom_mark(c);
            w->entries[s->n].wrote = one ? 0xFF : 0;
            v->stub_count++;
        }
    }
}

static void write_stubs(writer *w, const visit *v)
{
    rom_code *c = w->c;

    for (unsigned i = 0; i < v->stub_count; i++) {
        const stub *s = &v->stubs[i];

        rom_set(c, s->from);
        if (s->negate)
            rom_byte(c, 0x40); /* one more than was read: now its complement */
        if (s->stepped)
            ROM(c, 0x30, 0x1F);
        immediate(c, 0x10, LDX, rom_of(c, w->table) + s->n * ENTRY_BYTES); /* ldy */
        absolute(c, JMP, w->report);
        w->entries[s->n].back = rom_mark(c);
        if (s->stepped)
            ROM(c, 0x30, 0x01);
        if (v->loaded >= 0)
            ROM(c, LDB, (uint8_t)v->loaded);
        absolute(c, JMP, s->back);
    }
}

/* The clock ticks on for so long; X changes. */
static void write_pause(rom_code *c, uint32_t ms)
{
    const uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 8u;
    uint64_t left = loops ? loops : 1u;

    while (left) {
        const uint32_t now = left > 65535u ? 65535u : (uint32_t)left;

        rom_byte(c, LDX);
        rom_word(c, now);
        ROM(c, 0x30, 0x1F, BNE, 0xFC);
        left -= now;
    }
}

static unsigned write_march(writer *w)
{
    rom_code *c = w->c;
    const bool masked = rmg_testrom_masked(c->plan);
    const unsigned label = rom_mark(c);
    uint8_t n = MARCH_READS;

    fresh(c, true);
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        const way how = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN ? DOWN : UP;
        visit v = {
            .how = how, .masked = masked, .loaded = only_value(e), .is_far = rom_ops(e) > 4u};
        unsigned loop, over;

        if (!rom_ops(e)) {
            write_pause(c, c->plan->hold_ms);
            continue;
        }
        over = rom_label(c);
        ROM(c, 0xAE, how == DOWN ? 0x64 : 0x62); /* ldx: behind the end, or the beginning */
        if (v.loaded >= 0)
            ROM(c, LDB, (uint8_t)v.loaded);
        loop = rom_mark(c);
        write_visit(w, e, n, &v);
        ROM(c, 0xAC, how == DOWN ? 0x62 : 0x64);
        if (v.is_far)
            far_branch(c, BNE, loop);
        else
            branch(c, BNE, loop);
        if (v.stub_count)
            absolute(c, JMP, over);
        write_stubs(w, &v);
        rom_set(c, over);
        n = (uint8_t)(n + v.stub_count);
        c->march_clocks += v.clocks + 10u + (v.is_far ? 3u : 0u);
    }
    absolute(c, JMP, w->done);
    return label;
}

/* The bank's first word, then those that differ in one line, the highest first. */
static unsigned write_lines(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    uint8_t n = LINES_READS;

    fresh(c, false);
    for (const uint8_t *e = rmg_testrom_short_march; *e; e = rom_next_element(e)) {
        visit v = {.how = THERE, .masked = true, .loaded = -1};
        const unsigned over = rom_label(c), half = rom_label(c), go = rom_label(c);
        unsigned loop;

        ROM(c, 0xAE, 0x62);
        loop = rom_mark(c);
        write_visit(w, e, n, &v);
        transfer(c, X_D);
        ROM(c, 0xA3, 0x62); /* subd 2,s: the line */
        branch(c, BNE, half);
        ROM(c, 0xEC, 0x64); /* it was the first word: the highest line */
        branch(c, BRA, go);
        rom_set(c, half);
        ROM(c, 0x44, 0x56);
        rom_set(c, go);
        ROM(c, 0xE3, 0x62); /* addd 2,s */
        transfer(c, D_X);
        ROM(c, 0xAC, 0x62); /* no line is left: the first word again */
        branch(c, BNE, loop);
        if (v.stub_count)
            absolute(c, JMP, over);
        write_stubs(w, &v);
        rom_set(c, over);
        n = (uint8_t)(n + v.stub_count);
    }
    absolute(c, JMP, w->next_step);
    return label;
}

/* The first words of all banks, whose rows follow each other from row `first`. */
static unsigned write_across(writer *w, unsigned first)
{
    rom_code *c = w->c;
    const uint32_t begin = rom_of(c, w->rows) + first * ROW_BYTES;
    const uint32_t end = begin + c->plan->bank_count * ROW_BYTES;
    const unsigned label = rom_mark(c);
    uint8_t n = CROSS_READS;

    fresh(c, false);
    for (const uint8_t *e = rmg_testrom_short_march; *e; e = rom_next_element(e)) {
        visit v = {.how = THERE, .masked = rmg_testrom_masked(c->plan), .loaded = -1};
        const unsigned over = rom_label(c);
        const bool last = !*rom_next_element(e);
        unsigned loop = rom_mark(c);

        ROM(c, 0xAE, 0x62);
        write_visit(w, e, n, &v);
        ROM(c, 0x32, 0x60 | ROW_BYTES);
        compare_s(c, end);
        branch(c, BNE, loop);
        if (!last)
            immediate(c, 0x10, 0xCE, begin); /* lds */
        if (v.stub_count)
            absolute(c, JMP, over);
        write_stubs(w, &v);
        rom_set(c, over);
        n = (uint8_t)(n + v.stub_count);
    }
    if (c->plan->screen.fitted) { /* the last bank's row shows the step */
        immediate(c, 0x10, 0xCE, end - ROW_BYTES);
        absolute(c, JMP, w->next_step);
    } else {
        ROM(c, 0x6E, 0xF4); /* the row behind them */
    }
    return label;
}

#define FLASH_MS 200u

/* The lamp lights, or the loudspeaker sounds, for so long; A stays. */
static void write_lit(rom_code *c, uint32_t ms)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone) {
        const uint64_t half = (uint64_t)c->plan->clock_hz / o->tone / 2u / 8u;
        const uint64_t times = (uint64_t)o->tone * ms / 1000u;
        unsigned loop;

        immediate(c, 0x10, LDX, times > 65535u ? 65535u : times ? (uint32_t)times : 1u);
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            lamp(c, on != 0);
            rom_byte(c, LDX);
            rom_word(c, half > 65535u ? 65535u : half ? (uint32_t)half : 1u);
            ROM(c, 0x30, 0x1F, BNE, 0xFC);
        }
        ROM(c, 0x31, 0x3F); /* leay -1,y */
        branch(c, BNE, loop);
    } else {
        lamp(c, true);
        write_pause(c, ms);
    }
    lamp(c, false);
}

/* Blinks the first finding twice; S goes through a list of routines. */
static void write_blinks(writer *w, unsigned again)
{
    rom_code *c = w->c;
    const unsigned bank = rom_label(c), bit = rom_label(c), good = rom_label(c), gap = rom_label(c),
                   group = rom_label(c), list = rom_label(c), over = rom_label(c);
    const unsigned all[] = {bank, gap, bit, good, gap};
    unsigned loop;

    immediate(c, 0x10, 0xCE, rom_of(c, list));
    rom_byte(c, 0x39);
    rom_set(c, bank);
    transfer(c, U_D);
    ROM(c, 0x44, 0x44, 0x44, 0x44, 0x44);
    branch(c, BRA, group);
    rom_set(c, bit);
    transfer(c, U_D);
    ROM(c, 0x84, 31);
    rom_set(c, group);
    rom_byte(c, 0x4D);
    branch(c, BEQ, over);
    loop = rom_mark(c);
    write_lit(c, FLASH_MS);
    write_pause(c, FLASH_MS);
    rom_byte(c, 0x4A);
    branch(c, BNE, loop);
    rom_set(c, over);
    rom_byte(c, 0x39);
    rom_set(c, good);
    transfer(c, U_D);
    rom_byte(c, 0x4D);
    branch(c, BNE, over);
    write_lit(c, 5u * FLASH_MS);
    rom_set(c, gap);
    write_pause(c, 3u * FLASH_MS);
    rom_byte(c, 0x39);
    rom_set(c, list);
    for (unsigned twice = 0; twice < 2; twice++)
        for (unsigned i = 0; i < sizeof all / sizeof *all; i++)
            rom_word(c, rom_of(c, all[i]));
    rom_word(c, rom_of(c, again));
}

static void row(writer *w, unsigned routine, uint32_t first, uint32_t end, rmg_word bits)
{
    rom_code *c = w->c;

    rom_word(c, rom_of(c, routine));
    rom_word(c, first & 0xFFFFu);
    rom_word(c, end & 0xFFFFu);
    rom_byte(c, (unsigned)bits & 0xFFu);
    rom_byte(c, 0);
}

/* That of a ROM, with the place of its table of sums, 0 where there is none. */
static void rom_row(writer *w, unsigned routine, const rmg_testrom_step *step)
{
    rom_code *c = w->c;

    rom_word(c, rom_of(c, routine));
    rom_word(c, (uint32_t)step->range.first & 0xFFFFu);
    rom_word(c, (uint32_t)(step->range.last + 1u) & 0xFFFFu);
    rom_word(c, c->plan->roms[step->bank].known ? rom_of(c, w->sums + step->bank) : 0);
}

/* The steps, in order, and behind them the end of the pass. */
static void write_rows(writer *w, const unsigned *routines, unsigned end)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;

    rom_set(c, w->rows);
    for (unsigned s = 0; s < plan->step_count; s++) {
        const rmg_testrom_step *step = &plan->steps[s];
        const uint32_t first = (uint32_t)step->range.first;

        if (step->kind == RMG_TESTROM_ACROSS)
            for (unsigned b = 0; b < plan->bank_count; b++)
                row(w, routines[step->kind], (uint32_t)plan->banks[b].range.first, 0,
                    plan->banks[b].bits);
        else if (step->kind == RMG_TESTROM_ROM)
            rom_row(w, routines[step->kind], step);
        else
            row(w, routines[step->kind], first,
                step->kind == RMG_TESTROM_LINES ? rmg_testrom_highest_line(&step->range)
                                                : (uint32_t)step->range.last + 1u,
                plan->banks[step->bank].bits);
    }
    row(w, end, 0, 0, 0);
    rom_set(c, w->letters);
    for (unsigned s = 0; s < plan->step_count; s++) {
        const rmg_testrom_step *step = &plan->steps[s];
        const bool across = step->kind == RMG_TESTROM_ACROSS;

        for (unsigned b = 0; b < (across ? plan->bank_count : 1u); b++) {
            rom_byte(c, (uint8_t)rmg_testrom_kind_letter(step->kind));
            rom_byte(c, (uint8_t)rmg_testrom_bank_letter((uint8_t)(across ? b : step->bank)));
        }
    }
}

static void write_table(writer *w)
{
    rom_code *c = w->c;

    rom_set(c, w->table);
    for (unsigned i = 0; i < w->entry_count; i++) {
        rom_word(c, w->entries[i].back ? rom_of(c, w->entries[i].back) : 0);
        rom_byte(c, w->entries[i].wrote);
        rom_byte(c, (uint8_t)w->entries[i].letter);
    }
}

/* The row where the step across banks begins. */
static unsigned across_row(const rmg_testrom_plan *plan)
{
    unsigned n = 0;

    while (n < plan->step_count && plan->steps[n].kind != RMG_TESTROM_ACROSS)
        n++;
    return n;
}

static uint8_t new_entry(writer *w, char letter)
{
    if (w->entry_count == ENTRIES) {
        w->c->why = "beside ROMs that are read, its march may read a word 35 times";
        return 0;
    }
    w->entries[w->entry_count].letter = letter;
    return (uint8_t)w->entry_count++;
}

/* Numbers of the entries, and letters. */
static void number_entries(writer *w)
{
    w->entry_count = DATA_READS;
    for (unsigned i = 0; i < 4; i++)
        new_entry(w, i & 1u ? 'b' : 'a');
    for (const uint8_t *e = w->c->plan->march; *e; e = rom_next_element(e))
        for (unsigned i = rmg_testrom_reads(e); i; i--)
            new_entry(w, rmg_testrom_read_letter((uint8_t)(w->entry_count - MARCH_READS)));
    w->dot = new_entry(w, '.');
    w->plus = new_entry(w, '+');
    w->start = new_entry(w, 0);
    w->sum = new_entry(w, 0);
    w->end = new_entry(w, 0);
    if (!w->c->plan->rom_count)
        return;
    w->page = new_entry(w, 'a');
    for (unsigned i = 1; i < RMG_TESTROM_READINGS; i++)
        new_entry(w, rmg_testrom_read_letter((uint8_t)i));
    w->contents = new_entry(w, '=');
}

/* The image's own sum. */
static void write_sum(writer *w, unsigned image_end, unsigned steps)
{
    rom_code *c = w->c;
    const unsigned right = rom_label(c);
    unsigned loop;

    rom_byte(c, LDX);
    rom_word(c, c->org);
    rom_byte(c, 0x5F);
    loop = rom_mark(c);
    ROM(c, 0xEB, 0x80); /* addb ,x+ */
    absolute(c, 0x8C, image_end);
    branch(c, BNE, loop);
    rom_byte(c, 0x5D);
    branch(c, BEQ, right);
    transfer(c, U_D);
    ROM(c, 0x86, RMG_TESTROM_CODE_SUM);
    transfer(c, D_U);
    if (c->plan->serial.fitted) {
        immediate(c, 0x10, 0xCE, at_phase(WRONG_SUM) | at_entry(w->sum));
        absolute(c, JMP, w->start_line);
    }
    rom_set(c, right);
    w->entries[w->sum].back = steps;
}

static void write_begin(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;

    ROM(c, 0x1A, 0x50, 0xCE, 0, 0); /* no interrupts; ldu: nothing was found yet, pass 0 */
    for (unsigned i = 0; i < plan->write_count; i++) {
        ROM(c, 0x86, (uint8_t)plan->writes[i].value);
        store_a(c, plan->writes[i].at);
    }
    if (plan->lamp.fitted)
        lamp(c, false);
    if (plan->serial.fitted) { /* the line idles at mark for more than a character */
        ROM(c, 0x86, (uint8_t)rmg_testrom_level(plan, &plan->serial, true));
        store_a(c, plan->serial.at);
        write_pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        write_bars(c);
}

/* The next pass. */
static void write_again(rom_code *c, unsigned again, unsigned top)
{
    const rmg_testrom_plan *plan = c->plan;

    rom_set(c, again);
    transfer(c, U_D);
    ROM(c, 0xC4, 7, 0x5C);
    if (plan->stop_after) {
        ROM(c, 0xC1, (uint8_t)plan->stop_after, BNE, 3, JMP);
        rom_word(c, plan->then);
    }
    ROM(c, 0xC4, 7, 0x4F);
    transfer(c, D_U);
    absolute(c, JMP, top);
}

static void name_labels(writer *w)
{
    rom_code *c = w->c;

    w->tx = rom_label(c);
    w->high = rom_label(c);
    w->low = rom_label(c);
    w->next = rom_label(c);
    w->start_line = rom_label(c);
    rom_label(c); /* start_line + 1: the phase that S says */
    w->quiet = rom_label(c);
    w->report = rom_label(c);
    w->next_step = rom_label(c);
    w->done = rom_label(c);
    w->rows = rom_label(c);
    w->letters = rom_label(c);
    w->table = rom_label(c);
    w->phases = rom_label(c);
}

void rmg_testrom_write_6809(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c};
    unsigned routines[RMG_TESTROM_KINDS] = {0}, top, end, steps, again, image_end;

    c->big = true;
    name_labels(&w);
    again = rom_label(c);
    end = rom_label(c);
    steps = rom_label(c);
    image_end = rom_label(c);
    w.sums = rmg_testrom_sum_labels(c);
    number_entries(&w);

    write_begin(c);
    top = rom_mark(c);
    if (plan->serial.fitted) {
        immediate(c, 0x10, 0xCE, at_phase(START_LINE) | at_entry(w.start)); /* lds */
        absolute(c, JMP, w.start_line);
    }
    w.entries[w.start].back = rom_mark(c);
    write_sum(&w, image_end, steps);
    rom_set(c, steps);
    if (plan->screen.fitted)
        write_beat(c);
    immediate(c, 0x10, 0xCE, rom_of(c, w.rows));
    ROM(c, 0x6E, 0xF4); /* jmp [,s] */
    rom_set(c, end);
    if (plan->screen.fitted)
        write_mood(c);
    if (plan->serial.fitted) {
        transfer(c, U_D);
        transfer(c, A_B);
        transfer(c, D_Y);
        immediate(c, 0x10, 0xCE, at_phase(END_LINE) | at_entry(w.end));
        absolute(c, JMP, w.start_line);
    }
    w.entries[w.end].back = rom_mark(c);
    if (plan->lamp.fitted)
        write_blinks(&w, again);
    write_again(c, again, top);

    write_report(&w);
    routines[RMG_TESTROM_DATA] = write_data(&w);
    routines[RMG_TESTROM_LINES] = write_lines(&w);
    if (plan->bank_count > 1)
        routines[RMG_TESTROM_ACROSS] = write_across(&w, across_row(plan));
    routines[RMG_TESTROM_MARCH] = routines[RMG_TESTROM_FIRST] = write_march(&w);
    if (plan->rom_count)
        routines[RMG_TESTROM_ROM] = rmg_testrom_6809_pages(&w);
    write_done(&w);
    w.entries[w.dot].back = w.entries[w.plus].back = w.next_step;
    write_back(&w);
    if (plan->serial.fitted) {
        write_serial(&w);
        write_next(&w);
        write_phases(&w);
    }
    write_rows(&w, routines, end);
    write_table(&w);
    rmg_testrom_write_sums(c, w.sums);
    rom_byte(c, 0); /* makes the sum 0 */
    rom_set(c, image_end);
}
