/* A board by question and answer: what is wrong with each answer, taking back, correcting, going
 * on; hints of what is seldom meant; and the numbers that a board shows of its memory. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/author.h"
#include "rimeglass/probe.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

/* Answers one after the other: "key=text"; false at the first that is refused. */
static bool give(rmg_author *a, const char *const *answers)
{
    for (size_t i = 0; answers[i]; i++) {
        gchar **sides = g_strsplit(answers[i], "=", 2);
        rmg_error error = {0};
        const bool ok = rmg_author_answer_key(a, sides[0], sides[1], &error) == RMG_OK;

        CHECK(ok, "%s: %s", answers[i], error.what);
        rmg_error_free(&error);
        g_strfreev(sides);
        if (!ok)
            return false;
    }
    return true;
}

/* Two banks that take turns, and a ROM; the second is of a part that is not in the table. */
static const char *const whole[] = {"board=Test piece: with \"quotes\"",
                                    "revision=1",
                                    "word=8",
                                    "address-lines=16",
                                    "pages=no",
                                    "region=0x0000-0x7FFF ram work RAM; as traced",
                                    "region=8000h-9FFFh rom program",
                                    "region=0xA000-0xAFFF mirror of 0x0000-0x0FFF echo",
                                    "region=done",
                                    "bank=even",
                                    "part=4416",
                                    "range=0x0000-0x7FFF where A0=0",
                                    "feeds=",
                                    "sockets=U1 U2",
                                    "bits=D4-D7",
                                    "mount=socket",
                                    "bank=odd",
                                    "part=own 4",
                                    "part-facts=dram 4 14 8",
                                    "range=",
                                    "feeds=",
                                    "sockets=U3-U4",
                                    "bits=D0-D3",
                                    "mount=ball",
                                    "bank=program",
                                    "part=2764",
                                    "range=",
                                    "feeds=",
                                    "sockets=U9",
                                    "mount=socket",
                                    "bank=done",
                                    "undriven=low",
                                    NULL};

static void a_whole_board(void)
{
    rmg_author *a = rmg_author_new();
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    rmg_place place;
    char *text;
    unsigned lines = 0;

    CHECK(give(a, whole) && !rmg_author_question(a), "all is answered");
    text = rmg_author_file(a);
    for (const char *c = text; *c; c++)
        lines += *c == '\n';
    CHECK(lines < 60 && strstr(text, "\n# ") != NULL, "%u lines with remarks", lines);
    CHECK(rmg_board_load_text("new.yaml", text, &board, &errors) == RMG_OK, "%s: %s",
          errors.count ? errors.list[0].what : "", text);
    if (board) {
        CHECK(strcmp(board->name, "Test piece: with \"quotes\"") == 0 &&
                  board->undriven == RMG_UNDRIVEN_LOW && board->undriven_known,
              "head");
        CHECK(rmg_place_find(&board->placement, 0x0010, 6, &place) &&
                  strcmp(board->sockets[place.socket].name, "U1") == 0,
              "from the highest bits down");
        CHECK(rmg_place_find(&board->placement, 0x0011, 6, &place) &&
                  strcmp(board->sockets[place.socket].name, "U4") == 0 &&
                  board->sockets[place.socket].mount == RMG_MOUNT_BALL &&
                  strcmp(board->banks[place.bank].part->number, "own 4") == 0,
              "the other bank has the other level, and lines to match");
        CHECK(board->sockets[0].drawn && board->width_mm > 0, "it can be drawn");
    }
    rmg_text_free(text);
    rmg_errors_free(&errors);
    rmg_board_free(board);
    rmg_author_free(a);
}

/* Each question: an answer that is wrong, and what must be said of it. */
static const struct {
    const char *key, *answer, *says;
} wrong[] = {
    {"board", "", "there must be an answer"},
    {"board", "\x01", "no text"},
    {"word", "0", "a number from 1 to 64"},
    {"word", "65", "a number from 1 to 64"},
    {"word", "eight", "a number from 1 to 64"},
    {"address-lines", "1", "a number from 2 to 48"},
    {"address-lines", "0x8000", "a number from 2 to 48"},
    {"pages", "yes", "expected no, or the window"},
    {"pages", "0x1000-0x1FFF select 0x3000", "expected no, or the window"},
    {"pages", "0x1000-0x1FFF select 0x3000 count 1", "expected a number from 2"},
    {"region", "", "there must be an answer"},
    {"region", "done", "expected a range"},
    {"region", "0x7FFF-0x0000 ram x", "not below its first"},
    {"region", "007FFF ram x", "expected a range"},
    {"region", "0x0000-0x1FFFF ram x", "past the address width"},
    {"region", "0x0000-0x7FFF rma x", "did you mean ram?"},
    {"region", "0x0000-0x7FFF ram", "expected a name"},
    {"region", "0x0000-0x7FFF mirror x", "mirror of 0x0000-0x0FFF"},
    {"region", "0x7000-0x7FFF ram y", "overlaps \"work RAM\""},
    {"bank", "done", "no socket holds \"work RAM\" yet"},
    {"part-facts", "dram 1 15", "row lines"},
    {"part-facts", "core 1 15 8", "expected its kind"},
    {"part-facts", "sram 0 11", "data lines (1 to 32)"},
    {"range", "0x0000", "expected a range like"},
    {"range", "0x0000-0xFFFF", "A14 varies there but feeds no address line"},
    {"range", "0x0000-0x1FFFF", "up to the last address of 16 lines, 0xFFFF"},
    {"range", "0x0000-0x7FFF where A0", "where A0=0"},
    {"range", "lower half", "expected a range"},
    {"feeds", "A1-A8", "row lines / column lines"},
    {"feeds", "A1-A8 / A9-A13", "5 lines given, but a 4416 has 6"},
    {"feeds", "A1-A8 / A9-A99", "expected address lines from A0 to A15"},
    {"feeds", "A1-A8 / }", "expected address lines like A0-A6"},
    {"sockets", "first and second", "expected designators like U11-U18"},
    {"sockets", "U1 U1", "U1 is named twice"},
    {"sockets", "U1-U3", "hold more than the 8 bits of a word; expected at most 2"},
    {"bits", "", "there must be an answer"},
    {"bits", "4-7", "expected the 4 data bits of U1"},
    {"bits", "D2-D5", "expected the 4 data bits of U1"},
    {"bits", "D8-D11", "D8-D11 is neither the lowest nor the highest of 8 bits"},
    {"bits", "D0-D3 D4-D7 D0-D3", "or of each of the 2"},
    {"bits", "D0-D3 D0-D3", "both hold D0"},
    {"mount", "glued", "expected socket, soldered or ball"},
    {"undriven", "float", "expected high, low, holds or not known"},
};

static void what_is_wrong_with_an_answer(void)
{
    for (size_t i = 0; i < COUNT(wrong); i++) {
        rmg_author *a = rmg_author_new();
        rmg_error error = {0};
        size_t n = 0, count;

        while (whole[n] && strcmp(rmg_author_question(a)->key, wrong[i].key) != 0) {
            const char *const one[] = {whole[n++], NULL};

            if (!give(a, one))
                break;
        }
        /* the second region, for what only that can be wrong with; the part that is as in the bank
         * before for the facts */
        if (strstr(wrong[i].says, "overlaps")) {
            const char *const one[] = {whole[n], NULL};

            give(a, one);
        }
        count = rmg_author_count(a);
        /* a range is judged with the lines that are proposed for it */
        if (rmg_author_answer(a, wrong[i].answer, &error) == RMG_OK &&
            strcmp(wrong[i].key, "range") == 0)
            rmg_author_answer(a, "", &error);
        CHECK(error.what && strstr(error.what, wrong[i].says), "%s \"%s\": %s", wrong[i].key,
              wrong[i].answer, error.what ? error.what : "is taken");
        CHECK(rmg_author_count(a) >= count && rmg_author_count(a) <= count + 1u &&
                  rmg_author_question(a),
              "%s: nothing is lost", wrong[i].key);
        rmg_error_free(&error);
        rmg_author_free(a);
    }
}

/* Two-byte words ask how addresses count; an answer changes what follows. */
static void back_and_correct(void)
{
    rmg_author *a = rmg_author_new();
    rmg_error error = {0};
    static const char *const first[] = {"board=x", "word=16", "address-lines=16", NULL};

    give(a, first);
    CHECK(strcmp(rmg_author_question(a)->key, "addresses") == 0, "bytes or words");
    CHECK(rmg_author_answer(a, "nibbles", &error) == RMG_ERR_CONTENT, "neither");
    rmg_error_free(&error);
    CHECK(rmg_author_correct(a, 2, "8", &error) == RMG_OK &&
              strcmp(rmg_author_question(a)->key, "pages") == 0,
          "not asked for eight bits: %s", rmg_author_question(a)->key);
    CHECK(rmg_author_correct(a, 2, "none", &error) == RMG_ERR_CONTENT &&
              strcmp(rmg_author_text(a, 2), "8") == 0,
          "a wrong correction changes nothing");
    rmg_error_free(&error);
    CHECK(rmg_author_correct(a, 9, "8", &error) == RMG_ERR_CONTENT, "there is no such answer");
    rmg_error_free(&error);
    CHECK(rmg_author_back(a) && strcmp(rmg_author_question(a)->key, "address-lines") == 0,
          "one back");
    while (rmg_author_back(a))
        ;
    CHECK(rmg_author_count(a) == 0 && strcmp(rmg_author_question(a)->key, "board") == 0,
          "back to the beginning");
    give(a, whole);
    CHECK(rmg_author_correct(a, 3, "15", &error) == RMG_OK, "fewer lines");
    CHECK(rmg_author_count(a) < COUNT(whole) - 1u &&
              strcmp(rmg_author_question(a)->key, "region") == 0,
          "a region beyond them is asked anew, after %zu answers", rmg_author_count(a));
    rmg_author_free(a);
}

/* Answers kept in a file and gone on with at each of them give the same board. */
static void gone_on_with(void)
{
    rmg_author *a = rmg_author_new();
    char *expected, *text;

    give(a, whole);
    expected = rmg_author_file(a);
    rmg_author_free(a);
    for (size_t stop = 0; whole[stop]; stop++) {
        rmg_errors errors = {0};
        const char *file;

        a = rmg_author_new();
        for (size_t n = 0; n < stop; n++) {
            const char *const one[] = {whole[n], NULL};

            give(a, one);
        }
        text = rmg_author_answers(a);
        file = temporary_file("kept.answers", stop ? text : "[]\n");
        rmg_text_free(text);
        rmg_author_free(a);
        a = rmg_author_new();
        CHECK(rmg_author_load(a, file, &errors) == RMG_OK, "%zu: %s", stop,
              errors.count ? errors.list[0].what : "");
        give(a, &whole[stop]);
        text = rmg_author_file(a);
        CHECK(strcmp(text, expected) == 0, "the same after %zu", stop);
        rmg_text_free(text);
        rmg_errors_free(&errors);
        rmg_author_free(a);
    }
    rmg_text_free(expected);
}

static const struct {
    const char *title, *text, *says;
} answer_files[] = {
    {"no list", "word: 8\n", ":1: expected a list of answers"},
    {"no answer", "- word\n", ":1: expected one answer"},
    {"another question", "- board: x\n- bank: lower\n",
     ":2: bank: found an answer to \"bank\", "
     "expected one to \"region\""},
    {"wrong answer", "- board: x\n- revision: none\n- word: 99\n", ":3: word: found \"99\""},
    {"unknown key", "- name: x\n", ":1: name: found an answer to \"name\""},
};

static void errors_of_answer_files(void)
{
    for (size_t i = 0; i < COUNT(answer_files); i++) {
        rmg_author *a = rmg_author_new();
        rmg_errors errors = {0};

        CHECK(rmg_author_load(a, temporary_file("wrong.answers", answer_files[i].text), &errors) ==
                      RMG_ERR_CONTENT &&
                  errors.count == 1 && strstr(errors.list[0].what, answer_files[i].says),
              "%s: %s", answer_files[i].title, errors.count ? errors.list[0].what : "taken");
        rmg_errors_free(&errors);
        rmg_author_free(a);
    }
}

/* A change to the board of eight one-bit chips, or to the Halvorn, and the hint that it gives. */
static const struct {
    const char *title, *file, *from, *to, *says;
} hints[] = {
    {"numbered the other way", "demo/shapes/one-bit-chips.yaml",
     "U9: D0, U10: D1, U11: D2, U12: D3, U13: D4, U14: D5, U15: D6, U16: D7",
     "U9: D7, U10: D6, U11: D5, U12: D4, U13: D3, U14: D2, U15: D1, U16: D0",
     "The upper bank runs from U16 (lowest bit) to U9, the other way round"},
    {"half-good", "demo/shapes/unequal-banks.yaml",
     "range: 0x00000-0x0FFFF, part: 4164, rows: A0-A7, columns: A8-A15",
     "range: 0x00000-0x07FFF, part: 4164, rows: A0-A7, columns: [A8-A14, low]",
     "uses half of each 4164 (column line 7 is tied low)"},
    {"RAM in no region", "demo/shapes/static-only.yaml", "0x000-0x7FF, kind", "0x000-0x5FF, kind",
     "The high bank holds RAM at 0x600-0x7FF, but no region names it"},
    {"RAM under ports", "demo/boards/halvorn64.yaml", "kind: shadow", "kind: reserved",
     "0x3C00-0x3FFF, in \"screen\" (reserved)"},
    {"RAM in no bank", "demo/boards/halvorn64.yaml", "part: 2716", "part: 6116",
     "is RAM (6116) in no bank"},
    {"drawn over", "demo/boards/halvorn64.yaml", "at: [82, 86]", "at: [82, 46]",
     "U19 is drawn over U11 (0 mm across and 6 mm down from it), and 7 more such pairs"},
    {"drawn outside", "demo/boards/halvorn64.yaml", "at: [24, 102]", "at: [24, 502]",
     "U52 is drawn outside the board, which is 248 mm by 128 mm"},
    {"no image", "demo/boards/shutter.yaml", "Corrow", "Carrow", "U3 is a ROM without \"image\""},
};

static void what_is_seldom_meant(void)
{
    for (size_t i = 0; i < COUNT(hints); i++) {
        char *sound = file_text(project_path(hints[i].file));
        char *text = replaced(sound, hints[i].from, hints[i].to);
        rmg_board *board = NULL;
        rmg_errors errors = {0};
        char **found = NULL;
        bool any = false;

        if (strstr(hints[i].title, "half")) { /* the region is half as long then */
            char *less = replaced(text, "0x00000-0x0FFFF, kind", "0x00000-0x07FFF, kind");

            g_free(text);
            text = less;
        } else if (strstr(hints[i].title, "in no bank")) {
            char *less = replaced(text, "unseen: the character", "note: the character");
            char *one = replaced(less, ", note: character ROM", "");

            g_free(text);
            g_free(less);
            text = one;
        }
        CHECK(rmg_board_load_text("hint.yaml", text, &board, &errors) == RMG_OK, "%s: %s",
              hints[i].title, errors.count ? errors.list[0].what : "");
        if (board)
            found = rmg_board_hints(board);
        for (size_t n = 0; found && found[n]; n++)
            any |= strstr(found[n], hints[i].says) != NULL;
        CHECK(any, "%s: %s", hints[i].title, found && found[0] ? found[0] : "no hint");
        rmg_texts_free(found);
        rmg_errors_free(&errors);
        rmg_board_free(board);
        g_free(sound);
        g_free(text);
    }
}

/* A board that is in order gives none. */
static void no_hint_where_all_is_well(void)
{
    static const char *const quiet[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml",
                                        "demo/boards/tarnbeck.yaml", "demo/shapes/paged.yaml",
                                        "demo/shapes/unequal-banks.yaml"};

    for (size_t i = 0; i < COUNT(quiet); i++) {
        rmg_board *board = bench_load(quiet[i]);
        char **found = rmg_board_hints(board);

        CHECK(!found[0], "%s: %s", quiet[i], found[0]);
        rmg_texts_free(found);
        rmg_board_free(board);
    }
}

static const struct {
    const char *file;
    uint64_t number;
    rmg_reckon_kind kind; /* of the first cause */
    uint64_t banks;
    bool half;
    size_t causes;
    rmg_addr first; /* address to try */
} numbers[] = {
    /* the Halvorn counts 8 KiB of another card too */
    {"demo/boards/halvorn64.yaml", 40960, RMG_RECKON_SILENT, 0, false, 0, 0},
    {"demo/boards/halvorn64.yaml", 24576, RMG_RECKON_SILENT, 2, true, 2, 0x8000},
    {"demo/boards/halvorn64.yaml", 8192, RMG_RECKON_SILENT, 3, false, 1, 0x0000},
    {"demo/boards/halvorn64.yaml", 32768, RMG_RECKON_SIZED, 1, false, 2, 0x2000},
    {"demo/boards/halvorn64.yaml", 24577, RMG_RECKON_STOPPED, 2, false, 1, 0x8001},
    {"demo/boards/halvorn64.yaml", 99999, RMG_RECKON_SILENT, 0, false, 0, 0},
    {"demo/shapes/one-bit-chips.yaml", 16384, RMG_RECKON_SILENT, 1, true, 3, 0x0000},
    {"demo/shapes/one-bit-chips.yaml", 16, RMG_RECKON_SILENT, 1, true, 3, 0x0000}, /* KiB */
    {"demo/shapes/unequal-banks.yaml", 65536, RMG_RECKON_SILENT, 2, false, 1, 0x10000},
    {"demo/shapes/interleaved.yaml", 16384, RMG_RECKON_SILENT, 1, true, 3, 0x0000},
    {"demo/shapes/rom-only.yaml", 16384, RMG_RECKON_SILENT, 0, false, 0, 0},
};

static void numbers_of_the_start(void)
{
    for (size_t i = 0; i < COUNT(numbers); i++) {
        rmg_board *board = bench_load(numbers[i].file);
        rmg_reckoning r;
        char **advice;

        rmg_reckon_number(&r, board, numbers[i].number);
        CHECK(r.count == numbers[i].causes && r.half == numbers[i].half, "%s %u: %zu causes%s",
              numbers[i].file, (unsigned)numbers[i].number, r.count, r.half ? ", half" : "");
        if (r.count)
            CHECK(r.list[0].kind == numbers[i].kind && r.list[0].banks == numbers[i].banks &&
                      r.try_count && r.tries[0] == numbers[i].first,
                  "%s %u: kind %d, banks %u, first at 0x%X", numbers[i].file,
                  (unsigned)numbers[i].number, (int)r.list[0].kind, (unsigned)r.list[0].banks,
                  (unsigned)r.tries[0]);
        advice = rmg_reckoning_advice(&r);
        CHECK(advice[0] && strstr(advice[0], "The board shows"), "it is said");
        if (r.half)
            CHECK(advice[1] && advice[2] && strstr(advice[r.count], "measured its memory anew"),
                  "both reasons: %s", advice[r.count]);
        rmg_texts_free(advice);
        rmg_reckoning_end(&r);
        rmg_board_free(board);
    }
}

static void symptoms(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");

    CHECK(rmg_symptom_next(board, "SCREEN wrong", 0) == 0 &&
              rmg_symptom_next(board, "screen", 1) == board->symptom_count,
          "each word, capitals or not");
    CHECK(rmg_symptom_next(board, "crash", 0) == 1 && board->symptoms[1].has_first &&
              board->symptoms[1].first == 0x8000 &&
              strcmp(board->symptoms[1].look_at, "upper, CAS upper, U34") == 0,
          "where to look");
    CHECK(rmg_symptom_next(board, "smoke", 0) == board->symptom_count, "none");
    rmg_board_free(board);
}

CU_TestInfo author_tests[] = {
    {"a whole board", a_whole_board},
    {"wrong answers", what_is_wrong_with_an_answer},
    {"back and correct", back_and_correct},
    {"gone on with", gone_on_with},
    {"errors of answer files", errors_of_answer_files},
    {"hints", what_is_seldom_meant},
    {"no hints", no_hint_where_all_is_well},
    {"numbers of the start", numbers_of_the_start},
    {"symptoms", symptoms},
    CU_TEST_INFO_NULL,
};
