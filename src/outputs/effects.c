/* The effects of a strip: each computes the colours of some pixels at a time. Common values are computed once
 * per call, as divisions are expensive on small chips. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/strip.h"

enum { BAND = 4, BLEND_FRAMES = 64, SPARKS_OF_256 = 40 };

void drom_strip_chase(const drom_strip_scene *scene, uint16_t from, uint8_t count, uint32_t *colours)
{
    const uint8_t all = (uint8_t)(BAND * scene->colour_count);
    const uint8_t moved = (uint8_t)(scene->frame / 4 % all);
    const uint8_t still = (uint8_t)(from % all);
    uint8_t place = (uint8_t)(moved + still < all ? moved + still : moved + still - all);
    for (uint8_t i = 0; i < count; i++) {
        colours[i] = scene->colours[place / BAND];
        place = (uint8_t)(place + 1 < all ? place + 1 : 0);
    }
}

/* Mixes two colours: `part` of 64 of the second. */
static uint32_t mix(uint32_t from, uint32_t end, uint8_t part)
{
    uint32_t mixed = 0;
    for (uint8_t shift = 0; shift < 24; shift = (uint8_t)(shift + 8)) {
        const uint8_t a = (uint8_t)(from >> shift);
        const uint8_t b = (uint8_t)(end >> shift);
        mixed |= (uint32_t)(uint8_t)((a * (64u - part) + b * (uint16_t)part) / 64) << shift;
    }
    return mixed;
}

static void fill(uint8_t count, uint32_t *colours, uint32_t colour)
{
    for (uint8_t i = 0; i < count; i++) {
        colours[i] = colour;
    }
}

void drom_strip_blend(const drom_strip_scene *scene, uint16_t from, uint8_t count, uint32_t *colours)
{
    (void)from;
    const uint8_t at = (uint8_t)(scene->frame / BLEND_FRAMES % scene->colour_count);
    const uint8_t next = (uint8_t)(at + 1 < scene->colour_count ? at + 1 : 0);
    fill(count, colours,
         mix(scene->colours[at], scene->colours[next], (uint8_t)(scene->frame % BLEND_FRAMES)));
}

void drom_strip_breathe(const drom_strip_scene *scene, uint16_t from, uint8_t count, uint32_t *colours)
{
    (void)from;
    const uint8_t at = (uint8_t)(scene->frame % 128);
    fill(count, colours, mix(0, scene->colours[0], (uint8_t)(at < 64 ? at : 127 - at)));
}

void drom_strip_sparkle(const drom_strip_scene *scene, uint16_t from, uint8_t count, uint32_t *colours)
{
    for (uint8_t i = 0; i < count; i++) {
        const uint16_t pixel = (uint16_t)(from + i);
        const uint16_t mixed = (uint16_t)((pixel * 0x9e37u) ^ (uint16_t)(scene->frame / 8) * 0x85ebu);
        const uint8_t spark = (uint8_t)(mixed >> 8);
        colours[i] = spark < SPARKS_OF_256 ? scene->colours[spark % scene->colour_count] : 0;
    }
}
