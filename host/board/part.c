/* The table of standard parts and its look-ups. Facts from data sheets; knows no board. */
#include "rimeglass/board.h"

#include <stdio.h>
#include <string.h>

#define PINS_24             "A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 VSS D3 D4 D5 D6 D7"
#define PINS_28             "A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 VSS D3 D4 D5 D6 D7"
#define FIVE_VOLT(vcc, vss) "+5 V pin " vcc ", 0 V pin " vss

static const rmg_part parts[] = {
    {"4116", "VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 A6 Q CAS VSS",
     "-5 V pin 1, +12 V pin 8, +5 V pin 9, 0 V pin 16", RMG_PART_DRAM, 1, 14, 7, 0, 128, 2},
    {"4164", "- D WE RAS A0 A2 A1 VCC A7 A5 A4 A3 A6 Q CAS VSS", FIVE_VOLT("8", "16"),
     RMG_PART_DRAM, 1, 16, 8, 0, 128, 2},
    {"41256", "A8 D WE RAS A0 A2 A1 VCC A7 A5 A4 A3 A6 Q CAS VSS", FIVE_VOLT("8", "16"),
     RMG_PART_DRAM, 1, 18, 9, 0, 256, 4},
    {"4416", "OE DQ1 DQ2 WE RAS A6 A5 A4 VCC A7 A3 A2 A1 A0 DQ3 CAS DQ4 VSS", FIVE_VOLT("9", "18"),
     RMG_PART_DRAM, 4, 14, 8, 1, 256, 4},
    {"4464", "OE DQ1 DQ2 WE RAS A6 A5 A4 VCC A7 A3 A2 A1 A0 DQ3 CAS DQ4 VSS", FIVE_VOLT("9", "18"),
     RMG_PART_DRAM, 4, 16, 8, 0, 256, 4},
    {"2114", "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC", FIVE_VOLT("18", "9"),
     RMG_PART_SRAM, 4, 10, 0, 0, 0, 0},
    {"6116", PINS_24 " CE A10 OE WE A9 A8 VCC", FIVE_VOLT("24", "12"), RMG_PART_SRAM, 8, 11, 0, 0,
     0, 0},
    {"6264", "- " PINS_28 " CE1 A10 OE A11 A9 A8 CE2 WE VCC", FIVE_VOLT("28", "14"), RMG_PART_SRAM,
     8, 13, 0, 0, 0, 0},
    {"62256", "A14 " PINS_28 " CE A10 OE A11 A9 A8 A13 WE VCC", FIVE_VOLT("28", "14"),
     RMG_PART_SRAM, 8, 15, 0, 0, 0, 0},
    {"2716", PINS_24 " CE A10 OE VPP A9 A8 VCC", FIVE_VOLT("24", "12"), RMG_PART_ROM, 8, 11, 0, 0,
     0, 0},
    {"2732", PINS_24 " CE A10 OE A11 A9 A8 VCC", FIVE_VOLT("24", "12"), RMG_PART_ROM, 8, 12, 0, 0,
     0, 0},
    {"2764", "VPP " PINS_28 " CE A10 OE A11 A9 A8 - PGM VCC", FIVE_VOLT("28", "14"), RMG_PART_ROM,
     8, 13, 0, 0, 0, 0},
    {"27128", "VPP " PINS_28 " CE A10 OE A11 A9 A8 A13 PGM VCC", FIVE_VOLT("28", "14"),
     RMG_PART_ROM, 8, 14, 0, 0, 0, 0},
    {"27256", "VPP " PINS_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE_VOLT("28", "14"),
     RMG_PART_ROM, 8, 15, 0, 0, 0, 0},
    {"27512", "A15 " PINS_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE_VOLT("28", "14"),
     RMG_PART_ROM, 8, 16, 0, 0, 0, 0},
    {"27010", "VPP A16 A15 " PINS_28 " CE A10 OE A11 A9 A8 A13 A14 - PGM VCC",
     FIVE_VOLT("32", "16"), RMG_PART_ROM, 8, 17, 0, 0, 0, 0},
};

const rmg_part *rmg_part_at(size_t index)
{
    return &parts[index];
}

size_t rmg_part_count(void)
{
    return sizeof parts / sizeof *parts;
}

const rmg_part *rmg_part_find(const char *number)
{
    for (size_t i = 0; i < rmg_part_count(); i++)
        if (strcmp(parts[i].number, number) == 0)
            return &parts[i];
    return NULL;
}

uint8_t rmg_part_pin_count(const rmg_part *part)
{
    uint8_t count = 0;

    for (const char *p = part->pins; *p; p += strspn(p, " "), count++)
        p += strcspn(p, " ");
    return count;
}

uint8_t rmg_part_pin(const rmg_part *part, const char *name)
{
    const size_t length = strlen(name);
    uint8_t pin = 1;

    for (const char *p = part->pins; *p; pin++) {
        const size_t size = strcspn(p, " ");

        if (size == length && memcmp(p, name, size) == 0)
            return pin;
        p += size;
        p += strspn(p, " ");
    }
    return 0;
}

void rmg_part_data_pins(const rmg_part *part, uint8_t line, uint8_t *in, uint8_t *out)
{
    char name[8];

    if (part->width == 1) {
        *in = rmg_part_pin(part, "D");
        *out = rmg_part_pin(part, "Q");
        return;
    }
    snprintf(name, sizeof name, part->width == 4 ? "DQ%u" : "D%u",
             part->width == 4 ? line + 1u : line);
    *in = *out = rmg_part_pin(part, name);
}

uint8_t rmg_part_address_pin(const rmg_part *part, uint8_t line)
{
    char name[8];
    const bool column = part->row_lines && line >= part->row_lines;

    snprintf(name, sizeof name, "A%u",
             column ? (unsigned)(line - part->row_lines + part->column_from) : (unsigned)line);
    return rmg_part_pin(part, name);
}
