/* Parts of a strip, its current limit, and a long strip. */
#include "support.h"
#include "dromikos/outputs/part.h"
#include "dromikos/outputs/strip.h"

#include "random.h"
#include "sim.h"

enum { PIXELS = 24, LONG = DROM_STRIP_PIXELS, PIN = 6 };
enum { ROW, LEFT, MIDDLE, OUTPUTS };

static uint8_t bytes[3 * LONG];
static const uint32_t colours[] = {0xff0000, 0x00ff00, 0x0000ff};
static const drom_strip_palette palettes[] = {{DROM_ROWS(colours)}};
static const drom_strip_effect_ref effects[] = {drom_strip_chase};
static drom_strip_settings row = {.bytes = bytes,
                                  .count = PIXELS,
                                  .pin = PIN,
                                  .order = {0, 1, 2},
                                  .every_ms = 1,
                                  .effects = DROM_ROWS(effects),
                                  .palettes = DROM_ROWS(palettes)};
static drom_strip_state row_state;
static drom_part_settings left = {.strip = &row, .state = &row_state, .first = 0, .count = 7};
static drom_part_state left_state;
static drom_part_settings middle = {.strip = &row, .state = &row_state, .first = 9, .count = 8};
static drom_part_state middle_state;
static const drom_output outputs[] = {DROM_STRIP(row, row_state), DROM_PART(left, left_state),
                                      DROM_PART(middle, middle_state)};
static const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(outputs)}};

typedef struct stage {
    sim_bench *bench;
    sim_strip *strip;
    drom_engine engine;
} stage;

static void open_stage(stage *opened, uint16_t count, uint16_t max_ma)
{
    row.count = count;
    row.max_ma = max_ma;
    *opened = (stage){.bench = sim_bench_new(1)};
    opened->strip = sim_bench_wire_strip(opened->bench, PIN, count, 9);
    ck_assert_ptr_eq(sim_bench_strip_on(opened->bench, PIN), opened->strip);
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void play(stage *in, unsigned ms)
{
    const uint64_t until_us = sim_bench_now(in->bench) + ms * UINT64_C(1000);
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static void order(stage *in, unsigned output, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, (uint8_t)output, verb, value), DROM_OK);
}

static uint32_t pixel(const stage *in, unsigned number)
{
    const uint8_t *const rgb = sim_strip_pixel(in->strip, number);
    return (uint32_t)rgb[0] << 16 | (uint32_t)rgb[1] << 8 | rgb[2];
}

static void shows(const stage *in, unsigned from, unsigned until, uint32_t colour)
{
    for (unsigned i = from; i <= until; i++) {
        ck_assert_msg(pixel(in, i) == colour, "pixel %u shows %06x and not %06x", i, pixel(in, i), colour);
    }
}

TEST(part_has_the_strips_picture_until_its_first_order)
{
    stage in;
    open_stage(&in, PIXELS, 0);
    order(&in, LEFT, DROM_STRIP_FILL, 0x00ff00);
    play(&in, 10);
    shows(&in, 0, 6, 0x00ff00);
    shows(&in, 7, 23, 0);
    order(&in, ROW, DROM_STRIP_FILL, 0xff0000); /* the part lies beyond the strip */
    play(&in, 10);
    shows(&in, 0, 23, 0xff0000);
    order(&in, MIDDLE, DROM_STRIP_SHOW, 2);
    order(&in, LEFT, DROM_STRIP_OFF, 0);
    play(&in, 10);
    shows(&in, 0, 6, 0);
    shows(&in, 7, 10, 0xff0000);
    shows(&in, 11, 16, 0);
    shows(&in, 17, 23, 0xff0000);
    order(&in, ROW, DROM_STRIP_BRIGHTNESS, 100); /* of all */
    play(&in, 10);
    shows(&in, 7, 10, 0x7f0000);
    order(&in, ROW, DROM_STRIP_TOGGLE, 0);
    play(&in, 10);
    shows(&in, 0, 23, 0);
    order(&in, ROW, DROM_STRIP_TOGGLE, 0);
    play(&in, 10);
    shows(&in, 0, 10, 0x7f0000);
    shows(&in, 11, 16, 0);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

TEST(effect_runs_in_a_part_alone_and_counts_pixels_from_the_parts_first)
{
    stage in;
    open_stage(&in, PIXELS, 0);
    order(&in, MIDDLE, DROM_STRIP_EFFECT, 0);
    unsigned changes = 0;
    uint32_t before = 0;
    for (unsigned i = 0; i < 60; i++) {
        play(&in, 16);
        shows(&in, 0, 8, 0);
        shows(&in, 17, 23, 0);
        changes += pixel(&in, 9) != before;
        before = pixel(&in, 9);
        ck_assert(before == colours[0] || before == colours[1] || before == colours[2]);
    }
    ck_assert_uint_ge(changes, 3);
    order(&in, MIDDLE, DROM_STRIP_OFF, 0);
    play(&in, 20);
    const unsigned refreshes = sim_strip_refreshes(in.strip);
    play(&in, 200);
    ck_assert_uint_eq(sim_strip_refreshes(in.strip), refreshes); /* nothing changes any more */
    sim_bench_free(in.bench);
}

/* A picture, computed as docs/plan-language.md has it. */
typedef struct picture {
    uint32_t colour;
    unsigned lit;
    unsigned brightness;
    bool is_on;
    bool is_apart;
} picture;

static void change(picture *shown, unsigned pixels, uint8_t verb, uint32_t value)
{
    const int level = shown->is_on ? (int)shown->brightness : 0;
    const int now = verb == DROM_STRIP_BRIGHTER ? MIN(level + (int)value, DROM_FULL_LEVEL)
                    : verb == DROM_STRIP_DIMMER ? MAX(level - (int)value, 0)
                                                : (int)value;
    if (verb == DROM_STRIP_FILL) {
        shown->colour = value;
        shown->lit = pixels;
    } else if (verb == DROM_STRIP_SHOW) {
        shown->lit = value;
    } else if (verb >= DROM_STRIP_BRIGHTNESS && verb <= DROM_STRIP_DIMMER) {
        shown->brightness = now > 0 ? (unsigned)now : shown->brightness;
        shown->is_on = now > 0 && (shown->is_on || verb == DROM_STRIP_BRIGHTER);
        return;
    }
    shown->is_on = verb == DROM_STRIP_TOGGLE ? !shown->is_on : verb != DROM_STRIP_OFF;
}

static void change_all(picture *all, unsigned output, uint8_t verb, uint32_t value)
{
    static const unsigned pixels[] = {PIXELS, 7, 8};
    if (output > 0 && !all[output].is_apart) {
        all[output] = all[0];
        all[output].lit = pixels[output];
        all[output].is_apart = true;
    }
    const bool is_lit =
        all[0].is_on || (all[1].is_apart && all[1].is_on) || (all[2].is_apart && all[2].is_on);
    const uint8_t meant = verb != DROM_STRIP_TOGGLE || output > 0 ? verb
                          : is_lit                                ? DROM_STRIP_OFF
                                                                  : DROM_STRIP_ON;
    change(&all[output], pixels[output], meant, value);
    for (unsigned i = 1; i < OUTPUTS && output == 0; i++) {
        all[i].is_apart = all[i].is_apart && verb != DROM_STRIP_FILL && verb != DROM_STRIP_SHOW;
        change(&all[i], pixels[i], meant, value);
    }
}

static uint32_t meant_pixel(const picture *all, unsigned number)
{
    const picture *shown = &all[0];
    unsigned within = number;
    if (number < 7 && all[LEFT].is_apart) {
        shown = &all[LEFT];
    } else if (number >= 9 && number < 17 && all[MIDDLE].is_apart) {
        shown = &all[MIDDLE];
        within = number - 9;
    }
    uint32_t colour = 0;
    for (unsigned shift = 0; shift < 24; shift += 8) {
        colour |= ((shown->colour >> shift & 0xff) * (shown->brightness * 41u >> 5) >> 8) << shift;
    }
    return shown->is_on && within < shown->lit ? colour : 0;
}

static uint32_t below(sim_random *random, uint32_t limit)
{
    return (uint32_t)(sim_random_next(random) % limit);
}

TEST(random_orders_to_a_strip_and_its_parts_show_what_the_docs_say)
{
    static const uint8_t verbs[] = {DROM_STRIP_OFF,      DROM_STRIP_ON,    DROM_STRIP_TOGGLE,
                                    DROM_STRIP_FILL,     DROM_STRIP_SHOW,  DROM_STRIP_BRIGHTNESS,
                                    DROM_STRIP_BRIGHTER, DROM_STRIP_DIMMER};
    sim_random random = {7};
    stage in;
    open_stage(&in, PIXELS, 0);
    picture all[OUTPUTS];
    for (unsigned i = 0; i < OUTPUTS; i++) {
        all[i] = (picture){.colour = 0xffffff, .lit = PIXELS, .brightness = DROM_FULL_LEVEL};
    }
    for (unsigned i = 0; i < 3000; i++) {
        const unsigned output = below(&random, OUTPUTS);
        const uint8_t verb = verbs[below(&random, G_N_ELEMENTS(verbs))];
        const uint32_t value = verb == DROM_STRIP_FILL   ? below(&random, 0x1000000)
                               : verb == DROM_STRIP_SHOW ? below(&random, 8)
                               : verb >= DROM_STRIP_BRIGHTNESS && verb <= DROM_STRIP_DIMMER
                                   ? below(&random, DROM_FULL_LEVEL + 1)
                                   : 0;
        order(&in, output, verb, value);
        change_all(all, output, verb, value);
        play(&in, 5);
        for (unsigned j = 0; j < PIXELS; j++) {
            ck_assert_msg(pixel(&in, j) == meant_pixel(all, j), "order %u: pixel %u shows %06x and not %06x",
                          i, j, pixel(&in, j), meant_pixel(all, j));
        }
    }
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

static double taken_ma(const stage *in, unsigned count)
{
    double ma = count;
    for (unsigned i = 0; i < 3 * count; i++) {
        ma += sim_strip_pixel(in->strip, 0)[i] * 20 / 255.0;
    }
    return ma;
}

TEST(picture_never_takes_more_than_the_strip_may)
{
    stage in;
    open_stage(&in, PIXELS, 500);
    order(&in, ROW, DROM_STRIP_FILL, 0xffffff); /* 1440 mA, and the 24 of dark pixels */
    play(&in, 20);
    ck_assert_double_le(taken_ma(&in, PIXELS), 500);
    ck_assert_double_ge(taken_ma(&in, PIXELS), 480);
    ck_assert_uint_eq(pixel(&in, 0), pixel(&in, 23));
    order(&in, ROW, DROM_STRIP_FILL, 0xff8000); /* the hue stays */
    play(&in, 20);
    ck_assert_double_le(taken_ma(&in, PIXELS), 500);
    ck_assert_int_le(abs((int)(pixel(&in, 5) >> 16) - 2 * (int)(pixel(&in, 5) >> 8 & 0xff)), 2);
    order(&in, ROW, DROM_STRIP_SHOW, 3); /* which is within the limit */
    play(&in, 20);
    shows(&in, 0, 2, 0xff8000);
    order(&in, ROW, DROM_STRIP_EFFECT, 0);
    for (unsigned i = 0; i < 100; i++) {
        play(&in, 16);
        ck_assert_double_le(taken_ma(&in, PIXELS), 500);
    }
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

TEST(strip_of_a_thousand_pixels_is_shown_whole)
{
    stage in;
    open_stage(&in, LONG, 2000);
    order(&in, ROW, DROM_STRIP_FILL, 0x0000ff);
    order(&in, LEFT, DROM_STRIP_FILL, 0xff0000);
    play(&in, 200);
    const uint32_t red = pixel(&in, 0);
    const uint32_t blue = pixel(&in, LONG - 1);
    ck_assert_uint_eq(red >> 16, blue);
    shows(&in, 0, 6, red);
    shows(&in, 7, LONG - 1, blue);
    ck_assert_double_le(taken_ma(&in, LONG), 2000);
    order(&in, ROW, DROM_STRIP_SHOW, 999);
    play(&in, 200);
    ck_assert_uint_eq(pixel(&in, LONG - 1), 0);
    ck_assert_uint_gt(pixel(&in, LONG - 2), 0);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

TEST(settings_that_cant_be_are_refused)
{
    const drom_port_facts facts = {.pins = 64};
    uint8_t item = 0;
    row.count = PIXELS;
    row.max_ma = PIXELS;
    ck_assert_int_eq(drom_strip.check_settings(&row, &facts, &item), DROM_REASON_SETTINGS);
    row.max_ma = 0;
    ck_assert_int_eq(drom_strip.check_settings(&row, &facts, &item), DROM_REASON_NONE);
    row.count = DROM_STRIP_PIXELS + 1;
    ck_assert_int_eq(drom_strip.check_settings(&row, &facts, &item), DROM_REASON_SETTINGS);
    row.count = PIXELS;
    const drom_part_settings wrong[] = {{.strip = &row, .count = 1},
                                        {.state = &row_state, .count = 1},
                                        {.strip = &row, .state = &row_state},
                                        {.strip = &row, .state = &row_state, .first = PIXELS, .count = 1},
                                        {.strip = &row, .state = &row_state, .first = 1, .count = PIXELS}};
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        ck_assert_int_eq(drom_part.check_settings(&wrong[i], &facts, &item),
                         i < 2 ? DROM_REASON_NULL : DROM_REASON_SETTINGS);
    }
    ck_assert(!drom_part.accepts_action(&left, DROM_STRIP_SHOW, 8));
    ck_assert(drom_part.accepts_action(&left, DROM_STRIP_SHOW, 7));
}

SUITE("parts")
