/* The marches known by name, in compiled form. Sources stand in march.h. */
#include "rimeglass/march.h"

#define UP(n)     (uint8_t)(RMG_ORDER_UP | (n))
#define DOWN(n)   (uint8_t)(RMG_ORDER_DOWN | (n))
#define EITHER(n) (uint8_t)(RMG_ORDER_EITHER | (n))
#define HOLD      RMG_ORDER_EITHER
#define R0        RMG_OP_R0
#define R1        RMG_OP_R1
#define W0        RMG_OP_W0
#define W1        RMG_OP_W1

const uint8_t rmg_march_mats[] = {EITHER(1), W0, EITHER(2), R0, W1, EITHER(1), R1, 0};
const uint8_t rmg_march_mats_plus[] = {EITHER(1), W0, UP(2), R0, W1, DOWN(2), R1, W0, 0};
const uint8_t rmg_march_mats_plus_plus[] = {EITHER(1), W0, UP(2), R0, W1, DOWN(3), R1, W0, R0, 0};
const uint8_t rmg_march_x[] = {EITHER(1), W0, UP(2), R0, W1, DOWN(2), R1, W0, EITHER(1), R0, 0};
const uint8_t rmg_march_y[] = {EITHER(1), W0, UP(3), R0,        W1, R1, DOWN(3),
                               R1,        W0, R0,    EITHER(1), R0, 0};
const uint8_t rmg_march_a[] = {EITHER(1), W0, UP(4), R0, W1, W0,      W1, UP(3), R1, W0, W1,
                               DOWN(4),   R1, W0,    W1, W0, DOWN(3), R0, W1,    W0, 0};
const uint8_t rmg_march_b[] = {EITHER(1), W0, UP(6), R0, W1, R1,      W0, R0, W1, UP(3), R1, W0, W1,
                               DOWN(4),   R1, W0,    W1, W0, DOWN(3), R0, W1, W0, 0};
const uint8_t rmg_march_c[] = {EITHER(1), W0,        UP(2),     R0,      W1, UP(2), R1,
                               W0,        EITHER(1), R0,        DOWN(2), R0, W1,    DOWN(2),
                               R1,        W0,        EITHER(1), R0,      0};
const uint8_t rmg_march_c_minus[] = {EITHER(1), W0, UP(2),   R0, W1, UP(2),     R1, W0, DOWN(2),
                                     R0,        W1, DOWN(2), R1, W0, EITHER(1), R0, 0};
const uint8_t rmg_march_u[] = {EITHER(1), W0, UP(4), R0, W1, R1,      W0, UP(2), R0, W1,
                               DOWN(4),   R1, W0,    R0, W1, DOWN(2), R1, W0,    0};
const uint8_t rmg_march_lr[] = {EITHER(1), W0, DOWN(2), R0, W1, UP(4), R1, W0,    R0, W1, UP(2),
                                R1,        W0, UP(4),   R0, W1, R1,    W0, UP(1), R0, 0};
const uint8_t rmg_march_la[] = {EITHER(1), W0, UP(5), R0, W1,      W0, W1,      R1, UP(5), R1,
                                W0,        W1, W0,    R0, DOWN(5), R0, W1,      W0, W1,    R1,
                                DOWN(5),   R1, W0,    W1, W0,      R0, DOWN(1), R0, 0};
const uint8_t rmg_march_sr[] = {DOWN(1), W0,      UP(4), R0, W1, R1, W0,      UP(2), R0, R0, UP(1),
                                W1,      DOWN(4), R1,    W0, R0, W1, DOWN(2), R1,    R1, 0};
const uint8_t rmg_march_raw[] = {EITHER(1), W0, UP(6), R0,        W0, R0,      R0, W1,      R1,
                                 UP(6),     R1, W1,    R1,        R1, W0,      R0, DOWN(6), R0,
                                 W0,        R0, R0,    W1,        R1, DOWN(6), R1, W1,      R1,
                                 R1,        W0, R0,    EITHER(1), R0, 0};
const uint8_t rmg_march_ss[] = {EITHER(1), W0, UP(5), R0, R0,      W0, R0,        W1, UP(5), R1,
                                R1,        W1, R1,    W0, DOWN(5), R0, R0,        W0, R0,    W1,
                                DOWN(5),   R1, R1,    W1, R1,      W0, EITHER(1), R0, 0};
const uint8_t rmg_march_pmovi[] = {DOWN(1), W0, UP(3), R0, W1,      R1, UP(3), R1, W0, R0,
                                   DOWN(3), R0, W1,    R1, DOWN(3), R1, W0,    R0, 0};
const uint8_t rmg_march_g[] = {EITHER(1), W0,        UP(6), R0, W1,      R1,        W0, R0, W1,
                               UP(3),     R1,        W0,    W1, DOWN(4), R1,        W0, W1, W0,
                               DOWN(3),   R0,        W1,    W0, HOLD,    EITHER(3), R0, W1, R1,
                               HOLD,      EITHER(3), R1,    W0, R0,      0};
