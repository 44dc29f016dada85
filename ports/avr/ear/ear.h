/* The ear prints the receiver's output at 115200 baud, at 8 MHz 57600: marks '^' and spaces '_' in µs,
 * "^9000_4500^562_1687"; silence in parts of 50 ms, a line each; and '?' if edges were lost. 'dromikos
 * listen' and 'dromikos enrol' read it. The receiver's pin is in src/include/dromikos/drom_config.h. */
#ifndef DROMIKOS_EAR_H
#define DROMIKOS_EAR_H

#include <stdbool.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* The speed of the line; a chip at 8 MHz has no exact 115200. */
#if F_CPU < 16000000
#define EAR_BAUD 57600
#else
#define EAR_BAUD 115200
#endif

/* Sends a byte; false while the line has no room for it. Main's and the sketch's, as the line is theirs. */
bool ear_put_byte(uint8_t byte);

/* Starts the clock and the receiver. Call it once. */
void ear_begin(void);

/* Does one step. Call it as often as possible: at least every 20 ms. */
void ear_poll(void);

#ifdef __cplusplus
}
#endif

#endif
