/* Plans: the built-in ones and plan files. */
#include "rimeglass/plan.h"

#include <string.h>

#include "base/internal.h"

const char *const rmg_plan_names[] = {"checkerboard", "quick", "full", "deep", NULL};

static const char *const plan_texts[] = {
    "plan: checkerboard\n"
    "steps:\n"
    "  - march: any(w0); hold; any(r0); any(w1); hold; any(r1)\n"
    "    name: written and read\n"
    "    background: checkerboard\n",

    "plan: quick\n"
    "steps:\n"
    "  - wiring\n"
    "  - first memory\n"
    "  - march: MATS++\n",

    "plan: full\n"
    "steps:\n"
    "  - wiring\n"
    "  - first memory\n"
    "  - march: March LR\n"
    "  - march: March SS\n"
    "  - {march: MATS+, background: checkerboard}\n"
    "  - {march: March C-, background: rows}\n"
    "  - {march: March C-, background: columns}\n"
    "  - {march: MATS+, background: address}\n"
    "  - {march: MATS+, background: random}\n"
    "  - {march: MATS+, background: word}\n"
    "  - {hold-ms: 100}\n"
    "  - {march: MATS++, order: complement}\n",

    "plan: deep\n"
    "steps:\n"
    "  - wiring\n"
    "  - noisy lines\n"
    "  - first memory\n"
    "  - march: March RAW\n"
    "  - march: March G\n"
    "  - {march: March C-, background: checkerboard, order: columns first}\n"
    "  - {march: March C-, background: rows, order: rows first}\n"
    "  - {march: March C-, background: columns, order: rows first}\n"
    "  - {march: MATS++, order: complement}\n"
    "  - {march: MATS++, order: powers of two}\n"
    "  - within a word\n"
    "  - {neighbours: passive}\n"
    "  - {march: MATS+, background: address}\n"
    "  - {march: MATS+, background: random}\n"
    "  - {hold-ms: 2000, background: checkerboard}\n"
    "  - {hold-ms: 100, background: checkerboard, refresh: stopped}\n"
    "  - {row-accesses: 2000}\n"
    "  - copy\n",
};

static const char *const ground_words[] = {
    "solid",   "checkerboard", "rows",   "columns",       "walking",
    "address", "word",         "random", "within a word", NULL};
static const char *const way_words[] = {"linear",     "columns first", "rows first",
                                        "complement", "powers of two", NULL};
static const char *const refresh_words[] = {"on", "stopped", NULL};
static const char *const root_keys[] = {"plan", "steps", NULL};
static const char *const march_keys[] = {"march", "name", "background", "order", "hold-ms", NULL};
static const char *const hold_keys[] = {"hold-ms", "background", "refresh", NULL};
static const char *const row_keys[] = {"row-accesses", NULL};
static const char *const neighbour_keys[] = {"neighbours", NULL};
static const char *const neighbour_words[] = {"static", "passive", "active", "all", NULL};
static const char *const noise_keys[] = {"noisy-lines", NULL};
static const char *const moving_keys[] = {"moving", "partners", NULL};
static const char *const moving_words[] = {"galloping by row",
                                           "galloping by column",
                                           "galloping by lines",
                                           "walking by row",
                                           "walking by column",
                                           "sliding diagonal",
                                           "butterfly",
                                           "surround",
                                           NULL};

#define STANDARD_HOLD_MS  100u
#define MOST_HOLD_MS      3600000u
#define STANDARD_PARTNERS 128u
#define STANDARD_TRIES    64u

/* In each word of the walk: what came with the change is read; it is written once more, and read
 * twice, for what a second write or a read does. */
static const char within_march[] = "any(w0,r0,w0,r0,r0)";

/* "NAME, checkerboard, rows first"; what is default is left out. */
static void name_step(rmg_step *step, const char *name)
{
    g_snprintf(step->name, sizeof step->name, "%s%s%s%s%s", name, step->ground ? ", " : "",
               step->ground ? ground_words[step->ground] : "", step->way ? ", " : "",
               step->way ? way_words[step->way] : "");
}

static void read_march(yaml_file *file, const ynode *item, rmg_step *step)
{
    const ynode *node = rmg_yaml_get(file, item, "march");
    const char *text = rmg_yaml_text(node);
    const uint8_t *code = rmg_march_by_name(text);
    rmg_march_error error = {0, ""};
    char *name;

    step->kind = RMG_STEP_MARCH;
    if (!rmg_yaml_is_map(file, item, "a march step", march_keys))
        return;
    step->ground = (rmg_ground)rmg_yaml_choice(file, item, "background", ground_words, 0);
    step->way = (rmg_way)rmg_yaml_choice(file, item, "order", way_words, 0);
    step->hold_us =
        1000u * (uint32_t)rmg_yaml_number(file, item, "hold-ms", 1, MOST_HOLD_MS, STANDARD_HOLD_MS);
    for (uint8_t i = 0; code && i < rmg_march_name_count; i++)
        if (rmg_march_names[i].code == code)
            text = rmg_march_names[i].name;
    if (code) {
        size_t size = 0;

        while (code[size])
            size += (code[size] & ~RMG_ORDER_MASK) + 1u;
        memcpy(step->code, code, size + 1u);
    } else if (rmg_march_parse(text, step->code, sizeof step->code, &error) != RMG_OK) {
        rmg_yaml_wrong(file, node, "march",
                       "\"%s\" is neither a march known by name nor notation: at \"%s\" expected "
                       "%s",
                       text, text + error.offset, *error.expected ? error.expected : "less");
    }
    name = rmg_yaml_string(file, item, "name", text);
    name_step(step, name);
    g_free(name);
}

static void read_hold(yaml_file *file, const ynode *item, rmg_step *step)
{
    char name[40];

    step->kind = RMG_STEP_HOLD;
    if (!rmg_yaml_is_map(file, item, "a hold step", hold_keys))
        return;
    step->ground = (rmg_ground)rmg_yaml_choice(file, item, "background", ground_words, 0);
    step->stops_refresh = rmg_yaml_choice(file, item, "refresh", refresh_words, 0) == 1;
    step->hold_us = 1000u * (uint32_t)rmg_yaml_number(file, item, "hold-ms", 1, MOST_HOLD_MS, -1);
    rmg_march_parse("any(w0); hold; any(r0,w1); hold; any(r1)", step->code, sizeof step->code,
                    NULL);
    g_snprintf(name, sizeof name, "hold %u ms%s", step->hold_us / 1000u,
               step->stops_refresh ? " without refresh" : "");
    name_step(step, name);
}

static void read_step(yaml_file *file, const ynode *item, rmg_step *step)
{
    const char *word = rmg_yaml_text(item);

    memset(step, 0, sizeof *step);
    if (strcmp(word, "wiring") == 0 || strcmp(word, "first memory") == 0) {
        step->kind = *word == 'w' ? RMG_STEP_WIRING : RMG_STEP_FIRST_MEMORY;
        name_step(step, word);
    } else if (strcmp(word, "noisy lines") == 0) {
        step->kind = RMG_STEP_NOISE;
        step->tries = STANDARD_TRIES;
        name_step(step, word);
    } else if (strcmp(word, "within a word") == 0) {
        step->kind = RMG_STEP_MARCH;
        step->ground = RMG_GROUND_WITHIN;
        step->hold_us = 1000u * STANDARD_HOLD_MS;
        rmg_march_parse(within_march, step->code, sizeof step->code, NULL);
        g_strlcpy(step->name, word, sizeof step->name);
    } else if (strcmp(word, "copy") == 0) {
        step->kind = RMG_STEP_COPY;
        name_step(step, "copy onto itself");
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "march")) {
        read_march(file, item, step);
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "hold-ms")) {
        read_hold(file, item, step);
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "row-accesses")) {
        step->kind = RMG_STEP_ROWS;
        rmg_yaml_is_map(file, item, "a row step", row_keys);
        step->accesses = (uint32_t)rmg_yaml_number(file, item, "row-accesses", 1, 100000000, -1);
        name_step(step, "rows disturbed");
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "neighbours")) {
        char name[40];

        step->kind = RMG_STEP_NEIGHBOURS;
        rmg_yaml_is_map(file, item, "a step of neighbours", neighbour_keys);
        step->neighbours =
            (rmg_neighbours)rmg_yaml_choice(file, item, "neighbours", neighbour_words, 0);
        g_snprintf(name, sizeof name, "neighbours, %s", neighbour_words[step->neighbours]);
        name_step(step, name);
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "noisy-lines")) {
        step->kind = RMG_STEP_NOISE;
        rmg_yaml_is_map(file, item, "a step of noisy lines", noise_keys);
        step->tries = (uint32_t)rmg_yaml_number(file, item, "noisy-lines", 8, 10000, -1);
        name_step(step, "noisy lines");
    } else if (item->type == YAML_MAPPING_NODE && rmg_yaml_get(file, item, "moving")) {
        step->kind = RMG_STEP_MOVING;
        rmg_yaml_is_map(file, item, "a step of moving addresses", moving_keys);
        step->moving = (rmg_moving)rmg_yaml_choice(file, item, "moving", moving_words, 0);
        step->partners =
            (uint32_t)rmg_yaml_number(file, item, "partners", 1, 1 << 20, STANDARD_PARTNERS);
        name_step(step, moving_words[step->moving]);
    } else {
        rmg_yaml_wrong(file, item, NULL,
                       "expected a step: wiring, first memory, copy, within a word, {march: ...}, "
                       "{hold-ms: ...}, {row-accesses: ...}, {neighbours: ...} or {moving: ...}");
    }
}

static void read_steps(yaml_file *file, rmg_steps *steps)
{
    ynode *root = rmg_yaml_root(file);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_step));
    ynode *items, *item;
    bool reads = false;

    if (rmg_yaml_is_map(file, root, "a plan file", root_keys)) {
        steps->name = rmg_yaml_string(file, root, "plan", NULL);
        items = rmg_yaml_list(file, root, "steps", true);
        for (size_t i = 0; (item = rmg_yaml_item(file, items, i)) != NULL; i++) {
            rmg_step step;

            read_step(file, item, &step);
            if (list->len < RMG_STEPS_MOST)
                g_array_append_val(list, step);
            else if (list->len == i)
                rmg_yaml_wrong(file, item, "steps", "more than %u steps", RMG_STEPS_MOST);
            reads |= step.kind >= RMG_STEP_MARCH;
        }
        if (items && !reads && !file->errors->len)
            rmg_yaml_wrong(file, items, "steps", "expected at least one step that tests cells");
    }
    steps->count = list->len;
    steps->list = rmg_array_take(list);
}

static rmg_status finish(yaml_file *file, rmg_status status, GArray *notes, rmg_steps *steps,
                         rmg_errors *errors)
{
    if (status == RMG_OK) {
        steps->text = g_strdup(file->text);
        read_steps(file, steps);
    }
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    if (status != RMG_OK)
        rmg_steps_free(steps);
    rmg_yaml_close(file);
    rmg_errors_take(notes, errors);
    return status;
}

rmg_status rmg_steps_parse(const char *name, const char *text, rmg_steps *steps, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    rmg_status status;

    memset(steps, 0, sizeof *steps);
    status = rmg_yaml_open_text(&file, name, text, notes);
    return finish(&file, status, notes, steps, errors);
}

rmg_status rmg_steps_load(const char *name_or_file, rmg_steps *steps, rmg_errors *errors)
{
    GArray *notes;
    yaml_file file;
    rmg_status status;

    for (size_t i = 0; rmg_plan_names[i]; i++)
        if (g_ascii_strcasecmp(rmg_plan_names[i], name_or_file) == 0)
            return rmg_steps_parse(name_or_file, plan_texts[i], steps, errors);
    memset(steps, 0, sizeof *steps);
    notes = rmg_notes_new();
    status = rmg_yaml_open(&file, name_or_file, notes);
    return finish(&file, status, notes, steps, errors);
}

rmg_status rmg_steps_of_march(const char *march_name, const uint8_t *code, rmg_steps *steps)
{
    rmg_step *march;
    size_t size = 0;

    while (code[size])
        size += (code[size] & ~RMG_ORDER_MASK) + 1u;
    memset(steps, 0, sizeof *steps);
    if (size >= sizeof march->code)
        return RMG_ERR_ROOM;
    steps->name = g_strdup(march_name);
    steps->text = g_strdup("");
    steps->count = 3;
    steps->list = g_new0(rmg_step, 3);
    steps->list[0].kind = RMG_STEP_WIRING;
    name_step(&steps->list[0], "wiring");
    steps->list[1].kind = RMG_STEP_FIRST_MEMORY;
    name_step(&steps->list[1], "first memory");
    march = &steps->list[2];
    march->kind = RMG_STEP_MARCH;
    march->hold_us = 1000u * STANDARD_HOLD_MS;
    memcpy(march->code, code, size + 1u);
    name_step(march, march_name);
    return RMG_OK;
}

void rmg_steps_free(rmg_steps *steps)
{
    g_free(steps->name);
    g_free(steps->text);
    g_free(steps->list);
    memset(steps, 0, sizeof *steps);
}
