/* What was read against what it should be: not only how much differs, but what the difference
 * proves. Explanations are tried against every word; one is kept if nearly all it foretells is
 * there, and the next is sought in what it leaves unexplained. */
#ifndef RIMEGLASS_COMPARE_H
#define RIMEGLASS_COMPARE_H

#include "rom.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Words of an image in memory. */
typedef struct rmg_words {
    const uint8_t *at; /* [count * bytes] */
    uint64_t count;
    uint8_t bits;    /* 1..64 */
    uint8_t bytes;   /* of a word: 1, 2, 4 or 8 */
    bool high_first; /* the highest byte of a word stands first */
} rmg_words;

/* The words of an image of a ROM. */
rmg_words rmg_rom_words(const rmg_rom *rom, const void *bytes);
rmg_word rmg_words_get(const rmg_words *words, uint64_t i);

typedef enum rmg_difference {
    RMG_DIFF_DATA_FLOATS,   /* data bit a reads whatever was on its line before */
    RMG_DIFF_DATA_STUCK,    /* data bit a always reads `level` */
    RMG_DIFF_DATA_SWAPPED,  /* data bits a and b changed places */
    RMG_DIFF_DATA_SHORTED,  /* both read AND (level 0) or OR (level 1) of the two */
    RMG_DIFF_DATA_PERMUTED, /* bit i of what is read is bit order[i] of the image */
    RMG_DIFF_DATA_INVERTED, /* every bit is inverted */
    RMG_DIFF_LINE_STUCK,    /* address line a is seen as `level`: one half shows twice */
    RMG_DIFF_LINE_SWAPPED,  /* address lines a and b changed places */
    RMG_DIFF_LINE_SHORTED,  /* both are seen as AND (level 0) or OR (level 1) of the two */
    RMG_DIFF_LINE_INVERTED, /* address line a is inverted: halves, or neighbours, exchanged */
    RMG_DIFF_BYTES_SWAPPED, /* the bytes of each 16 bits changed places */
    RMG_DIFF_OFFSET,        /* word i is the image's word i + offset, around its end */
    RMG_DIFF_HALF_BLANK,    /* half a (0: lower, 1: upper) holds nothing but ones */
    RMG_DIFF_OTHER_IMAGE    /* it is image `other` of those offered */
} rmg_difference;

typedef struct rmg_explanation {
    rmg_difference kind;
    uint8_t a, b, level;
    uint64_t offset;
    size_t other;
    uint8_t order[64];
    uint64_t foretold; /* wrong bits it foretells */
    uint64_t seen;     /* of these, wrong as foretold */
} rmg_explanation;

#define RMG_EXPLANATIONS 6u
#define RMG_ALIKE        3u
#define RMG_DIFF_FIRST   16u

/* One step of the explanation, and others that foretell just the same. */
typedef struct rmg_explained {
    rmg_explanation is;
    rmg_explanation alike[RMG_ALIKE];
    size_t alike_count;
} rmg_explained;

typedef struct rmg_wrong_word {
    uint64_t word;
    rmg_word good, read;
} rmg_wrong_word;

typedef struct rmg_comparison {
    uint64_t words, wrong_words, wrong_bits;
    uint8_t bits, lines;
    uint64_t to_one, to_zero; /* wrong bits by what was read */
    uint64_t by_bit[64][2];   /* the same by data bit: [1] read 1 for 0 */
    uint64_t by_line[64][2];  /* wrong words where the address line is 0, and 1 */
    rmg_word varies;          /* data bits that the image has as 0 and as 1 */
    uint64_t lines_vary;      /* address lines that make a difference in the image */
    rmg_explained steps[RMG_EXPLANATIONS];
    size_t step_count;
    uint64_t left, left_to_one, left_to_zero; /* wrong bits that no step explains */
    uint64_t left_by_bit[64];
    uint64_t left_unsteady; /* of these, bits that were not steady */
    rmg_word proved_bits;  /* data lines proved: both levels came through, unless wrong by a cell */
    uint64_t proved_lines; /* address lines proved in the same way */
    rmg_wrong_word first[RMG_DIFF_FIRST];
    size_t first_count;
} rmg_comparison;

/* What else is known of the reading. All zero: nothing. */
typedef struct rmg_compare_hints {
    rmg_word follows; /* data bits that float */
    rmg_word silent;  /* data bits of chips that do not answer: not explained line by line */
    const rmg_words *unsteady; /* ones at bits that were not steady; or NULL */
    const rmg_words *others;   /* [other_count]: images that it might be instead */
    size_t other_count;
} rmg_compare_hints;

/* Compares; both have as many words, of the same form. RMG_ERR_ARGUMENT otherwise; RMG_ERR_MEMORY.
 */
rmg_status rmg_compare(const rmg_words *good, const rmg_words *read, const rmg_compare_hints *hints,
                       rmg_comparison *comparison);

/* Are two files the same bytes? *same tells. RMG_ERR_FILE: *message, to be freed with
 * rmg_text_free, says which could not be read. Read once, in blocks; pipes are allowed. */
rmg_status rmg_files_same(const char *one, const char *two, bool *same, uint64_t *bytes,
                          char **message);

#ifdef __cplusplus
}
#endif
#endif
