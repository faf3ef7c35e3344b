/* A board as JSON; the form is described in docs/board-file.md. */
#include <glib.h>
#include <jansson.h>

#include "internal.h"
#include "rimeglass/report.h"

static json_t *range_json(const rmg_board *board, const rmg_range *range)
{
    char text[40];

    return json_string(rmg_board_range_text(board, range, text, sizeof text));
}

static json_t *regions_json(const rmg_board *board)
{
    json_t *array = json_array();

    for (size_t i = 0; i < board->region_count; i++) {
        const rmg_region *r = &board->regions[i];

        rmg_json_append(array, json_pack("{s:s, s:o, s:s, s:s}", "name", r->name, "range",
                                         range_json(board, &r->range), "kind",
                                         rmg_region_kind_name(r->kind), "note", r->note));
    }
    return array;
}

static json_t *banks_json(const rmg_board *board)
{
    json_t *array = json_array();

    for (size_t b = 0; b < board->bank_count; b++) {
        const rmg_range range = {board->bank_wheres[b].first, board->bank_wheres[b].last};
        json_t *places = json_object();

        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *rule = &board->placement.rules[r];
            json_t *bits = json_array();

            for (uint8_t i = 0; i < rule->width; i++)
                rmg_json_append(bits, json_integer(rule->data_bits[i]));
            if (rule->bank == b)
                rmg_json_set(places, board->sockets[rule->socket].name, bits);
            else
                json_decref(bits);
        }
        rmg_json_append(array, json_pack("{s:s, s:s, s:o, s:o}", "name", board->banks[b].name,
                                         "part", board->banks[b].part->number, "range",
                                         range_json(board, &range), "data", places));
    }
    return array;
}

char *rmg_board_json(const rmg_board *board)
{
    json_t *sockets = json_array();
    json_t *root;

    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];

        rmg_json_append(sockets, json_pack("{s:s, s:s, s:o}", "name", s->name, "mount",
                                           rmg_mount_name(s->mount), "part",
                                           s->part ? json_string(s->part->number) : json_null()));
    }
    root = json_pack("{s:i, s:s, s:s, s:s, s:i, s:i, s:s, s:o, s:o, s:o}", "rimeglass_board", 1,
                     "name", board->name, "revision", board->revision, "sha256", board->hash,
                     "word_bits", (int)board->word_bits, "address_lines",
                     board->address_bits + board->byte_shift, "addresses",
                     board->counts_bytes ? "bytes" : "words", "regions", regions_json(board),
                     "banks", banks_json(board), "sockets", sockets);
    return rmg_json_text(root);
}

char *rmg_board_differences_json(const rmg_board *here, const rmg_board *there,
                                 const rmg_board_differences *found)
{
    json_t *list = json_array();

    for (size_t i = 0; i < found->count; i++)
        rmg_json_append(list, json_pack("{s:s, s:s, s:s?, s:s?}", "of",
                                        rmg_board_difference_word(found->list[i].kind), "name",
                                        found->list[i].name, "here", found->list[i].here, "there",
                                        found->list[i].there));
    return rmg_json_text(json_pack("{s:i, s:s, s:s, s:o}", "rimeglass_board_differences", 1, "here",
                                   here->file, "there", there->file, "differences", list));
}
