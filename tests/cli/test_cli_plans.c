/* Plans as a user calls them: steps within a word and among neighbours end at a socket; the
 * built-in plans against what --plan-for chooses. */
#include <glib.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define OSTREL  "demo/boards/ostrel16.yaml"
#define HALVORN "demo/boards/halvorn64.yaml"

/* A coupling between two bits of one chip's words, on a board with 4-bit chips: the step finds it
 * and names the chip; a march in solid backgrounds does not where a write spares what it changes.
 */
static void within_a_word(void)
{
    static const struct {
        const char *steps, *fault;
        int status;
        const char *says;
    } rows[] = {
        {"within a word", "kind: idempotent coupling, level: 1, change-to: 1, unchanged-only: yes",
         1, "U31"},
        {"march: March SS",
         "kind: idempotent coupling, level: 1, change-to: 1, unchanged-only: yes", 0,
         "No fault found"},
        {"within a word", "kind: inversion coupling, change-to: 0, unchanged-only: yes", 1, "U31"},
        {"within a word", "kind: disturb coupling, level: 0, operation: 1r1", 1, "U31"},
        {"within a word", "kind: disturb coupling, level: 1, operation: 0w0, unchanged-only: no", 1,
         "U31"},
        {"march: March C-", "kind: disturb coupling, level: 1, operation: 0w0", 0,
         "No fault found"},
        {"within a word", "kind: state coupling, level: 1, while: 0", 1, "U31"},
        {"within a word",
         "kind: idempotent coupling, level: 1, change-to: 1, unchanged-only: often", 2, ""},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *plan = g_strdup_printf("plan: one\nsteps:\n  - %s\n", rows[i].steps);
        gchar *plan_file = g_strdup(temporary_file("one.yaml", plan));
        gchar *fault = g_strdup_printf("faults:\n  - {%s, socket: U31, bit: D1, cell: "
                                       "900, by-cell: 900, by-bit: D2}\n",
                                       rows[i].fault);
        gchar *words = g_strdup_printf("test|" OSTREL "|--plan|%s|--passes|1|--on|sim:%s",
                                       plan_file, temporary_file("fault.yaml", fault));
        answer a = call(words);

        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].says), "%s, %s: %d, %s%s",
              rows[i].steps, rows[i].fault, a.status, a.out, a.err);
        CHECK(a.status != 2 || strstr(a.err, "unchanged-only"), "%s", a.err);
        drop(&a);
        g_free(words);
        g_free(fault);
        g_free(plan_file);
        g_free(plan);
    }
}

#ifndef SANITIZED
/* What explain says of a plan on the demo board; the caller lets go of it. */
static json_t *shares_of(const char *plan)
{
    gchar *words = g_strdup_printf("explain|%s|--board|" HALVORN "|--json|-", plan);
    answer a = call(words);
    json_t *root = json_loads(a.out, 0, NULL);
    json_t *first = json_object_iter_value(json_object_iter(root));

    CHECK(a.status == 0 && first, "%s: %d, %s", plan, a.status, a.err);
    json_incref(first);
    json_decref(root);
    drop(&a);
    g_free(words);
    return first;
}

static json_t *shares_of_chosen(const char *time, const char *more)
{
    const char *file = temporary_path("chosen.yaml");
    gchar *words = g_strdup_printf(
        "explain|--plan-for|%s|--access-us|1%s|--board|" HALVORN "|--write|%s", time, more, file);
    answer a = call(words);
    json_t *shares = shares_of(file);

    CHECK(a.status == 0, "%s: %s", words, a.err);
    remove(file);
    drop(&a);
    g_free(words);
    return shares;
}

/* Of the kinds of faults in which another plan finds less, or more, the names. */
static void compare_shares(json_t *shares, json_t *other, const char *under, GString *less,
                           GString *more)
{
    const char *name;
    json_t *value;

    json_object_foreach(json_object_get(shares, under), name, value)
    {
        json_t *theirs = json_object_get(json_object_get(other, under), name);

        if (json_is_object(value))
            continue;
        if (json_number_value(theirs) < json_number_value(value) - 1e-6)
            g_string_append_printf(less, " %s", name);
        if (json_number_value(theirs) > json_number_value(value) + 1e-6)
            g_string_append_printf(more, " %s", name);
    }
}

/* `full` is what --plan-for chooses. */
static void full_as_chosen(void)
{
    json_t *full = shares_of("full");
    json_t *chosen = shares_of_chosen("3.7s", "|--without|noisy-lines,stopped-refresh,rows");

    CHECK(json_array_size(json_object_get(full, "steps")) > 5 && json_equal(full, chosen),
          "full is what is chosen");
    json_decref(full);
    json_decref(chosen);
}

static void compare_deep(void)
{
    static const char *const groups[] = {"coverage", "neighbours", "successive"};
    json_t *deep = shares_of("deep"), *chosen_deep = shares_of_chosen("18.3s", "");
    GString *less = g_string_new(""), *more = g_string_new("");

    CHECK(json_number_value(json_object_get(deep, "minutes_at_1_mhz")) * 60 < 18.3, "deep's time");
    for (size_t i = 0; i < COUNT(groups); i++)
        compare_shares(deep, chosen_deep, groups[i], less, more);
    CHECK(strcmp(less->str, " one_line") == 0, "chosen finds less of:%s", less->str);
    CHECK(strcmp(more->str, " active two_lines") == 0, "chosen finds more of:%s", more->str);
    CHECK(json_equal(json_object_get(deep, "within_word"),
                     json_object_get(chosen_deep, "within_word")),
          "both find all between two bits of a word");
    g_string_free(less, TRUE);
    g_string_free(more, TRUE);
    json_decref(deep);
    json_decref(chosen_deep);
}

/* `deep` is held against what --plan-for chooses in the same time: ten seconds, with RMG_TEST_ALL.
 */
static void deep_as_chosen(void)
{
    if (getenv("RMG_TEST_ALL"))
        compare_deep();
}
#endif

/* A cell that fails by what is around it, in a chip of one bit: the steps for neighbours name chip,
 * row and column; and what is wrong in a plan or a fault file. */
static void among_neighbours(void)
{
    static const struct {
        const char *step, *fault;
        int status;
        const char *says; /* on either stream */
    } rows[] = {
        {"{neighbours: static}", "kind: pattern holds, level: 1, neighbours: \"0110\"", 1,
         "at 0x9537"},
        {"{neighbours: static}", "kind: pattern holds, level: 0, neighbours: 1--0", 1,
         "look at U21"},
        {"march: MATS++", "kind: pattern holds, level: 1, neighbours: \"0110\"", 0,
         "No fault found"},
        {"{neighbours: passive}", "kind: pattern keeps, level: 1, neighbours: \"1101\"", 1,
         "at 0x9537"},
        {"{neighbours: active}",
         "kind: pattern sets, level: 0, neighbours: 10-1, by: left, change-to: 1", 1, "at 0x9537"},
        {"{neighbours: passive}",
         "kind: pattern sets, level: 0, neighbours: 10-1, by: left, change-to: 1", 0,
         "No fault found"},
        {"{neighbours: all}", "kind: pattern keeps, level: 1, neighbours: 11011", 2,
         "found \"11011\", expected four of 0, 1 and -"},
        {"{neighbours: all}", "kind: pattern keeps, level: 1, neighbours: 1x01", 2,
         "for the cells above, below, left and right"},
        {"{neighbours: all}", "kind: pattern keeps, level: 1", 2, "neighbours"},
        {"{neighbours: all}",
         "kind: pattern sets, level: 0, neighbours: \"1011\", by: left, change-to: 1", 2,
         "expected - for the cell that changes, the one left"},
        {"{neighbours: all}",
         "kind: pattern sets, level: 0, neighbours: 10-1, by: behind, change-to: 1", 2,
         "expected one of above, below, left, right"},
        {"{neighbours: few}", "kind: pattern keeps, level: 1, neighbours: \"1101\"", 2,
         "expected one of static, passive, active, all"},
        {"{neighbours: all, accesses: 3}", "kind: pattern keeps, level: 1, neighbours: \"1101\"", 2,
         "accesses"},
    };

    /* builds that run slowly take every fourth */
    for (size_t i = 0; i < COUNT(rows); i += getenv("RMG_TEST_PLACES") ? 4 : 1) {
        gchar *plan = g_strdup_printf("plan: one\nsteps:\n  - %s\n", rows[i].step);
        gchar *plan_file = g_strdup(temporary_file("one.yaml", plan));
        gchar *fault =
            g_strdup_printf("faults:\n  - {%s, socket: U21, cell: 5431}\n", rows[i].fault);
        gchar *words = g_strdup_printf("test|" HALVORN "|--plan|%s|--passes|2|--on|sim:%s",
                                       plan_file, temporary_file("fault.yaml", fault));
        answer a = call(words);

        CHECK(a.status == rows[i].status &&
                  (strcasestr(a.out, rows[i].says) || strcasestr(a.err, rows[i].says)),
              "%s, %s: %d, %s%s", rows[i].step, rows[i].fault, a.status, a.out, a.err);
        CHECK(a.status != 2 || strstr(a.err, ".yaml:"), "%s", a.err);
        drop(&a);
        g_free(words);
        g_free(fault);
        g_free(plan_file);
        g_free(plan);
    }
}

CU_TestInfo plan_tests[] = {
    {"within a word", within_a_word},
    {"among neighbours", among_neighbours},
#ifndef SANITIZED /* it would take a minute */
    {"the full plan, as chosen", full_as_chosen},
    {"the deep plan, as chosen", deep_as_chosen},
#endif
    CU_TEST_INFO_NULL,
};
