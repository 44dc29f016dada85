/* Merges new codes into an existing sheet: order, notes, other columns and line ends are kept. */
#ifndef DROMIKOS_PLAN_MERGE_H
#define DROMIKOS_PLAN_MERGE_H

#include "plan/handset/sheet.h"

/* Returns the text of a sheet (NULL or empty: a new one) with these keys (of sheet_key): protocol, address
 * and command of existing rows are replaced; other keys get a row at the end. To be freed. sheet_read() must
 * accept the text. */
char *sheet_merge(const char *text, const GArray *keys);

#endif
