/* Findings of ROMs in words: what was read, what it can be, and what tells. */
#include "rimeglass/romfind.h"

#include <glib.h>
#include <string.h>

#include "romfind_internal.h"

static const char *const names[] = {
    "data_floats",   "data_stuck", "data_swapped", "data_shorted", "data_permuted",
    "data_inverted", "line_stuck", "line_swapped", "line_shorted", "line_inverted",
    "bytes_swapped", "offset",     "half_blank",   "other_image"};

const char *rmg_difference_name(rmg_difference kind)
{
    return names[kind];
}

static char *bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room)
{
    return rmg_rom_bit_text(rom, bit, text, room);
}

/* A permutation as a list, from the lowest line up. */
static char *order_text(const rmg_rom *rom, const rmg_explanation *e)
{
    GString *text = g_string_new("the data lines are permuted: from D0 up they carry ");

    for (uint8_t i = 0; i < rom->bits; i++)
        g_string_append_printf(text, "%sD%u", i ? ", " : "", e->order[i]);
    return g_string_free(text, FALSE);
}

char *rmg_explanation_text(const rmg_rom *rom, const rmg_explanation *e,
                           const char *const *other_names)
{
    const bool data = e->kind <= RMG_DIFF_DATA_SHORTED;
    const bool lines = e->kind >= RMG_DIFF_LINE_STUCK && e->kind <= RMG_DIFF_LINE_INVERTED;
    char a[64] = "", b[64] = "";

    if (data || (lines && e->a < rom->lines))
        (data ? bit_text : rmg_rom_line_text)(rom, e->a, a, sizeof a);
    if ((data && e->b < rom->bits) || (lines && e->b < rom->lines))
        (data ? bit_text : rmg_rom_line_text)(rom, e->b, b, sizeof b);
    switch (e->kind) {
    case RMG_DIFF_DATA_FLOATS:
        return g_strdup_printf("%s is not driven: it reads what was last on the line", a);
    case RMG_DIFF_DATA_STUCK:
        return g_strdup_printf("%s always reads %u", a, e->level);
    case RMG_DIFF_DATA_SWAPPED:
        return g_strdup_printf("%s and %s have changed places", a, b);
    case RMG_DIFF_DATA_SHORTED:
        return g_strdup_printf("%s and %s touch: both read %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_DATA_PERMUTED:
        return order_text(rom, e);
    case RMG_DIFF_DATA_INVERTED:
        return g_strdup("every bit is inverted");
    case RMG_DIFF_LINE_STUCK:
        return g_strdup_printf("%s is seen as %u: the words where it is %u show twice", a, e->level,
                               e->level);
    case RMG_DIFF_LINE_SWAPPED:
        return g_strdup_printf("%s and %s have changed places", a, b);
    case RMG_DIFF_LINE_SHORTED:
        return g_strdup_printf("%s and %s touch: both are %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_LINE_INVERTED:
        return e->a + 1u == rom->lines
                   ? g_strdup_printf("the two halves have changed places (%s inverted)", a)
               : e->a == 0 && rom->bytes == 1 ? g_strdup("even and odd bytes have changed places")
                                              : g_strdup_printf("%s is inverted", a);
    case RMG_DIFF_BYTES_SWAPPED:
        return g_strdup("the bytes of each word have changed places: even and odd are exchanged");
    case RMG_DIFF_OFFSET:
        return g_strdup_printf("it is the image from its byte 0x%" G_GINT64_MODIFIER
                               "X on: the offset is wrong",
                               (guint64)(e->offset * rom->bytes));
    case RMG_DIFF_HALF_BLANK:
        return g_strdup_printf("the %s half is blank: only half of the image is there",
                               e->a ? "upper" : "lower");
    case RMG_DIFF_OTHER_IMAGE:
        return g_strdup_printf("it is another image of the catalogue: %s",
                               other_names ? other_names[e->other] : "another image");
    }
    return g_strdup("");
}

static rmg_rom_words_in wording(const rmg_rom_case *rc)
{
    rmg_rom_words_in w = {.rc = rc,
                          .because = g_ptr_array_new(),
                          .next = g_ptr_array_new(),
                          .rivals = g_array_new(FALSE, TRUE, sizeof(rmg_rival))};

    w.socket = rc->rom->socket;
    if (rc->rom->bare)
        w.socket = rmg_board_socket(rc->board, rc->rom->board->sockets[0].name);
    if (w.socket != RMG_NO_SOCKET) {
        w.name = rc->board->sockets[w.socket].name;
        w.soldered = rc->board->sockets[w.socket].soldered;
    } else {
        w.name = rc->rom->region->name;
    }
    w.s.finding.socket = w.socket;
    w.s.finding.bank = RMG_NO_BANK;
    w.s.finding.point = RMG_NO_POINT;
    return w;
}

/* Shares made to add up to 1, the likeliest first. */
static gint by_share(gconstpointer a, gconstpointer b)
{
    const rmg_rival *x = a, *y = b;

    return (x->share < y->share) - (x->share > y->share);
}

static void settle(rmg_rom_words_in *w, GArray *list)
{
    double sum = 0;

    for (guint i = 0; i < w->rivals->len; i++)
        sum += g_array_index(w->rivals, rmg_rival, i).share;
    for (guint i = 0; i < w->rivals->len; i++)
        g_array_index(w->rivals, rmg_rival, i).share /= sum;
    g_array_sort(w->rivals, by_share);
    if (!w->s.settle)
        w->s.settle = g_strdup("");
    w->s.rival_count = w->rivals->len;
    w->s.rivals = (rmg_rival *)(void *)g_array_free(w->rivals, FALSE);
    g_ptr_array_add(w->because, NULL);
    g_ptr_array_add(w->next, NULL);
    w->s.because = (char **)g_ptr_array_free(w->because, FALSE);
    w->s.next = (char **)g_ptr_array_free(w->next, FALSE);
    g_array_append_val(list, w->s);
}

typedef void (*describe)(rmg_rom_words_in *w, const void *what);

static void add(const rmg_rom_case *rc, describe how, const void *what, GArray *list)
{
    rmg_rom_words_in w = wording(rc);

    how(&w, what);
    settle(&w, list);
}

/* Is nearly all that no line explains unsteady? Then it is told as that. */
static bool left_unsteady(const rmg_comparison *c)
{
    return c->left_unsteady >= c->left - c->left / 10u;
}

static void compared(const rmg_rom_case *rc, GArray *list)
{
    const rmg_comparison *c = rc->comparison;

    for (size_t i = 0; i < c->step_count; i++)
        add(rc, rmg_romfind_step, &c->steps[i], list);
    if (c->left && !left_unsteady(c))
        add(rc, rmg_romfind_left, c, list);
}

static gint surest(gconstpointer a, gconstpointer b)
{
    const rmg_suspect *x = a, *y = b;

    return (x->explained < y->explained) - (x->explained > y->explained);
}

/* One finding for each chip of a region that does not answer, where that is not as it should be. */
static void silent_chips(const rmg_rom_case *rc, GArray *list)
{
    rmg_word left = rc->quality->silent;

    for (uint8_t bit = 0; left && bit < rc->rom->bits; bit++) {
        rmg_rom_words_in w;
        rmg_quality q = *rc->quality;
        uint64_t wrong = 0;
        uint16_t socket;
        uint8_t pin;

        if (!(left >> bit & 1u))
            continue;
        rmg_rom_bit_pin(rc->rom, bit, &socket, &pin);
        for (uint8_t i = bit; i < rc->rom->bits; i++) {
            uint16_t other;

            rmg_rom_bit_pin(rc->rom, i, &other, &pin);
            if (other != socket)
                continue;
            left &= ~((rmg_word)1 << i);
            if (rc->comparison)
                wrong += rc->comparison->by_bit[i][0] + rc->comparison->by_bit[i][1];
        }
        if (rc->comparison && !wrong)
            continue;
        q.state = q.follows >> bit & 1u          ? RMG_READ_NOTHING
                  : q.constant_level >> bit & 1u ? RMG_READ_ONES
                                                 : RMG_READ_ZEROS;
        w = wording(rc);
        w.socket = w.s.finding.socket = socket;
        w.name = rc->board->sockets[socket].name;
        w.soldered = rc->board->sockets[socket].soldered;
        rmg_romfind_nothing(&w, &q);
        settle(&w, list);
    }
}

void rmg_rom_suspects(const rmg_rom_case *rc, rmg_suspects *suspects)
{
    const rmg_quality *q = rc->quality;
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_suspect));

    if (q->state == RMG_READ_NOTHING ||
        (q->state == RMG_READ_ONES && (!rc->comparison || rc->comparison->wrong_bits)) ||
        (q->state == RMG_READ_ZEROS && (!rc->comparison || rc->comparison->wrong_bits))) {
        add(rc, rmg_romfind_nothing, q, list);
    } else if (q->state != RMG_READ_NONE) {
        silent_chips(rc, list);
        if (rc->comparison)
            compared(rc, list);
        else
            rmg_romfind_plausible(rc, add, list);
        if (q->unsteady_bits && (!rc->comparison || left_unsteady(rc->comparison)))
            add(rc, rmg_romfind_unsteady, q, list);
        g_array_sort(list, surest);
    }
    suspects->count = list->len;
    suspects->list = (rmg_suspect *)(void *)g_array_free(list, FALSE);
}
