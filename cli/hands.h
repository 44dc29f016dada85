/* Fingers on the keys of a plan's handsets, its buttons and its switches, while it runs on the bench. A
 * handset sends one key at a time: another one lets the first go. */
#ifndef DROMIKOS_CLI_HANDS_H
#define DROMIKOS_CLI_HANDS_H

#include "rehearsal.h"

typedef struct hands hands;

/* Of every key that some rule is about, and every switch. */
hands *hands_new(rehearsal *run);
void hands_free(hands *unwanted);

/* The keys, an array of live_key that belongs to the hands. */
GArray *hands_keys(const hands *these);

/* The key that a letter presses; -1: none. */
int hands_find(const hands *these, char letter);

/* Is it this key that a script presses? */
bool hands_are_of(const hands *these, unsigned key, const script_press *press);

/* Presses a key for a moment; turns a switch. */
void hands_tap(hands *these, unsigned key);

/* Presses a key, and lets it go. */
void hands_press(hands *these, unsigned key);
void hands_lift(hands *these, unsigned key);

/* Where the handsets are from the next frame on. */
void hands_go(hands *these, const sim_place *there);

/* Nothing is pressed, and nothing has been for so long. */
bool hands_are_still(const hands *these, uint64_t for_us);

/* What they do up to a moment, before the bench gets there. */
void hands_pass(hands *these, uint64_t until_us);

/* What they have done, an array of script_press that belongs to them. */
const GArray *hands_done(const hands *these);

#endif
