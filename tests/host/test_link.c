/* The near half of the link, with a far end in a thread behind a pseudo terminal: the same accesses
 * whatever single byte is spoilt; answers that cannot be are refused. */
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "peer.h"
#include "rimeglass/far_end.h"
#include "rimeglass/link.h"
#include "rimeglass/march.h"
#include "suites.h"

#define WORDS 64u

/* A memory that keeps every access. */
typedef struct memory {
    unsigned char cells[WORDS];
    unsigned stuck; /* bits that read 1 */
    char log[4096];
    size_t logged;
    /* in the place of the far half: what is answered to the n-th request after hello */
    const char *say;
    unsigned say_at, requests;
    rmg_far_end far;
    char request[200], answer[400];
    rmg_far_found found[16];
} memory;

static void note(memory *m, char kind, rmg_addr address, unsigned value)
{
    m->logged += (size_t)snprintf(m->log + m->logged, sizeof m->log - m->logged, "%c%02X%02X ",
                                  kind, (unsigned)address, value);
}

static rmg_status read_cell(void *context, rmg_addr address, rmg_word *value)
{
    memory *m = context;

    *value = m->cells[address] | m->stuck;
    note(m, 'r', address, (unsigned)*value);
    return RMG_OK;
}

static rmg_status write_cell(void *context, rmg_addr address, rmg_word value)
{
    memory *m = context;

    m->cells[address] = (unsigned char)value;
    note(m, 'w', address, (unsigned)value);
    return RMG_OK;
}

static const rmg_bus cells_bus = {
    .version = RMG_BUS_VERSION, .read = read_cell, .write = write_cell};

static void take(peer *p, char byte)
{
    memory *m = p->context;
    const char *answer = rmg_far_take(&m->far, byte);
    char text[300];

    if (!answer)
        return;
    if (m->say && strncmp(answer + 2, " ok link", 8) != 0 && ++m->requests == m->say_at) {
        const size_t size = (size_t)snprintf(text, sizeof text, "%.2s %s", answer, m->say);

        CHECK(m->far.check == 8, "the long check is in use");
        snprintf(text + size, sizeof text - size, "*%08X\n",
                 (unsigned)rmg_link_check32(0, text, size));
        answer = text;
    }
    peer_send(p, answer);
}

static rmg_link *begin(peer *p, memory *m, rmg_target *direct, rmg_target *linked)
{
    const rmg_far_room room = {m->request,       sizeof m->request, m->answer,
                               sizeof m->answer, m->found,          16};
    char why[RMG_STREAM_WHY];
    rmg_stream *stream;
    rmg_link *link = NULL;

    *direct = (rmg_target){&cells_bus, m, 0xFF};
    p->take = take;
    p->context = m;
    CHECK(rmg_far_begin(&m->far, direct, WORDS - 1u, "thread", &room) == RMG_OK, "begins");
    peer_start(p);
    CHECK(rmg_stream_open(p->name, 100, &stream, why) == RMG_OK, "%s", why);
    CHECK(rmg_link_open(stream, 0xFF, &link, why) == RMG_OK, "%s", why);
    if (link)
        *linked = (rmg_target){rmg_link_bus(link), link, 0xFF};
    return link;
}

static rmg_status march(const rmg_target *target, rmg_tally *tally)
{
    const rmg_range range = {8, 23};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};

    rmg_tally_clear(tally, NULL, 0);
    return rmg_march_run(target, &job, tally);
}

/* Field by field: what lies between them in memory is nothing. */
static bool same_failures(const rmg_tally *a, const rmg_tally *b)
{
    bool same = a->failing == b->failing && a->first_count == b->first_count;

    for (uint8_t i = 0; same && i < a->first_count; i++) {
        const rmg_failure *x = &a->first[i], *y = &b->first[i];

        same = x->address == y->address && x->expected == y->expected && x->actual == y->actual &&
               x->pass == y->pass && x->step == y->step && x->element == y->element &&
               x->operation == y->operation && x->down == y->down;
    }
    return same;
}

/* Every access and every failure is that of a run without the link, and stays so when any single
 * byte after hello is lost, doubled or changed. */
static void one_byte_spoilt(void)
{
    static rmg_tally direct_tally, tally;
    static memory direct_memory = {.stuck = 0x10};
    const rmg_target direct = {&cells_bus, &direct_memory, 0xFF};
    unsigned quiet = 0, hello = 0;

    CHECK(march(&direct, &direct_tally) == RMG_OK, "without the link");
    for (unsigned at = 0; !at || (at < 40 && at * 23 + hello < quiet); at++) {
        const spoil spoils[] = {{at ? hello + at * 23 : 0, at % 3}};
        peer p = {.spoils = spoils, .spoil_count = 1};
        memory m = {.stuck = 0x10};
        rmg_target ignored, linked = {0};
        rmg_link *link = begin(&p, &m, &ignored, &linked);
        uint64_t again = 0, lines;

        if (!link)
            break;
        if (!at)
            hello = p.passed;
        CHECK(march(&linked, &tally) == RMG_OK, "byte %u: %s", spoils[0].at, rmg_link_why(link));
        CHECK(m.logged == direct_memory.logged && strcmp(m.log, direct_memory.log) == 0,
              "byte %u: the accesses\n%s\n%s", spoils[0].at, m.log, direct_memory.log);
        CHECK(same_failures(&tally, &direct_tally), "byte %u: the failures", spoils[0].at);
        rmg_link_counts(link, &again, &lines);
        /* a busy machine may let one or two more run out of time */
        CHECK(at ? again <= 6 : again <= 4, "byte %u: asked again %u times", spoils[0].at,
              (unsigned)again);
        if (!at)
            quiet = p.passed;
        rmg_link_close(link);
        peer_end(&p);
    }
    CHECK(quiet > hello + 200, "bytes after hello: %u", quiet - hello);
}

/* Answers with a right check that cannot be: none is taken for a reading. */
static void strange_answers(void)
{
    static const struct {
        const char *say, *why;
        rmg_status status;
    } rows[] = {
        {"ok done 10.0.00.01", "expected ADDRESS.OPERATION", RMG_ERR_PORT}, /* a write is no read */
        {"ok done 10.1.00.00", "expected ADDRESS.OPERATION", RMG_ERR_PORT}, /* not wrong */
        {"ok done 10.1.FF.01", "expected ADDRESS.OPERATION",
         RMG_ERR_PORT}, /* not what is expected */
        {"ok done 10.1.00.101", "expected ADDRESS.OPERATION", RMG_ERR_PORT}, /* beyond the mask */
        {"ok done 18.1.00.01", "expected ADDRESS.OPERATION", RMG_ERR_PORT},  /* beyond the range */
        {"ok done 10+9.1.00.01", "expected ADDRESS.OPERATION", RMG_ERR_PORT},
        {"ok done 10+0.1.00.01", "expected ADDRESS.OPERATION", RMG_ERR_PORT},
        {"ok done 11.1.00.01 10.1.00.01", "it goes back", RMG_ERR_PORT},
        {"ok done 10+4.1.00.01 12.1.00.01", "a read is told twice", RMG_ERR_PORT},
        {"ok done 10.1.00.01x", "expected ADDRESS.OPERATION", RMG_ERR_PORT},
        {"ok more 08 0", "it stands where it cannot be", RMG_ERR_PORT},
        {"ok more 18 0", "it stands where it cannot be", RMG_ERR_PORT},
        {"ok more 10 7", "expected where it stands", RMG_ERR_PORT},
        {"ok more", "expected where it stands", RMG_ERR_PORT},
        {"ok finished", "expected done or more", RMG_ERR_PORT},
        {"ok port 0B 1", "could not make an access at 0xB", RMG_ERR_PORT},
        {"ok lost 0B 1", "could not make an access at 0xB", RMG_ERR_PORT_LOST},
        {"no hello", "has started anew", RMG_ERR_PORT_LOST},
        {"no lost", "has lost its memory", RMG_ERR_PORT_LOST},
        {"no power", "\"no power\" to \"element", RMG_ERR_PORT},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        static const uint8_t ops[] = {RMG_OP_W0, RMG_OP_R0};
        peer p = {0};
        memory m = {.say = rows[i].say, .say_at = 1};
        rmg_target direct, linked = {0};
        rmg_link *link = begin(&p, &m, &direct, &linked);
        rmg_tally tally;
        rmg_element_call call = {.range = {8, 23},
                                 .address = 8,
                                 .words_a_call = 16,
                                 .ops = ops,
                                 .op_count = 2,
                                 .mask = 0xFF,
                                 .sink_context = &tally};

        if (!link)
            break;
        CHECK(linked.bus->run_element(link, &call) == rows[i].status &&
                  strstr(rmg_link_why(link), rows[i].why),
              "\"%s\": %s", rows[i].say, rmg_link_why(link));
        rmg_link_close(link);
        peer_end(&p);
    }
}

/* Single accesses, blocks and what the far end does not have. */
static void single_accesses(void)
{
    peer p = {0};
    memory m = {.stuck = 0};
    rmg_target direct, linked = {0};
    rmg_link *link = begin(&p, &m, &direct, &linked);
    rmg_word words[40], value = 0;

    if (!link)
        return;
    CHECK(strcmp(rmg_link_name(link), "thread") == 0 && rmg_link_has_elements(link) &&
              rmg_link_is_checked(link) && rmg_link_speed(link) > 0,
          "what hello told");
    CHECK(linked.bus->write(link, 63, 0xA5) == RMG_OK &&
              linked.bus->read(link, 63, &value) == RMG_OK && value == 0xA5,
          "one word");
    for (unsigned i = 0; i < 40; i++)
        words[i] = (rmg_word)(i * 5u);
    CHECK(linked.bus->write_block(link, 20, 40, words) == RMG_OK, "a block");
    memset(words, 0, sizeof words);
    CHECK(linked.bus->read_block(link, 20, 40, words) == RMG_OK && words[39] == 195 &&
              words[0] == 0 && words[7] == 35,
          "and back");
    CHECK(
        linked.bus->read(link, 64, &value) == RMG_ERR_PORT &&
            strstr(rmg_link_why(link), "address 0x40 is beyond the last one of the far end, 0x3F"),
        "beyond: %s", rmg_link_why(link));
    CHECK(!linked.bus->wait && !linked.bus->get_condition && !linked.bus->read_byte,
          "what it has not");
    m.say = "ok 1";
    m.say_at = m.requests + 1;
    CHECK(linked.bus->read(link, 1, &value) == RMG_ERR_PORT &&
              strstr(rmg_link_why(link), "expected 2 digits"),
          "a short word: %s", rmg_link_why(link));
    m.say = "ok done";
    m.say_at = m.requests + 1;
    CHECK(linked.bus->write(link, 1, 1) == RMG_ERR_PORT, "more than ok");
    rmg_link_close(link);
    peer_end(&p);
}

CU_TestInfo link_tests[] = {
    {"one byte spoilt", one_byte_spoilt},
    {"strange answers", strange_answers},
    {"single accesses", single_accesses},
    CU_TEST_INFO_NULL,
};
