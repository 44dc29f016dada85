/* Invalid tables are refused, with table and row: a valid plan is changed at one place after another. */
#include "support.h"
#include "dromikos/outputs/call.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"
#include "dromikos/internal/rules.h"

enum { OFF, ON };

static const drom_relay_settings bell = {.pin = 7};
static drom_relay_state bell_state;

/* A valid plan to be changed. */
typedef struct sound {
    drom_plan plan;
    drom_code codes[2];
    drom_handset handset;
    uint8_t listed[2];
    drom_protocol_ref protocols[2];
    drom_decoder decoders[2];
    drom_hold hold;
    drom_contact contacts[2];
    drom_touch touches[2];
    drom_deadline look_at;
    uint16_t hold_ms[2];
    drom_key_ref doubled;
    drom_tapped tapped;
    drom_output output;
    drom_last_press last_press;
    drom_mode modes[2];
    drom_value value;
    int16_t number;
    drom_timer timer;
    bool is_closed;
    drom_sequence sequences[2];
    drom_held held[1];
    drom_condition condition;
    drom_action actions[2];
    drom_action otherwise;
    drom_rule rules[18];
} sound;

static bool takes_up_to_ten(const void *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb <= ON && value <= 10;
}

static void make_sound(sound *made)
{
    static const drom_output_kind kind = {.accepts_action = takes_up_to_ten};
    *made = (sound){
        .codes = {{DROM_NEC, 1, 1}, {DROM_NEC, 1, 2}},
        .handset = {.codes = {made->codes, 2}, .by_code = {made->listed, 2}},
        .listed = {0, 1},
        .protocols = {&drom_nec, &drom_samsung32},
        .contacts = {{3, 0, 1}, {4, DROM_NONE, 0}},
        .hold_ms = {500, 600},
        .doubled = {0, 1},
        .output = {&kind, &kind, &made->hold},
        .modes = {{0}, {1000}},
        .value = {.min = 0, .max = 10, .start = 5},
        .condition = {.subject = DROM_IF_VALUE, .compare = DROM_LESS, .number = 3},
        .actions = {DROM_ORDER_WHILE_HELD(0, ON, 1), DROM_WAIT(100)},
        .otherwise = DROM_ORDER(0, ON, 1),
        .rules = {{.gestures = DROM_PRESS,
                   .sequence = 1,
                   .conditions = {&made->condition, 1},
                   .actions = {made->actions, 2},
                   .otherwise = {&made->otherwise, 1}},
                  {.key = 1, .gestures = DROM_PRESS, .actions = {&made->otherwise, 1}}},
    };
    made->plan = (drom_plan){
        .receive = {.protocols = {made->protocols, 2}, .decoders = made->decoders},
        .keys = {.handsets = {&made->handset, 1},
                 .hold_ms = {made->hold_ms, 2},
                 .doubles = {&made->doubled, 1},
                 .holds = &made->hold,
                 .taps = &made->tapped},
        .contacts = {{made->contacts, 2}, made->touches, &made->look_at},
        .rules = {.rules = {made->rules, 2},
                  .modes = {made->modes, 2},
                  .values = {&made->value, 1},
                  .last_presses = {&made->last_press, 1},
                  .sequences = {made->sequences, 2},
                  .held = {made->held, 1},
                  .timers = {&made->timer, 1},
                  .switches = {&made->is_closed, 1},
                  .numbers = &made->number},
        .outputs = {.outputs = {&made->output, 1}},
    };
}

static void fill_with_the_second(sound *spoilt)
{
    spoilt->plan.rules.rules.count = G_N_ELEMENTS(spoilt->rules);
    for (size_t i = 2; i < G_N_ELEMENTS(spoilt->rules); i++) {
        spoilt->rules[i] = spoilt->rules[1];
    }
}

#define REFUSED(part_of, row_of, item_of, reason_of, ...)                                                    \
    do {                                                                                                     \
        const drom_port_facts facts = {.pins = 20};                                                          \
        drom_fault fault = {0};                                                                              \
        sound in;                                                                                            \
        make_sound(&in);                                                                                     \
        ck_assert_int_eq(drom_plan_check(&in.plan, &facts, &fault), DROM_OK);                                \
        __VA_ARGS__;                                                                                         \
        ck_assert_int_eq(drom_plan_check(&in.plan, &facts, &fault), DROM_BAD_PLAN);                          \
        ck_assert_msg(fault.part == DROM_PART_##part_of && fault.row == (row_of) &&                          \
                          fault.item == (item_of) && fault.reason == DROM_REASON_##reason_of,                \
                      #__VA_ARGS__ ": part %d, row %u, item %u, reason %d", (int)fault.part, fault.row,      \
                      fault.item, (int)fault.reason);                                                        \
    } while (0)

TEST(what_is_heard_and_pressed_must_make_sense)
{
    static const drom_protocol no_step = {.id = "odd"};
    static const drom_pulse_timing timing = {.bits = 8};
    static const drom_protocol no_period = {.id = "odd",
                                            .number = DROM_OWN_PROTOCOL,
                                            .step = drom_pulse_step,
                                            .timing = &timing,
                                            .unpack = drom_pulse_unpack_plain};
    drom_protocol misnumbered = no_period;
    misnumbered.period_us = 100000;
    REFUSED(PROTOCOLS, 0, 0, NULL, in.plan.receive.decoders = NULL);
    REFUSED(PROTOCOLS, 0, 0, NULL, in.plan.receive.protocols.rows = NULL);
    REFUSED(PROTOCOLS, 1, 0, NULL, in.protocols[1] = NULL);
    REFUSED(PROTOCOLS, 1, 0, NULL, in.protocols[1] = &no_step);
    REFUSED(PROTOCOLS, 1, 0, PERIOD, in.protocols[1] = &no_period);
    REFUSED(PROTOCOLS, 1, 0, NUMBER, in.protocols[1] = &drom_nec);
    REFUSED(PROTOCOLS, 1, 0, NUMBER, misnumbered.number = DROM_NO_PROTOCOL; in.protocols[1] = &misnumbered);
    REFUSED(PROTOCOLS, 1, 0, NUMBER, misnumbered.number = DROM_UNKNOWN; in.protocols[1] = &misnumbered);
    REFUSED(HANDSETS, 0, 0, NULL, in.plan.keys.handsets.rows = NULL);
    REFUSED(HANDSETS, 0, 0, NULL, in.plan.keys.holds = NULL);
    REFUSED(HANDSETS, 0, 0, NULL, in.plan.keys.repeat_after_ms = 300);
    REFUSED(HANDSETS, 0, 0, NULL, in.handset.codes.rows = NULL);
    REFUSED(HANDSETS, 0, 0, ORDER, in.handset.by_code.rows = NULL);
    REFUSED(HANDSETS, 0, 0, ORDER, in.handset.by_code.count = 1);
    REFUSED(HANDSETS, 0, 0, ORDER, in.listed[1] = 2);
    REFUSED(HANDSETS, 0, 0, ORDER, in.listed[1] = 0);
    REFUSED(HANDSETS, 0, 0, ORDER, in.listed[0] = 1; in.listed[1] = 0);
    REFUSED(HANDSETS, 0, 0, ORDER, in.codes[1].command = 1; in.codes[1].address = 0);
    REFUSED(HANDSETS, 0, 0, ORDER, in.codes[1] = (drom_code){DROM_NEC, 1, 1};
            in.codes[0].protocol = DROM_SAMSUNG32);
    REFUSED(HANDSETS, 0, 1, UNKNOWN_PROTOCOL, in.codes[1].protocol = DROM_OWN_PROTOCOL);
    REFUSED(CONTACTS, 0, 0, NULL, in.plan.contacts.contacts.rows = NULL);
    REFUSED(CONTACTS, 0, 0, NULL, in.plan.contacts.touches = NULL);
    REFUSED(CONTACTS, 0, 0, NULL, in.plan.contacts.next = NULL);
    REFUSED(CONTACTS, 0, 0, PIN, in.contacts[0].pin = 20);
    REFUSED(CONTACTS, 0, 0, NO_HANDSET, in.contacts[0].handset = 1);
    REFUSED(CONTACTS, 0, 0, NO_KEY, in.contacts[0].row = 2);
    REFUSED(CONTACTS, 1, 0, NO_SWITCH, in.contacts[1].row = 1);
    REFUSED(HOLD_MS, 0, 0, NULL, in.plan.keys.hold_ms.rows = NULL);
    REFUSED(HOLD_MS, 0, 0, ORDER, in.hold_ms[0] = 0);
    REFUSED(HOLD_MS, 1, 0, ORDER, in.hold_ms[1] = 500);
    REFUSED(DOUBLES, 0, 0, NULL, in.plan.keys.doubles.rows = NULL);
    REFUSED(DOUBLES, 0, 0, NULL, in.plan.keys.taps = NULL);
    REFUSED(POSTS, 0, 0, NULL, in.plan.events.posts.count = 1);
    REFUSED(DOUBLES, 0, 0, NO_HANDSET, in.doubled.handset = 1);
    REFUSED(DOUBLES, 0, 0, NO_KEY, in.doubled.key = 2);
    REFUSED(OUTPUTS, 0, 0, NULL, in.plan.outputs.outputs.rows = NULL);
    REFUSED(OUTPUTS, 0, 0, NULL, in.output.kind = NULL);
    REFUSED(OUTPUTS, 0, 0, NULL, in.output.settings = NULL);
    REFUSED(OUTPUTS, 0, 0, NULL, in.output.state = NULL);
    REFUSED(OUTPUTS, DROM_ANY_OUTPUT, 0, NO_OUTPUT, in.plan.outputs.outputs.count = DROM_NONE);
}

TEST(memory_and_limits_that_make_no_sense_are_refused)
{
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.last_presses.rows = NULL);
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.last_presses.count = 0);
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.held.rows = NULL);
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.sequences.rows = NULL);
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.timers.rows = NULL);
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.switches.rows = NULL);
    REFUSED(MODES, 0, 0, NULL, in.plan.rules.modes.rows = NULL);
    REFUSED(VALUES, 0, 0, NULL, in.plan.rules.values.rows = NULL);
    REFUSED(VALUES, 0, 0, NULL, in.plan.rules.numbers = NULL);
    REFUSED(MODES, 0, 0, LIMITS, in.modes[0].back_after_ms = 1);
    REFUSED(MODES, 1, 0, LIMITS, in.modes[1].back_after_ms = DROM_TIMER_LONGEST_MS + 1);
    REFUSED(VALUES, 0, 0, LIMITS, in.value.start = 11);
    REFUSED(VALUES, 0, 0, LIMITS, in.value.min = 6);
}

TEST(rules_that_make_no_sense_are_refused)
{
    REFUSED(RULES, 0, 0, NULL, in.plan.rules.rules.rows = NULL);
    REFUSED(RULES, 1, 0, NO_HANDSET, in.rules[1].row = 1);
    REFUSED(RULES, 1, 0, NO_KEY, in.rules[1].key = 2);
    REFUSED(RULES, 1, 0, GESTURES, in.rules[1].gestures = 0);
    REFUSED(RULES, 1, 0, GESTURES, in.rules[1].gestures = 128);
    REFUSED(RULES, 1, 0, NO_HOLD, in.rules[1].gestures = DROM_HOLD; in.rules[1].hold = 2);
    REFUSED(RULES, 0, 0, NO_DOUBLE, in.rules[0].gestures = DROM_DOUBLE);
    REFUSED(RULES, 1, 0, NO_ACTION, in.rules[1].actions.count = 0);
    REFUSED(RULES, 1, 0, NULL, in.rules[1].actions.rows = NULL);
    REFUSED(RULES, 1, 0, SOURCE, in.rules[1].source = DROM_SOURCES);
    REFUSED(RULES, 1, 0, NO_HANDSET, in.rules[1].source = DROM_SOURCE_LOST; in.rules[1].row = 1);
    REFUSED(RULES, 1, 0, NO_MODE, in.rules[1].source = DROM_SOURCE_MODE; in.rules[1].row = 2);
    REFUSED(RULES, 1, 0, NO_MODE, in.rules[1].source = DROM_SOURCE_MODE; in.rules[1].key = 2);
    REFUSED(RULES, 1, 0, NO_VALUE, in.rules[1].source = DROM_SOURCE_VALUE; in.rules[1].row = 1);
    REFUSED(RULES, 1, 0, NO_SWITCH, in.rules[1].source = DROM_SOURCE_SWITCH; in.rules[1].row = 1);
    REFUSED(RULES, 1, 0, NO_SWITCH, in.rules[1].source = DROM_SOURCE_SWITCH; in.rules[1].key = 2);
    REFUSED(RULES, 1, 0, NO_TIMER, in.rules[1].source = DROM_SOURCE_TIMER; in.rules[1].row = 1);
    REFUSED(RULES, 1, 0, ORDER, in.rules[0].source = DROM_SOURCE_START; in.actions[0].flags = 0);
    REFUSED(RULES, 1, 0, ORDER, in.rules[0].key = 1; in.rules[1].key = 0);
    REFUSED(RULES, 0, 0, NO_MODE, in.rules[0].mode = 3);
    REFUSED(RULES, 0, 0, AGAIN, in.rules[0].again = DROM_AGAINS);
    REFUSED(RULES, 0, 0, NO_SEQUENCE, in.rules[0].sequence = 3);
    REFUSED(RULES, 1, 0, NO_SEQUENCE,
            (in.rules[1].sequence = 1, in.rules[1].again = (uint8_t)(in.rules[0].again + 1)));
    REFUSED(RULES, 0, 1, NO_SEQUENCE, in.rules[0].sequence = 0);
    REFUSED(CONDITIONS, 0, 0, NULL, in.rules[0].conditions.rows = NULL);
    REFUSED(OTHERWISE, 0, 0, NULL, in.rules[0].otherwise.rows = NULL);
    REFUSED(RULES, 17, 0, ANSWERS, fill_with_the_second(&in));
    REFUSED(CONDITIONS, 0, 0, COMPARE, in.condition.compare = 0);
    REFUSED(CONDITIONS, 0, 0, COMPARE, in.condition.compare = DROM_LESS | DROM_EQUAL | DROM_GREATER);
    REFUSED(CONDITIONS, 0, 0, COMPARE, in.condition.subject = DROM_SUBJECTS);
    REFUSED(CONDITIONS, 0, 0, NO_VALUE, in.condition.row = 1);
    REFUSED(CONDITIONS, 0, 0, NO_OUTPUT, in.condition.subject = DROM_IF_OUTPUT; in.condition.row = 1);
    REFUSED(CONDITIONS, 0, 0, NO_SWITCH, in.condition.subject = DROM_IF_SWITCH; in.condition.row = 1);
    REFUSED(CONDITIONS, 0, 0, NO_TIMER, in.condition.subject = DROM_IF_TIMER; in.condition.row = 1);
}

#define SPOILT_ACTION(reason_of, ...)                                                                        \
    REFUSED(RULES, 0, 1, reason_of, in.actions[1] = (drom_action)__VA_ARGS__)

TEST(actions_that_make_no_sense_are_refused)
{
    SPOILT_ACTION(NO_OUTPUT, DROM_ORDER(1, ON, 1));
    SPOILT_ACTION(VERB, DROM_ORDER(0, ON, 11));
    SPOILT_ACTION(VERB, {.target = DROM_TARGETS});
    SPOILT_ACTION(HELD, DROM_ORDER_WHILE_HELD(0, ON, 1)); /* there is room for one */
    SPOILT_ACTION(VERB, DROM_WAIT(0));
    SPOILT_ACTION(VERB, DROM_WAIT(DROM_LONGEST_MS + 1));
    SPOILT_ACTION(NO_VALUE, {.target = DROM_TO_WAIT, .flags = DROM_OF_VALUE, .value = 1});
    SPOILT_ACTION(NO_OUTPUT, DROM_WAIT_FOR(1, 10));
    SPOILT_ACTION(VERB, DROM_WAIT_FOR(0, 0));
    SPOILT_ACTION(NO_MODE, DROM_ENTER(2));
    SPOILT_ACTION(NO_VALUE, DROM_COUNT(1, DROM_VALUE_UP, 1));
    SPOILT_ACTION(NO_VALUE, {.target = DROM_TO_VALUE, .flags = DROM_OF_VALUE, .value = 1});
    SPOILT_ACTION(VERB, DROM_COUNT(0, DROM_VALUE_VERBS, 1));
    SPOILT_ACTION(VERB, {.target = DROM_TO_WAIT_FOR, .verb = DROM_UNTILS, .value = 10});
    SPOILT_ACTION(NO_SWITCH, {.target = DROM_TO_WAIT_FOR, .row = 1, .verb = DROM_UNTIL_OPEN, .value = 10});
    SPOILT_ACTION(NO_VALUE, {.target = DROM_TO_TIMER, .flags = DROM_OF_VALUE | DROM_AS_MULTIPLE, .value = 1});
    SPOILT_ACTION(NO_VALUE, {.verb = ON, .flags = DROM_OF_VALUE | DROM_AS_TIME, .value = 1 << 8});
    SPOILT_ACTION(NO_TIMER, DROM_TIME(1, DROM_TIMER_START, 1));
    SPOILT_ACTION(VERB, DROM_TIME(0, DROM_TIMER_CANCEL + 1, 1));
    SPOILT_ACTION(VERB, DROM_TIME(0, DROM_TIMER_START, DROM_TIMER_LONGEST_MS + 1));
    SPOILT_ACTION(VERB, DROM_SCENE(0, DROM_SCENE_STOP + 1));
    SPOILT_ACTION(NO_VALUE, {.verb = ON, .flags = DROM_OF_VALUE, .value = 1});
    SPOILT_ACTION(VERB, {.verb = ON, .flags = DROM_OF_EVENT}); /* any number is possible */
    REFUSED(RULES, 0, 1, VERB, in.actions[1] = (drom_action){.verb = ON, .flags = DROM_OF_VALUE};
            in.value.max = 11); /* a limit beyond the output's range */
    REFUSED(RULES, 0, 1, VERB,
            in.actions[1] = (drom_action){.target = DROM_TO_TIMER,
                                          .flags = DROM_OF_VALUE | DROM_AS_MULTIPLE,
                                          .value = 3600000 << 8};
            in.value.max = 25); /* hours */
    REFUSED(RULES, 0, 0, HELD, in.actions[0].flags |= DROM_OF_EVENT);
    REFUSED(OTHERWISE, 0, 0, HELD, in.rules[1].source = DROM_SOURCE_START;
            in.otherwise.flags = DROM_WHILE_HELD);
}

TEST(all_that_makes_sense_is_taken)
{
    static const drom_action all[] = {
        DROM_ORDER(0, ON, 10),
        DROM_WAIT(DROM_LONGEST_MS),
        DROM_WAIT_FOR(0, 1),
        DROM_ENTER(1),
        DROM_COUNT(0, DROM_VALUE_TO, -3),
        DROM_TIME(0, DROM_TIMER_CANCEL, 0),
        DROM_SCENE(0, DROM_SCENE_STOP),
        {.verb = ON, .flags = DROM_OF_VALUE},
        {.target = DROM_TO_WAIT, .flags = DROM_OF_VALUE},
        {.target = DROM_TO_VALUE, .flags = DROM_OF_VALUE},
        {.target = DROM_TO_VALUE, .verb = DROM_VALUE_OVER, .flags = DROM_INTO_SUM},
        {.target = DROM_TO_TIMER, .flags = DROM_OF_VALUE | DROM_AS_MULTIPLE, .value = 1000 << 8},
        {.target = DROM_TO_WAIT_FOR, .verb = DROM_UNTIL_CLOSED, .value = 10},
    };
    static const drom_condition each[] = {{DROM_IF_VALUE, 0, DROM_LESS, 3},
                                          {DROM_IF_OUTPUT, 0, DROM_EQUAL, 1},
                                          {DROM_IF_SWITCH, 0, DROM_GREATER | DROM_EQUAL, 1},
                                          {DROM_IF_TIMER, 0, DROM_LESS | DROM_GREATER, 1},
                                          {DROM_IF_MODE, 1, DROM_EQUAL, 1},
                                          {DROM_IF_VALUE, 0, DROM_LESS | DROM_THAN_VALUE, 0}};
    const drom_port_facts facts = {.pins = 20};
    sound in;
    make_sound(&in);
    in.rules[0].conditions.rows = each;
    in.rules[0].conditions.count = G_N_ELEMENTS(each);
    in.rules[1].gestures = DROM_DOUBLE | DROM_HOLD;
    in.rules[1].mode = 2;
    in.rules[2] = in.rules[1];
    in.rules[2].key = DROM_ANY_OTHER_KEY;
    in.rules[2].gestures = DROM_PRESS;
    for (uint8_t source = DROM_SOURCE_LOST; source < DROM_SOURCES; source++) {
        in.rules[source + 2] = (drom_rule){.source = source, .actions = {&in.otherwise, 1}};
    }
    in.rules[3].sequence = 2;
    in.rules[3].actions.rows = all;
    in.rules[3].actions.count = G_N_ELEMENTS(all);
    in.plan.rules.rules.count = DROM_SOURCES + 2;
    ck_assert_int_eq(drom_plan_check(&in.plan, &facts, NULL), DROM_OK);
    ck_assert_uint_eq(drom_rules_uses(&in.plan.rules),
                      DROM_USES(WAITS) | DROM_USES(MODES) | DROM_USES(VALUES) | DROM_USES(TIMERS) |
                          DROM_USES(SCENES) | DROM_USES(CONDITIONS) | DROM_USES(NUMBERS) | DROM_USES(HOLDS) |
                          DROM_USES(POSTS) | DROM_USES(MULTIPLES) | DROM_USES(SUMS));
    ck_assert_uint_eq(drom_plan_uses(&in.plan) & DROM_USES(INPUTS), DROM_USES(INPUTS));
    in.plan.contacts.contacts.count = 0;
    in.plan.rules = (drom_rules_plan){.rules = {&in.rules[1], 1}, .last_presses = in.plan.rules.last_presses};
    in.rules[1].mode = 0;
    ck_assert_int_eq(drom_plan_check(&in.plan, &facts, NULL), DROM_OK);
    ck_assert_uint_eq(drom_rules_uses(&in.plan.rules), 0);
}

TEST(faults_have_sentences)
{
    static const struct {
        drom_fault fault;
        const char *text;
    } rows[] = {
        {{DROM_PART_OUTPUTS, DROM_REASON_PIN, 2, 0}, "outputs, row 2, item 0: the port has no such pin"},
        {{DROM_PART_HOLD_MS, DROM_REASON_ORDER, 255, 9}, "hold times, row 255: the rows must be ascending"},
        {{DROM_PART_PLAN, DROM_REASON_SWITCHED_OFF, DROM_FEATURE_PIXELS, 0},
         "plan: drom_config.h must switch on DROM_WITH_PIXELS"},
        {{DROM_PARTS_COUNT, DROM_REASONS, 0, 0}, "unknown table, row 0: unknown reason"},
    };
    char text[80];
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        ck_assert_str_eq(drom_fault_text(&rows[i].fault, text, sizeof text), rows[i].text);
    }
    for (unsigned part = 0; part < DROM_PARTS_COUNT; part++) {
        for (unsigned reason = 0; reason < DROM_REASONS; reason++) {
            const drom_fault fault = {(drom_fault_part)part, (drom_reason)reason, 254, 254};
            char room[120];
            ck_assert_uint_gt(strlen(drom_fault_text(&fault, room, sizeof room)), 10);
            ck_assert_uint_lt(strlen(room), sizeof room - 1); /* none is truncated */
        }
    }
    ck_assert_str_eq(drom_fault_text(&rows[0].fault, text, 8), "outputs");
    ck_assert_str_eq(drom_fault_text(&rows[0].fault, text, 1), "");
    text[0] = 'x';
    (void)drom_fault_text(&rows[0].fault, text, 0);
    ck_assert_int_eq(text[0], 'x');
}

TEST(guard_of_no_pin_or_of_no_time_is_refused)
{
    static const drom_rest_pin good[] = {{7, false}, {12, true}};
    static const drom_rest_pin far[] = {{7, false}, {20, true}};
    static const struct {
        drom_guard_plan guard;
        drom_reason reason;
        uint8_t row;
    } guards[] = {
        {{.pins = {good, 2}, .ms = 250}, DROM_REASON_NONE, 0},
        {{.pins = {NULL, 2}, .ms = 250}, DROM_REASON_NULL, 0},
        {{.pins = {far, 2}, .ms = 250}, DROM_REASON_PIN, 1},
        {{.pins = {good, 2}, .ms = DROM_GUARD_MIN_MS - 1}, DROM_REASON_LIMITS, 0},
        {{.pins = {good, 2}, .ms = DROM_GUARD_MAX_MS + 1}, DROM_REASON_LIMITS, 0},
    };
    const drom_port_facts pins = {.pins = 20};
    for (size_t i = 0; i < G_N_ELEMENTS(guards); i++) {
        const drom_plan only = {.guard = guards[i].guard};
        drom_fault fault = {0};
        const bool is_good = guards[i].reason == DROM_REASON_NONE;
        ck_assert_int_eq(drom_plan_check(&only, &pins, &fault), is_good ? DROM_OK : DROM_BAD_PLAN);
        ck_assert(is_good || fault.part == DROM_PART_GUARD);
        ck_assert_int_eq(fault.reason, guards[i].reason);
        ck_assert_uint_eq(fault.row, guards[i].row);
    }
    const drom_plan guarded = {.guard = guards[0].guard};
    ck_assert_uint_eq(drom_plan_uses(&guarded), DROM_USES(GUARD));
}

/* Tables written by hand, each changed at one place that would break a decoder, an encoder or an output. */
static const drom_pulse_timing good_pulse = {.leader_mark_us = 9000,
                                             .leader_space_us = 4500,
                                             .zero_mark_us = 560,
                                             .zero_space_us = 560,
                                             .one_mark_us = 560,
                                             .one_space_us = 1690,
                                             .bits = 32};
static const drom_phase_timing good_phase = {.unit_us = 889, .bits = 14, .double_bit = 255};
static const drom_quad_timing good_quad = {417, 278, 167, 278, 167, 12};

static void assert_timing_refused(drom_step *step, drom_accepts_timing *accepts, const void *timing,
                                  bool is_refused)
{
    const drom_protocol odd = {.id = "odd",
                               .number = DROM_OWN_PROTOCOL,
                               .step = step,
                               .accepts = accepts,
                               .timing = timing,
                               .unpack = drom_pulse_unpack_plain,
                               .period_us = 100000};
    const drom_protocol_ref rows[] = {&drom_nec, &odd};
    drom_decoder memory[2];
    drom_fault fault = {0};
    drom_plan plan = {0};
    plan.receive.protocols.rows = rows;
    plan.receive.protocols.count = 2;
    plan.receive.decoders = memory;
    const drom_status status = drom_plan_check(&plan, &(drom_port_facts){.pins = 20}, &fault);
    ck_assert_int_eq(status, is_refused ? DROM_BAD_PLAN : DROM_OK);
    if (is_refused) {
        ck_assert_int_eq(fault.part, DROM_PART_PROTOCOLS);
        ck_assert_int_eq(fault.reason, DROM_REASON_TIMING);
        ck_assert_uint_eq(fault.row, 1);
    }
}

#define ASSERT_TIMING(family, type, member, value)                                                           \
    do {                                                                                                     \
        type bad = good_##family;                                                                            \
        bad.member = (value);                                                                                \
        assert_timing_refused(drom_##family##_step, drom_##family##_accepts, &bad, true);                    \
    } while (0)

TEST(figures_that_a_decoder_would_trip_over_are_refused)
{
    assert_timing_refused(drom_pulse_step, drom_pulse_accepts, &good_pulse, false);
    assert_timing_refused(drom_phase_step, drom_phase_accepts, &good_phase, false);
    assert_timing_refused(drom_quad_step, drom_quad_accepts, &good_quad, false);
    ASSERT_TIMING(pulse, drom_pulse_timing, bits, 49);
    ASSERT_TIMING(pulse, drom_pulse_timing, bits, 0);
    ASSERT_TIMING(pulse, drom_pulse_timing, zero_mark_us, 0);
    ASSERT_TIMING(pulse, drom_pulse_timing, one_space_us, 560);
    ASSERT_TIMING(pulse, drom_pulse_timing, leader_space_us, 0);
    ASSERT_TIMING(pulse, drom_pulse_timing, toggle_bit, 33);
    ASSERT_TIMING(phase, drom_phase_timing, unit_us, 0);
    ASSERT_TIMING(phase, drom_phase_timing, bits, 49);
    ASSERT_TIMING(phase, drom_phase_timing, bits, 0);
    ASSERT_TIMING(phase, drom_phase_timing, leader_mark_us, 500); /* which lasts 0 units */
    ASSERT_TIMING(phase, drom_phase_timing, double_bit, 14);
    ASSERT_TIMING(phase, drom_phase_timing, toggle_bit, 15);
    ASSERT_TIMING(quad, drom_quad_timing, step_us, 0);
    ASSERT_TIMING(quad, drom_quad_timing, bits, 34);
    ASSERT_TIMING(quad, drom_quad_timing, bits, 13);
    ASSERT_TIMING(quad, drom_quad_timing, bits, 0);
    ASSERT_TIMING(quad, drom_quad_timing, leader_mark_us, 0);
}

/* An output in the second row of a plan, on a machine with 20 pins. */
static void assert_output_refused(const drom_output *output, drom_reason reason, unsigned item)
{
    const drom_output rows[] = {DROM_RELAY(bell, bell_state), *output};
    drom_fault fault = {0};
    const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(rows)}};
    ck_assert_int_eq(drom_plan_check(&plan, &(drom_port_facts){.pins = 20}, &fault),
                     reason == DROM_REASON_NONE ? DROM_OK : DROM_BAD_PLAN);
    if (reason != DROM_REASON_NONE) {
        ck_assert_int_eq(fault.part, DROM_PART_OUTPUTS);
        ck_assert_int_eq(fault.reason, reason);
        ck_assert_uint_eq(fault.row, 1);
        ck_assert_uint_eq(fault.item, item);
    }
}

#define ASSERT_OUTPUT(kind, good, member, value, reason, item)                                               \
    do {                                                                                                     \
        drom_##kind##_settings bad = good;                                                                   \
        drom_##kind##_state memory;                                                                          \
        bad.member = value;                                                                                  \
        assert_output_refused(&(drom_output){&drom_##kind, &bad, &memory}, reason, item);                    \
    } while (0)

static void called(int16_t value)
{
    (void)value;
}

static const drom_call_settings good_call = {called};

static const drom_sender_key horn_keys[] = {{&drom_nec_waveform, 4, 70, 0, 0, 0},
                                            {&drom_nec_waveform, 4, 71, 0, 0, 0}};
static const drom_sender_settings good_horn = {.keys = DROM_ROWS(horn_keys), .pin = 3};

/* A sender whose second key is this. */
static void assert_key_refused(drom_sender_key key, drom_reason reason)
{
    const drom_sender_key keys[] = {horn_keys[0], key};
    const drom_sender_settings settings = {.keys = DROM_ROWS(keys), .pin = 3};
    drom_sender_state memory;
    assert_output_refused(&(drom_output)DROM_SENDER(settings, memory), reason, 1);
}

TEST(settings_that_an_output_would_trip_over_are_refused)
{
    static const uint32_t colours[DROM_STRIP_COLOURS + 1];
    static const drom_strip_palette palettes[] = {{{colours, 3}}};
    static const drom_strip_palette null_palette[] = {{{colours, 3}}, {{NULL, 3}}};
    static const drom_strip_palette empty_palette[] = {{{colours, 0}}};
    static const drom_strip_palette long_palette[] = {{{colours, 3}}, {{colours, DROM_STRIP_COLOURS + 1}}};
    static const drom_strip_effect_ref effects[] = {drom_strip_chase};
    static const drom_strip_effect_ref null_effect[] = {drom_strip_chase, NULL};
    static uint8_t bytes[30];
    static const drom_strip_settings strip = {.bytes = bytes,
                                              .count = 10,
                                              .order = {1, 0, 2},
                                              .palettes = DROM_ROWS(palettes),
                                              .effects = DROM_ROWS(effects)};
    static const drom_stepper_settings stepper = {.pins = {1, 2, 3, 4}, .first_us = 9000, .fastest_us = 3000};
    static const drom_lamp_settings lamp = {.pin = 5};
    ASSERT_OUTPUT(strip, strip, pin, 6, DROM_REASON_NONE, 0);
    ASSERT_OUTPUT(strip, strip, pin, 200, DROM_REASON_PIN, 0);
    ASSERT_OUTPUT(strip, strip, bytes, NULL, DROM_REASON_NULL, 0);
    ASSERT_OUTPUT(strip, strip, count, 0, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(strip, strip, order[0], 2, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(strip, strip, order[0], 9, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(strip, strip, palettes.rows, NULL, DROM_REASON_NULL, 0);
    ASSERT_OUTPUT(strip, strip, palettes.count, 0, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(strip, strip, effects.rows, NULL, DROM_REASON_NULL, 0);
    drom_strip_settings more = strip;
    more.palettes.count = 2;
    ASSERT_OUTPUT(strip, more, palettes.rows, null_palette, DROM_REASON_NULL, 1);
    ASSERT_OUTPUT(strip, more, palettes.rows, long_palette, DROM_REASON_SETTINGS, 1);
    ASSERT_OUTPUT(strip, strip, palettes.rows, empty_palette, DROM_REASON_SETTINGS, 0);
    more = strip;
    more.effects.count = 2;
    ASSERT_OUTPUT(strip, more, effects.rows, null_effect, DROM_REASON_NULL, 1);
    ASSERT_OUTPUT(stepper, stepper, pins[3], 19, DROM_REASON_NONE, 0);
    ASSERT_OUTPUT(stepper, stepper, pins[3], 20, DROM_REASON_PIN, 3);
    ASSERT_OUTPUT(stepper, stepper, fastest_us, 0, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(stepper, stepper, first_us, 2999, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(lamp, lamp, pin, 20, DROM_REASON_PIN, 0);
    ASSERT_OUTPUT(relay, bell, pin, 200, DROM_REASON_PIN, 0);
    ASSERT_OUTPUT(relay, bell, min_on_ms, DROM_LONGEST_MS + 1, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(sender, good_horn, keys.count, 129, DROM_REASON_SETTINGS, 0);
    ASSERT_OUTPUT(call, good_call, function, NULL, DROM_REASON_NULL, 0);
    ASSERT_OUTPUT(sender, good_horn, pin, 200, DROM_REASON_PIN, 0);
    ASSERT_OUTPUT(sender, good_horn, keys.rows, NULL, DROM_REASON_NULL, 0);
    ASSERT_OUTPUT(sender, good_horn, keys.count, 0, DROM_REASON_NONE,
                  0); /* an output that nothing drives yet */
}

TEST(key_that_cannot_be_sent_is_refused)
{
    static const drom_protocol odd = {.id = "odd", .timing = &good_pulse};
    static const drom_pulse_timing long_pulse = {.bits = 60};
    drom_waveform bad = drom_nec_waveform;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_NONE);
    assert_key_refused((drom_sender_key){NULL, 4, 70, 0, 0, 0}, DROM_REASON_NULL);
    assert_key_refused((drom_sender_key){&bad, 256, 70, 0, 0, 0}, DROM_REASON_CODE);
    assert_key_refused((drom_sender_key){&bad, 4, 256, 0, 0, 0}, DROM_REASON_CODE);
    bad.protocol = NULL;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_NULL);
    bad.protocol = &odd;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_PERIOD);
    bad = drom_nec_waveform;
    bad.chunk = NULL;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_NULL);
    bad = drom_nec_waveform;
    bad.timing = NULL;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_NULL);
    bad.timing = &long_pulse;
    assert_key_refused((drom_sender_key){&bad, 4, 70, 0, 0, 0}, DROM_REASON_TIMING);
}

SUITE("check")
