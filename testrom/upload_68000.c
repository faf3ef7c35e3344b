/* An element on the 68000: A0 goes over the words, D1 counts them, A1 is the record of a read, A2
 * the next free one. */
#include "upload.h"

#define BRA 0x6000u
#define BSR 0x6100u
#define BCS 0x6500u
#define BNE 0x6600u
#define BEQ 0x6700u

static void word(upload *u, unsigned opcode)
{
    rom_word(&u->c, opcode);
}

static void words(upload *u, unsigned opcode, unsigned value)
{
    rom_word(&u->c, opcode);
    rom_word(&u->c, value);
}

static void at_long(upload *u, unsigned opcode, uint32_t address)
{
    rom_word(&u->c, opcode);
    rom_long(&u->c, address);
}

/* A branch with a distance of 16 bits. */
static void branch(upload *u, unsigned opcode, unsigned label)
{
    rom_word(&u->c, opcode);
    rom_word(&u->c, rom_of(&u->c, label) - rom_here(&u->c));
}

static bool in_words(const upload *u)
{
    return u->where->word_bytes == 2;
}

/* addq or subq of a word's size: `up` is what it is for the next word of an element that goes up.
 */
static void step(upload *u, unsigned up, unsigned down)
{
    word(u, (u->call->down ? down : up) | (in_words(u) ? 2u << 9 : 1u << 9));
}

/* A read was wrong: D0, at A0, with the record A1. Its record grows, or gives way to a new one. */
static void write_mismatch(upload *u)
{
    rom_code *c = &u->c;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);

    rom_set(c, u->mismatch);
    if (!in_words(u))
        words(u, 0x0240, 0xFF); /* andi.w #,d0 */
    word(u, 0x4A51);            /* tst.w (a1) */
    branch(u, BEQ, fresh);
    words(u, 0xB069, u->form->record_actual); /* cmp.w n(a1),d0 */
    branch(u, BNE, other);
    word(u, 0x3408);                        /* move.w a0,d2 */
    words(u, 0xB469, u->form->record_next); /* cmp.w n(a1),d2 */
    branch(u, BNE, other);
    word(u, 0x5251); /* addq.w #1,(a1) */
    branch(u, BRA, next);
    rom_set(c, other);
    branch(u, BSR, u->flush);
    rom_set(c, fresh);
    words(u, 0x32BC, 1);                      /* move.w #1,(a1) */
    words(u, 0x3348, u->form->record_first);  /* move.w a0,n(a1) */
    words(u, 0x3340, u->form->record_actual); /* move.w d0,n(a1) */
    rom_set(c, next);                         /* the address that it goes on at */
    word(u, 0x3408);
    step(u, 0x5042, 0x5142);                /* addq.w or subq.w #,d2 */
    words(u, 0x3342, u->form->record_next); /* move.w d2,n(a1) */
    word(u, 0x4E75);
}

/* The record at A1 is done, if there is anything in it. */
static void write_flush(upload *u)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);

    rom_set(c, u->open);
    word(u, 0x4A51);
    branch(u, BEQ, room);
    rom_set(c, u->flush);
    word(u, 0x24D1);     /* move.l (a1),(a2)+ */
    words(u, 0x24E9, 4); /* move.l 4(a1),(a2)+ */
    words(u, 0x34E9, 8); /* move.w 8(a1),(a2)+ */
    word(u, 0x4251);     /* clr.w (a1) */
    at_long(u, 0x5239, upload_head(u, u->form->count));
    words(u, 0x0C39, u->most - u->spare); /* cmpi.b #,count */
    rom_long(c, upload_head(u, u->form->count));
    branch(u, BCS, room);
    words(u, 0x13FC, 1); /* move.b #1,full */
    rom_long(c, upload_head(u, u->form->full));
    rom_set(c, room);
    word(u, 0x4E75);
}

/* The operations on the word at A0. */
static void write_operations(upload *u, unsigned *stubs)
{
    rom_code *c = &u->c;
    const bool wide = in_words(u);
    unsigned read = 0;

    for (uint8_t i = 0; i < u->call->op_count; i++) {
        const uint16_t value = upload_value(u, u->call->ops[i]);
        const uint16_t mask = (uint16_t)u->call->mask;

        if (u->call->ops[i] & RMG_OP_WRITE) {
            words(u, wide ? 0x30BC : 0x10BC, value); /* move #,(a0) */
            continue;
        }
        word(u, wide ? 0x3010 : 0x1010); /* move (a0),d0 */
        if (upload_masked(u)) {
            word(u, 0x3400);        /* move.w d0,d2 */
            words(u, 0x0242, mask); /* andi.w #,d2 */
        }
        /* cmpi #,d2 or d0 */
        words(u, (wide ? 0x0C40 : 0x0C00) | (upload_masked(u) ? 2u : 0u), value & mask);
        stubs[2u * read] = rom_label(c);
        branch(u, BNE, stubs[2u * read]);
        stubs[2u * read + 1u] = rom_mark(c);
        read++;
    }
}

void rmg_upload_write_68000(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), done = rom_label(c),
                   out = rom_label(c);
    unsigned stubs[2u * RMG_MARCH_OPS], loop;

    c->big = true;
    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    branch(u, BRA, start);
    while (c->at < u->form->head)
        rom_byte(c, 0);
    write_mismatch(u);
    write_flush(u);

    rom_set(c, start);
    at_long(u, 0x4A39, upload_head(u, u->form->armed)); /* tst.b */
    branch(u, BEQ, out);
    words(u, 0x48E7, 0xF0E0);                           /* movem.l d0-d3/a0-a2,-(sp) */
    at_long(u, 0x4239, upload_head(u, u->form->armed)); /* clr.b */
    at_long(u, 0x4239, upload_head(u, u->form->full));
    at_long(u, 0x4239, upload_head(u, u->form->count));
    at_long(u, 0x45F9, rom_of(c, done)); /* lea done,a2 */
    for (unsigned n = 0; n < u->reads; n++)
        at_long(u, 0x4279, upload_record(u, n));        /* clr.w */
    at_long(u, 0x2079, upload_head(u, u->form->first)); /* movea.l first,a0 */
    at_long(u, 0x3239, upload_head(u, u->form->words)); /* move.w words,d1 */
    loop = rom_mark(c);
    write_operations(u, stubs);
    step(u, 0x5088, 0x5188); /* addq.l or subq.l #,a0 */
    word(u, 0x5341);         /* subq.w #1,d1 */
    branch(u, BEQ, end);
    at_long(u, 0x4A39, upload_head(u, u->form->full));
    branch(u, BEQ, loop);
    rom_set(c, end);
    at_long(u, 0x33C8, upload_head(u, u->form->next)); /* move.w a0,next */
    for (unsigned n = 0; n < u->reads; n++) {
        at_long(u, 0x43F9, upload_record(u, n)); /* lea record,a1 */
        branch(u, BSR, u->open);
    }
    words(u, 0x4CDF, 0x070F); /* movem.l (sp)+,d0-d3/a0-a2 */
    rom_set(c, out);
    upload_end(u, 0x4E75);
    for (unsigned n = 0; n < u->reads; n++) {
        rom_set(c, stubs[2u * n]);
        at_long(u, 0x43F9, upload_record(u, n));
        branch(u, BSR, u->mismatch);
        branch(u, BRA, stubs[2u * n + 1u]);
    }
    upload_records(u);
    rom_set(c, done);
}
