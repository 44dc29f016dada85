/* What a strip and its parts share. Private to outputs/. */
#ifndef DROMIKOS_STRIP_SHARED_H
#define DROMIKOS_STRIP_SHARED_H

#include "../../include/dromikos/outputs/part.h"

/* True if a picture of `count` pixels accepts an order. */
bool drom_strip_accepts(const drom_strip_settings DROM_FLASH *strip, uint16_t pixels, uint8_t verb,
                        uint32_t value);

/* Changes a picture of `count` pixels. */
void drom_strip_order(const drom_strip_settings DROM_FLASH *settings, drom_strip_picture *picture,
                      uint16_t pixels, uint8_t verb, uint32_t value);

#endif
