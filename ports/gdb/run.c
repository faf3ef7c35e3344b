/* Something that lies in the far end's memory is run, up to a breakpoint. */
#include <stdio.h>
#include <string.h>

#include "internal.h"

#define BREAK 0x03 /* a byte outside of packets: stop what runs */

rmg_status rmg_gdb_fail(rmg_gdb *g, rmg_status status, const char *what)
{
    return rmg_gdb_lost(g, status, what);
}

static rmg_status refused(rmg_gdb *g, const char *what)
{
    char why[RMG_STREAM_WHY];

    for (char *c = g->answer; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    snprintf(why, sizeof why, "the far end answers \"%.40s\" to %s", g->answer, what);
    return rmg_gdb_lost(g, RMG_ERR_PORT, why);
}

/* Asks for something that is answered OK, or, where it `may` not be known there, by nothing. */
static rmg_status demand(rmg_gdb *g, const char *body, bool may, const char *what)
{
    const rmg_status status = rmg_gdb_ask(g, body, false);

    if (status != RMG_OK || strcmp(g->answer, "OK") == 0 || (may && !*g->answer))
        return status;
    return refused(g, what);
}

/* The digits of all registers, with those that are to be set. false: they are not all told. */
static bool set_registers(const rmg_gdb_run *run, char *digits)
{
    for (size_t r = 0; r < run->count; r++) {
        const rmg_gdb_register *reg = &run->registers[r];

        for (unsigned i = 0; i < reg->bytes; i++) {
            const unsigned shift = 8 * (run->high_first ? reg->bytes - 1u - i : i);
            char *at = digits + 2 * ((size_t)reg->offset + i), two[3];
            const int high = rmg_gdb_digit(at[0]), low = rmg_gdb_digit(at[1]);
            const unsigned before = high < 0 || low < 0 ? 0 : (unsigned)(high * 16 + low);
            const unsigned keeps = reg->keeps >> shift & 0xFFu;

            if (keeps && (high < 0 || low < 0))
                return false;
            snprintf(two, sizeof two, "%02x",
                     (before & keeps) | (reg->value >> shift & 0xFFu & ~keeps));
            memcpy(at, two, 2);
        }
    }
    return true;
}

/* Waits until the far end says that it stopped. What it prints before is passed over. */
static rmg_status wait_for_stop(rmg_gdb *g, double deadline)
{
    rmg_status status;

    do
        status = rmg_gdb_get_packet(g, deadline);
    while (status == RMG_OK && *g->answer == 'O');
    if (status == RMG_OK && *g->answer != 'T' && *g->answer != 'S')
        return refused(g, "going on");
    return status;
}

/* Goes on, up to the breakpoint or until it takes too long. */
static rmg_status go_on(rmg_gdb *g, uint32_t wait_ms)
{
    rmg_status status = RMG_ERR_CONTENT;
    char why[RMG_STREAM_WHY];
    const unsigned char stop = BREAK;

    for (unsigned tries = 0; tries < GDB_TRIES && status == RMG_ERR_CONTENT; tries++) {
        status = rmg_gdb_send_packet(g, "c");
        if (status == RMG_OK)
            status = wait_for_stop(g, rmg_gdb_now_s() + wait_ms / 1000.0);
        if (status == RMG_ERR_CONTENT && !g->acks) /* its answer was damaged: it may have run */
            return rmg_gdb_lost(g, RMG_ERR_PORT,
                                "what the far end says of its stop arrives damaged");
    }
    if (status != RMG_ERR_PORT_LOST && status != RMG_ERR_CANCELLED)
        return status == RMG_ERR_CONTENT
                   ? rmg_gdb_lost(g, RMG_ERR_PORT_LOST, "packets arrive damaged")
                   : status;
    /* it is stopped, whatever else is to be stopped */
    rmg_stream_stop_when(g->stream, NULL, NULL);
    if (rmg_gdb_send(g, &stop, 1) != RMG_OK ||
        wait_for_stop(g, rmg_gdb_now_s() + GDB_WAIT_MS / 1000.0) != RMG_OK)
        return status == RMG_ERR_CANCELLED ? status : RMG_ERR_PORT_LOST;
    if (status == RMG_ERR_CANCELLED)
        return status;
    snprintf(why, sizeof why, "what was started did not come to its end within %.1f s",
             wait_ms / 1000.0);
    return rmg_gdb_lost(g, RMG_ERR_PORT, why);
}

/* Did it stop where it ends? The program counter is the first of the registers that are set. */
static rmg_status stopped_at_end(rmg_gdb *g, const rmg_gdb_run *run)
{
    const rmg_gdb_register *pc = &run->registers[0];
    char why[RMG_STREAM_WHY];
    uint64_t at = 0;
    const rmg_status status = rmg_gdb_ask(g, "g", false);

    if (status != RMG_OK)
        return status;
    if (g->answer_size < 2 * run->register_bytes)
        return refused(g, "the question for its registers");
    for (unsigned i = 0; i < pc->bytes; i++) {
        const char *two = g->answer + 2 * ((size_t)pc->offset + i);
        const unsigned byte =
            (unsigned)(rmg_gdb_digit(two[0]) * 16 + rmg_gdb_digit(two[1])) & 0xFFu;

        at |= (uint64_t)byte << 8 * (run->high_first ? pc->bytes - 1u - i : i);
    }
    if (at == run->end || at == run->end + run->end_bytes)
        return RMG_OK;
    snprintf(why, sizeof why, "what was started stopped at 0x%llX, not at its end, 0x%llX",
             (unsigned long long)at, (unsigned long long)run->end);
    return rmg_gdb_lost(g, RMG_ERR_PORT, why);
}

rmg_status rmg_gdb_run_to(rmg_gdb *g, const rmg_gdb_run *run)
{
    char digits[GDB_MOST + 1u], set[GDB_MOST + 2u], at[48], why[RMG_STREAM_WHY];
    rmg_status status = rmg_gdb_ask(g, "g", false), after;

    if (status != RMG_OK)
        return status;
    if (rmg_gdb_is_error(g->answer) || g->answer_size < 2 * run->register_bytes)
        return refused(g, "the question for its registers");
    memcpy(digits, g->answer, g->answer_size + 1u);
    set[0] = 'G';
    memcpy(set + 1, digits, g->answer_size + 1u);
    if (g->answer_size + 5u > g->packet)
        return rmg_gdb_lost(g, RMG_ERR_PORT, "its registers do not fit into one of its packets");
    if (!set_registers(run, set + 1))
        return refused(g, "the question for its registers");
    snprintf(at, sizeof at, "Z0,%llx,%x", (unsigned long long)run->end, run->end_bytes);
    status = demand(g, at, true, "a breakpoint");
    if (status == RMG_OK) {
        status = demand(g, set, false, "the setting of its registers");
        if (status == RMG_OK)
            status = go_on(g, run->wait_ms);
        if (status == RMG_OK)
            status = stopped_at_end(g, run);
        snprintf(why, sizeof why, "%s", g->why);
        set[0] = 'G';
        memcpy(set + 1, digits, strlen(digits) + 1u);
        after = demand(g, set, false, "the setting of its registers");
        at[0] = 'z';
        if (after == RMG_OK)
            after = demand(g, at, true, "taking a breakpoint away");
        if (status == RMG_OK)
            return after;
        snprintf(g->why, sizeof g->why, "%s", why); /* what went wrong first */
    }
    return status;
}
