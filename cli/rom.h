/* What the commands that read chips share: the chip on its target, and how readings are reported.
 */
#ifndef RMG_CLI_ROM_H
#define RMG_CLI_ROM_H

#include "cli.h"
#include "rimeglass/report.h"

/* A chip or region on an open target. */
typedef struct rom_bench {
    const char *verb; /* who opened it */
    rmg_board *board;
    rmg_board *adapter; /* of a chip that another instrument read bare; else NULL */
    rmg_opened target;  /* all zero where there is none */
    rmg_rom rom;
    gint64 started;
} rom_bench;

/* In place of a target's name: another instrument read it. */
extern const char rom_elsewhere[];

/* rom.c: where a part stands in the place of board file and socket (a chip in a pod, from no board
 * in particular), adds the socket that it then has. */
void rom_take_part(GPtrArray *args, bool bare, const char *on);

/* Opens what `what` names of a board file; `bare`: on its own pins. `on` is rom_elsewhere: there is
 * nothing to open, another instrument read it. Says what is wrong. End
 * in any case. */
bool rom_open(const char *verb, const char *board_file, const char *what, const char *on, bool bare,
              rom_bench *bench);
void rom_close(rom_bench *bench);

/* The bench a context points to: seconds since it was opened, by the target's clock if it has one.
 */
double rom_seconds(void *context);

/* Is the number of readings in order? Says what is not. */
bool readings_ok(const char *verb, int readings);

/* rom_print.c */
void print_rom_head(FILE *to, const rom_bench *bench, const rmg_reading *reading);
void print_quality(FILE *to, const rmg_verify *verify);
void print_comparison(FILE *to, const rmg_verify *verify, const char *image,
                      const char *const *other_names);
void print_sums(FILE *to, const void *bytes, size_t size);
void print_rom_suspects(FILE *to, const rmg_suspects *suspects);

/* image_compare.c: a comparison of images too large to be explained. */
void print_counted(FILE *to, rmg_verify *verify, const char *other);

/* watch_rom.c: dump --watch. */
typedef struct watch_call {
    FILE *to; /* readable text */
    const char *json;
    double seconds; /* 0: no limit */
    double pause;   /* seconds between passes */
    int passes;     /* 0: no limit */
    bool until_change;
    bool type_heat;
    bool live;
    const struct view_call *view; /* what to show at the end */
} watch_call;
int watch_rom(const watch_call *call, rom_bench *bench, const char *on);

/* A catalogue's images that are as long as the chip, and what they are called; the arrays end with
 * `count`. Free with rom_others_free. */
typedef struct rom_others {
    rmg_words *words;
    char **names;
    size_t count;
} rom_others;
bool rom_others_load(const char *catalogue_file, const rmg_rom *rom, rom_others *others);
void rom_others_free(rom_others *others);

#endif
