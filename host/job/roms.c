/* What follows from the ROMs that were verified in a job: one that read wrong has its causes, and
 * each later reading of it, in the board or on its own pins, is a trial of what was changed. */
#include <string.h>

#include "internal.h"

/* The verdicts of a job, by the numbers of their entries. */
typedef struct reading_of {
    size_t entry; /* of the list of entries */
    rmg_rom_verdict verdict;
} reading_of;

/* One ROM while it is worked out. */
typedef struct thinking {
    rmg_job *job;
    const rmg_entry *entries;
    size_t count;
    const rmg_job_state *state;
    rmg_job_rom *rom;
    const rmg_rom_verdict *base;
    GArray *changes;  /* of rmg_change: since the base */
    size_t followed;  /* of these, before the last reading */
    GArray *readings; /* of rmg_job_reading */
    rmg_error *error;
} thinking;

static bool is_wrong(const rmg_rom_verdict *v)
{
    return v->complete && v->suspects.count;
}

/* What was looked at, among the changes. */
static void add_look(const thinking *t, rmg_change_kind kind, uint16_t socket, GArray *to)
{
    const rmg_change look = {.kind = kind,
                             .socket = socket,
                             .other = RMG_NO_SOCKET,
                             .bank = RMG_NO_BANK,
                             .value = INT64_MIN};

    if (kind != RMG_CHANGE_READ || t->job->board->sockets[socket].mount == RMG_MOUNT_SOCKET)
        g_array_append_val(to, look);
}

/* Chips that were read on their own pins were pulled for it, and put back. */
static void add_pulled(const thinking *t, const rmg_rom_verdict *v, GArray *to)
{
    for (uint16_t s = 0; (v->bare || v->both) && s < v->socket_count; s++)
        if (v->sockets[s])
            add_look(t, RMG_CHANGE_READ, s, to);
}

/* What was measured, at any time, of lines and chips. */
static rmg_status weigh_facts(const thinking *t)
{
    rmg_facts facts;
    const rmg_status status = rmg_job_facts(t->job->board, t->entries, t->count, &facts, t->error);

    if (status == RMG_OK)
        rmg_rom_facts_weigh(t->base, &facts, t->rom->list, t->rom->count);
    rmg_facts_end(&facts);
    return status;
}

static void weigh_reading(thinking *t, const rmg_rom_verdict *v, rmg_job_reading *r)
{
    const rmg_rom_trial trial = {.board = t->job->board,
                                 .base = t->base,
                                 .after = v,
                                 .changes = &r->changes,
                                 .done = t->followed};

    r->outcome = rmg_rom_weigh(&trial, t->rom->list, t->rom->count);
    r->followed = true;
    t->followed = t->changes->len;
}

/* Readings before the base: on its own pins, with nothing changed since; and in the board, where it
 * was right. */
static rmg_status weigh_before(thinking *t, const GArray *verdicts, size_t base)
{
    const rmg_changes none = {NULL, 0};
    GArray *changes = rmg_job_changes_new();
    bool right = false;
    rmg_status status = RMG_OK;

    for (size_t e = g_array_index(verdicts, reading_of, base).entry, n = base;
         e-- > 0 && !right && status == RMG_OK;) {
        const reading_of *r;

        if (t->entries[e].kind == RMG_ENTRY_CHANGE && !t->entries[e].undone)
            status = rmg_job_changes_add(t->job->board, t->entries[e].text, changes, t->error);
        while (n > 0 && g_array_index(verdicts, reading_of, n - 1u).entry > e)
            n--;
        r = n > 0 ? &g_array_index(verdicts, reading_of, n - 1u) : NULL;
        if (status != RMG_OK || !r || r->entry != e || !r->verdict.complete ||
            !rmg_rom_verdict_concerns(&r->verdict, t->base, &none))
            continue;
        if (r->verdict.bare && !t->base->bare && !changes->len) {
            const rmg_rom_trial trial = {
                .board = t->job->board, .base = t->base, .after = &r->verdict, .changes = &none};

            (void)rmg_rom_weigh(&trial, t->rom->list, t->rom->count);
        }
        right = !r->verdict.bare && !is_wrong(&r->verdict) &&
                rmg_rom_verdict_covers(&r->verdict, t->base);
        if (right && rmg_rom_passed_weigh(t->job->board, t->base,
                                          (const rmg_change *)(const void *)changes->data,
                                          changes->len, t->rom->list, t->rom->count))
            t->rom->passed_before = t->entries[e].number;
    }
    g_array_free(changes, TRUE);
    return status;
}

/* The causes of a reading, by itself. */
static rmg_status begin(thinking *t, const GArray *verdicts, size_t base)
{
    rmg_status status;

    t->base = &g_array_index(verdicts, reading_of, base).verdict;
    rmg_hypotheses_free(t->rom->list);
    t->rom->list = rmg_rom_hypotheses(t->base, &t->rom->count);
    t->rom->passed_before = 0;
    g_array_set_size(t->changes, 0);
    t->followed = 0;
    rmg_job_weigh_elsewhere(t->state, t->job->board, t->rom->list, t->rom->count);
    status = weigh_facts(t);
    return status == RMG_OK ? weigh_before(t, verdicts, base) : status;
}

/* A reading of this ROM: the base, or a trial. */
static rmg_status take_reading(thinking *t, const GArray *verdicts, size_t n)
{
    const reading_of *of = &g_array_index(verdicts, reading_of, n);
    rmg_job_reading r = {.entry = t->entries[of->entry].number, .done = t->followed};
    rmg_status status = RMG_OK;

    r.changes = rmg_job_changes_copy(t->changes);
    if (&of->verdict != t->base) {
        weigh_reading(t, &of->verdict, &r);
        if (is_wrong(&of->verdict) && of->verdict.bare == t->base->bare &&
            r.outcome != RMG_OUTCOME_UNCHANGED && r.outcome != RMG_OUTCOME_STAYED &&
            rmg_job_something_else(
                t->rom->list, t->rom->count)) { /* the same again would be diagnosed as before */
            t->rom->base = t->readings->len;
            status = begin(t, verdicts, n);
        }
    }
    if (!of->verdict.bare || t->base->bare)
        t->rom->right = !is_wrong(&of->verdict) &&
                        (t->rom->right || rmg_rom_verdict_covers(&of->verdict, t->base));
    add_pulled(t, &of->verdict, t->changes);
    t->followed = t->changes->len;
    r.list = g_memdup2(t->rom->list, t->rom->count * sizeof *t->rom->list);
    r.count = t->rom->count;
    g_array_append_val(t->readings, r);
    return status;
}

static rmg_status take_entry(thinking *t, const rmg_entry *e)
{
    uint16_t socket;
    rmg_measured measured;

    if (e->undone)
        return RMG_OK;
    if (e->kind == RMG_ENTRY_CHANGE)
        return rmg_job_changes_add(t->job->board, e->text, t->changes, t->error);
    if (e->kind == RMG_ENTRY_MEASURED &&
        rmg_job_at_socket(t->job->board, e->text, &socket, &measured) && t->base->sockets[socket]) {
        rmg_rom_measured_weigh(t->job->board, t->base, socket, measured, t->rom->list,
                               t->rom->count);
        add_look(t, RMG_CHANGE_MEASURE, socket, t->changes);
    }
    return RMG_OK;
}

static void settle(thinking *t)
{
    rmg_job_rom *rom = t->rom;

    rom->changes = rmg_job_changes_copy(t->changes);
    for (size_t i = t->followed; i < rom->changes.count; i++)
        rom->untested += rom->changes.list[i].kind != RMG_CHANGE_READ &&
                         rom->changes.list[i].kind != RMG_CHANGE_MEASURE &&
                         rmg_rom_change_concerns(t->job->board, t->base, rom->list, rom->count,
                                                 &rom->changes.list[i]);
    rom->reading_count = t->readings->len;
    rom->readings = rmg_array_take(t->readings);
    if (!rom->right)
        rmg_rom_advise(t->job->board, t->base, rom->list, rom->count, &rom->changes,
                       &t->state->costs, &rom->advice, &rom->advice_count);
}

/* One ROM, from the reading in which it was wrong on. */
static rmg_status think_one(thinking *t, const GArray *verdicts, size_t base)
{
    rmg_status status;

    t->changes = rmg_job_changes_new();
    t->readings = g_array_new(FALSE, TRUE, sizeof(rmg_job_reading));
    status = begin(t, verdicts, base);
    for (size_t e = g_array_index(verdicts, reading_of, base).entry, n = base;
         e < t->count && status == RMG_OK; e++) {
        const rmg_changes so_far = {(rmg_change *)(void *)t->changes->data, t->changes->len};

        if (n < verdicts->len && g_array_index(verdicts, reading_of, n).entry == e) {
            const rmg_rom_verdict *v = &g_array_index(verdicts, reading_of, n).verdict;

            if (v->complete && rmg_rom_verdict_concerns(v, t->base, &so_far))
                status = take_reading(t, verdicts, n);
            n++;
        } else {
            status = take_entry(t, &t->entries[e]);
        }
    }
    settle(t);
    g_array_free(t->changes, TRUE);
    return status;
}

/* The reading in which the causes of a ROM are found: the first in the board that is wrong; or, if
 * there is none, on its own pins. */
static size_t base_of(const GArray *verdicts, size_t first)
{
    const rmg_changes none = {NULL, 0};
    const rmg_rom_verdict *wrong = &g_array_index(verdicts, reading_of, first).verdict;

    for (size_t i = first; i < verdicts->len; i++) {
        const rmg_rom_verdict *v = &g_array_index(verdicts, reading_of, i).verdict;

        if (!v->bare && is_wrong(v) && rmg_rom_verdict_concerns(v, wrong, &none))
            return i;
    }
    return first;
}

/* Is the reading about a ROM that is worked out already? */
static bool is_told(const rmg_job_state *state, int64_t entry)
{
    for (size_t i = 0; i < state->rom_count; i++)
        for (size_t n = 0; n < state->roms[i].reading_count; n++)
            if (state->roms[i].readings[n].entry == entry)
                return true;
    return false;
}

static rmg_status read_verdicts(rmg_job *job, const rmg_entry *entries, size_t count,
                                GArray *verdicts, rmg_error *error)
{
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < count && status == RMG_OK; i++) {
        reading_of one = {.entry = i};
        char *result;

        if (entries[i].kind != RMG_ENTRY_RUN || entries[i].undone ||
            strcmp(entries[i].verb, "verify") != 0)
            continue;
        result = rmg_job_result(job, entries[i].number);
        if (!result)
            continue;
        status = rmg_rom_verdict_read(job->board, result, &one.verdict, error);
        g_free(result);
        g_array_append_val(verdicts, one);
    }
    return status;
}

/* Each reading of a ROM has the verdict of its own. */
static rmg_status give_verdicts(rmg_job *job, rmg_job_rom *rom, rmg_error *error)
{
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < rom->reading_count && status == RMG_OK; i++) {
        char *result = rmg_job_result(job, rom->readings[i].entry);

        status = rmg_rom_verdict_read(job->board, result ? result : "", &rom->readings[i].verdict,
                                      error);
        g_free(result);
    }
    return status;
}

static void clear_verdict(gpointer one)
{
    rmg_rom_verdict_free(&((reading_of *)one)->verdict);
}

rmg_status rmg_job_think_roms(rmg_job *job, const rmg_entry *entries, size_t count,
                              rmg_job_state *state, rmg_error *error)
{
    GArray *verdicts = g_array_new(FALSE, TRUE, sizeof(reading_of));
    rmg_status status;

    g_array_set_clear_func(verdicts, clear_verdict);
    status = read_verdicts(job, entries, count, verdicts, error);
    for (size_t i = 0; i < verdicts->len && status == RMG_OK; i++) {
        const reading_of *r = &g_array_index(verdicts, reading_of, i);
        thinking t = {
            .job = job, .entries = entries, .count = count, .state = state, .error = error};

        state->right_roms += r->verdict.complete && !is_wrong(&r->verdict);
        if (!is_wrong(&r->verdict) || is_told(state, entries[r->entry].number))
            continue;
        state->roms = g_renew(rmg_job_rom, state->roms, state->rom_count + 1u);
        t.rom = &state->roms[state->rom_count++];
        *t.rom = (rmg_job_rom){.base = 0};
        status = think_one(&t, verdicts, base_of(verdicts, i));
        if (status == RMG_OK)
            status = give_verdicts(job, t.rom, error);
    }
    g_array_free(verdicts, TRUE);
    return status;
}

void rmg_job_roms_free(rmg_job_state *state)
{
    for (size_t i = 0; i < state->rom_count; i++) {
        rmg_job_rom *rom = &state->roms[i];

        for (size_t n = 0; n < rom->reading_count; n++) {
            rmg_rom_verdict_free(&rom->readings[n].verdict);
            rmg_changes_free(&rom->readings[n].changes);
            rmg_hypotheses_free(rom->readings[n].list);
        }
        g_free(rom->readings);
        rmg_changes_free(&rom->changes);
        rmg_hypotheses_free(rom->list);
        rmg_advice_free(rom->advice, rom->advice_count);
    }
    g_free(state->roms);
}
