/* A spot check as JSON; its form: docs/spot-check.md. */
#include "internal.h"

static json_t *hex(uint64_t value)
{
    char text[24];

    g_snprintf(text, sizeof text, "0x%" G_GINT64_MODIFIER "X", (guint64)value);
    return json_string(text);
}

static json_t *bit_json(const rmg_probe *probe, const rmg_probe_bit *b)
{
    const rmg_board *board = probe->board;
    char at[40];

    return json_pack(
        "{s:s, s:i, s:s, s:o, s:o}", "address",
        rmg_board_address_text(board, b->address, at, sizeof at), "bit", (int)b->bit, "verdict",
        rmg_bit_verdict_text(b->verdict), "socket",
        b->placed ? json_string(board->sockets[b->place.socket].name) : json_null(), "bank",
        b->placed && b->place.bank != RMG_NO_BANK ? json_string(board->banks[b->place.bank].name)
                                                  : json_null());
}

char *rmg_probe_json(const rmg_probe *probe)
{
    char **texts = rmg_probe_advice(probe);
    json_t *pairs = json_array(), *bits = json_array(), *advice = json_array();
    json_t *left = json_array(), *root;
    char at[40];

    for (size_t i = 0; i < probe->pair_count; i++) {
        const rmg_pair *p = &probe->pairs[i];

        rmg_json_append(pairs,
                        json_pack("{s:s, s:o, s:o}", "address",
                                  rmg_board_address_text(probe->board, p->address, at, sizeof at),
                                  "wrote", hex(p->wrote), "read", hex(p->read)));
    }
    for (size_t i = 0; i < probe->bit_count; i++)
        rmg_json_append(bits, bit_json(probe, &probe->bits[i]));
    for (size_t i = 0; texts[i]; i++)
        rmg_json_append(advice, json_string(texts[i]));
    rmg_texts_free(texts);
    for (size_t i = 0; i < probe->not_put_back_count; i++) {
        const rmg_saved_word *w = &probe->not_restored[i];

        rmg_json_append(left,
                        json_pack("{s:s, s:o}", "address",
                                  rmg_board_address_text(probe->board, w->address, at, sizeof at),
                                  "value", hex(w->value)));
    }
    root = json_pack("{s:i, s:s, s:b, s:s, s:o, s:o, s:o, s:o}", "rimeglass_probe", 1, "board",
                     probe->board->name, "complete", (int)(probe->status == RMG_OK), "verdict",
                     probe->wrong ? "fail" : "pass", "advice", advice, "pairs", pairs, "bits", bits,
                     "not_restored", left);
    return rmg_json_text(root);
}
