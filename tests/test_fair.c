/* Nothing waits for ever: whatever own code posts and a plan loops over, keys, contacts, frames, limits and
 * pictures are handled in time. */
#include "support.h"
#include "dromikos/outputs/call.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/servo.h"
#include "dromikos/outputs/strip.h"
#include "dromikos/internal/queue.h"

#include "sim.h"

#include <stdlib.h>
#include <string.h>

enum { WAND, DOOR };                                                        /* handsets */
enum { UP, DOWN };                                                          /* keys of the wand */
enum { OWN, FLAG, LIGHTS, LAMPS, SPOT = LAMPS + 6, FAN, CURTAIN, OUTPUTS }; /* outputs; six are lamps */
enum { TOP_PIN = 18, BELL_PIN = 19, SWITCH_TOUCH = 0, DOOR_TOUCH, CONTACTS };
enum { SENSOR };    /* events of own code */
enum { HEARD = 7 }; /* the argument of its function for any code */
enum { LOOPS = 6, PIXELS = 30, NAP = 0, LATE_MS = 20 };

static const drom_protocol_ref protocols[] = {&drom_nec};
static const drom_code wand[] = {[UP] = {DROM_NEC, 33, 24}, [DOWN] = {DROM_NEC, 33, 82}};
static const drom_code door[] = {{.protocol = DROM_NO_PROTOCOL}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand)}, {.codes = DROM_ROWS(door)}};
static const drom_contact contacts[] = {
    [SWITCH_TOUCH] = {TOP_PIN, DROM_NONE, 0}, [DOOR_TOUCH] = {BELL_PIN, DOOR, 0}};
static drom_touch touches[CONTACTS];
static drom_deadline look_at;
static const drom_motor_settings curtain = {.stops_forward = &touches[SWITCH_TOUCH].is_closed,
                                            .dead_ms = 50,
                                            .forward_pin = 7,
                                            .back_pin = 12,
                                            .speed_pin = 5,
                                            .slowest = 1,
                                            .fastest = 255};
static const drom_relay_settings spot = {.pin = 4};
static const drom_relay_settings fan = {.pin = 9, .max_on_ms = 500};
static const drom_servo_settings flag = {.min_us = 1000, .max_us = 2000, .pin = 10};
static uint8_t bytes[3 * PIXELS];
static const drom_strip_settings lights = {
    .bytes = bytes, .count = PIXELS, .pin = 6, .order = {1, 0, 2}, .every_ms = 20};
static drom_engine engine;
static bool posts_itself;
static unsigned calls;
static unsigned calls_of[8]; /* by the number that they get as argument */
static GString *heard;       /* commands that a rule about any code found */

static void own(int16_t value)
{
    calls++;
    calls_of[value]++;
    if (value == HEARD && heard != NULL) {
        g_string_append_printf(heard, "%u ", drom_engine_frame(&engine)->code.command);
    }
    if (posts_itself) {
        (void)drom_engine_post(&engine, SENSOR, 0);
    }
}

static const drom_call_settings own_call = {.function = own};
static drom_motor_state curtain_state;
static drom_relay_state spot_state, fan_state;
static drom_servo_state flag_state;
static drom_strip_state lights_state;
static drom_call_state call_state;
static const drom_lamp_settings lamp = {.pin = 11};
static drom_lamp_state lamp_states[SPOT - LAMPS];
#define LAMP(which) [LAMPS + (which)] = DROM_LAMP(lamp, lamp_states[which])
/* Outputs with deadlines come last. */
static const drom_output outputs[OUTPUTS] = {LAMP(0),
                                             LAMP(1),
                                             LAMP(2),
                                             LAMP(3),
                                             LAMP(4),
                                             LAMP(5),
                                             [CURTAIN] = DROM_MOTOR(curtain, curtain_state),
                                             [SPOT] = DROM_RELAY(spot, spot_state),
                                             [FAN] = DROM_RELAY(fan, fan_state),
                                             [FLAG] = DROM_SERVO(flag, flag_state),
                                             [LIGHTS] = DROM_STRIP(lights, lights_state),
                                             [OWN] = DROM_CALL(own_call, call_state)};

static const drom_action while_up[] = {DROM_ORDER_WHILE_HELD(SPOT, DROM_RELAY_ON, 0)};
static const drom_action on_sensor[] = {DROM_ORDER(OWN, DROM_CALL_CALL, 0)};
static const drom_action on_nap[] = {DROM_ORDER(LIGHTS, DROM_STRIP_FILL, 0xff0000)};
/* Its output is never busy, so each wait ends at once. */
#define LOOP(scene)                                                                                          \
    {                                                                                                        \
        DROM_ORDER(OWN, DROM_CALL_CALL, scene), DROM_WAIT_FOR(FLAG, 1000),                                   \
            DROM_ORDER(OWN, DROM_CALL_CALL, scene), DROM_WAIT_FOR(FLAG, 1000),                               \
            DROM_ORDER(OWN, DROM_CALL_CALL, scene), DROM_SCENE(scene, DROM_SCENE_BEGIN)                      \
    }
static const drom_action loops[LOOPS][6] = {LOOP(0), LOOP(1), LOOP(2), LOOP(3), LOOP(4), LOOP(5)};
static drom_sequence sequences[LOOPS];
static const drom_action on_heard[] = {DROM_ORDER(OWN, DROM_CALL_CALL, HEARD)};
static drom_rule rules[LOOPS + 4];
static drom_posts posts[1];
static drom_decoder decoders[1];
static drom_hold holds[2];
static drom_last_press last_presses[2];
static drom_held held[1];
static drom_timer timers[1];
static bool switches[1];

/* Loads that could block the others. */
typedef enum storm { CALM, EACH_TURN, BY_ITSELF, BY_INTERRUPT, LOOPED, STORMS } storm;

typedef struct stage {
    sim_bench *bench;
    sim_strip *strip;
    storm blows;
    drom_plan plan;
    drom_observer observer;
    unsigned presses;
    unsigned bells;
    uint64_t stopped_us; /* the time of each when first seen */
    uint64_t closed_us;
    uint64_t spot_off_us;
    uint64_t fan_off_us;
    uint64_t nap_us;
} stage;

static void on_key(void *context, const drom_key_event *event)
{
    stage *const in = context;
    in->presses += event->gesture == DROM_PRESS && event->handset == WAND;
    in->bells += event->gesture == DROM_PRESS && event->handset == DOOR;
}

static void on_event(void *context, const drom_event *event)
{
    stage *const in = context;
    const uint64_t now_us = sim_bench_now(in->bench);
    if (event->source == DROM_SOURCE_SWITCH && event->key == DROM_CLOSES) {
        in->closed_us = now_us;
    } else if (event->source == DROM_SOURCE_TIMER) {
        in->nap_us = now_us;
    }
}

static void open_stage(stage *opened, storm blows, const sim_processor *processor)
{
    drom_fault fault = {0};
    unsigned count = 0;
    *opened = (stage){.blows = blows, .bench = sim_bench_new(1)};
    posts_itself = blows == BY_ITSELF;
    calls = 0;
    rules[count++] = (drom_rule)DROM_WHEN_KEY(WAND, UP, DROM_PRESS, while_up);
    rules[count++] =
        (drom_rule){.source = DROM_SOURCE_POSTED, .row = SENSOR, .actions = DROM_ROWS(on_sensor)};
    rules[count++] = (drom_rule){.source = DROM_SOURCE_TIMER, .row = NAP, .actions = DROM_ROWS(on_nap)};
    for (uint8_t i = 0; i < LOOPS; i++) {
        rules[count++] = (drom_rule){.source = DROM_SOURCE_SCENE,
                                     .row = i,
                                     .sequence = (uint8_t)(i + 1),
                                     .actions = DROM_ROWS(loops[i])};
    }
    rules[count++] = (drom_rule){.source = DROM_SOURCE_HEARD, .actions = DROM_ROWS(on_heard)};
    opened->plan = (drom_plan){
        .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
        .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
        .contacts = {.contacts = DROM_ROWS(contacts), .touches = touches, .next = &look_at},
        .events = {.posts = DROM_ROWS(posts)},
        .rules = {.rules = {rules, (uint8_t)count},
                  .last_presses = DROM_ROWS(last_presses),
                  .sequences = DROM_ROWS(sequences),
                  .held = DROM_ROWS(held),
                  .timers = DROM_ROWS(timers),
                  .switches = DROM_ROWS(switches)},
        .outputs = {.outputs = DROM_ROWS(outputs)},
    };
    sim_bench_set_processor(opened->bench, processor);
    opened->strip = sim_bench_wire_strip(opened->bench, lights.pin, PIXELS, 9);
    opened->observer = (drom_observer){.context = opened, .key = on_key, .event = on_event};
    ck_assert_msg(drom_engine_init(&engine, &opened->plan, sim_bench_port(opened->bench), &fault) == DROM_OK,
                  "part %d, row %u, item %u, reason %d", (int)fault.part, fault.row, fault.item,
                  (int)fault.reason);
    sim_bench_wire_engine(opened->bench, &engine);
    drom_engine_observe(&engine, &opened->observer);
}

static void look(stage *in)
{
    const uint64_t now_us = sim_bench_now(in->bench);
    const struct {
        uint64_t *first_us;
        bool is_over;
    } rows[] = {{&in->stopped_us, curtain_state.speed == 0},
                {&in->spot_off_us, !spot_state.is_on},
                {&in->fan_off_us, !fan_state.is_on}};
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        *rows[i].first_us = !rows[i].is_over ? 0 : *rows[i].first_us != 0 ? *rows[i].first_us : now_us;
    }
}

/* One turn of a maker's loop. */
static void turn(stage *in)
{
    for (unsigned i = 0; in->blows == EACH_TURN && i < 8; i++) {
        (void)drom_engine_post(&engine, SENSOR, 0);
    }
    for (unsigned i = 0; in->blows == BY_INTERRUPT && i < 2; i++) {
        (void)drom_engine_post_from(&engine, 0, SENSOR, 0);
    }
    const drom_us wait = drom_engine_poll(&engine);
    look(in);
    (void)sim_bench_sleep(in->bench, MIN(wait, 500));
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        turn(in);
    }
}

static void begin_storm(const stage *in)
{
    for (uint8_t i = 0; i < LOOPS && in->blows == LOOPED; i++) {
        (void)drom_events_post(&engine.events, &(drom_event){.source = DROM_SOURCE_SCENE, .row = i});
    }
    if (in->blows == BY_ITSELF) {
        (void)drom_engine_post(&engine, SENSOR, 0);
    }
}

static void order(uint8_t row, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&engine, row, verb, value), DROM_OK);
}

static const sim_processor processors[] = {
    {0},
    {.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 130},
    {.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 300},
};

/* A contact's change is reported 12 to 16 ms after it closes; without bounce, at any moment between two
 * looks. */
TEST(motor_stands_within_20_ms_of_its_switch_whatever_is_posted)
{
    for (storm blows = CALM; blows < STORMS; blows++) {
        for (size_t chip = 0; chip < G_N_ELEMENTS(processors); chip++) {
            for (unsigned i = 0; i < 10; i++) {
                stage in;
                const uint64_t at_us = 300000 + i * 437;
                open_stage(&in, blows, &processors[chip]);
                play_until(&in, 100);
                order(CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(200));
                begin_storm(&in);
                while (sim_bench_now(in.bench) < at_us) {
                    turn(&in);
                }
                ck_assert_int_ne(curtain_state.speed, 0);
                sim_bench_close(in.bench, TOP_PIN, true);
                play_until(&in, 400);
                ck_assert_msg(in.stopped_us != 0 && in.stopped_us <= at_us + LATE_MS * 1000,
                              "storm %d, chip %zu: it stood at %u us, and its switch closed at %u",
                              (int)blows, chip, (unsigned)in.stopped_us, (unsigned)at_us);
                ck_assert_msg(in.closed_us != 0 && in.closed_us <= at_us + 16000 + LATE_MS * 1000,
                              "storm %d, chip %zu: the event came at %u us", (int)blows, chip,
                              (unsigned)in.closed_us);
                sim_bench_free(in.bench);
            }
        }
    }
}

/* The times of events when nothing blocks them. */
static stage calm_evening(storm blows, const sim_processor *processor)
{
    stage in;
    open_stage(&in, blows, processor);
    play_until(&in, 50);
    begin_storm(&in);
    order(FAN, DROM_RELAY_ON, 0);
    drom_timer_start(&timers[NAP], engine.timing.now, 700);
    for (unsigned i = 0; i < 10; i++) {
        ck_assert(sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[DOWN], 100000 + i * 250000));
        sim_bench_touch(in.bench, BELL_PIN, 150000 + i * 100000, i % 2 == 0);
    }
    ck_assert(sim_bench_press(
        in.bench,
        &(sim_press){.waveform = &drom_nec_waveform, .code = wand[UP], .at_us = 2700000, .held_us = 900000}));
    play_until(&in, 3300);
    ck_assert(spot_state.is_on);
    play_until(&in, 4500);
    return in;
}

TEST(keys_releases_limits_timers_and_pictures_come_whatever_is_posted)
{
    for (size_t chip = 0; chip < G_N_ELEMENTS(processors); chip++) {
        stage calm = calm_evening(CALM, &processors[chip]);
        const unsigned pictures = sim_strip_refreshes(calm.strip);
        ck_assert_uint_eq(calm.presses, 11);
        ck_assert_uint_eq(calm.bells, 5);
        sim_bench_free(calm.bench);
        for (storm blows = EACH_TURN; blows < STORMS; blows++) {
            stage in = calm_evening(blows, &processors[chip]);
            const struct {
                const char *what;
                uint64_t calm_us;
                uint64_t us;
            } rows[] = {{"a release", calm.spot_off_us, in.spot_off_us},
                        {"a limit", calm.fan_off_us, in.fan_off_us},
                        {"a timer", calm.nap_us, in.nap_us}};
            ck_assert_msg(in.presses == calm.presses && in.bells == calm.bells,
                          "storm %d, chip %zu: %u presses, %u of the bell", (int)blows, chip, in.presses,
                          in.bells);
            for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
                ck_assert_msg(rows[i].us != 0 && rows[i].us <= rows[i].calm_us + LATE_MS * 1000,
                              "storm %d, chip %zu: %s came at %u us, and not at %u", (int)blows, chip,
                              rows[i].what, (unsigned)rows[i].us, (unsigned)rows[i].calm_us);
            }
            ck_assert_uint_ge(sim_strip_refreshes(in.strip), pictures / 2);
            ck_assert_uint_eq(sim_strip_pixel(in.strip, 0)[1], 0xff); /* red since the timer ended */
            ck_assert_uint_gt(calls, 500);                            /* the storm blew */
            sim_bench_free(in.bench);
        }
    }
}

/* Six loops run at once, each as often as the others. */
TEST(loops_go_round)
{
    for (size_t chip = 0; chip < G_N_ELEMENTS(processors); chip++) {
        stage in;
        open_stage(&in, LOOPED, &processors[chip]);
        memset(calls_of, 0, sizeof calls_of);
        play_until(&in, 50);
        begin_storm(&in);
        play_until(&in, 5000);
        for (unsigned i = 0; i < LOOPS; i++) {
            ck_assert_msg(
                calls_of[i] > 300 && calls_of[i] * 4 > calls_of[0] * 3 && calls_of[i] * 3 < calls_of[0] * 4,
                "chip %zu: loop %u came %u times, and the first %u", chip, i, calls_of[i], calls_of[0]);
        }
        sim_bench_free(in.bench);
    }
}

/* Main and two interrupts post as fast as posts are taken: each gets its turn. */
TEST(sources_of_posts_go_round)
{
    static drom_posts more[2];
    static const drom_action on_post[] = {
        {.target = DROM_TO_OUTPUT, .row = OWN, .verb = DROM_CALL_CALL, .flags = DROM_OF_EVENT}};
    for (size_t chip = 0; chip < G_N_ELEMENTS(processors); chip++) {
        stage in;
        open_stage(&in, CALM, &processors[chip]);
        rules[1].actions.rows = on_post;
        in.plan.events.posts.rows = more;
        in.plan.events.posts.count = G_N_ELEMENTS(more);
        ck_assert_int_eq(drom_engine_init(&engine, &in.plan, sim_bench_port(in.bench), NULL), DROM_OK);
        memset(calls_of, 0, sizeof calls_of);
        while (sim_bench_now(in.bench) < 2000000) {
            while (drom_engine_post(&engine, SENSOR, 1) == DROM_OK) {
            }
            for (uint8_t source = 0; source < G_N_ELEMENTS(more); source++) {
                while (drom_engine_post_from(&engine, source, SENSOR, (int16_t)(2 + source)) == DROM_OK) {
                }
            }
            (void)sim_bench_sleep(in.bench, MIN(drom_engine_poll(&engine), 500));
        }
        ck_assert_uint_gt(calls_of[1], 500);
        ck_assert_uint_le(calls_of[1] - calls_of[2], 1);
        ck_assert_uint_le(calls_of[1] - calls_of[3], 1);
        sim_bench_free(in.bench);
    }
}

/* A function that a rule about any code calls gets the frame of its event, and no later one, even if others
 * arrive while the event before is still handled. If that takes too long, frames are lost, but none is
 * confused with another. */
TEST(frames_are_kept_until_their_rule_has_seen_them)
{
    static drom_action many[250];
    for (size_t i = 0; i < G_N_ELEMENTS(many); i++) {
        many[i] = (drom_action)DROM_ORDER(OWN, DROM_CALL_CALL, 0);
    }
    for (unsigned count = 1; count <= G_N_ELEMENTS(many); count += 83) {
        for (size_t chip = 0; chip < G_N_ELEMENTS(processors); chip++) {
            stage in;
            heard = g_string_new(NULL);
            open_stage(&in, EACH_TURN, &processors[chip]);
            rules[1].actions.rows = many;
            rules[1].actions.count = (uint8_t)count;
            for (unsigned i = 0; i < 20; i++) {
                const drom_code code = {DROM_NEC, 99, (uint16_t)(i + 1)}; /* no handset knows it */
                ck_assert(sim_bench_press_once(in.bench, &drom_nec_waveform, &code, 100000 + i * 120000));
            }
            play_until(&in, 2700);
            g_auto(GStrv) numbers = g_strsplit(g_strchomp(heard->str), " ", -1);
            const guint length = g_strv_length(numbers);
            ck_assert_uint_ge(length, count == 1 ? 20 : 5);
            for (guint i = 1; i < length; i++) {
                ck_assert_msg(atoi(numbers[i]) > atoi(numbers[i - 1]), "%u actions, chip %zu: %s", count,
                              chip, heard->str);
            }
            g_string_free(heard, TRUE);
            heard = NULL;
            sim_bench_free(in.bench);
        }
    }
}

SUITE("fair")
