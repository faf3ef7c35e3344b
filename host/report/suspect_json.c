/* Suspects as JSON, for every result that has some. */
#include "internal.h"

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

static json_t *rival_json(const rmg_rival *r)
{
    json_t *one = json_pack("{s:s}", "name", r->name);

    if (r->cause < RMG_CAUSES)
        rmg_json_set(one, "cause", json_string(rmg_cause_name(r->cause)));
    rmg_json_set(one, "share", json_real(r->share));
    return one;
}

json_t *rmg_suspect_json(const rmg_suspect *s)
{
    json_t *rivals = json_array(), *replays = json_array();

    for (size_t i = 0; i < s->replay_count; i++)
        rmg_json_append(replays, replay_json(&s->replays[i]));
    for (size_t i = 0; i < s->rival_count; i++)
        rmg_json_append(rivals, rival_json(&s->rivals[i]));
    return json_pack("{s:s, s:s, s:s, s:s, s:f, s:f, s:o, s:o, s:o, s:o, s:o}", "site", s->site,
                     "kind", s->kind, "advice", s->headline, "settle", s->settle, "confidence",
                     s->confidence, "explained", s->explained, "because", texts(s->because), "next",
                     texts(s->next), "rivals", rivals, "replays", replays, "replays_untried",
                     rmg_json_number(s->untried));
}
