/* Computed coverage: shares that theory gives, numbers of instances, and marches run wrongly. */
#include <math.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/coverage.h"
#include "suites.h"

static double share_of(const uint8_t *code, rmg_fault_class k)
{
    rmg_coverage c;

    CHECK(rmg_march_coverage(code, k, &c) == RMG_OK && c.instances, "%s", rmg_fault_class_name(k));
    return (double)c.found / (double)c.instances;
}

static double typed(const char *text, rmg_fault_class k)
{
    uint8_t code[RMG_MARCH_BYTES];

    CHECK(rmg_march_parse(text, code, sizeof code, NULL) == RMG_OK, "%s", text);
    return share_of(code, k);
}

/* What the literature proves of these tests, or what follows from the definition by hand. */
static void proved_shares(void)
{
    static const struct {
        const char *march;
        rmg_fault_class k;
        double share;
    } rows[] = {
        {"MATS", RMG_CLASS_SAF, 1},
        {"MATS+", RMG_CLASS_SAF, 1},
        {"MATS+", RMG_CLASS_TF, 0.5},
        {"MATS+", RMG_CLASS_AF_A_AND, 1},
        {"MATS+", RMG_CLASS_AF_A_OR, 1},
        {"MATS+", RMG_CLASS_AF_B_AND, 1},
        {"MATS+", RMG_CLASS_AF_B_OR, 1},
        {"MATS+", RMG_CLASS_AF_D_OR, 1},
        {"MATS+", RMG_CLASS_AF_C, 1},
        {"MATS+", RMG_CLASS_AF_D_AND, 1},
        {"MATS++", RMG_CLASS_TF, 1},
        {"MATS++", RMG_CLASS_SOF, 1},
        {"March X", RMG_CLASS_CFIN, 1},
        {"March Y", RMG_CLASS_SOF, 1},
        {"March Y", RMG_CLASS_CFIN, 1},
        {"March A", RMG_CLASS_CFID, 1},
        {"March B", RMG_CLASS_SOF, 1},
        {"March C-", RMG_CLASS_TF, 1},
        {"March C-", RMG_CLASS_CFIN, 1},
        {"March C-", RMG_CLASS_CFID, 1},
        {"March C-", RMG_CLASS_CFST, 1},
        {"March C-", RMG_CLASS_WDF, 0},
        {"March C-", RMG_CLASS_DRDF, 0},
        {"March C-", RMG_CLASS_CFDS, 4.0 / 6.0}, /* 0w0 and 1w1 never happen in it */
        {"March C-", RMG_CLASS_DRF, 0},
        {"March G", RMG_CLASS_DRF, 1},
        {"March U", RMG_CLASS_CFID, 1},
        {"March SS", RMG_CLASS_WDF, 1},
        {"March SS", RMG_CLASS_DRDF, 1},
        {"March SS", RMG_CLASS_CFDS, 1},
        {"March SS", RMG_CLASS_CFWD, 1},
        {"March SS", RMG_CLASS_CFDRD, 1},
        {"March SS", RMG_CLASS_CFTR, 1},
        {"March SS", RMG_CLASS_CFIR, 1},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        const double s = share_of(rmg_march_by_name(rows[i].march), rows[i].k);

        CHECK(fabs(s - rows[i].share) < 1e-9, "%s, %s: %f", rows[i].march,
              rmg_fault_class_name(rows[i].k), s);
    }
}

static void numbers_of_instances(void)
{
    static const uint32_t counts[RMG_CLASS_COUNT] = {
        [RMG_CLASS_SAF] = 16,      [RMG_CLASS_TF] = 16,        [RMG_CLASS_AF_A_AND] = 8,
        [RMG_CLASS_AF_A_OR] = 8,   [RMG_CLASS_AF_A_LAST] = 8,  [RMG_CLASS_AF_B_AND] = 56,
        [RMG_CLASS_AF_B_OR] = 56,  [RMG_CLASS_AF_B_LAST] = 56, [RMG_CLASS_AF_C] = 56,
        [RMG_CLASS_AF_D_AND] = 56, [RMG_CLASS_AF_D_OR] = 56,   [RMG_CLASS_SOF] = 8,
        [RMG_CLASS_CFIN] = 112,    [RMG_CLASS_CFID] = 224,     [RMG_CLASS_CFST] = 224,
        [RMG_CLASS_CFDS] = 672,    [RMG_CLASS_CFTR] = 224,     [RMG_CLASS_CFWD] = 224,
        [RMG_CLASS_CFRD] = 224,    [RMG_CLASS_CFDRD] = 224,    [RMG_CLASS_CFIR] = 224,
        [RMG_CLASS_WDF] = 16,      [RMG_CLASS_RDF] = 16,       [RMG_CLASS_DRDF] = 16,
        [RMG_CLASS_IRF] = 16,      [RMG_CLASS_DRF] = 16,       [RMG_CLASS_LCFIN] = 728,
        [RMG_CLASS_LCFID] = 1456};
    const uint8_t nothing_read[] = {RMG_ORDER_UP | 1u, RMG_OP_W0, 0};
    rmg_coverage c;

    for (int k = 0; k < RMG_CLASS_COUNT; k++) {
        CHECK(rmg_march_coverage(nothing_read, (rmg_fault_class)k, &c) == RMG_OK &&
                  c.instances == counts[k] && !c.found,
              "%s: %u instances, %u found without a read", rmg_fault_class_name((rmg_fault_class)k),
              c.instances, c.found);
        CHECK(*rmg_fault_class_text((rmg_fault_class)k), "described");
    }
    CHECK(rmg_march_coverage(NULL, RMG_CLASS_SAF, &c) == RMG_ERR_ARGUMENT &&
              rmg_march_coverage(nothing_read, RMG_CLASS_COUNT, &c) == RMG_ERR_ARGUMENT,
          "what is refused");
}

/* An engine that runs ⇓ upwards, or that parts (r0,w1) into a pass of reads and one of writes,
 * would lose just this coverage. */
static void errors_show(void)
{
    const char *right = "any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)";
    const char *upwards = "any(w0); up(r0,w1); up(r1,w0); up(r0,w1); up(r1,w0); any(r0)";
    const char *parted = "any(w0); up(r0); up(w1); up(r1); up(w0); down(r0); down(w1); down(r1); "
                         "down(w0); any(r0)";

    CHECK(typed(right, RMG_CLASS_CFID) == 1, "as it is");
    CHECK(typed(upwards, RMG_CLASS_CFID) < 1, "run upwards");
    CHECK(typed(parted, RMG_CLASS_CFID) < 1, "apart");
}

/* Which instances two marches find: together those of either, as the shares say. */
static void each_instance(void)
{
    static const rmg_fault_class classes[] = {RMG_CLASS_TF, RMG_CLASS_CFDS, RMG_CLASS_LCFID};
    const rmg_covered two[] = {{rmg_march_by_name("MATS+"), 0}, {rmg_march_by_name("March C-"), 5}};
    bool each[3][RMG_COVERAGE_INSTANCES];
    rmg_coverage all[3], only;

    for (size_t k = 0; k < COUNT(classes); k++) {
        uint32_t either = 0, counted = 0;

        for (unsigned n = 0; n < 3; n++)
            CHECK(rmg_marches_found(n < 2 ? &two[n] : two, n < 2 ? 1 : 2, classes[k], &all[n],
                                    each[n], RMG_COVERAGE_INSTANCES) == RMG_OK,
                  "found");
        for (uint32_t i = 0; i < all[2].instances; i++) {
            either += each[0][i] || each[1][i];
            counted += each[2][i];
            CHECK((each[0][i] || each[1][i]) == each[2][i], "instance %u", i);
        }
        CHECK(rmg_marches_coverage(two, 2, classes[k], &only) == RMG_OK &&
                  only.found == all[2].found && counted == only.found && either == only.found &&
                  all[2].instances <= RMG_COVERAGE_INSTANCES,
              "%u, %u, %u of %u", either, counted, only.found, all[2].instances);
    }
}

/* By hand: a checkerboard writes and reads each value once. Stuck cells and cells that leak show;
 * of transitions only the ones to the second value of each cell. Of an address that reaches
 * another's cell, those show where the two have different values: 32 of 56 pairs. */
static void checkerboard(void)
{
    static const struct {
        rmg_fault_class k;
        uint32_t found;
    } rows[] = {{RMG_CLASS_SAF, 16}, {RMG_CLASS_DRF, 16}, {RMG_CLASS_TF, 8}, {RMG_CLASS_AF_C, 32}};
    uint8_t code[RMG_MARCH_BYTES];
    const rmg_covered board = {code, 5}, wrong = {code, 8};
    rmg_coverage c;

    CHECK(rmg_march_parse("any(w0); hold; any(r0); any(w1); hold; any(r1)", code, sizeof code,
                          NULL) == RMG_OK,
          "the test");
    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK(rmg_marches_coverage(&board, 1, rows[i].k, &c) == RMG_OK && c.found == rows[i].found,
              "%s: %u of %u", rmg_fault_class_name(rows[i].k), c.found, c.instances);
    each_instance();
    CHECK(rmg_marches_coverage(&wrong, 1, RMG_CLASS_SAF, &c) == RMG_ERR_ARGUMENT, "no such line");
}

CU_TestInfo coverage_tests[] = {
    {"the checkerboard test", checkerboard},
    {"shares that are proved", proved_shares},
    {"numbers of instances", numbers_of_instances},
    {"errors of an engine show", errors_show},
    CU_TEST_INFO_NULL,
};
