/* What only the whole board file can show: regions that overlap, bits that no socket holds or two
 * hold, a socket used twice for the same cells, a part that is too small for its range. */
#include "build.h"

static const rmg_rule *rule_at(const board_build *b, guint i)
{
    return &g_array_index(b->rules, rmg_rule, i);
}

static const char *socket_name(const board_build *b, guint rule)
{
    return g_array_index(b->sockets, rmg_socket, rule_at(b, rule)->socket).name;
}

static const ynode *region_node(const board_build *b, const rmg_region *region)
{
    return b->region_nodes->pdata[region - &g_array_index(b->regions, rmg_region, 0)];
}

static void check_regions(board_build *b)
{
    for (guint i = 0; i < b->regions->len; i++)
        for (guint j = 0; j < i; j++) {
            const rmg_region *x = &g_array_index(b->regions, rmg_region, i);
            const rmg_region *y = &g_array_index(b->regions, rmg_region, j);
            char text[40], *place;

            if (x->range.first > y->range.last || y->range.first > x->range.last)
                continue;
            rmg_board_range_text(b->board, &y->range, text, sizeof text);
            place = rmg_yaml_place(b->file, b->region_nodes->pdata[j]);
            rmg_yaml_wrong(b->file, b->region_nodes->pdata[i], "range",
                           "region \"%s\" overlaps \"%s\" (%s, %s); expected regions that do not "
                           "overlap",
                           x->name, y->name, text, place);
            g_free(place);
        }
}

/* Is every bit at this address held exactly once? Notes the first bit that is not. */
static bool check_address(board_build *b, const rmg_region *region, rmg_addr address,
                          const rmg_range *stretch)
{
    rmg_word held = 0;
    const rmg_word mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - b->board->word_bits);
    char text[40];
    guint holder[RMG_WORD_BITS];

    rmg_board_range_text(b->board, stretch, text, sizeof text);
    for (guint r = 0; r < b->rules->len; r++) {
        const rmg_rule *rule = rule_at(b, r);

        if (!rmg_where_holds(&rule->where, address))
            continue;
        for (uint8_t i = 0; i < rule->width; i++) {
            const uint8_t bit = rule->data_bits[i];

            if ((held >> bit) & 1u) {
                rmg_yaml_wrong(b->file, g_ptr_array_index(b->rule_nodes, r), "data",
                               "overlapping placements: %s and %s both hold D%u in %s",
                               socket_name(b, holder[bit]), socket_name(b, r), bit, text);
                return false;
            }
            held |= (rmg_word)1 << bit;
            holder[bit] = r;
        }
    }
    if (region->kind == RMG_REGION_KEPT || !b->rules->len)
        return true; /* may be narrower than a word; a board without any bank places nothing */
    for (uint8_t bit = 0; bit < b->board->word_bits; bit++)
        if (!((held >> bit) & 1u) && (mask >> bit) & 1u) {
            rmg_yaml_wrong(b->file, region_node(b, region), NULL,
                           "region \"%s\": no socket holds D%u in %s; expected each bit of %s in "
                           "one bank",
                           region->name, bit, text, rmg_region_kind_name(region->kind));
            return false;
        }
    return true;
}

/* One stretch in which no rule begins or ends: each combination of the rules' condition bits. */
static bool check_stretch(board_build *b, const rmg_region *region, const rmg_range *stretch)
{
    rmg_addr mask = 0, match = 0, address;

    for (guint r = 0; r < b->rules->len; r++)
        if (rule_at(b, r)->where.first <= stretch->last &&
            rule_at(b, r)->where.last >= stretch->first)
            mask |= rule_at(b, r)->where.mask;
    do {
        if (rmg_next_match(stretch->first, mask, match, &address) && address <= stretch->last &&
            !check_address(b, region, address, stretch))
            return false;
        match = (match - mask) & mask; /* next combination of the bits in mask */
    } while (match);
    return true;
}

static void check_region_places(board_build *b, const rmg_region *region)
{
    rmg_range stretch = {region->range.first, region->range.last};

    for (;;) {
        for (guint r = 0; r < b->rules->len; r++) {
            const rmg_where *w = &rule_at(b, r)->where;

            if (w->first > stretch.first && w->first <= stretch.last)
                stretch.last = w->first - 1u;
            if (w->last >= stretch.first && w->last < stretch.last)
                stretch.last = w->last;
        }
        if (!check_stretch(b, region, &stretch) || stretch.last == region->range.last)
            return;
        stretch.first = stretch.last + 1u;
        stretch.last = region->range.last;
    }
}

/* Address lines that vary within the rule's range but reach neither chip nor condition. */
static void check_fit(board_build *b, guint r)
{
    const rmg_rule *rule = rule_at(b, r);
    const rmg_bank *bank = &g_array_index(b->banks, rmg_bank, rule->bank);
    rmg_addr used = rule->where.mask;
    rmg_addr varies = rule->where.first ^ rule->where.last;
    char text[40], name[8];

    if (r && rule_at(b, r - 1)->bank == rule->bank)
        return; /* the same for every socket of the bank */
    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        varies |= varies >> shift;
    for (uint8_t i = 0; i < rule->address_lines; i++)
        if (rule->address_bits[i] < RMG_ADDR_BITS)
            used |= (rmg_addr)1 << rule->address_bits[i];
    for (uint8_t k = 0; k < b->board->address_bits; k++)
        if ((varies & ~used) >> k & 1u) {
            const rmg_range range = {rule->where.first, rule->where.last};

            rmg_yaml_wrong(b->file, b->bank_nodes->pdata[rule->bank], NULL,
                           "bank \"%s\": a %s does not fit %s: %s varies there but feeds no "
                           "address line of the chip",
                           bank->name, bank->part->number,
                           rmg_board_range_text(b->board, &range, text, sizeof text),
                           rmg_board_line_text(b->board, k, name, sizeof name));
            return;
        }
}

/* The level a chip's address line has at every address of the rule; false where it varies. */
static bool fixed_level(const rmg_rule *rule, uint8_t line, bool *level)
{
    const uint8_t feed = rule->address_bits[line];
    const rmg_addr varies = rule->where.first ^ rule->where.last;

    if (feed >= RMG_ADDR_BITS) {
        *level = feed == RMG_FEED_1;
        return true;
    }
    *level = (rule->where.match >> feed) & 1u;
    if ((rule->where.mask >> feed) & 1u)
        return true;
    *level = (rule->where.first >> feed) & 1u;
    return varies >> feed == 0;
}

static bool cells_apart(const rmg_rule *x, const rmg_rule *y)
{
    for (uint8_t i = 0; i < x->address_lines; i++) {
        bool a, c;

        if (fixed_level(x, i, &a) && fixed_level(y, i, &c) && a != c)
            return true;
    }
    return false;
}

static void check_socket_once(board_build *b, guint r)
{
    for (guint q = 0; q < r; q++)
        if (rule_at(b, q)->socket == rule_at(b, r)->socket &&
            !cells_apart(rule_at(b, q), rule_at(b, r)))
            rmg_yaml_wrong(b->file, g_ptr_array_index(b->rule_nodes, r), "data",
                           "%s is used twice for the same cells, first in line %u",
                           socket_name(b, r), rmg_yaml_line(g_ptr_array_index(b->rule_nodes, q)));
}

static void check_first_memory(board_build *b)
{
    const rmg_range *first = &b->board->first_memory;
    char text[40];

    if (first->first > first->last)
        return;
    for (guint i = 0; i < b->regions->len; i++) {
        const rmg_region *region = &g_array_index(b->regions, rmg_region, i);

        if (region->kind == RMG_REGION_RAM && region->range.first <= first->first &&
            first->last <= region->range.last)
            return;
    }
    rmg_yaml_wrong_at(b->file, 1, "first-memory: %s is not within one RAM region",
                      rmg_board_range_text(b->board, first, text, sizeof text));
}

void rmg_board_check(board_build *b)
{
    check_regions(b);
    for (guint r = 0; r < b->rules->len; r++) {
        check_fit(b, r);
        check_socket_once(b, r);
    }
    check_first_memory(b);
    for (guint i = 0; i < b->regions->len; i++) {
        const rmg_region *region = &g_array_index(b->regions, rmg_region, i);

        if (region->kind == RMG_REGION_RAM || region->kind == RMG_REGION_ROM ||
            region->kind == RMG_REGION_KEPT)
            check_region_places(b, region);
    }
}
