/* "ram:SIZE[,or-less][,threads=N][,unflushed]": this machine's own memory. */
#include <string.h>

#include "internal.h"
#include "rimeglass/ram.h"

/* "64M" in bytes. */
static bool read_size(const char *text, uint64_t *bytes)
{
    static const struct {
        char unit;
        unsigned shift;
    } units[] = {{'K', 10}, {'M', 20}, {'G', 30}};
    char *end;
    const guint64 number = g_ascii_strtoull(text, &end, 10);

    for (size_t i = 0; end != text && i < G_N_ELEMENTS(units); i++)
        if (*end == units[i].unit && !end[1] && number && number < (guint64)1 << 20) {
            *bytes = number << units[i].shift;
            return true;
        }
    return false;
}

/* "50%" of what can be taken. */
static bool read_share(const char *text, unsigned *percent)
{
    char *end;
    const guint64 number = g_ascii_strtoull(text, &end, 10);

    *percent = (unsigned)number;
    return g_ascii_isdigit(*text) && strcmp(end, "%") == 0 && number && number <= 100;
}

static bool read_name(const char *rest, rmg_ram_want *want, bool *less)
{
    gchar **words = g_strsplit(rest, ",", -1);
    bool ok =
        words[0] && (read_size(words[0], &want->bytes) || read_share(words[0], &want->percent));

    want->threads = 1;
    *less = want->percent > 0; /* a share is of what can be had */
    for (size_t i = 1; ok && words[i]; i++) {
        uint64_t number = 0;

        if (strcmp(words[i], "unflushed") == 0)
            want->unflushed = true;
        else if (strcmp(words[i], "or-less") == 0)
            *less = true;
        else if (g_str_has_prefix(words[i], "threads=") &&
                 rmg_number_parse(words[i] + strlen("threads="), &number) && number &&
                 number <= RMG_RAM_THREADS)
            want->threads = (unsigned)number;
        else
            ok = false;
    }
    g_strfreev(words);
    return ok;
}

static gchar *expected(const char *rest)
{
    rmg_ram_want want = {0};
    bool less;

    return read_name(rest, &want, &less)
               ? NULL
               : g_strdup_printf("ram:SIZE like ram:64M or ram:2G, or a share of what is free like "
                                 "ram:50%%, optionally with ,or-less ,threads=N (1 to %u) and "
                                 ",unflushed",
                                 RMG_RAM_THREADS);
}

/* What is open of it. */
typedef struct own_memory {
    rmg_ram *ram;
    rmg_board *board;
} own_memory;

/* A board that is nothing but the memory that was got. */
static rmg_status make_board(own_memory *own, GArray *notes)
{
    const uint64_t bytes = rmg_ram_bytes(own->ram);
    rmg_errors errors = {0};
    rmg_status status;
    unsigned lines = 5;
    gchar *text;

    while ((bytes - 1u) >> lines)
        lines++;
    text = g_strdup_printf("board: this machine's memory\nword: 64\naddress-lines: %u\n"
                           "regions: [{name: locked memory, range: 0x0-0x%" G_GINT64_MODIFIER
                           "X, kind: ram}]\nbanks: []\nsockets: []\n",
                           lines, (guint64)bytes - 1u);
    status = rmg_board_load_text("ram", text, &own->board, &errors);
    for (size_t i = 0; i < errors.count; i++)
        rmg_note_error(notes, &errors.list[i]);
    rmg_errors_free(&errors);
    g_free(text);
    return status;
}

/* Where in the machine a failing word lies, and on which module of the board file. */
static char *place(void *self, const rmg_board *modules, const rmg_failure *f)
{
    const own_memory *own = self;
    rmg_word wrong = f->expected ^ f->actual;
    uint64_t physical = 0;
    rmg_place found;
    uint8_t bit = 0;

    switch (rmg_ram_physical(own->ram, f->address, &physical)) {
    case RMG_RAM_HIDDEN:
        return g_strdup("physical address not shown to this user");
    case RMG_RAM_MOVED:
        return g_strdup("its page has moved since, so it has no physical address");
    case RMG_RAM_FOUND:
        break;
    }
    if (!modules)
        return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X", (guint64)physical);
    for (; !(wrong & 1u); wrong >>= 1)
        bit++;
    if (!rmg_board_place_byte(modules, physical + bit / 8u, bit % 8u, &found))
        return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X: not in the board file",
                               (guint64)physical);
    return g_strdup_printf("physical 0x%" G_GINT64_MODIFIER "X: %s", (guint64)physical,
                           modules->sockets[found.socket].name);
}

static void close_ram(void *self)
{
    own_memory *own = self;

    rmg_board_free(own->board);
    rmg_ram_close(own->ram);
    g_free(own);
}

static rmg_status open_ram(const char *rest, const rmg_board *board, rmg_opened *opened,
                           GArray *notes)
{
    own_memory *own = g_new0(own_memory, 1);
    rmg_ram_want want = {0};
    char *remark = NULL;
    rmg_status status;
    bool less;

    (void)board;
    opened->self = own;
    opened->close = close_ram;
    opened->place = place;
    read_name(rest, &want, &less);
    status = rmg_ram_open(&want, &own->ram, &remark);
    if (status != RMG_OK) {
        rmg_note(notes, status, rest, "ram:%s: %s", rest,
                 remark                       ? remark
                 : status == RMG_ERR_ARGUMENT ? "expected 4096 bytes (4K) at least"
                                              : rmg_status_text(status));
        rmg_text_free(remark);
        return status;
    }
    opened->target = rmg_ram_target(own->ram);
    opened->remark = g_strdup(remark);
    opened->less = *remark && !less;
    opened->caveat = rmg_ram_caveat(own->ram);
    if (!opened->caveat)
        return RMG_ERR_MEMORY;
    status = make_board(own, notes);
    opened->board = own->board;
    return status;
}

const rmg_target_kind rmg_target_ram = {.prefix = "ram:",
                                        .forms = "ram:SIZE",
                                        .brings_board = true,
                                        .expected = expected,
                                        .open = open_ram};
