/* Makes the ROM images of the demo's boards: invented code, invented glyphs of no real machine.
 * Usage: make-demo-images GLYPHS.txt FOLDER */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define SYSTEM  0x4000u
#define PROGRAM 0x8000u
#define FONT    0x800u
#define STARS   0x800u

static uint32_t hash(uint32_t x)
{
    x ^= x >> 16;
    x *= 0x7FEB352Du;
    x ^= x >> 15;
    x *= 0x846CA68Bu;
    return x ^ x >> 16;
}

/* Instructions of a processor that never was: an operation, and up to two bytes that go with it. */
static void put_code(uint8_t *to, uint32_t first, uint32_t last, uint32_t seed)
{
    static const uint8_t operations[] = {0x12, 0x1A, 0x21, 0x2C, 0x35, 0x40, 0x48, 0x57,
                                         0x63, 0x6E, 0x81, 0x8D, 0xA2, 0xB4, 0xC9, 0xE0};
    static const uint8_t lengths[] = {1, 2, 3, 1, 2, 1, 2, 3, 1, 2, 2, 3, 1, 2, 3, 1};

    for (uint32_t at = first, n = 0; at < last; n++) {
        const uint32_t dice = hash(seed + n);
        const uint32_t which = dice & 15u;

        to[at++] = operations[which];
        for (uint8_t i = 1; i < lengths[which] && at < last; i++)
            to[at++] = (uint8_t)(dice >> (8u * i) & (i == 2 ? 0x3Fu : 0xFFu));
    }
}

static uint32_t put_text(uint8_t *to, uint32_t at, const char *text)
{
    const size_t length = strlen(text) + 1u;

    memcpy(to + at, text, length);
    return at + (uint32_t)length;
}

/* The sum of all bytes before the last two stands in them, low byte first. */
static void put_sum(uint8_t *image, uint32_t size)
{
    uint32_t sum = 0;

    for (uint32_t i = 0; i < size - 2u; i++)
        sum += image[i];
    image[size - 2u] = (uint8_t)sum;
    image[size - 1u] = (uint8_t)(sum >> 8);
}

static void write_file(const char *folder, const char *name, const uint8_t *bytes, size_t size,
                       size_t from, size_t step)
{
    char path[512];
    FILE *file;

    snprintf(path, sizeof path, "%s/%s", folder, name);
    file = fopen(path, "wb");
    for (size_t i = from; file && i < size; i += step)
        fputc(bytes[i], file);
    if (!file || fclose(file) != 0) {
        perror(path);
        exit(1);
    }
}

static void make_system(const char *folder, unsigned minor)
{
    static const char *const messages[] = {"HALVORN 64 CONSOLE",
                                           "MARROWFEN PLANETARIUM",
                                           "LAMPS?",
                                           "DOME CLOSED",
                                           "DOME OPEN",
                                           "STAR FIELD",
                                           "MOON",
                                           "SUNSET",
                                           "PRESS A KEY TO BEGIN",
                                           "NO ANSWER FROM AXIS",
                                           "TOO WARM",
                                           "GOOD NIGHT"};
    uint8_t image[SYSTEM];
    char name[64], version[64];
    uint32_t at = 0x3400;

    memset(image, 0xFF, sizeof image);
    put_code(image, 0x0000, 0x1800, 1);
    put_code(image, 0x1800, 0x1A00,
             minor >= 1 ? 77 : 5); /* the lamp routine was rewritten in 2.1 */
    put_code(image, 0x1A00, 0x3000, 9);
    if (minor >= 2)
        put_code(image, 0x3000, 0x3200, 31); /* 2.2 knows a second axis */
    for (size_t i = 0; i < sizeof messages / sizeof *messages; i++)
        at = put_text(image, at, messages[i]);
    snprintf(version, sizeof version, "VERSION 2.%u", minor);
    put_text(image, 0x3700, version);
    for (uint32_t i = 0x3F00; i < 0x3FF0; i += 2) { /* where the routines begin */
        image[i] = (uint8_t)hash(i);
        image[i + 1] = (uint8_t)(0xC0u | (hash(i) >> 8 & 0x3Fu));
    }
    put_sum(image, SYSTEM);
    snprintf(name, sizeof name, "halvorn64-system-2.%u.bin", minor);
    write_file(folder, name, image, SYSTEM, 0, 1);
}

static void make_program(const char *folder, unsigned minor)
{
    uint8_t image[PROGRAM];
    char name[64], version[64];

    memset(image, 0xFF, sizeof image);
    put_code(image, 0x0000, 0x5200, 1000);
    put_code(image, 0x5200, 0x5900, 2000u + minor); /* the ramps, different in each version */
    for (uint32_t i = 0; i < 0x400; i++) {          /* a quarter of a sine, in steps */
        const uint32_t t = i * 64u, curve = t - (uint32_t)((uint64_t)t * t * t / 0x180000000u);

        image[0x6000 + 2 * i] = (uint8_t)curve;
        image[0x6001 + 2 * i] = (uint8_t)(curve >> 8);
    }
    put_text(image, 0x7000, "OSTREL 16 MOTION SEQUENCER");
    snprintf(version, sizeof version, "RELEASE 1.%u", minor);
    put_text(image, 0x7040, version);
    put_sum(image, PROGRAM);
    snprintf(name, sizeof name, "ostrel16-program-1.%u-even.bin", minor);
    write_file(folder, name, image, PROGRAM, 0, 2);
    snprintf(name, sizeof name, "ostrel16-program-1.%u-odd.bin", minor);
    write_file(folder, name, image, PROGRAM, 1, 2);
}

/* Each glyph eight bytes, the left pixel in D7; the upper half of the ROM is the lower one dark on
 * light. Version 2 has a slashed zero. */
static void make_font(const char *glyphs, const char *folder, unsigned version)
{
    static const uint8_t hollow[8] = {0x7E, 0x42, 0x42, 0x42, 0x42, 0x42, 0x7E, 0};
    uint8_t image[FONT];
    char line[256], name[64];
    FILE *file = fopen(glyphs, "r");

    if (!file) {
        perror(glyphs);
        exit(1);
    }
    for (uint32_t i = 0; i < FONT / 2; i++)
        image[i] = hollow[i % 8];
    while (fgets(line, sizeof line, file)) {
        char *at;
        const unsigned long number = strtoul(line, &at, 16);

        if (line[0] == '#' || at == line || number >= 128)
            continue;
        for (unsigned row = 0; row < 8; row++) {
            uint8_t bits = 0;

            for (at += strspn(at, " "); *at == '#' || *at == '.'; at++)
                bits = (uint8_t)(bits << 1 | (*at == '#'));
            image[number * 8 + row] = bits;
        }
    }
    fclose(file);
    if (version == 1)
        memcpy(image + 0x30 * 8 + 2, "\xC4\xC4\xC4", 3);
    for (uint32_t i = 0; i < FONT / 2; i++)
        image[FONT / 2 + i] = (uint8_t)~image[i];
    snprintf(name, sizeof name, "halvorn64-characters-%u.bin", version);
    write_file(folder, name, image, FONT, 0, 1);
}

/* Of each star two bytes of direction, one of height, one of brightness; the brightest come first.
 */
static void make_stars(const char *folder)
{
    uint8_t image[STARS];

    for (uint32_t i = 0; i < STARS; i += 4) {
        const uint32_t dice = hash(5000u + i);

        image[i] = (uint8_t)dice;
        image[i + 1] = (uint8_t)(dice >> 8 & 0x0Fu);
        image[i + 2] = (uint8_t)(dice >> 16 & 0x7Fu);
        image[i + 3] = (uint8_t)(0xF0u - i / 12u);
    }
    put_sum(image, STARS);
    write_file(folder, "selvane-stars.bin", image, STARS, 0, 1);
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        fprintf(stderr, "Usage: %s GLYPHS.txt FOLDER\n", argv[0]);
        return 2;
    }
    for (unsigned minor = 0; minor < 3; minor++)
        make_system(argv[2], minor);
    make_program(argv[2], 3);
    make_program(argv[2], 4);
    make_font(argv[1], argv[2], 1);
    make_font(argv[1], argv[2], 2);
    make_stars(argv[2]);
    return 0;
}
