/* Routines for elements: what the processors have in common. */
#include "upload.h"

#include <string.h>

static const rmg_upload_form narrow = {.armed = 3,
                                       .full = 4,
                                       .count = 5,
                                       .next = 6,
                                       .first = 8,
                                       .words = 10,
                                       .head = 12,
                                       .record_words = 0,
                                       .record_first = 2,
                                       .record_next = 4,
                                       .record_actual = 6,
                                       .record_read = 7,
                                       .record = 8};
static const rmg_upload_form wide = {.armed = 4,
                                     .full = 5,
                                     .count = 6,
                                     .next = 8,
                                     .first = 10,
                                     .words = 14,
                                     .head = 16,
                                     .record_words = 0,
                                     .record_first = 2,
                                     .record_next = 4,
                                     .record_actual = 6,
                                     .record_read = 8,
                                     .record = 10,
                                     .wide = true};

/* The processors that have one, and the instruction that debuggers break at; 0: none that is
 * agreed on. */
typedef struct upload_row {
    void (*write)(upload *);
    const rmg_upload_form *form;
    uint16_t breakpoint;
} upload_row;
static const upload_row rows[RMG_TESTROM_PROCESSORS] = {
    [RMG_TESTROM_Z80] = {rmg_upload_write_8080, &narrow, 0xCF},
    [RMG_TESTROM_6502] = {rmg_upload_write_6502, &narrow, 0},
    [RMG_TESTROM_6809] = {rmg_upload_write_6809, &narrow, 0},
    [RMG_TESTROM_68000] = {rmg_upload_write_68000, &wide, 0x4E4F},
    [RMG_TESTROM_8086] = {rmg_upload_write_8086, &wide, 0xCC},
    [RMG_TESTROM_8080] = {rmg_upload_write_8080, &narrow, 0},
    [RMG_TESTROM_8085] = {rmg_upload_write_8080, &narrow, 0},
};

bool rmg_upload_is_for(rmg_testrom_processor processor)
{
    return processor < RMG_TESTROM_PROCESSORS && rows[processor].write;
}

uint8_t rmg_upload_word_bytes(rmg_testrom_processor processor)
{
    return rmg_upload_is_for(processor) && rows[processor].form->wide ? 2 : 1;
}

static bool is_x86(rmg_testrom_processor processor)
{
    return processor == RMG_TESTROM_8086;
}

bool rmg_upload_can_end(rmg_testrom_processor processor, rmg_upload_end end)
{
    return rmg_upload_is_for(processor) &&
           (end == RMG_UPLOAD_BREAKS        ? rows[processor].breakpoint != 0
            : end == RMG_UPLOAD_RETURNS_FAR ? is_x86(processor)
                                            : true);
}

rmg_status rmg_upload_make(const rmg_upload *where, const rmg_element_call *call,
                           rmg_upload_routine *routine)
{
    upload u = {.where = where,
                .call = call,
                .c = {.bytes = routine->code, .room = sizeof routine->code, .org = where->at}};
    size_t room;

    if (!rmg_upload_can_end(where->processor, where->ends) ||
        where->word_bytes > rmg_upload_word_bytes(where->processor))
        return RMG_ERR_PORT_CANNOT;
    u.form = rows[where->processor].form;
    if (where->ends == RMG_UPLOAD_BREAKS)
        u.breakpoint = rows[where->processor].breakpoint;
    for (uint8_t i = 0; i < call->op_count; i++)
        u.reads += !(call->ops[i] & RMG_OP_WRITE);
    u.spare = 2u * u.reads; /* of each read one that stands open, and one more */
    memset(routine->code, 0, sizeof routine->code);
    for (unsigned again = 0; again < 2; again++) {
        u.c.at = 0;
        u.c.next = 0;
        u.c.second = again;
        rows[where->processor].write(&u);
        room = where->size > u.c.at ? where->size - u.c.at : 0;
        u.most = (unsigned)(room / u.form->record);
        if (u.most > 31u) /* their bytes are counted in one, on the 6502 */
            u.most = 31u;
        if (u.most <= u.spare)
            return RMG_ERR_ROOM;
    }
    if (u.c.odd || u.c.at > sizeof routine->code)
        return RMG_ERR_ROOM;
    routine->form = u.form;
    routine->used = u.c.at;
    routine->stable = rom_of(&u.c, u.records) - u.c.org;
    routine->records = rom_here(&u.c);
    routine->end = u.end;
    routine->big = u.c.big;
    return RMG_OK;
}

static void put_word(uint8_t *bytes, uint32_t value, bool big)
{
    bytes[0] = (uint8_t)(big ? value >> 8 : value);
    bytes[1] = (uint8_t)(big ? value : value >> 8);
}

static uint16_t get_word(const uint8_t *bytes, bool big)
{
    return (uint16_t)(big ? bytes[0] << 8 | bytes[1] : bytes[1] << 8 | bytes[0]);
}

/* 8086: a segment in which the whole stretch lies. */
static uint32_t segment_of(const rmg_upload_stretch *s)
{
    if (!s->down)
        return s->first >> 4;
    return s->first > 0xFFFFu ? (s->first - 0xFFF0u) >> 4 : 0;
}

/* The lowest bits of the first address, as records tell it. */
static uint16_t first_of(const rmg_upload *where, const rmg_upload_stretch *s)
{
    return (uint16_t)(is_x86(where->processor) ? s->first - (segment_of(s) << 4) : s->first);
}

void rmg_upload_arm(const rmg_upload *where, const rmg_upload_routine *routine,
                    const rmg_upload_stretch *s, uint8_t *head)
{
    const rmg_upload_form *form = routine->form;
    uint8_t *first = head + form->first;

    if (is_x86(where->processor)) {
        put_word(first, first_of(where, s), false);
        put_word(first + 2, segment_of(s), false);
    } else if (form->wide) {
        put_word(first, s->first >> 16, true);
        put_word(first + 2, s->first & 0xFFFFu, true);
    } else {
        put_word(first, s->first, routine->big);
    }
    put_word(head + form->next, first_of(where, s), routine->big); /* until it has run: none done */
    put_word(head + form->words, s->words, routine->big);
    head[form->armed] = 1;
}

/* How many words lie between two addresses, in the direction of the element. */
static uint32_t between(const rmg_upload *where, const rmg_upload_stretch *s, uint16_t from,
                        uint16_t to)
{
    return (uint16_t)(s->down ? from - to : to - from) / (unsigned)where->word_bytes;
}

uint32_t rmg_upload_done(const rmg_upload *where, const rmg_upload_routine *routine,
                         const rmg_upload_stretch *s, const uint8_t *head)
{
    const rmg_upload_form *form = routine->form;
    const uint32_t done =
        between(where, s, first_of(where, s), get_word(head + form->next, routine->big));

    return head[form->armed] || done > s->words ||
                   (uint32_t)head[form->count] * form->record > where->size
               ? 0
               : done;
}

bool rmg_upload_record(const rmg_upload *where, const rmg_upload_routine *routine,
                       const rmg_upload_stretch *s, uint32_t done, const uint8_t *record,
                       rmg_upload_found *found)
{
    const rmg_upload_form *form = routine->form;
    const uint16_t first = get_word(record + form->record_first, routine->big);

    *found = (rmg_upload_found){.from = between(where, s, first_of(where, s), first),
                                .words = get_word(record + form->record_words, routine->big),
                                .actual = form->wide
                                              ? get_word(record + form->record_actual, routine->big)
                                              : record[form->record_actual],
                                .read = record[form->record_read]};
    return found->words && found->from < done && found->words <= done - found->from;
}
