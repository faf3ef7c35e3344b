/* The 8086 reads a ROM page by page, in pieces of a segment. Of ES the bits that count lines keep
 * here whether this page, and whether any, differed; SP points to the letter of a reading.
 *
 *   DS:SI address   BX sum of the words   DX sum of that   DI what they are to be; 0: not known */
#include "i8086.h"

#define THIS_PAGE 0x10u
#define ANY_PAGE  0x08u
#define MOV_SP    0xBCu
#define MOV_DX    0xBAu

/* A letter that SP points to, and where the reading goes on behind it. */
static void write_stub(rom_code *c, unsigned label, char letter, unsigned next, unsigned again)
{
    rom_set(c, label);
    rom_byte(c, (uint8_t)letter);
    absolute(c, MOV_SP, rom_of(c, next));
    branch(c, JMP, again);
}

static void write_line(writer *w, unsigned label, unsigned fetch)
{
    rom_code *c = w->c;
    const unsigned digits = w->wide ? 4 : 2;

    rom_set(c, label);
    head(w);
    for (unsigned i = 0; i < 5; i++)
        of(c, w->address[i]);
    of(c, w->space);
    for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES; i += digits / 2u) {
        of(c, fetch);
        for (unsigned d = 0; d < digits; d++)
            of(c, w->wrote[d]);
    }
    check_and_end(w);
    of(c, w->leave);
}

/* The sums of the page at DS:SI, which stays, and whether they are those at DI. */
static void write_sums(writer *w, unsigned differs, unsigned same)
{
    rom_code *c = w->c;
    unsigned loop;

    ROM(c, 0x31, 0xDB, 0x31, 0xD2, 0xB9, 0x00, 0x01); /* bx, dx = 0; cx = 256 */
    loop = rom_mark(c);
    if (w->wide)
        ROM(c, 0xAD, 0x01, 0xC3, 0x01, 0xDA); /* lodsw; add bx,ax; add dx,bx */
    else
        ROM(c, 0xAC, 0x00, 0xC3, 0x00, 0xDA);
    branch(c, 0xE2, loop);
    ROM(c, 0x81, 0xEE); /* sub si */
    rom_word(c, w->wide ? 512u : 256u);
    ROM(c, 0x2E, w->wide ? 0x3B : 0x3A, 0x1D); /* cmp bx,cs:[di] */
    branch(c, JNZ, differs);
    ROM(c, 0x2E, w->wide ? 0x3B : 0x3A, 0x55, w->wide ? 2 : 1); /* cmp dx,cs:[di+2] */
    branch(c, JZ, same);
}

/* Before the first piece; and behind the last one, for the line that ends a step. */
static void write_ends(writer *w)
{
    rom_code *c = w->c;

    rom_set(c, w->pages_begin);
    ROM(c, 0x8C, 0xC0, 0x24, 0xE0, 0x8E, 0xC0, 0xC3);
    rom_set(c, w->pages_end);
    ROM(c, 0x31, 0xFF, 0x8C, 0xC0, 0xA8, ANY_PAGE, JZ, 6);
    ROM(c, 0x24, 0xE0, 0x0C, (uint8_t)(c->plan->lines - 1u), JMP, 4);
    ROM(c, 0x24, 0xE0, 0x0C, c->plan->lines, 0x8E, 0xC0, 0xC3);
}

unsigned rmg_testrom_8086_pages(writer *w)
{
    rom_code *c = w->c;
    const uint32_t bytes = w->wide ? 512u : 256u;
    const unsigned first = rom_label(c), second = rom_label(c), third = rom_label(c),
                   contents = rom_label(c), differs = rom_label(c), same = rom_label(c),
                   known = rom_label(c), send = rom_label(c), next = rom_label(c),
                   over = rom_label(c), more = rom_label(c), again = rom_label(c),
                   line = rom_label(c), fetch = rom_label(c), label = rom_mark(c);
    unsigned page;

    ROM(c, 0x1F, 0x5E, 0x5A, 0x5F, 0x58, 0x89, 0xE5); /* ds; si; end; table; letters; mov bp,sp */
    page = rom_mark(c);
    ROM(c, 0x09, 0xFF); /* or di,di */
    branch(c, JZ, send);
    absolute(c, MOV_SP, rom_of(c, first));
    rom_set(c, again);
    write_sums(w, differs, same);
    rom_set(c, differs);
    ROM(c, 0x8E, 0xDA, 0x8C, 0xC0, 0x0C, THIS_PAGE | ANY_PAGE, 0x08, 0xE4); /* mov ds,dx; ... */
    branch(c, JNZ, known);
    ROM(c, 0x8A, 0x66, AT_BANK, 0x80, 0xC4, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'));
    rom_set(c, known);
    ROM(c, 0x8E, 0xC0, 0x89, 0xE2); /* mov es,ax; mov dx,sp */
    absolute(c, MOV_SP, rom_of(c, w->told));
    rom_byte(c, 0xC3);
    rom_set(c, same);
    ROM(c, 0x89, 0xE0, 0x40, 0xFF, 0xE0); /* mov ax,sp; inc ax; jmp ax */

    write_stub(c, first, 'a', second, again);
    write_stub(c, second, 'b', third, again);
    rom_set(c, third);
    ROM(c, 'c', 0x8C, 0xC0, 0xA8, THIS_PAGE);
    branch(c, JZ, next);
    ROM(c, 0x24, 0xFFu - THIS_PAGE, 0x8E, 0xC0);
    rom_set(c, send);
    absolute(c, MOV_DX, rom_of(c, contents));
    absolute(c, MOV_SP, rom_of(c, line));
    rom_byte(c, 0xC3);
    rom_set(c, contents);
    ROM(c, '=', 0xF7, 0xC6); /* test si */
    rom_word(c, bytes - 1u);
    branch(c, JNZ, send);
    branch(c, JMP, over);
    rom_set(c, next);
    ROM(c, 0x81, 0xC6); /* add si */
    rom_word(c, bytes);
    rom_set(c, over);
    ROM(c, 0x09, 0xFF);
    branch(c, JZ, more);
    ROM(c, 0x83, 0xC7, w->wide ? 4 : 2); /* add di */
    rom_set(c, more);
    ROM(c, 0x3B, 0x76, AT_END, JZ, 3); /* cmp si,[end] */
    jump(c, page);
    ROM(c, 0x89, 0xEC, 0xC3);
    rom_set(c, fetch);
    if (w->wide)
        ROM(c, 0x8B, 0x1C, 0x46, 0x46, 0xC3); /* mov bx,[si]; inc si twice */
    else
        ROM(c, 0x8A, 0x1C, 0x46, 0xC3);
    write_ends(w);
    write_line(w, line, fetch);
    return label;
}

void rmg_testrom_8086_rom(writer *w, unsigned routine, const rmg_testrom_step *step, unsigned sums)
{
    rom_code *c = w->c;
    const unsigned shift = c->plan->byte_shift, of_page = w->wide ? 4 : 2;
    const uint32_t first = (uint32_t)step->range.first << shift,
                   end = (uint32_t)(step->range.last + 1u) << shift;

    of(c, w->pages_begin);
    for (uint32_t from = first; from < end;) {
        const uint32_t next = (from | 0xFFFFu) + 1u, to = next < end ? next : end;

        of(c, routine);
        rom_word(c, from >> 16 << 12);
        rom_word(c, from & 0xFFFFu);
        rom_word(c, to & 0xFFFFu);
        rom_word(c, c->plan->roms[step->bank].known
                        ? rom_of(c, sums) + ((from - first) >> shift >> 8) * of_page
                        : 0);
        rom_byte(c, (uint8_t)rmg_testrom_kind_letter(step->kind));
        rom_byte(c, (uint8_t)rmg_testrom_bank_letter(step->bank));
        from = to;
    }
    of(c, w->pages_end);
    of(c, w->done);
    rom_byte(c, (uint8_t)rmg_testrom_kind_letter(step->kind));
    rom_byte(c, (uint8_t)rmg_testrom_bank_letter(step->bank));
}
