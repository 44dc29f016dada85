/* Colours of a plan. */
#ifndef DROMIKOS_PLAN_COLOURS_H
#define DROMIKOS_PLAN_COLOURS_H

#include "plan/text/phrase.h"

/* Parses a colour; false if the text is none. */
bool colour_find(const char *text, uint32_t *colour);

/* Parses a word's colour, and reports errors. */
bool colour_of(report *faults, const word *name, uint32_t *colour);

/* Returns the name of a colour, or 0xrrggbb. To be freed. */
char *colour_text(uint32_t colour);

#endif
