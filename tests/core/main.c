/* The core's tests, linked with the core alone. */
#include "../check.h"
#include "suites.h"

int main(void)
{
    const CU_SuiteInfo suites[] = {
        {"march", NULL, NULL, NULL, NULL, march_tests},
        {"patterns", NULL, NULL, NULL, NULL, pattern_tests},
        {"tally", NULL, NULL, NULL, NULL, tally_tests},
        {"place", NULL, NULL, NULL, NULL, place_tests},
        {"wiring", NULL, NULL, NULL, NULL, wiring_tests},
        {"guard", NULL, NULL, NULL, NULL, guard_tests},
        {"finding", NULL, NULL, NULL, NULL, finding_tests},
        {"pins", NULL, NULL, NULL, NULL, pins_tests},
        {"far end", NULL, NULL, NULL, NULL, far_end_tests},
        CU_SUITE_INFO_NULL,
    };

    return check_main(suites);
}
