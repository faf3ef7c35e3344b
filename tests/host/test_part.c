/* The table of parts: does each row hold together? */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/part.h"
#include "suites.h"

static void rows_hold_together(void)
{
    size_t kinds[3] = {0};

    for (size_t i = 0; i < rmg_part_count(); i++) {
        const rmg_part *p = rmg_part_at(i);
        char why[RMG_PART_WHY] = "";

        CHECK(rmg_part_find(p->number) == p, "%s is in the table once", p->number);
        CHECK(rmg_part_check(p, why), "%s: %s", p->number, why);
        CHECK(rmg_part_ns(p, "") && p->package, "%s: access time and package", p->number);
        kinds[p->kind]++;
    }
    CHECK(rmg_part_count() >= 80 && kinds[0] > 10 && kinds[1] > 15 && kinds[2] > 40,
          "%zu parts: %zu, %zu, %zu", rmg_part_count(), kinds[0], kinds[1], kinds[2]);
}

/* Each rule refuses a 2114 or 4116 with one mistake. */
static void rules_refuse(void)
{
    static const struct {
        const char *of, *pins, *supplies, *why;
    } rows[] = {
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7", NULL, "17 pins"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A8 VCC", NULL,
         "pins 16 and 17 are both A8"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A10 VCC", NULL,
         "address line 7 has no pin"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 - A9 A8 A7 VCC", NULL,
         "data line 0 has no pin"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 - VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC", NULL, "no select"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS CE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC", NULL,
         "no write pin"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC", "+5 V pin 9",
         "pin 9 is VSS"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS - WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC", "+5 V pin 18",
         "no pin for 0 V"},
        {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 FOO VCC", NULL,
         "nobody knows what pin 17, FOO, does"},
        {"2114", NULL, "+5 V pin 18, 0 V pin 8", "pin 8 is CS"},
        {"4116", "VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 A6 Q CE VSS", NULL,
         "RAS and CAS were expected"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_part part = *rmg_part_find(rows[i].of);
        char why[RMG_PART_WHY] = "";

        if (rows[i].pins)
            part.pins = rows[i].pins;
        if (rows[i].supplies)
            part.supplies = rows[i].supplies;
        CHECK(!rmg_part_check(&part, why) && strstr(why, rows[i].why), "%s: %s", rows[i].why, why);
    }
}

/* As chips are marked. */
static void markings(void)
{
    static const struct {
        const char *marking, *number, *suffix;
        unsigned ns;
    } rows[] = {
        {"4116-2", "4116", "-2", 150},
        {"4116", "4116", "", 250},
        {"4164-20", "4164", "-20", 200},
        {"27C256-15", "27256", "-15", 150},
        {"62C256", "62256", "", 150},
        {"2716", "2716", "", 450},
        {"2716-3V", "2716-3V", "", 450},
        {"2716-1", "2716", "-1", 350},
        {"256Kx8-30-10", "256Kx8-30", "-10", 100},
        {"27512-9", "27512", "-9", 0},
        {"93415A", "93415", "A", 30},
        {"41C256-12", "41256", "-12", 120},
        {"82S123", "82S123", "", 50},
        {"74S288", "82S123", "", 50},
        {"74LS189", "74189", "", 35},
        {"27C4001-12", "27040", "-12", 120},
        {"43256", "62256", "", 150},
        {"6665-15", "4164", "-15", 150},
        {"27", NULL, "", 0},
        {"41166", NULL, "", 0},
        {"4117", NULL, "", 0},
        {"", NULL, "", 0},
        {"ABC", NULL, "", 0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        const char *suffix;
        const rmg_part *part = rmg_part_marked(rows[i].marking, &suffix);

        CHECK(part == (rows[i].number ? rmg_part_find(rows[i].number) : NULL), "\"%s\" is %s",
              rows[i].marking, part ? part->number : "none");
        if (part && rows[i].number)
            CHECK(strcmp(suffix, rows[i].suffix) == 0 && rmg_part_ns(part, suffix) == rows[i].ns,
                  "%s: \"%s\", %u ns", rows[i].marking, suffix, rmg_part_ns(part, suffix));
    }
}

typedef struct fit_row {
    const char *here;
    rmg_given given;
    const char *there; /* as marked */
    rmg_fit fit;
    const char *wires; /* pins of the new part: "8<9 1=any 20=low 21=high" */
    int why;           /* a reason that is among them */
} fit_row;

#define NOTHING                                                                                    \
    {                                                                                              \
        0, 0, 0                                                                                    \
    }
#define NONE (-1)

/* Worked out by hand, pinout beside pinout. */
static const fit_row fit_rows[] = {
    {"4116", NOTHING, "4116", RMG_FITS, "", NONE},
    {"4116", NOTHING, "4164-20", RMG_FITS_ADAPTED, "8<9", RMG_FIT_LARGER},
    {"4116", {128, 2, 0}, "41256", RMG_FITS_NOT, NULL, RMG_FIT_ROWS},
    {"4116", {256, 4, 0}, "41256", RMG_FITS_ADAPTED, "1=any 8<9", RMG_FIT_LARGER},
    {"4164", NOTHING, "41256", RMG_FITS_ADAPTED, "1=any", RMG_FIT_REFRESH_UNKNOWN},
    {"4164", {128, 2, 0}, "41256", RMG_FITS_NOT, NULL, RMG_FIT_ROWS},
    {"4164", {256, 8, 0}, "4164", RMG_FITS_NOT, NULL, RMG_FIT_PERIOD},
    {"4164", NOTHING, "4116", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"4164", NOTHING, "4116", RMG_FITS_NOT, NULL, RMG_FIT_SUPPLY},
    {"4164", NOTHING, "4532", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"4532", NOTHING, "4164", RMG_FITS, "", RMG_FIT_LARGER},
    {"4532", NOTHING, "3732", RMG_FITS, "", RMG_FIT_HALF},
    {"4027", NOTHING, "4116", RMG_FITS_ADAPTED, "13=any", RMG_FIT_REFRESH_UNKNOWN},
    {"4416", NOTHING, "4464", RMG_FITS, "", RMG_FIT_COLUMNS},
    {"4464", NOTHING, "4416", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"511000", NOTHING, "514256", RMG_FITS_NOT, NULL, RMG_FIT_WIDTH},
    {"2114", NOTHING, "2148", RMG_FITS, "", NONE},
    {"2114", {0, 0, 200}, "2114", RMG_FITS_NOT, NULL, RMG_FIT_SLOW},
    {"2114", {0, 0, 200}, "2114-2", RMG_FITS, "", NONE},
    {"2114", {0, 0, 200}, "2114-7", RMG_FITS, "", RMG_FIT_SPEED_UNKNOWN},
    {"2114", NOTHING, "2102", RMG_FITS_NOT, NULL, RMG_FIT_WIDTH},
    {"2111", NOTHING, "2101", RMG_FITS_NOT, NULL, RMG_FIT_SIGNAL},
    {"2101", NOTHING, "5101", RMG_FITS, "", NONE},
    {"7489", NOTHING, "74189", RMG_FITS, "", NONE},
    {"74189", NOTHING, "7489", RMG_FITS, "", RMG_FIT_OPEN},
    {"74189", NOTHING, "74219", RMG_FITS_NOT, NULL, RMG_FIT_INVERTED},
    {"6116", NOTHING, "2016", RMG_FITS, "", NONE},
    {"6116", NOTHING, "6264", RMG_FITS_ADAPTED, "2=any 23=any 27<21 28<24", RMG_FIT_LARGER},
    {"6264", NOTHING, "62256", RMG_FITS_ADAPTED, "1=any 26=any", RMG_FIT_UNUSED},
    {"62256", NOTHING, "6264", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"2716", NOTHING, "2732", RMG_FITS, "", RMG_FIT_HELD},
    {"2732", NOTHING, "2716", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"2716", NOTHING, "2716-3V", RMG_FITS_NOT, NULL, RMG_FIT_SUPPLY},
    {"2716", NOTHING, "6116", RMG_FITS_NOT, NULL, RMG_FIT_KIND},
    {"2708", NOTHING, "2716", RMG_FITS_ADAPTED, "18<20 19=any 20=low 21=high", RMG_FIT_LARGER},
    {"2732", NOTHING, "2532", RMG_FITS_ADAPTED, "18<21 20<18 21=high", RMG_FIT_UNUSED},
    {"2332", NOTHING, "2532", RMG_FITS_ADAPTED, "21=high", RMG_FIT_MASKED},
    {"2332", NOTHING, "2732", RMG_FITS_ADAPTED, "18<20 20<21 21<18", RMG_FIT_MASKED},
    {"2364", NOTHING, "68764", RMG_FITS, "", RMG_FIT_MASKED},
    {"2364", NOTHING, "2764", RMG_FITS_ADAPTED, "1=high 2<21 20<20 22=low 23<18 27=high 28<24",
     RMG_FIT_MASKED},
    {"2764", NOTHING, "27128", RMG_FITS_ADAPTED, "26=any", RMG_FIT_LARGER},
    {"2764", NOTHING, "27256", RMG_FITS_ADAPTED, "26=any", RMG_FIT_HELD},
    {"27128", NOTHING, "27256", RMG_FITS, "", RMG_FIT_HELD},
    {"27256", NOTHING, "27512", RMG_FITS, "", RMG_FIT_HELD},
    {"27512", NOTHING, "27256", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
    {"27256", NOTHING, "28256", RMG_FITS_ADAPTED, "1<27 27=high", RMG_FIT_WRITABLE},
    {"23256", NOTHING, "27256", RMG_FITS_ADAPTED, "1=high", RMG_FIT_MASKED},
    {"27010", NOTHING, "27301", RMG_FITS_ADAPTED, "2<24 24<2", NONE},
    {"231000", NOTHING, "27010", RMG_FITS_ADAPTED, "1=high 2<22 24=low 31=high 32<28", NONE},
    {"2864", NOTHING, "2764", RMG_FITS_ADAPTED, "1=high 27=high", NONE},
    {"27040", NOTHING, "29040", RMG_FITS_ADAPTED, "1<31 31=high", RMG_FIT_WRITABLE},
    {"27040", NOTHING, "27080", RMG_FITS, "", RMG_FIT_HELD},
    {"82S123", NOTHING, "82S23", RMG_FITS, "", RMG_FIT_OPEN},
    {"82S129", NOTHING, "82S131", RMG_FITS_ADAPTED, "14=any", RMG_FIT_UNUSED},
    {"82S131", NOTHING, "82S129", RMG_FITS_NOT, NULL, RMG_FIT_DEPTH},
};

/* The wires in order of the part's pins, as the table writes them. */
static gchar *wires_text(const rmg_fitting *f)
{
    static const char *const ends[] = {"<", "=low", "=high", "=any"};
    GString *text = g_string_new(NULL);

    for (uint8_t pin = 1; pin <= RMG_FIT_MOST; pin++)
        for (size_t i = 0; i < f->wire_count; i++)
            if (f->wires[i].pin == pin) {
                g_string_append_printf(text, "%s%u%s", text->len ? " " : "", pin,
                                       ends[f->wires[i].kind]);
                if (f->wires[i].kind == RMG_WIRE_FROM)
                    g_string_append_printf(text, "%u", f->wires[i].from);
            }
    return g_string_free(text, FALSE);
}

static void what_fits(void)
{
    for (size_t i = 0; i < COUNT(fit_rows); i++) {
        const fit_row *row = &fit_rows[i];
        const char *suffix;
        const rmg_part *there = rmg_part_marked(row->there, &suffix);
        rmg_fitting f;
        bool found = row->why == NONE;
        gchar *wires;

        rmg_part_fit(rmg_part_find(row->here), &row->given, there, suffix, &f);
        wires = wires_text(&f);
        for (size_t r = 0; r < f.reason_count; r++)
            found |= (int)f.reasons[r].why == row->why &&
                     (f.fit != RMG_FITS_NOT || f.reasons[r].refuses);
        CHECK(f.fit == row->fit && found, "%s for %s: fit %d, reason %d %s", row->there, row->here,
              (int)f.fit, row->why, found ? "found" : "not found");
        CHECK(!row->wires || strcmp(wires, row->wires) == 0, "%s for %s: %s", row->there, row->here,
              wires);
        g_free(wires);
    }
    CHECK(COUNT(fit_rows) >= 40, "%zu pairs", COUNT(fit_rows));
}

/* What holds of any two parts: each fits its own socket; a wire goes to a pin that is there; no pin
 * has two wires; a smaller part never fits. */
static void any_two(void)
{
    for (size_t i = 0; i < rmg_part_count(); i++)
        for (size_t j = 0; j < rmg_part_count(); j++) {
            const rmg_part *here = rmg_part_at(i), *there = rmg_part_at(j);
            rmg_fitting f;
            uint64_t seen = 0;
            bool good = true;

            rmg_part_fit(here, &(rmg_given)NOTHING, there, "", &f);
            for (size_t w = 0; w < f.wire_count; w++) {
                good &= f.wires[w].pin && f.wires[w].pin <= rmg_part_pin_count(there) &&
                        (f.wires[w].kind == RMG_WIRE_FROM) == (f.wires[w].from != 0) &&
                        f.wires[w].from <= rmg_part_pin_count(here) &&
                        !(seen >> f.wires[w].pin & 1u);
                seen |= (uint64_t)1 << f.wires[w].pin;
            }
            CHECK(good && (i != j || f.fit == RMG_FITS) &&
                      (there->address_lines >= here->address_lines || f.fit == RMG_FITS_NOT) &&
                      f.reason_count < RMG_FIT_MOST,
                  "%s for %s", there->number, here->number);
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
    {"rules refuse", rules_refuse},
    {"markings", markings},
    {"what fits, by hand", what_fits},
    {"any two parts", any_two},
    CU_TEST_INFO_NULL,
};
