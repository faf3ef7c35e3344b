/* Any speed of a serial line. The kernel's own structure, which the C library's header excludes. */
#include "internal.h"

#include <asm/termbits.h>
#include <sys/ioctl.h>

bool rmg_serial_speed(int fd, uint32_t baud, uint32_t *set)
{
    struct termios2 line;

    if (ioctl(fd, TCGETS2, &line) != 0)
        return false;
    line.c_cflag &= ~(tcflag_t)(CBAUD | CIBAUD);
    line.c_cflag |= BOTHER | BOTHER << IBSHIFT;
    line.c_ispeed = line.c_ospeed = baud;
    if (ioctl(fd, TCSETS2, &line) != 0 || ioctl(fd, TCGETS2, &line) != 0)
        return false;
    *set = line.c_ospeed;
    return true;
}
