/* The table of standard parts: facts from data sheets. Times are typical, and makers' suffixes
 * differ. Pins are numbered as in the data sheet; where one data sheet counts address lines another
 * way, nothing depends on it: any order of address lines reads and writes the same cells. */
#include "table.h"

#define P_24 "A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 VSS D3 D4 D5 D6 D7"
#define P_28 "A12 " P_24
#define P_32 "A16 A15 " P_28
#define S_32 "A16 A14 " P_28
#define P_40                                                                                       \
    "D15 D14 D13 D12 D11 D10 D9 D8 VSS D7 D6 D5 D4 D3 D2 D1 D0 OE A0 A1 A2 A3 A4 A5 A6 A7 A8 VSS "
#define W_40 "D0 D8 D1 D9 D2 D10 D3 D11 VCC D4 D12 D5 D13 D6 D14 D7 D15 VSS"
#define MODULE(a9, a10, a11, q, cas, d)                                                            \
    "VCC CAS DQ1 A0 A1 DQ2 A2 A3 VSS DQ3 A4 A5 DQ4 A6 A7 DQ5 A8 " a9 " " a10                       \
    " DQ6 WE VSS DQ7 " a11 " DQ8 " q " RAS " cas " " d " VCC"

#define FIVE(vcc, vss) "+5 V pin " vcc ", 0 V pin " vss

#define DIP3 .package = RMG_PACKAGE_DIP_300
#define DIP4 .package = RMG_PACKAGE_DIP_400
#define DIP6 .package = RMG_PACKAGE_DIP_600

#define DRAM(n, pin_names, volts, data, lines, rows, cycles, ms, ...)                              \
    {                                                                                              \
        .number = n, .pins = pin_names, .supplies = volts, .kind = RMG_PART_DRAM, .width = data,   \
        .address_lines = lines, .row_lines = rows, .refresh_cycles = cycles, .refresh_ms = ms,     \
        __VA_ARGS__                                                                                \
    }
#define SRAM(n, pin_names, volts, data, lines, ...)                                                \
    {                                                                                              \
        .number = n, .pins = pin_names, .supplies = volts, .kind = RMG_PART_SRAM, .width = data,   \
        .address_lines = lines, __VA_ARGS__                                                        \
    }
#define ROM(n, which, pin_names, volts, data, lines, ...)                                          \
    {                                                                                              \
        .number = n, .pins = pin_names, .supplies = volts, .kind = RMG_PART_ROM,                   \
        .sort = RMG_ROM_##which, .width = data, .address_lines = lines, __VA_ARGS__                \
    }

#define THREE_VOLTS "-5 V pin 1, +12 V pin 8, +5 V pin 9, 0 V pin 16"
#define P_4096      "VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 CS Q CAS VSS"
#define P_4164      "- D WE RAS A0 A2 A1 VCC A7 A5 A4 A3 A6 Q CAS VSS"
#define P_4416      "OE DQ1 DQ2 WE RAS A6 A5 A4 VCC A7 A3 A2 A1 A0 DQ3 CAS DQ4 VSS"
#define P_2101      "A3 A2 A1 A0 A5 A6 A7 VSS D1 Q1 D2 Q2 D3 Q3 D4 Q4 CE2 OE CE1 WE A4 VCC"
#define P_7489      "A0 CE WE D1 Q1 D2 Q2 VSS Q3 D3 Q4 D4 A3 A2 A1 VCC"
#define P_2114      "A6 A5 A4 A3 A0 A1 A2 CS VSS WE DQ4 DQ3 DQ2 DQ1 A9 A8 A7 VCC"
#define P_82S123    "D0 D1 D2 D3 D4 D5 D6 VSS D7 A0 A1 A2 A3 A4 CE VCC"
#define P_82S129    "A6 A5 A4 A3 A0 A1 A2 VSS Q4 Q3 Q2 Q1 "

const rmg_part rmg_parts[] = {
    /* DRAM of one bit */
    DRAM("4096", P_4096, THREE_VOLTS, 1, 12, 6, 64, 2, DIP3, .times = "-6 250, -11 350",
         .about = "CS is latched with the column address."),
    DRAM("4027", P_4096, THREE_VOLTS, 1, 12, 6, 64, 2, DIP3, .times = "-2 150, -3 200, -4 250",
         .about = "CS is latched with the column address."),
    DRAM("4116", "VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 A6 Q CAS VSS", THREE_VOLTS, 1, 14, 7, 128,
         2, DIP3, .times = "-2 150, -3 200, -4 250",
         .about = "-5 V comes first and goes last: without it the part may be destroyed."),
    DRAM("4108", "VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 A6 Q CAS VSS", THREE_VOLTS, 1, 13, 7, 128,
         2, DIP3, .times = "-2 150, -3 200, -4 250", .half_of = "4116",
         .tied = "A6 at column time (of some makers at row time): the level is in the marking"),
    DRAM("4164", P_4164, FIVE("8", "16"), 1, 16, 8, 128, 2, DIP3,
         .times = "-12 120, -15 150, -20 200",
         .about = "Some makers' parts need 256 cycles in 4 ms."),
    DRAM("4532", P_4164, FIVE("8", "16"), 1, 15, 7, 128, 2, DIP3, .times = "-15 150, -20 200",
         .half_of = "4164", .tied = "A7 at row time: suffix NL3 low, NL4 high"),
    DRAM("3732", P_4164, FIVE("8", "16"), 1, 15, 8, 128, 2, DIP3, .times = "-15 150, -20 200",
         .half_of = "4164", .tied = "A7 at column time: suffix L low, H high"),
    DRAM("41256", "A8 D WE RAS A0 A2 A1 VCC A7 A5 A4 A3 A6 Q CAS VSS", FIVE("8", "16"), 1, 18, 9,
         256, 4, DIP3, .times = "-10 100, -12 120, -15 150"),
    DRAM("511000", "D WE RAS - A0 A1 A2 A3 VCC A4 A5 A6 A7 A8 A9 CAS Q VSS", FIVE("9", "18"), 1, 20,
         10, 512, 8, DIP3, .times = "-7 70, -8 80, -10 100"),
    /* of four bits */
    DRAM("4416", P_4416, FIVE("9", "18"), 4, 14, 8, 256, 4, DIP3, .column_from = 1,
         .times = "-12 120, -15 150, -20 200"),
    DRAM("4464", P_4416, FIVE("9", "18"), 4, 16, 8, 256, 4, DIP3,
         .times = "-10 100, -12 120, -15 150"),
    DRAM("514256", "DQ1 DQ2 WE RAS - A0 A1 A2 A3 VCC A4 A5 A6 A7 A8 OE CAS DQ3 DQ4 VSS",
         FIVE("10", "20"), 4, 18, 9, 512, 8, DIP3, .times = "-7 70, -8 80, -10 100"),
    DRAM("514400", "DQ1 DQ2 WE RAS A9 A0 A1 A2 A3 VCC A4 A5 A6 A7 A8 OE CAS DQ3 DQ4 VSS",
         FIVE("10", "20"), 4, 20, 10, 1024, 16, DIP3, .times = "-6 60, -7 70, -8 80"),
    /* of eight bits */
    DRAM("514800",
         "VCC DQ1 DQ2 DQ3 DQ4 - WE RAS A9 A0 A1 A2 A3 VCC VSS A4 A5 A6 A7 A8 OE CAS - DQ5 DQ6 DQ7 "
         "DQ8 VSS",
         "+5 V pins 1 and 14, 0 V pins 15 and 28", 8, 19, 10, 1024, 16,
         .package = RMG_PACKAGE_SOJ_400, .times = "-6 60, -7 70, -8 80"),
    DRAM("256Kx8-30", MODULE("-", "-", "-", "-", "-", "-"), "+5 V pins 1 and 30, 0 V pins 9 and 22",
         8, 18, 9, 512, 8, .package = RMG_PACKAGE_MODULE, .times = "-8 80, -10 100, -12 120",
         .about = "A module of 30 contacts; with chips of 256 "
                  "cycles in 4 ms it asks for less."),
    DRAM("1Mx8-30", MODULE("A9", "-", "-", "-", "-", "-"), "+5 V pins 1 and 30, 0 V pins 9 and 22",
         8, 20, 10, 1024, 16, .package = RMG_PACKAGE_MODULE, .times = "-6 60, -7 70, -8 80",
         .about = "A module of 30 contacts; with chips of one bit 512 cycles in 8 ms do."),
    DRAM("4Mx8-30", MODULE("A9", "A10", "-", "-", "-", "-"),
         "+5 V pins 1 and 30, 0 V pins 9 and 22", 8, 22, 11, 2048, 32,
         .package = RMG_PACKAGE_MODULE, .times = "-6 60, -7 70",
         .about = "A module of 30 contacts; with chips of one bit 1024 cycles in 16 ms do."),
    /* SRAM of one bit */
    SRAM("2102", "A6 A5 WE A1 A2 A3 A4 A0 VSS VCC D Q CE A9 A8 A7", FIVE("10", "9"), 1, 10, DIP3,
         .times = "-2 250, -1 350, -4 450, 1000"),
    SRAM("2147", "A0 A1 A2 A3 A4 A5 Q WE VSS CE D A11 A10 A9 A8 A7 A6 VCC", FIVE("18", "9"), 1, 12,
         DIP3, .times = "-3 55, 70"),
    SRAM("6167", "A0 A1 A2 A3 A4 A5 A6 Q WE VSS CE D A7 A8 A9 A10 A11 A12 A13 VCC",
         FIVE("20", "10"), 1, 14, DIP3, .times = "-35 35, -45 45, -70 70"),
    SRAM("6287", "A0 A1 A2 A3 A4 A5 A6 A7 Q WE VSS CE D A8 A9 A10 A11 A12 A13 A14 A15 VCC",
         FIVE("22", "11"), 1, 16, DIP3, .times = "-25 25, -35 35, -45 45, -70 70"),
    SRAM("93415", "CS A0 A1 A2 A3 A4 Q VSS A5 A6 A7 A8 A9 WE D VCC", FIVE("16", "8"), 1, 10, DIP3,
         .times = "A 30, 45", .open = true),
    SRAM("93425", "CS A0 A1 A2 A3 A4 Q VSS A5 A6 A7 A8 A9 WE D VCC", FIVE("16", "8"), 1, 10, DIP3,
         .times = "A 30, 45"),
    /* of four bits */
    SRAM("2101", P_2101, FIVE("22", "8"), 4, 8, DIP4, .high = "CE2",
         .times = "-2 650, -1 500, 1000"),
    SRAM("5101", P_2101, FIVE("22", "8"), 4, 8, DIP4, .high = "CE2", .times = "-1 450, 650",
         .about = "Made to be held by a battery: with CE2 low it draws next to nothing."),
    SRAM("93422", P_2101, FIVE("22", "8"), 4, 8, DIP4, .high = "CE2", .times = "A 35, 45"),
    SRAM("2111", "A3 A2 A1 A0 A5 A6 A7 VSS OE DQ1 DQ2 DQ3 DQ4 CE1 CE2 WE A4 VCC", FIVE("18", "8"),
         4, 8, DIP3, .times = "-2 650, -1 500, 1000"),
    SRAM("2112", "A3 A2 A1 A0 A5 A6 A7 VSS DQ1 DQ2 DQ3 DQ4 CE WE A4 VCC", FIVE("16", "8"), 4, 8,
         DIP3, .times = "-2 650, 1000"),
    SRAM("2114", P_2114, FIVE("18", "9"), 4, 10, DIP3, .times = "-2 200, -3 300, 450"),
    SRAM("2148", P_2114, FIVE("18", "9"), 4, 10, DIP3, .times = "-3 55, 70",
         .about = "Sleeps while it is not selected."),
    SRAM("2149", P_2114, FIVE("18", "9"), 4, 10, DIP3, .times = "-3 55, 70"),
    SRAM("6514", P_2114, FIVE("18", "9"), 4, 10, DIP3, .times = "-9 200, 300",
         .about = "Latches the address when CS falls: CS must go high between accesses."),
    SRAM("6168", "A0 A1 A2 A3 A4 A5 A6 A7 CE VSS WE DQ4 DQ3 DQ2 DQ1 A8 A9 A10 A11 VCC",
         FIVE("20", "10"), 4, 12, DIP3, .times = "-35 35, -45 45, -55 55, -70 70"),
    SRAM("7489", P_7489, FIVE("16", "8"), 4, 4, DIP3, .times = "60", .inverted = true,
         .open = true),
    SRAM("74189", P_7489, FIVE("16", "8"), 4, 4, DIP3, .times = "35", .inverted = true),
    SRAM("74219", P_7489, FIVE("16", "8"), 4, 4, DIP3, .times = "35"),
    /* of eight bits */
    SRAM("6810", "VSS D0 D1 D2 D3 D4 D5 D6 D7 CS0 CS1 CS2 CS3 CS4 CS5 WE A6 A5 A4 A3 A2 A1 A0 VCC",
         FIVE("24", "1"), 8, 7, DIP6, .high = "CS0 CS3", .times = "A 360, B 250, 450"),
    SRAM("4801", P_24 " CE - OE WE A9 A8 VCC", FIVE("24", "12"), 8, 10, DIP6,
         .times = "-1 120, -2 150, -3 200"),
    SRAM("6116", P_24 " CE A10 OE WE A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
         .times = "-2 120, -3 150, -4 200"),
    SRAM("2016", P_24 " CE A10 OE WE A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
         .times = "-10 100, -12 120, -15 150, -20 200"),
    SRAM("6264", "- " P_28 " CE1 A10 OE A11 A9 A8 CE2 WE VCC", FIVE("28", "14"), 8, 13, DIP6,
         .high = "CE2", .times = "-70 70, -10 100, -12 120, -15 150"),
    SRAM("62256", "A14 " P_28 " CE A10 OE A11 A9 A8 A13 WE VCC", FIVE("28", "14"), 8, 15, DIP6,
         .times = "-70 70, -85 85, -10 100, -12 120, -15 150"),
    SRAM("628128", "- " S_32 " CE1 A10 OE A11 A9 A8 A13 WE CE2 A15 VCC", FIVE("32", "16"), 8, 17,
         DIP6, .high = "CE2", .times = "-55 55, -70 70, -85 85, -10 100"),
    SRAM("628512", "A18 " S_32 " CE A10 OE A11 A9 A8 A13 WE A17 A15 VCC", FIVE("32", "16"), 8, 19,
         DIP6, .times = "-55 55, -70 70, -85 85"),
    /* EPROM, eight bits */
    ROM("2704", EPROM, P_24 " PGM VDD CE VBB - A8 VCC",
        "-5 V pin 21, +12 V pin 19, +5 V pin 24, 0 V pin 12", 8, 9, DIP6, .times = "450",
        .about = "PGM, pin 18, is at 0 V when it is read."),
    ROM("2708", EPROM, P_24 " PGM VDD CE VBB A9 A8 VCC",
        "-5 V pin 21, +12 V pin 19, +5 V pin 24, 0 V pin 12", 8, 10, DIP6, .times = "-1 350, 450",
        .about = "PGM, pin 18, is at 0 V when it is read."),
    ROM("2716-3V", EPROM, P_24 " CE VDD A10 VBB A9 A8 VCC",
        "-5 V pin 21, +12 V pin 19, +5 V pin 24, 0 V pin 12", 8, 11, DIP6, .times = "450",
        .about = "The 2716 of three supplies: in a socket of the other one it is destroyed."),
    ROM("2758", EPROM, P_24 " CE A10 OE VPP A9 A8 VCC", FIVE("24", "12"), 8, 10, DIP6,
        .times = "450", .half_of = "2716", .tied = "A10: low, of the other half high"),
    ROM("2716", EPROM, P_24 " CE A10 OE VPP A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
        .times = "-1 350, -2 390, 450"),
    ROM("2732", EPROM, P_24 " CE A10 OE A11 A9 A8 VCC", FIVE("24", "12"), 8, 12, DIP6,
        .times = "-20 200, -25 250, -30 300, 450"),
    ROM("2532", EPROM, P_24 " A11 A10 CE VPP A9 A8 VCC", FIVE("24", "12"), 8, 12, DIP6,
        .times = "-30 300, -35 350, -45 450"),
    ROM("68764", EPROM, P_24 " A11 A10 CE A12 A9 A8 VCC", FIVE("24", "12"), 8, 13, DIP6,
        .times = "-35 350, 450",
        .about = "Pin 20 is the select, and takes +25 V when it is burnt."),
    ROM("2764", EPROM, "VPP " P_28 " CE A10 OE A11 A9 A8 - PGM VCC", FIVE("28", "14"), 8, 13, DIP6,
        .times = "-20 200, -25 250, -30 300, 250"),
    ROM("2564", EPROM, "VPP CE1 " P_24 " A11 A10 CE3 A12 A9 A8 VCC CE2 VCC",
        "+5 V pins 26 and 28, 0 V pin 14", 8, 13, DIP6, .times = "-35 350, -45 450"),
    ROM("27128", EPROM, "VPP " P_28 " CE A10 OE A11 A9 A8 A13 PGM VCC", FIVE("28", "14"), 8, 14,
        DIP6, .times = "-15 150, -20 200, -25 250"),
    ROM("27256", EPROM, "VPP " P_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE("28", "14"), 8, 15,
        DIP6, .times = "-12 120, -15 150, -20 200, -25 250"),
    ROM("27512", EPROM, "A15 " P_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE("28", "14"), 8, 16,
        DIP6, .times = "-12 120, -15 150, -20 200, -25 250"),
    ROM("27010", EPROM, "VPP " P_32 " CE A10 OE A11 A9 A8 A13 A14 - PGM VCC", FIVE("32", "16"), 8,
        17, DIP6, .times = "-10 100, -12 120, -15 150, -20 200"),
    ROM("27301", EPROM, "VPP OE A15 " P_28 " CE A10 A16 A11 A9 A8 A13 A14 - PGM VCC",
        FIVE("32", "16"), 8, 17, DIP6, .times = "-12 120, -15 150, -20 200",
        .about = "Laid out as the mask ROM of 28 pins: OE and A16 lie elsewhere than on a 27010."),
    ROM("27020", EPROM, "VPP " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 PGM VCC", FIVE("32", "16"), 8,
        18, DIP6, .times = "-10 100, -12 120, -15 150, -20 200"),
    ROM("27040", EPROM, "VPP " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 A18 VCC", FIVE("32", "16"), 8,
        19, DIP6, .times = "-10 100, -12 120, -15 150"),
    ROM("27080", EPROM, "A19 " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 A18 VCC", FIVE("32", "16"), 8,
        20, DIP6, .times = "-10 100, -12 120, -15 150"),
    /* EPROM, sixteen bits */
    ROM("27210", EPROM, "VPP CE " P_40 "A9 A10 A11 A12 A13 A14 A15 - PGM VCC",
        "+5 V pin 40, 0 V pins 11 and 30", 16, 16, DIP6, .times = "-12 120, -15 150, -20 200"),
    ROM("27220", EPROM, "VPP CE " P_40 "A9 A10 A11 A12 A13 A14 A15 A16 PGM VCC",
        "+5 V pin 40, 0 V pins 11 and 30", 16, 17, DIP6, .times = "-10 100, -12 120, -15 150"),
    ROM("27240", EPROM, "VPP CE " P_40 "A9 A10 A11 A12 A13 A14 A15 A16 A17 VCC",
        "+5 V pin 40, 0 V pins 11 and 30", 16, 18, DIP6, .times = "-10 100, -12 120, -15 150"),
    ROM("27400", EPROM,
        "A17 A7 A6 A5 A4 A3 A2 A1 A0 CE VSS OE " W_40 " BYTE A16 A15 A14 A13 A12 A11 A10 A9 A8",
        "+5 V pin 21, 0 V pins 11 and 30", 16, 18, DIP6, .times = "-10 100, -12 120, -15 150",
        .about = "With BYTE low it is 512K x 8, and pin 29 is its lowest address line."),
    ROM("27800", EPROM,
        "A18 A17 A7 A6 A5 A4 A3 A2 A1 A0 CE VSS OE " W_40
        " BYTE A16 A15 A14 A13 A12 A11 A10 A9 A8 -",
        "+5 V pin 22, 0 V pins 12 and 31", 16, 19, DIP6, .times = "-10 100, -12 120",
        .about = "With BYTE low it is 1M x 8, and pin 30 is its lowest address line."),
    ROM("27160", EPROM,
        "A18 A17 A7 A6 A5 A4 A3 A2 A1 A0 CE VSS OE " W_40
        " BYTE A16 A15 A14 A13 A12 A11 A10 A9 A8 A19",
        "+5 V pin 22, 0 V pins 12 and 31", 16, 20, DIP6, .times = "-10 100, -12 120",
        .about = "With BYTE low it is 2M x 8, and pin 30 is its lowest address line."),
    /* EEPROM and flash */
    ROM("2804", EEPROM, P_24 " CE - OE WE - A8 VCC", FIVE("24", "12"), 8, 9, DIP6,
        .times = "-25 250, -35 350"),
    ROM("2816", EEPROM, P_24 " CE A10 OE WE A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
        .times = "-15 150, -20 200, -25 250"),
    ROM("2864", EEPROM, "- " P_28 " CE A10 OE A11 A9 A8 - WE VCC", FIVE("28", "14"), 8, 13, DIP6,
        .times = "-15 150, -20 200, -25 250",
        .about = "Of some makers pin 1 tells that it is busy."),
    ROM("28256", EEPROM, "A14 " P_28 " CE A10 OE A11 A9 A8 A13 WE VCC", FIVE("28", "14"), 8, 15,
        DIP6, .times = "-15 150, -20 200, -25 250"),
    ROM("28010", EEPROM, "- " P_32 " CE A10 OE A11 A9 A8 A13 A14 - WE VCC", FIVE("32", "16"), 8, 17,
        DIP6, .times = "-12 120, -15 150, -20 200"),
    ROM("29010", FLASH, "- " P_32 " CE A10 OE A11 A9 A8 A13 A14 - WE VCC", FIVE("32", "16"), 8, 17,
        DIP6, .times = "-55 55, -70 70, -90 90, -12 120"),
    ROM("29020", FLASH, "- " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 WE VCC", FIVE("32", "16"), 8,
        18, DIP6, .times = "-55 55, -70 70, -90 90, -12 120"),
    ROM("29040", FLASH, "A18 " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 WE VCC", FIVE("32", "16"), 8,
        19, DIP6, .times = "-55 55, -70 70, -90 90, -12 120"),
    /* mask ROM */
    ROM("6830", MASK,
        "VSS D0 D1 D2 D3 D4 D5 D6 D7 CS1 CS2 VCC CS3 CS4 A9 A8 A7 A6 A5 A4 A3 A2 A1 A0",
        FIVE("12", "1"), 8, 10, DIP6, .masked = "CS1 CS2 CS3 CS4", .times = "500"),
    ROM("2316", MASK, P_24 " CS2 A10 CS1 CS3 A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
        .masked = "CS1 CS2 CS3", .times = "450"),
    ROM("2332", MASK, P_24 " A11 A10 CS1 CS2 A9 A8 VCC", FIVE("24", "12"), 8, 12, DIP6,
        .masked = "CS1 CS2", .times = "-30 300, 450"),
    ROM("2364", MASK, P_24 " A11 A10 CS A12 A9 A8 VCC", FIVE("24", "12"), 8, 13, DIP6,
        .masked = "CS", .times = "-20 200, -30 300, 450"),
    ROM("23128", MASK, "- " P_28 " CE A10 OE A11 A9 A8 A13 CS VCC", FIVE("28", "14"), 8, 14, DIP6,
        .masked = "CE OE CS", .times = "-20 200, -25 250"),
    ROM("23256", MASK, "- " P_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE("28", "14"), 8, 15, DIP6,
        .masked = "CE OE", .times = "-15 150, -20 200, -25 250"),
    ROM("23512", MASK, "A15 " P_28 " CE A10 OE A11 A9 A8 A13 A14 VCC", FIVE("28", "14"), 8, 16,
        DIP6, .masked = "CE OE", .times = "-15 150, -20 200"),
    ROM("231000", MASK, "A15 " P_28 " CE A10 A16 A11 A9 A8 A13 A14 VCC", FIVE("28", "14"), 8, 17,
        DIP6, .masked = "CE", .times = "-15 150, -20 200",
        .about = "Of 28 pins: A16 stands where a 27512 has OE."),
    ROM("231001", MASK, "- " P_32 " CE A10 OE A11 A9 A8 A13 A14 - - VCC", FIVE("32", "16"), 8, 17,
        DIP6, .times = "-15 150, -20 200"),
    ROM("234000", MASK, "- " P_32 " CE A10 OE A11 A9 A8 A13 A14 A17 A18 VCC", FIVE("32", "16"), 8,
        19, DIP6, .times = "-12 120, -15 150, -20 200"),
    /* bipolar PROM */
    ROM("82S23", FUSED, P_82S123, FIVE("16", "8"), 8, 5, DIP3, .times = "50", .open = true),
    ROM("82S123", FUSED, P_82S123, FIVE("16", "8"), 8, 5, DIP3, .times = "50"),
    ROM("82S126", FUSED, P_82S129 "CE1 CE2 A7 VCC", FIVE("16", "8"), 4, 8, DIP3, .times = "50",
        .open = true),
    ROM("82S129", FUSED, P_82S129 "CE1 CE2 A7 VCC", FIVE("16", "8"), 4, 8, DIP3, .times = "50"),
    ROM("82S130", FUSED, P_82S129 "CE A8 A7 VCC", FIVE("16", "8"), 4, 9, DIP3, .times = "50",
        .open = true),
    ROM("82S131", FUSED, P_82S129 "CE A8 A7 VCC", FIVE("16", "8"), 4, 9, DIP3, .times = "50"),
    ROM("82S137", FUSED, "A6 A5 A4 A3 A0 A1 A2 CE1 VSS CE2 Q4 Q3 Q2 Q1 A9 A8 A7 VCC",
        FIVE("18", "9"), 4, 10, DIP3, .times = "60"),
    ROM("82S185", FUSED, "A6 A5 A4 A3 A0 A1 A2 A10 VSS CE Q4 Q3 Q2 Q1 A9 A8 A7 VCC",
        FIVE("18", "9"), 4, 11, DIP3, .times = "100"),
    ROM("82S135", FUSED, "A0 A1 A2 A3 A4 D0 D1 D2 D3 VSS D4 D5 D6 D7 CE1 CE2 A5 A6 A7 VCC",
        FIVE("20", "10"), 8, 8, DIP3, .times = "45"),
    ROM("82S147", FUSED, "A0 A1 A2 A3 A4 D0 D1 D2 D3 VSS D4 D5 D6 D7 CE A5 A6 A7 A8 VCC",
        FIVE("20", "10"), 8, 9, DIP3, .times = "60"),
    ROM("82S141", FUSED, P_24 " CE4 CE3 CE1 CE2 - A8 VCC", FIVE("24", "12"), 8, 9, DIP6,
        .high = "CE3 CE4", .times = "60"),
    ROM("82S181", FUSED, P_24 " CE4 CE3 CE1 CE2 A9 A8 VCC", FIVE("24", "12"), 8, 10, DIP6,
        .high = "CE3 CE4", .times = "70"),
    ROM("82S191", FUSED, P_24 " CE3 CE2 CE1 A10 A9 A8 VCC", FIVE("24", "12"), 8, 11, DIP6,
        .high = "CE2 CE3", .times = "80"),
};

const size_t rmg_parts_count = sizeof rmg_parts / sizeof *rmg_parts;
