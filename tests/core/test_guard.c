/* The guard: what is not permitted does not reach the port; what is, does, unchanged. */
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "fake.h"
#include "rimeglass/bus.h"
#include "suites.h"

#ifndef RMG_TRAP
#define RMG_TRAP 0
#endif

#if RMG_TRAP
/* Builds that stop at errors: the child is ended by a signal. */
static bool is_refused(rmg_status (*call)(const rmg_target *target), const rmg_target *target)
{
    const pid_t child = fork();
    int status = 0;

    if (child == 0) {
        call(target);
        _exit(0);
    }
    return child > 0 && waitpid(child, &status, 0) == child &&
           !(WIFEXITED(status) && !WEXITSTATUS(status));
}
#else
static bool is_refused(rmg_status (*call)(const rmg_target *target), const rmg_target *target)
{
    return call(target) == RMG_ERR_FORBIDDEN;
}
#endif

static rmg_status read_below(const rmg_target *t)
{
    rmg_word value;

    return t->bus->read(t->context, 0xFF, &value);
}

static rmg_status write_above(const rmg_target *t)
{
    return t->bus->write(t->context, 0x201, 0);
}

static rmg_status write_read_only(const rmg_target *t)
{
    return t->bus->write(t->context, 0x300, 0);
}

static rmg_status read_write_only(const rmg_target *t)
{
    rmg_word value;

    return t->bus->read(t->context, 0x400, &value);
}

static rmg_status block_over_the_end(const rmg_target *t)
{
    rmg_word values[4] = {0};

    return t->bus->write_block(t->context, 0x1FE, 4, values);
}

static rmg_status block_that_wraps(const rmg_target *t)
{
    rmg_word values[1] = {0};

    return t->bus->read_block(t->context, 0x150, (rmg_addr) ~(rmg_addr)0, values);
}

static rmg_status byte_outside(const rmg_target *t)
{
    return t->bus->write_byte(t->context, 0x50, 0, 0);
}

static rmg_status element(const rmg_target *t, rmg_addr first, rmg_addr last, rmg_addr address)
{
    static const uint8_t ops[] = {0, 3};
    rmg_element_call call = {
        .range = {first, last}, .address = address, .words_a_call = 1, .ops = ops, .op_count = 2};

    return t->bus->run_element(t->context, &call);
}

static rmg_status element_over_the_end(const rmg_target *t)
{
    return element(t, 0x100, 0x201, 0x100);
}

static rmg_status element_that_starts_outside(const rmg_target *t)
{
    return element(t, 0x100, 0x200, 0x300);
}

static rmg_status element_on_read_only(const rmg_target *t)
{
    return element(t, 0x300, 0x300, 0x300);
}

/* A port with every function, which counts its calls and can lie about where it stands. */
typedef struct whole_port {
    unsigned calls;
    rmg_addr stands_at;
} whole_port;

static rmg_status any_read(void *context, rmg_addr address, rmg_word *value)
{
    *value = (rmg_word)address;
    ((whole_port *)context)->calls++;
    return RMG_OK;
}

static rmg_status any_write(void *context, rmg_addr address, rmg_word value)
{
    (void)address;
    (void)value;
    ((whole_port *)context)->calls++;
    return RMG_OK;
}

static rmg_status any_write_byte(void *context, rmg_addr address, uint8_t lane, uint8_t value)
{
    (void)lane;
    return any_write(context, address, value);
}

static rmg_status any_read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    (void)count;
    return any_read(context, first, values);
}

static rmg_status any_write_block(void *context, rmg_addr first, rmg_addr count,
                                  const rmg_word *values)
{
    (void)count;
    return any_write(context, first, *values);
}

static rmg_status any_element(void *context, rmg_element_call *call)
{
    whole_port *p = context;

    p->calls++;
    call->address = p->stands_at;
    return RMG_ERR_CANCELLED;
}

static const rmg_bus whole_bus = {.version = RMG_BUS_VERSION,
                                  .read = any_read,
                                  .write = any_write,
                                  .write_byte = any_write_byte,
                                  .read_block = any_read_block,
                                  .write_block = any_write_block,
                                  .run_element = any_element};

static const rmg_permit permits[] = {{{0x100, 0x200}, RMG_MAY_READ | RMG_MAY_WRITE},
                                     {{0x300, 0x300}, RMG_MAY_READ},
                                     {{0x400, 0x400}, RMG_MAY_WRITE}};

static void refusals(void)
{
    static const struct {
        const char *title;
        rmg_status (*call)(const rmg_target *target);
    } rows[] = {{"a read below", read_below},
                {"a write above", write_above},
                {"a write where only reads are permitted", write_read_only},
                {"a read where only writes are", read_write_only},
                {"a block over the end", block_over_the_end},
                {"a block that wraps", block_that_wraps},
                {"a byte outside", byte_outside},
                {"an element over the end", element_over_the_end},
                {"an element that starts outside", element_that_starts_outside},
                {"an element that writes where only reads are permitted", element_on_read_only}};
    whole_port port = {0, 0};
    const rmg_target to = {&whole_bus, &port, 0xFF};
    rmg_guard guard;
    rmg_target target;

    rmg_guard_begin(&guard, &to, permits, COUNT(permits), &target);
    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK(is_refused(rows[i].call, &target) && !port.calls, "%s", rows[i].title);
    CHECK(RMG_TRAP || guard.refused == COUNT(rows), "all are counted: %lu",
          (unsigned long)guard.refused);
}

static void what_is_permitted(void)
{
    whole_port port = {0, 0x180};
    const rmg_target to = {&whole_bus, &port, 0xFF};
    rmg_word values[2] = {1, 2}, value = 0;
    rmg_guard guard;
    rmg_target target;

    rmg_guard_begin(&guard, &to, permits, COUNT(permits), &target);
    CHECK(target.bus->version == RMG_BUS_VERSION, "its version is the port's");
    CHECK(target.mask == 0xFF && !target.bus->read_byte && !target.bus->wait &&
              !target.bus->get_condition && !target.bus->set_condition,
          "what the port lacks the guard lacks");
    CHECK(target.bus->read(&guard, 0x100, &value) == RMG_OK && value == (rmg_word)0x100,
          "first word");
    CHECK(target.bus->write(&guard, 0x200, 0) == RMG_OK, "last word");
    CHECK(target.bus->read(&guard, 0x300, &value) == RMG_OK, "a word to be read");
    CHECK(target.bus->write(&guard, 0x400, 0) == RMG_OK, "a word to be written");
    CHECK(target.bus->write_block(&guard, 0x1FF, 2, values) == RMG_OK, "a block to the end");
    CHECK(target.bus->read_block(&guard, 0x100, 2, values) == RMG_OK, "a block from the start");
    CHECK(element(&target, 0x100, 0x200, 0x100) == RMG_ERR_CANCELLED, "an element goes on later");
    port.stands_at = 0x201;
    CHECK(element(&target, 0x100, 0x200, 0x100) == RMG_ERR_PORT,
          "not where the port leaves its range");
    CHECK(port.calls == 8 && !guard.refused, "%u calls", port.calls);
}

CU_TestInfo guard_tests[] = {
    {"what is refused", refusals},
    {"what is permitted", what_is_permitted},
    CU_TEST_INFO_NULL,
};
