/* Inside the host library: a file made ready beside its name, and then given it. */
#ifndef RMG_HOST_FILE_WRITE_H
#define RMG_HOST_FILE_WRITE_H

#include <glib.h>
#include <signal.h>

#include "rimeglass/file.h"

/* A file that is written, read back and on the disk, but has no name yet. */
typedef struct rmg_staged {
    gchar *file;   /* as the caller named it */
    gchar *place;  /* where its links lead; NULL: nothing is staged */
    gchar *beside; /* a name beside it that the bytes have until then; NULL: they have none */
    int fd;
    bool waits; /* signals that would end us wait, and leave no file with another name */
    sigset_t before;
} rmg_staged;

/* Writes the bytes and holds them against what was to be written. RMG_ERR_FILE: *error, to be
 * freed with rmg_text_free, says more; nothing is staged then. */
rmg_status rmg_file_stage(const char *file, const void *bytes, size_t size, rmg_staged *staged,
                          rmg_error *error);

/* Gives it its name, in the place of what has it; the same where nothing may have it yet; or lets
 * it go. Nothing is staged afterwards. What a killed process left under another name goes when the
 * file is next written. */
rmg_status rmg_file_commit(rmg_staged *staged, rmg_error *error);
rmg_status rmg_file_commit_new(rmg_staged *staged, rmg_error *error);
void rmg_file_abandon(rmg_staged *staged);

/* Keeps other processes that ask for it out of the file's folder until it is closed: a descriptor
 * for rmg_file_unlock, negative where the folder cannot be locked. */
int rmg_file_lock(const char *file);
void rmg_file_unlock(int lock);

#endif
