/* The 8080 and 8085, in two stages. Without RAM their registers suffice to test one page and to
 * tell the first word that is wrong there: HL walks through a text, E is what it speaks of. Once
 * that page works, the rest is subroutines with their stack and data in it.
 *
 * In a march: HL address, D the page it ends at, B what is looked at. */
#include "i8080.h"

/* Clocks of instructions that the two do not share. */
typedef struct timing {
    uint8_t move, step, pair; /* mov r,r; inr, dcr; inx, dcx */
    uint8_t call;             /* one that is not made */
} timing;

static const timing *clocks_of(const rom_code *c)
{
    static const timing of_8080 = {5, 5, 5, 11}, of_8085 = {4, 4, 6, 9};

    return c->plan->processor == RMG_TESTROM_8085 ? &of_8085 : &of_8080;
}

static char home_letter(const rom_code *c)
{
    return rmg_testrom_bank_letter(c->plan->home_bank);
}

static void out(rom_code *c, const rmg_testrom_output *o)
{
    if (o->port)
        ROM(c, 0xD3, (uint8_t)o->at);
    else
        absolute(c, STA, o->at);
}

static void lamp(rom_code *c, bool on)
{
    ROM(c, 0x3E, (uint8_t)rmg_testrom_level(c->plan, &c->plan->lamp, on));
    out(c, &c->plan->lamp);
}

/* Can so many clocks be made up of 4, 7 and 10? */
static bool of_pads(uint32_t clocks)
{
    return clocks >= 14u || (0x1D91u >> clocks & 1u); /* 0, 4, 7, 8, 10, 11, 12 */
}

/* So many clocks, or up to 3 fewer where they cannot be made up; only A and the flags change.
 * Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    static const struct {
        uint8_t clocks, bytes[2], count;
    } pads[] = {{4, {0x00}, 1}, {7, {0x3E, 0}, 2}};
    const uint32_t round = clocks_of(c)->step + 10u;
    uint32_t rest = clocks, lost = 0;

    while (rest >= 7u + round + 18u) { /* mvi a; dcr a; jnz */
        const uint32_t most = (rest - 7u - 18u) / round, loops = most > 255u ? 255u : most;

        ROM(c, 0x3E, (uint8_t)loops, 0x3D);
        absolute(c, JNZ, rom_here(c) - 1u);
        rest -= 7u + round * loops;
        if (c->plan->processor == RMG_TESTROM_8085)
            rest += 3u; /* the last jump is not taken */
    }
    while (!of_pads(rest)) {
        rest--;
        lost++;
    }
    while (rest) {
        if (rest == 10u || (rest >= 10u && of_pads(rest - 10u))) {
            absolute(c, JMP, rom_here(c) + 3u);
            rest -= 10u;
            continue;
        }
        for (unsigned i = 2; i-- > 0;)
            if (pads[i].clocks <= rest && of_pads(rest - pads[i].clocks)) {
                rmg_testrom_put(c, pads[i].bytes, pads[i].count);
                rest -= pads[i].clocks;
                break;
            }
    }
    return clocks - lost;
}

/* Ten bits of C, the start bit first, with B for a count; then what follows. */
static void send_bits(rom_code *c)
{
    const rmg_testrom_output *o = &c->plan->serial;
    const timing *t = clocks_of(c);
    const uint32_t own =
        4u + 7u + 7u + (o->port ? 10u : 13u) + 4u + t->move + 4u + t->move + t->step + 10u;
    const uint32_t bits = rmg_testrom_bit_clocks(c->plan);
    unsigned bit;

    ROM(c, 0x06, 10, 0xB7); /* mvi b; ora a: carry clear */
    bit = rom_mark(c);
    ROM(c, 0x9F, 0xE6, (uint8_t)o->bit, 0xEE, (uint8_t)rmg_testrom_level(c->plan, o, false));
    out(c, o);
    if (bits < own)
        c->why = "the clock is too slow for this rate: choose a lower one";
    else
        c->baud = rmg_testrom_rate(c->plan, own + spend(c, bits - own));
    ROM(c, 0x37, 0x79, 0x1F, 0x4F, 0x05); /* stc; mov a,c; rar; mov c,a; dcr b */
    to(c, JNZ, bit);
}

static void pause(rom_code *c, uint32_t ms)
{
    const uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 24u;
    uint64_t left = loops ? loops : 1u;

    while (left) {
        const uint32_t now = left > 65535u ? 65535u : (uint32_t)left;

        absolute(c, LXI_H, now);
        ROM(c, 0x2B, 0x7C, 0xB5); /* dcx h; mov a,h; ora l */
        absolute(c, JNZ, rom_here(c) - 3u);
        left -= now;
    }
}

#define FLASH_MS 200u

/* The lamp lights, or the loudspeaker sounds, for so long; A, HL and D are lost. */
static void light(rom_code *c, uint32_t ms)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone) {
        const uint64_t half =
            (uint64_t)c->plan->clock_hz / o->tone / 2u / (clocks_of(c)->step + 10u);
        const uint8_t loops = (uint8_t)(half > 255u ? 255u : half ? half : 1u);
        const uint32_t times = o->tone * ms / 1000u;
        unsigned loop;

        absolute(c, LXI_H, times > 65535u ? 65535u : times ? times : 1u);
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            lamp(c, on != 0);
            ROM(c, 0x16, loops, 0x15); /* mvi d; dcr d */
            absolute(c, JNZ, rom_here(c) - 1u);
        }
        ROM(c, 0x2B, 0x7C, 0xB5);
        to(c, JNZ, loop);
    } else {
        lamp(c, true);
        pause(c, ms);
    }
    lamp(c, false);
}

/* A digit of A, as text. */
static void as_text(rom_code *c)
{
    ROM(c, 0xE6, 15, 0xC6, 0x90, 0x27, 0xCE, 0x40, 0x27);
}

/* The first stage's way to send: HL walks through a text, E is what it speaks of. */
static void write_bare_sender(writer *w)
{
    rom_code *c = w->c;
    const unsigned special = rom_label(c), low = rom_label(c), count = rom_label(c),
                   zeros = rom_label(c), data = rom_label(c), lowest = rom_label(c),
                   found = rom_label(c), number = rom_label(c), digit = rom_label(c);
    unsigned loop;

    rom_set(c, w->bare_send);
    rom_byte(c, 0x4F);
    if (c->plan->serial.fitted)
        send_bits(c);
    rom_set(c, w->bare_next);
    ROM(c, 0x7E, 0x23, 0xB7); /* mov a,m; inx h; ora a */
    to(c, JM, special);
    to(c, JMP, w->bare_send);
    rom_set(c, special);
    ROM(c, 0xFE, TEXT_GO_ON);
    to(c, JZ, w->first);
    ROM(c, 0xFE, TEXT_DEAD);
    to(c, JZ, w->dead);
    if (rmg_testrom_code_shared(c->plan))
        to(c, JNC, w->dead_shared); /* TEXT_DEAD_SHARED */
    ROM(c, 0xFE, TEXT_COUNT);
    to(c, JZ, count);
    ROM(c, 0xFE, TEXT_COUNT_ZEROS);
    to(c, JZ, zeros);
    ROM(c, 0xFE, TEXT_COUNT_DATA);
    to(c, JZ, data);
    ROM(c, 0xFE, TEXT_LOW);
    rom_byte(c, 0x7B); /* mov a,e: flags stay */
    to(c, JZ, digit);
    to(c, JNC, number);
    ROM(c, 0x0F, 0x0F, 0x0F, 0x0F); /* the high digit */
    rom_set(c, low);
    rom_set(c, digit);
    rom_set(c, number);
    as_text(c);
    to(c, JMP, w->bare_send);
    rom_set(c, data); /* E gets the bit that is 1, from 1 on; of several, B */
    ROM(c, 0x06, RMG_TESTROM_CODE_SEVERAL(8u), 0x7B, 0x3C); /* mvi b; mov a,e; inr a */
    to(c, JNZ, lowest);
    rom_byte(c, 0x04); /* inr b */
    to(c, JMP, lowest);
    rom_set(c, zeros);
    ROM(c, 0x7B, 0x2F, 0x5F);
    rom_set(c, count);
    ROM(c, 0x06, 9);
    rom_set(c, lowest);    /* 8 where there is none any more */
    ROM(c, 0x53, 0x1E, 0); /* mov d,e; mvi e,0 */
    loop = rom_mark(c);
    ROM(c, 0x1C, 0x7A, 0xB7, 0x1F, 0x57); /* inr e; mov a,d; ora a; rar; mov d,a */
    to(c, JC, found);
    ROM(c, 0x7B, 0xFE, 8);
    to(c, JNZ, loop);
    to(c, JMP, w->bare_next);
    rom_set(c, found);
    rom_byte(c, 0xB7);
    to(c, JZ, w->bare_next);
    rom_byte(c, 0x58); /* mov e,b */
    to(c, JMP, w->bare_next);
}

static void write_texts(writer *w)
{
    for (unsigned i = 0; i < ROM_TEXTS; i++) {
        rom_set(w->c, w->texts[i]);
        rmg_testrom_stage_text(w->c, (rom_text)i);
    }
}

static void bare_text(writer *w, rom_text which)
{
    rom_byte(w->c, 0x5F); /* mov e,a */
    to(w->c, LXI_H, w->texts[which]);
    to(w->c, JMP, w->bare_next);
}

/* One page, with registers alone; then the first pass begins. */
static void write_first(writer *w)
{
    rom_code *c = w->c;
    const unsigned wrong[2] = {rom_label(c), rom_label(c)}, bits = rom_label(c),
                   sets = rom_label(c), shared = rom_label(c), flashes = rom_label(c);
    const uint32_t page = (uint32_t)c->plan->home.first;
    unsigned loop;

    /* zeros, then a one through the first word: lines that touch would pass the rest; C: the bits
     * that cannot be set */
    rom_set(c, w->first);
    absolute(c, LXI_H, page);
    ROM(c, 0x36, 0, 0x7E, 0xB7); /* mvi m; mov a,m; ora a */
    to(c, JNZ, bits);
    absolute(c, 0x01, 0x0100); /* lxi b */
    loop = rom_mark(c);
    ROM(c, 0x70, 0x7E, 0xA8); /* mov m,b; mov a,m; xra b */
    to(c, JZ, sets);
    ROM(c, 0x79, 0xB0, 0x4F); /* mov a,c; ora b; mov c,a */
    rom_set(c, sets);
    ROM(c, 0x78, 0x07, 0x47); /* mov a,b; rlc; mov b,a */
    to(c, JNC, loop);
    ROM(c, 0x79, 0xB7); /* mov a,c; ora a */
    to(c, JNZ, bits);
    loop = rom_mark(c);
    ROM(c, 0x36, 0, 0x2C); /* mvi m; inr l */
    to(c, JNZ, loop);
    for (unsigned one = 0; one < 2; one++) {
        loop = rom_mark(c);
        rom_byte(c, 0x7E);
        if (one)
            ROM(c, 0xFE, 0xFF);
        else
            rom_byte(c, 0xB7);
        to(c, JNZ, wrong[one]);
        ROM(c, 0x36, one ? 0x00 : 0xFF, 0x2C);
        to(c, JNZ, loop);
    }
    to(c, JMP, w->stage_2);
    for (unsigned one = 0; one < 2; one++) {
        rom_set(c, wrong[one]);
        bare_text(w, one ? ROM_TEXT_ONES : ROM_TEXT_ZERO);
    }
    rom_set(c, bits);
    if (rmg_testrom_code_shared(c->plan)) { /* is another bank's first word wrong too? */
        rom_byte(c, 0x5F);                  /* mov e,a */
        absolute(c, LXI_H, (uint32_t)rmg_testrom_other_word(c->plan));
        rom_byte(c, 0xAF);
        for (unsigned walks = 0; walks < 2; walks++) {
            loop = rom_mark(c);
            ROM(c, 0x77, 0xBE); /* mov m,a; cmp m */
            to(c, JNZ, shared);
            if (!walks)
                rom_byte(c, 0x3C);
        }
        rom_byte(c, 0x07);
        to(c, JNC, loop);
        rom_byte(c, 0x7B); /* mov a,e */
    }
    bare_text(w, ROM_TEXT_BITS);
    rom_set(c, shared);
    if (rmg_testrom_code_shared(c->plan)) {
        rom_byte(c, 0x7B);
        bare_text(w, ROM_TEXT_SHARED);
        rom_set(c, w->dead_shared);
        ROM(c, 0x06, (uint8_t)rmg_testrom_code_shared(c->plan));
        to(c, JMP, flashes);
    }
    rom_set(c, w->dead); /* its bank's number in flashes; E flashes; from the start */
    ROM(c, 0x06, (uint8_t)(c->plan->home_bank + 1u));
    rom_set(c, flashes);
    if (c->plan->lamp.fitted) {
        pause(c, 3u * FLASH_MS);
        for (unsigned group = 0; group < 2; group++) {
            loop = rom_mark(c);
            light(c, FLASH_MS);
            pause(c, FLASH_MS);
            rom_byte(c, 0x05); /* dcr b */
            to(c, JNZ, loop);
            pause(c, 3u * FLASH_MS);
            if (!group)
                rom_byte(c, 0x43); /* mov b,e */
        }
    }
    absolute(c, JMP, c->org);
}

/* Sends A, and adds it to the check; only A is lost. */
static void write_sender(writer *w)
{
    rom_code *c = w->c;

    rom_set(c, w->tx);
    ROM(c, 0xC5, 0x4F); /* push b; mov c,a */
    kept(c, LDA, CHECK);
    ROM(c, 0x07, 0xA9); /* rlc; xra c */
    kept(c, STA, CHECK);
    if (c->plan->serial.fitted)
        send_bits(c);
    ROM(c, 0xC1, RET);
}

static void write_texts_of_lines(writer *w)
{
    rom_code *c = w->c;
    const unsigned digit = rom_label(c);

    rom_set(c, w->digits); /* A as two digits */
    ROM(c, 0xF5, 0x0F, 0x0F, 0x0F, 0x0F);
    to(c, CALL, digit);
    rom_byte(c, 0xF1);
    rom_set(c, digit);
    as_text(c);
    to(c, JMP, w->tx);
    rom_set(c, w->begin_line); /* the pass, and A */
    ROM(c, 0xF5, 0xAF);
    kept(c, STA, CHECK);
    kept(c, LDA, PASS);
    to(c, CALL, w->tx);
    rom_byte(c, 0xF1);
    to(c, JMP, w->tx);
    rom_set(c, w->line); /* of the step; and A */
    rom_byte(c, 0xF5);
    kept(c, LDA, STEP);
    to(c, CALL, w->begin_line);
    kept(c, LDA, BANK);
    to(c, CALL, w->tx);
    rom_byte(c, 0xF1);
    to(c, JMP, w->tx);
    rom_set(c, w->end_line);
    to(c, CALL, w->space);
    kept(c, LDA, CHECK);
    to(c, CALL, w->digits);
    ROM(c, 0x3E, '\r');
    to(c, CALL, w->tx);
    ROM(c, 0x3E, '\n');
    to(c, JMP, w->tx);
    rom_set(c, w->space);
    ROM(c, 0x3E, ' ');
    to(c, JMP, w->tx);
    rom_set(c, w->head); /* a line up to its address, and the blank behind that */
    kept(c, LDA, LETTER);
    to(c, CALL, w->line);
    to(c, CALL, w->space);
    kept(c, LDA, AT + 1u);
    to(c, CALL, w->digits);
    kept(c, LDA, AT);
    to(c, CALL, w->digits);
    to(c, JMP, w->space);
}

/* A read was wrong: A has the bits, C the letter, E what was written, HL the address; all but A
 * stay.
 */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    const unsigned out_of = rom_label(c), known = rom_label(c), not_lines = rom_label(c),
                   number = rom_label(c), bits = rom_label(c);
    unsigned loop;

    rom_set(c, w->report_1);
    ROM(c, 0x1E, 0xFF);
    to(c, JMP, w->report);
    rom_set(c, w->report_0);
    ROM(c, 0x1E, 0);
    rom_set(c, w->report);
    ROM(c, 0xC5, 0xD5, 0xE5); /* push b, d, h */
    kept(c, STA, DIFFERS);
    rom_byte(c, 0x47);
    kept(c, LDA, FAILED);
    rom_byte(c, 0xB0);
    kept(c, STA, FAILED);
    rom_byte(c, 0x79);
    kept(c, STA, LETTER);
    rom_byte(c, 0x7B);
    kept(c, STA, WROTE);
    kept(c, SHLD, AT);
    /* what the step says of later ones, and the number that is blinked */
    kept(c, LDA, STEP);
    ROM(c, 0x06, 9, 0xFE, 'A');
    to(c, JNZ, not_lines);
    kept(c, LDA, BANK);
    ROM(c, 0xFE, (uint8_t)home_letter(c));
    to(c, JNZ, number);
    kept(c, STA, HOME_BAD);
    to(c, JMP, number);
    rom_set(c, not_lines);
    ROM(c, 0x04, 0xFE, 'X');
    to(c, JNZ, bits);
    kept(c, STA, ACROSS_BAD);
    to(c, JMP, number);
    rom_set(c, bits);
    ROM(c, 0x06, 0);
    kept(c, LDA, DIFFERS);
    loop = rom_mark(c);
    ROM(c, 0x04, 0x0F); /* inr b; rrc */
    to(c, JNC, loop);
    rom_set(c, number);
    kept(c, LDA, CODE);
    rom_byte(c, 0xB7);
    to(c, JNZ, known);
    kept(c, LDA, BANK);
    ROM(c, 0x0F, 0x0F, 0x0F, 0xE6, 0xE0, 0xB0);
    kept(c, STA, CODE);
    rom_set(c, known);
    kept(c, LDA, LEFT);
    rom_byte(c, 0xB7);
    to(c, JZ, out_of);
    rom_byte(c, 0x3D);
    kept(c, STA, LEFT);
    to(c, CALL, w->tell);
    rom_set(c, out_of);
    ROM(c, 0xE1, 0xD1, 0xC1, RET);
    rom_set(c, w->tell);
    to(c, CALL, w->head);
    kept(c, LDA, WROTE);
    to(c, CALL, w->digits);
    to(c, CALL, w->space);
    kept(c, LDA, WROTE);
    rom_byte(c, 0x47);
    kept(c, LDA, DIFFERS);
    rom_byte(c, 0xA8);
    to(c, CALL, w->digits);
    to(c, JMP, w->end_line);
}

/* The word at HL: what element ELEMENT of the short march does to it. */
static void write_one(writer *w)
{
    rom_code *c = w->c;
    const unsigned zero = rom_label(c), third = rom_label(c);

    rom_set(c, w->one);
    kept(c, LDA, ELEMENT);
    rom_byte(c, 0xB7);
    to(c, JZ, zero);
    rom_byte(c, 0x3D);
    to(c, JNZ, third);
    ROM(c, 0x0E, 'a', 0x7E, 0xA0); /* mvi c; mov a,m; ana b */
    to(c, CNZ, w->report_0);
    ROM(c, 0x36, 0xFF, RET);
    rom_set(c, third);
    ROM(c, 0x0E, 'b', 0x7E, 0x2F, 0xA0);
    to(c, CNZ, w->report_1);
    rom_set(c, zero);
    ROM(c, 0x36, 0, RET);
}

/* The record at DE becomes the step's; HL is its first word, B its mask. */
static void write_load(writer *w)
{
    rom_code *c = w->c;
    unsigned loop;

    rom_set(c, w->load);
    absolute(c, LXI_H, (uint32_t)c->plan->home.first + RECORD);
    ROM(c, 0x06, RECORD_BYTES);
    loop = rom_mark(c);
    ROM(c, 0x1A, 0x77, 0x13, 0x23, 0x05); /* ldax d; mov m,a; inx d; inx h; dcr b */
    to(c, JNZ, loop);
    kept(c, LHLD, FIRST);
    kept(c, LDA, MASK);
    ROM(c, 0x47, RET);
}

/* HL is where the good bits of the bank are kept. */
static void good_of_bank(rom_code *c)
{
    kept(c, LDA, BANK);
    ROM(c, 0xE6, 15, 0x5F, 0x16, 0); /* ani; mov e,a; mvi d,0 */
    absolute(c, LXI_H, (uint32_t)c->plan->home.first + GOOD - 1u);
    rom_byte(c, 0x19);
}

static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned stub[2] = {rom_label(c), rom_label(c)}, label = rom_mark(c);
    unsigned loop;

    ROM(c, 0x0E, 1);
    loop = rom_mark(c);
    for (unsigned i = 0; i < 2; i++) {
        ROM(c, 0x71, 0x7E, 0xA9, 0xA0); /* mov m,c; mov a,m; xra c; ana b */
        to(c, CNZ, stub[i]);
        ROM(c, 0x79, 0x2F); /* mov a,c; cma */
        if (i)
            rom_byte(c, 0x07); /* rlc */
        rom_byte(c, 0x4F);
    }
    to(c, JNC, loop);
    good_of_bank(c);
    ROM(c, 0x70, RET);
    for (unsigned i = 0; i < 2; i++) { /* these bits are not looked at again */
        rom_set(c, stub[i]);
        ROM(c, 0x5F, 0x2F, 0xA0, 0x47, 0x7B, 0xC5, 0x59, 0x0E, (uint8_t)('a' + i));
        to(c, CALL, w->report);
        ROM(c, 0xC1, RET);
    }
    return label;
}

/* The bank's first word, then those that differ in one line, the highest first. */
static unsigned write_lines(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    unsigned element, loop;

    good_of_bank(c);
    ROM(c, 0x46, 0xAF); /* mov b,m; xra a */
    element = rom_mark(c);
    kept(c, STA, ELEMENT);
    kept(c, LHLD, FIRST);
    to(c, CALL, w->one);
    kept(c, LHLD, END);
    kept(c, SHLD, LINE);
    loop = rom_mark(c);
    kept(c, LHLD, LINE);
    rom_byte(c, 0xEB);
    kept(c, LHLD, FIRST);
    rom_byte(c, 0x19);
    to(c, CALL, w->one);
    kept(c, LHLD, LINE);
    ROM(c, 0xB7, 0x7C, 0x1F, 0x67, 0x7D, 0x1F, 0x6F); /* shifted right by one */
    kept(c, SHLD, LINE);
    rom_byte(c, 0xB4);
    to(c, JNZ, loop);
    kept(c, LDA, ELEMENT);
    ROM(c, 0x3C, 0xFE, 3);
    to(c, JNZ, element);
    rom_byte(c, RET);
    return label;
}

typedef struct stub {
    unsigned from;
    uint8_t letter;
    bool one;
} stub;

/* An element over whole pages. */
static void write_element(writer *w, const uint8_t *e, uint8_t read)
{
    rom_code *c = w->c;
    const timing *t = clocks_of(c);
    const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;
    const bool masked = rmg_testrom_masked(c->plan);
    const unsigned loop = rom_mark(c);
    uint32_t clocks = down ? t->move + t->step + 4u + 10u : t->step + 10u;
    stub stubs[RMG_MARCH_OPS];
    unsigned count = 0;

    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const bool one = e[i] & RMG_OP_ONE;

        if (e[i] & RMG_OP_WRITE) {
            ROM(c, 0x36, one ? 0xFF : 0);
            clocks += 10u;
            continue;
        }
        rom_byte(c, 0x7E);
        if (one)
            rom_byte(c, 0x2F);
        rom_byte(c, masked ? 0xA0 : 0xB7);
        clocks += 7u + (one ? 4u : 0u) + 4u + t->call;
        stubs[count] = (stub){rom_label(c), read++, one};
        to(c, CNZ, stubs[count++].from);
    }
    if (down) {
        ROM(c, 0x7D, 0x2D, 0xB7); /* mov a,l; dcr l; ora a */
        to(c, JNZ, loop);
        rom_byte(c, 0x25);
    } else {
        rom_byte(c, 0x2C);
        to(c, JNZ, loop);
        rom_byte(c, 0x24);
    }
    ROM(c, 0x7C, 0xBA); /* mov a,h; cmp d */
    to(c, JNZ, loop);
    rom_byte(c, RET);
    for (unsigned i = 0; i < count; i++) {
        rom_set(c, stubs[i].from);
        ROM(c, 0x0E, (uint8_t)rmg_testrom_read_letter(stubs[i].letter));
        to(c, JMP, stubs[i].one ? w->report_1 : w->report_0);
    }
    c->march_clocks += clocks;
}

/* All elements, unless that would destroy what is kept; and the line that ends it. */
static unsigned write_march(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), skip = rom_label(c), other = rom_label(c);
    unsigned elements[RMG_MARCH_BYTES], n = 0;
    uint8_t read = 0;

    kept(c, LDA, BANK);
    ROM(c, 0xFE, (uint8_t)home_letter(c));
    to(c, JNZ, other);
    kept(c, LDA, HOME_BAD);
    rom_byte(c, 0xB7);
    to(c, JNZ, skip);
    rom_set(c, other);
    kept(c, LDA, ACROSS_BAD);
    rom_byte(c, 0xB7);
    to(c, JNZ, skip);
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        elements[n] = rom_label(c);
        if (rom_ops(e) && (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN) {
            kept(c, LHLD, END);
            rom_byte(c, 0x2B);
            kept(c, LDA, FIRST + 1u);
            ROM(c, 0x3D, 0x57);
        } else if (rom_ops(e)) {
            kept(c, LHLD, FIRST);
            kept(c, LDA, END + 1u);
            rom_byte(c, 0x57);
        }
        to(c, CALL, elements[n++]);
    }
    rom_set(c, w->done);
    kept(c, LDA, LEFT);
    ROM(c, 0xB7, 0x3E, '.');
    absolute(c, JNZ, rom_here(c) + 5u);
    ROM(c, 0x3E, '+');
    to(c, CALL, w->line);
    to(c, CALL, w->space);
    kept(c, LDA, FAILED);
    to(c, CALL, w->digits);
    to(c, JMP, w->end_line);
    rom_set(c, skip);
    ROM(c, 0x3E, '/');
    to(c, CALL, w->line);
    to(c, JMP, w->end_line);
    n = 0;
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        rom_set(c, elements[n++]);
        if (rom_ops(e)) {
            write_element(w, e, read);
        } else {
            pause(c, c->plan->hold_ms);
            rom_byte(c, RET);
        }
        read = (uint8_t)(read + rmg_testrom_reads(e));
    }
    return label;
}

static void record(rom_code *c, const rmg_testrom_step *s, uint8_t bank, const rmg_range *r)
{
    const bool lines = s->kind == RMG_TESTROM_LINES || s->kind == RMG_TESTROM_DATA;

    ROM(c, (uint8_t)rmg_testrom_kind_letter(s->kind), (uint8_t)rmg_testrom_bank_letter(bank),
        (uint8_t)(s->kind == RMG_TESTROM_ROM ? 0 : c->plan->banks[bank].bits));
    rom_word(c, (uint32_t)r->first & 0xFFFFu);
    rom_word(c, (lines ? rmg_testrom_highest_line(r) : (uint32_t)r->last + 1u) & 0xFFFFu);
}

/* Flashes the first finding, twice. */
static void write_blinks(writer *w, unsigned label)
{
    rom_code *c = w->c;
    const unsigned group = rom_label(c), found = rom_label(c), gap = rom_label(c),
                   twice = rom_label(c);
    unsigned loop;

    rom_set(c, label);
    kept(c, LDA, CODE);
    rom_byte(c, 0xB7);
    to(c, JNZ, found);
    light(c, 5u * FLASH_MS);
    to(c, JMP, gap);
    rom_set(c, found);
    to(c, CALL, twice);
    rom_set(c, twice);
    kept(c, LDA, CODE);
    ROM(c, 0x07, 0x07, 0x07, 0xE6, 7);
    to(c, CALL, group);
    kept(c, LDA, CODE);
    ROM(c, 0xE6, 31);
    rom_set(c, group);
    rom_byte(c, 0x47);
    loop = rom_mark(c);
    light(c, FLASH_MS);
    pause(c, FLASH_MS);
    rom_byte(c, 0x05);
    to(c, JNZ, loop);
    rom_set(c, gap);
    pause(c, 3u * FLASH_MS);
    rom_byte(c, RET);
}

/* The sum of all of the code; A: 0 where it is right, as the flags say. */
static void write_sum(rom_code *c, unsigned end)
{
    unsigned loop;

    absolute(c, LXI_H, c->org);
    absolute(c, LXI_D, rom_of(c, end) - c->org);
    rom_byte(c, 0x0E);
    rom_byte(c, 0);
    loop = rom_mark(c);
    ROM(c, 0x79, 0x86, 0x4F, 0x23, 0x1B, 0x7A, 0xB3); /* sum; inx h; dcx d; mov a,d; ora e */
    to(c, JNZ, loop);
    ROM(c, 0x79, 0xB7);
}

/* Where the records of the steps stand. */
static void at_record(writer *w, unsigned n)
{
    absolute(w->c, LXI_D, rom_of(w->c, w->records) + n * RECORD_BYTES);
}

static void play_step(writer *w, const rmg_testrom_step *s, unsigned n, const unsigned *routines,
                      unsigned across)
{
    rom_code *c = w->c;

    ROM(c, 0x3E, c->plan->lines);
    kept(c, STA, LEFT);
    rom_byte(c, 0xAF);
    kept(c, STA, FAILED);
    if (s->kind == RMG_TESTROM_ACROSS) {
        for (unsigned e = 0; e < 3; e++) {
            ROM(c, 0x3E, (uint8_t)e);
            kept(c, STA, ELEMENT);
            for (unsigned b = 0; b < c->plan->bank_count; b++) {
                at_record(w, n + b);
                to(c, CALL, across);
            }
        }
        return;
    }
    at_record(w, n);
    to(c, CALL, w->load);
    if (s->kind == RMG_TESTROM_ROM) {
        absolute(c, LXI_H, c->plan->roms[s->bank].known ? rom_of(c, w->sums + s->bank) : 0);
        kept(c, SHLD, LINE);
    }
    to(c, CALL, routines[s->kind]);
}

static void write_passes(writer *w, const unsigned *routines, unsigned blinks, unsigned end)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;
    const unsigned pass = rom_label(c), begun = rom_label(c), fine = rom_label(c),
                   across = rom_label(c);
    unsigned n = 0;

    rom_set(c, w->stage_2);
    absolute(c, LXI_SP, (uint32_t)plan->home.first + CHECK);
    ROM(c, 0x3E, '0');
    kept(c, STA, PASS);
    to(c, JMP, begun); /* the first pass has told that it began */
    rom_set(c, pass);
    ROM(c, 0x3E, 'S');
    to(c, CALL, w->begin_line);
    to(c, CALL, w->space);
    ROM(c, 0x3E, (uint8_t)(plan->id >> 8));
    to(c, CALL, w->digits);
    ROM(c, 0x3E, (uint8_t)plan->id);
    to(c, CALL, w->digits);
    to(c, CALL, w->end_line);
    rom_set(c, begun);
    rom_byte(c, 0xAF);
    kept(c, STA, ACROSS_BAD);
    kept(c, STA, HOME_BAD);
    kept(c, STA, CODE);
    if (plan->screen.fitted)
        rmg_testrom_8080_beat(c);
    write_sum(c, end);
    to(c, JZ, fine);
    ROM(c, 0x3E, RMG_TESTROM_CODE_SUM);
    kept(c, STA, CODE);
    ROM(c, 0x3E, 'R');
    to(c, CALL, w->begin_line);
    to(c, CALL, w->end_line);
    rom_set(c, fine);
    for (unsigned i = 0; i < plan->step_count; i++) {
        if (plan->steps[i].kind == RMG_TESTROM_FIRST)
            continue;
        play_step(w, &plan->steps[i], n, routines, across);
        if (plan->screen.fitted)
            rmg_testrom_8080_show_row(w, i);
        n += plan->steps[i].kind == RMG_TESTROM_ACROSS ? plan->bank_count : 1u;
    }
    if (plan->screen.fitted)
        rmg_testrom_8080_mood(c);
    ROM(c, 0x3E, 'E');
    to(c, CALL, w->begin_line);
    to(c, CALL, w->space);
    kept(c, LDA, CODE);
    to(c, CALL, w->digits);
    to(c, CALL, w->end_line);
    if (plan->lamp.fitted)
        to(c, CALL, blinks);
    kept(c, LDA, PASS);
    rom_byte(c, 0x3C);
    if (plan->stop_after) {
        ROM(c, 0xFE, (uint8_t)('0' + plan->stop_after));
        absolute(c, JZ, plan->then);
    }
    ROM(c, 0xE6, 0xF7); /* from 8 to 0 */
    kept(c, STA, PASS);
    to(c, JMP, pass);
    rom_set(c, across); /* bits that are bad by themselves say nothing of banks */
    to(c, CALL, w->load);
    good_of_bank(c);
    rom_byte(c, 0x46);
    kept(c, LHLD, FIRST);
    to(c, JMP, w->one);
    rom_set(c, w->records);
    for (unsigned i = 0; i < plan->step_count; i++) {
        const rmg_testrom_step *s = &plan->steps[i];

        if (s->kind == RMG_TESTROM_ACROSS)
            for (uint8_t b = 0; b < plan->bank_count; b++)
                record(c, s, b, &plan->banks[b].range);
        else if (s->kind != RMG_TESTROM_FIRST)
            record(c, s, s->bank, &s->range);
    }
}

void rmg_testrom_write_8080(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c};
    const unsigned start = rom_label(c), end = rom_label(c), blinks = rom_label(c);
    unsigned *const labels[] = {
        &w.bare_next, &w.bare_send,   &w.texts[0],   &w.texts[1], &w.texts[2], &w.texts[3],
        &w.texts[4],  &w.dead_shared, &w.tx,         &w.digits,   &w.space,    &w.head,
        &w.tell,      &w.report_0,    &w.report_1,   &w.report,   &w.one,      &w.load,
        &w.done,      &w.first,       &w.begin_line, &w.end_line, &w.line,     &w.dead,
        &w.stage_2,   &w.records,     &w.pages,      &w.row};
    unsigned routines[RMG_TESTROM_KINDS] = {0};

    for (unsigned i = 0; i < sizeof labels / sizeof *labels; i++)
        *labels[i] = rom_label(c);
    w.sums = rmg_testrom_sum_labels(c);
    to(c, JMP, start); /* where the ROM also answers at 0 until then, this ends it */
    rom_set(c, start);
    rom_byte(c, 0xF3); /* di */
    for (unsigned i = 0; i < plan->write_count; i++) {
        const rmg_testrom_output place = {.port = plan->writes[i].port, .at = plan->writes[i].at};

        ROM(c, 0x3E, (uint8_t)plan->writes[i].value);
        out(c, &place);
    }
    if (plan->lamp.fitted)
        lamp(c, false);
    if (plan->serial.fitted) { /* the line idles at mark for more than a character */
        ROM(c, 0x3E, (uint8_t)rmg_testrom_level(plan, &plan->serial, true));
        out(c, &plan->serial);
        pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        rmg_testrom_8080_bars(c);
    to(c, LXI_H, w.texts[ROM_TEXT_START]);
    to(c, JMP, w.bare_next);
    write_bare_sender(&w);
    write_texts(&w);
    write_first(&w);
    write_sender(&w);
    write_texts_of_lines(&w);
    write_report(&w);
    write_one(&w);
    write_load(&w);
    routines[RMG_TESTROM_DATA] = write_data(&w);
    routines[RMG_TESTROM_LINES] = write_lines(&w);
    routines[RMG_TESTROM_MARCH] = write_march(&w);
    routines[RMG_TESTROM_ROM] = w.pages;
    if (plan->rom_count)
        rmg_testrom_8080_pages(&w);
    if (plan->screen.fitted)
        rmg_testrom_8080_row(&w);
    if (plan->lamp.fitted)
        write_blinks(&w, blinks);
    write_passes(&w, routines, blinks, end);
    rmg_testrom_write_sums(c, w.sums);
    rom_byte(c, 0); /* makes the sum 0 */
    rom_set(c, end);
}
