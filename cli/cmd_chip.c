/* rimeglass chip: a chip out of its board, on a pod. */
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "chip.h"
#include "cli.h"
#include "job_entry.h"
#include "rimeglass/march.h"
#include "rimeglass/report.h"

static const char description[] =
    "Tests a chip in the socket of a pod: is something in, is it the right way round, is a supply\n"
    "pin shorted (all before any supply), then its address pins and a march over all cells. The\n"
    "verdict says which tray, and the pod lights a lamp. A pod is a microcontroller and a socket;\n"
    "how to build one: docs/pod.md. The part is named as it is marked; where its pinout was held\n"
    "against rules only, --unchecked-pinout is needed to power it.\n"
    "--queue takes one chip after the other: put one in, press Enter. --stock keeps the verdicts "
    "in\n"
    "a file; chip stock FILE lists them, with --best N the labels of the best N: those whose data\n"
    "come soonest and that hold longest without refresh, where --grade tried that; --need "
    "BOARD,U18\n"
    "holds them against what that socket asks for. --shmoo FILE draws at which supply and time a\n"
    "good chip fails, where the pod can step its supply.\n"
    "chip grades RUN ... does it for the chips of a board, from runs (test --record, log "
    "--record)\n"
    "at several clocks and supplies, told by --told: the last clean step of each chip, and the\n"
    "margin that the board leaves.\n"
    "ROMs in a pod are read by dump, verify and identify with --bare.\n"
    "Exit status: 0 good, 1 not good, 2 wrong call, 3 not tested.\n\n"
    "Examples\n"
    "  rimeglass chip 4164 --on link:/dev/ttyUSB0,baud=1000000\n"
    "  rimeglass chip 4116 --unchecked-pinout --on link:/dev/ttyUSB0,baud=1000000 --label A7\n"
    "  rimeglass chip 4164 --queue --stock tube.stock --lot 8432 --on link:/dev/ttyUSB0,"
    "baud=1000000\n"
    "  rimeglass chip stock tube.stock --part 4164 --best 8\n"
    "  rimeglass chip 4164 --grade --shmoo a7.png --on link:/dev/ttyUSB0,baud=1000000\n"
    "  rimeglass chip grades slow.run as-it-is.run fast.run --picture clocks.png";

static void free_call(chip_call *call)
{
    g_free(call->on);
    g_free(call->label);
    g_free(call->lot);
    g_free(call->stock);
    g_free(call->march);
    g_free(call->json);
    g_free(call->part);
    g_free(call->job);
    g_free(call->shmoo);
    g_free(call->of);
    g_free(call->picture);
    g_free(call->need);
}

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("testing", share);
}

static void time_now(char *text, size_t room)
{
    const time_t now = time(NULL);

    strftime(text, room, "%Y-%m-%dT%H:%M:%SZ", gmtime(&now));
}

static void print_grade(FILE *to, const rmg_chip *chip)
{
    char *text = rmg_chip_grade_text(chip);

    if (text) {
        gchar *sentence = g_strdup_printf("%c%s.", g_ascii_toupper(text[0]), text + 1);

        print_wrapped(to, "  ", 2, sentence);
        g_free(sentence);
    }
    rmg_text_free(text);
}

static void print_verdict(FILE *to, const rmg_chip *chip, const char *label, const char *march)
{
    char *text = rmg_chip_text(chip), *advice = rmg_chip_advice(chip);
    gchar *lead = g_strdup_printf("%s%s%s: ", chip->part->number, *label ? ", " : "", label);
    gchar *sentence = g_strdup_printf("%c%s.", g_ascii_toupper(text[0]), text + 1);

    fprintf(to, "%s%s\n", lead, rmg_chip_verdict(chip));
    print_wrapped(to, "  ", 2, sentence);
    print_grade(to, chip);
    if (chip->unfelt)
        print_wrapped(to, "  ", 2,
                      "This pod cannot feel what sits in the socket: the chip got its supplies "
                      "without a check whether it is in, the right way round, and not shorted.");
    print_wrapped(to, "  ", 2, advice);
    if (chip->passes && chip->state != RMG_CHIP_STOPPED)
        fprintf(to, "  %s, %" G_GUINT64_FORMAT " pass%s, %.1f s, at %u.%02u V.\n", march,
                chip->passes, chip->passes == 1 ? "" : "es", chip->seconds, chip->supply_mv / 1000,
                chip->supply_mv % 1000 / 10);
    g_free(sentence);
    g_free(lead);
    g_free(text);
    g_free(advice);
}

static int status_of(const rmg_chip *chip)
{
    return chip->state == RMG_CHIP_GOOD                                         ? EXIT_PASS
           : chip->state == RMG_CHIP_STOPPED || chip->state == RMG_CHIP_NOTHING ? EXIT_INCOMPLETE
                                                                                : EXIT_FAULTS;
}

/* What is drawn, in the process that draws. */
typedef struct shmoo_picture {
    const rmg_chip *chip;
    const rmg_grade_chart *chart;
    const char *label, *file;
} shmoo_picture;

static rmg_status draw_shmoo(const void *context, rmg_error *error)
{
    const shmoo_picture *p = context;
    gchar *title =
        g_strdup_printf("%s%s%s", p->chip->part->number, *p->label ? ", " : "", p->label);
    const rmg_status status =
        rmg_draw_grades(p->chart, title,
                        p->chip->part->kind == RMG_PART_DRAM
                            ? "all cells at both levels, by supply and time from CAS"
                            : "all words at both levels, by supply and time from "
                              "its select",
                        RMG_NOT_KNOWN, p->file, error);

    g_free(title);
    return status;
}

/* The chart of a good chip as text and picture; false: the picture could not be made. */
static bool tell_shmoo(FILE *to, const chip_call *call, const rmg_chip *chip,
                       const rmg_grade_chart *chart, const char *label)
{
    const shmoo_picture picture = {chip, chart, label, call->shmoo};
    bool stepped = false;

    for (size_t i = 1; i < chart->count; i++)
        stepped |= chart->points[i].supply_mv != chart->points[0].supply_mv;
    if (!chart->count) {
        if (chip->state == RMG_CHIP_GOOD)
            print_wrapped(to, "  ", 2,
                          "This pod can step neither its supply nor its time: nothing was drawn.");
        return true;
    }
    if (!stepped)
        print_wrapped(to, "  ", 2,
                      "This pod cannot step its supply: the +5 V rail stood still. One row was "
                      "tried.");
    print_grade_chart(to, chart);
    return draw_apart(draw_shmoo, &picture, call->shmoo);
}

/* "4116 A7: GOOD, all 16K cells right in 2 passes" */
static bool add_to_job(const chip_call *call, const rmg_chip *chip, const char *label,
                       const char *result)
{
    char *text = rmg_chip_text(chip);
    gchar *line = g_strdup_printf("%s%s%s, out of the board: %s, %s", chip->part->number,
                                  *label ? " " : "", label, rmg_chip_verdict(chip), text);
    const bool added = job_add("chip", call->job, line, NULL, result);

    g_free(line);
    rmg_text_free(text);
    return added;
}

/* One chip: tested, told, kept. */
static int one(const chip_call *call, rmg_pod *pod, const rmg_part *part, rmg_chip_plan *plan,
               const char *label, rmg_chip *chip)
{
    FILE *to = report_begin(call->json, call->shmoo);
    rmg_grade_chart chart = {.axis = RMG_GRADE_TIME};
    char when[32];
    char *line;
    int status = EXIT_INCOMPLETE;

    plan->chart = call->shmoo ? &chart : NULL;
    rmg_pod_lamp(pod, false, false);
    progress_start();
    if (rmg_chip_test(pod, part, plan, chip) != RMG_OK)
        fprintf(stderr, "rimeglass chip: no memory is left\n");
    else
        status = status_of(chip);
    progress_end();
    if (status != EXIT_INCOMPLETE)
        rmg_pod_lamp(pod, status == EXIT_PASS, status != EXIT_PASS);
    if (call->queue && on_screen(stdout))
        print_banner(to, rmg_chip_verdict(chip), chip->state == RMG_CHIP_GOOD);
    print_verdict(to, chip, label, plan->march_name);
    if (call->shmoo && !tell_shmoo(to, call, chip, &chart, label))
        status = EXIT_CALL;
    rmg_grade_free(&chart);
    time_now(when, sizeof when);
    line = rmg_chip_line(chip, label, call->lot ? call->lot : "", when);
    if (call->json && !write_result(call->json, line))
        status = EXIT_CALL;
    if (call->stock && chip->state != RMG_CHIP_NOTHING && !stock_add(call->stock, line))
        status = EXIT_CALL;
    if (call->job && !add_to_job(call, chip, label, line))
        status = EXIT_CALL;
    rmg_text_free(line);
    report_end(to);
    return status;
}

/* A tube of chips: one Enter each. Labels are counted on from --label, or from 1. */
static int queue(const chip_call *call, rmg_pod *pod, const rmg_part *part, rmg_chip_plan *plan)
{
    unsigned good = 0, bad = 0, number = 0;
    char word[64];
    bool more = true;

    while (more) {
        gchar *label = g_strdup_printf("%s%u", call->label ? call->label : "", number + 1);
        rmg_chip chip;
        int status;

        printf("Put in %s, then Enter (q: end): ", label);
        fflush(stdout);
        more = fgets(word, sizeof word, stdin) != NULL && word[0] != 'q';
        if (more) {
            printf("%s", isatty(0) ? "" : "\n");
            status = one(call, pod, part, plan, label, &chip);
            good += status == EXIT_PASS;
            bad += status == EXIT_FAULTS;
            number += status == EXIT_PASS || status == EXIT_FAULTS;
            more = status != EXIT_CALL && chip.state != RMG_CHIP_STOPPED;
        }
        g_free(label);
    }
    printf("\n%u good, %u not.\n", good, bad);
    return bad ? EXIT_FAULTS : EXIT_PASS;
}

/* "link:STREAM" or "pod:FILE,STREAM". */
static rmg_status open_pod(const char *on, rmg_pod **pod, rmg_error *error)
{
    const char *rest = strchr(on, ':') + 1, *comma = strchr(rest, ',');
    const bool mapped = g_str_has_prefix(on, "pod:");
    gchar *map = mapped ? g_strndup(rest, (gsize)(comma - rest)) : NULL;
    const rmg_status status = rmg_pod_open(mapped ? comma + 1 : rest, map, pod, error);

    g_free(map);
    return status;
}

static int on_pod(const chip_call *call, const rmg_part *part, rmg_chip_plan *plan)
{
    rmg_pod *pod;
    rmg_error error = {0};
    rmg_chip chip;
    char *refused;
    int status;

    if (open_pod(call->on, &pod, &error) != RMG_OK) {
        status = error.status == RMG_ERR_PORT_LOST ? EXIT_INCOMPLETE : EXIT_CALL;
        fprintf(stderr, "rimeglass chip: %s\n", error.what);
        rmg_error_free(&error);
        return status;
    }
    refused = rmg_pod_refuses(pod, part);
    if (refused)
        status = wrong_call("chip", "%s", refused);
    else if (call->queue)
        status = queue(call, pod, part, plan);
    else
        status = one(call, pod, part, plan, call->label ? call->label : "", &chip);
    rmg_text_free(refused);
    rmg_pod_close(pod);
    return status;
}

static int run_call(const chip_call *call, const GPtrArray *args)
{
    uint8_t room[RMG_MARCH_BYTES];
    rmg_chip_plan plan = {.march_name = "March C-",
                          .march = rmg_march_c_minus,
                          .passes = (uint32_t)(call->passes == NOT_GIVEN ? 2 : call->passes),
                          .seed = 1,
                          .grade = call->grade,
                          .progress = go_on};
    const char *suffix;
    const rmg_part *part;

    if (args->len == 2 && strcmp(g_ptr_array_index(args, 0), "stock") == 0)
        return stock_show(call, g_ptr_array_index(args, 1));
    if (call->best != NOT_GIVEN || call->part || call->need)
        return wrong_call("chip", "%s goes with stock FILE",
                          call->part   ? "--part"
                          : call->need ? "--need"
                                       : "--best");
    if (args->len && strcmp(g_ptr_array_index(args, 0), "grades") == 0)
        return args->len > 1
                   ? grades_show(call, (char *const *)args->pdata + 1, args->len - 1u)
                   : wrong_call("chip", "grades: expected run files, made with test --record");
    if (call->of || call->picture)
        return wrong_call("chip", "%s goes with grades RUN ...", call->of ? "--of" : "--picture");
    if (args->len != 1)
        return wrong_call("chip", "expected one part, or stock and a file, found %u words",
                          args->len);
    part = part_of_marking("chip", g_ptr_array_index(args, 0), &suffix);
    if (!part)
        return EXIT_CALL;
    if (!call->on || (!g_str_has_prefix(call->on, "link:") &&
                      (!g_str_has_prefix(call->on, "pod:") || !strchr(call->on, ','))))
        return wrong_call("chip",
                          "say where the pod is: --on link:DEVICE,baud=1000000 or the like, or, by "
                          "a file of its lines, pod:FILE.yaml,DEVICE");
    if (call->passes != NOT_GIVEN && (call->passes < 1 || call->passes > 1000000))
        return wrong_call("chip", "--passes: found %d, expected a number from 1 to 1000000",
                          call->passes);
    if (call->queue && (call->json || call->shmoo))
        return wrong_call("chip", "%s is of one chip%s", call->json ? "--json" : "--shmoo",
                          call->json ? "; of a queue use --stock" : "");
    if (part->kind == RMG_PART_ROM)
        return wrong_call("chip",
                          "%s is a ROM, and is read: rimeglass dump, verify or identify %s --bare "
                          "--on %s",
                          part->number, part->number, call->on);
    if (!rmg_part_checked(part) && !call->unchecked)
        return wrong_call("chip",
                          "the pinout of %s was held against rules only: compare rimeglass part "
                          "show %s with its data sheet, then say --unchecked-pinout",
                          part->number, part->number);
    if (call->march) {
        plan.march = find_march("chip", call->march, room, &plan.march_name);
        if (!plan.march)
            return EXIT_CALL;
    }
    return job_takes("chip", call->job, NULL) ? on_pod(call, part, &plan) : EXIT_CALL;
}

int command_chip(GPtrArray *args)
{
    chip_call call = {.passes = NOT_GIVEN, .best = NOT_GIVEN};
    const GOptionEntry entries[] = {
        {"on", 0, 0, G_OPTION_ARG_STRING, &call.on, "the pod's stream, link:DEVICE,baud=1000000",
         "TARGET"},
        {"label", 0, 0, G_OPTION_ARG_STRING, &call.label, "what the chip, or the tube, is called",
         "TEXT"},
        {"lot", 0, 0, G_OPTION_ARG_STRING, &call.lot, "where it is from, for the stock file",
         "TEXT"},
        {"stock", 0, 0, G_OPTION_ARG_FILENAME, &call.stock, "add the verdict to this file", "FILE"},
        {"queue", 0, 0, G_OPTION_ARG_NONE, &call.queue, "one chip after the other", NULL},
        {"job", 0, 0, G_OPTION_ARG_FILENAME, &call.job, "add the verdict to this job", "FILE"},
        {"passes", 0, 0, G_OPTION_ARG_INT, &call.passes, "how often the march runs (2)", "N"},
        {"grade", 0, 0, G_OPTION_ARG_NONE, &call.grade,
         "a good chip: how soon are data there, how long does a DRAM hold?", NULL},
        {"shmoo", 0, 0, G_OPTION_ARG_FILENAME, &call.shmoo,
         "a good chip: draw at which supply and time it fails, .png, .svg or .pdf", "FILE"},
        {"march", 0, 0, G_OPTION_ARG_STRING, &call.march, "another march than March C-", "MARCH"},
        {"unchecked-pinout", 0, 0, G_OPTION_ARG_NONE, &call.unchecked,
         "the pinout was compared with the data sheet", NULL},
        {"part", 0, 0, G_OPTION_ARG_STRING, &call.part, "stock: only this part", "PART"},
        {"best", 0, 0, G_OPTION_ARG_INT, &call.best, "stock: the best N of the good ones", "N"},
        {"need", 0, 0, G_OPTION_ARG_FILENAME, &call.need,
         "stock: hold good ones against what that socket asks for", "BOARD,SOCKET"},
        {"of", 0, 0, G_OPTION_ARG_STRING, &call.of, "grades: draw this chip, not all memory",
         "U19"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &call.picture,
         "grades: draw them, .png, .svg or .pdf", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json,
         "write the verdict, or the grades, as JSON; - is stdout", "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("chip", "PART --on link:STREAM | stock FILE | grades RUN ...", description,
                      entries, args, &status))
        status = run_call(&call, args);
    free_call(&call);
    return status;
}
