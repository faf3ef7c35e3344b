/* What a test ROM is to do on a board. */
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"
#include "internal.h"

#define PAGE 256u /* words; whole ones are tested */

/* A plan while it is made. */
typedef struct planning {
    const rmg_board *board;
    const rmg_board_rom *how;
    rmg_testrom_plan *plan;
    rmg_testrom_left *left;
    unsigned left_count;
    rmg_error *error;
} planning;

static void leave(planning *p, rmg_addr first, rmg_addr last, const char *why)
{
    if (p->left && p->left_count < RMG_TESTROM_LEFT)
        p->left[p->left_count++] = (rmg_testrom_left){{first, last}, why};
}

uint8_t rmg_dead_bank(const rmg_board *board, rmg_addr address)
{
    for (size_t b = 0; b < board->bank_count; b++)
        if (rmg_where_holds(&board->bank_wheres[b], address))
            return (uint8_t)b;
    return RMG_NO_BANK;
}

/* The bits that chips have somewhere in a stretch. */
static rmg_word bits_in(const rmg_board *board, const rmg_range *range)
{
    rmg_word bits = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        rmg_where part;

        if (rmg_where_within(&board->placement.rules[r].where, range, &part))
            bits |= rmg_rule_bits(&board->placement.rules[r]);
    }
    return bits;
}

static void add_bank(planning *p, rmg_range range);

/* What is left of a stretch beside a program that is loaded into it. false: it does not lie there.
 */
static bool add_beside(planning *p, const rmg_range *range)
{
    const rmg_board_rom *how = p->how;
    const rmg_addr first = (rmg_addr)how->load_at >> p->plan->byte_shift;
    const rmg_addr last = first + ((rmg_addr)how->load_size >> p->plan->byte_shift) - 1u;

    if (!how->load_size || first > range->last || last < range->first)
        return false;
    if (first > range->first)
        add_bank(p, (rmg_range){range->first, first - 1u});
    leave(p, MAX(first, range->first), MIN(last, range->last), "the program itself lies there");
    if (last < range->last)
        add_bank(p, (rmg_range){last + 1u, range->last});
    return true;
}

static void add_bank(planning *p, rmg_range range)
{
    rmg_testrom_plan *plan = p->plan;
    const rmg_addr most = ((rmg_addr)1 << 4u * rmg_testrom_rows[plan->processor].digits) - 1u;
    const rmg_range whole = range;

    if (add_beside(p, &range))
        return;
    if (range.first << plan->byte_shift > most) {
        leave(p, range.first, range.last, "the processor does not reach it");
        return;
    }
    range.first = (range.first + PAGE - 1u) & ~(rmg_addr)(PAGE - 1u);
    range.last = ((range.last + 1u) & ~(rmg_addr)(PAGE - 1u)) - 1u;
    if (range.last < range.first || range.last - range.first + 1u < PAGE) {
        leave(p, whole.first, whole.last, "it has no whole page of 256 words");
        return;
    }
    if (plan->bank_count == RMG_TESTROM_BANKS) {
        leave(p, whole.first, whole.last, "the ROM tests six stretches of memory");
        return;
    }
    if (whole.first < range.first)
        leave(p, whole.first, range.first - 1u, "whole pages of 256 words are tested");
    if (whole.last > range.last)
        leave(p, range.last + 1u, whole.last, "whole pages of 256 words are tested");
    plan->banks[plan->bank_count++] = (rmg_testrom_bank){range, bits_in(p->board, &range)};
}

/* A region of RAM, divided where a bank begins or ends. */
static void add_region(planning *p, const rmg_region *region)
{
    const rmg_board *board = p->board;
    rmg_addr first = region->range.first;

    for (;;) {
        rmg_addr last = region->range.last;

        for (size_t b = 0; b < board->bank_count; b++) {
            const rmg_where *w = &board->bank_wheres[b];

            if (w->first > first && w->first <= last)
                last = w->first - 1u;
            if (w->last >= first && w->last < last)
                last = w->last;
        }
        add_bank(p, (rmg_range){first, last});
        if (last == region->range.last)
            break;
        first = last + 1u;
    }
}

static void add_step(planning *p, rmg_testrom_kind kind, uint8_t bank, rmg_range range)
{
    p->plan->steps[p->plan->step_count++] = (rmg_testrom_step){kind, bank, range};
}

/* The bank of the plan that holds all of a range; RMG_TESTROM_BANKS: none does. */
static uint8_t holding(const rmg_testrom_plan *plan, const rmg_range *range)
{
    for (uint8_t b = 0; b < plan->bank_count; b++)
        if (plan->banks[b].range.first <= range->first && plan->banks[b].range.last >= range->last)
            return b;
    return RMG_TESTROM_BANKS;
}

static bool refuse(const planning *p, const char *format, ...) G_GNUC_PRINTF(2, 3);
static bool refuse(const planning *p, const char *format, ...)
{
    va_list values;
    gchar *text;

    va_start(values, format);
    text = g_strdup_vprintf(format, values);
    va_end(values);
    rmg_fail(p->error, RMG_ERR_ARGUMENT, NULL, "%s", text);
    g_free(text);
    return false;
}

/* Where a processor keeps its data: at the beginning of the bank with the board's first memory, or
 * of the first bank; or at address 0. */
static bool find_home(planning *p, uint8_t first_bank)
{
    rmg_testrom_plan *plan = p->plan;
    const rmg_testrom_row *row = &rmg_testrom_rows[plan->processor];
    const rmg_range at_0 = {0, row->home_words - 1u};

    plan->home_bank = !row->home_anywhere               ? holding(plan, &at_0)
                      : first_bank != RMG_TESTROM_BANKS ? first_bank
                                                        : 0;
    if (plan->home_bank == RMG_TESTROM_BANKS)
        return refuse(p,
                      "a %s keeps its stack and zero page at 0x0000-0x01FF, but no RAM of "
                      "the board file lies there",
                      row->name);
    plan->home.first = plan->banks[plan->home_bank].range.first;
    plan->home.last = plan->home.first + row->home_words - 1u;
    return true;
}

static bool add_steps(planning *p)
{
    rmg_testrom_plan *plan = p->plan;
    const rmg_testrom_row *row = &rmg_testrom_rows[plan->processor];
    const rmg_range *first = &p->board->first_memory;
    const uint8_t first_bank =
        first->first <= first->last ? holding(plan, first) : RMG_TESTROM_BANKS;

    if (row->home_words) {
        if (!find_home(p, first_bank))
            return false;
        add_step(p, RMG_TESTROM_FIRST, plan->home_bank, plan->home);
    }
    for (uint8_t b = 0; b < plan->bank_count; b++) {
        add_step(p, RMG_TESTROM_DATA, b, plan->banks[b].range);
        add_step(p, RMG_TESTROM_LINES, b, plan->banks[b].range);
    }
    if (!row->home_words && first_bank != RMG_TESTROM_BANKS &&
        !((first->first | (first->last + 1u)) & (PAGE - 1u)))
        add_step(p, RMG_TESTROM_FIRST, first_bank, *first);
    if (plan->bank_count > 1)
        add_step(p, RMG_TESTROM_ACROSS, 0, plan->banks[0].range);
    for (uint8_t b = 0; b < plan->bank_count; b++) {
        rmg_range range = plan->banks[b].range;

        if (row->home_words && b == plan->home_bank)
            range.first = plan->home.last + 1u;
        if (range.first <= range.last)
            add_step(p, RMG_TESTROM_MARCH, b, range);
    }
    return rmg_dead_add_roms(p->board, p->how, plan, p->error);
}

/* Would an output, or a write before all else, land in memory? */
static bool in_memory(const planning *p, const char *what, bool port, uint32_t at)
{
    const rmg_region *r = port ? NULL : rmg_board_region_at(p->board, rmg_board_word(p->board, at));

    if (!r || r->kind == RMG_REGION_RESERVED || r->kind == RMG_REGION_EMPTY)
        return false;
    refuse(p, "%s: address 0x%X lies in %s, which is memory; expected an output of the board", what,
           at, r->name);
    return true;
}

static bool touches_memory(const planning *p)
{
    const rmg_board_rom *how = p->how;
    bool touches =
        (how->serial.fitted && in_memory(p, "serial", how->serial.port, how->serial.at)) ||
        (how->lamp.fitted && in_memory(p, "lamp", how->lamp.port, how->lamp.at));

    for (uint32_t i = 0; !touches && how->screen.fitted && i < how->screen.rows; i++) {
        const uint32_t at = how->screen.at + i * how->screen.columns;
        const rmg_region *r = rmg_board_region_at(p->board, rmg_board_word(p->board, at));

        if (r && r->kind != RMG_REGION_RAM) /* tested memory may be shown: rows come after it */
            touches = in_memory(p, "screen", false, at);
    }
    for (unsigned i = 0; !touches && i < how->write_count; i++)
        touches = in_memory(p, "writes", how->writes[i].port, how->writes[i].at);
    return touches;
}

/* Does what a processor can do suit the board? */
static bool suits(const planning *p)
{
    const rmg_board *board = p->board;
    const rmg_testrom_row *row = &rmg_testrom_rows[p->how->processor];
    bool dram = false;

    if (row->word_bits ? board->word_bits != row->word_bits
                       : board->word_bits != 8 && board->word_bits != 16)
        return refuse(p, "a %s has a bus of %s bits, the board file has words of %u", row->name,
                      row->word_bits == 8    ? "8"
                      : row->word_bits == 16 ? "16"
                                             : "8 or 16",
                      board->word_bits);
    if (!p->how->slot_size && !p->how->load_size && p->how->socket_count != board->word_bits / 8u)
        return refuse(p, "a bus of %u bits takes its ROM from %u sockets, \"socket\" names %u",
                      board->word_bits, board->word_bits / 8u, p->how->socket_count);
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        dram |= board->sockets[board->placement.rules[r].socket].part &&
                board->sockets[board->placement.rules[r].socket].part->kind == RMG_PART_DRAM;
    if (dram && !board->refreshes && !row->refreshes)
        return refuse(p,
                      "the board refreshes its DRAMs by accesses alone, and while the ROM tells a "
                      "line there are none: what they hold would fade; test it through a link or "
                      "a prompt instead");
    return true;
}

static unsigned reads_of(const uint8_t *march)
{
    unsigned reads = 0;

    for (const uint8_t *e = march; *e; e += (*e & ~RMG_ORDER_MASK & 0xFFu) + 1u)
        for (unsigned i = 1; i <= (*e & ~RMG_ORDER_MASK & 0xFFu); i++)
            reads += !(e[i] & RMG_OP_WRITE);
    return reads;
}

/* Bytes of the chips of the ROM's sockets together. */
static bool size_of(const planning *p, uint32_t *size)
{
    *size = p->how->load_size ? p->how->load_size : p->how->slot_size;
    for (unsigned i = 0; i < p->how->socket_count; i++) {
        const rmg_socket *socket = &p->board->sockets[p->how->sockets[i]];

        if (!socket->part || socket->part->kind != RMG_PART_ROM || socket->part->width != 8)
            return refuse(p,
                          "%s is to hold the ROM, but the board file has no ROM of 8 data lines "
                          "there",
                          socket->name);
        *size += UINT32_C(1) << socket->part->address_lines;
    }
    if (p->how->offset >= *size)
        return refuse(p, "offset 0x%X lies behind the end of a chip of %u bytes", p->how->offset,
                      *size);
    return true;
}

/* Does a reset lead into a slot's ROM, where the board's own is off? */
static bool starts(const planning *p, uint32_t size)
{
    const rmg_board_rom *how = p->how;
    const rmg_testrom_row *row = &rmg_testrom_rows[how->processor];

    if (!how->slot_size || !*how->disables || !row->reset ||
        (row->reset >= how->origin && row->reset - how->origin < size))
        return true;
    return refuse(p,
                  "a %s starts at 0x%X, where the slot's ROM, 0x%X-0x%X, does not answer; expected "
                  "one that ends with the last address, or no \"disables\": the board's own ROM "
                  "starts it",
                  row->name, row->reset, how->origin, how->origin + size - 1u);
}

/* A row a step, one a bank for the step across them, and the last one. */
static bool fits_screen(const planning *p)
{
    const rmg_testrom_plan *plan = p->plan;
    const unsigned needs = (unsigned)plan->step_count + plan->bank_count + 1u;

    return !plan->screen.fitted || plan->screen.rows >= needs ||
           refuse(p, "the screen has %u rows, %u are needed", plan->screen.rows, needs);
}

/* Tells plans apart whose lines mean something else. */
static uint16_t id_of(const rmg_testrom_plan *plan)
{
    uint64_t id = plan->lines;

    for (unsigned i = 0; i < plan->bank_count; i++) {
        id = rmg_hash(id, plan->banks[i].range.first);
        id = rmg_hash(id, plan->banks[i].range.last);
        id = rmg_hash(id, plan->banks[i].bits);
    }
    for (unsigned i = 0; i < plan->step_count; i++)
        id = rmg_hash(id, (uint64_t)plan->steps[i].kind << 8 | plan->steps[i].bank);
    for (const uint8_t *code = plan->march; *code; code++)
        id = rmg_hash(id, *code);
    for (unsigned i = 0; i < plan->rom_count; i++) {
        const rmg_testrom_rom *rom = &plan->roms[i];

        id = rmg_hash(id, rom->range.first);
        id = rmg_hash(id, rom->range.last);
        for (rmg_addr n = 0; rom->known && n <= (rom->range.last - rom->range.first) >> 8; n++)
            id = rmg_hash(id, (uint64_t)plan->sums[rom->first_page + n].words << 16 |
                                  plan->sums[rom->first_page + n].sums);
    }
    return (uint16_t)id;
}

rmg_status rmg_dead_plan(const rmg_board *board, const rmg_board_rom *how, rmg_testrom_plan *plan,
                         rmg_testrom_left *left, unsigned *left_count, rmg_error *error)
{
    planning p = {.board = board, .how = how, .plan = plan, .left = left, .error = error};
    uint32_t size;

    memset(plan, 0, sizeof *plan);
    plan->home = (rmg_range){1, 0};
    rmg_error_none(error);
    if (left_count)
        *left_count = 0;
    if (!suits(&p) || touches_memory(&p) || !size_of(&p, &size) || !starts(&p, size))
        return RMG_ERR_ARGUMENT;
    if (reads_of(how->march) > 36u) {
        refuse(&p, "the march reads a word %u times; a line names up to 36 of them",
               reads_of(how->march));
        return RMG_ERR_ARGUMENT;
    }
    plan->processor = how->processor;
    plan->clock_hz = how->clock_hz;
    plan->origin = how->load_size ? how->load_at : how->origin + how->offset;
    plan->size = size - how->offset;
    plan->called = how->slot_size || how->load_size;
    plan->loaded = how->load_size != 0;
    plan->word_bits = board->word_bits;
    plan->byte_shift = board->word_bits == 16;
    plan->digits = rmg_testrom_rows[how->processor].digits;
    memcpy(plan->writes, how->writes, sizeof plan->writes);
    plan->write_count = how->write_count;
    plan->serial = how->serial;
    plan->lamp = how->lamp;
    plan->screen = how->screen;
    plan->baud = how->baud;
    plan->trim_ppm = how->trim_ppm;
    memcpy(plan->march, how->march, sizeof plan->march);
    plan->hold_ms = how->hold_ms;
    plan->lines = how->lines;
    plan->stop_after = how->stop_after;
    plan->then = how->then;
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_RAM)
            add_region(&p, &board->regions[i]);
    if (!plan->bank_count)
        refuse(&p, "the board file has no RAM that the ROM could test");
    else if (add_steps(&p) && fits_screen(&p) && left_count)
        *left_count = p.left_count;
    plan->id = id_of(plan);
    return error && error->what ? RMG_ERR_ARGUMENT : RMG_OK;
}
