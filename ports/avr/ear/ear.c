/* Edges are taken from the capture ring while there is room for their text, which is sent byte by byte.
 * Bursts that are faster than the serial line wait in the text, and then in the ring; an edge is lost if both
 * are full. */
#include "ear.h"

#include "../avr.h"

enum {
    TEXT_BYTES = 256, /* a power of two */
    ROOM_BYTES = 16,  /* a poll writes at most this: an edge, and a part of a continuing interval */
    PART_US = 50000,
    LINE_BYTES = 72,
};

static struct {
    char text[TEXT_BYTES];
    uint16_t head; /* free-running, both */
    uint16_t tail;
    uint8_t column;
    bool is_mark;
    drom_us since; /* where the interval began, or the part that isn't printed yet */
} ear;

static void put(char letter)
{
    ear.text[ear.head++ % TEXT_BYTES] = letter;
    ear.column = letter == '\n' ? 0 : (uint8_t)(ear.column + 1);
}

static void put_run(uint16_t us)
{
    char digits[5];
    uint8_t count = 0;
    do {
        digits[count++] = (char)('0' + us % 10);
        us /= 10;
    } while (us > 0);
    put(ear.is_mark ? '^' : '_');
    while (count > 0) {
        put(digits[--count]);
    }
}

/* An edge has the low 15 bits of its time, and is more recent than their range. */
static void take_edge(void)
{
    uint16_t slot = 0;
    bool after_loss = false;
    if (!drom_ring_take(&drom_avr_engine.input.ring, &slot, &after_loss)) {
        return;
    }
    const drom_us now = drom_avr_port.clock->now(NULL);
    const drom_us at = now - (((uint16_t)now - (slot >> 1)) & 0x7fff);
    const bool is_mark = (slot & 1) != 0;
    if (after_loss) {
        put('?');
    } else if (is_mark == ear.is_mark) {
        return; /* a glitch was between */
    } else {
        put_run((uint16_t)(at - ear.since));
    }
    ear.is_mark = is_mark;
    ear.since = at;
    if (ear.column >= LINE_BYTES) {
        put('\n');
    }
}

/* A continuing interval is printed in parts. An edge that isn't in the ring now is later than `now`. */
static void take_time(void)
{
    const drom_us now = drom_avr_port.clock->now(NULL);
    if (now - ear.since >= PART_US && drom_ring_is_empty(&drom_avr_engine.input.ring)) {
        put_run(PART_US);
        put('\n');
        ear.since += PART_US;
    }
}

void ear_begin(void)
{
    drom_avr_open();
    ear.is_mark = drom_avr_line_is_active();
    ear.since = drom_avr_port.clock->now(NULL);
}

void ear_poll(void)
{
    if (ear.tail != ear.head && ear_put_byte((uint8_t)ear.text[ear.tail % TEXT_BYTES])) {
        ear.tail++;
    }
    if ((uint16_t)(ear.head - ear.tail) <= TEXT_BYTES - ROOM_BYTES) {
        take_edge();
        take_time();
    }
}
