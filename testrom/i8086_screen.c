/* What the 8086 and 8088 show on a screen. */
#include "i8086.h"

/* DS for an address of the screen; what is left of it is returned. */
static uint32_t screen_segment(rom_code *c, uint32_t at)
{
    absolute(c, 0xBA, at >> 4); /* mov dx,#; mov ds,dx */
    ROM(c, 0x8E, 0xDA);
    return at & 15u;
}

/* What the screen shows. Operands of a row: its segment, the offset, two letters; of the bits what
 * DI holds where none failed. */
void rmg_testrom_8086_rows(writer *w)
{
    rom_code *c = w->c;
    const rmg_testrom_screen *s = &c->plan->screen;
    const uint32_t last = rom_screen_row(c->plan, s->rows - 1u);
    unsigned loop;

    w->row = rom_mark(c);
    ROM(c, 0x1F, 0x5E, 0x58, 0x88, 0x04, 0x88, 0x64, 1); /* pop ds, si, ax; the two letters */
    ROM(c, 0x8C, 0xC0, 0x24, 0x1F, 0x3C, c->plan->lines, 0xB0, s->dot, JZ, 2, 0xB0, s->mark, 0x88,
        0x44, 2, 0xC3);
    w->bits = rom_mark(c); /* those that failed, behind it */
    ROM(c, 0x58, 0x31, 0xF8, 0xC6, 0x44, 3, s->blank, 0x83, 0xC6, 4); /* pop ax; xor ax,di */
    if (!w->wide)
        ROM(c, 0x88, 0xC4); /* mov ah,al */
    absolute(c, 0xB9, c->plan->word_bits);
    loop = rom_mark(c);
    ROM(c, 0xD1, 0xE0, 0xB3, s->digits, 0x80, 0xD3, 0, 0x88, 0x1C,
        0x46); /* adc bl,0; mov [si],bl */
    branch(c, 0xE2, loop);
    rom_byte(c, 0xC3);
    w->beat = rom_mark(c); /* the digit of the pass */
    ROM(c, 0x8C, 0xC0, 0xB1, 5, 0xD2, 0xE8, 0x04, s->digits);
    absolute(c, 0xA2, screen_segment(c, last)); /* mov [],al */
    rom_byte(c, 0xC3);
    w->mood = rom_mark(c); /* was anything found? */
    ROM(c, 0x8C, 0xC0, 0x08, 0xE4, 0xB0, s->dot, JZ, 2, 0xB0, s->mark);
    absolute(c, 0xA2, screen_segment(c, last) + 1u);
    rom_byte(c, 0xC3);
}

void rmg_testrom_8086_show_row(writer *w, unsigned row, const rmg_testrom_step *s)
{
    rom_code *c = w->c;
    const uint32_t at = rom_screen_row(c->plan, row);

    of(c, w->row);
    rom_word(c, at >> 4);
    rom_word(c, at & 15u);
    rom_byte(c, rom_screen_letter(c->plan, rmg_testrom_kind_letter(s->kind)));
    rom_byte(c, rom_screen_letter(c->plan, rom_bank_shown(c->plan, s)));
    if (rom_gathers(s->kind)) {
        of(c, w->bits);
        rom_word(c, s->kind == RMG_TESTROM_DATA ? (uint32_t)c->plan->banks[s->bank].bits & 0xFFFFu
                                                : 0u);
    }
}

/* Bars, which stay where they are not read back; else blanks. */
void rmg_testrom_8086_bars(rom_code *c)
{
    const rmg_testrom_screen *s = &c->plan->screen;
    const unsigned out = rom_label(c);

    for (unsigned turn = 0; turn < 3; turn++) { /* written, compared, blank */
        unsigned loop;

        absolute(c, 0xBE, screen_segment(c, s->at)); /* mov si,# */
        absolute(c, 0xB9, (uint32_t)s->columns * s->rows);
        loop = rom_mark(c);
        if (turn < 2) /* mov ax,si; shr al,1: by the lowest bit of the address */
            ROM(c, 0x89, 0xF0, 0xD0, 0xE8, 0xB0, s->blank, JNC, 2, 0xB0, s->mark);
        else
            ROM(c, 0xB0, s->blank);
        ROM(c, turn == 1 ? 0x3A : 0x88, 0x04); /* cmp al,[si]; mov [si],al */
        if (turn == 1)
            branch(c, JNZ, out);
        rom_byte(c, 0x46);
        branch(c, 0xE2, loop);
    }
    rom_set(c, out);
}
