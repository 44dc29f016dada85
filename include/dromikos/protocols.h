/* The protocols of the library, one row each; and what a protocol of your own needs. C only.
 *
 * A row is linked only if a plan names it. docs/protocols.md has the facts and what each figure means. */
#ifndef DROMIKOS_PROTOCOLS_H
#define DROMIKOS_PROTOCOLS_H

#include "events.h"
#include "internal/tables.h"

/** The state of a decoder between two intervals. Each family uses the fields as it needs them. */
typedef struct drom_decoder {
    drom_us at; /**< start of the frame's first mark */
    uint32_t bits;
    uint16_t more;
    uint8_t count;
    uint8_t phase;  /**< one of those below, or the family's own */
    int8_t stretch; /**< in 2 µs */
    uint8_t margin; /**< distance of the worst bit from a different value, in 8 µs; 255: none yet */
} drom_decoder;

enum {
    DROM_PHASE_IDLE,
    DROM_PHASE_WAIT,  /**< all bits are received; the frame ends if silence follows */
    DROM_PHASE_PAUSE, /**< in a long space within the frame */
    DROM_PHASE_OWN,   /**< first phase of the family */
};

/** What a decoder has found. */
typedef enum drom_heard {
    DROM_NOTHING,
    DROM_FRAME, /**< a complete frame */
    DROM_MAYBE, /**< a complete frame, unless it is the beginning of a longer one: silence decides */
} drom_heard;

/** Advances a decoder by one interval. Fills `frame` if it returns DROM_FRAME or DROM_MAYBE. After DROM_MAYBE
 * the decoder must be in DROM_PHASE_WAIT: it is called again with the silence after the frame, and then
 * returns DROM_FRAME; if an edge comes first, the decoder is reset to idle. */
typedef drom_heard drom_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                             const drom_interval *interval, drom_frame *frame);

/** True if a family can use these figures: no division by zero, no more bits than it can hold. */
typedef bool drom_accepts_timing(const void DROM_FLASH *timing);

/** Converts a decoder's bits to code and toggle bit of a frame, or sets the frame's kind. False if a checksum
 * or a fixed bit is wrong: then there is no frame. */
typedef bool drom_unpack(const drom_decoder *decoder, drom_frame *frame);

/** The name of a protocol, for its row: an array of at most 11 letters in flash. Not linked without an
 * observer. */
#define DROM_ID(name) (DROM_WITH_OBSERVER ? (name) : NULL)

/** How a protocol is received. */
struct drom_protocol {
    const char DROM_FLASH *id;     /**< its name in plans, sheets and output */
    uint8_t number;                /**< in codes: 1 to 254, unique within the plan */
    drom_step *step;               /**< the decoder family */
    drom_accepts_timing *accepts;  /**< the family's check of `timing`; null: not checked */
    const void DROM_FLASH *timing; /**< the figures of the family */
    drom_unpack *unpack;
    uint16_t glitch_us;         /**< shorter marks and spaces are filtered as glitches */
    uint16_t first_mark_min_us; /**< shortest first mark */
    uint16_t first_mark_max_us; /**< longest first mark */
    uint16_t lead_in_us;        /**< shortest space before a frame without a leader */
    uint16_t silence_us;        /**< a space of this length ends a frame of its group */
    uint32_t period_us;         /**< from start to start of a held key's frames; 0: see gap_us */
    uint32_t gap_us;            /**< from the end of a frame to the start of the next */
    uint8_t group;              /**< protocols of a group (not 0) begin alike and differ in length */
    uint8_t length;             /**< in bits */
    uint8_t min_ms;             /**< shortest time from first to last informative edge, with a fast clock */
    uint8_t rank;               /**< priority if two protocols match a frame; the lower wins */
    uint32_t needs;             /**< features: DROM_USES(PAUSES), DROM_USES(SINGLE_LEADER) */
    bool has_ditto;
    bool has_toggle;
    bool has_any_period; /**< the period is a guess */
};

/** A protocol, named in a table. */
typedef const drom_protocol DROM_FLASH *drom_protocol_ref;

/** Groups of protocols that begin alike. */
enum { DROM_GROUP_NONE, DROM_GROUP_LEADER_9MS, DROM_GROUP_SIRC, DROM_GROUP_RCMM };

/** Pulse distance and pulse width: a bit is a mark and a space, one of which depends on the bit's value. In
 * µs, at the receiver's output. */
typedef struct drom_pulse_timing {
    uint16_t leader_mark_us; /**< 0: the frame begins with its first bit */
    uint16_t leader_space_us;
    uint16_t ditto_space_us; /**< leader space of a ditto; 0: no dittos */
    uint16_t zero_mark_us;
    uint16_t zero_space_us;
    uint16_t one_mark_us;
    uint16_t one_space_us;
    uint16_t pause_us; /**< between the two halves of a frame; 0: the frame has no halves */
    uint8_t bits;      /**< 1 to 48; of both halves together */
    bool is_msb_first;
    bool has_no_stop; /**< the last space is the silence after the frame; else a stop mark ends it */
    bool has_headerless_repeat; /**< repeats of a held key have no leader */
    bool has_leader_but_once;   /**< one leader per press; the stop mark replaces it in later frames */
    uint8_t toggle_bit;         /**< for drom_pulse_unpack_plain(): 1 is the first bit sent; 0: none */
} drom_pulse_timing;

/** Bi-phase: a bit is a mark and a space, whose order is the bit's value. */
typedef struct drom_phase_timing {
    uint16_t leader_mark_us; /**< 0: no leader */
    uint16_t leader_space_us;
    uint16_t unit_us;     /**< half a bit */
    uint8_t leader_units; /**< length of the leader, in units */
    uint8_t leader_mark_units;
    uint8_t bits;            /**< with the start bit; 1 to 37 */
    uint8_t double_bit;      /**< number of the bit with halves of two units, from 0; DROM_NONE: none */
    uint8_t first_bits_mask; /**< which of the first five bits are fixed */
    uint8_t first_bits;      /**< their values */
    bool is_one_mark_first;  /**< a one is mark, then space */
    bool is_msb_first;
    uint8_t toggle_bit; /**< for drom_phase_unpack_plain(): 1 is the first bit sent; 0: none */
} drom_phase_timing;

/** Quaternary: two bits are a mark and one of four spaces. In µs. */
typedef struct drom_quad_timing {
    uint16_t leader_mark_us;
    uint16_t leader_space_us;
    uint16_t mark_us;
    uint16_t space_us; /**< for 00 */
    uint16_t step_us;  /**< difference between the spaces of 00 and 01, 01 and 10, 10 and 11 */
    uint8_t bits;      /**< 2 to 32, even; most significant first */
} drom_quad_timing;

/** The vendor word of kaseikyo; addresses with this vendor are written without it. */
#define DROM_KASEIKYO_VENDOR 0x2002

/** Returns one of the four bytes of a frame's bits; 0 is the lowest. For decoders and encoders: an 8-bit chip
 * handles bytes at a quarter of the cost. */
static inline uint8_t drom_byte(uint32_t bits, uint8_t index)
{
    return (uint8_t)(bits >> (8 * index));
}

/** The decoder families and the checks of their figures. A row names them as DROM_FAMILY(pulse). */
drom_step drom_pulse_step;
drom_step drom_phase_step;
drom_step drom_quad_step;
drom_accepts_timing drom_pulse_accepts;
drom_accepts_timing drom_phase_accepts;
drom_accepts_timing drom_quad_accepts;
#define DROM_FAMILY(family) .step = drom_##family##_step, .accepts = DROM_CHECKER(drom_##family##_accepts)

/** For protocols of your own: the bits are one number, the last 16 bits the command and the rest the address.
 * If the least significant bit is sent first, bit 0 is the first bit sent. The toggle bit counts as 0. */
drom_unpack drom_pulse_unpack_plain;
drom_unpack drom_phase_unpack_plain;
drom_unpack drom_quad_unpack_plain;

/** The rows drom_nec, drom_rc5 and so on. */
#define DROM_PROTOCOL(name, row, number) extern const drom_protocol DROM_FLASH drom_##row;
#include "protocols.def.h"

/** The protocol of bursts that no protocol of the plan matches: `address` is a fingerprint. Not listed in a
 * plan; a plan with DROM_FINGERPRINTS reports such bursts. */
extern const drom_protocol DROM_FLASH drom_unknown;

/** Bursts of fewer intervals are treated as noise and not reported. */
#define DROM_UNKNOWN_MIN_INTERVALS 8

#endif
