/* The protocols that the library knows, one row each, and the figures that a row of your own needs.
 *
 * A row is linked only when a plan names it. The facts, with what each means, are in docs/protocols.md. */
#ifndef DROMIKOS_PROTOCOLS_H
#define DROMIKOS_PROTOCOLS_H

#include "receive.h"

/** Pulse distance and pulse width: a bit is a mark and a space, and the length of one of them is its value.
 * In µs, at the receiver's output. */
typedef struct drom_pulse_timing {
    uint16_t leader_mark_us; /**< 0: the frame begins with its first bit */
    uint16_t leader_space_us;
    uint16_t ditto_space_us; /**< the leader space of a ditto; 0 where the protocol has none */
    uint16_t zero_mark_us;
    uint16_t zero_space_us;
    uint16_t one_mark_us;
    uint16_t one_space_us;
    uint16_t pause_us; /**< between the two halves of a frame that is sent in two; 0 where it isn't */
    uint8_t bits;      /**< 1 to 48; of a frame in two halves, both together */
    bool is_msb_first;
    bool has_no_stop; /**< the last space is the silence after the frame; else a stop mark closes it */
    bool has_headerless_repeat; /**< a held key's repeat frames come without the leader */
    bool
        has_leader_but_once; /**< the leader comes once a press, and the stop mark stands for it afterwards */
    uint8_t toggle_bit;      /**< for drom_pulse_unpack_plain: 1 is the first that is sent; 0: none */
} drom_pulse_timing;

/** Bi-phase: a bit is a mark and a space, and which comes first is its value. */
typedef struct drom_phase_timing {
    uint16_t leader_mark_us; /**< 0: none */
    uint16_t leader_space_us;
    uint16_t unit_us;     /**< half a bit */
    uint8_t leader_units; /**< how many units the leader lasts */
    uint8_t leader_mark_units;
    uint8_t bits;            /**< the start bit included; 1 to 37 */
    uint8_t double_bit;      /**< which bit has halves of two units, from 0; 255: none */
    uint8_t first_bits_mask; /**< of the first five bits, those that are fixed */
    uint8_t first_bits;      /**< and what they are */
    bool is_one_mark_first;  /**< a one is mark, then space */
    bool is_msb_first;
    uint8_t toggle_bit; /**< for drom_phase_unpack_plain: 1 is the first that is sent; 0: none */
} drom_phase_timing;

/** Quaternary: two bits are a mark and one of four spaces that are a step apart. In µs. */
typedef struct drom_quad_timing {
    uint16_t leader_mark_us;
    uint16_t leader_space_us;
    uint16_t mark_us;
    uint16_t space_us; /**< of 00 */
    uint16_t step_us;  /**< from that of 00 to that of 01, and so on */
    uint8_t bits;      /**< 2 to 32, even, most significant first */
} drom_quad_timing;

/** The vendor word of kaseikyo that its addresses are written without. */
#define DROM_KASEIKYO_VENDOR 0x2002

/** One of the four bytes of a frame's bits; 0 is the lowest. For decoders and encoders of protocols: an 8-bit
 * chip handles bytes at a quarter of the cost. */
static inline uint8_t drom_byte(uint32_t bits, uint8_t index)
{
    return (uint8_t)(bits >> (8 * index));
}

/** The decoders of the families, and what checks their figures; a row names them as DROM_FAMILY(pulse). */
drom_step drom_pulse_step;
drom_step drom_phase_step;
drom_step drom_quad_step;
drom_accepts_timing drom_pulse_accepts;
drom_accepts_timing drom_phase_accepts;
drom_accepts_timing drom_quad_accepts;
#define DROM_FAMILY(family) .step = drom_##family##_step, .accepts = DROM_CHECKER(drom_##family##_accepts)

/** For protocols of your own: the bits are one number, whose last 16 bits are the command and the rest the
 * address. Where the least significant comes first, it is the first bit that was sent. The toggle bit counts
 * as 0. */
drom_unpack drom_pulse_unpack_plain;
drom_unpack drom_phase_unpack_plain;
drom_unpack drom_quad_unpack_plain;

/** Address and command of each: docs/protocols.md. */
extern const drom_protocol DROM_FLASH drom_nec;           /**< address 8 bits, command 8 */
extern const drom_protocol DROM_FLASH drom_nec_extended;  /**< address 16, command 8 */
extern const drom_protocol DROM_FLASH drom_nec_unchecked; /**< address 16, command 16 */
extern const drom_protocol DROM_FLASH drom_samsung32;
extern const drom_protocol DROM_FLASH drom_lg28;
extern const drom_protocol DROM_FLASH drom_jvc;
extern const drom_protocol DROM_FLASH drom_kaseikyo;
extern const drom_protocol DROM_FLASH drom_denon;
extern const drom_protocol DROM_FLASH drom_sharp;
extern const drom_protocol DROM_FLASH drom_rca;
extern const drom_protocol DROM_FLASH drom_mitsubishi;
extern const drom_protocol DROM_FLASH drom_dish;
extern const drom_protocol DROM_FLASH drom_thomson;
extern const drom_protocol DROM_FLASH drom_recs80;
extern const drom_protocol DROM_FLASH drom_sirc12;
extern const drom_protocol DROM_FLASH drom_sirc15;
extern const drom_protocol DROM_FLASH drom_sirc20;
extern const drom_protocol DROM_FLASH drom_rc5;
extern const drom_protocol DROM_FLASH drom_rc6;
extern const drom_protocol DROM_FLASH drom_rc6a;
extern const drom_protocol DROM_FLASH drom_nrc17;
extern const drom_protocol DROM_FLASH drom_rcmm12;
extern const drom_protocol DROM_FLASH drom_rcmm24;
extern const drom_protocol DROM_FLASH drom_rcmm32;

#endif
