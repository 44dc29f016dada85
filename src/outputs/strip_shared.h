/* What a strip and its parts have in common. Private to the room. */
#ifndef DROMIKOS_STRIP_SHARED_H
#define DROMIKOS_STRIP_SHARED_H

#include "../../include/dromikos/outputs/part.h"

/* Is an order one for a picture of so many pixels? */
bool drom_strip_accepts(const drom_strip_settings DROM_FLASH *strip, uint16_t pixels, uint8_t verb,
                        uint32_t value);

/* Changes a picture of so many pixels. */
void drom_strip_order(const drom_strip_settings DROM_FLASH *settings, drom_strip_picture *picture,
                      uint16_t pixels, uint8_t verb, uint32_t value);

#endif
