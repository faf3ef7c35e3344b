/* The 68000 reads a ROM page by page.
 *
 *   A0 address   A1 what its sums are to be, or the ROM's first byte: that is not known
 *   D1 sum of the words   D7 sum of that   D2 end   D3 did this page (bit 0), any (bit 1), differ?
 */
#include "m68000.h"

/* A letter that A2 points to, and where the reading goes on behind it. */
static void write_stub(rom_code *c, unsigned label, char letter, unsigned next, unsigned again)
{
    rom_set(c, label);
    rom_word(c, (uint32_t)(uint8_t)letter << 8);
    far_to(c, LEA_A2, next);
    far_to(c, BRA, again);
}

static void tell(rom_code *c, unsigned line)
{
    rom_word(c, 0x264C); /* movea.l a4,a3 */
    far_to(c, LEA_A4, line);
    rom_word(c, NEXT);
}

static void write_line(writer *w, unsigned label, unsigned fetch)
{
    rom_code *c = w->c;

    rom_set(c, label);
    head(w);
    all_of(w, w->address, 6);
    of(c, w->space);
    for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES / 2u; i++) {
        of(c, fetch);
        all_of(w, w->wrote, 4);
    }
    check_and_end(w);
    of(c, w->leave);
}

unsigned rmg_testrom_68000_pages(writer *w)
{
    rom_code *c = w->c;
    const unsigned first = rom_label(c), second = rom_label(c), third = rom_label(c),
                   contents = rom_label(c), differs = rom_label(c), known = rom_label(c),
                   send = rom_label(c), next = rom_label(c), over = rom_label(c),
                   same = rom_label(c), again = rom_label(c), line = rom_label(c),
                   fetch = rom_label(c), label = rom_mark(c);
    unsigned page;

    W(c, 0x205C, 0x241C, 0x301C, 0x548C, 0x43F6, 0,
      0x7600); /* ...; lea 0(a6,d0.w),a1; moveq #0,d3 */
    page = rom_mark(c);
    rom_word(c, 0xB3CE); /* cmpa.l a6,a1 */
    near_to(c, BEQ_S, send);
    far_to(c, LEA_A2, first);
    rom_set(c, again);
    W(c, 0x7200, 0x7E00, 0x3C3C, 255);
    W(c, 0xD258, 0xDE41, 0x51CE, 0xFFFA); /* add.w (a0)+,d1; add.w d1,d7; dbra d6 */
    W(c, 0x41E8, (uint16_t)-512, 0xB251); /* lea; cmp.w (a1),d1 */
    near_to(c, BNE_S, differs);
    W(c, 0xBE69, 2); /* cmp.w 2(a1),d7 */
    near_to(c, BEQ_S, same);
    rom_set(c, differs);
    W(c, 0x0043, 3, 0x300F); /* ori.w #3,d3; move.w a7,d0 */
    near_to(c, BNE_S, known);
    W(c, 0x102C, 0xFFFF, 0x0600, (uint8_t)(RMG_TESTROM_CODE_ROM(0u) - 'A'), 0x3E40);
    rom_set(c, known);
    tell(c, w->told);
    rom_set(c, same);
    W(c, 0x4EEA, 2); /* jmp 2(a2) */

    write_stub(c, first, 'a', second, again);
    write_stub(c, second, 'b', third, again);
    rom_set(c, third);
    W(c, 'c' << 8, 0x0883, 0); /* bclr #0,d3 */
    near_to(c, BEQ_S, next);
    rom_set(c, send);
    far_to(c, LEA_A2, contents);
    tell(c, line);
    rom_set(c, contents);
    W(c, '=' << 8, 0x3008, 0x0240, 0x01FF); /* move.w a0,d0; andi.w */
    near_to(c, BNE_S, send);
    near_to(c, BRA_S, over);
    rom_set(c, next);
    W(c, 0x41E8, 512);
    rom_set(c, over);
    W(c, 0xB3CE, 0x6702, 0x5889, 0xB1C2); /* beq over addq.l #4,a1; cmpa.l d2,a0 */
    far_to(c, BNE, page);
    W(c, 0x183C, c->plan->lines, 0x0803, 1, 0x6702, 0x5304, 0x7600, NEXT);
    rom_set(c, fetch);
    W(c, 0x3218, NEXT);
    write_line(w, line, fetch);
    return label;
}

void rmg_testrom_68000_rom(writer *w, unsigned routine, const rmg_testrom_step *step, unsigned sums)
{
    rom_code *c = w->c;

    of(c, routine);
    rom_long(c, (uint32_t)step->range.first << 1);
    rom_long(c, (uint32_t)(step->range.last + 1u) << 1);
    rom_word(c, c->plan->roms[step->bank].known ? (rom_of(c, sums) - c->org) & 0xFFFFu : 0);
    letters(w, step->kind, step->bank);
    of(c, w->done);
    letters(w, step->kind, step->bank);
}
