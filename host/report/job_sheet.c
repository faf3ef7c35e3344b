/* What stands on the sheet of a job: the first page for the owner, in plain words; then the bench's
 * record. */
#include "sheet.h"

#include <string.h>

#include "internal.h"

#define CAUSES_SHOWN 10u
#define ADVICE_SHOWN 3u

static void free_block(gpointer data)
{
    sheet_block *b = data;

    g_free(b->text);
    g_strfreev(b->cells);
}

static void say(GArray *sheet, sheet_kind kind, const char *format, ...) G_GNUC_PRINTF(3, 4);
static void say(GArray *sheet, sheet_kind kind, const char *format, ...)
{
    sheet_block b = {.kind = kind};
    va_list args;

    va_start(args, format);
    b.text = g_strdup_vprintf(format, args);
    va_end(args);
    g_array_append_val(sheet, b);
}

/* A row of these cells, which are taken over; NULL at the end. */
static void row(GArray *sheet, sheet_kind kind, GPtrArray *cells)
{
    sheet_block b = {.kind = kind};

    g_ptr_array_add(cells, NULL);
    b.cells = (gchar **)g_ptr_array_free(cells, FALSE);
    g_array_append_val(sheet, b);
}

static GPtrArray *cells_of(const char *first, ...) G_GNUC_NULL_TERMINATED;
static GPtrArray *cells_of(const char *first, ...)
{
    GPtrArray *cells = g_ptr_array_new();
    va_list args;

    va_start(args, first);
    for (const char *c = first; c; c = va_arg(args, const char *))
        g_ptr_array_add(cells, g_strdup(c));
    va_end(args);
    return cells;
}

/* Plain words for what belongs to what. */
static const char *plainly(rmg_belongs belongs)
{
    static const char *const words[] = {
        "a memory chip had failed",
        "a memory chip made no proper contact in its place",
        "the wiring at one memory chip was damaged",
        "a wire that several memory chips share was damaged",
        "the part that chooses between rows of memory chips did not work",
        "the memory's power, temperature or timing was not right",
        "the cause could not be named for certain"};

    return words[belongs];
}

static const char *rom_plainly(rmg_belongs belongs)
{
    static const char *const words[] = {
        "the chip itself was at fault, or what had been stored in it",
        "it made no proper contact in its place",
        "the wiring at that chip was damaged",
        "a wire that several chips share was damaged",
        "the part that chooses that chip did not work",
        "its power, temperature or timing was not right",
        "the cause could not be named for certain"};

    return words[belongs];
}

static void add_head(GArray *sheet, const rmg_job *job)
{
    const rmg_board *board = rmg_job_board(job);

    say(sheet, SHEET_TITLE, "Repair of %s", board->name);
    say(sheet, SHEET_SOFT, "%s%s%s%s%s%sBegun %.10s.", *board->revision ? "Revision " : "",
        board->revision, *board->revision ? ". " : "", *rmg_job_owner(job) ? "Owner: " : "",
        rmg_job_owner(job), *rmg_job_owner(job) ? ". " : "", rmg_job_begun(job));
    if (*rmg_job_symptom(job)) {
        say(sheet, SHEET_HEADING, "What you told us");
        say(sheet, SHEET_WORDS, "%s", rmg_job_symptom(job));
    }
}

static bool is_replaced(const rmg_change *c)
{
    return c->kind == RMG_CHANGE_REPLACE || c->kind == RMG_CHANGE_FIT;
}

/* Where the chip that came with it is at the end; RMG_NO_SOCKET: not on the board any more. */
static uint16_t place_at_last(const rmg_changes *all, size_t i)
{
    return rmg_chip_now(all->list + i + 1, all->count - i - 1, all->list[i].socket);
}

/* Is it the chip that was in that socket at first, put back? */
static bool is_put_back(const rmg_board *board, const rmg_change *c)
{
    static const char first[] = "first in ";

    return is_replaced(c) && c->text && g_str_has_prefix(c->text, first) &&
           g_ascii_strcasecmp(c->text + strlen(first), board->sockets[c->socket].name) == 0;
}

/* A change that put something new in, or mended something: for the owner. */
static void add_change(GArray *sheet, const rmg_board *board, const rmg_change *c, bool *any)
{
    const bool replaced = is_replaced(c);
    const rmg_part *part;

    if (!replaced && c->kind != RMG_CHANGE_REPAIR && c->kind != RMG_CHANGE_BRIDGE)
        return;
    if (!*any)
        say(sheet, SHEET_HEADING, "What was replaced or mended");
    *any = true;
    if (replaced) {
        part = board->sockets[c->socket].part;
        say(sheet, SHEET_ITEM, "The %schip at place %s%s%s%s%s%s",
            part && part->kind == RMG_PART_ROM ? "" : "memory ", board->sockets[c->socket].name,
            part ? " (type " : "", part ? part->number : "", part ? ")" : "",
            c->text ? ", by one marked " : "", c->text ? c->text : "");
    } else {
        say(sheet, SHEET_ITEM, "The wiring at %s",
            c->text ? c->text : board->sockets[c->socket].name);
    }
}

/* What is new on the board at the end; what was only tried stands in the record. */
static void add_done(GArray *sheet, const rmg_job *job, const rmg_entry *entries, size_t count)
{
    GString *text = g_string_new(NULL);
    rmg_changes all = {0};
    rmg_error error = {0};
    bool any = false;

    for (size_t i = 0; i < count; i++) {
        if (entries[i].kind != RMG_ENTRY_CHANGE || entries[i].undone)
            continue;
        if (rmg_changes_parse(rmg_job_board(job), entries[i].text, &all, &error) == RMG_OK)
            g_string_append_printf(text, "%s; ", entries[i].text);
        rmg_changes_free(&all);
        rmg_error_free(&error);
    }
    if (text->len)
        (void)rmg_changes_parse(rmg_job_board(job), text->str, &all, &error);
    for (size_t i = 0; i < all.count; i++) {
        rmg_change c = all.list[i];

        if (is_replaced(&c))
            c.socket = place_at_last(&all, i);
        if (!is_replaced(&c) || (c.socket != RMG_NO_SOCKET && !is_put_back(rmg_job_board(job), &c)))
            add_change(sheet, rmg_job_board(job), &c, &any);
    }
    rmg_changes_free(&all);
    rmg_error_free(&error);
    g_string_free(text, TRUE);
}

/* " (at place U19, moved to U20 to make sure)": where the cause was, and its chip was seen last. */
static gchar *place_text(const rmg_board *board, const rmg_job_state *state,
                         const rmg_hypothesis *h)
{
    uint16_t last = h->socket;

    if (h->socket == RMG_NO_SOCKET)
        return g_strdup("");
    for (size_t n = 1; h->belongs == RMG_BELONGS_CHIP && n <= state->changes.count; n++) {
        const uint16_t now = rmg_chip_now(state->changes.list, n, h->socket);

        last = now == RMG_NO_SOCKET ? last : now;
    }
    if (last == h->socket)
        return g_strdup_printf(" (at place %s)", board->sockets[last].name);
    return g_strdup_printf(" (at place %s, moved to %s to make sure)",
                           board->sockets[h->socket].name, board->sockets[last].name);
}

/* A chip and a place that are known not to work together; false: there are none. */
static bool found_together(GArray *sheet, const rmg_board *board, const rmg_job_state *state)
{
    rmg_job_combination *list;
    size_t count;
    bool found = false;

    rmg_job_combinations_of(state, &list, &count);
    for (size_t i = 0; i < count && !found; i++) {
        found = rmg_job_combination_sure(&list[i]);
        if (found)
            say(sheet, SHEET_TEXT,
                "Our tests found errors in the memory. The memory chip %s does not work at place "
                "%s%s; elsewhere that chip works, and other chips work there.",
                list[i].chip, board->sockets[list[i].socket].name,
                list[i].slower ? ", where it is too slow" : "");
    }
    rmg_job_combinations_free(list, count);
    return found;
}

/* The other faults at once that are still there, a sentence each. */
static void add_found_besides(GArray *sheet, const rmg_board *board, const rmg_job_state *state)
{
    for (size_t i = 1; i < state->count; i++) {
        const size_t n = rmg_cause_to_say(&state->suspects, state->list, state->count, i);
        const rmg_hypothesis *h = &state->list[n];
        gchar *sure, *place;

        if (h->fault == state->list[i - 1u].fault ||
            rmg_fault_gone(state->list, state->count, h->fault) >= 0.5)
            continue;
        sure = rmg_percent(h->after);
        place = place_text(board, state, h);
        say(sheet, SHEET_TEXT, "There %s another fault besides: most likely, %s%s, %s sure.",
            n > i ? "may be" : "is", plainly(h->belongs), place, sure);
        g_free(place);
        g_free(sure);
    }
}

/* "chip " before its name; of a region its name says what it is. */
static const char *rom_kind(const rmg_job_rom *rom)
{
    return g_str_has_prefix(rom->readings[rom->base].verdict.what, "region ") ? "" : "chip ";
}

/* The chips with programs that were read. */
static void add_found_roms(GArray *sheet, const rmg_job_state *state)
{
    for (size_t i = 0; i < state->rom_count; i++) {
        const rmg_job_rom *rom = &state->roms[i];
        gchar *sure = rmg_percent(rom->count ? rom->list[0].after : 0);

        say(sheet, SHEET_TEXT, "The %s%s was read, and was wrong; most likely, %s, %s sure.",
            rom_kind(rom), rom->readings[rom->base].verdict.what,
            rom_plainly(rom->count ? rom->list[0].belongs : RMG_BELONGS_UNKNOWN), sure);
        g_free(sure);
    }
    if (!state->rom_count && state->right_roms)
        say(sheet, SHEET_TEXT, "What is stored in the chips that were read was right.");
}

static void add_found(GArray *sheet, const rmg_job *job, const rmg_job_state *state)
{
    const size_t n =
        state->count ? rmg_cause_to_say(&state->suspects, state->list, state->count, 0) : 0;
    const rmg_hypothesis *h = state->count ? &state->list[n] : NULL;
    gchar *sure, *place;

    say(sheet, SHEET_HEADING, "What was found");
    add_found_roms(sheet, state);
    if (!state->step_count && (state->rom_count || state->right_roms)) {
        say(sheet, SHEET_TEXT, "The memory has not been tested.");
    } else if (!state->step_count) {
        say(sheet, SHEET_TEXT, "The board has not been tested yet.");
    } else if (state->base >= state->step_count) {
        say(sheet, SHEET_TEXT, "In our tests the memory worked without any error.");
    } else if (state->misnamed) {
        say(sheet, SHEET_TEXT,
            "Our tests found errors in the memory. Which chip they come from is not known yet: the "
            "list of their names turned out to be wrong.");
    } else if (found_together(sheet, rmg_job_board(job), state)) {
        return;
    } else if (h) {
        sure = rmg_percent(h->after);
        place = place_text(rmg_job_board(job), state, h);
        say(sheet, SHEET_TEXT, "Our tests found errors in the memory; most likely, %s%s, %s sure.",
            plainly(h->belongs), place, sure);
        g_free(place);
        g_free(sure);
        add_found_besides(sheet, rmg_job_board(job), state);
    } else {
        say(sheet, SHEET_TEXT,
            "Our tests found errors in the memory, but none that points to a place.");
    }
}

static void add_stand(GArray *sheet, const rmg_job_state *state)
{
    const rmg_run *last = state->step_count ? &state->steps[state->step_count - 1u].file.run : NULL;

    say(sheet, SHEET_HEADING, "How it stands");
    for (size_t i = 0; i < state->rom_count; i++)
        say(sheet, SHEET_RESULT, "The %s%s %s.", rom_kind(&state->roms[i]),
            state->roms[i].readings[state->roms[i].base].verdict.what,
            state->roms[i].right ? "reads right"
                                 : "is still read wrong: the repair is not finished");
    if (!last && state->rom_count) {
        return;
    } else if (!last) {
        say(sheet, SHEET_RESULT, "Not tested.");
    } else if (!state->passes) {
        say(sheet, SHEET_RESULT, "The memory still has errors: the repair is not finished.");
    } else {
        say(sheet, SHEET_RESULT,
            "The memory passes its test, %" G_GUINT64_FORMAT " time%s in a row.", last->pass_count,
            last->pass_count == 1 ? "" : "s");
        say(sheet, SHEET_TEXT,
            "An error that shows in at least %.0f of 100 such tests would have been seen.",
            rmg_excluded_share(last->pass_count) * 100);
    }
}

static const rmg_job_step *step_of(const rmg_job_state *state, const rmg_entry *e)
{
    for (size_t i = 0; i < state->step_count; i++)
        if (state->steps[i].entry == e->number)
            return &state->steps[i];
    return NULL;
}

/* What followed from a verification. */
static void add_reading(const rmg_board *board, const rmg_job_state *state, const rmg_entry *e,
                        GString *text)
{
    for (size_t i = 0; i < state->rom_count; i++)
        for (size_t n = 0; n < state->roms[i].reading_count; n++) {
            char *said;

            if (state->roms[i].readings[n].entry != e->number)
                continue;
            said = rmg_job_reading_text(board, &state->roms[i], n);
            g_string_append_printf(text, "%s%s", *said ? "\n" : "", said);
            rmg_text_free(said);
        }
}

static void add_timeline(GArray *sheet, const rmg_board *board, const rmg_job_state *state,
                         const rmg_entry *entries, size_t count)
{
    say(sheet, SHEET_RECORD, "Record of the bench");
    row(sheet, SHEET_HEADS, cells_of("No.", "When (UTC)", "What", "", NULL));
    for (size_t i = 0; i < count; i++) {
        const rmg_entry *e = &entries[i];
        const rmg_job_step *step = step_of(state, e);
        GString *text = g_string_new(e->text);
        gchar *number = g_strdup_printf("%d", (int)e->number);
        gchar *at = g_strdup_printf("%.10s %.5s", e->at, strlen(e->at) > 11 ? e->at + 11 : "");

        g_strdelimit(text->str, "\n", ' ');
        add_reading(board, state, e, text);
        if (step && step->followed) {
            char **lines = rmg_trial_lines(
                &step->trial, rmg_job_suspects_at(state, (size_t)(step - state->steps)));

            for (size_t n = 0; lines[n] && n < 3; n++)
                g_string_append_printf(text, "\n%s", lines[n]);
            rmg_texts_free(lines);
        } else if (step && step->why_not) {
            g_string_append_printf(text, "\nNot compared: %s", step->why_not);
        }
        row(sheet, e->undone ? SHEET_STRUCK : SHEET_ROW,
            cells_of(number, at, e->kind == RMG_ENTRY_RUN ? e->verb : rmg_entry_name(e->kind),
                     text->str, NULL));
        g_string_free(text, TRUE);
        g_free(number);
        g_free(at);
    }
}

/* Chips and places that are not right together; false: there are none. */
static bool add_combinations(GArray *sheet, const rmg_board *board, const rmg_job_state *state)
{
    rmg_job_combination *list;
    size_t count;

    rmg_job_combinations_of(state, &list, &count);
    for (size_t i = 0; i < count; i++) {
        char *text = rmg_job_combination_text(board, &list[i]);
        char *next = rmg_job_combination_next(board, &list[i]);

        if (!i)
            say(sheet, SHEET_HEADING, "Not right together");
        say(sheet, SHEET_TEXT, "%s", text);
        say(sheet, SHEET_TEXT, "%s", next);
        rmg_text_free(text);
        rmg_text_free(next);
    }
    rmg_job_combinations_free(list, count);
    return count != 0;
}

/* Of several faults at once, a row before the causes of each. */
static void add_fault(GArray *sheet, const rmg_suspects *suspects, const rmg_hypothesis *list,
                      size_t count, unsigned fault)
{
    char *name = rmg_fault_text(suspects, list, count, fault);

    if (name)
        row(sheet, SHEET_ROW, cells_of("", name, "", NULL));
    rmg_text_free(name);
}

static void add_list(GArray *sheet, const rmg_board *board, const rmg_suspects *suspects,
                     const rmg_changes *changes, const rmg_hypothesis *list, size_t count)
{
    row(sheet, SHEET_HEADS, cells_of("Share", "Belongs to", "Cause", NULL));
    for (size_t i = 0, shown = 0; i < count; i++) {
        shown = i && list[i].fault == list[i - 1].fault ? shown + 1u : 0;
        if (shown >= CAUSES_SHOWN)
            continue;
        if (!shown)
            add_fault(sheet, suspects, list, count, list[i].fault);
        char *name = rmg_hypothesis_text(board, suspects, changes, &list[i]);
        gchar *share = g_strdup_printf("%.1f %%", list[i].after * 100);

        row(sheet, SHEET_ROW, cells_of(share, rmg_belongs_name(list[i].belongs), name, NULL));
        g_free(share);
        rmg_text_free(name);
    }
}

static void add_advice(GArray *sheet, const rmg_board *board, const rmg_advice *advice,
                       size_t count, char *(*words)(const rmg_board *, const rmg_advice *))
{
    for (size_t i = 0; i < count && i < ADVICE_SHOWN; i++) {
        char *text = words(board, &advice[i]);

        say(sheet, SHEET_TEXT, "%s: %s", i ? "Or" : "Next", text);
        rmg_text_free(text);
    }
}

static void add_causes(GArray *sheet, const rmg_job *job, const rmg_job_state *state, bool together)
{
    const rmg_board *board = rmg_job_board(job);

    if (state->count) {
        say(sheet, SHEET_HEADING,
            together ? "What it can be, were it one cause" : "What it can be");
        add_list(sheet, board, &state->suspects, &state->changes, state->list, state->count);
        add_advice(sheet, board, state->advice, state->advice_count, rmg_advice_text);
    }
    for (size_t i = 0; i < state->rom_count; i++) {
        const rmg_job_rom *rom = &state->roms[i];
        const rmg_rom_verdict *base = &rom->readings[rom->base].verdict;

        say(sheet, SHEET_HEADING, "What it can be: %s", base->what);
        add_list(sheet, board, &base->suspects, &rom->changes, rom->list, rom->count);
        add_advice(sheet, board, rom->advice, rom->advice_count, rmg_job_rom_advice_text);
    }
}

static void add_chips(GArray *sheet, const rmg_job_state *state)
{
    rmg_job_chips chips;
    GPtrArray *cells;

    rmg_job_chips_of(state, &chips);
    if (chips.count) {
        say(sheet, SHEET_HEADING, "Chips and places");
        cells = cells_of("Chip", NULL);
        for (size_t i = 0; i < chips.step_count; i++)
            g_ptr_array_add(cells, g_strdup_printf("test %d", (int)state->steps[i].entry));
        row(sheet, SHEET_HEADS, cells);
    }
    for (size_t n = 0; n < chips.count; n++) {
        cells = cells_of(chips.list[n].name, NULL);
        for (size_t i = 0; i < chips.step_count; i++)
            g_ptr_array_add(
                cells,
                g_strdup_printf("%s%s", chips.list[n].places[i] ? chips.list[n].places[i] : "out",
                                chips.list[n].failed[i]   ? ", failed"
                                : chips.list[n].places[i] ? ", passed"
                                                          : ""));
        row(sheet, SHEET_ROW, cells);
    }
    rmg_job_chips_free(&chips);
    for (size_t i = 0; i < state->elsewhere_count; i++) {
        char *text = rmg_job_elsewhere_text(&state->elsewhere[i]);

        say(sheet, SHEET_ITEM, "%s", text);
        rmg_text_free(text);
    }
}

static void add_not_tested(GArray *sheet, const rmg_job_state *state)
{
    const rmg_run *run = state->step_count ? &state->steps[state->step_count - 1u].file.run : NULL;

    if (!run || !run->left_out_count)
        return;
    say(sheet, SHEET_HEADING, "Not tested");
    for (size_t i = 0; i < run->left_out_count; i++) {
        char text[40];

        say(sheet, SHEET_ITEM, "%s %s: %s",
            rmg_board_range_text(run->board, &run->left_out[i].range, text, sizeof text),
            run->left_out[i].name, run->left_out[i].reason);
    }
}

GArray *rmg_sheet_of(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                     size_t count)
{
    GArray *sheet = g_array_new(FALSE, TRUE, sizeof(sheet_block));
    const sheet_block drawing = {.kind = SHEET_DRAWING};
    rmg_error error;

    g_array_set_clear_func(sheet, free_block);
    add_head(sheet, job);
    add_found(sheet, job, state);
    add_done(sheet, job, entries, count);
    add_stand(sheet, state);
    if (state->base < state->step_count && !state->misnamed) { /* else it would mark a chip */
        if (rmg_draw_check(state->steps[state->base].file.board, &error) == RMG_OK) {
            say(sheet, SHEET_HEADING, "The board, as it was found");
            g_array_append_val(sheet, drawing);
        } else {
            rmg_error_free(&error);
        }
    }
    add_timeline(sheet, rmg_job_board(job), state, entries, count);
    add_causes(sheet, job, state, add_combinations(sheet, rmg_job_board(job), state));
    add_chips(sheet, state);
    add_not_tested(sheet, state);
    return sheet;
}
