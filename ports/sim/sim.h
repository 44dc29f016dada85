/* The simulated bench: a world in which a plan runs, in virtual time, the same at each run from one seed.
 *
 *     sim_bench *bench = sim_bench_new(1);
 *     drom_engine_init(&engine, &plan, sim_bench_port(bench), &fault);
 *     sim_bench_wire_engine(bench, &engine);
 *     sim_bench_press(bench, &press);
 *     while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
 *     }
 *     sim_bench_free(bench);
 *
 * Host only. Runs out of memory by ending the program with a message, as GLib does. */
#ifndef DROMIKOS_SIM_H
#define DROMIKOS_SIM_H

#include "../../include/dromikos/engine.h"

#ifdef __cplusplus
extern "C" {
/* The part of encode.h that presses need: tables are C, but a host has no flash. */
typedef struct drom_waveform drom_waveform;
typedef struct drom_sender_key drom_sender_key;
#define DROM_PROTOCOL(name, row, number) extern const drom_waveform drom_##row##_waveform;
#include "../../include/dromikos/protocols.def.h"
#else
#include "../../include/dromikos/outputs/sender.h"
#endif

typedef struct sim_bench sim_bench;
typedef struct sim_relay sim_relay;
typedef struct sim_motor sim_motor;
typedef struct sim_stepper sim_stepper;
typedef struct sim_strip sim_strip;
typedef struct sim_target sim_target;

/** What is between the handset's key and the receiver's pin. Zeros: ideal conditions. */
typedef struct sim_room {
    double clock_error; /**< of the handset: 0.03 is 3 % slow */
    double stretch_us;  /**< the receiver lengthens each mark and shortens the space after it */
    double clip_us;     /**< the receiver misses this much of a press after silence */
    double jitter_us;   /**< each edge moves by up to this, in either direction, uniformly */
    double loss;        /**< probability that a mark is lost, 0 to 1 */
} sim_room;

/** Where a handset is, and the state of its batteries. */
typedef struct sim_place {
    double metres;
    double degrees; /**< off the receiver's axis, below 90 */
    double battery; /**< 1: fresh; more than 0 */
} sim_place;

/** Converts a place to conditions. A model and no data sheet: light decreases with the square of the
 * distance, fresh batteries reach 12 m straight ahead; marks get longer when near and shorter when far, and
 * some are lost if there is too little light. Flat batteries also slow the handset's clock. */
sim_room sim_room_of(const sim_place *place);

/** A press of a key. */
typedef struct sim_press {
    const drom_waveform *waveform;
    drom_code code;
    uint64_t at_us;
    uint64_t held_us; /**< frames begin within this time; the first is always sent completely */
    unsigned
        frames; /**< number of frames; 0: those that begin within held_us, at least the protocol's minimum */
    sim_room room;
} sim_press;

/** An observer. Each function may be null. Times are the bench's. */
typedef struct sim_observer {
    void *context;
    void (*pin)(void *context, uint64_t at_us, uint8_t pin,
                bool is_high); /**< a pin changed, or was first set */
    void (*duty)(void *context, uint64_t at_us, uint8_t pin, uint16_t duty); /**< a pin has a new duty */
    void (*contact)(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed);
    void (*refresh)(void *context, uint64_t at_us, const sim_strip *strip); /**< a strip shows a picture */
    void (*burst)(void *context, uint64_t at_us,
                  const sim_target *target); /**< a target has received something */
} sim_observer;

/** How pixels are sent. */
typedef enum sim_pixels {
    SIM_PIXELS_SLICED,      /**< interrupts masked for one pixel at a time, and one handler run after each */
    SIM_PIXELS_MASKED,      /**< interrupts masked for the whole strip */
    SIM_PIXELS_OPEN,        /**< interrupts not masked */
    SIM_PIXELS_BY_HARDWARE, /**< by hardware, in the background */
} sim_pixels;

/** The chip on the bench. Zeros: it takes no time for anything, and hardware stamps edges. */
typedef struct sim_processor {
    drom_stamp stamp;
    sim_pixels pixels;
    double latency_us;       /**< from an interrupt's flag to its handler */
    double capture_us;       /**< duration of the capture's handler */
    double alarm_us;         /**< duration of the alarm's handler */
    double poll_us;          /**< duration of a poll of main, with interrupts enabled */
    double call_us;          /**< duration of a call of the port, likewise */
    uint8_t pwm_bits;        /**< 0: 16 */
    bool has_burst;          /**< hardware sends whole bursts */
    double interval_late_us; /**< not 0: hardware measures intervals, and delivers each this long after its
                                end, instead of edges */
    double look_us;          /**< if edges are stamped by polling: between two reads of the pin */
} sim_processor;

/** What the chip has spent time on, in µs since the start. */
typedef struct sim_load {
    double handlers_us;
    double pixels_us;
    double longest_masked_us;
    double masked_us;
    unsigned merged;  /**< edges lost as another one was pending */
    unsigned overrun; /**< edges lost as the ring was full */
} sim_load;

/** Creates a bench at time 0. `seed` determines all random values. */
sim_bench *sim_bench_new(uint64_t seed);
void sim_bench_free(sim_bench *bench);

/** Sets the clock of the port to begin at `start` and not at 0: for tests near the wrap. */
void sim_bench_start_clock_at(sim_bench *bench, drom_us start);

/** Returns the port for the engine. */
const drom_port *sim_bench_port(sim_bench *bench);

/** Connects the receiver to this engine. */
void sim_bench_wire_engine(sim_bench *bench, drom_engine *engine);

/** Wires a relay to a pin: 7 to 9 ms to close, 3 to 5 ms to open, with bouncing contacts. Owned by the bench.
 */
sim_relay *sim_bench_wire_relay(sim_bench *bench, uint8_t pin, bool is_active_low);
uint8_t sim_relay_pin(const sim_relay *relay);
bool sim_relay_is_closed(const sim_relay *relay);
bool sim_relay_is_energised(const sim_relay *relay);
/** True while the contacts are at rest. */
bool sim_relay_is_settled(const sim_relay *relay);
/** Returns how often the coil was switched on or off. */
unsigned sim_relay_operations(const sim_relay *relay);

/** Wires a stepper. It loses steps at more than `max_steps_s`, at changes of more than eight times that per
 * second, and at more than a quarter of it from standstill or where it turns round (a slow one: at more than
 * that acceleration allows). It may lag by half a step. Owned by the bench. */
sim_stepper *sim_bench_wire_stepper(sim_bench *bench, const uint8_t pins[4], double max_steps_s);
long sim_stepper_position(const sim_stepper *stepper);
/** Adds a contact between a pin and ground that the stepper closes at a position and behind it, counted from
 * its position at the start. The default position is 0. */
void sim_stepper_set_home(sim_stepper *stepper, uint8_t pin, long home);
long sim_stepper_home(const sim_stepper *stepper);
unsigned sim_stepper_lost(const sim_stepper *stepper);

/** The state of a motor. */
typedef struct sim_motion {
    double speed;      /**< 1: full speed; negative: back */
    double way_s;      /**< distance, in seconds at full speed */
    double ma;         /**< current now */
    double max_ma;     /**< largest current */
    unsigned shorts;   /**< how often both sides of its bridge were on together */
    double nearest_us; /**< shortest pause between a drive in one direction and the next in the other;
                          infinite: it has never turned round */
    double longest_us; /**< longest drive in one direction without a break */
    double stalled_us; /**< total time driven at standstill: the shaft is blocked */
} sim_motion;

/** No such pin. */
#define SIM_NO_PIN 255

/** Wires a motor behind a bridge, with pins as in drom_motor_settings: 6 V, 2 A at standstill, 0.1 A idle,
 * 150 ms to full speed. Owned by the bench. */
sim_motor *sim_bench_wire_motor(sim_bench *bench, uint8_t forward, uint8_t back, uint8_t speed);
sim_motion sim_motor_motion(const sim_motor *motor);
/** Blocks its shaft, or frees it. */
void sim_motor_block(sim_motor *motor, bool is_blocked);

/** After this low time every strip shows its pixels; before, further bits continue the picture. */
#define SIM_LATCH_US 280

/** Wires a strip that may take a low of `latch_us` (9 for the most sensitive) for the end of a picture, and
 * certainly does after SIM_LATCH_US. Owned by the bench. */
sim_strip *sim_bench_wire_strip(sim_bench *bench, uint8_t pin, unsigned count, double latch_us);
/** Returns the strip on a pin; null: none. */
sim_strip *sim_bench_strip_on(const sim_bench *bench, uint8_t pin);
/** Returns the three bytes that a pixel shows, in order of sending. */
const uint8_t *sim_strip_pixel(const sim_strip *strip, unsigned pixel);
/** Returns the number of pictures shown. */
unsigned sim_strip_refreshes(const sim_strip *strip);
/** Returns the number of pixels that, after a refresh, differed from the newest picture. */
unsigned sim_strip_wrong(const sim_strip *strip);
double sim_strip_longest_gap_us(const sim_strip *strip);

/** Wires an appliance that receives an LED, with a decoder of its own: nec, samsung32, lg28, jvc, sirc12,
 * kaseikyo. */
sim_target *sim_bench_wire_target(sim_bench *bench, uint8_t pin);
unsigned sim_target_frames(const sim_target *target);
/** Returns the number of bursts that it couldn't decode. */
unsigned sim_target_unknown(const sim_target *target);
/** Registers keys (not copied); and returns how often each was pressed since, as far as received. */
void sim_target_learn(sim_target *target, const drom_sender_key *keys, unsigned count);
unsigned sim_target_presses(const sim_target *target, unsigned key);
/** Returns the number of their presses that had fewer frames than the protocol's minimum. */
unsigned sim_target_torn(sim_target *target);

/** Returns the key of the newest press, -1 before the first; `is_new`: the newest frame began it. */
int sim_target_newest(const sim_target *target, bool *is_new);
/** Sets a function that is called each time the light changes. */
void sim_target_follow(sim_target *target, void (*light)(void *context, uint64_t at_us, bool is_on),
                       void *context);
/** Returns the newest frame: the protocol, and its bits, the first bit lowest. */
const char *sim_target_heard(const sim_target *target);

/** Opens or closes a contact between an input pin and ground. */
void sim_bench_close(sim_bench *bench, uint8_t pin, bool is_closed);

/** The same at a future time, with bounces for up to 11 ms. */
void sim_bench_touch(sim_bench *bench, uint8_t pin, uint64_t at_us, bool is_closed);

/** True if contacts are still to change. */
bool sim_bench_has_touches(const sim_bench *bench);

/** Connects a computer to the USB cable, or suspends it. At first none is connected. */
void sim_bench_set_computer(sim_bench *bench, bool is_listening);

/** Unplugs the cable: the computer releases all keys. */
void sim_bench_unplug(sim_bench *bench);

/** A report that the computer received; empty ones of both kinds when the chip has detached. */
typedef struct sim_report {
    uint64_t at_us;
    uint8_t bytes[8];
    uint8_t count;
} sim_report;
const sim_report *sim_bench_reports(const sim_bench *bench, size_t *count);

/** Key presses that a computer derives from the reports, with its own repeats of keys held for longer than
 * 500 ms: 30 per second. Up to a time. */
typedef struct sim_key {
    uint64_t at_us;
    uint64_t until_us; /**< time of its release; UINT64_MAX: it is down */
    uint16_t usage;    /**< of the keyboard page; modifiers alone: 0xe0 and so on */
    uint8_t modifiers; /**< modifiers that were down with it */
    bool is_media;     /**< the usage is of the consumer page */
    bool is_repeat;
} sim_key;

/** Returns them in order of time; to be freed. */
sim_key *sim_bench_keys(const sim_bench *bench, size_t *count);

/** Cuts the power: of data being written to the store, some bits keep their old value. */
void sim_bench_cut_power(sim_bench *bench);

/** Returns the level of a pin. */
bool sim_bench_is_high(const sim_bench *bench, uint8_t pin);

/** Returns the duty of a pin. */
uint16_t sim_bench_duty(const sim_bench *bench, uint8_t pin);

/** Sets the chip of the bench; before the engine is started. */
void sim_bench_set_processor(sim_bench *bench, const sim_processor *processor);

/** Simulates each refresh bit by bit, even if nothing can disturb it. The result is the same to the byte, and
 * takes twenty times as long: for tests. */
void sim_bench_play_every_bit(sim_bench *bench, bool plays);
sim_load sim_bench_load(const sim_bench *bench);

/** Adds a time in which own code masks all interrupts. Times must ascend. */
void sim_bench_mask(sim_bench *bench, uint64_t at_us, double for_us);

/** Lets the receiver on the bench receive the sender's LED. */
void sim_bench_hear_itself(sim_bench *bench, bool is_hearing);
/** Lets the targets receive the handsets as well: if our transmission covers a held key's repeats, both
 * overlap there. From now on; off at first. */
void sim_bench_show_handset(sim_bench *bench, bool is_in_sight);

void sim_bench_observe(sim_bench *bench, const sim_observer *observer);

/** Returns the end of the newest mark on the line. */
uint64_t sim_bench_spoken_at(const sim_bench *bench);

/** Presses a key. The toggle bit, if the protocol has one, is inverted at each press. False if the code is
 * too large for its protocol, or the time has passed. */
bool sim_bench_press(sim_bench *bench, const sim_press *press);

/** A key that is held until it is released. */
typedef struct sim_finger {
    sim_press press; /**< held_us and frames are ignored; the conditions may change from frame to frame */
    double next_us;  /**< start of the next frame, if the key is still held */
    unsigned sent;   /**< frames sent */
    bool toggle;
} sim_finger;

/** Begins a press. False if the code is too large for its protocol, or the time has passed. */
bool sim_finger_begin(sim_bench *bench, sim_finger *finger, const sim_press *press);
/** Continues the press: sends the frames that begin up to a time, which isn't before the last call's. */
void sim_finger_hold(sim_bench *bench, sim_finger *finger, uint64_t until_us);
/** Ends the press; the protocol's minimum of frames is sent. */
void sim_finger_lift(sim_bench *bench, sim_finger *finger);

/** Sets the toggle bit of the next press; 0 at first. */
void sim_bench_set_toggle(sim_bench *bench, bool toggle);

/** Presses a key briefly, in ideal conditions. */
bool sim_bench_press_once(sim_bench *bench, const drom_waveform *waveform, const drom_code *code,
                          uint64_t at_us);

/** Disturbances of a receiver. */
typedef enum sim_noise {
    SIM_NOISE_LAMP, /**< short marks in bursts, a hundred bursts per second, like a fluorescent or LED lamp */
    SIM_NOISE_SUN,  /**< single short marks at random times */
    SIM_NOISE_MOTOR, /**< dense bursts of very short marks, some ms each */
    SIM_NOISES,
} sim_noise;

/** Adds noise between two times: marks of 10 to 200 µs. */
void sim_bench_add_noise(sim_bench *bench, sim_noise kind, uint64_t from_us, uint64_t to_us);

/** Adds an edge of a recorded line; an edge whose time has passed comes at once. */
void sim_bench_add_edge(sim_bench *bench, uint64_t at_us, bool is_mark);

/** Returns the future edges in order, to write a capture of the receiver's output. The array belongs to the
 * bench and is valid until its next call. */
typedef struct sim_edge {
    uint64_t at_us;
    uint64_t order; /* order of adding, for edges at the same time */
    bool is_mark;
} sim_edge;
const sim_edge *sim_bench_edges(sim_bench *bench, size_t *count);

/** Returns the time on the bench. */
uint64_t sim_bench_now(const sim_bench *bench);

/** Main is busy for a time, and doesn't poll. */
void sim_bench_block(sim_bench *bench, double for_us);

/** Sleeps for `wait` µs (DROM_LONG: without limit) or until an edge. False if nothing is left that could
 * happen. After some thousand consecutive polls that each left more to do, each further one takes 100 µs, so
 * that time advances. */
bool sim_bench_sleep(sim_bench *bench, drom_us wait);

#ifdef __cplusplus
}
#endif

#endif
