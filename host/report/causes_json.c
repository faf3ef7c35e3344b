/* Causes, and what to do next, as JSON. */
#include "internal.h"

json_t *rmg_causes_json(const rmg_board *board, const rmg_suspects *suspects,
                        const rmg_changes *changes, const rmg_hypothesis *list, size_t count)
{
    json_t *causes = json_array();

    for (size_t i = 0; i < count; i++) {
        char *name = rmg_hypothesis_text(board, suspects, changes, &list[i]);

        rmg_json_append(causes, json_pack("{s:s, s:s, s:f, s:i, s:f}", "cause", name, "belongs_to",
                                          rmg_belongs_name(list[i].belongs), "share", list[i].after,
                                          "fault", (int)list[i].fault + 1, "gone", list[i].gone));
        rmg_text_free(name);
    }
    return causes;
}

json_t *rmg_advice_json(const rmg_board *board, const rmg_advice *advice, size_t count,
                        char *(*words)(const rmg_board *, const rmg_advice *))
{
    json_t *next = json_array();

    for (size_t i = 0; i < count; i++) {
        char *text = words(board, &advice[i]);
        char *change = rmg_change_text(board, &advice[i].change);

        rmg_json_append(next, json_pack("{s:s, s:s, s:f, s:b}", "change", change, "advice", text,
                                        "minutes", advice[i].cost.minutes, "settles",
                                        (int)advice[i].settles));
        rmg_text_free(text);
        rmg_text_free(change);
    }
    return next;
}
