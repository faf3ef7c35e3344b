/* Routines for march elements, in emulated processors: random elements over random stretches of a
 * memory with faults find exactly what the same accesses find one by one, and change nothing else.
 *
 * Call: test-upload COUNT SEED */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/upload.h"
#include "subroutine.h"

#define AT    0x9000u
#define STACK 0xA000u

/* A memory with faults of its own: bits that stick, and an address line that is open. */
typedef struct memory {
    uint8_t cells[65536];
    uint16_t open_line;
    uint16_t stuck_from, stuck_to;
    uint8_t ones, zeros;
    unsigned outside; /* accesses that no routine may make */
    uint16_t first, last;
    uint16_t stack; /* of the processor */
} memory;

static uint16_t line(const memory *m, uint16_t address)
{
    return address >= 0x200 && address < 0x8000 ? (uint16_t)(address & ~m->open_line) : address;
}

static uint8_t read_cell(const memory *m, uint16_t address)
{
    const uint8_t value = m->cells[line(m, address)];

    return address >= m->stuck_from && address <= m->stuck_to
               ? (uint8_t)((value | m->ones) & ~m->zeros)
               : value;
}

static bool its_own(const memory *m, uint16_t address)
{
    return (address >= AT && address < AT + RMG_UPLOAD_MOST) ||
           (address < m->stack && address >= m->stack - 0x40) || address == 0xFB || address == 0xFC;
}

static uint8_t cpu_read(void *context, uint16_t address)
{
    memory *m = context;

    m->outside += !its_own(m, address) && (address < m->first || address > m->last) &&
                  address < 0xFFF0 && address != m->stack;
    return read_cell(m, address);
}

static void cpu_write(void *context, uint16_t address, uint8_t value)
{
    memory *m = context;

    m->outside += !its_own(m, address) && (address < m->first || address > m->last);
    m->cells[line(m, address)] = value;
}

typedef struct finding {
    uint16_t address;
    uint8_t operation, expected, actual, none; /* none: padding, which is compared too */
} finding;

typedef struct findings {
    finding *list; /* [count] */
    size_t count;
} findings;

static void add(findings *f, uint16_t address, uint8_t operation, uint8_t expected, uint8_t actual)
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

static uint16_t word_at(const memory *m, uint16_t address, bool big)
{
    const uint8_t a = m->cells[address], b = m->cells[address + 1];

    return (uint16_t)(big ? a << 8 | b : b << 8 | a);
}

static void put_word(memory *m, uint16_t address, uint16_t value, bool big)
{
    m->cells[address] = (uint8_t)(big ? value >> 8 : value);
    m->cells[address + 1] = (uint8_t)(big ? value : value >> 8);
}

static uint8_t value_of(const rmg_element_call *call, uint8_t op)
{
    return (uint8_t)(op & RMG_OP_ONE ? call->background ^ call->mask : call->background);
}

/* One by one. */
static void by_hand(memory *m, const rmg_element_call *call, findings *f)
{
    for (rmg_addr n = 0; n <= call->range.last - call->range.first; n++) {
        const uint16_t a = (uint16_t)(call->down ? call->range.last - n : call->range.first + n);

        for (uint8_t i = 0; i < call->op_count; i++) {
            const uint8_t value = value_of(call, call->ops[i]), read = read_cell(m, a);

            if (call->ops[i] & RMG_OP_WRITE)
                m->cells[line(m, a)] = value;
            else if ((read ^ value) & call->mask)
                add(f, a, i, value, read);
        }
    }
}

/* Which operation is the n-th read? */
static uint8_t operation_of(const rmg_element_call *call, unsigned read)
{
    uint8_t i = 0;

    while ((call->ops[i] & RMG_OP_WRITE) || read--)
        i++;
    return i;
}

/* The records of a routine that ran. false: they are none. */
static bool take_records(const memory *m, const rmg_element_call *call, const rmg_upload_routine *r,
                         findings *f)
{
    for (unsigned n = 0; n < m->cells[AT + RMG_UPLOAD_COUNT]; n++) {
        const uint16_t at = (uint16_t)(r->records + n * RMG_UPLOAD_RECORD);
        const uint16_t words = word_at(m, at, r->big),
                       first = word_at(m, (uint16_t)(at + 2), r->big);
        const uint8_t operation = operation_of(call, m->cells[at + RMG_UPLOAD_REC_READ]);

        if (!words || operation >= call->op_count)
            return false;
        for (uint16_t i = 0; i < words; i++)
            add(f, (uint16_t)(call->down ? first - i : first + i), operation,
                value_of(call, call->ops[operation]), m->cells[at + RMG_UPLOAD_REC_ACTUAL]);
    }
    return true;
}

/* As often as it takes. */
static const char *by_routine(memory *m, const rmg_element_call *call, const rmg_upload *where,
                              findings *f, unsigned *calls)
{
    rmg_upload_routine r;
    const cpu_bus bus = {m, cpu_read, cpu_write};
    rmg_addr done = 0;
    const rmg_addr all = call->range.last - call->range.first + 1u;

    if (rmg_upload_make(where, call, &r) != RMG_OK)
        return "no routine";
    memcpy(m->cells + AT, r.code, r.used);
    while (done < all) {
        const uint16_t first =
            (uint16_t)(call->down ? call->range.last - done : call->range.first + done);

        m->cells[AT + RMG_UPLOAD_ARMED] = 1;
        put_word(m, AT + RMG_UPLOAD_FIRST, first, r.big);
        put_word(m, AT + RMG_UPLOAD_WORDS, (uint16_t)(all - done), r.big);
        if (!cpu_call(where->processor, &bus, AT, m->stack, 40000000))
            return "it does not return";
        if (m->cells[AT + RMG_UPLOAD_ARMED] || !take_records(m, call, &r, f))
            return "no records";
        done += (uint16_t)(call->down ? first - word_at(m, AT + RMG_UPLOAD_NEXT, r.big)
                                      : word_at(m, AT + RMG_UPLOAD_NEXT, r.big) - first);
        if (m->cells[AT + RMG_UPLOAD_COUNT] > 31 || ++*calls > 70000)
            return "it does not end";
        if (!cpu_call(where->processor, &bus, AT, m->stack, 1000)) /* not armed */
            return "it does not return at once";
    }
    return done == all ? NULL : "it went too far";
}

static const char *run_case(uint64_t seed, rmg_testrom_processor processor, unsigned *calls,
                            size_t *found)
{
    static memory a, b;
    const rmg_upload where = {.processor = processor, .at = AT, .size = 1024, .zero_page = 0xFB};
    static const uint8_t masks[] = {0xFF, 0xFF, 0x7F, 0x0F, 0xA5};
    uint8_t ops[RMG_MARCH_OPS];
    rmg_element_call call = {.ops = ops};
    findings one = {0}, other = {0};
    const char *wrong;
    unsigned n = 0;

    call.op_count = (uint8_t)(1 + draw(seed, &n, 6));
    for (uint8_t i = 0; i < call.op_count; i++) {
        static const uint8_t all[] = {RMG_OP_W0, RMG_OP_W1, RMG_OP_R0, RMG_OP_R1};

        ops[i] = all[draw(seed, &n, 4)];
    }
    call.down = draw(seed, &n, 2);
    call.mask = masks[draw(seed, &n, 5)];
    call.background = draw(seed, &n, 256) & call.mask;
    memset(&a, 0, sizeof a);
    a.first = (uint16_t)(0x4000 + draw(seed, &n, 0x2F00)); /* no line leads to page 0 or 1 */
    a.last = (uint16_t)(a.first + draw(seed, &n, 1u << draw(seed, &n, 13)));
    call.range = (rmg_range){a.first, a.last};
    for (unsigned i = 0x200; i < 0x8000; i++) /* what an element before it left, mostly */
        a.cells[i] = (uint8_t)(draw(seed, &n, 50)  ? call.background
                               : draw(seed, &n, 2) ? ~call.background
                                                   : draw(seed, &n, 256));
    if (draw(seed, &n, 2))
        a.open_line = (uint16_t)(1u << draw(seed, &n, 14));
    a.stuck_from = (uint16_t)(a.first + draw(seed, &n, 64));
    a.stuck_to = (uint16_t)(a.stuck_from + draw(seed, &n, 5000));
    a.ones = (uint8_t)(1u << draw(seed, &n, 8));
    a.zeros = (uint8_t)(draw(seed, &n, 2) << draw(seed, &n, 8));
    a.stack = processor == RMG_TESTROM_6502 ? 0x1F0 : STACK;
    if (a.open_line) /* what it lands on is its own too */
        a.first = (uint16_t)(a.first & ~a.open_line), a.last = (uint16_t)(a.last | a.open_line);
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
    if (!wrong && memcmp(a.cells + 0x200, b.cells + 0x200, 0x7E00) != 0)
        wrong = "it leaves something else";
    *found += one.count;
    free(one.list);
    free(other.list);
    return wrong;
}

int main(int argc, char **argv)
{
    static const rmg_testrom_processor all[] = {RMG_TESTROM_Z80, RMG_TESTROM_6502,
                                                RMG_TESTROM_6809};
    const unsigned count = argc > 1 ? (unsigned)atoi(argv[1]) : 50;
    const uint64_t seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    unsigned failed = 0;

    for (size_t p = 0; p < sizeof all / sizeof *all; p++) {
        unsigned calls = 0;
        size_t found = 0;

        for (unsigned n = 0; n < count; n++) {
            const char *wrong = run_case(rmg_hash(seed, n), all[p], &calls, &found);

            if (wrong)
                printf("%s, case %u: %s\n", rmg_testrom_rows[all[p]].name, n, wrong);
            failed += wrong != NULL;
        }
        printf("%s: %u elements, %zu wrong reads, %u calls\n", rmg_testrom_rows[all[p]].name, count,
               found, calls);
    }
    return failed != 0;
}
