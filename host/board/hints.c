/* What a board file may say, but seldom means: numbering the wrong way round, memory that nothing
 * tests, half-good parts, chips drawn over each other, ROMs without an image. */
#include "build.h"

#include <math.h>
#include <string.h>

#define PIN_MM  2.54
#define CHIP_MM 7.0 /* between the rows of legs of a narrow chip */

static void say(GPtrArray *hints, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void say(GPtrArray *hints, const char *format, ...)
{
    va_list args;

    va_start(args, format);
    g_ptr_array_add(hints, g_strdup_vprintf(format, args));
    va_end(args);
}

/* How the sockets of a bank run as its data bits rise. */
typedef struct course {
    bool numbered, placed;    /* it can be told at all */
    int numbers, places;      /* 1: numbers rise, sockets go right (or down); -1: the other way */
    const char *first, *last; /* of the lowest and the highest bits */
} course;

static gint by_bit(gconstpointer a, gconstpointer b)
{
    return rmg_by_number((*(const rmg_rule *const *)a)->data_bits[0],
                         (*(const rmg_rule *const *)b)->data_bits[0]);
}

static int sign(double x)
{
    return (x > 0) - (x < 0);
}

static course course_of(const rmg_board *board, size_t bank)
{
    GPtrArray *rules = g_ptr_array_new();
    course c = {.numbered = true, .placed = true};

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank)
            g_ptr_array_add(rules, (gpointer)(uintptr_t)&board->placement.rules[r]);
    g_ptr_array_sort(rules, by_bit);
    for (guint i = 1; i < rules->len; i++) {
        const rmg_rule *before = rules->pdata[i - 1u], *rule = rules->pdata[i];
        const rmg_socket *x = &board->sockets[before->socket], *y = &board->sockets[rule->socket];
        char stem[16], stem2[16];
        uint64_t a = 0, z = 0;
        const bool same = rmg_designator_parse(x->name, stem, sizeof stem, &a) &&
                          rmg_designator_parse(y->name, stem2, sizeof stem2, &z) &&
                          strcmp(stem, stem2) == 0;
        const int up = a < z ? 1 : -1;
        const int right = fabs(y->x_mm - x->x_mm) >= fabs(y->y_mm - x->y_mm)
                              ? sign(y->x_mm - x->x_mm)
                              : sign(y->y_mm - x->y_mm);

        c.numbered &= same && (i == 1 || up == c.numbers);
        c.placed &= x->drawn && y->drawn && (i == 1 || right == c.places);
        c.numbers = up;
        c.places = right;
    }
    c.numbered &= rules->len >= 4;
    c.placed &= rules->len >= 4 && c.places != 0;
    if (rules->len >= 4) {
        c.first = board->sockets[((const rmg_rule *)rules->pdata[0])->socket].name;
        c.last = board->sockets[((const rmg_rule *)rules->pdata[rules->len - 1u])->socket].name;
    }
    g_ptr_array_free(rules, TRUE);
    return c;
}

/* A bank that runs the other way than the first of the same part. */
static void hint_reversed(GPtrArray *hints, const rmg_board *board)
{
    for (size_t b = 1; b < board->bank_count; b++)
        for (size_t a = 0; a < b; a++) {
            const course x = course_of(board, a), y = course_of(board, b);

            if (board->banks[a].part != board->banks[b].part)
                continue;
            if (x.placed && y.placed ? x.places == y.places
                                     : !x.numbered || !y.numbered || x.numbers == y.numbers)
                continue;
            say(hints,
                "%s runs from %s (lowest bit) to %s, the other way round than %s (%s to %s): is "
                "its numbering reversed?",
                board->banks[b].called, y.first, y.last, board->banks[a].called, x.first, x.last);
            break;
        }
}

/* An address line of a DRAM tied to a level: half of each chip is used. */
static void hint_half_good(GPtrArray *hints, const rmg_board *board)
{
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_part *part = board->banks[b].part;
        bool told = part->kind != RMG_PART_DRAM;

        for (uint16_t r = 0; r < board->placement.rule_count && !told; r++) {
            const rmg_rule *rule = &board->placement.rules[r];

            for (uint8_t i = 0; rule->bank == b && i < rule->address_lines && !told; i++)
                if (rule->address_bits[i] >= RMG_FEED_0) {
                    const bool column = i >= part->row_lines;

                    told = true;
                    say(hints,
                        "%s uses half of each %s (%s line %u is tied %s): if they are half-good "
                        "parts, their marking says which half is good, and the tie must fit it; a "
                        "whole %s fits as well.",
                        board->banks[b].called, part->number, column ? "column" : "row",
                        column ? i - part->row_lines + part->column_from : i,
                        rule->address_bits[i] == RMG_FEED_1 ? "high" : "low", part->number);
                }
        }
        if (!told && part->address_lines == 15)
            say(hints,
                "%s is of %s, 32K deep: many such parts are 64K ones of which half is good. Note "
                "under \"note\" which half, and what ties the line.",
                board->banks[b].called, part->number);
    }
}

/* Cells of a bank of RAM that no region of RAM shows. */
static void hint_untested(GPtrArray *hints, const rmg_board *board)
{
    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_where *where = &board->bank_wheres[b];
        rmg_addr at = where->first;

        for (size_t i = 0; board->banks[b].part->kind != RMG_PART_ROM && at <= where->last; i++) {
            const rmg_region *region = i < board->region_count ? &board->regions[i] : NULL;
            const rmg_addr end = region && region->range.first <= where->last ? region->range.first
                                                                              : where->last + 1u;
            char text[40];

            if (region && region->range.last < at)
                continue;
            if (at < end) { /* a gap before the region */
                const rmg_range gap = {at, end - 1u};

                say(hints,
                    "%s holds RAM at %s, but no region names it: no test reaches it. If the board "
                    "can, add a region.",
                    board->banks[b].called, rmg_board_range_text(board, &gap, text, sizeof text));
            }
            if (!region || end > where->last)
                break;
            if (region->kind == RMG_REGION_RESERVED || region->kind == RMG_REGION_EMPTY) {
                const rmg_range part = {MAX(at, region->range.first),
                                        MIN(where->last, region->range.last)};

                say(hints, "%s holds RAM at %s, in \"%s\" (%s): no test reaches it.",
                    board->banks[b].called, rmg_board_range_text(board, &part, text, sizeof text),
                    region->name, rmg_region_kind_name(region->kind));
            }
            if (region->range.last >= where->last)
                break;
            at = region->range.last + 1u;
        }
    }
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];
        bool placed = *s->unseen || !s->part || s->part->kind == RMG_PART_ROM;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            placed |= board->placement.rules[r].socket == i;
        if (!placed)
            say(hints,
                "%s: %s is RAM (%s) in no bank: no test reaches it. Say under \"unseen\" why, or "
                "add its bank.",
                s->stands, s->name, s->part->number);
    }
}

static void size_of(const rmg_socket *s, double *w, double *h)
{
    const unsigned pins = s->part ? MAX(rmg_part_pin_count(s->part), 8u) : 16u;

    *h = pins / 2.0 * PIN_MM;
    *w = pins >= 24 ? 2 * CHIP_MM : CHIP_MM;
}

static bool is_drawn_over(const rmg_socket *x, const rmg_socket *y)
{
    double w, h, w2, h2;

    size_of(x, &w, &h);
    size_of(y, &w2, &h2);
    return x->drawn && y->drawn && fabs(x->x_mm - y->x_mm) < (w + w2) / 2 &&
           fabs(x->y_mm - y->y_mm) < (h + h2) / 2;
}

static void hint_drawn_over(GPtrArray *hints, const rmg_board *board)
{
    const rmg_socket *one = NULL, *over = NULL;
    unsigned more = 0;

    for (size_t i = 0; i < board->socket_count; i++)
        for (size_t j = 0; j < i; j++)
            if (is_drawn_over(&board->sockets[j], &board->sockets[i])) {
                more += one != NULL;
                one = one ? one : &board->sockets[i];
                over = over ? over : &board->sockets[j];
            }
    if (one) {
        gchar *others =
            more ? g_strdup_printf(", and %u more such pair%s", more, more == 1 ? "" : "s")
                 : g_strdup("");

        say(hints, "%s: %s is drawn over %s (%g mm across and %g mm down from it)%s.", one->stands,
            one->name, over->name, fabs(one->x_mm - over->x_mm), fabs(one->y_mm - over->y_mm),
            others);
        g_free(others);
    }
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];

        if (board->width_mm > 0 && s->drawn &&
            (s->x_mm < 0 || s->y_mm < 0 || s->x_mm > board->width_mm || s->y_mm > board->height_mm))
            say(hints, "%s: %s is drawn outside the board, which is %g mm by %g mm.", s->stands,
                s->name, board->width_mm, board->height_mm);
    }
}

static void hint_no_image(GPtrArray *hints, const rmg_board *board)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    gchar *all;
    bool one;

    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];

        if (s->part && s->part->kind == RMG_PART_ROM && !*s->image)
            g_ptr_array_add(names, g_strdup(s->name));
    }
    if (!names->len) {
        g_ptr_array_free(names, TRUE);
        return;
    }
    one = names->len == 1;
    all = rmg_join(names);
    say(hints,
        "%s %s without \"image\": once a good one is read, dump it and name the file, so that "
        "verify "
        "can compare %s.",
        all, one ? "is a ROM" : "are ROMs", one ? "it" : "them");
    g_free(all);
}

char **rmg_board_hints(const rmg_board *board)
{
    GPtrArray *hints = g_ptr_array_new();

    hint_reversed(hints, board);
    hint_half_good(hints, board);
    hint_untested(hints, board);
    hint_drawn_over(hints, board);
    hint_no_image(hints, board);
    for (guint i = 0; i < hints->len; i++) /* they begin a sentence */
        if (g_str_has_prefix(hints->pdata[i], "the "))
            *(char *)hints->pdata[i] = 'T';
    g_ptr_array_add(hints, NULL);
    return (char **)g_ptr_array_free(hints, FALSE);
}
