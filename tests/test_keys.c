/* From frames to gestures, as a line of words: "press 0", "repeat 0". */
#include "support.h"
#include "dromikos/internal/keys.h"

static const drom_code wand_codes[] = {{DROM_NEC, 4, 70}, {DROM_NEC, 4, 71}};
static const drom_code hall_codes[] = {{DROM_NEC, 9, 70}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand_codes)}, {.codes = DROM_ROWS(hall_codes)}};
static const uint16_t hold_ms[] = {300, 500};
static drom_hold holds[2];
static const drom_keys_plan plan = {
    .handsets = DROM_ROWS(handsets), .hold_ms = DROM_ROWS(hold_ms), .holds = holds};

typedef struct hand {
    drom_keys keys;
    GString *reported;
    drom_us start;
} hand;

static void note_event(void *context, const drom_key_event *event)
{
    hand *const reported = context;
    static const char *const names[] = {"press", "repeat", "hold", "release", "tap", "double"};
    const char *const gesture = names[g_bit_nth_lsf(event->gesture, -1)];
    g_string_append_printf(reported->reported, "%s%s %c%u", reported->reported->len > 0 ? ", " : "", gesture,
                           "wh"[event->handset], event -> key);
    if (event->gesture == DROM_HOLD) {
        g_string_append_printf(reported->reported, ":%u", plan.hold_ms.rows[event->hold]);
    }
}

static void open_hand(hand *opened, drom_us start)
{
    opened->reported = g_string_new(NULL);
    opened->start = start;
    drom_keys_init(&opened->keys, &plan, note_event, opened);
}

static void frame(hand *player, unsigned ms, uint32_t address, uint16_t command)
{
    while (drom_keys_advance(&player->keys, player->start + ms * 1000)) {
    }
    drom_keys_frame(&player->keys, &(drom_frame){.protocol = &drom_nec,
                                                 .code = {DROM_NEC, address, command},
                                                 .at = player->start + ms * 1000});
}

static void repeat_frame(hand *player, unsigned ms)
{
    while (drom_keys_advance(&player->keys, player->start + ms * 1000)) {
    }
    drom_keys_frame(
        &player->keys,
        &(drom_frame){.protocol = &drom_nec, .at = player->start + ms * 1000, .kind = DROM_FRAME_REPEAT});
}

static void quiet_until(hand *player, unsigned ms)
{
    while (drom_keys_advance(&player->keys, player->start + ms * 1000)) {
    }
}

static void assert_reported(hand *player, const char *expected)
{
    ck_assert_str_eq(player->reported->str, expected);
    g_string_free(player->reported, TRUE);
}

TEST(one_frame_is_a_press_and_then_a_release)
{
    static const drom_us starts[] = {0, UINT32_C(0xffffff00), UINT32_C(0xffffffff) - 100000};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        hand thumb;
        open_hand(&thumb, starts[i]);
        frame(&thumb, 0, 4, 70);
        quiet_until(&thumb, 250);
        ck_assert_str_eq(thumb.reported->str, "press w0");
        ck_assert_uint_eq(drom_keys_wait(&thumb.keys, thumb.start + 250000), 1156);
        quiet_until(&thumb, 252);
        ck_assert_uint_eq(drom_keys_wait(&thumb.keys, thumb.start + 252000), DROM_LONG);
        assert_reported(&thumb, "press w0, release w0, tap w0");
    }
}

TEST(repeat_frames_repeat_and_hold)
{
    hand thumb;
    open_hand(&thumb, 5);
    frame(&thumb, 0, 4, 71);
    for (unsigned i = 1; i <= 5; i++) {
        repeat_frame(&thumb, i * 108);
    }
    quiet_until(&thumb, 1000);
    assert_reported(
        &thumb, "press w1, repeat w1, repeat w1, repeat w1, hold w1:300, repeat w1, repeat w1, hold w1:500, "
                "release w1");
}

/* If a protocol has repeat frames, a whole frame two periods later is another press. */
TEST(whole_frame_after_two_periods_is_a_new_press_where_there_are_repeat_frames)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 108, 4, 70);
    frame(&thumb, 108 + 216, 4, 70);
    assert_reported(&thumb, "press w0, repeat w0, release w0, tap w0, press w0");
}

TEST(held_key_survives_one_lost_frame)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    repeat_frame(&thumb, 216);
    repeat_frame(&thumb, 432);
    assert_reported(&thumb, "press w0, repeat w0, repeat w0, hold w0:300");
}

TEST(key_let_go_before_the_hold_time_is_not_held)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    repeat_frame(&thumb, 108);
    repeat_frame(&thumb, 216);
    quiet_until(&thumb, 2000); /* down for 216 ms */
    assert_reported(&thumb, "press w0, repeat w0, repeat w0, release w0, tap w0");
}

/* For longer than the clock's range: 71 min 35 s. */
TEST(key_that_is_held_for_ever_is_no_tap)
{
    enum { HELD_MS = 4295200 };
    static const unsigned held_ms[] = {HELD_MS, 2 * HELD_MS};
    for (size_t i = 0; i < G_N_ELEMENTS(held_ms); i++) {
        hand thumb;
        unsigned ms = 0;
        open_hand(&thumb, 0);
        frame(&thumb, 0, 4, 70);
        for (ms = 108; ms <= held_ms[i]; ms += 108) {
            repeat_frame(&thumb, ms);
        }
        quiet_until(&thumb, ms + 300);
        ck_assert_msg(g_str_has_suffix(thumb.reported->str, "repeat w0, release w0"), "%s",
                      thumb.reported->str + thumb.reported->len - 40);
        g_string_free(thumb.reported, TRUE);
    }
}

TEST(two_presses_120_ms_apart_are_two)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 120, 4, 70);
    assert_reported(&thumb, "press w0, release w0, tap w0, press w0");
}

TEST(whole_frames_at_the_frame_period_are_one_press)
{
    for (unsigned period_ms = 101; period_ms <= 116; period_ms += 5) { /* the clock is off by up to 7 % */
        hand thumb;
        open_hand(&thumb, 0);
        frame(&thumb, 0, 4, 70);
        frame(&thumb, period_ms, 4, 70);
        frame(&thumb, 2 * period_ms, 4, 70);
        assert_reported(&thumb, "press w0, repeat w0, repeat w0");
    }
}

TEST(next_key_releases_the_one_before)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 108, 4, 71);
    repeat_frame(&thumb, 216);
    assert_reported(&thumb, "press w0, release w0, tap w0, press w1, repeat w1");
}

TEST(two_handsets_hold_a_key_each)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 70, 9, 70);
    quiet_until(&thumb, 260);
    quiet_until(&thumb, 330);
    assert_reported(&thumb, "press w0, press h0, release w0, tap w0, release h0, tap h0");
}

TEST(repeat_frame_after_a_strange_key_is_dropped)
{
    hand thumb;
    open_hand(&thumb, 0);
    repeat_frame(&thumb, 0);
    frame(&thumb, 10, 4, 70);
    frame(&thumb, 80, 4, 99); /* in no sheet */
    repeat_frame(&thumb, 190);
    repeat_frame(&thumb, 298);
    assert_reported(&thumb, "press w0, release w0, tap w0");
}

/* A plan of one handset, changed by the test; and frames of any protocol. */
static drom_keys_plan own_plan;
static drom_handset own_handset = {.codes = DROM_ROWS(wand_codes)};
static const drom_protocol *own;
static drom_code own_codes[2];

static void open_own(hand *opened, const drom_protocol *protocol)
{
    own = protocol;
    own_codes[0] = (drom_code){protocol->number, 4, 70};
    own_codes[1] = (drom_code){protocol->number, 4, 71};
    own_handset.codes.rows = own_codes;
    own_plan.handsets.rows = &own_handset;
    own_plan.handsets.count = 1;
    own_plan.holds = holds;
    opened->reported = g_string_new(NULL);
    opened->start = 0;
    drom_keys_init(&opened->keys, &own_plan, note_event, opened);
}

static void own_frame(hand *player, unsigned ms, unsigned key, unsigned toggle)
{
    for (drom_us now = 0; now < ms * 1000; now += 1000) { /* a poll every ms */
        while (drom_keys_advance(&player->keys, now)) {
        }
    }
    drom_keys_frame(&player->keys, &(drom_frame){.protocol = own,
                                                 .code = own_codes[key],
                                                 .at = ms * 1000,
                                                 .lasted_us = 25000,
                                                 .toggle = (uint8_t)toggle});
}

TEST(toggle_bit_makes_no_second_key)
{
    hand thumb;
    open_own(&thumb, &drom_rc5);
    own_frame(&thumb, 0, 0, 0);
    own_frame(&thumb, 114, 0, 0);
    own_frame(&thumb, 228, 0, 1); /* so fast that only the toggle bit shows it */
    own_frame(&thumb, 342, 0, 1);
    assert_reported(&thumb, "press w0, repeat w0, release w0, tap w0, press w0, repeat w0");
}

TEST(three_frames_of_one_press_are_one_press)
{
    hand thumb;
    open_own(&thumb, &drom_sirc12);
    own_frame(&thumb, 0, 0, 0);
    own_frame(&thumb, 45, 0, 0);
    own_frame(&thumb, 90, 0, 0);
    own_frame(&thumb, 210, 0, 0); /* 120 ms after the newest frame */
    assert_reported(&thumb, "press w0, repeat w0, repeat w0, release w0, tap w0, press w0");
}

/* After a repeat, one frame may be missing; two periods after a single frame comes the next tap. */
TEST(whole_frames_survive_a_lost_one_but_no_tap_is_taken_for_that)
{
    static const drom_protocol *const protocols[] = {&drom_samsung32, &drom_kaseikyo, &drom_rca,
                                                     &drom_mitsubishi, &drom_dish};
    for (size_t i = 0; i < G_N_ELEMENTS(protocols); i++) {
        const unsigned period_ms =
            (protocols[i]->period_us != 0 ? protocols[i]->period_us : 25000 + protocols[i]->gap_us) / 1000;
        hand thumb;
        open_own(&thumb, protocols[i]);
        own_frame(&thumb, 0, 0, 0);
        own_frame(&thumb, period_ms, 0, 0);
        own_frame(&thumb, 3 * period_ms, 0, 0);
        own_frame(&thumb, 4 * period_ms, 0, 0);
        assert_reported(&thumb, "press w0, repeat w0, repeat w0, repeat w0");
        open_own(&thumb, protocols[i]);
        own_frame(&thumb, 0, 0, 0);
        own_frame(&thumb, 2 * period_ms, 0, 0);
        assert_reported(&thumb, "press w0, release w0, tap w0, press w0");
    }
}

TEST(press_needs_a_second_frame_where_the_plan_says_so)
{
    hand thumb;
    own_handset.needs_second_frame = true;
    open_own(&thumb, &drom_sirc12);
    own_frame(&thumb, 0, 0, 0);
    ck_assert_str_eq(thumb.reported->str, "");
    own_frame(&thumb, 400, 1, 0); /* neither was confirmed */
    own_frame(&thumb, 800, 0, 0);
    own_frame(&thumb, 845, 0, 0);
    own_frame(&thumb, 890, 0, 0);
    own_handset.needs_second_frame = false;
    assert_reported(&thumb, "press w0, repeat w0");
}

TEST(ticks_speed_up_and_end_with_the_key)
{
    hand thumb;
    static drom_ticking tickings[1];
    own_plan.ticks = tickings;
    own_plan.repeat_after_ms = 400;
    own_plan.repeat_every_ms = 200;
    own_plan.repeat_fastest_ms = 100;
    own_plan.tap_ms = 1;
    open_own(&thumb, &drom_rc5);
    GArray *const ticks = g_array_new(FALSE, FALSE, sizeof(unsigned));
    unsigned next_frame_ms = 0;
    for (unsigned ms = 0; ms < 3000; ms++) {
        const gsize before = thumb.reported->len;
        while (drom_keys_advance(&thumb.keys, ms * 1000)) {
        }
        if (ms == next_frame_ms && ms < 2000) {
            own_frame(&thumb, ms, 0, 0);
            next_frame_ms += 114;
        } else if (thumb.reported->len > before && strstr(thumb.reported->str + before, "repeat") != NULL) {
            g_array_append_val(ticks, ms);
        }
    }
    static const unsigned expected[] = {400, 600, 775, 929, 1064, 1183, 1288};
    for (size_t i = 0; i < G_N_ELEMENTS(expected); i++) {
        ck_assert_uint_eq(g_array_index(ticks, unsigned, i), expected[i]);
    }
    const unsigned last = g_array_index(ticks, unsigned, ticks->len - 1);
    ck_assert(last > 1900 && last < 1938 + 170); /* the last frame, and one that would be overdue */
    g_array_unref(ticks);
    own_plan.repeat_after_ms = 0;
    own_plan.ticks = NULL;
    g_string_free(thumb.reported, TRUE);
}

TEST(two_taps_are_a_double_where_the_key_knows_it)
{
    static const drom_key_ref knows[] = {{0, 0}};
    static drom_tapped taps[1];
    hand thumb;
    own_plan.tap_ms = 0;
    own_plan.doubles.rows = knows;
    own_plan.doubles.count = 1;
    own_plan.taps = taps;
    open_own(&thumb, &drom_rc5);
    own_frame(&thumb, 0, 0, 0);
    own_frame(&thumb, 200, 0, 1);
    own_frame(&thumb, 2000, 0, 0); /* a single tap, reported when no second one can follow */
    own_frame(&thumb, 4000, 1, 1); /* a key without a double tap */
    own_frame(&thumb, 6000, 1, 0);
    own_plan.doubles.count = 0;
    own_plan.taps = NULL;
    assert_reported(
        &thumb,
        "press w0, release w0, press w0, release w0, double w0, press w0, release w0, tap w0, press w1, "
        "release w1, tap w1, press w1");
}

/* The same taps with only some gestures in use: these gestures are reported as before, in the same order, and
 * no others. */
TEST(gestures_that_no_rule_wants_are_not_reported)
{
    static const drom_key_ref knows[] = {{0, 0}};
    static const struct {
        uint8_t wanted;
        const char *reported;
    } cases[] = {
        {DROM_PRESS, "press w0, press w0, press w0, press w1, press w1"},
        {DROM_RELEASE, "release w0, release w0, release w0, release w1"},
        {DROM_DOUBLE, "double w0"},
        {DROM_TAP, "tap w0, tap w1"},
        {DROM_PRESS | DROM_DOUBLE, "press w0, press w0, double w0, press w0, press w1, press w1"},
    };
    for (size_t row = 0; row < G_N_ELEMENTS(cases); row++) {
        hand thumb;
        static drom_tapped taps[1];
        own_plan.taps = taps;
        own_plan.doubles.rows = knows;
        own_plan.doubles.count = 1;
        own_plan.gestures = cases[row].wanted;
        open_own(&thumb, &drom_rc5);
        own_frame(&thumb, 0, 0, 0);
        own_frame(&thumb, 200, 0, 1);
        own_frame(&thumb, 2000, 0, 0);
        own_frame(&thumb, 4000, 1, 1);
        own_frame(&thumb, 6000, 1, 0);
        own_plan.doubles.count = 0;
        own_plan.taps = NULL;
        own_plan.gestures = 0;
        assert_reported(&thumb, cases[row].reported);
    }
}

TEST(boundary_lets_go_at_once)
{
    hand thumb;
    open_own(&thumb, &drom_nrc17);
    own_frame(&thumb, 40, 0, 0);
    drom_keys_frame(&thumb.keys,
                    &(drom_frame){.protocol = &drom_nrc17, .at = 140000, .kind = DROM_FRAME_BOUNDARY});
    assert_reported(&thumb, "press w0, release w0, tap w0");
}

/* While we transmit, the receiver is muted: a frame due then doesn't count as missed, and the key stays held.
 */
TEST(held_key_survives_while_we_transmit)
{
    static const drom_air between = {.transmit_from = 150000, .echo = {170000, false}};
    static const drom_air over_two = {.transmit_from = 200000, .echo = {400000, false}};
    for (unsigned is_muted = 0; is_muted < 2; is_muted++) {
        hand thumb;
        open_own(&thumb, &drom_rc5);
        own_frame(&thumb, 0, 0, 0);
        own_frame(&thumb, 114, 0, 0);
        drom_keys_mute(&thumb.keys, &between); /* no frame is due in that time: nothing changes */
        if (is_muted) {
            drom_keys_mute(&thumb.keys, &over_two);
        }
        own_frame(&thumb, 456, 0, 0); /* three periods later: two frames are missing */
        assert_reported(&thumb, is_muted ? "press w0, repeat w0, repeat w0"
                                         : "press w0, repeat w0, release w0, tap w0, press w0");
    }
}

TEST(one_call_advances_one_handset)
{
    hand both;
    open_hand(&both, 0);
    frame(&both, 0, 4, 70);
    frame(&both, 70, 9, 70);
    ck_assert(drom_keys_advance(&both.keys, 1000000));
    ck_assert_str_eq(both.reported->str, "press w0, press h0, release w0, tap w0");
    ck_assert(!drom_keys_advance(&both.keys, 1000000));
    assert_reported(&both, "press w0, press h0, release w0, tap w0, release h0, tap h0");
}

static void note_key(void *context, const drom_key_event *event)
{
    if (event->gesture == DROM_PRESS) {
        *(int *)context = event->key;
    }
}

static gint by_code(gconstpointer left, gconstpointer right, gpointer codes)
{
    const drom_code *const a = &((const drom_code *)codes)[*(const uint8_t *)left];
    const drom_code *const b = &((const drom_code *)codes)[*(const uint8_t *)right];
    return a->command != b->command   ? a->command - b->command
           : a->address != b->address ? (a->address > b->address) - (a->address < b->address)
                                      : a->protocol - b->protocol;
}

/* Many codes differ in one thing only: command, address, or protocol. */
TEST(key_that_is_listed_by_code_is_found_as_if_each_were_looked_at)
{
    enum { CODES = 255 };
    static const uint8_t known[] = {DROM_NEC, DROM_SAMSUNG32, DROM_JVC};
    drom_code codes[CODES + 3];
    uint8_t rows[CODES];
    drom_hold hold;
    for (unsigned i = 0; i < G_N_ELEMENTS(codes); i++) {
        const unsigned number = i * 101 % 258;
        codes[i] = (drom_code){known[number % 3], number / 3 % 9, (uint16_t)(number / 27)};
        if (i < CODES) {
            rows[i] = (uint8_t)i;
        }
    }
    g_qsort_with_data(rows, CODES, 1, by_code, codes);
    const drom_handset listed[] = {{.codes = {codes, CODES}, .by_code = {rows, CODES}}};
    const drom_keys_plan lists = {.handsets = DROM_ROWS(listed), .holds = &hold};
    for (unsigned i = 0; i < G_N_ELEMENTS(codes); i++) {
        drom_keys keys;
        int found = -1;
        drom_keys_init(&keys, &lists, note_key, &found);
        drom_keys_frame(&keys, &(drom_frame){.protocol = &drom_nec, .code = codes[i]});
        ck_assert_int_eq(found, i < CODES ? (int)i : -1);
    }
}

SUITE("keys")
