/* What each kind of rule makes of a line, where lines end, lines that do not fit, and what is wrong
 * with a profile. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "hearing.h"
#include "suites.h"

/* All manners of line ends are one; what moves a cursor is no text. */
static void line_ends(void)
{
    static const char profile[] =
        "profile: ends\nlines:\n  - {match: '^F (?<address>....) (?<differs>..)$', is: failure}\n"
        "  - {starts: G, is: pass}\n";
    static const struct {
        const char *between;
        unsigned lines;
    } ends[] = {{"\n", 3},   {"\r", 3},       {"\r\n", 3},       {"\n\r", 3}, {"\r\r\n", 3},
                {"\n\n", 5}, {"\r\n\r\n", 5}, {"\033[K\r\n", 3}, {"x\b\n", 3}};

    for (size_t i = 0; i < COUNT(ends); i++) {
        gchar *log =
            g_strdup_printf("F 8000 01%sF 8001 01%sGOOD", ends[i].between, ends[i].between);
        heard h;

        hear_text(&h, HALVORN, profile, log);
        CHECK(h.status == RMG_OK && h.run.heard->failures == 2 && h.run.pass_count == 1, "%zu: %s",
              i, h.error.what ? h.error.what : "");
        CHECK(h.run.heard->lines == ends[i].lines, "%zu: %u lines", i,
              (unsigned)h.run.heard->lines);
        forget(&h);
        g_free(log);
    }
}

/* What a line is taken for, rule by rule: words and places of its report. */
static void what_a_line_says(void)
{
    static const struct {
        const char *title, *board, *profile, *log;
        const char *first;   /* of heard->first, "line 1: ..." without that; NULL: no report */
        const char *unknown; /* in the error, or NULL */
    } rows[] = {
        {"the low byte has the even address", OSTREL,
         "data: {bits: 8}\nlines: [{match: '^(?<address>.{5}) (?<wrote>..) (?<read>..)$', is: "
         "failure}]\n",
         "40010 FF FE\n", "0x40010, wrote 0x00FF, read 0x00FE: D0 (U31)", NULL},
        {"and the high one the odd", OSTREL,
         "data: {bits: 8}\nlines: [{match: '^(?<address>.{5}) (?<wrote>..) (?<read>..)$', is: "
         "failure}]\n",
         "40011 FF FE\n", "0x40010, wrote 0xFF00, read 0xFE00: D8 (U33)", NULL},
        {"a byte without an address has no place in the word", OSTREL,
         "data: {bits: 8}\nlines: [{match: '^(?<wrote>..) (?<read>..)$', is: failure}]\n",
         "FF FE\n", NULL, "which part of the word"},
        {"bytes swapped", OSTREL,
         "data: {bytes: swapped}\nlines: [{match: '^(?<address>.{5}) (?<differs>.{4})$', is: "
         "failure}]\n",
         "40010 0100\n", "0x40010: D0 (U31)", NULL},
        {"bytes apart", OSTREL,
         "lines: [{match: '^(?<address>.{5}): (?<wrote>.. ..) (?<read>.. ..)$', is: failure}]\n",
         "40010: AA 55 AA 54\n", "0x40010, wrote 0xAA55, read 0xAA54: D0 (U31)", NULL},
        {"an address that cannot be trusted", HALVORN,
         "lines: [{match: '^(?<address>.{4}) (?<differs>..)$', is: failure, trusted: no}]\n",
         "8000 04\n", "D2", NULL},
        {"... with a bank that can", HALVORN,
         "lines: [{match: '^(?<address>.{4}) (?<differs>..)$', is: failure, trusted: no, bank: "
         "upper}]\n",
         "8000 04\n", "the upper bank: D2 (U24)", NULL},
        {"an expression without end", HALVORN,
         "lines: [{match: '^(?<differs>(a|aa|aaa)+)$', is: failure}, {starts: a, is: pass}]\n",
         "aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaab\n", NULL,
         "rule 1 takes too many steps"},
        {"a chip by its designator", HALVORN,
         "lines: [{match: '^bad (?<chip>\\w+)$', is: failure}]\n", "bad U24\n", "U24", NULL},
        {"a chip that the board has not", HALVORN,
         "lines: [{match: '^bad (?<chip>\\w+)$', is: failure}]\n", "bad U99\n", NULL,
         "neither profile nor board has a chip \"U99\""},
        {"a bank that nobody knows", HALVORN,
         "lines: [{match: '^bank (?<bank>\\w+) (?<bits>\\d+)$', is: failure}]\n", "bank Q 3\n",
         NULL, "neither profile nor board has a bank \"Q\""},
        {"bits as marks", HALVORN,
         "fields: {bits: {marks: X, highest-first: yes}}\n"
         "lines: [{match: '^upper (?<bits>[.X]{8})$', is: failure, bank: upper}]\n",
         "upper ..X...X.\n", "the upper bank: D1 (U25), D5 (U21)", NULL},
        {"bits counted from 1", HALVORN,
         "fields: {bits: {from: 1}}\n"
         "lines: [{match: '^b (?<bits>[\\d, ]+)$', is: failure, bank: upper}]\n",
         "b 1, 8\n", "the upper bank: D0 (U26), D7 (U19)", NULL},
        {"a bit 0 where they are counted from 1", HALVORN,
         "fields: {bits: {from: 1}}\n"
         "lines: [{match: '^b (?<bits>[\\d, ]+)$', is: failure, bank: upper}]\n",
         "b 0\n", NULL, "no list of bits"},
        {"a bit beyond the word", HALVORN,
         "lines: [{match: '^b (?<bits>[\\d, ]+)$', is: failure, bank: upper}]\n", "b 8\n", NULL,
         "no list of bits"},
        {"address parts", HALVORN,
         "fields: {page: {digits: hex, times: 0x100}, offset: {digits: decimal, add: 1}}\n"
         "lines: [{match: '^p(?<page>..) o(?<offset>\\d+) (?<differs>..)$', is: failure}]\n",
         "p80 o15 01\n", "0x8010: D0 (U26)", NULL},
        {"an address past the board", HALVORN,
         "lines: [{match: '^(?<address>\\w+) (?<differs>..)$', is: failure}]\n", "10000 01\n", NULL,
         "0x10000 is not on the board"},
        {"more bits than the word has", HALVORN,
         "lines: [{match: '^(?<address>\\w+) (?<wrote>\\w+) (?<read>\\w+)$', is: failure}]\n",
         "8000 100 0\n", NULL, "more than 8 bits"},
        {"written and read alike", HALVORN,
         "lines: [{match: '^(?<address>\\w+) (?<wrote>\\w+) (?<read>\\w+)$', is: failure}]\n",
         "8000 55 55\n", NULL, "are the same"},
        {"a count of none", HALVORN,
         "lines: [{match: '^(?<chip>\\w+) (?<count>\\d+)$', is: count}]\n", "U24 0\n", NULL, NULL},
        {"a code by its value", HALVORN,
         "lines: [{match: '^c (?<code>\\w+)$', is: status, codes: {0x40: {socket: U24}, 0: good}}]"
         "\n",
         "c 00\nc 40\n", "U24", NULL},
        {"a code that has no meaning", HALVORN,
         "lines: [{match: '^c (?<code>\\w+)$', is: status, codes: {bit 0: {socket: U24}}}]\n",
         "c 03\n", NULL, "what 0x2 of the code means"},
        {"a code for bits of a bank", HALVORN,
         "lines: [{match: '^c (?<code>\\w+)$', is: status, codes: {bit 1: {bank: lower, bits: "
         "D3}}}]\n",
         "c 02\n", "the lower bank: D3 (U15)", NULL},
        {"no number", HALVORN,
         "fields: {address: {digits: octal}}\n"
         "lines: [{match: '^(?<address>\\w+) (?<differs>..)$', is: failure}]\n",
         "81 01\n", NULL, "is no such number"},
        {"a size of none", HALVORN, "lines: [{match: '^size (?<size>\\d+)$', is: tested}]\n",
         "size 0\n", NULL, "says nothing"},
        {"more tested than there is", HALVORN,
         "lines: [{match: '^size (?<size>\\d+)$', is: tested}]\n", "size 65537\n", NULL,
         "is not on the board"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *profile = g_strdup_printf("profile: p\n%s", rows[i].profile);
        heard h;
        const char *first;

        hear_text(&h, rows[i].board, profile, rows[i].log);
        first = h.run.heard->first_count ? strchr(h.run.heard->first[0], ':') + 2 : NULL;
        CHECK(g_strcmp0(first, rows[i].first) == 0, "%s: %s", rows[i].title,
              first ? first : "no report");
        CHECK(rows[i].unknown ? h.status == RMG_ERR_CONTENT && strstr(h.error.what, rows[i].unknown)
                              : h.status == RMG_OK,
              "%s: %s", rows[i].title, h.error.what ? h.error.what : "no error");
        forget(&h);
        g_free(profile);
    }
}

/* Logs that do not fit: refused with three of their lines, and no run of nonsense. */
static void no_fit(void)
{
    static const char profile[] =
        "profile: p\nlines:\n  - {match: '^(?<address>\\w{4}) (?<differs>..)$', is: failure}\n";
    GString *noisy = g_string_new(NULL);
    heard h;

    hear_text(&h, HALVORN, profile, "one\ntwo\n8000 01\nthree\nfour\n");
    CHECK(h.status == RMG_ERR_CONTENT &&
              strcmp(h.error.what, "the lines do not fit the profile: 4 of 5 are not known to it, "
                                   "among them\n  line 1: \"one\"\n  line 2: \"two\"\n  line 4: "
                                   "\"three\"") == 0,
          "%s", h.error.what);
    forget(&h);
    hear_text(&h, HALVORN, profile, "");
    CHECK(h.status == RMG_ERR_CONTENT && strcmp(h.error.what, "not one line arrived") == 0, "%s",
          h.error.what);
    forget(&h);
    for (unsigned i = 0; i < 100; i++) /* 4 of 100 are disturbed */
        g_string_append_printf(noisy, i % 25 ? "80%02X 01\n" : "8\x7f\x80%02X 0?\n", i);
    hear(&h, HALVORN, profile, noisy->str, noisy->len);
    CHECK(h.status == RMG_OK && h.run.heard->unknown == 4 && h.run.heard->failures == 96, "noise");
    forget(&h);
    g_string_truncate(noisy, 0);
    for (unsigned i = 0; i < 20000; i++)
        g_string_append_c(noisy, (char)(i * 2654435761u >> 13));
    hear(&h, HALVORN, profile, noisy->str, noisy->len);
    CHECK(h.status == RMG_ERR_CONTENT && !h.run.heard->failures, "bytes of no sense");
    for (const char *c = h.error.what; *c; c++)
        CHECK(g_ascii_isprint(*c) || *c == '\n', "the message can be shown");
    forget(&h);
    g_string_truncate(noisy, 0);
    g_string_append(noisy, "8000 01\n");
    for (unsigned i = 0; i < 30000; i++)
        g_string_append_c(noisy, 'x');
    hear(&h, HALVORN, profile, noisy->str, noisy->len);
    CHECK(h.status == RMG_ERR_CONTENT && h.run.heard->lines == 2, "a line without an end");
    forget(&h);
    g_string_free(noisy, TRUE);
}

/* What is wrong with a profile is said, with its line. */
static void wrong_profiles(void)
{
    static const struct {
        const char *text, *says;
    } rows[] = {
        {"lines: []\n", "profile: is missing"},
        {"profile: p\n", "lines: is missing"},
        {"profile: p\nlines: []\n", "made.yaml:2: lines: expected at least one rule"},
        {"profile: p\nlines: [{is: failure}]\n", "needs match, columns, starts or contains"},
        {"profile: p\nlines: [{match: 'x', is: failur}]\n", "did you mean \"failure\""},
        {"profile: p\nlines: [{match: '(x', is: pass}]\n", "match: no regular expression"},
        {"profile: p\nlines: [{match: 'x', is: failure}]\n", "needs wrote and read, differs"},
        {"profile: p\nlines: [{match: '(?<wrote>x)', is: failure}]\n", "both or none"},
        {"profile: p\nlines: [{match: '(?<chip>x)', is: count}]\n", "needs count, and chip"},
        {"profile: p\nlines: [{match: '(?<code>x)', is: status}]\n", "codes: with what it means"},
        {"profile: p\nlines: [{match: 'x', is: heading}]\n", "a group, a bank or an address"},
        {"profile: p\nlines: [{match: 'x', is: tested}]\n", "first and last, or size"},
        {"profile: p\nlines: [{columns: {address: 0-3, differs: 5}, is: failure}]\n",
         "address: found \"0-3\", expected columns from 1"},
        {"profile: p\nlines: [{columns: {adress: 1-3}, is: pass}]\n", "did you mean"},
        {"profile: p\nlines: [{match: a, columns: {chip: 1}, is: failure}]\n", "not both"},
        {"profile: p\nchips: [U1, U11]\nlines: [{starts: x, is: pass}]\n", "has no \"U1\""},
        {"profile: p\nbanks: {A: uper}\nlines: [{starts: x, is: pass}]\n", "did you mean upper"},
        {"profile: p\ngroups: {A: {bank: uper}}\nlines: [{starts: x, is: pass}]\n",
         "did you mean upper"},
        {"profile: p\ndata: {bits: 3}\nlines: [{starts: x, is: pass}]\n",
         "a part of the board's 8"},
        {"profile: p\ndata: {bits: 9}\nlines: [{starts: x, is: pass}]\n", "from 1 to 8"},
        {"profile: p\ndata: {bits: 4, bytes: swapped}\nlines: [{starts: x, is: pass}]\n",
         "no whole bytes"},
        {"profile: p\nlimit: {reports: 0}\nlines: [{starts: x, is: pass}]\n", "from 1 to"},
        {"profile: p\nunknown-lines: 5\nlines: [{starts: x, is: pass}]\n", "a share like 5 %"},
        {"profile: p\nunknown-lines: 101 %\nlines: [{starts: x, is: pass}]\n", "a share like 5 %"},
        {"profile: p\ntest: March Q\nlines: [{starts: x, is: pass}]\n", "a march by name"},
        {"profile: p\nfields: {address: {digits: AA}}\nlines: [{starts: x, is: pass}]\n",
         "the digit for 0 first"},
        {"profile: p\nfields: {address: {within: nowhere}}\nlines: [{starts: x, is: pass}]\n",
         "no bank \"nowhere\""},
        {"profile: p\nfields: {bits: {from: 2}}\nlines: [{starts: x, is: pass}]\n", "from 0 to 1"},
        {"profile: p\nfields: {bits: {marks: XY}}\nlines: [{starts: x, is: pass}]\n",
         "the one character"},
        {"profile: p\nlines: [{match: '(?<code>x)', is: status, codes: {bit 64: good}}]\n",
         "\"bit 0\" to \"bit 63\""},
        {"profile: p\nlines: [{match: '(?<code>x)', is: status, codes: {1: {bits: D8}}}]\n",
         "data bits like D3"},
        {"profile: p\nlines: [{match: '(?<code>x)', is: status, codes: {1: {}}}]\n", "codes"},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_profile *profile;
        rmg_errors errors = {0};

        CHECK(rmg_profile_load_text("made.yaml", rows[i].text, board, &profile, &errors) ==
                      RMG_ERR_CONTENT &&
                  !profile && errors.count && strstr(errors.list[0].what, rows[i].says) &&
                  g_str_has_prefix(errors.list[0].what, "made.yaml:"),
              "%s: %s", rows[i].text, errors.count ? errors.list[0].what : "no error");
        rmg_errors_free(&errors);
    }
    rmg_board_free(board);
}

CU_TestInfo line_rule_tests[] = {
    {"line ends", line_ends},
    {"what a line says", what_a_line_says},
    {"lines that do not fit", no_fit},
    {"wrong profiles", wrong_profiles},
    CU_TEST_INFO_NULL,
};
