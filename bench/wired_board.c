/* Each access settles in a few rounds: what drives a net depends on the levels of others. */
#include "wired_board.h"

#include <stdlib.h>
#include <string.h>

#define ROUNDS   6u  /* a loop that swings is stopped there */
#define AT_MOST  64u /* nets of a sort */
#define DRIVER   24u /* strength of what drives the address lines, selects and strobes low */
#define DRIVER_1 14u /* ... and high */

typedef struct chip {
    const rmg_rule *rule;
    uint8_t *cells;    /* [width << lines], one a byte */
    uint8_t low, high; /* how strong it pulls */
} chip;

/* The nets of an access, one bit each. */
typedef struct levels {
    uint64_t address, data, select; /* of a select: high is not chosen */
    unsigned write;                 /* high: not a write */
} levels;

struct wired_board {
    const rmg_board *board;
    wired_fault fault;
    chip *chips; /* by rule */
    unsigned chip_count;
    unsigned undriven;          /* an rmg_undriven */
    uint64_t mask, bus, before; /* levels of the data lines now, and of the address lines before */
    unsigned bank_before;       /* that answered last */
    diag_dice dice;
};

wired_board *wired_board_new(const diag_board *of, const wired_fault *fault, diag_dice dice)
{
    wired_board *b = calloc(1, sizeof *b);
    const rmg_placement *placement = &of->board->placement;

    if (!b)
        exit(2);
    *b = (wired_board){.board = of->board,
                       .fault = *fault,
                       .chip_count = placement->rule_count,
                       .undriven = of->undriven,
                       .mask = ~UINT64_C(0) >> (64u - of->board->word_bits),
                       .bank_before = RMG_NO_BANK,
                       .dice = dice};
    b->chips = calloc(b->chip_count, sizeof *b->chips);
    for (unsigned i = 0; i < b->chip_count; i++) {
        chip *c = &b->chips[i];
        const size_t cells = (size_t)placement->rules[i].width << placement->rules[i].address_lines;

        c->rule = &placement->rules[i];
        c->low = (uint8_t)(10u + diag_roll(&b->dice, 8));
        c->high = (uint8_t)(4u + diag_roll(&b->dice, 8));
        c->cells = malloc(cells);
        for (size_t k = 0; k < cells; k++)
            c->cells[k] = diag_roll(&b->dice, 2) != 0;
    }
    return b;
}

void wired_board_free(wired_board *b)
{
    for (unsigned i = 0; i < b->chip_count; i++)
        free(b->chips[i].cells);
    free(b->chips);
    free(b);
}

static bool chosen(const wired_board *b, unsigned bank, uint64_t address)
{
    const rmg_where *w = &b->board->bank_wheres[bank];

    return address >= w->first && address <= w->last && (address & w->mask) == w->match;
}

/* A number that is the same for a cell each time. */
static uint64_t of_cell(uint64_t of, uint64_t cell)
{
    uint64_t n = (of + 1u) * UINT64_C(0x9E3779B97F4A7C15) ^ cell * UINT64_C(0xC2B2AE3D27D4EB4F);

    n ^= n >> 29;
    n *= UINT64_C(0xBF58476D1CE4E5B9);
    return n ^ n >> 32;
}

static uint64_t cell_at(const wired_board *b, const chip *c, uint64_t address)
{
    const rmg_part *part = b->board->sockets[c->rule->socket].part;
    uint64_t cell = 0;

    for (unsigned k = 0; k < c->rule->address_lines; k++) {
        const unsigned from = b->fault.kind == WIRED_ONE_HALF && b->fault.bank == c->rule->bank &&
                                      k >= part->row_lines
                                  ? k - part->row_lines
                                  : k;

        cell |= (address >> c->rule->address_bits[from] & 1u) << k;
    }
    return cell;
}

/* What a cell gives. */
static unsigned given(wired_board *b, unsigned n, uint64_t cell, unsigned line)
{
    const chip *c = &b->chips[n];
    const wired_fault *f = &b->fault;
    const uint64_t number = of_cell(n, cell * c->rule->width + line);
    const unsigned held = c->cells[cell * c->rule->width + line];

    if (f->kind == WIRED_SAG && f->bank == c->rule->bank && number % f->strength == 0 &&
        diag_roll(&b->dice, 8)) /* it holds what it held, or one level only */
        return (unsigned)(number >> 40) & 1u;
    if (f->chip == n && f->kind == WIRED_HALF_CHIP &&
        (cell >> (c->rule->address_lines - 1u) & 1u) == f->level)
        return (unsigned)(number >> 33) & 1u;
    if (f->chip == n && f->kind == WIRED_TWO_DEFECTS &&
        ((cell & 15u) == f->strength % 16u || number % 97u == 0))
        return f->level;
    return held;
}

/* A net's level, from what pulls it; `idle` where nothing does. */
static unsigned level_of(unsigned low, unsigned high, unsigned idle)
{
    return low == high && !low ? idle : high > low;
}

/* How strongly a net is pulled. */
typedef struct pulls {
    unsigned low[AT_MOST], high[AT_MOST];
} pulls;

/* Everything that is driven on the nets of an access. */
typedef struct drivers {
    pulls address, data, select, write;
} drivers;

static unsigned *pull(drivers *d, wired_net net, unsigned level)
{
    pulls *p = net.sort == WIRED_ADDRESS  ? &d->address
               : net.sort == WIRED_DATA   ? &d->data
               : net.sort == WIRED_SELECT ? &d->select
                                          : &d->write;

    return level ? &p->high[net.index] : &p->low[net.index];
}

static void drive(drivers *d, wired_sort sort, unsigned index, unsigned level)
{
    *pull(d, (wired_net){sort, index}, level) += level ? DRIVER_1 : DRIVER;
}

/* The chips that are selected and not written to pull their data lines. */
static void drive_outputs(wired_board *b, const levels *now, bool reading, drivers *d)
{
    for (unsigned n = 0; n < b->chip_count; n++) {
        const chip *c = &b->chips[n];
        const unsigned bank = c->rule->bank;
        const wired_fault *f = &b->fault;
        uint64_t cell;

        if (now->select >> bank & 1u || !now->write || !reading)
            continue;
        if ((f->bank == bank && (f->kind == WIRED_NO_READS || f->kind == WIRED_WRITES_ALL)) ||
            (f->kind == WIRED_WRITES_CHIP && f->chip == n))
            continue;
        if (f->kind == WIRED_LATE_SELECT && f->bank == bank && b->bank_before != bank)
            continue;
        cell = cell_at(b, c, now->address);
        for (unsigned line = 0; line < c->rule->width; line++) {
            const unsigned bit = c->rule->data_bits[line], level = given(b, n, cell, line);
            const bool falls = !level && b->bus >> bit & 1u;

            if (falls && f->kind == WIRED_WEAK_OUTPUT && f->chip == n)
                continue; /* the charge of the line stays for now */
            *pull(d, (wired_net){WIRED_DATA, bit}, level) += level ? c->high : c->low;
        }
    }
}

static void resolve(const wired_board *b, const drivers *d, levels *to)
{
    const rmg_board *board = b->board;

    for (unsigned i = 0; i < board->address_bits; i++)
        to->address |= (uint64_t)level_of(d->address.low[i], d->address.high[i], 1) << i;
    for (unsigned i = 0; i < board->word_bits; i++) {
        const unsigned idle = b->undriven == RMG_UNDRIVEN_HIGH  ? 1
                              : b->undriven == RMG_UNDRIVEN_LOW ? 0
                                                                : (unsigned)(b->bus >> i & 1u);

        to->data |= (uint64_t)level_of(d->data.low[i], d->data.high[i], idle) << i;
    }
    for (unsigned i = 0; i < board->bank_count; i++)
        to->select |= (uint64_t)level_of(d->select.low[i], d->select.high[i], 1) << i;
    to->write = level_of(d->write.low[0], d->write.high[0], 1);
}

/* The address as it leaves the processor's buffers. */
static uint64_t sent(wired_board *b, uint64_t address)
{
    const uint64_t changed = address ^ b->before;

    b->before = address;
    if (b->fault.kind == WIRED_BOUNCE &&
        (unsigned)__builtin_popcountll(changed) >= b->fault.strength && diag_roll(&b->dice, 3) == 0)
        address ^= UINT64_C(1) << b->fault.net.index;
    return address;
}

/* The levels of an access; `value`: what is written. */
static levels settle(wired_board *b, uint64_t address, bool reading, uint64_t value)
{
    const wired_fault *f = &b->fault;
    levels now = {.address = address, .data = b->bus, .select = ~UINT64_C(0), .write = reading};

    for (unsigned round = 0; round < ROUNDS; round++) {
        drivers d = {0};
        levels next = {0};

        for (unsigned i = 0; i < b->board->address_bits; i++)
            drive(&d, WIRED_ADDRESS, i, (unsigned)(address >> i & 1u));
        for (unsigned i = 0; i < b->board->bank_count; i++)
            drive(&d, WIRED_SELECT, i,
                  !(chosen(b, i, address) ||
                    (f->kind == WIRED_FIGHT && f->bank2 == i && chosen(b, f->bank, address))));
        drive(&d, WIRED_WRITE, 0, reading);
        for (unsigned i = 0; !reading && i < b->board->word_bits; i++)
            drive(&d, WIRED_DATA, i, (unsigned)(value >> i & 1u));
        drive_outputs(b, &now, reading, &d);
        if (f->kind == WIRED_PULL)
            *pull(&d, f->net, f->level) += f->strength;
        if (f->kind == WIRED_TOUCH)
            for (unsigned level = 0; level < 2; level++) {
                unsigned *here = pull(&d, f->net, level), *there = pull(&d, f->other, level);

                *here = *there = *here + *there;
            }
        resolve(b, &d, &next);
        if (memcmp(&next, &now, sizeof now) == 0)
            break;
        now = next;
    }
    return now;
}

/* What the selected chips take in, in a write or because their write pin is low. */
static void take_in(wired_board *b, const levels *now, bool reading)
{
    const wired_fault *f = &b->fault;

    for (unsigned n = 0; n < b->chip_count; n++) {
        const chip *c = &b->chips[n];
        const unsigned bank = c->rule->bank;
        const bool low = !now->write || (f->kind == WIRED_WRITES_ALL && f->bank == bank) ||
                         (f->kind == WIRED_WRITES_CHIP && f->chip == n);
        const uint64_t cell = cell_at(b, c, now->address);

        if (now->select >> bank & 1u || !low ||
            (f->kind == WIRED_NO_WRITES && f->bank == bank && !reading) ||
            (f->kind == WIRED_LATE_SELECT && f->bank == bank && b->bank_before != bank))
            continue;
        for (unsigned line = 0; line < c->rule->width; line++)
            c->cells[cell * c->rule->width + line] = now->data >> c->rule->data_bits[line] & 1u;
    }
    for (unsigned i = 0; i < b->board->bank_count; i++)
        if (!(now->select >> i & 1u))
            b->bank_before = i;
}

/* Of the outputs of a bank that fall together the weaker ones do not come down. */
static uint64_t too_many_fall(wired_board *b, const levels *now)
{
    const wired_fault *f = &b->fault;
    const uint64_t fall = b->bus & ~now->data;
    uint64_t late = 0;

    if (f->kind != WIRED_SWITCHING || now->select >> f->bank & 1u ||
        (unsigned)__builtin_popcountll(fall) * 4u < b->board->word_bits * 3u)
        return 0;
    for (unsigned n = 0; n < b->chip_count; n++)
        for (unsigned line = 0; line < b->chips[n].rule->width; line++)
            if (b->chips[n].rule->bank == f->bank && b->chips[n].low < 14 &&
                diag_roll(&b->dice, 4) == 0)
                late |= UINT64_C(1) << b->chips[n].rule->data_bits[line];
    return fall & late;
}

static rmg_status access_word(wired_board *b, rmg_addr address, bool reading, uint64_t value,
                              uint64_t *read)
{
    levels now = settle(b, sent(b, address), reading, value);

    if (b->fault.kind == WIRED_SLOW_LINE) /* a level that rises is late by one access */
        now.data &= ~((now.data & ~b->bus) & UINT64_C(1) << b->fault.net.index);
    now.data |= reading ? too_many_fall(b, &now) : 0;
    take_in(b, &now, reading);
    b->bus = now.data & b->mask;
    if (b->fault.kind == WIRED_SLOW_LINE || b->fault.kind == WIRED_WEAK_OUTPUT) {
        const wired_fault_kind kind = b->fault.kind;

        b->fault.kind = WIRED_FAULTS; /* afterwards the lines get where they should */
        b->bus = settle(b, address, reading, value).data & b->mask;
        b->fault.kind = kind;
    }
    if (read)
        *read = now.data & b->mask;
    return RMG_OK;
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    uint64_t read = 0;
    const rmg_status status = access_word(context, address, true, 0, &read);

    *value = (rmg_word)read;
    return status;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    return access_word(context, address, false, value, NULL);
}

const rmg_bus wired_board_bus = {
    .version = RMG_BUS_VERSION, .read = read_word, .write = write_word};
