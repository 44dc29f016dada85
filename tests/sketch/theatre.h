/* The theatre's functions for a sketch, without tables. In C++ a table in flash would be read as RAM. */
#ifndef THEATRE_H
#define THEATRE_H

#ifdef __cplusplus
extern "C" {
#endif

#include <stdbool.h>

/** Starts the chip and the theatre; false if it can't run. Once. */
bool theatre_begin(void);

/** Does what is due. In the loop, without delays. */
void theatre_poll(void);

#ifdef __cplusplus
}
#endif

#endif
