/* The texts of stage one: what a processor that keeps its data in memory tells before it knows of
 * memory that works. */
#include "code.h"

#include <string.h>

static void put_text(rom_code *c, const char *text)
{
    rmg_testrom_put(c, (const uint8_t *)text, strlen(text));
}

void rmg_testrom_stage_text(rom_code *c, rom_text which)
{
    const rmg_testrom_line start = {.says = RMG_TESTROM_SAYS_START};
    const bool one = which == ROM_TEXT_ONES;
    char line[RMG_TESTROM_LINE], begins[] = "0FXa ---- 00 ";

    if (which == ROM_TEXT_SHARED && !rmg_testrom_code_shared(c->plan))
        return;
    if (which == ROM_TEXT_START) {
        put_text(c, rmg_testrom_line_text(c->plan, &start, line));
        put_text(c, "\r\n");
        rom_byte(c, TEXT_GO_ON);
        return;
    }
    begins[1] = which == ROM_TEXT_BITS || which == ROM_TEXT_SHARED ? 'D' : 'F';
    begins[2] = rmg_testrom_bank_letter(c->plan->home_bank);
    begins[3] = one ? 'b' : 'a';
    begins[10] = begins[11] = one ? 'F' : '0';
    put_text(c, begins);
    rom_byte(c, TEXT_HIGH);
    rom_byte(c, TEXT_LOW);
    put_text(c, " --\r\n0E ");
    rom_byte(c, (uint8_t) "0123456789ABCDEF"[2u * (which == ROM_TEXT_SHARED
                                                       ? rmg_testrom_code_shared(c->plan)
                                                       : c->plan->home_bank + 1u)]);
    rom_byte(c, begins[1] == 'D' ? TEXT_COUNT_DATA : one ? TEXT_COUNT_ZEROS : TEXT_COUNT);
    rom_byte(c, TEXT_DIGIT);
    put_text(c, " --\r\n");
    rom_byte(c, which == ROM_TEXT_SHARED ? TEXT_DEAD_SHARED : TEXT_DEAD);
}
