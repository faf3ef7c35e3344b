/* The dispatcher: finds the command, and knows nothing of what it does. */
#include <fcntl.h>
#include <locale.h>
#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <sys/resource.h>
#include <unistd.h>

#include "cli.h"

/* a larger one, or one without a limit, is not looked after */
#define MOST_STACK ((rlim_t)1 << 28)

#define ROW(name, summary) {#name, summary, command_##name},
static const command commands[] = {COMMANDS(ROW)};
#undef ROW

static void print_help(void)
{
    printf("rimeglass: which chip, in which socket, and how sure.\n\n"
           "Usage: rimeglass COMMAND ...; rimeglass help COMMAND explains one.\n\nCommands\n");
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++)
        printf("  %-8s %s\n", commands[i].name, commands[i].summary);
    printf("\nExit status: 0 no fault found, 1 faults found, 2 wrong call or wrong file,\n"
           "3 the run is not complete.\n\n"
           "Example: rimeglass board show demo/boards/halvorn64.yaml\n");
}

static int unknown_command(const char *name)
{
    const char *names[G_N_ELEMENTS(commands) + 1] = {NULL};
    const char *near;

    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++)
        names[i] = commands[i].name;
    near = rmg_nearest(name, names);
    fprintf(stderr, "rimeglass: no command \"%s\"", name);
    if (near)
        fprintf(stderr, "; did you mean \"%s\"?\n", near);
    else
        fprintf(stderr, "; rimeglass --help lists them.\n");
    return EXIT_CALL;
}

static int dispatch(const char *name, GPtrArray *args)
{
    int status;

    if (strcmp(name, "--version") == 0) {
        printf("rimeglass %s\n", rmg_version());
        return EXIT_PASS;
    }
    if (strcmp(name, "help") == 0 && args->len) { /* "help test" is "test --help" */
        gchar *verb = g_strdup(g_ptr_array_index(args, 0));

        g_ptr_array_set_size(args, 0);
        g_ptr_array_add(args, g_strdup("--help"));
        status = strcmp(verb, "help") == 0 ? dispatch("--help", args) : dispatch(verb, args);
        g_free(verb);
        return status;
    }
    if (strcmp(name, "--help") == 0 || strcmp(name, "-h") == 0 || strcmp(name, "help") == 0) {
        print_help();
        return EXIT_PASS;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++)
        if (strcmp(commands[i].name, name) == 0)
            return commands[i].run(args);
    return unknown_command(name);
}

/* Did whoever read our output (head, a pager, a terminal) simply go away? That is no error. */
static bool reader_gone(void)
{
    struct pollfd out = {STDOUT_FILENO, POLLOUT, 0};

    return poll(&out, 1, 0) > 0 && (out.revents & (POLLERR | POLLHUP));
}

/* Standard input, output and error that are closed would be the next files that are opened: what is
 * printed would then stand in a run file. They are opened so that their use fails, as it should. */
static void fill_standard_files(void)
{
    static const int how[] = {O_WRONLY, O_RDONLY, O_RDONLY};

    for (int fd = STDIN_FILENO; fd <= STDERR_FILENO; fd++)
        if (fcntl(fd, F_GETFD) < 0 && open("/dev/null", how[fd]) != fd)
            _exit(EXIT_CALL);
}

int main(int argc, char **argv)
{
    GPtrArray *args = g_ptr_array_new_with_free_func(g_free);
    struct rlimit stack;
    int status;

    if (getrlimit(RLIMIT_STACK, &stack) == 0 && stack.rlim_cur < MOST_STACK)
        last_words_begin(&stack, stack.rlim_cur);
    fill_standard_files();
    setlocale(LC_CTYPE, "");
    signal(SIGXFSZ, SIG_IGN); /* a file too large is an error of that file, not our end */
    signal(SIGPIPE, SIG_IGN);
    if (argc < 2) {
        fprintf(stderr, "rimeglass: a command is missing, for example \"rimeglass test\"; "
                        "rimeglass --help lists the commands.\n");
        g_ptr_array_free(args, TRUE);
        return EXIT_CALL;
    }
    for (int i = 2; i < argc; i++)
        g_ptr_array_add(args, g_strdup(argv[i]));
    status = dispatch(argv[1], args);
    g_ptr_array_free(args, TRUE);
    if ((fflush(stdout) != 0 || ferror(stdout)) && !reader_gone()) {
        fprintf(stderr, "rimeglass: standard output cannot be written.\n");
        status = EXIT_CALL;
    }
    return status;
}
