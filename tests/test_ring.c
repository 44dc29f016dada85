/* The capture ring: one producer, one consumer, nothing lost in silence. */
#include "support.h"

#include <pthread.h>

START_TEST(edges_come_out_as_they_went_in)
{
    drom_edge slots[4];
    drom_ring ring;
    drom_edge edge;
    ck_assert(drom_ring_init(&ring, slots, 4));
    for (drom_us i = 0; i < 1000; i++) { /* the indices wrap on the way */
        drom_ring_put(&ring, i, i % 2 == 0);
        ck_assert(drom_ring_take(&ring, &edge));
        ck_assert_uint_eq(edge.at, i);
        ck_assert_int_eq(edge.is_mark, i % 2 == 0);
        ck_assert(!edge.after_loss);
        ck_assert(!drom_ring_take(&ring, &edge));
    }
}
END_TEST

START_TEST(full_ring_drops_and_says_so)
{
    drom_edge slots[4];
    drom_ring ring;
    drom_edge edge;
    ck_assert(drom_ring_init(&ring, slots, 4));
    for (drom_us i = 0; i < 7; i++) {
        drom_ring_put(&ring, i, i % 2 == 0);
    }
    for (drom_us i = 0; i < 4; i++) {
        ck_assert(drom_ring_take(&ring, &edge));
        ck_assert_uint_eq(edge.at, i);
        ck_assert(!edge.after_loss);
    }
    ck_assert(!drom_ring_take(&ring, &edge));
    drom_ring_put(&ring, 7, true);
    drom_ring_put(&ring, 8, false);
    ck_assert(drom_ring_take(&ring, &edge));
    ck_assert(edge.after_loss);
    ck_assert(drom_ring_take(&ring, &edge));
    ck_assert(!edge.after_loss);
}
END_TEST

START_TEST(sizes_that_are_no_power_of_two_are_refused)
{
    drom_edge slots[128];
    drom_ring ring;
    for (unsigned count = 0; count < 256; count++) {
        const bool is_good = count == 2 || count == 4 || count == 8 || count == 16 || count == 32 ||
                             count == 64 || count == 128;
        ck_assert_int_eq(drom_ring_init(&ring, slots, (uint8_t)count), is_good);
    }
}
END_TEST

enum { SENT = 1000000 };

typedef struct line {
    drom_ring ring;
    bool is_over;
} line;

static void *produce(void *context)
{
    line *const to = context;
    for (drom_us i = 0; i < SENT; i++) {
        drom_ring_put(&to->ring, i, i % 2 == 0);
    }
    __atomic_store_n(&to->is_over, true, __ATOMIC_RELEASE);
    return NULL;
}

/* Two threads stand for interrupt and main: every edge comes whole and in order, and each gap is marked. */
START_TEST(producer_and_consumer_need_no_lock)
{
    static drom_edge slots[128];
    static line shared;
    pthread_t producer;
    drom_edge edge;
    drom_us last = 0;
    unsigned taken = 0;
    ck_assert(drom_ring_init(&shared.ring, slots, 128));
    ck_assert_int_eq(pthread_create(&producer, NULL, produce, &shared), 0);
    for (bool was_over = false; !was_over;) {
        was_over = __atomic_load_n(&shared.is_over, __ATOMIC_ACQUIRE);
        while (drom_ring_take(&shared.ring, &edge)) {
            ck_assert_int_eq(edge.is_mark, edge.at % 2 == 0);
            ck_assert(taken == 0 || edge.at > last);
            ck_assert_int_eq(edge.after_loss, edge.at != (taken == 0 ? 0 : last + 1));
            last = edge.at;
            taken++;
        }
    }
    (void)pthread_join(producer, NULL);
    ck_assert_uint_ge(taken, 128);
}
END_TEST

RUN_TESTS("ring", edges_come_out_as_they_went_in, full_ring_drops_and_says_so,
          sizes_that_are_no_power_of_two_are_refused, producer_and_consumer_need_no_lock)
