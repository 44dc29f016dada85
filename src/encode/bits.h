/* The bits of a frame in the order of sending. Private to encode/. */
#ifndef DROMIKOS_ENCODE_BITS_H
#define DROMIKOS_ENCODE_BITS_H

#include "../../include/dromikos/encode.h"

/* Returns bit `index` of `count`; those beyond 32 come first, from `more`. */
static inline bool drom_bit_sent(const drom_encoder *encoder, uint8_t index, uint8_t count, bool is_msb_first)
{
    const uint8_t head = (uint8_t)(count > 32 ? count - 32 : 0);
    if (index < head) {
        return (encoder->more >> (is_msb_first ? head - 1 - index : index)) & 1;
    }
    return (encoder->bits >> (is_msb_first ? count - 1 - index : index - head)) & 1;
}

#endif
