/* The theatre's curtain with tables written by hand: a motor with a limit and its switches, a wall button
 * beside the handset, a bell and a wait; on the simulated bench. docs/by-hand.md explains it. */
#include "dromikos/dromikos.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "sim.h"

#include <stdio.h>

enum { WAND, WING };     /* handsets; the second one is a button */
enum { UP, DOWN, STOP }; /* keys of the wand */
enum { WINCH, BELL };    /* outputs */
enum { TOP, BOTTOM };    /* switches */
enum { RISE };           /* sequences: one per rule that waits */
enum { WING_UP, AT_TOP, AT_BOTTOM, CONTACTS };

static const drom_protocol_ref DROM_FLASH protocols[] = {&drom_nec};
static const drom_code DROM_FLASH wand[] = {
    [UP] = {DROM_NEC, 33, 24}, [DOWN] = {DROM_NEC, 33, 82}, [STOP] = {DROM_NEC, 33, 28}};
static const drom_code DROM_FLASH wing[] = {[UP] = {.protocol = DROM_NO_PROTOCOL}};
static const drom_handset DROM_FLASH handsets[] = {
    [WAND] = {.codes = DROM_ROWS(wand)}, [WING] = {.codes = DROM_ROWS(wing)}};
static const drom_contact DROM_FLASH contacts[] = {
    [WING_UP] = {.pin = 14, .handset = WING, .row = UP},
    [AT_TOP] = {.pin = 18, .handset = DROM_NONE, .row = TOP},
    [AT_BOTTOM] = {.pin = 19, .handset = DROM_NONE, .row = BOTTOM},
};
static drom_touch touches[CONTACTS];
static drom_deadline look_at;
static bool switches[2];

static const drom_motor_settings DROM_FLASH winch = {
    .forward_pin = 4,
    .back_pin = 7,
    .speed_pin = 5,
    .ramp_ms = 400,
    .dead_ms = 100,
    .max_ms = 20000,
    .slowest = 50,
    .fastest = DROM_FULL_LEVEL,
    .stops_forward = &touches[AT_TOP].is_closed,
    .stops_back = &touches[AT_BOTTOM].is_closed,
};
static const drom_rest_pin DROM_FLASH guarded[] = {{4, false}, {7, false}, {5, false}};
static const drom_relay_settings DROM_FLASH bell = {.pin = 12};
static drom_motor_state winch_state;
static drom_relay_state bell_state;
static const drom_output DROM_FLASH outputs[] = {
    [WINCH] = DROM_MOTOR(winch, winch_state), [BELL] = DROM_RELAY(bell, bell_state)};

static const drom_action DROM_FLASH rise[] = {
    DROM_ORDER(BELL, DROM_RELAY_PULSE, 300),
    DROM_WAIT(500),
    DROM_ORDER(WINCH, DROM_MOTOR_RUN, DROM_MOTOR_AT(160)),
};
static const drom_action DROM_FLASH sink[] = {
    DROM_ORDER_WHILE_HELD(WINCH, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(80))};
static const drom_action DROM_FLASH halt[] = {DROM_ORDER(WINCH, DROM_MOTOR_STOP, 0)};

/* By handset and key. */
static const drom_rule DROM_FLASH rules[] = {
    {.source = DROM_SOURCE_KEY,
     .row = WAND,
     .key = UP,
     .gestures = DROM_PRESS,
     .actions = DROM_ROWS(rise),
     .sequence = RISE + 1,
     .again = DROM_AGAIN_IGNORED},
    DROM_WHEN_KEY(WAND, DOWN, DROM_PRESS, sink),
    DROM_WHEN_KEY(WAND, STOP, DROM_PRESS, halt),
    DROM_WHEN_KEY(WING, UP, DROM_PRESS, halt),
};

static drom_decoder decoders[1];        /* one per protocol */
static drom_hold holds[2];              /* one per handset */
static drom_last_press last_presses[2]; /* likewise */
static drom_sequence sequences[1];
static drom_held held[1]; /* as many as can be held at the same time */
static const drom_plan DROM_FLASH plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .contacts = {.contacts = DROM_ROWS(contacts), .touches = touches, .next = &look_at},
    .rules = {.rules = DROM_ROWS(rules),
              .last_presses = DROM_ROWS(last_presses),
              .sequences = DROM_ROWS(sequences),
              .held = DROM_ROWS(held),
              .switches = DROM_ROWS(switches)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
    .guard = {.pins = DROM_ROWS(guarded), .ms = 250},
};

/* The presses, and the position of the curtain. */
static void play(sim_bench *bench)
{
    sim_bench_press_once(bench, &drom_nec_waveform, &wand[UP], 1000000);
    sim_bench_touch(bench, 18, 4000000, true); /* the curtain is up */
    sim_bench_touch(bench, 18, 6500000, false);
    sim_bench_press(
        bench, &(sim_press){
                   .waveform = &drom_nec_waveform, .code = wand[DOWN], .at_us = 6000000, .held_us = 2000000});
}

int main(void)
{
    static drom_engine engine;
    drom_fault fault;
    int16_t speed = 0;
    sim_bench *const bench = sim_bench_new(1);
    if (drom_engine_init(&engine, &plan, sim_bench_port(bench), &fault) != DROM_OK) {
        printf("table %d, row %u, item %u: reason %d\n", (int)fault.part, fault.row, fault.item,
               (int)fault.reason);
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    play(bench);
    while (sim_bench_now(bench) < 10000000) {
        (void)sim_bench_sleep(bench, drom_engine_poll(&engine));
        if (winch_state.speed != speed && winch_state.speed == winch_state.target) {
            speed = winch_state.speed;
            printf("%6.3f s  winch at %d %%\n", (double)sim_bench_now(bench) / 1e6,
                   speed * 100 / DROM_FULL_LEVEL);
        }
    }
    sim_bench_free(bench);
}
