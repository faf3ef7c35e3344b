/* Boards based on another one, boards as text, and what differs between two. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "suites.h"
#include "temporary.h"

static const char *const files[] = {
    "demo/boards/halvorn64.yaml",      "demo/boards/halvorn64-d.yaml",
    "demo/boards/ostrel16.yaml",       "demo/boards/tarnbeck.yaml",
    "demo/boards/vessary.yaml",        "demo/boards/shutter.yaml",
    "demo/boards/lampdriver.yaml",     "demo/shapes/paged.yaml",
    "demo/shapes/lanes.yaml",          "demo/shapes/unequal-banks.yaml",
    "demo/shapes/battery-backed.yaml", "demo/shapes/twelve-bit-words.yaml",
};

/* The text of a board is a board file that gives the same board. */
static void text_gives_the_same_board(void)
{
    for (size_t i = 0; i < COUNT(files); i++) {
        rmg_board *board = bench_load(files[i]), *again = NULL;
        char *text = rmg_board_text(board), *twice = NULL;
        rmg_errors errors = {0};
        rmg_board_differences found = {0};

        CHECK(rmg_board_load_text(board->file, text, &again, &errors) == RMG_OK, "%s: %s", files[i],
              errors.count ? errors.list[0].what : "");
        if (again) {
            twice = rmg_board_text(again);
            CHECK(strcmp(text, twice) == 0, "%s: the text stays", files[i]);
            rmg_boards_compare(board, again, &found);
            CHECK(found.count == 0, "%s: %s differs", files[i],
                  found.count ? found.list[0].name : "");
            CHECK(again->line_count == board->line_count &&
                      again->report_count == board->report_count &&
                      again->symptom_count == board->symptom_count &&
                      again->width_mm == board->width_mm,
                  "%s: lines, symptoms, drawing", files[i]);
            for (size_t s = 0; s < board->socket_count; s++)
                CHECK(strcmp(board->sockets[s].image, again->sockets[s].image) == 0 &&
                          board->sockets[s].x_mm == again->sockets[s].x_mm &&
                          strcmp(board->sockets[s].unseen, again->sockets[s].unseen) == 0,
                      "%s: %s", files[i], board->sockets[s].name);
        }
        rmg_board_differences_free(&found);
        rmg_text_free(text);
        rmg_text_free(twice);
        rmg_errors_free(&errors);
        rmg_board_free(again);
        rmg_board_free(board);
    }
}

static const rmg_socket *socket_named(const rmg_board *board, const char *name)
{
    const uint16_t number = rmg_board_socket(board, name);

    return number == RMG_NO_SOCKET ? NULL : &board->sockets[number];
}

/* Revision D of the Halvorn: what its file says, and all else as in revision C. */
static void a_revision(void)
{
    rmg_board *c = bench_load("demo/boards/halvorn64.yaml");
    rmg_board *d = bench_load("demo/boards/halvorn64-d.yaml");
    const rmg_line *d3 = rmg_board_line(d, "D3"), *d4 = rmg_board_line(d, "D4");
    rmg_place place;

    CHECK(strcmp(d->based_on, "halvorn64.yaml") == 0 && strcmp(d->name, c->name) == 0 &&
              strcmp(d->revision, "D") == 0 && d->undriven == RMG_UNDRIVEN_HIGH,
          "head");
    CHECK(!socket_named(d, "U11") && !socket_named(d, "U26") && socket_named(d, "U61") &&
              socket_named(d, "U81"),
          "designators");
    CHECK(rmg_place_find(&d->placement, 0x9C40, 6, &place) &&
              strcmp(d->sockets[place.socket].name, "U72") == 0 && place.out_pin == 14,
          "U20 is U72 now");
    CHECK(socket_named(d, "U72")->mount == RMG_MOUNT_SOLDERED &&
              socket_named(d, "U61")->x_mm == socket_named(c, "U11")->x_mm &&
              socket_named(d, "U52")->mount == RMG_MOUNT_SOCKET,
          "a change of the mount alone leaves the place");
    CHECK(strcmp(socket_named(d, "U5")->image, "demo/images/halvorn64-system-2.2.bin") == 0 ||
              g_str_has_suffix(socket_named(d, "U5")->image, "/halvorn64-system-2.2.bin"),
          "image %s", socket_named(d, "U5")->image);
    CHECK(d3 && d3->point_count == 8 && strcmp(d3->points[4].name, "U9.5>U9.15") == 0,
          "D3 is traced anew");
    CHECK(d4 && strcmp(d4->points[2].name, "U64.14") == 0, "D4 as before, renamed: %s",
          d4 ? d4->points[2].name : "");
    CHECK(d->line_count == c->line_count && d->region_count == c->region_count, "no line twice");
    rmg_board_free(c);
    rmg_board_free(d);
}

static void revisions_compared(void)
{
    static const struct {
        rmg_board_difference_kind kind;
        const char *name, *here, *there;
    } expected[] = {
        {RMG_DIFFERS_HEAD, "undriven", "high", "holds"},
        {RMG_DIFFERS_NUMBER, "U61-U68", "U61-U68", "U11-U18"},
        {RMG_DIFFERS_NUMBER, "U71-U78", "U71-U78", "U19-U26"},
        {RMG_DIFFERS_REGION, "expansion", "0x4100-0x7FFF ram", "0x4100-0x7FFF empty"},
        {RMG_DIFFERS_BANK, "spare", "range: 0x4000-0x7FFF", NULL},
        {RMG_DIFFERS_SOCKET, "U71-U78", "4116, soldered", "4116, in a socket"},
        {RMG_DIFFERS_SOCKET, "U5", "27128, in a socket, ../images/halvorn64-system-2.2.bin",
         "27128, in a socket, ../images/halvorn64-system-2.1.bin"},
        {RMG_DIFFERS_SOCKET, "U81-U88", "4116, in a socket", NULL},
        {RMG_DIFFERS_LINE, "D3", "U9.5>U9.15", "U8.5>U8.15"},
    };
    rmg_board *c = bench_load("demo/boards/halvorn64.yaml");
    rmg_board *d = bench_load("demo/boards/halvorn64-d.yaml");
    rmg_board_differences found;

    rmg_boards_compare(d, c, &found);
    CHECK(found.count == COUNT(expected), "%zu differences", found.count);
    for (size_t i = 0; i < found.count && i < COUNT(expected); i++) {
        const rmg_board_difference *f = &found.list[i];

        CHECK(f->kind == expected[i].kind && strcmp(f->name, expected[i].name) == 0,
              "%zu: %s, expected %s", i, f->name, expected[i].name);
        CHECK(!f->here == !expected[i].here && (!f->here || strstr(f->here, expected[i].here)),
              "%s here: %s", f->name, f->here ? f->here : "none");
        CHECK(!f->there == !expected[i].there && (!f->there || strstr(f->there, expected[i].there)),
              "%s there: %s", f->name, f->there ? f->there : "none");
    }
    rmg_board_differences_free(&found);
    rmg_boards_compare(c, c, &found);
    CHECK(found.count == 0, "none with itself");
    rmg_board_differences_free(&found);
    rmg_board_free(c);
    rmg_board_free(d);
}

/* A base of the tests' own, and what may be wrong in a file that is based on it. */
static const char base[] = "board: base\n"
                           "word: 8\n"
                           "address-lines: 12\n"
                           "regions:\n"
                           "  - {name: work, range: 0x000-0x3FF, kind: ram}\n"
                           "  - {name: ports, range: 0x400-0x40F, kind: reserved}\n"
                           "banks:\n"
                           "  - {name: only, range: 0x000-0x3FF, part: 2114, lines: A0-A9, data: "
                           "{IC1: D0-D3, IC2: D4-D7}}\n"
                           "sockets:\n"
                           "  - {names: IC1-IC3, mount: socket, at: [10, 20], step: [9, 0]}\n"
                           "lines:\n"
                           "  - {name: D0-D3, path: [U7.1-4, R1, IC1.14-11]}\n"
                           "  - {name: WE, path: [U7.9, IC1.10, IC2.10]}\n";

static const struct {
    const char *title, *text;
    unsigned line;
    const char *says;
} errors[] = {
    {"no such file", "based-on: missing.yaml\n", 0, "missing.yaml"},
    {"no name", "based-on: [a]\n", 1, "the name of a board file"},
    {"itself", "based-on: wrong.yaml\n", 1, "do they name each other"},
    {"renames alone", "designators: {IC1: U1}\n", 1, "only a board that is based on"},
    {"leaves out alone", "without: {lines: [WE]}\n", 1, "only a board that is based on"},
    {"too few names", "based-on: base.yaml\ndesignators: {IC1-IC2: U1}\n", 2, "as many new"},
    {"a thousand", "based-on: base.yaml\ndesignators: {IC1-IC1000: U1-U1000}\n", 2, "has no ic"},
    {"more than a thousand", "based-on: base.yaml\ndesignators: {IC1-IC1001: U1-U1001}\n", 2,
     "as many new"},
    {"no such designator", "based-on: base.yaml\ndesignators: {IC9: U1}\n", 2, "has no ic9"},
    {"no such line", "based-on: base.yaml\nwithout: {lines: [D9]}\n", 2, "has no \"d9\""},
    {"no such list", "based-on: base.yaml\nwithout: {chips: [IC1]}\n", 2, "no such key"},
    {"a socket that a bank needs", "based-on: base.yaml\nwithout: {sockets: [IC2]}\n", 8,
     "base.yaml:8: data: \"IC2\" is not in the list"},
    {"a new socket without mount", "based-on: base.yaml\nsockets: [{names: IC4}]\n", 2, "mount"},
    {"a part that does not fit", "based-on: base.yaml\nbanks: [{name: only, part: 6116}]\n", 0,
     "but a 6116 has 11"},
    {"overlap with the base",
     "based-on: base.yaml\nregions: [{name: x, range: 0x3F0-0x3FF, kind: "
     "empty}]\n",
     2, "line 5 of"},
    {"a line of no socket", "based-on: base.yaml\nlines: [{name: D0, path: [IC1]}]\n", 2,
     "pins 1 to 18"},
};

static void errors_of_revisions(void)
{
    temporary_file("base.yaml", base);
    for (size_t i = 0; i < COUNT(errors); i++) {
        const char *file = temporary_file("wrong.yaml", errors[i].text);
        gchar *at = g_strdup_printf(":%u: ", errors[i].line);
        rmg_errors found = {0};
        rmg_board *board = NULL;

        CHECK(rmg_board_load(file, &board, &found) != RMG_OK && !board && found.count,
              "%s is refused", errors[i].title);
        CHECK(found.count && strstr(found.list[0].what, errors[i].says) &&
                  (!errors[i].line || strstr(found.list[0].what, at)),
              "%s: %s", errors[i].title, found.count ? found.list[0].what : "");
        CHECK(i || (found.count == 2 && strstr(found.list[1].what, "wrong.yaml:1: based-on: ")),
              "where a base is asked for that is not there");
        g_free(at);
        rmg_errors_free(&found);
        rmg_board_free(board);
    }
}

/* Three files, each based on the next; names are those of the file that speaks. */
static void revisions_of_revisions(void)
{
    rmg_errors found = {0};
    rmg_board *board = NULL, *kept = NULL;
    const rmg_line *line;

    temporary_file("base.yaml", base);
    temporary_file("second.yaml",
                   "based-on: base.yaml\nrevision: two\ndesignators: {IC1-IC3: U1-U3}\n"
                   "without: {lines: [WE], regions: [ports]}\n"
                   "sockets: [{names: U3, note: spare}]\n");
    CHECK(rmg_board_load(temporary_file("third.yaml",
                                        "based-on: second.yaml\nrevision: three\n"
                                        "designators: {U1: Q8}\nsockets:\n"
                                        "  - {names: Q8, mount: ball}\n  - {names: U3, part: 2114, "
                                        "unseen: not fitted by the maker}\n"),
                         &board, &found) == RMG_OK,
          "%s", found.count ? found.list[0].what : "loads");
    if (board) {
        line = rmg_board_line(board, "D0");
        CHECK(strcmp(board->revision, "three") == 0 && strcmp(board->name, "base") == 0 &&
                  board->region_count == 1 && !rmg_board_line(board, "WE"),
              "head, and what is left out");
        CHECK(socket_named(board, "Q8") && socket_named(board, "Q8")->mount == RMG_MOUNT_BALL &&
                  !socket_named(board, "U1") && !socket_named(board, "IC1"),
              "named twice anew");
        CHECK(line && strcmp(line->points[2].name, "Q8.14") == 0, "on its line too");
        CHECK(strcmp(socket_named(board, "U3")->note, "spare") == 0 &&
                  *socket_named(board, "U3")->unseen,
              "each file adds");
        CHECK(rmg_board_load_text("elsewhere.yaml", board->text, &kept, &found) == RMG_OK &&
                  strcmp(kept->hash, board->hash) == 0 && !*kept->based_on,
              "what a run keeps stands alone");
    }
    rmg_errors_free(&found);
    rmg_board_free(kept);
    rmg_board_free(board);
}

/* On solder balls nothing is pulled, lifted or probed. */
static void nothing_to_pull_on_balls(void)
{
    static const rmg_fault_kind kinds[] = {RMG_FAULT_OUTPUT, RMG_FAULT_DATA_OPEN, RMG_FAULT_CELL,
                                           RMG_FAULT_ADDRESS_CHIP, RMG_FAULT_MISSING};
    static const char *const never[] = {"wap U",     "Pull ",       "ift U",    "reseat",
                                        "on top of", "at its legs", "own pins", "from the legs"};
    rmg_board *board = bench_load("demo/shapes/lanes.yaml");
    const rmg_plan plan = bench_plan(false, 2);

    for (size_t i = 0; i < COUNT(kinds); i++) {
        const rmg_sim_fault fault = {
            .kind = kinds[i], .chip = 2, .data_line = 3, .lines = 0x10, .cell = 99, .level = 1};
        rmg_run run;
        rmg_suspects suspects;

        bench_examine(board, &fault, 1, &plan, 7, &run, &suspects);
        CHECK(suspects.count > 0 && suspects.list[0].finding.socket == 2, "fault %zu is found", i);
        for (size_t n = 0; suspects.count && suspects.list[0].next[n]; n++)
            for (size_t k = 0; k < COUNT(never); k++)
                CHECK(!strstr(suspects.list[0].next[n], never[k]), "fault %zu: %s", i,
                      suspects.list[0].next[n]);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

CU_TestInfo based_tests[] = {
    {"text of a board", text_gives_the_same_board},
    {"a revision", a_revision},
    {"revisions compared", revisions_compared},
    {"errors of revisions", errors_of_revisions},
    {"revisions of revisions", revisions_of_revisions},
    {"on solder balls", nothing_to_pull_on_balls},
    CU_TEST_INFO_NULL,
};
