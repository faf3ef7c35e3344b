/* The command line as a user calls it: status, stdout, stderr, files written. And the examples. */
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <signal.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define OSTREL  "demo/boards/ostrel16.yaml"
#define HALVORN "demo/boards/halvorn64.yaml"
#define U19     "sim:demo/faults/halvorn64-u19.yaml"

static const call_row calls[] = {
    {"--version", 0, "rimeglass 0.", ""},
    {"--help", 0, "board ", ""},
    {"help", 0, "rimeglass board show demo/boards", ""},
    {"", 2, "", "a command is missing"},
    {"bord", 2, "", "did you mean \"board\"?"},
    {"frobnicate", 2, "", "--help lists them"},
    {"board|--help", 0, "Examples", ""},
    {"test|--help", 0, "OVERWRITES that RAM", ""},
    {"board", 2, "", "expected show, check or new"},
    {"board|chek|" HALVORN, 2, "", "did you mean check?"},
    {"board|show", 2, "", "expected one board file"},
    {"board|show|none.yaml", 2, "", "none.yaml: cannot be read"},
    {"board|check|demo/faults/halvorn64-u19.yaml", 2, "", "halvorn64-u19.yaml:2: world-seed"},
    {"board|check|" HALVORN, 0, "no error found", ""},
    {"board|show|" HALVORN, 0, "U19       U20       U21", ""},
    {"board|show|demo/boards/ostrel16.yaml", 0, "D15-D12", ""},
    {"board|show|" HALVORN "|--json|-", 0, "\"rimeglass_board\": 1", ""},
    {"board|show|" HALVORN "|--at|0x9C40|--bit|6", 0,
     "D6   U20    4116   upper         in at pin 2, out", ""},
    {"board|show|demo/boards/tarnbeck.yaml|--at|0x80004|--bit|D9", 0,
     "U6     62256  rank 0 high   pin 12", ""},
    {"board|show|" HALVORN "|--at|0x4000", 0, "no socket", ""},
    {"board|show|" HALVORN "|--at|0x14000", 2, "", "an address up to 0xFFFF"},
    {"board|show|" HALVORN "|--at|0|--bit|D8", 2, "", "from D0 to D7"},
    {"board|show|" HALVORN "|--bit|D8", 2, "", "--bit goes with --at"},
    {"board|show|" HALVORN "|--socket|U19", 0, "pin 10  A5 and A12", ""},
    {"board|show|demo/boards/tarnbeck.yaml|--socket|U9", 0, "The processor cannot see it", ""},
    {"board|show|" HALVORN "|--socket|U99", 2, "", "no such socket"},
    {"probe|--help", 0, "restores what was there", ""},
    {"probe", 2, "", "expected a board file"},
    {"probe|" HALVORN, 2, "", "expected an address"},
    {"probe|" HALVORN "|0x9C40", 2, "", "expected values WROTE=READ"},
    {"probe|" HALVORN "|0=0", 2, "", "before any address"},
    {"probe|" HALVORN "|0x19C40|0=0", 2, "", "expected an address up to 0xFFFF"},
    {"probe|" HALVORN "|0x9C40|0=256", 2, "", "both of 8 bits"},
    {"probe|" HALVORN "|0x9C40|0=zero", 2, "", "0=zero"},
    {"probe|" HALVORN "|0x9C40|0=0|--on|sim:", 2, "", "with --on use --values"},
    {"probe|" HALVORN "|0x9C40|--on|sim:|--values|0,300", 2, "", "\"300\""},
    {"probe|" HALVORN "|0x4000|--on|sim:", 2, "", "\"ports\" (reserved"},
    {"probe|" HALVORN "|0x9C40|--on|sim:", 0, "Every value", ""},
    {"probe|" HALVORN "|0x9C40|--on|" U19, 1, "Look at U19", ""},
    {"probe|" HALVORN "|40000|0b11111111=127|0=0", 1, "Look at U19", ""},
    {"probe|" HALVORN "|0x9C40|255=127|--json|-", 1, "\"socket\": \"U19\"", ""},
    {"explain|--help", 0, "docs/coverage.md", ""},
    {"explain", 2, "", "expected one march"},
    {"explain|March Q", 2, "", "neither a march known by name"},
    {"explain|--all|March C-", 2, "", "--shortest or --plan-for"},
    {"explain|--shortest|SAF,AF", 0,
     "5N: any(w0); any(r0,w1); any(r1,w0)\nNo shorter march does: all were tried.\n\n", ""},
    {"explain|--shortest|DRF|--json|-", 0, "\"DRF\": 1.0", ""},
    {"explain|--shortest|SAF,XF", 2, "", "\"XF\" is no class of faults"},
    {"explain|--shortest|static|--within|4N", 1, "No march of up to 4N was found", ""},
    {"explain|--shortest|SAF|--within|0N", 2, "", "expected 1N to 40N"},
    {"explain|--shortest|SAF|--within|4M", 2, "", "expected 1N to 40N"},
    {"explain|--shortest|SAF|--width|-5", 2, "", "expected 1 to 100000"},
    {"explain|--shortest|SAF|--width|0", 2, "", "expected 1 to 100000"},
    {"explain|March C-|--width|0", 2, "", "--width go with --shortest"},
    {"explain|--shortest|SAF|MATS", 2, "", "expected one march"},
    {"explain|--within|4N|MATS", 2, "", "go with --shortest"},
    {"explain|--shortest|SAF|--write|/none/x.yaml", 2, "", "/none/x.yaml"},
    {"explain|march c-", 0, "March C-: 10 operations a word", ""},
    {"explain|any(w0);any(r0)|--json|-", 0, "\"ops_per_word\": 2, \"coverage\": {\"SAF\": 0.5", ""},
    {"test", 2, "", "expected one board file"},
    {"test|" HALVORN, 2, "", "say on what"},
    {"test|" HALVORN "|--pases|3", 2, "", "did you mean --passes?"},
    {"explain|Checkerboard", 0, "DRF       100.0 %", ""},
    {"test|" HALVORN "|--on|sim:|--march|checkerboard|--passes|1", 0, "Tested: checkerboard", ""},
    {"explain|quick", 0, "time at 1 MHz", ""},
    {"~explain|deep|--board|" HALVORN, 0, "rows disturbed", ""},
    {"~explain|demo/plans/neighbours.yaml|--board|" HALVORN, 0, "the mean of 24 orders drawn", ""},
    {"explain|demo/plans/neighbours.yaml|--board|demo/boards/lampdriver.yaml", 0,
     "No memory of this board has rows and columns", ""},
    {"explain|quick|--json|-", 0, "\"active\": 0.0", ""},
    {"explain|--plan-for|1s|--access-us|5|--board|" HALVORN, 0,
     "march: MATS+, background: checkerboard", ""},
    {"explain|--plan-for|1s|--access-us|5|--board|" HALVORN, 0, "1 fits into the time", ""},
    {"explain|--plan-for|1s|--access-us|4|--suspect|noise|--board|" HALVORN, 0,
     "background: random}", ""},
    {"explain|--plan-for|1s|--access-us|50|--board|" HALVORN, 2, "", "not enough for one march"},
    {"explain|--plan-for|1s|--without|rows,noise|--board|" HALVORN, 2, "",
     "--without: \"noise\" is none of addresses, random, noisy-lines"},
    {"explain|full|--without|rows", 2, "", "--without and --access-us go with --plan-for"},
    {"explain|--plan-for|1s|--access-us|-3|--board|" HALVORN, 2, "", "expected above 0"},
    {"explain|--plan-for|1s|--suspect|cold|--board|" HALVORN, 2, "", "one of noise, heat, row"},
    {"explain|--plan-for|soon|--board|" HALVORN, 2, "", "expected a time like 90s"},
    {"explain|--plan-for|1s", 2, "", "needs --board"},
    {"explain|MATS|--suspect|heat", 2, "", "go with --plan-for"},
    {"explain|MATS|--write|x.yaml", 2, "", "goes with --shortest or --plan-for"},
    {"explain|--plan-for|1s|--board|demo/shapes/rom-only.yaml", 2, "", "names no RAM"},
    {"explain|full|--board|" HALVORN "|--json|-", 0, "\"minutes_at_1_mhz\": ", ""},
    {"explain|MATS|--board|" HALVORN, 2, "", "--board goes with a plan"},
    {"explain|none.yaml", 2, "", "none.yaml: cannot be read"},
    {"test|" HALVORN "|--on|sim:|--plan|quick|--passes|1", 0, "step  3  MATS++", ""},
    {"test|" HALVORN "|--on|sim:|--plan|thorough", 2, "", "expected quick, full, deep"},
    {"test|" HALVORN "|--on|sim:|--plan|full|--march|MATS", 2, "", "not both"},
    {"test|" HALVORN "|--on|sim:|--for|soon", 2, "", "expected a time like 90s"},
    {"test|" HALVORN "|--on|sim:|--for|0s", 2, "", "expected a time like 90s"},
    {"test|" HALVORN "|--on|sim:|--for|1s|--march|MATS", 0, "passes, seed 1", ""},
    {"test|" HALVORN "|--on|sim:|--until-stopped|--for|1s", 2, "", "cannot be combined"},
    {"test|" HALVORN "|--on|sim:|--record|-", 2, "", "cannot go to standard output"},
    {"test|" HALVORN "|--on|sim:|--keep|--plan|deep|--passes|1", 0,
     "Rows disturbed, neighbours, moving addresses, copies", ""},
    {"~explain|deep|--json|-", 0,
     "\"all_lines\": 1.000000, \"line\": 1.000000, \"precharge\": 1.000000, \"recovery\": "
     "1.000000}",
     ""},
    {"explain|demo/plans/noisy.yaml", 0, "two lines 100.0 %", ""},
    {"explain|demo/plans/noisy.yaml|--board|demo/boards/lampdriver.yaml", 0, "slow line 100.0 %",
     ""},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-noisy.yaml|--plan|demo/plans/noisy.yaml|"
     "--passes|1|--range|0x8000-0x83FF",
     1, "address line A5 of the upper bank follows A4 and A6", ""},
    {"~explain|--plan-for|0.5s|--suspect|decoder|--board|demo/boards/lampdriver.yaml", 0,
     "moving: galloping by lines", ""},
    {"image|demo/images/gauge.hex", 0, "136 bytes in 2 pieces", ""},
    {"image|demo/images/gauge.hex|--as|motorola|--write|-", 0, "S9030000FC", ""},
    {"image|demo/images/gauge.hex|--as|octal|--write|-", 2, "", "expected raw, intel"},
    {"image|demo/images/gauge.hex|--as|raw|--write|-|--fill|300", 2, "", "expected a byte"},
    {"image|demo/images/gauge.hex", 0, "552 bytes, gaps filled with 0xFF", ""},
    {"image|none.hex", 2, "", "none.hex: cannot be read"},
    {"image|demo", 2, "", "demo: cannot be read"},
    {"image", 2, "", "expected one image file"},
    {"diagnose|--help", 0, "run file", ""},
    {"diagnose", 2, "", "expected one run file, or board file, found 0"},
    {"diagnose|none.run", 2, "", "none.run: cannot be read"},
    {"diagnose|" HALVORN, 2, "", "is a board file: expected what was measured"},
    {"diagnose|README.md|--open|U1.1-U2.1", 2, "", "not a run file"},
    {"diagnose|" HALVORN "|--open|U1.35-U22.10", 1, "measure from U1.35 to R16", ""},
    {"diagnose|" HALVORN "|--activity|U1.12=pulsing", 0, "says of no line", ""},
    {"diagnose|" HALVORN "|--activity|U1.12=moving", 2, "", "still, pulsing, high or low"},
    {"diagnose|" HALVORN "|--open|U1.35-U22.10|--json|-", 2, "", "need a run"},
    {"diagnose|none.run|--of|U19", 2, "", "go together"},
    {"diagnose|none.run|--picture|x.bmp", 2, "", ".png, .svg or .pdf"},
    {"test|" HALVORN "|--on|" U19 "", 1, "  the same  the output of U19 stuck", ""},
    {"test|" HALVORN "|--on|sim:|--blocks", 2, "", "--blocks: this target has no blocks"},
    {"test|" HALVORN "|--on|" U19 "|--range|0x8105-0x8110|--passes|1", 1, "D7 always reads 0", ""},
    {"test|" HALVORN "|--on|" U19 "|--no-replay", 1, "Look at U19", ""},
    {"test|" HALVORN "|--on|" U19 "|--known-good|U19", 1,
     "rules out: the chip in U19: its output is stuck", ""},
    {"test|" HALVORN "|--on|" U19 "|--known-good|U19", 1,
     "To settle it: power off, measure from the legs of U19", ""},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-a5.yaml|--continuous|U21.10-U22.10", 1,
     "To settle it: measure once more", ""},
    {"test|" HALVORN "|--on|" U19 "|--known-good|U19|--known-good|X1", 2, "",
     "--known-good: Halvorn 64 operator console has no socket X1; it has U11"},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-a5.yaml|--continuous|U21.10-U22.10", 1,
     "What you reported rules out: the track between U21.10 and U22.10", ""},
    {"test|" HALVORN "|--on|sim:|--continuous|U21.10", 2, "",
     "expected two different points of a line"},
    {"test|" HALVORN "|--on|sim:|--continuous|U21.10-U5.9", 2, "", "has both U21.10 and U5.9"},
    {"test|" HALVORN "|--on|sim:|--culprits|none.yaml", 2, "", "none.yaml"},
    {"test|" HALVORN "|--on|sim:|--culprits|" HALVORN, 2, "", "halvorn64.yaml:4: "},
    {"explain|--culprits", 0, "contact-address: [45, 45]", ""},
    {"explain|--culprits|MATS", 2, "", "--shortest or --plan-for"},
    {"explain|--passes-for|1%", 0, "299 clean passes", ""},
    {"explain|--passes-for|5 %", 0, "59 clean passes", ""},
    {"explain|--passes-for|0%", 2, "", "a share of passes"},
    {"explain|--passes-for|100%", 2, "", "a share of passes"},
    {"explain|--passes-for|1", 2, "", "a share of passes"},
    {"board|show|" HALVORN "|--socket|U91", 2, "", "no such socket; did you mean U11?"},
    {"board|show|" HALVORN "|--line|A55", 2, "", "no such line; did you mean A5?"},
    {"board|show|" HALVORN "|--line|QQQQ", 2, "", "no such line; its lines are under"},
    {"probe|" HALVORN "|uper|0=0", 2, "", "did you mean upper?"},
    {"explain|March D-", 2, "", "did you mean March C-?"},
    {"dump|" HALVORN "|systm ROM|--on|sim:", 2, "", "did you mean system ROM?"},
    {"help|test", 0, "a pass is one run", ""},
    {"help|help", 0, "rimeglass help COMMAND", ""},
    {"help|tset", 2, "", "did you mean"},
    {"probe|" HALVORN "|0xC000|0=0", 2, "", "a ROM"},
    {"probe|" HALVORN "|upper|255=127|0=0", 1,
     "0x9FFF stands for an address somewhere in the upper bank.", ""},
    {"probe|" HALVORN "|0x9C40|255=127|0=0|0x9C41|255=255|0=0", 1,
     "wrong at 0x9C40, right elsewhere", ""},
    {"probe|" HALVORN "|0x9C40|255=127|0=0|0x1C40|255=127|0=0", 1, "Look at data line D7.", ""},
    {"probe|" HALVORN "|upper|255=31|0=0", 1, "a shared cause", ""},
    {"board|show|" HALVORN "|--at|8000h|--bit|D7", 0, "U19", ""},
    {"board|show|" HALVORN "|--at|$8000|--bit|D7", 0, "U19", ""},
    {"board|show|" HALVORN "|--at|000", 2, "", "unquoted $8000"},
    {"test|--resume|none.run", 2, "", "none.run: cannot be read"},
    {"test|--resume|" HALVORN, 2, "", "not a run file"},
    {"test|" HALVORN "|--resume|none.run", 2, "", "are in the run file"},
    {"test|--on|ram:lots", 2, "", "expected ram:SIZE"},
    {"test|--on|ram:0%", 2, "", "a share of what is free like ram:50%"},
    {"test|--on|ram:101%", 2, "", "a share of what is free like ram:50%"},
    {"test|--on|ram:1M,or-more", 2, "", ",or-less"},
    {"test|--on|ram:1M,or-less|--passes|1", 0, "0xFFFFF", ""},
    {"test|--on|ram:1M,threads=0", 2, "", "expected ram:SIZE"},
    {"test|--on|ram:1M,threads=2|--passes|1|--march|MATS+", 0, "Cache lines are ", ""},
    {"test|--on|ram:1M|--bank|upper", 2, "", "no such bank"},
    {"test|" HALVORN "|--on|rom:64M", 2, "", "expected sim:"},
    {"test|" HALVORN "|--on|sim:none.yaml", 2, "", "none.yaml: cannot be read"},
    {"test|" HALVORN "|--on|sim:" HALVORN, 2, "", "a fault file has no such key"},
    {"test|" HALVORN "|--on|sim:|--passes|0", 2, "", "from 1 to 1000000"},
    {"test|" HALVORN "|--on|sim:|--passes|many", 2, "", "many"},
    {"test|" HALVORN "|--on|sim:|--range|0x8000-0x1FFFF", 2, "", "last address is 0xFFFF"},
    {"test|" HALVORN "|--on|sim:|--range|upper", 2, "", "a range like"},
    {"test|" HALVORN "|--on|sim:|--range|0x4000-0x4FFF", 2, "", "holds no RAM"},
    {"test|" HALVORN "|--on|sim:|--march|March Q", 2, "", "neither a march known by name"},
    {"test|" HALVORN "|--on|sim:|--march|up(w0); up(r2)", 2, "", "at \"r2)\" (place 12)"},
    {"test|" HALVORN "|--on|sim:|--picture|board.bmp", 2, "", ".png, .svg or .pdf"},
    {"test|" HALVORN "|--on|sim:|--json|/none/x.json", 2, "", "/none/x.json: cannot be written"},
    {"test|" HALVORN "|--on|sim:|--json|/dev/full", 2, "No fault found", "/dev/full"},
    {"test|" HALVORN "|--on|sim:|--json|demo", 2, "", "that is a folder"},
    {"test|" HALVORN "|--on|sim:", 0, "No fault found in what was tested", ""},
    {"test|" HALVORN "|--on|sim:|--passes|10|--march|MATS+", 0, "more than 26 % of passes", ""},
    {"test|" HALVORN "|--on|" U19, 1, "Look at U19, the 4116 that holds D7 of the upper bank", ""},
    {"test|" HALVORN "|--on|" U19 "|--range|0x0000-0x3BFF", 0, "not asked for", ""},
    {"test|" HALVORN "|--on|" U19 "|--march|any(w1);any(r1)|--passes|1", 1, "16384", ""},
    {"test|" HALVORN "|--on|" U19 "|--json|-", 1, "\"verdict\": \"fail\"", ""},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-a5.yaml", 1,
     "Look at line A5 between U21.10 and U22.10: U22-U26 do not follow it", ""},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-short.yaml", 1,
     "Look at data lines D3 and D5 of the upper bank: they touch", ""},
    {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-select.yaml", 1,
     "the lower bank and the upper bank reach the same cells", ""},
    {"board|show|" HALVORN "|--line|D7", 0, "through U8.9>U8.11", ""},
    {"board|show|" HALVORN "|--line|D9", 2, "", "has no such line"},
    {"test|" HALVORN "|--on|sim:|--bank|upper", 0, "0x8000-0xBFFF        16 KiB", ""},
    {"test|" HALVORN "|--on|sim:|--range|0x8000-0x8FFF", 0,
     "A12 A13 of the upper bank: cannot vary", ""},
    {"test|" HALVORN "|--on|sim:|--range|0x8000-0x8001", 0, "lines of the upper bank: not checked",
     ""},
    {"test|" HALVORN "|--on|sim:|--bank|middle", 2, "", "no such bank"},
    {"test|" HALVORN "|--on|sim:|--bank|uper", 2, "", "did you mean upper?"},
    {"test|" HALVORN "|--on|sim:|--socket|U91", 2, "", "did you mean U"},
    {"test|" HALVORN "|--on|" U19 "|--socket|U11", 0, "No fault found", ""},
    {"test|" HALVORN "|--on|" U19 "|--socket|U20", 1, "Look at U19", ""},
    {"test|" HALVORN "|--on|sim:|--region|nowhere", 2, "", "no such region"},
    {"test|" HALVORN "|--on|sim:|--region|Screen|--keep", 0, "0x3C00-0x3FFF        1 KiB", ""},
    {"test|" HALVORN "|--on|sim:|--bank|upper|--socket|U19", 2, "", "give one of"},
    {"test|" HALVORN "|--on|sim:|--page|0", 2, "", "the board has no pages"},
    {"test|demo/boards/ostrel16.yaml|--on|sim:|--region|motion tables", 0, "0x08000-0x0BFFF", ""},
    {"test|demo/boards/tarnbeck.yaml|--on|sim:|--passes|1", 0, "U9 cannot be tested from here", ""},
    {"test|demo/boards/ostrel16.yaml|--on|sim:", 0, "0x40000-0x4FFFF", ""},
};

static void answers(void)
{
    check_calls(calls, COUNT(calls));
}

/* Fits 100 columns, has no colour in a pipe, also where colour would be allowed. */
static void output_is_plain(void)
{
    static const char *const words[] = {"--help",
                                        "test|--help",
                                        "board|--help",
                                        "board|show|" HALVORN,
                                        "test|" HALVORN "|--on|" U19,
                                        "explain|--all",
                                        "explain|--help",
                                        "probe|--help",
                                        "dump|--help",
                                        "verify|--help",
                                        "identify|--help",
                                        "image|--help",
                                        "image|demo/images/halvorn64-system-2.1.bin|--map",
                                        "image|demo/images/halvorn64-characters-2.bin|--glyphs|8x8",
                                        "dump|" HALVORN "|U5|--on|sim:",
                                        "verify|demo/boards/ostrel16.yaml|program ROM|--on|"
                                        "sim:demo/faults/ostrel16-swapped.yaml",
                                        "verify|" HALVORN
                                        "|U5|--both|--on|sim:demo/faults/halvorn64-u5.yaml"};

    for (size_t i = 0; i < COUNT(words); i++) {
        answer a = call_with("rimeglass", words[i], "FORCE_COLOR", NULL);
        gchar **lines = g_strsplit(a.out, "\n", -1);

        for (size_t n = 0; lines[n]; n++)
            CHECK(g_utf8_strlen(lines[n], -1) <= 100, "%s: \"%s\"", words[i], lines[n]);
        CHECK(!strchr(a.out, '\033') && !strchr(a.out, '\r'), "%s: no colour", words[i]);
        g_strfreev(lines);
        drop(&a);
    }
}

static void files(void)
{
    const char *json = temporary_path("u19.json"), *png = temporary_path("u19.png");
    gchar *words =
        g_strdup_printf("test|" HALVORN "|--on|" U19 "|--json|%s|--picture|%s|--seed|7", json, png);
    answer a = call(words);
    json_t *root = json_load_file(json, 0, NULL);
    json_t *first = json_array_get(json_object_get(root, "suspects"), 0);

    CHECK(a.status == 1 && !*a.err, "status %d: %s", a.status, a.err);
    CHECK(first && strcmp(json_string_value(json_object_get(first, "site")), "U19") == 0, "U19");
    CHECK(json_integer_value(json_object_get(json_object_get(root, "plan"), "seed")) == 7, "seed");
    CHECK(g_file_test(png, G_FILE_TEST_IS_REGULAR), "picture");
    json_decref(root);
    drop(&a);
    g_free(words);
}

/* A run kept in a file is diagnosed as it was told, and drawn. */
static void diagnosed(void)
{
    gchar *run_file = g_strdup(temporary_path("u19.run"));
    gchar *words = g_strdup_printf("test|" HALVORN "|--on|" U19 "|--record|%s", run_file);
    answer told = call(words), again;
    const char *cells, *course;

    g_free(words);
    words = g_strdup_printf("diagnose|%s", run_file);
    again = call(words);
    CHECK(told.status == 1 && again.status == 1 && strcmp(told.out, again.out) == 0,
          "the same, to the letter");
    drop(&told);
    drop(&again);
    g_free(words);
    cells = temporary_path("cells.png");
    course = temporary_path("course.svg");
    words =
        g_strdup_printf("diagnose|%s|--of|upper|--cells|%s|--course|%s", run_file, cells, course);
    again = call(words);
    CHECK(again.status == 1 && strstr(again.out, "the same  the output of U19 stuck") &&
              g_file_test(cells, G_FILE_TEST_EXISTS) && g_file_test(course, G_FILE_TEST_EXISTS),
          "replayed and drawn: %s", again.err);
    drop(&again);
    g_free(words);
    words = g_strdup_printf("diagnose|%s|--of|U99|--cells|%s", run_file, cells);
    again = call(words);
    CHECK(again.status == 2 && strstr(again.err, "no bank and no socket"), "%s", again.err);
    drop(&again);
    g_free(words);
    g_free(run_file);
}

static void small_files_only(gpointer unused)
{
    const struct rlimit small = {200, 200};

    (void)unused;
    setrlimit(RLIMIT_FSIZE, &small);
}

/* A disk that fills up while the result is written: told, status 2, nothing under the name. */
static void full_disk(void)
{
    const char *json = temporary_path("full.json");
    gchar *words = g_strdup_printf("test|" HALVORN "|--on|sim:|--json|%s", json);
    answer a = call_with("rimeglass", words, NULL, small_files_only);
    gchar *folder = g_path_get_dirname(json);
    GDir *dir = g_dir_open(folder, 0, NULL);
    const gchar *name;

    CHECK(a.status == 2 && strstr(a.err, "full.json") && strstr(a.err, "cannot be written"),
          "status %d: %s", a.status, a.err);
    CHECK(strstr(a.out, "No fault found"), "the report is printed all the same");
    while ((name = g_dir_read_name(dir)) != NULL)
        CHECK(!g_str_has_prefix(name, "full.json"), "left behind: %s", name);
    g_dir_close(dir);
    drop(&a);
    g_free(folder);
    g_free(words);
}

/* Starts a run that takes long and sends it a signal once it is under way. */
static answer interrupted(int signal_number, const char *json)
{
    gchar *argv[] = {g_build_filename(RMG_BUILD, "rimeglass", NULL),
                     "test",
                     HALVORN,
                     "--on",
                     U19,
                     "--passes",
                     "60000",
                     "--json",
                     (gchar *)json,
                     NULL};
    answer a = {-1, NULL, NULL};
    GIOChannel *out, *err;
    GPid pid;
    int status, out_fd, err_fd;

    CHECK(g_spawn_async_with_pipes(RMG_PROJECT, argv, NULL, G_SPAWN_DO_NOT_REAP_CHILD, NULL, NULL,
                                   &pid, NULL, &out_fd, &err_fd, NULL),
          "starts");
    g_usleep(700000);
    kill(pid, signal_number);
    out = g_io_channel_unix_new(out_fd);
    err = g_io_channel_unix_new(err_fd);
    g_io_channel_read_to_end(out, &a.out, NULL, NULL);
    g_io_channel_read_to_end(err, &a.err, NULL, NULL);
    waitpid(pid, &status, 0);
    a.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    g_io_channel_shutdown(out, FALSE, NULL);
    g_io_channel_shutdown(err, FALSE, NULL);
    g_io_channel_unref(out);
    g_io_channel_unref(err);
    g_free(argv[0]);
    return a;
}

static void stopped_runs(void)
{
    const char *json = temporary_path("stopped.json");
    answer a = interrupted(SIGINT, json);
    json_t *root = json_load_file(json, 0, NULL);

    CHECK(a.status == 3, "Ctrl-C: status %d", a.status);
    CHECK(a.out && strstr(a.out, "Look at U19") &&
              strstr(a.out, "NOT COMPLETE: stopped on request"),
          "what was found so far");
    CHECK(a.err && strstr(a.err, "the run is not complete"), "stderr: %s", a.err);
    CHECK(json_is_false(json_object_get(root, "complete")), "the result says so");
    json_decref(root);
    drop(&a);
    g_remove(json);
    a = interrupted(SIGKILL, json);
    CHECK(a.status == -1 && !g_file_test(json, G_FILE_TEST_EXISTS), "killed: no half a result");
    drop(&a);
}

static json_t *without_wall_clock(const char *file)
{
    json_t *root = json_load_file(file, 0, NULL);
    json_t *each = json_object_get(json_object_get(root, "passes"), "each");

    CHECK(root != NULL, "%s is a result", file);
    json_object_del(root, "seconds_wall");
    for (size_t i = 0; i < json_array_size(each); i++)
        json_object_del(json_array_get(each, i), "ended_seconds_wall");
    return root;
}

/* A run killed outright and continued ends as one that ran through. */
static void killed_and_resumed(void)
{
#define NIGHT "sim:demo/faults/halvorn64-night.yaml"
    const char *run_file = temporary_path("night.run");
    const char *passes = "40";
    gchar *argv[] = {g_build_filename(RMG_BUILD, "rimeglass", NULL),
                     "test",
                     HALVORN,
                     "--on",
                     NIGHT,
                     "--passes",
                     (gchar *)passes,
                     "--record",
                     (gchar *)run_file,
                     NULL};
    gchar *whole = g_strdup(temporary_path("whole.json")), *words;
    gchar *resumed = g_strdup(temporary_path("resumed.json"));
    json_t *one, *other;
    answer a;
    GPid pid;
    int status;

    CHECK(g_spawn_async(RMG_PROJECT, argv, NULL,
                        G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL, NULL, NULL, &pid,
                        NULL),
          "starts");
    for (unsigned i = 0; i < 3000 && !g_file_test(run_file, G_FILE_TEST_EXISTS); i++)
        g_usleep(10000);
    g_usleep(20000);
    kill(pid, SIGKILL);
    waitpid(pid, &status, 0);
    CHECK(WIFSIGNALED(status), "killed on its way");
    words = g_strdup_printf("test|--resume|%s|--json|%s", run_file, resumed);
    a = call(words);
    CHECK(a.status <= 1 && strstr(a.out, "40 of 40 passes"), "goes on: status %d, %s", a.status,
          a.err);
    drop(&a);
    g_free(words);
    words = g_strdup_printf("test|" HALVORN "|--on|" NIGHT "|--passes|%s|--json|%s", passes, whole);
    a = call(words);
    drop(&a);
    one = without_wall_clock(whole);
    other = without_wall_clock(resumed);
    CHECK(json_equal(one, other), "the same result");
    json_decref(one);
    json_decref(other);
    g_free(words);
    g_free(whole);
    g_free(resumed);
    g_free(argv[0]);
}

/* A plan of a step that is no march: what its marches find is nothing, not less. */
static void no_march(void)
{
    gchar *plan =
        g_strdup(temporary_file("no.yaml", "plan: no\nsteps:\n  - {neighbours: passive}\n"));
    gchar *words = g_strdup_printf("explain|%s|--json|-", plan);
    answer a = call(words);

    CHECK(a.status == 0 && strstr(a.out, "\"coverage\": {}") && !strstr(a.out, "-1") &&
              strstr(a.out, "\"passive\": 1.0"),
          "%s%s", a.out, a.err);
    drop(&a);
    g_free(words);
    g_free(plan);
}

static void examples(void)
{
    static const struct {
        const char *program, *words;
        int status;
        const char *out, *err;
    } rows[] = {
        {"example-minimal-port", "", 1, "3 failing reads, first at 0x42: wrote 0x00, read 0x20",
         ""},
        {"example-test-a-board", HALVORN, 0, "No fault found.", ""},
        {"example-test-a-board", HALVORN "|demo/faults/halvorn64-u19.yaml", 1, "Look at U19", ""},
        {"example-test-and-report", HALVORN "|sim:demo/faults/halvorn64-u19.yaml", 1,
         "98 %  Look at U19", ""},
        {"example-test-and-report", "none.yaml|sim:", 2, "", "none.yaml"},
        {"example-test-and-report", HALVORN "|usb:1", 2, "", "usb:1: expected sim:, "},
        {"example-test-a-board", "none.yaml", 2, "", "none.yaml"},
        {"example-test-a-board", "", 2, "", "Give a board file"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        answer a = call_with(rows[i].program, rows[i].words, NULL, NULL);

        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].out) &&
                  strstr(a.err, rows[i].err),
              "%s %s: %d, %s%s", rows[i].program, rows[i].words, a.status, a.out, a.err);
        drop(&a);
    }
}

int main(void)
{
    CU_TestInfo tests[] = {
        {"status, stdout and stderr of each call", answers},
        {"plain text of 100 columns", output_is_plain},
        {"no march", no_march},
        {"files", files},
        {"diagnosed", diagnosed},
        {"a full disk", full_disk},
        {"stopped and killed runs", stopped_runs},
        {"killed and resumed", killed_and_resumed},
        CU_TEST_INFO_NULL,
    };
    CU_TestInfo programs[] = {{"examples", examples}, CU_TEST_INFO_NULL};
    const CU_SuiteInfo suites[] = {{"command line", NULL, NULL, NULL, NULL, tests},
                                   {"command line, plans", NULL, NULL, NULL, NULL, plan_tests},
                                   {"command line, refused", NULL, NULL, NULL, NULL, refused_tests},
                                   {"command line, chips", NULL, NULL, NULL, NULL, cli_rom_tests},
                                   {"tool: lines", NULL, NULL, NULL, NULL, log_tests},
                                   {"tool: live view", NULL, NULL, NULL, NULL, live_tests},
                                   {"tool: new boards", NULL, NULL, NULL, NULL, new_board_tests},
                                   {"programs", NULL, NULL, NULL, NULL, programs},
                                   {"attacked", NULL, NULL, NULL, NULL, attack_tests},
#ifndef SANITIZED
                                   {"killed", NULL, NULL, NULL, NULL, kill_tests},
#endif
                                   CU_SUITE_INFO_NULL};

    return check_main(suites);
}
