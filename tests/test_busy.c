/* The receiver on a busy chip: late edges, decoding in pieces, a strip that waits for the processor, and the
 * end of our own burst. */
#include "support.h"

#include "dromikos/encode.h"
#include "dromikos/internal/receive.h"

/* The first edge of a frame is stamped 1.5 ms late, as interrupts were masked; the decoder knows by how much,
 * and decodes the frame. */
TEST(masked_interrupts_widen_the_tolerance_of_their_own_intervals)
{
    for (int is_reported = 0; is_reported <= 1; is_reported++) {
        ear listening;
        ear_open(&listening, 0);
        drom_frame frame;
        bool is_heard = false;
        drom_encoder encoder;
        const drom_code code = {DROM_NEC, 4, 70};
        drom_us at = 100000;
        bool is_mark = true;
        (void)drom_encode_begin(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false);
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            const bool is_late = at == 109000; /* the end of the leader's mark */
            const drom_us seen = at + (is_late ? 1500 : 0) - (is_late && is_reported ? 750 : 0);
            while (drom_receiver_advance(&listening.receiver, seen, &frame)) {
                is_heard |= drom_code_equal(&frame.code, &code);
            }
            drom_receiver_edge(&listening.receiver, &(drom_edge){seen, is_mark, false},
                               is_late && is_reported ? 750 : 0);
            at += us;
            is_mark = !is_mark;
        }
        while (drom_receiver_advance(&listening.receiver, at + 400, &frame)) {
            is_heard |= drom_code_equal(&frame.code, &code);
        }
        ck_assert_int_eq(is_heard, is_reported);
    }
}

TEST(soonest_end_of_a_frame_is_never_too_late)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_protocol *const protocol = waveform->protocol;
        for (uint32_t command = 0; command < 200; command++) {
            const drom_code code = {protocol->number, waveform->min_address,
                                    (uint16_t)(command * 331u % (waveform->max_command + 1u))};
            drom_encoder encoder;
            uint32_t all_us = 0;
            uint32_t last_us = 0;
            ck_assert_int_eq(drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, command % 2),
                             DROM_OK);
            for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
                all_us += us;
                last_us = us;
            }
            ck_assert_msg(protocol->min_ms * 1000u <= (all_us - last_us) * 92 / 100, "%s: min_ms",
                          protocol->id);
            ck_assert_msg(waveform->longest_ms * 1000u >= all_us, "%s: longest_ms", protocol->id);
        }
    }
}

/* After our own burst the receiver starts again, and a leader may come 5 ms later. A protocol without a
 * leader needs its usual silence first. */
TEST(frame_right_after_our_own_burst_is_heard)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = {waveform->protocol->number, waveform->min_address, 5};
        const drom_protocol_ref only[] = {waveform->protocol};
        const bool has_leader = waveform->protocol->first_mark_max_us > 2500;
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

/* Counts how often a decoder is called. */
static unsigned reported;

static drom_heard counted_step(const drom_protocol *protocol, drom_decoder *decoder,
                               const drom_interval *interval, drom_frame *frame)
{
    reported++;
    return drom_pulse_step(protocol, decoder, interval, frame);
}

/* The frames that result; `max` is the number of decoders called per step. */
static unsigned advance_in_bits(drom_receiver *receiver, drom_us at, drom_frame *frame, unsigned *max)
{
    unsigned heard = 0;
    drom_progress progress;
    do {
        reported = 0;
        progress = drom_receiver_step(receiver, at, frame);
        heard += progress == DROM_HEARD;
        *max = reported > *max ? reported : *max;
    } while (progress == DROM_GOES_ON || progress == DROM_HEARD);
    return heard;
}

TEST(few_decoders_step_at_a_time_and_all_in_the_end)
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
    const drom_code code = {DROM_NEC, 4, 70};
    drom_frame frame;
    drom_us at = 1000000;
    unsigned heard = 0;
    unsigned max = 0;
    bool is_mark = true;
    drom_receiver_init(&receiver, &plan);
    drom_encode_start(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        heard += advance_in_bits(&receiver, at, &frame, &max);
        drom_receiver_edge(&receiver, &(drom_edge){at, is_mark, false}, 0);
        at += us;
        is_mark = !is_mark;
    }
    heard += advance_in_bits(&receiver, at, &frame, &max);
    ck_assert_uint_eq(max, 2);
    ck_assert_uint_eq(heard, 1);
    ck_assert_ptr_eq(frame.protocol, &rows[MANY - 1]);
    ck_assert_uint_eq(frame.code.address, 4);
    ck_assert_uint_eq(frame.code.command, 70);
}

/* Each protocol's frame is decoded equally in pieces, at once, and behind one filter with all other
 * protocols. */
TEST(frame_is_the_same_however_the_receiver_is_advanced)
{
    enum { MAX_DECODERS = 64 };
    drom_protocol_ref refs[MAX_DECODERS];
    ck_assert_uint_le(drom_waveform_count, MAX_DECODERS);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        refs[i] = drom_waveforms[i]->protocol;
    }
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        drom_frame frames[3];
        for (unsigned way = 0; way < 3; way++) {
            drom_decoder decoders[MAX_DECODERS];
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
            const drom_code code = {waveform->protocol->number, waveform->min_address, 5};
            drom_receiver_init(&receiver, &plan);
            drom_encode_start(&encoder, waveform, &code, DROM_SEND_FIRST, false);
            uint16_t us = drom_encode_next(&encoder);
            do {
                drom_receiver_edge(&receiver, &(drom_edge){at, is_mark, false}, 0);
                const drom_us until = at + (us != 0 ? us : 60000);
                for (drom_us wait = drom_receiver_wait(&receiver, at); wait <= until - at;
                     wait = drom_receiver_wait(&receiver, at)) {
                    at += wait;
                    if (way == 0 ? drom_receiver_step(&receiver, at, &frame) == DROM_HEARD
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

SUITE("busy")
