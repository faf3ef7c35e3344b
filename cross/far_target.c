/* A far end of the link on the target itself, its serial port two registers: what scripts/sizes
 * measures of the far half. */
#include "memory_port.h"
#include "rimeglass/far_end.h"

static char request[128], answer[160];
static rmg_far_found found[8];
static rmg_far_end far;
static volatile char in, out;

int main(void)
{
    static const rmg_target target = {&memory_bus, NULL, 0xFF};
    static const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 8};

    if (rmg_far_begin(&far, &target, 0x7FF, "target", &room) != RMG_OK)
        return 1;
    for (;;) {
        const char *text = rmg_far_take(&far, in);

        while (text && *text)
            out = *text++;
    }
}
