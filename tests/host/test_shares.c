/* What the simulator's faults give a march to find is what the small cell model computes: every
 * instance of every class, put into a chip of eight cells on a simulated board. The two models
 * share no code. */
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/coverage.h"
#include "rimeglass/sim.h"
#include "suites.h"

#define CELLS 8u

static const uint8_t bit0[] = {0};
static const uint8_t feeds[] = {0, 1, 2};
static const rmg_rule rule = {{0, 7, 0, 0}, bit0, NULL, NULL, feeds, NULL, 0, 0, 1, 3};
static const rmg_placement placement = {&rule, 1};
static const rmg_sim_chip chip = {.width = 1, .address_lines = 3};
static const rmg_sim_board board = {
    .placement = &placement, .chips = &chip, .chip_count = 1, .word_bits = 1, .access_ns = 1};

/* A class as the simulator injects it. */
typedef struct injected {
    rmg_fault_class fault_class;
    rmg_fault_kind kind;
    bool pair;   /* with an aggressor, or a second address */
    uint8_t xs;  /* values of the victim's level */
    uint8_t ss;  /* of the aggressor's state, or of its operation */
    uint8_t how; /* of address faults: what is reached */
    uint8_t reads;
} injected;

static const injected classes[] = {
    {RMG_CLASS_SAF, RMG_FAULT_CELL, false, 2, 1, 0, 0},
    {RMG_CLASS_TF, RMG_FAULT_TRANSITION, false, 2, 1, 0, 0},
    {RMG_CLASS_AF_A_AND, RMG_FAULT_ADDRESS_CELLS, false, 1, 1, RMG_REACHES_NONE, RMG_READS_AND},
    {RMG_CLASS_AF_A_OR, RMG_FAULT_ADDRESS_CELLS, false, 1, 1, RMG_REACHES_NONE, RMG_READS_OR},
    {RMG_CLASS_AF_A_LAST, RMG_FAULT_ADDRESS_CELLS, false, 1, 1, RMG_REACHES_NONE, RMG_READS_LAST},
    {RMG_CLASS_AF_B_AND, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_NONE_TWO, RMG_READS_AND},
    {RMG_CLASS_AF_B_OR, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_NONE_TWO, RMG_READS_OR},
    {RMG_CLASS_AF_B_LAST, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_NONE_TWO,
     RMG_READS_LAST},
    {RMG_CLASS_AF_C, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_OTHER, RMG_READS_AND},
    {RMG_CLASS_AF_D_AND, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_BOTH, RMG_READS_AND},
    {RMG_CLASS_AF_D_OR, RMG_FAULT_ADDRESS_CELLS, true, 1, 1, RMG_REACHES_BOTH, RMG_READS_OR},
    {RMG_CLASS_SOF, RMG_FAULT_ADDRESS_CELLS, false, 1, 1, RMG_REACHES_NONE, RMG_READS_LAST},
    {RMG_CLASS_CFIN, RMG_FAULT_COUPLING_INVERTS, true, 1, 2, 0, 0},
    {RMG_CLASS_CFID, RMG_FAULT_COUPLING_SETS, true, 2, 2, 0, 0},
    {RMG_CLASS_CFST, RMG_FAULT_COUPLING_HOLDS, true, 2, 2, 0, 0},
    {RMG_CLASS_CFDS, RMG_FAULT_COUPLING_FLIPS, true, 2, 6, 0, 0},
    {RMG_CLASS_CFTR, RMG_FAULT_TRANSITION, true, 2, 2, 0, 0},
    {RMG_CLASS_CFWD, RMG_FAULT_WRITE_FLIPS, true, 2, 2, 0, 0},
    {RMG_CLASS_CFRD, RMG_FAULT_READ_FLIPS, true, 2, 2, 0, 0},
    {RMG_CLASS_CFDRD, RMG_FAULT_READ_FLIPS_AFTER, true, 2, 2, 0, 0},
    {RMG_CLASS_CFIR, RMG_FAULT_READ_WRONG, true, 2, 2, 0, 0},
    {RMG_CLASS_WDF, RMG_FAULT_WRITE_FLIPS, false, 2, 1, 0, 0},
    {RMG_CLASS_RDF, RMG_FAULT_READ_FLIPS, false, 2, 1, 0, 0},
    {RMG_CLASS_DRDF, RMG_FAULT_READ_FLIPS_AFTER, false, 2, 1, 0, 0},
    {RMG_CLASS_IRF, RMG_FAULT_READ_WRONG, false, 2, 1, 0, 0},
    {RMG_CLASS_DRF, RMG_FAULT_RETENTION, false, 2, 1, 0, 0},
};

/* Does the march fail on a board with this fault, from these contents? */
static bool fails(const uint8_t *code, const rmg_sim_fault *faults, uint16_t fault_count,
                  uint8_t contents)
{
    static const rmg_range all = {0, CELLS - 1u};
    static uint64_t memory[64];
    const rmg_march_job job = {.code = code, .ranges = &all, .range_count = 1, .hold_us = 100};
    rmg_sim sim;
    rmg_target target = {&rmg_sim_bus, &sim, 1};
    rmg_tally tally;

    CHECK(rmg_sim_bytes(&board, fault_count) <= sizeof memory, "room");
    CHECK(rmg_sim_start(&sim, &board, faults, fault_count, 1, memory) == RMG_OK, "starts");
    for (rmg_addr i = 0; i < 2 * CELLS; i++) /* twice: the first time aggressors may still act */
        rmg_sim_put(&sim, 0, i % CELLS, (uint32_t)(contents >> i % CELLS) & 1u);
    sim.memories[0].latch = (uint32_t)contents & 1u;
    rmg_tally_clear(&tally, NULL, 0);
    return rmg_march_run(&target, &job, &tally) == RMG_OK && tally.failing;
}

static bool always_fails(const uint8_t *code, const rmg_sim_fault *faults, uint16_t fault_count)
{
    static const uint8_t contents[] = {0x00, 0xFF, 0x55, 0xAA, 0x33, 0x1E};
    uint8_t copy[RMG_MARCH_BYTES];
    uint8_t *either[8];
    unsigned count = 0;
    size_t size = 0;

    for (; code[size]; size += (code[size] & 0x3Fu) + 1u) {
        memcpy(copy + size, code + size, (code[size] & 0x3Fu) + 1u);
        if ((code[size] & 0xC0u) == RMG_ORDER_EITHER && (code[size] & 0x3Fu))
            either[count++] = copy + size;
    }
    copy[size] = 0;
    for (unsigned way = 0; way < 1u << count; way++) {
        for (unsigned i = 0; i < count; i++)
            *either[i] = (uint8_t)((*either[i] & 0x3Fu) | (way >> i & 1u ? 0x80u : 0x40u));
        for (size_t c = 0; c < COUNT(contents); c++)
            if (!fails(copy, faults, fault_count, contents[c]))
                return false;
    }
    return true;
}

/* All instances of the class: how many, and how many the march finds. */
static rmg_coverage inject(const uint8_t *code, const injected *c)
{
    rmg_coverage sum = {0, 0};

    for (unsigned n = 0; n < CELLS * CELLS * c->xs * c->ss; n++) {
        const unsigned v = n % CELLS, a = n / CELLS % CELLS;
        const unsigned x = n / CELLS / CELLS % c->xs, s = n / CELLS / CELLS / c->xs;
        rmg_sim_fault f = {.kind = c->kind,
                           .cell = v,
                           .cell2 = a,
                           .level = (uint8_t)x,
                           .state = (uint8_t)(s & 1u),
                           .operation = (rmg_sim_operation)s,
                           .coupled = c->pair && c->kind <= RMG_FAULT_READ_WRONG &&
                                      c->kind >= RMG_FAULT_TRANSITION,
                           .reaches = (rmg_sim_reaches)c->how,
                           .reads = (rmg_sim_reads)c->reads,
                           .after_us = 50};

        if (c->kind == RMG_FAULT_RETENTION)
            f.level = !x;
        if (c->pair ? a == v : a != 0)
            continue;
        sum.instances++;
        sum.found += always_fails(code, &f, 1);
    }
    return sum;
}

/* Two couplings on one cell, put in one after the other. */
static rmg_coverage inject_linked(const uint8_t *code, rmg_fault_class kind)
{
    const bool sets = kind == RMG_CLASS_LCFID;
    rmg_coverage sum = {0, 0};

    for (unsigned v = 0; v < CELLS; v++)
        for (unsigned n = 0; n < 4 * CELLS * CELLS; n++) {
            const unsigned a = n % CELLS, b = n / CELLS % CELLS;
            const unsigned s = n / CELLS / CELLS % 2, t = n / CELLS / CELLS / 2;
            rmg_sim_fault f[2] = {{.kind = RMG_FAULT_COUPLING_INVERTS, .cell = v}};

            if (a == v || b == v || (a == b && s == t) ||
                (!sets && (a > b || (a == b && s > t)))) /* the same two, the other way round */
                continue;
            if (sets)
                f[0].kind = RMG_FAULT_COUPLING_SETS;
            f[1] = f[0];
            f[0].cell2 = a;
            f[0].state = (uint8_t)s;
            f[0].level = 1;
            f[1].cell2 = b;
            f[1].state = (uint8_t)t;
            sum.instances++;
            sum.found += always_fails(code, f, 2);
        }
    return sum;
}

static void linked_agree(void)
{
    static const char *const names[] = {"MATS++", "March C-", "March LR", "March SS"};

    for (size_t i = 0; i < COUNT(names); i += ONE_IN)
        for (int kind = RMG_CLASS_LCFIN; kind <= RMG_CLASS_LCFID; kind++) {
            const uint8_t *code = rmg_march_by_name(names[i]);
            const rmg_coverage here = inject_linked(code, (rmg_fault_class)kind);
            rmg_coverage there;

            CHECK(rmg_march_coverage(code, (rmg_fault_class)kind, &there) == RMG_OK &&
                      here.instances == there.instances && here.found == there.found,
                  "%s, %s: on the board %u of %u, in the cell model %u of %u", names[i],
                  rmg_fault_class_name((rmg_fault_class)kind), here.found, here.instances,
                  there.found, there.instances);
        }
}

static void shares_agree(void)
{
    static const char *const quick[] = {"MATS+", "March C-", "March U", "March G"};
    const bool all = getenv("RMG_TEST_ALL") != NULL;

    for (unsigned i = 0; i < (all ? rmg_march_name_count : COUNT(quick)); i += ONE_IN) {
        const char *name = all ? rmg_march_names[i].name : quick[i];
        const uint8_t *code = rmg_march_by_name(name);

        for (size_t k = 0; k < COUNT(classes); k++) {
            const rmg_coverage here = inject(code, &classes[k]);
            rmg_coverage there;

            CHECK(rmg_march_coverage(code, classes[k].fault_class, &there) == RMG_OK &&
                      here.instances == there.instances && here.found == there.found,
                  "%s, %s: on the board %u of %u, in the cell model %u of %u", name,
                  rmg_fault_class_name(classes[k].fault_class), here.found, here.instances,
                  there.found, there.instances);
        }
    }
}

CU_TestInfo shares_tests[] = {
    {"two couplings on one cell", linked_agree},
    {"every instance in the simulator, the shares of explain", shares_agree},
    CU_TEST_INFO_NULL,
};
