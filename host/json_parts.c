/* What several results in JSON have in common: numbers, checksums, suspects. */
#include "json_parts.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

static _Thread_local bool missing; /* since the last text of this thread */

void rmg_json_append(json_t *array, json_t *value)
{
    if (json_array_append_new(array, value) != 0)
        missing = true;
}

void rmg_json_set(json_t *object, const char *key, json_t *value)
{
    if (json_object_set_new(object, key, value) != 0)
        missing = true;
}

static char *text_of(json_t *root, size_t how, const char *end)
{
    char *dumped = root && !missing ? json_dumps(root, how) : NULL;
    const size_t size = dumped ? strlen(dumped) + strlen(end) + 1u : 0;
    char *text = size ? g_try_malloc(size) : NULL;

    if (text) {
        g_strlcpy(text, dumped, size);
        g_strlcat(text, end, size);
    }
    free(dumped);
    json_decref(root);
    missing = false;
    return text;
}

char *rmg_json_text(json_t *root)
{
    return text_of(root, JSON_INDENT(2) | JSON_REAL_PRECISION(6), "\n");
}

char *rmg_json_line(json_t *root)
{
    return text_of(root, JSON_COMPACT | JSON_REAL_PRECISION(17), "");
}

json_t *rmg_json_number(uint64_t value)
{
    return json_integer((json_int_t)MIN(value, (uint64_t)INT64_MAX));
}

json_t *rmg_json_checksums(const rmg_checksums *sums)
{
    char crc[12], sum16[12], sum32[12];

    g_snprintf(sum16, sizeof sum16, "0x%04X", sums->sum16);
    g_snprintf(sum32, sizeof sum32, "0x%08X", sums->sum32);
    g_snprintf(crc, sizeof crc, "%08x", sums->crc32);
    return json_pack("{s:s, s:s, s:s, s:s, s:s, s:s}", "sum16", sum16, "sum32", sum32, "crc32", crc,
                     "md5", sums->md5, "sha1", sums->sha1, "sha256", sums->sha256);
}

static json_t *texts(char **list)
{
    json_t *array = json_array();

    for (size_t i = 0; list[i]; i++)
        rmg_json_append(array, json_string(list[i]));
    return array;
}

static json_t *replay_json(const rmg_replayed *r)
{
    json_t *causes = json_array();

    for (unsigned i = 0; i < RMG_CAUSES; i++)
        if (r->causes & RMG_CAUSE_BIT(i))
            rmg_json_append(causes, json_string(rmg_cause_name((rmg_cause)i)));
    return json_pack("{s:s, s:o, s:o, s:o, s:b, s:b, s:o}", "fault", r->fault, "explained",
                     rmg_json_number(r->explained), "left", rmg_json_number(r->left), "unseen",
                     rmg_json_number(r->unseen), "as_often", (int)r->as_often, "same", (int)r->same,
                     "causes", causes);
}

json_t *rmg_suspect_json(const rmg_suspect *s)
{
    json_t *rivals = json_array(), *replays = json_array();

    for (size_t i = 0; i < s->replay_count; i++)
        rmg_json_append(replays, replay_json(&s->replays[i]));
    for (size_t i = 0; i < s->rival_count; i++)
        rmg_json_append(
            rivals,
            json_pack("{s:s, s:s*, s:f}", "name", s->rivals[i].name, "cause",
                      s->rivals[i].cause < RMG_CAUSES ? rmg_cause_name(s->rivals[i].cause) : NULL,
                      "share", s->rivals[i].share));
    return json_pack("{s:s, s:s, s:s, s:s, s:f, s:f, s:o, s:o, s:o, s:o, s:o}", "site", s->site,
                     "kind", s->kind, "advice", s->headline, "settle", s->settle, "confidence",
                     s->confidence, "explained", s->explained, "because", texts(s->because), "next",
                     texts(s->next), "rivals", rivals, "replays", replays, "replays_untried",
                     rmg_json_number(s->untried));
}
