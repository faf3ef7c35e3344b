/* The 8080 reads a ROM page by page. HL is the page, LINE points to what its sums are to be; B is
 * the sum of the bytes, C that of the sums. */
#include "i8080.h"

/* What is read from HL on, eight bytes a line. */
static void write_contents(writer *w)
{
    rom_code *c = w->c;
    unsigned line, loop;

    kept(c, SHLD, AT);
    ROM(c, 0x3E, '=');
    kept(c, STA, LETTER);
    line = rom_mark(c);
    to(c, CALL, w->head);
    kept(c, LHLD, AT);
    loop = rom_mark(c);
    rom_byte(c, 0x7E);
    to(c, CALL, w->digits);
    ROM(c, 0x2C, 0x7D, 0xE6, RMG_TESTROM_DATA_BYTES - 1u); /* inr l; mov a,l; ani */
    to(c, JNZ, loop);
    kept(c, SHLD, AT);
    to(c, CALL, w->end_line);
    ROM(c, 0x7D, 0xB7);
    to(c, JNZ, line);
}

void rmg_testrom_8080_pages(writer *w)
{
    rom_code *c = w->c;
    const unsigned send = rom_label(c), differs = rom_label(c), known = rom_label(c),
                   same = rom_label(c), next = rom_label(c), counted = rom_label(c);
    unsigned page, again, loop;

    rom_set(c, w->pages);
    rom_byte(c, 0xAF);
    kept(c, STA, ANY_DIFFERS);
    kept(c, LHLD, FIRST);
    page = rom_mark(c);
    rom_byte(c, 0xAF);
    kept(c, STA, PAGE_DIFFERS);
    kept(c, LDA, LINE + 1u);
    rom_byte(c, 0xB7);
    to(c, JZ, send); /* what it should hold is not known */
    ROM(c, 0x3E, 'a');
    kept(c, STA, LETTER);
    again = rom_mark(c);
    absolute(c, LXI_B, 0);
    loop = rom_mark(c);
    ROM(c, 0x7E, 0x80, 0x47, 0x81, 0x4F, 0x2C); /* mov a,m; add b; to b; add c; to c; inr l */
    to(c, JNZ, loop);
    rom_byte(c, 0xEB);
    kept(c, LHLD, LINE);
    ROM(c, 0x7E, 0xB8); /* cmp b */
    to(c, JNZ, differs);
    ROM(c, 0x23, 0x7E, 0xB9); /* inx h; cmp c */
    to(c, JZ, same);
    rom_set(c, differs);
    rom_byte(c, 0xEB);
    kept(c, SHLD, AT);
    ROM(c, 0xEB, 0x78);
    kept(c, STA, WROTE);
    rom_byte(c, 0xA9); /* xra c: as the line wants it */
    kept(c, STA, DIFFERS);
    ROM(c, 0x3E, 1);
    kept(c, STA, PAGE_DIFFERS);
    kept(c, STA, ANY_DIFFERS);
    kept(c, LDA, CODE);
    rom_byte(c, 0xB7);
    to(c, JNZ, known);
    kept(c, LDA, BANK);
    ROM(c, 0xC6, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'));
    kept(c, STA, CODE);
    rom_set(c, known);
    rom_byte(c, 0xD5); /* push d */
    to(c, CALL, w->tell);
    rom_byte(c, 0xD1);
    rom_set(c, same);
    rom_byte(c, 0xEB);
    kept(c, LDA, LETTER);
    rom_byte(c, 0x3C);
    kept(c, STA, LETTER);
    ROM(c, 0xFE, 'a' + RMG_TESTROM_READINGS);
    to(c, JNZ, again);
    kept(c, LDA, PAGE_DIFFERS);
    rom_byte(c, 0xB7);
    to(c, JZ, next);
    rom_set(c, send);
    write_contents(w);
    rom_set(c, next);
    rom_byte(c, 0x24); /* inr h */
    kept(c, LDA, LINE + 1u);
    rom_byte(c, 0xB7);
    to(c, JZ, counted);
    rom_byte(c, 0xE5);
    kept(c, LHLD, LINE);
    ROM(c, 0x23, 0x23);
    kept(c, SHLD, LINE);
    rom_byte(c, 0xE1);
    rom_set(c, counted);
    kept(c, LDA, END + 1u);
    rom_byte(c, 0xBC); /* cmp h */
    to(c, JNZ, page);
    kept(c, LDA, ANY_DIFFERS);
    rom_byte(c, 0xB7);
    to(c, JZ, w->done);
    kept(c, LDA, LEFT);
    rom_byte(c, 0x3D);
    kept(c, STA, LEFT);
    to(c, JMP, w->done);
}
