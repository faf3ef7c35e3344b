/* Inside the room: the questions, and what their answers do. */
#ifndef RMG_HOST_AUTHOR_QUESTIONS_H
#define RMG_HOST_AUTHOR_QUESTIONS_H

#include "draft.h"

/* In the order in which one looks at a board. */
typedef enum asked {
    ASK_BOARD,
    ASK_REVISION,
    ASK_WORD,
    ASK_LINES,
    ASK_ADDRESSES,
    ASK_PAGES,
    ASK_REGION, /* again until "done" */
    ASK_BANK,   /* again, with what follows, until "done" */
    ASK_PART,
    ASK_FACTS, /* of a part that the table does not have */
    ASK_RANGE,
    ASK_FEEDS,
    ASK_SOCKETS,
    ASK_BITS,
    ASK_MOUNT,
    ASK_UNDRIVEN,
    ASK_NOTHING
} asked;

/* The key that answers are filed under. */
const char *rmg_question_key(asked which);

/* Fills the texts, to be freed with g_free; *standard NULL: there is none. */
void rmg_question_texts(asked which, const draft *d, gchar **text, const char **help,
                        gchar **standard);

/* Takes the answer into the draft, which is to be thrown away where it is wrong, and sets *next. */
rmg_status rmg_question_take(asked which, draft *d, const char *text, asked *next,
                             rmg_error *error);

/* memory.c: answers about what is where, and which lines reach the chips. */
rmg_status rmg_take_region(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_range(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_feeds(draft *d, const char *text, asked *next, rmg_error *error);
gchar *rmg_standard_range(const draft *d);
gchar *rmg_standard_feeds(const draft *d);

/* chips.c: answers about parts and sockets. */
rmg_status rmg_take_part(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_facts(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_sockets(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_bits(draft *d, const char *text, asked *next, rmg_error *error);
rmg_status rmg_take_mount(draft *d, const char *text, asked *next, rmg_error *error);

#endif
