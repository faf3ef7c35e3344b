/* The hash behind everything drawn from a seed. It multiplies: small targets do without random
 * backgrounds. */
#include "rimeglass/march.h"

uint64_t rmg_hash(uint64_t seed, uint64_t number)
{
    uint64_t x = seed + (number + 1u) * UINT64_C(0x9E3779B97F4A7C15);

    x = (x ^ x >> 30) * UINT64_C(0xBF58476D1CE4E5B9);
    x = (x ^ x >> 27) * UINT64_C(0x94D049BB133111EB);
    return x ^ x >> 31;
}
