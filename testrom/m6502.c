/* The 6502, in two stages. Without RAM it has three registers and a stack pointer that can keep a
 * fourth value: enough to test zero page and stack and to tell the first word that is wrong there.
 * Once these work, the rest is subroutines with their data in zero page. */
#include "m6502.h"

/* X spends so many clocks, 2 or 4 and more; what cannot be made up is left. Returns how many. */
static uint32_t spend(rom_code *c, uint32_t clocks)
{
    uint32_t rest = clocks;

    while (rest >= 20u) { /* ldx #n; dex; bne: 5 n + 1 */
        uint32_t loops;

        for (; (rom_here(c) + 2u) >> 8 != (rom_here(c) + 5u) >> 8; rest -= 2u)
            rom_byte(c, 0xEA); /* a loop across a page would take longer */
        loops = (rest - 1u - 4u) / 5u;
        if (loops > 256u)
            loops = 256u;
        ROM(c, 0xA2, (uint8_t)loops, 0xCA, 0xD0, 0xFD);
        rest -= 1u + 5u * loops;
    }
    if (rest == 3u || (rest & 1u && rest >= 3u)) {
        absolute(c, 0x4C, rom_here(c) + 3u); /* jmp to the next */
        rest -= 3u;
    }
    for (; rest >= 2u; rest -= 2u)
        rom_byte(c, 0xEA);
    return clocks - rest;
}

static void lamp(rom_code *c, bool on)
{
    ROM(c, 0xA9, (uint8_t)rmg_testrom_level(c->plan, &c->plan->lamp, on));
    absolute(c, 0x8D, c->plan->lamp.at);
}

/* Waits; A and X are lost. */
static void pause(rom_code *c, uint32_t ms)
{
    uint64_t loops = (uint64_t)c->plan->clock_hz * ms / 1000u / 1288u;

    for (loops = loops ? loops : 1u; loops;) {
        const uint8_t now = (uint8_t)(loops > 255u ? 255u : loops);

        ROM(c, 0xA9, now, 0xA2, 0, 0xCA, 0xD0, 0xFD, 0x38, 0xE9, 1, 0xD0, 0xF6);
        loops -= now;
    }
}

/* Lamp or loudspeaker for so long; A and X are lost, and with a loudspeaker zero page or the stack
 * pointer: see `bare`. */
static void light(rom_code *c, uint32_t ms, bool bare)
{
    const rmg_testrom_output *o = &c->plan->lamp;

    if (o->tone && !bare) {
        const uint32_t half = c->plan->clock_hz / o->tone / 2u;
        const uint32_t times = o->tone * ms / 1000u;
        unsigned loop;

        ROM(c, 0xA9, (uint8_t)times, 0x85, SHIFT, 0xA9, (uint8_t)((times >> 8) + 1u), 0x85, SAVED);
        loop = rom_mark(c);
        for (unsigned on = 0; on < 2; on++) {
            lamp(c, on != 0);
            spend(c, half > 20u ? half - 14u : 6u);
        }
        ROM(c, 0xC6, SHIFT);
        branch(c, BNE, loop);
        ROM(c, 0xC6, SAVED);
        branch(c, BNE, loop);
    } else if (o->tone) { /* by bursts that the pause loop cannot give: X and A alone */
        for (unsigned burst = 0; burst < 2; burst++) {
            unsigned loop;

            ROM(c, 0xA2, 0);
            loop = rom_mark(c);
            ROM(c, 0xA9, (uint8_t)rmg_testrom_level(c->plan, o, true));
            absolute(c, 0x8D, o->at);
            for (unsigned i = 0; i < 2; i++) {
                const uint32_t n = c->plan->clock_hz / o->tone / 2u / 7u;

                ROM(c, 0xA9, (uint8_t)(n > 255u ? 255u : n ? n : 1u), 0x38, 0xE9, 1, 0xD0, 0xFB);
                if (!i) {
                    ROM(c, 0xA9, (uint8_t)rmg_testrom_level(c->plan, o, false));
                    absolute(c, 0x8D, o->at);
                }
            }
            rom_byte(c, 0xCA);
            branch(c, BNE, loop);
        }
    } else {
        lamp(c, true);
        pause(c, ms);
        lamp(c, false);
    }
}

#define FLASH_MS 200u

/* X gets the level of the carry, in the same time for both. */
static void level_of_carry(rom_code *c)
{
    const rmg_testrom_output *o = &c->plan->serial;

    ROM(c, 0xB0, 4, 0xA2, (uint8_t)rmg_testrom_level(c->plan, o, false), 0x90, 3, 0xA2,
        (uint8_t)rmg_testrom_level(c->plan, o, true), 0xEA);
}

/* The first stage's way to send: X counts through the texts, and waits in S meanwhile. Y is what a
 * text speaks of. Seven bits and a 0. */
static void write_bare_sender(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_output *o = &c->plan->serial;
    const uint32_t clocks = rmg_testrom_bit_clocks(c->plan), own = 16;
    const unsigned special = rom_label(c), high = rom_label(c), low = rom_label(c),
                   digit = rom_label(c), count = rom_label(c), zeros = rom_label(c),
                   data = rom_label(c), lowest = rom_label(c), go_on = rom_label(c),
                   number = rom_label(c);
    unsigned bit, loop;

    rom_set(c, w->bare_send);
    if (o->fitted) {
        ROM(c, 0x09, 0x80, 0x18);
        bit = rom_mark(c);
        level_of_carry(c);
        absolute(c, 0x8E, o->at);
        if (clocks < own + 30u)
            c->why = "the clock is too slow for this rate: choose a lower one";
        else
            spend(c, clocks - own);
        rom_byte(c, 0x4A);
        branch(c, BNE, bit);
        ROM(c, 0xEA, 0xEA, 0xEA, 0xA2, (uint8_t)rmg_testrom_level(c->plan, o, false));
        absolute(c, 0x8E, o->at);
        if (clocks >= own + 30u)
            spend(c, clocks - 6u);
        ROM(c, 0xA2, (uint8_t)rmg_testrom_level(c->plan, o, true));
        absolute(c, 0x8E, o->at);
        if (clocks >= own + 30u)
            spend(c, clocks);
    }
    ROM(c, 0xBA, 0xE8); /* tsx; inx */
    rom_set(c, w->bare_next);
    to(c, 0xBD, w->texts);
    branch(c, BMI, special);
    rom_byte(c, 0x9A);
    to(c, JMP, w->bare_send);

    rom_set(c, special);
    ROM(c, 0x9A, 0x29, 0x7F); /* txs; and */
    branch(c, BEQ, high);
    ROM(c, 0xC9, TEXT_COUNT & 0x7F);
    branch(c, BCC, low);
    branch(c, BEQ, count);
    ROM(c, 0xC9, TEXT_COUNT_DATA & 0x7F);
    branch(c, BCC, zeros);
    branch(c, BEQ, data);
    ROM(c, 0xC9, TEXT_DIGIT & 0x7F);
    branch(c, BEQ, number);
    ROM(c, 0xC9, TEXT_GO_ON & 0x7F);
    branch(c, BEQ, go_on);
    ROM(c, 0xA2, 1); /* so many flashes for the bank */
    if (rmg_testrom_code_shared(c->plan))
        ROM(c, 0xC9, TEXT_DEAD_SHARED & 0x7F, 0xD0, 2, 0xA2,
            (uint8_t)rmg_testrom_code_shared(c->plan));
    to(c, JMP, w->dead);
    rom_set(c, go_on);
    to(c, JMP, w->first);
    rom_set(c, high);
    ROM(c, 0x98, 0x4A, 0x4A, 0x4A, 0x4A);
    branch(c, BPL, digit);
    rom_set(c, low);
    ROM(c, 0x98, 0x29, 15);
    rom_set(c, digit);
    ROM(c, 0xC9, 10, 0x90, 2, 0x69, 6, 0x69, '0');
    to(c, JMP, w->bare_send);
    rom_set(c, data); /* Y gets the bit that is 1, counted from 1; of several, X */
    ROM(c, 0xA2, RMG_TESTROM_CODE_SEVERAL(8u), 0xC0, 0xFF);
    branch(c, BNE, lowest);
    rom_byte(c, 0xE8);
    branch(c, BNE, lowest);
    rom_set(c, zeros);
    ROM(c, 0x98, 0x49, 0xFF, 0xA8);
    rom_set(c, count);
    ROM(c, 0xA2, 9);
    rom_set(c, lowest);
    ROM(c, 0x98, 0xA0, 0);
    loop = rom_mark(c);
    ROM(c, 0xC8, 0x4A, 0xB0, 4, 0xC0, 8); /* a value that reads otherwise now has none */
    branch(c, BNE, loop);
    ROM(c, 0xF0, 2, 0x8A, 0xA8, 0xBA, 0xE8);
    to(c, JMP, w->bare_next);
    rom_set(c, number);
    rom_byte(c, 0x98);
    branch(c, BPL, digit);
}

static void write_texts(writer *w)
{
    static const rom_text order[] = {ROM_TEXT_START, ROM_TEXT_ZERO, ROM_TEXT_ONES, ROM_TEXT_BITS,
                                     ROM_TEXT_SHARED};
    rom_code *c = w->c;
    size_t from;

    rom_set(c, w->texts);
    from = c->at;
    for (unsigned i = 0; i < ROM_TEXTS; i++) {
        w->bare_texts[order[i]] = (unsigned)(c->at - from);
        rmg_testrom_stage_text(c, order[i]);
    }
}

/* Zero page and stack, with registers alone; then the first pass begins. */
static void write_first(writer *w)
{
    rom_code *c = w->c;
    const unsigned wrong[2] = {rom_label(c), rom_label(c)}, bits = rom_label(c),
                   shared = rom_label(c), sound = rom_label(c);
    unsigned loop;

    /* zeros, then a one through the first word: lines that touch would pass the rest; Y: the bits
     * that are wrong */
    rom_set(c, w->first);
    ROM(c, 0xA2, 0, 0x86, 0);
    absolute(c, 0xAC, 0);
    branch(c, BNE, bits);
    rom_byte(c, 0xE8);
    loop = rom_mark(c);
    ROM(c, 0x86, 0, 0xEC, 0, 0, 0xF0, 6);
    ROM(c, 0x9A, 0xC8, 0xCA, 0xD0, 0xFC, 0xBA); /* X is added to Y: txs; iny; dex; bne; tsx */
    ROM(c, 0x8A, 0x0A, 0xAA);
    branch(c, BCC, loop);
    rom_byte(c, 0x98);
    branch(c, BEQ, sound);
    rom_set(c, bits);
    if (rmg_testrom_code_shared(c->plan)) { /* is another bank's first word wrong too? */
        const uint32_t other = (uint32_t)rmg_testrom_other_word(c->plan);

        ROM(c, 0xA2, 0);
        for (unsigned walks = 0; walks < 2; walks++) {
            loop = rom_mark(c);
            absolute(c, 0x8E, other);
            absolute(c, 0xEC, other);
            branch(c, BNE, shared);
            if (!walks)
                rom_byte(c, 0xE8);
        }
        ROM(c, 0x8A, 0x0A, 0xAA);
        branch(c, BCC, loop);
    }
    ROM(c, 0xA2, (uint8_t)w->bare_texts[ROM_TEXT_BITS]);
    to(c, JMP, w->bare_next);
    rom_set(c, shared);
    if (rmg_testrom_code_shared(c->plan)) {
        ROM(c, 0xA2, (uint8_t)w->bare_texts[ROM_TEXT_SHARED]);
        to(c, JMP, w->bare_next);
    }
    rom_set(c, sound);
    ROM(c, 0xA2, 0, 0x8A);
    for (unsigned page = 0; page < 2; page++) {
        loop = rom_mark(c);
        absolute(c, 0x9D, page << 8);
        rom_byte(c, 0xE8);
        branch(c, BNE, loop);
    }
    for (unsigned one = 0; one < 2; one++)
        for (unsigned page = 0; page < 2; page++) {
            loop = rom_mark(c);
            absolute(c, 0xBD, page << 8);
            if (one)
                ROM(c, 0xC9, 0xFF);
            branch(c, BNE, wrong[one]);
            ROM(c, 0xA9, one ? 0x00 : 0xFF);
            absolute(c, 0x9D, page << 8);
            rom_byte(c, 0xE8);
            branch(c, BNE, loop);
        }
    to(c, JMP, w->stage_2);
    for (unsigned one = 0; one < 2; one++) {
        rom_set(c, wrong[one]);
        ROM(c, 0xA8, 0xA2, (uint8_t)w->bare_texts[one ? ROM_TEXT_ONES : ROM_TEXT_ZERO]);
        to(c, JMP, w->bare_next);
    }
    rom_set(c, w->dead); /* X flashes; Y flashes; from the start */
    if (c->plan->lamp.fitted) {
        unsigned flash;

        rom_byte(c, 0x9A);
        pause(c, 2u * FLASH_MS);
        flash = rom_mark(c);
        pause(c, FLASH_MS);
        light(c, FLASH_MS, true);
        ROM(c, 0xBA, 0xCA, 0x9A); /* tsx; dex; txs */
        if (c->plan->lamp.tone) {
            ROM(c, 0xF0, 3);
            to(c, JMP, flash);
        } else {
            branch(c, BNE, flash);
        }
        pause(c, 3u * FLASH_MS);
        flash = rom_mark(c);
        light(c, FLASH_MS, true);
        pause(c, FLASH_MS);
        rom_byte(c, 0x88);
        if (c->plan->lamp.tone) {
            ROM(c, 0xF0, 3);
            to(c, JMP, flash);
        } else {
            branch(c, BNE, flash);
        }
        pause(c, 3u * FLASH_MS);
    }
    absolute(c, JMP, c->org);
}

/* Sends A, and adds it to the check. A, X, Y are lost. */
static void write_sender(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_output *o = &c->plan->serial;
    const uint32_t clocks = rmg_testrom_bit_clocks(c->plan), own = 7u + 4u + 2u + 5u + 2u + 3u;
    unsigned bit;

    rom_set(c, w->tx);
    ROM(c, 0x85, SHIFT, 0xA5, CHECK, 0x0A, 0x69, 0, 0x45, SHIFT, 0x85, CHECK);
    if (!o->fitted) {
        rom_byte(c, 0x60);
        return;
    }
    ROM(c, 0xA0, 10, 0x18);
    bit = rom_mark(c);
    level_of_carry(c);
    absolute(c, 0x8E, o->at);
    if (clocks >= own + 2u)
        c->baud = rmg_testrom_rate(c->plan, own + spend(c, clocks - own));
    ROM(c, 0x38, 0x66, SHIFT, 0x88);
    branch(c, BNE, bit);
    rom_byte(c, 0x60);
}

static void write_texts_of_lines(writer *w)
{
    rom_code *c = w->c;
    const unsigned digit = rom_label(c);

    rom_set(c, w->digits); /* A as two digits */
    ROM(c, 0x48, 0x4A, 0x4A, 0x4A, 0x4A);
    to(c, JSR, digit);
    ROM(c, 0x68, 0x29, 15);
    rom_set(c, digit);
    ROM(c, 0xC9, 10, 0x90, 2, 0x69, 6, 0x69, '0');
    to(c, JMP, w->tx);
    rom_set(c, w->begin_line); /* the pass, and A */
    ROM(c, 0x48, 0xA9, 0, 0x85, CHECK, 0xA5, PASS);
    to(c, JSR, w->tx);
    rom_byte(c, 0x68);
    to(c, JMP, w->tx);
    rom_set(c, w->end_line);
    to(c, JSR, w->space);
    ROM(c, 0xA5, CHECK);
    to(c, JSR, w->digits);
    rom_set(c, w->crlf);
    ROM(c, 0xA9, '\r');
    to(c, JSR, w->tx);
    ROM(c, 0xA9, '\n', 0xD0, 2); /* over the space */
    rom_set(c, w->space);
    ROM(c, 0xA9, ' ');
    to(c, JMP, w->tx);
}

/* A line up to its address, and the blank behind that. */
static void write_head(writer *w)
{
    rom_code *c = w->c;

    ROM(c, 0xA5, STEP);
    to(c, JSR, w->begin_line);
    ROM(c, 0xA5, BANK);
    to(c, JSR, w->tx);
    ROM(c, 0xA5, LETTER);
    to(c, JSR, w->tx);
    to(c, JSR, w->space);
    ROM(c, 0xA5, AT_HIGH);
    to(c, JSR, w->digits);
    ROM(c, 0xA5, ADDRESS);
    to(c, JSR, w->digits);
    to(c, JSR, w->space);
}

/* A read was wrong: A is what was read, X the letter, (AT),Y the address. Y stays. */
static void write_report(writer *w)
{
    rom_code *c = w->c;
    const unsigned both = rom_label(c), out = rom_label(c), known = rom_label(c),
                   not_lines = rom_label(c), number = rom_label(c), told = rom_label(c);
    unsigned loop;

    rom_set(c, w->report_1);
    ROM(c, 0x86, LETTER, 0xA2, 0xFF);
    branch(c, BNE, both);
    rom_set(c, w->report_0);
    ROM(c, 0x86, LETTER, 0xA2, 0);
    rom_set(c, both);
    ROM(c, 0x86, WROTE, 0x45, WROTE, 0x25, MASK);
    rom_set(c, w->report); /* A: the bits that are wrong */
    ROM(c, 0xAA);          /* tax: none of those that are looked at? */
    branch(c, BEQ, out);
    ROM(c, 0x84, SAVED, 0x85, DIFFERS, 0x05, FAILED, 0x85, FAILED);
    ROM(c, 0x98, 0x18, 0x65, AT, 0x85, ADDRESS);
    /* what the step says of later ones, and the number that is blinked */
    ROM(c, 0xA2, 9, 0xA5, STEP, 0xC9, 'A');
    branch(c, BNE, not_lines);
    ROM(c, 0xA5, BANK, 0xC9, (uint8_t)home_letter(c->plan));
    branch(c, BNE, number);
    ROM(c, 0x86, HOME_BAD);
    branch(c, BEQ, number);
    rom_set(c, not_lines);
    rom_byte(c, 0xE8);
    ROM(c, 0xC9, 'X', 0xD0, 4, 0x86, ACROSS_BAD);
    branch(c, BEQ, number);
    ROM(c, 0xA2, 0, 0xA5, DIFFERS);
    loop = rom_mark(c);
    ROM(c, 0xE8, 0x4A);
    branch(c, BCC, loop);
    rom_set(c, number);
    ROM(c, 0xA5, CODE);
    branch(c, BNE, known);
    ROM(c, 0x86, CODE, 0xA5, BANK, 0x0A, 0x0A, 0x0A, 0x0A, 0x0A, 0x05, CODE, 0x85, CODE);
    rom_set(c, known);
    ROM(c, 0xA5, LEFT);
    branch(c, BEQ, told);
    ROM(c, 0xC6, LEFT);
    rom_set(c, w->tell);
    if (c->plan->rom_count)
        to(c, JSR, w->head);
    else
        write_head(w);
    ROM(c, 0xA5, WROTE);
    to(c, JSR, w->digits);
    to(c, JSR, w->space);
    ROM(c, 0xA5, WROTE, 0x45, DIFFERS);
    to(c, JSR, w->digits);
    to(c, JSR, w->end_line);
    rom_set(c, told);
    ROM(c, 0xA4, SAVED);
    rom_set(c, out);
    rom_byte(c, 0x60);
}

/* One word at (AT): what element ELEMENT of the short march does to it. */
static void write_one(writer *w)
{
    rom_code *c = w->c;
    const unsigned zero = rom_label(c), put = rom_label(c), third = rom_label(c),
                   fine = rom_label(c), well = rom_label(c);

    rom_set(c, w->one);
    ROM(c, 0xA0, 0, 0xA6, ELEMENT);
    branch(c, BEQ, zero);
    ROM(c, 0xB1, AT, 0xCA);
    branch(c, BNE, third);
    ROM(c, 0xC9, 0);
    branch(c, BEQ, fine);
    ROM(c, 0xA2, 'a');
    to(c, JSR, w->report_0);
    rom_set(c, fine);
    ROM(c, 0xA9, 0xFF);
    branch(c, BNE, put);
    rom_set(c, third);
    ROM(c, 0xC9, 0xFF);
    branch(c, BEQ, well);
    ROM(c, 0xA2, 'b');
    to(c, JSR, w->report_1);
    rom_set(c, well);
    rom_set(c, zero);
    ROM(c, 0xA9, 0);
    rom_set(c, put);
    ROM(c, 0xA0, 0, 0x91, AT, 0x60);
}

/* The record at X becomes the step's; its lines and bits begin anew; AT is its first word. */
static void write_load(writer *w)
{
    rom_code *c = w->c;
    unsigned loop;

    rom_set(c, w->load);
    ROM(c, 0xA0, 0);
    loop = rom_mark(c);
    to(c, 0xBD, w->records);
    absolute(c, 0x99, RECORD);
    ROM(c, 0xE8, 0xC8, 0xC0, RECORD_BYTES);
    branch(c, BNE, loop);
    ROM(c, 0xA9, 0, 0x85, AT, 0xA5, FIRST_PAGE, 0x85, AT_HIGH, 0x60);
}

static unsigned write_data(writer *w)
{
    rom_code *c = w->c;
    const unsigned one = rom_label(c), fine = rom_label(c), label = rom_mark(c);
    unsigned loop;

    ROM(c, 0xA9, 1, 0x85, WROTE);
    loop = rom_mark(c);
    ROM(c, 0xA2, 'a');
    to(c, JSR, one);
    ROM(c, 0xA2, 'b');
    to(c, JSR, one);
    ROM(c, 0x06, WROTE);
    branch(c, BCC, loop);
    ROM(c, 0xA5, BANK, 0x29, 15, 0xAA, 0xA5, MASK, 0x95, GOOD - 1, 0x60);
    rom_set(c, one);
    ROM(c, 0x86, LETTER, 0xA0, 0, 0xA5, WROTE, 0x91, AT, 0xB1, AT, 0x45, WROTE, 0x25, MASK);
    branch(c, BEQ, fine);
    ROM(c, 0x48, 0x49, 0xFF, 0x25, MASK, 0x85, MASK, 0x68);
    to(c, JSR, w->report);
    rom_set(c, fine);
    ROM(c, 0xA5, WROTE, 0x49, 0xFF, 0x85, WROTE, 0x60);
    return label;
}

/* The mask stays as the data step left it. */
static unsigned write_lines(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c);
    unsigned element, loop;

    ROM(c, 0xA9, 0, 0x85, ELEMENT);
    element = rom_mark(c);
    ROM(c, 0xA9, 0, 0x85, AT, 0xA5, FIRST_PAGE, 0x85, AT_HIGH);
    to(c, JSR, w->one);
    /* the highest line: BEFORE_PAGE and END_PAGE are not needed in this step, and hold it */
    ROM(c, 0xA5, BEFORE_PAGE, 0x85, LINE, 0xA5, END_PAGE, 0x85, LINE_HIGH);
    loop = rom_mark(c);
    ROM(c, 0xA5, LINE, 0x85, AT, 0xA5, LINE_HIGH, 0x05, FIRST_PAGE, 0x85, AT_HIGH);
    to(c, JSR, w->one);
    ROM(c, 0x46, LINE_HIGH, 0x66, LINE, 0xA5, LINE, 0x05, LINE_HIGH);
    branch(c, BNE, loop);
    ROM(c, 0xE6, ELEMENT, 0xA5, ELEMENT, 0xC9, 3);
    branch(c, BNE, element);
    rom_byte(c, 0x60);
    return label;
}

typedef struct stub {
    unsigned from, back;
    uint8_t letter;
    bool one;
} stub;

/* An element over whole pages. */
static void write_element(writer *w, const uint8_t *e, uint8_t read)
{
    rom_code *c = w->c;
    const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;
    const bool writes_alone = rom_ops(e) == 1 && (e[1] & RMG_OP_WRITE);
    stub stubs[RMG_MARCH_OPS];
    unsigned count = 0, loop, again;
    uint32_t clocks = down ? 7u : 5u;
    int a = -1; /* what A holds: 0, 1; -1: not known */

    ROM(c, 0xA5, down ? END_PAGE : FIRST_PAGE, 0x85, AT_HIGH);
    if (down)
        ROM(c, 0xC6, AT_HIGH);
    ROM(c, 0xA0, down ? 0xFF : 0x00);
    again = rom_mark(c);
    if (writes_alone) {
        ROM(c, 0xA9, e[1] & RMG_OP_ONE ? 0xFF : 0x00);
        a = e[1] & RMG_OP_ONE ? 1 : 0;
    }
    loop = rom_mark(c);
    for (unsigned i = 1; i <= rom_ops(e); i++) {
        const int one = e[i] & RMG_OP_ONE ? 1 : 0;

        if (e[i] & RMG_OP_WRITE) {
            if (a != one) {
                ROM(c, 0xA9, one ? 0xFF : 0x00);
                clocks += 2;
            }
            a = one;
            ROM(c, 0x91, AT);
            clocks += 6;
            continue;
        }
        ROM(c, 0xB1, AT);
        if (one)
            ROM(c, 0xC9, 0xFF);
        clocks += one ? 9u : 7u;
        stubs[count] = (stub){rom_label(c), rom_label(c), read++, one};
        branch(c, BNE, stubs[count].from);
        rom_set(c, stubs[count].back);
        a = -1; /* the way round a failure loses it */
        count++;
    }
    if (down)
        ROM(c, 0x88, 0xC0, 0xFF);
    else
        rom_byte(c, 0xC8);
    branch(c, BNE, loop);
    ROM(c, down ? 0xC6 : 0xE6, AT_HIGH, 0xA5, AT_HIGH, 0xC5, down ? BEFORE_PAGE : END_PAGE);
    branch(c, BNE, again);
    rom_byte(c, 0x60);
    for (unsigned i = 0; i < count; i++) {
        rom_set(c, stubs[i].from);
        ROM(c, 0xA2, (uint8_t)rmg_testrom_read_letter(stubs[i].letter));
        to(c, JSR, stubs[i].one ? w->report_1 : w->report_0);
        to(c, JMP, stubs[i].back);
    }
    c->march_clocks += clocks;
}

/* All elements, unless that would destroy what zero page holds; and the line that ends it. */
static unsigned write_march(writer *w)
{
    rom_code *c = w->c;
    const unsigned label = rom_mark(c), skip = rom_label(c), line = rom_label(c),
                   more = rom_label(c);
    unsigned elements[RMG_MARCH_BYTES], n = 0;
    uint8_t read = 0;

    ROM(c, 0xA5, BANK, 0xC9, (uint8_t)home_letter(c->plan), 0xD0, 4, 0xA5, HOME_BAD);
    branch(c, BNE, skip);
    ROM(c, 0xA5, ACROSS_BAD);
    branch(c, BNE, skip);
    ROM(c, 0xA9, 0, 0x85, AT);
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        elements[n] = rom_label(c);
        to(c, JSR, elements[n++]);
    }
    rom_set(c, w->march_end);
    ROM(c, 0xA9, '.', 0xA6, LEFT, 0xD0, 2, 0xA9, '+');
    to(c, JSR, line);
    to(c, JSR, w->space);
    ROM(c, 0xA5, FAILED);
    to(c, JSR, w->digits);
    to(c, JMP, w->end_line);
    rom_set(c, skip);
    if (c->plan->screen.fitted)
        ROM(c, 0xC6, LEFT); /* its row is no good one */
    ROM(c, 0xA9, '/');
    to(c, JSR, line);
    to(c, JMP, w->end_line);
    rom_set(c, line);
    ROM(c, 0x48, 0xA5, STEP);
    to(c, JSR, w->begin_line);
    ROM(c, 0xA5, BANK);
    to(c, JSR, w->tx);
    rom_byte(c, 0x68);
    to(c, JMP, w->tx);
    rom_set(c, more);
    n = 0;
    for (const uint8_t *e = c->plan->march; *e; e = rom_next_element(e)) {
        rom_set(c, elements[n++]);
        if (rom_ops(e)) {
            write_element(w, e, read);
        } else {
            pause(c, c->plan->hold_ms);
            rom_byte(c, 0x60);
        }
        for (unsigned i = 1; i <= rom_ops(e); i++)
            read = (uint8_t)(read + !(e[i] & RMG_OP_WRITE));
    }
    return label;
}

static void record(rom_code *c, const rmg_testrom_step *s, uint8_t bank, const rmg_range *r)
{
    const uint32_t top = rmg_testrom_highest_line(r);
    const bool lines = s->kind == RMG_TESTROM_LINES || s->kind == RMG_TESTROM_DATA;

    ROM(c, (uint8_t)rmg_testrom_kind_letter(s->kind), (uint8_t)rmg_testrom_bank_letter(bank),
        (uint8_t)c->plan->banks[bank].bits, (uint8_t)(r->first >> 8),
        (uint8_t)(lines ? top : (r->first >> 8) - 1u),
        (uint8_t)(lines ? top >> 8 : (r->last >> 8) + 1u));
}

/* Flashes the first finding, twice. */
static void write_blinks(writer *w, unsigned label)
{
    rom_code *c = w->c;
    const unsigned group = rom_label(c), found = rom_label(c), flash = rom_label(c),
                   gap = rom_label(c), twice = rom_label(c);

    rom_set(c, label);
    ROM(c, 0xA5, CODE);
    branch(c, BNE, found);
    for (unsigned i = 0; i < 5; i++)
        to(c, JSR, flash);
    to(c, JMP, gap);
    rom_set(c, found);
    to(c, JSR, twice);
    rom_set(c, twice);
    ROM(c, 0xA5, CODE, 0x4A, 0x4A, 0x4A, 0x4A, 0x4A);
    to(c, JSR, group);
    ROM(c, 0xA5, CODE, 0x29, 31);
    rom_set(c, group);
    ROM(c, 0x85, ELEMENT);
    {
        const unsigned loop = rom_mark(c);

        to(c, JSR, flash);
        pause(c, FLASH_MS);
        ROM(c, 0xC6, ELEMENT);
        branch(c, BNE, loop);
    }
    rom_set(c, gap);
    pause(c, 3u * FLASH_MS);
    rom_byte(c, 0x60);
    rom_set(c, flash);
    light(c, FLASH_MS, false);
    rom_byte(c, 0x60);
}

/* The sum of all of the code; A: 0 where it is right. */
static void write_sum(rom_code *c, unsigned end)
{
    unsigned loop;

    ROM(c, 0xA0, 0, 0xA9, (uint8_t)c->org, 0x85, AT, 0xA9, (uint8_t)(c->org >> 8), 0x85, AT_HIGH,
        0xA9, 0);
    loop = rom_mark(c);
    ROM(c, 0x18, 0x71, AT, 0xE6, AT, 0xD0, 2, 0xE6, AT_HIGH, 0xA6, AT, 0xE0,
        (uint8_t)rom_of(c, end));
    branch(c, BNE, loop);
    ROM(c, 0xA6, AT_HIGH, 0xE0, (uint8_t)(rom_of(c, end) >> 8));
    branch(c, BNE, loop);
    ROM(c, 0xAA); /* tax sets the flags */
}

/* The row of a step on the screen; AT is where. */
static void write_row(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint8_t add = (uint8_t)(s->letters - 'A');

    rom_set(c, w->row);
    ROM(c, 0xA0, 0, 0xA5, STEP, 0x18, 0x69, add, 0x91, AT, 0xC8, 0xA5, BANK, 0x18, 0x69, add, 0x91,
        AT, 0xC8);
    ROM(c, 0xA9, s->dot, 0xA6, LEFT, 0xE0, c->plan->lines, BEQ, 2, 0xA9, s->mark, 0x91, AT);
    ROM(c, 0xA5, STEP);
    if (c->plan->rom_count)
        ROM(c, 0xC9, (uint8_t)rmg_testrom_kind_letter(RMG_TESTROM_ROM), BEQ, 31);
    ROM(c, 0xC9, 'A', BEQ, 27, 0xC9, 'X', BEQ, 23, 0xC8, 0xA9, s->blank, 0x91, AT);
    ROM(c, 0xA5, FAILED, 0x85, SHIFT, 0xA2, 8);
    ROM(c, 0xC8, 0xA9, s->digits, 0x06, SHIFT, 0x69, 0, 0x91, AT, 0xCA, BNE, 0xF4, 0x60);
}

static void show_row(writer *w, unsigned row)
{
    const uint32_t at = rom_screen_row(w->c->plan, row);

    ROM(w->c, 0xA9, (uint8_t)at, 0x85, AT, 0xA9, (uint8_t)(at >> 8), 0x85, AT_HIGH);
    to(w->c, JSR, w->row);
}

/* The last row: the digit of the pass. */
static void show_beat(rom_code *c)
{
    ROM(c, 0xA5, PASS, 0x18, 0x69, (uint8_t)(c->plan->screen.digits - '0'));
    absolute(c, 0x8D, rom_screen_row(c->plan, c->plan->screen.rows - 1u));
}

/* ... and behind it, was anything found? */
static void show_mood(rom_code *c)
{
    ROM(c, 0xA2, c->plan->screen.dot, 0xA5, CODE, BEQ, 2, 0xA2, c->plan->screen.mark);
    absolute(c, 0x8E, rom_screen_row(c->plan, c->plan->screen.rows - 1u) + 1u);
}

/* Each page of the screen at once, by X; of an odd number of characters all are alike. */
static void on_pages(rom_code *c, unsigned opcode, unsigned out)
{
    const uint32_t bytes = (uint32_t)c->plan->screen.columns * c->plan->screen.rows;

    for (uint32_t page = 0; page < bytes; page += 256u) { /* the last one may overlap */
        const uint32_t from = bytes < 256u ? 0 : page + 256u > bytes ? bytes - 256u : page;

        absolute(c, opcode, c->plan->screen.at + from);
        if (out) {
            ROM(c, BEQ, 3);
            to(c, JMP, out);
        }
    }
}

/* Bars, which stay where they are not read back; else blanks. */
static void write_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint32_t bytes = (uint32_t)s->columns * s->rows;
    const unsigned out = rom_label(c);

    rom_byte(c, 0xA2);
    rom_byte(c, 0);
    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        const unsigned loop = rom_mark(c);

        if (turn < 2) /* txa; lsr a */
            ROM(c, 0x8A, 0x4A, 0xA9, bytes % 2u ? s->mark : s->blank, 0x90, 2, 0xA9, s->mark);
        else
            ROM(c, 0xA9, s->blank);
        on_pages(c, turn == 1 ? 0xDD : 0x9D, turn == 1 ? out : 0); /* cmp, sta */
        rom_byte(c, 0xE8);
        if (bytes < 256u)
            ROM(c, 0xE0, (uint8_t)bytes);
        ROM(c, BEQ, 3);
        to(c, JMP, loop);
        if (bytes < 256u)
            ROM(c, 0xA2, 0);
    }
    rom_set(c, out);
}

static void write_passes(writer *w, unsigned data, unsigned lines, unsigned march, unsigned blinks,
                         unsigned end)
{
    rom_code *c = w->c;
    const rmg_testrom_plan *plan = c->plan;
    const unsigned pass = rom_label(c), begun = rom_label(c), fine = rom_label(c),
                   across = rom_label(c);
    unsigned n = 0;

    rom_set(c, w->stage_2);
    ROM(c, 0xA2, 0xFF, 0x9A, 0xA9, '0', 0x85, PASS);
    branch(c, BNE, begun); /* the first pass has told that it began */
    rom_set(c, pass);
    ROM(c, 0xA9, 'S');
    to(c, JSR, w->begin_line);
    to(c, JSR, w->space);
    ROM(c, 0xA9, (uint8_t)(plan->id >> 8));
    to(c, JSR, w->digits);
    ROM(c, 0xA9, (uint8_t)plan->id);
    to(c, JSR, w->digits);
    to(c, JSR, w->end_line);
    rom_set(c, begun);
    ROM(c, 0xA9, 0, 0x85, ACROSS_BAD, 0x85, HOME_BAD, 0x85, CODE);
    if (plan->screen.fitted)
        show_beat(c);

    write_sum(c, end);
    branch(c, BEQ, fine);
    ROM(c, 0xA9, RMG_TESTROM_CODE_SUM, 0x85, CODE, 0xA9, 'R');
    to(c, JSR, w->begin_line);
    to(c, JSR, w->end_line);
    rom_set(c, fine);
    for (unsigned i = 0; i < plan->step_count; i++) {
        const rmg_testrom_step *s = &plan->steps[i];

        if (s->kind == RMG_TESTROM_FIRST)
            continue;
        ROM(c, 0xA9, plan->lines, 0x85, LEFT, 0xA9, 0, 0x85, FAILED);
        if (s->kind == RMG_TESTROM_ACROSS) {
            for (unsigned e = 0; e < 3; e++) {
                ROM(c, 0xA9, (uint8_t)e, 0x85, ELEMENT);
                for (unsigned b = 0; b < plan->bank_count; b++) {
                    ROM(c, 0xA2, (uint8_t)((n + b) * RECORD_BYTES));
                    to(c, JSR, across);
                }
            }
            n += plan->bank_count;
            if (plan->screen.fitted)
                show_row(w, i);
            continue;
        }
        if (s->kind == RMG_TESTROM_LINES) { /* the data step's record goes on, with its mask */
            ROM(c, 0xA9, 'A', 0x85, STEP);
        } else {
            ROM(c, 0xA2, (uint8_t)(n++ * RECORD_BYTES));
            to(c, JSR, w->load);
        }
        to(c, JSR,
           s->kind == RMG_TESTROM_DATA    ? data
           : s->kind == RMG_TESTROM_LINES ? lines
           : s->kind == RMG_TESTROM_ROM   ? w->pages
                                          : march);
        if (plan->screen.fitted)
            show_row(w, i);
    }
    if (plan->screen.fitted)
        show_mood(c);
    ROM(c, 0xA9, 'E');
    to(c, JSR, w->begin_line);
    to(c, JSR, w->space);
    ROM(c, 0xA5, CODE);
    to(c, JSR, w->digits);
    to(c, JSR, w->end_line);
    if (plan->lamp.fitted)
        to(c, JSR, blinks);
    ROM(c, 0xE6, PASS, 0xA5, PASS);
    if (plan->stop_after) {
        ROM(c, 0xC9, (uint8_t)('0' + plan->stop_after), 0xD0, 3);
        absolute(c, JMP, plan->then);
    }
    ROM(c, 0x29, 0xF7, 0x85, PASS); /* from 8 to 0 */
    to(c, JMP, pass);
    rom_set(c, across); /* bits that are bad by themselves say nothing of banks */
    to(c, JSR, w->load);
    ROM(c, 0xA5, BANK, 0x29, 15, 0xAA, 0xB5, GOOD - 1, 0x85, MASK);
    to(c, JMP, w->one);
    rom_set(c, w->records);
    for (unsigned i = 0; i < plan->step_count; i++) {
        const rmg_testrom_step *s = &plan->steps[i];

        if (s->kind == RMG_TESTROM_ACROSS)
            for (uint8_t b = 0; b < plan->bank_count; b++)
                record(c, s, b, &plan->banks[b].range);
        else if (s->kind == RMG_TESTROM_ROM)
            rmg_testrom_6502_rom(w, s);
        else if (s->kind != RMG_TESTROM_FIRST && s->kind != RMG_TESTROM_LINES)
            record(c, s, s->bank, &s->range);
    }
}

void rmg_testrom_write_6502(rom_code *c)
{
    const rmg_testrom_plan *plan = c->plan;
    writer w = {.c = c};
    const unsigned start = rom_label(c), end = rom_label(c), blinks = rom_label(c);
    unsigned *const labels[] = {&w.bare_next, &w.bare_send, &w.texts,      &w.tx,       &w.digits,
                                &w.space,     &w.crlf,      &w.report_0,   &w.report_1, &w.report,
                                &w.one,       &w.load,      &w.begin_line, &w.end_line, &w.first,
                                &w.dead,      &w.stage_2,   &w.records,    &w.row,      &w.head,
                                &w.tell,      &w.march_end, &w.pages};
    unsigned data, lines, march;

    for (unsigned i = 0; i < sizeof labels / sizeof *labels; i++)
        *labels[i] = rom_label(c);
    w.sums = rmg_testrom_sum_labels(c);
    to(c, JMP, start);
    /* branches of the two senders must not cross a page: they stand where that is known */
    write_sender(&w);
    write_bare_sender(&w);
    write_texts(&w);
    rom_set(c, start);
    ROM(c, 0x78, 0xD8);
    for (unsigned i = 0; i < plan->write_count; i++) {
        ROM(c, 0xA9, (uint8_t)plan->writes[i].value);
        absolute(c, 0x8D, plan->writes[i].at);
    }
    if (plan->lamp.fitted)
        lamp(c, false);
    if (plan->serial.fitted) {
        ROM(c, 0xA9, (uint8_t)rmg_testrom_level(plan, &plan->serial, true));
        absolute(c, 0x8D, plan->serial.at);
        pause(c, 12000u / plan->baud + 1u);
    }
    if (plan->screen.fitted)
        write_bars(c);
    ROM(c, 0xA2, 0);
    to(c, JMP, w.bare_next);
    write_first(&w);
    write_texts_of_lines(&w);
    write_report(&w);
    write_one(&w);
    write_load(&w);
    data = write_data(&w);
    lines = write_lines(&w);
    march = write_march(&w);
    if (plan->rom_count) {
        rom_set(c, w.head);
        write_head(&w);
        rom_byte(c, 0x60);
        rmg_testrom_6502_pages(&w);
    }
    if (plan->lamp.fitted)
        write_blinks(&w, blinks);
    write_passes(&w, data, lines, march, blinks, end);
    if (plan->screen.fitted)
        write_row(&w);
    rmg_testrom_write_sums(c, w.sums);
    rom_byte(c, 0); /* makes the sum 0 */
    rom_set(c, end);
}
