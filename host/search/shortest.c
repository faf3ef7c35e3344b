/* The shortest march: beginnings of each length are gone on with by whole elements, the shorter
 * first; of those that leave the same faults in the same states one is kept, and of too many the
 * most promising. */
#include "rimeglass/search.h"

#include <glib.h>
#include <string.h>

#include "lanes.h"

#define ELEMENT_MOST 8u  /* operations in one element */
#define ELEMENTS     24u /* in a march */
#define KEPT_TIMES   8u  /* so many times the width are noted before the best are kept */
#define FOUND_WORTH  4   /* a lane found, against one that only holds something wrong */
#define EITHER_MOST  8u  /* ⇕ that rmg_march_coverage takes */

/* An element: two bits an operation, the first lowest; a hold has none. */
typedef struct element {
    uint16_t ops;
    uint8_t count;
    uint8_t down;
} element;

/* A beginning, by the one before it. */
typedef struct node {
    uint64_t hash;
    uint32_t before; /* in the list of all that are kept; the first is the empty one */
    element last;
    uint8_t good; /* what every cell holds */
    uint8_t elements;
    uint8_t length;
    int32_t worth;
} node;

typedef struct search {
    const rmg_shortest_job *job;
    rmg_lanes *lanes;
    unsigned width, most;
    GArray *kept;                           /* of node */
    GArray *waiting[RMG_SHORTEST_MOST + 1]; /* of node, by length */
    rmg_lane_state *state, *within,
        *after;                      /* before an element; after its first cells; after all */
    bool cut[RMG_SHORTEST_MOST + 1]; /* not all of this length were kept */
    bool hold;
    rmg_shortest *result;
} search;

static uint64_t mixed(uint64_t hash, uint64_t number)
{
    return rmg_hash(hash, number);
}

/* The same faults found, and the same in every cell: what follows is the same too. */
static uint64_t hash_of(const search *s, const rmg_lane_state *state, uint8_t good)
{
    uint64_t hash = good;

    for (unsigned w = 0; w < s->lanes->words; w++) {
        const uint64_t open = s->lanes->masks[w].used & ~state[w].found;

        hash = mixed(hash, state[w].found & s->lanes->masks[w].used);
        for (unsigned q = 0; q < s->lanes->cells; q++)
            hash = mixed(hash, state[w].m[q] & open);
        if (s->lanes->cells > 2)
            hash = mixed(hash, state[w].latch & open);
    }
    return hash;
}

static unsigned cell_of(const search *s, const element *e, unsigned turn)
{
    return e->down ? s->lanes->cells - 1u - turn : turn;
}

static void run_cell(const search *s, const element *e, unsigned turn, rmg_lane_state *state)
{
    for (unsigned i = 0; i < e->count; i++)
        rmg_lanes_do(s->lanes, state, cell_of(s, e, turn), (e->ops >> 2u * i) & 3u);
}

static void run_element(const search *s, const element *e, rmg_lane_state *state)
{
    if (!e->count)
        rmg_lanes_hold(s->lanes, state);
    for (unsigned turn = 0; e->count && turn < s->lanes->cells; turn++)
        run_cell(s, e, turn, state);
}

/* The elements of a beginning, the first first; how many. */
static unsigned elements_of(const search *s, const node *n, element *list)
{
    unsigned count = n->elements;

    for (unsigned i = count; i > 0; i--) {
        list[i - 1] = n->last;
        n = &g_array_index(s->kept, node, n->before);
    }
    return count;
}

static void compile(const element *list, unsigned count, uint8_t *code)
{
    size_t size = 0;

    for (unsigned i = 0; i < count; i++) {
        const element *e = &list[i];

        code[size++] =
            (uint8_t)((e->count ? e->down ? RMG_ORDER_DOWN : RMG_ORDER_UP : RMG_ORDER_EITHER) |
                      e->count);
        for (unsigned o = 0; o < e->count; o++)
            code[size++] = (uint8_t)(e->ops >> 2u * o & 3u);
    }
    code[size] = 0;
}

/* By the model that the shares of all marches come from. */
static bool proved(const rmg_shortest_job *job, const uint8_t *code)
{
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++) {
        rmg_coverage share;

        if (job->classes[kind] &&
            (rmg_march_coverage(code, (rmg_fault_class)kind, &share) != RMG_OK ||
             share.found != share.instances))
            return false;
    }
    return true;
}

/* Either order, wherever that still finds all. */
static void loosen(const rmg_shortest_job *job, uint8_t *code)
{
    unsigned either = 0;

    for (uint8_t *head = code; *head; head += (*head & ~RMG_ORDER_MASK) + 1u) {
        const uint8_t was = *head;

        if (!(was & ~RMG_ORDER_MASK) || either == EITHER_MOST)
            continue;
        *head = (uint8_t)(was | RMG_ORDER_EITHER);
        if (proved(job, code))
            either++;
        else
            *head = was;
    }
}

static bool all_found(const search *s, const rmg_lane_state *state)
{
    for (unsigned w = 0; w < s->lanes->words; w++)
        if (s->lanes->masks[w].used & ~state[w].found)
            return false;
    return true;
}

/* Is it what is looked for? It is proved before it counts. */
static void consider(search *s, const node *n)
{
    uint8_t code[RMG_MARCH_BYTES] = {0};
    element list[ELEMENTS + 1];
    unsigned count;

    if (s->result->operations && n->length >= s->result->operations)
        return;
    count = elements_of(s, n, list);
    compile(list, count, code);
    if (!proved(s->job, code))
        return;
    loosen(s->job, code);
    memcpy(s->result->code, code, sizeof code);
    s->result->operations = n->length;
}

static gint worthier(gconstpointer a, gconstpointer b)
{
    const node *x = a, *y = b;

    if (x->worth != y->worth)
        return x->worth > y->worth ? -1 : 1;
    return x->hash < y->hash ? -1 : x->hash > y->hash;
}

/* The best of a length, each once. */
static void thin(search *s, unsigned length, unsigned most)
{
    GArray *list = s->waiting[length];
    guint kept = 0;

    g_array_sort(list, worthier);
    for (guint i = 0; i < list->len; i++) {
        const node *n = &g_array_index(list, node, i);

        if (kept && g_array_index(list, node, kept - 1).hash == n->hash)
            continue;
        if (kept == most) {
            s->cut[length] = true;
            break;
        }
        g_array_index(list, node, kept++) = *n;
    }
    g_array_set_size(list, kept);
}

/* One element more, the state after it at hand. */
static void note(search *s, uint32_t before, const node *from, const element *e, uint8_t good)
{
    const unsigned length = from->length + MAX(e->count, 1u);
    node n = {.before = before,
              .last = *e,
              .good = good,
              .elements = (uint8_t)(from->elements + 1u),
              .length = (uint8_t)length};
    unsigned found, latent;

    s->result->tried++;
    if (all_found(s, s->after)) {
        consider(s, &n);
        return;
    }
    rmg_lanes_count(s->lanes, s->after, good, &found, &latent);
    n.worth = (int32_t)(FOUND_WORTH * found + latent);
    n.hash = mixed(hash_of(s, s->after, good), s->job->seed);
    g_array_append_val(s->waiting[length], n);
    if (s->waiting[length]->len >= KEPT_TIMES * s->width)
        thin(s, length, s->width);
}

/* The element with each operation that may follow, and those that may follow that. `within`: after
 * it on the cell that comes first; so the cells behind are all that has to be gone through. */
static void extend(search *s, uint32_t before, const node *from, const element *e, uint8_t good)
{
    const size_t size = s->lanes->words * sizeof(rmg_lane_state);
    const unsigned limit = s->result->operations ? s->result->operations - 1u : s->most;
    rmg_lane_state *own;

    if (e->count == ELEMENT_MOST || from->length + e->count >= limit)
        return;
    own = g_memdup2(s->within, size);
    for (uint8_t op = RMG_OP_R0; op <= RMG_OP_W1; op++) {
        element next = *e;
        const unsigned n = e->count;
        uint8_t now = good;

        if (op & RMG_OP_WRITE)
            now = op & RMG_OP_ONE;
        else if ((op & RMG_OP_ONE) != good)
            continue; /* it would fail on a sound memory */
        if (!from->elements && !n && op != RMG_OP_W0)
            continue; /* nothing is known of what the memory holds */
        if (n >= 2 && (e->ops >> 2u * (n - 1u) & 3u) == op && (e->ops >> 2u * (n - 2u) & 3u) == op)
            continue;
        next.ops = (uint16_t)(e->ops | op << 2u * n);
        next.count++;
        memcpy(s->within, own, size);
        rmg_lanes_do(s->lanes, s->within, cell_of(s, &next, 0), op);
        memcpy(s->after, s->within, size);
        for (unsigned turn = 1; turn < s->lanes->cells; turn++)
            run_cell(s, &next, turn, s->after);
        note(s, before, from, &next, now);
        extend(s, before, from, &next, now);
    }
    g_free(own);
}

/* The state after a beginning. */
static void replay(const search *s, const node *n, rmg_lane_state *state)
{
    element list[ELEMENTS + 1];
    const unsigned count = elements_of(s, n, list);

    rmg_lanes_begin(s->lanes, state);
    for (unsigned i = 0; i < count; i++)
        run_element(s, &list[i], state);
}

static void go_on_with(search *s, uint32_t number)
{
    const size_t size = s->lanes->words * sizeof(rmg_lane_state);
    const node from = g_array_index(s->kept, node, number);

    replay(s, &from, s->state);
    if (from.elements == ELEMENTS)
        return;
    for (uint8_t down = 0; down < (from.elements ? 2 : 1); down++) {
        const element none = {.down = down};

        memcpy(s->within, s->state, size);
        extend(s, number, &from, &none, from.good);
    }
    if (s->hold && from.elements && from.last.count &&
        from.length + 1u <= (s->result->operations ? s->result->operations - 1u : s->most)) {
        const element hold = {0};

        memcpy(s->after, s->state, size);
        rmg_lanes_hold(s->lanes, s->after);
        note(s, number, &from, &hold, from.good);
    }
}

/* Up to which length nothing was left out: beginnings were gone on with up to `last`. Of a length
 * that was thinned all were still tried. */
static void tell_exact(search *s, unsigned last)
{
    unsigned exact = 1;

    while (exact <= last && exact < ELEMENT_MOST && !s->cut[exact])
        exact++;
    s->result->exact = exact;
}

static bool goes_on(const search *s, unsigned length, double share)
{
    return !s->job->go_on || s->job->go_on(s->job->context, length, share, s->result->operations);
}

static rmg_status run(search *s)
{
    const node empty = {0};
    unsigned length;

    g_array_append_val(s->kept, empty);
    go_on_with(s, 0);
    for (length = 1; length < s->most; length++) {
        if (s->result->operations && length + 1u >= s->result->operations)
            break;
        thin(s, length, s->width);
        for (guint i = 0; i < s->waiting[length]->len; i++) {
            const node n = g_array_index(s->waiting[length], node, i);

            if (!goes_on(s, length, (double)i / s->waiting[length]->len)) {
                tell_exact(s, length - 1u);
                return RMG_ERR_CANCELLED;
            }
            g_array_append_val(s->kept, n);
            go_on_with(s, s->kept->len - 1u);
        }
        g_array_set_size(s->waiting[length], 0);
    }
    tell_exact(s, length - 1u);
    return RMG_OK;
}

rmg_status rmg_march_shortest(const rmg_shortest_job *job, rmg_shortest *result)
{
    search s = {.job = job, .result = result};
    rmg_status status = RMG_ERR_ARGUMENT;
    bool any = false;

    memset(result, 0, sizeof *result);
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++)
        any |= job->classes[kind];
    s.width = job->width ? job->width : RMG_SHORTEST_WIDTH;
    s.most = job->most ? job->most : RMG_SHORTEST_MOST;
    s.hold = job->classes[RMG_CLASS_DRF];
    if (!any || s.width > 100000 || s.most > RMG_SHORTEST_MOST)
        return RMG_ERR_ARGUMENT;
    s.lanes = g_new(rmg_lanes, 1);
    s.kept = g_array_new(FALSE, FALSE, sizeof(node));
    s.state = g_new0(rmg_lane_state, RMG_LANE_WORDS);
    s.within = g_new0(rmg_lane_state, RMG_LANE_WORDS);
    s.after = g_new0(rmg_lane_state, RMG_LANE_WORDS);
    for (unsigned i = 0; i <= RMG_SHORTEST_MOST; i++)
        s.waiting[i] = g_array_new(FALSE, FALSE, sizeof(node));
    if (rmg_lanes_make(s.lanes, job->classes))
        status = run(&s);
    for (unsigned i = 0; i <= RMG_SHORTEST_MOST; i++)
        g_array_free(s.waiting[i], TRUE);
    g_array_free(s.kept, TRUE);
    g_free(s.state);
    g_free(s.within);
    g_free(s.after);
    g_free(s.lanes);
    return status;
}
