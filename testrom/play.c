/* The steps of a ROM, played on a bus: what it tells there. */
#include "rimeglass/testrom.h"

const uint8_t rmg_testrom_short_march[] = {
    RMG_ORDER_EITHER | 1u, RMG_OP_W0, RMG_ORDER_UP | 2u, RMG_OP_R0, RMG_OP_W1,
    RMG_ORDER_UP | 2u,     RMG_OP_R1, RMG_OP_W0,         0};

/* A play as it stands. */
typedef struct play {
    const rmg_testrom_plan *plan;
    const rmg_target *target;
    const rmg_testrom_listener *to;
    const rmg_testrom_step *step;
    unsigned pass;
    unsigned left;                   /* lines that may be told in this step */
    rmg_word failed;                 /* bits, in this step */
    rmg_word mask;                   /* bits that are looked at */
    uint8_t code;                    /* first finding of the pass */
    rmg_word bad[RMG_TESTROM_BANKS]; /* bits that the data step of a bank found */
    bool home_bad;                   /* the address step of the bank that holds its data failed */
    bool across_bad;                 /* the step across banks did */
    rmg_status status;
} play;

static bool tell(play *p, const rmg_testrom_line *line)
{
    if (p->to->line && !p->to->line(p->to->context, line))
        p->status = RMG_ERR_CANCELLED;
    return p->status == RMG_OK;
}

static rmg_testrom_line line_of(const play *p, rmg_testrom_says says)
{
    return (rmg_testrom_line){.says = says,
                              .kind = p->step ? p->step->kind : RMG_TESTROM_DATA,
                              .bank = p->step ? p->step->bank : 0,
                              .pass = (uint8_t)(p->pass % RMG_TESTROM_PASSES)};
}

static uint8_t lowest(rmg_word bits)
{
    uint8_t bit = 0;

    while (bits && !(bits >> bit & 1u))
        bit++;
    return bit;
}

static uint8_t code_as(uint8_t bank, unsigned what)
{
    return (uint8_t)((unsigned)(bank + 1u) << 5 | what);
}

static uint8_t code_of(const play *p, uint8_t bank, rmg_word bits)
{
    return code_as(bank, p->step->kind == RMG_TESTROM_LINES    ? p->plan->word_bits + 1u
                         : p->step->kind == RMG_TESTROM_ACROSS ? p->plan->word_bits + 2u
                                                               : lowest(bits) + 1u);
}

/* Does the processor keep data in the memory under test? */
static bool keeps(const play *p)
{
    return rmg_testrom_rows[p->plan->processor].home_words != 0;
}

/* Is this the step that is done before there is memory to keep anything in? */
static bool bare(const play *p)
{
    return p->step->kind == RMG_TESTROM_FIRST && keeps(p);
}

/* A read that gave `value`. */
static void check(play *p, uint8_t bank, uint8_t read, rmg_addr address, rmg_word wrote,
                  rmg_word value)
{
    const rmg_word wrong = (wrote ^ value) & p->mask;
    rmg_testrom_line line = line_of(p, RMG_TESTROM_SAYS_FAILED);

    if (!wrong)
        return;
    p->failed |= wrong;
    if (!p->code)
        p->code = bare(p) && wrong & (wrong - 1u) ? code_as(bank, p->plan->word_bits + 1u)
                                                  : code_of(p, bank, wrong);
    p->home_bad |= p->step->kind == RMG_TESTROM_LINES && bank == p->plan->home_bank;
    p->across_bad |= p->step->kind == RMG_TESTROM_ACROSS;
    if (p->step->kind == RMG_TESTROM_DATA) { /* these bits are not looked at again */
        p->bad[bank] |= wrong;
        p->mask &= ~wrong;
    }
    if (!p->left)
        return;
    p->left--;
    line.bank = bank;
    line.code = p->code;
    line.read = read;
    line.at = !bare(p);
    line.unchecked = bare(p);
    line.address = bare(p) ? 0 : address;
    line.wrote = wrote;
    line.read_as = bare(p) ? value : wrote ^ wrong;
    tell(p, &line);
}

static bool put(play *p, rmg_addr address, rmg_word value)
{
    if (p->status == RMG_OK)
        p->status = p->target->bus->write(p->target->context, address, value & p->target->mask);
    return p->status == RMG_OK;
}

static bool get(play *p, rmg_addr address, rmg_word *value)
{
    const uint32_t residue =
        rmg_testrom_rows[p->plan->processor].residue[p->step->kind != RMG_TESTROM_MARCH];

    if (p->to->carries && residue != RMG_TESTROM_NO_RESIDUE)
        p->to->carries(p->to->context,
                       residue == RMG_TESTROM_HIGH_BYTE ? (rmg_word)(address >> 8) : residue);
    if (p->status == RMG_OK)
        p->status = p->target->bus->read(p->target->context, address, value);
    *value &= p->target->mask;
    return p->status == RMG_OK;
}

/* The operations of an element on one word. `read`: number of its first read. */
static bool visit(play *p, const uint8_t *element, uint8_t read, uint8_t bank, rmg_addr address)
{
    const unsigned count = *element & ~RMG_ORDER_MASK & 0xFFu;

    for (unsigned i = 1; i <= count; i++) {
        const rmg_word wants = element[i] & RMG_OP_ONE ? p->target->mask : 0;
        rmg_word value;

        if (element[i] & RMG_OP_WRITE) {
            if (!put(p, address, wants))
                return false;
            continue;
        }
        if (!get(p, address, &value))
            return false;
        check(p, bank, read++, address, wants, value);
        if (p->status != RMG_OK || (bare(p) && p->failed))
            return false;
    }
    return true;
}

static uint8_t reads_of(const uint8_t *element)
{
    uint8_t reads = 0;

    for (unsigned i = 1; i <= (*element & ~RMG_ORDER_MASK & 0xFFu); i++)
        reads = (uint8_t)(reads + !(element[i] & RMG_OP_WRITE));
    return reads;
}

static bool is_hold(const uint8_t *element)
{
    return *element == RMG_ORDER_EITHER;
}

/* Zeros and then a walking one in a word, without memory. *wrong: the bits that read 1 for 0, and
 * where there are none those that could not be set; `any`: only whether there are any. */
static void walk(play *p, rmg_addr word, bool any, rmg_word *wrong)
{
    rmg_word value;

    if (!put(p, word, 0) || !get(p, word, wrong) || *wrong)
        return;
    for (rmg_word one = 1; one >> p->plan->word_bits == 0 && !(any && *wrong); one <<= 1) {
        if (!put(p, word, one) || !get(p, word, &value))
            return;
        *wrong |= value == one ? 0 : one;
    }
}

/* Is another bank's first word wrong too? */
static bool shared(play *p)
{
    rmg_word wrong = 0;

    if (rmg_testrom_code_shared(p->plan))
        walk(p, rmg_testrom_other_word(p->plan), true, &wrong);
    return wrong != 0;
}

/* The first word, without memory. The bits that are wrong are told, no value. */
static void bare_data(play *p)
{
    const unsigned width = p->plan->word_bits;
    rmg_testrom_line line = line_of(p, RMG_TESTROM_SAYS_FAILED);
    rmg_word wrong = 0;
    uint8_t bank;

    walk(p, p->step->range.first, false, &wrong);
    if (!wrong || p->status != RMG_OK)
        return;
    p->failed = wrong;
    bank = shared(p) ? (uint8_t)(rmg_testrom_code_shared(p->plan) - 1u) : p->step->bank;
    p->code = (wrong + 1u) >> width  ? code_as(bank, RMG_TESTROM_CODE_ALL(width))
              : wrong & (wrong - 1u) ? code_as(bank, RMG_TESTROM_CODE_SEVERAL(width))
                                     : code_of(p, bank, wrong);
    line.kind = RMG_TESTROM_DATA;
    line.unchecked = true;
    line.code = p->code;
    line.read_as = wrong;
    tell(p, &line);
}

/* The march of a range of words. */
static void march(play *p, const uint8_t *code)
{
    uint8_t read = 0;

    for (const uint8_t *e = code; *e; e += (*e & ~RMG_ORDER_MASK & 0xFFu) + 1u) {
        const rmg_range *r = &p->step->range;
        const bool down = (*e & RMG_ORDER_MASK) == RMG_ORDER_DOWN;

        if (is_hold(e)) {
            if (p->target->bus->wait)
                p->status =
                    p->target->bus->wait(p->target->context, p->plan->hold_ms * UINT32_C(1000));
            continue;
        }
        for (rmg_addr n = 0; n <= r->last - r->first; n++) {
            const rmg_addr address = down ? r->last - n : r->first + n;

            if (p->to->passes && p->to->passes(p->to->context, address)) {
                const rmg_addr in_block = address & (RMG_TESTROM_BLOCK - 1u);

                n += down ? in_block : RMG_TESTROM_BLOCK - 1u - in_block; /* all of its block do */
                continue;
            }
            if (!visit(p, e, read, p->step->bank, address))
                return;
        }
        read = (uint8_t)(read + reads_of(e));
    }
}

/* The bank's first word, then those that differ from it in one line, the highest first: a line
 * without effect fails at the word that it leads to. */
static void lines(play *p)
{
    const rmg_range *r = &p->step->range;
    rmg_addr top = 1;
    uint8_t read = 0;

    while (top <= (r->last - r->first) / 2u && !((r->first >> 1) & top))
        top <<= 1;
    for (const uint8_t *e = rmg_testrom_short_march; *e; e += (*e & ~RMG_ORDER_MASK & 0xFFu) + 1u) {
        if (!visit(p, e, read, p->step->bank, r->first))
            return;
        for (rmg_addr line = top; line; line >>= 1)
            if (!visit(p, e, read, p->step->bank, r->first + line))
                return;
        read = (uint8_t)(read + reads_of(e));
    }
}

static void across(play *p)
{
    uint8_t read = 0;

    for (const uint8_t *e = rmg_testrom_short_march; *e; e += (*e & ~RMG_ORDER_MASK & 0xFFu) + 1u) {
        for (uint8_t b = 0; b < p->plan->bank_count; b++) {
            p->mask = p->plan->banks[b].bits;
            if (keeps(p)) /* bits that are bad by themselves say nothing of banks */
                p->mask &= ~p->bad[b];
            if (!visit(p, e, read, b, p->plan->banks[b].range.first))
                return;
        }
        read = (uint8_t)(read + reads_of(e));
    }
}

static void data(play *p)
{
    for (uint8_t bit = 0; bit < p->plan->word_bits; bit++)
        for (uint8_t zero = 0; zero < 2; zero++) {
            const rmg_word one = (rmg_word)1 << bit;
            const rmg_word wrote = (zero ? ~one : one) & p->target->mask;
            rmg_word value;

            if (!put(p, p->step->range.first, wrote) || !get(p, p->step->range.first, &value))
                return;
            check(p, p->step->bank, zero, p->step->range.first, wrote, value);
            if (p->status != RMG_OK)
                return;
        }
}

void rmg_testrom_add_word(const rmg_testrom_plan *plan, rmg_testrom_sums *sums, rmg_word word)
{
    const uint16_t mask = plan->word_bits == 16 ? 0xFFFFu : 0xFFu;

    sums->words = (uint16_t)(sums->words + word) & mask;
    sums->sums = (uint16_t)(sums->sums + sums->words) & mask;
}

/* Tells the sums of a page that are not `wanted`. */
static bool sum_page(play *p, rmg_addr page, const rmg_testrom_sums *wanted, uint8_t reading)
{
    rmg_testrom_line line = line_of(p, RMG_TESTROM_SAYS_PAGE);
    rmg_testrom_sums sums = {0, 0};
    rmg_word value;

    for (rmg_addr n = 0; n < 256u; n++) {
        if (!get(p, page + n, &value))
            return false;
        rmg_testrom_add_word(p->plan, &sums, value);
    }
    if (sums.words == wanted->words && sums.sums == wanted->sums)
        return false;
    if (!p->code)
        p->code = (uint8_t)RMG_TESTROM_CODE_ROM(p->step->bank);
    line.at = true;
    line.address = page;
    line.read = reading;
    line.wrote = sums.words;
    line.read_as = sums.sums;
    tell(p, &line);
    return true;
}

static void tell_page(play *p, rmg_addr page)
{
    const unsigned bytes = p->plan->word_bits / 8u;
    rmg_testrom_line line = line_of(p, RMG_TESTROM_SAYS_CONTENTS);
    rmg_word value;

    line.at = true;
    for (rmg_addr n = 0; n < 256u; n++) {
        const unsigned at = (unsigned)n * bytes % RMG_TESTROM_DATA_BYTES;

        if (!get(p, page + n, &value))
            return;
        line.address = page + n - at / bytes;
        line.data[at] = (uint8_t)(bytes == 2 ? value >> 8 : value);
        if (bytes == 2)
            line.data[at + 1u] = (uint8_t)value;
        if (at + bytes == RMG_TESTROM_DATA_BYTES && !tell(p, &line))
            return;
    }
}

/* The pages of a ROM. Of one whose contents are not known all is told. */
static void read_rom(play *p)
{
    const rmg_testrom_rom *rom = &p->plan->roms[p->step->bank];
    const rmg_testrom_sums *wanted = &p->plan->sums[rom->first_page];

    for (rmg_addr page = rom->range.first; p->status == RMG_OK; page += 256u, wanted++) {
        bool differs = !rom->known;

        for (uint8_t n = 0; rom->known && n < RMG_TESTROM_READINGS; n++)
            if (sum_page(p, page, wanted, n)) {
                differs = true;
                p->left = p->plan->lines - 1u; /* something was told */
            }
        if (differs && p->status == RMG_OK)
            tell_page(p, page);
        if (page + 255u >= rom->range.last)
            return;
    }
}

/* Would this step destroy data that the ROM keeps at the lowest addresses? */
static bool skipped(const play *p)
{
    return keeps(p) && p->step->kind == RMG_TESTROM_MARCH &&
           (p->across_bad || (p->home_bad && p->step->bank == p->plan->home_bank));
}

static void play_step(play *p)
{
    const bool rom = p->step->kind == RMG_TESTROM_ROM;
    const bool ends =
        p->step->kind == RMG_TESTROM_MARCH || p->step->kind == RMG_TESTROM_FIRST || rom;
    rmg_testrom_line end = line_of(p, RMG_TESTROM_SAYS_DONE);

    p->left = p->plan->lines;
    p->failed = 0;
    p->mask = rom ? 0 : p->plan->banks[p->step->bank].bits;
    if (skipped(p)) {
        end.says = RMG_TESTROM_SAYS_SKIPPED;
        tell(p, &end);
        return;
    }
    switch (p->step->kind) {
    case RMG_TESTROM_DATA:
        p->bad[p->step->bank] = 0;
        data(p);
        break;
    case RMG_TESTROM_LINES:
        p->mask &= ~p->bad[p->step->bank];
        lines(p);
        break;
    case RMG_TESTROM_ACROSS:
        across(p);
        break;
    case RMG_TESTROM_FIRST:
    case RMG_TESTROM_MARCH:
        if (bare(p))
            bare_data(p);
        if (bare(p) && p->failed)
            break;
        march(p, p->step->kind == RMG_TESTROM_FIRST && bare(p) ? rmg_testrom_short_march
                                                               : p->plan->march);
        break;
    case RMG_TESTROM_ROM:
        read_rom(p);
        break;
    default:
        break;
    }
    end.says = p->left ? RMG_TESTROM_SAYS_DONE : RMG_TESTROM_SAYS_MORE;
    end.bits = p->failed;
    if (ends && !bare(p) && p->status == RMG_OK)
        tell(p, &end);
}

rmg_status rmg_testrom_play(const rmg_testrom_plan *plan, const rmg_target *target,
                            const rmg_testrom_listener *listener, unsigned passes)
{
    play p = {.plan = plan, .target = target, .to = listener};
    bool dead = false;

    for (unsigned n = 0; n < passes && p.status == RMG_OK; n++, p.pass++) {
        rmg_testrom_line end;

        p.step = NULL;
        p.code = 0;
        if (dead) /* it began anew, with its first pass */
            p.pass = 0;
        dead = false;
        p.home_bad = p.across_bad = false;
        end = line_of(&p, RMG_TESTROM_SAYS_START);
        tell(&p, &end);
        for (uint8_t s = 0; s < plan->step_count && p.status == RMG_OK; s++) {
            p.step = &plan->steps[s];
            if (bare(&p) && p.pass)
                continue; /* its data are there */
            play_step(&p);
            dead = bare(&p) && p.failed;
            if (dead)
                break; /* it cannot keep its data there: nothing else can be done */
        }
        p.step = NULL;
        end = line_of(&p, RMG_TESTROM_SAYS_END);
        end.code = p.code;
        end.unchecked = dead;
        if (p.status == RMG_OK)
            tell(&p, &end);
    }
    return p.status;
}
