/* rimeglass image: what an image file holds, and the same in another form. */
#include <string.h>

#include "cli.h"
#include "rimeglass/checksum.h"
#include "rimeglass/image.h"
#include "rimeglass/result.h"

static const char description[] =
    "Shows what an image file holds: raw bytes, Intel HEX or Motorola S-records, told apart by "
    "the\n"
    "file's first bytes. With --write it writes the image in the form that --as names; gaps stay "
    "gaps,\n"
    "but in raw bytes they are filled.\n\n"
    "Examples\n"
    "  rimeglass image demo/images/gauge.hex\n"
    "  rimeglass image demo/images/gauge.hex --as raw --fill 0xFF --write build/gauge.bin";

static const struct {
    const char *word, *text;
} forms[] = {{"raw", "raw bytes"}, {"intel", "Intel HEX"}, {"motorola", "Motorola S-records"}};

typedef struct image_call {
    gchar *as, *write, *fill;
} image_call;

static bool choose_form(const image_call *call, rmg_image_form *form, uint8_t *fill)
{
    uint64_t value = 0xFF;

    if (!call->as != !call->write) {
        wrong_call("image", "--write and --as go together: a file, and raw, intel or motorola");
        return false;
    }
    if (call->fill && (!rmg_number_parse(call->fill, &value) || value > 0xFF)) {
        wrong_call("image", "--fill %s: expected a byte from 0 to 0xFF", call->fill);
        return false;
    }
    *fill = (uint8_t)value;
    for (size_t i = 0; call->as && i < G_N_ELEMENTS(forms); i++)
        if (strcmp(forms[i].word, call->as) == 0) {
            *form = (rmg_image_form)i;
            return true;
        }
    if (call->as)
        wrong_call("image", "--as %s: expected raw, intel or motorola", call->as);
    return !call->as;
}

static void print_image(const char *file, const rmg_image *image)
{
    printf("%s: %" G_GUINT64_FORMAT " bytes in %zu piece%s\n", file, rmg_image_bytes(image),
           image->count, image->count == 1 ? "" : "s");
    for (size_t i = 0; i < image->count && i < 32; i++) {
        const rmg_piece *p = &image->pieces[i];

        printf("  0x%08" G_GINT64_MODIFIER "X-0x%08" G_GINT64_MODIFIER "X  %zu bytes\n",
               (guint64)p->address, (guint64)(p->address + p->size - 1), p->size);
    }
    if (image->count > 32)
        printf("  ... and %zu more\n", image->count - 32);
    if (image->has_start)
        printf("  a program begins at 0x%" G_GINT64_MODIFIER "X\n", (guint64)image->start);
}

/* Of the bytes as a chip would hold them: gaps filled. */
static void print_checksums(const rmg_image *image, uint8_t fill)
{
    rmg_checksums sums;
    char *bytes, *message;
    size_t size;

    if (rmg_image_form_as(image, RMG_IMAGE_RAW, fill, &bytes, &size, &message) != RMG_OK) {
        printf("No checksums: %s\n", message);
        rmg_text_free(message);
        return;
    }
    rmg_checksums_of(bytes, size, &sums);
    rmg_text_free(bytes);
    if (image->count > 1)
        printf("Checksums of %zu bytes, gaps filled with 0x%02X\n", size, fill);
    else
        printf("Checksums\n");
    printf("  sum of bytes  0x%04X (16 bits), 0x%08X (32 bits)\n", sums.sum16, sums.sum32);
    printf("  CRC-32        %08x\n  MD5           %s\n  SHA-1         %s\n  SHA-256       %s\n",
           sums.crc32, sums.md5, sums.sha1, sums.sha256);
}

static int write_image(const image_call *call, const rmg_image *image, rmg_image_form form,
                       uint8_t fill)
{
    char *bytes, *message;
    size_t size;
    int status = EXIT_PASS;

    if (rmg_image_form_as(image, form, fill, &bytes, &size, &message) != RMG_OK ||
        rmg_file_write(call->write, bytes, size, &message) != RMG_OK) {
        status = wrong_call("image", "--write %s: %s", call->write, message);
        rmg_text_free(message);
    } else if (strcmp(call->write, "-") != 0) {
        printf("Written: %s, %s, %zu bytes\n", call->write, forms[form].text, size);
    }
    rmg_text_free(bytes);
    return status;
}

static int run(const image_call *call, const char *file)
{
    rmg_image_form form = RMG_IMAGE_RAW;
    rmg_image image;
    uint8_t fill;
    char *message;
    int status = EXIT_PASS;

    if (!choose_form(call, &form, &fill))
        return EXIT_CALL;
    if (rmg_image_load(file, &image, &message) != RMG_OK) {
        fprintf(stderr, "rimeglass image: %s\n", message);
        rmg_text_free(message);
        return EXIT_CALL;
    }
    if (!call->write || strcmp(call->write, "-") != 0) {
        print_image(file, &image);
        print_checksums(&image, fill);
    }
    if (call->write)
        status = write_image(call, &image, form, fill);
    rmg_image_free(&image);
    return status;
}

int command_image(GPtrArray *args)
{
    image_call call = {NULL, NULL, NULL};
    const GOptionEntry entries[] = {
        {"as", 0, 0, G_OPTION_ARG_STRING, &call.as, "raw, intel or motorola", "FORM"},
        {"fill", 0, 0, G_OPTION_ARG_STRING, &call.fill, "byte for gaps in raw bytes (0xFF)",
         "BYTE"},
        {"write", 0, 0, G_OPTION_ARG_FILENAME, &call.write, "write it; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("image", "FILE", description, entries, args, &status))
        status = args->len == 1
                     ? run(&call, g_ptr_array_index(args, 0))
                     : wrong_call("image", "expected one image file, found %u", args->len);
    g_free(call.as);
    g_free(call.fill);
    g_free(call.write);
    return status;
}
