/* The scheduler of the air: our bursts, their echo in our receiver, and keys that are held meanwhile. */
#include "support.h"

#include "sim.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"

enum { WAND, UP = 0, DOWN, BELL = 0, HORN };

static const drom_protocol_ref protocols[] = {&drom_nec, &drom_samsung32};
static const drom_code wand[] = {{DROM_NEC, 33, 24}, {DROM_SAMSUNG32, 33, 82}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand)}};
static const drom_relay_settings bell = {.pin = 7};
static drom_relay_state bell_state;
static const drom_sender_key keys[] = {{&drom_samsung32_waveform, 7, 7, 62, 62, 0},
                                       {&drom_sirc12_waveform, 1, 2, 115, 25, 0}};
static const drom_sender_settings open_horn = {.keys = DROM_ROWS(keys), .pin = 3};
static const drom_sender_settings shielded_horn = {.keys = DROM_ROWS(keys), .pin = 3, .is_shielded = true};
static drom_sender_state horn_state;
static const drom_output open_outputs[] = {DROM_RELAY(bell, bell_state), DROM_SENDER(open_horn, horn_state)};
static const drom_output shielded_outputs[] = {DROM_RELAY(bell, bell_state),
                                               DROM_SENDER(shielded_horn, horn_state)};
static const drom_action toggle[] = {DROM_ORDER(BELL, DROM_RELAY_TOGGLE, 0)};
static const drom_action hold[] = {DROM_ORDER(HORN, DROM_SENDER_HOLD, 0)};
static const drom_action let_go[] = {DROM_ORDER(HORN, DROM_SENDER_LET_GO, 0)};
static const drom_action send_sirc[] = {DROM_ORDER(HORN, DROM_SENDER_SEND, DROM_SEND(1, 0))};
static const drom_rule toggles[] = {DROM_WHEN_KEY(WAND, UP, DROM_PRESS, toggle)};
static const drom_rule holds_while[] = {
    DROM_WHEN_KEY(WAND, UP, DROM_PRESS, hold),
    DROM_WHEN_KEY(WAND, UP, DROM_RELEASE, let_go),
    DROM_WHEN_KEY(WAND, UP, DROM_RELEASE, toggle),
};
static const drom_rule sends[] = {DROM_WHEN_KEY(WAND, UP, DROM_PRESS, send_sirc)};
static drom_decoder decoders[2];
static drom_hold hold_states[1];
static drom_last_press last_presses[1];

typedef struct stage {
    sim_bench *bench;
    sim_target *amplifier;
    drom_plan plan;
    drom_engine engine;
    GString *reported; /* "press 567" */
} stage;

static void on_key(void *context, const drom_key_event *event)
{
    stage *const in = context;
    if (event->gesture == DROM_PRESS || event->gesture == DROM_RELEASE) {
        g_string_append_printf(in->reported, "%s%s", in->reported->len > 0 ? ", " : "",
                               event->gesture == DROM_PRESS ? "press" : "release");
    }
}

static void open_stage(stage *opened, const drom_output *outputs, const drom_rule *rules, uint8_t rule_count)
{
    static drom_observer observer;
    drom_fault fault;
    opened->bench = sim_bench_new(5);
    opened->amplifier = sim_bench_wire_target(opened->bench, 3);
    opened->reported = g_string_new(NULL);
    opened->plan = (drom_plan){
        .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
        .keys = {.handsets = DROM_ROWS(handsets), .holds = hold_states},
        .rules = {.rules = {rules, rule_count}, .last_presses = DROM_ROWS(last_presses)},
        .outputs = {.outputs = {outputs, 2}},
    };
    sim_bench_hear_itself(opened->bench, outputs == open_outputs);
    ck_assert_int_eq(drom_engine_init(&opened->engine, &opened->plan, sim_bench_port(opened->bench), &fault),
                     DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
    observer = (drom_observer){.context = opened, .key = on_key};
    drom_engine_observe(&opened->engine, &observer);
}

static void close_stage(stage *unwanted)
{
    sim_bench_free(unwanted->bench);
    g_string_free(unwanted->reported, TRUE);
}

static void play_until(stage *in, uint64_t until_us)
{
    bool goes_on = true;
    while (goes_on && sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        goes_on = sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
    }
}

static void press(stage *in, unsigned key, uint64_t at_us, uint64_t held_us)
{
    ck_assert(sim_bench_press(
        in->bench, &(sim_press){.waveform = key == UP ? &drom_nec_waveform : &drom_samsung32_waveform,
                                .code = wand[key],
                                .at_us = at_us,
                                .held_us = held_us}));
}

TEST(key_is_sent_for_as_long_as_it_is_held_and_its_echo_is_no_key)
{
    stage in;
    open_stage(&in, open_outputs, toggles, 1);
    ck_assert_int_eq(drom_engine_order(&in.engine, HORN, DROM_SENDER_HOLD, 0), DROM_OK);
    play_until(&in, 1500000);
    ck_assert_uint_ge(sim_target_frames(in.amplifier), 13); /* one each 108 ms */
    ck_assert_uint_eq(sim_target_unknown(in.amplifier), 0);
    ck_assert_str_eq(sim_target_heard(in.amplifier), "samsung32 0xf8070707");
    ck_assert_str_eq(in.reported->str, "");
    close_stage(&in);
}

TEST(press_in_the_gap_between_our_frames_is_heard)
{
    stage in;
    open_stage(&in, open_outputs, toggles, 1);
    ck_assert_int_eq(drom_engine_order(&in.engine, HORN, DROM_SENDER_SEND, DROM_SEND(0, 1)), DROM_OK);
    press(&in, UP, 64000, 0); /* our frame ends at 62 ms */
    play_until(&in, 400000);
    ck_assert_uint_eq(sim_target_frames(in.amplifier), 1);
    ck_assert_str_eq(in.reported->str, "press, release");
    close_stage(&in);
}

TEST(held_key_sends_in_the_gaps_of_its_own_repeats_and_stays_held)
{
    stage in;
    open_stage(&in, open_outputs, holds_while, 3);
    press(&in, UP, 1000, 2000000);
    play_until(&in, 2600000);
    ck_assert_str_eq(in.reported->str, "press, release");
    ck_assert_uint_ge(sim_target_frames(in.amplifier), 16);
    ck_assert_uint_eq(sim_target_unknown(in.amplifier), 0);
    close_stage(&in);
}

TEST(we_never_transmit_over_a_frame)
{
    stage in;
    open_stage(&in, open_outputs, sends, 1);
    for (unsigned i = 0; i < 30; i++) { /* a press, and one of another handset before our burst */
        press(&in, UP, 1000 + i * 400000, 0);
        press(&in, DOWN, 75000 + i * 400000, 0);
    }
    play_until(&in, 30 * 400000 + 500000);
    unsigned presses = 0;
    for (const char *at = in.reported->str; (at = strstr(at, "press")) != NULL; at++) {
        presses++;
    }
    ck_assert_uint_eq(presses, 60);
    ck_assert_uint_eq(sim_target_frames(in.amplifier), 90); /* sirc sends three frames per press */
    ck_assert_uint_eq(sim_target_unknown(in.amplifier), 0);
    close_stage(&in);
}

TEST(shielded_sender_and_receiver_go_on_at_once)
{
    stage in;
    open_stage(&in, shielded_outputs, toggles, 1);
    ck_assert_int_eq(drom_engine_order(&in.engine, HORN, DROM_SENDER_HOLD, 0), DROM_OK);
    for (unsigned i = 0; i < 10; i++) {
        press(&in, UP, 20000 + i * 333000, 0);
    }
    play_until(&in, 3400000);
    ck_assert_uint_ge(sim_target_frames(in.amplifier), 30);
    ck_assert_uint_eq(sim_target_unknown(in.amplifier), 0);
    ck_assert_str_eq(in.reported->str,
                     "press, release, press, release, press, release, press, release, press, release, "
                     "press, release, press, release, press, release, press, release, press, release");
    close_stage(&in);
}

/* A protocol that decodes nothing, and notes intervals that end in the future: their last edge was stamped
 * too early. */
static const drom_engine *witnessed;
static unsigned intervals;
static unsigned turned_back;

static drom_heard witness_step(const drom_protocol *protocol, drom_decoder *decoder,
                               const drom_interval *interval, drom_frame *frame)
{
    (void)protocol;
    (void)decoder;
    (void)frame;
    intervals++;
    turned_back += !drom_is_due(witnessed->timing.now, interval->at + interval->us);
    return DROM_NOTHING;
}

/* The end of our echo is known while its edges still wait, as main is slow. */
TEST(time_never_goes_back_for_the_receiver)
{
    stage in;
    drom_protocol witness = drom_nec;
    const drom_protocol_ref heard[] = {&drom_nec, &drom_samsung32, &witness};
    drom_decoder three[3];
    drom_plan plan;
    witness.number = DROM_OWN_PROTOCOL;
    witness.step = witness_step;
    witness.first_mark_min_us = 0;
    witness.first_mark_max_us = UINT16_MAX;
    intervals = 0;
    turned_back = 0;
    witnessed = &in.engine;
    open_stage(&in, open_outputs, toggles, 1);
    plan = in.plan;
    plan.receive = (drom_receive_plan){.protocols = DROM_ROWS(heard), .decoders = three};
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    sim_bench_set_processor(in.bench, &(sim_processor){.poll_us = 400});
    ck_assert_int_eq(drom_engine_order(&in.engine, HORN, DROM_SENDER_HOLD, 0), DROM_OK);
    for (uint64_t gap_us = 90000; gap_us < 20000000;
         gap_us += 108000) { /* another handset between our frames */
        sim_bench_add_edge(in.bench, gap_us, true);
        sim_bench_add_edge(in.bench, gap_us + 1000, false);
    }
    play_until(&in, 20000000);
    ck_assert_uint_ge(sim_target_frames(in.amplifier), 100);
    ck_assert_uint_gt(intervals, 100);
    ck_assert_uint_eq(turned_back, 0);
    close_stage(&in);
}

SUITE("air")
