/* The capture ring: one producer, one consumer, nothing lost in silence. */
#include "support.h"

#include <pthread.h>

START_TEST(edges_come_out_as_they_went_in)
{
    drom_ring ring = {0};
    uint16_t slot;
    bool after_loss;
    for (uint32_t i = 0; i < 100000; i++) { /* indices and times wrap on the way */
        drom_ring_put(&ring, (uint16_t)i, i % 3 == 0);
        ck_assert(drom_ring_take(&ring, &slot, &after_loss));
        ck_assert_uint_eq(slot >> 1, i & 0x7fff);
        ck_assert_int_eq(slot & 1, i % 3 == 0);
        ck_assert(!after_loss);
        ck_assert(!drom_ring_take(&ring, &slot, &after_loss));
    }
}
END_TEST

START_TEST(full_ring_drops_and_says_so)
{
    drom_ring ring = {0};
    uint16_t slot;
    bool after_loss;
    for (uint16_t i = 0; i < DROM_EDGES + 3; i++) {
        drom_ring_put(&ring, i, i % 2 == 0);
    }
    for (uint16_t i = 0; i < DROM_EDGES; i++) {
        ck_assert(drom_ring_take(&ring, &slot, &after_loss));
        ck_assert_uint_eq(slot >> 1, i);
    }
    ck_assert(!drom_ring_take(&ring, &slot, &after_loss));
    drom_ring_put(&ring, 90, true);
    drom_ring_put(&ring, 91, false);
    ck_assert(drom_ring_take(&ring, &slot, &after_loss));
    ck_assert(after_loss);
    ck_assert(drom_ring_take(&ring, &slot, &after_loss));
    ck_assert(!after_loss);
}
END_TEST

START_TEST(ring_can_wait_while_half_of_it_is_free_or_all_is_lost)
{
    drom_ring ring = {.head = 250, .tail = 250}; /* the indices wrap on the way */
    for (uint16_t i = 0; i < DROM_EDGES; i++) {
        ck_assert_int_eq(drom_ring_can_wait(&ring), i <= DROM_EDGES / 2);
        drom_ring_put(&ring, i, i % 2 == 0);
    }
    ck_assert(!drom_ring_can_wait(&ring));
    drom_ring_put(&ring, 99, true);
    ck_assert(drom_ring_can_wait(&ring));
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
    for (uint32_t i = 0; i < SENT; i++) {
        drom_ring_put(&to->ring, (uint16_t)i, i % 2 == 0);
    }
    __atomic_store_n(&to->is_over, true, __ATOMIC_RELEASE);
    return NULL;
}

/* Two threads stand for interrupt and main: every edge comes whole and in order, and each gap is marked. */
START_TEST(producer_and_consumer_need_no_lock)
{
    static line shared;
    pthread_t producer;
    uint16_t slot;
    bool after_loss;
    uint16_t last = 0x7fff;
    unsigned taken = 0;
    ck_assert_int_eq(pthread_create(&producer, NULL, produce, &shared), 0);
    for (bool was_over = false; !was_over;) {
        was_over = __atomic_load_n(&shared.is_over, __ATOMIC_ACQUIRE);
        while (drom_ring_take(&shared.ring, &slot, &after_loss)) {
            const uint16_t at = slot >> 1;
            ck_assert_int_eq(slot & 1, at % 2 == 0);
            ck_assert(after_loss || at == ((last + 1) & 0x7fff));
            last = at;
            taken++;
        }
    }
    (void)pthread_join(producer, NULL);
    ck_assert_uint_ge(taken, DROM_EDGES);
}
END_TEST

RUN_TESTS("ring", edges_come_out_as_they_went_in, full_ring_drops_and_says_so,
          ring_can_wait_while_half_of_it_is_free_or_all_is_lost, producer_and_consumer_need_no_lock)
