/* Lines that switch beside one: each data and each address line of a bank in turn is the victim,
 * all others switch at once, the same way, while it stays at the other level or changes to it. What
 * is read or written then is held against the same access made once more, with no line that moves:
 * a line that touches another, or a dead one, is wrong both times, a disturbed one only the first.
 * The pattern is that of maximal aggressors: M. Cuviello, S. Dey, X. Bai, Y. Zhao, *Fault modeling
 * and simulation for crosstalk in system-on-chip interconnects*, ICCAD 1999. */
#include <glib.h>
#include <string.h>

#include "board/internal.h"
#include "runner.h"

#define WAYS       4u  /* still at 0, still at 1, rising, falling: while the others go against it */
#define LEAST      2u  /* failing tries after which a line is looked at closer: */
#define CLOSER     4u  /* so many times as many tries, */
#define SURE       5u  /* so many of which fail, */
#define MORE       4u  /* and so many times as many as where the others are still */
#define FAILS      16u /* that are wanted where it is found out which of the others it takes */
#define PART       4u /* where one is left out that matters, fewer than such a part of tries fail */
#define TRIES_MOST 65536u

/* One line that is tried, and how. */
typedef struct trial {
    runner *c;
    const rmg_target *to;
    size_t bank;
    bool address; /* lines of the address, else of the data */
    bool writing; /* the access that is disturbed is a write, else a read */
    unsigned way;
    uint64_t own, others; /* ones at the victim, and at those that switch */
    /* of data: two words; of addresses: the bits that all lines are 0 in */
    rmg_addr from, at, base;
    rmg_word bits; /* of the bank */
    bool apart; /* an address line: only what is its own doing fails, not that of one of the others
                 */
    rmg_status status;
} trial;

static rmg_word get(trial *t, rmg_addr address)
{
    rmg_word value = 0;

    if (t->status == RMG_OK)
        t->status = t->to->bus->read(t->to->context, address, &value);
    return value & t->bits;
}

/* Written twice: the second time no line moves. */
static void put(trial *t, rmg_addr address, rmg_word value)
{
    for (unsigned i = 0; i < 2 && t->status == RMG_OK; i++)
        t->status = t->to->bus->write(t->to->context, address, value);
}

static void put_once(trial *t, rmg_addr address, rmg_word value)
{
    if (t->status == RMG_OK)
        t->status = t->to->bus->write(t->to->context, address, value);
}

/* Levels before and after: the victim still or turning, the others against it. */
static void levels(const trial *t, uint64_t *before, uint64_t *after)
{
    const bool own_before = t->way == 1 || t->way == 3, own_after = t->way == 1 || t->way == 2;

    *before = (own_before ? t->own : 0) | (own_after ? t->others : 0);
    *after = (own_after ? t->own : 0) | (own_after ? 0 : t->others);
}

/* One try on the data lines. false: it cannot be told, the line is wrong while nothing moves. */
static bool try_data(trial *t, bool *failed)
{
    uint64_t before, after;
    rmg_word first, again;

    levels(t, &before, &after);
    put(t, t->at, (rmg_word)(t->writing ? after ^ t->own : after));
    put(t, t->from, (rmg_word)before);
    get(t, t->from);
    get(t, t->from);
    if (t->writing)
        put_once(t, t->at, (rmg_word)after);
    first = get(t, t->at);
    again = get(t, t->at);
    if (t->writing) { /* what was stored; then stored again, while nothing moves */
        first = again;
        put(t, t->at, (rmg_word)after);
        get(t, t->at);
        again = get(t, t->at);
    }
    *failed = ((first ^ after) & t->own) != 0;
    return !((again ^ after) & t->own);
}

static bool is_tested(const trial *t, rmg_addr address)
{
    const rmg_run *run = t->c->run;

    if (!rmg_where_holds(&run->board->bank_wheres[t->bank], address))
        return false;
    for (size_t i = 0; i < run->tested_count; i++)
        if (address >= run->tested[i].first && address <= run->tested[i].last)
            return true;
    return false;
}

/* The same on the address lines: the word that is meant, and the one that the victim at its other
 * level reaches, hold opposites; and so that no data line moves, the word before holds the same. */
static bool try_address(trial *t, bool *failed)
{
    const rmg_word data = (rmg_word)0x5555555555555555u & t->bits, other = ~data & t->bits;
    uint64_t before, after;
    rmg_addr from, at, beside;
    rmg_word first, again;

    levels(t, &before, &after);
    from = t->base | (rmg_addr)before;
    at = t->base | (rmg_addr)after;
    beside = at ^ (rmg_addr)t->own;
    put(t, at, t->writing ? other : data);
    if (beside != from) /* else nothing switches but the victim */
        put(t, beside, other);
    for (unsigned i = 0; t->apart && !t->writing && i < RMG_ADDR_BITS; i++)
        if ((t->others >> i & 1u) && is_tested(t, at ^ (rmg_addr)1 << i))
            put(t, at ^ (rmg_addr)1 << i, data); /* where it would lead if that were the victim */
    put(t, from, data);
    get(t, from);
    get(t, from);
    if (t->writing)
        put_once(t, at, data);
    first = get(t, at);
    again = get(t, at);
    if (t->writing) {
        first = t->apart && get(t, beside) != data ? data : again;
        put(t, at, data);
        get(t, at);
        again = get(t, at);
    }
    *failed = first != data;
    return again == data;
}

/* How many of so many tries fail; none where they cannot be told. */
static unsigned count_failing(trial *t, unsigned tries)
{
    unsigned failing = 0;

    for (unsigned i = 0; i < tries && t->status == RMG_OK; i++) {
        bool failed = false;

        if (!(t->address ? try_address(t, &failed) : try_data(t, &failed)))
            return 0;
        failing += failed;
        if (i % 64u == 0 && t->status == RMG_OK && !rmg_run_report(t->c))
            t->status = RMG_ERR_CANCELLED;
    }
    return t->status == RMG_OK ? failing : 0;
}

/* Are all words of the try among the tested ones? */
static bool reaches(const trial *t)
{
    trial each = *t;

    for (each.way = 0; each.way < WAYS; each.way++) {
        uint64_t before, after;

        levels(&each, &before, &after);
        if (!is_tested(t, t->base | (rmg_addr)before) || !is_tested(t, t->base | (rmg_addr)after) ||
            !is_tested(t, t->base | (rmg_addr)(after ^ t->own)))
            return false;
    }
    return true;
}

/* Leaves out lines that cannot switch with the others because what they would reach is not tested:
 * one of them, or the uppermost. */
static bool fit_lines(trial *t)
{
    const uint64_t all = t->others;

    if (!t->address || reaches(t))
        return true;
    for (unsigned i = 0; i < RMG_ADDR_BITS; i++) {
        t->others = all & ~((uint64_t)1 << i);
        if ((all >> i & 1u) && t->others && reaches(t))
            return true;
    }
    for (t->others = all; t->others;) {
        t->others &= ~((uint64_t)1 << (63u - (unsigned)__builtin_clzll(t->others)));
        if (t->others && reaches(t))
            return true;
    }
    return false;
}

/* Which of the others it takes: each is left out in turn, and stays out if it fails without it.
 * false: it is one of those that is disturbed, by this one. */
static bool narrow(trial *t, unsigned tries, unsigned failing)
{
    const unsigned wanted = failing < FAILS ? (unsigned)(FAILS / failing + 1u) * tries : tries;
    const unsigned more = wanted < TRIES_MOST ? wanted : TRIES_MOST;
    const unsigned expected = (unsigned)((uint64_t)failing * more / tries);

    t->apart = true;
    for (unsigned i = 0; i < 64 && t->status == RMG_OK; i++) {
        const uint64_t one = (uint64_t)1 << i;

        if (!(t->others & one) || t->others == one)
            continue;
        t->others &= ~one;
        if (count_failing(t, more) < MAX(expected / PART, 1u))
            t->others |= one;
    }
    return count_failing(t, more) >= MAX(expected / PART, 1u);
}

static void keep(rmg_run *run, const rmg_noisy_line *found)
{
    for (size_t i = 0; i < run->noisy_count; i++) {
        rmg_noisy_line *n = &run->noisy[i];

        if (n->bank != found->bank || n->address != found->address || n->line != found->line)
            continue;
        n->by |= found->by;
        n->ways |= found->ways;
        n->failed += found->failed;
        n->tries += found->tries;
        return;
    }
    run->noisy = g_renew(rmg_noisy_line, run->noisy, run->noisy_count + 1u);
    run->noisy[run->noisy_count++] = *found;
}

/* One line against all others of `lines`. */
static rmg_status try_line(trial t, uint64_t lines, unsigned line, unsigned tries)
{
    rmg_noisy_line found = {.bank = (uint8_t)t.bank, .address = t.address, .line = (uint8_t)line};
    unsigned most = 0;
    trial worst = t;

    t.own = (uint64_t)1 << line;
    t.others = lines & ~t.own;
    if (!t.others || !fit_lines(&t))
        return RMG_OK;
    for (unsigned n = 0; n < 2u * WAYS && t.status == RMG_OK; n++) {
        const unsigned closer = MIN(CLOSER * tries, TRIES_MOST);
        trial alone;
        unsigned failing;

        t.way = n / 2u;
        t.writing = n % 2u;
        if (count_failing(&t, tries) < LEAST)
            continue;
        failing = count_failing(&t, closer);
        alone = t;
        alone.others = 0;
        if (failing < SURE || failing <= MORE * (count_failing(&alone, closer) + 1u))
            continue;
        found.ways |= (uint8_t)(1u << t.way);
        if (failing > most) {
            most = failing;
            found.tries = closer;
            worst = t;
        }
    }
    if (t.status == RMG_OK && most) {
        const bool own = narrow(&worst, found.tries, most);

        t.status = worst.status;
        found.by = worst.others;
        found.failed = most;
        if (t.status == RMG_OK && own)
            keep(t.c->run, &found);
    }
    return t.status;
}

/* Lines of the address that feed chips of the bank. */
static rmg_addr fed_lines(const rmg_board *board, size_t bank)
{
    rmg_addr lines = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        for (uint8_t i = 0; rule->bank == bank && i < rule->address_lines; i++)
            if (rule->address_bits[i] < RMG_ADDR_BITS)
                lines |= (rmg_addr)1 << rule->address_bits[i];
    }
    return lines;
}

/* Two words of the bank whose addresses differ in one line; false: there are none. */
static bool find_words(trial *t, rmg_addr fed)
{
    rmg_where where;

    if (!rmg_run_wiring_where(t->c->run, t->bank, &where))
        return false;
    for (t->from = where.first; t->from < where.last && !is_tested(t, t->from);)
        t->from++;
    for (unsigned i = 0; i < RMG_ADDR_BITS && is_tested(t, t->from); i++) {
        t->at = t->from ^ (rmg_addr)1 << i;
        if ((fed >> i & 1u) && is_tested(t, t->at))
            return true;
    }
    return false;
}

/* Of the bank's bits those that hold what is written, at one of its words. */
static rmg_word sound_bits(trial *t)
{
    const rmg_word one = (rmg_word)0x5555555555555555u & t->bits, other = ~one & t->bits;
    rmg_word wrong;

    put(t, t->at, one);
    get(t, t->at);
    wrong = get(t, t->at) ^ one;
    put(t, t->at, other);
    get(t, t->at);
    return t->bits & ~(wrong | (get(t, t->at) ^ other));
}

static rmg_status try_bank(runner *c, const rmg_target *to, size_t bank, unsigned tries)
{
    const rmg_board *board = c->run->board;
    const rmg_where *where = &board->bank_wheres[bank];
    const rmg_addr fed = fed_lines(board, bank);
    trial t = {.c = c,
               .to = to,
               .bank = bank,
               .base = (where->first & ~(fed | where->mask)) | where->match,
               .status = RMG_OK};

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank)
            t.bits |= rmg_rule_bits(&board->placement.rules[r]);
    t.bits &= c->run->mask;
    if (!find_words(&t, fed))
        return RMG_OK;
    for (unsigned i = 0; i < RMG_WORD_BITS && t.status == RMG_OK; i++)
        if (t.bits >> i & 1u)
            t.status = try_line(t, t.bits, i, tries);
    t.address = true;
    t.bits = sound_bits(&t);
    for (unsigned i = 0; t.bits && i < RMG_ADDR_BITS && t.status == RMG_OK; i++)
        if (fed >> i & 1u)
            t.status = try_line(t, fed, i, tries);
    return t.status;
}

uint64_t rmg_step_first_accesses(const rmg_step *step, const rmg_board *board)
{
    const unsigned data = WAYS * (8u + 13u), address = WAYS * (10u + 15u); /* of one line, a try */
    uint64_t sum = 0;

    for (size_t b = 0; step->kind == RMG_STEP_NOISE && b < board->bank_count; b++) {
        rmg_word bits = 0;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            if (board->placement.rules[r].bank == b)
                bits |= rmg_rule_bits(&board->placement.rules[r]);
        if (board->banks[b].part->kind != RMG_PART_ROM)
            sum += (uint64_t)step->tries *
                   (data * (unsigned)__builtin_popcountll(bits) +
                    address * (unsigned)__builtin_popcountll(fed_lines(board, b)));
    }
    return sum;
}

rmg_status rmg_run_noise(runner *c, const rmg_target *to, const rmg_step *step)
{
    rmg_status status = RMG_OK;

    for (size_t b = 0; b < c->run->board->bank_count && status == RMG_OK; b++)
        status = try_bank(c, to, b, step->tries);
    return status;
}
