/* An element on the 6502: two bytes of zero page go over the words, X chooses the record of a read.
 */
#include "upload.h"

#define LDA     0xADu /* absolute */
#define STA     0x8Du
#define ORA     0x0Du
#define CMP     0xCDu
#define INC     0xEEu
#define DEC     0xCEu
#define LDA_X   0xBDu
#define STA_X   0x9Du
#define ORA_X   0x1Du
#define CMP_X   0xDDu
#define INC_X   0xFEu
#define STA_Y   0x99u
#define JMP     0x4Cu
#define JSR     0x20u
#define BNE     0xD0u
#define BEQ     0xF0u
#define BCC     0x90u
#define LDA_NOW 0xA9u /* immediate */

/* A field of the record that X chooses. */
static void field(upload *u, unsigned opcode, unsigned offset)
{
    upload_absolute(u, opcode, upload_record(u, 0) + offset);
}

/* Of the two bytes of zero page. */
static void pointer(upload *u, unsigned opcode, unsigned byte)
{
    ROM(&u->c, (uint8_t)opcode, (uint8_t)(u->where->zero_page + byte));
}

/* A read was wrong: A, with the record X. Its record grows, or gives way to a new one. */
static void write_mismatch(upload *u, unsigned actual)
{
    rom_code *c = &u->c;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);
    const bool down = u->call->down;

    rom_set(c, u->mismatch);
    upload_to(u, STA, actual);
    field(u, LDA_X, 0);
    field(u, ORA_X, 1);
    upload_near(u, BEQ, fresh);
    upload_to(u, LDA, actual);
    field(u, CMP_X, 6);
    upload_near(u, BNE, other);
    for (unsigned byte = 0; byte < 2; byte++) {
        pointer(u, 0xA5, byte);
        field(u, CMP_X, 4 + byte);
        upload_near(u, BNE, other);
    }
    field(u, INC_X, 0);
    upload_near(u, BNE, next);
    field(u, INC_X, 1);
    upload_to(u, JMP, next);
    rom_set(c, other);
    upload_to(u, JSR, u->flush);
    rom_set(c, fresh);
    ROM(c, LDA_NOW, 1);
    field(u, STA_X, 0);
    ROM(c, LDA_NOW, 0);
    field(u, STA_X, 1);
    for (unsigned byte = 0; byte < 2; byte++) {
        pointer(u, 0xA5, byte);
        field(u, STA_X, 2 + byte);
    }
    upload_to(u, LDA, actual);
    field(u, STA_X, 6);
    rom_set(c, next); /* the address that it goes on at */
    rom_byte(c, down ? 0x38 : 0x18);
    for (unsigned byte = 0; byte < 2; byte++) {
        pointer(u, 0xA5, byte);
        ROM(c, down ? 0xE9 : 0x69, byte == 0);
        field(u, STA_X, 4 + byte);
    }
    rom_byte(c, 0x60);
}

/* The record at X is done, if there is anything in it. */
static void write_flush(upload *u, unsigned index, unsigned left, unsigned done)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);
    unsigned loop;

    rom_set(c, u->open);
    field(u, LDA_X, 0);
    field(u, ORA_X, 1);
    ROM(c, BNE, 1, 0x60);
    rom_set(c, u->flush);
    ROM(c, 0x8A, 0x48);        /* txa; pha */
    upload_to(u, 0xAC, index); /* ldy */
    ROM(c, LDA_NOW, u->form->record);
    upload_to(u, STA, left);
    loop = rom_mark(c);
    field(u, LDA_X, 0);
    upload_to(u, STA_Y, done);
    ROM(c, 0xE8, 0xC8);
    upload_to(u, DEC, left);
    upload_near(u, BNE, loop);
    upload_to(u, 0x8C, index);      /* sty */
    ROM(c, 0x68, 0xAA, LDA_NOW, 0); /* pla; tax */
    field(u, STA_X, 0);
    field(u, STA_X, 1);
    upload_absolute(u, INC, upload_head(u, u->form->count));
    upload_absolute(u, LDA, upload_head(u, u->form->count));
    ROM(c, 0xC9, (uint8_t)(u->most - u->spare));
    upload_near(u, BCC, room);
    ROM(c, LDA_NOW, 1);
    upload_absolute(u, STA, upload_head(u, u->form->full));
    rom_set(c, room);
    ROM(c, 0xA0, 0, 0x60); /* ldy; rts */
}

static void write_operations(upload *u, unsigned actual)
{
    rom_code *c = &u->c;
    unsigned read = 0;

    for (uint8_t i = 0; i < u->call->op_count; i++) {
        const uint8_t value = (uint8_t)upload_value(u, u->call->ops[i]);
        unsigned right;

        if (u->call->ops[i] & RMG_OP_WRITE) {
            ROM(c, LDA_NOW, value);
            pointer(u, 0x91, 0);
            continue;
        }
        right = rom_label(c);
        pointer(u, 0xB1, 0);
        if (upload_masked(u)) {
            upload_to(u, STA, actual);
            ROM(c, 0x29, (uint8_t)u->call->mask);
        }
        ROM(c, 0xC9, value & (uint8_t)u->call->mask);
        upload_near(u, BEQ, right);
        if (upload_masked(u))
            upload_to(u, LDA, actual);
        ROM(c, 0xA2, (uint8_t)(u->form->record * read++)); /* ldx */
        upload_to(u, JSR, u->mismatch);
        rom_set(c, right);
    }
}

/* To the next word. */
static void write_on(upload *u)
{
    rom_code *c = &u->c;

    if (u->call->down) {
        pointer(u, 0xA5, 0);
        ROM(c, BNE, 2);
        pointer(u, 0xC6, 1);
        pointer(u, 0xC6, 0);
    } else {
        pointer(u, 0xE6, 0);
        ROM(c, BNE, 2);
        pointer(u, 0xE6, 1);
    }
}

void rmg_upload_write_6502(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), actual = rom_label(c),
                   index = rom_label(c), left = rom_label(c), done = rom_label(c);
    const uint32_t words = upload_head(u, u->form->words);
    unsigned loop;

    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    upload_begin(u, JMP, start);
    rom_set(c, actual);
    rom_byte(c, 0);
    rom_set(c, index);
    rom_byte(c, 0);
    rom_set(c, left);
    rom_byte(c, 0);
    write_mismatch(u, actual);
    write_flush(u, index, left, done);

    rom_set(c, start);
    upload_absolute(u, LDA, upload_head(u, u->form->armed));
    ROM(c, BNE, 1, 0x60, 0xD8); /* rts; cld */
    for (unsigned byte = 0; byte < 2; byte++) {
        pointer(u, 0xA5, byte);
        rom_byte(c, 0x48);
    }
    ROM(c, LDA_NOW, 0, 0xA8); /* tay */
    upload_absolute(u, STA, upload_head(u, u->form->armed));
    upload_absolute(u, STA, upload_head(u, u->form->full));
    upload_absolute(u, STA, upload_head(u, u->form->count));
    upload_to(u, STA, index);
    for (unsigned n = 0; n < u->reads; n++)
        for (unsigned byte = 0; byte < 2; byte++)
            upload_absolute(u, STA, upload_record(u, n) + byte);
    for (unsigned byte = 0; byte < 2; byte++) {
        upload_absolute(u, LDA, upload_head(u, u->form->first + byte));
        pointer(u, 0x85, byte);
    }
    loop = rom_mark(c);
    write_operations(u, actual);
    write_on(u);
    upload_absolute(u, LDA, words);
    ROM(c, BNE, 3);
    upload_absolute(u, DEC, words + 1u);
    upload_absolute(u, DEC, words);
    upload_absolute(u, LDA, words);
    upload_absolute(u, ORA, words + 1u);
    upload_near(u, BEQ, end);
    upload_absolute(u, LDA, upload_head(u, u->form->full));
    upload_near(u, BNE, end);
    upload_to(u, JMP, loop);
    rom_set(c, end);
    for (unsigned byte = 0; byte < 2; byte++) {
        pointer(u, 0xA5, byte);
        upload_absolute(u, STA, upload_head(u, u->form->next + byte));
    }
    for (unsigned n = 0; n < u->reads; n++) {
        ROM(c, 0xA2, (uint8_t)(u->form->record * n));
        upload_to(u, JSR, u->open);
    }
    for (unsigned byte = 2; byte-- > 0;) {
        rom_byte(c, 0x68);
        pointer(u, 0x85, byte);
    }
    upload_end(u, 0x60);
    upload_records(u);
    rom_set(c, done);
}
