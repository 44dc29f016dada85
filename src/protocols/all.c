/* All protocols, for a host that finds them by name. No chip links this list. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

const drom_waveform_ref DROM_FLASH drom_waveforms[] = {
#define DROM_PROTOCOL(name, row, number) &drom_##row##_waveform,
#include "../../include/dromikos/protocols.def.h"
};

const size_t drom_waveform_count = sizeof drom_waveforms / sizeof drom_waveforms[0];
