/* What all tests share: a check that names its row, and a main that runs suites. */
#ifndef RMG_TESTS_CHECK_H
#define RMG_TESTS_CHECK_H

#include <CUnit/CUnit.h>
#include <stdbool.h>

/* A check whose failure prints the row's title or whatever else the format tells. */
void check_that(bool ok, const char *file, unsigned line, const char *format, ...)
    __attribute__((format(printf, 4, 5)));
#define CHECK(condition, ...)                                                                      \
    do { /* the condition first: what is printed may come from it */                               \
        const bool check_ok = (condition);                                                         \
        check_that(check_ok, __FILE__, __LINE__, __VA_ARGS__);                                     \
    } while (0)

#define COUNT(list) (sizeof(list) / sizeof *(list))

/* Is this a build with sanitizers? gcc and clang say it differently. */
#if defined __SANITIZE_ADDRESS__
#define SANITIZED
#elif defined __has_feature
#if __has_feature(address_sanitizer)
#define SANITIZED
#endif
#endif

/* Long rows of cases that differ in numbers only: builds with sanitizers take one in so many. */
#ifdef SANITIZED
#define ONE_IN 4u
#else
#define ONE_IN 1u
#endif

/* Runs suites (NULL name at the end), prints CUnit's summary; the exit status of main. */
int check_main(const CU_SuiteInfo *suites);

#endif
