/* From edges to frames. support.c writes the nec waveform out bit by bit, without the encoder, so that a
 * mistake in a table can't hide itself. */
#include "support.h"

#include "dromikos/encode.h"
#include "dromikos/internal/receive.h"

static void assert_is_4_70(const drom_frame *frame)
{
    ck_assert_ptr_eq(frame->protocol, &drom_nec);
    ck_assert_uint_eq(frame->code.address, 4);
    ck_assert_uint_eq(frame->code.command, 70);
    ck_assert_int_eq(frame->kind, DROM_FRAME_WHOLE);
}

TEST(nec_frame_gives_its_numbers)
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

TEST(frame_is_given_when_its_stop_mark_has_begun)
{
    ear listening;
    ear_open(&listening, 0);
    ear_nec(&listening, NEC_4_70, 1, 0);
    const drom_us stop_mark_ends = listening.now;
    ck_assert_uint_eq(listening.count, 1);
    ck_assert_uint_lt(listening.heard_at[0], stop_mark_ends - 562 + 260);
}

TEST(slow_clocks_and_stretched_marks_are_read)
{
    for (int percent = -8; percent <= 8; percent += 2) {
        for (int stretch_us = -100; stretch_us <= 100; stretch_us += 25) {
            ear listening;
            ear_open(&listening, 0);
            ear_nec(&listening, NEC_4_70, 1 + percent / 100.0, stretch_us);
            ear_space(&listening, 40000);
            ear_nec_repeat(&listening, 1 + percent / 100.0, stretch_us);
            ear_silence(&listening);
            ck_assert_msg(listening.count == 2, "%d %% and %d us: %u frames", percent, stretch_us,
                          listening.count);
            assert_is_4_70(&listening.frames[0]);
            ck_assert_int_eq(listening.frames[1].kind, DROM_FRAME_REPEAT);
        }
    }
}

TEST(every_address_and_command_comes_back_from_the_encoder)
{
    for (uint32_t address = 0; address < 256; address++) {
        const drom_code code = {DROM_NEC, address, (uint16_t)(address * 7 % 256)};
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

TEST(encoder_refuses_numbers_that_do_not_fit)
{
    drom_encoder encoder;
    const drom_code far_address = {DROM_NEC, 256, 0};
    const drom_code far_command = {DROM_NEC, 0, 256};
    ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &far_address, DROM_SEND_FIRST, false),
                     DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &far_command, DROM_SEND_FIRST, false),
                     DROM_BAD_ARGUMENT);
}

TEST(frame_with_a_wrong_bit_is_dropped)
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
        ck_assert_ptr_eq(listening.frames[0].protocol, &drom_unknown);
    }
}

TEST(repeat_frame_needs_a_whole_one_before_it)
{
    ear listening;
    ear_open(&listening, 0);
    ear_nec_repeat(&listening, 1, 0);
    ear_silence(&listening);
    ck_assert_uint_eq(listening.count, 0);
    ear_nec(&listening, NEC_4_70, 1, 0);
    ear_space(&listening, 40000);
    ear_nec_repeat(&listening, 1, 0);
    ck_assert_uint_eq(listening.count, 2);
    ck_assert_ptr_eq(listening.frames[1].protocol, &drom_nec);
    ear_silence(&listening); /* and not long before it */
    ear_nec_repeat(&listening, 1, 0);
    ck_assert_uint_eq(listening.count, 2);
}

TEST(glitches_are_not_there)
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

TEST(lost_edges_make_no_frame_and_the_next_is_read)
{
    ear listening;
    ear_open(&listening, 0);
    ear_edge(&listening, 0, true, false);
    ear_edge(&listening, 9000, false, false);
    ear_edge(&listening, 4500, true, true);
    ear_edge(&listening, 562, false, false);
    ear_edge(&listening, 100, false, false); /* the same level twice: the edge between was lost */
    ear_space(&listening, 200000);
    ear_nec(&listening, NEC_4_70, 1, 0);
    ck_assert_uint_eq(listening.count, 1);
    assert_is_4_70(&listening.frames[0]);
}

/* 71 min 35 s after an edge, the clock has the same value. */
TEST(line_that_sticks_for_hours_does_no_harm)
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

TEST(noise_is_no_key)
{
    ear listening;
    unsigned frames = 0;
    ear_open(&listening, 0);
    g_autoptr(GRand) random = g_rand_new_with_seed(7);
    for (int i = 0; i < 500000; i++) {
        ear_mark(&listening, (drom_us)g_rand_int_range(random, 0, 1200));
        ear_space(&listening, (drom_us)g_rand_int_range(random, 0, i % 50 == 0 ? 20000 : 2500));
        frames += listening.count > 0 && listening.frames[0].protocol == &drom_nec;
        listening.count = 0;
    }
    ck_assert_uint_eq(frames, 0);
}

TEST(edges_without_any_time_between_them_do_no_harm)
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

/* A rhythm of no protocol: 20 bits, pulse width, an unusual leader. */
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
    ck_assert_ptr_eq(listening.frames[0].protocol, &drom_unknown);
    ck_assert_uint_eq(listening.frames[0].intervals, 43);
    return listening.frames[0].code.address;
}

TEST(unknown_key_has_one_fingerprint)
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

/* 0x35, least significant bit first, in two halves of four bits. */
TEST(halves_of_a_protocol_of_ones_own_are_one_frame)
{
    static const drom_pulse_timing timing = {.zero_mark_us = 500,
                                             .zero_space_us = 500,
                                             .one_mark_us = 500,
                                             .one_space_us = 1500,
                                             .pause_us = 20000,
                                             .bits = 8};
    static const drom_protocol own = {.id = "own",
                                      .number = DROM_OWN_PROTOCOL,
                                      .step = drom_pulse_step,
                                      .timing = &timing,
                                      .unpack = drom_pulse_unpack_plain,
                                      .glitch_us = 200,
                                      .first_mark_min_us = 300,
                                      .first_mark_max_us = 800,
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
    ck_assert_ptr_eq(listening.frames[0].protocol, &own);
    ck_assert_uint_eq(listening.frames[0].code.command, 0x35);
}

/* The space of one zero is longer, by a share of the difference to a one's. */
TEST(margin_is_how_near_the_worst_bit_was_to_being_another)
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

SUITE("receive")
