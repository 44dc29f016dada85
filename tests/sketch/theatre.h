/* What a sketch sees of the theatre: functions, and no table. In C++ a table that lies in flash would be read
 * as RAM. */
#ifndef THEATRE_H
#define THEATRE_H

#ifdef __cplusplus
extern "C" {
#endif

#include <stdbool.h>

/** Starts the chip and the theatre; false when it can't run. Once. */
bool theatre_begin(void);

/** Does what is due. In the loop, as often as it goes. */
void theatre_poll(void);

#ifdef __cplusplus
}
#endif

#endif
