/* The far half of the link: requests as a person would type them, and what comes back. */
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "rimeglass/far_end.h"
#include "rimeglass/march.h"
#include "suites.h"

static char request[120], answer[120];
static rmg_far_found found[4];
static const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 4};

/* Sends a line; its answer without the LF, or NULL. */
static const char *ask(rmg_far_end *far, const char *line)
{
    static char text[200];
    const char *came = NULL;

    for (const char *c = line; *c; c++)
        if (rmg_far_take(far, *c))
            return "an answer before the line ended";
    came = rmg_far_take(far, '\n');
    if (!came)
        return NULL;
    snprintf(text, sizeof text, "%s", came);
    if (!strchr(text, '\n') || strchr(text, '\n')[1])
        return "not one whole line";
    *strchr(text, '\n') = '\0';
    return text;
}

static void check_of(const char *line, size_t digits, char check[12])
{
    if (digits == 8)
        snprintf(check, 12, "*%08X", (unsigned)rmg_link_check32(0, line, strlen(line)));
    else
        snprintf(check, 12, "*%04X", rmg_link_check(0xFFFF, line, strlen(line)));
}

/* The same with a check, which must stand at the answer too and is cut off there. */
static const char *ask_with(rmg_far_end *far, const char *line, size_t digits)
{
    static char text[200];
    char whole[200], check[12];
    const char *came;

    check_of(line, digits, check);
    snprintf(whole, sizeof whole, "%s%s", line, check);
    came = ask(far, whole);
    if (!came || strlen(came) < digits + 1)
        return "no answer";
    snprintf(text, sizeof text, "%.*s", (int)(strlen(came) - digits - 1), came);
    check_of(text, digits, check);
    return strcmp(check, came + strlen(text)) == 0 ? text : "a wrong check";
}

static const char *ask_checked(rmg_far_end *far, const char *line)
{
    return ask_with(far, line, 4);
}

static fake *begin(rmg_far_end *far, rmg_target *target)
{
    fake *f = fake_new(0);

    *target = fake_target(f, 0xFF);
    CHECK(rmg_far_begin(far, target, 0xFFF, "bench", &room) == RMG_OK, "begins");
    return f;
}

/* The table of docs/link.md, and what is refused; each line in the state the last one left. */
static void requests(void)
{
    static const struct {
        const char *ask, *answer;
    } rows[] = {
        {"01 read 100", "01 no hello"},
        {"02 hello",
         "02 ok link=1 word=FF last=FFF line=77 can=block,element,crc32,wait name=bench"},
        {"03 write 100 55", "03 ok"},
        {"04 read 100", "04 ok 55"},
        {"05 write 0FE A1B2C3", "05 ok"},
        {"06 read 0FE 3\r", "06 ok A1B2C3"},
        {"07 read 0fe", "07 ok A1"},
        {"", NULL},
        {"08 read 1000", "08 no argument"},
        {"09 read 10", "09 no argument"},
        {"0A read FFF 2", "0A no argument"},
        {"0B read 100 0", "0B no argument"},
        {"0C read 100 FFFF", "0C no argument"},
        {"0D read 100 1 1", "0D no argument"},
        {"0E write FFF 0102", "0E no argument"},
        {"0F write 100 1", "0F no argument"},
        {"10 write 100", "10 no argument"},
        {"11 write 100 GG", "11 no argument"},
        {"12 frobnicate", "12 no intent"},
        {"13 reads 100", "13 no intent"},
        {"14 wait 3E8", "14 ok"},
        {"15 wait 100000000", "15 no argument"},
        {"16 get supply", "16 no cannot"},
        {"17 get colour", "17 no argument"},
        {"18 set heat 5", "18 no cannot"},
        {"19 read-byte 100 0", "19 no cannot"},
        {"1A write-byte 100 0 1", "1A no argument"},
        {"1B", "-- no check"},
        {"xy read 100", "-- no check"},
        {"1C read 100*0000", "-- no check"},
        {"1D read 100", "1D ok C3"},
        /* asked again: from memory, whatever it asks now */
        {"1D write 100 00", "1D ok C3"},
        {"1E read 100", "1E ok C3"},
        {"1F element 100 101 100 0 up r0,w1 00 FF 10 4", "1F ok done 100.0.00.C3"},
        {"20 read 100 2", "20 ok FFFF"},
        {"21 element 100 10F 10F 0 down w0 00 FF 8 4", "21 ok more 107 0"},
        {"22 element 100 10F 107 0 down w0 00 FF 8 4", "22 ok done"},
        {"23 element 100 10F 100 0 up r1 00 FF 10 4", "23 ok done 100+10.0.FF.00"},
        /* the room is full after two findings: it stands where the next one would be */
        {"24 element 100 10F 100 0 up w1,r0,w0,r1,w1 00 FF 10 3",
         "24 ok done 100+10.1.00.FF 100+10.3.FF.00"},
        {"25 element 100 103 100 0 up r1,w0 55 FF 1 1", "25 ok more 100 1 100.0.AA.FF"},
        {"26 element 100 103 104 0 up r1 00 FF 1 1", "26 no argument"},
        {"27 element 103 100 101 0 up r1 00 FF 1 1", "27 no argument"},
        {"28 element 100 103 100 1 up r1 00 FF 1 1", "28 no argument"},
        {"29 element 100 103 100 0 up r2 00 FF 1 1", "29 no argument"},
        {"2A element 100 103 100 0 up r1, 00 FF 1 1", "2A no argument"},
        {"2B element 100 103 100 0 over r1 00 FF 1 1", "2B no argument"},
        {"2C element 100 103 100 0 up r1 00 FF 0 1", "2C no argument"},
        {"2D element 100 103 100 0 up r1 00 FF 1 0", "2D no argument"},
    };
    rmg_far_end far;
    rmg_target target;
    const fake *f = begin(&far, &target);

    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++) {
        const char *came = ask(&far, rows[i].ask);

        CHECK(rows[i].answer ? came && strcmp(came, rows[i].answer) == 0 : !came,
              "\"%s\": %s, expected %s", rows[i].ask, came ? came : "(nothing)",
              rows[i].answer ? rows[i].answer : "(nothing)");
    }
    CHECK(f->outside == 0 && f->waited_us == 1000, "nothing beyond, 1000 us waited");
}

/* The long check: in use from the hello that has it to the next that has a short one or none. A
 * request that a bad line made from another (a digit lost, one changed) has the same short check.
 */
static void long_checks(void)
{
    static const char asked[] = "8C element 000 3FF 17F 0 down r1,w0,r0 00 FF 80 7";
    static const char came[] = "8C element 000 3FF 17F 0 down r1,w0,r0 00 F 84 7";
    rmg_far_end far;
    rmg_target target;
    fake *f = begin(&far, &target);
    char check[12], line[100];

    CHECK(rmg_link_check32(0, "123456789", 9) == 0xCBF43926, "the check of the catalogues");
    CHECK(rmg_link_check32(rmg_link_check32(0, "1234", 4), "56789", 5) == 0xCBF43926,
          "in two parts");
    CHECK(rmg_link_check(0xFFFF, asked, strlen(asked)) ==
              rmg_link_check(0xFFFF, came, strlen(came)),
          "the short check does not see it");
    CHECK(rmg_link_check32(0, asked, strlen(asked)) != rmg_link_check32(0, came, strlen(came)),
          "the long one does");
    CHECK(strncmp(ask_with(&far, "01 hello", 8), "01 ok link=1", 12) == 0, "hello");
    CHECK(strcmp(ask_with(&far, "02 write 200 01", 8), "02 ok") == 0 && f->writes == 1, "a write");
    check_of("03 write 200 02", 4, check);
    snprintf(line, sizeof line, "03 write 200 02%s", check);
    CHECK(strcmp(ask(&far, line), "-- no check") == 0, "a short one now");
    check_of("03 write 200 02", 8, check);
    check[8] = check[8] == '0' ? '1' : '0';
    snprintf(line, sizeof line, "03 write 200 02%s", check);
    CHECK(strcmp(ask(&far, line), "-- no check") == 0, "a wrong one");
    CHECK(f->writes == 1, "neither was carried out");
    CHECK(strncmp(ask_checked(&far, "04 hello"), "04 ok link=1", 12) == 0,
          "hello with a short one");
    CHECK(strcmp(ask_checked(&far, "05 read 200"), "05 ok 01") == 0, "short ones from now on");
}

/* Once hello had a check, nothing without one is carried out, and no line twice. */
static void checks(void)
{
    rmg_far_end far;
    rmg_target target;
    fake *f = begin(&far, &target);
    char spoilt[80];
    unsigned long writes;

    CHECK(rmg_link_check(0xFFFF, "123456789", 9) == 0x29B1, "the check of the catalogues");
    CHECK(strncmp(ask_checked(&far, "10 hello"), "10 ok link=1", 12) == 0, "hello");
    CHECK(strcmp(ask(&far, "11 write 200 01"), "-- no check") == 0, "without a check");
    CHECK(strcmp(ask_checked(&far, "11 write 200 01"), "11 ok") == 0, "with it");
    writes = f->writes;
    CHECK(strcmp(ask_checked(&far, "11 write 200 01"), "11 ok") == 0 && f->writes == writes,
          "asked again, not written again");
    /* every single byte of a request changed, lost or doubled */
    for (size_t at = 0; at < 20; at++)
        for (unsigned how = 0; how < 10; how++) {
            char line[80];
            const char *came;
            size_t n;

            snprintf(line, sizeof line, "12 write 201 02*%04X",
                     rmg_link_check(0xFFFF, "12 write 201 02", 15));
            n = strlen(line);
            if (how < 8)
                line[at] = (char)((unsigned char)line[at] ^ (1u << how));
            snprintf(spoilt, sizeof spoilt, "%.*s%s", (int)at, line,
                     how == 8 ? line + at + 1 : line + at - (how == 9 && at));
            CHECK(n == 20, "its length");
            if ((how == 9 && !at) || (how == 5 && at > 15)) /* the case of a digit of the check */
                continue;
            came = ask(&far, spoilt);
            CHECK(!came || *came == '-' || strchr(spoilt, '\n') || strchr(spoilt, '\r'),
                  "spoilt at %zu in way %u: %s", at, how, came ? came : "");
        }
    CHECK(f->writes == writes, "nothing of it was carried out");
    memset(spoilt, 'r', sizeof spoilt - 1u);
    spoilt[sizeof spoilt - 1u] = '\0';
    for (int i = 0; i < 3; i++)
        for (const char *c = spoilt; *c; c++)
            rmg_far_take(&far, *c);
    CHECK(strcmp(ask(&far, ""), "-- no line") == 0, "a line beyond its room");
    CHECK(strcmp(ask_checked(&far, "13 read 200"), "13 ok 01") == 0, "and on it goes");
}

/* Errors of the port are told as such, with what was found before. */
static void port_errors(void)
{
    rmg_far_end far;
    rmg_target target;
    fake *f = begin(&far, &target);

    ask(&far, "01 hello");
    f->fail_with = RMG_ERR_PORT;
    f->fail_at = f->reads + f->writes + 3;
    CHECK(strcmp(ask(&far, "02 element 000 0FF 000 0 up r1 00 FF 10 4"),
                 "02 ok port 002 0 000+2.0.FF.00") == 0,
          "in an element: %s", answer);
    f->fail_with = RMG_ERR_PORT_LOST;
    f->fail_at = f->reads + f->writes + 1;
    CHECK(strcmp(ask(&far, "03 read 000 4"), "03 no lost") == 0, "%s", answer);
    f->fail_at = f->reads + f->writes + 2;
    f->fail_with = RMG_ERR_PORT;
    CHECK(strcmp(ask(&far, "04 write 000 010203"), "04 no port") == 0 && f->words[0] == 1, "%s",
          answer);
}

static bool same_log(const fake_access *a, const fake_access *b, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        if (a[i].address != b[i].address || a[i].value != b[i].value || a[i].write != b[i].write)
            return false;
    return true;
}

/* A whole march through the far half, in slices of every size, makes the very accesses that the
 * engine makes. */
static void same_accesses(void)
{
    static fake_access direct[FAKE_LOG];
    static rmg_tally tally;
    const rmg_range range = {0x20, 0x2F};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};
    static const char *const elements[] = {"up w0",      "up r0,w1",   "up r1,w0",
                                           "down r0,w1", "down r1,w0", "up r0"};
    rmg_target target;
    fake *f = fake_new(0);
    unsigned logged;

    target = fake_target(f, 0xFF);
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "by the engine");
    logged = f->logged;
    memcpy(direct, f->log, sizeof direct);
    for (unsigned words = 1; words < 18; words++) {
        rmg_far_end far;
        unsigned number = 2;

        f = begin(&far, &target);
        ask(&far, "01 hello");
        for (size_t e = 0; e < 6; e++) {
            const bool down = elements[e][0] == 'd';
            unsigned at = down ? 0x2F : 0x20, operation = 0;
            char line[100];

            for (int slices = 0; slices < 100; slices++) {
                const char *came;

                snprintf(line, sizeof line, "%02X element 020 02F %03X %X %s 00 FF %X 4",
                         number++ & 0xFFu, at, operation, elements[e], words);
                came = ask(&far, line);
                if (!came || strcmp(came + 3, "ok done") == 0 ||
                    sscanf(came + 3, "ok more %X %X", &at, &operation) != 2)
                    break;
            }
            CHECK(strcmp(answer + 3, "ok done\n") == 0, "%u words, element %zu: %s", words, e,
                  answer);
        }
        CHECK(f->logged == logged && same_log(f->log, direct, logged),
              "%u words a slice: %u accesses, expected %u", words, f->logged, logged);
    }
}

/* A memory of 200 words that notes each block. */
static unsigned char cells[200];
static char blocks[400];

static void note_block(char kind, rmg_addr first, rmg_addr count)
{
    const size_t size = strlen(blocks);

    snprintf(blocks + size, sizeof blocks - size, "%c%u+%u ", kind, (unsigned)first,
             (unsigned)count);
}

static rmg_status read_cells(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    (void)context;
    note_block('r', first, count);
    for (rmg_addr i = 0; i < count; i++)
        values[i] = first + i == 70 ? cells[70] | 1u : cells[first + i];
    return RMG_OK;
}

static rmg_status write_cells(void *context, rmg_addr first, rmg_addr count, const rmg_word *values)
{
    (void)context;
    note_block('w', first, count);
    for (rmg_addr i = 0; i < count; i++)
        cells[first + i] = (unsigned char)values[i];
    return RMG_OK;
}

static void wrong(void *context, rmg_addr address, uint8_t operation, rmg_word expected,
                  rmg_word actual)
{
    char *text = context;
    const size_t size = strlen(text);

    snprintf(text + size, 100 - size, "%u.%u.%02X.%02X ", (unsigned)address, operation,
             (unsigned)expected, (unsigned)actual);
}

/* Of a block all words are read, then all written; up and down, in pieces of any size. */
static void by_blocks(void)
{
    static const struct {
        bool down;
        rmg_addr words_a_call;
        const char *blocks;
    } rows[] = {
        {false, 1000, "r10+64 w10+64 r74+64 w74+64 r138+12 w138+12 "},
        {true, 1000, "r86+64 w86+64 r22+64 w22+64 r10+12 w10+12 "},
        {false, 70, "r10+64 w10+64 r74+6 w74+6 r80+64 w80+64 r144+6 w144+6 "},
    };
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read_block = read_cells, .write_block = write_cells};
    static const uint8_t ops[] = {RMG_OP_R0, RMG_OP_W1};

    for (size_t i = 0; i < COUNT(rows); i++) {
        char text[100] = "";
        rmg_element_call call = {.range = {10, 149},
                                 .address = rows[i].down ? 149 : 10,
                                 .words_a_call = rows[i].words_a_call,
                                 .ops = ops,
                                 .op_count = 2,
                                 .down = rows[i].down,
                                 .mask = 0xFF,
                                 .sink_context = text,
                                 .mismatch = wrong};

        memset(cells, 0, sizeof cells);
        blocks[0] = '\0';
        while (rmg_element_by_blocks(&bus, NULL, &call) == RMG_ERR_CANCELLED)
            ;
        CHECK(strcmp(blocks, rows[i].blocks) == 0, "row %zu: %s", i, blocks);
        CHECK(strcmp(text, "70.0.00.01 ") == 0 && cells[10] == 0xFF && cells[149] == 0xFF &&
                  !cells[9] && !cells[150],
              "row %zu: %s", i, text);
    }
}

/* "add A B", "grow", "say": an intent with arguments, one that changes the memory, a long answer.
 */
static rmg_far_outcome intent(void *context, rmg_far_end *far)
{
    const rmg_target *larger = context;
    rmg_far_value a, b;

    if (rmg_far_word(far, "add")) {
        if (!rmg_far_number(far, 0, 0xFF, &a) || !rmg_far_number(far, 2, 0xFF, &b) ||
            !rmg_far_at_end(far))
            return RMG_FAR_WRONG;
        rmg_far_text(far, " ok ");
        rmg_far_hex(far, a + b, 4);
        return RMG_FAR_DONE;
    }
    if (rmg_far_word(far, "grow")) {
        rmg_far_text(far, rmg_far_refit(far, larger, 0xFFFF) == RMG_OK ? " ok" : " no");
        return RMG_FAR_DONE;
    }
    if (!rmg_far_word(far, "say"))
        return RMG_FAR_UNKNOWN;
    for (int i = 0; i < 100; i++)
        rmg_far_text(far, " words");
    return RMG_FAR_DONE;
}

static void own_intents(void)
{
    static const struct {
        const char *ask, *answer;
    } rows[] = {
        {"01 add 1 02", "01 no hello"},
        {"02 hello",
         "02 ok link=1 word=FF last=FFF line=77 can=block,element,crc32,wait,pod name=bench"},
        {"03 add 1 02", "03 ok 0003"},
        {"03 add 1 02", "03 ok 0003"},
        {"04 add 1", "04 no argument"},
        {"05 add 1 2", "05 no argument"},
        {"06 add 100 02", "06 no argument"},
        {"07 add 1 02 3", "07 no argument"},
        {"08 addition", "08 no intent"},
        {"09 read 100", "09 ok 00"},
        {"0A grow", "0A ok"},
        {"0B read 0100", "0B ok 00"},
        {"0C read 100", "0C no argument"},
        {"0D hello",
         "0D ok link=1 word=FF last=FFFF line=77 can=block,element,crc32,wait,pod name=bench"},
    };
    rmg_far_end far;
    rmg_target target;
    const char *came;

    begin(&far, &target);
    rmg_far_extend(&far, "pod", intent, &target);
    for (size_t i = 0; i < COUNT(rows); i++) {
        came = ask(&far, rows[i].ask);
        CHECK(came && strcmp(came, rows[i].answer) == 0, "%s: %s", rows[i].ask, came);
    }
    came = ask_checked(&far, "0E hello");
    CHECK(strncmp(came, "0E ok", 5) == 0, "with checks: %s", came);
    came = ask_checked(&far, "0F say");
    CHECK(strlen(came) > 80 && strncmp(came, "0F words words", 14) == 0, "cut to a line: %s", came);
}

/* A port whose elements end with the word of the first wrong read is given all words at once. */
static unsigned calls;
static rmg_addr most_words;

static rmg_status stopping_element(void *context, rmg_element_call *call)
{
    (void)context;
    calls++;
    if (call->words_a_call > most_words)
        most_words = call->words_a_call;
    for (; call->words_a_call; call->words_a_call--) {
        const bool wrong = call->address % 64 == 5;
        const bool last = call->address == call->range.last;

        if (wrong)
            call->mismatch(call->sink_context, call->address, 0, 0, 1);
        if (last)
            return RMG_OK;
        call->address++;
        if (wrong)
            break;
    }
    return RMG_ERR_CANCELLED;
}

static void port_that_stops(void)
{
    rmg_far_end far;
    rmg_target target;
    rmg_bus bus;
    const char *came;

    begin(&far, &target);
    bus = *target.bus;
    bus.run_element = stopping_element;
    target.bus = &bus;
    for (int stops = 0; stops < 2; stops++) {
        CHECK(rmg_far_begin(&far, &target, 0xFFF, "bench", &room) == RMG_OK, "begins");
        if (stops)
            rmg_far_port_stops(&far);
        calls = 0;
        most_words = 0;
        ask(&far, "01 hello");
        came = ask(&far, "02 element 000 0FF 000 0 up r0 00 FF 100 8");
        came = came ? came : "no answer";
        CHECK(strcmp(came, "02 ok more 0C6 0 005.0.00.01 045.0.00.01 085.0.00.01 0C5.0.00.01") == 0,
              "stops %d: %s", stops, came);
        CHECK(stops ? calls == 4 && most_words == 0x100 : most_words <= 4, "stops %d: %u calls, %u",
              stops, calls, (unsigned)most_words);
    }
}

CU_TestInfo far_end_tests[] = {
    {"elements by blocks", by_blocks},
    {"requests", requests},
    {"intents of its own", own_intents},
    {"a port that stops", port_that_stops},
    {"checks", checks},
    {"long checks", long_checks},
    {"errors of the port", port_errors},
    {"the same accesses", same_accesses},
    CU_TEST_INFO_NULL,
};
