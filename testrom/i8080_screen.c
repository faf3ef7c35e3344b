/* What the 8080 and 8085 show on a screen. */
#include "i8080.h"

/* A of two values, the second where the flags say that it is not zero. */
static void choose(rom_code *c, uint8_t zero, uint8_t other)
{
    ROM(c, 0x3E, zero);
    absolute(c, JZ, rom_here(c) + 5u);
    ROM(c, 0x3E, other);
}

void rmg_testrom_8080_row(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint8_t add = (uint8_t)(s->letters - 'A');
    unsigned loop;

    rom_set(c, w->row); /* HL: where */
    kept(c, LDA, STEP);
    ROM(c, 0xC6, add, 0x77, 0x23);
    kept(c, LDA, BANK);
    ROM(c, 0xC6, add, 0x77, 0x23);
    kept(c, LDA, LEFT);
    ROM(c, 0xFE, c->plan->lines);
    choose(c, s->dot, s->mark);
    rom_byte(c, 0x77);
    kept(c, LDA, STEP);
    ROM(c, 0xFE, (uint8_t)rmg_testrom_kind_letter(RMG_TESTROM_ROM), 0xC8, 0xFE, 'A', 0xC8, 0xFE,
        'X', 0xC8); /* rz: they gather no bits */
    ROM(c, 0x23, 0x36, s->blank);
    kept(c, LDA, FAILED);
    ROM(c, 0x4F, 0x06, 8);
    loop = rom_mark(c);
    ROM(c, 0x23, 0x79, 0x07, 0x4F, 0x3E, s->digits, 0xCE, 0, 0x77, 0x05); /* rlc; aci 0; dcr b */
    to(c, JNZ, loop);
    rom_byte(c, RET);
}

void rmg_testrom_8080_show_row(writer *w, unsigned row)
{
    absolute(w->c, LXI_H, rom_screen_row(w->c->plan, row));
    to(w->c, CALL, w->row);
}

void rmg_testrom_8080_beat(rom_code *c)
{
    kept(c, LDA, PASS);
    ROM(c, 0xC6, (uint8_t)(c->plan->screen.digits - '0'));
    absolute(c, STA, rom_screen_row(c->plan, c->plan->screen.rows - 1u));
}

void rmg_testrom_8080_mood(rom_code *c)
{
    kept(c, LDA, CODE);
    rom_byte(c, 0xB7);
    choose(c, c->plan->screen.dot, c->plan->screen.mark);
    absolute(c, STA, rom_screen_row(c->plan, c->plan->screen.rows - 1u) + 1u);
}

void rmg_testrom_8080_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const unsigned out = rom_label(c);

    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        unsigned loop;

        absolute(c, LXI_H, s->at);
        absolute(c, LXI_B, (uint32_t)s->columns * s->rows);
        loop = rom_mark(c);
        ROM(c, 0x7D, 0xE6, 1); /* by the lowest bit of the address */
        choose(c, s->blank, turn < 2 ? s->mark : s->blank);
        rom_byte(c, turn == 1 ? 0xBE : 0x77); /* cmp m, mov m,a */
        if (turn == 1)
            to(c, JNZ, out);
        ROM(c, 0x23, 0x0B, 0x78, 0xB1); /* inx h; dcx b; mov a,b; ora c */
        to(c, JNZ, loop);
    }
    rom_set(c, out);
}
