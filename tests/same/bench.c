#include "bench.h"

#include "sim.h"

typedef struct player {
    const same_stimulus *with;
    same_trace trace;
    sim_bench *bench;
    sim_strip *strips[SAME_PINS];
    uint64_t lit_at_us[SAME_PINS];
} player;

static player the_player;

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    player *const in = context;
    if (in->with->kinds[pin] == SAME_LEVEL) {
        same_note(&in->trace, pin, at_us, is_high);
    }
}

static void on_duty(void *context, uint64_t at_us, uint8_t pin, uint16_t duty)
{
    player *const in = context;
    if (in->with->kinds[pin] == SAME_PWM) {
        same_note(&in->trace, pin, at_us, duty >> 8);
    }
}

static void on_refresh(void *context, uint64_t at_us, const sim_strip *strip)
{
    player *const in = context;
    for (unsigned pin = 0; pin < SAME_PINS; pin++) {
        if (in->strips[pin] == strip) {
            same_note(&in->trace, pin, at_us,
                      same_checksum(sim_strip_pixel(strip, 0), 3 * in->with->pixels[pin]));
        }
    }
}

/* The one sender, since one pin has the carrier. */
static void on_light(void *context, uint64_t at_us, bool is_on)
{
    player *const in = context;
    unsigned pin = 0;
    while (in->with->kinds[pin] != SAME_CARRIER) {
        pin++;
    }
    if (is_on && at_us - in->lit_at_us[pin] > SAME_DARK_US) {
        same_note(&in->trace, pin, at_us, in->trace.counts[pin] + 1);
    }
    in->lit_at_us[pin] = at_us;
}

/* Calls, which no pin shows. */
static void on_action(void *context, const drom_action *action)
{
    const player *const in = context;
    (void)printf("%llu action %u %u %u\n", (unsigned long long)sim_bench_now(in->bench), action->row,
                 action->verb, action->value);
}

static void wire(player *in)
{
    for (unsigned pin = 0; pin < SAME_PINS; pin++) {
        if (in->with->kinds[pin] == SAME_STRIP) {
            in->strips[pin] = sim_bench_wire_strip(in->bench, (uint8_t)pin, in->with->pixels[pin], 9);
        } else if (in->with->kinds[pin] == SAME_CARRIER) {
            sim_target_follow(sim_bench_wire_target(in->bench, (uint8_t)pin), on_light, in);
        }
    }
    sim_bench_observe(in->bench,
                      &(sim_observer){.context = in, .pin = on_pin, .duty = on_duty, .refresh = on_refresh});
}

static void print_reports(const sim_bench *bench)
{
    size_t count = 0;
    const sim_report *const reports = sim_bench_reports(bench, &count);
    for (size_t i = 0; i < count; i++) {
        (void)printf("%llu report", (unsigned long long)reports[i].at_us);
        for (unsigned j = 0; j < reports[i].count; j++) {
            (void)printf(" %02x", reports[i].bytes[j]);
        }
        (void)printf("\n");
    }
}

bool same_play(const drom_plan *plan, const same_stimulus *with)
{
    static drom_engine engine;
    player *const in = &the_player;
    in->with = with;
    in->bench = sim_bench_new(1);
    sim_bench_set_processor(in->bench, &(sim_processor){.pwm_bits = 8});
    sim_bench_set_computer(in->bench, true);
    wire(in);
    if (drom_engine_init(&engine, plan, sim_bench_port(in->bench), NULL) != DROM_OK) {
        sim_bench_free(in->bench);
        return false;
    }
    sim_bench_wire_engine(in->bench, &engine);
    const drom_observer observer = {.context = in, .action = on_action};
    drom_engine_observe(&engine, &observer);
    for (unsigned i = 0; i < with->count; i++) {
        if (!with->events[i].is_contact) {
            sim_bench_add_edge(in->bench, with->events[i].at_us, with->events[i].is_on);
        }
    }
    unsigned next = 0;
    while (sim_bench_now(in->bench) < with->end_us) {
        for (; next < with->count && with->events[next].at_us <= sim_bench_now(in->bench); next++) {
            if (with->events[next].is_contact) {
                sim_bench_close(in->bench, with->events[next].pin, with->events[next].is_on);
            }
        }
        const uint64_t until_us = next < with->count ? with->events[next].at_us : with->end_us;
        const uint64_t left_us =
            until_us > sim_bench_now(in->bench) ? until_us - sim_bench_now(in->bench) : 0;
        const drom_us wait = drom_engine_poll(&engine);
        (void)sim_bench_sleep(in->bench, wait < left_us      ? wait
                                         : left_us < 1000000 ? (drom_us)left_us
                                                             : 1000000);
    }
    same_print(&in->trace);
    print_reports(in->bench);
    drom_engine_stop(&engine);
    sim_bench_free(in->bench);
    return true;
}
