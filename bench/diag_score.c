/* Cases counted and printed. */
#include "diag_score.h"

#include <stdio.h>
#include <string.h>

static unsigned same_count(const rmg_suspect *s)
{
    unsigned same = 0;

    for (size_t i = 0; i < s->replay_count; i++)
        same += s->replays[i].same;
    return same;
}

static void count_members(const diag_case *c, const rmg_suspect *s, diag_score *to)
{
    const unsigned same = same_count(s);

    to->group[same < 3 ? same : same < 6 ? 3 : 4]++;
    for (size_t i = 0; i < s->replay_count; i++)
        if (s->replays[i].same) {
            const bool holds = diag_member_holds(c, &s->replays[i]);

            to->members++;
            to->members_hold += holds;
            if (!holds)
                printf("  a member does not hold: %s\n", s->replays[i].fault);
        }
}

void diag_calibrate(const diag_case *c, const diag_kind *const *kinds, diag_bins *bins)
{
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];
        size_t bin = (size_t)(s->confidence * DIAG_BINS);
        bool right = false;

        for (uint16_t n = 0; n < c->fault_count; n++)
            right |= diag_place_right(c, s, kinds[n], &c->faults[n]);
        bin = bin < DIAG_BINS ? bin : DIAG_BINS - 1;
        bins->cases[bin]++;
        bins->right[bin] += right;
        bins->sum[bin] += s->confidence;
    }
}

void diag_judge(diag_case *c, const diag_kind *k, uint64_t seed, diag_score *to)
{
    const rmg_suspect *first = c->suspects.count ? &c->suspects.list[0] : NULL;
    const bool replayed = k->when == WHEN_ALWAYS && k->truth != TRUTH_NOBODY;
    const bool place =
        first ? diag_place_right(c, first, k, &c->faults[0]) : k->truth == TRUTH_NOBODY;
    const bool kind = place && (!replayed || diag_kind_among(first, k));
    const bool wrong = diag_wrong_socket(c, &k);
    bool among = place;

    for (size_t i = 1; i < c->suspects.count; i++)
        among |= diag_place_right(c, &c->suspects.list[i], k, &c->faults[0]);
    for (size_t i = 0; first && i < first->rival_count; i++)
        among |= diag_rival_right(&first->rivals[i], k, &c->faults[0]);
    to->place += place;
    to->kind += kind;
    to->among += among;
    to->nobody += !first;
    to->wrong += first && !place;
    to->wrong_socket += wrong;
    to->lines += k->truth == TRUTH_LINES && k->when != WHEN_ALWAYS && first &&
                 first->finding.socket == RMG_NO_SOCKET; /* a bank's only chip has them alone */
    to->lines_named += k->truth == TRUTH_LINES && k->when != WHEN_ALWAYS && place &&
                       first->finding.lines == c->faults[0].lines;
    if (first && replayed && c->suspects.count == 1) /* else it takes all of them together */
        count_members(c, first, to);
    if (!kind || wrong)
        printf("  seed %llu, %s, %s: %s (%.0f %%)%s%s%s\n", (unsigned long long)seed,
               c->board->board->name, k->name, first ? first->site : "nobody",
               first ? first->confidence * 100 : 0, place ? ", the kind is missing" : "",
               among && !place ? ", another suspect is right" : "",
               wrong ? ", A WRONG SOCKET" : "");
}

void diag_score_add(diag_score *to, const diag_score *from)
{
    to->cases += from->cases;
    to->silent += from->silent;
    to->place += from->place;
    to->kind += from->kind;
    to->among += from->among;
    to->nobody += from->nobody;
    to->wrong += from->wrong;
    to->wrong_socket += from->wrong_socket;
    to->lines += from->lines;
    to->lines_named += from->lines_named;
    to->members += from->members;
    to->members_hold += from->members_hold;
    for (size_t i = 0; i < 5; i++)
        to->group[i] += from->group[i];
}

void diag_bins_add(diag_bins *to, const diag_bins *from)
{
    for (size_t i = 0; i < DIAG_BINS; i++) {
        to->cases[i] += from->cases[i];
        to->right[i] += from->right[i];
        to->sum[i] += from->sum[i];
    }
}

void diag_print_header(void)
{
    printf("\n%-22s %6s %6s %6s %6s %6s %6s %6s %6s  %7s %7s   %s\n", "kind", "cases", "silent",
           "place", "+kind", "among", "nobody", "wrong", ">50 %", "members", "hold",
           "groups of 0, 1, 2, 3-5, 6+");
}

void diag_print_score(const char *name, const diag_score *s)
{
    printf("%-22s %6u %6u %6u %6u %6u %6u %6u %6u  %7u %7u  ", name, s->cases, s->silent, s->place,
           s->kind, s->among, s->nobody, s->wrong, s->wrong_socket, s->members, s->members_hold);
    for (size_t i = 0; i < 5; i++)
        printf(" %4u", s->group[i]);
    printf("\n");
}

void diag_print_share(const char *what, unsigned part, unsigned all)
{
    const rmg_rate r = rmg_rate_of(part, all);

    printf("  %-52s %5u of %5u, %6.2f %% (95 %%: %.2f to %.2f)\n", what, part, all,
           all ? 100 * r.share : 100.0, 100 * r.low, 100 * r.high);
}

void diag_print_bins(const char *name, const diag_bins *bins)
{
    printf("\n%-12s %8s %8s %8s   %s\n", "confidence", "suspects", "stated", "right", name);
    for (size_t i = 0; i < DIAG_BINS; i++)
        if (bins->cases[i]) {
            const rmg_rate r = rmg_rate_of(bins->right[i], bins->cases[i]);

            printf("%.1f to %.1f   %8u %7.1f%% %7.1f%%   (95 %%: %.1f to %.1f)\n",
                   (double)i / DIAG_BINS, (double)(i + 1) / DIAG_BINS, bins->cases[i],
                   100 * bins->sum[i] / bins->cases[i], 100 * r.share, 100 * r.low, 100 * r.high);
        }
}

void diag_print_lines(const diag_score *s)
{
    if (s->lines)
        diag_print_share("address lines: the line itself named", s->lines_named, s->lines);
}
