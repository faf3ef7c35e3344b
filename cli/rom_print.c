/* Readings of chips on a terminal. */
#include <string.h>

#include "rimeglass/file.h"
#include "rom.h"

static const char *const driven_by[] = {"by a write elsewhere", "by a read elsewhere", ""};

static void bytes_text(uint64_t bytes, char *text, size_t room)
{
    if (bytes >= 1024 && bytes % 1024 == 0)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT " KiB", bytes / 1024);
    else
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT " bytes", bytes);
}

void print_rom_head(FILE *to, const rom_bench *b, const rmg_reading *r)
{
    char name[160], size[40];
    gchar *text;

    bytes_text(rmg_rom_bytes(&b->rom), size, sizeof size);
    text = g_strdup_printf("%s of %s%s%s%s: %s, read %u time%s", //
                           rmg_rom_name(&b->rom, name, sizeof name), b->board->name,
                           *b->board->revision ? ", revision " : "", b->board->revision,
                           b->rom.bare ? ", bare in an adapter" : "", size, r->done,
                           r->done == 1 ? "" : "s");
    print_wrapped(to, "", 2, text);
    g_free(text);
    if (r->drive != RMG_DRIVE_NONE)
        fprintf(to,
                "  each in a different order, other values on the lines before each word (%s)\n",
                driven_by[r->drive]);
}

void print_sums(FILE *to, const void *bytes, size_t size)
{
    rmg_checksums sums;

    rmg_checksums_of(bytes, size, &sums);
    fprintf(to, "  sum of bytes  0x%04X (16 bits), 0x%08X (32 bits)\n", sums.sum16, sums.sum32);
    fprintf(to,
            "  CRC-32        %08x\n  MD5           %s\n  SHA-1         %s\n  SHA-256       %s\n",
            sums.crc32, sums.md5, sums.sha1, sums.sha256);
}

/* Address lines that nearly all of the words agree on. */
static void print_lean(FILE *to, const rmg_rom *rom, const uint64_t by_line[64][2], uint64_t words,
                       const char *what)
{
    GString *text = g_string_new(NULL);
    char name[64];

    for (uint8_t k = 0; k < rom->lines && words >= 8; k++)
        for (unsigned level = 0; level < 2; level++)
            if (by_line[k][level] >= words - words / 20u)
                g_string_append_printf(text, "%s%s is %u", text->len ? "; " : "",
                                       rmg_rom_line_text(rom, k, name, sizeof name), level);
    if (text->len) {
        g_string_prepend(text, " ");
        g_string_prepend(text, what);
        print_wrapped(to, "  ", 4, text->str);
    }
    g_string_free(text, TRUE);
}

static void print_unsteady(FILE *to, const rmg_rom *rom, const rmg_quality *q)
{
    GString *bits = g_string_new(NULL);
    char text[64];

    fprintf(to,
            "NOT STEADY: %" G_GUINT64_FORMAT " bit%s in %" G_GUINT64_FORMAT
            " word%s differ%s between readings\n",
            q->unsteady_bits, q->unsteady_bits == 1 ? "" : "s", q->unsteady_words,
            q->unsteady_words == 1 ? "" : "s", q->unsteady_bits == 1 ? "s" : "");
    for (uint8_t bit = 0; bit < rom->bits; bit++)
        if (q->by_bit[bit])
            g_string_append_printf(bits, "%s%s: %" G_GUINT64_FORMAT, bits->len ? ", " : "",
                                   rmg_rom_bit_text(rom, bit, text, sizeof text), q->by_bit[bit]);
    print_wrapped(to, "  by data bit     ", 18, bits->str);
    g_string_free(bits, TRUE);
    print_lean(to, rom, q->by_line, q->unsteady_words, "all, or nearly all, lie where");
    fprintf(to,
            "  in %" G_GUINT64_FORMAT " row%s of %u words; most, %" G_GUINT64_FORMAT
            ", in the row at %s\n",
            q->rows, q->rows == 1 ? "" : "s", RMG_ROW_WORDS, q->worst_count,
            rmg_rom_address_text(rom, q->worst_row * RMG_ROW_WORDS, text, sizeof text));
    for (size_t i = 0; i < q->first_count && i < 6; i++)
        fprintf(to, "  %s D%u: 1 in %.0f %% of the readings\n",
                rmg_rom_address_text(rom, q->first[i].word, text, sizeof text),
                rom->bus_bit[q->first[i].bit], q->first[i].share * 100);
    if (q->unsteady_bits > 6)
        fprintf(to, "  ... and %" G_GUINT64_FORMAT " more\n", q->unsteady_bits - 6);
    if (q->ties)
        fprintf(to,
                "  %" G_GUINT64_FORMAT " bit%s read 1 as often as 0: the majority does not decide, "
                "and 1 is taken\n",
                q->ties, q->ties == 1 ? "" : "s");
}

void print_quality(FILE *to, const rmg_verify *v)
{
    const rmg_quality *q = &v->quality;

    if (q->state == RMG_READ_NONE) {
        fprintf(to, "Not one whole reading was made, so nothing can be said about it.\n");
        return;
    }
    if (q->unsteady_bits)
        print_unsteady(to, &v->reading.rom, q);
    else if (q->readings == 1)
        fprintf(to, "Only one reading: whether it is steady is not known.\n");
    else if (q->state != RMG_READ_NOTHING)
        fprintf(to, "All %u readings agree%s.\n", q->readings,
                q->driven && !q->follows ? ", and no line floats" : "");
    if (v->reading.given)
        print_wrapped(to, "  ", 2,
                      "Whether a line floats cannot be seen in what another instrument read.");
    else if (!q->driven && v->reading.drive == RMG_DRIVE_NONE)
        print_wrapped(to, "  ", 2,
                      "Whether a line floats is not known: the board file names no empty region "
                      "and no other memory to put a value on the lines from.");
    else if (!q->driven)
        print_wrapped(to, "  ", 2,
                      "Whether a line floats is not known: not every line was driven both ways; "
                      "two readings or more do that where the board has an empty region.");
}

/* "0[1]11 1010": a word's bits from the highest down, wrong ones in brackets. */
static void append_bits(GString *text, rmg_word word, rmg_word wrong, uint8_t bits)
{
    for (uint8_t bit = bits; bit-- > 0;) {
        const char level = (char)('0' + (word >> bit & 1u));

        if (wrong >> bit & 1u)
            g_string_append_printf(text, "[%c]", level);
        else
            g_string_append_c(text, level);
    }
}

static void print_first_words(FILE *to, const rmg_rom *rom, const rmg_comparison *c)
{
    const int digits = (c->bits + 3) / 4, column = MAX(digits, 4);
    char address[40];

    fprintf(to, "\nFirst differences\n  %-10s %-*s  %-*s  %s\n", "address", column, "good", column,
            "read",
            c->bits <= 8 ? "read, bit by bit from D7 down; wrong ones in brackets" : "wrong bits");
    for (size_t i = 0; i < c->first_count && i < 6; i++) {
        const rmg_wrong_word *w = &c->first[i];
        GString *bits = g_string_new(NULL);

        if (c->bits <= 8)
            append_bits(bits, w->read, w->good ^ w->read, c->bits);
        else
            g_string_printf(bits, "%0*" G_GINT64_MODIFIER "X", digits,
                            (guint64)(w->good ^ w->read));
        fprintf(to, "  %-10s %0*" G_GINT64_MODIFIER "X%*s  %0*" G_GINT64_MODIFIER "X%*s  %s\n",
                rmg_rom_address_text(rom, w->word, address, sizeof address), digits,
                (guint64)w->good, column - digits, "", digits, (guint64)w->read, column - digits,
                "", bits->str);
        g_string_free(bits, TRUE);
    }
    if (c->wrong_words > 6)
        fprintf(to, "  ... %" G_GUINT64_FORMAT " words in all\n", c->wrong_words);
}

static void print_counts(FILE *to, const rmg_rom *rom, const rmg_comparison *c)
{
    GString *bits = g_string_new(NULL);
    unsigned wrong = 0;
    char text[64];

    for (uint8_t bit = 0; bit < c->bits; bit++)
        wrong += c->by_bit[bit][0] + c->by_bit[bit][1] > 0;
    for (uint8_t bit = 0; bit < c->bits; bit++) {
        const uint64_t to_zero = c->by_bit[bit][0], to_one = c->by_bit[bit][1];

        if (to_zero + to_one && wrong > 4)
            g_string_append_printf(bits, "%sD%u %" G_GUINT64_FORMAT, bits->len ? ", " : "",
                                   rom->bus_bit[bit], to_zero + to_one);
        else if (to_zero + to_one)
            g_string_append_printf(bits,
                                   "%s%s: %" G_GUINT64_FORMAT " read 1 for 0, %" //
                                   G_GUINT64_FORMAT " read 0 for 1",
                                   bits->len ? "; " : "",
                                   rmg_rom_bit_text(rom, bit, text, sizeof text), to_one, to_zero);
    }
    print_wrapped(to, "  by data bit     ", 18, bits->str);
    g_string_free(bits, TRUE);
    print_lean(to, rom, c->by_line, c->wrong_words, "all, or nearly all, lie where");
    fprintf(to,
            "  by direction    %" G_GUINT64_FORMAT " read 1 for 0, %" G_GUINT64_FORMAT
            " read 0 for 1\n",
            c->to_one, c->to_zero);
}

/* Runs of lines that were proved: "D0-D7", "A0-A12". */
static void append_proved(GString *text, const rmg_rom *rom, uint64_t mask, bool data)
{
    const uint8_t count = data ? rom->bits : rom->lines;
    char name[16];

    for (uint8_t k = 0; k < count; k++) {
        uint8_t end = k;

        if (!(mask >> k & 1u))
            continue;
        while (end + 1u < count && (mask >> (end + 1u) & 1u))
            end++;
        for (uint8_t n = k;; n = end) {
            if (data)
                g_snprintf(name, sizeof name, "D%u", rom->bus_bit[n]);
            else
                g_snprintf(name, sizeof name, "A%u",
                           rom->bus_line[n] + (rom->board ? rom->board->byte_shift : 0u));
            g_string_append_printf(text, "%s%s", n == k ? " " : "-", name);
            if (n == end)
                break;
        }
        k = end;
    }
}

/* Lines that some words could show wrong, though too few to prove them, with how many. */
static void append_few(GString *text, const rmg_rom *rom, const rmg_comparison *c, bool data)
{
    const uint8_t count = data ? rom->bits : rom->lines;
    const uint32_t *shows = data ? c->shows_bit : c->shows_line;

    for (uint8_t k = 0; k < count; k++)
        if (shows[k] && shows[k] < RMG_PROVED_WORDS)
            g_string_append_printf(text, "%s%c%u: %u", text->len ? ", " : "", data ? 'D' : 'A',
                                   data ? rom->bus_bit[k]
                                        : rom->bus_line[k] +
                                              (rom->board ? rom->board->byte_shift : 0u),
                                   shows[k]);
}

static uint64_t none_shown(const uint32_t *shows)
{
    uint64_t mask = 0;

    for (unsigned k = 0; k < 64; k++)
        mask |= (uint64_t)!shows[k] << k;
    return mask;
}

static void print_proved(FILE *to, const rmg_rom *rom, const rmg_comparison *c)
{
    GString *proved = g_string_new(NULL), *open = g_string_new(NULL), *few = g_string_new(NULL);

    append_proved(proved, rom, c->proved_bits, true);
    append_proved(proved, rom, c->proved_lines, false);
    append_proved(open, rom, none_shown(c->shows_bit), true);
    append_proved(open, rom, none_shown(c->shows_line), false);
    append_few(few, rom, c, true);
    append_few(few, rom, c, false);
    if (proved->len)
        print_wrapped(to, "Lines proved by this image:", 2, proved->str);
    if (open->len)
        print_wrapped(to, "Lines this image says nothing about:", 2, open->str);
    if (few->len) {
        g_string_append_printf(few, " (%u are needed)", RMG_PROVED_WORDS);
        print_wrapped(to, "Not proved; words that could show them wrong: ", 2, few->str);
    }
    g_string_free(proved, TRUE);
    g_string_free(open, TRUE);
    g_string_free(few, TRUE);
}

void print_comparison(FILE *to, const rmg_verify *v, const char *image,
                      const char *const *other_names)
{
    const rmg_comparison *c = &v->comparison;
    const rmg_rom *rom = &v->reading.rom;

    if (!v->compared || (v->quality.state != RMG_READ_STEADY &&
                         v->quality.state != RMG_READ_UNSTEADY && c->wrong_bits))
        return; /* of nothing, ones or zeros the differences say no more */
    if (!c->wrong_bits && !v->reading.first_wrong) {
        fprintf(to, "It equals %s.\n", image);
        print_proved(to, rom, c);
        return;
    }
    if (v->reading.first_wrong) {
        char text[40];

        fprintf(to, "It first differs from %s in reading %u, at %s.\n", image,
                v->reading.first_wrong,
                rmg_rom_address_text(rom, v->reading.first_wrong_word, text, sizeof text));
    }
    fprintf(to,
            "\nDifferent%s: %" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT " %s (%.3g %%), %" //
            G_GUINT64_FORMAT " bit%s\n",
            rom->board ? ", by the majority of the readings" : "", c->wrong_words, c->words,
            rom->bytes == 1 ? "bytes" : "words", 100.0 * (double)c->wrong_words / (double)c->words,
            c->wrong_bits, c->wrong_bits == 1 ? "" : "s");
    if (c->wrong_bits)
        print_counts(to, rom, c);
    for (size_t i = 0; i < c->step_count; i++) {
        char *text = rmg_explanation_text(rom, &c->steps[i].is, other_names);
        gchar *line = g_strdup_printf(
            c->steps[i].is.sometimes
                ? "%s (%" G_GUINT64_FORMAT " bits could show it, %" G_GUINT64_FORMAT " did)"
                : "%s (predicts %" G_GUINT64_FORMAT " wrong bits, %" G_GUINT64_FORMAT " seen)",
            text, c->steps[i].is.predicted, c->steps[i].is.seen);

        print_wrapped(to, "  explained by    ", 18, line);
        g_free(line);
        rmg_text_free(text);
    }
    if (c->left && c->step_count)
        fprintf(to,
                "  left over       %" G_GUINT64_FORMAT " bits: %" G_GUINT64_FORMAT
                " read 1 for 0, %" G_GUINT64_FORMAT " read 0 for 1\n",
                c->left, c->left_to_one, c->left_to_zero);
    if (c->left_touched) {
        char *text = rmg_explanation_text(rom, &c->rest.is, other_names);

        print_wrapped(to, c->step_count ? "  which is        " : "  most likely     ", 18, text);
        rmg_text_free(text);
    }
    if (rom->board)
        print_proved(to, rom, c);
    if (c->first_count)
        print_first_words(to, rom, c);
}

void print_rom_suspects(FILE *to, const rmg_suspects *s)
{
    for (size_t i = 0; i < s->count && i < 3; i++)
        print_suspect(to, &s->list[i], s->count > 1);
}
