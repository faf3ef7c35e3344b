/* One chip through the pod: checks before any supply, supplies, test, supplies off. */
#include <string.h>

#include "internal.h"

rmg_board *rmg_chip_board(const rmg_part *part, const char *socket)
{
    const unsigned rows = part->row_lines, lines = part->address_lines;
    const uint64_t last = ((uint64_t)1 << lines) - 1u;
    gchar *where =
        rows ? g_strdup_printf("rows: A0-A%u, columns: A%u-A%u", rows - 1u, rows, lines - 1u)
             : g_strdup_printf("lines: A0-A%u", lines - 1u);
    gchar *data = part->width > 1 ? g_strdup_printf("D0-D%u", part->width - 1u) : g_strdup("D0");
    gchar *text = g_strdup_printf(
        "board: '%s on its own pins'\nundriven: high\nword: %u\naddress-lines: %u\naddresses: "
        "words\n"
        "regions: [{name: chip, range: 0-%" G_GUINT64_FORMAT ", kind: %s}]\n"
        "banks: [{name: chip, range: 0-%" G_GUINT64_FORMAT ", part: '%s', %s, data: {%s: %s}}]\n"
        "sockets: [{names: %s, mount: socket}]\n",
        part->number, part->width, lines, last, part->kind == RMG_PART_ROM ? "rom" : "ram", last,
        part->number, where, socket, data, socket);
    rmg_board *board = NULL;
    rmg_errors errors = {0};

    rmg_board_load_text("a chip on its own pins", text, &board, &errors);
    rmg_errors_free(&errors);
    g_free(where);
    g_free(data);
    g_free(text);
    return board;
}

/* After a test that failed or ended early: are supplies and chip still there? */
static void look_again(rmg_pod *pod, rmg_chip *chip)
{
    char answer[120];
    unsigned mv = 0;
    rmg_chip then = *chip;

    if (pod->map) /* it cannot tell */
        return;
    if (rmg_link_tell(pod->link, "power", 0, answer, sizeof answer) != RMG_OK)
        return;
    if (g_str_has_prefix(answer, "dropped")) {
        chip->state = RMG_CHIP_DRAWS;
        g_strlcpy(chip->why, "a supply left its window during the test; all are off",
                  sizeof chip->why);
        return;
    }
    if (rmg_link_tell(pod->link, "power off", 0.1, answer, sizeof answer) != RMG_OK)
        return;
    if (!rmg_pod_feel(pod, &then) && then.state == RMG_CHIP_NOTHING) {
        mv = then.rail_mv;
        chip->state = RMG_CHIP_STOPPED;
        g_snprintf(chip->why, sizeof chip->why,
                   "the chip is no longer in the socket (a rail fed weakly has %u.%02u V)",
                   mv / 1000, mv % 1000 / 10);
    }
}

typedef struct asker {
    const rmg_chip_plan *plan;
    const rmg_run *run;
    bool enough; /* what was found says all: going on would only take time */
} asker;

/* A dead line says all. So does a flood: once three quarters as many reads were wrong as there are
 * cells, cells of both levels of every address line were among those read. */
static bool enough(const rmg_run *run, uint64_t failing_reads)
{
    const rmg_wiring *w = &run->wirings[0];

    if (run->wired[0]) {
        if (w->low || w->high)
            return true;
        for (uint8_t line = 0; line < run->board->address_bits; line++)
            if (w->ignored[line])
                return true;
    }
    return failing_reads > run->tested_words / 4u * 3u;
}

static bool on_progress(void *context, const rmg_run_progress *progress)
{
    asker *who = context;

    who->enough = enough(who->run, progress->failing_reads);
    return !who->enough &&
           (!who->plan->progress || who->plan->progress(who->plan->context, progress->share));
}

static rmg_status run(rmg_pod *pod, const rmg_board *board, const rmg_chip_plan *plan,
                      rmg_chip *chip)
{
    const rmg_plan steps = {.march_name = plan->march_name,
                            .march = plan->march,
                            .passes = plan->passes,
                            .seed = plan->seed};
    const rmg_target target = rmg_pod_target(pod, chip->part);
    rmg_run r;
    asker who = {plan, &r, false};
    const rmg_watch watch = {.context = &who, .progress = on_progress};
    rmg_error error = {0};
    rmg_status status = rmg_run_begin(&r, board, &steps, "pod", &error);

    if (status == RMG_OK) {
        rmg_run_carry_out(&r, &target, &watch);
        rmg_chip_judge(&r, chip);
        chip->seconds = r.seconds_wall;
        if (!r.complete && !who.enough)
            rmg_chip_stopped(pod, chip, r.status);
        if (chip->state == RMG_CHIP_GOOD && plan->grade) {
            const rmg_status graded = rmg_chip_grade(pod, plan, chip);

            if (graded != RMG_OK)
                rmg_chip_stopped(pod, chip, graded);
        }
        if (chip->state == RMG_CHIP_GOOD && plan->chart) {
            const rmg_status charted = rmg_chip_at_supplies(pod, plan, chip, plan->chart);

            if (charted != RMG_OK)
                rmg_chip_stopped(pod, chip, charted);
        }
        if (chip->state != RMG_CHIP_GOOD)
            look_again(pod, chip);
    }
    rmg_error_free(&error);
    rmg_run_end(&r);
    return status;
}

rmg_status rmg_chip_test(rmg_pod *pod, const rmg_part *part, const rmg_chip_plan *plan,
                         rmg_chip *chip)
{
    rmg_board *board = rmg_chip_board(part, "X1");
    rmg_status status = RMG_OK;

    if (!board) {
        status = RMG_ERR_MEMORY;
        *chip = (rmg_chip){.part = part};
    } else {
        if (rmg_pod_hold(pod, part, chip))
            status = run(pod, board, plan, chip);
        rmg_pod_release(pod);
        rmg_board_free(board);
    }
    if (status != RMG_OK) { /* a chip that was not tested must not look like one that is good */
        chip->state = RMG_CHIP_STOPPED;
        g_strlcpy(chip->why, "no memory is left", sizeof chip->why);
    }
    return status;
}
