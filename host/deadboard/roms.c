/* The ROMs that a test ROM reads, and the sums of their pages where it is known what they hold. */
#include "base/internal.h"
#include "board/internal.h"
#include "internal.h"
#include "rimeglass/image.h"

/* What the chips of a board hold, as far as their images are asked for. */
typedef struct contents {
    const rmg_board *board;
    char **bytes; /* [socket_count] */
    size_t *sizes;
    rmg_error *error;
} contents;

/* A word of the bus; *known: the bits that are known. */
static rmg_word word_at(const contents *c, rmg_addr address, rmg_word *known)
{
    const rmg_placement *placement = &c->board->placement;
    rmg_word word = 0;

    *known = 0;
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const char *bytes = c->bytes[rule->socket];
        const size_t at = (size_t)rmg_rule_cell(rule, address) * ((rule->width + 7u) / 8u);

        if (!bytes || !rmg_where_holds(&rule->where, address))
            continue;
        *known |= rmg_rule_bits(rule);
        for (unsigned i = 0; i < rule->width; i++)
            if (at + i / 8u < c->sizes[rule->socket] &&
                ((unsigned)(uint8_t)bytes[at + i / 8u] >> i % 8u & 1u))
                word |= (rmg_word)1 << rule->data_bits[i];
    }
    return word;
}

/* Reads the images of the chips in a range. */
static bool load(contents *c, const rmg_range *range)
{
    const rmg_board *board = c->board;
    rmg_error error = {0};

    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];
        const rmg_socket *socket = &board->sockets[rule->socket];
        rmg_where part;

        if (!rmg_where_within(&rule->where, range, &part) || c->bytes[rule->socket] ||
            !socket->part || !*socket->image)
            continue;
        if (rmg_part_image(socket->part, socket->image, &c->bytes[rule->socket],
                           &c->sizes[rule->socket], &error) != RMG_OK) {
            rmg_fail(c->error, RMG_ERR_ARGUMENT, NULL, "roms: the image of %s: %s", socket->name,
                     error.what);
            rmg_error_free(&error);
            return false;
        }
    }
    return true;
}

/* The sums of a ROM's pages; where a bit of one is not known, none is. */
static void add_sums(const contents *c, rmg_testrom_plan *plan, rmg_testrom_rom *rom)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - plan->word_bits);
    rmg_testrom_sums *sums = &plan->sums[rom->first_page];
    rmg_word known;

    rom->known = true;
    for (rmg_addr n = 0; rom->known && n <= rom->range.last - rom->range.first; n++) {
        const rmg_word word = word_at(c, rom->range.first + n, &known);

        rom->known = known == all;
        rmg_testrom_add_word(plan, &sums[n / 256u], word);
    }
}

/* Is it a ROM that can be read: whole pages, few enough, not the one that the test ROM is in? */
static bool suits(const rmg_board *board, const rmg_board_rom *how, const rmg_testrom_plan *plan,
                  const rmg_region *region, unsigned pages, rmg_error *error)
{
    const rmg_addr words = region->range.last - region->range.first + 1u;
    const char *own = NULL;

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        for (unsigned i = 0; i < how->socket_count; i++) {
            rmg_where part;

            if (board->placement.rules[r].socket == how->sockets[i] &&
                rmg_where_within(&board->placement.rules[r].where, &region->range, &part))
                own = board->sockets[how->sockets[i]].name;
        }
    if (own)
        rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                 "roms: %s is where the test ROM itself sits, in %s; its own sum is always taken, "
                 "and what was there before can be read only from a slot or by a program in RAM",
                 region->name, own);
    else if ((region->range.first | words) & 255u)
        rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                 "roms: %s does not begin and end with whole pages of 256 words", region->name);
    else if (region->range.last << plan->byte_shift >=
             (uint64_t)1 << 4u * rmg_testrom_rows[plan->processor].digits)
        rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "roms: a %s does not reach all of %s",
                 rmg_testrom_rows[plan->processor].name, region->name);
    else if (words / 256u + pages > RMG_TESTROM_PAGES)
        rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                 "roms: with %s there are more than %u pages of 256 words", region->name,
                 RMG_TESTROM_PAGES);
    else
        return true;
    return false;
}

bool rmg_dead_add_roms(const rmg_board *board, const rmg_board_rom *how, rmg_testrom_plan *plan,
                       rmg_error *error)
{
    contents c = {board, g_new0(char *, MAX(board->socket_count, 1)),
                  g_new0(size_t, MAX(board->socket_count, 1)), error};
    unsigned pages = 0;
    bool good = true;

    for (unsigned i = 0; good && i < how->rom_count; i++) {
        const rmg_region *region = rmg_board_region_at(board, how->roms[i]);
        rmg_testrom_rom *rom = &plan->roms[plan->rom_count];

        good = suits(board, how, plan, region, pages, error) && load(&c, &region->range);
        if (!good)
            break;
        *rom = (rmg_testrom_rom){.range = region->range, .first_page = (uint16_t)pages};
        add_sums(&c, plan, rom);
        pages += (unsigned)((region->range.last - region->range.first + 1u) >> 8);
        plan->steps[plan->step_count++] =
            (rmg_testrom_step){RMG_TESTROM_ROM, plan->rom_count++, region->range};
    }
    for (size_t s = 0; s < board->socket_count; s++)
        rmg_text_free(c.bytes[s]);
    g_free(c.bytes);
    g_free(c.sizes);
    return good;
}
