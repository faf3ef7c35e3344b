/* "prompt:PROFILE,STREAM": a board that gives a prompt at a serial line. */
#include <string.h>

#include "internal.h"
#include "rimeglass/prompt.h"

/* What is open of it. */
typedef struct at_prompt {
    rmg_prompt_profile *profile;
    rmg_prompt *prompt;
} at_prompt;

static gchar *expected(const char *rest)
{
    const char *comma = strchr(rest, ',');

    if (comma && comma != rest && rmg_stream_is_two_way(comma + 1))
        return NULL;
    return g_strdup("prompt:PROFILE,STREAM like prompt:monitor.yaml,/dev/ttyUSB0,baud=9600 or "
                    "prompt:monitor.yaml,HOST:PORT");
}

static const char *why_prompt(void *self)
{
    const at_prompt *at = self;

    return at->prompt ? rmg_prompt_why(at->prompt) : "";
}

static rmg_status load(void *self, const rmg_range *within, rmg_target *target, rmg_range *memory)
{
    const at_prompt *at = self;
    const rmg_status status = rmg_prompt_load(at->prompt, within, memory);

    if (status == RMG_OK) {
        target->context = rmg_prompt_loader(at->prompt);
        target->bus = rmg_loader_bus(target->context);
    }
    return status;
}

static char *afterwards(void *self)
{
    const at_prompt *at = self;
    uint64_t again, accesses;

    if (!at->prompt)
        return NULL;
    rmg_prompt_counts(at->prompt, &again, &accesses);
    return again ? g_strdup_printf("%" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                                   " accesses %s spoilt on the way, and typed again.",
                                   again, accesses, again == 1 ? "was" : "were")
                 : NULL;
}

static void close_prompt(void *self)
{
    at_prompt *at = self;

    rmg_prompt_close(at->prompt);
    rmg_prompt_profile_free(at->profile);
    g_free(at);
}

static rmg_status open_prompt(const char *rest, const rmg_board *board, rmg_opened *opened,
                              GArray *notes)
{
    at_prompt *at = g_new0(at_prompt, 1);
    const char *comma = strchr(rest, ',');
    gchar *file = g_strndup(rest, (gsize)(comma - rest));
    char why[RMG_STREAM_WHY] = "";
    rmg_errors errors = {0};
    rmg_stream *stream = NULL;
    rmg_status status = rmg_prompt_profile_load(file, &at->profile, &errors);

    opened->self = at;
    opened->close = close_prompt;
    for (size_t i = 0; i < errors.count; i++)
        rmg_note_error(notes, &errors.list[i]);
    if (status == RMG_OK) {
        status = rmg_stream_open(comma + 1, RMG_CONNECT_MS, &stream, why);
        if (status == RMG_OK)
            status = rmg_prompt_open(stream, at->profile, board, &at->prompt, why);
        if (status != RMG_OK)
            rmg_note(notes, status, rest, "prompt:%s: %s", rest,
                     *why ? why : rmg_status_text(status));
    }
    rmg_errors_free(&errors);
    g_free(file);
    if (status != RMG_OK)
        return status == RMG_ERR_FILE && !notes->len ? RMG_ERR_PORT_LOST : status;
    opened->why = why_prompt;
    opened->afterwards = afterwards;
    opened->stream = stream;
    opened->load = load;
    opened->load_accesses = rmg_prompt_load_accesses(at->prompt);
    opened->blocks = rmg_prompt_blocks_bus(at->prompt);
    opened->accesses_a_second = rmg_prompt_speed(at->prompt);
    opened->target =
        (rmg_target){.bus = rmg_prompt_bus(at->prompt),
                     .context = at->prompt,
                     .mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    opened->remark = g_strdup("");
    opened->caveat = g_strdup_printf(
        "Through a prompt (%s, about %.0f accesses a second) each access is typed. Not found: DRF "
        "of "
        "DRAM, for refresh goes on in holds; faults that need accesses in close succession%s.",
        rmg_prompt_profile_name(at->profile), rmg_prompt_speed(at->prompt),
        rmg_prompt_is_checked(at->prompt)
            ? ""
            : ". It echoes nothing, so a character lost on the way would "
              "go unseen, and may write elsewhere");
    return RMG_OK;
}

const rmg_target_kind rmg_target_prompt = {.prefix = "prompt:",
                                           .forms = "prompt:PROFILE,STREAM",
                                           .expected = expected,
                                           .open = open_prompt};
