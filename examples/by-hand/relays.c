/* Two relays and four keys on an ATmega328P, with tables written by hand: no tool, no plan file. The receiver
 * is on pin 8, the bell's relay on pin 4, the lantern's on pin 7. */
#include "relays.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/relay.h"

enum { WAND };
enum { PLAY, GREEN, POWER, EXIT };
static const drom_code DROM_FLASH codes[] = {[PLAY] = {DROM_NEC, 33, 53},
                                             [GREEN] = {DROM_NEC, 33, 54},
                                             [POWER] = {DROM_NEC, 33, 12},
                                             [EXIT] = {DROM_NEC, 33, 28}};
static const drom_handset DROM_FLASH handsets[] = {[WAND] = {.codes = DROM_ROWS(codes)}};
static drom_hold holds[1];
static drom_last_press last_presses[1];

static const drom_protocol_ref DROM_FLASH protocols[] = {&drom_nec};
static drom_decoder decoders[1];

static const drom_relay_settings DROM_FLASH bell = {.pin = 4, .min_off_ms = 200};
static const drom_relay_settings DROM_FLASH lantern = {.pin = 7};
static drom_relay_state bell_state;
static drom_relay_state lantern_state;
static const drom_output DROM_FLASH outputs[] = {
    [BELL] = DROM_RELAY(bell, bell_state), [LANTERN] = DROM_RELAY(lantern, lantern_state)};

static const drom_action DROM_FLASH ring[] = {DROM_ORDER(BELL, DROM_RELAY_PULSE, 300)};
static const drom_action DROM_FLASH light[] = {DROM_ORDER(LANTERN, DROM_RELAY_ON, 0)};
static const drom_action DROM_FLASH change[] = {DROM_ORDER(LANTERN, DROM_RELAY_TOGGLE, 0)};
static const drom_action DROM_FLASH dark[] = {DROM_ORDER(BELL, DROM_RELAY_OFF, 0),
                                              DROM_ORDER(LANTERN, DROM_RELAY_OFF, 0)};
static const drom_rule DROM_FLASH rules[] = {
    DROM_WHEN_KEY(WAND, PLAY, DROM_PRESS, ring),
    DROM_WHEN_KEY(WAND, GREEN, DROM_PRESS, light),
    DROM_WHEN_KEY(WAND, POWER, DROM_PRESS, change),
    DROM_WHEN_KEY(WAND, EXIT, DROM_PRESS, dark),
};

const drom_plan DROM_FLASH relays_plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds, .gestures = DROM_PRESS},
    .rules = {.rules = DROM_ROWS(rules), .last_presses = DROM_ROWS(last_presses)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};
