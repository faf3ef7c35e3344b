/* Lines of the link at its far half: reading a request, writing an answer. */
#include "far_line.h"

uint16_t rmg_link_check(uint16_t before, const char *bytes, size_t count)
{
    uint16_t check = before;

    while (count--) {
        /* eight steps of the division at once: the polynomial has ones at bits 12, 5 and 0, and
         * what four steps carry out of the top comes in again in the other four */
        uint8_t top = (uint8_t)((uint8_t)(check >> 8) ^ (unsigned char)*bytes++);

        top = (uint8_t)(top ^ (top >> 4));
        check = (uint16_t)((uint16_t)(check << 8) ^ (uint16_t)((uint16_t)top << 12) ^
                           (uint16_t)((uint16_t)top << 5) ^ top);
    }
    return check;
}

uint32_t rmg_link_check32(uint32_t before, const char *bytes, size_t count)
{
    uint32_t check = ~before;

    while (count--) {
        check ^= (unsigned char)*bytes++;
        for (uint8_t i = 8; i--;)
            check = check & 1u ? check >> 1 ^ 0xEDB88320u : check >> 1;
    }
    return ~check;
}

uint32_t rmg_far_check(const char *bytes, size_t count, uint8_t digits)
{
    return digits == 8 ? rmg_link_check32(0, bytes, count) : rmg_link_check(0xFFFF, bytes, count);
}

void rmg_far_char(rmg_far_end *far, char c)
{
    if (far->size < (uint16_t)(far->room.answer_bytes - RMG_LINK_SPACE))
        far->room.answer[far->size++] = c;
}

void rmg_far_text(rmg_far_end *far, const char *text)
{
    while (*text)
        rmg_far_char(far, *text++);
}

static char digit_of(uint8_t value)
{
    return (char)(value < 10 ? '0' + value : 'A' + (value - 10));
}

void rmg_far_hex(rmg_far_end *far, far_number value, uint8_t digits)
{
    far_number rest = value;

    if (!digits)
        do
            digits++;
        while (rest >>= 4);
    while (digits--) { /* by single shifts: few processors have others */
        rest = value;
        for (uint8_t i = 0; i < digits; i++)
            rest >>= 4;
        rmg_far_char(far, digit_of((uint8_t)rest & 15u));
    }
}

const char *rmg_far_end_line(rmg_far_end *far)
{
    char *end = far->room.answer + far->size;

    if (far->check) {
        uint32_t check = rmg_far_check(far->room.answer, far->size, far->check);

        *end = '*';
        for (uint8_t i = far->check; i; i--, check >>= 4)
            end[i] = digit_of((uint8_t)check & 15u);
        end += far->check + 1u;
    }
    *end++ = '\n';
    *end = '\0';
    return far->room.answer;
}

static bool blank_or_end(char c)
{
    return c == ' ' || c == '\0';
}

static void step_over(rmg_far_end *far, char *to)
{
    while (*to == ' ')
        to++;
    far->at = to;
}

bool rmg_far_word(rmg_far_end *far, const char *word)
{
    char *at = far->at;

    while (*word && *word == *at) {
        word++;
        at++;
    }
    if (*word || !blank_or_end(*at))
        return false;
    step_over(far, at);
    return true;
}

bool rmg_far_digits(rmg_far_end *far, uint8_t digits, far_number most, far_number *value)
{
    char *at = far->at;
    uint8_t got = 0;

    *value = 0;
    for (; !blank_or_end(*at) && (!digits || got < digits); at++, got++) {
        const char c = *at;
        const uint8_t digit = (uint8_t)(c >= '0' && c <= '9'   ? c - '0'
                                        : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                        : c >= 'a' && c <= 'f' ? c - 'a' + 10
                                                               : 16);

        if (digit > 15 || (far_number)(*value << 4) >> 4 != *value)
            return false;
        *value = (far_number)(*value << 4 | digit);
    }
    if (!got || (digits && got != digits) || *value > most)
        return false;
    step_over(far, at);
    return true;
}

bool rmg_far_number(rmg_far_end *far, uint8_t digits, far_number most, far_number *value)
{
    return rmg_far_digits(far, digits, most, value) && (rmg_far_at_end(far) || far->at[-1] == ' ');
}

bool rmg_far_at_end(const rmg_far_end *far)
{
    return !*far->at;
}
