/* Killed at any moment: soaks and dumps are continued to the same result, what is written is the
 * old file or the new one. Not under sanitizers: it shows no more there, and takes ten times as
 * long.
 */
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define NIGHT   "sim:demo/faults/halvorn64-night.yaml"

/* A run's, or reading's, result without times. */
static json_t *outcome(const char *file)
{
    json_t *root = json_load_file(file, 0, NULL), *each, *one;
    size_t i;

    json_object_del(root, "seconds_wall");
    json_object_del(root, "target");
    each = json_object_get(json_object_get(root, "passes"), "each");
    json_array_foreach(each, i, one) json_object_del(one, "ended_seconds_wall");
    return root;
}

static void kill_after(pid_t pid, unsigned us)
{
    g_usleep(us);
    kill(pid, SIGKILL);
    ended(pid);
}

#define KILLS 4u

/* So many kills: RMG_TEST_KILLS. */
static unsigned kills(void)
{
    const char *asked = getenv("RMG_TEST_KILLS");

    return asked ? (unsigned)strtoul(asked, NULL, 10) : KILLS;
}

/* Waits for what is kept at a boundary: before it there is nothing to go on with. */
static void wait_for(const char *file)
{
    for (unsigned n = 0; n < 5000 && !g_file_test(file, G_FILE_TEST_EXISTS); n++)
        g_usleep(2000);
}

/* A soak killed at any moment, continued, ends as one that was never killed. */
static void soaks_killed(void)
{
    gchar *run = g_strdup(temporary_path("killed.run")),
          *json = g_strdup(temporary_path("killed.json"));
    gchar *out = g_strdup(temporary_path("killed.out"));
    gchar *whole = g_strdup_printf("test|" HALVORN "|--on|" NIGHT "|--passes|60|--json|%s", json);
    gchar *begun = g_strdup_printf("test|" HALVORN "|--on|" NIGHT "|--passes|60|--record|%s", run);
    gchar *resumed = g_strdup_printf("test|--resume|%s|--passes|60|--json|%s", run, json);
    unsigned same = 0, gone_on = 0;
    gint64 took = g_get_monotonic_time(); /* microseconds, of a run that nothing ends */
    json_t *wanted;

    ended(begin(whole, out, NULL));
    took = g_get_monotonic_time() - took;
    wanted = outcome(json);
    for (unsigned i = 0; i < kills(); i++) {
        json_t *got;
        pid_t pid;

        g_remove(run);
        g_remove(json);
        pid = begin(begun, out, NULL);
        wait_for(run);
        kill_after(pid, (unsigned)(i * 150007 % (took / 2)));
        gone_on += g_file_test(run, G_FILE_TEST_EXISTS) ? 1u : 0u;
        kill_after(begin(resumed, out, NULL), 1000 + i * 104729 % 150000);
        ended(begin(resumed, out, NULL));
        got = outcome(json);
        same += json_equal(got, wanted) ? 1u : 0u;
        json_decref(got);
    }
    CHECK(gone_on == kills() && same == gone_on && !strangers(), "%u of %u", same, gone_on);
    printf("  soaks: %u killed, %u continued to the same result ", kills(), same);
    json_decref(wanted);
    g_free(run);
    g_free(json);
    g_free(out);
    g_free(whole);
    g_free(begun);
    g_free(resumed);
}

/* A chip large enough that its reading takes seconds. */
static const char slow_board[] =
    "board: slow\nword: 8\naddresses: words\naddress-lines: 19\nundriven: holds\n"
    "regions:\n  - {name: rom, kind: rom, range: 0x00000-0x3FFFF}\n"
    "  - {name: free, kind: empty, range: 0x40000-0x40000}\n"
    "parts: [{number: ROM256, kind: rom, width: 8, address-lines: 18, pins: \"A0 A1 A2 A3 A4 A5 A6 "
    "A7 "
    "A8 A9 A10 A11 A12 A13 A14 A15 A16 A17 D0 D1 D2 D3 D4 D5 D6 D7\"}]\n"
    "banks: [{name: rom, range: 0x00000-0x3FFFF, part: ROM256, lines: A0-A17, data: {U1: D0-D7}}]\n"
    "sockets: [{names: U1, mount: socket}]\n";

/* Dumps killed at any moment: what was read is kept, and continued to the same image. */
static void dumps_killed(void)
{
    const char *board = temporary_file("slow.yaml", slow_board);
    gchar *image = g_strdup(temporary_path("slow.bin")),
          *out = g_strdup(temporary_path("slow.out"));
    gchar *kept = g_strconcat(image, ".unfinished", NULL), *good = NULL, *got;
    gchar *whole = g_strdup_printf("dump|%s|U1|--on|sim:|--readings|1|--write|%s", board, image);
    gchar *begun = g_strdup_printf("dump|%s|U1|--on|sim:|--readings|120|--write|%s", board, image);
    gchar *resumed = g_strconcat(begun, "|--resume", NULL);
    unsigned saved = 0, same = 0;
    gsize size, got_size;

    ended(begin(whole, out, NULL));
    CHECK(g_file_get_contents(image, &good, &size, NULL), "the whole dump");
    for (unsigned i = 0; i < (kills() + 7) / 8; i++) {
        pid_t pid;

        g_remove(image);
        g_remove(kept);
        pid = begin(begun, out, NULL);
        wait_for(kept);
        kill_after(pid, i * 7919 % 300000);
        if (!g_file_test(kept, G_FILE_TEST_EXISTS))
            continue;
        saved++;
        kill_after(begin(resumed, out, NULL), i * 104729 % 200000);
        ended(begin(resumed, out, NULL));
        if (g_file_get_contents(image, &got, &got_size, NULL)) {
            same += got_size == size && memcmp(got, good, size) == 0;
            g_free(got);
        }
        CHECK(!g_file_test(kept, G_FILE_TEST_EXISTS), "what was kept is not needed any more");
    }
    CHECK(saved && same == saved && !strangers(), "%u of %u", same, saved);
    printf("  dumps: %u saved themselves, %u continued to the same image ", saved, same);
    g_free(good);
    g_free(image);
    g_free(out);
    g_free(kept);
    g_free(whole);
    g_free(begun);
    g_free(resumed);
}

/* Images and catalogues written while they are killed: the old file or the new one. */
static void writes_killed(void)
{
    static const struct {
        const char *title, *words, *file;
    } rows[] = {
        {"image",
         "image|demo/images/halvorn64-system-2.1.bin|--repeat|4M|--as|intel|--force|--write|%s",
         "written.hex"},
        {"--add", "identify|demo/images/halvorn64-system-2.1.bin|--add|--name|new|--catalogue|%s",
         "written.yaml"}};
    gchar *out = g_strdup(temporary_path("written.out"));

    for (size_t r = 0; r < COUNT(rows); r++) {
        const char *file = temporary_path(rows[r].file);
        gchar *words = g_strdup_printf(rows[r].words, file), *new = NULL, *now;
        unsigned olds = 0, news = 0;
        gint64 took = g_get_monotonic_time();

        temporary_file(rows[r].file, "images: []\n");
        ended(begin(words, out, NULL));
        took = g_get_monotonic_time() - took;
        new = file_text(file);
        for (unsigned i = 0; i < kills() && took > 0; i++) {
            temporary_file(rows[r].file, "images: []\n");
            kill_after(begin(words, out, NULL), (unsigned)took * (5 * i + 4) / (4 * kills()));
            now = file_text(file);
            olds += now && strcmp(now, "images: []\n") == 0;
            news += now && strcmp(now, new) == 0;
            g_free(now);
        }
        CHECK(olds + news == kills(), "%s: %u old, %u new of %u", rows[r].title, olds, news,
              kills());
        printf("  %s: %u killed, %u old files, %u new ", rows[r].title, kills(), olds, news);
        g_free(new);
        g_free(words);
    }
    g_free(out);
}

CU_TestInfo kill_tests[] = {
    {"soaks killed", soaks_killed},
    {"dumps killed", dumps_killed},
    {"writes killed", writes_killed},
    CU_TEST_INFO_NULL,
};
