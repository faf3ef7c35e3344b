/* What a suspect can be, as faults of the simulated board. */
#include <string.h>

#include "names.h"
#include "replay_internal.h"

typedef struct proposer {
    const rmg_run *run;
    const rmg_board *board;
    const rmg_finding *f;
    GPtrArray *list;
} proposer;

void rmg_proposal_free(void *one)
{
    proposal *p = one;

    g_free(p->name);
    g_free(p);
}

static proposal *add(proposer *w, gchar *name)
{
    proposal *p = g_new0(proposal, 1);

    p->name = name;
    g_ptr_array_add(w->list, p);
    return p;
}

static void put(proposal *p, rmg_sim_fault fault)
{
    if (p->count < PROPOSAL_FAULTS)
        p->faults[p->count++] = fault;
}

/* A rule of the suspect's socket in its bank. */
static const rmg_rule *rule_of(const proposer *w)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (rule->socket == w->f->socket && (w->f->bank == RMG_NO_BANK || rule->bank == w->f->bank))
            return rule;
    }
    return NULL;
}

static const char *socket_name(const proposer *w)
{
    return w->board->sockets[w->f->socket].name;
}

/* Every chip's line of the rule that carries one of the finding's bits, with one kind of fault. */
static void each_line(const proposer *w, proposal *p, rmg_fault_kind kind, int level)
{
    const rmg_rule *rule = rule_of(w);

    for (uint8_t line = 0; rule && line < rule->width; line++) {
        const rmg_word bit = (rmg_word)1 << rule->data_bits[line];

        if (w->f->bits & bit)
            put(p, (rmg_sim_fault){
                       .kind = kind,
                       .chip = rule->socket,
                       .data_line = line,
                       .level = (uint8_t)(level >= 0 ? level : (w->f->high & bit) != 0),
                   });
    }
}

static void data_at_socket(proposer *w)
{
    const char *name = socket_name(w);
    const rmg_part *part = w->board->sockets[w->f->socket].part;

    each_line(w, add(w, g_strdup_printf("the output of %s stuck", name)), RMG_FAULT_OUTPUT, -1);
    each_line(w, add(w, g_strdup_printf("a data pin of %s without contact", name)),
              RMG_FAULT_DATA_OPEN, 1);
    put(add(w, g_strdup_printf("%s empty, or its chip dead", name)),
        (rmg_sim_fault){.kind = RMG_FAULT_MISSING, .chip = w->f->socket});
    if (part && part->width == 1)
        for (int level = 0; level < 2; level++)
            each_line(w,
                      add(w, g_strdup_printf("the data input of %s without contact, floating at %d",
                                             name, level)),
                      RMG_FAULT_INPUT_OPEN, level);
}

/* Address lines of the bus as lines of the rule's chip, with all that share their pins. */
static rmg_addr chip_lines(const rmg_rule *rule, rmg_addr bus_lines, bool pins)
{
    rmg_addr lines = 0, all = 0;

    for (uint8_t k = 0; k < rule->address_lines; k++)
        if (rule->address_bits[k] < RMG_ADDR_BITS && (bus_lines >> rule->address_bits[k] & 1u))
            lines |= (rmg_addr)1 << k;
    for (uint8_t k = 0; pins && rule->address_pins && k < rule->address_lines; k++)
        for (uint8_t n = 0; n < rule->address_lines; n++)
            if ((lines >> n & 1u) && rule->address_pins[n] == rule->address_pins[k])
                all |= (rmg_addr)1 << k;
    return lines | all;
}

static void address_at_socket(proposer *w)
{
    const rmg_rule *rule = rule_of(w);
    const rmg_addr lines = rule ? chip_lines(rule, w->f->lines, false) : 0;
    const rmg_addr pins = rule ? chip_lines(rule, w->f->lines, true) : 0;

    for (int level = 0; level < 2 && rule; level++) {
        put(add(w, g_strdup_printf("the address pin of %s stuck or open at %d", socket_name(w),
                                   level)),
            (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_CHIP,
                            .chip = w->f->socket,
                            .lines = pins,
                            .level = (uint8_t)level});
        if (lines != pins)
            put(add(w, g_strdup_printf("one of the two address lines within %s stuck at %d",
                                       socket_name(w), level)),
                (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_CHIP,
                                .chip = w->f->socket,
                                .lines = lines,
                                .level = (uint8_t)level});
    }
}

/* The failing cells of the finding's socket, with the level that each reads. */
typedef struct cells_seen {
    const proposer *w;
    const rmg_rule *rule;
    proposal *stuck;
    rmg_addr first;    /* cell address of the first */
    rmg_addr last;     /* ... of the last */
    uint32_t lines;    /* data lines of the chip that fail */
    uint8_t data_line; /* the last of them */
    uint64_t count, high, low;
} cells_seen;

static void see_cell(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    cells_seen *s = context;
    const rmg_rule *rule = s->rule;
    const rmg_word failed = (high | low) & s->w->f->bits;

    if (!failed || !rmg_where_holds(&rule->where, address))
        return;
    for (uint8_t line = 0; line < rule->width; line++) {
        const rmg_word bit = (rmg_word)1 << rule->data_bits[line];
        const rmg_addr cell = rmg_rule_cell(rule, address);

        if (!(failed & bit))
            continue;
        if (!s->count++)
            s->first = cell;
        s->last = cell;
        s->data_line = line;
        s->lines |= (uint32_t)1 << line;
        s->high += (high & bit) != 0;
        s->low += (low & bit) != 0;
        put(s->stuck, (rmg_sim_fault){.kind = RMG_FAULT_CELL,
                                      .chip = rule->socket,
                                      .data_line = line,
                                      .cell = cell,
                                      .level = (high & bit) != 0});
    }
}

/* Two cells: an address inside the chip that reaches the other one's cell, or both. One: no cell.
 */
static void wrong_cells(proposer *w, const cells_seen *s)
{
    const rmg_addr cell[2] = {s->first, s->last};

    for (int reads = RMG_READS_AND; reads <= RMG_READS_OR && s->count == 1; reads++)
        put(add(w, g_strdup_printf("an address within %s that reaches no cell", socket_name(w))),
            (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_CELLS,
                            .chip = s->rule->socket,
                            .cell = s->first,
                            .cell2 = s->first,
                            .reaches = RMG_REACHES_NONE,
                            .reads = (rmg_sim_reads)reads});
    for (int i = 0; i < 2 && s->count == 2; i++) {
        put(add(w, g_strdup_printf("an address within %s that reaches another one's cell",
                                   socket_name(w))),
            (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_CELLS,
                            .chip = s->rule->socket,
                            .cell = cell[i],
                            .cell2 = cell[1 - i],
                            .reaches = RMG_REACHES_OTHER});
        for (int reads = RMG_READS_AND; reads <= RMG_READS_OR; reads++)
            put(add(w, g_strdup_printf("an address within %s that reaches another one's cell too",
                                       socket_name(w))),
                (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_CELLS,
                                .chip = s->rule->socket,
                                .cell = cell[i],
                                .cell2 = cell[1 - i],
                                .reaches = RMG_REACHES_BOTH,
                                .reads = (rmg_sim_reads)reads});
    }
}

static void cells(proposer *w)
{
    const rmg_rule *rule = rule_of(w);
    const rmg_part *part = w->board->sockets[w->f->socket].part;
    cells_seen s = {.w = w, .rule = rule};
    rmg_addr row_mask;

    if (!rule)
        return;
    s.stuck = add(w, g_strdup_printf("cells of %s stuck", socket_name(w)));
    rmg_failset_each(w->run->failures, see_cell, &s);
    row_mask = ((rmg_addr)1 << part->row_lines) - 1u;
    if (!s.count)
        return;
    if (s.count <= 2)
        wrong_cells(w, &s);
    if (s.count == 1) {
        static const struct {
            rmg_fault_kind kind;
            const char *name;
        } kinds[] = {{RMG_FAULT_TRANSITION, "a cell of %s that cannot be changed to %d"},
                     {RMG_FAULT_READ_WRONG, "a cell of %s that reads wrong when it holds %d"},
                     {RMG_FAULT_READ_FLIPS, "a cell of %s that a read flips from %d"},
                     {RMG_FAULT_WRITE_FLIPS, "a cell of %s that writing %d again flips"}};

        for (size_t k = 0; k < G_N_ELEMENTS(kinds); k++)
            for (int level = 0; level < 2; level++)
                put(add(w, g_strdup_printf(kinds[k].name, socket_name(w), level)),
                    (rmg_sim_fault){.kind = kinds[k].kind,
                                    .chip = rule->socket,
                                    .data_line = s.data_line,
                                    .cell = s.first,
                                    .level = (uint8_t)level});
        return;
    }
    for (int level = 0; level < 2 && part->row_lines; level++) {
        put(add(w, g_strdup_printf("a row of %s stuck at %d", socket_name(w), level)),
            (rmg_sim_fault){.kind = RMG_FAULT_ROW,
                            .chip = rule->socket,
                            .data_line =
                                s.lines & (s.lines - 1u) ? RMG_ALL_DATA_LINES : s.data_line,
                            .cell = s.first & row_mask,
                            .level = (uint8_t)level});
        put(add(w, g_strdup_printf("a column of %s stuck at %d", socket_name(w), level)),
            (rmg_sim_fault){.kind = RMG_FAULT_COLUMN,
                            .chip = rule->socket,
                            .data_line =
                                s.lines & (s.lines - 1u) ? RMG_ALL_DATA_LINES : s.data_line,
                            .cell = s.first >> part->row_lines,
                            .level = (uint8_t)level});
    }
}

/* The chips a finding of a line or bank is about: those of its bank, or beyond its point, or all.
 */
static void scope(const proposer *w, rmg_sim_fault *fault)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (w->f->socket != RMG_NO_SOCKET ? rule->socket == w->f->socket
                                          : w->f->bank == RMG_NO_BANK || rule->bank == w->f->bank)
            rmg_fault_include(fault, rule->socket);
    }
}

static void beyond(const proposer *w, rmg_sim_fault *fault)
{
    const rmg_line *line = &w->board->lines[w->f->line];

    for (uint16_t p = w->f->point; p < line->point_count; p++) {
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != w->f->point)
            up = line->points[up].parent;
        if (up == w->f->point && line->points[p].socket != RMG_NO_SOCKET)
            rmg_fault_include(fault, line->points[p].socket);
    }
}

static void of_scope(proposer *w, gchar *name, rmg_sim_fault fault)
{
    scope(w, &fault);
    put(add(w, name), fault);
}

static uint8_t lowest(rmg_word bits)
{
    uint8_t bit = 0;

    while (bits > 1u) {
        bits >>= 1;
        bit++;
    }
    return bit;
}

static void data_line(proposer *w)
{
    const rmg_where *lane = w->f->lane == RMG_NO_BANK ? NULL : &w->board->bank_wheres[w->f->lane];

    for (int level = 0; level < 2; level++)
        put(add(w, g_strdup_printf("the data line stuck at %d", level)),
            (rmg_sim_fault){.kind = RMG_FAULT_DATA_LINE,
                            .line = lowest(w->f->bits),
                            .cell = lane ? lane->mask : 0,
                            .lines = lane ? lane->match : 0,
                            .level = (uint8_t)level});
    of_scope(w, g_strdup("the data line open"),
             (rmg_sim_fault){.kind = RMG_FAULT_LINE_OPEN, .line = lowest(w->f->bits)});
}

static void address_lines(proposer *w)
{
    for (int level = 0; level < 2; level++)
        of_scope(w, g_strdup_printf("the address line stuck or open at %d", level),
                 (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_STUCK,
                                 .lines = w->f->lines,
                                 .level = (uint8_t)level});
}

static void touching(proposer *w, bool data)
{
    rmg_sim_fault fault = {.kind = data ? RMG_FAULT_DATA_SHORT : RMG_FAULT_ADDRESS_SHORT,
                           .lines = w->f->lines,
                           .level = w->f->high_wins};

    fault.line2 = lowest(w->f->bits);
    fault.line = lowest(w->f->bits & ~((rmg_word)1 << fault.line2));
    of_scope(w, g_strdup_printf("the two lines touch, a %d wins", w->f->high_wins), fault);
}

static void branch(proposer *w)
{
    const rmg_line *line = &w->board->lines[w->f->line];

    if (w->f->of == RMG_FINDING_NEVER_WRITTEN) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_NO_WRITE};

        beyond(w, &fault);
        put(add(w, g_strdup("the write line open beyond that point")), fault);
        return;
    }
    for (int level = 0; level < 2; level++) {
        rmg_sim_fault fault = {.kind = line->kind == RMG_LINE_DATA ? RMG_FAULT_LINE_STUCK
                                                                   : RMG_FAULT_ADDRESS_STUCK,
                               .line = line->bit,
                               .lines = (rmg_addr)1 << line->bit,
                               .level = (uint8_t)level};

        beyond(w, &fault);
        put(add(w, g_strdup_printf("%s open or stuck at %d beyond that point", line->name, level)),
            fault);
    }
    if (line->kind == RMG_LINE_DATA) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_LINE_OPEN, .line = line->bit};

        beyond(w, &fault);
        put(add(w, g_strdup_printf("%s open beyond that point", line->name)), fault);
    }
}

static void selects(proposer *w)
{
    const uint8_t banks[2] = {w->f->bank, w->f->bank2};

    for (size_t i = 0; i < (w->f->kind == RMG_FINDING_BANKS_SAME ? 2u : 1u); i++) {
        proposal *p = add(w, g_strdup_printf("the %s bank answers where the %s bank is addressed",
                                             w->board->banks[banks[i]].name,
                                             w->board->banks[banks[1 - i]].name));
        rmg_sim_fault dead = {.kind = RMG_FAULT_DESELECTED};

        put(p, (rmg_sim_fault){
                   .kind = RMG_FAULT_ALSO_SELECTED, .bank = banks[i], .bank2 = banks[1 - i]});
        if (w->f->kind == RMG_FINDING_BANKS_BOTH)
            continue;
        for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
            if (w->board->placement.rules[r].bank == banks[1 - i])
                rmg_fault_include(&dead, w->board->placement.rules[r].socket);
        put(p, dead);
    }
}

GPtrArray *rmg_propose(const rmg_run *run, const rmg_suspect *suspect)
{
    proposer w = {run, run->board, &suspect->finding,
                  g_ptr_array_new_with_free_func(rmg_proposal_free)};

    switch (w.f->kind) {
    case RMG_FINDING_DATA_AT_SOCKET:
        data_at_socket(&w);
        break;
    case RMG_FINDING_ADDRESS_AT_SOCKET:
        address_at_socket(&w);
        break;
    case RMG_FINDING_CELLS:
        cells(&w);
        break;
    case RMG_FINDING_DATA_LINE:
        data_line(&w);
        break;
    case RMG_FINDING_ADDRESS_LINES:
    case RMG_FINDING_ADDRESS_OF_BANK:
        address_lines(&w);
        break;
    case RMG_FINDING_BRANCH:
        branch(&w);
        break;
    case RMG_FINDING_DATA_SHORT:
        touching(&w, true);
        break;
    case RMG_FINDING_ADDRESS_SHORT:
        touching(&w, false);
        break;
    case RMG_FINDING_NEVER_WRITTEN:
    case RMG_FINDING_BANK_NEVER_WRITTEN:
        of_scope(&w, g_strdup("what is written does not arrive"),
                 (rmg_sim_fault){.kind = RMG_FAULT_NO_WRITE});
        break;
    case RMG_FINDING_BANK_SILENT:
    case RMG_FINDING_ALL_SILENT:
        of_scope(&w, g_strdup("none of these chips is ever selected"),
                 (rmg_sim_fault){.kind = RMG_FAULT_DESELECTED});
        break;
    case RMG_FINDING_BANKS_SAME:
    case RMG_FINDING_BANKS_BOTH:
        selects(&w);
        break;
    case RMG_FINDING_DRAGGED:
        of_scope(&w, g_strdup_printf("%s drives its lines at every read", socket_name(&w)),
                 (rmg_sim_fault){.kind = RMG_FAULT_ALWAYS_ON});
        break;
    case RMG_FINDING_SPREAD: /* what does not repeat cannot be replayed */
        break;
    }
    return w.list;
}
