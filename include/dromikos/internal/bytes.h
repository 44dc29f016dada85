/* Byte rings between main and the handlers of a serial line: one producer, one consumer, no lock. */
#ifndef DROMIKOS_INTERNAL_BYTES_H
#define DROMIKOS_INTERNAL_BYTES_H

#include "../config.h"

typedef struct drom_bytes {
    uint8_t *rows;
    uint8_t size; /**< a power of two, up to 128 */
    uint8_t head; /**< written by the producer; free-running */
    uint8_t tail; /**< written by the consumer; free-running */
} drom_bytes;

/** A serial line: received bytes, and bytes to send. */
typedef struct drom_line {
    drom_bytes in;
    drom_bytes out;
    bool has_lost; /**< bytes were received while `in` was full; written by the handler */
} drom_line;

/** True if the ring is empty. Producer or consumer. */
static inline bool drom_bytes_are_empty(const drom_bytes *bytes)
{
    return __atomic_load_n(&bytes->head, __ATOMIC_ACQUIRE) == __atomic_load_n(&bytes->tail, __ATOMIC_ACQUIRE);
}

/** Returns the number of free places. Producer. */
static inline uint8_t drom_bytes_room(const drom_bytes *bytes)
{
    return (uint8_t)(bytes->size - (uint8_t)(bytes->head - __atomic_load_n(&bytes->tail, __ATOMIC_ACQUIRE)));
}

/** Adds a byte; false if the ring is full. Producer. */
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

/** Takes the oldest byte; false if the ring is empty. Consumer. */
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
