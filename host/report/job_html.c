/* The sheet of a job: one page of HTML. The first printed page is for the owner, in plain words;
 * what follows is the bench's record. Nothing is loaded from elsewhere, there is no script, and
 * every text is escaped. */
#include <glib.h>
#include <string.h>
#include <unistd.h>

#include "internal.h"
#include "rimeglass/report.h"

static const char style[] =
    "@page{size:A4;margin:16mm}"
    "body{font:11pt/1.45 'DejaVu Sans',sans-serif;color:#1d232c;background:#fbfaf7;margin:0}"
    "main{max-width:178mm;margin:8mm auto;padding:0 6mm}"
    "h1{font-size:20pt;margin:0 0 1mm}h2{font-size:13pt;margin:7mm 0 2mm}"
    "h2.record{break-before:page;border-top:1.5pt solid #39414d;padding-top:4mm}"
    ".soft{color:#5a616b}.words{border-left:3pt solid "
    "#8a8f98;padding-left:3mm;overflow-wrap:anywhere}"
    ".result{font-size:13pt;font-weight:bold}"
    "table{border-collapse:collapse;width:100%;font-size:9.5pt}"
    "th,td{text-align:left;vertical-align:top;padding:1mm 2mm;border-bottom:.5pt solid #c9ccd1;"
    "overflow-wrap:anywhere}"
    "td.n,th.n{text-align:right;white-space:nowrap}td.w{white-space:nowrap}.undone{text-decoration:"
    "line-through}"
    "svg{width:100%;height:auto;border:.5pt solid #c9ccd1}"
    "li{margin:.5mm 0}";

static void add(GString *out, const char *before, const char *text, const char *after)
{
    gchar *escaped = g_markup_escape_text(text, -1);

    g_string_append_printf(out, "%s%s%s", before, escaped, after);
    g_free(escaped);
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

/* The board with what failed, as drawn elsewhere; "" where its file places no socket. */
static gchar *drawing(const rmg_run *run, const rmg_suspects *suspects)
{
    gchar *folder = g_dir_make_tmp("rimeglass-XXXXXX", NULL);
    gchar *file = folder ? g_build_filename(folder, "board.svg", NULL) : NULL;
    gchar *svg = NULL, *start;
    rmg_error error = {0};

    if (file && rmg_draw_check(run->board, &error) == RMG_OK &&
        rmg_draw_run(run, suspects, file, &error) == RMG_OK)
        g_file_get_contents(file, &svg, NULL, NULL);
    if (file)
        unlink(file);
    if (folder)
        rmdir(folder);
    g_free(file);
    g_free(folder);
    rmg_error_free(&error);
    start = svg ? strstr(svg, "<svg") : NULL;
    if (start)
        memmove(svg, start, strlen(start) + 1u);
    return svg ? svg : g_strdup("");
}

static void add_head(GString *out, const rmg_job *job)
{
    const rmg_board *board = rmg_job_board(job);

    g_string_append(out, "<!DOCTYPE html>\n<!-- Rimeglass -->\n<html lang=\"en\"><head><meta "
                         "charset=\"utf-8\"><meta name=\"viewport\" "
                         "content=\"width=device-width\">");
    add(out, "<title>Repair of ", board->name, "</title>");
    g_string_append_printf(out, "<style>%s</style></head><body><main>\n", style);
    add(out, "<h1>Repair of ", board->name, "</h1>\n<p class=\"soft\">");
    if (*board->revision)
        add(out, "Revision ", board->revision, ". ");
    if (*rmg_job_owner(job))
        add(out, "Owner: ", rmg_job_owner(job), ". ");
    g_string_append_printf(out, "Begun %.10s.</p>\n", rmg_job_begun(job));
    if (*rmg_job_symptom(job))
        add(out, "<h2>What you told us</h2>\n<p class=\"words\">", rmg_job_symptom(job), "</p>\n");
}

/* Changes that put something new in: for the owner. */
static void add_done(GString *out, const rmg_job *job, const rmg_entry *entries, size_t count)
{
    const rmg_board *board = rmg_job_board(job);
    bool any = false;

    for (size_t i = 0; i < count; i++) {
        rmg_changes changes;
        rmg_error error;

        if (entries[i].kind != RMG_ENTRY_CHANGE || entries[i].undone ||
            rmg_changes_parse(board, entries[i].text, &changes, &error) != RMG_OK)
            continue;
        for (size_t n = 0; n < changes.count; n++) {
            const rmg_change *c = &changes.list[n];
            const bool replaced = c->kind == RMG_CHANGE_REPLACE || c->kind == RMG_CHANGE_FIT;

            if (!replaced && c->kind != RMG_CHANGE_REPAIR && c->kind != RMG_CHANGE_BRIDGE)
                continue;
            g_string_append(out, any ? "<li>" : "<h2>What was replaced or mended</h2>\n<ul><li>");
            any = true;
            if (replaced) {
                const rmg_part *part = board->sockets[c->socket].part;

                add(out, "The memory chip at place ", board->sockets[c->socket].name, "");
                add(out, part ? " (type " : "", part ? part->number : "", part ? ")" : "");
                add(out, c->text ? ", by " : "", c->text ? c->text : "", "</li>\n");
            } else {
                add(out, "The wiring at ", c->text, "</li>\n");
            }
        }
        rmg_changes_free(&changes);
    }
    g_string_append(out, any ? "</ul>\n" : "");
}

/* "... most likely, a memory chip had failed (U19), more than 99 % sure." */
static void add_found(GString *out, const rmg_job *job, const rmg_job_state *state)
{
    const rmg_hypothesis *h = &state->list[0];
    char *sure = rmg_percent(h->after);

    g_string_append_printf(out, "<p>Our tests found errors in the memory; most likely, %s",
                           plainly(h->belongs));
    if (h->socket != RMG_NO_SOCKET)
        add(out, " (at place ", rmg_job_board(job)->sockets[h->socket].name, ")");
    g_string_append_printf(out, ", %s sure.</p>\n", sure);
    g_free(sure);
}

static void add_owner_page(GString *out, const rmg_job *job, const rmg_job_state *state,
                           const rmg_entry *entries, size_t count)
{
    const rmg_job_step *last = state->step_count ? &state->steps[state->step_count - 1u] : NULL;

    g_string_append(out, "<h2>What was found</h2>\n");
    if (!last)
        g_string_append(out, "<p>The board has not been tested yet.</p>\n");
    else if (state->base >= state->step_count)
        g_string_append(out, "<p>In our tests the memory worked without any error.</p>\n");
    else if (state->count)
        add_found(out, job, state);
    add_done(out, job, entries, count);
    g_string_append(out, "<h2>How it stands</h2>\n<p class=\"result\">");
    if (!last)
        g_string_append(out, "Not tested.</p>\n");
    else if (state->passes)
        g_string_append_printf(out,
                               "The memory passes its test, %" G_GUINT64_FORMAT
                               " time%s in a row.</p>\n<p>An error that shows in at least %.0f of "
                               "100 such tests would have been seen.</p>\n",
                               last->file.run.pass_count, last->file.run.pass_count == 1 ? "" : "s",
                               rmg_excluded_share(last->file.run.pass_count) * 100);
    else
        g_string_append(out, "The memory still has errors: the repair is not finished.</p>\n");
    if (state->base < state->step_count) {
        gchar *svg = drawing(&state->steps[state->base].file.run, &state->suspects);

        if (*svg)
            g_string_append_printf(out, "<h2>The board, as it was found</h2>\n%s\n", svg);
        g_free(svg);
    }
}

static void add_timeline(GString *out, const rmg_job_state *state, const rmg_entry *entries,
                         size_t count)
{
    g_string_append(out, "<h2 class=\"record\">Record of the bench</h2>\n<table><tr><th "
                         "class=\"n\">No.</th><th>When (UTC)</th><th>What</th><th></th></tr>\n");
    for (size_t i = 0; i < count; i++) {
        const rmg_entry *e = &entries[i];

        g_string_append_printf(out, "<tr%s><td class=\"n\">%d</td><td>%.10s %.5s</td>",
                               e->undone ? " class=\"undone\"" : "", (int)e->number, e->at,
                               strlen(e->at) > 11 ? e->at + 11 : "");
        add(out, "<td class=\"w\">", e->kind == RMG_ENTRY_RUN ? e->verb : rmg_entry_name(e->kind),
            "</td>");
        add(out, "<td>", e->text, "");
        for (size_t s = 0; s < state->step_count; s++)
            if (state->steps[s].entry == e->number && state->steps[s].followed) {
                char **lines = rmg_trial_lines(&state->steps[s].trial, &state->suspects);

                for (size_t n = 0; lines[n] && n < 3; n++)
                    add(out, "<br><span class=\"soft\">", lines[n], "</span>");
                rmg_texts_free(lines);
            }
        g_string_append(out, "</td></tr>\n");
    }
    g_string_append(out, "</table>\n");
}

static void add_causes(GString *out, const rmg_job *job, const rmg_job_state *state)
{
    if (!state->count)
        return;
    g_string_append(out,
                    "<h2>What it can be</h2>\n<table><tr><th class=\"n\">Share</th><th>Belongs "
                    "to</th><th>Cause</th></tr>\n");
    for (size_t i = 0; i < state->count && i < 10; i++) {
        char *name = rmg_hypothesis_text(&state->suspects, &state->list[i]);

        g_string_append_printf(out, "<tr><td class=\"n\">%.1f %%</td>", state->list[i].after * 100);
        add(out, "<td>", rmg_belongs_name(state->list[i].belongs), "</td>");
        add(out, "<td>", name, "</td></tr>\n");
        rmg_text_free(name);
    }
    g_string_append(out, "</table>\n");
    for (size_t i = 0; i < state->advice_count && i < 3; i++) {
        char *text = rmg_advice_text(rmg_job_board(job), &state->advice[i]);

        add(out, i ? "<p>Or: " : "<p>Next: ", text, "</p>\n");
        rmg_text_free(text);
    }
}

static void add_chips(GString *out, const rmg_job_state *state)
{
    rmg_job_chips chips;

    rmg_job_chips_of(state, &chips);
    if (chips.count) {
        g_string_append(out, "<h2>Chips and places</h2>\n<table><tr><th>Chip</th>");
        for (size_t i = 0; i < chips.step_count; i++)
            g_string_append_printf(out, "<th>test %d</th>", (int)state->steps[i].entry);
        g_string_append(out, "</tr>\n");
        for (size_t n = 0; n < chips.count; n++) {
            add(out, "<tr><td>", chips.list[n].name, "</td>");
            for (size_t i = 0; i < chips.step_count; i++) {
                add(out, "<td>", chips.list[n].places[i] ? chips.list[n].places[i] : "out", "");
                g_string_append_printf(out, "%s</td>",
                                       chips.list[n].failed[i]   ? ", failed"
                                       : chips.list[n].places[i] ? ", passed"
                                                                 : "");
            }
            g_string_append(out, "</tr>\n");
        }
        g_string_append(out, "</table>\n");
    }
    rmg_job_chips_free(&chips);
}

static void add_not_tested(GString *out, const rmg_job_state *state)
{
    const rmg_run *run = state->step_count ? &state->steps[state->step_count - 1u].file.run : NULL;

    if (!run || !run->left_out_count)
        return;
    g_string_append(out, "<h2>Not tested</h2>\n<ul>\n");
    for (size_t i = 0; i < run->left_out_count; i++) {
        char text[40];

        add(out, "<li>",
            rmg_board_range_text(run->board, &run->left_out[i].range, text, sizeof text), " ");
        add(out, "", run->left_out[i].name, ": ");
        add(out, "", run->left_out[i].reason, "</li>\n");
    }
    g_string_append(out, "</ul>\n");
}

char *rmg_job_html(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                   size_t count)
{
    GString *out = g_string_new(NULL);

    add_head(out, job);
    add_owner_page(out, job, state, entries, count);
    add_timeline(out, state, entries, count);
    add_causes(out, job, state);
    add_chips(out, state);
    add_not_tested(out, state);
    g_string_append(out, "</main></body></html>\n");
    return g_string_free(out, FALSE);
}
