/* A protocol that a plan declares: its figures, and its rows to receive and to send. */
#ifndef DROMIKOS_PLAN_DECLARED_H
#define DROMIKOS_PLAN_DECLARED_H

#include "plan/text/report.h"

#include "dromikos/encode.h"

/* The figures of the plan. 0: not given. */
typedef struct declared_figures {
    uint32_t leader_mark_us;
    uint32_t leader_space_us;
    uint32_t zero_mark_us;
    uint32_t zero_space_us;
    uint32_t one_mark_us;
    uint32_t one_space_us;
    uint32_t ditto_space_us;
    uint32_t phase_us;     /* half a bit, of a bi-phase protocol */
    uint32_t quad_mark_us; /* of a quaternary protocol */
    uint32_t quad_space_us;
    uint32_t quad_step_us;
    uint32_t bits;
    uint32_t toggle_bit; /* 1 is the first bit sent */
    uint32_t wide_bit;   /* of a bi-phase protocol, the bit with halves of two units; 1 is the first */
    uint32_t period_ms;
    uint32_t gap_ms;
    uint32_t carrier_khz; /* 0: the default */
    bool is_lsb_first;
    bool has_no_stop;
    bool is_one_space_first;
} declared_figures;

typedef struct declared_protocol {
    declared_figures figures;
    char id[12];
    drom_protocol protocol;
    drom_waveform waveform; /* without a pack function if it can't be sent */
    drom_pulse_timing pulse;
    drom_phase_timing phase;
    drom_quad_timing quad;
} declared_protocol;

/* Fills the rows from the figures. Returns NULL, or the error. */
const char *declared_fill(declared_protocol *own, const char *name);

/* Returns NULL if a receiver decodes a sent code as that code, with a clock up to 3 % off; else the reason.
 */
const char *declared_misread(const drom_waveform *waveform, const drom_code *code);

/* Returns the figures as a line of a plan. To be freed. */
char *declared_text(const declared_figures *figures, const char *name);

#endif
