/* The ear prints what the receiver hears, at 115200 baud: its runs in µs, "^9000_4500^562_1687", where '^' is
 * a mark and '_' a space; silence in parts of 50 ms, a line each; and '?' where edges were lost. 'dromikos
 * listen' and 'dromikos enrol' read that. The receiver's pin is in src/include/dromikos/drom_config.h. */
#ifndef DROMIKOS_EAR_H
#define DROMIKOS_EAR_H

#ifdef __cplusplus
extern "C" {
#endif

/* Starts the clock, the receiver and the serial line. Once. */
void ear_begin(void);

/* Does a piece of what there is to do. As often as possible: 20 ms apart at most. */
void ear_poll(void);

#ifdef __cplusplus
}
#endif

#endif
