/* Presses of a handset's keys, in front of a simulated chip's receiver. */
#ifndef DROMIKOS_TESTS_AVR_PRESS_H
#define DROMIKOS_TESTS_AVR_PRESS_H

#include "chip.h"

#include "sim.h"

/* Presses a key for a time; the chip runs on until the last edge. */
void press(chip *mcu, const drom_waveform *waveform, uint32_t address, uint16_t command, unsigned held_ms);

/* The same; returns the number of edges, and their times in µs, at most `max`. */
unsigned press_noting(chip *mcu, const drom_waveform *waveform, const drom_code *code, unsigned held_ms,
                      double *at_us, unsigned max);

#endif
