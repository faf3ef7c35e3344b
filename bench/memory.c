/* The port to this machine's memory against plain loops over the same buffer. Words: RMG_BENCH_MIB
 * (1024) MiB of 64 bits. */
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bench.h"
#include "rimeglass/ram.h"
#include "rimeglass/rimeglass.h"

typedef struct setup {
    rmg_ram *ram, *flushed;
    rmg_tally tally;
    uint64_t words, sink;
    bool wrong;
} setup;

static setup s;

static uint64_t *plain(void)
{
    return (uint64_t *)(uintptr_t)rmg_ram_words(s.ram);
}

/* One march of one element or two; every failure is counted. */
static void march(rmg_ram *ram, const uint8_t *code, bool fails)
{
    const rmg_range all = {0, s.words - 1u};
    const rmg_observer observer = {.every_log2 = 22};
    const rmg_march_job job = {
        .code = code, .ranges = &all, .range_count = 1, .observer = &observer};
    const rmg_target target = rmg_ram_target(ram);

    rmg_tally_clear(&s.tally, NULL, 0);
    if (rmg_march_run(&target, &job, &s.tally) != RMG_OK || (s.tally.failing != 0) != fails)
        s.wrong = true;
}

#define UP(n)   (RMG_ORDER_UP | (n))
#define DOWN(n) (RMG_ORDER_DOWN | (n))
static const uint8_t up_down[] = {UP(2), RMG_OP_R0, RMG_OP_W1, DOWN(2), RMG_OP_R1, RMG_OP_W0, 0};
static const uint8_t up_read[] = {UP(1), RMG_OP_R0, 0};
static const uint8_t up_write[] = {UP(1), RMG_OP_W0, 0};
static const uint8_t all_fail[] = {UP(2), RMG_OP_R1, RMG_OP_W0, DOWN(2), RMG_OP_R1, RMG_OP_W0, 0};

static void our_up_down(void *c)
{
    (void)c;
    march(s.ram, up_down, false);
}

static void our_read(void *c)
{
    (void)c;
    march(s.ram, up_read, false);
}

static void our_write(void *c)
{
    (void)c;
    march(s.ram, up_write, false);
}

static void our_failing(void *c)
{
    (void)c;
    march(s.ram, all_fail, true);
}

/* Flushed and not, in the same memory: the port's flag is all that differs. */
static void our_flushed(void *c)
{
    (void)c;
    march(s.flushed, up_down, false);
}

static void invert(uint64_t *from, uint64_t count)
{
    for (uint64_t i = 0; i < count; i++)
        from[i] ^= UINT64_MAX;
}

static void plain_invert(void *c)
{
    (void)c;
    invert(plain(), s.words);
    __asm__ volatile("" ::: "memory");
    invert(plain(), s.words);
}

static void plain_read(void *c)
{
    const uint64_t *p = plain();
    uint64_t any = 0;

    (void)c;
    for (uint64_t i = 0; i < s.words; i++)
        any |= p[i] ^ UINT64_C(0);
    s.sink |= any;
}

static void plain_set(void *c)
{
    (void)c;
    memset(plain(), 0, (size_t)s.words * sizeof(uint64_t));
    __asm__ volatile("" ::: "memory");
}

static void *invert_half(void *half)
{
    const uint64_t count = s.words / 2u;

    invert(plain() + (half ? count : 0), count);
    return NULL;
}

static void plain_two_threads(void *c)
{
    (void)c;
    for (unsigned i = 0; i < 2; i++) {
        pthread_t other;

        if (pthread_create(&other, NULL, invert_half, &s) != 0)
            exit(2);
        invert_half(NULL);
        pthread_join(other, NULL);
    }
}

static rmg_ram *take(uint64_t bytes, unsigned threads, bool unflushed)
{
    const rmg_ram_want want = {.bytes = bytes, .threads = threads, .unflushed = unflushed};
    rmg_ram *ram;
    char *remark;

    if (rmg_ram_open(&want, &ram, &remark) != RMG_OK) {
        fprintf(stderr, "%s\n", remark ? remark : "no memory");
        exit(2);
    }
    if (*remark)
        printf("%s\n", remark);
    s.words = rmg_ram_bytes(ram) / 8u;
    return ram;
}

int main(void)
{
    const char *size = getenv("RMG_BENCH_MIB");
    const uint64_t bytes = (size ? strtoull(size, NULL, 10) : 1024u) << 20;
    const bench_row one[] = {
        {"up(r0,w1), down(r1,w0)", "plain x ^= c, twice", 0.95, our_up_down, plain_invert, NULL},
        {"up(r0)", "loop that ORs x ^ c", 0.95, our_read, plain_read, NULL},
        {"up(w0)", "memset", 1.0, our_write, plain_set, NULL},
        {"every word failing", "plain x ^= c, twice", 0.05, our_failing, plain_invert, NULL},
    };
    const bench_row two[] = {{"two threads: up(r0,w1), down(r1,w0)",
                              "two threads: plain x ^= c, twice", 0.90, our_up_down,
                              plain_two_threads, NULL}};
    const bench_row flush[] = {
        {"flushed: up(r0,w1), down(r1,w0)", "unflushed", 0.60, our_flushed, our_up_down, NULL}};
    bool reached;

    s.ram = take(bytes, 1, true);
    reached = bench_table(one, sizeof one / sizeof *one);
    rmg_ram_close(s.ram);
    s.ram = take(bytes, 2, true);
    reached &= bench_table(two, 1);
    rmg_ram_close(s.ram);
    s.ram = take(bytes, 1, true);
    s.flushed = take(bytes, 1, false);
    if (rmg_ram_flushes(s.flushed))
        reached &= bench_table(flush, 1);
    else
        printf("flushed mode: this processor has no instruction for it\n");
    rmg_ram_close(s.flushed);
    rmg_ram_close(s.ram);
    if (s.wrong) {
        fprintf(stderr, "a march failed that should not have, or the other way round\n");
        return 2;
    }
    return !reached;
}
