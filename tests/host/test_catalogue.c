/* The catalogue: every error with its line, entries added, images known by form and nearness. */
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/catalogue.h"
#include "rimeglass/rom.h"
#include "suites.h"
#include "temporary.h"

static const struct {
    const char *text, *says;
} bad[] = {
    {"images: [{size: 4, crc32: 1c291ca3}]", "c.yaml:1: name: is missing"},
    {"images:\n  - {name: a, crc32: 1c291ca3}", "c.yaml:2: size: is missing"},
    {"images:\n  - {name: a, size: 4}", "c.yaml:2: \"a\" has no checksum"},
    {"images:\n  - {name: a, size: 0, sum16: 1}", "size"},
    {"images:\n  - {name: a, size: 4, sum16: 0x12345}", "found \"0x12345\", expected a number"},
    {"images:\n  - {name: a, size: 4, crc32: 1c291ca}", NULL},
    {"images:\n  - {name: a, size: 4, crc32: zz}", "found \"zz\", expected eight hex digits"},
    {"images:\n  - {name: a, size: 4, md5: abc}", "found \"abc\", expected 32 hex digits"},
    {"images:\n  - {name: a, size: 4, sum16: 1, version: 1, vesion: 2}", "did you mean"},
    {"images: 7", "c.yaml:1: images"},
    {"pictures: []", "no such key"},
    {"images: [", "this is not YAML"},
};

static void every_error(void)
{
    for (size_t i = 0; i < COUNT(bad); i++) {
        rmg_catalogue c;
        rmg_errors found = {0};
        const rmg_status status =
            rmg_catalogue_load(temporary_file("c.yaml", bad[i].text), &c, &found);

        if (bad[i].says)
            CHECK(status == RMG_ERR_CONTENT && found.count &&
                      strstr(found.list[0].what, bad[i].says) && !c.count,
                  "row %zu: %s", i, found.count ? found.list[0].what : "accepted");
        else
            CHECK(status == RMG_OK && c.count == 1, "row %zu", i);
        rmg_errors_free(&found);
        rmg_catalogue_free(&c);
    }
}

static void added(void)
{
    static const char *const before =
        "# mine\nimages:\n  - {name: old, size: 3, sum16: 0x12}   # odd";
    const char *file = temporary_file("mine.yaml", before);
    rmg_known entry = {.name = (char[]){"my \"own\" \\ ROM"},
                       .board = (char[]){"a board"},
                       .version = (char[]){"1.0"},
                       .socket = (char[]){""},
                       .image = (char[]){"/some/where.bin"}};
    rmg_errors found = {0};
    rmg_catalogue c;
    char *text, *now;
    rmg_error error = {0};

    CHECK(rmg_catalogue_add(file, &entry, "abc", 3, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
    CHECK(rmg_catalogue_load(file, &c, &found) == RMG_OK && c.count == 2, "%s",
          found.count ? found.list[0].what : "");
    CHECK(
        strcmp(c.list[1].name, "my \"own\" \\ ROM") == 0 && strcmp(c.list[1].version, "1.0") == 0 &&
            strcmp(c.list[1].socket, "") == 0 && c.list[1].size == 3 && c.list[1].told == 63 &&
            strcmp(c.list[1].image, "/some/where.bin") == 0 && c.list[1].sums.crc32 == 0x352441C2 &&
            strcmp(c.list[1].sums.md5, "900150983cd24fb0d6963f7d28e17f72") == 0,
        "as it was added");
    rmg_catalogue_free(&c);
    text = file_text(file);
    CHECK(g_str_has_prefix(text, before), "what stood there stays, comments too");
    CHECK(rmg_catalogue_add(file, &entry, "abc", 3, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "mine.yaml:4: the same bytes are in it already"),
          "%s", error.what ? error.what : "");
    rmg_error_free(&error);
    now = file_text(file);
    CHECK(strcmp(now, text) == 0, "unchanged");
    g_free(now);
    g_free(text);
    file = temporary_path("new.yaml");
    g_remove(file);
    entry.image = (char *)(uintptr_t)temporary_path("below.bin");
    CHECK(rmg_catalogue_add(file, &entry, "xyz", 3, &error) == RMG_OK &&
              rmg_catalogue_load(file, &c, &found) == RMG_OK && c.count == 1,
          "a new one");
    rmg_catalogue_free(&c);
    CHECK(rmg_catalogue_add(temporary_file("bad.yaml", "images: 7"), &entry, "x", 1, &error) ==
                  RMG_ERR_CONTENT &&
              strstr(error.what, "bad.yaml:1"),
          "%s", error.what ? error.what : "");
    rmg_error_free(&error);
    CHECK(rmg_catalogue_add("/none/c.yaml", &entry, "x", 1, &error) == RMG_ERR_FILE, "no folder");
    rmg_error_free(&error);
}

static uint8_t *demo_image(const char *name, size_t *size)
{
    gchar *path = g_strdup_printf("demo/images/%s.bin", name), *bytes = NULL;

    CHECK(g_file_get_contents(project_path(path), &bytes, size, NULL), "%s", name);
    g_free(path);
    return (uint8_t *)bytes;
}

static bool knows(const rmg_identity *id, const rmg_catalogue *c, rmg_image_part part,
                  const char *name, const char *version)
{
    for (size_t i = 0; i < id->match_count; i++)
        if (!id->matches[i].bits_away && id->forms[id->matches[i].form].part == part &&
            strcmp(c->list[id->matches[i].entry].name, name) == 0 &&
            strcmp(c->list[id->matches[i].entry].version, version) == 0)
            return true;
    return false;
}

static void known(void)
{
    rmg_errors found = {0};
    rmg_catalogue c;
    rmg_identity id;
    size_t size, odd_size;
    uint8_t *image = demo_image("halvorn64-system-2.1", &size), *large = g_malloc(65536), *even,
            *odd;

    CHECK(rmg_catalogue_load(project_path("demo/catalogue.yaml"), &c, &found) == RMG_OK &&
              c.count == 9,
          "the demo's");
    rmg_identify(image, size, &c, &id);
    CHECK(knows(&id, &c, RMG_PART_WHOLE, "system ROM", "2.1") && !id.matches[0].bits_away,
          "as it is");
    rmg_identity_free(&id);

    for (size_t i = 0; i < 4; i++)
        memcpy(large + i * size, image, size);
    rmg_identify(large, 65536, &c, &id);
    CHECK(knows(&id, &c, RMG_PART_ONCE, "system ROM", "2.1"), "repeated four times");
    rmg_identity_free(&id);
    memset(large + size, 0, 65536 - size);
    rmg_identify(large, 65536, &c, &id);
    CHECK(knows(&id, &c, RMG_PART_UNPADDED, "system ROM", "2.1"), "padded with zeros");
    rmg_identity_free(&id);
    memset(large, 0x5A, size);
    memcpy(large + size, image, size);
    rmg_identify(large, 2 * size, &c, &id);
    CHECK(knows(&id, &c, RMG_PART_UPPER_HALF, "system ROM", "2.1"), "the upper half");
    rmg_identity_free(&id);

    even = demo_image("ostrel16-program-1.4-even", &size);
    odd = demo_image("ostrel16-program-1.4-odd", &odd_size);
    for (size_t i = 0; i < size; i++) {
        large[2 * i] = even[i];
        large[2 * i + 1] = odd[i];
    }
    rmg_identify(large, 2 * size, &c, &id);
    CHECK(knows(&id, &c, RMG_PART_EVEN, "program, even bytes", "1.4") &&
              knows(&id, &c, RMG_PART_ODD, "program, odd bytes", "1.4"),
          "the chips of a pair");
    rmg_identity_free(&id);

    image[100] |= 0x81;
    image[101] ^= 0xFF;
    rmg_identify(image, 16384, &c, &id);
    CHECK(id.match_count >= 1 && id.matches[0].bits_away >= 8 && id.matches[0].bits_away <= 10 &&
              strcmp(c.list[id.matches[0].entry].version, "2.1") == 0 &&
              id.matches[0].first[id.matches[0].bits_away > 8 ? 7 : 0] / 8 <= 101,
          "near: %u bits away", id.match_count ? (unsigned)id.matches[0].bits_away : 0);
    rmg_identity_free(&id);
    for (size_t i = 0; i < 16384; i++)
        image[i] = (uint8_t)(i * 31 + i / 256 * 7);
    rmg_identify(image, 16384, &c, &id);
    CHECK(!id.match_count && !id.unreadable, "unknown");
    rmg_identity_free(&id);
    g_free(c.list[0].image);
    c.list[0].image = g_strdup("/none.bin");
    rmg_identify(image, 16384, &c, &id);
    CHECK(id.unreadable == 1, "an image that is gone is counted");
    rmg_identity_free(&id);
    rmg_catalogue_free(&c);
    g_free(image);
    g_free(even);
    g_free(odd);
    g_free(large);
}

/* The images in the repository are what their program makes. */
static void demo_images_are_made(void)
{
    static const char *const names[] = {
        "halvorn64-system-2.0",     "halvorn64-system-2.1",      "halvorn64-system-2.2",
        "halvorn64-characters-1",   "halvorn64-characters-2",    "ostrel16-program-1.3-even",
        "ostrel16-program-1.3-odd", "ostrel16-program-1.4-even", "ostrel16-program-1.4-odd"};
    gchar *folder = g_path_get_dirname(temporary_path("x"));
    gchar *glyphs = g_strdup(project_path("demo/glyphs.txt"));
    gchar *program = g_strdup(RMG_BUILD "/make-demo-images");
    gchar *words[] = {program, glyphs, folder, NULL};
    gint status = -1;

    CHECK(g_spawn_sync(NULL, words, NULL, 0, NULL, NULL, NULL, NULL, &status, NULL) && status == 0,
          "made");
    for (size_t i = 0; i < COUNT(names); i++) {
        gchar *name = g_strdup_printf("%s.bin", names[i]), *made = NULL;
        size_t size, made_size = 0;
        uint8_t *kept = demo_image(names[i], &size);

        CHECK(g_file_get_contents(temporary_path(name), &made, &made_size, NULL) &&
                  size == made_size && memcmp(kept, made, size) == 0,
              "%s", names[i]);
        g_free(made);
        g_free(kept);
        g_free(name);
    }
    g_free(folder);
    g_free(glyphs);
    g_free(program);
}

/* Catalogues as others write them: the entry goes in, the old ones stay, to the byte; or the file
 * is as it was. */
static void added_to_every_form(void)
{
    static const struct {
        const char *title, *text;
        size_t entries; /* afterwards; 0: refused */
    } rows[] = {
        {"entries not indented", "images:\n- {name: old, size: 3, crc32: \"352441c2\"}\n", 2},
        {"entries by four", "images:\n    - name: old\n      size: 3\n      crc32: \"352441c2\"\n",
         2},
        {"a flow list", "images: [{name: old, size: 3, crc32: \"352441c2\"}]\n", 2},
        {"an empty list", "images: []\n", 1},
        {"nothing yet", "images:\n", 1},
        {"JSON", "{\"images\": [{\"name\": \"old\", \"size\": 3, \"crc32\": \"352441c2\"}]}", 2},
        {"empty JSON", "{\"images\": []}", 1},
        {"marks of a document",
         "---\nimages:\n  - name: old\n    size: 3\n    crc32: \"352441c2\"\n...\n", 2},
        {"a byte-order mark and a remark",
         "\xef\xbb\xbfimages:\n  - name: \"\xc3\xa9\"\n    size: 3\n    crc32: \"352441c2\" # "
         "\xc3\xa9\n"
         "\n# end\n",
         2},
        {"a text of several lines",
         "images:\n  - size: 3\n    crc32: \"352441c2\"\n    name: |\n      old\n      one\n", 2},
        {"carriage returns",
         "images:\r\n  - name: old\r\n    size: 3\r\n    crc32: \"352441c2\"\r\n", 2},
        {"no last line end", "images:\n  - name: old\n    size: 3\n    crc32: \"352441c2\"", 2},
        {"a comma too many", "images:\n  [\n   {name: old, size: 3, crc32: \"352441c2\"},\n  ]\n",
         0},
        {"another key", "images: []\nmore: 1\n", 0},
    };
    static const char name[] = "a\x7f\xc2\x85\"\\b \xe2\x80\xa8 \xf0\x9f\x94\xa7";
    const rmg_known entry = {
        .name = (char *)(uintptr_t)name, .board = "", .version = "1", .socket = "U5", .image = ""};

    for (size_t i = 0; i < COUNT(rows); i++) {
        const char *file = temporary_file("form.yaml", rows[i].text);
        rmg_error error = {0};
        const rmg_status status = rmg_catalogue_add(file, &entry, "xyz", 3, &error);
        rmg_errors errors = {0};
        rmg_catalogue c = {0};
        char *text = file_text(file);

        CHECK((status == RMG_OK) == (rows[i].entries > 0), "%s: %s", rows[i].title,
              error.what ? error.what : rmg_status_text(status));
        rmg_error_free(&error);
        if (!rows[i].entries) {
            CHECK(strcmp(text, rows[i].text) == 0, "%s: as it was", rows[i].title);
        } else {
            CHECK(rmg_catalogue_load(file, &c, &errors) == RMG_OK && c.count == rows[i].entries &&
                      strcmp(c.list[c.count - 1].name, name) == 0 &&
                      strcmp(c.list[c.count - 1].socket, "U5") == 0,
                  "%s: %s", rows[i].title, errors.count ? errors.list[0].what : "read back");
            rmg_catalogue_free(&c);
        }
        rmg_errors_free(&errors);
        g_free(text);
    }
}

/* What is no text, and what cannot be looked at, is refused. */
static void not_added(void)
{
    rmg_known entry = {.name = "x", .board = "", .version = "", .socket = "", .image = "a\xff.bin"};
    const char *file = temporary_path("none.yaml");
    rmg_error error = {0};

    CHECK(rmg_catalogue_add(file, &entry, "xyz", 3, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "not UTF-8") && !g_file_test(file, G_FILE_TEST_EXISTS),
          "%s", error.what ? error.what : "added");
    rmg_error_free(&error);
    entry.image = "";
    CHECK(rmg_catalogue_add("/dev/null/c.yaml", &entry, "xyz", 3, &error) != RMG_OK && error.what,
          "no such place");
    rmg_error_free(&error);
}

CU_TestInfo catalogue_tests[] = {
    {"every error", every_error},
    {"added", added},
    {"added to every form", added_to_every_form},
    {"not added", not_added},
    {"known", known},
    {"demo images are made", demo_images_are_made},
    CU_TEST_INFO_NULL,
};
