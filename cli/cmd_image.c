/* rimeglass image: what an image file holds, and the image for a replacement chip. */
#include <glib/gstdio.h>
#include <string.h>

#include "image_call.h"
#include "rimeglass/file.h"
#include "rimeglass/verify.h"
#include "rom.h"
#include "view.h"

static const char description[] =
    "Shows what an image file holds: raw bytes, Intel HEX or Motorola S-records, recognised\n"
    "by their first bytes (or given by --from), and carries out steps in the order in which\n"
    "they are written. Each --write writes the image as it is at that point: in the form\n"
    "its name ends in (.hex, .s19, .s28, .s37; else raw bytes), or that --as gives. Gaps\n"
    "stay gaps until a step needs all bytes; then they are filled with --fill. A file that\n"
    "is named twice must not be a pipe.\n\n"
    "Examples\n"
    "  rimeglass image demo/images/gauge.hex\n"
    "  rimeglass image demo/images/halvorn64-system-2.1.bin --replacement 27512,27128\n"
    "      --write build/u5.bin\n"
    "  rimeglass image demo/images/halvorn64-system-2.0.bin\n"
    "      --join demo/images/halvorn64-system-2.1.bin,demo/images/halvorn64-system-2.2.bin\n"
    "      --write build/three.bin\n"
    "  rimeglass image demo/images/halvorn64-characters-1.bin --glyphs 8x8\n"
    "      --against demo/images/halvorn64-characters-2.bin";

#define LOOKED_AT ((size_t)1 << 16) /* bytes of a large file by which its form is told */

static void print_pieces(FILE *to, const char *file, const rmg_image *image)
{
    fprintf(to, "%s: %" G_GUINT64_FORMAT " byte%s in %zu piece%s\n", file, rmg_image_bytes(image),
            rmg_image_bytes(image) == 1 ? "" : "s", image->count, image->count == 1 ? "" : "s");
    for (size_t i = 0; i < image->count && i < 32; i++) {
        const rmg_piece *p = &image->pieces[i];

        fprintf(to, "  0x%08" G_GINT64_MODIFIER "X-0x%08" G_GINT64_MODIFIER "X  %zu byte%s\n",
                (guint64)p->address, (guint64)(p->address + p->size - 1), p->size,
                p->size == 1 ? "" : "s");
    }
    if (image->count > 32)
        fprintf(to, "  ... and %zu more\n", image->count - 32);
    if (image->has_start)
        fprintf(to, "  a program begins at 0x%" G_GINT64_MODIFIER "X\n", (guint64)image->start);
}

/* Of the bytes as a chip would hold them: gaps filled. And glyphs and maps of them. */
static bool show(const image_call *call, const view_call *view, const char *file,
                 const rmg_image *image)
{
    char *bytes;
    rmg_error error = {0};
    size_t size;
    bool ok = true;

    if (rmg_image_form_as(image, RMG_IMAGE_RAW, call->fill, &bytes, &size, &error) != RMG_OK) {
        fprintf(call->to, "No checksums: %s\n", error.what);
        rmg_error_free(&error);
        return !view_wanted(view);
    }
    if (image->count > 1)
        fprintf(call->to, "Checksums of %zu bytes, gaps filled with 0x%02X\n", size, call->fill);
    else
        fprintf(call->to, "Checksums\n");
    print_sums(call->to, bytes, size);
    if (view_wanted(view))
        ok = view_show("image", view,
                       (rmg_rom_view){.bytes = (const uint8_t *)bytes,
                                      .size = size,
                                      .address = image->pieces[0].address},
                       file, call->to);
    rmg_text_free(bytes);
    return ok;
}

/* By its beginning, which tells records from bytes. */
static bool raw_file(const char *file)
{
    FILE *from = g_fopen(file, "rb");
    char *bytes = g_malloc(LOOKED_AT);
    const char *doubt = NULL;
    const size_t size = from ? fread(bytes, 1, LOOKED_AT, from) : 0;
    const bool raw = size && rmg_image_form_of(bytes, size, &doubt) == RMG_IMAGE_RAW && !doubt;

    if (from)
        fclose(from);
    g_free(bytes);
    return raw;
}

/* Two large files of raw bytes, of the same size: counted as they lie. */
static bool large_files(const image_call *call, const char *file, const char *other, int *status)
{
    rmg_verify v = {.compared = true};
    rmg_error error = {0};
    GStatBuf here, there;

    if (call->json || call->from || g_stat(file, &here) || g_stat(other, &there) ||
        here.st_size != there.st_size || (uint64_t)here.st_size <= RMG_EXPLAINED_MOST ||
        !raw_file(file) || !raw_file(other))
        return false;
    *status = EXIT_FAULTS;
    if (rmg_compare_files(other, file, &v.comparison, &error) != RMG_OK) {
        *status = wrong_call("image", "%s", error.what);
        rmg_error_free(&error);
        return true;
    }
    rmg_rom_plain(&v.reading.rom, v.comparison.words);
    print_counted(call->to, &v, other);
    return true;
}

/* Two files that are compared before anything else are first read side by side: alike, they need
 * not be held in memory. */
static bool same_files(const image_call *call, const char *file, int *status)
{
    const image_step *first;
    uint64_t bytes;
    rmg_error error = {0};
    bool same;

    if (call->steps->len != 1)
        return false;
    first = &g_array_index(call->steps, image_step, 0);
    if (strcmp(first->name, "compare") != 0 || !g_file_test(file, G_FILE_TEST_IS_REGULAR) ||
        !g_file_test(first->value, G_FILE_TEST_IS_REGULAR))
        return false;
    if (rmg_files_same(file, first->value, &same, &bytes, &error) != RMG_OK) {
        *status = wrong_call("image", "%s", error.what);
        rmg_error_free(&error);
        return true;
    }
    if (!same)
        return large_files(call, file, first->value, status);
    if (!bytes)
        return false;
    fprintf(call->to, "%s equals %s: %" G_GUINT64_FORMAT " bytes, the same files.\n", file,
            first->value, bytes);
    *status = EXIT_PASS;
    return true;
}

/* Steps that change the image after it was last written: not what was meant, most likely. */
static bool change_unwritten(const image_call *call)
{
    bool written = false, changed = false;

    for (guint i = 0; i < call->steps->len; i++) {
        const char *name = g_array_index(call->steps, image_step, i).name;

        if (strcmp(name, "write") == 0) {
            written = true;
            changed = false;
        } else if (strcmp(name, "compare") != 0 && strcmp(name, "split") != 0) {
            changed = true;
        }
    }
    return written && changed;
}

/* The image as it is after all steps. */
static bool write_json(const image_call *call, const rmg_image *image, bool differs)
{
    const bool equal = !differs;
    bool compared = false, written;
    char *text;

    if (!call->json)
        return true;
    for (guint i = 0; i < call->steps->len; i++)
        compared |= strcmp(g_array_index(call->steps, image_step, i).name, "compare") == 0;
    text = rmg_image_json(image, call->fill, call->file, compared ? &equal : NULL);
    written = write_result(call->json, text);
    rmg_text_free(text);
    return written;
}

static int run(const image_call *call, const view_call *view, const char *file)
{
    rmg_image image;
    bool differs = false, ok = true;
    int status;

    if (!view_wanted(view) && !call->json && same_files(call, file, &status))
        return status;
    if (!image_read(call, file, &image))
        return EXIT_CALL;
    print_pieces(call->to, file, &image);
    for (guint i = 0; ok && i < call->steps->len; i++)
        ok = image_do(call, &g_array_index(call->steps, image_step, i), &image, &differs);
    if (ok && call->steps->len)
        print_pieces(call->to, "After the steps", &image);
    if (ok && change_unwritten(call))
        fprintf(call->to, "Note: the steps after the last --write are in no file.\n");
    ok = ok && show(call, view, file, &image) && write_json(call, &image, differs);
    rmg_image_free(&image);
    return !ok ? EXIT_CALL : differs ? EXIT_FAULTS : EXIT_PASS;
}

/* An option that is a step: noted in the order written. */
static gboolean note_step(const gchar *name, const gchar *value, gpointer data, GError **error)
{
    image_call *call = data;
    const image_step step = {g_strdup(name + strspn(name, "-")), g_strdup(value)};

    (void)error;
    g_array_append_val(call->steps, step);
    return TRUE;
}

static void free_call(image_call *call)
{
    for (guint i = 0; i < call->steps->len; i++) {
        g_free(g_array_index(call->steps, image_step, i).name);
        g_free(g_array_index(call->steps, image_step, i).value);
    }
    g_array_free(call->steps, TRUE);
    g_free(call->as);
    g_free(call->from);
    g_free(call->fill_text);
    g_free(call->header);
    g_free(call->json);
}

/* A pipe can be read once: it must not be named twice. */
static bool read_once(const image_call *call, const char *file)
{
    if (g_file_test(file, G_FILE_TEST_IS_REGULAR))
        return true;
    for (guint i = 0; i < call->steps->len; i++) {
        const image_step *step = &g_array_index(call->steps, image_step, i);

        if (strcmp(step->name, "write") != 0 && strcmp(step->name, "split") != 0 &&
            strcmp(step->value, file) == 0) {
            wrong_call("image", "%s is no plain file: it can be read once, but --%s reads it again",
                       file, step->name);
            return false;
        }
    }
    return true;
}

/* What is asked of the files written: of which there are some. */
static bool check_style(const image_call *call)
{
    bool written = false;

    for (guint i = 0; i < call->steps->len; i++) {
        const char *name = g_array_index(call->steps, image_step, i).name;

        written |= strcmp(name, "write") == 0 || strcmp(name, "split") == 0;
    }
    if (call->record != UNSAID && (call->record < 1 || call->record > 255)) {
        wrong_call("image", "--record-bytes %d: expected 1 to 255, in S-records 1 to 250",
                   call->record);
        return false;
    }
    if (!written && (call->record != UNSAID || call->segmented || call->header)) {
        wrong_call("image", "%s concerns files that are written: --write or --split is needed",
                   call->record != UNSAID ? "--record-bytes"
                   : call->segmented      ? "--segmented"
                                          : "--header");
        return false;
    }
    return true;
}

/* A map of what differs needs something to differ from. */
static bool can_differ(const view_call *view)
{
    if (view->map && view->by == RMG_MAP_DIFFERENCE && !view->against) {
        wrong_call("image", "--map-by difference needs --against FILE");
        return false;
    }
    return true;
}

static bool check_call(image_call *call, view_call *view, const GPtrArray *args)
{
    rmg_image_form form;
    uint64_t value = 0xFF;

    call->to = report_begin(call->json, NULL);
    for (guint i = 0; i < call->steps->len; i++) {
        const image_step *step = &g_array_index(call->steps, image_step, i);

        if (strcmp(step->name, "write") == 0 && strcmp(step->value, "-") == 0 && call->to == stdout)
            call->to = report_begin(NULL, "-");
    }
    if (args->len != 1) {
        wrong_call("image", "expected one image file, found %u", args->len);
        return false;
    }
    if (call->fill_text && (!rmg_number_parse(call->fill_text, &value) || value > 0xFF)) {
        wrong_call("image", "--fill %s: expected a byte from 0 to 0xFF", call->fill_text);
        return false;
    }
    call->fill = (uint8_t)value;
    if (!check_style(call))
        return false;
    call->file = args->pdata[0];
    return image_form("image", call->as, NULL, &form) && read_once(call, args->pdata[0]) &&
           view_ok("image", view) && can_differ(view);
}

#define STEP(name, text, value)                                                                    \
    {                                                                                              \
        name, 0, 0, G_OPTION_ARG_CALLBACK, (gpointer)(uintptr_t)note_step, text, value             \
    }

int command_image(GPtrArray *args)
{
    image_call call = {.steps = g_array_new(FALSE, FALSE, sizeof(image_step)), .record = UNSAID};
    view_call view = {0};
    const GOptionEntry entries[] = {
        STEP("repeat", "repeat it up to this size", "SIZE"),
        STEP("pad", "fill it up to this size", "SIZE"),
        STEP("cut", "keep only these addresses", "FIRST-LAST"),
        STEP("move", "put the first byte at another address", "ADDRESS"),
        STEP("join", "side by side with others in a larger chip; prints the jumpers", "FILE,..."),
        STEP("replacement", "fill this chip, for that one's socket; prints what pins need",
             "CHIP,SOCKET"),
        STEP("split", "write even and odd bytes, or four ways", "FILE,FILE[,FILE,FILE]"),
        STEP("interleave", "merge byte by byte with one more file, or three", "FILE[,FILE,FILE]"),
        STEP("swap", "swap neighbouring bytes, or 16-bit words", "bytes|words"),
        STEP("data-lines", "crossed: what the chip's D0, D1 ... are wired to", "D1,D0,D2-D7"),
        STEP("address-lines", "crossed: what the chip's A0, A1 ... are wired to", "A0,A2,A1"),
        STEP("invert-data", "invert these bits of each byte", "MASK"),
        STEP("invert-address", "invert these address lines", "MASK"),
        STEP("checksum", "put one there, like sum16,0x0-0x3FFD,at=0x3FFE,low-first", "TEXT"),
        STEP("compare", "show what differs from another image", "FILE"),
        STEP("write", "write it as it is then; - is stdout", "FILE"),
        {"as", 0, 0, G_OPTION_ARG_STRING, &call.as, "form of what is written: raw, intel, motorola",
         "FORM"},
        {"record-bytes", 0, 0, G_OPTION_ARG_INT, &call.record,
         "data bytes in a record of what is written (16)", "N"},
        {"segmented", 0, 0, G_OPTION_ARG_NONE, &call.segmented,
         "write Intel HEX with segments (20-bit addresses)", NULL},
        {"header", 0, 0, G_OPTION_ARG_STRING, &call.header, "begin S-records with this text",
         "TEXT"},
        {"from", 0, 0, G_OPTION_ARG_STRING, &call.from, "form of what is read", "FORM"},
        {"fill", 0, 0, G_OPTION_ARG_STRING, &call.fill_text, "byte for gaps and padding (0xFF)",
         "BYTE"},
        VIEW_OPTIONS(view),
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse_with("image", "FILE", description, entries, &call, args, &status)) {
        status = check_call(&call, &view, args) ? run(&call, &view, g_ptr_array_index(args, 0))
                                                : EXIT_CALL;
        report_end(call.to);
    }
    view_free(&view);
    free_call(&call);
    return status;
}
