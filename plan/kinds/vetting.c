/* The figures that several checks need: delays of edges, and the times of protocols. */
#include "plan/kinds/vetting.h"

#include "trial.h"

void vet_free_finding(gpointer data)
{
    vet_finding *const finding = data;
    g_free(finding->about);
    g_free(finding->what);
    g_free(finding->way_out);
    g_free(finding);
}

void vet_add(GPtrArray *list, vet_verdict verdict, const char *about, const char *what, double there,
             double needed, const char *unit, char *way_out)
{
    vet_finding *const finding = g_new0(vet_finding, 1);
    *finding = (vet_finding){verdict, g_strdup(about), g_strdup(what), needed, there, unit, NULL};
    if (verdict == VET_FITS) {
        g_free(way_out);
    } else {
        finding->way_out = way_out;
    }
    g_ptr_array_add(list, finding);
}

double vet_shortest_run_us(const plan *loaded, const drom_protocol *protocol)
{
    const drom_waveform *const waveform = plan_waveform(loaded, protocol->number);
    uint16_t shortest_us = UINT16_MAX;
    for (uint16_t command = 0; waveform != NULL && waveform->pack != NULL && command < 64; command++) {
        const drom_code code = {protocol->number, waveform->min_address,
                                (uint16_t)(command * 37u & waveform->max_command)};
        drom_encoder encoder;
        if (drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, false) != DROM_OK) {
            continue;
        }
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            shortest_us = MIN(shortest_us, us);
        }
    }
    return shortest_us == UINT16_MAX ? 0 : shortest_us;
}

bool vet_uses(const vetting *job, uint32_t needs)
{
    bool has = false;
    for (unsigned i = 0; i < plan_output_count(job->plan); i++) {
        has |= (plan_output(job->plan, i)->kind->needs & needs) != 0;
    }
    return has;
}

bool vet_has_timed_edges(const vetting *job)
{
    return vet_uses(job, DROM_USES(TIMED_EDGES) | DROM_USES(CARRIER));
}

double vet_masked_us(const vetting *job)
{
    const bool has_strip = vet_uses(job, DROM_USES(PIXELS)) && !job->board.sends_by_itself;
    const double port_us = has_strip || job->board.sends_by_itself ? job->board.masked_us : 2;
    const double hid_us = vet_uses(job, DROM_USES(HID)) ? job->board.hid_us : 0;
    return MAX(MAX(port_us, hid_us), job->plan->source->own_masks_us);
}

double vet_longest_wait_us(const vetting *job)
{
    return vet_masked_us(job) + (vet_has_timed_edges(job) ? job->board.alarm_us : 0) + job->board.capture_us;
}

bool vet_is_swallowed(const vetting *job, double run_us)
{
    return vet_masked_us(job) > run_us;
}

double vet_bearable_us(const drom_protocol *protocol)
{
    return 2 * sim_limit_of(protocol->id).jitter_us;
}

vet_verdict vet_when_late(const vetting *job, const drom_protocol *protocol)
{
    return vet_is_swallowed(job, vet_shortest_run_us(job->plan, protocol)) ? VET_FAILS : VET_TIGHT;
}
