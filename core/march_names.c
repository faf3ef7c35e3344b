/* The marches known by name, in compiled form. Sources stand in march.h. */
#include "rimeglass/march.h"

#define UP(n)     (uint8_t)(RMG_ORDER_UP | (n))
#define DOWN(n)   (uint8_t)(RMG_ORDER_DOWN | (n))
#define EITHER(n) (uint8_t)(RMG_ORDER_EITHER | (n))
#define R0        RMG_OP_R0
#define R1        RMG_OP_R1
#define W0        RMG_OP_W0
#define W1        RMG_OP_W1

const uint8_t rmg_march_mats_plus[] = {EITHER(1), W0, UP(2), R0, W1, DOWN(2), R1, W0, 0};

const uint8_t rmg_march_c_minus[] = {EITHER(1), W0, UP(2),   R0, W1, UP(2),     R1, W0, DOWN(2),
                                     R0,        W1, DOWN(2), R1, W0, EITHER(1), R0, 0};
