/* A bench's line as a capture. */
#ifndef DROMIKOS_CLI_BENCH_LINE_H
#define DROMIKOS_CLI_BENCH_LINE_H

#include "capture/capture.h"

#include "sim.h"

/* Writes all future edges, and a silence after them. */
void write_line(FILE *out, sim_bench *bench, capture_format format);

#endif
