/* The suites of the core's test program. */
#ifndef RMG_TESTS_SUITES_H
#define RMG_TESTS_SUITES_H

#include <CUnit/CUnit.h>

extern CU_TestInfo march_tests[];
extern CU_TestInfo pattern_tests[];
extern CU_TestInfo tally_tests[];
extern CU_TestInfo place_tests[];
extern CU_TestInfo wiring_tests[];
extern CU_TestInfo guard_tests[];
extern CU_TestInfo far_end_tests[];
extern CU_TestInfo finding_tests[];
extern CU_TestInfo pins_tests[];

#endif
