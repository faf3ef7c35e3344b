/* March elements by a routine that is put into the target's memory and started at the prompt. */
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"
#include "internal.h"
#include "rimeglass/tally.h"

#define BYTES_MOST 1024u /* of memory that are proven and used */

/* What lies in the target. */
typedef struct prompt_routine {
    rmg_upload where;
    uint8_t there[RMG_UPLOAD_MOST]; /* [known]: as it was written and read back */
    size_t known;
} prompt_routine;

/* Neighbours that were wrong alike. */
typedef struct record {
    uint16_t first, words; /* in the order of the element */
    uint8_t actual, read;
} record;

static rmg_status read_bytes(rmg_prompt *p, rmg_addr first, size_t count, uint8_t *bytes)
{
    rmg_word words[RMG_UPLOAD_MOST];
    rmg_status status = RMG_OK;

    if (p->bus.read_block)
        status = p->bus.read_block(p, first, count, words);
    else
        for (size_t i = 0; i < count && status == RMG_OK; i++)
            status = p->bus.read(p, first + i, &words[i]);
    for (size_t i = 0; i < count && status == RMG_OK; i++)
        bytes[i] = (uint8_t)words[i];
    return status;
}

/* Writes what does not lie there yet, and reads it back: what is started must be right. */
static rmg_status write_bytes(rmg_prompt *p, size_t offset, const uint8_t *bytes, size_t count)
{
    prompt_routine *r = p->routine;
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < count && status == RMG_OK;) {
        size_t other = i;
        uint8_t back[RMG_UPLOAD_MOST];

        while (other < count &&
               (offset + other >= r->known || r->there[offset + other] != bytes[other]))
            other++;
        for (size_t n = i; n < other && status == RMG_OK; n++)
            status = p->bus.write(p, r->where.at + offset + n, bytes[n]);
        if (other > i && status == RMG_OK)
            status = read_bytes(p, r->where.at + offset + i, other - i, back);
        for (size_t n = i; n < other && status == RMG_OK; n++) {
            if (back[n - i] != bytes[n])
                status =
                    rmg_prompt_fail(p, RMG_ERR_PORT,
                                    "of the routine 0x%02X was written to 0x%04X, and 0x%02X is "
                                    "read there",
                                    bytes[n], (unsigned)(r->where.at + offset + n), back[n - i]);
            r->there[offset + n] = bytes[n];
        }
        i = MAX(other, i + 1u);
    }
    return status;
}

static void put_word(uint8_t *bytes, uint16_t value, bool big)
{
    bytes[0] = (uint8_t)(big ? value >> 8 : value);
    bytes[1] = (uint8_t)(big ? value : value >> 8);
}

static uint16_t get_word(const uint8_t *bytes, bool big)
{
    return (uint16_t)(big ? bytes[0] << 8 | bytes[1] : bytes[1] << 8 | bytes[0]);
}

static gint by_turn(gconstpointer a, gconstpointer b, gpointer down)
{
    const record *x = a, *y = b;

    if (x->first != y->first)
        return ((x->first > y->first) ? 1 : -1) * (down ? -1 : 1);
    return x->read - y->read;
}

/* Which operation is the n-th read? op_count: there are fewer. */
static uint8_t operation_of(const rmg_element_call *call, unsigned read)
{
    uint8_t i = 0;

    for (; i < call->op_count; i++)
        if (!(call->ops[i] & RMG_OP_WRITE) && !read--)
            break;
    return i;
}

static void tell(const rmg_element_call *call, const record *r)
{
    const uint8_t operation = operation_of(call, r->read), op = call->ops[operation];
    const rmg_word actual = r->actual & call->mask;
    const rmg_word expected =
        (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
    const rmg_addr lowest = call->down ? r->first - (r->words - 1u) : r->first;

    if (call->mismatch_run) {
        const rmg_mismatch_run run = {.first = lowest,
                                      .words = r->words,
                                      .which = RMG_EVERY_WORD,
                                      .operation = operation,
                                      .expected = expected,
                                      .actual = actual};

        call->mismatch_run(call->sink_context, &run);
        return;
    }
    for (uint32_t i = 0; i < r->words; i++)
        call->mismatch(call->sink_context, call->down ? r->first - i : r->first + i, operation,
                       expected, actual);
}

/* Is it one of the `done` words from `first` on? */
static bool is_of(const rmg_element_call *call, const record *r, uint16_t first, rmg_addr done)
{
    const uint16_t at = (uint16_t)(call->down ? first - r->first : r->first - first);

    return r->words && operation_of(call, r->read) < call->op_count && at < done &&
           r->words <= done - at;
}

/* What the routine found in its first `done` words. */
static rmg_status take_records(rmg_prompt *p, const rmg_element_call *call,
                               const rmg_upload_routine *routine, uint16_t first, rmg_addr done,
                               unsigned count)
{
    uint8_t bytes[RMG_UPLOAD_MOST];
    record *list = g_new(record, MAX(count, 1u));
    rmg_status status =
        count ? read_bytes(p, routine->records, count * RMG_UPLOAD_RECORD, bytes) : RMG_OK;

    for (unsigned i = 0; i < count && status == RMG_OK; i++) {
        const uint8_t *from = bytes + i * RMG_UPLOAD_RECORD;

        list[i] = (record){.first = get_word(from + RMG_UPLOAD_REC_FIRST, routine->big),
                           .words = get_word(from + RMG_UPLOAD_REC_WORDS, routine->big),
                           .actual = from[RMG_UPLOAD_REC_ACTUAL],
                           .read = from[RMG_UPLOAD_REC_READ]};
        if (!is_of(call, &list[i], first, done))
            status = rmg_prompt_fail(
                p, RMG_ERR_PORT, "the routine answers nonsense: %u words from 0x%04X on, read %u",
                list[i].words, list[i].first, list[i].read);
    }
    if (status == RMG_OK) {
        g_qsort_with_data(list, (gint)count, sizeof *list, by_turn,
                          call->down ? list : NULL); /* not NULL: down */
        for (unsigned i = 0; i < count; i++)
            tell(call, &list[i]);
    }
    g_free(list);
    return status;
}

/* Starts it for so many words from `first` on. *done: how many it went over. */
static rmg_status start(rmg_prompt *p, const rmg_element_call *call,
                        const rmg_upload_routine *routine, uint16_t first, uint16_t words,
                        rmg_addr *done)
{
    prompt_routine *r = p->routine;
    const load_and_run *how = &p->profile->load;
    uint8_t head[RMG_UPLOAD_HEAD] = {0};
    const uint8_t armed = 1;
    uint16_t next;
    rmg_status status;

    put_word(head + RMG_UPLOAD_FIRST, first, routine->big);
    put_word(head + RMG_UPLOAD_WORDS, words, routine->big);
    status = write_bytes(p, RMG_UPLOAD_FIRST, head + RMG_UPLOAD_FIRST, 4);
    if (status == RMG_OK)
        status = write_bytes(p, RMG_UPLOAD_ARMED, &armed, 1);
    if (status == RMG_OK)
        status = rmg_prompt_start(p, &how->run, r->where.at, how->answer_ms);
    if (status != RMG_OK)
        return status;
    status = read_bytes(p, r->where.at, RMG_UPLOAD_HEAD, head);
    if (status != RMG_OK)
        return status;
    memcpy(r->there + RMG_UPLOAD_ARMED, head + RMG_UPLOAD_ARMED,
           RMG_UPLOAD_HEAD - RMG_UPLOAD_ARMED);
    next = get_word(head + RMG_UPLOAD_NEXT, routine->big);
    *done = (uint16_t)(call->down ? first - next : next - first);
    if (!*done && !words)
        *done = 0x10000;
    if (head[RMG_UPLOAD_ARMED] || !*done || (words && *done > words) ||
        head[RMG_UPLOAD_COUNT] * RMG_UPLOAD_RECORD > r->where.size)
        return rmg_prompt_fail(p, RMG_ERR_PORT,
                               head[RMG_UPLOAD_ARMED]
                                   ? "the routine at 0x%04X was started, and did not run"
                                   : "the routine at 0x%04X answers nonsense",
                               r->where.at);
    return take_records(p, call, routine, first, *done, head[RMG_UPLOAD_COUNT]);
}

/* The operations that are left of one word, one access at a time. */
static rmg_status finish_word(rmg_prompt *p, rmg_element_call *call)
{
    for (; call->operation < call->op_count; call->operation++) {
        const uint8_t op = call->ops[call->operation];
        const rmg_word value =
            (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
        rmg_word actual = value;
        const rmg_status status = op & RMG_OP_WRITE ? p->bus.write(p, call->address, value)
                                                    : p->bus.read(p, call->address, &actual);

        if (status != RMG_OK)
            return status;
        if ((actual ^ value) & call->mask)
            call->mismatch(call->sink_context, call->address, call->operation, value,
                           actual & call->mask);
    }
    call->operation = 0;
    return RMG_OK;
}

static rmg_status run_element(void *context, rmg_element_call *call)
{
    rmg_prompt *p = context;
    const load_and_run *how = &p->profile->load;
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const rmg_addr more = (call->down ? call->address - end : end - call->address) + 1u;
    const rmg_addr most = MIN(MIN(more, call->words_a_call), how->words);
    rmg_upload_routine routine;
    rmg_addr done = 1;
    rmg_status status;

    if (call->operation || rmg_upload_make(&p->routine->where, call, &routine) != RMG_OK) {
        status = finish_word(p, call);
    } else {
        if (p->routine->known) /* its head stays as it is */
            memcpy(routine.code + RMG_UPLOAD_ARMED, p->routine->there + RMG_UPLOAD_ARMED,
                   RMG_UPLOAD_HEAD - RMG_UPLOAD_ARMED);
        status = write_bytes(p, 0, routine.code, routine.used);
        if (status == RMG_OK) {
            p->routine->known = MAX(p->routine->known, routine.used);
            status = start(p, call, &routine, (uint16_t)call->address, (uint16_t)most, &done);
        }
        /* the records that stood open have changed */
        p->routine->known = MIN(p->routine->known, routine.stable);
    }
    if (status != RMG_OK)
        return status;
    if (done == more) {
        call->address = end;
        return RMG_OK;
    }
    call->address = call->down ? call->address - done : call->address + done;
    return RMG_ERR_CANCELLED;
}

/* Does what is written to `other` reach the routine? What was there is put back, whatever else goes
 * wrong. */
static rmg_status look_for_double(rmg_prompt *p, rmg_addr at, rmg_addr other)
{
    rmg_word kept, here = 0;
    rmg_status status = p->bus.write(p, at, 0x5A), back;

    if (status == RMG_OK)
        status = p->bus.read(p, other, &kept);
    if (status != RMG_OK)
        return status;
    status = p->bus.write(p, other, 0xA5);
    if (status == RMG_OK)
        status = p->bus.read(p, at, &here);
    back = p->bus.write(p, other, kept);
    if (status == RMG_OK)
        status = back;
    if (status == RMG_OK && here != 0x5A)
        status =
            rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT,
                            "what is written to 0x%04X arrives at 0x%04X, too: a test of it would "
                            "overwrite the routine",
                            (unsigned)other, (unsigned)at);
    return status;
}

/* The same for all RAM that the run may write, by a line or a select that does nothing. */
static rmg_status look_for_doubles(rmg_prompt *p, const rmg_range *within)
{
    const rmg_addr at = p->routine->where.at;
    rmg_status status = RMG_OK;

    for (rmg_addr line = 1; line <= p->board->last_address && status == RMG_OK; line <<= 1) {
        const rmg_addr other = at ^ line;
        const rmg_region *region = rmg_board_region_at(p->board, other);

        if (region && region->kind == RMG_REGION_RAM &&
            (!within || (other >= within->first && other <= within->last)))
            status = look_for_double(p, at, other);
    }
    return status;
}

static rmg_status prove(rmg_prompt *p, const rmg_range *range)
{
    rmg_tally *tally = g_new0(rmg_tally, 1);
    const rmg_target target = {.bus = &p->bus, .context = p, .mask = 0xFF};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = range, .range_count = 1};
    rmg_status status;

    rmg_tally_clear(tally, NULL, 0);
    status = rmg_march_run(&target, &job, tally);
    if (status == RMG_OK && tally->failing)
        status =
            rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT,
                            "0x%04X-0x%04X does not hold what is written (March C-): no routine "
                            "is put there; name other memory in load-and-run",
                            (unsigned)range->first, (unsigned)range->last);
    g_free(tally);
    return status;
}

static rmg_range memory_of(const load_and_run *how)
{
    return (rmg_range){how->first, MIN(how->last, how->first + BYTES_MOST - 1u)};
}

uint64_t rmg_prompt_load_accesses(const rmg_prompt *p)
{
    const rmg_range memory = memory_of(&p->profile->load);

    return p->profile->load.known ? (uint64_t)(memory.last - memory.first + 1u) *
                                        rmg_march_operations(rmg_march_c_minus)
                                  : 0;
}

rmg_status rmg_prompt_load(rmg_prompt *p, const rmg_range *within, rmg_range *memory)
{
    const load_and_run *how = &p->profile->load;
    const rmg_region *region;
    rmg_status status;

    if (!how->known)
        return rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT, "its profile has no load-and-run");
    if (p->board->word_bits != 8)
        return rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT,
                               "words of 8 bits are needed for it, the board has %u",
                               p->board->word_bits);
    region = rmg_board_region_at(p->board, how->first);
    if (!region || region->kind != RMG_REGION_RAM || how->last > region->range.last)
        return rmg_prompt_fail(p, RMG_ERR_PORT_CANNOT,
                               "0x%04X-0x%04X, which load-and-run names, is no RAM of the board",
                               (unsigned)how->first, (unsigned)how->last);
    *memory = memory_of(how);
    status = prove(p, memory);
    if (status != RMG_OK)
        return status;
    rmg_prompt_unload(p);
    p->routine = g_new0(prompt_routine, 1);
    p->routine->where = (rmg_upload){.processor = how->processor,
                                     .at = (uint16_t)memory->first,
                                     .size = (uint16_t)(memory->last - memory->first + 1u),
                                     .zero_page = how->zero_page};
    status = look_for_doubles(p, within);
    if (status != RMG_OK)
        rmg_prompt_unload(p);
    return status;
}

void rmg_prompt_unload(rmg_prompt *p)
{
    g_clear_pointer(&p->routine, g_free);
}

const rmg_bus *rmg_prompt_loaded_bus(rmg_prompt *p)
{
    p->loaded = p->bus;
    p->loaded.run_element = run_element;
    return &p->loaded;
}
