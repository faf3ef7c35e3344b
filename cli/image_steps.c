/* The steps of the image command: what is written, turned into a library call, and reported. */
#include <string.h>

#include "image_call.h"
#include "rimeglass/report.h"

#define FILES_MOST 8u

static bool wrong(const image_step *step, const char *expected)
{
    wrong_call("image", "--%s %s: expected %s", step->name, step->value, expected);
    return false;
}

/* A library step's answer; its message is printed and freed. */
static bool answer(const image_step *step, rmg_status status, rmg_error *error)
{
    if (status != RMG_OK)
        wrong_call("image", "--%s %s: %s", step->name, step->value, error->what);
    rmg_error_free(error);
    return status == RMG_OK;
}

bool read_bytes(const char *text, uint64_t *bytes)
{
    const size_t length = strlen(text);
    const char unit = length ? text[length - 1] : 0;
    gchar *number = g_strndup(text, length - (unit == 'K' || unit == 'M'));
    const bool ok = rmg_number_parse(number, bytes) && *bytes && *bytes <= RMG_IMAGE_MOST;

    g_free(number);
    if (ok && unit == 'K')
        *bytes <<= 10;
    else if (ok && unit == 'M')
        *bytes <<= 20;
    return ok && *bytes <= RMG_IMAGE_MOST;
}

bool image_read(const image_call *call, const char *file, rmg_image *image)
{
    rmg_image_form form = RMG_IMAGE_RAW;
    rmg_error error = {0};
    rmg_status status;

    if (call->from && !image_form("image", call->from, NULL, &form))
        return false;
    status = call->from ? rmg_image_load_as(file, form, image, &error)
                        : rmg_image_load(file, image, &error);
    if (status == RMG_OK)
        return true;
    fprintf(stderr, "rimeglass image: %s\n", error.what);
    rmg_error_free(&error);
    return false;
}

static bool do_repeat(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t size;
    rmg_error error = {0};

    if (!read_bytes(step->value, &size))
        return wrong(step, "a size like 64K or 0x10000");
    return answer(step, rmg_image_repeat(image, size, call->fill, &error), &error);
}

static bool do_pad(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t size;
    rmg_error error = {0};

    if (!read_bytes(step->value, &size))
        return wrong(step, "a size like 64K or 0x10000 (--fill BYTE says with what)");
    return answer(step, rmg_image_pad(image, size, call->fill, &error), &error);
}

/* "FIRST-LAST" */
static bool read_span(const char *text, uint64_t *first, uint64_t *last)
{
    gchar **ends = g_strsplit(text, "-", 2);
    const bool ok = ends[0] && ends[1] && rmg_number_parse(ends[0], first) &&
                    rmg_number_parse(ends[1], last) && *first <= *last;

    g_strfreev(ends);
    return ok;
}

static bool do_cut(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t first, last;
    rmg_error error = {0};

    (void)call;
    if (!read_span(step->value, &first, &last))
        return wrong(step, "addresses like 0x0000-0x1FFF, both ends included");
    return answer(step, rmg_image_cut(image, first, last, &error), &error);
}

static bool do_move(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t address;
    rmg_error error = {0};

    (void)call;
    if (!rmg_number_parse(step->value, &address))
        return wrong(step, "an address like 0xC000");
    return answer(step, rmg_image_move(image, address, &error), &error);
}

static bool do_swap(const image_call *call, const image_step *step, rmg_image *image)
{
    rmg_error error = {0};

    if (strcmp(step->value, "bytes") != 0 && strcmp(step->value, "words") != 0)
        return wrong(step, "bytes or words");
    return answer(step, rmg_image_swap(image, step->value[0] == 'b' ? 1 : 2, call->fill, &error),
                  &error);
}

/* "D0-D3,D5,D4": numbers after the letter. Returns how many; 0: it is no such list. */
static uint8_t read_lines(const char *text, char letter, uint8_t *lines, size_t most)
{
    gchar **items = g_strsplit(text, ",", -1);
    size_t count = 0;
    bool ok = true;

    for (size_t i = 0; ok && items[i]; i++) {
        gchar **ends = g_strsplit(items[i], "-", 2);
        uint64_t from = 0, to = 0;

        for (size_t e = 0; ok && ends[e]; e++)
            ok = g_ascii_toupper(g_strstrip(ends[e])[0]) == letter &&
                 rmg_number_parse(ends[e] + 1, e ? &to : &from);
        if (ok && !ends[1])
            to = from;
        ok = ok && ends[0] && from < most && to < most;
        for (uint64_t n = from; ok; n = from <= to ? n + 1 : n - 1) {
            if (count == most) {
                ok = false;
                break;
            }
            lines[count++] = (uint8_t)n;
            if (n == to)
                break;
        }
        g_strfreev(ends);
    }
    g_strfreev(items);
    return ok ? (uint8_t)count : 0;
}

static bool do_data_lines(const image_call *call, const image_step *step, rmg_image *image)
{
    uint8_t lines[32];
    const uint8_t count = read_lines(step->value, 'D', lines, 32);
    rmg_error error = {0};

    if (!count)
        return wrong(step, "what the chip's D0, D1 ... are wired to, like D1,D0,D2-D7");
    return answer(step, rmg_image_data_lines(image, lines, count, call->fill, &error), &error);
}

static bool do_address_lines(const image_call *call, const image_step *step, rmg_image *image)
{
    uint8_t lines[30];
    const uint8_t count = read_lines(step->value, 'A', lines, 30);
    rmg_error error = {0};

    if (!count)
        return wrong(step, "what the chip's A0, A1 ... are wired to, like A0-A7,A9,A8,A10-A13");
    return answer(step, rmg_image_address_lines(image, lines, count, call->fill, &error), &error);
}

static bool do_invert_data(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t mask;
    rmg_error error = {0};

    (void)call;
    if (!rmg_number_parse(step->value, &mask) || mask > 0xFF)
        return wrong(step, "a byte with ones at the lines, like 0xFF");
    return answer(step, rmg_image_invert_data(image, (uint8_t)mask, &error), &error);
}

static bool do_invert_address(const image_call *call, const image_step *step, rmg_image *image)
{
    uint64_t mask;
    rmg_error error = {0};

    if (!rmg_number_parse(step->value, &mask) || mask >= RMG_IMAGE_MOST)
        return wrong(step, "a number with ones at the lines, like 0x2000");
    return answer(step, rmg_image_invert_address(image, mask, call->fill, &error), &error);
}

/* The files of a list, read. Returns how many; 0 after saying what is wrong. */
static size_t read_files(const image_call *call, const image_step *step, size_t least, size_t most,
                         rmg_image *images, gchar ***names)
{
    size_t count = 0;

    *names = g_strsplit(step->value, ",", -1);
    while ((*names)[count])
        count++;
    if (count < least || count > most) {
        wrong_call("image", "--%s %s: expected %zu to %zu files, separated by commas", step->name,
                   step->value, least, most);
        return 0;
    }
    for (size_t i = 0; i < count; i++)
        if (!image_read(call, (*names)[i], &images[i]))
            return 0;
    return count;
}

static void free_images(rmg_image *images, size_t count, gchar **names)
{
    for (size_t i = 0; i < count; i++)
        rmg_image_free(&images[i]);
    g_strfreev(names);
}

/* Which level of each upper address line chooses which image. */
static void print_jumpers(const image_call *call, const rmg_slot *slots, size_t count,
                          uint64_t slot_bytes, uint64_t chip_bytes, gchar **names)
{
    unsigned low = 0, high = 0;

    while ((uint64_t)1 << low < slot_bytes)
        low++;
    while ((uint64_t)1 << high < chip_bytes)
        high++;
    fprintf(call->to,
            "Jumpers on the upper address lines of the chip, %" G_GUINT64_FORMAT " bytes\n ",
            chip_bytes);
    for (unsigned k = high; k-- > low;)
        fprintf(call->to, " A%-3u", k);
    fprintf(call->to, "  from       image\n");
    for (uint64_t n = 0; n < chip_bytes / slot_bytes; n++) {
        fprintf(call->to, " ");
        for (unsigned k = high; k-- > low;)
            fprintf(call->to, " %-4u", (unsigned)(n >> (k - low) & 1u));
        fprintf(call->to, "  0x%08" G_GINT64_MODIFIER "X ", (guint64)(n * slot_bytes));
        if (n >= count)
            fprintf(call->to, "free, 0x%02X\n", call->fill);
        else if (slots[n].times > 1)
            fprintf(call->to, "%s, %" G_GUINT64_FORMAT " times\n", n ? names[n - 1] : call->file,
                    slots[n].times);
        else
            fprintf(call->to, "%s%s\n", n ? names[n - 1] : call->file,
                    slots[n].times ? "" : ", filled up");
    }
}

static bool do_join(const image_call *call, const image_step *step, rmg_image *image)
{
    rmg_image others[FILES_MOST] = {{0}};
    rmg_slot slots[FILES_MOST + 1];
    uint64_t slot_bytes, chip_bytes;
    gchar **names;
    const size_t count = read_files(call, step, 1, FILES_MOST - 1, others, &names);
    rmg_error error = {0};
    bool ok = false;

    if (count) {
        ok = answer(step,
                    rmg_image_join(image, others, count + 1, call->fill, slots, &slot_bytes,
                                   &chip_bytes, &error),
                    &error);
        if (ok)
            print_jumpers(call, slots, count + 1, slot_bytes, chip_bytes, names);
    }
    free_images(others, FILES_MOST, names);
    return ok;
}

static bool do_interleave(const image_call *call, const image_step *step, rmg_image *image)
{
    rmg_image others[FILES_MOST] = {{0}};
    gchar **names;
    const size_t count = read_files(call, step, 1, 3, others, &names);
    rmg_error error = {0};
    bool ok = false;

    if (count == 2)
        wrong_call("image",
                   "--interleave %s: expected one file more (even and odd) or three (four "
                   "ways)",
                   step->value);
    else if (count)
        ok = answer(step, rmg_image_interleave(image, others, count + 1, call->fill, &error),
                    &error);
    free_images(others, FILES_MOST, names);
    return ok;
}

static const char *const form_words[] = {"raw bytes", "Intel HEX", "Motorola S-records"};

rmg_image_style image_style(const image_call *call)
{
    return (rmg_image_style){.fill = call->fill,
                             .record = call->record == UNSAID ? 0 : (uint8_t)call->record,
                             .segmented = call->segmented,
                             .header = call->header};
}

static bool write_one(const image_call *call, const char *option, const char *file,
                      const rmg_image *image)
{
    const rmg_image_style style = image_style(call);
    rmg_image_form form;
    char *bytes = NULL;
    rmg_error error = {0};
    size_t size;
    bool ok;

    if (!image_form("image", call->as, file, &form))
        return false;
    ok = rmg_image_form_styled(image, form, &style, &bytes, &size, &error) == RMG_OK;
    if (ok && !may_replace("image", option, file, bytes, size)) {
        rmg_text_free(bytes);
        return false;
    }
    ok = ok && rmg_file_write(file, bytes, size, &error) == RMG_OK;
    if (!ok)
        wrong_call("image", "--%s %s: %s", option, file, error.what);
    else
        fprintf(call->to, "Written: %s, %s, %zu bytes\n", file, form_words[form], size);
    rmg_error_free(&error);
    rmg_text_free(bytes);
    return ok;
}

/* One lane made ready to be written; what it is, for the report. */
static bool stage_lane(const image_call *call, const image_step *step, const char *file,
                       rmg_image *lane, rmg_files *files, GString *report)
{
    const rmg_image_style style = image_style(call);
    rmg_image_form form;
    char *bytes = NULL;
    rmg_error error = {0};
    size_t size;
    bool ok;

    if (!image_form("image", call->as, file, &form))
        return false;
    ok = rmg_image_form_styled(lane, form, &style, &bytes, &size, &error) == RMG_OK;
    if (ok && !may_replace("image", step->name, file, bytes, size)) {
        rmg_text_free(bytes);
        return false;
    }
    ok = ok && rmg_files_add(files, file, bytes, size, &error) == RMG_OK;
    if (ok)
        g_string_append_printf(report, "Written: %s, %s, %zu bytes\n", file, form_words[form],
                               size);
    rmg_text_free(bytes);
    return ok || answer(step, RMG_ERR_FILE, &error);
}

/* All files of a split appear, or none. */
static bool do_split(const image_call *call, const image_step *step, rmg_image *image)
{
    gchar **names = g_strsplit(step->value, ",", -1);
    const size_t count = g_strv_length(names);
    GString *report = g_string_new(NULL);
    rmg_files *files = rmg_files_new();
    rmg_error error = {0};
    bool ok = (count == 2 || count == 4) && !g_strv_contains((const gchar *const *)names, "-");

    if (!ok)
        wrong(step, "two files (even, odd) or four, separated by commas");
    for (size_t i = 0; ok && i < count; i++) {
        rmg_image lane;

        ok = answer(step, rmg_image_lane(image, i, count, call->fill, &lane, &error), &error) &&
             stage_lane(call, step, names[i], &lane, files, report);
        rmg_image_free(&lane);
    }
    ok = ok && answer(step, rmg_files_write(files, &error), &error);
    if (ok)
        fputs(report->str, call->to);
    rmg_files_free(files);
    g_string_free(report, TRUE);
    g_strfreev(names);
    return ok;
}

/* One word of a checksum's text; false: it is none. */
static bool read_sum_word(const char *word, rmg_put_sum *sum, unsigned *seen)
{
    static const char *const kinds[] = {"sum8", "sum16", "sum32", "crc32"};
    uint64_t number;

    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++)
        if (strcmp(word, kinds[i]) == 0) {
            sum->kind = (rmg_sum_kind)i;
            *seen |= 1u;
            return true;
        }
    if (strcmp(word, "low-first") == 0 || strcmp(word, "high-first") == 0) {
        sum->high_first = word[0] == 'h';
        *seen |= 2u;
        return true;
    }
    if (g_str_has_prefix(word, "at=") && rmg_number_parse(word + 3, &sum->at)) {
        *seen |= 4u;
        return true;
    }
    if (strcmp(word, "own=skipped") == 0 || strcmp(word, "own=balanced") == 0) {
        sum->own = word[4] == 's' ? RMG_OWN_SKIPPED : RMG_OWN_BALANCED;
        return true;
    }
    if (g_str_has_prefix(word, "own=") && rmg_number_parse(word + 4, &number) && number <= 0xFF) {
        sum->own = RMG_OWN_AS;
        sum->own_value = (uint8_t)number;
        return true;
    }
    if (read_span(word, &sum->first, &sum->last)) {
        *seen |= 8u;
        return true;
    }
    return false;
}

static bool do_checksum(const image_call *call, const image_step *step, rmg_image *image)
{
    gchar **words = g_strsplit(step->value, ",", -1);
    rmg_put_sum sum = {.own = RMG_OWN_OUTSIDE};
    unsigned seen = 0;
    uint32_t value;
    rmg_error error = {0};
    bool ok = true;

    for (size_t i = 0; ok && words[i]; i++)
        ok = read_sum_word(words[i], &sum, &seen);
    g_strfreev(words);
    if (!ok || (seen | (sum.kind == RMG_SUM_OF_8 ? 2u : 0)) != 15u)
        return wrong(
            step,
            "sum8, sum16, sum32 or crc32, the span FIRST-LAST, at=ADDRESS, low-first or "
            "high-first, and, if it lies within the span, own=skipped, own=BYTE or own=balanced");
    ok = answer(step, rmg_image_put_sum(image, &sum, &value, &error), &error);
    if (ok)
        fprintf(call->to, "Checksum 0x%X put at 0x%" G_GINT64_MODIFIER "X\n", value,
                (guint64)sum.at);
    return ok;
}

static bool do_write(const image_call *call, const image_step *step, rmg_image *image)
{
    return write_one(call, step->name, step->value, image);
}

bool image_do(const image_call *call, const image_step *step, rmg_image *image, bool *differs)
{
    static const struct {
        const char *name;
        bool (*act)(const image_call *call, const image_step *step, rmg_image *image);
    } steps[] = {{"repeat", do_repeat},
                 {"replacement", image_for_chip},
                 {"pad", do_pad},
                 {"cut", do_cut},
                 {"move", do_move},
                 {"swap", do_swap},
                 {"data-lines", do_data_lines},
                 {"address-lines", do_address_lines},
                 {"invert-data", do_invert_data},
                 {"invert-address", do_invert_address},
                 {"join", do_join},
                 {"interleave", do_interleave},
                 {"split", do_split},
                 {"checksum", do_checksum},
                 {"write", do_write}};

    if (strcmp(step->name, "compare") == 0)
        return image_compare(call, step->value, image, differs);
    for (size_t i = 0; i < G_N_ELEMENTS(steps); i++)
        if (strcmp(steps[i].name, step->name) == 0)
            return steps[i].act(call, step, image);
    return false;
}
