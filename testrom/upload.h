/* Inside the room: a routine while it is put together. */
#ifndef RMG_TESTROM_UPLOAD_H
#define RMG_TESTROM_UPLOAD_H

#include "code.h"
#include "rimeglass/upload.h"

typedef struct upload {
    rom_code c;
    const rmg_upload *where;
    const rmg_element_call *call;
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
    while (u->c.at < RMG_UPLOAD_HEAD)
        rom_byte(&u->c, 0);
}

/* Its end: the records that stand open, one for each read; those that are done lie behind. */
static inline void upload_records(upload *u)
{
    rom_set(&u->c, u->records);
    for (unsigned n = 0; n < u->reads; n++)
        for (unsigned i = 0; i < RMG_UPLOAD_RECORD; i++)
            rom_byte(&u->c, i == RMG_UPLOAD_REC_READ ? n : 0);
}

static inline uint32_t upload_record(const upload *u, unsigned n)
{
    return rom_of(&u->c, u->records) + n * RMG_UPLOAD_RECORD;
}

/* What an operation writes or expects. */
static inline uint8_t upload_value(const upload *u, uint8_t op)
{
    return (uint8_t)(op & RMG_OP_ONE ? u->call->background ^ u->call->mask : u->call->background);
}

/* Are only some bits compared? */
static inline bool upload_masked(const upload *u)
{
    return (u->call->mask & 0xFFu) != 0xFFu;
}

void rmg_upload_write_z80(upload *u);
void rmg_upload_write_6502(upload *u);
void rmg_upload_write_6809(upload *u);

#endif
