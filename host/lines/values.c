/* Parts of a line as numbers, names and bits. */
#include <string.h>

#include "internal.h"

const char *const rmg_field_names[] = {"address", "page",    "rank",  "lane", "offset", "wrote",
                                       "read",    "differs", "bits",  "code", "bank",   "group",
                                       "chip",    "count",   "first", "last", "size",   NULL};
_Static_assert(G_N_ELEMENTS(rmg_field_names) == FIELD_KINDS + 1, "each field has its name");

void rmg_form_digits(field_form *form, const char *digits)
{
    memset(form->digit, -1, sizeof form->digit);
    form->base = (unsigned)strlen(digits);
    for (unsigned i = 0; i < form->base; i++) {
        const unsigned char d = (unsigned char)digits[i];

        form->digit[d] = (int8_t)i;
        if (g_ascii_isalpha(d) && form->digit[d ^ 0x20u] < 0)
            form->digit[d ^ 0x20u] = (int8_t)i;
    }
}

bool rmg_part_number(const line_part *part, const field_form *form, uint64_t *value)
{
    const char *text = part->text;
    size_t length = part->length;
    uint64_t number = 0;
    unsigned digits = 0;

    if (form->base == 16 && length > 2 && text[0] == '0' && (text[1] | 0x20) == 'x') {
        text += 2;
        length -= 2;
    }
    for (size_t i = 0; i < length; i++) {
        const int digit = form->digit[(unsigned char)text[i]];

        if (digit < 0 && (text[i] == ' ' || text[i] == '_'))
            continue; /* bytes of a word, apart */
        if (digit < 0 && form->base == 16 && (text[i] | 0x20) == 'h' && i + 1u == length && digits)
            break;
        if (digit < 0 || number > (UINT64_MAX - (unsigned)digit) / form->base)
            return false;
        number = number * form->base + (unsigned)digit;
        digits++;
    }
    *value = number;
    return digits > 0;
}

const alias *rmg_alias_find(const GArray *list, const line_part *part)
{
    for (guint i = 0; i < list->len; i++) {
        const alias *a = &g_array_index(list, alias, i);

        if (strlen(a->name) == part->length && memcmp(a->name, part->text, part->length) == 0)
            return a;
    }
    return NULL;
}

/* Bit number n of the other program; false: it has no such bit. */
static bool take_bit(const field_form *form, unsigned width, uint64_t n, rmg_word *bits)
{
    if (n < form->bits_from || n - form->bits_from >= width)
        return false;
    n -= form->bits_from;
    *bits |= (rmg_word)1 << (form->highest_first ? width - 1u - n : n);
    return true;
}

bool rmg_part_bits(const line_part *part, const field_form *form, unsigned width, rmg_word *bits)
{
    bool in_number = false, any = false;
    uint64_t n = 0;

    *bits = 0;
    if (form->mark) {
        unsigned at = 0;

        for (size_t i = 0; i < part->length; i++) {
            if (part->text[i] == ' ')
                continue;
            if (part->text[i] == form->mark && !take_bit(form, width, form->bits_from + at, bits))
                return false;
            at++;
        }
        return *bits != 0;
    }
    for (size_t i = 0; i <= part->length; i++) {
        const bool digit = i < part->length && g_ascii_isdigit(part->text[i]);

        if (digit) {
            n = in_number ? n * 10u + (unsigned)(part->text[i] - '0')
                          : (unsigned)(part->text[i] - '0');
            if (n > 1000)
                return false;
        } else if (in_number) {
            any = true;
            if (!take_bit(form, width, n, bits))
                return false;
        }
        in_number = digit;
    }
    return any;
}
