#include "code.h"
void rmg_rom_write_6502(rom_code *c) { c->why = "not yet"; }
