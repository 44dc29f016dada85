/* The ear prints the receiver's output at 115200 baud: marks '^' and spaces '_' in µs, "^9000_4500^562_1687";
 * silence in parts of 50 ms, a line each; and '?' if edges were lost. 'dromikos listen' and 'dromikos enrol'
 * read it. The receiver's pin is in src/include/dromikos/drom_config.h. */
#ifndef DROMIKOS_EAR_H
#define DROMIKOS_EAR_H

#ifdef __cplusplus
extern "C" {
#endif

/* Starts the clock, the receiver and the serial line. Call it once. */
void ear_begin(void);

/* Does one step. Call it as often as possible: at least every 20 ms. */
void ear_poll(void);

#ifdef __cplusplus
}
#endif

#endif
