/* The bytes alone: no records, no addresses. */
#include "forms.h"

const rmg_image_form_row rmg_image_form_raw = {.mark = 0};
