/* Writes captures. */
#include "capture/capture.h"

void capture_write_head(FILE *out, capture_format format)
{
    static const char *const heads[] = {
        [CAPTURE_VCD] = "$comment the output of an infrared receiver: low during a mark $end\n"
                        "$timescale 1 us $end\n$scope module bench $end\n$var wire 1 ! receiver $end\n"
                        "$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n1!\n$end\n",
        [CAPTURE_CSV] = "t_us,receiver\n0,1\n",
    };
    (void)fputs(heads[format], out);
}

void capture_write_edge(FILE *out, capture_format format, const capture_edge *edge)
{
    const int level = edge->is_mark ? 0 : 1;
    if (format == CAPTURE_VCD) {
        (void)fprintf(out, "#%" G_GUINT64_FORMAT "\n%d!\n", edge->at_us, level);
    } else {
        (void)fprintf(out, "%" G_GUINT64_FORMAT ",%d\n", edge->at_us, level);
    }
}

void capture_write_end(FILE *out, capture_format format, uint64_t at_us)
{
    if (format == CAPTURE_VCD) {
        (void)fprintf(out, "#%" G_GUINT64_FORMAT "\n", at_us);
    } else {
        (void)fprintf(out, "%" G_GUINT64_FORMAT ",1\n", at_us);
    }
}
