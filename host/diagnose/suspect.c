/* From findings to suspects: site, headline, evidence and confidence. */
#include <math.h>
#include <string.h>

#include "rimeglass/run.h"
#include "internal.h"

#define MOST_FINDINGS 256u

/* The words that the finding's bits had a chance to fail in. */
static uint64_t words_tested(const wording *w)
{
    const rmg_finding *f = &w->s->finding;
    uint64_t words = 0;

    for (size_t i = 0; i < w->run->tested_count; i++) {
        rmg_addr first = w->run->tested[i].first, last = w->run->tested[i].last;

        if (f->bank != RMG_NO_BANK) {
            first = MAX(first, w->board->bank_wheres[f->bank].first);
            last = MIN(last, w->board->bank_wheres[f->bank].last);
        }
        if (first <= last)
            words += last - first + 1u;
    }
    return words;
}

static const rmg_where *where_of(const wording *w)
{
    const uint8_t bank = w->s->finding.bank;

    return bank == RMG_NO_BANK ? NULL : &w->board->bank_wheres[bank];
}

static void because_counts(wording *w, const gchar *bits, const gchar *bank)
{
    const rmg_finding *f = &w->s->finding;
    const uint64_t failing = rmg_failset_words(w->run->failures, where_of(w), f->bits);
    const char *way = "both ways: 1 for 0 and 0 for 1";

    if (!f->failed_high)
        way = "always 0 where 1 was written";
    else if (!f->failed_low)
        way = "always 1 where 0 was written";
    if (failing)
        add_text(w->because, g_strdup_printf("%" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                                             " words tested in %s fail at %s, %s.",
                                             failing, words_tested(w), bank, bits, way));
    else
        add_text(w->because, g_strdup("Seen by the wiring check; no cell was tested after it."));
}

static void because_passes(wording *w)
{
    const rmg_run *run = w->run;
    const uint64_t failing = rmg_rate_of_passes(run).events;

    if (!run->pass_count)
        add_text(w->because, g_strdup("The run ended before one pass was complete."));
    else if (run->pass_count == 1)
        add_text(w->because, g_strdup("One pass only: whether it repeats is not known."));
    else if (rmg_run_repeats(run))
        add_text(w->because,
                 g_strdup_printf("The same words failed in each of %" G_GUINT64_FORMAT " passes.",
                                 run->pass_count));
    else
        add_text(w->because, g_strdup_printf("%" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                                             " passes failed, not with the same words: a contact, "
                                             "heat, noise or refresh is as likely as a dead cell.",
                                             failing, run->pass_count));
}

/* Banks that passed on these bits: the data line works as far as there. */
static void because_sound(wording *w, const gchar *bits)
{
    const rmg_finding *f = &w->s->finding;

    for (size_t b = 0; b < w->board->bank_count; b++)
        if (b != f->bank && w->run->wired[b] && w->run->pass_count &&
            !rmg_failset_words(w->run->failures, &w->board->bank_wheres[b], f->bits))
            add_text(w->because,
                     g_strdup_printf("The %s bank is sound at %s, so the data line works there.",
                                     w->board->banks[b].name, bits));
}

static gchar *cell_words(const wording *w)
{
    const cell_report *c = &w->cells;
    char at[40];

    rmg_board_address_text(w->board, c->first, at, sizeof at);
    if (c->shape == SHAPE_ROW)
        return g_strdup_printf("row %" G_GUINT64_FORMAT " fails, %" G_GUINT64_FORMAT " cells of it",
                               (guint64)c->row, c->cells);
    if (c->shape == SHAPE_COLUMN)
        return g_strdup_printf("column %" G_GUINT64_FORMAT " fails, %" G_GUINT64_FORMAT
                               " cells of it",
                               (guint64)c->column, c->cells);
    if (c->shape == SHAPE_SCATTERED && w->run->pass_count > 1 && !rmg_run_repeats(w->run))
        return g_strdup_printf("it fails now and then, %" G_GUINT64_FORMAT
                               " cells so far, the first at %s",
                               c->cells, at);
    if (c->shape == SHAPE_SCATTERED)
        return g_strdup_printf("%" G_GUINT64_FORMAT " cells fail, the first at %s", c->cells, at);
    if (!c->has_rows)
        return g_strdup_printf("one cell fails, at %s", at);
    return g_strdup_printf("one cell fails, at %s (row %" G_GUINT64_FORMAT
                           ", column %" G_GUINT64_FORMAT ")",
                           at, (guint64)c->row, (guint64)c->column);
}

/* Site, kind and headline of a finding that is put to a socket. */
static void word_socket(wording *w, const gchar *bits, const gchar *bank)
{
    rmg_suspect *s = w->s;
    const rmg_socket *socket = &w->board->sockets[s->finding.socket];

    s->site = g_strdup(socket->name);
    if (s->finding.kind == RMG_FINDING_DATA_AT_SOCKET) {
        s->kind = g_strdup_printf("%s %s", bits, rmg_name_level(&s->finding));
    } else if (s->finding.kind == RMG_FINDING_NEVER_WRITTEN) {
        s->kind = g_strdup_printf(s->finding.bits & (s->finding.bits - 1u)
                                      ? "%s are never written: they keep what they hold"
                                      : "%s is never written: it keeps what it holds",
                                  bits);
    } else if (s->finding.kind == RMG_FINDING_DRAGGED) {
        gchar *other = rmg_name_bank(w->board, s->finding.bank2);

        s->kind = g_strdup_printf("it drives %s also when %s is read", bits, other);
        add_text(w->because, g_strdup_printf("Reading %s gives 0 at %s wherever %s holds a 0.",
                                             other, bits, socket->name));
        g_free(other);
    } else if (s->finding.kind == RMG_FINDING_ADDRESS_SHORT) {
        gchar *lines = rmg_name_lines(w->board, s->finding.lines);

        s->kind =
            g_strdup_printf("address lines %s touch there, a %d wins", lines, s->finding.high_wins);
        g_free(lines);
    } else if (s->finding.kind == RMG_FINDING_ADDRESS_AT_SOCKET) {
        gchar *lines = rmg_name_lines(w->board, s->finding.lines);
        gchar *pins = rmg_name_address_pins(w->board, &s->finding);

        s->kind = g_strdup_printf("does not follow address line%s %s",
                                  strstr(lines, " and ") ? "s" : "", lines);
        add_text(w->because,
                 g_strdup_printf("What is written with %s at one level is read back at the other: "
                                 "the level does not take effect at %s of %s.",
                                 lines, pins, socket->name));
        g_free(lines);
        g_free(pins);
    } else {
        s->kind = cell_words(w);
    }
    s->headline = g_strdup_printf("Look at %s, the %s that holds %s of %s: %s.", socket->name,
                                  socket->part->number, bits, bank, s->kind);
}

/* The condition that the addresses of the finding's data line meet, or NULL. */
static const rmg_where *lane_of(const wording *w)
{
    const uint8_t lane = w->s->finding.lane;

    return lane == RMG_NO_BANK ? NULL : &w->board->bank_wheres[lane];
}

/* Site, kind and headline of a finding that is put to a bank or its select: no chip is blamed. */
static void word_bank(rmg_suspect *s, const gchar *bits, const gchar *bank, const gchar *other)
{
    switch (s->finding.kind) {
    case RMG_FINDING_BANK_NEVER_WRITTEN:
        s->site = g_strdup_printf("the write line of %s", bank);
        s->kind = g_strdup("it holds something, but no write arrives");
        s->headline =
            g_strdup_printf("Do not change chips yet: nothing that is written arrives in %s, "
                            "yet it holds something. Look at its write line (WE).",
                            bank);
        break;
    case RMG_FINDING_BANKS_SAME:
        s->site = g_strdup_printf("the bank select of %s and %s", bank, other);
        s->kind = g_strdup("both reach the same cells");
        s->headline =
            g_strdup_printf("Do not change chips yet: %s and %s are the same cells. One of "
                            "them is never selected. Look at the bank select.",
                            bank, other);
        break;
    case RMG_FINDING_BANKS_BOTH:
        s->site = g_strdup_printf("the select of %s", bank);
        s->kind = g_strdup_printf("it answers also where %s is addressed", other);
        s->headline = g_strdup_printf("Do not change chips yet: %s answers also where %s is "
                                      "addressed. Look at its select.",
                                      bank, other);
        break;
    case RMG_FINDING_SPREAD:
        s->site = g_strdup("noise, supply, refresh or timing");
        s->kind = g_strdup("failures that do not repeat");
        if (s->finding.failed_high + s->finding.failed_low < RMG_FEW_READS)
            s->headline = g_strdup_printf(
                "Do not change chips yet: %u read%s failed so far, at %s, not alike in each pass; "
                "chance may have put them there. Run it again with more passes.",
                (unsigned)(s->finding.failed_high + s->finding.failed_low),
                s->finding.failed_high + s->finding.failed_low == 1 ? "" : "s", bits);
        else
            s->headline =
                g_strdup_printf("Do not change chips yet: the failures are spread over %s and "
                                "not the same in each pass.",
                                bits);
        break;
    case RMG_FINDING_BANK_SILENT:
        s->site = g_strdup_printf("select, strobes or supply of %s", bank);
        s->kind = g_strdup("no chip answers");
        s->headline = g_strdup_printf("Do not change chips yet: no chip of %s answers. Look at "
                                      "its select, strobes and supply.",
                                      bank);
        break;
    default:
        s->site = g_strdup("the bus, the link or the supplies");
        s->kind = g_strdup("nothing answers");
        s->headline = g_strdup("Do not change chips yet: nothing answers. Look at the link, the "
                               "supplies, clock and reset.");
        break;
    }
}

static void word_data_line(wording *w, const gchar *bits)
{
    rmg_suspect *s = w->s;
    gchar *devices = rmg_name_devices(w->board, s->finding.bits, lane_of(w));
    gchar *lane = rmg_name_lane(w->board, &s->finding);

    s->site = g_strdup_printf("data line %s%s", bits, lane);
    s->kind = g_strdup(rmg_name_level(&s->finding));
    s->headline = g_strdup_printf("Look at data line %s%s: it %s, in every bank it serves.", bits,
                                  lane, rmg_name_level(&s->finding));
    add_text(w->because, g_strdup_printf("On this line: %s.", devices));
    g_free(devices);
    g_free(lane);
}

static void word_branch(wording *w)
{
    rmg_suspect *s = w->s;
    const bool write = s->finding.of == RMG_FINDING_NEVER_WRITTEN;
    gchar *devices = rmg_branch_devices(w->run, &s->finding);

    s->site = rmg_trace_span(w->run, &s->finding);
    s->kind = g_strdup(write ? "what is written does not arrive beyond it"
                             : "the chips beyond it do not follow the line");
    s->headline = g_strdup_printf("Look at %s: %s %s, the chips before it are sound.", s->site,
                                  devices, write ? "are never written" : "do not follow it");
    g_free(devices);
}

static void word_touching(rmg_suspect *s, const char *what, const gchar *lines, const gchar *bank)
{
    s->site = g_strdup_printf("%s lines %s of %s", what, lines, bank);
    s->kind = g_strdup_printf("they touch, a %d wins", s->finding.high_wins);
    s->headline =
        g_strdup_printf("Look at %s lines %s of %s: they touch (where one is %d, both are).", what,
                        lines, bank, s->finding.high_wins);
}

static void word_address_lines(wording *w, const gchar *lines, const gchar *bank)
{
    rmg_suspect *s = w->s;
    const char *plural = strstr(lines, " and ") ? "s" : "";

    s->site = g_strdup_printf("address line%s %s of %s", plural, lines, bank);
    s->kind = g_strdup_printf("no chip of %s follows the line%s", bank, plural);
    s->headline = g_strdup_printf("Look at address line%s %s of %s: no chip follows %s.", plural,
                                  lines, bank, *plural ? "them" : "it");
    add_text(w->because, g_strdup_printf("What is written with %s at one level is read back at the "
                                         "other, in every data bit.",
                                         lines));
}

/* The same for a finding that is put to a line or a bank. */
static void word_line(wording *w, const gchar *bits, const gchar *bank)
{
    rmg_suspect *s = w->s;
    gchar *lines = rmg_name_lines(w->board, s->finding.lines);
    gchar *other = rmg_name_bank(w->board, s->finding.bank2);

    switch (s->finding.kind) {
    case RMG_FINDING_DATA_LINE:
        word_data_line(w, bits);
        break;
    case RMG_FINDING_ADDRESS_OF_BANK:
    case RMG_FINDING_ADDRESS_LINES:
        word_address_lines(w, lines, bank);
        break;
    case RMG_FINDING_BRANCH:
        word_branch(w);
        break;
    case RMG_FINDING_DATA_SHORT:
        word_touching(s, "data", bits, bank);
        break;
    case RMG_FINDING_ADDRESS_SHORT:
        word_touching(s, "address", lines, bank);
        break;
    default:
        word_bank(s, bits, bank, other);
        break;
    }
    g_free(lines);
    g_free(other);
}

/* Lines without effect make the memory smaller than it was said to be. */
static void because_repeats(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    unsigned times = 1;

    if (f->kind != RMG_FINDING_ADDRESS_AT_SOCKET && f->kind != RMG_FINDING_ADDRESS_OF_BANK &&
        f->kind != RMG_FINDING_ADDRESS_LINES)
        return;
    for (rmg_addr lines = f->lines; lines; lines &= lines - 1u)
        times *= 2u;
    add_text(w->because,
             g_strdup_printf("So the memory there is in truth 1/%u of what it was said to "
                             "be; the rest are mirrors of it.",
                             times));
}

/* A cause that several chips share takes one fault, not one a chip. */
static void because_shared(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    bool *sockets = g_new0(bool, w->board->socket_count + 1u);
    guint count = 0;
    gchar *list;

    rmg_finding_sockets(w->run, f, sockets);
    for (size_t i = 0; i < w->board->socket_count; i++)
        if (sockets[i] && ++count)
            g_ptr_array_add(names, g_strdup(w->board->sockets[i].name));
    list = rmg_join(names);
    if (f->socket == RMG_NO_SOCKET && f->kind != RMG_FINDING_SPREAD && count > 1)
        add_text(
            w->because,
            g_strdup_printf("One fault here explains what would otherwise take %u bad chips at "
                            "once: %s.",
                            count, list));
    g_free(list);
    g_free(sockets);
}

static void word_suspect(wording *w, size_t cell_findings)
{
    rmg_suspect *s = w->s;
    const uint64_t all = rmg_failset_bits(w->run->failures, NULL, (rmg_word) ~(rmg_word)0);
    gchar *bits = rmg_name_bits(s->finding.bits);
    gchar *bank = rmg_name_bank(w->board, s->finding.bank);
    gchar *trace;

    if (s->finding.kind == RMG_FINDING_CELLS)
        rmg_cells_look(w->run, &s->finding, &w->cells);
    if (s->finding.socket != RMG_NO_SOCKET)
        word_socket(w, bits, bank);
    else
        word_line(w, bits, bank);
    because_repeats(w);
    trace = rmg_trace_text(w->run, &s->finding);
    if (trace)
        add_text(w->because, trace);
    because_counts(w, bits, bank);
    because_shared(w);
    because_passes(w);
    if (s->finding.kind == RMG_FINDING_DATA_AT_SOCKET)
        because_sound(w, bits);
    if (s->finding.kind != RMG_FINDING_CELLS && s->finding.kind != RMG_FINDING_SPREAD)
        add_text(w->because, g_strdup("Whatever else is wrong with the cells behind it cannot be "
                                      "seen until this is repaired."));
    if (s->finding.kind == RMG_FINDING_CELLS && cell_findings > 2)
        add_text(w->because, g_strdup_printf("%zu sockets fail at once: a cause they share is "
                                             "likelier than so many bad chips.",
                                             cell_findings));
    s->confidence = rmg_suspect_confidence(w, cell_findings);
    s->explained =
        all ? (double)rmg_failset_bits(w->run->failures, where_of(w), s->finding.bits) / (double)all
            : 0.0;
    rmg_add_rivals_and_steps(w);
    g_free(bits);
    g_free(bank);
}

static int by_confidence(const void *a, const void *b)
{
    const rmg_suspect *x = a, *y = b;
    const bool cx = x->finding.kind == RMG_FINDING_CELLS;
    const bool cy = y->finding.kind == RMG_FINDING_CELLS;

    if (cx != cy)
        return cx - cy;
    if (fabs(x->confidence - y->confidence) > 1e-9)
        return x->confidence < y->confidence ? 1 : -1;
    if (fabs(x->explained - y->explained) > 1e-9)
        return x->explained < y->explained ? 1 : -1;
    return (x->finding.socket > y->finding.socket) - (x->finding.socket < y->finding.socket);
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

void rmg_suspects_find(const rmg_run *run, const rmg_facts *facts, rmg_suspects *suspects)
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
    size_t cell_findings = 0;

    rmg_facts_begin(&none);
    g_array_set_size(findings, MOST_FINDINGS);
    g_array_set_size(
        findings,
        MIN(MOST_FINDINGS,
            rmg_findings_list(&evidence, (rmg_finding *)(void *)findings->data, MOST_FINDINGS)));
    rmg_refine(run, findings);
    suspects->count = findings->len;
    suspects->list = g_new0(rmg_suspect, MAX(suspects->count, 1));
    for (size_t i = 0; i < suspects->count; i++) {
        suspects->list[i].finding = g_array_index(findings, rmg_finding, i);
        cell_findings += suspects->list[i].finding.kind == RMG_FINDING_CELLS;
    }
    for (size_t i = 0; i < suspects->count; i++) {
        wording w = {run,
                     facts ? facts : &none,
                     run->board,
                     suspects,
                     &suspects->list[i],
                     g_ptr_array_new(),
                     g_ptr_array_new(),
                     g_array_new(FALSE, TRUE, sizeof(rmg_rival)),
                     {0}};

        word_suspect(&w, cell_findings);
        if (!w.s->settle)
            w.s->settle = g_strdup("");
        g_ptr_array_add(w.because, NULL);
        g_ptr_array_add(w.next, NULL);
        w.s->because = (char **)g_ptr_array_free(w.because, FALSE);
        w.s->next = (char **)g_ptr_array_free(w.next, FALSE);
        w.s->rival_count = w.rivals->len;
        w.s->rivals = (rmg_rival *)(void *)g_array_free(w.rivals, FALSE);
    }
    if (suspects->count)
        qsort(suspects->list, suspects->count, sizeof *suspects->list, by_confidence);
    g_array_free(findings, TRUE);
    g_free(wirings);
    rmg_facts_end(&none);
}

void rmg_suspects_free(rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++) {
        rmg_suspect *s = &suspects->list[i];

        for (size_t r = 0; r < s->rival_count; r++)
            g_free(s->rivals[r].name);
        g_free(s->rivals);
        for (size_t r = 0; r < s->replay_count; r++) {
            g_free(s->replays[r].fault);
            g_free(s->replays[r].faults);
        }
        g_free(s->replays);
        g_strfreev(s->because);
        g_strfreev(s->next);
        g_free(s->site);
        g_free(s->kind);
        g_free(s->headline);
        g_free(s->settle);
    }
    g_free(suspects->list);
    memset(suspects, 0, sizeof *suspects);
}
