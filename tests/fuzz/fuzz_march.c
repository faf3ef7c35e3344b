/* Fuzzes the march notation: whatever is accepted must count and end within its room. */
#include <stdlib.h>
#include <string.h>

#include "rimeglass/march.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char *text = malloc(size + 1);
    uint8_t *code = malloc(RMG_MARCH_BYTES);
    rmg_march_error error;

    memcpy(text, data, size);
    text[size] = '\0';
    if (rmg_march_parse(text, code, RMG_MARCH_BYTES, &error) == RMG_OK &&
        rmg_march_operations(code) + rmg_march_elements(code) + 1u > RMG_MARCH_BYTES)
        abort();
    free(code);
    free(text);
    return 0;
}
