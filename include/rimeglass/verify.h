/* Verifying: several readings against a good image, at one supply and clock or at steps of them. */
#ifndef RIMEGLASS_VERIFY_H
#define RIMEGLASS_VERIFY_H

#include "rom.h"
#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What was read against what it should be: not only how much differs, but what the difference
 * proves. Explanations are tried against all that was read and compared by how many bits it takes
 * to write down the reading with their help (minimum description length; Rissanen, "Modeling by
 * shortest data description", Automatica 14, 1978): the explanation itself, and each bit it gets
 * wrong. The shortest is kept with its rivals, and the next is sought in what it leaves
 * unexplained. */

/* Words of an image in memory. */
typedef struct rmg_words {
    const uint8_t *at; /* [count * bytes] */
    uint64_t count;    /* how many */
    uint8_t bits;      /* 1..64 */
    uint8_t bytes;     /* of a word: 1, 2, 4 or 8 */
    bool high_first;   /* the highest byte of a word stands first */
} rmg_words;

/* The words of an image of a ROM. */
rmg_words rmg_rom_words(const rmg_rom *rom, const void *bytes);
rmg_word rmg_words_get(const rmg_words *words, uint64_t i);

/* What makes a reading differ. The first are about data bits, then address lines, then the whole
 * image; the last are no patterns but what is left when no pattern fits. */
typedef enum rmg_difference {
    RMG_DIFF_DATA_FLOATS,   /* data bit a reads whatever was on its line before */
    RMG_DIFF_DATA_STUCK,    /* data bit a always reads `level` */
    RMG_DIFF_DATA_SWAPPED,  /* data bits a and b changed places */
    RMG_DIFF_DATA_SHORTED,  /* both read AND (level 0) or OR (level 1) of the two */
    RMG_DIFF_DATA_PERMUTED, /* bit i of what is read is bit order[i] of the image, inverted where
                               bit i of `invert` is set */
    RMG_DIFF_DATA_INVERTED, /* every bit is inverted */
    RMG_DIFF_LINE_STUCK,    /* address line a is seen as `level`: one half shows twice */
    RMG_DIFF_LINE_SWAPPED,  /* address lines a and b changed places */
    RMG_DIFF_LINE_SHORTED,  /* both are seen as AND (level 0) or OR (level 1) of the two */
    RMG_DIFF_LINE_INVERTED, /* address line a is inverted: halves, or neighbours, exchanged */
    RMG_DIFF_LINE_PERMUTED, /* line i goes to the chip's line order[i], inverted where bit i of
                               `invert` is set */
    RMG_DIFF_LINES_STUCK,   /* the address lines in `offset` (bit i: line i) are seen as the bits of
                               `first` */
    RMG_DIFF_BYTES_SWAPPED, /* the bytes of each 16 bits changed places */
    RMG_DIFF_OFFSET,        /* word i is the image's word i + offset, around its end */
    RMG_DIFF_MOVED,         /* the image begins `offset` words too high (level 1), or too low (0);
                               the words it leaves are blank */
    RMG_DIFF_SHIFTED,       /* from word `first` on, or any of the `count` words before it, which
                               would read the same: `offset` words stand between (level 1), or are
                               missing (level 0; with b 1, the end that is left is blank) */
    RMG_DIFF_REPEATED,      /* part `offset` of 2^a words is all there is, again and again */
    RMG_DIFF_HALF_BLANK,    /* half a (0: lower, 1: upper) holds nothing but ones */
    RMG_DIFF_BLANK,         /* `count` words from `first` on hold nothing but `level` */
    RMG_DIFF_OTHER_IMAGE,   /* it is image `other` of those offered */
    RMG_DIFF_WITH_IMAGE,    /* image `other` answers too: AND (level 0) or OR (level 1) of both */
    RMG_DIFF_LATE,          /* what was on the lines just before; of readings made elsewhere, the
                               word before */
    RMG_DIFF_CELLS,         /* single bits; level 0: they read 0, 1: they read 1, 2: both ways */
    RMG_DIFF_PATCHED,       /* `count` places, few words each, hold something else */
    RMG_DIFF_ANOTHER,       /* something unknown answers too: AND (level 0) or OR (level 1) */
    RMG_DIFF_UNKNOWN,       /* it has nothing to do with the image */
    RMG_DIFFERENCES
} rmg_difference;

/* One cause of a difference, with its numbers. */
typedef struct rmg_explanation {
    rmg_difference kind; /* which fields count */
    uint8_t a, b, level; /* as `kind` says */
    bool sometimes;      /* not at every access: where it would show, it did now and then */
    bool steady;  /* of these: in all readings alike, so at some words rather than now and then */
    uint8_t part; /* of a region: the chip it is about, 1 and up; 0: all of it */
    uint64_t offset, first, count; /* as `kind` says */
    size_t other;                  /* image of those offered */
    uint64_t invert;               /* as `kind` says */
    uint8_t order[64];             /* as `kind` says */
    uint64_t predicted;            /* wrong bits it predicts */
    uint64_t seen;                 /* of these, wrong as predicted */
    double share;                  /* how likely among those that explain the same, 0..1 */
} rmg_explanation;

#define RMG_EXPLANATIONS 6u  /* steps of an explanation, at most */
#define RMG_ALIKE        24u /* others that are reported of a step, at most */
#define RMG_DIFF_FIRST   16u /* wrong words that are reported, at most */

/* One step of the explanation, and others that explain the readings as well or nearly so, the
 * likelier first. */
typedef struct rmg_explained {
    rmg_explanation is;               /* the likeliest */
    rmg_explanation alike[RMG_ALIKE]; /* [alike_count] */
    size_t alike_count;
} rmg_explained;

/* A word that read wrong. */
typedef struct rmg_wrong_word {
    uint64_t word;       /* its number */
    rmg_word good, read; /* what it should be, and what it was */
} rmg_wrong_word;

/* Words that must have been able to show a line wrong before it counts as proved, and how far such
 * words are counted. */
#define RMG_PROVED_WORDS 20u
#define RMG_SHOWS_MOST   1000u

/* What a reading and an image have to do with each other. */
typedef struct rmg_comparison {
    uint64_t words, wrong_words, wrong_bits; /* compared; of these, wrong; wrong bits of these */
    uint8_t bits, lines;                     /* of a word; address lines */
    uint64_t to_one, to_zero;                /* wrong bits by what was read */
    uint64_t by_bit[64][2];                  /* the same by data bit: [1] read 1 for 0 */
    uint64_t by_line[64][2];                 /* wrong words where the address line is 0, and 1 */
    /* How many words of the image would be wrong if the line were stuck, open, or exchanged with or
     * touching another one, whichever shows least; 0..RMG_SHOWS_MOST. */
    uint32_t shows_bit[64], shows_line[64];
    rmg_explained steps[RMG_EXPLANATIONS]; /* [step_count], the first explains most */
    size_t step_count;
    uint64_t left, left_to_one, left_to_zero; /* wrong bits that no step explains */
    uint64_t left_by_bit[64];                 /* the same, and bits that were not steady */
    uint64_t left_unsteady;                   /* of `left`, bits that were not steady */
    uint64_t left_touched;                    /* bits wrong or not steady that no step explains */
    rmg_explained rest;                       /* what these are, where there are any */
    /* Where nothing but ones, or zeros, was read: how many times as likely as that the chip does
     * not answer, or is blank, it is that an address line that is stuck, or touches another, shows
     * a blank part of the image everywhere. Of all of it; of the chip that has the data bit. */
    double hidden, hidden_bit[64];
    rmg_word proved_bits;  /* data lines proved: RMG_PROVED_WORDS words or more could have shown
                              them wrong, and none did */
    uint64_t proved_lines; /* address lines proved in the same way */
    rmg_wrong_word first[RMG_DIFF_FIRST]; /* the first wrong words */
    size_t first_count;
} rmg_comparison;

/* A chip's part of what is compared: some bits of some words. */
typedef struct rmg_compare_part {
    rmg_word bits;         /* of each word */
    uint64_t first, count; /* words; count is a power of two, and first a multiple of it */
} rmg_compare_part;

/* What else is known of the reading. All zero: nothing. */
typedef struct rmg_compare_hints {
    rmg_word follows; /* data bits that float */
    rmg_word silent;  /* data bits of chips that do not answer: not explained line by line */
    const rmg_words *unsteady; /* ones at bits that were not steady; or NULL */
    const rmg_words *others;   /* [other_count]: images it might be instead */
    size_t other_count;
    const rmg_compare_part *parts; /* [part_count]: the chips, where there are several */
    size_t part_count;
    uint32_t readings;      /* how many there were; 0 counts as 1 */
    bool late;              /* what is wrong is what was on the lines just before */
    bool in_order;          /* they were made upwards, nothing between the words */
    const rmg_words *known; /* ones at bits that the image says something about; NULL: all */
} rmg_compare_hints;

/* Compares; both have as many words, of the same form. RMG_ERR_ARGUMENT otherwise; RMG_ERR_MEMORY.
 */
rmg_status rmg_compare(const rmg_words *good, const rmg_words *read, const rmg_compare_hints *hints,
                       rmg_comparison *comparison);

#define RMG_EXPLAINED_MOST ((uint64_t)16 << 20) /* bytes explained, where one can choose */

/* Counts where bytes differ: all that an rmg_comparison has but explanations and proved lines. For
 * images that are too large for those (rmg_compare takes 32 bytes of memory for each word). */
void rmg_compare_counts(const void *good, const void *read, uint64_t bytes,
                        rmg_comparison *comparison);

/* The same of two files of raw bytes, as far as the shorter one goes. RMG_ERR_FILE: *error, to be
 * freed with rmg_error_free, says which cannot be read. */
rmg_status rmg_compare_files(const char *good, const char *read, rmg_comparison *comparison,
                             rmg_error *error);

/* A chip that was read, judged and compared. */
typedef struct rmg_verify {
    rmg_reading reading;       /* the readings */
    rmg_quality quality;       /* how far they can be trusted */
    rmg_comparison comparison; /* of what most readings say; all zero without an image */
    bool compared;             /* there was an image */
    uint8_t *image;            /* [rmg_rom_bytes]: what most readings say */
    uint8_t *unsteady;         /* [rmg_rom_bytes]: ones at bits that were not steady */
} rmg_verify;

/* Reads and judges; compares with `good` (as an image; NULL: nothing to compare with) and, where it
 * differs, looks among `others`, which are images of the same form. Errors of rmg_reading_begin and
 * _run; what was found then stands. End in any case with rmg_verify_end. */
rmg_status rmg_verify_run(rmg_verify *verify, const rmg_rom *rom, const rmg_target *target,
                          uint32_t readings, const void *good, const rmg_words *others,
                          size_t other_count, bool (*go_on)(void *context, double share),
                          void *context);
/* The same for readings that another instrument made, images of the ROM: see
 * rmg_reading_of_images. */
rmg_status rmg_verify_images(rmg_verify *verify, const rmg_rom *rom, const void *const *images,
                             uint32_t count, const void *good, const rmg_words *others,
                             size_t other_count);
/* The same for readings that are there already; they become the verify's. */
rmg_status rmg_verify_judge(rmg_verify *verify, const void *good, const rmg_words *others,
                            size_t other_count);
void rmg_verify_end(rmg_verify *verify);

/* Is all as it should be: steady, driven, and as the image has it? */
bool rmg_verify_good(const rmg_verify *verify);

/* One step of a series. */
typedef struct rmg_verify_step {
    int32_t value;                      /* of the condition */
    uint64_t wrong_bits, unsteady_bits; /* in all readings of the step */
    uint32_t first_wrong;               /* reading, from 1; 0: none */
    bool set;                           /* the port could set it */
} rmg_verify_step;

/* Verifies at low, low + step ... high of a condition, and puts it back as it was. steps[most].
 * RMG_ERR_PORT_CANNOT: the port has no such condition. RMG_ERR_ARGUMENT: more steps than `most`.
 * Without an image each step is compared with what the first one read. */
rmg_status rmg_verify_series(const rmg_rom *rom, const rmg_target *target, uint32_t readings,
                             const void *good, rmg_condition which, int32_t low, int32_t high,
                             int32_t step, rmg_verify_step *steps, size_t most, size_t *count,
                             bool (*go_on)(void *context, double share), void *context);

/* Watching a chip: it is read again and again while it warms up or cools down, and each pass is
 * compared with the first. */

#define RMG_ROM_PASSES_MOST 60000u    /* passes */
#define RMG_ROM_MOVED       16u       /* moved bits reported one by one */
#define RMG_HEAT_UNKNOWN    INT32_MIN /* the temperature is not known */

/* A pass of a chip that is watched. */
typedef struct rmg_rom_pass {
    double seconds;           /* at its end, since the first pass began */
    int32_t heat_millic;      /* thousandths of a degree Celsius, or RMG_HEAT_UNKNOWN */
    bool heat_typed;          /* the technician typed it, not the port */
    uint32_t crc32;           /* of what it read */
    uint64_t words;           /* that differ from the first pass */
    uint64_t to_one, to_zero; /* bits */
} rmg_rom_pass;

/* A bit that moved, and the first pass (from 1) in which it was not as in pass 1. */
typedef struct rmg_moved {
    uint64_t word; /* its number */
    uint8_t bit;   /* data bit of the ROM */
    uint8_t now;   /* what it read then */
    uint32_t pass; /* from 1 */
} rmg_moved;

/* A chip that is watched, pass by pass. */
typedef struct rmg_rom_passes {
    rmg_reading reading;            /* the pass at work */
    uint8_t *first_image;           /* of pass 1 */
    rmg_word *moved_bits;           /* [words]: bits that moved in any pass */
    rmg_rom_pass *passes;           /* [count] */
    size_t count, room;             /* that ended; that there is room for */
    uint32_t first_change;          /* the first pass, from 1, that differed; 0: none */
    rmg_moved moved[RMG_ROM_MOVED]; /* [moved_count]: the first */
    size_t moved_count;
    uint64_t moved_in_all; /* bits */
    uint64_t by_bit[64];   /* of these, by data bit */
    int32_t typed_millic;  /* what the technician typed last, or RMG_HEAT_UNKNOWN; may be set */
} rmg_rom_passes;

/* As rmg_reading_begin. End in any case. */
rmg_status rmg_rom_passes_begin(rmg_rom_passes *watch, const rmg_rom *rom,
                                const rmg_target *target);
void rmg_rom_passes_end(rmg_rom_passes *watch);

/* One pass. `seconds` is asked for the time since the first pass began. Errors as of
 * rmg_reading_run; a pass that was not finished leaves no trace. */
rmg_status rmg_rom_passes_read(rmg_rom_passes *watch, const rmg_target *target,
                               double (*seconds)(void *context),
                               bool (*go_on)(void *context, double share), void *context);

/* What readings of a ROM and their comparison mean for the one who holds the tool: which pin, line
 * or chip, how sure, what looks the same from here and what shows it it apart. */

/* How the same chip did on its own pins. */
typedef enum rmg_bare_result { RMG_BARE_UNKNOWN, RMG_BARE_GOOD, RMG_BARE_BAD } rmg_bare_result;

/* What was found out of a ROM. */
typedef struct rmg_rom_case {
    const rmg_rom *rom;               /* the chip, or region */
    const rmg_board *board;           /* the chip's own, also where it was read bare */
    const rmg_quality *quality;       /* of its readings */
    const rmg_comparison *comparison; /* NULL: there was no image to compare with */
    const char *const *other_names;   /* of rmg_compare_hints.others */
    rmg_bare_result bare;             /* the same chip on its own pins */
    bool ram_good;                    /* the RAM on the same data lines passed its test */
    const rmg_facts *facts;           /* NULL: none, and the built-in table of causes */
} rmg_rom_case;

/* Finds what to look at. *suspects is empty where nothing is wrong; words are not made yet: see
 * report.h. Free with rmg_suspects_free. */
void rmg_rom_suspects(const rmg_rom_case *rom_case, rmg_suspects *suspects);

/* What the images of the board file say of a region, each chip's in its place: [rmg_rom_bytes], to
 * be freed with rmg_text_free; or NULL: of some of it they say nothing. */
char *rmg_rom_region_image(const rmg_rom *rom);

/* A ROM that a test ROM has read (testrom.h), as far as its lines were heard. */
typedef struct rmg_told_rom {
    rmg_rom rom;       /* a region of the run's board, which must outlive it */
    char *good;        /* [rmg_rom_bytes]: what it should hold; NULL: not known */
    char **images;     /* [readings], each [rmg_rom_bytes]: what it held, a pass each */
    uint32_t readings; /* passes in which all was heard; up to RMG_TOLD_READINGS */
    uint64_t pages;    /* it has, of 256 words */
    uint64_t unsteady; /* of these: gave the right sums now and then only within a pass */
    uint64_t wrong;    /* of these: never gave them, in any pass that had it wrong */
} rmg_told_rom;

/* Puts together what run->heard->told tells of ROM `rom` of its plan. RMG_ERR_ARGUMENT: there is no
 * such ROM. Free with rmg_told_rom_free in any case. */
rmg_status rmg_told_rom_read(const rmg_run *run, uint8_t rom, rmg_told_rom *told);
void rmg_told_rom_free(rmg_told_rom *told);

/* Was anything told of it that is not as it should be? Then its readings, compared: *verify, to be
 * ended with rmg_verify_end, and *suspects, without their words, to be freed with
 * rmg_suspects_free, in any case. Errors as of rmg_verify_images. */
bool rmg_told_rom_differs(const rmg_told_rom *told);
rmg_status rmg_told_rom_judge(const rmg_told_rom *told, const rmg_words *others, size_t other_count,
                              rmg_verify *verify, rmg_suspects *suspects);

/* A word for the kind of an explanation, as the JSON result has it: "line_stuck". */
const char *rmg_difference_name(rmg_difference kind);

/* Is it about data bits, a and b? About address lines? Else it is about the whole image. And is it
 * about two of them? */
bool rmg_difference_of_data(rmg_difference kind);
bool rmg_difference_of_lines(rmg_difference kind);
bool rmg_difference_of_two(rmg_difference kind);

/* The explanation that a saying of one of rmg_rom_suspects' is about. */
void rmg_explanation_of(const rmg_rom_case *rom_case, const rmg_saying *saying,
                        rmg_explanation *explanation);

#ifdef __cplusplus
}
#endif
#endif
