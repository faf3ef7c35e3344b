/* Boards under repair at random: what is wrong, and what it belongs to. */
#include <string.h>

#include "trial_world.h"

/* Is only one of the lines concerned that share a pin? A contact or a track has both. */
static bool within_chip(const diag_board *board, const rmg_sim_fault *fault)
{
    const rmg_part *part = board->board->sockets[fault->chip].part;

    for (uint8_t i = 0; i < part->address_lines; i++)
        for (uint8_t n = 0; n < part->address_lines; n++)
            if ((fault->lines >> i & 1u) && !(fault->lines >> n & 1u) &&
                rmg_part_address_pin(part, i) == rmg_part_address_pin(part, n))
                return true;
    return false;
}

/* Is the data line written and read at the same pin? */
static bool one_pin(const diag_board *board, const rmg_sim_fault *fault)
{
    uint8_t in, out;

    rmg_part_data_pins(board->board->sockets[fault->chip].part, fault->data_line, &in, &out);
    return in == out;
}

/* What a fault of one chip can belong to, and how often it does: the causes that show so. */
static owner draw_owner(const world_odds *odds, const diag_board *board, const rmg_sim_fault *fault,
                        const diag_kind *kind, diag_dice *dice)
{
    static const struct {
        rmg_fault_kind fault;
        rmg_cause chip, contact, place;
    } rows[] = {
        {RMG_FAULT_DATA_OPEN, RMG_CAUSE_CHIP_OUTPUT, RMG_CAUSE_CONTACT_OUTPUT,
         RMG_CAUSE_TRACK_DATA},
        {RMG_FAULT_INPUT_OPEN, RMG_CAUSE_CHIP_INPUT, RMG_CAUSE_CONTACT_INPUT,
         RMG_CAUSE_TRACK_WRITE},
        {RMG_FAULT_ADDRESS_CHIP, RMG_CAUSE_CHIP_ADDRESS, RMG_CAUSE_CONTACT_ADDRESS,
         RMG_CAUSE_TRACK_ADDRESS},
        {RMG_FAULT_OUTPUT, RMG_CAUSE_CHIP_OUTPUT, RMG_CAUSES, RMG_CAUSE_SHORT_PIN},
    };
    rmg_cause_table often_so;
    const double *often;

    if (kind->truth != TRUTH_CHIP || kind->reach != REACH_CHIP)
        return OF_LINE;
    if (kind->fault == RMG_FAULT_ADDRESS_CHIP && within_chip(board, fault))
        return OF_CHIP;
    /* what is written and read by one pin has one contact and one track for both */
    if (kind->fault == RMG_FAULT_INPUT_OPEN && one_pin(board, fault))
        return OF_CHIP;
    rmg_causes_standard(&often_so);
    often = board->board->sockets[fault->chip].mount == RMG_MOUNT_SOCKET ? often_so.socketed
                                                                         : often_so.soldered;
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++)
        if (rows[i].fault == kind->fault) {
            const double chip = odds->alike ? 1 : often[rows[i].chip],
                         contact = rows[i].contact == RMG_CAUSES ? 0
                                   : odds->alike                 ? 1
                                                                 : often[rows[i].contact],
                         place = odds->alike ? 1 : often[rows[i].place];
            const double at = (double)diag_roll(dice, 1000000) / 1e6 * (chip + contact + place);

            return at < chip ? OF_CHIP : at < chip + contact ? OF_CONTACT : OF_PLACE;
        }
    return OF_CHIP;
}

/* May it be wrong at times only? */
static bool may_be_seldom(rmg_fault_kind fault)
{
    return fault == RMG_FAULT_OUTPUT || fault == RMG_FAULT_DATA_OPEN ||
           fault == RMG_FAULT_INPUT_OPEN;
}

/* May it come when the board grows warm? Lines that change places do not. */
static bool may_be_warm(rmg_fault_kind fault)
{
    return fault != RMG_FAULT_DATA_SWAP && fault != RMG_FAULT_ADDRESS_SWAP;
}

/* May a chip and its place be too slow, or too weak, for each other so? */
static bool may_be_of_both(rmg_fault_kind fault)
{
    return fault == RMG_FAULT_LATE || fault == RMG_FAULT_WEAK || fault == RMG_FAULT_STALE;
}

/* May it show so that the chips of a bank lack their supply, or their refresh? */
static bool may_be_of_supply(rmg_fault_kind fault)
{
    return fault == RMG_FAULT_WEAK || fault == RMG_FAULT_MISSING || fault == RMG_FAULT_REFRESH;
}

/* The same at all chips of its bank. */
static void spread_over_bank(const rmg_placement *placement, defect *d)
{
    for (uint16_t r = 0; r < placement->rule_count && d->also_count < WORLD_ALSO; r++) {
        rmg_sim_fault f = d->fault;
        bool had = placement->rules[r].bank != f.bank || placement->rules[r].socket == f.chip;

        for (unsigned i = 0; i < d->also_count; i++)
            had |= d->also[i].chip == placement->rules[r].socket;
        if (had)
            continue;
        f.chip = placement->rules[r].socket;
        memset(f.scope, 0, sizeof f.scope);
        rmg_fault_include(&f, f.chip);
        d->also[d->also_count++] = f;
    }
}

/* Of a hundred boards of a mixture. */
static world_sort mixed(diag_dice dice)
{
    const unsigned at = (unsigned)diag_roll(&dice, 100);

    return at < 7    ? SORT_WARM
           : at < 13 ? SORT_SUPPLY
           : at < 20 ? SORT_BOTH
           : at < 28 ? SORT_TWO
                     : SORT_SIMPLE;
}

/* What it belongs to, and when it is there; false: a fault of that kind is none of this sort. */
static bool set_sort(world *w, defect *d, world_sort sort, diag_dice *dice)
{
    static const uint32_t seldom_rates[] = {1000, 5000, 30000, 200000}; /* of 10^9 accesses */
    static const uint32_t warm_rates[] = {0, 5000000, 200000000};
    const rmg_fault_kind fault = d->kind->fault;

    d->owner = draw_owner(w->odds, w->board, &d->fault, d->kind, dice);
    switch (sort) {
    case SORT_SELDOM:
        d->fault.when.rate_ppb = seldom_rates[diag_roll(dice, 4)];
        w->seldom = true;
        return may_be_seldom(fault);
    case SORT_WARM:
        w->when = WHEN_WARM;
        d->fault.when = (rmg_sim_when){
            .warm = true, .from_millic = 45000, .rate_ppb = warm_rates[diag_roll(dice, 3)]};
        w->seldom = true;
        return may_be_warm(fault) && !d->kind->time;
    case SORT_SUPPLY:
        d->owner = OF_SUPPLY;
        w->time = d->kind->time;
        spread_over_bank(&w->board->board->placement, d);
        return may_be_of_supply(fault) && d->also_count;
    case SORT_BOTH:
        d->owner = OF_BOTH;
        return may_be_of_both(fault);
    case SORT_TWO:
        return !d->kind->time && d->owner != OF_LINE &&
               (d == w->of || d->fault.chip != w->of[0].fault.chip);
    default:
        break;
    }
    return !d->kind->time;
}

static bool draw_defect(world *w, world_sort sort, diag_dice *dice)
{
    for (unsigned tries = 0; tries < 1000; tries++) {
        defect *d = &w->of[w->count];

        *d = (defect){.there = true, .kind = &diag_kinds[diag_roll(dice, diag_kind_count)]};
        if (d->kind->when != WHEN_ALWAYS || d->kind->truth == TRUTH_NOBODY ||
            (d->kind->time && !may_be_of_supply(d->kind->fault)) ||
            !diag_fault_make(dice, w->board, d->kind, &d->fault) || !set_sort(w, d, sort, dice))
            continue;
        d->socket = d->fault.chip;
        w->count++;
        return true;
    }
    return false;
}

bool world_draw(uint64_t seed, world_sort sort, diag_board *board, world *w)
{
    diag_dice dice = diag_seed(seed, 1);

    *w = (world){
        .board = board, .odds = w->odds, .pulled = RMG_NO_SOCKET, .dice = diag_seed(seed, 3)};
    if (sort == SORT_MIXED)
        sort = mixed(diag_seed(seed, 6));
    diag_board_make(seed, (diag_family)diag_roll(&dice, DIAG_FAMILIES), board);
    if (!draw_defect(w, sort, &dice) || (sort == SORT_TWO && !draw_defect(w, sort, &dice)))
        return false;
    w->passes = w->seldom ? 10 : 2;
    return true;
}

/* Do failures lie in the cells of one socket alone? */
static bool only_socket(const rmg_run *run, uint16_t *socket)
{
    const rmg_placement *placement = &run->board->placement;
    uint16_t found = RMG_NO_SOCKET;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (!rmg_failset_bits(run->failures, &rule->where, rmg_rule_bits(rule)))
            continue;
        if (found != RMG_NO_SOCKET && found != rule->socket)
            return false;
        found = rule->socket;
    }
    if (found != RMG_NO_SOCKET)
        *socket = found;
    return found != RMG_NO_SOCKET;
}

void world_settle(world *w, const rmg_run *run)
{
    defect *d = &w->of[0];
    uint16_t socket;

    if (w->count == 1 && d->owner == OF_LINE && d->kind->truth != TRUTH_TOUCH &&
        only_socket(run, &socket)) {
        d->owner = OF_PLACE;
        d->of_line = true;
        d->fault.chip = d->socket = socket;
    }
}
