/* rimeglass explain --plan-for: the steps that find most for the time, one after the other by what
 * each adds a second to what is found already. */
#include "plan_for.h"

#include <math.h>
#include <string.h>

#include "plan_shares.h"
#include "rimeglass/file.h"

/* What is to be found, beyond the classes that are computed: a step is for it, or is not. */
enum { BY_ADDRESS, BY_RANDOM, NOISY_LINES, LONG_HOLD, NO_REFRESH, DISTURBED, PURPOSES };
static const struct {
    double worth;
    const char *name; /* as --without takes it */
    const char *text;
} purposes[PURPOSES] = {
    [BY_ADDRESS] = {0.5, "addresses", "each word holding another value: its address"},
    [BY_RANDOM] = {0.3, "random", "words drawn at random"},
    [NOISY_LINES] = {0.8, "noisy-lines", "lines that follow others when these switch"},
    [LONG_HOLD] = {0.4, "long-holds", "cells that hold for less than two seconds, with refresh on"},
    [NO_REFRESH] = {0.4, "stopped-refresh", "cells that hold for less than 100 ms without refresh"},
    [DISTURBED] = {0.6, "rows", "rows that many accesses to the row beside them disturb"},
};

#define FOR(purpose) (1u << (purpose))

static const struct {
    const char *step;
    unsigned purposes;
} steps_known[] = {
    {"noisy lines", FOR(NOISY_LINES)},
    {"march: MATS+", 0},
    {"march: MATS++", 0},
    {"march: March X", 0},
    {"march: March C-", 0},
    {"march: March LR", 0},
    {"march: PMOVI", 0},
    {"march: March SS", 0},
    {"march: March RAW", 0},
    {"march: March G", 0},
    {"{march: MATS+, background: checkerboard}", 0},
    {"{march: March C-, background: checkerboard}", 0},
    {"{march: March C-, background: rows}", 0},
    {"{march: March C-, background: columns}", 0},
    {"{march: MATS+, background: address}", FOR(BY_ADDRESS)},
    {"{march: MATS+, background: random}", FOR(BY_RANDOM)},
    {"{march: MATS+, background: word}", 0},
    {"{march: March X, background: word}", 0},
    {"{march: March C-, background: word}", 0},
    {"within a word", 0},
    {"{neighbours: static}", 0},
    {"{neighbours: passive}", 0},
    {"{neighbours: active}", 0},
    {"{neighbours: all}", 0},
    {"{hold-ms: 100}", 0},
    {"{march: MATS++, order: columns first}", 0},
    {"{march: MATS++, order: rows first}", 0},
    {"{march: MATS++, order: complement}", 0},
    {"{march: MATS++, order: powers of two}", 0},
    {"{moving: butterfly}", 0},
    {"{moving: surround}", 0},
    {"{moving: galloping by lines}", 0},
    {"{moving: galloping by column}", 0},
    {"{moving: galloping by row}", 0},
    {"{hold-ms: 2000, background: checkerboard}", FOR(LONG_HOLD)},
    {"{hold-ms: 100, background: checkerboard, refresh: stopped}", FOR(NO_REFRESH)},
    {"{row-accesses: 2000}", FOR(DISTURBED)},
};
#define KNOWN   G_N_ELEMENTS(steps_known)
#define DYNAMIC (FOR(NO_REFRESH) | FOR(DISTURBED))

/* What a suspicion makes count ten times. */
typedef struct worths {
    double classes[RMG_CLASS_COUNT], within, neighbours, successive[RMG_SUCCESSIVE_CLASSES],
        purposes[PURPOSES];
} worths;

static const char *const suspicions[] = {"noise",   "heat", "row",        "column",
                                         "decoder", "word", "neighbours", NULL};
#define MORE 10.0
#define WIDE 8 /* bits of a word in which two of them stand for those of any */

#define AMONG RMG_CLASS_COUNT
#define AFTER (AMONG + RMG_PATTERN_CLASSES)
#define KINDS (AFTER + RMG_SUCCESSIVE_CLASSES)

typedef struct chooser {
    const rmg_board *board;
    double us, left;
    uint64_t words;
    unsigned without; /* purposes that no step may be for */
    worths worth;
    rmg_steps steps[KNOWN];
    double seconds[KNOWN];
    bool chosen[KNOWN], there[KNOWN];
    bool (*alone)[KINDS][PLAN_INSTANCES]; /* [KNOWN]: what each step finds by itself */
    size_t instances[KINDS];
} chooser;

/* What a choice of steps finds. */
typedef struct found {
    double classes[RMG_CLASS_COUNT], within, neighbours[RMG_PATTERN_CLASSES],
        successive[RMG_SUCCESSIVE_CLASSES];
    unsigned purposes;
} found;

static bool choose_worths(const plan_for_call *call, worths *w)
{
    const char *what = call->suspect ? call->suspect : "";
    bool known = !*what;

    for (int k = 0; k < RMG_CLASS_COUNT; k++) /* the address faults are nine rows of one thing */
        w->classes[k] = k >= RMG_CLASS_AF_A_AND && k <= RMG_CLASS_AF_D_OR ? 0.3 : 1;
    w->within = w->neighbours = 2;
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++)
        w->successive[k] = 0.3;
    for (int p = 0; p < PURPOSES; p++)
        w->purposes[p] = purposes[p].worth;
    for (size_t i = 0; suspicions[i]; i++)
        known |= strcmp(what, suspicions[i]) == 0;
    if (!known) {
        gchar *list = g_strjoinv(", ", (gchar **)(void *)suspicions);

        wrong_call("explain", "--suspect %s: expected one of %s", what, list);
        g_free(list);
    }
    if (strcmp(what, "noise") == 0) {
        w->purposes[BY_RANDOM] *= MORE;
        w->purposes[BY_ADDRESS] *= MORE;
        w->purposes[NOISY_LINES] *= MORE;
    } else if (strcmp(what, "heat") == 0) {
        w->classes[RMG_CLASS_DRF] *= MORE;
        w->purposes[LONG_HOLD] *= MORE;
        w->purposes[NO_REFRESH] *= MORE;
    } else if (strcmp(what, "row") == 0 || strcmp(what, "column") == 0) {
        w->purposes[DISTURBED] *= MORE;
        w->neighbours *= MORE;
        w->successive[RMG_SUCCESSIVE_PRECHARGE] *= *what == 'c' ? MORE : 1;
        w->successive[RMG_SUCCESSIVE_RECOVERY] *= *what == 'c' ? MORE : 1;
    } else if (strcmp(what, "decoder") == 0) {
        for (int k = RMG_CLASS_AF_A_AND; k <= RMG_CLASS_AF_D_OR; k++)
            w->classes[k] *= MORE;
        for (int k = RMG_SUCCESSIVE_ONE_LINE; k <= RMG_SUCCESSIVE_LINE; k++)
            w->successive[k] *= MORE;
    } else if (strcmp(what, "word") == 0) {
        w->within *= MORE;
    } else if (strcmp(what, "neighbours") == 0) {
        w->neighbours *= MORE;
    }
    return known;
}

/* --without: purposes, between commas. */
static bool read_without(const char *text, unsigned *without)
{
    gchar **names = g_strsplit(text ? text : "", ",", -1);
    bool known = true;

    for (gchar **name = names; *name && known; name++) {
        unsigned purpose = 0;

        while (purpose < PURPOSES && strcmp(g_strstrip(*name), purposes[purpose].name) != 0)
            purpose++;
        known = purpose < PURPOSES;
        if (known)
            *without |= FOR(purpose);
        else
            wrong_call("explain",
                       "--without: \"%s\" is none of %s, %s, %s, %s, %s, %s (several between "
                       "commas)",
                       *name, purposes[0].name, purposes[1].name, purposes[2].name,
                       purposes[3].name, purposes[4].name, purposes[5].name);
    }
    g_strfreev(names);
    return known;
}

/* false: there is no memory for one of them, for all are built in. */
static bool load_steps(chooser *c)
{
    bool all = true;

    for (size_t i = 0; i < KNOWN; i++) {
        /* a plan has a step that tests cells, which not each of these is */
        gchar *text = g_strdup_printf("plan: one\nsteps:\n  - %s\n  - copy\n", steps_known[i].step);
        rmg_errors errors = {0};
        const rmg_step *step;

        if (rmg_steps_parse("built in", text, &c->steps[i], &errors) == RMG_OK) {
            step = &c->steps[i].list[0];
            c->steps[i].count = 1;
            c->seconds[i] = (double)(rmg_step_accesses(step, c->board, c->words) +
                                     rmg_step_first_accesses(step, c->board)) *
                                c->us / 1e6 +
                            rmg_step_hold_seconds(step, c->board);
            c->there[i] = c->seconds[i] > 0 && c->seconds[i] <= c->left &&
                          !(steps_known[i].purposes & c->without) &&
                          (board_has_rows(c->board) || !(steps_known[i].purposes & DYNAMIC));
            for (int k = 0; c->there[i] && step->code[0] && k < RMG_CLASS_COUNT; k++)
                c->instances[k] =
                    plan_found_of_class(&c->steps[i], (rmg_fault_class)k, c->alone[i][k]);
            for (int k = 0; c->there[i] && board_has_rows(c->board) && k < RMG_PATTERN_CLASSES; k++)
                c->instances[AMONG + k] =
                    plan_found_among(&c->steps[i], (rmg_pattern_class)k, c->alone[i][AMONG + k]);
            for (int k = 0; c->there[i] && k < RMG_SUCCESSIVE_CLASSES; k++)
                c->instances[AFTER + k] = plan_found_successive(
                    &c->steps[i], c->board, (rmg_successive_class)k, c->alone[i][AFTER + k]);
        }
        all &= c->steps[i].count == 1;
        rmg_errors_free(&errors);
        g_free(text);
    }
    return all;
}

/* All steps chosen, and one more (KNOWN: none), as one list that points into theirs. */
static rmg_steps joined(const chooser *c, size_t more, size_t without)
{
    rmg_steps all = {.list = g_new(rmg_step, KNOWN)};

    for (size_t i = 0; i < KNOWN; i++)
        if ((c->chosen[i] || i == more) && i != without)
            all.list[all.count++] = c->steps[i].list[0];
    return all;
}

/* Of a kind: a class of single cells and pairs, or AMONG and a class among neighbours. What one of
 * the steps alone always finds. */
static double share_of(const chooser *c, size_t more, size_t without, int kind)
{
    size_t count = 0;

    for (size_t n = 0; n < c->instances[kind]; n++) {
        bool is = false;

        for (size_t i = 0; i < KNOWN && !is; i++)
            is = (c->chosen[i] || i == more) && i != without && c->alone[i][kind][n];
        count += is;
    }
    return c->instances[kind] ? (double)count / (double)c->instances[kind] : kind >= AMONG;
}

/* What these steps find; where `from` has all of something already, that is taken over, and so is
 * what a step of `kind` cannot change. */
static void look(const chooser *c, size_t more, size_t without, const found *from, found *f)
{
    rmg_steps all = joined(c, more, without);
    const rmg_step *one = more < KNOWN ? &c->steps[more].list[0] : NULL;
    const bool cells = !one || one->code[0];
    rmg_board words = *c->board; /* two bits of a wide word are as two of a narrower one */

    words.word_bits = MIN(words.word_bits, WIDE);
    memset(f, 0, sizeof *f);
    for (size_t i = 0; i < KNOWN; i++)
        if ((c->chosen[i] || i == more) && i != without)
            f->purposes |= steps_known[i].purposes;
    for (int k = 0; k < RMG_CLASS_COUNT; k++)
        f->classes[k] = from && (from->classes[k] >= 1 || !cells) ? from->classes[k]
                                                                  : share_of(c, more, without, k);
    f->within =
        from && (from->within >= 1 || !cells) ? from->within : plan_share_within(&all, &words);
    for (int k = 0; k < RMG_PATTERN_CLASSES; k++)
        f->neighbours[k] = share_of(c, more, without, AMONG + k);
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++)
        f->successive[k] = share_of(c, more, without, AFTER + k);
    g_free(all.list);
}

static double worth_of(const chooser *c, const found *f)
{
    double sum = c->worth.within * f->within;

    for (int k = 0; k < RMG_CLASS_COUNT; k++)
        sum += c->worth.classes[k] * f->classes[k];
    for (int k = 0; board_has_rows(c->board) && k < RMG_PATTERN_CLASSES; k++)
        sum += c->worth.neighbours * f->neighbours[k];
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++)
        sum += c->worth.successive[k] * f->successive[k];
    for (int p = 0; p < PURPOSES; p++)
        sum += f->purposes >> p & 1u ? c->worth.purposes[p] : 0;
    return sum;
}

/* Adds the step that adds most a second; false: none does, or none fits. */
static bool add_one(chooser *c, found *now)
{
    const double worth = worth_of(c, now);
    size_t best = KNOWN;
    double rate = 0;
    found with, best_with = *now;

    for (size_t i = 0; i < KNOWN; i++) {
        double more;

        if (!c->there[i] || c->chosen[i] || c->seconds[i] > c->left)
            continue;
        if (!progress_share("steps that add most a second", (double)i / KNOWN))
            return false;
        look(c, i, KNOWN, now, &with);
        more = worth_of(c, &with) - worth;
        if (more > 1e-9 && more / c->seconds[i] > rate) {
            rate = more / c->seconds[i];
            best = i;
            best_with = with;
        }
    }
    if (best == KNOWN)
        return false;
    c->chosen[best] = true;
    c->left -= c->seconds[best];
    *now = best_with;
    return true;
}

/* Takes out steps without which nothing is lost: others found it all later. */
static bool prune(chooser *c, const found *now)
{
    bool any = false;

    for (size_t i = 0; i < KNOWN; i++) {
        found without;

        if (!c->chosen[i])
            continue;
        look(c, KNOWN, i, NULL, &without);
        if (worth_of(c, &without) < worth_of(c, now) - 1e-9)
            continue;
        c->chosen[i] = false;
        c->left += c->seconds[i];
        any = true;
    }
    return any;
}

static bool as_much_among(const chooser *c, const found *now)
{
    for (int k = 0; k < RMG_PATTERN_CLASSES; k++)
        if (share_of(c, KNOWN, KNOWN, AMONG + k) < now->neighbours[k] - 1e-9)
            return false;
    return true;
}

static bool is_of_neighbours(const chooser *c, size_t i)
{
    return c->there[i] && c->steps[i].list[0].kind == RMG_STEP_NEIGHBOURS;
}

/* A longer step for neighbours in place of several, where it takes less time than these. */
static void merge(chooser *c, const found *now)
{
    for (size_t i = 0; i < KNOWN; i++) {
        bool before[KNOWN];
        double saved = -c->seconds[i];

        if (!is_of_neighbours(c, i) || c->chosen[i])
            continue;
        memcpy(before, c->chosen, sizeof before);
        c->chosen[i] = true;
        for (size_t j = 0; j < KNOWN; j++) {
            if (j == i || !c->chosen[j] || !is_of_neighbours(c, j))
                continue;
            c->chosen[j] = false;
            if (as_much_among(c, now))
                saved += c->seconds[j];
            else
                c->chosen[j] = true;
        }
        if (saved > 0)
            c->left += saved;
        else
            memcpy(c->chosen, before, sizeof before);
    }
}

static bool is_of_order(const chooser *c, size_t i)
{
    const rmg_step *step = &c->steps[i].list[0];

    return c->there[i] && (step->kind == RMG_STEP_MOVING || step->way != RMG_WAY_LINEAR);
}

/* A step with moving addresses that does not fit, in place of others that go by orders, where it
 * finds what these do, and more, and then fits. */
static bool exchange(chooser *c, found *now)
{
    const double worth = worth_of(c, now);

    for (size_t i = 0; i < KNOWN; i++) {
        bool before[KNOWN];
        double left = c->left - c->seconds[i];
        found with;

        if (!is_of_order(c, i) || c->chosen[i] || c->steps[i].list[0].kind != RMG_STEP_MOVING)
            continue;
        memcpy(before, c->chosen, sizeof before);
        c->chosen[i] = true;
        look(c, KNOWN, KNOWN, NULL, &with);
        for (size_t j = 0; j < KNOWN && worth_of(c, &with) > worth + 1e-9; j++) {
            found without;

            if (j == i || !c->chosen[j] || !is_of_order(c, j))
                continue;
            look(c, KNOWN, j, NULL, &without);
            if (worth_of(c, &without) < worth_of(c, &with) - 1e-9)
                continue;
            c->chosen[j] = false;
            left += c->seconds[j];
        }
        if (left >= 0 && worth_of(c, &with) > worth + 1e-9) {
            c->left = left;
            *now = with;
            return true;
        }
        memcpy(c->chosen, before, sizeof before);
    }
    return false;
}

static gchar *text_of(const chooser *c, const plan_for_call *call)
{
    GString *text = g_string_new("");

    g_string_append_printf(text, "plan: for %s%s%s\nsteps:\n  - wiring\n  - first memory\n",
                           call->time, call->suspect ? ", " : "",
                           call->suspect ? call->suspect : "");
    for (size_t i = 0; i < KNOWN; i++)
        if (c->chosen[i])
            g_string_append_printf(text, "  - %s\n", steps_known[i].step);
    return g_string_free(text, FALSE);
}

static void print_left(const chooser *c, const found *f)
{
    GString *text = g_string_new("");
    bool any = false;

    printf("\nWhat stays unfound\n");
    for (int k = 0; k < RMG_CLASS_COUNT; k++)
        if (f->classes[k] < 1)
            g_string_append_printf(text, "%s%s %.1f %%", text->len ? ", " : "",
                                   rmg_fault_class_name((rmg_fault_class)k),
                                   100 * (1 - f->classes[k]));
    if (text->len)
        print_wrapped(stdout, "  of single cells and pairs: ", 4, text->str);
    any |= text->len > 0;
    if (f->within < 1) {
        printf("  between two bits of a word: %.1f %%\n", 100 * (1 - f->within));
        any = true;
    }
    for (int k = 0; board_has_rows(c->board) && k < RMG_PATTERN_CLASSES; k++)
        if (f->neighbours[k] < 1) {
            printf("  among the cells around a cell, %s: %.1f %%\n", pattern_names[k],
                   100 * (1 - f->neighbours[k]));
            any = true;
        }
    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++)
        if (f->successive[k] < 1) {
            printf("  of accesses that follow too soon, %s: %.1f %%\n", successive_names[k],
                   100 * (1 - f->successive[k]));
            any = true;
        }
    for (int p = 0; p < PURPOSES; p++)
        if (!(f->purposes >> p & 1u) && (board_has_rows(c->board) || !(FOR(p) & DYNAMIC))) {
            print_wrapped(stdout, "  not looked for: ", 4, purposes[p].text);
            any = true;
        }
    if (!any)
        printf("  of all that is computed here, nothing\n");
    g_string_free(text, TRUE);
}

static void print_choice(const chooser *c, const plan_for_call *call, double time)
{
    char pass[32], size[40];
    double seconds = 0;

    printf("For %s on %s: %s of RAM, words of %u bits, %.2f us an access\n\n", call->time,
           c->board->name, size_text(c->board, c->words, size, sizeof size), c->board->word_bits,
           c->us);
    printf("  %-48s  seconds\n", "step");
    for (size_t i = 0; i < KNOWN; i++)
        if (c->chosen[i]) {
            printf("  %-48s %8.2f\n", c->steps[i].list[0].name, c->seconds[i]);
            seconds += c->seconds[i];
        }
    if (seconds < 99.5)
        g_snprintf(pass, sizeof pass, "%.1f s", seconds);
    else
        time_text(seconds, pass, sizeof pass);
    printf("\nA pass takes %s, wiring and first memory aside; %.0f fit%s into the time.\n", pass,
           seconds > 0 ? floor(time / seconds + 0.001) : 0,
           seconds > 0 && time / seconds < 1.999 ? "s" : "");
}

static int choose(chooser *c, const plan_for_call *call, double time)
{
    int status = EXIT_PASS;
    found now;
    gchar *text;

    progress_start();
    look(c, KNOWN, KNOWN, NULL, &now);
    do {
        while (add_one(c, &now))
            ;
        merge(c, &now);
    } while (exchange(c, &now) || prune(c, &now));
    progress_end();
    for (size_t i = 0; i <= KNOWN; i++)
        if (i == KNOWN)
            return wrong_call("explain", "--plan-for %s: not enough for one march over this board",
                              call->time);
        else if (c->chosen[i])
            break;
    text = text_of(c, call);
    print_choice(c, call, time);
    print_left(c, &now);
    if (call->write) {
        if (!write_new("explain", "write", call->write, text))
            status = EXIT_CALL;
    } else {
        printf("\n%s", text);
    }
    g_free(text);
    return status;
}

int find_plan(const plan_for_call *call, const rmg_board *board)
{
    chooser c = {.board = board,
                 .us = call->access_us != 0 ? call->access_us : (double)board->access_ns / 1000};
    double time;
    int status;

    if (!read_time("explain", "plan-for", call->time, &time) || !choose_worths(call, &c.worth) ||
        !read_without(call->without, &c.without))
        return EXIT_CALL;
    if (!(c.us > 0 && c.us <= 1e6))
        return wrong_call("explain", "--access-us %g: expected above 0, at most 1000000",
                          call->access_us);
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_RAM)
            c.words += board->regions[i].range.last - board->regions[i].range.first + 1u;
    if (!c.words)
        return wrong_call("explain", "--plan-for: the board names no RAM");
    c.left = time;
    c.alone = g_malloc0(KNOWN * sizeof *c.alone);
    status = load_steps(&c) ? choose(&c, call, time)
                            : wrong_call("explain", "--plan-for: no memory is left");
    for (size_t i = 0; i < KNOWN; i++)
        rmg_steps_free(&c.steps[i]);
    g_free(c.alone);
    return status;
}
