/* Files for tests: a folder of their own, gone afterwards. */
#ifndef RMG_TESTS_TEMPORARY_H
#define RMG_TESTS_TEMPORARY_H

#include <stdbool.h>

/* Path of a file in the tests' folder; the same name gives the same path. Constant until the
 * process ends. */
const char *temporary_path(const char *name);

/* Writes text to such a file and returns its path. */
const char *temporary_file(const char *name, const char *text);

/* Contents of a file, newly allocated, or NULL. */
char *file_text(const char *path);

/* A path below the project's top folder. */
const char *project_path(const char *below);

/* Replaces the first `from` in `text`; the result is newly allocated. Fails the test where there
 * is none. */
char *replaced(const char *text, const char *from, const char *to);

#endif
