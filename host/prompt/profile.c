/* Profiles of prompts: what to type, and how answers look; read from YAML. */
#include <string.h>

#include "base/internal.h"
#include "internal.h"

static GRegex *read_pattern(yaml_file *file, const ynode *map, const char *key, bool needed)
{
    const ynode *node = needed ? rmg_yaml_need(file, map, key) : rmg_yaml_get(file, map, key);
    GError *problem = NULL;
    GRegex *pattern;

    if (!node)
        return NULL;
    pattern = g_regex_new(rmg_yaml_text(node), G_REGEX_RAW | G_REGEX_OPTIMIZE, 0, &problem);
    if (!pattern) {
        rmg_yaml_wrong(file, node, key, "\"%s\" is no regular expression: %s", rmg_yaml_text(node),
                       problem->message);
        g_error_free(problem);
    }
    return pattern;
}

static bool read_yes(yaml_file *file, const ynode *map, const char *key, bool standard)
{
    static const char *const words[] = {"no", "yes", NULL};

    return rmg_yaml_choice(file, map, key, words, standard) == 1;
}

/* Is there no brace but those of these names? */
static void check_braces(yaml_file *file, const ynode *node, const char *key, const char *text,
                         const char *const *names)
{
    for (const char *at = text; (at = strchr(at, '{')) != NULL; at++) {
        size_t i = 0;

        while (names[i] && !g_str_has_prefix(at + 1, names[i]))
            i++;
        if (!names[i] || at[1 + strlen(names[i])] != '}')
            rmg_yaml_wrong(file, node, key,
                           "\"%s\": expected {address}, {value} or {last} only where "
                           "there is one",
                           text);
    }
}

static bool has_group(const GRegex *pattern, const char *name)
{
    return pattern && g_regex_get_string_number(pattern, name) >= 0;
}

static void fill_step(yaml_file *file, const ynode *map, const rmg_prompt_profile *p,
                      const char *const *names, typed_step *step)
{
    step->send = rmg_yaml_string(file, map, "send", NULL);
    step->answer = read_pattern(file, map, "answer", false);
    step->ready = read_pattern(file, map, "ready", false);
    if (!step->ready && p->ready)
        step->ready = g_regex_ref(p->ready);
    if (step->send)
        check_braces(file, map, "send", step->send, names);
}

static void read_step(yaml_file *file, const ynode *map, const rmg_prompt_profile *p,
                      const char *const *names, GArray *steps)
{
    static const char *const keys[] = {"send", "end", "answer", "ready", NULL};
    typed_step step = {0};

    if (!rmg_yaml_is_map(file, map, "a step", keys))
        return;
    fill_step(file, map, p, names, &step);
    step.end = read_yes(file, map, "end", true);
    g_array_append_val(steps, step);
}

/* One step as a map, or several as a list; `group` must be named by one of their answers. */
static GArray *read_steps(yaml_file *file, const ynode *root, const rmg_prompt_profile *p,
                          const char *key, const char *const *names, const char *group, bool needed)
{
    GArray *steps = g_array_new(FALSE, TRUE, sizeof(typed_step));
    const ynode *node = needed ? rmg_yaml_need(file, root, key) : rmg_yaml_get(file, root, key);
    bool found = !group, address = false;
    const ynode *item;

    if (!node)
        return steps;
    if (node->type == YAML_SEQUENCE_NODE)
        for (size_t i = 0; (item = rmg_yaml_item(file, node, i)) != NULL; i++)
            read_step(file, item, p, names, steps);
    else
        read_step(file, node, p, names, steps);
    for (guint i = 0; i < steps->len; i++) {
        const typed_step *step = &g_array_index(steps, typed_step, i);

        found |= group && has_group(step->answer, group);
        address |= step->send && strstr(step->send, "{address}") != NULL;
    }
    if (!found)
        rmg_yaml_wrong(file, node, key, "expected an answer with (?<%s>...)", group);
    if (!address)
        rmg_yaml_wrong(file, node, key, "expected a send with {address}");
    return steps;
}

static number_form read_form(yaml_file *file, const ynode *root, const char *key)
{
    static const char *const keys[] = {"digits", "width", "add", NULL};
    static const char *const bases[] = {"octal", "decimal", "hex", NULL};
    static const unsigned base_of[] = {8, 10, 16};
    const ynode *map = rmg_yaml_get(file, root, key);
    number_form form = {.base = 16};

    if (!map || !rmg_yaml_is_map(file, map, key, keys))
        return form;
    form.base = base_of[rmg_yaml_choice(file, map, "digits", bases, 2)];
    form.width = (unsigned)rmg_yaml_number(file, map, "width", 0, 22, 0);
    form.add = rmg_yaml_number(file, map, "add", 0, (uint64_t)1 << 62, 0);
    return form;
}

static void read_errors(yaml_file *file, const ynode *root, rmg_prompt_profile *p)
{
    ynode *list = rmg_yaml_list(file, root, "errors", false);
    const ynode *item;

    for (size_t i = 0; list && (item = rmg_yaml_item(file, list, i)) != NULL; i++) {
        GRegex *pattern = g_regex_new(rmg_yaml_text(item), G_REGEX_RAW | G_REGEX_OPTIMIZE, 0, NULL);

        if (pattern)
            g_ptr_array_add(p->errors, pattern);
        else
            rmg_yaml_wrong(file, item, "errors", "\"%s\" is no regular expression",
                           rmg_yaml_text(item));
    }
}

static void read_manners(yaml_file *file, const ynode *root, rmg_prompt_profile *p)
{
    static const char *const echoes[] = {"no", "yes", "each", NULL};
    static const char *const ends[] = {"cr", "lf", "cr-lf", NULL};
    static const char *const end_of[] = {"\r", "\n", "\r\n"};
    static const char *const delay_keys[] = {"character", "line", "answer", NULL};
    static const char *const more_keys[] = {"match", "send", NULL};
    const ynode *delay = rmg_yaml_get(file, root, "delay"),
                *more = rmg_yaml_get(file, root, "more");
    const unsigned echo = rmg_yaml_choice(file, root, "echo", echoes, 1);

    p->echo = echo > 0;
    p->waits_for_echo = echo == 2;
    p->upper = read_yes(file, root, "upper-case", false);
    p->strip = read_yes(file, root, "strip-parity", false);
    p->line_end = end_of[rmg_yaml_choice(file, root, "line-end", ends, 0)];
    p->cancel = rmg_yaml_string(file, root, "cancel", "");
    p->wake = rmg_yaml_string(file, root, "wake", "");
    if (p->echo && !*p->cancel)
        rmg_yaml_wrong(
            file, root, "cancel",
            "expected what gives up a line that is half typed, like \"\\x03\": a wrong echo "
            "needs it");
    p->answer_ms = 2000;
    if (delay && rmg_yaml_is_map(file, delay, "delays", delay_keys)) {
        p->character_ms = (unsigned)rmg_yaml_number(file, delay, "character", 0, 5000, 0);
        p->line_ms = (unsigned)rmg_yaml_number(file, delay, "line", 0, 60000, 0);
        p->answer_ms = (unsigned)rmg_yaml_number(file, delay, "answer", 10, 600000, 2000);
    }
    if (more && rmg_yaml_is_map(file, more, "more", more_keys)) {
        p->more = read_pattern(file, more, "match", true);
        p->more_send = rmg_yaml_string(file, more, "send", " ");
    }
}

static void read_load(yaml_file *file, const ynode *root, rmg_prompt_profile *p)
{
    static const char *const keys[] = {"send",   "answer",    "ready", "processor", "ends-with",
                                       "memory", "zero-page", "words", "wait",      NULL};
    static const char *const ends[] = {"return", "far return", "breakpoint", NULL};
    static const char *const names[] = {"address", NULL};
    const char *processors[RMG_TESTROM_PROCESSORS + 1] = {NULL};
    rmg_testrom_processor numbers[RMG_TESTROM_PROCESSORS];
    load_and_run *load = &p->load;
    rmg_loader_place *place = &load->place;
    const ynode *map = rmg_yaml_get(file, root, "load-and-run");
    const ynode *memory, *zero_page;
    uint64_t first = 0, last = 0;
    unsigned count = 0, farthest;

    if (!map || !rmg_yaml_is_map(file, map, "load-and-run", keys))
        return;
    for (rmg_testrom_processor i = 0; i < RMG_TESTROM_PROCESSORS; i++)
        if (rmg_upload_is_for(i)) {
            numbers[count] = i;
            processors[count++] = rmg_testrom_rows[i].name;
        }
    load->known = true;
    fill_step(file, map, p, names, &load->run);
    load->run.end = true;
    if (load->run.send && !strstr(load->run.send, "{address}"))
        rmg_yaml_wrong(file, rmg_yaml_get(file, map, "send"), "send",
                       "expected {address}, where it is started");
    place->processor = numbers[rmg_yaml_choice(file, map, "processor", processors, -1)];
    place->ends = (rmg_upload_end)rmg_yaml_choice(file, map, "ends-with", ends, 0);
    if (!rmg_upload_can_end(place->processor, place->ends))
        rmg_yaml_wrong(file, rmg_yaml_get(file, map, "ends-with"), "ends-with",
                       "a routine for a %s cannot end with a %s",
                       rmg_testrom_rows[place->processor].name, ends[place->ends]);
    memory = rmg_yaml_need(file, map, "memory");
    farthest = place->processor == RMG_TESTROM_68000 ? 0xFFFFFFu : 0xFFFFu;
    if (memory && (!rmg_range_parse(rmg_yaml_text(memory), &first, &last) || last > farthest ||
                   last - first + 1u < RMG_UPLOAD_LEAST / rmg_upload_word_bytes(place->processor)))
        rmg_yaml_wrong(file, memory, "memory",
                       "found \"%s\", expected FIRST-LAST, %u bytes or more within 0x0000-0x%X",
                       rmg_yaml_text(memory), RMG_UPLOAD_LEAST, farthest);
    load->first = first;
    load->last = last;
    zero_page = rmg_yaml_get(file, map, "zero-page");
    if (zero_page && place->processor != RMG_TESTROM_6502)
        rmg_yaml_wrong(file, zero_page, "zero-page", "only a 6502 needs two bytes there");
    if (place->processor == RMG_TESTROM_6502)
        place->zero_page = (uint8_t)rmg_yaml_number(file, map, "zero-page", 0, 0xFE, -1);
    place->words =
        (unsigned)rmg_yaml_number(file, map, "words", 1, RMG_UPLOAD_WORDS, RMG_LOADER_WORDS);
    load->answer_ms = (unsigned)rmg_yaml_number(file, map, "wait", 100, 3600000, 60000);
}

rmg_status rmg_prompt_profile_load(const char *name, rmg_prompt_profile **profile,
                                   rmg_errors *errors)
{
    static const char *const keys[] = {"prompt", "ready",        "read",     "write",
                                       "block",  "block-words",  "address",  "value",
                                       "echo",   "upper-case",   "line-end", "strip-parity",
                                       "cancel", "wake",         "errors",   "more",
                                       "delay",  "load-and-run", NULL};
    static const char *const reads[] = {"address", NULL},
                             *const writes[] = {"address", "value", NULL},
                             *const blocks[] = {"address", "last", NULL};
    GArray *notes = rmg_notes_new();
    rmg_prompt_profile *p = g_new0(rmg_prompt_profile, 1);
    yaml_file file;
    rmg_status status = rmg_yaml_open(&file, name, notes);
    const ynode *root = status == RMG_OK ? rmg_yaml_root(&file) : NULL;

    p->errors = g_ptr_array_new_with_free_func((GDestroyNotify)g_regex_unref);
    if (root && rmg_yaml_is_map(&file, root, "a prompt", keys)) {
        p->name = rmg_yaml_string(&file, root, "prompt", NULL);
        p->ready = read_pattern(&file, root, "ready", true);
        p->read = read_steps(&file, root, p, "read", reads, "value", true);
        p->write = read_steps(&file, root, p, "write", writes, NULL, true);
        p->block = read_steps(&file, root, p, "block", blocks, "values", false);
        p->block_words = (unsigned)rmg_yaml_number(&file, root, "block-words", 1, 65536, 16);
        p->address = read_form(&file, root, "address");
        p->value = read_form(&file, root, "value");
        read_errors(&file, root, p);
        read_manners(&file, root, p);
        read_load(&file, root, p);
    }
    rmg_yaml_close(&file);
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    rmg_errors_take(notes, errors);
    if (status != RMG_OK) {
        rmg_prompt_profile_free(p);
        p = NULL;
    }
    *profile = p;
    return status;
}

static void empty_step(typed_step *step)
{
    g_free(step->send);
    g_clear_pointer(&step->answer, g_regex_unref);
    g_clear_pointer(&step->ready, g_regex_unref);
}

static void free_steps(GArray *steps)
{
    for (guint i = 0; steps && i < steps->len; i++)
        empty_step(&g_array_index(steps, typed_step, i));
    g_clear_pointer(&steps, g_array_unref);
}

void rmg_prompt_profile_free(rmg_prompt_profile *p)
{
    if (!p)
        return;
    free_steps(p->read);
    free_steps(p->write);
    free_steps(p->block);
    empty_step(&p->load.run);
    g_clear_pointer(&p->ready, g_regex_unref);
    g_clear_pointer(&p->more, g_regex_unref);
    g_ptr_array_free(p->errors, TRUE);
    g_free(p->more_send);
    g_free(p->cancel);
    g_free(p->wake);
    g_free(p->name);
    g_free(p);
}

const char *rmg_prompt_profile_name(const rmg_prompt_profile *p)
{
    return p->name;
}
