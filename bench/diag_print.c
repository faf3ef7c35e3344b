/* The benchmark's results, printed. */
#include <stdio.h>
#include <stdlib.h>

#include "diag_bench.h"

const diag_kind diag_others[OTHERS] = {
    {"noise", RMG_FAULT_NOISE, TRUTH_NOBODY, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0},
    {"noise at the start", RMG_FAULT_NOISE, TRUTH_NOBODY, REACH_ALL, WHEN_AT_FIRST, 0, 0},
    {"noise later on", RMG_FAULT_NOISE, TRUTH_NOBODY, REACH_ALL, WHEN_LATER, 0, 0},
    {"at times: data line", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0},
    {"at times: data, open", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_SOME, WHEN_NOW_AND_THEN, 0, 0},
    {"at times: address", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_BANK, WHEN_NOW_AND_THEN, 0,
     0},
    {"at times: select", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_BANK, WHEN_NOW_AND_THEN, 0, 0},
    {"at times: data touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0},
    {"at times: bank touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_BANK, WHEN_NOW_AND_THEN, 0,
     0},
    {"at times: output", RMG_FAULT_OUTPUT, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0},
    {"at times: data pin", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0},
    {"when warm: data pin", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, WHEN_WARM, 0, 0},
    {"at times: address pin", RMG_FAULT_ADDRESS_CHIP, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0,
     0},
    {"at times: chip select", RMG_FAULT_DESELECTED, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0,
     0},
    {"at times: always on", RMG_FAULT_ALWAYS_ON, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0},
};

/* The answer in a line or two a suspect: to be compared with another version's. */
void diag_answer(const diag_case *c, uint64_t seed)
{
    printf("%llu %s\n", (unsigned long long)seed, c->board->board->name);
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];

        printf("  %.4f %s: %s\n", s->confidence, s->site, s->headline);
        for (size_t n = 0; n < s->replay_count; n++)
            if (s->replays[n].same)
                printf("    %s\n", s->replays[n].fault);
    }
}

/* What was wrong, and what was made of it. */
void diag_tell(const diag_case *c, uint64_t seed)
{
    const rmg_board *board = c->board->board;

    printf("seed %llu, %s\n", (unsigned long long)seed, board->name);
    for (uint16_t n = 0; n < c->fault_count; n++) {
        const rmg_sim_fault *f = &c->faults[n];

        printf("  fault %d of %s: line %u, lines %#llx, level %u, bank %u, chips", (int)f->kind,
               board->sockets[f->chip].name, f->line, (unsigned long long)f->lines, f->level,
               f->bank);
        for (uint16_t s = 0; s < board->socket_count; s++)
            if (rmg_fault_acts_for(f, s))
                printf(" %s", board->sockets[s].name);
        printf("; %u in 1,000,000,000\n", f->when.rate_ppb);
    }
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];

        printf("%3.0f %% %s: %s\n", 100 * s->confidence, s->site, s->headline);
        for (size_t n = 0; n < s->reason_count; n++)
            printf("      - %s\n", s->because[n]);
        for (size_t n = 0; n < s->rival_count; n++)
            printf("      %2.0f %% %s\n", 100 * s->rivals[n].share, s->rivals[n].name);
        for (size_t n = 0; n < s->replay_count && n < 8; n++)
            printf("      %s %llu left %llu unseen %llu: %s\n",
                   s->replays[n].same ? "the same" : "differs ",
                   (unsigned long long)s->replays[n].explained,
                   (unsigned long long)s->replays[n].left, (unsigned long long)s->replays[n].unseen,
                   s->replays[n].fault);
    }
}

void diag_merge(bench *to, const bench *from)
{
    for (size_t f = 0; f < DIAG_FAMILIES; f++)
        for (size_t i = 0; i < KINDS; i++)
            diag_score_add(&to->single[f][i], &from->single[f][i]);
    for (size_t i = 0; i < OTHERS; i++)
        diag_score_add(&to->other[i], &from->other[i]);
    for (size_t i = 0; i < 2; i++) {
        to->together[i].cases += from->together[i].cases;
        to->together[i].hidden += from->together[i].hidden;
        to->together[i].all_named += from->together[i].all_named;
        to->together[i].as_one += from->together[i].as_one;
        to->together[i].wrong += from->together[i].wrong;
    }
    to->healthy += from->healthy;
    to->healthy_named += from->healthy_named;
    for (size_t i = 0; i < CALIBRATED; i++)
        diag_bins_add(&to->bins[i], &from->bins[i]);
    for (unsigned i = 0; i < from->ratio_count; i++)
        to->ratios[to->ratio_count++] = from->ratios[i];
    to->own_seconds += from->own_seconds;
    to->diagnosis_seconds += from->diagnosis_seconds;
}

void diag_print_singles(const bench *b)
{
    diag_score sums[DIAG_FAMILIES] = {{0}}, all[KINDS] = {{0}}, total = {0};

    for (size_t f = 0; f < DIAG_FAMILIES; f++)
        for (size_t i = 0; i < diag_kind_count; i++) {
            diag_score_add(&sums[f], &b->single[f][i]);
            diag_score_add(&all[i], &b->single[f][i]);
        }
    diag_print_header();
    for (size_t i = 0; i < diag_kind_count; i++) {
        diag_print_score(diag_kinds[i].name, &all[i]);
        diag_score_add(&total, &all[i]);
    }
    diag_print_score("all", &total);
    printf("\nSingle faults that failed an access\n");
    for (size_t f = 0; f < DIAG_FAMILIES; f++) {
        const unsigned failed = sums[f].cases - sums[f].silent;

        printf(" %s\n", diag_family_names[f]);
        diag_print_share("place and kind in the first group", sums[f].kind, failed);
        diag_print_share("the true place among those named", sums[f].among, failed);
        diag_print_share("a wrong socket above 50 %", sums[f].wrong_socket, failed);
        diag_print_share("members that give the same failures", sums[f].members_hold,
                         sums[f].members);
    }
}

void diag_print_others(const bench *b)
{
    diag_score sums[3] = {{0}};
    static const char *const names[3] = {"noise: nobody named", "shared lines: named first",
                                         "chips: named first"};

    printf("\nSeveral bad chips at once, each of which shows alone; healthy boards\n");
    for (unsigned i = 0; i < 2; i++) {
        diag_print_share(i ? "triples: all named" : "pairs: both named", b->together[i].all_named,
                         b->together[i].cases);
        diag_print_share("... some of them, alike, as one set", b->together[i].as_one,
                         b->together[i].cases);
        diag_print_share("... a wrong socket above 50 %", b->together[i].wrong,
                         b->together[i].cases);
    }
    diag_print_share("healthy: somebody named", b->healthy_named, b->healthy);
    printf("\nWhat comes and goes, of ten passes");
    diag_print_header();
    for (size_t i = 0; i < OTHERS; i++) {
        diag_print_score(diag_others[i].name, &b->other[i]);
        diag_score_add(&sums[i < NOISES ? 0 : i < NOISES + SHARED ? 1 : 2], &b->other[i]);
    }
    diag_print_lines(&sums[1]);
    for (unsigned i = 0; i < 3; i++) {
        diag_print_share(names[i], sums[i].place, sums[i].cases - sums[i].silent);
        if (i)
            diag_print_share("... or among what looks the same", sums[i].among,
                             sums[i].cases - sums[i].silent);
        diag_print_share("... a socket above 50 % without a fault", sums[i].wrong_socket,
                         sums[i].cases - sums[i].silent);
    }
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;

    return (x > y) - (x < y);
}

void diag_print_calibration(bench *b)
{
    static const char *const names[CALIBRATED] = {"single faults", "interleaved banks",
                                                  "two and three at once", "what comes and goes"};

    for (size_t i = 0; i < CALIBRATED; i++)
        diag_print_bins(names[i], &b->bins[i]);
    qsort(b->ratios, b->ratio_count, sizeof *b->ratios, rising);
    if (b->ratio_count)
        printf("\nDiagnosis with replays took %.1f times as long as the runs; on the 64 KiB board, "
               "single faults: median %.1f, nine tenths below %.1f.\n",
               b->diagnosis_seconds / b->own_seconds, b->ratios[b->ratio_count / 2],
               b->ratios[b->ratio_count * 9 / 10]);
}
