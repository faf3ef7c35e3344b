/* dump --watch: a chip read again and again while its temperature moves. */
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "rimeglass/live.h"
#include "rom.h"
#include "view.h"

typedef struct watching {
    rom_bench *bench;
    rmg_rom_passes watch;
    const watch_call *call;
    FILE *to; /* readable text of the passes */
    rmg_live *live;
} watching;

/* The chip's data bits, and how often each has moved. */
static bool show_live(const watching *w, double share)
{
    const rmg_rom *rom = &w->bench->rom;
    rmg_live_cell cells[RMG_WORD_BITS];
    rmg_live_state state = {
        .what = "reading",
        .pass = w->watch.count + 1u,
        .passes = (uint32_t)MAX(w->call->passes, 0),
        .share = w->call->seconds > 0 ? MIN(rom_seconds(w->bench) / w->call->seconds, 1) : -1,
        .pass_share = share,
        .failures = w->watch.moved_in_all,
        .failures_are = "moved bit",
        .heat_millic = RMG_NOT_KNOWN,
        .cells = cells,
        .cells_are = "data bits"};

    for (unsigned bit = rom->bits; bit-- > 0;) {
        rmg_live_cell *cell = &cells[state.cell_count++];

        g_snprintf(cell->name, sizeof cell->name, "D%u", rom->bus_bit[bit]);
        cell->failures = w->watch.by_bit[bit];
    }
    if (w->watch.count)
        state.heat_millic = w->watch.passes[w->watch.count - 1u].heat_millic == RMG_HEAT_UNKNOWN
                                ? RMG_NOT_KNOWN
                                : w->watch.passes[w->watch.count - 1u].heat_millic;
    return rmg_live_show(w->live, &state, progress_stopped) && !progress_stopped();
}

static bool go_on(void *context, double share)
{
    const watching *w = context;
    gchar *what;
    bool on;

    if (w->live)
        return show_live(w, share);
    what = g_strdup_printf("pass %zu", w->watch.count + 1u);
    on = progress_share(what, share);
    g_free(what);
    return on;
}

static double seconds(void *context)
{
    const watching *w = context;

    return rom_seconds(w->bench);
}

/* A temperature typed in since the last pass; any other line is reported and ignored. */
static void read_typed(watching *w)
{
    struct pollfd in = {STDIN_FILENO, POLLIN, 0};
    char line[64];

    while (w->call->type_heat && poll(&in, 1, 0) > 0 && (in.revents & POLLIN)) {
        char *end;
        size_t used = 0;
        double value;
        ssize_t got = 0;

        while (used < sizeof line - 1 && (got = read(STDIN_FILENO, &line[used], 1)) == 1 &&
               line[used] != '\n')
            used++;
        line[used] = 0;
        if (got <= 0 && !used)
            return;
        value = g_ascii_strtod(g_strstrip(line), &end);
        if (end == line || *end || value < -55 || value > 150)
            fprintf(stderr, "\"%s\": expected a temperature in degrees Celsius, like 38\n", line);
        else
            w->watch.typed_millic = (int32_t)(value * 1000);
        if (!isatty(STDIN_FILENO))
            return; /* from a file or pipe: a line a pass */
    }
}

static void pause_between(watching *w)
{
    const rmg_target *t = &w->bench->target.target;
    double left = w->call->pause;

    while (left > 0 &&
           (w->live ? show_live(w, 0) : progress_share("waiting for the next pass", 0))) {
        const double part = MIN(left, 1.0);

        if (!t->bus->wait || t->bus->wait(t->context, (uint32_t)(part * 1e6)) != RMG_OK)
            g_usleep((gulong)(part * 1e6));
        left -= part;
    }
}

static void print_pass(const watching *w, size_t number)
{
    const rmg_rom_pass *p = &w->watch.passes[number];

    fprintf(w->to, "  pass %-5zu %8.1f s  ", number + 1u, p->seconds);
    if (p->heat_millic == RMG_HEAT_UNKNOWN)
        fprintf(w->to, "   ?    ");
    else
        fprintf(w->to, "%5.1f C%s ", p->heat_millic / 1000.0, p->heat_typed ? "*" : " ");
    fprintf(w->to, " CRC-32 %08x", p->crc32);
    if (p->words)
        fprintf(w->to,
                "  %" G_GUINT64_FORMAT " word%s from pass 1: %" G_GUINT64_FORMAT
                " bit%s became 1, %" G_GUINT64_FORMAT " became 0",
                p->words, p->words == 1 ? " differs" : "s differ", p->to_one,
                p->to_one == 1 ? "" : "s", p->to_zero);
    fputc('\n', w->to);
    fflush(w->to);
}

/* Every pass that says something new: the first, changes of the checksum, and the last. */
static bool worth_printing(const watching *w, size_t n)
{
    return n == 0 || w->watch.passes[n].crc32 != w->watch.passes[n - 1].crc32 ||
           w->watch.passes[n].heat_typed != w->watch.passes[n - 1].heat_typed ||
           (w->watch.passes[n].heat_typed &&
            w->watch.passes[n].heat_millic != w->watch.passes[n - 1].heat_millic);
}

static rmg_status watch_passes(watching *w)
{
    const rmg_target *t = &w->bench->target.target;
    rmg_status status = RMG_OK;
    size_t quiet = 0;

    for (size_t n = 0;; n++) {
        read_typed(w);
        if (w->live && rmg_live_heat(w->live) != RMG_NOT_KNOWN)
            w->watch.typed_millic = rmg_live_heat(w->live);
        status = rmg_rom_passes_read(&w->watch, t, seconds, go_on, w);
        if (status != RMG_OK)
            break;
        if (worth_printing(w, n)) {
            progress_end();
            if (quiet)
                fprintf(w->to, "  ... %zu pass%s alike\n", quiet, quiet == 1 ? "" : "es");
            print_pass(w, n);
            quiet = 0;
        } else {
            quiet++;
        }
        if ((w->call->until_change && w->watch.first_change) ||
            (w->call->passes && n + 1u >= (size_t)w->call->passes) ||
            (w->call->seconds > 0 && w->watch.passes[n].seconds >= w->call->seconds) ||
            n + 1u >= RMG_ROM_PASSES_MOST)
            break;
        pause_between(w);
    }
    progress_end();
    if (quiet) {
        fprintf(w->to, "  ... %zu pass%s alike, the last:\n", quiet, quiet == 1 ? "" : "es");
        print_pass(w, w->watch.count - 1u);
    }
    return status;
}

static void print_moved(const watching *w)
{
    const rmg_rom_passes *watch = &w->watch;
    const rmg_rom_pass *p = &watch->passes[watch->first_change - 1u];
    GString *text = g_string_new(NULL);
    char name[64];

    g_string_append_printf(text, "It first differed in pass %u, after %.1f s", watch->first_change,
                           p->seconds);
    if (p->heat_millic != RMG_HEAT_UNKNOWN)
        g_string_append_printf(text, ", at %.1f C (%s)", p->heat_millic / 1000.0,
                               p->heat_typed ? "typed in" : "reported by the port");
    g_string_append_printf(text, ". %" G_GUINT64_FORMAT " bit%s moved in all.", watch->moved_in_all,
                           watch->moved_in_all == 1 ? "" : "s");
    print_wrapped(w->call->to, "\n", 2, text->str);
    g_string_set_size(text, 0);
    for (uint8_t bit = 0; bit < watch->reading.rom.bits; bit++)
        if (watch->by_bit[bit])
            g_string_append_printf(text, "%s%s: %" G_GUINT64_FORMAT, text->len ? ", " : "",
                                   rmg_rom_bit_text(&watch->reading.rom, bit, name, sizeof name),
                                   watch->by_bit[bit]);
    print_wrapped(w->call->to, "  by data bit  ", 15, text->str);
    for (size_t i = 0; i < watch->moved_count && i < 8; i++)
        fprintf(w->call->to, "  %s D%u: %s in pass %u\n",
                rmg_rom_address_text(&watch->reading.rom, watch->moved[i].word, name, sizeof name),
                watch->reading.rom.bus_bit[watch->moved[i].bit],
                watch->moved[i].now ? "0 to 1" : "1 to 0", watch->moved[i].pass);
    g_string_free(text, TRUE);
}

/* " at 24.5 C", where a pass has a temperature. */
static void add_heat(GString *text, const rmg_rom_pass *pass)
{
    if (pass->heat_millic != RMG_HEAT_UNKNOWN)
        g_string_append_printf(text, " at %.1f C", pass->heat_millic / 1000.0);
}

/* Pass 1, with every bit that moved since marked. */
static bool show(const watching *w)
{
    const rmg_rom *rom = &w->bench->rom;
    uint8_t *moved = g_malloc0((gsize)rmg_rom_bytes(rom));
    char name[160];
    GString *title = g_string_new(rmg_rom_name(rom, name, sizeof name));
    rmg_rom_view view;
    uint8_t names[64];
    bool ok;

    for (uint64_t i = 0; i < rom->words; i++)
        rmg_rom_put(rom, moved, i, w->watch.moved_bits[i]);
    g_string_append(title, ", pass 1");
    add_heat(title, &w->watch.passes[0]);
    if (w->watch.count > 1) {
        g_string_append_printf(title, "; marked: what moved up to pass %zu", w->watch.count);
        add_heat(title, &w->watch.passes[w->watch.count - 1]);
    }
    rmg_rom_view_of(rom, w->watch.first_image, names, &view);
    view.unsteady = moved;
    ok = view_show("dump", w->call->view, view, title->str, w->call->to);
    g_string_free(title, TRUE);
    g_free(moved);
    return ok;
}

static int write_json(const watching *w, const char *on, bool complete)
{
    const rmg_suspects none = {0};
    const rmg_rom_result result = {.board = w->bench->board,
                                   .target = on,
                                   .action = "watch",
                                   .complete = complete,
                                   .rom = &w->bench->rom,
                                   .watch = &w->watch,
                                   .suspects = &none};
    char *text = rmg_rom_json(&result);
    const bool written = write_result(w->call->json, text);

    rmg_text_free(text);
    return written ? EXIT_PASS : EXIT_CALL;
}

int watch_rom(const watch_call *call, rom_bench *bench, const char *on)
{
    watching w = {.bench = bench, .call = call};
    rmg_status status = rmg_rom_passes_begin(&w.watch, &bench->rom, &bench->target.target);
    char name[160], *passes = NULL;
    size_t length = 0;
    int result = EXIT_PASS;

    if (status == RMG_OK) {
        fprintf(call->to, "%s of %s, watched%s\n", rmg_rom_name(&bench->rom, name, sizeof name),
                bench->board->name, bench->rom.bare ? ", bare in an adapter" : "");
        progress_start();
        w.to = call->to;
        if (call->live) /* what it prints is kept until the screen is given back */
            w.to = kept_text(&passes, &length);
        if (call->live)
            w.live = rmg_live_begin(bench->board, rmg_rom_name(&bench->rom, name, sizeof name));
        status = watch_passes(&w);
        rmg_live_end(w.live);
        if (call->live) {
            fclose(w.to);
            fwrite(passes, 1, length, call->to);
            free(passes);
        }
        progress_end();
    }
    if (w.watch.first_change)
        print_moved(&w);
    else if (w.watch.count > 1)
        fprintf(call->to, "\nNothing moved in %zu passes.\n", w.watch.count);
    if (status != RMG_OK)
        fprintf(call->to, "NOT COMPLETE: %s.\n", rmg_status_text(status));
    if (w.watch.count && view_wanted(call->view) && !show(&w))
        result = EXIT_CALL;
    if (result == EXIT_PASS && call->json && w.watch.count)
        result = write_json(&w, on, status == RMG_OK);
    if (result == EXIT_PASS)
        result = status != RMG_OK       ? EXIT_INCOMPLETE
                 : w.watch.first_change ? EXIT_FAULTS
                                        : EXIT_PASS;
    rmg_rom_passes_end(&w.watch);
    return result;
}
