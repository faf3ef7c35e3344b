/* rimeglass probe: a spot check, on a target or from values typed in. */
#include <string.h>

#include "cli.h"
#include "job_entry.h"
#include "rimeglass/probe.h"
#include "rimeglass/report.h"

static const char description[] =
    "Without --on it judges what you saw at the machine's own prompt: after an address come the\n"
    "values WROTE=READ, optionally followed by another address with its values. Numbers are "
    "decimal, hex\n"
    "(0x7F, 7Fh) or binary (0b101). A bank's name stands for an address somewhere in it.\n"
    "With --on it writes and reads the values itself, drives the opposite elsewhere in between,\n"
    "and restores what was there.\n"
    "With --reports it takes the number that the board's own start-up shows of its memory, and "
    "names the\nbanks that are not in it; --saw finds what the board file says of a symptom.\n\n"
    "Examples\n"
    "  rimeglass probe demo/boards/halvorn64.yaml upper 0=0 255=127\n"
    "  rimeglass probe demo/boards/halvorn64.yaml 0x9C40 0=0 255=127 0x55=0x55 0x1C40 255=255\n"
    "  rimeglass probe demo/boards/halvorn64.yaml 0x9C40 --on sim:demo/faults/halvorn64-u19.yaml\n"
    "  rimeglass probe demo/boards/halvorn64.yaml --reports 24576";

typedef struct probe_call {
    gchar *on, *values, *json, *job, *reports, *saw;
    const rmg_board *board;
    GArray *addresses; /* of rmg_addr */
    GArray *pairs;     /* of rmg_pair */
    GArray *list;      /* of rmg_word: values to write */
    GString *assumed;  /* which address stands for which bank, a line each */
} probe_call;

static bool word_ok(const rmg_board *board, uint64_t value)
{
    return board->word_bits == 64 || value >> board->word_bits == 0;
}

static bool add_pair(probe_call *call, const char *text)
{
    gchar **sides = g_strsplit(text, "=", 2);
    uint64_t wrote = 0, read = 0;
    bool ok = rmg_number_parse(sides[0], &wrote) && rmg_number_parse(sides[1], &read);

    if (!ok || !word_ok(call->board, wrote) || !word_ok(call->board, read)) {
        wrong_call("probe", "found \"%s\", expected WROTE=READ, both of %u bits, like 0xFF=0x7F",
                   text, call->board->word_bits);
        ok = false;
    } else if (!call->addresses->len) {
        wrong_call("probe", "found \"%s\" before any address", text);
        ok = false;
    } else {
        const rmg_pair pair = {g_array_index(call->addresses, rmg_addr, call->addresses->len - 1),
                               wrote, read};

        g_array_append_val(call->pairs, pair);
    }
    g_strfreev(sides);
    return ok;
}

/* Somewhere in the bank: a word of its RAM, about in the middle. false: none. */
static bool somewhere(const rmg_board *board, uint8_t bank, rmg_addr *address)
{
    const rmg_where *where = &board->bank_wheres[bank];
    const rmg_addr span = where->last - where->first;

    for (rmg_addr step = span / 2u, tries = 0; tries < 65536; tries++, step++) {
        const rmg_addr at =
            where->first + (span == (rmg_addr) ~(rmg_addr)0 ? step : step % (span + 1u));
        const rmg_region *region = rmg_board_region_at(board, at);

        if (rmg_where_holds(where, at) && region && region->kind == RMG_REGION_RAM) {
            *address = at;
            return true;
        }
    }
    return false;
}

/* An address; or a bank's name, for a word somewhere in it. */
static bool find_address(const probe_call *call, const char *text, rmg_addr *address)
{
    const rmg_addr top = call->board->last_address;
    const uint8_t bank = rmg_board_bank(call->board, text);
    char at[40];
    uint64_t shown;

    if (rmg_number_parse(text, &shown) && rmg_board_word(call->board, shown) <= top) {
        *address = rmg_board_word(call->board, shown);
        return true;
    }
    if (bank != RMG_NO_BANK && somewhere(call->board, bank, address)) {
        g_string_append_printf(call->assumed, "  %s stands for an address somewhere in %s.\n",
                               rmg_board_address_text(call->board, *address, at, sizeof at),
                               call->board->banks[bank].called);
        return true;
    }
    if (bank != RMG_NO_BANK)
        wrong_call("probe", "%s holds no RAM", text);
    else {
        char *hint = rmg_board_name_hint(call->board, text, RMG_NAMES_BANKS);

        wrong_call("probe", "found \"%s\", expected an address up to %s, a bank, or WROTE=READ%s%s",
                   text, rmg_board_address_text(call->board, top, at, sizeof at),
                   rmg_number_hint(text), hint);
        rmg_text_free(hint);
    }
    return false;
}

static bool add_address(probe_call *call, const char *text)
{
    const rmg_region *region;
    rmg_addr address;
    char at[40];

    if (!find_address(call, text, &address))
        return false;
    region = rmg_board_region_at(call->board, address);
    if (region && region->kind == RMG_REGION_ROM) {
        wrong_call("probe",
                   "%s is in \"%s\", a ROM: writing there has no effect; rimeglass verify reads it",
                   rmg_board_address_text(call->board, address, at, sizeof at), region->name);
        return false;
    }
    g_array_append_val(call->addresses, address);
    return true;
}

static bool read_values(probe_call *call)
{
    gchar **texts = g_strsplit(call->values ? call->values : "", ",", -1);
    bool ok = true;

    for (size_t i = 0; texts[i] && ok; i++) {
        uint64_t value;
        rmg_word word;

        ok = rmg_number_parse(g_strstrip(texts[i]), &value) && word_ok(call->board, value);
        if (!ok)
            wrong_call("probe", "--values: found \"%s\", expected numbers of %u bits, like 0,0xFF",
                       texts[i], call->board->word_bits);
        word = ok ? value : 0;
        g_array_append_val(call->list, word);
    }
    g_strfreev(texts);
    return ok;
}

/* Reads addresses and pairs; false after saying what is wrong. */
static bool read_words(probe_call *call, const GPtrArray *args)
{
    for (guint i = 1; i < args->len; i++) {
        const char *text = g_ptr_array_index(args, i);

        if (strchr(text, '=') ? !add_pair(call, text) : !add_address(call, text))
            return false;
    }
    if (!call->addresses->len) {
        wrong_call("probe", "expected an address after the board file");
        return false;
    }
    if (call->on && call->pairs->len) {
        wrong_call("probe", "WROTE=READ is for values typed in; with --on use --values");
        return false;
    }
    if (!call->on && !call->pairs->len) {
        wrong_call("probe", "expected values WROTE=READ after the address, or --on TARGET");
        return false;
    }
    return !call->values || read_values(call);
}

static void print_pairs(const rmg_probe *probe)
{
    const int digits = (probe->board->word_bits + 3) / 4;
    unsigned right = 0;

    if (probe->wrong)
        printf("\n  %-10s %-*s %-*s wrong bits\n", "address", digits + 2, "wrote", digits + 2,
               "read");
    for (size_t i = 0; i < probe->pair_count; i++) {
        const rmg_pair *p = &probe->pairs[i];
        char at[40];

        if (p->wrote == p->read) {
            right++;
            continue;
        }
        printf("  %-10s 0x%0*" G_GINT64_MODIFIER "X 0x%0*" G_GINT64_MODIFIER "X",
               rmg_board_address_text(probe->board, p->address, at, sizeof at), digits,
               (guint64)p->wrote, digits, (guint64)p->read);
        for (int b = probe->board->word_bits - 1; b >= 0; b--)
            if (((p->wrote ^ p->read) >> b) & 1u)
                printf("  D%d reads %u", b, (unsigned)(p->read >> b & 1u));
        printf("\n");
    }
    printf("  %u of %zu values were read back as written.\n", right, probe->pair_count);
}

/* Bits at one address that did alike and were not wrong, as one line. */
static void print_alike(const rmg_probe_bit *bits, unsigned width, rmg_bit_verdict verdict)
{
    GString *names = g_string_new(NULL);

    for (int b = (int)width - 1; b >= 0; b--)
        if (bits[b].verdict == verdict)
            g_string_append_printf(names, "%sD%d", names->len ? " " : "", b);
    if (names->len) {
        gchar *lead = g_strdup_printf("    %s: ", rmg_bit_verdict_text(verdict));

        print_wrapped(stdout, lead, 6, names->str);
        g_free(lead);
    }
    g_string_free(names, TRUE);
}

static void print_bits(const rmg_probe *probe)
{
    const unsigned width = probe->board->word_bits;

    for (size_t i = 0; i < probe->bit_count; i += width) {
        char at[40];

        printf("\n  At %s\n",
               rmg_board_address_text(probe->board, probe->bits[i].address, at, sizeof at));
        for (int b = (int)width - 1; b >= 0; b--) {
            const rmg_probe_bit *bit = &probe->bits[i + (size_t)b];

            if (bit->verdict != RMG_BIT_SOUND && bit->verdict != RMG_BIT_RIGHT)
                printf("  > D%d in %s: %s\n", b,
                       bit->placed ? probe->board->sockets[bit->place.socket].name : "no socket",
                       rmg_bit_verdict_text(bit->verdict));
        }
        print_alike(&probe->bits[i], width, RMG_BIT_SOUND);
        print_alike(&probe->bits[i], width, RMG_BIT_RIGHT);
    }
}

static int print_probe(const probe_call *call, const rmg_probe *probe, rmg_status status)
{
    bool written = true;

    if (!call->json || strcmp(call->json, "-") != 0) {
        char **advice = rmg_probe_advice(probe);

        for (size_t i = 0; advice[i]; i++)
            print_wrapped(stdout, "", 2, advice[i]);
        rmg_texts_free(advice);
        print_not_put_back(stdout, probe->board, probe->not_restored, probe->not_put_back_count);
        print_pairs(probe);
        print_bits(probe);
        printf("%s%s", call->assumed->len ? "\n" : "", call->assumed->str);
    }
    if (call->json || call->job) {
        char *text = rmg_probe_json(probe), **advice = rmg_probe_advice(probe);

        written = (!call->json || write_result(call->json, text)) &&
                  (!call->job || job_add("probe", call->job, advice[0], NULL, text));
        rmg_texts_free(advice);
        rmg_text_free(text);
    }
    if (status != RMG_OK) {
        fprintf(stderr, "rimeglass probe: not complete: %s.\n", rmg_status_text(status));
        return EXIT_INCOMPLETE;
    }
    if (!written)
        return EXIT_CALL;
    return probe->wrong ? EXIT_FAULTS : EXIT_PASS;
}

static int probe_target(const probe_call *call)
{
    rmg_opened target;
    rmg_probe probe;
    rmg_status status;
    rmg_error error = {0};
    int result = EXIT_CALL;

    if (target_open("probe", call->on, call->board, &target)) {
        status = rmg_probe_target(
            &probe, call->board, &target.target,
            (const rmg_addr *)(const void *)call->addresses->data, call->addresses->len,
            call->values ? (const rmg_word *)(const void *)call->list->data : NULL, call->list->len,
            &error);
        if (error.what)
            wrong_call("probe", "%s", error.what);
        else
            result = print_probe(call, &probe, status);
        rmg_error_free(&error);
        rmg_probe_end(&probe);
    }
    target_close("probe", &target);
    return result;
}

static int probe_typed(const probe_call *call)
{
    rmg_probe probe;
    int result = EXIT_CALL;

    if (rmg_probe_judge(&probe, call->board, (const rmg_pair *)(const void *)call->pairs->data,
                        call->pairs->len) == RMG_OK)
        result = print_probe(call, &probe, RMG_OK);
    rmg_probe_end(&probe);
    return result;
}

static void print_texts(char **texts)
{
    for (size_t i = 0; texts[i]; i++)
        print_wrapped(stdout, i ? "  - " : "", i ? 4 : 2, texts[i]);
    rmg_texts_free(texts);
}

/* The number that the start-up showed. */
static int probe_reports(const probe_call *call)
{
    rmg_reckoning reckoning;
    uint64_t number;
    int status = EXIT_PASS;

    if (!rmg_number_parse(call->reports, &number) || number > G_MAXINT64)
        return wrong_call("probe",
                          "--reports: found \"%s\", expected the number that the board "
                          "shows, like 24576%s",
                          call->reports, rmg_number_hint(call->reports));
    rmg_reckon_number(&reckoning, call->board, number);
    if (call->json) {
        char *text = rmg_reckoning_json(&reckoning);

        status = write_result(call->json, text) ? EXIT_PASS : EXIT_CALL;
        rmg_text_free(text);
    }
    if (!call->json || strcmp(call->json, "-") != 0)
        print_texts(rmg_reckoning_advice(&reckoning));
    if (status == EXIT_PASS && reckoning.number != reckoning.healthy)
        status = EXIT_FAULTS;
    rmg_reckoning_end(&reckoning);
    return status;
}

static void print_symptom(const rmg_board *board, const rmg_symptom *s)
{
    char at[40];
    GString *text = g_string_new(NULL);

    g_string_printf(text, "%s: look at %s", s->seen, s->look_at);
    if (s->has_first)
        g_string_append_printf(text, "; try %s first",
                               rmg_board_address_text(board, s->first, at, sizeof at));
    g_string_append_printf(text, "%s%s.", *s->note ? "; " : "", s->note);
    print_wrapped(stdout, "  - ", 4, text->str);
    g_string_free(text, TRUE);
}

/* What was seen of the board. */
static int probe_saw(const probe_call *call)
{
    const rmg_board *board = call->board;
    size_t i = rmg_symptom_next(board, call->saw, 0);
    const bool any = i < board->symptom_count;

    if (!board->symptom_count)
        return wrong_call("probe", "%s says nothing under \"symptoms\"", board->file);
    printf(any ? "The board file says:\n" : "The board file has no such symptom; it has these:\n");
    for (i = any ? i : 0; i < board->symptom_count;
         i = any ? rmg_symptom_next(board, call->saw, i + 1u) : i + 1u)
        print_symptom(board, &board->symptoms[i]);
    return EXIT_PASS;
}

/* What is not about addresses; -1: that is not asked for. */
static int probe_told(const probe_call *call, const GPtrArray *args)
{
    if (!call->reports && !call->saw)
        return -1;
    if (args->len > 1 || call->on || call->values || (call->reports && call->saw))
        return wrong_call("probe", "--%s stands alone, with the board file",
                          call->reports ? "reports" : "saw");
    return call->reports ? probe_reports(call) : probe_saw(call);
}

int command_probe(GPtrArray *args)
{
    probe_call call = {.addresses = g_array_new(FALSE, TRUE, sizeof(rmg_addr)),
                       .pairs = g_array_new(FALSE, TRUE, sizeof(rmg_pair)),
                       .list = g_array_new(FALSE, TRUE, sizeof(rmg_word)),
                       .assumed = g_string_new(NULL)};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_FILENAME, &call.on, "write and read there", "TARGET"},
        {"values", 0, 0, G_OPTION_ARG_STRING, &call.values,
         "values to write (zeros, ones, alternating, each single bit)", "V,V..."},
        {"reports", 0, 0, G_OPTION_ARG_STRING, &call.reports,
         "what the board's start-up shows of its memory: which banks are missing", "NUMBER"},
        {"saw", 0, 0, G_OPTION_ARG_STRING, &call.saw,
         "words of a symptom: what the board file says of it", "WORDS"},
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the result to this job", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "write the result; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_board *board = NULL;
    int status;

    if (options_parse("probe", "BOARD ADDRESS|BANK [WROTE=READ...]", description, entries, args,
                      &status)) {
        status = EXIT_CALL;
        if (!args->len)
            wrong_call("probe", "expected a board file, and an address, --reports or --saw");
        else if ((!call.on || target_name_ok("probe", call.on)) &&
                 (board = load_board(g_ptr_array_index(args, 0))) != NULL) {
            call.board = board;
            const int told = probe_told(&call, args);

            if (told >= 0)
                status = told;
            else if (job_takes("probe", call.job, board) && read_words(&call, args))
                status = call.on ? probe_target(&call) : probe_typed(&call);
        }
    }
    rmg_board_free(board);
    g_array_free(call.addresses, TRUE);
    g_array_free(call.pairs, TRUE);
    g_array_free(call.list, TRUE);
    g_string_free(call.assumed, TRUE);
    g_free(call.on);
    g_free(call.values);
    g_free(call.json);
    g_free(call.job);
    g_free(call.reports);
    g_free(call.saw);
    return status;
}
