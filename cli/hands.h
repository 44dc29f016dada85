/* Presses of the keys of a plan's handsets, its buttons and its switches, while it runs on the bench. A
 * handset sends one key at a time: another one ends the first. */
#ifndef DROMIKOS_CLI_HANDS_H
#define DROMIKOS_CLI_HANDS_H

#include "rehearsal.h"

typedef struct hands hands;

/* Of each key that a rule names, and each switch. */
hands *hands_new(rehearsal *run);
void hands_free(hands *unwanted);

/* Returns the keys, an array of live_key that belongs to the hands. */
GArray *hands_keys(const hands *these);

/* Returns the key of a letter; -1: none. */
int hands_find(const hands *these, char letter);

/* True if a script's press is of this key. */
bool hands_are_of(const hands *these, unsigned key, const script_press *press);

/* Presses a key briefly; toggles a switch. */
void hands_tap(hands *these, unsigned key);

/* Presses a key, and releases it. */
void hands_press(hands *these, unsigned key);
void hands_lift(hands *these, unsigned key);

/* Sets the handsets' place, from the next frame on. */
void hands_go(hands *these, const sim_place *there);

/* True if nothing is pressed, and nothing was for this time. */
bool hands_are_still(const hands *these, uint64_t for_us);

/* Does everything up to a time, before the bench gets there. */
void hands_pass(hands *these, uint64_t until_us);

/* Returns the presses so far, an array of script_press that belongs to them. */
const GArray *hands_done(const hands *these);

#endif
