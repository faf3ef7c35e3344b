/* What a test ROM told, against what it would tell of every fault that the board can have. Its
 * steps are known, and so is what it leaves out: a fault that gives other lines is not it. */
#include <math.h>
#include <string.h>

#include "internal.h"
#include "base/internal.h"
#include "rimeglass/heard.h"
#include "run/internal.h"

#define SUREST    0.97 /* of all that is tried together: a fault that nobody thought of remains */
#define ONE_PASS  0.90 /* ... of one pass, which may have been disturbed */
#define ONCE      0.60 /* ... in which very few reads failed: that may be chance */
#define BLINKED   0.75 /* ... of which the first finding is all that is known */
#define CUT       0.40 /* ... where not all was tried */
#define FEW_LINES 3u
#define SEVERAL   0.1 /* for each fault more than one that it takes at the same place */
#define PART_SURE                                                                                  \
    0.80 /* ... where several faults are needed, each explaining some of the lines                 \
          */

/* What was told of each bank: bits that read 1 for 0, and 0 for 1. */
typedef struct seen_bits {
    rmg_word high, low;
} seen_bits;

/* A place that is tried. */
typedef struct candidate {
    rmg_finding finding;
    double weight;
    GArray *replays; /* of rmg_replayed; NULL: nothing gave the same */
} candidate;

typedef struct teller {
    rmg_stage *stage;
    const rmg_run *run;
    const rmg_told *told;
    seen_bits *seen;          /* [bank_count] of the board */
    GArray *tried;            /* of candidate */
    uint8_t only;             /* bank of the plan whose lines count; RMG_TESTROM_BANKS: all */
    rmg_testrom_plan plan;    /* with the steps of that bank alone */
    bool later;               /* the pass that was heard was not the first */
    bool data_alone;          /* the lines of data steps alone count */
    const rmg_replayed *with; /* a fault that is there too; NULL: none */
    uint64_t work;            /* that may be done; 0: as much as it takes */
    bool cut;                 /* not all was tried */
    bool (*go_on)(void *context, double share);
    void *context;
} teller;

/* How often each kind of place is it, in the bench's experience; only ratios count. The table is in
 * docs/test-rom.md. */
static double weight_of(rmg_finding_kind kind)
{
    switch (kind) {
    case RMG_FINDING_DATA_AT_SOCKET:
    case RMG_FINDING_CELLS:
        return 1;
    case RMG_FINDING_BANK_SILENT:
        return 0.5;
    case RMG_FINDING_DATA_LINE:
    case RMG_FINDING_NEVER_WRITTEN:
        return 0.4;
    case RMG_FINDING_BANKS_SAME:
        return 0.3;
    case RMG_FINDING_ALL_SILENT:
    case RMG_FINDING_BANK_NEVER_WRITTEN:
        return 0.2;
    case RMG_FINDING_BRANCH: /* each line of many */
        return 0.11;
    case RMG_FINDING_ADDRESS_AT_SOCKET:
    case RMG_FINDING_ADDRESS_OF_BANK:
    case RMG_FINDING_STALE:
    case RMG_FINDING_DRAGGED:
        return 0.1;
    case RMG_FINDING_DATA_SHORT: /* each pair of many */
    case RMG_FINDING_ADDRESS_LINES:
        return 0.05;
    default:
        return 0.01;
    }
}

/* A comparison as the lines come. */
typedef struct hearing {
    const teller *t;
    size_t next;
    bool wrong, code_seen;
    bool waits; /* for the second pass */
    uint8_t code;
} hearing;

static bool counts(const teller *t, const rmg_testrom_line *line)
{
    if (line->says == RMG_TESTROM_SAYS_START || line->says == RMG_TESTROM_SAYS_SUM)
        return false;
    if (t->data_alone)
        return line->kind == RMG_TESTROM_DATA && line->says == RMG_TESTROM_SAYS_FAILED;
    return t->only == RMG_TESTROM_BANKS ||
           (line->bank == t->only && line->kind != RMG_TESTROM_ACROSS &&
            line->says != RMG_TESTROM_SAYS_END);
}

static bool hear(void *context, const rmg_testrom_line *line)
{
    hearing *h = context;
    const rmg_told *told = h->t->told;

    if (h->waits) {
        h->waits = line->says != RMG_TESTROM_SAYS_START || !line->pass;
        return true;
    }
    if (told->blinks) { /* the first finding is all that can be compared */
        if (line->says != RMG_TESTROM_SAYS_FAILED && line->says != RMG_TESTROM_SAYS_END)
            return true;
        h->code = line->code;
        h->code_seen = true;
        return false;
    }
    if (!counts(h->t, line))
        return true;
    while (h->next < told->count && !counts(h->t, &told->lines[h->next]))
        h->next++;
    h->wrong = h->next >= told->count || !rmg_testrom_lines_alike(&told->lines[h->next], line);
    h->next++;
    return !h->wrong;
}

/* Does the board with these faults tell what was told? `settled`: in its second pass. */
static bool tells_same(const teller *t, const rmg_sim_fault *faults, uint16_t count,
                       unsigned contents, bool settled)
{
    hearing h = {.t = t, .waits = settled};
    rmg_sim_fault all[2u * PROPOSAL_FAULTS];

    memcpy(all, faults, count * sizeof *faults);
    if (t->with) {
        memcpy(all + count, t->with->faults, t->with->fault_count * sizeof *faults);
        count = (uint16_t)(count + t->with->fault_count);
    }
    if (!rmg_stage_tell(t->stage, &t->plan, all, count, contents, settled ? 2 : 1, hear, &h) ||
        h.wrong)
        return false;
    if (t->told->blinks)
        return h.code_seen && h.code == t->told->lines[t->told->count - 1u].code;
    while (h.next < t->told->count && !counts(t, &t->told->lines[h.next]))
        h.next++;
    return h.next == t->told->count;
}

/* Do they depend on what was done before, and so may tell something else in a later pass? */
static bool remember(const proposal *p)
{
    for (uint16_t i = 0; i < p->count; i++)
        if (rmg_fault_is(p->faults[i].kind, RMG_TRAIT_HISTORY) &&
            rmg_fault_is(p->faults[i].kind, RMG_TRAIT_CELLS))
            return true;
    return false;
}

/* The same with all that undriven lines may do and memory may come up with. */
static bool try_faults(const teller *t, const proposal *p, rmg_replayed *result)
{
    for (int f = RMG_FLOATS_AS_FILE; f < RMG_FLOATS; f++) {
        bool same = false;

        if (f != RMG_FLOATS_AS_FILE &&
            (!rmg_stage_undriven(p->faults, p->count) || !rmg_stage_float(t->stage, (rmg_floats)f)))
            continue;
        for (unsigned c = 0; c < rmg_stage_contents(p->faults, p->count) && !same; c++)
            same = tells_same(t, p->faults, p->count, c, t->later && remember(p));
        rmg_stage_float(t->stage, RMG_FLOATS_AS_FILE);
        result->floats = result->first_floats = (rmg_floats)f;
        if (same)
            return true;
    }
    result->floats = result->first_floats = RMG_FLOATS_AS_FILE;
    return false;
}

/* Tries all that a place can be; keeps what came of it where something gave the same. */
static bool try_place(teller *t, candidate *c)
{
    rmg_suspect suspect = {.finding = c->finding};
    GPtrArray *proposals = rmg_propose(t->run, &suspect);
    GArray *replays = g_array_new(FALSE, TRUE, sizeof(rmg_replayed));
    guint same = 0;

    for (guint i = 0; i < proposals->len; i++) {
        const proposal *p = proposals->pdata[i];
        rmg_replayed r = {.is = p->is, .causes = p->causes, .whole = true};

        if (!p->count || p->vague)
            continue;
        r.same = try_faults(t, p, &r);
        r.as_often = r.same;
        r.explained = r.same ? t->told->count : 0;
        r.left = r.same ? 0 : t->told->count;
        r.faults = g_memdup2(p->faults, p->count * sizeof *p->faults);
        r.fault_count = p->count;
        if (r.same)
            g_array_insert_val(replays, same++, r);
        else
            g_array_append_val(replays, r);
    }
    g_ptr_array_free(proposals, TRUE);
    if (same) {
        c->replays = replays;
        return true;
    }
    for (guint i = 0; i < replays->len; i++)
        g_free(g_array_index(replays, rmg_replayed, i).faults);
    g_array_free(replays, TRUE);
    return false;
}

/* Faults that it takes at least to give the same. */
static double fewest(const GArray *replays)
{
    size_t least = PROPOSAL_FAULTS;

    for (guint i = 0; i < replays->len; i++)
        if (g_array_index(replays, rmg_replayed, i).same)
            least = MIN(least, g_array_index(replays, rmg_replayed, i).fault_count);
    return (double)least;
}

static rmg_finding finding_of(rmg_finding_kind kind)
{
    return (rmg_finding){.kind = kind,
                         .socket = RMG_NO_SOCKET,
                         .bank = RMG_NO_BANK,
                         .lane = RMG_NO_BANK,
                         .bank2 = RMG_NO_BANK,
                         .point = RMG_NO_POINT};
}

static void add(teller *t, rmg_finding f)
{
    candidate c = {.finding = f, .weight = weight_of(f.kind)};

    t->cut |= t->stage->starved || (t->work && t->stage->work >= t->work) ||
              (t->go_on && !t->go_on(t->context, 0));
    if (t->cut ||
        (t->only != RMG_TESTROM_BANKS && f.bank == RMG_NO_BANK)) /* others would tell of it too */
        return;
    if (!try_place(t, &c))
        return;
    c.weight *= pow(SEVERAL, fewest(c.replays) - 1);
    g_array_append_val(t->tried, c);
}

static bool is_ram(const rmg_board *board, size_t bank)
{
    return board->banks[bank].part && board->banks[bank].part->kind != RMG_PART_ROM;
}

/* The only bank of RAM that a socket has bits in; RMG_NO_BANK: none, or several. */
static uint8_t bank_of(const rmg_board *board, uint16_t socket)
{
    uint8_t found = RMG_NO_BANK;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->socket == socket && rule->bank != RMG_NO_BANK && is_ram(board, rule->bank))
            found = found == RMG_NO_BANK || found == rule->bank ? rule->bank : RMG_NO_BANK;
    }
    return found;
}

static void data_places(teller *t)
{
    const rmg_board *board = t->run->board;

    for (uint8_t i = 0; i < board->word_bits; i++) {
        rmg_finding f = finding_of(RMG_FINDING_DATA_LINE);

        f.bits = (rmg_word)1 << i;
        add(t, f);
        for (uint8_t n = (uint8_t)(i + 1u); n < board->word_bits; n++)
            for (unsigned wins = 0; wins < 2; wins++) {
                f = finding_of(RMG_FINDING_DATA_SHORT);
                f.bits = (rmg_word)1 << i | (rmg_word)1 << n;
                f.high_wins = wins;
                add(t, f);
                for (size_t b = 0; b < board->bank_count; b++)
                    if (is_ram(board, b)) {
                        f.bank = (uint8_t)b;
                        add(t, f);
                    }
            }
    }
}

/* Do all of these bus address lines reach the chip, or with RMG_NO_SOCKET some chip of RAM? */
static bool reaches(const rmg_board *board, uint16_t socket, rmg_addr lines)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        rmg_addr of = 0;

        for (uint8_t k = 0; k < rule->address_lines; k++)
            if (rule->address_bits[k] < RMG_ADDR_BITS)
                of |= (rmg_addr)1 << rule->address_bits[k];
        if ((socket == RMG_NO_SOCKET || rule->socket == socket) && !(lines & ~of) &&
            is_ram(board, rule->bank))
            return true;
    }
    return false;
}

/* What the data pins of a chip can be. */
static void data_of_chip(teller *t, uint16_t socket)
{
    const rmg_board *board = t->run->board;
    const uint8_t bank = bank_of(board, socket);
    rmg_finding f = finding_of(RMG_FINDING_DATA_AT_SOCKET);
    rmg_word bits;

    if (bank == RMG_NO_BANK)
        return;
    bits = rmg_board_bits(board, bank, socket);
    f.socket = socket;
    f.bank = bank;
    f.high = t->seen[bank].high & ~t->seen[bank].low & bits;
    f.low = t->seen[bank].low & ~t->seen[bank].high & bits;
    f.bits = (t->seen[bank].high | t->seen[bank].low) & bits;
    if (f.bits)
        add(t, f);
    if (f.bits && t->told->blinks) { /* they do not say which level it was */
        f.high = f.bits;
        add(t, f);
    }
    f.bits = bits;
    f.high = f.low = 0;
    f.kind = RMG_FINDING_NEVER_WRITTEN;
    add(t, f);
    f.kind = RMG_FINDING_STALE;
    add(t, f);
}

/* ... its cells, and whether it answers for another bank. */
static void cells_of_chip(teller *t, uint16_t socket)
{
    const rmg_board *board = t->run->board;
    const uint8_t bank = bank_of(board, socket);
    rmg_finding f = finding_of(RMG_FINDING_CELLS);
    rmg_word bits;

    if (bank == RMG_NO_BANK)
        return;
    bits = rmg_board_bits(board, bank, socket);
    f.socket = socket;
    f.bank = bank;
    f.bits = (t->seen[bank].high | t->seen[bank].low) & bits;
    if (f.bits)
        add(t, f);
    f.bits = bits;
    f.kind = RMG_FINDING_DRAGGED;
    for (size_t b = 0; b < board->bank_count; b++)
        for (unsigned wins = 0; wins < 2; wins++)
            if (b != bank && is_ram(board, b)) {
                f.bank2 = (uint8_t)b;
                f.high_wins = wins;
                add(t, f);
            }
}

/* ... its address pins. */
static void address_of_chip(teller *t, uint16_t socket)
{
    const rmg_board *board = t->run->board;
    rmg_finding f = finding_of(RMG_FINDING_ADDRESS_AT_SOCKET);

    f.socket = socket;
    f.bank = bank_of(board, socket);
    if (f.bank == RMG_NO_BANK)
        return;
    f.bits = rmg_board_bits(board, f.bank, socket);
    for (uint8_t line = 0; line < board->address_bits; line++) {
        f.lines = (rmg_addr)1 << line;
        if (reaches(board, socket, f.lines))
            add(t, f);
    }
}

static void each_socket(teller *t, void (*places)(teller *t, uint16_t socket))
{
    for (uint16_t s = 0; s < t->run->board->socket_count; s++)
        places(t, s);
}

static void address_places(teller *t)
{
    const rmg_board *board = t->run->board;

    for (uint8_t i = 0; i < board->address_bits; i++) {
        rmg_finding f = finding_of(RMG_FINDING_ADDRESS_LINES);

        f.lines = (rmg_addr)1 << i;
        if (!reaches(board, RMG_NO_SOCKET, f.lines))
            continue;
        add(t, f);
        f.kind = RMG_FINDING_ADDRESS_OF_BANK;
        for (size_t b = 0; b < board->bank_count; b++)
            if (is_ram(board, b)) {
                f.bank = (uint8_t)b;
                add(t, f);
            }
        for (uint8_t n = (uint8_t)(i + 1u); n < board->address_bits; n++)
            for (unsigned wins = 0; wins < 2; wins++) {
                f = finding_of(RMG_FINDING_ADDRESS_SHORT);
                f.lines = (rmg_addr)1 << i | (rmg_addr)1 << n;
                f.high_wins = wins;
                if (!reaches(board, RMG_NO_SOCKET, f.lines))
                    continue;
                add(t, f);
                for (size_t b = 0; b < board->bank_count; b++)
                    if (is_ram(board, b)) {
                        f.bank = (uint8_t)b;
                        add(t, f);
                    }
                for (uint16_t s = 0; s < board->socket_count; s++)
                    if (bank_of(board, s) != RMG_NO_BANK && reaches(board, s, f.lines)) {
                        f.socket = s;
                        f.bank = bank_of(board, s);
                        f.bits = rmg_board_bits(board, f.bank, s);
                        add(t, f);
                    }
            }
    }
}

static void bank_places(teller *t)
{
    const rmg_board *board = t->run->board;

    add(t, finding_of(RMG_FINDING_ALL_SILENT));
    add(t, finding_of(RMG_FINDING_BANK_NEVER_WRITTEN));
    for (size_t b = 0; b < board->bank_count; b++) {
        rmg_finding f = finding_of(RMG_FINDING_BANK_SILENT);

        if (!is_ram(board, b))
            continue;
        f.bank = (uint8_t)b;
        f.bits = rmg_board_bits(board, f.bank, RMG_NO_SOCKET);
        add(t, f);
        f.kind = RMG_FINDING_BANK_NEVER_WRITTEN;
        add(t, f);
        for (size_t n = 0; n < board->bank_count; n++)
            for (unsigned wins = 0; wins < 2; wins++)
                if (n != b && is_ram(board, n)) {
                    f.bank2 = (uint8_t)n;
                    f.bits = 0;
                    f.high_wins = wins;
                    f.kind = RMG_FINDING_BANKS_BOTH;
                    add(t, f);
                    f.kind = RMG_FINDING_BANKS_SAME;
                    if (n > b)
                        add(t, f);
                }
    }
}

/* RAM chips beyond a point of a line: how many, and their bank if it is one. */
static unsigned beyond(const rmg_board *board, const rmg_line *line, uint16_t point, uint8_t *bank)
{
    bool *sockets = g_new0(bool, MAX(board->socket_count, 1u));
    unsigned count = 0;

    *bank = RMG_NO_BANK;
    for (uint16_t p = point; p < line->point_count; p++) {
        uint16_t up = p;
        const uint16_t socket = line->points[p].socket;

        while (up != RMG_NO_POINT && up != point)
            up = line->points[up].parent;
        if (up != point || socket == RMG_NO_SOCKET || sockets[socket] ||
            bank_of(board, socket) == RMG_NO_BANK)
            continue;
        sockets[socket] = true;
        *bank = !count++ || *bank == bank_of(board, socket) ? bank_of(board, socket) : RMG_NO_BANK;
    }
    g_free(sockets);
    return count;
}

/* Points of traced lines beyond which several chips lie. */
static void branch_places(teller *t)
{
    const rmg_board *board = t->run->board;

    for (size_t n = 0; n < board->line_count; n++) {
        const rmg_line *line = &board->lines[n];
        unsigned before = 0;

        for (uint16_t p = 0; p < line->point_count; p++) {
            rmg_finding f = finding_of(RMG_FINDING_BRANCH);
            const unsigned count = beyond(board, line, p, &f.bank);

            if (line->points[p].parent == RMG_NO_POINT || count < 2 || count == before)
                continue; /* further points beyond which the same lie say nothing new */
            before = count;
            f.line = (uint16_t)n;
            f.point = p;
            f.of = line->kind == RMG_LINE_DATA      ? RMG_FINDING_DATA_AT_SOCKET
                   : line->kind == RMG_LINE_ADDRESS ? RMG_FINDING_ADDRESS_OF_BANK
                                                    : RMG_FINDING_NEVER_WRITTEN;
            if (line->kind == RMG_LINE_CONTROL && !line->writes)
                continue;
            f.bits = line->kind == RMG_LINE_DATA ? (rmg_word)1 << line->bit : 0;
            f.lines = line->kind == RMG_LINE_ADDRESS ? (rmg_addr)1 << line->bit : 0;
            add(t, f);
        }
    }
}

/* All places of the board. */
static void try_all(teller *t)
{
    data_places(t);
    bank_places(t);
    each_socket(t, data_of_chip);
    each_socket(t, cells_of_chip);
    each_socket(t, address_of_chip);
    address_places(t);
    branch_places(t);
}

/* Are two places one for the technician: the same socket, or the same lines? */
static bool one_place(const rmg_finding *a, const rmg_finding *b)
{
    if (a->socket != RMG_NO_SOCKET || b->socket != RMG_NO_SOCKET)
        return a->socket == b->socket;
    if (a->lines && a->lines == b->lines && a->bank == b->bank &&
        (a->kind == RMG_FINDING_BRANCH || a->kind == RMG_FINDING_ADDRESS_OF_BANK) &&
        (b->kind == RMG_FINDING_BRANCH || b->kind == RMG_FINDING_ADDRESS_OF_BANK))
        return a->kind != b->kind; /* all of a bank, traced or not */
    if (rmg_finding_row(a->kind)->proposes == RMG_PROPOSES_SELECTS &&
        rmg_finding_row(b->kind)->proposes == RMG_PROPOSES_SELECTS)
        return MIN(a->bank, a->bank2) == MIN(b->bank, b->bank2) &&
               MAX(a->bank, a->bank2) == MAX(b->bank, b->bank2);
    return a->kind == b->kind && a->bits == b->bits && a->lines == b->lines &&
           a->kind != RMG_FINDING_BRANCH && a->kind != RMG_FINDING_BANK_SILENT &&
           a->kind != RMG_FINDING_BANK_NEVER_WRITTEN;
}

/* Joins places that are one: the likeliest is named, the faults of all stand with it. The list is
 * sorted. */
static void join_places(GArray *tried)
{
    for (guint i = 0; i < tried->len; i++)
        for (guint n = tried->len; n-- > i + 1u;) {
            candidate *a = &g_array_index(tried, candidate, i);
            candidate *b = &g_array_index(tried, candidate, n);
            guint same = 0;

            if (!one_place(&a->finding, &b->finding))
                continue;
            while (same < a->replays->len && g_array_index(a->replays, rmg_replayed, same).same)
                same++;
            for (guint k = 0; k < b->replays->len; k++) {
                const rmg_replayed *r = &g_array_index(b->replays, rmg_replayed, k);

                if (r->same)
                    g_array_insert_vals(a->replays, same++, r, 1);
                else
                    g_free(r->faults);
            }
            a->weight += b->weight;
            g_array_free(b->replays, TRUE);
            g_array_remove_index(tried, n);
        }
}

static gint heavier(gconstpointer a, gconstpointer b)
{
    const candidate *x = a, *y = b;

    return x->weight < y->weight ? 1 : x->weight > y->weight ? -1 : 0;
}

/* Puts the places into the suspects instead of what is there. Each of `lists` holds places of which
 * one is it. */
static void conclude(teller *t, GArray *const *lists, size_t list_count, double sure,
                     rmg_suspects *suspects)
{
    GArray *findings = g_array_new(FALSE, TRUE, sizeof(rmg_finding));
    const rmg_facts *facts = suspects->facts;
    size_t n = 0;

    for (size_t l = 0; l < list_count; l++)
        for (guint i = 0; i < lists[l]->len; i++)
            g_array_append_val(findings, g_array_index(lists[l], candidate, i).finding);
    rmg_suspects_free(suspects);
    rmg_suspects_of(t->run, facts, findings, suspects);
    g_array_free(findings, TRUE);
    for (size_t l = 0; l < list_count; l++) {
        double all = 0;

        for (guint i = 0; i < lists[l]->len; i++)
            all += g_array_index(lists[l], candidate, i).weight;
        for (guint i = 0; i < lists[l]->len; i++, n++) {
            candidate *c = &g_array_index(lists[l], candidate, i);
            rmg_suspect *s = &suspects->list[n];

            s->replay_count = c->replays->len;
            s->replays = rmg_array_take(c->replays);
            c->replays = NULL;
            s->confidence = sure * c->weight / all;
            s->explained = list_count == 1 ? 1.0 : 1.0 / (double)list_count;
            rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_ROM_TELLS_SAME));
            if (lists[l]->len > 1) {
                rmg_saying others = rmg_say_of(&s->finding, RMG_SAY_ONE_OF_SUSPECTS);

                others.n = lists[l]->len;
                rmg_suspect_add_reason(s, others);
            }
            rmg_replay_tell_undriven(t->run->board, s);
            rmg_replay_rule_out(s);
            rmg_replay_steps(s);
        }
    }
}

/* How sure a place can be at most, by what was heard. */
static double surest(const teller *t)
{
    const rmg_told *told = t->told;
    unsigned failed = 0;

    for (size_t i = 0; i < told->count; i++)
        failed += told->lines[i].says == RMG_TESTROM_SAYS_FAILED;
    if (t->cut) /* another place may tell the same */
        return CUT;
    return told->blinks         ? BLINKED
           : told->passes > 1   ? SUREST
           : failed > FEW_LINES ? ONE_PASS
                                : ONCE;
}

static void see_bits(teller *t)
{
    const rmg_testrom_line *end = &t->told->lines[t->told->count - 1u];
    const unsigned bit = RMG_TESTROM_CODE_BIT(end->code);
    unsigned of = RMG_TESTROM_CODE_BANK(end->code);

    if (of && of == rmg_testrom_code_shared(&t->told->plan))
        of = t->told->plan.home_bank + 1u;
    if (t->told->blinks && of && of <= t->told->plan.bank_count) {
        const uint8_t bank = rmg_dead_bank(t->run->board, t->told->plan.banks[of - 1u].range.first);

        if (bank != RMG_NO_BANK && bit <= t->told->plan.word_bits)
            t->seen[bank].high = t->seen[bank].low = (rmg_word)1 << (bit - 1u);
        else if (bank != RMG_NO_BANK && bit > t->told->plan.word_bits + 2u) /* any of them */
            t->seen[bank].high = t->seen[bank].low = t->told->plan.banks[of - 1u].bits;
    }
    for (size_t i = 0; i < t->told->count; i++) {
        const rmg_testrom_line *line = &t->told->lines[i];
        const uint8_t bank = rmg_dead_bank(
            t->run->board, line->at ? line->address : t->told->plan.banks[line->bank].range.first);

        if (line->says != RMG_TESTROM_SAYS_FAILED || bank == RMG_NO_BANK ||
            line->kind == RMG_TESTROM_LINES)
            continue;
        t->seen[bank].high |= line->read_as & ~line->wrote;
        t->seen[bank].low |= line->wrote & ~line->read_as;
    }
}

static void free_tried(GArray *tried)
{
    for (guint i = 0; i < tried->len; i++) {
        GArray *replays = g_array_index(tried, candidate, i).replays;

        for (guint n = 0; replays && n < replays->len; n++)
            g_free(g_array_index(replays, rmg_replayed, n).faults);
        if (replays)
            g_array_free(replays, TRUE);
    }
    g_array_free(tried, TRUE);
}

/* Did a line of this bank tell a failure? */
static bool bank_failed(const rmg_told *told, uint8_t bank)
{
    for (size_t i = 0; i < told->count; i++)
        if (told->lines[i].says == RMG_TESTROM_SAYS_FAILED && told->lines[i].bank == bank &&
            told->lines[i].kind != RMG_TESTROM_ACROSS)
            return true;
    return false;
}

/* Leaves the steps over RAM. */
static rmg_testrom_plan over_ram(const rmg_testrom_plan *all)
{
    rmg_testrom_plan plan = *all;

    plan.step_count = 0;
    for (unsigned i = 0; i < all->step_count; i++)
        if (all->steps[i].kind != RMG_TESTROM_ROM)
            plan.steps[plan.step_count++] = all->steps[i];
    return plan;
}

/* Leaves the steps of one bank. */
static void keep_steps(teller *t, uint8_t bank)
{
    const rmg_testrom_plan all = over_ram(&t->told->plan);

    t->plan = all;
    t->plan.step_count = 0;
    for (unsigned i = 0; i < all.step_count; i++)
        if (all.steps[i].bank == bank && all.steps[i].kind != RMG_TESTROM_ACROSS)
            t->plan.steps[t->plan.step_count++] = all.steps[i];
}

/* No one fault tells all: one for each bank that failed, as far as its own lines go. */
static void bank_by_bank(teller *t, rmg_suspects *suspects)
{
    GArray *lists[RMG_TESTROM_BANKS];
    size_t count = 0, failed = 0, found = 0;

    for (uint8_t b = 0; b < t->told->plan.bank_count; b++) {
        if (!bank_failed(t->told, b))
            continue;
        failed++;
        t->only = b;
        keep_steps(t, b);
        t->tried = g_array_new(FALSE, TRUE, sizeof(candidate));
        try_all(t);
        g_array_sort(t->tried, heavier);
        join_places(t->tried);
        found += t->tried->len > 0;
        lists[count++] = t->tried;
    }
    if (failed && found == failed)
        conclude(t, lists, count, MIN(PART_SURE, surest(t)), suspects);
    for (size_t i = 0; i < count; i++)
        free_tried(lists[i]);
}

/* The first replay of a place that gave the same. */
static const rmg_replayed *same_of(const GArray *tried, guint i)
{
    return &g_array_index(g_array_index(tried, candidate, i).replays, rmg_replayed, 0);
}

/* A fault that data steps show, and behind it one of address lines: the lines of the data steps are
 * explained first, then each place of address lines is tried together with what explains them. */
static void data_and_address(teller *t, rmg_suspects *suspects)
{
    GArray *lists[2] = {NULL, NULL}, *data;
    bool found = false;

    for (size_t i = 0; i < t->told->count; i++)
        found |= t->told->lines[i].kind == RMG_TESTROM_DATA &&
                 t->told->lines[i].says == RMG_TESTROM_SAYS_FAILED;
    if (!found)
        return;
    t->only = RMG_TESTROM_BANKS;
    t->plan = over_ram(&t->told->plan);
    t->data_alone = true;
    data = t->tried = g_array_new(FALSE, TRUE, sizeof(candidate));
    data_places(t);
    each_socket(t, data_of_chip);
    t->data_alone = false;
    g_array_sort(data, heavier);
    join_places(data);
    for (guint i = 0; i < data->len && !(lists[1] && lists[1]->len); i++) {
        if (lists[1])
            free_tried(lists[1]);
        t->with = same_of(data, i);
        lists[1] = t->tried = g_array_new(FALSE, TRUE, sizeof(candidate));
        address_places(t);
        branch_places(t);
        each_socket(t, address_of_chip);
        if (!lists[1]->len)
            continue;
        g_array_sort(lists[1], heavier);
        join_places(lists[1]);
        lists[0] = g_array_new(FALSE, TRUE, sizeof(candidate));
        g_array_append_val(lists[0], g_array_index(data, candidate, i));
        g_array_index(data, candidate, i).replays = g_array_new(FALSE, TRUE, sizeof(rmg_replayed));
    }
    t->with = NULL;
    if (lists[0])
        conclude(t, lists, 2, MIN(PART_SURE, surest(t)), suspects);
    for (unsigned i = 0; i < 2; i++)
        if (lists[i])
            free_tried(lists[i]);
    free_tried(data);
}

void rmg_replay_told(rmg_stage *stage, rmg_suspects *suspects, uint64_t work,
                     bool (*go_on)(void *context, double share), void *context)
{
    const rmg_told *told = stage->run->heard->told;
    teller t = {.stage = stage,
                .run = stage->run,
                .told = told,
                .only = RMG_TESTROM_BANKS,
                .plan = over_ram(&told->plan),
                .later = told->count && told->lines[0].pass,
                .work = work,
                .go_on = go_on,
                .context = context};

    if (!told->count || told->unlike || !told->lines[told->count - 1u].code ||
        RMG_TESTROM_CODE_BANK(told->lines[told->count - 1u].code) == RMG_TESTROM_NOT_RAM)
        return;
    t.seen = g_new0(seen_bits, MAX(stage->run->board->bank_count, 1u));
    t.tried = g_array_new(FALSE, TRUE, sizeof(candidate));
    see_bits(&t);
    try_all(&t);
    g_array_sort(t.tried, heavier);
    join_places(t.tried);
    if (t.tried->len)
        conclude(&t, &t.tried, 1, surest(&t), suspects);
    free_tried(t.tried);
    if (suspects->count && !suspects->list[0].replay_count && !told->blinks)
        bank_by_bank(&t, suspects);
    if (suspects->count && !suspects->list[0].replay_count && !told->blinks)
        data_and_address(&t, suspects);
    g_free(t.seen);
}
