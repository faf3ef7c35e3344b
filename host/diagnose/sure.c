/* How sure a finding is: first estimates by hand, explained in docs/diagnosis.md. */
#include "internal.h"
#include "rimeglass/march.h"

#define UNSTEADY 0.5 /* times what it would be if all passes were alike */
#define ONCE                                                                                       \
    0.55 /* each cell failed once: a fault, or chance; at several sockets rather chance            \
          */
#define ONE_READ  0.45 /* ... and but one of them */
#define LOST      0.45 /* before the port was lost, in no whole pass: all of them together, at most */
#define EXACT     0.8 /* cells, if a fault there gives just these failures: at least, before that */
#define FOLLOWS   0.45 /* beside a fault that is not simulated, or hides what it shares: at most */
#define OWN_WAYS  0.92 /* times: of a line that is wrong in each bank in its own way */
#define FEW_CHIPS 0.75 /* times: what feeds two or three chips, all with bad cells */
#define SUREST    0.99 /* nothing is certain from here */

/* One read failed, once: some fault or other gives that at every place. */
static bool once(const rmg_finding *f)
{
    return f->failed_high + f->failed_low < 2;
}

bool rmg_cells_failed_once(const rmg_run *run, const rmg_finding *f)
{
    const uint64_t reads = f->failed_high + f->failed_low;
    cell_report report;

    if (run->pass_count >= 2 || f->kind != RMG_FINDING_CELLS || f->bank == RMG_NO_BANK ||
        reads > rmg_failset_bits(run->failures, &run->board->bank_wheres[f->bank], f->bits))
        return false;
    rmg_cells_look(run, f, &report);
    return reads < RMG_FEW_READS ||
           (report.shape != SHAPE_ROW && report.shape != SHAPE_COLUMN); /* which are a chip's */
}

/* Does the step read both values of each word? Then a dead bit, or a line without effect, fails in
 * it. */
static bool reads_both(const rmg_step *step)
{
    bool zero = false, one = false;

    for (const uint8_t *head = step->code; step->kind == RMG_STEP_MARCH && *head;) {
        const uint8_t count = *head & (uint8_t)~RMG_ORDER_MASK;

        for (uint8_t i = 1; i <= count; i++) {
            zero |= head[i] == RMG_OP_R0;
            one |= head[i] == RMG_OP_R1;
        }
        head += count + 1u;
    }
    return zero && one;
}

/* Kinds of which every pass that reads both values shows something. */
static bool shows_always(rmg_finding_kind kind)
{
    switch (kind) {
    case RMG_FINDING_ALL_SILENT:
    case RMG_FINDING_BANK_SILENT:
    case RMG_FINDING_DATA_LINE:
    case RMG_FINDING_DATA_AT_SOCKET:
    case RMG_FINDING_ADDRESS_LINES:
    case RMG_FINDING_ADDRESS_OF_BANK:
    case RMG_FINDING_ADDRESS_AT_SOCKET:
    case RMG_FINDING_NEVER_WRITTEN:
    case RMG_FINDING_STALE:
    case RMG_FINDING_BANK_NEVER_WRITTEN:
    case RMG_FINDING_BRANCH:
    case RMG_FINDING_SHARED:
        return true;
    default:
        return false;
    }
}

bool rmg_suspect_contradicted(const rmg_run *run, const rmg_finding *f)
{
    const rmg_where *where = f->bank == RMG_NO_BANK ? NULL : &run->board->bank_wheres[f->bank];
    bool reads = false;

    for (size_t i = 0; i < run->steps.count; i++)
        reads |= reads_both(&run->steps.list[i]);
    return run->pass_count && reads && shows_always(f->kind) && !f->failed_high && !f->failed_low &&
           !rmg_failset_words(run->failures, where, f->bits);
}

static void note_whole_pass(void *context, rmg_addr first, size_t words, uint16_t which,
                            uint32_t record, const rmg_fail_part *parts, size_t count)
{
    struct {
        const rmg_where *where;
        rmg_word bits;
        bool found;
    } *of = context;

    (void)record;
    for (size_t i = 0; i < count && !of->found; i++)
        for (size_t n = 0; n < words && parts[i].passes; n++)
            if ((unsigned)which >> ((first + n) & 15u) & 1u &&
                (parts[i].high | parts[i].low) & of->bits &&
                (!of->where || rmg_where_holds(of->where, first + n)))
                of->found = true;
}

bool rmg_suspect_unconfirmed(const rmg_run *run, const rmg_finding *f)
{
    struct {
        const rmg_where *where;
        rmg_word bits;
        bool found;
    } of = {f->bank == RMG_NO_BANK ? NULL : &run->board->bank_wheres[f->bank], f->bits, false};

    if (run->heard || (run->status != RMG_ERR_PORT && run->status != RMG_ERR_PORT_LOST))
        return false;
    if (!run->pass_count)
        return true;
    rmg_failset_each_run(run->failures, note_whole_pass, &of);
    return !of.found && rmg_failset_words(run->failures, of.where, f->bits);
}

static bool two_or_three(const wording *w)
{
    bool *sockets = g_new0(bool, MAX(w->board->socket_count, 1u));
    unsigned count = 0;

    rmg_finding_sockets(w->run, &w->s->finding, sockets);
    for (size_t s = 0; s < w->board->socket_count; s++)
        count += sockets[s];
    g_free(sockets);
    return count < 4;
}

static double sure_by_passes(const wording *w, size_t cell_findings)
{
    const rmg_finding *f = &w->s->finding;
    const bool cells = f->kind == RMG_FINDING_CELLS, same = f->kind == RMG_FINDING_SAME_WORDS;
    double sure = rmg_finding_row(f->kind)->sure;

    if (f->kind == RMG_FINDING_SHARED && f->of == RMG_FINDING_DATA_LINE)
        sure *= OWN_WAYS;
    if (same && f->of == RMG_FINDING_BANK_SILENT && two_or_three(w))
        sure *= FEW_CHIPS;
    if (f->weighed)
        return 0.98 * f->weighed / 1000.0;
    if (rmg_suspect_contradicted(w->run, f))
        return sure * 0.5;
    if (w->run->pass_count > 1 && !rmg_run_repeats(w->run))
        sure *= (!cells && !same) || once(f) ? UNSTEADY
                : cell_findings == 1         ? 1.05
                                             : 0.95; /* no chance */
    else if (rmg_cells_failed_once(w->run, f))
        return (once(f) ? ONE_READ : ONCE) /
               (double)(MAX(cell_findings, 1u) * MAX(cell_findings, 1u));
    else if (w->run->pass_count < 2 && cells)
        sure *= f->failed_high + f->failed_low < 5 ? 0.5 : 0.8;
    else if (w->run->pass_count < 2)
        sure *= 0.9;
    if (cells && cell_findings > 2)
        sure *= 0.5;
    return sure;
}

double rmg_suspect_confidence(const wording *w, size_t cell_findings)
{
    const double by_passes = sure_by_passes(w, cell_findings);
    const bool doubt = w->s->finding.may_follow || w->s->finding.or_its_line;
    const double each = w->s->finding.or_each / 1000.0;
    const bool share = w->s->finding.socket == RMG_NO_SOCKET;
    const double sure = doubt      ? MIN(by_passes, FOLLOWS)
                        : each > 0 ? MIN(by_passes, share ? 1 - each : each)
                                   : by_passes;

    return rmg_suspect_unconfirmed(w->run, &w->s->finding) ? MIN(sure, LOST / (double)w->all->count)
                                                           : sure;
}

double rmg_suspect_replayed(const rmg_run *run, const rmg_suspect *s, bool same, bool alone,
                            bool poor)
{
    const bool comes_and_goes = run->pass_count > 1 && !rmg_run_repeats(run);
    const bool cells = s->finding.kind == RMG_FINDING_CELLS;
    double sure = s->confidence;

    if ((s->finding.may_follow || s->finding.or_its_line || s->finding.or_each) && same)
        return sure; /* something else explains it as well */
    if (s->finding.untested)
        return sure; /* what else it may be is not played */
    if (rmg_suspect_unconfirmed(run, &s->finding))
        return sure; /* a fault that gives it says nothing of whether the memory did */
    /* where something that would be likely there is known not to be, it counts for less */
    const double odds = s->excluded ? 3 : 5;

    /* what passes differ in was explained */
    if (same && comes_and_goes && !cells && !s->finding.weighed)
        return MIN(sure / UNSTEADY, 0.95);
    if (rmg_cells_failed_once(run, &s->finding))
        return sure; /* some fault or other of a chip gives just that */
    if (same && !(comes_and_goes && once(&s->finding))) {
        if (cells && !s->finding.weighed && !s->excluded)
            sure = MAX(sure, EXACT); /* few reads, many sockets: what they raised is answered */
        return MIN(odds * sure / (odds * sure + 1 - sure), SUREST);
    }
    if (comes_and_goes)
        return sure;
    return poor ? sure * (alone ? 0.4 : 0.5) : alone ? sure * 0.97 : sure;
}
