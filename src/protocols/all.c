/* The list of all protocols, for a host that must know them by name. No chip links it. */
#include "../../include/dromikos/encode.h"

const drom_waveform_ref DROM_FLASH drom_waveforms[] = {
    &drom_nec_waveform,       &drom_nec_extended_waveform, &drom_nec_unchecked_waveform,
    &drom_samsung32_waveform, &drom_lg28_waveform,         &drom_jvc_waveform,
    &drom_kaseikyo_waveform,  &drom_denon_waveform,        &drom_sharp_waveform,
    &drom_rca_waveform,       &drom_mitsubishi_waveform,   &drom_dish_waveform,
    &drom_thomson_waveform,   &drom_recs80_waveform,       &drom_sirc12_waveform,
    &drom_sirc15_waveform,    &drom_sirc20_waveform,       &drom_rc5_waveform,
    &drom_rc6_waveform,       &drom_rc6a_waveform,         &drom_nrc17_waveform,
    &drom_rcmm12_waveform,    &drom_rcmm24_waveform,       &drom_rcmm32_waveform,
};

const size_t drom_waveform_count = sizeof drom_waveforms / sizeof drom_waveforms[0];
