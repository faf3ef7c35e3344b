/* Calling the tool as a user does. */
#include "calls.h"

#include <string.h>
#include <sys/wait.h>

#include "../check.h"

answer call_with(const char *program, const char *words, const char *setting,
                 GSpawnChildSetupFunc setup)
{
    gchar **list = g_strsplit(words, "|", -1);
    gchar **argv = g_new0(gchar *, g_strv_length(list) + 2);
    gchar **environment = g_get_environ();
    answer a = {-1, NULL, NULL};
    int status = 0;

    argv[0] = g_build_filename(RMG_BUILD, program, NULL);
    for (size_t i = 0; list[i] && *words; i++)
        argv[i + 1] = g_strdup(list[i]);
    if (setting)
        environment = g_environ_setenv(environment, setting, "1", TRUE);
    CHECK(g_spawn_sync(RMG_PROJECT, argv, environment, G_SPAWN_DEFAULT, setup, NULL, &a.out, &a.err,
                       &status, NULL),
          "%s runs", program);
    a.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    g_strfreev(list);
    g_strfreev(argv);
    g_strfreev(environment);
    return a;
}

answer call(const char *words)
{
    return call_with("rimeglass", words, NULL, NULL);
}

void drop(answer *a)
{
    g_free(a->out);
    g_free(a->err);
}

void check_calls(const call_row *rows, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        answer a = call(rows[i].words);

        CHECK(a.status == rows[i].status, "%s: status %d", rows[i].words, a.status);
        CHECK(*rows[i].out ? strstr(a.out, rows[i].out) != NULL : !*a.out, "%s: stdout \"%s\"",
              rows[i].words, a.out);
        CHECK(*rows[i].err ? strstr(a.err, rows[i].err) != NULL : !*a.err, "%s: stderr \"%s\"",
              rows[i].words, a.err);
        drop(&a);
    }
}
