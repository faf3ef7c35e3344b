/* Faults side by side. Two cells stand for all: in a march each cell goes through the same
 * operations, and nothing but victim and aggressor matters to a fault. Only what gives the value
 * read before needs a third. */
#include "lanes.h"

#include <string.h>

/* One instance. */
typedef struct instance {
    rmg_fault_class kind;
    unsigned v, a, x, s; /* as in docs/coverage.md; a of CFds: s is the operation, 2 * op + on */
    unsigned b, t;       /* of linked faults */
} instance;

static bool needs_latch(rmg_fault_class kind)
{
    return kind == RMG_CLASS_AF_A_LAST || kind == RMG_CLASS_AF_B_LAST || kind == RMG_CLASS_SOF;
}

static bool is_linked(rmg_fault_class kind)
{
    return kind == RMG_CLASS_LCFIN || kind == RMG_CLASS_LCFID;
}

static bool has_aggressor(rmg_fault_class kind)
{
    return is_linked(kind) ||
           (kind >= RMG_CLASS_AF_B_AND && kind <= RMG_CLASS_CFIR && kind != RMG_CLASS_SOF);
}

static bool is_address(rmg_fault_class kind)
{
    return kind >= RMG_CLASS_AF_A_AND && kind <= RMG_CLASS_SOF;
}

static void set(uint64_t *mask, uint64_t lane, bool on)
{
    if (on)
        *mask |= lane;
}

/* Which addresses reach what. */
static void set_address(rmg_lane_masks *m, rmg_fault_class kind, uint64_t lane)
{
    const bool a = kind >= RMG_CLASS_AF_A_AND && kind <= RMG_CLASS_AF_A_LAST;
    const bool b = kind >= RMG_CLASS_AF_B_AND && kind <= RMG_CLASS_AF_B_LAST;

    set(&m->none, lane, a || b || kind == RMG_CLASS_SOF);
    set(&m->both, lane, b || kind == RMG_CLASS_AF_D_AND || kind == RMG_CLASS_AF_D_OR);
    set(&m->other, lane, kind == RMG_CLASS_AF_C);
    set(&m->last, lane, needs_latch(kind));
    set(&m->ors, lane,
        kind == RMG_CLASS_AF_A_OR || kind == RMG_CLASS_AF_B_OR || kind == RMG_CLASS_AF_D_OR);
}

static bool add(rmg_lanes *l, const instance *f)
{
    for (unsigned contents = 0; contents < l->group; contents++) {
        const uint64_t number = l->instances * l->group + contents;
        const uint64_t lane = (uint64_t)1 << number % 64;
        rmg_lane_masks *m = &l->masks[number / 64];

        if (number / 64 >= RMG_LANE_WORDS)
            return false;
        m->used |= lane;
        m->kind[f->kind] |= lane;
        m->v[f->v] |= lane;
        if (has_aggressor(f->kind))
            m->a[f->a] |= lane;
        set(&m->x, lane, f->x);
        set(&m->s, lane, f->kind != RMG_CLASS_CFDS && f->s);
        if (is_linked(f->kind)) {
            m->b[f->b] |= lane;
            set(&m->t, lane, f->t);
        }
        if (f->kind == RMG_CLASS_CFDS)
            m->disturbs[f->s / 2][f->s % 2] |= lane;
        if (is_address(f->kind))
            set_address(m, f->kind, lane);
    }
    l->instances++;
    return true;
}

/* All instances of a class at these cells. */
static bool add_at(rmg_lanes *l, rmg_fault_class kind, unsigned v, unsigned a)
{
    const unsigned xs = is_address(kind) || kind == RMG_CLASS_CFIN ? 1 : 2;
    const unsigned states = kind == RMG_CLASS_CFDS                     ? 6
                            : has_aggressor(kind) && !is_address(kind) ? 2
                                                                       : 1;

    for (unsigned x = 0; x < xs; x++)
        for (unsigned s = 0; s < states; s++)
            if (!add(l, &(instance){kind, v, a, x, s}))
                return false;
    return true;
}

/* All pairs of couplings on this victim. */
static bool add_linked(rmg_lanes *l, rmg_fault_class kind, unsigned v)
{
    for (unsigned n = 0; n < l->cells * l->cells * 4u; n++) {
        const instance f = {.kind = kind,
                            .v = v,
                            .a = n % l->cells,
                            .b = n / l->cells % l->cells,
                            .x = 1,
                            .s = n / l->cells / l->cells & 1u,
                            .t = n / l->cells / l->cells / 2u};

        if (f.a != v && f.b != v && !(f.a == f.b && f.s == f.t) && !add(l, &f))
            return false;
    }
    return true;
}

bool rmg_lanes_make(rmg_lanes *l, const bool classes[RMG_CLASS_COUNT])
{
    memset(l, 0, sizeof *l);
    l->cells = 2;
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++)
        if (classes[kind] &&
            (needs_latch((rmg_fault_class)kind) || is_linked((rmg_fault_class)kind)))
            l->cells = 3;
    l->group = 1u << l->cells;
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++)
        for (unsigned v = 0; classes[kind] && v < l->cells; v++) {
            if (is_linked((rmg_fault_class)kind) && !add_linked(l, (rmg_fault_class)kind, v))
                return false;
            for (unsigned a = 0; !is_linked((rmg_fault_class)kind) && a < l->cells; a++) {
                const bool pair = has_aggressor((rmg_fault_class)kind);

                if ((pair ? a != v : a == 0) && !add_at(l, (rmg_fault_class)kind, v, a))
                    return false;
            }
        }
    l->words = (unsigned)((l->instances * l->group + 63) / 64);
    return true;
}

/* What is in the victim, or the aggressor. */
static inline uint64_t at(const rmg_lanes *l, const rmg_lane_state *t, const uint64_t *where)
{
    uint64_t level = 0;

    for (unsigned q = 0; q < l->cells; q++)
        level |= t->m[q] & where[q];
    return level;
}

static inline void flip_victim(const rmg_lanes *l, rmg_lane_state *t, const rmg_lane_masks *m,
                               uint64_t which)
{
    for (unsigned q = 0; q < l->cells; q++)
        t->m[q] ^= m->v[q] & which;
}

static inline void set_victim(const rmg_lanes *l, rmg_lane_state *t, const rmg_lane_masks *m,
                              uint64_t which)
{
    for (unsigned q = 0; q < l->cells; q++)
        t->m[q] = (t->m[q] & ~(m->v[q] & which)) | (m->x & m->v[q] & which);
}

/* Faults that act on a state. */
static inline void settle(const rmg_lanes *l, rmg_lane_state *t, const rmg_lane_masks *m)
{
    const uint64_t held = m->kind[RMG_CLASS_CFST] & ~(at(l, t, m->a) ^ m->s);

    set_victim(l, t, m, m->kind[RMG_CLASS_SAF] | held);
}

/* Lanes whose fault acts whatever the aggressor holds, or because of it. */
static inline uint64_t awake(const rmg_lanes *l, const rmg_lane_state *t, const rmg_lane_masks *m,
                             rmg_fault_class alone, rmg_fault_class coupled)
{
    return m->kind[alone] | (m->kind[coupled] & ~(at(l, t, m->a) ^ m->s));
}

static void write_cell(const rmg_lanes *l, rmg_lane_state *t, const rmg_lane_masks *m, unsigned p,
                       uint64_t level)
{
    const uint64_t before = t->m[p], moved = before ^ level, meant = ~(m->x ^ level);
    const uint64_t lost = m->v[p] & (m->none | m->other);
    const uint64_t keeps = m->v[p] & moved & meant & awake(l, t, m, RMG_CLASS_TF, RMG_CLASS_CFTR);
    const uint64_t wrong = m->v[p] & ~moved & meant & awake(l, t, m, RMG_CLASS_WDF, RMG_CLASS_CFWD);
    const uint64_t turned = m->a[p] & moved & ~(m->s ^ level);
    const uint64_t turned_b = m->b[p] & moved & ~(m->t ^ level) & m->kind[RMG_CLASS_LCFID];
    const uint64_t inverted = (m->b[p] & moved & ~(m->t ^ level) & m->kind[RMG_CLASS_LCFIN]) ^
                              (turned & (m->kind[RMG_CLASS_LCFIN] | m->kind[RMG_CLASS_CFIN]));
    const unsigned op = level ? 1 : 0;
    const uint64_t disturbed = m->a[p] &
                               ((m->disturbs[op][0] & ~before) | (m->disturbs[op][1] & before)) &
                               ~(at(l, t, m->v) ^ m->x);
    /* other cells that the address reaches */
    const uint64_t with_victim = m->both & m->none & m->a[p];
    const uint64_t with_other = (m->other | (m->both & ~m->none)) & m->v[p];

    for (unsigned q = 0; q < l->cells; q++) {
        const uint64_t too = (with_victim & m->v[q]) | (with_other & m->a[q]);

        t->m[q] = (t->m[q] & ~too) | (level & too);
    }
    t->m[p] = (level & ~(lost | keeps)) | (before & (lost | keeps));
    t->m[p] ^= wrong;
    flip_victim(l, t, m, inverted | disturbed);
    set_victim(l, t, m, turned & (m->kind[RMG_CLASS_CFID] | m->kind[RMG_CLASS_LCFID]));
    for (unsigned q = 0; q < l->cells; q++) /* the other way round than its partner */
        t->m[q] &= ~(m->v[q] & turned_b);
}

static uint64_t read_cell(const rmg_lanes *l, rmg_lane_state *t, const rmg_lane_masks *m,
                          unsigned p)
{
    const uint64_t state = t->m[p], hit = m->v[p] & ~(state ^ m->x);
    const uint64_t shown = hit & awake(l, t, m, RMG_CLASS_RDF, RMG_CLASS_CFRD);
    const uint64_t hidden = hit & awake(l, t, m, RMG_CLASS_DRDF, RMG_CLASS_CFDRD);
    const uint64_t lie = hit & awake(l, t, m, RMG_CLASS_IRF, RMG_CLASS_CFIR);
    const uint64_t disturbed = m->a[p] &
                               ((m->disturbs[2][0] & ~state) | (m->disturbs[2][1] & state)) &
                               ~(at(l, t, m->v) ^ m->x);
    const uint64_t nothing = m->none & m->v[p];
    const uint64_t two = m->both & m->none & m->a[p], own = m->v[p];
    const uint64_t pair = two | (m->both & ~m->none & own);
    const uint64_t partner = (at(l, t, m->v) & two) | (at(l, t, m->a) & ~two);
    const uint64_t elsewhere = m->other & own;
    uint64_t given = state ^ shown ^ lie;

    given = (given & ~pair) | (pair & m->ors & (state | partner)) |
            (pair & ~m->ors & (state & partner));
    given = (given & ~elsewhere) | (at(l, t, m->a) & elsewhere);
    given = (given & ~nothing) | (nothing & m->last & t->latch) | (nothing & ~m->last & ~m->ors);
    t->m[p] ^= shown | hidden;
    flip_victim(l, t, m, disturbed);
    return given;
}

void rmg_lanes_do(const rmg_lanes *l, rmg_lane_state *state, unsigned p, uint8_t op)
{
    const uint64_t level = op & RMG_OP_ONE ? ~(uint64_t)0 : 0;

    for (unsigned w = 0; w < l->words; w++) {
        const rmg_lane_masks *m = &l->masks[w];
        rmg_lane_state *t = &state[w];

        if (op & RMG_OP_WRITE) {
            write_cell(l, t, m, p, level);
        } else {
            t->latch = read_cell(l, t, m, p);
            t->found |= (t->latch ^ level) & m->used;
        }
        settle(l, t, m);
    }
}

void rmg_lanes_hold(const rmg_lanes *l, rmg_lane_state *state)
{
    for (unsigned w = 0; w < l->words; w++) {
        const rmg_lane_masks *m = &l->masks[w];

        flip_victim(l, &state[w], m, m->kind[RMG_CLASS_DRF] & ~(at(l, &state[w], m->v) ^ m->x));
    }
}

void rmg_lanes_begin(const rmg_lanes *l, rmg_lane_state *state)
{
    for (unsigned w = 0; w < l->words; w++) {
        memset(&state[w], 0, sizeof state[w]);
        for (unsigned bit = 0; bit < 64; bit++)
            for (unsigned q = 0; q < l->cells; q++)
                state[w].m[q] |= (uint64_t)(bit % l->group >> q & 1u) << bit;
        state[w].latch = state[w].m[0];
        settle(l, &state[w], &l->masks[w]);
    }
}

void rmg_lanes_count(const rmg_lanes *l, const rmg_lane_state *state, uint8_t good, unsigned *found,
                     unsigned *latent)
{
    const uint64_t level = good ? ~(uint64_t)0 : 0;

    *found = *latent = 0;
    for (unsigned w = 0; w < l->words; w++) {
        uint64_t differs = 0;

        for (unsigned q = 0; q < l->cells; q++)
            differs |= state[w].m[q] ^ level;
        *found += (unsigned)__builtin_popcountll(state[w].found);
        *latent += (unsigned)__builtin_popcountll(differs & ~state[w].found & l->masks[w].used);
    }
}

uint64_t rmg_lanes_instances(const rmg_lanes *l, const rmg_lane_state *state)
{
    const uint64_t first =
        l->group == 4 ? UINT64_C(0x1111111111111111) : UINT64_C(0x0101010101010101);
    uint64_t count = 0;

    for (unsigned w = 0; w < l->words; w++) {
        uint64_t all = state[w].found;

        for (unsigned by = 1; by < l->group; by *= 2)
            all &= all >> by;
        count += (uint64_t)__builtin_popcountll(all & first);
    }
    return count;
}
