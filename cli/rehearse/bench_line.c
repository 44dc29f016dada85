/* A bench's line may carry several handsets at once; a capture has one level. */
#include "cli/rehearse/bench_line.h"

void write_line(FILE *out, sim_bench *bench, capture_format format)
{
    enum { QUIET_END_US = 200000 };
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    int marks = 0;
    capture_write_head(out, format);
    for (size_t i = 0; i < count; i++) {
        const bool was_mark = marks > 0;
        marks += edges[i].is_mark ? 1 : -1;
        if ((marks > 0) != was_mark) {
            capture_write_edge(out, format, &(capture_edge){.at_us = edges[i].at_us, .is_mark = marks > 0});
        }
    }
    capture_write_end(out, format, (count > 0 ? edges[count - 1].at_us : 0) + QUIET_END_US);
}
