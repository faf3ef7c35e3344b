/* The table of parts: does each row hold together? */
#include <string.h>

#include "../check.h"
#include "rimeglass/board.h"
#include "suites.h"

static void rows_hold_together(void)
{
    for (size_t i = 0; i < rmg_part_count(); i++) {
        const rmg_part *p = rmg_part_at(i);
        const uint8_t pins = rmg_part_pin_count(p);
        bool used[64] = {false};

        CHECK(rmg_part_find(p->number) == p, "%s is found", p->number);
        CHECK(pins % 2 == 0 && pins >= 16 && pins <= 40, "%s: %u pins", p->number, pins);
        CHECK(p->row_lines <= p->address_lines && (p->kind != RMG_PART_DRAM || p->refresh_cycles),
              "%s: rows and refresh", p->number);
        for (uint8_t line = 0; line < p->width; line++) {
            uint8_t in, out;

            rmg_part_data_pins(p, line, &in, &out);
            CHECK(in && out && (p->width == 1) == (in != out), "%s: data line %u at %u, %u",
                  p->number, line, in, out);
            CHECK(!used[in], "%s: pin %u has one use", p->number, in);
            used[in] = used[out] = true;
        }
        for (uint8_t line = 0; line < p->address_lines; line++) {
            const uint8_t pin = rmg_part_address_pin(p, line);

            CHECK(pin && pin <= pins, "%s: address line %u has a pin", p->number, line);
            CHECK(!used[pin] || line >= p->row_lines, "%s: pin %u has one use", p->number, pin);
            used[pin] = true;
        }
        CHECK(strstr(p->supplies, "0 V pin "), "%s: supplies", p->number);
    }
}

/* Pins that every data sheet of these parts gives. */
static void known_pins(void)
{
    static const struct {
        const char *part, *name;
        uint8_t pin;
    } rows[] = {{"4116", "D", 2},     {"4116", "Q", 14},    {"4116", "A5", 10},  {"4164", "A7", 9},
                {"41256", "A8", 1},   {"4464", "DQ1", 2},   {"4464", "DQ4", 17}, {"2114", "CS", 8},
                {"6264", "CE2", 26},  {"62256", "A14", 1},  {"2716", "VPP", 21}, {"2764", "A12", 2},
                {"27128", "A13", 26}, {"27256", "A14", 27}, {"6116", "WE", 21},  {"4116", "A7", 0}};

    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK(rmg_part_pin(rmg_part_find(rows[i].part), rows[i].name) == rows[i].pin, "%s %s",
              rows[i].part, rows[i].name);
    CHECK(rmg_part_address_pin(rmg_part_find("4416"), 8) == 13,
          "first column line of a 4416 is A1");
    CHECK(!rmg_part_find("4117"), "no such part");
}

CU_TestInfo part_tests[] = {
    {"each row holds together", rows_hold_together},
    {"known pins", known_pins},
    CU_TEST_INFO_NULL,
};
