/* Lamps, by the duty of their pins. */
#include "support.h"
#include "dromikos/outputs/lamp.h"

#include "sim.h"

enum { RED = 5, GREEN = 6, BLUE = 11, WARM = 3 };

static const drom_lamp_settings moon = {.pin = RED, .has_colour = true, .green_pin = GREEN, .blue_pin = BLUE};
static const drom_lamp_settings sun = {.pin = WARM, .is_active_low = true};
static drom_lamp_state moon_state;
static drom_lamp_state sun_state;
static const drom_output outputs[] = {DROM_LAMP(moon, moon_state), DROM_LAMP(sun, sun_state)};
static const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(outputs)}};

typedef struct stage {
    sim_bench *bench;
    drom_engine engine;
} stage;

/* Half of a colour's level, squared: 16384 less a bit. */
enum { HALF = 16328 };

static void open_stage(stage *opened)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void order(stage *in, unsigned output, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, (uint8_t)output, verb, value), DROM_OK);
}

static void play(stage *in, unsigned ms)
{
    const uint64_t until_us = sim_bench_now(in->bench) + ms * UINT64_C(1000);
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static void shows(const stage *in, unsigned red, unsigned green, unsigned blue)
{
    ck_assert_uint_eq(sim_bench_duty(in->bench, RED), red);
    ck_assert_uint_eq(sim_bench_duty(in->bench, GREEN), green);
    ck_assert_uint_eq(sim_bench_duty(in->bench, BLUE), blue);
}

TEST(colour_is_mixed_from_three_pins_and_keeps_while_the_lamp_goes_off_and_on)
{
    stage in;
    open_stage(&in);
    shows(&in, 0, 0, 0);
    order(&in, 0, DROM_LAMP_ON, 0);
    shows(&in, UINT16_MAX, UINT16_MAX, UINT16_MAX);
    order(&in, 0, DROM_LAMP_COLOUR, 0xff8000);
    shows(&in, UINT16_MAX, HALF, 0);
    order(&in, 0, DROM_LAMP_TOGGLE, 0);
    shows(&in, 0, 0, 0);
    order(&in, 0, DROM_LAMP_TOGGLE, 0);
    shows(&in, UINT16_MAX, HALF, 0);
    order(&in, 0, DROM_LAMP_OFF, 0);
    order(&in, 0, DROM_LAMP_COLOUR, 0x0000ff); /* switches it on */
    shows(&in, 0, 0, UINT16_MAX);
    sim_bench_free(in.bench);
}

/* A colour's components stay above 0 down to the darkest level. */
TEST(colour_fades_without_losing_a_part)
{
    stage in;
    open_stage(&in);
    order(&in, 0, DROM_LAMP_COLOUR, 0xff0400);
    unsigned red = UINT16_MAX;
    order(&in, 0, DROM_LAMP_FADE, DROM_FADE(1, 1000));
    for (unsigned i = 0; i < 100; i++) {
        play(&in, 10);
        ck_assert_uint_le(sim_bench_duty(in.bench, RED), red);
        ck_assert_uint_gt(sim_bench_duty(in.bench, GREEN), 0);
        ck_assert_uint_eq(sim_bench_duty(in.bench, BLUE), 0);
        red = sim_bench_duty(in.bench, RED);
    }
    play(&in, 20);
    shows(&in, 1, 1, 0);
    order(&in, 0, DROM_LAMP_FADE, DROM_FADE(0, 0));
    shows(&in, 0, 0, 0);
    sim_bench_free(in.bench);
}

TEST(lamp_on_one_pin_has_no_colour_and_none_is_black)
{
    ck_assert(!drom_lamp.accepts_action(&sun, DROM_LAMP_COLOUR, 0xff0000));
    ck_assert(!drom_lamp.accepts_action(&moon, DROM_LAMP_COLOUR, 0));
    ck_assert(!drom_lamp.accepts_action(&moon, DROM_LAMP_COLOUR, 0x1000000));
    ck_assert(!drom_lamp.accepts_action(&moon, DROM_LAMP_COLOUR + 1, 0));
    stage in;
    open_stage(&in);
    ck_assert_uint_eq(sim_bench_duty(in.bench, WARM), UINT16_MAX); /* active low */
    order(&in, 1, DROM_LAMP_ON, 0);
    ck_assert_uint_eq(sim_bench_duty(in.bench, WARM), 0);
    sim_bench_free(in.bench);
}

TEST(lamps_pins_must_be_there)
{
    static const drom_lamp_settings wrong[] = {{.pin = 200},
                                               {.pin = 5, .has_colour = true, .green_pin = 200},
                                               {.pin = 5, .has_colour = true, .blue_pin = 200}};
    const drom_port_facts facts = {.pins = 64};
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        uint8_t item = 0;
        ck_assert_int_eq(drom_lamp.check_settings(&wrong[i], &facts, &item), DROM_REASON_PIN);
    }
    uint8_t item = 0;
    ck_assert_int_eq(drom_lamp.check_settings(&moon, &facts, &item), DROM_REASON_NONE);
}

SUITE("lamp")
