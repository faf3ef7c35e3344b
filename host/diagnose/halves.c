/* Which address line stays at one level at times, where something that a bank, or all banks, share
 * comes and goes. An access that goes astray reads or writes the word on the other side of the
 * line. Which of the two then fails, and in which element of a march, depends on the order in which
 * the march goes through them: played here with one access astray at a time. Given the element in
 * which a word first failed, the side that it is on is as likely as words that have not failed yet
 * and ways to fail it are there (D. R. Cox, Regression Models and Life-Tables, 1972: how often it
 * comes cancels out). docs/diagnosis.md, "What comes and goes". */
#include <math.h>
#include <string.h>

#include "reads.h"

#define ONE_LINE     0.35 /* of what a bank shares and comes and goes: one address line */
#define NAMED_FROM   0.9  /* as sure as this the line is named */
#define OTHERWISE    0.05 /* of the words that fail: by something else */
#define SIDES        4u   /* a line that comes before a multiplexer has two, one behind it four */
#define VARIANTS     8u   /* of a step that are played */
#define SAMPLES      4u   /* words of a bank that are; */
#define SAMPLES_MOST 16u  /* ... of all banks */
#define AT_MOST      6.0  /* of one element: what it tells may have a reason of its own */
#define SAMPLED      4.0 /* standard deviations of how many words are left, where some were counted */
#define BURST_WORDS  8u /* words that failed so near each other count as one */

/* Words that differ in the line alone, and which of them an access that goes astray reaches. */
typedef struct sides {
    rmg_addr at[SIDES];
    unsigned to[SIDES], count;
} sides;

/* Ways in which words of each side first fail, by step of the plan and element. */
typedef struct ways_to_fail {
    double of[RMG_MARCH_BYTES][SIDES];
    bool known;
} ways_to_fail;

typedef struct line_case {
    const weigher *w;
    const site *s;
    rmg_addr lines;     /* that part the words into sides; */
    rmg_addr stays;     /* ... of these the ones that stay at one level */
    bool high;          /* that level */
    const GArray *read; /* of failed_read, one a word, by element and address */
    double most;        /* that one element may tell */
    ways_to_fail *ways; /* [passes][steps] */
    uint64_t passes;    /* that are played: backgrounds change with them */
} line_case;

static unsigned side_of(rmg_addr address, rmg_addr lines)
{
    const rmg_addr low = lines & (~lines + 1u), high = lines & ~low;

    return ((address & low) != 0) + 2u * ((address & high) != 0);
}

static rmg_addr on_side(rmg_addr address, rmg_addr lines, unsigned side)
{
    const rmg_addr low = lines & (~lines + 1u), high = lines & ~low;

    return (address & ~lines) | (side & 1u ? low : 0) | (side & 2u ? high : 0);
}

static unsigned sides_of(rmg_addr lines)
{
    return lines & (lines - 1u) ? 4 : 2;
}

/* Goes through a variant of a step with one access astray (UINT_MAX: none), and counts where words
 * first fail. Returns how many accesses there were. */
static unsigned go_through(const line_case *c, const rmg_step *step, const variant *v,
                           const sides *o, unsigned astray, rmg_word *held, ways_to_fail *ways)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0;
    unsigned access = 0, element = 0;
    bool failed[SIDES] = {false};

    for (const uint8_t *code = step->code; *code && element < RMG_MARCH_BYTES;
         code += (*code & ~RMG_ORDER_MASK) + 1u, element++)
        for (unsigned i = 0; i < o->count; i++) {
            const bool down = (*code & RMG_ORDER_MASK) == RMG_ORDER_DOWN;
            const unsigned side = down ? o->count - 1u - i : i;
            const rmg_word ground = rmg_background_word(&v->ground, o->at[side]);

            for (uint8_t k = 1; k <= (*code & ~RMG_ORDER_MASK); k++) {
                const unsigned at = access++ == astray ? o->to[side] : side;
                const rmg_word value = ground ^ (code[k] & RMG_OP_ONE ? all : 0);

                if (code[k] & RMG_OP_WRITE) {
                    held[at] = value;
                } else if (((held[at] ^ value) & c->w->run->mask) && !failed[side]) {
                    failed[side] = true;
                    if (ways)
                        ways->of[element][side]++;
                }
            }
        }
    return access;
}

/* Each access of a variant astray in turn, beginning with what the words hold; then what they hold
 * after it, none astray. */
static void play_sides(const line_case *c, const rmg_step *step, const variant *v, const sides *o,
                       rmg_word *held, ways_to_fail *ways)
{
    rmg_word after[SIDES];
    unsigned accesses;

    memcpy(after, held, sizeof after);
    accesses = go_through(c, step, v, o, UINT_MAX, after, NULL);
    for (unsigned astray = 0; astray < accesses; astray++) {
        rmg_word then[SIDES];

        memcpy(then, held, sizeof then);
        (void)go_through(c, step, v, o, astray, then, ways);
    }
    memcpy(held, after, sizeof after);
    ways->known = true;
}

/* Words of a bank on all sides of the line; false: some were not tested. */
static bool take_sides(const line_case *c, size_t bank, unsigned number, sides *o)
{
    const rmg_where *where = &c->w->board->bank_wheres[bank];
    const rmg_addr apart = (where->last - where->first) / SAMPLES + 1u;
    const rmg_addr near = where->first + number * apart + number;
    bool tested = true;

    o->count = sides_of(c->lines);
    for (unsigned i = 0; i < o->count; i++) {
        o->at[i] = on_side((near & ~where->mask) | where->match, c->lines, i);
        o->to[i] = side_of(c->high ? o->at[i] | c->stays : o->at[i] & ~c->stays, c->lines);
        tested &= rmg_where_holds(where, o->at[i]) && rmg_is_tested(c->w->run, o->at[i]);
    }
    return tested;
}

static ways_to_fail *ways_of(const line_case *c, uint64_t pass, size_t step)
{
    const size_t steps = c->w->run->steps.count;

    return &c->ways[(pass < c->passes ? pass : c->passes - 1u) * steps + step];
}

/* What it is not known that words hold. */
static void forget(const sides *o, rmg_word *held)
{
    for (unsigned i = 0; i < o->count; i++)
        held[i] = rmg_hash(2, o->at[i]);
}

/* Fills in how these words fail, pass by pass. */
static void play(const line_case *c, const sides *o)
{
    rmg_word held[SIDES] = {0};

    forget(o, held);
    for (uint64_t pass = 0; pass < c->passes; pass++)
        for (size_t i = 0; i < c->w->run->steps.count; i++) {
            const rmg_step *step = &c->w->run->steps.list[i];
            unsigned n = 0;
            variant v;

            while (n < VARIANTS && rmg_begin_variant(c->w, step, n, pass, &v)) {
                play_sides(c, step, &v, o, held, ways_of(c, pass, i));
                n++;
            }
            if (!n)
                forget(o, held);
        }
}

/* Words that first failed in one element, and how many of them tell something by themselves, by
 * side. */
typedef struct failed_sides {
    double words[SIDES], apart[SIDES];
} failed_sides;

/* Words of one side near each other, between two changes of the line's level. */
typedef struct stretch {
    rmg_addr first, last;
} stretch;

/* Addresses so near that what failed there failed together. */
static rmg_addr near_of(const line_case *c, uint8_t bank)
{
    const rmg_where *where = &c->w->board->bank_wheres[bank];
    const rmg_addr apart =
        (where->last - where->first) / MAX((rmg_addr)c->w->run->bank_words[bank], 1u) + 1u;

    return BURST_WORDS * (rmg_addr)c->w->stride * apart;
}

/* A stretch that ends just where the line changes, at both ends, is no burst: it tells as much as
 * that could have been elsewhere. */
static double worth_of(const stretch *s, rmg_addr near, rmg_addr low)
{
    const bool all = low > near && s->first % low <= near && low - 1u - s->last % low <= near;

    return 1 + (all ? log2((double)low / (double)near) : 0);
}

static failed_sides count_sides(const line_case *c, const failed_read *read, guint count)
{
    const rmg_addr low = c->lines & (~c->lines + 1u);
    const rmg_addr near = near_of(c, read->bank);
    stretch on[SIDES] = {{0, 0}};
    failed_sides f = {{0}, {0}};

    for (guint i = 0; i < count; i++) {
        const rmg_addr at = read[i].address;
        const unsigned side = side_of(at, c->lines);
        stretch *s = &on[side];

        if (f.words[side] > 0 && at / low == s->last / low && at - s->last <= near) {
            s->last = at;
        } else {
            f.apart[side] += f.words[side] > 0 ? worth_of(s, near, low) : 0;
            *s = (stretch){at, at};
        }
        f.words[side]++;
    }
    for (unsigned side = 0; side < SIDES; side++)
        f.apart[side] += f.words[side] > 0 ? worth_of(&on[side], near, low) : 0;
    return f;
}

/* Logarithm of how much likelier the sides of these words are if the line is to blame. */
static double weigh_element(const line_case *c, const failed_read *read, const failed_sides *f,
                            const double *left, double give)
{
    const rmg_step *step = rmg_step_of_reads(c->w, read);
    const ways_to_fail *ways =
        step ? ways_of(c, read->step >> 24, (size_t)(step - c->w->run->steps.list)) : NULL;
    const uint64_t element = read->step >> 8 & 0xFFu;
    double all = 0, blamed = 0, chance = 0;

    if (!ways || !ways->known || element >= RMG_MARCH_BYTES)
        return 0;
    for (unsigned i = 0; i < sides_of(c->lines); i++) {
        all += left[i] + give;
        blamed += (left[i] + give) * ways->of[element][i];
    }
    for (unsigned i = 0; i < sides_of(c->lines); i++) {
        const double often = blamed > 0 ? ways->of[element][i] * all / blamed : 0;

        chance += f->apart[i] * log((1 - OTHERWISE) * often + OTHERWISE);
    }
    return fmin(chance, c->most);
}

/* Logarithm of how much likelier it is that the words failed which did, if the lines that stay are
 * to blame, than if no line was. */
static double weigh_sides(const line_case *c)
{
    const failed_read *read = (const failed_read *)(const void *)c->read->data;
    double left[SIDES] = {0}, failed = 0, chance = 0;
    unsigned played = 0;

    for (size_t b = 0; b < c->w->board->bank_count; b++)
        for (unsigned k = 0; rmg_has_bank(&c->s->banks, (uint8_t)b) && k < SAMPLES; k++) {
            sides o;

            if (played < SAMPLES_MOST && take_sides(c, b, k, &o)) {
                play(c, &o);
                played++;
            }
        }
    for (size_t b = 0; b < c->w->board->bank_count; b++)
        for (unsigned i = 0; rmg_has_bank(&c->s->banks, (uint8_t)b) && i < SIDES; i++)
            left[i] += (double)c->w->run->bank_words[b] / sides_of(c->lines);
    for (guint i = 0, n; i < c->read->len; i += n) {
        /* how many are left on each side is as good as known, or as so many that were counted tell
         */
        const double give = c->w->stride > 1 ? SAMPLED * sqrt(failed * (double)c->w->stride) : 1;
        failed_sides f;

        for (n = 1; i + n < c->read->len && read[i + n].step >> 8 == read[i].step >> 8; n++)
            ;
        f = count_sides(c, &read[i], n);
        chance += weigh_element(c, &read[i], &f, left, give);
        for (unsigned k = 0; k < SIDES; k++) {
            left[k] = fmax(0, left[k] - f.words[k] * (double)c->w->stride);
            failed += f.words[k] * (double)c->w->stride;
        }
    }
    return chance;
}

/* What is looked at of the failure set. */
typedef struct looking {
    const weigher *w;
    const site *s;
    GArray *read; /* of failed_read */
} looking;

static void look_at_parts(void *context, rmg_addr address, uint32_t record,
                          const rmg_fail_part *parts, size_t count)
{
    looking *l = context;
    failed_read read = {.step = UINT64_MAX, .bank = RMG_NO_BANK, .address = address};

    (void)record;
    for (size_t b = 0; b < l->w->board->bank_count && read.bank == RMG_NO_BANK; b++)
        if (rmg_has_bank(&l->s->banks, (uint8_t)b) &&
            rmg_where_holds(&l->w->board->bank_wheres[b], address))
            read.bank = (uint8_t)b;
    /* not every so manyth: that may all be on one side */
    if (read.bank == RMG_NO_BANK || rmg_hash(1, address) % l->w->stride)
        return;
    for (size_t n = 0; n < count; n++)
        read.step = MIN(read.step, parts[n].first);
    g_array_append_val(l->read, read);
}

static gint by_step(gconstpointer a, gconstpointer b)
{
    const failed_read *x = a, *y = b;

    return x->step >> 8 != y->step >> 8 ? rmg_by_number(x->step >> 8, y->step >> 8)
                                        : rmg_by_number(x->address, y->address);
}

/* A line, or two behind a multiplexer, and how much likelier it makes what failed, by its level. */
typedef struct candidate {
    rmg_addr lines;
    double chance[2];
} candidate;

/* Lines that the chips of the place have, each by itself; and two that share a pin of them. */
static void list_lines(const weigher *w, const site *s, GArray *list)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];
        const rmg_part *part = w->board->sockets[rule->socket].part;

        for (uint8_t i = 0; rmg_has_bank(&s->banks, rule->bank) && i < rule->address_lines; i++)
            for (uint8_t k = 0; k <= i; k++) {
                const uint8_t a = rule->address_bits[i], b = rule->address_bits[k];
                candidate one = {0, {0, 0}};
                bool had =
                    a == RMG_FEED_0 || a == RMG_FEED_1 || b == RMG_FEED_0 || b == RMG_FEED_1 ||
                    (k < i && rmg_part_address_pin(part, i) != rmg_part_address_pin(part, k));

                if (had)
                    continue;
                one.lines = (rmg_addr)1 << a | (rmg_addr)1 << b;
                for (guint n = 0; n < list->len && !had; n++)
                    had = g_array_index(list, candidate, n).lines == one.lines;
                if (!had)
                    g_array_append_val(list, one);
            }
    }
}

static double weigh_line(const looking *l, rmg_addr lines, rmg_addr stays, bool high, double most)
{
    line_case c = {.w = l->w,
                   .s = l->s,
                   .lines = lines,
                   .stays = stays,
                   .high = high,
                   .read = l->read,
                   .most = most,
                   .passes = MIN(l->w->run->pass_count, PASSES_LOOKED)};
    double chance;

    c.ways = g_new0(ways_to_fail, c.passes * l->w->run->steps.count + 1u);
    chance = weigh_sides(&c);
    g_free(c.ways);
    return chance;
}

/* Two lines are to fit better than none, and than either alone at any level, of the same words: how
 * far they part these makes them more or fewer. */
static void weigh_two(const looking *l, const GArray *list, candidate *two)
{
    double one = 0, alone = 0;

    for (guint i = 0; i < list->len; i++) {
        const candidate *c = &g_array_index(list, candidate, i);

        for (unsigned high = 0; high < 2; high++)
            if (!(c->lines & ~two->lines) && c->lines != two->lines) {
                one = fmax(one, c->chance[high]);
                alone = fmax(alone, weigh_line(l, two->lines, c->lines, high, INFINITY));
            }
    }
    for (unsigned high = 0; high < 2; high++)
        two->chance[high] =
            one + fmin(weigh_line(l, two->lines, two->lines, high, INFINITY) - alone, 2 * AT_MOST);
}

bool rmg_blame_address_line(const weigher *w, const site *s, rmg_addr *blamed, double *sure)
{
    const looking l = {w, s, g_array_new(FALSE, FALSE, sizeof(failed_read))};
    GArray *list = g_array_new(FALSE, TRUE, sizeof(candidate));
    double most = 0, sum = 1 - ONE_LINE;

    list_lines(w, s, list);
    rmg_failset_each_record(w->run->failures, look_at_parts, (void *)&l);
    g_array_sort(l.read, by_step);
    for (unsigned two = 0; two < 2; two++) /* what two are worth is reckoned from the others */
        for (guint i = 0; i < list->len; i++) {
            candidate *one = &g_array_index(list, candidate, i);

            if (two != (sides_of(one->lines) > 2))
                continue;
            if (two)
                weigh_two(&l, list, one);
            for (unsigned high = 0; high < 2 && !two; high++)
                one->chance[high] = weigh_line(&l, one->lines, one->lines, high, AT_MOST);
        }
    for (guint i = 0; i < list->len; i++) {
        const candidate *one = &g_array_index(list, candidate, i);
        const double weight = ONE_LINE / (2.0 * list->len) *
                              (exp(fmin(one->chance[0], 500)) + exp(fmin(one->chance[1], 500)));

        sum += weight;
        if (weight > most) {
            most = weight;
            *blamed = one->lines;
        }
    }
    *sure = most / sum;
    g_array_free(list, TRUE);
    g_array_free(l.read, TRUE);
    return *sure >= NAMED_FROM;
}
