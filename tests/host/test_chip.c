/* A chip on a pod, the pod in a thread behind a pseudo terminal: what is said before any supply,
 * what follows from what fails, in words too. The firmware itself is tested by tests/links/pod.py.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "peer.h"
#include "rimeglass/far_end.h"
#include "rimeglass/march.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define CELLS 4096u /* a 4027: six row lines, six column lines */

typedef struct fake_pod {
    unsigned char cells[CELLS];
    const char *pod, *feel, *power; /* answers */
    const char *map;                /* its file; or NULL */
    unsigned steps;                 /* millivolts from one step of its supply to the next */
    unsigned supply;                /* step; below the fourth it is as much slower */
    unsigned ignored;               /* address lines that change nothing */
    int stuck;                      /* output; -1: not */
    unsigned bad_mask, bad_value;   /* cells with these address bits read 1 */
    unsigned holds_ms;              /* cell 5 forgets in longer ones */
    unsigned least_pace;            /* reads that are sooner give 1; 0: it has no paces */
    unsigned luck_ms, luck;         /* so long it holds the first time only: a step is two holds */
    unsigned pace, holds, longest_us;
    bool powered, lamp_good, lamp_bad, empty_later;
    rmg_target target;
    rmg_far_end far;
    char request[200], answer[300];
    rmg_far_found found[16];
} fake_pod;

static rmg_status read_cell(void *context, rmg_addr address, rmg_word *value)
{
    const fake_pod *p = context;

    *value = p->stuck >= 0 ? (rmg_word)p->stuck : p->cells[address & ~p->ignored];
    if (p->bad_mask && (address & p->bad_mask) == p->bad_value)
        *value = 1;
    if (p->pace && p->pace < p->least_pace + (p->steps && p->supply < 4 ? 4 - p->supply : 0))
        *value = 1;
    return p->powered ? RMG_OK : RMG_ERR_PORT_LOST;
}

static rmg_status write_cell(void *context, rmg_addr address, rmg_word value)
{
    fake_pod *p = context;

    p->cells[address & ~p->ignored] = (unsigned char)value;
    return RMG_OK;
}

static const rmg_bus cells_bus = {
    .version = RMG_BUS_VERSION, .read = read_cell, .write = write_cell};

static rmg_far_outcome intent(void *context, rmg_far_end *far)
{
    fake_pod *p = context;
    rmg_far_value lines, rows, cycles, rails;

    if (rmg_far_word(far, "pod")) {
        rmg_far_text(far, p->pod);
    } else if (rmg_far_word(far, "fit")) {
        if (!rmg_far_word(far, "dram") || !rmg_far_number(far, 0, 12, &lines) ||
            !rmg_far_number(far, 0, 9, &rows) || !rmg_far_number(far, 0, 256, &cycles) ||
            !rmg_far_number(far, 0, 7, &rails) || !rmg_far_at_end(far))
            return RMG_FAR_WRONG;
        CHECK(lines == 12 && rows == 6 && cycles == 64 && rails == 7, "a 4027 is fitted");
        rmg_far_refit(far, &p->target, CELLS - 1u);
        rmg_far_text(far, " ok");
    } else if (rmg_far_word(far, "feel")) {
        CHECK(!p->powered, "felt without supply");
        rmg_far_text(far, p->feel);
    } else if (rmg_far_word(far, "power")) {
        const bool on = rmg_far_word(far, "on"), off = rmg_far_word(far, "off");

        if (on || off)
            p->powered = on && strncmp(p->power, " ok", 3) == 0;
        if (off && p->empty_later)
            p->feel = " ok plus5=1356,1356 plus12=1356,1356";
        rmg_far_text(far, on ? p->power : off ? " ok" : " ok on plus5=1388");
    } else if (rmg_far_word(far, "hold")) {
        rmg_far_value us;

        if (!rmg_far_number(far, 0, 60000000, &us) || !rmg_far_at_end(far))
            return RMG_FAR_WRONG;
        p->holds++;
        p->longest_us = MAX(p->longest_us, (unsigned)us);
        if (us > p->holds_ms * 1000u || (us == p->luck_ms * 1000u && p->luck++ >= 2))
            p->cells[5] = 0;
        rmg_far_text(far, " ok");
    } else if (rmg_far_word(far, "pace")) {
        rmg_far_value clocks;

        if (!rmg_far_number(far, 0, 8, &clocks) || !rmg_far_at_end(far))
            return RMG_FAR_WRONG;
        p->pace = (unsigned)clocks;
        rmg_far_text(far, p->least_pace ? " ok" : " no cannot");
    } else if (rmg_far_word(far, "supply")) {
        rmg_far_value step;

        if (!rmg_far_number(far, 0, 7, &step) || !rmg_far_at_end(far))
            return RMG_FAR_WRONG;
        p->supply = p->steps ? (unsigned)step : 4;
        rmg_far_text(far, " ok plus5=");
        rmg_far_hex(far, 5000 + p->steps * p->supply - p->steps * 4, 0);
    } else if (rmg_far_word(far, "lamp")) {
        p->lamp_good = rmg_far_word(far, "good");
        p->lamp_bad = rmg_far_word(far, "bad");
        rmg_far_text(far, " ok");
    } else {
        return RMG_FAR_UNKNOWN;
    }
    return RMG_FAR_DONE;
}

static void take(peer *p, char byte)
{
    fake_pod *pod = p->context;
    const char *answer = rmg_far_take(&pod->far, byte);

    if (answer)
        peer_send(p, answer);
}

#define POD  " ok kind=dram data=1 lines=9 rails=plus5,plus12,minus5"
#define FEEL " ok plus5=A28,A28 plus12=A28,A28"
#define ON   " ok plus5=1388 plus12=2EE0 minus5=there"

static rmg_pod *begin(peer *p, fake_pod *f, rmg_error *error)
{
    const rmg_far_room room = {f->request,       sizeof f->request, f->answer,
                               sizeof f->answer, f->found,          16};
    rmg_pod *pod = NULL;

    f->target = (rmg_target){&cells_bus, f, 1};
    p->take = take;
    p->context = f;
    CHECK(rmg_far_begin(&f->far, &f->target, 0, "thread", &room) == RMG_OK, "begins");
    if (f->pod)
        rmg_far_extend(&f->far, "pod", intent, f);
    peer_start(p);
    rmg_pod_open(p->name, f->map, &pod, error);
    return pod;
}

static const rmg_chip_plan quick = {
    .march_name = "March C-", .march = rmg_march_c_minus, .passes = 1, .seed = 1};

/* One row a chip: what the pod says and what is wrong with its cells; what follows. */
static void verdicts(void)
{
    static const struct {
        const char *feel, *power;
        unsigned ignored;
        int stuck;
        unsigned bad_mask, bad_value;
        bool empty_later;
        rmg_chip_state state;
        const char *verdict, *text, *advice;
    } rows[] = {
        {FEEL, ON, 0, -1, 0, 0, false, RMG_CHIP_GOOD, "GOOD", "all 4K cells right in 1 pass",
         "Good tray"},
        {" ok plus5=1356,1356 plus12=1356,1356", ON, 0, -1, 0, 0, false, RMG_CHIP_NOTHING, "EMPTY",
         "4.95 V; no supply was given", "press it down"},
        {" ok plus5=26C,10CC plus12=A28,A28", ON, 0, -1, 0, 0, false, RMG_CHIP_REVERSED,
         "WRONG WAY ROUND", "(0.62 V): it is the wrong way round; no supply was given",
         "Turn it round"},
        {" ok plus5=A28,A28 plus12=14,14", ON, 0, -1, 0, 0, false, RMG_CHIP_SHORTED, "SHORTED",
         "(0.02 V when fed weakly)", "unless something lies in the socket"},
        {" ok plus5=A28,A28 plus12=1356,1356", ON, 0, -1, 0, 0, false, RMG_CHIP_GOOD, "GOOD", "",
         ""},
        {FEEL, " no rail plus12", 0, -1, 0, 0, false, RMG_CHIP_DRAWS, "BAD",
         "the +12 V rail does not come up", "known to be good"},
        {" ok something else", ON, 0, -1, 0, 0, false, RMG_CHIP_STOPPED, "NOT TESTED",
         "expected the rails in millivolts", "Nothing follows"},
        {FEEL, ON, 0, 1, 0, 0, false, RMG_CHIP_FAILS, "BAD", "(pin 14, Q) always reads 1",
         "Clean its pins"},
        {FEEL, ON, 0, 0, 0, 0, false, RMG_CHIP_FAILS, "BAD", "always reads 0", "Clean its pins"},
        {FEEL, ON, 1u << 3 | 1u << 9, -1, 0, 0, false, RMG_CHIP_FAILS, "BAD",
         "address pin A3 (pin 12) does nothing", "Clean its pins"},
        {FEEL, ON, 1u << 5 | 1u << 11, -1, 0, 0, false, RMG_CHIP_SMALLER, "NOT AS MARKED",
         "it answers like a part of 1K x 1: its highest address pin (pin 10)", "Remarked"},
        {FEEL, ON, 0, -1, 1u << 5, 1u << 5, false, RMG_CHIP_HALF, "HALF GOOD",
         "every cell that fails has A5 at row time high", "Bad tray for a 4027"},
        {FEEL, ON, 0, -1, 1u << 11, 0, false, RMG_CHIP_HALF, "HALF GOOD",
         "A5 at column time low; the other half is right", "Bad tray for a 4027"},
        {FEEL, ON, 0, -1, 0x03F, 9, false, RMG_CHIP_FAILS, "BAD",
         "1 whole row fails; the first at row 9, column 0; all read 1 for 0", "Bad tray."},
        {FEEL, ON, 0, -1, 0xFC0, 7u << 6, false, RMG_CHIP_FAILS, "BAD",
         "1 whole column fails; the first at row 0, column 7", "Bad tray."},
        {FEEL, ON, 0, -1, 0xFFF, 0x9C5, false, RMG_CHIP_FAILS, "BAD",
         "1 cell fails; the first at row 5, column 39", "Bad tray."},
        {FEEL, ON, 0, 1, 0, 0, true, RMG_CHIP_STOPPED, "NOT TESTED",
         "no longer in the socket (a rail fed weakly has 4.95 V)", "Nothing follows"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        static fake_pod f;
        peer p = {0};
        rmg_error error = {0};
        rmg_chip chip;
        rmg_pod *pod;
        char *text, *advice;

        f = (fake_pod){.pod = POD,
                       .feel = rows[i].feel,
                       .power = rows[i].power,
                       .ignored = rows[i].ignored,
                       .stuck = rows[i].stuck,
                       .bad_mask = rows[i].bad_mask,
                       .bad_value = rows[i].bad_value,
                       .empty_later = rows[i].empty_later};
        pod = begin(&p, &f, &error);
        CHECK(pod != NULL, "%s", error.what);
        if (!pod)
            break;
        CHECK(rmg_chip_test(pod, rmg_part_find("4027"), &quick, &chip) == RMG_OK, "row %zu", i);
        text = rmg_chip_text(&chip);
        advice = rmg_chip_advice(&chip);
        CHECK(chip.state == rows[i].state && strstr(text, rows[i].text) &&
                  strstr(advice, rows[i].advice) &&
                  strcmp(rmg_chip_verdict(&chip), rows[i].verdict) == 0,
              "row %zu: state %d, %s: %s. %s", i, (int)chip.state, rmg_chip_verdict(&chip), text,
              advice);
        CHECK(!f.powered, "row %zu: the supplies are off", i);
        rmg_pod_lamp(pod, i % 2, !(i % 2));
        CHECK(f.lamp_good == (i % 2 != 0) && f.lamp_bad == !(i % 2), "lamps");
        rmg_text_free(text);
        rmg_text_free(advice);
        rmg_pod_close(pod);
        peer_end(&p);
    }
}

/* A good chip at its limits. */
static void grades(void)
{
    static const struct {
        unsigned holds_ms, least_pace; /* what the chip can */
        unsigned luck_ms;
        rmg_chip_state state;
        unsigned found_ms, gives_way_ms, cas_ns, not_cas_ns;
        const char *text; /* NULL: none */
    } rows[] = {
        {9, 2, 9, RMG_CHIP_GOOD, 6, 9, 125, 62,
         "holds 6 ms without refresh, three times over; it gives way at 9 ms"},
        {9, 2, 0, RMG_CHIP_GOOD, 9, 10, 125, 62,
         "holds 9 ms without refresh, three times over; it gives way at 10 ms. Its data sheet asks "
         "for 2 ms. Data are there 125 ns after CAS, not yet after 62 ns"},
        {3, 1, 0, RMG_CHIP_GOOD, 3, 4, 63, 0,
         "holds 3 ms without refresh, three times over; it gives way at 4 ms. Its data sheet asks "
         "for 2 ms. Data are there 63 ns after CAS"},
        {2, 5, 0, RMG_CHIP_GOOD, 2, 3, 313, 250, "holds 2 ms"},
        {100000, 0, 0, RMG_CHIP_GOOD, 8192, 0, 0, 0,
         "holds 8192 ms without refresh, three times over; longer was not tried. Its data sheet "
         "asks for 2 ms"},
        {1, 2, 0, RMG_CHIP_FAILS, 0, 2, 125, 62, NULL},
    };
    rmg_chip_plan plan = quick;

    plan.grade = true;
    for (size_t i = 0; i < COUNT(rows); i++) {
        static fake_pod f;
        peer p = {0};
        rmg_error error = {0};
        rmg_chip chip;
        rmg_pod *pod;
        char *text, *line;

        f = (fake_pod){.pod = POD,
                       .feel = FEEL,
                       .power = ON,
                       .stuck = -1,
                       .holds_ms = rows[i].holds_ms,
                       .luck_ms = rows[i].luck_ms,
                       .least_pace = rows[i].least_pace};
        pod = begin(&p, &f, &error);
        if (!pod)
            break;
        CHECK(rmg_chip_test(pod, rmg_part_find("4027"), &plan, &chip) == RMG_OK, "row %zu", i);
        CHECK(chip.state == rows[i].state && chip.graded && chip.holds_ms == rows[i].found_ms &&
                  chip.gives_way_ms == rows[i].gives_way_ms,
              "row %zu: state %d, holds %u, gives way %u", i, (int)chip.state, chip.holds_ms,
              chip.gives_way_ms);
        CHECK(chip.cas_ns == rows[i].cas_ns && chip.not_cas_ns == rows[i].not_cas_ns && !f.pace,
              "row %zu: %u ns, not %u", i, chip.cas_ns, chip.not_cas_ns);
        CHECK(f.longest_us <= 16000000u && f.holds >= (rows[i].found_ms ? 6u : 1u),
              "row %zu: %u holds, the longest %u us", i, f.holds, f.longest_us);
        text = rmg_chip_grade_text(&chip);
        CHECK(rows[i].text ? text && strncmp(text, rows[i].text, strlen(rows[i].text)) == 0 : !text,
              "row %zu: %s", i, text ? text : "nothing");
        line = rmg_chip_line(&chip, "", "", "2026-01-02T03:04:05Z");
        CHECK(strstr(line, rows[i].found_ms ? "\"good\":true" : "\"good\":false"), "%s", line);
        rmg_text_free(text);
        rmg_text_free(line);
        rmg_pod_close(pod);
        peer_end(&p);
    }
}

/* At each step of the supply, how soon: a row in which the limit is known needs two or three. */
static void at_supplies(void)
{
    static const struct {
        unsigned steps, least_pace;
        size_t supplies;
        int32_t at_5, at_low; /* the hardest clean step in ns, -1: none */
    } rows[] = {
        {150, 2, 8, 125, 375}, {150, 6, 8, 375, -1}, {0, 3, 1, 188, 188}, {150, 1, 8, 63, 313}};
    rmg_chip_plan plan = quick;

    for (size_t i = 0; i < COUNT(rows); i++) {
        static fake_pod f;
        peer p = {0};
        rmg_error error = {0};
        rmg_grade_chart chart = {.axis = RMG_GRADE_TIME};
        const rmg_grade_point *clean, *failing;
        rmg_chip chip;
        int32_t *supplies;
        size_t count = 0;
        rmg_pod *pod;

        f = (fake_pod){.pod = POD,
                       .feel = FEEL,
                       .power = ON,
                       .stuck = -1,
                       .supply = 4,
                       .steps = rows[i].steps,
                       .least_pace = rows[i].least_pace};
        pod = begin(&p, &f, &error);
        if (!pod)
            break;
        plan.chart = &chart;
        CHECK(rmg_chip_test(pod, rmg_part_find("4027"), &plan, &chip) == RMG_OK &&
                  chip.state == RMG_CHIP_GOOD,
              "row %zu: %s", i, chip.why);
        supplies = rmg_grade_supplies(&chart, &count);
        CHECK(count == rows[i].supplies && f.supply == 4 && !f.pace, "row %zu: %zu supplies", i,
              count);
        rmg_grade_limit(&chart, 5000, &clean, &failing);
        CHECK(clean && clean->at == rows[i].at_5 && (failing != NULL) == (rows[i].at_5 > 63),
              "row %zu: at 5 V %d", i, clean ? clean->at : -1);
        if (count) {
            rmg_grade_limit(&chart, supplies[0], &clean, &failing);
            CHECK((clean ? clean->at : -1) == rows[i].at_low, "row %zu: at %d mV %d", i,
                  supplies[0], clean ? clean->at : -1);
        }
        CHECK(chart.count <= 8 + 4 * count, "row %zu: %zu steps tried", i, chart.count);
        free(supplies);
        rmg_grade_free(&chart);
        rmg_pod_close(pod);
        peer_end(&p);
    }
}

/* A pod whose lines are set one by one, with a 2114 in its socket. */
typedef struct line_pod {
    unsigned char cells[1024];
    char state[256]; /* h, l, z, u */
    bool missing;
    int stuck; /* line that reads 0; -1 */
    unsigned sets;
    unsigned refuses_at; /* this request with steps, once; 0: none */
    unsigned requests;
} line_pod;

static line_pod lined;

static unsigned lined_address(void)
{
    unsigned address = 0;

    for (unsigned i = 0; i < 10; i++)
        address |= (unsigned)(lined.state[2 + i] == 'h') << i;
    return address;
}

static bool lined_level(unsigned line)
{
    const bool on = lined.state[30] == 'h' && !lined.missing;

    if (lined.stuck == (int)line)
        return false;
    if (line >= 16 && line < 20 && on && lined.state[24] == 'l' && lined.state[26] == 'h')
        return (unsigned)lined.cells[lined_address()] >> (line - 16) & 1u;
    return lined.state[line] != 'l';
}

static void lined_set(unsigned line, char state)
{
    lined.state[line] = state;
    lined.sets++;
    if (lined.state[30] == 'h' && lined.state[24] == 'l' && lined.state[26] == 'l')
        for (unsigned i = 0; i < 4; i++)
            if (lined.state[16 + i] == 'h' || lined.state[16 + i] == 'l') {
                unsigned char *cell = &lined.cells[lined_address()];

                *cell = (unsigned char)((*cell & ~(1u << i)) |
                                        (unsigned)(lined.state[16 + i] == 'h') << i);
            }
}

static rmg_far_outcome lined_intent(void *context, rmg_far_end *far)
{
    (void)context;
    if (rmg_far_word(far, "pins")) {
        if (++lined.requests == lined.refuses_at)
            return RMG_FAR_WRONG;
        rmg_far_text(far, " ok ");
        while (!rmg_far_at_end(far)) {
            static const char digits[] = "0123456789ABCDEF";
            const char *letters = "hlzur";
            bool found = false;

            for (const char *l = letters; *l && !found; l++)
                for (unsigned line = 0; line < 40 && !found; line++) {
                    const char word[] = {*l, digits[line >> 4], digits[line & 15u], '\0'};

                    found = rmg_far_word(far, word);
                    if (found && *l == 'r')
                        rmg_far_text(far, lined_level(line) ? "1" : "0");
                    else if (found)
                        lined_set(line, *l);
                }
            if (!found)
                return RMG_FAR_WRONG;
        }
        return RMG_FAR_DONE;
    }
    if (!rmg_far_word(far, "volts"))
        return RMG_FAR_UNKNOWN;
    rmg_far_text(far, " ok ");
    rmg_far_hex(far,
                lined.state[30] == 'h'   ? 5000
                : lined.state[31] != 'h' ? 0
                : lined.missing          ? 4950
                                         : 2600,
                0);
    return rmg_far_number(far, 0, 0, &(rmg_far_value){0}) ? RMG_FAR_DONE : RMG_FAR_WRONG;
}

#define LINED                                                                                      \
    "pod: Shelf\nlines: {A0-A9: 2-11, D0-D3: 16-19, CE: 24, WE: 26}\n"                             \
    "rails: {plus5: {power: 30, feed: 31, volts: 0}}\nlamps: {good: 32}\n"

static void lines_one_by_one(void)
{
    static const struct {
        bool missing;
        int stuck;
        const char *file;
        rmg_chip_state state;
        bool unfelt;
    } rows[] = {{false, -1, LINED, RMG_CHIP_GOOD, false},
                {false, 17, LINED, RMG_CHIP_FAILS, false},
                {true, -1, LINED, RMG_CHIP_NOTHING, false},
                {false, -1,
                 "pod: Shelf\nlines: {A0-A9: 2-11, D0-D3: 16-19, CE: 24, WE: 26}\n"
                 "rails: {plus5: {power: 30}}\n",
                 RMG_CHIP_GOOD, true}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        static fake_pod f;
        const rmg_far_room room = {f.request,       sizeof f.request, f.answer,
                                   sizeof f.answer, f.found,          16};
        peer p = {.take = take, .context = &f};
        rmg_error error = {0};
        rmg_chip chip = {0};
        rmg_pod *pod = NULL;

        lined = (line_pod){.missing = rows[i].missing, .stuck = rows[i].stuck};
        lined.state[30] = 'h'; /* a call that was killed */
        f = (fake_pod){.target = {&cells_bus, &f, 1}};
        CHECK(rmg_far_begin(&f.far, &f.target, 0, "thread", &room) == RMG_OK, "begins");
        rmg_far_extend(&f.far, "pins", lined_intent, &f);
        peer_start(&p);
        CHECK(rmg_pod_open(p.name, temporary_file("shelf.yaml", rows[i].file), &pod, &error) ==
                  RMG_OK,
              "%s", error.what ? error.what : "opened");
        if (pod) {
            CHECK(strcmp(rmg_pod_name(pod), "Shelf") == 0, "its name");
            CHECK(lined.state[30] == 'l', "row %zu: what was left on is off", i);
            CHECK(rmg_chip_test(pod, rmg_part_find("2114"), &quick, &chip) == RMG_OK &&
                      chip.state == rows[i].state && chip.unfelt == rows[i].unfelt,
                  "row %zu: state %d, %s", i, (int)chip.state, chip.why);
            CHECK(chip.supply_mv == (rows[i].missing || rows[i].unfelt ? 0 : 5000),
                  "row %zu: %u mV", i, chip.supply_mv);
            CHECK(lined.state[30] == 'l', "row %zu: the supply is off", i);
            rmg_pod_lamp(pod, true, false);
            CHECK((lined.state[32] == 'h') == !rows[i].unfelt, "row %zu: the lamp", i);
        }
        rmg_pod_close(pod);
        peer_end(&p);
        rmg_error_free(&error);
    }
}

/* Whatever request is refused: nothing is called good, and the supply is off at the end. */
static void lines_refused(void)
{
    for (unsigned at = 6; at < 40; at += 3) { /* the first ones open it, and are made again */
        static fake_pod f;
        const rmg_far_room room = {f.request,       sizeof f.request, f.answer,
                                   sizeof f.answer, f.found,          16};
        peer p = {.take = take, .context = &f};
        rmg_error error = {0};
        rmg_chip chip = {0};
        rmg_pod *pod = NULL;

        lined = (line_pod){.stuck = -1, .refuses_at = at};
        f = (fake_pod){.target = {&cells_bus, &f, 1}};
        CHECK(rmg_far_begin(&f.far, &f.target, 0, "thread", &room) == RMG_OK, "begins");
        rmg_far_extend(&f.far, "pins", lined_intent, &f);
        peer_start(&p);
        rmg_pod_open(p.name, temporary_file("shelf.yaml", LINED), &pod, &error);
        if (pod) {
            rmg_chip_test(pod, rmg_part_find("2114"), &quick, &chip);
            CHECK(chip.state == RMG_CHIP_STOPPED, "request %u: state %d, %s", at, (int)chip.state,
                  chip.why);
        }
        rmg_pod_close(pod);
        CHECK(lined.state[30] == 'l' && lined.requests > at, "request %u: the supply is off", at);
        peer_end(&p);
        rmg_error_free(&error);
    }
}

/* What a pod's file gets wrong: where and what. */
static void pod_files(void)
{
    static const struct {
        const char *text, *why;
    } rows[] = {
        {"pod: P\nlines: {A0: 2, D0: 3, CE: 4}\nrails: {plus12: {power: 5}}\n",
         "expected plus5 with the line that switches it"},
        {"pod: P\nlines: {A0-A3: 2-4, D0: 8, CE: 9}\nrails: {plus5: {power: 30}}\n",
         "shelf.yaml:2: A0-A3: "},
        {"pod: P\nlines: {A0-A3: 2-5, D0: 256, CE: 9}\nrails: {plus5: {power: 30}}\n",
         "expected as many line numbers, from 0 to 255"},
        {"pod: P\nlines: {A0-A3: 2-5, D0: 5, CE: 9}\nrails: {plus5: {power: 30}}\n",
         "line 5 has 2 uses, expected one"},
        {"pod: P\nlines: {A0-A3: 2-5, D0: 6, CE: 9}\nrails: {plus5: {power: 9}}\n",
         "line 9 has 2 uses"},
        {"pod: P\nlines: {A0: 2, D0: 3, CE: 4}\nrails: {plus5: {power: 5, feed: 6}}\n"
         "lamps: {good: 6, bad: 6}\n",
         "line 6 has 3 uses"},
        {"pod: P\nlines: {A0: 0, D0: 3, CE: 4}\nrails: {plus5: {power: 0}}\n", "line 0 has 2 uses"},
        {"pod: P\nlines: {A0: 255, D0: 3, CE: 4}\nrails: {plus5: {power: 9, feed: 255}}\n",
         "line 255 has 2 uses"},
        {"pod: P\nlines: {A0: 0, D0: 3, CE: 4}\nrails: {plus5: {power: 9}}\nlamps: {bad: 0}\n",
         "line 0 has 2 uses"},
        {"pod: P\nlines: {A0: 2, D0: 3}\nrails: {plus5: {power: 30}}\n", "expected CE"},
        {"pod: P\nlines: {A1: 2, D0: 3, CE: 4}\nrails: {plus5: {power: 30}}\n",
         "expected address lines from A0"},
        {"pod: P\nlines: {A0: 2, B0: 3, CE: 4}\nrails: {plus5: {power: 30}}\n",
         "line \"B0\": expected A0 to A23"},
        {"pod: P\nlines: {A0: 2, D0: 3, CE: 4-5}\nrails: {plus5: {power: 30}}\n",
         "shelf.yaml:2: CE: expected the number of a line"},
        {"lines: {A0: 2, D0: 3, CE: 4}\nrails: {plus5: {power: 30}}\n", "pod"},
        {"pod: P\nrails: {plus5: {power: 30}}\n", "expected names and numbers of lines"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_error error = {0};
        rmg_pod *pod = NULL;

        CHECK(rmg_pod_open("run:true", temporary_file("shelf.yaml", rows[i].text), &pod, &error) ==
                      RMG_ERR_CONTENT &&
                  strstr(error.what, rows[i].why),
              "row %zu: %s", i, error.what ? error.what : "opened");
        rmg_pod_close(pod);
        rmg_error_free(&error);
    }
}

/* What is no pod, and parts that do not go into one. */
static void what_does_not_go(void)
{
    static const struct {
        const char *pod, *why;
    } pods[] = {{NULL, "\"thread\" is no pod"},
                {" ok", "expected kind=, data=, lines= and rails="},
                {" ok kind=dram data=1 lines=9 rails=plus55", "expected kind="},
                {" no lamp oil", "lamp oil"}};
    static const struct {
        const char *part, *why;
    } parts[] = {{"4027", NULL},
                 {"4164", NULL},
                 {"2114", "2114 is an SRAM, and this pod's socket is for others"},
                 {"4416", "4 data lines, this pod 1"},
                 {"511000", "10 address pins, this pod 9"},
                 {"4116", "no such rails"}};
    static fake_pod f;
    rmg_error error = {0};
    rmg_pod *pod;
    peer q = {0};

    for (size_t i = 0; i < COUNT(pods); i++) {
        peer p = {0};

        f = (fake_pod){.pod = pods[i].pod, .feel = FEEL, .power = ON, .stuck = -1};
        pod = begin(&p, &f, &error);
        CHECK(!pod && error.what && strstr(error.what, pods[i].why), "%s: %s", pods[i].why,
              error.what ? error.what : "opened");
        rmg_error_free(&error);
        rmg_pod_close(pod);
        peer_end(&p);
    }
    f = (fake_pod){.pod = " ok kind=rom,dram data=1 lines=9 rails=minus5,plus5,plus12",
                   .stuck = -1};
    pod = begin(&q, &f, &error);
    for (size_t i = 0; pod && i < COUNT(parts); i++) {
        char *why;

        if (i == 5) { /* the same pod without -5 V */
            rmg_pod_close(pod);
            peer_end(&q);
            q = (peer){0};
            f = (fake_pod){.pod = " ok kind=dram data=1 lines=9 rails=plus5,plus12", .stuck = -1};
            pod = begin(&q, &f, &error);
        }
        why = rmg_pod_refuses(pod, rmg_part_find(parts[i].part));
        CHECK(parts[i].why ? why && strstr(why, parts[i].why) : !why, "%s: %s", parts[i].part,
              why ? why : "goes in");
        rmg_text_free(why);
    }
    rmg_pod_close(pod);
    peer_end(&q);
}

/* A verdict as a line, and lines in a stock file. */
static void stock(void)
{
    const rmg_chip good = {.part = rmg_part_find("4027"), .words = 4096, .passes = 2};
    const rmg_chip bad = {.part = rmg_part_find("4027"),
                          .state = RMG_CHIP_FAILS,
                          .words = 4096,
                          .failing = 3,
                          .cells = 3,
                          .low = 3,
                          .first = 70};
    const char *file = temporary_file("tube.stock", "");
    char *lines[] = {rmg_chip_line(&good, "A1", "8432", "2026-01-02T03:04:05Z"),
                     rmg_chip_line(&bad, "A2", "", "2026-01-02T03:04:06Z")};
    rmg_stock s;
    rmg_error error = {0};

    CHECK(rmg_stock_load(file, &s, &error) == RMG_OK && !s.count, "an empty one");
    for (size_t i = 0; i < 2; i++)
        CHECK(rmg_stock_add(file, lines[i], &error) == RMG_OK, "%s", error.what);
    CHECK(rmg_stock_load(file, &s, &error) == RMG_OK && s.count == 2, "two lines");
    if (s.count == 2) {
        CHECK(s.rows[0].good && strcmp(s.rows[0].label, "A1") == 0 &&
                  strcmp(s.rows[0].lot, "8432") == 0 && strcmp(s.rows[0].state, "good") == 0,
              "the first");
        CHECK(s.rows[0].holds_ms == -1 && !s.rows[0].cas_ns && !s.rows[1].good &&
                  strcmp(s.rows[1].when, "2026-01-02T03:04:06Z") == 0 &&
                  strcmp(s.rows[1].text, "3 cells fail; the first at row 6, column 1; all read 0 "
                                         "for 1") == 0,
              "the second: %s", s.rows[1].text);
    }
    rmg_stock_free(&s);
    file = temporary_file(
        "hostile.stock",
        "{\"rimeglass_chip\":1,\"part\":\"4027\",\"label\":\"a\\u001b[2Jb\",\"lot\":\"\","
        "\"when\":\"\",\"state\":\"good\",\"good\":true,\"text\":\"\\u0007\"}\n");
    CHECK(rmg_stock_load(file, &s, &error) == RMG_OK && s.count == 1 &&
              !strchr(s.rows[0].label, '\033') && !strchr(s.rows[0].text, '\a') &&
              strstr(s.rows[0].label, "b"),
          "control characters stay in the file");
    rmg_stock_free(&s);
    file = temporary_file("half.stock", "{\"rimeglass_chip\": 1, \"part\": \"40");
    CHECK(rmg_stock_add(file, lines[0], &error) == RMG_ERR_CONTENT, "half a line stays");
    rmg_error_free(&error);
    CHECK(rmg_stock_load(file, &s, &error) == RMG_ERR_CONTENT && !s.count &&
              strstr(error.what, "half.stock:1: expected a chip's verdict"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_stock_load("/none/at/all", &s, &error) == RMG_ERR_FILE, "not there");
    rmg_error_free(&error);
    CHECK(rmg_stock_add("/none/at/all", lines[0], &error) == RMG_ERR_FILE, "nowhere to write");
    rmg_error_free(&error);
    rmg_text_free(lines[0]);
    rmg_text_free(lines[1]);
}

CU_TestInfo chip_tests[] = {
    {"verdicts", verdicts},
    {"grades", grades},
    {"at several supplies", at_supplies},
    {"lines set one by one", lines_one_by_one},
    {"lines that are refused", lines_refused},
    {"files of pods", pod_files},
    {"what does not go", what_does_not_go},
    {"stock files", stock},
    CU_TEST_INFO_NULL,
};
