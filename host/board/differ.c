/* What differs between two boards: each told as a list of facts by name, and the lists compared. */
#include "build.h"

#include <string.h>

typedef struct fact {
    rmg_board_difference_kind kind;
    gchar *name, *value;
} fact;

static void free_fact(gpointer data)
{
    fact *f = data;

    g_free(f->name);
    g_free(f->value);
}

static void add(GArray *facts, rmg_board_difference_kind kind, gchar *name, gchar *value)
{
    const fact one = {kind, name, value};

    g_array_append_val(facts, one);
}

static void head_facts(GArray *facts, const rmg_board *b)
{
    static const char *const levels[] = {"high", "low", "holds"};
    char range[40];
    const struct {
        const char *name;
        gchar *value;
    } rows[] = {
        {"word", g_strdup_printf("%u", b->word_bits)},
        {"address-lines", g_strdup_printf("%u", b->address_bits + b->byte_shift)},
        {"addresses", g_strdup(b->counts_bytes ? "bytes" : "words")},
        {"byte-order", g_strdup(b->high_first ? "high first" : "low first")},
        {"undriven", g_strdup(b->undriven_known ? levels[b->undriven] : "not known")},
        {"holds-ns", g_strdup_printf("%" G_GUINT64_FORMAT, b->hold_ns)},
        {"access-ns", g_strdup_printf("%u", b->access_ns)},
        {"clock", g_strdup_printf("%u", b->clock_hz)},
        {"refresh", g_strdup(b->refreshes ? "board" : "accesses")},
        {"refresh-cycles", g_strdup_printf("%u in %u ms", b->refresh_cycles, b->refresh_ms)},
        {"first-memory",
         g_strdup(b->first_memory.first <= b->first_memory.last
                      ? rmg_board_range_text(b, &b->first_memory, range, sizeof range)
                      : "none")},
        {"pages", g_strdup_printf("%" G_GUINT64_FORMAT, (uint64_t)b->pages.count)},
    };

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++)
        add(facts, RMG_DIFFERS_HEAD, g_strdup(rows[i].name), rows[i].value);
}

static void place_facts(GArray *facts, const rmg_board *b, const rmg_board *other)
{
    for (uint16_t r = 0; r < b->placement.rule_count; r++) {
        const rmg_rule *rule = &b->placement.rules[r];

        for (uint8_t i = 0;
             i < rule->width && rmg_board_bank(other, b->banks[rule->bank].name) != RMG_NO_BANK;
             i++)
            add(facts, RMG_DIFFERS_PLACE,
                g_strdup_printf("D%u of %s", rule->data_bits[i], b->banks[rule->bank].called),
                g_strdup(b->sockets[rule->socket].name));
    }
}

static void socket_facts(GArray *facts, const rmg_board *b)
{
    for (size_t i = 0; i < b->socket_count; i++) {
        const rmg_socket *s = &b->sockets[i];

        add(facts, RMG_DIFFERS_SOCKET, g_strdup(s->name),
            g_strdup_printf("%s%s%s%s%s", s->part ? s->part->number : "", s->part ? ", " : "",
                            rmg_mount_text(s->mount), *s->image_named ? ", " : "", s->image_named));
    }
}

/* Designators there by those here, where each holds what only the other holds: by small letters. */
static GHashTable *renumbered(const rmg_board *here, const rmg_board *there)
{
    GHashTable *map = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);

    for (uint16_t r = 0; r < there->placement.rule_count; r++) {
        const rmg_rule *rule = &there->placement.rules[r];
        const char *name = there->sockets[rule->socket].name;
        const uint8_t bank = rmg_board_bank(here, there->banks[rule->bank].name);

        for (uint16_t q = 0; bank != RMG_NO_BANK && q < here->placement.rule_count; q++) {
            const rmg_rule *same = &here->placement.rules[q];

            if (same->bank == bank && same->width == rule->width &&
                memcmp(same->data_bits, rule->data_bits, rule->width) == 0 &&
                g_ascii_strcasecmp(here->sockets[same->socket].name, name) != 0 &&
                rmg_board_socket(here, name) == RMG_NO_SOCKET &&
                rmg_board_socket(there, here->sockets[same->socket].name) == RMG_NO_SOCKET)
                g_hash_table_insert(map, g_ascii_strdown(name, -1),
                                    g_strdup(here->sockets[same->socket].name));
        }
    }
    return map;
}

/* A text with designators of the other board told by those of this one. */
static gchar *told_here(const char *text, GHashTable *map)
{
    GString *out = g_string_new(NULL);

    while (*text) {
        const size_t size = strspn(text, "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
                                         "0123456789");
        gchar *word = g_ascii_strdown(text, (gssize)size);
        const char *other = size ? g_hash_table_lookup(map, word) : NULL;

        if (other)
            g_string_append(out, other);
        else
            g_string_append_len(out, text, (gssize)MAX(size, 1u));
        text += MAX(size, 1u);
        g_free(word);
    }
    return g_string_free(out, FALSE);
}

static void tell_here(GArray *facts, GHashTable *map)
{
    for (guint i = 0; i < facts->len; i++) {
        fact *f = &g_array_index(facts, fact, i);
        gchar *text;

        if (f->kind == RMG_DIFFERS_SOCKET) {
            text = told_here(f->name, map);
            g_free(f->name);
            f->name = text;
        } else if (f->kind == RMG_DIFFERS_PLACE || f->kind == RMG_DIFFERS_LINE) {
            text = told_here(f->value, map);
            g_free(f->value);
            f->value = text;
        }
    }
}

/* Is `next` the designator after `name`, up or down? */
static bool follows(const char *name, const char *next, int *step)
{
    char stem[16], stem2[16];
    uint64_t a, b;
    int now;

    if (!name || !next || !rmg_designator_parse(name, stem, sizeof stem, &a) ||
        !rmg_designator_parse(next, stem2, sizeof stem2, &b) || strcmp(stem, stem2) != 0 ||
        (a + 1u != b && b + 1u != a))
        return false;
    now = a + 1u == b ? 1 : -1;
    if (*step && *step != now)
        return false;
    *step = now;
    return true;
}

/* "U11-U18", or one of them. */
static gchar *span(const char *first, const char *last)
{
    return strcmp(first, last) == 0 ? g_strdup(first) : g_strdup_printf("%s-%s", first, last);
}

/* Sockets that hold the same under other designators, by runs. */
static void add_numbers(GArray *list, const rmg_board *there, GHashTable *map)
{
    const char *first = NULL, *last = NULL, *first_here = NULL, *last_here = NULL;
    int step = 0, step_here = 0;

    for (size_t i = 0; i <= there->socket_count; i++) {
        const char *name = i < there->socket_count ? there->sockets[i].name : NULL;
        gchar *key = name ? g_ascii_strdown(name, -1) : NULL;
        const char *here = key ? g_hash_table_lookup(map, key) : NULL;

        if (here && first && follows(last, name, &step) && follows(last_here, here, &step_here)) {
            last = name;
            last_here = here;
        } else {
            if (first) {
                const rmg_board_difference d = {RMG_DIFFERS_NUMBER, span(first_here, last_here),
                                                span(first_here, last_here), span(first, last)};

                g_array_append_val(list, d);
            }
            first = here ? name : NULL;
            last = first;
            first_here = last_here = here;
            step = step_here = 0;
        }
        g_free(key);
    }
}

/* Sockets that only one board has, of one value each and numbered on, become one difference. */
static void join_sockets(GArray *list)
{
    guint kept = 0;
    int step = 0;
    gchar *last = NULL;

    for (guint i = 0; i < list->len; i++) {
        const rmg_board_difference d = g_array_index(list, rmg_board_difference, i);
        rmg_board_difference *before =
            kept ? &g_array_index(list, rmg_board_difference, kept - 1u) : NULL;

        if (before && last && d.kind == RMG_DIFFERS_SOCKET && before->kind == d.kind &&
            g_strcmp0(before->here, d.here) == 0 && g_strcmp0(before->there, d.there) == 0 &&
            follows(last, d.name, &step)) {
            gchar *first = g_strndup(before->name, strcspn(before->name, "-"));

            g_free(before->name);
            before->name = span(first, d.name);
            g_free(first);
            g_free(last);
            last = d.name;
            g_free(d.here);
            g_free(d.there);
            continue;
        }
        step = 0;
        g_free(last);
        last = g_strdup(d.name);
        g_array_index(list, rmg_board_difference, kept++) = d;
    }
    g_free(last);
    g_array_set_size(list, kept);
}

static GArray *facts_of(const rmg_board *b, const rmg_board *other)
{
    GArray *facts = g_array_new(FALSE, FALSE, sizeof(fact));
    char range[40];

    g_array_set_clear_func(facts, free_fact);
    head_facts(facts, b);
    for (size_t i = 0; i < b->region_count; i++)
        add(facts, RMG_DIFFERS_REGION, g_strdup(b->regions[i].name),
            g_strdup_printf("%s %s",
                            rmg_board_range_text(b, &b->regions[i].range, range, sizeof range),
                            rmg_region_kind_name(b->regions[i].kind)));
    for (size_t i = 0; i < b->bank_count; i++)
        add(facts, RMG_DIFFERS_BANK, g_strdup(b->banks[i].name), rmg_board_bank_text(b, i));
    place_facts(facts, b, other);
    socket_facts(facts, b);
    for (size_t i = 0; i < b->line_count; i++)
        add(facts, RMG_DIFFERS_LINE, g_strdup(b->lines[i].name), rmg_board_path_text(&b->lines[i]));
    return facts;
}

/* The first fact of that kind and name from `from` on that is not used up, or NULL. */
static const fact *counterpart(const GArray *facts, const fact *of, bool *used)
{
    for (guint i = 0; i < facts->len; i++) {
        const fact *f = &g_array_index(facts, fact, i);

        if (!used[i] && f->kind == of->kind && g_ascii_strcasecmp(f->name, of->name) == 0) {
            used[i] = true;
            return f;
        }
    }
    return NULL;
}

static gint by_kind(gconstpointer a, gconstpointer b)
{
    return rmg_by_number(((const rmg_board_difference *)a)->kind,
                         ((const rmg_board_difference *)b)->kind);
}

void rmg_boards_compare(const rmg_board *here, const rmg_board *there, rmg_board_differences *found)
{
    GArray *a = facts_of(here, there), *b = facts_of(there, here);
    GHashTable *map = renumbered(here, there);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_board_difference));
    bool *used = g_new0(bool, b->len + 1u);

    tell_here(b, map);
    add_numbers(list, there, map);
    for (guint i = 0; i < a->len; i++) {
        const fact *f = &g_array_index(a, fact, i);
        const fact *other = counterpart(b, f, used);
        const rmg_board_difference d = {f->kind, g_strdup(f->name), g_strdup(f->value),
                                        other ? g_strdup(other->value) : NULL};

        if (other && strcmp(other->value, f->value) == 0) {
            g_free(d.name);
            g_free(d.here);
            g_free(d.there);
        } else {
            g_array_append_val(list, d);
        }
    }
    for (guint i = 0; i < b->len; i++)
        if (!used[i]) {
            const fact *f = &g_array_index(b, fact, i);
            const rmg_board_difference d = {f->kind, g_strdup(f->name), NULL, g_strdup(f->value)};

            g_array_append_val(list, d);
        }
    g_array_sort(list, by_kind); /* a stable sort: as the boards have them */
    join_sockets(list);
    g_hash_table_destroy(map);
    found->count = list->len;
    found->list = rmg_array_take(list);
    g_free(used);
    g_array_free(a, TRUE);
    g_array_free(b, TRUE);
}

void rmg_board_differences_free(rmg_board_differences *found)
{
    for (size_t i = 0; i < found->count; i++) {
        g_free(found->list[i].name);
        g_free(found->list[i].here);
        g_free(found->list[i].there);
    }
    g_free(found->list);
    *found = (rmg_board_differences){NULL, 0};
}

const char *rmg_board_difference_word(rmg_board_difference_kind kind)
{
    static const char *const words[] = {"head",  "designators", "region", "bank",
                                        "place", "socket",      "line"};

    return words[kind];
}
