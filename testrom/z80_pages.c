/* The Z80 reads a ROM page by page. In this step L' counts pages, and E' keeps whether this page
 * (bit 0) or any (bit 1) differed; IX goes from one reading to the next.
 *
 *   HL address   B, C sums of the words, and of the sums   DE what they are to be; D 0: not known
 */
#include "z80.h"

#define THIS_PAGE 1u
#define ANY_PAGE  2u

/* The scripts of both lines; `fetch` takes the next byte to be told. */
static void write_lines(writer *w, unsigned data_line, unsigned fetch)
{
    rom_code *c = w->c;
    const routines *r = &w->r;
    const unsigned head[] = {r->no_check,   r->pass,       r->step,       r->bank,
                             r->letter,     r->space,      r->address[0], r->address[1],
                             r->address[2], r->address[3], r->space};

    rom_set(c, data_line);
    all_of(c, head, sizeof head / sizeof *head);
    for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES; i++) {
        of(c, fetch);
        all_of(c, r->wrote, 2);
    }
    check_and_end(w);
    of(c, r->leave);
}

/* The script's place into IY, and the one of a line. */
static void tell(writer *w, unsigned line)
{
    ROM(w->c, 0xFD, 0x21, 0, 0, 0xFD, 0x39); /* ld iy,0; add iy,sp */
    jump_to(w->c, LD_SP, line);
    rom_byte(w->c, 0xC9);
}

/* A letter that IX points to, and where the reading goes on behind it. */
static unsigned write_stub(rom_code *c, char letter, unsigned next, unsigned again)
{
    const unsigned label = rom_mark(c);

    ROM(c, (uint8_t)letter, 0xDD); /* ld ix,next */
    jump_to(c, LD_HL, next);
    branch_to(c, JR, again);
    return label;
}

unsigned rmg_testrom_z80_pages(writer *w)
{
    rom_code *c = w->c;
    const unsigned first = rom_label(c), second = rom_label(c), third = rom_label(c),
                   contents = rom_label(c), differs = rom_label(c), known = rom_label(c),
                   send = rom_label(c), next = rom_label(c), again = rom_label(c),
                   data_line = rom_label(c), fetch = rom_label(c), label = rom_mark(c);
    unsigned page, loop;

    ROM(c, 0xE1, 0xD1, 0xC1, 0x79, 0xD9, 0x6F, 0x1E, 0, 0xD9, 0xFD, 0xE1);
    page = rom_mark(c);
    ROM(c, 0x7A, 0xB7); /* ld a,d; or a */
    branch_to(c, JR_Z, send);
    rom_byte(c, 0xDD);
    jump_to(c, LD_HL, first); /* ld ix */
    rom_set(c, again);
    ROM(c, 0x01, 0, 0);
    loop = rom_mark(c);
    ROM(c, 0x7E, 0x80, 0x47, 0x81, 0x4F, 0x2C); /* ld a,(hl); add b; to b; add c; to c; inc l */
    branch_to(c, JR_NZ, loop);
    ROM(c, 0x1A, 0xB8); /* ld a,(de); cp b */
    branch_to(c, JR_NZ, differs);
    ROM(c, 0x13, 0x1A, 0x1B, 0xB9); /* inc de; ld a,(de); dec de; cp c */
    jump_to(c, JP_Z, w->r.resume);
    rom_set(c, differs);
    ROM(c, 0x79, 0x08, 0xD9, 0x1E, THIS_PAGE | ANY_PAGE, 0xD9, 0xED, 0x57, 0xB7);
    branch_to(c, JR_NZ, known);
    ROM(c, 0xFD, 0x21, 0, 0, 0xFD, 0x39, 0xFD, 0x7E, 0xFF); /* the ROM's letter */
    ROM(c, 0xC6, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'), 0xED, 0x47);
    rom_set(c, known);
    tell(w, w->r.told);

    rom_set(c, first);
    write_stub(c, 'a', second, again);
    rom_set(c, second);
    write_stub(c, 'b', third, again);
    rom_set(c, third);
    ROM(c, 'c', 0xD9, 0xCB, 0x43, 0xCB, 0x83, 0xD9); /* bit 0,e; res 0,e */
    branch_to(c, JR_Z, next);
    rom_set(c, send);
    rom_byte(c, 0xDD);
    jump_to(c, LD_HL, contents);
    tell(w, data_line);
    rom_set(c, contents);
    ROM(c, '=', 0x7D, 0xB7); /* ld a,l; or a */
    branch_to(c, JR_NZ, send);
    rom_set(c, next);
    ROM(c, 0x24, 0x7A, 0xB7, JR_Z, 2, 0x13, 0x13, 0xD9, 0x2D,
        0xD9); /* inc h; inc de twice; dec l */
    jump_to(c, JP_NZ, page);
    ROM(c, 0xD9, 0x2E, c->plan->lines, 0xCB, 0x4B, 0x1E, 0, JR_Z, 1, 0x2D, 0xD9, 0xC9);
    rom_set(c, fetch);
    ROM(c, 0x7E, 0x47, 0x2C, 0xC9);
    write_lines(w, data_line, fetch);
    return label;
}

void rmg_testrom_z80_rom(writer *w, unsigned routine, const rmg_testrom_step *step, unsigned sums)
{
    rom_code *c = w->c;

    of(c, routine);
    operand(c, (uint32_t)step->range.first);
    operand(c, c->plan->roms[step->bank].known ? rom_of(c, sums) : 0);
    operand(c, (uint32_t)rom_pages(step) & 0xFFu);
    operand(c, letters(step->kind, step->bank));
    of(c, w->r.done);
    operand(c, letters(step->kind, step->bank));
}
