/* From frames to key events. Dittos, repeated frames and toggle bits give the same events. A single lost
 * frame doesn't end a press. */
#ifndef DROMIKOS_INTERNAL_KEYS_H
#define DROMIKOS_INTERNAL_KEYS_H

#include "../plan.h"

/** Starts with every key up. Main only. */
void drom_keys_init(drom_keys *keys, const drom_keys_plan DROM_FLASH *plan, drom_key_sink *sink,
                    void *context);

/** Takes a frame. Reports up to four events; further hold times follow with the next frame. Main only. */
void drom_keys_frame(drom_keys *keys, const drom_frame *frame);

/** Reports what is due for one handset: up to four releases, repeats and taps. True if another handset is due
 * as well. Main only. */
bool drom_keys_advance(drom_keys *keys, drom_us now);

/** Sets which held key's frame is expected first. `is_quiet`: no frame has begun although one was expected by
 * now. Main only. */
void drom_keys_expect(const drom_keys *keys, drom_us now, bool is_quiet, drom_expected *expected);

/** Reports that a transmission, just over, has covered reception: a held key whose repeat was due stays down
 * until the repeat after that should have been received. Main only. */
void drom_keys_mute(drom_keys *keys, const drom_air *air);

/** Returns the wait in µs until something is due; DROM_LONG if no key is down. */
drom_wait drom_keys_wait(const drom_keys *keys, drom_us now);

/** Reports that a button is down or up; `has_changed`: since the last call. Call it every few ms while the
 * button is down. Of two buttons of a handset the newer counts. Main only. */
void drom_keys_touch(drom_keys *keys, uint8_t handset, uint8_t key, bool is_down, bool has_changed,
                     drom_us now);

#endif
