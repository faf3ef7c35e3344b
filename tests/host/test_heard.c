/* Lines that other programs print: each profile of the demo and two written from docs/lines.md,
 * what each kind of rule makes of a line, and that nothing is claimed that the lines do not say. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/lines.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

/* The same, and the test ends there. */
#define CHECK_RETURN(condition, ...)                                                               \
    do {                                                                                           \
        const bool goes_on = (condition);                                                          \
        CHECK(goes_on, __VA_ARGS__);                                                               \
        if (!goes_on)                                                                              \
            return;                                                                                \
    } while (0)

/* Lines heard by a profile, on a board. */
typedef struct heard {
    rmg_board *board;
    rmg_profile *profile;
    rmg_run run;
    rmg_suspects suspects;
    rmg_status status;
    rmg_error error;
} heard;

/* Hears `bytes` in pieces of a few bytes: where they are cut must not matter. */
static void hear(heard *h, const char *board, const char *profile, const char *bytes, size_t count)
{
    rmg_errors errors = {0};
    rmg_listener *l;

    memset(h, 0, sizeof *h);
    h->board = bench_load(board);
    CHECK(rmg_profile_load_text("made.yaml", profile, h->board, &h->profile, &errors) == RMG_OK,
          "%s", errors.count ? errors.list[0].what : "");
    rmg_errors_free(&errors);
    CHECK(rmg_run_begin_heard(&h->run, h->board, "made", rmg_profile_name(h->profile),
                              rmg_profile_steps(h->profile)) == RMG_OK,
          "begins");
    l = rmg_listen_begin(h->profile, &h->run);
    for (size_t at = 0; at < count; at += 1 + at % 7)
        CHECK(rmg_listen_bytes(l, bytes + at, MIN(count - at, 1 + at % 7)) == RMG_OK, "heard");
    h->status = rmg_listen_end(l, false, &h->error);
    rmg_listen_free(l);
    rmg_suspects_find(&h->run, NULL, &h->suspects);
    rmg_suspects_word(&h->run, &h->suspects);
}

static void hear_text(heard *h, const char *board, const char *profile, const char *text)
{
    hear(h, board, profile, text, strlen(text));
}

static void forget(heard *h)
{
    rmg_suspects_free(&h->suspects);
    rmg_run_end(&h->run);
    rmg_profile_free(h->profile);
    rmg_board_free(h->board);
    rmg_error_free(&h->error);
}

/* Is some sentence about the suspect's reasons like this? */
static bool says(const rmg_suspect *s, const char *what)
{
    for (size_t i = 0; s->because[i]; i++)
        if (strstr(s->because[i], what))
            return true;
    return false;
}

#define TWO_LINES                                                                                  \
    "profile: two lines a failure\n"                                                               \
    "groups:\n  R: {bank: upper, address: {within: upper}}\n"                                      \
    "  S: {bank: lower, address: {within: lower}}\n"                                               \
    "lines:\n"                                                                                     \
    "  - {match: '^--- SET (?<group>\\w) ---$', is: heading}\n"                                    \
    "  - {match: '^AT (?<address>[0-9A-F]{4})$', is: heading}\n"                                   \
    "  - {match: '^ +WANT (?<wrote>..) GOT (?<read>..)$', is: failure}\n"                          \
    "  - {match: '^ROUND', is: pass}\n"
#define TWO_LINES_LOG                                                                              \
    "--- SET S ---\n--- SET R ---\nAT 0123\n  WANT FF GOT FB\nAT 0923\n  WANT 04 GOT 00\nROUND "   \
    "1\n"                                                                                          \
    "--- SET R ---\nAT 0123\n  WANT FF GOT FB\nAT 0923\n  WANT 04 GOT 00\nROUND 2\n"
#define PAGES                                                                                      \
    "profile: differing bits by page\n"                                                            \
    "fields: {page: {digits: hex, times: 0x1000, size: 0x1000}}\n"                                 \
    "lines:\n"                                                                                     \
    "  - {match: '^page (?<page>[0-9A-F]+) diff (?<differs>[0-9A-F]+)$', is: failure}\n"           \
    "  - {starts: checked all, is: end}\n"
#define PAGES_LOG "page 9 diff 40\npage A diff 40\npage 8 diff 40\nchecked all pages\n"

/* The eight profiles: which socket, and what is known. */
static void every_profile(void)
{
    static const struct {
        const char *name, *board;
        const char *profile, *log; /* NULL: of the demo */
        const char *socket, *bank;
        rmg_word bits;
        uint64_t failures, passes;
        bool addresses, directions, tested, at_least;
    } rows[] = {
        {"columns", HALVORN, NULL, NULL, "U21", "upper", 0x20, 16, 2, true, true, true, true},
        {"wide-words", "demo/boards/tarnbeck.yaml", NULL, NULL, "U17", "rank 1 high", 0x20000, 15,
         3, true, true, true, false},
        {"frame-status", "demo/boards/vessary.yaml", NULL, NULL, "U4", "right", 0, 4, 4, false,
         false, false, false},
        {"bad-bits", OSTREL, NULL, NULL, "U32", "near", 0x40, 3, 3, false, false, false, false},
        {"counts", "demo/boards/shutter.yaml", NULL, NULL, "U33", "shutter", 0x04, 2577, 2, false,
         false, false, false},
        {"staircase", HALVORN, NULL, NULL, "U24", "upper", 0x04, 8, 2, true, false, true, false},
        {"two lines", HALVORN, TWO_LINES, TWO_LINES_LOG, "U24", "upper", 0x04, 4, 2, true, true,
         false, false},
        {"pages", HALVORN, PAGES, PAGES_LOG, "U20", "upper", 0x40, 3, 1, false, false, false,
         false},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *file = g_strdup_printf("demo/profiles/%s.yaml", rows[i].name);
        gchar *log_file = g_strdup_printf("demo/logs/%s.txt", rows[i].name);
        char *profile = rows[i].profile ? g_strdup(rows[i].profile) : file_text(project_path(file));
        char *log = rows[i].log ? g_strdup(rows[i].log) : file_text(project_path(log_file));
        const rmg_suspect *s;
        heard h;

        hear_text(&h, rows[i].board, profile, log);
        CHECK(h.status == RMG_OK && h.run.complete, "%s: %s", rows[i].name,
              h.error.what ? h.error.what : "complete");
        CHECK_RETURN(h.suspects.count == 1, "%s: %zu suspects", rows[i].name, h.suspects.count);
        s = &h.suspects.list[0];
        CHECK(strcmp(h.board->sockets[s->finding.socket].name, rows[i].socket) == 0 &&
                  strcmp(h.board->banks[s->finding.bank].name, rows[i].bank) == 0 &&
                  s->finding.bits == rows[i].bits,
              "%s: %s", rows[i].name, s->headline);
        CHECK(h.run.heard->failures == rows[i].failures && h.run.pass_count == rows[i].passes &&
                  !h.run.heard->unknown && h.run.heard->addresses == rows[i].addresses &&
                  h.run.heard->directions == rows[i].directions &&
                  h.run.heard->tested == rows[i].tested &&
                  h.run.heard->at_least == rows[i].at_least,
              "%s: what is known", rows[i].name);
        /* nothing that the lines do not say */
        CHECK(s->confidence > 0.5 && s->confidence < 0.9, "%s: %g", rows[i].name, s->confidence);
        CHECK(says(s, "is not known") == !rows[i].directions, "%s: which way", rows[i].name);
        CHECK(says(s, "lower bounds") == rows[i].at_least, "%s: bounds", rows[i].name);
        CHECK(!says(s, "words tested") && !says(s, "sound"), "%s: no claim of ours", rows[i].name);
        CHECK(rows[i].addresses || s->finding.kind == RMG_FINDING_REPORTED, "%s: no shape",
              rows[i].name);
        forget(&h);
        g_free(profile);
        g_free(log);
        g_free(file);
        g_free(log_file);
    }
}

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

/* What several places share comes before the chips; a bank that is not known is not guessed. */
static void shared_causes(void)
{
    static const char profile[] = "profile: p\nunknown-lines: 0 %\nlines:\n"
                                  "  - {match: '^(?<bank>\\w+) (?<bits>[\\d ]+)$', is: failure}\n"
                                  "  - {match: '^any (?<bits>\\d+)$', is: failure}\n"
                                  "  - {match: '^(?<bits>\\d+)$', is: failure}\n"
                                  "  - {starts: ., is: pass}\n";
    static const struct {
        const char *log;
        rmg_finding_kind kind;
        const char *headline;
        size_t count;
    } rows[] = {
        {"upper 3\nlower 3\n.\nupper 3\nlower 3\n.\n", RMG_FINDING_REPORTED_LINE,
         "data line D3 before any chip", 1},
        {"upper 0 1 2 3 4 5 6 7\n.\nupper 0 1 2 3 4 5 6 7\n.\n", RMG_FINDING_REPORTED_BANK,
         "Do not change chips yet", 1},
        {"3\n.\n3\n.\n", RMG_FINDING_REPORTED_BIT, "but not in which bank. One of: U15 and U23", 1},
        {"upper 3\nupper 4\n.\nupper 3\nupper 4\n.\n", RMG_FINDING_REPORTED, "U2", 2},
        {"upper 3\nlower 4\nupper 5\n.\nupper 3\nlower 4\nupper 5\n.\n", RMG_FINDING_REPORTED, "U",
         3},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        heard h;
        double sum = 0;

        hear_text(&h, HALVORN, profile, rows[i].log);
        CHECK_RETURN(h.status == RMG_OK && h.suspects.count == rows[i].count, "%zu: %zu suspects",
                     i, h.suspects.count);
        CHECK(h.suspects.list[0].finding.kind == rows[i].kind &&
                  strstr(h.suspects.list[0].headline, rows[i].headline),
              "%zu: %s", i, h.suspects.list[0].headline);
        for (size_t n = 0; n < h.suspects.count; n++)
            sum = MAX(sum, h.suspects.list[n].confidence);
        CHECK(sum < (rows[i].count > 2 ? 0.5 : 0.9), "%zu: %g", i, sum);
        forget(&h);
    }
}

/* One failure, once: no more than a hint. Passes that differ: less sure. */
static void little_is_little(void)
{
    static const char profile[] =
        "profile: p\nlines:\n  - {match: '^(?<address>\\w{4}) (?<differs>..)$', is: failure}\n"
        "  - {starts: pass, is: pass}\n";
    heard h;

    hear_text(&h, HALVORN, profile, "pass\n8000 01\npass\n");
    CHECK(h.suspects.count == 1 && h.suspects.list[0].confidence < 0.5 &&
              says(&h.suspects.list[0], "may be chance"),
          "once");
    forget(&h);
    hear_text(&h, HALVORN, profile, "8000 01\npass\n8000 01\npass\n");
    CHECK(h.suspects.list[0].confidence > 0.7 && rmg_run_repeats(&h.run), "alike");
    forget(&h);
    hear_text(&h, HALVORN, profile, "8000 01\npass\n8001 01\npass\n");
    CHECK(h.suspects.list[0].confidence < 0.7 && !rmg_run_repeats(&h.run), "not alike");
    forget(&h);
    hear_text(&h, HALVORN, profile, "pass\npass\n");
    CHECK(!h.suspects.count && !rmg_run_failed(&h.run), "nothing");
    forget(&h);
}

/* Start, end, and what is cut off; counts that do not agree with what was reported. */
static void from_start_to_end(void)
{
    static const char profile[] =
        "profile: p\nlimit: {reports: 3, per: heading}\nlines:\n"
        "  - {starts: BEGIN, is: start}\n"
        "  - {match: '^(?<address>\\w{4}) (?<differs>..)$', is: failure}\n"
        "  - {match: '^BLOCK (?<address>\\w{4})', is: heading}\n"
        "  - {match: '^TOTAL (?<count>\\d+)', is: end}\n";
    static const struct {
        const char *log;
        uint64_t failures, passes;
        bool complete, at_least;
    } rows[] = {
        {"noise\n8000 01\nBEGIN\n8000 01\nTOTAL 1\n", 1, 1, true, false},
        {"BEGIN\n8000 01\n8001 01\nTOTAL 2\n8002 01\n", 2, 1, true, false},
        {"BEGIN\n8000 01\n8001 01\nTOTAL 3\n", 2, 1, true, true},
        {"BEGIN\n8000 01\n8001 01\n8002 01\nTOTAL 3\n", 3, 1, true, true},
        {"BEGIN\n8000 01\n8001 01\nBLOCK 8002\n8002 01\nTOTAL 3\n", 3, 1, true, false},
        {"BEGIN\n8000 01\n8001 0", 1, 0, false, false},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *loose = g_strdup_printf("%sunknown-lines: 40 %%\n", profile);
        heard h;

        hear_text(&h, HALVORN, loose, rows[i].log);
        CHECK(h.status == RMG_OK && h.run.heard->failures == rows[i].failures &&
                  h.run.pass_count == rows[i].passes && h.run.complete == rows[i].complete &&
                  h.run.heard->at_least == rows[i].at_least,
              "%zu: %u failures, %u passes, complete %d, at least %d: %s", i,
              (unsigned)h.run.heard->failures, (unsigned)h.run.pass_count, h.run.complete,
              h.run.heard->at_least, h.error.what ? h.error.what : "");
        forget(&h);
        g_free(loose);
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

/* The run file keeps all of it: the same suspects, and the same result to the letter. */
static void kept_in_a_run_file(void)
{
    static const char *const names[][2] = {{"columns", HALVORN},
                                           {"frame-status", "demo/boards/vessary.yaml"},
                                           {"counts", "demo/boards/shutter.yaml"}};

    for (size_t i = 0; i < COUNT(names); i++) {
        gchar *file = g_strdup_printf("demo/profiles/%s.yaml", names[i][0]);
        gchar *log_file = g_strdup_printf("demo/logs/%s.txt", names[i][0]);
        char *profile = file_text(project_path(file)), *log = file_text(project_path(log_file));
        gchar *whole = g_strdup_printf("test: March C-\n%s", profile);
        const char *path = temporary_path("heard.run");
        rmg_run_writer *writer = rmg_run_writer_new(path);
        rmg_run_file read;
        rmg_suspects suspects;
        rmg_error error = {0};
        char *texts[2];
        heard h;

        hear_text(&h, names[i][1], i ? whole : profile, log);
        CHECK(rmg_run_writer_close(writer, &h.run, NULL, 0, &error) == RMG_OK, "%s", error.what);
        rmg_run_writer_free(writer);
        CHECK(rmg_run_file_read(path, true, &read, &error) == RMG_ERR_CONTENT &&
                  strstr(error.what, "cannot be continued"),
              "%s", error.what);
        rmg_error_free(&error);
        rmg_run_file_free(&read);
        CHECK_RETURN(rmg_run_file_read(path, false, &read, &error) == RMG_OK, "%s", error.what);
        rmg_suspects_find(&read.run, NULL, &suspects);
        rmg_suspects_word(&read.run, &suspects);
        texts[0] = rmg_run_json(&h.run, &h.suspects);
        texts[1] = rmg_run_json(&read.run, &suspects);
        CHECK(strcmp(texts[0], texts[1]) == 0, "%s: the same result", names[i][0]);
        CHECK(strstr(texts[0], "\"heard\"") && strstr(texts[0], i ? "March C-" : "not known"),
              "%s: steps", names[i][0]);
        rmg_text_free(texts[0]);
        rmg_text_free(texts[1]);
        rmg_suspects_free(&suspects);
        rmg_run_file_free(&read);
        forget(&h);
        g_free(whole);
        g_free(profile);
        g_free(log);
        g_free(file);
        g_free(log_file);
    }
}

CU_TestInfo heard_tests[] = {
    {"every profile ends at its socket", every_profile},
    {"line ends", line_ends},
    {"what a line says", what_a_line_says},
    {"shared causes", shared_causes},
    {"little is little", little_is_little},
    {"from start to end", from_start_to_end},
    {"lines that do not fit", no_fit},
    {"wrong profiles", wrong_profiles},
    {"kept in a run file", kept_in_a_run_file},
    CU_TEST_INFO_NULL,
};
