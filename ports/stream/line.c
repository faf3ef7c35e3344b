/* The settings of a serial line: raw bytes, any speed. By the kernel's own structure, which the C
 * library's header excludes: the library knows the usual speeds only, and refuses frames that a
 * pseudo terminal, which has no bits on a wire, takes as they come. */
#include "internal.h"

#include <asm/termbits.h>
#include <sys/ioctl.h>

/* The usual speeds have codes of their own, which other programs expect to find. */
static tcflag_t code_of(uint32_t baud)
{
    static const struct {
        uint32_t baud;
        tcflag_t code;
    } usual[] = {{50, B50},         {75, B75},         {110, B110},       {134, B134},
                 {150, B150},       {200, B200},       {300, B300},       {600, B600},
                 {1200, B1200},     {1800, B1800},     {2400, B2400},     {4800, B4800},
                 {9600, B9600},     {19200, B19200},   {38400, B38400},   {57600, B57600},
                 {115200, B115200}, {230400, B230400}, {460800, B460800}, {921600, B921600}};

    for (size_t i = 0; i < sizeof usual / sizeof *usual; i++)
        if (usual[i].baud == baud)
            return usual[i].code;
    return BOTHER;
}

bool rmg_serial_set(int fd, uint32_t baud, rmg_frame frame, stream_flow flow, uint32_t *set)
{
    struct termios2 line;

    if (ioctl(fd, TCGETS2, &line) != 0)
        return false;
    line.c_iflag &= ~(tcflag_t)(IGNBRK | BRKINT | PARMRK | ISTRIP | INLCR | IGNCR | ICRNL | IXON |
                                IXOFF | IXANY | INPCK);
    line.c_oflag &= ~(tcflag_t)OPOST;
    line.c_lflag &= ~(tcflag_t)(ECHO | ECHONL | ICANON | ISIG | IEXTEN);
    line.c_cflag &=
        ~(tcflag_t)(CSIZE | PARENB | PARODD | CSTOPB | CRTSCTS | CBAUD | CBAUD << IBSHIFT);
    line.c_cflag |= CREAD | CLOCAL | (frame.data_bits == 7 ? CS7 : CS8);
    if (frame.parity != 'N')
        line.c_cflag |= frame.parity == 'O' ? PARENB | PARODD : PARENB;
    if (frame.stop_bits == 2)
        line.c_cflag |= CSTOPB;
    if (flow == FLOW_XON_XOFF)
        line.c_iflag |= IXON | IXOFF;
    if (flow == FLOW_RTS_CTS)
        line.c_cflag |= CRTSCTS;
    line.c_cflag |= code_of(baud) | code_of(baud) << IBSHIFT;
    line.c_ispeed = line.c_ospeed = baud;
    line.c_cc[VMIN] = 1;
    line.c_cc[VTIME] = 0;
    if (ioctl(fd, TCSETS2, &line) != 0 || ioctl(fd, TCGETS2, &line) != 0)
        return false;
    *set = line.c_ospeed;
    return true;
}
