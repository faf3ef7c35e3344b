/* What a whole chip can be, as faults of the simulated board: its data pins and its address pins.
 */
#include "internal.h"

#define CAUSE(name) RMG_CAUSE_BIT(RMG_CAUSE_##name)

/* Each data line of the chip that carries one of the finding's bits, with one kind of fault.
 * `level` below 0: the one that the line was seen at. */
static void each_line(const proposer *w, proposal *p, rmg_fault_kind kind, int level)
{
    const rmg_rule *rule = rmg_propose_rule(w);

    for (uint8_t line = 0; rule && line < rule->width; line++) {
        const rmg_word bit = (rmg_word)1 << rule->data_bits[line];
        rmg_sim_fault fault = {
            .kind = kind,
            .chip = rule->socket,
            .data_line = line,
            .line = rule->data_bits[line],
            .level = (uint8_t)(level >= 0 ? level : (w->f->high & bit) != 0),
        };

        rmg_fault_include(&fault, rule->socket);
        if (w->f->bits & bit)
            rmg_propose_put(p, fault);
    }
}

/* One fault of the chip as a whole. */
static void whole(proposer *w, uint64_t causes, rmg_said said, rmg_fault_kind kind)
{
    rmg_sim_fault fault = {.kind = kind, .chip = w->f->socket};

    rmg_fault_include(&fault, w->f->socket);
    rmg_propose_put(rmg_propose_add(w, causes, said), fault);
}

void rmg_propose_data_at_socket(proposer *w)
{
    const rmg_part *part = w->board->sockets[w->f->socket].part;
    const uint64_t input = part && part->width == 1
                               ? CAUSE(CONTACT_INPUT) | CAUSE(TRACK_WRITE) | CAUSE(CHIP_INPUT)
                               : CAUSE(CHIP_INPUT);

    each_line(w, rmg_propose_add(w, CAUSE(CHIP_OUTPUT) | CAUSE(SHORT_PIN), RMG_SAY_FAULT_OUTPUT),
              RMG_FAULT_OUTPUT, -1);
    each_line(w,
              rmg_propose_add(w, CAUSE(CONTACT_OUTPUT) | CAUSE(TRACK_DATA) | CAUSE(CHIP_OUTPUT),
                              RMG_SAY_FAULT_DATA_PIN),
              RMG_FAULT_DATA_OPEN, 1);
    whole(w, CAUSE(PART_MISSING) | CAUSE(CHIP_OUTPUT), RMG_SAY_FAULT_EMPTY, RMG_FAULT_MISSING);
    for (int level = 0; level < 2; level++)
        each_line(w, rmg_propose_at(w, input, RMG_SAY_FAULT_INPUT, (unsigned)level),
                  RMG_FAULT_INPUT_OPEN, level);
    whole(w, CAUSE(CHIP_SLOW), RMG_SAY_FAULT_LATE, RMG_FAULT_LATE);
    whole(w, CAUSE(CONTACT_SELECT) | CAUSE(CHIP_OUTPUT), RMG_SAY_FAULT_DESELECTED,
          RMG_FAULT_DESELECTED);
    each_line(w, rmg_propose_add(w, CAUSE(SHORT_PIN), RMG_SAY_FAULT_SHORT_PIN),
              RMG_FAULT_LINE_STUCK, -1);
    each_line(w,
              rmg_propose_add(w, CAUSE(TRACK_DATA) | CAUSE(CONTACT_OUTPUT), RMG_SAY_FAULT_CUT_PIN),
              RMG_FAULT_LINE_OPEN, 1);
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

void rmg_propose_address_at_socket(proposer *w)
{
    const rmg_rule *rule = rmg_propose_rule(w);
    const rmg_addr lines = rule ? chip_lines(rule, w->f->lines, false) : 0;
    const rmg_addr pins = rule ? chip_lines(rule, w->f->lines, true) : 0;

    /* a part with one pin less lacks all lines of its last pin */
    const rmg_part *part = w->board->sockets[w->f->socket].part;
    const bool last = part && part->address_lines && (pins >> (part->address_lines - 1u) & 1u);

    for (uint8_t level = 0; level < 2 && rule; level++) {
        rmg_sim_fault fault = {
            .kind = RMG_FAULT_ADDRESS_CHIP, .chip = w->f->socket, .lines = pins, .level = level};

        rmg_propose_put(rmg_propose_at(w,
                                       CAUSE(CONTACT_ADDRESS) | CAUSE(TRACK_ADDRESS) |
                                           CAUSE(CHIP_ADDRESS) |
                                           (last && lines == pins ? CAUSE(PART_SMALLER) : 0),
                                       RMG_SAY_FAULT_ADDRESS_PIN, level),
                        fault);
        fault.lines = w->f->lines;
        fault.kind = RMG_FAULT_ADDRESS_STUCK;
        rmg_fault_include(&fault, w->f->socket);
        if (lines == pins) /* at one chip a track carries all lines of its pin */
            rmg_propose_put(rmg_propose_at(w, CAUSE(TRACK_ADDRESS) | CAUSE(CONTACT_ADDRESS),
                                           RMG_SAY_FAULT_ADDRESS_TRACK, level),
                            fault);
        fault.kind = RMG_FAULT_ADDRESS_CHIP;
        fault.lines = lines;
        if (lines != pins)
            rmg_propose_put(rmg_propose_at(w, CAUSE(CHIP_ADDRESS) | CAUSE(PART_SMALLER),
                                           RMG_SAY_FAULT_ADDRESS_WITHIN, level),
                            fault);
        fault.kind = RMG_FAULT_SLOW_LINE;
        fault.level = 0;
        fault.state = level;
        rmg_propose_put(rmg_propose_at(w, CAUSE(CHIP_ADDRESS), RMG_SAY_FAULT_SLOW_LINE, level),
                        fault);
    }
}
