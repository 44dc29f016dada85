/* Kept values survive a power cut at any time. */
#include "support.h"
#include "dromikos/internal/kept.h"

#include "random.h"
#include "sim.h"

#include <string.h>

enum { CUE, SHADE, VALUES };

static const drom_value values[VALUES] = {{.min = 0, .max = 200, .start = 3}, {.min = -5, .max = 5}};
static const uint8_t both[] = {CUE, SHADE};

typedef struct store_fixture {
    sim_bench *bench;
    drom_port port;
    drom_plan plan;
    drom_engine engine;
    int16_t numbers[VALUES];
    int16_t seen[VALUES];
    uint8_t record[DROM_KEPT_BYTES + 2 * VALUES];
    drom_kept_state state;
} store_fixture;

static void open_store(store_fixture *opened)
{
    *opened = (store_fixture){.bench = sim_bench_new(1)};
    opened->port = *sim_bench_port(opened->bench);
    opened->plan.rules = (drom_rules_plan){.values = DROM_ROWS(values), .numbers = opened->numbers};
    opened->plan.kept = (drom_kept_plan){.values = DROM_ROWS(both),
                                         .record = opened->record,
                                         .seen = opened->seen,
                                         .state = &opened->state,
                                         .mark = 0x1234};
}

static drom_status start(store_fixture *in)
{
    return drom_engine_init(&in->engine, &in->plan, &in->port, NULL);
}

static void play_for(store_fixture *in, double ms)
{
    const uint64_t until_us = sim_bench_now(in->bench) + (uint64_t)(ms * 1000);
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        const uint64_t left_us = until_us - sim_bench_now(in->bench);
        (void)sim_bench_sleep(in->bench, (drom_us)(wait < left_us ? wait : left_us));
    }
}

/* Cuts the power, and restores it. */
static void cut(store_fixture *in)
{
    sim_bench_cut_power(in->bench);
    memset(in->numbers, 0x55, sizeof in->numbers);
    memset(in->record, 0x55, sizeof in->record);
    ck_assert_int_eq(start(in), DROM_OK);
}

#define ASSERT_NUMBERS(in, cue, shade)                                                                       \
    do {                                                                                                     \
        ck_assert_int_eq((in).numbers[CUE], cue);                                                            \
        ck_assert_int_eq((in).numbers[SHADE], shade);                                                        \
    } while (0)

/* Returns the number of bytes of the store that aren't erased. */
static unsigned written_bytes(const store_fixture *in)
{
    unsigned count = 0;
    for (uint16_t at = 0; at < in->port.store->bytes; at++) {
        uint8_t byte;
        in->port.store->read(in->port.context, at, &byte, 1);
        count += byte != 0xff;
    }
    return count;
}

TEST(value_is_written_5_s_after_it_changed_and_is_there_again)
{
    store_fixture in;
    open_store(&in);
    ck_assert_int_eq(start(&in), DROM_OK);
    ASSERT_NUMBERS(in, 3, 0);
    play_for(&in, 100);
    in.numbers[CUE] = 150;
    play_for(&in, 3000);
    in.numbers[SHADE] = -5;
    play_for(&in, 1900);
    ck_assert_uint_eq(written_bytes(&in), 0);
    play_for(&in, 200);
    ck_assert_uint_gt(written_bytes(&in), 0);
    cut(&in);
    ASSERT_NUMBERS(in, 150, -5);
    in.numbers[CUE] = 151;
    play_for(&in, 4900);
    cut(&in); /* too soon */
    ASSERT_NUMBERS(in, 150, -5);
    sim_bench_free(in.bench);
}

TEST(nothing_is_written_where_a_value_is_as_it_was)
{
    store_fixture in;
    open_store(&in);
    ck_assert_int_eq(start(&in), DROM_OK);
    in.numbers[CUE] = 9;
    play_for(&in, 1000);
    in.numbers[CUE] = 3; /* where it began */
    play_for(&in, 20000);
    drom_engine_stop(&in.engine);
    ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
    ck_assert_uint_eq(written_bytes(&in), 0);
    sim_bench_free(in.bench);
}

TEST(stop_writes_at_once_and_ends_when_that_is_done)
{
    store_fixture in;
    open_store(&in);
    for (int16_t i = 0; i < 40; i++) {
        ck_assert_int_eq(start(&in), DROM_OK);
        ck_assert_int_eq(in.numbers[CUE], i == 0 ? 3 : 99 + i);
        play_for(&in, 10);
        in.numbers[CUE] = (int16_t)(100 + i);
        drom_engine_stop(&in.engine); /* before a poll has seen it */
        ck_assert_uint_eq(in.engine.state, DROM_STOPPING);
        play_for(&in, 10);
        ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
        memset(in.numbers, 0, sizeof in.numbers);
    }
    sim_bench_free(in.bench);
}

/* Random changes and random power cuts, also while a record is written. The restored values are those of some
 * time in the last five seconds. */
TEST(power_cut_at_any_time_loses_5_s_at_most)
{
    enum { CUTS = 6000, CHANGES = 40 };
    const uint64_t lost_us = DROM_KEPT_AFTER_US + 50000;
    store_fixture in;
    sim_random random = {5};
    unsigned lost = 0;
    open_store(&in);
    ck_assert_int_eq(start(&in), DROM_OK);
    for (unsigned life = 0; life < CUTS; life++) {
        int16_t history[CHANGES + 1][VALUES];
        uint64_t from_us[CHANGES + 2] = {sim_bench_now(in.bench)};
        unsigned count = 0;
        memcpy(history[0], in.numbers, sizeof in.numbers);
        const bool is_amid = life % 3 != 0; /* the cut comes while the only change is written */
        const unsigned changes = is_amid ? 1 : (unsigned)sim_random_between(&random, 1, CHANGES);
        while (count < changes) {
            play_for(&in, sim_random_between(&random, 1, 900));
            in.numbers[count % VALUES] = (int16_t)sim_random_between(&random, -5, 5.99);
            in.numbers[CUE] = (int16_t)abs(in.numbers[CUE]);
            count++;
            from_us[count] = sim_bench_now(in.bench);
            memcpy(history[count], in.numbers, sizeof in.numbers);
        }
        play_for(&in,
                 is_amid ? sim_random_between(&random, 5000, 5001) : sim_random_between(&random, 0, 6000));
        const uint64_t cut_us = sim_bench_now(in.bench);
        from_us[count + 1] = UINT64_MAX / 2;
        cut(&in);
        bool is_known = false;
        for (unsigned i = 0; i <= count; i++) {
            is_known |= from_us[i + 1] + lost_us >= cut_us && in.numbers[CUE] == history[i][CUE] &&
                        in.numbers[SHADE] == history[i][SHADE];
        }
        ck_assert_msg(is_known, "life %u: %d and %d haven't been there for 5 s", life, in.numbers[CUE],
                      in.numbers[SHADE]);
        lost += memcmp(in.numbers, history[count], sizeof in.numbers) != 0;
    }
    ck_assert_uint_gt(lost, 0); /* else each cut came too late */
    sim_bench_free(in.bench);
}

/* As after 65,530 records. */
TEST(newest_record_is_found_where_their_numbers_begin_anew)
{
    store_fixture in;
    open_store(&in);
    ck_assert_int_eq(start(&in), DROM_OK);
    in.state.number = UINT16_MAX - 5;
    for (int16_t i = 0; i < 10; i++) {
        in.numbers[CUE] = (int16_t)(100 + i);
        drom_engine_stop(&in.engine);
        play_for(&in, 10);
        cut(&in);
        ASSERT_NUMBERS(in, 100 + i, 0);
    }
    ck_assert_uint_lt(in.state.number, 10);
    sim_bench_free(in.bench);
}

TEST(what_another_plan_kept_or_what_is_out_of_limits_is_not_taken)
{
    static const drom_value narrower[VALUES] = {{.min = 0, .max = 9, .start = 4}, {.min = -5, .max = 5}};
    store_fixture in;
    open_store(&in);
    ck_assert_int_eq(start(&in), DROM_OK);
    in.numbers[CUE] = 120;
    in.numbers[SHADE] = 2;
    drom_engine_stop(&in.engine);
    play_for(&in, 10);
    in.plan.kept.mark++;
    ck_assert_int_eq(start(&in), DROM_OK);
    ASSERT_NUMBERS(in, 3, 0);
    in.plan.kept.mark--;
    in.plan.rules.values.rows = narrower;
    ck_assert_int_eq(start(&in), DROM_OK);
    ASSERT_NUMBERS(in, 4, 2);
    sim_bench_free(in.bench);
}

static void program_nothing(void *context, uint16_t at, const uint8_t *bytes, uint8_t count)
{
    (void)context;
    (void)at;
    (void)bytes;
    (void)count;
}

TEST(store_that_takes_nothing_any_more_is_given_up)
{
    store_fixture in;
    open_store(&in);
    drom_port_store worn = *in.port.store;
    worn.program = program_nothing;
    in.port.store = &worn;
    ck_assert_int_eq(start(&in), DROM_OK);
    in.numbers[CUE] = 7;
    play_for(&in, 8000);
    in.numbers[CUE] = 8;
    drom_engine_stop(&in.engine);
    play_for(&in, 2000);
    ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
    sim_bench_free(in.bench);
}

TEST(tables_and_stores_that_do_not_fit_are_refused)
{
    static const uint8_t too_far[] = {CUE, VALUES};
    store_fixture in;
    drom_fault fault;
    open_store(&in);
    in.plan.kept.values.rows = too_far;
    ck_assert_int_eq(drom_engine_init(&in.engine, &in.plan, &in.port, &fault), DROM_BAD_PLAN);
    ck_assert(fault.part == DROM_PART_KEPT && fault.row == 1 && fault.reason == DROM_REASON_NO_VALUE);
    in.plan.kept.values.rows = both;
    in.plan.kept.values.count = DROM_KEPT_VALUES + 1;
    ck_assert_int_eq(drom_engine_init(&in.engine, &in.plan, &in.port, &fault), DROM_BAD_PLAN);
    ck_assert(fault.part == DROM_PART_KEPT && fault.reason == DROM_REASON_LIMITS);
    in.plan.kept.values.count = VALUES;
    in.plan.kept.state = NULL;
    ck_assert_int_eq(drom_engine_init(&in.engine, &in.plan, &in.port, &fault), DROM_BAD_PLAN);
    ck_assert(fault.part == DROM_PART_KEPT && fault.reason == DROM_REASON_NULL);
    in.plan.kept.state = &in.state;
    drom_port_store small = *in.port.store;
    in.port.store = &small;
    small.page_bytes = 7; /* a record has 8 */
    ck_assert_int_eq(start(&in), DROM_BAD_PORT);
    small = (drom_port_store){.bytes = 128, .page_bytes = 128}; /* the slot of the newest record is erased */
    ck_assert_int_eq(start(&in), DROM_BAD_PORT);
    in.port.store = NULL;
    ck_assert_int_eq(start(&in), DROM_BAD_PORT);
    sim_bench_free(in.bench);
}

SUITE("kept")
