/* The table of kinds of finding. */
#include "kinds.h"

/* KIND(finding, said, sure, lists, alike, line, mirrors): what a suspect of it is; how sure it is
 * when it repeats and stands alone (docs/diagnosis.md); its rivals and steps; which findings it is
 * joined with beyond a point of a line; which lines it blames; do its lines make the memory repeat
 * itself? */
#define KINDS(KIND)                                                                                \
    KIND(ALL_SILENT, ALL_SILENT, 0.92, silent, SILENT, NOTHING, NONE, false)                       \
    KIND(BANK_SILENT, BANK_SILENT, 0.92, silent, SILENT, NOTHING, STROBE, false)                   \
    KIND(DATA_LINE, DATA_LINE, 0.93, data_line, DATA_LINE, NOTHING, DATA, false)                   \
    KIND(DATA_AT_SOCKET, SOCKET_LEVEL, 0.92, data_at_socket, DATA_AT_SOCKET, DATA, DATA_OF_BANK,   \
         false)                                                                                    \
    KIND(ADDRESS_LINES, ADDRESS_LINES, 0.93, address_line, ADDRESS_LINES, NOTHING, ADDRESS, true)  \
    KIND(ADDRESS_OF_BANK, ADDRESS_LINES, 0.92, address_line, ADDRESS_LINES, ADDRESS, ADDRESS,      \
         true)                                                                                     \
    KIND(ADDRESS_AT_SOCKET, SOCKET_IGNORES_LINES, 0.92, address_at_socket, ADDRESS_AT_SOCKET,      \
         ADDRESS, ADDRESS, true)                                                                   \
    KIND(CELLS, CELLS_SCATTERED, 0.93, cells, CELLS, NOTHING, NONE, false)                         \
    KIND(NEVER_WRITTEN, SOCKET_NEVER_WRITTEN, 0.92, never_written, NEVER_WRITTEN, WRITE, WRITE,    \
         false)                                                                                    \
    KIND(BANK_NEVER_WRITTEN, BANK_NEVER_WRITTEN, 0.92, bank_never_written, NEVER_WRITTEN, WRITE,   \
         WRITE, false)                                                                             \
    KIND(STALE, SOCKET_STALE, 0.92, stale, STALE, NOTHING, NONE, false)                            \
    KIND(DATA_SHORT, DATA_LINES_TOUCH, 0.93, touching, TOUCHING, NOTHING, NONE, false)             \
    KIND(ADDRESS_SHORT, ADDRESS_LINES_TOUCH, 0.93, touching, TOUCHING, NOTHING, NONE, false)       \
    KIND(BANKS_SAME, BANKS_THE_SAME, 0.92, selects, SELECTS, NOTHING, NONE, false)                 \
    KIND(BANKS_BOTH, BANK_ANSWERS_TWICE, 0.92, selects, SELECTS, NOTHING, NONE, false)             \
    KIND(DRAGGED, SOCKET_DRAGS, 0.92, dragged, DRAGGED, NOTHING, NONE, false)                      \
    KIND(BRANCH, BRANCH, 0.92, branch, BRANCH, NOTHING, NONE, false)                               \
    KIND(SPREAD, SPREAD, 0.92, spread, NOTHING, NOTHING, NONE, false)                              \
    KIND(SHARED, SHARED_DATA, 0.92, shared, SHARED, NOTHING, AS_OF, true)                          \
    KIND(SAME_WORDS, SAME_WORDS, 0.92, same_words, SAME_WORDS, NOTHING, NONE, false)               \
    KIND(NOW_AND_THEN, NOW_AND_THEN_LINE, 0.93, now_and_then, NOTHING, NOTHING, AS_OF, false)      \
    KIND(MEASURED, METER_LINE, 0.95, silent, NOTHING, NOTHING, NONE, false)                        \
    KIND(DATA_NOISY, DATA_NOISY, 0.93, noisy, NOTHING, NOTHING, NONE, false)                       \
    KIND(ADDRESS_NOISY, ADDRESS_NOISY, 0.93, noisy, NOTHING, NOTHING, NONE, false)                 \
    KIND(REPORTED, REPORTED, 0.80, reported, DATA_AT_SOCKET, DATA, DATA_OF_BANK, false)            \
    KIND(REPORTED_LINE, REPORTED_LINE, 0.80, reported_line, DATA_LINE, NOTHING, DATA, false)       \
    KIND(REPORTED_BIT, REPORTED_BIT, 0.60, reported_bit, NOTHING, NOTHING, NONE, false)            \
    KIND(REPORTED_BANK, REPORTED_BANK, 0.80, silent, NOTHING, NOTHING, STROBE, false)

#define ROW(finding, said, sure, lists, proposes, alike, line, mirrors)                            \
    [RMG_FINDING_##finding] = {                                                                    \
        RMG_SAY_##said,    sure,   rmg_next_##lists, RMG_PROPOSES_##proposes, RMG_ALIKE_##alike,   \
        RMG_BLAMES_##line, mirrors},
static const rmg_finding_kind_row rows[] = {KINDS(ROW)};
#undef ROW
_Static_assert(G_N_ELEMENTS(rows) == RMG_FINDING_KINDS, "each kind of finding has its row");
#define COUNT(finding, said, sure, lists, proposes, alike, line, mirrors) +1
_Static_assert(0 KINDS(COUNT) == RMG_FINDING_KINDS, "... and no kind is left out");
#undef COUNT

const rmg_finding_kind_row *rmg_finding_row(rmg_finding_kind kind)
{
    return &rows[kind];
}
