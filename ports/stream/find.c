/* What text looks like, and the speed at which it does. */
#include "internal.h"

#define ENOUGH_BYTES 16u
#define MOST_BYTES   256u

/* The likeliest first. */
static const uint32_t usual[] = {9600, 19200, 38400, 115200, 57600, 4800, 2400, 1200, 600, 300};

static bool is_text(unsigned char byte)
{
    return (byte >= 0x20 && byte < 0x7F) || (byte >= 0x07 && byte <= 0x0D) || byte == 0x1B;
}

double rmg_text_share(const unsigned char *bytes, size_t count)
{
    size_t text = 0;

    for (size_t i = 0; i < count; i++)
        text += is_text(bytes[i]);
    return count ? (double)text / (double)count : 0;
}

double rmg_text_share_parity(const unsigned char *bytes, size_t count, char *parity)
{
    size_t text = 0, odd = 0, high = 0;

    for (size_t i = 0; i < count; i++) {
        text += is_text(bytes[i] & 0x7Fu);
        odd += (size_t)__builtin_parity(bytes[i]);
        high += bytes[i] >> 7;
    }
    *parity = !count || !high           ? 'N'
              : odd * 10u <= count      ? 'E'
              : odd * 10u >= count * 9u ? 'O'
                                        : 'N';
    return count ? (double)text / (double)count : 0;
}

/* Bytes that arrive within the time, at most MOST_BYTES. */
static rmg_status listen_for(rmg_stream *s, uint32_t baud, uint32_t wait_ms,
                             bool (*go_on)(void *context, uint32_t baud), void *context,
                             unsigned char *bytes, size_t *count)
{
    const int64_t end = rmg_stream_now_ms() + wait_ms;

    for (*count = 0; *count < MOST_BYTES && rmg_stream_now_ms() < end;) {
        size_t got;
        rmg_status status;

        if (go_on && !go_on(context, baud))
            return RMG_ERR_CANCELLED;
        status = rmg_stream_read(s, bytes + *count, MOST_BYTES - *count, 50, &got);
        if (status != RMG_OK)
            return status;
        *count += got;
    }
    return RMG_OK;
}

rmg_status rmg_stream_find_speed(rmg_stream *s, uint32_t wait_ms,
                                 bool (*go_on)(void *context, uint32_t baud), void *context,
                                 uint64_t *heard)
{
    unsigned char bytes[MOST_BYTES];
    uint32_t before;
    rmg_frame frame;

    *heard = 0;
    if (rmg_stream_get_line(s, &before, &frame) != RMG_OK)
        return RMG_ERR_PORT_CANNOT;
    for (size_t i = 0; i < sizeof usual / sizeof *usual; i++) {
        size_t count;
        rmg_status status;
        char parity;

        if (rmg_stream_set_line(s, usual[i], frame) != RMG_OK)
            continue;
        status = listen_for(s, usual[i], wait_ms, go_on, context, bytes, &count);
        *heard += count;
        if (status != RMG_OK)
            return status;
        if (count < ENOUGH_BYTES)
            continue;
        if (rmg_text_share(bytes, count) >= 0.9)
            return RMG_OK;
        if (frame.parity == 'N' && frame.data_bits == 8 &&
            rmg_text_share_parity(bytes, count, &parity) >= 0.9 && parity != 'N')
            return rmg_stream_set_line(s, usual[i], (rmg_frame){7, parity, 1});
    }
    rmg_stream_set_line(s, before, frame);
    return RMG_ERR_RANGE;
}
