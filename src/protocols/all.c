/* The list of all protocols, for a host that must know them by name. No chip links it. */
#include "dromikos/encode.h"

const drom_waveform_ref DROM_FLASH drom_waveforms[] = {
    &drom_nec_waveform,
};

const size_t drom_waveform_count = sizeof drom_waveforms / sizeof drom_waveforms[0];
