/* Routines for elements: what the processors have in common. */
#include "upload.h"

#include <string.h>

static void (*const writers[RMG_TESTROM_PROCESSORS])(upload *) = {
    [RMG_TESTROM_Z80] = rmg_upload_write_z80,
    [RMG_TESTROM_6502] = rmg_upload_write_6502,
    [RMG_TESTROM_6809] = rmg_upload_write_6809,
};

bool rmg_upload_is_for(rmg_testrom_processor processor)
{
    return processor < RMG_TESTROM_PROCESSORS && writers[processor];
}

rmg_status rmg_upload_make(const rmg_upload *where, const rmg_element_call *call,
                           rmg_upload_routine *routine)
{
    upload u = {.where = where,
                .call = call,
                .c = {.bytes = routine->code, .room = sizeof routine->code, .org = where->at}};
    size_t room;

    if (!rmg_upload_is_for(where->processor))
        return RMG_ERR_PORT_CANNOT;
    for (uint8_t i = 0; i < call->op_count; i++)
        u.reads += !(call->ops[i] & RMG_OP_WRITE);
    u.spare = 2u * u.reads; /* of each read one that stands open, and one more */
    memset(routine->code, 0, sizeof routine->code);
    for (unsigned again = 0; again < 2; again++) {
        u.c.at = 0;
        u.c.next = 0;
        u.c.second = again;
        writers[where->processor](&u);
        room = where->size > u.c.at ? where->size - u.c.at : 0;
        u.most = (unsigned)(room / RMG_UPLOAD_RECORD);
        if (u.most > 31u) /* their bytes are counted in one, on the 6502 */
            u.most = 31u;
        if (u.most <= u.spare)
            return RMG_ERR_ROOM;
    }
    if (u.c.odd || u.c.at > sizeof routine->code)
        return RMG_ERR_ROOM;
    routine->used = u.c.at;
    routine->stable = rom_of(&u.c, u.records) - u.c.org;
    routine->records = (uint16_t)rom_here(&u.c);
    routine->big = u.c.big;
    return RMG_OK;
}
