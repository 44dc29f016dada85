/* Each protocol can be sent: the library's decoders read the output, and an independent appliance reads its
 * own protocols. */
#include "support.h"

#include "trial.h"
#include "sim.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/sender.h"

typedef struct ears {
    sim_listener listener;
    drom_frame frames[64]; /* the first ones */
    unsigned count;        /* of all of them */
    unsigned whole;
    drom_us last_at;
    drom_us min_period;
    drom_us max_period;
} ears;

static void on_frame(void *context, const drom_frame *frame)
{
    ears *const listeners = context;
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        return;
    }
    if (listeners->count < G_N_ELEMENTS(listeners->frames)) {
        listeners->frames[listeners->count] = *frame;
    }
    const drom_us period = frame->at - listeners->last_at;
    if (listeners->count > 0) {
        listeners->min_period = listeners->count == 1 ? period : MIN(period, listeners->min_period);
        listeners->max_period = MAX(period, listeners->max_period);
    }
    listeners->count++;
    listeners->whole += frame->kind == DROM_FRAME_WHOLE;
    listeners->last_at = frame->at;
}

static void on_light(void *context, uint64_t at_us, bool is_on)
{
    sim_listener_edge(&((ears *)context)->listener, (drom_us)at_us, is_on);
}

typedef struct stage {
    sim_bench *bench;
    sim_target *appliance;
    drom_engine engine;
    drom_sender_key key;
    drom_sender_settings settings;
    drom_sender_state state;
    drom_output output;
    drom_plan plan;
    ears heard;
} stage;

/* A stage whose only sender has one key. */
static void open_stage(stage *opened, const drom_waveform *waveform, uint32_t address, uint16_t command)
{
    memset(opened, 0, sizeof *opened);
    opened->bench = sim_bench_new(9);
    opened->appliance = sim_bench_wire_target(opened->bench, 3);
    opened->key = (drom_sender_key){waveform, address, command, 0, 0, 0};
    opened->settings = (drom_sender_settings){.keys = {&opened->key, 1}, .pin = 3};
    opened->output = (drom_output)DROM_SENDER(opened->settings, opened->state);
    opened->plan.outputs.outputs.rows = &opened->output;
    opened->plan.outputs.outputs.count = 1;
    const drom_protocol_ref only = waveform->protocol;
    sim_listener_open_with(&opened->heard.listener, &only, 1, on_frame, &opened->heard);
    sim_target_follow(opened->appliance, on_light, &opened->heard);
    ck_assert_int_eq(drom_engine_init(&opened->engine, &opened->plan, sim_bench_port(opened->bench), NULL),
                     DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void order(stage *in, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, 0, verb, value), DROM_OK);
}

static void play_until(stage *in, uint64_t until_us)
{
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
    }
    sim_listener_pass(&in->heard.listener, (drom_us)until_us);
}

TEST(every_protocol_is_sent_as_it_is_received)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        for (uint64_t seed = 1; seed <= 6; seed++) {
            const drom_code code = sim_random_code(waveform, seed);
            stage in;
            open_stage(&in, waveform, code.address, code.command);
            order(&in, DROM_SENDER_SEND, DROM_SEND(0, 0));
            play_until(&in, 700000);
            const unsigned min = waveform->min_frames > 1 ? waveform->min_frames : 1;
            ck_assert_msg(in.heard.count == min, "%s was heard %u times", waveform->protocol->id,
                          in.heard.count);
            ck_assert_msg(drom_code_equal(&in.heard.frames[0].code, &code),
                          "%s was heard as %u %u and not as %u %u", waveform->protocol->id,
                          in.heard.frames[0].code.address, in.heard.frames[0].code.command, code.address,
                          code.command);
            sim_bench_free(in.bench);
        }
    }
}

TEST(key_held_for_a_minute_keeps_its_frame_period)
{
    stage in;
    open_stage(&in, &drom_nec_waveform, 4, 70);
    order(&in, DROM_SENDER_HOLD, 0);
    play_until(&in, 60000000);
    ck_assert_uint_ge(in.heard.count, 60000 / 110);
    ck_assert_uint_le(in.heard.count, 60000 / 107);
    ck_assert_uint_eq(in.heard.whole, 1); /* the others are repeat frames */
    ck_assert_uint_ge(in.heard.min_period, 107000);
    ck_assert_uint_le(in.heard.max_period, 113000);
    sim_bench_free(in.bench);
}

TEST(frames_of_a_press_keep_their_period_and_share_their_toggle)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = sim_random_code(waveform, 3);
        stage in;
        open_stage(&in, waveform, code.address, code.command);
        order(&in, DROM_SENDER_SEND, DROM_SEND(0, 4));
        play_until(&in, 1500000);
        ck_assert_msg(in.heard.count == 4, "%s was heard %u times", waveform->protocol->id, in.heard.count);
        for (unsigned frame = 1; frame < 4; frame++) {
            const drom_us since = in.heard.frames[frame].at - in.heard.frames[frame - 1].at;
            const drom_us period = waveform->protocol->period_us;
            /* for dish and its like, the first frame begins at the leader */
            ck_assert_msg(period == 0 || frame == 1 || (since > period - 3000 && since < period + 15000),
                          "%s: frame %u came after %u us", waveform->protocol->id, frame, since);
            ck_assert_uint_eq(in.heard.frames[frame].toggle, in.heard.frames[0].toggle);
        }
        sim_bench_free(in.bench);
    }
}

TEST(next_press_has_another_toggle)
{
    stage in;
    open_stage(&in, &drom_rc5_waveform, 17, 35);
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 2));
    play_until(&in, 400000);
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1));
    play_until(&in, 800000);
    ck_assert_uint_eq(in.heard.count, 3);
    ck_assert_uint_eq(in.heard.frames[0].toggle, in.heard.frames[1].toggle);
    ck_assert_uint_ne(in.heard.frames[1].toggle, in.heard.frames[2].toggle);
    sim_bench_free(in.bench);
}

/* Between two presses there must be the silence that separates them for an appliance. */
TEST(press_that_waited_keeps_the_frame_period_of_the_one_before)
{
    static const drom_waveform_ref waveforms[] = {&drom_samsung32_waveform, &drom_nec_waveform,
                                                  &drom_sirc12_waveform,    &drom_rc5_waveform,
                                                  &drom_kaseikyo_waveform,  &drom_rc6_waveform};
    for (size_t i = 0; i < G_N_ELEMENTS(waveforms); i++) {
        stage in;
        const drom_protocol *const protocol = waveforms[i]->protocol;
        open_stage(&in, waveforms[i], 16, 7);
        order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1));
        order(&in, DROM_SENDER_SEND, DROM_SEND(0, 2));
        play_until(&in, 1500000);
        ck_assert_uint_ge(in.heard.count, 3);
        const drom_us frame_period_us = protocol->period_us != 0 ? protocol->period_us : protocol->gap_us;
        ck_assert_msg(in.heard.min_period >= frame_period_us - 2000, "%s: %u us after the one before",
                      protocol->id, in.heard.min_period);
        sim_bench_free(in.bench);
    }
}

/* Else an appliance would take them for one held press. */
TEST(presses_of_one_key_are_told_apart_and_frames_of_one_press_are_not)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = sim_random_code(waveform, 5);
        stage in;
        open_stage(&in, waveform, code.address, code.command);
        sim_target_learn(in.appliance, &in.key, 1);
        order(&in, DROM_SENDER_SEND, DROM_SEND_PRESSES(0, 3));
        play_until(&in, 3000000);
        ck_assert_msg(sim_target_presses(in.appliance, 0) == 3, "%s: 3 presses were %u",
                      waveform->protocol->id, sim_target_presses(in.appliance, 0));
        order(&in, DROM_SENDER_SEND, DROM_SEND(0, 5));
        play_until(&in, 5000000);
        ck_assert_msg(sim_target_presses(in.appliance, 0) == 4, "%s: a press of 5 frames was %u",
                      waveform->protocol->id, sim_target_presses(in.appliance, 0) - 3);
        sim_bench_free(in.bench);
    }
}

TEST(held_key_is_sent_until_it_is_let_go_and_never_less_than_once)
{
    stage in;
    open_stage(&in, &drom_samsung32_waveform, 7, 7);
    order(&in, DROM_SENDER_HOLD, 0);
    order(&in, DROM_SENDER_LET_GO, 0);
    play_until(&in, 300000);
    ck_assert_uint_eq(in.heard.count, 1);
    order(&in, DROM_SENDER_HOLD, 0);
    play_until(&in, 1300000);
    const unsigned held = in.heard.count;
    ck_assert_uint_ge(held, 9);
    order(&in, DROM_SENDER_LET_GO, 0);
    play_until(&in, 2000000);
    ck_assert_uint_le(in.heard.count, held + 1);
    ck_assert_str_eq(sim_target_heard(in.appliance), "samsung32 0xf8070707");
    sim_bench_free(in.bench);
}

TEST(four_sends_wait_and_the_same_again_is_not_queued_twice)
{
    stage in;
    open_stage(&in, &drom_nec_waveform, 33, 69);
    for (unsigned i = 0; i < 6; i++) {
        order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1 + i));
    }
    play_until(&in, 3000000);
    ck_assert_uint_eq(in.heard.count, 1 + 2 + 3 + 4);
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1));
    play_until(&in, 3010000);
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1));
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1)); /* as a key's repeats order it */
    play_until(&in, 6000000);
    ck_assert_uint_eq(in.heard.count, 1 + 2 + 3 + 4 + 2);
    sim_bench_free(in.bench);
}

TEST(stopping_the_engine_darkens_the_led_within_a_frame)
{
    stage in;
    open_stage(&in, &drom_nec_waveform, 33, 69);
    order(&in, DROM_SENDER_SEND, DROM_SEND(0, 1));
    play_until(&in, 30000);
    drom_engine_stop(&in.engine);
    const unsigned before = in.heard.count;
    while (sim_bench_now(in.bench) < 300000) {
        (void)sim_bench_sleep(in.bench, 1000);
    }
    ck_assert_uint_eq(in.heard.count, before);
    ck_assert_uint_eq(sim_target_frames(in.appliance), 0);
    ck_assert_uint_eq(sim_target_unknown(in.appliance), 1); /* the frames that were sent */
    sim_bench_free(in.bench);
}

TEST(orders_that_make_no_sense_are_refused)
{
    stage in;
    open_stage(&in, &drom_nec_waveform, 33, 69);
    ck_assert(!drom_sender.accepts_action(&in.settings, DROM_SENDER_SEND, DROM_SEND(1, 1)));
    ck_assert(drom_sender.accepts_action(&in.settings, DROM_SENDER_SEND, DROM_SEND_PRESSES(0, 2)));
    ck_assert(!drom_sender.accepts_action(&in.settings, DROM_SENDER_HOLD, DROM_SEND_PRESSES(0, 2)));
    ck_assert(!drom_sender.accepts_action(&in.settings, DROM_SENDER_LET_GO + 1, 0));
    sim_bench_free(in.bench);
}

SUITE("sender")
