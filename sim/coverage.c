/* The small cell model: eight cells of one bit, one fault instance, every march through the engine.
 * Knows no chips and no boards; the simulated board is a model of its own, so that the two check
 * each other. Definitions: docs/coverage.md. */
#include "rimeglass/coverage.h"

#include <string.h>

#include "rimeglass/march.h"

#define CELLS       8u
#define MOST_EITHER 8u

/* One instance: the class, aggressor and victim, and what distinguishes it within the class. */
typedef struct instance {
    rmg_fault_class kind;
    uint8_t a; /* aggressor, or the other address of an address fault; CELLS: none */
    uint8_t v; /* victim */
    uint8_t x; /* level, state or direction of the victim */
    uint8_t s; /* state or operation of the aggressor */
    uint8_t b; /* of linked faults: the other aggressor, which may be the same, */
    uint8_t t; /* and its direction */
} instance;

typedef struct memory {
    const instance *f;
    uint8_t apart; /* addresses that reach their own cell alone, which the fault leaves alone */
    uint8_t cell[CELLS];
    uint8_t latch; /* value last read: what an unreached or open cell gives */
    bool found;    /* a read was wrong: no access is answered any more, which ends the march */
} memory;

/* Aggressor operations of a disturb: what was in it, and what is done. */
enum { OP_0W0, OP_0W1, OP_1W0, OP_1W1, OP_0R0, OP_1R1 };
/* What is read where no cell, or two, are reached. */
typedef enum reading { READS_AND, READS_OR, READS_LAST } reading;

static reading reading_of(rmg_fault_class kind)
{
    switch (kind) {
    case RMG_CLASS_AF_A_OR:
    case RMG_CLASS_AF_B_OR:
    case RMG_CLASS_AF_D_OR:
        return READS_OR;
    case RMG_CLASS_AF_A_LAST:
    case RMG_CLASS_AF_B_LAST:
    case RMG_CLASS_SOF:
        return READS_LAST;
    default:
        return READS_AND;
    }
}

static const struct {
    const char *name, *text;
} classes[RMG_CLASS_COUNT] = {
    [RMG_CLASS_SAF] = {"SAF", "a cell is stuck at 0 or 1"},
    [RMG_CLASS_TF] = {"TF", "a cell does not go from 0 to 1, or from 1 to 0"},
    [RMG_CLASS_AF_A_AND] = {"AF_A_and", "an address reaches no cell and reads 1"},
    [RMG_CLASS_AF_A_OR] = {"AF_A_or", "an address reaches no cell and reads 0"},
    [RMG_CLASS_AF_A_LAST] = {"AF_A_last",
                             "an address reaches no cell and reads what was read before"},
    [RMG_CLASS_AF_B_AND] = {"AF_B_and",
                            "AF_A_and, and another address reaches two cells: reads AND"},
    [RMG_CLASS_AF_B_OR] = {"AF_B_or", "AF_A_or, and another address reaches two cells: reads OR"},
    [RMG_CLASS_AF_B_LAST] = {"AF_B_last", "AF_A_last, and another address reaches two cells"},
    [RMG_CLASS_AF_C] = {"AF_C", "two addresses reach one cell, the other cell none"},
    [RMG_CLASS_AF_D_AND] = {"AF_D_and", "an address reaches its cell and another's: reads AND"},
    [RMG_CLASS_AF_D_OR] = {"AF_D_or", "an address reaches its cell and another's: reads OR"},
    [RMG_CLASS_SOF] = {"SOF", "a cell cannot be reached: the last value read is repeated"},
    [RMG_CLASS_CFIN] = {"CFin", "a change of one cell inverts another"},
    [RMG_CLASS_CFID] = {"CFid", "a change of one cell sets another to 0 or 1"},
    [RMG_CLASS_CFST] = {"CFst", "the state of one cell holds another at 0 or 1"},
    [RMG_CLASS_CFDS] = {"CFds", "reading or writing one cell flips another"},
    [RMG_CLASS_CFTR] = {"CFtr", "a cell does not change while another is in a state"},
    [RMG_CLASS_CFWD] = {"CFwd",
                        "a write of the same value flips a cell while another is in a state"},
    [RMG_CLASS_CFRD] = {"CFrd", "a read flips a cell while another is in a state, and shows it"},
    [RMG_CLASS_CFDRD] = {"CFdrd", "the same, without showing it"},
    [RMG_CLASS_CFIR] = {"CFir", "a read is wrong while another cell is in a state"},
    [RMG_CLASS_WDF] = {"WDF", "a write of the same value flips the cell"},
    [RMG_CLASS_RDF] = {"RDF", "a read flips the cell and shows it"},
    [RMG_CLASS_DRDF] = {"DRDF", "a read flips the cell and does not show it"},
    [RMG_CLASS_IRF] = {"IRF", "a read is wrong, the cell is not"},
    [RMG_CLASS_DRF] = {"DRF", "a cell loses its value when left alone"},
    [RMG_CLASS_LCFIN] = {"LCFin", "two couplings CFin on one cell, which can undo each other"},
    [RMG_CLASS_LCFID] = {"LCFid", "two couplings CFid on one cell, which can undo each other"},
};

const char *rmg_fault_class_name(rmg_fault_class fault_class)
{
    return classes[fault_class].name;
}

const char *rmg_fault_class_text(rmg_fault_class fault_class)
{
    return classes[fault_class].text;
}

/* Faults that act on a state, not on an operation. */
static void settle(memory *m)
{
    const instance *f = m->f;

    if (f->kind == RMG_CLASS_SAF || (f->kind == RMG_CLASS_CFST && m->cell[f->a] == f->s))
        m->cell[f->v] = f->x;
}

/* Is the victim's fault awake: always, or by the aggressor's state? */
static bool awake(const memory *m)
{
    return (m->f->kind >= RMG_CLASS_WDF && m->f->kind <= RMG_CLASS_IRF) ||
           (m->f->a < CELLS && m->cell[m->f->a] == m->f->s);
}

/* The cells that an address reaches, as a mask. */
static uint8_t reaches(const instance *f, uint8_t address)
{
    const uint8_t own = (uint8_t)(1u << address);
    const uint8_t victim = (uint8_t)(1u << f->v), other = (uint8_t)(1u << f->a);

    switch (f->kind) {
    case RMG_CLASS_AF_A_AND:
    case RMG_CLASS_AF_A_OR:
    case RMG_CLASS_AF_A_LAST:
    case RMG_CLASS_SOF:
        return address == f->v ? 0 : own;
    case RMG_CLASS_AF_B_AND:
    case RMG_CLASS_AF_B_OR:
    case RMG_CLASS_AF_B_LAST:
        return address == f->v ? 0 : address == f->a ? (uint8_t)(own | victim) : own;
    case RMG_CLASS_AF_C:
        return address == f->v ? other : own;
    case RMG_CLASS_AF_D_AND:
    case RMG_CLASS_AF_D_OR:
        return address == f->v ? (uint8_t)(own | other) : own;
    default:
        return own;
    }
}

/* Most accesses are to cells that have nothing to do with the fault. */
static uint8_t apart_from(const instance *f)
{
    uint8_t apart = 0;

    for (uint8_t i = 0; i < CELLS; i++)
        if (i != f->a && i != f->v && i != f->b && reaches(f, i) == 1u << i)
            apart |= (uint8_t)(1u << i);
    return apart;
}

/* What one cell gives when it is read, and what the read does to it. */
static uint8_t read_cell(memory *m, uint8_t i)
{
    const instance *f = m->f;
    const uint8_t state = m->cell[i];

    if (i == f->v && state == f->x && awake(m))
        switch (f->kind) {
        case RMG_CLASS_RDF:
        case RMG_CLASS_CFRD:
            m->cell[i] = !state;
            return !state;
        case RMG_CLASS_DRDF:
        case RMG_CLASS_CFDRD:
            m->cell[i] = !state;
            return state;
        case RMG_CLASS_IRF:
        case RMG_CLASS_CFIR:
            return !state;
        default:
            break;
        }
    if (f->kind == RMG_CLASS_CFDS && i == f->a && f->s == (state ? OP_1R1 : OP_0R0) &&
        m->cell[f->v] == f->x)
        m->cell[f->v] = !f->x;
    return state;
}

static rmg_status cells_read(void *context, rmg_addr address, rmg_word *value)
{
    memory *m = context;
    uint8_t mask, all = 1, any = 0;

    if (m->found)
        return RMG_ERR_CANCELLED;
    if (m->apart >> address & 1u) {
        *value = m->latch = m->cell[address];
        return RMG_OK;
    }
    mask = reaches(m->f, (uint8_t)address);
    for (uint8_t i = 0; i < CELLS; i++)
        if ((uint8_t)(mask >> i) & 1u) {
            const uint8_t level = read_cell(m, i);

            all &= level;
            any |= level;
        }
    switch (reading_of(m->f->kind)) {
    case READS_AND:
        m->latch = all; /* of none: the lines rest at 1 */
        break;
    case READS_OR:
        m->latch = any; /* of none: at 0 */
        break;
    case READS_LAST:
        m->latch = mask ? all : m->latch;
        break;
    }
    settle(m);
    *value = m->latch;
    return RMG_OK;
}

/* Two couplings on one victim: whichever was last prevails, or undoes the other. */
static void couple_linked(memory *m, uint8_t i, uint8_t now)
{
    const instance *f = m->f;
    const bool one = i == f->a && now == f->s, other = i == f->b && now == f->t;

    if (f->kind == RMG_CLASS_LCFIN && (one || other))
        m->cell[f->v] ^= 1u;
    else if (f->kind == RMG_CLASS_LCFID && (one || other))
        m->cell[f->v] = one;
}

/* What writing to the aggressor does to the victim. */
static void couple(memory *m, uint8_t before, uint8_t now)
{
    const instance *f = m->f;
    static const uint8_t writes[2][2] = {{OP_0W0, OP_0W1}, {OP_1W0, OP_1W1}};
    const bool moved = before != now;

    if (f->kind == RMG_CLASS_CFIN && moved && now == f->s)
        m->cell[f->v] ^= 1u;
    else if (f->kind == RMG_CLASS_CFID && moved && now == f->s)
        m->cell[f->v] = f->x;
    else if (f->kind == RMG_CLASS_CFDS && f->s == writes[before][now] && m->cell[f->v] == f->x)
        m->cell[f->v] = !f->x;
}

static void write_cell(memory *m, uint8_t i, uint8_t level)
{
    const instance *f = m->f;
    const uint8_t before = m->cell[i];
    const bool victim = i == f->v;

    m->cell[i] = level;
    if (victim && (f->kind == RMG_CLASS_TF || (f->kind == RMG_CLASS_CFTR && awake(m))) &&
        before != level && level == f->x)
        m->cell[i] = before;
    if (victim && (f->kind == RMG_CLASS_WDF || (f->kind == RMG_CLASS_CFWD && awake(m))) &&
        before == level && level == f->x)
        m->cell[i] = !level;
    if (f->kind >= RMG_CLASS_LCFIN) {
        if (before != level)
            couple_linked(m, i, level);
    } else if (i == f->a) {
        couple(m, before, level);
    }
}

static rmg_status cells_write(void *context, rmg_addr address, rmg_word value)
{
    memory *m = context;
    uint8_t mask;

    if (m->found)
        return RMG_ERR_CANCELLED;
    if (m->apart >> address & 1u) {
        m->cell[address] = value & 1u;
        return RMG_OK;
    }
    mask = reaches(m->f, (uint8_t)address);
    for (uint8_t i = 0; i < CELLS; i++)
        if ((uint8_t)(mask >> i) & 1u)
            write_cell(m, i, (uint8_t)(value & 1u));
    settle(m);
    return RMG_OK;
}

static rmg_status cells_wait(void *context, uint32_t hold_us)
{
    memory *m = context;

    (void)hold_us;
    if (m->f->kind == RMG_CLASS_DRF && m->cell[m->f->v] == m->f->x)
        m->cell[m->f->v] = !m->f->x;
    return RMG_OK;
}

static void note(void *context, const rmg_failure *failure)
{
    memory *m = context;

    (void)failure;
    m->found = true;
}

static const rmg_bus cells_bus = {
    .version = RMG_BUS_VERSION, .read = cells_read, .write = cells_write, .wait = cells_wait};

/* How the class varies: values of x, values of s, and whether there is an aggressor. */
static void variants(rmg_fault_class kind, uint8_t *xs, uint8_t *states, bool *pair)
{
    const bool address = kind >= RMG_CLASS_AF_A_AND && kind <= RMG_CLASS_SOF;

    *pair = kind >= RMG_CLASS_AF_B_AND && kind <= RMG_CLASS_CFIR && kind != RMG_CLASS_SOF;
    *xs = address ? 1 : 2;
    *states = *pair && !address ? 2 : 1;
    if (kind == RMG_CLASS_CFIN)
        *xs = 1;
    if (kind == RMG_CLASS_CFDS)
        *states = 6;
}

/* Does the march, its ⇕ resolved, find the instance from these contents? */
static bool finds(const uint8_t *code, uint8_t lines, const instance *f, uint8_t contents,
                  rmg_tally *tally)
{
    const rmg_background_term term = {{0, CELLS - 1u, 0, 0}, lines, 1};
    const rmg_background striped = {.terms = &term, .term_count = 1};
    static const rmg_range all = {0, CELLS - 1u};
    memory m = {.f = f, .apart = apart_from(f), .latch = contents & 1u};
    const rmg_observer watch = {.context = &m, .failure = note};
    const rmg_march_job job = {
        .code = code, .ranges = &all, .range_count = 1, .hold_us = 1, .observer = &watch};
    const rmg_target target = {&cells_bus, &m, 1};

    for (uint8_t i = 0; i < CELLS; i++)
        m.cell[i] = (uint8_t)(contents >> i) & 1u;
    settle(&m);
    tally->first_count = 0; /* nothing is asked of it; to clear it takes longer than the march */
    if (lines)
        rmg_march_run_patterned(&target, &job, &striped, NULL, tally);
    else
        rmg_march_run(&target, &job, tally);
    return m.found;
}

/* A march with its elements of order ⇕ at hand. */
typedef struct open_march {
    uint8_t code[RMG_MARCH_BYTES];
    uint8_t *heads[MOST_EITHER];
    unsigned either;
    uint8_t lines;
} open_march;

/* Finds it from all contents and in every resolution of ⇕? */
static bool always_finds(open_march *m, const instance *f, rmg_tally *tally)
{
    static const uint8_t contents[] = {0x00, 0xFF, 0x55, 0xAA, 0x33, 0x1E};

    for (unsigned way = 0; way < 1u << m->either; way++) {
        for (unsigned i = 0; i < m->either; i++) {
            uint8_t *head = m->heads[i];

            *head = (uint8_t)((*head & ~RMG_ORDER_MASK) |
                              (way >> i & 1u ? RMG_ORDER_DOWN : RMG_ORDER_UP));
        }
        for (size_t c = 0; c < sizeof contents; c++)
            if (!finds(m->code, m->lines, f, contents[c], tally))
                return false;
    }
    return true;
}

static rmg_status open_up(const rmg_covered *covered, open_march *m)
{
    const uint8_t *code = covered->code;
    size_t size = 0;

    memset(m, 0, sizeof *m);
    m->lines = covered->lines;
    if (!code || covered->lines >= CELLS)
        return RMG_ERR_ARGUMENT;
    for (; code[size]; size += (code[size] & ~RMG_ORDER_MASK) + 1u) {
        const uint8_t count = (uint8_t)(code[size] & ~RMG_ORDER_MASK);

        if (size + count + 2u > sizeof m->code)
            return RMG_ERR_ARGUMENT;
        memcpy(m->code + size, code + size, count + 1u);
        if ((code[size] & RMG_ORDER_MASK) != RMG_ORDER_EITHER || !count)
            continue;
        if (m->either == MOST_EITHER)
            return RMG_ERR_ARGUMENT;
        m->heads[m->either++] = m->code + size;
    }
    return RMG_OK;
}

/* Marches against instances. */
typedef struct weighing {
    open_march marches[RMG_COVERAGE_MARCHES];
    size_t count;
    rmg_tally tally;
    rmg_coverage *coverage;
    bool *each; /* [room], or NULL */
    size_t room;
} weighing;

static void weigh(weighing *w, const instance *f)
{
    bool found = false;

    for (size_t i = 0; i < w->count && !found; i++)
        found = always_finds(&w->marches[i], f, &w->tally);
    if (w->coverage->instances < w->room)
        w->each[w->coverage->instances] = found;
    w->coverage->instances++;
    w->coverage->found += found;
}

static void weigh_simple(weighing *w, rmg_fault_class kind)
{
    uint8_t xs, states;
    bool pair;

    variants(kind, &xs, &states, &pair);
    for (uint8_t v = 0; v < CELLS; v++)
        for (uint8_t a = 0; a < (pair ? CELLS : 1u); a++)
            for (uint8_t x = 0; x < xs; x++)
                for (uint8_t s = 0; s < states; s++)
                    if (!pair || a != v)
                        weigh(w, &(instance){kind, pair ? a : CELLS, v, x, s, CELLS, 0});
}

/* Each pair of couplings once. Of one aggressor it is the two directions; inversions are alike, so
 * that which of them is the first makes no difference. */
static void weigh_linked(weighing *w, rmg_fault_class kind)
{
    for (unsigned n = 0; n < CELLS * CELLS * CELLS * 4u; n++) {
        const instance f = {.kind = kind,
                            .v = (uint8_t)(n % CELLS),
                            .a = (uint8_t)(n / CELLS % CELLS),
                            .b = (uint8_t)(n / CELLS / CELLS % CELLS),
                            .s = (uint8_t)(n / CELLS / CELLS / CELLS & 1u),
                            .t = (uint8_t)(n / CELLS / CELLS / CELLS / 2u)};
        const bool same = f.a == f.b;
        const bool twice = kind == RMG_CLASS_LCFIN && (same ? f.s > f.t : f.a > f.b);

        if (f.a != f.v && f.b != f.v && !(same && f.s == f.t) && !twice)
            weigh(w, &f);
    }
}

rmg_status rmg_marches_coverage(const rmg_covered *covered, size_t count,
                                rmg_fault_class fault_class, rmg_coverage *coverage)
{
    return rmg_marches_found(covered, count, fault_class, coverage, NULL, 0);
}

rmg_status rmg_marches_found(const rmg_covered *covered, size_t count, rmg_fault_class fault_class,
                             rmg_coverage *coverage, bool *each, size_t room)
{
    weighing w = {.count = count, .coverage = coverage, .each = each, .room = room};

    memset(coverage, 0, sizeof *coverage);
    if (!count || count > RMG_COVERAGE_MARCHES || fault_class >= RMG_CLASS_COUNT)
        return RMG_ERR_ARGUMENT;
    for (size_t i = 0; i < count; i++)
        if (open_up(&covered[i], &w.marches[i]) != RMG_OK)
            return RMG_ERR_ARGUMENT;
    rmg_tally_clear(&w.tally, NULL, 0);
    if (fault_class >= RMG_CLASS_LCFIN)
        weigh_linked(&w, fault_class);
    else
        weigh_simple(&w, fault_class);
    return RMG_OK;
}

rmg_status rmg_march_coverage(const uint8_t *code, rmg_fault_class fault_class,
                              rmg_coverage *coverage)
{
    const rmg_covered covered = {code, 0};

    return rmg_marches_coverage(&covered, 1, fault_class, coverage);
}
