/* Presses of the keys of a plan's handsets, its buttons and its switches, while it runs on the bench. A
 * handset sends one key at a time: another one ends the first. */
#ifndef DROMIKOS_CLI_KEYPAD_H
#define DROMIKOS_CLI_KEYPAD_H

#include "cli/rehearse/rehearsal.h"

typedef struct keypad keypad;

/* Of each key that a rule names, and each switch. */
keypad *keypad_new(rehearsal *run);
void keypad_free(keypad *unwanted);

/* Returns the keys, an array of live_key that belongs to the keypad. */
GArray *keypad_keys(const keypad *these);

/* Returns the key of a letter; -1: none. */
int keypad_find(const keypad *these, char letter);

/* True if a script's press is of this key. */
bool keypad_has(const keypad *these, unsigned key, const script_press *press);

/* Presses a key briefly; toggles a switch. */
void keypad_tap(keypad *these, unsigned key);

/* Presses a key, and releases it. */
void keypad_press(keypad *these, unsigned key);
void keypad_release(keypad *these, unsigned key);

/* Sets the handsets' place, from the next frame on. */
void keypad_go(keypad *these, const sim_place *there);

/* True if nothing is pressed, and nothing was for this time. */
bool keypad_is_still(const keypad *these, uint64_t for_us);

/* Does everything up to a time, before the bench gets there. */
void keypad_pass(keypad *these, uint64_t until_us);

/* Returns the presses so far, an array of script_press that belongs to them. */
const GArray *keypad_done(const keypad *these);

#endif
