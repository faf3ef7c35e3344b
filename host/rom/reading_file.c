/* An unfinished reading as a file: JSON, its counts compressed. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/rom.h"

#define FORM      2
#define MOST_FILE ((size_t)1 << 30)

static const char *rom_word(const rmg_rom *rom)
{
    return rom->region ? rom->region->name : rom->board->sockets[rom->bare ? 0 : rom->socket].name;
}

/* Counts as bytes, the lower one first on every machine. */
static json_t *counts_json(const uint16_t *counts, size_t count)
{
    uint8_t *bytes = g_try_malloc(MAX(2u * count, 1));
    json_t *json = NULL;

    for (size_t i = 0; bytes && i < count; i++) {
        bytes[2u * i] = (uint8_t)counts[i];
        bytes[2u * i + 1u] = (uint8_t)(counts[i] >> 8);
    }
    if (bytes)
        json = rmg_packed_json(bytes, 2u * count);
    g_free(bytes);
    return json;
}

/* Counts back; each bit can have been seen no oftener than it was read. */
static bool take_counts(const json_t *json, uint16_t *counts, size_t count, uint32_t most)
{
    uint8_t *bytes = g_try_malloc(MAX(2u * count, 1));
    bool good = bytes && rmg_packed_read(json, bytes, 2u * count);

    for (size_t i = 0; good && i < count; i++) {
        counts[i] = (uint16_t)(bytes[2u * i] | bytes[2u * i + 1u] << 8);
        good = counts[i] <= most;
    }
    g_free(bytes);
    return good;
}

rmg_status rmg_reading_save(const rmg_reading *reading, const char *file, rmg_error *error)
{
    const rmg_rom *rom = &reading->rom;
    const size_t bits = (size_t)rom->words * rom->bits;
    char *text = rmg_json_text(json_pack(
        "{s:i, s:s, s:s, s:b, s:i, s:i, s:I, s:I, s:I, s:o, s:o}", "rimeglass_reading", FORM,
        "board_sha256", rom->board->hash, "rom", rom_word(rom), "bare", rom->bare, "wanted",
        (int)reading->wanted, "done", (int)reading->done, "position", (json_int_t)reading->position,
        "driven_low", (json_int_t)reading->low, "driven_high", (json_int_t)reading->high, "ones",
        counts_json(reading->ones, bits), "same", counts_json(reading->same, bits)));
    rmg_status status = RMG_ERR_MEMORY;

    rmg_error_none(error);
    if (text)
        status = rmg_file_write(file, text, strlen(text), error);
    else
        rmg_fail(error, status, file, "%s: no memory is left to keep what was read", file);
    rmg_text_free(text);
    return status;
}

static rmg_status refuse(const char *file, const char *what, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_CONTENT, file, "%s: %s", file, what);
}

static rmg_status take(const json_t *root, const char *file, const rmg_rom *rom,
                       const rmg_target *target, rmg_reading *reading, rmg_error *error)
{
    const size_t bits = (size_t)rom->words * rom->bits;
    const char *hash, *name;
    const json_t *ones, *same;
    json_int_t position, low, high;
    int form, bare, wanted, done;
    rmg_status status;

    if (json_unpack((json_t *)root, "{s:i, s:s, s:s, s:b, s:i, s:i, s:I, s:I, s:I, s:o, s:o}",
                    "rimeglass_reading", &form, "board_sha256", &hash, "rom", &name, "bare", &bare,
                    "wanted", &wanted, "done", &done, "position", &position, "driven_low", &low,
                    "driven_high", &high, "ones", &ones, "same", &same) != 0)
        return refuse(file, "not an unfinished reading: keys are missing or of the wrong kind",
                      error);
    if (form != FORM)
        return refuse(file, "written by another version of the tool", error);
    if (strcmp(hash, rom->board->hash) != 0)
        return refuse(file, "made with another board file, or the board file was changed since",
                      error);
    if (strcmp(name, rom_word(rom)) != 0 || (bare != 0) != rom->bare)
        return refuse(file, "the unfinished reading is of another chip or region", error);
    if (wanted < 1 || wanted > (int)RMG_READINGS_MOST || done < 0 || done > wanted ||
        position < 0 || (uint64_t)position >= rom->words || (done == wanted && position))
        return refuse(file, "the unfinished reading's numbers contradict each other", error);
    status = rmg_reading_begin(reading, rom, (uint32_t)wanted, target);
    if (status != RMG_OK)
        return refuse(file, rmg_status_text(status), error);
    reading->done = (uint32_t)done;
    reading->position = (uint64_t)position;
    reading->low = (rmg_word)low;
    reading->high = (rmg_word)high;
    if (!take_counts(ones, reading->ones, bits, reading->done + 1u) ||
        !take_counts(same, reading->same, bits, reading->done + 1u)) {
        rmg_reading_end(reading);
        return refuse(
            file, "the unfinished reading's counts cannot be unpacked, or contradict each other",
            error);
    }
    return RMG_OK;
}

rmg_status rmg_reading_load(const char *file, const rmg_rom *rom, const rmg_target *target,
                            rmg_reading *reading, rmg_error *error)
{
    json_error_t problem;
    gchar *text;
    gsize size;
    json_t *root;
    rmg_status status;

    memset(reading, 0, sizeof *reading);
    status = rmg_file_read(file, MOST_FILE, &text, &size, error);
    if (status != RMG_OK)
        return status;
    root = json_loadb(text, size, JSON_REJECT_DUPLICATES, &problem);
    if (root) {
        status = take(root, file, rom, target, reading, error);
    } else {
        rmg_fail(error, RMG_ERR_CONTENT, file, "%s:%d: %s", file, problem.line, problem.text);
        status = RMG_ERR_CONTENT;
    }
    json_decref(root);
    g_free(text);
    return status;
}
