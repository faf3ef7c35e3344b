/* A library that is put before the C library's: it fails the N-th call of a kind, once or from then
 * on, as the environment says, and writes down how many there were.
 *   RMG_FAIL_KIND   memory, file
 *   RMG_FAIL_AT     N, from 1; 0 or missing: none fails
 *   RMG_FAIL_ON     set: from then on
 *   RMG_FAIL_COUNT  file that the number of calls is written to at the end
 * Only calls after main() has begun count, so that the loader is left alone. */
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <stdarg.h>
#include <stdatomic.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

static atomic_ulong calls;
static unsigned long fail_at;
static bool fail_on, of_memory, of_files, begun;
static const char *count_file;

static bool fails(bool kind)
{
    unsigned long number;

    if (!begun || !kind)
        return false;
    number = atomic_fetch_add(&calls, 1) + 1;
    return fail_at && (fail_on ? number >= fail_at : number == fail_at);
}

/* The C library's own, found before anything can fail. */
static struct {
    int (*open)(const char *, int, ...);
    int (*open64)(const char *, int, ...);
    FILE *(*fopen)(const char *, const char *);
    FILE *(*fopen64)(const char *, const char *);
    ssize_t (*read)(int, void *, size_t);
    ssize_t (*write)(int, const void *, size_t);
    int (*close)(int);
    off_t (*lseek)(int, off_t, int);
    int (*fsync)(int);
    int (*fstat)(int, struct stat *);
    int (*stat)(const char *, struct stat *);
    int (*fchmod)(int, mode_t);
    int (*linkat)(int, const char *, int, const char *, int);
    int (*rename)(const char *, const char *);
} real;

#define FIND(name) *(void **)(void *)&real.name = dlsym(RTLD_NEXT, #name)

static void find_all(void)
{
    FIND(open);
    FIND(open64);
    FIND(fopen);
    FIND(fopen64);
    FIND(read);
    FIND(write);
    FIND(close);
    FIND(lseek);
    FIND(fsync);
    FIND(fstat);
    FIND(stat);
    FIND(fchmod);
    FIND(linkat);
    FIND(rename);
}

__attribute__((constructor)) static void begin(void)
{
    const char *kind = getenv("RMG_FAIL_KIND"), *at = getenv("RMG_FAIL_AT");

    find_all();
    of_memory = kind && strcmp(kind, "memory") == 0;
    of_files = kind && strcmp(kind, "file") == 0;
    fail_at = at ? strtoul(at, NULL, 10) : 0;
    fail_on = getenv("RMG_FAIL_ON") != NULL;
    count_file = getenv("RMG_FAIL_COUNT");
    unsetenv("LD_PRELOAD"); /* programs that this one starts are left alone */
    begun = true;
}

__attribute__((destructor)) static void end(void)
{
    char text[24];
    int fd;

    begun = false;
    if (!count_file)
        return;
    fd = open(count_file, O_WRONLY | O_CREAT | O_TRUNC, 0600);
    if (fd < 0)
        return;
    snprintf(text, sizeof text, "%lu", atomic_load(&calls));
    if (write(fd, text, strlen(text)) < 0)
        _exit(99);
    close(fd);
}

extern void *__libc_malloc(size_t size);
extern void *__libc_calloc(size_t count, size_t size);
extern void *__libc_realloc(void *memory, size_t size);
extern void *__libc_memalign(size_t alignment, size_t size);

static void *no_memory(void)
{
    errno = ENOMEM;
    return NULL;
}

void *malloc(size_t size)
{
    return fails(of_memory) ? no_memory() : __libc_malloc(size);
}

void *calloc(size_t count, size_t size)
{
    return fails(of_memory) ? no_memory() : __libc_calloc(count, size);
}

void *realloc(void *memory, size_t size)
{
    return fails(of_memory) ? no_memory() : __libc_realloc(memory, size);
}

void *reallocarray(void *memory, size_t count, size_t size)
{
    if (size && count > (size_t)-1 / size)
        return no_memory();
    return fails(of_memory) ? no_memory() : __libc_realloc(memory, count * size);
}

int posix_memalign(void **memory, size_t alignment, size_t size)
{
    *memory = fails(of_memory) ? NULL : __libc_memalign(alignment, size);
    return *memory ? 0 : ENOMEM;
}

void *aligned_alloc(size_t alignment, size_t size)
{
    return fails(of_memory) ? no_memory() : __libc_memalign(alignment, size);
}

/* What goes wrong with files: a full disk when writing, an error of the device otherwise. */
static int failed(int error)
{
    errno = error;
    return -1;
}

static mode_t mode_of(int flags, va_list args)
{
    return (flags & O_CREAT) || (flags & O_TMPFILE) == O_TMPFILE ? va_arg(args, mode_t) : 0;
}

int open(const char *file, int flags, ...)
{
    va_list args;
    mode_t mode;

    va_start(args, flags);
    mode = mode_of(flags, args);
    va_end(args);
    return fails(of_files) ? failed(EACCES) : real.open(file, flags, mode);
}

int open64(const char *file, int flags, ...)
{
    va_list args;
    mode_t mode;

    va_start(args, flags);
    mode = mode_of(flags, args);
    va_end(args);
    return fails(of_files) ? failed(EACCES) : real.open64(file, flags, mode);
}

FILE *fopen(const char *file, const char *mode)
{
    if (fails(of_files)) {
        errno = EMFILE;
        return NULL;
    }
    return real.fopen(file, mode);
}

FILE *fopen64(const char *file, const char *mode)
{
    if (fails(of_files)) {
        errno = EMFILE;
        return NULL;
    }
    return real.fopen64(file, mode);
}

/* Standard output and error are the terminal's business. */
ssize_t read(int fd, void *bytes, size_t size)
{
    return fd > STDERR_FILENO && fails(of_files) ? failed(EIO) : real.read(fd, bytes, size);
}

ssize_t write(int fd, const void *bytes, size_t size)
{
    return fd > STDERR_FILENO && fails(of_files) ? failed(ENOSPC) : real.write(fd, bytes, size);
}

int close(int fd)
{
    if (fd > STDERR_FILENO && fails(of_files)) {
        real.close(fd);
        return failed(EIO);
    }
    return real.close(fd);
}

off_t lseek(int fd, off_t to, int how)
{
    return fails(of_files) ? failed(EIO) : real.lseek(fd, to, how);
}

int fsync(int fd)
{
    return fails(of_files) ? failed(EIO) : real.fsync(fd);
}

int fstat(int fd, struct stat *about)
{
    return fails(of_files) ? failed(EIO) : real.fstat(fd, about);
}

int stat(const char *file, struct stat *about)
{
    return fails(of_files) ? failed(EACCES) : real.stat(file, about);
}

int fchmod(int fd, mode_t mode)
{
    return fails(of_files) ? failed(EPERM) : real.fchmod(fd, mode);
}

int linkat(int from, const char *old, int to, const char *file, int flags)
{
    return fails(of_files) ? failed(EACCES) : real.linkat(from, old, to, file, flags);
}

int rename(const char *from, const char *to)
{
    return fails(of_files) ? failed(EACCES) : real.rename(from, to);
}
