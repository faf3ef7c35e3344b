/* The live view on a terminal. */
#include "rimeglass/live.h"

#include <curses.h>
#include <glib.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#define REDRAW_US   100000
#define LABEL       13
#define CELLS       8 /* in a row of the chart */
#define LEAST_LINES 10
#define TYPED       16u

struct rmg_live {
    const rmg_board *board;
    char *title;
    SCREEN *screen;
    FILE *out, *in;
    gint64 shown_us, began_us, paused_us;
    double first_share; /* where it stood when the view began; negative: not known yet */
    char *pinned[RMG_LIVE_PINNED];
    unsigned pinned_count;
    bool paused, stop, help;
    bool typing;
    char typed[TYPED];
    int32_t heat_millic;
    const char *remark; /* to what was typed */
};

/* A row of the chart: chips of one bank, at most CELLS of them, the highest bits first. */
typedef struct chart_row {
    const char *label;
    bool first; /* it shows its label */
    rmg_live_cell cells[CELLS];
    char bits[CELLS][12]; /* above them, where that is the board's */
    unsigned count;
    bool fails;
} chart_row;

rmg_live *rmg_live_begin(const rmg_board *board, const char *title)
{
    const char *terminal = g_getenv("TERM");
    rmg_live *l;

    if (!isatty(STDOUT_FILENO) || !isatty(STDIN_FILENO) || !terminal || !*terminal ||
        strcmp(terminal, "dumb") == 0)
        return NULL;
    l = g_new0(rmg_live, 1);
    l->screen = newterm(NULL, stdout, stdin);
    if (!l->screen) {
        g_free(l);
        return NULL;
    }
    l->board = board;
    l->title = g_strdup(title);
    l->heat_millic = RMG_NOT_KNOWN;
    l->first_share = -1;
    l->began_us = g_get_monotonic_time();
    set_term(l->screen);
    cbreak();
    noecho();
    nodelay(stdscr, TRUE);
    keypad(stdscr, TRUE);
    curs_set(0);
    return l;
}

void rmg_live_end(rmg_live *l)
{
    if (!l)
        return;
    endwin();
    delscreen(l->screen);
    for (unsigned i = 0; i < l->pinned_count; i++)
        g_free(l->pinned[i]);
    g_free(l->title);
    g_free(l);
}

void rmg_live_pin(rmg_live *l, const char *text)
{
    if (l->pinned_count < RMG_LIVE_PINNED)
        l->pinned[l->pinned_count++] = g_strdup(text);
}

int32_t rmg_live_heat(const rmg_live *l)
{
    return l->heat_millic;
}

static gint by_bit(gconstpointer a, gconstpointer b)
{
    const unsigned x = rmg_rule_high_bit(*(const rmg_rule *const *)a);
    const unsigned y = rmg_rule_high_bit(*(const rmg_rule *const *)b);

    return (x < y) - (x > y);
}

static void add_cell(chart_row *row, const char *name, uint64_t failures)
{
    g_strlcpy(row->cells[row->count].name, name, sizeof row->cells->name);
    row->fails |= failures && failures != UINT64_MAX;
    row->cells[row->count++].failures = failures;
}

static void name_bits(const rmg_rule *rule, char *text, size_t room)
{
    unsigned low = rmg_rule_high_bit(rule);

    for (uint8_t i = 0; i < rule->width; i++)
        low = MIN(low, rule->data_bits[i]);
    if (low == rmg_rule_high_bit(rule))
        g_snprintf(text, (gulong)room, "D%u", low);
    else
        g_snprintf(text, (gulong)room, "D%u-%u", rmg_rule_high_bit(rule), low);
}

/* Rows of one bank. */
static void add_bank(const rmg_live *l, const rmg_live_state *state, uint8_t bank, GArray *rows)
{
    const rmg_board *board = l->board;
    GPtrArray *rules = g_ptr_array_new();

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank && board->banks[bank].part->kind != RMG_PART_ROM)
            g_ptr_array_add(rules, (gpointer)&board->placement.rules[r]);
    g_ptr_array_sort(rules, by_bit);
    for (guint i = 0; i < rules->len; i += CELLS) {
        chart_row row = {.label = board->banks[bank].name, .first = !i};

        for (guint n = i; n < rules->len && n < i + CELLS; n++) {
            const rmg_rule *rule = rules->pdata[n];

            name_bits(rule, row.bits[row.count], sizeof row.bits[0]);
            add_cell(&row, board->sockets[rule->socket].name, state->of_rule(state->context, rule));
        }
        g_array_append_val(rows, row);
    }
    g_ptr_array_free(rules, TRUE);
}

/* The rows of the chart, in the order of the board's banks or of the cells. */
static GArray *chart_rows(const rmg_live *l, const rmg_live_state *state)
{
    GArray *rows = g_array_new(FALSE, TRUE, sizeof(chart_row));

    for (size_t i = 0; i < state->cell_count; i += CELLS) {
        chart_row row = {.label = state->cells_are, .first = !i};

        for (size_t n = i; n < state->cell_count && n < i + CELLS; n++)
            add_cell(&row, state->cells[n].name, state->cells[n].failures);
        g_array_append_val(rows, row);
    }
    for (uint8_t b = 0; !state->cells && b < l->board->bank_count; b++)
        add_bank(l, state, b, rows);
    return rows;
}

static gint failing_first(gconstpointer a, gconstpointer b)
{
    const chart_row *x = a, *y = b;

    return x->fails < y->fails ? 1 : x->fails > y->fails ? -1 : 0;
}

/* "1234", "12k", "3M": what fits a cell. */
static void count_text(uint64_t count, char *text, size_t room)
{
    if (count == UINT64_MAX)
        g_strlcpy(text, "-", room);
    else if (count < 100000)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT, count);
    else if (count < 10000000)
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT "k", count / 1000);
    else
        g_snprintf(text, (gulong)room, "%" G_GUINT64_FORMAT "M", count / 1000000);
}

/* Two lines: names, and below them how often each failed. */
static void draw_row(const chart_row *row, int y)
{
    const int width = MIN((COLS - LABEL) / CELLS, 11);

    if (row->first)
        mvprintw(y, 1, "%.*s", LABEL - 2, row->label);
    for (unsigned i = 0; i < row->count; i++) {
        const uint64_t failures = row->cells[i].failures;
        const bool failing = failures && failures != UINT64_MAX;
        const int x = LABEL + (int)i * width;
        char text[24], name[24];

        g_snprintf(name, sizeof name, failing ? ">%s<" : "%s ", row->cells[i].name);
        count_text(failures, text, sizeof text);
        if (failing)
            attron(A_BOLD | A_REVERSE);
        mvprintw(y, x + MAX(width - (int)strlen(name), 0), "%s", name);
        if (failing)
            attroff(A_REVERSE);
        mvprintw(y + 1, x + MAX(width - 1 - (int)strlen(text), 0), "%s", text);
        if (failing)
            attroff(A_BOLD);
    }
}

/* One heading serves all rows, if they hold the same bits. */
static void draw_bits(const GArray *rows, int y)
{
    const int width = MIN((COLS - LABEL) / CELLS, 11);
    const chart_row *first = &g_array_index(rows, chart_row, 0);

    for (guint i = 1; i < rows->len; i++)
        if (memcmp(g_array_index(rows, chart_row, i).bits, first->bits, sizeof first->bits) != 0)
            return;
    attron(A_DIM);
    for (unsigned i = 0; i < first->count; i++)
        mvprintw(y, LABEL + (int)i * width + MAX(width - 1 - (int)strlen(first->bits[i]), 0), "%s",
                 first->bits[i]);
    attroff(A_DIM);
}

/* The chart below its heading, and the lines that it took; where it does not fit, rows that fail
 * come first. */
static int draw_chart(const rmg_live *l, const rmg_live_state *state, int y, int lines)
{
    GArray *rows = chart_rows(l, state);
    const guint room = (guint)MAX(lines / 2, 0);

    if (rows->len)
        draw_bits(rows, y - 1);
    if (rows->len > room) {
        g_array_sort(rows, failing_first);
        for (guint i = 0; i < rows->len; i++)
            g_array_index(rows, chart_row, i).first = true;
    }
    for (guint i = 0; i < rows->len && i < room; i++)
        draw_row(&g_array_index(rows, chart_row, i), y + 2 * (int)i);
    if (rows->len > room)
        mvprintw(y + 2 * (int)room, LABEL, "and %u more row%s: enlarge the window",
                 rows->len - room, rows->len - room == 1 ? "" : "s");
    lines = MIN((int)rows->len * 2, lines);
    g_array_free(rows, TRUE);
    return lines;
}

static void time_text(double seconds, char *text, size_t room)
{
    if (seconds < 100)
        g_snprintf(text, (gulong)room, "%.0f s", seconds);
    else if (seconds < 6000)
        g_snprintf(text, (gulong)room, "%.0f min", seconds / 60);
    else
        g_snprintf(text, (gulong)room, "%.1f h", seconds / 3600);
}

/* A bar of so many columns, filled by signs, not by colour. */
static void draw_bar(int y, int x, int width, double share)
{
    const int filled = (int)((double)width * MIN(MAX(share, 0), 1));

    mvaddch(y, x, '[');
    for (int i = 0; i < width; i++)
        addch(i < filled ? '#' : '.');
    addch(']');
}

static void draw_state(rmg_live *l, const rmg_live_state *s)
{
    const double spent = (double)(g_get_monotonic_time() - l->began_us - l->paused_us) / 1e6;
    GString *text = g_string_new(NULL);
    const int32_t heat = l->heat_millic != RMG_NOT_KNOWN ? l->heat_millic : s->heat_millic;
    char left[24];

    if (l->first_share < 0 && s->share >= 0)
        l->first_share = s->share;
    if (s->pass)
        g_string_append_printf(text, "pass %" G_GUINT64_FORMAT, s->pass);
    if (s->passes)
        g_string_append_printf(text, " of %u", s->passes);
    g_string_append_printf(text, "%s%s", text->len ? ", " : "", s->what);
    if (heat != RMG_NOT_KNOWN)
        g_string_append_printf(text, ", %.1f C%s", heat / 1000.0,
                               l->heat_millic != RMG_NOT_KNOWN ? " as typed" : "");
    mvprintw(1, 1, "%.*s", COLS - 2, text->str);
    g_string_truncate(text, 0);
    if (s->share >= 0) {
        draw_bar(2, 1, 30, s->share);
        g_string_append_printf(text, "%3.0f %%", MIN(s->share, 1) * 100);
        if (s->share - l->first_share > 0.01 && spent > 1) {
            time_text(spent / (s->share - l->first_share) * (1 - s->share), left, sizeof left);
            g_string_append_printf(text, ", about %s left", left);
        }
        mvprintw(2, 34, "%.*s", MAX(COLS - 35, 0), text->str);
    } else if (s->pass_share >= 0) {
        draw_bar(2, 1, 30, s->pass_share);
        mvprintw(2, 34, "of this pass");
    }
    g_string_free(text, TRUE);
}

static void draw_failures(const rmg_live *l, const rmg_live_state *s, int y, int lines)
{
    if (lines < 1)
        return;
    attron(A_UNDERLINE);
    mvprintw(y, 1, "%" G_GUINT64_FORMAT " %s%s", s->failures,
             s->failures_are ? s->failures_are : "failure", s->failures == 1 ? "" : "s");
    attroff(A_UNDERLINE);
    if (l->pinned_count)
        printw(", the first:");
    for (unsigned i = 0; i < l->pinned_count && (int)i + 1 < lines; i++)
        mvprintw(y + 1 + (int)i, 3, "%.*s", MAX(COLS - 4, 0), l->pinned[i]);
}

static void draw_keys(const rmg_live *l)
{
    const int y = LINES - 1;

    if (l->typing)
        mvprintw(y, 1, "temperature in degrees Celsius, then Enter: %s_", l->typed);
    else if (l->remark)
        mvprintw(y, 1, "%.*s", COLS - 2, l->remark);
    else if (l->paused)
        mvprintw(y, 1, "PAUSED   p goes on   s stops");
    else
        mvprintw(y, 1, "p pause   s stop   t temperature   h help");
}

static void draw_help(void)
{
    static const char *const lines[] = {
        "p   pause: no access is made until p is pressed again; a board goes on refreshing",
        "    by itself, or does not",
        "s   stop after the access that is running, then report (like Ctrl-C)",
        "t   type the temperature of the board; passes that end from then on are noted",
        "    with it",
        "h   this help, and back",
        "",
        ">U21< and the number below it: failures of that socket. A dash: nothing is known.",
    };

    for (size_t i = 0; i < G_N_ELEMENTS(lines); i++)
        mvprintw(4 + (int)i, 2, "%.*s", MAX(COLS - 3, 0), lines[i]);
}

static void draw(rmg_live *l, const rmg_live_state *s)
{
    const int failures = MIN((int)RMG_LIVE_PINNED + 1, MAX(LINES / 4, 2));
    const int chart = LINES - 4 - failures - 2;

    erase();
    attron(A_BOLD);
    mvprintw(0, 1, "%.*s", COLS - 2, l->title);
    attroff(A_BOLD);
    if (LINES < LEAST_LINES || COLS < 40) {
        mvprintw(1, 1, "%.*s", MAX(COLS - 2, 0), "enlarge the window");
    } else if (l->help) {
        draw_help();
        draw_keys(l);
    } else {
        draw_state(l, s);
        draw_failures(l, s, 5 + draw_chart(l, s, 4, chart), failures);
        draw_keys(l);
    }
    refresh();
}

/* A key while a temperature is typed. */
static void type_key(rmg_live *l, int key)
{
    const size_t length = strlen(l->typed);

    if (key == '\n' || key == KEY_ENTER) {
        gchar *end = NULL;
        const double heat = g_ascii_strtod(l->typed, &end);

        l->typing = false;
        if (end == l->typed || *end || !(heat >= -273) || !(heat <= 1000))
            l->remark = "that is no temperature; t to try again";
        else
            l->heat_millic = (int32_t)(heat * 1000);
    } else if (key == 27) {
        l->typing = false;
    } else if ((key == KEY_BACKSPACE || key == 127 || key == '\b') && length) {
        l->typed[length - 1u] = '\0';
    } else if (length + 1u < TYPED && (g_ascii_isdigit(key) || key == '.' || key == '-')) {
        l->typed[length] = (char)key;
    }
}

static void take_key(rmg_live *l, int key)
{
    l->remark = NULL;
    if (l->typing) {
        type_key(l, key);
        return;
    }
    switch (key) {
    case 'p':
        l->paused = !l->paused;
        break;
    case 's':
        l->stop = true;
        break;
    case 'h':
        l->help = !l->help;
        break;
    case 't':
        memset(l->typed, 0, sizeof l->typed);
        l->typing = true;
        break;
    case KEY_RESIZE: /* the library knows the new size already */
        break;
    default:
        l->remark = "no such key; h lists them";
    }
}

/* All keys that were pressed. */
static void take_keys(rmg_live *l)
{
    for (int key = getch(); key != ERR; key = getch())
        take_key(l, key);
}

bool rmg_live_show(rmg_live *l, const rmg_live_state *state, bool (*stopped)(void))
{
    const gint64 now = g_get_monotonic_time();

    if (l->shown_us && now - l->shown_us < REDRAW_US)
        return !l->stop;
    l->shown_us = now;
    take_keys(l);
    draw(l, state);
    while (l->paused && !l->stop && !(stopped && stopped())) {
        g_usleep(50000);
        take_keys(l);
        draw(l, state);
    }
    l->paused_us += g_get_monotonic_time() - now;
    return !l->stop;
}
