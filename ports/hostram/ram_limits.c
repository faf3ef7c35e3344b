/* How much memory can be taken without making the machine swap, or the system end us: what is free
 * in the machine, and what every control group above us still allows, in either hierarchy. */
#include <inttypes.h>
#include <stdbool.h>
#include <stdio.h>
#include <string.h>

#include "internal.h"

/* A number of a line like this in a file; false: the file, or the number, is not there. */
static bool told(const char *file, const char *format, uint64_t *value)
{
    FILE *f = fopen(file, "re");
    char line[256];
    bool found = false;

    while (f && !found && fgets(line, sizeof line, f))
        found = sscanf(line, format, value) == 1;
    if (f)
        fclose(f);
    return found;
}

/* What the group in this folder allows beyond what it uses, if that is less than *spare. */
static void limit_by(const char *folder, const char *most, const char *used, uint64_t *spare)
{
    uint64_t limit, now;
    char file[1200];

    snprintf(file, sizeof file, "%s/%s", folder, most);
    if (!told(file, "%" SCNu64, &limit))
        return; /* "max", or no such group */
    snprintf(file, sizeof file, "%s/%s", folder, used);
    if (!told(file, "%" SCNu64, &now))
        now = 0;
    if (limit <= now)
        *spare = 0;
    else if (limit - now < *spare)
        *spare = limit - now;
}

/* A group and all above it. `group` begins with a slash; it is cut from its end on. */
static void limit_by_all(const char *root, char *group, const char *most, const char *used,
                         uint64_t *spare)
{
    char folder[1100];

    for (;;) {
        char *end = strrchr(group, '/');

        snprintf(folder, sizeof folder, "%s%s", root, group);
        limit_by(folder, most, used, spare);
        if (!end)
            return;
        *end = '\0'; /* the one above; the root itself at last */
    }
}

uint64_t rmg_ram_spare(const char *groups, const char *root, uint64_t spare)
{
    FILE *f = fopen(groups, "re");
    char line[1024], older[600];

    snprintf(older, sizeof older, "%s/memory", root);
    while (f && fgets(line, sizeof line, f)) {
        char *kinds = strchr(line, ':'), *group = kinds ? strchr(kinds + 1, ':') : NULL;

        if (!group)
            continue;
        *group++ = '\0';
        group[strcspn(group, "\n")] = '\0';
        if (!kinds[1])
            limit_by_all(root, group, "memory.max", "memory.current", &spare);
        else if (strstr(kinds, "memory"))
            limit_by_all(older, group, "memory.limit_in_bytes", "memory.usage_in_bytes", &spare);
    }
    if (f)
        fclose(f);
    /* within a container the groups are named from outside: what is mounted there counts too */
    limit_by(root, "memory.max", "memory.current", &spare);
    limit_by(older, "memory.limit_in_bytes", "memory.usage_in_bytes", &spare);
    return spare;
}

uint64_t rmg_ram_free_bytes(void)
{
    uint64_t kib = 0;

    if (!told("/proc/meminfo", "MemAvailable: %" SCNu64 " kB", &kib))
        return 0;
    return rmg_ram_spare("/proc/self/cgroup", "/sys/fs/cgroup", kib * 1024u);
}
