/* What all streams need: messages and a clock. */
#include "internal.h"

#include <stdarg.h>
#include <stdio.h>
#include <time.h>

void rmg_stream_say(char *why, const char *format, ...)
{
    va_list values;

    va_start(values, format);
    vsnprintf(why, RMG_STREAM_WHY, format, values);
    va_end(values);
}

int64_t rmg_stream_now_ms(void)
{
    struct timespec now;

    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}
