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

#include "dromikos/encode.h"
#include "dromikos/engine.h"

typedef struct sim_bench sim_bench;
typedef struct sim_relay sim_relay;

/** What lies between the handset's key and the receiver's pin. Zeros: an ideal room. */
typedef struct sim_room {
    double clock_error; /**< of the handset: 0.03 is 3 % slow */
    double stretch_us;  /**< what the receiver adds to each mark and takes from the space after it */
    double clip_us;     /**< how much of a press is over before the receiver, asleep until then, shows it */
    double jitter_us;   /**< each edge moves by up to this, either way, evenly spread */
} sim_room;

/** A finger on a key. */
typedef struct sim_press {
    const drom_waveform *waveform;
    drom_code code;
    uint64_t at_us;
    uint64_t held_us; /**< frames begin as long as this lasts; the first is always sent whole */
    unsigned frames;  /**< how many to send; 0: as many as begin within held_us, or as a press has at least */
    sim_room room;
} sim_press;

/** Somebody who looks on. Any function may be null. Times are those of the bench. */
typedef struct sim_watch {
    void *context;
    void (*pin)(void *context, uint64_t at_us, uint8_t pin,
                bool is_high); /**< a pin changed, or was first set */
    void (*contact)(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed);
} sim_watch;

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

void sim_bench_watch(sim_bench *bench, const sim_watch *watch);

/** Presses a key. The toggle bit, where there is one, is another at each press. False when the code is too
 * large for its protocol, or the time has passed. */
bool sim_bench_press(sim_bench *bench, const sim_press *press);

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

/** Sleeps for `wait` µs (DROM_NEVER: for ever) or until an edge, whichever comes first. False when nothing is
 *  left that could happen. */
bool sim_bench_sleep(sim_bench *bench, drom_us wait);

#endif
