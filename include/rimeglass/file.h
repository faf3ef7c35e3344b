/* Files written whole or not at all, compared, and the checksums of the trade. */
#ifndef RIMEGLASS_FILE_H
#define RIMEGLASS_FILE_H

#include "text.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Writes `size` bytes to `file`: to a file without a name first, which is read back and brought to
 * the disk, then given the name. A file that is replaced keeps its mode, a symbolic link stays one.
 * "-" is standard output; a device is written to directly. RMG_ERR_FILE: *error, to be freed
 * with rmg_text_free, says what went wrong; nothing then stands under the name that did not stand
 * there before. */
rmg_status rmg_file_write(const char *file, const void *bytes, size_t size, rmg_error *error);

/* Removes `file`, a name that rmg_file_write was given, and what a process left beside it that was
 * killed while it wrote. A name that is not there is no error. RMG_ERR_FILE: *error, to be freed
 * with rmg_error_free, says why it is still there. */
rmg_status rmg_file_remove(const char *file, rmg_error *error);

/* Several files that appear together, or none of them. Free with rmg_files_free. */
typedef struct rmg_files rmg_files;
rmg_files *rmg_files_new(void);
/* Makes one more ready, as rmg_file_write does; no name is given yet. */
rmg_status rmg_files_add(rmg_files *files, const char *file, const void *bytes, size_t size,
                         rmg_error *error);
/* Gives them their names, one after the other. */
rmg_status rmg_files_write(rmg_files *files, rmg_error *error);
void rmg_files_free(rmg_files *files);

/* Are two files the same bytes? *same says so. RMG_ERR_FILE: *error, to be freed with
 * rmg_error_free, says which could not be read. Read once, in blocks; pipes are allowed. */
rmg_status rmg_files_same(const char *one, const char *two, bool *same, uint64_t *bytes,
                          rmg_error *error);

/* Checksums of the trade, all from one reading of the bytes. */
typedef struct rmg_checksums {
    uint16_t sum16;  /* sum of all bytes, 16 bits of it */
    uint32_t sum32;  /* 32 bits of it */
    uint32_t crc32;  /* as in ISO 3309 and ITU-T V.42: reflected, 0xEDB88320 */
    char md5[33];    /* RFC 1321, in small hex digits */
    char sha1[41];   /* FIPS 180-4 */
    char sha256[65]; /* FIPS 180-4 */
} rmg_checksums;

/* Of `size` bytes; 0 bytes are allowed. */
void rmg_checksums_of(const void *bytes, size_t size, rmg_checksums *sums);

/* Was the file written by this library (a result, a run, a picture), or is it empty? Told by what
 * it begins with. false too: it cannot be read; images of memory bear no mark. */
bool rmg_file_is_ours(const char *file);

#ifdef __cplusplus
}
#endif
#endif
