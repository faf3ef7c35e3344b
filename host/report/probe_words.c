/* What a probe's bits say, in sentences: first the sockets, then what is missing to be sure. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "internal.h"
#include "probe/internal.h"
#include "board/internal.h"

/* How a bit does in one bank: the addresses at which it was wrong and right. */
typedef struct bank_bit {
    unsigned wrong, right;
    bool mixed; /* wrong in different ways at different addresses */
    const rmg_probe_bit *first;
} bank_bit;

static bank_bit look(const rmg_probe *probe, uint8_t bank, uint8_t bit)
{
    bank_bit b = {0, 0, false, NULL};

    for (size_t i = 0; i < probe->bit_count; i++) {
        const rmg_probe_bit *one = &probe->bits[i];

        if (!one->placed || one->place.bank != bank || one->bit != bit)
            continue;
        if (!rmg_bit_is_wrong(one->verdict)) {
            b.right++;
            continue;
        }
        b.mixed |= b.first && b.first->verdict != one->verdict;
        if (!b.first)
            b.first = one;
        b.wrong++;
    }
    return b;
}

static void say(GPtrArray *advice, gchar *sentence)
{
    g_ptr_array_add(advice, sentence);
}

/* Is every bit that the bank holds wrong at each of its probed addresses? */
static bool bank_dead(const rmg_probe *probe, uint8_t bank)
{
    unsigned wrong = 0, sockets = 0;

    for (size_t i = 0; i < probe->bit_count; i++)
        if (probe->bits[i].placed && probe->bits[i].place.bank == bank) {
            if (!rmg_bit_is_wrong(probe->bits[i].verdict))
                return false;
            wrong++;
            sockets += probe->bits[i].place.socket != probe->bits[0].place.socket;
        }
    return wrong > 1 && sockets;
}

/* Banks in which the bit was looked at, and in which of them it is wrong everywhere. */
static unsigned banks_of(const rmg_probe *probe, uint8_t bit, unsigned *wrong)
{
    unsigned banks = 0;

    *wrong = 0;
    for (uint8_t b = 0; b < probe->board->bank_count; b++) {
        const bank_bit one = look(probe, b, bit);

        banks += one.wrong || one.right;
        *wrong += one.wrong && !one.right;
    }
    return banks;
}

/* What a wrong bit does, for the first line: no more than holds at every address looked at. */
static gchar *what_it_does(const rmg_probe *probe, const bank_bit *b)
{
    char at[40];

    if (b->mixed)
        return g_strdup("wrong in different ways at different addresses");
    if (!b->right)
        return g_strdup(rmg_bit_verdict_text(b->first->verdict));
    return g_strdup_printf("wrong at %s, right elsewhere",
                           rmg_board_address_text(probe->board, b->first->address, at, sizeof at));
}

static void advise_socket(const rmg_probe *probe, uint8_t bank, uint8_t bit, GPtrArray *first,
                          GPtrArray *more)
{
    const rmg_board *board = probe->board;
    const bank_bit b = look(probe, bank, bit);
    gchar *does;
    char at[40];

    if (!b.wrong)
        return;
    does = what_it_does(probe, &b);
    say(first, g_strdup_printf("%s (D%u of %s: %s)", board->sockets[b.first->place.socket].name,
                               bit, board->banks[bank].called, does));
    g_free(does);
    rmg_board_address_text(board, b.first->address, at, sizeof at);
    if (b.right)
        say(more, g_strdup_printf("D%u of %s is wrong at %s and right at another address: a cell, "
                                  "row or column of %s, not its output.",
                                  bit, board->banks[bank].called, at,
                                  board->sockets[b.first->place.socket].name));
    if (b.first->verdict == RMG_BIT_NOT_STUCK)
        say(more, g_strdup_printf("At %s the values contradict a stuck D%u: it was right at times "
                                  "or wrong both ways. An intermittent contact, a short to another "
                                  "line, noise, or an address that is not decoded.",
                                  at, bit));
}

/* Sockets of the bank that are wrong somewhere; of them, those at the bits in `lines` apart. */
static gchar *wrong_sockets(const rmg_probe *probe, rmg_word lines, unsigned *count)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);

    for (uint8_t bank = 0; bank < probe->board->bank_count; bank++)
        for (uint8_t bit = 0; bit < probe->board->word_bits; bit++) {
            const bank_bit b = look(probe, bank, bit);

            if (b.wrong && (lines >> bit & 1u))
                g_ptr_array_add(names, g_strdup(probe->board->sockets[b.first->place.socket].name));
        }
    *count = names->len;
    return rmg_join(names);
}

/* Lines first, banks that are wrong in every bit by their select, then sockets bank by bank. */
static void advise_wrong(const rmg_probe *probe, GPtrArray *advice)
{
    GPtrArray *first = g_ptr_array_new_with_free_func(g_free), *more = g_ptr_array_new();
    gchar *joined, *sockets;
    rmg_word lines = 0;
    unsigned count, before;

    for (uint8_t bit = 0; bit < probe->board->word_bits; bit++) {
        unsigned wrong;
        const unsigned banks = banks_of(probe, bit, &wrong);

        if (banks > 1 && wrong == banks)
            lines |= (rmg_word)1 << bit;
    }
    if (lines) {
        joined = rmg_name_bits(lines);
        sockets = wrong_sockets(probe, lines, &count);
        say(first, g_strdup_printf("data line%s %s", lines & (lines - 1u) ? "s" : "", joined));
        say(more,
            g_strdup_printf(
                "%s %s wrong in every bank looked at: the data line itself, its "
                "buffer, or any chip that holds it is likelier than a bad chip in each bank (%s).",
                joined, lines & (lines - 1u) ? "are" : "is", sockets));
        g_free(sockets);
        g_free(joined);
    }
    for (uint8_t b = 0; b < probe->board->bank_count; b++) {
        if (bank_dead(probe, b)) {
            say(first, g_strdup_printf("the select, strobes and supply of %s (every bit of it is "
                                       "wrong; no single chip)",
                                       probe->board->banks[b].called));
            continue;
        }
        before = first->len;
        for (uint8_t bit = 0; bit < probe->board->word_bits; bit++)
            if (!(lines >> bit & 1u))
                advise_socket(probe, b, bit, first, more);
        if (first->len >= before + 3u)
            say(more, g_strdup_printf("%u bits of %s at once: a shared cause (select, "
                                      "strobes, supply, refresh, a neighbouring short) is likelier "
                                      "than so many bad chips.",
                                      first->len - before, probe->board->banks[b].called));
    }
    joined = rmg_join(first);
    say(advice, g_strdup_printf("Look at %s.", joined));
    g_free(joined);
    for (guint i = 0; i < more->len; i++)
        say(advice, more->pdata[i]);
    g_ptr_array_free(more, TRUE);
}

/* Bits at this address that were never written both ways. */
static void advise_missing(const rmg_probe *probe, const rmg_probe_bit *bits, GPtrArray *advice)
{
    rmg_word one_way = 0;
    char at[40];
    gchar *names;

    for (uint8_t b = 0; b < probe->board->word_bits; b++)
        if (bits[b].verdict == RMG_BIT_RIGHT || bits[b].verdict == RMG_BIT_WRONG_HIGH ||
            bits[b].verdict == RMG_BIT_WRONG_LOW)
            one_way |= (rmg_word)1 << b;
    if (!one_way)
        return;
    names = rmg_name_bits(one_way);
    say(advice,
        g_strdup_printf("At %s never written both ways: %s. Try the missing values, ideally all "
                        "zeros and all ones.",
                        rmg_board_address_text(probe->board, bits->address, at, sizeof at), names));
    g_free(names);
}

static void advise_values(const rmg_probe *probe, GPtrArray *advice)
{
    const size_t step = probe->board->word_bits;

    for (size_t i = 0; i < probe->bit_count; i += step)
        advise_missing(probe, &probe->bits[i], advice);
    if (probe->bit_count == step && probe->wrong)
        say(advice,
            g_strdup("One address only: try a second in the same bank (is it the whole chip "
                     "or a cell?) and one in another (is it the line?)."));
}

static void advise_unplaced(const rmg_probe *probe, GPtrArray *advice)
{
    char at[40];
    rmg_addr told = 0;
    bool any = false;

    for (size_t i = 0; i < probe->bit_count; i++) {
        const rmg_probe_bit *b = &probe->bits[i];

        if (b->placed || (any && told == b->address))
            continue;
        told = b->address;
        any = true;
        say(advice, g_strdup_printf("At %s no socket of the board file holds D%u: what is read "
                                    "there belongs to no known chip.",
                                    rmg_board_address_text(probe->board, b->address, at, sizeof at),
                                    b->bit));
    }
}

char **rmg_probe_advice(const rmg_probe *probe)
{
    GPtrArray *advice = g_ptr_array_new();
    bool placed_wrong = false;

    for (size_t i = 0; i < probe->bit_count; i++)
        placed_wrong |= probe->bits[i].placed && rmg_bit_is_wrong(probe->bits[i].verdict);
    if (placed_wrong)
        advise_wrong(probe, advice);
    else if (probe->wrong)
        say(advice,
            g_strdup("Something is wrong, but at an address where the board file has no socket."));
    else
        say(advice, g_strdup(probe->pair_count ? "Every value was read back as written."
                                               : "No value was written and read."));
    advise_unplaced(probe, advice);
    advise_values(probe, advice);
    g_ptr_array_add(advice, NULL);
    return (char **)g_ptr_array_free(advice, FALSE);
}
