/* The other way: from a code to the marks and spaces that send it.
 *
 * Used by the simulated handset, and by whatever sends. Separate from the decoders so that a plan which only
 * receives links none of it. */
#ifndef DROMIKOS_ENCODE_H
#define DROMIKOS_ENCODE_H

#include "protocols.h"

typedef struct drom_waveform drom_waveform;

/** A waveform, named in a table. */
typedef const drom_waveform DROM_FLASH *drom_waveform_ref;

/** A frame on its way out. */
typedef struct drom_encoder {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t bits;
    uint8_t index; /**< of the interval that comes next */
    bool is_ditto;
} drom_encoder;

/** How a protocol is sent. */
struct drom_waveform {
    const drom_protocol DROM_FLASH *protocol;
    const void DROM_FLASH *timing;
    uint16_t (*interval_us)(
        const drom_encoder *encoder); /**< the length of interval `index`, 0 past the end */
    uint32_t (*pack)(const drom_code *code);
    uint32_t most_address;
    uint16_t most_command;
    uint8_t carrier_khz;
    bool has_ditto;
};

/** Prepares a frame. `is_repeat` makes it the frame that a held key sends after the first. DROM_BAD_ARGUMENT
 * when address or command is too large for the protocol. Main only. */
drom_status drom_encode_begin(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform,
                              const drom_code *code, bool is_repeat);

/** The next interval in µs: mark, space, mark and so on, ending with a mark; then 0. Interrupt or main. */
uint16_t drom_encode_next(drom_encoder *encoder);

/** The length of interval `index` in the pulse distance family. */
uint16_t drom_pulse_interval_us(const drom_encoder *encoder);

extern const drom_waveform DROM_FLASH drom_nec_waveform;

/** Every protocol of the library. For hosts: naming it links them all. */
extern const drom_waveform_ref DROM_FLASH drom_waveforms[];
extern const size_t drom_waveform_count;

#endif
