/* What an image is, as JSON; its form: docs/identify.schema.json. */
#include "internal.h"

static json_t *match_json(const rmg_identity *id, const rmg_catalogue *catalogue,
                          const rmg_match *match)
{
    const rmg_known *entry = &catalogue->list[match->entry];
    json_t *first = json_array(), *json;
    char part[64];

    for (size_t i = 0; i < MIN(match->bits_away, G_N_ELEMENTS(match->first)); i++)
        rmg_json_append(first,
                        json_pack("{s:o, s:i}", "byte", rmg_json_number(match->first[i] / 8u),
                                  "bit", (int)(match->first[i] % 8u)));
    json = json_pack("{s:s, s:s, s:s, s:s, s:s, s:b, s:b, s:o, s:o, s:o}", "part",
                     rmg_image_part_name(id->forms[match->form].part), "name", entry->name, "board",
                     entry->board, "version", entry->version, "socket", entry->socket, "equal",
                     match->bits_away == 0, "byte_sums_only", match->sums_only, "bits_away",
                     rmg_json_number(match->bits_away), "read_1_for_0",
                     rmg_json_number(match->to_one), "first", first);
    if (match->in != RMG_ENTRY_WHOLE)
        rmg_json_set(json, "of_it", json_string(rmg_match_part(match, part, sizeof part)));
    return json;
}

char *rmg_identity_json(const rmg_identity *id, const rmg_catalogue *catalogue, const char *what)
{
    json_t *forms = json_array(), *matches = json_array();

    for (size_t i = 0; i < id->form_count; i++)
        rmg_json_append(forms,
                        json_pack("{s:s, s:o, s:o}", "part", rmg_image_part_name(id->forms[i].part),
                                  "size_bytes", rmg_json_number(id->forms[i].size), "checksums",
                                  rmg_json_checksums(&id->forms[i].sums)));
    for (size_t i = 0; i < id->match_count; i++)
        rmg_json_append(matches, match_json(id, catalogue, &id->matches[i]));
    return rmg_json_text(json_pack("{s:i, s:s, s:s?, s:o, s:o, s:o}", "rimeglass_identity", 1,
                                   "what", what, "catalogue", catalogue ? catalogue->file : NULL,
                                   "forms", forms, "matches", matches, "unreadable_images",
                                   rmg_json_number(id->unreadable)));
}
