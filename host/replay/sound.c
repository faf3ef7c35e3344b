/* The wiring check of a sound board: what it finds, and which words it touches. Faults of other
 * cells change nothing of it, so that it need not be made again with each of them. */
#include "internal.h"

/* A word of memory as it should be, which reads what was written last, and zero before. */
typedef struct sound_word {
    rmg_addr address;
    rmg_word value;
} sound_word;

static sound_word *word_at(GHashTable *words, rmg_addr address)
{
    sound_word *word = g_hash_table_lookup(words, &address);

    if (!word) {
        word = g_new(sound_word, 1);
        *word = (sound_word){address, 0};
        g_hash_table_insert(words, &word->address, word);
    }
    return word;
}

static rmg_status sound_read(void *context, rmg_addr address, rmg_word *value)
{
    *value = word_at(context, address)->value;
    return RMG_OK;
}

static rmg_status sound_write(void *context, rmg_addr address, rmg_word value)
{
    word_at(context, address)->value = value;
    return RMG_OK;
}

static rmg_status sound_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us;
    return RMG_OK;
}

/* The plan's wiring check, or NULL. */
static rmg_step *wiring_step(const rmg_run *run)
{
    for (size_t i = 0; i < run->steps.count; i++)
        if (run->steps.list[i].kind == RMG_STEP_WIRING)
            return &run->steps.list[i];
    return NULL;
}

/* Is the simulated board without faults such memory, in all these words? */
static bool is_sound(rmg_stage *s, GHashTable *words)
{
    GHashTableIter i;
    gpointer key;
    bool sound = rmg_stage_switch_on(s, NULL, 0, NULL, true, 0);

    g_hash_table_iter_init(&i, words);
    while (sound && g_hash_table_iter_next(&i, &key, NULL))
        sound = rmg_sim_sound(&s->sim, *(const rmg_addr *)key);
    return sound;
}

/* Makes the check, once for all. false: it could not be made, or finds something else. */
static bool check(rmg_stage *s)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = sound_read, .write = sound_write, .wait = sound_wait};
    rmg_plan plan = rmg_stage_plan(s);
    rmg_steps steps = {.name = s->run->steps.name, .list = wiring_step(s->run), .count = 1};
    const rmg_target target = {&bus, s->touched, rmg_stage_mask(s)};
    rmg_error error = {0};
    rmg_run run = {0};
    bool same = false;

    plan.steps = &steps;
    if (steps.list && rmg_run_begin(&run, s->run->board, &plan, "replay", &error) == RMG_OK) {
        s->starved |= rmg_run_carry_out(&run, &target, NULL) == RMG_ERR_MEMORY;
        s->work += run.reads + run.writes;
        same =
            run.status == RMG_OK && rmg_replay_same_wiring(s->run, &run) && is_sound(s, s->touched);
    }
    rmg_run_end(&run);
    rmg_error_free(&error);
    return same;
}

/* Does an access to the word reach one of the two cells of the chip? */
static bool reaches(const rmg_placement *placement, const rmg_sim_fault *f, rmg_addr word)
{
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        rmg_addr cell;

        if (rule->socket != f->chip || !rmg_where_holds(&rule->where, word))
            continue;
        cell = rmg_rule_cell(rule, word);
        if (cell == f->cell || (rmg_fault_has_second(f) && cell == f->cell2))
            return true;
    }
    return false;
}

bool rmg_stage_sound(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count)
{
    const rmg_sim_board *board = &s->model.board;
    GHashTableIter i;
    gpointer key;

    if (!s->plain || board->mirror_count || board->pages.mask ||
        board->undriven != s->run->board->undriven || board->hold_ns != s->run->board->hold_ns ||
        !rmg_stage_marches_in_part(s, faults, count))
        return false;
    for (size_t n = 0; n < s->run->steps.count; n++)
        if (s->run->steps.list[n].kind == RMG_STEP_NOISE)
            return false;
    for (uint16_t n = 0; n < count; n++)
        if (!rmg_replay_cells_alone(&faults[n]))
            return false;
    if (!s->touched) {
        s->touched = g_hash_table_new_full(g_int64_hash, g_int64_equal, g_free, NULL);
        s->sound = check(s);
    }
    if (!s->sound)
        return false;
    g_hash_table_iter_init(&i, s->touched);
    while (g_hash_table_iter_next(&i, &key, NULL))
        for (uint16_t n = 0; n < count; n++)
            if (reaches(&s->run->board->placement, &faults[n], *(const rmg_addr *)key))
                return false;
    return true;
}
