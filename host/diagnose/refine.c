/* From the core's findings to finer ones: what closer looks, bank pairs and passes add. Knows no
 * words.
 *
 * Invariant: every failing bit of the tally stays with exactly one kind of finding. A finer finding
 * therefore takes away the coarse ones that it explains (remove_within) before it is added; what it
 * does not explain stays where it was. The order in rmg_refine matters: causes that several chips
 * share come first, so that no chip is blamed for what they explain; branches of traced lines come
 * last, for they are made of the findings at sockets that are left. */
#include "moments.h"
#include "share.h"

#define DEAD 90u /* in a hundred words: fewer fail where not all of a bit is dead */

typedef struct refiner {
    const rmg_run *run;
    const rmg_board *board;
    GArray *list;                  /* of rmg_finding */
    rmg_word bits[UINT8_MAX + 1u]; /* data bits of each bank; 0 of RMG_NO_BANK */
} refiner;

static rmg_finding *at(refiner *r, guint i)
{
    return &g_array_index(r->list, rmg_finding, i);
}

static rmg_word bits_of_bank(const refiner *r, uint8_t bank)
{
    return r->bits[bank];
}

/* Takes away findings of this kind that lie in the bank and only in these bits. */
static void remove_within(refiner *r, rmg_finding_kind kind, uint8_t bank, rmg_word bits)
{
    for (guint i = r->list->len; i-- > 0;) {
        rmg_finding *f = at(r, i);

        if (f->kind != kind || f->bank != bank || !(f->bits & bits))
            continue;
        if (f->bits & ~bits)
            f->bits &= ~bits;
        else
            g_array_remove_index(r->list, i);
    }
}

static void add(refiner *r, rmg_finding f, uint8_t bank, rmg_word bits)
{
    f.bank = bank;
    f.bits = bits;
    f.low = f.high = f.opposite = 0;
    f.lane = RMG_NO_BANK;
    f.point = RMG_NO_POINT;
    for (uint8_t b = 0; b < r->board->bank_count && b < RMG_TALLY_BANKS; b++)
        for (uint8_t i = 0; (bank == RMG_NO_BANK || bank == b) && i < RMG_WORD_BITS; i++)
            if ((bits >> i) & 1u) {
                f.failed_high += r->run->tally.bits[b][i].high;
                f.failed_low += r->run->tally.bits[b][i].low;
            }
    g_array_append_val(r->list, f);
}

/* Words of a bank that read one level at each of these bits, whatever was written. */
typedef struct kept_words {
    const rmg_where *where;
    rmg_word bits;
    uint64_t words;
} kept_words;

static void count_kept(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    kept_words *k = context;

    k->words += rmg_where_holds(k->where, address) && ((high ^ low) & k->bits) == k->bits;
}

/* Bits of a finding that hold what no write changes. The wiring check looks at few words: where
 * every word of the passes keeps what it holds, at most bits some a 0 and some a 1, a bit that was
 * the same in all of these few does so, too. */
static rmg_word fixed_bits(const refiner *r, const rmg_finding *f)
{
    const rmg_word fixed =
        f->bank == RMG_NO_BANK ? 0 : r->run->data_details[f->bank].fixed & f->bits;
    kept_words k = {.bits = f->bits};
    rmg_word both = 0;

    if (fixed == f->bits || f->bank >= RMG_TALLY_BANKS ||
        (f->kind != RMG_FINDING_DATA_AT_SOCKET && f->kind != RMG_FINDING_BANK_SILENT))
        return fixed;
    for (unsigned i = 0; i < RMG_WORD_BITS; i++)
        if (r->run->tally.bits[f->bank][i].high && r->run->tally.bits[f->bank][i].low)
            both |= f->bits & (rmg_word)1 << i;
    if (2 * rmg_ones_of(both) < rmg_ones_of(f->bits))
        return fixed;
    k.where = &r->board->bank_wheres[f->bank];
    rmg_failset_each(r->run->failures, count_kept, &k);
    return k.words && k.words == r->run->bank_words[f->bank] ? f->bits : fixed;
}

/* Bits that hold what no write changes. */
static void refine_fixed(refiner *r)
{
    unsigned banks = 0, never = 0;

    for (guint i = 0; i < r->list->len; i++) {
        rmg_finding *f = at(r, i);
        const rmg_word fixed = fixed_bits(r, f);

        if (!(f->bits & fixed) || (f->bits & ~fixed))
            continue;
        if (f->kind == RMG_FINDING_DATA_AT_SOCKET)
            f->kind = RMG_FINDING_NEVER_WRITTEN;
        else if (f->kind == RMG_FINDING_BANK_SILENT)
            f->kind = RMG_FINDING_BANK_NEVER_WRITTEN;
    }
    for (uint8_t b = 0; b < r->board->bank_count; b++) {
        banks += r->run->wired[b];
        never += r->run->wired[b] && r->run->data_details[b].fixed &&
                 r->run->data_details[b].fixed == bits_of_bank(r, b);
    }
    /* never written in one bank of two is that bank's own line; in all of them it is the board's */
    if (banks < 2 || never != banks)
        return;
    for (guint i = r->list->len; i-- > 0;)
        if (at(r, i)->kind == RMG_FINDING_ALL_SILENT ||
            at(r, i)->kind == RMG_FINDING_BANK_NEVER_WRITTEN)
            g_array_remove_index(r->list, i);
    add(r,
        (rmg_finding){
            .kind = RMG_FINDING_BANK_NEVER_WRITTEN, .socket = RMG_NO_SOCKET, .bank2 = RMG_NO_BANK},
        RMG_NO_BANK, r->run->mask);
}

/* A bit that the wiring check took for dead, and that many words read right in every pass: some of
 * its cells fail. */
static void refine_not_dead(refiner *r)
{
    if (r->run->pass_count < 2 || !rmg_run_repeats(r->run) || rmg_failset_starved(r->run->failures))
        return;
    for (guint i = 0; i < r->list->len; i++) {
        rmg_finding *f = at(r, i);
        const uint64_t words =
            f->kind == RMG_FINDING_DATA_AT_SOCKET && f->bank != RMG_NO_BANK
                ? rmg_failset_words(r->run->failures, &r->board->bank_wheres[f->bank], f->bits)
                : 0;

        if (!words || 100u * words > DEAD * r->run->bank_words[f->bank])
            continue;
        f->kind = RMG_FINDING_CELLS;
        f->low = f->high = f->opposite = 0;
    }
}

/* Bits that lag by a read. */
static void refine_stale(refiner *r)
{
    for (guint i = 0; i < r->list->len; i++) {
        rmg_finding *f = at(r, i);

        if (f->kind == RMG_FINDING_DATA_AT_SOCKET &&
            !(f->bits & ~r->run->data_details[f->bank].stale))
            f->kind = RMG_FINDING_STALE;
    }
}

/* Do bits i and j of the bank touch, and which level wins? */
static bool touch(const refiner *r, uint8_t bank, unsigned i, unsigned j, bool *high_wins)
{
    const rmg_data_detail *d = &r->run->data_details[bank];
    const bool low = (d->low_with[i] >> j & 1u) && (d->low_with[j] >> i & 1u);
    const bool high = (d->high_with[i] >> j & 1u) && (d->high_with[j] >> i & 1u);

    /* each must follow the other, and at one level only: a line that follows in both is dead, not
     * shorted, and one that follows without being followed has another cause */
    *high_wins = high;
    return low != high;
}

/* The socket that holds all these bits in the bank, or RMG_NO_SOCKET. */
static uint16_t one_socket(const refiner *r, uint8_t bank, rmg_word bits)
{
    uint16_t found = RMG_NO_SOCKET;

    for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
        const rmg_rule *rule = &r->board->placement.rules[i];

        if (rule->bank != bank || !(rmg_rule_bits(rule) & bits))
            continue;
        if (found != RMG_NO_SOCKET && found != rule->socket)
            return RMG_NO_SOCKET;
        found = rule->socket;
    }
    return found;
}

/* Several pairs of one chip's bits that seem to touch, not alike in each pass, or more than two in
 * the only one: its outputs are not steady, and now this, now that one is late. */
static bool seem_to_touch(const refiner *r, uint8_t bank)
{
    rmg_word bits = 0;
    unsigned pairs = 0;
    bool high;

    for (unsigned i = 0; i < RMG_WORD_BITS; i++)
        for (unsigned j = i + 1; j < RMG_WORD_BITS; j++)
            if (touch(r, bank, i, j, &high)) {
                bits |= (rmg_word)1 << i | (rmg_word)1 << j;
                pairs++;
            }
    return (r->run->pass_count < 2 ? pairs > 2 : pairs > 1 && !rmg_run_repeats(r->run)) &&
           one_socket(r, bank, bits) != RMG_NO_SOCKET;
}

static void refine_data_shorts(refiner *r)
{
    bool *looked = g_new0(bool, MAX(r->board->bank_count, 1u)); /* banks in which bits may touch */

    for (uint8_t b = 0; b < r->board->bank_count; b++)
        looked[b] = r->run->wired[b] && !seem_to_touch(r, b);
    for (unsigned i = 0; i < RMG_WORD_BITS; i++)
        for (unsigned j = i + 1; j < RMG_WORD_BITS; j++) {
            const rmg_word bits = (rmg_word)1 << i | (rmg_word)1 << j;
            unsigned banks = 0, shorted = 0;
            bool high = false, any_high = false;

            for (uint8_t b = 0; b < r->board->bank_count; b++) {
                banks += r->run->wired[b] && (bits_of_bank(r, b) & bits) == bits;
                if (!looked[b] || !touch(r, b, i, j, &high))
                    continue;
                shorted++;
                any_high = high;
                remove_within(r, RMG_FINDING_DATA_AT_SOCKET, b, bits);
                remove_within(r, RMG_FINDING_CELLS, b, bits);
            }
            for (uint8_t b = 0; shorted && b < r->board->bank_count; b++) {
                const bool all = shorted == banks && banks > 1;
                const rmg_finding f = {.kind = RMG_FINDING_DATA_SHORT,
                                       .socket = RMG_NO_SOCKET,
                                       .bank2 = RMG_NO_BANK,
                                       .high_wins = any_high};

                if (all || (looked[b] && touch(r, b, i, j, &high)))
                    add(r, f, all ? RMG_NO_BANK : b, bits);
                if (all)
                    break;
            }
        }
    g_free(looked);
}

/* Lines that touch are not dead ones as well. */
static void remove_lines(refiner *r, uint8_t bank, rmg_addr lines, rmg_word bits)
{
    for (guint i = r->list->len; i-- > 0;) {
        rmg_finding *f = at(r, i);

        if ((f->kind != RMG_FINDING_ADDRESS_AT_SOCKET && f->kind != RMG_FINDING_ADDRESS_OF_BANK) ||
            f->bank != bank || (f->bits & ~bits))
            continue;
        f->lines &= ~lines;
        if (!f->lines)
            g_array_remove_index(r->list, i);
    }
}

static void add_address_short(refiner *r, uint8_t bank, const rmg_line_pair *p)
{
    rmg_finding f = {.kind = RMG_FINDING_ADDRESS_SHORT,
                     .socket = RMG_NO_SOCKET,
                     .bank2 = RMG_NO_BANK,
                     .high_wins = p->high_wins,
                     .lines = (rmg_addr)1 << p->a | (rmg_addr)1 << p->b};
    const rmg_word sound =
        bits_of_bank(r, bank) & ~(r->run->wirings[bank].low | r->run->wirings[bank].high |
                                  r->run->wirings[bank].opposite | r->run->wirings[bank].unsteady);

    remove_within(r, RMG_FINDING_CELLS, bank, p->bits);
    remove_lines(r, bank, f.lines, p->bits);
    /* in all sound bits: between the lines of the bank; else within the chips that show it */
    if ((p->bits & sound) == sound && one_socket(r, bank, p->bits) == RMG_NO_SOCKET) {
        add(r, f, bank, p->bits);
        return;
    }
    for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
        const rmg_rule *rule = &r->board->placement.rules[i];

        f.socket = rule->socket;
        if (rule->bank == bank && (rmg_rule_bits(rule) & p->bits))
            add(r, f, bank, rmg_rule_bits(rule) & p->bits);
    }
}

static void refine_address_shorts(refiner *r)
{
    for (uint8_t b = 0; b < r->board->bank_count; b++)
        for (uint8_t i = 0; r->run->wired[b] && i < r->run->address_details[b].pair_count; i++)
            add_address_short(r, b, &r->run->address_details[b].pairs[i]);
}

static void drop_cells_of(refiner *r, uint8_t a, uint8_t b)
{
    remove_within(r, RMG_FINDING_CELLS, a, ~(rmg_word)0);
    remove_within(r, RMG_FINDING_CELLS, b, ~(rmg_word)0);
}

/* Is the chip known to drag these bits, of another bank? That is the same fault. */
static bool drags_already(refiner *r, uint16_t socket, rmg_word bits)
{
    for (guint i = 0; i < r->list->len; i++)
        if (at(r, i)->kind == RMG_FINDING_DRAGGED && at(r, i)->socket == socket &&
            !(bits & ~at(r, i)->bits))
            return true;
    return false;
}

static void add_dragged(refiner *r, uint8_t dragged, uint8_t by, rmg_word bits, rmg_word high)
{
    for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
        const rmg_rule *rule = &r->board->placement.rules[i];
        const rmg_finding f = {.kind = RMG_FINDING_DRAGGED,
                               .socket = rule->socket,
                               .bank2 = dragged,
                               .high_wins = (rmg_rule_bits(rule) & bits & high) != 0};

        if (rule->bank == by && (rmg_rule_bits(rule) & bits)) {
            remove_within(r, RMG_FINDING_CELLS, dragged, bits);
            remove_within(r, RMG_FINDING_DATA_AT_SOCKET, dragged, bits);
            if (!drags_already(r, rule->socket, rmg_rule_bits(rule) & bits))
                add(r, f, by, rmg_rule_bits(rule) & bits);
        }
    }
}

static rmg_word unsound(const refiner *r, uint8_t bank)
{
    const rmg_wiring *w = &r->run->wirings[bank];

    return w->low | w->high | w->opposite | w->unsteady;
}

/* Do all chips of a bank drive their lines when another one is read, but for a line that is dead
 * there? Then it is what they share. */
static bool all_drag(const refiner *r, uint8_t dragged, uint8_t by, rmg_word bits)
{
    const rmg_word held = bits_of_bank(r, dragged) & bits_of_bank(r, by), left = held & ~bits;

    return bits && one_socket(r, by, bits) == RMG_NO_SOCKET && !(left & (left - 1u)) &&
           !(left & ~(unsound(r, dragged) | unsound(r, by)));
}

static void add_dragging(refiner *r, uint8_t dragged, uint8_t by, rmg_word bits, rmg_word high)
{
    const rmg_finding both = {.kind = RMG_FINDING_BANKS_BOTH,
                              .of = RMG_FINDING_DRAGGED,
                              .socket = RMG_NO_SOCKET,
                              .bank2 = dragged,
                              .high_wins = (high & bits) != 0};

    if (!all_drag(r, dragged, by, bits)) {
        add_dragged(r, dragged, by, bits, high);
        return;
    }
    drop_cells_of(r, dragged, by);
    remove_within(r, RMG_FINDING_DATA_AT_SOCKET, dragged, bits);
    add(r, both, by, bits);
}

static void refine_bank_pairs(refiner *r)
{
    const uint8_t banks = (uint8_t)r->board->bank_count;

    for (uint8_t a = 0; a < banks; a++)
        for (uint8_t b = (uint8_t)(a + 1u); b < banks; b++) {
            const rmg_bank_pair *p = &r->run->bank_pairs[a * banks + b];
            const rmg_word held = bits_of_bank(r, a) & bits_of_bank(r, b);
            const rmg_word both = held & ~(unsound(r, a) | unsound(r, b));
            rmg_finding f = {.kind = RMG_FINDING_BANKS_SAME,
                             .socket = RMG_NO_SOCKET,
                             .bank2 = b,
                             .high_wins = (p->high_wins & both) != 0};

            /* only where all comparable bits agree: a select acts on whole banks, so a single bit
             * that does is a chip's, below */
            if (both && (p->same & both) == both) {
                drop_cells_of(r, a, b);
                add(r, f, a, both);
            } else if (both && ((p->a_answers | p->b_answers) & both) == both) {
                f.kind = RMG_FINDING_BANKS_BOTH;
                f.bank2 = p->a_answers ? b : a;
                drop_cells_of(r, a, b);
                add(r, f, p->a_answers ? a : b, both);
            } else if (rmg_one_bus(r->board, a, b)) {
                add_dragging(r, a, b, p->a_dragged & held, p->high_wins);
                add_dragging(r, b, a, p->b_dragged & held, p->high_wins);
            }
        }
}

/* Is the finding about every bit of its bank? */
static bool whole_bank(const refiner *r, const rmg_finding *f)
{
    const rmg_word bits = f->bank == RMG_NO_BANK ? 0 : bits_of_bank(r, f->bank);

    return bits && (f->bits & bits) == bits;
}

/* Is it about a bank, be it one chip? */
static bool of_its_bank(const refiner *r, const rmg_finding *f)
{
    return f->socket == RMG_NO_SOCKET || whole_bank(r, f);
}

/* The same two address lines touching in every bank are one finding, also where a bank is one chip.
 */
static void join_address_shorts(refiner *r)
{
    for (guint i = 0; i < r->list->len; i++) {
        const rmg_finding first = *at(r, i);
        unsigned found = 0, banks = 0;

        if (first.kind != RMG_FINDING_ADDRESS_SHORT || !of_its_bank(r, &first))
            continue;
        for (uint8_t b = 0; b < r->board->bank_count; b++)
            banks += r->run->wired[b];
        for (guint j = i; j < r->list->len; j++)
            found += at(r, j)->kind == first.kind && at(r, j)->lines == first.lines &&
                     of_its_bank(r, at(r, j));
        if (banks < 2 || found != banks)
            continue;
        for (guint j = r->list->len; j-- > i + 1;)
            if (at(r, j)->kind == first.kind && at(r, j)->lines == first.lines)
                g_array_remove_index(r->list, j);
        at(r, i)->bank = RMG_NO_BANK;
        at(r, i)->socket = RMG_NO_SOCKET;
        at(r, i)->bits = r->run->mask;
    }
}

/* The same address lines without effect in every bank are one line, also where a bank is one chip.
 */
static void join_address_lines(refiner *r)
{
    for (guint i = 0; i < r->list->len; i++) {
        const rmg_finding first = *at(r, i);
        unsigned found = 0, banks = 0;

        if (first.kind != RMG_FINDING_ADDRESS_AT_SOCKET || !whole_bank(r, &first))
            continue;
        for (uint8_t b = 0; b < r->board->bank_count; b++)
            banks += r->run->wired[b];
        for (guint j = i; j < r->list->len; j++)
            found += at(r, j)->kind == first.kind && at(r, j)->lines == first.lines &&
                     whole_bank(r, at(r, j));
        if (banks < 2 || found != banks)
            continue;
        for (guint j = r->list->len; j-- > i + 1;)
            if (at(r, j)->kind == first.kind && at(r, j)->lines == first.lines)
                g_array_remove_index(r->list, j);
        at(r, i)->kind = RMG_FINDING_ADDRESS_LINES;
        at(r, i)->socket = RMG_NO_SOCKET;
        at(r, i)->bank = RMG_NO_BANK;
        at(r, i)->bits = r->run->mask;
    }
}

/* Lines without effect in all sound bits of a bank, where these are one chip's and the others are
 * dead: that chip's pin is as likely as what the bank shares, and is what can be said. */
static void refine_address_of_bank(refiner *r)
{
    for (guint i = 0; i < r->list->len; i++) {
        rmg_finding *f = at(r, i);
        const rmg_word bits = f->bank == RMG_NO_BANK ? 0 : bits_of_bank(r, f->bank);
        const rmg_word sound = f->bank == RMG_NO_BANK ? 0 : bits & ~unsound(r, f->bank);
        const uint16_t socket = sound ? one_socket(r, f->bank, sound) : RMG_NO_SOCKET;

        if (f->kind != RMG_FINDING_ADDRESS_OF_BANK || socket == RMG_NO_SOCKET || sound == bits)
            continue;
        f->kind = RMG_FINDING_ADDRESS_AT_SOCKET;
        f->socket = socket;
        f->bits = sound;
    }
}

/* Banks in which this line was found noisy. */
static unsigned banks_with(const refiner *r, const rmg_noisy_line *n)
{
    unsigned found = 0;

    for (size_t i = 0; i < r->run->noisy_count; i++)
        found += r->run->noisy[i].address == n->address && r->run->noisy[i].line == n->line;
    return found;
}

/* Banks that are tested and have the line. */
static unsigned banks_of(const refiner *r, const rmg_noisy_line *n)
{
    unsigned banks = 0;

    for (uint8_t b = 0; b < r->board->bank_count; b++) {
        bool has = false;

        for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
            const rmg_rule *rule = &r->board->placement.rules[i];

            for (uint8_t k = 0; rule->bank == b && n->address && k < rule->address_lines; k++)
                has |= rule->address_bits[k] == n->line;
            has |= rule->bank == b && !n->address && (rmg_rule_bits(rule) >> n->line & 1u);
        }
        banks += has && r->run->bank_words[b];
    }
    return banks;
}

/* Findings that a noisy line makes by itself, in one bank. */
static void remove_of_noise(refiner *r, uint8_t bank, const rmg_noisy_line *n)
{
    static const rmg_finding_kind kinds[] = {RMG_FINDING_DATA_AT_SOCKET, RMG_FINDING_DATA_LINE,
                                             RMG_FINDING_CELLS, RMG_FINDING_NEVER_WRITTEN,
                                             RMG_FINDING_STALE};
    const rmg_word bits = n->address ? ~(rmg_word)0 : (rmg_word)1 << n->line;

    for (size_t k = 0; k < G_N_ELEMENTS(kinds); k++)
        if (!n->address || kinds[k] == RMG_FINDING_CELLS) {
            remove_within(r, kinds[k], bank, bits);
            remove_within(r, kinds[k], RMG_NO_BANK, bits);
        }
    if (n->address)
        remove_lines(r, bank, (rmg_addr)1 << n->line, ~(rmg_word)0);
}

/* Lines that others disturb. What fails by that is not the chips'. */
static void refine_noisy(refiner *r)
{
    for (size_t i = 0; i < r->run->noisy_count; i++) {
        const rmg_noisy_line *n = &r->run->noisy[i];
        const bool all = banks_with(r, n) == banks_of(r, n) && banks_of(r, n) > 1;
        rmg_finding f = {.kind = n->address ? RMG_FINDING_ADDRESS_NOISY : RMG_FINDING_DATA_NOISY,
                         .socket = RMG_NO_SOCKET,
                         .bank2 = RMG_NO_BANK,
                         .lines = n->address ? (rmg_addr)1 << n->line : 0,
                         .by = n->by};
        bool known = false;

        remove_of_noise(r, n->bank, n);
        for (guint k = 0; all && k < r->list->len; k++) {
            rmg_finding *before = at(r, k);

            if (before->kind != f.kind || before->bank != RMG_NO_BANK ||
                (n->address ? before->lines != f.lines : before->bits != (rmg_word)1 << n->line))
                continue;
            before->by |= n->by;
            known = true;
        }
        if (!known)
            add(r, f, all ? RMG_NO_BANK : n->bank,
                n->address ? bits_of_bank(r, n->bank) : (rmg_word)1 << n->line);
    }
}

/* Findings at sockets that have a cause of their own, out of the list. */
static GArray *take_apart(const rmg_facts *facts, GArray *list)
{
    GArray *apart = g_array_new(FALSE, FALSE, sizeof(rmg_finding));

    for (guint i = list->len; i-- > 0;) {
        const rmg_finding f = g_array_index(list, rmg_finding, i);
        bool own = false;

        for (size_t n = 0; n < facts->apart_count; n++)
            own |= f.socket == facts->apart[n];
        if (!own)
            continue;
        g_array_append_val(apart, f);
        g_array_remove_index(list, i);
    }
    return apart;
}

void rmg_refine(const rmg_run *run, const rmg_facts *facts, GArray *findings)
{
    GArray *apart;
    refiner r = {.run = run, .board = run->board, .list = findings};

    for (size_t b = 0; b < MIN(run->board->bank_count, RMG_NO_BANK); b++)
        r.bits[b] = rmg_bits_of_bank(run, (uint8_t)b);
    refine_noisy(&r);
    refine_stale(&r);
    refine_not_dead(&r);
    refine_address_of_bank(&r);
    refine_fixed(&r);
    refine_data_shorts(&r);
    refine_address_shorts(&r);
    refine_bank_pairs(&r);
    rmg_find_untested_drivers(run, findings);
    rmg_join_same_words(run, findings);
    rmg_weigh_what_comes_and_goes(run, findings);
    if (run->pass_count < 2 || rmg_run_repeats(run))
        rmg_join_weak(run, findings);
    rmg_find_dead_bits(run, findings);
    join_address_shorts(&r);
    join_address_lines(&r);
    apart = take_apart(facts, findings);
    rmg_join_branches(run, findings);
    g_array_append_vals(findings, apart->data, apart->len);
    g_array_free(apart, TRUE);
}
