/* Edges to frames. The nec waveform is spelt out bit by bit in support.c and not taken from the encoder, so
 * that one mistake in a table can't hide behind itself. */
#include "support.h"

#include "dromikos/encode.h"

static void assert_is_4_70(const drom_frame *frame)
{
    ck_assert_ptr_eq(frame->code.protocol, &drom_nec);
    ck_assert_uint_eq(frame->code.address, 4);
    ck_assert_uint_eq(frame->code.command, 70);
    ck_assert_int_eq(frame->kind, DROM_FRAME_WHOLE);
}

START_TEST(nec_frame_gives_its_numbers)
{
    static const drom_us starts[] = {0, UINT32_C(0xfffffff0), UINT32_C(0xffffffff) - 30000};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        ear listening;
        ear_open(&listening, starts[i]);
        ear_nec(&listening, NEC_4_70, 1, 0);
        ear_silence(&listening);
        ck_assert_uint_eq(listening.count, 1);
        assert_is_4_70(&listening.frames[0]);
        ck_assert_uint_eq(listening.frames[0].at, starts[i]);
    }
}
END_TEST

START_TEST(frame_is_given_when_its_stop_mark_has_begun)
{
    ear listening;
    ear_open(&listening, 0);
    ear_nec(&listening, NEC_4_70, 1, 0);
    const drom_us stop_mark_ends = listening.now;
    ck_assert_uint_eq(listening.count, 1);
    ck_assert_uint_lt(listening.heard_at[0], stop_mark_ends - 562 + 260);
}
END_TEST

START_TEST(slow_clocks_and_stretched_marks_are_read)
{
    for (int percent = -8; percent <= 8; percent += 2) {
        for (int stretch_us = -100; stretch_us <= 100; stretch_us += 25) {
            ear listening;
            ear_open(&listening, 0);
            ear_nec(&listening, NEC_4_70, 1 + percent / 100.0, stretch_us);
            ear_space(&listening, 40000);
            ear_nec_ditto(&listening, 1 + percent / 100.0, stretch_us);
            ear_silence(&listening);
            ck_assert_msg(listening.count == 2, "%d %% and %d us: %u frames", percent, stretch_us,
                          listening.count);
            assert_is_4_70(&listening.frames[0]);
            ck_assert_int_eq(listening.frames[1].kind, DROM_FRAME_DITTO);
        }
    }
}
END_TEST

START_TEST(every_address_and_command_comes_back_from_the_encoder)
{
    for (uint32_t address = 0; address < 256; address++) {
        const drom_code code = {&drom_nec, address, (uint16_t)(address * 7 % 256)};
        drom_encoder encoder;
        ear listening;
        ear_open(&listening, 0);
        ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false),
                         DROM_OK);
        bool is_mark = true;
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            (is_mark ? ear_mark : ear_space)(&listening, us);
            is_mark = !is_mark;
        }
        ck_assert(!is_mark);
        ck_assert_uint_eq(listening.count, 1);
        ck_assert(drom_code_equal(&listening.frames[0].code, &code));
    }
}
END_TEST

START_TEST(encoder_refuses_numbers_that_do_not_fit)
{
    drom_encoder encoder;
    const drom_code far_address = {&drom_nec, 256, 0};
    const drom_code far_command = {&drom_nec, 0, 256};
    ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &far_address, DROM_SEND_FIRST, false),
                     DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &far_command, DROM_SEND_FIRST, false),
                     DROM_BAD_ARGUMENT);
}
END_TEST

START_TEST(frame_with_a_wrong_bit_is_nobodys)
{
    char bits[] = NEC_4_70;
    for (size_t i = 0; bits[i] != '\0'; i++) {
        if (bits[i] == ' ') {
            continue;
        }
        ear listening;
        ear_open(&listening, 0);
        bits[i] = bits[i] == '1' ? '0' : '1';
        ear_nec(&listening, bits, 1, 0);
        ear_silence(&listening);
        bits[i] = bits[i] == '1' ? '0' : '1';
        ck_assert_uint_eq(listening.count, 1);
        ck_assert_ptr_eq(listening.frames[0].code.protocol, &drom_unknown);
    }
}
END_TEST

START_TEST(ditto_needs_a_frame_before_it)
{
    ear listening;
    ear_open(&listening, 0);
    ear_nec_ditto(&listening, 1, 0);
    ear_silence(&listening);
    ck_assert_uint_eq(listening.count, 0);
    ear_nec(&listening, NEC_4_70, 1, 0);
    ear_space(&listening, 40000);
    ear_nec_ditto(&listening, 1, 0);
    ck_assert_uint_eq(listening.count, 2);
    ck_assert_ptr_eq(listening.frames[1].code.protocol, &drom_nec);
    ear_silence(&listening); /* and not long before it */
    ear_nec_ditto(&listening, 1, 0);
    ck_assert_uint_eq(listening.count, 2);
}
END_TEST

START_TEST(glitches_are_not_there)
{
    ear listening;
    ear_open(&listening, 0);
    for (int i = 0; i < 50; i++) { /* in the silence before */
        ear_mark(&listening, 100);
        ear_space(&listening, 15000);
    }
    ear_mark(&listening, 4000); /* in the leader's mark, and in its space */
    ear_space(&listening, 90);
    ear_mark(&listening, 4910);
    ear_space(&listening, 2000);
    ear_mark(&listening, 110);
    ear_space(&listening, 2390);
    for (const char *bit = NEC_4_70; *bit != '\0'; bit++) {
        if (*bit != ' ') {
            ear_mark(&listening, 562);
            ear_space(&listening, *bit == '1' ? 1687 : 562);
        }
    }
    ear_mark(&listening, 562);
    ear_space(&listening, 0);
    ear_silence(&listening);
    ck_assert_uint_eq(listening.count, 1);
    assert_is_4_70(&listening.frames[0]);
    ck_assert_uint_eq(listening.frames[0].lasted_us, 9000 + 4500 + 32 * 562 + 16 * 562 + 16 * 1687);
}
END_TEST

START_TEST(lost_edges_make_no_frame_and_the_next_is_read)
{
    ear listening;
    ear_open(&listening, 0);
    ear_edge(&listening, 0, true, false);
    ear_edge(&listening, 9000, false, false);
    ear_edge(&listening, 4500, true, true);
    ear_edge(&listening, 562, false, false);
    ear_edge(&listening, 100, false, false); /* the same level twice: its partner was lost */
    ear_space(&listening, 200000);
    ear_nec(&listening, NEC_4_70, 1, 0);
    ck_assert_uint_eq(listening.count, 1);
    assert_is_4_70(&listening.frames[0]);
}
END_TEST

/* 71 min 35 s after an edge the clock shows the same again. */
START_TEST(line_that_sticks_for_hours_does_no_harm)
{
    for (int is_mark = 0; is_mark < 2; is_mark++) {
        ear listening;
        ear_open(&listening, 0);
        ear_nec(&listening, NEC_4_70, 1, 0);
        if (is_mark) {
            ear_mark(&listening, 0);
        }
        for (int i = 0; i < 12; i++) {
            ear_silence(&listening);
            listening.now += DROM_LONGEST_US;
        }
        if (is_mark) {
            ear_space(&listening, 20000);
        }
        ear_nec(&listening, NEC_4_71, 1, 0);
        ck_assert_uint_eq(listening.count, 2);
        ck_assert_uint_eq(listening.frames[1].code.command, 71);
    }
}
END_TEST

START_TEST(noise_is_nobodys_key)
{
    ear listening;
    unsigned frames = 0;
    ear_open(&listening, 0);
    g_autoptr(GRand) random = g_rand_new_with_seed(7);
    for (int i = 0; i < 500000; i++) {
        ear_mark(&listening, (drom_us)g_rand_int_range(random, 0, 1200));
        ear_space(&listening, (drom_us)g_rand_int_range(random, 0, i % 50 == 0 ? 20000 : 2500));
        frames += listening.count > 0 && listening.frames[0].code.protocol == &drom_nec;
        listening.count = 0;
    }
    ck_assert_uint_eq(frames, 0);
}
END_TEST

START_TEST(edges_without_any_time_between_them_do_no_harm)
{
    ear listening;
    ear_open(&listening, 0);
    for (int i = 0; i < 1000000; i++) {
        ear_edge(&listening, 0, i % 2 == 0, false);
    }
    ear_space(&listening, 50000);
    ear_nec(&listening, NEC_4_70, 1, 0);
    assert_is_4_70(&listening.frames[listening.count - 1]);
}
END_TEST

/* A rhythm of no protocol: 20 bits, pulse width, with an odd leader. */
static uint32_t fingerprint_of(uint32_t bits, double scale, int stretch_us)
{
    ear listening;
    ear_open(&listening, 0);
    ear_mark(&listening, (drom_us)(3000 * scale + stretch_us));
    ear_space(&listening, (drom_us)(1000 * scale - stretch_us));
    for (int i = 0; i < 20; i++) {
        ear_mark(&listening, (drom_us)(((bits >> i) & 1 ? 1000 : 500) * scale + stretch_us));
        ear_space(&listening, (drom_us)(500 * scale - stretch_us));
    }
    ear_mark(&listening, (drom_us)(500 * scale + stretch_us));
    ear_space(&listening, 0);
    ear_silence(&listening);
    ck_assert_uint_eq(listening.count, 1);
    ck_assert_ptr_eq(listening.frames[0].code.protocol, &drom_unknown);
    ck_assert_uint_eq(listening.frames[0].intervals, 43);
    return listening.frames[0].code.address;
}

START_TEST(unknown_key_has_one_fingerprint)
{
    for (uint32_t key = 1; key < 40; key++) {
        const uint32_t fingerprint = fingerprint_of(key * 1657, 1, 0);
        for (int percent = -8; percent <= 8; percent += 4) {
            ck_assert_uint_eq(fingerprint_of(key * 1657, 1 + percent / 100.0, 60), fingerprint);
        }
        for (uint32_t other = 0; other < key; other++) {
            ck_assert_uint_ne(fingerprint_of(other * 1657, 1, 0), fingerprint);
        }
    }
}
END_TEST

/* The first edge of a frame came 1.5 ms late, since interrupts were masked: with what is known of that it is
 * borne. */
START_TEST(masked_interrupts_widen_the_tolerance_of_their_own_intervals)
{
    for (int is_told = 0; is_told <= 1; is_told++) {
        ear listening;
        ear_open(&listening, 0);
        drom_frame frame;
        bool is_heard = false;
        drom_encoder encoder;
        const drom_code code = {&drom_nec, 4, 70};
        drom_us at = 100000;
        bool is_mark = true;
        (void)drom_encode_begin(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false);
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            const bool is_late = at == 109000; /* the end of the leader's mark */
            const drom_us seen = at + (is_late ? 1500 : 0) - (is_late && is_told ? 750 : 0);
            while (drom_receiver_advance(&listening.receiver, seen, &frame)) {
                is_heard |= drom_code_equal(&frame.code, &code);
            }
            drom_receiver_edge(&listening.receiver, &(drom_edge){seen, is_mark, false},
                               is_late && is_told ? 750 : 0);
            at += us;
            is_mark = !is_mark;
        }
        while (drom_receiver_advance(&listening.receiver, at + 400, &frame)) {
            is_heard |= drom_code_equal(&frame.code, &code);
        }
        ck_assert_int_eq(is_heard, is_told);
    }
}
END_TEST

START_TEST(soonest_end_of_a_frame_is_never_too_late)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_protocol *const protocol = waveform->protocol;
        for (uint32_t command = 0; command < 200; command++) {
            const drom_code code = {protocol, waveform->least_address,
                                    (uint16_t)(command * 331u % (waveform->most_command + 1u))};
            drom_encoder encoder;
            uint32_t all_us = 0;
            uint32_t last_us = 0;
            ck_assert_int_eq(drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, command % 2),
                             DROM_OK);
            for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
                all_us += us;
                last_us = us;
            }
            ck_assert_msg(protocol->least_ms * 1000u <= (all_us - last_us) * 92 / 100, "%s: least_ms",
                          protocol->id);
            ck_assert_msg(waveform->longest_ms * 1000u >= all_us, "%s: longest_ms", protocol->id);
        }
    }
}
END_TEST

/* When our own burst has ended the receiver starts anew, and 5 ms later a leader may come. Without a leader
 * there must be as much silence as the protocol asks for. */
START_TEST(frame_right_after_our_own_burst_is_heard)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = {waveform->protocol, waveform->least_address, 5};
        const drom_protocol_ref only[] = {waveform->protocol};
        const bool has_leader = waveform->protocol->first_mark_most_us > 2500;
        ear listening;
        drom_encoder encoder;
        bool is_mark = true;
        ear_open(&listening, 1000);
        listening.plan.protocols.rows = only;
        drom_receiver_init(&listening.receiver, &listening.plan);
        ear_edge(&listening, 100, false, true);
        drom_encode_start(&encoder, waveform, &code, DROM_SEND_FIRST, false);
        ear_space(&listening, has_leader ? 5000 : 12000);
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            (is_mark ? ear_mark : ear_space)(&listening, us);
            is_mark = !is_mark;
        }
        ear_space(&listening, 0);
        ear_silence(&listening);
        ck_assert_msg(listening.count == 1 && drom_code_equal(&listening.frames[0].code, &code),
                      "%s: %u frames, %u %u", waveform->protocol->id, listening.count,
                      listening.frames[0].code.address, listening.frames[0].code.command);
    }
}
END_TEST

/* 0x35, least significant bit first, in two halves of four bits. */
START_TEST(halves_of_a_protocol_of_ones_own_are_one_frame)
{
    static const drom_pulse_timing timing = {.zero_mark_us = 500,
                                             .zero_space_us = 500,
                                             .one_mark_us = 500,
                                             .one_space_us = 1500,
                                             .pause_us = 20000,
                                             .bits = 8};
    static const drom_protocol own = {.id = "own",
                                      .step = drom_pulse_step,
                                      .timing = &timing,
                                      .unpack = drom_pulse_unpack_plain,
                                      .glitch_us = 200,
                                      .first_mark_least_us = 300,
                                      .first_mark_most_us = 800,
                                      .lead_in_us = 10000,
                                      .length = 8};
    static const drom_protocol_ref only[] = {&own};
    ear listening;
    ear_open(&listening, 0);
    listening.plan.protocols.rows = only;
    drom_receiver_init(&listening.receiver, &listening.plan);
    ear_space(&listening, 100000);
    for (const char *bit = "1010 1100"; *bit != '\0'; bit++) {
        ear_mark(&listening, 500);
        ear_space(&listening, *bit == ' ' ? 20000 : *bit == '1' ? 1500 : 500);
    }
    ear_mark(&listening, 500);
    ear_silence(&listening);
    ck_assert_uint_eq(listening.count, 1);
    ck_assert_ptr_eq(listening.frames[0].code.protocol, &own);
    ck_assert_uint_eq(listening.frames[0].code.command, 0x35);
}
END_TEST

/* Counts how often a decoder is told something. */
static unsigned told;

static drom_heard counted_step(const drom_protocol *protocol, drom_decoder *decoder,
                               const drom_interval *interval, drom_frame *frame)
{
    told++;
    return drom_pulse_step(protocol, decoder, interval, frame);
}

/* The frames that come of it; `most` are the decoders that were told at once. */
static unsigned advance_in_bits(drom_receiver *receiver, drom_us at, drom_frame *frame, unsigned *most)
{
    unsigned heard = 0;
    drom_progress progress;
    do {
        told = 0;
        progress = drom_receiver_advance_a_bit(receiver, at, frame);
        heard += progress == DROM_HEARD;
        *most = told > *most ? told : *most;
    } while (progress == DROM_GOES_ON || progress == DROM_HEARD);
    return heard;
}

START_TEST(few_decoders_are_told_at_a_time_and_all_in_the_end)
{
    enum { MANY = 40 };
    drom_protocol rows[MANY];
    drom_protocol_ref refs[MANY];
    drom_decoder decoders[MANY];
    for (unsigned i = 0; i < MANY; i++) {
        rows[i] = drom_nec;
        rows[i].step = counted_step;
        rows[i].rank = (uint8_t)(MANY - i); /* the last is the best */
        refs[i] = &rows[i];
    }
    const drom_receive_plan plan = {.protocols = DROM_ROWS(refs), .decoders = decoders};
    drom_receiver receiver;
    drom_encoder encoder;
    const drom_code code = {&drom_nec, 4, 70};
    drom_frame frame;
    drom_us at = 1000000;
    unsigned heard = 0;
    unsigned most = 0;
    bool is_mark = true;
    drom_receiver_init(&receiver, &plan);
    drom_encode_start(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        heard += advance_in_bits(&receiver, at, &frame, &most);
        drom_receiver_edge(&receiver, &(drom_edge){at, is_mark, false}, 0);
        at += us;
        is_mark = !is_mark;
    }
    heard += advance_in_bits(&receiver, at, &frame, &most);
    ck_assert_uint_eq(most, 2);
    ck_assert_uint_eq(heard, 1);
    ck_assert_ptr_eq(frame.code.protocol, &rows[MANY - 1]);
    ck_assert_uint_eq(frame.code.address, 4);
    ck_assert_uint_eq(frame.code.command, 70);
}
END_TEST

/* Every protocol's frame comes out alike, whether it is advanced in bits, at once, or with every other
 * protocol behind one filter. */
START_TEST(frame_is_the_same_however_the_receiver_is_advanced)
{
    enum { MOST = 64 };
    drom_protocol_ref refs[MOST];
    ck_assert_uint_le(drom_waveform_count, MOST);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        refs[i] = drom_waveforms[i]->protocol;
    }
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        drom_frame frames[3];
        for (unsigned way = 0; way < 3; way++) {
            drom_decoder decoders[MOST];
            drom_filter fine;
            drom_receiver receiver;
            drom_encoder encoder;
            drom_frame frame;
            unsigned heard = 0;
            drom_us at = UINT32_MAX - 20000; /* the clock wraps in the middle */
            bool is_mark = true;
            const drom_receive_plan plan = {.protocols = {refs, (uint8_t)drom_waveform_count},
                                            .decoders = decoders,
                                            .fine = way == 2 ? NULL : &fine};
            const drom_code code = {waveform->protocol, waveform->least_address, 5};
            drom_receiver_init(&receiver, &plan);
            drom_encode_start(&encoder, waveform, &code, DROM_SEND_FIRST, false);
            uint16_t us = drom_encode_next(&encoder);
            do {
                drom_receiver_edge(&receiver, &(drom_edge){at, is_mark, false}, 0);
                const drom_us until = at + (us != 0 ? us : 60000);
                for (drom_us wait = drom_receiver_wait(&receiver, at); wait <= until - at;
                     wait = drom_receiver_wait(&receiver, at)) {
                    at += wait;
                    if (way == 0 ? drom_receiver_advance_a_bit(&receiver, at, &frame) == DROM_HEARD
                                 : drom_receiver_advance(&receiver, at, &frame)) {
                        frames[way] = frame;
                        heard++;
                    }
                }
                at = until;
                is_mark = !is_mark;
                us = us != 0 ? drom_encode_next(&encoder) : UINT16_MAX;
            } while (us != UINT16_MAX);
            ck_assert_msg(heard == 1, "%s: %u frames by way %u", waveform->protocol->id, heard, way);
            ck_assert_msg(drom_code_equal(&frames[way].code, &code), "%s by way %u is another's",
                          waveform->protocol->id, way);
        }
        ck_assert_uint_eq(frames[0].at, frames[1].at);
        ck_assert_uint_eq(frames[0].lasted_us, frames[1].lasted_us);
        ck_assert_uint_eq(drom_frame_margin(&frames[0]), drom_frame_margin(&frames[1]));
    }
}
END_TEST

/* One space of a zero lasts longer by a part of the way to a one's. */
START_TEST(margin_tells_how_near_the_worst_bit_was_to_being_another)
{
    static const struct {
        drom_us longer_us;
        unsigned margin; /* of 562 µs: half the way between a zero and a one */
    } cases[] = {{0, 100}, {140, 75}, {200, 64}, {281, 50}};
    for (size_t row = 0; row < G_N_ELEMENTS(cases); row++) {
        ear listening;
        ear_open(&listening, 5);
        unsigned zeros = 0;
        ear_mark(&listening, 9000);
        ear_space(&listening, 4500);
        for (const char *bit = NEC_4_70; *bit != '\0'; bit++) {
            if (*bit == ' ') {
                continue;
            }
            zeros += *bit == '0';
            const drom_us longer_us = *bit == '0' && zeros == 7 ? cases[row].longer_us : 0;
            ear_mark(&listening, 562);
            ear_space(&listening, *bit == '1' ? 1687 : 562 + longer_us);
        }
        ear_mark(&listening, 562);
        ear_silence(&listening);
        ck_assert_uint_eq(listening.count, 1);
        assert_is_4_70(&listening.frames[0]);
        const int off = (int)drom_frame_margin(&listening.frames[0]) - (int)cases[row].margin;
        ck_assert_msg(off >= -2 && off <= 2, "%u %%, not %u", drom_frame_margin(&listening.frames[0]),
                      cases[row].margin);
    }
}
END_TEST

RUN_TESTS("receive", frame_right_after_our_own_burst_is_heard, halves_of_a_protocol_of_ones_own_are_one_frame,
          nec_frame_gives_its_numbers, frame_is_given_when_its_stop_mark_has_begun,
          slow_clocks_and_stretched_marks_are_read, every_address_and_command_comes_back_from_the_encoder,
          encoder_refuses_numbers_that_do_not_fit, frame_with_a_wrong_bit_is_nobodys,
          ditto_needs_a_frame_before_it, glitches_are_not_there,
          lost_edges_make_no_frame_and_the_next_is_read, line_that_sticks_for_hours_does_no_harm,
          noise_is_nobodys_key, edges_without_any_time_between_them_do_no_harm,
          unknown_key_has_one_fingerprint, masked_interrupts_widen_the_tolerance_of_their_own_intervals,
          soonest_end_of_a_frame_is_never_too_late, few_decoders_are_told_at_a_time_and_all_in_the_end,
          frame_is_the_same_however_the_receiver_is_advanced,
          margin_tells_how_near_the_worst_bit_was_to_being_another)
