/* Bits, lines, banks and devices by the names a technician uses. */
#include "base/internal.h"
#include "internal.h"

gchar *rmg_name_bits(rmg_word bits)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);

    for (unsigned i = 0; i < RMG_WORD_BITS; i++) {
        unsigned end = i;

        if (!((bits >> i) & 1u))
            continue;
        while (end + 1 < RMG_WORD_BITS && (bits >> (end + 1)) & 1u)
            end++;
        if (end - i < 2) { /* a run of three or more is written as one */
            g_ptr_array_add(list, g_strdup_printf("D%u", i));
        } else {
            g_ptr_array_add(list, g_strdup_printf("D%u-D%u", i, end));
            i = end;
        }
    }
    return rmg_join(list);
}

gchar *rmg_name_lines(const rmg_board *board, rmg_addr lines)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);
    char text[8];

    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++)
        if ((lines >> k) & 1u)
            g_ptr_array_add(list, g_strdup(rmg_board_line_text(board, k, text, sizeof text)));
    return rmg_join(list);
}

gchar *rmg_name_bank(const rmg_board *board, uint8_t bank)
{
    return bank == RMG_NO_BANK ? g_strdup("all banks") : g_strdup(board->banks[bank].called);
}

gchar *rmg_name_devices(const rmg_board *board, rmg_word bits, const rmg_where *lane)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);

    for (size_t s = 0; s < board->socket_count; s++) {
        bool on = false;

        for (uint16_t r = 0; r < board->placement.rule_count; r++) {
            const rmg_rule *rule = &board->placement.rules[r];

            if (!lane || !rule->where.mask || !lane->mask ||
                (rule->where.mask == lane->mask && rule->where.match == lane->match))
                on |= rule->socket == s && (rmg_rule_bits(rule) & bits);
        }
        if (on)
            g_ptr_array_add(list, g_strdup_printf("%s (%s)", board->sockets[s].name,
                                                  rmg_mount_text(board->sockets[s].mount)));
    }
    return rmg_join(list);
}
