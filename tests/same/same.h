/* A plan's behaviour at its pins, and their input: for comparing a rehearsed plan, the same plan baked, and
 * the chip with its program. A stimulus is a text: lines "wire KIND PIN COUNT" (level, pwm, carrier, strip;
 * COUNT is a strip's pixels), "line US 0|1" (a handset transmits), "contact US PIN 0|1" (it is closed),
 * "receiver PIN" and "end US". So is a trace: "US PIN VALUE" by pins and times, for each change of a value: a
 * level, a duty of 255, 1 where a burst begins, or a checksum of a strip's picture; "US report BYTES" and "US
 * action OUTPUT VERB VALUE". */
#ifndef DROMIKOS_TESTS_SAME_H
#define DROMIKOS_TESTS_SAME_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

enum { SAME_PINS = 72, SAME_MAX_EVENTS = 100000, SAME_DARK_US = 8000 };

typedef enum same_kind { SAME_NONE, SAME_LEVEL, SAME_PWM, SAME_CARRIER, SAME_STRIP } same_kind;

typedef struct same_event {
    uint64_t at_us;
    bool is_contact;
    uint8_t pin;
    bool is_on;
} same_event;

typedef struct same_stimulus {
    same_kind kinds[SAME_PINS];
    unsigned pixels[SAME_PINS];
    bool is_contact[SAME_PINS];
    unsigned receiver;
    uint64_t end_us;
    same_event *events;
    unsigned count;
} same_stimulus;

/* Ends the program with a message if the file can't be read. */
same_stimulus same_read(const char *path);

/* The traces of all pins. */
typedef struct same_change {
    uint64_t at_us;
    unsigned value;
} same_change;

typedef struct same_trace {
    same_change *changes[SAME_PINS];
    unsigned counts[SAME_PINS];
} same_trace;

/* Notes a value that differs from the pin's newest. A pin without a value counts as 0. */
void same_note(same_trace *trace, unsigned pin, uint64_t at_us, unsigned value);
void same_print(const same_trace *trace);

unsigned same_checksum(const uint8_t *bytes, unsigned count);

#endif
