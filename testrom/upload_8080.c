/* An element on the 8080, 8085 and Z80: HL goes over the words, BC counts them, DE is the record of
 * a read. */
#include "upload.h"

#define JMP   0xC3u
#define JNZ   0xC2u
#define JZ    0xCAu
#define JC    0xDAu
#define CALL  0xCDu
#define LDA   0x3Au
#define STA   0x32u
#define LHLD  0x2Au
#define SHLD  0x22u
#define LXI_D 0x11u
#define LXI_H 0x21u

/* A read was wrong: A, at HL, with the record DE. Its record grows, or gives way to a new one. */
static void write_mismatch(upload *u)
{
    rom_code *c = &u->c;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);

    rom_set(c, u->mismatch);
    ROM(c, 0xC5, 0x4F, 0xE5, 0xEB, 0x7E, 0x23, 0xB6, 0x2B); /* HL: record, DE: address, C: value */
    upload_to(u, JZ, fresh);
    ROM(c, 0xE5, 0x23, 0x23, 0x23, 0x23, 0x7B, 0xBE);
    upload_to(u, JNZ, other);
    ROM(c, 0x23, 0x7A, 0xBE);
    upload_to(u, JNZ, other);
    ROM(c, 0x23, 0x79, 0xBE);
    upload_to(u, JNZ, other);
    ROM(c, 0xE1, 0x34);
    upload_to(u, JNZ, next);
    ROM(c, 0x23, 0x34, 0x2B);
    upload_to(u, JMP, next);
    rom_set(c, other);
    rom_byte(c, 0xE1);
    upload_to(u, CALL, u->flush);
    rom_set(c, fresh);
    ROM(c, 0x36, 1, 0x23, 0x36, 0, 0x23, 0x73, 0x23, 0x72, 0x23, 0x23, 0x23, 0x71);
    ROM(c, 0x01, 0xFA, 0xFF, 0x09); /* back by six */
    rom_set(c, next);               /* the address that it goes on at */
    ROM(c, u->call->down ? 0x1B : 0x13, 0x23, 0x23, 0x23, 0x23, 0x73, 0x23, 0x72, 0xE1, 0xC1, 0xC9);
}

/* The record at HL is done, if there is anything in it. */
static void write_flush(upload *u, unsigned free_record)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);
    unsigned copy;

    rom_set(c, u->open);
    ROM(c, 0x7E, 0x23, 0xB6, 0x2B, 0xC8);
    rom_set(c, u->flush);
    ROM(c, 0xD5, 0xC5, 0xE5, 0xEB);
    upload_to(u, LHLD, free_record);
    ROM(c, 0x06, u->form->record);
    copy = rom_mark(c);
    ROM(c, 0x1A, 0x77, 0x13, 0x23, 0x05);
    upload_to(u, JNZ, copy);
    upload_to(u, SHLD, free_record);
    upload_absolute(u, LXI_H, upload_head(u, u->form->count));
    ROM(c, 0x34, 0x7E, 0xFE, (uint8_t)(u->most - u->spare));
    upload_to(u, JC, room);
    ROM(c, 0x3E, 1);
    upload_absolute(u, STA, upload_head(u, u->form->full));
    rom_set(c, room);
    ROM(c, 0xE1, 0x36, 0, 0x23, 0x36, 0, 0x2B, 0xC1, 0xD1, 0xC9);
}

/* The operations on the word at HL. */
static void write_operations(upload *u, unsigned *stubs)
{
    rom_code *c = &u->c;
    unsigned read = 0;

    for (uint8_t i = 0; i < u->call->op_count; i++) {
        const uint8_t value = (uint8_t)upload_value(u, u->call->ops[i]);

        if (u->call->ops[i] & RMG_OP_WRITE) {
            ROM(c, 0x36, value);
            continue;
        }
        rom_byte(c, 0x7E);
        if (upload_masked(u))
            ROM(c, 0x57, 0xE6, (uint8_t)u->call->mask);
        ROM(c, 0xFE, value & (uint8_t)u->call->mask);
        stubs[2u * read] = rom_label(c);
        upload_to(u, JNZ, stubs[2u * read]);
        stubs[2u * read + 1u] = rom_mark(c);
        read++;
    }
}

void rmg_upload_write_8080(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), free_record = rom_label(c),
                   done = rom_label(c), out = rom_label(c);
    unsigned stubs[2u * RMG_MARCH_OPS], loop;

    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    upload_begin(u, JMP, start);
    rom_set(c, free_record);
    rom_word(c, 0);
    write_mismatch(u);
    write_flush(u, free_record);

    rom_set(c, start);
    upload_absolute(u, LDA, upload_head(u, u->form->armed));
    rom_byte(c, 0xB7);
    upload_to(u, JZ, out);
    rom_byte(c, 0xAF);
    upload_absolute(u, STA, upload_head(u, u->form->armed));
    upload_absolute(u, STA, upload_head(u, u->form->full));
    upload_absolute(u, STA, upload_head(u, u->form->count));
    upload_to(u, LXI_H, done);
    upload_to(u, SHLD, free_record);
    upload_absolute(u, LXI_H, 0);
    for (unsigned n = 0; n < u->reads; n++)
        upload_absolute(u, SHLD, upload_record(u, n));
    upload_absolute(u, LHLD, upload_head(u, u->form->words));
    ROM(c, 0x44, 0x4D);
    upload_absolute(u, LHLD, upload_head(u, u->form->first));
    loop = rom_mark(c);
    write_operations(u, stubs);
    ROM(c, u->call->down ? 0x2B : 0x23, 0x0B, 0x78, 0xB1);
    upload_to(u, JZ, end);
    upload_absolute(u, LDA, upload_head(u, u->form->full));
    rom_byte(c, 0xB7);
    upload_to(u, JZ, loop);
    rom_set(c, end);
    upload_absolute(u, SHLD, upload_head(u, u->form->next));
    for (unsigned n = 0; n < u->reads; n++) {
        upload_absolute(u, LXI_H, upload_record(u, n));
        upload_to(u, CALL, u->open);
    }
    rom_set(c, out);
    upload_end(u, 0xC9);
    for (unsigned n = 0; n < u->reads; n++) {
        rom_set(c, stubs[2u * n]);
        if (upload_masked(u))
            rom_byte(c, 0x7A);
        upload_absolute(u, LXI_D, upload_record(u, n));
        upload_to(u, CALL, u->mismatch);
        upload_to(u, JMP, stubs[2u * n + 1u]);
    }
    upload_records(u);
    rom_set(c, done);
}
