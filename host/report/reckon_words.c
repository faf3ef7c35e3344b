/* What the number that a board shows of its memory means: in sentences, and as JSON. */
#include <glib.h>
#include <jansson.h>

#include "board/internal.h"
#include "internal.h"
#include "rimeglass/report.h"

/* "the upper bank", "the lower bank and the upper bank". */
static gchar *banks_text(const rmg_board *board, uint64_t banks)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);

    for (size_t b = 0; b < board->bank_count; b++)
        if (banks >> b & 1u) {
            const rmg_range range = {board->bank_wheres[b].first, board->bank_wheres[b].last};
            char text[40];

            g_ptr_array_add(
                names, g_strdup_printf("%s (%s)", board->banks[b].called,
                                       rmg_board_range_text(board, &range, text, sizeof text)));
        }
    return rmg_join(names);
}

static gchar *cause_text(const rmg_reckoning *r, const rmg_reckon *cause)
{
    gchar *banks = banks_text(r->board, cause->banks);
    const bool several = (cause->banks & (cause->banks - 1u)) != 0;
    char at[40];
    gchar *text = NULL;

    switch (cause->kind) {
    case RMG_RECKON_SILENT:
        text = g_strdup_printf(
            "%s %s not counted%s: %s not answer (select, strobe, supply or a chip), or the count "
            "ended at the first wrong word there.",
            banks, several ? "are" : "is",
            cause->told ? ", as the board file says of this number" : "",
            several ? "these banks do" : "the bank does");
        break;
    case RMG_RECKON_SIZED:
        text = g_strdup_printf(
            "The board measured its memory anew and found %s of %s: an address line without effect "
            "there, or a wrong bit where it looks for the size, makes it take the chips for "
            "smaller ones.",
            cause->part == 2 ? "half" : "a quarter", banks);
        break;
    case RMG_RECKON_STOPPED:
        text = g_strdup_printf("The count ended within %s, near %s, if it goes up from the lowest "
                               "address: a wrong word there, not a silent bank.",
                               banks, rmg_board_address_text(r->board, cause->at, at, sizeof at));
        break;
    }
    if (text && g_ascii_islower(*text))
        *text = g_ascii_toupper(*text);
    g_free(banks);
    return text;
}

char **rmg_reckoning_advice(const rmg_reckoning *r)
{
    GPtrArray *lines = g_ptr_array_new();
    GString *first = g_string_new(NULL);
    char at[40];

    g_string_printf(
        first, "The board shows %" G_GUINT64_FORMAT "; healthy it shows %" G_GUINT64_FORMAT "%s",
        r->number, r->healthy, r->healthy_told ? "" : ", if it counts all RAM of its banks");
    if (r->number == r->healthy)
        g_string_append(first, ": nothing is missing. Memory may still be bad: it was counted, not "
                               "tested.");
    else if (r->number > r->healthy)
        g_string_append(first, ": more than there is. Memory that repeats itself was counted twice "
                               "(an address line or select without effect), or this is another "
                               "revision.");
    else
        g_string_append_printf(first, ": %" G_GUINT64_FORMAT " are missing%s.",
                               r->healthy - r->number, r->half ? ", half of the memory" : "");
    g_ptr_array_add(lines, g_string_free(first, FALSE));
    for (size_t i = 0; i < r->count; i++)
        g_ptr_array_add(lines, cause_text(r, &r->list[i]));
    if (r->number < r->healthy && !r->count)
        g_ptr_array_add(lines, g_strdup("No banks of this board make up that number. Is it of this "
                                        "board and revision, and in the units of \"reports\"?"));
    if (r->try_count) {
        GString *tries = g_string_new("Try first, in this order:");

        for (size_t i = 0; i < r->try_count; i++)
            g_string_append_printf(tries, "%s %s", i ? "," : "",
                                   rmg_board_address_text(r->board, r->tries[i], at, sizeof at));
        g_string_append_c(tries, '.');
        g_ptr_array_add(lines, g_string_free(tries, FALSE));
    }
    g_ptr_array_add(lines, NULL);
    return (char **)g_ptr_array_free(lines, FALSE);
}

char *rmg_reckoning_json(const rmg_reckoning *r)
{
    static const char *const kinds[] = {"silent", "sized anew", "stopped"};
    json_t *causes = json_array(), *tries = json_array();
    char at[40];

    for (size_t i = 0; i < r->count; i++) {
        json_t *banks = json_array();
        gchar *text = cause_text(r, &r->list[i]);

        for (size_t b = 0; b < r->board->bank_count; b++)
            if (r->list[i].banks >> b & 1u)
                rmg_json_append(banks, json_string(r->board->banks[b].name));
        rmg_json_append(causes,
                        json_pack("{s:s, s:o, s:b, s:s}", "kind", kinds[r->list[i].kind], "banks",
                                  banks, "told", (int)r->list[i].told, "text", text));
        g_free(text);
    }
    for (size_t i = 0; i < r->try_count; i++)
        rmg_json_append(tries,
                        json_string(rmg_board_address_text(r->board, r->tries[i], at, sizeof at)));
    return rmg_json_text(json_pack("{s:i, s:s, s:I, s:I, s:b, s:o, s:o}", "rimeglass_reckoning", 1,
                                   "board", r->board->name, "number", (json_int_t)r->number,
                                   "healthy", (json_int_t)r->healthy, "half", (int)r->half,
                                   "causes", causes, "try_first", tries));
}
