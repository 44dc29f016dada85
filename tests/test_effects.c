/* The effects of a strip, pixel by pixel. */
#include "timed.h"
#include "dromikos/outputs/strip.h"

/* Reads the strip's pixels at one moment. */
typedef struct picture {
    uint8_t rgb[PIXELS][3];
} picture;

static picture picture_of(const stage *in)
{
    picture seen;
    for (unsigned i = 0; i < PIXELS; i++) {
        const uint8_t *const grb = sim_strip_pixel(in->strip, i);
        seen.rgb[i][0] = grb[1];
        seen.rgb[i][1] = grb[0];
        seen.rgb[i][2] = grb[2];
    }
    return seen;
}

static bool is_colour(const uint8_t *rgb, uint32_t colour)
{
    return (uint32_t)(rgb[0] << 16 | rgb[1] << 8 | rgb[2]) == colour;
}

/* Starts an effect, and lets it run until it is shown. */
static void open_effect(stage *in, uint32_t effect)
{
    open_stage(in, &ours, 375);
    order(in, LIGHTS, DROM_STRIP_EFFECT, effect);
    play_until(in, 100);
}

static void close_effect(stage *in)
{
    ck_assert_uint_eq(sim_strip_wrong(in->strip), 0);
    ck_assert(sim_strip_longest_gap_us(in->strip) > 0 && sim_strip_longest_gap_us(in->strip) < 9);
    sim_bench_free(in->bench);
}

/* Bands of four pixels in the palette's order move by one pixel each 65 ms, except for a jump when the
 * effect's frame counter wraps, after 18 minutes; here soon. */
TEST(chase_runs_along_in_bands_of_the_palettes_colours)
{
    stage in;
    int place = -1; /* index of the first pixel in the endless band */
    unsigned moves = 0;
    unsigned jumps = 0;
    open_effect(&in, 0);
    for (unsigned ms = 100; ms <= 3100; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        int now = -1;
        for (int shift = 0; shift < 12; shift++) {
            bool fits = true;
            for (unsigned i = 0; i < PIXELS; i++) {
                fits &= is_colour(seen.rgb[i], colours[((int)i + shift) / 4 % 3]);
            }
            now = fits ? shift : now;
        }
        ck_assert_int_ge(now, 0);
        jumps += place >= 0 && now != place && now != (place + 1) % 12;
        moves += place >= 0 && now != place;
        place = now;
    }
    ck_assert_uint_le(jumps, 1);
    ck_assert_uint_ge(moves, 44);
    ck_assert_uint_le(moves, 47);
    close_effect(&in);
}

/* The whole strip has one colour, which blends from one palette colour to the next. */
TEST(blend_goes_from_colour_to_colour_of_the_palette)
{
    stage in;
    unsigned pure = 0; /* a bit for each palette colour that was nearly reached */
    unsigned mixed = 0;
    unsigned pictures = 0;
    open_effect(&in, 1);
    for (unsigned ms = 100; ms <= 3500; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        unsigned darkest = 255;
        for (unsigned part = 0; part < 3; part++) {
            darkest = MIN(darkest, seen.rgb[0][part]);
            pure |= seen.rgb[0][part] >= 240 ? 1u << part : 0;
        }
        pictures++;
        mixed += (seen.rgb[0][0] > 0) + (seen.rgb[0][1] > 0) + (seen.rgb[0][2] > 0) == 2;
        ck_assert_uint_eq(darkest, 0); /* of red, green and blue, two are mixed at a time */
        ck_assert_int_ge(seen.rgb[0][0] + seen.rgb[0][1] + seen.rgb[0][2], 252);
        ck_assert_int_le(seen.rgb[0][0] + seen.rgb[0][1] + seen.rgb[0][2], 255);
        for (unsigned i = 1; i < PIXELS; i++) {
            ck_assert_mem_eq(seen.rgb[i], seen.rgb[0], 3);
        }
    }
    ck_assert_uint_eq(pure, 7);
    ck_assert_uint_ge(mixed, pictures * 9 / 10);
    close_effect(&in);
}

/* The first colour rises from dark to full and falls back, evenly, in 2.1 s. */
TEST(breathe_swells_and_fades_with_the_first_colour)
{
    stage in;
    int darkest = 255;
    int brightest = 0;
    int before = -1;
    unsigned turns = 0;
    bool was_rising = true;
    open_effect(&in, 2);
    for (unsigned ms = 100; ms <= 4300; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        const int now = seen.rgb[0][0];
        for (unsigned i = 0; i < PIXELS; i++) {
            ck_assert(is_colour(seen.rgb[i], (uint32_t)now << 16)); /* red, and all alike */
        }
        if (before >= 0 && now != before) {
            ck_assert_int_le(abs(now - before), 12);
            turns += (now > before) != was_rising;
            was_rising = now > before;
        }
        darkest = MIN(darkest, now);
        brightest = MAX(brightest, now);
        before = now;
    }
    ck_assert_int_le(darkest, 8);
    ck_assert_int_ge(brightest, 247);
    ck_assert_uint_ge(turns, 3);
    ck_assert_uint_le(turns, 5);
    close_effect(&in);
}

/* Some pixels are lit; the choice changes eight times a second. */
TEST(sparkle_lights_pixels_of_the_palettes_colours_here_and_there)
{
    stage in;
    unsigned pictures = 0;
    unsigned lit = 0;
    unsigned changes = 0;
    bool was_ever_lit[PIXELS] = {false};
    unsigned places = 0;
    picture before = {0};
    open_effect(&in, 3);
    for (unsigned ms = 100; ms <= 8100; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        for (unsigned i = 0; i < PIXELS; i++) {
            const bool is_dark = is_colour(seen.rgb[i], 0);
            ck_assert(is_dark || is_colour(seen.rgb[i], colours[0]) || is_colour(seen.rgb[i], colours[1]) ||
                      is_colour(seen.rgb[i], colours[2]));
            lit += !is_dark;
            places += !is_dark && !was_ever_lit[i];
            was_ever_lit[i] |= !is_dark;
        }
        changes += memcmp(&seen, &before, sizeof seen) != 0;
        before = seen;
        pictures++;
    }
    ck_assert_uint_ge(lit, pictures * PIXELS / 20); /* 40 of 256 should be lit */
    ck_assert_uint_le(lit, pictures * PIXELS / 4);
    ck_assert_uint_ge(changes, 55);
    ck_assert_uint_le(changes, 64);
    ck_assert_uint_ge(places, PIXELS * 9 / 10);
    close_effect(&in);
}

SUITE("effects")
