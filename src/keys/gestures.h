/* Gestures of one handset's key, by frames or by a pin. Private to keys/. */
#ifndef DROMIKOS_KEYS_GESTURES_H
#define DROMIKOS_KEYS_GESTURES_H

#include "../../include/dromikos/internal/keys.h"

#include "../bound.h"

/* A key went down at a time, and was still down at another, which may be the same. The key before is up. */
void drom_gestures_down(const drom_keys *keys, uint8_t handset, uint8_t key, drom_us at, drom_us still_at);

/* The key is still down. */
void drom_gestures_still(const drom_keys *keys, uint8_t handset, drom_us at);

/* The same without a repeat. */
void drom_gestures_held(const drom_keys *keys, uint8_t handset, drom_us at);

/* The key is up; does nothing if no key was down. */
void drom_gestures_up(const drom_keys *keys, uint8_t handset, drom_us now);

/* Reports a repeat by the clock if it is due and the key `is_fresh`: known to be down now. */
void drom_gestures_pass(const drom_keys *keys, uint8_t handset, drom_us now, bool is_fresh);

/* Reports a tap that no second tap has followed in time. */
void drom_gestures_end_tap(const drom_keys *keys, uint8_t handset, drom_us now);

/* Returns the wait until one of them is due. */
drom_wait drom_gestures_wait(const drom_keys *keys, uint8_t handset, drom_us now);

#endif
