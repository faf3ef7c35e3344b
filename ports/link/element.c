/* The near half of the link: a march element by the far end's own loop, in slices that each take a
 * moment, and what was read wrong, in the order in which it was read. */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/march.h"

#define SLICE_S    0.1 /* that one request should take */
#define TELL_LEAST 2u
#define TELL_MOST  4096u
#define WORDS_MOST (1u << 20)

/* One finding of an answer, while it is handed on. */
typedef struct finding {
    uint64_t next, left; /* steps from the first word of the slice; words that are left */
    uint64_t operation, expected, actual;
} finding;

/* What one answer said. */
typedef struct slice {
    const rmg_element_call *call;
    uint64_t first;              /* the address it began at */
    uint64_t words;              /* that were begun, those not finished included */
    uint64_t address, operation; /* where it stands */
    rmg_status status;           /* RMG_ERR_CANCELLED: more is left */
    finding *list;
    size_t count;
} slice;

static rmg_status strange(rmg_link *l, const char *what, const char *text)
{
    snprintf(l->why, sizeof l->why,
             "the far end's answer to an element is not of it: %s at \"%.40s\"", what, text);
    return RMG_ERR_PORT;
}

/* A number and the character after it; false: there is none, or it is above `most`. */
static bool take(const char **at, uint64_t most, char *after, uint64_t *value)
{
    const char *text = *at;

    *value = 0;
    for (; link_digit(*text) >= 0; text++) {
        if (*value >> 60)
            return false;
        *value = *value << 4 | (uint64_t)link_digit(*text);
    }
    if (text == *at || *value > most)
        return false;
    *after = *text;
    *at = text + (*text != '\0');
    return true;
}

/* Steps from the first word of the slice to an address; false: not in this element's direction. */
static bool steps_to(const slice *s, uint64_t address, uint64_t *steps)
{
    const rmg_element_call *call = s->call;

    if (address < call->range.first || address > call->range.last)
        return false;
    *steps = call->down ? s->first - address : address - s->first;
    return call->down ? address <= s->first : address >= s->first;
}

/* "ADDRESS[+COUNT].OPERATION.EXPECTED.ACTUAL" */
static bool take_finding(const slice *s, const char **at, finding *f)
{
    const rmg_element_call *call = s->call;
    uint64_t address;
    char after;

    f->left = 1;
    if (!take(at, UINT64_MAX, &after, &address) || !steps_to(s, address, &f->next) ||
        (after == '+' && !take(at, s->words, &after, &f->left)) || after != '.' || !f->left ||
        !take(at, call->op_count - 1u, &after, &f->operation) || after != '.' ||
        !take(at, call->mask, &after, &f->expected) || after != '.' ||
        !take(at, call->mask, &after, &f->actual) || (after != ' ' && after != '\0'))
        return false;
    return f->next + f->left <= s->words && !(call->ops[f->operation] & RMG_OP_WRITE) &&
           f->expected == (rmg_word)(call->background ^
                                     (call->ops[f->operation] & RMG_OP_ONE ? call->mask : 0)) &&
           f->actual != f->expected;
}

/* "done", "more ADDRESS OPERATION", "port ...", "lost ...": how it ended, and where it stands. */
static rmg_status take_end(rmg_link *l, slice *s, uint64_t asked, const char **at)
{
    static const struct {
        const char *word;
        rmg_status status;
    } ends[] = {{"done", RMG_OK},
                {"more", RMG_ERR_CANCELLED},
                {"port", RMG_ERR_PORT},
                {"lost", RMG_ERR_PORT_LOST}};
    const rmg_element_call *call = s->call;
    const char *text = *at;
    uint64_t steps = 0;
    size_t i = 0;
    char after;

    while (i < 4 && strncmp(text, ends[i].word, 4) != 0)
        i++;
    if (i == 4 || (text[4] && text[4] != ' '))
        return strange(l, "expected done or more", text);
    s->status = ends[i].status;
    text += 4 + (text[4] == ' ');
    if (s->status == RMG_OK) {
        s->address = call->down ? call->range.first : call->range.last;
        s->operation = 0;
    } else if (!take(&text, UINT64_MAX, &after, &s->address) || after != ' ' ||
               !take(&text, call->op_count - 1u, &after, &s->operation) ||
               (after != ' ' && after != '\0')) {
        return strange(l, "expected where it stands", *at);
    }
    if (!steps_to(s, s->address, &steps) || steps > asked ||
        (s->status == RMG_OK && steps >= asked) ||
        (s->status == RMG_ERR_CANCELLED && !steps && s->operation <= call->operation))
        return strange(l, "it stands where it cannot be", *at);
    s->words = steps + (s->status == RMG_OK || s->operation || s->status != RMG_ERR_CANCELLED);
    *at = text;
    return RMG_OK;
}

static rmg_status take_answer(rmg_link *l, slice *s, uint64_t asked)
{
    uint64_t ends[RMG_MARCH_OPS] = {0}; /* of the last finding of each operation */
    const char *at = l->answer;
    rmg_status status = take_end(l, s, asked, &at);
    size_t room = 1;

    for (const char *c = at; *c; c++)
        room += *c == ' ';
    s->list = status == RMG_OK ? malloc(room * sizeof *s->list) : NULL;
    if (status == RMG_OK && !s->list)
        return RMG_ERR_MEMORY;
    while (status == RMG_OK && *at) {
        const char *text = at;

        if (!take_finding(s, &at, &s->list[s->count]))
            return strange(l, "expected ADDRESS.OPERATION.EXPECTED.ACTUAL", text);
        if (s->count && s->list[s->count].next < s->list[s->count - 1u].next)
            return strange(l, "it goes back", text);
        if (s->list[s->count].next < ends[s->list[s->count].operation])
            return strange(l, "a read is told twice", text);
        ends[s->list[s->count].operation] = s->list[s->count].next + s->list[s->count].left;
        s->count++;
    }
    return status;
}

static rmg_addr address_of(const slice *s, uint64_t steps)
{
    return (rmg_addr)(s->call->down ? s->first - steps : s->first + steps);
}

/* Hands on what was read wrong, in the order of the accesses. Findings come in the order of their
 * first words, and of one operation they do not overlap: at each word at most one of each is open.
 */
static void hand_on(const slice *s)
{
    const rmg_element_call *call = s->call;
    finding *open[RMG_MARCH_OPS] = {NULL};
    size_t next = 0, opened = 0;

    while (opened || next < s->count) {
        finding *first = NULL;

        for (uint8_t i = 0; i < call->op_count; i++)
            if (open[i] && (!first || open[i]->next < first->next))
                first = open[i];
        while (next < s->count && (!first || s->list[next].next <= first->next)) {
            finding *f = &s->list[next++];

            open[f->operation] = f;
            opened++;
            if (!first || f->next < first->next ||
                (f->next == first->next && f->operation < first->operation))
                first = f;
        }
        if (opened == 1 && first->left > 1 && call->mismatch_run &&
            (next == s->count || s->list[next].next >= first->next + first->left)) {
            const rmg_mismatch_run run = {
                .first = address_of(s, call->down ? first->next + first->left - 1u : first->next),
                .words = (rmg_addr)first->left,
                .which = RMG_EVERY_WORD,
                .operation = (uint8_t)first->operation,
                .expected = (rmg_word)first->expected,
                .actual = (rmg_word)first->actual};

            call->mismatch_run(call->sink_context, &run);
            first->left = 0;
        } else {
            call->mismatch(call->sink_context, address_of(s, first->next),
                           (uint8_t)first->operation, (rmg_word)first->expected,
                           (rmg_word)first->actual);
            first->next++;
            first->left--;
        }
        if (!first->left) {
            open[first->operation] = NULL;
            opened--;
        }
    }
}

/* "r0,w1,r1" */
static size_t operations_text(const rmg_element_call *call, char *text, size_t room)
{
    size_t size = 0;

    for (uint8_t i = 0; i < call->op_count && size + 4u < room; i++)
        size += (size_t)snprintf(text + size, room - size, "%s%c%c", i ? "," : "",
                                 call->ops[i] & RMG_OP_WRITE ? 'w' : 'r',
                                 call->ops[i] & RMG_OP_ONE ? '1' : '0');
    return size;
}

/* As much at once as takes a moment. */
static void adapt(rmg_link *l, uint64_t did)
{
    if (did)
        l->word_s = l->took / (double)did;
    if (did >= l->words && l->took < SLICE_S / 2 && l->words < WORDS_MOST)
        l->words *= l->took < SLICE_S / 8 ? 4u : 2u;
    else if (l->took > 2 * SLICE_S && l->words > 4)
        l->words /= 2;
}

/* As many findings at once as arrive whole. */
static unsigned findings_a_line(const rmg_link *l)
{
    const size_t one = 6u + l->address_digits + 2u * l->word_digits,
                 room = rmg_link_length(l) / one;

    return room < TELL_LEAST ? TELL_LEAST : room < TELL_MOST ? (unsigned)room : TELL_MOST;
}

rmg_status rmg_link_element(void *context, rmg_element_call *call)
{
    rmg_link *l = context;
    slice s = {.call = call, .first = call->address};
    char request[LINK_ASK], ops[4 * RMG_MARCH_OPS];
    uint64_t words = call->words_a_call < l->words ? call->words_a_call : l->words;
    size_t size;
    rmg_status status;

    if ((uint64_t)call->range.last > l->last) {
        snprintf(l->why, sizeof l->why,
                 "address 0x%" PRIX64 " is beyond the last one of the far end, 0x%" PRIX64,
                 (uint64_t)call->range.last, l->last);
        return RMG_ERR_PORT;
    }
    operations_text(call, ops, sizeof ops);
    size = (size_t)snprintf(
        request, sizeof request,
        "element %0*" PRIX64 " %0*" PRIX64 " %0*" PRIX64 " %X %s %s %0*" PRIX64 " %0*" PRIX64
        " %" PRIX64 " %X",
        (int)l->address_digits, (uint64_t)call->range.first, (int)l->address_digits,
        (uint64_t)call->range.last, (int)l->address_digits, s.first, (unsigned)call->operation,
        call->down ? "down" : "up", ops, (int)l->word_digits, (uint64_t)call->background,
        (int)l->word_digits, (uint64_t)call->mask, words, findings_a_line(l));
    if (size + 3u + RMG_LINK_SPACE > l->line)
        return RMG_ERR_PORT_CANNOT; /* too long for its lines: by single accesses then */
    status = rmg_link_ask(l, request, l->word_s > 0 ? 2 * l->word_s * (double)words : 0.5, false);
    if (status == RMG_OK)
        status = take_answer(l, &s, words);
    if (status == RMG_OK) {
        hand_on(&s);
        call->address = (rmg_addr)s.address;
        call->operation = (uint8_t)s.operation;
        status = s.status;
        adapt(l, s.words);
        if (status == RMG_ERR_PORT || status == RMG_ERR_PORT_LOST)
            snprintf(l->why, sizeof l->why, "the far end could not make an access at 0x%" PRIX64,
                     s.address);
    }
    free(s.list);
    return status;
}
