/* Colours, as a plan spells them. */
#ifndef DROMIKOS_PLAN_COLOURS_H
#define DROMIKOS_PLAN_COLOURS_H

#include "phrase.h"

/* The colour that a text means, 0 when it means none; false then. */
bool colour_find(const char *text, uint32_t *colour);

/* The same of a word, and reported. */
bool colour_of(report *faults, const word *name, uint32_t *colour);

/* The name of a colour, or 0xrrggbb. To be freed. */
char *colour_text(uint32_t colour);

#endif
