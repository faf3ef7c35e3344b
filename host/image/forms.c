/* The table of forms, and their words. */
#include <string.h>

#include "forms.h"

#define ROW(name, word, endings) [RMG_IMAGE_##name] = &rmg_image_form_##word,
const rmg_image_form_row *const rmg_image_form_rows[] = {RMG_IMAGE_FORM_TABLE(ROW)};
#undef ROW
_Static_assert(G_N_ELEMENTS(rmg_image_form_rows) == RMG_IMAGE_FORMS, "each form has its row");

#define WORD(name, word, endings) {#word, endings},
static const struct {
    const char *word, *endings;
} words[] = {RMG_IMAGE_FORM_TABLE(WORD)};
#undef WORD

const char *rmg_image_form_word(rmg_image_form form)
{
    return form < RMG_IMAGE_FORMS ? words[form].word : "";
}

bool rmg_image_form_parse(const char *word, rmg_image_form *form)
{
    for (unsigned i = 0; i < RMG_IMAGE_FORMS; i++)
        if (strcmp(words[i].word, word) == 0) {
            *form = (rmg_image_form)i;
            return true;
        }
    return false;
}

rmg_image_form rmg_image_form_by_name(const char *file)
{
    const char *ending = strrchr(file, '.');

    for (unsigned i = 0; ending && i < RMG_IMAGE_FORMS; i++) {
        gchar **list = g_strsplit(words[i].endings, " ", -1);
        const bool found = g_strv_contains((const gchar *const *)list, ending);

        g_strfreev(list);
        if (found)
            return (rmg_image_form)i;
    }
    return RMG_IMAGE_RAW;
}
