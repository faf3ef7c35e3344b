/* An odd trial: boards and fault files at random, one to three faults at once, half of them at
 * times, any plan. It asks one thing: is a chip without a fault named above 50 %?
 * Call: bench-odd [CASES [FIRST-SEED]]; or bench-odd case SEED: one, told in full. */
#include <pthread.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "odd_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/target.h"
#include "tell.h"

#define THREADS     2u
#define FAULTS_MOST 3u
#define LONG        1000000u /* accesses of a run, at most */

typedef struct odd_case {
    uint64_t seed;
    char *text, *faults; /* the files */
    rmg_board *board;    /* what the diagnosis knows */
    rmg_sim_board_run sim;
    rmg_run run;
    rmg_suspects suspects;
    rmg_error why; /* the fault file is refused */
} odd_case;

typedef struct part {
    unsigned number, cases;
    uint64_t seed;
    unsigned refused, silent;
    struct {
        unsigned failed, named, wrong, doubt;
    } by[FAULTS_MOST]; /* by faults at once, less one */
} part;

uint64_t odd_roll(odd_dice *dice, uint64_t below)
{
    *dice += UINT64_C(0x9E3779B97F4A7C15); /* splitmix64 */
    uint64_t z = *dice;

    z = (z ^ z >> 30) * UINT64_C(0xBF58476D1CE4E5B9);
    z = (z ^ z >> 27) * UINT64_C(0x94D049BB133111EB);
    return below ? (z ^ z >> 31) % below : 0;
}

static rmg_board *load(const char *text)
{
    rmg_errors errors = {0};
    rmg_board *board;

    if (rmg_board_load_text("odd.yaml", text, &board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n%s\n", text, errors.list[0].what);
        exit(2);
    }
    return board;
}

static char *fault_text(odd_dice *dice, const rmg_board *board, uint64_t seed)
{
    static const unsigned counts[] = {1, 1, 1, 2, 2, 3};
    unsigned count = counts[odd_roll(dice, sizeof counts / sizeof *counts)];
    char *text;
    size_t size;
    FILE *to = open_memstream(&text, &size);

    if (!to)
        exit(2);
    fprintf(to, "world-seed: %llu\nfaults:\n", (unsigned long long)seed % 100000);
    while (count--)
        odd_fault_put(to, dice, board);
    fclose(to);
    return text;
}

/* The simulated board, from its fault file; false: that is refused. */
static bool power_on(odd_case *c, const rmg_board *real)
{
    char name[] = "/tmp/odd-XXXXXX";
    const int file = mkstemp(name);
    rmg_errors errors = {0};
    bool good;

    if (file < 0 || write(file, c->faults, strlen(c->faults)) != (ssize_t)strlen(c->faults))
        exit(2);
    close(file);
    good = rmg_sim_board_begin(&c->sim, real, name, &errors) == RMG_OK;
    unlink(name);
    if (!good)
        c->why = errors.list[0];
    return good;
}

static rmg_plan any_plan(odd_dice *dice, const rmg_board *board)
{
    static const unsigned passes[] = {1, 2, 2, 3, 4, 8, 16};
    rmg_plan plan = {.passes = passes[odd_roll(dice, sizeof passes / sizeof *passes)], .seed = 1};
    const unsigned march = (unsigned)odd_roll(dice, 4);

    plan.march = march == 0 ? rmg_march_x : march == 1 ? rmg_march_ss : rmg_march_c_minus;
    plan.march_name = march == 0 ? "March X" : march == 1 ? "March SS" : "March C-";
    while (plan.passes > 1 &&
           plan.passes * (uint64_t)board->last_address * (march == 1 ? 22 : 10) > 8 * LONG)
        plan.passes /= 2;
    return plan;
}

static bool begin(odd_case *c, uint64_t seed)
{
    static const char *const undriven[] = {"high", "low", "holds"};
    odd_dice dice = seed;
    const char *level = undriven[odd_roll(&dice, 3)];
    const bool told = odd_roll(&dice, 2);
    odd_dice again = dice;
    char *real_text = odd_board_text(&dice, level, true);
    rmg_board *real = load(real_text);
    rmg_error error = {0};
    rmg_plan plan;
    bool good;

    memset(c, 0, sizeof *c);
    c->seed = seed;
    c->text = odd_board_text(&again, level, told);
    c->board = load(c->text);
    c->faults = fault_text(&dice, c->board, seed);
    plan = any_plan(&dice, c->board);
    good = power_on(c, real);
    if (good && (rmg_run_begin(&c->run, c->board, &plan, "odd", &error) != RMG_OK ||
                 rmg_run_carry_out(&c->run, &c->sim.target, NULL) != RMG_OK))
        exit(2);
    if (good) {
        rmg_suspects_find(&c->run, NULL, &c->suspects);
        rmg_replay(&c->run, &c->suspects, 0, NULL, NULL);
        rmg_suspects_word(&c->run, &c->suspects);
    }
    rmg_board_free(real);
    free(real_text);
    return good;
}

static void end(odd_case *c, bool good)
{
    if (good) {
        rmg_suspects_free(&c->suspects);
        rmg_run_end(&c->run);
        rmg_sim_board_end(&c->sim);
    }
    rmg_board_free(c->board);
    free(c->text);
    free(c->faults);
}

/* The entry's number behind a key, as of "line: D4"; -1: it has none. */
static int number_behind(const char *entry, const char *key)
{
    const char *end = strchr(entry, '}'), *at = strstr(entry, key);

    return at && at < end ? atoi(at + strlen(key)) : -1;
}

/* Chips that failed and that an entry without a socket is about: those of its bank, of its data
 * lines; `only`: that one is among them. */
static unsigned failing_of(const odd_case *c, const char *entry, uint16_t socket, bool *only)
{
    const rmg_placement *p = &c->board->placement;
    const int bank = number_behind(entry, "bank: b"), one = number_behind(entry, "line: D"),
              two = number_behind(entry, "with: D");
    rmg_word bits = (one >= 0 ? (rmg_word)1 << one : 0) | (two >= 0 ? (rmg_word)1 << two : 0);
    unsigned count = 0;

    bits = bits ? bits : (rmg_word) ~(rmg_word)0;
    for (uint16_t r = 0; r < p->rule_count; r++)
        if ((bank < 0 || p->rules[r].bank == bank || number_behind(entry, "where: b") >= 0) &&
            rmg_failset_words(c->run.failures, &p->rules[r].where,
                              rmg_rule_bits(&p->rules[r]) & bits)) {
            count++;
            *only |= p->rules[r].socket == socket;
        }
    return count;
}

/* Does the chip have a fault, or is it, of those that share one, the only one that failed? Nothing
 * tells it from what is beside it then. */
static bool is_to_blame(const odd_case *c, uint16_t socket)
{
    char name[40];

    snprintf(name, sizeof name, "socket: %s", c->board->sockets[socket].name);
    for (const char *at = c->faults; (at = strstr(at, "  - {")); at++) {
        const char *own = strstr(at, "socket: ");
        bool only = false;

        if (own && own < strchr(at, '}')) {
            if (strncmp(own, name, strlen(name)) == 0 && strchr(",}", own[strlen(name)]))
                return true;
        } else if (failing_of(c, at, socket, &only) == 1 && only) {
            return true;
        }
    }
    return false;
}

/* 2: a chip without a fault above 50 %; 1: above 20 %; and which suspect that is. */
static int judge(const odd_case *c, size_t *which)
{
    int worst = 0;

    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];

        if (s->finding.socket != RMG_NO_SOCKET && s->confidence > 0.2 &&
            !is_to_blame(c, s->finding.socket))
            worst = s->confidence > 0.5 ? 2 : worst > 1 ? worst : 1;
        if (worst == 2) {
            *which = i;
            break;
        }
    }
    return worst;
}

static void tell(const odd_case *c)
{
    printf("%s\n%s\nplan: %s, %u passes\n", c->text, c->faults, c->run.plan.march_name,
           (unsigned)c->run.plan.passes);
    bench_tell_suspects(&c->suspects);
}

static void *carry_out(void *context)
{
    part *p = context;

    for (unsigned i = p->number; i < p->cases; i += THREADS) {
        odd_case c;
        const bool good = begin(&c, p->seed + i);

        p->refused += !good;
        if (good) {
            size_t which = 0;
            const int worst = judge(&c, &which);
            const bool failed = rmg_run_failed(&c.run);
            const size_t n = c.sim.faults.count - 1u;

            p->silent += !failed;
            p->by[n].failed += failed;
            p->by[n].named += failed && c.suspects.count;
            p->by[n].wrong += worst == 2;
            p->by[n].doubt += worst == 1;
            if (worst == 2) {
                const char *line = strstr(c.faults, "  - ");

                printf("%llu: %s at %.0f %%, %s, %u passes\n%s", (unsigned long long)(p->seed + i),
                       c.suspects.list[which].site, 100 * c.suspects.list[which].confidence,
                       c.run.plan.march_name, (unsigned)c.run.plan.passes, line ? line : "");
            }
        }
        end(&c, good);
    }
    return NULL;
}

int main(int argc, char **argv)
{
    part parts[THREADS] = {{0}};
    pthread_t threads[THREADS];

    setvbuf(stdout, NULL, _IOLBF, 0);
    if (argc > 2 && strcmp(argv[1], "case") == 0) {
        odd_case c;
        const bool good = begin(&c, strtoull(argv[2], NULL, 10));

        if (good)
            tell(&c);
        else
            printf("%s\n%sThe fault file is refused: %s\n", c.text, c.faults, c.why.what);
        end(&c, good);
        return 0;
    }
    for (unsigned i = 0; i < THREADS; i++) {
        parts[i].number = i;
        parts[i].cases = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 100;
        parts[i].seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
        if (pthread_create(&threads[i], NULL, carry_out, &parts[i]) != 0)
            return 2;
    }
    for (unsigned i = 0; i < THREADS; i++)
        pthread_join(threads[i], NULL);
    for (unsigned i = 1; i < THREADS; i++) {
        parts[0].refused += parts[i].refused;
        parts[0].silent += parts[i].silent;
        for (unsigned n = 0; n < FAULTS_MOST; n++) {
            parts[0].by[n].failed += parts[i].by[n].failed;
            parts[0].by[n].named += parts[i].by[n].named;
            parts[0].by[n].wrong += parts[i].by[n].wrong;
            parts[0].by[n].doubt += parts[i].by[n].doubt;
        }
    }
    printf("%u cases: %u refused, %u silent\n%-14s %6s %6s %18s %10s\n", parts[0].cases,
           parts[0].refused, parts[0].silent, "faults at once", "failed", "named",
           "wrong above 50 %", "above 20 %");
    for (unsigned n = 0; n < FAULTS_MOST; n++)
        printf("%-14u %6u %6u %9u (%4.2f %%) %10u\n", n + 1u, parts[0].by[n].failed,
               parts[0].by[n].named, parts[0].by[n].wrong,
               parts[0].by[n].failed ? 100.0 * parts[0].by[n].wrong / parts[0].by[n].failed : 0,
               parts[0].by[n].doubt);
    return 0;
}
