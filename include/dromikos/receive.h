/* From pin edges to frames.
 *
 * The receiver drops glitches, cuts the line into intervals, and steps every decoder of the plan with each of
 * them; a decoder gives its frame as soon as the last informative edge is known. Nothing is buffered. */
#ifndef DROMIKOS_RECEIVE_H
#define DROMIKOS_RECEIVE_H

#include "ring.h"

typedef struct drom_protocol drom_protocol;

/** A protocol, named in a table. */
typedef const drom_protocol DROM_FLASH *drom_protocol_ref;

/** What a handset says when a key is pressed. Two codes are one key when all three agree. */
typedef struct drom_code {
    const drom_protocol DROM_FLASH *protocol;
    uint32_t address;
    uint16_t command;
} drom_code;

/** True when two codes are one key's. */
static inline bool drom_code_equal(const drom_code *a, const drom_code *b)
{
    return a->command == b->command && a->address == b->address && a->protocol == b->protocol;
}

/** One message of a handset. */
typedef struct drom_frame {
    drom_code code;     /**< in a ditto only the protocol holds */
    drom_us at;         /**< start of its first mark */
    uint16_t intervals; /**< marks and spaces since the burst began */
    bool is_ditto;      /**< "the same again", with no numbers of its own */
} drom_frame;

/** A mark or a space, from edge to edge. */
typedef struct drom_interval {
    drom_us at;  /**< its start */
    uint16_t us; /**< its length; 65535 stands for that and anything longer */
    bool is_mark;
} drom_interval;

/** What a decoder remembers between two intervals. `phase` 0 is idle in every family. */
typedef struct drom_decoder {
    drom_us at;
    uint32_t bits;
    uint16_t mark_us;
    uint8_t count;
    uint8_t phase;
} drom_decoder;

/** Advances a decoder by one interval. True when that completed a frame, which is then in `frame`. */
typedef bool drom_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                       const drom_interval *interval, drom_frame *frame);

/** Turns a frame's bits into address and command. False when its redundancy doesn't fit: then it is no frame.
 */
typedef bool drom_unpack(uint32_t bits, drom_code *code);

/** A protocol, as the receiver needs it. */
struct drom_protocol {
    char id[12];                   /**< as in plans, sheets and output */
    drom_step *step;               /**< the decoder family */
    const void DROM_FLASH *timing; /**< the family's own row of figures */
    drom_unpack *unpack;
    uint16_t glitch_us;  /**< a run shorter than this can't be part of a frame */
    uint16_t period_ms;  /**< of a held key's frames, start to start */
    uint16_t release_ms; /**< a key unheard for this long is released: two periods and a frame, 10 % slow */
};

/** A burst that no protocol of the plan knows comes out as a frame of this one; its address is the
 *  fingerprint. It is not listed in a plan: giving the plan a drom_fingerprint turns it on. */
extern const drom_protocol DROM_FLASH drom_unknown;

/** A burst of fewer intervals than this is a scrap of noise, and untold. */
#define DROM_UNKNOWN_LEAST_INTERVALS 8

/** A run longer than this is within no frame: it ends a burst. */
#define DROM_BURST_GAP_US 12000

/** How long after a frame a ditto still belongs to it. */
#define DROM_DITTO_MS 500

/** The memory in which the fingerprint of an unknown burst is taken; see src/receive/fingerprint.c. */
typedef struct drom_fingerprint {
    drom_us mark_at;
    uint16_t periods[64]; /**< from mark to mark, in µs */
    uint8_t count;
} drom_fingerprint;

/** What a plan says to the receiver. */
typedef struct drom_receive_plan {
    DROM_TABLE(drom_protocol_ref) protocols; /**< the protocols to listen for */
    drom_decoder *decoders;                  /**< as many as protocols */
    drom_edge *edges;                        /**< slots of the capture ring */
    uint8_t edge_count;                      /**< a power of two, 2 to 128 */
    drom_fingerprint *fingerprint;           /**< null: unknown bursts go untold */
} drom_receive_plan;

typedef struct drom_receiver {
    const drom_receive_plan DROM_FLASH *plan;
    const drom_protocol DROM_FLASH *ditto_of; /**< whose dittos are believed */
    drom_deadline ditto_until;
    drom_us since;      /**< start of the run that the line is in */
    drom_us pending_at; /**< an edge that may yet turn out to be a glitch */
    drom_us burst_at;
    uint16_t glitch_us;
    uint16_t intervals; /**< of this burst, up to now */
    bool is_mark;       /**< the level of the run */
    bool is_pending;
    bool is_long;       /**< the run is over DROM_BURST_GAP_US: its length is no longer told */
    bool is_recognised; /**< this burst has given a frame */
} drom_receiver;

/** Starts a receiver on a quiet line. Main only. */
void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan);

/** Tells the receiver that time has come to `now`. True when that completed a frame; call it again, with the
 *  same time, until it says false. Times must not go backwards. Main only. */
bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame);

/** Gives the receiver an edge. Advance it to the time of the edge first. Main only. */
void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge);

/** The wait in µs until it must be advanced though no edge comes; DROM_NEVER on a quiet line. */
drom_us drom_receiver_wait(const drom_receiver *receiver, drom_us now);

/** True while the line is in the middle of something. */
bool drom_receiver_is_busy(const drom_receiver *receiver);

#endif
