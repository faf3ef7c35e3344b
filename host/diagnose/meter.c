/* What the meter and the probe said of traced lines: what is left of each to be broken, and the
 * next point to measure.
 *
 * A line is a tree of points. Each point has a near side, towards the driver, and a far side; where
 * a part stands, R4 or U6.9>U6.11, it lies between the two. Elements that can be open are therefore
 * the track into a point, and the part at it; the way between two sides is a chain of elements. */
#include "meter.h"

#include <string.h>

static bool exists(const rmg_line *line, uint32_t element)
{
    const rmg_point *point = &line->points[element / 2u];

    return element & 1u ? rmg_point_is_part(point) : point->parent != RMG_NO_POINT;
}

/* The side one element nearer to the driver; UINT32_MAX at the driver. */
static uint32_t nearer(const rmg_line *line, uint32_t side)
{
    if (side & 1u)
        return side - 1u;
    return line->points[side / 2u].parent == RMG_NO_POINT
               ? UINT32_MAX
               : 2u * line->points[side / 2u].parent + 1u;
}

/* Elements between two sides, in order from `a` to `b`: a GArray of uint32_t. */
static GArray *way(const rmg_line *line, uint32_t a, uint32_t b)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    bool *above = g_new0(bool, 2u * line->point_count);
    guint first;

    for (uint32_t side = b; side != UINT32_MAX; side = nearer(line, side))
        above[side] = true;
    for (; !above[a]; a = nearer(line, a)) /* which ends at the driver, above every side */
        if (exists(line, a))
            g_array_append_val(list, a);
    first = list->len;
    for (; b != a; b = nearer(line, b))
        if (exists(line, b))
            g_array_insert_val(list, first, b);
    g_free(above);
    return list;
}

static bool moves(rmg_activity activity)
{
    return activity == RMG_ACTIVITY_PULSING;
}

/* The element is known to be whole: measured, or a signal passed it on its way from the driver. */
static bool is_whole(const rmg_facts *facts, uint16_t n, const rmg_line *line, uint32_t element)
{
    if (rmg_facts_sound(facts, n, (uint16_t)(element / 2u), element & 1u))
        return true;
    for (size_t i = 0; line->kind != RMG_LINE_DATA && i < facts->seen_count; i++)
        if (facts->seen[i].line == n && moves(facts->seen[i].activity))
            for (uint32_t side = facts->seen[i].side; side != UINT32_MAX; side = nearer(line, side))
                if (side == element)
                    return true;
    return false;
}

/* Leaves in m->left what lies between the two sides too, or takes all of it if nothing was yet. */
static void narrow(rmg_meter *m, const rmg_line *line, uint32_t a, uint32_t b)
{
    GArray *between = way(line, a, b);

    if (!m->told) {
        g_array_append_vals(m->left, between->data, between->len);
        m->from = a;
        m->to = b;
    }
    for (guint i = m->left->len; m->told && i-- > 0;) {
        bool here = false;

        for (guint n = 0; n < between->len; n++)
            here |= g_array_index(between, uint32_t, n) == g_array_index(m->left, uint32_t, i);
        if (!here)
            g_array_remove_index(m->left, i);
    }
    m->told = true;
    g_array_free(between, TRUE);
}

void rmg_meter_look(const rmg_facts *facts, const rmg_board *board, uint16_t n, rmg_meter *m)
{
    const rmg_line *line = &board->lines[n];
    bool any_moves = false;

    *m = (rmg_meter){.left = g_array_new(FALSE, FALSE, sizeof(uint32_t))};
    for (size_t i = 0; i < facts->open_count; i++)
        if (facts->open[i].line == n)
            narrow(m, line, facts->open[i].from, facts->open[i].to);
    for (size_t i = 0; i < facts->seen_count; i++)
        for (size_t k = 0; facts->seen[i].line == n && k < facts->seen_count; k++) {
            any_moves |= moves(facts->seen[i].activity);
            if (facts->seen[k].line == n && moves(facts->seen[i].activity) &&
                !moves(facts->seen[k].activity)) {
                narrow(m, line, facts->seen[i].side, facts->seen[k].side);
                m->probed = true;
            }
        }
    for (size_t i = 0; !any_moves && (!m->told || m->driver) && i < facts->seen_count; i++)
        if (facts->seen[i].line == n) { /* it may not even be driven */
            narrow(m, line, rmg_line_far_side(0), facts->seen[i].side);
            m->driver = true;
            m->probed = true;
        }
    for (guint i = m->left->len; i-- > 0;)
        if (is_whole(facts, n, line, g_array_index(m->left, uint32_t, i)))
            g_array_remove_index(m->left, i);
}

/* Is it the same side of the same point? Lines that a multiplexer puts on one track share them. */
static bool same_side(const rmg_line *a, uint32_t x, const rmg_line *b, uint32_t y)
{
    const char *p = a->points[x / 2u].name, *q = b->points[y / 2u].name;
    const char *through_p = strchr(p, '>'), *through_q = strchr(q, '>');

    if (x % 2u != y % 2u || !through_p != !through_q)
        return false;
    if (!through_p)
        return strcmp(p, q) == 0;
    return x & 1u ? strcmp(through_p, through_q) == 0
                  : strncmp(p, q, (size_t)(MAX(through_p - p, through_q - q))) == 0;
}

/* Was just the same told of both lines? */
static bool told_alike(const rmg_facts *facts, const rmg_board *board, uint16_t a, uint16_t b)
{
    const rmg_line *x = &board->lines[a], *y = &board->lines[b];
    size_t told = 0, alike = 0;

    for (size_t i = 0; i < facts->open_count; i++)
        for (size_t k = 0; facts->open[i].line == a && k < facts->open_count; k++)
            alike += facts->open[k].line == b &&
                     same_side(x, facts->open[i].from, y, facts->open[k].from) &&
                     same_side(x, facts->open[i].to, y, facts->open[k].to);
    for (size_t i = 0; i < facts->seen_count; i++)
        for (size_t k = 0; facts->seen[i].line == a && k < facts->seen_count; k++)
            alike += facts->seen[k].line == b &&
                     facts->seen[i].activity == facts->seen[k].activity &&
                     same_side(x, facts->seen[i].side, y, facts->seen[k].side);
    for (size_t i = 0; i < facts->open_count; i++)
        told += facts->open[i].line == a;
    for (size_t i = 0; i < facts->seen_count; i++)
        told += facts->seen[i].line == a;
    return told && alike >= told;
}

/* Leaves what both lines pass: where both are dead at one pin, that is likelier than a fault in
 * each.
 */
static void keep_shared(rmg_meter *m, const rmg_line *line, const rmg_line *other)
{
    guint shared = 0;

    for (int pass = 0; pass < 2; pass++)
        for (guint i = m->left->len; i-- > 0;) {
            const uint32_t element = g_array_index(m->left, uint32_t, i);
            bool both = false;

            for (uint32_t e = 0; e < 2u * other->point_count; e++)
                both |= exists(other, e) && same_side(line, element, other, e) &&
                        same_side(line, nearer(line, element), other, nearer(other, e));
            if (!pass)
                shared += both;
            else if (!both && shared)
                g_array_remove_index(m->left, i);
        }
    if (shared && m->driver)
        m->from = nearer(line, g_array_index(m->left, uint32_t, 0));
}

void rmg_meter_end(rmg_meter *m)
{
    g_array_free(m->left, TRUE);
}

static double share_of(const rmg_facts *facts, uint32_t element)
{
    const double *often = facts->causes.socketed;

    return element & 1u ? often[RMG_CAUSE_LINE_PART]
                        : often[RMG_CAUSE_LINE_TRACK] + often[RMG_CAUSE_LINE_JOINT];
}

/* Can a probe be set there? */
static bool in_reach(const rmg_board *board, const rmg_point *point)
{
    return point->socket == RMG_NO_SOCKET || board->sockets[point->socket].mount != RMG_MOUNT_BALL;
}

uint32_t rmg_meter_half(const rmg_facts *facts, const rmg_board *board, const rmg_line *line,
                        const rmg_meter *m)
{
    double all = 0, sum = 0, best = 2;
    uint32_t half = UINT32_MAX;

    for (guint i = 0; i < m->left->len; i++)
        all += share_of(facts, g_array_index(m->left, uint32_t, i));
    for (guint i = 0; i + 1u < m->left->len; i++) {
        const uint32_t element = g_array_index(m->left, uint32_t, i);
        const uint32_t next = g_array_index(m->left, uint32_t, i + 1u);
        /* the side that both share: below the one where the chain leads away from the driver, above
         * it where it leads back */
        const uint32_t side = nearer(line, next) == element   ? element
                              : nearer(line, element) == next ? next
                                                              : nearer(line, next);
        double off;

        sum += share_of(facts, element);
        off = sum / all > 0.5 ? sum / all - 0.5 : 0.5 - sum / all;
        if (off >= best || !in_reach(board, &line->points[side / 2u]))
            continue;
        best = off;
        half = side;
    }
    return half;
}

/* A saying about a line, and two sides of points of it. */
static rmg_saying say_sides(const rmg_finding *f, rmg_said said, uint32_t from, uint32_t to)
{
    rmg_saying s = rmg_say_of(f, said);

    s.line = f->line;
    s.n = from;
    s.m = to;
    return s;
}

static void add_rival(wording *w, rmg_saying is, rmg_cause cause, double share)
{
    const rmg_rival one = {.is = is, .share = share, .cause = cause};

    g_array_append_val(w->rivals, one);
}

/* What was told of the line. */
static void because_told(wording *w, uint16_t n)
{
    const rmg_facts *facts = w->facts;
    const rmg_finding *f = &w->s->finding;
    rmg_saying whole = rmg_say_of(f, RMG_SAY_METER_WHOLE);

    for (size_t i = 0; i < facts->open_count; i++)
        if (facts->open[i].line == n)
            rmg_add_reason(
                w, say_sides(f, RMG_SAY_METER_OPEN, facts->open[i].from, facts->open[i].to));
    for (size_t i = 0; i < facts->seen_count; i++)
        if (facts->seen[i].line == n) {
            static const rmg_said said[] = {[RMG_ACTIVITY_STILL] = RMG_SAY_PROBE_STILL,
                                            [RMG_ACTIVITY_PULSING] = RMG_SAY_PROBE_PULSING,
                                            [RMG_ACTIVITY_HIGH] = RMG_SAY_PROBE_LEVEL,
                                            [RMG_ACTIVITY_LOW] = RMG_SAY_PROBE_LEVEL};
            rmg_saying s = say_sides(f, said[facts->seen[i].activity], facts->seen[i].side, 0);

            s.level = facts->seen[i].activity == RMG_ACTIVITY_HIGH;
            rmg_add_reason(w, s);
        }
    for (size_t i = 0; i < facts->sound_count; i++)
        whole.n += facts->sound[i].line == n;
    whole.line = n;
    if (whole.n)
        rmg_add_reason(w, whole);
}

/* Rivals and steps of a line of which something was measured: each element that is left. */
static void list_left(wording *w, const rmg_meter *m)
{
    const rmg_finding *f = &w->s->finding;
    const rmg_line *line = &w->board->lines[f->line];
    const double *often = w->facts->causes.socketed;
    const uint32_t half = rmg_meter_half(w->facts, w->board, line, m);

    for (guint i = 0; i < m->left->len; i++) {
        const uint32_t element = g_array_index(m->left, uint32_t, i);

        rmg_saying is = say_sides(f, element & 1u ? RMG_SAY_METER_PART : RMG_SAY_METER_TRACK,
                                  nearer(line, element), element);

        is.point = (uint16_t)(element / 2u);
        add_rival(w, is, element & 1u ? RMG_CAUSE_LINE_PART : RMG_CAUSE_LINE_TRACK,
                  share_of(w->facts, element));
    }
    if (m->driver) {
        add_rival(w, say_sides(f, RMG_SAY_METER_DRIVER, m->from, 0), RMG_CAUSE_LINE_DRIVER,
                  often[RMG_CAUSE_LINE_DRIVER]);
        add_rival(w, say_sides(f, RMG_SAY_METER_SHORT, m->from, 0), RMG_CAUSE_LINE_TRACK,
                  often[RMG_CAUSE_LINE_TRACK]);
    }
    if (!w->rivals->len)
        add_rival(w, rmg_say_of(f, RMG_SAY_NOTHING_FITS), RMG_CAUSES, 1);
    if (m->driver)
        rmg_add_settling_step(w, say_sides(f, RMG_SAY_PROBE_DRIVER, m->from, 0));
    else if (half != UINT32_MAX)
        rmg_add_settling_step(
            w, say_sides(f, m->probed ? RMG_SAY_PROBE_HALF : RMG_SAY_METER_HALF, half, m->from));
    else
        rmg_add_settling_step(
            w, rmg_say_of(f, m->left->len ? RMG_SAY_LOOK_CLOSELY : RMG_SAY_MEASURE_ONCE_MORE));
}

/* The suspect of one line; false: nothing was told of it that says it is broken. */
static bool suspect_line(const rmg_facts *facts, const rmg_run *run, uint16_t n, rmg_suspect *s)
{
    const rmg_line *line = &run->board->lines[n];
    rmg_meter m;
    wording w = {.run = run, .facts = facts, .board = run->board, .s = s};
    bool any;

    rmg_meter_look(facts, run->board, n, &m);
    any = m.told;
    for (uint16_t k = 0; k < run->board->line_count; k++)
        if (k != n && any && told_alike(facts, run->board, n, k)) {
            any &= k > n; /* told with the first of them */
            keep_shared(&m, line, &run->board->lines[k]);
        }
    if (any) {
        memset(s, 0, sizeof *s);
        s->finding =
            (rmg_finding){.kind = RMG_FINDING_MEASURED,
                          .socket = RMG_NO_SOCKET,
                          .bank = RMG_NO_BANK,
                          .bank2 = RMG_NO_BANK,
                          .lane = RMG_NO_BANK,
                          .line = n,
                          .point = (uint16_t)(m.to / 2u),
                          .bits = line->kind == RMG_LINE_DATA ? (rmg_word)1 << line->bit : 0,
                          .lines = line->kind == RMG_LINE_ADDRESS ? (rmg_addr)1 << line->bit : 0};
        w.reasons = g_array_new(FALSE, TRUE, sizeof(rmg_saying));
        w.steps = g_array_new(FALSE, TRUE, sizeof(rmg_saying));
        w.rivals = g_array_new(FALSE, TRUE, sizeof(rmg_rival));
        s->is = say_sides(&s->finding,
                          m.driver      ? RMG_SAY_METER_NOT_DRIVEN
                          : m.left->len ? RMG_SAY_METER_LINE
                                        : RMG_SAY_METER_CONTRADICTS,
                          m.from, m.to);
        because_told(&w, n);
        list_left(&w, &m);
        s->confidence = m.driver ? 0.85 : m.left->len ? 0.95 : 0.3;
        rmg_rivals_settle((rmg_rival *)(void *)w.rivals->data, w.rivals->len);
        s->reason_count = w.reasons->len;
        s->reasons = rmg_array_take(w.reasons);
        s->step_count = w.steps->len;
        s->steps = rmg_array_take(w.steps);
        s->rival_count = w.rivals->len;
        s->rivals = rmg_array_take(w.rivals);
    }
    rmg_meter_end(&m);
    return any;
}

/* Is there an element of this kind among what is left? */
static bool has_left(const rmg_meter *m, unsigned kind)
{
    for (guint i = 0; i < m->left->len; i++)
        if ((g_array_index(m->left, uint32_t, i) & 1u) == kind)
            return true;
    return false;
}

bool rmg_meter_rules_out(const rmg_meter *m, rmg_cause cause)
{
    if (!m->told || !m->left->len || m->driver)
        return false;
    switch (cause) {
    case RMG_CAUSE_LINE_PART:
        return !has_left(m, 1);
    case RMG_CAUSE_LINE_TRACK:
    case RMG_CAUSE_LINE_JOINT:
    case RMG_CAUSE_TRACK_DATA:
    case RMG_CAUSE_TRACK_ADDRESS:
    case RMG_CAUSE_TRACK_WRITE:
    case RMG_CAUSE_CONTACT_OUTPUT:
    case RMG_CAUSE_CONTACT_INPUT:
    case RMG_CAUSE_CONTACT_ADDRESS:
    case RMG_CAUSE_CONTACT_WRITE:
    case RMG_CAUSE_CONTACT_SELECT:
        return !has_left(m, 0);
    default:
        return true; /* what is open is neither a chip nor what drives the line */
    }
}

void rmg_meter_tell(wording *w, const rmg_meter *m)
{
    const rmg_finding *f = &w->s->finding;
    const uint32_t half = rmg_meter_half(w->facts, w->board, &w->board->lines[f->line], m);

    if (!m->told || !m->left->len)
        return;
    because_told(w, f->line);
    w->s->confidence = 1 - 0.1 * (1 - MIN(w->s->confidence, 0.9)); /* it was measured too */
    if (half != UINT32_MAX)
        rmg_add_settling_step(
            w, say_sides(f, m->probed ? RMG_SAY_PROBE_HALF : RMG_SAY_METER_HALF, half, m->from));
}

/* Is a suspect about this line already? */
static bool is_suspected(const rmg_suspects *suspects, size_t count, uint16_t line)
{
    for (size_t i = 0; i < count; i++)
        if (suspects->list[i].finding.point != RMG_NO_POINT &&
            suspects->list[i].finding.line == line)
            return true;
    return false;
}

void rmg_add_told(const rmg_facts *facts, const rmg_run *run, rmg_suspects *suspects)
{
    const size_t found = suspects->count;

    if (!facts->open_count && !facts->seen_count)
        return;
    suspects->list = g_renew(rmg_suspect, suspects->list, found + run->board->line_count + 1u);
    for (size_t n = 0; n < run->board->line_count; n++)
        if (!is_suspected(suspects, found, (uint16_t)n))
            suspects->count +=
                suspect_line(facts, run, (uint16_t)n, &suspects->list[suspects->count]);
}

void rmg_suspects_told(const rmg_facts *facts, const rmg_run *run, rmg_suspects *suspects)
{
    suspects->count = 0;
    suspects->list = g_new0(rmg_suspect, MAX(run->board->line_count, 1u));
    for (size_t n = 0; n < run->board->line_count; n++)
        suspects->count += suspect_line(facts, run, (uint16_t)n, &suspects->list[suspects->count]);
}
