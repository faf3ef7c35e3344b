/* Inside the host library: what every room of it has at hand. Texts and numbers, YAML, JSON, files,
 * numbers packed into bytes, memory given as it is touched. */
#ifndef RMG_HOST_BASE_INTERNAL_H
#define RMG_HOST_BASE_INTERNAL_H

#include "file_own.h"
#include "file_read.h"
#include "file_write.h"
#include "json.h"
#include "packed.h"
#include "pages.h"
#include "text.h"
#include "yaml.h"

#endif
