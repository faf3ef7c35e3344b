/* Exact binomial intervals, and failures over the course of a run. */
#include "rimeglass/run.h"

#include <glib.h>
#include <math.h>
#include <string.h>

/* The regularised incomplete beta function I_x(a, b) by its continued fraction (W. J. Lentz,
 * Generating Bessel Functions in Mie Scattering Calculations Using Continued Fractions, 1976). */
static double beta_fraction(double x, double a, double b)
{
    const double tiny = 1e-300;
    double c = 1, d = 1 - (a + b) * x / (a + 1), f;

    d = 1 / (fabs(d) < tiny ? tiny : d);
    f = d;
    for (int m = 1; m < 5000; m++) {
        const double even = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m));
        const double odd = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1));
        double step;

        d = 1 + even * d;
        c = 1 + even / c;
        d = 1 / (fabs(d) < tiny ? tiny : d);
        f *= d * c;
        d = 1 + odd * d;
        c = 1 + odd / c;
        d = 1 / (fabs(d) < tiny ? tiny : d);
        step = d * c;
        f *= step;
        if (fabs(step - 1) < 1e-14)
            break;
    }
    return f;
}

static double beta_below(double x, double a, double b)
{
    const double front = exp(lgamma(a + b) - lgamma(a) - lgamma(b) + a * log(x) + b * log1p(-x));

    if (x < (a + 1) / (a + b + 2))
        return front * beta_fraction(x, a, b) / a;
    return 1 - front * beta_fraction(1 - x, b, a) / b;
}

/* The x at which I_x(a, b) is `share`: by halving, in the logarithm, so that small ones are exact.
 */
static double beta_at(double share, double a, double b)
{
    double low = -45, high = 0;

    for (int i = 0; i < 200; i++) {
        const double middle = (low + high) / 2;

        if (beta_below(exp(middle), a, b) < share)
            low = middle;
        else
            high = middle;
    }
    return exp((low + high) / 2);
}

rmg_rate rmg_rate_of(uint64_t events, uint64_t trials)
{
    rmg_rate r = {events, trials, 0, 0, 1};

    if (!trials)
        return r;
    r.share = (double)events / (double)trials;
    if (events)
        r.low = beta_at(0.025, (double)events, (double)(trials - events) + 1);
    if (events < trials)
        r.high = beta_at(0.975, (double)events + 1, (double)(trials - events));
    return r;
}

rmg_rate rmg_rate_of_passes(const rmg_run *run)
{
    uint64_t failing = 0;

    for (size_t i = 0; i < run->stretch_count; i++)
        failing += run->stretches[i].failing_passes;
    return rmg_rate_of(failing, run->pass_count);
}

void rmg_course_of(const rmg_run *run, rmg_course *course)
{
    uint64_t all = 0, early = 0, early_passes = 0, before = 0;
    rmg_rate early_share;
    double expected;

    memset(course, 0, sizeof *course);
    course->parts = MIN(run->stretch_count, RMG_PARTS);
    for (size_t i = 0; i < run->stretch_count; i++) {
        const rmg_stretch *s = &run->stretches[i];
        const size_t part = i * course->parts / run->stretch_count;

        course->passes[part] += s->passes;
        course->failing_reads[part] += s->failing_reads;
        all += s->failing_reads;
        before += s->passes;
        if (before <= run->pass_count / 2u) {
            early = all;
            early_passes = before;
        }
    }
    if (run->pass_count < 4 || !all || !early_passes)
        return;
    early_share = rmg_rate_of(early, all);
    expected = (double)early_passes / (double)run->pass_count;
    course->movement = early_share.high < expected  ? RMG_MOVES_UP
                       : early_share.low > expected ? RMG_MOVES_DOWN
                                                    : RMG_MOVES_NOT;
}
