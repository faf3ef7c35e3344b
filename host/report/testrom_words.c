/* A test ROM in words: what it does on this board, and what its lines and blinks mean. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "board/internal.h"
#include "rimeglass/coverage.h"
#include "rimeglass/report.h"
#include "internal.h"

static const char *const step_words[RMG_TESTROM_KINDS] = {
    [RMG_TESTROM_DATA] = "data lines, in its first word",
    [RMG_TESTROM_LINES] = "address lines",
    [RMG_TESTROM_ACROSS] = "do two banks answer together?",
    [RMG_TESTROM_FIRST] = "the march over the first memory",
    [RMG_TESTROM_MARCH] = "the march",
    [RMG_TESTROM_ROM] = "are the sums of its pages those of its image?",
};
static const char step_letters[RMG_TESTROM_KINDS] = {'D', 'A', 'X', 'F', 'M', 'C'};

/* A bank of the plan as the board names it: "A, the lower bank". */
static gchar *bank_text(const rmg_board *board, const rmg_testrom_plan *plan, uint8_t bank)
{
    const uint8_t of = rmg_dead_bank(board, plan->banks[bank].range.first);

    return g_strdup_printf("%c, %s", 'A' + bank,
                           of == RMG_NO_BANK ? "memory" : board->banks[of].called);
}

/* A ROM of the plan: "A, speech ROM". */
static gchar *rom_text(const rmg_board *board, const rmg_testrom_plan *plan, uint8_t rom)
{
    const rmg_region *region = rmg_board_region_at(board, plan->roms[rom].range.first);

    return g_strdup_printf("%c, %s", 'A' + rom, region ? region->name : "ROM");
}

/* The chips that hold a stretch: "U2, U3". */
static gchar *sockets_of(const rmg_board *board, const rmg_range *range)
{
    GString *out = g_string_new(NULL);

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        rmg_where part;

        if (rmg_where_within(&board->placement.rules[r].where, range, &part))
            g_string_append_printf(out, "%s%s", out->len ? ", " : "",
                                   board->sockets[board->placement.rules[r].socket].name);
    }
    return g_string_free(out, FALSE);
}

static void add_rate(GString *out, const rmg_testrom_plan *plan, const rmg_dead_image *image)
{
    if (plan->serial.fitted)
        g_string_append_printf(out,
                               "Serial      %s 0x%X, %u baud, 8N1: comes out as %.0f (%+.2f %%)\n",
                               plan->serial.port ? "port" : "address", plan->serial.at, plan->baud,
                               image->baud, image->error * 100);
    if (plan->screen.fitted)
        g_string_append_printf(out, "Screen      address 0x%X, %u rows of %u\n", plan->screen.at,
                               plan->screen.rows, plan->screen.columns);
    if (plan->lamp.fitted)
        g_string_append_printf(out, "%s %s 0x%X\n", plan->lamp.tone ? "Loudspeaker" : "Lamp       ",
                               plan->lamp.port ? "port" : "address", plan->lamp.at);
}

static void add_steps(GString *out, const rmg_board *board, const rmg_testrom_plan *plan)
{
    g_string_append(out, "\nIn each pass, after its own sum\n");
    for (unsigned i = 0; i < plan->step_count; i++) {
        const rmg_testrom_step *s = &plan->steps[i];
        const bool across = s->kind == RMG_TESTROM_ACROSS;
        char range[40];
        const bool rom = s->kind == RMG_TESTROM_ROM;
        gchar *bank = across ? g_strdup("all banks")
                      : rom  ? rom_text(board, plan, s->bank)
                             : bank_text(board, plan, s->bank);

        g_string_append_printf(
            out, "  %c%c  %-22s %-19s %s\n", step_letters[s->kind], across ? ' ' : 'A' + s->bank,
            bank, across ? "" : rmg_board_range_text(board, &s->range, range, sizeof range),
            rom && !plan->roms[s->bank].known
                ? "all of it reported, since no image says what it holds"
                : step_words[s->kind]);
        g_free(bank);
    }
}

#define COLUMNS 96u

/* A list, broken at its blanks. */
static void add_wrapped(GString *out, const char *lead, const char *what, const char *list)
{
    gchar **words = g_strsplit(list, ", ", -1);
    size_t at = strlen(lead) + strlen(what);

    if (*list)
        g_string_append_printf(out, "%s%s", lead, what);
    for (size_t i = 0; words[i]; i++) {
        if (at + strlen(words[i]) + 2u > COLUMNS) {
            g_string_append_printf(out, "\n%*s", (int)strlen(lead), "");
            at = strlen(lead);
        }
        g_string_append_printf(out, "%s%s", words[i], words[i + 1] ? ", " : "\n");
        at += strlen(words[i]) + 2u;
    }
    g_strfreev(words);
}

/* What the march finds of each class of fault, and what it does not. */
static void add_reach(GString *out, const rmg_testrom_plan *plan)
{
    GString *all = g_string_new(NULL), *some = g_string_new(NULL), *none = g_string_new(NULL);

    for (int c = 0; c < RMG_CLASS_COUNT; c++) {
        const char *name = rmg_fault_class_name((rmg_fault_class)c);
        rmg_coverage coverage;

        if (rmg_march_coverage(plan->march, (rmg_fault_class)c, &coverage) != RMG_OK)
            continue;
        if (coverage.found == coverage.instances)
            g_string_append_printf(all, "%s%s", all->len ? ", " : "", name);
        else if (coverage.found)
            g_string_append_printf(some, "%s%s %.0f %%", some->len ? ", " : "", name,
                                   100.0 * coverage.found / coverage.instances);
        else
            g_string_append_printf(none, "%s%s", none->len ? ", " : "", name);
    }
    g_string_append_c(out, '\n');
    add_wrapped(out, "Finds       ", "of faults of cells and decoders all: ", all->str);
    add_wrapped(out, "            ", "some: ", some->str);
    add_wrapped(out, "            ", "none: ", none->str);
    g_string_append_printf(out,
                           "            It tells the first %u failures of a step; faults behind "
                           "them show when these are repaired.\n",
                           plan->lines);
    g_string_free(all, TRUE);
    g_string_free(some, TRUE);
    g_string_free(none, TRUE);
}

/* The address of the first instruction. */
static void add_start(GString *out, const rmg_testrom_plan *plan)
{
    if (plan->processor == RMG_TESTROM_8086)
        g_string_append_printf(out, "at %04X:0000\n", plan->origin >> 4);
    else
        g_string_append_printf(out, "at 0x%X\n",
                               plan->origin + rmg_testrom_rows[plan->processor].front);
}

/* Where the ROM goes, and how it is started there. */
static void add_place(GString *out, const rmg_board *board, const rmg_board_rom *how,
                      const rmg_testrom_plan *plan)
{
    if (how->load_size) {
        g_string_append_printf(out, "Program     to load at 0x%X, and to start ", how->load_at);
        add_start(out, plan);
        return;
    }
    g_string_append(out, how->slot_size ? "Slot        " : "Socket     ");
    for (unsigned i = 0; i < how->socket_count; i++)
        g_string_append_printf(out, "%s %s (%s)", i ? "," : "",
                               board->sockets[how->sockets[i]].name,
                               board->sockets[how->sockets[i]].part->number);
    if (!how->slot_size) {
        g_string_append_printf(out, ", first byte at 0x%X\n", plan->origin);
        return;
    }
    g_string_append_printf(out, "%u bytes from 0x%X on", how->slot_size, how->origin);
    if (how->header_count)
        g_string_append_printf(out, ", %u of them its header", how->header_count);
    g_string_append(out, "; started ");
    add_start(out, plan);
    g_string_append_printf(out, "            The board's own ROM %s%s.\n",
                           *how->disables ? "must be off: " : "must start it there", how->disables);
}

/* The ROM itself, as a reader knows it. */
static const char *rom_name(const rmg_board *board)
{
    return board->rom.socket_count ? board->sockets[board->rom.sockets[0]].name : "in the slot";
}

char *rmg_testrom_text(const rmg_board *board, const rmg_board_rom *how,
                       const rmg_testrom_plan *plan, const rmg_testrom_left *left,
                       unsigned left_count, const rmg_dead_image *image)
{
    GString *out = g_string_new(NULL);
    const double seconds = rmg_dead_pass_clocks(plan, image) / plan->clock_hz;

    g_string_append_printf(out, "%s, revision %s: a %s that tests it without its RAM\n\n",
                           board->name, *board->revision ? board->revision : "not named",
                           how->load_size ? "program" : "ROM");
    g_string_append_printf(out, "Processor   %s at %.3g MHz\n",
                           rmg_testrom_rows[plan->processor].name, plan->clock_hz / 1e6);
    add_place(out, board, how, plan);
    g_string_append_printf(out, "Image       %zu of %zu bytes, id %04X\n", image->used, image->size,
                           plan->id);
    add_rate(out, plan, image);
    g_string_append_printf(out, "March       %s, %u clocks a word; a healthy pass takes %.*f s\n",
                           how->march_text, image->march_clocks, seconds < 10 ? 1 : 0, seconds);
    add_steps(out, board, plan);
    for (unsigned i = 0; i < left_count; i++) {
        char range[40];

        g_string_append_printf(out, "%s%s: %s\n", i ? "            " : "\nNot tested  ",
                               rmg_board_range_text(board, &left[i].range, range, sizeof range),
                               left[i].why);
    }
    add_reach(out, plan);
    return g_string_free(out, FALSE);
}

char *rmg_testrom_sockets(const rmg_board *board, const rmg_range *range, uint8_t bit)
{
    GString *out = g_string_new(NULL);

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        rmg_where part;

        if ((rmg_rule_bits(rule) >> bit & 1u) && rmg_where_within(&rule->where, range, &part))
            g_string_append_printf(out, "%s%s", out->len ? " or " : "",
                                   board->sockets[rule->socket].name);
    }
    return g_string_free(out, FALSE);
}

/* What a bank and another have in common, before any memory works; NULL: no such code. */
static char *shared_code_text(const rmg_testrom_plan *plan, unsigned bit)
{
    if (bit == RMG_TESTROM_CODE_SEVERAL(plan->word_bits))
        return g_strdup("several bits in more than one bank: data lines that touch, or no memory");
    if (bit == RMG_TESTROM_CODE_ALL(plan->word_bits))
        return g_strdup("all bits in more than one bank: no memory answers");
    return bit && bit <= plan->word_bits
               ? g_strdup_printf("D%u in more than one bank: its data line", bit - 1u)
               : NULL;
}

char *rmg_testrom_code_text(const rmg_board *board, const rmg_testrom_plan *plan, uint8_t code)
{
    const unsigned bank = RMG_TESTROM_CODE_BANK(code), bit = RMG_TESTROM_CODE_BIT(code);
    gchar *where, *devices, *text;

    if (!code)
        return g_strdup("nothing was found");
    if (code == RMG_TESTROM_CODE_SUM)
        return g_strdup_printf("the ROM itself (%s): its sum is wrong", rom_name(board));
    for (uint8_t rom = 0; rom < plan->rom_count; rom++)
        if (plan->roms[rom].known && code == RMG_TESTROM_CODE_ROM(rom)) {
            where = rom_text(board, plan, rom);
            devices = sockets_of(board, &plan->roms[rom].range);
            text = g_strdup_printf("ROM %s (%s) does not hold what its image says", where + 3,
                                   devices);
            g_free(devices);
            g_free(where);
            return text;
        }
    if (bank && bank == rmg_testrom_code_shared(plan))
        return shared_code_text(plan, bit);
    if (!bank || bank > plan->bank_count || !bit ||
        bit > rmg_testrom_code_last(plan, (uint8_t)(bank - 1u)))
        return NULL;
    where = bank_text(board, plan, (uint8_t)(bank - 1u));
    if (bit == plan->word_bits + 1u) {
        text = g_strdup_printf("an address line of %s", where + 3);
    } else if (bit == plan->word_bits + 2u) {
        text = g_strdup_printf("%s and another answer together", where + 3);
    } else if (bit > plan->word_bits + 2u) {
        text = g_strdup_printf("%s bits of the first word of %s, before any memory works",
                               bit == RMG_TESTROM_CODE_ALL(plan->word_bits) ? "all" : "several",
                               where + 3);
    } else {
        devices = rmg_testrom_sockets(board, &plan->banks[bank - 1u].range, (uint8_t)(bit - 1u));
        text = g_strdup_printf("D%u of %s: %s", bit - 1u, where + 3, devices);
        g_free(devices);
    }
    g_free(where);
    return text;
}

/* The sockets of a bit in the banks, one column a bank. */
static void add_row(GString *out, const rmg_board *board, const rmg_testrom_plan *plan, uint8_t bit)
{
    g_string_append_printf(out, "  %2u   D%-9u", bit + 1u, bit);
    for (unsigned b = 0; b < plan->bank_count; b++) {
        gchar *sockets = rmg_testrom_sockets(board, &plan->banks[b].range, bit);

        g_string_append_printf(out, " %-17s", sockets);
        g_free(sockets);
    }
    g_string_append_c(out, '\n');
}

/* "flash", "flashes", "beep", "beeps". */
static const char *counted(const rmg_testrom_plan *plan, unsigned count)
{
    return plan->lamp.tone ? (count == 1 ? "beep" : "beeps") : count == 1 ? "flash" : "flashes";
}

/* What is blinked before a processor that keeps its data in memory has any. */
static void add_before_memory(GString *out, const rmg_board *board, const rmg_testrom_plan *plan)
{
    const unsigned shared = rmg_testrom_code_shared(plan);

    for (unsigned bit = plan->word_bits + 3u; bit <= rmg_testrom_code_last(plan, plan->home_bank);
         bit++) {
        char *means =
            rmg_testrom_code_text(board, plan, (uint8_t)((plan->home_bank + 1u) << 5 | bit));

        g_string_append_printf(out, "  %u %s, then %u: %s\n", plan->home_bank + 1u,
                               counted(plan, plan->home_bank + 1u), bit, means);
        rmg_text_free(means);
    }
    if (!shared)
        return;
    g_string_append_printf(
        out,
        "  %u %s, then a bit: it is wrong in more than one bank, so its data line "
        "is;\n                    %u: several bits, %u: all\n",
        shared, counted(plan, shared), RMG_TESTROM_CODE_SEVERAL(plan->word_bits),
        RMG_TESTROM_CODE_ALL(plan->word_bits));
}

static void add_blinks(GString *out, const rmg_board *board, const rmg_testrom_plan *plan)
{
    const char *one = counted(plan, 1), *many = counted(plan, 2);

    g_string_append_printf(
        out,
        "\nAt the end of a pass the first finding is given in %s, twice over: so "
        "many for the bank,\na pause, so many for what is wrong there. One long "
        "%s: nothing was found.\n\n  Then Bank      ",
        many, one);
    for (unsigned b = 0; b < plan->bank_count; b++) {
        const uint8_t of = rmg_dead_bank(board, plan->banks[b].range.first);

        g_string_append_printf(out, " %u: %-14s", b + 1u,
                               of == RMG_NO_BANK ? "memory" : board->banks[of].name);
    }
    g_string_append_c(out, '\n');
    for (uint8_t bit = 0; bit < plan->word_bits; bit++)
        add_row(out, board, plan, bit);
    g_string_append_printf(out,
                           "  %2u   an address line of the bank\n"
                           "  %2u   the bank and another answer together\n"
                           "  7 %s, then 1: the ROM itself (%s), its sum is wrong\n",
                           plan->word_bits + 1u, plan->word_bits + 2u, many, rom_name(board));
    add_before_memory(out, board, plan);
    for (uint8_t rom = 0; rom < plan->rom_count; rom++)
        if (plan->roms[rom].known) {
            char *means = rmg_testrom_code_text(board, plan, (uint8_t)RMG_TESTROM_CODE_ROM(rom));

            g_string_append_printf(out, "  7 %s, then %u: %s\n", many, rom + 2u, means);
            rmg_text_free(means);
        }
}

static void add_screen(GString *out, const rmg_testrom_plan *plan)
{
    const unsigned bits = plan->word_bits;

    g_string_append_printf(
        out,
        "\nScreen: first bars, which are gone at once where the screen's memory reads back what "
        "was\n"
        "written; where they stay, it does not, or cannot be read: trust no row then. A row comes "
        "when "
        "a\nstep is over; its letters, a dot or a mark, and the bits that failed in it, D%u "
        "first\n\n"
        "  DA. %0*u    nothing failed\n"
        "  MB! %s00010000    D4 failed\n"
        "  AA!             address lines failed; the step across banks (X) has no bits either\n"
        "  1.              the last row: the pass that runs, and whether the one before found "
        "none\n",
        bits - 1u, (int)bits, 0u, bits > 8 ? "00000000" : "");
}

char *rmg_testrom_legend(const rmg_board *board, const rmg_testrom_plan *plan)
{
    GString *out = g_string_new(NULL);

    if (plan->lamp.fitted)
        add_blinks(out, board, plan);
    if (plan->screen.fitted)
        add_screen(out, plan);
    g_string_append(out,
                    "\nLines: a digit for the pass before each, a check of two digits behind it\n\n"
                    "  S 1A2B          a pass begins; which ROM it is\n"
                    "  DAb 8000 FE 7E  step, bank, which read of the step; address, written, read\n"
                    "  MA. 00          the step is over; the bits that failed in it\n"
                    "  MA+ 10          ... and more failed than were reported\n"
                    "  MA/             it was left out: it would destroy what the ROM keeps\n"
                    "  R               the ROM's own sum is wrong\n");
    if (plan->rom_count)
        g_string_append(out, "  CAb C100 4F 07  sums of a page of a ROM, as they were read in the "
                             "second reading of three\n"
                             "  CA= C108 ...    what is read there: eight bytes\n");
    g_string_append_printf(
        out,
        "  E 48            the pass is over; its first finding, 00: none\n\n"
        "A healthy board tells S, then a line with a dot for each %s step, then E 00.\n",
        plan->home.first <= plan->home.last ? plan->rom_count ? "M and C" : "M"
        : plan->rom_count                   ? "F, M and C"
                                            : "F and M");
    return g_string_free(out, FALSE);
}
