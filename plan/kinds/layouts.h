/* Keys of a computer's keyboard by name, and what they type in a layout. Usages are those of the USB HID
 * Usage Tables 1.3, pages 0x07 (keyboard) and 0x0C (consumer). */
#ifndef DROMIKOS_PLAN_LAYOUTS_H
#define DROMIKOS_PLAN_LAYOUTS_H

#include "dromikos/outputs/keyboard.h"

#include <glib.h>

typedef struct layout layout;

/* NULL if there is none of this name. */
const layout *layout_by_name(const char *name);

/* Returns all names, ending with NULL. */
const char *const *layout_names(void);

/* Most strokes of a letter. */
enum { LAYOUT_STROKES = 2 };

/* Returns the strokes of a letter, and their number; 0: the layout can't type it. */
unsigned layout_strokes(const layout *in, gunichar letter, drom_stroke *strokes);

/* Returns the letter of a stroke; 0: none. A dead key, such as an accent, forms a letter with the next
 * stroke. */
gunichar layout_letter(const layout *in, drom_stroke stroke, bool *is_dead);

/* Parses "ctrl+alt+t", "f5", "volume_up". Returns NULL, or the error: to be freed. */
char *layout_chord(const layout *in, const char *text, drom_stroke *stroke);

/* The reverse. To be freed. */
char *layout_chord_text(const layout *in, drom_stroke stroke);

#endif
