/* A board file made by question and answer: each answer is checked at once, taken back, corrected,
 * kept and gone on with. */
#ifndef RIMEGLASS_AUTHOR_H
#define RIMEGLASS_AUTHOR_H

#include "board.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What is known so far. One thread at a time. */
typedef struct rmg_author rmg_author;

/* To be freed with rmg_author_free. */
rmg_author *rmg_author_new(void);
void rmg_author_free(rmg_author *author);

/* What is asked now. Its texts belong to the author, and hold until the next answer. */
typedef struct rmg_question {
    const char *key;      /* what answers are filed under: "word", "region", "sockets" ... */
    const char *text;     /* "How many data bits has the bus?" */
    const char *help;     /* how it is answered, with an example */
    const char *standard; /* what an empty answer stands for; NULL: there must be one */
} rmg_question;

/* NULL: all is answered. */
const rmg_question *rmg_author_question(const rmg_author *author);

/* Takes an answer to the question. RMG_ERR_CONTENT: *error, to be freed with rmg_error_free, says
 * what is wrong with it and what was expected; nothing is changed. RMG_ERR_ARGUMENT: all is
 * answered.
 */
rmg_status rmg_author_answer(rmg_author *author, const char *text, rmg_error *error);

/* The same for an answer by its key: questions before it that have a standard answer are answered
 * by that. RMG_ERR_CONTENT too: the question asked is another one. */
rmg_status rmg_author_answer_key(rmg_author *author, const char *key, const char *text,
                                 rmg_error *error);

/* The answers, in their order. */
size_t rmg_author_count(const rmg_author *author);
const char *rmg_author_key(const rmg_author *author, size_t index);
const char *rmg_author_text(const rmg_author *author, size_t index);

/* Takes back the last answer; false: there is none. */
bool rmg_author_back(rmg_author *author);

/* Another text for answer `index`. Later answers stay as far as they go with it; those that do not
 * are asked anew: rmg_author_count says how many are left. Errors as of rmg_author_answer. */
rmg_status rmg_author_correct(rmg_author *author, size_t index, const char *text, rmg_error *error);

/* Was the last answer the last one of a bank? */
bool rmg_author_bank_ended(const rmg_author *author);

/* The board as understood so far, for a chart: NULL where no bank is known. To be freed with
 * rmg_board_free. */
rmg_board *rmg_author_board(const rmg_author *author);

/* The board file, with remarks, once all is answered; before that as far as it goes. To be freed
 * with rmg_text_free. */
char *rmg_author_file(const rmg_author *author);

/* The answers as a text to go on with: YAML, "- key: answer" line by line. To be freed with
 * rmg_text_free. And its way back, after the answers there are. RMG_ERR_CONTENT, RMG_ERR_FILE: all
 * that is wrong is in *errors; answers before it are taken. */
char *rmg_author_answers(const rmg_author *author);
rmg_status rmg_author_load(rmg_author *author, const char *file, rmg_errors *errors);

#ifdef __cplusplus
}
#endif
#endif
