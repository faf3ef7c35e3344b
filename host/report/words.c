/* Sayings put into words: names in braces filled in, numbers of things given. */
#include "words.h"

#include <string.h>

#include "rimeglass/sim.h"

#define NAME_ROOM 160u

/* One name in braces: what it stands for, added to the text. */
typedef void (*filler)(const rmg_wording *w, const rmg_saying *s, GString *to);

static void take(GString *to, gchar *text)
{
    g_string_append(to, text);
    g_free(text);
}

static const rmg_socket *socket_of(const rmg_wording *w, const rmg_saying *s)
{
    return &w->board->sockets[s->socket];
}

static void fill_socket(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, socket_of(w, s)->name);
}

static void fill_other(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, w->board->sockets[s->other].name);
}

static void fill_part(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const char *number = socket_of(w, s)->part->number;
    const bool numbered = strpbrk(number, "0123456789") != NULL;

    g_string_append_printf(to, numbered ? "%s" : "%s chip", number);
}

static void fill_supplies(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, socket_of(w, s)->part->supplies);
}

static void fill_we(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const uint8_t pin = rmg_part_pin(socket_of(w, s)->part, "WE");

    if (pin)
        g_string_append_printf(to, "pin %u (WE)", pin);
    else
        g_string_append(to, "its write pin (WE)");
}

static void fill_bits(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    take(to, rmg_name_bits(s->bits));
}

static void fill_lines(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_lines(w->board, s->lines));
}

/* Lines that disturb the one that it is about: address lines where that is one. */
static void fill_by(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);

    for (uint8_t i = 0; i < 64; i++) {
        char first[24], last[24];
        uint8_t end = i;

        if (!(s->by >> i & 1u))
            continue;
        while (end < 63 && (s->by >> (end + 1u) & 1u))
            end++;
        end = end - i < 2 ? i : end; /* three and more become "D0-D4" */
        if (s->lines) {
            rmg_board_line_text(w->board, i, first, sizeof first);
            rmg_board_line_text(w->board, end, last, sizeof last);
        } else {
            g_snprintf(first, sizeof first, "D%u", i);
            g_snprintf(last, sizeof last, "D%u", end);
        }
        g_ptr_array_add(names, end > i ? g_strdup_printf("%s-%s", first, last) : g_strdup(first));
        i = end;
    }
    take(to, rmg_join(names));
}

/* What the line is to do meanwhile, bits of `k`: rmg_noisy_line. */
static void fill_ways(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    static const char *const ways[] = {"stays at 0", "stays at 1", "rises", "falls"};
    unsigned count = 0;

    (void)w;
    for (unsigned i = 0; i < G_N_ELEMENTS(ways); i++)
        if (s->k >> i & 1u)
            g_string_append_printf(to, "%s%s", count++ ? " or " : "", ways[i]);
}

static void fill_bank(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_bank(w->board, s->bank));
}

static void fill_bank2(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_bank(w->board, s->bank2));
}

/* Where a sentence begins with it. */
static void fill_bank2_first(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    gchar *text = rmg_name_bank(w->board, s->bank2);

    *text = g_ascii_toupper(*text);
    take(to, text);
}

static void fill_level(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    g_string_append_printf(to, "%u", s->level);
}

static void fill_nolevel(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    g_string_append_printf(to, "%u", !s->level);
}

static void fill_n(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    g_string_append_printf(to, "%" G_GUINT64_FORMAT, (guint64)s->n);
}

static void fill_m(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    g_string_append_printf(to, "%" G_GUINT64_FORMAT, (guint64)s->m);
}

static void fill_k(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)w;
    g_string_append_printf(to, "%" G_GUINT64_FORMAT, (guint64)s->k);
}

static void fill_address(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    char text[40];

    g_string_append(to, rmg_board_address_text(w->board, s->address, text, sizeof text));
}

static void fill_stretch(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    char first[40], last[40];

    g_string_append(to, rmg_board_address_text(w->board, s->address, first, sizeof first));
    if (s->k != s->address)
        g_string_append_printf(to, "-%s",
                               rmg_board_address_text(w->board, s->k, last, sizeof last));
}

static void fill_reads(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)s;
    g_string_append(to, rmg_name_level(&w->suspect->finding));
}

static void fill_in_pins(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_data_pins(w->board, s, true, false));
}

static void fill_out_pins(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_data_pins(w->board, s, false, true));
}

/* Pins at which an undriven line would come about: an open output, where lines keep their value. */
static void fill_undriven_pins(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_data_pins(w->board, s, w->board->undriven != RMG_UNDRIVEN_HOLDS, true));
}

static void fill_address_pins(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_address_pins(w->board, s));
}

/* The pins that a contact is looked for at, and what shows where a failure stays. */
static void fill_contact_pins(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    if (s->pins == RMG_PINS_ADDRESS)
        fill_address_pins(w, s, to);
    else
        take(to, rmg_name_data_pins(w->board, s, true, s->pins == RMG_PINS_DATA));
}

static void fill_settled_bits(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    if (!s->bits)
        g_string_append(to, "the same bits as now");
    else if (s->pins == RMG_PINS_IN)
        fill_in_pins(w, s, to);
    else
        fill_bits(w, s, to);
}

static void fill_lane(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)s;
    take(to, rmg_name_lane(w->board, &w->suspect->finding));
}

static void fill_devices(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const uint8_t lane = w->suspect->finding.lane;

    take(to, rmg_name_devices(w->board, s->bits,
                              lane == RMG_NO_BANK ? NULL : &w->board->bank_wheres[lane]));
}

/* Socketed chips on the data line, in the order in which they are pulled. */
static void fill_pull(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    bool *sockets = g_new0(bool, MAX(w->board->socket_count, 1u));
    unsigned count = 0;

    rmg_finding_pulls(w->board, &w->suspect->finding, sockets);
    (void)s;
    for (size_t i = 0; i < w->board->socket_count; i++)
        if (sockets[i])
            g_string_append_printf(to, "%s%s", count++ ? ", then " : "", w->board->sockets[i].name);
    g_free(sockets);
}

static void fill_sockets(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    bool *sockets = g_new0(bool, MAX(w->board->socket_count, 1u));

    (void)s;
    rmg_finding_sockets(w->run, &w->suspect->finding, sockets);
    take(to, rmg_name_sockets(w->board, sockets));
    g_free(sockets);
}

static void fill_span(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_span(w->run, s, w->suspect->finding.kind == RMG_FINDING_BRANCH));
}

static void fill_chain(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_name_chain(w->run, s));
}

static void fill_traced(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, w->board->lines[s->line].name);
}

static void fill_point(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, w->board->lines[s->line].points[s->point].name);
}

static void fill_before(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const rmg_line *line = &w->board->lines[s->line];

    g_string_append(to, line->points[line->points[s->point].parent].name);
}

/* A side of a point of the line: the leg of a part that is meant, "U6.9" of "U6.9>U6.11". */
static void fill_side(const rmg_wording *w, const rmg_saying *s, uint64_t side, GString *to)
{
    const char *name = w->board->lines[s->line].points[side / 2u].name;
    const char *through = strchr(name, '>');

    if (through && side % 2u == 0)
        g_string_append_len(to, name, through - name);
    else
        g_string_append(to, through ? through + 1 : name);
}

static void fill_from(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    fill_side(w, s, s->n, to);
}

static void fill_to(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    fill_side(w, s, s->m, to);
}

/* Rivals that were ruled out in this way. */
static gchar *ruled_out(const rmg_wording *w, rmg_ruled how)
{
    const rmg_suspect *s = w->suspect;
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);

    for (size_t i = s->rival_count; i < s->rival_count + s->ruled_count; i++)
        if (s->rivals[i].ruled == how)
            g_ptr_array_add(names, rmg_words_fill(w, &s->rivals[i].is,
                                                  rmg_words_rows[s->rivals[i].is.said].text));
    return rmg_join(names);
}

static void fill_told(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)s;
    take(to, ruled_out(w, RMG_RULED_TOLD));
}

static void fill_refuted(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)s;
    take(to, ruled_out(w, RMG_RULED_REFUTED));
}

static gchar *fault_words(const rmg_wording *w, const rmg_replayed *r)
{
    static const char *const floating[] = {[RMG_FLOATS_AS_FILE] = "",
                                           [RMG_FLOATS_HIGH] = ", where undriven lines read 1",
                                           [RMG_FLOATS_LOW] = ", where undriven lines read 0",
                                           [RMG_FLOATS_HOLDS] =
                                               ", where undriven lines keep what was last on them"};
    gchar *text = rmg_words_fill(w, &r->is, rmg_words_rows[r->is.said].text);
    gchar *whole = g_strconcat(text, floating[r->first_floats], NULL);

    g_free(text);
    return whole;
}

static void fill_fault(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    (void)s;
    take(to, fault_words(w, &w->suspect->replays[0]));
}

/* A cell that does something at one value, of itself or while another one holds a value. */
static void fill_alone(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_words_fill(w, s, rmg_fault_rows[s->n].alone));
}

static void fill_coupled(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_words_fill(w, s, rmg_fault_rows[s->n].coupled));
}

static void fill_does(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_words_fill(w, s, rmg_words_rows[s->said].then));
}

static void fill_where(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    take(to, rmg_words_fill(w, s, rmg_words_rows[s->said].text));
}

/* Of a chip that is read: its socket, or the region. */
static void fill_name(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    g_string_append(to, s->socket != RMG_NO_SOCKET ? w->board->sockets[s->socket].name
                                                   : w->rom_case->rom->region->name);
}

static void fill_pin(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const rmg_rom *rom = w->rom_case->rom;
    char text[NAME_ROOM];

    if (rmg_difference_of_data((rmg_difference)s->difference))
        rmg_rom_bit_text(rom, s->bit, text, sizeof text);
    else
        rmg_rom_line_text_at(rom, s->socket, s->bit, text, sizeof text);
    g_string_append(to, text);
}

static void fill_pin2(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    rmg_saying other = *s;

    other.bit = s->bit2;
    fill_pin(w, &other, to);
}

/* "U5 pin 15", as far as it is known. */
static void fill_at(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const rmg_rom *rom = w->rom_case->rom;
    uint16_t socket;
    uint8_t pin;

    (rmg_difference_of_data((rmg_difference)s->difference) ? rmg_rom_bit_pin : rmg_rom_line_pin)(
        rom, s->bit, &socket, &pin);
    if (socket == RMG_NO_SOCKET)
        g_string_append(to, "the chip");
    else
        g_string_append_printf(to, "%s pin %u", rom->board->sockets[socket].name, pin);
}

static void fill_explanation(const rmg_wording *w, const rmg_saying *s, GString *to)
{
    const rmg_rom_case *c = w->rom_case;
    rmg_explanation e;
    char *text;

    rmg_explanation_of(c, s, &e);
    text = rmg_explanation_text(c->rom, &e, c->other_names);
    g_string_append(to, text);
    rmg_text_free(text);
}

static const struct {
    const char *name;
    filler fill;
} fillers[] = {
    {"socket", fill_socket},
    {"other", fill_other},
    {"part", fill_part},
    {"supplies", fill_supplies},
    {"write pin", fill_we},
    {"bits", fill_bits},
    {"lines", fill_lines},
    {"by", fill_by},
    {"ways", fill_ways},
    {"bank", fill_bank},
    {"bank2", fill_bank2},
    {"Bank2", fill_bank2_first},
    {"level", fill_level},
    {"nolevel", fill_nolevel},
    {"n", fill_n},
    {"m", fill_m},
    {"k", fill_k},
    {"address", fill_address},
    {"stretch", fill_stretch},
    {"reads", fill_reads},
    {"in pins", fill_in_pins},
    {"out pins", fill_out_pins},
    {"undriven pins", fill_undriven_pins},
    {"address pins", fill_address_pins},
    {"contact pins", fill_contact_pins},
    {"settled bits", fill_settled_bits},
    {"lane", fill_lane},
    {"devices", fill_devices},
    {"pull", fill_pull},
    {"sockets", fill_sockets},
    {"beyond", fill_sockets},
    {"span", fill_span},
    {"chain", fill_chain},
    {"traced", fill_traced},
    {"from", fill_from},
    {"to", fill_to},
    {"point", fill_point},
    {"before", fill_before},
    {"told", fill_told},
    {"refuted", fill_refuted},
    {"fault", fill_fault},
    {"alone", fill_alone},
    {"coupled", fill_coupled},
    {"does", fill_does},
    {"where", fill_where},
    {"name", fill_name},
    {"pin", fill_pin},
    {"pin2", fill_pin2},
    {"at", fill_at},
    {"explanation", fill_explanation},
};

/* How many of what a name stands for there are. */
static bool several(const rmg_saying *s, const char *name, size_t length)
{
    if (strncmp(name, "bits", length) == 0)
        return s->bits & (s->bits - 1u);
    if (strncmp(name, "by", length) == 0)
        return s->by & (s->by - 1u);
    if (strncmp(name, "lines", length) == 0)
        return s->lines & (s->lines - 1u);
    return (*name == 'n' ? s->n : *name == 'm' ? s->m : s->k) != 1;
}

/* One name, or {name:one|several}. */
static void fill_one(const rmg_wording *w, const rmg_saying *s, const char *name, size_t length,
                     GString *to)
{
    const char *colon = memchr(name, ':', length);

    if (colon) {
        const char *bar = memchr(colon, '|', length - (size_t)(colon - name));
        const char *from = colon + 1, *end = bar;

        g_assert(bar);
        if (several(s, name, (size_t)(colon - name))) {
            from = bar + 1;
            end = name + length;
        }
        g_string_append_len(to, from, end - from);
        return;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(fillers); i++)
        if (strlen(fillers[i].name) == length && memcmp(fillers[i].name, name, length) == 0) {
            fillers[i].fill(w, s, to);
            return;
        }
    g_assert_not_reached();
}

gchar *rmg_words_fill(const rmg_wording *w, const rmg_saying *s, const char *text)
{
    GString *to = g_string_new(NULL);

    while (text && *text) {
        const char *end = *text == '{' ? strchr(text, '}') : NULL;

        if (end) {
            fill_one(w, s, text + 1, (size_t)(end - text - 1), to);
            text = end + 1;
        } else {
            g_string_append_c(to, *text++);
        }
    }
    return g_string_free(to, FALSE);
}

/* A reason, rival or step. */
static gchar *saying_words(const rmg_wording *w, const rmg_saying *s)
{
    const rmg_words_row *row = &rmg_words_rows[s->said];
    gchar *text = rmg_words_fill(w, s, row->text), *then, *whole;

    if (!row->then || row->look)
        return text;
    then = rmg_words_fill(w, s, row->then);
    whole = g_strconcat(text, ": ", then, NULL);
    g_free(text);
    g_free(then);
    return whole;
}

static char **list_words(const rmg_wording *w, const rmg_saying *list, size_t count)
{
    char **texts = g_new0(char *, count + 1u);

    for (size_t i = 0; i < count; i++)
        texts[i] = saying_words(w, &list[i]);
    return texts;
}

/* The step that settles it, short: what to do, without what follows. */
static gchar *settle_words(const rmg_wording *w, const rmg_saying *s)
{
    gchar *text = rmg_words_fill(w, s, rmg_words_rows[s->said].text);

    text[0] = g_ascii_tolower(text[0]);
    return text;
}

static void word_suspect(const rmg_wording *w, rmg_suspect *s)
{
    const rmg_words_row *row = &rmg_words_rows[s->is.said];

    rmg_suspect_unword(s);
    s->site = rmg_words_fill(w, &s->is, row->text);
    s->kind = rmg_words_fill(w, &s->is, row->then);
    s->headline = rmg_words_fill(w, &s->is, row->look);
    for (size_t i = 0; i < s->rival_count + s->ruled_count; i++)
        s->rivals[i].name = saying_words(w, &s->rivals[i].is);
    for (size_t i = 0; i < s->replay_count; i++)
        s->replays[i].fault = fault_words(w, &s->replays[i]);
    s->settle = settle_words(w, &s->settles);
    s->because = list_words(w, s->reasons, s->reason_count);
    s->next = list_words(w, s->steps, s->step_count);
}

void rmg_suspects_word(const rmg_run *run, rmg_suspects *suspects)
{
    rmg_run since;
    const bool began = rmg_run_since(run, &since);

    run = began ? &since : run;
    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_wording w = {run->board, run, NULL, &suspects->list[i]};

        word_suspect(&w, &suspects->list[i]);
    }
    if (began)
        rmg_run_since_end(&since);
}

void rmg_rom_suspects_word(const rmg_rom_case *rom_case, rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_wording w = {rom_case->board, NULL, rom_case, &suspects->list[i]};

        word_suspect(&w, &suspects->list[i]);
    }
}
