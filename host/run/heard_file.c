/* What another program reported, as JSON values of a run file, and back. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "file.h"
#include "internal.h"
#include "runner.h"

static json_t *numbers(const uint64_t *values, size_t count)
{
    json_t *array = json_array();

    for (size_t i = 0; i < count; i++)
        rmg_json_append(array, json_integer((json_int_t)values[i]));
    return array;
}

/* What a test ROM told: enough to plan it again. */
static json_t *told_json(const rmg_told *told)
{
    json_t *lines = json_array(), *json;
    char text[RMG_TESTROM_LINE];

    for (size_t i = 0; i < told->count; i++)
        rmg_json_append(lines,
                        json_string(rmg_testrom_line_text(&told->plan, &told->lines[i], text)));
    json = json_pack("{s:s, s:i, s:I, s:I, s:b, s:o}", "march", told->march, "limit",
                     (int)told->plan.lines, "passes", (json_int_t)told->passes, "unlike",
                     (json_int_t)told->unlike, "blinks", (int)told->blinks, "lines", lines);
    if (told->rom_line_count) {
        json_t *of_roms = json_array();

        for (size_t i = 0; i < told->rom_line_count; i++)
            rmg_json_append(of_roms, json_string(rmg_testrom_line_text(&told->plan,
                                                                       &told->rom_lines[i], text)));
        rmg_json_set(json, "rom_lines", of_roms);
    }
    if (told->plan.loaded)
        rmg_json_set(
            json, "loaded",
            json_pack("[I, I]", (json_int_t)told->plan.origin, (json_int_t)told->plan.size));
    return json;
}

static bool take_told(rmg_run *run, const json_t *json)
{
    rmg_board_rom how = run->board->rom;
    json_int_t passes, unlike, first, size;
    const char *march, *why;
    rmg_error error;
    rmg_testrom_line line;
    int limit, blinks;
    const json_t *lines;
    bool good;

    if (!json)
        return true;
    if (json_unpack((json_t *)json, "{s:s, s:i, s:I, s:I, s:b, s:o}", "march", &march, "limit",
                    &limit, "passes", &passes, "unlike", &unlike, "blinks", &blinks, "lines",
                    &lines) != 0 ||
        limit < 1 || limit > (int)RMG_TESTROM_TOLD || !rmg_testrom_march(march, how.march, NULL))
        return false;
    how.march_text = (char *)march;
    how.lines = (uint8_t)limit;
    if (json_object_get(json, "loaded")) {
        if (json_unpack((json_t *)json, "{s:[I, I]}", "loaded", &first, &size) != 0 || first < 0 ||
            first > UINT32_MAX || size < 256 || size > 65536)
            return false;
        how.load_at = (uint32_t)first;
        how.load_size = (uint32_t)size;
        how.slot_size = how.offset = how.header_count = how.socket_count = 0;
    }
    good = rmg_run_hear_rom(run, &how, &error) == RMG_OK;
    rmg_error_free(&error);
    for (size_t i = 0; good && i < json_array_size(lines); i++) {
        const char *text = json_string_value(json_array_get(lines, i));

        good = text && rmg_testrom_line_read(&run->heard->told->plan, text, &line, &why);
        if (good)
            rmg_run_hear_rom_line(run, &line);
    }
    lines = json_object_get(json, "rom_lines");
    for (size_t i = 0; good && i < json_array_size(lines); i++) {
        const char *text = json_string_value(json_array_get(lines, i));

        good = text && rmg_testrom_line_read(&run->heard->told->plan, text, &line, &why) &&
               rmg_told_of_rom(&line);
        if (good)
            rmg_told_add_rom(run->heard->told, &line, 1);
    }
    if (good) {
        run->heard->told->passes = (uint64_t)passes;
        run->heard->told->unlike = (uint64_t)unlike;
        run->heard->told->blinks = blinks;
    }
    return good;
}

json_t *rmg_heard_json(const rmg_run *run)
{
    const rmg_heard *h = run->heard;
    const rmg_board *board = run->board;
    json_t *tested = json_array(), *first = json_array();

    for (size_t i = 0; i < run->tested_count; i++)
        rmg_json_append(tested, json_pack("[I, I]", (json_int_t)run->tested[i].first,
                                          (json_int_t)run->tested[i].last));
    for (unsigned i = 0; i < h->first_count; i++)
        rmg_json_append(first, json_string(h->first[i]));
    json_t *json = json_pack(
        "{s:s, s:b, s:b, s:b, s:b, s:I, s:I, s:I, s:I, s:I, s:o, s:o, s:o, s:o, s:o}", "profile",
        h->profile, "steps_known", (int)h->steps_known, "directions", (int)h->directions,
        "addresses", (int)h->addresses, "at_least", (int)h->at_least, "limit", (json_int_t)h->limit,
        "lines", (json_int_t)h->lines, "unknown", (json_int_t)h->unknown, "failures",
        (json_int_t)h->failures, "unplaced", (json_int_t)h->unplaced, "tested", tested, "first",
        first, "bits", numbers(h->bits, (board->bank_count + 1) * board->word_bits), "sockets",
        numbers(h->sockets, board->socket_count), "banks", numbers(h->banks, board->bank_count));

    if (h->told)
        rmg_json_set(json, "test_rom", told_json(h->told));
    return json;
}

static bool take(const json_t *array, uint64_t *values, size_t count)
{
    if (json_array_size(array) != count)
        return false;
    for (size_t i = 0; i < count; i++) {
        if (!json_is_integer(json_array_get(array, i)))
            return false;
        values[i] = (uint64_t)json_integer_value(json_array_get(array, i));
    }
    return true;
}

static bool take_tested(rmg_run *run, const json_t *array)
{
    if (!json_is_array(array) || json_array_size(array) > UINT8_MAX)
        return false;
    for (size_t i = 0; i < json_array_size(array); i++) {
        json_int_t first, last;

        if (json_unpack(json_array_get(array, i), "[I, I!]", &first, &last) != 0 || first < 0 ||
            last < first || (uint64_t)last > run->board->last_address)
            return false;
        rmg_run_hear_tested(run, (rmg_range){(rmg_addr)first, (rmg_addr)last});
    }
    return true;
}

static bool take_first(rmg_heard *h, const json_t *array)
{
    if (!json_is_array(array) || json_array_size(array) > RMG_HEARD_FIRST)
        return false;
    for (size_t i = 0; i < json_array_size(array); i++) {
        const char *words = json_string_value(json_array_get(array, i));

        if (!words)
            return false;
        h->first[h->first_count++] = g_strdup(words);
    }
    return true;
}

bool rmg_heard_take(rmg_run *run, const json_t *heard)
{
    rmg_heard *h = run->heard;
    const rmg_board *board = run->board;
    int directions, addresses, at_least;
    json_int_t limit, lines, unknown, failures, unplaced;

    if (json_unpack((json_t *)heard, "{s:b, s:b, s:b, s:I, s:I, s:I, s:I, s:I}", "directions",
                    &directions, "addresses", &addresses, "at_least", &at_least, "limit", &limit,
                    "lines", &lines, "unknown", &unknown, "failures", &failures, "unplaced",
                    &unplaced) != 0 ||
        !take_tested(run, json_object_get(heard, "tested")) ||
        !take_first(h, json_object_get(heard, "first")) ||
        !take(json_object_get(heard, "bits"), h->bits,
              (board->bank_count + 1) * board->word_bits) ||
        !take(json_object_get(heard, "sockets"), h->sockets, board->socket_count) ||
        !take(json_object_get(heard, "banks"), h->banks, board->bank_count) ||
        !take_told(run, json_object_get(heard, "test_rom")))
        return false;
    h->directions = directions;
    h->addresses = addresses;
    h->at_least = at_least;
    h->limit = (uint64_t)limit;
    h->lines = (uint64_t)lines;
    h->unknown = (uint64_t)unknown;
    h->failures = (uint64_t)failures;
    h->unplaced = (uint64_t)unplaced;
    return true;
}
