/* From findings to suspects: what each is, the evidence, how sure. No words. */
#include <math.h>
#include <string.h>

#include "rimeglass/heard.h"
#include "base/internal.h"
#include "meter.h"

#define MOST_FINDINGS 256u
#define AT_ONCE       0.45 /* of one of several places that began to fail in the same pass */

/* The bank whose words fail: not the chip's own where it spoils another's at times. */
static uint8_t failing_bank(const rmg_finding *f)
{
    return (f->kind == RMG_FINDING_DRAGGED && f->weighed) ||
                   (f->kind == RMG_FINDING_BANKS_BOTH && f->untested)
               ? f->bank2
               : f->bank;
}

const rmg_where *rmg_finding_where(const rmg_run *run, const rmg_finding *f)
{
    const uint8_t bank = failing_bank(f);

    return bank == RMG_NO_BANK ? NULL : &run->board->bank_wheres[bank];
}

/* The words that the finding's bits had a chance to fail in. */
static uint64_t words_tested(const wording *w)
{
    const uint8_t bank = failing_bank(&w->s->finding);

    return bank == RMG_NO_BANK ? w->run->tested_words : w->run->bank_words[bank];
}

static const rmg_where *where_of(const wording *w)
{
    return rmg_finding_where(w->run, &w->s->finding);
}

static void because_counts(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    rmg_saying failing = rmg_say_of(f, !f->failed_high  ? RMG_SAY_FAILS_LOW
                                       : !f->failed_low ? RMG_SAY_FAILS_HIGH
                                                        : RMG_SAY_FAILS_BOTH_WAYS);

    failing.n = rmg_failset_words(w->run->failures, where_of(w), f->bits);
    failing.m = words_tested(w);
    failing.bank = failing_bank(&w->s->finding);
    if (rmg_suspect_contradicted(w->run, f)) {
        rmg_saying gone = rmg_say_of(f, RMG_SAY_CAME_AND_WENT);

        gone.n = w->run->pass_count;
        rmg_add_reason(w, gone);
    } else if (failing.n) {
        rmg_add_reason(w, failing);
        if (f->untested)
            rmg_reason(w, f->kind == RMG_FINDING_CELLS ? RMG_SAY_OR_UNTESTED
                          : f->lines                   ? RMG_SAY_HOLDS_A_LEVEL
                                                       : RMG_SAY_HOLDS_UNKNOWN);
        else if (f->kind == RMG_FINDING_DRAGGED && f->weighed)
            rmg_reason(w, RMG_SAY_HELD_THE_OTHER);
    } else
        rmg_reason(w, w->run->pass_count ? RMG_SAY_SEEN_BY_WIRING_ALONE : RMG_SAY_SEEN_BY_WIRING);
}

static void because_passes(wording *w)
{
    const rmg_run *run = w->run;
    rmg_saying passes = rmg_say_of(&w->s->finding, !run->pass_count       ? RMG_SAY_NO_PASS_ENDED
                                                   : run->pass_count == 1 ? RMG_SAY_ONE_PASS
                                                   : rmg_run_repeats(run) ? RMG_SAY_REPEATS
                                                                          : RMG_SAY_NOT_ALIKE);

    passes.n = passes.said == RMG_SAY_NOT_ALIKE ? rmg_rate_of_passes(run).events : run->pass_count;
    passes.m = run->pass_count;
    /* where no word failed it was seen by the wiring check, which is made once */
    if (!run->pass_count || rmg_failset_words(run->failures, where_of(w), w->s->finding.bits))
        rmg_add_reason(w, passes);
    if (rmg_suspect_unconfirmed(run, &w->s->finding))
        rmg_reason(w, RMG_SAY_PORT_WAS_LOST);
}

/* Banks that passed on these bits: the data line works as far as there. */
static void because_sound(wording *w)
{
    const rmg_finding *f = &w->s->finding;

    for (size_t b = 0; b < w->board->bank_count; b++)
        if (b != f->bank && w->run->wired[b] && w->run->pass_count &&
            !rmg_failset_words(w->run->failures, &w->board->bank_wheres[b], f->bits)) {
            rmg_saying sound = rmg_say_of(f, RMG_SAY_OTHER_BANK_SOUND);

            sound.bank2 = (uint8_t)b;
            rmg_add_reason(w, sound);
        }
}

/* How the failing cells of a socket lie. */
static rmg_saying say_cells(const wording *w)
{
    const cell_report *c = &w->cells;
    const bool now_and_then = w->run->pass_count > 1 && !rmg_run_repeats(w->run);
    rmg_saying s = rmg_say_of(&w->s->finding, c->shape == SHAPE_ROW      ? RMG_SAY_CELLS_OF_A_ROW
                                              : c->shape == SHAPE_COLUMN ? RMG_SAY_CELLS_OF_A_COLUMN
                                              : c->shape == SHAPE_SCATTERED
                                                  ? now_and_then ? RMG_SAY_CELLS_NOW_AND_THEN
                                                                 : RMG_SAY_CELLS_SCATTERED
                                              : c->has_rows ? RMG_SAY_ONE_CELL_OF_A_ROW
                                                            : RMG_SAY_ONE_CELL);

    s.address = c->first;
    s.n = c->shape == SHAPE_COLUMN ? c->column : c->row;
    s.m = c->cells;
    s.k = c->column;
    return s;
}

/* What a suspect of each kind is, but cells and what depends on numbers. */
static rmg_said what_it_is(const wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const bool few = f->failed_high + f->failed_low < RMG_FEW_READS;

    return f->kind == RMG_FINDING_ADDRESS_SHORT && f->socket != RMG_NO_SOCKET
               ? RMG_SAY_SOCKET_LINES_TOUCH
           : f->kind == RMG_FINDING_BRANCH && f->of == RMG_FINDING_NEVER_WRITTEN
               ? RMG_SAY_WRITE_BRANCH
           : f->kind == RMG_FINDING_SHARED && f->of == RMG_FINDING_NEVER_WRITTEN
               ? RMG_SAY_SHARED_WRITE
           : f->kind == RMG_FINDING_SHARED && f->of == RMG_FINDING_DATA_LINE
               ? RMG_SAY_SHARED_OWN_WAYS
           : f->kind == RMG_FINDING_SHARED && f->of == RMG_FINDING_BANK_SILENT
               ? RMG_SAY_SHARED_SELECT
           : f->kind == RMG_FINDING_SHARED && f->lines ? RMG_SAY_SHARED_ADDRESS
           : f->kind == RMG_FINDING_SAME_WORDS && f->of == RMG_FINDING_DATA_LINE
               ? f->lines ? RMG_SAY_SAME_BIT_BY_LINE : RMG_SAY_SAME_BIT
           : f->kind == RMG_FINDING_SAME_WORDS && f->of == RMG_FINDING_BANK_SILENT
               ? RMG_SAY_WEAK_TOGETHER
           : f->kind == RMG_FINDING_SAME_WORDS && rmg_lost_together(w) ? RMG_SAY_SAME_LOSS
           : f->kind == RMG_FINDING_SAME_WORDS && w->same->stretch     ? RMG_SAY_SAME_STRETCH
           : f->kind == RMG_FINDING_NOW_AND_THEN && f->of == RMG_FINDING_BANK_SILENT && f->some
               ? RMG_SAY_NOW_AND_THEN_SOME
           : f->kind == RMG_FINDING_NOW_AND_THEN && f->of == RMG_FINDING_BANK_SILENT
               ? f->bank == RMG_NO_BANK ? RMG_SAY_NOW_AND_THEN_ALL : RMG_SAY_NOW_AND_THEN_BANK
           : f->kind == RMG_FINDING_NOW_AND_THEN && f->lines
               ? f->some ? RMG_SAY_NOW_AND_THEN_ADDRESS_SOME : RMG_SAY_NOW_AND_THEN_ADDRESS
           : f->kind == RMG_FINDING_NOW_AND_THEN && f->of == RMG_FINDING_DATA_SHORT
               ? RMG_SAY_NOW_AND_THEN_PAIR
           : f->kind == RMG_FINDING_BANKS_BOTH && f->untested        ? RMG_SAY_BANK_DRIVES_ALWAYS
           : f->kind == RMG_FINDING_DRAGGED && f->untested           ? RMG_SAY_SOCKET_DRAGS_ALWAYS
           : f->kind == RMG_FINDING_DRAGGED && f->weighed            ? RMG_SAY_SOCKET_DRAGS_AT_TIMES
           : f->kind == RMG_FINDING_SPREAD && w->run->pass_count < 2 ? RMG_SAY_ONCE_SPREAD
           : f->kind == RMG_FINDING_SPREAD && few                    ? RMG_SAY_FEW_SPREAD
                                                                     : rmg_finding_row(f->kind)->is;
}

/* How often a noisy line failed, and that it is not one that touches others. */
static void because_noisy(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    rmg_saying tries = rmg_say_of(f, RMG_SAY_NOISE_TRIES);

    for (size_t i = 0; i < w->run->noisy_count; i++) {
        const rmg_noisy_line *n = &w->run->noisy[i];

        if (n->address != (f->kind == RMG_FINDING_ADDRESS_NOISY) ||
            (f->bank != RMG_NO_BANK && f->bank != n->bank) ||
            (n->address ? f->lines != (rmg_addr)1 << n->line : f->bits != (rmg_word)1 << n->line))
            continue;
        tries.n += n->failed;
        tries.m += n->tries;
        tries.k |= n->ways;
    }
    rmg_add_reason(w, tries);
    rmg_reason(w, RMG_SAY_NOISE_STILL);
}

/* What is said at once of a suspect of its kind. */
static void because_of_kind(wording *w)
{
    switch (w->s->is.said) {
    case RMG_SAY_SOCKET_DRAGS:
        rmg_reason(w, RMG_SAY_DRAGS);
        break;
    case RMG_SAY_SOCKET_IGNORES_LINES:
        rmg_reason(w, RMG_SAY_LEVEL_LOST_AT_PINS);
        break;
    case RMG_SAY_DATA_LINE:
        rmg_reason(w, RMG_SAY_ON_THIS_LINE);
        break;
    case RMG_SAY_ADDRESS_LINES:
        rmg_reason(w, RMG_SAY_LEVEL_LOST);
        break;
    case RMG_SAY_NOW_AND_THEN_ADDRESS:
    case RMG_SAY_NOW_AND_THEN_ADDRESS_SOME:
        rmg_reason(w, RMG_SAY_SIDES_OF_LINE);
        break;
    case RMG_SAY_DATA_NOISY:
    case RMG_SAY_ADDRESS_NOISY:
        because_noisy(w);
        break;
    default:
        break;
    }
}

/* Lines without effect make the memory smaller than it was said to be. */
static void because_repeats(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    rmg_saying mirrors = rmg_say_of(f, RMG_SAY_MIRRORS);

    if (!rmg_finding_row(f->kind)->mirrors || !f->lines)
        return;
    mirrors.n = 1;
    for (rmg_addr lines = f->lines; lines; lines &= lines - 1u)
        mirrors.n *= 2u;
    rmg_add_reason(w, mirrors);
}

/* What the traced line says of it. */
static void because_traced(wording *w)
{
    const rmg_finding *f = &w->s->finding;

    if (f->point == RMG_NO_POINT)
        return;
    if (f->lines & (f->lines - 1u))
        rmg_reason(w, RMG_SAY_TRACED_TOGETHER);
    else if (w->board->lines[f->line].points[f->point].parent == RMG_NO_POINT)
        rmg_reason(w, RMG_SAY_TRACED_DRIVER);
    else
        rmg_reason(w, RMG_SAY_TRACED_AFTER);
}

/* A cause that several chips share takes one fault, not one a chip. */
static void because_shared(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    rmg_saying shared = rmg_say_of(f, RMG_SAY_SHARED_CAUSE);
    bool *sockets = g_new0(bool, MAX(w->board->socket_count, 1u));

    rmg_finding_sockets(w->run, f, sockets);
    for (size_t i = 0; i < w->board->socket_count; i++)
        shared.n += sockets[i];
    if (f->socket == RMG_NO_SOCKET && f->kind != RMG_FINDING_SPREAD && shared.n > 1)
        rmg_add_reason(w, shared);
    g_free(sockets);
}

/* Of suspects that exclude each other one is it, not several. */
static void because_others_fit(wording *w)
{
    rmg_saying others = rmg_say_of(&w->s->finding, RMG_SAY_ONE_OF_SUSPECTS);

    for (size_t i = 0; w->s->finding.weighed && i < w->all->count; i++)
        others.n +=
            w->all->list[i].finding.weighed && w->all->list[i].finding.cause == w->s->finding.cause;
    if (others.n > 1 && !w->s->finding.together)
        rmg_add_reason(w, others);
}

/* Is it no more than what another program said of chips and bits? */
static bool reported(const wording *w)
{
    return w->run->heard && w->s->finding.kind >= RMG_FINDING_REPORTED;
}

/* A noisy line that made no word fail in the passes. */
static bool seen_by_noise_alone(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    return (f->kind == RMG_FINDING_DATA_NOISY || f->kind == RMG_FINDING_ADDRESS_NOISY) &&
           !rmg_failset_words(w->run->failures, where_of(w), f->bits);
}

static void put_together(wording *w, size_t cell_findings)
{
    rmg_suspect *s = w->s;
    const bool cells = s->finding.kind == RMG_FINDING_CELLS;
    const bool quiet = seen_by_noise_alone(w);
    const uint64_t all = rmg_failset_bits(w->run->failures, NULL, (rmg_word) ~(rmg_word)0);

    rmg_same_words same;

    if (cells)
        rmg_cells_look(w->run, &s->finding, &w->cells);
    if (s->finding.kind == RMG_FINDING_SAME_WORDS || s->finding.kind == RMG_FINDING_NOW_AND_THEN) {
        rmg_same_words_look(w->run, &s->finding, &same);
        w->same = &same;
    }
    s->is = cells
                ? say_cells(w)
                : rmg_say_of(&s->finding, reported(w) ? rmg_heard_is(&s->finding) : what_it_is(w));
    if (s->finding.kind == RMG_FINDING_SAME_WORDS)
        s->is = rmg_say_of_words(w, s->is.said);
    if (s->finding.kind == RMG_FINDING_SPREAD)
        s->is.n = s->finding.failed_high + s->finding.failed_low;
    because_of_kind(w);
    because_repeats(w);
    because_traced(w);
    if (!w->run->heard && !quiet)
        because_counts(w);
    else if (w->run->heard && !w->run->heard->told)
        rmg_heard_because(w);
    if (!quiet)
        because_shared(w);
    if (!w->run->heard)
        because_passes(w);
    if (s->finding.kind == RMG_FINDING_DATA_AT_SOCKET)
        because_sound(w);
    if (!cells && !s->finding.weighed && s->finding.kind != RMG_FINDING_SPREAD &&
        s->finding.kind != RMG_FINDING_SAME_WORDS && s->finding.kind != RMG_FINDING_NOW_AND_THEN &&
        !w->run->heard && !quiet)
        rmg_reason(w, RMG_SAY_HIDES_CELLS);
    if (cells && cell_findings > 2) {
        rmg_saying at_once = rmg_say_of(&s->finding, RMG_SAY_SOCKETS_AT_ONCE);

        at_once.n = cell_findings;
        rmg_add_reason(w, at_once);
    }
    if (s->finding.may_follow)
        rmg_reason(w, RMG_SAY_MAY_FOLLOW);
    if (s->finding.or_each)
        rmg_reason(w, RMG_SAY_OR_EACH);
    if (s->finding.or_its_line)
        rmg_reason(w, s->finding.kind == RMG_FINDING_CELLS ? RMG_SAY_LINES_NOT_CHECKED
                                                           : RMG_SAY_OR_ITS_LINE);
    because_others_fit(w);
    s->confidence =
        w->run->heard ? rmg_heard_confidence(w) : rmg_suspect_confidence(w, cell_findings);
    if (w->run->heard)
        s->explained = rmg_heard_share(w);
    else
        s->explained =
            all ? (double)rmg_failset_bits(w->run->failures, where_of(w), s->finding.bits) /
                      (double)all
                : 0.0;
    rmg_add_rivals_and_steps(w);
    if (rmg_suspect_unconfirmed(w->run, &s->finding))
        s->settles = rmg_say_of(&s->finding, RMG_SAY_MORE_PASSES);
    w->same = NULL;
}

static int by_confidence(const void *a, const void *b)
{
    const rmg_suspect *x = a, *y = b;
    const bool cx =
        x->finding.kind == RMG_FINDING_CELLS || x->finding.weighed || x->finding.may_follow;
    const bool cy =
        y->finding.kind == RMG_FINDING_CELLS || y->finding.weighed || y->finding.may_follow;

    if (cx != cy)
        return cx - cy;
    if (fabs(x->confidence - y->confidence) > 1e-9)
        return x->confidence < y->confidence ? 1 : -1;
    if (fabs(x->explained - y->explained) > 1e-9)
        return x->explained < y->explained ? 1 : -1;
    return rmg_by_number(x->finding.socket, y->finding.socket);
}

/* The wirings with bits that hold what no write changes no longer taken for stuck: at both ends of
 * a bank they may have held the same, and would pass for a line with another dead bit. */
static rmg_wiring *wirings_seen_closer(const rmg_run *run)
{
    rmg_wiring *closer = g_memdup2(run->wirings, run->board->bank_count * sizeof *closer);

    for (size_t b = 0; b < run->board->bank_count; b++) {
        const rmg_word fixed = run->data_details[b].fixed;

        closer[b].low &= ~fixed;
        closer[b].high &= ~fixed;
        closer[b].opposite &= ~fixed;
        closer[b].unsteady |= fixed;
    }
    return closer;
}

void rmg_suspects_of(const rmg_run *run, const rmg_facts *facts, const GArray *findings,
                     rmg_suspects *suspects)
{
    size_t cell_findings = 0, steady = 0; /* ... not weighed as what comes and goes */
    rmg_facts none;

    rmg_facts_begin(&none);
    suspects->facts = facts;
    suspects->count = findings->len;
    suspects->list = g_new0(rmg_suspect, MAX(suspects->count, 1));
    for (guint i = 0; i < findings->len; i++) {
        suspects->list[i].finding = g_array_index(findings, rmg_finding, i);
        cell_findings += suspects->list[i].finding.kind == RMG_FINDING_CELLS;
        steady += suspects->list[i].finding.kind == RMG_FINDING_CELLS &&
                  !suspects->list[i].finding.weighed;
    }
    for (size_t i = 0; i < suspects->count; i++) {
        wording w = {.run = run,
                     .facts = facts ? facts : &none,
                     .board = run->board,
                     .all = suspects,
                     .s = &suspects->list[i],
                     .reasons = g_array_new(FALSE, TRUE, sizeof(rmg_saying)),
                     .steps = g_array_new(FALSE, TRUE, sizeof(rmg_saying)),
                     .rivals = g_array_new(FALSE, TRUE, sizeof(rmg_rival))};

        put_together(&w, w.s->finding.weighed ? cell_findings : steady);
        w.s->reason_count = w.reasons->len;
        w.s->reasons = rmg_array_take(w.reasons);
        w.s->step_count = w.steps->len;
        w.s->steps = rmg_array_take(w.steps);
        w.s->rival_count = w.rivals->len - w.s->ruled_count;
        w.s->rivals = rmg_array_take(w.rivals);
    }
    rmg_facts_end(&none);
}

static void find_suspects(const rmg_run *run, const rmg_facts *facts, rmg_suspects *suspects)
{
    rmg_facts none;
    rmg_wiring *wirings = wirings_seen_closer(run);
    const rmg_evidence evidence = {
        .placement = &run->board->placement,
        .banks = run->board->bank_wheres,
        .wirings = wirings,
        .wired = run->wired,
        .tally = &run->tally,
        .mask = run->mask,
        .bank_count = (uint8_t)run->board->bank_count,
    };
    GArray *findings = g_array_sized_new(FALSE, TRUE, sizeof(rmg_finding), MOST_FINDINGS);

    rmg_facts_begin(&none);
    if (run->heard) {
        rmg_heard_findings(run, findings);
    } else {
        g_array_set_size(findings, MOST_FINDINGS);
        g_array_set_size(
            findings,
            MIN(MOST_FINDINGS, rmg_findings_list(&evidence, (rmg_finding *)(void *)findings->data,
                                                 MOST_FINDINGS)));
        rmg_refine(run, facts ? facts : &none, findings);
    }
    rmg_suspects_of(run, facts, findings, suspects);
    if (suspects->count)
        qsort(suspects->list, suspects->count, sizeof *suspects->list, by_confidence);
    rmg_add_told(facts ? facts : &none, run, suspects);
    g_array_free(findings, TRUE);
    g_free(wirings);
    rmg_facts_end(&none);
}

/* When it began; several chips or contacts that began at once are rather one cause, whatever replay
 * gives. */
static void say_began(const rmg_run *run, rmg_suspects *suspects)
{
    const uint64_t pass = rmg_run_began(run);
    uint64_t places = 0;

    for (size_t i = 0; i < suspects->count; i++)
        places += suspects->list[i].finding.socket != RMG_NO_SOCKET;
    for (size_t i = 0; i < suspects->count; i++) {
        rmg_suspect *s = &suspects->list[i];
        rmg_saying began = rmg_say_of(&s->finding, RMG_SAY_BEGAN);

        began.n = pass;
        began.m = began.n - 1u;
        if (!began.m)
            began.said = RMG_SAY_BEGAN_FIRST;
        rmg_suspect_add_reason(s, began);
        if (places < 2 || s->finding.socket == RMG_NO_SOCKET)
            continue;
        began.said = RMG_SAY_BEGAN_TOGETHER;
        began.n = places;
        rmg_suspect_add_reason(s, began);
        s->finding.or_its_line = true;
        s->confidence = MIN(s->confidence, AT_ONCE);
    }
}

void rmg_suspects_find(const rmg_run *run, const rmg_facts *facts, rmg_suspects *suspects)
{
    rmg_run since;
    const bool began = rmg_run_since(run, &since);

    find_suspects(began ? &since : run, facts, suspects);
    if (!began)
        return;
    say_began(run, suspects);
    rmg_run_since_end(&since);
}

void rmg_suspect_unword(rmg_suspect *s)
{
    for (size_t r = 0; r < s->rival_count + s->ruled_count; r++)
        g_clear_pointer(&s->rivals[r].name, g_free);
    for (size_t r = 0; r < s->replay_count; r++)
        g_clear_pointer(&s->replays[r].fault, g_free);
    g_clear_pointer(&s->because, g_strfreev);
    g_clear_pointer(&s->next, g_strfreev);
    g_clear_pointer(&s->site, g_free);
    g_clear_pointer(&s->kind, g_free);
    g_clear_pointer(&s->headline, g_free);
    g_clear_pointer(&s->settle, g_free);
}

void rmg_suspects_free(rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++) {
        rmg_suspect *s = &suspects->list[i];

        rmg_suspect_unword(s);
        for (size_t r = 0; r < s->replay_count; r++)
            g_free(s->replays[r].faults);
        g_free(s->rivals);
        g_free(s->replays);
        g_free(s->reasons);
        g_free(s->steps);
    }
    g_free(suspects->list);
    memset(suspects, 0, sizeof *suspects);
}
