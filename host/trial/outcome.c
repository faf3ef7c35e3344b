/* What became of the failures, in a colleague's words: from the failing cells of both runs alone.
 */
#include <string.h>

#include "base/internal.h"
#include "internal.h"
#include "rimeglass/heard.h"

static const char *const names[] = {
    [RMG_OUTCOME_PASSED] = "nothing failed, before or after",
    [RMG_OUTCOME_WENT] = "it went with the chip",
    [RMG_OUTCOME_STAYED] = "it stayed at the socket",
    [RMG_OUTCOME_GONE] = "it is gone",
    [RMG_OUTCOME_UNCHANGED] = "nothing changed",
    [RMG_OUTCOME_ELSEWHERE] = "it fails elsewhere now",
    [RMG_OUTCOME_LESS] = "less fails than before",
    [RMG_OUTCOME_WORSE] = "more fails than before",
    [RMG_OUTCOME_HALF] = "half of the memory, or more, disappeared",
    [RMG_OUTCOME_OTHERWISE] = "the same sockets fail, in another way",
    [RMG_OUTCOME_SHOWN] = "what was done on purpose shows",
    [RMG_OUTCOME_WHOLE] = "it measures whole",
    [RMG_OUTCOME_OPEN] = "it measures open",
    [RMG_OUTCOME_SHORT] = "it measures a few ohms to a supply",
    [RMG_OUTCOME_CHIP_BAD] = "the lifted leg is wrong",
    [RMG_OUTCOME_PAD_BAD] = "the leg is right, and its pad is not",
};

const char *rmg_outcome_name(rmg_outcome outcome)
{
    return names[outcome];
}

uint64_t rmg_failing_at(const rmg_run *run, uint16_t socket)
{
    const rmg_placement *placement = &run->board->placement;
    uint64_t bits = 0;

    for (uint16_t r = 0; run->heard && r < placement->rule_count; r++) /* what was reported of it */
        if (placement->rules[r].socket == socket)
            bits += rmg_heard_of_socket(run, placement->rules[r].bank, socket);
    for (uint16_t r = 0; !run->heard && r < placement->rule_count; r++)
        if (placement->rules[r].socket == socket)
            bits += rmg_failset_bits(run->failures, &placement->rules[r].where,
                                     rmg_rule_bits(&placement->rules[r]));
    return bits;
}

/* Both sets of failing (address, bit), word by word. */
typedef struct both_sets {
    const rmg_failset *other;
    uint64_t both, alone;
} both_sets;

static void count_word(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    both_sets *c = context;
    rmg_word other_high, other_low;

    rmg_failset_at(c->other, address, &other_high, &other_low);
    c->both += (uint64_t)__builtin_popcountll((high | low) & (other_high | other_low));
    c->alone += (uint64_t)__builtin_popcountll((high | low) & ~(other_high | other_low));
}

/* The sockets that the changes emptied: a new list, [socket_count]. */
static bool *emptied_by(const rmg_board *board, const rmg_change *changes, size_t count)
{
    bool *emptied = g_new0(bool, board->socket_count + 1u);

    for (size_t i = 0; i < count; i++) {
        const rmg_change *c = &changes[i];

        if (c->kind == RMG_CHANGE_PULL && c->bank != RMG_NO_BANK) {
            for (uint16_t s = 0; s < board->socket_count; s++)
                emptied[s] |= rmg_board_bits(board, c->bank, s) != 0;
        } else if (c->kind == RMG_CHANGE_PULL) {
            emptied[c->socket] = true;
        } else if (c->kind == RMG_CHANGE_MOVE) {
            emptied[c->socket] = true;
            emptied[c->other] = false;
        } else if (c->kind == RMG_CHANGE_FIT || c->kind == RMG_CHANGE_REPLACE) {
            emptied[c->socket] = false;
        } else if (c->kind == RMG_CHANGE_SWAP) {
            const bool was = emptied[c->socket];

            emptied[c->socket] = emptied[c->other];
            emptied[c->other] = was;
        }
    }
    return emptied;
}

uint16_t rmg_chip_now(const rmg_change *changes, size_t count, uint16_t s)
{
    for (size_t i = 0; i < count && s != RMG_NO_SOCKET; i++) {
        const rmg_change *c = &changes[i];

        if (c->kind == RMG_CHANGE_SWAP && (c->socket == s || c->other == s))
            s = c->socket == s ? c->other : c->socket;
        else if (c->kind == RMG_CHANGE_MOVE && c->socket == s)
            s = c->other;
        else if ((c->kind == RMG_CHANGE_PULL || c->kind == RMG_CHANGE_FIT ||
                  c->kind == RMG_CHANGE_REPLACE) &&
                 c->socket == s)
            s = RMG_NO_SOCKET;
    }
    return s;
}

/* How many sockets are cut off by what was lifted. */
static size_t lifted_sockets(const rmg_board *board, const rmg_change *changes, size_t count)
{
    bool *cut = g_new0(bool, board->socket_count + 1u);
    size_t open, sockets = 0;

    rmg_lifted(board, changes, count, 0, cut, NULL, 0, &open);
    for (uint16_t s = 0; s < board->socket_count; s++)
        sockets += cut[s];
    g_free(cut);
    return sockets;
}

/* A chip that was cut off is told by the name of another one: whose names are those of a list that
 * somebody made of what the board told. */
static void find_name(rmg_trial *t)
{
    const rmg_board *board = t->of.after->board;
    bool *cut = g_new0(bool, board->socket_count + 1u);
    uint16_t is = RMG_NO_SOCKET, told = RMG_NO_SOCKET;
    size_t open, cuts = 0, shown = 0;

    rmg_lifted(board, t->of.changes->list, t->of.changes->count, t->of.done, cut, NULL, 0, &open);
    for (uint16_t s = 0; s < board->socket_count; s++) {
        cuts += cut[s];
        is = cut[s] ? s : is;
    }
    for (size_t i = 0; i < t->socket_count; i++)
        if (t->sockets[i].after && !t->sockets[i].before) {
            shown++;
            told = t->sockets[i].socket;
        }
    t->shown_as = t->shown = RMG_NO_SOCKET;
    if (t->outcome == RMG_OUTCOME_SHOWN && cuts == 1 && shown == 1) {
        t->shown_as = told;
        t->shown = is;
    }
    g_free(cut);
}

/* Did the chip of a socket go, or another come? */
static bool is_exchanged(const rmg_board *board, const rmg_change *changes, size_t count,
                         uint16_t socket)
{
    for (uint16_t o = 0; o < board->socket_count; o++)
        if ((o == socket) != (rmg_chip_now(changes, count, o) == socket))
            return true;
    return false;
}

/* `empty`: the sockets that the changes emptied. */
static rmg_outcome by_sockets(const rmg_board *board, const rmg_change *changes, size_t count,
                              const uint64_t *before, const uint64_t *after, bool same_set,
                              bool half, const bool *empty)
{
    bool any_before = false, any_after = false, moved = false, left = false, stays = false,
         stays_there = false, new_one = false, fewer = false, fails_now = false, emptied = false,
         same = true;
    size_t shown = 0, cut;

    for (uint16_t s = 0; s < board->socket_count; s++) {
        const uint16_t now = rmg_chip_now(changes, count, s);

        any_before |= before[s] > 0;
        fails_now |= after[s] > 0;
        if (before[s] && now != s && now != RMG_NO_SOCKET)
            moved |= after[now] && !before[now];
        if (empty[s]) {
            emptied = true;
            continue; /* an empty socket fails: that says nothing */
        }
        any_after |= after[s] > 0;
        same &= before[s] == after[s];
        stays |= before[s] && after[s];
        stays_there |= before[s] && after[s] && is_exchanged(board, changes, count, s);
        left |= before[s] && !after[s];
        fewer |= before[s] && after[s] && after[s] < before[s];
        if (!before[s] && after[s]) {
            bool expected = false;

            for (uint16_t o = 0; o < board->socket_count; o++)
                expected |= o != s && before[o] && rmg_chip_now(changes, count, o) == s;
            new_one |= !expected;
            shown += !expected;
        }
    }
    cut = lifted_sockets(board, changes, count);
    for (size_t i = 0; i < count; i++)
        if (changes[i].kind == RMG_CHANGE_PULL && (same_set || (!any_before && !fails_now)))
            return RMG_OUTCOME_UNCHANGED; /* what is pulled and missed by nobody did not contribute
                                           */
    for (size_t i = 0; i < count; i++)
        if (changes[i].kind == RMG_CHANGE_DISTURB && (new_one || (!any_before && any_after)))
            return RMG_OUTCOME_SHOWN;
    if (new_one && cut == shown) /* by whatever names */
        return RMG_OUTCOME_SHOWN;
    if (!any_before && !any_after)
        return RMG_OUTCOME_PASSED;
    if (half)
        return RMG_OUTCOME_HALF;
    if (!any_after)
        return RMG_OUTCOME_GONE;
    if (moved && !stays_there && !new_one) /* what fails elsewhere too is a fault of its own */
        return RMG_OUTCOME_WENT;
    if (new_one)
        return stays || moved || !any_before ? RMG_OUTCOME_WORSE : RMG_OUTCOME_ELSEWHERE;
    if (moved) /* some went, some stayed */
        return RMG_OUTCOME_OTHERWISE;
    for (size_t i = 0; i < count; i++) {
        const rmg_change *c = &changes[i];
        const bool of_socket = c->kind == RMG_CHANGE_SWAP || c->kind == RMG_CHANGE_MOVE ||
                               c->kind == RMG_CHANGE_FIT || c->kind == RMG_CHANGE_REPLACE ||
                               c->kind == RMG_CHANGE_RESEAT;

        if (of_socket && c->socket != RMG_NO_SOCKET && !empty[c->socket] &&
            ((before[c->socket] && after[c->socket]) ||
             (c->other != RMG_NO_SOCKET && before[c->other] && after[c->other])))
            return RMG_OUTCOME_STAYED;
    }
    if (same_set || (emptied && same))
        return RMG_OUTCOME_UNCHANGED;
    return left || fewer ? RMG_OUTCOME_LESS : RMG_OUTCOME_OTHERWISE;
}

rmg_outcome rmg_outcome_by_sockets(const rmg_board *board, const rmg_change *changes, size_t count,
                                   const uint64_t *before, const uint64_t *after, bool same_set,
                                   bool half)
{
    bool *empty = emptied_by(board, changes, count);
    const rmg_outcome outcome =
        by_sockets(board, changes, count, before, after, same_set, half, empty);

    g_free(empty);
    return outcome;
}

/* Is a socket of the bank empty by the changes? */
static bool is_bank_emptied(const rmg_board *board, const rmg_changes *changes, uint8_t bank)
{
    bool *empty = emptied_by(board, changes->list, changes->count), any = false;

    for (uint16_t s = 0; s < board->socket_count; s++)
        any |= rmg_board_bits(board, bank, s) && empty[s];
    g_free(empty);
    return any;
}

/* Do at least half of the tested words fail in all their bits now, and did not before? Not where a
 * chip of theirs was taken out. */
static bool half_gone(const rmg_run *before, const rmg_run *after, const rmg_changes *changes)
{
    uint64_t gone = 0;

    for (size_t b = 0; b < after->board->bank_count; b++) {
        const rmg_word bits = rmg_board_bits(after->board, (uint8_t)b, RMG_NO_SOCKET);
        const unsigned width = (unsigned)__builtin_popcountll(bits);
        const rmg_where *where = &after->board->bank_wheres[b];
        const uint64_t words = after->bank_words[b];

        if (words && width > 1 && !is_bank_emptied(after->board, changes, (uint8_t)b) &&
            rmg_failset_bits(after->failures, where, bits) == words * width &&
            rmg_failset_bits(before->failures, where, bits) < words * width)
            gone += words;
    }
    return gone && gone * 2u >= after->tested_words;
}

/* What failed in no cell: lines that the check of the wiring found, and a march does not see. */
static rmg_outcome of_lines(const rmg_trial *t)
{
    const bool before = rmg_run_failed(t->of.before), after = rmg_run_failed(t->of.after);

    for (size_t i = 0; i < t->socket_count; i++)
        if (t->sockets[i].after) /* of what was emptied, at least */
            return t->outcome;
    if (t->outcome == RMG_OUTCOME_GONE)
        return after ? RMG_OUTCOME_LESS : RMG_OUTCOME_GONE;
    if (t->outcome != RMG_OUTCOME_PASSED || (!before && !after))
        return t->outcome;
    return !after ? RMG_OUTCOME_GONE : before ? RMG_OUTCOME_UNCHANGED : RMG_OUTCOME_WORSE;
}

/* So many failing bits, and so many: is that chance, of what comes and goes? Counts of events that
 * have nothing to do with each other differ by more than three roots of their sum once in 400. */
static bool by_chance(uint64_t before, uint64_t after)
{
    const double apart = (double)before - (double)after;

    return before && after && apart * apart <= 9.0 * (double)(before + after);
}

/* Of what comes and goes the same sockets fail, about as often: that is no change. */
static bool as_often(const rmg_trial *t)
{
    bool same =
        t->socket_count && (!rmg_run_repeats(t->of.before) || !rmg_run_repeats(t->of.after));

    for (size_t i = 0; i < t->socket_count && same; i++)
        same = by_chance(t->sockets[i].before, t->sockets[i].after);
    return same;
}

void rmg_trial_outcome(rmg_trial *t)
{
    const rmg_board *board = t->of.after->board;
    uint64_t *before = g_new0(uint64_t, board->socket_count + 1u);
    uint64_t *after = g_new0(uint64_t, board->socket_count + 1u);
    GArray *sockets = g_array_new(FALSE, TRUE, sizeof(rmg_trial_socket));
    both_sets old = {.other = t->of.after->failures}, new = {.other = t->of.before->failures};

    rmg_failset_each(t->of.before->failures, count_word, &old);
    rmg_failset_each(t->of.after->failures, count_word, &new);
    t->both = old.both;
    t->gone = old.alone;
    t->come = new.alone;
    t->same_set = !t->gone && !t->come && t->both;
    t->rate_before = rmg_rate_of_passes(t->of.before);
    t->rate_after = rmg_rate_of_passes(t->of.after);
    for (uint16_t s = 0; s < board->socket_count; s++) {
        before[s] = rmg_failing_at(t->of.before, s);
        after[s] = rmg_failing_at(t->of.after, s);
        if (before[s] || after[s]) {
            const rmg_trial_socket one = {s, before[s], after[s]};

            g_array_append_val(sockets, one);
        }
    }
    t->socket_count = sockets->len;
    t->sockets = rmg_array_take(sockets);
    t->outcome = rmg_outcome_by_sockets(
        board, t->of.changes->count ? t->of.changes->list + t->of.done : NULL,
        t->of.changes->count - t->of.done, before, after, t->same_set,
        half_gone(t->of.before, t->of.after, t->of.changes));
    t->outcome = of_lines(t);
    if ((t->outcome == RMG_OUTCOME_LESS || t->outcome == RMG_OUTCOME_OTHERWISE) && as_often(t))
        t->outcome = RMG_OUTCOME_UNCHANGED;
    find_name(t);
    g_free(before);
    g_free(after);
}
