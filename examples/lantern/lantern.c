/* The Lantern Theatre with tables written by hand, on the simulated bench. On a chip the tables and the loop
 * are the same; only the port differs. */
#include "dromikos/dromikos.h"
#include "dromikos/outputs/relay.h"
#include "sim.h"

#include <stdio.h>

enum { WAND, POWER = 0, PLAY, SPOT = 0, BELL, SPOT_PIN = 4, BELL_PIN = 7 };

static const drom_protocol_ref DROM_FLASH protocols[] = {&drom_nec};
static const drom_code DROM_FLASH wand[] = {[POWER] = {DROM_NEC, 33, 69}, [PLAY] = {DROM_NEC, 33, 67}};
static const drom_handset DROM_FLASH handsets[] = {{.codes = DROM_ROWS(wand)}};

static const drom_relay_settings DROM_FLASH spot = {.pin = SPOT_PIN, .min_off_ms = 2000};
static const drom_relay_settings DROM_FLASH bell = {.pin = BELL_PIN};
static drom_relay_state spot_state, bell_state;
static const drom_output DROM_FLASH outputs[] = {DROM_RELAY(spot, spot_state), DROM_RELAY(bell, bell_state)};

static const drom_action DROM_FLASH toggle_spot[] = {DROM_ORDER(SPOT, DROM_RELAY_TOGGLE, 0)};
static const drom_action DROM_FLASH ring[] = {DROM_ORDER(BELL, DROM_RELAY_PULSE, 800)};
static const drom_rule DROM_FLASH rules[] = {
    DROM_WHEN_KEY(WAND, POWER, DROM_PRESS, toggle_spot),
    DROM_WHEN_KEY(WAND, PLAY, DROM_PRESS, ring),
};

static drom_decoder decoders[1];        /* one per protocol */
static drom_hold holds[1];              /* one per handset */
static drom_last_press last_presses[1]; /* likewise */
static const drom_plan DROM_FLASH plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .rules = {.rules = DROM_ROWS(rules), .last_presses = DROM_ROWS(last_presses)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};

static void print_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    (void)context;
    printf("%6.3f s  %s %s\n", (double)at_us / 1e6, pin == SPOT_PIN ? "spot" : "bell",
           is_high ? "on" : "off");
}

int main(void)
{
    static drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    sim_bench_observe(bench, &(sim_observer){.pin = print_pin});
    if (drom_engine_init(&engine, &plan, sim_bench_port(bench), NULL) != DROM_OK) {
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    for (uint64_t second = 3; second <= 6; second++) { /* presses: play, power, play, power */
        sim_bench_press_once(bench, &drom_nec_waveform, &wand[second % 2], second * 1000000);
    }
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    sim_bench_free(bench);
}
