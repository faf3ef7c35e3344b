/* The changes that a technician tells: read, checked against the board, written. */
#include <string.h>

#include "base/internal.h"
#include "internal.h"

/* How a change is told: words in order, of which some stand for something. */
typedef enum told {
    TOLD_NOTHING,
    TOLD_TWO_SOCKETS, /* A B */
    TOLD_MOVE,        /* A to B */
    TOLD_SOCKET,      /* A */
    TOLD_SOCKET_BANK, /* A, or a bank */
    TOLD_WITH,        /* A with LABEL */
    TOLD_ON,          /* LABEL on A */
    TOLD_HEAT,        /* A or board, perhaps to C */
    TOLD_PINS,        /* A pin P with pin Q, or with B pin Q */
    TOLD_PIN,         /* A pin P, or the same of a part on a line; or one of its points */
    TOLD_POINTS,      /* points of a line; or, of a repair, A */
    TOLD_NUMBER,
    TOLD_TEXT
} told;

static const struct {
    const char *word;
    told told;
    const char *like;
} rows[RMG_CHANGE_KINDS] = {
    [RMG_CHANGE_SWAP] = {"swap", TOLD_TWO_SOCKETS, "swap U19 U20"},
    [RMG_CHANGE_MOVE] = {"move", TOLD_MOVE, "move U19 to U21"},
    [RMG_CHANGE_RESEAT] = {"reseat", TOLD_SOCKET, "reseat U19"},
    [RMG_CHANGE_PULL] = {"pull", TOLD_SOCKET_BANK, "pull U19, or pull upper"},
    [RMG_CHANGE_FIT] = {"fit", TOLD_WITH, "fit U19 with LABEL"},
    [RMG_CHANGE_REPLACE] = {"replace", TOLD_WITH, "replace U19 with LABEL"},
    [RMG_CHANGE_HOLD] = {"hold", TOLD_ON, "hold LABEL on U19"},
    [RMG_CHANGE_WARM] = {"warm", TOLD_HEAT, "warm U19 to 45"},
    [RMG_CHANGE_COOL] = {"cool", TOLD_HEAT, "cool board"},
    [RMG_CHANGE_DISTURB] = {"disturb", TOLD_PINS, "disturb U19 pin 14 with pin 16"},
    [RMG_CHANGE_LIFT] = {"lift", TOLD_PIN, "lift U19 pin 14, or lift RN1.16"},
    [RMG_CHANGE_BRIDGE] = {"bridge", TOLD_POINTS, "bridge U1.9-U18.14"},
    [RMG_CHANGE_REPAIR] = {"repair", TOLD_POINTS, "repair R4, or repair U19 (its contacts)"},
    [RMG_CHANGE_SUPPLY] = {"supply", TOLD_NUMBER, "supply 4750 (millivolts)"},
    [RMG_CHANGE_CLOCK] = {"clock", TOLD_NUMBER, "clock 2000000 (hertz)"},
    [RMG_CHANGE_JUMPER] = {"jumper", TOLD_TEXT, "jumper J3 to the left"},
    [RMG_CHANGE_MEASURE] = {"measure", TOLD_SOCKET, "measure U19"},
    [RMG_CHANGE_READ] = {"read", TOLD_SOCKET, "read U5"},
    [RMG_CHANGE_NOTHING] = {"nothing", TOLD_NOTHING, "nothing"},
    [RMG_CHANGE_OTHER] = {"other", TOLD_TEXT, "other cleaned the edge connector"},
};

const char *rmg_change_word(rmg_change_kind kind)
{
    return rows[kind].word;
}

/* The words of one change, while they are read. */
typedef struct reading {
    const rmg_board *board;
    gchar **words;
    size_t next, count;
    rmg_change *change;
    rmg_error *error;
} reading;

static const char *take(reading *r)
{
    return r->next < r->count ? r->words[r->next++] : "";
}

static bool take_word(reading *r, const char *word)
{
    if (r->next >= r->count || g_ascii_strcasecmp(r->words[r->next], word) != 0)
        return false;
    r->next++;
    return true;
}

static rmg_status expected(reading *r, const char *found, const char *what)
{
    return rmg_fail(r->error, RMG_ERR_CONTENT, NULL, "%s: found \"%s\", expected %s, like %s",
                    rows[r->change->kind].word, found, what, rows[r->change->kind].like);
}

static rmg_status take_socket(reading *r, uint16_t *socket)
{
    const char *name = take(r);
    char *hint;
    rmg_status status;

    *socket = rmg_board_socket(r->board, name);
    if (*socket != RMG_NO_SOCKET)
        return RMG_OK;
    hint = rmg_board_name_hint(r->board, name, RMG_NAMES_SOCKETS);
    status = rmg_fail(r->error, RMG_ERR_CONTENT, name,
                      "%s: found \"%s\", expected a socket of the board, like %s%s",
                      rows[r->change->kind].word, name, rows[r->change->kind].like, hint);
    rmg_text_free(hint);
    return status;
}

/* The rest of the words as one text; NULL: there are none. */
static gchar *take_rest(reading *r)
{
    gchar *rest = r->next < r->count ? g_strjoinv(" ", &r->words[r->next]) : NULL;

    r->next = r->count;
    return rest;
}

static rmg_status take_pin(reading *r, uint16_t socket, uint8_t *pin)
{
    const rmg_part *part = r->board->sockets[socket].part;
    const char *text = take_word(r, "pin") ? take(r) : "";
    uint64_t number = 0;

    if (rmg_number_parse(text, &number) && number && (!part || number <= rmg_part_pin_count(part)))
        *pin = (uint8_t)MIN(number, 255u);
    else if (part && *text)
        *pin = rmg_part_pin(part, text);
    if (*pin)
        return RMG_OK;
    return expected(r, text,
                    part ? "the word pin and the number or name of a pin that the part has"
                         : "the word pin and its number");
}

static rmg_status take_number(reading *r, int64_t *value)
{
    const char *text = take(r);
    uint64_t number;

    if (!rmg_number_parse(text, &number) || number > INT32_MAX)
        return expected(r, text, "a number");
    *value = (int64_t)number;
    return RMG_OK;
}

static rmg_status take_heat(reading *r)
{
    rmg_status status = RMG_OK;

    if (!take_word(r, "board"))
        status = take_socket(r, &r->change->socket);
    if (status == RMG_OK && take_word(r, "to"))
        status = take_number(r, &r->change->value);
    return status;
}

static rmg_status take_pins(reading *r)
{
    rmg_change *c = r->change;
    rmg_status status = take_socket(r, &c->socket);

    if (status == RMG_OK)
        status = take_pin(r, c->socket, &c->pin);
    if (status != RMG_OK || !take_word(r, "with"))
        return status;
    c->other = c->socket;
    if (r->next < r->count && g_ascii_strcasecmp(r->words[r->next], "pin") != 0)
        status = take_socket(r, &c->other);
    return status == RMG_OK ? take_pin(r, c->other, &c->other_pin) : status;
}

/* A leg of a chip; else of a part that stands on a line: "RN1 pin 16", "RN1.16", "R4". */
static rmg_status take_leg(reading *r)
{
    rmg_change *c = r->change;
    const char *name = r->next < r->count ? r->words[r->next] : "";
    const bool of_part =
        r->next + 3u == r->count && g_ascii_strcasecmp(r->words[r->next + 1u], "pin") == 0;
    gchar *point = of_part ? g_strconcat(name, ".", r->words[r->next + 2u], NULL) : g_strdup(name);
    rmg_status status;

    if (rmg_board_socket(r->board, name) == RMG_NO_SOCKET && *point &&
        rmg_board_has_point(r->board, point)) {
        c->text = point;
        r->next += of_part ? 3u : 1u;
        return RMG_OK;
    }
    g_free(point);
    status = take_socket(r, &c->socket);
    return status == RMG_OK ? take_pin(r, c->socket, &c->pin) : status;
}

static rmg_status take_told(reading *r)
{
    rmg_change *c = r->change;
    rmg_status status = RMG_OK;

    switch (rows[c->kind].told) {
    case TOLD_NOTHING:
        break;
    case TOLD_TWO_SOCKETS:
    case TOLD_MOVE:
        status = take_socket(r, &c->socket);
        if (status == RMG_OK && rows[c->kind].told == TOLD_MOVE && !take_word(r, "to"))
            status = expected(r, take(r), "the word to after the first socket");
        if (status == RMG_OK && (take_word(r, "and") || take_word(r, "with"))) {
        }
        if (status == RMG_OK)
            status = take_socket(r, &c->other);
        if (status == RMG_OK && c->socket == c->other)
            status = expected(r, r->board->sockets[c->other].name, "two different sockets");
        break;
    case TOLD_SOCKET:
        status = take_socket(r, &c->socket);
        break;
    case TOLD_SOCKET_BANK:
        if (r->next < r->count && rmg_board_socket(r->board, r->words[r->next]) == RMG_NO_SOCKET) {
            gchar *rest = g_strjoinv(" ", &r->words[r->next]);

            c->bank = rmg_board_bank(r->board, rest);
            g_free(rest);
        }
        if (c->bank != RMG_NO_BANK)
            r->next = r->count;
        else
            status = take_socket(r, &c->socket);
        break;
    case TOLD_WITH:
        status = take_socket(r, &c->socket);
        if (status == RMG_OK && take_word(r, "with"))
            c->text = take_rest(r);
        break;
    case TOLD_ON:
        if (r->count > 2 && g_ascii_strcasecmp(r->words[r->count - 2u], "on") == 0) {
            gchar *last = r->words[r->count - 2u];

            r->words[r->count - 2u] = NULL;
            c->text = r->count > 3 ? g_strjoinv(" ", &r->words[1]) : NULL;
            r->words[r->count - 2u] = last;
            r->next = r->count - 1u;
            status = take_socket(r, &c->socket);
        } else {
            status = expected(r, take(r), "what is held, on, and the socket");
        }
        break;
    case TOLD_HEAT:
        status = take_heat(r);
        break;
    case TOLD_PINS:
        status = take_pins(r);
        break;
    case TOLD_PIN:
        status = take_leg(r);
        break;
    case TOLD_NUMBER:
        status = take_number(r, &c->value);
        break;
    case TOLD_POINTS:
        if (c->kind == RMG_CHANGE_REPAIR && r->count == 2 &&
            rmg_board_socket(r->board, r->words[1]) != RMG_NO_SOCKET) {
            status = take_socket(r, &c->socket);
            break;
        }
        /* fall through */
    case TOLD_TEXT:
        c->text = take_rest(r);
        if (!c->text)
            status =
                expected(r, "", rows[c->kind].told == TOLD_TEXT ? "words" : "points of a line");
        break;
    }
    if (status == RMG_OK && r->next < r->count)
        status = expected(r, r->words[r->next], "nothing more");
    return status;
}

static rmg_status read_one(const rmg_board *board, const char *text, rmg_change *change,
                           rmg_error *error)
{
    GPtrArray *words = g_ptr_array_new_with_free_func(g_free);
    gchar **parts = g_strsplit_set(text, " \t", -1);
    rmg_status status;
    reading r;
    size_t kind = 0;

    *change = (rmg_change){
        .socket = RMG_NO_SOCKET, .other = RMG_NO_SOCKET, .bank = RMG_NO_BANK, .value = INT64_MIN};
    for (size_t i = 0; parts[i]; i++)
        if (*parts[i])
            g_ptr_array_add(words, g_strdup(parts[i]));
    g_strfreev(parts);
    r = (reading){board, NULL, 1, words->len, change, error};
    g_ptr_array_add(words, NULL);
    r.words = (gchar **)words->pdata;
    while (kind < RMG_CHANGE_KINDS &&
           (!r.count || g_ascii_strcasecmp(r.words[0], rows[kind].word) != 0))
        kind++;
    if (kind < RMG_CHANGE_KINDS) {
        change->kind = (rmg_change_kind)kind;
        status = take_told(&r);
    } else {
        const char *known[RMG_CHANGE_KINDS + 1] = {NULL};
        const char *near;

        for (size_t i = 0; i < RMG_CHANGE_KINDS; i++)
            known[i] = rows[i].word;
        near = r.count ? rmg_nearest(r.words[0], known) : NULL;
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected a change, like swap U19 U20, reseat U19, pull U19, "
                     "replace U19, nothing, other TEXT%s%s%s",
                     text, near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    }
    g_ptr_array_free(words, TRUE);
    return status;
}

rmg_status rmg_changes_parse(const rmg_board *board, const char *text, rmg_changes *changes,
                             rmg_error *error)
{
    gchar **parts = g_strsplit(text, ";", -1);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_change));
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    for (size_t i = 0; parts[i] && status == RMG_OK; i++) {
        rmg_change one;

        if (!*g_strstrip(parts[i]))
            continue;
        status = read_one(board, parts[i], &one, error);
        g_array_append_val(list, one);
    }
    if (status == RMG_OK && !list->len)
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "expected a change, like swap U19 U20, or nothing");
    changes->count = list->len;
    changes->list = rmg_array_take(list);
    if (status != RMG_OK)
        rmg_changes_free(changes);
    g_strfreev(parts);
    return status;
}

void rmg_changes_free(rmg_changes *changes)
{
    for (size_t i = 0; i < changes->count; i++)
        g_free(changes->list[i].text);
    g_free(changes->list);
    *changes = (rmg_changes){NULL, 0};
}

char *rmg_change_text(const rmg_board *board, const rmg_change *c)
{
    GString *text = g_string_new(rows[c->kind].word);
    const char *name = c->socket == RMG_NO_SOCKET ? NULL : board->sockets[c->socket].name;

    if (rows[c->kind].told == TOLD_ON) {
        g_string_append_printf(text, " %s on %s", c->text ? c->text : "a good one", name);
        return g_string_free(text, FALSE);
    }
    if (name)
        g_string_append_printf(text, " %s", name);
    else if (c->bank != RMG_NO_BANK)
        g_string_append_printf(text, " %s", board->banks[c->bank].name);
    else if (rows[c->kind].told == TOLD_HEAT)
        g_string_append(text, " board");
    if (c->pin)
        g_string_append_printf(text, " pin %u", c->pin);
    if (c->other_pin)
        g_string_append_printf(text, " with %s pin %u", board->sockets[c->other].name,
                               c->other_pin);
    else if (c->other != RMG_NO_SOCKET)
        g_string_append_printf(text, c->kind == RMG_CHANGE_MOVE ? " to %s" : " %s",
                               board->sockets[c->other].name);
    if (c->value != INT64_MIN)
        g_string_append_printf(
            text, rows[c->kind].told == TOLD_HEAT ? " to %" G_GINT64_FORMAT : " %" G_GINT64_FORMAT,
            c->value);
    if (c->text)
        g_string_append_printf(text, rows[c->kind].told == TOLD_WITH ? " with %s" : " %s", c->text);
    return g_string_free(text, FALSE);
}

char *rmg_change_doubt(const rmg_board *board, const rmg_change *c)
{
    const rmg_socket *s = c->socket == RMG_NO_SOCKET ? NULL : &board->sockets[c->socket];
    const rmg_socket *o = c->other == RMG_NO_SOCKET ? NULL : &board->sockets[c->other];
    const rmg_socket *fixed = s && s->mount != RMG_MOUNT_SOCKET   ? s
                              : o && o->mount != RMG_MOUNT_SOCKET ? o
                                                                  : NULL;
    const bool pulls = c->kind == RMG_CHANGE_SWAP || c->kind == RMG_CHANGE_MOVE ||
                       c->kind == RMG_CHANGE_RESEAT || c->kind == RMG_CHANGE_PULL ||
                       c->kind == RMG_CHANGE_FIT;
    const bool touches = pulls || c->kind == RMG_CHANGE_HOLD || c->kind == RMG_CHANGE_LIFT ||
                         c->kind == RMG_CHANGE_DISTURB;

    if (fixed && fixed->mount == RMG_MOUNT_BALL && touches)
        return g_strdup_printf("%s sits on solder balls: it can be neither pulled nor probed",
                               fixed->name);
    if (fixed && pulls)
        return g_strdup_printf("%s is soldered in the board file: was it unsoldered?", fixed->name);
    if ((c->kind == RMG_CHANGE_SWAP || c->kind == RMG_CHANGE_MOVE) && s->part && o->part &&
        s->part != o->part)
        return g_strdup_printf("%s is a %s and %s a %s: they do not fit each other's place",
                               s->name, s->part->number, o->name, o->part->number);
    return NULL;
}
