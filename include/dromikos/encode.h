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

/** A piece of a frame: a mark or a space. The same level twice in a row is one interval. */
typedef struct drom_chunk {
    uint16_t us; /**< 0 past the end */
    bool is_mark;
} drom_chunk;

/** A frame on its way out. */
typedef struct drom_encoder {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t bits;
    uint16_t more;    /**< the first bits, of a frame of over 32 */
    drom_chunk ahead; /**< the chunk that comes next */
    uint8_t index;    /**< and its number */
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
    uint32_t boundary_gap_us; /**< from the start of the boundary frame that begins a press to its first
                                 frame; 0: none */
    uint16_t boundary_address;
    uint16_t boundary_command;
    uint8_t longest_ms; /**< of a frame */
    uint8_t min_frames; /**< of a press, where that is more than one */
    uint8_t carrier_khz;
};

/** What to send of a press. */
typedef enum drom_press_part {
    DROM_SEND_FIRST,    /**< its first frame */
    DROM_SEND_REPEAT,   /**< one of those that follow while the key is held */
    DROM_SEND_BOUNDARY, /**< the frame that begins and ends it; only where boundary_gap_us isn't 0 */
} drom_press_part;

/** Prepares a frame. The toggle bit, where there is one, should be another at each press. DROM_BAD_ARGUMENT
 * when address or command doesn't fit the protocol. Main only. */
drom_status drom_encode_begin(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform,
                              const drom_code *code, drom_press_part part, bool toggle);

/** The same for a code that is known to fit. Main only. */
void drom_encode_start(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform, const drom_code *code,
                       drom_press_part part, bool toggle);

/** The next interval in µs: mark, space, mark and so on, ending with a mark; then 0. Interrupt or main. */
uint16_t drom_encode_next(drom_encoder *encoder);

/** The chunks of the families. */
drom_chunk drom_pulse_chunk(const drom_encoder *encoder, uint8_t index);
drom_chunk drom_phase_chunk(const drom_encoder *encoder, uint8_t index);
drom_chunk drom_quad_chunk(const drom_encoder *encoder, uint8_t index);

/** The bits of a protocol of one's own, for drom_waveform.pack: the reverse of drom_pulse_unpack_plain() and
 * so on. The toggle bit of the code itself is 0. */
void drom_pulse_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);
void drom_phase_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);
void drom_quad_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder);

extern const drom_waveform DROM_FLASH drom_nec_waveform;
extern const drom_waveform DROM_FLASH drom_nec_extended_waveform;
extern const drom_waveform DROM_FLASH drom_nec_unchecked_waveform;
extern const drom_waveform DROM_FLASH drom_samsung32_waveform;
extern const drom_waveform DROM_FLASH drom_lg28_waveform;
extern const drom_waveform DROM_FLASH drom_jvc_waveform;
extern const drom_waveform DROM_FLASH drom_kaseikyo_waveform;
extern const drom_waveform DROM_FLASH drom_denon_waveform;
extern const drom_waveform DROM_FLASH drom_sharp_waveform;
extern const drom_waveform DROM_FLASH drom_rca_waveform;
extern const drom_waveform DROM_FLASH drom_mitsubishi_waveform;
extern const drom_waveform DROM_FLASH drom_dish_waveform;
extern const drom_waveform DROM_FLASH drom_thomson_waveform;
extern const drom_waveform DROM_FLASH drom_recs80_waveform;
extern const drom_waveform DROM_FLASH drom_sirc12_waveform;
extern const drom_waveform DROM_FLASH drom_sirc15_waveform;
extern const drom_waveform DROM_FLASH drom_sirc20_waveform;
extern const drom_waveform DROM_FLASH drom_rc5_waveform;
extern const drom_waveform DROM_FLASH drom_rc6_waveform;
extern const drom_waveform DROM_FLASH drom_rc6a_waveform;
extern const drom_waveform DROM_FLASH drom_nrc17_waveform;
extern const drom_waveform DROM_FLASH drom_rcmm12_waveform;
extern const drom_waveform DROM_FLASH drom_rcmm24_waveform;
extern const drom_waveform DROM_FLASH drom_rcmm32_waveform;

/** Every protocol of the library. For hosts: naming it links them all. */
extern const drom_waveform_ref DROM_FLASH drom_waveforms[];
extern const size_t drom_waveform_count;

#endif
