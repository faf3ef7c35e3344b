/* Replay of faults of cells: many are played at once, each in a chip of its own, and what was
 * played for one place counts for others. Here each of them is put by itself into a board of its
 * own, the whole plan is run there, and what fails is counted by other code. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/run.h"
#include "suites.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

#define SMALL 64u /* cells up to here may be touched by the wiring check */
#define SEEDS 40u /* of what memory holds at power-on */

static void note(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                 size_t count)
{
    (void)record;
    for (size_t i = 0; i < count; i++)
        for (unsigned bit = 0; bit < 64; bit++)
            for (unsigned level = 0; level < 2; level++)
                if ((level ? parts[i].high : parts[i].low) >> bit & 1u)
                    g_hash_table_add(
                        context, g_strdup_printf("%llx D%u %u %llx", (unsigned long long)address,
                                                 bit, level, (unsigned long long)parts[i].first));
}

/* All (word, bit, level, first step) that failed. */
static GHashTable *failing_of(const rmg_run *run)
{
    GHashTable *all = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);

    rmg_failset_each_record(run->failures, note, all);
    return all;
}

static bool as_often(const rmg_run *a, const rmg_run *b)
{
    bool same = true;

    for (uint8_t bank = 0; bank < a->tally.bank_count; bank++)
        for (uint8_t bit = 0; bit < a->board->word_bits; bit++)
            same &= a->tally.bits[bank][bit].high == b->tally.bits[bank][bit].high &&
                    a->tally.bits[bank][bit].low == b->tally.bits[bank][bit].low;
    return same;
}

/* Does the run of the fault alone, on a whole board, compare as the replay says? */
static bool compares_so(const rmg_run *measured, const rmg_replayed *r, const rmg_run *alone)
{
    GHashTable *a = failing_of(measured), *b = failing_of(alone);
    GHashTableIter i;
    gpointer key;
    uint64_t both = 0, left, unseen;

    g_hash_table_iter_init(&i, a);
    while (g_hash_table_iter_next(&i, &key, NULL))
        both += g_hash_table_contains(b, key) != 0;
    left = g_hash_table_size(a) - both;
    unseen = g_hash_table_size(b) - both;
    g_hash_table_destroy(a);
    g_hash_table_destroy(b);
    return both == r->explained && left == r->left && unseen == r->unseen &&
           as_often(measured, alone) == r->as_often && r->same == (!left && !unseen && r->as_often);
}

/* Tries what memory can come up with. */
static void check_replay(const rmg_board *board, const rmg_plan *plan, const rmg_run *measured,
                         const rmg_replayed *r, const char *what)
{
    bool so = false;

    for (uint64_t seed = 77; seed < 77 + SEEDS && !so; seed++) {
        rmg_suspects found;
        rmg_run alone;

        bench_examine(board, r->faults, r->fault_count, plan, seed, &alone, &found);
        so = compares_so(measured, r, &alone);
        rmg_suspects_free(&found);
        rmg_run_end(&alone);
    }
    CHECK(so, "%s, %s: kind %d of cells %llu and %llu: %llu, %llu left, %llu unseen, as often %d",
          board->name, what, (int)r->faults[0].kind, (unsigned long long)r->faults[0].cell,
          (unsigned long long)r->faults[0].cell2, (unsigned long long)r->explained,
          (unsigned long long)r->left, (unsigned long long)r->unseen, r->as_often);
}

/* All replays of one fault of the board. Returns how many were checked. */
static size_t check_fault(const rmg_board *board, const rmg_sim_fault *fault, uint64_t seed)
{
    rmg_plan plan = bench_plan(false, 2); /* the second pass has another background in each bit */
    gchar *what = g_strdup_printf("kind %d of U%u, cell %llu", (int)fault->kind, fault->chip,
                                  (unsigned long long)fault->cell);
    size_t checked = 0;
    bool itself = false;
    rmg_suspects s;
    rmg_run run;

    plan.seed = seed;
    bench_examine(board, fault, 1, &plan, 77, &run, &s);
    rmg_replay(&run, &s, 0, NULL, NULL);
    for (size_t n = 0; s.count == 1 && n < s.list[0].replay_count; n++) {
        const rmg_replayed *r = &s.list[0].replays[n];

        if (r->fault_count != 1 || !rmg_fault_is(r->faults[0].kind, RMG_TRAIT_CELLS) ||
            r->floats != RMG_FLOATS_AS_FILE)
            continue;
        itself |= r->same && r->faults[0].kind == fault->kind;
        CHECK(!r->same || r->whole, "%s: what gives the same is sure on the whole board", what);
        checked++;
        /* what the wiring check leaves in words that it touches is not tried where all differ */
        if (r->same || fault->cell > SMALL)
            check_replay(board, &plan, &run, r, what);
    }
    CHECK(!checked || itself, "%s, %s: its own kind gives the same", board->name, what);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    g_free(what);
    return checked;
}

/* Cells at the start of a chip, which the wiring check touches too, and cells anywhere. */
static void alone_as_beside(void)
{
    static const rmg_fault_kind kinds[] = {RMG_FAULT_CELL,           RMG_FAULT_TRANSITION,
                                           RMG_FAULT_READ_FLIPS,     RMG_FAULT_COUPLING_HOLDS,
                                           RMG_FAULT_COUPLING_SETS,  RMG_FAULT_COUPLING_INVERTS,
                                           RMG_FAULT_COUPLING_FLIPS, RMG_FAULT_ADDRESS_CELLS};
    static const char *const files[] = {HALVORN, OSTREL, NULL};
    uint64_t dice = 5;

    for (size_t b = 0; b < COUNT(files); b++) {
        rmg_errors errors = {0};
        rmg_board *board = files[b] ? bench_load(files[b]) : NULL;
        size_t checked = 0;

        if (!board)
            CHECK(rmg_board_load_text("made", made_wide, &board, &errors) == RMG_OK, "a board: %s",
                  errors.count ? errors.list[0].what : "");
        for (size_t k = 0; k < 2u * COUNT(kinds); k++) {
            const rmg_rule *rule =
                &board->placement.rules[bench_dice(&dice, board->placement.rule_count)];
            const rmg_addr depth = (rmg_addr)1 << rule->address_lines;
            rmg_sim_fault f = {.kind = kinds[k % COUNT(kinds)],
                               .chip = rule->socket,
                               .data_line = (uint8_t)bench_dice(&dice, rule->width),
                               .cell = k % 3u ? bench_dice(&dice, depth) : k,
                               .cell2 = bench_dice(&dice, depth),
                               .level = (k + k / COUNT(kinds)) & 1u,
                               .state = k >> 1 & 1u,
                               .operation = RMG_OPERATION_1R1,
                               .reaches = RMG_REACHES_OTHER};

            f.data_line2 = f.data_line;
            checked += check_fault(board, &f, 11 + k);
        }
        CHECK(checked > 40, "%s: %zu replays were checked", board->name, checked);
        rmg_board_free(board);
    }
}

CU_TestInfo beside_tests[] = {{"alone as beside others", alone_as_beside}, CU_TEST_INFO_NULL};
