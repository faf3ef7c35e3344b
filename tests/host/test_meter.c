/* What meter and probe say of traced lines: what is left to be broken, and where to measure next.
 */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/report.h"
#include "suites.h"

#define HALVORN "demo/boards/halvorn64.yaml"

/* Takes "open A-B", "whole A-B", "seen A=still" ..., separated by commas. */
static void tell(rmg_facts *facts, const rmg_board *board, const char *told)
{
    gchar **items = g_strsplit(told, ", ", -1);

    rmg_facts_begin(facts);
    for (size_t i = 0; items[i]; i++) {
        const char *what = strchr(items[i], ' ') + 1;
        rmg_error error = {0};
        const rmg_status status = g_str_has_prefix(items[i], "open")
                                      ? rmg_facts_not_continuous(facts, board, what, &error)
                                  : g_str_has_prefix(items[i], "whole")
                                      ? rmg_facts_continuous(facts, board, what, &error)
                                      : rmg_facts_activity(facts, board, what, &error);

        CHECK(status == RMG_OK, "%s: %s", items[i], error.what ? error.what : "");
        rmg_error_free(&error);
    }
    g_strfreev(items);
}

/* What is left, each rival's name, separated by semicolons. */
static gchar *left_of(const rmg_suspect *s)
{
    GString *text = g_string_new(NULL);

    for (size_t i = 0; i < s->rival_count; i++)
        g_string_append_printf(text, "%s%s", i ? "; " : "", s->rivals[i].name);
    return g_string_free(text, FALSE);
}

static void told_alone(void)
{
    static const struct {
        const char *told;
        size_t suspects;
        const char *site, *next;
        const char *left[4], *not_left;
        size_t rivals;
    } rows[] = {
        {"open U1.35-U22.10",
         1,
         "line A5 between U1.35 and U22.10",
         "measure from U1.35 to R16",
         {"U34.5>U34.7, the part", "R16, the part", "between U19.10 and U20.10",
          "U21.10 and U22.10"},
         "U11.10",
         8},
        {"open U1.35-U22.10, whole U1.35-R16",
         1,
         "line A5 between U1.35 and U22.10",
         "measure from U1.35 to U19.10",
         {"R16, the part", "between R16 and U19.10", "between U21.10 and U22.10", "U19.10"},
         "U34.7",
         5},
        {"open U1.35-U22.10, open U19.10-U26.10",
         1,
         "line A5 between U1.35 and U22.10",
         "measure from U1.35 to U2",
         {"between U19.10 and U20.10", "between U20.10 and U21.10", "between U21.10 and U22.10",
          "U22.10"},
         "R16",
         3},
        {"seen U1.12=pulsing, seen U5.15=still",
         1,
         "line D3 between U1.12 and U5.15",
         "magnifier",
         {"between U1.12 and U5.15", "joint", "track", "U5.15"},
         "U15",
         1},
        {"seen U15.14=low, seen U23.14=pulsing",
         1,
         "line D3 between U23.14 and U15.14",
         "put a probe on",
         {"U7.5>U7.15, the part", "U8.5>U8.15, the part", "between U1.12 and U7.5",
          "between U8.15 and U23.14"},
         "U5.15",
         6},
        /* pin 10 carries A5 and A12: what both pass behind the multiplexer, told once */
        {"seen U19.10=still",
         1,
         "line A5 at U34.7",
         "put a probe on U34.7, where the line is driven",
         {"R16, the part", "what drives the line, at U34.7", "a short", "between R16 and U19.10"},
         "U1.35",
         5},
        /* still on another branch than the break: the break alone is told, and no driver */
        {"open U22.10-U1.35, seen U11.10=low",
         1,
         "line A5 between U22.10 and U1.35",
         "measure from U22.10",
         {"R16, the part", "U34.5>U34.7, the part"},
         "what drives",
         8},
        {"seen U1.12=pulsing", 0, "", "", {NULL}, NULL, 0},
        {"whole U1.35-U34.7", 0, "", "", {NULL}, NULL, 0},
        {"open U19.10-U20.10, whole U19.10-U20.10",
         1,
         "line A5",
         "measure it once more",
         {"nothing fits"},
         "track",
         1},
    };
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(false, 1);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_suspects s;
        rmg_facts facts;
        rmg_error error = {0};
        rmg_run run;

        tell(&facts, board, rows[i].told);
        CHECK(rmg_run_begin(&run, board, &plan, "none", &error) == RMG_OK, "begins");
        rmg_suspects_told(&facts, &run, &s);
        rmg_suspects_word(&run, &s);
        CHECK(s.count == rows[i].suspects, "%s: %zu", rows[i].told, s.count);
        for (size_t n = 0; n < s.count && !n; n++) {
            gchar *left = left_of(&s.list[0]);
            double sum = 0;

            CHECK(strcmp(s.list[0].site, rows[i].site) == 0, "%s: %s", rows[i].told,
                  s.list[0].site);
            CHECK(strstr(s.list[0].settle, rows[i].next), "%s: %s", rows[i].told, s.list[0].settle);
            CHECK(s.list[0].rival_count == rows[i].rivals, "%s: %zu: %s", rows[i].told,
                  s.list[0].rival_count, left);
            for (size_t k = 0; k < COUNT(rows[i].left) && rows[i].left[k]; k++)
                CHECK(strstr(left, rows[i].left[k]), "%s: %s not in %s", rows[i].told,
                      rows[i].left[k], left);
            CHECK(!strstr(left, rows[i].not_left), "%s: %s in %s", rows[i].told, rows[i].not_left,
                  left);
            for (size_t k = 0; k < s.list[0].rival_count; k++)
                sum += s.list[0].rivals[k].share;
            CHECK(sum > 0.999 && sum < 1.001, "%s: %g", rows[i].told, sum);
            g_free(left);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_facts_end(&facts);
    }
    rmg_board_free(board);
}

/* Beside a run: what is open is no chip, and a line that the run knows nothing of is added. */
static void beside_a_run(void)
{
    static const struct {
        const char *told, *first, *last;
        size_t suspects;
        bool drags;
    } rows[] = {
        {"open U21.10-U22.10", "line A5 between U21.10 and U22.10", NULL, 1, false},
        {"open U1.12-U5.15", "line A5 between U21.10 and U22.10", "line D3 between U1.12 and U5.15",
         2, false},
    };
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(false, 2);
    rmg_sim_fault fault = {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 5};

    for (char name[] = "U22"; name[2] <= '6'; name[2]++)
        rmg_fault_include(&fault, rmg_board_socket(board, name));
    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_facts facts;
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &fault, 1, &plan, 9, &run, &s);
        rmg_suspects_free(&s);
        tell(&facts, board, rows[i].told);
        rmg_suspects_find(&run, &facts, &s);
        rmg_suspects_word(&run, &s);
        CHECK(s.count == rows[i].suspects, "%s: %zu", rows[i].told, s.count);
        CHECK(strcmp(s.list[0].site, rows[i].first) == 0, "%s: %s", rows[i].told, s.list[0].site);
        CHECK(!rows[i].last || strcmp(s.list[s.count - 1].site, rows[i].last) == 0, "%s: %s",
              rows[i].told, s.list[s.count - 1].site);
        CHECK(s.list[0].confidence > 0.84 && s.list[0].confidence <= 0.99, "%g",
              s.list[0].confidence);
        rmg_suspects_free(&s);
        rmg_facts_end(&facts);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* What cannot be understood is refused, with what was expected. */
static void refused(void)
{
    static const struct {
        const char *open, *seen, *says;
    } rows[] = {
        {"U1.35", NULL, "expected two different points of a line, such as U1.30-R1"},
        {"U1.35-U99.1", NULL, "has both U1.35 and U99.1"},
        {"U1.12-U1.35", NULL, "no traced line of"},
        {"U1.35-U1.35", NULL, "two different points"},
        {NULL, "U5.15", "still, pulsing, high or low"},
        {NULL, "U5.15=", "still, pulsing, high or low"},
        {NULL, "U5.15=Still", "still, pulsing, high or low"},
        {NULL, "U99.1=still", "has U99.1"},
        {NULL, "=high", "no traced line of"},
    };
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_error error = {0};
        rmg_facts facts;

        rmg_facts_begin(&facts);
        CHECK((rows[i].open
                   ? rmg_facts_not_continuous(&facts, board, rows[i].open, &error)
                   : rmg_facts_activity(&facts, board, rows[i].seen, &error)) == RMG_ERR_RANGE &&
                  strstr(error.what, rows[i].says) && !facts.open_count && !facts.seen_count,
              "%zu: %s", i, error.what ? error.what : "");
        rmg_error_free(&error);
        rmg_facts_end(&facts);
    }
    rmg_board_free(board);
}

CU_TestInfo meter_tests[] = {
    {"measured alone", told_alone},
    {"beside a run", beside_a_run},
    {"refused", refused},
    CU_TEST_INFO_NULL,
};
