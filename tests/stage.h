/* A small plan written by hand, for the suites of engine and bench. */
#ifndef DROMIKOS_TESTS_STAGE_H
#define DROMIKOS_TESTS_STAGE_H

#include "sim.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/relay.h"

enum { WAND };
enum { POWER, PLAY, GREEN };
enum { SPOT, BELL };

static const drom_protocol_ref protocols[] = {&drom_nec};
static const drom_code wand[] = {{DROM_NEC, 33, 69}, {DROM_NEC, 33, 67}, {DROM_NEC, 33, 94}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand)}};
static const uint16_t hold_ms[] = {500, 2000};

static const drom_relay_settings spot = {.pin = 4, .is_active_low = true};
static const drom_relay_settings bell = {.pin = 7};
static drom_relay_state spot_state;
static drom_relay_state bell_state;
static const drom_output outputs[] = {DROM_RELAY(spot, spot_state), DROM_RELAY(bell, bell_state)};

static const drom_action toggle_spot[] = {DROM_ORDER(SPOT, DROM_RELAY_TOGGLE, 0)};
static const drom_action ring[] = {DROM_ORDER(BELL, DROM_RELAY_PULSE, 800)};
static const drom_action light[] = {DROM_ORDER(SPOT, DROM_RELAY_ON, 0), DROM_ORDER(BELL, DROM_RELAY_ON, 0)};
static const drom_action dark[] = {DROM_ORDER(SPOT, DROM_RELAY_OFF, 0), DROM_ORDER(BELL, DROM_RELAY_OFF, 0)};
static const drom_rule rules[] = {
    DROM_WHEN_KEY(WAND, POWER, DROM_PRESS, toggle_spot),
    DROM_WHEN_KEY(WAND, PLAY, DROM_PRESS | DROM_REPEAT, ring),
    DROM_WHEN_HELD(WAND, GREEN, 1, light),
    DROM_WHEN_KEY(WAND, GREEN, DROM_RELEASE, dark),
};

static drom_decoder decoders[1];
static drom_hold holds[1];
static drom_last_press last_presses[1];

static const drom_plan stage = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .hold_ms = DROM_ROWS(hold_ms), .holds = holds},
    .rules = {.rules = DROM_ROWS(rules), .last_presses = DROM_ROWS(last_presses)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};

#endif
