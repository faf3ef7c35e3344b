/* Lines heard in a second, and the memory that takes: 10^6 and 10^7 lines of a log from a file,
 * through a stream and a profile, as rimeglass log reads them. And what the ports to a far end
 * cost; "ports": that alone. */
#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <unistd.h>

#include "link_ports.h"
#include "rimeglass/lines.h"
#include "rimeglass/stream.h"

static const char profile_text[] =
    "profile: bench\n"
    "lines:\n"
    "  - {match: '^ERR (?<address>[0-9A-F]{4}) (?<wrote>[0-9A-F]{2}) (?<read>[0-9A-F]{2})$', is: "
    "failure}\n"
    "  - {match: '^PASS (?<count>\\d+)$', is: pass}\n"
    "  - {match: '^# ', is: ignore}\n";

/* Nine failures and a remark in ten lines, a pass every 10,000. */
static void write_log(const char *file, size_t lines)
{
    FILE *to = fopen(file, "w");

    for (size_t i = 0; to && i < lines; i++) {
        if (i % 10000 == 9999)
            fprintf(to, "PASS %zu\n", i / 10000);
        else if (i % 10 == 5)
            fprintf(to, "# %zu words\n", i);
        else
            fprintf(to, "ERR %04zX %02zX %02zX\n", 0x8000 + i * 7 % 0x4000, i & 0xFF,
                    (i & 0xFF) ^ 0x20);
    }
    if (to)
        fclose(to);
}

static long peak_kib(void)
{
    struct rusage usage;

    getrusage(RUSAGE_SELF, &usage);
    return usage.ru_maxrss;
}

/* Seconds for the whole file; 0: it went wrong. */
static double hear(const char *file, const rmg_board *board, const rmg_profile *profile,
                   uint64_t *failures)
{
    const gint64 start = g_get_monotonic_time();
    char why[RMG_STREAM_WHY], *bytes = malloc(65536);
    rmg_stream *stream;
    rmg_listener *l;
    rmg_error error = {0};
    rmg_run run;
    bool good = rmg_stream_open(file, 0, &stream, why) == RMG_OK &&
                rmg_run_begin_heard(&run, board, file, "bench", NULL) == RMG_OK;

    if (!good)
        return 0;
    l = rmg_listen_begin(profile, &run);
    while (!rmg_stream_ended(stream)) {
        size_t got;

        if (rmg_stream_read(stream, bytes, 65536, 0, &got) != RMG_OK ||
            rmg_listen_bytes(l, bytes, got) != RMG_OK)
            good = false;
    }
    good &= rmg_listen_end(l, false, &error) == RMG_OK;
    *failures = run.heard->failures;
    rmg_listen_free(l);
    rmg_run_end(&run);
    rmg_stream_close(stream);
    free(bytes);
    return good ? (double)(g_get_monotonic_time() - start) / 1e6 : 0;
}

int main(int argc, char **argv)
{
    static const size_t counts[] = {1000000, 10000000};
    rmg_board *board;
    rmg_profile *profile;
    rmg_errors errors = {0};
    gchar *file = g_build_filename(g_get_tmp_dir(), "rimeglass-bench-lines.txt", NULL);
    bool good = true;

    if (argc > 1 && strcmp(argv[1], "far-end") == 0) {
        bench_far_end();
        return 0;
    }
    if (argc > 1 && strcmp(argv[1], "ports") == 0)
        return !bench_link_ports(argv[0]);
    if (rmg_board_load("demo/boards/halvorn64.yaml", &board, &errors) != RMG_OK ||
        rmg_profile_load_text("bench", profile_text, board, &profile, &errors) != RMG_OK) {
        fprintf(stderr, "bench-links: %s (run it in the project's folder)\n",
                errors.count ? errors.list[0].what : "");
        return 2;
    }
    printf("lines       seconds  lines a second  (aim)     memory of the process\n");
    for (size_t i = 0; i < sizeof counts / sizeof *counts; i++) {
        uint64_t failures = 0;
        double seconds;

        write_log(file, counts[i]);
        seconds = hear(file, board, profile, &failures);
        good &= seconds > 0 && failures == counts[i] / 10 * 9 - counts[i] / 10000;
        printf("%-10zu  %7.2f  %14.0f  %-8s  %ld KiB\n", counts[i], seconds,
               seconds > 0 ? (double)counts[i] / seconds : 0, "300000", peak_kib());
        good &= seconds > 0 && (double)counts[i] / seconds >= 300000;
    }
    unlink(file);
    printf("\n");
    good &= bench_link_ports(argv[0]);
    g_free(file);
    rmg_profile_free(profile);
    rmg_board_free(board);
    return good ? 0 : 1;
}
