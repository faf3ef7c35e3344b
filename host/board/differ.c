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
        {"refresh", g_strdup(b->refreshes ? "board" : "accesses")},
        {"first-memory",
         g_strdup(b->first_memory.first <= b->first_memory.last
                      ? rmg_board_range_text(b, &b->first_memory, range, sizeof range)
                      : "none")},
        {"pages", g_strdup_printf("%" G_GUINT64_FORMAT, (uint64_t)b->pages.count)},
    };

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++)
        add(facts, RMG_DIFFERS_HEAD, g_strdup(rows[i].name), rows[i].value);
}

static void place_facts(GArray *facts, const rmg_board *b)
{
    for (uint16_t r = 0; r < b->placement.rule_count; r++) {
        const rmg_rule *rule = &b->placement.rules[r];

        for (uint8_t i = 0; i < rule->width; i++)
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

static GArray *facts_of(const rmg_board *b)
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
    place_facts(facts, b);
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
    return rmg_by_number(((const rmg_board_difference *)a)->kind, ((const rmg_board_difference *)b)->kind);
}

void rmg_boards_compare(const rmg_board *here, const rmg_board *there, rmg_board_differences *found)
{
    GArray *a = facts_of(here), *b = facts_of(there);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_board_difference));
    bool *used = g_new0(bool, b->len + 1u);

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
    static const char *const words[] = {"head", "region", "bank", "place", "socket", "line"};

    return words[kind];
}
