/* The fingerprint of a burst that no protocol knows. Private to receive/. */
#ifndef DROMIKOS_RECEIVE_FINGERPRINT_H
#define DROMIKOS_RECEIVE_FINGERPRINT_H

#include "dromikos/receive.h"

/* Notes the start of a mark. Those past the 65th no longer count. */
void drom_fingerprint_mark(drom_fingerprint *fingerprint, drom_us at);

/* The number that stands for the burst; the same for each burst of one key. */
uint32_t drom_fingerprint_take(const drom_fingerprint *fingerprint);

#endif
