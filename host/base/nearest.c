/* The nearest right spelling of a mistyped word, by edit distance (V. I. Levenshtein, Binary codes
 * capable of correcting deletions, insertions and reversals, 1966). */
#include <glib.h>
#include <string.h>

#include "rimeglass/text.h"

static size_t distance(const char *a, const char *b)
{
    const size_t columns = strlen(b);
    size_t *row = g_new(size_t, columns + 1);
    size_t result;

    for (size_t j = 0; j <= columns; j++)
        row[j] = j;
    for (size_t i = 1; a[i - 1]; i++) {
        size_t diagonal = row[0];

        row[0] = i;
        for (size_t j = 1; j <= columns; j++) {
            const bool same = g_ascii_tolower(a[i - 1]) == g_ascii_tolower(b[j - 1]);
            const size_t change = diagonal + (same ? 0 : 1);

            diagonal = row[j];
            row[j] = MIN(change, MIN(row[j], row[j - 1]) + 1);
        }
    }
    result = row[columns];
    g_free(row);
    return result;
}

const char *rmg_nearest(const char *word, const char *const *words)
{
    const size_t length = strlen(word);
    const char *best = NULL;
    size_t least = length / 3 + 2;

    for (size_t i = 0; words[i]; i++) {
        const size_t other = strlen(words[i]);
        size_t d = length > other ? length - other : other - length; /* at least */

        if (d < least)
            d = distance(word, words[i]);
        if (d < least && d < strlen(words[i])) {
            least = d;
            best = words[i];
        }
    }
    return best;
}
