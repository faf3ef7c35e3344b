/* See blinks.h. */
#include <glib.h>
#include <string.h>

#include "blinks.h"
#include "cli.h"
#include "rimeglass/report.h"

/* The code of two counts; 0xFF after saying what is wrong with them. */
static uint8_t code_of(const rmg_board *board, const rmg_testrom_plan *plan, const char *blinks)
{
    unsigned bank, bit;
    char rest, *means = NULL;
    uint8_t code = 0;

    if (strcmp(blinks, "good") == 0)
        return 0;
    if (sscanf(blinks, "%u %u %c", &bank, &bit, &rest) == 2 && bank >= 1 && bank <= 7 && bit >= 1 &&
        bit <= 31) {
        code = (uint8_t)(bank << 5 | bit);
        means = rmg_testrom_code_text(board, plan, code);
    }
    if (!means) {
        wrong_call("log",
                   "--blinks \"%s\": expected two counts of rimeglass testrom %s --legend, like "
                   "\"1 3\", or good for one long blink",
                   blinks, board->file);
        return 0xFF;
    }
    rmg_text_free(means);
    return code;
}

char *blinks_as_lines(const rmg_board *board, const rmg_board_rom *how, const char *blinks)
{
    rmg_testrom_line start = {.says = RMG_TESTROM_SAYS_START}, end = {.says = RMG_TESTROM_SAYS_END};
    char first[RMG_TESTROM_LINE], last[RMG_TESTROM_LINE];
    rmg_testrom_plan plan;
    rmg_error error;

    if (rmg_dead_plan(board, how, &plan, NULL, NULL, &error) != RMG_OK) {
        wrong_call("log", "%s", error.what);
        rmg_error_free(&error);
        return NULL;
    }
    end.code = code_of(board, &plan, blinks);
    if (end.code == 0xFF)
        return NULL;
    return g_strdup_printf("%s\n%s\n", rmg_testrom_line_text(&plan, &start, first),
                           rmg_testrom_line_text(&plan, &end, last));
}
