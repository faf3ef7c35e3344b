/* First findings from wiring and tally: which line, which socket, and when none. */
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "suites.h"

/* Two banks of two four-bit chips: sockets 0 and 1, 2 and 3. */
static const uint8_t low_half[] = {0, 1, 2, 3}, high_half[] = {4, 5, 6, 7};
static const uint8_t lines[] = {0, 1, 2, 3, 4, 5, 6};
static const rmg_rule rules[] = {
    {{0x00, 0x7F, 0, 0}, low_half, NULL, NULL, lines, NULL, 0, 0, 4, 7},
    {{0x00, 0x7F, 0, 0}, high_half, NULL, NULL, lines, NULL, 1, 0, 4, 7},
    {{0x80, 0xFF, 0, 0}, low_half, NULL, NULL, lines, NULL, 2, 1, 4, 7},
    {{0x80, 0xFF, 0, 0}, high_half, NULL, NULL, lines, NULL, 3, 1, 4, 7},
};
static const rmg_placement placement = {rules, COUNT(rules)};
static const rmg_where banks[] = {{0x00, 0x7F, 0, 0}, {0x80, 0xFF, 0, 0}};

/* What the two banks' wiring showed, and one failing cell or none. */
typedef struct row {
    const char *title;
    struct {
        rmg_word low, high, opposite, ignored_2;
    } bank[2];
    rmg_addr cell;
    rmg_word cell_bits;
    unsigned count;
    rmg_finding_kind kind;
    uint8_t bank_no;
    uint16_t socket;
    rmg_word bits;
    rmg_addr address_lines;
} row;

static const row rows[] = {
    {"nothing", {{0, 0, 0, 0}, {0, 0, 0, 0}}, 0, 0, 0, RMG_FINDING_CELLS, 0, 0, 0, 0},
    {"one cell", {{0, 0, 0, 0}, {0, 0, 0, 0}}, 0x85, 0x20, 1, RMG_FINDING_CELLS, 1, 3, 0x20, 0},
    {"one bit low in one bank",
     {{0, 0, 0, 0}, {4, 0, 0, 0}},
     0x90,
     0x04,
     1,
     RMG_FINDING_DATA_AT_SOCKET,
     1,
     2,
     0x04,
     0},
    {"a chip missing",
     {{0, 0, 0xF0, 0}, {0, 0, 0, 0}},
     0,
     0xF0,
     1,
     RMG_FINDING_DATA_AT_SOCKET,
     0,
     1,
     0xF0,
     0},
    {"a bit low in both banks",
     {{2, 0, 0, 0}, {2, 0, 0, 0}},
     0,
     2,
     1,
     RMG_FINDING_DATA_LINE,
     RMG_NO_BANK,
     RMG_NO_SOCKET,
     2,
     0},
    {"low in one, high in the other",
     {{2, 0, 0, 0}, {0, 2, 0, 0}},
     0,
     2,
     2,
     RMG_FINDING_DATA_AT_SOCKET,
     0,
     0,
     2,
     0},
    {"a whole bank silent",
     {{0, 0, 0, 0}, {0, 0xFF, 0, 0}},
     0x80,
     0xFF,
     1,
     RMG_FINDING_BANK_SILENT,
     1,
     RMG_NO_SOCKET,
     0xFF,
     0},
    {"all silent",
     {{0, 0, 0xFF, 0}, {0, 0, 0xFF, 0}},
     0,
     0xFF,
     1,
     RMG_FINDING_ALL_SILENT,
     RMG_NO_BANK,
     RMG_NO_SOCKET,
     0xFF,
     0},
    {"a line at one chip",
     {{0, 0, 0, 0x0F}, {0, 0, 0, 0}},
     0,
     0x0F,
     1,
     RMG_FINDING_ADDRESS_AT_SOCKET,
     0,
     0,
     0x0F,
     4},
    {"a line of one bank",
     {{0, 0, 0, 0}, {0, 0, 0, 0xFF}},
     0x80,
     0xFF,
     1,
     RMG_FINDING_ADDRESS_OF_BANK,
     1,
     RMG_NO_SOCKET,
     0xFF,
     4},
    {"a line of both banks",
     {{0, 0, 0, 0xFF}, {0, 0, 0, 0xFF}},
     0,
     0xFF,
     1,
     RMG_FINDING_ADDRESS_LINES,
     RMG_NO_BANK,
     RMG_NO_SOCKET,
     0xFF,
     4},
    {"a dead bit and a bad cell beside it",
     {{0, 0, 0, 0}, {1, 0, 0, 0}},
     0x90,
     0x81,
     2,
     RMG_FINDING_DATA_AT_SOCKET,
     1,
     2,
     0x01,
     0},
};

static uint16_t list(const row *r, const bool *wired, rmg_finding *found, uint16_t room)
{
    rmg_wiring w[2];
    rmg_tally tally;
    const rmg_evidence evidence = {&placement, banks, w, wired, &tally, 0xFF, 2};

    memset(w, 0, sizeof w);
    rmg_tally_clear(&tally, banks, 2);
    for (unsigned b = 0; b < 2; b++) {
        w[b].low = r->bank[b].low;
        w[b].high = r->bank[b].high;
        w[b].opposite = r->bank[b].opposite;
        w[b].ignored[2] = r->bank[b].ignored_2;
    }
    if (r->cell_bits) {
        const rmg_failure f = {.address = r->cell, .expected = 0, .actual = r->cell_bits};
        rmg_tally_add(&tally, &f);
    }
    return rmg_findings_list(&evidence, found, room);
}

static void kinds(void)
{
    static const bool both[] = {true, true};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_finding found[8];
        const uint16_t count = list(&rows[i], both, found, 8);

        CHECK(count == rows[i].count, "%s: %u findings", rows[i].title, count);
        if (count)
            CHECK(found[0].kind == rows[i].kind && found[0].bank == rows[i].bank_no &&
                      found[0].socket == rows[i].socket && found[0].bits == rows[i].bits &&
                      found[0].lines == rows[i].address_lines,
                  "%s: kind %d, bank %u, socket %u, bits %lx, lines %lx", rows[i].title,
                  (int)found[0].kind, found[0].bank, found[0].socket, (unsigned long)found[0].bits,
                  (unsigned long)found[0].lines);
    }
}

/* Without wiring checks the tally alone speaks; with little room the count still tells all. */
static void unwired_and_room(void)
{
    static const bool none[] = {false, false}, both[] = {true, true};
    rmg_finding found[2];

    memset(found, 0x55, sizeof found);
    CHECK(list(&rows[4], none, found, 2) == 1 && found[0].kind == RMG_FINDING_CELLS,
          "lines not checked are not accused");
    CHECK(found[0].failed_high == 1 && !found[0].failed_low, "with its counts");
    memset(found, 0x55, sizeof found);
    CHECK(list(&rows[11], both, found, 1) == 2, "two findings, room for one");
    CHECK(found[1].bank == 0x55, "nothing is written past the room");
}

CU_TestInfo finding_tests[] = {
    {"kinds of finding", kinds},
    {"lines not checked, and little room", unwired_and_room},
    CU_TEST_INFO_NULL,
};
