/* Hardware of the simulated chip: burst sender, pixel sender, serial lines, USB, flash, guard. Private to
 * ports/sim. */
#ifndef DROMIKOS_SIM_PARTS_H
#define DROMIKOS_SIM_PARTS_H

#include "sim.h"

#include <glib.h>

enum { SIM_LINES = 2, SIM_STORE_BYTES = 1024, SIM_PAGE_BYTES = 128 };

/* One end of a serial line; the other end receives what it sends. */
typedef struct sim_end {
    drom_line *rings;
    double byte_us;
    double done_us; /* end of the byte being sent; INFINITY: none */
    uint8_t going;
} sim_end;

typedef struct sim_parts {
    GArray *runs; /* of uint16_t: the burst being sent */
    guint next_run;
    double run_ends_us; /* INFINITY: no burst is being sent */
    const uint8_t *pixels;
    uint16_t pixel_bytes;
    uint8_t pixel_pin;
    double pixels_end_us; /* INFINITY: none are being sent */
    sim_end ends[SIM_LINES];
    GArray *reports;   /* of sim_report */
    bool is_listening; /* a computer is connected and awake */
    bool is_attached;
    double report_ends_us;
    uint8_t stored[SIM_STORE_BYTES];
    double stored_us;    /* busy until then */
    uint16_t storing_at; /* the newest operation */
    uint8_t storing_count;
    uint8_t before[SIM_PAGE_BYTES]; /* the content before */
    const drom_rest_pin *image;
    bool has_acted;
    uint8_t image_count;
    double guard_us; /* longest time between two feeds; 0: the guard is off */
    double guard_due_us;
} sim_parts;

/* Adds their tables to the bench's port. */
void sim_parts_wire(sim_bench *bench);
void sim_parts_free(sim_bench *bench);

/* Returns when one of them next does something; and does it. */
double sim_parts_due(const sim_bench *bench);
void sim_parts_change(sim_bench *bench);

extern const drom_port_burst sim_burst;

/* Pixels sent by hardware. */
bool sim_bench_is_sending(void *context, uint8_t pin);
void sim_bench_begin_apart(sim_bench *bench, uint8_t pin, const uint8_t *bytes, uint16_t count);

#endif
