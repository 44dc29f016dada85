#include "chart/dissection.h"

#include <math.h>

static const drom_waveform *waveform_of(const drom_frame *frame)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        if (drom_waveforms[i]->protocol->number == frame->protocol->number) {
            return drom_waveforms[i];
        }
    }
    return NULL;
}

bool dissection_begin(dissection *begun, const heard_line *line, const heard_frame *heard)
{
    const drom_waveform *const waveform = waveform_of(&heard->frame);
    *begun = (dissection){.line = line, .heard = heard};
    if (heard->frame.kind != DROM_FRAME_WHOLE || waveform == NULL || waveform->pack == NULL) {
        return false;
    }
    while (begun->first_edge < line->edges->len &&
           heard_edge(line, begun->first_edge)->at_us < heard->at_us) {
        begun->first_edge++;
    }
    anatomy parts = anatomy_of(waveform, &heard->frame.code, heard->frame.toggle != 0);
    begun->parts = parts;
    if (begun->first_edge + parts.runs->len >= line->edges->len + 1) {
        anatomy_clear(&parts);
        return false;
    }
    return true;
}

double dissection_edge_us(const dissection *frame, guint run)
{
    return (double)heard_edge(frame->line, MIN(frame->first_edge + run, frame->line->edges->len - 1))->at_us;
}

double dissection_us(const dissection *frame, double nominal_us)
{
    double run_from = 0;
    for (guint run = 0; run < frame->parts.runs->len; run++) {
        const double us = g_array_index(frame->parts.runs, double, run);
        if (nominal_us < run_from + us) {
            const double share = (nominal_us - run_from) / us;
            return dissection_edge_us(frame, run) +
                   share * (dissection_edge_us(frame, run + 1) - dissection_edge_us(frame, run));
        }
        run_from += us;
    }
    return dissection_edge_us(frame, frame->parts.runs->len) + nominal_us - run_from;
}

/* The margin of an interval with a nominal length of `wanted_us`, which would be another bit at `other_us`.
 */
static bit_margin margin_of_run(const dissection *frame, guint run, double wanted_us, double other_us)
{
    const double actual_us = dissection_edge_us(frame, run + 1) - dissection_edge_us(frame, run);
    const double middle_us = (wanted_us + other_us) / 2;
    const double from_middle = wanted_us > other_us ? actual_us - middle_us : middle_us - actual_us;
    const double share = from_middle / (fabs(wanted_us - other_us) / 2);
    return (bit_margin){(int)lround(CLAMP(share, 0, 1) * 100), run, middle_us};
}

/* If the order of mark and space decides the bit: the edge in its middle is between two intervals, of one
 * half bit or two, and the worse one counts. */
static bit_margin margin_in_middle(const dissection *frame, const frame_cell *cell)
{
    const double half_us = (cell->until_us - cell->from_us) / 2;
    const double middle_us = cell->from_us + half_us;
    bit_margin worst = {.percent = -1};
    double edge = 0;
    for (guint run = 0; run < frame->parts.runs->len; run++) {
        const double wanted_us = g_array_index(frame->parts.runs, double, run);
        const bool is_beside =
            fabs(edge - middle_us) < half_us / 8 || fabs(edge + wanted_us - middle_us) < half_us / 8;
        const bool is_two = wanted_us > 1.5 * half_us;
        edge += wanted_us;
        if (!is_beside || wanted_us > 2.5 * half_us) { /* a leader's, or the silence after the frame */
            continue;
        }
        const bit_margin margin = margin_of_run(frame, run, wanted_us, half_us * (is_two ? 1 : 2));
        worst = worst.percent < 0 || margin.percent < worst.percent ? margin : worst;
    }
    return worst;
}

bit_margin dissection_margin(const dissection *frame, const frame_cell *cell)
{
    return cell->run < 0 || fabs(cell->other_us - cell->run_us) < 1
               ? margin_in_middle(frame, cell)
               : margin_of_run(frame, (guint)cell->run, cell->run_us, cell->other_us);
}
