/* What the kinds of strips and parts share. Private to plan/kinds/. */
#ifndef DROMIKOS_PLAN_KINDS_STRIP_H
#define DROMIKOS_PLAN_KINDS_STRIP_H

#include "plan/kinds/kinds.h"

#include "dromikos/outputs/part.h"

/* The clause of the pixels: their number; of a part, from where to where. */
enum { STRIP_PIXELS = 0 };

extern const kind_order strip_orders[];
char *strip_order_text(const plan *loaded, const drom_action *action);

extern const char *const strip_states[];
bool strip_is_in_state(const output_view *seen, unsigned state, const phrase_value *values);
char *strip_wrong_state(const plan *loaded, guint output, unsigned state, const phrase_value *values);
char *strip_state_text(const output_view *seen);

#endif
