/* Calling the tool as a user does: status, stdout, stderr. */
#ifndef RMG_TESTS_CLI_CALLS_H
#define RMG_TESTS_CLI_CALLS_H

#include <CUnit/CUnit.h>
#include <glib.h>
#include <sys/types.h>

typedef struct answer {
    int status;
    char *out, *err;
} answer;

/* Runs a program of the build in the project's folder. `words` are separated by "|". */
answer call_with(const char *program, const char *words, const char *setting,
                 GSpawnChildSetupFunc setup);
answer call(const char *words);
void drop(answer *a);

/* The tool begun in the background, its output in the file `out`; and how it ended. */
pid_t begin(const char *words, const char *out, GSpawnChildSetupFunc setup);
int ended(pid_t pid);

/* Files in the tests' folder whose names begin with a dot: left behind. */
unsigned strangers(void);

/* What a call must answer: texts that stdout and stderr hold, "" for none at all. Calls that begin
 * with "~" take long: slow builds leave them out. */
typedef struct call_row {
    const char *words;
    int status;
    const char *out, *err;
} call_row;
void check_calls(const call_row *rows, size_t count);

extern CU_TestInfo plan_tests[];
extern CU_TestInfo refused_tests[];
extern CU_TestInfo cli_rom_tests[];
extern CU_TestInfo attack_tests[];
extern CU_TestInfo kill_tests[];
extern CU_TestInfo log_tests[];
extern CU_TestInfo live_tests[];
extern CU_TestInfo new_board_tests[];

#endif
