/* The effects of a strip: each the colour of one pixel at one moment. */
#include "dromikos/strip.h"

enum { BAND = 4, BLEND_FRAMES = 64, SPARKS_OF_256 = 40 };

uint32_t drom_strip_chase(const drom_strip_scene *scene, uint8_t pixel)
{
    const uint8_t shift = (uint8_t)(scene->frame / 4 % (BAND * scene->colour_count));
    const uint8_t band = (uint8_t)((pixel + shift) / BAND);
    return scene->colours[band % scene->colour_count];
}

/* `part` of 64 of the way from a colour to another. */
static uint32_t mix(uint32_t from, uint32_t to, uint8_t part)
{
    uint32_t mixed = 0;
    for (uint8_t shift = 0; shift < 24; shift = (uint8_t)(shift + 8)) {
        const uint8_t a = (uint8_t)(from >> shift);
        const uint8_t b = (uint8_t)(to >> shift);
        mixed |= (uint32_t)(uint8_t)((a * (64u - part) + b * (uint16_t)part) / 64) << shift;
    }
    return mixed;
}

uint32_t drom_strip_blend(const drom_strip_scene *scene, uint8_t pixel)
{
    (void)pixel;
    const uint8_t at = (uint8_t)(scene->frame / BLEND_FRAMES % scene->colour_count);
    const uint8_t next = (uint8_t)(at + 1 < scene->colour_count ? at + 1 : 0);
    return mix(scene->colours[at], scene->colours[next], (uint8_t)(scene->frame % BLEND_FRAMES));
}

uint32_t drom_strip_breathe(const drom_strip_scene *scene, uint8_t pixel)
{
    (void)pixel;
    const uint8_t at = (uint8_t)(scene->frame % 128);
    return mix(0, scene->colours[0], at < 64 ? at : (uint8_t)(127 - at));
}

uint32_t drom_strip_sparkle(const drom_strip_scene *scene, uint8_t pixel)
{
    const uint16_t mixed = (uint16_t)((pixel * 0x9e37u) ^ (uint16_t)(scene->frame / 8) * 0x85ebu);
    const uint8_t spark = (uint8_t)(mixed >> 8);
    return spark < SPARKS_OF_256 ? scene->colours[spark % scene->colour_count] : 0;
}
