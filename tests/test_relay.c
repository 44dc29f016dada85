/* A relay on a pin whose changes are recorded: "0 low, 500 high" are times in ms and levels. */
#include "support.h"
#include "dromikos/outputs/relay.h"

typedef struct diary {
    drom_port port;
    drom_timing timing;
    drom_us start;
    drom_us late_us; /* the clock has advanced by this since the poll began */
    GString *written;
    drom_relay_settings settings;
    drom_relay_state state;
} diary;

static void write_pin(void *context, uint8_t pin, bool is_high)
{
    diary *const notes = context;
    ck_assert_uint_eq(pin, 4);
    g_string_append_printf(notes->written, "%s%u %s", notes->written->len > 0 ? ", " : "",
                           (notes->timing.now - notes->start) / 1000, is_high ? "high" : "low");
}

static drom_us read_clock(void *context)
{
    const diary *const notes = context;
    return notes->timing.now + notes->late_us;
}

static void open_diary(diary *opened, drom_us start, drom_relay_settings settings)
{
    memset(opened, 0, sizeof *opened);
    static const drom_port_clock clock = {.now = read_clock};
    static const drom_port_pins pins = {.write = write_pin};
    opened->port = (drom_port){.context = opened, .clock = &clock, .pins = &pins};
    opened->timing.port = &opened->port;
    opened->timing.now = opened->start = start;
    opened->written = g_string_new(NULL);
    opened->settings = settings;
    opened->settings.pin = 4;
    drom_relay.rest(&opened->settings, &opened->state, &opened->timing);
}

/* Lets time pass as a poll loop does: it sleeps for as long as the poll says. */
static void until(diary *in, unsigned ms)
{
    for (;;) {
        const drom_us left = in->start + ms * 1000 - in->timing.now;
        const drom_us wait = drom_relay.poll(&in->settings, &in->state, &in->timing);
        if (wait > left) {
            in->timing.now += left;
            return;
        }
        in->timing.now += wait;
    }
}

static void ask(diary *in, unsigned ms, drom_relay_verb verb, uint32_t value)
{
    until(in, ms);
    ck_assert(drom_relay.accepts_action(&in->settings, (uint8_t)verb, value));
    drom_relay.act(&in->settings, &in->state, &in->timing, (uint8_t)verb, value);
}

static void assert_written(diary *in, const char *expected)
{
    ck_assert_str_eq(in->written->str, expected);
    g_string_free(in->written, TRUE);
}

TEST(on_off_and_toggle_switch_at_once)
{
    diary spot;
    open_diary(&spot, 0, (drom_relay_settings){0});
    ask(&spot, 10, DROM_RELAY_ON, 0);
    ask(&spot, 20, DROM_RELAY_ON, 0);
    ask(&spot, 30, DROM_RELAY_OFF, 0);
    ask(&spot, 40, DROM_RELAY_TOGGLE, 0);
    ask(&spot, 50, DROM_RELAY_TOGGLE, 0);
    assert_written(&spot, "0 low, 10 high, 30 low, 40 high, 50 low");
}

TEST(active_low_relay_is_on_when_low)
{
    diary spot;
    open_diary(&spot, 0, (drom_relay_settings){.is_active_low = true});
    ask(&spot, 10, DROM_RELAY_ON, 0);
    ask(&spot, 20, DROM_RELAY_OFF, 0);
    assert_written(&spot, "0 high, 10 low, 20 high");
}

TEST(rest_state_comes_first_and_last)
{
    diary spot;
    open_diary(&spot, 0, (drom_relay_settings){.rests_on = true, .min_on_ms = 100, .min_off_ms = 100});
    ask(&spot, 150, DROM_RELAY_OFF, 0);
    until(&spot, 160);
    drom_relay.rest(&spot.settings, &spot.state, &spot.timing); /* at once, whatever its minimum times are */
    assert_written(&spot, "0 high, 150 low, 160 high");
}

TEST(min_times_put_a_wish_off_and_the_last_wish_counts)
{
    static const drom_us starts[] = {0, UINT32_C(0xffffff00), UINT32_C(0xffffffff) - 1000000};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        diary spot;
        open_diary(&spot, starts[i], (drom_relay_settings){.min_on_ms = 500, .min_off_ms = 2000});
        ask(&spot, 100, DROM_RELAY_ON, 0); /* it is known to have been off for 100 ms only */
        ask(&spot, 2100, DROM_RELAY_OFF, 0);
        ask(&spot, 2200, DROM_RELAY_TOGGLE, 0);
        ask(&spot, 2300, DROM_RELAY_TOGGLE, 0);
        ask(&spot, 2600, DROM_RELAY_ON, 0);
        until(&spot, 9000);
        assert_written(&spot, "0 low, 2000 high, 2500 low, 4500 high");
    }
}

TEST(pulse_ends_by_itself)
{
    diary bell;
    open_diary(&bell, 0, (drom_relay_settings){0});
    ask(&bell, 10, DROM_RELAY_PULSE, 800);
    until(&bell, 2000);
    assert_written(&bell, "0 low, 10 high, 810 low");
}

TEST(second_pulse_starts_the_time_anew)
{
    diary bell;
    open_diary(&bell, 0, (drom_relay_settings){0});
    ask(&bell, 10, DROM_RELAY_PULSE, 800);
    ask(&bell, 500, DROM_RELAY_PULSE, 800);
    until(&bell, 3000);
    assert_written(&bell, "0 low, 10 high, 1300 low");
}

TEST(any_other_wish_ends_a_pulse)
{
    diary bell;
    open_diary(&bell, 0, (drom_relay_settings){0});
    ask(&bell, 10, DROM_RELAY_PULSE, 800);
    ask(&bell, 100, DROM_RELAY_ON, 0);
    ask(&bell, 2000, DROM_RELAY_PULSE, 800);
    ask(&bell, 2100, DROM_RELAY_TOGGLE, 0);
    until(&bell, 4000);
    assert_written(&bell, "0 low, 10 high, 2100 low");
}

TEST(pulse_lasts_its_time_from_when_it_may_begin)
{
    diary bell;
    open_diary(&bell, 0, (drom_relay_settings){.min_off_ms = 1000});
    ask(&bell, 100, DROM_RELAY_PULSE, 300);
    until(&bell, 3000);
    assert_written(&bell, "0 low, 1000 high, 1300 low");
}

TEST(pulse_is_no_shorter_than_the_min_time)
{
    diary bell;
    open_diary(&bell, 0, (drom_relay_settings){.min_on_ms = 1000});
    ask(&bell, 100, DROM_RELAY_PULSE, 300);
    until(&bell, 3000);
    assert_written(&bell, "0 low, 100 high, 1100 low");
}

TEST(min_time_of_hours_ago_does_not_come_round_with_the_clock)
{
    diary spot;
    open_diary(&spot, 0, (drom_relay_settings){.min_off_ms = 60000});
    until(&spot, 100000);
    ck_assert_uint_eq(drom_relay.poll(&spot.settings, &spot.state, &spot.timing), DROM_LONG);
    spot.timing.now +=
        UINT32_MAX - 100000000 + 1; /* the clock shows 0 again, as when the relay was switched */
    spot.start = spot.timing.now;
    ask(&spot, 10, DROM_RELAY_ON, 0);
    assert_written(&spot, "0 low, 10 high");
}

TEST(min_time_counts_from_the_switch_not_from_the_poll_that_did_it)
{
    diary fog;
    open_diary(&fog, 0, (drom_relay_settings){.min_on_ms = 100});
    fog.late_us = 3000;
    ask(&fog, 10, DROM_RELAY_ON, 0);
    ask(&fog, 20, DROM_RELAY_OFF, 0);
    until(&fog, 200);
    assert_written(&fog, "0 low, 10 high, 113 low");
}

TEST(relay_is_busy_while_it_waits_or_pulses_and_on_as_it_was_asked)
{
    diary fog;
    open_diary(&fog, 0, (drom_relay_settings){.min_off_ms = 100});
    ck_assert(!drom_relay.is_on(&fog.state) && !drom_relay.is_busy(&fog.state));
    ask(&fog, 10, DROM_RELAY_PULSE, 50);
    ck_assert(drom_relay.is_on(&fog.state) && drom_relay.is_busy(&fog.state)); /* it has to wait */
    until(&fog, 120);
    ck_assert(drom_relay.is_on(&fog.state) && drom_relay.is_busy(&fog.state));
    until(&fog, 200);
    ck_assert(!drom_relay.is_on(&fog.state) && !drom_relay.is_busy(&fog.state));
    ask(&fog, 300, DROM_RELAY_ON, 0);
    ck_assert(drom_relay.is_on(&fog.state) && !drom_relay.is_busy(&fog.state));
    assert_written(&fog, "0 low, 100 high, 150 low, 300 high");
}

TEST(relay_is_on_for_no_longer_than_it_may_whatever_is_asked)
{
    diary heater;
    open_diary(&heater, UINT32_C(0xfffffff0), (drom_relay_settings){.max_on_ms = 1000, .min_off_ms = 100});
    ask(&heater, 200, DROM_RELAY_ON, 0);
    ask(&heater, 900, DROM_RELAY_ON, 0); /* no second longer */
    until(&heater, 1300);
    ck_assert(!drom_relay.is_on(&heater.state));
    ask(&heater, 1300, DROM_RELAY_PULSE, 5000);
    until(&heater, 3000);
    ask(&heater, 3000, DROM_RELAY_PULSE, 300);
    ask(&heater, 3200, DROM_RELAY_ON, 0); /* the pulse has ended, the limit hasn't */
    until(&heater, 5000);
    assert_written(&heater, "0 low, 200 high, 1200 low, 1300 high, 2300 low, 3000 high, 4000 low");
}

TEST(values_that_make_no_sense_are_refused)
{
    const drom_relay_settings max_below_min = {.min_on_ms = 100, .max_on_ms = 99};
    const drom_relay_settings too_long_at_all = {.max_on_ms = DROM_LONGEST_MS + 1};
    const drom_relay_settings too_long_on = {.min_on_ms = DROM_LONGEST_MS + 1};
    const drom_relay_settings too_long_off = {.min_off_ms = DROM_LONGEST_MS + 1};
    const drom_relay_settings longest = {.min_on_ms = DROM_LONGEST_MS, .min_off_ms = DROM_LONGEST_MS};
    const drom_port_facts facts = {.pins = 1};
    uint8_t item = 0;
    ck_assert_int_eq(drom_relay.check_settings(&too_long_on, &facts, &item), DROM_REASON_SETTINGS);
    ck_assert_int_eq(drom_relay.check_settings(&too_long_off, &facts, &item), DROM_REASON_SETTINGS);
    ck_assert_int_eq(drom_relay.check_settings(&max_below_min, &facts, &item), DROM_REASON_SETTINGS);
    ck_assert_int_eq(drom_relay.check_settings(&too_long_at_all, &facts, &item), DROM_REASON_SETTINGS);
    ck_assert_int_eq(drom_relay.check_settings(&longest, &facts, &item), DROM_REASON_NONE);
    ck_assert(!drom_relay.accepts_action(NULL, DROM_RELAY_PULSE, 0));
    ck_assert(!drom_relay.accepts_action(NULL, DROM_RELAY_PULSE, DROM_LONGEST_MS + 1));
    ck_assert(!drom_relay.accepts_action(NULL, DROM_RELAY_PULSE + 1, 1));
}

SUITE("relay")
