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

/** What lies between the handset's key and the receiver's pin. Zeros: an ideal room. */
typedef struct sim_room {
    double clock_error; /**< of the handset: 0.03 is 3 % slow */
    double stretch_us;  /**< what the receiver adds to each mark and takes from the space after it */
    double clip_us;     /**< how much of a press is over before the receiver, asleep until then, shows it */
    double jitter_us;   /**< each edge moves by up to this, either way, evenly spread */
    double loss;        /**< of its marks, so many of one don't get through */
} sim_room;

/** Where a handset is, and how fresh its batteries are. */
typedef struct sim_place {
    double metres;
    double degrees; /**< off the receiver's axis, below 90 */
    double battery; /**< 1: fresh ones, above 0 */
} sim_place;

/** What the receiver makes of a handset there. A model and no data sheet: the light goes by the square of the
 * distance, fresh batteries reach 12 m straight ahead; marks come out longer from near and shorter from far,
 * and where there is less light than it takes, some don't come at all. Flat batteries make the handset slow,
 * too. */
sim_room sim_room_of(const sim_place *place);

/** A finger on a key. */
typedef struct sim_press {
    const drom_waveform *waveform;
    drom_code code;
    uint64_t at_us;
    uint64_t held_us; /**< frames begin as long as this lasts; the first is always sent whole */
    unsigned frames;  /**< how many to send; 0: as many as begin within held_us, or as a press has at least */
    sim_room room;
} sim_press;

/** An observer. Any function may be null. Times are those of the bench. */
typedef struct sim_observer {
    void *context;
    void (*pin)(void *context, uint64_t at_us, uint8_t pin,
                bool is_high); /**< a pin changed, or was first set */
    void (*duty)(void *context, uint64_t at_us, uint8_t pin, uint16_t duty); /**< a pin has a new duty */
    void (*contact)(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed);
    void (*refresh)(void *context, uint64_t at_us, const sim_strip *strip); /**< a strip shows a picture */
    void (*burst)(void *context, uint64_t at_us,
                  const sim_target *target); /**< a target has heard something */
} sim_observer;

/** How pixels go out. */
typedef enum sim_pixels {
    SIM_PIXELS_SLICED, /**< interrupts masked for one pixel at a time, and one handler let in after each */
    SIM_PIXELS_MASKED, /**< masked for the whole strip */
    SIM_PIXELS_OPEN,   /**< not masked at all */
    SIM_PIXELS_APART,  /**< by a machine of its own, while the processor goes on */
} sim_pixels;

/** The chip on the bench. Zeros: one that takes no time for anything, and stamps edges by hardware. */
typedef struct sim_processor {
    drom_stamp stamp;
    sim_pixels pixels;
    double latency_us;       /**< from an interrupt's flag to its handler */
    double capture_us;       /**< the capture's handler lasts so long */
    double alarm_us;         /**< and the alarm's */
    double poll_us;          /**< each poll of main, with interrupts open */
    double call_us;          /**< each call of the port, likewise */
    uint8_t pwm_bits;        /**< 0: 16 */
    bool has_burst;          /**< a machine sends whole bursts */
    double interval_late_us; /**< where it isn't 0, a machine measures intervals, and gives each so long after
                                its end, instead of edges */
    double look_us;          /**< where edges are stamped by polling: from one look at the pin to the next */
} sim_processor;

/** What the chip has been busy with, in µs since the start. */
typedef struct sim_load {
    double handlers_us;
    double pixels_us;
    double longest_masked_us;
    double masked_us;
    unsigned merged;  /**< edges that were lost, since another was waiting */
    unsigned overrun; /**< edges that were lost, since main had left the ring full */
} sim_load;

/** A bench at time 0. `seed` decides every random thing on it. */
sim_bench *sim_bench_new(uint64_t seed);
void sim_bench_free(sim_bench *bench);

/** Shifts the clock that the port shows: it starts at `start` and not at 0. For tests near the wrap. */
void sim_bench_start_clock_at(sim_bench *bench, drom_us start);

/** The port to give to the engine. */
const drom_port *sim_bench_port(sim_bench *bench);

/** Says whose capture interrupt the receiver's edges go to. */
void sim_bench_wire_engine(sim_bench *bench, drom_engine *engine);

/** Wires a relay to a pin: 7 to 9 ms to close, 3 to 5 ms to open, with bouncing contacts. Owned by the bench.
 */
sim_relay *sim_bench_wire_relay(sim_bench *bench, uint8_t pin, bool is_active_low);
uint8_t sim_relay_pin(const sim_relay *relay);
bool sim_relay_is_closed(const sim_relay *relay);
bool sim_relay_is_energised(const sim_relay *relay);
/** True when the contacts have stopped moving. */
bool sim_relay_is_settled(const sim_relay *relay);
/** How often the coil was switched on or off. */
unsigned sim_relay_operations(const sim_relay *relay);

/** Wires a stepper that loses steps when it is asked for more than `max_steps_s`, to change by more than
 * eight times that in a second, or for more than a quarter of it from standing or where it turns round (a
 * slow one: for more than that acceleration gives). It may lag by half a step. Owned by the bench. */
sim_stepper *sim_bench_wire_stepper(sim_bench *bench, const uint8_t pins[4], double max_steps_s);
long sim_stepper_position(const sim_stepper *stepper);
/** Lets it close a contact between a pin and ground, at a place and farther back, counted from where it is at
 * the start. The place is 0 until then. */
void sim_stepper_set_home(sim_stepper *stepper, uint8_t pin, long home);
long sim_stepper_home(const sim_stepper *stepper);
unsigned sim_stepper_lost(const sim_stepper *stepper);

/** What a motor does. */
typedef struct sim_motion {
    double speed;      /**< of its full one, back is below 0 */
    double way_s;      /**< how far it has come: so many seconds at full speed */
    double ma;         /**< it takes just now */
    double max_ma;     /**< it has taken */
    unsigned shorts;   /**< how often both sides of its bridge were on at a time */
    double nearest_us; /**< from the end of its drive one way to the next one the other way, at the least;
                          infinite: it has never turned round */
    double longest_us; /**< it was driven without a break, one way */
    double stalled_us; /**< it was driven and stood, in all: something blocks its shaft */
} sim_motion;

/** No such pin. */
#define SIM_NO_PIN 255

/** Wires a motor behind a bridge, as drom_motor_settings has its pins: 6 V, 2 A when it stands, 0.1 A idle,
 * 150 ms to get up to speed. Owned by the bench. */
sim_motor *sim_bench_wire_motor(sim_bench *bench, uint8_t forward, uint8_t back, uint8_t speed);
sim_motion sim_motor_motion(const sim_motor *motor);
/** Holds its shaft, or lets it go. */
void sim_motor_block(sim_motor *motor, bool is_blocked);

/** For so long a strip's pin must have been low before any strip shows what it was sent; until then, what
 * comes goes on with the picture before. */
#define SIM_LATCH_US 280

/** Wires a strip that may take a low of `latch_us` (9 on the touchiest) for the end of a picture, and surely
 * does after SIM_LATCH_US. Owned by the bench. */
sim_strip *sim_bench_wire_strip(sim_bench *bench, uint8_t pin, unsigned count, double latch_us);
/** The one that is wired to a pin; null: none is. */
sim_strip *sim_bench_strip_on(const sim_bench *bench, uint8_t pin);
/** The three bytes that a pixel shows, in the order in which they were sent. */
const uint8_t *sim_strip_pixel(const sim_strip *strip, unsigned pixel);
/** Pictures that it has shown. */
unsigned sim_strip_refreshes(const sim_strip *strip);
/** Pixels that showed, after a refresh, something else than the newest picture that was sent. */
unsigned sim_strip_wrong(const sim_strip *strip);
double sim_strip_longest_gap_us(const sim_strip *strip);

/** Wires an appliance that sees an LED, with a decoder of its own: nec, samsung32, lg28, jvc, sirc12,
 * kaseikyo. */
sim_target *sim_bench_wire_target(sim_bench *bench, uint8_t pin);
unsigned sim_target_frames(const sim_target *target);
/** Bursts that it couldn't read. */
unsigned sim_target_unknown(const sim_target *target);
/** Teaches it keys, which must stay; and how often each has been pressed since, by what it saw. */
void sim_target_learn(sim_target *target, const drom_sender_key *keys, unsigned count);
unsigned sim_target_presses(const sim_target *target, unsigned key);
/** Presses of them that had fewer frames than one has at least. What comes next begins another. */
unsigned sim_target_torn(sim_target *target);

/** The key of the newest press, -1 before the first; `is_new`: the newest frame made it one. */
int sim_target_newest(const sim_target *target, bool *is_new);
/** Sees the same light: called each time that it goes on or off. */
void sim_target_follow(sim_target *target, void (*light)(void *context, uint64_t at_us, bool is_on),
                       void *context);
/** The newest frame: the protocol, and its bits with the first one lowest. */
const char *sim_target_heard(const sim_target *target);

/** Opens or closes a contact between a pin that is an input and ground. */
void sim_bench_close(sim_bench *bench, uint8_t pin, bool is_closed);

/** The same at a time to come; and it bounces, for up to 11 ms. */
void sim_bench_touch(sim_bench *bench, uint8_t pin, uint64_t at_us, bool is_closed);

/** Is some of that yet to come? */
bool sim_bench_has_touches(const sim_bench *bench);

/** A computer at the other end of the USB cable listens, or doesn't: it is asleep. At first none is there. */
void sim_bench_set_computer(sim_bench *bench, bool is_listening);

/** The cable is pulled: the computer lets all keys go. */
void sim_bench_unplug(sim_bench *bench);

/** A report that the computer got; empty ones of both kinds, where the chip has left the bus. */
typedef struct sim_report {
    uint64_t at_us;
    uint8_t bytes[8];
    uint8_t count;
} sim_report;
const sim_report *sim_bench_reports(const sim_bench *bench, size_t *count);

/** What a computer has made of the reports: its keys, as they went down, those that it repeats by itself
 * included, which are held for longer than 500 ms: 30 a second. Up to a moment. */
typedef struct sim_key {
    uint64_t at_us;
    uint64_t until_us; /**< it went up; UINT64_MAX: it is down */
    uint16_t usage;    /**< of the keyboard page; modifiers alone: 0xe0 and so on */
    uint8_t modifiers; /**< that were down with it */
    bool is_media;     /**< the usage is of the consumer page */
    bool is_repeat;
} sim_key;

/** So many of them, in the order of their times; to be freed. */
sim_key *sim_bench_keys(const sim_bench *bench, size_t *count);

/** The power is cut: of what the store is about to write, some bits are as they were. */
void sim_bench_cut_power(sim_bench *bench);

/** The level that a pin has. */
bool sim_bench_is_high(const sim_bench *bench, uint8_t pin);

/** The duty that a pin has. */
uint16_t sim_bench_duty(const sim_bench *bench, uint8_t pin);

/** Puts another chip on the bench; before the engine is started. */
void sim_bench_set_processor(sim_bench *bench, const sim_processor *processor);

/** Plays each refresh bit by bit, those too that nothing can disturb. The result is the same to the byte, and
 * takes twenty times as long: for tests. */
void sim_bench_play_every_bit(sim_bench *bench, bool plays);
sim_load sim_bench_load(const sim_bench *bench);

/** The maker's own code masks all interrupts from a time on for so long. Times must ascend. */
void sim_bench_mask(sim_bench *bench, uint64_t at_us, double for_us);

/** Lets the receiver on the bench see what the sender's LED sends. */
void sim_bench_hear_itself(sim_bench *bench, bool is_hearing);
/** Lets the targets see the handsets' light, too: where ours covers a held key's repeats, both meet there.
 * From now on; it isn't so at first. */
void sim_bench_show_handset(sim_bench *bench, bool is_in_sight);

void sim_bench_observe(sim_bench *bench, const sim_observer *observer);

/** When the newest mark on the line has ended. */
uint64_t sim_bench_spoken_at(const sim_bench *bench);

/** Presses a key. The toggle bit, where there is one, is another at each press. False when the code is too
 * large for its protocol, or the time has passed. */
bool sim_bench_press(sim_bench *bench, const sim_press *press);

/** A finger that stays on a key until it is lifted. */
typedef struct sim_finger {
    sim_press press; /**< held_us and frames say nothing; the room may change from frame to frame */
    double next_us;  /**< the next frame begins, were the key still down */
    unsigned sent;   /**< frames */
    bool toggle;
} sim_finger;

/** Puts it on a key. False when the code is too large for its protocol, or the time has passed. */
bool sim_finger_begin(sim_bench *bench, sim_finger *finger, const sim_press *press);
/** It is there still: sends the frames that begin up to a moment, which is not before the last one's. */
void sim_finger_hold(sim_bench *bench, sim_finger *finger, uint64_t until_us);
/** Lifts it: what a press has at least is sent. */
void sim_finger_lift(sim_bench *bench, sim_finger *finger);

/** Sets the toggle bit of the next press; it is 0 at first. */
void sim_bench_set_toggle(sim_bench *bench, bool toggle);

/** A short press in an ideal room. */
bool sim_bench_press_once(sim_bench *bench, const drom_waveform *waveform, const drom_code *code,
                          uint64_t at_us);

/** What disturbs a receiver. */
typedef enum sim_noise {
    SIM_NOISE_LAMP,  /**< short marks in bursts, a hundred bursts a second, as of a fluorescent or LED lamp */
    SIM_NOISE_SUN,   /**< single short marks, now and then */
    SIM_NOISE_MOTOR, /**< dense bursts of very short marks, of some ms each */
    SIM_NOISES,
} sim_noise;

/** Adds noise from a time to another: marks of 10 to 200 µs. */
void sim_bench_add_noise(sim_bench *bench, sim_noise kind, uint64_t from_us, uint64_t to_us);

/** Adds an edge of a recorded line; one whose time has passed comes at once. */
void sim_bench_add_edge(sim_bench *bench, uint64_t at_us, bool is_mark);

/** The edges to come, in order: for writing a capture of what the receiver would have said. The array belongs
 * to the bench and is good until its next call. */
typedef struct sim_edge {
    uint64_t at_us;
    uint64_t order; /* as they were added: ties stay as they were */
    bool is_mark;
} sim_edge;
const sim_edge *sim_bench_edges(sim_bench *bench, size_t *count);

/** Time on the bench. */
uint64_t sim_bench_now(const sim_bench *bench);

/** Main does something else than to poll for so long. */
void sim_bench_block(sim_bench *bench, double for_us);

/** Sleeps for `wait` µs (DROM_LONG: for ever) or until an edge, whichever comes first. False when nothing is
 * left that could happen. After some thousand polls of which each left more to do, each further one takes 100
 * µs, so that time goes on. */
bool sim_bench_sleep(sim_bench *bench, drom_us wait);

#ifdef __cplusplus
}
#endif

#endif
