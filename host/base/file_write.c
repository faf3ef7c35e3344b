/* Files written whole or not at all. The bytes are written to a file without a name, read back,
 * brought to the disk, and only then given the name: whatever happens before leaves the old file,
 * and nothing beside it. */
#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "file_write.h"
#include "text.h"

#define READ_BACK  65536u
#define NAMES_MOST 100u
#define LINKS_MOST 40u

static bool write_all(int to, const char *bytes, size_t size)
{
    while (size) {
        const ssize_t done = write(to, bytes, size);

        if (done < 0 && errno == EINTR)
            continue;
        if (done < 0)
            return false;
        bytes += done;
        size -= (size_t)done;
    }
    return true;
}

static rmg_status failed(const char *file, int number, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_FILE, file, "%s cannot be written: %s", file,
                    g_strerror(number));
}

/* Standard output, or something that is no regular file: there is nothing to rename. */
static rmg_status write_directly(const char *file, const void *bytes, size_t size, rmg_error *error)
{
    const bool standard = strcmp(file, "-") == 0;
    const int to = standard ? STDOUT_FILENO : open(file, O_WRONLY | O_CLOEXEC);
    int number = 0;

    if (to < 0)
        return failed(file, errno, error);
    if (!write_all(to, bytes, size))
        number = errno;
    if (!standard && close(to) < 0 && !number)
        number = errno;
    return number ? failed(standard ? "standard output" : file, number, error) : RMG_OK;
}

/* Where symbolic links lead, so that they stay what they are; a new text, or NULL with errno. */
static gchar *place_of(const char *file)
{
    gchar *place = g_strdup(file);

    for (unsigned i = 0; i < LINKS_MOST; i++) {
        gchar *next = g_file_read_link(place, NULL), *folder;

        if (!next)
            return place; /* no link, or not there yet */
        if (!g_path_is_absolute(next)) {
            gchar *relative = next;

            folder = g_path_get_dirname(place);
            next = g_build_filename(folder, relative, NULL);
            g_free(folder);
            g_free(relative);
        }
        g_free(place);
        place = next;
    }
    g_free(place);
    errno = ELOOP;
    return NULL;
}

/* From here to the end nothing that can wait is to end us. */
static void hold_signals(rmg_staged *staged)
{
    sigset_t ends;

    if (staged->waits)
        return;
    sigemptyset(&ends);
    sigaddset(&ends, SIGINT);
    sigaddset(&ends, SIGTERM);
    sigaddset(&ends, SIGHUP);
    sigaddset(&ends, SIGQUIT);
    pthread_sigmask(SIG_BLOCK, &ends, &staged->before);
    staged->waits = true;
}

/* A name beside the place. Ours alone: what has it is removed once nobody holds it any more. */
static gchar *name_beside(const char *place, unsigned number)
{
    gchar *folder = g_path_get_dirname(place), *base = g_path_get_basename(place);
    gchar *name = g_strdup_printf("%s/.%s.rimeglass-%u.new", folder, base, number);

    g_free(folder);
    g_free(base);
    return name;
}

static bool same_file(int fd, const char *name)
{
    struct stat one, other;

    return fstat(fd, &one) == 0 && lstat(name, &other) == 0 && S_ISREG(other.st_mode) &&
           one.st_dev == other.st_dev && one.st_ino == other.st_ino;
}

/* Removes what a process left that was killed before it gave the file its name: whoever writes
 * holds a lock on it until then. Only who has the lock of that very file may remove its name.
 * False with EEXIST: somebody has it, or it is no file of ours. */
static bool remove_left(const char *name)
{
    const int fd = open(name, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
    const bool removed =
        fd >= 0 && flock(fd, LOCK_EX | LOCK_NB) == 0 && same_file(fd, name) && unlink(name) == 0;

    if (fd >= 0)
        close(fd);
    if (!removed)
        errno = EEXIST;
    return removed;
}

/* A file of another name that we hold; negative with errno. */
static int open_named(const char *name)
{
    int fd = open(name, O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0666);

    if (fd < 0 && errno == EEXIST && remove_left(name))
        fd = open(name, O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0666);
    if (fd < 0)
        return fd;
    if (flock(fd, LOCK_EX | LOCK_NB) == 0 && !same_file(fd, name)) {
        close(fd); /* taken for left behind before it was held */
        errno = EEXIST;
        return -1;
    }
    return fd;
}

/* A file without a name, or where the folder's file system has none, one with another name. */
static int open_beside(rmg_staged *staged)
{
    gchar *folder = g_path_get_dirname(staged->place);
    int fd = open(folder, O_TMPFILE | O_RDWR | O_CLOEXEC, 0666);

    if (fd >= 0)
        (void)flock(fd, LOCK_EX | LOCK_NB); /* where it has no locks, its other name just stays */
    for (unsigned i = 0; fd < 0 && i < NAMES_MOST; i++) {
        if (i == 0 && errno != EOPNOTSUPP && errno != EISDIR && errno != EINVAL && errno != ENOENT)
            break;
        if (i && errno != EEXIST)
            break;
        g_free(staged->beside);
        staged->beside = name_beside(staged->place, i);
        hold_signals(staged);
        fd = open_named(staged->beside);
    }
    if (fd < 0) {
        const int number = errno;

        g_free(staged->beside);
        staged->beside = NULL;
        errno = number;
    }
    g_free(folder);
    return fd;
}

/* Is what the file holds what was to be written? */
static bool read_back(int fd, const char *bytes, size_t size)
{
    const off_t start = 0;
    char *block = malloc(READ_BACK);
    bool same = block && lseek(fd, start, SEEK_SET) == start;

    while (same && size) {
        const ssize_t got = read(fd, block, MIN(size, READ_BACK));

        if (got < 0 && errno == EINTR)
            continue;
        if (got == 0)
            errno = EIO;
        same = got > 0 && memcmp(block, bytes, (size_t)got) == 0;
        if (got > 0 && !same)
            errno = EIO;
        bytes += same ? got : 0;
        size -= same ? (size_t)got : 0;
    }
    free(block);
    return same;
}

/* The file gets the mode and, where that is allowed, the owner of the one whose place it takes. */
static bool take_mode(int fd, const struct stat *about)
{
    if (about->st_uid != geteuid() && fchown(fd, about->st_uid, about->st_gid) != 0)
        errno = 0; /* somebody else's file in our folder: it becomes ours */
    return fchmod(fd, about->st_mode & 07777u) == 0;
}

rmg_status rmg_file_stage(const char *file, const void *bytes, size_t size, rmg_staged *staged,
                          rmg_error *error)
{
    struct stat about;
    int number;

    rmg_error_none(error);
    *staged = (rmg_staged){.file = g_strdup(file), .place = place_of(file), .fd = -1};
    if (staged->place && stat(staged->place, &about) == 0 && !S_ISREG(about.st_mode)) {
        rmg_fail(error, RMG_ERR_FILE, file, "%s cannot be written: it is %s", file,
                 S_ISDIR(about.st_mode) ? "a folder" : "no file");
        rmg_file_abandon(staged);
        return RMG_ERR_FILE;
    }
    staged->fd = staged->place ? open_beside(staged) : -1;
    if (staged->fd >= 0 && write_all(staged->fd, bytes, size) &&
        read_back(staged->fd, bytes, size) &&
        (stat(staged->place, &about) != 0 || take_mode(staged->fd, &about)) &&
        fsync(staged->fd) == 0)
        return RMG_OK;
    number = errno;
    rmg_file_abandon(staged);
    return failed(file, number, error);
}

/* Gives a file without a name this one; its descriptor is the only way to it. */
static bool link_as(const rmg_staged *staged, const char *name)
{
    char path[64];

    g_snprintf(path, sizeof path, "/proc/self/fd/%d", staged->fd);
    return linkat(AT_FDCWD, path, AT_FDCWD, name, AT_SYMLINK_FOLLOW) == 0;
}

/* Gives the file its name where nothing has that yet. */
static bool take_free_name(const rmg_staged *staged)
{
    return staged->beside ? link(staged->beside, staged->place) == 0
                          : link_as(staged, staged->place);
}

/* Gives the file its name in the place of what has it, by way of another name. */
static bool take_name(rmg_staged *staged)
{
    for (unsigned i = 0; !staged->beside && i < NAMES_MOST; i++) {
        gchar *name = name_beside(staged->place, i);

        if (link_as(staged, name) ||
            (errno == EEXIST && remove_left(name) && link_as(staged, name)))
            staged->beside = name;
        else
            g_free(name);
        if (!staged->beside && errno != EEXIST)
            break;
    }
    if (!staged->beside || rename(staged->beside, staged->place) != 0)
        return false;
    g_free(staged->beside);
    staged->beside = NULL;
    return true;
}

/* The new name is on the disk too. An error here changes nothing: both files are whole. */
static void keep_name(const char *place)
{
    gchar *folder = g_path_get_dirname(place);
    const int fd = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);

    if (fd >= 0) {
        if (fsync(fd) != 0)
            errno = 0; /* some file systems cannot */
        close(fd);
    }
    g_free(folder);
}

rmg_status rmg_file_commit(rmg_staged *staged, rmg_error *error)
{
    rmg_status status = RMG_OK;
    struct stat about;

    rmg_error_none(error);
    hold_signals(staged);
    if (stat(staged->place, &about) == 0 && S_ISDIR(about.st_mode))
        status = failed(staged->file, EISDIR, error);
    else if (!take_free_name(staged) && !take_name(staged))
        status = failed(staged->file, errno, error);
    if (status == RMG_OK)
        keep_name(staged->place);
    rmg_file_abandon(staged);
    return status;
}

rmg_status rmg_file_commit_new(rmg_staged *staged, rmg_error *error)
{
    rmg_status status = RMG_OK;
    struct stat about;
    bool taken;

    rmg_error_none(error);
    hold_signals(staged);
    taken = take_free_name(staged);
    if (!taken && errno != EEXIST) { /* where there are no hard links, as well as can be */
        if (lstat(staged->place, &about) == 0)
            errno = EEXIST;
        else
            taken = take_name(staged);
    }
    if (taken)
        keep_name(staged->place);
    else
        status = failed(staged->file, errno, error);
    rmg_file_abandon(staged);
    return status;
}

void rmg_file_abandon(rmg_staged *staged)
{
    if (staged->beside)
        unlink(staged->beside);
    if (staged->fd >= 0)
        close(staged->fd);
    g_free(staged->file);
    g_free(staged->place);
    g_free(staged->beside);
    if (staged->waits)
        pthread_sigmask(SIG_SETMASK, &staged->before, NULL);
    *staged = (rmg_staged){.fd = -1};
}

rmg_status rmg_file_write(const char *file, const void *bytes, size_t size, rmg_error *error)
{
    rmg_staged staged;
    struct stat about;
    rmg_status status;

    rmg_error_none(error);
    if (strcmp(file, "-") == 0 ||
        (stat(file, &about) == 0 && !S_ISREG(about.st_mode) && !S_ISDIR(about.st_mode)))
        return write_directly(file, bytes, size, error);
    status = rmg_file_stage(file, bytes, size, &staged, error);
    return status == RMG_OK ? rmg_file_commit(&staged, error) : status;
}

rmg_status rmg_file_remove(const char *file, rmg_error *error)
{
    gchar *place = place_of(file), *left;
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    if (unlink(file) != 0 && errno != ENOENT)
        status = rmg_fail(error, RMG_ERR_FILE, file, "%s cannot be removed: %s", file,
                          g_strerror(errno));
    for (unsigned i = 0; place && i < NAMES_MOST; i++) {
        left = name_beside(place, i);
        if (!remove_left(left))
            i = NAMES_MOST; /* the names are taken in turn */
        g_free(left);
    }
    g_free(place);
    return status;
}

int rmg_file_lock(const char *file)
{
    gchar *place = place_of(file), *folder = place ? g_path_get_dirname(place) : NULL;
    int lock = folder ? open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC) : -1;

    while (lock >= 0 && flock(lock, LOCK_EX) != 0)
        if (errno != EINTR) {
            close(lock);
            lock = -1;
        }
    g_free(place);
    g_free(folder);
    return lock;
}

void rmg_file_unlock(int lock)
{
    if (lock >= 0)
        close(lock);
}

struct rmg_files {
    GArray *staged; /* of rmg_staged */
};

rmg_files *rmg_files_new(void)
{
    rmg_files *files = g_new0(rmg_files, 1);

    files->staged = g_array_new(FALSE, FALSE, sizeof(rmg_staged));
    return files;
}

rmg_status rmg_files_add(rmg_files *files, const char *file, const void *bytes, size_t size,
                         rmg_error *error)
{
    rmg_staged staged;
    const rmg_status status = rmg_file_stage(file, bytes, size, &staged, error);

    if (status == RMG_OK)
        g_array_append_val(files->staged, staged);
    return status;
}

rmg_status rmg_files_write(rmg_files *files, rmg_error *error)
{
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    for (guint i = 0; i < files->staged->len && status == RMG_OK; i++)
        status = rmg_file_commit(&g_array_index(files->staged, rmg_staged, i), error);
    return status;
}

void rmg_files_free(rmg_files *files)
{
    for (guint i = 0; i < files->staged->len; i++)
        rmg_file_abandon(&g_array_index(files->staged, rmg_staged, i));
    g_array_free(files->staged, TRUE);
    g_free(files);
}
