/* dump, verify, identify and image as a user calls them. */
#include <glib/gstdio.h>
#include <jansson.h>
#include <signal.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"
#define IMAGES  "demo/images/"
#define SYSTEM  IMAGES "halvorn64-system-2.1.bin"
#define FONT    IMAGES "halvorn64-characters-2.bin"
#define U5_OPEN "sim:demo/faults/halvorn64-u5.yaml"
#define FADING  "sim:demo/faults/halvorn64-fading.yaml"
#define WARM    "sim:demo/faults/halvorn64-warm.yaml"

static const call_row calls[] = {
    {"dump|--help", 0, "--watch reads again", ""},
    {"dump|" HALVORN, 2, "", "expected a board file and a socket or region, found 1 word"},
    {"dump|" HALVORN "|U5", 2, "", "say on what"},
    {"dump|" HALVORN "|U5|--on|ram:1M", 2, "", "expected a board"},
    {"dump|" HALVORN "|U5|--on|sim:", 0, "All 3 readings agree, and no line floats", ""},
    {"dump|" HALVORN "|U5|--on|sim:|--readings|0", 2, "", "from 1 to 1000"},
    {"dump|" HALVORN "|U5|--on|sim:|--readings|1", 0, "whether it is steady is not known", ""},
    {"dump|" HALVORN "|U9|--on|sim:", 2, "", "its ROMs are U5, U52, \"system ROM\""},
    {"dump|" HALVORN "|U52|--on|sim:", 2, "", "read it with --bare"},
    {"dump|" HALVORN "|U52|--bare|--on|sim:", 0, "U52 (2716)", ""},
    {"dump|" HALVORN "|U19|--bare|--on|sim:", 2, "", "a DRAM loses its contents"},
    {"dump|" HALVORN "|system ROM|--bare|--on|sim:", 2, "", "no socket \"system ROM\""},
    {"dump|" HALVORN "|U5|--on|sim:|--until-change", 2, "", "go with --watch"},
    {"dump|" HALVORN "|U5|--on|sim:|--watch|--write|x", 2, "", "writes no image"},
    {"dump|" HALVORN "|U5|--on|sim:|--resume", 2, "", "--resume needs the --write FILE"},
    {"dump|" HALVORN "|U5|--on|sim:|--write|/none/x", 2, "", "/none/x: cannot be written"},
    {"dump|" HALVORN "|U5|--on|sim:|--write|x.bin|--resume", 2, "", "x.bin.unfinished"},
    {"dump|" HALVORN "|U5|--on|sim:|--as|octal", 2, "", "raw, intel"},
    {"dump|" HALVORN "|U52|--bare|--watch|--passes|4|--on|sim:", 0, "Nothing moved in 4 passes",
     ""},
    {"dump|" HALVORN "|U52|--bare|--watch|--every|soon|--on|sim:", 2, "", "--every soon: expected"},
    {"dump|" HALVORN "|U52|--bare|--watch|--every|60s|--for|2h|--until-change|--on|" WARM, 1,
     "It first differed in pass 60, after 3542.5 s, at 36.1 C (reported by the port)", ""},
    {"dump|" HALVORN "|U52|--bare|--watch|--every|60s|--for|2h|--glyphs|8x8|--on|" WARM, 1,
     "? lit, \u00BF dark, but not always", ""},
    {"verify|" HALVORN "|U5|--on|sim:", 0, "Lines proved by this image: D0-D7 A0-A13", ""},
    {"verify|" HALVORN "|U5|" SYSTEM "|--on|sim:", 0, "It equals " SYSTEM, ""},
    {"verify|" HALVORN "|U5|none.bin|--on|sim:", 2, "", "none.bin: cannot be read"},
    {"verify|" HALVORN "|U52|" SYSTEM "|--bare|--on|sim:", 2, "", "an image must not be larger"},
    {"verify|" HALVORN "|U5|--on|sim:|--both|--bare", 2, "", "--both cannot be combined"},
    {"verify|" HALVORN "|U5|--on|sim:|--bare-was|fine", 2, "", "expected good or bad"},
    {"verify|" HALVORN "|U5|--on|sim:|--supply-mv|5000", 2, "", "LOW-HIGH/STEP"},
    {"verify|" HALVORN "|U5|--on|sim:|--supply-mv|4500-5500/250", 0, "      5500 mV  right", ""},
    {"verify|" HALVORN "|U5|--on|sim:|--clock-hz|1-1000/1", 2, "", "at most 64 steps"},
    {"verify|" HALVORN "|U5|--both|--on|sim:demo/faults/halvorn64-u5.yaml", 1,
     "Bare, the same chip reads right in all 3 readings", ""},
    {"verify|" HALVORN "|U5|--both|--ram-good|--on|sim:demo/faults/halvorn64-u5.yaml", 1,
     "Look at D3 between U1.12 and U5 pin 15: D3 (U5 pin 15) is not driven", ""},
    {"verify|" HALVORN "|U5|--bare-was|good|--on|sim:demo/faults/halvorn64-u5.yaml", 1,
     "most likely: the contact at D3 (U5 pin 15)", ""},
    {"verify|" HALVORN "|U5|--on|" FADING, 1, "13 bits are wrong (all read 1 for 0: fading)", ""},
    {"verify|" OSTREL "|program ROM|--on|sim:demo/faults/ostrel16-swapped.yaml", 1,
     "the even and odd bytes of each word are swapped", ""},
    {"verify|" OSTREL "|U2|--catalogue|demo/catalogue.yaml|--on|"
     "sim:demo/faults/ostrel16-swapped.yaml",
     1, "another image from the catalogue: program, odd bytes 1.4, U3", ""},
    {"verify|" HALVORN "|U5|--read|" SYSTEM "|--read|" SYSTEM, 0, "All 2 readings agree", ""},
    {"verify|" HALVORN "|U5|--bare|--read|" IMAGES "halvorn64-system-2.0.bin", 1,
     "U5: the contents differ in 3 places, as in another version", ""},
    {"verify|" HALVORN "|U5|--read|" FONT, 2, "", "expected all 16384 bytes of the chip"},
    {"verify|" HALVORN "|U18|--bare|--read|" SYSTEM, 2, "", "a DRAM loses its contents"},
    {"verify|" HALVORN "|U9|--read|" SYSTEM, 2, "", "its ROMs are U5, U52"},
    {"verify|" HALVORN "|U5", 2, "", "say on what"},
    {"verify|" HALVORN "|U5|--on|", 2, "", "--on"},
    {"identify|" HALVORN "|U5|--on|", 2, "", "--on"},
    {"verify|" HALVORN "|U5|--read|none.bin", 2, "", "--read: none.bin: cannot be read"},
    {"verify|" HALVORN "|U5|--read|" SYSTEM "|--on|sim:", 2, "", "cannot be combined with --on"},
    {"verify|" HALVORN "|U5|" SYSTEM "|--base|top|--on|sim:", 2, "", "--base top: expected an"},
    {"verify|" HALVORN "|U5|" SYSTEM "|--base|0xC000|--on|sim:", 2, "",
     "say with --base which of the file's addresses is its first byte"},
    {"verify|" HALVORN "|U5|--known-good|U5|--continuous|U1.12-U5.15|--on|" U5_OPEN, 1,
     "rules out: the chip: its output at D3 (U5 pin 15) and the track between U1.12\n"
     "    and U5 pin 15.\n",
     ""},
    {"verify|" HALVORN "|U5|--open|U1.12-U5.15|--on|" U5_OPEN, 1,
     "rules out: the chip: its output at D3 (U5 pin 15).", ""},
    {"verify|" HALVORN "|U5|--known-good|U99|--on|sim:", 2, "", "has no socket U99"},
    {"verify|" HALVORN "|U5|--culprits|none.yaml|--on|sim:", 2, "", "none.yaml"},
    {"verify|" HALVORN "|low RAM|--on|sim:", 0, "There is no image to compare with", ""},
    {"test|" HALVORN "|--on|sim:|--region|system ROM", 2, "", "a ROM is tested by reading it"},
    {"identify|" IMAGES "halvorn64-system-2.0.bin|--catalogue|demo/catalogue.yaml", 0,
     "Known, whole: system ROM, version 2.0", ""},
    {"identify|" HALVORN "|U5|--on|sim:|--catalogue|demo/catalogue.yaml", 0, "version 2.1", ""},
    {"identify|" HALVORN "|U5|--on|" FADING "|--catalogue|demo/catalogue.yaml", 1,
     "13 of 131072 bits away (0.0099 %): 13 read 1 where it has 0", ""},
    {"identify|" SYSTEM, 0, "CRC-32        807194b8", ""},
    {"identify|" SYSTEM "|--on|sim:", 2, "", "go with a board file"},
    {"identify|" SYSTEM "|--catalogue|" HALVORN, 2, "", "a catalogue has no such key"},
    {"identify|" SYSTEM "|--add|--name|x", 2, "", "--add needs"},
    {"identify|" SYSTEM "|--name|x", 2, "", "go with --add"},
    {"identify|" SYSTEM "|--catalogue|demo/catalogue.yaml|--add|--name|x", 2, "",
     "the same bytes are in it already, as \"system ROM\" 2.1"},
    {"identify", 2, "", "expected an image file"},
    {"chip", 2, "", "expected one part, or stock and a file, found 0 words"},
    {"chip|4164", 2, "", "say where the pod is"},
    {"chip|stock|none.stock", 2, "", "none.stock"},
    {"chip|stock|none.stock|--need|demo/boards/halvorn64.yaml", 2, "",
     "expected a board file, a comma and a socket"},
    {"chip|stock|none.stock|--need|demo/boards/halvorn64.yaml,U99", 2, "", "has no socket U99"},
    {"chip|stock|none.stock|--need|none.yaml,U18", 2, "", "none.yaml"},
    {"chip|4164|--need|demo/boards/halvorn64.yaml,U18", 2, "", "--need goes with stock FILE"},
    {"chip|4164|--of|U19", 2, "", "--of goes with grades RUN"},
    {"chip|grades", 2, "", "grades: expected run files"},
    {"chip|grades|none.run", 2, "", "none.run"},
    {"chip|grades|demo/boards/halvorn64.yaml", 2, "", "not a run file"},
    {"chip|4164|--on|pod:demo/pods/plank.yaml", 2, "", "say where the pod is"},
    {"chip|6116|--unchecked-pinout|--on|pod:none.yaml,run:true", 2, "", "none.yaml"},
    {"chip|6116|--unchecked-pinout|--on|pod:demo/pods/plank.yaml,run:examples/far_end.py", 2, "",
     "sets no lines one by one (the ability pins)"},
    {"chip|4164|--unchecked-pinout|--on|pod:demo/pods/plank.yaml,run:examples/far_end_pins.py", 2,
     "", "4164 is a DRAM: a pod whose lines are set one by one is too slow"},
    {"chip|6264|--unchecked-pinout|--on|pod:demo/pods/plank.yaml,run:examples/far_end_pins.py", 2,
     "", "6264 has 13 address pins, this pod 11"},
    {"chip|2102|--unchecked-pinout|--on|pod:demo/pods/plank.yaml,run:examples/far_end_pins.py", 2,
     "", "2102 has 1 inputs apart from its outputs, this pod lines for 0"},
    {"test|demo/boards/halvorn64.yaml|--on|pod:demo/pods/plank.yaml,run:true", 2, "",
     "a pod holds one chip on its own pins"},
    {"dump|2716|--bare|--on|pod:demo/pods/plank.yaml", 2, "", "expected pod:FILE.yaml,DEVICE"},
    {"part", 2, "", "expected list, show, fits or find"},
    {"part|lst", 2, "", "did you mean list?"},
    {"part|show", 2, "", "expected one part after \"show\", found 0 words"},
    {"part|show|4117", 2, "", "did you mean 4116?"},
    {"part|show|4116", 0, "column strobe, active low", ""},
    {"part|show|27C256-15", 0, "A14 27| address", ""},
    {"part|show|4116|--kind|dram", 2, "", "--kind goes with list"},
    {"part|list|--kind|eprom", 2, "", "expected dram, sram or rom"},
    {"part|list|--picture|x.png", 2, "", "--picture goes with show"},
    {"part|show|4116|--picture|x.gif", 2, "", ".png, .svg or .pdf"},
    {"part|show|4116|--pod", 0, "PD6, 10 k to +5 V", ""},
    {"part|show|6264|--pod", 0, "CE2 26| +5 V rail", ""},
    {"part|show|27256|--pod", 0, "   +5 V rail | 1 VPP", ""},
    {"part|show|2708|--pod", 0, "PGM 18| 0 V", ""},
    {"part|show|2708|--pod", 0, "A7    VCC 24| +5 V rail", ""},
    {"part|show|2102|--pod", 0, "D 11| PK4", ""},
    {"part|show|4464|--pod", 0, "PB0 | 5 RAS", ""},
    {"part|show|27210|--pod", 0, "PJ1", ""},
    {"part|show|27080|--pod", 2, "", "no pod of docs/pod.md holds a 27080"},
    {"part|list|--pod", 2, "", "--pod goes with show"},
    {"part|list", 0, "99 parts.", ""},
    {"part|fits|" HALVORN "|U99|4116", 2, "", "has no socket U99"},
    {"part|fits|none.yaml|U18|4116", 2, "", "none.yaml: cannot be read"},
    {"part|fits|" HALVORN "|U18|4116-2", 0, "4116-2 in U18, where a 4116 belongs: fits.", ""},
    {"part|fits|" HALVORN "|U18|4164", 0, "off the socket's pin 8 (VDD), which has +12 V", ""},
    {"part|fits|" HALVORN "|U18|2114", 1, "another kind of memory: SRAM, 1K x 4", ""},
    {"part|find|" HALVORN "|U18", 0, "  Fits as it is:        4116\n", ""},
    {"part|find|" HALVORN "|U5", 0, "27128, 27256, 27512", ""},
    {"image|" SYSTEM "|--compare|" SYSTEM, 0, "16384 bytes, the same files", ""},
    {"image|" SYSTEM "|--compare|" IMAGES "halvorn64-system-2.0.bin", 1, "503 of 16384 bytes", ""},
    {"image|" SYSTEM "|--compare|" FONT, 1, "does not contain the shorter", ""},
    {"image|" FONT "|--repeat|16K|--compare|" FONT, 1, "the shorter one, 8 times over", ""},
    {"image|" FONT "|--pad|4K|--compare|" FONT, 1, "from its byte 0x0 on", ""},
    {"image|" FONT "|--swap|bytes|--compare|" FONT, 1, "even and odd bytes are swapped", ""},
    {"image|" FONT "|--address-lines|A0-A4,A6,A5,A7-A10|--compare|" FONT, 1,
     "A5 and A6 are swapped", ""},
    {"image|" FONT "|--data-lines|D7-D0|--data-lines|D7-D0|--compare|" FONT, 0, "It equals", ""},
    {"image|" FONT "|--invert-data|0xFF|--compare|" FONT, 1, "every bit is inverted", ""},
    {"image|" FONT "|--invert-address|0x7FF|--invert-address|0x7FF|--compare|" FONT, 0, "It equals",
     ""},
    {"image|" FONT "|--cut|0x100-0x1FF|--move|0xC000", 0, "0x0000C000-0x0000C0FF  256 bytes", ""},
    {"image|" FONT "|--write|/dev/null|--repeat|4K", 0, "after the last --write are in no file",
     ""},
    {"image|" FONT "|--cut|0x1000-0x1FFF", 2, FONT, "nothing between 0x1000 and 0x1FFF"},
    {"image|" FONT "|--cut|5", 2, FONT, "addresses like"},
    {"image|" FONT "|--repeat|3000", 2, FONT, "does not go evenly"},
    {"image|" FONT "|--repeat|many", 2, FONT, "a size like 64K"},
    {"image|" FONT "|--move|up", 2, FONT, "an address like"},
    {"image|" FONT "|--swap|nibbles", 2, FONT, "bytes or words"},
    {"image|" FONT "|--data-lines|D0,D0", 2, FONT, "data lines once"},
    {"image|" FONT "|--data-lines|A0", 2, FONT, "are wired to"},
    {"image|" FONT "|--address-lines|A0-A40", 2, FONT, "are wired to"},
    {"image|" FONT "|--invert-data|256", 2, FONT, "a byte with ones"},
    {"image|" FONT "|--split|a,b,c", 2, FONT, "two files (even, odd) or four"},
    {"image|" FONT "|--interleave|" FONT "," FONT, 2, FONT, "one file more"},
    {"image|" FONT "|--interleave|" SYSTEM, 2, FONT, "the same size"},
    {"image|" FONT "|--join|none.bin", 2, FONT, "none.bin: cannot be read"},
    {"image|" FONT "|--join|" SYSTEM, 0, "0     0x00000000 " FONT ", 8 times", ""},
    {"image|" FONT "|--checksum|sum16", 2, FONT, "the span FIRST-LAST"},
    {"image|" FONT "|--checksum|sum16,0x0-0x7FD,at=0x7FE,high-first", 0,
     "Checksum 0xFA80 put at 0x7FE", ""},
    {"image|" FONT "|--checksum|sum16,0x0-0x7FF,at=0x7FE,high-first", 2, FONT,
     "say how its own bytes"},
    {"image|" FONT "|--cut|0-0x7FF|--replacement|27512,2716", 0,
     "   26  A13      24 (VCC)       nothing: +5 V is there, and the image is in both halves\n",
     ""},
    {"image|" SYSTEM "|--replacement|27512,27128", 0,
     "    1  A15      1 (VPP)        nothing: +5 V is there, and the image is in both halves\n"
     "   27  A14      27 (PGM)       nothing: +5 V is there, and the image is in both halves\n",
     ""},
    {"image|" SYSTEM "|--join|" SYSTEM "|--replacement|27256,27128", 0,
     "off the socket's pin and to a", ""},
    {"image|" SYSTEM "|--cut|0-0x1FFF|--replacement|2764,2364", 0,
     "   23  A11      21 (A12)       off the socket's pin, to the socket's pin 18 (A11)\n", ""},
    {"image|" SYSTEM "|--cut|0-0x1FFF|--replacement|2764,2364", 0,
     "   26  -        24 (VCC)       nothing: it is not connected in the chip\n", ""},
    {"image|" SYSTEM "|--replacement|2764,27512", 2, "does not fit.\n  - It has too few words",
     "a 2764 does not fit there"},
    {"image|" SYSTEM "|--replacement|2764,2764", 2, SYSTEM, "expected 8192, as the 2764 holds"},
    {"image|" SYSTEM "|--replacement|27512", 2, SYSTEM, "expected two parts, like 27512,27128"},
    {"image|" SYSTEM "|--replacement|27512,27513", 2, SYSTEM, "did you mean 27512?"},
    {"image|" FONT "|--write|-|--as|intel|--move|0x1F7FF|--segmented|--write|-|--record-bytes|255",
     0, ":020000021000EC\n", ""},
    {"image|" FONT "|--write|-|--as|motorola|--header|Halvorn font", 0,
     "S00F000048616C766F726E20666F6E74", ""},
    {"image|" FONT "|--header|x", 2, "", "--header concerns files that are written"},
    {"image|" FONT "|--write|-|--as|intel|--header|x", 2, "", "the form \"intel\" has no header"},
    {"image|" FONT "|--write|-|--as|motorola|--record-bytes|251", 2, "", "holds no 251 bytes"},
    {"image|" FONT "|--write|-|--as|motorola|--segmented", 2, "", "has no segments"},
    {"image|" FONT "|--write|-|--as|motorola|--header|caf\xC3\xA9", 2, "",
     "character 4 of the header"},
    {"image|" FONT "|--write|-|--record-bytes|0", 2, "", "expected 1 to 255"},
    {"image|" FONT "|--move|0x100000|--write|-|--as|intel|--segmented", 2, "",
     "0x1007FF is past 20 bits"},
    {"image|" FONT "|--hex|--against|" IMAGES "halvorn64-characters-1.bin", 0,
     "\n  expected        C4 C4 C4\n  0x000190", ""},
    {"image|" FONT "|--map|--map-by|bits|--against|" IMAGES "halvorn64-characters-1.bin", 0,
     "  D4   ", ""},
    {"image|" FONT "|--map|--map-by|difference|--against|" IMAGES "halvorn64-characters-1.bin", 0,
     "\n          +0              +10             +20             +30\n"
     "  0x0000  \u00B7",
     ""},
    {"image|" FONT "|--map|--map-by|difference", 2, "", "needs --against FILE"},
    {"image|" FONT "|--map|--map-by|rows", 2, "", "expected ones, bits or difference"},
    {"image|" FONT "|--map-by|bits", 2, "", "--map-by goes with --map"},
    {"image|" FONT "|--hex|--picture|x.png", 2, "", "--picture draws the glyphs or the map"},
    {"dump|" OSTREL "|program ROM|--on|sim:|--hex|--map|--map-by|bits", 0, "\n  D15  ", ""},
    {"image|" FONT "|--glyphs|9", 2, "", "width and height like 8x8"},
    {"image|" FONT "|--glyphs|8x8|--bit-order|D3", 2, "", "expected D7 or D0"},
    {"image|" FONT "|--picture|x.png", 2, "", "go with --glyphs, --map or --hex"},
    {"image|" FONT "|--map|--picture|x.bmp", 2, "", ".png, .svg or .pdf"},
    {"image|" FONT "|--glyphs|8x8|--against|" SYSTEM, 2, FONT, "expected 2048"},
    {"image|" FONT "|--glyphs|8x8|--against|" IMAGES "halvorn64-characters-1.bin", 0,
     "2 of 256 glyphs carry marks", ""},
    {"image|" FONT "|--from|intel", 2, "", "halvorn64-characters-2.bin:1: expected a record"},
    {"image|" FONT "|--from|raw|--write|-|--as|motorola", 0, "S9030000FC", ""},
    {"image|" FONT "|--repeat|4K|--compare|" SYSTEM "|--json|-", 1, "\"equal\": false", ""},
    {"image|/dev/null", 2, "", "the file is empty"},
};

static void answers(void)
{
    check_calls(calls, COUNT(calls));
}

/* Two files with the same bytes? */
static bool same(const char *one, const char *other)
{
    gchar *a = NULL, *b = NULL;
    gsize a_size = 0, b_size = 1;
    const bool read = g_file_get_contents(one, &a, &a_size, NULL) &&
                      g_file_get_contents(other, &b, &b_size, NULL);
    const bool equal = read && a_size == b_size && memcmp(a, b, a_size) == 0;

    g_free(a);
    g_free(b);
    return equal;
}

static answer callf(const char *format, ...) G_GNUC_PRINTF(1, 2);
static answer callf(const char *format, ...)
{
    va_list args;
    gchar *words;
    answer a;

    va_start(args, format);
    words = g_strdup_vprintf(format, args);
    va_end(args);
    a = call(words);
    g_free(words);
    return a;
}

/* A dump, its image in each form, and the pair of chips put together, are what the chip holds. */
static void written(void)
{
    gchar *system = g_strdup(project_path(SYSTEM));
    const char *bin = temporary_path("u5.bin"), *hex = temporary_path("u5.hex");
    const char *even = temporary_path("even.bin"), *odd = temporary_path("odd.bin");
    gchar *both = g_strdup(temporary_path("both.bin"));
    answer a = callf("dump|" HALVORN "|U5|--on|sim:|--write|%s", bin);

    CHECK(a.status == 0 && same(bin, system), "raw: %s", a.err);
    drop(&a);
    a = callf("dump|" HALVORN "|system ROM|--on|sim:|--write|%s", hex);
    CHECK(a.status == 0, "hex: %s", a.err);
    drop(&a);
    a = callf("image|%s|--write|%s", hex, bin);
    CHECK(a.status == 0 && strstr(a.out, "0x0000C000-0x0000FFFF") && same(bin, system),
          "a region's hex file has the board's addresses: %s", a.out);
    drop(&a);
    a = callf("dump|" OSTREL "|program ROM|--on|sim:|--write|%s", both);
    drop(&a);
    a = callf("image|%s|--split|%s,%s|--write|%s.hex", both, even, odd, both);
    CHECK(a.status == 0 && same(even, project_path(IMAGES "ostrel16-program-1.4-even.bin")) &&
              same(odd, project_path(IMAGES "ostrel16-program-1.4-odd.bin")),
          "the pair, split: %s", a.err);
    drop(&a);
    a = callf("image|%s|--interleave|%s|--compare|%s.hex", even, odd, both);
    CHECK(a.status == 0 && strstr(a.out, "It equals"), "and together: %s", a.out);
    drop(&a);
    a = callf("dump|" HALVORN "|U5|--on|" FADING "|--write|-");
    CHECK(a.status == 0 && !*a.err && !strstr(a.out, "Checksums"),
          "to standard output nothing else goes");
    drop(&a);
    g_free(both);
    g_free(system);
}

/* Unsteady images are not written, unless --majority asks for it, and then it is said. */
static void never_silently(void)
{
    const char *faults = temporary_file(
        "weak.yaml",
        "faults: [{kind: fading bits, socket: U5, one-cell-in: 900, one-in: 4}]\nworld-seed: 2\n");
    gchar *image = g_strdup(temporary_path("weak.bin")), *kept;
    answer a = callf("dump|" HALVORN "|U5|--on|sim:%s|--write|%s", faults, image);

    CHECK(a.status == 1 && strstr(a.out, "NOT STEADY") && strstr(a.out, "Not written") &&
              !g_file_test(image, G_FILE_TEST_EXISTS),
          "%s", a.out);
    drop(&a);
    a = callf("dump|" HALVORN "|U5|--on|sim:%s|--readings|25|--majority|--write|%s", faults, image);
    CHECK(a.status == 1 && strstr(a.out, "NOT A SURE IMAGE") && same(image, project_path(SYSTEM)),
          "the majority of 25 is right: %s", a.out);
    drop(&a);
    kept = g_strconcat(image, ".unfinished", NULL);
    CHECK(g_file_set_contents(kept, "of an earlier dump", -1, NULL), "kept");
    a = callf("dump|" HALVORN "|U5|--on|sim:%s|--write|%s|--force", faults, image);
    CHECK(a.status == 2 && strstr(a.err, "--resume continues it") && !*a.out,
          "what is kept is not written over: %s", a.err);
    drop(&a);
    a = callf("dump|" HALVORN "|U5|--on|sim:%s|--write|%s|--resume|--force", faults, image);
    CHECK(a.status == 2 && strstr(a.err, ".unfinished:1:"), "nor taken for a reading: %s", a.err);
    drop(&a);
    g_remove(kept);
    g_free(kept);
    g_free(image);
}

/* Ctrl-C in the middle: what was read is kept under a name that says so, and continued. */
static void stopped_and_resumed(void)
{
    const char *readings = getenv("RMG_TEST_PLACES") ? "300" : "1000"; /* a second of them */
    gchar *image = g_strdup(temporary_path("stop.bin"));
    gchar *kept = g_strconcat(image, ".unfinished", NULL);
    gchar *agree = g_strdup_printf("All %s readings agree", readings);
    gchar *argv[] = {g_build_filename(RMG_BUILD, "rimeglass", NULL),
                     "dump",
                     HALVORN,
                     "U5",
                     "--on",
                     "sim:",
                     "--readings",
                     (gchar *)readings,
                     "--write",
                     image,
                     NULL};
    GPid pid;
    int status;
    answer a;

    CHECK(g_spawn_async(RMG_PROJECT, argv, NULL,
                        G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL, NULL, NULL, &pid,
                        NULL),
          "starts");
    g_usleep(300000);
    kill(pid, SIGINT);
    waitpid(pid, &status, 0);
    CHECK(WIFEXITED(status) && WEXITSTATUS(status) == 3 &&
              !g_file_test(image, G_FILE_TEST_EXISTS) && g_file_test(kept, G_FILE_TEST_EXISTS),
          "stopped: status %d", WEXITSTATUS(status));
    a = callf("dump|" OSTREL "|U2|--on|sim:|--write|%s|--resume", image);
    CHECK(a.status == 2 && strstr(a.err, "another board file"), "not this board's: %s", a.err);
    drop(&a);
    a = callf("dump|" HALVORN "|U5|--on|sim:|--write|%s|--resume", image);
    CHECK(a.status == 0 && strstr(a.out, agree) && same(image, project_path(SYSTEM)) &&
              !g_file_test(kept, G_FILE_TEST_EXISTS),
          "continued: %d %s", a.status, a.err);
    drop(&a);
    g_free(argv[0]);
    g_free(agree);
    g_free(kept);
    g_free(image);
}

/* Runs `text` in a shell in the project's folder. */
static answer shell(const char *text)
{
    gchar *argv[] = {"sh", "-c", (gchar *)text, NULL};
    answer a = {-1, NULL, NULL};
    int status = 0;

    CHECK(g_spawn_sync(RMG_PROJECT, argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, &a.out, &a.err,
                       &status, NULL),
          "%s", text);
    a.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    return a;
}

/* Temperatures typed in; pipes as images, once but not twice. */
static void pipes(void)
{
    answer a = shell("printf '21\\nwarm\\n38\\n' | " RMG_BUILD "/rimeglass dump " HALVORN
                     " U52 --bare --watch --type-heat --passes 3 --on sim:");

    CHECK(a.status == 0 && strstr(a.out, " 21.0 C*") && strstr(a.out, " 38.0 C*") &&
              strstr(a.err, "\"warm\": expected a temperature"),
          "typed in: %s%s", a.out, a.err);
    drop(&a);
    a = shell("cat " FONT " | " RMG_BUILD "/rimeglass image /dev/stdin --compare " FONT);
    CHECK(a.status == 0 && strstr(a.out, "It equals"), "a pipe is read once: %s", a.err);
    drop(&a);
    a = shell("cat " FONT " | " RMG_BUILD "/rimeglass image /dev/stdin --compare /dev/stdin");
    CHECK(a.status == 2 && strstr(a.err, "it can be read once"), "not twice: %s", a.err);
    drop(&a);
}

/* A file that has only some of the chip, at addresses of the chip or of the board's bus: what it
 * leaves out is not compared, and a place that could be either is asked for. */
static void partial_images(void)
{
    static const struct {
        const char *at, *more;
        int status;
        const char *says;
    } rows[] = {
        {"0x800", "", 0, "the image says nothing about 15360 of 16384 bytes"},
        {"0xC800", "", 0, "taken as the board's, from 0xC000 on"},
        {"0xC800", "|--base|0xC000", 0, "It equals"},
        {"0x800", "|--base|0x400", 1, "U5"},
        {"0x123456", "", 2, "is its first byte"},
    };
    const char *part = temporary_path("part.hex");

    for (size_t i = 0; i < COUNT(rows); i++) {
        answer a = callf("image|" SYSTEM "|--cut|0x800-0xBFF|--move|%s|--write|%s|--force",
                         rows[i].at, part);

        CHECK(a.status == 0, "%s", a.err);
        drop(&a);
        a = callf("verify|" HALVORN "|U5|%s|--on|sim:%s", part, rows[i].more);
        CHECK(a.status == rows[i].status &&
                  (strstr(a.out, rows[i].says) || strstr(a.err, rows[i].says)),
              "%s%s: %d, %s%s", rows[i].at, rows[i].more, a.status, a.out, a.err);
        drop(&a);
    }
}

/* The step at which a series begins to fail is the one that does, whichever way it goes; and a
 * majority that does not decide is said. */
static void limits_and_ties(void)
{
    static const struct {
        const char *fault, *more, *says;
    } rows[] = {
        {"{kind: output stuck, socket: U5, bit: D3, level: 0, below-mv: 4750}",
         "|--supply-mv|4500-5500/125", "It fails up to 4625 mV; right from 4750 mV on."},
        {"{kind: output stuck, socket: U5, bit: D3, level: 0, from-mv: 5250}",
         "|--supply-mv|4500-5500/125", "Right up to 5125 mV; it fails from 5250 mV on."},
        {"{kind: late output, socket: U5, access-ns: 350}", "|--clock-hz|1000000-4000000/500000",
         "Right up to 2500000 Hz; it fails from 3000000 Hz on."},
        {"{kind: output stuck, socket: U5, bit: D3, level: 0}", "|--supply-mv|4500-5500/500",
         "It fails at every step."},
        {"{kind: output stuck, socket: U5, bit: D3, level: 0, one-in: 2}", "|--readings|2",
         "read 1 as often as 0: the majority does not decide"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf("faults:\n  - %s\n", rows[i].fault);
        answer a = callf("verify|" HALVORN "|U5|--on|sim:%s%s", temporary_file("limit.yaml", text),
                         rows[i].more);

        CHECK(a.status == 1 && strstr(a.out, rows[i].says), "%s: %s", rows[i].fault, a.out);
        drop(&a);
        g_free(text);
    }
}

/* What one chip of a region does is said of that chip, with its pin. */
static void one_of_a_region(void)
{
    static const struct {
        const char *faults, *says;
    } rows[] = {
        {"{kind: address pin open, socket: U2, pin: A5}", "U2: A6 (U2 pin 5) is seen as 1"},
        {"{kind: fading bits, socket: U3, one-cell-in: 3000}", "U3: 17 bits are wrong"},
        {"{kind: late output, socket: U3, access-ns: 100000}", "U3"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf("faults:\n  - %s\n", rows[i].faults);
        answer a =
            callf("verify|" OSTREL "|program ROM|--on|sim:%s", temporary_file("one.yaml", text));

        CHECK(a.status == 1 && g_str_has_prefix(a.out, rows[i].says), "%s: %s", rows[i].faults,
              a.out);
        drop(&a);
        g_free(text);
    }
}

static void results(void)
{
    const char *json = temporary_path("verify.json");
    answer a = callf("verify|" HALVORN "|U5|--both|--clock-hz|1000000-2000000/500000|--on|"
                     "sim:demo/faults/halvorn64-u5.yaml|--json|%s",
                     json);
    json_t *root = json_load_file(json, 0, NULL), *reading, *suspect;
    const char *kind = "";

    reading = json_object_get(root, "reading");
    suspect = json_array_get(json_object_get(root, "suspects"), 0);
    json_unpack(
        json_array_get(json_object_get(json_object_get(reading, "comparison"), "explained_by"), 0),
        "{s:s}", "kind", &kind);
    CHECK(a.status == 1 && strcmp(kind, "data_floats") == 0 &&
              json_array_size(json_object_get(reading, "floating_data_lines")) == 1 && suspect &&
              json_real_value(json_object_get(suspect, "confidence")) > 0.9 &&
              json_object_get(root, "bare") &&
              json_array_size(json_object_get(json_array_get(json_object_get(root, "series"), 0),
                                              "steps")) == 3,
          "all of it stands in the result");
    json_decref(root);
    drop(&a);
    a = call("dump|" HALVORN "|U5|--on|sim:|--json|-");
    root = json_loads(a.out, 0, NULL);
    CHECK(a.status == 0 && root &&
              strcmp(json_string_value(json_object_get(root, "verdict")), "pass") == 0,
          "on standard output nothing but JSON");
    json_decref(root);
    drop(&a);
    a = call("identify|" SYSTEM "|--catalogue|demo/catalogue.yaml|--json|-");
    root = json_loads(a.out, 0, NULL);
    CHECK(root && json_is_true(json_object_get(json_array_get(json_object_get(root, "matches"), 0),
                                               "equal")),
          "identify too");
    json_decref(root);
    drop(&a);
}

static void pictures(void)
{
    const char *png = temporary_path("font.png"), *svg = temporary_path("map.svg");
    answer a = callf("image|" FONT "|--glyphs|8x8|--picture|%s", png);

    CHECK(a.status == 0 && g_file_test(png, G_FILE_TEST_EXISTS), "%s", a.err);
    drop(&a);
    a = callf("dump|" HALVORN "|U5|--on|sim:|--map|--picture|%s", svg);
    CHECK(a.status == 0 && g_file_test(svg, G_FILE_TEST_EXISTS), "%s", a.err);
    drop(&a);
}

static void own_catalogue(void)
{
    gchar *mine = g_strdup(temporary_path("mine.yaml"));
    answer a;

    g_remove(mine);
    a = callf("identify|" SYSTEM
              "|--add|--catalogue|%s|--name|my console|--version|2.1|--socket|U5",
              mine);
    CHECK(a.status == 0 && strstr(a.out, "Added to"), "%s", a.err);
    drop(&a);
    a = callf("identify|" IMAGES "halvorn64-system-2.2.bin|--catalogue|%s", mine);
    CHECK(a.status == 1 && strstr(a.out, "Near, whole: my console, version 2.1"), "%s", a.out);
    drop(&a);
    g_free(mine);
}

/* One chip of a set is found in the image that the set was made for. */
static void one_of_a_set(void)
{
    static const struct {
        const char *file, *says;
        int status;
    } rows[] = {
        {IMAGES "ostrel16-program-1.4-odd.bin", "Known, whole: the odd bytes of a pair", 0},
        {IMAGES "ostrel16-program-1.4-even.bin", "Known, whole: the even bytes of a pair", 0},
        {SYSTEM, "Not known", 1},
    };
    const char *pair = temporary_path("pair.bin"), *mine = temporary_path("sets.yaml");
    answer a = callf("image|" IMAGES "ostrel16-program-1.4-even.bin|--interleave|" IMAGES
                     "ostrel16-program-1.4-odd.bin|--write|%s|--force",
                     pair);

    CHECK(a.status == 0, "%s", a.err);
    drop(&a);
    g_unlink(mine);
    a = callf("identify|%s|--add|--catalogue|%s|--name|a pair", pair, mine);
    CHECK(a.status == 0, "%s", a.err);
    drop(&a);
    for (size_t i = 0; i < COUNT(rows); i++) {
        a = callf("identify|%s|--catalogue|%s", rows[i].file, mine);
        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].says), "%s: %d, %s", rows[i].file,
              a.status, a.out);
        drop(&a);
    }
}

/* `board check` reads the images too: each row puts another file in place of U5's. */
static void images_of_a_board(void)
{
    static const struct {
        const char *image;
        int status;
        const char *err;
    } rows[] = {
        {"none.bin", 2, "none.bin: cannot be read"},
        {"/dev/zero", 2, "/dev/zero is no file"},
        {"large.bin", 2, "holds 16385 bytes, but a 27128 has 16384"},
        {"right.bin", 0, ""},
    };
    static const char bytes[16385] = {0};
    gchar *text;

    CHECK(g_file_set_contents(temporary_path("large.bin"), bytes, 16385, NULL), "large");
    CHECK(g_file_set_contents(temporary_path("right.bin"), bytes, 16384, NULL), "right");
    CHECK(g_file_get_contents(project_path(HALVORN), &text, NULL, NULL), "read");
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        GString *board = g_string_new(text);
        answer a;

        g_string_replace(board, "../images/halvorn64-system-2.1.bin", rows[i].image, 0);
        g_string_replace(board, "../images/", project_path(IMAGES), 0);
        a = callf("board|check|%s", temporary_file("images.yaml", board->str));
        CHECK(a.status == rows[i].status && strstr(a.err, rows[i].err) &&
                  (!*rows[i].err || strstr(a.err, "images.yaml:41: image of U5")),
              "%s: %d %s", rows[i].image, a.status, a.err);
        drop(&a);
        g_string_free(board, TRUE);
    }
    g_free(text);
}

/* A repair in a job, by verifications alone: what is typed, and what the job then says. */
static void repaired_in_a_job(void)
{
    static const struct {
        const char *words;
        int status;
        const char *says;
    } rows[] = {
        {"verify|" HALVORN "|U5|--on|sim:|--job|%s", 0, ""},
        {"job|show|%s", 0, "Nothing was wrong so far with what was verified."},
        {"job|changed|%s|reseat|U5", 0, ""},
        {"verify|" HALVORN "|U5|--on|" U5_OPEN "|--job|%s", 1, ""},
        {"job|show|%s", 0, "Entry 1 read right; what was changed since then counts for more"},
        {"job|show|%s", 0, "What it can be: U5 (27128)\n   7"},
        {"job|show|%s", 0, "its contact                 the contact at D3 (U5 pin 15)"},
        {"job|undo|%s", 0, "taken back: run verify"},
        {"job|show|%s", 0, "Nothing was wrong so far with what was verified."},
        {"verify|" HALVORN "|U5|--on|" U5_OPEN "|--job|%s", 1, ""},
        {"verify|" HALVORN "|U5|--bare|--on|" U5_OPEN "|--job|%s", 0, ""},
        {"job|show|%s", 0, "U5: On its own pins it reads right."},
        {"job|show|%s", 0, "U5 (27128) on its own pins: equal to its image"},
        {"job|show|%s", 0, "Next: Reseat U5 (2 minutes). If it reads right then"},
        {"job|measured|%s|U5|open", 0, ""},
        {"job|changed|%s|repair|U5", 0, ""},
        {"job|show|%s", 0, "Next: verify U5 again; since the last reading: repair U5."},
        {"verify|" HALVORN "|U5|--on|sim:|--job|%s", 0, ""},
        {"job|show|%s", 0, "U5: It reads right now (repair U5)."},
        {"job|show|%s", 0, "Wrong bits: 9217 then, 0 in the last reading; not steady: 0 then"},
        {"job|show|%s|--json|-", 0, "\"outcome\": \"it is gone\""},
        {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-u19.yaml|--passes|1|--job|%s", 1, ""},
        {"job|show|%s", 0, "Look at U19"},
        {"job|show|%s", 0, "U5: It reads right now (repair U5)."},
        {"verify|" OSTREL "|U2|--bare|--on|sim:|--job|%s", 2, ""},
    };
    gchar *job = g_strdup(temporary_path("rom.job"));
    answer a;

    (void)g_unlink(job);
    a = callf("job|new|%s|" HALVORN, job);
    CHECK(a.status == 0, "%s", a.err);
    drop(&a);
    for (size_t i = 0; i < COUNT(rows); i++) {
        a = callf(rows[i].words, job);
        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].says), "%s: %d, %s%s",
              rows[i].words, a.status, a.out, a.err);
        drop(&a);
    }
    g_free(job);
}

CU_TestInfo cli_rom_tests[] = {
    {"status, stdout and stderr of each call", answers},
    {"written", written},
    {"never silently", never_silently},
    {"stopped and resumed", stopped_and_resumed},
    {"pipes", pipes},
    {"one of a set", one_of_a_set},
    {"partial images", partial_images},
    {"limits and ties", limits_and_ties},
    {"one chip of a region", one_of_a_region},
    {"results", results},
    {"pictures", pictures},
    {"a catalogue of one's own", own_catalogue},
    {"images of a board", images_of_a_board},
    {"repaired in a job", repaired_in_a_job},
    CU_TEST_INFO_NULL,
};
