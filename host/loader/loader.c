/* March elements by a routine that is put into the target's memory and started there. */
#include "rimeglass/loader.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "board/internal.h"
#include "rimeglass/march.h"
#include "rimeglass/tally.h"

#define BYTES_MOST  1024u /* of memory that are proven and used */
#define STACK_BYTES 64u   /* of it, at its end, where the routine ends at a breakpoint */

struct rmg_loader {
    rmg_loader_way way;
    rmg_loader_place place;
    rmg_upload where;
    rmg_range memory; /* words */
    rmg_bus bus;
    uint32_t stack;
    bool high_first;                /* of the processor: a word's highest bits come first */
    uint8_t there[RMG_UPLOAD_MOST]; /* [known]: as it was written and read back */
    size_t known;
};

/* What was found, of one operation. */
typedef struct record {
    rmg_upload_found found;
    uint8_t operation;
} record;

static rmg_status fail(const rmg_loader_way *way, rmg_status status, const char *format, ...)
    G_GNUC_PRINTF(3, 4);

static rmg_status fail(const rmg_loader_way *way, rmg_status status, const char *format, ...)
{
    va_list arguments;
    gchar *text;

    va_start(arguments, format);
    text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    status = way->fail(way->context, status, text);
    g_free(text);
    return status;
}

static unsigned word_bytes(const rmg_board *board)
{
    return board->word_bits > 32 ? 8 : board->word_bits > 16 ? 4 : board->word_bits > 8 ? 2 : 1;
}

uint64_t rmg_loader_byte_address(const rmg_board *board, rmg_addr word)
{
    return board->counts_bytes ? rmg_board_shown(board, word) : (uint64_t)word * word_bytes(board);
}

static rmg_word mask_of(const rmg_board *board)
{
    return (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
}

static rmg_status read_words(rmg_loader *l, rmg_addr first, size_t count, rmg_word *words)
{
    const rmg_bus *bus = l->way.bus;
    rmg_status status = RMG_OK;

    if (bus->read_block)
        return bus->read_block(l->way.context, first, count, words);
    for (size_t i = 0; i < count && status == RMG_OK; i++)
        status = bus->read(l->way.context, first + i, &words[i]);
    return status;
}

/* Which byte of a word, from its lowest bits on, lies at an offset of the routine's memory? */
static unsigned byte_of(const rmg_loader *l, size_t offset)
{
    const unsigned bytes = l->where.word_bytes, n = (unsigned)(offset % bytes);

    return l->high_first ? bytes - 1u - n : n;
}

/* Bytes of the routine's memory. */
static rmg_status read_bytes(rmg_loader *l, size_t offset, size_t count, uint8_t *bytes)
{
    const size_t size = l->where.word_bytes, first = offset / size,
                 last = (offset + count - 1u) / size;
    rmg_word words[RMG_UPLOAD_MOST];
    const rmg_status status = read_words(l, l->memory.first + first, last - first + 1u, words);

    for (size_t i = 0; i < count && status == RMG_OK; i++)
        bytes[i] = (uint8_t)(words[(offset + i) / size - first] >> 8 * byte_of(l, offset + i));
    return status;
}

static bool differs(const rmg_loader *l, size_t offset, const uint8_t *bytes)
{
    return offset >= l->known || l->there[offset] != *bytes;
}

/* Writes the words of which a byte does not lie there yet, and reads them back: what is started
 * must be right. Whole words: `offset` and `count` are multiples of one. */
static rmg_status write_bytes(rmg_loader *l, size_t offset, const uint8_t *bytes, size_t count)
{
    const size_t size = l->where.word_bytes;
    rmg_status status = RMG_OK;
    uint8_t back[RMG_UPLOAD_MOST];

    for (size_t i = 0; i < count && status == RMG_OK;) {
        size_t end = i;

        for (bool other = true; end < count && other; end += other ? size : 0) {
            other = false;
            for (size_t n = 0; n < size; n++)
                other |= differs(l, offset + end + n, bytes + end + n);
        }
        for (size_t at = i; at < end && status == RMG_OK; at += size) {
            rmg_word word = 0;

            for (size_t n = 0; n < size; n++)
                word |= (rmg_word)bytes[at + n] << 8 * byte_of(l, offset + at + n);
            status =
                l->way.bus->write(l->way.context, l->memory.first + (offset + at) / size, word);
        }
        if (end > i && status == RMG_OK)
            status = read_bytes(l, offset + i, end - i, back);
        for (size_t n = i; n < end && status == RMG_OK; n++) {
            if (back[n - i] != bytes[n])
                status = fail(&l->way, RMG_ERR_PORT,
                              "of the routine 0x%02X was written to 0x%04X, and 0x%02X is read "
                              "there",
                              bytes[n], (unsigned)(l->where.at + offset + n), back[n - i]);
            l->there[offset + n] = bytes[n];
        }
        i = MAX(end, i + size);
    }
    return status;
}

static gint by_turn(gconstpointer a, gconstpointer b)
{
    const record *x = a, *y = b;

    if (x->found.from != y->found.from)
        return x->found.from > y->found.from ? 1 : -1;
    return x->operation - y->operation;
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
    const uint8_t op = call->ops[r->operation];
    const rmg_word actual = r->found.actual & call->mask;
    const rmg_word expected =
        (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
    const rmg_addr from = r->found.from, words = r->found.words;

    if (call->mismatch_run) {
        const rmg_mismatch_run run = {.first = call->down ? call->address - from - (words - 1u)
                                                          : call->address + from,
                                      .words = words,
                                      .which = RMG_EVERY_WORD,
                                      .operation = r->operation,
                                      .expected = expected,
                                      .actual = actual};

        call->mismatch_run(call->sink_context, &run);
        return;
    }
    for (rmg_addr i = from; i < from + words; i++)
        call->mismatch(call->sink_context, call->down ? call->address - i : call->address + i,
                       r->operation, expected, actual);
}

/* What the routine found in its first `done` words, in the order of the element. */
static rmg_status take_records(rmg_loader *l, const rmg_element_call *call,
                               const rmg_upload_routine *routine, const rmg_upload_stretch *stretch,
                               uint32_t done, unsigned count)
{
    uint8_t bytes[RMG_UPLOAD_MOST];
    const size_t from = routine->records - l->where.at,
                 size = (size_t)count * routine->form->record;
    record *list = g_new(record, MAX(count, 1u));
    rmg_status status = RMG_OK;

    if (from + size > l->where.size) /* nothing beyond its own memory is read */
        status = fail(&l->way, RMG_ERR_PORT,
                      "the routine answers nonsense: %u records, for which it has no room", count);
    else if (count)
        status = read_bytes(l, from, size, bytes);
    for (unsigned i = 0; i < count && status == RMG_OK; i++) {
        const bool sound = rmg_upload_record(&l->where, routine, stretch, done,
                                             bytes + i * routine->form->record, &list[i].found);

        list[i].operation = operation_of(call, list[i].found.read);
        if (!sound || list[i].operation >= call->op_count)
            status = fail(&l->way, RMG_ERR_PORT,
                          "the routine answers nonsense: %u words after the first %u, read %u",
                          list[i].found.words, list[i].found.from, list[i].found.read);
    }
    if (status == RMG_OK) {
        qsort(list, count, sizeof *list, by_turn);
        for (unsigned i = 0; i < count; i++)
            tell(call, &list[i]);
    }
    g_free(list);
    return status;
}

/* Starts it for so many words from call->address on. *done: how many it went over. */
static rmg_status start(rmg_loader *l, const rmg_element_call *call,
                        const rmg_upload_routine *routine, uint16_t words, rmg_addr *done)
{
    const rmg_upload_form *form = routine->form;
    const rmg_upload_stretch stretch = {
        .first = (uint32_t)rmg_loader_byte_address(l->way.board, call->address),
        .words = words,
        .down = call->down};
    uint8_t head[RMG_UPLOAD_HEAD];
    rmg_status status;

    memcpy(head, l->there, form->head);
    rmg_upload_arm(&l->where, routine, &stretch, head);
    status = write_bytes(l, 0, head, form->head);
    if (status == RMG_OK)
        status = l->way.start(l->way.context, l->where.at, routine->end, l->stack);
    if (status == RMG_OK)
        status = read_bytes(l, 0, form->head, head);
    if (status != RMG_OK)
        return status;
    memcpy(l->there, head, form->head);
    *done = rmg_upload_done(&l->where, routine, &stretch, head);
    if (!*done)
        return fail(&l->way, RMG_ERR_PORT,
                    head[form->armed] ? "the routine at 0x%04X was started, and did not run"
                                      : "the routine at 0x%04X answers nonsense",
                    (unsigned)l->where.at);
    return take_records(l, call, routine, &stretch, (uint32_t)*done, head[form->count]);
}

/* The operations that are left of one word, one access at a time. */
static rmg_status finish_word(rmg_loader *l, rmg_element_call *call)
{
    for (; call->operation < call->op_count; call->operation++) {
        const uint8_t op = call->ops[call->operation];
        const rmg_word value =
            (rmg_word)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
        rmg_word actual = value;
        const rmg_status status = op & RMG_OP_WRITE
                                      ? l->way.bus->write(l->way.context, call->address, value)
                                      : l->way.bus->read(l->way.context, call->address, &actual);

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
    rmg_loader *l = context;
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const rmg_addr more = (call->down ? call->address - end : end - call->address) + 1u;
    const rmg_addr most = MIN(MIN(more, call->words_a_call), l->place.words);
    rmg_upload_routine routine;
    rmg_addr done = 1;
    rmg_status status;

    if (call->operation || rmg_upload_make(&l->where, call, &routine) != RMG_OK) {
        status = finish_word(l, call);
    } else {
        const size_t size = l->where.word_bytes, used = (routine.used + size - 1u) / size * size;

        if (l->known) /* its head stays as it is, but for the jump before */
            memcpy(routine.code + routine.form->armed, l->there + routine.form->armed,
                   (size_t)routine.form->head - routine.form->armed);
        status = write_bytes(l, 0, routine.code, used);
        if (status == RMG_OK) {
            l->known = MAX(l->known, used);
            status = start(l, call, &routine, (uint16_t)most, &done);
        }
        /* the records that stood open have changed */
        l->known = MIN(l->known, routine.stable);
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

static rmg_status read_one(void *context, rmg_addr address, rmg_word *value)
{
    const rmg_loader *l = context;

    return l->way.bus->read(l->way.context, address, value);
}

static rmg_status write_one(void *context, rmg_addr address, rmg_word value)
{
    const rmg_loader *l = context;

    return l->way.bus->write(l->way.context, address, value);
}

static rmg_status read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    const rmg_loader *l = context;

    return l->way.bus->read_block(l->way.context, first, count, values);
}

/* Does what is written to `other` reach the routine? What was there is put back, whatever else goes
 * wrong. */
static rmg_status look_for_double(rmg_loader *l, rmg_addr at, rmg_addr other)
{
    const rmg_bus *bus = l->way.bus;
    const rmg_word mask = mask_of(l->way.board);
    void *context = l->way.context;
    rmg_word kept, here = 0;
    rmg_status status = bus->write(context, at, 0x5A), back;

    if (status == RMG_OK)
        status = bus->read(context, other, &kept);
    if (status != RMG_OK)
        return status;
    status = bus->write(context, other, 0xA5);
    if (status == RMG_OK)
        status = bus->read(context, at, &here);
    back = bus->write(context, other, kept & mask);
    if (status == RMG_OK)
        status = back;
    if (status == RMG_OK && (here & mask) != 0x5A)
        status = fail(&l->way, RMG_ERR_PORT_CANNOT,
                      "what is written to 0x%04X arrives at 0x%04X, too: a test of it would "
                      "overwrite the routine",
                      (unsigned)rmg_board_shown(l->way.board, other),
                      (unsigned)rmg_board_shown(l->way.board, at));
    return status;
}

/* The same for all RAM that the run may write, by a line or a select that does nothing. */
static rmg_status look_for_doubles(rmg_loader *l, const rmg_range *within)
{
    const rmg_board *board = l->way.board;
    const rmg_addr at = l->memory.first;
    rmg_status status = RMG_OK;

    for (rmg_addr line = 1; line <= board->last_address && line && status == RMG_OK; line <<= 1) {
        const rmg_addr other = at ^ line;
        const rmg_region *region = rmg_board_region_at(board, other);

        if (region && region->kind == RMG_REGION_RAM &&
            (!within || (other >= within->first && other <= within->last)))
            status = look_for_double(l, at, other);
    }
    return status;
}

static rmg_status prove(rmg_loader *l)
{
    const rmg_loader_way *way = &l->way;
    rmg_tally *tally = g_new0(rmg_tally, 1);
    const rmg_target target = {
        .bus = way->bus, .context = way->context, .mask = mask_of(way->board)};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &l->memory, .range_count = 1};
    char text[40];
    rmg_status status;

    rmg_tally_clear(tally, NULL, 0);
    status = rmg_march_run(&target, &job, tally);
    if (status == RMG_OK && tally->failing)
        status =
            fail(way, RMG_ERR_PORT_CANNOT,
                 "%s does not hold what is written (March C-): no routine is put there; name "
                 "other memory in %s",
                 rmg_board_range_text(way->board, &l->memory, text, sizeof text), l->place.told_in);
    g_free(tally);
    return status;
}

/* Of what was named, as much as is used. */
static rmg_range memory_of(const rmg_board *board, const rmg_loader_place *place)
{
    const rmg_addr most = BYTES_MOST / word_bytes(board);

    return (rmg_range){place->memory.first,
                       MIN(place->memory.last, place->memory.first + most - 1u)};
}

uint64_t rmg_loader_accesses(const rmg_board *board, const rmg_loader_place *place)
{
    const rmg_range memory = memory_of(board, place);

    return (uint64_t)(memory.last - memory.first + 1u) * rmg_march_operations(rmg_march_c_minus);
}

/* Can a processor run what is written for another one? */
static bool runs(rmg_testrom_processor processor, rmg_testrom_processor code)
{
    const bool of_8080 = code == RMG_TESTROM_8080 || code == RMG_TESTROM_8085;

    return processor == code ||
           (of_8080 && (processor == RMG_TESTROM_Z80 || processor == RMG_TESTROM_8080 ||
                        processor == RMG_TESTROM_8085));
}

/* Does the place fit the board and the processor? */
static rmg_status check(const rmg_loader_way *way, const rmg_loader_place *place)
{
    const rmg_board *board = way->board;
    const rmg_region *region = rmg_board_region_at(board, place->memory.first);
    const unsigned most = rmg_upload_word_bytes(place->processor);
    const bool narrow = place->processor != RMG_TESTROM_68000;
    char text[40];

    rmg_board_range_text(board, &place->memory, text, sizeof text);
    if (board->rom.known && !runs(board->rom.processor, place->processor))
        return fail(way, RMG_ERR_PORT_CANNOT,
                    "the board file's test-rom section says that its processor is a %s, a routine "
                    "for a %s was asked for",
                    rmg_testrom_rows[board->rom.processor].name,
                    rmg_testrom_rows[place->processor].name);
    if (board->word_bits != 8 && board->word_bits != 8 * most)
        return fail(way, RMG_ERR_PORT_CANNOT,
                    "a routine for a %s needs words of 8%s bits, the board has %u",
                    rmg_testrom_rows[place->processor].name, most == 2 ? " or 16" : "",
                    board->word_bits);
    if (!region || region->kind != RMG_REGION_RAM || place->memory.last > region->range.last)
        return fail(way, RMG_ERR_PORT_CANNOT, "%s, which %s names, is no RAM of the board", text,
                    place->told_in);
    if ((place->memory.last - place->memory.first + 1u) * word_bytes(board) < RMG_UPLOAD_LEAST)
        return fail(way, RMG_ERR_PORT_CANNOT, "%s, which %s names, is less than %u bytes", text,
                    place->told_in, RMG_UPLOAD_LEAST);
    if (!narrow && rmg_loader_byte_address(board, place->memory.first) % 2u)
        return fail(way, RMG_ERR_PORT_CANNOT,
                    "%s, which %s names, begins at an odd address, where a %s has no instructions",
                    text, place->told_in, rmg_testrom_rows[place->processor].name);
    if (narrow && rmg_loader_byte_address(board, place->memory.last) > 0xFFFFu)
        return fail(way, RMG_ERR_PORT_CANNOT,
                    "%s, which %s names, does not lie within 0x0000-0xFFFF, where a routine for "
                    "a %s must lie",
                    text, place->told_in, rmg_testrom_rows[place->processor].name);
    return RMG_OK;
}

rmg_status rmg_loader_begin(const rmg_loader_way *way, const rmg_loader_place *place,
                            const rmg_range *within, rmg_loader **loader, rmg_range *memory)
{
    rmg_loader *l;
    rmg_status status = check(way, place);
    unsigned size;

    *loader = NULL;
    if (status != RMG_OK)
        return status;
    l = g_new0(rmg_loader, 1);
    l->way = *way;
    l->place = *place;
    l->memory = *memory = memory_of(way->board, place);
    l->high_first = place->processor == RMG_TESTROM_68000;
    size = (unsigned)(memory->last - memory->first + 1u) * word_bytes(way->board);
    l->where = (rmg_upload){.processor = place->processor,
                            .ends = place->ends,
                            .at = (uint32_t)rmg_loader_byte_address(way->board, memory->first),
                            .zero_page = place->zero_page,
                            .word_bytes = (uint8_t)word_bytes(way->board)};
    l->stack = (l->where.at + size) & ~UINT32_C(1);
    l->where.size = (uint16_t)(size - (place->ends == RMG_UPLOAD_BREAKS ? STACK_BYTES : 0u));
    l->bus = (rmg_bus){.version = RMG_BUS_VERSION,
                       .read = read_one,
                       .write = write_one,
                       .read_block = way->bus->read_block ? read_block : NULL,
                       .run_element = run_element};
    status = prove(l);
    if (status == RMG_OK)
        status = look_for_doubles(l, within);
    if (status == RMG_OK)
        *loader = l;
    else
        rmg_loader_free(l);
    return status;
}

void rmg_loader_free(rmg_loader *loader)
{
    g_free(loader);
}

const rmg_bus *rmg_loader_bus(const rmg_loader *loader)
{
    return &loader->bus;
}
