/* The command line: words, colours, exit codes. No computation stands here. */
#ifndef RMG_CLI_H
#define RMG_CLI_H

#include <glib.h>
#include <stdio.h>

#include "commands.h"
#include "rimeglass/image.h"
#include "rimeglass/target.h"
#include "rimeglass/suspect.h"

/* Exit status, the same for every command. */
enum {
    EXIT_PASS = 0,      /* no fault found */
    EXIT_FAULTS = 1,    /* faults found */
    EXIT_CALL = 2,      /* the call or a file is wrong */
    EXIT_INCOMPLETE = 3 /* the run is not complete, whatever it found */
};

/* A command: its own file, found by the dispatcher. `args` are the words after the command's name
 * and may be changed; their count is at least 0. */
typedef struct command {
    const char *name;
    const char *summary;
    int (*run)(GPtrArray *args);
} command;

#define DECLARE(name, summary) int command_##name(GPtrArray *args);
COMMANDS(DECLARE)
#undef DECLARE

/* Parses options by `entries`. Returns false when the call is to end with *status: after --help
 * (text on stdout) or a wrong option (hint on stderr). */
bool options_parse(const char *name, const char *usage, const char *description,
                   const GOptionEntry *entries, GPtrArray *args, int *status);

/* The same where options call back: they are handed `data`. */
bool options_parse_with(const char *name, const char *usage, const char *description,
                        const GOptionEntry *entries, gpointer data, GPtrArray *args, int *status);

/* "rimeglass NAME: ..." on stderr, with a hint at --help; returns EXIT_CALL. */
int wrong_call(const char *name, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* What a number option holds where it was not given: -1 is something that people type. */
#define NOT_GIVEN G_MININT

/* Loads the board or prints every error on stderr; NULL then. */
rmg_board *load_board(const char *file);
void print_errors(rmg_errors *errors);

/* Writes a result file; on failure says so on stderr. */
bool write_result(const char *file, const char *text);

/* "90s", "30m", "8h" of an option in seconds; says what is wrong with it. */
bool read_time(const char *command_name, const char *option, const char *text, double *seconds);

/* The form to write an image in: `as`, or what the file's name ends in, or raw bytes. Says
 * what is wrong with `as`. Both may be NULL. */
bool image_form(const char *command_name, const char *as, const char *file, rmg_image_form *form);

/* Where readable text goes: standard output, or nowhere where one of the files (NULL: none) is
 * standard output itself. */
FILE *report_begin(const char *json, const char *written);
void report_end(FILE *to);

/* Is this stream a terminal that can move its cursor (not TERM=dumb)? */
bool on_screen(FILE *stream);

/* live.c: can there be a live view? Says why not. */
bool live_possible(const char *verb);

/* common.c: a stream whose bytes are kept in memory; *text is to be freed with free once it is
 * closed. Where there is no memory the process ends, as in GLib's own calls. */
FILE *kept_text(char **text, size_t *length);

/* The part of a marking ("4116-2"), or NULL after saying what is wrong with it. */
const rmg_part *part_of_marking(const char *command_name, const char *marking, const char **suffix);

/* banner.c: capital letters and blanks, five lines high. */
void print_banner(FILE *to, const char *words, bool good);

/* How wide text is: the terminal, from 80 to 120 columns; 100 elsewhere. */
unsigned text_columns(FILE *to);

/* Is colour wanted on this stream? */
bool colour_on(FILE *stream);

/* Prints text broken at spaces to the width of the terminal; later lines start with `indent`
 * spaces. */
void print_wrapped(FILE *to, const char *lead, unsigned indent, const char *text);

/* A bank at the beginning of a line: "upper bank", "bank B". */
const char *bank_alone(const rmg_bank *bank);

/* The words tested or held: "16 KiB", "256 words". */
char *size_text(const rmg_board *board, uint64_t words, char *text, size_t room);

/* march.c: the march of that name, or of that notation compiled into room[RMG_MARCH_BYTES]; NULL
 * after saying what is wrong with it. *name is as it is shown. */
const uint8_t *find_march(const char *command_name, const char *text, uint8_t *room,
                          const char **name);

/* outputs.c: can the files be written that these options name, and may what has their names be
 * replaced? Says why not. options_parse asks. */
bool outputs_ok(const char *verb, const GOptionEntry *entries);
extern const GOptionEntry outputs_force; /* --force, of every command */

/* May the file be replaced: it is ours, or holds these very bytes (NULL: not known yet), or --force
 * was given? Says why not. */
bool may_replace(const char *verb, const char *option, const char *file, const void *bytes,
                 size_t size);

/* Writes a text as a whole file, where it may be; says why not. */
bool write_new(const char *verb, const char *option, const char *file, const char *text);

/* target.c: is it a target's name? Says what is wrong with it. */
bool target_name_ok(const char *command_name, const char *on);

/* Opens it, in its board or one chip bare; says what is wrong. End it with target_close in any
 * case, which says what the target's far end said last of an error. */
bool target_open(const char *command_name, const char *on, const rmg_board *board,
                 rmg_opened *target);
bool target_open_bare(const char *command_name, const char *on, const rmg_board *board,
                      uint16_t socket, rmg_opened *target);
void target_close(const char *command_name, rmg_opened *target);

/* last_words.c: the stack, whose upper end `stack` lies near, may have so many bytes: where it is
 * full, the process ends in an orderly way. */
void last_words_begin(const void *stack, size_t stack_bytes);

/* drawing.c: draws in a process of its own; false after saying what went wrong. `draw` gives what
 * the library's rmg_draw_... gives. */
typedef rmg_status (*draw_call)(const void *context, rmg_error *error);
bool draw_apart(draw_call draw, const void *context, const char *file);

/* chart.c: banks by bits, each cell a socket. `state` gives the line under the designator and
 * whether it stands out; NULL prints no such line. */
typedef bool (*chart_state)(const void *context, const rmg_rule *rule, char *text, size_t room);
void print_chart(FILE *to, const rmg_board *board, chart_state state, const void *context);

/* board_ask.c: answers to "board show" with --at, --socket; the exit status. `bit_text` may be
 * NULL. */
int ask_address(const rmg_board *board, const char *text, const char *bit_text);
int ask_socket(const rmg_board *board, const char *name);
int ask_line(const rmg_board *board, const char *name);

/* board_new.c: asks for a board and writes its file. */
typedef struct board_answers {
    gchar *file;       /* of answers; NULL: none */
    gchar **list;      /* "KEY=TEXT", NULL at the end; NULL: none */
    gboolean standard; /* ask nothing */
} board_answers;
int board_new(const char *file, const board_answers *given);

/* board_places.c: the sockets as they lie, from the component or the solder side; and what differs
 * between two boards. */
int print_places(const rmg_board *board, bool solder_side);
void print_differences(const rmg_board *board, const rmg_board *other,
                       const rmg_board_differences *found);

/* suspects.c: what to look at, in two or three lines; and one suspect with all that speaks for it.
 */
void print_heads(FILE *to, const rmg_suspects *suspects);
void print_suspect(FILE *to, const rmg_suspect *suspect, bool several);

/* report.c; words, by rising address, that could not be given back what they held: nothing where
 * there is none. And a run; `headed`: what is to blame was said before it. */
void print_not_put_back(FILE *to, const rmg_board *board, const rmg_saved_word *words,
                        size_t count);
void print_report(FILE *to, const rmg_run *run, const rmg_suspects *suspects, bool headed);

/* progress.c: a status line on a terminal, the first failures, and Ctrl-C (SIGTERM, SIGHUP). */
void progress_start(void);
bool progress_show(const rmg_run_progress *progress); /* false: stop was asked for */
/* The same for work known by its name and the share done. */
bool progress_share(const char *what, double share);
/* The same for lines that are read. */
bool progress_lines(uint64_t lines, uint64_t failures);
void progress_failure(const rmg_board *board, const rmg_failure *failure);
void progress_end(void);
bool progress_stopped(void); /* was a stop asked for? */
/* How long something takes, in words; `text` again. */
char *time_text(double seconds, char *text, size_t room);
/* "0x8000: expected 0x55, read 0x51: D2 (U24), pass 1". To be freed with g_free. */
char *failure_text(const rmg_board *board, const rmg_failure *failure);

#endif
