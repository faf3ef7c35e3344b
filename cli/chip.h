/* Between the files of the command "chip". */
#ifndef RMG_CLI_CHIP_H
#define RMG_CLI_CHIP_H

#include <glib.h>
#include <stdbool.h>
#include <stdio.h>

#include "rimeglass/grade.h"

typedef struct chip_call {
    gchar *on, *label, *lot, *stock, *march, *json, *part, *job, *shmoo, *of, *picture, *need;
    gboolean queue, unchecked, grade;
    gint passes, best;
} chip_call;

/* grades.c: grades of a board's chips from run files; the exit status. And a chart as text. */
int grades_show(const chip_call *call, char *const *files, size_t count);
void print_grade_chart(FILE *to, const rmg_grade_chart *chart);

/* stock.c: adds a line to a stock file, after saying what is wrong with it: false. */
bool stock_add(const char *file, const char *line);

/* Lists a stock file, or of it call->part (NULL: all); call->best: so many good ones, or NOT_GIVEN;
 * call->need: held against a socket of a board. The exit status. */
int stock_show(const chip_call *call, const char *file);

/* need.c: what a socket of a board asks of a chip, "BOARD,SOCKET". false: said what is wrong. */
typedef struct socket_need {
    char *name;          /* of board and socket, to be freed with g_free */
    unsigned within_ns;  /* 0: not stated */
    unsigned refresh_ms; /* in which the board refreshes all rows; 0: not stated */
    bool dram;           /* that sits there */
} socket_need;
bool need_read(const char *text, socket_need *need);

/* What a graded chip has to spare there, a sentence; to be freed with g_free. `serves`: it does, as
 * far as is known. */
gchar *need_text(const socket_need *need, unsigned data_ns, int holds_ms, bool *serves);

#endif
