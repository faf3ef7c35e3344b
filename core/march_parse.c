/* A march's text to its compiled form. The only file of the core that knows the notation. */
#include "rimeglass/march.h"

#include <string.h>

typedef struct parser {
    const char *text;
    const char *at;
    uint8_t *code;
    size_t room;
    size_t used;
    rmg_march_error *error;
} parser;

/* A word of the notation and what it stands for. */
typedef struct word {
    const char *text;
    uint8_t value;
} word;

static const word order_words[] = {
    {"\xE2\x87\x91", RMG_ORDER_UP},     /* ⇑ */
    {"\xE2\x87\x93", RMG_ORDER_DOWN},   /* ⇓ */
    {"\xE2\x87\x95", RMG_ORDER_EITHER}, /* ⇕ */
    {"\xE2\x86\x91", RMG_ORDER_UP},     /* ↑ */
    {"\xE2\x86\x93", RMG_ORDER_DOWN},   /* ↓ */
    {"\xE2\x86\x95", RMG_ORDER_EITHER}, /* ↕ */
    {"up", RMG_ORDER_UP},
    {"down", RMG_ORDER_DOWN},
    {"any", RMG_ORDER_EITHER},
};
static const word op_words[] = {
    {"r0", RMG_OP_R0},
    {"r1", RMG_OP_R1},
    {"w0", RMG_OP_W0},
    {"w1", RMG_OP_W1},
};
static const word hold_words[] = {{"del", RMG_ORDER_EITHER}, {"hold", RMG_ORDER_EITHER}};

static rmg_status wrong(const parser *p, const char *expected)
{
    if (p->error) {
        p->error->offset = (uint16_t)(p->at - p->text);
        p->error->expected = expected;
    }
    return RMG_ERR_NOTATION;
}

static void skip_space(parser *p)
{
    while (*p->at == ' ' || *p->at == '\t' || *p->at == '\n' || *p->at == '\r')
        p->at++;
}

static bool take_char(parser *p, char c)
{
    skip_space(p);
    if (*p->at != c)
        return false;
    p->at++;
    return true;
}

/* Takes one of `words`, capitals or not. */
static bool take_word(parser *p, const word *words, size_t count, uint8_t *value)
{
    skip_space(p);
    for (size_t i = 0; i < count; i++) {
        const char *w = words[i].text;
        const char *t = p->at;

        while (*w && (*t == *w || (*t >= 'A' && *t <= 'Z' && *t + ('a' - 'A') == *w)))
            w++, t++;
        if (!*w) {
            p->at = t;
            *value = words[i].value;
            return true;
        }
    }
    return false;
}

static rmg_status put(parser *p, uint8_t byte)
{
    if (p->used >= p->room)
        return RMG_ERR_ROOM;
    p->code[p->used++] = byte;
    return RMG_OK;
}

static rmg_status parse_ops(parser *p, size_t head)
{
    uint8_t count = 0;

    do {
        uint8_t op;
        rmg_status status;

        if (!take_word(p, op_words, sizeof op_words / sizeof *op_words, &op))
            return wrong(p, "r0, r1, w0 or w1");
        if (count == RMG_MARCH_OPS)
            return wrong(p, "at most 63 operations in one element");
        count++;
        status = put(p, op);
        if (status != RMG_OK)
            return status;
    } while (take_char(p, ','));
    p->code[head] = (uint8_t)(p->code[head] | count);
    return take_char(p, ')') ? RMG_OK : wrong(p, "\",\" and an operation, or \")\"");
}

static rmg_status parse_element(parser *p)
{
    uint8_t order = 0;
    rmg_status status;

    if (take_word(p, hold_words, sizeof hold_words / sizeof *hold_words, &order))
        return put(p, order);
    if (!take_word(p, order_words, sizeof order_words / sizeof *order_words, &order))
        return wrong(p, "up, down, any (or an arrow) before \"(\", or a hold");
    status = put(p, order);
    if (status != RMG_OK)
        return status;
    if (!take_char(p, '('))
        return wrong(p, "\"(\" after the order");
    return parse_ops(p, p->used - 1u);
}

rmg_status rmg_march_parse(const char *text, uint8_t *code, size_t room, rmg_march_error *error)
{
    parser p;
    bool braces;

    if (!text || !code)
        return RMG_ERR_ARGUMENT;
    p.text = p.at = text;
    p.code = code;
    p.room = room;
    p.used = 0;
    p.error = error;
    braces = take_char(&p, '{');
    do {
        const rmg_status status = parse_element(&p);

        if (status != RMG_OK)
            return status;
        if (take_char(&p, ';'))
            skip_space(&p);
        else
            break;
    } while (*p.at && *p.at != '}');
    if (braces && !take_char(&p, '}'))
        return wrong(&p, "\";\" and an element, or \"}\"");
    skip_space(&p);
    if (*p.at)
        return wrong(&p, "\";\" and an element, or the end");
    return put(&p, 0);
}
