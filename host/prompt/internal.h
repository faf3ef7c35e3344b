/* Inside room prompt: a profile as it was read, and the conversation. */
#ifndef RMG_HOST_PROMPT_INTERNAL_H
#define RMG_HOST_PROMPT_INTERNAL_H

#include <glib.h>

#include "rimeglass/prompt.h"
#include "rimeglass/loader.h"

/* How a number is written and read. */
typedef struct number_form {
    unsigned base;  /* 8, 10 or 16 */
    unsigned width; /* digits, with zeros in front; 0: as few as it takes */
    uint64_t add;   /* to the number of the board file */
} number_form;

/* One line that is typed, and what comes of it. */
typedef struct typed_step {
    gchar *send;    /* with {address}, {value}, {last} */
    bool end;       /* a line end follows */
    GRegex *answer; /* a line that must come, with its groups address, value, values; or NULL */
    GRegex *ready;  /* the unfinished line that it then waits at */
} typed_step;

/* How a routine is loaded and started. */
typedef struct load_and_run {
    bool known;
    typed_step run;         /* with {address} */
    rmg_loader_place place; /* its memory is not set: */
    uint64_t first, last;   /* addresses, as the board file counts */
    unsigned answer_ms;     /* how long it may take */
} load_and_run;

struct rmg_prompt_profile {
    gchar *name;
    GRegex *ready;
    GArray *read, *write, *block; /* of typed_step; block: empty where there is none */
    unsigned block_words;
    number_form address, value;
    bool echo, upper, strip, waits_for_echo;
    const char *line_end;
    gchar *cancel, *wake;
    GPtrArray *errors; /* of GRegex * */
    GRegex *more;
    gchar *more_send;
    unsigned character_ms, line_ms, answer_ms; /* delays, and how long an answer may take */
    load_and_run load;
};

#define PROMPT_TRIES 5u

struct rmg_prompt {
    rmg_stream *stream;
    const rmg_prompt_profile *profile;
    const rmg_board *board;
    rmg_bus bus, blocks;
    rmg_loader *loader; /* of the routine in the target; NULL: none */
    rmg_word mask;
    double speed;
    uint64_t again, accesses;
    gint64 slowest_echo_ms, slowest_answer_ms; /* lately; -1: none was right yet */
    double character_ms; /* from one character of an echo to the next, about */
    char why[RMG_STREAM_WHY];
    unsigned char in[1024]; /* what arrived and was not looked at yet */
    size_t in_count, in_next;
    GPtrArray *lines; /* of gchar *: whole lines since something was typed, empty ones left out */
    GString *line;    /* the unfinished one */
    char heard[64];   /* the last of what was forgotten of them */
};

/* What an access is about. */
typedef struct asked {
    uint64_t address, last; /* as the prompt counts them */
    uint64_t value;
    rmg_word *values; /* of a read: where they go, `count` of them */
    size_t count;
} asked;

/* Types the steps and takes their answers, again where something was spoilt. */
rmg_status rmg_prompt_talk(rmg_prompt *p, const GArray *steps, const asked *what);

/* Types the step once, and waits so long for the prompt to come back: what it starts must not be
 * started twice. It is typed again only where its echo was wrong, and so nothing was started. */
rmg_status rmg_prompt_start(rmg_prompt *p, const typed_step *step, uint64_t address,
                            unsigned answer_ms);

/* Says what went wrong; returns the status. */
rmg_status rmg_prompt_fail(rmg_prompt *p, rmg_status status, const char *format, ...)
    G_GNUC_PRINTF(3, 4);

/* Waits for the prompt as it is at rest, and forgets what came before it. `typed`: a line may be
 * half typed, which is given up first. */
rmg_status rmg_prompt_rest(rmg_prompt *p, bool typed);

/* A number of the profile's form, the whole text; false: it is none. */
bool rmg_prompt_number(const number_form *form, const char *text, uint64_t *value);

#endif
