/* Inside the room: a routine while it is put together. */
#ifndef RMG_TESTROM_UPLOAD_H
#define RMG_TESTROM_UPLOAD_H

#include "code.h"
#include "rimeglass/upload.h"

typedef struct upload {
    rom_code c;
    const rmg_upload *where;
    const rmg_element_call *call;
    const rmg_upload_form *form;
    uint32_t end;         /* address of the instruction that ends it */
    unsigned breakpoint;  /* that instruction; 0: it returns */
    unsigned reads;       /* of the element */
    unsigned most, spare; /* records that there is room for; kept for the end */
    unsigned mismatch, flush, open,
        records; /* labels: of routines, and of records that stand open */
} upload;

static inline uint32_t upload_head(const upload *u, unsigned offset)
{
    return u->c.org + offset;
}

/* An instruction with an address; with that of a label; a short branch. */
static inline void upload_absolute(upload *u, unsigned opcode, uint32_t at)
{
    rom_byte(&u->c, opcode);
    rom_word(&u->c, at & 0xFFFFu);
}

static inline void upload_to(upload *u, unsigned opcode, unsigned label)
{
    upload_absolute(u, opcode, rom_of(&u->c, label));
}

static inline void upload_near(upload *u, unsigned opcode, unsigned label)
{
    rom_byte(&u->c, opcode);
    rmg_testrom_near(&u->c, label);
}

/* The jump at its beginning, and room for its head. */
static inline void upload_begin(upload *u, unsigned jump, unsigned start)
{
    rom_byte(&u->c, jump);
    rom_word(&u->c, rom_of(&u->c, start));
    while (u->c.at < u->form->head)
        rom_byte(&u->c, 0);
}

/* Its end: the records that stand open, one for each read; those that are done lie behind. */
static inline void upload_records(upload *u)
{
    rom_set(&u->c, u->records);
    for (unsigned n = 0; n < u->reads; n++)
        for (unsigned i = 0; i < u->form->record; i++)
            rom_byte(&u->c, i == u->form->record_read ? n : 0);
}

static inline uint32_t upload_record(const upload *u, unsigned n)
{
    return rom_of(&u->c, u->records) + n * u->form->record;
}

/* What an operation writes or expects. */
static inline uint16_t upload_value(const upload *u, uint8_t op)
{
    return (uint16_t)(op & RMG_OP_ONE ? u->call->background ^ u->call->mask : u->call->background);
}

/* Are only some bits compared? */
static inline bool upload_masked(const upload *u)
{
    const unsigned all = u->where->word_bytes == 2 ? 0xFFFFu : 0xFFu;

    return (u->call->mask & all) != all;
}

/* Its last instruction: `returns`, or where it is to end so a breakpoint. */
static inline void upload_end(upload *u, unsigned returns)
{
    const unsigned code = u->breakpoint ? u->breakpoint : returns;

    u->end = rom_here(&u->c);
    if (code > 0xFF)
        rom_word(&u->c, code);
    else
        rom_byte(&u->c, code);
}

void rmg_upload_write_68000(upload *u);
void rmg_upload_write_8086(upload *u); /* and 8088 */
void rmg_upload_write_8080(upload *u); /* and 8085, Z80 */
void rmg_upload_write_6502(upload *u);
void rmg_upload_write_6809(upload *u);

#endif
