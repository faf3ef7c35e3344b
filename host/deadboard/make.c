/* The image of a test ROM, and the profile for its lines. */
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/deadboard.h"

#define RATE_MOST    0.03  /* of error: a receiver samples the last bit at the wrong one */
#define RATE_UNASKED 0.012 /* ... until a trim is given */

static rmg_status refuse(rmg_error *error, gchar *why)
{
    rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "%s", why);
    g_free(why);
    return RMG_ERR_ARGUMENT;
}

static rmg_status judge_rate(const rmg_testrom_plan *plan, rmg_dead_image *image, rmg_error *error)
{
    if (!plan->serial.fitted)
        return RMG_OK;
    image->error = image->baud / plan->baud - 1.0;
    if (fabs(image->error) > RATE_MOST)
        return refuse(error,
                      g_strdup_printf("%u baud comes out as %.0f, %.1f %% off, which no receiver "
                                      "reads; choose a lower rate",
                                      plan->baud, image->baud, image->error * 100));
    if (fabs(image->error) > RATE_UNASKED && !plan->trim_ppm)
        return refuse(
            error, g_strdup_printf("%u baud comes out as %.0f, %.1f %% off; choose a lower rate, "
                                   "or say with --trim that this is right",
                                   plan->baud, image->baud, image->error * 100));
    return RMG_OK;
}

rmg_status rmg_dead_make(const rmg_board_rom *how, const rmg_testrom_plan *plan,
                         rmg_dead_image *image, rmg_error *error)
{
    rmg_testrom_image made = {0};
    rmg_status status;

    memset(image, 0, sizeof *image);
    rmg_error_none(error);
    image->size = (size_t)plan->size + how->offset;
    image->bytes = g_malloc(image->size);
    memset(image->bytes, 0xFF, image->size);
    memcpy(image->bytes, how->header, how->header_count);
    made.bytes = image->bytes + how->offset;
    made.room = plan->size;
    status = rmg_testrom_make(plan, &made);
    image->used = made.used;
    image->baud = made.baud;
    image->march_clocks = made.march_clocks;
    if (status == RMG_ERR_ROOM)
        return refuse(error,
                      g_strdup_printf("the ROM takes %zu bytes, the chip has %u: a shorter march "
                                      "(MATS+ is the shortest), or a larger chip",
                                      made.used + rmg_testrom_rows[plan->processor].vectors,
                                      plan->size));
    if (status != RMG_OK)
        return refuse(error,
                      g_strdup_printf("%s: %s", rmg_testrom_rows[plan->processor].name, made.why));
    return judge_rate(plan, image, error);
}

void rmg_dead_image_free(rmg_dead_image *image)
{
    g_free(image->bytes);
    memset(image, 0, sizeof *image);
}

char *rmg_dead_profile(const rmg_board *board, const rmg_board_rom *how)
{
    gchar *load = how->load_size ? g_strdup_printf(", load-at: 0x%X", how->load_at) : g_strdup("");
    gchar *text = g_strdup_printf("# Reads what the test ROM for this board tells.\n"
                                  "profile: test ROM\nabout: \"%s\"\n"
                                  "test-rom: {march: \"%s\", lines: %u%s}\n",
                                  board->file, how->march_text, how->lines, load);

    g_free(load);
    return text;
}

double rmg_dead_pass_clocks(const rmg_testrom_plan *plan, const rmg_dead_image *image)
{
    double words = 0;

    for (unsigned i = 0; i < plan->step_count; i++)
        if (plan->steps[i].kind == RMG_TESTROM_MARCH || plan->steps[i].kind == RMG_TESTROM_FIRST)
            words += (double)(plan->steps[i].range.last - plan->steps[i].range.first + 1u);
    return words * image->march_clocks;
}
