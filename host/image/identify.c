/* What an image is: its forms, their checksums, equal and near entries of a catalogue. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/catalogue.h"
#include "rimeglass/image.h"

#define NEAR_MOST 3u

static const char *const part_names[] = {
    "whole",      "lower half", "upper half", "without its repeats", "without its padding",
    "even bytes", "odd bytes"};

const char *rmg_image_part_name(rmg_image_part part)
{
    return part_names[part];
}

/* Takes `bytes`, unless the form is there already. */
static void add_form(GArray *forms, rmg_image_part part, uint8_t *bytes, size_t size)
{
    rmg_form form = {.part = part, .bytes = bytes, .size = size};

    for (guint i = 0; i < forms->len; i++) {
        const rmg_form *f = &g_array_index(forms, rmg_form, i);

        if (f->size == size && memcmp(f->bytes, bytes, size) == 0) {
            g_free(bytes);
            return;
        }
    }
    rmg_checksums_of(bytes, size, &form.sums);
    g_array_append_val(forms, form);
}

static uint8_t *copy(const uint8_t *bytes, size_t size)
{
    return memcpy(g_malloc(MAX(size, 1)), bytes, size);
}

/* The size of what is repeated to make up the whole. */
static size_t once(const uint8_t *bytes, size_t size)
{
    while (size > 1 && size % 2 == 0 && memcmp(bytes, bytes + size / 2, size / 2) == 0)
        size /= 2;
    return size;
}

/* The size without the same byte over and over at the end, as a power of two. */
static size_t unpadded(const uint8_t *bytes, size_t size)
{
    size_t used = size, power = 1;

    while (used > 1 && bytes[used - 1] == bytes[size - 1] &&
           (bytes[size - 1] == 0xFF || bytes[size - 1] == 0))
        used--;
    while (power < used)
        power *= 2;
    return MIN(power, size);
}

static void make_forms(const uint8_t *bytes, size_t size, GArray *forms)
{
    const size_t half = size / 2, single = once(bytes, size), short_size = unpadded(bytes, size);

    add_form(forms, RMG_PART_WHOLE, copy(bytes, size), size);
    if (single < size)
        add_form(forms, RMG_PART_ONCE, copy(bytes, single), single);
    if (short_size < size)
        add_form(forms, RMG_PART_UNPADDED, copy(bytes, short_size), short_size);
    if (size < 2 || size % 2)
        return;
    add_form(forms, RMG_PART_LOWER_HALF, copy(bytes, half), half);
    add_form(forms, RMG_PART_UPPER_HALF, copy(bytes + half, half), half);
    for (size_t odd = 0; odd < 2; odd++) {
        uint8_t *lane = g_malloc(half);

        for (size_t i = 0; i < half; i++)
            lane[i] = bytes[2 * i + odd];
        add_form(forms, odd ? RMG_PART_ODD : RMG_PART_EVEN, lane, half);
    }
}

/* Do all checksums that the entry gives fit? */
static bool equal(const rmg_known *entry, const rmg_form *form)
{
    const rmg_checksums *a = &entry->sums, *b = &form->sums;
    const unsigned told = entry->told;

    return entry->size == form->size && (!(told & RMG_SUM_16) || a->sum16 == b->sum16) &&
           (!(told & RMG_SUM_32) || a->sum32 == b->sum32) &&
           (!(told & RMG_SUM_CRC32) || a->crc32 == b->crc32) &&
           (!(told & RMG_SUM_MD5) || strcmp(a->md5, b->md5) == 0) &&
           (!(told & RMG_SUM_SHA1) || strcmp(a->sha1, b->sha1) == 0) &&
           (!(told & RMG_SUM_SHA256) || strcmp(a->sha256, b->sha256) == 0);
}

static void count_away(const uint8_t *here, const uint8_t *there, size_t size, rmg_match *match)
{
    for (size_t i = 0; i < size; i++) {
        const unsigned wrong = (unsigned)(here[i] ^ there[i]);

        for (unsigned bit = 0; wrong >> bit; bit++) {
            if (!(wrong >> bit & 1u))
                continue;
            if (match->bits_away < G_N_ELEMENTS(match->first))
                match->first[match->bits_away] = (uint64_t)i * 8u + bit;
            match->bits_away++;
            match->to_one += here[i] >> bit & 1u;
        }
    }
}

char *rmg_match_part(const rmg_match *m, char *text, size_t room)
{
    if (m->in == RMG_ENTRY_WHOLE)
        *text = 0;
    else if (m->ways == 2)
        g_snprintf(text, (gulong)room, "the %s",
                   m->in == RMG_ENTRY_LANE ? m->which ? "odd bytes" : "even bytes"
                   : m->which              ? "upper half"
                                           : "lower half");
    else if (m->in == RMG_ENTRY_LANE)
        g_snprintf(text, (gulong)room, "bytes %u, %u, %u ...", m->which, m->which + m->ways,
                   m->which + 2u * m->ways);
    else
        g_snprintf(text, (gulong)room, "part %u of %u", m->which + 1u, m->ways);
    return text;
}

/* The bytes of an entry's image; NULL: it has none, or it cannot be read, which is counted. */
static char *entry_bytes(rmg_identity *identity, const rmg_known *entry)
{
    rmg_image image;
    rmg_error error = {0};
    char *bytes = NULL;
    size_t size;

    if (!*entry->image)
        return NULL;
    /* a pipe or device that a file names may have no end */
    if (!g_file_test(entry->image, G_FILE_TEST_IS_REGULAR) ||
        rmg_image_load(entry->image, &image, &error) != RMG_OK) {
        rmg_error_free(&error);
        identity->unreadable++;
        return NULL;
    }
    if (rmg_image_form_as(&image, RMG_IMAGE_RAW, 0xFF, &bytes, &size, &error) != RMG_OK ||
        size != entry->size) {
        rmg_text_free(bytes);
        bytes = NULL;
    }
    rmg_error_free(&error);
    rmg_image_free(&image);
    return bytes;
}

/* Against one part of it; noted where less than one bit in eight differs. */
static void look_at_part(const rmg_form *form, const uint8_t *bytes, rmg_match match,
                         GArray *matches)
{
    const size_t size = form->size;
    uint8_t *lane = NULL;

    if (match.in == RMG_ENTRY_LANE) {
        lane = g_malloc(size);
        for (size_t i = 0; i < size; i++)
            lane[i] = bytes[i * match.ways + match.which];
        bytes = lane;
    } else if (match.in == RMG_ENTRY_STRETCH) {
        bytes += match.which * size;
    }
    count_away(form->bytes, bytes, size, &match);
    if (match.bits_away < size && (match.bits_away || match.in != RMG_ENTRY_WHOLE))
        g_array_append_val(matches, match);
    g_free(lane);
}

/* The form against an entry's image; the whole form, too, as one chip of a pair or a set of four
 * that the entry's image was made for. A form of one value alone would be found everywhere. */
static void look_near(rmg_identity *identity, const rmg_known *entry, rmg_match match,
                      GArray *matches)
{
    const rmg_form *form = &identity->forms[match.form];
    const uint8_t ways = (uint8_t)(form->size && entry->size == 2 * form->size   ? 2
                                   : form->size && entry->size == 4 * form->size ? 4
                                                                                 : 1);
    char *bytes;

    if (entry->size != ways * form->size ||
        (ways > 1 && (form->part != RMG_PART_WHOLE || once(form->bytes, form->size) == 1)))
        return;
    bytes = entry_bytes(identity, entry);
    for (uint8_t which = 0; bytes && which < ways; which++)
        for (rmg_in_entry in = ways > 1; in <= (ways > 1 ? RMG_ENTRY_STRETCH : RMG_ENTRY_WHOLE);
             in++) {
            match.in = in;
            match.ways = ways;
            match.which = which;
            look_at_part(form, (const uint8_t *)bytes, match, matches);
        }
    rmg_text_free(bytes);
}

static gint nearest(gconstpointer a, gconstpointer b)
{
    const rmg_match *x = a, *y = b;

    return rmg_by_number(x->bits_away, y->bits_away);
}

static void find_matches(rmg_identity *identity, const rmg_catalogue *catalogue, GArray *matches)
{
    guint equal_count;

    for (size_t f = 0; f < identity->form_count; f++)
        for (size_t e = 0; e < catalogue->count; e++) {
            const rmg_match match = {
                .form = f, .entry = e, .sums_only = !(catalogue->list[e].told >> 2)};

            if (equal(&catalogue->list[e], &identity->forms[f]))
                g_array_append_val(matches, match);
        }
    equal_count = matches->len;
    for (size_t f = 0; f < identity->form_count; f++)
        for (size_t e = 0; e < catalogue->count; e++)
            if (!equal(&catalogue->list[e], &identity->forms[f]))
                look_near(identity, &catalogue->list[e], (rmg_match){.form = f, .entry = e},
                          matches);
    g_array_sort(matches, nearest);
    if (matches->len > equal_count + NEAR_MOST)
        g_array_set_size(matches, equal_count + NEAR_MOST);
}

void rmg_identify(const void *bytes, size_t size, const rmg_catalogue *catalogue,
                  rmg_identity *identity)
{
    GArray *forms = g_array_new(FALSE, TRUE, sizeof(rmg_form));
    GArray *matches = g_array_new(FALSE, TRUE, sizeof(rmg_match));

    memset(identity, 0, sizeof *identity);
    make_forms(bytes, size, forms);
    identity->form_count = forms->len;
    identity->forms = rmg_array_take(forms);
    if (catalogue)
        find_matches(identity, catalogue, matches);
    identity->match_count = matches->len;
    identity->matches = rmg_array_take(matches);
}

void rmg_identity_free(rmg_identity *identity)
{
    for (size_t i = 0; i < identity->form_count; i++)
        g_free(identity->forms[i].bytes);
    g_free(identity->forms);
    g_free(identity->matches);
    memset(identity, 0, sizeof *identity);
}
