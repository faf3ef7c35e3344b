/* The version that was built. */
#include "rimeglass/config.h"
#include "rimeglass/types.h"

const char *rmg_version(void)
{
    return RMG_VERSION;
}
