/* The check that names its row, and the main that all test programs share. */
#include "check.h"

#include <CUnit/Basic.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

void check_that(bool ok, const char *file, unsigned line, const char *format, ...)
{
    char text[400];
    va_list args;

    va_start(args, format);
    vsnprintf(text, sizeof text, format, args);
    va_end(args);
    CU_assertImplementation(ok, line, text, file, "", CU_FALSE);
}

/* Names of all tests of these suites, one a line: suite, a tab, test. */
static void list(const CU_SuiteInfo *suites)
{
    for (; suites->pName; suites++)
        for (const CU_TestInfo *test = suites->pTests; test->pName; test++)
            printf("%s\t%s\n", suites->pName, test->pName);
}

/* Runs one test of the suites that are set up, by its name. */
static void run_one(const char *name)
{
    for (CU_pSuite suite = CU_get_registry()->pSuite; suite; suite = suite->pNext) {
        const CU_pTest test = CU_get_test(suite, name);

        if (test)
            CU_basic_run_test(suite, test);
    }
}

/* Is the suite named in a list like "prompts|jobs"? */
static bool is_listed(const char *list, const char *name)
{
    const size_t size = strlen(name);

    for (const char *at = list; at; at = strchr(at, '|'), at = at ? at + 1 : NULL)
        if (strncmp(at, name, size) == 0 && (at[size] == '|' || !at[size]))
            return true;
    return false;
}

/* "jobs: measured in between" in the list leaves out one test of a suite. */
static void leave_out(const char *skip)
{
    CU_set_fail_on_inactive(CU_FALSE);
    for (CU_pSuite suite = CU_get_registry()->pSuite; suite; suite = suite->pNext)
        for (CU_pTest test = suite->pTest; test; test = test->pNext) {
            char name[256];

            snprintf(name, sizeof name, "%s: %s", suite->pName, test->pName);
            if (is_listed(skip, name))
                CU_set_test_active(test, CU_FALSE);
        }
}

int check_main(const CU_SuiteInfo *suites)
{
    CU_SuiteInfo copy[64] = {CU_SUITE_INFO_NULL};
    const char *only = getenv("RMG_TEST_SUITE"); /* part of a suite's name */
    const char *skip = getenv("RMG_TEST_SKIP");  /* "prompts|jobs": these suites are left out */
    const char *part = getenv("RMG_TEST_PART");  /* "1/2": every second suite, from the first on */
    const unsigned long of =
        part && strchr(part, '/') ? strtoul(strchr(part, '/') + 1, NULL, 10) : 1;
    const unsigned long which = part ? strtoul(part, NULL, 10) : 1;
    const char *one = getenv("RMG_TEST_ONE"); /* the name of a single test */
    unsigned failures;
    size_t count = 0;

    if (getenv("RMG_TEST_LIST")) {
        list(suites);
        return 0;
    }
    if (!of || !which || which > of) {
        fprintf(stderr, "RMG_TEST_PART is to be like 1/2\n");
        return 2;
    }
    for (unsigned long n = 0; suites->pName; suites++, n++)
        if ((!only || strstr(suites->pName, only)) && n % of == which - 1u &&
            !is_listed(skip, suites->pName)) {
            if (count == COUNT(copy) - 1) {
                fprintf(stderr, "more suites than there is room for: none may be left out\n");
                return 2;
            }
            copy[count++] = *suites;
        }
    if (CU_initialize_registry() != CUE_SUCCESS || CU_register_suites(copy) != CUE_SUCCESS) {
        fprintf(stderr, "the tests could not be set up: %s\n", CU_get_error_msg());
        return 2;
    }
    leave_out(skip);
    CU_basic_set_mode(getenv("RMG_TEST_VERBOSE") ? CU_BRM_VERBOSE : CU_BRM_NORMAL);
    if (one)
        run_one(one);
    else
        CU_basic_run_tests();
    failures = CU_get_number_of_failures() + CU_get_number_of_suites_failed();
    if (!CU_get_number_of_asserts())
        failures++;
    CU_cleanup_registry();
    return failures ? 1 : 0;
}
