/* Bytes on their way between main and a serial line's handlers: a ring each way, with one producer and one
 * consumer, no lock. */
#ifndef DROMIKOS_BYTES_H
#define DROMIKOS_BYTES_H

#include "base.h"

typedef struct drom_bytes {
    uint8_t *rows;
    uint8_t size; /**< a power of two, up to 128 */
    uint8_t head; /**< written by the producer alone; free-running */
    uint8_t tail; /**< written by the consumer alone; free-running */
} drom_bytes;

/** A serial line: what came in, and what goes out. */
typedef struct drom_line {
    drom_bytes in;
    drom_bytes out;
    bool has_lost; /**< bytes came while there was no room; written by the handler alone */
} drom_line;

/** True when nothing waits. Producer or consumer. */
static inline bool drom_bytes_are_empty(const drom_bytes *bytes)
{
    return __atomic_load_n(&bytes->head, __ATOMIC_ACQUIRE) == __atomic_load_n(&bytes->tail, __ATOMIC_ACQUIRE);
}

/** How many more fit. The producer. */
static inline uint8_t drom_bytes_room(const drom_bytes *bytes)
{
    return (uint8_t)(bytes->size - (uint8_t)(bytes->head - __atomic_load_n(&bytes->tail, __ATOMIC_ACQUIRE)));
}

/** Adds a byte; false where there is no room. The producer. */
static inline bool drom_bytes_put(drom_bytes *bytes, uint8_t byte)
{
    const uint8_t head = bytes->head;
    if (drom_bytes_room(bytes) == 0) {
        return false;
    }
    bytes->rows[head & (bytes->size - 1)] = byte;
    __atomic_store_n(&bytes->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
    return true;
}

/** Takes the byte that waits longest; false where none does. The consumer. */
static inline bool drom_bytes_take(drom_bytes *bytes, uint8_t *byte)
{
    if (drom_bytes_are_empty(bytes)) {
        return false;
    }
    *byte = bytes->rows[bytes->tail & (bytes->size - 1)];
    __atomic_store_n(&bytes->tail, (uint8_t)(bytes->tail + 1), __ATOMIC_RELEASE);
    return true;
}

#endif
