/* What was found of one bit. */
#include "internal.h"

const char *rmg_bit_verdict_text(rmg_bit_verdict verdict)
{
    switch (verdict) {
    case RMG_BIT_SOUND:
        return "sound";
    case RMG_BIT_RIGHT:
        return "right, but only one of 0 and 1 was written";
    case RMG_BIT_STUCK_HIGH:
        return "stuck high";
    case RMG_BIT_STUCK_LOW:
        return "stuck low";
    case RMG_BIT_WRONG_HIGH:
        return "reads 1 for 0, too few values to say more";
    case RMG_BIT_WRONG_LOW:
        return "reads 0 for 1, too few values to say more";
    case RMG_BIT_NOT_STUCK:
        return "wrong, but not a stuck bit";
    case RMG_BIT_FOLLOWS_BUS:
        return "reads what was last on the bus: nothing drives it";
    }
    return "";
}

bool rmg_bit_is_wrong(rmg_bit_verdict verdict)
{
    return verdict != RMG_BIT_SOUND && verdict != RMG_BIT_RIGHT;
}
