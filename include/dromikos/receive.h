/* From pin edges to frames.
 *
 * The receiver drops glitches, cuts the line into intervals, and steps every decoder of the plan with each of
 * them; a decoder gives its frame as soon as the last informative edge is known. Nothing is buffered. */
#ifndef DROMIKOS_RECEIVE_H
#define DROMIKOS_RECEIVE_H

#include "intervals.h"

/** One change of the receiver's output. */
typedef struct drom_edge {
    drom_us at;      /**< when, on the port's clock */
    bool is_mark;    /**< true where a mark begins, false where it ends */
    bool after_loss; /**< edges may have been lost between the one before and this */
} drom_edge;

typedef struct drom_protocol drom_protocol;

/** A protocol, named in a table. */
typedef const drom_protocol DROM_FLASH *drom_protocol_ref;

/** The protocols by their numbers. A number never changes, so that a code that was stored stays right
 * whatever firmware reads it. */
enum {
    DROM_NO_PROTOCOL,
    DROM_NEC,
    DROM_NEC_EXTENDED,
    DROM_NEC_UNCHECKED,
    DROM_SAMSUNG32,
    DROM_LG28,
    DROM_JVC,
    DROM_KASEIKYO,
    DROM_DENON,
    DROM_SHARP,
    DROM_RCA,
    DROM_MITSUBISHI,
    DROM_DISH,
    DROM_THOMSON,
    DROM_RECS80,
    DROM_SIRC12,
    DROM_SIRC15,
    DROM_SIRC20,
    DROM_RC5,
    DROM_RC6,
    DROM_RC6A,
    DROM_NRC17,
    DROM_RCMM12,
    DROM_RCMM24,
    DROM_RCMM32,
    DROM_OWN_PROTOCOL = 128, /**< and up to 254: a program's own protocols; it numbers them */
    DROM_UNKNOWN = 255,      /**< that of drom_unknown */
};

/** What a handset says when a key is pressed. Two codes are one key when all three agree. */
typedef struct drom_code {
    uint8_t protocol; /**< its number */
    uint32_t address;
    uint16_t command;
} drom_code;

/** True when two codes are one key's. */
static inline bool drom_code_equal(const drom_code *a, const drom_code *b)
{
    return a->command == b->command && a->address == b->address && a->protocol == b->protocol;
}

/** What a frame says besides its numbers. */
typedef enum drom_frame_kind {
    DROM_FRAME_WHOLE,
    DROM_FRAME_REPEAT,     /**< "the same again", with no numbers of its own */
    DROM_FRAME_HEADERLESS, /**< has numbers, but is believed only after a whole one (jvc without its leader)
                            */
    DROM_FRAME_BOUNDARY,   /**< begins or ends a press, and is no key (nrc17) */
} drom_frame_kind;

/** One message of a handset. */
typedef struct drom_frame {
    const drom_protocol DROM_FLASH *protocol;
    drom_code code;     /**< with the protocol's number; a repeat frame and a boundary have no more of it */
    drom_us at;         /**< start of its first mark */
    drom_us lasted_us;  /**< from there to its last informative edge */
    uint16_t intervals; /**< marks and spaces of an unknown burst; else 0 */
    drom_frame_kind kind;
    uint8_t toggle;      /**< 0 or 1, where the protocol has a toggle bit */
    uint8_t margin;      /**< how far its worst bit was from being another, see drom_frame_margin() */
    uint8_t best_margin; /**< and how far from it a perfect one is */
} drom_frame;

#if DROM_WITH_OBSERVER
/** How far a frame's worst bit was from being another, in % of the way: 100 is perfect. 0 of an unknown
 * burst. */
static inline uint8_t drom_frame_margin(const drom_frame *frame)
{
    if (frame->margin >= frame->best_margin) {
        return frame->best_margin > 0 ? 100 : 0;
    }
    return (uint8_t)(frame->margin * 100u / frame->best_margin);
}
#endif

/** A mark or a space, from edge to edge; or a silence that goes on. */
typedef struct drom_interval {
    drom_us at;         /**< its start */
    uint16_t us;        /**< its length; 65535 stands for that and anything longer */
    uint16_t before_us; /**< the length of the run before it, likewise */
    uint16_t
        tolerance_us; /**< by how much more than usual these may be wrong, since interrupts were masked */
    bool is_mark;
} drom_interval;

/** What a decoder remembers between two intervals. The families use the fields as they need. */
typedef struct drom_decoder {
    drom_us at; /**< start of the frame's first mark */
    uint32_t bits;
    uint16_t more;
    uint8_t count;
    uint8_t phase;  /**< one of those below, or the family's own */
    int8_t stretch; /**< in 2 µs */
    uint8_t margin; /**< how far the worst bit was from being another, in 8 µs; 255: none */
} drom_decoder;

enum {
    DROM_PHASE_IDLE,
    DROM_PHASE_WAIT,  /**< all bits are in, and only silence can show that there are no more */
    DROM_PHASE_PAUSE, /**< a long space belongs to the frame */
    DROM_PHASE_OWN,   /**< the first of the family's own */
};

typedef enum drom_heard {
    DROM_NOTHING,
    DROM_FRAME, /**< the frame is complete */
    DROM_MAYBE, /**< it is, unless a longer one begins alike: only silence will show */
} drom_heard;

/** Advances a decoder by one interval. After DROM_FRAME and DROM_MAYBE, `frame` is filled. After DROM_MAYBE
 * the decoder goes on to DROM_PHASE_WAIT: it is stepped again when the silence after the frame has come, and
 * then says DROM_FRAME; where an edge comes first it isn't, and is idle. */
typedef drom_heard drom_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                             const drom_interval *interval, drom_frame *frame);

/** True when a family's figures make sense: nothing in them divides by zero, or takes more bits than there
 * are. */
typedef bool drom_accepts_timing(const void DROM_FLASH *timing);

/** Turns a decoder's bits into the numbers and toggle of a frame, or its kind. False when its redundancy
 * doesn't fit: then it is no frame. */
typedef bool drom_unpack(const drom_decoder *decoder, drom_frame *frame);

/** The name of a protocol in its row: an array of characters that lies in flash, of at most 11 letters.
 * Without an observer, no code asks for it. */
#define DROM_ID(name) (DROM_WITH_OBSERVER ? (name) : NULL)

/** A protocol, as the receiver needs it. */
struct drom_protocol {
    const char DROM_FLASH *id;     /**< as in plans, sheets and output */
    uint8_t number;                /**< as in codes: 1 to 254, and no other's of the plan */
    drom_step *step;               /**< the decoder family */
    drom_accepts_timing *accepts;  /**< the family's check of its figures; null: they are right */
    const void DROM_FLASH *timing; /**< the family's own row of figures */
    drom_unpack *unpack;
    uint16_t glitch_us;         /**< a run shorter than this can't be part of a frame */
    uint16_t first_mark_min_us; /**< a frame begins with a mark from this */
    uint16_t first_mark_max_us; /**< to this */
    uint16_t lead_in_us;        /**< and, where it has no leader, after a space of at least this */
    uint16_t silence_us;        /**< after this much silence no frame of its group goes on */
    uint32_t period_us;         /**< of a held key's frames, start to start; 0: gap_us counts */
    uint32_t gap_us;            /**< from the end of a frame to the start of the next */
    uint8_t group;              /**< protocols of one group (not 0) begin alike, and differ in length */
    uint8_t length;             /**< in bits */
    uint8_t min_ms;             /**< of a whole frame, up to its last informative edge, with a fast clock */
    uint8_t rank;               /**< of two that claim the same frame the lower is right */
    uint8_t needs;              /**< of what can be switched off: DROM_USES_PAUSES, DROM_USES_SINGLE_LEADER */
    bool has_ditto;
    bool has_toggle;
    bool has_any_period; /**< what it says of its period is a guess */
};

/** Groups of protocols that begin alike. */
enum { DROM_GROUP_NONE, DROM_GROUP_LEADER_9MS, DROM_GROUP_SIRC, DROM_GROUP_RCMM };

/** A burst that no protocol of the plan knows comes out as a frame of this one; its address is the
 *  fingerprint. It is not listed in a plan: giving the plan a drom_fingerprint turns it on. */
extern const drom_protocol DROM_FLASH drom_unknown;

/** A burst of fewer intervals than this is a scrap of noise, and untold. */
#define DROM_UNKNOWN_MIN_INTERVALS 8

/** A run longer than this ends a burst. */
#define DROM_BURST_GAP_US 12000

/** No pause within a frame is longer, nor its halves further apart (denon). */
#define DROM_LONGEST_PAUSE_US 50000

/** A repeat frame without a code lasts at least this long. */
#define DROM_DITTO_MIN_US 10000

/** How long after a frame a repeat frame, or a headerless one, still belongs to it. */
#define DROM_DITTO_MS 500

/** Protocols whose marks may be shorter than this are listened to through a filter of their own, so that the
 * others needn't see the noise that those must. */
#define DROM_FINE_US 100

/** The memory in which the fingerprint of an unknown burst is taken; see src/receive/fingerprint.c. */
typedef struct drom_fingerprint {
    drom_us began_at; /**< the burst */
    drom_us mark_at;
    uint16_t periods[64]; /**< from mark to mark, in µs */
    uint16_t intervals;   /**< of this burst, up to now */
    uint8_t count;
    bool is_reported; /**< the burst has given a frame, or lacks a part */
} drom_fingerprint;

/** How fingerprints are taken: reached through the plan alone, so that a plan without them links none of it.
 */
typedef struct drom_fingerprinting {
    void (*take_run)(drom_fingerprint *fingerprint, const drom_interval *run, drom_us ended_at);
    bool (*end_burst)(drom_fingerprint *fingerprint, drom_us ended_at, drom_frame *frame);
} drom_fingerprinting;

extern const drom_fingerprinting DROM_FLASH drom_fingerprints;

/** For `unknown` of drom_receive_plan: bursts of no known protocol are reported. `memory` is a
 * drom_fingerprint.
 */
#define DROM_FINGERPRINTS(memory_of)                                                                         \
    {                                                                                                        \
        .functions = &drom_fingerprints, .memory = 1 ? &(memory_of) : (drom_fingerprint *)NULL               \
    }

/** The line without its glitches, as the protocols behind it see it. */
typedef struct drom_filter {
    drom_interval run;     /**< that the line is in; its length is set when it is over */
    drom_us pending_at;    /**< an edge that may yet turn out to be a glitch */
    uint16_t glitch_us;    /**< the smallest glitch_us of the protocols behind it */
    uint16_t awaited_us;   /**< the shortest silence that a decoder behind it waits for; 65535: none does */
    uint8_t tolerant_runs; /**< for how many runs their tolerance still counts */
    uint8_t age;           /**< of the run: src/receive/receiver.c */
    uint8_t row;           /**< the decoder that gets the run's end next; 0: none does */
    bool is_pending;
} drom_filter;

/** What a plan says to the receiver. */
typedef struct drom_receive_plan {
    DROM_TABLE(drom_protocol_ref) protocols; /**< the protocols to listen for */
    drom_decoder *decoders;                  /**< as many as protocols */
    drom_interval_ring *intervals;           /**< wanted where the port measures intervals; else null */
    drom_filter *fine; /**< wanted where some protocol's glitch_us is below DROM_FINE_US; else null */
    struct {
        const drom_fingerprinting DROM_FLASH *functions;
        drom_fingerprint *memory; /**< null: unknown bursts go untold */
    } unknown;
} drom_receive_plan;

typedef struct drom_receiver {
    const drom_receive_plan DROM_FLASH *plan;
    const drom_protocol DROM_FLASH *repeat_of; /**< whose repeat frames are believed */
    drom_deadline repeat_until;
    drom_filter usual;
} drom_receiver;

/** Starts a receiver on a quiet line. Main only. */
void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan);

/** Informs the receiver that time has come to `now`. True when that completed a frame; call it again, with
 * the same time, until it says false. Times must not go backwards. Main only. */
bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame);

/** How far a receiver has come. */
typedef enum drom_progress {
    DROM_UP_TO_DATE, /**< it knows all that can be known by now */
    DROM_CAUGHT_UP,  /**< likewise, and that took some time */
    DROM_GOES_ON,    /**< there is more to do; give it no edge before */
    DROM_HEARD,      /**< a frame is complete, and there may be more to do */
} drom_progress;

/** Does a piece of that: gives at most two decoders the end of a run, so that a poll stays short whatever
 * the number of protocols. `frame` must be the same, and left alone, until it is up to date. Main only. */
drom_progress drom_receiver_step(drom_receiver *receiver, drom_us now, drom_frame *frame);

/** Gives the receiver an edge. Advance it to the time of the edge first. `tolerance_us`: by how much more
 * than usual its time may be wrong, either way; 0 where a timer latched it. Main only. */
void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge, uint16_t tolerance_us);

/** True when some protocol's frame has begun and isn't over. Main only. */
bool drom_receiver_is_within(const drom_receiver *receiver);

/** In how many µs at the soonest a frame may be complete, whether it has begun or not. Main only. */
drom_wait drom_receiver_soonest(const drom_receiver *receiver, drom_us now);

/** The wait in µs until it must be advanced though no edge comes; DROM_LONG on a quiet line. */
drom_wait drom_receiver_wait(const drom_receiver *receiver, drom_us now);

#endif
