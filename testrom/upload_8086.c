/* An element on the 8086 and 8088: ES:DI goes over the words, CX counts them, SI is the record of a
 * read. Its own data lie in segment 0, as its code does. */
#include "upload.h"

#define JMP    0xE9u
#define CALL   0xE8u
#define JZ     0x74u
#define JNZ    0x75u
#define JB     0x72u
#define JMP_BY 0xEBu

static void far_to(upload *u, unsigned opcode, unsigned label)
{
    rom_byte(&u->c, opcode);
    rom_word(&u->c, (rom_of(&u->c, label) - rom_here(&u->c) - 2u) & 0xFFFFu);
}

static bool in_words(const upload *u)
{
    return u->where->word_bytes == 2;
}

static void data(upload *u, unsigned a, unsigned b, uint32_t at)
{
    ROM(&u->c, (uint8_t)a, (uint8_t)b);
    rom_word(&u->c, at);
}

static void set_flag(upload *u, uint32_t at, unsigned value)
{
    data(u, 0xC6, 0x06, at);
    rom_byte(&u->c, value);
}

/* A read was wrong: AX, at ES:DI, with the record SI. Its record grows, or gives way to a new one.
 */
static void write_mismatch(upload *u)
{
    rom_code *c = &u->c;
    const rmg_upload_form *form = u->form;
    const unsigned other = rom_label(c), fresh = rom_label(c), next = rom_label(c);
    const unsigned size = u->where->word_bytes;

    rom_set(c, u->mismatch);
    if (!in_words(u))
        ROM(c, 0x30, 0xE4); /* xor ah,ah */
    ROM(c, 0x83, 0x3C, 0);  /* cmp word [si],0 */
    upload_near(u, JZ, fresh);
    ROM(c, 0x3B, 0x44, form->record_actual);
    upload_near(u, JNZ, other);
    ROM(c, 0x3B, 0x7C, form->record_next);
    upload_near(u, JNZ, other);
    ROM(c, 0xFF, 0x04); /* inc word [si] */
    upload_near(u, JMP_BY, next);
    rom_set(c, other);
    far_to(u, CALL, u->flush);
    rom_set(c, fresh);
    ROM(c, 0xC7, 0x04, 1, 0, 0x89, 0x7C, form->record_first, 0x89, 0x44, form->record_actual);
    rom_set(c, next); /* the address that it goes on at */
    ROM(c, 0x89, 0xFB, 0x83, 0xC3, (uint8_t)(u->call->down ? 0x100u - size : size), 0x89, 0x5C,
        form->record_next, 0xC3);
}

/* The record at SI is done, if there is anything in it. */
static void write_flush(upload *u, unsigned free_record)
{
    rom_code *c = &u->c;
    const unsigned room = rom_label(c);

    rom_set(c, u->open);
    ROM(c, 0x83, 0x3C, 0, JNZ, 1, 0xC3);
    rom_set(c, u->flush);
    data(u, 0x8B, 0x1E, rom_of(c, free_record)); /* mov bx,[] */
    for (uint8_t i = 0; i < u->form->record; i = (uint8_t)(i + 2u))
        ROM(c, 0x8B, 0x54, i, 0x89, 0x57, i); /* mov dx,[si+i]; mov [bx+i],dx */
    ROM(c, 0x83, 0xC3, u->form->record);
    data(u, 0x89, 0x1E, rom_of(c, free_record));
    ROM(c, 0xC7, 0x04, 0, 0); /* mov word [si],0 */
    data(u, 0xFE, 0x06, upload_head(u, u->form->count));
    data(u, 0x80, 0x3E, upload_head(u, u->form->count));
    rom_byte(c, u->most - u->spare);
    upload_near(u, JB, room);
    set_flag(u, upload_head(u, u->form->full), 1);
    rom_set(c, room);
    rom_byte(c, 0xC3);
}

/* Compares what was read, in AX, with `value`. */
static void write_compare(upload *u, uint16_t value)
{
    rom_code *c = &u->c;
    const bool wide = in_words(u), masked = upload_masked(u);

    if (masked)
        ROM(c, wide ? 0x89 : 0x88, 0xC2, wide ? 0x81 : 0x80, 0xE2); /* mov dx,ax; and dx,# */
    if (masked && wide)
        rom_word(c, (uint16_t)u->call->mask);
    else if (masked)
        rom_byte(c, (uint8_t)u->call->mask);
    if (masked)
        ROM(c, wide ? 0x81 : 0x80, 0xFA); /* cmp dx,# */
    else
        rom_byte(c, wide ? 0x3D : 0x3C); /* cmp ax,# */
    if (wide)
        rom_word(c, value);
    else
        rom_byte(c, value);
}

/* The operations on the word at ES:DI. */
static void write_operations(upload *u, unsigned *stubs)
{
    rom_code *c = &u->c;
    const bool wide = in_words(u);
    unsigned read = 0;

    for (uint8_t i = 0; i < u->call->op_count; i++) {
        const uint16_t value = upload_value(u, u->call->ops[i]);

        if (u->call->ops[i] & RMG_OP_WRITE) {
            ROM(c, 0x26, wide ? 0xC7 : 0xC6, 0x05, (uint8_t)value);
            if (wide)
                rom_byte(c, value >> 8);
            continue;
        }
        ROM(c, 0x26, wide ? 0x8B : 0x8A, 0x05);
        write_compare(u, value & (uint16_t)u->call->mask);
        stubs[2u * read] = rom_label(c);
        ROM(c, JZ, 3);
        far_to(u, JMP, stubs[2u * read]);
        stubs[2u * read + 1u] = rom_mark(c);
        read++;
    }
}

/* All that is cleared at its start. */
static void write_start(upload *u, unsigned free_record, unsigned done)
{
    rom_code *c = &u->c;

    /* push ax, bx, cx, dx, si, di, es, ds; push cs; pop ds */
    ROM(c, 0x50, 0x53, 0x51, 0x52, 0x56, 0x57, 0x06, 0x1E, 0x0E, 0x1F);
    set_flag(u, upload_head(u, u->form->armed), 0);
    set_flag(u, upload_head(u, u->form->full), 0);
    set_flag(u, upload_head(u, u->form->count), 0);
    data(u, 0xC7, 0x06, rom_of(c, free_record));
    rom_word(c, rom_of(c, done));
    for (unsigned n = 0; n < u->reads; n++) {
        data(u, 0xC7, 0x06, upload_record(u, n));
        rom_word(c, 0);
    }
    data(u, 0xC4, 0x3E, upload_head(u, u->form->first)); /* les di,[] */
    data(u, 0x8B, 0x0E, upload_head(u, u->form->words)); /* mov cx,[] */
}

void rmg_upload_write_8086(upload *u)
{
    rom_code *c = &u->c;
    const unsigned start = rom_label(c), end = rom_label(c), go = rom_label(c),
                   free_record = rom_label(c), done = rom_label(c), out = rom_label(c);
    unsigned stubs[2u * RMG_MARCH_OPS], loop;

    u->mismatch = rom_label(c);
    u->flush = rom_label(c);
    u->open = rom_label(c);
    u->records = rom_label(c);
    far_to(u, JMP, start);
    while (c->at < u->form->head)
        rom_byte(c, 0);
    rom_set(c, free_record);
    rom_word(c, 0);
    write_mismatch(u);
    write_flush(u, free_record);

    rom_set(c, start);
    rom_byte(c, 0x2E); /* cs: */
    data(u, 0x80, 0x3E, upload_head(u, u->form->armed));
    rom_byte(c, 0);
    upload_near(u, JNZ, go);
    far_to(u, JMP, out);
    rom_set(c, go);
    write_start(u, free_record, done);
    loop = rom_mark(c);
    write_operations(u, stubs);
    for (unsigned n = 0; n < u->where->word_bytes; n++)
        rom_byte(c, u->call->down ? 0x4F : 0x47); /* dec di, inc di */
    rom_byte(c, 0x49);                            /* dec cx */
    upload_near(u, JZ, end);
    data(u, 0x80, 0x3E, upload_head(u, u->form->full));
    rom_byte(c, 0);
    upload_near(u, JNZ, end);
    far_to(u, JMP, loop);
    rom_set(c, end);
    data(u, 0x89, 0x3E, upload_head(u, u->form->next)); /* mov [],di */
    for (unsigned n = 0; n < u->reads; n++) {
        rom_byte(c, 0xBE); /* mov si,# */
        rom_word(c, upload_record(u, n));
        far_to(u, CALL, u->open);
    }
    ROM(c, 0x1F, 0x07, 0x5F, 0x5E, 0x5A, 0x59, 0x5B, 0x58);
    rom_set(c, out);
    upload_end(u, u->where->ends == RMG_UPLOAD_RETURNS_FAR ? 0xCB : 0xC3);
    for (unsigned n = 0; n < u->reads; n++) {
        rom_set(c, stubs[2u * n]);
        rom_byte(c, 0xBE);
        rom_word(c, upload_record(u, n));
        far_to(u, CALL, u->mismatch);
        far_to(u, JMP, stubs[2u * n + 1u]);
    }
    upload_records(u);
    rom_set(c, done);
}
