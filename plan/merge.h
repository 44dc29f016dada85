/* New codes into a sheet that exists already: order, notes, further columns and line ends stay as they
 * are. */
#ifndef DROMIKOS_PLAN_MERGE_H
#define DROMIKOS_PLAN_MERGE_H

#include "sheet.h"

/* The text of a sheet, which may be NULL or empty, with these keys (of sheet_key) put in: where a key has a
 * row, its protocol, address and command are replaced; the others get a row at the end. To be freed. The text
 * must be one that sheet_read() takes. */
char *sheet_merge(const char *text, const GArray *keys);

#endif
