/* The search for the shortest march: what it finds is held against the shares of all marches, which
 * come from another model, and against what the literature has. */
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/search.h"
#include "rimeglass/text.h"
#include "suites.h"

/* The classes named, searched for. */
static rmg_status find(const char *classes, unsigned most, unsigned width, rmg_shortest *found)
{
    rmg_shortest_job job = {.most = most, .width = width, .seed = 1};
    char *word;

    CHECK(rmg_fault_classes_parse(classes, job.classes, &word) && !word, "%s", classes);
    return rmg_march_shortest(&job, found);
}

static bool finds_all(const uint8_t *code, const char *classes)
{
    bool set[RMG_CLASS_COUNT] = {false}, all = true;
    char *word;

    rmg_fault_classes_parse(classes, set, &word);
    for (int kind = 0; kind < RMG_CLASS_COUNT; kind++) {
        rmg_coverage share;

        if (set[kind])
            all &= rmg_march_coverage(code, (rmg_fault_class)kind, &share) == RMG_OK &&
                   share.instances && share.found == share.instances;
    }
    return all;
}

static void known_lengths(void)
{
    static const struct {
        const char *classes;
        unsigned width, operations, exact;
    } rows[] = {
        {"SAF", 0, 4, 3},
        {"SAF,AF", 0, 5, 4},         /* MATS+ */
        {"SAF,TF,AF", 0, 6, 5},      /* MATS++ */
        {"SAF,TF,AF,CFin", 0, 6, 5}, /* March X */
        {"WDF,RDF,DRDF,IRF", 30, 9, 2},
        {"SAF,TF,AF,CFin,CFid,CFst", 20, 10, 2}, /* March C- */
        {"SOF", 0, 4, 3},
        {"AF_A_last,AF_B_last", 0, 4, 3},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_shortest found;
        char *notation;

        if (rows[i].operations >= 10 && getenv("RMG_TEST_PLACES"))
            continue; /* it takes long under the sanitizers */

        CHECK(find(rows[i].classes, 0, rows[i].width, &found) == RMG_OK, "searched");
        notation = rmg_march_notation(found.code);
        CHECK(found.operations == rows[i].operations && found.exact >= rows[i].exact &&
                  found.operations == rmg_march_operations(found.code),
              "%s: %u, exact to %u: %s", rows[i].classes, found.operations, found.exact, notation);
        CHECK(finds_all(found.code, rows[i].classes), "%s: proved", rows[i].classes);
        rmg_text_free(notation);
    }
}

/* Every march of the literature is at least as long as what is found for all that it finds. */
static void never_longer(void)
{
    static const char *const names[] = {"MATS", "MATS++", "March Y"};

    for (size_t i = 0; i < (getenv("RMG_TEST_PLACES") ? 1 : COUNT(names)); i++) {
        const uint8_t *code = rmg_march_by_name(names[i]);
        rmg_shortest_job job = {.width = 12};
        rmg_shortest found;

        for (int kind = 0; kind < RMG_CLASS_COUNT; kind++) {
            rmg_coverage share;

            rmg_march_coverage(code, (rmg_fault_class)kind, &share);
            job.classes[kind] = share.found == share.instances;
        }
        CHECK(rmg_march_shortest(&job, &found) == RMG_OK && found.operations &&
                  found.operations <= rmg_march_operations(code),
              "%s: %u", names[i], found.operations);
        for (int kind = 0; kind < RMG_CLASS_COUNT; kind++) {
            rmg_coverage share;

            rmg_march_coverage(found.code, (rmg_fault_class)kind, &share);
            CHECK(!job.classes[kind] || share.found == share.instances, "%s: %s", names[i],
                  rmg_fault_class_name((rmg_fault_class)kind));
        }
    }
}

static void holds(void)
{
    rmg_shortest found;
    char *notation;

    CHECK(find("DRF", 0, 0, &found) == RMG_OK, "searched");
    notation = rmg_march_notation(found.code);
    CHECK(found.operations == 6 && rmg_march_operations(found.code) == 4 &&
              strstr(notation, "hold"),
          "%s", notation);
    CHECK(finds_all(found.code, "DRF"), "proved");
    rmg_text_free(notation);
}

typedef struct stop {
    unsigned calls, most;
} stop;

static bool go_on(void *context, unsigned length, double share, unsigned best)
{
    stop *s = context;

    CHECK(length >= 1 && share >= 0 && share < 1 && best <= RMG_SHORTEST_MOST, "in order");
    return ++s->calls < s->most;
}

static void bounds(void)
{
    rmg_shortest_job job = {.width = 20};
    rmg_shortest found, again;
    stop s = {0, 30};
    char *word;

    CHECK(rmg_march_shortest(&job, &found) == RMG_ERR_ARGUMENT, "no class");
    job.classes[RMG_CLASS_CFST] = true;
    job.most = RMG_SHORTEST_MOST + 1;
    CHECK(rmg_march_shortest(&job, &found) == RMG_ERR_ARGUMENT, "too long");
    job.most = 5;
    CHECK(rmg_march_shortest(&job, &found) == RMG_OK && !found.operations && !found.code[0],
          "there is none so short");
    job.most = 0;
    CHECK(rmg_march_shortest(&job, &found) == RMG_OK && found.operations, "there is one");
    CHECK(rmg_march_shortest(&job, &again) == RMG_OK && memcmp(&found, &again, sizeof found) == 0,
          "the same again");
    job.go_on = go_on;
    job.context = &s;
    CHECK(rmg_march_shortest(&job, &found) == RMG_ERR_CANCELLED && s.calls == 30, "stopped");
    CHECK(!rmg_fault_classes_parse("SAF,TFX", job.classes, &word) && strcmp(word, "TFX") == 0,
          "no such class");
    rmg_text_free(word);
    CHECK(!rmg_fault_classes_parse("", job.classes, &word), "none at all");
    rmg_text_free(word);
    memset(job.classes, 0, sizeof job.classes);
    CHECK(rmg_fault_classes_parse(" static , saf,aF", job.classes, &word) &&
              job.classes[RMG_CLASS_CFIR] && job.classes[RMG_CLASS_AF_C] &&
              !job.classes[RMG_CLASS_AF_A_LAST] && !job.classes[RMG_CLASS_DRF] &&
              !job.classes[RMG_CLASS_CFIN] && !job.classes[RMG_CLASS_SOF],
          "several at once");
}

/* Notation and back. */
static void notation(void)
{
    for (uint8_t i = 0; i < rmg_march_name_count; i++) {
        char *text = rmg_march_notation(rmg_march_names[i].code);
        uint8_t code[RMG_MARCH_BYTES];
        size_t size = 0;

        while (rmg_march_names[i].code[size])
            size += (rmg_march_names[i].code[size] & ~RMG_ORDER_MASK) + 1u;
        CHECK(rmg_march_parse(text, code, sizeof code, NULL) == RMG_OK &&
                  memcmp(code, rmg_march_names[i].code, size + 1) == 0,
              "%s: %s", rmg_march_names[i].name, text);
        rmg_text_free(text);
    }
}

CU_TestInfo search_tests[] = {
    {"known lengths", known_lengths},
    {"never longer", never_longer},
    {"holds", holds},
    {"bounds", bounds},
    {"notation", notation},
    CU_TEST_INFO_NULL,
};
