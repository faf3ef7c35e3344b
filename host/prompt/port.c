/* A prompt as a bus port. */
#include <string.h>

#include "internal.h"

static uint64_t shown(const rmg_prompt *p, rmg_addr address)
{
    return rmg_board_shown(p->board, address);
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    rmg_prompt *p = context;
    const asked what = {
        .address = shown(p, address), .last = shown(p, address), .values = value, .count = 1};

    return rmg_prompt_talk(p, p->profile->read, &what);
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    rmg_prompt *p = context;
    const asked what = {.address = shown(p, address), .last = shown(p, address), .value = value};

    return rmg_prompt_talk(p, p->profile->write, &what);
}

static rmg_status read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    rmg_prompt *p = context;
    rmg_status status = RMG_OK;

    for (rmg_addr done = 0; done < count && status == RMG_OK;) {
        const rmg_addr left = count - done;
        const rmg_addr words = left < p->profile->block_words ? left : p->profile->block_words;
        const asked what = {.address = shown(p, first + done),
                            .last = shown(p, first + done + words - 1u),
                            .values = values + done,
                            .count = (size_t)words};

        status = rmg_prompt_talk(p, p->profile->block, &what);
        done += words;
    }
    return status;
}

static rmg_status by_blocks(void *context, rmg_element_call *call)
{
    const rmg_prompt *p = context;

    return rmg_element_by_blocks(&p->bus, context, call);
}

/* Reads the first RAM word a few times: how fast it is at best, and whether the profile fits. */
static rmg_status try_it(rmg_prompt *p)
{
    enum { READS = 3 };
    const rmg_board *board = p->board;
    rmg_status status = RMG_OK;
    unsigned done = 0;

    for (size_t r = 0; r < board->region_count && !done; r++)
        while (board->regions[r].kind == RMG_REGION_RAM && done < READS && status == RMG_OK) {
            const gint64 start = g_get_monotonic_time();
            rmg_word value;

            status = read_word(p, board->regions[r].range.first, &value);
            p->speed = MAX(p->speed, 1e6 / (double)(g_get_monotonic_time() - start + 1));
            done++;
        }
    return status;
}

rmg_status rmg_prompt_open(rmg_stream *stream, const rmg_prompt_profile *profile,
                           const rmg_board *board, rmg_prompt **prompt, char *why)
{
    rmg_prompt *p = g_new0(rmg_prompt, 1);
    rmg_status status = RMG_OK;
    size_t sent;

    *why = '\0';
    *p = (rmg_prompt){.stream = stream,
                      .profile = profile,
                      .board = board,
                      .bus = {.version = RMG_BUS_VERSION,
                              .read = read_word,
                              .write = write_word,
                              .read_block = profile->block->len ? read_block : NULL},
                      .mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits),
                      .slowest_echo_ms = -1,
                      .slowest_answer_ms = -1,
                      .lines = g_ptr_array_new_with_free_func(g_free),
                      .line = g_string_new(NULL)};
    p->blocks = p->bus;
    p->blocks.run_element = by_blocks;
    if (*profile->wake)
        status = rmg_stream_write(stream, profile->wake, strlen(profile->wake), 2000, &sent);
    if (status == RMG_OK && *profile->cancel)
        status = rmg_prompt_rest(p, true);
    if (status == RMG_OK)
        status = rmg_prompt_rest(p, false);
    if (status == RMG_OK)
        status = try_it(p);
    if (status == RMG_OK) {
        *prompt = p;
        return RMG_OK;
    }
    g_strlcpy(why, p->why, RMG_STREAM_WHY);
    rmg_prompt_close(p);
    *prompt = NULL;
    return status;
}

void rmg_prompt_close(rmg_prompt *p)
{
    size_t sent;

    if (!p)
        return;
    if (*p->profile->cancel) /* nothing half typed stays behind */
        rmg_stream_write(p->stream, p->profile->cancel, strlen(p->profile->cancel), 500, &sent);
    rmg_loader_free(p->loader);
    rmg_stream_close(p->stream);
    g_ptr_array_free(p->lines, TRUE);
    g_string_free(p->line, TRUE);
    g_free(p);
}

const rmg_bus *rmg_prompt_bus(const rmg_prompt *p)
{
    return &p->bus;
}

const rmg_bus *rmg_prompt_blocks_bus(const rmg_prompt *p)
{
    return p->bus.read_block ? &p->blocks : NULL;
}

bool rmg_prompt_is_checked(const rmg_prompt *p)
{
    return p->profile->echo;
}

double rmg_prompt_speed(const rmg_prompt *p)
{
    return p->speed;
}

void rmg_prompt_counts(const rmg_prompt *p, uint64_t *again, uint64_t *accesses)
{
    *again = p->again;
    *accesses = p->accesses;
}

const char *rmg_prompt_why(const rmg_prompt *p)
{
    return p->why;
}
