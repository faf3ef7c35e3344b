/* Calling the tool as a user does. */
#include "calls.h"

#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "../host/temporary.h"

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
        const bool takes_long = rows[i].words[0] == '~';
        const char *words = rows[i].words + takes_long;
        answer a;

        /* with sanitizers every second of a long table */
        if ((takes_long && getenv("RMG_TEST_PLACES")) || (ONE_IN > 1 && i % 2 && count > 40))
            continue;
        a = call(words);
        CHECK(a.status == rows[i].status, "%s: status %d", words, a.status);
        CHECK(*rows[i].out ? strstr(a.out, rows[i].out) != NULL : !*a.out, "%s: stdout \"%s\"",
              words, a.out);
        CHECK(*rows[i].err ? strstr(a.err, rows[i].err) != NULL : !*a.err, "%s: stderr \"%s\"",
              words, a.err);
        drop(&a);
    }
}

pid_t begin(const char *words, const char *out, GSpawnChildSetupFunc setup)
{
    gchar **list = g_strsplit(words, "|", -1);
    gchar **argv = g_new0(gchar *, g_strv_length(list) + 2);
    const pid_t pid = fork();

    if (pid == 0) {
        argv[0] = g_build_filename(RMG_BUILD, "rimeglass", NULL);
        for (size_t i = 0; list[i]; i++)
            argv[i + 1] = list[i];
        if (chdir(RMG_PROJECT) != 0 || !freopen(out, "w", stdout) ||
            !freopen("/dev/null", "w", stderr))
            _exit(99);
        if (setup)
            setup(NULL);
        execv(argv[0], argv);
        _exit(99);
    }
    g_strfreev(list);
    g_free(argv);
    return pid;
}

int ended(pid_t pid)
{
    int status = 0;

    CHECK(waitpid(pid, &status, 0) == pid, "ends");
    return status;
}

unsigned strangers(void)
{
    gchar *folder = g_path_get_dirname(temporary_path("x"));
    GDir *dir = g_dir_open(folder, 0, NULL);
    const gchar *name;
    unsigned count = 0;

    while (dir && (name = g_dir_read_name(dir)) != NULL)
        count += *name == '.';
    if (dir)
        g_dir_close(dir);
    g_free(folder);
    return count;
}
