/* Question and answer: the draft of a board is always what its answers make of it, from the first
 * on; so any of them can be taken back or corrected. */
#include <string.h>

#include "questions.h"

typedef struct answer {
    gchar *key, *text;
} answer;

struct rmg_author {
    GArray *answers; /* of answer */
    draft *draft;
    asked now;
    gchar *text, *standard; /* of the question */
    rmg_question question;
    bool bank_ended;
};

static void free_answer(gpointer data)
{
    answer *a = data;

    g_free(a->key);
    g_free(a->text);
}

/* Puts the question into words. */
static void ask(rmg_author *a)
{
    const char *help = NULL;

    g_free(a->text);
    g_free(a->standard);
    a->text = a->standard = NULL;
    if (a->now == ASK_NOTHING)
        return;
    rmg_question_texts(a->now, a->draft, &a->text, &help, &a->standard);
    a->question = (rmg_question){rmg_question_key(a->now), a->text, help, a->standard};
}

/* The draft of the first `count` answers, which were right before; false: answer *wrong is not. */
static bool replay(const rmg_author *a, guint count, draft **made, asked *now, guint *wrong,
                   rmg_error *error)
{
    draft *d = rmg_draft_new();

    *now = ASK_BOARD;
    for (guint i = 0; i < count; i++) {
        const answer *one = &g_array_index(a->answers, answer, i);
        asked next = *now;

        if (*now == ASK_NOTHING || strcmp(one->key, rmg_question_key(*now)) != 0 ||
            rmg_question_take(*now, d, one->text, &next, error) != RMG_OK) {
            rmg_fail(error, RMG_ERR_CONTENT, NULL, "found an answer to \"%s\"", one->key);
            rmg_draft_free(d);
            *wrong = i;
            return false;
        }
        *now = next;
    }
    *made = d;
    return true;
}

static void settle(rmg_author *a, draft *made, asked now)
{
    rmg_draft_free(a->draft);
    a->draft = made;
    a->now = now;
    ask(a);
}

rmg_author *rmg_author_new(void)
{
    rmg_author *a = g_new0(rmg_author, 1);

    a->answers = g_array_new(FALSE, TRUE, sizeof(answer));
    g_array_set_clear_func(a->answers, free_answer);
    a->draft = rmg_draft_new();
    ask(a);
    return a;
}

void rmg_author_free(rmg_author *a)
{
    if (!a)
        return;
    g_array_free(a->answers, TRUE);
    rmg_draft_free(a->draft);
    g_free(a->text);
    g_free(a->standard);
    g_free(a);
}

const rmg_question *rmg_author_question(const rmg_author *a)
{
    return a->now == ASK_NOTHING ? NULL : &a->question;
}

/* The text as it is taken: without blanks at its ends, several within it as one. */
static gchar *tidy(const char *text)
{
    GString *out = g_string_new(NULL);

    for (; *text; text++)
        if (!g_ascii_isspace(*text))
            g_string_append_c(out, *text);
        else if (out->len && out->str[out->len - 1u] != ' ')
            g_string_append_c(out, ' ');
    g_strchomp(out->str);
    return g_string_free(out, FALSE);
}

/* Text that can be kept and read again: UTF-8, nothing but characters. */
static bool is_plain(const char *text)
{
    bool plain = g_utf8_validate(text, -1, NULL);

    for (const char *c = text; *c; c++)
        plain &= (unsigned char)*c >= 0x20 && *c != 0x7F;
    return plain;
}

rmg_status rmg_author_answer(rmg_author *a, const char *text, rmg_error *error)
{
    const asked before = a->now;
    answer one;
    draft *made;
    asked now;
    guint wrong;

    rmg_error_none(error);
    if (a->now == ASK_NOTHING)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "all is answered");
    one.text = tidy(text);
    if (!*one.text && a->standard) {
        g_free(one.text);
        one.text = g_strdup(a->standard);
    }
    if (!*one.text || !is_plain(one.text)) {
        rmg_fail(error, RMG_ERR_CONTENT, NULL,
                 *one.text ? "the answer has characters in it that are no text"
                           : "there must be an answer: %s",
                 a->question.help);
        g_free(one.text);
        return RMG_ERR_CONTENT;
    }
    one.key = g_strdup(rmg_question_key(a->now));
    g_array_append_val(a->answers, one);
    if (!replay(a, a->answers->len, &made, &now, &wrong, error)) {
        g_array_set_size(a->answers, a->answers->len - 1u);
        return RMG_ERR_CONTENT;
    }
    settle(a, made, now);
    a->bank_ended = before == ASK_MOUNT;
    return RMG_OK;
}

rmg_status rmg_author_answer_key(rmg_author *a, const char *key, const char *text, rmg_error *error)
{
    rmg_error_none(error);
    while (a->now != ASK_NOTHING && strcmp(a->question.key, key) != 0)
        if (!a->standard)
            return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                            "found an answer to \"%s\", expected one to \"%s\": %s", key,
                            a->question.key, a->question.text);
        else if (rmg_author_answer(a, "", error) != RMG_OK)
            return RMG_ERR_CONTENT;
    if (a->now == ASK_NOTHING)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "found an answer to \"%s\", but nothing more is asked", key);
    return rmg_author_answer(a, text, error);
}

size_t rmg_author_count(const rmg_author *a)
{
    return a->answers->len;
}

const char *rmg_author_key(const rmg_author *a, size_t index)
{
    return g_array_index(a->answers, answer, index).key;
}

const char *rmg_author_text(const rmg_author *a, size_t index)
{
    return g_array_index(a->answers, answer, index).text;
}

/* As far as the answers go: those from the first wrong one on are dropped. */
static void keep_right(rmg_author *a)
{
    rmg_error error = {0};
    draft *made;
    asked now;
    guint wrong = a->answers->len;

    while (!replay(a, wrong, &made, &now, &wrong, &error)) {
        rmg_error_free(&error);
        rmg_error_none(&error);
    }
    g_array_set_size(a->answers, wrong);
    settle(a, made, now);
    a->bank_ended = false;
}

bool rmg_author_back(rmg_author *a)
{
    if (!a->answers->len)
        return false;
    g_array_set_size(a->answers, a->answers->len - 1u);
    keep_right(a);
    return true;
}

rmg_status rmg_author_correct(rmg_author *a, size_t index, const char *text, rmg_error *error)
{
    answer *one;
    gchar *before;
    draft *made;
    asked now;
    guint wrong;

    rmg_error_none(error);
    if (index >= a->answers->len)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL, "there are %u answers so far",
                        a->answers->len);
    one = &g_array_index(a->answers, answer, index);
    before = one->text;
    one->text = tidy(text);
    if (!*one->text || !is_plain(one->text) ||
        !replay(a, (guint)index + 1u, &made, &now, &wrong, error)) {
        rmg_fail(error, RMG_ERR_CONTENT, NULL, "expected the new answer to \"%s\"", one->key);
        g_free(one->text);
        one->text = before;
        return RMG_ERR_CONTENT;
    }
    rmg_draft_free(made);
    g_free(before);
    keep_right(a);
    return RMG_OK;
}

bool rmg_author_bank_ended(const rmg_author *a)
{
    return a->bank_ended;
}

rmg_board *rmg_author_board(const rmg_author *a)
{
    const draft_bank *last = rmg_draft_last_bank(a->draft);
    rmg_board *board = NULL;
    rmg_error error = {0};

    if (last && last->bits->len)
        rmg_draft_check(a->draft, a->now == ASK_NOTHING, &board, &error);
    rmg_error_free(&error);
    return board;
}

char *rmg_author_file(const rmg_author *a)
{
    return rmg_draft_text(a->draft, true);
}

char *rmg_author_answers(const rmg_author *a)
{
    GString *out = g_string_new("# Answers to \"rimeglass board new\", in their order.\n");

    for (guint i = 0; i < a->answers->len; i++) {
        const answer *one = &g_array_index(a->answers, answer, i);

        g_string_append_printf(out, "- %s: \"", one->key);
        for (const char *c = one->text; *c; c++)
            g_string_append_printf(out, "%s%c", *c == '"' || *c == '\\' ? "\\" : "", *c);
        g_string_append(out, "\"\n");
    }
    return g_string_free(out, FALSE);
}

rmg_status rmg_author_load(rmg_author *a, const char *file, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file yaml;
    rmg_status status = rmg_yaml_open(&yaml, file, notes);
    ynode *item, *key, *value;

    if (status == RMG_OK && rmg_yaml_root(&yaml)->type != YAML_SEQUENCE_NODE) {
        rmg_yaml_wrong(&yaml, rmg_yaml_root(&yaml), NULL,
                       "expected a list of answers, like \"- word: 8\"");
        status = RMG_ERR_CONTENT;
    }
    for (size_t i = 0;
         status == RMG_OK && (item = rmg_yaml_item(&yaml, rmg_yaml_root(&yaml), i)) != NULL; i++) {
        rmg_error error = {0};

        if (!rmg_yaml_pair(&yaml, item, 0, &key, &value) || value->type != YAML_SCALAR_NODE) {
            rmg_yaml_wrong(&yaml, item, NULL, "expected one answer, like \"- word: 8\"");
            status = RMG_ERR_CONTENT;
        } else if (rmg_author_answer_key(a, rmg_yaml_text(key), rmg_yaml_text(value), &error) !=
                   RMG_OK) {
            rmg_yaml_wrong(&yaml, item, rmg_yaml_text(key), "%s", error.what);
            status = RMG_ERR_CONTENT;
        }
        rmg_error_free(&error);
    }
    rmg_yaml_close(&yaml);
    rmg_errors_take(notes, errors);
    return status;
}
