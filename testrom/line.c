/* The text of a line, and a line from its text. */
#include <string.h>

#include "code.h"

/* So many hexadecimal digits. */
static char *hex(char *text, uint64_t value, unsigned digits)
{
    while (digits--)
        *text++ = "0123456789ABCDEF"[value >> (4u * digits) & 15u];
    return text;
}

/* The check: before each character the eight bits are rotated left, then it is exclusive-ored. */
static uint8_t check_of(const char *text, const char *end)
{
    uint8_t check = 0;

    for (; text < end; text++)
        check = (uint8_t)((uint8_t)(check << 1 | check >> 7) ^ (uint8_t)*text);
    return check;
}

char *rmg_testrom_line_text(const rmg_testrom_plan *plan, const rmg_testrom_line *line, char *text)
{
    const unsigned data = plan->word_bits / 4u;
    char *t = text;

    *t++ = (char)('0' + line->pass);
    switch (line->says) {
    case RMG_TESTROM_SAYS_START:
        *t++ = 'S';
        *t++ = ' ';
        t = hex(t, plan->id, 4);
        break;
    case RMG_TESTROM_SAYS_SUM:
        *t++ = 'R';
        break;
    case RMG_TESTROM_SAYS_END:
        *t++ = 'E';
        *t++ = ' ';
        t = hex(t, line->code, 2);
        break;
    default:
        *t++ = rmg_testrom_kind_letter(line->kind);
        *t++ = rmg_testrom_bank_letter(line->bank);
        *t++ = line->says == RMG_TESTROM_SAYS_DONE       ? '.'
               : line->says == RMG_TESTROM_SAYS_MORE     ? '+'
               : line->says == RMG_TESTROM_SAYS_SKIPPED  ? '/'
               : line->says == RMG_TESTROM_SAYS_CONTENTS ? '='
                                                         : rmg_testrom_read_letter(line->read);
        if (line->says == RMG_TESTROM_SAYS_SKIPPED)
            break;
        *t++ = ' ';
        if (line->says == RMG_TESTROM_SAYS_DONE || line->says == RMG_TESTROM_SAYS_MORE) {
            t = hex(t, line->bits, data);
            break;
        }
        if (line->at) {
            t = hex(t, line->address << plan->byte_shift, plan->digits);
        } else {
            memset(t, '-', plan->digits);
            t += plan->digits;
        }
        *t++ = ' ';
        if (line->says == RMG_TESTROM_SAYS_CONTENTS) {
            for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES; i++)
                t = hex(t, line->data[i], 2);
            break;
        }
        t = hex(t, line->wrote, data);
        *t++ = ' ';
        t = hex(t, line->read_as, data);
    }
    *t++ = ' ';
    if (line->unchecked) {
        *t++ = '-';
        *t++ = '-';
    } else {
        t = hex(t, check_of(text, t), 2);
    }
    *t = '\0';
    return text;
}

/* So many hexadecimal digits; false: there are others. */
static bool read_hex(const char **text, unsigned digits, uint64_t *value)
{
    *value = 0;
    for (; digits; digits--, ++*text) {
        const char c = **text;

        if (c >= '0' && c <= '9')
            *value = *value << 4 | (uint64_t)(c - '0');
        else if (c >= 'A' && c <= 'F')
            *value = *value << 4 | (uint64_t)(c - 'A' + 10);
        else
            return false;
    }
    return true;
}

static bool read_space(const char **text)
{
    return *(*text)++ == ' ';
}

/* The space and the check that end a line; `text` is all of it. */
static bool read_check(const char *text, const char *at, rmg_testrom_line *line)
{
    uint64_t check;
    uint8_t wanted;

    if (strcmp(at, " --") == 0) {
        line->unchecked = true;
        return true;
    }
    if (!read_space(&at))
        return false;
    wanted = check_of(text, at);
    return read_hex(&at, 2, &check) && !*at && check == wanted;
}

/* An address, and what was written and read there. */
static bool read_failure(const rmg_testrom_plan *plan, const char **t, rmg_testrom_line *line)
{
    const unsigned data = plan->word_bits / 4u;
    uint64_t value;

    line->at = strncmp(*t, "--------", plan->digits) != 0;
    if (!line->at)
        *t += plan->digits;
    else if (!read_hex(t, plan->digits, &value))
        return false;
    else
        line->address = (rmg_addr)(value >> plan->byte_shift);
    if (!read_space(t) || !read_hex(t, data, &value))
        return false;
    line->wrote = (rmg_word)value;
    if (!read_space(t) || !read_hex(t, data, &value))
        return false;
    line->read_as = (rmg_word)value;
    return true;
}

static bool read_contents(const rmg_testrom_plan *plan, const char **t, rmg_testrom_line *line)
{
    uint64_t value;

    line->says = RMG_TESTROM_SAYS_CONTENTS;
    line->at = true;
    if (!read_space(t) || !read_hex(t, plan->digits, &value) || !read_space(t))
        return false;
    line->address = (rmg_addr)(value >> plan->byte_shift);
    for (unsigned i = 0; i < RMG_TESTROM_DATA_BYTES; i++) {
        if (!read_hex(t, 2, &value))
            return false;
        line->data[i] = (uint8_t)value;
    }
    return true;
}

/* A line of a step. */
static bool read_step(const rmg_testrom_plan *plan, const char **t, rmg_testrom_line *line)
{
    uint64_t value;
    char letter;

    for (line->kind = 0; rmg_testrom_kind_letter(line->kind) != **t; line->kind++)
        if (line->kind + 1u == RMG_TESTROM_KINDS)
            return false;
    line->bank = (uint8_t)(*++*t - 'A');
    if (line->bank >= (line->kind == RMG_TESTROM_ROM ? plan->rom_count : plan->bank_count))
        return false;
    letter = *++*t;
    ++*t;
    if (line->kind == RMG_TESTROM_ROM && letter == '=')
        return read_contents(plan, t, line);
    if (letter == '/') {
        line->says = RMG_TESTROM_SAYS_SKIPPED;
        return true;
    }
    if (!read_space(t))
        return false;
    if (letter == '.' || letter == '+') {
        line->says = letter == '.' ? RMG_TESTROM_SAYS_DONE : RMG_TESTROM_SAYS_MORE;
        if (!read_hex(t, plan->word_bits / 4u, &value))
            return false;
        line->bits = (rmg_word)value;
        return true;
    }
    for (line->read = 0; rmg_testrom_read_letter(line->read) != letter; line->read++)
        if (line->read == 35)
            return false;
    line->says = line->kind == RMG_TESTROM_ROM ? RMG_TESTROM_SAYS_PAGE : RMG_TESTROM_SAYS_FAILED;
    return read_failure(plan, t, line);
}

bool rmg_testrom_line_read(const rmg_testrom_plan *plan, const char *text, rmg_testrom_line *line,
                           const char **why)
{
    const char *t = text;
    uint64_t value;
    bool good = true;

    memset(line, 0, sizeof *line);
    *why = "it is not of the form of a test ROM's line";
    if (*t < '0' || *t >= '0' + (int)RMG_TESTROM_PASSES)
        return false;
    line->pass = (uint8_t)(*t++ - '0');
    if (*t == 'S') {
        line->says = RMG_TESTROM_SAYS_START;
        t++;
        good = read_space(&t) && read_hex(&t, 4, &value);
        if (good && value != plan->id)
            *why = "another board file, or another state of this one, made the ROM that tells this";
        good = good && value == plan->id;
    } else if (*t == 'R') {
        line->says = RMG_TESTROM_SAYS_SUM;
        t++;
    } else if (*t == 'E') {
        line->says = RMG_TESTROM_SAYS_END;
        t++;
        good = read_space(&t) && read_hex(&t, 2, &value);
        line->code = good ? (uint8_t)value : 0;
    } else {
        good = read_step(plan, &t, line);
    }
    if (!good)
        return false;
    *why = "its check is wrong: characters were lost or changed on the way";
    if (!read_check(text, t, line))
        return false;
    *why = NULL;
    return true;
}

bool rmg_testrom_march(const char *text, uint8_t code[RMG_MARCH_BYTES], rmg_march_error *error)
{
    const uint8_t *named = rmg_march_by_name(text);

    if (!named)
        return rmg_march_parse(text, code, RMG_MARCH_BYTES, error) == RMG_OK;
    memcpy(code, named, (size_t)rmg_march_operations(named) + rmg_march_elements(named) + 1u);
    return true;
}
