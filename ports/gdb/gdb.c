/* The near end of a debug link: packets, checksums, acknowledgements; and memory through them.
 *
 * What far ends do differently: some answer errors until they were asked for their state and a
 * thread was chosen; some send stop replies unasked; some answer a packet that is too long by
 * silence. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "internal.h"

#define LEAST 64u /* bytes of a packet that every far end takes */
#define PINGS 8u

double rmg_gdb_now_s(void)
{
    struct timespec t;

    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

rmg_status rmg_gdb_lost(rmg_gdb *g, rmg_status status, const char *why)
{
    snprintf(g->why, sizeof g->why, "%s", why);
    return status;
}

/* One byte from the far end, before `deadline`. */
static rmg_status get_byte(rmg_gdb *g, double deadline, unsigned char *byte)
{
    while (g->in_next == g->in_count) {
        const double left = deadline - rmg_gdb_now_s();
        rmg_status status;

        if (left <= 0)
            return rmg_gdb_lost(g, RMG_ERR_PORT_LOST,
                                g->heard ? "the far end sends, but no answer to what was asked"
                                         : "the far end does not answer");
        g->in_next = g->in_count = 0;
        status = rmg_stream_read(g->stream, g->in, sizeof g->in, (uint32_t)(left * 1000) + 1u,
                                 &g->in_count);
        if (status != RMG_OK)
            return rmg_gdb_lost(g, status, rmg_stream_why(g->stream));
        if (!g->in_count && rmg_stream_ended(g->stream))
            return rmg_gdb_lost(g, RMG_ERR_PORT_LOST, "the far end closed the link");
        g->heard |= g->in_count > 0;
        if (!g->in_count && rmg_gdb_now_s() < deadline - 0.01) /* a signal */
            return RMG_ERR_CANCELLED;
    }
    *byte = g->in[g->in_next++];
    return RMG_OK;
}

rmg_status rmg_gdb_send(rmg_gdb *g, const void *bytes, size_t count)
{
    size_t sent = 0;
    const rmg_status status = rmg_stream_write(g->stream, bytes, count, GDB_WAIT_MS, &sent);

    if (status == RMG_ERR_PORT_LOST || status == RMG_ERR_PORT_CANNOT)
        return rmg_gdb_lost(g, RMG_ERR_PORT_LOST, rmg_stream_why(g->stream));
    return status;
}

int rmg_gdb_digit(char c)
{
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                  : -1;
}

/* Adds a byte of an answer; runs ("0*x": 0 and so many more) are written out. */
static bool add(rmg_gdb *g, unsigned char byte, bool *run)
{
    if (*run) {
        size_t more = byte >= 29 ? byte - 29u : 0;

        *run = false;
        if (!g->answer_size || g->answer_size + more > GDB_MOST)
            return false;
        memset(g->answer + g->answer_size, g->answer[g->answer_size - 1u], more);
        g->answer_size += more;
        return true;
    }
    if (byte == '*') {
        *run = true;
        return true;
    }
    if (g->answer_size == GDB_MOST)
        return false;
    g->answer[g->answer_size++] = (char)byte;
    return true;
}

/* The rest of a packet after its '$'. RMG_ERR_CONTENT: its checksum is wrong. */
static rmg_status get_body(rmg_gdb *g, double deadline)
{
    unsigned char byte = 0, sum = 0, check[2];
    bool run = false, escape = false, fits = true;
    rmg_status status = RMG_OK;

    g->answer_size = 0;
    while ((status = get_byte(g, deadline, &byte)) == RMG_OK && byte != '#') {
        sum = (unsigned char)(sum + byte);
        if (escape)
            fits &= add(g, byte ^ 0x20u, &run);
        else if (byte != '}')
            fits &= add(g, byte, &run);
        escape = !escape && byte == '}';
    }
    for (size_t i = 0; i < 2 && status == RMG_OK; i++)
        status = get_byte(g, deadline, &check[i]);
    g->answer[g->answer_size] = '\0';
    if (status != RMG_OK)
        return status;
    return fits && rmg_gdb_digit((char)check[0]) * 16 + rmg_gdb_digit((char)check[1]) == sum
               ? RMG_OK
               : RMG_ERR_CONTENT;
}

/* Is it something that a far end says unasked: it stopped, or prints? */
static bool is_unasked(const char *answer)
{
    return *answer == 'T' || *answer == 'S' || *answer == 'W' || *answer == 'N' ||
           (*answer == 'O' && strcmp(answer, "OK") != 0);
}

rmg_status rmg_gdb_get_packet(rmg_gdb *g, double deadline)
{
    unsigned char byte;
    rmg_status status;

    for (unsigned tries = 0; tries < GDB_TRIES;) {
        while ((status = get_byte(g, deadline, &byte)) == RMG_OK && byte != '$')
            if (byte == '-')
                return RMG_ERR_CONTENT; /* our packet arrived damaged */
        if (status == RMG_OK)
            status = get_body(g, deadline);
        if (status == RMG_ERR_CONTENT && g->acks) {
            tries++;
            status = rmg_gdb_send(g, "-", 1);
            if (status == RMG_OK)
                continue;
        }
        if (status == RMG_OK && g->acks)
            status = rmg_gdb_send(g, "+", 1);
        return status;
    }
    return rmg_gdb_lost(g, RMG_ERR_PORT_LOST, "answers arrive damaged");
}

rmg_status rmg_gdb_send_packet(rmg_gdb *g, const char *body)
{
    char packet[GDB_MOST + 8u];
    const size_t size = strlen(body);
    unsigned char sum = 0;

    for (size_t i = 0; i < size; i++)
        sum = (unsigned char)(sum + (unsigned char)body[i]);
    snprintf(packet, sizeof packet, "$%s#%02x", body, sum);
    g->heard = false;
    return rmg_gdb_send(g, packet, size + 4u);
}

rmg_status rmg_gdb_ask(rmg_gdb *g, const char *body, bool state)
{
    rmg_status status = RMG_ERR_CONTENT;

    for (unsigned tries = 0; tries < GDB_TRIES && status == RMG_ERR_CONTENT; tries++) {
        const double deadline = rmg_gdb_now_s() + GDB_WAIT_MS / 1000.0;

        status = rmg_gdb_send_packet(g, body);
        if (status == RMG_OK)
            do
                status = rmg_gdb_get_packet(g, deadline);
            while (status == RMG_OK && !state && is_unasked(g->answer));
    }
    return status == RMG_ERR_CONTENT ? rmg_gdb_lost(g, RMG_ERR_PORT_LOST, "packets arrive damaged")
                                     : status;
}

bool rmg_gdb_is_error(const char *answer)
{
    return answer[0] == 'E' && (answer[1] == '.' || strlen(answer) == 3);
}

static uint64_t byte_address(const rmg_gdb *g, rmg_addr address)
{
    return (uint64_t)address << g->words.byte_shift;
}

static rmg_status refused(rmg_gdb *g, const char *what, uint64_t address)
{
    for (char *c = g->answer; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    snprintf(g->why, sizeof g->why, "the far end answers \"%.40s\" to %s 0x%llX", g->answer, what,
             (unsigned long long)address);
    return RMG_ERR_PORT;
}

/* Reads so many bytes into `bytes`. */
static rmg_status read_bytes(rmg_gdb *g, uint64_t address, size_t count, unsigned char *bytes)
{
    char body[48];
    rmg_status status;

    snprintf(body, sizeof body, "m%llx,%zx", (unsigned long long)address, count);
    status = rmg_gdb_ask(g, body, false);
    if (status != RMG_OK)
        return status;
    if (rmg_gdb_is_error(g->answer) || g->answer_size != 2 * count)
        return refused(g, "a read at", address);
    for (size_t i = 0; i < count; i++) {
        const int high = rmg_gdb_digit(g->answer[2 * i]),
                  low = rmg_gdb_digit(g->answer[2 * i + 1u]);

        if (high < 0 || low < 0)
            return refused(g, "a read at", address);
        bytes[i] = (unsigned char)(high * 16 + low);
    }
    return RMG_OK;
}

static rmg_word to_word(const rmg_gdb *g, const unsigned char *bytes)
{
    rmg_word value = 0;

    for (size_t i = 0; i < g->bytes; i++)
        value |= (rmg_word)bytes[g->words.high_first ? g->bytes - 1u - i : i] << (8 * i);
    return value;
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    rmg_gdb *g = context;
    unsigned char bytes[8];
    const rmg_status status = read_bytes(g, byte_address(g, address), g->bytes, bytes);

    if (status == RMG_OK)
        *value = to_word(g, bytes);
    return status;
}

/* Writes words, as many as a packet takes; the bytes of them in hex follow the head. */
static rmg_status write_words(rmg_gdb *g, rmg_addr first, size_t count, const rmg_word *values)
{
    const uint64_t address = byte_address(g, first);
    char body[GDB_MOST];
    size_t at = (size_t)snprintf(body, sizeof body, "M%llx,%zx:", (unsigned long long)address,
                                 count * g->bytes);
    rmg_status status;

    for (size_t n = 0; n < count; n++)
        for (size_t i = 0; i < g->bytes; i++) {
            const size_t byte = g->words.high_first ? g->bytes - 1u - i : i;

            at += (size_t)snprintf(body + at, sizeof body - at, "%02x",
                                   (unsigned)(values[n] >> (8 * byte) & 255u));
        }
    status = rmg_gdb_ask(g, body, false);
    if (status != RMG_OK)
        return status;
    return strcmp(g->answer, "OK") == 0 ? RMG_OK : refused(g, "a write at", address);
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    return write_words(context, address, 1, &value);
}

/* Words that go into one packet, with its frame and its head. */
static size_t words_a_packet(const rmg_gdb *g)
{
    const size_t words = (g->packet - 40u) / (2 * g->bytes);

    return words ? words : 1;
}

static rmg_status read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    rmg_gdb *g = context;
    unsigned char bytes[GDB_MOST / 2u];
    rmg_status status = RMG_OK;

    for (rmg_addr done = 0; done < count && status == RMG_OK;) {
        const size_t left = (size_t)(count - done), most = words_a_packet(g);
        const size_t words = left < most ? left : most;

        status = read_bytes(g, byte_address(g, first + done), words * g->bytes, bytes);
        for (size_t i = 0; i < words && status == RMG_OK; i++)
            values[done + i] = to_word(g, bytes + i * g->bytes);
        done += words;
    }
    return status;
}

static rmg_status write_block(void *context, rmg_addr first, rmg_addr count, const rmg_word *values)
{
    rmg_gdb *g = context;
    rmg_status status = RMG_OK;

    for (rmg_addr done = 0; done < count && status == RMG_OK;) {
        const size_t left = (size_t)(count - done), most = words_a_packet(g);
        const size_t words = left < most ? left : most;

        status = write_words(g, first + done, words, values + done);
        done += words;
    }
    return status;
}

const rmg_bus rmg_gdb_bus = {.version = RMG_BUS_VERSION,
                             .read = read_word,
                             .write = write_word,
                             .read_block = read_block,
                             .write_block = write_block};

static rmg_status by_blocks(void *context, rmg_element_call *call)
{
    return rmg_element_by_blocks(&rmg_gdb_bus, context, call);
}

const rmg_bus rmg_gdb_blocks_bus = {.version = RMG_BUS_VERSION,
                                    .read = read_word,
                                    .write = write_word,
                                    .read_block = read_block,
                                    .write_block = write_block,
                                    .run_element = by_blocks};

/* What the far end can do, and how fast it answers. */
static rmg_status greet(rmg_gdb *g)
{
    const char *size;
    double start;
    rmg_status status = rmg_gdb_ask(g, "qSupported", false);

    if (status != RMG_OK)
        return status;
    size = strstr(g->answer, "PacketSize=");
    if (size) {
        g->packet = (size_t)strtoul(size + strlen("PacketSize="), NULL, 16);
        g->packet = g->packet < LEAST ? LEAST : g->packet > GDB_MOST ? GDB_MOST : g->packet;
    }
    status = rmg_gdb_ask(g, "QStartNoAckMode", false);
    if (status == RMG_OK && strcmp(g->answer, "OK") == 0)
        g->acks = false;
    if (status == RMG_OK)
        status = rmg_gdb_ask(g, "?", true); /* some answer nothing else before */
    if (status == RMG_OK)
        status = rmg_gdb_ask(g, "Hg0", false);
    start = rmg_gdb_now_s();
    for (unsigned i = 0; i < PINGS && status == RMG_OK; i++)
        status = rmg_gdb_ask(g, "qC", false);
    g->speed = PINGS / (rmg_gdb_now_s() - start + 1e-6);
    return status;
}

rmg_status rmg_gdb_open(rmg_stream *stream, const rmg_gdb_words *words, rmg_gdb **gdb, char *why)
{
    rmg_gdb *g = calloc(1, sizeof *g);
    rmg_status status = RMG_ERR_MEMORY;

    *gdb = NULL;
    *why = '\0';
    if (g) {
        g->stream = stream;
        g->words = *words;
        g->bytes = (words->bits + 7u) / 8u;
        g->packet = 400;
        g->acks = true;
        status = greet(g);
    }
    if (status == RMG_OK) {
        *gdb = g;
        return RMG_OK;
    }
    if (g)
        snprintf(why, RMG_STREAM_WHY, "%s", g->why);
    free(g);
    rmg_stream_close(stream);
    return status;
}

void rmg_gdb_close(rmg_gdb *g)
{
    if (!g)
        return;
    rmg_stream_close(g->stream);
    free(g);
}

double rmg_gdb_speed(const rmg_gdb *g)
{
    return g->speed;
}

const char *rmg_gdb_why(const rmg_gdb *g)
{
    return g->why;
}
