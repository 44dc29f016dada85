/* The clock wraps every 71 minutes; nothing may notice. */
#include "support.h"

static const drom_us starts[] = {0, 1000, UINT32_C(0x7fffffff), UINT32_C(0xfffffff0), UINT32_C(0xffffffff)};

START_TEST(moment_is_due_from_its_time_on)
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
END_TEST

START_TEST(deadline_passes_once)
{
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        drom_deadline deadline = {0};
        ck_assert(!drom_deadline_passed(&deadline, starts[i]));
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i]), DROM_NEVER);
        drom_deadline_arm(&deadline, starts[i], 500);
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i]), 500);
        ck_assert(!drom_deadline_passed(&deadline, starts[i] + 499));
        ck_assert(drom_deadline_passed(&deadline, starts[i] + 500));
        ck_assert(!drom_deadline_passed(&deadline, starts[i] + 500));
        ck_assert_uint_eq(drom_deadline_wait(&deadline, starts[i] + 500), DROM_NEVER);
    }
}
END_TEST

START_TEST(sooner_of_two_waits_is_the_shorter)
{
    ck_assert_uint_eq(drom_sooner(5, 7), 5);
    ck_assert_uint_eq(drom_sooner(DROM_NEVER, 7), 7);
    ck_assert_uint_eq(drom_sooner(DROM_NEVER, DROM_NEVER), DROM_NEVER);
}
END_TEST

RUN_TESTS("timing", moment_is_due_from_its_time_on, deadline_passes_once, sooner_of_two_waits_is_the_shorter)
