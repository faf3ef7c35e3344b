/* The background of a word from its address. */
#include "rimeglass/march.h"

static bool odd(rmg_addr bits)
{
#if RMG_ADDR_BITS == 64
    return __builtin_parityll(bits);
#else
    for (uint8_t shift = RMG_ADDR_BITS >> 1; shift; shift = (uint8_t)(shift >> 1))
        bits ^= (rmg_addr)(bits >> shift);
    return bits & 1u;
#endif
}

rmg_word rmg_background_word(const rmg_background *background, rmg_addr address)
{
    rmg_word word = background->start;

    for (uint8_t i = 0; i < background->term_count; i++) {
        const rmg_background_term *term = &background->terms[i];

        if (rmg_where_holds(&term->where, address) && odd(address & term->lines))
            word ^= term->bits;
    }
    if (background->random)
        word ^= (rmg_word)rmg_hash(background->seed, address);
    return word;
}
