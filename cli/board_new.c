/* rimeglass board new: a board file by question and answer. */
#include <errno.h>
#include <signal.h>
#include <string.h>
#include <sys/select.h>
#include <unistd.h>

#include "cli.h"
#include "rimeglass/author.h"
#include "rimeglass/file.h"

typedef struct asking {
    rmg_author *author;
    const char *file;
    gchar *kept; /* file of the answers so far */
} asking;

static volatile sig_atomic_t interrupted;

static void interrupt(int signal_number)
{
    (void)signal_number;
    interrupted = 1;
}

/* Keeps the answers; they are what is not to be lost. */
static void keep(const asking *a)
{
    char *text = rmg_author_answers(a->author);
    rmg_error error = {0};

    if (rmg_file_write(a->kept, text, strlen(text), &error) != RMG_OK)
        fprintf(stderr, "rimeglass board: the answers are not kept: %s\n", error.what);
    rmg_error_free(&error);
    rmg_text_free(text);
}

static void say(rmg_error *error)
{
    print_wrapped(stderr, "  ", 2, error->what);
    rmg_error_free(error);
}

/* After each bank: the chart as it is understood. */
static void show_bank(const asking *a)
{
    rmg_board *board = rmg_author_board(a->author);

    if (board) {
        printf("\nAs understood (back, if it is not so):\n");
        print_chart(stdout, board, NULL, NULL);
        printf("\n");
    }
    rmg_board_free(board);
}

static void list_answers(const asking *a)
{
    for (size_t i = 0; i < rmg_author_count(a->author); i++)
        printf("  %3zu  %-14s %s\n", i + 1u, rmg_author_key(a->author, i),
               rmg_author_text(a->author, i));
}

/* "correct 4 16" */
static void correct(const asking *a, const char *text)
{
    const size_t before = rmg_author_count(a->author);
    gchar **words = g_strsplit(text, " ", 3);
    rmg_error error = {0};
    uint64_t number = 0;

    if (g_strv_length(words) < 3 || !rmg_number_parse(words[1], &number) || !number) {
        fprintf(stderr, "  expected the number of an answer (list shows them) and its new text, "
                        "like correct 4 16\n");
    } else if (rmg_author_correct(a->author, (size_t)number - 1u, words[2], &error) != RMG_OK) {
        say(&error);
    } else if (rmg_author_count(a->author) < before) {
        printf("  Answers from %zu on do not go with it and are asked anew.\n",
               rmg_author_count(a->author) + 1u);
    }
    g_strfreev(words);
}

/* A word that is no answer; false: it is one. */
static bool is_command(const asking *a, const char *text)
{
    if (strcmp(text, "back") == 0) {
        if (!rmg_author_back(a->author))
            printf("  There is no answer to take back.\n");
    } else if (strcmp(text, "?") == 0) {
        print_wrapped(stdout, "  ", 2, rmg_author_question(a->author)->help);
    } else if (strcmp(text, "list") == 0) {
        list_answers(a);
    } else if (g_str_has_prefix(text, "correct ") || strcmp(text, "correct") == 0) {
        correct(a, text);
    } else {
        return false;
    }
    keep(a);
    return true;
}

/* One byte of standard input; false: there is none, or Ctrl-C, which is let in while it waits
 * alone. */
static bool read_byte(char *byte)
{
    fd_set input;
    sigset_t none;
    int ready = -1;

    sigemptyset(&none);
    while (!interrupted && ready < 0) {
        FD_ZERO(&input);
        FD_SET(STDIN_FILENO, &input);
        ready = pselect(STDIN_FILENO + 1, &input, NULL, NULL, NULL, &none);
        if (ready < 0 && errno != EINTR)
            return false;
    }
    return !interrupted && read(STDIN_FILENO, byte, 1) == 1;
}

/* One line, without its end; NULL: there is none, or Ctrl-C. */
static gchar *read_line(void)
{
    GString *line = g_string_new(NULL);
    char byte = 0;

    fflush(stdout);
    while (byte != '\n' && read_byte(&byte))
        g_string_append_c(line, byte);
    if (interrupted || !line->len) {
        g_string_free(line, TRUE);
        return NULL;
    }
    g_strstrip(line->str);
    return g_string_free(line, FALSE);
}

static void print_question(const asking *a)
{
    const rmg_question *q = rmg_author_question(a->author);

    printf("%s%s%s%s ", q->text, q->standard ? " [" : "", q->standard ? q->standard : "",
           q->standard ? "]" : "");
}

/* Asks until all is answered; false: it was left. */
static bool ask_all(asking *a)
{
    const struct sigaction action = {.sa_handler = interrupt};
    sigset_t ctrl_c;
    const size_t before = rmg_author_count(a->author);

    sigemptyset(&ctrl_c);
    sigaddset(&ctrl_c, SIGINT);
    sigprocmask(SIG_BLOCK, &ctrl_c, NULL);
    sigaction(SIGINT, &action, NULL);
    if (before && rmg_author_question(a->author))
        printf("Going on after %zu answer%s.\n", before, before == 1 ? "" : "s");
    if (rmg_author_question(a->author))
        printf("back takes an answer back, ? explains, list shows all, leave ends it for now.\n\n");
    while (rmg_author_question(a->author)) {
        rmg_error error = {0};
        gchar *text;

        print_question(a);
        text = read_line();
        if (!text || strcmp(text, "leave") == 0) {
            g_free(text);
            return false;
        }
        if (!isatty(STDIN_FILENO))
            printf("%s\n", text);
        if (!is_command(a, text)) {
            if (rmg_author_answer(a->author, text, &error) != RMG_OK)
                say(&error);
            else if (rmg_author_bank_ended(a->author))
                show_bank(a);
            keep(a);
        }
        g_free(text);
    }
    return true;
}

/* Answers of the file, then those of the call. */
static bool take_given(asking *a, const board_answers *given)
{
    rmg_errors errors = {0};

    if (given->file && rmg_author_load(a->author, given->file, &errors) != RMG_OK) {
        print_errors(&errors);
        return false;
    }
    for (size_t i = 0; given->list && given->list[i]; i++) {
        gchar **sides = g_strsplit(given->list[i], "=", 2);
        rmg_error error = {0};
        bool ok = sides[0] && sides[1];

        if (!ok)
            wrong_call("board", "--answer: found \"%s\", expected KEY=TEXT, like word=8",
                       given->list[i]);
        else if (rmg_author_answer_key(a->author, sides[0], sides[1], &error) != RMG_OK) {
            wrong_call("board", "--answer %s: %s", sides[0], error.what);
            ok = false;
        }
        rmg_error_free(&error);
        g_strfreev(sides);
        if (!ok)
            return false;
    }
    return true;
}

/* All that is left is as proposed. */
static bool take_standard(asking *a)
{
    const rmg_question *q;

    while ((q = rmg_author_question(a->author)) != NULL) {
        rmg_error error = {0};

        if (!q->standard) {
            wrong_call("board", "nothing stands for the answer to \"%s\": %s", q->key, q->text);
            return false;
        }
        if (rmg_author_answer(a->author, "", &error) != RMG_OK) {
            wrong_call("board", "%s: %s", q->key, error.what);
            rmg_error_free(&error);
            return false;
        }
    }
    return true;
}

static int write_board(const asking *a)
{
    char *text = rmg_author_file(a->author);
    rmg_error error = {0};
    rmg_board *board;
    char **hints;

    if (rmg_file_write(a->file, text, strlen(text), &error) != RMG_OK) {
        wrong_call("board", "%s", error.what);
        rmg_error_free(&error);
        rmg_text_free(text);
        return EXIT_CALL;
    }
    rmg_text_free(text);
    if (rmg_file_remove(a->kept, &error) != RMG_OK)
        fprintf(stderr, "rimeglass board: %s\n", error.what);
    rmg_error_free(&error);
    board = load_board(a->file);
    if (!board)
        return EXIT_CALL;
    hints = rmg_board_hints(board);
    printf("\n%s is written: %zu region%s, %zu bank%s, %zu socket%s.\n", a->file,
           board->region_count, board->region_count == 1 ? "" : "s", board->bank_count,
           board->bank_count == 1 ? "" : "s", board->socket_count,
           board->socket_count == 1 ? "" : "s");
    print_chart(stdout, board, NULL, NULL);
    for (size_t i = 0; hints[i]; i++)
        print_wrapped(stdout, "  - ", 4, hints[i]);
    printf("Next: rimeglass board show %s --places\n", a->file);
    rmg_texts_free(hints);
    rmg_board_free(board);
    return EXIT_PASS;
}

int board_new(const char *file, const board_answers *given)
{
    asking a = {rmg_author_new(), file, g_strconcat(file, ".answers", NULL)};
    rmg_errors errors = {0};
    int status = EXIT_CALL;

    if (g_file_test(file, G_FILE_TEST_EXISTS)) {
        wrong_call("board", "%s exists; expected the name of a file that is to be written", file);
    } else if (g_file_test(a.kept, G_FILE_TEST_EXISTS) &&
               rmg_author_load(a.author, a.kept, &errors) != RMG_OK) {
        print_errors(&errors);
        fprintf(stderr, "rimeglass board: mend that line, or remove the file to begin anew\n");
    } else if (take_given(&a, given) && (!given->standard || take_standard(&a))) {
        if (ask_all(&a)) {
            status = write_board(&a);
        } else {
            printf("\nLeft after %zu answers, which %s keeps; the same call goes on.\n",
                   rmg_author_count(a.author), a.kept);
            keep(&a);
            status = EXIT_INCOMPLETE;
        }
    }
    rmg_author_free(a.author);
    g_free(a.kept);
    return status;
}
