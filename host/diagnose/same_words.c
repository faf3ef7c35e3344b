/* Cells of several sockets that fail in the same words: what these words share is suspected, and no
 * chip of them. docs/diagnosis.md, "The same words", has the reasoning. */
#include "share.h"

#define SAME          0.8 /* of the words of either, in both */
#define FEW           0.6 /* of its bank: two chips that fail in the same words do so by no chance */
#define NEARLY        0.9 /* ... all of its bank */
#define LINES         4u  /* address lines on which as many words agree by chance once in 16 */
#define INSIDE        3u  /* lines on which one's words must agree to hold another's by no chance */
#define MANY          3u  /* bits of a word that are no one cell */
#define FEW_WORDS     8.0
#define COMPARED_MOST 5e8 /* words of each of two places: some seconds */
#define NO_ELEMENT    UINT64_MAX
#define EVERY_RUN     256u /* words of a run that are looked at one by one */

/* Where the cells of one socket fail. */
typedef struct place {
    guint finding; /* in the list */
    const rmg_rule *rule;
    rmg_word bits;
    rmg_addr own;         /* address lines of the chip */
    rmg_addr ones, zeros; /* of these, the ones that were 1, or 0, at some failing word */
    double share;         /* of the bank's words that fail */
    uint64_t element;     /* in which one failed first */
    bool recurs;          /* ... or in another, or in several passes */
    bool in_holds;        /* first in a step that leaves the memory alone, each of them */
    bool compared;        /* word by word with others */
} place;

typedef struct places {
    const rmg_run *run;
    GArray *list; /* of place */
} places;

static void see_address(place *p, rmg_addr address)
{
    p->ones |= address & p->own;
    p->zeros |= ~address & p->own;
}

/* Of a long run all lines below the highest in which its ends differ take both levels. */
static bool see_run(place *p, rmg_addr first, size_t words, uint16_t which)
{
    bool any = false;

    for (size_t n = 0; n < MIN(words, EVERY_RUN); n++)
        if ((unsigned)which >> ((first + n) & 15u) & 1u &&
            rmg_where_holds(&p->rule->where, first + n)) {
            see_address(p, first + n);
            any = true;
        }
    for (rmg_addr line = 1, differ = first ^ (first + words - 1u);
         any && words > EVERY_RUN && line && line <= differ; line <<= 1) {
        p->ones |= line & p->own;
        p->zeros |= line & p->own;
    }
    return any;
}

static void see(void *context, rmg_addr first, size_t words, uint16_t which, uint32_t record,
                const rmg_fail_part *parts, size_t count)
{
    const places *all = context;
    /* in one pass of many it came and went */
    const unsigned apart = all->run->pass_count > 2 ? 24 : 8;

    (void)record;
    for (guint i = 0; i < all->list->len; i++) {
        place *p = &g_array_index(all->list, place, i);

        for (size_t n = 0; n < count; n++)
            if ((parts[n].high | parts[n].low) & p->bits && see_run(p, first, words, which)) {
                p->in_holds &= rmg_after_hold(all->run, parts[n].first);
                p->recurs |= parts[n].passes > 1 ||
                             (p->element != NO_ELEMENT && p->element != parts[n].first >> apart);
                p->element = parts[n].first >> apart;
            }
    }
}

static const rmg_rule *rule_of(const rmg_board *board, const rmg_finding *f)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == f->socket &&
            board->placement.rules[r].bank == f->bank)
            return &board->placement.rules[r];
    return NULL;
}

static void list_places(const rmg_run *run, const GArray *list, places *all)
{
    double most = 0; /* words of one place */

    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);
        place p = {.finding = i, .bits = f->bits, .in_holds = true, .element = NO_ELEMENT};

        p.rule = f->kind == RMG_FINDING_CELLS ? rule_of(run->board, f) : NULL;
        if (!p.rule || f->bank >= run->board->bank_count || !run->bank_words[f->bank])
            continue;
        for (uint8_t n = 0; n < p.rule->address_lines; n++)
            if (p.rule->address_bits[n] < RMG_ADDR_BITS)
                p.own |= (rmg_addr)1 << p.rule->address_bits[n];
        p.share =
            (double)rmg_failset_words(run->failures, &run->board->bank_wheres[f->bank], f->bits) /
            (double)run->bank_words[f->bank];
        if (p.share > 0) /* else none could be kept */
            g_array_append_val(all->list, p);
    }
    if (all->list->len)
        rmg_failset_each_run(run->failures, see, all);
    for (guint i = 0; i < all->list->len; i++)
        most =
            MAX(most, g_array_index(all->list, place, i).share *
                          (double)run->bank_words[g_array_index(all->list, place, i).rule->bank]);
    for (guint i = 0; i < all->list->len; i++)
        g_array_index(all->list, place, i).compared =
            most * all->list->len * all->list->len <= COMPARED_MOST;
}

static unsigned ones_of(rmg_addr lines)
{
    return (unsigned)__builtin_popcountll(lines);
}

/* The lines of both on which all their words agree. */
static unsigned agree(const place *a, const place *b)
{
    return ones_of(a->own & b->own & ~((a->ones | b->ones) & (a->zeros | b->zeros)));
}

/* The share of words of the bank in which both fail. */
static double in_both(const rmg_run *run, const place *a, const place *b)
{
    const uint8_t bank = a->rule->bank;
    const double any = (double)rmg_failset_words(run->failures, &run->board->bank_wheres[bank],
                                                 a->bits | b->bits) /
                       (double)run->bank_words[bank];

    return a->share + b->share - any;
}

static bool same_words(const rmg_run *run, const place *a, const place *b)
{
    const double most = MAX(a->share, b->share);

    return a->compared && b->compared && a->rule->bank == b->rule->bank &&
           MIN(a->share, b->share) >= SAME * most && in_both(run, a, b) >= SAME * most;
}

static bool all_lost(const place *p)
{
    return p->share >= NEARLY && p->in_holds;
}

/* Do they fail in the same words, or at the same levels of address lines? */
static bool alike(const rmg_run *run, const place *a, const place *b)
{
    const unsigned both = agree(a, b), one = agree(a, a), other = agree(b, b);
    const double words = MAX(a->share * (double)run->bank_words[a->rule->bank],
                             b->share * (double)run->bank_words[b->rule->bank]);
    const unsigned most =
        MAX(one, other) - (words <= FEW_WORDS && MAX(one, other)); /* not all fail */

    return same_words(run, a, b) || (all_lost(a) && all_lost(b)) || (both && both >= most) ||
           (both >= INSIDE && both == MIN(one, other));
}

/* Of one pass: did each cell fail a single read, and not after a hold? What answers in their place
 * fails more of them; that may have come and gone. */
static bool failed_once(const rmg_run *run, const place *p, const rmg_finding *f)
{
    return !p->in_holds && rmg_cells_failed_once(run, f);
}

/* What fails now and then, `of` so many places and at hardly any other, is alike by no chance where
 * it comes again in these few words, or is only lost in holds: what several chips share fails
 * anywhere. */
static bool comes_again(const rmg_run *run, const GArray *list, const GArray *group, guint of,
                        const place *all)
{
    bool lost = true, again = true, once = true;

    for (guint i = 0; i < group->len; i++) {
        const place *p = g_array_index(group, const place *, i);

        once &= failed_once(run, p, &g_array_index(list, rmg_finding, p->finding));
    }
    if (once)
        return false;
    if (run->pass_count < 2 || rmg_run_repeats(run))
        return true;
    if (of > group->len + 1u) /* then they share something with others, too */
        return false;
    for (guint i = 0; i < group->len; i++) {
        lost &= g_array_index(group, const place *, i)->in_holds;
        again &= g_array_index(group, const place *, i)->recurs;
    }
    return lost || (again && agree(all, all) >= INSIDE);
}

/* The words of all of them. */
static place all_of(const GArray *group)
{
    place all = *g_array_index(group, const place *, 0);

    for (guint i = 1; i < group->len; i++) {
        const place *p = g_array_index(group, const place *, i);

        all.own &= p->own;
        all.ones |= p->ones;
        all.zeros |= p->zeros;
    }
    return all;
}

/* Are they one data bit, of a bank each? */
static bool one_bit(const GArray *group)
{
    const place *first = g_array_index(group, const place *, 0);

    for (guint i = 1; i < group->len; i++) {
        const place *p = g_array_index(group, const place *, i);

        for (guint n = 0; n < i; n++)
            if (g_array_index(group, const place *, n)->rule->bank == p->rule->bank)
                return false;
        if (p->bits != first->bits)
            return false;
    }
    return group->len > 1 && !(first->bits & (first->bits - 1u));
}

/* Are so many alike by no chance? */
static bool by_no_chance(const rmg_run *run, const GArray *list, const GArray *group, guint of)
{
    const place *first = g_array_index(group, const place *, 0);
    const place all = all_of(group);
    const unsigned bit = one_bit(group) ? g_bit_storage(run->board->word_bits - 1u) : 0;
    bool same = true, lost = true;

    for (guint i = 0; i < group->len; i++) {
        const place *p = g_array_index(group, const place *, i);

        same &= same_words(run, first, p);
        lost &= all_lost(p);
    }
    return group->len > 1 && comes_again(run, list, group, of, &all) &&
           (lost || (same && (group->len > 2 || first->share <= FEW)) ||
            (agree(&all, &all) + bit) * (group->len - 1u) >= LINES);
}

/* The findings of the group become one, in the place of the first. */
static void join(const rmg_run *run, GArray *list, const GArray *group, bool *gone)
{
    const place *first = g_array_index(group, const place *, 0);
    rmg_finding *shared = &g_array_index(list, rmg_finding, first->finding);
    const place all = all_of(group);
    socket_set set;

    memset(&set, 0, sizeof set);
    for (guint i = 0; i < group->len; i++) {
        const place *p = g_array_index(group, const place *, i);
        const rmg_finding *f = &g_array_index(list, rmg_finding, p->finding);

        rmg_set_include(&set, f->socket);
        gone[p->finding] = i > 0;
        if (!i)
            continue;
        shared->bits |= f->bits;
        shared->failed_high += f->failed_high;
        shared->failed_low += f->failed_low;
    }
    shared->kind = RMG_FINDING_SAME_WORDS;
    shared->of = one_bit(group) ? RMG_FINDING_DATA_LINE : RMG_FINDING_CELLS;
    if (shared->of == RMG_FINDING_DATA_LINE && agree(&all, &all) == 1)
        shared->lines = all.own & ~(all.ones & all.zeros);
    shared->socket = RMG_NO_SOCKET;
    memcpy(shared->among, set.bits, sizeof shared->among);
    shared->bank = rmg_one_bank(run, &set);
}

/* Words of the only chip of a bank. */
typedef struct whole_words {
    const rmg_where *where;
    rmg_word chip, bits;     /* of the chip; that fail */
    rmg_word high, low;      /* ... that read 1 for 0, 0 for 1 */
    uint64_t words, several; /* that fail; at more than one bit */
} whole_words;

static void see_whole(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    whole_words *w = context;
    const rmg_word bits = (high | low) & w->chip;

    if (!bits || !rmg_where_holds(w->where, address))
        return;
    w->bits |= bits;
    w->high |= high & bits;
    w->low |= low & bits;
    w->words++;
    w->several += (bits & (bits - 1u)) != 0;
}

/* A few words of the only chip of a bank, close together, that fail at most of its bits at once:
 * cells and rows of a chip fail one bit, what answers in its place has a word of its own. */
static bool whole_words_fail(const rmg_run *run, const place *p, const rmg_finding *f)
{
    const rmg_board *board = run->board;
    whole_words w = {.where = &board->bank_wheres[f->bank],
                     .chip = rmg_rule_bits(p->rule) & run->mask};
    rmg_finding only = *f;
    rmg_same_words words;
    socket_set set;

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == f->bank &&
            board->placement.rules[r].socket != f->socket)
            return false;
    if (agree(p, p) < INSIDE || failed_once(run, p, f) ||
        (run->pass_count > 1 && !rmg_run_repeats(run) && !p->recurs))
        return false;
    rmg_failset_each(run->failures, see_whole, &w);
    /* one word that reads all 0 or all 1: no cell is reached, within the chip */
    if (w.words == 1 && (w.high == w.chip || w.low == w.chip) && !(w.high & w.low))
        return false;
    memset(&set, 0, sizeof set);
    rmg_set_include(&set, f->socket);
    memcpy(only.among, set.bits, sizeof only.among);
    rmg_same_words_look(run, &only, &words);
    return words.stretch && !words.in_holds && 2 * w.several > w.words &&
           ones_of(w.bits) >= MAX(MANY, ones_of(w.chip) / 2u);
}

void rmg_join_same_words(const rmg_run *run, GArray *list)
{
    places all = {run, g_array_new(FALSE, FALSE, sizeof(place))};
    bool *gone = g_new0(bool, list->len + 1u);

    list_places(run, list, &all);
    for (guint i = 0; i < all.list->len; i++) {
        const place *first = &g_array_index(all.list, place, i);
        GArray *group = g_array_new(FALSE, FALSE, sizeof(place *));

        for (guint j = i; j < all.list->len; j++) {
            const place *p = &g_array_index(all.list, place, j);
            const bool free =
                !gone[p->finding] &&
                g_array_index(list, rmg_finding, p->finding).kind == RMG_FINDING_CELLS;

            if (free && (j == i || alike(run, first, p)))
                g_array_append_val(group, p);
        }
        if (group->len &&
            (by_no_chance(run, list, group, all.list->len) ||
             (group->len == 1 &&
              whole_words_fail(run, first, &g_array_index(list, rmg_finding, first->finding)))))
            join(run, list, group, gone);
        g_array_free(group, TRUE);
    }
    for (guint i = list->len; i-- > 0;)
        if (gone[i])
            g_array_remove_index(list, i);
    rmg_join_losses(run, list);
    g_array_free(all.list, TRUE);
    g_free(gone);
}
