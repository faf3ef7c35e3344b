/* Suspects as JSON, for every result that has some: the records, and the words for them. */
#include "diagnose/internal.h"
#include "internal.h"

static json_t *texts(char **list)
{
    json_t *array = json_array();

    for (size_t i = 0; list[i]; i++)
        rmg_json_append(array, json_string(list[i]));
    return array;
}

/* "SOCKET_LEVEL" as "socket_level". */
static json_t *said_json(rmg_said said)
{
    gchar *name = g_ascii_strdown(rmg_said_name(said), -1);
    json_t *json = json_string(name);

    g_free(name);
    return json;
}

static void set_bits(json_t *to, const char *key, const char *letter, uint64_t bits)
{
    json_t *list = json_array();

    for (unsigned i = 0; i < 64; i++)
        if (bits >> i & 1u) {
            gchar *name = g_strdup_printf("%s%u", letter, i);

            rmg_json_append(list, json_string(name));
            g_free(name);
        }
    rmg_json_set(to, key, list);
}

static void set_lines(json_t *to, const rmg_board *board, rmg_addr lines)
{
    json_t *list = json_array();
    char name[8];

    for (uint8_t i = 0; i < RMG_ADDR_BITS; i++)
        if (lines >> i & 1u)
            rmg_json_append(list, json_string(rmg_board_line_text(board, i, name, sizeof name)));
    rmg_json_set(to, "address_lines", list);
}

/* The pins of the saying's socket at its data bits and address lines, each once. */
static json_t *pins_json(const rmg_board *board, const rmg_saying *s)
{
    bool is_pin[256] = {false};
    json_t *list = json_array();

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (rule->socket != s->socket)
            continue;
        for (uint8_t i = 0; i < rule->width; i++)
            if (s->bits >> rule->data_bits[i] & 1u)
                is_pin[rule->in_pins[i]] = is_pin[rule->out_pins[i]] = true;
        for (uint8_t i = 0; i < rule->address_lines; i++)
            if (rule->address_bits[i] < RMG_ADDR_BITS && (s->lines >> rule->address_bits[i] & 1u))
                is_pin[rule->address_pins[i]] = true;
    }
    for (unsigned pin = 1; pin < G_N_ELEMENTS(is_pin); pin++)
        if (is_pin[pin])
            rmg_json_append(list, json_integer((json_int_t)pin));
    return list;
}

/* A saying as a record: its name, and what it is about. */
static json_t *saying_json(const rmg_board *board, const rmg_saying *s)
{
    json_t *one = json_object();
    const uint64_t numbers[] = {s->n, s->m, s->k};
    json_t *list = json_array();

    rmg_json_set(one, "said", said_json(s->said));
    if (s->socket != RMG_NO_SOCKET)
        rmg_json_set(one, "socket", json_string(board->sockets[s->socket].name));
    if (s->socket != RMG_NO_SOCKET && (s->bits || s->lines))
        rmg_json_set(one, "pins", pins_json(board, s));
    if (s->other != RMG_NO_SOCKET)
        rmg_json_set(one, "other_socket", json_string(board->sockets[s->other].name));
    if (s->bank != RMG_NO_BANK)
        rmg_json_set(one, "bank", json_string(board->banks[s->bank].name));
    if (s->bank2 != RMG_NO_BANK)
        rmg_json_set(one, "other_bank", json_string(board->banks[s->bank2].name));
    if (s->bits)
        set_bits(one, "data_bits", "D", s->bits);
    if (s->lines)
        set_lines(one, board, s->lines);
    if (s->line != RMG_NO_POINT)
        rmg_json_set(one, "line", json_string(board->lines[s->line].name));
    if (s->point != RMG_NO_POINT && s->line != RMG_NO_POINT)
        rmg_json_set(one, "point", json_string(board->lines[s->line].points[s->point].name));
    for (size_t i = 0; i < G_N_ELEMENTS(numbers); i++)
        rmg_json_append(list, rmg_json_number(numbers[i]));
    rmg_json_set(one, "numbers", list);
    rmg_json_set(one, "level", json_integer(s->level));
    return one;
}

static json_t *sayings_json(const rmg_board *board, const rmg_saying *list, size_t count)
{
    json_t *array = json_array();

    for (size_t i = 0; i < count; i++)
        rmg_json_append(array, saying_json(board, &list[i]));
    return array;
}

static json_t *replay_json(const rmg_board *board, const rmg_replayed *r)
{
    json_t *causes = json_array();

    for (unsigned i = 0; i < RMG_CAUSES; i++)
        if (r->causes & RMG_CAUSE_BIT(i))
            rmg_json_append(causes, json_string(rmg_cause_name((rmg_cause)i)));
    return json_pack("{s:s, s:o, s:o, s:o, s:o, s:b, s:b, s:o}", "fault", r->fault, "is",
                     saying_json(board, &r->is), "explained", rmg_json_number(r->explained), "left",
                     rmg_json_number(r->left), "unseen", rmg_json_number(r->unseen), "as_often",
                     (int)r->as_often, "same", (int)r->same, "causes", causes);
}

static json_t *rival_json(const rmg_board *board, const rmg_rival *r)
{
    json_t *one = json_pack("{s:s, s:o}", "name", r->name, "is", saying_json(board, &r->is));

    if (r->cause < RMG_CAUSES)
        rmg_json_set(one, "cause", json_string(rmg_cause_name(r->cause)));
    rmg_json_set(one, "share", json_real(r->share));
    return one;
}

json_t *rmg_suspect_json(const rmg_board *board, const rmg_suspect *s)
{
    json_t *rivals = json_array(), *replays = json_array();

    for (size_t i = 0; i < s->replay_count; i++)
        rmg_json_append(replays, replay_json(board, &s->replays[i]));
    for (size_t i = 0; i < s->rival_count; i++)
        rmg_json_append(rivals, rival_json(board, &s->rivals[i]));
    return json_pack("{s:s, s:s, s:o, s:s, s:s, s:f, s:f, s:o, s:o, s:o, s:o, s:o, s:o, s:o}",
                     "site", s->site, "kind", s->kind, "is", saying_json(board, &s->is), "advice",
                     s->headline, "settle", s->settle, "confidence", s->confidence, "explained",
                     s->explained, "because", texts(s->because), "reasons",
                     sayings_json(board, s->reasons, s->reason_count), "next", texts(s->next),
                     "steps", sayings_json(board, s->steps, s->step_count), "rivals", rivals,
                     "replays", replays, "replays_untried", rmg_json_number(s->untried));
}
