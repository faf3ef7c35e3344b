/* This machine's own memory as a port: every access in its order, faults put in by a wrapper and by
 * a thread that flips bits, limits of what can be had. */
#include <glib.h>
#include <pthread.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/uio.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../ports/hostram/internal.h"
#include "../check.h"
#include "bench_board.h"
#include "rimeglass/ram.h"
#include "rimeglass/report.h"
#include "rimeglass/rimeglass.h"
#include "suites.h"
#include "temporary.h"

static rmg_ram *open_ram(uint64_t kib, unsigned threads, bool unflushed)
{
    const rmg_ram_want want = {.bytes = kib * 1024u, .threads = threads, .unflushed = unflushed};
    rmg_ram *ram = NULL;
    char *remark = NULL;

    CHECK(rmg_ram_open(&want, &ram, &remark) == RMG_OK, "%s", remark ? remark : "no reason");
    return ram;
}

/* Every march on every number of threads, flushed and not, from an odd word to an odd word: nothing
 * fails, nothing outside is touched, and the memory holds what the march leaves. */
static void marches_run(void)
{
    for (unsigned turn = 0; turn < 4; turn++) {
        rmg_ram *ram = open_ram(256, 1 + turn % 3 * 2, turn & 1u);
        volatile uint64_t *words = ram ? rmg_ram_words(ram) : NULL;
        const rmg_target target = ram ? rmg_ram_target(ram) : (rmg_target){0};
        const rmg_range range = {3 + turn, rmg_ram_bytes(ram) / 8u - 6 - turn};
        uint64_t seen = 0;

        for (uint8_t m = 0; m < rmg_march_name_count; m++) {
            const rmg_observer observer = {.every_log2 = (uint8_t)(10 + m % 6)};
            const rmg_march_job job = {.code = rmg_march_names[m].code,
                                       .ranges = &range,
                                       .range_count = 1,
                                       .observer = &observer,
                                       .hold_us = 10,
                                       .background = UINT64_C(0x123456789ABCDEF0) * m,
                                       .either_down = m & 1u};
            rmg_tally tally;

            words[range.first - 1] = words[range.last + 1] = 42;
            rmg_tally_clear(&tally, NULL, 0);
            CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK && !tally.failing, "%s, turn %u",
                  rmg_march_names[m].name, turn);
            CHECK(words[range.first - 1] == 42 && words[range.last + 1] == 42, "%s: the ends",
                  rmg_march_names[m].name);
            for (uint64_t i = range.first; i <= range.last; i++)
                seen |= words[i] ^ words[range.first];
        }
        CHECK(!seen, "turn %u: alike to the end", turn);
        rmg_ram_close(ram);
    }
}

/* Words that are wrong before a reading element are reported, each once, with their values. */
static void wrong_words_reported(void)
{
    static const uint8_t code[] = {
        RMG_ORDER_UP | 2, RMG_OP_R0, RMG_OP_W1, RMG_ORDER_DOWN | 1, RMG_OP_R1,
        RMG_ORDER_UP | 3, RMG_OP_R1, RMG_OP_W0, RMG_OP_R0,          0};

    for (unsigned turn = 0; turn < 4; turn++) {
        rmg_ram *ram = open_ram(512, turn & 1u ? 3 : 1, false);
        volatile uint64_t *words = rmg_ram_words(ram);
        const rmg_range range = {1, rmg_ram_bytes(ram) / 8u - 1u};
        const rmg_march_job job = {.code = code, .ranges = &range, .range_count = 1};
        const rmg_target target = rmg_ram_target(ram);
        const unsigned wrong = turn < 2 ? 1000 : 7;
        rmg_tally tally;

        for (uint64_t i = 0; i <= range.last; i++)
            words[i] = 0;
        for (uint64_t i = 0; i < wrong; i++)
            words[1 + i * (turn < 2 ? 1 : 4111)] = (uint64_t)1 << 63 | 5;
        rmg_tally_clear(&tally, NULL, 0);
        CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
        CHECK(tally.failing == wrong, "turn %u: %lu told", turn, (unsigned long)tally.failing);
        CHECK(tally.first[0].expected == 0 && tally.first[0].actual == ((uint64_t)1 << 63 | 5) &&
                  tally.first[0].element == 0,
              "turn %u: with what was read", turn);
        rmg_ram_close(ram);
    }
}

/* A wrapper in the port that spoils a bit of one word. */
typedef struct spoiler {
    rmg_target under;
    rmg_addr word;
} spoiler;

static rmg_status spoiled_read(void *context, rmg_addr address, rmg_word *value)
{
    const spoiler *s = context;
    const rmg_status status = s->under.bus->read(s->under.context, address, value);

    if (address == s->word)
        *value |= 0x100;
    return status;
}

static rmg_status spoiled_write(void *context, rmg_addr address, rmg_word value)
{
    const spoiler *s = context;

    return s->under.bus->write(s->under.context, address, value);
}

static void a_wrapper_spoils(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = spoiled_read, .write = spoiled_write};
    rmg_ram *ram = open_ram(64, 1, false);
    spoiler s = {rmg_ram_target(ram), 777};
    const rmg_target target = {&bus, &s, UINT64_MAX};
    const rmg_range range = {0, rmg_ram_bytes(ram) / 8u - 1u};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};
    rmg_tally tally;

    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
    CHECK(tally.failing == 3 && tally.address_and == 777 && tally.address_or == 777,
          "three reads of 0 at that word");
    rmg_ram_close(ram);
}

/* A whole run on a board that is nothing but memory: it fails, names no socket, and says so in
 * every form of result. */
static void a_run_without_sockets(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = spoiled_read, .write = spoiled_write};
    static const char text[] = "board: memory\nword: 64\naddress-lines: 16\nregions: [{name: all, "
                               "range: 0x0-0xFFFF, kind: ram}]\nbanks: []\nsockets: []\n";
    rmg_ram *ram = open_ram(64, 1, false);
    spoiler s = {rmg_ram_target(ram), 777};
    const rmg_target target = {&bus, &s, UINT64_MAX};
    const rmg_plan plan = bench_plan(false, 2);
    rmg_errors none = {0};
    rmg_suspects suspects;
    rmg_board *board;
    rmg_run run;
    char *json;
    rmg_error error = {0};

    CHECK(rmg_board_load_text("memory", text, &board, &none) == RMG_OK, "%s",
          none.count ? none.list[0].what : "");
    CHECK(rmg_run_begin(&run, board, &plan, "ram:64K", &error) == RMG_OK, "begins");
    run.caveat = rmg_ram_caveat(ram);
    CHECK(rmg_run_carry_out(&run, &target, NULL) == RMG_OK && rmg_run_failed(&run), "fails");
    CHECK(rmg_failset_words(run.failures, NULL, ~(rmg_word)0) == 1, "one word");
    rmg_suspects_find(&run, NULL, &suspects);
    rmg_suspects_word(&run, &suspects);
    CHECK(!suspects.count, "names no chip");
    json = rmg_run_json(&run, &suspects);
    CHECK(strstr(json, "\"verdict\": \"fail\"") && strstr(json, "the cache writes back"),
          "the result");
    rmg_text_free(json);
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_board_free(board);
    rmg_ram_close(ram);
}

/* A thread that flips a bit of one word again and again while the marches run. */
typedef struct flipper {
    volatile uint64_t *word;
    atomic_bool stop;
    atomic_ulong flips;
} flipper;

static void *flip(void *context)
{
    flipper *f = context;

    while (!atomic_load(&f->stop)) {
        /* in one step: what the march writes meanwhile must not be undone */
        __atomic_fetch_xor(f->word, UINT64_C(0x8000), __ATOMIC_RELAXED);
        atomic_fetch_add(&f->flips, 1);
        g_usleep(50);
    }
    return NULL;
}

static void a_thread_flips(void)
{
    rmg_ram *ram = open_ram(8192, 2, false);
    const rmg_range range = {0, rmg_ram_bytes(ram) / 8u - 1u};
    const rmg_target target = rmg_ram_target(ram);
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};
    flipper f = {.word = rmg_ram_words(ram) + 54321};
    rmg_tally tally;
    pthread_t thread;

    atomic_init(&f.stop, false);
    atomic_init(&f.flips, 0);
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(pthread_create(&thread, NULL, flip, &f) == 0, "a thread");
    for (unsigned i = 0; i < 200 && tally.failing < 3; i++)
        CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
    atomic_store(&f.stop, true);
    pthread_join(thread, NULL);
    CHECK(tally.failing >= 3, "%lu failing reads after %lu flips", (unsigned long)tally.failing,
          (unsigned long)atomic_load(&f.flips));
    CHECK(tally.address_and == 54321 && tally.address_or == 54321 &&
              (tally.first[0].expected ^ tally.first[0].actual) == 0x8000,
          "that word and that bit alone");
    rmg_ram_close(ram);
}

static void what_can_be_had(void)
{
    static const rmg_ram_want wrong[] = {
        {.bytes = 100, .threads = 1}, {.bytes = 65536}, {.bytes = 65536, .threads = 65}};
    const rmg_ram_want most = {
        .bytes = (uint64_t)1 << 33, .threads = 1, .reserve_bytes = UINT64_MAX / 4u};
    rmg_ram *ram;
    char *remark, *caveat;
    uint64_t physical = 0;

    for (size_t i = 0; i < COUNT(wrong); i++)
        CHECK(rmg_ram_open(&wrong[i], &ram, &remark) == RMG_ERR_ARGUMENT && !ram, "row %zu", i);
    CHECK(rmg_ram_open(&most, &ram, &remark) == RMG_ERR_ROOM && !ram && remark &&
              strstr(remark, "left to the machine"),
          "all is reserved: %s", remark ? remark : "");
    free(remark);
    ram = open_ram(64, 2, true);
    CHECK(rmg_ram_bytes(ram) == 65536 && rmg_ram_threads(ram) == 2 && !rmg_ram_flushes(ram), "got");
    caveat = rmg_ram_caveat(ram);
    CHECK(caveat && strstr(caveat, "not flushed") && strstr(caveat, "threads"), "%s", caveat);
    free(caveat);
    switch (rmg_ram_physical(ram, 5, &physical)) {
    case RMG_RAM_FOUND:
        CHECK(physical % 4096u == 40, "the word's place in its page: %lx", (unsigned long)physical);
        break;
    case RMG_RAM_HIDDEN:
    case RMG_RAM_MOVED:
        CHECK(!physical, "nothing is made up");
        break;
    }
    CHECK(rmg_ram_physical(ram, rmg_ram_bytes(ram), &physical) == RMG_RAM_HIDDEN, "outside");
    rmg_ram_close(ram);
}

#if defined SANITIZED
#define LOCKS_ARE_REAL false /* AddressSanitizer makes mlock do nothing */
#else
#define LOCKS_ARE_REAL true
#endif

/* Where the system locks only a part, that part is taken and said. In a process of its own, which
 * gives up the superuser's right to lock what it likes. */
static void a_part_is_locked(void)
{
    const pid_t child = LOCKS_ARE_REAL ? fork() : -1;
    int status = -1;

    if (!LOCKS_ARE_REAL)
        return;
    if (child == 0) {
        const struct rlimit most = {256 * 1024, 256 * 1024};
        const rmg_ram_want want = {.bytes = 1 << 20, .threads = 1};
        rmg_ram *ram = NULL;
        char *remark = NULL;

        if (setrlimit(RLIMIT_MEMLOCK, &most) != 0 || (geteuid() == 0 && setuid(65534) != 0))
            _exit(2);
        if (rmg_ram_open(&want, &ram, &remark) != RMG_OK)
            _exit(3);
        if (rmg_ram_bytes(ram) > 256 * 1024 || rmg_ram_bytes(ram) < 4096)
            _exit(4);
        _exit(strstr(remark, "of 1024 KiB are used: the system locks no more") ? 0 : 5);
    }
    CHECK(child > 0 && waitpid(child, &status, 0) == child && WIFEXITED(status) &&
              WEXITSTATUS(status) == 0,
          "a part, and why not more: %d", WEXITSTATUS(status));
}

/* The riser has words of 32 bits: eight bytes are two of them, on two lanes. */
static void physical_bytes_placed(void)
{
    static const struct {
        uint64_t byte;
        uint8_t bit;
        const char *socket; /* NULL: none */
    } rows[] = {{0, 0, "U1"},
                {0, 7, "U1"},
                {1, 0, "U2"},
                {3, 5, "U4"},
                {4, 0, "U5"},
                {15, 7, "U8"},
                {(uint64_t)1 << 40, 0, NULL}};
    rmg_board *board = bench_load("demo/boards/tarnbeck.yaml");

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_place place;
        const bool placed = rmg_board_place_byte(board, rows[i].byte, rows[i].bit, &place);

        CHECK(placed == (rows[i].socket != NULL) &&
                  (!placed || strcmp(board->sockets[place.socket].name, rows[i].socket) == 0),
              "byte %lu: %s", (unsigned long)rows[i].byte,
              placed ? board->sockets[place.socket].name : "nowhere");
    }
    rmg_board_free(board);
}

/* A process of its own that changes words of this one, asked through a pipe. */
typedef struct outsider {
    int ask, answer;
    pid_t pid;
} outsider;

typedef struct change {
    volatile uint64_t *word;
    uint64_t bits;
} change;

static void serve(pid_t parent, int from, int to)
{
    change f;

    while (read(from, &f, sizeof f) == (ssize_t)sizeof f) {
        uint64_t value;
        struct iovec here = {&value, sizeof value},
                     there = {(void *)(uintptr_t)f.word, sizeof value};
        char done = process_vm_readv(parent, &here, 1, &there, 1, 0) == (ssize_t)sizeof value;

        value ^= f.bits;
        done = done && process_vm_writev(parent, &here, 1, &there, 1, 0) == (ssize_t)sizeof value;
        if (write(to, &done, 1) != 1)
            break;
    }
    _exit(0);
}

static outsider outsider_begin(void)
{
    const pid_t parent = getpid();
    outsider o = {-1, -1, -1};
    int ask[2], answer[2];

    CHECK(pipe(ask) == 0 && pipe(answer) == 0, "pipes");
    prctl(PR_SET_PTRACER, PR_SET_PTRACER_ANY, 0, 0, 0);
    o.pid = fork();
    if (o.pid == 0) {
        close(ask[1]);
        close(answer[0]);
        serve(parent, ask[0], answer[1]);
    }
    close(ask[0]);
    close(answer[1]);
    o.ask = ask[1];
    o.answer = answer[0];
    return o;
}

static void outsider_end(outsider *o)
{
    close(o->ask);
    close(o->answer);
    waitpid(o->pid, NULL, 0);
}

/* A march in whose element `before` one bit of one word has changed, from outside. */
typedef struct flipped_run {
    outsider *o;
    change f;
    uint8_t before;
    bool allowed;
    unsigned failures;
    rmg_failure first;
} flipped_run;

static bool flip_before(void *context, const rmg_progress *p)
{
    flipped_run *r = context;
    char done = 0;

    if (p->words || p->element != r->before)
        return true;
    if (write(r->o->ask, &r->f, sizeof r->f) != (ssize_t)sizeof r->f ||
        read(r->o->answer, &done, 1) != 1)
        done = 0;
    r->allowed = done;
    if (!done)
        *r->f.word ^= r->f.bits;
    return true;
}

static void note_failure(void *context, const rmg_failure *failure)
{
    flipped_run *r = context;

    if (!r->failures++)
        r->first = *failure;
}

/* Flips at every word of the first and the last page, and anywhere: the right bit, the right
 * address, the right direction, in every shape of element, one thread and several. */
static void flips_from_outside(void)
{
    static const uint8_t code[] = {
        RMG_ORDER_UP | 1, RMG_OP_W0,          RMG_ORDER_UP | 2,   RMG_OP_R0, RMG_OP_W1,
        RMG_ORDER_UP | 1, RMG_OP_R1,          RMG_ORDER_DOWN | 3, RMG_OP_R1, RMG_OP_W0,
        RMG_OP_R0,        RMG_ORDER_DOWN | 1, RMG_OP_R0,          0};
    uint64_t state = 11;
    outsider o = outsider_begin();
    unsigned outside = 0;

    for (unsigned turn = 0; turn < 2; turn++) {
        rmg_ram *ram = open_ram(128, turn ? 3 : 1, turn);
        const uint64_t words = rmg_ram_bytes(ram) / 8u;
        const rmg_range range = {0, words - 1u};
        const rmg_target target = rmg_ram_target(ram);

        for (uint64_t i = 0; i < 1400; i++) {
            const uint64_t at = i < 512    ? i
                                : i < 1024 ? words - 1u - (i - 512)
                                           : bench_dice(&state, words);
            flipped_run r = {.o = &o,
                             .f = {&rmg_ram_words(ram)[at], (uint64_t)1 << bench_dice(&state, 64)},
                             .before = (uint8_t)(1 + bench_dice(&state, 4))};
            const bool one = r.before == 2 || r.before == 3; /* the words hold ones */
            const rmg_observer observer = {&r, flip_before, note_failure, 16, NULL};
            const rmg_march_job job = {
                .code = code, .ranges = &range, .range_count = 1, .observer = &observer};
            rmg_tally tally;

            rmg_tally_clear(&tally, NULL, 0);
            CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
            CHECK(r.failures >= 1 && tally.failing == r.failures && r.first.address == at &&
                      r.first.element == r.before && r.first.operation == 0,
                  "word %lu, element %u: %u failures, the first at %lu in element %u",
                  (unsigned long)at, r.before, r.failures, (unsigned long)r.first.address,
                  r.first.element);
            CHECK(r.first.expected == (one ? UINT64_MAX : 0) &&
                      (r.first.actual ^ r.first.expected) == r.f.bits,
                  "word %lu: expected %lx, actual %lx, flipped %lx", (unsigned long)at,
                  (unsigned long)r.first.expected, (unsigned long)r.first.actual,
                  (unsigned long)r.f.bits);
            outside += r.allowed;
        }
        rmg_ram_close(ram);
    }
    printf("  %u of 2800 flips by another process ", outside);
    outsider_end(&o);
}

/* Control groups that were made up: the least that any of them, at any height, still allows. */
static void control_groups(void)
{
    static const struct {
        const char *groups;
        uint64_t spare;
    } rows[] = {
        {"0::/\n", 9000},        /* the root's own */
        {"0::/a\n", 4000},       /* 5000 less 1000 */
        {"0::/a/b\n", 3500},     /* inner ones */
        {"0::/a/b/c\n", 3500},   /* one without a limit of its own */
        {"0::/full\n", 0},       /* more used than is allowed */
        {"0::/nowhere\n", 9000}, /* named from outside the container */
        {"4:cpu,memory:/v\n1:name=x:/a\n", 700},
        {"nonsense\n", 9000},
    };
    gchar *root = g_dir_make_tmp("groups-XXXXXX", NULL);
    static const struct {
        const char *folder, *most, *used;
        const char *limit, *now;
    } groups[] = {{"", "memory.max", "memory.current", "9000", "0"},
                  {"a", "memory.max", "memory.current", "5000", "1000"},
                  {"a/b", "memory.max", "memory.current", "4000", "500"},
                  {"a/b/c", "memory.max", "memory.current", "max", "10"},
                  {"full", "memory.max", "memory.current", "100", "200"},
                  {"memory/v", "memory.limit_in_bytes", "memory.usage_in_bytes", "800", "100"}};
    gchar *command;

    for (size_t i = 0; i < COUNT(groups); i++) {
        gchar *folder = g_build_filename(root, groups[i].folder, NULL);
        gchar *most = g_build_filename(folder, groups[i].most, NULL);
        gchar *used = g_build_filename(folder, groups[i].used, NULL);

        g_mkdir_with_parents(folder, 0700);
        CHECK(g_file_set_contents(most, groups[i].limit, -1, NULL) &&
                  g_file_set_contents(used, groups[i].now, -1, NULL),
              "group %zu", i);
        g_free(folder);
        g_free(most);
        g_free(used);
    }
    for (size_t i = 0; i < COUNT(rows); i++) {
        const uint64_t spare =
            rmg_ram_spare(temporary_file("cgroup", rows[i].groups), root, 1000000);

        CHECK(spare == rows[i].spare, "%s: %lu", rows[i].groups, (unsigned long)spare);
    }
    command = g_strdup_printf("rm -r %s", root);
    CHECK(system(command) == 0, "gone");
    g_free(command);
    g_free(root);
}

CU_TestInfo ram_tests[] = {
    {"bytes to sockets", physical_bytes_placed},
    {"marches run, threads or not", marches_run},
    {"wrong words are reported", wrong_words_reported},
    {"a wrapper that spoils a bit", a_wrapper_spoils},
    {"a run without sockets", a_run_without_sockets},
    {"a thread that flips a bit", a_thread_flips},
    {"flips from outside", flips_from_outside},
    {"control groups", control_groups},
    {"what can be had, and what not", what_can_be_had},
    {"a part is locked", a_part_is_locked},
    CU_TEST_INFO_NULL,
};
