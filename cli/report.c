/* The report of a run in the terminal: what to do first, then the chart, then the evidence. */
#include <string.h>

#include "cli.h"
#include "rimeglass/heard.h"

typedef struct chart_run {
    const rmg_run *run;
    const rmg_suspects *suspects;
} chart_run;

static bool overlaps(const rmg_run *run, const rmg_where *where)
{
    for (size_t i = 0; i < run->tested_count; i++)
        if (run->tested[i].first <= where->last && where->first <= run->tested[i].last)
            return true;
    return false;
}

/* Does a suspect name this socket? What fails without being named is only counted. */
static bool named(const rmg_suspects *suspects, uint16_t socket)
{
    for (size_t i = 0; i < suspects->count; i++)
        if (suspects->list[i].finding.socket == socket)
            return true;
    return false;
}

static bool any_socket(const rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++)
        if (suspects->list[i].finding.socket != RMG_NO_SOCKET)
            return true;
    return false;
}

/* Does a socket stand for nothing but the line it is on? */
static bool lines_only(const rmg_run *run, const rmg_suspects *suspects)
{
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const rmg_rule *rule = &run->board->placement.rules[r];

        if (rmg_suspects_share(run, suspects, rule->socket) &&
            !rmg_failset_words(run->failures, &rule->where, rmg_rule_bits(rule)))
            return true;
    }
    return false;
}

/* Of a run that another program reported: how often the socket was named; "ok" only where its words
 * are known to have been tested. */
static bool heard_state(const chart_run *c, const rmg_rule *rule, char *text, size_t room)
{
    const uint64_t reports = rmg_heard_of_socket(c->run, rule->bank, rule->socket);

    if (reports)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT "%s", reports,
                   c->run->heard->at_least ? "+" : "");
    else if (rmg_suspects_share(c->run, c->suspects, rule->socket))
        g_strlcpy(text, "line", room);
    else
        g_strlcpy(text,
                  c->run->pass_count && !c->run->heard->at_least && overlaps(c->run, &rule->where)
                      ? "ok"
                      : "-",
                  room);
    return named(c->suspects, rule->socket);
}

static bool cell_state(const void *context, const rmg_rule *rule, char *text, size_t room)
{
    const chart_run *c = context;
    const uint64_t words = rmg_failset_words(c->run->failures, &rule->where, rmg_rule_bits(rule));

    if (c->run->heard)
        return heard_state(c, rule, text, room);
    if (!words && rmg_suspects_share(c->run, c->suspects, rule->socket))
        g_strlcpy(text, "line", room);
    else if (words)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT, words);
    else if (!overlaps(c->run, &rule->where))
        g_strlcpy(text, "-", room);
    else
        g_strlcpy(text, c->run->pass_count ? "ok" : "?", room);
    return named(c->suspects, rule->socket);
}

/* Adds " D0-D7" for each run of ones; `shift` is added to the numbers. */
static void append_runs(GString *text, char letter, uint64_t mask, unsigned shift)
{
    for (unsigned k = 0; k < 64; k++) {
        unsigned end = k;

        if (!(mask >> k & 1u))
            continue;
        while (end + 1u < 64 && (mask >> (end + 1u) & 1u))
            end++;
        g_string_append_printf(text, " %c%u", letter, k + shift);
        if (end > k)
            g_string_append_printf(text, "-%c%u", letter, end + shift);
        k = end;
    }
}

/* What the wiring checks proved, line by line: every line that varied and was not found wanting. */
static void print_sound_lines(FILE *to, const rmg_run *run)
{
    const rmg_board *board = run->board;
    size_t wired = 0;

    for (size_t b = 0; b < board->bank_count; b++)
        wired += run->wired[b];
    if (!wired)
        return;
    fprintf(to,
            "\nLines proved sound, as far as the pins of the chips (%" G_GUINT64_FORMAT
            " accesses)\n",
            run->wiring_accesses);
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_wiring *w = &run->wirings[b];
        GString *text = g_string_new(NULL);
        rmg_word held = 0;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            if (board->placement.rules[r].bank == b)
                held |= rmg_rule_bits(&board->placement.rules[r]);
        append_runs(text, 'D', held & ~(w->low | w->high | w->opposite | w->unsteady), 0);
        append_runs(text, 'A', w->lines, board->byte_shift);
        if (run->wired[b])
            fprintf(to, "  %-12s%s\n", board->banks[b].name, text->str);
        g_string_free(text, TRUE);
    }
}

static void print_clean(FILE *to, const rmg_run *run)
{
    char text[256];
    const uint64_t n = run->pass_count;
    GString *more;

    if (!n) {
        fprintf(to, "Not one pass was completed: no fault found so far, which proves little.\n");
        return;
    }
    fprintf(to, "No fault found in what was tested.\n");
    g_snprintf(text, sizeof text,
               "%" G_GUINT64_FORMAT
               " clean pass%s exclude%s, with 95 %% confidence, only faults that show in more "
               "than %.0f %% of passes%s",
               n, n == 1 ? "" : "es", n == 1 ? "s" : "", rmg_excluded_share(n) * 100,
               n < rmg_passes_to_exclude(0.01) ? "; " : ".");
    more = g_string_new(text);
    if (n < rmg_passes_to_exclude(0.05))
        g_string_append_printf(more,
                               "%" G_GUINT64_FORMAT " passes would exclude those above 5 %%, ",
                               rmg_passes_to_exclude(0.05));
    if (n < rmg_passes_to_exclude(0.01))
        g_string_append_printf(more, "%" G_GUINT64_FORMAT " those above 1 %%.",
                               rmg_passes_to_exclude(0.01));
    print_wrapped(to, "", 2, more->str);
    g_string_free(more, TRUE);
}

/* "12 of 40,000 reads failed: 3 in 10,000 (95 %: 1.6 to 5.2)". */
static void print_rate(FILE *to, const char *lead, const rmg_rate *rate, const char *of)
{
    static const struct {
        double from, times;
        const char *unit;
    } forms[] = {{1e-2, 1e2, " %"},
                 {1e-4, 1e4, " in 10,000"},
                 {1e-7, 1e6, " in a million"},
                 {0, 1e9, " in a billion"}};
    const double size = rate->events ? rate->share : rate->high;
    size_t form = 0;
    gchar *text;

    while (size < forms[form].from)
        form++;
    text = g_strdup_printf(
        "%" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT " %s failed: %.3g%s (95 %%: %.3g to %.3g)",
        rate->events, rate->trials, of, rate->share * forms[form].times, forms[form].unit,
        rate->low * forms[form].times, rate->high * forms[form].times);
    print_wrapped(to, lead, 4, text);
    g_free(text);
}

/* Failing reads over the run, part by part, with the temperature where it moved. */
static void print_course(FILE *to, const rmg_run *run)
{
    static const char *const movements[] = {"too few to show a trend", "no trend beyond chance",
                                            "it grows: suspect warming up first", "it falls"};
    const rmg_stretch *first = &run->stretches[0];
    const rmg_stretch *last = &run->stretches[run->stretch_count - 1u];
    GString *text = g_string_new(NULL);
    rmg_course course;

    rmg_course_of(run, &course);
    if (run->pass_count <= 12)
        for (size_t i = 0; i < run->pass_count; i++)
            g_string_append_printf(text, "%s%" G_GUINT64_FORMAT, i ? ", " : "",
                                   (guint64)run->stretches[i].failing_reads);
    else
        for (size_t i = 0; i < course.parts; i++)
            g_string_append_printf(text, "%s%" G_GUINT64_FORMAT, i ? ", " : "",
                                   course.failing_reads[i]);
    g_string_append_printf(text, " failing reads in each %s: %s.",
                           run->pass_count <= 12 ? "pass" : "fifth of the run",
                           movements[course.movement]);
    if (first->heat_millic != RMG_NOT_KNOWN && last->heat_millic != first->heat_millic) {
        if (first->passes > 1)
            g_string_append_printf(text,
                                   " The port reported %.0f C after the first %" G_GUINT64_FORMAT
                                   " passes, %.0f C at the end.",
                                   first->heat_millic / 1000.0, first->passes,
                                   last->heat_millic / 1000.0);
        else
            g_string_append_printf(
                text, " The port reported %.0f C after the first pass, %.0f C at the end.",
                first->heat_millic / 1000.0, last->heat_millic / 1000.0);
    }
    print_wrapped(to, "  - ", 4, text->str);
    g_string_free(text, TRUE);
}

/* Failures that come and go: how often, each place, and how it moves. */
static void print_rates(FILE *to, const rmg_run *run, const rmg_suspects *suspects)
{
    const rmg_rate passes = rmg_rate_of_passes(run);

    if (run->pass_count < 2 || !run->tally.failing || rmg_run_repeats(run))
        return;
    fprintf(to, "\nHow often it fails\n");
    print_rate(to, "  - ", &passes, "passes");
    for (size_t i = 0; i < suspects->count && i < 3; i++) {
        const rmg_suspect *s = &suspects->list[i];
        uint64_t failed, could;
        rmg_rate rate;
        gchar *lead = g_strdup_printf("  - %s: ", s->site);

        /* a chip that drives at times spoils the reads of another bank */
        rmg_run_bit_rate(run,
                         s->finding.kind == RMG_FINDING_DRAGGED && s->finding.weighed
                             ? s->finding.bank2
                             : s->finding.bank,
                         s->finding.bits, &failed, &could);
        rate = rmg_rate_of(failed, could);
        if (could)
            print_rate(to, lead, &rate, "reads that could show it");
        g_free(lead);
    }
    print_course(to, run);
}

/* What another program reported, and what it did not. */
static void print_heard_scope(FILE *to, const rmg_run *run)
{
    const rmg_heard *h = run->heard;
    GString *text = g_string_new(NULL);
    char range[40], size[40];

    fprintf(to, "\nRead from %s, by the profile \"%s\"\n", run->target, h->profile);
    fprintf(to,
            "  %" G_GUINT64_FORMAT " line%s, %" G_GUINT64_FORMAT
            " not known to the profile; %s%" G_GUINT64_FORMAT
            " failure%s reported, %" G_GUINT64_FORMAT " whole pass%s\n",
            h->lines, h->lines == 1 ? "" : "s", h->unknown, h->at_least ? "at least " : "",
            h->failures, h->failures == 1 ? "" : "s", run->pass_count,
            run->pass_count == 1 ? "" : "es");
    if (h->unplaced)
        fprintf(to, "  %" G_GUINT64_FORMAT " of them at no place of the board file\n", h->unplaced);
    for (size_t i = 0; i < run->tested_count; i++)
        fprintf(to, "  tested: %s, %s\n",
                rmg_board_range_text(run->board, &run->tested[i], range, sizeof range),
                size_text(run->board, run->tested[i].last - run->tested[i].first + 1u, size,
                          sizeof size));
    if (!run->tested_count)
        g_string_append(text, "which words were tested, so which passed");
    if (h->failures && !h->addresses && !h->told)
        g_string_append_printf(text, "%saddresses of all failures", text->len ? "; " : "");
    if (h->failures && !h->directions)
        g_string_append_printf(text, "%swhether 0 or 1 was read", text->len ? "; " : "");
    if (!h->steps_known && !h->told)
        g_string_append_printf(text, "%swhat was written in which order", text->len ? "; " : "");
    if (text->len)
        print_wrapped(to, "Not known: ", 11, text->str);
    g_string_free(text, TRUE);
}

static void print_first_reports(FILE *to, const rmg_run *run)
{
    fprintf(to, "\nFirst reports\n");
    for (unsigned i = 0; i < run->heard->first_count && i < 6; i++)
        fprintf(to, "  %s\n", run->heard->first[i]);
}

static void print_first_failures(FILE *to, const rmg_run *run)
{
    const int digits = (run->board->word_bits + 3) / 4;

    fprintf(to, "\nFirst failures\n  %-12s %-*s %-*s pass\n", "address", digits + 3, "wrote",
            digits + 3, "read");
    for (size_t i = 0; i < run->tally.first_count && i < 4; i++) {
        const rmg_failure *f = &run->tally.first[i];
        char text[40];

        fprintf(to, "  %-12s 0x%0*" G_GINT64_MODIFIER "X  0x%0*" G_GINT64_MODIFIER "X  %u%s%s%s\n",
                rmg_board_address_text(run->board, f->address, text, sizeof text), digits,
                (guint64)f->expected, digits, (guint64)f->actual, f->pass + 1u,
                f->pass == UINT16_MAX ? " or later" : "", run->places ? "  " : "",
                run->places ? run->places[i] : "");
    }
    if (run->tally.failing > 4)
        fprintf(to, "  ... %" G_GUINT64_FORMAT " failing reads in all\n",
                (guint64)run->tally.failing);
}

/* Lines that could not vary, sockets that cannot be seen, and what keeping contents costs. */
static void print_unreached(FILE *to, const rmg_run *run)
{
    const rmg_board *board = run->board;
    char name[8];

    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_addr lines = rmg_run_unchecked_lines(run, b);
        GString *text = g_string_new(NULL);

        for (uint8_t k = 0; k < RMG_ADDR_BITS && board->banks[b].part->kind != RMG_PART_ROM; k++)
            if ((lines >> k) & 1u)
                g_string_append_printf(text, " %s",
                                       rmg_board_line_text(board, k, name, sizeof name));
        if (rmg_run_lines_skipped(run, b)) {
            g_string_printf(text, "of %s: not checked, %s", board->banks[b].called,
                            run->complete ? "too few of its words are tested"
                                          : "the run ended before");
            print_wrapped(to, "  lines ", 8, text->str);
        } else if (text->len && run->wired[b]) {
            g_string_append_printf(text, " of %s: cannot vary within what was tested",
                                   board->banks[b].called);
            print_wrapped(to, "  address lines", 17, text->str);
        }
        g_string_free(text, TRUE);
    }
    for (size_t s = 0; s < board->socket_count; s++)
        if (*board->sockets[s].unseen) {
            gchar *text = g_strdup_printf("%s cannot be tested from here: %s",
                                          board->sockets[s].name, board->sockets[s].unseen);
            print_wrapped(to, "  ", 4, text);
            g_free(text);
        }
    if (run->remark)
        print_wrapped(to, "  ", 4, run->remark);
    if (run->caveat)
        print_wrapped(to, "  ", 4, run->caveat);
    if (rmg_failset_lost(run->failures))
        print_wrapped(to, "  ", 4, "More words failed than are kept: the rest were only counted");
    if (run->refresh_kept)
        print_wrapped(to, "  ", 4,
                      "Holds without refresh: the port cannot stop it; done with refresh on");
    if (run->steps_skipped)
        print_wrapped(to, "  ", 4,
                      "Rows disturbed, neighbours, moving addresses, copies: left out to keep the "
                      "contents");
    if (run->plan.keep)
        print_wrapped(to, "  ", 4, rmg_keep_misses());
}

static void print_tested(FILE *to, const rmg_run *run)
{
    fprintf(to, "\nTested: %s, %" G_GUINT64_FORMAT, run->steps.name, run->pass_count);
    if (run->plan.passes)
        fprintf(to, " of %u", run->plan.passes);
    fprintf(to, " passes, seed %" G_GUINT64_FORMAT "\n", run->plan.seed);
    for (size_t i = 0; *run->steps.text && i < run->steps.count; i++)
        fprintf(to, "  step %2zu  %s\n", i + 1, run->steps.list[i].name);
    if (run->copied_words)
        fprintf(to,
                "  Copied onto itself: %" G_GUINT64_FORMAT " words, %" G_GUINT64_FORMAT
                " came out wrong%s\n",
                run->copied_words, run->copied_wrong,
                run->copied_wrong ? "; where says nothing, as a copy carries damage along" : "");
}

static void print_scope(FILE *to, const rmg_run *run)
{
    char range[40], size[40], line[256], *unreached = NULL;
    size_t length = 0;
    FILE *list = kept_text(&unreached, &length);

    print_tested(to, run);
    for (size_t i = 0; i < run->tested_count; i++)
        fprintf(to, "  %-19s  %s\n",
                rmg_board_range_text(run->board, &run->tested[i], range, sizeof range),
                size_text(run->board, run->tested[i].last - run->tested[i].first + 1u, size,
                          sizeof size));
    print_unreached(list, run);
    fclose(list);
    if (run->left_out_count || length)
        fprintf(to, "Not tested\n");
    for (size_t i = 0; i < run->left_out_count; i++) {
        const rmg_left_out *l = &run->left_out[i];

        g_snprintf(line, sizeof line, "  %-19s  ",
                   rmg_board_range_text(run->board, &l->range, range, sizeof range));
        gchar *text = g_strdup_printf("%s%s%s", l->name, *l->name ? ": " : "", l->reason);
        print_wrapped(to, line, 23, text);
        g_free(text);
    }
    fwrite(unreached, 1, length, to);
    free(unreached);
    fprintf(to, "%" G_GUINT64_FORMAT " access%s in %.2f s", run->reads + run->writes,
            run->reads + run->writes == 1 ? "" : "es", run->seconds_wall);
    if (run->seconds_target >= 0)
        fprintf(to, " here, %.2f s of the board's own time", run->seconds_target);
    fputc('\n', to);
}

void print_not_put_back(FILE *to, const rmg_board *board, const rmg_saved_word *words, size_t count)
{
    const int digits = (board->word_bits + 3) / 4;
    char text[40];

    if (!count)
        return;
    fprintf(to,
            "NOT RESTORED: the port did not accept %zu word%s, tried several times. What %s held "
            "before:\n",
            count, count == 1 ? "" : "s", count == 1 ? "it" : "they");
    for (size_t i = 0; i < count; i++) {
        const bool new_line = i % 8u == 0 || words[i].address != words[i - 1u].address + 1u;

        if (new_line)
            fprintf(to, "%s  %s:", i ? "\n" : "",
                    rmg_board_address_text(board, words[i].address, text, sizeof text));
        fprintf(to, " 0x%0*" G_GINT64_MODIFIER "X", digits, (guint64)words[i].value);
    }
    fputs("\n", to);
}

/* Did a test ROM tell that its own sum is wrong? */
static bool own_sum_wrong(const rmg_run *run)
{
    const rmg_told *told = run->heard ? run->heard->told : NULL;

    for (size_t i = 0; told && i < told->count; i++)
        if (told->lines[i].says == RMG_TESTROM_SAYS_SUM ||
            told->lines[i].code == RMG_TESTROM_CODE_SUM)
            return true;
    return false;
}

void print_report(FILE *to, const rmg_run *run, const rmg_suspects *suspects, bool headed)
{
    const chart_run c = {run, suspects};

    if (headed && !own_sum_wrong(run))
        fputs("No fault of RAM was reported.\n", to);
    else if (suspects->count)
        print_heads(to, suspects);
    else if (rmg_run_failed(run))
        fprintf(to,
                own_sum_wrong(run)
                    ? "The test ROM in the slot reads wrong: its own sum is not right. Clean the "
                      "slot's contacts,\nread the chip in it on its own pins; nothing else that "
                      "it tells can be trusted.\n"
                    : "Something failed, but it points to no place.\n");
    else if (run->heard && run->heard->told && run->heard->told->passes)
        fprintf(to, "No fault: the test ROM reported none in %" G_GUINT64_FORMAT " whole pass%s.\n",
                run->heard->told->passes, run->heard->told->passes == 1 ? "" : "es");
    else if (run->heard)
        print_wrapped(to, "", 2,
                      "No line reports a fault. Whether the other program would have found one is "
                      "not known.");
    else
        print_clean(to, run);
    if (!run->complete && run->heard)
        fprintf(to, "NOT COMPLETE: %s.\n",
                run->status == RMG_ERR_CANCELLED ? "stopped on request"
                                                 : "the lines end before the one that ends them");
    else if (!run->complete)
        fprintf(to,
                "NOT COMPLETE: %s after %" G_GUINT64_FORMAT
                " whole pass%s; what follows is what was found so "
                "far.\n",
                rmg_status_text(run->status), run->pass_count, run->pass_count == 1 ? "" : "es");
    else if (run->less)
        print_wrapped(to, "NOT COMPLETE: ", 0,
                      "less memory could be had than was asked for; --on ram:SIZE,or-less takes "
                      "what there is.");
    print_not_put_back(to, run->board, run->not_restored, run->not_put_back_count);
    if (run->board->bank_count) {
        fprintf(to, "\n%s by socket%s%s\n", run->heard ? "Failures reported" : "Failing words",
                any_socket(suspects) ? "; > < marks what to look at" : "",
                lines_only(run, suspects) ? ", line: on a line to look at" : "");
        print_chart(to, run->board, cell_state, &c);
    }
    print_rates(to, run, suspects);
    for (size_t i = 0; i < suspects->count && i < 3; i++)
        print_suspect(to, &suspects->list[i], suspects->count > 1);
    if (!rmg_run_failed(run) && run->wiring_accesses)
        print_sound_lines(to, run);
    if (run->heard) {
        if (run->heard->first_count)
            print_first_reports(to, run);
        print_heard_scope(to, run);
        return;
    }
    if (run->tally.first_count)
        print_first_failures(to, run);
    print_scope(to, run);
}
