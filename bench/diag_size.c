/* How long the whole answer takes, from the start of the process to its end, over the healthy run
 * of the same plan without replay. Medians of several runs, one after another. */
#define _DEFAULT_SOURCE /* wait4 */
#include <fcntl.h>
#include <spawn.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "diag.h"

#define TIMES      9u
#define CASES_MOST 1000u
#define LONG       5.0 /* seconds */

extern char **environ;

static char board_file[] = "/tmp/rimeglass-size-board.yaml";
static char fault_file[] = "/tmp/rimeglass-size-fault.yaml";
static char run_file[] = "/tmp/rimeglass-size.run";

/* One call of the tool, its output thrown away; how long it took, and *kib of memory at most. */
static double call(const char *tool, const char *on, bool replay, long *kib)
{
    char *const words[] = {(char *)"rimeglass",
                           (char *)"test",
                           board_file,
                           (char *)"--on",
                           (char *)on,
                           (char *)"--passes",
                           (char *)"2",
                           replay ? NULL : (char *)"--no-replay",
                           NULL};
    posix_spawn_file_actions_t actions;
    struct rusage used;
    pid_t child;
    int status = 0;
    double begin;

    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
    begin = diag_now();
    if (posix_spawn(&child, tool, &actions, NULL, words, environ) != 0 ||
        wait4(child, &status, 0, &used) != child || !WIFEXITED(status) || WEXITSTATUS(status) > 1) {
        fprintf(stderr, "%s: status %d\n", tool, WEXITSTATUS(status));
        exit(2);
    }
    begin = diag_now() - begin;
    posix_spawn_file_actions_destroy(&actions);
    if (kib)
        *kib = used.ru_maxrss;
    return begin;
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;

    return (x > y) - (x < y);
}

/* A call against the healthy one, one after the other in turn, so that what else the machine does
 * meets both: medians of so many of each. */
static void pair_of(const char *tool, const char *on, bool replay, unsigned times, double *took,
                    double *healthy, long *kib)
{
    double calls[TIMES], others[TIMES];

    for (unsigned i = 0; i < times; i++) {
        others[i] = call(tool, "sim:", false, NULL);
        calls[i] = call(tool, on, replay, kib);
        if (calls[i] > LONG)
            times = i + 1u; /* far off: so often is enough to say so */
    }
    qsort(calls, times, sizeof *calls, rising);
    qsort(others, times, sizeof *others, rising);
    *took = calls[times / 2u];
    *healthy = others[times / 2u];
}

__attribute__((format(printf, 2, 3))) static void write_file(const char *name, const char *format,
                                                             ...)
{
    FILE *file = fopen(name, "w");
    va_list args;

    if (!file)
        exit(2);
    va_start(args, format);
    vfprintf(file, format, args);
    va_end(args);
    if (fclose(file) != 0)
        exit(2);
}

/* A board of four byte-wide DRAMs to the bank, of 2 to the power of `lines` words: one bank, or two
 * that the lowest line chooses. */
static void write_wide(unsigned lines, bool interleaved)
{
    const unsigned rows = lines / 2u, of = lines - interleaved, last = (1u << lines) - 1u;
    FILE *file = fopen(board_file, "w");

    if (!file)
        exit(2);
    fprintf(file,
            "board: Wide\nword: 32\naddresses: words\naddress-lines: %u\nundriven: high\n"
            "regions: [{name: ram, kind: ram, range: 0-0x%X}]\n"
            "parts: [{number: wide, kind: dram, width: 8, address-lines: %u, row-lines: %u, "
            "refresh-ms: 32, pins: \"",
            lines, last, of, rows);
    for (unsigned i = 0; i < (of - rows > rows ? of - rows : rows); i++)
        fprintf(file, "A%u ", i);
    fprintf(file, "D0 D1 D2 D3 D4 D5 D6 D7 RAS CAS WE VCC VSS\"}]\nbanks:\n");
    for (unsigned b = 0; b <= interleaved; b++)
        fprintf(file,
                "  - {name: b%u, range: 0-0x%X, part: wide, %s%srows: A%u-A%u, columns: A%u-A%u, "
                "data: {U%u: D0-D7, U%u: D8-D15, U%u: D16-D23, U%u: D24-D31}}\n",
                b, last, interleaved ? (b ? "where: [A0=1], " : "where: [A0=0], ") : "", "",
                (unsigned)interleaved, (unsigned)interleaved + rows - 1u,
                (unsigned)interleaved + rows, lines - 1u, 4 * b + 1, 4 * b + 2, 4 * b + 3,
                4 * b + 4);
    fprintf(file, "sockets: [{names: U1-U%u, mount: socket}]\n", interleaved ? 8u : 4u);
    if (fclose(file) != 0)
        exit(2);
}

static void row(const char *name, double took, double healthy, double most, long kib, long board)
{
    printf("  %-34s %8.3f s %6.1f times, at most %4.1f", name, took, took / healthy, most);
    if (board)
        printf("; %4.1f times the board's memory", (double)kib / (double)board);
    printf("%s\n", took / healthy > most ? "   MORE" : "");
}

static void large(const char *tool, unsigned lines)
{
    static const struct {
        const char *name, *fault;
        double most;
        bool interleaved;
    } rows[] = {
        {"output stuck", "{kind: output stuck, socket: U3, bit: D17, level: 0}", 3, false},
        {"one cell", "{kind: cell stuck, socket: U3, bit: D17, cell: 12345, level: 0}", 2, false},
        {"row", "{kind: row stuck, socket: U3, bit: D17, row: 77, level: 1}", 3, false},
        {"data line", "{kind: data line stuck, line: D17, level: 0}", 4, false},
        {"interleaved: never selected", "{kind: never selected, bank: b1}", 4, true},
        {"interleaved: also selected", "{kind: also selected, bank: b1, where: b0}", 4, true}};
    const long kib = 4l << lines >> 10;
    char on[sizeof fault_file + 8];
    double healthy, took;
    long most = 0;

    printf("%ld MiB, 32-bit words, March C-, 2 passes\n", kib >> 10);
    snprintf(on, sizeof on, "sim:%s", fault_file);
    write_wide(lines, false);
    pair_of(tool, "sim:", true, TIMES, &took, &healthy, &most);
    row("healthy", took, healthy, 1.2, most, kib);
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++) {
        write_wide(lines, rows[i].interleaved);
        write_file(fault_file, "faults: [%s]\n", rows[i].fault);
        pair_of(tool, on, true, TIMES, &took, &healthy, &most);
        row(rows[i].name, took, healthy, rows[i].most, most, kib);
    }
}

/* A call with these words, its output thrown away. */
static double call_words(char *const *words, const char *tool)
{
    posix_spawn_file_actions_t actions;
    pid_t child;
    int status = 0;
    const double begin = diag_now();

    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
    if (posix_spawn(&child, tool, &actions, NULL, words, environ) != 0 ||
        waitpid(child, &status, 0) != child || !WIFEXITED(status) || WEXITSTATUS(status) > 1) {
        fprintf(stderr, "%s: status %d\n", tool, WEXITSTATUS(status));
        exit(2);
    }
    posix_spawn_file_actions_destroy(&actions);
    return diag_now() - begin;
}

/* 10^7 failing bits, scattered over 16 MiB: what a recorded run says. */
static void scattered(const char *tool)
{
    char on[sizeof fault_file + 8];
    char *const test[] = {(char *)"rimeglass",
                          (char *)"test",
                          board_file,
                          (char *)"--on",
                          on,
                          (char *)"--passes",
                          (char *)"1",
                          (char *)"--march",
                          (char *)"March C-",
                          (char *)"--no-replay",
                          (char *)"--record",
                          run_file,
                          (char *)"--force",
                          NULL};
    char *const diagnose[] = {(char *)"rimeglass", (char *)"diagnose", run_file, NULL};
    const double bits = 4.0 * (1 << 20) * 32 / 13;
    double took[3];

    snprintf(on, sizeof on, "sim:%s", fault_file);
    write_wide(22, false);
    write_file(fault_file, "faults: [%s, %s, %s, %s]\n",
               "{kind: fading bits, socket: U1, one-cell-in: 13, level: 0}",
               "{kind: fading bits, socket: U2, one-cell-in: 13, level: 0}",
               "{kind: fading bits, socket: U3, one-cell-in: 13, level: 1}",
               "{kind: fading bits, socket: U4, one-cell-in: 13, level: 1}");
    call_words(test, tool);
    for (unsigned i = 0; i < 3; i++)
        took[i] = call_words(diagnose, tool);
    qsort(took, 3, sizeof *took, rising);
    printf("%.2g failing bits, scattered: what the recorded run says, read from its file, %.2f s, "
           "%.2f us a bit, at most 1\n",
           bits, took[1], took[1] / bits * 1e6);
}

/* A fault as an entry of a fault file; false: such a file cannot say it. */
static bool entry(const rmg_board *board, const rmg_sim_fault *f, bool of_chip, char *text,
                  size_t room)
{
    static const char *const operations[] = {"0w0", "0w1", "1w0", "1w1", "0r0", "1r1"};
    static const char *const reaches[] = {"none", "none and two", "other", "both"};
    static const char *const reads[] = {"and", "or", "last"};
    const rmg_fault_row *kind = &rmg_fault_rows[f->kind];
    const char *bank = f->bank < board->bank_count ? board->banks[f->bank].name : "";
    char keys[200], *save = NULL;
    size_t used;
    const rmg_rule *rule = NULL;

    for (uint16_t r = 0; r < board->placement.rule_count && !rule; r++)
        rule = board->placement.rules[r].socket == f->chip ? &board->placement.rules[r] : NULL;
    if (!kind->word || !rule)
        return false;
    snprintf(keys, sizeof keys, "%s", kind->keys);
    used = (size_t)snprintf(text, room, "kind: %s", kind->word);
#define PUT(...) used += (size_t)snprintf(text + used, room - used, __VA_ARGS__)
    for (char *key = strtok_r(keys, " ", &save); key; key = strtok_r(NULL, " ", &save)) {
        if (strcmp(key, "socket") == 0 && (kind->place == RMG_FOR_CHIP || of_chip))
            PUT(", socket: %s", board->sockets[f->chip].name);
        else if (strcmp(key, "bit") == 0)
            PUT(", bit: D%u", rule->data_bits[f->data_line]);
        else if (strcmp(key, "cell") == 0)
            PUT(", cell: %llu", (unsigned long long)f->cell);
        else if (strcmp(key, "row") == 0)
            PUT(", row: %llu", (unsigned long long)(f->kind == RMG_FAULT_ROW ? f->cell : f->row));
        else if (strcmp(key, "column") == 0)
            PUT(", column: %llu", (unsigned long long)f->cell);
        else if (strcmp(key, "level") == 0)
            PUT(", level: %u", f->level);
        else if (strcmp(key, "floats") == 0)
            PUT(", floats: %u", f->level);
        else if (strcmp(key, "by-cell") == 0 && rmg_fault_has_second(f))
            PUT(", by-cell: %llu", (unsigned long long)f->cell2);
        else if (strcmp(key, "while") == 0 && rmg_fault_has_second(f))
            PUT(", while: %u", f->state);
        else if (strcmp(key, "change-to") == 0)
            PUT(", change-to: %u", f->state);
        else if (strcmp(key, "operation") == 0)
            PUT(", operation: %s", operations[f->operation]);
        else if (strcmp(key, "other") == 0 && f->reaches != RMG_REACHES_NONE)
            PUT(", other: %llu", (unsigned long long)f->cell2);
        else if (strcmp(key, "reaches") == 0)
            PUT(", reaches: %s", reaches[f->reaches]);
        else if (strcmp(key, "reads") == 0)
            PUT(", reads: %s", reads[f->reads]);
        else if (strcmp(key, "one-cell-in") == 0)
            PUT(", one-cell-in: %u", f->count);
        else if (strcmp(key, "line") == 0 && kind->place == RMG_FOR_BANK)
            PUT(", line: A%d", __builtin_ctzll(f->lines));
        else if (strcmp(key, "line") == 0)
            PUT(", line: D%u", f->line);
        else if (strcmp(key, "with") == 0)
            PUT(", with: D%u", f->line2);
        else if (strcmp(key, "bank") == 0 && kind->place != RMG_FOR_CHIP && !of_chip)
            PUT(", bank: %s", bank);
        else if (strcmp(key, "wins") == 0)
            PUT(", wins: %u", f->level);
        else if (strcmp(key, "where") == 0)
            PUT(", where: %s", board->banks[f->bank2].name);
        else if (strcmp(key, "pin") == 0 && kind->place == RMG_FOR_CHIP)
            PUT(", pin: A%d",
                __builtin_ctzll(f->lines) % (board->sockets[f->chip].part->row_lines
                                                 ? board->sockets[f->chip].part->row_lines
                                                 : 64));
    }
#undef PUT
    return used < room;
}

/* 64 KiB of one-bit chips in four banks: any single fault that a fault file can say. */
static void small(const char *tool, unsigned cases)
{
    static double times[CASES_MOST];
    char on[sizeof fault_file + 8], text[400];
    rmg_errors errors = {0};
    diag_board board = {0};
    unsigned count = 0;
    double healthy, took, all = 0;
    FILE *file = fopen(board_file, "w");

    if (!file)
        exit(2);
    fprintf(file, "board: Small\nword: 8\naddress-lines: 16\nundriven: high\n"
                  "regions: [{name: ram, kind: ram, range: 0-0xFFFF}]\nbanks:\n");
    for (unsigned b = 0; b < 4; b++) {
        fprintf(file,
                "  - {name: b%u, range: 0x%X-0x%X, part: 4116, rows: A0-A6, columns: A7-A13, "
                "data: {",
                b, b << 14, (b << 14) + 0x3FFFu);
        for (unsigned i = 0; i < 8; i++)
            fprintf(file, "%sU%u: D%u", i ? ", " : "", 10 * b + 11 + i, i);
        fprintf(file, "}}\n");
    }
    fprintf(file, "sockets: [{names: U11-U18, mount: socket}, {names: U21-U28, mount: socket}, "
                  "{names: U31-U38, mount: socket}, {names: U41-U48, mount: socket}]\n");
    if (fclose(file) != 0 || rmg_board_load(board_file, &board.board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n", errors.count ? errors.list[0].what : board_file);
        exit(2);
    }
    snprintf(on, sizeof on, "sim:%s", fault_file);
    for (unsigned i = 0; count < cases && i < 20 * cases; i++) {
        const diag_kind *kind = &diag_kinds[i % diag_kind_count];
        diag_dice dice = diag_seed(i, 31);
        rmg_sim_fault fault;

        if (kind->time || kind->reach == REACH_BRANCH || kind->reach == REACH_SOME ||
            !diag_fault_make(&dice, &board, kind, &fault) ||
            !entry(board.board, &fault, kind->reach == REACH_CHIP, text, sizeof text))
            continue;
        write_file(fault_file, "faults: [{%s}]\n", text);
        pair_of(tool, on, true, 3, &took, &healthy, NULL);
        times[count] = took / healthy;
        all += healthy;
        if (times[count] > 20)
            printf("  %.1f times: %s\n", times[count], text);
        count++;
    }
    qsort(times, count, sizeof *times, rising);
    all /= count ? count : 1;
    printf("64 KiB, 8-bit words, March C-, 2 passes; the healthy run takes %.4f s\n", all);
    pair_of(tool, "sim:", true, TIMES, &took, &healthy, NULL);
    row("healthy", took, healthy, 1.2, 0, 0);
    printf("  %u single faults, medians of 3\n", count);
    row("median", times[count / 2u] * all, all, 2, 0, 0);
    row("nine in ten", times[count * 9u / 10u] * all, all, 5, 0, 0);
    row("worst", times[count - 1u] * all, all, 20, 0, 0);
    rmg_board_free(board.board);
}

void diag_by_size(const char *tool, unsigned cases, unsigned lines)
{
    if (cases)
        small(tool, cases < CASES_MOST ? cases : CASES_MOST);
    for (unsigned n = 22; n <= lines; n += 2)
        large(tool, n);
    if (lines >= 22)
        scattered(tool);
    unlink(board_file);
    unlink(fault_file);
    unlink(run_file);
}
