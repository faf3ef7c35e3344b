/* Inside the host library: pictures bear a mark, so that they can be replaced without asking. */
#ifndef RMG_HOST_FILE_OWN_H
#define RMG_HOST_FILE_OWN_H

#include <glib.h>
#include <stdbool.h>

/* What a PDF file of ours has for its creator. */
#define RMG_OWN_CREATOR "Rimeglass"

/* Puts it into the bytes of a PNG file: a text chunk, with the keyword that the PNG specification
 * has for it; or of an SVG file: a remark. */
void rmg_own_mark(GByteArray *bytes, bool svg);

#endif
