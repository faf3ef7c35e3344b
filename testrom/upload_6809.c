/* An element on the 6809: X goes over the words, Y is the record of a read. */
#include "upload.h"

#define JMP 0x7Eu
#define JSR 0xBDu
#define LDA 0xB6u /* extended */
#define STA 0xB7u
#define LDD 0xFCu
#define STD 0xFDu
#define LDX 0xBEu
#define STX 0xBFu
#define LDU 0xFEu
#define STU 0xFFu
#define CLR 0x7Fu
#define TST 0x7Du
#define INC 0x7Cu
#define BRA 0x20u
#define BLO 0x25u
#define BNE 0x26u
#define BEQ 0x27u

/* Y is the record of a read. */
static void take_record(upload *u, unsigned n)
{
    rom_byte(&u->c, 0x10);
    upload_absolute(u, 0x8E, upload_record(u, n));
}

/* A read was wrong: A, at X, with the record Y. Its record grows, or gives way to a new one. */
static void write_mismatch(upload *u, unsigned actual)
{
    rom_code *c = &u->c;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);
    const uint8_t on = u->call->down ? 0x1F : 0x01, back = u->call->down ? 0x01 : 0x1F;

    rom_set(c, u->mismatch);
    upload_to(u, STA, actual);
    ROM(c, 0xEC, 0xA4);
    upload_near(u, BEQ, fresh);
    upload_to(u, LDA, actual);
    ROM(c, 0xA1, 0x26);
    upload_near(u, BNE, other);
    ROM(c, 0xAC, 0x24);
    upload_near(u, BNE, other);
    ROM(c, 0xEC, 0xA4, 0xC3, 0, 1, 0xED, 0xA4);
    upload_near(u, BRA, next);
    rom_set(c, other);
    upload_to(u, JSR, u->flush);
    rom_set(c, fresh);
    ROM(c, 0xCC, 0, 1, 0xED, 0xA4, 0xAF, 0x22);
    upload_to(u, LDA, actual);
    ROM(c, 0xA7, 0x26);
    rom_set(c, next); /* the address that it goes on at */
    ROM(c, 0x30, on, 0xAF, 0x24, 0x30, back, 0x39);
}

/* The record at Y is done, if there is anything in it. */
static void write_flush(upload *u, unsigned free_record)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);

    rom_set(c, u->open);
    ROM(c, 0xEC, 0xA4, BNE, 1, 0x39);
    rom_set(c, u->flush);
    upload_to(u, LDU, free_record);
    for (uint8_t i = 0; i < u->form->record; i = (uint8_t)(i + 2u))
        ROM(c, 0xEC, (uint8_t)(0x20u | i), 0xED, 0xC1); /* std ,u++ */
    upload_to(u, STU, free_record);
    ROM(c, 0xCC, 0, 0, 0xED, 0xA4);
    upload_absolute(u, INC, upload_head(u, u->form->count));
    upload_absolute(u, LDA, upload_head(u, u->form->count));
    ROM(c, 0x81, (uint8_t)(u->most - u->spare));
    upload_near(u, BLO, room);
    ROM(c, 0x86, 1);
    upload_absolute(u, STA, upload_head(u, u->form->full));
    rom_set(c, room);
    rom_byte(c, 0x39);
}

static void write_operations(upload *u, unsigned actual)
{
    rom_code *c = &u->c;
    unsigned read = 0;

    for (uint8_t i = 0; i < u->call->op_count; i++) {
        const uint8_t value = (uint8_t)upload_value(u, u->call->ops[i]);
        unsigned right;

        if (u->call->ops[i] & RMG_OP_WRITE) {
            ROM(c, 0x86, value, 0xA7, 0x84);
            continue;
        }
        right = rom_label(c);
        ROM(c, 0xA6, 0x84);
        if (upload_masked(u)) {
            upload_to(u, STA, actual);
            ROM(c, 0x84, (uint8_t)u->call->mask);
        }
        ROM(c, 0x81, value & (uint8_t)u->call->mask);
        upload_near(u, BEQ, right);
        if (upload_masked(u))
            upload_to(u, LDA, actual);
        take_record(u, read++);
        upload_to(u, JSR, u->mismatch);
        rom_set(c, right);
    }
}

void rmg_upload_write_6809(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), actual = rom_label(c),
                   free_record = rom_label(c), done = rom_label(c);
    const uint32_t words = upload_head(u, u->form->words);
    unsigned loop;

    c->big = true;
    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    upload_begin(u, JMP, start);
    rom_set(c, actual);
    rom_byte(c, 0);
    rom_set(c, free_record);
    rom_word(c, 0);
    write_mismatch(u, actual);
    write_flush(u, free_record);

    rom_set(c, start);
    upload_absolute(u, TST, upload_head(u, u->form->armed));
    ROM(c, BNE, 1, 0x39, 0x34, 0x60); /* pshs y,u */
    upload_absolute(u, CLR, upload_head(u, u->form->armed));
    upload_absolute(u, CLR, upload_head(u, u->form->full));
    upload_absolute(u, CLR, upload_head(u, u->form->count));
    upload_to(u, 0xCE, done); /* ldu */
    upload_to(u, STU, free_record);
    ROM(c, 0xCC, 0, 0);
    for (unsigned n = 0; n < u->reads; n++)
        upload_absolute(u, STD, upload_record(u, n));
    upload_absolute(u, LDX, upload_head(u, u->form->first));
    loop = rom_mark(c);
    write_operations(u, actual);
    ROM(c, 0x30, u->call->down ? 0x1F : 0x01);
    upload_absolute(u, LDD, words);
    ROM(c, 0x83, 0, 1);
    upload_absolute(u, STD, words);
    upload_near(u, BEQ, end);
    upload_absolute(u, TST, upload_head(u, u->form->full));
    ROM(c, BNE, 3);
    upload_to(u, JMP, loop);
    rom_set(c, end);
    upload_absolute(u, STX, upload_head(u, u->form->next));
    for (unsigned n = 0; n < u->reads; n++) {
        take_record(u, n);
        upload_to(u, JSR, u->open);
    }
    ROM(c, 0x35, 0x60); /* puls y,u */
    upload_end(u, 0x39);
    upload_records(u);
    rom_set(c, done);
}
