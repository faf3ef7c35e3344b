/* Places: every layout by the one form of rule. */
#include "../check.h"
#include "fake.h"
#include "suites.h"

static const uint8_t d0[] = {0}, d7[] = {7}, low_nibble[] = {0, 1, 2, 3}, turned[] = {7, 6, 5, 4};
static const uint8_t plain[] = {0, 1, 2, 3}, crossed[] = {3, 2, 1, 0};
static const uint8_t tied[] = {0, 1, 2, RMG_FEED_1};
static const uint8_t pin2[] = {2}, pin14[] = {14};

static const rmg_rule rules[] = {
    /* two banks of one-bit chips */
    {{0x00, 0x0F, 0, 0}, d0, pin2, pin14, plain, NULL, 0, 0, 1, 4},
    {{0x10, 0x1F, 0, 0}, d0, pin2, pin14, plain, NULL, 1, 1, 1, 4},
    {{0x00, 0x1F, 0, 0}, d7, NULL, NULL, plain, NULL, 2, 0, 1, 4},
    /* a four-bit chip whose data lines run backwards */
    {{0x20, 0x2F, 0, 0}, turned, NULL, NULL, crossed, NULL, 3, 2, 4, 4},
    /* even and odd words in two chips */
    {{0x40, 0x5F, 1, 0}, low_nibble, NULL, NULL, plain, NULL, 4, 3, 4, 4},
    {{0x40, 0x5F, 1, 1}, low_nibble, NULL, NULL, plain, NULL, 5, 3, 4, 4},
    /* the upper half of a larger chip */
    {{0x60, 0x67, 0, 0}, d0, NULL, NULL, tied, NULL, 6, 4, 1, 4},
};
static const rmg_placement placement = {rules, COUNT(rules)};

static void finding_places(void)
{
    static const struct {
        const char *title;
        rmg_addr address;
        uint8_t bit;
        bool held;
        uint16_t socket;
        uint8_t bank, data_line;
        rmg_addr cell;
    } rows[] = {
        {"lower bank", 0x05, 0, true, 0, 0, 0, 5},
        {"upper bank", 0x15, 0, true, 1, 1, 0, 5},
        {"last word of a bank", 0x1F, 0, true, 1, 1, 0, 15},
        {"a chip over both", 0x13, 7, true, 2, 0, 0, 3},
        {"a bit no chip holds", 0x05, 3, false, 0, 0, 0, 0},
        {"an address no chip holds", 0x30, 0, false, 0, 0, 0, 0},
        {"data lines backwards", 0x20, 5, true, 3, 2, 2, 0},
        {"address lines crossed", 0x21, 7, true, 3, 2, 0, 8},
        {"even words", 0x46, 1, true, 4, 3, 1, 6},
        {"odd words", 0x47, 1, true, 5, 3, 1, 7},
        {"a line tied high", 0x62, 0, true, 6, 4, 0, 10},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_place place = {.socket = 99};
        const bool held = rmg_place_find(&placement, rows[i].address, rows[i].bit, &place);

        CHECK(held == rows[i].held, "%s: held", rows[i].title);
        if (rows[i].held)
            CHECK(place.socket == rows[i].socket && place.bank == rows[i].bank &&
                      place.data_line == rows[i].data_line && place.cell == rows[i].cell,
                  "%s: socket %u, line %u, cell %lu", rows[i].title, place.socket, place.data_line,
                  (unsigned long)place.cell);
        else
            CHECK(place.socket == 99, "%s: untouched", rows[i].title);
    }
}

static void pins(void)
{
    rmg_place place;

    CHECK(rmg_place_find(&placement, 0, 0, &place) && place.in_pin == 2 && place.out_pin == 14,
          "a one-bit chip takes and gives at two pins");
    CHECK(rmg_place_find(&placement, 0, 7, &place) && !place.in_pin && !place.out_pin,
          "unknown pins are 0");
    CHECK(rmg_rule_bits(&rules[3]) == 0xF0 && rmg_rule_bits(&rules[0]) == 1, "bits of a rule");
}

CU_TestInfo place_tests[] = {
    {"(address, bit) to socket and cell", finding_places},
    {"pins", pins},
    CU_TEST_INFO_NULL,
};
