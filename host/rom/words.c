/* Images as words. */
#include "rimeglass/verify.h"

rmg_words rmg_rom_words(const rmg_rom *rom, const void *bytes)
{
    return (rmg_words){.at = bytes,
                       .count = rom->words,
                       .bits = rom->bits,
                       .bytes = rom->bytes,
                       .high_first = rom->region && rom->board->high_first};
}

rmg_word rmg_words_get(const rmg_words *w, uint64_t i)
{
    const uint8_t *at = w->at + i * w->bytes;
    rmg_word word = 0;

    for (unsigned b = 0; b < w->bytes; b++)
        word |= (rmg_word)at[b] << 8u * (w->high_first ? w->bytes - 1u - b : b);
    return word;
}
