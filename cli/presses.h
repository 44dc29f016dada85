/* Presses without a script. */
#ifndef DROMIKOS_CLI_PRESSES_H
#define DROMIKOS_CLI_PRESSES_H

#include "script.h"

/* Those that words say, ending with NULL, one after the other: "power", "wand.up held 2 s". An array of
 * script_press, to be unreferenced; NULL, and reported, where one can't be. */
GArray *presses_read(const plan *with, char *const *words);

/* Every key that a rule names, once, as its gestures want it. Likewise. */
GArray *presses_of_rules(const plan *with);

#endif
