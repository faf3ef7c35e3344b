/* What a change costs: built in, and read from a file. */
#include <string.h>

#include "base/internal.h"
#include "internal.h"

#define NO                                                                                         \
    {                                                                                              \
        -1, 0                                                                                      \
    }

/* Minutes and the chance of damage: in a socket, soldered, on balls. */
static const rmg_cost rows[RMG_CHANGE_KINDS][3] = {
    [RMG_CHANGE_SWAP] = {{4, 0.003}, NO, NO},
    [RMG_CHANGE_MOVE] = {{4, 0.003}, NO, NO},
    [RMG_CHANGE_RESEAT] = {{2, 0.001}, NO, NO},
    [RMG_CHANGE_PULL] = {{2, 0.002}, NO, NO},
    [RMG_CHANGE_FIT] = {{4, 0.003}, {40, 0.03}, {120, 0.08}},
    [RMG_CHANGE_REPLACE] = {{4, 0.003}, {40, 0.03}, {120, 0.08}},
    [RMG_CHANGE_HOLD] = {{3, 0.005}, {3, 0.005}, NO},
    [RMG_CHANGE_WARM] = {{3, 0.002}, {3, 0.002}, {3, 0.002}},
    [RMG_CHANGE_COOL] = {{3, 0.002}, {3, 0.002}, {3, 0.002}},
    [RMG_CHANGE_DISTURB] = {{2, 0.002}, {2, 0.002}, NO},
    [RMG_CHANGE_LIFT] = {{5, 0.005}, {15, 0.01}, NO},
    [RMG_CHANGE_BRIDGE] = {{15, 0.01}, {15, 0.01}, NO},
    [RMG_CHANGE_REPAIR] = {{15, 0.01}, {15, 0.01}, NO},
    [RMG_CHANGE_SUPPLY] = {{2, 0}, {2, 0}, {5, 0}},
    [RMG_CHANGE_CLOCK] = {{2, 0}, {2, 0}, {2, 0}},
    [RMG_CHANGE_JUMPER] = {{2, 0}, {2, 0}, {2, 0}},
    [RMG_CHANGE_MEASURE] = {{3, 0}, {3, 0}, NO},
    [RMG_CHANGE_READ] = {{3, 0.002}, NO, NO},
    [RMG_CHANGE_NOTHING] = {{0, 0}, {0, 0}, {0, 0}},
    [RMG_CHANGE_OTHER] = {{5, 0}, {5, 0}, {5, 0}},
};

void rmg_costs_standard(rmg_cost_table *table)
{
    memcpy(table->costs, rows, sizeof rows);
}

/* "[minutes, chance]" or no. */
static void read_cost(yaml_file *file, const ynode *map, const char *key, rmg_cost *cost)
{
    const ynode *value = rmg_yaml_get(file, map, key);
    double number[2] = {0, 0};
    bool ok = true;

    if (!value)
        return;
    if (strcmp(rmg_yaml_text(value), "no") == 0) {
        *cost = (rmg_cost){-1, 0};
        return;
    }
    for (size_t i = 0; i < 2; i++) {
        const char *text = rmg_yaml_text(rmg_yaml_item(file, value, i));
        char *end = NULL;

        number[i] = g_ascii_strtod(text, &end);
        ok &= end != text && !*end && number[i] >= 0;
    }
    if (!ok || number[1] > 1 || number[0] > 100000 || rmg_yaml_item(file, value, 2))
        rmg_yaml_wrong(file, value, key,
                       "expected no, or minutes and the chance of damage, like [4, 0.003]");
    else
        *cost = (rmg_cost){number[0], number[1]};
}

rmg_status rmg_costs_load(const char *name, rmg_cost_table *table, rmg_errors *errors)
{
    static const char *const mounts[] = {"socket", "soldered", "ball", NULL};
    const char *kinds[RMG_CHANGE_KINDS + 1] = {NULL};
    GArray *notes = rmg_notes_new();
    ynode *key, *value;
    yaml_file file;
    rmg_status status = rmg_yaml_open(&file, name, notes);

    for (size_t k = 0; k < RMG_CHANGE_KINDS; k++)
        kinds[k] = rmg_change_word((rmg_change_kind)k);
    rmg_costs_standard(table);
    if (status == RMG_OK && rmg_yaml_is_map(&file, rmg_yaml_root(&file), "a table of costs", kinds))
        for (size_t i = 0; rmg_yaml_pair(&file, rmg_yaml_root(&file), i, &key, &value); i++)
            for (size_t k = 0; kinds[k]; k++)
                if (strcmp(kinds[k], rmg_yaml_text(key)) == 0 &&
                    rmg_yaml_is_map(&file, value, "a cost", mounts))
                    for (size_t m = 0; mounts[m]; m++)
                        read_cost(&file, value, mounts[m], &table->costs[k][m]);
    if (notes->len && status == RMG_OK)
        status = RMG_ERR_CONTENT;
    if (status != RMG_OK)
        rmg_costs_standard(table);
    rmg_yaml_close(&file);
    rmg_errors_take(notes, errors);
    return status;
}
