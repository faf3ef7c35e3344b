/* Inside the room: a profile as it was read. */
#ifndef RMG_HOST_LINES_INTERNAL_H
#define RMG_HOST_LINES_INTERNAL_H

#include <glib.h>

#include "base/internal.h"
#include "board/internal.h"
#include "rimeglass/lines.h"

/* What a part of a line can be. The first five are added up to an address. */
typedef enum field_kind {
    FIELD_ADDRESS,
    FIELD_PAGE,
    FIELD_RANK,
    FIELD_LANE,
    FIELD_OFFSET,
    FIELD_WROTE,
    FIELD_READ,
    FIELD_DIFFERS,
    FIELD_BITS,
    FIELD_CODE,
    FIELD_BANK,
    FIELD_GROUP,
    FIELD_CHIP,
    FIELD_COUNT,
    FIELD_FIRST,
    FIELD_LAST,
    FIELD_SIZE,
    FIELD_KINDS
} field_kind;

#define FIELDS_OF_ADDRESS ((unsigned)FIELD_OFFSET + 1u)

extern const char *const rmg_field_names[]; /* [FIELD_KINDS], NULL at the end */

/* How a field's text becomes a number. */
typedef struct field_form {
    bool set;
    unsigned base;
    int8_t digit[256]; /* value, or -1 */
    uint64_t times, add;
    uint64_t size;      /* 0: one word; else it names a block of so many, in the board's unit */
    uint8_t bank;       /* counts from the start of this bank; or RMG_NO_BANK */
    unsigned bits_from; /* of FIELD_BITS: number of the first bit */
    bool highest_first; /* ... and it is the highest */
    char mark;          /* ... one character a bit, this one is bad; 0: a list of numbers */
} field_form;

/* What a code says where one of its bits is 1, or where it has a value. */
typedef struct code_row {
    bool whole; /* `value` is the whole code, else the number of a bit */
    uint64_t value;
    uint8_t bank;
    uint16_t socket;
    rmg_word bits;
    unsigned chip; /* number of a chip of the group, by its own counting; with `has_chip` */
    bool has_chip;
    bool nothing; /* it says that all is well */
} code_row;

typedef struct line_rule {
    rmg_line_is is;
    GRegex *regex;              /* or NULL: columns */
    char *prefix;               /* that every match begins with; "" */
    char *starts, *contains;    /* "" */
    unsigned from[FIELD_KINDS]; /* columns, from 1; 0: none */
    unsigned to[FIELD_KINDS];
    int group[FIELD_KINDS];        /* of the regular expression; -1: none */
    field_form forms[FIELD_KINDS]; /* of its own, where `set` */
    uint8_t bank;                  /* it always means; or RMG_NO_BANK */
    uint16_t socket;               /* ... or RMG_NO_SOCKET */
    bool trusted;
    code_row *codes; /* [code_count] */
    size_t code_count;
} line_rule;

/* What a name of the other program stands for. */
typedef struct alias {
    char *name;
    uint8_t bank;
    uint16_t socket;
    GPtrArray *chips; /* of a group: sockets by the other program's number, of GUINT_TO_POINTER */
    unsigned chips_from;
    field_form forms[FIELD_KINDS]; /* of a group's own */
} alias;

struct rmg_profile {
    char *name;
    const rmg_board *board;
    rmg_steps steps;
    bool steps_known;
    bool rom;          /* the lines come from the board's test ROM, as `how` makes it */
    rmg_board_rom how; /* its march_text is the profile's own */
    field_form forms[FIELD_KINDS];
    uint8_t data_bits;              /* of a word as the lines show it */
    bool bytes_swapped;             /* its bytes stand in the other order */
    GArray *banks, *groups, *chips; /* of alias */
    uint64_t limit;
    unsigned limit_per; /* 0 run, 1 heading, 2 pass */
    double unknown_most;
    bool has_start, has_pass, has_end;
    line_rule *rules; /* [rule_count] */
    size_t rule_count;
};

/* A part of a line. */
typedef struct line_part {
    const char *text; /* NULL: it has none */
    size_t length;
} line_part;

/* match.c: the first rule that matches, and its parts; NULL: none.
 * `gave_up`: its expression takes too many steps on this line; nothing is known of the line. */
const line_rule *rmg_line_match(const rmg_profile *profile, const char *text, size_t length,
                                line_part parts[FIELD_KINDS], bool *gave_up);

/* values.c: the number a part stands for; false: it is none. And: the alias of that name. */
bool rmg_part_number(const line_part *part, const field_form *form, uint64_t *value);
const alias *rmg_alias_find(const GArray *list, const line_part *part);
/* Bits that are listed, or marked, of a word of so many. false: no such list. */
bool rmg_part_bits(const line_part *part, const field_form *form, unsigned width, rmg_word *bits);

/* profile_fields.c: how fields are read, in a rule, a group or the profile. */
void rmg_forms_read(yaml_file *file, const ynode *map, const rmg_board *board, field_form *forms);
void rmg_form_digits(field_form *form, const char *digits);
/* A bank's, socket's or bit list's name under a key; noted where the board has none. */
uint8_t rmg_profile_bank(yaml_file *file, const ynode *map, const rmg_board *board);
uint16_t rmg_profile_socket(yaml_file *file, const ynode *node, const rmg_board *board);

/* profile_rules.c */
void rmg_rules_read(yaml_file *file, const ynode *root, rmg_profile *profile);
void rmg_rule_clear(line_rule *rule);

#endif
