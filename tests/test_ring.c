/* The capture ring: one producer, one consumer, and no loss without notice. */
#include "support.h"
#include "dromikos/internal/receive.h"

#include <pthread.h>
#include <sched.h>

TEST(edges_come_out_as_they_went_in)
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

/* The clock is read, then the edge comes, then it is taken: its time is now, and not 32 ms ago. */
TEST(edge_that_came_after_the_clock_was_read_is_not_from_long_before)
{
    static const drom_port port = {.facts = {.stamp = DROM_STAMP_HARDWARE}};
    for (uint32_t i = 0; i < 100000; i += 13) {
        drom_input input = {0};
        const drom_us now = UINT32_C(0xffffc000) + i;
        drom_ring_put(&input.ring, (uint16_t)(now + 40), true);
        ck_assert(drom_input_take(&input, &port, now));
        ck_assert_uint_eq(input.edge.at, now + 40);
        input = (drom_input){0};
        drom_ring_put(&input.ring, (uint16_t)(now - 31000), true); /* main was delayed */
        ck_assert(drom_input_take(&input, &port, now));
        ck_assert_uint_eq(input.edge.at, now - 31000);
    }
}

TEST(full_ring_drops_and_says_so)
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

TEST(ring_can_wait_while_half_of_it_is_free_or_all_is_lost)
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

enum { SENT = 400000 };

typedef struct line {
    drom_ring ring;
    bool waits;       /* waits for room, so that nothing is lost */
    unsigned dropped; /* the producer's */
    bool is_over;
} line;

static bool is_full(const drom_ring *ring)
{
    return (uint8_t)(ring->head - __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE)) >= DROM_EDGES;
}

static bool is_empty(const drom_ring *ring)
{
    return ring->head == __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE);
}

static void *produce(void *context)
{
    line *const wire = context;
    for (uint32_t i = 0; i < SENT; i++) {
        const bool is_slow = i / 64 % 8 == 1; /* the consumer then waits for each edge */
        while (wire->waits && (is_slow ? !is_empty(&wire->ring) : is_full(&wire->ring))) {
        }
        const uint8_t head = wire->ring.head;
        drom_ring_put(&wire->ring, (uint16_t)i, i % 2 == 0);
        wire->dropped += wire->ring.head == head;
    }
    __atomic_store_n(&wire->is_over, true, __ATOMIC_RELEASE);
    return NULL;
}

/* Two threads act as interrupt and main. Returns the number of edges that were lost between those received.
 */
static unsigned consume(line *shared, bool may_lose)
{
    pthread_t producer;
    uint16_t slot;
    bool after_loss;
    uint16_t last = 0x7fff;
    unsigned taken = 0;
    unsigned missing = 0;
    ck_assert_int_eq(pthread_create(&producer, NULL, produce, shared), 0);
    for (bool was_over = false; !was_over;) {
        was_over = __atomic_load_n(&shared->is_over, __ATOMIC_ACQUIRE);
        while (drom_ring_take(&shared->ring, &slot, &after_loss)) {
            const uint16_t at = slot >> 1;
            const uint16_t gap = (uint16_t)(at - last - 1) & 0x7fff;
            if ((slot & 1) != (at % 2 == 0) || (gap != 0 && !after_loss) || (after_loss && !may_lose)) {
                ck_abort_msg("edge %u came after %u, %s", at, last,
                             after_loss ? "after a loss" : "and nothing was lost");
            }
            missing += gap;
            last = at;
            taken++;
        }
        (void)sched_yield();
    }
    (void)pthread_join(producer, NULL);
    ck_assert_uint_ge(taken, DROM_EDGES);
    return missing + (uint16_t)(((SENT - 1) - last) & 0x7fff); /* no edge followed the last ones */
}

TEST(producer_and_consumer_need_no_lock)
{
    static line lossless = {.waits = true};
    ck_assert_uint_eq(consume(&lossless, false), 0);
    ck_assert_uint_eq(lossless.dropped, 0);
}

/* Gaps are counted in 15 bits; longer ones are capped. */
TEST(each_gap_that_a_fast_producer_leaves_is_marked)
{
    static line lossy;
    const unsigned missing = consume(&lossy, true);
    ck_assert_uint_eq(missing % 0x8000, lossy.dropped % 0x8000);
}

SUITE("ring")
