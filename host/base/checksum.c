/* All checksums block by block, so that the bytes come through the cache once. */
#include "rimeglass/file.h"

#include <glib.h>
#include <string.h>
#include <zlib.h>

#define BLOCK ((size_t)1 << 15)

void rmg_checksums_of(const void *bytes, size_t size, rmg_checksums *sums)
{
    static const GChecksumType types[] = {G_CHECKSUM_MD5, G_CHECKSUM_SHA1, G_CHECKSUM_SHA256};
    char *const texts[] = {sums->md5, sums->sha1, sums->sha256};
    const size_t rooms[] = {sizeof sums->md5, sizeof sums->sha1, sizeof sums->sha256};
    GChecksum *digests[G_N_ELEMENTS(types)];
    uLong crc = crc32(0, Z_NULL, 0);
    uint32_t sum = 0;

    for (size_t i = 0; i < G_N_ELEMENTS(types); i++)
        digests[i] = g_checksum_new(types[i]);
    for (size_t done = 0; done < size; done += BLOCK) {
        const guchar *block = (const guchar *)bytes + done;
        const size_t count = MIN(size - done, BLOCK);

        for (size_t n = 0; n < count; n++)
            sum += block[n];
        crc = crc32(crc, block, (uInt)count);
        for (size_t i = 0; i < G_N_ELEMENTS(types); i++)
            g_checksum_update(digests[i], block, (gssize)count);
    }
    sums->sum16 = (uint16_t)sum;
    sums->sum32 = sum;
    sums->crc32 = (uint32_t)crc;
    for (size_t i = 0; i < G_N_ELEMENTS(types); i++) {
        g_strlcpy(texts[i], g_checksum_get_string(digests[i]), rooms[i]);
        g_checksum_free(digests[i]);
    }
}
