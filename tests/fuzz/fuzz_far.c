/* Fuzzes the far half of the link: whatever comes, answers are whole lines, and nothing is written
 * that no request named. */
#include <stdlib.h>
#include <string.h>

#include "rimeglass/far_end.h"

#define WORDS 256u

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    if (address >= WORDS)
        abort();
    *value = ((const unsigned char *)context)[address];
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    if (address >= WORDS || value > 0xFF)
        abort();
    ((unsigned char *)context)[address] = (unsigned char)value;
    return RMG_OK;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const rmg_bus bus = {.version = RMG_BUS_VERSION, .read = read_word, .write = write_word};
    unsigned char *memory = calloc(WORDS, 1);
    char *request = malloc(80), *answer = malloc(100);
    rmg_far_found *found = malloc(3 * sizeof *found);
    const rmg_target target = {&bus, memory, 0xFF};
    const rmg_far_room room = {request, 80, answer, 100, found, 3};
    rmg_far_end far;

    if (!memory || !request || !answer || !found ||
        rmg_far_begin(&far, &target, WORDS - 1u, "fuzz", &room) != RMG_OK)
        abort();
    for (size_t i = 0; i < size; i++) {
        const char *text = rmg_far_take(&far, (char)data[i]);

        if (text && (strlen(text) >= 100 || strchr(text, '\n') != text + strlen(text) - 1))
            abort();
    }
    free(found);
    free(answer);
    free(request);
    free(memory);
    return 0;
}
