/* An image in memory: pieces that rise and lie apart. */
#include "rimeglass/image.h"

#include <glib.h>
#include <string.h>

/* Number of the first piece that ends after `address`. */
static size_t piece_from(const rmg_image *image, uint64_t address)
{
    size_t low = 0, high = image->count;

    while (low < high) {
        const size_t middle = low + (high - low) / 2;
        const rmg_piece *p = &image->pieces[middle];

        if (p->address + p->size <= address)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

static bool touches(const rmg_piece *p, uint64_t address)
{
    return p->address + p->size == address;
}

/* The room of a piece grows in powers of two, so that many short additions stay cheap. */
static void append(rmg_piece *p, const void *bytes, size_t size)
{
    const size_t room = (size_t)1 << g_bit_storage((gulong)p->size | 63u);
    const size_t needed = (size_t)1 << g_bit_storage((gulong)(p->size + size) | 63u);

    if (needed != room || !p->bytes)
        p->bytes = g_realloc(p->bytes, needed);
    memcpy(p->bytes + p->size, bytes, size);
    p->size += size;
}

static void insert(rmg_image *image, size_t at, uint64_t address, const void *bytes, size_t size)
{
    image->pieces = g_renew(rmg_piece, image->pieces, image->count + 1);
    memmove(&image->pieces[at + 1], &image->pieces[at],
            (image->count - at) * sizeof *image->pieces);
    image->count++;
    image->pieces[at] = (rmg_piece){address, NULL, 0};
    append(&image->pieces[at], bytes, size);
}

bool rmg_image_add(rmg_image *image, uint64_t address, const void *bytes, size_t size)
{
    const uint64_t end = address + size;
    size_t at;

    if (!size)
        return true;
    if (image->count && touches(&image->pieces[image->count - 1], address)) {
        append(&image->pieces[image->count - 1], bytes, size); /* most files rise */
        return true;
    }
    at = piece_from(image, address);
    if (at < image->count && image->pieces[at].address < end)
        return false;
    if (at && touches(&image->pieces[at - 1], address)) {
        at--;
        append(&image->pieces[at], bytes, size);
    } else {
        insert(image, at, address, bytes, size);
    }
    if (at + 1 < image->count && image->pieces[at + 1].address == end) {
        rmg_piece *next = &image->pieces[at + 1];

        append(&image->pieces[at], next->bytes, next->size);
        g_free(next->bytes);
        image->count--;
        memmove(next, next + 1, (image->count - at - 1) * sizeof *next);
    }
    return true;
}

uint64_t rmg_image_bytes(const rmg_image *image)
{
    uint64_t sum = 0;

    for (size_t i = 0; i < image->count; i++)
        sum += image->pieces[i].size;
    return sum;
}

bool rmg_image_at(const rmg_image *image, uint64_t address, uint8_t *byte)
{
    const size_t at = piece_from(image, address);

    if (at == image->count || image->pieces[at].address > address)
        return false;
    *byte = image->pieces[at].bytes[address - image->pieces[at].address];
    return true;
}

/* Of two pieces, what they share. */
static void compare_pieces(const rmg_piece *a, const rmg_piece *b, rmg_image_difference *d)
{
    const uint64_t from = MAX(a->address, b->address);
    const uint64_t end = MIN(a->address + a->size, b->address + b->size);
    const uint8_t *x = a->bytes + (from - a->address), *y = b->bytes + (from - b->address);

    d->both += end - from;
    if (memcmp(x, y, (size_t)(end - from)) == 0)
        return;
    for (uint64_t i = 0; i < end - from; i++) {
        if (x[i] == y[i])
            continue;
        if (!d->different)
            d->first = from + i;
        d->different++;
    }
}

void rmg_image_difference_of(const rmg_image *a, const rmg_image *b, rmg_image_difference *d)
{
    size_t i = 0, k = 0;

    memset(d, 0, sizeof *d);
    while (i < a->count && k < b->count) {
        const rmg_piece *x = &a->pieces[i], *y = &b->pieces[k];
        const uint64_t x_end = x->address + x->size, y_end = y->address + y->size;

        if (x->address < y_end && y->address < x_end)
            compare_pieces(x, y, d);
        if (x_end <= y_end)
            i++;
        if (y_end <= x_end)
            k++;
    }
    d->only_a = rmg_image_bytes(a) - d->both;
    d->only_b = rmg_image_bytes(b) - d->both;
}

void rmg_image_free(rmg_image *image)
{
    for (size_t i = 0; i < image->count; i++)
        g_free(image->pieces[i].bytes);
    g_free(image->pieces);
    memset(image, 0, sizeof *image);
}
