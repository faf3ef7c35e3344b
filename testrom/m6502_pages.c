/* The 6502 reads a ROM page by page. AT is the page, LINE points to what its sums are to be; WROTE
 * is the sum of the bytes, DIFFERS that of the sums, and then what both differ in, as the line
 * wants it. */
#include "m6502.h"

#define PAGE_DIFFERS VALUE
#define ANY_DIFFERS  SAVED

/* What is read at (AT),ADDRESS, eight bytes a line. */
static void write_contents(writer *w)
{
    rom_code *c = w->c;
    unsigned line, loop;

    ROM(c, 0xA9, '=', 0x85, LETTER);
    line = rom_mark(c);
    to(c, JSR, w->head);
    loop = rom_mark(c);
    ROM(c, 0xA4, ADDRESS, 0xB1, AT);
    to(c, JSR, w->digits);
    ROM(c, 0xE6, ADDRESS, 0xA5, ADDRESS, 0x29, RMG_TESTROM_DATA_BYTES - 1u);
    branch(c, BNE, loop);
    to(c, JSR, w->end_line);
    ROM(c, 0xA5, ADDRESS);
    branch(c, BNE, line);
}

void rmg_testrom_6502_pages(writer *w)
{
    rom_code *c = w->c;
    const unsigned send = rom_label(c), differs = rom_label(c), known = rom_label(c),
                   same = rom_label(c), next = rom_label(c), counted = rom_label(c),
                   fine = rom_label(c);
    unsigned page, again, loop;

    rom_set(c, w->pages);
    ROM(c, 0xA5, MASK, 0x85, LINE, 0xA5, BEFORE_PAGE, 0x85, LINE_HIGH, 0xA9, 0, 0x85, ANY_DIFFERS);
    page = rom_mark(c);
    ROM(c, 0xA9, 0, 0x85, PAGE_DIFFERS, 0x85, ADDRESS, 0xA5, LINE_HIGH);
    branch(c, BEQ, send); /* what it should hold is not known */
    ROM(c, 0xA9, 'a', 0x85, LETTER);
    again = rom_mark(c);
    ROM(c, 0xA9, 0, 0x85, WROTE, 0x85, DIFFERS, 0xA8);
    loop = rom_mark(c);
    ROM(c, 0xB1, AT, 0x18, 0x65, WROTE, 0x85, WROTE, 0x18, 0x65, DIFFERS, 0x85, DIFFERS, 0xC8);
    branch(c, BNE, loop);
    ROM(c, 0xB1, LINE, 0xC5, WROTE);
    branch(c, BNE, differs);
    ROM(c, 0xC8, 0xB1, LINE, 0xC5, DIFFERS);
    branch(c, BEQ, same);
    rom_set(c, differs);
    ROM(c, 0xA5, DIFFERS, 0x45, WROTE, 0x85, DIFFERS, 0xA2, 1, 0x86, PAGE_DIFFERS, 0x86,
        ANY_DIFFERS, 0xA5, CODE);
    branch(c, BNE, known);
    ROM(c, 0xA5, BANK, 0x18, 0x69, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'), 0x85, CODE);
    rom_set(c, known);
    to(c, JSR, w->tell);
    rom_set(c, same);
    ROM(c, 0xE6, LETTER, 0xA5, LETTER, 0xC9, 'a' + RMG_TESTROM_READINGS);
    branch(c, BNE, again);
    ROM(c, 0xA5, PAGE_DIFFERS);
    branch(c, BEQ, next);
    rom_set(c, send);
    write_contents(w);
    rom_set(c, next);
    ROM(c, 0xA5, LINE_HIGH);
    branch(c, BEQ, counted);
    ROM(c, 0xA5, LINE, 0x18, 0x69, 2, 0x85, LINE);
    branch(c, BCC, counted);
    ROM(c, 0xE6, LINE_HIGH);
    rom_set(c, counted);
    ROM(c, 0xE6, AT_HIGH, 0xA5, AT_HIGH, 0xC5, END_PAGE, BEQ, 3);
    to(c, JMP, page);
    ROM(c, 0xA5, ANY_DIFFERS);
    branch(c, BEQ, fine);
    ROM(c, 0xC6, LEFT);
    rom_set(c, fine);
    to(c, JMP, w->march_end);
}

void rmg_testrom_6502_rom(writer *w, const rmg_testrom_step *step)
{
    rom_code *c = w->c;
    const uint32_t sums = c->plan->roms[step->bank].known ? rom_of(c, w->sums + step->bank) : 0;

    ROM(c, (uint8_t)rmg_testrom_kind_letter(step->kind),
        (uint8_t)rmg_testrom_bank_letter(step->bank), (uint8_t)sums,
        (uint8_t)(step->range.first >> 8), (uint8_t)(sums >> 8),
        (uint8_t)((step->range.last >> 8) + 1u));
}
