/* One chip through the pod: checks before any supply, supplies, test, supplies off. */
#include <stdlib.h>
#include <string.h>

#include "internal.h"

/* Rails fed through 10 k: what they have with nothing in, and where something draws. */
#define EMPTY_MV    4700u
#define SHORTED_MV  300u
#define REVERSED_MV 1200u
#define RISES_MV    1500u /* more than this between lines low and lines pulled up: they lead there */

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

/* The word of the part: ones at its data lines. */
static rmg_word word_of(const rmg_part *part)
{
    return (rmg_word)(((rmg_word)1 << part->width) - 1u);
}

static void stopped(rmg_pod *pod, rmg_chip *chip, rmg_status status)
{
    const char *why = rmg_link_why(pod->link);

    chip->state = RMG_CHIP_STOPPED;
    g_strlcpy(chip->why,
              status == RMG_ERR_CANCELLED ? "stopped"
              : *why                      ? why
                                          : rmg_status_text(status),
              sizeof chip->why);
}

/* Is something in, and the right way round? true: it may be powered. */
static bool feel(rmg_pod *pod, rmg_chip *chip)
{
    bool other;
    const unsigned rails = rmg_pod_rails_of(chip->part, &other);
    char answer[120];
    unsigned low[2] = {0, 0}, pulled[2] = {0, 0};
    rmg_status status = rmg_link_tell(pod->link, "feel", 0.2, answer, sizeof answer);

    if (status == RMG_OK &&
        (!rmg_pod_number(answer, "plus5", false, &low[0]) ||
         !rmg_pod_number(answer, "plus5", true, &pulled[0]) ||
         (rails & POD_PLUS12 && (!rmg_pod_number(answer, "plus12", false, &low[1]) ||
                                 !rmg_pod_number(answer, "plus12", true, &pulled[1]))))) {
        g_snprintf(chip->why, sizeof chip->why,
                   "the pod says \"%.80s\" to \"feel\": expected the rails in millivolts", answer);
        chip->state = RMG_CHIP_STOPPED;
        return false;
    }
    if (status != RMG_OK) {
        stopped(pod, chip, status);
        return false;
    }
    chip->state = RMG_CHIP_NOTHING;
    for (unsigned i = 0; i < (rails & POD_PLUS12 ? 2u : 1u); i++) {
        chip->rail_mv = low[i];
        if (low[i] < REVERSED_MV && pulled[i] > low[i] + RISES_MV) {
            chip->state = RMG_CHIP_REVERSED;
            return false;
        }
        if (low[i] < SHORTED_MV) {
            chip->state = RMG_CHIP_SHORTED;
            return false;
        }
        if (low[i] < EMPTY_MV)
            chip->state = RMG_CHIP_GOOD; /* something is in */
    }
    return chip->state == RMG_CHIP_GOOD;
}

static bool fit(rmg_pod *pod, rmg_chip *chip)
{
    const rmg_part *part = chip->part;
    bool other;
    const unsigned rails = rmg_pod_rails_of(part, &other);
    char answer[60];
    gchar *intent =
        part->kind == RMG_PART_DRAM
            ? g_strdup_printf("fit dram %X %X %X %X", part->address_lines, part->row_lines,
                              MIN(part->refresh_cycles, 256u), rails)
            : g_strdup_printf("fit %s %X %X %X %X", part->kind == RMG_PART_ROM ? "rom" : "sram",
                              part->address_lines, (unsigned)word_of(part), rmg_part_ns(part, ""),
                              rails);
    const rmg_status status = rmg_link_tell(pod->link, intent, 0.1, answer, sizeof answer);

    g_free(intent);
    if (status != RMG_OK)
        stopped(pod, chip, status);
    return status == RMG_OK;
}

/* Puts the supplies on, and greets the pod anew: its memory is another one now. */
static bool power(rmg_pod *pod, rmg_chip *chip)
{
    char answer[120];
    rmg_status status = rmg_link_tell(pod->link, "power on", 0.5, answer, sizeof answer);
    const char *refused = rmg_link_refused(pod->link);

    if (status == RMG_ERR_PORT && g_str_has_prefix(refused, "rail ")) {
        chip->state = RMG_CHIP_DRAWS;
        g_snprintf(chip->why, sizeof chip->why, "the %s rail does not come up with it: %s",
                   strcmp(refused, "rail plus12") == 0   ? "+12 V"
                   : strcmp(refused, "rail minus5") == 0 ? "-5 V"
                                                         : "+5 V",
                   "all supplies are off again");
        return false;
    }
    if (status == RMG_OK) {
        rmg_pod_number(answer, "plus5", false, &chip->supply_mv);
        status = rmg_link_greet(pod->link, word_of(chip->part));
    }
    if (status != RMG_OK)
        stopped(pod, chip, status);
    return status == RMG_OK;
}

/* After a test that failed or ended early: are supplies and chip still there? */
static void look_again(rmg_pod *pod, rmg_chip *chip)
{
    char answer[120];
    unsigned mv = 0;
    rmg_chip then = *chip;

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
    if (!feel(pod, &then) && then.state == RMG_CHIP_NOTHING) {
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
            stopped(pod, chip, r.status);
        if (chip->state == RMG_CHIP_GOOD && plan->grade && chip->part->refresh_ms) {
            const rmg_status graded = rmg_chip_grade(pod, plan, chip);

            if (graded != RMG_OK)
                stopped(pod, chip, graded);
        }
        if (chip->state != RMG_CHIP_GOOD)
            look_again(pod, chip);
    }
    rmg_error_free(&error);
    rmg_run_end(&r);
    return status;
}

bool rmg_pod_hold(rmg_pod *pod, const rmg_part *part, rmg_chip *chip)
{
    memset(chip, 0, sizeof *chip);
    chip->part = part;
    return fit(pod, chip) && feel(pod, chip) && power(pod, chip);
}

char *rmg_chip_refused(const rmg_chip *chip)
{
    switch (chip->state) {
    case RMG_CHIP_NOTHING:
        return g_strdup("nothing is in the socket; no supply was given");
    case RMG_CHIP_REVERSED:
        return g_strdup("the chip is the wrong way round; no supply was given");
    case RMG_CHIP_SHORTED:
        return g_strdup("the chip's supply pin is shorted; no supply was given");
    default:
        return g_strdup(chip->why);
    }
}

void rmg_pod_release(rmg_pod *pod)
{
    char answer[60];

    rmg_link_tell(pod->link, "power off", 0.1, answer, sizeof answer);
}

rmg_target rmg_pod_target(const rmg_pod *pod, const rmg_part *part)
{
    return (rmg_target){rmg_link_bus(pod->link), pod->link, word_of(part)};
}

rmg_status rmg_chip_test(rmg_pod *pod, const rmg_part *part, const rmg_chip_plan *plan,
                         rmg_chip *chip)
{
    rmg_board *board = rmg_chip_board(part, "X1");
    rmg_status status = RMG_OK;

    if (!board)
        return RMG_ERR_MEMORY;
    if (rmg_pod_hold(pod, part, chip))
        status = run(pod, board, plan, chip);
    rmg_pod_release(pod);
    rmg_board_free(board);
    return status;
}
