/* The bench itself: the same from the same seed, with the defects of real hardware. */
#include "stage.h"
#include "support.h"

#include "trial.h"

static GString *line_of(uint64_t seed)
{
    GString *const text = g_string_new(NULL);
    sim_bench *const bench = sim_bench_new(seed);
    const sim_press finger = {
        .waveform = &drom_nec_waveform,
        .code = wand[POWER],
        .at_us = 1000,
        .held_us = 400000,
        .room = {.clock_error = -0.05, .stretch_us = 80, .jitter_us = 50},
    };
    ck_assert(sim_bench_press(bench, &finger));
    size_t count = 0;
    const sim_edge *const line = sim_bench_edges(bench, &count);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "%u ", (unsigned)line[i].at_us);
    }
    sim_bench_free(bench);
    return text;
}

TEST(one_seed_is_one_world)
{
    g_autoptr(GString) first = line_of(7);
    g_autoptr(GString) again = line_of(7);
    g_autoptr(GString) other = line_of(8);
    ck_assert_str_eq(first->str, again->str);
    ck_assert_str_ne(first->str, other->str);
}

/* 9 ms, 4.5 ms and so on, as docs/protocols.md has it; in an ideal room. */
TEST(handset_sends_what_the_protocol_says)
{
    sim_bench *const bench = sim_bench_new(1);
    const sim_press finger = {
        .waveform = &drom_nec_waveform, .code = {DROM_NEC, 4, 70}, .at_us = 0, .held_us = 110000};
    ck_assert(sim_bench_press(bench, &finger));
    size_t count = 0;
    const sim_edge *const line = sim_bench_edges(bench, &count);
    g_autoptr(GString) bits = g_string_new(NULL);
    ck_assert_uint_eq(count, 2 * (1 + 32 + 1) + 2 * 2);
    ck_assert_uint_eq(line[1].at_us, 9000);
    ck_assert_uint_eq(line[2].at_us, 13500);
    for (size_t i = 2; i < 66; i += 2) {
        ck_assert_uint_eq(line[i + 1].at_us - line[i].at_us, 562);
        const uint64_t space = line[i + 2].at_us - line[i + 1].at_us;
        ck_assert(space == 562 || space == 1687);
        g_string_append_printf(bits, "%s%c", i > 2 && i % 16 == 2 ? " " : "", space == 1687 ? '1' : '0');
    }
    ck_assert_str_eq(bits->str, NEC_4_70);
    ck_assert_uint_eq(line[68].at_us, 108000);
    ck_assert_uint_eq(line[69].at_us - line[68].at_us, 9000);
    ck_assert_uint_eq(line[70].at_us - line[69].at_us, 2250);
    sim_bench_free(bench);
}

typedef struct contacts {
    unsigned changes;
    uint64_t first_us;
    uint64_t last_us;
} contacts;

static void note_contact(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed)
{
    contacts *const seen = context;
    ck_assert_int_eq(is_closed, sim_relay_is_closed(relay));
    seen->first_us = seen->changes == 0 ? at_us : seen->first_us;
    seen->last_us = at_us;
    seen->changes++;
}

TEST(relay_takes_its_time_and_bounces)
{
    unsigned bounced = 0;
    for (uint64_t seed = 1; seed <= 40; seed++) {
        sim_bench *const bench = sim_bench_new(seed);
        sim_relay *const relay = sim_bench_wire_relay(bench, 4, false);
        const drom_port *const port = sim_bench_port(bench);
        contacts seen = {0};
        sim_bench_observe(bench, &(sim_observer){.context = &seen, .contact = note_contact});
        port->pins->write(port->context, 4, true);
        ck_assert(sim_relay_is_energised(relay));
        ck_assert(!sim_relay_is_closed(relay));
        while (sim_bench_sleep(bench, DROM_LONG)) {
        }
        ck_assert(sim_relay_is_closed(relay));
        ck_assert(sim_relay_is_settled(relay));
        ck_assert(seen.first_us >= 7000 && seen.first_us <= 9000);
        ck_assert_uint_le(seen.last_us, 9000 + 6 * 800);
        ck_assert_uint_eq(seen.changes % 2, 1);
        bounced += seen.changes > 1;
        port->pins->write(port->context, 4, false);
        while (sim_bench_sleep(bench, DROM_LONG)) {
        }
        ck_assert(!sim_relay_is_closed(relay));
        ck_assert_uint_eq(sim_relay_operations(relay), 2);
        sim_bench_free(bench);
    }
    ck_assert_uint_gt(bounced, 10);
    ck_assert_uint_lt(bounced, 40);
}

/* However short a touch is, and in any order, the contact ends in its last ordered state. */
TEST(contact_stays_as_it_was_touched_last)
{
    enum { PIN = 15, SETTLED_US = 20000 };
    for (uint64_t seed = 1; seed <= 400; seed++) {
        sim_bench *const bench = sim_bench_new(seed);
        const drom_port *const port = sim_bench_port(bench);
        const uint64_t up_us = 100000 + seed % 40 * 200;
        const bool is_up_first = seed % 2 == 0;
        sim_bench_touch(bench, PIN, is_up_first ? up_us : 100000, !is_up_first);
        sim_bench_touch(bench, PIN, is_up_first ? 100000 : up_us, is_up_first);
        sim_bench_block(bench, (double)(up_us + SETTLED_US));
        ck_assert_msg(port->pins->read(port->context, PIN) == (seed % 40 > 0 || !is_up_first),
                      "seed %u, down for %u us", (unsigned)seed, (unsigned)(up_us - 100000));
        ck_assert(!sim_bench_has_touches(bench));
        sim_bench_free(bench);
    }
}

TEST(armature_that_has_not_moved_stays)
{
    sim_bench *const bench = sim_bench_new(1);
    sim_relay *const relay = sim_bench_wire_relay(bench, 4, true);
    const drom_port *const port = sim_bench_port(bench);
    contacts seen = {0};
    sim_bench_observe(bench, &(sim_observer){.context = &seen, .contact = note_contact});
    port->pins->write(port->context, 4, false);
    ck_assert(sim_bench_sleep(bench, 3000));
    port->pins->write(port->context, 4, true);
    while (sim_bench_sleep(bench, DROM_LONG)) {
    }
    ck_assert(!sim_relay_is_closed(relay));
    ck_assert_uint_eq(seen.changes, 0);
    sim_bench_free(bench);
}

static void count_frame(void *context, const drom_frame *frame)
{
    (void)frame;
    ++*(unsigned *)context;
}

/* Two handsets at once: the line is in a mark while either sends, and neither frame is whole. */
TEST(handsets_that_transmit_at_once_are_not_understood)
{
    drom_engine engine;
    unsigned frames = 0;
    const drom_observer observer = {.context = &frames, .frame = count_frame};
    sim_bench *const bench = sim_bench_new(1);
    const sim_relay *const spot_relay = sim_bench_wire_relay(bench, 4, true);
    const sim_relay *const bell_relay = sim_bench_wire_relay(bench, 7, false);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    drom_engine_observe(&engine, &observer);
    sim_press finger = {.waveform = &drom_nec_waveform, .code = wand[POWER], .at_us = 1000};
    ck_assert(sim_bench_press(bench, &finger));
    finger.at_us = 20300;
    finger.code = wand[PLAY];
    ck_assert(sim_bench_press(bench, &finger));
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    ck_assert_uint_eq(frames, 0);
    ck_assert_uint_eq(sim_relay_operations(spot_relay) + sim_relay_operations(bell_relay), 0);
    finger.at_us = 500000; /* one alone is */
    ck_assert(sim_bench_press(bench, &finger));
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    ck_assert_uint_eq(frames, 1);
    ck_assert_uint_eq(sim_relay_operations(bell_relay), 2);
    sim_bench_free(bench);
}

/* The future edges of a line. */
static char *edges_text(sim_bench *bench)
{
    size_t count = 0;
    const sim_edge *const line = sim_bench_edges(bench, &count);
    GString *const text = g_string_new(NULL);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "%u ", (unsigned)line[i].at_us);
    }
    return g_string_free(text, FALSE);
}

/* However often the line is read meanwhile: in each protocol that can be sent, short and long. */
TEST(finger_sends_what_a_press_of_its_length_does)
{
    static const uint64_t lengths_us[] = {1, 60000, 450000};
    for (unsigned i = 0; i < drom_waveform_count; i++) {
        for (unsigned j = 0; j < G_N_ELEMENTS(lengths_us); j++) {
            sim_bench *const known = sim_bench_new(1);
            sim_bench *const live = sim_bench_new(1);
            sim_finger finger;
            const sim_press press = {.waveform = drom_waveforms[i],
                                     .code = sim_random_code(drom_waveforms[i], 1),
                                     .at_us = 5000,
                                     .held_us = lengths_us[j],
                                     .room = {.jitter_us = 20}};
            ck_assert(sim_bench_press(known, &press));
            ck_assert(sim_finger_begin(live, &finger, &press));
            for (uint64_t us = 0; us < lengths_us[j]; us += 7000) {
                sim_finger_hold(live, &finger, press.at_us + us);
            }
            sim_finger_hold(live, &finger, press.at_us + lengths_us[j]);
            sim_finger_lift(live, &finger);
            g_autofree char *expected = edges_text(known);
            g_autofree char *sent = edges_text(live);
            ck_assert_str_eq(sent, expected);
            sim_bench_free(known);
            sim_bench_free(live);
        }
    }
}

/* Returns how many of 40 presses are received. */
static unsigned heard_from(sim_place from)
{
    enum { PRESSES = 40, EACH_US = 500000 };
    sim_bench *const bench = sim_bench_new(3);
    drom_engine engine;
    unsigned frames = 0;
    drom_observer observer = {.context = &frames, .frame = count_frame};
    ck_assert_int_eq(drom_engine_init(&engine, &stage, sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    drom_engine_observe(&engine, &observer);
    for (unsigned i = 0; i < PRESSES; i++) {
        const sim_press press = {.waveform = &drom_nec_waveform,
                                 .code = wand[PLAY],
                                 .at_us = 1000 + (uint64_t)i * EACH_US,
                                 .room = sim_room_of(&from)};
        ck_assert(sim_bench_press(bench, &press));
    }
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    sim_bench_free(bench);
    return frames;
}

TEST(far_aside_and_on_flat_batteries_less_comes_through)
{
    const unsigned near = heard_from((sim_place){1, 0, 1});
    const unsigned far = heard_from((sim_place){10, 0, 1});
    ck_assert_uint_eq(near, 40);
    ck_assert_uint_eq(heard_from((sim_place){5, 0, 1}), 40);
    ck_assert_uint_gt(far, 0);
    ck_assert_uint_lt(far, near);
    ck_assert_uint_eq(heard_from((sim_place){14, 0, 1}), 0);
    ck_assert_uint_eq(heard_from((sim_place){5, 75, 1}), 0);
    ck_assert_uint_eq(heard_from((sim_place){5, 0, 0.25}), 0);
}

TEST(press_in_the_past_or_of_no_such_code_is_refused)
{
    sim_bench *const bench = sim_bench_new(1);
    sim_press finger = {.waveform = &drom_nec_waveform, .code = {DROM_NEC, 256, 1}};
    ck_assert(!sim_bench_press(bench, &finger));
    finger.code.address = 1;
    ck_assert(sim_bench_sleep(bench, 10));
    ck_assert(!sim_bench_press(bench, &finger));
    finger.at_us = 10;
    ck_assert(sim_bench_press(bench, &finger));
    sim_bench_free(bench);
}

SUITE("sim")
