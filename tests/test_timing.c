/* The clock wraps every 71 minutes, without any effect. */
#include "support.h"

#include "dromikos/internal/scheduler.h"

static const drom_us starts[] = {0, 1000, UINT32_C(0x7fffffff), UINT32_C(0xfffffff0), UINT32_C(0xffffffff)};

TEST(moment_is_due_from_its_time_on)
{
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        const drom_us at = starts[i];
        ck_assert(drom_is_due(at, at));
        ck_assert(drom_is_due(at + 1, at));
        ck_assert(drom_is_due(at + DROM_LONGEST_US, at));
        ck_assert(!drom_is_due(at - 1, at));
        ck_assert(!drom_is_due(at - DROM_LONGEST_US, at));
        ck_assert_uint_eq(drom_until(at - 20, at), 20);
        ck_assert_uint_eq(drom_until(at + 20, at), 0);
    }
}

TEST(deadline_passes_once)
{
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        drom_deadline deadline = {0};
        ck_assert(!drom_deadline_passed(&deadline, starts[i]));
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i]), DROM_LONG);
        drom_deadline_arm(&deadline, starts[i], 500);
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i]), 500);
        ck_assert(!drom_deadline_passed(&deadline, starts[i] + 499));
        ck_assert(drom_deadline_passed(&deadline, starts[i] + 500));
        ck_assert(!drom_deadline_passed(&deadline, starts[i] + 500));
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i] + 500), DROM_LONG);
    }
}

TEST(sooner_of_two_waits_is_the_shorter)
{
    ck_assert_uint_eq(drom_shorter(5, 7), 5);
    ck_assert_uint_eq(drom_shorter(DROM_LONG, 7), 7);
    ck_assert_uint_eq(drom_shorter(DROM_LONG, DROM_LONG), DROM_LONG);
}

TEST(timed_edges_come_out_in_order_and_a_full_ring_says_so)
{
    drom_timed_edges timed_edges = {0};
    uint32_t next = 0;
    for (uint32_t i = 0; i < 1000; i++) { /* the indices wrap on the way */
        drom_timed_edges_put(&timed_edges, i * 100, i);
        if (drom_timed_edges_are_full(&timed_edges)) {
            while (!drom_timed_edges_are_empty(&timed_edges)) {
                ck_assert_uint_eq(drom_timed_edges_first(&timed_edges)->toggles, next);
                ck_assert_uint_eq(drom_timed_edges_first(&timed_edges)->at, (uint16_t)(next * 100));
                drom_timed_edges_take(&timed_edges);
                next++;
            }
        }
    }
    ck_assert_uint_eq(next, 1000);
}

TEST(timed_edges_are_taken_back_newest_first_until_none_is_left)
{
    drom_timed_edges timed_edges = {.head = 254, .tail = 254}; /* the indices wrap on the way */
    uint32_t toggles = 0;
    for (uint32_t i = 1; i <= 5; i++) {
        drom_timed_edges_put(&timed_edges, i * 100, i);
    }
    drom_timed_edges_take(&timed_edges); /* the alarm has taken the first edge */
    for (uint32_t i = 5; i >= 2; i--) {
        ck_assert(drom_timed_edges_take_back(&timed_edges, &toggles));
        ck_assert_uint_eq(toggles, i);
    }
    ck_assert(!drom_timed_edges_take_back(&timed_edges, &toggles));
    ck_assert(drom_timed_edges_are_empty(&timed_edges));
}

TEST(air_is_free_only_while_no_handset_transmits_or_is_about_to)
{
    const drom_port port = {.pixels = &(drom_port_pixels){.can_slice = true}};
    drom_rhythm rhythm = {.period_us = 108000, .around_us = 18000};
    drom_timing timing = {.port = &port, .now = 1000, .air = {.is_free = true}};
    ck_assert(drom_air_is_free(&timing, 70000));
    drom_deadline_arm(&timing.air.expected.next, 1000, 69999); /* a held key repeats before that */
    timing.air.expected.rhythm = &rhythm;
    ck_assert(!drom_air_is_free(&timing, 70000));
    ck_assert(drom_air_is_free(&timing, 69999));
    timing.now = 1002;
    ck_assert(!drom_air_is_free(&timing, 69999));
    rhythm.period_us = 99998; /* its gaps are never that long: its repeat is covered */
    ck_assert(drom_air_is_free(&timing, 69999));
    timing.air.expected.next.is_armed = false;
    timing.air.is_free = false;
    ck_assert(!drom_air_is_free(&timing, 10));
    timing.air.is_free = true;
    drom_air_begin_transmission(&timing, 2000, true);
    ck_assert(!drom_air_is_free(&timing, 10)); /* not over ourselves, either */
    ck_assert(!timing.air.is_muted);
}

TEST(refresh_waits_for_a_frame_and_for_quiet_air_where_it_must)
{
    drom_port_pixels pixels = {.can_slice = true};
    const drom_port port = {.pixels = &pixels};
    drom_timing timing = {.port = &port, .now = 1000};
    ck_assert(!drom_air_allows_refresh(&timing, 1901, 1900)); /* a frame may be complete before */
    ck_assert(drom_air_allows_refresh(&timing, 1900, 1900));
    timing.air.is_quiet = true;
    ck_assert(drom_air_allows_refresh(&timing, 9000, 1900));
    timing.air.is_quiet = false;
    drom_air_begin_transmission(&timing, 0, false); /* nothing can be received then */
    ck_assert(drom_air_allows_refresh(&timing, 9000, 1900));
    pixels.can_slice = false;
    timing.air = (drom_air){.is_quiet = false};
    ck_assert(!drom_air_allows_refresh(&timing, 1900, 50000)); /* a handset is transmitting */
    timing.air.is_quiet = true;
    ck_assert(drom_air_allows_refresh(&timing, 1900, 50000));
    drom_deadline_arm(&timing.air.expected.next, 1000, 1500);
    ck_assert(!drom_air_allows_refresh(&timing, 1900, 50000)); /* a held key is about to repeat */
    timing.air.expected.next.is_armed = false;
    drom_timed_edges_put(&timing.timed_edges, 100, 1);
    ck_assert(!drom_air_allows_refresh(&timing, 1900, 50000)); /* the alarm would be masked, too */
}

SUITE("timing")
