/* How sure a finding is: first estimates by hand, explained in docs/diagnosis.md. */
#include "internal.h"

/* One read failed, once: some fault or other gives that at every place. */
static bool once(const rmg_finding *f)
{
    return f->failed_high + f->failed_low < 2;
}

double rmg_suspect_confidence(const wording *w, size_t cell_findings)
{
    const rmg_finding *f = &w->s->finding;
    const bool cells = f->kind == RMG_FINDING_CELLS;
    double sure = rmg_finding_row(f->kind)->sure;

    if (f->kind == RMG_FINDING_SPREAD)
        return f->failed_high + f->failed_low < RMG_FEW_READS ? sure * 0.7 : sure;
    if (w->run->pass_count > 1 && !rmg_run_repeats(w->run))
        sure *= !cells || once(f) ? 0.5 : cell_findings == 1 ? 1.05 : 0.95; /* no chance there */
    else if (w->run->pass_count < 2 && cells)
        sure *= f->failed_high + f->failed_low < 5 ? 0.55 : 0.8;
    else if (w->run->pass_count < 2)
        sure *= 0.9;
    if (cells && cell_findings > 2)
        sure *= 0.5;
    return sure;
}

double rmg_suspect_replayed(const rmg_run *run, const rmg_suspect *s, bool same, bool alone)
{
    const bool comes_and_goes = run->pass_count > 1 && !rmg_run_repeats(run);

    if (same && !(comes_and_goes && once(&s->finding)))
        return 5 * s->confidence / (5 * s->confidence + 1 - s->confidence);
    return alone && !comes_and_goes ? s->confidence * 0.95 : s->confidence;
}
