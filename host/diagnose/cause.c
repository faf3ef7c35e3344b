/* The table of causes: built in, read from a file, written as one. */
#include "rimeglass/suspect.h"

#include <string.h>

#include "base/internal.h"

#define MOST_WEIGHT 1000.0

typedef struct row {
    const char *name;
    double socketed, soldered;
    const char *words;
} row;

static const row rows[RMG_CAUSES] = {
    [RMG_CAUSE_CHIP_OUTPUT] = {"chip-output", 55, 55, "a data output of the chip, stuck or dead"},
    [RMG_CAUSE_CHIP_INPUT] = {"chip-input", 5, 5, "a data input of the chip"},
    [RMG_CAUSE_CHIP_ADDRESS] = {"chip-address", 35, 35, "address inputs or decoders of the chip"},
    [RMG_CAUSE_CHIP_WRITE] = {"chip-write", 35, 35, "a chip that ignores writes"},
    [RMG_CAUSE_CHIP_ALWAYS_ON] = {"chip-always-on", 70, 70, "a chip that drives when not selected"},
    [RMG_CAUSE_CHIP_CELLS] = {"chip-cells", 95, 95, "cells, a row or a column of the chip"},
    [RMG_CAUSE_CHIP_SCATTERED] = {"chip-scattered", 70, 70, "scattered or intermittent cells"},
    [RMG_CAUSE_CHIP_SLOW] = {"chip-slow", 3, 3, "a chip slower than marked"},
    [RMG_CAUSE_CHIP_DRAGS] = {"chip-drags", 40, 40, "a chip that holds a data line"},
    [RMG_CAUSE_CHIP_DRAGS_FAR] = {"chip-drags-far", 20, 20, "... an address line or a branch"},
    [RMG_CAUSE_CHIP_BRIDGE] = {"chip-bridge", 30, 30, "a chip, two pins shorted inside"},
    [RMG_CAUSE_PART_MISSING] = {"part-missing", 10, 5, "no chip, or the wrong part"},
    [RMG_CAUSE_PART_SMALLER] = {"part-smaller", 5, 5, "a smaller part than marked"},
    [RMG_CAUSE_CONTACT_OUTPUT] = {"contact-output", 25, 20, "contact or joint at a data output"},
    [RMG_CAUSE_CONTACT_INPUT] = {"contact-input", 10, 10, "contact or joint at a data input"},
    [RMG_CAUSE_CONTACT_ADDRESS] = {"contact-address", 45, 45, "contact or joint at an address pin"},
    [RMG_CAUSE_CONTACT_WRITE] = {"contact-write", 40, 40, "contact or joint at the write pin"},
    [RMG_CAUSE_CONTACT_SELECT] = {"contact-select", 30, 30, "select or enable pin of one chip"},
    [RMG_CAUSE_CONTACT_ANY] = {"contact-any", 15, 15, "an intermittent contact or joint"},
    [RMG_CAUSE_TRACK_DATA] = {"track-data", 10, 20, "the track to one data pin"},
    [RMG_CAUSE_TRACK_ADDRESS] = {"track-address", 15, 15, "the track to one address pin"},
    [RMG_CAUSE_TRACK_WRITE] = {"track-write", 25, 25, "the track to one write pin or data input"},
    [RMG_CAUSE_SHORT_PIN] = {"short-pin", 7, 7, "a pin shorted to a supply"},
    [RMG_CAUSE_LINE_TRACK] = {"line-track", 30, 30, "a line of several chips, cut or shorted"},
    [RMG_CAUSE_LINE_DRIVER] = {"line-driver", 30, 30, "what drives a line of several chips"},
    [RMG_CAUSE_LINE_PART] = {"line-part", 50, 50, "a part that a line passes through"},
    [RMG_CAUSE_LINE_JOINT] = {"line-joint", 15, 15, "a joint along a line"},
    [RMG_CAUSE_LINE_BRIDGE] = {"line-bridge", 70, 70, "a bridge between two lines"},
    [RMG_CAUSE_SELECT_DECODER] = {"select-decoder", 60, 60,
                                  "decoder or gate that produces a select"},
    [RMG_CAUSE_SELECT_ADDRESS] = {"select-address", 25, 25, "an address line to the decoder"},
    [RMG_CAUSE_SELECT_TRACK] = {"select-track", 15, 15, "the track of a select"},
    [RMG_CAUSE_STROBE] = {"strobe", 45, 45, "select or strobes of a whole bank"},
    [RMG_CAUSE_LINK] = {"link", 45, 45, "the link, the port or the bus buffer"},
    [RMG_CAUSE_LINK_NOISE] = {"link-noise", 25, 25, "a link or bus that drops bits"},
    [RMG_CAUSE_CHIPS_MISSING] = {"chips-missing", 20, 20, "all chips of a bank missing"},
    [RMG_CAUSE_NOT_RAM] = {"not-ram", 15, 15, "ROM, or protected, where RAM should be"},
    [RMG_CAUSE_DATA_BUFFER] = {"data-buffer", 15, 15, "a data buffer that does not reverse"},
    [RMG_CAUSE_SUPPLY] = {"supply", 5, 5, "supply, refresh or timing at one chip"},
    [RMG_CAUSE_SUPPLY_BANK] = {"supply-bank", 35, 35, "a supply that does not reach a bank"},
    [RMG_CAUSE_NOISE] = {"noise", 50, 50, "a supply that is noisy, low or missing"},
    [RMG_CAUSE_REFRESH] = {"refresh", 25, 25, "refresh or timing of several chips"},
    [RMG_CAUSE_OTHER_DEVICE] = {"other-device", 40, 40, "something else that answers with the RAM"},
};

const char *rmg_cause_name(rmg_cause cause)
{
    return cause < RMG_CAUSES ? rows[cause].name : "";
}

const char *rmg_cause_words(rmg_cause cause)
{
    return cause < RMG_CAUSES ? rows[cause].words : "";
}

void rmg_causes_standard(rmg_cause_table *table)
{
    for (size_t i = 0; i < RMG_CAUSES; i++) {
        table->socketed[i] = rows[i].socketed;
        table->soldered[i] = rows[i].soldered;
    }
}

/* One number of the table; -1 and a note where it is none. */
static double weight(yaml_file *file, const ynode *node, const char *key)
{
    const char *text = rmg_yaml_text(node);
    char *end;
    const double value = g_ascii_strtod(text, &end);

    if (*text && !*end && value >= 0 && value <= MOST_WEIGHT)
        return value;
    rmg_yaml_wrong(file, node, key, "found \"%s\", expected how often it is the culprit, 0 to %.0f",
                   text, MOST_WEIGHT);
    return -1;
}

static void read_cause(yaml_file *file, const ynode *value, size_t cause, rmg_cause_table *table)
{
    const char *key = rows[cause].name;
    const ynode *const socketed = rmg_yaml_item(file, value, 0);
    const ynode *const soldered = rmg_yaml_item(file, value, 1);

    if (value->type == YAML_SCALAR_NODE) {
        table->socketed[cause] = table->soldered[cause] = weight(file, value, key);
    } else if (socketed && soldered && !rmg_yaml_item(file, value, 2)) {
        table->socketed[cause] = weight(file, socketed, key);
        table->soldered[cause] = weight(file, soldered, key);
    } else {
        rmg_yaml_wrong(file, value, key, "expected a number, or two: [in a socket, soldered]");
    }
}

static rmg_status read_table(yaml_file *file, rmg_cause_table *table)
{
    const char *names[RMG_CAUSES + 1] = {NULL};
    const ynode *root = rmg_yaml_root(file);
    ynode *key, *value;

    for (size_t i = 0; i < RMG_CAUSES; i++)
        names[i] = rows[i].name;
    if (!rmg_yaml_is_map(file, root, "a table of causes", names))
        return RMG_ERR_CONTENT;
    for (size_t i = 0; rmg_yaml_pair(file, root, i, &key, &value); i++)
        for (size_t n = 0; n < RMG_CAUSES; n++)
            if (strcmp(rmg_yaml_text(key), rows[n].name) == 0)
                read_cause(file, value, n, table);
    return file->errors->len ? RMG_ERR_CONTENT : RMG_OK;
}

static rmg_status load(const char *name, const char *text, rmg_cause_table *table,
                       rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    rmg_status status =
        text ? rmg_yaml_open_text(&file, name, text, notes) : rmg_yaml_open(&file, name, notes);

    rmg_causes_standard(table);
    if (status == RMG_OK)
        status = read_table(&file, table);
    if (status != RMG_OK)
        rmg_causes_standard(table);
    rmg_yaml_close(&file);
    rmg_errors_take(notes, errors);
    return status;
}

rmg_status rmg_causes_load(const char *file, rmg_cause_table *table, rmg_errors *errors)
{
    return load(file, NULL, table, errors);
}

rmg_status rmg_causes_load_text(const char *name, const char *text, rmg_cause_table *table,
                                rmg_errors *errors)
{
    return load(name, text, table, errors);
}

char *rmg_causes_text(const rmg_cause_table *table)
{
    GString *text = g_string_new("# How often each is the culprit: [in a socket, soldered]. Only "
                                 "the ratio counts.\n");

    for (size_t i = 0; i < RMG_CAUSES; i++) {
        char socketed[G_ASCII_DTOSTR_BUF_SIZE], soldered[G_ASCII_DTOSTR_BUF_SIZE];

        g_ascii_formatd(socketed, sizeof socketed, "%g", table->socketed[i]);
        g_ascii_formatd(soldered, sizeof soldered, "%g", table->soldered[i]);
        g_string_append_printf(text, "%s: [%s, %s] # %s\n", rows[i].name, socketed, soldered,
                               rows[i].words);
    }
    return g_string_free(text, FALSE);
}
