/* Keys of a computer's keyboard by name, and what is typed with them in a layout. Usages are those of the USB
 * HID Usage Tables 1.3, pages 0x07 (keyboard) and 0x0C (consumer). */
#ifndef DROMIKOS_PLAN_LAYOUTS_H
#define DROMIKOS_PLAN_LAYOUTS_H

#include "dromikos/outputs/keyboard.h"

#include <glib.h>

typedef struct layout layout;

/* NULL where there is none of the name. */
const layout *layout_by_name(const char *name);

/* The names of all, ending with NULL. */
const char *const *layout_names(void);

/* At most so many strokes make a letter. */
enum { LAYOUT_STROKES = 2 };

/* The strokes that make a letter, and how many; 0: the layout can't type it. */
unsigned layout_strokes(const layout *in, gunichar letter, drom_stroke *strokes);

/* The letter that a stroke makes; 0: none. A dead key, such as an accent, makes one with the next stroke. */
gunichar layout_letter(const layout *in, drom_stroke stroke, bool *is_dead);

/* "ctrl+alt+t", "f5", "volume_up". NULL, or what is wrong with it: to be freed. */
char *layout_chord(const layout *in, const char *text, drom_stroke *stroke);

/* And back. To be freed. */
char *layout_chord_text(const layout *in, drom_stroke stroke);

#endif
