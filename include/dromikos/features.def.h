/* The features that drom_config.h can switch on or off: one line each.
 *
 *     DROM_FEATURE(NAME, SMALL, WHAT)   something that a plan may use
 *     DROM_OPTION(NAME, SMALL, WHAT)    something that a program may use, whatever its plan
 *
 * DROM_WITH_NAME is 1 or 0. SMALL is its value in DROM_PROFILE_SMALL; DROM_PROFILE_ALL has 1 for each. The
 * order gives each feature its bit: see DROM_USES(). internal/features.h is generated from this file by
 * src/features.sh. */

/* clang-format off */
DROM_FEATURE(TIMED_EDGES, 0, "pins that change at exact times: steppers, servos, senders")
DROM_FEATURE(CARRIER, 0, "infrared carriers: senders (with TIMED_EDGES)")
DROM_FEATURE(PIXELS, 0, "strips")
DROM_FEATURE(PWM, 0, "PWM outputs: lamps, motors")
DROM_FEATURE(HID, 0, "keyboards over USB")
DROM_FEATURE(CONFIRMATION, 0, "handsets whose press needs a second frame")
DROM_FEATURE(CODE_INDEX, 0, "handsets with an index of their codes")
DROM_FEATURE(PAUSES, 0, "protocols with a pause within a frame: denon, sharp")
DROM_FEATURE(SINGLE_LEADER, 0, "protocols with one leader per press: dish")
DROM_FEATURE(WAITS, 0, "waits in rules")
DROM_FEATURE(MODES, 0, "modes")
DROM_FEATURE(VALUES, 0, "values")
DROM_FEATURE(TIMERS, 0, "timers")
DROM_FEATURE(SCENES, 0, "scenes")
DROM_FEATURE(CONDITIONS, 0, "conditions of rules")
DROM_FEATURE(NUMBERS, 0, "orders with the number of a value or an event")
DROM_FEATURE(MULTIPLES, 0, "times, degrees and turns from such numbers")
DROM_FEATURE(SUMS, 0, "sums of values and numbers")
DROM_FEATURE(HOLDS, 0, "orders that last while a key is held")
DROM_FEATURE(INPUTS, 0, "buttons and switches")
DROM_FEATURE(GUARD, 0, "outputs that go to rest when the program hangs: motors, keyboards")
DROM_FEATURE(HEARD, 0, "rules about any received frame")
DROM_FEATURE(POSTS, 0, "events of your own code: drom_engine_post(), drom_engine_post_from()")
DROM_FEATURE(INTERLOCKS, 0, "interlocks: outputs of which only one may be on")
DROM_FEATURE(COLOUR, 0, "lamps in colour")
DROM_FEATURE(PARTS, 0, "parts of strips")
DROM_FEATURE(CURRENT, 0, "strips with a current limit")
DROM_FEATURE(HOMING, 0, "steppers with a home switch")
DROM_FEATURE(EACH, 0, "held keys that are sent as separate presses")
DROM_FEATURE(KEPT, 0, "values that are kept without power")

DROM_OPTION(OBSERVER, 0, "drom_engine_observe(), margins of frames, names of protocols")
DROM_OPTION(CHECKS, 0, "the checks of drom_engine_init(), and drom_plan_check(): on while you write tables by hand")
DROM_OPTION(INTERVALS, 0, "ports that measure marks and spaces in hardware")
DROM_OPTION(TEXTS, 0, "drom_fault_text()")
/* clang-format on */

#undef DROM_FEATURE
#undef DROM_OPTION
