/* What is said when there is no memory left. GLib ends the process where its own memory fails, but
 * it asks for memory to say so: where there is none at all it calls itself until the stack is full.
 * That is noticed here, on a stack of its own, and the process ends at once. */
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"

#define BELOW ((size_t)1 << 16) /* the end of the stack: a frame may step over it */
#define ABOVE ((size_t)1 << 21) /* words and environment of the call count as stack too */

static const char words[] = "rimeglass: ended: this machine is out of memory. A run file or an "
                            "unfinished dump holds what was done until then.\n";

static char *lowest; /* of the stack that overflows, when it is as large as it may be */

static void on_fault(int signal_number, siginfo_t *info, void *context)
{
    const char *at = info->si_addr;

    (void)context;
    signal(signal_number, SIG_DFL);
    if (at < lowest - BELOW || at > lowest + ABOVE)
        return; /* some other fault: it comes again, and ends us as it would have */
    if (write(STDERR_FILENO, words, sizeof words - 1) < 0)
        _exit(EXIT_INCOMPLETE);
    abort();
}

void last_words_begin(const void *stack, size_t stack_bytes)
{
    static char other_stack[65536];
    const stack_t place = {.ss_sp = other_stack, .ss_size = sizeof other_stack};
    struct sigaction action;

    lowest = (char *)(uintptr_t)stack - stack_bytes;
    memset(&action, 0, sizeof action);
    action.sa_sigaction = on_fault;
    action.sa_flags = SA_SIGINFO | SA_ONSTACK;
    if (sigaltstack(&place, NULL) == 0)
        sigaction(SIGSEGV, &action, NULL);
}
