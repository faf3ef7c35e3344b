/* Hex files of 16 and 256 MiB to bytes and back, against objcopy on the same file; two raw images
 * of 256 MiB compared, tool against cmp of two that are equal: equal, different in one byte, and in
 * all. Two bytes far apart: how long, and how much memory. */
#define _DEFAULT_SOURCE
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "bench.h"
#include "rimeglass/image.h"
#include "rimeglass/report.h"

#define BYTES       ((size_t)16 << 20)
#define LARGE_TIMES 16 /* of them make 256 MiB */

typedef struct conversion {
    const char *from, *to; /* files */
    const char *other;     /* the command of the other */
    rmg_image_form form;   /* of `to` */
} conversion;

static void ours(void *context)
{
    const conversion *c = context;
    rmg_image image;
    char *bytes;
    rmg_error error = {0};
    size_t size;

    if (rmg_image_load(c->from, &image, &error) != RMG_OK ||
        rmg_image_form_as(&image, c->form, 0xFF, &bytes, &size, &error) != RMG_OK ||
        rmg_file_write(c->to, bytes, size, &error) != RMG_OK) {
        fprintf(stderr, "%s\n", error.what);
        exit(2);
    }
    rmg_text_free(bytes);
    rmg_image_free(&image);
}

static void other(void *context)
{
    const conversion *c = context;

    if (system(c->other) != 0)
        exit(2);
}

static void shell(void *context)
{
    if (system(context) != 0)
        exit(2);
}

typedef struct two_commands {
    char *one, *other;
} two_commands;

static void first_command(void *context)
{
    shell(((two_commands *)context)->one);
}

static void second_command(void *context)
{
    shell(((two_commands *)context)->other);
}

/* Two files of 256 MiB that are the same, one that differs in a byte, one that does in all. */
static void prepare_large(void)
{
    char command[256];

    for (unsigned i = 0; i < LARGE_TIMES; i++) {
        snprintf(command, sizeof command, "cat bench-image.bin %s bench-large1.bin",
                 i ? ">>" : ">");
        shell(command);
    }
    shell("cp bench-large1.bin bench-large2.bin && cp bench-large1.bin bench-large3.bin && "
          "printf x | dd of=bench-large3.bin bs=1 seek=200000000 conv=notrunc 2>/dev/null && "
          "LC_ALL=C tr '\\000-\\377' '\\001-\\377\\000' <bench-large1.bin >bench-large4.bin");
}

/* Two bytes 1 GiB apart, read, compared and written by the tool: at most 0.1 s and 20 MB. */
static bool far_apart(const char *tool)
{
    static char *const arguments[] = {"rimeglass",     "image",         "bench-far.s37",
                                      "--compare",     "bench-far.s37", "--write",
                                      "bench-far.hex", "--force",       NULL};
    struct timespec from, to;
    struct rusage used;
    double seconds;
    int status;
    pid_t child;

    shell("printf 'S3060000000041B8\\nS306400000004277\\nS70500000000FA\\n' >bench-far.s37");
    clock_gettime(CLOCK_MONOTONIC, &from);
    child = fork();
    if (child == 0) {
        if (!freopen("/dev/null", "w", stdout))
            _exit(2);
        execv(tool, arguments);
        _exit(2);
    }
    if (child < 0 || wait4(child, &status, 0, &used) != child || !WIFEXITED(status) ||
        WEXITSTATUS(status) != 0) {
        fprintf(stderr, "the tool did not end well\n");
        exit(2);
    }
    clock_gettime(CLOCK_MONOTONIC, &to);
    seconds = (double)(to.tv_sec - from.tv_sec) + (double)(to.tv_nsec - from.tv_nsec) / 1e9;
    printf("two bytes 1 GiB apart: %.3f s, %.1f MB (at most 0.1 s, 20 MB)\n", seconds,
           (double)used.ru_maxrss / 1000);
    shell("rm -f bench-far.*");
    return seconds < 0.1 && used.ru_maxrss < 20000;
}

/* Random bytes in the three forms, in the folder the program runs in. */
static void prepare(void)
{
    static const char *const names[] = {"bench-image.bin", "bench-image.hex", "bench-image.srec"};
    uint8_t *bytes = malloc(BYTES);
    rmg_image image = {0};
    uint32_t dice = 1;

    for (size_t i = 0; bytes && i < BYTES; i++) {
        dice = dice * 1664525u + 1013904223u;
        bytes[i] = (uint8_t)(dice >> 24);
    }
    if (!bytes || !rmg_image_add(&image, 0, bytes, BYTES))
        exit(2);
    for (int form = 0; form < 3; form++) {
        char *text;
        rmg_error error = {0};
        size_t size;

        if (rmg_image_form_as(&image, (rmg_image_form)form, 0, &text, &size, &error) != RMG_OK ||
            rmg_file_write(names[form], text, size, &error) != RMG_OK)
            exit(2);
        rmg_text_free(text);
    }
    rmg_image_free(&image);
    free(bytes);
}

int main(int argc, char **argv)
{
    const char *slash = argc ? strrchr(argv[0], '/') : NULL;
    static char compare[3][512], cmp[] = "cmp bench-large1.bin bench-large2.bin";
    static conversion all[] = {
        {"bench-image.hex", "bench-out.bin",
         "objcopy -I ihex -O binary bench-image.hex bench-out2.bin", RMG_IMAGE_RAW},
        {"bench-image.srec", "bench-out.bin",
         "objcopy -I srec -O binary bench-image.srec bench-out2.bin", RMG_IMAGE_RAW},
        {"bench-image.bin", "bench-out.hex",
         "objcopy -I binary -O ihex bench-image.bin bench-out2.hex", RMG_IMAGE_INTEL},
        {"bench-image.bin", "bench-out.srec",
         "objcopy -I binary -O srec bench-image.bin bench-out2.srec", RMG_IMAGE_MOTOROLA},
    };
    static conversion large_hex = {"bench-large.hex", "bench-large5.bin",
                                   "objcopy -I ihex -O binary bench-large.hex bench-large6.bin",
                                   RMG_IMAGE_RAW};
    const bench_row rows[] = {
        {"Intel HEX of 16 MiB to bytes", "objcopy", 3.4, ours, other, &all[0]},
        {"S-records of 16 MiB to bytes", "objcopy", 3.3, ours, other, &all[1]},
        {"16 MiB of bytes to Intel HEX", "objcopy", 0.8, ours, other, &all[2]},
        {"16 MiB of bytes to S-records", "objcopy", 0.8, ours, other, &all[3]},
    };
    const two_commands two[] = {{compare[0], cmp}, {compare[1], cmp}, {compare[2], cmp}};
    const bench_row large[] = {
        {"256 MiB compared", "cmp", 1 / 1.5, first_command, second_command,
         (void *)(uintptr_t)&two[0]},
        {"... one byte different", "cmp", 1 / 3.0, first_command, second_command,
         (void *)(uintptr_t)&two[1]},
        {"... all bytes different", "cmp", 1 / 3.0, first_command, second_command,
         (void *)(uintptr_t)&two[2]},
        {"Intel HEX of 256 MiB to bytes", "objcopy", 2.5, ours, other, &large_hex},
    };
    char tool[512];
    bool reached;

    snprintf(tool, sizeof tool, "%.*s/rimeglass", slash ? (int)(slash - argv[0]) : 1,
             slash ? argv[0] : ".");

    for (int i = 0; i < 3; i++)
        snprintf(compare[i], sizeof compare[i],
                 "%.*s/rimeglass image bench-large1.bin --compare bench-large%d.bin >/dev/null; "
                 "[ $? -eq %d ]",
                 slash ? (int)(slash - argv[0]) : 1, slash ? argv[0] : ".", i + 2, i > 0);
    prepare();
    reached = bench_table(rows, 4);
    prepare_large();
    shell("objcopy -I binary -O ihex bench-large1.bin bench-large.hex");
    reached &= bench_table(large, 4);
    shell("cmp bench-large5.bin bench-large1.bin && rm -f bench-large*");
    reached &= far_apart(tool);
    if (system("cmp -s bench-out.bin bench-image.bin && cmp -s bench-out.bin bench-out2.bin") !=
        0) {
        fprintf(stderr, "the bytes that came out are not those that went in\n");
        return 2;
    }
    if (system("rm -f bench-image.* bench-out.* bench-out2.*") != 0)
        return 2;
    return !reached;
}
