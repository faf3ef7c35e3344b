/* Fuzzes what a pod answers: a pod that says anything at any request is refused, or its chip is
 * tested, or is not; it is never called good unless every cell was read, and no answer does harm.
 *
 * Input: lines; the n-th is what is answered to the n-th request, from the status on ("ok ..."),
 * with number and check as they should be; after "~" just as it is. An empty line, and where there
 * are no more: what a good pod answers. */
#include <arpa/inet.h>
#include <glib.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "rimeglass/chip.h"
#include "rimeglass/far_end.h"
#include "rimeglass/march.h"

#define REQUESTS 120u /* then it hangs up */

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static int listener = -1;
static char name[40];

typedef struct pod {
    gchar **answers;
    unsigned at, count;
    unsigned cells_read;
} pod;

/* What a pod with a good 6810, 128 x 8, would say. */
static void good_answer(pod *p, const char *request, GString *say)
{
    if (g_str_has_prefix(request, "hello"))
        g_string_assign(say, "ok link=1 word=FF last=7F line=60 can=pod,element,crc32 name=fuzz");
    else if (g_str_has_prefix(request, "pod"))
        g_string_assign(say, "ok kind=dram,sram,rom data=8 lines=13 rails=plus5,plus12,minus5");
    else if (g_str_has_prefix(request, "feel"))
        g_string_assign(say, "ok plus5=A28,A28 plus12=A28,A28");
    else if (g_str_has_prefix(request, "power on"))
        g_string_assign(say, "ok plus5=1388 plus12=2EE0 minus5=there");
    else if (g_str_has_prefix(request, "power"))
        g_string_assign(say, "ok on plus5=1388");
    else if (g_str_has_prefix(request, "read"))
        g_string_assign(say, "ok 00");
    else if (g_str_has_prefix(request, "element"))
        g_string_assign(say, "ok done");
    else
        g_string_assign(say, "ok");
    p->cells_read += g_str_has_prefix(request, "element") ? 1u : 0u;
}

/* One request line, without its end; false: hang up. */
static bool answer(pod *p, int to, char *line)
{
    char *star = strrchr(line, '*');
    const unsigned digits = star ? (unsigned)strlen(star + 1) : 0;
    const char *own = p->at < p->count ? p->answers[p->at] : "";
    GString *say = g_string_new("");
    bool sent;

    p->at++;
    if (star)
        *star = '\0';
    good_answer(p, strlen(line) > 3 ? line + 3 : "", say);
    if (*own == '~') {
        g_string_printf(say, "%s\n", own + 1);
    } else {
        if (*own)
            g_string_assign(say, own);
        g_string_prepend(say, " ");
        g_string_prepend_len(say, line, (gssize)MIN(strlen(line), 2u));
        if (digits == 8)
            g_string_append_printf(say, "*%08X", rmg_link_check32(0, say->str, say->len));
        else if (digits)
            g_string_append_printf(say, "*%04X", rmg_link_check(0xFFFF, say->str, say->len));
        g_string_append_c(say, '\n');
    }
    sent = send(to, say->str, say->len, MSG_NOSIGNAL) == (ssize_t)say->len;
    g_string_free(say, TRUE);
    return sent && p->at < REQUESTS;
}

static gpointer serve(gpointer data)
{
    pod *p = data;
    const int fd = accept(listener, NULL, NULL), on = 1;
    char line[4096];
    size_t used = 0;
    ssize_t got = 1;
    bool go_on = fd >= 0;

    setsockopt(fd, IPPROTO_TCP, TCP_NODELAY, &on, sizeof on);
    while (go_on && (got = recv(fd, line + used, sizeof line - 1u - used, 0)) > 0) {
        char *end;

        used += (size_t)got;
        line[used] = '\0';
        while (go_on && (end = strchr(line, '\n'))) {
            *end = '\0';
            go_on = answer(p, fd, line);
            used -= (size_t)(end + 1 - line);
            memmove(line, end + 1, used + 1u);
        }
        go_on = go_on && used < sizeof line - 1u;
    }
    if (fd >= 0)
        close(fd);
    return NULL;
}

static void begin(void)
{
    struct sockaddr_in where = {.sin_family = AF_INET,
                                .sin_addr = {.s_addr = htonl(INADDR_LOOPBACK)}};
    socklen_t size = sizeof where;

    listener = socket(AF_INET, SOCK_STREAM, 0);
    if (listener < 0 || bind(listener, (struct sockaddr *)&where, size) != 0 ||
        listen(listener, 4) != 0 || getsockname(listener, (struct sockaddr *)&where, &size) != 0)
        abort();
    snprintf(name, sizeof name, "127.0.0.1:%u", ntohs(where.sin_port));
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const char *const parts[] = {"6810", "4027"};
    gchar *text = g_strndup((const gchar *)data, size);
    pod p = {.answers = g_strsplit(text, "\n", -1)};
    const rmg_part *part = rmg_part_find(parts[size % 2u]);
    const rmg_chip_plan plan = {
        .march_name = "MATS+", .march = rmg_march_by_name("MATS+"), .passes = 1, .seed = 1};
    rmg_error error = {0};
    rmg_pod *opened = NULL;
    GThread *thread;
    rmg_status status;

    if (listener < 0)
        begin();
    p.count = g_strv_length(p.answers);
    thread = g_thread_new("pod", serve, &p);
    status = rmg_pod_open(name, NULL, &opened, &error);
    if ((status == RMG_OK) != (opened != NULL) || (status == RMG_OK) != (error.what == NULL))
        abort();
    if (opened) {
        rmg_chip chip = {0};

        if (!rmg_pod_refuses(opened, part)) {
            status = rmg_chip_test(opened, part, &plan, &chip);
            if (status == RMG_OK && chip.state == RMG_CHIP_GOOD &&
                (p.cells_read < 3 || chip.words != (uint64_t)1 << part->address_lines))
                abort();
            if (chip.state > RMG_CHIP_STOPPED || !memchr(chip.why, '\0', sizeof chip.why))
                abort();
        }
        rmg_pod_close(opened);
    }
    rmg_error_free(&error);
    g_thread_join(thread);
    g_strfreev(p.answers);
    g_free(text);
    return 0;
}
