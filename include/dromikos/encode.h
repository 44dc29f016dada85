/* Encoding: from a code to the marks and spaces of its frames. C only.
 *
 * Used by senders and by the simulated handset. Separate from the decoders, so that a plan that only receives
 * doesn't link the encoders. */
#ifndef DROMIKOS_ENCODE_H
#define DROMIKOS_ENCODE_H

#include "fault.h"
#include "protocols.h"

typedef struct drom_waveform drom_waveform;

/** A waveform, named in a table. */
typedef const drom_waveform DROM_FLASH *drom_waveform_ref;

/** A mark or a space of a frame. Two chunks of the same level form one interval. */
typedef struct drom_chunk {
    uint16_t us; /**< 0 after the last */
    bool is_mark;
} drom_chunk;

/** A frame that is being sent. */
typedef struct drom_encoder {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t bits;
    uint16_t more;    /**< the first bits of a frame of more than 32 */
    drom_chunk ahead; /**< the next chunk */
    uint8_t index;    /**< its number */
    bool is_repeat;
} drom_encoder;

/** How a protocol is sent. */
struct drom_waveform {
    const drom_protocol DROM_FLASH *protocol;
    const void DROM_FLASH *timing;
    drom_chunk (*chunk)(const drom_encoder *encoder, uint8_t index);
    void (*pack)(const drom_code *code, bool toggle, drom_encoder *encoder);
    uint32_t min_address;
    uint32_t max_address;
    uint16_t max_command;
    uint32_t boundary_gap_us; /**< from the start of the boundary frame before a press to its first frame; 0:
                                 no boundary frames */
    uint16_t boundary_address;
    uint16_t boundary_command;
    uint8_t longest_ms; /**< longest frame */
    uint8_t min_frames; /**< frames of the shortest press; 0: one */
    uint8_t carrier_khz;
};

/** A frame of a press. */
typedef enum drom_press_part {
    DROM_SEND_FIRST,    /**< the first */
    DROM_SEND_REPEAT,   /**< a repeat while the key is held */
    DROM_SEND_BOUNDARY, /**< the boundary frame before and after the press, if boundary_gap_us isn't 0 */
} drom_press_part;

/** Prepares a frame. Invert `toggle` at each press, if the protocol has a toggle bit. DROM_BAD_ARGUMENT:
 * address or command doesn't fit the protocol. Main only. */
drom_status drom_encode_begin(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform,
                              const drom_code *code, drom_press_part part, bool toggle);

/** Prepares a frame of a code that is known to fit. Main only. */
void drom_encode_start(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform, const drom_code *code,
                       drom_press_part part, bool toggle);

/** Returns the next interval in µs: mark, space, mark and so on; after the last mark 0. Interrupt or main. */
uint16_t drom_encode_next(drom_encoder *encoder);

/** The families' functions for drom_waveform.chunk. */
drom_chunk drom_pulse_chunk(const drom_encoder *encoder, uint8_t index);
drom_chunk drom_phase_chunk(const drom_encoder *encoder, uint8_t index);
drom_chunk drom_quad_chunk(const drom_encoder *encoder, uint8_t index);

/** For protocols of your own, as drom_waveform.pack: the reverse of drom_pulse_unpack_plain() and so on. The
 * toggle bit of the code itself must be 0. */
void drom_pulse_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);
void drom_phase_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);
void drom_quad_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);

/** The rows drom_nec_waveform, drom_rc5_waveform and so on. */
#define DROM_PROTOCOL(name, row, number) extern const drom_waveform DROM_FLASH drom_##row##_waveform;
#include "protocols.def.h"

/** All protocols of the library. For hosts: links all of them. */
extern const drom_waveform_ref DROM_FLASH drom_waveforms[];
extern const size_t drom_waveform_count;

#endif
