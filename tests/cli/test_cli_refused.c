/* What the command line refuses before anything runs: numbers past their limits, files that are not
 * ours, a run that has nothing left to do. */
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define FONT    "demo/images/halvorn64-characters-2.bin"

/* Both sides of every number on the command line: what just goes and what does not. */
static void limits_of_options(void)
{
    static const struct {
        const char *words;   /* %s: the value */
        const char *good[2]; /* "" for one limit only */
        const char *bad[2];
        const char *says;
    } rows[] = {
        {"test|" HALVORN "|--on|sim:|--bank|upper|--march|MATS|--passes|%s",
         {"1", "2"},
         {"0", "1000001"},
         "from 1 to 1000000"},
        {"test|" HALVORN "|--on|sim:|--passes|%s", {"", ""}, {"-1", "-2147483647"}, "from 1 to"},
        {"test|" HALVORN "|--on|sim:|--passes|1|--seed|%s",
         {"0", "9223372036854775807"},
         {"-1", "-9223372036854775808"},
         "from 0 to 9223372036854775807"},
        {"test|" HALVORN "|--on|sim:|--page|%s", {"", ""}, {"0", "-1"}, "no pages"},
        {"test|" HALVORN "|--on|sim:|--march|MATS|--passes|1|--range|%s",
         {"0-0", "0xBFFF"},
         {"0x10000", "1-0"},
         "range"},
        {"test|--passes|1|--march|any(w0);any(r0)|--on|%s",
         {"ram:4K", "ram:1M,threads=64"},
         {"ram:4095", "ram:1M,threads=65"},
         "expected"},
        {"test|--passes|1|--march|any(w0);any(r0)|--on|%s",
         {"ram:4K,threads=1", ""},
         {"ram:4K,threads=0", "ram:0%"},
         "expected"},
        {"test|--passes|1|--on|%s", {"", ""}, {"ram:101%", "ram:1K"}, "expected"},
        {"dump|" HALVORN "|U52|--bare|--on|sim:|--readings|%s",
         {"1", "1000"},
         {"0", "1001"},
         "from 1 to 1000"},
        {"dump|" HALVORN "|U52|--bare|--on|sim:|--watch|--passes|%s",
         {"1", "2"},
         {"0", "-1"},
         "from 1 to"},
        {"dump|" HALVORN "|U52|--bare|--on|sim:|--glyphs|%s",
         {"1x1", "32x64"},
         {"0x8", "32x65"},
         "at most 32x64"},
        {"dump|" HALVORN "|U52|--bare|--on|sim:|--glyphs|%s",
         {"8x8/8", "8x8/16"},
         {"33x8", "8x8/7"},
         "at most 32x64"},
        {"verify|" HALVORN "|U5|--on|sim:|--clock-hz|%s",
         {"1000000-1000000/1", "1000000-1000063/1"},
         {"1000000-1000064/1", "1000001-1000000/1"},
         "at most 64 steps"},
        {"explain|--passes-for|%s", {"0.0001%", "99.99%"}, {"0%", "100%"}, "from 0.0001"},
        {"image|" FONT "|--fill|%s", {"0", "255"}, {"256", "-1"}, "from 0 to 0xFF"},
        {"image|" FONT "|--cut|%s", {"0-0", "0x7FF-0x7FF"}, {"0x800-0x800", "1-0"}, ""},
        {"image|" FONT "|--pad|%s", {"2048", "4096"}, {"2047", "1025M"}, ""},
        {"image|" FONT "|--repeat|%s", {"2K", "4K"}, {"1K", "1025M"}, ""},
        {"image|" FONT "|--invert-data|%s", {"0", "0xFF"}, {"0x100", "-1"}, "like 0xFF"},
    };

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++)
        for (unsigned n = 0; n<4; n += ONE_IN> 1 ? 2 : 1) { /* with sanitizers one of each */
            const char *value = n < 2 ? rows[i].good[n] : rows[i].bad[n - 2];
            gchar *words, *plain = g_strdup(value);
            answer a;

            if (!*plain) {
                g_free(plain);
                continue;
            }
            words = replaced(rows[i].words, "%s", plain);
            a = call(words);
            CHECK(n < 2 ? a.status == 0 && !*a.err : a.status == 2 && strstr(a.err, rows[i].says),
                  "%s: %d %s", words, a.status, a.err);
            drop(&a);
            g_free(words);
            g_free(plain);
        }
}

/* A file that is there: may this call replace it? Ours and exactly the same bytes always, any with
 * --force; refused before anything is read or run, and unharmed. */
static void replaced_files(void)
{
    static const struct {
        const char *words, *name, *before; /* NULL: what the call itself wrote */
        int status;
    } rows[] = {
        {"test|" HALVORN "|--on|sim:|--json|%s", "a.json", "{\"mine\": 1}", 2},
        {"test|" HALVORN "|--on|sim:|--json|%s", "a.json", "", 0},
        {"test|" HALVORN "|--on|sim:|--json|%s", "b.json", NULL, 0},
        {"test|" HALVORN "|--on|sim:|--json|%s|--force", "a.json", "mine", 0},
        {"test|" HALVORN "|--on|sim:|--record|%s", "a.run", "mine", 2},
        {"test|" HALVORN "|--on|sim:|--record|%s", "b.run", NULL, 0},
        {"test|" HALVORN "|--on|sim:|--picture|%s", "a.png", "\x89PNG of mine", 2},
        {"test|" HALVORN "|--on|sim:|--picture|%s", "b.png", NULL, 0},
        {"test|" HALVORN "|--on|sim:|--picture|%s", "b.svg", NULL, 0},
        {"test|" HALVORN "|--on|sim:|--picture|%s", "a.svg", "<svg>mine</svg>", 2},
        {"dump|" HALVORN "|U5|--on|sim:|--write|%s", "a.bin", "mine", 2},
        {"dump|" HALVORN "|U5|--on|sim:|--write|%s|--force", "a.bin", "mine", 0},
        {"verify|" HALVORN "|U5|--on|sim:|--json|%s", "a.json", "mine", 2},
        {"probe|" HALVORN "|0x9C40|0=0|--json|%s", "a.json", "mine", 2},
        {"identify|demo/images/gauge.hex|--json|%s", "a.json", "mine", 2},
        {"image|demo/images/gauge.hex|--write|%s", "a.hex", "mine", 2},
        {"image|demo/images/gauge.hex|--write|%s", "b.hex", NULL, 0},
        {"image|demo/images/gauge.hex|--write|%s|--force", "a.hex", "mine", 0},
        {"image|demo/images/halvorn64-system-2.1.bin|--split|%s,/dev/null", "a.even", "mine", 2},
        {"board|show|" HALVORN "|--json|%s", "a.json", "mine", 2},
    };
    const char *bare =
        temporary_file("bare.yaml", "board: one\nword: 8\naddress-lines: 10\n"
                                    "regions: [{name: all, range: 0-0x3FF, kind: ram}]\n"
                                    "banks: []\nsockets: []\n");
    gchar *drawn = g_strdup_printf("test|%s|--on|sim:|--picture|x.png", bare);
    answer refused = call(drawn);

    CHECK(refused.status == 2 && !*refused.out && strstr(refused.err, "where the sockets are"),
          "nothing is run that cannot be drawn: %s", refused.err);
    drop(&refused);
    g_free(drawn);

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *file = g_strdup(rows[i].before ? temporary_file(rows[i].name, rows[i].before)
                                              : temporary_path(rows[i].name));
        gchar *words = g_strdup_printf(rows[i].words, file), *after = NULL;
        answer a = call(words);

        if (!rows[i].before) {
            CHECK(a.status == 0, "row %zu: written: %s", i, a.err);
            drop(&a);
            a = call(words);
        }
        CHECK(g_file_get_contents(file, &after, NULL, NULL), "row %zu: there", i);
        CHECK(a.status == rows[i].status, "row %zu: status %d, %s%s", i, a.status, a.out, a.err);
        CHECK(rows[i].status == 0
                  ? !rows[i].before || strcmp(after, rows[i].before) != 0
                  : strcmp(after, rows[i].before) == 0 && strstr(a.err, "--force replaces it"),
              "row %zu: %s%s", i, a.out, a.err);
        drop(&a);
        g_free(after);
        g_free(words);
        g_free(file);
    }
}

/* A run that is continued obeys what is asked now, and that alone. */
static void resumed_runs(void)
{
    static const struct {
        const char *begun, *resumed;
        int status;
        const char *says;
    } rows[] = {
        {"--for|1s", "--passes|90", 0, "90 of 90 passes"},
        {"--for|1s", "--for|1500ms", 2, "expected a time"},
        {"--for|1s", "--for|2s", 0, "passes, seed 1"},
        {"--for|1s", "--for|1s", 2, "has run for its time already"},
        {"--passes|3", "--passes|4", 0, "4 of 4 passes"},
        {"--passes|3", "--passes|3", 2, "has 3 passes already"},
        {"--passes|3", "--for|1s", 0, "passes, seed 1"},
        {"--passes|3", "", 2, "has 3 passes already"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *file = g_strdup(temporary_path("resumed.run"));
        gchar *words = g_strdup_printf("test|" HALVORN "|--on|sim:|--range|0x8000-0x9FFF|%s"
                                       "|--record|%s",
                                       rows[i].begun, file);
        answer a = call(words);

        CHECK(a.status == 0, "row %zu: begun: %s", i, a.err);
        drop(&a);
        g_free(words);
        words = g_strdup_printf("test|--resume|%s%s%s", file, *rows[i].resumed ? "|" : "",
                                rows[i].resumed);
        a = call(words);
        CHECK(a.status == rows[i].status && strstr(a.status ? a.err : a.out, rows[i].says),
              "row %zu: status %d: %s%s", i, a.status, a.out, a.err);
        drop(&a);
        g_free(words);
        g_free(file);
    }
}

CU_TestInfo refused_tests[] = {
    {"limits of options", limits_of_options},
    {"files that are replaced", replaced_files},
    {"runs continued", resumed_runs},
    CU_TEST_INFO_NULL,
};
