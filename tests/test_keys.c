/* Frames to gestures, told as a line of words: "press 0", "repeat 0". */
#include "support.h"

static const drom_code wand_codes[] = {{&drom_nec, 4, 70}, {&drom_nec, 4, 71}};
static const drom_code hall_codes[] = {{&drom_nec, 9, 70}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand_codes)}, {.codes = DROM_ROWS(hall_codes)}};
static const uint16_t hold_ms[] = {300, 500};
static drom_hold holds[2];
static const drom_keys_plan plan = {
    .handsets = DROM_ROWS(handsets), .hold_ms = DROM_ROWS(hold_ms), .holds = holds};

typedef struct hand {
    drom_keys keys;
    GString *told;
    drom_us start;
} hand;

static void tell(void *context, const drom_key_event *event)
{
    hand *const told = context;
    static const char *const names[] = {"press", "repeat", "hold", "release", "tap", "double"};
    const char *const gesture = names[g_bit_nth_lsf(event->gesture, -1)];
    g_string_append_printf(told->told, "%s%s %c%u", told->told->len > 0 ? ", " : "", gesture,
                           "wh"[event->handset], event -> key);
    if (event->gesture == DROM_HOLD) {
        g_string_append_printf(told->told, ":%u", plan.hold_ms.rows[event->hold]);
    }
}

static void open_hand(hand *opened, drom_us start)
{
    opened->told = g_string_new(NULL);
    opened->start = start;
    drom_keys_init(&opened->keys, &plan, tell, opened);
}

static void frame(hand *to, unsigned ms, uint32_t address, uint16_t command)
{
    drom_keys_advance(&to->keys, to->start + ms * 1000);
    drom_keys_frame(&to->keys,
                    &(drom_frame){.code = {&drom_nec, address, command}, .at = to->start + ms * 1000});
}

static void ditto(hand *to, unsigned ms)
{
    drom_keys_advance(&to->keys, to->start + ms * 1000);
    drom_keys_frame(&to->keys, &(drom_frame){.code = {.protocol = &drom_nec},
                                             .at = to->start + ms * 1000,
                                             .kind = DROM_FRAME_DITTO});
}

static void quiet_until(hand *to, unsigned ms)
{
    drom_keys_advance(&to->keys, to->start + ms * 1000);
}

static void assert_told(hand *by, const char *expected)
{
    ck_assert_str_eq(by->told->str, expected);
    g_string_free(by->told, TRUE);
}

START_TEST(one_frame_is_a_press_and_then_a_release)
{
    static const drom_us starts[] = {0, UINT32_C(0xffffff00), UINT32_C(0xffffffff) - 100000};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        hand thumb;
        open_hand(&thumb, starts[i]);
        frame(&thumb, 0, 4, 70);
        quiet_until(&thumb, 250);
        ck_assert_str_eq(thumb.told->str, "press w0");
        ck_assert_uint_eq(drom_keys_wait(&thumb.keys, thumb.start + 250000), 800);
        quiet_until(&thumb, 251);
        ck_assert_uint_eq(drom_keys_wait(&thumb.keys, thumb.start + 251000), DROM_NEVER);
        assert_told(&thumb, "press w0, release w0, tap w0");
    }
}
END_TEST

START_TEST(dittos_repeat_and_hold)
{
    hand thumb;
    open_hand(&thumb, 5);
    frame(&thumb, 0, 4, 71);
    for (unsigned i = 1; i <= 5; i++) {
        ditto(&thumb, i * 108);
    }
    quiet_until(&thumb, 1000);
    assert_told(&thumb,
                "press w1, repeat w1, repeat w1, repeat w1, hold w1:300, repeat w1, repeat w1, hold w1:500, "
                "release w1");
}
END_TEST

START_TEST(held_key_survives_one_lost_frame)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    ditto(&thumb, 216);
    ditto(&thumb, 432);
    assert_told(&thumb, "press w0, repeat w0, repeat w0, hold w0:300");
}
END_TEST

START_TEST(key_let_go_before_the_hold_time_is_not_held)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    ditto(&thumb, 108);
    ditto(&thumb, 216);
    quiet_until(&thumb, 2000); /* down for 216 ms */
    assert_told(&thumb, "press w0, repeat w0, repeat w0, release w0, tap w0");
}
END_TEST

START_TEST(two_presses_120_ms_apart_are_two)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 120, 4, 70);
    assert_told(&thumb, "press w0, release w0, tap w0, press w0");
}
END_TEST

START_TEST(whole_frames_on_the_beat_are_one_press)
{
    for (unsigned period_ms = 101; period_ms <= 116; period_ms += 5) { /* the clock is off by up to 7 % */
        hand thumb;
        open_hand(&thumb, 0);
        frame(&thumb, 0, 4, 70);
        frame(&thumb, period_ms, 4, 70);
        frame(&thumb, 2 * period_ms, 4, 70);
        assert_told(&thumb, "press w0, repeat w0, repeat w0");
    }
}
END_TEST

START_TEST(next_key_releases_the_one_before)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 108, 4, 71);
    ditto(&thumb, 216);
    assert_told(&thumb, "press w0, release w0, tap w0, press w1, repeat w1");
}
END_TEST

START_TEST(two_handsets_hold_a_key_each)
{
    hand thumb;
    open_hand(&thumb, 0);
    frame(&thumb, 0, 4, 70);
    frame(&thumb, 70, 9, 70);
    quiet_until(&thumb, 260);
    quiet_until(&thumb, 330);
    assert_told(&thumb, "press w0, press h0, release w0, tap w0, release h0, tap h0");
}
END_TEST

START_TEST(ditto_after_a_strange_key_is_nobodys)
{
    hand thumb;
    open_hand(&thumb, 0);
    ditto(&thumb, 0);
    frame(&thumb, 10, 4, 70);
    frame(&thumb, 80, 4, 99); /* in no sheet */
    ditto(&thumb, 190);
    ditto(&thumb, 298);
    assert_told(&thumb, "press w0, release w0, tap w0");
}
END_TEST

RUN_TESTS("keys", one_frame_is_a_press_and_then_a_release, dittos_repeat_and_hold,
          held_key_survives_one_lost_frame, key_let_go_before_the_hold_time_is_not_held,
          two_presses_120_ms_apart_are_two, whole_frames_on_the_beat_are_one_press,
          next_key_releases_the_one_before, two_handsets_hold_a_key_each,
          ditto_after_a_strange_key_is_nobodys)
