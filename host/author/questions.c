/* The questions of a board file, in a table: what is asked, how it is answered, what an empty
 * answer stands for; and the answers about the board as a whole. */
#include "questions.h"

#include <string.h>

static rmg_status take_board(draft *d, const char *text, asked *next, rmg_error *error)
{
    (void)error;
    d->name = g_strdup(text);
    *next = ASK_REVISION;
    return RMG_OK;
}

static rmg_status take_revision(draft *d, const char *text, asked *next, rmg_error *error)
{
    (void)error;
    d->revision = strcmp(text, "none") == 0 ? NULL : g_strdup(text);
    *next = ASK_WORD;
    return RMG_OK;
}

static rmg_status number_in(const char *text, unsigned low, unsigned high, unsigned *number,
                            rmg_error *error)
{
    uint64_t value = 0;

    if (!rmg_number_parse(text, &value) || value < low || value > high)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "found \"%s\", expected a number from %u to %u", text, low, high);
    *number = (unsigned)value;
    return RMG_OK;
}

static rmg_status take_word(draft *d, const char *text, asked *next, rmg_error *error)
{
    *next = ASK_LINES;
    return number_in(text, 1, 64, &d->word, error);
}

static rmg_status take_lines(draft *d, const char *text, asked *next, rmg_error *error)
{
    const bool either = d->word >= 16 && !(d->word & (d->word - 1u));

    *next = either ? ASK_ADDRESSES : ASK_PAGES;
    return number_in(text, 2u + rmg_draft_shift(d), 48, &d->lines, error);
}

static rmg_status take_addresses(draft *d, const char *text, asked *next, rmg_error *error)
{
    if (strcmp(text, "bytes") != 0 && strcmp(text, "words") != 0)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL, "found \"%s\", expected bytes or words",
                        text);
    d->words = strcmp(text, "words") == 0;
    *next = ASK_PAGES;
    return RMG_OK;
}

/* "0x1000-0x1FFF select 0x3000 count 4" */
static rmg_status take_pages(draft *d, const char *text, asked *next, rmg_error *error)
{
    gchar **words = g_strsplit(text, " ", -1);
    uint64_t first, last, select, count;
    rmg_status status = RMG_OK;

    *next = ASK_REGION;
    if (strcmp(text, "no") == 0) {
        d->pages = NULL;
    } else if (g_strv_length(words) != 5 || !rmg_range_parse(words[0], &first, &last) ||
               strcmp(words[1], "select") != 0 || !rmg_number_parse(words[2], &select) ||
               strcmp(words[3], "count") != 0 || !rmg_number_parse(words[4], &count)) {
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected no, or the window, where the page is selected and "
                     "how many there are, like 0x1000-0x1FFF select 0x3000 count 4",
                     text);
    } else {
        d->pages =
            g_strdup_printf("window: 0x%" G_GINT64_MODIFIER "X-0x%" G_GINT64_MODIFIER
                            "X, select: 0x%" G_GINT64_MODIFIER "X, count: %" G_GUINT64_FORMAT,
                            first, last, select, count);
        status = rmg_draft_check(d, false, NULL, error);
    }
    g_strfreev(words);
    return status;
}

static rmg_status take_bank(draft *d, const char *text, asked *next, rmg_error *error)
{
    const draft_region *region;
    uint64_t address;

    if (strcmp(text, "done") == 0 && !d->banks->len && rmg_draft_first_free(d, &address, &region))
        return rmg_fail(
            error, RMG_ERR_CONTENT, NULL,
            "no socket holds \"%s\" yet; expected the name of the chips at 0x%04" G_GINT64_MODIFIER
            "X",
            region->name, address);
    if (strcmp(text, "done") == 0) {
        *next = ASK_UNDRIVEN;
        return rmg_draft_check(d, true, NULL, error);
    }
    for (guint i = 0; i < d->banks->len; i++)
        if (g_ascii_strcasecmp(((draft_bank *)d->banks->pdata[i])->name, text) == 0)
            return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                            "there is a bank \"%s\" already; expected another name, or done", text);
    rmg_draft_add_bank(d, text);
    *next = ASK_PART;
    return RMG_OK;
}

static rmg_status take_undriven(draft *d, const char *text, asked *next, rmg_error *error)
{
    static const char *const words[] = {"high", "low", "holds", "not known", NULL};
    int level = 0;

    while (words[level] && strcmp(words[level], text) != 0)
        level++;
    if (!words[level])
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "found \"%s\", expected high, low, holds or not known", text);
    d->undriven = level < 3 ? level : -1;
    *next = ASK_NOTHING;
    return rmg_draft_check(d, true, NULL, error);
}

/* What the next bank may be called: after the region that no bank holds yet. */
static gchar *standard_bank(const draft *d)
{
    const draft_region *region;
    uint64_t address;

    if (!rmg_draft_first_free(d, &address, &region))
        return d->banks->len ? g_strdup("done") : NULL;
    for (guint i = 0; i < d->banks->len; i++)
        if (g_ascii_strcasecmp(((draft_bank *)d->banks->pdata[i])->name, region->name) == 0)
            return NULL;
    return g_strdup(region->name);
}

static gchar *bank_text(const draft *d)
{
    const draft_region *region;
    uint64_t address;

    if (rmg_draft_first_free(d, &address, &region))
        return g_strdup_printf("Bank of chips at 0x%04" G_GINT64_MODIFIER
                               "X (%s, %s): what is it called?",
                               address, region->name, region->kind);
    return g_strdup("All memory has its chips. Another bank, or done?");
}

/* The part of the bank before, where that is ROM as well, or neither is. */
static gchar *standard_part(const draft *d)
{
    const draft_bank *before = d->banks->len > 1 ? d->banks->pdata[d->banks->len - 2u] : NULL;
    const draft_region *region;
    uint64_t address;

    if (!before || !rmg_draft_first_free(d, &address, &region) ||
        (before->facts.kind == RMG_PART_ROM) != (strcmp(region->kind, "rom") == 0))
        return NULL;
    return g_strdup(before->part);
}

/* What an empty answer stands for, where it depends on the others. */
static gchar *standard_of(asked which, const draft *d)
{
    const draft_bank *b = rmg_draft_last_bank(d);

    switch (which) {
    case ASK_BANK:
        return standard_bank(d);
    case ASK_PART:
        return standard_part(d);
    case ASK_RANGE:
        return rmg_standard_range(d);
    case ASK_FEEDS:
        return rmg_standard_feeds(d);
    case ASK_MOUNT:
        return g_strdup(rmg_mount_name(b->mount));
    case ASK_REGION:
        return d->regions->len ? g_strdup("done") : NULL;
    default:
        return NULL;
    }
}

static gchar *facts_text(const draft_bank *b)
{
    GPtrArray *numbers = g_ptr_array_new();
    const char *near;
    gchar *text;

    for (size_t i = 0; i < rmg_part_count(); i++)
        g_ptr_array_add(numbers, (gpointer)(uintptr_t)rmg_part_at(i)->number);
    g_ptr_array_add(numbers, NULL);
    near = rmg_nearest(b->part, (const char *const *)numbers->pdata);
    text = g_strdup_printf("%s is not in the table of parts%s%s%s. What is it?", b->part,
                           near ? " (" : "", near ? near : "", near ? " is)" : "");
    g_ptr_array_free(numbers, TRUE);
    return text;
}

/* How a question begins, where it depends on the answers. */
static gchar *text_of(asked which, const draft *d)
{
    const draft_bank *b = rmg_draft_last_bank(d);

    switch (which) {
    case ASK_BANK:
        return bank_text(d);
    case ASK_FACTS:
        return facts_text(b);
    case ASK_RANGE:
        return g_strdup_printf("Which addresses does the bank %s answer to?", b->name);
    case ASK_FEEDS:
        return g_strdup_printf(
            b->facts.row_lines ? "Which address lines reach the %u row and %u column lines?"
                               : "Which address lines reach the chip's own A0 to A%u?",
            b->facts.row_lines ? b->facts.row_lines : b->facts.address_lines - 1u,
            (unsigned)b->facts.address_lines - b->facts.row_lines);
    case ASK_SOCKETS:
        return g_strdup_printf("Which sockets of %s, from left to right as they lie?", b->part);
    case ASK_BITS:
        return g_strdup_printf("Which data bits does the leftmost, %s, hold?",
                               (char *)b->names->pdata[0]);
    default:
        return NULL;
    }
}

static const struct {
    const char *key, *text, *standard, *help;
    rmg_status (*take)(draft *d, const char *text, asked *next, rmg_error *error);
} rows[] = {
    [ASK_BOARD] = {"board", "What is the board called?", NULL,
                   "Its name, as it is printed on it or as you call it.", take_board},
    [ASK_REVISION] = {"revision", "Which revision?", "none",
                      "What the board itself says, not the drawing: they often differ.",
                      take_revision},
    [ASK_WORD] = {"word", "How many data bits has the bus?", "8",
                  "1 to 64: as many as the processor's bus has data lines D0, D1 ...", take_word},
    [ASK_LINES] = {"address-lines", "How many address lines has it, A0 included?", "16",
                   "As addresses are written for this board: 16 for addresses up to 0xFFFF. Words "
                   "of 16 bits whose addresses count bytes have A0 too, though no wire.",
                   take_lines},
    [ASK_ADDRESSES] = {"addresses", "Do addresses count bytes or words?", "bytes",
                       "bytes as on most processors, or words: how people write addresses for this "
                       "board.",
                       take_addresses},
    [ASK_PAGES] = {"pages", "Is memory reached in pages, by writing a select value first?", "no",
                   "no, or the window, where the value is written, and how many pages: "
                   "0x1000-0x1FFF select 0x3000 count 4",
                   take_pages},
    [ASK_REGION] =
        {"region", "What is where? One range after the other, then done.", NULL,
         "RANGE KIND NAME; NOTE. Kinds: ram, rom, reserved (ports: never touched), shadow "
         "(other memory answers), kept (contents matter), empty, mirror of RANGE. Like "
         "0x0000-0x3FFF ram low RAM, or 0xC000-0xFFFF rom system ROM; two versions known",
         rmg_take_region},
    [ASK_BANK] =
        {"bank", NULL, NULL,
         "Chips that answer together at some addresses: a row of eight one-bit chips, a pair "
         "of four-bit ones, one ROM. Its name, or done.",
         take_bank},
    [ASK_PART] =
        {"part", "Which part are its chips?", NULL,
         "The number without maker, speed and package: 4116, 4164, 6264, 27128. A part that "
         "is not in the table is described next.",
         rmg_take_part},
    [ASK_FACTS] =
        {"part-facts", NULL, NULL,
         "Kind, data lines, address lines, and of a DRAM its row lines: dram 1 15 8, sram 8 "
         "11, rom 8 13. back, if the number was mistyped.",
         rmg_take_facts},
    [ASK_RANGE] =
        {"range", NULL, NULL,
         "Its range, other memory in front of it included; and where banks share addresses "
         "the lines that choose: 0x0000-0x7FFF where A0=0",
         rmg_take_range},
    [ASK_FEEDS] =
        {"feeds", NULL, NULL,
         "For the chip's lines 0, 1 ... in this order: A0-A6 / A7-A13 (rows / columns), or "
         "A0-A12. Lists too: A3 A0 A1 A2; low and high are tied lines.",
         rmg_take_feeds},
    [ASK_SOCKETS] =
        {"sockets", NULL, NULL,
         "Seen from the component side: U11-U18, U18-U11, or U3 U5 U9. Read them off the "
         "board; drawings often count from the other end.",
         rmg_take_sockets},
    [ASK_BITS] =
        {"bits", NULL, NULL,
         "D0, if the lowest bit is leftmost; D7 (or D4-D7) if the highest is; or the bits of "
         "each socket from left to right: D3 D1 D0 D2",
         rmg_take_bits},
    [ASK_MOUNT] = {"mount", "How are they fitted?", NULL,
                   "socket, soldered, or ball: solder balls beneath the chip, which can be neither "
                   "pulled nor probed.",
                   rmg_take_mount},
    [ASK_UNDRIVEN] = {"undriven", "What does a data line read that nothing drives?", "not known",
                      "high (pulled up), low, holds (the last value), or not known: then all three "
                      "are thought of.",
                      take_undriven},
};
G_STATIC_ASSERT(G_N_ELEMENTS(rows) == ASK_NOTHING);

const char *rmg_question_key(asked which)
{
    return rows[which].key;
}

void rmg_question_texts(asked which, const draft *d, gchar **text, const char **help,
                        gchar **standard)
{
    *text = rows[which].text ? g_strdup(rows[which].text) : text_of(which, d);
    *help = rows[which].help;
    *standard = rows[which].standard ? g_strdup(rows[which].standard) : standard_of(which, d);
}

rmg_status rmg_question_take(asked which, draft *d, const char *text, asked *next, rmg_error *error)
{
    return rows[which].take(d, text, next, error);
}
