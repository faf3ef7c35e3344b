/* A dump, a verification or a watch as JSON; the form is described in docs/rom.schema.json. */
#include <glib.h>
#include <string.h>

#include "internal.h"
#include "rimeglass/report.h"

static const char *const states[] = {"steady", "unsteady", "nothing drives",
                                     "ones",   "zeros",    "not read"};
static const char *const drives[] = {"written", "read", "none"};
static const char *const conditions[] = {"clock_hz", "supply_mv", "temperature_millic", "refresh"};

static json_t *address(const rmg_rom *rom, uint64_t i)
{
    char text[40];

    return json_string(rmg_rom_address_text(rom, i, text, sizeof text));
}

static json_t *bit_name(const rmg_rom *rom, uint8_t bit)
{
    char text[64];

    return json_string(rmg_rom_bit_text(rom, bit, text, sizeof text));
}

static json_t *line_name(const rmg_rom *rom, uint8_t line)
{
    char text[64];

    return json_string(rmg_rom_line_text(rom, line, text, sizeof text));
}

static json_t *bits_json(const rmg_rom *rom, rmg_word mask)
{
    json_t *array = json_array();

    for (uint8_t bit = 0; bit < rom->bits; bit++)
        if (mask >> bit & 1u)
            rmg_json_append(array, bit_name(rom, bit));
    return array;
}

static json_t *lines_json(const rmg_rom *rom, uint64_t mask)
{
    json_t *array = json_array();

    for (uint8_t k = 0; k < rom->lines; k++)
        if (mask >> k & 1u)
            rmg_json_append(array, line_name(rom, k));
    return array;
}

static json_t *unsteady_json(const rmg_rom *rom, const rmg_quality *q)
{
    json_t *by_bit = json_array(), *by_line = json_array(), *first = json_array();

    for (uint8_t bit = 0; bit < rom->bits; bit++)
        if (q->by_bit[bit])
            rmg_json_append(by_bit, json_pack("{s:o, s:o}", "line", bit_name(rom, bit), "bits",
                                              rmg_json_number(q->by_bit[bit])));
    for (uint8_t k = 0; k < rom->lines && q->unsteady_words; k++)
        rmg_json_append(by_line, json_pack("{s:o, s:o, s:o}", "line", line_name(rom, k),
                                           "words_at_0", rmg_json_number(q->by_line[k][0]),
                                           "words_at_1", rmg_json_number(q->by_line[k][1])));
    for (size_t i = 0; i < q->first_count; i++)
        rmg_json_append(
            first, json_pack("{s:o, s:o, s:f}", "address", address(rom, q->first[i].word), "line",
                             bit_name(rom, q->first[i].bit), "share_of_ones", q->first[i].share));
    return json_pack("{s:o, s:o, s:o, s:o, s:o, s:o}", "bits", rmg_json_number(q->unsteady_bits),
                     "words", rmg_json_number(q->unsteady_words), "rows", rmg_json_number(q->rows),
                     "by_data_line", by_bit, "by_address_line", by_line, "first", first);
}

static json_t *explained_json(const rmg_rom_result *r, const rmg_rom *rom,
                              const rmg_explained *step)
{
    json_t *alike = json_array(), *rivals = json_array(), *json;
    char *text;

    for (size_t n = 0; n < step->alike_count; n++) {
        const rmg_explanation *e = &step->alike[n];

        text = rmg_explanation_text(rom, e, r->other_names);
        rmg_json_append(alike, json_string(text));
        rmg_json_append(rivals, json_pack("{s:s, s:s, s:f}", "kind", rmg_difference_name(e->kind),
                                          "text", text, "share", e->share));
        rmg_text_free(text);
    }
    text = rmg_explanation_text(rom, &step->is, r->other_names);
    json = json_pack("{s:s, s:s, s:o, s:o, s:b, s:f, s:o, s:o}", "kind",
                     rmg_difference_name(step->is.kind), "text", text, "predicted_bits",
                     rmg_json_number(step->is.predicted), "seen_bits",
                     rmg_json_number(step->is.seen), "now_and_then", step->is.sometimes, "share",
                     step->is.share, "alike", alike, "rivals", rivals);
    rmg_text_free(text);
    return json;
}

static json_t *steps_json(const rmg_rom_result *r, const rmg_rom *rom, const rmg_comparison *c)
{
    json_t *array = json_array();

    for (size_t i = 0; i < c->step_count; i++)
        rmg_json_append(array, explained_json(r, rom, &c->steps[i]));
    return array;
}

/* For each line, how many words could have shown it wrong. */
static json_t *evidence_json(const rmg_rom *rom, const rmg_comparison *c)
{
    json_t *words = json_object();
    char text[64];

    for (uint8_t i = 0; i < c->bits; i++)
        rmg_json_set(words, rmg_rom_bit_text(rom, i, text, sizeof text),
                     json_integer(c->shows_bit[i]));
    for (uint8_t i = 0; i < rom->lines; i++)
        rmg_json_set(words, rmg_rom_line_text(rom, i, text, sizeof text),
                     json_integer(c->shows_line[i]));
    return words;
}

static json_t *comparison_json(const rmg_rom_result *r, const rmg_rom *rom, const rmg_comparison *c)
{
    json_t *first = json_array();

    for (size_t i = 0; i < c->first_count; i++) {
        char good[24], read[24];

        g_snprintf(good, sizeof good, "0x%02" G_GINT64_MODIFIER "X", (guint64)c->first[i].good);
        g_snprintf(read, sizeof read, "0x%02" G_GINT64_MODIFIER "X", (guint64)c->first[i].read);
        rmg_json_append(first,
                        json_pack("{s:o, s:s, s:s}", "address", address(rom, c->first[i].word),
                                  "good", good, "read", read));
    }
    return json_pack("{s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:o}", "words",
                     rmg_json_number(c->words), "wrong_words", rmg_json_number(c->wrong_words),
                     "wrong_bits", rmg_json_number(c->wrong_bits), "read_1_for_0",
                     rmg_json_number(c->to_one), "read_0_for_1", rmg_json_number(c->to_zero),
                     "explained_by", steps_json(r, rom, c), "not_explained_bits",
                     rmg_json_number(c->left), "proved_data_lines", bits_json(rom, c->proved_bits),
                     "proved_address_lines", lines_json(rom, c->proved_lines), "left_over",
                     c->left_touched ? explained_json(r, rom, &c->rest) : json_null(), "evidence",
                     evidence_json(rom, c), "first", first);
}

static json_t *reading_json(const rmg_rom_result *r, const rmg_verify *v)
{
    const rmg_rom *rom = &v->reading.rom;
    const rmg_quality *q = &v->quality;
    rmg_checksums sums;
    json_t *json = json_pack(
        "{s:b, s:i, s:i, s:s, s:b, s:s, s:o, s:o, s:o}", "bare", rom->bare, "readings_wanted",
        (int)v->reading.wanted, "readings", (int)v->reading.done, "driven_by",
        drives[v->reading.drive], "driven_both_ways", q->driven, "state", states[q->state],
        "floating_data_lines", bits_json(rom, q->follows), "address_lines_without_effect",
        lines_json(rom, q->same_lines), "unsteady", unsteady_json(rom, q));

    rmg_checksums_of(v->image, (size_t)rmg_rom_bytes(rom), &sums);
    rmg_json_set(json, "checksums",
                 q->state == RMG_READ_NONE ? json_null() : rmg_json_checksums(&sums));
    rmg_json_set(json, "first_wrong_reading", json_integer(v->reading.first_wrong));
    rmg_json_set(json, "comparison",
                 v->compared ? comparison_json(r, rom, &v->comparison) : json_null());
    return json;
}

static json_t *series_json(const rmg_rom_result *r)
{
    json_t *array = json_array();

    for (size_t s = 0; s < r->series_count; s++) {
        json_t *steps = json_array();

        for (size_t i = 0; i < r->series[s].count; i++) {
            const rmg_verify_step *step = &r->series[s].steps[i];

            rmg_json_append(steps,
                            json_pack("{s:i, s:b, s:o, s:o, s:i}", "value", (int)step->value, "set",
                                      step->set, "wrong_bits", rmg_json_number(step->wrong_bits),
                                      "unsteady_bits", rmg_json_number(step->unsteady_bits),
                                      "first_wrong_reading", (int)step->first_wrong));
        }
        rmg_json_append(array, json_pack("{s:s, s:o}", "condition", conditions[r->series[s].which],
                                         "steps", steps));
    }
    return array;
}

static json_t *watch_json(const rmg_rom_passes *w)
{
    const rmg_rom *rom = &w->reading.rom;
    json_t *passes = json_array(), *moved = json_array();

    for (size_t i = 0; i < w->count; i++) {
        const rmg_rom_pass *p = &w->passes[i];
        char crc[12];

        g_snprintf(crc, sizeof crc, "%08x", p->crc32);
        rmg_json_append(
            passes,
            json_pack("{s:f, s:o, s:s, s:s, s:o, s:o, s:o}", "seconds", p->seconds, "temperature_c",
                      p->heat_millic == RMG_HEAT_UNKNOWN ? json_null()
                                                         : json_real(p->heat_millic / 1000.0),
                      "temperature_from",
                      p->heat_millic == RMG_HEAT_UNKNOWN ? "none"
                      : p->heat_typed                    ? "typed in"
                                                         : "the port",
                      "crc32", crc, "changed_words", rmg_json_number(p->words), "to_1",
                      rmg_json_number(p->to_one), "to_0", rmg_json_number(p->to_zero)));
    }
    for (size_t i = 0; i < w->moved_count; i++)
        rmg_json_append(moved,
                        json_pack("{s:o, s:o, s:i, s:i}", "address", address(rom, w->moved[i].word),
                                  "line", bit_name(rom, w->moved[i].bit), "now",
                                  (int)w->moved[i].now, "pass", (int)w->moved[i].pass));
    return json_pack("{s:o, s:i, s:o, s:o}", "passes", passes, "first_change", (int)w->first_change,
                     "moved_bits", rmg_json_number(w->moved_in_all), "moved", moved);
}

char *rmg_rom_json(const rmg_rom_result *r)
{
    gchar *target = g_filename_display_name(r->target);
    json_t *suspects = json_array(), *root;
    char name[160];

    for (size_t i = 0; i < r->suspects->count; i++)
        rmg_json_append(suspects, rmg_suspect_json(r->board, &r->suspects->list[i]));
    root =
        json_pack("{s:i, s:s, s:s, s:{s:s, s:s, s:s, s:s}, s:s, s:s, s:s?, s:b, s:s, s:o, s:o}",
                  "rimeglass_rom", 2, "version", RMG_VERSION, "action", r->action, "board", "name",
                  r->board->name, "revision", r->board->revision, "file", r->board->file, "sha256",
                  r->board->hash, "target", target, "what", rmg_rom_name(r->rom, name, sizeof name),
                  "image", r->image, "complete", r->complete, "verdict",
                  r->suspects->count || (r->watch && r->watch->first_change) ? "fail" : "pass",
                  "size_bytes", rmg_json_number(rmg_rom_bytes(r->rom)), "suspects", suspects);
    g_free(target);
    if (r->verify)
        rmg_json_set(root, "reading", reading_json(r, r->verify));
    if (r->bare)
        rmg_json_set(root, "bare", reading_json(r, r->bare));
    if (r->series_count)
        rmg_json_set(root, "series", series_json(r));
    if (r->watch)
        rmg_json_set(root, "watch", watch_json(r->watch));
    return rmg_json_text(root);
}
