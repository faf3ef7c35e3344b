/* Two large files of bytes, counted where they differ: at the speed of memory, and in none of it.
 * Eight bytes are taken at once, and what is counted of them in eight lanes of one number. */
#include "rimeglass/verify.h"
#include "base/internal.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define WORDS    128u /* of eight bytes, in a block: a lane counts to 255 */
#define BLOCK    (8u * WORDS)
#define SPAN     ((size_t)256 << 10) /* bytes read at once: a multiple of a block */
#define IN_BLOCK 10u                 /* address lines within a block */
#define LANES    UINT64_C(0x0101010101010101)

typedef struct lanes {
    uint64_t wrong[8], to_one[8], bytes; /* by bit; by bytes that differ */
    uint8_t words[WORDS];                /* bytes that differ, by word of eight */
} lanes;

static uint64_t word_at(const uint8_t *at)
{
    uint64_t word;

    memcpy(&word, at, 8);
    return GUINT64_FROM_LE(word);
}

/* The sum of eight lanes. */
static uint64_t sum_of(uint64_t lane)
{
    const uint64_t pairs =
        (lane & UINT64_C(0x00FF00FF00FF00FF)) + (lane >> 8 & UINT64_C(0x00FF00FF00FF00FF));

    return (pairs * UINT64_C(0x0001000100010001)) >> 48;
}

/* One loop for each bit, so that a compiler can take several words at once. */
static void count_lanes(const uint8_t *good, const uint8_t *read, lanes *l)
{
    uint64_t wrong[WORDS], up[WORDS], any[WORDS];

    for (unsigned w = 0; w < WORDS; w++) {
        const uint64_t there = word_at(read + 8u * w);

        wrong[w] = word_at(good + 8u * w) ^ there;
        up[w] = wrong[w] & there;
        any[w] = (((wrong[w] & ~(LANES << 7)) + ~(LANES << 7)) | wrong[w]) >> 7 & LANES;
    }
    for (unsigned bit = 0; bit < 8; bit++) {
        uint64_t all = 0, ones = 0;

        for (unsigned w = 0; w < WORDS; w++) {
            all += wrong[w] >> bit & LANES;
            ones += up[w] >> bit & LANES;
        }
        l->wrong[bit] = all;
        l->to_one[bit] = ones;
    }
    l->bytes = 0;
    for (unsigned w = 0; w < WORDS; w++) {
        l->bytes += any[w];
        l->words[w] = (uint8_t)((any[w] * LANES) >> 56);
    }
}

/* How many bytes that differ lie where each line is 1: the lowest three by lane, the others by
 * halving the words of the block again and again. */
static void count_lines(const lanes *l, uint64_t block, uint64_t differ, rmg_comparison *r)
{
    uint16_t sums[WORDS];
    unsigned count = WORDS;

    for (unsigned k = 0; k < 3; k++) {
        static const uint64_t where[] = {UINT64_C(0xFF00FF00FF00FF00), UINT64_C(0xFFFF0000FFFF0000),
                                         UINT64_C(0xFFFFFFFF00000000)};

        r->by_line[k][1] += sum_of(l->bytes & where[k]);
    }
    for (unsigned w = 0; w < WORDS; w++)
        sums[w] = l->words[w];
    for (unsigned k = 3; k < IN_BLOCK; k++) {
        uint64_t ones = 0;

        count /= 2u;
        for (unsigned w = 0; w < count; w++) {
            ones += sums[2u * w + 1u];
            sums[w] = (uint16_t)(sums[2u * w] + sums[2u * w + 1u]);
        }
        r->by_line[k][1] += ones;
    }
    for (unsigned k = IN_BLOCK; k < r->lines; k++)
        r->by_line[k][block >> (k - IN_BLOCK) & 1u] += differ;
}

static void note_first(const uint8_t *good, const uint8_t *read, uint64_t at, rmg_comparison *r)
{
    for (unsigned i = 0; i < BLOCK && r->first_count < RMG_DIFF_FIRST; i++)
        if (good[i] != read[i])
            r->first[r->first_count++] = (rmg_wrong_word){at + i, good[i], read[i]};
}

/* One block; `differ` of its bytes do. */
static void count_block(const uint8_t *good, const uint8_t *read, uint64_t block, rmg_comparison *r)
{
    uint64_t differ;
    lanes l;

    count_lanes(good, read, &l);
    differ = sum_of(l.bytes);
    r->wrong_words += differ;
    for (unsigned bit = 0; bit < 8; bit++) {
        const uint64_t wrong = sum_of(l.wrong[bit]), up = sum_of(l.to_one[bit]);

        r->by_bit[bit][1] += up;
        r->by_bit[bit][0] += wrong - up;
        r->to_one += up;
        r->to_zero += wrong - up;
    }
    count_lines(&l, block, differ, r);
    if (r->first_count < RMG_DIFF_FIRST)
        note_first(good, read, block * BLOCK, r);
}

/* Bytes from that block on. What is left of a block at the end is filled up alike. */
static void count_span(const uint8_t *good, const uint8_t *read, uint64_t block, size_t size,
                       rmg_comparison *r)
{
    uint8_t rest[2][BLOCK] = {{0}};
    size_t at = 0;

    for (; at + BLOCK <= size; at += BLOCK, block++)
        if (memcmp(good + at, read + at, BLOCK) != 0)
            count_block(good + at, read + at, block, r);
    if (at == size)
        return;
    memcpy(rest[0], good + at, size - at);
    memcpy(rest[1], read + at, size - at);
    count_block(rest[0], rest[1], block, r);
}

static void begin(uint64_t bytes, rmg_comparison *r)
{
    memset(r, 0, sizeof *r);
    r->words = bytes;
    r->bits = 8;
    r->lines = IN_BLOCK;
    while (r->lines < 63 && bytes && (bytes - 1u) >> r->lines)
        r->lines++;
}

static void end(rmg_comparison *r)
{
    for (unsigned k = 0; k < IN_BLOCK; k++)
        r->by_line[k][0] = r->wrong_words - r->by_line[k][1];
    r->wrong_bits = r->to_one + r->to_zero;
}

void rmg_compare_counts(const void *good, const void *read, uint64_t bytes, rmg_comparison *r)
{
    begin(bytes, r);
    count_span(good, read, 0, (size_t)bytes, r);
    end(r);
}

/* A regular file to be read from its beginning, and how long it is; less than 0 after saying why
 * not. */
static int open_file(const char *file, uint64_t *bytes, rmg_error *error)
{
    const int fd = open(file, O_RDONLY | O_CLOEXEC);
    struct stat about;

    if (fd < 0 || fstat(fd, &about) < 0) {
        rmg_fail(error, RMG_ERR_FILE, file, "%s: cannot be read: %s", file, g_strerror(errno));
    } else if (!S_ISREG(about.st_mode)) {
        rmg_fail(error, RMG_ERR_FILE, file, "%s: expected a file", file);
    } else {
        *bytes = (uint64_t)about.st_size;
        return fd;
    }
    if (fd >= 0)
        close(fd);
    return -1;
}

/* So many bytes, whatever number the system gives at once. */
static bool read_whole(int fd, uint8_t *to, size_t size)
{
    while (size) {
        const ssize_t got = read(fd, to, size);

        if (got < 0 && errno == EINTR)
            continue;
        if (got <= 0)
            return false;
        to += got;
        size -= (size_t)got;
    }
    return true;
}

/* Not mapped: a file that becomes shorter meanwhile would end the program. */
rmg_status rmg_compare_files(const char *good, const char *read, rmg_comparison *r,
                             rmg_error *error)
{
    uint8_t *room = g_malloc(2u * SPAN);
    uint64_t a_bytes = 0, b_bytes = 0;
    const int a = open_file(good, &a_bytes, error);
    const int b = a < 0 ? -1 : open_file(read, &b_bytes, error);
    rmg_status status = b < 0 ? RMG_ERR_FILE : RMG_OK;

    begin(MIN(a_bytes, b_bytes), r);
    for (uint64_t at = 0; status == RMG_OK && at < r->words; at += SPAN) {
        const size_t size = (size_t)MIN(r->words - at, (uint64_t)SPAN);
        const char *const wrong = !read_whole(a, room, size)          ? good
                                  : !read_whole(b, room + SPAN, size) ? read
                                                                      : NULL;

        if (wrong)
            status =
                rmg_fail(error, RMG_ERR_FILE, wrong, "%s: it could not be read to its end", wrong);
        else
            count_span(room, room + SPAN, at / BLOCK, size, r);
    }
    end(r);
    if (a >= 0)
        close(a);
    if (b >= 0)
        close(b);
    g_free(room);
    return status;
}
