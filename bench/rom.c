/* How often what is said of a ROM that reads wrong is right, how sure it was, and whether a broken
 * line was ever called proved.
 *
 *   bench-rom [COUNT] [SEED] [list|small|small-list|few|few-list]
 *
 * `list` prints the cases that were not right; `small` draws small chips with little in them, `few`
 * such as hold 1 to 24 words, which fills the tenths of what was said in the middle. Judged is the
 * first suspect, with what it says fits as well. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/report.h"
#include "rom_world.h"

#define READINGS 3u

static const char *const parts8[] = {"2716",  "2732",  "2764",  "27128", "27256",
                                     "27512", "27010", "27020", "27040", "27080"};

static rmg_board *board_of(const world *w)
{
    static const char *const undriven[] = {"high", "low", "holds"};
    const unsigned wide = w->bits == 16, top = w->lines + wide;
    const char *part = w->pair                  ? parts8[w->lines - 11]
                       : wide && w->lines == 16 ? "27210"
                       : wide                   ? "27220"
                                                : parts8[w->lines - 11];
    char text[1200];
    rmg_board *board = NULL;
    rmg_errors errors = {0};

    snprintf(text, sizeof text,
             "board: made up\nword: %u\naddress-lines: %u\nundriven: %s\nregions:\n"
             "  - {name: program, range: 0x0-0x%lX, kind: rom}\n"
             "  - {name: free, range: 0x%lX-0x%lX, kind: empty}\nbanks:\n"
             "  - {name: program, range: 0x0-0x%lX, part: \"%s\", lines: A%u-A%u, data: {U1: "
             "D0-D%u%s}}\nsockets:\n  - {names: U1%s, mount: socket}\n",
             w->bits, top + 1, undriven[w->undriven], (1ul << top) - 1, 1ul << top,
             (2ul << top) - 1, (1ul << top) - 1, part, wide, top - 1, wide && !w->pair ? 15u : 7u,
             w->pair ? ", U2: D8-D15" : "", w->pair ? "-U2" : "");
    if (rmg_board_load_text("made-up.yaml", text, &board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n%s\n", text, errors.count ? errors.list[0].what : "");
        exit(2);
    }
    return board;
}

/* Image bytes of words. */
static void bytes_of(const rmg_rom *rom, const uint16_t *words, uint8_t *bytes)
{
    for (uint64_t i = 0; i < rom->words; i++)
        rmg_rom_put(rom, bytes, i, words[i]);
}

/* Would these lines give what is read? */
static bool order_fits(const world *w, const rmg_explanation *e, bool data)
{
    for (uint64_t i = 0; i < w->count; i++) {
        uint64_t from = data ? w->good[i] : i ^ e->invert, to = 0;

        for (unsigned k = 0; k < (data ? w->bits : w->lines); k++)
            to |= data ? (from >> e->order[k] & 1u) << k : (from >> k & 1u) << e->order[k];
        if (data) {
            uint64_t seen = 0;

            for (unsigned k = 0; k < w->bits; k++)
                seen |= ((uint64_t)w->good[i] >> w->order[k] & 1u) << k;
            if ((to ^ e->invert) != (seen ^ w->invert))
                return false;
        } else if (w->good[to] != w->held[i]) {
            return false;
        }
    }
    return true;
}

static bool blank_fits(const world *w, const rmg_explanation *e)
{
    const uint64_t end = w->what == FLAW_STOPPED_EARLY ? w->count : w->first + w->length;
    const uint64_t first = e->kind == RMG_DIFF_HALF_BLANK ? w->count / 2 : e->first;
    const uint64_t last = e->kind == RMG_DIFF_HALF_BLANK ? w->count : e->first + e->count;

    if (e->kind == RMG_DIFF_HALF_BLANK ? !e->a : e->kind != RMG_DIFF_BLANK || !e->level)
        return false;
    for (uint64_t i = 0; i < w->count; i++) /* where the two differ, all is blank anyway */
        if ((i >= first && i < last) != (i >= w->first && i < end) &&
            w->good[i] != (w->bits == 16 ? 0xFFFF : 0xFF))
            return false;
    return true;
}

/* Is there one value only, from there on? */
static bool alike_from(const world *w, uint64_t first)
{
    for (uint64_t i = first; i + 1u < w->count; i++)
        if (w->good[i] != w->good[i + 1u])
            return false;
    return true;
}

static bool pair_is(const world *w, const rmg_explanation *e)
{
    return (e->a == w->a && e->b == w->b) || (e->a == w->b && e->b == w->a);
}

static bool line_fits(const world *w, const rmg_explanation *e)
{
    switch (w->what) {
    case FLAW_DATA_STUCK:
        return e->kind == RMG_DIFF_DATA_STUCK && e->a == w->a && e->level == w->level;
    case FLAW_DATA_OPEN:
        return e->a == w->a && (e->kind == RMG_DIFF_DATA_FLOATS || e->kind == RMG_DIFF_DATA_STUCK);
    case FLAW_DATA_TOUCH:
        return e->kind == RMG_DIFF_DATA_SHORTED && pair_is(w, e) && e->level == w->level;
    case FLAW_DATA_EXCHANGED:
        return e->kind == RMG_DIFF_DATA_SWAPPED && pair_is(w, e);
    case FLAW_DATA_SELDOM:
        return e->a == w->a &&
               (e->kind == RMG_DIFF_DATA_STUCK || e->kind == RMG_DIFF_DATA_FLOATS) && e->sometimes;
    case FLAW_LINE_STUCK:
        return e->kind == RMG_DIFF_LINE_STUCK && e->a == w->a && e->level == w->level;
    case FLAW_ONE_OF_TWO:
        return e->kind == RMG_DIFF_LINE_STUCK && e->a == w->a && e->level == w->level &&
               e->part == 2;
    case FLAW_LINE_TOUCH:
        return e->kind == RMG_DIFF_LINE_SHORTED && pair_is(w, e) && e->level == w->level;
    case FLAW_LINE_EXCHANGED:
        return e->kind == RMG_DIFF_LINE_SWAPPED && pair_is(w, e);
    case FLAW_LINE_SELDOM:
        return e->kind == RMG_DIFF_LINE_STUCK && e->a == w->a && e->level == w->level &&
               e->sometimes;
    default:
        return false;
    }
}

static bool fits(const world *w, const rmg_explanation *e)
{
    switch (w->what) {
    case FLAW_DATA_ORDER:
        return (e->kind == RMG_DIFF_DATA_PERMUTED && order_fits(w, e, true)) ||
               (e->kind == RMG_DIFF_DATA_INVERTED && w->invert);
    case FLAW_LINE_ORDER:
        return e->kind == RMG_DIFF_LINE_PERMUTED && order_fits(w, e, false);
    case FLAW_ROTATED:
        return e->kind == RMG_DIFF_OFFSET && e->offset == w->first;
    case FLAW_TOO_HIGH:
    case FLAW_TOO_LOW:
        return e->kind == RMG_DIFF_MOVED && e->offset == w->first &&
               e->level == (w->what == FLAW_TOO_HIGH);
    case FLAW_INSERTED:
    case FLAW_MISSING:
        if (e->kind == RMG_DIFF_PATCHED) /* with nothing behind it to be moved */
            return w->what == FLAW_INSERTED && alike_from(w, w->first);
        return e->kind == RMG_DIFF_SHIFTED && e->offset == w->length &&
               e->level == (w->what == FLAW_INSERTED) && e->first - e->count <= w->first + 256 &&
               w->first <= e->first + 256;
    case FLAW_PART_REPEATED:
        return (e->kind == RMG_DIFF_REPEATED && (uint64_t)1 << e->a == w->length &&
                e->offset == w->first) ||
               (e->kind == RMG_DIFF_LINE_STUCK && e->a + 1u == w->lines && e->level == w->first &&
                w->length == w->count / 2);
    case FLAW_STOPPED_EARLY:
    case FLAW_BLOCK_BLANK:
        return blank_fits(w, e);
    case FLAW_FADING:
    case FLAW_TO_ZERO:
        return e->kind == RMG_DIFF_CELLS && e->level == (w->what == FLAW_FADING);
    case FLAW_WEAK:
        return e->kind == RMG_DIFF_CELLS;
    case FLAW_PATCHED:
        return e->kind == RMG_DIFF_PATCHED;
    case FLAW_ANOTHER:
        return e->kind == RMG_DIFF_ANOTHER && !e->level;
    case FLAW_ANOTHER_KNOWN:
        return e->kind == RMG_DIFF_WITH_IMAGE && e->other == 1 && e->level == w->level;
    case FLAW_OTHER_IMAGE:
        return e->kind == RMG_DIFF_OTHER_IMAGE && e->other == 2;
    case FLAW_UNKNOWN_IMAGE:
        return e->kind == RMG_DIFF_UNKNOWN;
    default:
        return line_fits(w, e);
    }
}

static bool line_of_address(flaw what)
{
    return (what >= FLAW_LINE_STUCK && what <= FLAW_LINE_SELDOM) || what == FLAW_ONE_OF_TWO;
}

static bool group_fits(const world *w, const rmg_explained *step)
{
    bool right = fits(w, &step->is);

    for (size_t i = 0; i < step->alike_count; i++)
        right |= fits(w, &step->alike[i]);
    return right;
}

/* Is the chip itself blank, where it is no line that shows it so? */
static bool holds_nothing(const world *w)
{
    for (uint64_t i = 1; i < w->count; i++)
        if (w->held[i] != w->held[0])
            return false;
    return !line_of_address(w->what);
}

/* `alone`: the first must be it itself, not what fits as well. */
static bool right_of(const world *w, const rmg_comparison *c, const rmg_saying *first, bool alone)
{
    const bool silent = first->said == RMG_SAY_ROM_NOTHING || first->said == RMG_SAY_ROM_ONES ||
                        first->said == RMG_SAY_ROM_ZEROS || first->said == RMG_SAY_ROM_BLANK ||
                        first->said == RMG_SAY_ROM_DRIVES_ZEROS;

    if (silent && (w->what == FLAW_NO_ANSWER || holds_nothing(w)))
        return true;
    if (silent || w->what == FLAW_NO_ANSWER) /* or a line that is listed beside it */
        return silent && !alone &&
               ((c->step_count && group_fits(w, &c->steps[0])) || c->hidden > 0 ||
                (w->what == FLAW_ONE_OF_TWO && c->hidden_bit[8] > 0));
    if (first->said == RMG_SAY_ROM_UNSTEADY)
        return w->what == FLAW_WEAK;
    for (size_t i = 0; i < c->step_count; i++) /* which step is it? */
        if (c->steps[i].is.kind == first->difference && c->steps[i].is.a == first->bit &&
            c->steps[i].is.level == first->level)
            return alone ? fits(w, &c->steps[i].is) : group_fits(w, &c->steps[i]);
    return alone ? fits(w, &c->rest.is) : group_fits(w, &c->rest);
}

/* Lines that are broken and called proved. */
static bool proved_wrong(const world *w, const rmg_comparison *c)
{
    const bool two = w->what == FLAW_DATA_TOUCH || w->what == FLAW_DATA_EXCHANGED ||
                     w->what == FLAW_LINE_TOUCH || w->what == FLAW_LINE_EXCHANGED;
    uint64_t broken = (uint64_t)1 << w->a | (two ? (uint64_t)1 << w->b : 0);

    if (w->what == FLAW_DATA_ORDER || w->what == FLAW_LINE_ORDER) {
        broken = w->invert;
        for (unsigned k = 0; k < 24; k++)
            broken |= (uint64_t)(w->order[k] != k && w->order[k]) << k;
    }
    if (w->what >= FLAW_DATA_STUCK && w->what <= FLAW_DATA_SELDOM)
        return c->proved_bits & broken;
    if ((w->what >= FLAW_LINE_STUCK && w->what <= FLAW_LINE_SELDOM) || w->what == FLAW_ONE_OF_TWO)
        return c->proved_lines & broken;
    return false;
}

typedef struct score {
    unsigned cases[FLAWS][IMAGE_SORTS], right[FLAWS][IMAGE_SORTS];
    unsigned stated[10], true_of[10];
    double sum[10];
    unsigned sure_wrong, proved_wrong, healthy, accused, unseen;
} score;

static void print_case(const world *w, uint64_t seed, const rmg_rom *rom, const rmg_verify *v,
                       const rmg_suspects *s)
{
    static const char *const names[] = {"0", "1", "2"};
    const rmg_explained *best =
        v->comparison.step_count ? &v->comparison.steps[0] : &v->comparison.rest;
    char *text = rmg_explanation_text(rom, &best->is, names);

    printf("%llu %s, %s, %u x %u: a %u b %u level %u first %llu length %llu; %.0f %%: %s, %s [%s, "
           "%zu more, %llu of %llu left]\n",
           (unsigned long long)seed, flaw_names[w->what], image_names[w->sort], w->lines, w->bits,
           w->a, w->b, w->level, (unsigned long long)w->first, (unsigned long long)w->length,
           s->count ? 100 * s->list[0].confidence : 0.0, s->count ? s->list[0].site : "no suspect",
           s->count ? s->list[0].kind : "", text, best->alike_count,
           (unsigned long long)v->comparison.left, (unsigned long long)v->comparison.wrong_bits);
    rmg_text_free(text);
    for (size_t i = 0; i < best->alike_count; i++) {
        text = rmg_explanation_text(rom, &best->alike[i], names);
        printf("    or (%.0f %%) %s\n", 100 * best->alike[i].share, text);
        rmg_text_free(text);
    }
}

static void count_case(score *to, const world *w, uint64_t seed, const rmg_rom_case *rc,
                       const rmg_verify *v, bool list)
{
    rmg_suspects s;
    bool right = false, seen;

    rmg_rom_suspects(rc, &s);
    rmg_rom_suspects_word(rc, &s);
    seen = v->comparison.wrong_bits || v->quality.unsteady_bits || v->quality.follows;
    if (proved_wrong(w, &v->comparison)) {
        to->proved_wrong++;
        if (list)
            print_case(w, seed, rc->rom, v, &s);
    }
    if (w->what == FLAW_NONE) {
        to->healthy++;
        to->accused += s.count > 0;
    } else if (!seen) {
        to->unseen++;
    } else {
        const double sure = s.count ? s.list[0].confidence : 0;
        const unsigned tenth = sure >= 1 ? 9 : (unsigned)(10 * sure);

        right = s.count && right_of(w, &v->comparison, &s.list[0].is, false);
        to->cases[w->what][w->sort]++;
        to->right[w->what][w->sort] += right;
        to->stated[tenth]++;
        to->true_of[tenth] += s.count && right_of(w, &v->comparison, &s.list[0].is, true);
        to->sum[tenth] += sure;
        to->sure_wrong += !right && sure >= 0.8;
        if ((!right || (sure > 0.2 && sure < 0.7)) && list)
            print_case(w, seed, rc->rom, v, &s);
    }
    rmg_suspects_free(&s);
}

static void run(score *to, uint64_t seed, bool list, world_form form)
{
    world w;
    rmg_board *board;
    rmg_rom rom;
    rmg_error error;
    rmg_verify v;
    rmg_words others[WORLD_OTHERS];
    uint8_t *good, *images[WORLD_OTHERS];
    static const char *const names[] = {"first", "second", "third"};

    world_make(&w, seed, form);
    board = board_of(&w);
    if (rmg_rom_find(board, w.pair ? "program" : "U1", &rom, &error) != RMG_OK) {
        fprintf(stderr, "%s\n", error.what);
        exit(2);
    }
    good = malloc(rmg_rom_bytes(&rom));
    bytes_of(&rom, w.good, good);
    for (unsigned i = 0; i < WORLD_OTHERS; i++) {
        images[i] = malloc(rmg_rom_bytes(&rom));
        bytes_of(&rom, w.others[i], images[i]);
        others[i] = rmg_rom_words(&rom, images[i]);
    }
    if (rmg_verify_run(&v, &rom, &(rmg_target){&world_bus, &w, w.bits == 16 ? 0xFFFF : 0xFF},
                       READINGS, good, others, WORLD_OTHERS, NULL, NULL) == RMG_OK) {
        const rmg_rom_case rc = {.rom = &rom,
                                 .board = board,
                                 .quality = &v.quality,
                                 .comparison = &v.comparison,
                                 .other_names = names};

        count_case(to, &w, seed, &rc, &v, list);
    }
    rmg_verify_end(&v);
    for (unsigned i = 0; i < WORLD_OTHERS; i++)
        free(images[i]);
    free(good);
    rmg_board_free(board);
    world_end(&w);
}

static void print(const score *s)
{
    unsigned all = 0, right = 0, sparse = 0, sparse_right = 0;

    printf("%-20s", "right of");
    for (unsigned i = 0; i < IMAGE_SORTS; i++)
        printf("%12s", image_names[i]);
    putchar('\n');
    for (unsigned f = 1; f < FLAWS; f++) {
        printf("%-20s", flaw_names[f]);
        for (unsigned i = 0; i < IMAGE_SORTS; i++) {
            char text[24];

            snprintf(text, sizeof text, "%u/%u", s->right[f][i], s->cases[f][i]);
            printf("%12s", text);
            all += s->cases[f][i];
            right += s->right[f][i];
            sparse += i == IMAGE_SPARSE ? s->cases[f][i] : 0;
            sparse_right += i == IMAGE_SPARSE ? s->right[f][i] : 0;
        }
        putchar('\n');
    }
    printf("\nall: %u of %u (%.2f %%); sparse: %u of %u (%.2f %%); others: %u of %u (%.2f %%)\n",
           right, all, 100.0 * right / (all ? all : 1), sparse_right, sparse,
           100.0 * sparse_right / (sparse ? sparse : 1), right - sparse_right, all - sparse,
           100.0 * (right - sparse_right) / (all - sparse ? all - sparse : 1));
    printf("wrong at 80 %% or more: %u; broken and called proved: %u; healthy accused: %u of %u; "
           "showed nothing: %u\n",
           s->sure_wrong, s->proved_wrong, s->accused, s->healthy, s->unseen);
    for (unsigned t = 0; t < 10; t++)
        if (s->stated[t])
            printf("  said %.1f to %.1f: %5u cases, %.1f %% on average, itself right in %.1f %%\n",
                   t / 10.0, (t + 1) / 10.0, s->stated[t], 100 * s->sum[t] / s->stated[t],
                   100.0 * s->true_of[t] / s->stated[t]);
}

int main(int argc, char **argv)
{
    const uint64_t count = argc > 1 ? strtoull(argv[1], NULL, 10) : 2000;
    const uint64_t seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    const char *mode = argc > 3 ? argv[3] : "";
    const world_form form = strncmp(mode, "small", 5) == 0 ? WORLD_SMALL
                            : strncmp(mode, "few", 3) == 0 ? WORLD_FEW
                                                           : WORLD_ANY;
    const bool list = strstr(mode, "list");
    score *s = calloc(1, sizeof *s);

    for (uint64_t i = 0; i < count; i++)
        run(s, seed + i, list, form);
    print(s);
    free(s);
    return 0;
}
