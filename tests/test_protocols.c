/* Each protocol by waveforms that are written out here bit by bit, without the encoder; and no protocol is
 * mistaken for another. */
#include "support.h"

#include "trial.h"

/* A frame as marks and spaces: its beginning, a zero, a one, the bits in the order in which they are sent,
 * and its end. In µs, mark first; for a bi-phase frame in units, '+' a mark and '-' a space. */
static const struct {
    const char *id;
    uint32_t address;
    uint16_t command;
    uint8_t toggle;
    const char *lead;
    const char *zero;
    const char *one;
    const char *bits;
    const char *tail;
    double unit_us; /* of a bi-phase frame */
} spelt[] = {
    {"nec", 4, 70, 0, "9000 4500", "562 562", "562 1687", NEC_4_70, "562", 0},
    {"nec_extended", 0x1204, 70, 0, "9000 4500", "562 562", "562 1687", "00100000 01001000 01100010 10011101",
     "562", 0},
    {"nec_unchecked", 0x1204, 0x3846, 0, "9000 4500", "562 562", "562 1687",
     "00100000 01001000 01100010 00011100", "562", 0},
    {"samsung32", 7, 2, 0, "4500 4500", "560 560", "560 1690", "11100000 11100000 01000000 10111111", "560",
     0},
    {"lg28", 0x88, 0x0051, 0, "8500 4250", "560 560", "560 1600", "10001000 0000 0000 0101 0001 0110", "560",
     0},
    {"jvc", 3, 0x17, 0, "8400 4200", "525 525", "525 1575", "11000000 11101000", "525", 0},
    {"kaseikyo", 0x80, 0x3d, 0, "3456 1728", "432 432", "432 1296",
     "01000000 00000100 00000001 00000000 10111100 10111101", "432", 0},
    {"denon", 2, 0xc5, 0, "", "264 792", "264 1848", "01000 10100011 00 p 01000 01011100 11", "264", 0},
    {"sharp", 2, 0xc5, 0, "", "264 792", "264 1848", "01000 10100011 10 p 01000 01011100 01", "264", 0},
    {"rca", 5, 0x2a, 0, "4000 4000", "500 1000", "500 2000", "0101 00101010 1010 11010101", "500", 0},
    {"mitsubishi", 0x47, 0x12, 0, "", "300 900", "300 2100", "11100010 01001000", "300", 0},
    {"dish", 0xa3, 0x25, 0, "400 6100", "400 2800", "400 1700", "100101 0010100011", "400", 0},
    {"thomson", 0x13, 0x2c, 1, "", "500 2000", "500 4500", "1100 1 1 001101", "500", 0},
    {"recs80", 5, 0x2c, 0, "", "158 4900", "158 7432", "1 0 101 101100", "158", 0},
    {"sirc12", 1, 21, 0, "2400 600", "600 600", "1200 600", "1010100 10000", "", 0},
    {"sirc15", 0x97, 21, 0, "2400 600", "600 600", "1200 600", "1010100 11101001", "", 0},
    {"sirc20", 26 + 32 * 0x49, 21, 0, "2400 600", "600 600", "1200 600", "1010100 01011 10010010", "", 0},
    {"rc5", 5, 53, 0, "", "+-", "-+", "1 1 0 00101 110101", "", 889},
    {"rc5", 5, 64 + 53, 1, "", "+-", "-+", "1 0 1 00101 110101", "", 889},
    {"rc6", 4, 12, 1, "++++++--", "-+", "+-", "1 000 w 00000100 00001100", "", 444.4},
    {"rc6", 4, 12, 0, "++++++--", "-+", "+-", "1 000 v 00000100 00001100", "", 444.4},
    {"rc6a", 0x800f * 128 + 4, 12, 1, "++++++--", "-+", "+-", "1 110 v 1000000000001111 1 0000100 00001100",
     "", 444.4},
    {"nrc17", 10 + 16 * 3, 0x34, 0, "+-----", "-+", "+-", "1 00101100 0101 1100", "", 500},
    {"rcmm12", 10, 0x5b, 0, "417 278", "", "", "q 22 1123", "167", 0},
    {"rcmm24", 0x1234, 0x56, 0, "417 278", "", "", "q 01020310 1112", "167", 0},
    {"rcmm32", 0x123456, 0x78, 0, "417 278", "", "", "q 010203101112 1320", "167", 0},
};

/* Marks and spaces in a row; adjacent ones of one level are joined. */
typedef struct line {
    GArray *us; /* of double; the first is a mark */
    bool is_mark;
} line;

static void put(line *wire, bool is_mark, double us)
{
    if (wire->us->len == 0 && !is_mark) {
        return; /* silence before the frame */
    }
    if (wire->us->len > 0 && wire->is_mark == is_mark) {
        g_array_index(wire->us, double, wire->us->len - 1) += us;
    } else {
        g_array_append_val(wire->us, us);
    }
    wire->is_mark = is_mark;
}

static void put_numbers(line *wire, const char *numbers)
{
    bool is_mark = true;
    for (char *end = NULL; *numbers != '\0'; numbers = *end == ' ' ? end + 1 : end) {
        put(wire, is_mark, (double)g_ascii_strtoull(numbers, &end, 10));
        is_mark = !is_mark;
    }
}

static void put_units(line *wire, const char *levels, double unit_us)
{
    for (; *levels != '\0'; levels++) {
        put(wire, *levels == '+', unit_us);
    }
}

/* '0' and '1' are bits; 'w' and 'v' a one and a zero of double width; 'p' the pause between two halves;
 * behind 'q' '0' to '3' are two bits each. */
static void spell(line *wire, size_t row)
{
    static const double quads_us[] = {278, 444, 611, 778};
    const double unit_us = spelt[row].unit_us;
    const bool is_quad = spelt[row].bits[0] == 'q';
    wire->us = g_array_new(FALSE, FALSE, sizeof(double));
    unit_us > 0 ? put_units(wire, spelt[row].lead, unit_us) : put_numbers(wire, spelt[row].lead);
    for (const char *bit = spelt[row].bits; *bit != '\0'; bit++) {
        const char *const text = *bit == '1' || *bit == 'w' ? spelt[row].one : spelt[row].zero;
        if (*bit == 'p') {
            put_numbers(wire, "264 43500");
        } else if (is_quad && g_ascii_isdigit(*bit)) {
            put(wire, true, 167);
            put(wire, false, quads_us[*bit - '0']);
        } else if (g_ascii_isalnum(*bit) && *bit != 'q') {
            unit_us > 0 ? put_units(wire, text, g_ascii_isdigit(*bit) ? unit_us : 2 * unit_us)
                        : put_numbers(wire, text);
        }
    }
    put_numbers(wire, spelt[row].tail);
}

typedef struct heard {
    drom_frame frames[32];
    unsigned count;
} heard;

static void keep(void *context, const drom_frame *frame)
{
    heard *const log = context;
    if (log->count < G_N_ELEMENTS(log->frames)) {
        log->frames[log->count] = *frame;
    }
    log->count++;
}

static void say(sim_listener *listener, const line *voiced)
{
    double at = (double)listener->now;
    for (guint i = 0; i < voiced->us->len; i++) {
        sim_listener_edge(listener, (drom_us)(at + 0.5), i % 2 == 0);
        at += g_array_index(voiced->us, double, i);
    }
    if (voiced->us->len % 2 == 1) {
        sim_listener_edge(listener, (drom_us)(at + 0.5), false);
    }
}

TEST(each_protocol_is_read_as_it_is_spelt)
{
    for (size_t row = 0; row < G_N_ELEMENTS(spelt); row++) {
        heard all = {0};
        line voiced = {0};
        sim_listener listener;
        sim_listener_open(&listener, keep, &all);
        sim_listener_pass(&listener, 100000);
        spell(&voiced, row);
        say(&listener, &voiced);
        sim_listener_pass(&listener, listener.now + 200000);
        ck_assert_msg(all.count == 1, "%s: %u frames, the first %s", spelt[row].id, all.count,
                      all.frames[0].protocol->id);
        ck_assert_str_eq(all.frames[0].protocol->id, spelt[row].id);
        ck_assert_uint_eq(all.frames[0].code.address, spelt[row].address);
        ck_assert_uint_eq(all.frames[0].code.command, spelt[row].command);
        ck_assert_uint_eq(all.frames[0].toggle, spelt[row].toggle);
        /* dish's leader is sent once per press, and isn't part of the frame */
        ck_assert_uint_eq(all.frames[0].at, strcmp(spelt[row].id, "dish") == 0 ? 106500 : 100000);
        const unsigned margin = drom_frame_margin(&all.frames[0]);
        ck_assert_msg(margin >= 90, "%s: margin %u", spelt[row].id, margin);
        g_array_unref(voiced.us);
    }
}

/* The encoder must produce the same waveforms. */
TEST(each_protocol_is_sent_as_it_is_spelt)
{
    for (size_t row = 0; row < G_N_ELEMENTS(spelt); row++) {
        line voiced = {0};
        const drom_waveform *waveform = NULL;
        for (size_t i = 0; i < drom_waveform_count; i++) {
            waveform =
                strcmp(drom_waveforms[i]->protocol->id, spelt[row].id) == 0 ? drom_waveforms[i] : waveform;
        }
        const drom_code code = {waveform->protocol->number, spelt[row].address, spelt[row].command};
        drom_encoder encoder;
        ck_assert_int_eq(drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, spelt[row].toggle),
                         DROM_OK);
        spell(&voiced, row);
        const guint count = voiced.us->len - (voiced.us->len % 2 == 0); /* a space at the end is silence */
        for (guint i = 0; i < count; i++) {
            const double off_us = drom_encode_next(&encoder) - g_array_index(voiced.us, double, i);
            ck_assert_msg(off_us > -3 && off_us < 3, "%s: interval %u is off by %g", spelt[row].id, i,
                          off_us);
        }
        ck_assert_uint_eq(drom_encode_next(&encoder), 0);
        g_array_unref(voiced.us);
    }
}

TEST(every_protocol_bears_its_limits_and_none_is_invented)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const sim_score got = sim_try_limit(drom_waveforms[i], 1, 12);
        ck_assert_msg(got.wrong == 0 && got.right == got.sent, "%s: %u of %u, %u wrong",
                      drom_waveforms[i]->protocol->id, got.right, got.sent, got.wrong);
    }
}

TEST(frames_come_at_the_earliest_moment_that_is_safe)
{
    for (size_t row = 0; row < G_N_ELEMENTS(spelt); row++) {
        for (int is_alone = 0; is_alone < 2; is_alone++) {
            heard all = {0};
            line voiced = {0};
            sim_listener listener;
            drom_protocol_ref protocol = NULL;
            for (size_t i = 0; i < drom_waveform_count; i++) {
                protocol = strcmp(drom_waveforms[i]->protocol->id, spelt[row].id) == 0
                               ? drom_waveforms[i]->protocol
                               : protocol;
            }
            is_alone ? sim_listener_open_with(&listener, &protocol, 1, keep, &all)
                     : sim_listener_open(&listener, keep, &all);
            sim_listener_pass(&listener, 100000);
            spell(&voiced, row);
            say(&listener, &voiced);
            /* With no other protocol, a frame must be decoded before its last mark ends, or at once after it;
             * else after its silence. */
            const drom_us wait_us = is_alone || protocol->group == DROM_GROUP_NONE
                                        ? protocol->glitch_us + 5u
                                        : protocol->silence_us + 5u;
            sim_listener_pass(&listener, listener.now + wait_us);
            ck_assert_msg(all.count == 1, "%s: %u", spelt[row].id, all.count);
            g_array_unref(voiced.us);
        }
    }
}

/* A press of a protocol, received by a plan with some others; the result is "nec 4 70, ditto". */
static char *hear_press(const drom_waveform *waveform, uint32_t address, uint16_t command, unsigned frames,
                        const drom_protocol_ref *named, size_t count)
{
    heard all = {0};
    sim_listener listener;
    sim_bench *const bench = sim_bench_new(1);
    const sim_press press = {.waveform = waveform,
                             .code = {waveform->protocol->number, address, command},
                             .at_us = 50000,
                             .frames = frames};
    ck_assert(sim_bench_press(bench, &press));
    sim_listener_open_with(&listener, named, count, keep, &all);
    sim_listener_hear(&listener, bench);
    sim_bench_free(bench);
    GString *const text = g_string_new(NULL);
    for (unsigned i = 0; i < all.count; i++) {
        const drom_frame *const frame = &all.frames[i];
        g_string_append(text, i > 0 ? ", " : "");
        if (frame->protocol == &drom_unknown) {
            g_string_append(text, "unknown");
        } else if (frame->kind == DROM_FRAME_REPEAT || frame->kind == DROM_FRAME_BOUNDARY) {
            g_string_append_printf(text, "%s %s", frame->protocol->id,
                                   frame->kind == DROM_FRAME_REPEAT ? "ditto" : "boundary");
        } else {
            g_string_append_printf(text, "%s %u %u", frame->protocol->id, frame->code.address,
                                   frame->code.command);
        }
    }
    return g_string_free(text, FALSE);
}

#define HEARD(expected, waveform, address, command, frames, ...)                                             \
    do {                                                                                                     \
        const drom_protocol_ref named[] = {__VA_ARGS__};                                                     \
        g_autofree char *reported =                                                                          \
            hear_press(&waveform, address, command, frames, named, G_N_ELEMENTS(named));                     \
        ck_assert_str_eq(reported, expected);                                                                \
    } while (0)

TEST(narrowest_of_the_nec_family_is_the_one)
{
    HEARD("nec 4 70, nec ditto", drom_nec_waveform, 4, 70, 2, &drom_nec_unchecked, &drom_nec_extended,
          &drom_nec);
    HEARD("nec_extended 64260 70, nec_extended ditto", drom_nec_waveform, 4, 70, 2, &drom_nec_extended,
          &drom_nec_unchecked);
    HEARD("unknown", drom_nec_waveform, 4, 70, 1, &drom_nec_unchecked);
    HEARD("nec_extended 4660 70", drom_nec_extended_waveform, 0x1234, 70, 1, &drom_nec, &drom_nec_extended,
          &drom_nec_unchecked);
    HEARD("unknown", drom_nec_extended_waveform, 0x1234, 70, 1, &drom_nec, &drom_nec_unchecked);
    HEARD("nec_unchecked 4660 22136", drom_nec_unchecked_waveform, 0x1234, 0x5678, 1, &drom_nec,
          &drom_nec_extended, &drom_nec_unchecked);
    HEARD("unknown", drom_nec_unchecked_waveform, 0xfb04, 0x5678, 1, &drom_nec, &drom_nec_extended,
          &drom_nec_unchecked); /* a damaged nec frame */
}

TEST(repeat_frame_is_that_of_the_frame_before)
{
    HEARD("lg28 136 81, lg28 ditto, lg28 ditto", drom_lg28_waveform, 0x88, 0x51, 3, &drom_nec, &drom_lg28,
          &drom_nec_extended);
    HEARD("nec 4 70, nec ditto", drom_nec_waveform, 4, 70, 2, &drom_lg28, &drom_nec);
}

TEST(length_is_known_by_the_silence_only_where_it_must_be)
{
    HEARD("sirc12 1 21, sirc12 1 21, sirc12 1 21", drom_sirc12_waveform, 1, 21, 3, &drom_sirc12, &drom_sirc15,
          &drom_sirc20);
    HEARD("sirc20 2362 21", drom_sirc20_waveform, 2362, 21, 1, &drom_sirc12, &drom_sirc15, &drom_sirc20);
    HEARD("sirc15 151 21", drom_sirc15_waveform, 151, 21, 1, &drom_sirc12, &drom_sirc15);
    HEARD("rcmm24 4660 86", drom_rcmm24_waveform, 0x1234, 0x56, 1, &drom_rcmm12, &drom_rcmm24, &drom_rcmm32);
    HEARD("jvc 3 23", drom_jvc_waveform, 3, 23, 1, &drom_nec, &drom_jvc, &drom_lg28);
}

TEST(frame_without_its_leader_needs_one_that_had_it)
{
    HEARD("jvc 3 23, jvc 3 23, jvc 3 23", drom_jvc_waveform, 3, 23, 3, &drom_jvc, &drom_mitsubishi);
    heard all = {0};
    sim_listener listener;
    const drom_protocol_ref named[] = {&drom_jvc};
    line voiced = {.us = g_array_new(FALSE, FALSE, sizeof(double))};
    for (const char *bit = "1100000011101000"; *bit != '\0'; bit++) {
        put_numbers(&voiced, *bit == '1' ? "525 1575" : "525 525");
    }
    put_numbers(&voiced, "525");
    sim_listener_open_with(&listener, named, 1, keep, &all);
    sim_listener_pass(&listener, 100000);
    say(&listener, &voiced);
    sim_listener_pass(&listener, listener.now + 100000);
    ck_assert_uint_eq(all.count, 1);
    ck_assert_ptr_eq(all.frames[0].protocol, &drom_unknown);
    g_array_unref(voiced.us);
}

TEST(two_halves_are_one_frame_and_one_is_none)
{
    HEARD("denon 2 197, denon 2 197", drom_denon_waveform, 2, 197, 2, &drom_denon, &drom_sharp,
          &drom_mitsubishi);
    HEARD("sharp 2 197", drom_sharp_waveform, 2, 197, 1, &drom_denon, &drom_sharp, &drom_mitsubishi);
    for (size_t row = 0; row < G_N_ELEMENTS(spelt); row++) {
        if (strcmp(spelt[row].id, "denon") == 0) { /* the first half alone */
            heard all = {0};
            line voiced = {0};
            sim_listener listener;
            sim_listener_open(&listener, keep, &all);
            sim_listener_pass(&listener, 100000);
            spell(&voiced, row);
            g_array_set_size(voiced.us, 31);
            say(&listener, &voiced);
            sim_listener_pass(&listener, listener.now + 300000);
            ck_assert_uint_eq(all.count, 0);
            g_array_unref(voiced.us);
        }
    }
}

TEST(boundaries_of_a_press_are_no_keys)
{
    HEARD("nrc17 boundary, nrc17 58 52, nrc17 58 52, nrc17 boundary", drom_nrc17_waveform, 58, 52, 2,
          &drom_nrc17);
}

TEST(each_group_of_dish_is_a_frame)
{
    HEARD("dish 163 37, dish 163 37, dish 163 37", drom_dish_waveform, 163, 37, 3, &drom_dish,
          &drom_mitsubishi);
    HEARD("dish 1023 63, dish 1023 63", drom_dish_waveform, 1023, 63, 2, &drom_mitsubishi, &drom_dish);
    HEARD("mitsubishi 255 255, mitsubishi 255 255", drom_mitsubishi_waveform, 255, 255, 2, &drom_mitsubishi,
          &drom_dish);
}

TEST(other_vendors_stand_in_the_upper_half_of_the_address)
{
    const uint32_t vendor = 0x5432;
    const uint32_t parity = 5 ^ 4 ^ 3 ^ 2;
    const uint32_t address = (vendor ^ DROM_KASEIKYO_VENDOR) << 16 | 0x1230 | parity;
    g_autofree char *expected = g_strdup_printf("kaseikyo %u 9", address);
    HEARD(expected, drom_kaseikyo_waveform, address, 9, 1, &drom_kaseikyo);
    HEARD("unknown", drom_kaseikyo_waveform, address ^ 1, 9, 1, &drom_kaseikyo);
}

/* Equal bits after a leader's space are as long as rc5's ones. */
TEST(equal_bits_after_a_leader_are_not_rc5)
{
    static const struct {
        const drom_waveform *waveform;
        drom_code code;
    } rows[] = {{&drom_jvc_waveform, {DROM_JVC, 255, 15}},
                {&drom_rca_waveform, {DROM_RCA, 0, 0}},
                {&drom_lg28_waveform, {DROM_LG28, 255, 0xf000}},
                {&drom_samsung32_waveform, {DROM_SAMSUNG32, 255, 7}}};
    for (size_t row = 0; row < G_N_ELEMENTS(rows); row++) {
        heard all = {0};
        sim_listener listener;
        sim_bench *const bench = sim_bench_new(1);
        sim_listener_open(&listener, keep, &all);
        ck_assert(sim_bench_press(bench, &(sim_press){.waveform = rows[row].waveform,
                                                      .code = rows[row].code,
                                                      .at_us = 100000,
                                                      .frames = 1,
                                                      .room = {.clock_error = -0.03}}));
        sim_listener_hear(&listener, bench);
        ck_assert_uint_eq(all.count, 1);
        ck_assert_str_eq(all.frames[0].protocol->id, rows[row].waveform->protocol->id);
        sim_bench_free(bench);
    }
}

TEST(clipped_leader_is_forgiven_where_the_bits_can_be_checked)
{
    heard all = {0};
    line voiced = {0};
    sim_listener listener;
    sim_listener_open(&listener, keep, &all);
    sim_listener_pass(&listener, 100000);
    spell(&voiced, 0);
    g_array_index(voiced.us, double, 0) = 6000;
    say(&listener, &voiced);
    sim_listener_pass(&listener, listener.now + 100000);
    ck_assert_uint_eq(all.count, 1);
    ck_assert_ptr_eq(all.frames[0].protocol, &drom_nec);
    g_array_unref(voiced.us);
}

/* Counts the frames of known protocols other than the context's. */
typedef struct crosstalk {
    const drom_code *sent;
    unsigned right;
    unsigned wrong;
} crosstalk;

static void judge(void *context, const drom_frame *frame)
{
    crosstalk *const mix = context;
    const bool is_right = frame->kind == DROM_FRAME_REPEAT || frame->kind == DROM_FRAME_BOUNDARY ||
                          drom_code_equal(&frame->code, mix->sent);
    mix->right += is_right;
    mix->wrong += !is_right && frame->protocol != &drom_unknown;
}

/* Returns the frames that a plan with these protocols decodes from three. */
static crosstalk hear_with(const drom_protocol_ref *protocols, size_t count, const drom_waveform *sent,
                           uint64_t seed)
{
    const sim_limit limit = sim_limit_of(sent->protocol->id);
    const double clock = seed % 2 == 0 ? 0.08 : -0.08;
    const drom_code code = sim_random_code(sent, seed);
    crosstalk got = {.sent = &code};
    sim_bench *const bench = sim_bench_new(seed);
    sim_listener listener;
    sim_listener_open_with(&listener, protocols, count, judge, &got);
    (void)sim_bench_press(bench, &(sim_press){.waveform = sent,
                                              .code = code,
                                              .at_us = 50000,
                                              .frames = 3,
                                              .room = {.clock_error = clock,
                                                       .stretch_us = seed % 3 == 0 ? limit.stretch_us : 0,
                                                       .jitter_us = limit.jitter_us}});
    sim_listener_hear(&listener, bench);
    sim_bench_free(bench);
    got.sent = NULL;
    return got;
}

/* A plan with few protocols lacks the one that would decode the frame: none of them may decode another's
 * frame, unless they begin alike; and with two of them, each decodes its own. */
TEST(few_protocols_do_not_take_each_others_frames)
{
    for (size_t own = 0; own < drom_waveform_count; own++) {
        for (size_t other = 0; other < drom_waveform_count; other++) {
            const drom_protocol_ref pair[] = {drom_waveforms[own]->protocol, drom_waveforms[other]->protocol};
            const bool are_alike = pair[0]->group == pair[1]->group && pair[0]->group != DROM_GROUP_NONE;
            for (uint64_t seed = 1; own != other && seed <= 6; seed++) {
                const crosstalk alone = hear_with(pair, 1, drom_waveforms[other], seed);
                const crosstalk both = hear_with(pair, 2, drom_waveforms[other], seed);
                ck_assert_msg(are_alike || alone.right + alone.wrong == 0, "%s alone hears %s as its own",
                              pair[0]->id, pair[1]->id);
                ck_assert_msg(both.right >= 3 && both.wrong == 0, "beside %s, of %s: %u right, %u wrong",
                              pair[0]->id, pair[1]->id, both.right, both.wrong);
            }
        }
    }
}

SUITE("protocols")
