/* Checksums of the trade, all from one reading of the bytes. */
#ifndef RIMEGLASS_CHECKSUM_H
#define RIMEGLASS_CHECKSUM_H

#include <stddef.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

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

#ifdef __cplusplus
}
#endif
#endif
