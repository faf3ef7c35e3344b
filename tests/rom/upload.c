/* Routines for march elements, in emulated processors: random elements over random stretches of a
 * memory with faults find exactly what the same accesses find one by one, and change nothing else.
 *
 * Call: test-upload COUNT SEED */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/upload.h"
#include "subroutine.h"

#define AT       0x9000u
#define STACK    0xA000u
#define ROOM     0x20000u /* bytes of memory */
#define FARTHEST 0xF000u  /* bytes from 0x10000 on, of processors that reach them */

/* A memory with faults of its own: bits that stick, and an address line that is open. Addresses
 * count bytes. */
typedef struct memory {
    uint8_t cells[ROOM];
    uint32_t open_line;
    uint32_t stuck_from, stuck_to;
    uint8_t ones, zeros;
    unsigned outside; /* accesses that no routine may make */
    uint32_t first, last;
    uint32_t stack; /* of the processor */
    rmg_testrom_processor processor;
    unsigned bytes; /* of a word */
} memory;

static uint32_t line(const memory *m, uint32_t address)
{
    const bool tested = (address >= 0x200 && address < 0x8000) || address >= 0x10000;

    return tested ? address & ~m->open_line : address;
}

static uint8_t read_cell(const memory *m, uint32_t address)
{
    const uint8_t value = m->cells[line(m, address)];

    return address >= m->stuck_from && address <= m->stuck_to
               ? (uint8_t)((value | m->ones) & ~m->zeros)
               : value;
}

static bool big(const memory *m)
{
    return m->processor == RMG_TESTROM_68000;
}

/* Which byte of a word has these bits? */
static uint32_t byte_at(const memory *m, uint32_t address, unsigned shift)
{
    return address + (big(m) ? m->bytes - 1u - shift : shift);
}

static uint16_t read_word(const memory *m, uint32_t address)
{
    uint16_t value = 0;

    for (unsigned i = 0; i < m->bytes; i++)
        value = (uint16_t)(value | read_cell(m, byte_at(m, address, i)) << 8 * i);
    return value;
}

static void write_word(memory *m, uint32_t address, uint16_t value)
{
    for (unsigned i = 0; i < m->bytes; i++)
        m->cells[line(m, byte_at(m, address, i))] = (uint8_t)(value >> 8 * i);
}

static bool its_own(const memory *m, uint32_t address)
{
    return (address >= AT && address < AT + RMG_UPLOAD_MOST) ||
           (address < m->stack && address >= m->stack - 0x60) || address == 0xFB || address == 0xFC;
}

static uint8_t cpu_read(void *context, uint32_t address)
{
    memory *m = context;

    m->outside += !its_own(m, address) && (address < m->first || address > m->last) &&
                  (address < 0xFFF0 || address > 0xFFFF) && address != m->stack;
    return read_cell(m, address % ROOM);
}

static void cpu_write(void *context, uint32_t address, uint8_t value)
{
    memory *m = context;

    m->outside += !its_own(m, address) && (address < m->first || address > m->last);
    m->cells[line(m, address % ROOM)] = value;
}

typedef struct finding {
    uint32_t address;
    uint16_t operation, expected, actual, none; /* none: padding, which is compared too */
} finding;

typedef struct findings {
    finding *list; /* [count] */
    size_t count;
} findings;

static void add(findings *f, uint32_t address, uint8_t operation, uint16_t expected,
                uint16_t actual)
{
    f->list = realloc(f->list, (f->count + 1) * sizeof *f->list);
    f->list[f->count++] = (finding){address, operation, expected, actual, 0};
}

static int by_place(const void *a, const void *b)
{
    const finding *x = a, *y = b;

    return x->address != y->address ? (x->address > y->address) - (x->address < y->address)
                                    : (x->operation > y->operation) - (x->operation < y->operation);
}

static unsigned draw(uint64_t seed, unsigned *n, unsigned most)
{
    return (unsigned)(rmg_hash(seed, (*n)++) % most);
}

static uint16_t value_of(const rmg_element_call *call, uint8_t op)
{
    return (uint16_t)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
}

/* The byte address of the n-th word that is done. */
static uint32_t nth(const memory *m, const rmg_element_call *call, rmg_addr n)
{
    return (uint32_t)(call->down ? call->range.last - n : call->range.first + n) * m->bytes;
}

/* One by one. */
static void by_hand(memory *m, const rmg_element_call *call, findings *f)
{
    for (rmg_addr n = 0; n <= call->range.last - call->range.first; n++) {
        const uint32_t a = nth(m, call, n);

        for (uint8_t i = 0; i < call->op_count; i++) {
            const uint16_t value = value_of(call, call->ops[i]), read = read_word(m, a);

            if (call->ops[i] & RMG_OP_WRITE)
                write_word(m, a, value);
            else if ((read ^ value) & call->mask)
                add(f, a, i, value, read);
        }
    }
}

/* Which operation is the n-th read? */
static uint8_t operation_of(const rmg_element_call *call, unsigned read)
{
    uint8_t i = 0;

    while (i < call->op_count && ((call->ops[i] & RMG_OP_WRITE) || read--))
        i++;
    return i;
}

/* The records of a routine that ran. false: they are none. */
static bool take_records(const memory *m, const rmg_upload *where, const rmg_element_call *call,
                         const rmg_upload_routine *r, const rmg_upload_stretch *stretch,
                         rmg_addr before, uint32_t done, findings *f)
{
    for (unsigned n = 0; n < m->cells[AT + r->form->count]; n++) {
        rmg_upload_found found;
        uint8_t operation;

        if (!rmg_upload_record(where, r, stretch, done, m->cells + r->records + n * r->form->record,
                               &found))
            return false;
        operation = operation_of(call, found.read);
        if (operation >= call->op_count)
            return false;
        for (uint32_t i = 0; i < found.words; i++)
            add(f, nth(m, call, before + found.from + i), operation,
                value_of(call, call->ops[operation]), (uint16_t)found.actual);
    }
    return true;
}

/* Runs it, as its end asks. */
static uint64_t run_it(memory *m, const rmg_upload *where, const rmg_upload_routine *r,
                       uint64_t most)
{
    static const cpu_way ways[] = {CPU_CALL, CPU_CALL_FAR, CPU_JUMP};
    const cpu_bus bus = {m, cpu_read, cpu_write};

    return cpu_run(where->processor, &bus, AT, m->stack, ways[where->ends], r->end, most);
}

/* As often as it takes. */
static const char *by_routine(memory *m, const rmg_element_call *call, const rmg_upload *where,
                              findings *f, unsigned *calls)
{
    rmg_upload_routine r;
    rmg_addr done = 0;
    const rmg_addr all = call->range.last - call->range.first + 1u;

    if (rmg_upload_make(where, call, &r) != RMG_OK)
        return "no routine";
    memcpy(m->cells + AT, r.code, r.used);
    while (done < all) {
        const rmg_upload_stretch stretch = {
            nth(m, call, done),
            (uint16_t)(all - done < RMG_UPLOAD_WORDS ? all - done : RMG_UPLOAD_WORDS), call->down};
        uint32_t more;

        rmg_upload_arm(where, &r, &stretch, m->cells + AT);
        if (!run_it(m, where, &r, 40000000))
            return "it does not return";
        more = rmg_upload_done(where, &r, &stretch, m->cells + AT);
        if (!more || !take_records(m, where, call, &r, &stretch, done, more, f))
            return "no records";
        done += more;
        if (m->cells[AT + r.form->count] > 31 || ++*calls > 70000)
            return "it does not end";
        if (!run_it(m, where, &r, 1000)) /* not armed */
            return "it does not return at once";
    }
    return done == all ? NULL : "it went too far";
}

/* An element, drawn. */
static void draw_element(uint64_t seed, unsigned *n, unsigned bytes, uint8_t *ops,
                         rmg_element_call *call)
{
    static const uint16_t masks[] = {0xFFFF, 0xFFFF, 0x7F7F, 0xFF0F, 0x12A5, 0x00FF};
    static const uint8_t all[] = {RMG_OP_W0, RMG_OP_W1, RMG_OP_R0, RMG_OP_R1};

    call->ops = ops;
    call->op_count = (uint8_t)(1 + draw(seed, n, 6));
    for (uint8_t i = 0; i < call->op_count; i++)
        ops[i] = all[draw(seed, n, 4)];
    call->down = draw(seed, n, 2);
    call->mask = masks[draw(seed, n, 6)] & (bytes == 2 ? 0xFFFFu : 0xFFu);
    call->background = draw(seed, n, 65536) & call->mask;
}

/* What lies there, and what is wrong with it. */
static void draw_memory(uint64_t seed, unsigned *n, const rmg_element_call *call, memory *m)
{
    const bool wide = rmg_upload_word_bytes(m->processor) == 2;
    const uint32_t top = wide && draw(seed, n, 2) ? 0x10000u : 0x4000u;

    m->first = top + draw(seed, n, top == 0x4000u ? 0x2F00 : FARTHEST - 0x2100u);
    m->first -= m->first % m->bytes;
    m->last = m->first + m->bytes * (1u + draw(seed, n, 1u << draw(seed, n, 13))) - 1u;
    for (uint32_t i = 0x200; i < ROOM; i++) /* what an element before it left, mostly */
        if (i < 0x8000 || i >= 0x10000)
            m->cells[i] = (uint8_t)(draw(seed, n, 50)  ? call->background
                                    : draw(seed, n, 2) ? ~call->background
                                                       : draw(seed, n, 256));
    if (draw(seed, n, 2)) /* of the first two KiB or so, no line leads to page 0 or 1 */
        m->open_line = m->bytes << draw(seed, n, 13);
    m->stuck_from = m->first + draw(seed, n, 64);
    m->stuck_to = m->stuck_from + draw(seed, n, 5000);
    m->ones = (uint8_t)(1u << draw(seed, n, 8));
    m->zeros = (uint8_t)(draw(seed, n, 2) << draw(seed, n, 8));
    m->stack = m->processor == RMG_TESTROM_6502 ? 0x1F0 : STACK;
}

static const char *run_case(uint64_t seed, rmg_testrom_processor processor, unsigned bytes,
                            unsigned *calls, size_t *found)
{
    static memory a, b;
    rmg_upload where = {.processor = processor,
                        .at = AT,
                        .size = 1024,
                        .zero_page = 0xFB,
                        .word_bytes = (uint8_t)bytes};
    uint8_t ops[RMG_MARCH_OPS];
    rmg_element_call call = {0};
    findings one = {0}, other = {0};
    const char *wrong;
    unsigned n = 0;

    memset(&a, 0, sizeof a);
    a.processor = processor;
    a.bytes = bytes;
    where.ends = (rmg_upload_end)draw(seed, &n, 3);
    if (!rmg_upload_can_end(processor, where.ends))
        where.ends = RMG_UPLOAD_RETURNS;
    draw_element(seed, &n, bytes, ops, &call);
    draw_memory(seed, &n, &call, &a);
    call.range = (rmg_range){a.first / bytes, a.last / bytes};
    if (a.open_line) /* what it lands on is its own too */
        a.first &= ~a.open_line, a.last |= a.open_line;
    b = a;
    by_hand(&a, &call, &one);
    wrong = by_routine(&b, &call, &where, &other, calls);
    qsort(one.list, one.count, sizeof *one.list, by_place);
    qsort(other.list, other.count, sizeof *other.list, by_place);
    if (!wrong && b.outside)
        wrong = "accesses elsewhere";
    if (!wrong && (one.count != other.count ||
                   (one.count && memcmp(one.list, other.list, one.count * sizeof *one.list) != 0)))
        wrong = "it finds something else";
    if (!wrong && (memcmp(a.cells + 0x200, b.cells + 0x200, 0x7E00) != 0 ||
                   memcmp(a.cells + 0x10000, b.cells + 0x10000, 0x10000) != 0))
        wrong = "it leaves something else";
    *found += one.count;
    free(one.list);
    free(other.list);
    return wrong;
}

int main(int argc, char **argv)
{
    const unsigned count = argc > 1 ? (unsigned)atoi(argv[1]) : 50;
    const uint64_t seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    unsigned failed = 0;

    for (rmg_testrom_processor p = 0; p < RMG_TESTROM_PROCESSORS; p++)
        for (unsigned bytes = 1; bytes <= rmg_upload_word_bytes(p); bytes++) {
            unsigned calls = 0;
            size_t found = 0;

            for (unsigned n = 0; n < count; n++) {
                const char *wrong = run_case(rmg_hash(seed, n), p, bytes, &calls, &found);

                if (wrong)
                    printf("%s, case %u: %s\n", rmg_testrom_rows[p].name, n, wrong);
                failed += wrong != NULL;
            }
            printf("%s, words of %u: %u elements, %zu wrong reads, %u calls\n",
                   rmg_testrom_rows[p].name, 8 * bytes, count, found, calls);
        }
    return failed != 0;
}
