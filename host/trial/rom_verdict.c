/* What a verification found, read from its JSON result. */
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "rom.h"

#define SUSPECTS_MOST 32u /* that are read, and rivals of each: a verification gives fewer */
#define RIVALS_MOST   16u
#define OTHERS_MOST   24u /* other chips on the same lines that are causes one by one */

static const char *text_at(const json_t *from, const char *key)
{
    const char *text = json_string_value(json_object_get(from, key));

    return text ? text : "";
}

/* A text to be shown, from wherever it may come. To be freed. */
static char *shown_at(const json_t *from, const char *key)
{
    return rmg_text_harmless(text_at(from, key));
}

/* A share, 0..1. */
static double share_at(const json_t *from, const char *key)
{
    const double share = json_number_value(json_object_get(from, key));

    return CLAMP(share, 0, 1);
}

static uint64_t count_at(const json_t *from, const char *key)
{
    const json_int_t count = json_integer_value(json_object_get(from, key));

    return count > 0 ? (uint64_t)count : 0;
}

/* How much of it was read, and how much was wrong. */
static void read_counts(const json_t *reading, rmg_rom_verdict *verdict)
{
    const json_t *differs = json_object_get(reading, "comparison");

    verdict->bare = json_is_true(json_object_get(reading, "bare"));
    verdict->readings = count_at(reading, "readings");
    verdict->compared = json_is_object(differs);
    verdict->wrong_bits = count_at(differs, "wrong_bits");
    verdict->unsteady_bits = count_at(json_object_get(reading, "unsteady"), "bits");
}

/* The point of a line by its names; RMG_NO_POINT: it is none of this board's. */
static uint16_t point_named(const rmg_board *board, const char *line, const char *point,
                            uint16_t *found)
{
    *found = RMG_NO_POINT;
    for (size_t l = 0; l < board->line_count; l++)
        for (uint16_t p = 0; p < board->lines[l].point_count; p++)
            if (strcmp(board->lines[l].name, line) == 0 &&
                strcmp(board->lines[l].points[p].name, point) == 0) {
                *found = p;
                return (uint16_t)l;
            }
    return RMG_NO_POINT;
}

static rmg_saying read_saying(const rmg_board *board, const json_t *from)
{
    rmg_saying is = {.said = rmg_said_named(text_at(from, "said")),
                     .socket = rmg_board_socket(board, text_at(from, "socket")),
                     .other = RMG_NO_SOCKET,
                     .bank = RMG_NO_BANK,
                     .bank2 = RMG_NO_BANK};

    is.line = point_named(board, text_at(from, "line"), text_at(from, "point"), &is.point);
    return is;
}

static rmg_cause cause_named(const char *name)
{
    for (unsigned i = 0; i < RMG_CAUSES; i++)
        if (strcmp(rmg_cause_name((rmg_cause)i), name) == 0)
            return (rmg_cause)i;
    return RMG_CAUSES;
}

static char **read_texts(const json_t *list)
{
    char **texts = g_new0(char *, json_array_size(list) + 1u);

    for (size_t i = 0; i < json_array_size(list); i++) {
        const char *text = json_string_value(json_array_get(list, i));

        texts[i] = rmg_text_harmless(text ? text : "");
    }
    return texts;
}

/* The one socket whose pins a site names, "data line D3 (U5 pin 15)", and the first pin;
 * RMG_NO_SOCKET: there is none, or there are several. */
static uint16_t socket_of_site(const rmg_board *board, const char *site, uint8_t *pin)
{
    static const char word[] = " pin ";
    uint16_t found = RMG_NO_SOCKET;

    *pin = 0;
    for (const char *at = site; (at = strstr(at, word)) != NULL; at += strlen(word)) {
        const char *from = at;
        gchar *name;
        uint16_t socket;

        while (from > site && from[-1] != '(' && from[-1] != ' ')
            from--;
        name = g_strndup(from, (gsize)(at - from));
        socket = rmg_board_socket(board, name);
        g_free(name);
        if (found != RMG_NO_SOCKET && socket != found)
            return RMG_NO_SOCKET;
        found = socket;
        if (!*pin)
            *pin = (uint8_t)strtoul(at + strlen(word), NULL, 10);
    }
    return found;
}

/* Is it one of the other chips on the same lines, no one knows which? */
static bool is_another(const rmg_rival *r)
{
    return r->cause == RMG_CAUSE_CHIP_DRAGS || r->is.said == RMG_SAY_ANOTHER_ANSWERS ||
           r->is.said == RMG_SAY_ANOTHER_CHIP_HOLDS;
}

/* The data bits of the bus that come by a pin of a socket, or pin 0: by all of them. */
static rmg_word bits_at(const rmg_board *board, uint16_t socket, uint8_t pin)
{
    rmg_word bits = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        for (uint8_t i = 0; rule->socket == socket && i < rule->width; i++)
            if (!pin || rule->out_pins[i] == pin)
                bits |= (rmg_word)1 << rule->data_bits[i];
    }
    return bits;
}

/* In the place of "another chip" each of them. */
static void name_others(const rmg_board *board, const rmg_rom_verdict *verdict, uint8_t pin,
                        rmg_suspect *s)
{
    bool *others = g_new0(bool, board->socket_count + 1u);
    GArray *rivals = g_array_new(FALSE, TRUE, sizeof(rmg_rival));
    rmg_word bits = 0;
    unsigned count = 0;

    for (uint16_t k = 0; k < board->socket_count; k++)
        if (verdict->sockets[k] && (s->finding.socket == RMG_NO_SOCKET || s->finding.socket == k))
            bits |= bits_at(board, k, s->finding.socket == k ? pin : 0);
    for (uint16_t k = 0; k < board->socket_count; k++) {
        others[k] = !verdict->sockets[k] && (bits_at(board, k, 0) & bits) != 0;
        count += others[k];
    }
    for (size_t i = 0; i < s->rival_count; i++) {
        const rmg_rival r = s->rivals[i];

        if (!is_another(&r) || verdict->bare || !count || count > OTHERS_MOST) {
            g_array_append_val(rivals, r);
            continue;
        }
        for (uint16_t k = 0; k < board->socket_count; k++) {
            rmg_rival one = r;

            if (!others[k])
                continue;
            one.is.socket = k;
            one.share /= count;
            one.name = g_strdup_printf("%s: %s", r.name, board->sockets[k].name);
            g_array_append_val(rivals, one);
        }
        g_free(r.name);
    }
    g_free(s->rivals);
    s->rival_count = rivals->len;
    s->rivals = rmg_array_take(rivals);
    g_free(others);
}

static void read_suspect(const rmg_board *board, const json_t *from, rmg_rom_verdict *verdict,
                         rmg_suspect *s)
{
    const json_t *rivals = json_object_get(from, "rivals");
    const json_t *because = json_object_get(from, "because"), *next = json_object_get(from, "next");
    uint8_t pin;
    const uint16_t named = socket_of_site(board, text_at(from, "site"), &pin);

    s->is = read_saying(board, json_object_get(from, "is"));
    s->confidence = share_at(from, "confidence");
    s->explained = share_at(from, "explained");
    s->finding = (rmg_finding){.socket = s->is.socket,
                               .line = s->is.line,
                               .point = s->is.point,
                               .bank = RMG_NO_BANK,
                               .bank2 = RMG_NO_BANK};
    s->site = shown_at(from, "site");
    s->kind = shown_at(from, "kind");
    s->headline = shown_at(from, "advice");
    s->settle = shown_at(from, "settle");
    s->reason_count = json_array_size(because);
    s->reasons = g_new0(rmg_saying, s->reason_count + 1u);
    s->because = read_texts(because);
    s->step_count = json_array_size(next);
    s->steps = g_new0(rmg_saying, s->step_count + 1u);
    s->next = read_texts(next);
    s->rival_count = MIN(json_array_size(rivals), RIVALS_MOST);
    s->rivals = g_new0(rmg_rival, s->rival_count + 1u);
    for (size_t i = 0; i < s->rival_count; i++) {
        const json_t *one = json_array_get(rivals, i);

        s->rivals[i] = (rmg_rival){.is = read_saying(board, json_object_get(one, "is")),
                                   .share = share_at(one, "share"),
                                   .cause = cause_named(text_at(one, "cause")),
                                   .name = shown_at(one, "name")};
    }
    if (s->finding.socket == RMG_NO_SOCKET)
        s->finding.socket = named;
    name_others(board, verdict, pin, s);
}

/* The chips by "U5 (27128)" or "region program ROM (U2, U3)". */
static void read_sockets(const rmg_board *board, const char *what, bool *sockets)
{
    const char *list = strrchr(what, '(');
    gchar **names = g_str_has_prefix(what, "region ") && list ? g_strsplit_set(list, "(), ", -1)
                                                              : g_strsplit(what, " ", 2);

    for (gchar **name = names; *name; name++) {
        const uint16_t socket = rmg_board_socket(board, *name);

        if (socket != RMG_NO_SOCKET)
            sockets[socket] = true;
        if (!g_str_has_prefix(what, "region "))
            break;
    }
    g_strfreev(names);
}

rmg_status rmg_rom_verdict_read(const rmg_board *board, const char *text, rmg_rom_verdict *verdict,
                                rmg_error *error)
{
    json_error_t where;
    json_t *root = json_loads(text, 0, &where);
    const json_t *suspects = json_object_get(root, "suspects");
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    *verdict = (rmg_rom_verdict){.what = shown_at(root, "what"),
                                 .sockets = g_new0(bool, board->socket_count + 1u),
                                 .socket_count = (uint16_t)board->socket_count};
    if (!json_is_object(root) || strcmp(text_at(root, "action"), "verify") != 0 ||
        !json_is_array(suspects) || !*verdict->what) {
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "expected the JSON result of a verification, with action, what and "
                          "suspects%s%s",
                          root ? "" : ": ", root ? "" : where.text);
    } else {
        read_sockets(board, verdict->what, verdict->sockets);
        read_counts(json_object_get(root, "reading"), verdict);
        verdict->both = json_is_object(json_object_get(root, "bare"));
        verdict->complete = json_is_true(json_object_get(root, "complete"));
        verdict->suspects.count = MIN(json_array_size(suspects), SUSPECTS_MOST);
        verdict->suspects.list = g_new0(rmg_suspect, verdict->suspects.count + 1u);
        for (size_t i = 0; i < verdict->suspects.count; i++)
            read_suspect(board, json_array_get(suspects, i), verdict, &verdict->suspects.list[i]);
    }
    json_decref(root);
    return status;
}

void rmg_rom_verdict_free(rmg_rom_verdict *verdict)
{
    g_free(verdict->what);
    g_free(verdict->sockets);
    rmg_suspects_free(&verdict->suspects);
    *verdict = (rmg_rom_verdict){.what = NULL};
}
