/* Presses without a script. */
#ifndef DROMIKOS_CLI_PRESSES_H
#define DROMIKOS_CLI_PRESSES_H

#include "plan/script/script.h"

/* Parses presses in words, ending with NULL: "power", "wand.up held 2 s". Returns an array of script_press,
 * to be unreferenced; NULL on an error, which has been reported. */
GArray *presses_read(const plan *with, char *const *words);

/* Each key that a rule names, once, as its gestures require. Likewise. */
GArray *presses_of_rules(const plan *with);

#endif
