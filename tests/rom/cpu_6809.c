#include "cpu.h"
void cpu_6809(machine *m, uint64_t clocks) { (void)m; (void)clocks; }
