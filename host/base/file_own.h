/* Inside the host library: the marks of files that are ours. A PNG file has a text chunk, with the
 * keyword that the PNG specification has for it; an SVG file a remark. */
#ifndef RMG_HOST_FILE_OWN_H
#define RMG_HOST_FILE_OWN_H

#define RMG_OWN_SVG    "<!-- Rimeglass -->\n"
#define RMG_OWN_PNG    "tEXtSoftware\0Rimeglass"
#define RMG_OWN_PNG_AT 37 /* after the signature, the header chunk and this one's length */

#endif
