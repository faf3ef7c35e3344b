/* A port that fails at its N-th access, once or from then on, N upwards until all goes well: under
 * runs that keep contents, spot checks, readings and verifications. The very status comes back,
 * what was found stays, and what memory held is put back, or listed word by word. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/probe.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/verify.h"
#include "suites.h"

#define WORDS 0x1000u

/* Memory in an array behind a port that fails as it is told. */
typedef struct failing {
    rmg_word words[WORDS];
    unsigned long accesses, fail_at;
    bool on;            /* from then on */
    bool refresh_fails; /* refresh can be stopped, but not begun again */
    rmg_status with;
} failing;

static bool fails(failing *f)
{
    f->accesses++;
    return f->fail_at && (f->on ? f->accesses >= f->fail_at : f->accesses == f->fail_at);
}

static rmg_status failing_read(void *context, rmg_addr address, rmg_word *value)
{
    failing *f = context;

    *value = f->words[address % WORDS];
    return fails(f) ? f->with : RMG_OK;
}

static rmg_status failing_write(void *context, rmg_addr address, rmg_word value)
{
    failing *f = context;

    if (fails(f))
        return f->with;
    f->words[address % WORDS] = value;
    return RMG_OK;
}

static rmg_status failing_set(void *context, rmg_condition which, int32_t value)
{
    const failing *f = context;

    return which == RMG_CONDITION_REFRESH && value && f->refresh_fails ? RMG_ERR_PORT : RMG_OK;
}

static rmg_status failing_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us;
    return RMG_OK;
}

static const rmg_bus failing_bus = {.version = RMG_BUS_VERSION,
                                    .read = failing_read,
                                    .write = failing_write,
                                    .wait = failing_wait,
                                    .set_condition = failing_set};

static const char board_text[] =
    "board: small\nword: 8\naddresses: words\naddress-lines: 12\nundriven: high\n"
    "regions:\n"
    "  - {name: ram, kind: ram, range: 0x010-0x04F}\n"
    "  - {name: free, kind: empty, range: 0x600-0x6FF}\n"
    "  - {name: rom, kind: rom, range: 0x800-0x81F}\n"
    "banks:\n"
    "  - {name: low, range: 0x000-0x3FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: D4-D7}}\n"
    "  - {name: rom, range: 0x800-0xFFF, part: 2716, lines: A0-A10, data: {U3: D0-D7}}\n"
    "sockets: [{names: U1-U3, mount: socket}]\n";

static rmg_board *small_board(void)
{
    rmg_errors errors = {0};
    rmg_board *board = NULL;

    CHECK(rmg_board_load_text("small", board_text, &board, &errors) == RMG_OK, "%s",
          errors.count ? errors.list[0].what : "");
    return board;
}

static void fill(failing *f, unsigned long fail_at, unsigned mode)
{
    memset(f, 0, sizeof *f);
    for (size_t i = 0; i < WORDS; i++)
        f->words[i] = (i * 37u + 11u) & 0xFFu;
    f->fail_at = fail_at;
    f->on = mode & 1u;
    f->with = mode & 2u ? RMG_ERR_PORT_LOST : RMG_ERR_PORT;
}

/* Every word holds what it held, or stands in the list with that. */
static bool all_back(const failing *f, const rmg_saved_word *left, size_t count)
{
    for (size_t a = 0; a < WORDS; a++) {
        const rmg_word before = (a * 37u + 11u) & 0xFFu;
        bool listed = false;

        for (size_t i = 0; i < count; i++)
            listed |= left[i].address == a && left[i].value == before;
        if (f->words[a] != before && !listed)
            return false;
    }
    return true;
}

static void kept_runs(void)
{
    static const char steps_text[] = "plan: own\nsteps:\n  - wiring\n  - march: MATS+\n";
    rmg_board *board = small_board();
    rmg_errors errors = {0};
    rmg_plan plan = {.passes = 1, .seed = 1, .keep = true};
    static failing f;
    const rmg_target target = {&failing_bus, &f, 0xFF};
    rmg_steps steps;
    unsigned long listed = 0;

    CHECK(rmg_steps_parse("own", steps_text, &steps, &errors) == RMG_OK, "plan");
    plan.steps = &steps;
    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned long n = 1;; n++) {
            rmg_run run;
            rmg_error error = {0};
            rmg_status status;

            fill(&f, n, mode);
            CHECK(rmg_run_begin(&run, board, &plan, "failing", &error) == RMG_OK, "begins");
            status = rmg_run_carry_out(&run, &target, NULL);
            CHECK(status == RMG_OK || status == f.with, "mode %u, access %lu: %s", mode, n,
                  rmg_status_text(status));
            CHECK(run.complete == (status == RMG_OK), "mode %u, access %lu: complete", mode, n);
            CHECK(!rmg_run_failed(&run), "mode %u, access %lu: nothing is accused", mode, n);
            CHECK(all_back(&f, run.not_restored, run.not_put_back_count),
                  "mode %u, access %lu: put back or listed (%zu)", mode, n, run.not_put_back_count);
            CHECK(f.on || !run.not_put_back_count, "mode %u, access %lu: tried again", mode, n);
            for (size_t i = 1; i < run.not_put_back_count; i++)
                CHECK(run.not_restored[i - 1].address < run.not_restored[i].address, "rising");
            listed += run.not_put_back_count;
            rmg_run_end(&run);
            if (f.accesses < n) {
                CHECK(n > 700 && status == RMG_OK, "mode %u: %lu accesses", mode, n);
                break;
            }
        }
    CHECK(listed > 1000, "words were listed: %lu", listed);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

static void spot_checks(void)
{
    rmg_board *board = small_board();
    static failing f;
    const rmg_target target = {&failing_bus, &f, 0xFF};
    const rmg_addr addresses[] = {0x20, 0x4F};

    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned long n = 1;; n++) {
            rmg_probe probe;
            rmg_status status;
            rmg_error error = {0};

            fill(&f, n, mode);
            status = rmg_probe_target(&probe, board, &target, addresses, 2, NULL, 0, &error);
            CHECK(!error.what && (status == RMG_OK || status == f.with), "mode %u, access %lu",
                  mode, n);
            CHECK(!probe.wrong, "mode %u, access %lu: no bit is accused", mode, n);
            CHECK(all_back(&f, probe.not_restored, probe.not_put_back_count) &&
                      (f.on || !probe.not_put_back_count),
                  "mode %u, access %lu: put back or listed", mode, n);
            rmg_probe_end(&probe);
            if (f.accesses < n)
                break;
        }
    rmg_board_free(board);
}

/* Reading a ROM: the port's status, and not one word of it, or of RAM, is changed. */
static void readings(void)
{
    rmg_board *board = small_board();
    static failing f;
    const rmg_target target = {&failing_bus, &f, 0xFF};
    rmg_rom rom;
    rmg_error error = {0};

    CHECK(rmg_rom_find(board, "rom", &rom, &error) == RMG_OK, "%s", error.what ? error.what : "");
    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned long n = 1;; n++) {
            rmg_verify v;
            rmg_status status;
            bool same = true;

            fill(&f, n, mode);
            status = rmg_verify_run(&v, &rom, &target, 2, NULL, NULL, 0, NULL, NULL);
            CHECK(status == RMG_OK || status == f.with, "mode %u, access %lu: %s", mode, n,
                  rmg_status_text(status));
            for (size_t a = 0; a < WORDS; a++)
                same &= a >= 0x600 && a < 0x700 ? true : f.words[a] == ((a * 37u + 11u) & 0xFFu);
            CHECK(same, "mode %u, access %lu: nothing but the empty region is written", mode, n);
            rmg_verify_end(&v);
            if (f.accesses < n) {
                CHECK(status == RMG_OK && n > 100, "mode %u: %lu accesses", mode, n);
                break;
            }
        }
    rmg_board_free(board);
}

/* A hold without refresh after which refresh cannot be begun again is no complete run. */
static void refresh_not_begun_again(void)
{
    static const char steps_text[] = "plan: own\nsteps:\n  - {hold-ms: 1, refresh: stopped}\n";
    rmg_board *board = small_board();
    rmg_errors errors = {0};
    rmg_plan plan = {.passes = 1, .seed = 1};
    static failing f;
    const rmg_target target = {&failing_bus, &f, 0xFF};
    rmg_steps steps;

    CHECK(rmg_steps_parse("own", steps_text, &steps, &errors) == RMG_OK, "plan");
    plan.steps = &steps;
    for (unsigned turn = 0; turn < 2; turn++) {
        rmg_run run;
        rmg_error error = {0};

        fill(&f, 0, 0);
        f.refresh_fails = turn;
        CHECK(rmg_run_begin(&run, board, &plan, "failing", &error) == RMG_OK, "begins");
        CHECK(rmg_run_carry_out(&run, &target, NULL) == (turn ? RMG_ERR_PORT : RMG_OK) &&
                  run.complete == !turn,
              "turn %u: %s", turn, rmg_status_text(run.status));
        rmg_run_end(&run);
    }
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* A port that gives nonsense before it is lost: the last good answer again and again, zeros, or
 * anything; the memory is healthy, or has a dead bit. */
typedef struct dying {
    failing memory;
    unsigned long lost_at;
    enum { SAYS_AGAIN, SAYS_ZERO, SAYS_ANYTHING } says;
    rmg_word latest, dead;
    uint64_t dice;
} dying;

static rmg_status dying_read(void *context, rmg_addr address, rmg_word *value)
{
    dying *d = context;
    const rmg_status status = failing_read(&d->memory, address, value);
    const bool dies = d->memory.accesses >= d->memory.fail_at;

    if (d->memory.accesses >= d->lost_at)
        return RMG_ERR_PORT_LOST;
    *value |= d->dead;
    if (dies)
        *value = d->says == SAYS_AGAIN  ? d->latest
                 : d->says == SAYS_ZERO ? 0
                                        : bench_dice(&d->dice, 256);
    d->latest = *value;
    return status;
}

static rmg_status dying_write(void *context, rmg_addr address, rmg_word value)
{
    dying *d = context;
    const bool dies = ++d->memory.accesses >= d->memory.fail_at;

    if (!dies)
        d->memory.words[address % WORDS] = value;
    return d->memory.accesses >= d->lost_at ? RMG_ERR_PORT_LOST : RMG_OK;
}

static const rmg_bus dying_bus = {
    .version = RMG_BUS_VERSION, .read = dying_read, .write = dying_write};

/* The sum of what the suspects that name a socket are stated with. */
static double stated(const rmg_board *board, dying *d, unsigned passes, const char *only)
{
    const rmg_plan plan = bench_plan(false, passes);
    const rmg_target target = {&dying_bus, d, 0xFF};
    double sum = 0;
    rmg_run run;
    rmg_suspects suspects;
    rmg_error error = {0};

    CHECK(rmg_run_begin(&run, board, &plan, "dying", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &target, NULL) == RMG_ERR_PORT_LOST, "lost at last");
    rmg_suspects_find(&run, NULL, &suspects);
    rmg_replay(&run, &suspects, 1000000, NULL, NULL);
    rmg_suspects_word(&run, &suspects);
    for (size_t i = 0; i < suspects.count; i++)
        if (!only || strcmp(suspects.list[i].site, only) == 0) {
            sum += suspects.list[i].confidence;
            CHECK((strstr(suspects.list[i].settle, "same test again") == NULL) == (only != NULL),
                  "before any chip is touched: \"%s\"", suspects.list[i].settle);
        }
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_error_free(&error);
    return sum;
}

static void dying_ports(void)
{
    rmg_board *board = small_board();
    static dying d;
    unsigned named = 0, kept = 0;

    for (unsigned says = 0; says < 3; says++)
        for (unsigned long at = 1; at < 780; at += 23)
            for (unsigned dead = 0; dead < 2; dead++) {
                double sum;

                memset(&d, 0, sizeof d);
                d.dice = at;
                d.says = says;
                d.dead = dead ? 0x20 : 0;
                d.memory.fail_at = at;
                d.lost_at = at + 60;
                sum = stated(board, &d, 1, NULL);
                named += sum > 0;
                CHECK(sum < 0.5, "says %u from access %lu on, dead %u: %.2f in all", says, at, dead,
                      sum);
            }
    CHECK(named > 50, "some socket named in %u", named);
    /* what whole passes showed stays as sure as it was */
    for (unsigned long at = 4000; at < 4400; at += 37) {
        memset(&d, 0, sizeof d);
        d.dead = 0x20;
        d.memory.fail_at = d.lost_at = at;
        kept += stated(board, &d, 20, "U2") > 0.9;
    }
    CHECK(kept == 11, "U2 named with confidence in %u of 11", kept);
    rmg_board_free(board);
}

CU_TestInfo port_fault_tests[] = {
    {"ports that give nonsense before they are lost", dying_ports},
    {"runs that keep contents", kept_runs},
    {"spot checks", spot_checks},
    {"readings", readings},
    {"refresh that is not begun again", refresh_not_begun_again},
    CU_TEST_INFO_NULL,
};
