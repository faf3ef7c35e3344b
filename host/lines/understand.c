/* What a line says: its parts, and what the lines above it said. */
#include <string.h>

#include "listen.h"

/* A line while it is understood. */
typedef struct reading {
    rmg_listener *l;
    const rmg_profile *p;
    const rmg_board *board;
    const line_rule *rule;
    line_part parts[FIELD_KINDS];
    const alias *group;
    uint8_t bank;
    uint16_t socket;
    bool at;  /* an address is known */
    bool own; /* ... by this line */
    bool block;
    uint64_t shown, size;
    rmg_understood *u;
} reading;

void rmg_listen_forget(rmg_listener *l)
{
    l->group = NULL;
    l->bank = RMG_NO_BANK;
    l->has_address = false;
    l->in_limit = l->profile->limit_per ? 0 : l->in_limit;
}

static bool cannot(reading *r, const char *format, ...) G_GNUC_PRINTF(2, 3);
static bool cannot(reading *r, const char *format, ...)
{
    va_list values;

    va_start(values, format);
    g_vsnprintf(r->l->why, sizeof r->l->why, format, values);
    va_end(values);
    r->u->why = r->l->why;
    r->u->is = RMG_LINE_UNKNOWN;
    return false;
}

/* How a field is written here: by the rule, else by the group, else by the profile. */
static const field_form *form_of(const reading *r, field_kind f)
{
    if (r->rule->forms[f].set)
        return &r->rule->forms[f];
    return r->group && r->group->forms[f].set ? &r->group->forms[f] : &r->p->forms[f];
}

static bool number(reading *r, field_kind f, uint64_t *value)
{
    const line_part *part = &r->parts[f];

    return rmg_part_number(part, form_of(r, f), value) ||
           cannot(r, "%s \"%.*s\" is no such number", rmg_field_names[f],
                  (int)MIN(part->length, 40u), part->text);
}

/* The chip of that number, by the group's own counting. */
static uint16_t chip_of_group(const alias *group, unsigned number)
{
    const unsigned n = number - group->chips_from;

    return group->chips && n < group->chips->len
               ? (uint16_t)GPOINTER_TO_UINT(group->chips->pdata[n])
               : RMG_NO_SOCKET;
}

/* Which group, bank and chip the line is about. */
static bool names(reading *r)
{
    const line_part *group = &r->parts[FIELD_GROUP], *bank = &r->parts[FIELD_BANK],
                    *chip = &r->parts[FIELD_CHIP];
    const alias *a;
    gchar *text;

    r->group = group->text ? rmg_alias_find(r->p->groups, group) : r->l->group;
    if (group->text && !r->group)
        return cannot(r, "the profile has no group \"%.*s\"", (int)MIN(group->length, 40u),
                      group->text);
    r->bank = r->rule->bank;
    if (r->bank == RMG_NO_BANK && bank->text) {
        a = rmg_alias_find(r->p->banks, bank);
        text = g_strndup(bank->text, bank->length);
        r->bank = a ? a->bank : rmg_board_bank(r->board, text);
        g_free(text);
        if (r->bank == RMG_NO_BANK)
            return cannot(r, "neither profile nor board has a bank \"%.*s\"",
                          (int)MIN(bank->length, 40u), bank->text);
    }
    if (r->bank == RMG_NO_BANK && r->group)
        r->bank = r->group->bank;
    if (r->bank == RMG_NO_BANK && !group->text)
        r->bank = r->l->bank;
    r->socket = r->rule->socket;
    if (r->socket != RMG_NO_SOCKET || !chip->text)
        return true;
    text = g_strndup(chip->text, chip->length);
    a = rmg_alias_find(r->p->chips, chip);
    if (r->group && r->group->chips) {
        r->socket = g_ascii_isdigit(*text)
                        ? chip_of_group(r->group, (unsigned)g_ascii_strtoull(text, NULL, 10))
                        : RMG_NO_SOCKET;
    } else if (a) {
        r->socket = a->socket;
    } else if (!r->p->chips->len) {
        r->socket = rmg_board_socket(r->board, text);
    }
    g_free(text);
    return r->socket != RMG_NO_SOCKET || cannot(r, "neither profile nor board has a chip \"%.*s\"",
                                                (int)MIN(chip->length, 40u), chip->text);
}

/* The last address of the board, as it is written there, its last byte included. */
static uint64_t last_shown(const rmg_board *board)
{
    return rmg_board_shown(board, board->last_address) + ((uint64_t)1 << board->byte_shift) - 1u;
}

/* The address of its parts added up, or the one above it. */
static bool address(reading *r)
{
    bool any = false;

    for (unsigned f = 0; f < FIELDS_OF_ADDRESS; f++) {
        const field_form *form = form_of(r, (field_kind)f);
        uint64_t value, product;

        if (!r->parts[f].text)
            continue;
        if (!number(r, (field_kind)f, &value))
            return false;
        any = true;
        if (__builtin_mul_overflow(value, form->times, &product) ||
            __builtin_add_overflow(r->shown, product, &r->shown) ||
            __builtin_add_overflow(r->shown, form->add, &r->shown))
            return cannot(r, "its address is too large");
        if (form->bank != RMG_NO_BANK)
            r->shown += rmg_board_shown(r->board, r->board->bank_wheres[form->bank].first);
        r->size = form->size && (!r->size || form->size < r->size) ? form->size : r->size;
        if (!form->size && f == FIELD_ADDRESS)
            r->size = 1;
    }
    if (!any) {
        r->at = r->l->has_address && r->rule->is != RMG_LINE_HEADING;
        r->shown = r->l->address;
        r->size = r->l->size;
        r->block = r->size > 0;
        return true;
    }
    r->block = r->size > 1;
    r->size = r->block ? r->size : 0;
    r->at = r->own = true;
    if (r->shown > last_shown(r->board))
        return cannot(r, "address 0x%" G_GINT64_MODIFIER "X is not on the board", r->shown);
    return true;
}

/* Bits of the value as the lines show it to bits of the bus; 0 where its place in the word is not
 * known. */
static rmg_word to_bus(const reading *r, rmg_word value)
{
    const unsigned bits = r->p->data_bits, word = r->board->word_bits, parts = word / bits;
    uint64_t part;

    if (r->p->bytes_swapped) {
        rmg_word swapped = 0;

        for (unsigned i = 0; i < bits; i += 8)
            swapped |= (value >> i & 0xFFu) << (bits - 8u - i);
        value = swapped;
    }
    if (parts == 1)
        return value;
    if (!r->at || r->block || bits % 8u)
        return 0;
    part = (r->shown & (((uint64_t)1 << r->board->byte_shift) - 1u)) / (bits / 8u);
    if (!r->board->byte_shift)
        return 0;
    return value << (bits * (r->board->high_first ? parts - 1u - (unsigned)part : (unsigned)part));
}

static rmg_word data_mask(const rmg_profile *p)
{
    return (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - p->data_bits);
}

/* Which bits failed, and what was written and read. */
static bool bits(reading *r, rmg_report *report)
{
    uint64_t wrote, read, differs;
    rmg_word list;

    if (r->parts[FIELD_WROTE].text && r->parts[FIELD_READ].text) {
        if (!number(r, FIELD_WROTE, &wrote) || !number(r, FIELD_READ, &read))
            return false;
        if ((wrote | read) & ~data_mask(r->p))
            return cannot(r, "its data have more than %u bits", r->p->data_bits);
        if (wrote == read)
            return cannot(r, "what was written and what was read are the same");
        report->bits = to_bus(r, wrote ^ read);
        report->wrote = to_bus(r, wrote);
        report->read = to_bus(r, read);
        report->both = report->bits != 0;
    } else if (r->parts[FIELD_DIFFERS].text) {
        if (!number(r, FIELD_DIFFERS, &differs))
            return false;
        if (!differs || differs & ~data_mask(r->p))
            return cannot(r, "the differing bits 0x%" G_GINT64_MODIFIER "X are none of %u bits",
                          differs, r->p->data_bits);
        report->bits = to_bus(r, differs);
    } else if (r->parts[FIELD_BITS].text) {
        if (!rmg_part_bits(&r->parts[FIELD_BITS], form_of(r, FIELD_BITS), r->p->data_bits, &list))
            return cannot(r, "bits \"%.*s\" are no list of bits of a word of %u",
                          (int)MIN(r->parts[FIELD_BITS].length, 40u), r->parts[FIELD_BITS].text,
                          r->p->data_bits);
        report->bits = to_bus(r, list);
    } else {
        return true;
    }
    return report->bits ||
           cannot(r, "which part of the word its %u bits are is not known", r->p->data_bits);
}

/* The bank that a whole block of addresses lies in. */
static uint8_t bank_of_block(const reading *r)
{
    const rmg_addr first = rmg_board_word(r->board, r->shown);
    const uint64_t last_there = r->shown + MAX(r->size, 1u) - 1u;
    const rmg_addr last = rmg_board_word(r->board, MIN(last_there, last_shown(r->board)));
    uint8_t found = RMG_NO_BANK;

    for (size_t b = 0; b < r->board->bank_count; b++) {
        const rmg_where *where = &r->board->bank_wheres[b];

        if (where->last < first || where->first > last)
            continue;
        if (found != RMG_NO_BANK)
            return RMG_NO_BANK;
        found = (uint8_t)b;
    }
    return found;
}

static void add(reading *r, rmg_report report)
{
    if (r->u->report_count < MOST_REPORTS)
        r->l->reports[r->u->report_count++] = report;
}

/* A line that says that something failed. */
static void failing(reading *r)
{
    rmg_report report = {.bank = r->bank, .socket = r->socket, .count = 1};

    if (!bits(r, &report) ||
        (r->parts[FIELD_COUNT].text && !number(r, FIELD_COUNT, &report.count)) || !report.count)
        return;
    if (r->at && r->rule->trusted && (r->own || r->l->trusted)) {
        report.at = !r->block;
        report.address = rmg_board_word(r->board, r->shown);
        if (report.bank == RMG_NO_BANK)
            report.bank = bank_of_block(r);
    }
    add(r, report);
}

/* One that gives a code. */
static void coded(reading *r)
{
    uint64_t code, left;

    if (!number(r, FIELD_CODE, &code))
        return;
    left = code;
    for (size_t i = 0; i < r->rule->code_count; i++) {
        const code_row *c = &r->rule->codes[i];
        uint16_t socket = c->socket;
        const bool says = c->whole ? code == c->value : code >> c->value & 1u;

        if (!says)
            continue;
        if (c->has_chip) {
            socket = r->group ? chip_of_group(r->group, c->chip) : RMG_NO_SOCKET;
            if (socket == RMG_NO_SOCKET) {
                r->u->report_count = 0;
                cannot(r, "the group has no chip %u", c->chip);
                return;
            }
        }
        left &= c->whole ? 0 : ~((uint64_t)1 << c->value);
        if (!c->nothing)
            add(r, (rmg_report){.bank = c->bank != RMG_NO_BANK ? c->bank : r->bank,
                                .socket = socket,
                                .bits = c->bits,
                                .count = 1});
    }
    if (left) {
        r->u->report_count = 0;
        cannot(r, "the profile does not say what 0x%" G_GINT64_MODIFIER "X of the code means",
               left);
    }
}

static void heading(reading *r)
{
    rmg_listener *l = r->l;

    if (r->parts[FIELD_GROUP].text) {
        l->group = r->group;
        l->bank = RMG_NO_BANK;
        l->has_address = false;
    }
    if (r->parts[FIELD_BANK].text || r->rule->bank != RMG_NO_BANK) {
        l->bank = r->bank;
        l->has_address = false;
    }
    if (r->at) {
        l->has_address = true;
        l->address = r->shown;
        l->size = r->size;
        l->trusted = r->rule->trusted;
    }
}

static void tested(reading *r)
{
    uint64_t first = 0, last = 0, size;
    const field_form *form = form_of(r, FIELD_FIRST);

    if (r->parts[FIELD_FIRST].text) {
        if (!number(r, FIELD_FIRST, &first))
            return;
        first = first * form->times + form->add;
    } else if (r->bank != RMG_NO_BANK) {
        first = rmg_board_shown(r->board, r->board->bank_wheres[r->bank].first);
    }
    if (form->bank != RMG_NO_BANK)
        first += rmg_board_shown(r->board, r->board->bank_wheres[form->bank].first);
    if (r->parts[FIELD_LAST].text) {
        form = form_of(r, FIELD_LAST);
        if (!number(r, FIELD_LAST, &last))
            return;
        last = last * form->times + form->add;
        if (form->bank != RMG_NO_BANK)
            last += rmg_board_shown(r->board, r->board->bank_wheres[form->bank].first);
    } else {
        if (!number(r, FIELD_SIZE, &size))
            return;
        if (!size) {
            cannot(r, "a size of 0 says nothing");
            return;
        }
        last = first + size * form_of(r, FIELD_SIZE)->times - 1u;
    }
    if (last < first || last > last_shown(r->board)) {
        cannot(r, "0x%" G_GINT64_MODIFIER "X-0x%" G_GINT64_MODIFIER "X is not on the board", first,
               last);
        return;
    }
    r->l->tested = (rmg_range){rmg_board_word(r->board, first), rmg_board_word(r->board, last)};
}

static void summary(reading *r)
{
    r->l->has_total = r->parts[FIELD_COUNT].text && number(r, FIELD_COUNT, &r->l->total);
}

void rmg_listen_understand(rmg_listener *l, const char *text, size_t length, rmg_understood *u)
{
    reading r = {.l = l, .p = l->profile, .board = l->profile->board, .u = u};
    bool gave_up;

    *u = (rmg_understood){.number = l->run->heard->lines, .text = text, .reports = l->reports};
    l->has_total = false;
    if (strspn(text, " \t") == length) {
        u->is = RMG_LINE_EMPTY;
        return;
    }
    if (l->profile->rom) {
        rmg_listen_to_rom(l, text, u);
        return;
    }
    r.rule = rmg_line_match(l->profile, text, length, r.parts, &gave_up);
    if (!l->started && (!r.rule || r.rule->is != RMG_LINE_START)) {
        u->is = RMG_LINE_SKIPPED;
        return;
    }
    if (!r.rule)
        return;
    u->is = r.rule->is;
    u->rule = (unsigned)(r.rule - l->profile->rules) + 1u;
    if (gave_up) {
        cannot(&r, "the expression of rule %u takes too many steps on this line", u->rule);
        return;
    }
    if (!names(&r) || !address(&r))
        return;
    switch (u->is) {
    case RMG_LINE_FAILURE:
    case RMG_LINE_COUNT:
        failing(&r);
        break;
    case RMG_LINE_STATUS:
        coded(&r);
        break;
    case RMG_LINE_HEADING:
        heading(&r);
        break;
    case RMG_LINE_TESTED:
        tested(&r);
        break;
    case RMG_LINE_PASS:
    case RMG_LINE_SUMMARY:
    case RMG_LINE_END:
        summary(&r);
        break;
    default:
        break;
    }
}
