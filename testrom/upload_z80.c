/* An element on the Z80: HL goes over the words, BC counts them, IX is the record of a read. */
#include "upload.h"

#define JP    0xC3u
#define JP_NZ 0xC2u
#define JP_Z  0xCAu
#define CALL  0xCDu
#define JR    0x18u
#define JR_NZ 0x20u
#define JR_Z  0x28u
#define JR_C  0x38u
#define LD_A  0x3Au /* (nn) */
#define ST_A  0x32u
#define LD_HL 0x21u
#define ST_HL 0x22u

/* A read was wrong: A, at HL, with the record IX. Its record grows, or gives way to a new one. */
static void write_mismatch(upload *u)
{
    rom_code *c = &u->c;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);

    rom_set(c, u->mismatch);
    ROM(c, 0x5F, 0xDD, 0x7E, 0, 0xDD, 0xB6, 1);
    upload_near(u, JR_Z, fresh);
    ROM(c, 0x7B, 0xDD, 0xBE, 6);
    upload_near(u, JR_NZ, other);
    ROM(c, 0x7D, 0xDD, 0xBE, 4);
    upload_near(u, JR_NZ, other);
    ROM(c, 0x7C, 0xDD, 0xBE, 5);
    upload_near(u, JR_NZ, other);
    ROM(c, 0xDD, 0x34, 0);
    upload_near(u, JR_NZ, next);
    ROM(c, 0xDD, 0x34, 1);
    upload_near(u, JR, next);
    rom_set(c, other);
    upload_to(u, CALL, u->flush);
    rom_set(c, fresh);
    ROM(c, 0xDD, 0x36, 0, 1, 0xDD, 0x36, 1, 0, 0xDD, 0x75, 2, 0xDD, 0x74, 3, 0xDD, 0x73, 6);
    rom_set(c, next); /* the address that it goes on at */
    ROM(c, 0xE5, u->call->down ? 0x2B : 0x23, 0xDD, 0x75, 4, 0xDD, 0x74, 5, 0xE1, 0xC9);
}

/* The record at IX is done, if there is anything in it. */
static void write_flush(upload *u, unsigned free_record)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);

    rom_set(c, u->open);
    ROM(c, 0xDD, 0x7E, 0, 0xDD, 0xB6, 1, 0xC8);
    rom_set(c, u->flush);
    ROM(c, 0xE5, 0xC5, 0xD5, 0xDD, 0xE5, 0xE1, 0xED, 0x5B);
    rom_word(c, rom_of(c, free_record));
    ROM(c, 0x01, u->form->record, 0, 0xED, 0xB0, 0xED, 0x53);
    rom_word(c, rom_of(c, free_record));
    upload_absolute(u, LD_HL, upload_head(u, u->form->count));
    ROM(c, 0x34, 0x7E, 0xFE, (uint8_t)(u->most - u->spare));
    upload_near(u, JR_C, room);
    ROM(c, 0x3E, 1);
    upload_absolute(u, ST_A, upload_head(u, u->form->full));
    rom_set(c, room);
    ROM(c, 0xDD, 0x36, 0, 0, 0xDD, 0x36, 1, 0, 0xD1, 0xC1, 0xE1, 0xC9);
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
        upload_to(u, JP_NZ, stubs[2u * read]);
        stubs[2u * read + 1u] = rom_mark(c);
        read++;
    }
}

void rmg_upload_write_z80(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), free_record = rom_label(c),
                   done = rom_label(c), out = rom_label(c);
    unsigned stubs[2u * RMG_MARCH_OPS], loop;

    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    upload_begin(u, JP, start);
    rom_set(c, free_record);
    rom_word(c, 0);
    write_mismatch(u);
    write_flush(u, free_record);

    rom_set(c, start);
    upload_absolute(u, LD_A, upload_head(u, u->form->armed));
    rom_byte(c, 0xB7);
    upload_to(u, JP_Z, out);
    ROM(c, 0xDD, 0xE5, 0xAF); /* push ix */
    upload_absolute(u, ST_A, upload_head(u, u->form->armed));
    upload_absolute(u, ST_A, upload_head(u, u->form->full));
    upload_absolute(u, ST_A, upload_head(u, u->form->count));
    upload_absolute(u, LD_HL, rom_of(c, done));
    upload_to(u, ST_HL, free_record);
    upload_absolute(u, LD_HL, 0);
    for (unsigned n = 0; n < u->reads; n++)
        upload_absolute(u, ST_HL, upload_record(u, n));
    upload_absolute(u, 0x2A, upload_head(u, u->form->first));
    ROM(c, 0xED, 0x4B);
    rom_word(c, upload_head(u, u->form->words));
    loop = rom_mark(c);
    write_operations(u, stubs);
    ROM(c, u->call->down ? 0x2B : 0x23, 0x0B, 0x78, 0xB1);
    upload_to(u, JP_Z, end);
    upload_absolute(u, LD_A, upload_head(u, u->form->full));
    rom_byte(c, 0xB7);
    upload_to(u, JP_Z, loop);
    rom_set(c, end);
    upload_absolute(u, ST_HL, upload_head(u, u->form->next));
    for (unsigned n = 0; n < u->reads; n++) {
        rom_byte(c, 0xDD);
        upload_absolute(u, LD_HL, upload_record(u, n));
        upload_to(u, CALL, u->open);
    }
    ROM(c, 0xDD, 0xE1);
    rom_set(c, out);
    upload_end(u, 0xC9);
    for (unsigned n = 0; n < u->reads; n++) {
        rom_set(c, stubs[2u * n]);
        if (upload_masked(u))
            rom_byte(c, 0x7A);
        rom_byte(c, 0xDD);
        upload_absolute(u, LD_HL, upload_record(u, n));
        upload_to(u, CALL, u->mismatch);
        upload_to(u, JP, stubs[2u * n + 1u]);
    }
    upload_records(u);
    rom_set(c, done);
}
