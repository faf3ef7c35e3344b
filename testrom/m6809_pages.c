/* The 6809 reads a ROM page by page. X is the address; of U the bits that count lines keep here
 * which reading it is (2), whether this page differed (1), and whether any did (1). */
#include "m6809.h"

#define READING   0x08u
#define READINGS  0x18u
#define ANY_PAGE  0x40u
#define THIS_PAGE 0x80u

/* S says: this row, and an entry, from the first phase on. */
static void pack(writer *w, uint8_t number)
{
    rom_code *c = w->c;

    transfer(c, S_D);
    absolute(c, SUBD, w->rows);
    shift_right(c);
    rom_byte(c, ADDD);
    rom_word(c, at_entry(number));
    transfer(c, D_S);
}

/* B and what U keeps: andb, orb. */
static void of_u(rom_code *c, unsigned operation, unsigned bits)
{
    transfer(c, U_D);
    ROM(c, (uint8_t)operation, (uint8_t)bits);
    transfer(c, D_U);
}

/* Both sums of the page at X, in D and Y alike; X stays. */
static void write_sums(rom_code *c)
{
    unsigned loop;

    ROM(c, 0x4F, 0x5F); /* clra; clrb */
    immediate(c, 0x10, LDX, 0);
    loop = rom_mark(c);
    ROM(c, 0xAB, 0x80, 0x31, 0xA6, 0x5A); /* adda ,x+; leay a,y; decb */
    branch(c, BNE, loop);
    transfer(c, A_DP);
    transfer(c, Y_D);
    transfer(c, DP_A);
    transfer(c, D_Y);
    ROM(c, 0x30, 0x89, 0xFF, 0x00); /* leax -256,x */
}

unsigned rmg_testrom_6809_pages(writer *w)
{
    rom_code *c = w->c;
    const bool told = c->plan->serial.fitted;
    const unsigned send = rom_label(c), send_line = rom_label(c), same = rom_label(c),
                   next = rom_label(c), over = rom_label(c), known = rom_label(c),
                   fine = rom_label(c), ended = rom_label(c), label = rom_mark(c);
    unsigned page, again;

    of_u(c, 0xC4, 7);
    ROM(c, 0xAE, 0x62);
    page = rom_mark(c);
    ROM(c, 0xEC, 0x66); /* ldd 6,s: is there a table? */
    far_branch(c, BEQ, told ? send : next);
    again = rom_mark(c);
    write_sums(c);
    transfer(c, X_D);
    ROM(c, 0xA0, 0x62); /* suba 2,s: pages before it, two bytes each */
    transfer(c, A_B);
    ROM(c, 0x4F, 0x58, 0x49, 0xE3, 0x66);
    exchange(c, D_Y);
    ROM(c, 0x10, 0xA3, 0xA4); /* cmpd ,y */
    branch(c, BEQ, same);
    transfer(c, D_Y);
    of_u(c, 0xCA, THIS_PAGE | ANY_PAGE);
    pack(w, w->page);
    transfer(c, U_D);
    ROM(c, 0xC4, READINGS, 0x58, 0x58, 0x4F, 0x32, 0xEB); /* leas d,s: the entry of this reading */
    immediate(c, 0x11, SUBD, 0x100);                      /* cmpu */
    branch(c, BHS, known);
    letters_of_s(w);
    ROM(c, 0xCB, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'));
    transfer(c, B_A);
    ROM(c, 0x5F, 0x33, 0xCB); /* clrb; leau d,u */
    rom_set(c, known);
    absolute(c, JMP, told ? w->start_line : w->quiet);

    rom_set(c, same);
    for (unsigned i = 0; i < RMG_TESTROM_READINGS; i++)
        w->entries[w->page + i].back = same;
    of_u(c, 0xCB, READING);
    ROM(c, 0xC4, READINGS, 0xC1, (uint8_t)(RMG_TESTROM_READINGS * READING));
    branch(c, BNE, again);
    transfer(c, U_D);
    ROM(c, 0xC4, (uint8_t) ~(READINGS | THIS_PAGE));
    exchange(c, D_U);
    if (told) {
        ROM(c, 0xC5, THIS_PAGE); /* as it was */
        branch(c, BEQ, next);
        rom_set(c, send);
        rom_set(c, send_line);
        pack(w, w->contents);
        absolute(c, JMP, w->start_line);
        w->entries[w->contents].back = rom_mark(c);
        transfer(c, X_D);
        rom_byte(c, 0x5D);
        branch(c, BNE, send_line);
        branch(c, BRA, over);
    }
    rom_set(c, next);
    ROM(c, 0x30, 0x89, 0x01, 0x00);
    rom_set(c, over);
    ROM(c, 0xAC, 0x64);
    far_branch(c, BNE, page);

    transfer(c, U_D);
    ROM(c, 0xC5, ANY_PAGE);
    branch(c, BEQ, fine);
    ROM(c, 0xC4, 7, 0xCA, (uint8_t)((c->plan->lines - 1u) << 3));
    branch(c, BRA, ended);
    rom_set(c, fine);
    ROM(c, 0xC4, 7, 0xCA, (uint8_t)(c->plan->lines << 3));
    rom_set(c, ended);
    transfer(c, D_U);
    rom_byte(c, 0x4F);
    transfer(c, A_DP);
    absolute(c, JMP, w->done);
    return label;
}
